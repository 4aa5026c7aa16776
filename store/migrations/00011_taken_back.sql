-- +goose Up
-- What was put aside, and can be brought back.
ALTER TABLE rushes ADD COLUMN deleted_at TEXT;
ALTER TABLE scripts ADD COLUMN deleted_at TEXT;
ALTER TABLE exercises ADD COLUMN deleted_at TEXT;

-- A brew that runs may turn out to have been the rinse, or the coffee weighed in, and then has never been. One that is over stays.
DROP TRIGGER events_are_not_deleted;
-- +goose StatementBegin
CREATE TRIGGER events_are_not_deleted BEFORE DELETE ON brew_events
WHEN (SELECT status FROM brews WHERE id = OLD.brew_id) <> 'running'
BEGIN SELECT RAISE(ABORT, 'events are append-only'); END;
-- +goose StatementEnd

-- What was learned of pours as they were planned is learned anew of those that were poured.
DELETE FROM learned;

-- +goose Down
ALTER TABLE exercises DROP COLUMN deleted_at;
ALTER TABLE scripts DROP COLUMN deleted_at;
ALTER TABLE rushes DROP COLUMN deleted_at;
DROP TRIGGER events_are_not_deleted;
-- +goose StatementBegin
CREATE TRIGGER events_are_not_deleted BEFORE DELETE ON brew_events
BEGIN SELECT RAISE(ABORT, 'events are append-only'); END;
-- +goose StatementEnd
