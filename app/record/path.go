package record

import (
	"context"
	"slices"
	"strings"
	"time"

	"notchback/app"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/transition"
	"notchback/store"
)

// CadenceStage marks a day's change of cadence among what a ramp holds.
const CadenceStage transition.Stage = "cadence"

// CueStage marks a day's form cue.
const CueStage transition.Stage = "cue"

// Found are the findings of the newest finished visit.
func (p *Path) Found() []screening.Factor {
	var out []screening.Factor
	for _, s := range p.D.Visits {
		if !s.Finished {
			continue
		}
		for _, f := range s.Findings {
			out = append(out, f.Factor)
		}
		break
	}
	return out
}

// schools are the runner's, or the practice's where there is no block.
func (p *Path) Positions() planning.School {
	if p.f != nil {
		return p.f.Plan.Wishes.School
	}
	return p.school
}

func (p *Path) Cues() []transition.Cue {
	return transition.Cues(p.Found(), p.looks, p.Positions().Is(planning.AskFormOrder) == planning.FormOrderCadenceFirst, p.Today)
}

// CueNow is the cue that was begun and waits for its re-look.
func (p *Path) CueNow() (transition.Cue, bool) {
	if len(p.looks) == 0 {
		return transition.Cue{}, false
	}
	list := p.Cues()
	i := slices.IndexFunc(list, func(c transition.Cue) bool { return c.State == "now" && c.From != nil })
	if i < 0 {
		return transition.Cue{}, false
	}
	return list[i], true
}

// CadenceInput is everything a change of cadence is made from.
func (p *Path) CadenceInput(t transition.CadenceTerms) transition.CadenceInput {
	in := transition.CadenceInput{Today: p.Today, Terms: t, Recounts: p.Recounts, Readings: p.Readings(), Held: p.RhythmName}
	if p.Cadence == nil {
		return in
	}
	gate, _ := safety.Find(p.Gates, safety.CadenceChange)
	switch {
	case len(p.ActiveFlares()) > 0:
		in.Closed = "the calf rests"
	case !gate.Open && slices.ContainsFunc(gate.Needs, func(m safety.Missing) bool { return m.Kind == safety.NeedClearance }):
		in.Closed = strings.Join(gate.Missing, "; ")
	}
	return in
}

func (p *Path) ActiveFlares() []transition.Flare {
	var out []transition.Flare
	for _, x := range p.Flares {
		if x.Until == nil {
			out = append(out, x)
		}
	}
	return out
}

// CalfReady reports the calf ladder at one leg 3 × 15 or past it, both sides.
func (p *Path) CalfReady() bool {
	if p.f == nil {
		return false
	}
	x, ok := p.f.Prescription("calf-straight")
	if !ok {
		return false
	}
	l := p.f.Ladders[x.ID]
	for i := 1; i <= l.Len(); i++ {
		n := l.At(i)
		if n.Exercise.ID == "raise-one" && n.Dose.Sets >= 3 && n.Dose.Reps >= 15 {
			return p.f.Pegs[x.ID][body.Left].Notch >= i && p.f.Pegs[x.ID][body.Right].Notch >= i
		}
	}
	return false
}

// rampKept is what is stored of a runner's ramps beside the terms of bare feet.
type rampKept struct {
	Rev      int
	Cadence  *transition.CadenceTerms
	CadRev   int
	Recounts []transition.Recount
	looks    []transition.CueLook
	Dates    []store.RampDate
}

// Path is everything a runner's ramps are made from.
type Path struct {
	*rampKept
	*course.Path
	cat    catalogue.Catalogue // where there is no block
	D      *Dossier
	G      *Gathered
	f      *Frame // the present block; nil for none
	K      *Desk
	Today  day.Date
	school planning.School
	Beats  *transition.CadencePlan
}

func (a *Book) OpenPath(ctx context.Context, tx *store.Tx, act app.Actor, runner string) (*Path, error) {
	k, err := a.Open(ctx, tx, act, runner, nil)
	if err != nil {
		return nil, err
	}
	return k.Path, nil
}

func (p *Path) Ladder(id string) (catalogue.Ladder, bool) {
	if p.f != nil {
		if x, ok := p.f.Prescription(id); ok {
			return p.f.Ladders[x.ID], true
		}
		return p.f.Cat.Ladder(id)
	}
	return p.cat.Ladder(id)
}

// Reading returns the newest value of a test, the left or only side.
func (d *Dossier) Reading(id screening.TestID) (float64, bool) {
	for _, v := range d.Visits {
		for _, r := range v.Results {
			if r.Test == id && r.Left.Measured() {
				return *r.Left.Value, true
			}
		}
	}
	return 0, false
}

// Draft is what a ramp would begin with: the runner's week and wishes.
func (p *Path) Draft() transition.Terms {
	if n := len(p.Terms); n > 0 {
		return p.Terms[n-1]
	}
	t := transition.Terms{From: transition.FirstMonday(p.Today), Goal: transition.Walk, TargetPercent: 30, RunDays: []int{1, 3, 5}, StrengthDays: []int{0, 3}}
	if p.f != nil {
		t.RunDays, t.StrengthDays = []int{}, []int{}
		for i, r := range p.f.Plan.Wishes.Runs {
			if r == planning.Easy {
				t.RunDays = append(t.RunDays, i)
			}
		}
		for i, sessions := range p.f.Plan.Days {
			if slices.ContainsFunc(sessions, func(s planning.Session) bool { return s.Kind == planning.Main }) {
				t.StrengthDays = append(t.StrengthDays, i)
			}
		}
		switch p.f.Plan.Wishes.Wish {
		case planning.WishHome:
			t.Goal = transition.Home
		case planning.WishMinimal:
			t.Goal = transition.Run
		case planning.WishBare:
			t.Goal = transition.Bare
		}
	}
	if before := load.Before(p.G.Runs, p.Today.Monday(), p.G.Intake, nil); len(before) > 0 {
		sum := 0
		for _, m := range before {
			sum += m
		}
		t.WeeklyMetres = sum / len(before) / 1000 * 1000
	}
	t.PaceSeconds = load.EasyPace(p.G.Runs, p.Today)
	return t
}

func Optional(t *time.Time) *day.Date {
	if t == nil {
		return nil
	}
	d := app.DateOf(*t)
	return &d
}

func (p *Path) DoneOn(on day.Date) []transition.Done {
	for _, r := range p.Readings() {
		if r.On == on {
			return r.Done
		}
	}
	return nil
}

func (p *Path) TermsAt(monday day.Date) transition.Terms {
	return p.Input(p.Terms).TermsAt(monday)
}

// FirstBegin says why a ramp may not begin where the terms say.
func (p *Path) FirstBegin(t transition.Terms) error {
	var bad app.Invalid
	if len(p.Terms) == 0 && t.From < p.Today.Monday() {
		bad.Add("terms.from", "%s is over; a ramp begins this week or later", t.From)
	}
	if t.From > p.Today+366 {
		bad.Add("terms.from", "%s is more than a year away", t.From)
	}
	if t.Begin != "" && t.Begin != transition.Home {
		if g, _ := safety.Find(p.Gates, t.Begin.Gate()); !g.Open {
			bad.Add("terms.begin", "the gate %s is closed: %s", g.Name, strings.Join(g.Missing, "; "))
		}
	}
	return bad.Or()
}

// Redate notes where the goal's date moved, and why.
func (a *Book) Redate(ctx context.Context, tx *store.Tx, p *Path, why string) error {
	if p.Ramp == nil {
		return nil
	}
	var old *day.Date
	if n := len(p.Dates); n > 0 {
		if old = Optional(p.Dates[n-1].Reached); same(old, p.Ramp.Reached) {
			return nil
		}
	}
	if why == "" {
		why = p.Ramp.Why()
	}
	d := store.RampDate{Why: why, On: p.Today.Time()}
	to := "no date"
	if p.Ramp.Reached != nil {
		t := p.Ramp.Reached.Time()
		d.Reached, to = &t, "the week of "+p.Ramp.Reached.Words()
	}
	if err := tx.AddRampDate(ctx, p.D.Runner.ID, d); err != nil {
		return err
	}
	p.Dates = append(p.Dates, d)
	if len(p.Dates) == 1 {
		return nil
	}
	from := "no date"
	if old != nil {
		from = "the week of " + old.Words()
	}
	return tx.Note(ctx, p.D.Runner.ID, a.Now(), nil, "ramp", "Ramp re-dated, from "+from+" to "+to+": "+why, nil)
}

func same(a, b *day.Date) bool { return (a == nil) == (b == nil) && (a == nil || *a == *b) }
