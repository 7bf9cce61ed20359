package store

import (
	"context"
	"time"
)

// RampRev is a revision of what a ramp is planned with, as JSON.
type RampRev struct {
	Kind string    `db:"kind"`
	Rev  int       `db:"rev"`
	Body []byte    `db:"body"`
	At   time.Time `db:"at"`
	Seq  int64     `db:"seq"`
}

// Ramps returns all revisions of a runner's ramps, oldest first.
func (tx *Tx) Ramps(ctx context.Context, runner string) ([]RampRev, error) {
	return all[RampRev](ctx, tx, `SELECT kind, rev, body, at, seq FROM ramps WHERE runner_id = $1 ORDER BY kind, rev`, runner)
}

// PutRamp appends a revision after the one that was read; ErrConflict where
// somebody else was first.
func (tx *Tx) PutRamp(ctx context.Context, runner, kind string, read int, body []byte, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO ramps (practice_id, runner_id, kind, rev, body, by_user) VALUES ($1, $2, $3, $4, $5, $6)`, tx.Practice, runner, kind, read+1, body, by)
	return translate(err)
}

// RampEvent is a count without a beat, or a cue begun or looked at again.
type RampEvent struct {
	Kind string    `db:"kind"`
	On   time.Time `db:"on_date"`
	Body []byte    `db:"body"`
}

// RampEvents returns a runner's events, oldest first.
func (tx *Tx) RampEvents(ctx context.Context, runner string) ([]RampEvent, error) {
	return all[RampEvent](ctx, tx, `SELECT kind, on_date, body FROM ramp_events WHERE runner_id = $1 ORDER BY on_date, at`, runner)
}

// AddRampEvent appends an event.
func (tx *Tx) AddRampEvent(ctx context.Context, runner string, e RampEvent, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO ramp_events (practice_id, runner_id, kind, on_date, body, by_user) VALUES ($1, $2, $3, $4, $5, $6)`, tx.Practice, runner, e.Kind, e.On, e.Body, by)
	return translate(err)
}

// RampDate is a date of the goal, from a day on; nil is none known.
type RampDate struct {
	Reached *time.Time `db:"reached"`
	Why     string     `db:"why"`
	On      time.Time  `db:"on_date"`
}

// RampDates returns how the date of the goal moved, oldest first.
func (tx *Tx) RampDates(ctx context.Context, runner string) ([]RampDate, error) {
	return all[RampDate](ctx, tx, `SELECT reached, why, on_date FROM ramp_dates WHERE runner_id = $1 ORDER BY rev`, runner)
}

// AddRampDate appends a move.
func (tx *Tx) AddRampDate(ctx context.Context, runner string, d RampDate) error {
	_, err := tx.Exec(ctx, `INSERT INTO ramp_dates (practice_id, runner_id, rev, reached, why, on_date)
		SELECT $1, $2::uuid, 1 + coalesce(max(rev), 0), $3, $4, $5 FROM ramp_dates WHERE runner_id = $2::uuid`, tx.Practice, runner, d.Reached, d.Why, d.On)
	return translate(err)
}
