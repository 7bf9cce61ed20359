package account

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"math"
	"net/mail"
	"net/netip"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/trustelem/zxcvbn"

	"notchback/app"
	"notchback/app/record"
	"notchback/core/adjust"
	"notchback/store"
)

// signInWindow is how long failures of signing in are remembered.
const signInWindow = 15 * time.Minute

// The pause before the next try after the first, second, … failure (house). A
// person who mistypes waits for nothing; someone who guesses gets slower with each
// try. An account is slowed for the address the failures came from and for nobody
// else, so that no one can lock others out.
var (
	accountWaits = []time.Duration{0, 0, 0, 2 * time.Second, 5 * time.Second, 15 * time.Second, 40 * time.Second, 90 * time.Second, 4 * time.Minute, 10 * time.Minute}
	addressWaits = slices.Concat(make([]time.Duration, 25), []time.Duration{2 * time.Second, 5 * time.Second, 10 * time.Second, 20 * time.Second, 40 * time.Second, time.Minute})
)

// Passwords must have at least this many characters and this strength on the
// scale of zxcvbn, 0–4: 3 withstands a hundred million guesses.
const (
	minPassword   = 10
	weakest       = 3
	passwordLooks = 100 // characters that are looked at for strength
)

// ErrSignIn is a wrong e-mail or password; it never says which.
var ErrSignIn = errors.New("wrong e-mail or password")

// Throttled says how long to wait after repeated failures.
type Throttled struct{ Wait time.Duration }

func (t Throttled) Error() string {
	if t.Wait < time.Minute {
		return fmt.Sprintf("too many tries; wait %d seconds", int(math.Ceil(t.Wait.Seconds())))
	}
	return fmt.Sprintf("too many tries; wait %s", app.Plural(int(math.Ceil(t.Wait.Minutes())), "minute", "minutes"))
}

// hall is the queue in front of the password hashes: each takes 64 MiB and a
// while, so few are made at once, and no address waits more than perAddress times.
type hall struct {
	mu      sync.Mutex
	waiting map[string]int
	hashing chan struct{}
}

// Limits of the hall.
const (
	hashesAtOnce = 4
	perAddress   = 2
	inAll        = 64
)

func newHall() *hall {
	return &hall{waiting: map[string]int{}, hashing: make(chan struct{}, hashesAtOnce)}
}

// enter takes a place in the queue of an address; false where it is full.
func (h *hall) enter(address string) bool {
	h.mu.Lock()
	defer h.mu.Unlock()
	all := 0
	for _, n := range h.waiting {
		all += n
	}
	if h.waiting[address] >= perAddress || all >= inAll {
		return false
	}
	h.waiting[address]++
	return true
}

func (h *hall) leave(address string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.waiting[address]--; h.waiting[address] == 0 {
		delete(h.waiting, address)
	}
}

// hash waits for its turn, at most until the request ends.
func (h *hall) hash(ctx context.Context, fn func()) error {
	select {
	case h.hashing <- struct{}{}:
	case <-ctx.Done():
		return ctx.Err()
	}
	defer func() { <-h.hashing }()
	if ctx.Err() != nil {
		return ctx.Err()
	}
	fn()
	return nil
}

func (a *Accounts) params() *argon2id.Params {
	p := *argon2id.DefaultParams
	if a.Hash.MemoryKiB > 0 {
		p.Memory, p.Iterations = a.Hash.MemoryKiB, a.Hash.Iterations
	}
	return &p
}

// HashPassword returns the stored form of a password.
func (a *Accounts) HashPassword(ctx context.Context, password string) (hash string, err error) {
	if herr := a.hall.hash(ctx, func() { hash, err = argon2id.CreateHash(password, a.params()) }); herr != nil {
		return "", herr
	}
	return hash, err
}

// nobody is compared against when the e-mail is unknown, so that the answer
// takes as long.
const nobody = "$argon2id$v=19$m=65536,t=1,p=2$c29tZXNhbHRzb21lc2FsdA$Mul7ijZxSgLOKRwlEcHNqvZzoJyBOgUMmXJQGHRC2vA"

func (a *Accounts) matches(ctx context.Context, password, hash string) (ok bool, err error) {
	err = a.hall.hash(ctx, func() {
		same, cerr := argon2id.ComparePasswordAndHash(password, hash)
		ok = cerr == nil && same
	})
	return ok, err
}

func throttleKey(parts ...string) string {
	h := sha256.Sum256([]byte(strings.Join(parts, "\x00")))
	return hex.EncodeToString(h[:])
}

// account is an e-mail address as it is looked up and counted.
func account(email string) string { return strings.ToLower(strings.TrimSpace(email)) }

// addressOf is the part of a network address that one household or office has: an
// IPv4 address, or the network of an IPv6 address.
func addressOf(source string) string {
	ip, err := netip.ParseAddr(source)
	if err != nil {
		return source
	}
	ip = ip.Unmap()
	if ip.Is6() {
		if p, err := ip.WithZone("").Prefix(64); err == nil {
			return p.String()
		}
	}
	return ip.String()
}

// SignIn checks an e-mail and password. source is the address it came from. Every
// try counts before the password is looked at, so that many at once, or ones that
// break off, count as well. Errors: ErrSignIn, Throttled.
func (a *Accounts) SignIn(ctx context.Context, email, password, source string) (store.Credentials, error) {
	return a.SignInOn(ctx, Claim{Email: email, Password: password}, source, "")
}

// Claim is what somebody says to be let in.
type Claim struct {
	Email    string `json:"email" maxLength:"200"`
	Password string `json:"password" maxLength:"200"`
	Code     string `json:"code,omitempty" maxLength:"40" doc:"Of the second device, or a recovery code, where one is asked for"`
}

// SignInOn is SignIn on a browser that says it was signed in on before: whoever did so is
// slowed by their own wrong tries alone, not by what others do at the same address.
func (a *Accounts) SignInOn(ctx context.Context, in Claim, source, device string) (store.Credentials, error) {
	source = addressOf(source)
	c, err := a.Store.Credentials(ctx, account(in.Email))
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return c, err
	}
	known := err == nil
	own, err := a.wasHere(ctx, c, device)
	if err != nil {
		return c, err
	}
	seat := source
	if own {
		seat = device
	}
	if !a.hall.enter(seat) {
		return store.Credentials{}, Throttled{time.Second}
	}
	defer a.hall.leave(seat)
	who := account(in.Email)
	if known {
		who = c.User // however it was spelt
	}
	now := a.Now()
	mine, everyone := throttleKey("account", who, source), throttleKey("address", source)
	type slowed struct {
		key   string
		waits []time.Duration
	}
	by := []slowed{{everyone, addressWaits}, {mine, accountWaits}}
	if own {
		mine = throttleKey("device", device)
		by = []slowed{{mine, accountWaits}}
	}
	for _, k := range by {
		wait, err := a.Store.TrySignIn(ctx, k.key, now, signInWindow, k.waits)
		if err != nil {
			return store.Credentials{}, err
		}
		if wait > 0 {
			a.noteSignIn(ctx, c, known, "signInThrottled")
			return store.Credentials{}, Throttled{wait}
		}
	}
	hash := nobody
	if known {
		hash = c.Hash
	}
	ok, err := a.matches(ctx, in.Password, hash)
	if err != nil {
		return store.Credentials{}, err
	}
	if !ok || !known {
		a.noteSignIn(ctx, c, known, "signInFailed")
		return store.Credentials{}, ErrSignIn
	}
	if err := a.prove(ctx, c.Practice, c.User, in.Code); err != nil {
		return store.Credentials{}, err
	}
	a.noteSignIn(ctx, c, true, "signIn")
	if own {
		return c, a.Store.ForgetSignInFailures(ctx, mine)
	}
	return c, a.Store.ForgetSignInFailures(ctx, mine, everyone)
}

// KnownFor is how long a browser counts as one somebody signed in with (house).
const KnownFor = 90 * 24 * time.Hour

// wasHere reports whether somebody signed in with a device before.
func (a *Accounts) wasHere(ctx context.Context, c store.Credentials, device string) (was bool, err error) {
	if c.User == "" || len(device) != len("00000000-0000-0000-0000-000000000000") {
		return false, nil
	}
	err = a.Store.In(ctx, c.Practice, func(tx *store.Tx) error {
		was, err = tx.KnownDevice(ctx, c.User, device, a.Signed().Add(-KnownFor))
		return err
	})
	if errors.Is(err, app.ErrValue) {
		return false, nil
	}
	return was, err
}

// noteSignIn writes a try to sign in down: in the practice's access log where the
// account is known, and in the program's log.
func (a *Accounts) noteSignIn(ctx context.Context, c store.Credentials, known bool, action string) {
	a.Log.InfoContext(ctx, "sign-in", "outcome", action, "known", known)
	if !known {
		return
	}
	err := a.Store.In(ctx, c.Practice, func(tx *store.Tx) error {
		return tx.LogAccess(ctx, a.Now(), store.Access{User: &c.User, Action: action, Refused: action != "signIn"}, false)
	})
	if err != nil {
		a.Log.ErrorContext(ctx, "sign-in could not be noted", "err", err)
	}
}

// passwordTrouble says why a password won't do; empty where it will. about are
// words that belong to the person, which a guesser tries first.
func passwordTrouble(password string, about ...string) string {
	r := []rune(password)
	if len(r) < minPassword {
		return fmt.Sprintf("at least %d characters", minPassword)
	}
	if zxcvbn.PasswordStrength(string(r[:min(len(r), passwordLooks)]), about).Score < weakest {
		return "this is one of the first that are guessed; take three or four words that don't belong together"
	}
	return ""
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
func (a *Accounts) Fresh(ctx context.Context) (bool, error) { return a.Store.Empty(ctx) }

// Found creates the first practice and its owner; ErrConflict when the
// installation is not empty any more.
func (a *Accounts) Found(ctx context.Context, in FirstRun) (store.Credentials, error) {
	var bad app.Invalid
	if strings.TrimSpace(in.Practice) == "" {
		bad.Add("practice", "give the practice a name")
	}
	if strings.TrimSpace(in.Name) == "" {
		bad.Add("name", "give your name")
	}
	if _, err := mail.ParseAddress(in.Email); err != nil {
		bad.Add("email", "expected an e-mail address, like you@example.org")
	}
	if t := passwordTrouble(in.Password, in.Practice, in.Name, in.Email); t != "" {
		bad.Add("password", "%s", t)
	}
	if _, err := time.LoadLocation(in.Zone); err != nil || in.Zone == "" {
		bad.Add("zone", "expected a time zone, like Europe/Lisbon")
	}
	if err := bad.Or(); err != nil {
		return store.Credentials{}, err
	}
	hash, err := a.HashPassword(ctx, in.Password)
	if err != nil {
		return store.Credentials{}, err
	}
	c, err := a.Store.FoundPractice(ctx, strings.TrimSpace(in.Practice), in.Zone, strings.TrimSpace(in.Name), account(in.Email), hash)
	if err != nil {
		return c, err
	}
	return c, a.LetsWork(ctx, c.Practice)
}

// LetsWork notes that a new practice works by today's edition of the engine, so
// that the next one is shown to it before it applies.
func (a *Accounts) LetsWork(ctx context.Context, practice string) error {
	return a.Store.In(ctx, practice, func(tx *store.Tx) error { return tx.AcceptEngine(ctx, adjust.Version, nil) })
}

// Accounts is the room of signing in and of who saw what.
type Accounts struct {
	*record.Book
	hall *hall
}

// New returns the room, with nobody waiting.
func New(b *record.Book) *Accounts { return &Accounts{b, newHall()} }
