-- +goose Up
-- What the bench, a block's view and the nightly review look up.
CREATE INDEX prescriptions_block ON prescriptions (practice_id, block_id);
CREATE INDEX decisions_prescription ON decisions (practice_id, prescription_id);
CREATE INDEX session_logs_block ON session_logs (practice_id, block_id);
CREATE INDEX blocks_runner ON blocks (practice_id, runner_id);
CREATE INDEX decisions_proposed ON decisions (practice_id, runner_id) WHERE state = 'proposed';
CREATE INDEX pegs_halted ON pegs (practice_id, prescription_id) WHERE halt_row IS NOT NULL;
CREATE INDEX flags_runner ON flags (practice_id, runner_id);
CREATE INDEX clearances_runner ON clearances (practice_id, runner_id, until_date);

-- +goose Down
DROP INDEX clearances_runner, flags_runner, pegs_halted, decisions_proposed, blocks_runner, session_logs_block, decisions_prescription, prescriptions_block;
