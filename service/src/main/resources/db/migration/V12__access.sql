-- Keys that callers sign in with. Only a hash of the secret is stored.
CREATE TABLE access_key (
  id TEXT NOT NULL PRIMARY KEY,
  name TEXT NOT NULL,
  role TEXT NOT NULL,
  hash TEXT NOT NULL,
  scope TEXT NOT NULL,
  created TEXT NOT NULL,
  expires TEXT,
  last_used TEXT,
  revoked TEXT
);
-- Administrative acts, refused ones included.
CREATE TABLE activity (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  at TEXT NOT NULL,
  key_id TEXT NOT NULL,
  caller TEXT NOT NULL,
  address TEXT NOT NULL,
  act TEXT NOT NULL,
  target TEXT NOT NULL,
  status INTEGER NOT NULL
);
CREATE INDEX activity_by_key ON activity (key_id, id);
