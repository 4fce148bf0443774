-- Pictures of events, beside them so that one file holds the whole workshop.
CREATE TABLE photos (
    build_id INTEGER NOT NULL REFERENCES builds (id) ON DELETE CASCADE,
    event_id TEXT    NOT NULL,
    media    TEXT    NOT NULL,
    bytes    BLOB    NOT NULL,
    PRIMARY KEY (build_id, event_id)
) STRICT;
-- Which builds a pack was in.
CREATE INDEX events_of_packs ON events (data ->> '$.pack') WHERE kind = 'part';
