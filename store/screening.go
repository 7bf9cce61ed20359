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
}

const screeningColumns = `id, runner_id, on_date, footwear, note, finished_at`

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
	_, err := tx.Exec(ctx, `UPDATE screenings SET finished_at = coalesce(finished_at, $2) WHERE id = $1`, id, at)
	return err
}

// Trial is the newest revision of one slot of a test.
type Trial struct {
	ScreeningID   string   `db:"screening_id"`
	Test          string   `db:"test"`
	Side          string   `db:"side"`
	Slot          int      `db:"slot"`
	Rev           int      `db:"rev"`
	Value         *float64 `db:"value"`
	Pain          *int     `db:"pain"`
	SharpPain     bool     `db:"sharp_pain"`
	Compensations []string `db:"compensations"`
	BlockCm       *float64 `db:"block_cm"`
	LengthCm      *float64 `db:"length_cm"`
	AlongFloor    bool     `db:"along_floor"`
	Removed       bool     `db:"removed"`
}

// PutTrial appends a revision of a slot; earlier revisions stay.
func (tx *Tx) PutTrial(ctx context.Context, t Trial, by, reason string) error {
	_, err := tx.Exec(ctx, `INSERT INTO trials (practice_id, screening_id, test, side, slot, rev, value, pain, sharp_pain, compensations,
		block_cm, length_cm, along_floor, removed, reason, by_user)
		SELECT @practice, @screening, @test, @side, @slot,
			1 + coalesce(max(rev), 0), @value, @pain, @sharp, @comp, @block, @length, @floor, @removed, @reason, @by
		FROM trials WHERE screening_id = @screening AND test = @test AND side = @side AND slot = @slot`,
		pgx.NamedArgs{
			"practice": tx.Practice, "screening": t.ScreeningID, "test": t.Test, "side": t.Side, "slot": t.Slot, "value": t.Value,
			"pain": t.Pain, "sharp": t.SharpPain, "comp": t.Compensations, "block": t.BlockCm, "length": t.LengthCm,
			"floor": t.AlongFloor, "removed": t.Removed, "reason": reason, "by": by,
		})
	return translate(err)
}

// Trials returns the newest revision of every slot that was not removed, of the
// given screenings.
func (tx *Tx) Trials(ctx context.Context, screenings ...string) ([]Trial, error) {
	return all[Trial](ctx, tx, `SELECT * FROM (
		SELECT DISTINCT ON (screening_id, test, side, slot) screening_id, test, side, slot::int, rev, value, pain::int, sharp_pain, compensations,
			block_cm, length_cm, along_floor, removed
		FROM trials WHERE screening_id = ANY($1) ORDER BY screening_id, test, side, slot, rev DESC) t
		WHERE NOT removed ORDER BY screening_id, test, side, slot`, screenings)
}
