CREATE TABLE people (
    id TEXT PRIMARY KEY,
    sign_in TEXT NOT NULL UNIQUE,
    name TEXT NOT NULL,
    password_hash TEXT
) STRICT;

CREATE TABLE sessions (
    token_hash TEXT PRIMARY KEY,
    person TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    csrf TEXT NOT NULL,
    expires_at TEXT NOT NULL
) STRICT;

CREATE TABLE analyses (
    id TEXT PRIMARY KEY,
    model TEXT NOT NULL,
    owner TEXT NOT NULL REFERENCES people (id),
    name TEXT NOT NULL CHECK (length(trim(name)) BETWEEN 1 AND 200),
    description TEXT NOT NULL DEFAULT '',
    folder TEXT NOT NULL DEFAULT '',
    document TEXT NOT NULL CHECK (json_valid(document)),
    sentence TEXT NOT NULL,
    version INTEGER NOT NULL CHECK (version > 0),
    updated_at TEXT NOT NULL
) STRICT;
CREATE INDEX analyses_by_owner ON analyses (owner, folder, name);

CREATE TABLE shares (
    analysis TEXT NOT NULL REFERENCES analyses (id) ON DELETE CASCADE,
    person TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    may_change INTEGER NOT NULL CHECK (may_change IN (0, 1)),
    PRIMARY KEY (analysis, person)
) STRICT, WITHOUT ROWID;
CREATE INDEX shares_by_person ON shares (person);

CREATE TABLE visits (
    analysis TEXT NOT NULL REFERENCES analyses (id) ON DELETE CASCADE,
    person TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    opened_at TEXT NOT NULL,
    PRIMARY KEY (analysis, person)
) STRICT, WITHOUT ROWID;

CREATE TABLE drafts (
    id TEXT PRIMARY KEY,
    person TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    model TEXT NOT NULL,
    analysis TEXT REFERENCES analyses (id) ON DELETE SET NULL,
    analysis_version INTEGER,
    position INTEGER NOT NULL DEFAULT 0 CHECK (position >= 0),
    saved_position INTEGER,
    updated_at TEXT NOT NULL
) STRICT;
CREATE INDEX drafts_by_person ON drafts (person, updated_at);

CREATE TABLE draft_steps (
    draft TEXT NOT NULL REFERENCES drafts (id) ON DELETE CASCADE,
    number INTEGER NOT NULL CHECK (number >= 0),
    words TEXT NOT NULL,
    sentence TEXT NOT NULL,
    document TEXT NOT NULL CHECK (json_valid(document)),
    PRIMARY KEY (draft, number)
) STRICT, WITHOUT ROWID;
