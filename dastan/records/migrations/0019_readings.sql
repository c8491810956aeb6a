-- When each model's files were read, and what came of it.
CREATE TABLE readings (
    id INTEGER PRIMARY KEY,
    model TEXT NOT NULL,
    began_at TEXT NOT NULL,
    seconds REAL NOT NULL,
    -- Of the document and its files; empty where they could not be read.
    version TEXT NOT NULL,
    records INTEGER NOT NULL,
    noticed INTEGER NOT NULL,
    trouble TEXT NOT NULL,
    hint TEXT NOT NULL
) STRICT;
CREATE INDEX readings_by_model ON readings (model, id);
