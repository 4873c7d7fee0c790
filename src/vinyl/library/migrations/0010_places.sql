-- A track stands in a list more than once if the list allows it, and a place may carry a note.
ALTER TABLE crate ADD COLUMN repeats INTEGER NOT NULL DEFAULT 0 CHECK (repeats IN (0, 1));

DROP TRIGGER size_track_delete;
DROP TRIGGER size_track_update;
CREATE TABLE place_new (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  gid TEXT NOT NULL UNIQUE DEFAULT (lower(hex(randomblob(16)))),
  crate_id INTEGER NOT NULL REFERENCES crate (id) ON DELETE CASCADE,
  track_id INTEGER REFERENCES track (id) ON DELETE CASCADE,
  position TEXT NOT NULL,
  wanted_id INTEGER REFERENCES wanted (id) ON DELETE CASCADE,
  note TEXT NOT NULL DEFAULT '',
  CHECK ((track_id IS NULL) <> (wanted_id IS NULL))
) STRICT;
INSERT INTO place_new (id, gid, crate_id, track_id, position, wanted_id)
SELECT id, gid, crate_id, track_id, position, wanted_id FROM crate_place;
DROP TABLE crate_place;
ALTER TABLE place_new RENAME TO crate_place;
CREATE INDEX crate_place_position ON crate_place (crate_id, position);
CREATE INDEX crate_place_held ON crate_place (crate_id, track_id);
CREATE INDEX crate_place_track ON crate_place (track_id);
CREATE INDEX crate_place_wanted ON crate_place (wanted_id) WHERE wanted_id IS NOT NULL;

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
-- Its places go after the track, when how long it played can no longer be asked.
CREATE TRIGGER size_track_delete BEFORE DELETE ON track BEGIN
  UPDATE crate_size SET duration_ms = duration_ms - CAST(round(1000 * OLD.duration_s) AS INTEGER)
    * (SELECT count(*) FROM crate_place p WHERE p.track_id = OLD.id AND p.crate_id = crate_size.crate_id)
  WHERE crate_id IN (SELECT crate_id FROM crate_place WHERE track_id = OLD.id);
END;
CREATE TRIGGER size_track_update AFTER UPDATE OF duration_s ON track WHEN OLD.duration_s <> NEW.duration_s BEGIN
  UPDATE crate_size SET duration_ms = duration_ms
    + (CAST(round(1000 * NEW.duration_s) AS INTEGER) - CAST(round(1000 * OLD.duration_s) AS INTEGER))
    * (SELECT count(*) FROM crate_place p WHERE p.track_id = NEW.id AND p.crate_id = crate_size.crate_id)
  WHERE crate_id IN (SELECT crate_id FROM crate_place WHERE track_id = NEW.id);
END;

-- Which tracks have loops, and loops that engage.
CREATE INDEX cue_loop ON cue (track_id, engages) WHERE length_s IS NOT NULL;
