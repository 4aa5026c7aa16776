-- +goose Up
-- What programs that listen are told, in order. The oldest are dropped.
CREATE TABLE happenings (
    n       INTEGER PRIMARY KEY AUTOINCREMENT,
    kind    TEXT    NOT NULL CHECK (kind IN ('brew-started', 'pour-finished', 'brew-ended', 'cup-saved')),
    brew_id TEXT    NOT NULL,
    at      TEXT    NOT NULL,
    pour    INTEGER NOT NULL DEFAULT 0, -- of pour-finished, from 1
    of      INTEGER NOT NULL DEFAULT 0, -- pours of the plan
    sum     REAL    NOT NULL DEFAULT 0 -- total on the scale, g
) STRICT;
