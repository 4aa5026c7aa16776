-- +goose Up
-- Totals of the log for the page of the yard. An entry is added to them by an insertion into the view tally, with a count of 1, and
-- removed with a count of −1.
CREATE TABLE day_totals (
    day     TEXT    NOT NULL,
    bag_id  TEXT    NOT NULL,
    brews   INTEGER NOT NULL,
    used    REAL    NOT NULL, -- g
    marked  INTEGER NOT NULL, -- brews with a mark
    marks   REAL    NOT NULL, -- their sum
    squares REAL    NOT NULL, -- and the sum of their squares
    PRIMARY KEY (day, bag_id)
) STRICT, WITHOUT ROWID;

CREATE TABLE mark_totals (
    kind    TEXT    NOT NULL CHECK (kind IN ('coffee', 'style', 'brewer', 'grinder')),
    id      TEXT    NOT NULL,
    marked  INTEGER NOT NULL,
    marks   REAL    NOT NULL,
    squares REAL    NOT NULL,
    PRIMARY KEY (kind, id)
) STRICT, WITHOUT ROWID;
CREATE INDEX mark_totals_by_mean ON mark_totals (kind, marks / marked) WHERE marked >= 3;

-- Brews of the same recipe, by everyone ('*') and by each person.
CREATE TABLE repeats (
    same       INTEGER NOT NULL,
    person     TEXT    NOT NULL,
    measure    TEXT    NOT NULL CHECK (measure IN ('drawdown', 'yield', 'mark')),
    grinder_id TEXT    NOT NULL,
    n          INTEGER NOT NULL,
    sum        REAL    NOT NULL,
    squares    REAL    NOT NULL,
    PRIMARY KEY (same, person, measure)
) STRICT, WITHOUT ROWID;

-- The scatter within repeats: squares / freedom is the variance.
CREATE TABLE spread_totals (
    kind    TEXT    NOT NULL CHECK (kind IN ('all', 'grinder', 'person')),
    id      TEXT    NOT NULL,
    measure TEXT    NOT NULL,
    freedom INTEGER NOT NULL, -- degrees of freedom
    squares REAL    NOT NULL, -- of the deviations from the mean of the repeats
    PRIMARY KEY (kind, id, measure)
) STRICT, WITHOUT ROWID;

-- +goose StatementBegin
CREATE TRIGGER repeats_add_up AFTER UPDATE ON repeats BEGIN
    INSERT INTO spread_totals (kind, id, measure, freedom, squares)
    SELECT k.kind, k.id, NEW.measure, MAX(0, NEW.n - 1) - MAX(0, OLD.n - 1),
        iif(NEW.n > 1, NEW.squares - NEW.sum * NEW.sum / NEW.n, 0.0) - iif(OLD.n > 1, OLD.squares - OLD.sum * OLD.sum / OLD.n, 0.0)
    FROM (SELECT 'all' AS kind, '' AS id WHERE NEW.person = '*' UNION ALL SELECT 'grinder', NEW.grinder_id WHERE NEW.person = '*'
        UNION ALL SELECT 'person', NEW.person WHERE NEW.person <> '*') k
    WHERE true
    ON CONFLICT DO UPDATE SET freedom = freedom + excluded.freedom, squares = squares + excluded.squares;
END;
-- +goose StatementEnd

CREATE VIEW tally AS
SELECT 1 AS count, day, bag_id, brewer_id, grinder_id, style, same, used, person, mark, yield, drawdown FROM entries;

-- +goose StatementBegin
CREATE TRIGGER entries_add_up INSTEAD OF INSERT ON tally BEGIN
    INSERT INTO day_totals (day, bag_id, brews, used, marked, marks, squares)
    VALUES (NEW.day, NEW.bag_id, NEW.count, NEW.count * NEW.used, NEW.count * (NEW.mark > 0), NEW.count * NEW.mark, NEW.count * NEW.mark * NEW.mark)
    ON CONFLICT DO UPDATE SET brews = brews + excluded.brews, used = used + excluded.used, marked = marked + excluded.marked,
        marks = marks + excluded.marks, squares = squares + excluded.squares;
    INSERT INTO mark_totals (kind, id, marked, marks, squares)
    SELECT k.kind, k.id, NEW.count, NEW.count * NEW.mark, NEW.count * NEW.mark * NEW.mark
    FROM (SELECT 'coffee' AS kind, NEW.bag_id AS id UNION ALL SELECT 'style', NEW.style UNION ALL SELECT 'brewer', NEW.brewer_id UNION ALL
        SELECT 'grinder', NEW.grinder_id) k WHERE NEW.mark > 0
    ON CONFLICT DO UPDATE SET marked = marked + excluded.marked, marks = marks + excluded.marks, squares = squares + excluded.squares;
    INSERT INTO repeats (same, person, measure, grinder_id, n, sum, squares)
    SELECT NEW.same, p.id, m.name, NEW.grinder_id, NEW.count, NEW.count * m.value, NEW.count * m.value * m.value
    FROM (SELECT '*' AS id UNION ALL SELECT NEW.person) p, (SELECT 'drawdown' AS name, NEW.drawdown AS value UNION ALL
        SELECT 'yield', NEW.yield UNION ALL SELECT 'mark', NEW.mark) m
    WHERE m.value > 0
    ON CONFLICT DO UPDATE SET n = n + excluded.n, sum = sum + excluded.sum, squares = squares + excluded.squares;
END;
-- +goose StatementEnd

INSERT INTO tally (count, day, bag_id, brewer_id, grinder_id, style, same, used, person, mark, yield, drawdown)
SELECT * FROM tally;

-- +goose StatementBegin
CREATE TRIGGER an_entry_counts AFTER INSERT ON entries BEGIN
    INSERT INTO tally SELECT 1, NEW.day, NEW.bag_id, NEW.brewer_id, NEW.grinder_id, NEW.style, NEW.same, NEW.used, NEW.person, NEW.mark,
        NEW.yield, NEW.drawdown;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER an_entry_no_longer_counts AFTER DELETE ON entries BEGIN
    INSERT INTO tally SELECT -1, OLD.day, OLD.bag_id, OLD.brewer_id, OLD.grinder_id, OLD.style, OLD.same, OLD.used, OLD.person, OLD.mark,
        OLD.yield, OLD.drawdown;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER an_entry_counts_otherwise AFTER UPDATE OF day, used, person, mark, yield, drawdown ON entries
WHEN (OLD.day, OLD.used, OLD.person, OLD.mark, OLD.yield, OLD.drawdown) <> (NEW.day, NEW.used, NEW.person, NEW.mark, NEW.yield, NEW.drawdown) BEGIN
    INSERT INTO tally SELECT -1, OLD.day, OLD.bag_id, OLD.brewer_id, OLD.grinder_id, OLD.style, OLD.same, OLD.used, OLD.person, OLD.mark,
        OLD.yield, OLD.drawdown;
    INSERT INTO tally SELECT 1, NEW.day, NEW.bag_id, NEW.brewer_id, NEW.grinder_id, NEW.style, NEW.same, NEW.used, NEW.person, NEW.mark,
        NEW.yield, NEW.drawdown;
END;
-- +goose StatementEnd
