-- Models that are being changed, and what was published of each. Their names are those of their documents.
CREATE TABLE model_drafts (
    model TEXT PRIMARY KEY,
    -- The document that was in use when it was begun, as it was written.
    base TEXT NOT NULL,
    -- The step that is shown; none where that is what is in use.
    shown_step TEXT,
    updated_at TEXT NOT NULL
) STRICT;
CREATE TABLE model_steps (
    model TEXT NOT NULL REFERENCES model_drafts (model) ON DELETE CASCADE,
    id TEXT NOT NULL,
    -- The step that it was taken from; none for what was in use.
    parent TEXT,
    place INTEGER NOT NULL,
    words TEXT NOT NULL,
    document TEXT NOT NULL CHECK (json_valid(document)),
    -- As somebody wrote it, of a step that was taken in the text.
    text TEXT,
    person TEXT REFERENCES people (id) ON DELETE SET NULL,
    at TEXT NOT NULL,
    PRIMARY KEY (model, id)
) STRICT;
CREATE TABLE model_versions (
    model TEXT NOT NULL,
    number INTEGER NOT NULL,
    text TEXT NOT NULL,
    words TEXT NOT NULL,
    person TEXT REFERENCES people (id) ON DELETE SET NULL,
    at TEXT NOT NULL,
    PRIMARY KEY (model, number)
) STRICT;
-- Where tables stand on a model's plan, where somebody has moved them.
CREATE TABLE plan_places (
    model TEXT NOT NULL,
    table_name TEXT NOT NULL,
    x REAL NOT NULL,
    y REAL NOT NULL,
    PRIMARY KEY (model, table_name)
) STRICT;
-- What was offered of a model and is not wanted.
CREATE TABLE refused_offers (
    model TEXT NOT NULL,
    offer TEXT NOT NULL,
    PRIMARY KEY (model, offer)
) STRICT;
