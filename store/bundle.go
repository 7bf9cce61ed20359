package store

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"
)

// BundleTable is a table of a runner's record, in the order it is written.
type BundleTable struct {
	Name  string
	Kind  string // what its rows are called in references; "" for rows nobody refers to
	rows  string // from … order by …, with the runner as $1
	ByCol bool   // has by_user
}

// BundleTables lists the tables of a runner's record, each after those it
// refers to. What belongs to the practice or to its users is not among them.
var BundleTables = []BundleTable{
	{Name: "runners", Kind: "runner", rows: `runners t WHERE t.id = $1`},
	{Name: "runner_wishes", rows: `runner_wishes t WHERE t.runner_id = $1 ORDER BY t.rev`, ByCol: true},
	{Name: "screenings", Kind: "screening", rows: `screenings t WHERE t.runner_id = $1 ORDER BY t.on_date, t.created_at, t.footwear, t.note`, ByCol: true},
	{Name: "trials", rows: `trials t JOIN screenings s ON s.practice_id = t.practice_id AND s.id = t.screening_id WHERE s.runner_id = $1 ORDER BY s.on_date, s.created_at, t.test, t.side, t.slot, t.rev`, ByCol: true},
	{Name: "screening_parts", rows: `screening_parts t JOIN screenings s ON s.practice_id = t.practice_id AND s.id = t.screening_id WHERE s.runner_id = $1 ORDER BY s.on_date, s.created_at, t.part, t.rev`, ByCol: true},
	{Name: "clearances", rows: `clearances t WHERE t.runner_id = $1 ORDER BY t.on_date, t.at, t.flag`, ByCol: true},
	{Name: "blocks", Kind: "block", rows: `blocks t WHERE t.runner_id = $1 ORDER BY t.start_on, t.created_at`, ByCol: true},
	{Name: "prescriptions", Kind: "prescription", rows: `prescriptions t JOIN blocks b ON b.practice_id = t.practice_id AND b.id = t.block_id WHERE t.runner_id = $1 ORDER BY b.start_on, b.created_at, t.position, t.ladder`},
	{Name: "pegs", rows: `pegs t JOIN prescriptions p ON p.practice_id = t.practice_id AND p.id = t.prescription_id JOIN blocks b ON b.practice_id = p.practice_id AND b.id = p.block_id WHERE p.runner_id = $1 ORDER BY b.start_on, b.created_at, p.position, p.ladder, t.side`},
	{Name: "block_changes", rows: `block_changes t JOIN blocks b ON b.practice_id = t.practice_id AND b.id = t.block_id WHERE b.runner_id = $1 ORDER BY b.start_on, b.created_at, t.rev`, ByCol: true},
	{Name: "session_logs", Kind: "log", rows: `session_logs t JOIN blocks b ON b.practice_id = t.practice_id AND b.id = t.block_id WHERE t.runner_id = $1 ORDER BY b.start_on, b.created_at, t.on_date`, ByCol: true},
	{Name: "session_items", rows: `session_items t JOIN session_logs l ON l.practice_id = t.practice_id AND l.id = t.log_id JOIN prescriptions p ON p.practice_id = t.practice_id AND p.id = t.prescription_id JOIN blocks b ON b.practice_id = l.practice_id AND b.id = l.block_id WHERE l.runner_id = $1 ORDER BY b.start_on, b.created_at, l.on_date, p.position, p.ladder, t.side`},
	{Name: "mornings", rows: `mornings t WHERE t.runner_id = $1 ORDER BY t.on_date, t.zone, t.side, t.rev`, ByCol: true},
	{Name: "runs", Kind: "run", rows: `runs t WHERE t.runner_id = $1 ORDER BY t.on_date, t.started_at, t.hash, t.metres, t.seconds, t.note, t.rev`, ByCol: true},
	{Name: "run_tracks", rows: `run_tracks t JOIN runs r ON r.practice_id = t.practice_id AND r.id = t.run_id AND r.rev = 1 WHERE t.runner_id = $1 ORDER BY r.on_date, r.started_at, r.hash`},
	{Name: "run_details", rows: `run_details t JOIN runs r ON r.practice_id = t.practice_id AND r.id = t.run_id AND r.rev = 1 WHERE t.runner_id = $1 ORDER BY r.on_date, r.started_at, r.hash`},
	{Name: "day_notes", rows: `day_notes t WHERE t.runner_id = $1 ORDER BY t.on_date, t.rev`, ByCol: true},
	{Name: "planned_weeks", rows: `planned_weeks t WHERE t.runner_id = $1 ORDER BY t.monday, t.rev`, ByCol: true},
	{Name: "ramps", rows: `ramps t WHERE t.runner_id = $1 ORDER BY t.kind, t.rev`, ByCol: true},
	{Name: "ramp_events", rows: `ramp_events t WHERE t.runner_id = $1 ORDER BY t.on_date, t.kind, t.body::text`, ByCol: true},
	{Name: "ramp_dates", rows: `ramp_dates t WHERE t.runner_id = $1 ORDER BY t.rev`},
	{Name: "reviews", rows: `reviews t WHERE t.runner_id = $1 ORDER BY t.on_date`},
	{Name: "flags", rows: `flags t WHERE t.runner_id = $1 ORDER BY t.since, t.at, t.flag, t.side`},
	{Name: "decisions", Kind: "decision", rows: `decisions t WHERE t.runner_id = $1 ORDER BY t.ordinal`},
	{Name: "answers", rows: `answers t WHERE t.runner_id = $1 ORDER BY t.at, t.decision_key, t.kind`, ByCol: true},
	{Name: "course_states", rows: `course_states t JOIN blocks b ON b.practice_id = t.practice_id AND b.id = t.block_id WHERE b.runner_id = $1 ORDER BY b.start_on, b.created_at`},
	{Name: "journal", rows: `journal t WHERE t.runner_id = $1 ORDER BY t.at, t.kind, t.sentence, t.detail::text`},
}

// left out of a bundle: whose practice and user it was, and counters.
var notBundled = []string{"practice_id", "by_user", "answered_by", "seq", "finished_seq", "ordinal", "imported", "imported_at", "imported_from", "imported_digest", "import_id", "coach_id", "archived_at", "keep_until"}

// BundleRows returns a table's rows of one runner as JSON objects, in an order
// that does not depend on ids.
func (tx *Tx) BundleRows(ctx context.Context, t BundleTable, runner string) ([]map[string]any, error) {
	drop := notBundled
	if t.Name == "journal" {
		drop = append(slices.Clone(drop), "id")
	}
	rows, err := tx.Query(ctx, `SELECT to_jsonb(t) - $2::text[] FROM `+t.rows, runner, drop)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []map[string]any{}
	for rows.Next() {
		var raw []byte
		if err := rows.Scan(&raw); err != nil {
			return nil, err
		}
		m := map[string]any{}
		if err := json.Unmarshal(raw, &m); err != nil {
			return nil, err
		}
		out = append(out, m)
	}
	return out, rows.Err()
}

// BundleColumns returns the columns of a table that a bundle may fill.
func (tx *Tx) BundleColumns(ctx context.Context, t BundleTable) ([]string, error) {
	rows, err := tx.Query(ctx, `SELECT column_name::text FROM information_schema.columns WHERE table_schema = 'public' AND table_name = $1 AND column_name <> ALL($2::text[])`, t.Name, notBundled)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []string
	for rows.Next() {
		var c string
		if err := rows.Scan(&c); err != nil {
			return nil, err
		}
		out = append(out, c)
	}
	return out, rows.Err()
}

// Imported marks what a bundle brought as brought in.
func (tx *Tx) Imported(ctx context.Context, runner, from, digest string, at time.Time) error {
	_, err := tx.Exec(ctx, `UPDATE runners SET imported_at = $2, imported_from = $3, imported_digest = $4 WHERE id = $1`, runner, at, from, digest)
	return translate(err)
}

// ImportedAs returns the newest runner that a bundle was brought in as, and when;
// ErrNotFound for none.
func (tx *Tx) ImportedAs(ctx context.Context, digest string) (name string, at time.Time, err error) {
	err = tx.QueryRow(ctx, `SELECT name, imported_at FROM runners WHERE imported_digest = $1 AND imported_at IS NOT NULL ORDER BY imported_at DESC LIMIT 1`, digest).Scan(&name, &at)
	return name, at, translate(err)
}

// InsertBundleRow writes one row of a bundle, whose columns were checked
// against BundleColumns.
func (tx *Tx) InsertBundleRow(ctx context.Context, t BundleTable, row map[string]any, by string) error {
	row["practice_id"] = tx.Practice
	if t.ByCol {
		row["by_user"] = by
	}
	if t.Name == "screenings" || t.Name == "journal" {
		row["imported"] = true
	}
	cols := make([]string, 0, len(row))
	for c := range row {
		cols = append(cols, `"`+strings.ReplaceAll(c, `"`, ``)+`"`)
	}
	slices.Sort(cols)
	raw, err := json.Marshal(row)
	if err != nil {
		return err
	}
	list := strings.Join(cols, ", ")
	_, err = tx.Exec(ctx, fmt.Sprintf(`INSERT INTO %s (%s) SELECT %s FROM jsonb_populate_record(NULL::%s, $1::jsonb)`, t.Name, list, list, t.Name), raw)
	return translate(err)
}
