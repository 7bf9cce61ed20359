-- +goose Up
-- What a runner's plans are made with; the newest revision counts.
CREATE TABLE runner_wishes (
  practice_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  rev integer NOT NULL,
  body jsonb NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, runner_id, rev),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
-- The practice's answers where practitioners differ.
CREATE TABLE practice_schools (
  practice_id uuid NOT NULL,
  rev integer NOT NULL,
  body jsonb NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, rev)
);
-- The practice's own exercises and ladders over the built-in ones.
CREATE TABLE shelf_items (
  practice_id uuid NOT NULL,
  kind text NOT NULL CHECK (kind IN ('exercise', 'ladder')),
  item text NOT NULL,
  rev integer NOT NULL,
  retired boolean NOT NULL DEFAULT false,
  body jsonb NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, kind, item, rev)
);
ALTER TABLE blocks ADD COLUMN plan jsonb NOT NULL DEFAULT '{}';
-- A plan keeps the notches it was made with.
ALTER TABLE prescriptions ADD COLUMN ladder_data jsonb, ADD COLUMN from_week smallint NOT NULL DEFAULT 1;
-- Moves and edits of a block, in order.
CREATE TABLE block_changes (
  practice_id uuid NOT NULL,
  block_id uuid NOT NULL,
  rev integer NOT NULL,
  body jsonb NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (practice_id, block_id, rev),
  FOREIGN KEY (practice_id, block_id) REFERENCES blocks
);
CREATE TABLE calendar_feeds (
  practice_id uuid NOT NULL,
  id uuid NOT NULL DEFAULT gen_random_uuid(),
  runner_id uuid NOT NULL,
  token_hash bytea NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  revoked_at timestamptz,
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
CREATE UNIQUE INDEX calendar_feeds_token ON calendar_feeds (token_hash);
-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
  FOREACH t IN ARRAY ARRAY['runner_wishes', 'practice_schools', 'shelf_items', 'block_changes', 'calendar_feeds'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
    EXECUTE format('CREATE POLICY one_practice ON %I USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice())', t);
    EXECUTE format('GRANT SELECT, INSERT ON %I TO notchback_app', t);
  END LOOP;
END $$;
-- +goose StatementEnd
GRANT UPDATE (revoked_at) ON calendar_feeds TO notchback_app;
-- A calendar program has a token and no practice.
-- +goose StatementBegin
CREATE FUNCTION feed_lookup(wanted bytea)
RETURNS TABLE (practice_id uuid, runner_id uuid)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
$$ SELECT f.practice_id, f.runner_id FROM calendar_feeds f WHERE f.token_hash = wanted AND f.revoked_at IS NULL $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION feed_lookup(bytea) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION feed_lookup(bytea) TO notchback_app;

-- +goose Down
DROP FUNCTION feed_lookup(bytea);
DROP TABLE calendar_feeds, block_changes, shelf_items, practice_schools, runner_wishes;
ALTER TABLE prescriptions DROP COLUMN ladder_data, DROP COLUMN from_week;
ALTER TABLE blocks DROP COLUMN plan;
