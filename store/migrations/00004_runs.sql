-- +goose Up
-- Runs: every change is a new revision; the newest counts unless it is removed.
CREATE TABLE runs (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  rev integer NOT NULL,
  runner_id uuid NOT NULL,
  started_at timestamptz,
  on_date date NOT NULL,
  metres integer NOT NULL CHECK (metres BETWEEN 0 AND 300000),
  seconds integer NOT NULL CHECK (seconds BETWEEN 0 AND 172800),
  cadence double precision CHECK (cadence BETWEEN 60 AND 260),
  effort smallint CHECK (effort BETWEEN 0 AND 10),
  footwear text NOT NULL DEFAULT '' CHECK (footwear IN ('', 'usual', 'minimal', 'bare')),
  surface text NOT NULL DEFAULT '',
  shoe text NOT NULL DEFAULT '',
  fast boolean NOT NULL DEFAULT false,
  pain smallint CHECK (pain BETWEEN 0 AND 10),
  zone text NOT NULL DEFAULT '',
  side text NOT NULL DEFAULT '' CHECK (side IN ('', 'left', 'right', 'both')),
  limping boolean NOT NULL DEFAULT false,
  note text NOT NULL DEFAULT '',
  source text NOT NULL CHECK (source IN ('typed', 'fit', 'gpx', 'tcx', 'csv')),
  hash text NOT NULL DEFAULT '',
  removed boolean NOT NULL DEFAULT false,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, id, rev),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
CREATE INDEX runs_runner ON runs (practice_id, runner_id, on_date DESC, id, rev DESC);
CREATE UNIQUE INDEX runs_content ON runs (practice_id, runner_id, hash) WHERE rev = 1 AND hash <> '';
CREATE TABLE run_tracks (
  practice_id uuid NOT NULL,
  run_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  points bytea NOT NULL,
  PRIMARY KEY (practice_id, run_id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
-- What a day was like: sleep, illness, anything new, barefoot minutes.
CREATE TABLE day_notes (
  practice_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  on_date date NOT NULL,
  rev integer NOT NULL,
  body jsonb NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, runner_id, on_date, rev),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
-- Planned kilometres of a coming week.
CREATE TABLE planned_weeks (
  practice_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  monday date NOT NULL,
  rev integer NOT NULL,
  metres integer NOT NULL CHECK (metres BETWEEN 0 AND 400000),
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, runner_id, monday, rev),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
-- A morning's reading belongs to a place that hurts, or to none; pain at rest
-- stands beside the first steps.
ALTER TABLE mornings ADD COLUMN zone text NOT NULL DEFAULT '', ADD COLUMN side text NOT NULL DEFAULT '' CHECK (side IN ('', 'left', 'right')),
  ADD COLUMN rest smallint CHECK (rest BETWEEN 0 AND 10), ALTER COLUMN first_step DROP NOT NULL, DROP CONSTRAINT mornings_pkey,
  ADD PRIMARY KEY (practice_id, runner_id, on_date, zone, side, rev), ADD CHECK (first_step IS NOT NULL OR rest IS NOT NULL);
ALTER TABLE session_items ADD COLUMN cramp_at smallint CHECK (cramp_at BETWEEN 1 AND 200), ADD COLUMN sore_spot smallint CHECK (sore_spot BETWEEN 0 AND 10),
  ADD COLUMN reacted boolean NOT NULL DEFAULT false;
ALTER TABLE session_logs ADD COLUMN litmus text NOT NULL DEFAULT '' CHECK (litmus IN ('', 'better', 'same', 'worse'));
-- A decision keeps what it was made from, so that it can be made again.
ALTER TABLE decisions ADD COLUMN input jsonb, ADD COLUMN engine integer NOT NULL DEFAULT 1;
ALTER TABLE runners ADD COLUMN auto_progress boolean NOT NULL DEFAULT false;
-- The engine's nightly review of a runner: made once a day.
CREATE TABLE reviews (
  practice_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  on_date date NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  engine integer NOT NULL,
  body jsonb NOT NULL,
  PRIMARY KEY (practice_id, runner_id, on_date),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
-- What the bench shows of a runner, made anew whenever something was decided.
CREATE TABLE runner_states (
  practice_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  body jsonb NOT NULL,
  PRIMARY KEY (practice_id, runner_id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
-- A coach who has been through a runner's week.
CREATE TABLE reviews_done (
  practice_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  monday date NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, runner_id, monday),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
-- Which edition of the engine a practice lets work by itself.
CREATE TABLE practice_engine (
  practice_id uuid NOT NULL,
  engine integer NOT NULL,
  by_user uuid,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, engine)
);
-- How the columns of a run table were mapped, by its header.
CREATE TABLE csv_mappings (
  practice_id uuid NOT NULL,
  header text NOT NULL,
  rev integer NOT NULL,
  body jsonb NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, header, rev)
);
-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
  FOREACH t IN ARRAY ARRAY['runs', 'run_tracks', 'day_notes', 'planned_weeks', 'reviews', 'runner_states', 'reviews_done', 'practice_engine', 'csv_mappings'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
    EXECUTE format('CREATE POLICY one_practice ON %I USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice())', t);
    EXECUTE format('GRANT SELECT, INSERT ON %I TO notchback_app', t);
  END LOOP;
END $$;
-- +goose StatementEnd
GRANT UPDATE ON runner_states TO notchback_app;
-- The nightly review works through all practices; it learns their ids and no more.
-- +goose StatementBegin
CREATE FUNCTION practice_ids() RETURNS SETOF uuid
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $$ SELECT id FROM practices ORDER BY id $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION practice_ids() FROM PUBLIC;
GRANT EXECUTE ON FUNCTION practice_ids() TO notchback_app;

-- +goose Down
DROP FUNCTION practice_ids();
DROP TABLE csv_mappings, practice_engine, reviews_done, runner_states, reviews, planned_weeks, day_notes, run_tracks, runs;
ALTER TABLE runners DROP COLUMN auto_progress;
ALTER TABLE decisions DROP COLUMN input, DROP COLUMN engine;
ALTER TABLE session_logs DROP COLUMN litmus;
ALTER TABLE session_items DROP COLUMN cramp_at, DROP COLUMN sore_spot, DROP COLUMN reacted;
DELETE FROM mornings WHERE first_step IS NULL OR zone <> '';
ALTER TABLE mornings DROP CONSTRAINT mornings_pkey, DROP CONSTRAINT mornings_check, ADD PRIMARY KEY (practice_id, runner_id, on_date, rev), DROP COLUMN zone, DROP COLUMN side,
  DROP COLUMN rest, ALTER COLUMN first_step SET NOT NULL;
