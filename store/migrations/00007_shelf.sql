-- +goose Up
-- What more is known of a coffee; how much of it was on the scale, and when; how long it was frozen.
ALTER TABLE bags ADD COLUMN variety TEXT NOT NULL DEFAULT '';
ALTER TABLE bags ADD COLUMN density REAL NOT NULL DEFAULT 0;     -- of the roasted beans, g/l
ALTER TABLE bags ADD COLUMN when_fast TEXT NOT NULL DEFAULT '';  -- what it tastes like when it drains too fast
ALTER TABLE bags ADD COLUMN when_slow TEXT NOT NULL DEFAULT '';
ALTER TABLE bags ADD COLUMN counted REAL NOT NULL DEFAULT 0;     -- g, at counted_at
ALTER TABLE bags ADD COLUMN counted_at TEXT;
ALTER TABLE bags ADD COLUMN frozen_on TEXT NOT NULL DEFAULT '';  -- the day since when it is frozen
ALTER TABLE bags ADD COLUMN frozen_days INTEGER NOT NULL DEFAULT 0; -- before that
ALTER TABLE bags ADD COLUMN origin TEXT NOT NULL DEFAULT '';     -- the bag that a frozen portion was taken from

-- Waters, mg/l; hardness and alkalinity as calcium carbonate.
CREATE TABLE waters (
    id          TEXT PRIMARY KEY,
    name        TEXT NOT NULL,
    source      TEXT NOT NULL,
    hardness    REAL NOT NULL,
    alkalinity  REAL NOT NULL,
    calcium     REAL NOT NULL,
    magnesium   REAL NOT NULL,
    bicarbonate REAL NOT NULL,
    known       INTEGER NOT NULL, -- a nought is a nought
    added       INTEGER NOT NULL,
    version     INTEGER NOT NULL DEFAULT 1,
    deleted_at  TEXT
) STRICT;
ALTER TABLE recipes ADD COLUMN water_id TEXT REFERENCES waters (id);
ALTER TABLE settings ADD COLUMN water TEXT NOT NULL DEFAULT '';

-- How often a grinder was taken apart and zeroed anew: its settings mean something else since.
ALTER TABLE grinders ADD COLUMN zeroed INTEGER NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE grinders DROP COLUMN zeroed;
ALTER TABLE settings DROP COLUMN water;
ALTER TABLE recipes DROP COLUMN water_id;
DROP TABLE waters;
ALTER TABLE bags DROP COLUMN origin;
ALTER TABLE bags DROP COLUMN frozen_days;
ALTER TABLE bags DROP COLUMN frozen_on;
ALTER TABLE bags DROP COLUMN counted_at;
ALTER TABLE bags DROP COLUMN counted;
ALTER TABLE bags DROP COLUMN when_slow;
ALTER TABLE bags DROP COLUMN when_fast;
ALTER TABLE bags DROP COLUMN density;
ALTER TABLE bags DROP COLUMN variety;
