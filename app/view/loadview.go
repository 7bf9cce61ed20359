package view

import (
	"fmt"
	"math"
	"slices"

	"notchback/app"
	"notchback/app/record"
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/safety"
	"notchback/core/transition"
	"notchback/core/units"
	"notchback/core/words"
)

// LoadDay is one day on the time axis.
type LoadDay struct {
	On        day.Date                                   `json:"on" format:"date"`
	Metres    int                                        `json:"metres"`
	Short     float64                                    `json:"short" doc:"EWMA over 7 days, metres a day"`
	Long      float64                                    `json:"long" doc:"EWMA over 28 days"`
	Times     float64                                    `json:"times,omitempty" doc:"A run that jumped: how many times the longest of the 30 days before"`
	FirstStep *int                                       `json:"firstStep,omitempty"`
	Above     bool                                       `json:"above,omitempty" doc:"First steps well above the usual"`
	Rest      *int                                       `json:"rest,omitempty"`
	RunPain   *int                                       `json:"runPain,omitempty"`
	Pain      *int                                       `json:"pain,omitempty" doc:"Worst pain of the day's session"`
	Dose      map[body.Tissue]map[load.Component]float64 `json:"dose" doc:"The worse side, body weights times repetitions"`
	Peak      map[body.Tissue]map[load.Component]float64 `json:"peak" doc:"The same with the weight cubed"`
}

// UsualDose is the dose of a usual week on a tissue: the mean of the whole weeks before
// this one, four at most, in which there was any.
type UsualDose struct {
	Tissue body.Tissue `json:"tissue"`
	Dose   float64     `json:"dose" doc:"Body weights times repetitions"`
	Peak   float64     `json:"peak" doc:"The same with the weight cubed"`
	Weeks  int         `json:"weeks" doc:"How many weeks it is the mean of"`
}

func usualDoses(days []LoadDay, today day.Date) []UsualDose {
	out := []UsualDose{}
	total := func(by map[load.Component]float64) (n float64) {
		for _, a := range by {
			n += a
		}
		return n
	}
	for _, t := range body.Tissues {
		var list []load.Dosed
		for _, d := range days {
			list = append(list, load.Dosed{On: d.On, Sum: total(d.Dose[t]), Peak: total(d.Peak[t])})
		}
		if sum, peak, weeks := load.UsualWeek(list, today); weeks > 0 {
			out = append(out, UsualDose{t, sum, peak, weeks})
		}
	}
	return out
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
	UsualWeek  []UsualDose     `json:"usualWeek" nullable:"false" doc:"What a usual week loads, tissue by tissue"`
}

func LoadOf(k *record.Desk, weeks int) LoadView {
	g, f, d := k.G, k.F, k.D
	from := g.Today.Monday() - day.Date(7*(weeks-1))
	out := LoadView{Today: g.Today, Days: []LoadDay{}, Weeks: []LoadWeek{}, Components: []ComponentRule{}, Events: []LoadEvent{}, Notches: []NotchLine{}, Missing: []string{},
		Sources: []string{load.RatioSource.String(), load.LongestSource.String(), load.UsualSource.String(), WeightSource}}
	warm := from - 60
	daily := load.Daily(g.Runs, warm, g.Today)
	short, long := load.EWMA(daily, load.EWMAShort, 0), load.EWMA(daily, load.EWMALong, 0)
	doses := doses(g, f, from)
	for on := from; on <= g.Today; on++ {
		i := int(on - warm)
		x := LoadDay{On: on, Metres: int(daily[i]), Short: math.Round(short[i]), Long: math.Round(long[i]), FirstStep: record.WorstOf(g.Mornings, on, record.FirstStepOf), Rest: record.WorstOf(g.Mornings, on, record.RestOf),
			Dose: map[body.Tissue]map[load.Component]float64{}, Peak: map[body.Tissue]map[load.Component]float64{}}
		if times, ok := load.Jumped(g.Runs, on); ok {
			x.Times = math.Round(100*times) / 100
		}
		for _, r := range g.Runs {
			if r.On == on && r.Pain != nil && (x.RunPain == nil || *r.Pain > *x.RunPain) {
				x.RunPain = r.Pain
			}
		}
		if f != nil {
			for _, it := range f.Items {
				if app.DateOf(it.On) == on && it.Pain != nil && (x.Pain == nil || *it.Pain > *x.Pain) {
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
	out.UsualWeek = usualDoses(out.Days, g.Today)
	for _, t := range load.Weeks(g.Runs, from, g.Today) {
		end := min(t.Monday+6, g.Today)
		rest := 0
		if t.Monday == g.Today.Monday() {
			rest = k.Book.PlannedRest(g.Today)
		}
		w := LoadWeek{Total: t, Week: load.CompareWeek(t.Metres+rest, load.Before(g.Runs, t.Monday, g.Intake, k.Book.OutOfMeans)), Long: load.LongestOf(g.Runs, end)}
		w.Words = weekWords(w.Week)
		if m, ok := g.Planned[t.Monday]; ok {
			w.Planned = &m
		}
		out.Weeks = append(out.Weeks, w)
	}
	next, warning := k.NextWeek()
	out.Next, out.Warning = LoadWeek{Total: next.Total, Week: next.Week, Planned: &next.Metres}, warning
	out.Next.Words = weekWords(out.Next.Week)
	out.Running = k.Book.Running(g.Today)
	out.Words = words.Running(out.Running.Class)
	out.Advice = k.Advice()
	out.AdviceText, out.AdviceWhy = words.Advice(out.Advice), words.AdviceWhy(out.Advice)
	out.components(k)
	out.events(g, f, d, k.Book.Flags(), from)
	if f != nil {
		out.Usual = f.B0
		for i, d := range out.Days {
			out.Days[i].Above = d.FirstStep != nil && adjust.Jumped(body.Pain(*d.FirstStep), f.B0)
		}
		out.Notches = notchLines(f, from)
	}
	out.missing(g)
	return out
}

// WeightSource is said beside tissue doses.
const WeightSource = "body weights of force: published: Baxter et al. 2021 for its seven anchors (from memory); the rest house"

func weekWords(w load.WeekRatio) string {
	s := words.Running(w.Class)
	if w.MeanMetres > 0 {
		s += fmt.Sprintf(", %s of the mean of four weeks (%s)", words.Number(w.Ratio(), 2), units.Km(w.MeanMetres, 1))
	}
	return s
}

// doses sums the tissue dose by day, tissue and side, from runs and logged work.
func doses(g *record.Gathered, f *record.Frame, from day.Date) map[day.Date]map[body.Tissue]map[body.Side]load.Dose {
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
	last := load.LastCadence(g.Runs, g.Today)
	for _, r := range g.Runs {
		if r.On < from {
			continue
		}
		for _, t := range tissues {
			for _, s := range body.Sides {
				at(r.On, t, s).Put(load.ByRunning, load.RunDose(r, t, r.Strike, last))
			}
		}
	}
	exposureDose(g, from, last, tissues, at)
	if f == nil {
		return out
	}
	for _, it := range f.Items {
		on := app.DateOf(it.On)
		if on < from {
			continue
		}
		n := f.Ladders[it.PrescriptionID].At(it.Notch)
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
func exposureDose(g *record.Gathered, from day.Date, cadence float64, tissues []body.Tissue, at func(day.Date, body.Tissue, body.Side) load.Dose) {
	for on, n := range g.Notes {
		if on < from || len(n.Exposure) == 0 {
			continue
		}
		ran, told := false, false
		for _, r := range g.Runs {
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

func (v *LoadView) components(k *record.Desk) {
	f := k.F
	w := v.Running
	running := ComponentRule{Component: load.ByRunning, Rule: "as usual is up to 1.10 of the mean of four weeks, and no run over 1.10 of the longest in 30 days by more than " + units.Km(1000, 0), State: v.Words, Holds: w.Class == load.Spike}
	if w.Week.SteadyTo > 0 {
		running.State += fmt.Sprintf("; this week up to %s is as usual", units.Km(float64(w.Week.SteadyTo), 1))
	}
	exposure := ComponentRule{Component: load.ByExposure, Rule: "no more than the ramp plans for the week: at home by a third, out of doors by 5 min", State: "no ramp: nothing is planned", Holds: w.Class != load.Steady && w.Class != load.Down}
	if minutes, planned, home, ok := k.Book.Exposure(v.Today); ok {
		exposure.State = fmt.Sprintf("%d min this week, %d planned; up to %d", minutes, planned, load.ExposureTo(planned, home))
		exposure.Holds = exposure.Holds || load.ExposureOver(minutes, planned, home)
	}
	ups, added := 0, 0
	if f != nil {
		ups = f.UpsThisWeek("")
		for _, p := range f.Prescriptions {
			if len(f.Ladders[p.ID].Tissues) > 0 && f.Start.Monday()+day.Date(7*(p.FromWeek-1)) == v.Today.Monday() {
				added++
			}
		}
	}
	strength := ComponentRule{Component: load.ByStrength, Rule: "one notch a ladder a week, two ladders up a week, one new loading ladder a week", State: fmt.Sprintf("%s up and %d new this week", app.Plural(ups, "ladder", "ladders"), added), Holds: w.Class == load.Spike}
	spring := ComponentRule{Component: load.BySpring, Rule: "as strength; at most three days a week, contacts capped", State: "held to the notches", Holds: w.Class != load.Steady && w.Class != load.Down}
	v.Components = append(v.Components, running, exposure, strength, spring)
}

func (v *LoadView) events(g *record.Gathered, f *record.Frame, d *record.Dossier, flags []safety.Standing, from day.Date) {
	add := func(on day.Date, kind, text string) {
		if on >= from {
			v.Events = append(v.Events, LoadEvent{on, kind, text})
		}
	}
	for _, s := range d.Visits {
		if s.Finished {
			add(s.On, "screening", "Screening")
		}
	}
	for _, s := range flags {
		add(s.Since, "flag", words.Flag(s))
	}
	shoe := ""
	for i, r := range g.Runs {
		now := g.Shoes[i]
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
		add(f.Start, "block", "Block begins")
		for _, w := range WeeksOf(f) {
			if w.Label == "lighter" && w.Days[0].On <= g.Today {
				add(w.Days[0].On, "deload", "Lighter week")
			}
		}
		if r := f.Plan.Wishes.Race; r != nil && r.On <= g.Today {
			add(r.On, "race", "Race")
		}
		seen := map[day.Date]bool{}
		for _, x := range f.Decisions {
			if on := app.DateOf(x.On); x.Row == 2 && x.Verdict == "stop" && !seen[on] {
				seen[on] = true
				add(on, "flare", "Flare: "+f.Ladders[x.PrescriptionID].Name)
			}
		}
	}
	slices.SortStableFunc(v.Events, func(a, b LoadEvent) int { return int(a.On - b.On) })
}

// notchLines are where the ladders stood by what was logged and decided.
func notchLines(f *record.Frame, from day.Date) []NotchLine {
	out := []NotchLine{}
	for _, p := range f.Prescriptions {
		l := f.Ladders[p.ID]
		if l.Part != nil {
			continue // one notch: there is nothing to draw
		}
		line := NotchLine{Ladder: l.ID, Name: l.Name, Notches: l.Len(), Days: []NotchDay{{max(from, f.Start), p.StartNotch, p.StartNotch}}}
		for _, it := range f.Items {
			if it.PrescriptionID != p.ID {
				continue
			}
			on := app.DateOf(it.On)
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
		line.Days = append(line.Days, NotchDay{f.Today, f.Pegs[p.ID][body.Left].Notch, f.Pegs[p.ID][body.Right].Notch})
		out = append(out, line)
	}
	return out
}

func (v *LoadView) missing(g *record.Gathered) {
	if len(g.Runs) == 0 {
		v.Missing = append(v.Missing, "No run is known; bring some in or type them.")
	}
	if g.Intake == nil && v.Running.Week.Class == load.Unknown {
		v.Missing = append(v.Missing, "Fewer than four weeks of runs and no weekly mean in the profile: the week ratio is not known.")
	}
	noEffort, assumed, noPain := 0, 0, 0
	for _, w := range v.Weeks {
		noEffort += w.NoEffort
		assumed += w.AssumedCadence
	}
	for _, r := range g.Runs {
		if r.Pain == nil && r.On > g.Today-14 {
			noPain++
		}
	}
	if noEffort > 0 {
		v.Missing = append(v.Missing, app.Plural(noEffort, "run", "runs")+" without an effort: their session load is not counted.")
	}
	if assumed > 0 {
		v.Missing = append(v.Missing, app.Plural(assumed, "run", "runs")+" without a cadence, and none was ever measured: contacts assume "+words.Number(load.AssumedCadence, 0)+" a minute (house).")
	}
	if noPain > 0 {
		v.Missing = append(v.Missing, app.Plural(noPain, "run", "runs")+" of the last two weeks without a word on pain.")
	}
}
