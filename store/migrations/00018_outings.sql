-- +goose Up
-- What an outing was: a walk is kept as such and counts in no volume and no dose.
ALTER TABLE runs ADD COLUMN what text NOT NULL DEFAULT 'run' CHECK (what IN ('run', 'walk'));
-- The import a run came with, so that it can be taken back as one.
ALTER TABLE runs ADD COLUMN import_id uuid;
-- How the foot met the ground, where somebody looked.
ALTER TABLE runs ADD COLUMN strike text NOT NULL DEFAULT '' CHECK (strike IN ('', 'rear', 'mid-fore'));
CREATE TABLE run_imports (
  practice_id uuid NOT NULL,
  id uuid NOT NULL,
  runner_id uuid NOT NULL,
  at timestamptz NOT NULL,
  by_user uuid NOT NULL,
  names text NOT NULL,
  undone_at timestamptz,
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
CREATE INDEX run_imports_runner ON run_imports (practice_id, runner_id, at);
-- What devices recorded of a run beside its numbers: times, laps, dynamics, sources.
CREATE TABLE run_details (
  practice_id uuid NOT NULL,
  run_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  body jsonb NOT NULL,
  PRIMARY KEY (practice_id, run_id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
CREATE INDEX run_details_runner ON run_details (practice_id, runner_id);
-- What a coach said once of outings that a source does not name.
CREATE TABLE run_sources (
  practice_id uuid NOT NULL,
  source text NOT NULL,
  what text NOT NULL CHECK (what IN ('run', 'walk', 'other')),
  at timestamptz NOT NULL,
  by_user uuid NOT NULL,
  PRIMARY KEY (practice_id, source)
);
-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
  FOREACH t IN ARRAY ARRAY['run_imports', 'run_details', 'run_sources'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
    EXECUTE format('CREATE POLICY one_practice ON %I USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice())', t);
    EXECUTE format('GRANT SELECT, INSERT ON %I TO notchback_app', t);
  END LOOP;
END $$;
-- +goose StatementEnd
GRANT UPDATE (names, undone_at) ON run_imports TO notchback_app;
GRANT UPDATE (body) ON run_details TO notchback_app;
GRANT UPDATE (what, at, by_user) ON run_sources TO notchback_app;

-- +goose Down
DROP TABLE run_sources, run_details, run_imports;
ALTER TABLE runs DROP COLUMN strike, DROP COLUMN import_id, DROP COLUMN what;
