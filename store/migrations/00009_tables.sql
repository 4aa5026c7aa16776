-- +goose Up
-- Cups side by side and trials: whole documents, each with its version.
CREATE TABLE flights (
    id         TEXT    PRIMARY KEY,
    flight     TEXT    NOT NULL CHECK (json_valid(flight)),
    created_at TEXT    NOT NULL,
    version    INTEGER NOT NULL DEFAULT 1
) STRICT;
CREATE INDEX flights_by_time ON flights (created_at);

CREATE TABLE trials (
    id         TEXT    PRIMARY KEY,
    bag_id     TEXT    NOT NULL REFERENCES bags (id),
    trial      TEXT    NOT NULL CHECK (json_valid(trial)),
    created_at TEXT    NOT NULL,
    version    INTEGER NOT NULL DEFAULT 1
) STRICT;
CREATE INDEX trials_by_time ON trials (created_at);

-- +goose Down
DROP TABLE trials;
DROP TABLE flights;
