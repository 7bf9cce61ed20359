package pocket

import (
	"context"
	"math"
	"slices"
	"time"

	"notchback/app"
	"notchback/app/record"
	"notchback/app/view"
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/figure"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/words"
	"notchback/store"
)

// Plan is everything a phone carries: what to do, the texts and drawings for it, and
// the answers to what may be told where there is no network. A phone looks up in it;
// it may lower and close by it, and never open, raise or take up again.
type Plan struct {
	At        time.Time           `json:"at" doc:"When it was made, by the server's clock"`
	Today     day.Date            `json:"today" format:"date"`
	Zone      string              `json:"zone"`
	Language  words.Language      `json:"language" enum:"en,de"`
	Units     string              `json:"units" enum:"metric,imperial" doc:"Distances and weights: km and kg, or miles and pounds"`
	FirstName string              `json:"firstName"`
	Practice  Contact             `json:"practice"`
	Block     string              `json:"block,omitempty" doc:"Empty without a block"`
	From      day.Date            `json:"from" format:"date"`
	To        day.Date            `json:"to" format:"date"`
	Days      []Day               `json:"days" nullable:"false"`
	Texts     map[string]Text     `json:"texts" doc:"By exercise"`
	Rails     []Rail              `json:"rails" nullable:"false"`
	Places    []Place             `json:"places" nullable:"false" doc:"Where mornings are asked; the first is in general"`
	Minimum   []view.MinimumView  `json:"minimum" nullable:"false" doc:"The five-minute day"`
	Strong    []string            `json:"strong" nullable:"false" doc:"What more is allowed on a good day"`
	Quiet     []string            `json:"quiet" nullable:"false" doc:"Ladders that may go on when nobody was heard of for long: release, range and steer"`
	Paused    []record.PausedView `json:"paused" nullable:"false"`
	Caps      []string            `json:"caps" nullable:"false"`
	Advice    string              `json:"advice" doc:"For running"`
	AdviceWhy string              `json:"adviceWhy,omitempty"`
	Flags     []string            `json:"flags" nullable:"false" doc:"What stands and closes something, in words"`
	Care      *words.Care         `json:"care,omitempty"`
	IfCare    words.Care          `json:"ifCare" doc:"What fills the screen on an emergency answer"`
	Cautions  []string            `json:"cautions" nullable:"false"`
	Rules     Rules               `json:"rules"`
	Asks      []record.AskView    `json:"asks" nullable:"false" doc:"Places whose questions are open"`
	Questions []safety.Group      `json:"questions" nullable:"false"`
	Emergency []string            `json:"emergency" nullable:"false" doc:"Questions whose yes closes everything"`
	NoRunIf   []string            `json:"noRunIf" nullable:"false" doc:"Questions whose yes closes running"`
	Zones     []Zone              `json:"zones" nullable:"false"`
	Choices   adjust.Choices      `json:"choices"`
	Weeks     []Kilometres        `json:"weeks" nullable:"false" doc:"Of running, the oldest first"`
	Moved     []string            `json:"moved" nullable:"false" doc:"What moved and why, newest first"`
	Auto      bool                `json:"auto" doc:"Steps up go by themselves"`
}

// Contact is whom to call.
type Contact struct {
	Name            string `json:"name"`
	Contact         string `json:"contact"`
	EmergencyNumber string `json:"emergencyNumber"`
	EmergencyText   string `json:"emergencyText"`
}

// Rules are the numbers a phone looks readings up by; all of them are the core's.
type Rules struct {
	Slower     int `json:"slower" doc:"Pain in a set from which it goes slower"`
	EndsSet    int `json:"endsExercise" doc:"Pain that ends the exercise"`
	EndsAll    int `json:"endsSession" doc:"Pain that ends the session and asks the safety questions"`
	QuietDays  int `json:"quietDays" doc:"After so many days without contact only release, range and steer are shown"`
	RestSevere int `json:"restSevere" doc:"Pain at rest that a clinician looks at"`
}

// Zone is a place of the map with the groups of questions it asks.
type Zone struct {
	ID     screening.Zone `json:"id"`
	Name   string         `json:"name"`
	Groups []string       `json:"groups" nullable:"false"`
}

// Place is where a morning is asked, with what is usual and known there.
type Place struct {
	Zone  string     `json:"zone,omitempty"`
	Side  body.Side  `json:"side,omitempty" enum:"left,right,"`
	Name  string     `json:"name"`
	Usual float64    `json:"usual"`
	Known []KnownDay `json:"known" nullable:"false" doc:"The last two weeks, the oldest first"`
}

// KnownDay is a reading of first steps.
type KnownDay struct {
	On        day.Date `json:"on" format:"date"`
	FirstStep int      `json:"firstStep"`
}

// Text is an exercise as somebody alone on a mat needs it.
type Text struct {
	Name     string         `json:"name"`
	SetUp    string         `json:"setUp"`
	Cues     []string       `json:"cues" nullable:"false"`
	Mistakes []string       `json:"mistakes" nullable:"false"`
	Cautions []string       `json:"cautions" nullable:"false"`
	Picture  *view.Picture  `json:"picture,omitempty"`
	Motion   *figure.Motion `json:"motion,omitempty"`
}

// Day is one date on the phone.
type Day struct {
	On       day.Date         `json:"on" format:"date"`
	Run      planning.RunKind `json:"run,omitempty"`
	Runs     string           `json:"runs,omitempty" doc:"The day's runs in words"`
	RunNote  string           `json:"runNote,omitempty" doc:"Why a run does not stand, or stands easier"`
	Race     bool             `json:"race,omitempty"`
	Retest   string           `json:"retest,omitempty"`
	Ramp     []view.RampDay   `json:"ramp" nullable:"false"`
	Sessions []Sitting        `json:"sessions" nullable:"false"`
	Logged   bool             `json:"logged" doc:"A session of the day is with the coach"`
}

// Sitting is one session of a day.
type Sitting struct {
	Kind    planning.SessionKind `json:"kind"`
	Name    string               `json:"name"`
	When    string               `json:"when,omitempty"`
	Minutes int                  `json:"minutes"`
	Litmus  bool                 `json:"litmus,omitempty" doc:"Ten steps on heels and toes, before and after"`
	Routine *view.RoutineSitting `json:"routine,omitempty" doc:"Set where it is a routine, given whole"`
	Items   []Item               `json:"items" nullable:"false"`
}

// Item is one ladder in a session.
type Item struct {
	PrescriptionID string            `json:"prescriptionId"`
	Ladder         string            `json:"ladder"`
	Name           string            `json:"name"`
	Purpose        catalogue.Purpose `json:"purpose"`
	Effort         catalogue.Effort  `json:"effort" enum:"reserve,twenty,none"`
	Together       bool              `json:"together" doc:"Both sides at once"`
	EndsAt         int               `json:"endsAt" doc:"Pain, or soreness of a spot, that ends the exercise"`
	SlowerAt       int               `json:"slowerAt" doc:"From which it goes slower, or eases"`
	EndsAll        bool              `json:"endsAll" doc:"Pain of rules.endsSession in it ends the session; a sore spot's does not"`
	Walk           bool              `json:"walk" doc:"A walk on heels and toes is set against it, before and after"`
	Note           string            `json:"note,omitempty"`
	Limits         string            `json:"limits,omitempty"`
	Sides          []ItemSide        `json:"sides" nullable:"false" doc:"Those that are done; one, both, where it is done together"`
}

// ItemSide is what one side does, and what it would do one and two notches lower.
type ItemSide struct {
	Side     body.Side        `json:"side" enum:"left,right,both"`
	Steps    []Step           `json:"steps" nullable:"false" doc:"As planned, one lower, two lower; fewer where there are fewer"`
	Morning  map[string]steps `json:"morning,omitempty" doc:"By place: notches lower for each first-step reading, −1 for closed"`
	ClosedBy []string         `json:"closedBy" nullable:"false" doc:"Questions whose yes closes it"`
}

// Step is a dose in numbers and words.
type Step struct {
	Notch       int              `json:"notch"`
	Exercise    string           `json:"exercise"`
	Words       string           `json:"words"`
	Tempo       string           `json:"tempo,omitempty"`
	Load        string           `json:"load,omitempty"`
	Dose        catalogue.Dose   `json:"dose"`
	RestSeconds int              `json:"restSeconds"`
	Calls       []catalogue.Call `json:"calls" nullable:"false" doc:"What is called out in the hold of a set"`
}

// Rail is how a ladder stands.
type Rail struct {
	Name    string         `json:"name"`
	Notches int            `json:"notches"`
	Pegs    []view.PegView `json:"pegs" nullable:"false"`
	Words   string         `json:"words" doc:"What is done now"`
	Last    string         `json:"last,omitempty" doc:"What last moved it, and why"`
}

// Kilometres is a week of running.
type Kilometres struct {
	Monday day.Date `json:"monday" format:"date"`
	Metres int      `json:"metres"`
	Runs   int      `json:"runs"`
}

// What a phone carries of days, and after how long a silence it shows less (house).
const (
	daysBack   = 14
	daysAhead  = 21
	knownDays  = 14
	weeksShown = 6
	silentDays = 8
	movedShown = 12
)

// PlanOf makes the plan of the runner of a phone.
func (a *Pockets) PlanOf(ctx context.Context, act app.Actor) (Plan, error) {
	var out Plan
	if err := a.CatchUp(ctx, act, act.Runner); err != nil {
		return out, err
	}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		k, err := a.Open(ctx, tx, act, act.Runner, nil)
		if err != nil {
			return err
		}
		out, err = a.plan(ctx, k, act)
		return err
	})
	return out, err
}

func (a *Pockets) plan(ctx context.Context, k *record.Desk, act app.Actor) (Plan, error) {
	age := record.AgeOn(record.PersonOf(k.D.Runner), k.Today)
	p, l := k.Practice, k.Language()
	out := Plan{
		At: a.Now(), Today: k.Today, Zone: act.User.Zone, Language: l, Units: p.Units, FirstName: FirstName(k.D.Runner.Name), Practice: Contact{p.Name, p.Contact, p.EmergencyNumber, p.EmergencyText},
		From: k.Today, To: k.Today, Days: []Day{}, Texts: map[string]Text{}, Rails: []Rail{}, Places: []Place{}, Minimum: []view.MinimumView{}, Strong: []string{}, Quiet: []string{}, Paused: []record.PausedView{},
		Caps: []string{}, Flags: []string{}, Care: l.Care(k.Book.Flags(), p.EmergencyNumber, p.EmergencyText), IfCare: ifCare(k), Cautions: l.Texts(safety.Cautions), Asks: k.AsksIn(l), Questions: l.Questions(safety.Questions(age, k.Rows.Own...)), Emergency: []string{}, NoRunIf: []string{},
		Zones: []Zone{}, Choices: choices(l), Weeks: []Kilometres{}, Moved: []string{}, Auto: k.D.Runner.AutoProgress,
		Rules: Rules{Slower: adjust.SlowerFrom, EndsSet: adjust.EndsFrom, EndsAll: int(safety.SevereAt), QuietDays: silentDays, RestSevere: int(safety.SevereRest)},
	}
	advice := k.AdviceNow()
	out.Advice, out.AdviceWhy = words.Advice(advice), words.AdviceWhy(advice)
	for _, f := range k.Book.Flags() {
		out.Flags = append(out.Flags, words.Flag(f))
	}
	for _, z := range screening.Zones {
		asks := safety.GroupsFor(z.ID)
		if len(safety.Asked(k.Rows.Own, age)) > 0 {
			asks = append(asks, safety.OwnGroup)
		}
		out.Zones = append(out.Zones, Zone{z.ID, l.Text(z.Name), l.Texts(asks)})
	}
	for _, g := range out.Questions {
		for _, q := range g.Questions {
			for _, s := range safety.Raise(k.Today, safety.Answers{Yes: map[string]body.Side{q.ID: body.Both}, Own: k.Rows.Own}, nil, nil) {
				if s.Level == safety.Emergency {
					out.Emergency = append(out.Emergency, q.ID)
				}
				if s.ClosesRunning() {
					out.NoRunIf = append(out.NoRunIf, q.ID)
				}
			}
		}
	}
	out.places(k)
	out.weeks(k)
	if k.F == nil {
		return out, nil
	}
	return out, out.block(ctx, k.F)
}

// ifCare is the page of an emergency before anybody knows which it is.
func ifCare(k *record.Desk) words.Care {
	c := k.Language().Care([]safety.Standing{{Level: safety.Emergency}}, k.Practice.EmergencyNumber, k.Practice.EmergencyText)
	c.Signs = []string{}
	return *c
}

// choices are what a log offers, in the runner's words.
func choices(l words.Language) adjust.Choices {
	c := adjust.SaidAs()
	for _, list := range [][]adjust.Choice{c.Done, c.Compensated} {
		for i := range list {
			list[i].Words = l.Text(list[i].Words)
		}
	}
	return c
}

// key names a place.
func (p Place) key() string { return p.Zone + "/" + string(p.Side) }

func (out *Plan) places(k *record.Desk) {
	add := func(zone screening.Zone, side body.Side, name string, tissues []body.Tissue) {
		p := Place{Zone: string(zone), Side: side, Name: name, Known: []KnownDay{}, Usual: k.Book.Readings(tissues, side).Baseline(k.Today)}
		if slices.ContainsFunc(out.Places, func(x Place) bool { return x.key() == p.key() }) {
			return
		}
		for _, m := range k.Rows.Mornings {
			if on := app.DateOf(m.On); m.Zone == p.Zone && m.Side == string(p.Side) && m.FirstStep != nil && on > k.Today-knownDays && on <= k.Today+1 {
				p.Known = append(p.Known, KnownDay{on, *m.FirstStep})
			}
		}
		out.Places = append(out.Places, p)
	}
	l := k.Language()
	add("", "", l.Text("in general"), course.FootTissues)
	for _, c := range k.Book.Complaints() {
		name := l.Text(c.Zone.Name())
		if c.Side != "" {
			name += ", " + l.Text(string(c.Side))
		}
		add(c.Zone, c.Side, name, c.Zone.Tissues())
	}
}

func (out *Plan) weeks(k *record.Desk) {
	monday := k.Today.Monday() - 7*(weeksShown-1)
	for m := monday; m <= k.Today; m += 7 {
		w := Kilometres{Monday: m}
		for _, r := range k.G.Runs {
			if r.On.Monday() == m {
				w.Metres += r.Metres
				w.Runs++
			}
		}
		out.Weeks = append(out.Weeks, w)
	}
}

func (out *Plan) block(ctx context.Context, f *record.Frame) error {
	b, err := view.BlockOf(f)
	if err != nil {
		return err
	}
	out.Block, out.From, out.To = f.Block.ID, f.Start, f.End()
	out.Minimum, out.Paused, out.Caps = b.Minimum, b.Paused, b.Caps
	ahead := map[string]foreseen{}
	for _, p := range out.Places {
		if ahead[p.key()], err = foresee(ctx, f, p.Zone, p.Side, f.Today+1); err != nil {
			return err
		}
	}
	closed := map[seat][]string{}
	for _, w := range b.Weeks {
		for _, d := range w.Days {
			if !d.In || d.On < f.Today-daysBack || d.On > f.Today+daysAhead {
				continue
			}
			x := Day{On: d.On, Run: d.Run, Runs: f.Language().Text(d.Runs), RunNote: d.NoRun, Race: d.Race, Retest: d.Retest, Ramp: d.Ramp, Sessions: []Sitting{}, Logged: d.Logged}
			for _, s := range d.Sessions {
				x.Sessions = append(x.Sessions, out.sitting(f, d.On, s, ahead, closed))
			}
			out.Days = append(out.Days, x)
		}
	}
	for _, p := range b.Prescriptions {
		if p.LeftOut != "" || p.ByRamp || p.Routine != "" {
			continue
		}
		open := slices.ContainsFunc(p.Today, func(s view.NotchState) bool { return s.State != planning.Closed && s.Notch > 0 })
		if open && slices.Contains([]catalogue.Purpose{catalogue.ForRelease, catalogue.ForRange, catalogue.ForSteer}, p.Purpose) {
			out.Quiet = append(out.Quiet, p.ID)
			out.Strong = append(out.Strong, p.Name)
		}
		r := Rail{Name: f.Language().Text(p.Name), Notches: len(p.Notches), Pegs: p.Pegs, Words: p.Notches[max(0, p.Pegs[0].Notch-1)].Words}
		if len(p.Latest) > 0 {
			r.Last = p.Latest[0].Sentence
		}
		out.Rails = append(out.Rails, r)
	}
	for _, d := range b.Decisions {
		if len(out.Moved) < movedShown && (d.Decision.Verdict != adjust.Hold) {
			out.Moved = append(out.Moved, d.On.Words()+" · "+d.Sentence)
		}
	}
	return nil
}

func (out *Plan) sitting(f *record.Frame, on day.Date, s view.SessionView, ahead map[string]foreseen, closed map[seat][]string) Sitting {
	say := f.Language()
	v := Sitting{Kind: s.Kind, Name: say.Text(s.Name), When: say.Text(s.When), Minutes: s.Minutes, Routine: s.Routine, Items: []Item{}}
	for _, d := range s.Doses {
		p := f.PrescriptionOf(d.PrescriptionID)
		l := f.Ladders[p.ID]
		it := Item{PrescriptionID: p.ID, Ladder: d.Ladder, Name: say.Text(d.Name), Purpose: l.Purpose, Effort: l.Effort, Note: d.Note, Limits: d.Limits, Sides: []ItemSide{}}
		n, _ := f.NotchOn(p, body.Left, on)
		it.Together = n.Together() && d.Same
		it.Walk = planning.Walked(l)
		it.SlowerAt, it.EndsAt, it.EndsAll = adjust.SlowerFrom, adjust.EndsFrom, true
		if l.Purpose == catalogue.ForRelease { // a spot that is pressed may be sore
			it.SlowerAt, it.EndsAt, it.EndsAll = adjust.EndsFrom, int(safety.SevereAt), false
		}
		v.Litmus = v.Litmus || it.Walk
		for _, side := range body.Sides {
			if f.Shut(p, side, on) || it.Together && side == body.Right {
				continue
			}
			x := ItemSide{Side: side, Steps: []Step{}, Morning: map[string]steps{}}
			at := f.Asked(p, side, on)
			for lower := range 3 {
				if at-lower < 1 {
					break
				}
				n, _ := f.NotchOn(p, side, on)
				if lower > 0 {
					n = l.At(at - lower)
					n.Dose = planning.DoseIn(n.Dose, planning.KindOf(f.Start, f.Plan.Wishes.Race, on))
					if f.Book.May(l, at-lower, side).State == planning.Closed {
						break
					}
				}
				x.Steps = append(x.Steps, out.step(f, at-lower, n))
			}
			for key, a := range ahead {
				if t := a[seat{p.ID, side}]; t.any() {
					x.Morning[key] = t
				}
			}
			at2 := seat{p.ID, side}
			if _, known := closed[at2]; !known {
				closed[at2] = closers(l.At(at).Kinds(), side, f.Today, out.Questions, f.Rows.Own)
			}
			x.ClosedBy = closed[at2]
			if it.Together {
				x.Side = body.Both
			}
			it.Sides = append(it.Sides, x)
		}
		v.Items = append(v.Items, it)
	}
	return v
}

func (out *Plan) step(f *record.Frame, at int, n catalogue.Notch) Step {
	e := n.Exercise
	if _, known := out.Texts[e.ID]; !known {
		out.Texts[e.ID] = Text{Name: e.Name, SetUp: e.SetUp, Cues: e.Cues, Mistakes: append([]string{}, e.Mistakes...), Cautions: append([]string{}, e.Cautions...), Picture: view.PictureOf(f.Layers, e), Motion: view.MotionOf(f.Layers, e)}
	}
	d := n.Dose
	d.BodyPercent = math.Round(d.BodyPercent*10) / 10
	return Step{Notch: at, Exercise: e.ID, Words: words.Notch(n), Tempo: words.Tempo(n.Dose), Load: f.Kilograms(n.Dose), Dose: d, RestSeconds: n.Rest(), Calls: n.Calls()}
}
