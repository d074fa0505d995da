-- A form or an API call that was sent twice is one act: the key of what was done, kept with the act itself.
CREATE TABLE sent_once (
  key    TEXT PRIMARY KEY,
  at     TEXT NOT NULL,
  answer TEXT NOT NULL DEFAULT ''  -- where the first one was led on to, or what it was told
) STRICT, WITHOUT ROWID;
CREATE INDEX sent_once_at ON sent_once (at);

-- Who is signed in, by a hash of what their cookie holds. Times in seconds, UTC.
CREATE TABLE session (
  hash       TEXT PRIMARY KEY,
  keeper     TEXT NOT NULL,
  role       TEXT NOT NULL CHECK (role IN ('keeper', 'sitter')),
  device     TEXT NOT NULL,
  begun_at   INTEGER NOT NULL,
  seen_at    INTEGER NOT NULL,
  expires_at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;

-- One-time codes that bring a phone in, by their hash.
CREATE TABLE pairing (
  hash       TEXT PRIMARY KEY,
  keeper     TEXT NOT NULL,
  expires_at INTEGER NOT NULL,
  used_at    INTEGER
) STRICT, WITHOUT ROWID;

-- Bearer tokens of scripts and devices, by their hash.
CREATE TABLE api_token (
  id         INTEGER PRIMARY KEY,
  hash       TEXT NOT NULL UNIQUE,
  name       TEXT NOT NULL,
  scopes     TEXT NOT NULL,
  made_at    INTEGER NOT NULL,
  used_at    INTEGER,
  revoked_at INTEGER
) STRICT;

-- The log of a tank read in order of time, and what an act did.
CREATE INDEX entry_of_tank_and_kind ON entry (tank_id, kind, at_utc);
CREATE INDEX entry_of_act ON entry (act_id);
