-- Records that somebody asked to be read again.
CREATE TABLE read_request (
  index_name TEXT NOT NULL,
  edition INTEGER NOT NULL,
  record_key TEXT NOT NULL,
  PRIMARY KEY (index_name, edition, record_key)
);
-- Readers that will not come back, until their sources have heard of it.
CREATE TABLE departed_reader (
  source TEXT NOT NULL,
  reader TEXT NOT NULL,
  PRIMARY KEY (source, reader)
);
-- Up to where each reader of a push source needs no deletions any more.
CREATE TABLE push_reader (
  source TEXT NOT NULL,
  reader TEXT NOT NULL,
  position INTEGER NOT NULL,
  PRIMARY KEY (source, reader)
);
-- Deletions up to this number are forgotten.
ALTER TABLE push_source ADD COLUMN trimmed INTEGER NOT NULL DEFAULT 0;
