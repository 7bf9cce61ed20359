-- +goose Up
-- Marker files beside clips; a small picture of each; what a body-landmark library
-- proposed; pictures that prove a reading.
ALTER TABLE clips DROP CONSTRAINT clips_kind_check;
ALTER TABLE clips ADD CONSTRAINT clips_kind_check CHECK (kind IN ('', 'video', 'photo', 'markers'));
ALTER TABLE clips ADD COLUMN thumb bytea NOT NULL DEFAULT '', ADD COLUMN markers text[] NOT NULL DEFAULT '{}',
  ADD COLUMN rate double precision NOT NULL DEFAULT 0, ADD COLUMN frames integer NOT NULL DEFAULT 0, ADD COLUMN converted boolean NOT NULL DEFAULT false;
GRANT UPDATE (size, thumb, markers, rate, frames, converted) ON clips TO notchback_app;
-- Points of the body as they were proposed, packed; a new proposal replaces them.
CREATE TABLE clip_landmarks (
  practice_id uuid NOT NULL,
  clip_id uuid NOT NULL,
  body bytea NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, clip_id),
  FOREIGN KEY (practice_id, clip_id) REFERENCES clips ON DELETE CASCADE
);
-- Where a trial's value comes from: who placed the points, how sure it is, the
-- picture it was read from (empty where there is none).
CREATE TABLE trial_origins (
  practice_id uuid NOT NULL,
  screening_id uuid NOT NULL,
  test text NOT NULL,
  side text NOT NULL CHECK (side IN ('left', 'right', 'both')),
  slot smallint NOT NULL CHECK (slot BETWEEN 1 AND 9),
  made text NOT NULL CHECK (made IN ('by hand', 'proposed', 'corrected', 'markers')),
  margin double precision NOT NULL CHECK (margin >= 0),
  body bytea NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, screening_id, test, side, slot),
  FOREIGN KEY (practice_id, screening_id) REFERENCES screenings
);
-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
  FOREACH t IN ARRAY ARRAY['clip_landmarks', 'trial_origins'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
    EXECUTE format('CREATE POLICY one_practice ON %I USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice())', t);
    EXECUTE format('GRANT SELECT, INSERT, UPDATE, DELETE ON %I TO notchback_app', t);
  END LOOP;
END $$;
-- +goose StatementEnd

-- +goose Down
DROP TABLE trial_origins, clip_landmarks;
DELETE FROM clips WHERE kind = 'markers';
ALTER TABLE clips DROP COLUMN thumb, DROP COLUMN markers, DROP COLUMN rate, DROP COLUMN frames, DROP COLUMN converted;
ALTER TABLE clips DROP CONSTRAINT clips_kind_check;
ALTER TABLE clips ADD CONSTRAINT clips_kind_check CHECK (kind IN ('', 'video', 'photo'));
