-- Tags in families, colours and marks of tracks, groups over a shared backing, plays, and more to find and sort by.
CREATE TABLE tag_family (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  name TEXT NOT NULL CHECK (length(name) > 0),
  position TEXT NOT NULL,
  colour TEXT NOT NULL,
  sign TEXT NOT NULL DEFAULT '',
  -- No longer offered; tracks keep what they have.
  retired INTEGER NOT NULL DEFAULT 0
) STRICT;

CREATE TABLE tag (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  family_id INTEGER NOT NULL REFERENCES tag_family (id) ON DELETE CASCADE,
  name TEXT NOT NULL CHECK (length(name) > 0),
  position TEXT NOT NULL,
  -- Null: as its family's.
  colour TEXT,
  sign TEXT NOT NULL DEFAULT '',
  -- The letter that gives and takes it while listening.
  letter TEXT,
  retired INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX tag_family_tags ON tag (family_id, position);

CREATE TABLE track_tag (
  tag_id INTEGER NOT NULL REFERENCES tag (id) ON DELETE CASCADE,
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  PRIMARY KEY (tag_id, track_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX track_tag_track ON track_tag (track_id, tag_id);

INSERT INTO tag_family (name, position, colour, sign)
SELECT value ->> 0, spread_key(key + 1, 3), value ->> 1, value ->> 2
FROM json_each('[["Style", "green", "§"], ["Make-up", "violet", "◊"], ["Moment", "ochre", "›"]]');
INSERT INTO tag (family_id, name, position, letter)
SELECT 2, value ->> 0, spread_key(key + 1, 6), value ->> 1
FROM json_each('[["Vocal", "v"], ["Synth", "s"], ["Percussive", "r"], ["Uplifting", "u"], ["Warm", "w"], ["Dark", "d"]]');
INSERT INTO tag (family_id, name, position, letter)
SELECT 3, value ->> 0, spread_key(key + 1, 6), value ->> 1
FROM json_each('[["Opener", "o"], ["Warm-up", "m"], ["Build-up", "b"], ["Peak", "k"], ["Closing", "c"], ["After-hours", "h"]]');

-- Which style tag a genre word of the files stands for, where the user has said so.
CREATE TABLE genre_word (
  word TEXT PRIMARY KEY,
  tag_id INTEGER NOT NULL REFERENCES tag (id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;
CREATE INDEX genre_word_tag ON genre_word (tag_id);

-- Colours that tracks can have; what each means is the user's to write.
CREATE TABLE track_colour (
  colour TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  sign TEXT NOT NULL,
  hex TEXT,
  place INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
INSERT INTO track_colour (colour, name, sign, place) VALUES
  ('vermilion', 'vermilion', '■', 0), ('violet', 'violet', '▲', 1), ('blue', 'blue', '●', 2),
  ('ochre', 'ochre', '◆', 3), ('green', 'green', '✚', 4), ('ink', 'ink', '★', 5);

-- Tracks with different voices over the same instrumental.
CREATE TABLE backing (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  name TEXT NOT NULL CHECK (length(name) > 0)
) STRICT;
CREATE TABLE track_backing (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  backing_id INTEGER NOT NULL REFERENCES backing (id) ON DELETE CASCADE
) STRICT;
CREATE INDEX track_backing_tracks ON track_backing (backing_id);

CREATE TABLE play (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  played_at TEXT NOT NULL,
  source TEXT NOT NULL CHECK (source IN ('by hand', 'player')),
  -- What a player calls this play of its own, so that it counts once.
  told_as TEXT UNIQUE
) STRICT;
CREATE INDEX play_track ON play (track_id, played_at);

ALTER TABLE shelf ADD COLUMN remixer TEXT NOT NULL DEFAULT '';
ALTER TABLE shelf ADD COLUMN composer TEXT NOT NULL DEFAULT '';
ALTER TABLE shelf ADD COLUMN grouping TEXT NOT NULL DEFAULT '';
ALTER TABLE shelf ADD COLUMN catalogue TEXT NOT NULL DEFAULT '';
ALTER TABLE shelf ADD COLUMN language TEXT NOT NULL DEFAULT '';
ALTER TABLE shelf ADD COLUMN isrc TEXT NOT NULL DEFAULT '';
ALTER TABLE shelf ADD COLUMN colour TEXT NOT NULL DEFAULT '';
ALTER TABLE shelf ADD COLUMN marks TEXT NOT NULL DEFAULT '';
ALTER TABLE shelf ADD COLUMN explicit INTEGER NOT NULL DEFAULT 0;
ALTER TABLE shelf ADD COLUMN never_again INTEGER NOT NULL DEFAULT 0;
ALTER TABLE shelf ADD COLUMN wanted INTEGER NOT NULL DEFAULT 0;
ALTER TABLE shelf ADD COLUMN plays INTEGER NOT NULL DEFAULT 0;
ALTER TABLE shelf ADD COLUMN last_played TEXT;
ALTER TABLE shelf ADD COLUMN backing_id INTEGER;
ALTER TABLE shelf ADD COLUMN tags TEXT NOT NULL DEFAULT '';
ALTER TABLE shelf ADD COLUMN main_s REAL;
-- With which letters and digits words of its texts begin, as bits.
ALTER TABLE shelf ADD COLUMN initials INTEGER NOT NULL DEFAULT 0;
-- How the columns were made when all rows were last made anew (vinyl.library.flat).
CREATE TABLE shelf_made (only_row INTEGER PRIMARY KEY CHECK (only_row = 1), columns TEXT NOT NULL) STRICT;

-- For more sorts. Where many tracks have the same, ties go by id, so that a new title is written to few indexes.
CREATE INDEX shelf_label ON shelf (label COLLATE NOCASE, title COLLATE NOCASE, id);
CREATE INDEX shelf_bit_rate ON shelf (bit_rate);
CREATE INDEX shelf_codec ON shelf (codec);
CREATE INDEX shelf_plays ON shelf (plays);
CREATE INDEX shelf_last_played ON shelf (last_played);
CREATE INDEX shelf_cue_count ON shelf (cue_count);
CREATE INDEX shelf_backing ON shelf (backing_id);
CREATE INDEX shelf_colour ON shelf (nullif(colour, ''));
CREATE INDEX shelf_away ON shelf (away);
CREATE INDEX shelf_wanted ON shelf (wanted);
CREATE INDEX shelf_locks ON shelf (nullif(locks, ''));
CREATE INDEX shelf_remixer ON shelf (nullif(remixer, '') COLLATE NOCASE);
CREATE INDEX shelf_composer ON shelf (nullif(composer, '') COLLATE NOCASE);
CREATE INDEX shelf_grouping ON shelf (nullif(grouping, '') COLLATE NOCASE);
CREATE INDEX shelf_catalogue ON shelf (nullif(catalogue, '') COLLATE NOCASE);
CREATE INDEX shelf_language ON shelf (nullif(language, '') COLLATE NOCASE);
CREATE INDEX shelf_comment ON shelf (nullif(substr(comment, 1, 60), '') COLLATE NOCASE);

-- What pictures count and most conditions ask about, without the long texts: looked through as a whole.
CREATE INDEX shelf_narrow ON shelf (
  id, bpm, tags, key, key_place, rating, energy, added_at, plays, genre, year, colour, last_played, cue_count, duration_s, doubt, lufs, away,
  explicit, never_again, wanted, replaced, backing_id, key_confidence, bit_rate, route_count, analysis_state, has_picture, initials
);

-- Words of texts, each told once, with the tracks that have them: in place of an index of the texts themselves.
DROP TRIGGER shelf_text_insert;
DROP TRIGGER shelf_text_delete;
DROP TRIGGER shelf_text_update;
DROP TABLE shelf_text;
CREATE TABLE shelf_word (id INTEGER PRIMARY KEY, word TEXT NOT NULL UNIQUE) STRICT;
CREATE TABLE shelf_word_in (
  word_id INTEGER NOT NULL,
  track_id INTEGER NOT NULL,
  PRIMARY KEY (word_id, track_id)
) STRICT, WITHOUT ROWID;
CREATE TRIGGER shelf_word_in_delete AFTER DELETE ON shelf BEGIN
  DELETE FROM shelf_word_in WHERE track_id = OLD.id AND word_id IN
    (SELECT id FROM shelf_word WHERE word IN (SELECT value FROM json_each(words_of(OLD.search_text))));
END;

-- Words of one or two letters, which many tracks have, are looked for in all texts.
CREATE INDEX shelf_search ON shelf (initials, search_text);

-- Any piece of a word is found by its groups of three letters.
CREATE VIRTUAL TABLE shelf_piece USING fts5 (word, content = 'shelf_word', content_rowid = 'id', tokenize = 'trigram');
CREATE TRIGGER shelf_piece_insert AFTER INSERT ON shelf_word BEGIN
  INSERT INTO shelf_piece (rowid, word) VALUES (NEW.id, NEW.word);
END;
