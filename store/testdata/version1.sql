-- A yard as version 1 left it.
INSERT INTO bags (id, name, roaster, process, roast, altitude, roasted_on, opened_on, weight, price, currency, notes, window_from, window_to)
    VALUES (1, 'Slate Terrace', 'The shed', 'washed', 1, 0, '2026-04-20', '', 250, 0, '', '', 0, 0);
INSERT INTO kettles (id, name, thermostat, capacity) VALUES (1, 'Stove kettle', 0, 1600);
INSERT INTO brews (id, bag_id, status, recipe, plan, bag, gear, asked, draft, checked, cup, dose_used, created_at, started_at, zone) VALUES
    (1, 1, 'done',
     '{"style":"three-rounds","dose":18,"water":297,"grind":650,"temperature":94,"bloom":3,"bloomTime":45,"swirl":true,"height":1,"steep":0,"rinse":true}',
     '{"steps":[{"act":"pour","bloom":true,"start":0,"lasts":12,"water":54,"total":54,"height":1,"swirl":true,"temperature":94},{"act":"pour","start":45,"lasts":49,"water":243,"total":297,"height":0,"temperature":94}],"finish":200}',
     '{"name":"Slate Terrace","roast":1,"roastedOn":"2026-04-20"}', '{"brewer":{"id":3,"name":"Cone","kind":"open-cone","material":"plastic","filter":"standard paper","holds":480},"grinder":{"burrs":"hand mill"},"kettle":{"thermostat":true},"boiling":100}',
     'null', '{}', '[]', '{}', 18, '2026-05-01T08:00:00.000Z', '2026-05-01T08:00:00.000Z', '+02:00'),
    (2, 1, 'done', '{"style":"three-rounds","dose":18,"water":297,"swirl":false,"height":1}', '{"steps":[{"act":"pour","water":297,"total":297}],"finish":180}',
     '{"name":"Slate Terrace"}', '{}', 'null', '{}', '[]', '{}', 18, '2026-05-01T08:00:00.000Z', '2026-05-01T08:30:00.000Z', '+02:00'),
    (3, 1, 'abandoned', '{}', '{"steps":null}', '{}', '{}', 'null', '{}', 'null', '{}', 0, '2026-05-01T08:00:00.000Z', NULL, '');
