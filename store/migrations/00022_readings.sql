-- +goose Up
-- Which mark of which clip a trial was read from, so that a correction replaces its own
-- reading; and what a file looks like, so that an upload that broke off goes on.
ALTER TABLE trial_origins ADD COLUMN mark text NOT NULL DEFAULT '';
ALTER TABLE clips ADD COLUMN print text NOT NULL DEFAULT '';
-- +goose Down
ALTER TABLE trial_origins DROP COLUMN mark;
ALTER TABLE clips DROP COLUMN print;
