-- Version 5: words that find their times in the background; what was found waits until a page takes it.

CREATE TABLE alignment (
    id         TEXT PRIMARY KEY,
    project_id TEXT NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    wanted     TEXT NOT NULL,                -- JSON: the text and how it is to be aligned
    found      TEXT,                         -- JSON, once it is done
    state      TEXT NOT NULL CHECK (state IN ('running', 'done', 'failed', 'cancelled', 'taken')),
    sentence   TEXT NOT NULL DEFAULT '',
    made_at    REAL NOT NULL
);
CREATE INDEX alignment_of ON alignment (project_id, made_at DESC);
