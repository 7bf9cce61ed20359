package course

import (
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
)

// surroundings are what a book answers once a moment.
type surroundings struct {
	flags      []safety.Standing
	complaints []Complaint
	path       *Path
	phases     []planning.RegionPhase
	plan       *planning.Evidence
	running    map[day.Date]load.Running
	aged       map[catalogue.Gate]bool
}

// FootTissues are those that bare feet load.
var FootTissues = []body.Tissue{body.Achilles, body.Sole, body.Forefoot, body.Shin}

// Path is what a record says of gates and of the barefoot ramp.
type Path struct {
	book     *Book
	Evidence safety.Evidence
	Gates    []safety.GateState
	Outlooks map[catalogue.Gate]transition.Outlook
	Days     []transition.Reading
	Flares   []transition.Flare
	Terms    []transition.Terms // since the last end, oldest first
	Ramp     *transition.Ramp
	heldBy   map[day.Date]string
}

// Gates are decided on everything that has arrived.
func (b *Book) Gates() []safety.GateState { return b.Path().Gates }

// Path gathers the evidence for gates, with what was lived of the ramp, and plans
// the ramp.
func (b *Book) Path() *Path {
	if b.now.path == nil {
		b.now.path = b.newPath()
	}
	return b.now.path
}

func (b *Book) newPath() *Path {
	p := &Path{book: b, heldBy: map[day.Date]string{}}
	p.Evidence = b.Visits.Evidence(0, b.Today, b.AgeOn(b.Today), b.Flags())
	p.Evidence.Barefoot = safety.BarefootSchool(b.school().Is(planning.AskBarefoot))
	p.Evidence.Complaints = b.today()
	p.Evidence.OldAnkle = b.oldAnkle()
	b.lived(&p.Evidence)
	for _, r := range b.Ramps {
		if r.Ended {
			p.Terms = nil
		} else {
			p.Terms = append(p.Terms, r.Terms)
		}
	}
	h := b.Readings(FootTissues, body.Both)
	at := make(map[day.Date]body.Pain, len(h.Mornings))
	for _, m := range h.Mornings {
		at[m.On] = m.FirstStep
	}
	minutes := map[day.Date]int{}
	for on, n := range b.Days {
		if n.Barefoot != nil && on <= b.Today {
			minutes[on] = *n.Barefoot
		}
	}
	if len(minutes) > 0 {
		p.Evidence.HomeDays = safety.HomeFortnight(minutes, func(d day.Date) (body.Pain, bool) { v, ok := at[d]; return v, ok }, h.Baseline, b.Today)
	}
	p.Evidence.ShareHeld = load.ShareHeld(b.Runs, b.Today)
	p.Flares = b.rampFlares()
	if len(p.Terms) == 0 {
		p.decide()
		return p
	}
	p.Days = b.rampReadings(h, at)
	p.decide()
	r := transition.Plan(p.Input(p.Terms))
	p.Ramp = &r
	if on := r.WalkPassed(); on != nil {
		p.Evidence.WalkPassed = on
		p.decide()
	}
	return p
}

func (b *Book) school() planning.School {
	if b.rec.Block != nil {
		return b.rec.Block.Plan.Wishes.School
	}
	return b.rec.School
}

// decide decides the gates on the evidence, and says when a closed one may open.
func (p *Path) decide() {
	p.Gates = safety.Gates(p.Evidence)
	p.Outlooks = transition.Outlooks(p.Gates, p.book.Today, p.book.rec.Runner.Person.Birth, p.book.pogoWeeks(), p.book.Flags())
}

// Under returns the same path under another position on bare feet.
func (p *Path) Under(barefoot safety.BarefootSchool) *Path {
	o := *p
	o.Evidence.Barefoot = barefoot
	o.decide()
	return &o
}

// lived adds to the evidence what was logged: a clean two-leg 3 × 15, a minute of
// pogo, the newest flare.
func (b *Book) lived(e *safety.Evidence) {
	if b.rec.Block == nil {
		return
	}
	for _, p := range b.rec.Block.Prescriptions {
		for _, side := range body.Sides {
			var h *adjust.History
			for _, it := range b.items[Seat{p.ID, side}] {
				n := p.Ladder.At(it.Notch)
				raises := twoLegRaise(p.Ladder, n)
				if !raises && !PogoMinute(n) || it.Cut != "" {
					continue
				}
				if h == nil {
					x := b.history(p, side, "")
					h = &x
				}
				next := b.morning(it.On + 1)
				on := it.On
				if !safety.CleanTwoLeg(it.Pain, it.Done, next, h.Baseline(on)) {
					continue
				}
				switch {
				case raises && (e.TwoLegClean == nil || on > *e.TwoLegClean):
					e.TwoLegClean = &on
				case !raises && (e.PogoClean == nil || on > *e.PogoClean):
					e.PogoClean = &on
				}
			}
		}
	}
	for _, f := range b.State.Flares {
		on := f.Since
		if f.Ended != nil {
			on = *f.Ended
		} else {
			on = b.Today
		}
		if e.Flare == nil || on > *e.Flare {
			e.Flare = &on
		}
	}
}

// Doses that prove a gate.
const (
	twoLegSets, twoLegReps = 3, 15
	pogoSeconds            = 60
)

// twoLegRaise reports 3 × 15 of two-legged raises or more: strength of the calf
// alone, done on both legs without added load.
func twoLegRaise(l catalogue.Ladder, n catalogue.Notch) bool {
	return l.Purpose == catalogue.ForStrength && n.Together() && len(n.Tissues) == 1 && n.Tissues[0] == body.Achilles && n.Exercise.Position == "standing" &&
		n.Dose.Sets >= twoLegSets && n.Dose.Reps >= twoLegReps && n.Dose.BodyPercent == 0
}

// PogoMinute reports a notch of 60 s of free two-leg pogo or more, in one set or
// in pieces.
func PogoMinute(n catalogue.Notch) bool {
	return n.Exercise.ID == "pogo-two" && n.Dose.Sets*n.Dose.HoldSeconds >= pogoSeconds
}

// pogoWeeks is how many notches are still to go to 60 s on two legs.
func (b *Book) pogoWeeks() int {
	l, ok := b.rec.Catalogue.Ladder("spring-pogo")
	at := 1
	if b.rec.Block != nil {
		for _, p := range b.rec.Block.Prescriptions {
			if p.Ladder.ID == "spring-pogo" {
				l, ok, at = p.Ladder, true, b.State.Peg(Seat{p.ID, body.Left}).Notch
			}
		}
	}
	if !ok {
		return 0
	}
	for i := 1; i <= l.Len(); i++ {
		if PogoMinute(l.At(i)) {
			return max(0, i-at)
		}
	}
	return 0
}

// rampReadings gathers the days of a ramp: notes, mornings, runs in minimal shoes.
func (b *Book) rampReadings(h adjust.History, at map[day.Date]body.Pain) []transition.Reading {
	days := map[day.Date]*transition.Reading{}
	of := func(d day.Date) *transition.Reading {
		if days[d] == nil {
			days[d] = &transition.Reading{On: d, Usual: h.Baseline(d)}
		}
		return days[d]
	}
	for on, n := range b.Days {
		r := of(on)
		r.HomeMinutes, r.Soreness, r.Tender = n.Barefoot, n.Soreness, n.BoneTender
		r.Done = append(r.Done, n.Exposure...)
	}
	for on, v := range at {
		of(on).Morning = &v
	}
	for _, run := range b.Runs {
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

// Readings are the days as the ramp and a change of cadence look at them.
func (p *Path) Readings() []transition.Reading {
	if p.Days == nil {
		h := p.book.Readings(FootTissues, body.Both)
		at := make(map[day.Date]body.Pain, len(h.Mornings))
		for _, m := range h.Mornings {
			at[m.On] = m.FirstStep
		}
		p.Days = p.book.rampReadings(h, at)
	}
	return p.Days
}

// RhythmName names a lighter, race or half week; empty for a usual one.
func (p *Path) RhythmName(monday day.Date) string { return weekNames[p.Rhythm(monday)] }

// held says why nothing of the barefoot ramp rises in a week: the block's rhythm,
// a flag that closes progress, running.
func (p *Path) held(monday day.Date) string {
	why, known := p.heldBy[monday]
	if !known {
		why = p.holds(monday)
		p.heldBy[monday] = why // a thousand futures ask for the same weeks
	}
	return why
}

func (p *Path) holds(monday day.Date) string {
	if k := p.Rhythm(monday); k.Holds() {
		return weekNames[k]
	}
	if monday >= p.book.Today.Monday() {
		for _, f := range p.book.Flags() {
			if f.HoldsStages() {
				return f.Name() + " closes progress"
			}
		}
	}
	return p.runningHolds(monday)
}

// Rhythm is the block's lighter, race and half weeks, or the ramp's own.
func (p *Path) Rhythm(monday day.Date) planning.WeekKind {
	start, race := day.Date(0), (*planning.Race)(nil)
	if b := p.book.rec.Block; b != nil {
		start, race = b.Start, b.Plan.Wishes.Race
	} else if len(p.Terms) > 0 {
		start = transition.FirstMonday(p.Terms[0].From)
	}
	if kind := planning.KindOf(start, race, max(monday, start)); kind.Holds() && monday >= start.Monday() {
		return kind
	}
	return planning.Normal
}

// runningHolds: running rose or jumped in the week before, or in this one, or
// nobody knows how much it is.
func (p *Path) runningHolds(monday day.Date) string {
	b := p.book
	this := b.Today.Monday()
	if monday > this {
		return ""
	}
	v := b.Volume(monday - 1)
	v.PlannedRest = 0
	if v.Intake == nil && len(p.Terms) > 0 && p.Terms[0].WeeklyMetres > 0 {
		v.Intake = &p.Terms[0].WeeklyMetres
	}
	classes := []load.Class{load.State(v).Class}
	if monday == this {
		v.On, v.PlannedRest = b.Today, b.PlannedRest(b.Today)
		classes = append(classes, load.State(v).Class)
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

// weekNames are the weeks in which nothing of a ramp rises.
var weekNames = map[planning.WeekKind]string{planning.DeloadWeek: "lighter week", planning.RaceWeek: "race week", planning.HalfWeek: "half week"}

// Input is what a ramp with given terms is planned from.
func (p *Path) Input(terms []transition.Terms) transition.Input {
	b := p.book
	in := transition.Input{Today: b.Today, Start: terms[0].From, Terms: terms, Gates: p.Outlooks, Readings: p.Days, Flares: p.Flares, Held: p.held}
	in.Readings = p.Readings()
	for i := range b.Clearances {
		c := &b.Clearances[i]
		if strings.HasPrefix(string(c.Flag), bone) && c.On <= b.Today && (in.Cleared == nil || c.On > *in.Cleared) {
			in.Cleared = &c.On
		}
	}
	// A coach's own count goes before what devices counted; the last run's before nothing.
	if c, ok := b.Value(screening.CadenceTest); ok {
		in.Cadence = c
	} else if c, _, ok := load.UsualCadence(b.Runs, b.Today); ok {
		in.Cadence = c
	} else {
		in.Cadence = load.LastCadence(b.Runs, b.Today)
	}
	if v, ok := b.Value(screening.StrikeEasy); ok {
		in.Strike = load.MidForeStrike
		if v <= 1 {
			in.Strike = load.RearStrike
		}
	}
	return in
}

// Value returns the newest value of a test, the left or only side.
func (b *Book) Value(id screening.TestID) (float64, bool) {
	for _, v := range b.Visits {
		for _, r := range v.Results {
			if r.Test == id && r.Left.Measured() {
				return *r.Left.Value, true
			}
		}
	}
	return 0, false
}

// exposureOver reports that more was done without shoes in the ISO week of a date
// than the ramp had planned. Without a ramp there is no line.
func (b *Book) exposureOver(on day.Date) bool {
	minutes, planned, home, ok := b.Exposure(on)
	return ok && load.ExposureOver(minutes, planned, home)
}

// Exposure returns the minutes done and planned of the ISO week of a date in the
// ramp's present stage, and whether that is the one at home; false without a ramp.
func (b *Book) Exposure(on day.Date) (minutes, planned int, home, ok bool) {
	r := b.Path().Ramp
	if r == nil || on < r.Start {
		return 0, 0, false, false
	}
	i := int(on.Monday()-r.Start) / 7
	if i < 0 || i >= len(r.Weeks) {
		return 0, 0, false, false
	}
	w := r.Weeks[i]
	home = w.State.Stage == transition.Home || w.State.Stage == ""
	planned = w.Planned(home)
	for d := on.Monday(); d <= on; d++ {
		n, known := b.Days[d]
		if !known {
			continue
		}
		if home {
			if n.Barefoot != nil {
				minutes += *n.Barefoot
			}
			continue
		}
		for _, x := range n.Exposure {
			minutes += x.Minutes
		}
	}
	return minutes, planned, home, true
}

// ByRamp reports a ladder that the ramp stands in for while there is one.
func ByRamp(l catalogue.Ladder) bool { return l.Purpose == catalogue.ForExposure }

// PlanEvidence is what the planner knows of a runner today: of a running block
// too, where there is one.
func (b *Book) PlanEvidence() planning.Evidence {
	e := planning.Evidence{On: b.Today, Person: b.rec.Runner.Person, Gates: b.Gates(), Flags: b.Flags(), Standing: map[string]int{},
		School: b.school(), Ramp: b.Path().Ramp != nil, Complaints: b.today()}
	for _, v := range b.Visits {
		if v.Finished {
			e.Findings, e.Results = v.Findings, v.Results
			break
		}
	}
	e.Growing = b.growing(e.Complaints)
	e.Flares = b.flareLocks()
	e.NoDayOff = b.noDayOff()
	if blk := b.rec.Block; blk != nil {
		w := blk.Plan.Wishes
		e.Since, e.Owned, e.Evenings, e.Wish, e.Added = blk.Start, w.Owned, w.Evenings, w.Wish, w.Added
		b.Known(&e, b.Today)
	} else {
		b.mornings(&e)
	}
	return e
}

// mornings adds the first steps, the worst of all places and those of each region.
func (b *Book) mornings(e *planning.Evidence) {
	h := b.readings(nil, body.Both)
	for _, m := range h.mornings {
		e.Mornings = append(e.Mornings, planning.Reading{On: m.On, Pain: m.FirstStep})
	}
	e.Baseline = h.b0
	e.ByRegion = map[planning.Region][]planning.Reading{}
	for _, t := range FootTissues {
		list := []planning.Reading{}
		for _, m := range b.readings([]body.Tissue{t}, body.Both).mornings {
			list = append(list, planning.Reading{On: m.On, Pain: m.FirstStep})
		}
		e.ByRegion[planning.Region(t)] = list
	}
}

// oldAnkle reports an earlier ankle injury with an ankle that bends too little.
func (b *Book) oldAnkle() bool {
	for _, v := range b.Visits {
		if !v.Finished {
			continue
		}
		stiff := slices.ContainsFunc(v.Findings, func(f screening.Finding) bool { return f.Factor == "ankle-stiff" })
		return stiff && len(v.OldAnkle) > 0
	}
	return false
}

// noDayOff reports a runner under 18 who said that no day of the week is without
// sport.
func (b *Book) noDayOff() bool {
	age, known := b.rec.Runner.Person.AgeOn(b.Today)
	if !known || age >= safety.Adult || len(b.Visits) == 0 {
		return false
	}
	off := b.Visits[0].Growth.DayOff
	return off != nil && !*off
}

// Growth, house: from 0.6 cm a month, and more hours of sport a week than years.
const growthSpurt = 0.6

// growing reports a growth spurt under 18, or pain: a third less of what loads.
func (b *Book) growing(complaints []screening.Complaint) bool {
	age, known := b.rec.Runner.Person.AgeOn(b.Today)
	if !known || age >= safety.Adult {
		return false
	}
	if slices.ContainsFunc(complaints, func(c screening.Complaint) bool { h, ok := c.Height(); return !ok || h > 0 }) {
		return true
	}
	for _, v := range b.Visits {
		g := v.Growth
		if g.HeightCm == nil || g.BeforeCm == nil || g.MonthsApart == nil || *g.MonthsApart <= 0 {
			continue
		}
		return (*g.HeightCm-*g.BeforeCm) / *g.MonthsApart >= growthSpurt-1e-9
	}
	return false
}

// carryDays is how long a ladder may rest and still go on where it stood.
const carryDays = 28

// Known adds what a running block knows: mornings, setbacks, where ladders stand,
// what is stopped.
func (b *Book) Known(e *planning.Evidence, on day.Date) {
	b.mornings(e)
	for _, d := range b.decisions {
		if (d.D.Row == 2 || d.D.Row == 3) && d.Stands() && d.D.Verdict != adjust.Hold && d.Kind != WayBack {
			if p, ok := b.Prescription(d.Prescription); ok {
				e.Setbacks = append(e.Setbacks, planning.Setback{On: d.At.On, Row: int(d.D.Row), Tissues: p.Ladder.Tissues})
			}
		}
	}
	for _, x := range b.rec.Block.Changed {
		e.Followed = append(e.Followed, x.From)
	}
	var bounced []day.Date
	for _, p := range b.rec.Block.Prescriptions {
		l, r := b.State.Peg(Seat{p.ID, body.Left}), b.State.Peg(Seat{p.ID, body.Right})
		if l.Halt != nil || r.Halt != nil {
			e.Stopped = append(e.Stopped, p.Ladder.ID)
			continue
		}
		newest := day.Date(math.MinInt32)
		for _, side := range body.Sides {
			for _, it := range b.items[Seat{p.ID, side}] {
				newest = max(newest, it.On)
				if p.Ladder.Purpose == catalogue.ForSpring {
					bounced = append(bounced, it.On)
				}
			}
		}
		if newest > math.MinInt32 && int(on-newest) <= carryDays {
			e.Standing[p.Ladder.ID] = min(l.Notch, r.Notch)
		}
	}
	e.Spring = planning.SpringWeeks(bounced, on)
}

// Phases says where each region stands today.
func (b *Book) Phases() []planning.RegionPhase {
	if b.now.phases == nil {
		b.now.phases = planning.Phases(b.evidence())
	}
	return b.now.phases
}

// evidence is what a permission is given from today.
func (b *Book) evidence() planning.Evidence {
	if b.now.plan == nil {
		e := b.PlanEvidence()
		e.Stopped = nil
		b.now.plan = &e
	}
	return *b.now.plan
}

// May answers whether a notch of a ladder may be done on a side today, with every
// reason. Planner, engine, lists, sheets and calendar ask nothing else.
func (b *Book) May(l catalogue.Ladder, notch int, side body.Side) planning.Permission {
	return b.evidence().MayAs(l, notch, b.kindsOf(l, notch), side, b.Phases())
}

// shut is the part of May that moves a peg.
func (b *Book) shut(l catalogue.Ladder, notch int, side body.Side) planning.Permission {
	e := planning.Evidence{On: b.Today, Person: b.rec.Runner.Person, Flags: b.Flags(), Flares: b.flareLocks()}
	if l.At(notch).Gate != "" {
		e.Gates = b.Gates()
	}
	return e.Shut(l, notch, b.kindsOf(l, notch), side)
}

type kindKey struct {
	ladder string
	notch  int
}

// kindsOf are the kinds of a notch of the block, told once.
func (b *Book) kindsOf(l catalogue.Ladder, notch int) catalogue.Kinds {
	key := kindKey{l.ID, notch}
	k, ok := b.kinds[key]
	if !ok {
		k = l.At(notch).Kinds()
		b.kinds[key] = k
	}
	return k
}

// flareLocks are the flares that stand, as the permission reads them.
func (b *Book) flareLocks() []planning.Flare {
	var out []planning.Flare
	for _, f := range b.Flares() {
		out = append(out, planning.Flare{Side: f.Side, Tissues: f.Tissues, Quiet: adjust.QuietHoldsIn(f.Sore), Since: f.Since})
	}
	return out
}

// May answers the same of a record at a moment.
func May(r Record, l catalogue.Ladder, notch int, side body.Side, at Moment) planning.Permission {
	return Open(r, at).May(l, notch, side)
}

// Highest returns the highest notch up to one that may be done on a side today; 0
// where none may. With it comes what is said of the notch it began at.
func (b *Book) Highest(l catalogue.Ladder, notch int, side body.Side) (int, planning.Permission) {
	p := b.May(l, notch, side)
	if !p.Closed() {
		return notch, p
	}
	for n := notch - 1; n >= 1; n-- {
		if !b.May(l, n, side).Closed() {
			return n, p
		}
	}
	return 0, p
}

// Ceiling returns the highest notch of a prescription that nothing closes; 0 for
// a block made before plans kept their reasons.
func (b *Book) Ceiling(p Prescription) int {
	if len(b.rec.Block.Plan.Choices) == 0 {
		return 0
	}
	top, _ := planning.Ceiling(b.rec.Catalogue, p.Ladder, b.evidence(), b.Phases())
	return max(1, top)
}

// ExtraSetHurts reports a side that hurt over 3 in its last session, or this morning
// or the one before: the extra set of the weaker side is left out.
func (b *Book) ExtraSetHurts(prescription string, side body.Side) bool {
	if it := b.last(Seat{prescription, side}); it != nil && it.Pain != nil && *it.Pain > planning.ExtraSetPain {
		return true
	}
	p, ok := b.Prescription(prescription)
	if !ok || len(p.Ladder.Tissues) == 0 {
		return false
	}
	list := b.readings(p.Ladder.Tissues, side).mornings
	n := len(list)
	return n > 0 && b.Today-list[n-1].On <= 1 && list[n-1].FirstStep > planning.ExtraSetPain
}
