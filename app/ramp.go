package app

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/measure"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/simulate"
	"notchback/core/source"
	"notchback/core/transition"
	"notchback/core/words"
	"notchback/store"
)

// keptRamp is a revision of a barefoot ramp as it is stored.
type keptRamp struct {
	Terms transition.Terms `json:"terms"`
	Ended bool             `json:"ended,omitempty"`
}

// keptCadence is a revision of a change of cadence.
type keptCadence struct {
	Terms transition.CadenceTerms `json:"terms"`
	Ended bool                    `json:"ended,omitempty"`
}

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
			var x keptRamp
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
		var x keptCadence
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
	p.outlooks = transition.Outlooks(p.gates, p.today, personOf(p.d.runner).Birth, p.pogoWeeks())
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

// held says in words why nothing rises in a week.
func (p *path) held(monday day.Date) string {
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

// RampGate is a gate of the board with the stage behind it.
type RampGate struct {
	safety.GateState
	Stage    transition.Stage `json:"stage,omitempty"`
	Earliest *day.Date        `json:"earliest,omitempty" format:"date" doc:"When it may open if nothing goes wrong; missing when nobody knows"`
	Ladders  []Named          `json:"ladders" nullable:"false" doc:"What works on it"`
}

// RampDay is one thing on one day, and whether it was done.
type RampDay struct {
	Stage   transition.Stage `json:"stage" enum:"home,walk,strength,drills,run,bare,cadence"`
	Name    string           `json:"name"`
	Words   string           `json:"words"`
	Minutes int              `json:"minutes"`
	Done    bool             `json:"done"`
}

// RampWeekView is a week with its words.
type RampWeekView struct {
	transition.Week
	Words string `json:"words"`
	Name  string `json:"name" doc:"Of the stage"`
}

// RampMove is a change of the goal's date.
type RampMove struct {
	On   day.Date  `json:"on" format:"date"`
	From *day.Date `json:"from,omitempty" format:"date"`
	To   *day.Date `json:"to,omitempty" format:"date"`
	Why  string    `json:"why"`
}

// RampPlan is a dated ramp in words.
type RampPlan struct {
	Terms   transition.Terms      `json:"terms"`
	Start   day.Date              `json:"start" format:"date"`
	Weeks   []RampWeekView        `json:"weeks" nullable:"false"`
	Now     int                   `json:"now"`
	Range   simulate.Range        `json:"range"`
	Waits   *transition.Wait      `json:"waits,omitempty"`
	Strikes []day.Date            `json:"strikes" nullable:"false"`
	Refer   bool                  `json:"refer"`
	OutTo   *day.Date             `json:"outTo,omitempty" format:"date"`
	Drops   []transition.DropStep `json:"drops" nullable:"false"`
	Says    []string              `json:"says" nullable:"false"`
}

// SchoolRamp is the same ramp under another school.
type SchoolRamp struct {
	Position string    `json:"position"`
	Name     string    `json:"name"`
	Why      string    `json:"why"`
	Mine     bool      `json:"mine"`
	Open     []string  `json:"open" nullable:"false" doc:"Gates of the board that are open"`
	Reached  *day.Date `json:"reached,omitempty" format:"date"`
	Words    string    `json:"words"`
}

// RampView is a runner's way to bare feet and to a quicker step.
type RampView struct {
	RunnerID     string                 `json:"runnerId"`
	RunnerName   string                 `json:"runnerName"`
	Today        day.Date               `json:"today" format:"date"`
	Rev          int                    `json:"rev" doc:"Sent back when saving"`
	Draft        transition.Terms       `json:"draft" doc:"The present terms, or what would be begun with"`
	Plan         *RampPlan              `json:"plan,omitempty" doc:"Missing before a ramp has begun"`
	Days         []RampDay              `json:"days" nullable:"false" doc:"What stands today"`
	Yesterday    []RampDay              `json:"yesterday" nullable:"false"`
	Soreness     *body.Pain             `json:"soreness,omitempty"`
	Gates        []RampGate             `json:"gates" nullable:"false"`
	Schools      []SchoolRamp           `json:"schools" nullable:"false"`
	Moves        []RampMove             `json:"moves" nullable:"false" doc:"Newest first"`
	Assumptions  simulate.Assumptions   `json:"assumptions"`
	Sources      []source.Tag           `json:"sources" nullable:"false"`
	Cautions     []string               `json:"cautions" nullable:"false"`
	Cadence      CadenceView            `json:"cadence"`
	Cues         []CueView              `json:"cues" nullable:"false"`
	CadenceFirst bool                   `json:"cadenceFirst"`
	Shift        transition.StrikeShift `json:"shift"`
}

// rampCautions stand beside every ramp.
var rampCautions = []string{
	"Out of doors not on cold ground, gravel or glass, not on ground over 45 °C, and not with skin that has not healed.",
	"A tender bone at the ball or top of the foot: seven days without any of it. A second time: a clinician looks.",
	"Insoles are not taken away by this plan. A child's foot or one with diabetes: see the safety questions first.",
}

// draft is what a ramp would begin with: the runner's week and wishes.
func (p *path) draft() transition.Terms {
	if n := len(p.terms); n > 0 {
		return p.terms[n-1]
	}
	t := transition.Terms{From: transition.FirstMonday(p.today), Goal: transition.Walk, TargetPercent: 30, RunDays: []int{1, 3, 5}, StrengthDays: []int{0, 3}}
	if p.f != nil {
		t.RunDays, t.StrengthDays = []int{}, []int{}
		for i, r := range p.f.plan.Wishes.Runs {
			if r == planning.Easy {
				t.RunDays = append(t.RunDays, i)
			}
		}
		for i, sessions := range p.f.plan.Days {
			if slices.ContainsFunc(sessions, func(s planning.Session) bool { return s.Kind == planning.Main }) {
				t.StrengthDays = append(t.StrengthDays, i)
			}
		}
		switch p.f.plan.Wishes.Wish {
		case planning.WishHome:
			t.Goal = transition.Home
		case planning.WishMinimal:
			t.Goal = transition.Run
		case planning.WishBare:
			t.Goal = transition.Bare
		}
	}
	if before := load.Before(p.g.runs, p.today.Monday(), p.g.intake); len(before) > 0 {
		sum := 0
		for _, m := range before {
			sum += m
		}
		t.WeeklyMetres = sum / len(before) / 1000 * 1000
	}
	t.PaceSeconds = load.EasyPace(p.g.runs, p.today)
	return t
}

// futures is how many are drawn for a range, and their seed.
const (
	futures    = 1000
	futureSeed = 2027
)

func (p *path) plan(terms []transition.Terms, away int) *RampPlan {
	in := p.input(terms)
	in.Away = away
	r := transition.Plan(in)
	out := &RampPlan{Terms: terms[len(terms)-1], Start: r.Start, Now: r.Now, Waits: r.Waits, Strikes: r.Strikes, Refer: r.Refer, OutTo: r.OutTo, Drops: r.Drops, Says: r.Says, Weeks: []RampWeekView{},
		Range: simulate.Ramp(in, r, simulate.Usual, futures, futureSeed)}
	for _, w := range r.Weeks {
		out.Weeks = append(out.Weeks, RampWeekView{w, words.RampWeek(w), w.State.Stage.Name()})
	}
	return out
}

// Ramp returns a runner's ramps as they stand.
func (a *App) Ramp(ctx context.Context, act Actor, runner string) (RampView, error) {
	var out RampView
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		p, err := a.openPath(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		out = p.view()
		return nil
	})
	return out, err
}

func (p *path) view() RampView {
	v := RampView{RunnerID: p.d.runner.ID, RunnerName: p.d.runner.Name, Today: p.today, Rev: p.rev, Draft: p.draft(), Days: p.on(p.today), Yesterday: p.on(p.today - 1), Moves: []RampMove{}, Assumptions: simulate.Usual,
		Sources: []source.Tag{transition.Source, transition.LivingSource, transition.OutlookSource, simulate.UsualSource, transition.CadenceSource}, Cautions: slices.Concat(safety.Cautions, rampCautions)}
	v.Soreness = p.g.notes[p.today].CalfSoreness
	if len(p.terms) > 0 {
		v.Plan = p.plan(p.terms, 0)
	}
	v.Gates, v.Schools = p.board(), p.schools(v.Draft)
	for i := len(p.dates) - 1; i >= 0; i-- {
		m := RampMove{On: dateOf(p.dates[i].On), Why: p.dates[i].Why, To: optional(p.dates[i].Reached)}
		if i > 0 {
			m.From = optional(p.dates[i-1].Reached)
		}
		v.Moves = append(v.Moves, m)
	}
	p.form(&v)
	return v
}

func optional(t *time.Time) *day.Date {
	if t == nil {
		return nil
	}
	d := dateOf(*t)
	return &d
}

// board are the gates of the ramp with what works on them.
func (p *path) board() []RampGate {
	out := []RampGate{}
	for _, s := range transition.Stages {
		if s == transition.Run {
			continue // the same gate as the strides
		}
		g, ok := safety.Find(p.gates, s.Gate())
		if !ok {
			continue
		}
		x := RampGate{GateState: g, Stage: s, Ladders: []Named{}}
		if !g.Open {
			x.Earliest = p.outlooks[g.Gate].From
			if p.ramp != nil && x.Earliest != nil {
				if m := p.ramp.Enters(s); m != nil {
					x.Earliest = m
				}
			}
		}
		for _, id := range safety.WorksOn(g.Gate) {
			if l, ok := p.ladder(id); ok {
				x.Ladders = append(x.Ladders, Named{l.ID, l.Name})
			}
		}
		out = append(out, x)
	}
	return out
}

// schools shows the same terms under each position on bare feet.
func (p *path) schools(t transition.Terms) []SchoolRamp {
	out := []SchoolRamp{}
	mine := p.evidence.Barefoot
	for _, q := range planning.Questions() {
		if q.ID != "barefoot" {
			continue
		}
		for _, pos := range q.Positions {
			o := *p
			o.evidence.Barefoot = pos.ID
			o.decide()
			s := SchoolRamp{Position: pos.ID, Name: pos.Name, Why: pos.Says, Mine: pos.ID == mine, Open: []string{}}
			for _, g := range o.board() {
				if g.Open {
					s.Open = append(s.Open, g.Name)
				}
			}
			terms := p.terms
			if len(terms) == 0 {
				terms = []transition.Terms{t}
			}
			r := transition.Plan(o.input(terms))
			s.Reached = r.Reached
			switch {
			case r.Reached != nil:
				s.Words = "the goal in the week of " + r.Reached.Words() + " at the earliest"
			case r.Waits != nil:
				s.Words = "waits for " + r.Waits.Words
			default:
				s.Words = "no date within three years"
			}
			out = append(out, s)
		}
	}
	return out
}

// on is what the ramp holds on a date, and what of it was done.
func (p *path) on(on day.Date) []RampDay {
	out := []RampDay{}
	if p.ramp == nil || on < p.ramp.Start {
		return out
	}
	i := int(on-p.ramp.Start) / 7
	if i >= len(p.ramp.Weeks) {
		return out
	}
	w := p.ramp.Weeks[i]
	if p.ramp.OutTo != nil && on <= *p.ramp.OutTo && on >= p.today {
		return out
	}
	for _, x := range w.On(int(on-w.Monday), p.termsAt(w.Monday)) {
		d := RampDay{Stage: x.Stage, Name: x.Stage.Name(), Words: words.Exposure(x), Minutes: x.Minutes}
		n := p.g.notes[on]
		if x.Stage == transition.Home {
			d.Done = n.BarefootMinutes != nil && *n.BarefootMinutes > 0
		} else {
			d.Done = slices.ContainsFunc(p.doneOn(on), func(o transition.Done) bool { return o.Stage == x.Stage })
		}
		out = append(out, d)
	}
	return out
}

// CadenceStage marks a day's change of cadence among what a ramp holds.
const CadenceStage transition.Stage = "cadence"

// all is what stands on a date: bare feet, and the beat on days with an easy run.
func (p *path) all(on day.Date) []RampDay {
	out := p.on(on)
	if p.cadence == nil || !slices.Contains(p.draft().RunDays, int(on-on.Monday())) {
		return out
	}
	if p.beats == nil {
		c := transition.PlanCadence(p.cadenceInput(*p.cadence))
		p.beats = &c
	}
	for _, w := range p.beats.Weeks {
		if w.Monday == on.Monday() && w.Outcome != transition.Stopped {
			out = append(out, RampDay{Stage: CadenceStage, Name: "cadence", Words: w.Content})
		}
	}
	return out
}

// cadenceInput is everything a change of cadence is made from.
func (p *path) cadenceInput(t transition.CadenceTerms) transition.CadenceInput {
	in := transition.CadenceInput{Today: p.today, Terms: t, Recounts: p.recounts, Readings: p.days, Held: p.held}
	if p.cadence == nil {
		return in
	}
	gate, _ := safety.Find(p.gates, safety.CadenceChange)
	switch {
	case len(p.activeFlares()) > 0:
		in.Closed = "the calf rests"
	case !gate.Open && slices.ContainsFunc(gate.Needs, func(m safety.Missing) bool { return m.Kind == safety.NeedClearance }):
		in.Closed = strings.Join(gate.Missing, "; ")
	}
	return in
}

func (p *path) doneOn(on day.Date) []transition.Done {
	for _, r := range p.days {
		if r.On == on {
			return r.Done
		}
	}
	return nil
}

func (p *path) termsAt(monday day.Date) transition.Terms {
	return p.input(p.terms).TermsAt(monday)
}

// RampInput is what is saved of a ramp.
type RampInput struct {
	Terms transition.Terms `json:"terms"`
	Ended bool             `json:"ended,omitempty" doc:"The ramp ends; its days stay in the record"`
}

func checkTerms(at string, bad map[string]error) error {
	var out Invalid
	keys := make([]string, 0, len(bad))
	for k := range bad {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	for _, k := range keys {
		out.add(at+k, "%s", bad[k])
	}
	return out.or()
}

// firstBegin says why a ramp may not begin where the terms say.
func (p *path) firstBegin(t transition.Terms) error {
	var bad Invalid
	if len(p.terms) == 0 && t.From < p.today.Monday() {
		bad.add("terms.from", "%s is over; a ramp begins this week or later", t.From)
	}
	if t.From > p.today+366 {
		bad.add("terms.from", "%s is more than a year away", t.From)
	}
	if t.Begin != "" && t.Begin != transition.Home {
		if g, _ := safety.Find(p.gates, t.Begin.Gate()); !g.Open {
			bad.add("terms.begin", "the gate %s is closed: %s", g.Name, strings.Join(g.Missing, "; "))
		}
	}
	return bad.or()
}

// PutRamp begins a runner's ramp, changes its terms from this week on, or ends
// it. There is one ramp; whoever read an older revision is refused.
func (a *App) PutRamp(ctx context.Context, act Actor, runner string, rev int, in RampInput) (RampView, error) {
	if err := checkTerms("terms.", in.Terms.Check()); err != nil && !in.Ended {
		return RampView{}, err
	}
	err := a.write(ctx, act, func(tx *store.Tx) error {
		p, err := a.openPath(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		text := "Barefoot ramp ended"
		if !in.Ended {
			if !slices.ContainsFunc(p.d.visits, func(v Screening) bool { return v.Finished }) {
				return Refused("screen the runner first: the gates stand on it")
			}
			if age := ageOn(personOf(p.d.runner), p.today); age.Known && age.Years < safety.Adult && (len(p.d.visits) == 0 || !p.d.visits[0].Talk.GuardianConsent) {
				return Refused("under 18: note the guardian's consent in the talk first")
			}
			if err := p.firstBegin(in.Terms); err != nil {
				return err
			}
			text = "Barefoot ramp begun: " + in.Terms.Goal.Name()
			if len(p.terms) > 0 {
				text = "Barefoot ramp changed: " + in.Terms.Goal.Name()
				in.Terms.From = max(in.Terms.From, p.today.Monday())
				if first := p.terms[0].From; transition.FirstMonday(first) > p.today {
					in.Terms.From = max(in.Terms.From, first) // not begun yet
				}
			}
			if in.Terms.Goal.Runs() {
				text += fmt.Sprintf(", to %g %%", in.Terms.TargetPercent)
			}
		} else if len(p.terms) == 0 {
			return Refused("there is no ramp to end")
		}
		raw, err := json.Marshal(keptRamp{in.Terms, in.Ended})
		if err != nil {
			return err
		}
		if err := tx.PutRamp(ctx, runner, "barefoot", rev, raw, act.User.ID); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "ramp", text, in); err != nil {
			return err
		}
		if p, err = a.openPath(ctx, tx, act, runner); err != nil {
			return err
		}
		return a.redate(ctx, tx, p, strings.ToLower(text[:1])+text[1:])
	})
	if err != nil {
		return RampView{}, err
	}
	return a.Ramp(ctx, act, runner)
}

// redate notes where the goal's date moved, and why.
func (a *App) redate(ctx context.Context, tx *store.Tx, p *path, why string) error {
	if p.ramp == nil {
		return nil
	}
	var old *day.Date
	if n := len(p.dates); n > 0 {
		if old = optional(p.dates[n-1].Reached); same(old, p.ramp.Reached) {
			return nil
		}
	}
	if why == "" {
		why = p.ramp.Why()
	}
	d := store.RampDate{Why: why, On: p.today.Time()}
	to := "no date"
	if p.ramp.Reached != nil {
		t := p.ramp.Reached.Time()
		d.Reached, to = &t, "the week of "+p.ramp.Reached.Words()
	}
	if err := tx.AddRampDate(ctx, p.d.runner.ID, d); err != nil {
		return err
	}
	p.dates = append(p.dates, d)
	if len(p.dates) == 1 {
		return nil
	}
	from := "no date"
	if old != nil {
		from = "the week of " + old.Words()
	}
	return tx.Note(ctx, p.d.runner.ID, a.now(), nil, "ramp", "Ramp re-dated, from "+from+" to "+to+": "+why, nil)
}

func same(a, b *day.Date) bool { return (a == nil) == (b == nil) && (a == nil || *a == *b) }

// PreviewRampInput is a what-if.
type PreviewRampInput struct {
	Terms transition.Terms `json:"terms"`
	Away  int              `json:"away,omitempty" minimum:"0" maximum:"12" doc:"Weeks from the next one on without any exposure"`
}

// PreviewRamp returns what a ramp would be; it saves nothing.
func (a *App) PreviewRamp(ctx context.Context, act Actor, runner string, in PreviewRampInput) (RampPlan, error) {
	if err := checkTerms("terms.", in.Terms.Check()); err != nil {
		return RampPlan{}, err
	}
	var out RampPlan
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		p, err := a.openPath(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		if err := p.firstBegin(in.Terms); err != nil {
			return err
		}
		if len(p.terms) > 0 {
			in.Terms.From = max(in.Terms.From, p.today.Monday())
		}
		out = *p.plan(append(slices.Clone(p.terms), in.Terms), in.Away)
		return nil
	})
	return out, err
}

// RampDone says what of a day's ramp was done.
type RampDone struct {
	On    day.Date         `json:"on" format:"date"`
	Stage transition.Stage `json:"stage,omitempty" enum:"home,walk,strength,drills,run,bare," doc:"One thing of the day; all of it when empty"`
	Done  bool             `json:"done"`
}

// PutRampDone logs a day of the ramp as it was planned, or takes that back.
func (a *App) PutRampDone(ctx context.Context, act Actor, runner string, in RampDone) (RampView, error) {
	var note DayInput
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		p, err := a.openPath(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		list := p.on(in.On)
		note = p.g.notes[in.On]
		found := false
		for _, x := range list {
			if in.Stage != "" && x.Stage != in.Stage {
				continue
			}
			found = true
			if x.Stage == transition.Home {
				note.BarefootMinutes = nil
				if in.Done {
					note.BarefootMinutes = &x.Minutes
				}
				continue
			}
			note.Exposure = slices.DeleteFunc(slices.Clone(note.Exposure), func(o transition.Done) bool { return o.Stage == x.Stage })
			if in.Done {
				note.Exposure = append(note.Exposure, transition.Done{Stage: x.Stage, Minutes: x.Minutes})
			}
		}
		if !found {
			return Refused("the ramp has nothing of this on " + in.On.Words())
		}
		return nil
	})
	if err != nil {
		return RampView{}, err
	}
	if _, err := a.PutDay(ctx, act, runner, in.On, note); err != nil {
		return RampView{}, err
	}
	return a.Ramp(ctx, act, runner)
}

// CadenceView is a change of cadence: whether at all, and where it stands.
type CadenceView struct {
	Rev      int                     `json:"rev"`
	Count    *transition.Recount     `json:"count,omitempty" doc:"The screening's newest count"`
	Terms    transition.CadenceTerms `json:"terms" doc:"The present ones, or what would be begun with"`
	Begun    bool                    `json:"begun"`
	Advice   transition.Advice       `json:"advice"`
	Plan     transition.CadencePlan  `json:"plan"`
	Recounts []transition.Recount    `json:"recounts" nullable:"false"`
	Closed   string                  `json:"closed,omitempty" doc:"What its gate waits for"`
	Extra    float64                 `json:"extraContacts" doc:"More contacts of one foot in a week at the target"`
	Range    []int                   `json:"range" nullable:"false" doc:"The usual range, spm"`
}

// CueView is a cue with its drill.
type CueView struct {
	transition.Cue
	Drill string `json:"drill"`
}

// form fills in cadence, cues and the strike.
func (p *path) form(v *RampView) {
	c := CadenceView{Rev: p.cadRev, Recounts: p.recounts, Range: []int{transition.RangeFrom, transition.RangeTo}}
	if c.Recounts == nil {
		c.Recounts = []transition.Recount{}
	}
	var findings []screening.Factor
	var complaints []screening.Complaint
	if len(p.d.visits) > 0 {
		complaints = p.d.visits[0].Talk.Complaints
	}
	for _, s := range p.d.visits {
		if !s.Finished {
			continue
		}
		for _, f := range s.Findings {
			findings = append(findings, f.Factor)
		}
		break
	}
	for _, s := range p.d.visits {
		for _, r := range s.Results {
			if r.Test == screening.CadenceTest && r.Left.Measured() && c.Count == nil {
				c.Count = &transition.Recount{On: s.On, Mean: *r.Left.Value, Margin: r.Left.Margin}
			}
		}
	}
	school := p.school
	if p.f != nil {
		school = p.f.plan.Wishes.School
	}
	c.Terms = transition.CadenceTerms{Start: p.today, School: school.Is("cadence")}
	if pace := load.EasyPace(p.g.runs, p.today); pace > 0 {
		c.Terms.SpeedKmh = math.Round(36000/float64(pace)) / 10
	}
	if c.Count != nil {
		c.Terms.Baseline = math.Round(c.Count.Mean*10) / 10
	}
	if p.cadence != nil {
		c.Terms, c.Begun = *p.cadence, true
	}
	gate, _ := safety.Find(p.gates, safety.CadenceChange)
	out := transition.Outlook{Open: gate.Open, Words: strings.Join(gate.Missing, "; ")}
	if !gate.Open {
		c.Closed = out.Words
	}
	rests := len(p.activeFlares()) > 0
	if c.Terms.Baseline > 0 {
		var margin *float64
		if c.Count != nil {
			margin = c.Count.Margin
		}
		c.Advice = transition.AdviseCadence(c.Terms, margin, findings, complaints, out, rests)
	} else {
		c.Advice = transition.Advice{For: []string{}, Against: []string{"no cadence was counted yet"}, Words: "Count the cadence first."}
	}
	c.Plan = transition.PlanCadence(p.cadenceInput(c.Terms))
	t := v.Draft
	c.Extra = transition.ExtraContacts(t.WeeklyMetres, c.Terms.SpeedKmh, c.Terms.Baseline, float64(c.Plan.Target))
	v.Cadence = c
	v.CadenceFirst = school.Is("form-order") == "cadence-first"
	v.Cues = []CueView{}
	for _, q := range transition.Cues(findings, p.looks, v.CadenceFirst, p.today) {
		x := CueView{Cue: q}
		if l, ok := p.ladder(q.Ladder); ok {
			x.Drill = words.Notch(l.At(1))
		}
		v.Cues = append(v.Cues, x)
	}
	from := ""
	if s, ok := p.reading("strike-easy"); ok {
		from = [...]string{"rear", "rear", "mid", "fore", "fore"}[max(0, min(4, int(s)))]
	}
	v.Shift = transition.Shift(from, p.calfReady(), rests)
}

func (p *path) activeFlares() []transition.Flare {
	var out []transition.Flare
	for _, x := range p.flares {
		if x.Until == nil {
			out = append(out, x)
		}
	}
	return out
}

// calfReady reports the calf ladder at one leg 3 × 15 or past it, both sides.
func (p *path) calfReady() bool {
	if p.f == nil {
		return false
	}
	x, ok := p.f.prescription("calf-straight")
	if !ok {
		return false
	}
	l := p.f.ladders[x.ID]
	for i := 1; i <= l.Len(); i++ {
		n := l.At(i)
		if n.Exercise.ID == "raise-one" && n.Dose.Sets >= 3 && n.Dose.Reps >= 15 {
			return p.f.pegs[x.ID][body.Left].Notch >= i && p.f.pegs[x.ID][body.Right].Notch >= i
		}
	}
	return false
}

// CadenceRampInput is what is saved of a change of cadence.
type CadenceRampInput struct {
	Terms transition.CadenceTerms `json:"terms"`
	Ended bool                    `json:"ended,omitempty"`
}

// PutCadence begins, changes or ends a change of cadence.
func (a *App) PutCadence(ctx context.Context, act Actor, runner string, rev int, in CadenceRampInput) (RampView, error) {
	if err := checkTerms("terms.", in.Terms.Check()); err != nil && !in.Ended {
		return RampView{}, err
	}
	err := a.write(ctx, act, func(tx *store.Tx) error {
		p, err := a.openPath(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		text := "Change of cadence ended"
		if !in.Ended {
			if g, _ := safety.Find(p.gates, safety.CadenceChange); !g.Open && p.cadence == nil {
				return Refused("the gate cadence change is closed: " + strings.Join(g.Missing, "; "))
			}
			if len(in.Terms.Beats()) == 0 {
				return Refused("the target is where the runner is: there is nothing to change")
			}
			text = fmt.Sprintf("Change of cadence: %.0f to %d", in.Terms.Baseline, in.Terms.Target())
		} else if p.cadence == nil {
			return Refused("there is no change of cadence to end")
		}
		raw, err := json.Marshal(keptCadence{in.Terms, in.Ended})
		if err != nil {
			return err
		}
		if err := tx.PutRamp(ctx, runner, "cadence", rev, raw, act.User.ID); err != nil {
			return err
		}
		return tx.Note(ctx, runner, a.now(), &act.User.ID, "ramp", text, in)
	})
	if err != nil {
		return RampView{}, err
	}
	return a.Ramp(ctx, act, runner)
}

// RecountInput is a count without a beat.
type RecountInput struct {
	On            day.Date `json:"on" format:"date"`
	Counts        []int    `json:"counts" minItems:"1" maxItems:"20" nullable:"false" doc:"Steps of both feet in each window"`
	WindowSeconds float64  `json:"windowSeconds" minimum:"5" maximum:"120"`
}

// AddRecount stores a count without a beat.
func (a *App) AddRecount(ctx context.Context, act Actor, key, runner string, in RecountInput) (RampView, error) {
	c, err := measure.CadenceFromCounts(in.Counts, in.WindowSeconds)
	if err != nil {
		return RampView{}, Invalid{{"counts", err.Error()}}
	}
	if in.On > a.Today(act) {
		return RampView{}, Invalid{{"on", fmt.Sprintf("%s is in the future", in.On)}}
	}
	if c.OneFoot {
		return RampView{}, Invalid{{"counts", "under 120 a minute: probably one foot only; count both"}}
	}
	r := transition.Recount{On: in.On, Mean: c.MeanSpm, Margin: &c.MarginSpm}
	text := fmt.Sprintf("Counted without a beat: %.1f", r.Mean)
	return a.addRampEvent(ctx, act, key, runner, "recount", in.On, r, text)
}

// AddCueLook stores that a cue was begun, or what its re-look showed.
func (a *App) AddCueLook(ctx context.Context, act Actor, key, runner string, in transition.CueLook) (RampView, error) {
	if !slices.ContainsFunc(transition.Cues(nil, nil, false, 0), func(c transition.Cue) bool { return c.ID == in.Cue }) {
		return RampView{}, Invalid{{"cue", fmt.Sprintf("%q is not a cue", in.Cue)}}
	}
	if in.On > a.Today(act) {
		return RampView{}, Invalid{{"on", fmt.Sprintf("%s is in the future", in.On)}}
	}
	text := "Cue begun: " + in.Cue
	if !in.Begin {
		text = "Cue looked at again: " + in.Cue + ", not yet"
		if in.Took {
			text = "Cue looked at again: " + in.Cue + ", it took"
		}
	}
	return a.addRampEvent(ctx, act, key, runner, "cue", in.On, in, text)
}

func (a *App) addRampEvent(ctx context.Context, act Actor, key, runner, kind string, on day.Date, body any, text string) (RampView, error) {
	err := a.write(ctx, act, func(tx *store.Tx) error {
		_, err := once(ctx, tx, key, struct {
			Runner, Kind string
			Body         any
		}{runner, kind, body}, func() (bool, error) {
			if _, err := tx.Runner(ctx, runner); err != nil {
				return false, err
			}
			raw, err := json.Marshal(body)
			if err != nil {
				return false, err
			}
			if err := tx.AddRampEvent(ctx, runner, store.RampEvent{Kind: kind, On: on.Time(), Body: raw}, act.User.ID); err != nil {
				return false, err
			}
			return true, tx.Note(ctx, runner, a.now(), &act.User.ID, "ramp", text, body)
		})
		return err
	})
	if err != nil {
		return RampView{}, err
	}
	return a.Ramp(ctx, act, runner)
}
