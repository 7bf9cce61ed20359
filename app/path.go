package app

import (
	"context"
	"encoding/json"
	"math"
	"slices"
	"strings"

	"notchback/core/adjust"
	"notchback/core/body"
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

// rampKept is everything stored of a runner's ramps.
type rampKept struct {
	terms    []transition.Terms // since the last end, oldest first
	rev      int
	cadence  *transition.CadenceTerms
	cadRev   int
	recounts []transition.Recount
	looks    []transition.CueLook
	dates    []store.RampDate
}

func loadRamps(ctx context.Context, tx *store.Tx, runner string) (*rampKept, error) {
	k := &rampKept{}
	revs, err := tx.Ramps(ctx, runner)
	if err != nil {
		return nil, err
	}
	for _, r := range revs {
		if r.Kind == "barefoot" {
			var x RampInput
			if err := json.Unmarshal(r.Body, &x); err != nil {
				return nil, err
			}
			k.rev = r.Rev
			if x.Ended {
				k.terms = nil
			} else {
				k.terms = append(k.terms, x.Terms)
			}
			continue
		}
		var x CadenceRampInput
		if err := json.Unmarshal(r.Body, &x); err != nil {
			return nil, err
		}
		k.cadRev, k.cadence = r.Rev, &x.Terms
		if x.Ended {
			k.cadence = nil
		}
	}
	events, err := tx.RampEvents(ctx, runner)
	if err != nil {
		return nil, err
	}
	for _, e := range events {
		if e.Kind == "recount" {
			var x transition.Recount
			if err := json.Unmarshal(e.Body, &x); err != nil {
				return nil, err
			}
			k.recounts = append(k.recounts, x)
			continue
		}
		var x transition.CueLook
		if err := json.Unmarshal(e.Body, &x); err != nil {
			return nil, err
		}
		k.looks = append(k.looks, x)
	}
	k.dates, err = tx.RampDates(ctx, runner)
	return k, err
}

// path is everything a runner's ramps are made from.
type path struct {
	*rampKept
	cat      catalogue.Catalogue // where there is no block
	d        *dossier
	g        *gathered
	f        *frame // the present block; nil for none
	today    day.Date
	school   planning.School
	evidence safety.Evidence
	gates    []safety.GateState
	outlooks map[catalogue.Gate]transition.Outlook
	days     []transition.Reading
	flares   []transition.Flare
	ramp     *transition.Ramp
	heldBy   map[day.Date]string
	beats    *transition.CadencePlan
}

// footTissues are those that bare feet load.
var footTissues = []body.Tissue{body.Achilles, body.Sole, body.Forefoot, body.Shin}

func (a *App) openPath(ctx context.Context, tx *store.Tx, act Actor, runner string) (*path, error) {
	b, err := tx.CurrentBlock(ctx, runner)
	switch {
	case err == nil:
		f, err := a.loadFrame(ctx, tx, act, b)
		if err != nil {
			return nil, err
		}
		return f.path, nil
	case err != ErrNotFound:
		return nil, err
	}
	p := &path{today: a.Today(act)}
	layers, err := a.catalogueFor(ctx, tx)
	if err != nil {
		return nil, err
	}
	p.cat = layers.Catalogue
	if p.d, err = a.loadDossier(ctx, tx, act, runner); err != nil {
		return nil, err
	}
	if p.g, err = a.gather(ctx, tx, act, runner, p.d); err != nil {
		return nil, err
	}
	if p.school, _, err = a.schoolOf(ctx, tx); err != nil {
		return nil, err
	}
	if p.rampKept, err = loadRamps(ctx, tx, runner); err != nil {
		return nil, err
	}
	p.evidence = p.d.evidence(0, p.today)
	p.evidence.Barefoot = p.school.Is("barefoot")
	p.look()
	return p, nil
}

// mornings returns the readings of foot and calf with where they began.
func (p *path) mornings() ([]adjust.Morning, float64) {
	if p.f != nil {
		return p.f.series(footTissues, body.Both)
	}
	var out []adjust.Morning
	var first []body.Pain
	for _, m := range p.g.mornings {
		if m.FirstStep == nil || !shares(m, footTissues, body.Both) {
			continue
		}
		on := dateOf(m.On)
		if n := len(out); n > 0 && out[n-1].On == on {
			out[n-1].FirstStep = max(out[n-1].FirstStep, *m.FirstStep)
			continue
		}
		out = append(out, adjust.Morning{On: on, FirstStep: *m.FirstStep})
		first = append(first, *m.FirstStep)
	}
	return out, adjust.StartingBaseline(first, p.d.runner.IntakeFirstStep)
}

// look adds to the evidence what was lived, decides the gates and plans the ramp.
func (p *path) look() {
	p.heldBy = map[day.Date]string{}
	series, b0 := p.mornings()
	h := adjust.History{Mornings: series, B0: b0}
	at := map[day.Date]body.Pain{}
	for _, m := range series {
		at[m.On] = m.FirstStep
	}
	minutes := map[day.Date]int{}
	for on, n := range p.g.notes {
		if n.BarefootMinutes != nil && on <= p.today {
			minutes[on] = *n.BarefootMinutes
		}
	}
	p.evidence.HomeDays = safety.HomeFortnight(minutes, func(d day.Date) (body.Pain, bool) { v, ok := at[d]; return v, ok }, h.Baseline, p.today)
	p.evidence.ShareHeld = load.ShareHeld(p.g.runs, p.today)
	p.days = p.readings(h, at)
	p.decide()
	if len(p.terms) == 0 {
		return
	}
	r := transition.Plan(p.input(p.terms))
	p.ramp = &r
	if on := r.WalkPassed(); on != nil {
		p.evidence.WalkPassed = on
		p.decide()
	}
}

func (p *path) decide() {
	p.gates = safety.Gates(p.evidence)
	p.outlooks = transition.Outlooks(p.gates, p.today, personOf(p.d.runner).Birth, p.pogoWeeks(), p.flags())
}

// flags are those that stand, the engine's own flares left out: the ramp knows them
// by themselves.
func (p *path) flags() []safety.Standing { return p.d.standingFlags() }

// runningHolds says why running lets nothing rise in a week: it rose or jumped in
// the week before, or in this one, or nobody knows how much it is.
func (p *path) runningHolds(monday day.Date) string {
	this := p.today.Monday()
	if monday > this {
		return ""
	}
	intake := p.g.intake
	if intake == nil && len(p.terms) > 0 && p.terms[0].WeeklyMetres > 0 {
		intake = &p.terms[0].WeeklyMetres
	}
	classes := []load.Class{load.State(p.g.runs, monday-1, 0, intake).Class}
	if monday == this {
		classes = append(classes, load.State(p.g.runs, p.today, p.g.plannedRest(p.today), intake).Class)
	}
	for _, c := range classes {
		switch c {
		case load.Spike:
			return "running jumped"
		case load.Rise:
			return "running rose"
		case load.Unknown:
			return "weekly running is not known"
		}
	}
	return ""
}

// readings gathers the days of a ramp: notes, mornings, runs in minimal shoes.
func (p *path) readings(h adjust.History, at map[day.Date]body.Pain) []transition.Reading {
	days := map[day.Date]*transition.Reading{}
	of := func(d day.Date) *transition.Reading {
		if days[d] == nil {
			days[d] = &transition.Reading{On: d, Usual: h.Baseline(d)}
		}
		return days[d]
	}
	for on, n := range p.g.notes {
		r := of(on)
		r.HomeMinutes, r.Soreness, r.Tender = n.BarefootMinutes, n.CalfSoreness, n.BoneTender
		r.Done = append(r.Done, n.Exposure...)
	}
	for on, v := range at {
		of(on).Morning = &v
	}
	for _, run := range p.g.runs {
		stage := transition.Run
		switch run.Footwear {
		case load.MinimalShoe:
		case load.BareFeet:
			stage = transition.Bare
		default:
			continue
		}
		r := of(run.On)
		if !slices.ContainsFunc(r.Done, func(x transition.Done) bool { return x.Stage == stage }) {
			r.Done = append(r.Done, transition.Done{Stage: stage, Minutes: int(math.Round(run.Minutes()))})
		}
	}
	out := make([]transition.Reading, 0, len(days))
	for _, r := range days {
		out = append(out, *r)
	}
	slices.SortFunc(out, func(a, b transition.Reading) int { return int(a.On - b.On) })
	return out
}

// pogoWeeks is how many notches are still to go to 60 s on two legs.
func (p *path) pogoWeeks() int {
	l, ok := p.ladder("spring-pogo")
	if !ok {
		return 0
	}
	goal := 0
	for i := 1; i <= l.Len(); i++ {
		if pogoMinute(l.At(i)) {
			goal = i
			break
		}
	}
	at := 1
	if p.f != nil {
		if x, ok := p.f.prescription(l.ID); ok {
			at = p.f.pegs[x.ID][body.Left].Notch
		}
	}
	return max(0, goal-at)
}

func (p *path) ladder(id string) (catalogue.Ladder, bool) {
	if p.f != nil {
		if x, ok := p.f.prescription(id); ok {
			return p.f.ladders[x.ID], true
		}
		return p.f.cat.Ladder(id)
	}
	return p.cat.Ladder(id)
}

// pogoMinute reports a notch of 60 s of free two-leg pogo or more.
func pogoMinute(n catalogue.Notch) bool {
	return n.Exercise.ID == "pogo-two" && n.Dose.Sets*n.Dose.HoldSeconds >= 60
}

// byRamp reports a ladder that the ramp stands in for while there is one.
func byRamp(ladder string) bool { return strings.HasPrefix(ladder, "exposure-") }

// held says in words why nothing of the barefoot ramp rises in a week: the block's
// rhythm, a flag that closes progress, running.
func (p *path) held(monday day.Date) string {
	why, known := p.heldBy[monday]
	if !known {
		why = p.holds(monday)
		p.heldBy[monday] = why // a thousand futures ask for the same weeks
	}
	return why
}

func (p *path) holds(monday day.Date) string {
	if why := p.rhythm(monday); why != "" {
		return why
	}
	if monday >= p.today.Monday() {
		for _, f := range p.flags() {
			if f.ProgressOnly {
				return "flag " + string(f.Flag) + " closes progress"
			}
		}
	}
	return p.runningHolds(monday)
}

// rhythm is the block's lighter, race and half weeks.
func (p *path) rhythm(monday day.Date) string {
	start, race := day.Date(0), (*planning.Race)(nil)
	if p.f != nil {
		start, race = p.f.start, p.f.plan.Wishes.Race
	} else if len(p.terms) > 0 {
		start = transition.FirstMonday(p.terms[0].From)
	}
	if kind := planning.KindOf(start, race, max(monday, start)); kind.Holds() && monday >= start.Monday() {
		return words.WeekKind(kind) + " week"
	}
	return ""
}

func (p *path) input(terms []transition.Terms) transition.Input {
	in := transition.Input{Today: p.today, Start: terms[0].From, Terms: terms, Gates: p.outlooks, Readings: p.days, Flares: p.flares, Held: p.held, Cadence: load.LastCadence(p.g.runs, p.today)}
	for _, c := range p.d.clearances {
		if strings.HasPrefix(string(c.Flag), "F-BONE") && c.On <= p.today && (in.Cleared == nil || c.On > *in.Cleared) {
			in.Cleared = &c.On
		}
	}
	if c, ok := p.reading(screening.CadenceTest); ok && in.Cadence == 0 {
		in.Cadence = c
	}
	if v, ok := p.reading("strike-easy"); ok {
		in.Strike = load.MidForeStrike
		if v <= 1 {
			in.Strike = load.RearStrike
		}
	}
	return in
}

// reading returns the newest value of a test, the left or only side.
func (p *path) reading(id screening.TestID) (float64, bool) {
	for _, v := range p.d.visits {
		for _, r := range v.Results {
			if r.Test == id && r.Left.Measured() {
				return *r.Left.Value, true
			}
		}
	}
	return 0, false
}
