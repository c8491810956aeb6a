-- When the tables of a model that came from a database are fetched again by themselves, and what became of it last.
CREATE TABLE fetching_times (
    model TEXT PRIMARY KEY,
    owner TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    times TEXT NOT NULL,
    next_at TEXT NOT NULL,
    ended_at TEXT,
    trouble TEXT NOT NULL DEFAULT '',
    hint TEXT NOT NULL DEFAULT ''
) STRICT;
