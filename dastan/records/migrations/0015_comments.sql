-- What people say of an analysis, or of one of its cells.
CREATE TABLE comments (
    id TEXT PRIMARY KEY,
    item TEXT NOT NULL REFERENCES items (id) ON DELETE CASCADE,
    author TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    said_at TEXT NOT NULL,
    text TEXT NOT NULL CHECK (length(trim(text)) BETWEEN 1 AND 4000),
    -- The cell by its members and measure; none for the whole analysis.
    cell TEXT CHECK (cell IS NULL OR json_valid(cell))
) STRICT;
CREATE INDEX comments_by_item ON comments (item, said_at);
CREATE INDEX comments_by_author ON comments (author);

CREATE TABLE mentions (
    comment TEXT NOT NULL REFERENCES comments (id) ON DELETE CASCADE,
    person TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    read_at TEXT,
    PRIMARY KEY (comment, person)
) STRICT, WITHOUT ROWID;
CREATE INDEX mentions_unread ON mentions (person) WHERE read_at IS NULL;
