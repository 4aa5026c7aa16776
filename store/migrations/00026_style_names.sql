-- +goose Up
-- Three styles have other names. A brew keeps what it was made of: only the name by which it calls its style changes.
CREATE TEMP TABLE renamed (was TEXT PRIMARY KEY, now TEXT NOT NULL);
INSERT INTO renamed VALUES ('two-heavy-pours', 'two-centred-pours'), ('long-soak', 'long-bloom'), ('loose-slurry', 'bloom-by-eye');

DROP TRIGGER a_brew_keeps_what_it_was_made_of;
UPDATE brews SET recipe = json_set(recipe, '$.style', r.now) FROM renamed r WHERE recipe ->> '$.style' = r.was;
UPDATE brews SET style = r.now FROM renamed r WHERE style = r.was;
-- +goose StatementBegin
CREATE TRIGGER a_brew_keeps_what_it_was_made_of
BEFORE UPDATE OF recipe, coffee, gear, plan, forecast, asked ON brews
BEGIN SELECT RAISE(ABORT, 'a brew keeps what it was made of'); END;
-- +goose StatementEnd

UPDATE entries SET style = r.now FROM renamed r WHERE style = r.was;
UPDATE mark_totals SET id = r.now FROM renamed r WHERE kind = 'style' AND id = r.was;
UPDATE same_recipes SET key = replace(key, json_quote(r.was), json_quote(r.now)) FROM renamed r WHERE instr(key, json_quote(r.was));
DELETE FROM words WHERE rowid IN (SELECT n FROM entries WHERE style IN (SELECT now FROM renamed));
INSERT INTO words (rowid, text) SELECT n, text FROM entry_words WHERE n IN (SELECT n FROM entries WHERE style IN (SELECT now FROM renamed));
UPDATE saved_filters SET query = replace(query, 'style=' || r.was, 'style=' || r.now) FROM renamed r WHERE instr(query, 'style=' || r.was);

UPDATE recipes SET recipe = json_set(recipe, '$.style', r.now) FROM renamed r WHERE recipe ->> '$.style' = r.was;
UPDATE recipe_versions SET recipe = json_set(recipe, '$.style', r.now) FROM renamed r WHERE recipe ->> '$.style' = r.was;
UPDATE settings SET habits = json_set(habits, '$.style', r.now) FROM renamed r WHERE habits ->> '$.style' = r.was;
UPDATE people SET habits = json_set(habits, '$.style', r.now) FROM renamed r WHERE habits ->> '$.style' = r.was;

-- In documents within documents: exactly as a member of an object, and in deleted records also within a quoted document. One
-- statement for each name, because an update joins a row once.
UPDATE documents SET doc = replace(replace(doc, '"style":"two-heavy-pours"', '"style":"two-centred-pours"'), '"name":"Two heavy pours"', '"name":"Two centred pours"')
WHERE instr(doc, 'two-heavy-pours');
UPDATE removed SET contents = replace(replace(contents, '"style":"two-heavy-pours"', '"style":"two-centred-pours"'), '\"style\":\"two-heavy-pours\"',
    '\"style\":\"two-centred-pours\"')
WHERE instr(contents, 'two-heavy-pours');
UPDATE documents SET doc = replace(replace(doc, '"style":"long-soak"', '"style":"long-bloom"'), '"name":"Long soak, full cone"', '"name":"Long bloom"')
WHERE instr(doc, 'long-soak');
UPDATE removed SET contents = replace(replace(contents, '"style":"long-soak"', '"style":"long-bloom"'), '\"style\":\"long-soak\"',
    '\"style\":\"long-bloom\"')
WHERE instr(contents, 'long-soak');
UPDATE documents SET doc = replace(replace(doc, '"style":"loose-slurry"', '"style":"bloom-by-eye"'), '"name":"Loose-slurry bloom"', '"name":"Bloom by eye"')
WHERE instr(doc, 'loose-slurry');
UPDATE removed SET contents = replace(replace(contents, '"style":"loose-slurry"', '"style":"bloom-by-eye"'), '\"style\":\"loose-slurry\"',
    '\"style\":\"bloom-by-eye\"')
WHERE instr(contents, 'loose-slurry');
DROP TABLE renamed;
