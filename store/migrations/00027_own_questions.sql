-- +goose Up
-- Safety questions of a practice's own: added, never changed, never taken back.
CREATE TABLE own_questions (
  practice_id uuid NOT NULL REFERENCES practices,
  id text NOT NULL CHECK (id ~ '^own-[0-9a-z-]{1,30}$'),
  body jsonb NOT NULL,
  by_user uuid NOT NULL,
  at timestamptz NOT NULL,
  PRIMARY KEY (practice_id, id),
  FOREIGN KEY (practice_id, by_user) REFERENCES users (practice_id, id)
);
ALTER TABLE own_questions ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_practice ON own_questions USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice());
GRANT SELECT, INSERT ON own_questions TO notchback_app;
-- +goose Down
DROP TABLE own_questions;
