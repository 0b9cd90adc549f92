-- Version 10: the document in a row of its own, so that an edit does not write it again with the project's row. `text`
-- is the project as of `revision`; the steps after it lead to the present one.

CREATE TABLE document (
    project_id TEXT PRIMARY KEY REFERENCES project (id) ON DELETE CASCADE,
    revision   INTEGER NOT NULL,
    text       TEXT NOT NULL                 -- JSON
);
INSERT INTO document (project_id, revision, text) SELECT id, kept, document FROM project;
ALTER TABLE project DROP COLUMN document;
ALTER TABLE project DROP COLUMN kept;
