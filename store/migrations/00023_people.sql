-- +goose Up
-- Who works here, and who has gone: the name of somebody who went stays on what they wrote.
ALTER TABLE users ADD COLUMN removed_at timestamptz, ADD COLUMN changed_at timestamptz NOT NULL DEFAULT now();
DROP INDEX users_email;
CREATE UNIQUE INDEX users_email ON users (lower(email)) WHERE removed_at IS NULL;
GRANT UPDATE (name, email, role, password_hash, removed_at, changed_at) ON users TO notchback_app;
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION sign_in_lookup(wanted text)
RETURNS TABLE (practice_id uuid, id uuid, password_hash text)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
$$ SELECT u.practice_id, u.id, u.password_hash FROM users u WHERE lower(u.email) = lower(wanted) AND u.removed_at IS NULL $$;
-- +goose StatementEnd

-- The devices somebody is signed in on: a session names its device, and ends with it.
DELETE FROM sessions;
CREATE TABLE user_devices (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  user_id uuid NOT NULL,
  name text NOT NULL,
  at timestamptz NOT NULL,
  seen_at timestamptz NOT NULL,
  ended_at timestamptz,
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, user_id) REFERENCES users
);
CREATE INDEX user_devices_user ON user_devices (practice_id, user_id) WHERE ended_at IS NULL;

-- Links that let somebody in once: to a new page, or to a new password.
CREATE TABLE invitations (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  token_hash bytea NOT NULL,
  kind text NOT NULL CHECK (kind IN ('join', 'reset')),
  role text NOT NULL DEFAULT '' CHECK (role IN ('', 'owner', 'coach', 'viewer')),
  note text NOT NULL DEFAULT '',
  user_id uuid,
  by_user uuid,
  at timestamptz NOT NULL,
  until timestamptz NOT NULL,
  used_at timestamptz,
  revoked_at timestamptz,
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, user_id) REFERENCES users,
  FOREIGN KEY (practice_id, by_user) REFERENCES users
);
CREATE UNIQUE INDEX invitations_token ON invitations (token_hash);

-- Who looks after whom; runners off the bench; and who was deleted, without a word of who it was.
ALTER TABLE runners ADD COLUMN coach_id uuid, ADD COLUMN archived_at timestamptz, ADD COLUMN keep_until date,
  ADD FOREIGN KEY (practice_id, coach_id) REFERENCES users;
CREATE TABLE gone_runners (
  practice_id uuid NOT NULL,
  id uuid NOT NULL,
  at timestamptz NOT NULL,
  by_user uuid,
  why text NOT NULL CHECK (why IN ('asked', 'mistake', 'left', 'due')),
  PRIMARY KEY (practice_id, id)
);
-- What a runner, or who stands for them, agreed to, and when it was taken back.
CREATE TABLE consents (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  runner_id uuid NOT NULL,
  what text NOT NULL CHECK (what IN ('records', 'clips', 'phone', 'sharing')),
  given_by text NOT NULL CHECK (given_by IN ('runner', 'guardian')),
  name text NOT NULL DEFAULT '',
  how text NOT NULL CHECK (how IN ('paper', 'spoken', 'phone', 'mail')),
  on_date date NOT NULL,
  ended_on date,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL,
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
CREATE INDEX consents_runner ON consents (practice_id, runner_id, on_date);
-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
  FOREACH t IN ARRAY ARRAY['user_devices', 'invitations', 'gone_runners', 'consents'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
    EXECUTE format('CREATE POLICY one_practice ON %I USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice())', t);
    EXECUTE format('GRANT SELECT, INSERT ON %I TO notchback_app', t);
  END LOOP;
END $$;
-- +goose StatementEnd
GRANT UPDATE (seen_at, ended_at) ON user_devices TO notchback_app;
GRANT UPDATE (used_at, revoked_at) ON invitations TO notchback_app;
GRANT UPDATE (ended_on) ON consents TO notchback_app;
-- Who follows such a link has no practice yet.
-- +goose StatementBegin
CREATE FUNCTION invitation(wanted bytea)
RETURNS TABLE (practice_id uuid, id uuid)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
$$ SELECT i.practice_id, i.id FROM invitations i WHERE i.token_hash = wanted $$;
-- +goose StatementEnd

-- All of a runner goes at once, in the present practice only. Answers kept for repeated
-- requests go where they speak of the runner. What stays is that an id was deleted.
-- +goose StatementBegin
CREATE FUNCTION delete_runner(gone uuid) RETURNS boolean
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
DECLARE p uuid := current_practice(); t text; known uuid[];
BEGIN
  PERFORM 1 FROM runners WHERE practice_id = p AND id = gone FOR UPDATE;
  IF NOT FOUND THEN
    RETURN false;
  END IF;
  SELECT array_agg(x) INTO known FROM (SELECT gone UNION SELECT id FROM screenings WHERE practice_id = p AND runner_id = gone
    UNION SELECT id FROM blocks WHERE practice_id = p AND runner_id = gone UNION SELECT id FROM clips WHERE practice_id = p AND runner_id = gone
    UNION SELECT id FROM runs WHERE practice_id = p AND runner_id = gone) k(x);
  DELETE FROM idempotency i WHERE i.practice_id = p AND EXISTS (SELECT 1 FROM unnest(known) u(x) WHERE strpos(i.answer::text, u.x::text) > 0);
  DELETE FROM session_items x USING session_logs l WHERE x.practice_id = p AND l.practice_id = p AND l.id = x.log_id AND l.runner_id = gone;
  DELETE FROM pegs x USING prescriptions q WHERE x.practice_id = p AND q.practice_id = p AND q.id = x.prescription_id AND q.runner_id = gone;
  FOREACH t IN ARRAY ARRAY['block_changes', 'course_states'] LOOP
    EXECUTE format('DELETE FROM %I x USING blocks b WHERE x.practice_id = $1 AND b.practice_id = $1 AND b.id = x.block_id AND b.runner_id = $2', t) USING p, gone;
  END LOOP;
  FOREACH t IN ARRAY ARRAY['clip_landmarks', 'clip_marks'] LOOP
    EXECUTE format('DELETE FROM %I x USING clips c WHERE x.practice_id = $1 AND c.practice_id = $1 AND c.id = x.clip_id AND c.runner_id = $2', t) USING p, gone;
  END LOOP;
  FOREACH t IN ARRAY ARRAY['trials', 'trial_origins', 'screening_parts'] LOOP
    EXECUTE format('DELETE FROM %I x USING screenings s WHERE x.practice_id = $1 AND s.practice_id = $1 AND s.id = x.screening_id AND s.runner_id = $2', t) USING p, gone;
  END LOOP;
  DELETE FROM pocket_files x USING pocket_reports r WHERE x.practice_id = p AND r.practice_id = p AND r.id = x.report_id AND r.runner_id = gone;
  FOREACH t IN ARRAY ARRAY['answers', 'decisions', 'flags', 'clearances', 'prescriptions', 'session_logs', 'calendar_events', 'calendar_feeds', 'calendar_reminders',
    'blocks', 'clips', 'day_notes', 'eye_pairs', 'journal', 'mornings', 'planned_weeks', 'pocket_notes', 'pocket_reports', 'pocket_devices', 'pocket_links',
    'ramp_dates', 'ramp_events', 'ramps', 'reviews', 'reviews_done', 'run_details', 'run_tracks', 'runs', 'run_imports', 'runner_states', 'runner_wishes',
    'unreviewed', 'screenings', 'consents', 'access_log'] LOOP
    EXECUTE format('DELETE FROM %I WHERE practice_id = $1 AND runner_id = $2', t) USING p, gone;
  END LOOP;
  DELETE FROM runners WHERE practice_id = p AND id = gone;
  RETURN true;
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION invitation(bytea), delete_runner(uuid) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION invitation(bytea), delete_runner(uuid) TO notchback_app;

-- What a practice sets for itself: after how many years off the bench a runner's records
-- are due to go (0: never), and how long a browser may stay unused.
ALTER TABLE practices ADD COLUMN keep_years smallint NOT NULL DEFAULT 0 CHECK (keep_years BETWEEN 0 AND 30),
  ADD COLUMN idle_minutes integer NOT NULL DEFAULT 720 CHECK (idle_minutes BETWEEN 15 AND 720);

-- +goose Down
ALTER TABLE practices DROP COLUMN keep_years, DROP COLUMN idle_minutes;
DROP FUNCTION delete_runner(uuid);
DROP FUNCTION invitation(bytea);
DROP TABLE consents, gone_runners, invitations, user_devices;
ALTER TABLE runners DROP COLUMN coach_id, DROP COLUMN archived_at, DROP COLUMN keep_until;
DELETE FROM users WHERE removed_at IS NOT NULL;
DROP INDEX users_email;
CREATE UNIQUE INDEX users_email ON users (lower(email));
ALTER TABLE users DROP COLUMN removed_at, DROP COLUMN changed_at;
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION sign_in_lookup(wanted text)
RETURNS TABLE (practice_id uuid, id uuid, password_hash text)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
$$ SELECT u.practice_id, u.id, u.password_hash FROM users u WHERE lower(u.email) = lower(wanted) $$;
-- +goose StatementEnd
REVOKE UPDATE (name, email, role, password_hash) ON users FROM notchback_app;
DELETE FROM sessions;
