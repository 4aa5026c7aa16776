-- The record in three: recipes, brews, and what happened in a brew. Ids are text,
-- so that a client can make them; those of older yards are their numbers.
ALTER TABLE settings RENAME TO old_settings;
ALTER TABLE bags RENAME TO old_bags;
ALTER TABLE brewers RENAME TO old_brewers;
ALTER TABLE grinders RENAME TO old_grinders;
ALTER TABLE kettles RENAME TO old_kettles;
ALTER TABLE brews RENAME TO old_brews;
ALTER TABLE brew_events RENAME TO old_brew_events;

CREATE TABLE settings (
    id         INTEGER PRIMARY KEY CHECK (id = 1),
    ounces     INTEGER NOT NULL DEFAULT 0,
    fahrenheit INTEGER NOT NULL DEFAULT 0,
    altitude   INTEGER NOT NULL DEFAULT 0, -- m
    brewer     TEXT    NOT NULL DEFAULT '',
    grinder    TEXT    NOT NULL DEFAULT '',
    kettle     TEXT    NOT NULL DEFAULT '',
    password   TEXT    NOT NULL DEFAULT ''
) STRICT;

CREATE TABLE bags (
    id          TEXT    PRIMARY KEY,
    name        TEXT    NOT NULL,
    roaster     TEXT    NOT NULL,
    process     TEXT    NOT NULL,
    roast       INTEGER NOT NULL,
    altitude    INTEGER NOT NULL, -- m
    roasted_on  TEXT    NOT NULL,
    opened_on   TEXT    NOT NULL,
    weight      REAL    NOT NULL, -- g
    price       INTEGER NOT NULL, -- minor units
    currency    TEXT    NOT NULL,
    notes       TEXT    NOT NULL,
    window_from REAL    NOT NULL, -- s
    window_to   REAL    NOT NULL,
    version     INTEGER NOT NULL DEFAULT 1,
    deleted_at  TEXT
) STRICT;

CREATE TABLE brewers (
    id         TEXT    PRIMARY KEY,
    name       TEXT    NOT NULL,
    kind       TEXT    NOT NULL,
    material   TEXT    NOT NULL,
    filter     TEXT    NOT NULL,
    holds      REAL    NOT NULL, -- g
    added      INTEGER NOT NULL, -- its place in the lists
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
    read_apart  REAL    NOT NULL, -- s; 0: not read
    added       INTEGER NOT NULL,
    version     INTEGER NOT NULL DEFAULT 1,
    deleted_at  TEXT
) STRICT;

-- A brew from its first water on. What it was made of stays as it was then.
CREATE TABLE brews (
    id          TEXT    PRIMARY KEY,
    bag_id      TEXT    NOT NULL REFERENCES bags (id),
    parent_id   TEXT    REFERENCES brews (id),
    status      TEXT    NOT NULL CHECK (status IN ('running', 'poured', 'done', 'abandoned')),
    -- what lists show and filter by, taken from the documents
    bag_name    TEXT    NOT NULL,
    style       TEXT    NOT NULL,
    brewer_id   TEXT    NOT NULL,
    brewer_name TEXT    NOT NULL,
    setting     TEXT    NOT NULL, -- of the grinder, in its own terms
    dose        REAL    NOT NULL, -- g
    water       REAL    NOT NULL, -- g
    temperature REAL    NOT NULL, -- °C
    dose_used   REAL    NOT NULL, -- out of the bag, g
    drawdown    REAL    NOT NULL, -- s; 0: none yet
    beverage    REAL    NOT NULL, -- g; 0: not weighed
    tds         REAL    NOT NULL, -- %; 0: not measured
    yield       REAL    NOT NULL, -- %
    yield_error REAL    NOT NULL,
    overall     INTEGER NOT NULL, -- 0: not given
    -- documents
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
    zone        TEXT    NOT NULL, -- of the clock on the wall, such as +02:00
    version     INTEGER NOT NULL DEFAULT 1
) STRICT;

-- Recipes in the making, and recipes that are kept under a name.
CREATE TABLE recipes (
    id         TEXT    PRIMARY KEY,
    bag_id     TEXT    NOT NULL REFERENCES bags (id),
    parent_id  TEXT    REFERENCES brews (id),
    name       TEXT    NOT NULL, -- empty: in the making
    brewer_id  TEXT    NOT NULL REFERENCES brewers (id),
    grinder_id TEXT    NOT NULL REFERENCES grinders (id),
    kettle_id  TEXT    NOT NULL REFERENCES kettles (id),
    recipe     TEXT    NOT NULL CHECK (json_valid(recipe)),
    asked      TEXT    NOT NULL CHECK (json_valid(asked)),
    draft      TEXT    NOT NULL CHECK (json_valid(draft)),
    created_at TEXT    NOT NULL,
    changed_at TEXT    NOT NULL,
    zone       TEXT    NOT NULL,
    deleted_at TEXT,
    version    INTEGER NOT NULL DEFAULT 1
) STRICT;

-- What happened in a brew, in its order: the start, touches, readings. Append-only.
CREATE TABLE brew_events (
    brew_id TEXT    NOT NULL REFERENCES brews (id),
    n       INTEGER NOT NULL,
    key     TEXT    NOT NULL, -- tells a repeated sending from a new event
    kind    TEXT    NOT NULL,
    at      REAL    NOT NULL, -- s since the first water
    instant TEXT,             -- of the start
    mark    TEXT    NOT NULL,
    grams   REAL    NOT NULL, -- of a reading
    PRIMARY KEY (brew_id, n),
    UNIQUE (brew_id, key)
) STRICT, WITHOUT ROWID;

INSERT INTO settings SELECT id, ounces, fahrenheit, altitude,
    CASE brewer WHEN 0 THEN '' ELSE CAST(brewer AS TEXT) END, CASE grinder WHEN 0 THEN '' ELSE CAST(grinder AS TEXT) END, CASE kettle WHEN 0 THEN '' ELSE CAST(kettle AS TEXT) END, password FROM old_settings;
INSERT INTO bags SELECT CAST(id AS TEXT), name, roaster, process, roast, altitude, roasted_on, opened_on, weight, price, currency, notes, window_from, window_to, version, deleted_at FROM old_bags;
INSERT INTO brewers SELECT CAST(id AS TEXT), name, kind, material, filter, holds, id, version, deleted_at FROM old_brewers;
INSERT INTO grinders SELECT CAST(id AS TEXT), name, burrs, dial_kind, dial_zero, dial_step, dial_mark, dial_per_turn, loss, id, version, deleted_at FROM old_grinders;
INSERT INTO kettles SELECT CAST(id AS TEXT), name, thermostat, capacity, spout, read_water, read_first, read_second, read_apart, id, version, deleted_at FROM old_kettles;
