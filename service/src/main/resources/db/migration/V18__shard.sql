-- Which records of its indexes this data folder has.
ALTER TABLE installation ADD COLUMN shard TEXT NOT NULL DEFAULT '0 of 1';
