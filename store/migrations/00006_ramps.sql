-- +goose Up
-- What a ramp is planned with: every change is a new revision.
CREATE TABLE ramps (
  practice_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  kind text NOT NULL CHECK (kind IN ('barefoot', 'cadence')),
  rev integer NOT NULL,
  body jsonb NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, runner_id, kind, rev),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
-- Counts without a beat, cues begun and looked at again.
CREATE TABLE ramp_events (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  runner_id uuid NOT NULL,
  kind text NOT NULL CHECK (kind IN ('recount', 'cue')),
  on_date date NOT NULL,
  body jsonb NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
CREATE INDEX ramp_events_runner ON ramp_events (practice_id, runner_id, on_date);
-- The date of the goal each time it moved, and why.
CREATE TABLE ramp_dates (
  practice_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  rev integer NOT NULL,
  reached date,
  why text NOT NULL,
  on_date date NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, runner_id, rev),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
  FOREACH t IN ARRAY ARRAY['ramps', 'ramp_events', 'ramp_dates'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
    EXECUTE format('CREATE POLICY one_practice ON %I USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice())', t);
    EXECUTE format('GRANT SELECT, INSERT ON %I TO notchback_app', t);
  END LOOP;
END $$;
-- +goose StatementEnd

-- +goose Down
DROP TABLE ramp_dates, ramp_events, ramps;
