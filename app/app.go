package app

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"time"

	"notchback/core/adjust"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/units"
	"notchback/store"
	"notchback/store/blobs"
)

// App is the application on one database.
type App struct {
	Store     *store.Store
	Catalogue catalogue.Catalogue
	Now       func() time.Time
	Signed    func() time.Time // the clock of sign-ins; Now where nothing else is said
	Hash      HashCost
	Blobs     blobs.Store // of clips; nil where there is none
	Log       *slog.Logger
}

// EngineVersion is the edition of the engine this program has.
const EngineVersion = adjust.Version

// HashCost sets how dear a password hash is; the zero value is the safe default.
type HashCost struct {
	MemoryKiB  uint32
	Iterations uint32
}

// Option changes how an App is made.
type Option func(*App)

// WithClock replaces the wall clock, for tests and for laying out demo data.
func WithClock(now func() time.Time) Option { return func(a *App) { a.Now = now } }

// WithSignInClock lets sign-ins end by another clock, for tests that move whole weeks.
func WithSignInClock(now func() time.Time) Option { return func(a *App) { a.Signed = now } }

// WithHashCost replaces the cost of password hashes, for tests.
func WithHashCost(c HashCost) Option { return func(a *App) { a.Hash = c } }

// WithLog tells a log of sign-ins and of what failed outside of a request.
func WithLog(l *slog.Logger) Option { return func(a *App) { a.Log = l } }

// New returns an App on the store with the built-in catalogue.
func New(s *store.Store, opts ...Option) (*App, error) {
	c, err := catalogue.BuiltIn()
	if err != nil {
		return nil, fmt.Errorf("catalogue: %w", err)
	}
	a := &App{Store: s, Catalogue: c, Now: time.Now, Log: slog.New(slog.DiscardHandler)}
	for _, o := range opts {
		o(a)
	}
	if a.Signed == nil {
		a.Signed = a.Now
	}
	a.Store = s.WithClock(a.Now) // what is written carries the application's time
	return a, nil
}

// The errors of use cases, besides the store's not-found and conflict.
var (
	ErrNotFound  = store.ErrNotFound
	ErrConflict  = store.ErrConflict
	ErrValue     = store.ErrValue
	ErrForbidden = errors.New("your role can't do this")
)

// FieldError is one thing wrong with the input, with the path of its field.
type FieldError struct{ Field, Message string }

// keyed is ErrForbidden for a program.
type keyed struct{}

func (keyed) Error() string        { return "this key is not for that: a key looks, or does what a coach may" }
func (keyed) Is(target error) bool { return target == ErrForbidden }

// Invalid says what is wrong with the input and what is expected.
type Invalid []FieldError

func (e Invalid) Error() string {
	parts := make([]string, len(e))
	for i, f := range e {
		parts[i] = f.Field + ": " + f.Message
	}
	return strings.Join(parts, "; ")
}

// Or returns nil for an empty list, so that checks can be collected and returned.
func (e Invalid) Or() error {
	if len(e) == 0 {
		return nil
	}
	return e
}

func (e *Invalid) Add(field, format string, args ...any) {
	*e = append(*e, FieldError{field, fmt.Sprintf(format, args...)})
}

// Refused says why something that is well-formed can't be done now.
type Refused string

func (e Refused) Error() string { return string(e) }

// RunnerRole is the role of a runner at their own phone. The door lets it into nothing
// but what is for phones.
const RunnerRole = "runner"

// Actor is who does something: a signed-in user of a practice, or a runner at their
// own phone, who stands as a user with the runner's id.
type Actor struct {
	Practice string
	User     store.User
	Zone     *time.Location
	Runner   string // of a phone: whose it is; "" for users
	Device   string // of a phone, or the browser a user is signed in with
}

// Visit is what a signed-in user asks to be let in to.
type Visit struct {
	Operation string
	Needs     Role
	Of        store.Kind // the record in the address; "" for none
	ID        string
	Changes   bool
	Listed    bool   // belongs in the access log without a record in the address
	Device    string // the browser that is signed in; "" for the program itself
	Personal  bool   // for the person alone, not for a program that comes with their key
	Key       string // the name of the key a program comes with
	Looks     bool   // the key is for looking alone
}

// cap is the most a program may: look, or what a coach may; never what an owner decides.
func (v Visit) cap(role string) string {
	switch {
	case v.Key == "":
		return role
	case v.Looks:
		return "viewer"
	case role == "owner":
		return "coach"
	}
	return role
}

// seenEvery is how often at most the use of a device is noted (house).
const seenEvery = time.Minute

// stays checks that somebody is still signed in on the device they come with.
func (a *App) stays(ctx context.Context, tx *store.Tx, u store.User, device string) error {
	if device == "" {
		return nil
	}
	now := a.Signed()
	if u.Seen == nil || now.Sub(*u.Seen) > time.Duration(u.IdleMinutes)*time.Minute {
		return ErrSignedOut
	}
	if now.Sub(*u.Seen) > seenEvery && store.Attended(ctx) {
		return tx.SeeDevice(ctx, device, now)
	}
	return nil
}

// Role is who may do something. Each may do what those before may.
type Role int

// The roles.
const (
	Reads Role = iota // viewers, coaches, owners
	Writes
	Owns
)

// May reports whether a user's role is enough.
func (r Role) May(role string) bool {
	switch r {
	case Reads:
		return true
	case Writes:
		return role != "viewer"
	}
	return role == "owner"
}

// ErrSignedOut says that the user behind a session is gone.
var ErrSignedOut = errors.New("sign in again")

// Enter lets a user in to what is asked for and writes it into the access log,
// before anything is shown or changed. Errors: ErrSignedOut, ErrForbidden,
// ErrNotFound where the record is not one of the practice.
func (a *App) Enter(ctx context.Context, practice, user string, v Visit) (Actor, error) {
	act := Actor{Practice: practice, Device: v.Device}
	refused := false
	err := a.Store.In(ctx, practice, func(tx *store.Tx) (err error) {
		if act.User, err = tx.User(ctx, user, v.Device); errors.Is(err, ErrNotFound) {
			return ErrSignedOut
		} else if err != nil {
			return err
		}
		if err := a.stays(ctx, tx, act.User, v.Device); err != nil {
			return err
		}
		act.User.Role = v.cap(act.User.Role)
		refused = !v.Needs.May(act.User.Role) || v.Personal && v.Key != ""
		line := store.Access{User: &act.User.ID, Action: v.Operation, Refused: refused, Key: v.Key}
		if v.Of != "" {
			runner, err := tx.RunnerOf(ctx, v.Of, v.ID)
			if err != nil {
				return err
			}
			line.Runner = &runner
		}
		if v.Of == "" && !v.Listed && !refused {
			return nil
		}
		return tx.LogAccess(ctx, a.Now(), line, !v.Changes)
	})
	if err == nil && refused {
		err = ErrForbidden
		if v.Key != "" {
			err = keyed{}
		}
	}
	if err != nil {
		return act, err
	}
	act.Zone, err = time.LoadLocation(act.User.Zone)
	return act, err
}

// Actor returns the user behind a web session.
func (a *App) Actor(ctx context.Context, practice, user string) (Actor, error) {
	return a.Enter(ctx, practice, user, Visit{})
}

// Units are what somebody reads distances and weights in: their own choice, or the
// practice's.
func (act Actor) Units() units.System {
	if act.User.OwnUnits != "" {
		return units.System(act.User.OwnUnits)
	}
	return units.System(act.User.Units)
}

// Today returns the practice's local date.
func (a *App) Today(act Actor) day.Date { return day.Of(a.Now(), act.Zone) }

// Write runs fn for someone who may change records.
func (a *App) Write(ctx context.Context, act Actor, fn func(*store.Tx) error) error {
	if !Writes.May(act.User.Role) {
		return ErrForbidden
	}
	along, ok := ctx.Value(alongKey{}).(func(*store.Tx) error)
	return a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if err := Still(ctx, tx, act, Writes); err != nil {
			return err
		}
		if ok {
			if err := along(tx); err != nil {
				return err
			}
		}
		return fn(tx)
	})
}

// Still checks within a transaction that a user may do something now: a role can change
// between the door and the write.
func Still(ctx context.Context, tx *store.Tx, act Actor, r Role) error {
	if act.Runner != "" || act.User.ID == "" {
		return nil // a phone, or the program itself
	}
	role, err := tx.Role(ctx, act.User.ID)
	switch {
	case errors.Is(err, ErrNotFound):
		return ErrSignedOut
	case err != nil:
		return err
	case !r.May(role):
		return ErrForbidden
	}
	return nil
}

type alongKey struct{}

// Along gives the write of a use case something that belongs into its transaction: both
// happen, or neither.
func Along(ctx context.Context, fn func(*store.Tx) error) context.Context {
	return context.WithValue(ctx, alongKey{}, fn)
}

// AnswersKept is how long the answer to a keyed request is kept.
const AnswersKept = 7 * 24 * time.Hour

// Asked names a request that is answered once: the operation, the record it is
// sent to, and the key that the sender gave it. An empty key is no such request.
type Asked struct{ Operation, Address, Key string }

// Once runs fn unless the same user sent the same request under the key before;
// then it returns that answer again. ErrConflict where the key was used for
// something else.
func Once[T any](ctx context.Context, a *App, tx *store.Tx, act Actor, q Asked, request any, fn func() (T, error)) (T, error) {
	var out T
	if q.Key == "" {
		return fn()
	}
	req, err := json.Marshal(request)
	if err != nil {
		return out, err
	}
	digest := sha256.Sum256(append([]byte(q.Address+"\x00"), req...))
	s := store.Asked{User: act.User.ID, Operation: q.Operation, Key: q.Key, Request: digest[:]}
	earlier, found, err := tx.Answered(ctx, s)
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
	return out, tx.KeepAnswer(ctx, s, a.Now(), answer)
}

func DateOf(t time.Time) day.Date { return day.Of(t, time.UTC) }

func DatePtr(t *time.Time) *day.Date {
	if t == nil {
		return nil
	}
	d := DateOf(*t)
	return &d
}

func TimePtr(d *day.Date) *time.Time {
	if d == nil {
		return nil
	}
	t := d.Time()
	return &t
}

// Ladders returns the catalogue's ladders.
func (a *App) Ladders() []catalogue.Ladder { return a.Catalogue.Ladders }

// Ladder returns one ladder of the catalogue.
func (a *App) Ladder(id string) (catalogue.Ladder, bool) { return a.Catalogue.Ladder(id) }

// WithBlobs gives clips a folder; without one they are refused.
func WithBlobs(d blobs.Store) Option { return func(a *App) { a.Blobs = d } }

// Faults turns what the catalogue says is wrong into field errors.
func Faults(field string, err error) error {
	if err == nil {
		return nil
	}
	var bad Invalid
	for _, line := range strings.Split(err.Error(), "\n") {
		bad.Add(field, "%s", line)
	}
	return bad
}

// PracticeActor is the program itself at work in a practice.
func (a *App) PracticeActor(ctx context.Context, practice string) (Actor, error) {
	act := Actor{Practice: practice}
	err := a.Store.In(ctx, practice, func(tx *store.Tx) error {
		z, err := tx.Zone(ctx)
		if err != nil {
			return err
		}
		act.Zone, err = time.LoadLocation(z)
		return err
	})
	return act, err
}

// TooLarge says that more was sent than an operation takes.
type TooLarge struct{ Most int64 }

func (e *TooLarge) Error() string { return fmt.Sprintf("this is larger than %d bytes", e.Most) }

// Wrong says what is wrong with one field.
func Wrong(field, message string) error { return Invalid{{field, message}} }

// NewID makes an id by chance.
func NewID() string {
	var b [16]byte
	_, _ = rand.Read(b[:])
	b[6], b[8] = b[6]&0x0f|0x40, b[8]&0x3f|0x80
	return fmt.Sprintf("%x-%x-%x-%x-%x", b[0:4], b[4:6], b[6:8], b[8:10], b[10:])
}
