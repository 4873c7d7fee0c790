-- Values of one field lie together, so that what is said of thousands of tracks at once is written to few pages, and
-- small values are not spread between big ones. A track's values go with it by a trigger (vinyl.library.values).
CREATE TABLE value_new (
  track_id INTEGER NOT NULL,
  field TEXT NOT NULL,
  source TEXT NOT NULL CHECK (source IN ('locked', 'by hand', 'another library', 'analysis', 'file tag', 'file name')),
  -- Text, a number as text, or JSON for what has parts; null from a lock says that there is to be none.
  value TEXT,
  -- What more the source says of it, as JSON.
  detail TEXT,
  doubt REAL,
  -- For a locked value, the source it was taken from.
  origin TEXT,
  changed_at TEXT NOT NULL,
  PRIMARY KEY (field, track_id, source)
) STRICT, WITHOUT ROWID;
INSERT INTO value_new SELECT * FROM track_value ORDER BY field, track_id, source;
DROP TABLE track_value;
ALTER TABLE value_new RENAME TO track_value;

-- The log of undo. A new library has none yet.
CREATE TABLE IF NOT EXISTS undo_step (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  name TEXT NOT NULL,
  stack TEXT NOT NULL CHECK (stack IN ('undo', 'redo')),
  row_count INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE TABLE IF NOT EXISTS undo_recording (only_row INTEGER PRIMARY KEY CHECK (only_row = 1), step_id INTEGER) STRICT;
INSERT OR IGNORE INTO undo_recording VALUES (1, NULL);
CREATE TABLE IF NOT EXISTS undo_shape (table_name TEXT PRIMARY KEY, columns INTEGER NOT NULL) STRICT;
CREATE TABLE IF NOT EXISTS undo_entry (id INTEGER PRIMARY KEY, step_id INTEGER, table_name TEXT, row_key TEXT, before TEXT, track_id INTEGER);

-- Of each row only its first change in a step counts; keys of values begin with the field now.
CREATE TEMP TABLE kept_entry AS
SELECT step_id, table_name, CASE table_name WHEN 'track_value' THEN
         json_array(row_key ->> 1, row_key ->> 0, row_key ->> 2) ELSE row_key END AS row_key, before, track_id, min(id)
FROM undo_entry GROUP BY step_id, table_name, row_key;
DROP TABLE undo_entry;
CREATE TABLE undo_entry (
  step_id INTEGER NOT NULL REFERENCES undo_step (id) ON DELETE CASCADE,
  table_name TEXT NOT NULL,
  -- JSON arrays: the row's primary key, and all its columns before the change; null if there was no row.
  row_key TEXT NOT NULL,
  before TEXT,
  track_id INTEGER,
  PRIMARY KEY (step_id, table_name, row_key)
) STRICT, WITHOUT ROWID;
INSERT INTO undo_entry SELECT step_id, table_name, row_key, before, track_id FROM kept_entry;
DROP TABLE kept_entry;
