-- +goose Up
-- The ID by which SQLite files of this program are known, "YBlm".
PRAGMA application_id = 0x59426c6d;

CREATE TABLE settings (
    id         INTEGER PRIMARY KEY CHECK (id = 1),
    ounces     INTEGER NOT NULL DEFAULT 0,
    fahrenheit INTEGER NOT NULL DEFAULT 0,
    altitude   INTEGER NOT NULL DEFAULT 0, -- m
    brewer     TEXT    NOT NULL DEFAULT '', -- used last
    grinder    TEXT    NOT NULL DEFAULT '',
    kettle     TEXT    NOT NULL DEFAULT '',
    water      TEXT    NOT NULL DEFAULT '',
    password   TEXT    NOT NULL DEFAULT '', -- argon2id with its parameters; empty: none
    habits     TEXT    NOT NULL DEFAULT '{}' CHECK (json_valid(habits)),
    version    INTEGER NOT NULL DEFAULT 1
) STRICT;

INSERT INTO settings (id) VALUES (1);

CREATE TABLE sessions (
    token  TEXT PRIMARY KEY, -- hashed
    data   BLOB NOT NULL,
    expiry REAL NOT NULL
) STRICT;

CREATE INDEX sessions_by_expiry ON sessions (expiry);

-- Gear. The column added is the place in lists.

CREATE TABLE brewers (
    id         TEXT    PRIMARY KEY,
    name       TEXT    NOT NULL,
    kind       TEXT    NOT NULL,
    material   TEXT    NOT NULL,
    filter     TEXT    NOT NULL,
    holds      REAL    NOT NULL, -- g
    added      INTEGER NOT NULL,
    version    INTEGER NOT NULL DEFAULT 1,
    deleted_at TEXT
) STRICT;

CREATE TABLE grinders (
    id            TEXT    PRIMARY KEY,
    name          TEXT    NOT NULL,
    burrs         TEXT    NOT NULL,
    dial_kind     TEXT    NOT NULL,
    dial_zero     REAL    NOT NULL, -- µm
    dial_step     REAL    NOT NULL, -- µm
    dial_mark     REAL    NOT NULL,
    dial_per_turn INTEGER NOT NULL,
    loss          REAL    NOT NULL, -- g
    zeroed        INTEGER NOT NULL DEFAULT 0, -- times
    added         INTEGER NOT NULL,
    version       INTEGER NOT NULL DEFAULT 1,
    deleted_at    TEXT
) STRICT;

CREATE TABLE kettles (
    id          TEXT    PRIMARY KEY,
    name        TEXT    NOT NULL,
    thermostat  INTEGER NOT NULL,
    capacity    REAL    NOT NULL, -- g
    spout       REAL    NOT NULL, -- g/s; 0: unknown
    read_water  REAL    NOT NULL, -- g
    read_first  REAL    NOT NULL, -- °C
    read_second REAL    NOT NULL, -- °C
    read_apart  REAL    NOT NULL, -- s; 0: not measured
    added       INTEGER NOT NULL,
    version     INTEGER NOT NULL DEFAULT 1,
    deleted_at  TEXT
) STRICT;

CREATE TABLE waters (
    id          TEXT    PRIMARY KEY,
    name        TEXT    NOT NULL,
    source      TEXT    NOT NULL,
    hardness    REAL    NOT NULL, -- mg/l as CaCO3
    alkalinity  REAL    NOT NULL, -- mg/l as CaCO3
    calcium     REAL    NOT NULL, -- mg/l
    magnesium   REAL    NOT NULL,
    bicarbonate REAL    NOT NULL,
    known       INTEGER NOT NULL, -- 1: hardness and alkalinity were entered, also if they are 0
    added       INTEGER NOT NULL,
    version     INTEGER NOT NULL DEFAULT 1,
    deleted_at  TEXT
) STRICT;

CREATE TABLE devices (
    id         TEXT    PRIMARY KEY,
    name       TEXT    NOT NULL,
    kind       TEXT    NOT NULL CHECK (kind IN ('scale', 'kettle', 'refractometer')),
    address    TEXT    NOT NULL, -- tcp://HOST:PORT or ws://HOST:PORT/PATH
    carafe     REAL    NOT NULL, -- weight of the carafe on a scale, g; 0: unknown
    added      INTEGER NOT NULL,
    version    INTEGER NOT NULL DEFAULT 1,
    deleted_at TEXT
) STRICT;

CREATE TABLE bags (
    id          TEXT    PRIMARY KEY,
    name        TEXT    NOT NULL,
    roaster     TEXT    NOT NULL,
    process     TEXT    NOT NULL,
    roast       INTEGER NOT NULL,
    variety     TEXT    NOT NULL DEFAULT '',
    altitude    INTEGER NOT NULL, -- m
    density     REAL    NOT NULL DEFAULT 0, -- g/l; 0: unknown
    roasted_on  TEXT    NOT NULL,
    opened_on   TEXT    NOT NULL,
    weight      REAL    NOT NULL, -- g
    counted     REAL    NOT NULL DEFAULT 0, -- what was left at counted_at, g
    counted_at  TEXT,
    frozen_on   TEXT    NOT NULL DEFAULT '',
    frozen_days INTEGER NOT NULL DEFAULT 0,
    origin      TEXT    NOT NULL DEFAULT '', -- ID of the bag of a frozen portion
    price       INTEGER NOT NULL, -- minor units
    currency    TEXT    NOT NULL,
    notes       TEXT    NOT NULL,
    when_fast   TEXT    NOT NULL DEFAULT '',
    when_slow   TEXT    NOT NULL DEFAULT '',
    window_from REAL    NOT NULL, -- s
    window_to   REAL    NOT NULL,
    version     INTEGER NOT NULL DEFAULT 1,
    deleted_at  TEXT
) STRICT;

CREATE INDEX bags_on_shelf ON bags (roasted_on, id) WHERE deleted_at IS NULL;

CREATE TABLE brews (
    id          TEXT    PRIMARY KEY,
    bag_id      TEXT    NOT NULL REFERENCES bags (id),
    parent_id   TEXT    REFERENCES brews (id),
    status      TEXT    NOT NULL CHECK (status IN ('running', 'poured', 'done', 'abandoned')),
    -- Copied from the documents below, for lists and filters.
    bag_name    TEXT    NOT NULL,
    style       TEXT    NOT NULL,
    brewer_id   TEXT    NOT NULL,
    brewer_name TEXT    NOT NULL,
    setting     TEXT    NOT NULL, -- of the grinder, as on its dial
    dose        REAL    NOT NULL, -- g
    water       REAL    NOT NULL, -- g
    temperature REAL    NOT NULL, -- °C
    dose_used   REAL    NOT NULL, -- taken from the bag, g
    drawdown    REAL    NOT NULL, -- s; 0: not measured
    beverage    REAL    NOT NULL, -- g; 0: not weighed
    tds         REAL    NOT NULL, -- %; 0: not measured
    yield       REAL    NOT NULL, -- %
    yield_error REAL    NOT NULL,
    overall     INTEGER NOT NULL, -- 0: no mark
    -- Documents.
    recipe      TEXT    NOT NULL CHECK (json_valid(recipe)),
    coffee      TEXT    NOT NULL CHECK (json_valid(coffee)),
    gear        TEXT    NOT NULL CHECK (json_valid(gear)),
    plan        TEXT    NOT NULL CHECK (json_valid(plan)),
    forecast    TEXT    NOT NULL CHECK (json_valid(forecast)),
    asked       TEXT    NOT NULL CHECK (json_valid(asked)),
    cup         TEXT    NOT NULL CHECK (json_valid(cup)),
    advice      TEXT    NOT NULL CHECK (json_valid(advice)),
    created_at  TEXT    NOT NULL,
    started_at  TEXT    NOT NULL,
    ended_at    TEXT,
    zone        TEXT    NOT NULL, -- of the wall clock, such as +02:00
    version     INTEGER NOT NULL DEFAULT 1
) STRICT;

CREATE INDEX brews_by_start ON brews (started_at, id);
CREATE INDEX brews_of_bag ON brews (bag_id, started_at, id, dose_used);
CREATE INDEX brews_after ON brews (parent_id) WHERE parent_id IS NOT NULL;
CREATE INDEX brews_running ON brews (started_at) WHERE status = 'running';
CREATE INDEX brews_untasted ON brews (started_at) WHERE status = 'poured';
CREATE INDEX brews_weighed ON brews (brewer_id, started_at, water, dose, beverage) WHERE status = 'done' AND beverage > 0;

-- +goose StatementBegin
CREATE TRIGGER a_brew_keeps_what_it_was_made_of
BEFORE UPDATE OF recipe, coffee, gear, plan, forecast, asked, started_at ON brews
BEGIN SELECT RAISE(ABORT, 'a brew keeps what it was made of'); END;
-- +goose StatementEnd

CREATE TABLE brew_events (
    brew_id TEXT    NOT NULL REFERENCES brews (id),
    n       INTEGER NOT NULL,
    key     TEXT    NOT NULL, -- the same for an event that is sent again
    kind    TEXT    NOT NULL,
    at      REAL    NOT NULL, -- s since the first water
    instant TEXT,             -- of the start
    mark    TEXT    NOT NULL,
    grams   REAL    NOT NULL,
    plan    TEXT    NOT NULL DEFAULT 'null' CHECK (json_valid(plan)),
    note    TEXT    NOT NULL DEFAULT '',
    PRIMARY KEY (brew_id, n),
    UNIQUE (brew_id, key)
) STRICT, WITHOUT ROWID;

-- +goose StatementBegin
CREATE TRIGGER events_are_not_changed BEFORE UPDATE ON brew_events
BEGIN SELECT RAISE(ABORT, 'events are append-only'); END;
-- +goose StatementEnd

-- The start of a running brew may be undone: its scale mistook the rinse or the coffee for water.
-- +goose StatementBegin
CREATE TRIGGER events_are_not_deleted BEFORE DELETE ON brew_events
WHEN (SELECT status FROM brews WHERE id = OLD.brew_id) <> 'running'
BEGIN SELECT RAISE(ABORT, 'events are append-only'); END;
-- +goose StatementEnd

CREATE TABLE brew_readings (
    brew_id  TEXT    NOT NULL REFERENCES brews (id),
    n        INTEGER NOT NULL,
    readings TEXT    NOT NULL CHECK (json_valid(readings)), -- [[s since the first water, g], …]
    PRIMARY KEY (brew_id, n)
) STRICT, WITHOUT ROWID;

-- Drafts, without a name, and kept recipes.
CREATE TABLE recipes (
    id         TEXT    PRIMARY KEY,
    bag_id     TEXT    NOT NULL REFERENCES bags (id),
    parent_id  TEXT    REFERENCES brews (id),
    name       TEXT    NOT NULL,
    number     INTEGER NOT NULL DEFAULT 1, -- of the version
    code       TEXT    NOT NULL DEFAULT '', -- of the short address
    favourite  INTEGER NOT NULL DEFAULT 0,
    forked     TEXT    NOT NULL DEFAULT '', -- name of the recipe it was copied from
    brewer_id  TEXT    NOT NULL REFERENCES brewers (id),
    grinder_id TEXT    NOT NULL REFERENCES grinders (id),
    kettle_id  TEXT    NOT NULL REFERENCES kettles (id),
    water_id   TEXT    REFERENCES waters (id),
    recipe     TEXT    NOT NULL CHECK (json_valid(recipe)),
    asked      TEXT    NOT NULL CHECK (json_valid(asked)),
    draft      TEXT    NOT NULL CHECK (json_valid(draft)),
    created_at TEXT    NOT NULL,
    changed_at TEXT    NOT NULL,
    zone       TEXT    NOT NULL,
    deleted_at TEXT,
    version    INTEGER NOT NULL DEFAULT 1
) STRICT;

CREATE INDEX recipes_of_bag ON recipes (bag_id, changed_at, id) WHERE deleted_at IS NULL;
CREATE INDEX recipes_after ON recipes (parent_id) WHERE parent_id IS NOT NULL;
CREATE UNIQUE INDEX recipes_by_code ON recipes (code) WHERE code <> '';
CREATE INDEX kept_recipes ON recipes (favourite DESC, changed_at DESC) WHERE name <> '' AND deleted_at IS NULL;

-- Earlier versions of kept recipes.
CREATE TABLE recipe_versions (
    recipe_id TEXT    NOT NULL REFERENCES recipes (id),
    number    INTEGER NOT NULL,
    recipe    TEXT    NOT NULL CHECK (json_valid(recipe)),
    gear      TEXT    NOT NULL CHECK (json_valid(gear)), -- IDs
    said      TEXT    NOT NULL, -- the changes in the next version
    kept_at   TEXT    NOT NULL, -- when that was
    PRIMARY KEY (recipe_id, number)
) STRICT;

CREATE TABLE learned (
    id      INTEGER PRIMARY KEY CHECK (id = 1),
    yard    TEXT NOT NULL CHECK (json_valid(yard)),
    made_at TEXT NOT NULL
) STRICT;

-- Whether a person has a brew left out of learning, or taken in though it is an outlier.
CREATE TABLE verdicts (
    brew_id TEXT PRIMARY KEY REFERENCES brews (id),
    verdict TEXT NOT NULL CHECK (verdict IN ('out', 'in'))
) STRICT;

-- Records that are read and written whole.
CREATE TABLE documents (
    id         TEXT    PRIMARY KEY,
    kind       TEXT    NOT NULL CHECK (kind IN ('flight', 'trial', 'rush', 'script', 'try')),
    doc        TEXT    NOT NULL CHECK (json_valid(doc)),
    created_at TEXT    NOT NULL,
    deleted_at TEXT,
    version    INTEGER NOT NULL DEFAULT 1
) STRICT;

CREATE INDEX documents_by_time ON documents (kind, created_at) WHERE deleted_at IS NULL;
