-- The key under which a build was asked for, so that asking again makes no second one.
ALTER TABLE builds ADD COLUMN asked_as TEXT;
CREATE UNIQUE INDEX builds_asked_once ON builds (asked_as) WHERE asked_as IS NOT NULL;
