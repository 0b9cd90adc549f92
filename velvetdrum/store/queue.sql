-- Version 7: exports have an order, wait on purpose or for room on the disk, and stay told when their files are gone.

ALTER TABLE export ADD COLUMN place REAL NOT NULL DEFAULT 0;      -- the lowest is made next
ALTER TABLE export ADD COLUMN held TEXT NOT NULL DEFAULT '';      -- '' in line, 'paused', or 'room': until there is some
ALTER TABLE export ADD COLUMN needs INTEGER NOT NULL DEFAULT 0;   -- bytes that must be free before it goes on
ALTER TABLE export ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;
ALTER TABLE export ADD COLUMN worked_s REAL NOT NULL DEFAULT 0;   -- seconds in which it was being made
ALTER TABLE export ADD COLUMN bytes INTEGER;                      -- of the finished file
ALTER TABLE export ADD COLUMN found TEXT;                         -- JSON: what the finished file was found to be
ALTER TABLE export ADD COLUMN removed_at REAL;                    -- when its file was cleaned up
ALTER TABLE export ADD COLUMN batch TEXT NOT NULL DEFAULT '';     -- the batch that it belongs to

UPDATE export SET place = made_at;
CREATE INDEX export_in_line ON export (state, place);

-- Single facts about this server, by name.
CREATE TABLE fact (
    name  TEXT PRIMARY KEY,
    value TEXT NOT NULL                                           -- JSON
);

-- A project reviewed before it is posted: every frame, small.
CREATE TABLE review (
    id         TEXT PRIMARY KEY,
    project_id TEXT NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    revision   INTEGER NOT NULL,
    document   TEXT NOT NULL,                                     -- JSON
    plan       TEXT NOT NULL,                                     -- JSON
    state      TEXT NOT NULL CHECK (state IN ('running', 'done', 'failed', 'cancelled')),
    done       INTEGER NOT NULL DEFAULT 0,                        -- frames
    found      TEXT,                                              -- JSON, once it is done
    sentence   TEXT NOT NULL DEFAULT '',
    made_at    REAL NOT NULL
);
CREATE INDEX review_of ON review (project_id, made_at DESC);

-- A finished file on its way to a channel.
CREATE TABLE post (
    id         TEXT PRIMARY KEY,
    export_id  TEXT NOT NULL REFERENCES export (id) ON DELETE CASCADE,
    channel    TEXT NOT NULL,                                     -- the channel's id
    title      TEXT NOT NULL,
    state      TEXT NOT NULL CHECK (state IN ('running', 'done', 'failed', 'cancelled')),
    sent       INTEGER NOT NULL DEFAULT 0,                        -- bytes
    upload     TEXT NOT NULL DEFAULT '',                          -- the channel's name for what is being sent
    answer     TEXT NOT NULL DEFAULT '',                          -- what came back
    made_at    REAL NOT NULL
);

-- A table of episodes that become videos.
CREATE TABLE batch (
    id         TEXT PRIMARY KEY,
    project_id TEXT NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    name       TEXT NOT NULL,
    document   TEXT NOT NULL,                                     -- JSON: the project as it was
    rows       TEXT NOT NULL,                                     -- JSON: what the table says
    files      TEXT NOT NULL DEFAULT '{}',                        -- JSON: what was brought, by the name in the table
    wanted     TEXT NOT NULL DEFAULT '{}',                        -- JSON: frames, formats and the rest
    report     TEXT NOT NULL DEFAULT '{}',                        -- JSON: by the row's line, what became of it
    state      TEXT NOT NULL CHECK (state IN ('open', 'running', 'done', 'cancelled')),
    made_at    REAL NOT NULL
);
CREATE INDEX batch_of ON batch (project_id, made_at DESC);
