-- Who may open which model: nobody sees anything of one unless a grant says so, to a person or to a group.
CREATE TABLE person_groups (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL UNIQUE CHECK (length(trim(name)) BETWEEN 1 AND 200)
) STRICT;

CREATE TABLE group_members (
    person_group TEXT NOT NULL REFERENCES person_groups (id) ON DELETE CASCADE,
    person TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    PRIMARY KEY (person_group, person)
) STRICT, WITHOUT ROWID;
CREATE INDEX group_members_by_person ON group_members (person);

-- `role` is one of the model's, by which only some records are seen; '' lets all of them be seen.
CREATE TABLE grants (
    model TEXT NOT NULL,
    person TEXT REFERENCES people (id) ON DELETE CASCADE,
    person_group TEXT REFERENCES person_groups (id) ON DELETE CASCADE,
    role TEXT NOT NULL DEFAULT '',
    CHECK ((person IS NULL) <> (person_group IS NULL))
) STRICT;
CREATE UNIQUE INDEX grants_once ON grants (model, coalesce(person, ''), coalesce(person_group, ''), role);
CREATE INDEX grants_by_person ON grants (person);
CREATE INDEX grants_by_group ON grants (person_group);

INSERT INTO grants (model, person, role) SELECT model, person, role FROM person_roles;
DROP TABLE person_roles;
