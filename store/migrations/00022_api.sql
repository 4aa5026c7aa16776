-- +goose Up
-- Tokens of programs that read the yard. Only their hashes are stored.
CREATE TABLE api_tokens (
    id         TEXT PRIMARY KEY,
    name       TEXT NOT NULL,
    hash       BLOB NOT NULL UNIQUE, -- SHA-256
    added_at   TEXT NOT NULL,
    by         TEXT REFERENCES people (id) ON DELETE SET NULL,
    revoked_at TEXT
) STRICT;
