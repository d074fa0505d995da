-- Salinity is a reading too, and a reading can be masked: kept and shown, but not believed.
CREATE TABLE reading_2 (
  entry_id   INTEGER NOT NULL REFERENCES entry (id),
  quantity   TEXT NOT NULL CHECK (quantity IN ('ammonia', 'nitrite', 'nitrate', 'ph', 'kh', 'temp', 'salinity')),
  typed      TEXT NOT NULL,
  seen       REAL NOT NULL,      -- canonical: mg N/L, pH, dKH, deg C, g/kg
  low        REAL NOT NULL,
  high       REAL,               -- NULL: the kit's open top
  outer_low  REAL NOT NULL,
  outer_high REAL,
  form       TEXT NOT NULL,
  misread    REAL NOT NULL,
  n_steps    INTEGER NOT NULL,
  masked     INTEGER NOT NULL DEFAULT 0 CHECK (masked IN (0, 1)),
  PRIMARY KEY (entry_id, quantity)
) STRICT, WITHOUT ROWID;

INSERT INTO reading_2 (entry_id, quantity, typed, seen, low, high, outer_low, outer_high, form, misread, n_steps)
SELECT entry_id, quantity, typed, seen, low, high, outer_low, outer_high, form, misread, n_steps FROM reading;

DROP TABLE reading;
ALTER TABLE reading_2 RENAME TO reading;

CREATE TRIGGER reading_is_written_once BEFORE UPDATE ON reading
BEGIN SELECT RAISE(ABORT, 'a reading is never overwritten: correct its entry'); END;
CREATE TRIGGER reading_is_never_lost BEFORE DELETE ON reading
BEGIN SELECT RAISE(ABORT, 'a reading is never deleted: void its entry'); END;
