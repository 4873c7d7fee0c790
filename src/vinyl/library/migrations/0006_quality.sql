-- What analysis found wrong with a recording (vinyl.core.quality), as JSON, for lists to show.
ALTER TABLE shelf ADD COLUMN findings TEXT NOT NULL DEFAULT '[]';
