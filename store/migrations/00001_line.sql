-- +goose Up
CREATE TABLE settings (
    id         INTEGER PRIMARY KEY CHECK (id = 1),
    ounces     INTEGER NOT NULL DEFAULT 0,
    fahrenheit INTEGER NOT NULL DEFAULT 0,
    altitude   INTEGER NOT NULL DEFAULT 0,
    brewer     INTEGER NOT NULL DEFAULT 0,
    grinder    INTEGER NOT NULL DEFAULT 0,
    kettle     INTEGER NOT NULL DEFAULT 0,
    password   TEXT    NOT NULL DEFAULT ''
) STRICT;
INSERT INTO settings (id) VALUES (1);

CREATE TABLE bags (
    id          INTEGER PRIMARY KEY,
    name        TEXT    NOT NULL,
    roaster     TEXT    NOT NULL,
    process     TEXT    NOT NULL,
    roast       INTEGER NOT NULL,
    altitude    INTEGER NOT NULL,
    roasted_on  TEXT    NOT NULL,
    opened_on   TEXT    NOT NULL,
    weight      REAL    NOT NULL,
    price       INTEGER NOT NULL, -- minor units
    currency    TEXT    NOT NULL,
    notes       TEXT    NOT NULL,
    window_from REAL    NOT NULL,
    window_to   REAL    NOT NULL,
    version     INTEGER NOT NULL DEFAULT 1,
    deleted_at  TEXT
) STRICT;

CREATE TABLE brewers (
    id         INTEGER PRIMARY KEY,
    name       TEXT    NOT NULL,
    kind       TEXT    NOT NULL,
    material   TEXT    NOT NULL,
    filter     TEXT    NOT NULL,
    holds      REAL    NOT NULL,
    version    INTEGER NOT NULL DEFAULT 1,
    deleted_at TEXT
) STRICT;

CREATE TABLE grinders (
    id            INTEGER PRIMARY KEY,
    name          TEXT    NOT NULL,
    burrs         TEXT    NOT NULL,
    dial_kind     TEXT    NOT NULL,
    dial_zero     REAL    NOT NULL,
    dial_step     REAL    NOT NULL,
    dial_mark     REAL    NOT NULL,
    dial_per_turn INTEGER NOT NULL,
    loss          REAL    NOT NULL,
    version       INTEGER NOT NULL DEFAULT 1,
    deleted_at    TEXT
) STRICT;

CREATE TABLE kettles (
    id         INTEGER PRIMARY KEY,
    name       TEXT    NOT NULL,
    thermostat INTEGER NOT NULL,
    capacity   REAL    NOT NULL,
    version    INTEGER NOT NULL DEFAULT 1,
    deleted_at TEXT
) STRICT;

-- A brew from its recipe to its cup. What it was made of and with is kept as it
-- was when the pouring began, so later edits never change history.
CREATE TABLE brews (
    id         INTEGER PRIMARY KEY AUTOINCREMENT, -- never used twice, so an old link never opens another brew
    bag_id     INTEGER NOT NULL REFERENCES bags (id),
    parent_id  INTEGER REFERENCES brews (id),
    status     TEXT    NOT NULL CHECK (status IN ('planned', 'running', 'poured', 'done', 'abandoned')),
    recipe     TEXT    NOT NULL CHECK (json_valid(recipe)),
    plan       TEXT    NOT NULL CHECK (json_valid(plan)),
    bag        TEXT    NOT NULL CHECK (json_valid(bag)),
    gear       TEXT    NOT NULL CHECK (json_valid(gear)),
    asked      TEXT    NOT NULL CHECK (json_valid(asked)),
    draft      TEXT    NOT NULL CHECK (json_valid(draft)), -- what was typed and cannot be brewed yet
    checked    TEXT    NOT NULL CHECK (json_valid(checked)),
    cup        TEXT    NOT NULL CHECK (json_valid(cup)),
    dose_used  REAL    NOT NULL,                           -- out of the bag, g; counts once started
    created_at TEXT    NOT NULL,
    started_at TEXT,
    ended_at   TEXT,
    zone       TEXT    NOT NULL,                           -- of the clock on the wall, such as +02:00
    version    INTEGER NOT NULL DEFAULT 1
) STRICT;
CREATE INDEX brews_by_bag ON brews (bag_id, started_at);
-- One recipe in the making per bag: leaving it and coming back finds it again.
CREATE UNIQUE INDEX one_planned_brew ON brews (bag_id) WHERE status = 'planned';

CREATE TABLE brew_events (
    id      INTEGER PRIMARY KEY,
    brew_id INTEGER NOT NULL REFERENCES brews (id),
    key     TEXT    NOT NULL,
    kind    TEXT    NOT NULL,
    mark    TEXT    NOT NULL,
    at      REAL    NOT NULL, -- s since the first water
    UNIQUE (brew_id, key)
) STRICT;

-- Who has signed in, where a sign-in is asked for.
CREATE TABLE sessions (
    token  TEXT PRIMARY KEY,
    data   BLOB NOT NULL,
    expiry REAL NOT NULL
) STRICT;
CREATE INDEX sessions_by_expiry ON sessions (expiry);

-- +goose Down
DROP TABLE brew_events;
DROP TABLE brews;
DROP TABLE kettles;
DROP TABLE grinders;
DROP TABLE brewers;
DROP TABLE bags;
DROP TABLE settings;
DROP TABLE sessions;
