-- +goose Up
-- Photos are kept without what a camera noted; those from before are written anew by
-- the sweep.
ALTER TABLE clips ADD COLUMN cleaned boolean NOT NULL DEFAULT false;
GRANT UPDATE (cleaned) ON clips TO notchback_app;
CREATE INDEX clips_unclean ON clips (practice_id) WHERE kind = 'photo' AND NOT cleaned;

-- +goose Down
DROP INDEX clips_unclean;
ALTER TABLE clips DROP COLUMN cleaned;
