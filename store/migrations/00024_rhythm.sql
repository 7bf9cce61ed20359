-- +goose Up
-- Every how many weeks what is worked on is tested again.
ALTER TABLE practices ADD COLUMN retest_weeks smallint NOT NULL DEFAULT 2 CHECK (retest_weeks BETWEEN 1 AND 3);
-- +goose Down
ALTER TABLE practices DROP COLUMN retest_weeks;
