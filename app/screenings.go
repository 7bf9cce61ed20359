package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"notchback/core/load"
	"slices"

	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/measure"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/source"
	"notchback/core/words"
	"notchback/store"
)

// ScreeningInput opens a screening.
type ScreeningInput struct {
	On       *day.Date `json:"on,omitempty" format:"date" doc:"Today when missing"`
	Footwear string    `json:"footwear,omitempty" maxLength:"120"`
	Note     string    `json:"note,omitempty" maxLength:"2000"`
}

// TrialInput is one trial as typed. For the big toe a block height and toe
// length can stand in for the value; for crossing over a count of steps.
type TrialInput struct {
	screening.Trial
	BlockCm    *float64 `json:"blockCm,omitempty" doc:"Block height under the toe pad, cm"`
	LengthCm   *float64 `json:"lengthCm,omitempty" doc:"From the crease at the ball to the block's edge, cm"`
	AlongFloor bool     `json:"alongFloor,omitempty" doc:"The length was taken along the floor, not along the toe"`
}

// SavedTrial is a trial in its place. Slots 1 to 5 are the first look, 6 to 9
// the look after a routine in the same visit.
type SavedTrial struct {
	TrialInput
	Test screening.TestID `json:"test"`
	Side body.Side        `json:"side" enum:"left,right,both"`
	Slot int              `json:"slot"`
}

// afterFrom is the first slot of a re-test within the visit; lastSlot the last.
const (
	afterFrom = 6
	lastSlot  = 9
)

// Say is what a test's row says in words.
type Say struct {
	Left   string `json:"left"`
	Right  string `json:"right"`
	Centre string `json:"centre"`
}

// Against is a comparison with another look at the same test.
type Against struct {
	On    day.Date         `json:"on" format:"date"`
	Left  screening.Retest `json:"left"`
	Right screening.Retest `json:"right"`
	Say   Say              `json:"say"`
	Was   screening.Result `json:"was"`
}

// JudgedResult is a result with its sentences.
type JudgedResult struct {
	screening.Result
	Say      Say               `json:"say"`
	After    *screening.Result `json:"after,omitempty" doc:"The look after a routine in the same visit"`
	AfterSay *Say              `json:"afterSay,omitempty"`
	Since    *Against          `json:"since,omitempty" doc:"Against the visit before"`
}

// Judge reduces the trials of both sides of one test and says what they show.
func Judge(t screening.Test, left, right []screening.Trial, age screening.Age) JudgedResult {
	r := screening.Reduce(t, left, right, age)
	return JudgedResult{Result: r, Say: Say{words.Verdict(t, r.Left), words.Verdict(t, r.Right), words.Asymmetry(t, r)}}
}

func against(t screening.Test, on day.Date, was, now screening.Result) *Against {
	a := Against{On: on, Was: was, Left: screening.CompareDates(t, was.Left, now.Left), Right: screening.CompareDates(t, was.Right, now.Right)}
	a.Say = Say{Left: words.Retest(t, a.Left), Right: words.Retest(t, a.Right)}
	if a.Say.Left == "" && a.Say.Right == "" {
		return nil
	}
	return &a
}

// Talk is what the runner says at the start.
type Talk struct {
	Complaints        []screening.Complaint `json:"complaints" nullable:"false" maxItems:"30"`
	Flags             safety.Answers        `json:"flags"`
	OuterAnkleHistory []body.Side           `json:"outerAnkleHistory,omitempty" maxItems:"2"`
	Training          string                `json:"training,omitempty" maxLength:"2000"`
	Shoes             string                `json:"shoes,omitempty" maxLength:"2000"`
	RunsPerWeek       *float64              `json:"runsPerWeek,omitempty" minimum:"0" maximum:"21"`
	LongestRunKm      *float64              `json:"longestRunKm,omitempty" minimum:"0" maximum:"250" doc:"Longest run in 30 days"`
	FootMinutesPerDay *float64              `json:"footMinutesPerDay,omitempty" minimum:"0" maximum:"240"`
	BarefootHours     *float64              `json:"barefootHoursPerDay,omitempty" minimum:"0" maximum:"24"`
	ShoeDropMm        *float64              `json:"shoeDropMm,omitempty" minimum:"-10" maximum:"40"`
	ShoeStackMm       *float64              `json:"shoeStackMm,omitempty" minimum:"0" maximum:"80"`
	Insoles           *bool                 `json:"insoles,omitempty"`
	HeightCm          *float64              `json:"heightCm,omitempty" minimum:"80" maximum:"220" doc:"Under 18: height now"`
	HeightBeforeCm    *float64              `json:"heightBeforeCm,omitempty" minimum:"80" maximum:"220" doc:"Height some months ago"`
	HeightMonths      *float64              `json:"heightMonths,omitempty" minimum:"0.5" maximum:"24" doc:"Months between the two"`
	SportHours        *float64              `json:"sportHours,omitempty" minimum:"0" maximum:"60" doc:"Hours of sport a week"`
	HardHours         *float64              `json:"hardHours,omitempty" minimum:"0" maximum:"60" doc:"Of them on hard floor"`
	DayOff            *bool                 `json:"dayOff,omitempty" doc:"One day a week without sport"`
	GuardianConsent   bool                  `json:"guardianConsent,omitempty" doc:"A guardian agreed; needed under 18"`
}

// Conditions are how the run and the reaches were taken.
type Conditions struct {
	SpeedKmh    *float64 `json:"speedKmh,omitempty" minimum:"3" maximum:"30"`
	InclinePct  *float64 `json:"inclinePercent,omitempty" minimum:"-15" maximum:"25"`
	Surface     string   `json:"surface,omitempty" maxLength:"80"`
	Shoes       string   `json:"shoes,omitempty" maxLength:"120"`
	WarmMinutes *float64 `json:"warmMinutes,omitempty" minimum:"0" maximum:"120"`
	LegLeftCm   *float64 `json:"legLeftCm,omitempty" minimum:"40" maximum:"130"`
	LegRightCm  *float64 `json:"legRightCm,omitempty" minimum:"40" maximum:"130"`
}

// ClearanceView is a clearance with whether it runs.
type ClearanceView struct {
	safety.Clearance
	Runs bool `json:"runs"`
	Soon bool `json:"soon" doc:"Ends within seven days"`
}

// Screening is one visit with everything measured so far.
type Screening struct {
	ID         string              `json:"id"`
	RunnerID   string              `json:"runnerId"`
	RunnerName string              `json:"runnerName"`
	RunnerAge  *int                `json:"runnerAge,omitempty"`
	Minor      bool                `json:"minor" doc:"Under 18, or age not known"`
	On         day.Date            `json:"on" format:"date"`
	Footwear   string              `json:"footwear"`
	Note       string              `json:"note"`
	Finished   bool                `json:"finished"`
	Imported   bool                `json:"imported,omitempty" doc:"Taken elsewhere, and brought in"`
	Trials     []SavedTrial        `json:"trials" nullable:"false"`
	Results    []JudgedResult      `json:"results" nullable:"false" doc:"One for each test, in their order"`
	Findings   []screening.Finding `json:"findings" nullable:"false"`
	Talk       Talk                `json:"talk"`
	Conditions Conditions          `json:"conditions"`
	Choices    []screening.Choice  `json:"choices" nullable:"false"`
	Waivers    []safety.Waiver     `json:"waivers" nullable:"false"`
	Revisions  map[string]int      `json:"revisions" doc:"Of each part; sent back when saving it"`
	Questions  []safety.Group      `json:"questions" nullable:"false" doc:"The safety questions for this runner's age"`
	Unasked    []string            `json:"unasked" nullable:"false" doc:"Groups of safety questions without an answer"`
	Flags      []FlagView          `json:"flags" nullable:"false" doc:"All flags of the runner; cleared says whether a clearance runs"`
	Clearances []ClearanceView     `json:"clearances" nullable:"false"`
	Gates      []safety.GateState  `json:"gates" nullable:"false"`
	Reach      []screening.Reach   `json:"reach" nullable:"false" doc:"Composite of the four-way reach, where leg lengths are known"`
	OwnNoise   []string            `json:"ownNoise" nullable:"false" doc:"Tests judged with the coach's own noise"`
	CantWaive  map[string]string   `json:"cantWaive" doc:"Gates that can't be waived, and why"`
	Cautions   []string            `json:"cautions" nullable:"false"`
}

func ageOn(p body.Person, on day.Date) screening.Age {
	years, known := p.AgeOn(on)
	return screening.Age{Years: years, Known: known}
}

// resolve turns a block entry into degrees, a count into per cent, and checks
// the trial.
func (in TrialInput) resolve(t screening.Test) (screening.Trial, error) {
	tr := in.Trial
	if in.BlockCm != nil || in.LengthCm != nil {
		if !t.Block {
			return tr, Invalid{{"blockCm", "this test takes no block"}}
		}
		if in.BlockCm == nil || in.LengthCm == nil {
			return tr, Invalid{{"blockCm", "block height and toe length are needed together"}}
		}
		v, err := measure.ToeFromBlock(*in.BlockCm, *in.LengthCm, in.AlongFloor)
		if err != nil {
			return tr, Invalid{{"blockCm", err.Error()}}
		}
		tr.Value = &v
	}
	if tr.Count != nil && tr.Of != nil && *tr.Of > 0 {
		v := 100 * float64(*tr.Count) / float64(*tr.Of)
		tr.Value = &v
	}
	var fe *screening.FieldError
	if err := t.Check(tr); errors.As(err, &fe) {
		return tr, Invalid{{fe.Field, fe.Message}}
	}
	return tr, nil
}

// ResolveTrial checks a trial against its test and returns it with its value.
func ResolveTrial(t screening.Test, in TrialInput) (screening.Trial, error) { return in.resolve(t) }

// visitsBack is how far back a screening may lie, in days: twenty years (house).
const visitsBack = 20 * 366

// StartScreening opens a screening for a runner.
func (a *App) StartScreening(ctx context.Context, act Actor, key, runner string, in ScreeningInput) (Screening, error) {
	today := a.Today(act)
	on := today
	if in.On != nil {
		on = *in.On
	}
	if on > today {
		return Screening{}, Invalid{{"on", on.String() + " is in the future"}}
	}
	if on < today-visitsBack {
		return Screening{}, Invalid{{"on", on.String() + " is too long ago"}}
	}
	var out Screening
	err := a.write(ctx, act, func(tx *store.Tx) (err error) {
		out, err = once(ctx, a, tx, act, asked{"startScreening", runner, key}, in, func() (Screening, error) {
			if _, err := tx.Runner(ctx, runner); err != nil {
				return Screening{}, err
			}
			s, err := tx.AddScreening(ctx, store.Screening{RunnerID: runner, On: on.Time(), Footwear: in.Footwear, Note: in.Note}, act.User.ID)
			if err != nil {
				return Screening{}, err
			}
			if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "screening", "Screening started", nil); err != nil {
				return Screening{}, err
			}
			return a.loadScreening(ctx, tx, act, s.ID)
		})
		return err
	})
	return out, err
}

// dossier is all of a runner's screenings with what stands on them.
type dossier struct {
	runner     store.Runner
	visits     []Screening   // newest first
	course     course.Visits // the same as values
	clearances []safety.Clearance
	engine     []safety.Standing // flags raised by readings, and told between visits
	told       []safety.Standing
	noise      map[screening.TestID]screening.Noise
	today      day.Date
}

// newDossier makes the dossier of a runner's rows.
func newDossier(rows *record.Rows, noise map[screening.TestID]screening.Noise, today day.Date) (*dossier, error) {
	d := &dossier{runner: rows.Runner, today: today, noise: noise}
	for _, c := range rows.Clearances {
		d.clearances = append(d.clearances, safety.Clearance{Flag: safety.FlagID(c.Flag), On: dateOf(c.On), Role: c.Role, Allowed: c.Allowed, Until: dateOf(c.Until)})
	}
	for _, s := range rows.Screenings {
		v, err := d.visit(s, rows.Trials, rows.Parts)
		if err != nil {
			return nil, err
		}
		d.visits = append(d.visits, v)
	}
	for i := range d.visits {
		d.course = append(d.course, d.value(i, rows))
	}
	days, err := rows.Days()
	if err != nil {
		return nil, err
	}
	d.told = course.Told(days, d.course, func(on day.Date) screening.Age { return ageOn(personOf(d.runner), on) })
	d.raised(rows)
	d.finish()
	return d, nil
}

// raised takes over the flags that readings raised.
func (d *dossier) raised(rows *record.Rows) {
	d.engine = nil
	for _, f := range rows.Flags {
		if f.EndedOn == nil || dateOf(*f.EndedOn) > d.today {
			d.engine = append(d.engine, record.Standing(f))
		}
	}
	d.engine = append(d.engine, d.told...)
}

// value is a visit as the rules see it, with its findings.
func (d *dossier) value(i int, rows *record.Rows) course.Visit {
	v := &d.visits[i]
	out := course.Visit{ID: v.ID, On: v.On, Finished: v.Finished, Age: ageOn(personOf(d.runner), v.On), Groups: v.Questions, Answers: v.Talk.Flags, Complaints: v.Talk.Complaints, Waivers: v.Waivers, OldAnkle: v.Talk.OuterAnkleHistory,
		Growth: course.Growth{HeightCm: v.Talk.HeightCm, BeforeCm: v.Talk.HeightBeforeCm, MonthsApart: v.Talk.HeightMonths, SportHours: v.Talk.SportHours, HardHours: v.Talk.HardHours, DayOff: v.Talk.DayOff}}
	for _, r := range v.Results {
		out.Results = append(out.Results, r.Result)
	}
	v.Findings = screening.Findings(screening.Input{Results: out.Results, Complaints: v.Talk.Complaints, OuterAnkleHistory: v.Talk.OuterAnkleHistory, Choices: v.Choices, LoadSpike: jumped(rows, v.On)})
	out.Findings = v.Findings
	out.Arrival = rows.VisitArrival(v.ID)
	return out
}

// jumped reports that running jumped in the week of a visit, or on a run of it.
func jumped(rows *record.Rows, on day.Date) bool {
	v := load.Volume{On: on}
	for _, r := range rows.Runs {
		if x := record.CoreRun(r); x.On <= on {
			v.Runs = append(v.Runs, x)
		}
	}
	if km := rows.Runner.WeeklyKm; km != nil {
		m := int(math.Round(*km * 1000))
		v.Intake = &m
	}
	return len(v.Runs) > 0 && load.State(v).Class == load.Spike
}

// ownNoise is a coach's own typical error.
func ownNoise(sem float64, pairs int) screening.Noise {
	return screening.Noise{SEM: sem, Source: source.House(fmt.Sprintf("your own, from %d pairs", pairs))}
}

func (d *dossier) test(t screening.Test) screening.Test {
	if n, ok := d.noise[t.ID]; ok {
		return t.WithNoise(n)
	}
	return t
}

func (d *dossier) visit(s store.Screening, trials []store.Trial, parts []store.Part) (Screening, error) {
	out := Screening{
		ID: s.ID, RunnerID: s.RunnerID, RunnerName: d.runner.Name, On: dateOf(s.On), Footwear: s.Footwear, Note: s.Note,
		Finished: s.FinishedAt != nil, Imported: s.Imported, Trials: []SavedTrial{}, Choices: []screening.Choice{}, Waivers: []safety.Waiver{}, Revisions: map[string]int{},
		Reach: []screening.Reach{}, OwnNoise: []string{}, Cautions: safety.Cautions,
	}
	for id := range d.noise {
		out.OwnNoise = append(out.OwnNoise, string(id))
	}
	slices.Sort(out.OwnNoise)
	out.Talk = Talk{Complaints: []screening.Complaint{}, Flags: safety.Answers{Yes: map[string]body.Side{}, None: []string{}}}
	for _, p := range parts {
		if p.ScreeningID != s.ID {
			continue
		}
		out.Revisions[p.Part] = p.Rev
		into := map[string]any{"talk": &out.Talk, "conditions": &out.Conditions, "choices": &out.Choices, "waivers": &out.Waivers}[p.Part]
		if err := json.Unmarshal(p.Body, into); err != nil {
			return out, fmt.Errorf("part %s: %w", p.Part, err)
		}
	}
	age := ageOn(personOf(d.runner), out.On)
	if age.Known {
		out.RunnerAge = &age.Years
	}
	out.Minor = !age.Known || age.Years < safety.Adult
	out.Questions = safety.Questions(age)
	type look struct {
		id    screening.TestID
		side  body.Side
		after bool
	}
	at := map[look][]screening.Trial{}
	for _, t := range trials {
		if t.ScreeningID != s.ID {
			continue
		}
		st := SavedTrial{Test: screening.TestID(t.Test), Side: body.Side(t.Side), Slot: t.Slot, TrialInput: TrialInput{
			Trial:   screening.Trial{Value: t.Value, Pain: t.Pain, SharpPain: t.SharpPain, Compensations: t.Compensations, Count: t.Count, Of: t.Of, Resolution: t.Resolution, CrampAt: t.CrampAt},
			BlockCm: t.BlockCm, LengthCm: t.LengthCm, AlongFloor: t.AlongFloor,
		}}
		out.Trials = append(out.Trials, st)
		k := look{st.Test, st.Side, st.Slot >= afterFrom}
		judged := st.Trial
		judged.BoneZone = screening.HurtsInBone(out.Talk.Complaints, st.Side)
		at[k] = append(at[k], judged)
	}
	for _, t := range screening.Tests() {
		t = d.test(t)
		first := body.Left
		if !t.Sided {
			first = body.Both
		}
		j := Judge(t, at[look{t.ID, first, false}], at[look{t.ID, body.Right, false}], age)
		if l, r := at[look{t.ID, first, true}], at[look{t.ID, body.Right, true}]; len(l)+len(r) > 0 {
			after := Judge(t, l, r, age)
			j.After = &after.Result
			if ag := against(t, out.On, j.Result, after.Result); ag != nil {
				j.AfterSay = &ag.Say
			}
		}
		out.Results = append(out.Results, j)
	}
	if c := out.Conditions; c.LegLeftCm != nil && c.LegRightCm != nil {
		out.Reach = reaches(out.Results, *c.LegLeftCm, *c.LegRightCm)
	}
	return out, nil
}

func reaches(rs []JudgedResult, left, right float64) []screening.Reach {
	out := []screening.Reach{}
	for _, side := range body.Sides {
		var cm [4]float64
		n := 0
		for i, id := range []screening.TestID{screening.ReachForward, screening.ReachSide, screening.ReachBack, screening.ReachCrossed} {
			j := slices.IndexFunc(rs, func(r JudgedResult) bool { return r.Test == id })
			if s := rs[j].Side(side); s.Measured() {
				cm[i] = *s.Value
				n++
			}
		}
		leg := left
		if side == body.Right {
			leg = right
		}
		if r, ok := screening.ReachComposite(side, cm, leg); ok && n == len(cm) {
			out = append(out, r)
		}
	}
	return out
}

// answers joins the answers of all visits up to one: for each group the newest
// in which it was asked. A flag is only lifted by asking its group anew.
// flags returns all flags of the runner as visit i sees them.
func (d *dossier) flags(i int) []safety.Standing { return append(d.course.Flags(i), d.engine...) }

// standingFlags returns the flags that hold today, with those cleared left out.
func (d *dossier) standingFlags() []safety.Standing {
	if len(d.visits) == 0 {
		return safety.Stand(d.today, d.engine, d.clearances)
	}
	return safety.Stand(d.today, d.flags(0), d.clearances)
}

// evidence gathers what gates are decided on, as of a date.
func (d *dossier) evidence(i int, on day.Date) safety.Evidence {
	flags := d.standingFlags()
	if i < len(d.visits) {
		flags = safety.Stand(d.today, d.flags(i), d.clearances)
	}
	return d.course.Evidence(i, on, ageOn(personOf(d.runner), on), flags)
}

// finish adds to every visit what needs the others: comparison with the visit
// before, findings, flags and gates.
func (d *dossier) finish() {
	for i := range d.visits {
		v := &d.visits[i]
		for j := range v.Results {
			r := &v.Results[j]
			for _, older := range d.visits[i+1:] {
				if was := older.Results[j].Result; older.Finished && (was.Left.Measured() || was.Right.Measured()) {
					t, _ := screening.Find(r.Test)
					r.Since = against(d.test(t), older.On, was, r.Result)
					break
				}
			}
		}
		e := d.evidence(i, v.On)
		v.Unasked = d.course.Answers(i).Unasked(e.Age)
		v.Gates = safety.Gates(e)
		v.CantWaive = map[string]string{}
		for _, g := range v.Gates {
			if why := safety.MayWaive(e, g.Gate); why != "" {
				v.CantWaive[string(g.Gate)] = why
			}
		}
		v.Flags = []FlagView{}
		for _, f := range d.flags(i) {
			cleared := !slices.ContainsFunc(safety.Stand(d.today, []safety.Standing{f}, d.clearances), func(s safety.Standing) bool { return s.Flag == f.Flag })
			v.Flags = append(v.Flags, FlagView{Standing: f, Text: words.Flag(f), Cleared: cleared})
		}
		v.Clearances = []ClearanceView{}
		for _, c := range d.clearances {
			runs := c.On <= d.today && d.today <= c.Until
			v.Clearances = append(v.Clearances, ClearanceView{c, runs, runs && int(c.Until-d.today) <= safety.WarnDays})
		}
	}
}

func (a *App) loadScreening(ctx context.Context, tx *store.Tx, act Actor, id string) (Screening, error) {
	s, err := tx.Screening(ctx, id)
	if err != nil {
		return Screening{}, err
	}
	d, err := a.loadDossier(ctx, tx, act, s.RunnerID)
	if err != nil {
		return Screening{}, err
	}
	i := slices.IndexFunc(d.visits, func(v Screening) bool { return v.ID == id })
	if i < 0 {
		return Screening{}, ErrNotFound
	}
	return d.visits[i], nil
}

// Screening returns one screening with its results and findings.
func (a *App) Screening(ctx context.Context, act Actor, id string) (Screening, error) {
	var out Screening
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		out, err = a.loadScreening(ctx, tx, act, id)
		return err
	})
	return out, err
}

// Screenings lists a runner's screenings, newest first, each with its results.
func (a *App) Screenings(ctx context.Context, act Actor, runner string) ([]Screening, error) {
	out := []Screening{}
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		d, err := a.loadDossier(ctx, tx, act, runner)
		if err == nil && d.visits != nil {
			out = d.visits
		}
		return err
	})
	return out, err
}

// PutTrial saves a trial in its slot and returns the screening. A finished
// screening asks for a reason; the earlier reading stays in the record.
func (a *App) PutTrial(ctx context.Context, act Actor, id string, test screening.TestID, side body.Side, slot int, in *TrialInput, reason string) (Screening, error) {
	t, rec, err := trialRecord(id, test, side, slot, in)
	if err != nil {
		return Screening{}, err
	}
	return a.changeScreening(ctx, act, id, reason, t.Name+", "+string(side), rec, func(tx *store.Tx, before Screening) error {
		if in != nil {
			if why := closedTest(t, before); why != "" {
				return Refused(why)
			}
		}
		if err := tx.DropOrigin(ctx, rec); err != nil {
			return err
		}
		return tx.PutTrial(ctx, rec, act.User.ID, reason)
	})
}

// PutTrials saves several trials of an open screening at once: all or none.
func (a *App) PutTrials(ctx context.Context, act Actor, id string, list []SavedTrial) (Screening, error) {
	return a.changeScreening(ctx, act, id, "", "", nil, func(tx *store.Tx, before Screening) error {
		for _, in := range list {
			t, rec, err := trialRecord(id, in.Test, in.Side, in.Slot, &in.TrialInput)
			if err != nil {
				return err
			}
			if why := closedTest(t, before); why != "" {
				return Refused(why)
			}
			if err := tx.PutTrial(ctx, rec, act.User.ID, ""); err != nil {
				return err
			}
		}
		return nil
	})
}

func trialRecord(id string, test screening.TestID, side body.Side, slot int, in *TrialInput) (screening.Test, store.Trial, error) {
	rec := store.Trial{ScreeningID: id, Test: string(test), Side: string(side), Slot: slot, Removed: in == nil, Compensations: []string{}}
	t, ok := screening.Find(test)
	if !ok {
		return t, rec, ErrNotFound
	}
	if slot < 1 || slot > lastSlot {
		return t, rec, Invalid{{"slot", "a test has trials 1 to 5, and 6 to 9 after a routine"}}
	}
	if t.Sided == (side == body.Both) {
		return t, rec, Invalid{{"side", "this test is taken " + map[bool]string{true: "left and right", false: "once, as both"}[t.Sided]}}
	}
	if in == nil {
		return t, rec, nil
	}
	tr, err := in.resolve(t)
	if err != nil {
		return t, rec, err
	}
	rec.Value, rec.Pain, rec.SharpPain, rec.Count, rec.Of, rec.Resolution, rec.CrampAt = tr.Value, tr.Pain, tr.SharpPain, tr.Count, tr.Of, tr.Resolution, tr.CrampAt
	rec.BlockCm, rec.LengthCm, rec.AlongFloor = in.BlockCm, in.LengthCm, in.AlongFloor
	if tr.Compensations != nil {
		rec.Compensations = tr.Compensations
	}
	return t, rec, nil
}

// closedTest says why a test is not done now: a flag, or its gate.
func closedTest(t screening.Test, s Screening) string {
	for _, f := range s.Flags {
		if !f.Cleared && f.ClosesTest(t.ID) {
			return fmt.Sprintf("flag %s closes this test: %s", f.Flag, f.Text)
		}
	}
	if g, ok := safety.Find(s.Gates, t.Gate); t.Gate != "" && ok && !g.Open {
		return "the gate " + g.Name + " is closed; this test waits"
	}
	return ""
}

// changeScreening runs a change of a screening; a finished one asks for a reason.
func (a *App) changeScreening(ctx context.Context, act Actor, id, reason, what string, detail any, fn func(*store.Tx, Screening) error) (Screening, error) {
	var out Screening
	err := a.write(ctx, act, func(tx *store.Tx) error {
		before, err := a.loadScreening(ctx, tx, act, id)
		if err != nil {
			return err
		}
		if err := tx.LockRunner(ctx, before.RunnerID); err != nil {
			return err
		}
		if before.Finished && reason == "" {
			return Invalid{{"reason", "this screening is finished; say why it is corrected"}}
		}
		if err := fn(tx, before); err != nil {
			return err
		}
		if before.Finished {
			if err := tx.Note(ctx, before.RunnerID, a.now(), &act.User.ID, "correction", what+", corrected: "+reason, detail); err != nil {
				return err
			}
		}
		out, err = a.loadScreening(ctx, tx, act, id)
		return err
	})
	return out, err
}

func (in Talk) check() error {
	var bad Invalid
	for i, c := range in.Complaints {
		if zoneName(string(c.Zone)) == "" {
			bad.add(fmt.Sprintf("complaints[%d].zone", i), "%q is not a zone", c.Zone)
		}
	}
	return bad.or()
}

// PutTalk saves what the runner said. rev is the revision that was read; flags
// that come or go are written to the journal.
func (a *App) PutTalk(ctx context.Context, act Actor, id string, rev int, in Talk, reason string) (Screening, error) {
	if err := in.check(); err != nil {
		return Screening{}, err
	}
	if in.Flags.Yes == nil {
		in.Flags.Yes = map[string]body.Side{}
	}
	return a.changeScreening(ctx, act, id, reason, "Talk", in, func(tx *store.Tx, before Screening) error {
		for _, g := range before.Questions {
			yes := slices.ContainsFunc(g.Questions, func(q safety.Question) bool { _, ok := in.Flags.Yes[q.ID]; return ok })
			if yes && slices.Contains(in.Flags.None, g.Name) {
				return Invalid{{"flags", "“none of these” and a yes in " + g.Name + " can't both be; the yes counts until it is taken back"}}
			}
		}
		if err := putPart(ctx, tx, act, id, "talk", rev, in); err != nil {
			return err
		}
		after, err := a.loadScreening(ctx, tx, act, id)
		if err != nil {
			return err
		}
		for _, f := range after.Flags {
			if !hasFlag(before.Flags, f) {
				if err := tx.Note(ctx, before.RunnerID, a.now(), &act.User.ID, "flag", string(f.Flag)+" answered yes. "+f.Text, f); err != nil {
					return err
				}
			}
		}
		for _, f := range before.Flags {
			if !hasFlag(after.Flags, f) {
				if err := tx.Note(ctx, before.RunnerID, a.now(), &act.User.ID, "flag", string(f.Flag)+" answered anew: no longer yes", f); err != nil {
					return err
				}
			}
		}
		return a.afterReading(ctx, tx, act, before.RunnerID)
	})
}

func hasFlag(list []FlagView, f FlagView) bool {
	return slices.ContainsFunc(list, func(x FlagView) bool { return x.Flag == f.Flag && x.Level == f.Level && x.Side == f.Side })
}

func putPart(ctx context.Context, tx *store.Tx, act Actor, id, part string, rev int, v any) error {
	raw, err := json.Marshal(v)
	if err != nil {
		return err
	}
	return tx.PutPart(ctx, store.Part{ScreeningID: id, Part: part, Rev: rev + 1, Body: raw}, act.User.ID)
}

// PutConditions saves how the run and the reaches were taken.
func (a *App) PutConditions(ctx context.Context, act Actor, id string, rev int, in Conditions, reason string) (Screening, error) {
	return a.changeScreening(ctx, act, id, reason, "Conditions", in, func(tx *store.Tx, _ Screening) error {
		return putPart(ctx, tx, act, id, "conditions", rev, in)
	})
}

// PutChoice saves the coach's choice about one finding. It is open on a finished
// screening too; a demotion needs a reason.
func (a *App) PutChoice(ctx context.Context, act Actor, id string, rev int, in screening.Choice) (Screening, error) {
	if in.Move == "demote" && in.Reason == "" {
		return Screening{}, Invalid{{"reason", "say why it waits, for the journal"}}
	}
	var out Screening
	err := a.write(ctx, act, func(tx *store.Tx) error {
		s, err := a.loadScreening(ctx, tx, act, id)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(s.Findings, func(f screening.Finding) bool { return f.Key() == in.Key }) {
			return Invalid{{"key", "there is no such finding now"}}
		}
		kept := slices.DeleteFunc(s.Choices, func(c screening.Choice) bool { return c.Key == in.Key })
		if err := putPart(ctx, tx, act, id, "choices", rev, append(kept, in)); err != nil {
			return err
		}
		if err := tx.Note(ctx, s.RunnerID, a.now(), &act.User.ID, "finding", fmt.Sprintf("Finding %s: %s %s %s", in.Key, in.Move, in.Reason, in.Remark), in); err != nil {
			return err
		}
		out, err = a.loadScreening(ctx, tx, act, id)
		return err
	})
	return out, err
}

// WaiveGate opens a gate on the coach's word, with a reason; an empty reason
// takes the waiver back.
func (a *App) WaiveGate(ctx context.Context, act Actor, id string, rev int, gate catalogue.Gate, reason string) (Screening, error) {
	var out Screening
	err := a.write(ctx, act, func(tx *store.Tx) error {
		s, err := a.loadScreening(ctx, tx, act, id)
		if err != nil {
			return err
		}
		if _, ok := safety.Find(s.Gates, gate); !ok {
			return Invalid{{"gate", fmt.Sprintf("%q is not a gate", gate)}}
		}
		if why := s.CantWaive[string(gate)]; why != "" && reason != "" {
			return Refused(why)
		}
		kept := slices.DeleteFunc(s.Waivers, func(w safety.Waiver) bool { return w.Gate == gate })
		if reason != "" {
			kept = append(kept, safety.Waiver{Gate: gate, Reason: reason})
		}
		if err := putPart(ctx, tx, act, id, "waivers", rev, kept); err != nil {
			return err
		}
		if err := tx.Note(ctx, s.RunnerID, a.now(), &act.User.ID, "gate", "Gate "+string(gate)+" waived: "+reason, nil); err != nil {
			return err
		}
		out, err = a.loadScreening(ctx, tx, act, id)
		return err
	})
	return out, err
}

// ClearanceInput is a clinician's word about a flag.
type ClearanceInput struct {
	Flag    safety.FlagID `json:"flag"`
	Role    string        `json:"role" minLength:"1" maxLength:"120" doc:"The clinician's role; no name is needed"`
	Allowed string        `json:"allowed" minLength:"1" maxLength:"500" doc:"What is allowed"`
	Until   day.Date      `json:"until" format:"date"`
}

// longestClearance bounds a clearance in days; after it someone looks again.
const longestClearance = 366

// AddClearance stores a clearance for a runner's flag, from today.
func (a *App) AddClearance(ctx context.Context, act Actor, runner string, in ClearanceInput) error {
	today := a.Today(act)
	return a.write(ctx, act, func(tx *store.Tx) error {
		d, err := a.loadDossier(ctx, tx, act, runner)
		if err != nil {
			return err
		}
		if in.Until < today || in.Until > today+longestClearance {
			return Invalid{{"until", "expected a day from today to a year ahead"}}
		}
		all := d.engine
		if len(d.visits) > 0 {
			all = d.flags(0)
		}
		if !slices.ContainsFunc(all, func(s safety.Standing) bool { return s.Flag == in.Flag }) {
			return Invalid{{"flag", "this flag does not stand for the runner"}}
		}
		c := store.Clearance{Flag: string(in.Flag), On: today.Time(), Role: in.Role, Allowed: in.Allowed, Until: in.Until.Time()}
		if err := tx.AddClearance(ctx, runner, c, act.User.ID); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "clearance",
			fmt.Sprintf("Clearance for %s by a %s until %s: %s", in.Flag, in.Role, in.Until.Words(), in.Allowed), in); err != nil {
			return err
		}
		return a.afterReading(ctx, tx, act, runner)
	})
}

// EyePairInput is one measurement taken twice, the second without seeing the
// first.
type EyePairInput struct {
	Test   screening.TestID `json:"test"`
	First  float64          `json:"first"`
	Second float64          `json:"second"`
}

// EyeState is how far a coach's own calibration of a test is.
type EyeState struct {
	Test    screening.TestID `json:"test"`
	Name    string           `json:"name"`
	Unit    string           `json:"unit"`
	Pairs   int              `json:"pairs"`
	Runners int              `json:"runners"`
	SEM     *float64         `json:"sem,omitempty" doc:"The coach's own, once there are enough pairs"`
	Known   float64          `json:"known" doc:"The published or house noise it replaces"`
}

// AddEyePair stores a coach's pair from a screening of a runner.
func (a *App) AddEyePair(ctx context.Context, act Actor, runner string, in EyePairInput) ([]EyeState, error) {
	t, ok := screening.Find(in.Test)
	if !ok || t.Noise == nil {
		return nil, Invalid{{"test", "this test has no noise to calibrate"}}
	}
	for field, v := range map[string]float64{"first": in.First, "second": in.Second} {
		if v < t.Min || v > t.Max {
			return nil, Invalid{{field, fmt.Sprintf("%g %s can't be; expected %g to %g %s", v, t.Unit, t.Min, t.Max, t.Unit)}}
		}
	}
	var out []EyeState
	err := a.write(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		if err := tx.AddEyePair(ctx, act.User.ID, store.EyePair{RunnerID: runner, Test: string(in.Test), First: in.First, Second: in.Second}); err != nil {
			return err
		}
		var err error
		out, err = eyeStates(ctx, tx, act)
		return err
	})
	return out, err
}

// Eye returns how far the coach's calibration is, test by test.
func (a *App) Eye(ctx context.Context, act Actor) ([]EyeState, error) {
	var out []EyeState
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		out, err = eyeStates(ctx, tx, act)
		return err
	})
	return out, err
}

func eyeStates(ctx context.Context, tx *store.Tx, act Actor) ([]EyeState, error) {
	pairs, err := tx.EyePairs(ctx, act.User.ID)
	if err != nil {
		return nil, err
	}
	out := []EyeState{}
	for _, t := range screening.Tests() {
		if t.Noise == nil {
			continue
		}
		st := EyeState{Test: t.ID, Name: t.Name, Unit: t.Unit, Known: t.Noise.SEM}
		var list []screening.Pair
		runners := map[string]bool{}
		for _, p := range pairs {
			if p.Test == string(t.ID) {
				list = append(list, screening.Pair{Runner: p.RunnerID, First: p.First, Second: p.Second})
				runners[p.RunnerID] = true
			}
		}
		st.Pairs, st.Runners = len(list), len(runners)
		if sem, ok := screening.CoachNoise(list); ok {
			st.SEM = &sem
		}
		out = append(out, st)
	}
	return out, nil
}

// FinishScreening closes a screening and writes its findings to the journal.
func (a *App) FinishScreening(ctx context.Context, act Actor, id string) (Screening, error) {
	var out Screening
	err := a.write(ctx, act, func(tx *store.Tx) error {
		before, err := a.loadScreening(ctx, tx, act, id)
		if err != nil || before.Finished {
			out = before
			return err
		}
		if len(before.Trials) == 0 {
			return Refused("nothing is measured yet; take at least one trial")
		}
		if err := tx.FinishScreening(ctx, id, a.now()); err != nil {
			return err
		}
		if out, err = a.loadScreening(ctx, tx, act, id); err != nil {
			return err
		}
		if err := tx.Note(ctx, out.RunnerID, a.now(), &act.User.ID, "screening",
			"Screening finished, "+plural(len(out.Findings), "finding", "findings"), map[string]any{"findings": out.Findings}); err != nil {
			return err
		}
		return a.afterReading(ctx, tx, act, out.RunnerID)
	})
	return out, err
}
