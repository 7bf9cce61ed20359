-- +goose Up
-- What a calendar program was last given of each event: its stamps change only when
-- its text or its time does, and a day that is over stays as it was read.
CREATE TABLE calendar_events (
  practice_id uuid NOT NULL,
  uid text NOT NULL,
  runner_id uuid NOT NULL,
  block_id uuid NOT NULL,
  on_date date NOT NULL,
  body jsonb NOT NULL,
  sequence integer NOT NULL,
  changed_at timestamptz NOT NULL,
  cancelled boolean NOT NULL,
  PRIMARY KEY (practice_id, uid),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners,
  FOREIGN KEY (practice_id, block_id) REFERENCES blocks
);
CREATE INDEX calendar_events_block ON calendar_events (practice_id, block_id);
-- Of which kinds of events a runner's calendar reminds.
CREATE TABLE calendar_reminders (
  practice_id uuid NOT NULL,
  runner_id uuid NOT NULL,
  kinds text[] NOT NULL,
  PRIMARY KEY (practice_id, runner_id),
  FOREIGN KEY (practice_id, runner_id) REFERENCES runners
);
-- A run file that came from a phone, until it was read.
CREATE TABLE pocket_files (
  practice_id uuid NOT NULL,
  report_id uuid NOT NULL,
  data bytea NOT NULL,
  PRIMARY KEY (practice_id, report_id),
  FOREIGN KEY (practice_id, report_id) REFERENCES pocket_reports
);
ALTER TABLE pocket_reports DROP CONSTRAINT pocket_reports_kind_check;
ALTER TABLE pocket_reports ADD CONSTRAINT pocket_reports_kind_check CHECK (kind IN ('morning', 'session', 'run', 'file', 'ramp', 'move', 'note'));
-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
  FOREACH t IN ARRAY ARRAY['calendar_events', 'calendar_reminders', 'pocket_files'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
    EXECUTE format('CREATE POLICY one_practice ON %I USING (practice_id = current_practice()) WITH CHECK (practice_id = current_practice())', t);
    EXECUTE format('GRANT SELECT, INSERT ON %I TO notchback_app', t);
  END LOOP;
END $$;
-- +goose StatementEnd
GRANT UPDATE (on_date, body, sequence, changed_at, cancelled) ON calendar_events TO notchback_app;
GRANT UPDATE (kinds) ON calendar_reminders TO notchback_app;
GRANT DELETE ON pocket_files TO notchback_app;

-- +goose Down
DROP TABLE pocket_files;
DELETE FROM pocket_reports WHERE kind = 'file';
ALTER TABLE pocket_reports DROP CONSTRAINT pocket_reports_kind_check;
ALTER TABLE pocket_reports ADD CONSTRAINT pocket_reports_kind_check CHECK (kind IN ('morning', 'session', 'run', 'ramp', 'move', 'note'));
DROP TABLE calendar_reminders, calendar_events;
