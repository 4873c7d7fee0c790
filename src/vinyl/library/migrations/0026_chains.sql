-- The chain of a set: from which track one went on to which while looking for what goes together.
CREATE TABLE IF NOT EXISTS chain_step (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  set_id INTEGER NOT NULL REFERENCES dj_set (id) ON DELETE CASCADE,
  -- The step from which one went on; null where a chain begins.
  from_id INTEGER REFERENCES chain_step (id) ON DELETE CASCADE,
  track_id INTEGER REFERENCES track (id) ON DELETE SET NULL,
  -- What it is called, once it is no more on the Shelf.
  artist TEXT NOT NULL DEFAULT '',
  title TEXT NOT NULL DEFAULT '',
  made_at TEXT NOT NULL
) STRICT;
CREATE INDEX IF NOT EXISTS chain_step_set ON chain_step (set_id);
CREATE INDEX IF NOT EXISTS chain_step_from ON chain_step (from_id);
CREATE INDEX IF NOT EXISTS chain_step_track ON chain_step (track_id);
