-- Energy, structure, proposals for cues, and what likeness is found by. All tracks are analysed anew for these.
DROP VIEW shelf;

ALTER TABLE track_analysis DROP COLUMN peak_db;
ALTER TABLE track_analysis ADD COLUMN range_lu REAL;
ALTER TABLE track_analysis ADD COLUMN true_peak_db REAL;
ALTER TABLE track_analysis ADD COLUMN second_from_s REAL;
ALTER TABLE track_analysis ADD COLUMN runner_up_key TEXT;
ALTER TABLE track_analysis ADD COLUMN energy INTEGER;
ALTER TABLE track_analysis ADD COLUMN energy_reason TEXT NOT NULL DEFAULT '';
ALTER TABLE track_analysis ADD COLUMN phrase_s REAL;
ALTER TABLE track_analysis ADD COLUMN sections TEXT NOT NULL DEFAULT '[]';
ALTER TABLE track_analysis ADD COLUMN cue_proposals TEXT NOT NULL DEFAULT '[]';
UPDATE track_analysis SET runner_up_key = second_key, second_key = NULL;

CREATE TABLE track_likeness (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  descriptor BLOB NOT NULL,
  fingerprint BLOB NOT NULL
) STRICT;

INSERT OR IGNORE INTO analysis_queue (track_id, state) SELECT track_id, 'waiting' FROM track_analysis WHERE version < 2;

CREATE VIEW shelf AS
SELECT
  t.id, t.path, t.title, t.artist, t.album, t.genre, t.label, t.comment, t.year, t.duration_s, t.codec, t.rate_hz,
  t.bit_rate, t.has_picture, t.away, t.added_at, t.search_text,
  COALESCE(h.bpm, a.bpm, t.file_bpm) AS bpm,
  CASE WHEN h.bpm IS NOT NULL THEN 'by hand' WHEN a.bpm IS NOT NULL THEN 'analysis'
       WHEN t.file_bpm IS NOT NULL THEN 'file tag' END AS bpm_source,
  COALESCE(a.key, NULLIF(t.file_key, '')) AS key,
  CASE WHEN a.key IS NOT NULL THEN 'analysis' WHEN t.file_key <> '' THEN 'file tag' END AS key_source,
  a.key_confidence, a.second_key, a.second_from_s, a.runner_up_key, a.tuning_cents,
  a.lufs, a.range_lu, a.true_peak_db, a.energy, a.energy_reason, a.phrase_s, a.sections,
  COALESCE(r.stars, t.file_rating) AS rating,
  CASE WHEN h.bpm IS NOT NULL THEN 0.0 ELSE a.grid_doubt END AS doubt,
  CASE WHEN h.bpm IS NOT NULL THEN '[]' ELSE a.grid_reasons END AS doubt_reasons,
  CASE WHEN q.state IS NOT NULL THEN q.state WHEN a.track_id IS NOT NULL THEN 'done' ELSE 'none' END AS analysis_state,
  q.error AS analysis_error
FROM track t
LEFT JOIN track_analysis a ON a.track_id = t.id
LEFT JOIN hand_grid h ON h.track_id = t.id
LEFT JOIN hand_rating r ON r.track_id = t.id
LEFT JOIN analysis_queue q ON q.track_id = t.id;
