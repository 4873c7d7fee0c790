-- A crate with a rule fills itself: its rule as JSON (vinyl.core.rules.notation); none for a crate by hand.
ALTER TABLE crate ADD COLUMN rule TEXT CHECK (rule IS NULL OR json_valid(rule));

-- Crates stand in folders of any depth, which are kept as they are. With a folder goes what is in it.
ALTER TABLE crate ADD COLUMN is_folder INTEGER NOT NULL DEFAULT 0 CHECK (is_folder IN (0, 1));
ALTER TABLE crate ADD COLUMN folder_id INTEGER REFERENCES crate (id) ON DELETE CASCADE;
CREATE INDEX crate_folder ON crate (folder_id);

-- How a list looks, and what its owner notes about it.
ALTER TABLE crate ADD COLUMN colour TEXT NOT NULL DEFAULT '';
ALTER TABLE crate ADD COLUMN sign TEXT NOT NULL DEFAULT '';
ALTER TABLE crate ADD COLUMN note TEXT NOT NULL DEFAULT '';
-- By which value its tracks stand under dividers; empty for dividers by hand.
ALTER TABLE crate ADD COLUMN divided_by TEXT NOT NULL DEFAULT '';
-- A folder may keep a rule list for each value of something (vinyl.library.series): what of, and for a list, which value.
ALTER TABLE crate ADD COLUMN series TEXT CHECK (series IS NULL OR json_valid(series));
ALTER TABLE crate ADD COLUMN series_value TEXT;

-- Dividers stand between the places of a list, by fractional keys as they do.
CREATE TABLE divider (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  crate_id INTEGER NOT NULL REFERENCES crate (id) ON DELETE CASCADE,
  position TEXT NOT NULL,
  name TEXT NOT NULL,
  sign TEXT NOT NULL DEFAULT '',
  colour TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX divider_position ON divider (crate_id, position);

-- Lists and folders that were deleted, each as a document (vinyl.library.list_documents), to be brought back at any time.
CREATE TABLE deleted_list (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  name TEXT NOT NULL,
  deleted_at TEXT NOT NULL,
  lists INTEGER NOT NULL,
  places INTEGER NOT NULL,
  document TEXT NOT NULL CHECK (json_valid(document))
) STRICT;

-- How much is in each list by hand, kept in step by triggers: to count a million places anew takes a second.
CREATE TABLE crate_size (
  crate_id INTEGER PRIMARY KEY,
  tracks INTEGER NOT NULL,
  wanted INTEGER NOT NULL,
  duration_ms INTEGER NOT NULL
) STRICT;
INSERT INTO crate_size
SELECT p.crate_id, count(p.track_id), count(p.wanted_id), coalesce(sum(CAST(round(1000 * t.duration_s) AS INTEGER)), 0)
FROM crate_place p LEFT JOIN track t ON t.id = p.track_id GROUP BY p.crate_id;

CREATE TRIGGER size_place_insert AFTER INSERT ON crate_place BEGIN
  INSERT INTO crate_size VALUES (
    NEW.crate_id, NEW.track_id IS NOT NULL, NEW.wanted_id IS NOT NULL,
    coalesce((SELECT CAST(round(1000 * duration_s) AS INTEGER) FROM track WHERE id = NEW.track_id), 0)
  ) ON CONFLICT (crate_id) DO UPDATE SET
    tracks = tracks + excluded.tracks, wanted = wanted + excluded.wanted, duration_ms = duration_ms + excluded.duration_ms;
END;
CREATE TRIGGER size_place_delete AFTER DELETE ON crate_place BEGIN
  UPDATE crate_size SET tracks = tracks - (OLD.track_id IS NOT NULL), wanted = wanted - (OLD.wanted_id IS NOT NULL),
    duration_ms = duration_ms
      - coalesce((SELECT CAST(round(1000 * duration_s) AS INTEGER) FROM track WHERE id = OLD.track_id), 0)
  WHERE crate_id = OLD.crate_id;
END;
CREATE TRIGGER size_place_update AFTER UPDATE OF crate_id, track_id, wanted_id ON crate_place BEGIN
  UPDATE crate_size SET tracks = tracks - (OLD.track_id IS NOT NULL), wanted = wanted - (OLD.wanted_id IS NOT NULL),
    duration_ms = duration_ms
      - coalesce((SELECT CAST(round(1000 * duration_s) AS INTEGER) FROM track WHERE id = OLD.track_id), 0)
  WHERE crate_id = OLD.crate_id;
  INSERT INTO crate_size VALUES (
    NEW.crate_id, NEW.track_id IS NOT NULL, NEW.wanted_id IS NOT NULL,
    coalesce((SELECT CAST(round(1000 * duration_s) AS INTEGER) FROM track WHERE id = NEW.track_id), 0)
  ) ON CONFLICT (crate_id) DO UPDATE SET
    tracks = tracks + excluded.tracks, wanted = wanted + excluded.wanted, duration_ms = duration_ms + excluded.duration_ms;
END;
CREATE TRIGGER size_crate_delete AFTER DELETE ON crate BEGIN
  DELETE FROM crate_size WHERE crate_id = OLD.id;
END;
-- Its places go after the track, when how long it played can no longer be asked.
CREATE TRIGGER size_track_delete BEFORE DELETE ON track BEGIN
  UPDATE crate_size SET duration_ms = duration_ms - CAST(round(1000 * OLD.duration_s) AS INTEGER)
  WHERE crate_id IN (SELECT crate_id FROM crate_place WHERE track_id = OLD.id);
END;
CREATE TRIGGER size_track_update AFTER UPDATE OF duration_s ON track WHEN OLD.duration_s <> NEW.duration_s BEGIN
  UPDATE crate_size SET duration_ms = duration_ms
    - CAST(round(1000 * OLD.duration_s) AS INTEGER) + CAST(round(1000 * NEW.duration_s) AS INTEGER)
  WHERE crate_id IN (SELECT crate_id FROM crate_place WHERE track_id = NEW.id);
END;
