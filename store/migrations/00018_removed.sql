-- +goose Up
-- Deleted records, which can be restored for thirty days. After that the id alone is kept, so that an import does not bring it back.
CREATE TABLE removed (
    id         TEXT PRIMARY KEY,
    kind       TEXT NOT NULL CHECK (kind IN ('brew', 'flight', 'trial', 'script')),
    name       TEXT NOT NULL,
    removed_at TEXT NOT NULL,
    by         TEXT REFERENCES people (id) ON DELETE SET NULL,
    -- {"tables": [[table, [row, …]], …], "children": [[table, id], …]}; empty: no longer to be restored
    contents   TEXT NOT NULL
) STRICT;
CREATE INDEX removed_by_time ON removed (removed_at) WHERE contents <> '';

-- The events of a brew go with it.
DROP TRIGGER events_are_not_deleted;
-- +goose StatementBegin
CREATE TRIGGER events_are_not_deleted BEFORE DELETE ON brew_events
WHEN (SELECT status FROM brews WHERE id = OLD.brew_id) <> 'running' AND NOT EXISTS (SELECT 1 FROM removed WHERE id = OLD.brew_id)
BEGIN SELECT RAISE(ABORT, 'events are append-only'); END;
-- +goose StatementEnd
