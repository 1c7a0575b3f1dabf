-- Up to which batch the counts of search nodes have arrived, by process.
CREATE TABLE passed_counts (
  run TEXT NOT NULL PRIMARY KEY,
  number INTEGER NOT NULL,
  at TEXT NOT NULL
) WITHOUT ROWID;
