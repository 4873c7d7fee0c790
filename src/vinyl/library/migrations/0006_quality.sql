-- What analysis found wrong with a recording (vinyl.core.quality), as JSON, for lists to show.
ALTER TABLE shelf ADD COLUMN findings TEXT NOT NULL DEFAULT '[]';

-- All tracks are heard once more for it, in the background.
INSERT OR IGNORE INTO analysis_queue (track_id, state) SELECT track_id, 'waiting' FROM track_analysis WHERE version < 5;
UPDATE shelf SET analysis_state = 'waiting' WHERE id IN (SELECT track_id FROM analysis_queue WHERE state = 'waiting');
