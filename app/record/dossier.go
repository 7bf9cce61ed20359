package record

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"notchback/app"
	"notchback/app/input"
	"notchback/core/body"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/source"
	"notchback/core/words"
	"notchback/store"
)

// Dossier is all of a runner's screenings with what stands on them.
type Dossier struct {
	Runner     store.Runner
	Visits     []Screening   // newest first
	course     course.Visits // the same as values
	clearances []safety.Clearance
	Engine     []safety.Standing // flags raised by readings, and told between visits
	told       []safety.Standing
	noise      map[screening.TestID]screening.Noise
	today      day.Date
	own        []safety.Own // the practice's
}

// newDossier makes the dossier of a runner's rows.
func newDossier(rows *Rows, noise map[screening.TestID]screening.Noise, today day.Date) (*Dossier, error) {
	d := &Dossier{Runner: rows.Runner, today: today, noise: noise, own: rows.Own}
	for _, c := range rows.Clearances {
		d.clearances = append(d.clearances, safety.Clearance{Flag: safety.FlagID(c.Flag), On: app.DateOf(c.On), Role: c.Role, Allowed: c.Allowed, Until: app.DateOf(c.Until)})
	}
	for _, s := range rows.Screenings {
		v, err := d.visit(s, rows.Trials, rows.Parts)
		if err != nil {
			return nil, err
		}
		d.Visits = append(d.Visits, v)
	}
	for i := range d.Visits {
		d.course = append(d.course, d.value(i, rows))
	}
	days, err := rows.Days()
	if err != nil {
		return nil, err
	}
	d.told = course.Told(days, d.course, func(on day.Date) screening.Age { return AgeOn(PersonOf(d.Runner), on) })
	d.raised(rows)
	d.finish()
	return d, nil
}

// raised takes over the flags that readings raised.
func (d *Dossier) raised(rows *Rows) {
	d.Engine = nil
	for _, f := range rows.Flags {
		if f.EndedOn == nil || app.DateOf(*f.EndedOn) > d.today {
			d.Engine = append(d.Engine, Standing(f))
		}
	}
	d.Engine = append(d.Engine, d.told...)
}

// value is a visit as the rules see it, with its findings.
func (d *Dossier) value(i int, rows *Rows) course.Visit {
	v := &d.Visits[i]
	out := course.Visit{ID: v.ID, On: v.On, Finished: v.Finished, Age: AgeOn(PersonOf(d.Runner), v.On), Groups: v.Questions, Answers: v.Talk.Flags, Complaints: v.Talk.Complaints, Waivers: v.Waivers, OldAnkle: v.Talk.OuterAnkleHistory,
		Growth: course.Growth{HeightCm: v.Talk.HeightCm, BeforeCm: v.Talk.HeightBeforeCm, MonthsApart: v.Talk.HeightMonths, SportHours: v.Talk.SportHours, HardHours: v.Talk.HardHours, DayOff: v.Talk.DayOff}}
	for _, r := range v.Results {
		out.Results = append(out.Results, r.Result)
	}
	var devices []screening.DeviceReading
	runs := coreRuns(rows)
	if spm, n, ok := load.UsualCadence(runs, v.On); ok {
		devices = append(devices, screening.DeviceReading{Test: screening.CadenceTest, Value: spm, Runs: n})
	}
	if mm, n, ok := load.UsualBounce(runs, v.On); ok {
		devices = append(devices, screening.DeviceReading{Test: screening.Bounce, Value: mm / mmOfCm, Runs: n})
	}
	v.Findings = screening.Findings(screening.Input{Devices: devices, Results: out.Results, Complaints: v.Talk.Complaints, OuterAnkleHistory: v.Talk.OuterAnkleHistory, Choices: v.Choices, LoadSpike: jumped(rows, v.On)})
	out.Findings = v.Findings
	out.Arrival = rows.VisitArrival(v.ID)
	return out
}

const mmOfCm = 10

func coreRuns(rows *Rows) []load.Run {
	out := make([]load.Run, len(rows.Runs))
	for i, r := range rows.Runs {
		out[i] = CoreRun(r)
	}
	return out
}

// jumped reports that running jumped in the week of a visit, or on a run of it.
func jumped(rows *Rows, on day.Date) bool {
	v := load.Volume{On: on}
	for _, r := range rows.Runs {
		if x := CoreRun(r); x.On <= on {
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

func (d *Dossier) test(t screening.Test) screening.Test {
	if n, ok := d.noise[t.ID]; ok {
		return t.WithNoise(n)
	}
	return t
}

func (d *Dossier) visit(s store.Screening, trials []store.Trial, parts []store.Part) (Screening, error) {
	out := Screening{
		ID: s.ID, RunnerID: s.RunnerID, RunnerName: d.Runner.Name, On: app.DateOf(s.On), Footwear: s.Footwear, Note: s.Note,
		Finished: s.FinishedAt != nil, Imported: s.Imported, Trials: []SavedTrial{}, Choices: []screening.Choice{}, Waivers: []safety.Waiver{}, Revisions: map[string]int{},
		Reach: []screening.Reach{}, OwnNoise: []string{}, Cautions: safety.Cautions,
		Slots: Slots{screening.MaxTrials, input.AfterFrom, input.LastSlot - input.AfterFrom + 1},
	}
	for id := range d.noise {
		out.OwnNoise = append(out.OwnNoise, string(id))
	}
	slices.Sort(out.OwnNoise)
	out.Talk = input.Talk{Complaints: []screening.Complaint{}, Flags: safety.Answers{Yes: map[string]body.Side{}, None: []string{}}}
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
	age := AgeOn(PersonOf(d.Runner), out.On)
	if age.Known {
		out.RunnerAge = &age.Years
	}
	out.Minor = !age.Known || age.Years < safety.Adult
	out.Questions = safety.Questions(age, OwnWith(d.own, out.Talk.Flags.Own)...)
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
		st := SavedTrial{Test: screening.TestID(t.Test), Side: body.Side(t.Side), Slot: t.Slot, TrialInput: input.TrialInput{
			Trial:   screening.Trial{Value: t.Value, Pain: t.Pain, SharpPain: t.SharpPain, Compensations: t.Compensations, Count: t.Count, Of: t.Of, Resolution: t.Resolution, CrampAt: t.CrampAt},
			BlockCm: t.BlockCm, LengthCm: t.LengthCm, AlongFloor: t.AlongFloor,
		}}
		out.Trials = append(out.Trials, st)
		k := look{st.Test, st.Side, st.Slot >= input.AfterFrom}
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

// Flags returns all flags of the runner as visit i sees them.
func (d *Dossier) Flags(i int) []safety.Standing { return append(d.course.Flags(i), d.Engine...) }

// standingFlags returns the flags that hold today, with those cleared left out.
func (d *Dossier) standingFlags() []safety.Standing {
	if len(d.Visits) == 0 {
		return safety.Stand(d.today, d.Engine, d.clearances)
	}
	return safety.Stand(d.today, d.Flags(0), d.clearances)
}

// evidence gathers what gates are decided on, as of a date.
func (d *Dossier) evidence(i int, on day.Date) safety.Evidence {
	flags := d.standingFlags()
	if i < len(d.Visits) {
		flags = safety.Stand(d.today, d.Flags(i), d.clearances)
	}
	return d.course.Evidence(i, on, AgeOn(PersonOf(d.Runner), on), flags)
}

// finish adds to every visit what needs the others: comparison with the visit
// before, findings, flags and gates.
func (d *Dossier) finish() {
	for i := range d.Visits {
		v := &d.Visits[i]
		for j := range v.Results {
			r := &v.Results[j]
			for _, older := range d.Visits[i+1:] {
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
		for _, f := range d.Flags(i) {
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

// Visit is one screening on the desk with the runner's others, read once.
type Visit struct {
	Screening
	id    string
	rows  *Rows
	noise map[screening.TestID]screening.Noise
	today day.Date
}

// OpenVisit reads a screening with what it needs of its runner.
func (a *Book) OpenVisit(ctx context.Context, tx *store.Tx, act app.Actor, id string) (*Visit, error) {
	return a.openVisit(ctx, tx, act, id, func(string) error { return nil })
}

// HoldVisit is OpenVisit under the runner's lock, for a change.
func (a *Book) HoldVisit(ctx context.Context, tx *store.Tx, act app.Actor, id string) (*Visit, error) {
	return a.openVisit(ctx, tx, act, id, func(runner string) error { return tx.LockRunner(ctx, runner) })
}

func (a *Book) openVisit(ctx context.Context, tx *store.Tx, act app.Actor, id string, hold func(runner string) error) (*Visit, error) {
	s, err := tx.Screening(ctx, id)
	if err != nil {
		return nil, err
	}
	if err := hold(s.RunnerID); err != nil {
		return nil, err
	}
	v := &Visit{id: id, today: a.Today(act)}
	if v.rows, v.noise, err = a.loadVisits(ctx, tx, act, s.RunnerID); err != nil {
		return nil, err
	}
	return v, v.lay()
}

// Again takes over what changed in the screening itself since it was read, and which
// flags were raised or ended by it.
func (v *Visit) Again(ctx context.Context, tx *store.Tx) error {
	s, err := tx.Screening(ctx, v.id)
	if err != nil {
		return err
	}
	trials, err := tx.Trials(ctx, v.id)
	if err != nil {
		return err
	}
	parts, err := tx.Parts(ctx, v.id)
	if err != nil {
		return err
	}
	if v.rows.Flags, err = tx.Flags(ctx, s.RunnerID); err != nil {
		return err
	}
	for i := range v.rows.Screenings {
		if v.rows.Screenings[i].ID == v.id {
			v.rows.Screenings[i] = s
		}
	}
	v.rows.Trials = append(slices.DeleteFunc(v.rows.Trials, func(t store.Trial) bool { return t.ScreeningID == v.id }), trials...)
	v.rows.Parts = append(slices.DeleteFunc(v.rows.Parts, func(p store.Part) bool { return p.ScreeningID == v.id }), parts...)
	return v.lay()
}

// Asked are the practice's own questions that a screening asks: while it is open all of
// them, afterwards those that it asked before and those that its answers speak of.
func (v *Visit) Asked(a safety.Answers) []safety.Own {
	age := AgeOn(PersonOf(v.rows.Runner), v.On)
	own := OwnWith(v.rows.Own, v.Talk.Flags.Own)
	if v.Finished {
		return OwnWith(v.Talk.Flags.Own, a.Spoken(own, age))
	}
	return safety.Asked(own, age)
}

func (v *Visit) lay() error {
	d, err := newDossier(v.rows, v.noise, v.today)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(d.Visits, func(x Screening) bool { return x.ID == v.id })
	if i < 0 {
		return app.ErrNotFound
	}
	v.Screening = d.Visits[i]
	return nil
}
