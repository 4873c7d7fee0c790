-- Undo keeps rows also as a step left them, so that it takes back only what nobody else has changed since.
-- Empty where an older version did not note it: such rows are taken back whole.
ALTER TABLE undo_entry ADD COLUMN after TEXT;
UPDATE undo_entry SET after = '';
