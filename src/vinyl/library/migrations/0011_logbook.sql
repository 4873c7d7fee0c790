-- Gigs, where they were played, and what was played at them.
CREATE TABLE venue (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  name TEXT NOT NULL CHECK (length(name) > 0),
  clean_words INTEGER NOT NULL DEFAULT 0 CHECK (clean_words IN (0, 1)),
  -- Which players stand there.
  players TEXT NOT NULL DEFAULT '',
  note TEXT NOT NULL DEFAULT ''
) STRICT;

-- Gigs that come again: on which weekday (0 is Monday), from and to as HH:MM.
CREATE TABLE recurring (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  venue_id INTEGER NOT NULL REFERENCES venue (id) ON DELETE CASCADE,
  weekday INTEGER NOT NULL CHECK (weekday BETWEEN 0 AND 6),
  begins TEXT NOT NULL,
  ends TEXT,
  kind TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX recurring_venue ON recurring (venue_id);

CREATE TABLE gig (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  venue_id INTEGER REFERENCES venue (id) ON DELETE SET NULL,
  -- What it was called where it came from, or by hand.
  name TEXT NOT NULL DEFAULT '',
  kind TEXT NOT NULL DEFAULT '',
  began_at TEXT NOT NULL,
  ended_at TEXT,
  -- Whether the time of day is known, or only the date.
  timed INTEGER NOT NULL DEFAULT 1 CHECK (timed IN (0, 1)),
  -- Thrown away as practice: kept aside, and not counted as played.
  practice INTEGER NOT NULL DEFAULT 0 CHECK (practice IN (0, 1)),
  note TEXT NOT NULL DEFAULT '',
  came_from TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX gig_venue ON gig (venue_id, practice, began_at);
CREATE INDEX gig_began ON gig (began_at);

-- What players call plays of their own, also of those that are gone: each is taken in once.
CREATE TABLE play_told (told_as TEXT PRIMARY KEY, taken_at TEXT NOT NULL) STRICT, WITHOUT ROWID;
INSERT INTO play_told SELECT told_as, played_at FROM play WHERE told_as IS NOT NULL;

-- A play keeps artist and title as text, for what is not on the Shelf, or no more.
CREATE TABLE play_new (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  track_id INTEGER REFERENCES track (id) ON DELETE SET NULL,
  played_at TEXT NOT NULL,
  source TEXT NOT NULL CHECK (source IN ('by hand', 'player', 'file', 'list')),
  gig_id INTEGER REFERENCES gig (id) ON DELETE CASCADE,
  -- Its place in the gig's order, a fractional key.
  position TEXT NOT NULL DEFAULT 'V',
  artist TEXT NOT NULL DEFAULT '',
  title TEXT NOT NULL DEFAULT '',
  -- What it is found by when its track comes to the Shelf; empty where that is there.
  name_key TEXT NOT NULL DEFAULT '',
  timed INTEGER NOT NULL DEFAULT 1 CHECK (timed IN (0, 1)),
  heard_s REAL,
  went TEXT NOT NULL DEFAULT '' CHECK (went IN ('', 'well', 'flat')),
  asked INTEGER NOT NULL DEFAULT 0 CHECK (asked IN (0, 1)),
  -- Everywhere only for what is not on the Shelf; of a track that is a value.
  never TEXT NOT NULL DEFAULT '' CHECK (never IN ('', 'here', 'everywhere')),
  note TEXT NOT NULL DEFAULT ''
) STRICT;
INSERT INTO play_new (id, gid, track_id, played_at, source, artist, title)
SELECT p.id, p.gid, p.track_id, p.played_at, p.source, s.artist, s.title
FROM play p JOIN shelf s ON s.id = p.track_id;
DROP TABLE play;
ALTER TABLE play_new RENAME TO play;

-- What players had told before there were gigs becomes one for each run without a pause of an hour and a half.
CREATE TEMP TABLE run AS
SELECT id, played_at, sum(apart) OVER (ORDER BY played_at, id) AS run FROM (
  SELECT id, played_at,
         coalesce(julianday(played_at) - julianday(lag(played_at) OVER (ORDER BY played_at, id)) > 0.0625, 1) AS apart
  FROM play WHERE source = 'player');
INSERT INTO gig (id, began_at, ended_at, came_from)
SELECT run, min(played_at), max(played_at), 'a stick' FROM run GROUP BY run;
UPDATE play SET gig_id = run.run, position = run.position FROM (
  SELECT id, run, spread_key(row_number() OVER (PARTITION BY run ORDER BY played_at, id), count(*) OVER (PARTITION BY run))
    AS position FROM run) run
WHERE run.id = play.id;
DROP TABLE run;

CREATE INDEX play_track ON play (track_id, played_at, gig_id);
CREATE INDEX play_gig ON play (gig_id, position, track_id, played_at, went, asked, never, name_key, heard_s);
CREATE INDEX play_name ON play (name_key) WHERE name_key <> '';
CREATE INDEX play_title ON play (title COLLATE NOCASE) WHERE track_id IS NULL;

-- A list may be for a venue: what shall never be played there is warned of when it is put in.
ALTER TABLE crate ADD COLUMN venue_id INTEGER REFERENCES venue (id) ON DELETE SET NULL;

ALTER TABLE shelf ADD COLUMN went_well INTEGER NOT NULL DEFAULT 0;
ALTER TABLE shelf ADD COLUMN fell_flat INTEGER NOT NULL DEFAULT 0;
ALTER TABLE shelf ADD COLUMN asked_for INTEGER NOT NULL DEFAULT 0;
CREATE INDEX shelf_went_well ON shelf (went_well);
DROP INDEX shelf_narrow;
CREATE INDEX shelf_narrow ON shelf (
  id, bpm, tags, key, key_place, rating, energy, added_at, plays, genre, year, colour, last_played, cue_count, duration_s, doubt, lufs, away,
  explicit, never_again, wanted, replaced, backing_id, key_confidence, bit_rate, route_count, analysis_state, has_picture, initials,
  went_well, fell_flat, asked_for
);
