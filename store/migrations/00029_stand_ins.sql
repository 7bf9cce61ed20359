-- +goose Up
-- Whether rendered clips and made-up runs are offered, to try the program without devices.
ALTER TABLE practices ADD COLUMN stand_ins boolean NOT NULL DEFAULT false;
-- +goose Down
ALTER TABLE practices DROP COLUMN stand_ins;
