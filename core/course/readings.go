package course

import (
	"math"
	"slices"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
)

// Book is a record as far as it has arrived: the newest revision of every
// reading, and the state that follows from them.
type Book struct {
	rec        *Record
	Today      day.Date
	Hour       int
	Visits     Visits
	Clearances []safety.Clearance
	Raised     []Raised
	Mornings   []Morning // by date
	Runs       []load.Run
	Days       map[day.Date]Day
	Planned    map[day.Date]int
	Logs       []Log // by date
	Ramps      []RampTerms
	State      State
	decisions  []Decision
	byKey      map[string]int
	bySession  map[sessionKey]int

	kinds    map[kindKey]catalogue.Kinds
	runIDs   []string
	allFlags []safety.Standing
	flagsOn  day.Date
	series   map[seriesKey]series
	seats    map[Seat]int
	items    map[Seat][]itemOf
	now      surroundings
}

// sessionKey finds the standing decision of one side's session.
type sessionKey struct {
	prescription, log string
	side              body.Side
}

// index keeps the newest standing decision of a session at hand.
func (b *Book) index(i int) {
	d := b.decisions[i]
	b.byKey[d.Key] = i
	if d.Kind != OfSession {
		return
	}
	for _, s := range d.Sides() {
		k := sessionKey{d.Prescription, d.Log, s}
		j, there := b.bySession[k]
		switch {
		case d.Stands() && (!there || j <= i):
			b.bySession[k] = i
		case !d.Stands() && there && j == i:
			delete(b.bySession, k)
		}
	}
}

type itemOf struct {
	log string
	seq int64
	Item
}

type seriesKey struct {
	tissues string
	side    body.Side
}

type series struct {
	mornings []adjust.Morning
	rests    []adjust.Rest
	b0       float64
	restB0   float64
}

// Open returns the book of everything in a record, as of a moment.
func Open(r Record, at Moment) *Book {
	b := newBook(&r)
	for _, e := range r.events() {
		b.take(e)
	}
	b.at(at)
	return b
}

func newBook(r *Record) *Book {
	b := &Book{rec: r, Days: map[day.Date]Day{}, Planned: map[day.Date]int{}, byKey: map[string]int{}, bySession: map[sessionKey]int{}, seats: map[Seat]int{}, items: map[Seat][]itemOf{}, kinds: map[kindKey]catalogue.Kinds{}, State: r.State}
	b.Raised = slices.Clone(r.Raised)
	b.State.Seats = slices.Clone(r.State.Seats)
	b.State.Flares = slices.Clone(r.State.Flares)
	for i, s := range b.State.Seats {
		b.seats[Seat{s.Prescription, s.Side}] = i
	}
	b.decisions = slices.Clone(r.Decisions)
	for i := range b.decisions {
		b.index(i)
	}
	if r.Block != nil {
		for _, p := range r.Block.Prescriptions {
			for _, side := range body.Sides {
				at := Seat{p.ID, side}
				if _, ok := b.seats[at]; !ok {
					b.seats[at] = len(b.State.Seats)
					b.State.Seats = append(b.State.Seats, SeatState{Prescription: p.ID, Side: side, Peg: Peg{Notch: p.Start, LastUp: p.Since}})
				}
			}
		}
	}
	return b
}

// at moves the book's clock.
func (b *Book) at(m Moment) {
	b.Today, b.Hour = m.On, m.Hour
	b.now = surroundings{}
}

// event is one arrival of any kind.
type event struct {
	Arrival
	morning   *Morning
	run       *Run
	day       *Day
	planned   *Planned
	log       *Log
	visit     *Visit
	clearance *Clearance
	ramp      *RampTerms
	answer    *Answer
}

// events lists all arrivals of a record in their order.
func (r *Record) events() []event {
	var out []event
	for i := range r.Visits {
		out = append(out, event{Arrival: r.Visits[i].Arrival, visit: &r.Visits[i]})
	}
	for i := range r.Clearances {
		out = append(out, event{Arrival: r.Clearances[i].Arrival, clearance: &r.Clearances[i]})
	}
	for i := range r.Mornings {
		out = append(out, event{Arrival: r.Mornings[i].Arrival, morning: &r.Mornings[i]})
	}
	for i := range r.Runs {
		out = append(out, event{Arrival: r.Runs[i].Arrival, run: &r.Runs[i]})
	}
	for i := range r.Days {
		out = append(out, event{Arrival: r.Days[i].Arrival, day: &r.Days[i]})
	}
	for i := range r.Planned {
		out = append(out, event{Arrival: r.Planned[i].Arrival, planned: &r.Planned[i]})
	}
	for i := range r.Ramps {
		out = append(out, event{Arrival: r.Ramps[i].Arrival, ramp: &r.Ramps[i]})
	}
	for i := range r.Logs {
		out = append(out, event{Arrival: r.Logs[i].Arrival, log: &r.Logs[i]})
	}
	for i := range r.Answers {
		out = append(out, event{Arrival: r.Answers[i].Arrival, answer: &r.Answers[i]})
	}
	slices.SortStableFunc(out, func(a, b event) int {
		switch {
		case a.Seq < b.Seq:
			return -1
		case a.Seq > b.Seq:
			return 1
		}
		return 0
	})
	return out
}

// take enters an arrival into the book. Order matters only between revisions of
// the same thing.
func (b *Book) take(e event) {
	b.now = surroundings{}
	switch {
	case e.morning != nil:
		m := *e.morning
		b.series = nil
		i, found := slices.BinarySearchFunc(b.Mornings, m, func(x, y Morning) int {
			if d := int(x.On - y.On); d != 0 {
				return d
			}
			if x.Zone != y.Zone {
				return cmpString(string(x.Zone), string(y.Zone))
			}
			return cmpString(string(x.Side), string(y.Side))
		})
		if found {
			if m.was = b.Mornings[i].was; b.Mornings[i].severe() {
				old := b.Mornings[i]
				old.was, m.was = nil, &old
			}
			b.Mornings[i] = m
		} else {
			b.Mornings = slices.Insert(b.Mornings, i, m)
		}
	case e.run != nil:
		i := slices.Index(b.runIDs, e.run.ID)
		switch {
		case i >= 0 && e.run.Removed:
			b.runIDs, b.Runs = slices.Delete(b.runIDs, i, i+1), slices.Delete(b.Runs, i, i+1)
		case i >= 0:
			b.Runs[i] = e.run.Run
		case !e.run.Removed:
			b.runIDs, b.Runs = append(b.runIDs, e.run.ID), append(b.Runs, e.run.Run)
		}
	case e.day != nil:
		b.Days[e.day.On] = *e.day
		b.allFlags = nil
	case e.planned != nil:
		b.Planned[e.planned.Monday] = e.planned.Metres
	case e.ramp != nil:
		b.Ramps = append(b.Ramps, *e.ramp)
	case e.visit != nil:
		b.allFlags = nil
		b.Visits = slices.DeleteFunc(b.Visits, func(v Visit) bool { return v.ID == e.visit.ID })
		i := slices.IndexFunc(b.Visits, func(v Visit) bool { return v.On <= e.visit.On })
		if i < 0 {
			i = len(b.Visits)
		}
		b.Visits = slices.Insert(b.Visits, i, *e.visit)
	case e.clearance != nil:
		b.Clearances = append(b.Clearances, e.clearance.Clearance)
	case e.log != nil:
		if k := slices.IndexFunc(b.Logs, func(l Log) bool { return l.ID == e.log.ID }); k >= 0 {
			b.Logs = slices.Delete(b.Logs, k, k+1)
			for at, list := range b.items {
				b.items[at] = slices.DeleteFunc(slices.Clone(list), func(it itemOf) bool { return it.log == e.log.ID })
			}
		}
		if e.log.Removed {
			return
		}
		i := len(b.Logs)
		for i > 0 && b.Logs[i-1].On > e.log.On {
			i--
		}
		b.Logs = slices.Insert(b.Logs, i, *e.log)
		for _, it := range e.log.Items {
			at := Seat{it.Prescription, it.Side}
			list := b.items[at]
			k := len(list)
			for k > 0 && list[k-1].On > it.On {
				k--
			}
			b.items[at] = slices.Insert(list, k, itemOf{e.log.ID, e.Seq, it})
		}
	}
}

func cmpString(a, b string) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

// AgeOn is the runner's age on a date.
func (b *Book) AgeOn(on day.Date) screening.Age {
	years, known := b.rec.Runner.Person.AgeOn(on)
	return screening.Age{Years: years, Known: known}
}

// shares reports whether a reading counts for tissues and a side: a general one
// always, one of a place where its tissue is loaded. Without tissues all places
// of the side count.
func shares(m Morning, tissues []body.Tissue, side body.Side) bool {
	if m.Side != "" && side != body.Both && m.Side != side {
		return false
	}
	if m.Zone == "" || len(tissues) == 0 {
		return true
	}
	return slices.ContainsFunc(m.Zone.Tissues(), func(t body.Tissue) bool { return slices.Contains(tissues, t) })
}

// blockStart is the day from which the baseline of the block is formed.
func (b *Book) blockStart() day.Date {
	if b.rec.Block == nil {
		return -1 << 30
	}
	return b.rec.Block.Start
}

// beforeBlock is how many days of readings before a block still count.
const beforeBlock = 14

// readings returns the readings that tissues and a side look at: of each morning
// the worst.
func (b *Book) readings(tissues []body.Tissue, side body.Side) series {
	key := seriesKey{side: side}
	for _, t := range tissues {
		key.tissues += string(t) + " "
	}
	if s, ok := b.series[key]; ok {
		return s
	}
	var s series
	var first, firstRest []body.Pain
	start := b.blockStart()
	for _, m := range b.Mornings {
		if m.On < start-beforeBlock || !shares(m, tissues, side) {
			continue
		}
		if m.FirstStep != nil {
			if n := len(s.mornings); n > 0 && s.mornings[n-1].On == m.On {
				s.mornings[n-1].FirstStep = max(s.mornings[n-1].FirstStep, *m.FirstStep)
			} else {
				s.mornings = append(s.mornings, adjust.Morning{On: m.On, FirstStep: *m.FirstStep})
			}
		}
		if m.Rest != nil {
			if n := len(s.rests); n > 0 && s.rests[n-1].On == m.On {
				s.rests[n-1].Pain = max(s.rests[n-1].Pain, *m.Rest)
			} else {
				s.rests = append(s.rests, adjust.Rest{On: m.On, Pain: *m.Rest})
			}
		}
	}
	for _, m := range s.mornings {
		if m.On >= start {
			first = append(first, m.FirstStep)
		}
	}
	for _, r := range s.rests {
		if r.On >= start {
			firstRest = append(firstRest, r.Pain)
		}
	}
	s.b0 = adjust.StartingBaseline(first, b.rec.Runner.IntakeFirstStep)
	s.restB0 = adjust.StartingBaseline(firstRest, nil)
	if b.series == nil {
		b.series = map[seriesKey]series{}
	}
	b.series[key] = s
	return s
}

// Readings are the first steps that tissues and a side look at, the worst of each
// morning, and where the block began. Without tissues all places count.
func (b *Book) Readings(tissues []body.Tissue, side body.Side) adjust.History {
	s := b.readings(tissues, side)
	return adjust.History{Mornings: slices.Clone(s.mornings), Rests: slices.Clone(s.rests), B0: s.b0, RestB0: s.restB0}
}

// Prescription returns a prescription of the block by its id.
func (b *Book) Prescription(id string) (Prescription, bool) {
	if b.rec.Block == nil {
		return Prescription{}, false
	}
	for _, p := range b.rec.Block.Prescriptions {
		if p.ID == id {
			return p, true
		}
	}
	return Prescription{}, false
}

// history is what one side's ladder has behind it, up to one of its sessions.
func (b *Book) history(p Prescription, side body.Side, upTo string) adjust.History {
	s := b.readings(p.Ladder.Tissues, side)
	h := adjust.History{Mornings: s.mornings, Rests: s.rests, B0: s.b0, RestB0: s.restB0}
	at := Seat{p.ID, side}
	for _, it := range b.items[at] {
		x := it.Session
		x.DecidedBy = adjust.RowNone
		if d, ok := b.decided(p.ID, side, it.log); ok {
			x.DecidedBy = d.rowOf(side)
			if d.Final && it.log != upTo {
				h.Earlier = append(h.Earlier, adjust.Usual{On: d.Session, B: d.frozenOf(side).B})
			}
		}
		if n := len(h.Sessions); n > 0 && h.Sessions[n-1].On == x.On {
			h.Sessions[n-1] = sameDay(h.Sessions[n-1], x)
		} else {
			h.Sessions = append(h.Sessions, x)
		}
		if it.log == upTo {
			break
		}
	}
	return h
}

// sameDay makes one session of two on a day: the harder answers of both count, and
// two on a day are never two that went well.
func sameDay(a, b adjust.Session) adjust.Session {
	out := b
	out.Pain = harder(a.Pain, b.Pain)
	out.CrampAt = first(b.CrampAt, a.CrampAt)
	out.SoreSpot = harder(a.SoreSpot, b.SoreSpot)
	out.Reacted = a.Reacted || b.Reacted
	if a.Done != nil && (b.Done == nil || *a.Done < *b.Done) {
		out.Done, out.NoTime = a.Done, a.NoTime
	}
	if a.Compensated != nil && (b.Compensated == nil || *a.Compensated > *b.Compensated) {
		out.Compensated = a.Compensated
	}
	if a.Reserve != nil && (b.Reserve == nil || *a.Reserve < *b.Reserve) {
		out.Reserve = a.Reserve
	}
	if a.SureTwenty != nil && !*a.SureTwenty {
		out.SureTwenty = a.SureTwenty
	}
	if out.Cut == "" {
		out.Cut = a.Cut
	}
	if out.DecidedBy == adjust.RowNone {
		out.DecidedBy = a.DecidedBy
	}
	return out
}

func first[T any](a, b *T) *T {
	if a != nil {
		return a
	}
	return b
}

// History is what one side's ladder has behind it.
func (b *Book) History(p Prescription, side body.Side) adjust.History { return b.history(p, side, "") }

// last is a side's newest session.
func (b *Book) last(at Seat) *itemOf {
	if list := b.items[at]; len(list) > 0 {
		return &list[len(list)-1]
	}
	return nil
}

// morning is the worst known first-step reading of a date, of any place.
func (b *Book) morning(on day.Date) *body.Pain {
	for _, m := range b.readings(nil, body.Both).mornings {
		if m.On == on {
			v := m.FirstStep
			return &v
		}
	}
	return nil
}

// PlannedRest is what is planned for the rest of a week and not run yet, metres.
func (b *Book) PlannedRest(on day.Date) int {
	m, ok := b.Planned[on.Monday()]
	if !ok {
		return 0
	}
	done := 0
	for _, r := range b.Runs {
		if r.On >= on.Monday() && r.On <= on {
			done += r.Metres
		}
	}
	return max(0, m-done)
}

// outOfMeans are weeks that say nothing of what is usual: race and half weeks of
// the block, and weeks with an illness.
func (b *Book) outOfMeans(monday day.Date) bool {
	for d := monday; d < monday+7; d++ {
		if b.Days[d].Illness == fever {
			return true
		}
	}
	if b.rec.Block == nil || monday+6 < b.rec.Block.Start {
		return false
	}
	k := planning.KindOf(b.rec.Block.Start, b.rec.Block.Plan.Wishes.Race, max(monday, b.rec.Block.Start))
	return k == planning.RaceWeek || k == planning.HalfWeek
}

const fever = "fever"

// Volume is what running is judged from on a date.
func (b *Book) Volume(on day.Date) load.Volume {
	return load.Volume{Runs: b.Runs, On: on, PlannedRest: b.PlannedRest(on), Intake: b.rec.Runner.IntakeMetres, Out: b.outOfMeans, Return: b.returnStage()}
}

// OutOfMeans reports a week that stays out of means.
func (b *Book) OutOfMeans(monday day.Date) bool { return b.outOfMeans(monday) }

// returnStage is the present stage of the way back to running, where the block
// has one that stands.
func (b *Book) returnStage() *load.ReturnStage {
	if b.rec.Block == nil {
		return nil
	}
	for _, p := range b.rec.Block.Prescriptions {
		if p.Ladder.Purpose != catalogue.ForReturn || b.leftOut(p.Ladder.ID, b.Today) || b.rec.Block.Start+day.Date(7*(p.FromWeek-1)) > b.Today {
			continue
		}
		peg := b.State.Peg(Seat{p.ID, body.Left})
		n := p.Ladder.At(max(1, peg.Notch))
		s := load.ReturnStage{Since: b.rec.Block.Start}
		if n.Dose.WalkMinutes > 0 || peg.Notch > 1 {
			s.Minutes = float64(n.Dose.Sets * (n.Dose.Minutes + n.Dose.WalkMinutes))
		}
		return &s
	}
	return nil
}

// WayToRun is how the way back to running stands in the block.
func (b *Book) WayToRun() planning.WayToRun {
	if b.rec.Block == nil {
		return planning.WayToRun{}
	}
	for _, p := range b.rec.Block.Prescriptions {
		if p.Ladder.Purpose != catalogue.ForReturn || b.leftOut(p.Ladder.ID, b.Today) {
			continue
		}
		l, r := b.State.Peg(Seat{p.ID, body.Left}), b.State.Peg(Seat{p.ID, body.Right})
		if min(l.Notch, r.Notch) < p.Ladder.Len() {
			return planning.WayToRun{Stands: true}
		}
		through := planning.WayToRun{}
		for _, peg := range []Peg{l, r} {
			if peg.LastUp != nil {
				through.NoFastTo = max(through.NoFastTo, *peg.LastUp+planning.NoFastDays)
			}
		}
		return through
	}
	return planning.WayToRun{}
}

func (b *Book) leftOut(ladder string, on day.Date) bool {
	out := false
	for _, x := range b.rec.Block.Left {
		if x.Ladder == ladder && x.On <= on {
			out = x.Out
		}
	}
	return out
}

// Running is what running allows on a date.
func (b *Book) Running(on day.Date) load.Running { return load.State(b.Volume(on)) }

// Illness is what row 0 looks at.
func (b *Book) Illness() adjust.Illness {
	last := day.Date(math.MinInt32)
	for on, n := range b.Days {
		if n.Illness == fever && on <= b.Today {
			last = max(last, on)
		}
	}
	if last < b.Today-illnessBack {
		return adjust.Illness{}
	}
	n := 0
	for on := last; b.Days[on].Illness == fever; on-- {
		n++
	}
	return adjust.Illness{Now: adjust.IllNow(last, b.Today), Days: n, Ended: &last}
}

const illnessBack = 60

// poorSleep reports two poor nights running, or one of under six hours.
func (b *Book) poorSleep(on day.Date) bool {
	n := b.Days[on]
	return n.ShortSleep || n.PoorSleep && (b.Days[on-1].PoorSleep || b.Days[on-1].ShortSleep)
}

func (b *Book) mildIll(on day.Date) bool {
	n, y := b.Days[on], b.Days[on-1]
	return n.Illness == "cold" || y.Illness == "cold" && n.Illness == ""
}

// AllFlags are all flags of the runner, cleared or not.
func (b *Book) AllFlags() []safety.Standing {
	if b.allFlags != nil && (b.flagsOn == b.Today || !slices.ContainsFunc(b.Raised, func(r Raised) bool { return r.Ended != nil })) {
		return b.allFlags
	}
	b.allFlags, b.flagsOn = b.gatherFlags(), b.Today
	return b.allFlags
}

func (b *Book) gatherFlags() []safety.Standing {
	out := []safety.Standing{}
	if len(b.Visits) > 0 {
		out = append(out, b.Visits.Flags(0)...)
	}
	// What a finished visit's readings raised stands while the next is under way.
	for i, v := range b.Visits {
		if v.Finished {
			if i > 0 {
				out = append(out, safety.Raise(v.On, safety.Answers{}, v.Complaints, v.Results)...)
			}
			break
		}
	}
	for _, r := range b.Raised {
		if r.Ended == nil || *r.Ended > b.Today {
			out = append(out, r.Standing)
		}
	}
	out = append(out, Told(b.dayList(), b.Visits, b.AgeOn)...)
	return b.shins(out)
}

// shins are the flags with what lasting shin pain adds, and with running let go on
// where the questions about bone and tightness were answered no since.
func (b *Book) shins(list []safety.Standing) []safety.Standing {
	out := list[:0:0]
	for _, f := range list {
		if f.Flag == safety.ShinLong && b.notBoneSince(f.Since) {
			f = f.Held()
		}
		out = append(out, f)
	}
	return out
}

// notBoneSince reports answers after a day, or to a question of that day's note,
// that say no to bone pain and to tightness.
func (b *Book) notBoneSince(on day.Date) bool {
	for _, n := range b.Days {
		if n.On >= on && n.On <= b.Today && n.Answers != nil && safety.NotBone(*n.Answers) {
			return true
		}
	}
	for _, v := range b.Visits {
		if v.On >= on && v.On <= b.Today && safety.NotBone(v.Answers) {
			return true
		}
	}
	return false
}

func (b *Book) dayList() []Day {
	out := make([]Day, 0, len(b.Days))
	for _, d := range b.Days {
		if d.Answers != nil || d.BoneTender {
			out = append(out, d)
		}
	}
	slices.SortFunc(out, func(x, y Day) int { return int(x.On - y.On) })
	return out
}

// Flags are those that hold today.
func (b *Book) Flags() []safety.Standing {
	if b.now.flags == nil {
		all := append(slices.Clone(b.AllFlags()), b.openFlags()...)
		if !slices.ContainsFunc(all, func(f safety.Standing) bool { return f.Flag == safety.ShinLong || f.Flag == safety.ShinLongHeld }) {
			all = append(all, b.shins(b.shinLong())...)
		}
		b.now.flags = safety.Stand(b.Today, all, b.Clearances)
	}
	return b.now.flags
}

// Decisions are all decisions in the order they were made.
func (b *Book) Decisions() []Decision { return b.decisions }

// loadsTissue reports whether a notch loads one of the tissues.
func loadsTissue(n catalogue.Notch, tissues []body.Tissue) bool {
	return slices.ContainsFunc(tissues, func(t body.Tissue) bool { return slices.Contains(n.Tissues, t) })
}
