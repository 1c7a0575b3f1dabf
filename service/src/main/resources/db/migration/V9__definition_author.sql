-- Who applied a version, as the caller said it.
ALTER TABLE definition ADD COLUMN author TEXT NOT NULL DEFAULT '';
