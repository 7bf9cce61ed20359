// Package store keeps a practice's records in PostgreSQL. Every transaction
// sees one practice; the database refuses the rest.
package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
)

//go:embed migrations/*.sql
var files embed.FS

// ErrNotFound says that no such record exists in this practice.
var ErrNotFound = errors.New("not found")

// ErrConflict says that someone else changed the record first, or that it
// exists already.
var ErrConflict = errors.New("conflict")

// ErrValue says that a text or number can't be stored: a character with the code
// 0, text that is not UTF-8, a number or date out of every range.
var ErrValue = errors.New("value can't be stored")

// unstorable are the database's codes for such values.
var unstorable = []string{"22021", "22P05", "22003", "22008", "22007", "22P02"}

// Store is the database of all practices.
type Store struct {
	pool  *pgxpool.Pool
	db    database
	clock func() time.Time
}

// database is the pool, or one transaction of it.
type database interface {
	Begin(ctx context.Context) (pgx.Tx, error)
	Query(ctx context.Context, sql string, args ...any) (pgx.Rows, error)
	QueryRow(ctx context.Context, sql string, args ...any) pgx.Row
	Exec(ctx context.Context, sql string, args ...any) (pgconn.CommandTag, error)
}

// Open connects with the server's own role and checks the connection.
func Open(ctx context.Context, url string) (*Store, error) { return OpenTold(ctx, url, nil) }

// OpenTold is Open where somebody is told of each statement; nobody for nil.
func OpenTold(ctx context.Context, url string, told pgx.QueryTracer) (*Store, error) {
	c, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("database address: %w", err)
	}
	c.ConnConfig.Tracer = told
	return OpenWith(ctx, c)
}

// OpenWith is Open with settings of one's own, such as a tracer of statements.
func OpenWith(ctx context.Context, c *pgxpool.Config) (*Store, error) {
	pool, err := pgxpool.NewWithConfig(ctx, c)
	if err != nil {
		return nil, fmt.Errorf("database address: %w", err)
	}
	if err := pool.Ping(ctx); err != nil {
		pool.Close()
		return nil, fmt.Errorf("database: %w", err)
	}
	return &Store{pool, pool, time.Now}, nil
}

// WithClock returns the same store under another clock: records say they were
// written when it says it is.
func (s *Store) WithClock(clock func() time.Time) *Store { return &Store{s.pool, s.db, clock} }

// Whole runs fn on a store all of whose transactions are parts of one: all that fn
// does is kept when it returns nil, and nothing of it otherwise. Such a store is for
// one goroutine.
func (s *Store) Whole(ctx context.Context, fn func(*Store) error) error {
	return pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error { return fn(&Store{s.pool, tx, s.clock}) })
}

// Close ends all connections.
func (s *Store) Close() { s.pool.Close() }

// Pool gives the web layer's session store its connections.
func (s *Store) Pool() *pgxpool.Pool { return s.pool }

// Migrate brings the database to the newest version; it must be connected as
// the owner. It returns how many steps were taken.
func Migrate(ctx context.Context, ownerURL string) (int, error) {
	return migrating(ctx, ownerURL, func(p *goose.Provider) ([]*goose.MigrationResult, error) { return p.Up(ctx) })
}

// Stands says which version a database has, 0 for an empty one, and whether there is any
// practice in it; it must be connected as the owner.
func Stands(ctx context.Context, ownerURL string) (version int64, full bool, err error) {
	c, err := pgx.Connect(ctx, ownerURL)
	if err != nil {
		return 0, false, fmt.Errorf("database: %w", err)
	}
	defer func() { _ = c.Close(context.WithoutCancel(ctx)) }()
	var there bool
	if err := c.QueryRow(ctx, `SELECT to_regclass('public.goose_db_version') IS NOT NULL AND to_regclass('public.practices') IS NOT NULL`).Scan(&there); err != nil || !there {
		return 0, false, err
	}
	err = c.QueryRow(ctx, `SELECT (SELECT max(version_id) FROM goose_db_version WHERE is_applied), EXISTS (SELECT 1 FROM practices)`).Scan(&version, &full)
	return version, full, err
}

// MigrateTo brings a database up to a version, for those that hold old data against
// the program of today.
func MigrateTo(ctx context.Context, ownerURL string, version int64) error {
	_, err := migrating(ctx, ownerURL, func(p *goose.Provider) ([]*goose.MigrationResult, error) { return p.UpTo(ctx, version) })
	return err
}

func migrating(ctx context.Context, ownerURL string, up func(*goose.Provider) ([]*goose.MigrationResult, error)) (int, error) {
	pool, err := pgxpool.New(ctx, ownerURL)
	if err != nil {
		return 0, fmt.Errorf("database address: %w", err)
	}
	defer pool.Close()
	db := stdlib.OpenDBFromPool(pool)
	defer func() { _ = db.Close() }()
	p, err := goose.NewProvider(goose.DialectPostgres, db, Migrations())
	if err != nil {
		return 0, fmt.Errorf("migrations: %w", err)
	}
	done, err := up(p)
	if err != nil {
		return len(done), fmt.Errorf("migrate: %w", err)
	}
	return len(done), nil
}

// ErrSchema says that the database is not of the version this program was made for.
var ErrSchema = errors.New("the database has another version than this program")

// Check reports whether the database answers and has the schema this program was
// made for, neither older nor newer nor half way.
func (s *Store) Check(ctx context.Context) error {
	want, err := Newest()
	if err != nil {
		return err
	}
	var have int64
	if err := s.db.QueryRow(ctx, `SELECT schema_version()`).Scan(&have); err != nil {
		var pg *pgconn.PgError
		if errors.As(err, &pg) { // a database without the function is older than it
			return fmt.Errorf("%w: it is older; bring it up to date with the command migrate", ErrSchema)
		}
		return fmt.Errorf("database: %w", err)
	}
	switch {
	case have < want:
		return fmt.Errorf("%w: %d, and %d is needed; bring it up to date with the command migrate", ErrSchema, have, want)
	case have > want:
		return fmt.Errorf("%w: %d, and this program knows %d; it is older than the database", ErrSchema, have, want)
	}
	return nil
}

// Newest is the version of the last embedded step.
func Newest() (int64, error) {
	names, err := fs.Glob(Migrations(), "*.sql")
	if err != nil {
		return 0, err
	}
	v := int64(0)
	for _, n := range names {
		x, err := goose.NumericComponent(n)
		if err != nil {
			return 0, err
		}
		v = max(v, x)
	}
	return v, nil
}

// Migrations returns the embedded steps.
func Migrations() fs.FS {
	sub, err := fs.Sub(files, "migrations")
	if err != nil {
		panic(err) // the folder is embedded above
	}
	return sub
}

// Tx is one transaction within one practice.
type Tx struct {
	pgx.Tx
	Practice string
}

// doing says what a statement does to which table: its first words, for errors.
func doing(sql string) string {
	words := strings.Fields(sql)
	for i, w := range words {
		switch strings.ToUpper(w) {
		case "FROM", "INTO", "UPDATE":
			if i+1 < len(words) {
				return strings.ToLower(words[0]) + " " + strings.Trim(words[i+1], "(,;")
			}
		}
	}
	return strings.ToLower(strings.Join(words[:min(len(words), 2)], " "))
}

func because(sql string, err error) error {
	if err == nil {
		return nil
	}
	return fmt.Errorf("%s: %w", doing(sql), err)
}

// Exec, Query and QueryRow are those of the database; their errors say what was
// being done.
func (tx *Tx) Exec(ctx context.Context, sql string, args ...any) (pgconn.CommandTag, error) {
	tag, err := tx.Tx.Exec(ctx, sql, args...)
	return tag, because(sql, err)
}

// Query is Exec for rows.
func (tx *Tx) Query(ctx context.Context, sql string, args ...any) (pgx.Rows, error) {
	rows, err := tx.Tx.Query(ctx, sql, args...)
	return rows, because(sql, err)
}

// QueryRow is Query for one row.
func (tx *Tx) QueryRow(ctx context.Context, sql string, args ...any) pgx.Row {
	return told{tx.Tx.QueryRow(ctx, sql, args...), sql}
}

type told struct {
	pgx.Row
	sql string
}

func (t told) Scan(into ...any) error { return because(t.sql, t.Row.Scan(into...)) }

// In runs fn in a transaction that sees only the given practice. It commits
// when fn returns nil.
func (s *Store) In(ctx context.Context, practice string, fn func(*Tx) error) error {
	err := pgx.BeginFunc(ctx, s.db, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `SELECT set_config('notchback.practice', $1, true), set_config('notchback.now', $2, true)`, practice, s.clock().Format(time.RFC3339Nano)); err != nil {
			return err
		}
		return fn(&Tx{tx, practice})
	})
	return translate(err)
}

// translate turns the database's answers into this package's errors.
func translate(err error) error {
	var pg *pgconn.PgError
	switch {
	case errors.Is(err, pgx.ErrNoRows):
		return ErrNotFound
	case errors.As(err, &pg) && pg.Code == "23505":
		return fmt.Errorf("%w: %s", ErrConflict, pg.ConstraintName)
	case errors.As(err, &pg) && pg.Code == "23503":
		return ErrNotFound
	case errors.As(err, &pg) && slices.Contains(unstorable, pg.Code):
		return fmt.Errorf("%w: %s", ErrValue, pg.Message)
	}
	return err
}

func all[T any](ctx context.Context, tx pgx.Tx, sql string, args ...any) ([]T, error) {
	rows, err := tx.Query(ctx, sql, args...)
	if err != nil {
		return nil, err
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByName[T])
	return list, because(sql, err)
}

func one[T any](ctx context.Context, tx pgx.Tx, sql string, args ...any) (T, error) {
	rows, err := tx.Query(ctx, sql, args...)
	if err != nil {
		var zero T
		return zero, err
	}
	v, err := pgx.CollectExactlyOneRow(rows, pgx.RowToStructByName[T])
	return v, translate(because(sql, err))
}
