CREATE TABLE push_source (
  name TEXT PRIMARY KEY,
  history TEXT NOT NULL,
  last INTEGER NOT NULL
);
-- The last state of each record, also of those that were deleted, so that feeds hear of it.
CREATE TABLE push_record (
  source TEXT NOT NULL,
  record_key TEXT NOT NULL,
  content TEXT,
  number INTEGER NOT NULL,
  PRIMARY KEY (source, record_key)
);
CREATE UNIQUE INDEX push_record_number ON push_record (source, number);
