package store

import (
	"context"
	"time"
)

// RunImport is what came in at one go.
type RunImport struct {
	ID       string     `db:"id"`
	RunnerID string     `db:"runner_id"`
	At       time.Time  `db:"at"`
	Names    string     `db:"names"`
	Runs     int        `db:"runs"`
	UndoneAt *time.Time `db:"undone_at"`
}

const importColumns = `i.id, i.runner_id, i.at, i.names, i.undone_at, (SELECT count(DISTINCT r.id)::int FROM runs r WHERE r.practice_id = i.practice_id AND r.import_id = i.id) AS runs`

// PutRunImport begins an import, or adds a file's name to one that was begun.
func (tx *Tx) PutRunImport(ctx context.Context, id, runner, name, by string, at time.Time) error {
	tag, err := tx.Exec(ctx, `INSERT INTO run_imports AS i (practice_id, id, runner_id, at, by_user, names) VALUES ($1, $2, $3, $4, $5, $6)
		ON CONFLICT (practice_id, id) DO UPDATE SET names = left(i.names || ', ' || excluded.names, 2000) WHERE i.runner_id = excluded.runner_id AND i.undone_at IS NULL`, tx.Practice, id, runner, at, by, name)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrConflict
	}
	return translate(err)
}

// RunImports lists a runner's imports, newest first.
func (tx *Tx) RunImports(ctx context.Context, runner string, most int) ([]RunImport, error) {
	return all[RunImport](ctx, tx, `SELECT `+importColumns+` FROM run_imports i WHERE i.runner_id = $1 ORDER BY i.at DESC, i.id LIMIT $2`, runner, most)
}

// RunImport returns one.
func (tx *Tx) RunImport(ctx context.Context, id string) (RunImport, error) {
	return one[RunImport](ctx, tx, `SELECT `+importColumns+` FROM run_imports i WHERE i.id = $1`, id)
}

// UndoRunImport marks one as taken back.
func (tx *Tx) UndoRunImport(ctx context.Context, id string, at time.Time) error {
	_, err := tx.Exec(ctx, `UPDATE run_imports SET undone_at = $2 WHERE id = $1`, id, at)
	return translate(err)
}

// RunsOfImport returns what of an import is still in use, in its newest revision. What
// came in again with another one is that one's.
func (tx *Tx) RunsOfImport(ctx context.Context, id string) ([]Run, error) {
	return all[Run](ctx, tx, `SELECT * FROM (SELECT DISTINCT ON (id) `+runColumns+` FROM runs WHERE id IN (SELECT id FROM runs WHERE import_id = $1) ORDER BY id, rev DESC) r
		WHERE NOT removed AND import_id = $1 ORDER BY on_date, id`, id)
}

// RunDetails returns what devices recorded, by run.
func (tx *Tx) RunDetails(ctx context.Context, runner string) (map[string][]byte, error) {
	type row struct {
		Run  string `db:"run_id"`
		Body []byte `db:"body"`
	}
	list, err := all[row](ctx, tx, `SELECT run_id, body FROM run_details WHERE runner_id = $1`, runner)
	out := map[string][]byte{}
	for _, r := range list {
		out[r.Run] = r.Body
	}
	return out, err
}

// PutRunDetail stores what devices recorded of a run.
func (tx *Tx) PutRunDetail(ctx context.Context, run, runner string, body []byte) error {
	_, err := tx.Exec(ctx, `INSERT INTO run_details (practice_id, run_id, runner_id, body) VALUES ($1, $2, $3, $4)
		ON CONFLICT (practice_id, run_id) DO UPDATE SET body = excluded.body`, tx.Practice, run, runner, body)
	return translate(err)
}

// RunSources returns what was said of sources that do not name their outings.
func (tx *Tx) RunSources(ctx context.Context) (map[string]string, error) {
	type row struct {
		Source string `db:"source"`
		What   string `db:"what"`
	}
	list, err := all[row](ctx, tx, `SELECT source, what FROM run_sources`)
	out := map[string]string{}
	for _, r := range list {
		out[r.Source] = r.What
	}
	return out, err
}

// PutRunSource remembers what a source's outings are.
func (tx *Tx) PutRunSource(ctx context.Context, source, what, by string, at time.Time) error {
	_, err := tx.Exec(ctx, `INSERT INTO run_sources (practice_id, source, what, by_user, at) VALUES ($1, $2, $3, $4, $5)
		ON CONFLICT (practice_id, source) DO UPDATE SET what = excluded.what, by_user = excluded.by_user, at = excluded.at`, tx.Practice, source, what, by, at)
	return translate(err)
}

// Tracked says which of a runner's runs have a track.
func (tx *Tx) Tracked(ctx context.Context, runner string) (map[string]bool, error) {
	type row struct {
		Run string `db:"run_id"`
	}
	list, err := all[row](ctx, tx, `SELECT run_id FROM run_tracks WHERE runner_id = $1`, runner)
	out := map[string]bool{}
	for _, r := range list {
		out[r.Run] = true
	}
	return out, err
}
