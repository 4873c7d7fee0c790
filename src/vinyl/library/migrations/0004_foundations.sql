-- Values with all their sources, one flat table for what lists show, global ids, fractional places, and one table of jobs.
-- Run with foreign keys off; they are checked before the end.
DROP VIEW shelf;

-- Every value of a track from every source; the rules of vinyl.library.values say which one wins.
CREATE TABLE track_value (
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  field TEXT NOT NULL,
  source TEXT NOT NULL
    CHECK (source IN ('locked', 'by hand', 'another library', 'analysis', 'file tag', 'file name')),
  -- Text, a number as text, or JSON for what has parts; null from a lock says that there is to be none.
  value TEXT,
  -- What more the source says of it, as JSON.
  detail TEXT,
  doubt REAL,
  -- For a locked value, the source it was taken from.
  origin TEXT,
  changed_at TEXT NOT NULL,
  PRIMARY KEY (track_id, field, source)
) STRICT, WITHOUT ROWID;

INSERT INTO track_value (track_id, field, source, value, changed_at)
SELECT t.id, f.value ->> 0, 'file tag', CASE f.value ->> 0
    WHEN 'title' THEN t.title WHEN 'artist' THEN t.artist WHEN 'album' THEN t.album WHEN 'genre' THEN t.genre
    WHEN 'label' THEN t.label WHEN 'comment' THEN t.comment WHEN 'year' THEN CAST(t.year AS TEXT) WHEN 'key' THEN t.file_key
    WHEN 'tempo' THEN CAST(t.file_bpm AS TEXT) WHEN 'stars' THEN CAST(t.file_rating AS TEXT) END AS text, t.added_at
FROM track t, json_each('[["title"],["artist"],["album"],["genre"],["label"],["comment"],["year"],["key"],["tempo"],["stars"]]') f
WHERE text IS NOT NULL AND text <> '' AND NOT (f.value ->> 0 = 'stars' AND t.file_rating = 0);

INSERT INTO track_value (track_id, field, source, value, detail, doubt, changed_at)
SELECT track_id, 'grid', 'analysis', json_object('anchors', json(anchors), 'beats_per_bar', beats_per_bar),
       json_object('reasons', json(grid_reasons)), grid_doubt, analysed_at
FROM track_analysis WHERE anchors IS NOT NULL
UNION ALL
SELECT track_id, 'grid', 'analysis', NULL, json_object('reasons', json(grid_reasons)), grid_doubt, analysed_at
FROM track_analysis WHERE anchors IS NULL
UNION ALL
SELECT track_id, 'tempo', 'analysis', CAST(bpm AS TEXT), NULL, grid_doubt, analysed_at FROM track_analysis WHERE bpm IS NOT NULL
UNION ALL
SELECT track_id, 'structure', 'analysis', json_object('phrase_s', phrase_s, 'sections', json(sections), 'cues', json(cue_proposals)),
       NULL, NULL, analysed_at
FROM track_analysis
UNION ALL
SELECT track_id, 'key', 'analysis', key, json_object('second', second_key, 'second_from_s', second_from_s, 'runner_up', runner_up_key,
       'tuning_cents', tuning_cents), 1.0 - key_confidence, analysed_at
FROM track_analysis
UNION ALL
SELECT track_id, 'energy', 'analysis', CAST(energy AS TEXT), json_object('reason', energy_reason), NULL, analysed_at
FROM track_analysis WHERE energy IS NOT NULL
UNION ALL
SELECT track_id, 'grid', 'by hand', json_object('anchors', json(anchors), 'beats_per_bar', beats_per_bar), NULL, 0.0,
       strftime('%Y-%m-%dT%H:%M:%f+00:00', 'now')
FROM hand_grid
UNION ALL
SELECT track_id, 'tempo', 'by hand', CAST(bpm AS TEXT), NULL, 0.0, strftime('%Y-%m-%dT%H:%M:%f+00:00', 'now') FROM hand_grid
UNION ALL
SELECT track_id, 'stars', 'by hand', CAST(stars AS TEXT), NULL, NULL, strftime('%Y-%m-%dT%H:%M:%f+00:00', 'now') FROM hand_rating;

-- A locked part is a source of its own that nothing beats: it holds the value that won when it was locked.
INSERT INTO track_value (track_id, field, source, value, detail, doubt, origin, changed_at)
SELECT track_id, field, 'locked', value, detail, doubt, source, changed_at FROM (
  SELECT v.*, min(CASE v.source WHEN 'by hand' THEN 1 WHEN 'another library' THEN 2 WHEN 'analysis' THEN 3 WHEN 'file tag' THEN 4
                  ELSE 5 END)
  FROM track_lock l
  JOIN json_each('{"grid": ["grid", "tempo", "structure"], "key": ["key"], "tags": ["title", "artist", "album", "genre", "label",
                  "comment", "year", "stars", "energy"]}') p ON p.key = l.part
  JOIN json_each(p.value) f
  JOIN track_value v ON v.track_id = l.track_id AND v.field = f.value
  GROUP BY v.track_id, v.field
);

CREATE TABLE track_new (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  path TEXT NOT NULL UNIQUE,
  size_bytes INTEGER NOT NULL,
  modified_ns INTEGER NOT NULL,
  audio_hash TEXT NOT NULL,
  codec TEXT NOT NULL,
  rate_hz INTEGER NOT NULL,
  channels INTEGER NOT NULL,
  bit_rate INTEGER,
  trimmed_samples INTEGER NOT NULL DEFAULT 0,
  duration_s REAL NOT NULL,
  has_picture INTEGER NOT NULL DEFAULT 0,
  away INTEGER NOT NULL DEFAULT 0,
  added_at TEXT NOT NULL
) STRICT;
INSERT INTO track_new (id, path, size_bytes, modified_ns, audio_hash, codec, rate_hz, channels, bit_rate, trimmed_samples, duration_s,
                       has_picture, away, added_at)
SELECT id, path, size_bytes, modified_ns, audio_hash, codec, rate_hz, channels, bit_rate, trimmed_samples, duration_s, has_picture, away,
       added_at
FROM track;
DROP TABLE track;
ALTER TABLE track_new RENAME TO track;
CREATE INDEX track_audio_hash ON track (audio_hash);

-- Tracks whose file holds another sound than the one that was worked on, until somebody has looked at them.
CREATE TABLE track_replaced (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  noticed_at TEXT NOT NULL
) STRICT;

CREATE TABLE analysis_new (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  version INTEGER NOT NULL,
  lufs REAL,
  range_lu REAL,
  true_peak_db REAL,
  analysed_at TEXT NOT NULL
) STRICT;
INSERT INTO analysis_new SELECT track_id, version, lufs, range_lu, true_peak_db, analysed_at FROM track_analysis;
DROP TABLE track_analysis;
ALTER TABLE analysis_new RENAME TO track_analysis;
DROP TABLE hand_grid;
DROP TABLE hand_rating;

CREATE TABLE cue_new (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  position_s REAL NOT NULL CHECK (position_s >= 0),
  length_s REAL CHECK (length_s > 0),
  label TEXT NOT NULL DEFAULT '',
  role TEXT CHECK (role IN ('in', 'main', 'out')),
  colour TEXT NOT NULL,
  pad INTEGER CHECK (pad BETWEEN 1 AND 8),
  engages INTEGER NOT NULL DEFAULT 0
) STRICT;
INSERT INTO cue_new (id, track_id, position_s, length_s, label, role, colour, pad, engages)
SELECT id, track_id, position_s, length_s, label, role, colour, pad, engages FROM cue;
DROP TABLE cue;
ALTER TABLE cue_new RENAME TO cue;
CREATE INDEX cue_track ON cue (track_id);

CREATE TABLE route_new (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  name TEXT NOT NULL CHECK (length(name) > 0),
  jumps TEXT NOT NULL
) STRICT;
INSERT INTO route_new (id, track_id, name, jumps) SELECT id, track_id, name, jumps FROM route;
DROP TABLE route;
ALTER TABLE route_new RENAME TO route;
CREATE INDEX route_track ON route (track_id);

CREATE TABLE template_new (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  name TEXT NOT NULL CHECK (length(name) > 0),
  cues TEXT NOT NULL
) STRICT;
INSERT INTO template_new (id, name, cues) SELECT id, name, cues FROM cue_template;
DROP TABLE cue_template;
ALTER TABLE template_new RENAME TO cue_template;

-- Places are fractional keys (vinyl.core.ordering): moving one thing writes one row.
CREATE TABLE crate_new (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  name TEXT NOT NULL CHECK (length(name) > 0),
  position TEXT NOT NULL,
  created_at TEXT NOT NULL
) STRICT;
INSERT INTO crate_new (id, name, position, created_at)
SELECT id, name, spread_key(row_number() OVER (ORDER BY position, id), count(*) OVER ()), created_at FROM crate;

CREATE TABLE crate_place (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  crate_id INTEGER NOT NULL REFERENCES crate (id) ON DELETE CASCADE,
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  position TEXT NOT NULL,
  UNIQUE (crate_id, track_id)
) STRICT;
INSERT INTO crate_place (crate_id, track_id, position)
SELECT crate_id, track_id, spread_key(row_number() OVER (PARTITION BY crate_id ORDER BY position, track_id),
       count(*) OVER (PARTITION BY crate_id))
FROM crate_track;
DROP TABLE crate_track;
DROP TABLE crate;
ALTER TABLE crate_new RENAME TO crate;
CREATE INDEX crate_place_position ON crate_place (crate_id, position);
CREATE INDEX crate_place_track ON crate_place (track_id);

-- Work in the background, of whatever kind; what could not be done for one item stays with its reason.
CREATE TABLE job (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  kind TEXT NOT NULL,
  subject TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'paused', 'done', 'cancelled', 'failed')),
  done INTEGER NOT NULL DEFAULT 0,
  total INTEGER,
  unit TEXT NOT NULL,
  current TEXT NOT NULL DEFAULT '',
  -- Seconds that it was worked on, and how much was done meanwhile: the pace that time left is told by.
  worked_s REAL NOT NULL DEFAULT 0,
  worked_done INTEGER NOT NULL DEFAULT 0,
  error TEXT,
  payload TEXT NOT NULL,
  result TEXT,
  made_at TEXT NOT NULL,
  finished_at TEXT
) STRICT;
CREATE INDEX job_kind ON job (kind, state);

CREATE TABLE job_failure (
  job_id INTEGER NOT NULL REFERENCES job (id) ON DELETE CASCADE,
  item TEXT NOT NULL,
  reason TEXT NOT NULL,
  track_id INTEGER REFERENCES track (id) ON DELETE SET NULL,
  failed_at TEXT NOT NULL,
  PRIMARY KEY (job_id, item)
) STRICT, WITHOUT ROWID;

INSERT INTO job (id, kind, subject, state, done, total, unit, error, payload, made_at, finished_at)
SELECT id, 'import', folder, state, (SELECT count(*) FROM import_file WHERE run_id = import_run.id), total, 'file', error,
       json_object('folder', folder), started_at, finished_at
FROM import_run;
INSERT INTO job (kind, subject, state, done, unit, error, payload, result, made_at, finished_at)
SELECT 'pack', s.name, r.state, 0, 'byte', r.error, json_object('stick_id', r.stick_id), r.summary, r.started_at, r.finished_at
FROM pack_run r JOIN stick s ON s.id = r.stick_id ORDER BY r.id;
DROP TABLE pack_run;

CREATE TABLE import_new (
  job_id INTEGER NOT NULL REFERENCES job (id) ON DELETE CASCADE,
  path TEXT NOT NULL,
  outcome TEXT NOT NULL CHECK (outcome IN ('added', 'changed', 'already here', 'not audio', 'broken')),
  reason TEXT NOT NULL,
  track_id INTEGER REFERENCES track (id) ON DELETE SET NULL,
  PRIMARY KEY (job_id, path)
) STRICT, WITHOUT ROWID;
INSERT INTO import_new SELECT run_id, path, outcome, reason, track_id FROM import_file;
DROP TABLE import_file;
DROP TABLE import_run;
ALTER TABLE import_new RENAME TO import_file;

-- Every file that Vinyl has put on a stick, noted before it is written: nothing else on a stick is ever removed.
CREATE TABLE stick_file (
  stick_id INTEGER NOT NULL REFERENCES stick (id) ON DELETE CASCADE,
  path TEXT NOT NULL,
  PRIMARY KEY (stick_id, path)
) STRICT, WITHOUT ROWID;

-- What lists show and sort by, one row a track, kept by vinyl.library.flat in the transaction of each change.
CREATE TABLE shelf (
  id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  title TEXT NOT NULL DEFAULT '',
  artist TEXT NOT NULL DEFAULT '',
  album TEXT NOT NULL DEFAULT '',
  genre TEXT NOT NULL DEFAULT '',
  label TEXT NOT NULL DEFAULT '',
  year INTEGER,
  bpm REAL,
  bpm_source TEXT,
  key TEXT,
  key_place INTEGER,
  key_source TEXT,
  key_confidence REAL,
  energy INTEGER,
  rating INTEGER NOT NULL DEFAULT 0,
  lufs REAL,
  doubt REAL,
  duration_s REAL NOT NULL DEFAULT 0,
  codec TEXT NOT NULL DEFAULT '',
  bit_rate INTEGER,
  has_picture INTEGER NOT NULL DEFAULT 0,
  away INTEGER NOT NULL DEFAULT 0,
  replaced INTEGER NOT NULL DEFAULT 0,
  added_at TEXT NOT NULL DEFAULT '',
  cue_count INTEGER NOT NULL DEFAULT 0,
  cue_roles TEXT NOT NULL DEFAULT '',
  route_count INTEGER NOT NULL DEFAULT 0,
  locks TEXT NOT NULL DEFAULT '',
  analysis_state TEXT NOT NULL DEFAULT 'none',
  search_text TEXT NOT NULL DEFAULT '',
  comment TEXT NOT NULL DEFAULT '',
  doubt_reasons TEXT NOT NULL DEFAULT '[]',
  analysis_error TEXT
) STRICT;

-- Every track has its row, from the moment it is added.
CREATE TRIGGER shelf_row AFTER INSERT ON track BEGIN INSERT INTO shelf (id) VALUES (NEW.id); END;

-- Any piece of a text is found by its groups of three letters.
CREATE VIRTUAL TABLE shelf_text USING fts5 (search_text, content = 'shelf', content_rowid = 'id', tokenize = 'trigram');
CREATE TRIGGER shelf_text_insert AFTER INSERT ON shelf BEGIN
  INSERT INTO shelf_text (rowid, search_text) VALUES (NEW.id, NEW.search_text);
END;
CREATE TRIGGER shelf_text_delete AFTER DELETE ON shelf BEGIN
  INSERT INTO shelf_text (shelf_text, rowid, search_text) VALUES ('delete', OLD.id, OLD.search_text);
END;
CREATE TRIGGER shelf_text_update AFTER UPDATE OF search_text ON shelf WHEN OLD.search_text <> NEW.search_text BEGIN
  INSERT INTO shelf_text (shelf_text, rowid, search_text) VALUES ('delete', OLD.id, OLD.search_text);
  INSERT INTO shelf_text (rowid, search_text) VALUES (NEW.id, NEW.search_text);
END;

-- What the pictures count by.
CREATE INDEX shelf_whole_bpm ON shelf (CAST(bpm AS INTEGER));
CREATE INDEX shelf_key_name ON shelf (key);
CREATE INDEX shelf_style ON shelf (genre);
CREATE INDEX shelf_month ON shelf (substr(added_at, 1, 7));
CREATE INDEX shelf_energy_step ON shelf (min(energy, 99) / 10 * 10);

-- An index for each sort (vinyl.library.find): in the direction that people want first, with ties by title.
CREATE INDEX shelf_title ON shelf (title COLLATE NOCASE, id);
CREATE INDEX shelf_artist ON shelf (artist COLLATE NOCASE, title COLLATE NOCASE, id);
CREATE INDEX shelf_album ON shelf (album COLLATE NOCASE, title COLLATE NOCASE, id);
CREATE INDEX shelf_genre ON shelf (genre COLLATE NOCASE, title COLLATE NOCASE, id);
CREATE INDEX shelf_bpm ON shelf (bpm, title COLLATE NOCASE, id);
CREATE INDEX shelf_key ON shelf (key_place, title COLLATE NOCASE, id);
CREATE INDEX shelf_lufs ON shelf (lufs, title COLLATE NOCASE, id);
CREATE INDEX shelf_energy ON shelf (energy, title COLLATE NOCASE, id);
CREATE INDEX shelf_duration ON shelf (duration_s, title COLLATE NOCASE, id);
CREATE INDEX shelf_year ON shelf (year, title COLLATE NOCASE, id);
CREATE INDEX shelf_added ON shelf (added_at DESC, title COLLATE NOCASE, id);
-- Stars are few and are given to thousands of tracks at once: this one is kept small.
CREATE INDEX shelf_rating ON shelf (rating);
CREATE INDEX shelf_doubt ON shelf (doubt DESC, title COLLATE NOCASE, id);

-- How often the library has changed: windows compare it with what they have.
CREATE TABLE revision (only_row INTEGER PRIMARY KEY CHECK (only_row = 1), number INTEGER NOT NULL) STRICT;
INSERT INTO revision VALUES (1, 0);

-- When each value of an object that people make was last changed (vinyl.library.identity), also of those that are gone.
CREATE TABLE value_time (
  gid TEXT NOT NULL,
  name TEXT NOT NULL,
  changed_at TEXT NOT NULL,
  PRIMARY KEY (gid, name)
) STRICT, WITHOUT ROWID;

-- Steps of undo were kept as SQL for the old tables; they stand in the backup that was made before this.
DROP TABLE IF EXISTS undo_entry;
DROP TABLE IF EXISTS undo_step;
DROP TABLE IF EXISTS undo_recording;
