-- What happened to a build: events that are never edited, kept once however often they are sent.
CREATE TABLE events (
    build_id INTEGER NOT NULL REFERENCES builds (id) ON DELETE CASCADE,
    id       TEXT    NOT NULL,
    at       TEXT    NOT NULL,
    -- The same moment in UTC, ms since 1970, by which events are in order.
    at_ms    INTEGER NOT NULL,
    kind     TEXT    NOT NULL,
    data     TEXT    NOT NULL CHECK (json_valid(data)),
    replaces TEXT,
    PRIMARY KEY (build_id, id)
) STRICT, WITHOUT ROWID;
CREATE INDEX events_in_order ON events (build_id, at_ms, id);
CREATE INDEX events_of_a_kind ON events (build_id, kind, at_ms, id);

-- A revision that a person gave a name is never thinned out.
ALTER TABLE revisions ADD COLUMN label TEXT;
