-- What the house keeps in store and what runs out: salt, conditioner, food, kits, bottles. Every count is a revision.
CREATE TABLE supply (
  id         INTEGER PRIMARY KEY,
  removed_at TEXT
) STRICT;

CREATE TABLE supply_revision (
  id        INTEGER PRIMARY KEY,
  supply_id INTEGER NOT NULL REFERENCES supply (id),
  saved_at  TEXT NOT NULL,
  name      TEXT NOT NULL,
  spec      TEXT NOT NULL CHECK (json_valid(spec))
) STRICT;
CREATE INDEX supply_revision_of_supply ON supply_revision (supply_id, id);
