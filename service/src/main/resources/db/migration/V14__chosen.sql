-- Which results people opened: of how many searches, how many, and how far down.
ALTER TABLE searched ADD COLUMN opened INTEGER NOT NULL DEFAULT 0;
ALTER TABLE searched ADD COLUMN opens INTEGER NOT NULL DEFAULT 0;
ALTER TABLE searched ADD COLUMN positions INTEGER NOT NULL DEFAULT 0;
CREATE TABLE opened_record (
  endpoint TEXT NOT NULL,
  day TEXT NOT NULL,
  words TEXT NOT NULL,
  record_key TEXT NOT NULL,
  opens INTEGER NOT NULL,
  weight REAL NOT NULL,
  PRIMARY KEY (endpoint, day, words, record_key)
) WITHOUT ROWID;
-- Which facets people choose from.
CREATE TABLE used_facet (
  endpoint TEXT NOT NULL,
  day TEXT NOT NULL,
  facet TEXT NOT NULL,
  searches INTEGER NOT NULL,
  PRIMARY KEY (endpoint, day, facet)
) WITHOUT ROWID;
