-- Tracks that were taken off the Shelf: all that is known of them stays, so that they can come back.
CREATE TABLE off_shelf (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  -- Whether the file is to be put aside.
  aside INTEGER NOT NULL,
  taken_at TEXT NOT NULL
) STRICT;

-- Files that lie put aside, or are on their way: where each was, and where it is kept.
CREATE TABLE put_aside (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  path TEXT NOT NULL,
  kept TEXT NOT NULL,
  size_bytes INTEGER NOT NULL,
  put_at TEXT NOT NULL
) STRICT;
