-- +goose Up
-- The runner's phone. A link opens the way for some days and some devices; a device
-- has a secret of its own; both are kept hashed.
CREATE TABLE pocket_links (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  runner_id uuid NOT NULL,
  token_hash bytea NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL,
  until timestamptz NOT NULL,
  revoked_at timestamptz,
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
CREATE UNIQUE INDEX pocket_links_token ON pocket_links (token_hash);
CREATE TABLE pocket_devices (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  runner_id uuid NOT NULL,
  link_id uuid NOT NULL,
  secret_hash bytea NOT NULL,
  name text NOT NULL,
  at timestamptz NOT NULL,
  seen_at timestamptz NOT NULL,
  consent text NOT NULL,
  clock_off integer,
  version text NOT NULL DEFAULT '',
  told_at timestamptz,
  revoked_at timestamptz,
  revoked_by text NOT NULL DEFAULT '' CHECK (revoked_by IN ('', 'coach', 'runner')),
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners,
  FOREIGN KEY (practice_id, link_id) REFERENCES pocket_links
);
CREATE UNIQUE INDEX pocket_devices_secret ON pocket_devices (secret_hash);
CREATE INDEX pocket_devices_runner ON pocket_devices (practice_id, runner_id);
-- What a phone reports, once each by the id it was given there. It is kept as it came;
-- what became of it stands beside it.
CREATE TABLE pocket_reports (
  practice_id uuid NOT NULL,
  id uuid NOT NULL,
  runner_id uuid NOT NULL,
  device_id uuid NOT NULL,
  seq bigint GENERATED ALWAYS AS IDENTITY,
  kind text NOT NULL CHECK (kind IN ('morning', 'session', 'run', 'ramp', 'move', 'note')),
  on_date date NOT NULL,
  made_at timestamptz NOT NULL,
  zone text NOT NULL,
  body jsonb NOT NULL,
  received_at timestamptz NOT NULL,
  late boolean NOT NULL,
  state text NOT NULL DEFAULT 'received' CHECK (state IN ('received', 'taken', 'double', 'refused')),
  why text NOT NULL DEFAULT '',
  told_at timestamptz,
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners,
  FOREIGN KEY (practice_id, device_id) REFERENCES pocket_devices
);
CREATE INDEX pocket_reports_waiting ON pocket_reports (practice_id, runner_id, seq) WHERE state = 'received';
CREATE INDEX pocket_reports_runner ON pocket_reports (practice_id, runner_id, received_at);
-- Words between a coach and a runner.
CREATE TABLE pocket_notes (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  runner_id uuid NOT NULL,
  by_runner boolean NOT NULL,
  by_user uuid NOT NULL,
  words text NOT NULL,
  at timestamptz NOT NULL,
  read_at timestamptz,
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
CREATE INDEX pocket_notes_runner ON pocket_notes (practice_id, runner_id, at);
-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
  FOREACH t IN ARRAY ARRAY['pocket_links', 'pocket_devices', 'pocket_reports', 'pocket_notes'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
    EXECUTE format('CREATE POLICY one_practice ON %I USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice())', t);
    EXECUTE format('GRANT SELECT, INSERT ON %I TO notchback_app', t);
  END LOOP;
END $$;
-- +goose StatementEnd
GRANT UPDATE (revoked_at) ON pocket_links TO notchback_app;
GRANT UPDATE (seen_at, clock_off, version, told_at, revoked_at, revoked_by) ON pocket_devices TO notchback_app;
GRANT UPDATE (state, why, told_at) ON pocket_reports TO notchback_app;
GRANT UPDATE (read_at) ON pocket_notes TO notchback_app;
-- A phone has a token or a secret and no practice.
-- +goose StatementBegin
CREATE FUNCTION pocket_link(wanted bytea)
RETURNS TABLE (practice_id uuid, runner_id uuid, id uuid)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
$$ SELECT l.practice_id, l.runner_id, l.id FROM pocket_links l WHERE l.token_hash = wanted AND l.revoked_at IS NULL $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION pocket_device(wanted bytea)
RETURNS TABLE (practice_id uuid, runner_id uuid, id uuid)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
$$ SELECT d.practice_id, d.runner_id, d.id FROM pocket_devices d WHERE d.secret_hash = wanted AND d.revoked_at IS NULL $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION pocket_link(bytea) FROM PUBLIC;
REVOKE ALL ON FUNCTION pocket_device(bytea) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION pocket_link(bytea) TO notchback_app;
GRANT EXECUTE ON FUNCTION pocket_device(bytea) TO notchback_app;

-- +goose Down
DROP FUNCTION pocket_device(bytea);
DROP FUNCTION pocket_link(bytea);
DROP TABLE pocket_notes, pocket_reports, pocket_devices, pocket_links;
