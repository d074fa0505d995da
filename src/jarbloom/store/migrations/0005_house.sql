-- Lookups that would else grow with the square of the log.
CREATE INDEX entry_supersedes ON entry (supersedes) WHERE supersedes IS NOT NULL;
CREATE INDEX act_undoes ON act (undoes) WHERE undoes IS NOT NULL;
CREATE INDEX batch_of_tank ON batch (tank_id);

-- Whose file this is: the keeper's own, or made up by the demo, which may make its own anew and touches no other.
CREATE TABLE file_mark (
  one   INTEGER PRIMARY KEY CHECK (one = 1),
  id    TEXT NOT NULL,
  owner TEXT NOT NULL CHECK (owner IN ('own', 'demo'))
) STRICT;
INSERT INTO file_mark (one, id, owner) VALUES (1, lower(hex(randomblob(16))), 'own');
