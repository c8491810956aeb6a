-- What stands in a shared analysis for keys that its reader may not see, so that saving it puts the keys back.
CREATE TABLE veils (
    token TEXT PRIMARY KEY,
    key TEXT NOT NULL CHECK (json_valid(key))
) STRICT, WITHOUT ROWID;

-- One secret of these records' own, from which nothing outside them can be told.
CREATE TABLE secrets (
    name TEXT PRIMARY KEY,
    value BLOB NOT NULL
) STRICT, WITHOUT ROWID;
