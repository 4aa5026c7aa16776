-- +goose Up
-- What the yard has taught, worked out from its measured brews: one document, which
-- can be made again at any time.
CREATE TABLE learned (
    id      INTEGER PRIMARY KEY CHECK (id = 1),
    yard    TEXT NOT NULL CHECK (json_valid(yard)),
    made_at TEXT NOT NULL
) STRICT;

-- What a person said of a brew: to leave it out of learning, or to take it though it is odd.
CREATE TABLE verdicts (
    brew_id TEXT PRIMARY KEY REFERENCES brews (id),
    verdict TEXT NOT NULL CHECK (verdict IN ('out', 'in'))
) STRICT;

-- +goose Down
DROP TABLE verdicts;
DROP TABLE learned;
