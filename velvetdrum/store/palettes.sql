-- Version 2: palettes, which belong to no project.

CREATE TABLE palette (
    id       TEXT PRIMARY KEY,
    name     TEXT NOT NULL UNIQUE,
    stops    TEXT NOT NULL,                  -- JSON, as in a project
    made_at  REAL NOT NULL
);
