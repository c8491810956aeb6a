-- Which of a model's roles a person has. Without any, a person sees every record of it.
CREATE TABLE person_roles (
    person TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    model TEXT NOT NULL,
    role TEXT NOT NULL,
    PRIMARY KEY (person, model, role)
) STRICT, WITHOUT ROWID;
