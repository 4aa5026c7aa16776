-- +goose Up
-- The log: a row for each brew with the values that it is filtered and sorted by. Triggers keep it.
CREATE TABLE entries (
    n          INTEGER PRIMARY KEY, -- also the row of its words
    brew_id    TEXT    NOT NULL UNIQUE REFERENCES brews (id) ON DELETE CASCADE,
    started_at TEXT    NOT NULL,
    bag_id     TEXT    NOT NULL,
    brewer_id  TEXT    NOT NULL,
    grinder_id TEXT    NOT NULL,
    style      TEXT    NOT NULL,
    person     TEXT    NOT NULL, -- who brewed it; empty: the yard
    mark       INTEGER NOT NULL, -- of the first taster; 0: none
    yield      REAL    NOT NULL, -- %; 0: not measured
    drawdown   REAL    NOT NULL, -- s; 0: not measured
    faults     TEXT    NOT NULL, -- a list, JSON
    tasted     INTEGER NOT NULL, -- 1: somebody tasted or measured it
    traced     INTEGER NOT NULL DEFAULT 0, -- 1: it has scale readings
    tried      INTEGER NOT NULL DEFAULT 0, -- 1: it is a run of a trial
    recipe     TEXT    NOT NULL DEFAULT '' -- name of the kept recipe that it began from
) STRICT;

CREATE INDEX entries_by_start ON entries (started_at, brew_id);
CREATE INDEX entries_by_mark ON entries (mark, started_at, brew_id);
CREATE INDEX entries_by_yield ON entries (yield, started_at, brew_id);
CREATE INDEX entries_by_drawdown ON entries (drawdown, started_at, brew_id);
CREATE INDEX entries_of_bag ON entries (bag_id, started_at, brew_id);
CREATE INDEX entries_of_brewer ON entries (brewer_id, started_at, brew_id);
CREATE INDEX entries_of_grinder ON entries (grinder_id, started_at, brew_id);
CREATE INDEX entries_of_style ON entries (style, started_at, brew_id);
CREATE INDEX entries_of_person ON entries (person, started_at, brew_id);
CREATE INDEX entries_untasted ON entries (started_at, brew_id) WHERE tasted = 0;
CREATE INDEX entries_traced ON entries (started_at, brew_id) WHERE traced = 1;
CREATE INDEX entries_tried ON entries (started_at, brew_id) WHERE tried = 1;
CREATE INDEX entries_faulty ON entries (started_at, brew_id) WHERE faults <> '[]';

CREATE VIRTUAL TABLE words USING fts5 (text, content = '', contentless_delete = 1, tokenize = 'unicode61 remove_diacritics 2');
CREATE VIRTUAL TABLE vocabulary USING fts5vocab (words, row);

-- The values of an entry, from the brew and its tastings.
CREATE VIEW entry_values AS
SELECT b.id AS brew_id, b.started_at, b.bag_id, b.brewer_id, COALESCE(b.gear ->> '$.grinder.id', '') AS grinder_id, b.style,
    COALESCE(b.brewed_by, '') AS person,
    COALESCE((SELECT t.overall FROM tastings t WHERE t.brew_id = b.id ORDER BY t.rowid LIMIT 1), 0) AS mark,
    b.yield, b.drawdown,
    (SELECT json_group_array(f.value) FROM tastings t, json_each(t.cup, '$.faults') f WHERE t.brew_id = b.id) AS faults,
    EXISTS (SELECT 1 FROM tastings t WHERE t.brew_id = b.id) AS tasted
FROM brews b;

-- The words that the search finds a brew by.
CREATE VIEW entry_words AS
SELECT e.n, e.brew_id, b.bag_name || ' ' || COALESCE(b.coffee ->> '$.roaster', '') || ' ' || COALESCE(b.coffee ->> '$.process', '') || ' ' ||
    COALESCE(b.coffee ->> '$.variety', '') || ' ' || e.recipe || ' ' || replace(b.style, '-', ' ') || ' ' || b.brewer_name || ' ' ||
    COALESCE(b.gear ->> '$.brewer.filter', '') || ' ' || COALESCE(b.gear ->> '$.grinder.name', '') || ' ' || b.setting || ' ' ||
    COALESCE(b.cup ->> '$.served_to', '') || ' ' || COALESCE(b.cup ->> '$.bed', '') || ' ' ||
    COALESCE((SELECT group_concat(COALESCE(t.cup ->> '$.notes', '') || ' ' || COALESCE(t.cup ->> '$.flavours', '') || ' ' ||
        COALESCE(t.cup ->> '$.faults', ''), ' ') FROM tastings t WHERE t.brew_id = b.id), '') || ' ' ||
    COALESCE((SELECT p.name FROM people p WHERE p.id = b.brewed_by), '') AS text
FROM entries e JOIN brews b ON b.id = e.brew_id;

INSERT INTO entries (brew_id, started_at, bag_id, brewer_id, grinder_id, style, person, mark, yield, drawdown, faults, tasted)
SELECT * FROM entry_values ORDER BY started_at, brew_id;
UPDATE entries SET traced = 1 WHERE brew_id IN (SELECT brew_id FROM brew_readings);
UPDATE entries SET tried = 1 WHERE brew_id IN (
    SELECT r.value ->> '$.brew' FROM documents d, json_each(d.doc, '$.runs') r WHERE d.kind = 'trial' AND d.deleted_at IS NULL);
INSERT INTO words (rowid, text) SELECT n, text FROM entry_words;

-- +goose StatementBegin
CREATE TRIGGER a_brew_enters_the_log AFTER INSERT ON brews BEGIN
    INSERT INTO entries (brew_id, started_at, bag_id, brewer_id, grinder_id, style, person, mark, yield, drawdown, faults, tasted, tried, recipe)
    SELECT v.*, EXISTS (SELECT 1 FROM documents d, json_each(d.doc, '$.runs') r
            WHERE d.kind = 'trial' AND d.deleted_at IS NULL AND r.value ->> '$.brew' = NEW.id),
        COALESCE((SELECT COALESCE(NULLIF(r.name, ''), r.forked) FROM recipes r WHERE r.id = NEW.id), '')
    FROM entry_values v WHERE v.brew_id = NEW.id;
    INSERT INTO words (rowid, text) SELECT n, text FROM entry_words WHERE brew_id = NEW.id AND NEW.status <> 'done'; -- else with its tasting
END;
-- +goose StatementEnd

-- +goose StatementBegin
CREATE TRIGGER a_brew_leaves_the_log BEFORE DELETE ON brews BEGIN
    DELETE FROM words WHERE rowid = (SELECT n FROM entries WHERE brew_id = OLD.id);
END;
-- +goose StatementEnd

-- +goose StatementBegin
CREATE TRIGGER the_log_follows_a_brew AFTER UPDATE OF yield, drawdown, cup, brewed_by ON brews
WHEN OLD.yield <> NEW.yield OR OLD.drawdown <> NEW.drawdown OR OLD.cup <> NEW.cup OR OLD.brewed_by IS NOT NEW.brewed_by BEGIN
    UPDATE entries SET (person, yield, drawdown) = (COALESCE(NEW.brewed_by, ''), NEW.yield, NEW.drawdown) WHERE brew_id = NEW.id;
    DELETE FROM words WHERE rowid = (SELECT n FROM entries WHERE brew_id = NEW.id);
    INSERT INTO words (rowid, text) SELECT n, text FROM entry_words WHERE brew_id = NEW.id;
END;
-- +goose StatementEnd

-- +goose StatementBegin
CREATE TRIGGER a_tasting_enters_the_log AFTER INSERT ON tastings BEGIN
    UPDATE entries SET (mark, faults, tasted) = (SELECT mark, faults, tasted FROM entry_values v WHERE v.brew_id = NEW.brew_id)
    WHERE brew_id = NEW.brew_id;
    DELETE FROM words WHERE rowid = (SELECT n FROM entries WHERE brew_id = NEW.brew_id);
    INSERT INTO words (rowid, text) SELECT n, text FROM entry_words WHERE brew_id = NEW.brew_id;
END;
-- +goose StatementEnd

-- +goose StatementBegin
CREATE TRIGGER the_log_follows_a_tasting AFTER UPDATE OF overall, cup ON tastings WHEN OLD.overall <> NEW.overall OR OLD.cup <> NEW.cup BEGIN
    UPDATE entries SET (mark, faults, tasted) = (SELECT mark, faults, tasted FROM entry_values v WHERE v.brew_id = NEW.brew_id)
    WHERE brew_id = NEW.brew_id;
    DELETE FROM words WHERE rowid = (SELECT n FROM entries WHERE brew_id = NEW.brew_id);
    INSERT INTO words (rowid, text) SELECT n, text FROM entry_words WHERE brew_id = NEW.brew_id;
END;
-- +goose StatementEnd

-- +goose StatementBegin
CREATE TRIGGER a_tasting_leaves_the_log AFTER DELETE ON tastings BEGIN
    UPDATE entries SET (mark, faults, tasted) = (SELECT mark, faults, tasted FROM entry_values v WHERE v.brew_id = OLD.brew_id)
    WHERE brew_id = OLD.brew_id;
    DELETE FROM words WHERE rowid = (SELECT n FROM entries WHERE brew_id = OLD.brew_id);
    INSERT INTO words (rowid, text) SELECT n, text FROM entry_words WHERE brew_id = OLD.brew_id;
END;
-- +goose StatementEnd

-- +goose StatementBegin
CREATE TRIGGER readings_enter_the_log AFTER INSERT ON brew_readings WHEN NEW.n = 0 BEGIN
    UPDATE entries SET traced = 1 WHERE brew_id = NEW.brew_id;
END;
-- +goose StatementEnd

-- +goose StatementBegin
CREATE TRIGGER a_trial_enters_the_log AFTER UPDATE OF doc ON documents WHEN NEW.kind = 'trial' BEGIN
    UPDATE entries SET tried = 1 WHERE tried = 0 AND brew_id IN (SELECT r.value ->> '$.brew' FROM json_each(NEW.doc, '$.runs') r);
END;
-- +goose StatementEnd

-- Filters of the log, kept under a name.
CREATE TABLE saved_filters (
    id       TEXT PRIMARY KEY,
    name     TEXT NOT NULL,
    query    TEXT NOT NULL, -- as in the address of the page
    saved_at TEXT NOT NULL,
    by       TEXT REFERENCES people (id) ON DELETE CASCADE
) STRICT;
CREATE UNIQUE INDEX saved_filters_by_name ON saved_filters (COALESCE(by, ''), name);
