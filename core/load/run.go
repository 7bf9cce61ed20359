package load

import (
	"math"
	"slices"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/screening"
	"notchback/core/source"
	"notchback/core/stats"
)

// Footwear is what a run was done in.
type Footwear string

// The kinds of footwear. Unknown counts as the usual shoe.
const (
	UsualShoe   Footwear = "usual"
	MinimalShoe Footwear = "minimal"
	BareFeet    Footwear = "bare"
)

// Run is one run. What was not measured is nil and stays unknown.
type Run struct {
	On         day.Date       `json:"on" format:"date"`
	Metres     int            `json:"metres" minimum:"0"`
	Seconds    int            `json:"seconds" minimum:"0"`
	CadenceSpm *float64       `json:"cadenceSpm,omitempty" doc:"Steps of both feet a minute"`
	BounceMm   *float64       `json:"bounceMm,omitempty" doc:"Up and down of the body in a step, by a device"`
	Effort     *int           `json:"effort,omitempty" minimum:"0" maximum:"10" doc:"CR10"`
	Footwear   Footwear       `json:"footwear,omitempty" enum:"usual,minimal,bare,"`
	Strike     Strike         `json:"strike,omitempty" enum:"rear,mid-fore,"`
	Pain       *body.Pain     `json:"pain,omitempty" minimum:"0" maximum:"10"`
	Zone       screening.Zone `json:"zone,omitempty"`
	Side       body.Side      `json:"side,omitempty" enum:"left,right,both,"`
	Limping    bool           `json:"limping,omitempty"`
	Fast       bool           `json:"fast,omitempty"`
}

// Minutes returns the run's time.
func (r Run) Minutes() float64 { return float64(r.Seconds) / 60 }

// AssumedCadence is taken for contacts only, where a runner's cadence was never
// measured.
const AssumedCadence = 165.0

// CadenceSource tags AssumedCadence.
var CadenceSource = source.House("never measured; a middle value, for contacts only")

// SessionLoad is minutes times CR10 effort (Foster 2001, from memory); false
// where no effort was given.
func (r Run) SessionLoad() (float64, bool) {
	if r.Effort == nil {
		return 0, false
	}
	return r.Minutes() * float64(*r.Effort), true
}

// Contacts is how often one foot met the ground: minutes × cadence / 2. last is
// the runner's last measured cadence, 0 for never; the second result is false
// where AssumedCadence was taken.
func (r Run) Contacts(last float64) (float64, bool) {
	switch {
	case r.CadenceSpm != nil && *r.CadenceSpm > 0:
		return r.Minutes() * *r.CadenceSpm / 2, true
	case last > 0:
		return r.Minutes() * last / 2, true
	}
	return r.Minutes() * AssumedCadence / 2, false
}

// LastCadence returns the newest measured cadence up to a date; 0 for none.
func LastCadence(runs []Run, on day.Date) float64 {
	best, at := 0.0, day.Date(math.MinInt32)
	for _, r := range runs {
		if r.On <= on && r.On >= at && r.CadenceSpm != nil && *r.CadenceSpm > 0 {
			best, at = *r.CadenceSpm, r.On
		}
	}
	return best
}

// What a usual cadence is taken from (house): the middle one of the runs of four weeks,
// where there are three and more.
const (
	cadenceDays = 28
	cadenceRuns = 3
)

// UsualCadence returns the middle of the cadences of the four weeks up to a date, and of
// how many runs it is; false where there are fewer than three.
func UsualCadence(runs []Run, on day.Date) (spm float64, n int, ok bool) {
	return usual(runs, on, func(r Run) *float64 { return r.CadenceSpm })
}

// UsualBounce is UsualCadence of the up and down that devices measured, in mm.
func UsualBounce(runs []Run, on day.Date) (mm float64, n int, ok bool) {
	return usual(runs, on, func(r Run) *float64 { return r.BounceMm })
}

func usual(runs []Run, on day.Date, of func(Run) *float64) (mid float64, n int, ok bool) {
	var list []float64
	for _, r := range runs {
		if v := of(r); r.On <= on && r.On > on-cadenceDays && v != nil && *v > 0 {
			list = append(list, *v)
		}
	}
	if len(list) < cadenceRuns {
		return 0, len(list), false
	}
	m, _ := stats.Median(list)
	return m, len(list), true
}

// Total is one ISO week of running.
type Total struct {
	Monday         day.Date `json:"monday" format:"date"`
	Runs           int      `json:"runs"`
	Metres         int      `json:"metres"`
	Seconds        int      `json:"seconds"`
	LongestMetres  int      `json:"longestMetres"`
	SessionLoad    float64  `json:"sessionLoad" doc:"Minutes times CR10 effort, of the runs with an effort"`
	NoEffort       int      `json:"noEffort" doc:"Runs without an effort; their session load is not known"`
	Contacts       float64  `json:"contacts" doc:"Of one foot"`
	AssumedCadence int      `json:"assumedCadence" doc:"Runs whose contacts rest on an assumed cadence"`
	MinimalMetres  int      `json:"minimalMetres"`
	BareMetres     int      `json:"bareMetres"`
}

// Weeks sums runs by ISO week from one Monday to another, both included. Weeks
// without a run are there with zeros.
func Weeks(runs []Run, from, to day.Date) []Total {
	from, to = from.Monday(), to.Monday()
	if to < from {
		return nil
	}
	out := make([]Total, int(to-from)/7+1)
	for i := range out {
		out[i].Monday = from + day.Date(7*i)
	}
	last := LastCadence(runs, to+6)
	for _, r := range runs {
		if m := r.On.Monday(); m >= from && m <= to {
			out[int(m-from)/7].add(r, last)
		}
	}
	return out
}

func (t *Total) add(r Run, lastCadence float64) {
	t.Runs++
	t.Metres += r.Metres
	t.Seconds += r.Seconds
	t.LongestMetres = max(t.LongestMetres, r.Metres)
	if l, ok := r.SessionLoad(); ok {
		t.SessionLoad += l
	} else {
		t.NoEffort++
	}
	c, measured := r.Contacts(lastCadence)
	t.Contacts += c
	if !measured {
		t.AssumedCadence++
	}
	switch r.Footwear {
	case MinimalShoe:
		t.MinimalMetres += r.Metres
	case BareFeet:
		t.BareMetres += r.Metres
	}
}

// Before returns the metres of the four complete weeks before a Monday that
// count, oldest first. Weeks before the first run take the intake's weekly mean;
// without one the result is empty, which means unknown. out names weeks that stay
// out of means: race, half and ill ones; nil for none.
func Before(runs []Run, monday day.Date, intakeMetres *int, out func(monday day.Date) bool) []int {
	first := day.Date(math.MaxInt32)
	for _, r := range runs {
		first = min(first, r.On.Monday())
	}
	list := make([]int, 0, historyWeeks)
	for i := historyWeeks; i >= 1; i-- {
		m := monday - day.Date(7*i)
		switch {
		case out != nil && out(m):
		case m < first && intakeMetres == nil:
			return nil
		case m < first:
			list = append(list, *intakeMetres)
		default:
			sum := 0
			for _, r := range runs {
				if r.On >= m && r.On < m+7 {
					sum += r.Metres
				}
			}
			list = append(list, sum)
		}
	}
	return list
}

// Volume is what running is judged from on a date.
type Volume struct {
	Runs        []Run
	On          day.Date
	PlannedRest int                        // metres still planned for the week
	Intake      *int                       // the weekly mean of the intake, metres
	Out         func(monday day.Date) bool // weeks that stay out of means; nil for none
	Return      *ReturnStage               // the way back to running, while it stands
}

// ReturnStage is the present stage of the way back to running: how long a session
// of it lasts, walking between included, and since when the ladder stands. Zero
// minutes is the stage that only walks.
type ReturnStage struct {
	Minutes float64
	Since   day.Date
}

// returnOver is how much longer than its stage a run may be.
const returnOver = 1.1

// over reports a run of this ISO week that is more than the stage by a tenth.
func (s ReturnStage) over(runs []Run, on day.Date) bool {
	return slices.ContainsFunc(runs, func(r Run) bool {
		return r.On >= max(on.Monday(), s.Since) && r.On <= on && r.Metres > 0 && r.Minutes() > s.Minutes*returnOver+1e-9
	})
}

// WeekOf compares the week of a date, run and still planned, with those before
// it that count.
func WeekOf(v Volume) WeekRatio {
	monday := v.On.Monday()
	done := 0
	for _, r := range v.Runs {
		if r.On >= monday && r.On <= v.On {
			done += r.Metres
		}
	}
	return CompareWeek(done+v.PlannedRest, Before(v.Runs, monday, v.Intake, v.Out))
}

// Long is a run against the longest of the 30 days before it.
type Long struct {
	On      day.Date `json:"on" format:"date"`
	Metres  int      `json:"metres"`
	Longest int      `json:"longestMetres" doc:"Of the 30 days before; 0 for none"`
	Class   Class    `json:"class" enum:"steady,spike,unknown"`
}

// LongestOf compares each run of the week of a date with the longest in the 30
// days before that run; the worst counts, so that a slightly longer run later in
// the week hides nothing. Without a run there is nothing to compare: steady.
func LongestOf(runs []Run, on day.Date) Long {
	out := Long{Class: Steady}
	for _, r := range runs {
		if r.On < on.Monday() || r.On > on || r.Metres == 0 {
			continue
		}
		l := compared(runs, r)
		if out.Metres == 0 || worst[l.Class] > worst[out.Class] || worst[l.Class] == worst[out.Class] && ratio(l) > ratio(out) {
			out = l
		}
	}
	return out
}

// compared sets a run against the longest of the 30 days before it.
func compared(runs []Run, r Run) Long {
	longest := 0
	for _, o := range runs {
		if o.On < r.On && int(r.On-o.On) <= longestDays {
			longest = max(longest, o.Metres)
		}
	}
	return Long{r.On, r.Metres, longest, CompareRun(r.Metres, longest)}
}

// Jumped returns the run of a day that is a jump against the longest of the 30 days
// before it, and how many times that it is; false where none is.
func Jumped(runs []Run, on day.Date) (times float64, ok bool) {
	for _, r := range runs {
		if r.On != on || r.Metres == 0 {
			continue
		}
		if l := compared(runs, r); l.Class == Spike {
			times, ok = max(times, ratio(l)), true
		}
	}
	return times, ok
}

func ratio(l Long) float64 {
	if l.Longest == 0 {
		return 0
	}
	return float64(l.Metres) / float64(l.Longest)
}

// Running is what running allows the rest of the plan.
type Running struct {
	Week  WeekRatio `json:"week"`
	Long  Long      `json:"long"`
	Class Class     `json:"class" enum:"down,steady,rise,spike,unknown,return" doc:"The more cautious of both"`
}

// State returns what running allows on a date: the worse of week and longest
// run. Nothing ever run and no intake mean is unknown, which holds spring and
// exposure only. While the way back to running stands and no more than its stage
// is run, the class is Return, never a rise or a jump; more than the stage by a
// tenth is a jump.
func State(v Volume) Running {
	s := Running{Week: WeekOf(v), Long: LongestOf(v.Runs, v.On)}
	if v.Return != nil {
		s.Class = Return
		if v.Return.over(v.Runs, v.On) {
			s.Class = Spike
		}
		return s
	}
	s.Class = Worse(s.Week.Class, s.Long.Class)
	return s
}

// EWMA returns the exponentially weighted mean of daily loads after each day,
// λ = 2/(days + 1) (Williams 2017, from memory), from a start value. It is shown
// as a curve and never the reason of a decision.
func EWMA(loads []float64, days int, start float64) []float64 {
	lambda := 2 / float64(days+1)
	out := make([]float64, len(loads))
	at := start
	for i, l := range loads {
		at += lambda * (l - at)
		out[i] = at
	}
	return out
}

// EWMA windows in days.
const (
	EWMAShort = 7
	EWMALong  = 28
)

// Daily returns the metres of each day from one date to another, both included.
func Daily(runs []Run, from, to day.Date) []float64 {
	if to < from {
		return nil
	}
	out := make([]float64, int(to-from)+1)
	for _, r := range runs {
		if r.On >= from && r.On <= to {
			out[r.On-from] += float64(r.Metres)
		}
	}
	return out
}

// Component is a source of tissue dose. Each is held to its own rule.
type Component string

// The components.
const (
	ByRunning  Component = "running"
	ByExposure Component = "exposure"
	ByStrength Component = "strength"
	BySpring   Component = "spring"
)

// Components lists them in the order they are drawn.
var Components = []Component{ByRunning, ByExposure, ByStrength, BySpring}

// contactWeight is what one running contact puts on a tissue, in body weights.
// Achilles: Baxter 2021 for 5.2 (from memory), the split by strike is ours; the
// sole's and forefoot's are ours; the front shin's is ours and counts contacts.
var contactWeight = map[body.Tissue]struct{ rear, unknown, fore, minimal, bare float64 }{
	body.Achilles: {5.2, 5.5, 5.8, 1.05, 1.08},
	body.Sole:     {1.8, 1.8, 1.8, 1, 1},
	body.Forefoot: {2.5, 2.5, 2.5, 1.10, 1.20},
	body.Shin:     {1, 1, 1, 1, 1},
}

// Strike is how the foot meets the ground.
type Strike string

// The classes of foot strike.
const (
	RearStrike    Strike = "rear"
	MidForeStrike Strike = "mid-fore"
	UnknownStrike Strike = ""
)

// ContactWeight returns the body weights of one running contact on a tissue.
func ContactWeight(t body.Tissue, s Strike, f Footwear) float64 {
	c := contactWeight[t]
	w := c.unknown
	switch s {
	case RearStrike:
		w = c.rear
	case MidForeStrike:
		w = c.fore
	}
	switch f {
	case MinimalShoe:
		w *= c.minimal
	case BareFeet:
		w *= c.bare
	}
	return w
}

// Amount is a dose in both weightings, in body-weight repetitions.
type Amount struct {
	Sum  float64 `json:"sum" doc:"Σ n · w"`
	Peak float64 `json:"peak" doc:"Σ n · w³: heavy work counts more"`
}

// Add returns the amount with n repetitions of w body weights added.
func (a Amount) Add(n, w float64) Amount {
	return Amount{a.Sum + n*w, a.Peak + n*w*w*w}
}

// Plus adds two amounts.
func (a Amount) Plus(b Amount) Amount { return Amount{a.Sum + b.Sum, a.Peak + b.Peak} }

// RunDose returns a run's dose on one tissue of one foot.
func RunDose(r Run, t body.Tissue, s Strike, lastCadence float64) Amount {
	n, _ := r.Contacts(lastCadence)
	return Amount{}.Add(n, ContactWeight(t, s, r.Footwear))
}

// ExposureDose returns what minutes of running out of usual shoes put on a tissue
// of one foot. Where the run itself is counted as one in usual shoes, only what
// bare feet or minimal shoes add to it is left; a tissue they spare counts 0.
func ExposureDose(minutes int, f Footwear, t body.Tissue, s Strike, lastCadence float64, inRun bool) Amount {
	all := RunDose(Run{Seconds: 60 * minutes, Footwear: f}, t, s, lastCadence)
	if !inRun {
		return all
	}
	usual := RunDose(Run{Seconds: 60 * minutes, Footwear: UsualShoe}, t, s, lastCadence)
	return Amount{max(0, all.Sum-usual.Sum), max(0, all.Peak-usual.Peak)}
}

// NotchDose returns what one session of a notch, done to a share from 0 to 1,
// puts on a tissue of one side, and the component it belongs to. Barefoot
// minutes replace shod walking and add nothing here.
func NotchDose(n catalogue.Notch, t body.Tissue, done float64) (Amount, Component) {
	c := ByStrength
	switch n.Exercise.Purpose {
	case catalogue.ForSpring:
		c = BySpring
	case catalogue.ForExposure:
		c = ByExposure
	}
	if w := n.Weight(t); w > 0 {
		return Amount{}.Add(n.Count()*max(0, min(1, done)), w), c
	}
	return Amount{}, c
}

// Dose is a day's tissue dose of one side by component.
type Dose map[Component]Amount

// Put adds an amount to a component.
func (d Dose) Put(c Component, a Amount) { d[c] = d[c].Plus(a) }

// Total sums all components.
func (d Dose) Total() Amount {
	var a Amount
	for _, c := range Components {
		a = a.Plus(d[c])
	}
	return a
}

// zonesTissues says whether a painful zone belongs to a tissue.
func onTissues(z screening.Zone, tissues []body.Tissue) bool {
	return slices.ContainsFunc(z.Tissues(), func(t body.Tissue) bool { return slices.Contains(tissues, t) })
}

// PainOn returns the worst pain of a run on a tissue and side in the days from
// one date on; false where no run hurt there. A run without a zone or side
// counts for all.
func PainOn(runs []Run, from, to day.Date, side body.Side, tissues []body.Tissue) (Run, bool) {
	var found Run
	any := false
	for _, r := range runs {
		if r.On < from || r.On > to || r.Pain == nil || *r.Pain == 0 {
			continue
		}
		if r.Zone != "" && len(tissues) > 0 && !onTissues(r.Zone, tissues) {
			continue
		}
		if r.Side != "" && r.Side != body.Both && side != body.Both && r.Side != side {
			continue
		}
		if !any || *r.Pain > *found.Pain {
			found, any = r, true
		}
	}
	return found, any
}

// Weeks of running out of usual shoes that open bare-foot running: docs/rules.md, gates.
const (
	shareHeld      = 30 // per cent
	shareHeldWeeks = 4
	shareLookBack  = 12
)

// ShareHeld returns the last day of the newest four complete weeks in a row with
// at least 30 % of the metres in minimal shoes or bare feet; nil for none in the
// last twelve weeks.
func ShareHeld(runs []Run, today day.Date) *day.Date {
	row := 0
	var out *day.Date
	for i := shareLookBack; i >= 1; i-- {
		m := today.Monday() - day.Date(7*i)
		all, unshod := 0, 0
		for _, r := range runs {
			if r.On.Monday() != m {
				continue
			}
			all += r.Metres
			if r.Footwear == MinimalShoe || r.Footwear == BareFeet {
				unshod += r.Metres
			}
		}
		if all == 0 || 100*unshod < shareHeld*all {
			row = 0
			continue
		}
		if row++; row >= shareHeldWeeks {
			end := m + 6
			out = &end
		}
	}
	return out
}

// paceWeeks is how far back the easy pace looks.
const paceWeeks = 6

// EasyPace returns the seconds a kilometre takes on average in the runs of the
// last six weeks that were not fast; 0 where there are none.
func EasyPace(runs []Run, today day.Date) int {
	metres, seconds := 0, 0
	for _, r := range runs {
		if !r.Fast && r.On <= today && r.On > today-7*paceWeeks && r.Metres > 0 && r.Seconds > 0 {
			metres += r.Metres
			seconds += r.Seconds
		}
	}
	if metres == 0 {
		return 0
	}
	return seconds * 1000 / metres
}
