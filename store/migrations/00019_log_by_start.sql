-- +goose Up
-- The log again, now numbered in its order of start: a search walks the numbers of its words and every index ends with them. A brew
-- that starts earlier than was thought gets another number.
DROP TRIGGER a_brew_enters_the_log;
DROP TRIGGER a_brew_leaves_the_log;
DROP TRIGGER the_log_follows_a_brew;
DROP TRIGGER a_tasting_enters_the_log;
DROP TRIGGER the_log_follows_a_tasting;
DROP TRIGGER a_tasting_leaves_the_log;
DROP TRIGGER readings_enter_the_log;
DROP TRIGGER a_trial_enters_the_log;
DROP VIEW entry_values;
DROP VIEW entry_words;
DROP TABLE vocabulary;
DROP TABLE words;
ALTER TABLE entries RENAME TO entries_by_arrival;
DROP INDEX entries_by_start;
DROP INDEX entries_by_mark;
DROP INDEX entries_by_yield;
DROP INDEX entries_by_drawdown;
DROP INDEX entries_of_bag;
DROP INDEX entries_of_brewer;
DROP INDEX entries_of_grinder;
DROP INDEX entries_of_style;
DROP INDEX entries_of_person;
DROP INDEX entries_untasted;
DROP INDEX entries_traced;
DROP INDEX entries_tried;
DROP INDEX entries_faulty;

-- What two brews have in common that a person calls the same recipe: bag, gear and setting, and differences of the recipe below a gram
-- of dose, ten of water, a degree and five seconds.
CREATE TABLE same_recipes (
    id  INTEGER PRIMARY KEY,
    key TEXT    NOT NULL UNIQUE
) STRICT;

CREATE TABLE entries (
    n          INTEGER PRIMARY KEY, -- 100,000 times the second of the start, plus the number of earlier ones in that second
    brew_id    TEXT    NOT NULL UNIQUE REFERENCES brews (id) ON DELETE CASCADE,
    day        TEXT    NOT NULL, -- of the start, where it was brewed
    bag_id     TEXT    NOT NULL,
    brewer_id  TEXT    NOT NULL,
    grinder_id TEXT    NOT NULL,
    style      TEXT    NOT NULL,
    same       INTEGER NOT NULL, -- id of same_recipes
    used       REAL    NOT NULL, -- coffee taken from the bag, g
    person     TEXT    NOT NULL, -- who brewed it; empty: the yard
    mark       INTEGER NOT NULL, -- of the first taster; 0: none
    yield      REAL    NOT NULL, -- %; 0: not measured
    drawdown   REAL    NOT NULL, -- s; 0: not measured
    faults     TEXT    NOT NULL, -- a list, JSON
    tasted     INTEGER NOT NULL, -- 1: tasted or measured
    traced     INTEGER NOT NULL DEFAULT 0, -- 1: it has scale readings
    tried      INTEGER NOT NULL DEFAULT 0, -- 1: it is a run of a trial
    recipe     TEXT    NOT NULL DEFAULT '' -- name of the kept recipe that it began from
) STRICT;

CREATE VIRTUAL TABLE words USING fts5 (text, content = '', contentless_delete = 1, tokenize = 'unicode61 remove_diacritics 2');

-- The values of an entry, from the brew and its tastings.
CREATE VIEW entry_values AS
SELECT b.id AS brew_id, COALESCE(date(b.started_at, b.zone), date(b.started_at)) AS day, b.bag_id, b.brewer_id,
    COALESCE(b.gear ->> '$.grinder.id', '') AS grinder_id, b.style,
    json_array(b.bag_id, b.brewer_id, b.gear ->> '$.brewer.filter', b.gear ->> '$.grinder.id', b.setting, b.style, round(b.dose),
        round(b.water / 10), round(b.temperature),
        (SELECT json_group_array(round(p.value ->> '$.start_s' / 5) || COALESCE(p.value ->> '$.then', '') || COALESCE(p.value ->> '$.height', ''))
            FROM json_each(b.recipe, '$.pours') p)) AS same,
    b.dose_used AS used, COALESCE(b.brewed_by, '') AS person,
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

INSERT OR IGNORE INTO same_recipes (key) SELECT same FROM entry_values;
INSERT INTO entries (n, brew_id, day, bag_id, brewer_id, grinder_id, style, same, used, person, mark, yield, drawdown, faults, tasted, traced,
    tried, recipe)
SELECT unixepoch(o.started_at) * 100000 + row_number() OVER (PARTITION BY unixepoch(o.started_at) ORDER BY o.started_at, o.brew_id) - 1,
    v.brew_id, v.day, v.bag_id, v.brewer_id, v.grinder_id, v.style, (SELECT s.id FROM same_recipes s WHERE s.key = v.same), v.used, v.person,
    v.mark, v.yield, v.drawdown, v.faults, v.tasted, o.traced, o.tried, o.recipe
FROM entries_by_arrival o JOIN entry_values v ON v.brew_id = o.brew_id;
INSERT INTO words (rowid, text) SELECT n, text FROM entry_words ORDER BY n;
DROP TABLE entries_by_arrival;

CREATE INDEX entries_by_mark ON entries (mark, n);
CREATE INDEX entries_by_yield ON entries (yield, n);
CREATE INDEX entries_by_drawdown ON entries (drawdown, n);
CREATE INDEX entries_of_bag ON entries (bag_id, n);
CREATE INDEX entries_of_brewer ON entries (brewer_id, n);
CREATE INDEX entries_of_grinder ON entries (grinder_id, n);
CREATE INDEX entries_of_style ON entries (style, n);
CREATE INDEX entries_of_person ON entries (person, n);
CREATE INDEX entries_untasted ON entries (n) WHERE tasted = 0;
CREATE INDEX entries_traced ON entries (n) WHERE traced = 1;
CREATE INDEX entries_tried ON entries (n) WHERE tried = 1;
CREATE INDEX entries_good ON entries (n) WHERE mark >= 8;
CREATE INDEX entries_poor ON entries (n) WHERE mark BETWEEN 1 AND 4;
CREATE INDEX entries_faulty ON entries (n) WHERE faults <> '[]';

-- +goose StatementBegin
CREATE TRIGGER a_brew_enters_the_log AFTER INSERT ON brews BEGIN
    INSERT OR IGNORE INTO same_recipes (key) SELECT same FROM entry_values WHERE brew_id = NEW.id;
    INSERT INTO entries (n, brew_id, day, bag_id, brewer_id, grinder_id, style, same, used, person, mark, yield, drawdown, faults, tasted, tried,
        recipe)
    SELECT COALESCE((SELECT MAX(n) + 1 FROM entries WHERE n >= unixepoch(NEW.started_at) * 100000 AND n < (unixepoch(NEW.started_at) + 1) * 100000),
            unixepoch(NEW.started_at) * 100000),
        v.brew_id, v.day, v.bag_id, v.brewer_id, v.grinder_id, v.style, (SELECT s.id FROM same_recipes s WHERE s.key = v.same), v.used, v.person,
        v.mark, v.yield, v.drawdown, v.faults, v.tasted,
        EXISTS (SELECT 1 FROM documents d, json_each(d.doc, '$.runs') r
            WHERE d.kind = 'trial' AND d.deleted_at IS NULL AND r.value ->> '$.brew' = NEW.id),
        COALESCE((SELECT COALESCE(NULLIF(r.name, ''), r.forked) FROM recipes r WHERE r.id = NEW.id), '')
    FROM entry_values v WHERE v.brew_id = NEW.id;
    INSERT INTO words (rowid, text) SELECT n, text FROM entry_words WHERE brew_id = NEW.id AND NEW.status <> 'done'; -- else with its tasting
END;
-- +goose StatementEnd

-- +goose StatementBegin
CREATE TRIGGER a_brew_leaves_the_log BEFORE DELETE ON brews BEGIN
    DELETE FROM words WHERE rowid = (SELECT n FROM entries WHERE brew_id = OLD.id);
    DELETE FROM entries WHERE brew_id = OLD.id;
END;
-- +goose StatementEnd

-- +goose StatementBegin
CREATE TRIGGER the_log_follows_a_brew AFTER UPDATE OF yield, drawdown, cup, brewed_by, dose_used, started_at ON brews
WHEN OLD.yield <> NEW.yield OR OLD.drawdown <> NEW.drawdown OR OLD.cup <> NEW.cup OR OLD.brewed_by IS NOT NEW.brewed_by OR
    OLD.dose_used <> NEW.dose_used OR OLD.started_at <> NEW.started_at BEGIN
    DELETE FROM words WHERE rowid = (SELECT n FROM entries WHERE brew_id = NEW.id);
    UPDATE entries SET (person, yield, drawdown, used) = (COALESCE(NEW.brewed_by, ''), NEW.yield, NEW.drawdown, NEW.dose_used)
    WHERE brew_id = NEW.id;
    UPDATE entries SET (day, n) = (COALESCE(date(NEW.started_at, NEW.zone), date(NEW.started_at)),
        COALESCE((SELECT MAX(o.n) + 1 FROM entries o WHERE o.n >= unixepoch(NEW.started_at) * 100000 AND
            o.n < (unixepoch(NEW.started_at) + 1) * 100000), unixepoch(NEW.started_at) * 100000))
    WHERE brew_id = NEW.id AND OLD.started_at <> NEW.started_at;
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
