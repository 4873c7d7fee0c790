-- Pairs of tracks that may be twins, as they were found, and the tracks that were looked at.
CREATE TABLE IF NOT EXISTS twin_pair (
  first INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  second INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  evidence TEXT NOT NULL,
  relation TEXT NOT NULL,
  offset_s REAL NOT NULL,
  covered REAL NOT NULL,
  bit_error REAL NOT NULL,
  unevenness REAL NOT NULL,
  speed REAL,
  aligned_s REAL,
  spread_s REAL,
  PRIMARY KEY (first, second),
  CHECK (first < second)
) STRICT, WITHOUT ROWID;
CREATE INDEX IF NOT EXISTS twin_pair_second ON twin_pair (second);
CREATE TABLE IF NOT EXISTS twin_seen (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE
) STRICT;
-- What is heard anew is looked at anew.
CREATE TRIGGER IF NOT EXISTS twin_heard_insert AFTER INSERT ON track_likeness BEGIN
  DELETE FROM twin_seen WHERE track_id = NEW.track_id;
END;
CREATE TRIGGER IF NOT EXISTS twin_heard_update AFTER UPDATE ON track_likeness BEGIN
  DELETE FROM twin_seen WHERE track_id = NEW.track_id;
END;
-- What the user said: two tracks are no twins; a group is to be looked at once more.
CREATE TABLE IF NOT EXISTS twin_not (
  first INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  second INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  said_at TEXT NOT NULL,
  PRIMARY KEY (first, second)
) STRICT, WITHOUT ROWID;
CREATE TABLE IF NOT EXISTS twin_later (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  said_at TEXT NOT NULL
) STRICT;
-- Versions of one work.
CREATE TABLE IF NOT EXISTS work (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  name TEXT NOT NULL
) STRICT;
CREATE TABLE IF NOT EXISTS track_version (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  work_id INTEGER NOT NULL REFERENCES work (id) ON DELETE CASCADE,
  kind TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX IF NOT EXISTS track_version_work ON track_version (work_id);
-- Why a track left the Shelf, and copies of a track's file that are to be put aside.
CREATE TABLE off_shelf_why (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  aside INTEGER NOT NULL,
  taken_at TEXT NOT NULL,
  why TEXT NOT NULL DEFAULT '',
  twin_of INTEGER REFERENCES track (id) ON DELETE SET NULL
) STRICT;
INSERT INTO off_shelf_why (track_id, aside, taken_at) SELECT track_id, aside, taken_at FROM off_shelf;
DROP TABLE off_shelf;
ALTER TABLE off_shelf_why RENAME TO off_shelf;
CREATE TABLE IF NOT EXISTS copy_off (
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  path TEXT NOT NULL,
  taken_at TEXT NOT NULL,
  why TEXT NOT NULL DEFAULT '',
  PRIMARY KEY (track_id, path)
) STRICT, WITHOUT ROWID;
CREATE TABLE put_aside_of (
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  path TEXT NOT NULL,
  kept TEXT NOT NULL,
  size_bytes INTEGER NOT NULL,
  put_at TEXT NOT NULL,
  is_copy INTEGER NOT NULL DEFAULT 0,
  moved INTEGER NOT NULL DEFAULT 1,
  PRIMARY KEY (track_id, path)
) STRICT, WITHOUT ROWID;
INSERT INTO put_aside_of (track_id, path, kept, size_bytes, put_at)
  SELECT track_id, path, kept, size_bytes, put_at FROM put_aside;
DROP TABLE put_aside;
ALTER TABLE put_aside_of RENAME TO put_aside;
