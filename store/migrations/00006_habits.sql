-- +goose Up
-- How the person begins a coffee, where not as the product does.
ALTER TABLE settings ADD COLUMN habits TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(habits));

-- +goose Down
ALTER TABLE settings DROP COLUMN habits;
