-- Whether a track may be published within a recording, as somebody said.
CREATE TABLE IF NOT EXISTS track_clearance (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  state TEXT NOT NULL CHECK (state IN ('free', 'shared income', 'muted', 'blocked')),
  -- Where that holds, between commas; everywhere if empty.
  places TEXT NOT NULL DEFAULT '',
  condition TEXT NOT NULL DEFAULT '',
  source TEXT NOT NULL DEFAULT '',
  on_day TEXT NOT NULL DEFAULT ''
) STRICT;
