// Package app holds the use cases: one function per thing a coach does. It
// gathers evidence from the store, lets the core decide, and keeps the result.
package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"notchback/core/adjust"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/store"
	"notchback/store/blobs"
)

// App is the application on one database.
type App struct {
	store     *store.Store
	catalogue catalogue.Catalogue
	now       func() time.Time
	hash      HashCost
	blobs     *blobs.Dir // of clips; nil where there is none
	turnings  turnings
	tracks    trackCache
}

// engineVersion is the edition of the engine this program has.
const engineVersion = adjust.Version

// HashCost sets how dear a password hash is; the zero value is the safe default.
type HashCost struct {
	MemoryKiB  uint32
	Iterations uint32
}

// Option changes how an App is made.
type Option func(*App)

// WithClock replaces the wall clock, for tests and for laying out demo data.
func WithClock(now func() time.Time) Option { return func(a *App) { a.now = now } }

// WithHashCost replaces the cost of password hashes, for tests.
func WithHashCost(c HashCost) Option { return func(a *App) { a.hash = c } }

// New returns an App on the store with the built-in catalogue.
func New(s *store.Store, opts ...Option) (*App, error) {
	c, err := catalogue.BuiltIn()
	if err != nil {
		return nil, fmt.Errorf("catalogue: %w", err)
	}
	a := &App{store: s, catalogue: c, now: time.Now, turnings: turnings{all: map[string]*turning{}, work: make(chan struct{}, 1)}}
	for _, o := range opts {
		o(a)
	}
	a.store = s.WithClock(a.now) // what is written carries the application's time
	return a, nil
}

// Store gives the web layer's session store its database.
func (a *App) Store() *store.Store { return a.store }

// The errors of use cases, besides the store's not-found and conflict.
var (
	ErrNotFound  = store.ErrNotFound
	ErrConflict  = store.ErrConflict
	ErrForbidden = errors.New("your role can't do this")
)

// FieldError is one thing wrong with the input, with the path of its field.
type FieldError struct{ Field, Message string }

// Invalid says what is wrong with the input and what is expected.
type Invalid []FieldError

func (e Invalid) Error() string {
	parts := make([]string, len(e))
	for i, f := range e {
		parts[i] = f.Field + ": " + f.Message
	}
	return strings.Join(parts, "; ")
}

// or returns nil for an empty list, so that checks can be collected and returned.
func (e Invalid) or() error {
	if len(e) == 0 {
		return nil
	}
	return e
}

func (e *Invalid) add(field, format string, args ...any) {
	*e = append(*e, FieldError{field, fmt.Sprintf(format, args...)})
}

// Refused says why something that is well-formed can't be done now.
type Refused string

func (e Refused) Error() string { return string(e) }

// Actor is who does something: a signed-in user of a practice.
type Actor struct {
	Practice string
	User     store.User
	zone     *time.Location
}

// Actor returns the user behind a web session.
func (a *App) Actor(ctx context.Context, practice, user string) (Actor, error) {
	act := Actor{Practice: practice}
	err := a.store.In(ctx, practice, func(tx *store.Tx) (err error) {
		act.User, err = tx.User(ctx, user)
		return err
	})
	if err != nil {
		return act, err
	}
	act.zone, err = time.LoadLocation(act.User.Zone)
	return act, err
}

// Today returns the practice's local date.
func (a *App) Today(act Actor) day.Date { return day.Of(a.now(), act.zone) }

// write runs fn for someone who may change records.
func (a *App) write(ctx context.Context, act Actor, fn func(*store.Tx) error) error {
	if act.User.Role == "viewer" {
		return ErrForbidden
	}
	return a.store.In(ctx, act.Practice, fn)
}

// once runs fn unless the same request was answered before under the key; then
// it returns that answer again. An empty key always runs fn.
func once[T any](ctx context.Context, tx *store.Tx, key string, request any, fn func() (T, error)) (T, error) {
	var out T
	if key == "" {
		return fn()
	}
	req, err := json.Marshal(request)
	if err != nil {
		return out, err
	}
	earlier, found, err := tx.Answered(ctx, key, string(req))
	if err != nil {
		return out, err
	}
	if found {
		return out, json.Unmarshal(earlier, &out)
	}
	if out, err = fn(); err != nil {
		return out, err
	}
	answer, err := json.Marshal(out)
	if err != nil {
		return out, err
	}
	return out, tx.KeepAnswer(ctx, key, string(req), answer)
}

func dateOf(t time.Time) day.Date { return day.Of(t, time.UTC) }

func datePtr(t *time.Time) *day.Date {
	if t == nil {
		return nil
	}
	d := dateOf(*t)
	return &d
}

func timePtr(d *day.Date) *time.Time {
	if d == nil {
		return nil
	}
	t := d.Time()
	return &t
}

// Ladders returns the catalogue's ladders.
func (a *App) Ladders() []catalogue.Ladder { return a.catalogue.Ladders }

// Ladder returns one ladder of the catalogue.
func (a *App) Ladder(id string) (catalogue.Ladder, bool) { return a.catalogue.Ladder(id) }
