package planning

import (
	"cmp"
	"math"
	"math/bits"
	"slices"

	"notchback/core/body"
)

// RunKind is what kind of run a day has; empty for none.
type RunKind string

// The kinds of runs.
const (
	NoRun RunKind = ""
	Easy  RunKind = "easy"
	Long  RunKind = "long" // at least 30 % of the week or 90 min
	Fast  RunKind = "fast"
)

func (k RunKind) hard() bool { return k == Long || k == Fast }

// Week is a runner's usual week, Monday first.
type Week struct {
	Runs     [7]RunKind `json:"runs" doc:"easy, long, fast or empty"`
	Second   [7]RunKind `json:"second,omitzero" doc:"A second run of the day, where there is one"`
	RunHour  *int       `json:"runHour,omitempty" minimum:"0" maximum:"23" doc:"When runs start; 7 when not known"`
	Hours    [7]*int    `json:"hours,omitzero" minimum:"0" maximum:"23" doc:"When the day's first run starts, where that is fixed"`
	Later    *int       `json:"later,omitempty" minimum:"0" maximum:"23" doc:"When second runs start; 18 when not known"`
	Minutes  [7]int     `json:"minutes" doc:"Free minutes of each day"`
	Sessions int        `json:"sessions" minimum:"1" maximum:"5" doc:"Main sessions a week"`
	Micro    bool       `json:"micro" doc:"A few minutes every day"`
	Evenings bool       `json:"evenings" doc:"Evening work is possible"`
	Prefer   [7]bool    `json:"prefer" doc:"Days the runner likes for main sessions"`
	Avoid    [7]bool    `json:"avoid" doc:"Days the runner would rather leave free"`
	Ramp     [7]bool    `json:"ramp,omitempty" doc:"Days with a run or strides of the barefoot ramp; filled by the plan"`
}

// Days is a set of weekdays; bit 0 is Monday.
type Days uint8

const everyDay Days = 1<<7 - 1

// Has reports whether a weekday, Monday 0, is in the set.
func (d Days) Has(day int) bool { return d>>(((day%7)+7)%7)&1 == 1 }

// Len returns the number of days.
func (d Days) Len() int { return bits.OnesCount8(uint8(d)) }

// List returns the days in order, Monday 0.
func (d Days) List() []int {
	out := []int{}
	for i := range 7 {
		if d.Has(i) {
			out = append(out, i)
		}
	}
	return out
}

// With returns the set with a day added.
func (d Days) With(day int) Days { return d | 1<<day }

// Without returns the set with a day taken out.
func (d Days) Without(day int) Days { return d &^ (1 << day) }

// DaysOf makes a set of weekdays, Monday 0.
func DaysOf(days ...int) Days {
	var d Days
	for _, i := range days {
		d = d.With(i)
	}
	return d
}

// next returns the days after those of the set; the week goes round.
func (d Days) next() Days { return (d<<1 | d>>6) & everyDay }

// near returns the days of the set with those before and after each.
func (d Days) near() Days { return d | d.next() | (d>>1|d<<6)&everyDay }

// Item is a ladder to be placed in the week.
type Item struct {
	Ladder   string        `json:"ladder"`
	Name     string        `json:"name"`
	Times    int           `json:"times" doc:"Wanted times a week"`
	Least    int           `json:"least" doc:"Fewest times a week that still help"`
	Seconds  float64       `json:"seconds"`
	Evening  bool          `json:"evening,omitempty" doc:"Stands by itself in the evening"`
	Gap48    bool          `json:"gap48,omitempty"`
	Heavy    bool          `json:"heavy,omitempty" doc:"Heavy for the calf"`
	Spring   bool          `json:"spring,omitempty"`
	NotTired bool          `json:"notTired,omitempty"`
	Tissues  []body.Tissue `json:"tissues" nullable:"false"`
}

func (i Item) shares(j Item) bool {
	return slices.ContainsFunc(i.Tissues, func(t body.Tissue) bool { return slices.Contains(j.Tissues, t) })
}

// WeekRule names a hard rule of the week.
type WeekRule string

// The hard rules.
const (
	WeekGap48   WeekRule = "gap48"
	WeekEvening WeekRule = "evening"
	WeekHeavy   WeekRule = "heavy-before-run"
	WeekSpring  WeekRule = "spring-after-heavy"
	WeekSprings WeekRule = "spring-most"
	WeekRest    WeekRule = "rest-days"
	WeekMinutes WeekRule = "minutes"
	WeekTimes   WeekRule = "times"
)

// Numbers of the week's rules.
const (
	eveningHour  = 20 // when evening work is taken to be, house
	unknownHour  = 7  // runs without a time
	unknownLater = 18 // second runs without a time, house: late leaves no evening
	eveningGap   = 12 // hours before a run without evening work
	lateRun      = 18 // from this hour a run leaves no evening two hours after it
	springMost   = 3
	restDays     = 2
	manyRunDays  = 6 // with so many days of running at most three main sessions
	mainBesides  = 3
	mostMain     = 5
	usualMain    = 3
	injuredMain  = 3
	microSeconds = 5 * 60
)

// Broken is a hard rule that an arrangement breaks.
type Broken struct {
	Rule  WeekRule `json:"rule"`
	Item  string   `json:"item,omitempty"`
	Other string   `json:"other,omitempty"`
	Day   int      `json:"day" doc:"Monday 0; −1 for the week"`
	Run   RunKind  `json:"run,omitempty"`
	Need  int      `json:"need,omitempty" doc:"Minutes, days or times needed"`
	Have  int      `json:"have,omitempty" doc:"What there is"`
}

// firstAt returns the hour of a day's first run: the day's own, the usual one, or the
// one taken where none is known.
func (w Week) firstAt(day int) int {
	if h := w.Hours[day%7]; h != nil {
		return *h
	}
	if w.RunHour == nil {
		return unknownHour
	}
	return *w.RunHour
}

// lastAt returns the hour of a day's last run.
func (w Week) lastAt(day int) int {
	switch {
	case w.Second[day%7] == NoRun:
		return w.firstAt(day)
	case w.Later != nil:
		return max(*w.Later, w.firstAt(day))
	}
	return max(unknownLater, w.firstAt(day))
}

// hoursKnown reports that the hours of all runs were told.
func (w Week) hoursKnown() bool {
	for d := range 7 {
		if w.Runs[d] != NoRun && w.RunHour == nil && w.Hours[d] == nil || w.Second[d] != NoRun && w.Later == nil {
			return false
		}
	}
	return true
}

// runsOn reports a run of any kind on a day.
func (w Week) runsOn(day int) bool { return w.Runs[day%7] != NoRun || w.Second[day%7] != NoRun }

// hardest is the kind of a day's hardest run: fast, then long, then easy.
func (w Week) hardest(day int) RunKind {
	a, b := w.Runs[day%7], w.Second[day%7]
	if a == NoRun || b == Fast || b == Long && a == Easy {
		return b
	}
	return a
}

// eveningFree reports whether evening work may stand on a day: not in the 12 h
// before a run, and not within two hours after one.
func (w Week) eveningFree(day int) bool {
	if w.runsOn(day+1) && 24-eveningHour+w.firstAt(day+1) < eveningGap {
		return false
	}
	return !w.runsOn(day) || w.lastAt(day) < lateRun
}

// hardOn reports a long or fast run, or one of the barefoot ramp, on a day: nothing heavy
// for the calf stands in the 24 hours before it.
func (w Week) hardOn(day int) bool { return w.hardest(day).hard() || w.Ramp[day%7] }

// beforeHard reports a day on which nothing heavy for the calf may stand: a hard run
// comes within 24 hours of it, the next day or as the second run of this one (house:
// the session may well lie between the two).
func (w Week) beforeHard(day int) bool { return w.hardOn(day+1) || w.Second[day%7].hard() }

// hardAhead is the hard run that keeps heavy work off a day.
func (w Week) hardAhead(day int) RunKind {
	if k := w.Second[day%7]; k.hard() {
		return k
	}
	return w.hardest(day + 1)
}

func (w Week) runDays() Days {
	var d Days
	for i := range 7 {
		if w.runsOn(i) {
			d = d.With(i)
		}
	}
	return d
}

// tooBusy reports main sessions that leave fewer than two days without a session,
// or more than three beside six or seven days of running. Runs do not use the rest
// days up.
func (w Week) tooBusy(main Days) bool {
	return main.Len() > 7-restDays || w.runDays().Len() >= manyRunDays && main.Len() > mainBesides
}

// Check returns every hard rule an arrangement breaks: where[i] are the days of
// items[i], micro the seconds of the short daily work on every day that has the
// time for it. Check looks at nothing but the week itself, so that a layout that
// was found, one a coach dragged and one of a test are judged alike.
func Check(w Week, items []Item, where []Days, micro float64) []Broken {
	out := []Broken{}
	var main Days
	for i, it := range items {
		if !it.Evening {
			main |= where[i]
		}
		for _, d := range where[i].List() {
			if it.Gap48 && where[i].Has(d+1) && where[i].Len() > 1 {
				out = append(out, Broken{Rule: WeekGap48, Item: it.Ladder, Other: it.Ladder, Day: (d + 1) % 7})
			}
			if it.Heavy && w.beforeHard(d) {
				out = append(out, Broken{Rule: WeekHeavy, Item: it.Ladder, Day: d, Run: w.hardAhead(d)})
			}
			if it.Evening && (!w.Evenings || !w.eveningFree(d)) {
				out = append(out, Broken{Rule: WeekEvening, Item: it.Ladder, Day: d})
			}
		}
		if it.Spring && where[i].Len() > springMost {
			out = append(out, Broken{Rule: WeekSprings, Item: it.Ladder, Day: -1, Need: springMost, Have: where[i].Len()})
		}
		for j, other := range items {
			if j > i && it.Gap48 && other.Gap48 && it.shares(other) {
				for _, d := range (where[j] & where[i].near()).List() {
					out = append(out, Broken{Rule: WeekGap48, Item: other.Ladder, Other: it.Ladder, Day: d})
				}
			}
			if it.Spring && other.Heavy && j != i {
				for _, d := range (where[i] & where[j].next()).List() {
					out = append(out, Broken{Rule: WeekSpring, Item: it.Ladder, Other: other.Ladder, Day: d})
				}
			}
		}
	}
	if w.tooBusy(main) {
		out = append(out, Broken{Rule: WeekRest, Day: -1, Need: restDays, Have: 7 - main.Len()})
	}
	for d := range 7 {
		need := 0.0
		for i, it := range items {
			if where[i].Has(d) {
				need += it.Seconds
			}
		}
		if need == 0 {
			continue
		}
		if w.hasMicro(d, micro) {
			need += micro
		}
		if need > float64(60*w.Minutes[d]) {
			out = append(out, Broken{Rule: WeekMinutes, Day: d, Need: int(math.Ceil(need / 60)), Have: w.Minutes[d]})
		}
	}
	return out
}

// hasMicro reports whether a day has the time for the short daily work.
func (w Week) hasMicro(day int, seconds float64) bool {
	return w.Micro && seconds > 0 && float64(60*w.Minutes[day]) >= seconds
}

// Reason a place is taken.
type WeekWhy string

// Why a session or an item stands on its day.
const (
	WhyEasyRun   WeekWhy = "easy-run-day"   // so that the day after stays easy
	WhyNoRun     WeekWhy = "no-run-day"     // nothing else that day
	WhyHardRun   WeekWhy = "hard-run-day"   // after the run
	WhyBeforeRun WeekWhy = "before-run-day" // the day before a run, for want of a better one
	WhyPreferred WeekWhy = "preferred"
	WhyAvoided   WeekWhy = "avoided" // the runner would rather not, nothing else fits
	WhySpread    WeekWhy = "spread"
	WhyGap       WeekWhy = "gap"     // a whole day between two doses
	WhyEvening   WeekWhy = "evening" // no run within twelve hours
	WhyFewer     WeekWhy = "fewer"   // fewer times than wanted
	WhyEveryDay  WeekWhy = "every-day"
	WhyTogether  WeekWhy = "together" // with every main session
)

// Placement is where an item stands, with its reasons.
type Placement struct {
	Item
	Days    []int     `json:"days" nullable:"false" doc:"Monday 0"`
	Why     []WeekWhy `json:"why" nullable:"false"`
	Blocked []Broken  `json:"blocked" nullable:"false" doc:"What keeps it off the other days"`
}

// DayWhy is why a main session stands on a day.
type DayWhy struct {
	Day int       `json:"day"`
	Why []WeekWhy `json:"why" nullable:"false"`
}

// Layout is a week that keeps every hard rule.
type Layout struct {
	Main         []int       `json:"main" nullable:"false" doc:"Days of the main sessions, Monday 0"`
	MainWhy      []DayWhy    `json:"mainWhy" nullable:"false"`
	Micro        []int       `json:"micro" nullable:"false" doc:"Days with the short daily work"`
	MicroSeconds float64     `json:"microSeconds"`
	Places       []Placement `json:"places" nullable:"false"`
	Cost         float64     `json:"cost" doc:"Lower is better; only soft rules count"`
}

// where returns the placements as sets of days.
func (l Layout) where() []Days {
	out := make([]Days, len(l.Places))
	for i, p := range l.Places {
		out[i] = DaysOf(p.Days...)
	}
	return out
}

// costs of the soft rules, house: only their order matters.
const (
	costNoRun     = 1.0
	costBeforeRun = 3.0
	costLong      = 2.0
	costFast      = 1.5
	costPrefer    = -2.0
	costAvoid     = 4.0
	costUneven    = 0.5
	costItem      = 0.15
	costFewer     = 6.0
	costNotTired  = 1.0
	costAway      = 2.5
)

// Options are what schools change in the layout.
type Options struct {
	AwayFromRuns bool // main sessions rather on days without a run
}

func (w Week) dayCost(d int, o Options) float64 {
	c := 0.0
	switch w.hardest(d) {
	case Long:
		c = costLong
	case Fast:
		c = costFast
	case NoRun:
		c = costNoRun
		if w.runsOn(d + 1) {
			c = costBeforeRun
		}
	}
	if o.AwayFromRuns {
		if !w.runsOn(d) {
			c = 0
		} else {
			c = costAway
		}
	}
	if w.Prefer[d] {
		c += costPrefer
	}
	if w.Avoid[d] {
		c += costAvoid
	}
	return c
}

var unevenTable = func() (t [1 << 7]float64) {
	for m := range t {
		days := Days(m).List()
		ideal := 7 / float64(max(1, len(days)))
		for i, d := range days {
			gap := float64(days[(i+1)%len(days)] - d)
			if gap <= 0 {
				gap += 7
			}
			t[m] += (gap - ideal) * (gap - ideal)
		}
	}
	return t
}()

// subsets are all sets of n days.
var subsets = func() (t [8][]Days) {
	for m := Days(0); m <= everyDay; m++ {
		t[m.Len()] = append(t[m.Len()], m)
	}
	return t
}()

// search looks through every arrangement, dropping those that can't win.
type search struct {
	w       Week
	items   []Item
	order   []int // items in the order they are tried
	micro   float64
	options Options
	free    [7]float64
	chosen  []Days
	best    []Days
	bestAt  float64
	leftMin []float64 // least cost of the items still to come
	cands   [][]candidate
}

type candidate struct {
	days Days
	cost float64
}

// LayOut places the items in the week. It returns false where no arrangement
// keeps every hard rule; Relaxations then says what could give. Items stand as
// often as wanted where they can, never less than their least.
func LayOut(w Week, items []Item, micro float64, o Options) (Layout, bool) {
	s := search{w: w, items: items, micro: micro, options: o, bestAt: math.Inf(1), chosen: make([]Days, len(items))}
	for d := range 7 {
		s.free[d] = float64(60 * w.Minutes[d])
		if w.hasMicro(d, micro) {
			s.free[d] -= micro
		}
	}
	for i := range items {
		s.order = append(s.order, i)
	}
	// What is hardest to place goes first.
	rank := func(it Item) int {
		r := 0
		if it.Gap48 {
			r -= 4
		}
		if it.Heavy || it.Spring {
			r -= 2
		}
		return r
	}
	slices.SortStableFunc(s.order, func(a, b int) int { return cmp.Compare(rank(items[a]), rank(items[b])) })
	anyMain := slices.ContainsFunc(items, func(i Item) bool { return !i.Evening })
	mains := []Days{0}
	if anyMain {
		mains = subsets[max(0, min(w.Sessions, mostMain))]
	}
	type option struct {
		days Days
		cost float64
	}
	var opts []option
	for _, m := range mains {
		if anyMain && m == 0 {
			continue
		}
		if w.tooBusy(m) {
			continue
		}
		c, ok := 0.0, true
		for _, d := range m.List() {
			c += w.dayCost(d, o)
			ok = ok && w.Minutes[d] > 0
		}
		if ok {
			opts = append(opts, option{m, c + costUneven*unevenTable[m]})
		}
	}
	slices.SortStableFunc(opts, func(a, b option) int { return cmp.Compare(a.cost, b.cost) })
	var bestMain Days
	for _, p := range opts {
		before := s.bestAt
		if s.try(p.days, p.cost) && s.bestAt < before {
			bestMain = p.days
		}
	}
	if s.best == nil {
		return Layout{}, false
	}
	return s.layout(bestMain), true
}

// candidates are the day sets an item can have by itself, cheapest first.
func (s *search) candidates(it Item, main Days) []candidate {
	room := main
	if it.Evening {
		room = 0
		for d := range 7 {
			if s.w.eveningFree(d) && s.w.Minutes[d] > 0 && s.w.Evenings {
				room = room.With(d)
			}
		}
	}
	wanted := min(it.Times, room.Len())
	if it.Spring {
		wanted = min(wanted, springMost)
	}
	least := min(it.Least, wanted)
	if !it.Evening {
		least = min(it.Least, main.Len(), wanted)
	}
	var out []candidate
	for n := wanted; n >= max(1, least); n-- {
		for _, m := range subsets[n] {
			if m&^room != 0 {
				continue
			}
			if it.Gap48 && m&m.next() != 0 && n > 1 {
				continue
			}
			ok, c := true, costFewer*float64(min(it.Times, 7)-n)
			for _, d := range m.List() {
				ok = ok && s.free[d] >= it.Seconds && !(it.Heavy && s.w.beforeHard(d))
				if it.NotTired && s.w.runsOn(d) {
					c += costNotTired
				}
				if it.Evening && s.w.Avoid[d] {
					c += costAvoid / 2
				}
			}
			if ok {
				out = append(out, candidate{m, c + costItem*unevenTable[m]})
			}
		}
	}
	slices.SortStableFunc(out, func(a, b candidate) int { return cmp.Compare(a.cost, b.cost) })
	return out
}

func (s *search) try(main Days, cost float64) bool {
	s.cands = make([][]candidate, len(s.order))
	s.leftMin = make([]float64, len(s.order)+1)
	need := 0.0
	for k := len(s.order) - 1; k >= 0; k-- {
		it := s.items[s.order[k]]
		s.cands[k] = s.candidates(it, main)
		if len(s.cands[k]) == 0 {
			return false
		}
		s.leftMin[k] = s.leftMin[k+1] + s.cands[k][0].cost
		if !it.Evening {
			fewest := 7
			for _, c := range s.cands[k] {
				fewest = min(fewest, c.days.Len())
			}
			need += it.Seconds * float64(fewest)
		}
	}
	have := 0.0
	for _, d := range main.List() {
		have += s.free[d]
	}
	if need > have {
		return false
	}
	free := s.free
	return s.place(0, cost, &free, main)
}

func (s *search) place(k int, cost float64, free *[7]float64, main Days) bool {
	if cost+s.leftMin[k] >= s.bestAt {
		return false
	}
	if k == len(s.order) {
		// A main day without an item would be an empty session.
		var used Days
		for i, it := range s.items {
			if !it.Evening {
				used |= s.chosen[i]
			}
		}
		if used != main {
			return false
		}
		s.bestAt, s.best = cost, slices.Clone(s.chosen)
		return true
	}
	i := s.order[k]
	it := s.items[i]
	found := false
next:
	for _, c := range s.cands[k] {
		if cost+c.cost+s.leftMin[k+1] >= s.bestAt {
			break
		}
		for _, j := range s.order[:k] {
			other := s.items[j]
			if it.Gap48 && other.Gap48 && it.shares(other) && c.days&s.chosen[j].near() != 0 {
				continue next
			}
			if it.Spring && other.Heavy && c.days&s.chosen[j].next() != 0 || it.Heavy && other.Spring && s.chosen[j]&c.days.next() != 0 {
				continue next
			}
		}
		fits := true
		for d := range 7 {
			if c.days.Has(d) && free[d] < it.Seconds {
				fits = false
			}
		}
		if !fits {
			continue
		}
		for d := range 7 {
			if c.days.Has(d) {
				free[d] -= it.Seconds
			}
		}
		s.chosen[i] = c.days
		found = s.place(k+1, cost+c.cost, free, main) || found
		for d := range 7 {
			if c.days.Has(d) {
				free[d] += it.Seconds
			}
		}
	}
	return found
}

// layout turns the best arrangement into one that explains itself.
func (s *search) layout(main Days) Layout {
	l := Layout{Main: main.List(), MainWhy: []DayWhy{}, Micro: []int{}, Places: []Placement{}, Cost: math.Round(s.bestAt*100) / 100}
	for d := range 7 {
		if s.w.hasMicro(d, s.micro) {
			l.Micro = append(l.Micro, d)
			l.MicroSeconds = s.micro
		}
	}
	for _, d := range main.List() {
		l.MainWhy = append(l.MainWhy, DayWhy{d, s.w.dayWhy(d)})
	}
	for i, it := range s.items {
		p := Placement{Item: it, Days: s.best[i].List(), Why: []WeekWhy{}, Blocked: []Broken{}}
		switch {
		case it.Evening:
			p.Why = append(p.Why, WhyEvening)
		case s.best[i] == main:
			p.Why = append(p.Why, WhyTogether)
		default:
			p.Why = append(p.Why, WhySpread)
		}
		if it.Gap48 {
			p.Why = append(p.Why, WhyGap)
		}
		if s.best[i].Len() < it.Times {
			p.Why = append(p.Why, WhyFewer)
		}
		room := main
		if it.Evening {
			room = everyDay
		}
		for _, d := range (room &^ s.best[i]).List() {
			moved := slices.Clone(s.best)
			moved[i] = moved[i].With(d)
			if broken := Check(s.w, s.items, moved, s.micro); len(broken) > 0 {
				b := broken[0]
				b.Day = d
				p.Blocked = append(p.Blocked, b)
			}
		}
		l.Places = append(l.Places, p)
	}
	return l
}

func (w Week) dayWhy(d int) []WeekWhy {
	var out []WeekWhy
	switch {
	case w.hardest(d) == Easy:
		out = append(out, WhyEasyRun)
	case w.hardest(d).hard():
		out = append(out, WhyHardRun)
	case w.runsOn(d + 1):
		out = append(out, WhyBeforeRun)
	default:
		out = append(out, WhyNoRun)
	}
	if w.Prefer[d] {
		out = append(out, WhyPreferred)
	}
	if w.Avoid[d] {
		out = append(out, WhyAvoided)
	}
	return out
}

// RelaxKind is what a relaxation gives up.
type RelaxKind string

// What can give, the cheapest first. Rules that protect tissue never do.
const (
	RelaxMinutes  RelaxKind = "minutes"  // a few minutes more on some days
	RelaxSessions RelaxKind = "sessions" // fewer main sessions
	RelaxEvenings RelaxKind = "evenings" // use the evenings
	RelaxEasyRun  RelaxKind = "easy-run" // a long or fast run becomes easy or moves
	RelaxOneRun   RelaxKind = "one-run"  // one run that day instead of two
	RelaxRunDay   RelaxKind = "run-day"  // one run day less
	RelaxLeaveOut RelaxKind = "leave-out"
	RelaxMinimum  RelaxKind = "minimum" // five minutes a day
)

// Relaxation is one way out when nothing fits.
type Relaxation struct {
	Kind    RelaxKind `json:"kind"`
	Day     int       `json:"day" doc:"Monday 0; −1 where none is meant"`
	Minutes int       `json:"minutes,omitempty" doc:"More minutes on each main day"`
	To      int       `json:"to,omitempty" doc:"Main sessions then"`
	Ladder  string    `json:"ladder,omitempty" doc:"What is left out"`
	Name    string    `json:"name,omitempty"`
	Cost    float64   `json:"cost"`
	Week    Week      `json:"week" doc:"The week with the relaxation"`
	Layout  Layout    `json:"layout"`
}

// costMinimum stands last among the ways out.
const costMinimum = 50.0

// relaxMinutes are the steps of minutes tried.
var relaxMinutes = []int{5, 10, 15, 20, 30, 45, 60}

// Relaxations returns the ways out of a week in which nothing fits, the
// cheapest first; none only where there is nothing to place. Each was laid out
// and keeps every hard rule.
func Relaxations(w Week, items []Item, micro float64, o Options) []Relaxation {
	out := []Relaxation{}
	try := func(r Relaxation, week Week, list []Item) bool {
		if l, ok := LayOut(week, list, micro, o); ok {
			r.Week, r.Layout = week, l
			out = append(out, r)
			return true
		}
		return false
	}
	for _, m := range relaxMinutes {
		more := w
		for d := range 7 {
			if more.Minutes[d] > 0 {
				more.Minutes[d] += m
			}
		}
		if try(Relaxation{Kind: RelaxMinutes, Day: -1, Minutes: m, Cost: float64(m) / 5}, more, items) {
			break
		}
	}
	for n := w.Sessions - 1; n >= 1; n-- {
		fewer := w
		fewer.Sessions = n
		if try(Relaxation{Kind: RelaxSessions, Day: -1, To: n, Cost: 3 * float64(w.Sessions-n)}, fewer, items) {
			break
		}
	}
	if !w.Evenings && slices.ContainsFunc(items, func(i Item) bool { return i.Evening }) {
		late := w
		late.Evenings = true
		try(Relaxation{Kind: RelaxEvenings, Day: -1, Cost: 2}, late, items)
	}
	for d := range 7 {
		if w.hardest(d).hard() {
			easy := w
			easy.Runs[d] = Easy
			if easy.Second[d] != NoRun {
				easy.Second[d] = Easy
			}
			try(Relaxation{Kind: RelaxEasyRun, Day: d, Cost: 5}, easy, items)
		}
		if w.Second[d] != NoRun {
			once := w
			once.Second[d] = NoRun
			try(Relaxation{Kind: RelaxOneRun, Day: d, Cost: 4}, once, items)
		}
		if w.runsOn(d) {
			off := w
			off.Runs[d], off.Second[d] = NoRun, NoRun
			try(Relaxation{Kind: RelaxRunDay, Day: d, Cost: 6}, off, items)
		}
	}
	for k := len(items) - 1; k >= 0; k-- {
		rest := slices.Delete(slices.Clone(items), k, k+1)
		if len(rest) == 0 {
			continue
		}
		try(Relaxation{Kind: RelaxLeaveOut, Day: -1, Ladder: items[k].Ladder, Name: items[k].Name, Cost: 8 + float64(len(items)-1-k)}, w, rest)
	}
	slices.SortStableFunc(out, func(a, b Relaxation) int { return cmp.Compare(a.Cost, b.Cost) })
	// One of each kind is enough to choose from.
	kept := out[:0]
	seen := map[RelaxKind]int{}
	for _, r := range out {
		if seen[r.Kind]++; seen[r.Kind] <= 2 {
			kept = append(kept, r)
		}
	}
	return kept
}
