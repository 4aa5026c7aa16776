-- +goose Up
-- Photos of brews, so that one file, its backups and its copies hold everything. A brew that is deleted keeps its photos until it can no
-- longer be restored.
CREATE TABLE photos (
    id         TEXT    PRIMARY KEY,
    brew_id    TEXT    NOT NULL,
    width      INTEGER NOT NULL,
    height     INTEGER NOT NULL,
    added_at   TEXT    NOT NULL,
    by         TEXT    REFERENCES people (id) ON DELETE SET NULL,
    removed_at TEXT, -- for thirty days it can be restored
    small      BLOB    NOT NULL, -- JPEG
    full       BLOB    NOT NULL -- JPEG
) STRICT;
CREATE INDEX photos_of_brew ON photos (brew_id, added_at, id) WHERE removed_at IS NULL;
CREATE INDEX photos_removed ON photos (removed_at) WHERE removed_at IS NOT NULL;
