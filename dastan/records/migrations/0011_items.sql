-- What people keep is an item, of whatever kind: it has an owner, a name, a place in a folder, and who may do what.
CREATE TABLE folders (
    id TEXT PRIMARY KEY,
    owner TEXT NOT NULL REFERENCES people (id),
    parent TEXT REFERENCES folders (id),
    name TEXT NOT NULL CHECK (length(trim(name)) BETWEEN 1 AND 200),
    -- What the names of new analyses here are made of, in order; nothing for the sentence's own.
    name_parts TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(name_parts)),
    removed_at TEXT
) STRICT;
CREATE INDEX folders_by_parent ON folders (parent);
CREATE INDEX folders_by_owner ON folders (owner);

CREATE TABLE items (
    id TEXT PRIMARY KEY,
    kind TEXT NOT NULL,
    owner TEXT NOT NULL REFERENCES people (id),
    folder TEXT REFERENCES folders (id),
    name TEXT NOT NULL CHECK (length(trim(name)) BETWEEN 1 AND 200),
    description TEXT NOT NULL DEFAULT '',
    -- Which save this is: whoever saves over another one is told.
    version INTEGER NOT NULL CHECK (version > 0),
    updated_at TEXT NOT NULL,
    removed_at TEXT
) STRICT;
CREATE INDEX items_by_owner ON items (owner);
CREATE INDEX items_by_folder ON items (folder);

INSERT INTO folders (id, owner, name)
SELECT lower(hex(randomblob(16))), owner, name
FROM (SELECT DISTINCT owner, substr(trim(folder), 1, 200) AS name FROM analyses WHERE trim(folder) <> '');

INSERT INTO items (id, kind, owner, folder, name, description, version, updated_at, removed_at)
SELECT id, 'analysis', owner,
    (SELECT folders.id FROM folders
     WHERE folders.owner = analyses.owner AND folders.name = substr(trim(analyses.folder), 1, 200)),
    name, description, version, updated_at, removed_at
FROM analyses;

-- Each save of an analysis; the item's version says which of them it is now.
CREATE TABLE analysis_versions (
    analysis TEXT NOT NULL REFERENCES items (id) ON DELETE CASCADE,
    number INTEGER NOT NULL CHECK (number > 0),
    saved_at TEXT NOT NULL,
    saved_by TEXT REFERENCES people (id) ON DELETE SET NULL,
    document TEXT NOT NULL CHECK (json_valid(document)),
    sentence TEXT NOT NULL,
    PRIMARY KEY (analysis, number)
) STRICT, WITHOUT ROWID;
-- Who saved the last version over somebody else's analysis was not noted.
INSERT INTO analysis_versions (analysis, number, saved_at, saved_by, document, sentence)
SELECT id, version, updated_at, CASE WHEN version = 1 THEN owner END, document, sentence FROM analyses;

CREATE TABLE item_grants (
    item TEXT REFERENCES items (id) ON DELETE CASCADE,
    folder TEXT REFERENCES folders (id) ON DELETE CASCADE,
    person TEXT REFERENCES people (id) ON DELETE CASCADE,
    person_group TEXT REFERENCES person_groups (id) ON DELETE CASCADE,
    may TEXT NOT NULL CHECK (may IN ('see', 'explore', 'change', 'manage')),
    CHECK ((item IS NULL) <> (folder IS NULL)),
    CHECK ((person IS NULL) <> (person_group IS NULL))
) STRICT;
CREATE UNIQUE INDEX item_grants_once ON item_grants (
    coalesce(item, ''), coalesce(folder, ''), coalesce(person, ''), coalesce(person_group, '')
);
CREATE INDEX item_grants_by_person ON item_grants (person);
CREATE INDEX item_grants_by_group ON item_grants (person_group);
CREATE INDEX item_grants_by_item ON item_grants (item);
CREATE INDEX item_grants_by_folder ON item_grants (folder);
INSERT INTO item_grants (item, person, may)
SELECT analysis, person, CASE WHEN may_change THEN 'change' ELSE 'explore' END FROM shares;
DROP TABLE shares;

CREATE TABLE favourites (
    item TEXT NOT NULL REFERENCES items (id) ON DELETE CASCADE,
    person TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    PRIMARY KEY (item, person)
) STRICT, WITHOUT ROWID;

CREATE TABLE item_visits (
    item TEXT NOT NULL REFERENCES items (id) ON DELETE CASCADE,
    person TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    opened_at TEXT NOT NULL,
    PRIMARY KEY (item, person)
) STRICT, WITHOUT ROWID;
INSERT INTO item_visits (item, person, opened_at) SELECT analysis, person, opened_at FROM visits;
DROP TABLE visits;

CREATE TABLE analyses_as_items (
    id TEXT PRIMARY KEY REFERENCES items (id) ON DELETE CASCADE,
    model TEXT NOT NULL
) STRICT, WITHOUT ROWID;
INSERT INTO analyses_as_items (id, model) SELECT id, model FROM analyses;
DROP TABLE analyses;
ALTER TABLE analyses_as_items RENAME TO analyses;

-- What happened to which item, so that its own history can be told.
ALTER TABLE events ADD COLUMN item TEXT;
CREATE INDEX events_by_item ON events (item, number) WHERE item IS NOT NULL;
