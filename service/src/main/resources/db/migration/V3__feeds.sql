CREATE TABLE paused_feed (index_name TEXT PRIMARY KEY);
