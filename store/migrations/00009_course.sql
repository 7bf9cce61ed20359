-- +goose Up
-- When something became known: its place in the order of arrival, and the moment
-- by the application's clock.
CREATE SEQUENCE arrivals;
GRANT USAGE ON SEQUENCE arrivals TO notchback_app;
-- +goose StatementBegin
CREATE FUNCTION app_now() RETURNS timestamptz LANGUAGE sql STABLE AS
$$ SELECT coalesce(nullif(current_setting('notchback.now', true), '')::timestamptz, now()) $$;
-- +goose StatementEnd
-- What is there already keeps the order in which it was written.
-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
  FOREACH t IN ARRAY ARRAY['screening_parts', 'trials', 'clearances', 'ramps', 'runs', 'planned_weeks', 'day_notes', 'mornings', 'session_logs'] LOOP
    EXECUTE format('ALTER TABLE %I ADD COLUMN seq bigint', t);
    EXECUTE format('WITH o AS (SELECT ctid AS c FROM %1$I ORDER BY at) UPDATE %1$I SET seq = nextval(''arrivals'') FROM o WHERE %1$I.ctid = o.c', t);
    EXECUTE format('ALTER TABLE %I ALTER COLUMN seq SET DEFAULT nextval(''arrivals''), ALTER COLUMN seq SET NOT NULL', t);
  END LOOP;
  FOREACH t IN ARRAY ARRAY['screening_parts', 'trials', 'clearances', 'ramps', 'runs', 'planned_weeks', 'day_notes', 'mornings', 'session_logs', 'decisions', 'flags', 'block_changes', 'ramp_events'] LOOP
    EXECUTE format('ALTER TABLE %I ALTER COLUMN at SET DEFAULT app_now()', t);
  END LOOP;
END $$;
-- +goose StatementEnd
ALTER TABLE screenings ADD COLUMN finished_seq bigint;
UPDATE screenings SET finished_seq = nextval('arrivals') WHERE finished_at IS NOT NULL;
-- A session keeps what was asked that day, and why it was less than the notch.
ALTER TABLE session_items ADD COLUMN cut text NOT NULL DEFAULT '' CHECK (cut IN ('', 'deload', 'half', 'cap', 'cramp', 'spike')), ADD COLUMN given jsonb;
-- A decision has a name, a kind and a life; not all are about a session.
ALTER TABLE decisions ADD COLUMN key text NOT NULL DEFAULT '', ADD COLUMN kind text NOT NULL DEFAULT 'session', ADD COLUMN course jsonb, ALTER COLUMN log_id DROP NOT NULL, ADD COLUMN ordinal bigint;
WITH o AS (SELECT ctid AS c FROM decisions ORDER BY on_date, at, id) UPDATE decisions SET ordinal = nextval('arrivals') FROM o WHERE decisions.ctid = o.c;
ALTER TABLE decisions ALTER COLUMN ordinal SET DEFAULT nextval('arrivals'), ALTER COLUMN ordinal SET NOT NULL;
CREATE UNIQUE INDEX decisions_key ON decisions (practice_id, runner_id, key) WHERE key <> '';
-- What a coach said to a decision, or to the question a corrected reading asks.
CREATE TABLE answers (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  runner_id uuid NOT NULL,
  block_id uuid NOT NULL,
  decision_key text NOT NULL,
  kind text NOT NULL CHECK (kind IN ('accept', 'override', 'take-back', 'slip')),
  notch smallint NOT NULL DEFAULT 0,
  reason text NOT NULL DEFAULT '',
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT app_now(),
  seq bigint NOT NULL DEFAULT nextval('arrivals'),
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners,
  FOREIGN KEY (practice_id, block_id) REFERENCES blocks
);
CREATE INDEX answers_block ON answers (practice_id, block_id);
-- Where the engine stands with a block; seq is the newest arrival it looked at,
-- null where a record was brought in whole.
CREATE TABLE course_states (
  practice_id uuid NOT NULL,
  block_id uuid NOT NULL,
  body jsonb NOT NULL,
  seq bigint,
  PRIMARY KEY (practice_id, block_id),
  FOREIGN KEY (practice_id, block_id) REFERENCES blocks
);
ALTER TABLE flags ADD COLUMN ended_on date, ADD COLUMN why text NOT NULL DEFAULT '', ADD COLUMN running boolean NOT NULL DEFAULT false;
-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
  FOREACH t IN ARRAY ARRAY['answers', 'course_states'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
    EXECUTE format('CREATE POLICY one_practice ON %I USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice())', t);
    EXECUTE format('GRANT SELECT, INSERT ON %I TO notchback_app', t);
  END LOOP;
END $$;
-- +goose StatementEnd
GRANT UPDATE ON course_states TO notchback_app;
-- Practices that never looked at an edition let that one work by which they
-- decided; another is shown to them first.
INSERT INTO practice_engine (practice_id, engine)
  SELECT practice_id, max(engine) FROM decisions d WHERE NOT EXISTS (SELECT FROM practice_engine p WHERE p.practice_id = d.practice_id) GROUP BY practice_id;
GRANT UPDATE (ended_on) ON flags TO notchback_app;

-- +goose Down
ALTER TABLE flags DROP COLUMN ended_on, DROP COLUMN why, DROP COLUMN running;
DROP TABLE course_states, answers;
DROP INDEX decisions_key;
DELETE FROM decisions WHERE log_id IS NULL;
ALTER TABLE decisions DROP COLUMN key, DROP COLUMN kind, DROP COLUMN course, DROP COLUMN ordinal, ALTER COLUMN log_id SET NOT NULL;
ALTER TABLE session_items DROP COLUMN cut, DROP COLUMN given;
ALTER TABLE screenings DROP COLUMN finished_seq;
-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
  FOREACH t IN ARRAY ARRAY['screening_parts', 'trials', 'clearances', 'ramps', 'runs', 'planned_weeks', 'day_notes', 'mornings', 'session_logs'] LOOP
    EXECUTE format('ALTER TABLE %I DROP COLUMN seq', t);
  END LOOP;
  FOREACH t IN ARRAY ARRAY['screening_parts', 'trials', 'clearances', 'ramps', 'runs', 'planned_weeks', 'day_notes', 'mornings', 'session_logs', 'decisions', 'flags', 'block_changes', 'ramp_events'] LOOP
    EXECUTE format('ALTER TABLE %I ALTER COLUMN at SET DEFAULT now()', t);
  END LOOP;
END $$;
-- +goose StatementEnd
DROP FUNCTION app_now();
DROP SEQUENCE arrivals;
