package store

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"
)

// sessionTime is how long the database may take over one web session.
const sessionTime = 5 * time.Second

// seenEvery is how often at most a session's last use is noted.
const seenEvery = time.Minute

type unattended struct{}

// Unattended says that a request was made by a page and not by a person: it does not
// keep a session alive.
func Unattended(ctx context.Context) context.Context {
	return context.WithValue(ctx, unattended{}, true)
}

// Attended reports whether a person stands behind a request.
func Attended(ctx context.Context) bool { return ctx.Value(unattended{}) == nil }

// Sessions keeps web sessions, under whatever their tokens were hashed to.
type Sessions struct {
	s    *Store
	idle time.Duration
	now  func() time.Time
}

// Sessions returns the web sessions, which end when they are not used for idle by a
// clock of their own.
func (s *Store) Sessions(idle time.Duration, now func() time.Time) *Sessions {
	return &Sessions{s, idle, now}
}

// FindCtx returns a session's data; found is false where it ended.
func (x *Sessions) FindCtx(ctx context.Context, token string) (data []byte, found bool, err error) {
	ctx, cancel := context.WithTimeout(ctx, sessionTime)
	defer cancel()
	now := x.now()
	var seen time.Time
	err = x.s.db.QueryRow(ctx, `SELECT data, seen_at FROM sessions WHERE token = $1 AND expiry > now() AND seen_at > $2`, token, now.Add(-x.idle)).Scan(&data, &seen)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, false, nil
	}
	if err != nil {
		return nil, false, err
	}
	if now.Sub(seen) > seenEvery && Attended(ctx) {
		_, err = x.s.db.Exec(ctx, `UPDATE sessions SET seen_at = $2 WHERE token = $1`, token, now)
	}
	return data, true, err
}

// CommitCtx stores a session until its absolute end.
func (x *Sessions) CommitCtx(ctx context.Context, token string, data []byte, end time.Time) error {
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), sessionTime)
	defer cancel()
	_, err := x.s.db.Exec(ctx, `INSERT INTO sessions (token, data, expiry, seen_at) VALUES ($1, $2, $3, $4)
		ON CONFLICT (token) DO UPDATE SET data = $2, expiry = $3, seen_at = $4`, token, data, end, x.now())
	return err
}

// DeleteCtx ends a session.
func (x *Sessions) DeleteCtx(ctx context.Context, token string) error {
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), sessionTime)
	defer cancel()
	_, err := x.s.db.Exec(ctx, `DELETE FROM sessions WHERE token = $1`, token)
	return err
}

// Find, Commit and Delete are the same without a request.
func (x *Sessions) Find(token string) ([]byte, bool, error) {
	return x.FindCtx(context.Background(), token)
}

// Commit stores a session without a request.
func (x *Sessions) Commit(token string, data []byte, end time.Time) error {
	return x.CommitCtx(context.Background(), token, data, end)
}

// Delete ends a session without a request.
func (x *Sessions) Delete(token string) error { return x.DeleteCtx(context.Background(), token) }

// SweepSessions deletes the sessions that ended and the throttle's old counts.
func (s *Store) SweepSessions(ctx context.Context, idle, window time.Duration) error {
	now := s.clock()
	_, err := s.db.Exec(ctx, `DELETE FROM sessions WHERE expiry < now() OR seen_at < $1`, now.Add(-idle))
	_, err2 := s.db.Exec(ctx, `DELETE FROM sign_in_failures WHERE last_at < $1`, now.Add(-window))
	return errors.Join(err, err2)
}
