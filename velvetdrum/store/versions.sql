-- Version 13: states of a project that were given a name. The whole document is kept: what is done to the edits does
-- not touch them.

CREATE TABLE version (
    id         TEXT PRIMARY KEY,
    project_id TEXT NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    name       TEXT NOT NULL,
    document   TEXT NOT NULL,                -- JSON
    made_at    REAL NOT NULL
);

CREATE INDEX version_of ON version (project_id, made_at DESC);
CREATE INDEX edit_made ON edit (project_id, made_at DESC);
