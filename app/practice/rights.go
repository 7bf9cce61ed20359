package practice

import (
	"context"
	"slices"
	"strings"
	"time"

	"notchback/app"
	"notchback/core/day"
	"notchback/store"
)

// Times of keeping (house; local rules come first).
const (
	warnDays = 30 // an archived runner's deletion is listed so long before it happens
	keepOn   = 365
)

// Archived is a runner off the bench.
type Archived struct {
	ID    string    `json:"id"`
	Name  string    `json:"name"`
	Since day.Date  `json:"since" format:"date"`
	Goes  *day.Date `json:"goes,omitempty" format:"date" doc:"When the records are deleted; never where the practice keeps them"`
	Soon  bool      `json:"soon,omitempty" doc:"Within 30 days"`
}

// Archive lists the runners off the bench.
func (a *Practices) Archive(ctx context.Context, act app.Actor) ([]Archived, error) {
	out := []Archived{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		p, err := tx.PracticeSelf(ctx)
		if err != nil {
			return err
		}
		list, err := tx.ArchivedRunners(ctx)
		for _, r := range list {
			v := Archived{ID: r.ID, Name: r.Name, Since: day.Of(r.ArchivedAt, act.Zone)}
			if p.KeepYears > 0 {
				goes := goesOn(r, p, act.Zone)
				v.Goes, v.Soon = &goes, goes <= a.Today(act)+warnDays
			}
			out = append(out, v)
		}
		return err
	})
	return out, err
}

// goesOn is the day on which an archived runner's records go: never before they were
// listed for so long under the rule that holds now.
func goesOn(r store.Archived, p store.Practice, zone *time.Location) day.Date {
	on := day.Of(r.ArchivedAt.In(zone).AddDate(p.KeepYears, 0, 0), zone)
	if p.KeepSince != nil {
		on = max(on, app.DateOf(*p.KeepSince)+warnDays)
	}
	if r.KeepUntil != nil {
		on = max(on, app.DateOf(*r.KeepUntil))
	}
	return on
}

// PutAway takes a runner off the bench, or puts one back. Who is off it has no phone and
// no calendar any more, and no nightly review; everything else is kept.
func (a *Practices) PutAway(ctx context.Context, act app.Actor, runner string, away bool) error {
	return a.Write(ctx, act, func(tx *store.Tx) error {
		now := a.Now()
		var at *time.Time
		say := "Back on the bench."
		if away {
			at, say = &now, "Taken off the bench; phones, links and calendars were ended."
			if err := tx.ShutRunner(ctx, runner, now); err != nil {
				return err
			}
		}
		changed, err := tx.ArchiveRunner(ctx, runner, at)
		if err != nil || !changed {
			return err
		}
		return tx.Note(ctx, runner, now, &act.User.ID, "runner", say, nil)
	})
}

// KeepOn puts the deletion of an archived runner's records off by a year.
func (a *Practices) KeepOn(ctx context.Context, act app.Actor, runner string) ([]Archived, error) {
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		return tx.KeepRunner(ctx, runner, (a.Today(act) + keepOn).Time())
	})
	if err != nil {
		return nil, err
	}
	return a.Archive(ctx, act)
}

// Footprint is what there is of a runner, and what deletion takes.
type Footprint struct {
	Name       string `json:"name"`
	Screenings int    `json:"screenings"`
	Blocks     int    `json:"blocks"`
	Sessions   int    `json:"sessions"`
	Runs       int    `json:"runs"`
	Clips      int    `json:"clips"`
	Phones     int    `json:"phones" doc:"Signed in"`
	Journal    int    `json:"journal" doc:"Lines"`
}

// Footprint returns it.
func (a *Practices) Footprint(ctx context.Context, act app.Actor, runner string) (out Footprint, err error) {
	err = a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		f, err := tx.Footprint(ctx, runner)
		out = Footprint(f)
		return err
	})
	return out, err
}

// whys are the reasons for a deletion. None says anything about the person.
var whys = []string{"asked", "mistake", "left"}

// MayErase checks that a deletion is meant: an owner, a reason, and the runner's name.
func (a *Practices) MayErase(ctx context.Context, act app.Actor, runner, name, why string) error {
	var f store.Footprint
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		if err := app.Still(ctx, tx, act, app.Owns); err != nil {
			return err // before a file goes
		}
		f, err = tx.Footprint(ctx, runner)
		return err
	})
	if err != nil {
		return err
	}
	var bad app.Invalid
	if !strings.EqualFold(strings.Join(strings.Fields(name), " "), strings.Join(strings.Fields(f.Name), " ")) {
		bad.Add("name", "type the name as it stands above")
	}
	if !slices.Contains(whys, why) {
		bad.Add("why", "expected one of %s", strings.Join(whys, ", "))
	}
	return bad.Or()
}

// Erase deletes all rows of a runner; the files of clips went before.
func (a *Practices) Erase(ctx context.Context, act app.Actor, runner, why string) error {
	return a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if err := app.Still(ctx, tx, act, app.Owns); err != nil {
			return err
		}
		var by *string
		if act.User.ID != "" {
			by = &act.User.ID
			if err := tx.LogAccess(ctx, a.Now(), store.Access{User: by, Action: "deleteRunner"}, false); err != nil {
				return err
			}
		}
		return tx.DeleteRunner(ctx, runner, by, why, a.Now())
	})
}

// Due lists the archived runners whose records go today or should have gone.
func (a *Practices) Due(ctx context.Context, act app.Actor) ([]string, error) {
	list, err := a.Archive(ctx, act)
	var out []string
	for _, r := range list {
		if r.Goes != nil && *r.Goes <= a.Today(act) {
			out = append(out, r.ID)
		}
	}
	return out, err
}

// Consent is what a runner, or who stands for them, agreed to.
type Consent struct {
	ID      string    `json:"id,omitempty"`
	What    string    `json:"what" enum:"records,clips,phone,sharing" doc:"Records kept, clips and photos taken, the phone used, results shown to others"`
	GivenBy string    `json:"givenBy" enum:"runner,guardian"`
	Name    string    `json:"name" maxLength:"120" doc:"Of the guardian"`
	How     string    `json:"how" enum:"paper,spoken,phone,mail"`
	On      day.Date  `json:"on" format:"date"`
	Ended   *day.Date `json:"ended,omitempty" format:"date" doc:"Taken back on this day"`
	By      string    `json:"by,omitempty" doc:"Who wrote it down"`
}

// Consents lists a runner's.
func (a *Practices) Consents(ctx context.Context, act app.Actor, runner string) ([]Consent, error) {
	out := []Consent{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		list, err := tx.Consents(ctx, runner)
		for _, c := range list {
			out = append(out, Consent{ID: c.ID, What: c.What, GivenBy: c.GivenBy, Name: c.Name, How: c.How, On: app.DateOf(c.On), Ended: app.DatePtr(c.Ended), By: c.By})
		}
		return err
	})
	return out, err
}

// AddConsent writes one down.
func (a *Practices) AddConsent(ctx context.Context, act app.Actor, runner string, in Consent) ([]Consent, error) {
	in.Name = strings.TrimSpace(in.Name)
	var bad app.Invalid
	if in.On > a.Today(act) {
		bad.Add("on", "this day is still to come")
	}
	if in.GivenBy == "guardian" && in.Name == "" {
		bad.Add("name", "say who agreed for the runner")
	}
	if err := bad.Or(); err != nil {
		return nil, err
	}
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		return tx.AddConsent(ctx, runner, act.User.ID, store.Consent{What: in.What, GivenBy: in.GivenBy, Name: in.Name, How: in.How, On: in.On.Time()}, a.Now())
	})
	if err != nil {
		return nil, err
	}
	return a.Consents(ctx, act, runner)
}

// EndConsent takes one back from today on.
func (a *Practices) EndConsent(ctx context.Context, act app.Actor, runner, id string) ([]Consent, error) {
	err := a.Write(ctx, act, func(tx *store.Tx) error { return tx.EndConsent(ctx, runner, id, a.Today(act).Time()) })
	if err != nil {
		return nil, err
	}
	return a.Consents(ctx, act, runner)
}
