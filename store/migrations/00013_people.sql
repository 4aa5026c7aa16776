-- +goose Up
CREATE TABLE people (
    id          TEXT    PRIMARY KEY,
    name        TEXT    NOT NULL,
    name_key    TEXT    NOT NULL UNIQUE, -- equal for names that look equal
    initials    TEXT    NOT NULL,
    mark        TEXT    NOT NULL,
    ounces      INTEGER NOT NULL DEFAULT 0,
    fahrenheit  INTEGER NOT NULL DEFAULT 0,
    theme       TEXT    NOT NULL DEFAULT '', -- empty: as the screen says
    sound       TEXT    NOT NULL DEFAULT '', -- empty: as the screen says
    habits      TEXT    NOT NULL DEFAULT '{}' CHECK (json_valid(habits)),
    added       INTEGER NOT NULL, -- the place in lists
    archived_at TEXT,
    version     INTEGER NOT NULL DEFAULT 1
) STRICT;

-- NULL for a person stands for the yard.

CREATE TABLE tastings (
    brew_id TEXT    NOT NULL REFERENCES brews (id),
    taster  TEXT    REFERENCES people (id) ON DELETE CASCADE,
    overall INTEGER NOT NULL, -- 0: no mark
    cup     TEXT    NOT NULL CHECK (json_valid(cup)), -- taste and requests
    advice  TEXT    NOT NULL CHECK (json_valid(advice))
) STRICT;

CREATE UNIQUE INDEX tastings_of_brew ON tastings (brew_id, COALESCE(taster, ''));
CREATE INDEX tastings_of_taster ON tastings (taster);

INSERT INTO tastings (brew_id, overall, cup, advice)
SELECT id, overall, json_remove(cup, '$.beverage_g', '$.tds_percent', '$.drawdown_s', '$.bed', '$.dose_g', '$.water_g', '$.carafe_g',
    '$.tds_readings_percent', '$.bed_spots', '$.seen', '$.bad_pour', '$.not_done', '$.simulated'), advice
FROM brews WHERE status = 'done' ORDER BY started_at, id;

UPDATE brews SET cup = json_remove(cup, '$.steps', '$.faults', '$.overall', '$.serve', '$.notes', '$.likes', '$.stages', '$.flavours',
    '$.wants')
WHERE status = 'done';

ALTER TABLE brews DROP COLUMN overall;
ALTER TABLE brews DROP COLUMN advice;
ALTER TABLE brews ADD COLUMN brewed_by TEXT REFERENCES people (id) ON DELETE SET NULL;
ALTER TABLE brews ADD COLUMN measured_by TEXT REFERENCES people (id) ON DELETE SET NULL;
CREATE INDEX brews_of_person ON brews (brewed_by);
ALTER TABLE brew_events ADD COLUMN by TEXT REFERENCES people (id) ON DELETE SET NULL;
ALTER TABLE recipes ADD COLUMN by TEXT REFERENCES people (id) ON DELETE SET NULL;
ALTER TABLE recipe_versions ADD COLUMN by TEXT REFERENCES people (id) ON DELETE SET NULL;
ALTER TABLE documents ADD COLUMN by TEXT REFERENCES people (id) ON DELETE SET NULL;

-- An event keeps everything but the name: a person can be removed, and the yard's events assigned.
DROP TRIGGER events_are_not_changed;
-- +goose StatementBegin
CREATE TRIGGER events_are_not_changed BEFORE UPDATE OF brew_id, n, key, kind, at, instant, mark, grams, plan, note ON brew_events
BEGIN SELECT RAISE(ABORT, 'events are append-only'); END;
-- +goose StatementEnd
