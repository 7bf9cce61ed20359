package store

import (
	"context"
	"time"
)

// Archived is a runner off the bench.
type Archived struct {
	ID         string     `db:"id"`
	Name       string     `db:"name"`
	ArchivedAt time.Time  `db:"archived_at"`
	KeepUntil  *time.Time `db:"keep_until"`
}

// ArchivedRunners lists the runners off the bench, the longest there first.
func (tx *Tx) ArchivedRunners(ctx context.Context) ([]Archived, error) {
	return all[Archived](ctx, tx, `SELECT id, name, archived_at, keep_until FROM runners WHERE archived_at IS NOT NULL ORDER BY archived_at, id`)
}

// ArchiveRunner takes a runner off the bench at a time, or puts one back for nil.
func (tx *Tx) ArchiveRunner(ctx context.Context, runner string, at *time.Time) (changed bool, err error) {
	tag, err := tx.Exec(ctx, `UPDATE runners SET archived_at = $2, keep_until = NULL, version = version + 1 WHERE id = $1 AND (archived_at IS NULL) = ($2::timestamptz IS NOT NULL)`, runner, at)
	return tag.RowsAffected() > 0, translate(err)
}

// ShutRunner ends a runner's phones, links and calendars.
func (tx *Tx) ShutRunner(ctx context.Context, runner string, at time.Time) error {
	for _, sql := range []string{
		`UPDATE pocket_links SET revoked_at = $2 WHERE runner_id = $1 AND revoked_at IS NULL`,
		`UPDATE pocket_devices SET revoked_at = $2, revoked_by = 'coach' WHERE runner_id = $1 AND revoked_at IS NULL`,
		`UPDATE calendar_feeds SET revoked_at = $2 WHERE runner_id = $1 AND revoked_at IS NULL`,
	} {
		if _, err := tx.Exec(ctx, sql, runner, at); err != nil {
			return translate(err)
		}
	}
	return nil
}

// KeepRunner puts the day off on which an archived runner's records go.
func (tx *Tx) KeepRunner(ctx context.Context, runner string, until time.Time) error {
	tag, err := tx.Exec(ctx, `UPDATE runners SET keep_until = $2 WHERE id = $1 AND archived_at IS NOT NULL`, runner, until)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return translate(err)
}

// Footprint counts what there is of a runner.
type Footprint struct {
	Name       string `db:"name"`
	Screenings int    `db:"screenings"`
	Blocks     int    `db:"blocks"`
	Sessions   int    `db:"sessions"`
	Runs       int    `db:"runs"`
	Clips      int    `db:"clips"`
	Phones     int    `db:"phones"`
	Journal    int    `db:"journal"`
}

// Footprint returns it.
func (tx *Tx) Footprint(ctx context.Context, runner string) (Footprint, error) {
	return one[Footprint](ctx, tx, `SELECT r.name,
		(SELECT count(*) FROM screenings x WHERE x.runner_id = r.id)::int AS screenings, (SELECT count(*) FROM blocks x WHERE x.runner_id = r.id)::int AS blocks,
		(SELECT count(*) FROM session_logs x WHERE x.runner_id = r.id)::int AS sessions, (SELECT count(DISTINCT x.id) FROM runs x WHERE x.runner_id = r.id)::int AS runs,
		(SELECT count(*) FROM clips x WHERE x.runner_id = r.id)::int AS clips, (SELECT count(*) FROM pocket_devices x WHERE x.runner_id = r.id AND x.revoked_at IS NULL)::int AS phones,
		(SELECT count(*) FROM journal x WHERE x.runner_id = r.id)::int AS journal
		FROM runners r WHERE r.id = $1`, runner)
}

// DeleteRunner deletes all of a runner and leaves that somebody was deleted, without a
// word of who it was; ErrNotFound for nobody.
func (tx *Tx) DeleteRunner(ctx context.Context, runner string, by *string, why string, at time.Time) error {
	var was bool
	if err := tx.QueryRow(ctx, `SELECT delete_runner($1)`, runner).Scan(&was); err != nil {
		return translate(err)
	}
	if !was {
		return ErrNotFound
	}
	_, err := tx.Exec(ctx, `INSERT INTO gone_runners (practice_id, id, at, by_user, why) VALUES ($1, $2, $3, $4, $5)`, tx.Practice, runner, at, by, why)
	return translate(err)
}

// Consent is what somebody agreed to.
type Consent struct {
	ID      string     `db:"id"`
	What    string     `db:"what"`
	GivenBy string     `db:"given_by"`
	Name    string     `db:"name"`
	How     string     `db:"how"`
	On      time.Time  `db:"on_date"`
	Ended   *time.Time `db:"ended_on"`
	By      string     `db:"by"`
}

// Consents lists a runner's, the newest first.
func (tx *Tx) Consents(ctx context.Context, runner string) ([]Consent, error) {
	return all[Consent](ctx, tx, `SELECT c.id, c.what, c.given_by, c.name, c.how, c.on_date, c.ended_on, u.name AS by FROM consents c
		JOIN users u ON u.practice_id = c.practice_id AND u.id = c.by_user WHERE c.runner_id = $1 ORDER BY c.on_date DESC, c.at DESC, c.id`, runner)
}

// AddConsent stores one.
func (tx *Tx) AddConsent(ctx context.Context, runner, user string, c Consent, at time.Time) error {
	_, err := tx.Exec(ctx, `INSERT INTO consents (practice_id, runner_id, what, given_by, name, how, on_date, by_user, at) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
		tx.Practice, runner, c.What, c.GivenBy, c.Name, c.How, c.On, user, at)
	return translate(err)
}

// EndConsent takes one back from a day on.
func (tx *Tx) EndConsent(ctx context.Context, runner, id string, on time.Time) error {
	tag, err := tx.Exec(ctx, `UPDATE consents SET ended_on = $3 WHERE runner_id = $1 AND id = $2 AND ended_on IS NULL AND on_date <= $3`, runner, id, on)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return translate(err)
}

// OwnQuestion is a safety question of the practice's own, as it is kept.
type OwnQuestion struct {
	ID   string    `db:"id"`
	Body []byte    `db:"body"`
	By   string    `db:"by"`
	At   time.Time `db:"at"`
}

// OwnQuestions returns those of the practice in the order they were added.
func (tx *Tx) OwnQuestions(ctx context.Context) ([]OwnQuestion, error) {
	return all[OwnQuestion](ctx, tx, `SELECT q.id, q.body, u.name AS by, q.at FROM own_questions q JOIN users u ON u.practice_id = q.practice_id AND u.id = q.by_user ORDER BY q.at, q.id`)
}

// AddOwnQuestion stores one; it stays for good.
func (tx *Tx) AddOwnQuestion(ctx context.Context, user, id string, body []byte, at time.Time) error {
	_, err := tx.Exec(ctx, `INSERT INTO own_questions (practice_id, id, body, by_user, at) VALUES ($1, $2, $3, $4, $5)`, tx.Practice, id, body, user, at)
	return translate(err)
}
