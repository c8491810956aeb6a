-- What is made of an analysis at times that its owner sets.
CREATE TABLE schedules (
    id TEXT PRIMARY KEY,
    item TEXT NOT NULL REFERENCES items (id) ON DELETE CASCADE,
    owner TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    -- What is made: "table.xlsx", or "frozen".
    makes TEXT NOT NULL,
    times TEXT NOT NULL CHECK (json_valid(times)),
    is_mailed INTEGER NOT NULL CHECK (is_mailed IN (0, 1)),
    next_at TEXT NOT NULL
) STRICT;
CREATE INDEX schedules_by_time ON schedules (next_at);
CREATE INDEX schedules_by_owner ON schedules (owner);

-- Work that goes on by itself: of whom, of what, how far it came, and what it made.
CREATE TABLE jobs (
    id TEXT PRIMARY KEY,
    owner TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    item TEXT NOT NULL REFERENCES items (id) ON DELETE CASCADE,
    schedule TEXT REFERENCES schedules (id) ON DELETE SET NULL,
    makes TEXT NOT NULL,
    is_mailed INTEGER NOT NULL CHECK (is_mailed IN (0, 1)),
    state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'failed', 'taken_back')),
    -- How often it was begun: a server that ends in the middle begins it again, and not for ever.
    tries INTEGER NOT NULL DEFAULT 0,
    asked_at TEXT NOT NULL,
    ended_at TEXT,
    -- The frozen copy that it made; a file lies beside the records under the job's id.
    result_item TEXT REFERENCES items (id) ON DELETE SET NULL,
    file_bytes INTEGER,
    trouble TEXT NOT NULL DEFAULT '',
    hint TEXT NOT NULL DEFAULT '',
    -- Whether its owner has read that it failed.
    is_read INTEGER NOT NULL DEFAULT 0 CHECK (is_read IN (0, 1))
) STRICT;
CREATE INDEX jobs_by_owner ON jobs (owner, asked_at);
CREATE INDEX jobs_by_item ON jobs (item);
CREATE INDEX jobs_by_schedule ON jobs (schedule);
CREATE INDEX jobs_by_result ON jobs (result_item) WHERE result_item IS NOT NULL;
