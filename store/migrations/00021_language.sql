-- +goose Up
-- In which language a runner reads: the runner's own, or, where it is empty, the practice's.
ALTER TABLE practices ADD COLUMN language text NOT NULL DEFAULT 'en';
ALTER TABLE runners ADD COLUMN language text NOT NULL DEFAULT '';
-- +goose Down
ALTER TABLE practices DROP COLUMN language;
ALTER TABLE runners DROP COLUMN language;
