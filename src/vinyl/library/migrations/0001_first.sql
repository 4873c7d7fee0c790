-- Tracks as found in files. Values computed or set by hand stand in tables of their own, so that each keeps its source.
CREATE TABLE track (
  id INTEGER PRIMARY KEY,
  path TEXT NOT NULL UNIQUE,
  size_bytes INTEGER NOT NULL,
  modified_ns INTEGER NOT NULL,
  audio_hash TEXT NOT NULL,
  codec TEXT NOT NULL,
  rate_hz INTEGER NOT NULL,
  channels INTEGER NOT NULL,
  bit_rate INTEGER,
  trimmed_samples INTEGER NOT NULL DEFAULT 0,
  duration_s REAL NOT NULL,
  title TEXT NOT NULL,
  artist TEXT NOT NULL,
  album TEXT NOT NULL,
  genre TEXT NOT NULL,
  label TEXT NOT NULL,
  comment TEXT NOT NULL,
  year INTEGER,
  file_key TEXT NOT NULL,
  file_bpm REAL,
  file_rating INTEGER NOT NULL DEFAULT 0,
  has_picture INTEGER NOT NULL DEFAULT 0,
  search_text TEXT NOT NULL,
  away INTEGER NOT NULL DEFAULT 0,
  added_at TEXT NOT NULL
) STRICT;
CREATE INDEX track_audio_hash ON track (audio_hash);

-- Other places where the very same audio lies.
CREATE TABLE track_copy (
  path TEXT PRIMARY KEY,
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  size_bytes INTEGER NOT NULL,
  modified_ns INTEGER NOT NULL,
  found_at TEXT NOT NULL
) STRICT, WITHOUT ROWID;
CREATE INDEX track_copy_track ON track_copy (track_id);

CREATE TABLE track_analysis (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  version INTEGER NOT NULL,
  bpm REAL,
  anchors TEXT,
  beats_per_bar INTEGER,
  key TEXT,
  key_confidence REAL NOT NULL,
  second_key TEXT,
  tuning_cents REAL NOT NULL,
  lufs REAL,
  peak_db REAL,
  grid_doubt REAL NOT NULL,
  grid_reasons TEXT NOT NULL,
  analysed_at TEXT NOT NULL
) STRICT;

-- By hand: a grid and a rating win over every other source.
CREATE TABLE hand_grid (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  bpm REAL NOT NULL,
  anchors TEXT NOT NULL,
  beats_per_bar INTEGER NOT NULL
) STRICT;

CREATE TABLE hand_rating (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  stars INTEGER NOT NULL CHECK (stars BETWEEN 0 AND 5)
) STRICT;

CREATE TABLE cue (
  id INTEGER PRIMARY KEY,
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  position_s REAL NOT NULL CHECK (position_s >= 0),
  length_s REAL CHECK (length_s > 0),
  label TEXT NOT NULL DEFAULT '',
  role TEXT CHECK (role IN ('in', 'main', 'out')),
  colour TEXT NOT NULL,
  pad INTEGER CHECK (pad BETWEEN 1 AND 8),
  engages INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX cue_track ON cue (track_id);

CREATE TABLE crate (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL CHECK (length(name) > 0),
  position REAL NOT NULL,
  created_at TEXT NOT NULL
) STRICT;

CREATE TABLE crate_track (
  crate_id INTEGER NOT NULL REFERENCES crate (id) ON DELETE CASCADE,
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  position REAL NOT NULL,
  PRIMARY KEY (crate_id, track_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX crate_track_track ON crate_track (track_id);

-- Background work. All of it can be taken up again after the server was killed.
CREATE TABLE import_run (
  id INTEGER PRIMARY KEY,
  folder TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('running', 'done', 'cancelled', 'failed')),
  total INTEGER,
  error TEXT,
  started_at TEXT NOT NULL,
  finished_at TEXT
) STRICT;

CREATE TABLE import_file (
  run_id INTEGER NOT NULL REFERENCES import_run (id) ON DELETE CASCADE,
  path TEXT NOT NULL,
  outcome TEXT NOT NULL CHECK (outcome IN ('added', 'already here', 'not audio', 'broken')),
  reason TEXT NOT NULL,
  track_id INTEGER REFERENCES track (id) ON DELETE SET NULL,
  PRIMARY KEY (run_id, path)
) STRICT, WITHOUT ROWID;

CREATE TABLE analysis_queue (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  state TEXT NOT NULL CHECK (state IN ('waiting', 'paused', 'failed')),
  attempts INTEGER NOT NULL DEFAULT 0,
  error TEXT
) STRICT;

CREATE TABLE stick (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL UNIQUE,
  folder TEXT NOT NULL UNIQUE,
  profile TEXT NOT NULL
) STRICT;

CREATE TABLE stick_crate (
  stick_id INTEGER NOT NULL REFERENCES stick (id) ON DELETE CASCADE,
  crate_id INTEGER NOT NULL REFERENCES crate (id) ON DELETE CASCADE,
  PRIMARY KEY (stick_id, crate_id)
) STRICT, WITHOUT ROWID;

CREATE TABLE pack_run (
  id INTEGER PRIMARY KEY,
  stick_id INTEGER NOT NULL REFERENCES stick (id) ON DELETE CASCADE,
  state TEXT NOT NULL CHECK (state IN ('running', 'done', 'cancelled', 'failed')),
  error TEXT,
  summary TEXT,
  started_at TEXT NOT NULL,
  finished_at TEXT
) STRICT;

-- What stands where, as the screens need it: the hand wins, then analysis, then the file's own tag.
CREATE VIEW shelf AS
SELECT
  t.id, t.path, t.title, t.artist, t.album, t.genre, t.label, t.comment, t.year, t.duration_s, t.codec, t.rate_hz,
  t.bit_rate, t.has_picture, t.away, t.added_at, t.search_text,
  COALESCE(h.bpm, a.bpm, t.file_bpm) AS bpm,
  CASE WHEN h.bpm IS NOT NULL THEN 'by hand' WHEN a.bpm IS NOT NULL THEN 'analysis'
       WHEN t.file_bpm IS NOT NULL THEN 'file tag' END AS bpm_source,
  COALESCE(a.key, NULLIF(t.file_key, '')) AS key,
  CASE WHEN a.key IS NOT NULL THEN 'analysis' WHEN t.file_key <> '' THEN 'file tag' END AS key_source,
  a.key_confidence, a.second_key, a.tuning_cents, a.lufs, a.peak_db,
  COALESCE(r.stars, t.file_rating) AS rating,
  CASE WHEN h.bpm IS NOT NULL THEN 0.0 ELSE a.grid_doubt END AS doubt,
  CASE WHEN h.bpm IS NOT NULL THEN '[]' ELSE a.grid_reasons END AS doubt_reasons,
  CASE WHEN a.track_id IS NOT NULL THEN 'done' WHEN q.state IS NOT NULL THEN q.state ELSE 'none' END AS analysis_state,
  q.error AS analysis_error
FROM track t
LEFT JOIN track_analysis a ON a.track_id = t.id
LEFT JOIN hand_grid h ON h.track_id = t.id
LEFT JOIN hand_rating r ON r.track_id = t.id
LEFT JOIN analysis_queue q ON q.track_id = t.id;

-- Keys in the order of the circle of fifths, each minor after its relative major.
CREATE TABLE key_place (key TEXT PRIMARY KEY, place INTEGER NOT NULL) STRICT, WITHOUT ROWID;
INSERT INTO key_place (key, place) VALUES
  ('C major', 0), ('A minor', 1), ('G major', 2), ('E minor', 3), ('D major', 4), ('B minor', 5),
  ('A major', 6), ('F# minor', 7), ('E major', 8), ('Db minor', 9), ('B major', 10), ('Ab minor', 11),
  ('F# major', 12), ('Eb minor', 13), ('Db major', 14), ('Bb minor', 15), ('Ab major', 16), ('F minor', 17),
  ('Eb major', 18), ('C minor', 19), ('Bb major', 20), ('G minor', 21), ('F major', 22), ('D minor', 23);
