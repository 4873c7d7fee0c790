-- Locks, routes, templates, names of colours, and choices that go for the whole library. All tracks are analysed anew for their attacks.
DROP VIEW shelf;

CREATE TABLE track_lock (
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  part TEXT NOT NULL CHECK (part IN ('grid', 'cues', 'key', 'tags')),
  PRIMARY KEY (track_id, part)
) STRICT, WITHOUT ROWID;

CREATE TABLE route (
  id INTEGER PRIMARY KEY,
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  name TEXT NOT NULL CHECK (length(name) > 0),
  jumps TEXT NOT NULL
) STRICT;
CREATE INDEX route_track ON route (track_id);

CREATE TABLE cue_template (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL CHECK (length(name) > 0),
  cues TEXT NOT NULL
) STRICT;
INSERT INTO cue_template (name, cues) VALUES
  ('Before each drop', '[{"place": "drop", "offset_beats": -32, "label": "before the drop", "colour": "blue"}]'),
  ('Way out', '[{"place": "out", "offset_beats": 0, "length_beats": 16, "label": "hold", "colour": "ochre", "engages": true}]');

CREATE TABLE cue_colour (
  colour TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  sign TEXT NOT NULL,
  -- As #rrggbb, where the user has chosen one; else it follows the look.
  hex TEXT,
  place INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
INSERT INTO cue_colour (colour, name, sign, place) VALUES
  ('vermilion', 'vermilion', '■', 0), ('violet', 'violet', '▲', 1), ('blue', 'blue', '●', 2),
  ('ochre', 'ochre', '◆', 3), ('green', 'green', '✚', 4), ('ink', 'ink', '★', 5);

CREATE TABLE choice (name TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT, WITHOUT ROWID;

INSERT OR IGNORE INTO analysis_queue (track_id, state) SELECT track_id, 'waiting' FROM track_analysis WHERE version < 3;

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
  a.lufs, a.range_lu, a.true_peak_db, a.energy, a.energy_reason, a.phrase_s, a.sections, a.cue_proposals,
  COALESCE(r.stars, t.file_rating) AS rating,
  CASE WHEN h.bpm IS NOT NULL THEN 0.0 ELSE a.grid_doubt END AS doubt,
  CASE WHEN h.bpm IS NOT NULL THEN '[]' ELSE a.grid_reasons END AS doubt_reasons,
  (SELECT group_concat(part) FROM track_lock WHERE track_lock.track_id = t.id) AS locks,
  (SELECT count(*) FROM route WHERE route.track_id = t.id) AS routes,
  (SELECT count(*) FROM cue WHERE cue.track_id = t.id) AS cue_count,
  (SELECT group_concat(role) FROM cue WHERE cue.track_id = t.id) AS cue_roles,
  CASE WHEN q.state IS NOT NULL THEN q.state WHEN a.track_id IS NOT NULL THEN 'done' ELSE 'none' END AS analysis_state,
  q.error AS analysis_error
FROM track t
LEFT JOIN track_analysis a ON a.track_id = t.id
LEFT JOIN hand_grid h ON h.track_id = t.id
LEFT JOIN hand_rating r ON r.track_id = t.id
LEFT JOIN analysis_queue q ON q.track_id = t.id;
