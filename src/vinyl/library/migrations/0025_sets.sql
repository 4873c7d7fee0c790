-- Sets: a night to come, planned. Entries stand in its tray or in its running order.
CREATE TABLE IF NOT EXISTS dj_set (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  name TEXT NOT NULL CHECK (length(name) > 0),
  venue_id INTEGER REFERENCES venue (id) ON DELETE SET NULL,
  -- The local day (YYYY-MM-DD), from and to as HH:MM; each empty where it is not known.
  on_day TEXT NOT NULL DEFAULT '',
  begins TEXT NOT NULL DEFAULT '',
  ends TEXT NOT NULL DEFAULT '',
  note TEXT NOT NULL DEFAULT '',
  -- Points of the arc: the share of the night, and the energy wanted then.
  arc TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(arc)),
  tempo_percent REAL NOT NULL DEFAULT 6.0,
  key_held INTEGER NOT NULL DEFAULT 1 CHECK (key_held IN (0, 1)),
  made_at TEXT NOT NULL
) STRICT;
CREATE TABLE IF NOT EXISTS set_entry (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  set_id INTEGER NOT NULL REFERENCES dj_set (id) ON DELETE CASCADE,
  placed INTEGER NOT NULL CHECK (placed IN (0, 1)),
  -- Its place in the tray or in the running order, a fractional key.
  position TEXT NOT NULL,
  track_id INTEGER REFERENCES track (id) ON DELETE SET NULL,
  -- What it is called, for what is not on the Shelf, or no more.
  artist TEXT NOT NULL DEFAULT '',
  title TEXT NOT NULL DEFAULT '',
  pin TEXT NOT NULL DEFAULT '' CHECK (pin IN ('', 'first', 'last', 'here')),
  with_next INTEGER NOT NULL DEFAULT 0 CHECK (with_next IN (0, 1)),
  note TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX IF NOT EXISTS set_entry_set ON set_entry (set_id, placed, position);
CREATE INDEX IF NOT EXISTS set_entry_track ON set_entry (track_id);
-- Where one entry goes over into another: from which times on, for how many bars, at whose tempo, over how many
-- bars the one comes and the other goes, at which bar the low end changes hands, and what to do there. A time or
-- a bar that is null is the usual one.
CREATE TABLE IF NOT EXISTS set_transition (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  out_id INTEGER NOT NULL REFERENCES set_entry (id) ON DELETE CASCADE,
  in_id INTEGER NOT NULL REFERENCES set_entry (id) ON DELETE CASCADE,
  out_s REAL,
  in_s REAL,
  over_bars INTEGER NOT NULL DEFAULT 16,
  meet TEXT NOT NULL DEFAULT 'first' CHECK (meet IN ('first', 'second', 'between', 'gliding')),
  fade_bars INTEGER,
  low_bar INTEGER,
  note TEXT NOT NULL DEFAULT '',
  UNIQUE (out_id, in_id)
) STRICT;
CREATE INDEX IF NOT EXISTS set_transition_in ON set_transition (in_id);
-- What was said of one track mixed into another, in whatever set.
CREATE TABLE IF NOT EXISTS mix_verdict (
  out_track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  in_track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  works INTEGER NOT NULL CHECK (works IN (0, 1)),
  said_at TEXT NOT NULL,
  PRIMARY KEY (out_track_id, in_track_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX IF NOT EXISTS mix_verdict_in ON mix_verdict (in_track_id);
