-- Version 8: what is asked of exports, kept by name, for all projects.

CREATE TABLE export_setting (
    id         TEXT PRIMARY KEY,
    name       TEXT NOT NULL UNIQUE,
    asked      TEXT NOT NULL,                -- JSON: formats, frames, speed, sound, captions, names
    made_at    REAL NOT NULL
);
