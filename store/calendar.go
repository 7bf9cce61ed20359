package store

import (
	"context"
	"encoding/json"
	"time"
)

// CalendarEvent is an event as a calendar program was last given it.
type CalendarEvent struct {
	UID       string          `db:"uid" json:"uid"`
	BlockID   string          `db:"block_id" json:"block_id"`
	On        time.Time       `db:"on_date" json:"on_date"`
	Body      json.RawMessage `db:"body" json:"body"`
	Sequence  int             `db:"sequence" json:"sequence"`
	ChangedAt time.Time       `db:"changed_at" json:"changed_at"`
	Cancelled bool            `db:"cancelled" json:"cancelled"`
}

// Feed is a calendar address of a runner.
type Feed struct {
	ID string    `db:"id"`
	At time.Time `db:"at"`
}

// Feeds lists a runner's live calendar addresses.
func (tx *Tx) Feeds(ctx context.Context, runner string) ([]Feed, error) {
	return all[Feed](ctx, tx, `SELECT id, at FROM calendar_feeds WHERE runner_id = $1 AND revoked_at IS NULL ORDER BY at, id`, runner)
}

// AddFeed stores the hash of a new calendar address.
func (tx *Tx) AddFeed(ctx context.Context, runner string, hash []byte, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO calendar_feeds (practice_id, runner_id, token_hash, by_user) VALUES ($1, $2, $3, $4)`, tx.Practice, runner, hash, by)
	return translate(err)
}

// RevokeFeeds ends all of a runner's calendar addresses.
func (tx *Tx) RevokeFeeds(ctx context.Context, runner string, at time.Time) error {
	_, err := tx.Exec(ctx, `UPDATE calendar_feeds SET revoked_at = $2 WHERE runner_id = $1 AND revoked_at IS NULL`, runner, at)
	return err
}

// FeedOwner finds whose calendar an address is; ErrNotFound for none.
func (s *Store) FeedOwner(ctx context.Context, hash []byte) (practice, runner string, err error) {
	err = s.db.QueryRow(ctx, `SELECT practice_id, runner_id FROM feed_lookup($1)`, hash).Scan(&practice, &runner)
	return practice, runner, translate(err)
}

// CalendarEvents lists what was given of a block. Two programs that read a calendar at
// the same moment wait for each other here.
func (tx *Tx) CalendarEvents(ctx context.Context, block string) ([]CalendarEvent, error) {
	if _, err := tx.Exec(ctx, `SELECT pg_advisory_xact_lock(hashtextextended($1, 17))`, block); err != nil {
		return nil, err
	}
	return all[CalendarEvent](ctx, tx, `SELECT uid, block_id, on_date, body, sequence, changed_at, cancelled FROM calendar_events WHERE block_id = $1 ORDER BY on_date, uid`, block)
}

// PutCalendarEvents keeps what is given from now on.
func (tx *Tx) PutCalendarEvents(ctx context.Context, runner string, list []CalendarEvent) error {
	if len(list) == 0 {
		return nil
	}
	raw, err := json.Marshal(list)
	if err != nil {
		return err
	}
	_, err = tx.Exec(ctx, `INSERT INTO calendar_events (practice_id, uid, runner_id, block_id, on_date, body, sequence, changed_at, cancelled)
		SELECT $1, uid, $2, block_id, on_date::date, body, sequence, changed_at, cancelled
		FROM jsonb_to_recordset($3) AS x(uid text, block_id uuid, on_date timestamp, body jsonb, sequence integer, changed_at timestamptz, cancelled boolean)
		ON CONFLICT (practice_id, uid) DO UPDATE SET on_date = excluded.on_date, body = excluded.body, sequence = excluded.sequence, changed_at = excluded.changed_at, cancelled = excluded.cancelled`,
		tx.Practice, runner, raw)
	return translate(err)
}

// Reminders lists the kinds a runner's calendar reminds of; ErrNotFound before any
// choice was made.
func (tx *Tx) Reminders(ctx context.Context, runner string) ([]string, error) {
	var out []string
	err := tx.QueryRow(ctx, `SELECT kinds FROM calendar_reminders WHERE runner_id = $1`, runner).Scan(&out)
	return out, translate(err)
}

// PutReminders stores them.
func (tx *Tx) PutReminders(ctx context.Context, runner string, kinds []string) error {
	_, err := tx.Exec(ctx, `INSERT INTO calendar_reminders (practice_id, runner_id, kinds) VALUES ($1, $2, $3)
		ON CONFLICT (practice_id, runner_id) DO UPDATE SET kinds = excluded.kinds`, tx.Practice, runner, kinds)
	return translate(err)
}
