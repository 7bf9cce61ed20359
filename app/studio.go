package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"

	"notchback/app/record"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/words"
	"notchback/store"
)

// studio is everything a runner's plan is made from.
type studio struct {
	desk     *desk
	layers   layered
	cat      catalogue.Catalogue
	dossier  *dossier
	visit    int // of the dossier: the screening the plan is made from
	current  *frame
	saved    planning.Wishes
	rev      int
	practice planning.School
	ramp     bool
}

func (a *App) openStudio(ctx context.Context, tx *store.Tx, act Actor, runner string) (*studio, error) {
	s := &studio{visit: -1}
	var err error
	if s.desk, err = a.open(ctx, tx, act, runner, nil); err != nil {
		return nil, err
	}
	s.dossier, s.layers, s.practice, s.current = s.desk.d, s.desk.layers, s.desk.school, s.desk.f
	s.ramp = len(s.desk.path.Terms) > 0
	s.cat = s.layers.inUse()
	s.saved = planning.Assume(s.cat)
	switch r, err := tx.Wishes(ctx, runner); {
	case err == nil:
		s.saved = planning.Wishes{}
		if err := json.Unmarshal(r.Body, &s.saved); err != nil {
			return nil, err
		}
		s.rev = r.Rev
	case !errors.Is(err, ErrNotFound):
		return nil, err
	}
	return s, nil
}

// from picks the screening a plan is made from: the one named, or the newest
// finished one.
func (s *studio) from(screeningID string) error {
	for i, v := range s.dossier.visits {
		if v.Finished && (screeningID == "" || v.ID == screeningID) {
			s.visit = i
			return nil
		}
		if v.ID == screeningID {
			return Refused("finish the screening first")
		}
	}
	if screeningID == "" {
		return Refused("a plan is made from a finished screening; screen the runner first")
	}
	return ErrNotFound
}

// mayPlan says why no plan can be made now.
func (s *studio) mayPlan(start day.Date) error {
	for _, f := range s.desk.book.Flags() {
		if f.Everything {
			return Refused(fmt.Sprintf("flag %s closes everything: %s", f.Flag, words.Flag(f)))
		}
	}
	if age := ageOn(record.PersonOf(s.dossier.runner), start); age.Known && age.Years < safety.Adult && !s.dossier.visits[s.visit].Talk.GuardianConsent {
		return Refused("under 18: note the guardian's consent in the talk first")
	}
	return nil
}

// evidence gathers what a plan is made from, as of its start.
func (s *studio) evidence(start day.Date, school planning.School) planning.Evidence {
	sc := s.dossier.visits[s.visit]
	gates := s.desk.path.Evidence
	gates.On = start
	gates.Barefoot = school.Is("barefoot")
	e := s.desk.book.PlanEvidence()
	e.On, e.Findings, e.Results, e.Gates, e.Since, e.Proven, e.Ramp = start, sc.Findings, nil, safety.Gates(gates), sc.On, map[string]int{}, s.ramp
	e.Standing, e.Setbacks, e.Stopped = map[string]int{}, nil, nil
	var better []screening.TestID
	for _, r := range sc.Results {
		e.Results = append(e.Results, r.Result)
		if r.Since != nil && (r.Since.Left.Change == screening.Better || r.Since.Right.Change == screening.Better) && r.Since.Left.Change != screening.Worse && r.Since.Right.Change != screening.Worse {
			better = append(better, r.Test)
		}
	}
	e.Improved = planning.Improved(sc.Findings, better)
	if r := s.dossier.runner.IntakeFirstStep; r != nil && s.current == nil {
		e.Baseline = float64(*r)
	}
	if km := s.dossier.runner.WeeklyKm; km != nil {
		m := int(math.Round(*km * 1000))
		e.FourWeeks = []int{m, m, m, m}
	}
	if f := s.current; f != nil {
		f.book.Known(&e, start)
	}
	return e
}

func (s *studio) plan(start day.Date, w planning.Wishes) planning.Proposal {
	own := w.School
	w.School = s.practice.Over(own)
	p := planning.Plan(s.cat, s.evidence(start, w.School), w)
	return p
}

func (s *studio) name(id string) string {
	if l, ok := s.layers.Ladder(id); ok {
		return l.Name
	}
	return id
}

func (s *studio) view(p planning.Proposal, w planning.Wishes) PlanView {
	v := PlanView{
		RunnerID: s.dossier.runner.ID, RunnerName: s.dossier.runner.Name, ScreeningID: s.dossier.visits[s.visit].ID, Start: p.Start, Wishes: w, Fits: p.Fits, Injured: p.Injured,
		Phases: p.Phases, Choices: []ChoiceView{}, Left: p.Left, Main: []MainDay{}, Weeks: p.Weeks, Relax: []RelaxView{}, Minimum: []MinimumView{}, Minutes: p.Minutes,
		Says: p.Says, Remarks: []string{}, Changes: []string{}, Cautions: safety.Cautions,
	}
	if v.Left == nil {
		v.Left = []planning.Left{}
	}
	for _, d := range p.Days {
		v.Days = append(v.Days, d)
	}
	for _, m := range p.Layout.MainWhy {
		v.Main = append(v.Main, MainDay{m.Day, whys(m.Why)})
	}
	for i, ch := range p.Choices {
		v.Choices = append(v.Choices, choiceView(p, i, ch, s.ladder(ch.Ladder), s.name))
	}
	for _, r := range p.Relax {
		v.Relax = append(v.Relax, RelaxView{r.Kind, words.Relax(r), r.Week, r.Ladder})
	}
	for _, m := range p.Minimum {
		l, _ := s.layers.Ladder(m.Ladder)
		v.Minimum = append(v.Minimum, MinimumView{m.Ladder, l.Name, words.Notch(l.At(m.Notch)), m.Seconds / 60})
	}
	for _, r := range p.Remarks {
		v.Remarks = append(v.Remarks, words.Remark(r, s.name))
	}
	return v
}

func whys(ws []planning.WeekWhy) []string {
	out := []string{}
	for _, w := range ws {
		out = append(out, words.WeekWhy(w))
	}
	return out
}

func (s *studio) ladder(id string) catalogue.Ladder {
	l, _ := s.layers.Ladder(id)
	return l
}

func choiceView(p planning.Proposal, i int, ch planning.Choice, l catalogue.Ladder, name func(string) string) ChoiceView {
	n := l.At(ch.Start.Notch)
	c := ChoiceView{
		Ladder: ch.Ladder, Name: ch.Name, Exercise: n.Exercise.ID, Role: ch.Role, For: ch.For, Place: ch.Place, Words: words.Notch(n), Notch: ch.Start.Notch, Notches: l.Len(),
		Reasons: []ReasonView{}, Ceiling: ch.Ceiling, Locks: []string{}, Swaps: []string{}, Instead: ch.Instead, Notes: ch.Notes, FromWeek: ch.FromWeek,
		Days: []int{}, Why: []string{}, Blocked: []string{}, Path: p.Paths[i].Weeks, Stops: p.Paths[i].Stops, ExtraSetSide: ch.Start.ExtraSetSide, Minutes: n.Seconds() / 60,
	}
	for _, r := range ch.Start.Reasons {
		c.Reasons = append(c.Reasons, ReasonView{Text: words.Start(l, r), Source: r.Source.String()})
	}
	for _, k := range ch.Locks {
		c.Locks = append(c.Locks, k.Words)
	}
	for _, w := range ch.Swaps {
		c.Swaps = append(c.Swaps, w.Take+" in place of "+w.For)
	}
	for d, ss := range p.Days {
		for _, x := range ss {
			if slices.Contains(x.Ladders, ch.Ladder) && !slices.Contains(c.Days, d) {
				c.Days = append(c.Days, d)
			}
		}
	}
	for _, pl := range p.Layout.Places {
		if pl.Ladder != ch.Ladder {
			continue
		}
		c.Why = whys(pl.Why)
		for _, b := range pl.Blocked {
			c.Blocked = append(c.Blocked, "not "+words.Weekday(b.Day)+": "+words.Broken(b, name))
		}
	}
	if len(c.Why) == 0 {
		switch ch.Place {
		case catalogue.PlaceMicro:
			c.Why = append(c.Why, words.WeekWhy(planning.WhyEveryDay))
		case catalogue.PlaceRun:
			c.Why = append(c.Why, "in easy runs")
		case catalogue.PlaceDay:
			c.Why = append(c.Why, "through the day")
		}
	}
	return c
}
