-- Models that people brought: whose they are. The documents and the files lie in the folder of that name.
CREATE TABLE models (
    name TEXT PRIMARY KEY,
    caption TEXT NOT NULL,
    owner TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    brought_at TEXT NOT NULL
) STRICT;
CREATE INDEX models_by_owner ON models (owner);
