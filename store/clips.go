package store

import (
	"context"
	"errors"
	"time"
)

// Clip is a clip or photo of a screening.
type Clip struct {
	ID          string     `db:"id"`
	RunnerID    string     `db:"runner_id"`
	ScreeningID string     `db:"screening_id"`
	Name        string     `db:"name"`
	Size        int64      `db:"size"`
	Kind        string     `db:"kind"`
	Type        string     `db:"type"`
	Hash        string     `db:"hash"`
	Times       []float64  `db:"times"` // presentation times, s
	Markers     []string   `db:"markers"`
	Rate        float64    `db:"rate"` // of a marker file, Hz
	Frames      int        `db:"frames"`
	Converted   bool       `db:"converted"`
	HasThumb    bool       `db:"has_thumb"`
	ProposedAt  *time.Time `db:"proposed_at"`
	At          time.Time  `db:"at"`
	State       ClipState  `db:"state"`
	By          string     `db:"by_user"`
	Share       float64    `db:"share"`   // of the turning, as last told
	Trouble     string     `db:"trouble"` // why it failed
	Print       string     `db:"print"`   // what its file looks like, "" where nobody said
}

// ClipState is where a clip is on its way.
type ClipState string

// The states.
const (
	ClipAnnounced  ClipState = "announced"
	ClipUploading  ClipState = "uploading"
	ClipUploaded   ClipState = "uploaded"   // whole; to be worked on
	ClipConverting ClipState = "converting" // by whoever holds the lease
	ClipFailed     ClipState = "failed"
	ClipReady      ClipState = "ready"
	ClipDeleting   ClipState = "deleting" // shown nowhere
)

const clipColumns = `id, runner_id, screening_id, name, size, kind, type, hash, times, markers, rate, frames, converted, thumb <> '' AS has_thumb, (SELECT l.at FROM clip_landmarks l WHERE l.practice_id = clips.practice_id AND l.clip_id = clips.id) AS proposed_at, at, state, by_user, share, trouble, print`

// AddClip begins a clip.
func (tx *Tx) AddClip(ctx context.Context, c Clip, by string) (Clip, error) {
	return one[Clip](ctx, tx, `INSERT INTO clips (practice_id, runner_id, screening_id, name, size, by_user, print) VALUES ($1, $2, $3, $4, $5, $6, $7) RETURNING `+clipColumns,
		tx.Practice, c.RunnerID, c.ScreeningID, c.Name, c.Size, by, c.Print)
}

// Uploading notes that the first bytes of a clip came.
func (tx *Tx) Uploading(ctx context.Context, id string) error {
	_, err := tx.Exec(ctx, `UPDATE clips SET state = 'uploading' WHERE id = $1 AND state = 'announced'`, id)
	return err
}

// ClaimClip takes the lease of a whole upload: nobody else works on it until it runs
// out. ErrConflict where somebody does, or where there is nothing to work on.
func (tx *Tx) ClaimClip(ctx context.Context, id, by string, now, until time.Time) (Clip, error) {
	c, err := one[Clip](ctx, tx, `UPDATE clips SET state = 'converting', lease_by = $2, lease_until = $4, share = 0, trouble = ''
		WHERE id = $1 AND (state IN ('announced', 'uploading', 'uploaded', 'failed') OR state = 'converting' AND lease_until < $3) RETURNING `+clipColumns, id, by, now, until)
	if errors.Is(err, ErrNotFound) {
		return c, ErrConflict
	}
	return c, err
}

// RenewLease holds a lease for longer and tells how far the work is; false where it
// is somebody else's by now, or the clip is gone.
func (tx *Tx) RenewLease(ctx context.Context, id, by string, until time.Time, share float64) (bool, error) {
	t, err := tx.Exec(ctx, `UPDATE clips SET lease_until = $3, share = $4 WHERE id = $1 AND lease_by = $2 AND state = 'converting'`, id, by, until, share)
	return t.RowsAffected() == 1, err
}

// ReleaseClip gives a lease back: the clip is uploaded still, or failed because.
func (tx *Tx) ReleaseClip(ctx context.Context, id, by string, state ClipState, trouble string) error {
	_, err := tx.Exec(ctx, `UPDATE clips SET state = $3, lease_by = '', lease_until = NULL, trouble = $4 WHERE id = $1 AND lease_by = $2 AND state = 'converting'`, id, by, state, trouble)
	return translate(err)
}

// FinishClip says what a clip turned out to be, with a small picture of it, for
// whoever holds its lease; ErrConflict for anybody else.
func (tx *Tx) FinishClip(ctx context.Context, c Clip, thumb []byte, by string) error {
	t, err := tx.Exec(ctx, `UPDATE clips SET kind = $2, type = $3, hash = $4, times = $5, size = $6, markers = $7, rate = $8, frames = $9, converted = $10, thumb = $11,
		cleaned = $2 = 'photo', state = 'ready', lease_by = '', lease_until = NULL, share = 1, trouble = '' WHERE id = $1 AND state = 'converting' AND lease_by = $12`,
		c.ID, c.Kind, c.Type, c.Hash, c.Times, c.Size, c.Markers, c.Rate, c.Frames, c.Converted, thumb, by)
	if err == nil && t.RowsAffected() != 1 {
		return ErrConflict
	}
	return translate(err)
}

// DeletingClip takes a clip out of everything that is shown.
func (tx *Tx) DeletingClip(ctx context.Context, id string) error {
	_, err := tx.Exec(ctx, `UPDATE clips SET state = 'deleting', lease_by = '', lease_until = NULL WHERE id = $1`, id)
	return err
}

// LockContent keeps others from the file of a content until the transaction ends.
func (tx *Tx) LockContent(ctx context.Context, hash string) error {
	_, err := tx.Exec(ctx, `SELECT pg_advisory_xact_lock(hashtextextended($1, 43))`, tx.Practice+hash)
	return err
}

// ContentUsed reports how many clips have a content, those being deleted left out.
func (tx *Tx) ContentUsed(ctx context.Context, hash string) (n int, err error) {
	err = tx.QueryRow(ctx, `SELECT count(*) FROM clips WHERE hash = $1 AND hash <> '' AND state <> 'deleting'`, hash).Scan(&n)
	return n, err
}

// LeftClips lists what nobody works on and somebody should: whole uploads, leases
// that ran out, deletions that were not finished.
func (tx *Tx) LeftClips(ctx context.Context, now time.Time) ([]Clip, error) {
	return all[Clip](ctx, tx, `SELECT `+clipColumns+` FROM clips WHERE state IN ('uploaded', 'deleting') OR state = 'converting' AND lease_until < $1 ORDER BY at`, now)
}

// UncleanPhotos lists ready photos that still hold what a camera noted.
func (tx *Tx) UncleanPhotos(ctx context.Context, most int) ([]Clip, error) {
	return all[Clip](ctx, tx, `SELECT `+clipColumns+` FROM clips WHERE kind = 'photo' AND NOT cleaned AND state = 'ready' ORDER BY at LIMIT $1`, most)
}

// CleanPhoto puts a photo's new content in the place of the one it had; ErrConflict
// where it has another by now.
func (tx *Tx) CleanPhoto(ctx context.Context, c Clip, was string) error {
	t, err := tx.Exec(ctx, `UPDATE clips SET hash = $2, size = $3, type = $4, cleaned = true WHERE id = $1 AND hash = $5 AND state = 'ready'`, c.ID, c.Hash, c.Size, c.Type, was)
	if err == nil && t.RowsAffected() != 1 {
		return ErrConflict
	}
	return translate(err)
}

// AllClips lists every clip of the practice, those being deleted too.
func (tx *Tx) AllClips(ctx context.Context) ([]Clip, error) {
	return all[Clip](ctx, tx, `SELECT `+clipColumns+` FROM clips`)
}

// ClipThumb is the small picture of a clip, empty where there is none.
func (tx *Tx) ClipThumb(ctx context.Context, id string) (b []byte, err error) {
	err = tx.QueryRow(ctx, `SELECT thumb FROM clips WHERE id = $1`, id).Scan(&b)
	return b, translate(err)
}

// MarkedLike returns the newest marks of a marker file of the practice that has the
// same markers; ErrNotFound where there is none.
func (tx *Tx) MarkedLike(ctx context.Context, markers []string) (body []byte, err error) {
	err = tx.QueryRow(ctx, `SELECT m.body FROM clip_marks m JOIN clips c ON c.practice_id = m.practice_id AND c.id = m.clip_id WHERE c.kind = 'markers' AND c.markers = $1 ORDER BY m.at DESC LIMIT 1`, markers).Scan(&body)
	return body, translate(err)
}

// Abandoned lists uploads that were begun before a moment and never finished.
func (tx *Tx) Abandoned(ctx context.Context, before time.Time) ([]Clip, error) {
	return all[Clip](ctx, tx, `SELECT `+clipColumns+` FROM clips WHERE state IN ('announced', 'uploading', 'failed') AND at < $1 ORDER BY at`, before)
}

// PutLandmarks keeps what was proposed for a clip in place of what was before.
func (tx *Tx) PutLandmarks(ctx context.Context, clip string, body []byte, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO clip_landmarks (practice_id, clip_id, body, by_user) VALUES ($1, $2, $3, $4)
		ON CONFLICT (practice_id, clip_id) DO UPDATE SET body = $3, by_user = $4, at = now()`, tx.Practice, clip, body, by)
	return translate(err)
}

// Landmarks returns what was proposed for a clip; ErrNotFound where nothing was.
func (tx *Tx) Landmarks(ctx context.Context, clip string) (body []byte, err error) {
	err = tx.QueryRow(ctx, `SELECT body FROM clip_landmarks WHERE clip_id = $1`, clip).Scan(&body)
	return body, translate(err)
}

// Origin is where a trial's value comes from.
type Origin struct {
	Test    string  `db:"test"`
	Side    string  `db:"side"`
	Slot    int     `db:"slot"`
	Made    string  `db:"made"`
	Margin  float64 `db:"margin"`
	Mark    string  `db:"mark"` // of which clip and moment
	Picture bool    `db:"picture"`
}

// PutOrigin keeps where a trial's value comes from, with the picture.
func (tx *Tx) PutOrigin(ctx context.Context, screening string, o Origin, png []byte, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO trial_origins (practice_id, screening_id, test, side, slot, made, margin, body, by_user, mark) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)
		ON CONFLICT (practice_id, screening_id, test, side, slot) DO UPDATE SET made = $6, margin = $7, body = $8, by_user = $9, mark = $10, at = now()`,
		tx.Practice, screening, o.Test, o.Side, o.Slot, o.Made, o.Margin, png, by, o.Mark)
	return translate(err)
}

// TrialPicture returns the picture of a trial; empty where it has none.
func (tx *Tx) TrialPicture(ctx context.Context, t Trial) (png []byte, err error) {
	err = tx.QueryRow(ctx, `SELECT body FROM trial_origins WHERE screening_id = $1 AND test = $2 AND side = $3 AND slot = $4`, t.ScreeningID, t.Test, t.Side, t.Slot).Scan(&png)
	return png, translate(err)
}

// DropOrigin forgets where a trial's value came from.
func (tx *Tx) DropOrigin(ctx context.Context, t Trial) error {
	_, err := tx.Exec(ctx, `DELETE FROM trial_origins WHERE screening_id = $1 AND test = $2 AND side = $3 AND slot = $4`, t.ScreeningID, t.Test, t.Side, t.Slot)
	return translate(err)
}

// Origins lists where the trials of a screening come from, as far as it is known.
func (tx *Tx) Origins(ctx context.Context, screening string) ([]Origin, error) {
	return all[Origin](ctx, tx, `SELECT test, side, slot::int, made, margin, mark, body <> '' AS picture FROM trial_origins WHERE screening_id = $1 ORDER BY test, side, slot`, screening)
}

// Clip returns one clip.
func (tx *Tx) Clip(ctx context.Context, id string) (Clip, error) {
	return one[Clip](ctx, tx, `SELECT `+clipColumns+` FROM clips WHERE id = $1 AND state <> 'deleting'`, id)
}

// Clips lists a screening's clips, oldest first.
func (tx *Tx) Clips(ctx context.Context, screening string) ([]Clip, error) {
	return all[Clip](ctx, tx, `SELECT `+clipColumns+` FROM clips WHERE screening_id = $1 AND state <> 'deleting' ORDER BY at, name`, screening)
}

// ClipsOf lists a runner's finished clips, newest first.
func (tx *Tx) ClipsOf(ctx context.Context, runner string) ([]Clip, error) {
	return all[Clip](ctx, tx, `SELECT `+clipColumns+` FROM clips WHERE runner_id = $1 AND state = 'ready' ORDER BY at DESC, name`, runner)
}

// ClipsEver lists all of a runner's clips, whatever their state.
func (tx *Tx) ClipsEver(ctx context.Context, runner string) ([]Clip, error) {
	return all[Clip](ctx, tx, `SELECT `+clipColumns+` FROM clips WHERE runner_id = $1`, runner)
}

// DeleteClip removes a clip with its marks.
func (tx *Tx) DeleteClip(ctx context.Context, id string) error {
	_, err := tx.Exec(ctx, `DELETE FROM clips WHERE id = $1`, id)
	return err
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
