-- +goose Up
-- The brew for which a scale is armed, or that it weighs: at most one for each scale, and one scale for each brew. Drafts
-- and brews share their ids.
CREATE TABLE claims (
    scale_id TEXT PRIMARY KEY REFERENCES devices (id) ON DELETE CASCADE,
    brew_id  TEXT NOT NULL UNIQUE
) STRICT;
