package web

import (
	"context"
	"encoding/json"
	"net/http"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"notchback/app"
	"notchback/app/daily"
	"notchback/app/input"
	"notchback/app/review"
	"notchback/app/running"
	"notchback/app/view"
	"notchback/core/adjust"
	coreBody "notchback/core/body"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/words"
	"notchback/formats"
)

// OnDay is a runner's day in the path.
type OnDay struct {
	ByID
	On string `path:"on" format:"date"`
}

func (d OnDay) date() (day.Date, error) {
	on, err := day.Parse(d.On)
	if err != nil {
		return 0, app.Invalid{{Field: "on", Message: err.Error()}}
	}
	return on, nil
}

// Rev is the revision that was read.
type Rev struct {
	Rev int `query:"rev" minimum:"0" doc:"The revision that was read"`
}

func (s *server) registerRuns(api huma.API) {
	huma.Register(api, get("/api/runners/{id}/runs", "listRuns", "A runner's runs, newest first"),
		signed(s, func(ctx context.Context, act app.Actor, in *ByID) (Items[running.RunView], error) {
			list, err := s.app.Runs(ctx, act, in.ID)
			return Items[running.RunView]{list}, err
		}))
	huma.Register(api, post("/api/runners/{id}/runs", "addRun", "Type a run"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Keyed
			Body running.RunInput
		}) (running.RunView, error) {
			return s.app.AddRun(ctx, act, in.Key, in.ID, in.Body)
		}))
	bring := with(post("/api/runners/{id}/run-files", "importRuns", "Bring in one file of runs: all of it or nothing"), heavy, long)
	bring.MaxBodyBytes = formats.RunFileMost + 1
	huma.Register(api, bring, signed(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Name    string `query:"name" maxLength:"300" doc:"Of the file"`
		Mapping string `query:"mapping" maxLength:"2000" doc:"How a table's columns are mapped, as JSON; the one used for this header before when empty"`
		RawBody []byte `contentType:"application/octet-stream"`
	}) (running.ImportResult, error) {
		var m *formats.Mapping
		if in.Mapping != "" {
			m = &formats.Mapping{}
			if err := json.Unmarshal([]byte(in.Mapping), m); err != nil {
				return running.ImportResult{}, app.Invalid{{Field: "mapping", Message: "not a mapping of columns"}}
			}
		}
		return s.app.ImportRuns(ctx, act, in.ID, in.Name, in.RawBody, m)
	}))
	huma.Register(api, with(get("/api/runners/{id}/runs/files/{kind}", "getRunsFile", "A runner's runs as CSV, or those with a track as GPX"), heavy), file(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Kind string `path:"kind" enum:"csv,gpx"`
	}) (*FileOut, error) {
		f, err := s.app.RunsFile(ctx, act, in.ID, in.Kind)
		return fileOut(f), err
	}))
	huma.Register(api, put("/api/runs/{id}", "changeRun", "Correct a run"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Rev
			Body running.RunInput
		}) (running.RunView, error) {
			return s.app.ChangeRun(ctx, act, in.ID, in.Rev.Rev, in.Body)
		}))
	huma.Register(api, op(http.MethodDelete, "/api/runs/{id}", "removeRun", "Take a run out of every count", http.StatusOK),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Rev
			Reason string `query:"reason" maxLength:"300" doc:"Why"`
		}) (Nothing, error) {
			return Nothing{}, s.app.RemoveRun(ctx, act, in.ID, in.Rev.Rev, in.Reason)
		}))
	huma.Register(api, put("/api/runners/{id}/planned-weeks/{on}", "planWeek", "Plan the running of a week"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			OnDay
			Body struct {
				Km float64 `json:"km"`
			}
		}) (view.LoadView, error) {
			on, err := in.date()
			if err != nil {
				return view.LoadView{}, err
			}
			if err := s.app.PlanWeek(ctx, act, in.ID, on, in.Body.Km); err != nil {
				return view.LoadView{}, err
			}
			return s.app.Load(ctx, act, in.ID, 0)
		}))
	huma.Register(api, get("/api/runners/{id}/load", "getLoad", "Load, pain and notches on one time axis"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Weeks int `query:"weeks" minimum:"0" maximum:"52" doc:"How far back; 4 at the least"`
		}) (view.LoadView, error) {
			return s.app.Load(ctx, act, in.ID, in.Weeks)
		}))
	huma.Register(api, get("/api/runners/{id}/days/{on}", "getDay", "What a day was like"),
		signed(s, func(ctx context.Context, act app.Actor, in *OnDay) (daily.DayState, error) {
			on, err := in.date()
			if err != nil {
				return daily.DayState{}, err
			}
			return s.app.Day(ctx, act, in.ID, on)
		}))
	huma.Register(api, put("/api/runners/{id}/days/{on}", "putDay", "Note what a day was like"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			OnDay
			Body input.DayInput
		}) (daily.DayState, error) {
			on, err := in.date()
			if err != nil {
				return daily.DayState{}, err
			}
			return s.app.PutDay(ctx, act, in.ID, on, in.Body)
		}))
	huma.Register(api, post("/api/runners/{id}/days/{on}/slip", "putRight", "End a flag that a slip raised"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			OnDay
			Body daily.SlipInput
		}) (daily.DayState, error) {
			on, err := in.date()
			if err != nil {
				return daily.DayState{}, err
			}
			return s.app.PutRight(ctx, act, in.ID, on, in.Body)
		}))
	huma.Register(api, with(get("/api/runners/{id}/review", "getReview", "A runner's week with what it decides"), heavy),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Monday string `query:"monday" doc:"The last complete week when empty"`
		}) (review.ReviewWeek, error) {
			monday, err := optionalDay(in.Monday)
			if err != nil {
				return review.ReviewWeek{}, err
			}
			return s.app.ReviewOf(ctx, act, in.ID, monday)
		}))
	huma.Register(api, with(post("/api/runners/{id}/review", "finishReview", "Note that the week was reviewed, and accept what is proposed"), heavy),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Body struct {
				Monday *day.Date `json:"monday,omitempty" format:"date"`
				Accept bool      `json:"accept" doc:"Accept every step up that is proposed"`
			}
		}) (review.Accepted, error) {
			var monday day.Date
			if in.Body.Monday != nil {
				monday = *in.Body.Monday
			}
			return s.app.FinishReview(ctx, act, in.ID, monday, in.Body.Accept)
		}))
	huma.Register(api, put("/api/runners/{id}/auto-progress", "setAutoProgress", "Whether steps up go by themselves"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Body struct {
				On bool `json:"on"`
			}
		}) (Nothing, error) {
			return Nothing{}, s.app.SetAutoProgress(ctx, act, in.ID, in.Body.On)
		}))
	huma.Register(api, with(get("/api/engine", "getEngine", "Which edition of the engine works, and what a newer one decides differently"), heavy, listed),
		signed(s, func(ctx context.Context, act app.Actor, _ *struct{}) (review.EngineState, error) {
			return s.app.Engine(ctx, act)
		}))
	huma.Register(api, with(post("/api/engine", "acceptEngine", "Let this edition of the engine work by itself"), owners, heavy, listed),
		signed(s, func(ctx context.Context, act app.Actor, _ *struct{}) (review.EngineState, error) {
			return s.app.AcceptEngine(ctx, act)
		}))
}

func optionalDay(s string) (day.Date, error) {
	if s == "" {
		return 0, nil
	}
	d, err := day.Parse(s)
	if err != nil {
		return 0, app.Invalid{{Field: "monday", Message: err.Error()}}
	}
	return d, nil
}

// RatiosIn asks what a week and a run are against what came before.
type RatiosIn struct {
	On           day.Date `json:"on" format:"date" example:"2026-05-10"`
	Runs         []RunIn  `json:"runs" nullable:"false" maxItems:"2000"`
	PlannedKm    float64  `json:"plannedKm,omitempty" minimum:"0" maximum:"400" doc:"Still planned for this week"`
	IntakeWeekKm *float64 `json:"intakeWeekKm,omitempty" minimum:"0" maximum:"400" doc:"Weekly mean at intake, for weeks before the first run" example:"28"`
}

// RunIn is a run for a computation.
type RunIn struct {
	On            day.Date       `json:"on" format:"date" example:"2026-05-06"`
	DistanceKm    float64        `json:"distanceKm" minimum:"0" maximum:"300" example:"34"`
	Minutes       float64        `json:"minutes" minimum:"0" maximum:"2880" example:"200"`
	CadenceSpm    *float64       `json:"cadenceSpm,omitempty" minimum:"60" maximum:"260" example:"170"`
	Effort        *int           `json:"effort,omitempty" minimum:"0" maximum:"10"`
	Footwear      load.Footwear  `json:"footwear,omitempty" enum:"usual,minimal,bare,"`
	Strike        load.Strike    `json:"strike,omitempty" enum:"rear,mid-fore," example:"rear"`
	Pain          *coreBody.Pain `json:"pain,omitempty" minimum:"0" maximum:"10"`
	Limping       bool           `json:"limping,omitempty"`
	NextFirstStep *coreBody.Pain `json:"nextFirstStep,omitempty" minimum:"0" maximum:"10" doc:"First steps the morning after"`
}

func (r RunIn) core() load.Run {
	return load.Run{On: r.On, Metres: int(r.DistanceKm*1000 + 0.5), Seconds: int(r.Minutes*60 + 0.5), CadenceSpm: r.CadenceSpm, Effort: r.Effort, Footwear: r.Footwear, Pain: r.Pain, Limping: r.Limping}
}

func coreRunsIn(list []RunIn) []load.Run {
	out := make([]load.Run, len(list))
	for i, r := range list {
		out[i] = r.core()
	}
	return out
}

// RatiosOut is what running allows.
type RatiosOut struct {
	load.Running
	Ratio    float64    `json:"ratio" doc:"Of the week to the mean of the four before; 0 when not known"`
	SteadyKm float64    `json:"steadyKm" doc:"The most that is steady this week"`
	Words    string     `json:"words"`
	Total    load.Total `json:"total" doc:"Of the week"`
	Sources  []string   `json:"sources" nullable:"false"`
}

// DoseIn asks for a tissue dose of one side.
type DoseIn struct {
	Tissue  coreBody.Tissue `json:"tissue" enum:"achilles-calf,sole,forefoot-bone,front-shin" example:"achilles-calf"`
	Runs    []RunIn         `json:"runs,omitempty" maxItems:"200"`
	Notches []struct {
		Ladder string  `json:"ladder" example:"calf-straight"`
		Notch  int     `json:"notch" minimum:"1" example:"3"`
		Done   float64 `json:"done" minimum:"0" maximum:"1" example:"1" doc:"Share of the dose done"`
	} `json:"notches,omitempty" maxItems:"100"`
}

// DoseOut is a dose by component, in body weights times repetitions.
type DoseOut struct {
	Components map[load.Component]load.Amount `json:"components"`
	Total      load.Amount                    `json:"total"`
	Source     string                         `json:"source"`
}

// ReviewIn asks what a week of runs and mornings says.
type ReviewIn struct {
	Today    day.Date         `json:"today" format:"date" example:"2026-05-17"`
	Runs     []RunIn          `json:"runs" nullable:"false" maxItems:"2000"`
	Mornings []adjust.Morning `json:"mornings" nullable:"false" maxItems:"2000"`
	B0       float64          `json:"b0" minimum:"0" maximum:"10" example:"1" doc:"Where the block began"`
	IntakeKm *float64         `json:"intakeWeekKm,omitempty" minimum:"0" maximum:"400" example:"30"`
	Flare    bool             `json:"flare,omitempty" doc:"A flare stands"`
	Flags    []string         `json:"flags,omitempty" doc:"Flags that close running"`
}

// ReviewOut is what a week says: the region's verdict, and running advice.
type ReviewOut struct {
	Verdict    string       `json:"verdict" enum:"on,hold,back" doc:"Of what shares the painful tissue"`
	Because    []string     `json:"because" nullable:"false"`
	Running    load.Running `json:"running"`
	Advice     load.Advice  `json:"advice"`
	AdviceText string       `json:"adviceText"`
	AdviceWhy  string       `json:"adviceWhy"`
}

func metresOf(km *float64) *int {
	if km == nil {
		return nil
	}
	m := int(*km*1000 + 0.5)
	return &m
}

func (s *server) registerLoadCompute(api huma.API) {
	compute(s, api, "run-ratios", "A week's running against the four before it, and its longest run against 30 days", func(in RatiosIn) (RatiosOut, error) {
		runs := coreRunsIn(in.Runs)
		st := load.State(load.Volume{Runs: runs, On: in.On, PlannedRest: int(in.PlannedKm*1000 + 0.5), Intake: metresOf(in.IntakeWeekKm)})
		out := RatiosOut{Running: st, Ratio: st.Week.Ratio(), SteadyKm: float64(st.Week.SteadyTo) / 1000, Words: words.Running(st.Class), Sources: []string{load.RatioSource.String(), load.LongestSource.String()}}
		if w := load.Weeks(runs, in.On, in.On); len(w) == 1 {
			out.Total = w[0]
		}
		return out, nil
	})
	compute(s, api, "tissue-dose", "What runs and notches put on a tissue of one side", func(in DoseIn) (DoseOut, error) {
		d := load.Dose{}
		last := load.LastCadence(coreRunsIn(in.Runs), 1<<30)
		for _, r := range in.Runs {
			d.Put(load.ByRunning, load.RunDose(r.core(), in.Tissue, r.Strike, last))
		}
		for i, n := range in.Notches {
			l, ok := s.app.Ladder(n.Ladder)
			if !ok || n.Notch > l.Len() {
				return DoseOut{}, app.Invalid{{Field: "notches[" + string(rune('0'+i%10)) + "].ladder", Message: "no such ladder or notch"}}
			}
			a, c := load.NotchDose(l.At(n.Notch), in.Tissue, n.Done)
			d.Put(c, a)
		}
		return DoseOut{Components: d, Total: d.Total(), Source: view.WeightSource}, nil
	})
	compute(s, api, "review", "What a week of runs and mornings says", func(in ReviewIn) (ReviewOut, error) {
		h := adjust.History{Mornings: slices.Clone(in.Mornings), B0: in.B0}
		slices.SortStableFunc(h.Mornings, func(a, b adjust.Morning) int { return int(a.On - b.On) })
		runs := coreRunsIn(in.Runs)
		out := ReviewOut{Verdict: "on", Because: []string{}, Running: load.State(load.Volume{Runs: runs, On: in.Today, Intake: metresOf(in.IntakeKm)})}
		if r, ok := h.Rising(in.Today); ok {
			out.Verdict = "hold"
			out.Because = append(out.Because, words.Reason(r))
		}
		if v, r, known := h.Week(in.Today.Monday()); known && v == adjust.WeekBack {
			out.Verdict = "back"
			out.Because = append(out.Because, words.Reason(r))
		}
		out.Advice = load.Advise(load.AdviceInput{On: in.Today, Runs: runs, Usual: in.B0, Flare: in.Flare, Flags: in.Flags, Morning: func(d day.Date) *coreBody.Pain {
			for _, m := range h.Mornings {
				if m.On == d {
					p := m.FirstStep
					return &p
				}
			}
			for _, r := range in.Runs {
				if r.On+1 == d && r.NextFirstStep != nil {
					return r.NextFirstStep
				}
			}
			return nil
		}})
		out.AdviceText, out.AdviceWhy = words.Advice(out.Advice), words.AdviceWhy(out.Advice)
		return out, nil
	})
}
