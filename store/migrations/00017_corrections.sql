-- +goose Up
-- Values of finished brews that were replaced later.
CREATE TABLE corrections (
    n       INTEGER PRIMARY KEY,
    brew_id TEXT NOT NULL REFERENCES brews (id) ON DELETE CASCADE,
    what    TEXT NOT NULL,
    was     TEXT NOT NULL, -- the former value in its canonical unit
    taster  TEXT REFERENCES people (id) ON DELETE CASCADE,    -- of a taste: whose
    by      TEXT REFERENCES people (id) ON DELETE SET NULL,   -- who corrected it
    at      TEXT NOT NULL
) STRICT;
CREATE INDEX corrections_of_brew ON corrections (brew_id, n);
