-- What people search for, hour by hour, without who they are. Only first pages count as searches.
CREATE TABLE searched (
  endpoint TEXT NOT NULL,
  hour TEXT NOT NULL,
  words TEXT NOT NULL,
  searches INTEGER NOT NULL,
  without_results INTEGER NOT NULL DEFAULT 0,
  few_results INTEGER NOT NULL DEFAULT 0,
  results INTEGER NOT NULL DEFAULT 0,
  millis REAL NOT NULL DEFAULT 0,
  slowest REAL NOT NULL DEFAULT 0,
  relaxed INTEGER NOT NULL DEFAULT 0,
  corrected INTEGER NOT NULL DEFAULT 0,
  curated INTEGER NOT NULL DEFAULT 0,
  later_pages INTEGER NOT NULL DEFAULT 0,
  PRIMARY KEY (endpoint, hour, words)
) WITHOUT ROWID;
-- Nothing else is known of what was recorded before. It is kept for comparing editions.
INSERT INTO searched (endpoint, hour, words, searches, results)
SELECT endpoint, substr(max(last_at), 1, 13), lower(words), sum(searches), 0
FROM recorded_query GROUP BY endpoint, lower(words);
DROP TABLE recorded_query;
