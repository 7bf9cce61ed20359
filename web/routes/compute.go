package routes

import (
	"context"
	"fmt"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/core/adjust"
	coreBody "notchback/core/body"
	"notchback/core/day"
	"notchback/core/measure"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/stats"
	"notchback/core/words"
	"notchback/web/api"
	"notchback/web/door"
)

// compute registers a stateless computation for signed-in users.
func compute[I, T any](r *Routes, name, summary string, fn func(I) (T, error)) {
	route(r, post("/api/compute/"+name, "compute-"+name, summary), func(_ context.Context, _ app.Actor, in *struct{ Body I }) (T, error) {
		return fn(in.Body)
	}, door.Reading, door.Heavy)
}

func unprocessable(field string, err error) error {
	return app.Invalid{{Field: field, Message: err.Error()}}
}

func judged(in api.TrialSummaryIn) (record.JudgedResult, error) {
	t, ok := screening.Find(in.Test)
	if !ok {
		return record.JudgedResult{}, app.Invalid{{Field: "test", Message: fmt.Sprintf("%q is not a test", in.Test)}}
	}
	age := screening.Age{}
	if in.AgeYears != nil {
		age = screening.Age{Years: *in.AgeYears, Known: true}
	}
	var sides [2][]screening.Trial
	for i, list := range [2][]input.TrialInput{in.Left, in.Right} {
		for j, tr := range list {
			got, err := input.ResolveTrial(t, tr)
			if bad, ok := err.(app.Invalid); ok { //nolint:errorlint // ResolveTrial returns it bare
				for k := range bad {
					bad[k].Field = fmt.Sprintf("%s[%d].%s", coreBody.Sides[i], j, bad[k].Field)
				}
				return record.JudgedResult{}, bad
			}
			sides[i] = append(sides[i], got)
		}
	}
	return record.Judge(t, sides[0], sides[1], age), nil
}

func results(tests []api.TrialSummaryIn) ([]screening.Result, error) {
	out := make([]screening.Result, len(tests))
	for i, in := range tests {
		j, err := judged(in)
		if err != nil {
			return nil, err
		}
		out[i] = j.Result
	}
	return out, nil
}

func computeRoutes(r *Routes) {
	compute(r, "cadence", "Cadence from counts of steps, with its margin", func(in api.CadenceIn) (measure.Cadence, error) {
		c, err := measure.CadenceFromCounts(in.Counts, in.WindowSeconds)
		if err != nil {
			return c, unprocessable("counts", err)
		}
		return c, nil
	})
	compute(r, "cadence-taps", "Cadence from taps, with its margin", func(in api.TapsIn) (measure.Cadence, error) {
		c, err := measure.CadenceFromTaps(in.TapSeconds)
		if err != nil {
			return c, unprocessable("tapSeconds", err)
		}
		return c, nil
	})
	compute(r, "toe-block", "Big-toe angle from a block under the toe pad", func(in api.ToeBlockIn) (api.AngleOut, error) {
		v, err := measure.ToeFromBlock(in.BlockCm, in.LengthCm, in.AlongFloor)
		if err != nil {
			return api.AngleOut{}, unprocessable("blockCm", err)
		}
		return api.AngleOut{AngleDegrees: v}, nil
	})
	compute(r, "trial-summary", "Mean, margin, verdict and asymmetry of one test", judged)
	compute(r, "findings", "What limits a runner, by priority", func(in api.FindingsIn) (api.Items[screening.Finding], error) {
		rs, err := results(in.Tests)
		return api.Items[screening.Finding]{Items: screening.Findings(screening.Input{Results: rs, Complaints: in.Complaints, LoadSpike: in.LoadSpike})}, err
	})
	compute(r, "crossing", "Steps that touch or cross the line, with a Wilson interval", func(in api.CrossingIn) (api.CrossingOut, error) {
		if in.Crossings > in.Steps {
			return api.CrossingOut{}, app.Invalid{{Field: "crossings", Message: "no more crossings than steps"}}
		}
		v := 100 * float64(in.Crossings) / float64(in.Steps)
		t, _ := screening.Find(screening.Crossing)
		sum := screening.Summarise(t, coreBody.Left, []screening.Trial{{Value: &v, Count: &in.Crossings, Of: &in.Steps}}, screening.Age{})
		lo, hi := stats.Wilson(in.Crossings, in.Steps)
		return api.CrossingOut{Percent: v, LowPercent: 100 * lo, HighPercent: 100 * hi, Verdict: sum.Verdict}, nil
	})
	compute(r, "reach", "Four-way reach in per cent of leg length", func(in api.ReachIn) (screening.Reach, error) {
		r, ok := screening.ReachComposite(in.Side, [4]float64{in.ForwardCm, in.SideCm, in.BackCm, in.CrossedCm}, in.LegLengthCm)
		if !ok {
			return r, app.Invalid{{Field: "legLengthCm", Message: "expected 40 to 130 cm"}}
		}
		return r, nil
	})
	compute(r, "stance-norm", "Stance against people of the same age", func(in api.StanceIn) (screening.Norm, error) {
		for i, v := range in.Seconds {
			if v < 0 || v > 60 {
				return screening.Norm{}, app.Invalid{{Field: fmt.Sprintf("seconds[%d]", i), Message: fmt.Sprintf("expected 0 to 60 s (you entered %g s)", v)}}
			}
		}
		age := screening.Age{}
		if in.AgeYears != nil {
			age = screening.Age{Years: *in.AgeYears, Known: true}
		}
		return screening.StanceNorm(in.Seconds, age, in.EyesOpen), nil
	})
	compute(r, "gates", "Which gates the tests of one visit open", func(in api.GatesIn) (api.Items[safety.GateState], error) {
		rs, err := results(in.Tests)
		if err != nil {
			return api.Items[safety.GateState]{}, err
		}
		age := screening.Age{}
		if in.AgeYears != nil {
			age = screening.Age{Years: *in.AgeYears, Known: true}
		}
		today := day.Date(in.DaysAgo)
		e := safety.Evidence{On: today, Age: age, Visits: []safety.Dated{{Results: rs}}, Complaints: in.Complaints, Unasked: !in.AllAsked}
		return api.Items[safety.GateState]{Items: safety.Gates(e)}, nil
	})
	compute(r, "starting-notch", "Where a ladder begins, and why", func(in api.StartingNotchIn) (api.StartOut, error) {
		l, ok := r.House.Ladder(in.Ladder)
		if !ok {
			return api.StartOut{}, app.Invalid{{Field: "ladder", Message: fmt.Sprintf("%q is not a ladder", in.Ladder)}}
		}
		rs, err := results(in.Tests)
		if err != nil {
			return api.StartOut{}, err
		}
		age := screening.Age{}
		age.Years, age.Known = in.Person.AgeOn(in.On)
		gates := safety.Gates(safety.Evidence{On: in.On, Age: age, Visits: []safety.Dated{{On: in.On, Results: rs}}})
		st := planning.StartingNotch(l, planning.StartEvidence{On: in.On, Person: in.Person, Results: rs}, max(1, planning.GateCeiling(l, gates)))
		out := api.StartOut{Start: st, Words: words.Notch(l.At(st.Notch)), Because: []string{}}
		for _, r := range st.Reasons {
			out.Because = append(out.Because, words.Start(l, r))
		}
		return out, nil
	})
	compute(r, "decision", "What happens to one ladder's notch, and why", func(in api.DecisionIn) (api.DecisionOut, error) {
		l, ok := r.House.Ladder(in.Ladder)
		if !ok {
			return api.DecisionOut{}, app.Invalid{{Field: "ladder", Message: fmt.Sprintf("%q is not a ladder", in.Ladder)}}
		}
		for field, n := range map[string]int{"notch": in.Notch, "startingNotch": in.StartingNotch} {
			if n > l.Len() {
				return api.DecisionOut{}, app.Invalid{{Field: field, Message: fmt.Sprintf("expected 1 to %d", l.Len())}}
			}
		}
		c := adjust.Context{
			Today: in.Today, Side: in.Side, Ladder: l, Notch: in.Notch, OtherNotch: in.OtherNotch, StartingNotch: in.StartingNotch,
			LastUp: in.LastUp, UpsThisWeek: in.UpsThisWeek, BlockStart: in.BlockStart, Deload: in.Deload, Halt: in.Halt,
			Running: in.Running, Illness: in.Illness, RunPain: in.RunPain, PoorSleep: in.PoorSleep, MildIllness: in.MildIllness, ExposureOver: in.ExposureOver, LoadEarly: in.LoadEarly, Flares: in.Flares,
		}
		for _, g := range in.OpenGates {
			c.Gates = append(c.Gates, safety.GateState{Gate: g, Open: true})
		}
		d := adjust.Decide(in.History, c)
		return api.DecisionOut{Decision: d, Move: words.Move(l, d), Sentence: words.Decision(l, in.Side, d), Caps: words.Caps(d)}, nil
	})
}
