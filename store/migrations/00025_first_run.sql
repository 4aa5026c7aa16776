-- +goose Up
ALTER TABLE settings ADD COLUMN spoons INTEGER NOT NULL DEFAULT 0; -- 1: no scale, amounts in tablespoons and mugs
-- Whether the Recipe station shows all settings, for a person, and for the yard without people. Who has brewed before keeps them all.
ALTER TABLE settings ADD COLUMN full_recipe INTEGER NOT NULL DEFAULT 0;
ALTER TABLE people ADD COLUMN full_recipe INTEGER NOT NULL DEFAULT 0;
UPDATE settings SET full_recipe = EXISTS (SELECT 1 FROM brews);
UPDATE people SET full_recipe = 1;
