-- What belongs to the house, not to one tank: source waters and instruments, as they were saved each time.
CREATE TABLE house_thing (
  id         INTEGER PRIMARY KEY,
  kind       TEXT NOT NULL CHECK (kind IN ('water', 'instrument')),
  removed_at TEXT
) STRICT;

CREATE TABLE house_revision (
  id       INTEGER PRIMARY KEY,
  thing_id INTEGER NOT NULL REFERENCES house_thing (id),
  saved_at TEXT NOT NULL,
  name     TEXT NOT NULL,
  spec     TEXT NOT NULL CHECK (json_valid(spec))
) STRICT;
CREATE INDEX house_revision_of_thing ON house_revision (thing_id, id);

-- Which tanks stand in the calendar feed; a tank without a row does.
CREATE TABLE calendar_tank (
  tank_id INTEGER PRIMARY KEY REFERENCES tank (id),
  listed  INTEGER NOT NULL CHECK (listed IN (0, 1))
) STRICT;

-- One reminder a day at the most. 'sending' is written before the mail server is asked, so that a mail whose fate is
-- not known is never sent a second time.
CREATE TABLE reminder (
  day        TEXT PRIMARY KEY,
  state      TEXT NOT NULL CHECK (state IN ('sending', 'sent', 'refused', 'nothing')),
  subject    TEXT NOT NULL,
  body       TEXT NOT NULL,
  tries      INTEGER NOT NULL,
  last_try   TEXT NOT NULL,
  next_try   TEXT,
  last_error TEXT NOT NULL
) STRICT, WITHOUT ROWID;

-- A networked probe at a tank, and its traces by hour. Apart from readings on purpose: no gate looks here.
CREATE TABLE probe (
  tank_id      INTEGER PRIMARY KEY REFERENCES tank (id),
  url          TEXT NOT NULL,
  listening    INTEGER NOT NULL CHECK (listening IN (0, 1)),
  last_try     TEXT,
  last_ok      TEXT,
  last_error   TEXT NOT NULL DEFAULT '',
  last_reading TEXT CHECK (last_reading IS NULL OR json_valid(last_reading))
) STRICT;

CREATE TABLE probe_hour (
  tank_id  INTEGER NOT NULL REFERENCES tank (id),
  quantity TEXT NOT NULL CHECK (quantity IN ('temp', 'ph', 'salinity', 'ammonia')),
  hour     INTEGER NOT NULL,  -- seconds since 1970 in UTC, of the full hour
  n        INTEGER NOT NULL,
  total    REAL NOT NULL,
  low      REAL NOT NULL,
  high     REAL NOT NULL,
  PRIMARY KEY (tank_id, quantity, hour)
) STRICT, WITHOUT ROWID;
