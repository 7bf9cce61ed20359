package store

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"
)

// Kind is what an address names: a record that belongs to one runner.
type Kind string

// The records that belong to one runner.
const (
	OfRunner    Kind = "runner"
	OfScreening Kind = "screening"
	OfBlock     Kind = "block"
	OfDecision  Kind = "decision"
	OfClip      Kind = "clip"
	OfRun       Kind = "run"
)

var runnerOf = map[Kind]string{
	OfRunner:    `SELECT id FROM runners WHERE id = $1`,
	OfScreening: `SELECT runner_id FROM screenings WHERE id = $1`,
	OfBlock:     `SELECT runner_id FROM blocks WHERE id = $1`,
	OfDecision:  `SELECT runner_id FROM decisions WHERE id = $1`,
	OfClip:      `SELECT runner_id FROM clips WHERE id = $1 AND state <> 'deleting'`,
	OfRun:       `SELECT runner_id FROM runs WHERE id = $1 LIMIT 1`,
}

// RunnerOf returns the runner whose record this is; ErrNotFound where there is no
// such record in the practice.
func (tx *Tx) RunnerOf(ctx context.Context, k Kind, id string) (runner string, err error) {
	err = tx.QueryRow(ctx, runnerOf[k], id).Scan(&runner)
	return runner, translate(err)
}

// Access is one line of the access log. A list has no runner, a calendar program
// no user.
type Access struct {
	Runner, User *string
	Action       string
	Refused      bool
	Key          string // the name of the program's key it was by
}

// LogAccess records who was let in to what, or was not. With lazy it may be lost
// with the machine's power, which saves a look at a record a wait for the disk.
func (tx *Tx) LogAccess(ctx context.Context, at time.Time, a Access, lazy bool) error {
	if lazy {
		if _, err := tx.Exec(ctx, `SET LOCAL synchronous_commit = off`); err != nil {
			return err
		}
	}
	_, err := tx.Exec(ctx, `INSERT INTO access_log (practice_id, runner_id, at, user_id, action, refused, by_key) VALUES ($1, $2, $3, $4, $5, $6, $7)`,
		tx.Practice, a.Runner, at, a.User, a.Action, a.Refused, a.Key)
	return translate(err)
}

// AccessRow is a line of the access log with its names.
type AccessRow struct {
	ID       int64     `db:"id"`
	At       time.Time `db:"at"`
	User     *string   `db:"user_name"`
	RunnerID *string   `db:"runner_id"`
	Runner   *string   `db:"runner_name"`
	Action   string    `db:"action"`
	Refused  bool      `db:"refused"`
	Key      string    `db:"by_key"`
}

// AccessFilter chooses lines of the access log; nil is everybody.
type AccessFilter struct {
	Runner, User *string
	Refused      bool // only what was refused
}

// Accesses lists the access log below an id, newest first.
func (tx *Tx) Accesses(ctx context.Context, f AccessFilter, below int64, most int) ([]AccessRow, error) {
	return all[AccessRow](ctx, tx, `SELECT a.id, a.at, u.name AS user_name, a.runner_id, r.name AS runner_name, a.action, a.refused, a.by_key FROM access_log a
		LEFT JOIN users u ON u.practice_id = a.practice_id AND u.id = a.user_id
		LEFT JOIN runners r ON r.practice_id = a.practice_id AND r.id = a.runner_id
		WHERE ($1::uuid IS NULL OR a.runner_id = $1) AND ($2 = 0 OR a.id < $2) AND ($4::uuid IS NULL OR a.user_id = $4) AND (NOT $5 OR a.refused) ORDER BY a.id DESC LIMIT $3`, f.Runner, below, most, f.User, f.Refused)
}

// Asked is a request that is answered once: its key belongs to a user, an
// operation and what was asked where.
type Asked struct {
	User, Operation, Key string
	Request              []byte // a digest of the address and the body
}

// Answered returns the stored answer to a request that came before under the
// same key. found is false for a new key; ErrConflict when the key was used for
// another request.
func (tx *Tx) Answered(ctx context.Context, a Asked) (answer []byte, found bool, err error) {
	var earlier []byte
	err = tx.QueryRow(ctx, `SELECT request, answer FROM idempotency WHERE user_id = $1 AND operation = $2 AND key = $3`, a.User, a.Operation, a.Key).Scan(&earlier, &answer)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, false, nil
	}
	if err == nil && string(earlier) != string(a.Request) {
		return nil, false, ErrConflict
	}
	return answer, err == nil, err
}

// KeepAnswer stores the answer under the key.
func (tx *Tx) KeepAnswer(ctx context.Context, a Asked, at time.Time, answer []byte) error {
	_, err := tx.Exec(ctx, `INSERT INTO idempotency (practice_id, user_id, operation, key, request, answer, at) VALUES ($1, $2, $3, $4, $5, $6, $7)`,
		tx.Practice, a.User, a.Operation, a.Key, a.Request, answer, at)
	return translate(err)
}

// ForgetAnswers deletes the answers kept before a moment.
func (tx *Tx) ForgetAnswers(ctx context.Context, before time.Time) (int64, error) {
	t, err := tx.Exec(ctx, `DELETE FROM idempotency WHERE at < $1`, before)
	return t.RowsAffected(), err
}
