package app

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/safety"
	"notchback/core/transition"
	"notchback/core/words"
	"notchback/store"
)

// LoadDay is one day on the time axis.
type LoadDay struct {
	On        day.Date                                   `json:"on" format:"date"`
	Metres    int                                        `json:"metres"`
	Short     float64                                    `json:"short" doc:"EWMA over 7 days, metres a day"`
	Long      float64                                    `json:"long" doc:"EWMA over 28 days"`
	FirstStep *int                                       `json:"firstStep,omitempty"`
	Rest      *int                                       `json:"rest,omitempty"`
	RunPain   *int                                       `json:"runPain,omitempty"`
	Pain      *int                                       `json:"pain,omitempty" doc:"Worst pain of the day's session"`
	Dose      map[body.Tissue]map[load.Component]float64 `json:"dose" doc:"The worse side, body weights times repetitions"`
	Peak      map[body.Tissue]map[load.Component]float64 `json:"peak" doc:"The same with the weight cubed"`
}

// LoadWeek is a week's running against its limits.
type LoadWeek struct {
	load.Total
	Week    load.WeekRatio `json:"week"`
	Long    load.Long      `json:"long"`
	Words   string         `json:"words"`
	Planned *int           `json:"plannedMetres,omitempty"`
}

// LoadEvent is something to mark on the time axis.
type LoadEvent struct {
	On   day.Date `json:"on" format:"date"`
	Kind string   `json:"kind" enum:"screening,block,flare,deload,race,shoe,flag"`
	Text string   `json:"text"`
}

// NotchDay is where a ladder stood from a date on.
type NotchDay struct {
	On    day.Date `json:"on" format:"date"`
	Left  int      `json:"left"`
	Right int      `json:"right"`
}

// NotchLine is a ladder's way on the time axis.
type NotchLine struct {
	Ladder  string     `json:"ladder"`
	Name    string     `json:"name"`
	Notches int        `json:"notches"`
	Days    []NotchDay `json:"days" nullable:"false"`
}

// ComponentRule says what a component of the dose is held to now.
type ComponentRule struct {
	Component load.Component `json:"component" enum:"running,exposure,strength,spring"`
	Rule      string         `json:"rule"`
	State     string         `json:"state"`
	Holds     bool           `json:"holds"`
}

// LoadView is a runner's load on one time axis.
type LoadView struct {
	Today      day.Date        `json:"today" format:"date"`
	Days       []LoadDay       `json:"days" nullable:"false"`
	Weeks      []LoadWeek      `json:"weeks" nullable:"false"`
	Next       LoadWeek        `json:"next" doc:"The coming week as planned"`
	Running    load.Running    `json:"running"`
	Words      string          `json:"words"`
	Warning    string          `json:"warning,omitempty" doc:"A planned jump, with what would be steady"`
	Advice     load.Advice     `json:"advice"`
	AdviceText string          `json:"adviceText"`
	AdviceWhy  string          `json:"adviceWhy"`
	Components []ComponentRule `json:"components" nullable:"false"`
	Events     []LoadEvent     `json:"events" nullable:"false"`
	Notches    []NotchLine     `json:"notches" nullable:"false"`
	Missing    []string        `json:"missing" nullable:"false" doc:"What is not known, said and not invented"`
	Sources    []string        `json:"sources" nullable:"false"`
	Usual      float64         `json:"usual"`
}

// Load returns a runner's load, pain and notches on one time axis.
func (a *App) Load(ctx context.Context, act Actor, runner string, weeks int) (LoadView, error) {
	weeks = max(4, min(52, weeks))
	var out LoadView
	if err := a.catchUp(ctx, act, runner); err != nil {
		return out, err
	}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		k, err := a.open(ctx, tx, act, runner, nil)
		if err != nil {
			return err
		}
		out = k.loadView(weeks)
		return nil
	})
	return out, err
}

// gathered is what is known of a runner's running and days, for their pages.
type gathered struct {
	today    day.Date
	runs     []load.Run
	shoes    []string // shoe of each run
	planned  map[day.Date]int
	notes    map[day.Date]DayInput
	mornings []store.Morning
	intake   *int
}

func newGathered(rows *record.Rows, today day.Date) (*gathered, error) {
	g := &gathered{today: today, planned: map[day.Date]int{}, notes: map[day.Date]DayInput{}, mornings: rows.Mornings}
	for _, r := range rows.Runs {
		g.runs, g.shoes = append(g.runs, record.CoreRun(r)), append(g.shoes, r.Shoe)
	}
	for _, p := range rows.Planned {
		g.planned[dateOf(p.Monday)] = p.Metres
	}
	for _, n := range rows.Notes {
		var in DayInput
		if err := json.Unmarshal(n.Body, &in); err != nil {
			return nil, fmt.Errorf("note of %s: %w", dateOf(n.On), err)
		}
		g.notes[dateOf(n.On)] = in
	}
	if km := rows.Runner.WeeklyKm; km != nil {
		m := int(math.Round(*km * 1000))
		g.intake = &m
	}
	return g, nil
}

func worstOf(list []store.Morning, on day.Date, pick func(store.Morning) *int) *int {
	var out *int
	for _, m := range list {
		if v := pick(m); dateOf(m.On) == on && v != nil && (out == nil || *v > *out) {
			out = v
		}
	}
	return out
}

func firstStepOf(m store.Morning) *int { return m.FirstStep }

func restOf(m store.Morning) *int { return m.Rest }

func (k *desk) loadView(weeks int) LoadView {
	g, f, d := k.g, k.f, k.d
	from := g.today.Monday() - day.Date(7*(weeks-1))
	out := LoadView{Today: g.today, Days: []LoadDay{}, Weeks: []LoadWeek{}, Components: []ComponentRule{}, Events: []LoadEvent{}, Notches: []NotchLine{}, Missing: []string{},
		Sources: []string{load.RatioSource.String(), load.LongestSource.String(), WeightSource}}
	warm := from - 60
	daily := load.Daily(g.runs, warm, g.today)
	short, long := load.EWMA(daily, load.EWMAShort, 0), load.EWMA(daily, load.EWMALong, 0)
	doses := g.doses(f, from)
	for on := from; on <= g.today; on++ {
		i := int(on - warm)
		x := LoadDay{On: on, Metres: int(daily[i]), Short: math.Round(short[i]), Long: math.Round(long[i]), FirstStep: worstOf(g.mornings, on, firstStepOf), Rest: worstOf(g.mornings, on, restOf),
			Dose: map[body.Tissue]map[load.Component]float64{}, Peak: map[body.Tissue]map[load.Component]float64{}}
		for _, r := range g.runs {
			if r.On == on && r.Pain != nil && (x.RunPain == nil || *r.Pain > *x.RunPain) {
				x.RunPain = r.Pain
			}
		}
		if f != nil {
			for _, it := range f.items {
				if dateOf(it.On) == on && it.Pain != nil && (x.Pain == nil || *it.Pain > *x.Pain) {
					x.Pain = it.Pain
				}
			}
		}
		for t, sides := range doses[on] {
			l, r := sides[body.Left], sides[body.Right]
			w := l
			if r.Total().Sum > l.Total().Sum {
				w = r
			}
			x.Dose[t], x.Peak[t] = map[load.Component]float64{}, map[load.Component]float64{}
			for c, a := range w {
				x.Dose[t][c], x.Peak[t][c] = math.Round(a.Sum), math.Round(a.Peak)
			}
		}
		out.Days = append(out.Days, x)
	}
	for _, t := range load.Weeks(g.runs, from, g.today) {
		end := min(t.Monday+6, g.today)
		rest := 0
		if t.Monday == g.today.Monday() {
			rest = k.book.PlannedRest(g.today)
		}
		w := LoadWeek{Total: t, Week: load.CompareWeek(t.Metres+rest, load.Before(g.runs, t.Monday, g.intake, k.book.OutOfMeans)), Long: load.LongestOf(g.runs, end)}
		w.Words = weekWords(w.Week)
		if m, ok := g.planned[t.Monday]; ok {
			w.Planned = &m
		}
		out.Weeks = append(out.Weeks, w)
	}
	next, warning := k.nextWeek()
	out.Next, out.Warning = LoadWeek{Total: next.Total, Week: next.Week, Planned: &next.Metres}, warning
	out.Next.Words = weekWords(out.Next.Week)
	out.Running = k.book.Running(g.today)
	out.Words = words.Running(out.Running.Class)
	out.Advice = k.advice()
	out.AdviceText, out.AdviceWhy = words.Advice(out.Advice), words.AdviceWhy(out.Advice)
	out.components(k)
	out.events(g, f, d, k.book.Flags(), from)
	if f != nil {
		out.Usual = f.b0
		out.Notches = f.notchLines(from)
	}
	out.missing(g)
	return out
}

// WeightSource is said beside tissue doses.
const WeightSource = "body weights of force: published: Baxter et al. 2021 for its seven anchors (from memory); the rest house"

func weekWords(w load.WeekRatio) string {
	s := words.Running(w.Class)
	if w.MeanMetres > 0 {
		s += fmt.Sprintf(", %s of the mean of four weeks (%s km)", words.Number(w.Ratio(), 2), words.Number(w.MeanMetres/1000, 1))
	}
	return s
}

// doses sums the tissue dose by day, tissue and side, from runs and logged work.
func (g *gathered) doses(f *frame, from day.Date) map[day.Date]map[body.Tissue]map[body.Side]load.Dose {
	out := map[day.Date]map[body.Tissue]map[body.Side]load.Dose{}
	at := func(on day.Date, t body.Tissue, s body.Side) load.Dose {
		if out[on] == nil {
			out[on] = map[body.Tissue]map[body.Side]load.Dose{}
		}
		if out[on][t] == nil {
			out[on][t] = map[body.Side]load.Dose{}
		}
		if out[on][t][s] == nil {
			out[on][t][s] = load.Dose{}
		}
		return out[on][t][s]
	}
	tissues := []body.Tissue{body.Achilles, body.Sole, body.Forefoot, body.Shin}
	last := load.LastCadence(g.runs, g.today)
	for _, r := range g.runs {
		if r.On < from {
			continue
		}
		for _, t := range tissues {
			for _, s := range body.Sides {
				at(r.On, t, s).Put(load.ByRunning, load.RunDose(r, t, load.UnknownStrike, last))
			}
		}
	}
	g.exposureDose(from, last, tissues, at)
	if f == nil {
		return out
	}
	for _, it := range f.items {
		on := dateOf(it.On)
		if on < from {
			continue
		}
		n := f.ladders[it.PrescriptionID].At(it.Notch)
		done := 1.0
		if it.Done != nil {
			done = *it.Done
		}
		for _, t := range n.Tissues {
			a, c := load.NotchDose(n, t, done)
			at(on, t, body.Side(it.Side)).Put(c, a)
		}
	}
	return out
}

// exposureDose adds what was logged of a ramp's running; a run whose footwear is
// known to be minimal or bare says it all by itself.
func (g *gathered) exposureDose(from day.Date, cadence float64, tissues []body.Tissue, at func(day.Date, body.Tissue, body.Side) load.Dose) {
	for on, n := range g.notes {
		if on < from || len(n.Exposure) == 0 {
			continue
		}
		ran, told := false, false
		for _, r := range g.runs {
			if r.On == on {
				ran = true
				told = told || r.Footwear == load.MinimalShoe || r.Footwear == load.BareFeet
			}
		}
		if told {
			continue
		}
		for _, x := range n.Exposure {
			shoe := load.MinimalShoe
			switch x.Stage {
			case transition.Bare:
				shoe = load.BareFeet
			case transition.Run, transition.Drills:
			default:
				continue
			}
			for _, t := range tissues {
				for _, s := range body.Sides {
					at(on, t, s).Put(load.ByExposure, load.ExposureDose(x.Minutes, shoe, t, load.UnknownStrike, cadence, ran))
				}
			}
		}
	}
}

func (g *gathered) morning(on day.Date) *body.Pain { return worstOf(g.mornings, on, firstStepOf) }

// advice is the running advice of today, by the usual reading that row 3 goes by.
func (k *desk) advice() load.Advice {
	in := load.AdviceInput{On: k.today, Runs: k.g.runs, Morning: k.g.morning, Flare: len(k.book.Flares()) > 0}
	on := k.today
	for _, r := range k.g.runs {
		if r.On <= k.today {
			on = r.On
		}
	}
	in.Usual = k.book.Readings(course.FootTissues, body.Both).Baseline(on)
	for _, s := range k.book.Flags() {
		if s.ClosesRunning() {
			in.Flags = append(in.Flags, string(s.Flag))
		}
	}
	return load.Advise(in)
}

func (v *LoadView) components(k *desk) {
	f := k.f
	w := v.Running
	running := ComponentRule{Component: load.ByRunning, Rule: "steady to 1.10 of the mean of four weeks, and no run over 1.10 of the longest in 30 days by more than 1 km", State: v.Words, Holds: w.Class == load.Spike}
	if w.Week.SteadyTo > 0 {
		running.State += fmt.Sprintf("; this week steady to %s km", words.Number(float64(w.Week.SteadyTo)/1000, 1))
	}
	exposure := ComponentRule{Component: load.ByExposure, Rule: "no more than the ramp plans for the week: at home by a third, out of doors by 5 min", State: "no ramp: nothing is planned", Holds: w.Class != load.Steady && w.Class != load.Down}
	if minutes, planned, home, ok := k.book.Exposure(v.Today); ok {
		exposure.State = fmt.Sprintf("%d min this week, %d planned; up to %d", minutes, planned, load.ExposureTo(planned, home))
		exposure.Holds = exposure.Holds || load.ExposureOver(minutes, planned, home)
	}
	ups, added := 0, 0
	if f != nil {
		ups = f.upsThisWeek("")
		for _, p := range f.prescriptions {
			if len(f.ladders[p.ID].Tissues) > 0 && f.start.Monday()+day.Date(7*(p.FromWeek-1)) == v.Today.Monday() {
				added++
			}
		}
	}
	strength := ComponentRule{Component: load.ByStrength, Rule: "one notch a ladder a week, two ladders up a week, one new loading ladder a week", State: fmt.Sprintf("%s up and %d new this week", plural(ups, "ladder", "ladders"), added), Holds: w.Class == load.Spike}
	spring := ComponentRule{Component: load.BySpring, Rule: "as strength; at most three days a week, contacts capped", State: "held to the notches", Holds: w.Class != load.Steady && w.Class != load.Down}
	v.Components = append(v.Components, running, exposure, strength, spring)
}

func (v *LoadView) events(g *gathered, f *frame, d *dossier, flags []safety.Standing, from day.Date) {
	add := func(on day.Date, kind, text string) {
		if on >= from {
			v.Events = append(v.Events, LoadEvent{on, kind, text})
		}
	}
	for _, s := range d.visits {
		if s.Finished {
			add(s.On, "screening", "Screening")
		}
	}
	for _, s := range flags {
		add(s.Since, "flag", string(s.Flag))
	}
	shoe := ""
	for i, r := range g.runs {
		now := g.shoes[i]
		if now == "" {
			now = string(r.Footwear)
		}
		if now != "" && shoe != "" && now != shoe {
			add(r.On, "shoe", "Shoe: "+now)
		}
		if now != "" {
			shoe = now
		}
	}
	if f != nil {
		add(f.start, "block", "Block begins")
		for _, w := range f.weeks() {
			if w.Label == "lighter" && w.Days[0].On <= g.today {
				add(w.Days[0].On, "deload", "Lighter week")
			}
		}
		if r := f.plan.Wishes.Race; r != nil && r.On <= g.today {
			add(r.On, "race", "Race")
		}
		seen := map[day.Date]bool{}
		for _, x := range f.decisions {
			if on := dateOf(x.On); x.Row == 2 && x.Verdict == "stop" && !seen[on] {
				seen[on] = true
				add(on, "flare", "Flare: "+f.ladders[x.PrescriptionID].Name)
			}
		}
	}
	slices.SortStableFunc(v.Events, func(a, b LoadEvent) int { return int(a.On - b.On) })
}

// notchLines are where the ladders stood by what was logged and decided.
func (f *frame) notchLines(from day.Date) []NotchLine {
	out := []NotchLine{}
	for _, p := range f.prescriptions {
		l := f.ladders[p.ID]
		line := NotchLine{Ladder: l.ID, Name: l.Name, Notches: l.Len(), Days: []NotchDay{{max(from, f.start), p.StartNotch, p.StartNotch}}}
		for _, it := range f.items {
			if it.PrescriptionID != p.ID {
				continue
			}
			on := dateOf(it.On)
			last := &line.Days[len(line.Days)-1]
			if last.On != on {
				line.Days = append(line.Days, NotchDay{on, last.Left, last.Right})
				last = &line.Days[len(line.Days)-1]
			}
			if it.Side == string(body.Left) {
				last.Left = it.Notch
			} else {
				last.Right = it.Notch
			}
		}
		line.Days = append(line.Days, NotchDay{f.today, f.pegs[p.ID][body.Left].Notch, f.pegs[p.ID][body.Right].Notch})
		out = append(out, line)
	}
	return out
}

func (v *LoadView) missing(g *gathered) {
	if len(g.runs) == 0 {
		v.Missing = append(v.Missing, "No run is known; bring some in or type them.")
	}
	if g.intake == nil && v.Running.Week.Class == load.Unknown {
		v.Missing = append(v.Missing, "Fewer than four weeks of runs and no weekly mean in the profile: the week ratio is not known.")
	}
	noEffort, assumed, noPain := 0, 0, 0
	for _, w := range v.Weeks {
		noEffort += w.NoEffort
		assumed += w.AssumedCadence
	}
	for _, r := range g.runs {
		if r.Pain == nil && r.On > g.today-14 {
			noPain++
		}
	}
	if noEffort > 0 {
		v.Missing = append(v.Missing, plural(noEffort, "run", "runs")+" without an effort: their session load is not counted.")
	}
	if assumed > 0 {
		v.Missing = append(v.Missing, plural(assumed, "run", "runs")+" without a cadence, and none was ever measured: contacts assume "+words.Number(load.AssumedCadence, 0)+" a minute (house).")
	}
	if noPain > 0 {
		v.Missing = append(v.Missing, plural(noPain, "run", "runs")+" of the last two weeks without a word on pain.")
	}
}

// coming is a week to come beside what the weeks before it carry.
type coming struct {
	load.Total
	Week load.WeekRatio
}

// nextWeek is what is planned to be run next week, or the mean where nothing is, and
// what is to be said of it before it begins.
func (k *desk) nextWeek() (coming, string) {
	g := k.g
	this, next := g.today.Monday(), g.today.Monday()+7
	list := load.Before(g.runs, this, g.intake, k.book.OutOfMeans)
	mean := 0
	for _, m := range list {
		mean += m / len(list)
	}
	var before []int
	if len(list) > 0 {
		run := k.book.PlannedRest(g.today)
		for _, t := range load.Weeks(g.runs, this, g.today) {
			run += t.Metres
		}
		if _, planned := g.planned[this]; !planned {
			run = max(run, mean) // house: a week nobody planned goes on as usual
		}
		before = append(slices.Clone(list), run)
	}
	planned, ok := g.planned[next]
	if !ok && k.f != nil && k.f.plan.Wishes.WeeklyKm != nil {
		planned, ok = int(math.Round(*k.f.plan.Wishes.WeeklyKm*1000)), true
	}
	if !ok {
		planned = mean // shown, and not warned about: nobody planned it
	}
	out := coming{load.Total{Monday: next, Metres: planned}, load.CompareWeek(planned, before)}
	if c := out.Week.Class; ok && (c == load.Spike || c == load.Rise) {
		return out, fmt.Sprintf("%s km next week would be %s; up to %s km is steady.", words.Number(float64(planned)/1000, 1), words.Running(c), words.Number(float64(out.Week.SteadyTo)/1000, 1))
	}
	return out, ""
}
