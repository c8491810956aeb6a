-- What was done by whom, for administrators: signed in, failed, shared, rights changed. Nothing here is ever changed.
CREATE TABLE events (
    number INTEGER PRIMARY KEY,
    at TEXT NOT NULL,
    kind TEXT NOT NULL,
    person TEXT,
    about TEXT NOT NULL DEFAULT '',
    address TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX events_by_person ON events (person, number);

-- A session can be told apart from the others of its person, and ended.
DROP TABLE sessions;
CREATE TABLE sessions (
    token_hash TEXT PRIMARY KEY,
    id TEXT NOT NULL UNIQUE,
    person TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    csrf TEXT NOT NULL,
    began_at TEXT NOT NULL,
    expires_at TEXT NOT NULL,
    address TEXT NOT NULL DEFAULT '',
    browser TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX sessions_by_person ON sessions (person, began_at);

ALTER TABLE people ADD COLUMN is_administrator INTEGER NOT NULL DEFAULT 0 CHECK (is_administrator IN (0, 1));
-- Somebody who may not sign in any more; what they own stays.
ALTER TABLE people ADD COLUMN disabled_at TEXT;
