-- +goose Up
-- What brewing live needs: how a plan was bent, readings of scales, devices, practice, scripts, rushes.
ALTER TABLE brew_events ADD COLUMN plan TEXT NOT NULL DEFAULT 'null' CHECK (json_valid(plan)); -- how the brew goes on, of a bend
ALTER TABLE brew_events ADD COLUMN note TEXT NOT NULL DEFAULT '';                              -- why, of a stop and of a bend; the scale's id

-- Readings of the scale under a brew, in batches as they came. Append-only.
CREATE TABLE brew_readings (
    brew_id  TEXT    NOT NULL REFERENCES brews (id),
    n        INTEGER NOT NULL,
    readings TEXT    NOT NULL CHECK (json_valid(readings)), -- [[s since the first water, g], …]
    PRIMARY KEY (brew_id, n)
) STRICT, WITHOUT ROWID;

CREATE TABLE devices (
    id         TEXT    PRIMARY KEY,
    name       TEXT    NOT NULL,
    kind       TEXT    NOT NULL CHECK (kind IN ('scale', 'kettle', 'refractometer')),
    address    TEXT    NOT NULL, -- tcp://HOST:PORT or ws://HOST:PORT/PATH
    carafe     REAL    NOT NULL, -- g, of the carafe that stands on a scale; 0: not known
    added      INTEGER NOT NULL,
    version    INTEGER NOT NULL DEFAULT 1,
    deleted_at TEXT
) STRICT;

-- Water poured for practice, stage scripts and rushes: whole documents, each with its version.
CREATE TABLE exercises (
    id         TEXT    PRIMARY KEY,
    exercise   TEXT    NOT NULL CHECK (json_valid(exercise)),
    created_at TEXT    NOT NULL,
    version    INTEGER NOT NULL DEFAULT 1
) STRICT;
CREATE INDEX exercises_by_time ON exercises (created_at);

CREATE TABLE scripts (
    id         TEXT    PRIMARY KEY,
    script     TEXT    NOT NULL CHECK (json_valid(script)),
    created_at TEXT    NOT NULL,
    version    INTEGER NOT NULL DEFAULT 1
) STRICT;
CREATE INDEX scripts_by_time ON scripts (created_at);

CREATE TABLE rushes (
    id         TEXT    PRIMARY KEY,
    rush       TEXT    NOT NULL CHECK (json_valid(rush)),
    created_at TEXT    NOT NULL,
    version    INTEGER NOT NULL DEFAULT 1
) STRICT;
CREATE INDEX rushes_by_time ON rushes (created_at);

-- +goose Down
DROP TABLE rushes;
DROP TABLE scripts;
DROP TABLE exercises;
DROP TABLE devices;
DROP TABLE brew_readings;
ALTER TABLE brew_events DROP COLUMN note;
ALTER TABLE brew_events DROP COLUMN plan;
