-- Another tempo that may be meant, such as half or double the one that was heard.
ALTER TABLE shelf ADD COLUMN other_bpm REAL;
