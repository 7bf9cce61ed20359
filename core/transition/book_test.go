package transition

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"sort"
	"strings"
	"testing"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/internal/book"
)

// line is a week of a ramp in one line.
func (w Week) line() string {
	parts := []string{fmt.Sprintf("%+4d %s %d/%d %s %d %%", int(w.Monday-monday), w.State.Stage, w.State.Step, w.State.Weeks, w.Outcome, w.Percent)}
	add := func(format string, a ...any) { parts = append(parts, fmt.Sprintf(format, a...)) }
	d := w.Dose
	if d.HomeMinutes > 0 {
		add("home %d", d.HomeMinutes)
	}
	if d.Walks > 0 {
		add("walks %d × %d × %d", d.Walks, d.WalkTimes, d.WalkMinutes)
	}
	if d.Part != "" {
		add("strength %s %d %% × %d", d.Part, d.LoadPercent, d.Sessions)
	}
	if d.Strides > 0 {
		add("strides %d × %d m × %d", d.Strides, d.StrideMetres, d.DrillDays)
	}
	if len(d.Runs)+len(d.BareRuns) > 0 {
		add("runs %v bare %v of %d+%d held %d", d.Runs, d.BareRuns, w.State.Run, w.State.Bare, w.State.Held)
	}
	add("%d = %d + %d + %d m, Achilles %.0f, ball %.0f", w.Metres, w.Usual, w.Minimal, w.BareM, w.Achilles.Usual+w.Achilles.Minimal+w.Achilles.Bare, w.Forefoot.Usual+w.Forefoot.Minimal+w.Forefoot.Bare)
	if w.Held != "" {
		add("held: %s", w.Held)
	}
	if w.Wait != nil {
		add("waits for %s %s ever %v", w.Wait.Stage, w.Wait.Words, w.Wait.Ever)
	}
	if len(w.Shut) > 0 {
		add("shut: %s", strings.Join(w.Shut, "; "))
	}
	if len(w.Out) > 0 {
		add("out %d days", len(w.Out))
	}
	if w.Reached {
		add("there")
	}
	if len(w.Reasons) > 0 {
		add("because %s", strings.Join(w.Reasons, "; "))
	}
	return strings.Join(parts, " · ")
}

func (r Ramp) write(p *book.Page, t Terms) {
	off := func(d *day.Date) string {
		if d == nil {
			return "never"
		}
		return fmt.Sprintf("%+d", int(*d-monday))
	}
	for _, w := range r.Weeks {
		p.Line("  %s", w.line())
	}
	p.Line("  now %d, there %s, strikes %d, refer %v, out to %s, walks passed %s, runs from %s; %s; %s", r.Now, off(r.Reached), len(r.Strikes), r.Refer, off(r.OutTo), off(r.WalkPassed()), off(r.Enters(Run)), r.Why(), strings.Join(r.Says, " "))
	for _, x := range r.Drops {
		p.Line("  drop %d mm from %+d", x.MM, int(x.From-monday))
	}
	for _, i := range []int{0, len(r.Weeks) / 2, len(r.Weeks) - 1} {
		if i < 0 {
			continue
		}
		var days []string
		for d := range 7 {
			for _, x := range r.Weeks[i].On(d, t) {
				days = append(days, fmt.Sprintf("%d %s %d", d, x.Stage, x.Minutes))
			}
		}
		p.Line("  days of week %d: %s", i+1, strings.Join(days, ", "))
	}
}

// Ramps drawn at random, lived through, week by week.
func TestRampsWeekByWeek(t *testing.T) {
	var p book.Page
	for seed := range 40 {
		r := rand.New(rand.NewPCG(uint64(seed), 77))
		in := drawn(r)
		in.Away = seed % 4
		x := in.Terms[0]
		if seed%5 == 0 {
			x.DropMM, x.DropToMM, x.By = ptr(10), ptr(1), ptr(monday+day.Date(100+10*seed))
			in.Terms = []Terms{x}
		}
		if seed%7 == 0 {
			y := x
			y.From, y.WeeklyMetres = monday+70, x.WeeklyMetres*2/3
			in.Terms = append(in.Terms, y)
		}
		if seed%6 == 0 {
			in.Gates[safety.Hop] = Outlook{From: ptr(monday + 90), Words: "hop"}
			in.Gates[safety.MinShoeRun] = Outlook{From: ptr(monday + 120), Words: "minimal-shoe running"}
		}
		if seed%11 == 0 {
			in.Gates[safety.BarefootStrength] = Outlook{Words: "barefoot strength"}
		}
		p.Line("%d: %s, %g %% of %d m, bare %g %%, begin %q, today %+d, away %d", seed, x.Goal, x.TargetPercent, x.WeeklyMetres, x.BarePercent, x.Begin, int(in.Today-monday), in.Away)
		ramp := Plan(in)
		ramp.write(&p, in.Terms[0])
		for _, e := range []Event{{Outcome: Passed}, {Outcome: Repeated}, {Outcome: Passed, Back: 1}, {Outcome: Stopped, Back: 2}} {
			n := 0
			on, ok := in.Ahead(ramp, in.Gates, func(day.Date) Event {
				n++
				if n%3 == 0 {
					return e
				}
				return Event{Outcome: Passed}
			})
			p.Line("  every third week %s %d back: %+d %v", e.Outcome, e.Back, int(on-monday), ok)
		}
	}
	p.Stands(t, "ramps")
}

// What cannot be planned, beside each limit.
func TestTermsBesideTheirLimits(t *testing.T) {
	var p book.Page
	say := func(what string, bad map[string]error) {
		var parts []string
		for k, e := range bad {
			parts = append(parts, k+": "+e.Error())
		}
		sort.Strings(parts)
		p.Line("%s: %s", what, strings.Join(parts, "; "))
	}
	with := func(change func(*Terms)) map[string]error {
		x := terms()
		change(&x)
		return x.Check()
	}
	for _, s := range append(slices.Clone(Stages), Keep, "", "fly") {
		say("goal "+string(s), with(func(x *Terms) { x.Goal = s }))
		say("begin "+string(s), with(func(x *Terms) { x.Begin = s }))
		say("begin "+string(s)+" with a goal of walks", with(func(x *Terms) { x.Begin, x.Goal = s, Walk }))
		p.Line("%q: %s, gate %q, runs %v, ladder %q", s, s.Name(), s.Gate(), s.Runs(), s.Ladder())
	}
	for _, v := range []float64{-1, 0, 30, 100, 101} {
		say(fmt.Sprintf("target %g", v), with(func(x *Terms) { x.TargetPercent = v }))
		say(fmt.Sprintf("bare %g", v), with(func(x *Terms) { x.BarePercent = v }))
	}
	for _, v := range []int{-1, 0, 149, 150, 1200, 1201, 400_000, 400_001} {
		say(fmt.Sprintf("pace %d", v), with(func(x *Terms) { x.PaceSeconds = v }))
		say(fmt.Sprintf("metres %d", v), with(func(x *Terms) { x.WeeklyMetres = v }))
	}
	for _, v := range []int{-1, 0, 6, 7} {
		say(fmt.Sprintf("run day %d", v), with(func(x *Terms) { x.RunDays = []int{v} }))
		say(fmt.Sprintf("strength day %d", v), with(func(x *Terms) { x.StrengthDays = []int{v} }))
	}
	say("drop 10 to 10", with(func(x *Terms) { x.DropMM, x.DropToMM = ptr(10), ptr(10) }))
	say("drop 10 to 11", with(func(x *Terms) { x.DropMM, x.DropToMM = ptr(10), ptr(11) }))
	for _, v := range []float64{99, 100, 162, 230, 231} {
		for _, school := range []string{"own-baseline", "fixed-range", "none"} {
			for _, step := range []int{0, 3, 4, 6, 7} {
				c := CadenceTerms{Baseline: v, School: school, Step: step, SpeedKmh: float64(step) * 5}
				say(fmt.Sprintf("cadence %g %s by %d at %g", v, school, step, c.SpeedKmh), c.Check())
			}
		}
	}
	p.Stands(t, "terms")
}

// Changes of cadence, with their counts, week by week.
func TestCadenceWeekByWeek(t *testing.T) {
	var p book.Page
	for _, b := range []float64{155, 160.4, 164.6, 168, 169.5, 170, 176, 189, 191} {
		for _, school := range []string{"own-baseline", "fixed-range"} {
			for _, step := range []int{0, 4, 6} {
				for _, further := range []bool{false, true} {
					c := CadenceTerms{Start: monday + 1, Baseline: b, School: school, Step: step, Further: further, SpeedKmh: 10}
					p.Line("%g %s by %d further %v: to %d by %v", b, school, step, further, c.Target(), c.Beats())
				}
			}
		}
	}
	margin := func(v float64) *float64 { return &v }
	for n, x := range []struct {
		recounts []Recount
		readings []Reading
		today    day.Date
		held     func(day.Date) string
		closed   string
	}{
		{today: monday},
		{today: monday + 7},
		{today: monday + 60},
		{today: monday + 60, closed: "a flag"},
		{today: monday + 28, held: everyFourth},
		{today: monday + 40, recounts: []Recount{{monday + 20, 167, margin(2)}, {monday + 30, 172, margin(1)}}},
		{today: monday + 40, recounts: []Recount{{monday + 20, 169, margin(2)}}},
		{today: monday + 40, recounts: []Recount{{monday + 20, 169.1, margin(2)}}},
		{today: monday + 40, recounts: []Recount{{monday + 20, 167, margin(2.1)}}},
		{today: monday + 40, recounts: []Recount{{monday + 20, 167, nil}}},
		{today: monday + 40, recounts: []Recount{{monday + 13, 167, margin(1)}}},
		{today: monday + 40, recounts: []Recount{{monday + 14, 167, margin(1)}}},
		{today: monday + 40, recounts: []Recount{{monday + 21, 167, margin(1)}}},
		{today: monday + 40, recounts: []Recount{{monday + 22, 167, margin(1)}}},
		{today: monday + 20, readings: []Reading{{On: monday + 8, Soreness: ptr(body.Pain(5))}, {On: monday + 10, Soreness: ptr(body.Pain(5))}}},
		{today: monday + 20, readings: []Reading{{On: monday + 8, Soreness: ptr(body.Pain(5))}, {On: monday + 9, Soreness: ptr(body.Pain(5))}}},
		{today: monday + 20, readings: []Reading{{On: monday + 8, Soreness: ptr(body.Pain(4))}, {On: monday + 10, Soreness: ptr(body.Pain(4))}}},
	} {
		plan := PlanCadence(CadenceInput{Today: x.today, Terms: CadenceTerms{Start: monday + 1, Baseline: 162, School: "own-baseline", SpeedKmh: 10}, Recounts: x.recounts, Readings: x.readings, Held: x.held, Closed: x.closed})
		p.Line("%d: now %d, done %v, drill %q, step %.3f to %.3f, contacts %.0f to %.0f, %s", n, plan.Now, plan.Done, plan.Drill, plan.StepBefore, plan.StepAfter, plan.ContactBefore, plan.ContactAfter, strings.Join(plan.Says, " "))
		if plan.Until != nil {
			p.Line("  until %+d", int(*plan.Until-monday))
		}
		for _, w := range plan.Weeks {
			p.Line("  %+d step %d beat %d week %d %s recount %v %s %s", int(w.Monday-monday), w.Step, w.Beat, w.Week, w.Content, w.Recount, w.Outcome, strings.Join(w.Reasons, "; "))
		}
	}
	complaints := map[string][]screening.Complaint{
		"no complaint": nil,
		"the kneecap":  {{Zone: "kneecap", Side: body.Left, When: []string{"running"}}},
		"the shin":     {{Zone: "inner-shin", Side: body.Left, When: []string{"running"}}},
		"the Achilles": {{Zone: "achilles-mid", Side: body.Left, When: []string{"first-steps", "running"}}},
	}
	for _, name := range []string{"no complaint", "the kneecap", "the shin", "the Achilles"} {
		for _, f := range []screening.Factor{"", "overstride", "bounce", "loud", "low-cadence"} {
			for _, m := range []*float64{nil, margin(8), margin(8.2)} {
				for _, b := range []float64{162, 190, 191} {
					for _, stopped := range []bool{false, true} {
						a := AdviseCadence(CadenceTerms{Baseline: b, School: "fixed-range"}, m, []screening.Factor{f}, complaints[name], Outlook{Open: b != 190, Words: "count"}, stopped)
						o := AdviseCadence(CadenceTerms{Baseline: b, School: "own-baseline"}, m, []screening.Factor{f}, complaints[name], Outlook{Open: true}, stopped)
						if f == "" || m != nil || name == "no complaint" {
							p.Line("%s, %q, margin %v, %g, stopped %v: %v for %v against %v; own: %v against %v %s", name, f, m != nil && *m > 8.1, b, stopped, a.Change, a.For, a.Against, o.Change, o.Against, o.Words)
						}
					}
				}
			}
		}
	}
	p.Stands(t, "cadence")
}

// Earliest dates of gates, cues and shifts of the strike.
func TestOutlooksAndCues(t *testing.T) {
	var p book.Page
	have := func(v float64) *float64 { return &v }
	birth := day.Make(2013, 5, 20)
	for _, g := range []catalogue.Gate{safety.BarefootHome, safety.BarefootWalk, safety.BarefootStrength, safety.Hop, safety.MinShoeRun, safety.BarefootRun} {
		for _, n := range []safety.Missing{
			{Kind: safety.NeedTest, Test: screening.SingleRaise, Least: 20}, {Kind: safety.NeedTest, Test: screening.SingleRaise, Least: 20, Have: have(20)},
			{Kind: safety.NeedTest, Test: screening.SingleRaise, Least: 20, Have: have(16)}, {Kind: safety.NeedTest, Test: screening.SingleRaise, Least: 20, Have: have(15.9)},
			{Kind: safety.NeedTest, Test: screening.Arch, Least: 2, Have: have(1)}, {Kind: safety.NeedTest, Test: screening.Arch, Least: 2, Have: have(0)}, {Kind: safety.NeedTest, Test: screening.Arch, Least: 2, Have: have(2)},
			{Kind: safety.NeedTest, Test: screening.Squat, Have: have(1)}, {Kind: safety.NeedRamp, Words: "lived"}, {Kind: safety.NeedClearance, Words: "a clearance"},
			{Kind: safety.NeedAnswer, Words: "answers"}, {Kind: safety.NeedAge, Words: "16"}, {Kind: safety.NeedCalm, Words: "calm"}, {Kind: safety.NeedSchool, Words: "another school"},
		} {
			n.Words += string(n.Test)
			gates := []safety.GateState{{Gate: g, Name: string(g), Needs: []safety.Missing{n, {Kind: safety.NeedAnswer, Words: "second"}}}}
			for _, b := range []*day.Date{nil, &birth} {
				if b != nil && n.Kind != safety.NeedAge {
					continue
				}
				o := Outlooks(gates, monday, b, 3, nil)[g]
				from := "unknown"
				if o.From != nil {
					from = fmt.Sprintf("%+d", int(*o.From-monday))
				}
				p.Line("%s, %s %s %v: open %v from %s for %q", g, n.Kind, n.Words, n.Have != nil, o.Open, from, o.Words)
			}
		}
	}
	chain := []safety.GateState{
		{Gate: safety.SingleLegCalf, Needs: []safety.Missing{{Kind: safety.NeedTest, Test: screening.SingleRaise, Least: 10, Have: have(4)}}},
		{Gate: safety.LoadedCalf, Needs: []safety.Missing{{Kind: safety.NeedGate, Words: "below"}}},
		{Gate: safety.Hop, Needs: []safety.Missing{{Kind: safety.NeedGate, Words: "below"}, {Kind: safety.NeedClearance, Words: "a clearance"}}},
		{Gate: safety.MinShoeRun, Needs: []safety.Missing{{Kind: safety.NeedGate, Words: "below"}}},
		{Gate: safety.BarefootRun, Needs: []safety.Missing{{Kind: safety.NeedRamp, Words: "share"}}},
	}
	for _, flags := range [][]safety.Standing{nil, {{Flag: "F-A", Everything: true}}, {{Flag: "F-B", Running: true}}, {{Flag: "F-C", Tissues: []body.Tissue{body.Shin}}}, {{Flag: "F-D", Tissues: []body.Tissue{"hip"}}}} {
		o := Outlooks(chain, monday, nil, 3, flags)
		for _, g := range chain {
			from := "unknown"
			if x := o[g.Gate].From; x != nil {
				from = fmt.Sprintf("%+d", int(*x-monday))
			}
			p.Line("flags %d, %s: open %v from %s for %q", len(flags), g.Gate, o[g.Gate].Open, from, o[g.Gate].Words)
		}
	}
	for _, first := range []bool{false, true} {
		for _, looks := range [][]CueLook{
			nil, {{On: monday, Cue: "posture", Begin: true}}, {{On: monday, Cue: "posture", Begin: true}, {On: monday + 14, Cue: "posture"}},
			{{On: monday, Cue: "posture", Begin: true}, {On: monday + 14, Cue: "posture", Took: true}}, {{On: monday + 20, Cue: "posture", Begin: true}}, {{On: monday + 21, Cue: "posture", Begin: true}},
			{{On: monday, Cue: "line", Begin: true}},
		} {
			var parts []string
			for _, c := range Cues([]screening.Factor{"posture", "loud", "bounce"}, looks, first, monday+20) {
				due := ""
				if c.Due != nil {
					due = fmt.Sprintf(" %+d to %+d", int(*c.From-monday), int(*c.Due-monday))
				}
				parts = append(parts, c.ID+" "+c.State+due)
			}
			p.Line("cadence first %v, %d looks: %s", first, len(looks), strings.Join(parts, ", "))
		}
	}
	for _, from := range []string{"rear", "mid", "fore", ""} {
		for _, clean := range []bool{false, true} {
			s := Shift(from, clean, !clean && from == "mid")
			p.Line("from %q, clean %v: to %q in %d weeks, %.2f %% more, allowed %v, missing %v", from, clean, s.To, s.WeeksMin, s.Achilles, s.Allowed, s.Missing)
		}
	}
	for _, days := range [][]int{nil, {0}, {0, 1}, {0, 6}, {0, 2}, {0, 2, 4}, {0, 1, 2, 3, 4, 5, 6}, {1, 3, 6}} {
		for n := range 5 {
			p.Line("%d of %v apart: %v", n, days, Apart(days, n))
		}
	}
	p.Stands(t, "outlooks")
}
