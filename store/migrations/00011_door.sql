-- +goose Up
-- Tokens of sessions are kept hashed from here on: everybody signs in again.
DELETE FROM sessions;
ALTER TABLE sessions ADD COLUMN seen_at timestamptz NOT NULL DEFAULT now();

-- Who was let in to what, and who was not: sign-ins and lists have no runner, a
-- calendar program has no user.
ALTER TABLE access_log ADD COLUMN id bigint GENERATED ALWAYS AS IDENTITY,
  ADD COLUMN refused boolean NOT NULL DEFAULT false,
  ALTER COLUMN runner_id DROP NOT NULL,
  ALTER COLUMN user_id DROP NOT NULL;
CREATE INDEX access_log_newest ON access_log (practice_id, id DESC);

-- A key belongs to one user, operation, address and body, for seven days.
DROP TABLE idempotency;
CREATE TABLE idempotency (
  practice_id uuid NOT NULL,
  user_id uuid NOT NULL,
  operation text NOT NULL,
  key text NOT NULL,
  request bytea NOT NULL,
  answer jsonb NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, user_id, operation, key)
);
CREATE INDEX idempotency_at ON idempotency (practice_id, at);
ALTER TABLE idempotency ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_practice ON idempotency USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice());
GRANT SELECT, INSERT, DELETE ON idempotency TO notchback_app;

-- What the server asks before it takes a request: goose's own table is its owner's.
-- +goose StatementBegin
CREATE FUNCTION schema_version() RETURNS bigint
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
$$ SELECT max(version_id) FROM goose_db_version v WHERE is_applied AND NOT EXISTS
     (SELECT 1 FROM goose_db_version w WHERE w.version_id = v.version_id AND w.id > v.id AND NOT w.is_applied) $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION schema_version() FROM PUBLIC;
GRANT EXECUTE ON FUNCTION schema_version() TO notchback_app;

-- +goose Down
DROP FUNCTION schema_version();
DROP TABLE idempotency;
CREATE TABLE idempotency (
  practice_id uuid NOT NULL,
  key text NOT NULL,
  request text NOT NULL,
  answer jsonb NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, key)
);
ALTER TABLE idempotency ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_practice ON idempotency USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice());
GRANT SELECT, INSERT ON idempotency TO notchback_app;
DELETE FROM access_log WHERE runner_id IS NULL OR user_id IS NULL;
DROP INDEX access_log_newest;
ALTER TABLE access_log DROP COLUMN id, DROP COLUMN refused,
  ALTER COLUMN runner_id SET NOT NULL, ALTER COLUMN user_id SET NOT NULL;
ALTER TABLE sessions DROP COLUMN seen_at;
DELETE FROM sessions;
