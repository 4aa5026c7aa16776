-- +goose Up
-- Data from another yard comes in over many short transactions. Its brews are not visible before the last one: a brew has the number of its
-- import, and brews of an import that is still adding are hidden.
CREATE TABLE imports (
    n        INTEGER PRIMARY KEY,
    id       TEXT NOT NULL UNIQUE,
    name     TEXT NOT NULL, -- of the file
    state    TEXT NOT NULL CHECK (state IN ('adding', 'finishing', 'done', 'undone')),
    report   TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(report)),
    began_at TEXT NOT NULL,
    ended_at TEXT,
    by       TEXT REFERENCES people (id) ON DELETE SET NULL
) STRICT;
CREATE INDEX imports_open ON imports (n) WHERE state = 'adding';

CREATE VIEW hidden_imports AS SELECT n FROM imports INDEXED BY imports_open WHERE state = 'adding';

-- The version of each record that an import brought last: a record that is still the same here takes a newer one without a conflict.
CREATE TABLE imported (
    kind   TEXT NOT NULL,
    id     TEXT NOT NULL,
    hash   BLOB NOT NULL, -- SHA-256 of its document there
    became BLOB NOT NULL, -- and of the one that it became here
    PRIMARY KEY (kind, id)
) STRICT, WITHOUT ROWID;

-- Versions of records that were changed here and elsewhere, and are not the current one.
CREATE TABLE other_versions (
    kind     TEXT    NOT NULL,
    id       TEXT    NOT NULL,
    hash     BLOB    NOT NULL, -- SHA-256 of doc
    revision INTEGER NOT NULL,
    doc      TEXT    NOT NULL CHECK (json_valid(doc)),
    import   INTEGER NOT NULL REFERENCES imports (n), -- that found it
    ours     INTEGER NOT NULL, -- 1: it was this yard's
    PRIMARY KEY (kind, id, hash)
) STRICT, WITHOUT ROWID;
CREATE INDEX other_versions_by_import ON other_versions (import);

ALTER TABLE brews ADD COLUMN import INTEGER NOT NULL DEFAULT 0; -- 0: brewed here
CREATE INDEX brews_of_import ON brews (import) WHERE import > 0;
DROP INDEX brews_of_bag;
CREATE INDEX brews_of_bag ON brews (bag_id, started_at, id, dose_used, import);
DROP INDEX brews_of_person;
CREATE INDEX brews_of_person ON brews (brewed_by, import);

ALTER TABLE entries ADD COLUMN import INTEGER NOT NULL DEFAULT 0;
ALTER TABLE entries ADD COLUMN counted INTEGER NOT NULL DEFAULT 1; -- 0: not yet part of the totals
CREATE INDEX entries_uncounted ON entries (import) WHERE counted = 0;

DROP TRIGGER a_brew_enters_the_log;
-- +goose StatementBegin
CREATE TRIGGER a_brew_enters_the_log AFTER INSERT ON brews BEGIN
    INSERT OR IGNORE INTO same_recipes (key) SELECT same FROM entry_values WHERE brew_id = NEW.id;
    INSERT INTO entries (n, brew_id, day, bag_id, brewer_id, grinder_id, style, same, used, person, mark, yield, drawdown, faults, tasted, tried,
        recipe, import, counted)
    SELECT COALESCE((SELECT MAX(n) + 1 FROM entries WHERE n >= unixepoch(NEW.started_at) * 100000 AND n < (unixepoch(NEW.started_at) + 1) * 100000),
            unixepoch(NEW.started_at) * 100000),
        v.brew_id, v.day, v.bag_id, v.brewer_id, v.grinder_id, v.style, (SELECT s.id FROM same_recipes s WHERE s.key = v.same), v.used, v.person,
        v.mark, v.yield, v.drawdown, v.faults, v.tasted,
        EXISTS (SELECT 1 FROM documents d, json_each(d.doc, '$.runs') r
            WHERE d.kind = 'trial' AND d.deleted_at IS NULL AND r.value ->> '$.brew' = NEW.id),
        COALESCE((SELECT COALESCE(NULLIF(r.name, ''), r.forked) FROM recipes r WHERE r.id = NEW.id), ''),
        NEW.import, NEW.import = 0 OR NEW.import NOT IN (SELECT n FROM imports WHERE state IN ('adding', 'finishing'))
    FROM entry_values v WHERE v.brew_id = NEW.id;
    INSERT INTO words (rowid, text) SELECT n, text FROM entry_words WHERE brew_id = NEW.id AND NEW.status <> 'done'; -- else with its tasting
END;
-- +goose StatementEnd

DROP TRIGGER an_entry_counts;
DROP TRIGGER an_entry_no_longer_counts;
DROP TRIGGER an_entry_counts_otherwise;
-- +goose StatementBegin
CREATE TRIGGER an_entry_counts AFTER INSERT ON entries WHEN NEW.counted BEGIN
    INSERT INTO tally SELECT 1, NEW.day, NEW.bag_id, NEW.brewer_id, NEW.grinder_id, NEW.style, NEW.same, NEW.used, NEW.person, NEW.mark,
        NEW.yield, NEW.drawdown;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER an_entry_no_longer_counts AFTER DELETE ON entries WHEN OLD.counted BEGIN
    INSERT INTO tally SELECT -1, OLD.day, OLD.bag_id, OLD.brewer_id, OLD.grinder_id, OLD.style, OLD.same, OLD.used, OLD.person, OLD.mark,
        OLD.yield, OLD.drawdown;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER an_entry_counts_otherwise AFTER UPDATE OF day, used, person, mark, yield, drawdown, counted ON entries
WHEN (OLD.day, OLD.used, OLD.person, OLD.mark, OLD.yield, OLD.drawdown, OLD.counted) <>
    (NEW.day, NEW.used, NEW.person, NEW.mark, NEW.yield, NEW.drawdown, NEW.counted) BEGIN
    INSERT INTO tally SELECT -1, OLD.day, OLD.bag_id, OLD.brewer_id, OLD.grinder_id, OLD.style, OLD.same, OLD.used, OLD.person, OLD.mark,
        OLD.yield, OLD.drawdown WHERE OLD.counted;
    INSERT INTO tally SELECT 1, NEW.day, NEW.bag_id, NEW.brewer_id, NEW.grinder_id, NEW.style, NEW.same, NEW.used, NEW.person, NEW.mark,
        NEW.yield, NEW.drawdown WHERE NEW.counted;
END;
-- +goose StatementEnd

-- A deletion wins over versions of the record that are not newer. People who are removed are remembered too, by their id alone.
CREATE TABLE removed_before (
    id         TEXT PRIMARY KEY,
    kind       TEXT NOT NULL,
    name       TEXT NOT NULL,
    removed_at TEXT NOT NULL,
    by         TEXT REFERENCES people (id) ON DELETE SET NULL,
    -- {"tables": [[table, [row, …]], …], "children": [[table, id], …]}; empty: no longer to be restored
    contents   TEXT NOT NULL,
    revision   INTEGER NOT NULL DEFAULT 1000000000 -- of the record
) STRICT;
INSERT INTO removed_before (id, kind, name, removed_at, by, contents) SELECT id, kind, name, removed_at, by, contents FROM removed;
UPDATE removed_before SET revision = json_extract(contents, '$.tables[0].rows[0].version')
WHERE contents <> '' AND json_extract(contents, '$.tables[0].rows[0].version') IS NOT NULL;
DROP TRIGGER events_are_not_deleted;
DROP TABLE removed;
ALTER TABLE removed_before RENAME TO removed;
CREATE INDEX removed_by_time ON removed (removed_at) WHERE contents <> '';
-- +goose StatementBegin
CREATE TRIGGER events_are_not_deleted BEFORE DELETE ON brew_events
WHEN (SELECT status FROM brews WHERE id = OLD.brew_id) <> 'running' AND NOT EXISTS (SELECT 1 FROM removed WHERE id = OLD.brew_id)
    AND NOT EXISTS (SELECT 1 FROM brews b JOIN imports i ON i.n = b.import WHERE b.id = OLD.brew_id AND i.state = 'adding')
BEGIN SELECT RAISE(ABORT, 'events are append-only'); END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER a_person_is_removed AFTER DELETE ON people BEGIN
    INSERT OR REPLACE INTO removed (id, kind, name, removed_at, contents, revision)
    VALUES (OLD.id, 'person', '', strftime('%Y-%m-%dT%H:%M:%fZ', 'now'), '', OLD.version);
END;
-- +goose StatementEnd

-- How the tables with the same headers were read the last time.
CREATE TABLE table_mappings (
    headers  BLOB PRIMARY KEY, -- SHA-256
    mapping  TEXT NOT NULL CHECK (json_valid(mapping)),
    saved_at TEXT NOT NULL
) STRICT;

-- What a program may do with its token.
ALTER TABLE api_tokens ADD COLUMN imports INTEGER NOT NULL DEFAULT 0; -- 1: it may also import
