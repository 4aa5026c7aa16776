-- +goose Up
-- The ribs of a brewer's wall and its outlets; empty: as usual for its kind.
ALTER TABLE brewers ADD COLUMN ribs TEXT NOT NULL DEFAULT '';
ALTER TABLE brewers ADD COLUMN outlets TEXT NOT NULL DEFAULT '';
