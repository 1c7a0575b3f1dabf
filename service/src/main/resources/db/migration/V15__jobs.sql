-- What takes long and runs by itself; the latest are kept.
CREATE TABLE job (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  kind TEXT NOT NULL,
  about TEXT NOT NULL,
  detail TEXT NOT NULL,
  state TEXT NOT NULL,
  started TEXT NOT NULL,
  ended TEXT,
  done INTEGER NOT NULL DEFAULT 0,
  total INTEGER,
  message TEXT,
  result TEXT
);
CREATE TABLE job_line (
  job INTEGER NOT NULL,
  number INTEGER NOT NULL,
  at TEXT NOT NULL,
  text TEXT NOT NULL,
  PRIMARY KEY (job, number)
) WITHOUT ROWID;
