package app

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"notchback/app/record"
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/words"
	"notchback/store"
)

// frame is what a block's pages are made from.
type frame struct {
	*desk
	block         store.Block
	runner        store.Runner
	dossier       *dossier
	book          *course.Book
	start         day.Date
	now           time.Time
	today         day.Date
	gates         []safety.GateState
	prescriptions []store.Prescription
	ladders       map[string]catalogue.Ladder // by prescription
	pegs          map[string]map[body.Side]*store.Peg
	items         []store.SessionItem
	decisions     []store.Decision // those that stand
	mornings      []adjust.Morning
	flags         []safety.Standing
	b0            float64
	plan          planning.Proposal
	changes       []keptChange
	rev           int
	cat           catalogue.Catalogue
	layers        layered
	phases        []planning.RegionPhase
	g             *gathered
	illness       adjust.Illness
	running       load.Class
	engine        int // the edition the practice lets work
	path          *path
	// derived once, when first asked for
	bounced []day.Date // dates of spring work
	does    map[seat]doing
	phased  map[string]day.Date
}

// ladderOf returns a prescription's ladder as it was when it was made.
func ladderOf(p store.Prescription, layers layered) (catalogue.Ladder, error) {
	if len(p.LadderData) > 0 {
		var l catalogue.Ladder
		err := json.Unmarshal(p.LadderData, &l)
		return l, err
	}
	l, ok := layers.Ladder(p.Ladder)
	if !ok {
		return l, errors.New("ladder " + p.Ladder + " is not in the catalogue")
	}
	return l, nil
}

func (f *frame) view() (Block, error) {
	out := Block{Choices: adjust.SaidAs(),
		ID: f.block.ID, RunnerID: f.runner.ID, RunnerName: f.runner.Name, ScreeningID: f.block.ScreeningID, StartOn: f.start,
		EndOn: f.start + day.Date(7*f.block.Weeks) - 1, Today: f.today, Ended: f.block.EndedAt != nil, Baseline: f.b0,
		Gates: f.gates, Mornings: []MorningView{}, Cautions: safety.Cautions,
		Decisions: []DecisionView{}, Flags: []FlagView{}, Prescriptions: []PrescriptionView{},
		Phases: f.phases, PhaseMoved: f.phaseMoved(), Left: append([]planning.Left{}, f.plan.Left...), Minimum: []MinimumView{}, Says: append([]string{}, f.plan.Says...),
		Main: []MainDay{}, Changes: f.changeViews(), Wishes: f.plan.Wishes, Revision: f.rev, AutoProgress: f.runner.AutoProgress, QuietHolds: f.offersQuietHolds(), NewEngine: f.engine != adjust.Version,
	}
	for _, m := range f.plan.Layout.MainWhy {
		out.Main = append(out.Main, MainDay{m.Day, whys(m.Why)})
	}
	out.Minimum, out.Paused, out.Asks, out.Care, out.PhaseSince = f.minimum(), f.paused(), f.asks(), f.care(), f.phased
	if out.PhaseSince == nil { // nothing was kept yet
		out.PhaseSince = sinceOf(nextPhases(nil, f))
	}
	for _, m := range f.mornings {
		out.Mornings = append(out.Mornings, MorningView{m, adjust.Jumped(m.FirstStep, f.b0)})
	}
	for _, fl := range f.standing() {
		out.Flags = append(out.Flags, FlagView{Standing: fl, Text: words.Flag(fl)})
	}
	out.Caps = f.caps()
	for i := len(f.decisions) - 1; i >= 0; i-- {
		v, err := f.decisionView(f.decisions[i])
		if err != nil {
			return out, err
		}
		out.Decisions = append(out.Decisions, v)
	}
	for _, p := range f.prescriptions {
		v, err := f.prescriptionView(p, out.Decisions)
		if err != nil {
			return out, err
		}
		out.Prescriptions = append(out.Prescriptions, v)
	}
	out.Weeks = f.weeks()
	return out, nil
}

func (f *frame) decisionView(d store.Decision) (DecisionView, error) {
	l := f.ladders[d.PrescriptionID]
	v := DecisionView{
		ID: d.ID, Version: d.Version, PrescriptionID: d.PrescriptionID, LadderName: l.Name, Side: body.Side(d.Side), On: dateOf(d.On),
		State: d.State, Sentence: d.Sentence, AnswerNotch: d.AnswerNotch, AnswerReason: d.AnswerReason,
		Reasons: []ReasonView{}, ForUp: []ConditionView{}, Life: []string{},
	}
	if err := json.Unmarshal(d.Decision, &v.Decision); err != nil {
		return v, err
	}
	v.Move, v.Because = words.Move(l, v.Decision), words.Because(v.Decision)
	c, err := record.DecisionOf(d)
	if err != nil {
		return v, err
	}
	v.PutBack = c.PutBack
	for _, t := range c.Life {
		v.Life = append(v.Life, t.At.On.Words()+" · "+words.LifeTurn(l, t))
	}
	if c.State == course.Proposed {
		if why := f.book.Refuses(course.Answer{Decision: c.Key, Kind: course.Accept}); why.Why != "" {
			v.Barred = words.Refused(why)
		}
	}
	if c.Answered() && c.Life[len(c.Life)-1].At.On == f.today {
		v.MayTakeBack = f.book.Refuses(course.Answer{Decision: c.Key, Kind: course.TakeBack}).Why == ""
	}
	if c.PutBack > 0 {
		v.Move = words.PutBack(l, f.pegs[d.PrescriptionID][c.Sides()[0]].Notch, c.PutBack)
	}
	for _, r := range v.Decision.Reasons {
		v.Reasons = append(v.Reasons, ReasonView{words.Reason(r), r.Row, r.Source.String()})
	}
	for _, c := range v.Decision.ForUp {
		v.ForUp = append(v.ForUp, ConditionView{words.Condition(c), c.Met, c.Idle})
	}
	return v, nil
}

func (f *frame) prescriptionView(p store.Prescription, decisions []DecisionView) (PrescriptionView, error) {
	l := f.ladders[p.ID]
	v := PrescriptionView{
		ID: p.ID, Ladder: l.ID, ByRamp: f.path.Ramp != nil && course.ByRamp(l), Name: l.Name, Effort: l.Effort, Purpose: l.Purpose, StartNotch: p.StartNotch, ExtraSetSide: body.Side(p.ExtraSetSide),
		StartReasons: []ReasonView{}, Latest: []DecisionView{}, Together: f.together(p.ID), LeftOut: f.leftOut(p.Ladder, f.today),
	}
	v.Today = f.todayViews(p)
	at := f.pegs[p.ID][body.Left].Notch
	v.Dose = l.At(at).Dose
	if d, ok := f.ownDose(p.ID, at, f.today); ok {
		v.Own = &d
	}
	for i, ch := range f.plan.Choices {
		if ch.Ladder == p.Ladder {
			c := choiceView(f.plan, i, ch, l, f.name)
			v.Plan = &c
		}
	}
	for _, n := range l.Notches {
		nv := NotchView{
			Words: words.Notch(n), Dose: words.Dose(n.Dose), Short: n.Exercise.Short, Name: n.Exercise.Name, Tempo: words.Tempo(n.Dose), More: n.Dose.More, ID: n.Exercise.ID, SetUp: n.Exercise.SetUp,
			Cues: n.Exercise.Cues, Mistakes: append([]string{}, n.Exercise.Mistakes...), Caution: append([]string{}, n.Exercise.Cautions...), Gate: n.Gate, Source: n.Exercise.Source.String(),
		}
		if g, ok := safety.Find(f.gates, n.Gate); n.Gate != "" && (!ok || !g.Open) {
			nv.Locked = g.Name
			nv.Caution = append(nv.Caution, "Opens with: "+strings.Join(g.Missing, "; "))
		}
		v.Notches = append(v.Notches, nv)
	}
	for _, side := range body.Sides {
		peg := f.pegs[p.ID][side]
		v.Pegs = append(v.Pegs, PegView{side, peg.Notch, peg.HaltRow != nil})
	}
	var reasons []planning.Reason
	if err := json.Unmarshal(p.StartReasons, &reasons); err != nil {
		return v, err
	}
	for _, r := range reasons {
		v.StartReasons = append(v.StartReasons, ReasonView{Text: words.Start(l, r), Source: r.Source.String()})
	}
	seen := map[body.Side]bool{}
	for _, d := range decisions { // newest first
		if d.PrescriptionID != p.ID || seen[d.Side] || seen[body.Both] || (d.Side == body.Both && len(seen) > 0) {
			continue
		}
		seen[d.Side] = true
		v.Latest = append(v.Latest, d)
	}
	return v, nil
}

func (f *frame) together(prescription string) bool {
	l, r := f.pegs[prescription][body.Left], f.pegs[prescription][body.Right]
	return l.Notch == r.Notch && f.ladders[prescription].At(l.Notch).Together()
}

// notchOn returns what a side is asked on a date and a note on it: the present
// notch with the coach's own dose, one set more on the weaker side of one-legged
// work, lighter in weeks that are, never more bounces than allowed.
func (f *frame) notchOn(p store.Prescription, side body.Side, on day.Date) (catalogue.Notch, string) {
	n, why := f.doseFor(p, side, on)
	note := ""
	if _, own := f.ownDose(p.ID, f.pegs[p.ID][side].Notch, on); own {
		note = "the coach's own dose"
	}
	switch why {
	case adjust.CutCramp:
		note = "fewer repetitions after the cramp"
	case adjust.CutSpike:
		note = "fewer sets while running jumps"
	case adjust.CutHalf:
		note = "half, after the illness"
	case adjust.CutCap:
		note = "cut to the contacts allowed a session"
	case adjust.CutGrowth:
		note = "a third less while growing fast or sore"
	}
	return n, note
}

// doseFor is the dose of notchOn with the last reason for which it is less than
// the notch's.
func (f *frame) doseFor(p store.Prescription, side body.Side, on day.Date) (catalogue.Notch, adjust.Cut) {
	at := f.asked(p, side, on)
	n := f.ladders[p.ID].At(at)
	if d, ok := f.ownDose(p.ID, at, on); ok {
		n.Dose = d
	}
	if string(side) == f.extraSet(p, on) && !n.Together() && !(on >= f.today && f.book.ExtraSetHurts(p.ID, side)) {
		n.Dose.Sets++
	}
	var why adjust.Cut
	cut := func(d catalogue.Dose, by adjust.Cut) {
		if d.Volume() < n.Dose.Volume() {
			why = by
		}
		n.Dose = d
	}
	cut(planning.DoseIn(n.Dose, planning.KindOf(f.start, f.plan.Wishes.Race, on)), adjust.CutDeload)
	if reps := adjust.RepCap(f.sessions(p.ID, side), f.ladders[p.ID], at, on); reps > 0 && n.Dose.Reps > reps {
		d := n.Dose
		d.Reps = reps
		cut(d, adjust.CutCramp)
	}
	if on.Monday() == f.today.Monday() && on >= f.today && adjust.CutsSets(f.ladders[p.ID], at, f.running) {
		cut(planning.Deload(n.Dose), adjust.CutSpike)
	}
	if f.illness.Ended != nil && adjust.HalfOn(f.illness, on) {
		cut(planning.Half(n.Dose), adjust.CutHalf)
	}
	if on >= f.today && f.growing(p, side) {
		cut(planning.TakesThird(n.Dose), adjust.CutGrowth)
	}
	if d, capped := planning.CapSpring(n, f.springWeeks(on)); capped {
		cut(d, adjust.CutCap)
	}
	return n, why
}

// notNow stands where a side does nothing of a ladder.
const notNow = "not now"

func (f *frame) doseOn(p store.Prescription, side body.Side, on day.Date) string {
	if f.shut(p, side, on) {
		return notNow
	}
	n, _ := f.notchOn(p, side, on)
	return words.Notch(n)
}

// springWeeks counts the weeks of spring work behind a date.
func (f *frame) springWeeks(on day.Date) int {
	if f.bounced == nil {
		f.bounced = []day.Date{}
		for _, it := range f.items {
			if f.ladders[it.PrescriptionID].Purpose == "spring" {
				f.bounced = append(f.bounced, dateOf(it.On))
			}
		}
	}
	return planning.SpringWeeks(f.bounced, on)
}

func (f *frame) weeks() []WeekView {
	logged := map[day.Date]bool{}
	for _, it := range f.items {
		logged[dateOf(it.On)] = true
	}
	end := f.end()
	out := []WeekView{}
	for monday, n := f.start.Monday(), 1; monday <= end; monday, n = monday+7, n+1 {
		kind := planning.KindOf(f.start, f.plan.Wishes.Race, max(monday, f.start))
		w := WeekView{Number: n, Kind: kind, Label: words.WeekKind(kind)}
		for i := range 7 {
			on := monday + day.Date(i)
			d := DayView{On: on, In: on >= f.start && on <= end, Logged: logged[on], Run: f.plan.Wishes.Runs[i], Sessions: []SessionView{}, Ramp: []RampDay{}, Done: []DoseView{}, Retest: f.retestOn(on)}
			if r := f.plan.Wishes.Race; r != nil && r.On == on {
				d.Race = true
			}
			if d.In {
				d.Run, d.NoRun = f.runOn(on)
				d.Sessions = f.sessionViews(on)
				d.Ramp = f.rampOn(on)
				for _, p := range f.prescriptions {
					if x, ok := f.doneOn(p, on); ok {
						d.Done = append(d.Done, x)
					}
				}
			}
			for _, s := range d.Sessions {
				w.Planned += s.Minutes
			}
			w.Free += f.plan.Wishes.Minutes[i]
			w.Days = append(w.Days, d)
		}
		out = append(out, w)
	}
	return out
}

func (f *frame) end() day.Date { return f.start + day.Date(7*f.block.Weeks) - 1 }

// retestOn names what is tested again on a date.
func (f *frame) retestOn(on day.Date) string {
	for _, w := range f.plan.Weeks {
		if w.On != on || on < f.start {
			continue
		}
		if w.All {
			return "all tests"
		}
		names := []string{}
		for _, id := range w.Retest {
			if t, ok := screening.Find(screening.TestID(id)); ok {
				names = append(names, t.Name)
			}
		}
		return strings.Join(names, ", ")
	}
	return ""
}

// sessionViews are the sittings of a date as they may be done: what is closed is
// not among them, and a sitting of which nothing is left falls away.
func (f *frame) sessionViews(on day.Date) []SessionView {
	out := []SessionView{}
	if on >= f.today && (f.care() != nil || f.illOn(on)) {
		return out
	}
	run, _ := f.runOn(on)
	for _, s := range f.sessionsOn(on) {
		if s.Kind == planning.Drill && run == planning.NoRun && on >= f.today {
			continue
		}
		v := SessionView{Kind: s.Kind, Name: words.SessionName(s.Kind), When: s.When, Doses: []DoseView{}}
		if run == planning.NoRun && on >= f.today && strings.Contains(v.When, "run") {
			v.When = ""
		}
		if s.origin != on {
			o := s.origin
			v.Moved = &o
		}
		seconds := 0.0
		for _, id := range s.Ladders {
			p, ok := f.prescription(id)
			if !ok || f.shut(p, body.Left, on) && f.shut(p, body.Right, on) {
				continue
			}
			d := DoseView{PrescriptionID: p.ID, Ladder: id, Name: f.ladders[p.ID].Name, Left: f.doseOn(p, body.Left, on), Right: f.doseOn(p, body.Right, on)}
			d.Same = d.Left == d.Right
			side := body.Left
			if d.Left == notNow {
				side = body.Right
			}
			n, note := f.notchOn(p, side, on)
			if n.Together() && !d.Same && (d.Left == notNow || d.Right == notNow) {
				continue // on both legs or not at all
			}
			d.Exercise, d.Note, d.Load, d.Mistakes = n.Exercise.ID, note, f.kilograms(n.Dose), n.Exercise.Mistakes
			if on >= f.today {
				d.Limits = strings.Join(f.limitWords(p, side), "; ")
			}
			v.Doses = append(v.Doses, d)
			if s.Kind != planning.Drill && s.Kind != planning.Exposure && !n.Dose.Spread {
				seconds += n.Seconds()
			}
		}
		if len(v.Doses) == 0 {
			continue
		}
		v.Minutes = int(math.Ceil(seconds / 60))
		out = append(out, v)
	}
	return out
}

func (f *frame) prescription(ladder string) (store.Prescription, bool) {
	i := slices.IndexFunc(f.prescriptions, func(p store.Prescription) bool { return p.Ladder == ladder })
	if i < 0 {
		return store.Prescription{}, false
	}
	return f.prescriptions[i], true
}

func (f *frame) name(id string) string {
	if p, ok := f.prescription(id); ok {
		return f.ladders[p.ID].Name
	}
	if l, ok := f.cat.Ladder(id); ok {
		return l.Name
	}
	return id
}

// phaseMoved names the regions whose phase changed since the plan was made.
func (f *frame) phaseMoved() []string {
	out := []string{}
	for i, p := range f.phases {
		if i < len(f.plan.Phases) && f.plan.Phases[i].Phase != p.Phase {
			out = append(out, fmt.Sprintf("%s: %s → %s (%s)", p.Name, f.plan.Phases[i].Phase, p.Phase, p.Why))
		}
	}
	return out
}

// doneOn returns what was logged of a ladder on a date.
func (f *frame) doneOn(p store.Prescription, on day.Date) (DoseView, bool) {
	d := DoseView{PrescriptionID: p.ID, Ladder: p.Ladder, Name: f.ladders[p.ID].Name, Left: "not done", Right: "not done"}
	found := false
	for _, it := range f.items {
		if it.PrescriptionID != p.ID || dateOf(it.On) != on {
			continue
		}
		found = true
		n := f.ladders[p.ID].At(it.Notch)
		d.Exercise = n.Exercise.ID
		if w := words.Notch(n); it.Side == string(body.Left) {
			d.Left = w
		} else {
			d.Right = w
		}
	}
	d.Same = d.Left == d.Right
	return d, found
}
