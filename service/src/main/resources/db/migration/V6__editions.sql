ALTER TABLE edition ADD COLUMN from_stored INTEGER NOT NULL DEFAULT 0;
ALTER TABLE edition ADD COLUMN hold INTEGER NOT NULL DEFAULT 0;
-- When a former edition goes.
ALTER TABLE edition ADD COLUMN until TEXT;
-- What filling took.
ALTER TABLE edition ADD COLUMN filled_records INTEGER;
ALTER TABLE edition ADD COLUMN filled_millis INTEGER;
