package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"net/mail"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"

	"notchback/core/adjust"
	"notchback/store"
)

// Sign-in throttle: after so many failures for one address of mail, or from one
// machine, within the window, sign-in waits until the window is over.
const (
	signInWindow      = 15 * time.Minute
	failuresPerMail   = 5
	failuresPerSource = 50
)

// Passwords must have at least this many characters.
const minPassword = 10

// ErrSignIn is a wrong e-mail or password; it never says which.
var ErrSignIn = errors.New("wrong e-mail or password")

// Throttled says how long to wait after repeated failures.
type Throttled struct{ Wait time.Duration }

func (t Throttled) Error() string {
	return fmt.Sprintf("too many tries; wait %d minutes", int(t.Wait.Minutes())+1)
}

// hashing bounds how many passwords are hashed at once: each takes 64 MiB.
var hashing = make(chan struct{}, 4)

func (a *App) params() *argon2id.Params {
	p := *argon2id.DefaultParams
	if a.hash.MemoryKiB > 0 {
		p.Memory, p.Iterations = a.hash.MemoryKiB, a.hash.Iterations
	}
	return &p
}

// HashPassword returns the stored form of a password.
func (a *App) HashPassword(password string) (string, error) {
	hashing <- struct{}{}
	defer func() { <-hashing }()
	return argon2id.CreateHash(password, a.params())
}

// nobody is compared against when the e-mail is unknown, so that the answer
// takes as long.
const nobody = "$argon2id$v=19$m=65536,t=1,p=2$c29tZXNhbHRzb21lc2FsdA$Mul7ijZxSgLOKRwlEcHNqvZzoJyBOgUMmXJQGHRC2vA"

func (a *App) matches(password, hash string) bool {
	hashing <- struct{}{}
	defer func() { <-hashing }()
	ok, err := argon2id.ComparePasswordAndHash(password, hash)
	return err == nil && ok
}

func throttleKey(kind, value string) string {
	h := sha256.Sum256([]byte(kind + ":" + strings.ToLower(value)))
	return hex.EncodeToString(h[:])
}

// SignIn checks an e-mail and password. source is the address it came from.
// Errors: ErrSignIn, Throttled.
func (a *App) SignIn(ctx context.Context, email, password, source string) (store.Credentials, error) {
	keys := []struct {
		key  string
		most int
	}{{throttleKey("mail", email), failuresPerMail}, {throttleKey("source", source), failuresPerSource}}
	now := a.now()
	for _, k := range keys {
		n, last, err := a.store.SignInFailures(ctx, k.key)
		if err != nil {
			return store.Credentials{}, err
		}
		if left := last.Add(signInWindow).Sub(now); n >= k.most && left > 0 {
			return store.Credentials{}, Throttled{left}
		}
	}
	c, err := a.store.Credentials(ctx, strings.TrimSpace(email))
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return c, err
	}
	hash := c.Hash
	if err != nil {
		hash = nobody
	}
	if !a.matches(password, hash) || err != nil {
		for _, k := range keys {
			if err := a.store.CountSignInFailure(ctx, k.key, now, signInWindow); err != nil {
				return store.Credentials{}, err
			}
		}
		return store.Credentials{}, ErrSignIn
	}
	return c, a.store.ForgetSignInFailures(ctx, keys[0].key)
}

// FirstRun is what creates a practice in an empty installation.
type FirstRun struct {
	Practice string `json:"practice" minLength:"1" maxLength:"120" doc:"The practice's name"`
	Zone     string `json:"zone" maxLength:"60" doc:"IANA time zone, like Europe/Lisbon"`
	Name     string `json:"name" minLength:"1" maxLength:"120" doc:"The owner's name"`
	Email    string `json:"email" maxLength:"200"`
	Password string `json:"password" maxLength:"200" doc:"At least 10 characters"`
}

// Fresh reports whether the installation is empty.
func (a *App) Fresh(ctx context.Context) (bool, error) { return a.store.Empty(ctx) }

// Found creates the first practice and its owner; ErrConflict when the
// installation is not empty any more.
func (a *App) Found(ctx context.Context, in FirstRun) (store.Credentials, error) {
	var bad Invalid
	if strings.TrimSpace(in.Practice) == "" {
		bad.add("practice", "give the practice a name")
	}
	if strings.TrimSpace(in.Name) == "" {
		bad.add("name", "give your name")
	}
	if _, err := mail.ParseAddress(in.Email); err != nil {
		bad.add("email", "expected an e-mail address, like you@example.org")
	}
	if len([]rune(in.Password)) < minPassword {
		bad.add("password", "at least %d characters", minPassword)
	}
	if _, err := time.LoadLocation(in.Zone); err != nil || in.Zone == "" {
		bad.add("zone", "expected a time zone, like Europe/Lisbon")
	}
	if err := bad.or(); err != nil {
		return store.Credentials{}, err
	}
	hash, err := a.HashPassword(in.Password)
	if err != nil {
		return store.Credentials{}, err
	}
	c, err := a.store.FoundPractice(ctx, strings.TrimSpace(in.Practice), in.Zone, strings.TrimSpace(in.Name), strings.TrimSpace(in.Email), hash)
	if err != nil {
		return c, err
	}
	return c, a.LetsWork(ctx, c.Practice)
}

// LetsWork notes that a new practice works by today's edition of the engine, so
// that the next one is shown to it before it applies.
func (a *App) LetsWork(ctx context.Context, practice string) error {
	return a.store.In(ctx, practice, func(tx *store.Tx) error { return tx.AcceptEngine(ctx, adjust.Version, nil) })
}
