-- A sound has two names now: of a few pieces of it, and of all its packets. What is kept under ``audio_hash`` stays.
ALTER TABLE track ADD COLUMN sampled_hash TEXT;
ALTER TABLE track ADD COLUMN packet_hash TEXT;
UPDATE track SET packet_hash = audio_hash;
DROP INDEX IF EXISTS track_audio_hash;
CREATE INDEX track_sampled_hash ON track (sampled_hash) WHERE sampled_hash IS NOT NULL;
CREATE INDEX track_packet_hash ON track (packet_hash) WHERE packet_hash IS NOT NULL;
CREATE INDEX track_size ON track (size_bytes) WHERE sampled_hash IS NULL;

-- Entries of lists that are not owned yet.
CREATE TABLE wanted (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  artist TEXT NOT NULL,
  title TEXT NOT NULL,
  -- The file that it is to be, or its name in another place; empty where nothing is known of it.
  path TEXT NOT NULL,
  -- The list that asked for it.
  came_from TEXT NOT NULL,
  -- What it is found by when it arrives: artist and title without case, accents and marks; and the file's name.
  name_key TEXT NOT NULL,
  file_key TEXT NOT NULL,
  made_at TEXT NOT NULL
) STRICT;
CREATE INDEX wanted_name ON wanted (name_key);
CREATE INDEX wanted_file ON wanted (file_key);

-- A place holds a track or a wanted entry.
CREATE TABLE place_new (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  crate_id INTEGER NOT NULL REFERENCES crate (id) ON DELETE CASCADE,
  track_id INTEGER REFERENCES track (id) ON DELETE CASCADE,
  position TEXT NOT NULL,
  wanted_id INTEGER REFERENCES wanted (id) ON DELETE CASCADE,
  UNIQUE (crate_id, track_id),
  CHECK ((track_id IS NULL) <> (wanted_id IS NULL))
) STRICT;
INSERT INTO place_new (id, gid, crate_id, track_id, position) SELECT id, gid, crate_id, track_id, position FROM crate_place;
DROP TABLE crate_place;
ALTER TABLE place_new RENAME TO crate_place;
CREATE INDEX crate_place_position ON crate_place (crate_id, position);
CREATE INDEX crate_place_track ON crate_place (track_id);
CREATE INDEX crate_place_wanted ON crate_place (wanted_id) WHERE wanted_id IS NOT NULL;

CREATE TABLE import_new (
  job_id INTEGER NOT NULL REFERENCES job (id) ON DELETE CASCADE,
  path TEXT NOT NULL,
  outcome TEXT NOT NULL
    CHECK (outcome IN ('added', 'changed', 'already here', 'moved', 'wanted', 'not audio', 'broken')),
  reason TEXT NOT NULL,
  track_id INTEGER REFERENCES track (id) ON DELETE SET NULL,
  PRIMARY KEY (job_id, path)
) STRICT, WITHOUT ROWID;
INSERT INTO import_new SELECT * FROM import_file;
DROP TABLE import_file;
ALTER TABLE import_new RENAME TO import_file;

-- What is asked of an analysis: before others, within a tempo window (low, high; both or none), and which results count.
ALTER TABLE analysis_queue ADD COLUMN first INTEGER NOT NULL DEFAULT 0;
ALTER TABLE analysis_queue ADD COLUMN window_low REAL;
ALTER TABLE analysis_queue ADD COLUMN window_high REAL;
ALTER TABLE analysis_queue ADD COLUMN parts TEXT;

-- More that a file says of its sound: bits of a sample, whether its bit rate varies, and the padding at its end.
ALTER TABLE track ADD COLUMN depth_bits INTEGER;
ALTER TABLE track ADD COLUMN variable_rate INTEGER NOT NULL DEFAULT 0;
ALTER TABLE track ADD COLUMN padding_samples INTEGER NOT NULL DEFAULT 0;
