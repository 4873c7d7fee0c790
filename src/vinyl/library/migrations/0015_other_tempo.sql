-- Another tempo that may be meant, such as half or double the one that was heard.
ALTER TABLE shelf ADD COLUMN other_bpm REAL;

-- The points that were heard, for many tracks at once.
INSERT INTO cue_template (name, cues) VALUES
  ('In, main and out', '[{"place": "in", "label": "In", "role": "in"}, {"place": "main", "label": "Main", "role": "main"}, {"place": "out", "label": "Out", "role": "out"}]');
