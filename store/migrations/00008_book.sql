-- +goose Up
-- The recipe book: kept recipes with a short address, their versions, and the favourite of a coffee.
ALTER TABLE recipes ADD COLUMN code TEXT NOT NULL DEFAULT '';          -- of its short address; empty in the making
ALTER TABLE recipes ADD COLUMN number INTEGER NOT NULL DEFAULT 1;      -- of a kept recipe's version
ALTER TABLE recipes ADD COLUMN favourite INTEGER NOT NULL DEFAULT 0;
ALTER TABLE recipes ADD COLUMN forked TEXT NOT NULL DEFAULT '';        -- the name of the kept recipe that it began as
UPDATE recipes SET code = lower(hex(randomblob(4))) WHERE name <> '';
CREATE UNIQUE INDEX recipes_by_code ON recipes (code) WHERE code <> '';
CREATE INDEX kept_recipes ON recipes (favourite DESC, changed_at DESC) WHERE name <> '' AND deleted_at IS NULL;

CREATE TABLE recipe_versions (
    recipe_id TEXT    NOT NULL REFERENCES recipes (id),
    number    INTEGER NOT NULL,
    recipe    TEXT    NOT NULL CHECK (json_valid(recipe)),
    gear      TEXT    NOT NULL CHECK (json_valid(gear)), -- ids
    said      TEXT    NOT NULL,                          -- what the version after it changed, in words
    kept_at   TEXT    NOT NULL,                          -- until then
    PRIMARY KEY (recipe_id, number)
) STRICT;

-- +goose Down
DROP TABLE recipe_versions;
DROP INDEX kept_recipes;
DROP INDEX recipes_by_code;
ALTER TABLE recipes DROP COLUMN forked;
ALTER TABLE recipes DROP COLUMN favourite;
ALTER TABLE recipes DROP COLUMN number;
ALTER TABLE recipes DROP COLUMN code;
