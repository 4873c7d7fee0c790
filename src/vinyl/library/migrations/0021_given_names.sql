-- What Vinyl has called a file, and what it was called before, so that no title is read of what was added.
CREATE TABLE IF NOT EXISTS given_name (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  given TEXT NOT NULL,
  own TEXT NOT NULL
) STRICT;
CREATE INDEX IF NOT EXISTS given_name_given ON given_name (given);
