-- +goose Up
-- What the sheet and the phone say of the practice.
ALTER TABLE practices ADD COLUMN contact text NOT NULL DEFAULT '', ADD COLUMN emergency_number text NOT NULL DEFAULT '', ADD COLUMN emergency_text text NOT NULL DEFAULT '',
  ADD COLUMN plate_kg double precision NOT NULL DEFAULT 1.25 CHECK (plate_kg > 0 AND plate_kg <= 20), ADD COLUMN rev bigint NOT NULL DEFAULT 0;
GRANT UPDATE ON practices TO notchback_app;
-- A flag that a reading raised knows where it hurt.
ALTER TABLE flags ADD COLUMN zone text NOT NULL DEFAULT '';
-- A session can be put right or taken back, with a reason: a log stands for an
-- earlier one, or for none any more. Several logs of a day stand side by side.
ALTER TABLE session_logs ADD COLUMN replaces uuid, ADD COLUMN reason text NOT NULL DEFAULT '', ADD COLUMN removed boolean NOT NULL DEFAULT false;
ALTER TABLE session_logs DROP CONSTRAINT session_logs_practice_id_block_id_on_date_key;
CREATE INDEX session_logs_replaces ON session_logs (practice_id, replaces) WHERE replaces IS NOT NULL;
-- A reading that is taken back is a revision with nothing in it.
ALTER TABLE mornings DROP CONSTRAINT mornings_check;
ALTER TABLE session_items ADD COLUMN mistakes text[] NOT NULL DEFAULT '{}', ADD COLUMN sets_done smallint, ADD COLUMN reps_done smallint, ADD COLUMN load_kg double precision;
ALTER TABLE session_items DROP CONSTRAINT session_items_cut_check;
ALTER TABLE session_items ADD CONSTRAINT session_items_cut_check CHECK (cut IN ('', 'deload', 'half', 'cap', 'cramp', 'spike', 'growth'));
-- +goose Down
DELETE FROM mornings WHERE first_step IS NULL AND rest IS NULL;
ALTER TABLE mornings ADD CONSTRAINT mornings_check CHECK (first_step IS NOT NULL OR rest IS NOT NULL);
ALTER TABLE session_items DROP CONSTRAINT session_items_cut_check;
UPDATE session_items SET cut = 'deload' WHERE cut = 'growth';
ALTER TABLE session_items ADD CONSTRAINT session_items_cut_check CHECK (cut IN ('', 'deload', 'half', 'cap', 'cramp', 'spike'));
ALTER TABLE session_items DROP COLUMN mistakes, DROP COLUMN sets_done, DROP COLUMN reps_done, DROP COLUMN load_kg;
DROP INDEX session_logs_replaces;
DELETE FROM session_items WHERE log_id IN (SELECT id FROM session_logs a WHERE EXISTS (SELECT 1 FROM session_logs b WHERE b.practice_id = a.practice_id AND b.block_id = a.block_id AND b.on_date = a.on_date AND b.seq > a.seq));
UPDATE decisions SET log_id = NULL WHERE log_id IN (SELECT id FROM session_logs a WHERE EXISTS (SELECT 1 FROM session_logs b WHERE b.practice_id = a.practice_id AND b.block_id = a.block_id AND b.on_date = a.on_date AND b.seq > a.seq));
DELETE FROM session_logs a WHERE EXISTS (SELECT 1 FROM session_logs b WHERE b.practice_id = a.practice_id AND b.block_id = a.block_id AND b.on_date = a.on_date AND b.seq > a.seq);
ALTER TABLE session_logs ADD CONSTRAINT session_logs_practice_id_block_id_on_date_key UNIQUE (practice_id, block_id, on_date);
ALTER TABLE session_logs DROP COLUMN replaces, DROP COLUMN reason, DROP COLUMN removed;
ALTER TABLE flags DROP COLUMN zone;
REVOKE UPDATE ON practices FROM notchback_app;
ALTER TABLE practices DROP COLUMN contact, DROP COLUMN emergency_number, DROP COLUMN emergency_text, DROP COLUMN plate_kg, DROP COLUMN rev;
