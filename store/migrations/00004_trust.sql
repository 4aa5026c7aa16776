-- +goose Up
-- The number of the program that the file belongs to, "YBlm".
PRAGMA application_id = 0x59426c6d;

ALTER TABLE settings ADD COLUMN version INTEGER NOT NULL DEFAULT 1;

-- A kept password says what it cost: argon2id with 64 MiB, three passes, four lanes.
UPDATE settings SET password = '$argon2id$v=19$m=65536,t=3,p=4$' || replace(password, '.', '$')
WHERE password LIKE '%.%' AND password NOT LIKE '$%';

-- Tokens are hashed from now on. What was kept in the clear goes: everybody signs in again.
DELETE FROM sessions;

-- +goose Down
UPDATE settings SET password = replace(substr(password, length('$argon2id$v=19$m=65536,t=3,p=4$') + 1), '$', '.')
WHERE password LIKE '$argon2id$v=19$m=65536,t=3,p=4$%';
ALTER TABLE settings DROP COLUMN version;
PRAGMA application_id = 0;
