-- Databases that tables are fetched from. The password is sealed; its key is not in these records.
CREATE TABLE data_connections (
    id TEXT PRIMARY KEY,
    caption TEXT NOT NULL,
    host TEXT NOT NULL,
    port INTEGER NOT NULL,
    database_name TEXT NOT NULL,
    sign_in TEXT NOT NULL,
    encryption TEXT NOT NULL CHECK (encryption IN ('prefer', 'require', 'verify-full')),
    sealed BLOB NOT NULL,
    made_by TEXT REFERENCES people (id) ON DELETE SET NULL,
    made_at TEXT NOT NULL
) STRICT;
