DROP TABLE old_brew_events;
DROP TABLE old_brews;
DROP TABLE old_kettles;
DROP TABLE old_grinders;
DROP TABLE old_brewers;
DROP TABLE old_bags;
DROP TABLE old_settings;

CREATE INDEX bags_on_shelf ON bags (roasted_on, id) WHERE deleted_at IS NULL;
CREATE INDEX brews_by_start ON brews (started_at, id);
CREATE INDEX brews_of_bag ON brews (bag_id, started_at, id, dose_used);
CREATE INDEX brews_after ON brews (parent_id) WHERE parent_id IS NOT NULL;
CREATE INDEX brews_running ON brews (started_at) WHERE status = 'running';
CREATE INDEX brews_untasted ON brews (started_at) WHERE status = 'poured';
CREATE INDEX brews_weighed ON brews (brewer_id, started_at, water, dose, beverage) WHERE status = 'done' AND beverage > 0;
CREATE INDEX recipes_of_bag ON recipes (bag_id, changed_at, id) WHERE deleted_at IS NULL;
CREATE INDEX recipes_after ON recipes (parent_id) WHERE parent_id IS NOT NULL;

CREATE TRIGGER a_brew_keeps_what_it_was_made_of BEFORE UPDATE OF recipe, coffee, gear, plan, forecast, asked, started_at ON brews
BEGIN SELECT RAISE(ABORT, 'a brew keeps what it was made of'); END;
CREATE TRIGGER events_are_not_changed BEFORE UPDATE ON brew_events
BEGIN SELECT RAISE(ABORT, 'events are append-only'); END;
CREATE TRIGGER events_are_not_deleted BEFORE DELETE ON brew_events
BEGIN SELECT RAISE(ABORT, 'events are append-only'); END;
