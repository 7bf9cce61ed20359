-- +goose Up
-- Sign-ins and links that are long over are forgotten.
GRANT DELETE ON user_devices, invitations TO notchback_app;
-- +goose Down
REVOKE DELETE ON user_devices, invitations FROM notchback_app;
