-- Version 6: rows of effects kept by name, for all projects.

CREATE TABLE effect_chain (
    id         TEXT PRIMARY KEY,
    name       TEXT NOT NULL UNIQUE,
    chain      TEXT NOT NULL,                -- JSON: effects and patches in their stored form
    made_at    REAL NOT NULL
);
