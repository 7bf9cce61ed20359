-- +goose Up
-- By which a bundle that came in before is known.
ALTER TABLE runners ADD COLUMN imported_digest text NOT NULL DEFAULT '';
CREATE INDEX runners_digest ON runners (practice_id, imported_digest) WHERE imported_digest <> '';
-- +goose Down
DROP INDEX runners_digest;
ALTER TABLE runners DROP COLUMN imported_digest;
