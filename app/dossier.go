package app

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"notchback/core/load"
	"slices"

	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/source"
	"notchback/core/words"
	"notchback/store"
)

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
	d.told = course.Told(days, d.course, func(on day.Date) screening.Age { return ageOn(record.PersonOf(d.runner), on) })
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
	out := course.Visit{ID: v.ID, On: v.On, Finished: v.Finished, Age: ageOn(record.PersonOf(d.runner), v.On), Groups: v.Questions, Answers: v.Talk.Flags, Complaints: v.Talk.Complaints, Waivers: v.Waivers, OldAnkle: v.Talk.OuterAnkleHistory,
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
	age := ageOn(record.PersonOf(d.runner), out.On)
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
	return d.course.Evidence(i, on, ageOn(record.PersonOf(d.runner), on), flags)
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
