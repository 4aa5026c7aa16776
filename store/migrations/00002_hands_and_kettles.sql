-- +goose Up
-- How fast a kettle pours at most, g/s, and two readings of it as it cools; 0 for not known.
ALTER TABLE kettles ADD COLUMN spout       REAL NOT NULL DEFAULT 0;
ALTER TABLE kettles ADD COLUMN read_water  REAL NOT NULL DEFAULT 0; -- g
ALTER TABLE kettles ADD COLUMN read_first  REAL NOT NULL DEFAULT 0; -- °C
ALTER TABLE kettles ADD COLUMN read_second REAL NOT NULL DEFAULT 0; -- °C
ALTER TABLE kettles ADD COLUMN read_apart  REAL NOT NULL DEFAULT 0; -- s

-- The hand can do more than swirl: the yes or no becomes a word.
UPDATE brews SET
    recipe = replace(replace(recipe, '"swirl":true', '"hand":"swirl"'), '"swirl":false', '"hand":""'),
    plan   = replace(plan, '"swirl":true', '"then":"swirl"');

-- +goose Down
UPDATE brews SET
    recipe = replace(replace(recipe, '"hand":""', '"swirl":false'), '"hand":"swirl"', '"swirl":true'),
    plan   = replace(plan, '"then":"swirl"', '"swirl":true');
ALTER TABLE kettles DROP COLUMN spout;
ALTER TABLE kettles DROP COLUMN read_water;
ALTER TABLE kettles DROP COLUMN read_first;
ALTER TABLE kettles DROP COLUMN read_second;
ALTER TABLE kettles DROP COLUMN read_apart;
