-- Days on which somebody else looks after a tank: what was set down for them, and the hash of the address that shows it.
CREATE TABLE away (
  id        INTEGER PRIMARY KEY,
  tank_id   INTEGER NOT NULL REFERENCES tank (id),
  first     TEXT NOT NULL,
  last      TEXT NOT NULL,
  told      TEXT NOT NULL,             -- JSON: every, grams, contact, normal, extra
  hash      TEXT UNIQUE,               -- of the secret address; NULL: there is none, or it was withdrawn
  made_at   TEXT NOT NULL,
  ended_at  TEXT
) STRICT;
CREATE INDEX away_of_tank ON away (tank_id, id);

-- What the helper has ticked: the entry that it wrote, which is voided when the tick is taken back.
CREATE TABLE away_tick (
  away_id   INTEGER NOT NULL REFERENCES away (id),
  day       TEXT NOT NULL,
  what      TEXT NOT NULL CHECK (what IN ('fed', 'topped', 'looked')),
  entry_id  INTEGER NOT NULL REFERENCES entry (id),
  at        TEXT NOT NULL,
  PRIMARY KEY (away_id, day, what)
) STRICT, WITHOUT ROWID;
