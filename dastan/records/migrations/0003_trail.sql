-- The trail becomes a tree: a step after an undo branches off, and nothing that was done is lost.
CREATE TABLE trail_steps (
    draft TEXT NOT NULL REFERENCES drafts (id) ON DELETE CASCADE,
    id TEXT NOT NULL,
    place INTEGER NOT NULL,
    parent TEXT,
    words TEXT NOT NULL,
    name TEXT NOT NULL DEFAULT '' CHECK (length(name) <= 200),
    sentence TEXT NOT NULL,
    document TEXT NOT NULL CHECK (json_valid(document)),
    PRIMARY KEY (draft, id)
) STRICT, WITHOUT ROWID;
CREATE INDEX trail_steps_in_order ON trail_steps (draft, place);

INSERT INTO trail_steps (draft, id, place, parent, words, sentence, document)
SELECT draft, CAST(number AS TEXT), number, CASE WHEN number > 0 THEN CAST(number - 1 AS TEXT) END, words, sentence,
    document
FROM draft_steps;
DROP TABLE draft_steps;

ALTER TABLE drafts ADD COLUMN shown_step TEXT NOT NULL DEFAULT '0';
ALTER TABLE drafts ADD COLUMN saved_step TEXT;
UPDATE drafts SET shown_step = CAST(position AS TEXT), saved_step = CAST(saved_position AS TEXT);
ALTER TABLE drafts DROP COLUMN position;
ALTER TABLE drafts DROP COLUMN saved_position;
