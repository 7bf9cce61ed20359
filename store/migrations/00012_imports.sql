-- +goose Up
-- What came in a bundle says so, wherever it is shown.
ALTER TABLE runners ADD COLUMN imported_at timestamptz, ADD COLUMN imported_from text NOT NULL DEFAULT '';
ALTER TABLE screenings ADD COLUMN imported boolean NOT NULL DEFAULT false;
ALTER TABLE journal ADD COLUMN imported boolean NOT NULL DEFAULT false;
-- A runner whose night could not be reviewed, and why, until it could.
CREATE TABLE unreviewed (
  practice_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  on_date date NOT NULL,
  why text NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, runner_id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
ALTER TABLE unreviewed ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_practice ON unreviewed USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice());
GRANT SELECT, INSERT, UPDATE, DELETE ON unreviewed TO notchback_app;

-- +goose Down
DROP TABLE unreviewed;
ALTER TABLE journal DROP COLUMN imported;
ALTER TABLE screenings DROP COLUMN imported;
ALTER TABLE runners DROP COLUMN imported_at, DROP COLUMN imported_from;
