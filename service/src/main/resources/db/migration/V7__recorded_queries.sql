-- What was searched for, to compare editions by.
CREATE TABLE recorded_query (
  endpoint TEXT NOT NULL,
  words TEXT NOT NULL,
  searches INTEGER NOT NULL,
  last_at TEXT NOT NULL,
  PRIMARY KEY (endpoint, words)
);
