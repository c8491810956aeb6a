-- Who a person is to the provider that they sign on with. Without a subject they are let in, and have not come yet.
CREATE TABLE identities (
    person TEXT PRIMARY KEY REFERENCES people (id) ON DELETE CASCADE,
    issuer TEXT,
    subject TEXT,
    CHECK ((issuer IS NULL) = (subject IS NULL))
) STRICT, WITHOUT ROWID;
CREATE UNIQUE INDEX identities_once ON identities (issuer, subject);

-- The groups that the provider named for a person when they signed on last.
CREATE TABLE claimed_groups (
    person TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    PRIMARY KEY (person, name)
) STRICT, WITHOUT ROWID;
CREATE INDEX claimed_groups_by_name ON claimed_groups (name);

-- The provider's group whose people are those of this one; one that is filled by hand has none.
ALTER TABLE person_groups ADD COLUMN claim TEXT;
