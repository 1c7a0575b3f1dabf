-- Seen by somebody and not to be shown again for this reason; it counts as before.
ALTER TABLE quarantine ADD COLUMN dismissed INTEGER NOT NULL DEFAULT 0;
