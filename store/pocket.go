package store

import (
	"context"
	"errors"
	"time"
)

// PocketLink is a way in for a runner's phone.
type PocketLink struct {
	ID        string     `db:"id"`
	RunnerID  string     `db:"runner_id"`
	ByUser    string     `db:"by_user"`
	At        time.Time  `db:"at"`
	Until     time.Time  `db:"until"`
	RevokedAt *time.Time `db:"revoked_at"`
	Devices   int        `db:"devices"`
}

// PocketDevice is a phone that came in.
type PocketDevice struct {
	ID        string     `db:"id"`
	RunnerID  string     `db:"runner_id"`
	Name      string     `db:"name"`
	At        time.Time  `db:"at"`
	SeenAt    time.Time  `db:"seen_at"`
	ClockOff  *int       `db:"clock_off"`
	Version   string     `db:"version"`
	ToldAt    *time.Time `db:"told_at"`
	RevokedAt *time.Time `db:"revoked_at"`
	RevokedBy string     `db:"revoked_by"`
}

// PocketReport is what a phone reported, as it came, with what became of it.
type PocketReport struct {
	ID         string     `db:"id"`
	RunnerID   string     `db:"runner_id"`
	DeviceID   string     `db:"device_id"`
	Seq        int64      `db:"seq"`
	Kind       string     `db:"kind"`
	On         time.Time  `db:"on_date"`
	MadeAt     time.Time  `db:"made_at"`
	Zone       string     `db:"zone"`
	Body       []byte     `db:"body"`
	ReceivedAt time.Time  `db:"received_at"`
	Late       bool       `db:"late"`
	State      string     `db:"state"`
	Why        string     `db:"why"`
	ToldAt     *time.Time `db:"told_at"`
}

// PocketNote is a word from a coach to a runner, or back.
type PocketNote struct {
	ID       string     `db:"id"`
	ByRunner bool       `db:"by_runner"`
	By       string     `db:"by_name"`
	Words    string     `db:"words"`
	At       time.Time  `db:"at"`
	ReadAt   *time.Time `db:"read_at"`
}

const linkColumns = `l.id, l.runner_id, l.by_user, l.at, l.until, l.revoked_at, (SELECT count(*)::int FROM pocket_devices d WHERE d.practice_id = l.practice_id AND d.link_id = l.id) AS devices`

// PocketLinkOwner finds whose link a token is; ErrNotFound for none that stands.
func (s *Store) PocketLinkOwner(ctx context.Context, hash []byte) (practice, runner, link string, err error) {
	err = s.db.QueryRow(ctx, `SELECT practice_id, runner_id, id FROM pocket_link($1)`, hash).Scan(&practice, &runner, &link)
	return practice, runner, link, translate(err)
}

// PocketDeviceOwner finds whose device a secret is; ErrNotFound for none that stands.
func (s *Store) PocketDeviceOwner(ctx context.Context, hash []byte) (practice, runner, device string, err error) {
	err = s.db.QueryRow(ctx, `SELECT practice_id, runner_id, id FROM pocket_device($1)`, hash).Scan(&practice, &runner, &device)
	return practice, runner, device, translate(err)
}

// AddPocketLink keeps a way in until a time, by the hash of its token.
func (tx *Tx) AddPocketLink(ctx context.Context, runner string, hash []byte, by string, at, until time.Time) error {
	_, err := tx.Exec(ctx, `INSERT INTO pocket_links (practice_id, runner_id, token_hash, by_user, at, until) VALUES ($1, $2, $3, $4, $5, $6)`, tx.Practice, runner, hash, by, at, until)
	return translate(err)
}

// PocketLinks lists a runner's links, newest first.
func (tx *Tx) PocketLinks(ctx context.Context, runner string) ([]PocketLink, error) {
	return all[PocketLink](ctx, tx, `SELECT `+linkColumns+` FROM pocket_links l WHERE l.runner_id = $1 ORDER BY l.at DESC, l.id`, runner)
}

// HoldPocketLink returns a link and keeps others from it until the transaction ends.
func (tx *Tx) HoldPocketLink(ctx context.Context, id string) (PocketLink, error) {
	if _, err := tx.Exec(ctx, `SELECT pg_advisory_xact_lock(hashtextextended('pocket link ' || $1, 0))`, id); err != nil {
		return PocketLink{}, err
	}
	return one[PocketLink](ctx, tx, `SELECT `+linkColumns+` FROM pocket_links l WHERE l.id = $1`, id)
}

// RevokePocketLinks ends all of a runner's links.
func (tx *Tx) RevokePocketLinks(ctx context.Context, runner string, at time.Time) error {
	_, err := tx.Exec(ctx, `UPDATE pocket_links SET revoked_at = $2 WHERE runner_id = $1 AND revoked_at IS NULL`, runner, at)
	return translate(err)
}

// AddPocketDevice lets a phone in by the hash of its secret, with the words agreed to.
func (tx *Tx) AddPocketDevice(ctx context.Context, runner, link, name, consent string, hash []byte, at time.Time) (id string, err error) {
	err = tx.QueryRow(ctx, `INSERT INTO pocket_devices (practice_id, runner_id, link_id, secret_hash, name, consent, at, seen_at) VALUES ($1, $2, $3, $4, $5, $6, $7, $7) RETURNING id`,
		tx.Practice, runner, link, hash, name, consent, at).Scan(&id)
	return id, translate(err)
}

const deviceColumns = `id, runner_id, name, at, seen_at, clock_off, version, told_at, revoked_at, revoked_by`

// PocketDevices lists a runner's phones, newest first, those that are out too.
func (tx *Tx) PocketDevices(ctx context.Context, runner string) ([]PocketDevice, error) {
	return all[PocketDevice](ctx, tx, `SELECT `+deviceColumns+` FROM pocket_devices WHERE runner_id = $1 ORDER BY at DESC, id`, runner)
}

// PocketDevice returns one phone.
func (tx *Tx) PocketDevice(ctx context.Context, id string) (PocketDevice, error) {
	return one[PocketDevice](ctx, tx, `SELECT `+deviceColumns+` FROM pocket_devices WHERE id = $1`, id)
}

// SeePocketDevice notes when a phone was heard of, how far its clock is off in
// seconds, and which edition of the application it runs.
func (tx *Tx) SeePocketDevice(ctx context.Context, id string, at time.Time, off *int, version string) error {
	_, err := tx.Exec(ctx, `UPDATE pocket_devices SET seen_at = $2, clock_off = coalesce($3, clock_off), version = CASE WHEN $4 = '' THEN version ELSE $4 END WHERE id = $1`, id, at, off, version)
	return translate(err)
}

// RevokePocketDevice ends a runner's phone; ErrNotFound where it is not theirs.
func (tx *Tx) RevokePocketDevice(ctx context.Context, runner, id, by string, at time.Time) error {
	tag, err := tx.Exec(ctx, `UPDATE pocket_devices SET revoked_at = coalesce(revoked_at, $4), revoked_by = CASE WHEN revoked_by = '' THEN $3 ELSE revoked_by END WHERE id = $2 AND runner_id = $1`, runner, id, by, at)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return translate(err)
}

// TellPocketDevices notes that the coach has seen a runner's new phones.
func (tx *Tx) TellPocketDevices(ctx context.Context, runner string, at time.Time) error {
	_, err := tx.Exec(ctx, `UPDATE pocket_devices SET told_at = $2 WHERE runner_id = $1 AND told_at IS NULL`, runner, at)
	return translate(err)
}

// AddPocketReport keeps a report as it came; false where it is there already.
func (tx *Tx) AddPocketReport(ctx context.Context, r PocketReport) (bool, error) {
	tag, err := tx.Exec(ctx, `INSERT INTO pocket_reports (practice_id, id, runner_id, device_id, kind, on_date, made_at, zone, body, received_at, late, state, why)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13) ON CONFLICT DO NOTHING`,
		tx.Practice, r.ID, r.RunnerID, r.DeviceID, r.Kind, r.On, r.MadeAt, r.Zone, r.Body, r.ReceivedAt, r.Late, r.State, r.Why)
	return err == nil && tag.RowsAffected() == 1, translate(err)
}

const reportColumns = `id, runner_id, device_id, seq, kind, on_date, made_at, zone, body, received_at, late, state, why, told_at`

// PocketReport returns one report; ErrNotFound for none.
func (tx *Tx) PocketReport(ctx context.Context, id string) (PocketReport, error) {
	return one[PocketReport](ctx, tx, `SELECT `+reportColumns+` FROM pocket_reports WHERE id = $1`, id)
}

// PocketWaiting lists the reports of a runner of which nothing became yet, as they
// came in, most of them at the most.
func (tx *Tx) PocketWaiting(ctx context.Context, runner string, most int) ([]PocketReport, error) {
	return all[PocketReport](ctx, tx, `SELECT `+reportColumns+` FROM pocket_reports WHERE runner_id = $1 AND state = 'received' ORDER BY seq LIMIT $2`, runner, most)
}

// PocketRunnersWaiting lists the runners of whom reports wait.
func (tx *Tx) PocketRunnersWaiting(ctx context.Context) ([]string, error) {
	rows, err := tx.Query(ctx, `SELECT DISTINCT runner_id::text FROM pocket_reports WHERE state = 'received'`)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []string
	for rows.Next() {
		var id string
		if err := rows.Scan(&id); err != nil {
			return nil, err
		}
		out = append(out, id)
	}
	return out, rows.Err()
}

// PocketReports lists a runner's reports that came in since a time, newest first.
func (tx *Tx) PocketReports(ctx context.Context, runner string, since time.Time) ([]PocketReport, error) {
	return all[PocketReport](ctx, tx, `SELECT `+reportColumns+` FROM pocket_reports WHERE runner_id = $1 AND received_at >= $2 ORDER BY seq DESC LIMIT 200`, runner, since)
}

// ErrSettled says that somebody else was first with a report.
var ErrSettled = errors.New("the report was settled already")

// SettlePocketReport says what became of a report that waits; ErrSettled where
// somebody else was first.
func (tx *Tx) SettlePocketReport(ctx context.Context, id, state, why string) error {
	tag, err := tx.Exec(ctx, `UPDATE pocket_reports SET state = $2, why = $3 WHERE id = $1 AND state = 'received'`, id, state, why)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrSettled
	}
	return translate(err)
}

// TellPocketReports notes that the coach has seen a runner's reports.
func (tx *Tx) TellPocketReports(ctx context.Context, runner string, at time.Time) error {
	_, err := tx.Exec(ctx, `UPDATE pocket_reports SET told_at = $2 WHERE runner_id = $1 AND told_at IS NULL AND state <> 'received'`, runner, at)
	return translate(err)
}

// AddPocketNote keeps a word; by is the user's id, or the runner's own.
func (tx *Tx) AddPocketNote(ctx context.Context, runner string, byRunner bool, by, words string, at time.Time) error {
	_, err := tx.Exec(ctx, `INSERT INTO pocket_notes (practice_id, runner_id, by_runner, by_user, words, at) VALUES ($1, $2, $3, $4, $5, $6)`, tx.Practice, runner, byRunner, by, words, at)
	return translate(err)
}

// PocketNotes lists the last words between a runner and the coaches, newest first.
func (tx *Tx) PocketNotes(ctx context.Context, runner string, most int) ([]PocketNote, error) {
	return all[PocketNote](ctx, tx, `SELECT n.id, n.by_runner, coalesce(u.name, '') AS by_name, n.words, n.at, n.read_at FROM pocket_notes n LEFT JOIN users u ON u.id = n.by_user WHERE n.runner_id = $1 ORDER BY n.at DESC, n.id LIMIT $2`, runner, most)
}

// ReadPocketNotes marks as read what the other one wrote.
func (tx *Tx) ReadPocketNotes(ctx context.Context, runner string, byRunner bool, upTo, at time.Time) error {
	_, err := tx.Exec(ctx, `UPDATE pocket_notes SET read_at = $4 WHERE runner_id = $1 AND by_runner = $2 AND at <= $3 AND read_at IS NULL`, runner, byRunner, upTo, at)
	return translate(err)
}

// PutPocketFile keeps the file of a report until it was read.
func (tx *Tx) PutPocketFile(ctx context.Context, report string, data []byte) error {
	_, err := tx.Exec(ctx, `INSERT INTO pocket_files (practice_id, report_id, data) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING`, tx.Practice, report, data)
	return translate(err)
}

// PocketFile returns it; ErrNotFound where it was read already.
func (tx *Tx) PocketFile(ctx context.Context, report string) (data []byte, err error) {
	err = tx.QueryRow(ctx, `SELECT data FROM pocket_files WHERE report_id = $1`, report).Scan(&data)
	return data, translate(err)
}

// DropPocketFile takes it off: what is in it stands in the record, or can't be read.
func (tx *Tx) DropPocketFile(ctx context.Context, report string) error {
	_, err := tx.Exec(ctx, `DELETE FROM pocket_files WHERE report_id = $1`, report)
	return err
}
