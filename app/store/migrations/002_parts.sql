-- A person's own parts, beside the library that ships.
CREATE TABLE parts (
    id       TEXT NOT NULL PRIMARY KEY,
    saved_at TEXT NOT NULL,
    document TEXT NOT NULL CHECK (json_valid(document))
) STRICT, WITHOUT ROWID;
