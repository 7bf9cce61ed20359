package store

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"
)

// Screening is one visit.
type Screening struct {
	ID         string     `db:"id"`
	RunnerID   string     `db:"runner_id"`
	On         time.Time  `db:"on_date"`
	Footwear   string     `db:"footwear"`
	Note       string     `db:"note"`
	FinishedAt *time.Time `db:"finished_at"`
	Finished   *int64     `db:"finished_seq"` // its place in the order of arrival
	Imported   bool       `db:"imported"`
}

const screeningColumns = `id, runner_id, on_date, footwear, note, finished_at, finished_seq, imported`

// AddScreening opens a screening and returns it with its id.
func (tx *Tx) AddScreening(ctx context.Context, s Screening, by string) (Screening, error) {
	return one[Screening](ctx, tx, `INSERT INTO screenings (practice_id, runner_id, on_date, footwear, note, by_user)
		VALUES ($1, $2, $3, $4, $5, $6) RETURNING `+screeningColumns, tx.Practice, s.RunnerID, s.On, s.Footwear, s.Note, by)
}

// Screening returns one screening.
func (tx *Tx) Screening(ctx context.Context, id string) (Screening, error) {
	return one[Screening](ctx, tx, `SELECT `+screeningColumns+` FROM screenings WHERE id = $1`, id)
}

// Screenings lists a runner's screenings, newest first.
func (tx *Tx) Screenings(ctx context.Context, runner string) ([]Screening, error) {
	return all[Screening](ctx, tx, `SELECT `+screeningColumns+` FROM screenings WHERE runner_id = $1 ORDER BY on_date DESC, created_at DESC`, runner)
}

// FinishScreening marks a screening as finished at the given moment.
func (tx *Tx) FinishScreening(ctx context.Context, id string, at time.Time) error {
	_, err := tx.Exec(ctx, `UPDATE screenings SET finished_at = coalesce(finished_at, $2), finished_seq = coalesce(finished_seq, nextval('arrivals')) WHERE id = $1`, id, at)
	return err
}

// Trial is the newest revision of one slot of a test.
type Trial struct {
	ScreeningID   string    `db:"screening_id"`
	Test          string    `db:"test"`
	Side          string    `db:"side"`
	Slot          int       `db:"slot"`
	Rev           int       `db:"rev"`
	Value         *float64  `db:"value"`
	Pain          *int      `db:"pain"`
	SharpPain     bool      `db:"sharp_pain"`
	Compensations []string  `db:"compensations"`
	BlockCm       *float64  `db:"block_cm"`
	LengthCm      *float64  `db:"length_cm"`
	AlongFloor    bool      `db:"along_floor"`
	Removed       bool      `db:"removed"`
	Count         *int      `db:"count_n"`
	Of            *int      `db:"of_n"`
	Resolution    *float64  `db:"resolution"`
	CrampAt       *int      `db:"cramp_at"`
	Seq           int64     `db:"seq"`
	At            time.Time `db:"at"`
}

// PutTrial appends a revision of a slot; earlier revisions stay.
func (tx *Tx) PutTrial(ctx context.Context, t Trial, by, reason string) error {
	_, err := tx.Exec(ctx, `INSERT INTO trials (practice_id, screening_id, test, side, slot, rev, value, pain, sharp_pain, compensations,
		block_cm, length_cm, along_floor, removed, reason, by_user, count_n, of_n, resolution, cramp_at)
		SELECT @practice, @screening, @test, @side, @slot,
			1 + coalesce(max(rev), 0), @value, @pain, @sharp, @comp, @block, @length, @floor, @removed, @reason, @by, @count, @of, @resolution, @cramp
		FROM trials WHERE screening_id = @screening AND test = @test AND side = @side AND slot = @slot`,
		pgx.NamedArgs{
			"practice": tx.Practice, "screening": t.ScreeningID, "test": t.Test, "side": t.Side, "slot": t.Slot, "value": t.Value,
			"pain": t.Pain, "sharp": t.SharpPain, "comp": t.Compensations, "block": t.BlockCm, "length": t.LengthCm,
			"floor": t.AlongFloor, "removed": t.Removed, "reason": reason, "by": by, "count": t.Count, "of": t.Of, "resolution": t.Resolution, "cramp": t.CrampAt,
		})
	return translate(err)
}

// Trials returns the newest revision of every slot that was not removed, of the
// given screenings.
func (tx *Tx) Trials(ctx context.Context, screenings ...string) ([]Trial, error) {
	return all[Trial](ctx, tx, `SELECT * FROM (
		SELECT DISTINCT ON (screening_id, test, side, slot) screening_id, test, side, slot::int, rev, value, pain::int, sharp_pain, compensations,
			block_cm, length_cm, along_floor, removed, count_n, of_n, resolution, cramp_at, seq, at
		FROM trials WHERE screening_id = ANY($1) ORDER BY screening_id, test, side, slot, rev DESC) t
		WHERE NOT removed ORDER BY screening_id, test, side, slot`, screenings)
}

// Part is the newest revision of something noted beside the trials.
type Part struct {
	ScreeningID string    `db:"screening_id"`
	Part        string    `db:"part"`
	Rev         int       `db:"rev"`
	Body        []byte    `db:"body"`
	Seq         int64     `db:"seq"`
	At          time.Time `db:"at"`
}

// PutPart appends a revision of a part. ErrConflict when rev is not the next
// one: someone else saved it meanwhile.
func (tx *Tx) PutPart(ctx context.Context, p Part, by string) error {
	tag, err := tx.Exec(ctx, `INSERT INTO screening_parts (practice_id, screening_id, part, rev, body, by_user)
		SELECT $1, $2::uuid, $3::text, $4, $5, $6
		WHERE $4 = 1 + coalesce((SELECT max(rev) FROM screening_parts WHERE screening_id = $2::uuid AND part = $3::text), 0)`,
		tx.Practice, p.ScreeningID, p.Part, p.Rev, p.Body, by)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrConflict
	}
	return translate(err)
}

// Parts returns the newest revision of every part of the given screenings.
func (tx *Tx) Parts(ctx context.Context, screenings ...string) ([]Part, error) {
	return all[Part](ctx, tx, `SELECT DISTINCT ON (screening_id, part) screening_id, part, rev, body, seq, at FROM screening_parts
		WHERE screening_id = ANY($1) ORDER BY screening_id, part, rev DESC`, screenings)
}

// Clearance is a clinician's word about a flag.
type Clearance struct {
	Flag    string    `db:"flag"`
	On      time.Time `db:"on_date"`
	Role    string    `db:"role"`
	Allowed string    `db:"allowed"`
	Until   time.Time `db:"until_date"`
	Seq     int64     `db:"seq"`
	At      time.Time `db:"at"`
}

// AddClearance stores a clearance.
func (tx *Tx) AddClearance(ctx context.Context, runner string, c Clearance, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO clearances (practice_id, runner_id, flag, on_date, role, allowed, until_date, by_user)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8)`, tx.Practice, runner, c.Flag, c.On, c.Role, c.Allowed, c.Until, by)
	return translate(err)
}

// Clearances lists a runner's clearances, newest first.
func (tx *Tx) Clearances(ctx context.Context, runner string) ([]Clearance, error) {
	return all[Clearance](ctx, tx, `SELECT flag, on_date, role, allowed, until_date, seq, at FROM clearances WHERE runner_id = $1 ORDER BY on_date DESC, at DESC`, runner)
}

// EyePair is one measurement taken twice by the same coach.
type EyePair struct {
	RunnerID string  `db:"runner_id"`
	Test     string  `db:"test"`
	First    float64 `db:"first"`
	Second   float64 `db:"second"`
}

// AddEyePair stores a pair of a coach.
func (tx *Tx) AddEyePair(ctx context.Context, user string, p EyePair) error {
	_, err := tx.Exec(ctx, `INSERT INTO eye_pairs (practice_id, user_id, runner_id, test, first, second) VALUES ($1, $2, $3, $4, $5, $6)`,
		tx.Practice, user, p.RunnerID, p.Test, p.First, p.Second)
	return translate(err)
}

// EyePairs lists a coach's pairs, oldest first.
func (tx *Tx) EyePairs(ctx context.Context, user string) ([]EyePair, error) {
	return all[EyePair](ctx, tx, `SELECT runner_id, test, first, second FROM eye_pairs WHERE user_id = $1 ORDER BY at`, user)
}
