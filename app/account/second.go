package account

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/hotp"
	"github.com/pquerna/otp/totp"

	"notchback/app"
	"notchback/store"
)

// Codes of a second device: time-based one-time passwords (RFC 6238), six digits of
// SHA-1, which is what every such program understands.
const (
	codeStep    = 30 * time.Second // a code's time (RFC 6238, 5.2)
	codeSkew    = 1                // steps a clock may be off, either way (RFC 6238, 5.2)
	clockLook   = 120              // steps that are looked through for a clock that is wrong, while setting up (house)
	secondIssue = "Notchback"
)

// Recovery codes stand in for the device, once each.
const (
	recoveryCodes = 10 // (house)
	recoveryChars = 10 // characters of 5 bits
)

var codeKind = hotp.ValidateOpts{Digits: otp.DigitsSix, Algorithm: otp.AlgorithmSHA1}

// errCodeAsked says that the password is right and a code is asked for as well.
var errCodeAsked = app.Wrong("code", "type the code your second device shows now")

const codeWrong = "this code doesn't fit; type the one that is shown now, or a recovery code. If none fits, look at the clock of the device"

// fits returns the step of time around now that a code belongs to, within off steps.
func fits(secret, code string, now time.Time, off int64) (step int64, ok bool) {
	at := now.Unix() / int64(codeStep/time.Second)
	for d := int64(0); d <= off; d++ {
		for _, s := range []int64{at - d, at + d} {
			want, err := hotp.GenerateCodeCustom(secret, uint64(max(s, 0)), codeKind)
			if err == nil && subtle.ConstantTimeCompare([]byte(want), []byte(code)) == 1 {
				return s, true
			}
		}
	}
	return 0, false
}

// plainCode is a code without what people and programs put between its characters.
func plainCode(code string) string {
	return strings.Map(func(r rune) rune {
		if r == ' ' || r == '-' || r == '\u00a0' {
			return -1
		}
		return r
	}, strings.ToUpper(strings.TrimSpace(code)))
}

func recoveryHash(user, code string) []byte {
	h := sha256.Sum256([]byte("recovery\x00" + user + "\x00" + plainCode(code)))
	return h[:]
}

// prove asks for the code of somebody's second factor, where they have one. A code counts
// once, a wrong one slows the next.
func (a *Accounts) prove(ctx context.Context, practice, user, code string) error {
	has := false
	err := a.Store.In(ctx, practice, func(tx *store.Tx) error {
		f, err := tx.SecondFactor(ctx, user)
		if errors.Is(err, app.ErrNotFound) {
			return nil
		}
		has = f.On != nil
		return err
	})
	if err != nil || !has {
		return err
	}
	if strings.TrimSpace(code) == "" {
		return errCodeAsked
	}
	key := throttleKey("second", user)
	wait, err := a.Store.TrySignIn(ctx, key, a.Now(), signInWindow, accountWaits)
	if err != nil {
		return err
	}
	if wait > 0 {
		return Throttled{wait}
	}
	right := false
	err = a.Store.In(ctx, practice, func(tx *store.Tx) error {
		f, err := tx.SecondFactor(ctx, user)
		if err != nil {
			return err
		}
		right, err = a.spend(ctx, tx, user, f, code)
		return err
	})
	if err != nil {
		return err
	}
	if !right {
		a.noteSignIn(ctx, store.Credentials{Practice: practice, User: user}, true, "secondFailed")
		return app.Wrong("code", codeWrong)
	}
	return a.Store.ForgetSignInFailures(ctx, key)
}

// proveByLink is prove for who follows a link to a new password.
func (a *Accounts) proveByLink(ctx context.Context, in Joining) error {
	var practice, user string
	err := a.follow(ctx, in.Token, func(_ *store.Tx, p string, l store.Invitation) error {
		practice, user = p, *l.User
		return nil
	})
	if err != nil {
		return err
	}
	return a.prove(ctx, practice, user, in.Code)
}

// spend uses a code up: one of the device whose time is now and that was not used, or a
// recovery code.
func (a *Accounts) spend(ctx context.Context, tx *store.Tx, user string, f store.SecondFactor, code string) (bool, error) {
	step, ok := fits(f.Secret, plainCode(code), a.Signed(), codeSkew)
	switch {
	case ok && step > f.LastStep:
		return true, tx.UseStep(ctx, user, step)
	case ok:
		return false, nil
	}
	return tx.UseRecoveryCode(ctx, user, recoveryHash(user, code))
}

// Setup is a secret for a second device, as it is shown once.
type Setup struct {
	Secret string `json:"secret" doc:"To type where no picture can be read"`
	URI    string `json:"uri" doc:"What the picture holds (otpauth)"`
}

// BeginSecond makes a secret for a second device; it counts once a code of it was typed.
func (a *Accounts) BeginSecond(ctx context.Context, act app.Actor, old string) (Setup, error) {
	if err := a.again(ctx, act, old); err != nil {
		return Setup{}, err
	}
	k, err := totp.Generate(totp.GenerateOpts{Issuer: secondIssue + " " + act.User.Practice, AccountName: act.User.Email, Period: uint(codeStep / time.Second)})
	if err != nil {
		return Setup{}, fmt.Errorf("make a secret: %w", err)
	}
	err = a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		return tx.BeginSecondFactor(ctx, act.User.ID, k.Secret(), a.Now())
	})
	if errors.Is(err, app.ErrConflict) {
		err = app.Refused("you have a second device already; take it off first")
	}
	return Setup{Secret: k.Secret(), URI: k.URL()}, err
}

// Second is somebody's page after a change of their second factor, with recovery codes
// where new ones were made: the only time they are shown.
type Second struct {
	Own   Own      `json:"own"`
	Codes []string `json:"codes" nullable:"false"`
}

// BeginsWithCode lets the second factor count, by its first code. Everywhere else the person
// is signed out.
func (a *Accounts) BeginsWithCode(ctx context.Context, act app.Actor, code string) (Second, error) {
	var codes []string
	key := throttleKey("second", act.User.ID)
	wait, err := a.Store.TrySignIn(ctx, key, a.Now(), signInWindow, accountWaits)
	if err != nil {
		return Second{}, err
	}
	if wait > 0 {
		return Second{}, Throttled{wait}
	}
	err = a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		f, err := tx.SecondFactor(ctx, act.User.ID)
		switch {
		case errors.Is(err, app.ErrNotFound):
			return app.Refused("begin anew: no device waits for its first code")
		case err != nil:
			return err
		case f.On != nil:
			return app.Refused("you have a second device already")
		}
		now := a.Signed()
		step, ok := fits(f.Secret, plainCode(code), now, codeSkew)
		if !ok {
			if s, near := fits(f.Secret, plainCode(code), now, clockLook); near {
				off := time.Duration(s)*codeStep - now.Sub(time.Unix(0, 0)).Truncate(codeStep)
				return app.Wrong("code", clockOff(off))
			}
			return app.Wrong("code", "this code doesn't fit; type the one that is shown now")
		}
		if err := tx.UseStep(ctx, act.User.ID, step); err != nil {
			return err
		}
		if err := tx.CountSecondFactor(ctx, act.User.ID, a.Now()); err != nil {
			return err
		}
		if codes, err = newRecovery(ctx, tx, act.User.ID); err != nil {
			return err
		}
		if err := tx.LogAccess(ctx, a.Now(), store.Access{User: &act.User.ID, Action: "secondOn"}, false); err != nil {
			return err
		}
		_, err = tx.EndDevices(ctx, act.User.ID, nil, &act.Device, a.Now())
		return err
	})
	if err != nil {
		return Second{}, err
	}
	if err := a.Store.ForgetSignInFailures(ctx, key); err != nil {
		return Second{}, err
	}
	own, err := a.Own(ctx, act)
	return Second{own, codes}, err
}

// clockOff says which way a device's clock is off.
func clockOff(off time.Duration) string {
	way := "ahead"
	if off < 0 {
		way, off = "behind", -off
	}
	return fmt.Sprintf("this code is of another time: the device's clock is about %s %s of the server's. Let it set its time by itself, then type a new code", app.Plural(max(int(off.Round(time.Minute)/time.Minute), 1), "minute", "minutes"), way)
}

// newRecovery replaces somebody's recovery codes and returns them as they are written down.
func newRecovery(ctx context.Context, tx *store.Tx, user string) ([]string, error) {
	codes, hashes := make([]string, recoveryCodes), make([][]byte, recoveryCodes)
	for i := range codes {
		c := rand.Text()[:recoveryChars]
		codes[i], hashes[i] = c[:recoveryChars/2]+"-"+c[recoveryChars/2:], recoveryHash(user, c)
	}
	return codes, tx.SetRecoveryCodes(ctx, user, hashes)
}

// NewRecovery makes new recovery codes; those from before don't count any more.
func (a *Accounts) NewRecovery(ctx context.Context, act app.Actor, old string) (Second, error) {
	if err := a.again(ctx, act, old); err != nil {
		return Second{}, err
	}
	var codes []string
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		f, err := tx.SecondFactor(ctx, act.User.ID)
		if err != nil {
			return err
		}
		if f.On == nil {
			return app.ErrNotFound
		}
		codes, err = newRecovery(ctx, tx, act.User.ID)
		return err
	})
	if err != nil {
		return Second{}, err
	}
	own, err := a.Own(ctx, act)
	return Second{own, codes}, err
}

// EndSecond takes the own second factor off.
func (a *Accounts) EndSecond(ctx context.Context, act app.Actor, old string) (Own, error) {
	if err := a.again(ctx, act, old); err != nil {
		return Own{}, err
	}
	if err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error { return a.dropSecond(ctx, tx, act.User.ID, "secondOff") }); err != nil {
		return Own{}, err
	}
	return a.Own(ctx, act)
}

// dropSecond takes a second factor off and writes it down.
func (a *Accounts) dropSecond(ctx context.Context, tx *store.Tx, user, action string) error {
	if err := tx.DropSecondFactor(ctx, user); err != nil {
		return err
	}
	return tx.LogAccess(ctx, a.Now(), store.Access{User: &user, Action: action}, false)
}

// TakeSecondOff takes somebody's second factor off, for an owner; they are signed out.
func (a *Accounts) TakeSecondOff(ctx context.Context, act app.Actor, user string) (Staff, error) {
	if user == act.User.ID {
		return Staff{}, app.Refused("take your own off on your own page, with your password")
	}
	err := a.own(ctx, act, func(tx *store.Tx) error {
		if err := a.dropSecond(ctx, tx, user, "secondTakenOff"); err != nil {
			return err
		}
		_, err := tx.EndDevices(ctx, user, nil, nil, a.Now())
		return err
	})
	if err != nil {
		return Staff{}, err
	}
	return a.Staff(ctx, act)
}
