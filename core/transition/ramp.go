package transition

import (
	"fmt"
	"slices"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
)

// Dose is what a ramp week holds.
type Dose struct {
	HomeMinutes  int    `json:"homeMinutes" doc:"A day, without shoes at home"`
	Walks        int    `json:"walks" doc:"Days with a barefoot walk outdoors in the week"`
	WalkTimes    int    `json:"walkTimes" doc:"Walks on each of those days"`
	WalkMinutes  int    `json:"walkMinutes" doc:"Of each walk"`
	Part         string `json:"part,omitempty" enum:"half,all," doc:"Of the strength session, barefoot"`
	LoadPercent  int    `json:"loadPercent,omitempty" doc:"Of the usual load in that part"`
	Sessions     int    `json:"sessions,omitempty" doc:"Strength sessions in the week"`
	DrillDays    int    `json:"drillDays,omitempty" doc:"Days with strides"`
	Strides      int    `json:"strides,omitempty" doc:"On grass in minimal shoes, on each drill day"`
	StrideMetres int    `json:"strideMetres,omitempty"`
	WarmUp       int    `json:"warmUp,omitempty" doc:"Minutes run in minimal shoes before the strides"`
	Runs         []int  `json:"runs" nullable:"false" doc:"Minutes in minimal shoes at the start of each run, the rest in the usual shoe"`
	BareRuns     []int  `json:"bareRuns" nullable:"false" doc:"Minutes with bare feet at the start of each run"`
}

// stageKind is what a week's exposures are logged as.
func (w Week) stageKind() Stage {
	if w.State.Stage == Keep {
		return Run
	}
	return w.State.Stage
}

// exposures is how many exposures of the stage a week has.
func (d Dose) exposures(s Stage) int {
	switch s {
	case Home:
		return 7
	case Walk:
		return d.Walks
	case Strength:
		return d.Sessions
	case Drills:
		return d.DrillDays
	case Bare:
		return len(d.BareRuns)
	}
	return len(d.Runs)
}

// each is the minutes of the nth exposure of a stage.
func (d Dose) each(s Stage, n int) int {
	switch s {
	case Walk:
		return d.WalkTimes * d.WalkMinutes
	case Drills:
		return d.WarmUp
	case Run, Keep:
		return nth(d.Runs, n)
	case Bare:
		return nth(d.BareRuns, n)
	}
	return 0
}

func nth(list []int, n int) int {
	if len(list) == 0 {
		return 0
	}
	return list[min(n, len(list)-1)]
}

func sum(list []int) (n int) {
	for _, v := range list {
		n += v
	}
	return n
}

// minutes is a stage's minutes in the week.
func (d Dose) minutes(s Stage) int {
	switch s {
	case Home:
		return 7 * d.HomeMinutes
	case Walk:
		return d.Walks * d.WalkTimes * d.WalkMinutes
	case Drills:
		return d.DrillDays * d.WarmUp
	case Bare:
		return sum(d.BareRuns)
	case Strength:
		return 0
	}
	return sum(d.Runs)
}

// Planned is how many minutes a week asks for: at home, or of everything done out
// of doors.
func (w Week) Planned(home bool) int {
	if home {
		return w.Dose.minutes(Home)
	}
	n := 0
	for _, s := range []Stage{Walk, Drills, Run, Bare} {
		n += w.Dose.minutes(s)
	}
	return n
}

// Amount is a week's dose on one tissue of one foot by shoe, body-weight
// repetitions.
type Amount struct {
	Usual   float64 `json:"usual"`
	Minimal float64 `json:"minimal"`
	Bare    float64 `json:"bare"`
	Plain   float64 `json:"plain" doc:"The same running in usual shoes alone"`
}

// Week is one week of the ramp.
type Week struct {
	Monday   day.Date   `json:"monday" format:"date"`
	Held     string     `json:"held,omitempty" doc:"Why nothing rises this week"`
	State    State      `json:"state"`
	Dose     Dose       `json:"dose"`
	Outcome  Outcome    `json:"outcome" enum:"passed,repeat,back,stopped,open,ahead"`
	Reasons  []string   `json:"reasons" nullable:"false"`
	Percent  int        `json:"percent" doc:"Of the stage's exposures done"`
	Wait     *Wait      `json:"wait,omitempty" doc:"What keeps it from the next stage"`
	Shut     []string   `json:"shut" nullable:"false" doc:"Gates that are closed again: their exposures are left out"`
	Out      []day.Date `json:"out" nullable:"false" doc:"Days without any exposure"`
	Metres   int        `json:"metres" doc:"The week's running"`
	Minimal  int        `json:"minimalMetres"`
	BareM    int        `json:"bareMetres"`
	Usual    int        `json:"usualMetres"`
	Percents float64    `json:"sharePercent" doc:"Of the week's running out of usual shoes"`
	Achilles Amount     `json:"achilles"`
	Forefoot Amount     `json:"forefoot"`
	Reached  bool       `json:"reached"`
}

// DropStep is a lower heel drop of the usual shoe.
type DropStep struct {
	From day.Date `json:"from" format:"date" doc:"Not before this Monday"`
	MM   int      `json:"mm"`
}

// Outlook is what a gate says for the weeks to come.
type Outlook struct {
	Open  bool      `json:"open"`
	From  *day.Date `json:"from,omitempty" format:"date" doc:"The earliest date it may open, leaving out what the ramp itself brings; missing when nobody knows"`
	Words string    `json:"words,omitempty" doc:"What it waits for"`
}

// Input is everything a ramp is made from.
type Input struct {
	Today    day.Date
	Start    day.Date // a date; the ramp begins on the first Monday from it on
	Terms    []Terms  // by From, the newest that has begun counts
	Gates    map[catalogue.Gate]Outlook
	Readings []Reading
	Flares   []Flare
	Cleared  *day.Date // a clinician's clearance for a tender bone
	Held     func(monday day.Date) string
	Away     int     // weeks from the next one on without any exposure, for trying out
	Cadence  float64 // steps of both feet a minute; 0 is not known
	Strike   load.Strike
}

// Ramp is the dated ramp: what was, what is, and what comes if nothing goes wrong.
type Ramp struct {
	Start   day.Date   `json:"start" format:"date"`
	Weeks   []Week     `json:"weeks" nullable:"false"`
	Now     int        `json:"now" doc:"Index of the present week; -1 before the ramp"`
	Reached *day.Date  `json:"reached,omitempty" format:"date" doc:"The Monday of the week in which the goal is reached, at the earliest"`
	Waits   *Wait      `json:"waits,omitempty" doc:"What the ramp stands still for, with no date known"`
	Strikes []day.Date `json:"strikes" nullable:"false" doc:"Days on which a bone became tender"`
	Refer   bool       `json:"refer" doc:"Twice tender: a clinician looks before it goes on"`
	OutTo   *day.Date  `json:"outTo,omitempty" format:"date" doc:"No exposure up to and with this day"`
	Drops   []DropStep `json:"drops" nullable:"false"`
	Says    []string   `json:"says" nullable:"false"`
}

// FirstMonday returns the Monday a ramp begins on: a first partial week does not
// count.
func FirstMonday(start day.Date) day.Date {
	if m := start.Monday(); m == start {
		return m
	}
	return start.Monday() + 7
}

// TermsAt returns what holds in a week.
func (in Input) TermsAt(monday day.Date) Terms {
	t := in.Terms[0]
	for _, x := range in.Terms {
		if x.From.Monday() <= monday {
			t = x
		}
	}
	return t
}

// opener answers for the gates: what was done in a past week was let through;
// today the gate itself counts; later the earliest date it may open.
func (in Input) opener(this day.Date, upTo map[Stage]day.Date) opener {
	return func(s Stage, monday day.Date) *Wait {
		o, known := in.Gates[s.Gate()]
		if last, ok := upTo[s]; ok && monday < this && last >= monday {
			return nil
		}
		if !known {
			return &Wait{Stage: s, Gate: s.Gate(), Words: "its gate is not known"}
		}
		if o.Open || (monday > this && o.From != nil && *o.From <= monday) {
			return nil
		}
		return &Wait{Stage: s, Gate: s.Gate(), Words: o.Words, From: o.From, Ever: o.From != nil}
	}
}

// Plan returns the ramp; Terms must not be empty and must pass Check.
func Plan(in Input) Ramp {
	r := Ramp{Start: FirstMonday(in.Start), Weeks: []Week{}, Now: -1, Strikes: []day.Date{}, Drops: []DropStep{}, Says: []string{}}
	this := in.Today.Monday()
	at := map[day.Date]Reading{}
	upTo := map[Stage]day.Date{}
	for _, x := range in.Readings {
		at[x.On] = x
		if x.HomeMinutes != nil && *x.HomeMinutes > 0 {
			upTo[Home] = max(upTo[Home], x.On)
		}
		for _, d := range x.Done {
			upTo[d.Stage] = max(upTo[d.Stage], x.On)
		}
	}
	open := in.opener(this, upTo)
	var tender []day.Date
	for _, x := range in.Readings {
		if x.Tender && x.On >= r.Start && x.On <= in.Today {
			tender = append(tender, x.On)
		}
	}
	r.Strikes = Strikes(tender)
	r.refer(in)
	in.Flares = together(in.Flares, flaresIn(at, r.Start, in.Today))
	f := fold{in: in, at: at, open: open, this: this, ramp: &r}
	for monday, kept := r.Start, 0; len(r.Weeks) < horizonWeeks && kept <= keptShown; monday += 7 {
		w := f.week(monday)
		r.Weeks = append(r.Weeks, w)
		if monday == this {
			r.Now = len(r.Weeks) - 1
		}
		if w.Reached && r.Reached == nil {
			m := monday
			r.Reached = &m
		}
		if r.Reached != nil && monday > this {
			kept++
		}
		if monday > this && w.Outcome == Stopped || w.Wait != nil && !w.Wait.Ever && monday > this && f.settled(w) {
			r.Waits = w.Wait
			break
		}
	}
	r.drops(in)
	r.remarks(in)
	return r
}

// refer stops a ramp after the second tender bone until a clinician has looked.
func (r *Ramp) refer(in Input) {
	n := len(r.Strikes)
	if n == 0 {
		return
	}
	last := r.Strikes[n-1]
	if to := last + outDays; to >= in.Today {
		r.OutTo = &to
	}
	r.Refer = Refers(n) && (in.Cleared == nil || *in.Cleared < last)
}

// fold goes through the weeks one by one.
type fold struct {
	in     Input
	at     map[day.Date]Reading
	open   opener
	this   day.Date
	ramp   *Ramp
	state  State
	next   verdict // what the week before said
	missed int     // weeks in a row without an exposure
	began  bool
	back   int // steps to take before the next week
	flared map[int]bool
}

// settled reports whether a waiting week has nothing left to rise.
func (f *fold) settled(w Week) bool {
	return w.State.Stage == "" || w.State.Load == 0 || w.State.Load >= loadFull
}

func (f *fold) flare(monday day.Date) (active bool, until *day.Date) {
	for i, x := range f.in.Flares {
		if x.Since > monday+6 {
			continue
		}
		if x.Until == nil || *x.Until >= monday {
			if x.Until != nil && monday > f.in.Today {
				continue
			}
			return true, x.Until
		}
		if f.flared == nil {
			f.flared = map[int]bool{}
		}
		if !f.flared[i] && x.Since >= f.ramp.Start {
			f.flared[i] = true
			f.back += flareBack
		}
	}
	return false, nil
}

func (f *fold) week(monday day.Date) Week {
	t := f.in.TermsAt(monday)
	w := Week{Monday: monday, Outcome: Ahead, Reasons: []string{}, Shut: []string{}, Out: []day.Date{}}
	if f.in.Held != nil {
		w.Held = f.in.Held(monday)
	}
	active, _ := f.flare(monday)
	stopped := active || (f.ramp.Refer && monday+6 > f.ramp.Strikes[len(f.ramp.Strikes)-1])
	switch {
	case f.back > 0:
		f.state = t.hold(t.back(f.state, f.back))
		f.back = 0
	case stopped:
		f.state = t.idle(f.state)
	case f.began && t.shut(f.state.Stage, f.state, monday, f.open) != nil:
		f.state = t.hold(f.state)
	case f.began && f.next.outcome != Passed, w.Held != "" && f.state.Stage != "":
		f.state = t.hold(f.state)
	case w.Held != "":
	default:
		f.state, w.Wait = t.advance(f.state, monday, f.open)
	}
	w.State = f.state
	if f.state.Stage != "" {
		f.began = true
	}
	f.fill(&w, t)
	w.Reached = t.reached(w.State) && len(w.Shut) == 0 && !stopped
	for _, d := range f.ramp.Strikes {
		for x := d + 1; x <= d+outDays; x++ {
			if x >= monday && x <= monday+6 {
				w.Out = append(w.Out, x)
			}
		}
	}
	f.judge(&w, stopped, active)
	return w
}

// idle lets a week go by with nothing in it.
func (t Terms) idle(s State) State {
	if s.Stage != "" {
		s.Weeks++
		s.last = t.volume(s)
		s.Held = 0
	}
	return s
}

// judge says what became of the week and what that means for the next one.
func (f *fold) judge(w *Week, stopped, flare bool) {
	f.next = verdict{outcome: Passed}
	switch {
	case stopped:
		w.Outcome = Stopped
		why := "a bone was tender twice: a clinician looks before it goes on"
		if flare {
			why = "a flare: no exposure until three quiet mornings"
		}
		w.Reasons = append(w.Reasons, why)
		w.Dose = Dose{Runs: []int{}, BareRuns: []int{}}
		f.next.outcome = Stopped
		return
	case w.State.Stage == "":
		return
	case w.Monday <= f.this && len(w.Shut) > 0 && w.Wait != nil && w.Dose.exposures(w.State.Stage) == 0:
		v := judge(*w, f.at, min(w.Monday+6, f.in.Today))
		v.outcome, v.reasons = Repeated, append([]string{"left out: " + w.Wait.Words}, v.reasons...)
		w.Outcome = Open
		if w.Monday < f.this {
			f.gap(&v)
			w.Outcome = Repeated
			if f.back > 0 {
				w.Outcome = TookBack
			}
		}
		w.Reasons = append(w.Reasons, v.reasons...)
		f.next = v
		return
	case w.Monday > f.this && int(w.Monday-f.this)/7 <= f.in.Away:
		v := verdict{outcome: Repeated, reasons: []string{"away: nothing is done"}, missed: true}
		f.gap(&v)
		w.Reasons = append(w.Reasons, v.reasons...)
		f.next = v
		return
	case w.Monday > f.this:
		return
	}
	v := judge(*w, f.at, min(w.Monday+6, f.in.Today))
	w.Percent = v.percent
	over := w.Monday < f.this
	if len(w.Out) > 0 && v.outcome == Passed {
		v.outcome = Repeated
		v.reasons = append(v.reasons, "a bone was tender: seven days out")
	}
	if over {
		v.adherence(*w)
		f.gap(&v)
	}
	w.Reasons = append(w.Reasons, v.reasons...)
	switch {
	case over && f.back > 0:
		w.Outcome = TookBack
	case over:
		w.Outcome = v.outcome
	default:
		w.Outcome = Open
	}
	f.next = v
}

// gap takes steps back for weeks in a row without an exposure.
func (f *fold) gap(v *verdict) {
	if !v.missed {
		f.missed = 0
		return
	}
	f.missed++
	switch {
	case f.missed == missedBack1, f.missed == missedBack2:
		f.back++
	case f.missed == missedStart:
		f.back += f.state.Step
	default:
		return
	}
	v.reasons = append(v.reasons, fmt.Sprintf("%d weeks running without an exposure: a step back", f.missed))
}

// fill writes a week's dose, leaving out what a closed gate shuts.
func (f *fold) fill(w *Week, t Terms) {
	s := w.State
	w.Dose = Dose{Runs: []int{}, BareRuns: []int{}}
	w.Metres = t.volume(s).metres
	shut := map[Stage]bool{}
	for _, st := range Stages {
		if s.Stage == "" || st.rank() > s.Stage.rank() {
			break
		}
		if x := t.shut(st, s, w.Monday, f.open); x != nil {
			shut[st] = true
			w.Shut = append(w.Shut, st.Name()+": "+x.Words)
			if st == s.Stage || (s.Stage == Keep && st.rank() <= Run.rank()) {
				w.Wait = x
			}
		}
	}
	on := func(st Stage) bool { return s.Stage != "" && s.Stage.rank() >= st.rank() && !shut[st] }
	step := func(st Stage) int {
		if s.Stage == st {
			return s.Step
		}
		return st.lastStep()
	}
	begin := t.begin().rank()
	if on(Home) {
		w.Dose.HomeMinutes = homeSteps[step(Home)-1]
	}
	if on(Walk) && (begin <= Walk.rank() || s.Stage == Walk) {
		x := walkSteps[step(Walk)-1]
		w.Dose.Walks, w.Dose.WalkTimes, w.Dose.WalkMinutes = t.walkDays(s), x.times, x.minutes
	}
	if on(Strength) && s.Load > 0 {
		w.Dose.Part, w.Dose.LoadPercent, w.Dose.Sessions = "all", s.Load, len(t.StrengthDays)
		if s.Stage == Strength && s.Step == 1 {
			w.Dose.Part = "half"
		}
	}
	if on(Drills) && s.Stage == Drills {
		x := drillStep[step(Drills)-1]
		w.Dose.Strides, w.Dose.StrideMetres, w.Dose.WarmUp = x.times, x.metres, warmUpMinutes
		w.Dose.DrillDays = len(Apart(t.RunDays, drillsAWeek))
	}
	if on(Run) {
		w.runs(t)
	}
	w.shoes(t, f.in)
}

// shut says what keeps a stage that was reached from being done in a week: its
// gate, a shoe that is not there, no running to swap; nil for nothing.
func (t Terms) shut(st Stage, s State, monday day.Date, open opener) *Wait {
	if st == Keep {
		st = Run
	}
	if x := open(st, monday); x != nil {
		return x
	}
	switch {
	case st.rank() >= Drills.rank() && t.Shoe == "":
		return &Wait{Stage: st, Words: "a minimal shoe: none is named"}
	case st == s.Stage && st.Runs() && t.target(s) == 0:
		return &Wait{Stage: st, Words: "running to swap, and a target over 0 %"}
	}
	return nil
}

// runs spreads the minutes over the week's runs.
func (w *Week) runs(t Terms) {
	minutes := w.State.Run
	apart := len(Apart(t.RunDays, 3))
	if apart < 2 {
		minutes = min(minutes, firstMinutes)
	}
	bare := min(w.State.Bare, minutes)
	w.Dose.Runs = split(minutes-bare, min(runsFor(minutes), max(1, apart)))
	w.Dose.BareRuns = split(bare, min(runsFor(bare), max(1, apart)))
}

// runsFor is in how many runs so many minutes a week are done.
func runsFor(minutes int) int {
	switch {
	case minutes < twoRunsFrom:
		return 1
	case minutes < threeRunsFrom:
		return 2
	}
	return 3
}

func split(minutes, times int) []int {
	out := []int{}
	if minutes <= 0 {
		return out
	}
	for i := range times {
		n := minutes / times
		if i < minutes%times {
			n++
		}
		out = append(out, n)
	}
	return out
}

// shoes sums the week's kilometres by shoe and what they load; the parts add up
// to the week.
func (w *Week) shoes(t Terms, in Input) {
	metres := func(minutes int) int {
		if t.PaceSeconds == 0 {
			return 0
		}
		return minutes * 60_000 / t.PaceSeconds
	}
	minimal := w.Dose.minutes(Run) + w.Dose.minutes(Drills)
	w.Minimal, w.BareM = metres(minimal), metres(w.Dose.minutes(Bare))
	if over := w.Minimal + w.BareM - w.Metres; over > 0 {
		w.Minimal = max(0, w.Minimal-over)
		w.BareM = min(w.BareM, w.Metres)
	}
	w.Usual = w.Metres - w.Minimal - w.BareM
	if w.Metres > 0 {
		w.Percents = 100 * float64(w.Minimal+w.BareM) / float64(w.Metres)
	}
	dose := func(m int, tissue body.Tissue, f load.Footwear) float64 {
		a := load.RunDose(load.Run{Metres: m, Seconds: m * t.PaceSeconds / 1000, Footwear: f}, tissue, in.Strike, in.Cadence)
		return a.Sum
	}
	for tissue, to := range map[body.Tissue]*Amount{body.Achilles: &w.Achilles, body.Forefoot: &w.Forefoot} {
		*to = Amount{dose(w.Usual, tissue, load.UsualShoe), dose(w.Minimal, tissue, load.MinimalShoe), dose(w.BareM, tissue, load.BareFeet), dose(w.Metres, tissue, load.UsualShoe)}
	}
}

// Apart returns at most n of the weekdays, none next to another, also not over
// the end of the week, as far from each other as they can be.
func Apart(days []int, n int) []int {
	var best []int
	bestGap := 0
	for mask := range 1 << 7 {
		var set []int
		for d := range 7 {
			if mask>>d&1 == 1 && slices.Contains(days, d) {
				set = append(set, d)
			}
		}
		if len(set) > n || len(set) < len(best) {
			continue
		}
		gap := 7
		for i, d := range set {
			if len(set) > 1 {
				next := set[(i+1)%len(set)]
				gap = min(gap, ((next-d)%7+7)%7)
			}
		}
		if gap < 2 {
			continue
		}
		if len(set) > len(best) || gap > bestGap {
			best, bestGap = set, gap
		}
	}
	return best
}

// drops dates the lower shoes: not before the target is kept, each six weeks
// apart.
func (r *Ramp) drops(in Input) {
	t := in.Terms[len(in.Terms)-1]
	if t.DropMM == nil || t.DropToMM == nil || r.Reached == nil || t.Goal.rank() < Run.rank() {
		return
	}
	on := *r.Reached + 7
	for mm := *t.DropMM; mm > *t.DropToMM; on += 7 * dropWeeks {
		mm = max(*t.DropToMM, mm-dropStepMM)
		r.Drops = append(r.Drops, DropStep{on, mm})
	}
}

// remarks says what a runner should know of the dates.
func (r *Ramp) remarks(in Input) {
	t := in.Terms[len(in.Terms)-1]
	say := func(format string, a ...any) { r.Says = append(r.Says, fmt.Sprintf(format, a...)) }
	if t.By != nil && r.Reached != nil && *r.Reached > *t.By {
		say("%s is too near: the earliest honest date is the week of %s. The steps do not get steeper.", t.By.Words(), r.Reached.Words())
	}
	if t.By != nil && r.Reached == nil {
		say("%s cannot be promised: %s.", t.By.Words(), r.waitWords())
	}
	if t.Goal.rank() >= Run.rank() {
		if len(Apart(t.RunDays, 2)) < 2 {
			say("Past 10 minutes a week two easy runs are needed with a day between them; until then it stays at one run.")
		}
		if t.TargetPercent == 100 {
			say("100 %% leaves no usual shoe. Most of the way there is at least a year.")
		}
		if t.TargetPercent == 0 {
			say("A target of 0 %% keeps all running in usual shoes: the ramp ends with strides.")
		}
	}
}

func (r *Ramp) waitWords() string {
	if r.Waits == nil {
		return "the way is longer than three years"
	}
	return "it waits for " + r.Waits.Words
}

// Event is what a week to come turns out to be.
type Event struct {
	Outcome Outcome // Passed, Repeated, or Stopped for a week without any exposure
	Back    int     // steps back after it
}

// Ahead goes on from a ramp's present week, or from its beginning, with events
// that somebody draws and gates that open when somebody says, and returns the
// Monday on which the goal is reached; false where it never is. It is what dates
// with a range are made of.
func (in Input) Ahead(r Ramp, gates map[catalogue.Gate]Outlook, event func(monday day.Date) Event) (day.Date, bool) {
	in.Gates = gates
	this := in.Today.Monday()
	open := in.opener(this, nil)
	monday, s := r.Start, State{}
	if r.Now >= 0 {
		w := r.Weeks[r.Now]
		monday, s = w.Monday, w.State
		if w.Reached {
			return w.Monday, true
		}
	}
	e := Event{Outcome: Passed}
	if r.Now >= 0 {
		e = event(monday)
		monday += 7
	}
	for range horizonWeeks {
		t := in.TermsAt(monday)
		held := ""
		if in.Held != nil {
			held = in.Held(monday)
		}
		switch {
		case e.Outcome == Stopped:
			s = t.idle(t.back(s, e.Back))
		case e.Back > 0:
			s = t.hold(t.back(s, e.Back))
		case s.Stage == "" && held != "":
		case s.Stage != "" && (e.Outcome == Repeated || held != "" || t.shut(s.Stage, s, monday, open) != nil):
			s = t.hold(s)
		default:
			s, _ = t.advance(s, monday, open)
		}
		if t.reached(s) {
			return monday, true
		}
		e = event(monday)
		monday += 7
	}
	return 0, false
}

// Exposure is one thing of a ramp on one day.
type Exposure struct {
	Stage   Stage `json:"stage" enum:"home,walk,strength,drills,run,bare"`
	Minutes int   `json:"minutes"`
	Dose    Dose  `json:"-"`
}

// On returns what a week holds on a weekday, Monday 0. Walks and runs stand on
// days that are not side by side; walks where they can on days without a run.
func (w Week) On(weekday int, t Terms) []Exposure {
	out := []Exposure{}
	if w.State.Stage == "" || slices.Contains(w.Out, w.Monday+day.Date(weekday)) {
		return out
	}
	put := func(s Stage, minutes int) { out = append(out, Exposure{s, minutes, w.Dose}) }
	if w.Dose.HomeMinutes > 0 {
		put(Home, w.Dose.HomeMinutes)
	}
	if w.Dose.Walks > 0 && slices.Contains(w.walkDays(t), weekday) {
		put(Walk, w.Dose.each(Walk, 0))
	}
	if w.Dose.Part != "" && slices.Contains(t.StrengthDays, weekday) {
		put(Strength, 0)
	}
	runs := Apart(t.RunDays, max(len(w.Dose.Runs), len(w.Dose.BareRuns), w.Dose.DrillDays))
	i := slices.Index(runs, weekday)
	if i < 0 {
		return out
	}
	if w.Dose.Strides > 0 {
		put(Drills, w.Dose.WarmUp)
	}
	if i < len(w.Dose.BareRuns) {
		put(Bare, w.Dose.BareRuns[i])
	}
	if i < len(w.Dose.Runs) {
		put(Run, w.Dose.Runs[i])
	}
	return out
}

// walkDays is how many days a week have a barefoot walk: three, and beside barefoot
// strength one more a week, up to five.
func (t Terms) walkDays(s State) int {
	switch {
	case s.Stage == Walk:
		return walkDays
	case s.Stage == Strength:
		return min(walkDaysMost, walkDays+s.Step-1)
	}
	return walkDaysMost
}

// walkDays are the days of the barefoot walks: never side by side where there are
// three or fewer.
func (w Week) walkDays(t Terms) []int {
	var free, all []int
	for d := range 7 {
		all = append(all, d)
		if !slices.Contains(t.RunDays, d) {
			free = append(free, d)
		}
	}
	n := min(w.Dose.Walks, walkDays)
	days := Apart(free, n)
	if len(days) < n {
		days = Apart(all, n)
	}
	for _, d := range slices.Concat(free, all) { // beside strength more days than can lie apart
		if len(days) < w.Dose.Walks && !slices.Contains(days, d) {
			days = append(slices.Clone(days), d)
		}
	}
	slices.Sort(days)
	return days
}

// WalkPassed returns the Sunday after which the walks were passed; nil where they
// were not.
func (r Ramp) WalkPassed() *day.Date {
	for i := 1; i < len(r.Weeks); i++ {
		w := r.Weeks[i-1]
		if w.Outcome == Passed && w.State.Stage == Walk && w.State.Step == len(walkSteps) {
			on := w.Monday + 6
			return &on
		}
	}
	return nil
}

// Why says what last kept the ramp from going on as it was planned.
func (r Ramp) Why() string {
	if r.Refer {
		return "a bone was tender twice"
	}
	for i := min(r.Now, len(r.Weeks)-1); i >= 0; i-- {
		w := r.Weeks[i]
		switch {
		case len(w.Reasons) > 0:
			return w.Reasons[0]
		case w.Wait != nil:
			return "waits for " + w.Wait.Words
		}
	}
	if r.Waits != nil {
		return "waits for " + r.Waits.Words
	}
	return "the weeks as they were done"
}

// Enters returns the Monday on which the ramp goes into a stage; nil where it
// never does.
func (r Ramp) Enters(s Stage) *day.Date {
	for _, w := range r.Weeks {
		if w.State.Stage == s {
			return &w.Monday
		}
	}
	return nil
}
