-- When a build was last saved, so that the shelf comes in pages without a look at every revision.
ALTER TABLE builds ADD COLUMN saved_at TEXT NOT NULL DEFAULT '';
UPDATE builds SET saved_at = coalesce((SELECT r.saved_at FROM revisions r WHERE r.build_id = builds.id AND r.revision = builds.revision), created_at);
CREATE INDEX builds_on_shelf ON builds (saved_at DESC, id DESC) WHERE deleted_at IS NULL;

-- What the shelf shows of a build: computed once for a revision, by a version of the rules.
CREATE TABLE summaries (
    build_id INTEGER NOT NULL PRIMARY KEY REFERENCES builds (id) ON DELETE CASCADE,
    revision INTEGER NOT NULL,
    rules    TEXT    NOT NULL,
    summary  TEXT    NOT NULL CHECK (json_valid(summary))
) STRICT;

-- What the program has to remember of this file.
CREATE TABLE notes (
    key   TEXT NOT NULL PRIMARY KEY,
    value TEXT NOT NULL
) STRICT, WITHOUT ROWID;
