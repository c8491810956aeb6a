-- Tokens by which a person's other programs read. Who reads the records cannot use them.
CREATE TABLE tokens (
    id TEXT PRIMARY KEY,
    token_hash TEXT NOT NULL UNIQUE,
    person TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    name TEXT NOT NULL CHECK (length(trim(name)) BETWEEN 1 AND 200),
    -- The one thing that it reads; all that its person may see without.
    item TEXT REFERENCES items (id) ON DELETE CASCADE,
    made_at TEXT NOT NULL,
    expires_at TEXT NOT NULL,
    used_at TEXT,
    used_from TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX tokens_by_person ON tokens (person);
