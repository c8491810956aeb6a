-- Views that people send each other: a document as somebody saw it, and a cell of it. A link gives nobody a right.
CREATE TABLE links (
    id TEXT PRIMARY KEY,
    model TEXT NOT NULL,
    -- The analysis that it is a view of, if it was saved.
    item TEXT REFERENCES items (id) ON DELETE CASCADE,
    made_by TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    made_at TEXT NOT NULL,
    document TEXT NOT NULL CHECK (json_valid(document)),
    cell TEXT CHECK (cell IS NULL OR json_valid(cell))
) STRICT;
CREATE INDEX links_by_item ON links (item);
CREATE INDEX links_by_person ON links (made_by);
