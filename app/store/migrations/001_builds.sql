-- A build is its newest revision; every revision is kept.
CREATE TABLE builds (
    id         INTEGER PRIMARY KEY AUTOINCREMENT,
    revision   INTEGER NOT NULL CHECK (revision >= 1),
    created_at TEXT    NOT NULL,
    deleted_at TEXT
) STRICT;

CREATE TABLE revisions (
    build_id INTEGER NOT NULL REFERENCES builds (id) ON DELETE CASCADE,
    revision INTEGER NOT NULL CHECK (revision >= 1),
    saved_at TEXT    NOT NULL,
    name     TEXT    NOT NULL,
    document TEXT    NOT NULL CHECK (json_valid(document)),
    PRIMARY KEY (build_id, revision)
) STRICT, WITHOUT ROWID;
