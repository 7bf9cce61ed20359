package routes

import (
	"context"
	"encoding/json"
	"net/http"
	"slices"
	"strings"

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
	"notchback/web/api"
	"notchback/web/door"
)

func runsRoutes(r *Routes) {
	route(r, get("/api/runners/{id}/runs", "listRuns", "A runner's runs, newest first"), func(ctx context.Context, act app.Actor, in *api.ByID) (api.Items[running.RunView], error) {
		list, err := r.House.Runs(ctx, act, in.ID)
		return api.Items[running.RunView]{Items: list}, err
	})
	route(r, post("/api/runners/{id}/runs", "addRun", "Add a run"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		api.Keyed
		Body running.RunInput
	}) (running.RunView, error) {
		return r.House.AddRun(ctx, act, in.Key, in.ID, in.Body)
	})
	bring := door.With(post("/api/runners/{id}/run-files", "importRuns", "Bring in a file of runs, packed or not; each file in it whole or not at all. Or only look at it"), door.Heavy, door.Long)
	bring.MaxBodyBytes = formats.RunPackMost + 1
	route(r, bring, func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Name    string `query:"name" maxLength:"300" doc:"Of the file"`
		Mapping string `query:"mapping" maxLength:"2000" doc:"How a table's columns are mapped, as JSON; the one used for this header before when empty"`
		Choices string `query:"choices" maxLength:"60000" doc:"Answers by the place of an outing, as JSON: run, walk or out"`
		Import  string `query:"import" maxLength:"36" doc:"A name made by who sends, under which several files can be taken back as one"`
		Preview bool   `query:"preview" doc:"Only look: nothing is stored"`
		RawBody []byte `contentType:"application/octet-stream"`
	}) (running.ImportResult, error) {
		b := running.Bringing{Name: in.Name, Content: in.RawBody, Import: in.Import, Preview: in.Preview}
		if in.Mapping != "" {
			b.Mapping = &formats.Mapping{}
			if err := json.Unmarshal([]byte(in.Mapping), b.Mapping); err != nil {
				return running.ImportResult{}, app.Invalid{{Field: "mapping", Message: "not a mapping of columns"}}
			}
		}
		if in.Choices != "" {
			if err := json.Unmarshal([]byte(in.Choices), &b.Choices); err != nil {
				return running.ImportResult{}, app.Invalid{{Field: "choices", Message: "not answers by place"}}
			}
		}
		if in.Import != "" && !isID(in.Import) {
			return running.ImportResult{}, app.Invalid{{Field: "import", Message: "not a name of an import"}}
		}
		return r.House.ImportRuns(ctx, act, in.ID, b)
	})
	route(r, get("/api/runners/{id}/dynamics", "getDynamics", "What devices measured over the runs, each by itself"), func(ctx context.Context, act app.Actor, in *api.ByID) (api.Items[running.DynamicsView], error) {
		list, err := r.House.Dynamics(ctx, act, in.ID)
		return api.Items[running.DynamicsView]{Items: list}, err
	})
	route(r, get("/api/runners/{id}/run-imports", "listImports", "What came in lately, newest first"), func(ctx context.Context, act app.Actor, in *api.ByID) (api.Items[running.ImportView], error) {
		list, err := r.House.Imports(ctx, act, in.ID)
		return api.Items[running.ImportView]{Items: list}, err
	})
	route(r, op(http.MethodDelete, "/api/runners/{id}/run-imports/{import}", "undoImport", "Take an import back as one", http.StatusOK), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Import string `path:"import" format:"uuid"`
	}) (api.Nothing, error) {
		return api.Nothing{}, r.House.UndoImport(ctx, act, in.ID, in.Import)
	})
	route(r, post("/api/runners/{id}/runs/effect", "effectOfRuns", "What runs that would come in do to the week"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body struct {
			Runs []running.WouldRun `json:"runs" maxItems:"5000" nullable:"false"`
		}
	}) (running.Effect, error) {
		return r.House.EffectOf(ctx, act, in.ID, in.Body.Runs)
	}, door.Reading)
	download(r, gives(get("/api/runners/{id}/runs/files/{kind}", "getRunsFile", "A runner's runs as CSV, those with a start as TCX, or those with a track as GPX"), "text/csv", "application/gpx+xml", "application/vnd.garmin.tcx+xml"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Kind string `path:"kind" enum:"csv,gpx,tcx"`
	}) (*api.FileOut, error) {
		f, err := r.House.RunsFile(ctx, act, in.ID, in.Kind)
		return fileOut(f), err
	}, door.Heavy)
	route(r, put("/api/runs/{id}", "changeRun", "Correct a run"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		api.Rev
		Body running.RunInput
	}) (running.RunView, error) {
		return r.House.ChangeRun(ctx, act, in.ID, in.Rev.Rev, in.Body)
	})
	route(r, op(http.MethodDelete, "/api/runs/{id}", "removeRun", "Take a run out of every count", http.StatusOK), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		api.Rev
		Reason string `query:"reason" maxLength:"300" doc:"Why"`
	}) (api.Nothing, error) {
		return api.Nothing{}, r.House.RemoveRun(ctx, act, in.ID, in.Rev.Rev, in.Reason)
	})
	route(r, put("/api/runners/{id}/planned-weeks/{on}", "planWeek", "Plan the running of a week"), func(ctx context.Context, act app.Actor, in *struct {
		api.OnDay
		Body struct {
			Km float64 `json:"km"`
		}
	}) (view.LoadView, error) {
		on, err := in.Date()
		if err != nil {
			return view.LoadView{}, err
		}
		if err := r.House.PlanWeek(ctx, act, in.ID, on, in.Body.Km); err != nil {
			return view.LoadView{}, err
		}
		return r.House.Load(ctx, act, in.ID, 0)
	})
	route(r, get("/api/runners/{id}/load", "getLoad", "Load, pain and notches on one time axis"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Weeks int `query:"weeks" minimum:"0" maximum:"52" doc:"How far back; 4 at the least"`
	}) (view.LoadView, error) {
		return r.House.Load(ctx, act, in.ID, in.Weeks)
	})
	route(r, get("/api/runners/{id}/days/{on}", "getDay", "What a day was like"), func(ctx context.Context, act app.Actor, in *api.OnDay) (daily.DayState, error) {
		on, err := in.Date()
		if err != nil {
			return daily.DayState{}, err
		}
		return r.House.Day(ctx, act, in.ID, on)
	})
	route(r, put("/api/runners/{id}/days/{on}", "putDay", "Note what a day was like"), func(ctx context.Context, act app.Actor, in *struct {
		api.OnDay
		Body input.DayInput
	}) (daily.DayState, error) {
		on, err := in.Date()
		if err != nil {
			return daily.DayState{}, err
		}
		return r.House.PutDay(ctx, act, in.ID, on, in.Body)
	})
	route(r, post("/api/runners/{id}/days/{on}/slip", "putRight", "End a flag that a slip raised"), func(ctx context.Context, act app.Actor, in *struct {
		api.OnDay
		Body daily.SlipInput
	}) (daily.DayState, error) {
		on, err := in.Date()
		if err != nil {
			return daily.DayState{}, err
		}
		return r.House.PutRight(ctx, act, in.ID, on, in.Body)
	})
	route(r, get("/api/runners/{id}/review", "getReview", "A runner's week with what it decides"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Monday string `query:"monday" doc:"The last complete week when empty"`
	}) (review.ReviewWeek, error) {
		monday, err := optionalDay(in.Monday)
		if err != nil {
			return review.ReviewWeek{}, err
		}
		return r.House.ReviewOf(ctx, act, in.ID, monday)
	}, door.Heavy)
	route(r, post("/api/runners/{id}/review", "finishReview", "Note that the week was reviewed, and accept what is proposed"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body struct {
			Monday *day.Date `json:"monday,omitempty" format:"date"`
			Accept bool      `json:"accept" doc:"Accept every step up that is proposed"`
		}
	}) (review.Accepted, error) {
		var monday day.Date
		if in.Body.Monday != nil {
			monday = *in.Body.Monday
		}
		return r.House.FinishReview(ctx, act, in.ID, monday, in.Body.Accept)
	}, door.Heavy)
	route(r, put("/api/runners/{id}/auto-progress", "setAutoProgress", "Whether steps up go by themselves"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body struct {
			On bool `json:"on"`
		}
	}) (api.Nothing, error) {
		return api.Nothing{}, r.House.SetAutoProgress(ctx, act, in.ID, in.Body.On)
	})
	route(r, get("/api/engine", "getEngine", "Which edition of the engine works, and what a newer one decides differently"), func(ctx context.Context, act app.Actor, _ *struct{}) (review.EngineState, error) {
		return r.House.Engine(ctx, act)
	}, door.Heavy, door.Listed)
	route(r, post("/api/engine", "acceptEngine", "Let this edition of the engine work by itself"), func(ctx context.Context, act app.Actor, _ *struct{}) (review.EngineState, error) {
		return r.House.AcceptEngine(ctx, act)
	}, door.Owners, door.Heavy, door.Listed)
}

// isID reports whether a text is a name as clients make them.
func isID(s string) bool {
	for i, c := range s {
		if dash := i == 8 || i == 13 || i == 18 || i == 23; dash != (c == '-') || !dash && !strings.ContainsRune("0123456789abcdef", c) {
			return false
		}
	}
	return len(s) == 36
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

func coreRunsIn(list []api.RunIn) []load.Run {
	out := make([]load.Run, len(list))
	for i, r := range list {
		out[i] = r.Core()
	}
	return out
}

func metresOf(km *float64) *int {
	if km == nil {
		return nil
	}
	m := int(*km*1000 + 0.5)
	return &m
}

func loadComputeRoutes(r *Routes) {
	compute(r, "run-ratios", "A week's running against the four before it, and its longest run against 30 days", func(in api.RatiosIn) (api.RatiosOut, error) {
		runs := coreRunsIn(in.Runs)
		st := load.State(load.Volume{Runs: runs, On: in.On, PlannedRest: int(in.PlannedKm*1000 + 0.5), Intake: metresOf(in.IntakeWeekKm)})
		out := api.RatiosOut{Running: st, Ratio: st.Week.Ratio(), SteadyKm: float64(st.Week.SteadyTo) / 1000, Words: words.Running(st.Class), Sources: []string{load.RatioSource.String(), load.LongestSource.String()}}
		if w := load.Weeks(runs, in.On, in.On); len(w) == 1 {
			out.Total = w[0]
		}
		return out, nil
	})
	compute(r, "tissue-dose", "What runs and notches put on a tissue of one side", func(in api.DoseIn) (api.DoseOut, error) {
		d := load.Dose{}
		last := load.LastCadence(coreRunsIn(in.Runs), 1<<30)
		for _, r := range in.Runs {
			d.Put(load.ByRunning, load.RunDose(r.Core(), in.Tissue, r.Strike, last))
		}
		for i, n := range in.Notches {
			l, ok := r.House.Ladder(n.Ladder)
			if !ok || n.Notch > l.Len() {
				return api.DoseOut{}, app.Invalid{{Field: "notches[" + string(rune('0'+i%10)) + "].ladder", Message: "no such ladder or notch"}}
			}
			a, c := load.NotchDose(l.At(n.Notch), in.Tissue, n.Done)
			d.Put(c, a)
		}
		return api.DoseOut{Components: d, Total: d.Total(), Source: view.WeightSource}, nil
	})
	compute(r, "review", "What a week of runs and mornings says", func(in api.ReviewIn) (api.ReviewOut, error) {
		h := adjust.History{Mornings: slices.Clone(in.Mornings), B0: in.B0}
		slices.SortStableFunc(h.Mornings, func(a, b adjust.Morning) int { return int(a.On - b.On) })
		runs := coreRunsIn(in.Runs)
		out := api.ReviewOut{Verdict: "on", Because: []string{}, Running: load.State(load.Volume{Runs: runs, On: in.Today, Intake: metresOf(in.IntakeKm)})}
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
