-- Times are stored in UTC, each with how many minutes the clock on the wall was ahead of that then and there: so
-- a day stays the day that it was, wherever the computer is later. Of older times the zone of this computer is told.
ALTER TABLE track ADD COLUMN added_offset_min INTEGER NOT NULL DEFAULT 0;
ALTER TABLE gig ADD COLUMN began_offset_min INTEGER NOT NULL DEFAULT 0;
ALTER TABLE gig ADD COLUMN ended_offset_min INTEGER NOT NULL DEFAULT 0;
ALTER TABLE play ADD COLUMN offset_min INTEGER NOT NULL DEFAULT 0;
UPDATE track SET added_offset_min = offset_min(added_at);
UPDATE gig SET began_offset_min = offset_min(began_at), ended_offset_min = offset_min(ended_at);
UPDATE play SET offset_min = offset_min(played_at);

-- The day that a night belongs to is the one on which it began; a play at a night belongs to that day too.
ALTER TABLE gig ADD COLUMN on_day TEXT AS (date(began_at, began_offset_min || ' minutes')) VIRTUAL;
ALTER TABLE play ADD COLUMN on_day TEXT AS (date(played_at, offset_min || ' minutes')) VIRTUAL;
CREATE INDEX gig_day ON gig (on_day, practice);
