-- Chores that a keeper sets down for a tank: their rhythm, and the line that ticking one writes.
CREATE TABLE chore (
  id         INTEGER PRIMARY KEY,
  tank_id    INTEGER NOT NULL REFERENCES tank (id),
  title      TEXT NOT NULL,
  rhythm     TEXT NOT NULL CHECK (rhythm IN ('days', 'weekday', 'after_change')),
  every      INTEGER NOT NULL,         -- days; or the weekday, Monday is 0; of no use after a change
  line       TEXT NOT NULL,            -- shorthand, '' where the tick alone is kept
  made_at    TEXT NOT NULL,
  removed_at TEXT
) STRICT;
CREATE INDEX chore_of_tank ON chore (tank_id, id);
