-- Sticks: several players on one, real drives beside stand-ins, what each was last seen to be.
ALTER TABLE stick ADD COLUMN gid TEXT NOT NULL DEFAULT '';
UPDATE stick SET gid = lower(hex(randomblob(16)));
-- "stand-in", or "drive": a folder on a real one.
ALTER TABLE stick ADD COLUMN medium TEXT NOT NULL DEFAULT 'stand-in';
-- Options as JSON (vinyl.sticks.store).
ALTER TABLE stick ADD COLUMN told TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(told));
-- Bytes a second that were written and proved last.
ALTER TABLE stick ADD COLUMN rate REAL;
ALTER TABLE stick ADD COLUMN packed_at TEXT;
ALTER TABLE stick ADD COLUMN checked_at TEXT;

CREATE TABLE stick_player (
  stick_id INTEGER NOT NULL REFERENCES stick (id) ON DELETE CASCADE,
  profile TEXT NOT NULL,
  position INTEGER NOT NULL,
  -- What files are converted to that it cannot play; empty for its usual.
  form TEXT NOT NULL DEFAULT '',
  -- A set of settings that goes along, by its id.
  settings_id INTEGER REFERENCES player_settings (id) ON DELETE SET NULL,
  PRIMARY KEY (stick_id, profile)
) STRICT, WITHOUT ROWID;
INSERT INTO stick_player (stick_id, profile, position) SELECT id, profile, 0 FROM stick;

CREATE TABLE player_settings (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  name TEXT NOT NULL UNIQUE CHECK (length(name) > 0),
  told TEXT NOT NULL CHECK (json_valid(told))
) STRICT;

-- Each file that Vinyl wrote, as it was when it was proved: JSON with bytes, sha256 and, for sound, its source.
ALTER TABLE stick_file ADD COLUMN told TEXT CHECK (json_valid(told));
-- What a check found of it; empty where it was whole.
ALTER TABLE stick_file ADD COLUMN damage TEXT NOT NULL DEFAULT '';

-- What was packed of each track and list: changes made since, here and on a player, are told from it.
CREATE TABLE stick_packed (
  stick_id INTEGER NOT NULL REFERENCES stick (id) ON DELETE CASCADE,
  profile TEXT NOT NULL,
  kind TEXT NOT NULL,
  gid TEXT NOT NULL,
  told TEXT NOT NULL CHECK (json_valid(told)),
  PRIMARY KEY (stick_id, profile, kind, gid)
) STRICT, WITHOUT ROWID;

-- The name that sticks know this library by.
CREATE TABLE this_library (
  one INTEGER PRIMARY KEY CHECK (one = 1),
  gid TEXT NOT NULL DEFAULT (lower(hex(randomblob(16))))
) STRICT;
INSERT INTO this_library (one) VALUES (1);

-- Tracks of its lists that a stick goes without.
CREATE TABLE stick_left_out (
  stick_id INTEGER NOT NULL REFERENCES stick (id) ON DELETE CASCADE,
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  PRIMARY KEY (stick_id, track_id)
) STRICT, WITHOUT ROWID;

-- Changes made on players that were answered: taken, or not.
CREATE TABLE stick_settled (
  stick_id INTEGER NOT NULL REFERENCES stick (id) ON DELETE CASCADE,
  change TEXT NOT NULL,
  PRIMARY KEY (stick_id, change)
) STRICT, WITHOUT ROWID;
