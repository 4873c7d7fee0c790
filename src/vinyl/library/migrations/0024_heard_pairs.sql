-- How far two files of one recording differ in what is heard, or why they could not be listened to; and what of
-- the longer an edit has left out. All tracks are looked at for it once more.
DELETE FROM twin_seen;
DROP TABLE twin_pair;
CREATE TABLE twin_pair (
  first INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  second INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  evidence TEXT NOT NULL,
  relation TEXT NOT NULL,
  offset_s REAL NOT NULL,
  covered REAL NOT NULL,
  bit_error REAL NOT NULL,
  unevenness REAL NOT NULL,
  speed REAL,
  aligned_s REAL,
  spread_s REAL,
  missing TEXT NOT NULL,
  difference REAL,
  unheard TEXT NOT NULL,
  PRIMARY KEY (first, second),
  CHECK (first < second)
) STRICT, WITHOUT ROWID;
CREATE INDEX twin_pair_second ON twin_pair (second);
CREATE INDEX twin_pair_unheard ON twin_pair (first, second)
  WHERE relation = 'same' AND speed = 1.0 AND difference IS NULL AND unheard = '';
-- What comes to hand again can be listened to.
CREATE TRIGGER IF NOT EXISTS twin_pair_file_again AFTER UPDATE OF path, away ON track BEGIN
  UPDATE twin_pair SET unheard = '' WHERE first = NEW.id AND unheard <> '';
  UPDATE twin_pair SET unheard = '' WHERE second = NEW.id AND unheard <> '';
END;
