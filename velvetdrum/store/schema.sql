-- Version 1. Times are seconds since 1970.

CREATE TABLE media (
    key       TEXT PRIMARY KEY,              -- SHA-256 of the file's bytes
    suffix    TEXT NOT NULL,
    name      TEXT NOT NULL,                 -- as the file was called when it came
    bytes     INTEGER NOT NULL,
    facts     TEXT,                          -- JSON, once analysed
    added_at  REAL NOT NULL
);

CREATE TABLE project (
    id         TEXT PRIMARY KEY,
    name       TEXT NOT NULL,
    document   TEXT NOT NULL,                -- JSON as of `revision`
    revision   INTEGER NOT NULL,             -- counts every change, undo and redo included
    position   INTEGER NOT NULL,             -- edits 1..position are in force
    created_at REAL NOT NULL,
    changed_at REAL NOT NULL,
    deleted_at REAL
);

-- Every edit ever made. Undo moves `position`; an edit made after an undo sets the undone ones aside
-- (branch > 0), it does not remove them.
CREATE TABLE edit (
    project_id TEXT NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    position   INTEGER NOT NULL,
    branch     INTEGER NOT NULL DEFAULT 0,
    label      TEXT NOT NULL,
    forward    TEXT NOT NULL,                -- JSON Patch
    backward   TEXT NOT NULL,
    made_at    REAL NOT NULL,
    PRIMARY KEY (project_id, position, branch)
);


CREATE TABLE export (
    id         TEXT PRIMARY KEY,
    project_id TEXT NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    name       TEXT NOT NULL,                -- the file's name when it is downloaded
    document   TEXT NOT NULL,                -- as it was when the export was asked for
    plan       TEXT NOT NULL,                -- JSON
    state      TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'failed', 'cancelled')),
    done       INTEGER NOT NULL DEFAULT 0,   -- frames
    sentence   TEXT NOT NULL DEFAULT '',
    made_at    REAL NOT NULL,
    ended_at   REAL
);

CREATE INDEX project_shown ON project (deleted_at, changed_at DESC);
CREATE INDEX export_of ON export (project_id, made_at DESC);

-- A recording on its way in: received, not yet analysed. It becomes media only when it can be used.
CREATE TABLE import (
    id         TEXT PRIMARY KEY,
    key        TEXT NOT NULL,
    suffix     TEXT NOT NULL,
    name       TEXT NOT NULL,
    bytes      INTEGER NOT NULL,
    part       TEXT NOT NULL,                -- file name in the incoming folder
    purpose    TEXT NOT NULL,                -- JSON: what to do once it is analysed
    state      TEXT NOT NULL CHECK (state IN ('running', 'done', 'failed', 'cancelled')),
    sentence   TEXT NOT NULL DEFAULT '',
    project_id TEXT,
    made_at    REAL NOT NULL
);
