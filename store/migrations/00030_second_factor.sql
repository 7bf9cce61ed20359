-- +goose Up
-- The codes of a second device, for who wants them at sign-in. It counts from on_at; until
-- then it waits for its first code.
CREATE TABLE second_factors (
  practice_id uuid NOT NULL,
  user_id uuid NOT NULL,
  secret text NOT NULL,
  at timestamptz NOT NULL,
  on_at timestamptz,
  last_step bigint NOT NULL DEFAULT 0,
  PRIMARY KEY (practice_id, user_id),
  FOREIGN KEY (practice_id, user_id) REFERENCES users
);
-- Codes that stand in for the device once each, by their hashes.
CREATE TABLE recovery_codes (
  practice_id uuid NOT NULL,
  user_id uuid NOT NULL,
  hash bytea NOT NULL,
  PRIMARY KEY (practice_id, user_id, hash),
  FOREIGN KEY (practice_id, user_id) REFERENCES second_factors ON DELETE CASCADE
);
-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
  FOREACH t IN ARRAY ARRAY['second_factors', 'recovery_codes'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
    EXECUTE format('CREATE POLICY one_practice ON %I USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice())', t);
    EXECUTE format('GRANT SELECT, INSERT, DELETE ON %I TO notchback_app', t);
  END LOOP;
END $$;
-- +goose StatementEnd
GRANT UPDATE (secret, at, on_at, last_step) ON second_factors TO notchback_app;

-- Keys by which a program comes in for somebody: read alone, or what a coach may.
CREATE TABLE program_keys (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  user_id uuid NOT NULL,
  name text NOT NULL,
  scope text NOT NULL CHECK (scope IN ('read', 'write')),
  hash bytea NOT NULL,
  at timestamptz NOT NULL,
  until timestamptz NOT NULL,
  used_at timestamptz,
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, user_id) REFERENCES users
);
CREATE UNIQUE INDEX program_keys_hash ON program_keys (hash);
ALTER TABLE program_keys ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_practice ON program_keys USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice());
GRANT SELECT, INSERT, DELETE ON program_keys TO notchback_app;
GRANT UPDATE (used_at) ON program_keys TO notchback_app;
-- Who comes with a key has no practice yet.
-- +goose StatementBegin
CREATE FUNCTION program_key(wanted bytea)
RETURNS TABLE (practice_id uuid, id uuid)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
$$ SELECT k.practice_id, k.id FROM program_keys k WHERE k.hash = wanted $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION program_key(bytea) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION program_key(bytea) TO notchback_app;
-- By which key somebody was let in; empty for who came themselves.
ALTER TABLE access_log ADD COLUMN by_key text NOT NULL DEFAULT '';
-- +goose Down
ALTER TABLE access_log DROP COLUMN by_key;
DROP FUNCTION program_key(bytea);
DROP TABLE program_keys, recovery_codes, second_factors;
