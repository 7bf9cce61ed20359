package store

import (
	"context"
	"time"
)

// Person is somebody who works, or worked, in the practice.
type Person struct {
	ID      string     `db:"id"`
	Name    string     `db:"name"`
	Email   string     `db:"email"`
	Role    string     `db:"role"`
	Since   time.Time  `db:"created_at"`
	Seen    *time.Time `db:"seen_at"`
	Runners int        `db:"runners"`
	Second  bool       `db:"second"`
}

// People lists who works in the practice, by name.
func (tx *Tx) People(ctx context.Context) ([]Person, error) {
	return all[Person](ctx, tx, `SELECT u.id, u.name, u.email, u.role, u.created_at,
		EXISTS (SELECT 1 FROM second_factors f WHERE f.practice_id = u.practice_id AND f.user_id = u.id AND f.on_at IS NOT NULL) AS second,
		(SELECT max(d.seen_at) FROM user_devices d WHERE d.practice_id = u.practice_id AND d.user_id = u.id) AS seen_at,
		(SELECT count(*) FROM runners r WHERE r.practice_id = u.practice_id AND r.coach_id = u.id AND r.archived_at IS NULL)::int AS runners
		FROM users u WHERE u.removed_at IS NULL ORDER BY lower(u.name), u.id`)
}

// Hash returns somebody's password hash.
func (tx *Tx) Hash(ctx context.Context, user string) (hash string, err error) {
	err = tx.QueryRow(ctx, `SELECT password_hash FROM users WHERE id = $1 AND removed_at IS NULL`, user).Scan(&hash)
	return hash, translate(err)
}

// Role returns somebody's role now; ErrNotFound for who has gone.
func (tx *Tx) Role(ctx context.Context, user string) (role string, err error) {
	err = tx.QueryRow(ctx, `SELECT role FROM users WHERE id = $1 AND removed_at IS NULL`, user).Scan(&role)
	return role, translate(err)
}

// LockOwners holds the owners until the transaction ends, so that who owns the practice
// is decided by one after the other, and returns their ids.
func (tx *Tx) LockOwners(ctx context.Context) ([]string, error) {
	type id struct {
		ID string `db:"id"`
	}
	rows, err := all[id](ctx, tx, `SELECT id FROM users WHERE role = 'owner' AND removed_at IS NULL ORDER BY id FOR UPDATE`)
	out := make([]string, len(rows))
	for i, r := range rows {
		out[i] = r.ID
	}
	return out, err
}

// AddUser adds somebody to the practice; ErrConflict where the e-mail address is taken.
func (tx *Tx) AddUser(ctx context.Context, name, email, role, hash string) (id string, err error) {
	err = tx.QueryRow(ctx, `INSERT INTO users (practice_id, name, email, role, password_hash) VALUES ($1, $2, $3, $4, $5) RETURNING id`, tx.Practice, name, email, role, hash).Scan(&id)
	return id, translate(err)
}

// SetUser changes somebody's name, address and units.
func (tx *Tx) SetUser(ctx context.Context, user, name, email, units string, at time.Time) error {
	_, err := tx.Exec(ctx, `UPDATE users SET name = $2, email = $3, units = $5, changed_at = $4 WHERE id = $1`, user, name, email, at, units)
	return translate(err)
}

// SetRole changes what somebody may do; ErrNotFound for who has gone.
func (tx *Tx) SetRole(ctx context.Context, user, role string, at time.Time) error {
	tag, err := tx.Exec(ctx, `UPDATE users SET role = $2, changed_at = $3 WHERE id = $1 AND removed_at IS NULL`, user, role, at)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return translate(err)
}

// SetHash changes somebody's password hash; ErrNotFound for who has gone.
func (tx *Tx) SetHash(ctx context.Context, user, hash string, at time.Time) error {
	tag, err := tx.Exec(ctx, `UPDATE users SET password_hash = $2, changed_at = $3 WHERE id = $1 AND removed_at IS NULL`, user, hash, at)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return translate(err)
}

// RemoveUser lets somebody go: the name stays on what they wrote, nothing else does.
func (tx *Tx) RemoveUser(ctx context.Context, user string, at time.Time) error {
	tag, err := tx.Exec(ctx, `UPDATE users SET removed_at = $2, changed_at = $2, email = '', password_hash = '' WHERE id = $1 AND removed_at IS NULL`, user, at)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	if err == nil {
		_, err = tx.Exec(ctx, `UPDATE invitations SET revoked_at = $2 WHERE (by_user = $1 OR user_id = $1) AND used_at IS NULL AND revoked_at IS NULL`, user, at)
	}
	return translate(err)
}

// HandOver gives the runners of one coach to another, or to nobody.
func (tx *Tx) HandOver(ctx context.Context, from string, to *string) error {
	_, err := tx.Exec(ctx, `UPDATE runners SET coach_id = $2 WHERE coach_id = $1`, from, to)
	return translate(err)
}

// SetCoach says who looks after a runner; nobody for nil.
func (tx *Tx) SetCoach(ctx context.Context, runner string, coach *string) error {
	tag, err := tx.Exec(ctx, `UPDATE runners SET coach_id = $2 WHERE id = $1`, runner, coach)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return translate(err)
}

// UserDevice is a browser somebody is signed in with.
type UserDevice struct {
	ID   string    `db:"id"`
	Name string    `db:"name"`
	At   time.Time `db:"at"`
	Seen time.Time `db:"seen_at"`
}

// AddDevice notes a sign-in.
func (tx *Tx) AddDevice(ctx context.Context, user, name string, at time.Time) (id string, err error) {
	err = tx.QueryRow(ctx, `INSERT INTO user_devices (practice_id, user_id, name, at, seen_at) VALUES ($1, $2, $3, $4, $4) RETURNING id`, tx.Practice, user, name, at).Scan(&id)
	return id, translate(err)
}

// UserDevices lists the devices somebody is signed in on, the newest use first: those that
// came after since and were used after idle.
func (tx *Tx) UserDevices(ctx context.Context, user string, since, idle time.Time) ([]UserDevice, error) {
	return all[UserDevice](ctx, tx, `SELECT id, name, at, seen_at FROM user_devices WHERE user_id = $1 AND ended_at IS NULL AND at > $2 AND seen_at > $3 ORDER BY seen_at DESC, id`, user, since, idle)
}

// KnownDevice reports whether somebody signed in with a device since a time, whatever became
// of it.
func (tx *Tx) KnownDevice(ctx context.Context, user, id string, since time.Time) (known bool, err error) {
	err = tx.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM user_devices WHERE user_id = $1 AND id = $2 AND at > $3)`, user, id, since).Scan(&known)
	return known, translate(err)
}

// ForgetDevices deletes the sign-ins from before a time, and the links and keys that ended
// before it.
func (tx *Tx) ForgetDevices(ctx context.Context, before time.Time) error {
	if _, err := tx.Exec(ctx, `DELETE FROM user_devices WHERE at < $1 AND (ended_at IS NOT NULL OR seen_at < $1)`, before); err != nil {
		return translate(err)
	}
	if _, err := tx.Exec(ctx, `DELETE FROM invitations WHERE until < $1`, before); err != nil {
		return translate(err)
	}
	_, err := tx.Exec(ctx, `DELETE FROM program_keys WHERE until < $1`, before)
	return translate(err)
}

// SeeDevice notes a device's use.
func (tx *Tx) SeeDevice(ctx context.Context, id string, at time.Time) error {
	_, err := tx.Exec(ctx, `UPDATE user_devices SET seen_at = $2 WHERE id = $1`, id, at)
	return translate(err)
}

// EndDevices signs somebody out: on one device for an id, otherwise on all but one, or on all.
func (tx *Tx) EndDevices(ctx context.Context, user string, only, but *string, at time.Time) (int64, error) {
	tag, err := tx.Exec(ctx, `UPDATE user_devices SET ended_at = $4 WHERE user_id = $1 AND ended_at IS NULL AND ($2::uuid IS NULL OR id = $2) AND ($3::uuid IS NULL OR id <> $3)`, user, only, but, at)
	return tag.RowsAffected(), translate(err)
}

// Invitation is a link that lets somebody in once.
type Invitation struct {
	ID      string     `db:"id"`
	Kind    string     `db:"kind"`
	Role    string     `db:"role"`
	Note    string     `db:"note"`
	User    *string    `db:"user_id"`
	By      *string    `db:"by_user"`
	At      time.Time  `db:"at"`
	Until   time.Time  `db:"until"`
	Used    *time.Time `db:"used_at"`
	Revoked *time.Time `db:"revoked_at"`
}

const invitationColumns = `id, kind, role, note, user_id, by_user, at, until, used_at, revoked_at`

// AddInvitation stores a link by the hash of its token. Of links to a new password only
// the newest of somebody holds.
func (tx *Tx) AddInvitation(ctx context.Context, i Invitation, hash []byte) error {
	if i.User != nil {
		if _, err := tx.Exec(ctx, `UPDATE invitations SET revoked_at = $2 WHERE user_id = $1 AND used_at IS NULL AND revoked_at IS NULL`, i.User, i.At); err != nil {
			return err
		}
	}
	_, err := tx.Exec(ctx, `INSERT INTO invitations (practice_id, token_hash, kind, role, note, user_id, by_user, at, until) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
		tx.Practice, hash, i.Kind, i.Role, i.Note, i.User, i.By, i.At, i.Until)
	return translate(err)
}

// Invitations lists the links that are still open, the newest first.
func (tx *Tx) Invitations(ctx context.Context, now time.Time) ([]Invitation, error) {
	return all[Invitation](ctx, tx, `SELECT `+invitationColumns+` FROM invitations WHERE used_at IS NULL AND revoked_at IS NULL AND until > $1 ORDER BY at DESC, id`, now)
}

// Invitation returns a link and holds it until the transaction ends: it is used once.
func (tx *Tx) Invitation(ctx context.Context, id string) (Invitation, error) {
	return one[Invitation](ctx, tx, `SELECT `+invitationColumns+` FROM invitations WHERE id = $1 FOR UPDATE`, id)
}

// UseInvitation marks a link as used, or as taken back.
func (tx *Tx) UseInvitation(ctx context.Context, id string, at time.Time, used bool) error {
	column := "revoked_at"
	if used {
		column = "used_at"
	}
	tag, err := tx.Exec(ctx, `UPDATE invitations SET `+column+` = $2 WHERE id = $1 AND used_at IS NULL AND revoked_at IS NULL`, id, at)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return translate(err)
}

// InvitationOf finds the link of a token across practices.
func (s *Store) InvitationOf(ctx context.Context, hash []byte) (practice, id string, err error) {
	err = s.db.QueryRow(ctx, `SELECT practice_id, id FROM invitation($1)`, hash).Scan(&practice, &id)
	return practice, id, translate(err)
}
