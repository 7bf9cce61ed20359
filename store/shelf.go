package store

import (
	"context"
	"time"
)

// Rev is one revision of a setting: the newest counts, older ones are kept.
type Rev struct {
	Rev  int       `db:"rev"`
	Body []byte    `db:"body"`
	At   time.Time `db:"at"`
}

// Wishes returns the newest wishes of a runner; ErrNotFound for none.
func (tx *Tx) Wishes(ctx context.Context, runner string) (Rev, error) {
	return one[Rev](ctx, tx, `SELECT rev, body, at FROM runner_wishes WHERE runner_id = $1 ORDER BY rev DESC LIMIT 1`, runner)
}

// PutWishes stores wishes after the revision that was read; ErrConflict when
// somebody else stored some in between.
func (tx *Tx) PutWishes(ctx context.Context, runner string, rev int, body []byte, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO runner_wishes (practice_id, runner_id, rev, body, by_user) VALUES ($1, $2, $3, $4, $5)`, tx.Practice, runner, rev+1, body, by)
	return translate(err)
}

// School returns the practice's newest answers; ErrNotFound for none.
func (tx *Tx) School(ctx context.Context) (Rev, error) {
	return one[Rev](ctx, tx, `SELECT rev, body, at FROM practice_schools ORDER BY rev DESC LIMIT 1`)
}

// PutSchool stores the practice's answers after the revision that was read.
func (tx *Tx) PutSchool(ctx context.Context, rev int, body []byte, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO practice_schools (practice_id, rev, body, by_user) VALUES ($1, $2, $3, $4)`, tx.Practice, rev+1, body, by)
	return translate(err)
}

// ShelfItem is an exercise or ladder of the practice's own, or its change or
// retirement of a built-in one.
type ShelfItem struct {
	Kind    string    `db:"kind"`
	Item    string    `db:"item"`
	Rev     int       `db:"rev"`
	Retired bool      `db:"retired"`
	Body    []byte    `db:"body"`
	At      time.Time `db:"at"`
}

// Shelf lists the newest revision of everything the practice laid over the
// built-in catalogue.
func (tx *Tx) Shelf(ctx context.Context) ([]ShelfItem, error) {
	return all[ShelfItem](ctx, tx, `SELECT DISTINCT ON (kind, item) kind, item, rev, retired, body, at FROM shelf_items ORDER BY kind, item, rev DESC`)
}

// PutShelf stores the next revision of an item.
func (tx *Tx) PutShelf(ctx context.Context, it ShelfItem, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO shelf_items (practice_id, kind, item, rev, retired, body, by_user) VALUES ($1, $2, $3, $4, $5, $6, $7)`,
		tx.Practice, it.Kind, it.Item, it.Rev+1, it.Retired, it.Body, by)
	return translate(err)
}

// BlockChanges lists the moves and edits of a block in order.
func (tx *Tx) BlockChanges(ctx context.Context, block string) ([]Rev, error) {
	return all[Rev](ctx, tx, `SELECT rev, body, at FROM block_changes WHERE block_id = $1 ORDER BY rev`, block)
}

// AddBlockChange stores the next move or edit of a block.
func (tx *Tx) AddBlockChange(ctx context.Context, block string, rev int, body []byte, at time.Time, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO block_changes (practice_id, block_id, rev, body, at, by_user) VALUES ($1, $2, $3, $4, $5, $6)`, tx.Practice, block, rev+1, body, at, by)
	return translate(err)
}

// Blocks lists a runner's blocks, newest first.
func (tx *Tx) Blocks(ctx context.Context, runner string) ([]Block, error) {
	return all[Block](ctx, tx, `SELECT `+blockColumns+` FROM blocks WHERE runner_id = $1 ORDER BY start_on DESC, created_at DESC`, runner)
}

// Zone returns the practice's time zone.
func (tx *Tx) Zone(ctx context.Context) (string, error) {
	var z string
	err := tx.QueryRow(ctx, `SELECT zone FROM practices WHERE id = $1`, tx.Practice).Scan(&z)
	return z, translate(err)
}

// Practice is what the sheets say of a practice, and what they reckon with.
type Practice struct {
	Name            string     `db:"name"`
	Zone            string     `db:"zone"`
	Contact         string     `db:"contact"`
	EmergencyNumber string     `db:"emergency_number"`
	EmergencyText   string     `db:"emergency_text"`
	PlateKg         float64    `db:"plate_kg"`
	Language        string     `db:"language"`
	Units           string     `db:"units"`
	StandIns        bool       `db:"stand_ins"`
	KeepYears       int        `db:"keep_years"`
	IdleMinutes     int        `db:"idle_minutes"`
	RetestWeeks     int        `db:"retest_weeks"`
	KeepSince       *time.Time `db:"keep_since"` // when KeepYears last changed
	Rev             int64      `db:"rev"`
}

// PracticeSelf returns the practice of the transaction.
func (tx *Tx) PracticeSelf(ctx context.Context) (Practice, error) {
	return one[Practice](ctx, tx, `SELECT name, zone, contact, emergency_number, emergency_text, plate_kg, language, units, stand_ins, keep_years, idle_minutes, retest_weeks, keep_since, rev FROM practices WHERE id = $1`, tx.Practice)
}

// PutPractice stores it on a day; ErrConflict when somebody changed it since.
func (tx *Tx) PutPractice(ctx context.Context, p Practice, on time.Time) error {
	tag, err := tx.Exec(ctx, `UPDATE practices SET name = $2, zone = $3, contact = $4, emergency_number = $5, emergency_text = $6, plate_kg = $7, language = $8, units = $14, stand_ins = $15, keep_years = $10, idle_minutes = $11, retest_weeks = $12, keep_since = CASE WHEN keep_years = $10 THEN keep_since ELSE $13::date END, rev = rev + 1 WHERE id = $1 AND rev = $9`,
		tx.Practice, p.Name, p.Zone, p.Contact, p.EmergencyNumber, p.EmergencyText, p.PlateKg, p.Language, p.Rev, p.KeepYears, p.IdleMinutes, p.RetestWeeks, on, p.Units, p.StandIns)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrConflict
	}
	return translate(err)
}
