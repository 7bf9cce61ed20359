-- +goose Up
-- A session may be a routine that was given whole; what it measures before and after is kept with it.
ALTER TABLE session_logs ADD COLUMN routine text NOT NULL DEFAULT '', ADD COLUMN compared jsonb, ADD COLUMN felt text NOT NULL DEFAULT '';
ALTER TABLE shelf_items DROP CONSTRAINT shelf_items_kind_check, ADD CONSTRAINT shelf_items_kind_check CHECK (kind IN ('exercise', 'ladder', 'routine'));
-- +goose Down
DELETE FROM shelf_items WHERE kind = 'routine';
ALTER TABLE shelf_items DROP CONSTRAINT shelf_items_kind_check, ADD CONSTRAINT shelf_items_kind_check CHECK (kind IN ('exercise', 'ladder'));
ALTER TABLE session_logs DROP COLUMN routine, DROP COLUMN compared, DROP COLUMN felt;
