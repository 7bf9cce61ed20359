-- +goose Up
-- Every table of a practice leads its key with practice_id and is readable only
-- while notchback.practice names that practice. The server signs in as
-- notchback_app, which owns nothing.

-- +goose StatementBegin
CREATE FUNCTION current_practice() RETURNS uuid LANGUAGE sql STABLE PARALLEL SAFE AS
$$ SELECT nullif(current_setting('notchback.practice', true), '')::uuid $$;
-- +goose StatementEnd

CREATE TABLE practices (
  id uuid PRIMARY KEY DEFAULT gen_random_uuid(),
  name text NOT NULL,
  zone text NOT NULL,
  created_at timestamptz NOT NULL DEFAULT now()
);
CREATE TABLE users (
  practice_id uuid NOT NULL REFERENCES practices,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  email text NOT NULL,
  name text NOT NULL,
  role text NOT NULL CHECK (role IN ('owner', 'coach', 'viewer')),
  password_hash text NOT NULL,
  created_at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, id)
);
CREATE UNIQUE INDEX users_email ON users (lower(email));
CREATE TABLE runners (
  practice_id uuid NOT NULL REFERENCES practices,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  name text NOT NULL,
  birth date,
  sex text NOT NULL DEFAULT '',
  mass_kg double precision,
  weekly_km double precision,
  goal text NOT NULL DEFAULT '',
  note text NOT NULL DEFAULT '',
  first_structured_work boolean,
  recent_volume_rise boolean,
  intake_first_step smallint CHECK (intake_first_step BETWEEN 0 AND 10),
  version integer NOT NULL DEFAULT 1,
  created_at timestamptz NOT NULL DEFAULT now(),
  updated_at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, id)
);
CREATE INDEX runners_name ON runners (practice_id, lower(name));
CREATE TABLE screenings (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  runner_id uuid NOT NULL,
  on_date date NOT NULL,
  footwear text NOT NULL DEFAULT '',
  note text NOT NULL DEFAULT '',
  by_user uuid NOT NULL,
  created_at timestamptz NOT NULL DEFAULT now(),
  finished_at timestamptz,
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
CREATE INDEX screenings_runner ON screenings (practice_id, runner_id, on_date DESC, created_at DESC);
CREATE TABLE trials (
  practice_id uuid NOT NULL,
  screening_id uuid NOT NULL,
  test text NOT NULL,
  side text NOT NULL CHECK (side IN ('left', 'right')),
  slot smallint NOT NULL CHECK (slot BETWEEN 1 AND 9),
  rev integer NOT NULL,
  value double precision,
  pain smallint CHECK (pain BETWEEN 0 AND 10),
  sharp_pain boolean NOT NULL DEFAULT false,
  compensations text[] NOT NULL DEFAULT '{}',
  block_cm double precision,
  length_cm double precision,
  along_floor boolean NOT NULL DEFAULT false,
  removed boolean NOT NULL DEFAULT false,
  reason text NOT NULL DEFAULT '',
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, screening_id, test, side, slot, rev),
  FOREIGN KEY (practice_id, screening_id) REFERENCES screenings
);
CREATE TABLE blocks (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  runner_id uuid NOT NULL,
  screening_id uuid NOT NULL,
  start_on date NOT NULL,
  weeks smallint NOT NULL CHECK (weeks BETWEEN 4 AND 12),
  catalogue_version integer NOT NULL,
  by_user uuid NOT NULL,
  created_at timestamptz NOT NULL DEFAULT now(),
  ended_at timestamptz,
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners,
  FOREIGN KEY (practice_id, screening_id) REFERENCES screenings
);
CREATE UNIQUE INDEX blocks_current ON blocks (practice_id, runner_id) WHERE ended_at IS NULL;
CREATE TABLE prescriptions (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  block_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  position smallint NOT NULL,
  ladder text NOT NULL,
  start_notch smallint NOT NULL,
  extra_set_side text NOT NULL DEFAULT '',
  start_reasons jsonb NOT NULL,
  PRIMARY KEY (practice_id, id),
  UNIQUE (practice_id, block_id, ladder),
  FOREIGN KEY (practice_id, block_id) REFERENCES blocks
);
CREATE TABLE pegs (
  practice_id uuid NOT NULL,
  prescription_id uuid NOT NULL,
  side text NOT NULL CHECK (side IN ('left', 'right')),
  notch smallint NOT NULL,
  halt_row smallint,
  halt_on date,
  last_up date,
  PRIMARY KEY (practice_id, prescription_id, side),
  FOREIGN KEY (practice_id, prescription_id) REFERENCES prescriptions
);
CREATE TABLE session_logs (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  block_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  on_date date NOT NULL,
  note text NOT NULL DEFAULT '',
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, id),
  UNIQUE (practice_id, block_id, on_date),
  FOREIGN KEY (practice_id, block_id) REFERENCES blocks
);
CREATE INDEX session_logs_runner ON session_logs (practice_id, runner_id, on_date);
CREATE TABLE session_items (
  practice_id uuid NOT NULL,
  log_id uuid NOT NULL,
  prescription_id uuid NOT NULL,
  side text NOT NULL CHECK (side IN ('left', 'right')),
  notch smallint NOT NULL,
  pain smallint CHECK (pain BETWEEN 0 AND 10),
  done double precision CHECK (done BETWEEN 0 AND 1),
  compensated double precision CHECK (compensated BETWEEN 0 AND 1),
  reserve smallint CHECK (reserve BETWEEN 0 AND 5),
  sure_twenty boolean,
  no_time boolean NOT NULL DEFAULT false,
  PRIMARY KEY (practice_id, log_id, prescription_id, side),
  FOREIGN KEY (practice_id, log_id) REFERENCES session_logs,
  FOREIGN KEY (practice_id, prescription_id) REFERENCES prescriptions
);
CREATE TABLE mornings (
  practice_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  on_date date NOT NULL,
  rev integer NOT NULL,
  first_step smallint NOT NULL CHECK (first_step BETWEEN 0 AND 10),
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, runner_id, on_date, rev),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
CREATE TABLE flags (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  runner_id uuid NOT NULL,
  flag text NOT NULL,
  level text NOT NULL,
  side text NOT NULL DEFAULT '',
  tissues text[] NOT NULL DEFAULT '{}',
  everything boolean NOT NULL DEFAULT false,
  progress_only boolean NOT NULL DEFAULT false,
  since date NOT NULL,
  log_id uuid,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
CREATE TABLE decisions (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  prescription_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  log_id uuid NOT NULL,
  side text NOT NULL CHECK (side IN ('left', 'right', 'both')),
  on_date date NOT NULL,
  verdict text NOT NULL,
  row smallint NOT NULL,
  from_notch smallint NOT NULL,
  to_notch smallint NOT NULL,
  decision jsonb NOT NULL,
  sentence text NOT NULL,
  state text NOT NULL CHECK (state IN ('proposed', 'applied', 'accepted', 'overridden', 'waiting', 'superseded')),
  answer_notch smallint,
  answer_reason text NOT NULL DEFAULT '',
  answered_by uuid,
  answered_at timestamptz,
  at timestamptz NOT NULL DEFAULT now(),
  version integer NOT NULL DEFAULT 1,
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, prescription_id) REFERENCES prescriptions,
  FOREIGN KEY (practice_id, log_id) REFERENCES session_logs
);
CREATE INDEX decisions_runner ON decisions (practice_id, runner_id, at DESC);
CREATE INDEX decisions_log ON decisions (practice_id, log_id);
CREATE TABLE journal (
  practice_id uuid NOT NULL,
  id bigint GENERATED ALWAYS AS IDENTITY,
  runner_id uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  by_user uuid,
  kind text NOT NULL,
  sentence text NOT NULL,
  detail jsonb NOT NULL DEFAULT '{}',
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
CREATE INDEX journal_runner ON journal (practice_id, runner_id, id DESC);
CREATE TABLE idempotency (
  practice_id uuid NOT NULL,
  key text NOT NULL,
  request text NOT NULL,
  answer jsonb NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, key)
);
CREATE TABLE access_log (
  practice_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  user_id uuid NOT NULL,
  action text NOT NULL
);
CREATE INDEX access_log_runner ON access_log (practice_id, runner_id, at DESC);

-- No practice: web sessions and the sign-in throttle.
CREATE TABLE sessions (
  token text PRIMARY KEY,
  data bytea NOT NULL,
  expiry timestamptz NOT NULL
);
CREATE INDEX sessions_expiry ON sessions (expiry);
CREATE TABLE sign_in_failures (
  key text PRIMARY KEY,
  failures integer NOT NULL,
  last_at timestamptz NOT NULL DEFAULT now()
);

-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
  FOREACH t IN ARRAY ARRAY['users','runners','screenings','trials','blocks','prescriptions','pegs','session_logs',
      'session_items','mornings','flags','decisions','journal','idempotency','access_log'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
    EXECUTE format('CREATE POLICY one_practice ON %I USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice())', t);
    EXECUTE format('GRANT SELECT, INSERT ON %I TO notchback_app', t);
  END LOOP;
END $$;
-- +goose StatementEnd
ALTER TABLE practices ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_practice ON practices USING (id = current_practice());
GRANT SELECT ON practices TO notchback_app;
-- Screenings' trials, logs, mornings and the journal are append-only: no update is granted on them.
GRANT UPDATE ON runners, screenings, blocks, pegs, decisions TO notchback_app;
GRANT SELECT, INSERT, UPDATE, DELETE ON sessions, sign_in_failures TO notchback_app;

-- Before anyone is signed in there is no practice yet; these three functions are
-- all that can be asked then.
-- +goose StatementBegin
CREATE FUNCTION sign_in_lookup(wanted text)
RETURNS TABLE (practice_id uuid, id uuid, password_hash text)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
$$ SELECT u.practice_id, u.id, u.password_hash FROM users u WHERE lower(u.email) = lower(wanted) $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION is_empty() RETURNS boolean
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
$$ SELECT NOT EXISTS (SELECT 1 FROM practices) $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION found_practice(practice text, zone text, owner_name text, owner_email text, hash text)
RETURNS TABLE (practice_id uuid, id uuid)
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
DECLARE p uuid;
BEGIN
  LOCK TABLE practices IN EXCLUSIVE MODE;
  IF EXISTS (SELECT 1 FROM practices) THEN
    RETURN;
  END IF;
  INSERT INTO practices (name, zone) VALUES (practice, zone) RETURNING practices.id INTO p;
  RETURN QUERY INSERT INTO users (practice_id, email, name, role, password_hash)
    VALUES (p, owner_email, owner_name, 'owner', hash) RETURNING users.practice_id, users.id;
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION sign_in_lookup(text), is_empty(), found_practice(text, text, text, text, text) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION sign_in_lookup(text), is_empty(), found_practice(text, text, text, text, text) TO notchback_app;

-- +goose Down
DROP FUNCTION found_practice(text, text, text, text, text), is_empty(), sign_in_lookup(text);
DROP TABLE sign_in_failures, sessions, access_log, idempotency, journal, decisions, flags, mornings, session_items,
  session_logs, pegs, prescriptions, blocks, trials, screenings, runners, users, practices;
DROP FUNCTION current_practice();
