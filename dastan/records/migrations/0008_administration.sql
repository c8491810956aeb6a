-- Links by which somebody chooses a password: once, and until they expire. Who reads the records cannot use them.
CREATE TABLE invites (
    token_hash TEXT PRIMARY KEY,
    person TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    expires_at TEXT NOT NULL
) STRICT;
CREATE INDEX invites_by_person ON invites (person);

-- The person as whom an administrator looks at models in this session; nobody usually.
ALTER TABLE sessions ADD COLUMN sees_as TEXT REFERENCES people (id) ON DELETE SET NULL;
