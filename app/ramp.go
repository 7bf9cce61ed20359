package app

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/simulate"
	"notchback/core/source"
	"notchback/core/transition"
	"notchback/core/words"
	"notchback/store"
)

// RampGate is a gate of the board with the stage behind it.
type RampGate struct {
	safety.GateState
	Stage    transition.Stage `json:"stage,omitempty"`
	Earliest *day.Date        `json:"earliest,omitempty" format:"date" doc:"When it may open if nothing goes wrong; missing when nobody knows"`
	Ladders  []Named          `json:"ladders" nullable:"false" doc:"What works on it"`
}

// RampDay is one thing on one day, and whether it was done.
type RampDay struct {
	Stage   transition.Stage `json:"stage" enum:"home,walk,strength,drills,run,bare,cadence,cue"`
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
	if n := len(p.Terms); n > 0 {
		return p.Terms[n-1]
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
	if before := load.Before(p.g.runs, p.today.Monday(), p.g.intake, nil); len(before) > 0 {
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
	in := p.Input(terms)
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
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		p, err := a.openPath(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		out = p.view()
		return nil
	})
	return out, err
}

// mayToday are what of a date's ramp nothing closes today.
func (p *path) mayToday(list []RampDay) []RampDay {
	out := []RampDay{}
	for _, x := range list {
		if p.k == nil || !p.k.rampShut(x) || x.Done {
			out = append(out, x)
		}
	}
	return out
}

func (p *path) view() RampView {
	v := RampView{RunnerID: p.d.runner.ID, RunnerName: p.d.runner.Name, Today: p.today, Rev: p.rev, Draft: p.draft(), Days: p.mayToday(p.on(p.today)), Yesterday: p.on(p.today - 1), Moves: []RampMove{}, Assumptions: simulate.Usual,
		Sources: []source.Tag{transition.Source, transition.LivingSource, transition.OutlookSource, simulate.UsualSource, transition.CadenceSource}, Cautions: slices.Concat(safety.Cautions, rampCautions)}
	v.Soreness = p.g.notes[p.today].CalfSoreness
	if len(p.Terms) > 0 {
		v.Plan = p.plan(p.Terms, 0)
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
		g, ok := safety.Find(p.Gates, s.Gate())
		if !ok {
			continue
		}
		x := RampGate{GateState: g, Stage: s, Ladders: []Named{}}
		if !g.Open {
			x.Earliest = p.Outlooks[g.Gate].From
			if p.Ramp != nil && x.Earliest != nil {
				if m := p.Ramp.Enters(s); m != nil {
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
	mine := p.Evidence.Barefoot
	for _, q := range planning.Questions() {
		if q.ID != "barefoot" {
			continue
		}
		for _, pos := range q.Positions {
			o := *p
			o.Path = p.Under(pos.ID)
			s := SchoolRamp{Position: pos.ID, Name: pos.Name, Why: pos.Says, Mine: pos.ID == mine, Open: []string{}}
			for _, g := range o.board() {
				if g.Open {
					s.Open = append(s.Open, g.Name)
				}
			}
			terms := p.Terms
			if len(terms) == 0 {
				terms = []transition.Terms{t}
			}
			r := transition.Plan(o.Input(terms))
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
	if p.Ramp == nil || on < p.Ramp.Start {
		return out
	}
	i := int(on-p.Ramp.Start) / 7
	if i >= len(p.Ramp.Weeks) {
		return out
	}
	w := p.Ramp.Weeks[i]
	if p.Ramp.OutTo != nil && on <= *p.Ramp.OutTo && on >= p.today {
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

func (p *path) doneOn(on day.Date) []transition.Done {
	for _, r := range p.Readings() {
		if r.On == on {
			return r.Done
		}
	}
	return nil
}

func (p *path) termsAt(monday day.Date) transition.Terms {
	return p.Input(p.Terms).TermsAt(monday)
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
	if len(p.Terms) == 0 && t.From < p.today.Monday() {
		bad.add("terms.from", "%s is over; a ramp begins this week or later", t.From)
	}
	if t.From > p.today+366 {
		bad.add("terms.from", "%s is more than a year away", t.From)
	}
	if t.Begin != "" && t.Begin != transition.Home {
		if g, _ := safety.Find(p.Gates, t.Begin.Gate()); !g.Open {
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
		if err := tx.LockRunner(ctx, runner); err != nil {
			return err
		}
		p, err := a.openPath(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		text := "Barefoot ramp ended"
		if !in.Ended {
			if !slices.ContainsFunc(p.d.visits, func(v Screening) bool { return v.Finished }) {
				return Refused("screen the runner first: the gates stand on it")
			}
			if age := ageOn(record.PersonOf(p.d.runner), p.today); age.Known && age.Years < safety.Adult && (len(p.d.visits) == 0 || !p.d.visits[0].Talk.GuardianConsent) {
				return Refused("under 18: note the guardian's consent in the talk first")
			}
			if err := p.firstBegin(in.Terms); err != nil {
				return err
			}
			text = "Barefoot ramp begun: " + in.Terms.Goal.Name()
			if len(p.Terms) > 0 {
				text = "Barefoot ramp changed: " + in.Terms.Goal.Name()
				in.Terms.From = max(in.Terms.From, p.today.Monday())
				if first := p.Terms[0].From; transition.FirstMonday(first) > p.today {
					in.Terms.From = max(in.Terms.From, first) // not begun yet
				}
			}
			if in.Terms.Goal.Runs() {
				text += fmt.Sprintf(", to %g %%", in.Terms.TargetPercent)
			}
		} else if len(p.Terms) == 0 {
			return Refused("there is no ramp to end")
		}
		raw, err := json.Marshal(in)
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
	if p.Ramp == nil {
		return nil
	}
	var old *day.Date
	if n := len(p.dates); n > 0 {
		if old = optional(p.dates[n-1].Reached); same(old, p.Ramp.Reached) {
			return nil
		}
	}
	if why == "" {
		why = p.Ramp.Why()
	}
	d := store.RampDate{Why: why, On: p.today.Time()}
	to := "no date"
	if p.Ramp.Reached != nil {
		t := p.Ramp.Reached.Time()
		d.Reached, to = &t, "the week of "+p.Ramp.Reached.Words()
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
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		p, err := a.openPath(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		if err := p.firstBegin(in.Terms); err != nil {
			return err
		}
		if len(p.Terms) > 0 {
			in.Terms.From = max(in.Terms.From, p.today.Monday())
		}
		out = *p.plan(append(slices.Clone(p.Terms), in.Terms), in.Away)
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
	if err := recent(in.On, a.Today(act)+1); err != nil {
		return RampView{}, err
	}
	err := a.write(ctx, act, func(tx *store.Tx) error {
		if err := tx.LockRunner(ctx, runner); err != nil {
			return err
		}
		k, err := a.open(ctx, tx, act, runner, nil)
		if err != nil {
			return err
		}
		p := k.path
		list := p.on(in.On)
		note := p.g.notes[in.On]
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
		if err := note.check(in.On, a.Today(act)); err != nil {
			return err
		}
		return a.putDay(ctx, tx, k, in.On, note)
	})
	if err != nil {
		return RampView{}, err
	}
	return a.Ramp(ctx, act, runner)
}
