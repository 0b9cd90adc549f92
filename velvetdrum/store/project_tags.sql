-- Version 12: tags that projects are found by, and when each was opened last.

ALTER TABLE project ADD COLUMN opened_at REAL NOT NULL DEFAULT 0;
UPDATE project SET opened_at = changed_at;

CREATE TABLE project_tag (
    project_id TEXT NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    tag        TEXT NOT NULL,
    PRIMARY KEY (project_id, tag)
);
