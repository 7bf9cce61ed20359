-- +goose Up
-- Clips and photos of a screening. The file lies outside the database, by its
-- content; an upload that is not finished has no hash yet.
CREATE TABLE clips (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  runner_id uuid NOT NULL,
  screening_id uuid NOT NULL,
  name text NOT NULL,
  size bigint NOT NULL CHECK (size BETWEEN 1 AND 314572800),
  kind text NOT NULL DEFAULT '' CHECK (kind IN ('', 'video', 'photo')),
  type text NOT NULL DEFAULT '',
  hash text NOT NULL DEFAULT '',
  times double precision[] NOT NULL DEFAULT '{}',
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners,
  FOREIGN KEY (practice_id, screening_id) REFERENCES screenings
);
CREATE INDEX clips_screening ON clips (practice_id, screening_id);
CREATE INDEX clips_hash ON clips (practice_id, hash);
-- How a clip was taken and what was marked on it: every change is a new revision.
CREATE TABLE clip_marks (
  practice_id uuid NOT NULL,
  clip_id uuid NOT NULL,
  rev integer NOT NULL,
  body jsonb NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, clip_id, rev),
  FOREIGN KEY (practice_id, clip_id) REFERENCES clips ON DELETE CASCADE
);
-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
  FOREACH t IN ARRAY ARRAY['clips', 'clip_marks'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
    EXECUTE format('CREATE POLICY one_practice ON %I USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice())', t);
    EXECUTE format('GRANT SELECT, INSERT ON %I TO notchback_app', t);
  END LOOP;
END $$;
-- +goose StatementEnd
-- A clip is finished once; deleting one deletes it, with its marks.
GRANT UPDATE (kind, type, hash, times) ON clips TO notchback_app;
GRANT DELETE ON clips TO notchback_app;

-- +goose Down
DROP TABLE clip_marks, clips;
