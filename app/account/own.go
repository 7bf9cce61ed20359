package account

import (
	"context"
	"errors"
	"strings"
	"time"

	"notchback/app"
	"notchback/core/units"
	"notchback/store"
)

// Device is a browser somebody is signed in with.
type Device struct {
	ID   string    `json:"id"`
	Name string    `json:"name"`
	At   time.Time `json:"at"`
	Seen time.Time `json:"seen"`
	Here bool      `json:"here,omitempty" doc:"The one that asks"`
}

// Own is what somebody sees of their own page.
type Own struct {
	Name    string   `json:"name"`
	Email   string   `json:"email"`
	Units   string   `json:"units" enum:"metric,imperial," doc:"Empty where the practice's do"`
	Devices []Device `json:"devices" nullable:"false"`
	Second  bool     `json:"second" doc:"A second device is asked for at sign-in"`
	Codes   int      `json:"codes" doc:"Recovery codes left"`
	Keys    []Key    `json:"keys" nullable:"false" doc:"Of programs"`
}

// OpenDevice notes a sign-in on a browser and returns the name of its place in the session.
func (a *Accounts) OpenDevice(ctx context.Context, practice, user, agent string) (id string, err error) {
	err = a.Store.In(ctx, practice, func(tx *store.Tx) error {
		id, err = tx.AddDevice(ctx, user, browserName(agent), a.Signed())
		return err
	})
	return id, err
}

// CloseDevice ends a sign-in.
func (a *Accounts) CloseDevice(ctx context.Context, practice, user, device string) error {
	return a.Store.In(ctx, practice, func(tx *store.Tx) error {
		_, err := tx.EndDevices(ctx, user, &device, nil, a.Now())
		return err
	})
}

// browserName says what a browser's own words make of it: which one, on what.
func browserName(agent string) string {
	first := func(list [][2]string, otherwise string) string {
		for _, x := range list {
			if strings.Contains(agent, x[0]) {
				return x[1]
			}
		}
		return otherwise
	}
	return first([][2]string{{"Firefox/", "Firefox"}, {"Edg/", "Edge"}, {"Chrome/", "Chrome"}, {"Safari/", "Safari"}}, "A program") + " on " +
		first([][2]string{{"iPhone", "a phone"}, {"iPad", "a tablet"}, {"Android", "a phone or tablet"}, {"Windows", "Windows"}, {"Macintosh", "macOS"}, {"Linux", "Linux"}}, "something unknown")
}

// Own returns somebody's own page.
func (a *Accounts) Own(ctx context.Context, act app.Actor) (Own, error) {
	out := Own{Name: act.User.Name, Email: act.User.Email, Units: act.User.OwnUnits, Devices: []Device{}}
	now := a.Signed()
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		list, err := tx.UserDevices(ctx, act.User.ID, now.Add(-DeviceLife), now.Add(-time.Duration(act.User.IdleMinutes)*time.Minute))
		for _, d := range list {
			out.Devices = append(out.Devices, Device{ID: d.ID, Name: d.Name, At: d.At, Seen: d.Seen, Here: d.ID == act.Device})
		}
		if err != nil {
			return err
		}
		if out.Keys, err = a.keys(ctx, tx, act.User.ID); err != nil {
			return err
		}
		f, err := tx.SecondFactor(ctx, act.User.ID)
		if errors.Is(err, app.ErrNotFound) {
			return nil
		}
		if f.On != nil {
			out.Second, out.Codes = true, f.Codes
		}
		return err
	})
	return out, err
}

// SignOutOf ends somebody's own sign-in on a device, or on all others for "".
func (a *Accounts) SignOutOf(ctx context.Context, act app.Actor, device string) (Own, error) {
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if device == "" {
			_, err := tx.EndDevices(ctx, act.User.ID, nil, &act.Device, a.Now())
			return err
		}
		n, err := tx.EndDevices(ctx, act.User.ID, &device, nil, a.Now())
		if err == nil && n == 0 {
			return app.ErrNotFound
		}
		return err
	})
	if err != nil {
		return Own{}, err
	}
	return a.Own(ctx, act)
}

// errPassword says that the present password does not fit.
var errPassword = app.Wrong("old", "this is not your present password")

// again asks for somebody's password a second time, as slowly as at the door.
func (a *Accounts) again(ctx context.Context, act app.Actor, password string) error {
	key := throttleKey("again", act.User.ID)
	wait, err := a.Store.TrySignIn(ctx, key, a.Now(), signInWindow, accountWaits)
	if err != nil {
		return err
	}
	if wait > 0 {
		return Throttled{wait}
	}
	var hash string
	err = a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		hash, err = tx.Hash(ctx, act.User.ID)
		return err
	})
	if err != nil {
		return err
	}
	ok, err := a.matches(ctx, password, hash)
	if err != nil {
		return err
	}
	if !ok {
		return errPassword
	}
	return a.Store.ForgetSignInFailures(ctx, key)
}

// Profile is what somebody changes of their own page; a new address needs the password.
type Profile struct {
	Name  string `json:"name" maxLength:"120"`
	Email string `json:"email" maxLength:"200"`
	Units string `json:"units,omitempty" enum:"metric,imperial," doc:"Empty where the practice's do"`
	Old   string `json:"old,omitempty" maxLength:"200" doc:"The present password, for a new address"`
}

// PutProfile changes somebody's name and address.
func (a *Accounts) PutProfile(ctx context.Context, act app.Actor, in Profile) (Own, error) {
	in.Name, in.Email = strings.TrimSpace(in.Name), account(in.Email)
	var bad app.Invalid
	checkName(&bad, in.Name)
	checkEmail(&bad, in.Email)
	if in.Units != "" && !units.System(in.Units).Known() {
		bad.Add("units", "%q are not units there are", in.Units)
	}
	if err := bad.Or(); err != nil {
		return Own{}, err
	}
	if in.Email != account(act.User.Email) {
		if err := a.again(ctx, act, in.Old); err != nil {
			return Own{}, err
		}
	}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if err := app.Still(ctx, tx, act, app.Reads); err != nil {
			return err
		}
		return taken(tx.SetUser(ctx, act.User.ID, in.Name, in.Email, in.Units, a.Now()))
	})
	if err != nil {
		return Own{}, err
	}
	act.User.Name, act.User.Email, act.User.OwnUnits = in.Name, in.Email, in.Units
	return a.Own(ctx, act)
}

// ChangePassword sets a new password for who knows the old one, and signs them out on all
// other devices.
func (a *Accounts) ChangePassword(ctx context.Context, act app.Actor, old, password string) (Own, error) {
	if err := a.again(ctx, act, old); err != nil {
		return Own{}, err
	}
	var bad app.Invalid
	if t := passwordTrouble(password, act.User.Practice, act.User.Name, act.User.Email); t != "" {
		bad.Add("password", "%s", t)
	} else if password == old {
		bad.Add("password", "this is the one you have")
	}
	if err := bad.Or(); err != nil {
		return Own{}, err
	}
	hash, err := a.HashPassword(ctx, password)
	if err != nil {
		return Own{}, err
	}
	err = a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if err := tx.SetHash(ctx, act.User.ID, hash, a.Now()); err != nil {
			return err
		}
		if err := tx.LogAccess(ctx, a.Now(), store.Access{User: &act.User.ID, Action: "passwordChanged"}, false); err != nil {
			return err
		}
		_, err := tx.EndDevices(ctx, act.User.ID, nil, &act.Device, a.Now())
		return err
	})
	if err != nil {
		return Own{}, err
	}
	return a.Own(ctx, act)
}
