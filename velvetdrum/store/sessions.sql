-- Version 3. Who is signed in, where other machines may come in.

CREATE TABLE session (
    digest   TEXT PRIMARY KEY,              -- SHA-256 of the token in the cookie
    made_at  REAL NOT NULL,
    seen_at  REAL NOT NULL
);
