package store

import (
	"context"
	"time"
)

// SecondFactor is the shared secret of somebody's second device. It counts from On; until
// then it waits for its first code. LastStep is the last step of time a code was used of.
type SecondFactor struct {
	Secret   string     `db:"secret"`
	At       time.Time  `db:"at"`
	On       *time.Time `db:"on_at"`
	LastStep int64      `db:"last_step"`
	Codes    int        `db:"codes"` // recovery codes left
}

// SecondFactor returns somebody's second factor and holds it until the transaction ends, so
// that no code is used twice; ErrNotFound for none.
func (tx *Tx) SecondFactor(ctx context.Context, user string) (SecondFactor, error) {
	return one[SecondFactor](ctx, tx, `SELECT secret, at, on_at, last_step,
		(SELECT count(*) FROM recovery_codes c WHERE c.practice_id = f.practice_id AND c.user_id = f.user_id)::int AS codes
		FROM second_factors f WHERE user_id = $1 FOR UPDATE`, user)
}

// BeginSecondFactor keeps a secret that waits for its first code, in the place of one that
// still waits; ErrConflict where one counts already.
func (tx *Tx) BeginSecondFactor(ctx context.Context, user, secret string, at time.Time) error {
	tag, err := tx.Exec(ctx, `INSERT INTO second_factors AS f (practice_id, user_id, secret, at) VALUES ($1, $2, $3, $4)
		ON CONFLICT (practice_id, user_id) DO UPDATE SET secret = $3, at = $4 WHERE f.on_at IS NULL`, tx.Practice, user, secret, at)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrConflict
	}
	return translate(err)
}

// CountSecondFactor lets a second factor count from a time on.
func (tx *Tx) CountSecondFactor(ctx context.Context, user string, at time.Time) error {
	_, err := tx.Exec(ctx, `UPDATE second_factors SET on_at = $2 WHERE user_id = $1`, user, at)
	return translate(err)
}

// UseStep notes the step of time of the code that was used.
func (tx *Tx) UseStep(ctx context.Context, user string, step int64) error {
	_, err := tx.Exec(ctx, `UPDATE second_factors SET last_step = $2 WHERE user_id = $1`, user, step)
	return translate(err)
}

// DropSecondFactor takes somebody's second factor away, codes and all; ErrNotFound for none.
func (tx *Tx) DropSecondFactor(ctx context.Context, user string) error {
	tag, err := tx.Exec(ctx, `DELETE FROM second_factors WHERE user_id = $1`, user)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return translate(err)
}

// SetRecoveryCodes replaces somebody's recovery codes.
func (tx *Tx) SetRecoveryCodes(ctx context.Context, user string, hashes [][]byte) error {
	if _, err := tx.Exec(ctx, `DELETE FROM recovery_codes WHERE user_id = $1`, user); err != nil {
		return translate(err)
	}
	_, err := tx.Exec(ctx, `INSERT INTO recovery_codes (practice_id, user_id, hash) SELECT $1, $2, unnest($3::bytea[])`, tx.Practice, user, hashes)
	return translate(err)
}

// UseRecoveryCode spends a recovery code and reports whether there was one.
func (tx *Tx) UseRecoveryCode(ctx context.Context, user string, hash []byte) (bool, error) {
	tag, err := tx.Exec(ctx, `DELETE FROM recovery_codes WHERE user_id = $1 AND hash = $2`, user, hash)
	return err == nil && tag.RowsAffected() > 0, translate(err)
}

// ProgramKey lets a program in for somebody.
type ProgramKey struct {
	ID    string     `db:"id"`
	User  string     `db:"user_id"`
	Name  string     `db:"name"`
	Scope string     `db:"scope"`
	At    time.Time  `db:"at"`
	Until time.Time  `db:"until"`
	Used  *time.Time `db:"used_at"`
}

const keyColumns = `id, user_id, name, scope, at, until, used_at`

// AddKey stores a program's key by its hash.
func (tx *Tx) AddKey(ctx context.Context, k ProgramKey, hash []byte) error {
	_, err := tx.Exec(ctx, `INSERT INTO program_keys (practice_id, user_id, name, scope, hash, at, until) VALUES ($1, $2, $3, $4, $5, $6, $7)`,
		tx.Practice, k.User, k.Name, k.Scope, hash, k.At, k.Until)
	return translate(err)
}

// Keys lists the keys of somebody that still hold, or of everybody for "", the newest first.
func (tx *Tx) Keys(ctx context.Context, user string, now time.Time) ([]ProgramKey, error) {
	return all[ProgramKey](ctx, tx, `SELECT `+keyColumns+` FROM program_keys WHERE ($1 = '' OR user_id::text = $1) AND until > $2 ORDER BY at DESC, id`, user, now)
}

// Key returns a key.
func (tx *Tx) Key(ctx context.Context, id string) (ProgramKey, error) {
	return one[ProgramKey](ctx, tx, `SELECT `+keyColumns+` FROM program_keys WHERE id = $1`, id)
}

// SeeKey notes a key's use.
func (tx *Tx) SeeKey(ctx context.Context, id string, at time.Time) error {
	_, err := tx.Exec(ctx, `UPDATE program_keys SET used_at = $2 WHERE id = $1`, id, at)
	return translate(err)
}

// DropKey takes a key of somebody back; ErrNotFound for none.
func (tx *Tx) DropKey(ctx context.Context, user, id string) error {
	tag, err := tx.Exec(ctx, `DELETE FROM program_keys WHERE user_id = $1 AND id = $2`, user, id)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return translate(err)
}

// DropKeys takes all keys of somebody back.
func (tx *Tx) DropKeys(ctx context.Context, user string) error {
	_, err := tx.Exec(ctx, `DELETE FROM program_keys WHERE user_id = $1`, user)
	return translate(err)
}

// KeyOf finds the key of a hash across practices.
func (s *Store) KeyOf(ctx context.Context, hash []byte) (practice, id string, err error) {
	err = s.db.QueryRow(ctx, `SELECT practice_id, id FROM program_key($1)`, hash).Scan(&practice, &id)
	return practice, id, translate(err)
}
