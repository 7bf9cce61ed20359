package safety

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/screening"
	"notchback/internal/book"
)

// enough are readings that open every gate, each at the very number asked for.
var enough = map[screening.TestID]float64{
	screening.Arch: 2, screening.ShortFoot: 2, screening.Tripod: 1, screening.StanceOpen: 30, screening.Squat: 0,
	screening.TuckedKneel: 60, screening.SingleRaise: 20, screening.BallHold: 30, screening.BriskWalk: 0,
	screening.BigToePassive: 30, screening.KneeToWall: 10, screening.SeatedShin: 32, screening.ToeBig: 2, screening.ToeSmall: 2,
	screening.ReachForward: 90, screening.HeelWalk: 0, screening.ToeWalk: 0,
}

// opened is evidence that opens every gate.
func opened(t *testing.T) Evidence {
	v := Dated{On: today}
	ids := make([]screening.TestID, 0, len(enough))
	for id := range enough {
		ids = append(ids, id)
	}
	slices.Sort(ids)
	for _, id := range ids {
		v.Results = append(v.Results, result(t, id, enough[id], enough[id], 0))
	}
	spm, margin := 170.0, 3.0
	v.Results = append(v.Results, screening.Result{Test: screening.CadenceTest, Left: screening.SideSummary{Side: body.Both, Value: &spm, N: 3, Margin: &margin}})
	lived := today
	return Evidence{On: today, Age: adult, Visits: []Dated{v}, HomeDays: &lived, WalkPassed: &lived, PogoClean: &lived, ShareHeld: &lived}
}

// side changes one side of a reading.
func (e Evidence) side(id screening.TestID, change func(*screening.Result)) Evidence {
	e.Visits = slices.Clone(e.Visits)
	e.Visits[0].Results = slices.Clone(e.Visits[0].Results)
	for i := range e.Visits[0].Results {
		if e.Visits[0].Results[i].Test == id {
			change(&e.Visits[0].Results[i])
		}
	}
	return e
}

// both puts a reading at a value on both sides, or on one.
func at(left, right *float64) func(*screening.Result) {
	return func(r *screening.Result) {
		if left != nil {
			r.Left.Value = left
		}
		if right != nil && r.Right.Value != nil {
			r.Right.Value = right
		}
	}
}

// Every gate, a hair beside every number it asks for.
func TestGatesAtTheirEdges(t *testing.T) {
	var p book.Page
	say := func(what string, e Evidence) {
		var parts []string
		until := map[int][]string{}
		for _, g := range Gates(e) {
			switch {
			case !g.Open:
				var needs []string
				for _, n := range g.Needs {
					have := ""
					if n.Have != nil {
						have = fmt.Sprintf(" has %g of %g", *n.Have, n.Least)
					}
					needs = append(needs, fmt.Sprintf("%s %s%s", n.Kind, n.Words, have))
				}
				parts = append(parts, fmt.Sprintf("%s %s: %s", g.Gate, g.State, strings.Join(needs, "; ")))
			case g.State != "open" || g.Limit != "":
				parts = append(parts, strings.TrimSpace(fmt.Sprintf("%s %s %s %s", g.Gate, g.State, g.Reason, g.Limit)))
			case g.Until != nil:
				days := int(*g.Until - e.On)
				until[days] = append(until[days], string(g.Gate))
			}
			if aged := Aged(e, g.Gate); aged != g.Open {
				parts = append(parts, fmt.Sprintf("%s aged only: %v", g.Gate, aged))
			}
		}
		for _, days := range slices.Sorted(maps.Keys(until)) {
			parts = append(parts, fmt.Sprintf("%+d days: %s", days, strings.Join(until[days], ", ")))
		}
		p.Line("%s", strings.Join(append([]string{what}, parts...), "\n    "))
	}
	full := opened(t)
	say("everything there", full)
	for _, r := range full.Visits[0].Results {
		if _, ok := enough[r.Test]; !ok {
			continue
		}
		v := *r.Left.Value
		for _, x := range []float64{v - 0.1, v * keepShare, v*keepShare - 0.01, v + 0.1, 0} {
			if x < 0 || x == v {
				continue
			}
			say(fmt.Sprintf("%s %.4g", r.Test, x), full.side(r.Test, at(&x, &x)))
		}
		if r.Right.Measured() {
			x, far := v-0.1, v+1
			if v == 0 {
				x = 1
			}
			say(fmt.Sprintf("%s left %.4g, right %.4g", r.Test, x, far), full.side(r.Test, at(&x, &far)))
			say(fmt.Sprintf("%s right %.4g, left %.4g", r.Test, x, far), full.side(r.Test, at(&far, &x)))
			say(fmt.Sprintf("%s not on the right", r.Test), full.side(r.Test, func(r *screening.Result) { r.Right = screening.SideSummary{Side: body.Right} }))
		}
		say(fmt.Sprintf("%s stopped by pain", r.Test), full.side(r.Test, func(r *screening.Result) { r.Left.StoppedByPain = true }))
		say(fmt.Sprintf("%s to be taken more", r.Test), full.side(r.Test, func(r *screening.Result) { r.Left.TakeMore = true }))
		say(fmt.Sprintf("%s at pain 3", r.Test), full.side(r.Test, func(r *screening.Result) { r.Left.WorstPain = ptr(body.Pain(3)) }))
		say(fmt.Sprintf("%s at pain 4", r.Test), full.side(r.Test, func(r *screening.Result) { r.Left.WorstPain = ptr(body.Pain(4)) }))
		say(fmt.Sprintf("%s without its pain", r.Test), full.side(r.Test, func(r *screening.Result) { r.Left.WorstPain, r.Right.WorstPain = nil, nil }))
		say(fmt.Sprintf("%s without its pain on the right", r.Test), full.side(r.Test, func(r *screening.Result) { r.Right.WorstPain = nil }))
		say(fmt.Sprintf("%s missing", r.Test), full.side(r.Test, func(r *screening.Result) { r.Test = "" }))
		// A newer reading beside an older good one.
		for _, x := range []float64{v * keepShare, v*keepShare - 0.01, v + 0.2} {
			e := full
			newer := full.side(r.Test, at(&x, &x)).Visits[0]
			i := slices.IndexFunc(newer.Results, func(y screening.Result) bool { return y.Test == r.Test })
			e.Visits = []Dated{{On: today, Results: []screening.Result{newer.Results[i]}}, {On: today - 1, Results: full.Visits[0].Results}}
			say(fmt.Sprintf("%s %.4g after a good one", r.Test, x), e)
		}
		e := full
		e.Visits = []Dated{{On: today + 1, Results: full.Visits[0].Results}}
		if r.Test == screening.Arch {
			say("all of it tomorrow", e)
		}
	}
	for _, back := range []day.Date{42, 43, 69, 70, 84, 85, 98, 99} {
		e := full
		e.Visits = []Dated{{On: today - back, Results: full.Visits[0].Results}}
		say(fmt.Sprintf("tests %d days old", back), e)
		lived := today - back
		e = full
		e.HomeDays, e.WalkPassed, e.PogoClean, e.ShareHeld = &lived, &lived, &lived, &lived
		say(fmt.Sprintf("lived %d days ago", back), e)
		none := Evidence{On: today, Age: adult, TwoLegClean: &lived}
		say(fmt.Sprintf("nothing but two legs, %d days ago", back), none)
	}
	ahead := today + 1
	for _, x := range []struct {
		name   string
		change func(*Evidence)
	}{
		{"no days at home", func(e *Evidence) { e.HomeDays = nil }},
		{"days at home tomorrow", func(e *Evidence) { e.HomeDays = &ahead }},
		{"no walks", func(e *Evidence) { e.WalkPassed = nil }},
		{"no pogo", func(e *Evidence) { e.PogoClean = nil }},
		{"no share", func(e *Evidence) { e.ShareHeld = nil }},
		{"questions open", func(e *Evidence) { e.Unasked = true }},
		{"shoes stay", func(e *Evidence) { e.Barefoot = ShoesStay }},
		{"an old ankle", func(e *Evidence) { e.OldAnkle = true }},
		{"a stiff toe", func(e *Evidence) { e.Findings = []screening.Factor{"toe-joint-stiff"} }},
		{"a flare today", func(e *Evidence) { e.Flare = ptr(today) }},
		{"a flare yesterday", func(e *Evidence) { e.Flare = ptr(today - 1) }},
		{"first steps 3", func(e *Evidence) { e.Complaints = []screening.Complaint{heel(3)} }},
		{"first steps 4", func(e *Evidence) { e.Complaints = []screening.Complaint{heel(4)} }},
		{"first steps not said", func(e *Evidence) {
			e.Complaints = []screening.Complaint{{Zone: "heel", Side: body.Left, When: []string{"first-steps"}}}
		}},
	} {
		e := full
		x.change(&e)
		say(x.name, e)
	}
	for _, school := range []BarefootSchool{Gated, GradualForAll, ShoesStay} {
		for arch := range 3 {
			v := float64(arch)
			for _, foot := range []float64{1, 2} {
				e := full.side(screening.Arch, at(&v, &v)).side(screening.ShortFoot, at(&foot, &foot))
				e.Barefoot = school
				say(fmt.Sprintf("%s: arch %d, short foot %g", school, arch, foot), e)
			}
		}
	}
	for _, years := range []int{11, 12, 15, 16, 17, 18, 59, 60, 70, 85} {
		e := full
		e.Age = screening.Age{Years: years, Known: true}
		say(fmt.Sprintf("age %d", years), e)
		short := 14.99
		e = e.side(screening.StanceOpen, at(&short, &short)).side(screening.SingleRaise, at(ptr(15.0), ptr(15.0)))
		say(fmt.Sprintf("age %d, stance %g, raises 15", years, short), e)
	}
	e := full
	e.Age = screening.Age{}
	say("age not known", e)
	for _, g := range append(slices.Clone(chain), BarefootHome, BarefootWalk, BarefootStrength, EndRange, CadenceChange) {
		bare := Evidence{On: today, Age: adult, Waivers: []Waiver{{g, "known from years"}}}
		say("nothing, but a waiver for "+string(g), bare)
		if p := MayWaive(full, g); p != "" {
			say("no waiver for "+string(g)+": "+p, full)
		}
	}
	for _, x := range []float64{0, 1} {
		for _, id := range []screening.TestID{screening.BriskWalk, screening.HeelWalk, screening.ToeWalk} {
			e := full.side(id, at(ptr(0.0), &x))
			p.Line("hop waived, %s %g on the right: %q", id, x, MayWaive(e, Hop))
		}
	}
	p.Stands(t, "gates")
}

func heel(p body.Pain) screening.Complaint {
	return screening.Complaint{Zone: "heel", Side: body.Left, FirstSteps: &p, When: []string{"first-steps"}}
}

// The fortnight at home: how long, how often, how known, how calm.
func TestTheFortnightAtItsEdges(t *testing.T) {
	var p book.Page
	for _, back := range []day.Date{0, 1, 6, 7, 8, 68, 69, 70, 71, 83, 84} {
		for _, days := range []int{10, 11} {
			for _, minutes := range []int{29, 30} {
				for _, known := range []int{6, 7, 14} {
					for _, bad := range [][]int{nil, {0}, {1}, {0, 14}, {0, 15}, {3, 17}, {3, 18}} {
						for _, height := range []body.Pain{2, 3} {
							if height == 2 && bad == nil || minutes == 29 && known != 7 {
								continue
							}
							at := map[day.Date]int{}
							for i := range days {
								at[today-back-day.Date(i)] = minutes
							}
							for _, b := range bad {
								on := today - 1 - day.Date(b)
								at[on] = max(5, at[on])
							}
							morning := func(d day.Date) (body.Pain, bool) {
								if slices.Contains(bad, int(today-d)) {
									return height, true
								}
								return 1, d > today-back+1-day.Date(known) && d <= today
							}
							end := HomeFortnight(at, morning, func(day.Date) float64 { return 1 }, today)
							if end != nil || minutes == 30 && days == 11 {
								said := "none"
								if end != nil {
									said = fmt.Sprintf("ends %d days ago", int(today-*end))
								}
								p.Line("%d days of %d min up to %d days ago, %d mornings known, %d on %v: %s", days, minutes, back, known, height, bad, said)
							}
						}
					}
				}
			}
		}
	}
	for _, pain := range []body.Pain{3, 4} {
		for _, done := range []float64{0.99, 1} {
			for _, next := range []body.Pain{1, 2, 3} {
				p.Line("two legs at pain %d, done %g, next morning %d over a usual 1: %v", pain, done, next, CleanTwoLeg(&pain, &done, &next, 1))
			}
		}
	}
	p.Stands(t, "fortnight")
}

// What answers, complaints and readings raise, a hair beside every number.
func TestWhatRaisesAFlag(t *testing.T) {
	var p book.Page
	say := func(what string, flags []Standing) {
		var parts []string
		for _, f := range flags {
			parts = append(parts, strings.TrimSpace(fmt.Sprintf("%s %s %s %s", f.Flag, f.Level, f.Side, f.Zone)))
		}
		p.Line("%s: %s", what, strings.Join(parts, "; "))
	}
	for _, q := range questions {
		for _, side := range []body.Side{body.Left, body.Both} {
			say(fmt.Sprintf("%s answered yes, %s", q.ID, side), Raise(today, Answers{Yes: map[string]body.Side{q.ID: side}}, nil, nil))
		}
	}
	for _, pain := range []body.Pain{4, 5, 7, 8} {
		say(fmt.Sprintf("the heel at rest %d", pain), Raise(today, Answers{}, []screening.Complaint{{Zone: "heel", Side: body.Left, Rest: &pain}}, nil))
		say(fmt.Sprintf("the heel at worst %d", pain), Raise(today, Answers{}, []screening.Complaint{{Zone: "heel", Side: body.Left, Worst: &pain}}, nil))
		for _, id := range []screening.TestID{screening.HeelWalk, screening.ToeWalk, screening.BriskWalk, screening.Squat} {
			say(fmt.Sprintf("%s reads %d on the right", id, pain), Raise(today, Answers{}, nil, []screening.Result{result(t, id, 0, float64(pain), 0)}))
			say(fmt.Sprintf("%s hurts %d", id, pain), Raise(today, Answers{}, nil, []screening.Result{result(t, id, 0, 0, pain)}))
		}
	}
	for _, weeks := range []int{6, 7} {
		say(fmt.Sprintf("the inner shin for %d weeks", weeks), Raise(today, Answers{}, []screening.Complaint{{Zone: "inner-shin", Side: body.Left, SinceWeeks: &weeks, When: []string{"running"}}}, nil))
	}
	for _, raises := range [][2]float64{{0, 9}, {0, 10}, {1, 10}, {10, 0}, {0, 0}} {
		say(fmt.Sprintf("raises %g and %g", raises[0], raises[1]), Raise(today, Answers{}, nil, []screening.Result{result(t, screening.SingleRaise, raises[0], raises[1], 0)}))
	}
	for _, e := range Entries() {
		f := e.Raised(today-5, body.Left)
		for _, c := range []Clearance{{On: today - 5, Until: today}, {On: today - 6, Until: today}, {On: today, Until: today - 1}, {On: today + 1, Until: today + 2}} {
			c.Flag = f.Flag
			say(fmt.Sprintf("%s, cleared %+d to %+d", f.Flag, int(c.On-today), int(c.Until-today)), Stand(today, []Standing{f}, []Clearance{c}))
		}
		for was, now := range formerly {
			if now == f.Flag {
				say(fmt.Sprintf("%s, cleared as %s", f.Flag, was), Stand(today, []Standing{f}, []Clearance{{Flag: was, On: today, Until: today}}))
			}
		}
	}
	p.Stands(t, "raised")
}

// Every row of the flag table: what it closes of work, running, gates and tests.
func TestWhatEveryFlagCloses(t *testing.T) {
	var p book.Page
	kinds := map[string]catalogue.Kinds{}
	for _, k := range []catalogue.Kind{catalogue.RunningWork, catalogue.Standing, catalogue.OneLeg, catalogue.AddedLoad, catalogue.Kind(catalogue.KneeOver60), catalogue.Kind(catalogue.DeepKnee), "exposure", "spring", "whole-leg", catalogue.Loads(body.Achilles), catalogue.Loads(body.Sole), catalogue.Loads(body.Forefoot), catalogue.Loads(body.Shin)} {
		kinds[string(k)] = catalogue.Kinds{catalogue.Any: true, k: true}
		kinds[string(k)+" on one leg"] = catalogue.Kinds{catalogue.Any: true, k: true, catalogue.OneLeg: true, catalogue.Standing: true}
	}
	names := make([]string, 0, len(kinds))
	for n := range kinds {
		names = append(names, n)
	}
	slices.Sort(names)
	say := func(s Standing) {
		p.Line("%s %s %s %s: running %v, progress %v, stages %v", s.Flag, s.Level, s.Side, s.Zone, s.ClosesRunning(), s.ClosesProgress(), s.HoldsStages())
		p.Line("    %s", Text(s.Flag, s.Level))
		var work, limits []string
		for _, n := range names {
			switch l, r := s.Closes(kinds[n], body.Left), s.Closes(kinds[n], body.Right); {
			case l && r:
				work = append(work, n)
			case l:
				work = append(work, n+" (left)")
			case r:
				work = append(work, n+" (right)")
			}
			for _, l := range s.Limits(kinds[n], body.Left) {
				limits = append(limits, n+" "+l)
			}
		}
		var gates, tests []string
		for _, g := range gateRules {
			if s.ClosesGate(g.gate) {
				gates = append(gates, string(g.gate))
			}
		}
		for _, x := range screening.Tests() {
			if s.ClosesTest(x.ID) {
				tests = append(tests, string(x.ID))
			}
		}
		p.Line("    work: %s\n    limits: %s\n    gates: %s\n    tests: %s", strings.Join(work, ", "), strings.Join(limits, "; "), strings.Join(gates, ", "), strings.Join(tests, ", "))
	}
	for _, e := range Entries() {
		say(e.Raised(today, body.Left))
	}
	for _, z := range screening.Zones {
		say(RaiseSevereAt(today, body.Right, z.ID))
		say(RaiseOpen(today, body.Right, z.ID))
		p.Line("%s asks %s", z.ID, strings.Join(GroupsFor(z.ID), ", "))
	}
	say(RaiseSevere(today, body.Left, []body.Tissue{body.Sole}))
	say(RaiseSevere(today, body.Left, nil))
	for _, years := range []int{11, 12, 15, 16, 17, 18, 40} {
		age := screening.Age{Years: years, Known: true}
		var asked []string
		for _, q := range questions {
			if AsksAt(q.ID, age) {
				asked = append(asked, q.ID)
			}
		}
		p.Line("age %d asks %d: %s", years, len(asked), strings.Join(asked, " "))
	}
	for _, q := range append(slices.Clone(questions), question{Question: Question{ID: "F-NONE"}}) {
		p.Line("%s stands in %q; asked of anybody %v", q.ID, GroupOf(q.ID), AsksAt(q.ID, screening.Age{}))
	}
	for _, l := range []Level{Emergency, Refer, Limit} {
		p.Line("signs of %s:\n    %s", l, strings.Join(Signs(l), "\n    "))
	}
	p.Stands(t, "flags")
}
