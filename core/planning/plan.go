package planning

import (
	"cmp"
	"math"
	"slices"

	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/safety"
	"notchback/core/screening"
)

// Bounds of a block in weeks.
const (
	MinWeeks = 4
	MaxWeeks = 12
)

// Wishes are what the runner and the coach settle before a block: the week, the
// kit, the schools, a race, how far without shoes.
type Wishes struct {
	Week
	Weeks    int        `json:"weeks" minimum:"4" maximum:"12"`
	WeeklyKm *float64   `json:"weeklyKm,omitempty" minimum:"0" maximum:"400" doc:"Planned; the profile's when missing"`
	Wish     Wish       `json:"wish,omitempty" enum:"home,walk,minimal,bare," doc:"How far without shoes"`
	Owned    []string   `json:"owned" nullable:"false" doc:"Kit at hand"`
	School   School     `json:"school,omitempty"`
	Race     *Race      `json:"race,omitempty"`
	Added    []string   `json:"added" nullable:"false" doc:"Ladders a coach puts in"`
	Excluded []Excluded `json:"excluded" nullable:"false" doc:"Ladders left out, with the reason"`
	Small    bool       `json:"small,omitempty" doc:"The five-minute plan as a block of its own, whatever the run days"`
	Assumed  bool       `json:"assumed,omitempty" doc:"Nobody has said how the week is; these are our assumptions"`
}

// Assume returns the wishes of a runner who was not asked yet: four runs, half
// an hour a day, what most homes have. House; shown as assumed.
func Assume(c catalogue.Catalogue) Wishes {
	w := Wishes{Weeks: MinWeeks, Assumed: true, Added: []string{}, Excluded: []Excluded{}, Owned: []string{}}
	w.Runs = [7]RunKind{NoRun, Easy, NoRun, Easy, NoRun, Easy, Long}
	w.Minutes = [7]int{30, 30, 30, 30, 30, 30, 30}
	w.Sessions, w.Micro, w.Evenings = usualMain, true, true
	for _, k := range c.Kit {
		if k.Usual {
			w.Owned = append(w.Owned, k.ID)
		}
	}
	return w
}

// SessionKind is what a sitting is.
type SessionKind string

// The kinds of sessions.
const (
	Micro       SessionKind = "micro"
	Main        SessionKind = "main"
	EveKind     SessionKind = "evening"
	Drill       SessionKind = "drill"
	Exposure    SessionKind = "exposure"
	RoutineKind SessionKind = "routine"
)

// Session is one planned sitting on a weekday.
type Session struct {
	Kind    SessionKind `json:"kind" enum:"micro,main,evening,drill,exposure,routine"`
	Ladders []string    `json:"ladders" nullable:"false"`
	Seconds float64     `json:"seconds"`
	// When is a hint for the day: before the run, at least two hours after it.
	When string `json:"when,omitempty"`
	// Routine names the routine a sitting is, in a running block.
	Routine string `json:"routine,omitempty"`
}

// WeekPlan is one week of a block.
type WeekPlan struct {
	Monday day.Date `json:"monday" format:"date"`
	Kind   WeekKind `json:"kind" enum:"normal,deload,race,half"`
	Retest []string `json:"retest" nullable:"false" doc:"Tests taken again this week; all where it says so"`
	All    bool     `json:"all" doc:"All tests are taken again"`
	On     day.Date `json:"on" format:"date" doc:"The day of the re-test"`
	// Running is the planned week's volume against the four weeks before it.
	Running load.WeekRatio `json:"running"`
}

// Expected is where a ladder may stand at the end of a week.
type Expected struct {
	Earliest int `json:"earliest" doc:"Nothing goes wrong"`
	Likely   int `json:"likely"`
	Late     int `json:"late"`
}

// Path is where a ladder is expected to go.
type Path struct {
	Ladder string     `json:"ladder"`
	Weeks  []Expected `json:"weeks" nullable:"false"`
	Stops  string     `json:"stops,omitempty" doc:"What ends it within the block"`
}

// MinimumItem is a part of the five-minute plan.
type MinimumItem struct {
	Ladder  string  `json:"ladder"`
	Notch   int     `json:"notch"`
	Seconds float64 `json:"seconds"`
}

// Minutes sums a week's time.
type Minutes struct {
	Planned   int `json:"planned"`
	Available int `json:"available"`
}

// OnHardFloor is said where most of the day is walked on hard floor. [house: the
// surface counts towards what bare feet take, and no number for it is known]
const OnHardFloor = "The floors of the day are hard: bare feet begin on a rug or a mat, and the hard floor comes last."

// Proposal is a block before anybody has signed it.
type Proposal struct {
	Start    day.Date          `json:"start" format:"date"`
	Wishes   Wishes            `json:"wishes"`
	Phases   []RegionPhase     `json:"phases" nullable:"false"`
	Choices  []Choice          `json:"choices" nullable:"false"`
	Left     []Left            `json:"left" nullable:"false"`
	Fits     bool              `json:"fits"`
	Layout   Layout            `json:"layout"`
	Relax    []Relaxation      `json:"relax" nullable:"false" doc:"Ways out when nothing fits, the cheapest first"`
	Days     [7][]Session      `json:"days" doc:"The usual week, Monday first"`
	Weeks    []WeekPlan        `json:"weeks" nullable:"false"`
	Paths    []Path            `json:"paths" nullable:"false"`
	Minimum  []MinimumItem     `json:"minimum" nullable:"false" doc:"Five minutes a day"`
	Minutes  Minutes           `json:"minutes"`
	Says     []string          `json:"says" nullable:"false" doc:"The schools' sentences for the plan"`
	Offer    []Excluded        `json:"offer" nullable:"false" doc:"Left out four weeks ago or more: try again?"`
	Remarks  []Remark          `json:"remarks" nullable:"false"`
	Injured  bool              `json:"injured"`
	ByLadder map[string]Choice `json:"-"`
}

// RemarkID names a remark on the whole plan.
type RemarkID string

// The remarks.
const (
	RemarkAssumed     RemarkID = "assumed"      // the week was not asked
	RemarkInjured     RemarkID = "injured"      // injured: at most three sessions
	RemarkNoMicro     RemarkID = "no-micro"     // some days lack the time for the short daily work
	RemarkContradict  RemarkID = "contradict"   // a day is both liked and avoided
	RemarkRaceSoon    RemarkID = "race-soon"    // the race is within a week
	RemarkRacePast    RemarkID = "race-past"    // the race lies before the block
	RemarkSevenRuns   RemarkID = "runs"         // no day without a run
	RemarkMinorRest   RemarkID = "minor-rest"   // under 18: one day a week without sport
	RemarkSpringCap   RemarkID = "spring-cap"   // the contact limit cuts a notch
	RemarkMaintain    RemarkID = "maintain"     // nothing limits: a plan to keep it
	RemarkOfferAgain  RemarkID = "offer-again"  // left out four weeks ago
	RemarkFewLoading  RemarkID = "nothing"      // nothing can be loaded now
	RemarkMicroBudget RemarkID = "micro-budget" // more small work than five minutes
	RemarkSpike       RemarkID = "spike"        // the planned volume jumps
	RemarkRise        RemarkID = "rise"         // the planned volume rises
	RemarkHeld        RemarkID = "held"         // a flag closes progress: no kilometres over the mean
)

// Remark is something to know about the whole plan.
type Remark struct {
	ID    RemarkID `json:"id"`
	Days  []int    `json:"days,omitempty"`
	Text  string   `json:"text,omitempty"`
	Km    float64  `json:"km,omitempty"`
	Limit float64  `json:"limit,omitempty" doc:"Kilometres a week that would be steady"`
	Weeks int      `json:"weeks,omitempty"`
}

// Plan makes a block from the evidence and the wishes. It always returns one:
// where nothing fits the week, Fits is false, the ways out stand in Relax, and
// the five-minute plan in Minimum holds.
func Plan(c catalogue.Catalogue, e Evidence, w Wishes) Proposal {
	w.Weeks = max(MinWeeks, min(MaxWeeks, w.Weeks))
	w.Sessions = max(1, min(mostMain, w.Sessions))
	p := Proposal{Start: e.On, Relax: []Relaxation{}, Offer: []Excluded{}, Remarks: []Remark{}, Minimum: []MinimumItem{}, Paths: []Path{}, ByLadder: map[string]Choice{}}
	for i, on := range w.Prefer {
		if on && w.Avoid[i] {
			p.remark(Remark{ID: RemarkContradict, Days: []int{i}})
			w.Prefer[i] = false // the cautious reading: leave it free
		}
	}
	e.School, e.Owned, e.Evenings, e.Wish, e.Added = w.School, w.Owned, w.Evenings, w.Wish, w.Added
	w.Ramp = e.RampRuns
	if w.WeeklyKm != nil {
		e.PlannedMetres = int(math.Round(*w.WeeklyKm * 1000))
	}
	for _, x := range w.Excluded {
		if e.On-x.On >= OfferAgain {
			p.Offer = append(p.Offer, x)
			p.remark(Remark{ID: RemarkOfferAgain, Text: x.Ladder})
		}
	}
	e.Excluded = w.Excluded
	p.Injured = len(e.Complaints) > 0
	if p.Injured && w.Sessions > injuredMain {
		w.Sessions = injuredMain
		p.remark(Remark{ID: RemarkInjured})
	}
	if w.Assumed {
		p.remark(Remark{ID: RemarkAssumed})
	}
	if w.runDays().Len() >= manyRunDays && w.Sessions > mainBesides {
		w.Sessions = mainBesides
	}
	if w.runDays().Len() == 7 {
		p.remark(Remark{ID: RemarkSevenRuns})
		if age, known := e.Person.AgeOn(e.On); known && age < safety.Adult {
			p.remark(Remark{ID: RemarkMinorRest})
		}
	}
	if e.NoDayOff && w.runDays().Len() < 7 {
		p.remark(Remark{ID: RemarkMinorRest})
	}
	if r := w.Race; r != nil && r.On < e.On {
		p.remark(Remark{ID: RemarkRacePast})
		w.Race = nil
	} else if r != nil && r.On-e.On < 7 {
		p.remark(Remark{ID: RemarkRaceSoon})
	}
	p.Wishes = w
	if w.Small {
		p.Choices, p.Left, p.Phases = ChooseSmall(c, e)
	} else {
		p.Choices, p.Left, p.Phases = Choose(c, e)
		p.evenings()
	}
	for _, ch := range p.Choices {
		p.ByLadder[ch.Ladder] = ch
	}
	if len(e.worked()) == 0 && !p.Injured {
		p.remark(Remark{ID: RemarkMaintain})
	}
	said := len(p.Remarks)
	p.layOut(e)
	for !p.Fits && (p.shorten() || p.drop()) {
		p.Remarks, p.Relax = p.Remarks[:said], []Relaxation{}
		p.layOut(e)
	}
	p.minimum(c, e)
	p.weeks(e)
	p.paths()
	p.Says = w.School.Says(AskStrengthPain, AskCramp, AskHowOften, AskWhen, AskBarefoot, AskToeWork, AskOrder, AskWeightLine, AskLanding, AskHeelStrike, AskInsoles, AskPassMark, AskStretchHold)
	if e.HardFloor {
		p.Says = append(p.Says, OnHardFloor)
	}
	return p
}

func (p *Proposal) remark(r Remark) { p.Remarks = append(p.Remarks, r) }

// item turns a choice into what the layout places: as long and as demanding as
// the notches the block may well reach.
func item(ch Choice, sessions int) Item {
	l := ch.ladder
	it := Item{Ladder: l.ID, Name: l.Name, Times: min(l.PerWeek.Max, sessions), Least: l.PerWeek.Min, Tissues: l.Tissues, Spring: l.Purpose == catalogue.ForSpring}
	it.Least = min(it.Least, it.Times)
	for n := ch.Start.Notch; n <= min(ch.Ceiling, ch.Start.Notch+comingNotches); n++ {
		at := l.At(n)
		it.Gap48 = it.Gap48 || at.Gap48
		it.Heavy = it.Heavy || at.Heavy && l.Purpose != catalogue.ForSpring
		it.NotTired = it.NotTired || at.Exercise.Timing == "not-tired"
		if !at.Dose.Spread && n <= ch.Start.Notch+1 {
			it.Seconds = max(it.Seconds, at.Seconds())
		}
	}
	if ch.Start.ExtraSetSide != "" {
		it.Seconds += l.At(ch.Start.Notch).Seconds() / float64(2*max(1, l.At(ch.Start.Notch).Dose.Sets))
	}
	if it.Gap48 {
		it.Times = min(it.Times, 3)
		it.Least = 1 // two such ladders of one tissue can share three days
	}
	if ch.Place == catalogue.PlaceEvening {
		it.Evening = true
		it.Times = min(3, l.PerWeek.Max)
		it.Least = 1
	}
	if ch.Role == RoleAdded || ch.Role == RoleGoal {
		it.Least = 1
	}
	return it
}

// evenings leaves evening work out where no evening is far enough from a run, with the
// reason: without the hours of the runs it can't be known.
func (p *Proposal) evenings() {
	w := p.Wishes.Week
	if !w.Evenings {
		return // closed already
	}
	for d := range 7 {
		if w.eveningFree(d) && w.Minutes[d] > 0 {
			return
		}
	}
	why := "every evening is within 12 hours of a run"
	if !w.hoursKnown() {
		why = "no evening is known to be 12 hours from a run: say at what hour the runs start"
	}
	p.Choices = slices.DeleteFunc(p.Choices, func(ch Choice) bool {
		if ch.Place != catalogue.PlaceEvening {
			return false
		}
		p.Left = append(p.Left, Left{ch.Ladder, ch.Name, ch.For[0], why, true})
		return true
	})
}

// small lays out the five-minute plan: every day, whatever runs there are.
func (p *Proposal) small() {
	p.Fits = true
	p.Layout = Layout{Main: []int{}, MainWhy: []DayWhy{}, Micro: []int{}, Places: []Placement{}}
	var ids []string
	for _, ch := range p.Choices {
		ids = append(ids, ch.Ladder)
		p.Layout.MicroSeconds += ch.ladder.At(ch.Start.Notch).Seconds()
	}
	if len(ids) > 0 {
		p.Layout.Micro = append(p.Layout.Micro, 0, 1, 2, 3, 4, 5, 6)
	}
	p.fill(ids)
}

// follower is the control that follows a lengthening ladder and may be done daily.
func (p *Proposal) follower(range_ string) (Choice, bool) {
	i := slices.IndexFunc(p.Choices, func(c Choice) bool { return c.After == range_ })
	if i < 0 {
		return Choice{}, false
	}
	it := item(p.Choices[i], 7)
	return p.Choices[i], !it.Gap48 && !it.Heavy && !it.Spring && p.Choices[i].Place != catalogue.PlaceRun && p.Choices[i].Place != catalogue.PlaceDay
}

// apart reports a sitting that holds a ladder without the one before it.
func (p *Proposal) apart(ladder, before string) bool {
	for d := range p.Days {
		for _, s := range p.Days[d] {
			if slices.Contains(s.Ladders, ladder) && !slices.Contains(s.Ladders, before) {
				return true
			}
		}
	}
	return false
}

const afterInSession = "After lengthening, in the same session."

// together says of each control ladder where the lengthening before it stands: in the
// same sitting, or in the few minutes of the day, which then come right before.
func (p *Proposal) together() {
	for i := range p.Choices {
		c := &p.Choices[i]
		if c.After == "" {
			continue
		}
		note, other := afterInSession, "Right after "+p.ByLadder[c.After].Name+": where that stands in another sitting or on another day, do it just before this."
		if p.apart(c.Ladder, c.After) {
			note, other = other, note
		}
		c.Notes = slices.DeleteFunc(slices.Clone(c.Notes), func(n string) bool { return n == note || n == other })
		c.Notes = append(c.Notes, note)
		p.ByLadder[c.Ladder] = *c
	}
}

func (p *Proposal) layOut(e Evidence) {
	w := p.Wishes.Week
	if p.Wishes.Small {
		p.small()
		return
	}
	var items []Item
	micro := 0.0
	var microIDs []string
	budget := false
	for _, ch := range p.Choices {
		if slices.Contains(microIDs, ch.Ladder) {
			continue // came in with the ladder it follows
		}
		switch {
		case ch.Place == catalogue.PlaceRun || ch.Place == catalogue.PlaceDay:
		case ch.After != "" && ch.Place == catalogue.PlaceMicro && slices.ContainsFunc(items, func(i Item) bool { return i.Ladder == ch.After }):
			items = append(items, item(ch, w.Sessions)) // where the lengthening stands
		case ch.Place == catalogue.PlaceMicro && w.Micro:
			s := item(ch, 7).Seconds
			if micro+s > microSeconds {
				budget = true
				items = append(items, item(ch, w.Sessions))
				continue
			}
			micro += s
			microIDs = append(microIDs, ch.Ladder)
			if next, ok := p.follower(ch.Ladder); ok && !slices.Contains(microIDs, next.Ladder) && micro+item(next, 7).Seconds <= microSeconds {
				micro += item(next, 7).Seconds
				microIDs = append(microIDs, next.Ladder)
			}
		default:
			items = append(items, item(ch, w.Sessions))
		}
	}
	if budget {
		p.remark(Remark{ID: RemarkMicroBudget})
	}
	o := Options{AwayFromRuns: w.awayFrom(p.Wishes.School)}
	l, ok := LayOut(w, items, micro, o)
	p.Layout, p.Fits = l, ok
	if !ok {
		p.Layout = Layout{Main: []int{}, MainWhy: []DayWhy{}, Micro: []int{}, Places: []Placement{}}
		// The five-minute plan needs no layout: it is always the last way out.
		p.Relax = append(Relaxations(w, items, micro, o), Relaxation{Kind: RelaxMinimum, Day: -1, Cost: costMinimum, Week: w})
		for d := range 7 {
			if w.hasMicro(d, micro) {
				p.Layout.Micro = append(p.Layout.Micro, d)
				p.Layout.MicroSeconds = micro
			}
		}
	}
	if w.Micro && micro > 0 && len(p.Layout.Micro) < 7 {
		var days []int
		for d := range 7 {
			if !w.hasMicro(d, micro) {
				days = append(days, d)
			}
		}
		p.remark(Remark{ID: RemarkNoMicro, Days: days})
	}
	p.fill(microIDs)
	p.together()
}

func (w Week) awayFrom(s School) bool { return s.Is(AskWhen) == WhenAway }

// fill makes the usual week's sessions from the layout.
func (p *Proposal) fill(micro []string) {
	w := p.Wishes.Week
	planned := 0.0
	for d := range 7 {
		p.Days[d] = []Session{}
		when := ""
		if w.runsOn(d) {
			when = "before the run"
		}
		if slices.Contains(p.Layout.Micro, d) && len(micro) > 0 {
			p.Days[d] = append(p.Days[d], Session{Kind: Micro, Ladders: micro, Seconds: p.Layout.MicroSeconds, When: when})
		}
		heavy := false
		main, eve := Session{Kind: Main, Ladders: []string{}}, Session{Kind: EveKind, Ladders: []string{}, When: "evening"}
		for _, pl := range p.Layout.Places {
			if !slices.Contains(pl.Days, d) {
				continue
			}
			s := &main
			if pl.Evening {
				s = &eve
			}
			s.Ladders = append(s.Ladders, pl.Ladder)
			s.Seconds += pl.Seconds
			heavy = heavy || pl.Heavy
		}
		if w.runsOn(d) {
			main.When = "at least two hours after the run"
			if w.Second[d] != NoRun {
				main.When = "at least two hours after the last run"
			}
			// Nothing heavy for the calf before a long or fast run of the day, in any school.
			if p.Wishes.School.Is(AskWhen) == WhenBefore && !(heavy && w.hardOn(d)) {
				main.When = "before the run"
			}
		}
		var drills, exposures []string
		for _, ch := range p.Choices {
			switch {
			case ch.Place == catalogue.PlaceRun && (w.Runs[d] == Easy || w.Second[d] == Easy):
				drills = append(drills, ch.Ladder)
			case ch.Place == catalogue.PlaceDay && ch.Start.Notch > 0:
				exposures = append(exposures, ch.Ladder)
			}
		}
		if len(drills) > 0 {
			p.Days[d] = append(p.Days[d], Session{Kind: Drill, Ladders: drills, When: "in the run"})
		}
		for _, s := range []Session{main, eve} {
			if len(s.Ladders) > 0 {
				p.Days[d] = append(p.Days[d], s)
			}
		}
		if len(exposures) > 0 {
			p.Days[d] = append(p.Days[d], Session{Kind: Exposure, Ladders: exposures, When: "through the day"})
		}
		for _, s := range p.Days[d] {
			planned += s.Seconds
		}
		p.Minutes.Available += w.Minutes[d]
	}
	p.Minutes.Planned = int(math.Ceil(planned / 60))
}

// minimum fills five minutes: sole and calf release and one control drill, from
// what the plan has or else from what nothing closes. It is never empty unless
// everything is closed.
func (p *Proposal) minimum(c catalogue.Catalogue, e Evidence) {
	p.Minimum = append(p.Minimum, Minimum(c, e, p.Phases)...)
}

// Minimum is the five-minute day as it may be done on the day of the evidence.
func Minimum(c catalogue.Catalogue, e Evidence, ps []RegionPhase) []MinimumItem {
	out := []MinimumItem{}
	if slices.ContainsFunc(e.Flags, func(f safety.Standing) bool { return f.Everything }) {
		return out
	}
	left := float64(microSeconds)
	h := chooser{c: c, e: e, ps: ps}
	first := func(ids ...string) {
		for _, id := range ids {
			l, ok := c.Ladder(id)
			if !ok {
				continue
			}
			top, _ := Ceiling(c, l, e, ps)
			if top == 0 {
				continue
			}
			n := min(h.start(l, top).Notch, top)
			for n > 1 && l.At(n).Seconds() > left {
				n--
			}
			if s := l.At(n).Seconds(); s <= left {
				out = append(out, MinimumItem{id, n, s})
				left -= s
				return
			}
		}
	}
	first(h.ways([]string{"$sole"})...)
	first("release-calf", "range-ankle", "range-soleus")
	first("steer-arch", "steer-split", "steer-spread", "steer-press", "balance-stand")
	return out
}

// Rhythm of the re-tests, in weeks.
const (
	retestEvery    = 2
	retestAllEvery = 6
)

// weeks lays out the kinds of weeks and the re-tests: the worked-on tests every
// two weeks, or in the practice's own rhythm (house), all of them every six. In a
// maintaining plan every six only.
func (p *Proposal) weeks(e Evidence) {
	every := cmp.Or(e.RetestWeeks, retestEvery)
	tests := []string{}
	for _, f := range e.worked() {
		for _, ev := range f.Evidence {
			if ev.Test != "" && !slices.Contains(tests, string(ev.Test)) {
				tests = append(tests, string(ev.Test))
			}
		}
	}
	for i := range p.Wishes.Weeks {
		m := p.Start.Monday() + day.Date(7*i)
		wk := WeekPlan{Monday: m, Kind: KindOf(p.Start, p.Wishes.Race, m), Retest: []string{}}
		n := i + 1
		switch {
		case n%retestAllEvery == 0:
			wk.All = true
		case n%every == 0 && len(tests) > 0:
			wk.Retest = tests
		}
		if wk.All || len(wk.Retest) > 0 {
			wk.On = m + 6
			if len(p.Layout.Main) > 0 { // on the last main day, before the session
				wk.On = m + day.Date(p.Layout.Main[len(p.Layout.Main)-1])
			}
		}
		p.Weeks = append(p.Weeks, wk)
	}
	p.volume(e)
}

// volume compares each planned week's running with the four before it. A
// planned jump is remarked on, with the kilometres that would be steady.
func (p *Proposal) volume(e Evidence) {
	before := slices.Clone(e.FourWeeks)
	planned := 0
	switch {
	case p.Wishes.WeeklyKm != nil:
		planned = int(math.Round(*p.Wishes.WeeklyKm * 1000))
	case len(before) > 0:
		for _, m := range before {
			planned += m
		}
		planned /= len(before)
	}
	if planned > 0 && len(before) > 0 && slices.ContainsFunc(e.Flags, safety.Standing.ClosesProgress) {
		mean := 0
		for _, m := range before {
			mean += m
		}
		if mean /= len(before); planned > mean {
			p.remark(Remark{ID: RemarkHeld, Km: float64(planned) / 1000, Limit: float64(mean) / 1000})
			planned = mean // what closes progress holds the kilometres too
		}
	}
	known := len(before) > 0
	count := map[load.Class]int{}
	for i := range p.Weeks {
		w := load.CompareWeek(planned, before)
		if !known {
			w = load.WeekRatio{Metres: planned, Class: load.Unknown}
		}
		p.Weeks[i].Running = w
		count[w.Class]++
		before = append(before, planned)
	}
	first := p.Weeks[0].Running
	r := Remark{Km: float64(planned) / 1000, Limit: float64(first.SteadyTo) / 1000}
	switch {
	case count[load.Spike] > 0:
		r.ID, r.Weeks = RemarkSpike, count[load.Spike]
		p.remark(r)
	case count[load.Rise] > 0:
		r.ID, r.Weeks = RemarkRise, count[load.Rise]
		p.remark(r)
	}
}

// waits reports whether a ladder takes no new notch while running is as it is:
// everything that loads in a spike, spring and bare feet in a rise.
func waits(l catalogue.Ladder, c load.Class) bool {
	gentle := l.Purpose == catalogue.ForSpring || l.Purpose == catalogue.ForExposure
	return c == load.Spike && (len(l.Tissues) > 0 || gentle) || (c == load.Rise || c == load.Unknown) && gentle
}

// Pace of the expected path, house. Earliest is the rules' own limit, one notch
// a week with nothing going wrong. Likely and late share the limit of two
// ladders up a week among those that can still move, and are never quicker than
// one notch in two and in three weeks.
const (
	likelyEvery = 2
	lateEvery   = 3
	upsPerWeek  = 2
)

// paths draws where each ladder may stand at the end of each week: none moves in
// its first week or in a week that holds, none past what is closed today.
func (p *Proposal) paths() {
	moving := 0
	for _, ch := range p.Choices {
		if ch.moves() && ch.Start.Notch < ch.Ceiling {
			moving++
		}
	}
	turn := (moving + upsPerWeek - 1) / upsPerWeek // weeks until a ladder's turn comes round
	likely, late := max(likelyEvery, turn), max(lateEvery, turn+turn/2)
	k := 0
	for _, ch := range p.Choices {
		path := Path{Ladder: ch.Ladder, Weeks: []Expected{}}
		at := Expected{ch.Start.Notch, ch.Start.Notch, ch.Start.Notch}
		if ch.moves() && ch.Start.Notch < ch.Ceiling {
			k++
		}
		for w, wk := range p.Weeks {
			if w+1 > ch.FromWeek && wk.Kind == Normal && ch.moves() && !waits(ch.ladder, wk.Running.Class) {
				at.Earliest = min(at.Earliest+1, max(ch.Ceiling, ch.Start.Notch))
				if (w+k)%likely == 0 {
					at.Likely = min(at.Likely+1, at.Earliest)
				}
				if (w+k)%late == 0 {
					at.Late = min(at.Late+1, at.Likely)
				}
			}
			path.Weeks = append(path.Weeks, at)
		}
		if at.Earliest >= ch.Ceiling && ch.Ceiling < ch.ladder.Len() && len(ch.Locks) > 0 {
			path.Stops = ch.Locks[0].Words
		}
		p.Paths = append(p.Paths, path)
	}
}

// moves reports whether a ladder goes up by the notch engine; exposures and the
// return to running have ramps of their own.
func (ch Choice) moves() bool {
	return ch.ladder.Purpose != catalogue.ForExposure && ch.ladder.Purpose != catalogue.ForReturn
}

// Improved returns the worked-on range findings whose tests got better beyond
// noise since an earlier visit, or that turned out to be joint-limited.
func Improved(findings []screening.Finding, better []screening.TestID) []screening.Factor {
	out := []screening.Factor{}
	for _, f := range findings {
		if f.Factor == "toe-joint-stiff" {
			out = append(out, "sole-tight")
		}
		for _, ev := range f.Evidence {
			if slices.Contains(better, ev.Test) && !slices.Contains(out, f.Factor) {
				out = append(out, f.Factor)
			}
		}
	}
	return out
}
