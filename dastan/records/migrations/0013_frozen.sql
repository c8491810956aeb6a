-- Numbers as they were when somebody froze an analysis: the item's one version has the document.
CREATE TABLE frozen_copies (
    id TEXT PRIMARY KEY REFERENCES items (id) ON DELETE CASCADE,
    -- The analysis that it was frozen from, if it was saved.
    of_analysis TEXT REFERENCES items (id) ON DELETE SET NULL,
    frozen_at TEXT NOT NULL,
    frozen_by TEXT NOT NULL,
    data_to TEXT,
    -- What the roles were called by which its author saw the records; none of them for all records.
    seen_as TEXT NOT NULL CHECK (json_valid(seen_as)),
    -- The model as it was, and what the source replied.
    model_document TEXT NOT NULL CHECK (json_valid(model_document)),
    numbers BLOB NOT NULL
) STRICT;
