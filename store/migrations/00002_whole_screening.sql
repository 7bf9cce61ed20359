-- +goose Up
ALTER TABLE trials DROP CONSTRAINT trials_side_check;
ALTER TABLE trials ADD CONSTRAINT trials_side_check CHECK (side IN ('left', 'right', 'both'));
ALTER TABLE trials ADD COLUMN count_n integer, ADD COLUMN of_n integer, ADD COLUMN resolution double precision, ADD COLUMN cramp_at integer;

-- What is said and noted beside the trials: talk, conditions of the run, the
-- coach's choices. Append-only; the newest revision of a part counts.
CREATE TABLE screening_parts (
  practice_id uuid NOT NULL,
  screening_id uuid NOT NULL,
  part text NOT NULL CHECK (part IN ('talk', 'conditions', 'choices', 'waivers')),
  rev integer NOT NULL,
  body jsonb NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, screening_id, part, rev),
  FOREIGN KEY (practice_id, screening_id) REFERENCES screenings
);
CREATE TABLE clearances (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  runner_id uuid NOT NULL,
  flag text NOT NULL,
  on_date date NOT NULL,
  role text NOT NULL,
  allowed text NOT NULL,
  until_date date NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
CREATE TABLE eye_pairs (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  user_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  test text NOT NULL,
  first double precision NOT NULL,
  second double precision NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
  FOREACH t IN ARRAY ARRAY['screening_parts', 'clearances', 'eye_pairs'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
    EXECUTE format('CREATE POLICY one_practice ON %I USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice())', t);
    EXECUTE format('GRANT SELECT, INSERT ON %I TO notchback_app', t);
  END LOOP;
END $$;
-- +goose StatementEnd

-- +goose Down
DROP TABLE eye_pairs, clearances, screening_parts;
ALTER TABLE trials DROP COLUMN count_n, DROP COLUMN of_n, DROP COLUMN resolution, DROP COLUMN cramp_at;
ALTER TABLE trials DROP CONSTRAINT trials_side_check;
ALTER TABLE trials ADD CONSTRAINT trials_side_check CHECK (side IN ('left', 'right'));
