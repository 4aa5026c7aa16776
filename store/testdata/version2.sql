-- A yard as version 2 left it: a finished brew, one that followed its advice, a
-- stopped one, a running steep, and a recipe in the making.
UPDATE settings SET altitude = 240, brewer = 1, grinder = 1, kettle = 2;
INSERT INTO bags (id, name, roaster, process, roast, altitude, roasted_on, opened_on, weight, price, currency, notes, window_from, window_to)
    VALUES (1, 'Slate Terrace', 'The shed', 'washed', 1, 1950, '2026-04-20', '2026-04-28', 250, 1450, 'EUR', '', 0, 0),
           (2, 'Gone', '', 'natural', 3, 0, '', '', 250, 0, '', '', 0, 0);
UPDATE bags SET deleted_at = '2026-05-01T08:00:00.000Z' WHERE id = 2;
INSERT INTO brewers (id, name, kind, material, filter, holds) VALUES (1, 'Cone', 'open-cone', 'plastic', 'standard paper', 480), (2, 'Steeper', 'valve-steeper', 'plastic', 'standard paper', 420);
INSERT INTO grinders (id, name, burrs, dial_kind, dial_zero, dial_step, dial_mark, dial_per_turn, loss) VALUES (1, 'Mill', 'hand mill', 'clicks', 50, 20, 0, 0, 0.4);
INSERT INTO kettles (id, name, thermostat, capacity) VALUES (1, 'Old kettle', 1, 900), (2, 'Stove kettle', 0, 1600);
INSERT INTO brews (id, bag_id, parent_id, status, recipe, plan, bag, gear, asked, draft, checked, cup, dose_used, created_at, started_at, ended_at, zone, version) VALUES
    (1, 1, NULL, 'done',
     '{"style":"three-rounds","dose":18,"water":297,"grind":650,"temperature":96,"bloom":3,"bloomTime":45,"hand":"swirl","height":1,"steep":0,"rinse":true}',
     '{"steps":[{"act":"pour","bloom":true,"start":0,"lasts":12,"water":54,"total":54,"rate":4.5,"height":1,"pattern":"small circles","then":"swirl","temperature":96},{"act":"pour","start":45,"lasts":17,"water":81,"total":135,"rate":5,"height":1,"pattern":"spiral","temperature":96},{"act":"pour","start":85,"lasts":17,"water":81,"total":216,"rate":5,"height":1,"pattern":"spiral","temperature":96},{"act":"pour","start":125,"lasts":17,"water":81,"total":297,"rate":5,"height":0,"pattern":"spiral","then":"swirl","temperature":96}],"finish":202,"window":{"from":182,"to":222}}',
     '{"id":1,"name":"Slate Terrace","roaster":"The shed","process":"washed","roast":1,"altitude":1950,"roastedOn":"2026-04-20","openedOn":"2026-04-28","weight":250,"price":1450,"currency":"EUR","notes":"","from":0,"to":0}',
     '{"brewer":{"id":1,"name":"Cone","kind":"open-cone","material":"plastic","filter":"standard paper","holds":480,"retained":2},"grinder":{"id":1,"name":"Mill","burrs":"hand mill","kind":"clicks","zero":50,"step":20,"mark":0,"perTurn":0,"loss":0.4},"kettle":{"id":1,"name":"Old kettle","thermostat":true,"capacity":900,"spout":0},"boiling":99.2}',
     'null', '{"held":["ratio","dose"],"ratio":16.5}', '["kettle"]',
     '{"beverage":261,"tds":1.22,"drawdown":171,"bed":"flat","steps":{"acidity":5,"sweetness":1,"body":2},"faults":{"papery":true,"flat, stale":false},"overall":4,"serve":"no","notes":"Sharp."}',
     18.4, '2026-05-01T06:00:00.000Z', '2026-05-01T06:02:00.000Z', '2026-05-01T06:04:51.000Z', '+02:00', 12),
    (2, 1, 1, 'done',
     '{"style":"three-rounds","dose":18,"water":297,"grind":610,"temperature":96,"bloom":3,"bloomTime":45,"hand":"","height":1,"steep":0,"rinse":true}',
     '{"steps":[{"act":"pour","bloom":true,"start":0,"lasts":12,"water":54,"total":54,"rate":4.5,"height":1,"temperature":96},{"act":"pour","start":45,"lasts":49,"water":243,"total":297,"rate":5,"height":1,"temperature":96}],"finish":202,"window":{"from":182,"to":222}}',
     '{"id":1,"name":"Slate Terrace","roast":1,"roastedOn":"2026-04-20"}', '{"brewer":{"id":1,"kind":"open-cone","material":"plastic","filter":"standard paper","holds":480,"retained":2},"grinder":{"id":1,"burrs":"hand mill","kind":"clicks","zero":50,"step":20,"loss":0.4},"kettle":{"id":1,"thermostat":true,"capacity":900},"boiling":99.2}',
     '{"knob":"swirl","from":1,"to":0,"say":"drop the swirl","reason":"Without the swirl the fines stay where they are.","yield":-0.2,"time":-6}', '{"held":["",""]}', 'null',
     '{"beverage":0,"tds":0,"drawdown":184}', 18.4, '2026-05-02T06:00:00.000Z', '2026-05-02T06:02:00.000Z', '2026-05-02T06:05:04.000Z', '+02:00', 3),
    (4, 1, 2, 'running',
     '{"style":"steep-and-release","dose":18,"water":288,"grind":800,"temperature":93,"bloom":0,"bloomTime":0,"hand":"","height":1,"steep":165,"rinse":true}',
     '{"steps":[{"act":"pour","start":0,"lasts":36,"water":288,"total":288,"rate":8,"height":1,"pattern":"small circles","temperature":91.5},{"act":"stir","start":120,"lasts":10,"water":0,"total":288,"height":0,"temperature":93},{"act":"release","start":165,"lasts":5,"water":0,"total":288,"height":0,"temperature":93}],"finish":240,"window":{"from":220,"to":260}}',
     '{"id":1,"name":"Slate Terrace","roast":1,"roastedOn":"2026-04-20"}', '{"brewer":{"id":2,"kind":"valve-steeper","material":"plastic","filter":"standard paper","holds":420},"grinder":{"id":1,"burrs":"hand mill"},"kettle":{"id":2,"capacity":1600},"boiling":99.2}',
     'null', '{"held":["ratio","dose"]}', '[]', '{}', 18.4, '2026-05-03T06:00:00.000Z', '2026-05-03T06:02:00.000Z', NULL, '+02:00', 2),
    (5, 1, 2, 'planned',
     '{"style":"three-rounds","dose":18.5,"water":305,"grind":640,"temperature":94,"bloom":3.5,"bloomTime":45,"hand":"swirl","height":1,"pours":4,"whenDrained":true,"steep":0,"rinse":true}',
     '{"steps":[{"act":"pour","water":1,"total":1}],"finish":10}', '{}', '{"brewer":{"id":1},"grinder":{"id":1},"kettle":{"id":2},"boiling":99.2}',
     '{"knob":"grind","from":610,"to":640,"say":"1 click coarser","reason":"","yield":-0.4,"time":-9}', '{"held":["dose","ratio"],"ratio":16.5,"typed":{"steep":"much"},"tab":"t"}', '["kettle","filter"]', '{}',
     18.9, '2026-05-04T06:00:00.000Z', NULL, NULL, '+02:00', 7);
INSERT INTO brew_events (brew_id, key, kind, mark, at) VALUES
    (1, 'a', 'advance', '', 13), (1, 'b', 'advance', '', 45), (1, 'c', 'advance', '', 62), (1, 'd', 'advance', '', 85),
    (1, 'e', 'advance', '', 102), (1, 'f', 'advance', '', 125), (1, 'g', 'advance', '', 142), (1, 'h', 'advance', '', 171),
    (4, 'a', 'mark', 'dry spot', 9);
