-- Version 9: a change is kept by its own size. `document` is the project as of the revision `kept`; the steps after it
-- lead to the present one.

ALTER TABLE project ADD COLUMN kept INTEGER NOT NULL DEFAULT 0;
UPDATE project SET kept = revision;

CREATE TABLE step (
    project_id TEXT NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    revision   INTEGER NOT NULL,             -- that it led to
    patch      TEXT NOT NULL,                -- JSON Patch on the document of the revision before
    PRIMARY KEY (project_id, revision)
);
