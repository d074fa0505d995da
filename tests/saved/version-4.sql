BEGIN TRANSACTION;
CREATE TABLE act (
  id       INTEGER PRIMARY KEY,
  tank_id  INTEGER NOT NULL REFERENCES tank (id),
  kind     TEXT NOT NULL CHECK (kind IN ('log', 'correct', 'void', 'undo', 'import')),
  at       TEXT NOT NULL,
  sentence TEXT NOT NULL,
  undoes   INTEGER REFERENCES act (id)
) STRICT;
INSERT INTO "act" VALUES(1,1,'log','2026-11-04T09:00:00+01:00','Conditioner: 22 mL',NULL);
INSERT INTO "act" VALUES(2,1,'log','2026-11-04T10:00:00+01:00','Ammonia dose: 216 mg N (2 mg/L)',NULL);
INSERT INTO "act" VALUES(3,1,'log','2026-11-05T18:00:00+01:00','Test readings: ammonia 2, nitrite 0, nitrate 5, pH 7.4, KH 6 dKH, temperature 26 °C',NULL);
INSERT INTO "act" VALUES(4,1,'log','2026-11-05T19:00:00+01:00','Bacteria: bottle kept cool and in date, 50 mL, use by 2027-03-31',NULL);
INSERT INTO "act" VALUES(5,1,'log','2026-11-05T20:00:00+01:00','Switched off: UV lamp until 10 Nov',NULL);
INSERT INTO "act" VALUES(6,1,'log','2026-11-10T20:00:00+01:00','Switched on again: UV lamp',NULL);
INSERT INTO "act" VALUES(7,1,'log','2026-11-07T18:00:00+01:00','Test readings: ammonia 4, nitrite .5',NULL);
INSERT INTO "act" VALUES(8,1,'correct','2026-11-07T19:00:00+01:00','Corrected. Test readings: ammonia 1, nitrite 0.5',NULL);
INSERT INTO "act" VALUES(9,1,'correct','2026-11-07T20:00:00+01:00','Corrected. Test readings: ammonia 2, nitrite 0.5',NULL);
INSERT INTO "act" VALUES(10,1,'log','2026-11-08T18:00:00+01:00','Feeding: 0.3 g dry food',NULL);
INSERT INTO "act" VALUES(11,1,'void','2026-11-08T19:00:00+01:00','Voided. Feeding: 0.3 g dry food',NULL);
INSERT INTO "act" VALUES(12,1,'log','2026-11-09T18:00:00+01:00','Water change: 32 L new water (30 %)',NULL);
INSERT INTO "act" VALUES(13,1,'undo','2026-11-09T19:00:00+01:00','Undone. Water change: 32 L new water (30 %)',12);
INSERT INTO "act" VALUES(14,1,'undo','2026-11-09T20:00:00+01:00','Brought back. Water change: 32 L new water (30 %)',13);
INSERT INTO "act" VALUES(15,1,'log','2026-11-10T18:00:00+01:00','Water change: 20 L new water (19 %)',NULL);
INSERT INTO "act" VALUES(16,1,'log','2026-11-11T18:00:00+01:00','Test readings: ammonia 0, nitrite 0',NULL);
INSERT INTO "act" VALUES(17,1,'log','2026-11-11T19:00:00+01:00','Ammonia dose: 209 mg N (0.8 g)',NULL);
INSERT INTO "act" VALUES(18,1,'log','2026-11-12T19:00:00+01:00','Test readings: ammonia 2 masked',NULL);
INSERT INTO "act" VALUES(19,1,'log','2026-11-12T20:00:00+01:00','Test readings: ammonia 0, nitrite 0',NULL);
INSERT INTO "act" VALUES(20,1,'log','2026-11-13T09:00:00+01:00','Top-off: 2 L fresh water',NULL);
INSERT INTO "act" VALUES(21,1,'log','2026-11-13T10:00:00+01:00','Bed disturbed: stirred, 40 % of it',NULL);
INSERT INTO "act" VALUES(22,1,'log','2026-11-13T11:00:00+01:00','Power cut: 6 h without power, filter open to the tank',NULL);
INSERT INTO "act" VALUES(23,1,'log','2026-11-13T12:00:00+01:00','Media cleaning: rinsed in tank water, 50 % of it',NULL);
INSERT INTO "act" VALUES(24,1,'log','2026-11-13T13:00:00+01:00','Live rock: 2 kg, a day or two in wet paper',NULL);
INSERT INTO "act" VALUES(25,1,'log','2026-11-13T14:00:00+01:00','Conditioner: 5 mL, binds ammonia',NULL);
INSERT INTO "act" VALUES(26,1,'log','2026-11-14T09:00:00+01:00','Arrival: 8 harlequin rasboras, from a shop',NULL);
INSERT INTO "act" VALUES(27,1,'log','2026-11-14T10:00:00+01:00','Arrival: 6 guppies, for now, until 24 Dec',NULL);
INSERT INTO "act" VALUES(28,1,'log','2026-11-15T09:00:00+01:00','Heads counted: 8 harlequin rasboras seen',NULL);
INSERT INTO "act" VALUES(29,1,'log','2026-11-16T09:00:00+01:00','Birth: 12 guppies born',NULL);
INSERT INTO "act" VALUES(30,1,'log','2026-11-17T09:00:00+01:00','Found dead: 1 harlequin rasbora found dead, jumped, body found',NULL);
INSERT INTO "act" VALUES(31,1,'log','2026-11-18T09:00:00+01:00','Given away: 4 guppies given away',NULL);
INSERT INTO "act" VALUES(32,1,'log','2026-11-19T09:00:00+01:00','Observation: gasping at the surface, fish gasping',NULL);
INSERT INTO "act" VALUES(33,1,'log','2026-11-19T10:00:00+01:00','Test readings: salinity 1.026 sg (34.5 g/kg)',NULL);
INSERT INTO "act" VALUES(34,1,'log','2026-11-20T09:00:00+01:00','Note: moved the outlet',NULL);
INSERT INTO "act" VALUES(35,1,'log','2026-11-20T10:00:00+01:00','Feeding: a usual ration',NULL);
INSERT INTO "act" VALUES(36,1,'log','2026-11-21T18:00:00+01:00','Test readings: ammonia 0, nitrite 0, nitrate 10, pH 7.2, temperature 25.8 °C',NULL);
INSERT INTO "act" VALUES(37,1,'log','2026-11-22T09:00:00+01:00','2 guppies moved to Landing 60',NULL);
INSERT INTO "act" VALUES(38,2,'log','2026-11-22T09:00:00+01:00','2 guppies moved in from Sunroom 112',NULL);
INSERT INTO "act" VALUES(39,1,'log','2026-11-22T10:00:00+01:00','Equipment check: Drip loop on every cable',NULL);
INSERT INTO "act" VALUES(40,1,'log','2026-11-22T11:00:00+01:00','Quarantine, step and job',NULL);
CREATE TABLE arrival_run (
  id         INTEGER PRIMARY KEY,
  tank_id    INTEGER NOT NULL REFERENCES tank (id),
  batch_id   INTEGER REFERENCES batch (id),
  begun_at   TEXT NOT NULL,
  spec       TEXT NOT NULL CHECK (json_valid(spec)),
  ended_at   TEXT,
  how_ended  TEXT CHECK (how_ended IN ('in', 'given up'))
) STRICT;
CREATE TABLE arrival_step (
  run_id INTEGER NOT NULL REFERENCES arrival_run (id),
  step   TEXT NOT NULL,
  at     TEXT NOT NULL,
  PRIMARY KEY (run_id, step)
) STRICT, WITHOUT ROWID;
CREATE TABLE batch (
  id         INTEGER PRIMARY KEY,
  tank_id    INTEGER NOT NULL REFERENCES tank (id),
  name       TEXT NOT NULL,
  planned    TEXT NOT NULL,
  removed_at TEXT
, locked INTEGER NOT NULL DEFAULT 0 CHECK (locked IN (0, 1))) STRICT;
INSERT INTO "batch" VALUES(1,1,'Batch one','2026-12-03',NULL,0);
INSERT INTO "batch" VALUES(2,1,'Batch two','2026-12-03',NULL,0);
CREATE TABLE batch_item (
  batch_id  INTEGER NOT NULL REFERENCES batch (id),
  species   TEXT NOT NULL,
  count     INTEGER NOT NULL CHECK (count > 0),
  length_cm REAL,
  PRIMARY KEY (batch_id, species)
) STRICT, WITHOUT ROWID;
INSERT INTO "batch_item" VALUES(2,'kuhli_loach',6,NULL);
CREATE TABLE calendar_tank (
  tank_id INTEGER PRIMARY KEY REFERENCES tank (id),
  listed  INTEGER NOT NULL CHECK (listed IN (0, 1))
) STRICT;
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
INSERT INTO "entry" VALUES(1,1,1,'conditioner','2026-11-04T09:00:00+01:00',1793779200,'Europe/Berlin','K','','{"typed": "22 ml", "ml": 22.0, "detoxifies": false}',NULL,'2026-11-04T09:00:00+01:00');
INSERT INTO "entry" VALUES(2,1,2,'dose','2026-11-04T10:00:00+01:00',1793782800,'Europe/Berlin','K','','{"mg_n": 216.16, "typed": "2 mg/L", "amount": 2.0, "unit": "mg/L"}',NULL,'2026-11-04T10:00:00+01:00');
INSERT INTO "entry" VALUES(3,1,3,'test','2026-11-05T18:00:00+01:00',1793898000,'Europe/Berlin','K','','{}',NULL,'2026-11-05T18:00:00+01:00');
INSERT INTO "entry" VALUES(4,1,4,'bacteria','2026-11-05T19:00:00+01:00',1793901600,'Europe/Berlin','K','','{"source": "bottle_cool", "ml": 50.0, "use_by": "2027-03-31"}',NULL,'2026-11-05T19:00:00+01:00');
INSERT INTO "entry" VALUES(5,1,5,'off','2026-11-05T20:00:00+01:00',1793905200,'Europe/Berlin','K','','{"device": "uv", "until": "2026-11-10"}',NULL,'2026-11-05T20:00:00+01:00');
INSERT INTO "entry" VALUES(6,1,6,'on','2026-11-10T20:00:00+01:00',1794337200,'Europe/Berlin','K','','{"device": "uv"}',NULL,'2026-11-10T20:00:00+01:00');
INSERT INTO "entry" VALUES(7,1,7,'test','2026-11-07T18:00:00+01:00',1794070800,'Europe/Berlin','K','','{}',NULL,'2026-11-07T18:00:00+01:00');
INSERT INTO "entry" VALUES(8,1,8,'test','2026-11-07T19:00:00+01:00',1794074400,'Europe/Berlin','K','misread','{}',7,'2026-11-07T19:00:00+01:00');
INSERT INTO "entry" VALUES(9,1,9,'test','2026-11-07T20:00:00+01:00',1794078000,'Europe/Berlin','K','misread again','{}',8,'2026-11-07T20:00:00+01:00');
INSERT INTO "entry" VALUES(10,1,10,'feed','2026-11-08T18:00:00+01:00',1794157200,'Europe/Berlin','K','','{"typed": "0.3 g", "grams": 0.3}',NULL,'2026-11-08T18:00:00+01:00');
INSERT INTO "entry" VALUES(11,1,12,'change','2026-11-09T18:00:00+01:00',1794243600,'Europe/Berlin','K','','{"typed": "30 %", "fraction": 0.3, "litres": 32.424}',NULL,'2026-11-09T18:00:00+01:00');
INSERT INTO "entry" VALUES(12,1,15,'change','2026-11-10T18:00:00+01:00',1794330000,'Europe/Berlin','K','','{"litres": 20.0, "source_ph": 7.8, "source_kh": 9.0, "source_ammonia": 0.2, "source_nitrate": 2.0, "fraction": 0.1850481125092524}',NULL,'2026-11-10T18:00:00+01:00');
INSERT INTO "entry" VALUES(13,1,16,'test','2026-11-11T18:00:00+01:00',1794416400,'Europe/Berlin','K','','{}',NULL,'2026-11-11T18:00:00+01:00');
INSERT INTO "entry" VALUES(14,1,17,'dose','2026-11-11T19:00:00+01:00',1794420000,'Europe/Berlin','K','','{"mg_n": 209.4857078760913, "typed": "0.8 g", "amount": 0.8, "unit": "g"}',NULL,'2026-11-11T19:00:00+01:00');
INSERT INTO "entry" VALUES(15,1,18,'test','2026-11-12T19:00:00+01:00',1794506400,'Europe/Berlin','K','','{}',NULL,'2026-11-12T19:00:00+01:00');
INSERT INTO "entry" VALUES(16,1,19,'test','2026-11-12T20:00:00+01:00',1794510000,'Europe/Berlin','K','','{}',NULL,'2026-11-12T20:00:00+01:00');
INSERT INTO "entry" VALUES(17,1,20,'topoff','2026-11-13T09:00:00+01:00',1794556800,'Europe/Berlin','K','','{"typed": "2 L", "litres": 2.0}',NULL,'2026-11-13T09:00:00+01:00');
INSERT INTO "entry" VALUES(18,1,21,'bed','2026-11-13T10:00:00+01:00',1794560400,'Europe/Berlin','K','','{"share": 40.0}',NULL,'2026-11-13T10:00:00+01:00');
INSERT INTO "entry" VALUES(19,1,22,'power','2026-11-13T11:00:00+01:00',1794564000,'Europe/Berlin','K','','{"hours": 6.0, "where": "open"}',NULL,'2026-11-13T11:00:00+01:00');
INSERT INTO "entry" VALUES(20,1,23,'media','2026-11-13T12:00:00+01:00',1794567600,'Europe/Berlin','K','','{"how": "tank_water", "share": 50.0}',NULL,'2026-11-13T12:00:00+01:00');
INSERT INTO "entry" VALUES(21,1,24,'rock','2026-11-13T13:00:00+01:00',1794571200,'Europe/Berlin','K','','{"kg": 2.0, "condition": "shipped"}',NULL,'2026-11-13T13:00:00+01:00');
INSERT INTO "entry" VALUES(22,1,25,'conditioner','2026-11-13T14:00:00+01:00',1794574800,'Europe/Berlin','K','','{"typed": "5 ml", "ml": 5.0, "detoxifies": true}',NULL,'2026-11-13T14:00:00+01:00');
INSERT INTO "entry" VALUES(23,1,26,'arrival','2026-11-14T09:00:00+01:00',1794643200,'Europe/Berlin','K','','{"species": "harlequin_rasbora", "count": 8, "length_cm": 3.0, "seller": "a shop", "price": 24.0, "tank_bred": "yes"}',NULL,'2026-11-14T09:00:00+01:00');
INSERT INTO "entry" VALUES(24,1,27,'arrival','2026-11-14T10:00:00+01:00',1794646800,'Europe/Berlin','K','','{"species": "guppy", "count": 6, "until": "2026-12-24"}',NULL,'2026-11-14T10:00:00+01:00');
INSERT INTO "entry" VALUES(25,1,28,'count','2026-11-15T09:00:00+01:00',1794729600,'Europe/Berlin','K','','{"species": "harlequin_rasbora", "count": 8}',NULL,'2026-11-15T09:00:00+01:00');
INSERT INTO "entry" VALUES(26,1,29,'birth','2026-11-16T09:00:00+01:00',1794816000,'Europe/Berlin','K','','{"species": "guppy", "count": 12}',NULL,'2026-11-16T09:00:00+01:00');
INSERT INTO "entry" VALUES(27,1,30,'death','2026-11-17T09:00:00+01:00',1794902400,'Europe/Berlin','K','','{"species": "harlequin_rasbora", "count": 1, "cause": "jumped", "body": "found"}',NULL,'2026-11-17T09:00:00+01:00');
INSERT INTO "entry" VALUES(28,1,31,'given','2026-11-18T09:00:00+01:00',1794988800,'Europe/Berlin','K','','{"species": "guppy", "count": 4}',NULL,'2026-11-18T09:00:00+01:00');
INSERT INTO "entry" VALUES(29,1,32,'observation','2026-11-19T09:00:00+01:00',1795075200,'Europe/Berlin','K','','{"signs": ["gasping"], "text": "fish gasping"}',NULL,'2026-11-19T09:00:00+01:00');
INSERT INTO "entry" VALUES(30,1,33,'test','2026-11-19T10:00:00+01:00',1795078800,'Europe/Berlin','K','','{}',NULL,'2026-11-19T10:00:00+01:00');
INSERT INTO "entry" VALUES(31,1,34,'note','2026-11-20T09:00:00+01:00',1795161600,'Europe/Berlin','K','','{"text": "moved the outlet"}',NULL,'2026-11-20T09:00:00+01:00');
INSERT INTO "entry" VALUES(32,1,35,'feed','2026-11-20T10:00:00+01:00',1795165200,'Europe/Berlin','K','','{}',NULL,'2026-11-20T10:00:00+01:00');
INSERT INTO "entry" VALUES(33,1,36,'test','2026-11-21T18:00:00+01:00',1795280400,'Europe/Berlin','K','','{}',NULL,'2026-11-21T18:00:00+01:00');
INSERT INTO "entry" VALUES(34,1,37,'moved','2026-11-22T09:00:00+01:00',1795334400,'Europe/Berlin','K','','{"group": 24, "species": "guppy", "count": 2, "to": "Landing 60"}',NULL,'2026-11-22T09:00:00+01:00');
INSERT INTO "entry" VALUES(35,2,38,'arrival','2026-11-22T09:00:00+01:00',1795334400,'Europe/Berlin','K','','{"override": "a reason of the keeper", "species": "guppy", "count": 2, "length_cm": 2.6, "seller": "Sunroom 112"}',NULL,'2026-11-22T09:00:00+01:00');
INSERT INTO "entry" VALUES(36,1,39,'check','2026-11-22T10:00:00+01:00',1795338000,'Europe/Berlin','K','','{"check": "drip_loop", "title": "Drip loop on every cable", "fault": true, "text": "a gap"}',NULL,'2026-11-22T10:00:00+01:00');
INSERT INTO "entry" VALUES(37,1,40,'quarantine','2026-11-22T11:00:00+01:00',1795341600,'Europe/Berlin','K','','{"batch": 2, "species": "kuhli_loach", "count": 6, "until": "2026-12-20", "seller": "a shop"}',NULL,'2026-11-22T11:00:00+01:00');
INSERT INTO "entry" VALUES(38,1,40,'step','2026-11-22T11:00:00+01:00',1795341600,'Europe/Berlin','K','','{"step": "fill", "title": "Fill", "amount": "100 L"}',NULL,'2026-11-22T11:00:00+01:00');
INSERT INTO "entry" VALUES(39,1,40,'job','2026-11-22T11:00:00+01:00',1795341600,'Europe/Berlin','K','','{"job": "feed", "how": "snoozed", "title": "Feed", "until": "2026-11-26", "text": "away"}',NULL,'2026-11-22T11:00:00+01:00');
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
CREATE TABLE house_revision (
  id       INTEGER PRIMARY KEY,
  thing_id INTEGER NOT NULL REFERENCES house_thing (id),
  saved_at TEXT NOT NULL,
  name     TEXT NOT NULL,
  spec     TEXT NOT NULL CHECK (json_valid(spec))
) STRICT;
CREATE TABLE house_thing (
  id         INTEGER PRIMARY KEY,
  kind       TEXT NOT NULL CHECK (kind IN ('water', 'instrument')),
  removed_at TEXT
) STRICT;
CREATE TABLE mark (
  id       INTEGER PRIMARY KEY,
  act_id   INTEGER NOT NULL REFERENCES act (id),
  entry_id INTEGER NOT NULL REFERENCES entry (id),
  live     INTEGER NOT NULL CHECK (live IN (0, 1))
) STRICT;
INSERT INTO "mark" VALUES(1,1,1,1);
INSERT INTO "mark" VALUES(2,2,2,1);
INSERT INTO "mark" VALUES(3,3,3,1);
INSERT INTO "mark" VALUES(4,4,4,1);
INSERT INTO "mark" VALUES(5,5,5,1);
INSERT INTO "mark" VALUES(6,6,6,1);
INSERT INTO "mark" VALUES(7,7,7,1);
INSERT INTO "mark" VALUES(8,8,8,1);
INSERT INTO "mark" VALUES(9,8,7,0);
INSERT INTO "mark" VALUES(10,9,9,1);
INSERT INTO "mark" VALUES(11,9,8,0);
INSERT INTO "mark" VALUES(12,10,10,1);
INSERT INTO "mark" VALUES(13,11,10,0);
INSERT INTO "mark" VALUES(14,12,11,1);
INSERT INTO "mark" VALUES(15,13,11,0);
INSERT INTO "mark" VALUES(16,14,11,1);
INSERT INTO "mark" VALUES(17,15,12,1);
INSERT INTO "mark" VALUES(18,16,13,1);
INSERT INTO "mark" VALUES(19,17,14,1);
INSERT INTO "mark" VALUES(20,18,15,1);
INSERT INTO "mark" VALUES(21,19,16,1);
INSERT INTO "mark" VALUES(22,20,17,1);
INSERT INTO "mark" VALUES(23,21,18,1);
INSERT INTO "mark" VALUES(24,22,19,1);
INSERT INTO "mark" VALUES(25,23,20,1);
INSERT INTO "mark" VALUES(26,24,21,1);
INSERT INTO "mark" VALUES(27,25,22,1);
INSERT INTO "mark" VALUES(28,26,23,1);
INSERT INTO "mark" VALUES(29,27,24,1);
INSERT INTO "mark" VALUES(30,28,25,1);
INSERT INTO "mark" VALUES(31,29,26,1);
INSERT INTO "mark" VALUES(32,30,27,1);
INSERT INTO "mark" VALUES(33,31,28,1);
INSERT INTO "mark" VALUES(34,32,29,1);
INSERT INTO "mark" VALUES(35,33,30,1);
INSERT INTO "mark" VALUES(36,34,31,1);
INSERT INTO "mark" VALUES(37,35,32,1);
INSERT INTO "mark" VALUES(38,36,33,1);
INSERT INTO "mark" VALUES(39,37,34,1);
INSERT INTO "mark" VALUES(40,38,35,1);
INSERT INTO "mark" VALUES(41,39,36,1);
INSERT INTO "mark" VALUES(42,40,37,1);
INSERT INTO "mark" VALUES(43,40,38,1);
INSERT INTO "mark" VALUES(44,40,39,1);
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
CREATE TABLE plan_change (
  id        INTEGER PRIMARY KEY,
  tank_id   INTEGER NOT NULL REFERENCES tank (id),
  at        TEXT NOT NULL,
  sentence  TEXT NOT NULL,
  before    TEXT NOT NULL CHECK (json_valid(before)),
  undone_at TEXT
) STRICT;
INSERT INTO "plan_change" VALUES(1,1,'2026-11-22T11:00:00+01:00','A batch was planned for 3 Dec','[]',NULL);
CREATE TABLE preference (
  key   TEXT PRIMARY KEY,
  value TEXT NOT NULL
) STRICT, WITHOUT ROWID;
INSERT INTO "preference" VALUES('zone','Europe/Berlin');
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
CREATE TABLE "reading" (
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
INSERT INTO "reading" VALUES(3,'ammonia','2',2.0,1.5,3.0,0.75,6.0,'N',0.17,7,0);
INSERT INTO "reading" VALUES(3,'kh','6',6.0,5.5,6.5,5.0,7.0,'',0.0,1,0);
INSERT INTO "reading" VALUES(3,'nitrate','5',1.12952390168376237689e+00,5.64761950841881188445e-01,1.69428585252564367635e+00,0.0,3.38857170505128735271e+00,'NO3',0.17,7,0);
INSERT INTO "reading" VALUES(3,'nitrite','0',0.0,0.0,0.125,0.0,0.375,'N',0.17,6,0);
INSERT INTO "reading" VALUES(3,'ph','7.4',7.4,7.2,7.6000000000000005329e+00,7.0,7.80000000000000071054e+00,'',0.0,1,0);
INSERT INTO "reading" VALUES(3,'temp','26 °C',26.0,25.7,26.3,25.4,26.6,'',0.0,1,0);
INSERT INTO "reading" VALUES(7,'ammonia','4',4.0,3.0,6.0,1.5,NULL,'N',0.17,7,0);
INSERT INTO "reading" VALUES(7,'nitrite','.5',0.5,0.375,0.75,0.125,1.5,'N',0.17,6,0);
INSERT INTO "reading" VALUES(8,'ammonia','1',1.0,0.75,1.5,0.375,3.0,'N',0.17,7,0);
INSERT INTO "reading" VALUES(8,'nitrite','0.5',0.5,0.375,0.75,0.125,1.5,'N',0.17,6,0);
INSERT INTO "reading" VALUES(9,'ammonia','2',2.0,1.5,3.0,0.75,6.0,'N',0.17,7,0);
INSERT INTO "reading" VALUES(9,'nitrite','0.5',0.5,0.375,0.75,0.125,1.5,'N',0.17,6,0);
INSERT INTO "reading" VALUES(13,'ammonia','0',0.0,0.0,0.125,0.0,0.375,'N',0.17,7,0);
INSERT INTO "reading" VALUES(13,'nitrite','0',0.0,0.0,0.125,0.0,0.375,'N',0.17,6,0);
INSERT INTO "reading" VALUES(15,'ammonia','2 masked',2.0,1.5,3.0,0.75,6.0,'N',0.17,7,1);
INSERT INTO "reading" VALUES(16,'ammonia','0',0.0,0.0,0.125,0.0,0.375,'N',0.17,7,0);
INSERT INTO "reading" VALUES(16,'nitrite','0',0.0,0.0,0.125,0.0,0.375,'N',0.17,6,0);
INSERT INTO "reading" VALUES(30,'salinity','1.026 sg',3.45059485090041562216e+01,3.4005948509004156222e+01,3.50059485090041562212e+01,3.35059485090041562225e+01,3.55059485090041562207e+01,'',0.0,1,0);
INSERT INTO "reading" VALUES(33,'ammonia','0',0.0,0.0,0.125,0.0,0.375,'N',0.17,7,0);
INSERT INTO "reading" VALUES(33,'nitrate','10',2.25904780336752475378e+00,1.69428585252564367635e+00,3.38857170505128735271e+00,5.64761950841881188445e-01,6.77714341010257470543e+00,'NO3',0.17,7,0);
INSERT INTO "reading" VALUES(33,'nitrite','0',0.0,0.0,0.125,0.0,0.375,'N',0.17,6,0);
INSERT INTO "reading" VALUES(33,'ph','7.2',7.2,7.0,7.4,6.8,7.6000000000000005329e+00,'',0.0,1,0);
INSERT INTO "reading" VALUES(33,'temp','25.8 °C',25.8,25.5,26.1,25.2,2.64000000000000021324e+01,'',0.0,1,0);
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
CREATE TABLE tank (
  id          INTEGER PRIMARY KEY,
  slug        TEXT NOT NULL UNIQUE,
  created_at  TEXT NOT NULL,
  archived_at TEXT
) STRICT;
INSERT INTO "tank" VALUES(1,'sunroom-112','2026-11-04T18:40:00+01:00',NULL);
INSERT INTO "tank" VALUES(2,'landing-60','2026-11-21T19:00:00+01:00',NULL);
CREATE TABLE tank_revision (
  id       INTEGER PRIMARY KEY,
  tank_id  INTEGER NOT NULL REFERENCES tank (id),
  saved_at TEXT NOT NULL,
  name     TEXT NOT NULL,
  spec     TEXT NOT NULL CHECK (json_valid(spec))
) STRICT;
INSERT INTO "tank_revision" VALUES(1,1,'2026-11-04T18:40:00+01:00','Sunroom 112','{"name": "Sunroom 112", "started": "2026-11-02", "length_cm": 80, "width_cm": 35, "height_cm": 45, "waterline_cm": 4, "shape": "box", "bow_cm": null, "outside": false, "glass_mm": 8.0, "substrate": "sand", "substrate_cm": 4, "substrate_back_cm": null, "decor": [], "sump_l": 0.0, "measured_l": null, "temp_c": 26, "ph": 7.4, "kh_dkh": 5.0, "salinity_g_kg": 0.0, "filters": [{"name": "filter", "kind": "internal", "nominal_l_h": 400.0, "real_share": 1.0, "media": "foam", "media_l": 2.1, "water_l": 0.0}], "heaters": [{"watts": 100.0, "set_c": null}], "turnover": "general", "surface": "rippled", "room_c": 20.0, "room_rh": 50.0, "devices": [], "lid": true, "planted": false, "filled": true, "kit": {"kind": "liquid", "ammonia": {"steps": [0, 0.25, 0.5, 1, 2, 4, 8], "form": "N"}, "nitrite": {"steps": [0, 0.25, 0.5, 1, 2, 5], "form": "N"}, "nitrate": {"steps": [0, 5, 10, 20, 40, 80, 160], "form": "NO3"}, "misread": 0.17}, "source": {"ph": 7.6, "kh_dkh": 6.0, "ammonia_mg_n_l": 0.0, "nitrate_mg_n_l": 1.0, "cold_c": 12.0, "hot_c": 55.0, "gh_dgh": null, "tds_mg_l": null, "phosphate_mg_l": null, "chlorine": "unknown", "chlorine_mg_l": null, "name": ""}, "salt_factor": 1.05, "school": "measured_dose", "corrective": "firm", "pace": "belt_and_braces", "marine_nitrite": "strict", "minimum": "cautious", "quarantine": "in_place", "quarantine_days": null, "acclimatising": "", "bag_water": "never", "target_mg_n_l": 2.0, "dose_from": "chloride", "solution_percent": 9.5, "conditioner_ml_per_100l": 20.0, "conditioner_whole_tank": false, "typed": {}}');
INSERT INTO "tank_revision" VALUES(2,2,'2026-11-21T19:00:00+01:00','Landing 60','{"name": "Landing 60", "started": "2026-10-25", "length_cm": 80, "width_cm": 35, "height_cm": 45, "waterline_cm": 4, "shape": "box", "bow_cm": null, "outside": false, "glass_mm": 8.0, "substrate": "sand", "substrate_cm": 4, "substrate_back_cm": null, "decor": [], "sump_l": 0.0, "measured_l": null, "temp_c": 26, "ph": 7.4, "kh_dkh": 5.0, "salinity_g_kg": 0.0, "filters": [{"name": "filter", "kind": "internal", "nominal_l_h": 400.0, "real_share": 1.0, "media": "foam", "media_l": 2.1, "water_l": 0.0}], "heaters": [{"watts": 100.0, "set_c": null}], "turnover": "general", "surface": "rippled", "room_c": 20.0, "room_rh": 50.0, "devices": [], "lid": true, "planted": false, "filled": true, "kit": {"kind": "liquid", "ammonia": {"steps": [0, 0.25, 0.5, 1, 2, 4, 8], "form": "N"}, "nitrite": {"steps": [0, 0.25, 0.5, 1, 2, 5], "form": "N"}, "nitrate": {"steps": [0, 5, 10, 20, 40, 80, 160], "form": "NO3"}, "misread": 0.17}, "source": {"ph": 7.6, "kh_dkh": 6.0, "ammonia_mg_n_l": 0.0, "nitrate_mg_n_l": 1.0, "cold_c": 12.0, "hot_c": 55.0, "gh_dgh": null, "tds_mg_l": null, "phosphate_mg_l": null, "chlorine": "unknown", "chlorine_mg_l": null, "name": ""}, "salt_factor": 1.05, "school": "measured_dose", "corrective": "firm", "pace": "belt_and_braces", "marine_nitrite": "strict", "minimum": "cautious", "quarantine": "in_place", "quarantine_days": null, "acclimatising": "", "bag_water": "never", "target_mg_n_l": 2.0, "dose_from": "chloride", "solution_percent": 9.5, "conditioner_ml_per_100l": null, "conditioner_whole_tank": false, "typed": {}}');
CREATE INDEX tank_revision_of_tank ON tank_revision (tank_id, id);
CREATE INDEX act_of_tank ON act (tank_id, id);
CREATE INDEX entry_of_tank ON entry (tank_id, at_utc);
CREATE INDEX mark_of_entry ON mark (entry_id, id);
CREATE INDEX mark_of_act ON mark (act_id);
CREATE TRIGGER entry_is_written_once BEFORE UPDATE ON entry
BEGIN SELECT RAISE(ABORT, 'an entry is never overwritten: correct or void it'); END;
CREATE TRIGGER entry_is_never_lost BEFORE DELETE ON entry
BEGIN SELECT RAISE(ABORT, 'an entry is never deleted: void it'); END;
CREATE TRIGGER mark_is_written_once BEFORE UPDATE ON mark
BEGIN SELECT RAISE(ABORT, 'a mark is never overwritten'); END;
CREATE TRIGGER mark_is_never_lost BEFORE DELETE ON mark
BEGIN SELECT RAISE(ABORT, 'a mark is never deleted'); END;
CREATE TRIGGER reading_is_written_once BEFORE UPDATE ON reading
BEGIN SELECT RAISE(ABORT, 'a reading is never overwritten: correct its entry'); END;
CREATE TRIGGER reading_is_never_lost BEFORE DELETE ON reading
BEGIN SELECT RAISE(ABORT, 'a reading is never deleted: void its entry'); END;
CREATE INDEX house_revision_of_thing ON house_revision (thing_id, id);
CREATE INDEX plan_change_of_tank ON plan_change (tank_id, id);
CREATE INDEX own_species_revision_of_key ON own_species_revision (key, id);
CREATE INDEX arrival_run_of_tank ON arrival_run (tank_id, id);
COMMIT;
