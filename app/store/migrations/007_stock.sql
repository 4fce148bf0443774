-- What lies in the drawer, by the names of the shopping list: pieces, or metres.
CREATE TABLE stock (
    part  TEXT NOT NULL PRIMARY KEY,
    count REAL NOT NULL CHECK (count > 0)
) STRICT, WITHOUT ROWID;
