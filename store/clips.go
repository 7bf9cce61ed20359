package store

import (
	"context"
	"time"
)

// Clip is a clip or photo of a screening.
type Clip struct {
	ID          string    `db:"id"`
	RunnerID    string    `db:"runner_id"`
	ScreeningID string    `db:"screening_id"`
	Name        string    `db:"name"`
	Size        int64     `db:"size"`
	Kind        string    `db:"kind"`
	Type        string    `db:"type"`
	Hash        string    `db:"hash"`
	Times       []float64 `db:"times"` // presentation times, s
	At          time.Time `db:"at"`
}

const clipColumns = `id, runner_id, screening_id, name, size, kind, type, hash, times, at`

// AddClip begins a clip.
func (tx *Tx) AddClip(ctx context.Context, c Clip, by string) (Clip, error) {
	return one[Clip](ctx, tx, `INSERT INTO clips (practice_id, runner_id, screening_id, name, size, by_user) VALUES ($1, $2, $3, $4, $5, $6) RETURNING `+clipColumns,
		tx.Practice, c.RunnerID, c.ScreeningID, c.Name, c.Size, by)
}

// FinishClip says what a clip turned out to be.
func (tx *Tx) FinishClip(ctx context.Context, c Clip) error {
	_, err := tx.Exec(ctx, `UPDATE clips SET kind = $2, type = $3, hash = $4, times = $5 WHERE id = $1`, c.ID, c.Kind, c.Type, c.Hash, c.Times)
	return translate(err)
}

// Clip returns one clip.
func (tx *Tx) Clip(ctx context.Context, id string) (Clip, error) {
	return one[Clip](ctx, tx, `SELECT `+clipColumns+` FROM clips WHERE id = $1`, id)
}

// Clips lists a screening's clips, oldest first.
func (tx *Tx) Clips(ctx context.Context, screening string) ([]Clip, error) {
	return all[Clip](ctx, tx, `SELECT `+clipColumns+` FROM clips WHERE screening_id = $1 ORDER BY at, name`, screening)
}

// ClipsOf lists a runner's finished clips, newest first.
func (tx *Tx) ClipsOf(ctx context.Context, runner string) ([]Clip, error) {
	return all[Clip](ctx, tx, `SELECT `+clipColumns+` FROM clips WHERE runner_id = $1 AND hash <> '' ORDER BY at DESC, name`, runner)
}

// DeleteClip removes a clip with its marks, and reports how many others still
// have the same content.
func (tx *Tx) DeleteClip(ctx context.Context, c Clip) (int, error) {
	if _, err := tx.Exec(ctx, `DELETE FROM clips WHERE id = $1`, c.ID); err != nil {
		return 0, err
	}
	var n int
	err := tx.QueryRow(ctx, `SELECT count(*) FROM clips WHERE hash = $1 AND hash <> ''`, c.Hash).Scan(&n)
	return n, err
}

// ClipMarks returns the marks of a clip in use; ErrNotFound before there are any.
func (tx *Tx) ClipMarks(ctx context.Context, clip string) (rev int, body []byte, err error) {
	err = tx.QueryRow(ctx, `SELECT rev, body FROM clip_marks WHERE clip_id = $1 ORDER BY rev DESC LIMIT 1`, clip).Scan(&rev, &body)
	return rev, body, translate(err)
}

// PutClipMarks appends marks after the revision that was read; ErrConflict where
// somebody else was first.
func (tx *Tx) PutClipMarks(ctx context.Context, clip string, read int, body []byte, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO clip_marks (practice_id, clip_id, rev, body, by_user) VALUES ($1, $2, $3, $4, $5)`, tx.Practice, clip, read+1, body, by)
	return translate(err)
}
