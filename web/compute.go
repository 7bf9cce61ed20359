package web

import (
	"context"
	"fmt"

	"github.com/danielgtaylor/huma/v2"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/core/adjust"
	coreBody "notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/measure"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/stats"
	"notchback/core/words"
)

// compute registers a stateless computation for signed-in users.
func compute[I, T any](s *server, api huma.API, name, summary string, fn func(I) (T, error)) {
	huma.Register(api, with(post("/api/compute/"+name, "compute-"+name, summary), reading, heavy), signed(s, func(_ context.Context, _ app.Actor, in *struct{ Body I }) (T, error) {
		return fn(in.Body)
	}))
}

func unprocessable(field string, err error) error {
	return app.Invalid{{Field: field, Message: err.Error()}}
}

// CadenceIn is a set of step counts in equal windows.
type CadenceIn struct {
	Counts        []int   `json:"counts" maxItems:"50" example:"[41,42,41,43]" doc:"Steps counted in each window"`
	WindowSeconds float64 `json:"windowSeconds" example:"15" doc:"5 to 120 s"`
}

// TapsIn is the times of taps along with the steps.
type TapsIn struct {
	TapSeconds []float64 `json:"tapSeconds" maxItems:"1000" nullable:"false" doc:"Rising times in seconds, one a step"`
}

// ToeBlockIn is a block under the toe pad.
type ToeBlockIn struct {
	BlockCm    float64 `json:"blockCm" example:"2.5"`
	LengthCm   float64 `json:"lengthCm" example:"5"`
	AlongFloor bool    `json:"alongFloor,omitempty" doc:"The length was taken along the floor"`
}

// AngleOut is an angle in degrees.
type AngleOut struct {
	AngleDegrees float64 `json:"angleDegrees"`
}

// TrialSummaryIn is both sides' trials of one test.
type TrialSummaryIn struct {
	Test     screening.TestID   `json:"test" example:"knee-to-wall"`
	AgeYears *int               `json:"ageYears,omitempty" minimum:"0" maximum:"130"`
	Left     []input.TrialInput `json:"left" maxItems:"9" nullable:"false" example:"[{\"value\":10.6},{\"value\":10.9}]"`
	Right    []input.TrialInput `json:"right" maxItems:"9" nullable:"false" example:"[{\"value\":7.4},{\"value\":9,\"compensations\":[\"heel-lifts\"]}]"`
}

// FindingsIn is the trials of several tests with what the runner says.
type FindingsIn struct {
	Tests      []TrialSummaryIn      `json:"tests" maxItems:"80" nullable:"false" example:"[{\"test\":\"knee-to-wall\",\"ageYears\":35,\"left\":[{\"value\":10.9}],\"right\":[{\"value\":7.6}]}]"`
	Complaints []screening.Complaint `json:"complaints,omitempty" maxItems:"30"`
	LoadSpike  bool                  `json:"loadSpike,omitempty"`
}

// CrossingIn is a count of steps on or over the line.
type CrossingIn struct {
	Crossings int `json:"crossings" minimum:"0" maximum:"1000" example:"6"`
	Steps     int `json:"steps" minimum:"1" maximum:"1000" example:"40"`
}

// CrossingOut is a share of crossing steps with its 95 % Wilson interval.
type CrossingOut struct {
	Percent     float64           `json:"percent"`
	LowPercent  float64           `json:"lowPercent"`
	HighPercent float64           `json:"highPercent"`
	Verdict     screening.Verdict `json:"verdict"`
}

// ReachIn is a four-way reach of one side.
type ReachIn struct {
	Side        coreBody.Side `json:"side" enum:"left,right"`
	ForwardCm   float64       `json:"forwardCm" minimum:"0" maximum:"150" example:"62"`
	SideCm      float64       `json:"sideCm" minimum:"0" maximum:"150" example:"70"`
	BackCm      float64       `json:"backCm" minimum:"0" maximum:"150" example:"80"`
	CrossedCm   float64       `json:"crossedCm" minimum:"0" maximum:"150" example:"74"`
	LegLengthCm float64       `json:"legLengthCm" example:"88"`
}

// StanceIn is stance trials to compare with people of the same age.
type StanceIn struct {
	Seconds  []float64 `json:"seconds" maxItems:"9" nullable:"false" example:"[31,44,60]"`
	AgeYears *int      `json:"ageYears,omitempty" minimum:"0" maximum:"130"`
	EyesOpen bool      `json:"eyesOpen"`
}

// GatesIn is the tests of one visit, from which gates are decided.
type GatesIn struct {
	AgeYears   *int                  `json:"ageYears,omitempty" minimum:"0" maximum:"130"`
	Tests      []TrialSummaryIn      `json:"tests" maxItems:"80" nullable:"false" example:"[{\"test\":\"knee-to-wall\",\"ageYears\":35,\"left\":[{\"value\":10.9}],\"right\":[{\"value\":7.6}]}]"`
	Complaints []screening.Complaint `json:"complaints,omitempty" maxItems:"30"`
	AllAsked   bool                  `json:"allAsked" doc:"Every safety question was answered"`
	DaysAgo    int                   `json:"daysAgo,omitempty" minimum:"0" maximum:"1000" doc:"Age of the evidence"`
}

// StartingNotchIn is what a ladder's start is chosen from.
type StartingNotchIn struct {
	Ladder string           `json:"ladder" example:"calf-straight"`
	On     day.Date         `json:"on" format:"date"`
	Person coreBody.Person  `json:"person"`
	Tests  []TrialSummaryIn `json:"tests" maxItems:"60" nullable:"false"`
}

// StartOut is a ladder's start in words.
type StartOut struct {
	planning.Start
	Words   string   `json:"words"`
	Because []string `json:"because" nullable:"false"`
}

// DecisionIn is one ladder's history on one side with what surrounds it.
type DecisionIn struct {
	Ladder        string           `json:"ladder" example:"calf-straight"`
	Side          coreBody.Side    `json:"side" enum:"left,right" example:"left"`
	Today         day.Date         `json:"today" format:"date" example:"2026-05-05"`
	Notch         int              `json:"notch" minimum:"1" example:"7"`
	OtherNotch    *int             `json:"otherNotch,omitempty" minimum:"1" doc:"Where the other side stands, for a side on its own"`
	StartingNotch int              `json:"startingNotch" minimum:"1" example:"7"`
	BlockStart    day.Date         `json:"blockStart" format:"date" example:"2026-04-13"`
	LastUp        *day.Date        `json:"lastUp,omitempty" format:"date"`
	UpsThisWeek   int              `json:"upsThisWeek,omitempty" minimum:"0"`
	Deload        bool             `json:"deload,omitempty"`
	OpenGates     []catalogue.Gate `json:"openGates,omitempty" example:"[\"single-leg-calf\"]"`
	Halt          *adjust.Halt     `json:"halt,omitempty"`
	History       adjust.History   `json:"history" doc:"Sessions, mornings and where the block began, of this side"`
	Running       load.Class       `json:"running,omitempty" enum:"down,steady,rise,spike,unknown,return," example:"steady" doc:"Running volume; unknown when empty"`
	Illness       adjust.Illness   `json:"illness,omitempty"`
	RunPain       *adjust.Reading  `json:"runPain,omitempty" doc:"Worst pain of a run on this tissue"`
	PoorSleep     bool             `json:"poorSleep,omitempty"`
	MildIllness   bool             `json:"mildIllness,omitempty" doc:"Ill without fever"`
	ExposureOver  bool             `json:"exposureOver,omitempty" doc:"Barefoot minutes over their line"`
	LoadEarly     bool             `json:"loadEarly,omitempty" doc:"The school load early"`
	Flares        []adjust.Flare   `json:"flares,omitempty" maxItems:"20"`
}

// DecisionOut is a decision with its sentence.
type DecisionOut struct {
	adjust.Decision
	Move     string   `json:"move"`
	Sentence string   `json:"sentence"`
	Caps     []string `json:"caps" nullable:"false" doc:"What limits the sessions beside the peg"`
}

func judged(in TrialSummaryIn) (record.JudgedResult, error) {
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

func results(tests []TrialSummaryIn) ([]screening.Result, error) {
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

func (s *server) registerCompute(api huma.API) {
	compute(s, api, "cadence", "Cadence from counts of steps, with its margin", func(in CadenceIn) (measure.Cadence, error) {
		c, err := measure.CadenceFromCounts(in.Counts, in.WindowSeconds)
		if err != nil {
			return c, unprocessable("counts", err)
		}
		return c, nil
	})
	compute(s, api, "cadence-taps", "Cadence from taps, with its margin", func(in TapsIn) (measure.Cadence, error) {
		c, err := measure.CadenceFromTaps(in.TapSeconds)
		if err != nil {
			return c, unprocessable("tapSeconds", err)
		}
		return c, nil
	})
	compute(s, api, "toe-block", "Big-toe angle from a block under the toe pad", func(in ToeBlockIn) (AngleOut, error) {
		v, err := measure.ToeFromBlock(in.BlockCm, in.LengthCm, in.AlongFloor)
		if err != nil {
			return AngleOut{}, unprocessable("blockCm", err)
		}
		return AngleOut{v}, nil
	})
	compute(s, api, "trial-summary", "Mean, margin, verdict and asymmetry of one test", judged)
	compute(s, api, "findings", "What limits a runner, by priority", func(in FindingsIn) (Items[screening.Finding], error) {
		rs, err := results(in.Tests)
		return Items[screening.Finding]{screening.Findings(screening.Input{Results: rs, Complaints: in.Complaints, LoadSpike: in.LoadSpike})}, err
	})
	compute(s, api, "crossing", "Steps that touch or cross the line, with a Wilson interval", func(in CrossingIn) (CrossingOut, error) {
		if in.Crossings > in.Steps {
			return CrossingOut{}, app.Invalid{{Field: "crossings", Message: "no more crossings than steps"}}
		}
		v := 100 * float64(in.Crossings) / float64(in.Steps)
		t, _ := screening.Find(screening.Crossing)
		sum := screening.Summarise(t, coreBody.Left, []screening.Trial{{Value: &v, Count: &in.Crossings, Of: &in.Steps}}, screening.Age{})
		lo, hi := stats.Wilson(in.Crossings, in.Steps)
		return CrossingOut{v, 100 * lo, 100 * hi, sum.Verdict}, nil
	})
	compute(s, api, "reach", "Four-way reach in per cent of leg length", func(in ReachIn) (screening.Reach, error) {
		r, ok := screening.ReachComposite(in.Side, [4]float64{in.ForwardCm, in.SideCm, in.BackCm, in.CrossedCm}, in.LegLengthCm)
		if !ok {
			return r, app.Invalid{{Field: "legLengthCm", Message: "expected 40 to 130 cm"}}
		}
		return r, nil
	})
	compute(s, api, "stance-norm", "Stance against people of the same age", func(in StanceIn) (screening.Norm, error) {
		for i, v := range in.Seconds {
			if v < 0 || v > 60 {
				return screening.Norm{}, app.Invalid{{Field: fmt.Sprintf("seconds[%d]", i), Message: fmt.Sprintf("%g s can't be; expected 0 to 60 s", v)}}
			}
		}
		age := screening.Age{}
		if in.AgeYears != nil {
			age = screening.Age{Years: *in.AgeYears, Known: true}
		}
		return screening.StanceNorm(in.Seconds, age, in.EyesOpen), nil
	})
	compute(s, api, "gates", "Which gates the tests of one visit open", func(in GatesIn) (Items[safety.GateState], error) {
		rs, err := results(in.Tests)
		if err != nil {
			return Items[safety.GateState]{}, err
		}
		age := screening.Age{}
		if in.AgeYears != nil {
			age = screening.Age{Years: *in.AgeYears, Known: true}
		}
		today := day.Date(in.DaysAgo)
		e := safety.Evidence{On: today, Age: age, Visits: []safety.Dated{{Results: rs}}, Complaints: in.Complaints, Unasked: !in.AllAsked}
		return Items[safety.GateState]{safety.Gates(e)}, nil
	})
	compute(s, api, "starting-notch", "Where a ladder begins, and why", func(in StartingNotchIn) (StartOut, error) {
		l, ok := s.app.Ladder(in.Ladder)
		if !ok {
			return StartOut{}, app.Invalid{{Field: "ladder", Message: fmt.Sprintf("%q is not a ladder", in.Ladder)}}
		}
		rs, err := results(in.Tests)
		if err != nil {
			return StartOut{}, err
		}
		age := screening.Age{}
		age.Years, age.Known = in.Person.AgeOn(in.On)
		gates := safety.Gates(safety.Evidence{On: in.On, Age: age, Visits: []safety.Dated{{On: in.On, Results: rs}}})
		st := planning.StartingNotch(l, planning.StartEvidence{On: in.On, Person: in.Person, Results: rs}, max(1, planning.GateCeiling(l, gates)))
		out := StartOut{Start: st, Words: words.Notch(l.At(st.Notch)), Because: []string{}}
		for _, r := range st.Reasons {
			out.Because = append(out.Because, words.Start(l, r))
		}
		return out, nil
	})
	compute(s, api, "decision", "What happens to one ladder's notch, and why", func(in DecisionIn) (DecisionOut, error) {
		l, ok := s.app.Ladder(in.Ladder)
		if !ok {
			return DecisionOut{}, app.Invalid{{Field: "ladder", Message: fmt.Sprintf("%q is not a ladder", in.Ladder)}}
		}
		for field, n := range map[string]int{"notch": in.Notch, "startingNotch": in.StartingNotch} {
			if n > l.Len() {
				return DecisionOut{}, app.Invalid{{Field: field, Message: fmt.Sprintf("expected 1 to %d", l.Len())}}
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
		return DecisionOut{d, words.Move(l, d), words.Decision(l, in.Side, d), words.Caps(d)}, nil
	})
}
