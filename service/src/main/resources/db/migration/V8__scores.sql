CREATE TABLE score (
  id INTEGER PRIMARY KEY,
  scorecard TEXT NOT NULL,
  scorecard_version INTEGER NOT NULL,
  edition INTEGER NOT NULL,
  index_version INTEGER NOT NULL,
  at TEXT NOT NULL,
  ndcg REAL NOT NULL,
  reciprocal_rank REAL NOT NULL,
  precision REAL NOT NULL,
  recall REAL NOT NULL
);
CREATE INDEX score_by_scorecard ON score (scorecard, id);
