-- The name under which files, editions, quarantine and audits of an index are kept: its first one.
ALTER TABLE definition ADD COLUMN kept_as TEXT NOT NULL DEFAULT '';
-- Whether the edition of an index's version waits for a person's word when it is complete.
ALTER TABLE definition ADD COLUMN hold INTEGER NOT NULL DEFAULT 0;
UPDATE definition SET kept_as = name WHERE kind = 'index';
