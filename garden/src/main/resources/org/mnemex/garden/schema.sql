CREATE TABLE family (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL UNIQUE
);
CREATE TABLE taxon (
  id INTEGER PRIMARY KEY,
  family_id INTEGER NOT NULL REFERENCES family (id),
  genus TEXT NOT NULL,
  latin_name TEXT NOT NULL,
  name_en TEXT NOT NULL,
  name_fr TEXT,
  name_de TEXT,
  name_ja TEXT
);
CREATE INDEX taxon_family ON taxon (family_id);
CREATE TABLE bed (
  code TEXT PRIMARY KEY,
  title TEXT NOT NULL,
  latitude REAL NOT NULL,
  longitude REAL NOT NULL
);
CREATE TABLE accession (
  accession_no TEXT PRIMARY KEY,
  taxon_id INTEGER NOT NULL REFERENCES taxon (id),
  bed_code TEXT REFERENCES bed (code),
  planted_on TEXT,
  height_cm INTEGER,
  flowering TEXT,
  evergreen INTEGER NOT NULL DEFAULT 0,
  status TEXT NOT NULL CHECK (status IN ('planted', 'nursery', 'lost', 'embargoed')),
  visitor_interest INTEGER NOT NULL DEFAULT 0,
  notes TEXT,
  changed_at TEXT NOT NULL
);
CREATE INDEX accession_taxon ON accession (taxon_id);
CREATE INDEX accession_bed ON accession (bed_code);
CREATE TABLE person (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  email TEXT NOT NULL,
  phone TEXT NOT NULL
);
CREATE TABLE accession_person (
  accession_no TEXT NOT NULL REFERENCES accession (accession_no) ON DELETE CASCADE,
  person_id INTEGER NOT NULL REFERENCES person (id),
  role TEXT NOT NULL CHECK (role IN ('collector', 'propagator', 'donor', 'recorder')),
  PRIMARY KEY (accession_no, person_id, role)
);
CREATE INDEX accession_person_person ON accession_person (person_id);
CREATE TABLE sighting (
  id INTEGER PRIMARY KEY,
  accession_no TEXT NOT NULL REFERENCES accession (accession_no) ON DELETE CASCADE,
  seen_on TEXT NOT NULL,
  observer TEXT NOT NULL,
  kind TEXT NOT NULL CHECK (kind IN ('flowering', 'pest', 'damage', 'growth')),
  text TEXT NOT NULL
);
CREATE INDEX sighting_accession ON sighting (accession_no);
CREATE TABLE label (
  id INTEGER PRIMARY KEY,
  title TEXT NOT NULL UNIQUE
);
CREATE TABLE accession_label (
  accession_no TEXT NOT NULL REFERENCES accession (accession_no) ON DELETE CASCADE,
  label_id INTEGER NOT NULL REFERENCES label (id),
  PRIMARY KEY (accession_no, label_id)
);
CREATE INDEX accession_label_label ON accession_label (label_id);
CREATE TABLE care_sheet (
  id INTEGER PRIMARY KEY,
  accession_no TEXT NOT NULL REFERENCES accession (accession_no) ON DELETE CASCADE,
  title TEXT NOT NULL,
  media_type TEXT NOT NULL,
  content BLOB NOT NULL
);
CREATE INDEX care_sheet_accession ON care_sheet (accession_no);
