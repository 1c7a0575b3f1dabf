CREATE TABLE installation (
  id TEXT PRIMARY KEY
);
CREATE TABLE definition (
  kind TEXT NOT NULL,
  name TEXT NOT NULL,
  version INTEGER NOT NULL,
  file TEXT NOT NULL,
  text TEXT NOT NULL,
  -- Definitions of the analysers that an index uses, so that a version can be built again later.
  needs TEXT NOT NULL DEFAULT '',
  created_at TEXT NOT NULL,
  PRIMARY KEY (kind, name, version)
);
CREATE TABLE edition (
  index_name TEXT NOT NULL,
  number INTEGER NOT NULL,
  version INTEGER NOT NULL,
  state TEXT NOT NULL,
  changed_at TEXT NOT NULL,
  PRIMARY KEY (index_name, number)
);
CREATE TABLE quarantine (
  index_name TEXT NOT NULL,
  edition INTEGER NOT NULL,
  record_key TEXT NOT NULL,
  reason TEXT NOT NULL,
  since TEXT NOT NULL,
  PRIMARY KEY (index_name, edition, record_key)
);
