-- What somebody should know of, while it holds and for a while after.
CREATE TABLE held_condition (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  kind TEXT NOT NULL,
  about TEXT NOT NULL,
  since TEXT NOT NULL,
  text TEXT NOT NULL,
  ended TEXT
);
-- What is told of them, by channel, until it has arrived.
CREATE TABLE message (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  channel TEXT NOT NULL,
  at TEXT NOT NULL,
  body TEXT NOT NULL,
  tries INTEGER NOT NULL DEFAULT 0,
  next_try TEXT,
  arrived TEXT,
  error TEXT
);
