-- +goose Up
-- An installation can be founded with more than one practice, all of it in the
-- transaction that founds it: afterwards nobody can.
CREATE TABLE founding (xid xid8 NOT NULL);
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION found_practice(practice text, zone text, owner_name text, owner_email text, hash text)
RETURNS TABLE (practice_id uuid, id uuid)
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
DECLARE p uuid;
BEGIN
  LOCK TABLE practices IN EXCLUSIVE MODE;
  IF EXISTS (SELECT 1 FROM practices) AND NOT EXISTS (SELECT 1 FROM founding WHERE xid = pg_current_xact_id()) THEN
    RETURN;
  END IF;
  INSERT INTO founding VALUES (pg_current_xact_id());
  INSERT INTO practices (name, zone) VALUES (practice, zone) RETURNING practices.id INTO p;
  RETURN QUERY INSERT INTO users (practice_id, email, name, role, password_hash)
    VALUES (p, owner_email, owner_name, 'owner', hash) RETURNING users.practice_id, users.id;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION found_user(practice uuid, user_name text, user_email text, user_role text, hash text)
RETURNS uuid
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
DECLARE u uuid;
BEGIN
  IF NOT EXISTS (SELECT 1 FROM founding WHERE xid = pg_current_xact_id()) THEN
    RETURN NULL;
  END IF;
  INSERT INTO users (practice_id, email, name, role, password_hash) VALUES (practice, user_email, user_name, user_role, hash) RETURNING users.id INTO u;
  RETURN u;
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION found_user(uuid, text, text, text, text) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION found_user(uuid, text, text, text, text) TO notchback_app;

-- +goose Down
DROP FUNCTION found_user(uuid, text, text, text, text);
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION found_practice(practice text, zone text, owner_name text, owner_email text, hash text)
RETURNS TABLE (practice_id uuid, id uuid)
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
DECLARE p uuid;
BEGIN
  LOCK TABLE practices IN EXCLUSIVE MODE;
  IF EXISTS (SELECT 1 FROM practices) THEN
    RETURN;
  END IF;
  INSERT INTO practices (name, zone) VALUES (practice, zone) RETURNING practices.id INTO p;
  RETURN QUERY INSERT INTO users (practice_id, email, name, role, password_hash)
    VALUES (p, owner_email, owner_name, 'owner', hash) RETURNING users.practice_id, users.id;
END $$;
-- +goose StatementEnd
DROP TABLE founding;
