-- +goose Up
-- A clip goes from announced over uploading, uploaded and converting to ready. Who
-- works on one holds a lease: when it runs out another server may go on. One that is
-- being deleted is shown nowhere and goes once its files are gone.
ALTER TABLE clips ADD COLUMN state text NOT NULL DEFAULT 'announced' CHECK (state IN ('announced', 'uploading', 'uploaded', 'converting', 'failed', 'ready', 'deleting')),
  ADD COLUMN lease_by text NOT NULL DEFAULT '', ADD COLUMN lease_until timestamptz,
  ADD COLUMN share double precision NOT NULL DEFAULT 0, ADD COLUMN trouble text NOT NULL DEFAULT '';
UPDATE clips SET state = CASE WHEN hash <> '' THEN 'ready' ELSE 'uploading' END;
CREATE INDEX clips_state ON clips (practice_id, state) WHERE state <> 'ready';
GRANT UPDATE (state, lease_by, lease_until, share, trouble) ON clips TO notchback_app;

-- +goose Down
DROP INDEX clips_state;
ALTER TABLE clips DROP COLUMN state, DROP COLUMN lease_by, DROP COLUMN lease_until, DROP COLUMN share, DROP COLUMN trouble;
