package store

import (
	"context"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
)

// Run is one run in its newest revision.
type Run struct {
	ID        string     `db:"id"`
	Rev       int        `db:"rev"`
	RunnerID  string     `db:"runner_id"`
	StartedAt *time.Time `db:"started_at"`
	On        time.Time  `db:"on_date"`
	Metres    int        `db:"metres"`
	Seconds   int        `db:"seconds"`
	Cadence   *float64   `db:"cadence"`
	Effort    *int       `db:"effort"`
	Footwear  string     `db:"footwear"`
	Surface   string     `db:"surface"`
	Shoe      string     `db:"shoe"`
	Fast      bool       `db:"fast"`
	Pain      *int       `db:"pain"`
	Zone      string     `db:"zone"`
	Side      string     `db:"side"`
	Limping   bool       `db:"limping"`
	Note      string     `db:"note"`
	Source    string     `db:"source"`
	Hash      string     `db:"hash"`
	Removed   bool       `db:"removed"`
	What      string     `db:"what"` // run or walk; a run where it is empty
	ImportID  *string    `db:"import_id"`
	Strike    string     `db:"strike"`
	BounceMm  *float64   `db:"bounce"` // by a device; it stands in the run's details
	Seq       int64      `db:"seq"`
	At        time.Time  `db:"at"`
}

const runColumns = `id, rev, runner_id, started_at, on_date, metres, seconds, cadence, effort::int, footwear, surface, shoe, fast, pain::int, zone, side,
	limping, note, source, hash, removed, what, import_id, strike,
	(SELECT (d.body->'dynamics'->>'oscillationMm')::float8 FROM run_details d WHERE d.practice_id = runs.practice_id AND d.run_id = runs.id) AS bounce, seq, at`

// RunRevs returns all revisions of a runner's runs from a date on, by date, oldest
// revision first. A revision that says it was a walk is one of a run that is not there.
func (tx *Tx) RunRevs(ctx context.Context, runner string, from time.Time) ([]Run, error) {
	return all[Run](ctx, tx, `SELECT `+strings.Replace(runColumns, " removed,", " removed OR what <> 'run' AS removed,", 1)+` FROM runs WHERE runner_id = $1 AND on_date >= $2 ORDER BY on_date, started_at NULLS LAST, id, rev`, runner, from)
}

// Runs returns a runner's outings in use from a date on, walks among them, oldest first.
func (tx *Tx) Runs(ctx context.Context, runner string, from time.Time) ([]Run, error) {
	return all[Run](ctx, tx, `SELECT * FROM (SELECT DISTINCT ON (id) `+runColumns+` FROM runs WHERE runner_id = $1 ORDER BY id, rev DESC) r
		WHERE NOT removed AND on_date >= $2 ORDER BY on_date, started_at NULLS LAST, id`, runner, from)
}

// Run returns the newest revision of a run, removed or not.
func (tx *Tx) Run(ctx context.Context, id string) (Run, error) {
	return one[Run](ctx, tx, `SELECT `+runColumns+` FROM runs WHERE id = $1 ORDER BY rev DESC LIMIT 1`, id)
}

// RunByContent returns the run a file was read into before, removed or not.
func (tx *Tx) RunByContent(ctx context.Context, runner, hash string) (Run, error) {
	var id string
	if err := tx.QueryRow(ctx, `SELECT id FROM runs WHERE runner_id = $1 AND hash = $2 AND rev = 1`, runner, hash).Scan(&id); err != nil {
		return Run{}, translate(err)
	}
	return tx.Run(ctx, id)
}

// PutRun stores a run: a new one where its id is empty, else its next revision.
// ErrConflict when somebody stored that revision first.
func (tx *Tx) PutRun(ctx context.Context, r Run, by string) (string, error) {
	rows, err := tx.Query(ctx, `INSERT INTO runs (practice_id, id, rev, runner_id, started_at, on_date, metres, seconds, cadence, effort, footwear, surface, shoe, fast,
		pain, zone, side, limping, note, source, hash, removed, what, import_id, strike, by_user)
		VALUES (@practice, coalesce(nullif(@id, '')::uuid, gen_random_uuid()), @rev, @runner, @start, @on, @metres, @seconds, @cadence, @effort, @footwear, @surface, @shoe, @fast,
		@pain, @zone, @side, @limping, @note, @source, @hash, @removed, coalesce(nullif(@what, ''), 'run'), @import, @strike, @by) RETURNING id`,
		pgx.NamedArgs{"practice": tx.Practice, "id": r.ID, "rev": r.Rev + 1, "runner": r.RunnerID, "start": r.StartedAt, "on": r.On, "metres": r.Metres, "seconds": r.Seconds,
			"cadence": r.Cadence, "effort": r.Effort, "footwear": r.Footwear, "surface": r.Surface, "shoe": r.Shoe, "fast": r.Fast, "pain": r.Pain, "zone": r.Zone, "side": r.Side,
			"limping": r.Limping, "note": r.Note, "source": r.Source, "hash": r.Hash, "removed": r.Removed, "what": r.What, "import": r.ImportID, "strike": r.Strike, "by": by})
	if err != nil {
		return "", translate(err)
	}
	id, err := pgx.CollectExactlyOneRow(rows, pgx.RowTo[string])
	return id, translate(err)
}

// PutTrack stores a run's track.
func (tx *Tx) PutTrack(ctx context.Context, run, runner string, points []byte) error {
	_, err := tx.Exec(ctx, `INSERT INTO run_tracks (practice_id, run_id, runner_id, points) VALUES ($1, $2, $3, $4) ON CONFLICT DO NOTHING`, tx.Practice, run, runner, points)
	return translate(err)
}

// Tracks returns the tracks of a runner's runs by run.
func (tx *Tx) Tracks(ctx context.Context, runner string) (map[string][]byte, error) {
	type row struct {
		Run    string `db:"run_id"`
		Points []byte `db:"points"`
	}
	list, err := all[row](ctx, tx, `SELECT run_id, points FROM run_tracks WHERE runner_id = $1`, runner)
	out := map[string][]byte{}
	for _, r := range list {
		out[r.Run] = r.Points
	}
	return out, err
}

// DayNote is what a day was like, as JSON.
type DayNote struct {
	On   time.Time `db:"on_date"`
	Rev  int       `db:"rev"`
	Body []byte    `db:"body"`
	Seq  int64     `db:"seq"`
	At   time.Time `db:"at"`
}

// DayNotes returns all revisions of a runner's notes from a date on, by date,
// oldest revision first.
func (tx *Tx) DayNotes(ctx context.Context, runner string, from time.Time) ([]DayNote, error) {
	return all[DayNote](ctx, tx, `SELECT on_date, rev, body, seq, at FROM day_notes WHERE runner_id = $1 AND on_date >= $2 ORDER BY on_date, rev`, runner, from)
}

// PutDayNote appends a note; a later one of the same date replaces it in use.
func (tx *Tx) PutDayNote(ctx context.Context, runner string, on time.Time, body []byte, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO day_notes (practice_id, runner_id, on_date, rev, body, by_user)
		SELECT $1, $2::uuid, $3::date, 1 + coalesce(max(rev), 0), $4, $5 FROM day_notes WHERE runner_id = $2::uuid AND on_date = $3::date`, tx.Practice, runner, on, body, by)
	return translate(err)
}

// Planned is the planned running of a week.
type Planned struct {
	Monday time.Time `db:"monday"`
	Metres int       `db:"metres"`
	Seq    int64     `db:"seq"`
	At     time.Time `db:"at"`
}

// PlannedWeeks returns the planned weeks from a Monday on.
func (tx *Tx) PlannedWeeks(ctx context.Context, runner string, from time.Time) ([]Planned, error) {
	return all[Planned](ctx, tx, `SELECT DISTINCT ON (monday) monday, metres, seq, at FROM planned_weeks WHERE runner_id = $1 AND monday >= $2 ORDER BY monday, rev DESC`, runner, from)
}

// PutPlannedWeek appends a plan of a week's running.
func (tx *Tx) PutPlannedWeek(ctx context.Context, runner string, p Planned, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO planned_weeks (practice_id, runner_id, monday, rev, metres, by_user)
		SELECT $1, $2::uuid, $3::date, 1 + coalesce(max(rev), 0), $4, $5 FROM planned_weeks WHERE runner_id = $2::uuid AND monday = $3::date`, tx.Practice, runner, p.Monday, p.Metres, by)
	return translate(err)
}

// CSVMapping returns how a table's columns were mapped before; ErrNotFound for
// never.
func (tx *Tx) CSVMapping(ctx context.Context, header string) ([]byte, error) {
	var b []byte
	err := tx.QueryRow(ctx, `SELECT body FROM csv_mappings WHERE header = $1 ORDER BY rev DESC LIMIT 1`, header).Scan(&b)
	return b, translate(err)
}

// KeepCSVMapping remembers how a table's columns are mapped.
func (tx *Tx) KeepCSVMapping(ctx context.Context, header string, body []byte, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO csv_mappings (practice_id, header, rev, body, by_user) SELECT $1, $2::text, 1 + coalesce(max(rev), 0), $3, $4 FROM csv_mappings WHERE header = $2::text`,
		tx.Practice, header, body, by)
	return translate(err)
}

// Review is the engine's nightly look at a runner.
type Review struct {
	RunnerID string    `db:"runner_id"`
	On       time.Time `db:"on_date"`
	At       time.Time `db:"at"`
	Engine   int       `db:"engine"`
	Body     []byte    `db:"body"`
}

// AddReview stores a review; false where that day was reviewed already.
func (tx *Tx) AddReview(ctx context.Context, r Review) (bool, error) {
	tag, err := tx.Exec(ctx, `INSERT INTO reviews (practice_id, runner_id, on_date, at, engine, body) VALUES ($1, $2, $3, $4, $5, $6) ON CONFLICT DO NOTHING`,
		tx.Practice, r.RunnerID, r.On, r.At, r.Engine, r.Body)
	return tag.RowsAffected() == 1, translate(err)
}

// PutState stores what the bench shows of a runner.
func (tx *Tx) PutState(ctx context.Context, runner string, body []byte) error {
	_, err := tx.Exec(ctx, `INSERT INTO runner_states (practice_id, runner_id, body) VALUES ($1, $2, $3) ON CONFLICT (practice_id, runner_id) DO UPDATE SET body = excluded.body`,
		tx.Practice, runner, body)
	return translate(err)
}

// State returns what the bench shows of a runner; ErrNotFound for nothing yet.
func (tx *Tx) State(ctx context.Context, runner string) ([]byte, error) {
	var b []byte
	err := tx.QueryRow(ctx, `SELECT body FROM runner_states WHERE runner_id = $1`, runner).Scan(&b)
	return b, translate(err)
}

// Reviewed reports whether a coach went through a runner's week.
func (tx *Tx) Reviewed(ctx context.Context, runner string, monday time.Time) (bool, error) {
	var ok bool
	err := tx.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM reviews_done WHERE runner_id = $1 AND monday = $2)`, runner, monday).Scan(&ok)
	return ok, err
}

// MarkReviewed notes that a coach went through a runner's week.
func (tx *Tx) MarkReviewed(ctx context.Context, runner string, monday time.Time, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO reviews_done (practice_id, runner_id, monday, by_user) VALUES ($1, $2, $3, $4) ON CONFLICT DO NOTHING`, tx.Practice, runner, monday, by)
	return translate(err)
}

// Practices lists all practices' ids, for work that goes through all of them.
func (s *Store) Practices(ctx context.Context) ([]string, error) {
	rows, err := s.db.Query(ctx, `SELECT practice_ids()`)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}

// DueReviews lists runners with a present block that were not reviewed on a day
// yet, in a fixed order, after the one given.
func (tx *Tx) DueReviews(ctx context.Context, on time.Time, after string, limit int) ([]string, error) {
	rows, err := tx.Query(ctx, `SELECT b.runner_id FROM blocks b WHERE b.ended_at IS NULL AND b.start_on <= $1
		AND NOT EXISTS (SELECT 1 FROM runners r WHERE r.practice_id = b.practice_id AND r.id = b.runner_id AND r.archived_at IS NOT NULL)
		AND NOT EXISTS (SELECT 1 FROM reviews v WHERE v.practice_id = b.practice_id AND v.runner_id = b.runner_id AND v.on_date = $1)
		AND b.runner_id > coalesce(nullif($2, '')::uuid, '00000000-0000-0000-0000-000000000000') ORDER BY b.runner_id LIMIT $3`, on, after, limit)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}

// CurrentBlocks lists all present blocks of the practice.
func (tx *Tx) CurrentBlocks(ctx context.Context) ([]Block, error) {
	return all[Block](ctx, tx, `SELECT `+blockColumns+` FROM blocks WHERE ended_at IS NULL ORDER BY runner_id`)
}

// LockRunner makes others who write to a runner's record wait until the
// transaction ends, so that arrivals are decided in their order.
func (tx *Tx) LockRunner(ctx context.Context, runner string) error {
	_, err := tx.Exec(ctx, `SELECT pg_advisory_xact_lock(hashtextextended($1, 42))`, tx.Practice+runner)
	return err
}

// TryLockRunner keeps other transactions from reviewing a runner; false when
// one is at it.
func (tx *Tx) TryLockRunner(ctx context.Context, runner string) (bool, error) {
	var ok bool
	err := tx.QueryRow(ctx, `SELECT pg_try_advisory_xact_lock(hashtextextended($1, 42))`, tx.Practice+runner).Scan(&ok)
	return ok, err
}

// EngineOf returns the edition of the engine a practice lets work by itself; 0
// where none was noted.
func (tx *Tx) EngineOf(ctx context.Context) (int, error) {
	var v int
	err := tx.QueryRow(ctx, `SELECT coalesce(max(engine), 0) FROM practice_engine`).Scan(&v)
	return v, err
}

// AcceptEngine notes that a practice lets an edition of the engine work.
func (tx *Tx) AcceptEngine(ctx context.Context, engine int, by *string) error {
	_, err := tx.Exec(ctx, `INSERT INTO practice_engine (practice_id, engine, by_user) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING`, tx.Practice, engine, by)
	return translate(err)
}

// SetAutoProgress says whether a runner's steps up go by themselves.
func (tx *Tx) SetAutoProgress(ctx context.Context, runner string, on bool) error {
	tag, err := tx.Exec(ctx, `UPDATE runners SET auto_progress = $2 WHERE id = $1`, runner, on)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return translate(err)
}

// SetLanguage says in which language a runner reads.
func (tx *Tx) SetLanguage(ctx context.Context, runner, language string) error {
	tag, err := tx.Exec(ctx, `UPDATE runners SET language = $2 WHERE id = $1`, runner, language)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return translate(err)
}

// PutUnreviewed keeps why a runner could not be reviewed.
func (tx *Tx) PutUnreviewed(ctx context.Context, runner string, on time.Time, why string, at time.Time) error {
	_, err := tx.Exec(ctx, `INSERT INTO unreviewed (practice_id, runner_id, on_date, why, at) VALUES ($1, $2, $3, $4, $5)
		ON CONFLICT (practice_id, runner_id) DO UPDATE SET on_date = $3, why = $4, at = $5`, tx.Practice, runner, on, why, at)
	return translate(err)
}

// DropUnreviewed forgets it: the runner could be.
func (tx *Tx) DropUnreviewed(ctx context.Context, runner string) error {
	_, err := tx.Exec(ctx, `DELETE FROM unreviewed WHERE runner_id = $1`, runner)
	return err
}
