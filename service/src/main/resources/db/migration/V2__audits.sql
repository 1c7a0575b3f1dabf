CREATE TABLE audit (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  index_name TEXT NOT NULL,
  started TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('running', 'done', 'failed')),
  result TEXT NOT NULL
);
CREATE INDEX audit_index ON audit (index_name, id);
