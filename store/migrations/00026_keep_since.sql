-- +goose Up
-- Since when a practice keeps records for as long as it does: nothing goes before it was listed.
ALTER TABLE practices ADD COLUMN keep_since date;
UPDATE practices SET keep_since = now()::date WHERE keep_years > 0;
-- +goose Down
ALTER TABLE practices DROP COLUMN keep_since;
