package app

import (
	"context"
	"strings"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/store"
)

// RunnerInput is what a coach writes about a runner.
type RunnerInput struct {
	Name                string    `json:"name" maxLength:"120"`
	Birth               *day.Date `json:"birth,omitempty" format:"date"`
	Sex                 string    `json:"sex,omitempty" enum:"female,male,other," doc:"For norms only"`
	MassKg              *float64  `json:"massKg,omitempty"`
	WeeklyKm            *float64  `json:"weeklyKm,omitempty" doc:"Mean of the last four weeks"`
	Goal                string    `json:"goal,omitempty" maxLength:"300"`
	Note                string    `json:"note,omitempty" maxLength:"4000"`
	FirstStructuredWork *bool     `json:"firstStructuredWork,omitempty"`
	RecentVolumeRise    *bool     `json:"recentVolumeRise,omitempty"`
	IntakeFirstStep     *int      `json:"intakeFirstStep,omitempty" doc:"First-step pain at intake, 0–10"`
}

// Runner is a runner as the coach sees one.
type Runner struct {
	RunnerInput
	ID      string `json:"id"`
	Version int    `json:"version" doc:"Sent back as If-Match when saving"`
	Age     *int   `json:"age,omitempty"`
}

// Bounds of what is accepted about a person.
const (
	oldest      = 110
	youngest    = 5
	minMassKg   = 15
	maxMassKg   = 250
	maxWeeklyKm = 400
)

func (in RunnerInput) check(today day.Date) error {
	var bad Invalid
	if strings.TrimSpace(in.Name) == "" {
		bad.add("name", "give the runner a name")
	}
	if b := in.Birth; b != nil {
		switch age := day.Age(*b, today); {
		case *b > today:
			bad.add("birth", "%s is in the future", *b)
		case age < youngest || age > oldest:
			bad.add("birth", "that makes the runner %d; expected %d to %d years", age, youngest, oldest)
		}
	}
	if m := in.MassKg; m != nil && (*m < minMassKg || *m > maxMassKg) {
		bad.add("massKg", "%g kg can't be; expected %d to %d kg", *m, minMassKg, maxMassKg)
	}
	if k := in.WeeklyKm; k != nil && (*k < 0 || *k > maxWeeklyKm) {
		bad.add("weeklyKm", "%g km a week can't be; expected 0 to %d km", *k, maxWeeklyKm)
	}
	if p := in.IntakeFirstStep; p != nil && (*p < 0 || *p > body.PainMax) {
		bad.add("intakeFirstStep", "%d can't be; pain goes from 0 to 10", *p)
	}
	return bad.or()
}

func (in RunnerInput) record() store.Runner {
	return store.Runner{
		Name: strings.TrimSpace(in.Name), Birth: timePtr(in.Birth), Sex: in.Sex, MassKg: in.MassKg, WeeklyKm: in.WeeklyKm,
		Goal: in.Goal, Note: in.Note, FirstStructuredWork: in.FirstStructuredWork, RecentVolumeRise: in.RecentVolumeRise,
		IntakeFirstStep: in.IntakeFirstStep,
	}
}

func runnerView(r store.Runner, today day.Date) Runner {
	out := Runner{ID: r.ID, Version: r.Version, RunnerInput: RunnerInput{
		Name: r.Name, Birth: datePtr(r.Birth), Sex: r.Sex, MassKg: r.MassKg, WeeklyKm: r.WeeklyKm, Goal: r.Goal, Note: r.Note,
		FirstStructuredWork: r.FirstStructuredWork, RecentVolumeRise: r.RecentVolumeRise, IntakeFirstStep: r.IntakeFirstStep,
	}}
	if out.Birth != nil {
		age := day.Age(*out.Birth, today)
		out.Age = &age
	}
	return out
}

func personOf(r store.Runner) body.Person {
	return body.Person{
		Birth: datePtr(r.Birth), Sex: r.Sex, MassKg: r.MassKg,
		FirstStructuredWork: r.FirstStructuredWork, RecentVolumeRise: r.RecentVolumeRise,
	}
}

// AddRunner stores a new runner.
func (a *App) AddRunner(ctx context.Context, act Actor, key string, in RunnerInput) (Runner, error) {
	today := a.Today(act)
	if err := in.check(today); err != nil {
		return Runner{}, err
	}
	var out Runner
	err := a.write(ctx, act, func(tx *store.Tx) (err error) {
		out, err = once(ctx, tx, key, in, func() (Runner, error) {
			r, err := tx.AddRunner(ctx, in.record())
			if err != nil {
				return Runner{}, err
			}
			return runnerView(r, today), tx.Note(ctx, r.ID, a.now(), &act.User.ID, "runner", r.Name+" added", nil)
		})
		return err
	})
	return out, err
}

// Runner returns one runner and notes the look in the access log.
func (a *App) Runner(ctx context.Context, act Actor, id string) (Runner, error) {
	var out Runner
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		r, err := tx.Runner(ctx, id)
		if err != nil {
			return err
		}
		out = runnerView(r, a.Today(act))
		return tx.LogAccess(ctx, id, act.User.ID, "read")
	})
	return out, err
}

// Changed is the error of a save over someone else's: it carries what stands now.
type Changed struct{ Now Runner }

func (Changed) Error() string {
	return "someone else saved this runner in the meantime; what you typed is kept, compare and save again"
}

// UpdateRunner saves a runner at the version the coach saw; a Changed error
// when someone else saved first.
func (a *App) UpdateRunner(ctx context.Context, act Actor, id string, version int, in RunnerInput) (Runner, error) {
	today := a.Today(act)
	if err := in.check(today); err != nil {
		return Runner{}, err
	}
	var out Runner
	stale := false
	err := a.write(ctx, act, func(tx *store.Tx) error {
		before, err := tx.Runner(ctx, id)
		if err != nil {
			return err
		}
		if before.Version != version {
			stale = true
			out = runnerView(before, today)
			return nil
		}
		rec := in.record()
		rec.ID, rec.Version = id, version
		r, err := tx.UpdateRunner(ctx, rec)
		if err != nil {
			return err
		}
		out = runnerView(r, today)
		if err := tx.LogAccess(ctx, id, act.User.ID, "write"); err != nil {
			return err
		}
		return tx.Note(ctx, id, a.now(), &act.User.ID, "runner", "Profile changed", map[string]any{"before": runnerView(before, today).RunnerInput, "after": out.RunnerInput})
	})
	if err == nil && stale {
		return Runner{}, Changed{out}
	}
	return out, err
}

// BenchItem is one runner on the bench with what is next.
type BenchItem struct {
	ID            string    `json:"id"`
	Name          string    `json:"name"`
	Goal          string    `json:"goal"`
	Age           *int      `json:"age,omitempty"`
	LastScreening *day.Date `json:"lastScreening,omitempty" format:"date"`
	LastLog       *day.Date `json:"lastLog,omitempty" format:"date"`
	BlockWeek     *int      `json:"blockWeek,omitempty" doc:"Week of the present block, from 1"`
	BlockWeeks    *int      `json:"blockWeeks,omitempty"`
	Next          NextStep  `json:"next"`
}

// NextStep is what a runner needs from the coach.
type NextStep struct {
	Kind string `json:"kind" enum:"flag,stopped,decide,finish-screening,screen,plan,silent,block-over,none"`
	Text string `json:"text"`
	// Screening is the unfinished one, where there is one.
	Screening string `json:"screening,omitempty"`
}

// urgency orders the bench.
var urgency = map[string]int{
	"flag": 0, "stopped": 1, "decide": 2, "finish-screening": 3, "silent": 4, "block-over": 5, "plan": 6, "screen": 7, "none": 8,
}

// pageSize is the most runners one page of the bench holds.
const pageSize = 200

// Bench lists the practice's runners, those who need the coach first.
func (a *App) Bench(ctx context.Context, act Actor, search string, page int) ([]BenchItem, error) {
	var rows []store.BenchRow
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		rows, err = tx.Bench(ctx, strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(search), pageSize, pageSize*max(0, page))
		return err
	})
	if err != nil {
		return nil, err
	}
	today := a.Today(act)
	out := make([]BenchItem, len(rows))
	for i, r := range rows {
		it := BenchItem{
			ID: r.ID, Name: r.Name, Goal: r.Goal, LastScreening: datePtr(r.LastScreening), LastLog: datePtr(r.LastLog),
			BlockWeeks: r.BlockWeeks, Next: nextStep(r, today),
		}
		if b := datePtr(r.Birth); b != nil {
			age := day.Age(*b, today)
			it.Age = &age
		}
		if s := datePtr(r.BlockStart); s != nil {
			week := max(1, int(today-*s)/7+1)
			it.BlockWeek = &week
		}
		out[i] = it
	}
	sortByUrgency(out)
	return out, nil
}

func nextStep(r store.BenchRow, today day.Date) NextStep {
	start := datePtr(r.BlockStart)
	last := datePtr(r.LastLog)
	if start != nil && (last == nil || *last < *start) {
		last = start
	}
	switch {
	case r.Flags > 0:
		return NextStep{Kind: "flag", Text: "See a clinician: a flag stands"}
	case r.Halted > 0:
		return NextStep{Kind: "stopped", Text: "A ladder is stopped; look at the mornings"}
	case r.Proposed > 0:
		return NextStep{Kind: "decide", Text: plural(r.Proposed, "step up", "steps up") + " to decide"}
	case r.OpenScreening != nil:
		return NextStep{Kind: "finish-screening", Text: "Screening not finished", Screening: *r.OpenScreening}
	case r.LastScreening == nil:
		return NextStep{Kind: "screen", Text: "Screen first"}
	case r.BlockID == nil:
		return NextStep{Kind: "plan", Text: "Screened; make a block"}
	case start != nil && today >= *start+day.Date(7**r.BlockWeeks):
		return NextStep{Kind: "block-over", Text: "The block is over; screen again"}
	case last != nil && adjust.Silent(*last, today):
		return NextStep{Kind: "silent", Text: "No session for " + plural(int(today-*last), "day", "days")}
	}
	return NextStep{Kind: "none", Text: "On the way"}
}
