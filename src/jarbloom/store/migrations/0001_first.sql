-- The journal: entries are written once. What is live is told by marks, and marks belong to acts,
-- so that every act (logging, correcting, voiding) can be undone and redone without overwriting anything.

CREATE TABLE preference (
  key   TEXT PRIMARY KEY,
  value TEXT NOT NULL
) STRICT, WITHOUT ROWID;

CREATE TABLE tank (
  id          INTEGER PRIMARY KEY,
  slug        TEXT NOT NULL UNIQUE,
  created_at  TEXT NOT NULL,
  archived_at TEXT
) STRICT;

-- A tank's settings as they were saved each time; the newest is in force.
CREATE TABLE tank_revision (
  id       INTEGER PRIMARY KEY,
  tank_id  INTEGER NOT NULL REFERENCES tank (id),
  saved_at TEXT NOT NULL,
  name     TEXT NOT NULL,
  spec     TEXT NOT NULL CHECK (json_valid(spec))
) STRICT;
CREATE INDEX tank_revision_of_tank ON tank_revision (tank_id, id);

CREATE TABLE act (
  id       INTEGER PRIMARY KEY,
  tank_id  INTEGER NOT NULL REFERENCES tank (id),
  kind     TEXT NOT NULL CHECK (kind IN ('log', 'correct', 'void', 'undo', 'import')),
  at       TEXT NOT NULL,
  sentence TEXT NOT NULL,
  undoes   INTEGER REFERENCES act (id)
) STRICT;
CREATE INDEX act_of_tank ON act (tank_id, id);

CREATE TABLE entry (
  id          INTEGER PRIMARY KEY,
  tank_id     INTEGER NOT NULL REFERENCES tank (id),
  act_id      INTEGER NOT NULL REFERENCES act (id),
  kind        TEXT NOT NULL,
  at          TEXT NOT NULL,     -- ISO 8601 with offset, as the keeper's clock showed it
  at_utc      INTEGER NOT NULL,  -- the same moment in seconds, to sort by
  zone        TEXT NOT NULL,
  who         TEXT NOT NULL,
  note        TEXT NOT NULL,
  body        TEXT NOT NULL CHECK (json_valid(body)),
  supersedes  INTEGER REFERENCES entry (id),
  recorded_at TEXT NOT NULL
) STRICT;
CREATE INDEX entry_of_tank ON entry (tank_id, at_utc);

CREATE TABLE reading (
  entry_id   INTEGER NOT NULL REFERENCES entry (id),
  quantity   TEXT NOT NULL CHECK (quantity IN ('ammonia', 'nitrite', 'nitrate', 'ph', 'kh', 'temp')),
  typed      TEXT NOT NULL,
  seen       REAL NOT NULL,      -- canonical: mg N/L, pH, dKH, deg C
  low        REAL NOT NULL,
  high       REAL,               -- NULL: the kit's open top
  outer_low  REAL NOT NULL,
  outer_high REAL,
  form       TEXT NOT NULL,
  misread    REAL NOT NULL,
  n_steps    INTEGER NOT NULL,
  PRIMARY KEY (entry_id, quantity)
) STRICT, WITHOUT ROWID;

CREATE TABLE mark (
  id       INTEGER PRIMARY KEY,
  act_id   INTEGER NOT NULL REFERENCES act (id),
  entry_id INTEGER NOT NULL REFERENCES entry (id),
  live     INTEGER NOT NULL CHECK (live IN (0, 1))
) STRICT;
CREATE INDEX mark_of_entry ON mark (entry_id, id);
CREATE INDEX mark_of_act ON mark (act_id);

CREATE TABLE batch (
  id         INTEGER PRIMARY KEY,
  tank_id    INTEGER NOT NULL REFERENCES tank (id),
  name       TEXT NOT NULL,
  planned    TEXT NOT NULL,
  removed_at TEXT
) STRICT;

CREATE TABLE batch_item (
  batch_id  INTEGER NOT NULL REFERENCES batch (id),
  species   TEXT NOT NULL,
  count     INTEGER NOT NULL CHECK (count > 0),
  length_cm REAL,
  PRIMARY KEY (batch_id, species)
) STRICT, WITHOUT ROWID;

-- A forecast is a stored run: pages read it, a changed input makes another.
CREATE TABLE forecast_run (
  id          INTEGER PRIMARY KEY,
  tank_id     INTEGER NOT NULL REFERENCES tank (id),
  inputs_hash TEXT NOT NULL,
  as_of       TEXT NOT NULL,
  version     INTEGER NOT NULL,
  seed        INTEGER NOT NULL,
  made_at     TEXT NOT NULL,
  payload     TEXT NOT NULL CHECK (json_valid(payload)),
  UNIQUE (tank_id, inputs_hash)
) STRICT;

CREATE TRIGGER entry_is_written_once BEFORE UPDATE ON entry
BEGIN SELECT RAISE(ABORT, 'an entry is never overwritten: correct or void it'); END;
CREATE TRIGGER entry_is_never_lost BEFORE DELETE ON entry
BEGIN SELECT RAISE(ABORT, 'an entry is never deleted: void it'); END;
CREATE TRIGGER reading_is_written_once BEFORE UPDATE ON reading
BEGIN SELECT RAISE(ABORT, 'a reading is never overwritten: correct its entry'); END;
CREATE TRIGGER reading_is_never_lost BEFORE DELETE ON reading
BEGIN SELECT RAISE(ABORT, 'a reading is never deleted: void its entry'); END;
CREATE TRIGGER mark_is_written_once BEFORE UPDATE ON mark
BEGIN SELECT RAISE(ABORT, 'a mark is never overwritten'); END;
CREATE TRIGGER mark_is_never_lost BEFORE DELETE ON mark
BEGIN SELECT RAISE(ABORT, 'a mark is never deleted'); END;
