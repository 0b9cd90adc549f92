-- Version 11: looks that were kept, for all projects.

CREATE TABLE look (
    id         TEXT PRIMARY KEY,
    name       TEXT NOT NULL UNIQUE,
    look       TEXT NOT NULL,                -- JSON: a project's document without a sound
    made_at    REAL NOT NULL
);
