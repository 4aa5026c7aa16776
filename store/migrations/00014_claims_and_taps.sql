-- +goose Up
-- The brew for which a scale is armed, or that it weighs: at most one for each scale, and one scale for each brew. Drafts
-- and brews share their ids.
CREATE TABLE claims (
    scale_id TEXT PRIMARY KEY REFERENCES devices (id) ON DELETE CASCADE,
    brew_id  TEXT NOT NULL UNIQUE
) STRICT;

-- Of a tap: the start it counts from, its stage, and the event it undoes. Of a revised plan: a hash of the events it was derived
-- from.
ALTER TABLE brew_events ADD COLUMN start TEXT NOT NULL DEFAULT '';
ALTER TABLE brew_events ADD COLUMN stage INTEGER NOT NULL DEFAULT 0;
ALTER TABLE brew_events ADD COLUMN undoes TEXT NOT NULL DEFAULT '';
ALTER TABLE brew_events ADD COLUMN celsius REAL NOT NULL DEFAULT 0;
ALTER TABLE brew_events ADD COLUMN basis TEXT NOT NULL DEFAULT '';

DROP TRIGGER events_are_not_changed;
-- +goose StatementBegin
CREATE TRIGGER events_are_not_changed BEFORE UPDATE OF brew_id, n, key, kind, at, instant, mark, grams, plan, note, start, stage, undoes,
    celsius, basis ON brew_events
BEGIN SELECT RAISE(ABORT, 'events are append-only'); END;
-- +goose StatementEnd

-- started_at may change: an earlier start can arrive late from a screen that was offline.
DROP TRIGGER a_brew_keeps_what_it_was_made_of;
-- +goose StatementBegin
CREATE TRIGGER a_brew_keeps_what_it_was_made_of
BEFORE UPDATE OF recipe, coffee, gear, plan, forecast, asked ON brews
BEGIN SELECT RAISE(ABORT, 'a brew keeps what it was made of'); END;
-- +goose StatementEnd

-- A folder on another disk to which each backup is copied; empty for none.
ALTER TABLE settings ADD COLUMN second_folder TEXT NOT NULL DEFAULT '';
