-- A crate with a rule fills itself: its rule as JSON (vinyl.core.rules.notation); none for a crate by hand.
ALTER TABLE crate ADD COLUMN rule TEXT CHECK (rule IS NULL OR json_valid(rule));

-- Crates stand in folders of any depth, which are kept as they are. With a folder goes what is in it.
ALTER TABLE crate ADD COLUMN is_folder INTEGER NOT NULL DEFAULT 0 CHECK (is_folder IN (0, 1));
ALTER TABLE crate ADD COLUMN folder_id INTEGER REFERENCES crate (id) ON DELETE CASCADE;
CREATE INDEX crate_folder ON crate (folder_id);
