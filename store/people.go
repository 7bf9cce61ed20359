package store

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"
)

// User is a signed-in person with the practice they belong to.
type User struct {
	ID       string `db:"id"`
	Email    string `db:"email"`
	Name     string `db:"name"`
	Role     string `db:"role"`
	Practice string `db:"practice"`
	Zone     string `db:"zone"`
	// Of the device the user is signed in on: when it was last used, and how long it may
	// stay unused.
	Seen        *time.Time `db:"seen_at"`
	IdleMinutes int        `db:"idle_minutes"`
	Units       string     `db:"units"`     // the practice's
	OwnUnits    string     `db:"own_units"` // empty where the practice's do
}

// User returns a user of the practice with the device that is named, "" for none; who has
// gone is not found.
func (tx *Tx) User(ctx context.Context, id, device string) (User, error) {
	return one[User](ctx, tx, `SELECT u.id, u.email, u.name, u.role, p.name AS practice, p.zone, d.seen_at, p.idle_minutes, p.units, u.units AS own_units
		FROM users u JOIN practices p ON p.id = u.practice_id
		LEFT JOIN user_devices d ON d.practice_id = u.practice_id AND d.user_id = u.id AND d.id = nullif($2, '')::uuid AND d.ended_at IS NULL
		WHERE u.id = $1 AND u.removed_at IS NULL`, id, device)
}

// Credentials is what a sign-in is checked against.
type Credentials struct {
	Practice string `db:"practice_id"`
	User     string `db:"id"`
	Hash     string `db:"password_hash"`
}

// Credentials finds a user by e-mail across practices; ErrNotFound for none.
func (s *Store) Credentials(ctx context.Context, email string) (Credentials, error) {
	rows, err := s.db.Query(ctx, `SELECT practice_id, id, password_hash FROM sign_in_lookup($1)`, email)
	if err != nil {
		return Credentials{}, err
	}
	c, err := pgx.CollectExactlyOneRow(rows, pgx.RowToStructByName[Credentials])
	return c, translate(err)
}

// Empty reports whether no practice exists yet.
func (s *Store) Empty(ctx context.Context) (bool, error) {
	var empty bool
	err := s.db.QueryRow(ctx, `SELECT is_empty()`).Scan(&empty)
	return empty, err
}

// FoundPractice creates the first practice with its owner; ErrConflict when one
// exists already.
func (s *Store) FoundPractice(ctx context.Context, practice, zone, name, email, hash string) (Credentials, error) {
	c := Credentials{Hash: hash}
	err := s.db.QueryRow(ctx, `SELECT practice_id, id FROM found_practice($1, $2, $3, $4, $5)`,
		practice, zone, name, email, hash).Scan(&c.Practice, &c.User)
	if errors.Is(err, pgx.ErrNoRows) {
		return c, ErrConflict
	}
	return c, translate(err)
}

// FoundUser adds a user to a practice that is being founded in this very transaction
// (see Whole); ErrConflict at any other time.
func (s *Store) FoundUser(ctx context.Context, practice, name, email, role, hash string) error {
	var id *string
	if err := s.db.QueryRow(ctx, `SELECT found_user($1, $2, $3, $4, $5)`, practice, name, email, role, hash).Scan(&id); err != nil {
		return translate(err)
	}
	if id == nil {
		return ErrConflict
	}
	return nil
}

// TrySignIn counts a try to sign in under a key and reports whether it may be made
// now. A key that failed often waits longer from one to the next; a try that may
// not be made does not count. Waits lists the pause after so many failures; the
// last holds for all further ones. The count starts again after the window.
func (s *Store) TrySignIn(ctx context.Context, key string, now time.Time, window time.Duration, waits []time.Duration) (wait time.Duration, err error) {
	secs := make([]float64, len(waits))
	for i, w := range waits {
		secs[i] = w.Seconds()
	}
	var until time.Time
	err = s.db.QueryRow(ctx, `INSERT INTO sign_in_failures AS f (key, failures, last_at) VALUES ($1, 1, $2)
		ON CONFLICT (key) DO UPDATE SET last_at = $2, failures = CASE WHEN f.last_at < $3 THEN 1 ELSE f.failures + 1 END
		WHERE f.last_at < $3 OR f.last_at + make_interval(secs => coalesce(($4::float8[])[least(f.failures, cardinality($4::float8[]))], 0)) <= $2
		RETURNING last_at`, key, now, now.Add(-window), secs).Scan(&until)
	if err == nil {
		return 0, nil
	}
	if !errors.Is(err, pgx.ErrNoRows) {
		return 0, err
	}
	err = s.db.QueryRow(ctx, `SELECT last_at + make_interval(secs => coalesce(($2::float8[])[least(failures, cardinality($2::float8[]))], 0)) FROM sign_in_failures WHERE key = $1`, key, secs).Scan(&until)
	if errors.Is(err, pgx.ErrNoRows) { // forgotten in between
		return time.Second, nil
	}
	return max(until.Sub(now), time.Second), err
}

// ForgetSignInFailures clears keys after a good sign-in.
func (s *Store) ForgetSignInFailures(ctx context.Context, keys ...string) error {
	_, err := s.db.Exec(ctx, `DELETE FROM sign_in_failures WHERE key = ANY($1)`, keys)
	return err
}

// Runner is a runner's record.
type Runner struct {
	ID                  string     `db:"id"`
	Name                string     `db:"name"`
	Birth               *time.Time `db:"birth"`
	Sex                 string     `db:"sex"`
	MassKg              *float64   `db:"mass_kg"`
	WeeklyKm            *float64   `db:"weekly_km"`
	Goal                string     `db:"goal"`
	Note                string     `db:"note"`
	FirstStructuredWork *bool      `db:"first_structured_work"`
	RecentVolumeRise    *bool      `db:"recent_volume_rise"`
	IntakeFirstStep     *int       `db:"intake_first_step"`
	AutoProgress        bool       `db:"auto_progress"`
	Language            string     `db:"language"` // empty is the practice's
	Version             int        `db:"version"`
	ImportedAt          *time.Time `db:"imported_at"`
	ImportedFrom        string     `db:"imported_from"`
}

const runnerColumns = `id, name, birth, sex, mass_kg, weekly_km, goal, note, first_structured_work,
	recent_volume_rise, intake_first_step, auto_progress, language, version, imported_at, imported_from`

func (r Runner) values() pgx.NamedArgs {
	return pgx.NamedArgs{
		"id": r.ID, "name": r.Name, "birth": r.Birth, "sex": r.Sex, "mass": r.MassKg, "km": r.WeeklyKm, "goal": r.Goal,
		"note": r.Note, "first": r.FirstStructuredWork, "rise": r.RecentVolumeRise, "intake": r.IntakeFirstStep, "language": r.Language, "version": r.Version,
	}
}

// AddRunner stores a new runner and returns it with its id.
func (tx *Tx) AddRunner(ctx context.Context, r Runner) (Runner, error) {
	a := r.values()
	a["practice"] = tx.Practice
	return one[Runner](ctx, tx, `INSERT INTO runners (practice_id, name, birth, sex, mass_kg, weekly_km, goal, note,
		first_structured_work, recent_volume_rise, intake_first_step, language)
		VALUES (@practice, @name, @birth, @sex, @mass, @km, @goal, @note, @first, @rise, @intake, @language) RETURNING `+runnerColumns, a)
}

// Runner returns one runner.
func (tx *Tx) Runner(ctx context.Context, id string) (Runner, error) {
	return one[Runner](ctx, tx, `SELECT `+runnerColumns+` FROM runners WHERE id = $1`, id)
}

// UpdateRunner stores a runner if its version is still the one given;
// ErrConflict when someone changed it since.
func (tx *Tx) UpdateRunner(ctx context.Context, r Runner) (Runner, error) {
	saved, err := one[Runner](ctx, tx, `UPDATE runners SET name = @name, birth = @birth, sex = @sex, mass_kg = @mass,
		weekly_km = @km, goal = @goal, note = @note, first_structured_work = @first, recent_volume_rise = @rise,
		intake_first_step = @intake, language = @language, version = version + 1, updated_at = now()
		WHERE id = @id AND version = @version RETURNING `+runnerColumns, r.values())
	if errors.Is(err, ErrNotFound) {
		if _, err := tx.Runner(ctx, r.ID); err != nil {
			return Runner{}, err
		}
		return Runner{}, ErrConflict
	}
	return saved, err
}

// BenchRow is one runner with what the bench needs to know.
type BenchRow struct {
	ID            string     `db:"id"`
	Name          string     `db:"name"`
	Goal          string     `db:"goal"`
	Birth         *time.Time `db:"birth"`
	LastScreening *time.Time `db:"last_screening"`
	OpenScreening *string    `db:"open_screening"`
	BlockID       *string    `db:"block_id"`
	BlockStart    *time.Time `db:"block_start"`
	BlockWeeks    *int       `db:"block_weeks"`
	LastLog       *time.Time `db:"last_log"`
	Proposed      int        `db:"proposed"`
	Halted        int        `db:"halted"`
	Flags         int        `db:"flags"`
	State         []byte     `db:"state"`
	Clearance     *time.Time `db:"clearance"`
	ClearanceFor  *string    `db:"clearance_for"`
	Reviewed      bool       `db:"reviewed"`
	Unreviewed    *string    `db:"unreviewed"`
	Heard         int        `db:"heard"`
	Screenings    int        `db:"screenings"`
	Clips         int        `db:"clips"`
	Complaints    []byte     `db:"complaints"`
	UsualStep     *int       `db:"usual_step"`
	KgNow         *float64   `db:"mass_kg"`
	WeeklyKm      *float64   `db:"weekly_km"`
	Coach         *string    `db:"coach_id"`
	Archived      *time.Time `db:"archived_at"`
}

// BenchDay is what a runner told of a morning and ran on a day.
type BenchDay struct {
	Runner    string    `db:"runner_id"`
	On        time.Time `db:"on_date"`
	FirstStep *int      `db:"first_step"`
	Metres    int       `db:"metres"`
}

// BenchDays lists the days with a reading or a run of several runners: the worst of a
// morning's places and the metres run.
func (tx *Tx) BenchDays(ctx context.Context, runners []string, from, to time.Time) ([]BenchDay, error) {
	return all[BenchDay](ctx, tx, `WITH m AS (
		SELECT runner_id, on_date, max(first_step)::int AS first_step FROM (
			SELECT DISTINCT ON (runner_id, on_date, zone, side) runner_id, on_date, first_step FROM mornings
			WHERE runner_id = ANY($1) AND on_date BETWEEN $2 AND $3 ORDER BY runner_id, on_date, zone, side, rev DESC) x
		GROUP BY runner_id, on_date),
	k AS (
		SELECT runner_id, on_date, sum(metres)::int AS metres FROM (
			SELECT DISTINCT ON (id) id, runner_id, on_date, metres, removed, what FROM runs
			WHERE runner_id = ANY($1) ORDER BY id, rev DESC) x
		WHERE NOT removed AND what = 'run' AND on_date BETWEEN $2 AND $3 GROUP BY runner_id, on_date)
	SELECT coalesce(m.runner_id, k.runner_id) AS runner_id, coalesce(m.on_date, k.on_date) AS on_date, m.first_step, coalesce(k.metres, 0)::int AS metres
	FROM m FULL JOIN k ON k.runner_id = m.runner_id AND k.on_date = m.on_date ORDER BY 1, 2`, runners, from, to)
}

// Bench lists the runners whose name matches by name with their open work, or one of them.
// today is the practice's date, reviewing the Monday of the week that is due.
func (tx *Tx) Bench(ctx context.Context, search string, runner *string, today, reviewing time.Time) ([]BenchRow, error) {
	return all[BenchRow](ctx, tx, `SELECT r.id, r.name, r.goal, r.birth,
		(SELECT max(on_date) FROM screenings s WHERE s.practice_id = r.practice_id AND s.runner_id = r.id AND finished_at IS NOT NULL) AS last_screening,
		(SELECT id FROM screenings s WHERE s.practice_id = r.practice_id AND s.runner_id = r.id AND finished_at IS NULL ORDER BY created_at DESC LIMIT 1) AS open_screening,
		b.id AS block_id, b.start_on AS block_start, b.weeks::int AS block_weeks,
		(SELECT max(on_date) FROM session_logs l WHERE l.practice_id = r.practice_id AND l.runner_id = r.id) AS last_log,
		(SELECT count(*) FROM decisions d JOIN prescriptions p ON p.practice_id = d.practice_id AND p.id = d.prescription_id
			WHERE d.practice_id = r.practice_id AND d.runner_id = r.id AND d.state = 'proposed' AND p.block_id = b.id) AS proposed,
		(SELECT count(*) FROM pegs g JOIN prescriptions p ON p.practice_id = g.practice_id AND p.id = g.prescription_id
			WHERE g.practice_id = r.practice_id AND p.block_id = b.id AND g.halt_row IS NOT NULL) AS halted,
		(SELECT count(*) FROM flags f WHERE f.practice_id = r.practice_id AND f.runner_id = r.id AND f.ended_on IS NULL) AS flags,
		st.body AS state, c.until AS clearance, c.flag AS clearance_for,
		EXISTS (SELECT 1 FROM reviews_done d WHERE d.practice_id = r.practice_id AND d.runner_id = r.id AND d.monday = $3) AS reviewed,
		(SELECT why FROM unreviewed u WHERE u.practice_id = r.practice_id AND u.runner_id = r.id) AS unreviewed,
		(SELECT count(*) FROM pocket_reports h WHERE h.practice_id = r.practice_id AND h.runner_id = r.id AND h.told_at IS NULL) AS heard,
		(SELECT count(*) FROM screenings s WHERE s.practice_id = r.practice_id AND s.runner_id = r.id) AS screenings,
		(SELECT count(*) FROM clips c WHERE c.practice_id = r.practice_id AND c.runner_id = r.id AND c.state = 'ready') AS clips,
		(SELECT t.body->'complaints' FROM screening_parts t JOIN screenings s ON s.practice_id = t.practice_id AND s.id = t.screening_id
			WHERE t.practice_id = r.practice_id AND s.runner_id = r.id AND t.part = 'talk' ORDER BY s.on_date DESC, s.created_at DESC, t.rev DESC LIMIT 1) AS complaints,
		r.intake_first_step AS usual_step, r.mass_kg, r.weekly_km, r.coach_id, r.archived_at
		FROM runners r LEFT JOIN runner_states st ON st.practice_id = r.practice_id AND st.runner_id = r.id
		LEFT JOIN LATERAL (SELECT c.until_date AS until, c.flag FROM clearances c WHERE c.practice_id = r.practice_id AND c.runner_id = r.id AND c.until_date BETWEEN $2 AND $2::date + 7 ORDER BY c.until_date LIMIT 1) c ON true LEFT JOIN blocks b ON b.practice_id = r.practice_id AND b.runner_id = r.id AND b.ended_at IS NULL
		WHERE r.name ILIKE '%' || $1 || '%' AND ($4::uuid IS NULL AND r.archived_at IS NULL OR r.id = $4) ORDER BY lower(r.name), r.id`, search, today, reviewing, runner)
}

// JournalEntry is one line of a runner's journal.
type JournalEntry struct {
	ID       int64     `db:"id"`
	At       time.Time `db:"at"`
	By       *string   `db:"by"`
	Kind     string    `db:"kind"`
	Sentence string    `db:"sentence"`
	Imported bool      `db:"imported"`
}

// Note appends to a runner's journal.
func (tx *Tx) Note(ctx context.Context, runner string, at time.Time, user *string, kind, sentence string, detail any) error {
	if detail == nil {
		detail = struct{}{}
	}
	_, err := tx.Exec(ctx, `INSERT INTO journal (practice_id, runner_id, at, by_user, kind, sentence, detail) VALUES ($1, $2, $3, $4, $5, $6, $7)`,
		tx.Practice, runner, at, user, kind, sentence, detail)
	return err
}

// Told is one of several lines for a runner's journal.
type Told struct {
	By             *string
	Kind, Sentence string
	Detail         any
}

// Notes appends lines to a runner's journal in their order.
func (tx *Tx) Notes(ctx context.Context, runner string, at time.Time, list []Told) error {
	if len(list) == 0 {
		return nil
	}
	set := make([]map[string]any, len(list))
	for i, t := range list {
		set[i] = map[string]any{"by": t.By, "kind": t.Kind, "sentence": t.Sentence, "detail": t.Detail}
		if t.Detail == nil {
			set[i]["detail"] = struct{}{}
		}
	}
	raw, err := json.Marshal(set)
	if err != nil {
		return err
	}
	_, err = tx.Exec(ctx, `INSERT INTO journal (practice_id, runner_id, at, by_user, kind, sentence, detail)
		SELECT $1, $2, $3, x.by, x.kind, x.sentence, x.detail
		FROM ROWS FROM (jsonb_to_recordset($4::jsonb) AS (by uuid, kind text, sentence text, detail jsonb)) WITH ORDINALITY AS x(by, kind, sentence, detail, n) ORDER BY n`, tx.Practice, runner, at, raw)
	return translate(err)
}

// Journal returns a runner's newest journal lines.
func (tx *Tx) Journal(ctx context.Context, runner string, limit int) ([]JournalEntry, error) {
	return all[JournalEntry](ctx, tx, `SELECT j.id, j.at, u.name AS by, j.kind, j.sentence, j.imported FROM journal j
		LEFT JOIN users u ON u.practice_id = j.practice_id AND u.id = j.by_user
		WHERE j.runner_id = $1 ORDER BY j.at DESC, j.id DESC LIMIT $2`, runner, limit)
}
