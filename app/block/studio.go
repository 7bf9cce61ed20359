package block

import (
	"context"
	"encoding/json"
	"errors"
	"math"

	"notchback/app"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/transition"
	"notchback/core/words"
	"notchback/store"
)

// studio is everything a runner's plan is made from.
type studio struct {
	desk     *record.Desk
	layers   record.Layered
	cat      catalogue.Catalogue
	dossier  *record.Dossier
	visit    int // of the dossier: the screening the plan is made from
	current  *record.Frame
	saved    planning.Wishes
	rev      int
	practice planning.School
	ramp     bool
}

func (a *Blocks) openStudio(ctx context.Context, tx *store.Tx, act app.Actor, runner string) (*studio, error) {
	s := &studio{visit: -1}
	var err error
	if s.desk, err = a.Open(ctx, tx, act, runner, nil); err != nil {
		return nil, err
	}
	s.dossier, s.layers, s.practice, s.current = s.desk.D, s.desk.Layers, s.desk.School, s.desk.F
	s.ramp = len(s.desk.Path.Terms) > 0
	s.cat = s.layers.InUse()
	s.saved = planning.Assume(s.cat)
	switch r, err := tx.Wishes(ctx, runner); {
	case err == nil:
		s.saved = planning.Wishes{}
		if err := json.Unmarshal(r.Body, &s.saved); err != nil {
			return nil, err
		}
		s.rev = r.Rev
	case !errors.Is(err, app.ErrNotFound):
		return nil, err
	}
	return s, nil
}

// from picks the screening a plan is made from: the one named, or the newest
// finished one.
func (s *studio) from(screeningID string) error {
	for i, v := range s.dossier.Visits {
		if v.Finished && (screeningID == "" || v.ID == screeningID) {
			s.visit = i
			return nil
		}
		if v.ID == screeningID {
			return app.Refused("finish the screening first")
		}
	}
	if screeningID == "" {
		return app.Refused("a plan is made from a finished screening; screen the runner first")
	}
	return app.ErrNotFound
}

// mayPlan says why no plan can be made now.
func (s *studio) mayPlan(start day.Date) error {
	for _, f := range s.desk.Book.Flags() {
		if f.Everything {
			return app.Refused("Everything is closed: " + words.Flag(f))
		}
	}
	if age := record.AgeOn(record.PersonOf(s.dossier.Runner), start); age.Known && age.Years < safety.Adult && !s.dossier.Visits[s.visit].Talk.GuardianConsent {
		return app.Refused("under 18: note the guardian's consent in the talk first")
	}
	return nil
}

// evidence gathers what a plan is made from, as of its start.
func (s *studio) evidence(start day.Date, school planning.School) planning.Evidence {
	sc := s.dossier.Visits[s.visit]
	gates := s.desk.Path.Evidence
	gates.On = start
	gates.Barefoot = safety.BarefootSchool(school.Is(planning.AskBarefoot))
	e := s.desk.Book.PlanEvidence()
	if c, ok := s.desk.Path.CueNow(); ok {
		e.Cue = c.Ladder
	}
	for d := range 7 { // the week the block begins in, or the next whole one
		for _, x := range view.All(s.desk.Path, transition.FirstMonday(start)+day.Date(d)) {
			if x.Stage == transition.Drills || x.Stage == transition.Run || x.Stage == transition.Bare {
				e.RampRuns[d] = true
			}
		}
	}
	e.On, e.Findings, e.Results, e.Gates, e.Since, e.Proven, e.Ramp = start, sc.Findings, nil, safety.Gates(gates), sc.On, map[string]int{}, s.ramp
	e.RetestWeeks = s.desk.Practice.RetestWeeks
	e.HardFloor = s.dossier.Visits[s.visit].Talk.OnHardFloor()
	e.Standing, e.Setbacks, e.Stopped = map[string]int{}, nil, nil
	var better []screening.TestID
	for _, r := range sc.Results {
		e.Results = append(e.Results, r.Result)
		if r.Since != nil && (r.Since.Left.Change == screening.Better || r.Since.Right.Change == screening.Better) && r.Since.Left.Change != screening.Worse && r.Since.Right.Change != screening.Worse {
			better = append(better, r.Test)
		}
	}
	e.Improved = planning.Improved(sc.Findings, better)
	if r := s.dossier.Runner.IntakeFirstStep; r != nil && s.current == nil {
		e.Baseline = float64(*r)
	}
	// Kilometres come from the runs; the intake's number only fills what is missing.
	intake := s.desk.G.Intake
	if km := s.dossier.Runner.WeeklyKm; intake == nil && km != nil {
		m := int(math.Round(*km * 1000))
		intake = &m
	}
	e.FourWeeks = load.Before(s.desk.G.Runs, s.desk.Today.Monday(), intake, s.desk.Book.OutOfMeans)
	if f := s.current; f != nil {
		f.Book.Known(&e, start)
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
		RunnerID: s.dossier.Runner.ID, RunnerName: s.dossier.Runner.Name, ScreeningID: s.dossier.Visits[s.visit].ID, Start: p.Start, Wishes: w, Fits: p.Fits, Injured: p.Injured,
		Phases: p.Phases, Choices: []view.ChoiceView{}, Left: p.Left, Main: []view.MainDay{}, Weeks: p.Weeks, Relax: []RelaxView{}, Minimum: []view.MinimumView{}, Minutes: p.Minutes,
		Says: p.Says, Remarks: []string{}, Changes: []string{}, Cautions: safety.Cautions,
	}
	if v.Left == nil {
		v.Left = []planning.Left{}
	}
	for _, d := range p.Days {
		v.Days = append(v.Days, d)
	}
	for _, m := range p.Layout.MainWhy {
		v.Main = append(v.Main, view.MainDay{Day: m.Day, Why: view.Whys(m.Why)})
	}
	for i, ch := range p.Choices {
		v.Choices = append(v.Choices, view.ChoiceOf(p, i, ch, s.ladder(ch.Ladder), s.name))
	}
	for _, r := range p.Relax {
		v.Relax = append(v.Relax, RelaxView{r.Kind, words.Relax(r), r.Week, r.Ladder, r.Kind == planning.RelaxMinimum})
	}
	for _, m := range p.Minimum {
		l, _ := s.layers.Ladder(m.Ladder)
		v.Minimum = append(v.Minimum, view.MinimumView{Ladder: m.Ladder, Name: l.Name, Words: words.Notch(l.At(m.Notch)), Minutes: m.Seconds / 60})
	}
	for _, r := range p.Remarks {
		v.Remarks = append(v.Remarks, words.Remark(r, s.name))
	}
	return v
}

func (s *studio) ladder(id string) catalogue.Ladder {
	l, _ := s.layers.Ladder(id)
	return l
}
