-- +goose Up
-- What distances and weights are read and typed in: of the practice, and of a person where
-- it is not empty. They are kept in km and kg.
ALTER TABLE practices ADD COLUMN units text NOT NULL DEFAULT 'metric' CHECK (units IN ('metric', 'imperial'));
ALTER TABLE users ADD COLUMN units text NOT NULL DEFAULT '' CHECK (units IN ('', 'metric', 'imperial'));
GRANT UPDATE (units) ON users TO notchback_app;
-- +goose Down
ALTER TABLE users DROP COLUMN units;
ALTER TABLE practices DROP COLUMN units;
