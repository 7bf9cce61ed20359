// Package pocket is the room of the runner's phone: the way in, its devices, words
// with the coach, the plan it carries and what it reports.
package pocket

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"errors"
	"strings"
	"time"

	"notchback/app"
	"notchback/app/record"
	"notchback/core/safety"
	"notchback/core/words"
	"notchback/store"
)

// Pockets is the room.
type Pockets struct{ *record.Book }

// How long a link works and for how many devices, and after how long a silence a
// device is out (words.PocketSource).
const (
	LinkDays    = 14
	LinkDevices = 3
	QuietDays   = 180
)

// Of a device's name and a note, in characters.
const (
	mostName  = 60
	mostNote  = 1000
	notesKept = 30
)

const dayLong = 24 * time.Hour

// hash is what is kept of a token or a secret.
func hash(secret string) []byte {
	h := sha256.Sum256([]byte(secret))
	return h[:]
}

// LinkView is a way in as the coach sees it; the token itself is shown once.
type LinkView struct {
	Token   string    `json:"token,omitempty" doc:"Goes into the fragment of the address; it can't be shown again"`
	At      time.Time `json:"at"`
	Until   time.Time `json:"until"`
	Devices int       `json:"devices"`
	Open    bool      `json:"open" doc:"It still lets a phone in"`
}

// DeviceView is a phone of a runner.
type DeviceView struct {
	ID       string    `json:"id"`
	Name     string    `json:"name"`
	At       time.Time `json:"at"`
	SeenAt   time.Time `json:"seenAt"`
	New      bool      `json:"new,omitempty" doc:"The coach has not looked since it came"`
	Out      string    `json:"out,omitempty" doc:"Why it is signed out"`
	This     bool      `json:"this,omitempty" doc:"The one that asks"`
	ClockOff string    `json:"clockOff,omitempty" doc:"How its clock is wrong, in words"`
}

// WayView is all there is about a runner's phones.
type WayView struct {
	Links   []LinkView   `json:"links" nullable:"false" doc:"Those that still let a phone in"`
	Devices []DeviceView `json:"devices" nullable:"false"`
	Refused string       `json:"refused,omitempty" doc:"Why no link can be made"`
}

// clockFrom is how far a clock is off before anybody is told, in seconds (house).
const clockFrom = 120

func clockWords(off *int) string {
	if off == nil || *off > -clockFrom && *off < clockFrom {
		return ""
	}
	n, which := *off, "ahead"
	if n < 0 {
		n, which = -n, "behind"
	}
	span := app.Plural(n/60, "minute", "minutes")
	switch {
	case n >= 2*86400:
		span = app.Plural(n/86400, "day", "days")
	case n >= 2*3600:
		span = app.Plural(n/3600, "hour", "hours")
	}
	return "its clock is " + span + " " + which
}

func deviceView(d store.PocketDevice, now time.Time) DeviceView {
	v := DeviceView{ID: d.ID, Name: d.Name, At: d.At, SeenAt: d.SeenAt, New: d.ToldAt == nil, ClockOff: clockWords(d.ClockOff)}
	switch {
	case d.RevokedBy == "coach":
		v.Out = "signed out by a coach"
	case d.RevokedBy == "runner":
		v.Out = "signed out by the runner"
	case now.Sub(d.SeenAt) > QuietDays*dayLong:
		v.Out = "silent for half a year"
	}
	return v
}

func open(l store.PocketLink, now time.Time) bool {
	return l.RevokedAt == nil && now.Before(l.Until) && l.Devices < LinkDevices
}

func (a *Pockets) way(ctx context.Context, tx *store.Tx, act app.Actor, runner string) (WayView, error) {
	out := WayView{Links: []LinkView{}, Devices: []DeviceView{}}
	d, err := a.LoadDossier(ctx, tx, act, runner)
	if err != nil {
		return out, err
	}
	if err := minor(d, a, act); err != nil {
		out.Refused = err.Error()
	}
	links, err := tx.PocketLinks(ctx, runner)
	if err != nil {
		return out, err
	}
	now := a.Now()
	for _, l := range links {
		if open(l, now) {
			out.Links = append(out.Links, LinkView{At: l.At, Until: l.Until, Devices: l.Devices, Open: true})
		}
	}
	devices, err := tx.PocketDevices(ctx, runner)
	for _, x := range devices {
		out.Devices = append(out.Devices, deviceView(x, now))
	}
	return out, err
}

// minor refuses a minor's link without the guardian's consent on record.
func minor(d *record.Dossier, a *Pockets, act app.Actor) error {
	age := record.AgeOn(record.PersonOf(d.Runner), a.Today(act))
	if age.Known && age.Years >= safety.Adult {
		return nil
	}
	if len(d.Visits) > 0 && d.Visits[0].Talk.GuardianConsent {
		return nil
	}
	if !age.Known {
		return app.Refused("the age is not known; note the date of birth first")
	}
	return app.Refused(words.PocketMinor)
}

// Way shows a runner's links and phones.
func (a *Pockets) Way(ctx context.Context, act app.Actor, runner string) (WayView, error) {
	var out WayView
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		out, err = a.way(ctx, tx, act, runner)
		return err
	})
	return out, err
}

// AddLink makes a way in for a runner's phone; the token is shown this once.
func (a *Pockets) AddLink(ctx context.Context, act app.Actor, runner string) (LinkView, error) {
	token := rand.Text() // 130 bits
	now := a.Now()
	out := LinkView{Token: token, At: now, Until: now.Add(LinkDays * dayLong), Open: true}
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		d, err := a.LoadDossier(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		if err := minor(d, a, act); err != nil {
			return err
		}
		if err := tx.AddPocketLink(ctx, runner, hash(token), act.User.ID, now, out.Until); err != nil {
			return err
		}
		return tx.Note(ctx, runner, now, &act.User.ID, "pocket", "A link for the runner's phone was made", nil)
	})
	return out, err
}

// EndLinks ends all links of a runner; phones that are in stay in.
func (a *Pockets) EndLinks(ctx context.Context, act app.Actor, runner string) (WayView, error) {
	var out WayView
	err := a.Write(ctx, act, func(tx *store.Tx) (err error) {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		if err := tx.RevokePocketLinks(ctx, runner, a.Now()); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.Now(), &act.User.ID, "pocket", "All links for phones were ended", nil); err != nil {
			return err
		}
		out, err = a.way(ctx, tx, act, runner)
		return err
	})
	return out, err
}

// EndDevice signs a runner's phone out, on a coach's word.
func (a *Pockets) EndDevice(ctx context.Context, act app.Actor, runner, device string) (WayView, error) {
	var out WayView
	err := a.Write(ctx, act, func(tx *store.Tx) (err error) {
		if err := tx.RevokePocketDevice(ctx, runner, device, "coach", a.Now()); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.Now(), &act.User.ID, "pocket", "A phone was signed out", nil); err != nil {
			return err
		}
		out, err = a.way(ctx, tx, act, runner)
		return err
	})
	return out, err
}

// Greeting is what a link answers before anybody agreed to anything.
type Greeting struct {
	FirstName string   `json:"firstName"`
	Practice  string   `json:"practice"`
	Language  string   `json:"language" enum:"en,de"`
	Consent   []string `json:"consent" nullable:"false"`
}

// FirstName is the name a runner is called by.
func FirstName(name string) string {
	first, _, _ := strings.Cut(strings.TrimSpace(name), " ")
	return first
}

// errNoWay is the one answer to every link that opens nothing.
var errNoWay = app.Refused(words.PocketNoWay)

// through runs fn for a link that lets somebody in; every other link gets the same
// answer.
func (a *Pockets) through(ctx context.Context, token string, fn func(tx *store.Tx, l store.PocketLink, r store.Runner, p store.Practice) error) error {
	practice, runner, link, err := a.Store.PocketLinkOwner(ctx, hash(token))
	switch {
	case errors.Is(err, app.ErrNotFound):
		return errNoWay
	case err != nil:
		return err
	}
	return a.Store.In(ctx, practice, func(tx *store.Tx) error {
		l, err := tx.HoldPocketLink(ctx, link)
		if err != nil {
			return err
		}
		if !open(l, a.Now()) {
			return errNoWay
		}
		r, err := tx.Runner(ctx, runner)
		if err != nil {
			return err
		}
		p, err := tx.PracticeSelf(ctx)
		if err != nil {
			return err
		}
		return fn(tx, l, r, p)
	})
}

// Greet answers a link: whose it is, and what they would agree to.
func (a *Pockets) Greet(ctx context.Context, token string) (Greeting, error) {
	var out Greeting
	err := a.through(ctx, token, func(_ *store.Tx, _ store.PocketLink, r store.Runner, p store.Practice) error {
		l := record.LanguageOf(r, p)
		out = Greeting{FirstName(r.Name), p.Name, string(l), l.PocketConsent(p.Name)}
		return nil
	})
	return out, err
}

// Join lets a phone in that agreed, and returns its secret.
func (a *Pockets) Join(ctx context.Context, token, name string) (secret string, err error) {
	name = strings.TrimSpace(name)
	if name == "" || len([]rune(name)) > mostName {
		return "", app.Invalid{{Field: "name", Message: "a name for this phone is needed, up to 60 characters"}}
	}
	secret = rand.Text() + rand.Text()
	err = a.through(ctx, token, func(tx *store.Tx, l store.PocketLink, r store.Runner, p store.Practice) error {
		now, agreed := a.Now(), record.LanguageOf(r, p).PocketConsent(p.Name)
		if _, err := tx.AddPocketDevice(ctx, r.ID, l.ID, name, strings.Join(agreed, "\n"), hash(secret), now); err != nil {
			return err
		}
		if err := tx.LogAccess(ctx, now, store.Access{Runner: &r.ID, Action: "joinPocket"}, false); err != nil {
			return err
		}
		return tx.Note(ctx, r.ID, now, nil, "pocket", "A phone came in: "+name+". What is kept, who reads it and how to leave was agreed to", agreed)
	})
	return secret, err
}

// EnterPocket is who a phone's secret belongs to; ErrSignedOut where it is out.
func (a *Pockets) EnterPocket(ctx context.Context, secret, operation string) (app.Actor, error) {
	if secret == "" {
		return app.Actor{}, app.ErrSignedOut
	}
	practice, runner, device, err := a.Store.PocketDeviceOwner(ctx, hash(secret))
	switch {
	case errors.Is(err, app.ErrNotFound):
		return app.Actor{}, app.ErrSignedOut
	case err != nil:
		return app.Actor{}, err
	}
	act := app.Actor{Practice: practice, Runner: runner, Device: device}
	err = a.Store.In(ctx, practice, func(tx *store.Tx) error {
		d, err := tx.PocketDevice(ctx, device)
		if err != nil {
			return err
		}
		now := a.Now()
		if now.Sub(d.SeenAt) > QuietDays*dayLong {
			return app.ErrSignedOut
		}
		r, err := tx.Runner(ctx, runner)
		if err != nil {
			return err
		}
		p, err := tx.PracticeSelf(ctx)
		if err != nil {
			return err
		}
		act.User = store.User{ID: runner, Name: FirstName(r.Name), Role: app.RunnerRole, Practice: p.Name, Zone: p.Zone}
		if err := tx.SeePocketDevice(ctx, device, now, nil, ""); err != nil {
			return err
		}
		return tx.LogAccess(ctx, now, store.Access{Runner: &runner, Action: operation}, true)
	})
	if err != nil {
		return act, err
	}
	act.Zone, err = time.LoadLocation(act.User.Zone)
	return act, err
}

// Speak sets the language the runner reads in, on every phone and sheet.
func (a *Pockets) Speak(ctx context.Context, act app.Actor, l words.Language) error {
	if !l.Known() {
		return app.Wrong("language", "that is not a language there is")
	}
	return a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if err := tx.SetLanguage(ctx, act.Runner, string(l)); err != nil {
			return err
		}
		return tx.Note(ctx, act.Runner, a.Now(), nil, "pocket", "The runner reads in "+l.Name()+" now", nil)
	})
}

// Leave signs a phone of the runner out, this one or another.
func (a *Pockets) Leave(ctx context.Context, act app.Actor, device string) error {
	if device == "" {
		device = act.Device
	}
	return a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if err := tx.RevokePocketDevice(ctx, act.Runner, device, "runner", a.Now()); err != nil {
			return err
		}
		return tx.Note(ctx, act.Runner, a.Now(), nil, "pocket", "The runner signed a phone out", nil)
	})
}
