-- Devices let in from the local network: what the token of each hashes to, never the token itself.
CREATE TABLE devices (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    name TEXT NOT NULL,
    token BLOB NOT NULL UNIQUE,
    may_edit INTEGER NOT NULL DEFAULT 0,
    paired_at TEXT NOT NULL,
    seen_at TEXT NOT NULL
) STRICT;
