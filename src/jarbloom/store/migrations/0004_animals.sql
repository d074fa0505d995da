-- The plan: a batch can be locked, and every change of the plan keeps how it stood before, so that it can be undone.
ALTER TABLE batch ADD COLUMN locked INTEGER NOT NULL DEFAULT 0 CHECK (locked IN (0, 1));

CREATE TABLE plan_change (
  id        INTEGER PRIMARY KEY,
  tank_id   INTEGER NOT NULL REFERENCES tank (id),
  at        TEXT NOT NULL,
  sentence  TEXT NOT NULL,
  before    TEXT NOT NULL CHECK (json_valid(before)),
  undone_at TEXT
) STRICT;
CREATE INDEX plan_change_of_tank ON plan_change (tank_id, id);

-- The keeper's own species, as they were saved each time; the catalogue itself is never written to.
CREATE TABLE own_species (
  key        TEXT PRIMARY KEY,
  removed_at TEXT
) STRICT, WITHOUT ROWID;

CREATE TABLE own_species_revision (
  id       INTEGER PRIMARY KEY,
  key      TEXT NOT NULL REFERENCES own_species (key),
  saved_at TEXT NOT NULL,
  cells    TEXT NOT NULL CHECK (json_valid(cells))
) STRICT;
CREATE INDEX own_species_revision_of_key ON own_species_revision (key, id);

-- An arrival day: what was read of the bag, which way was chosen, and when each step began. Timers are these moments.
CREATE TABLE arrival_run (
  id         INTEGER PRIMARY KEY,
  tank_id    INTEGER NOT NULL REFERENCES tank (id),
  batch_id   INTEGER REFERENCES batch (id),
  begun_at   TEXT NOT NULL,
  spec       TEXT NOT NULL CHECK (json_valid(spec)),
  ended_at   TEXT,
  how_ended  TEXT CHECK (how_ended IN ('in', 'given up'))
) STRICT;
CREATE INDEX arrival_run_of_tank ON arrival_run (tank_id, id);

CREATE TABLE arrival_step (
  run_id INTEGER NOT NULL REFERENCES arrival_run (id),
  step   TEXT NOT NULL,
  at     TEXT NOT NULL,
  PRIMARY KEY (run_id, step)
) STRICT, WITHOUT ROWID;
