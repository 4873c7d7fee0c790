-- Other libraries that things are carried to, each with how that is done, under a name.
CREATE TABLE destination (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  name TEXT NOT NULL CHECK (length(name) > 0),
  target TEXT NOT NULL,
  -- The order (vinyl.exchange.order) as JSON: place, system, paths, options, lists.
  told TEXT NOT NULL CHECK (json_valid(told)),
  carried_at TEXT
) STRICT;

-- What was carried there last of each track: short names of its parts.
CREATE TABLE carried (
  destination_id INTEGER NOT NULL REFERENCES destination (id) ON DELETE CASCADE,
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  marks TEXT NOT NULL,
  PRIMARY KEY (destination_id, track_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX carried_track ON carried (track_id);
