package app

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/planning"
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
	ID           string     `json:"id"`
	Version      int        `json:"version" doc:"Sent back as If-Match when saving"`
	Age          *int       `json:"age,omitempty"`
	ImportedFrom string     `json:"importedFrom,omitempty" doc:"The practice a file says it comes from"`
	ImportedAt   *time.Time `json:"importedAt,omitempty"`
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
	out := Runner{ID: r.ID, Version: r.Version, ImportedFrom: r.ImportedFrom, ImportedAt: r.ImportedAt, RunnerInput: RunnerInput{
		Name: r.Name, Birth: datePtr(r.Birth), Sex: r.Sex, MassKg: r.MassKg, WeeklyKm: r.WeeklyKm, Goal: r.Goal, Note: r.Note,
		FirstStructuredWork: r.FirstStructuredWork, RecentVolumeRise: r.RecentVolumeRise, IntakeFirstStep: r.IntakeFirstStep,
	}}
	if out.Birth != nil {
		age := day.Age(*out.Birth, today)
		out.Age = &age
	}
	return out
}

// AddRunner stores a new runner.
func (a *App) AddRunner(ctx context.Context, act Actor, key string, in RunnerInput) (Runner, error) {
	today := a.Today(act)
	if err := in.check(today); err != nil {
		return Runner{}, err
	}
	var out Runner
	err := a.write(ctx, act, func(tx *store.Tx) (err error) {
		out, err = once(ctx, a, tx, act, asked{"addRunner", "", key}, in, func() (Runner, error) {
			r, err := tx.AddRunner(ctx, in.record())
			if err != nil {
				return Runner{}, err
			}
			if err := tx.LogAccess(ctx, a.now(), store.Access{Runner: &r.ID, User: &act.User.ID, Action: "addRunner"}, false); err != nil {
				return Runner{}, err
			}
			return runnerView(r, today), tx.Note(ctx, r.ID, a.now(), &act.User.ID, "runner", r.Name+" added", nil)
		})
		return err
	})
	return out, err
}

// Runner returns one runner.
func (a *App) Runner(ctx context.Context, act Actor, id string) (Runner, error) {
	var out Runner
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		r, err := tx.Runner(ctx, id)
		if err != nil {
			return err
		}
		out = runnerView(r, a.Today(act))
		return nil
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
		return tx.Note(ctx, id, a.now(), &act.User.ID, "runner", "Profile changed", map[string]any{"before": runnerView(before, today).RunnerInput, "after": out.RunnerInput})
	})
	if err == nil && stale {
		return Runner{}, Changed{out}
	}
	return out, err
}

// BenchItem is one runner on the bench with what is next.
type BenchItem struct {
	ID            string     `json:"id"`
	Name          string     `json:"name"`
	Goal          string     `json:"goal"`
	Age           *int       `json:"age,omitempty"`
	LastScreening *day.Date  `json:"lastScreening,omitempty" format:"date"`
	LastLog       *day.Date  `json:"lastLog,omitempty" format:"date"`
	BlockWeek     *int       `json:"blockWeek,omitempty" doc:"Week of the present block, from 1"`
	BlockWeeks    *int       `json:"blockWeeks,omitempty"`
	Phases        []string   `json:"phases" nullable:"false" doc:"Where each region stands, since when"`
	Next          NextStep   `json:"next"`
	More          []NextStep `json:"more" nullable:"false" doc:"What else there is"`
}

// NextStep is what a runner needs from the coach, with the reason.
type NextStep struct {
	Kind string `json:"kind" enum:"care,flag,ask,unreviewed,limit,flare,stopped,tender,gate,decide,no-running,review,spike,silent,retest,paused,relook,clearance,finish-screening,block-over,plan,screen,none"`
	Text string `json:"text"`
	Why  string `json:"why,omitempty"`
	// Loud says that it can't wait.
	Loud bool `json:"loud,omitempty"`
	// Screening is the unfinished one, where there is one.
	Screening string `json:"screening,omitempty"`
}

// urgency orders the bench: what hurts first, then what opened, what waits for
// the coach, what is planned too big, who is silent, what ends.
var urgency = map[string]int{
	"care": -3, "flag": -2, "ask": -1, "unreviewed": 0, "flare": 1, "no-running": 2, "stopped": 3, "tender": 4, "gate": 5, "decide": 6, "review": 7, "spike": 8, "silent": 9, "retest": 10, "paused": 11, "relook": 12,
	"clearance": 13, "finish-screening": 14, "block-over": 15, "plan": 16, "screen": 17, "limit": 18, "none": 19,
}

// loud are the steps that can't wait.
var loud = []string{"care", "flag", "ask", "unreviewed", "flare", "stopped", "tender", "no-running", "spike"}

// BenchSize is the most runners one page of the bench holds.
const BenchSize = 100

// BenchPage is a part of the bench.
type BenchPage struct {
	Items []BenchItem `json:"items" nullable:"false"`
	Total int         `json:"total" doc:"Runners on all pages"`
}

// Bench returns the runners whose name has search in it, those who need the coach
// first of all pages, and page counting from 0.
func (a *App) Bench(ctx context.Context, act Actor, search string, page int) (BenchPage, error) {
	var rows []store.BenchRow
	out := BenchPage{Items: []BenchItem{}}
	today := a.Today(act)
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		rows, err = tx.Bench(ctx, strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(search), today.Time(), reviewMonday(today).Time())
		return err
	})
	if err != nil {
		return out, err
	}
	list := make([]BenchItem, len(rows))
	for i, r := range rows {
		steps := nextSteps(r, today)
		it := BenchItem{
			ID: r.ID, Name: r.Name, Goal: r.Goal, LastScreening: datePtr(r.LastScreening), LastLog: datePtr(r.LastLog),
			BlockWeeks: r.BlockWeeks, Next: steps[0], More: steps[1:], Phases: phaseWords(r),
		}
		if b := datePtr(r.Birth); b != nil {
			age := day.Age(*b, today)
			it.Age = &age
		}
		if s := datePtr(r.BlockStart); s != nil {
			week := max(1, int(today-*s)/7+1)
			it.BlockWeek = &week
		}
		list[i] = it
	}
	sortByUrgency(list)
	out.Total = len(list)
	from := min(len(list), BenchSize*max(0, page))
	out.Items = append(out.Items, list[from:min(len(list), from+BenchSize)]...)
	return out, nil
}

// phaseWords say where the regions of a runner with a block stand, those alike
// together.
func phaseWords(r store.BenchRow) []string {
	out := []string{}
	var st benchState
	if r.BlockID == nil || json.Unmarshal(r.State, &st) != nil {
		return out
	}
	names := map[string][]string{}
	var order []string
	for _, p := range st.Phases {
		tail := string(p.Phase) + " since " + p.Since.Words()
		if p.Phase == planning.Calm || p.Phase == planning.Restore {
			tail += " (" + p.Why + ")"
		}
		if names[tail] == nil {
			order = append(order, tail)
		}
		names[tail] = append(names[tail], p.Name)
	}
	for _, tail := range order {
		who := strings.Join(names[tail], ", ")
		if len(names[tail]) == len(st.Phases) {
			who = "all regions"
		}
		out = append(out, who+": "+tail)
	}
	return out
}

// nextSteps are all that a runner needs, the most urgent first.
func nextSteps(r store.BenchRow, today day.Date) []NextStep {
	var st benchState
	if len(r.State) > 0 {
		if err := json.Unmarshal(r.State, &st); err != nil {
			why := "the last look at this runner can't be read"
			r.Unreviewed = &why
		}
	}
	start := datePtr(r.BlockStart)
	last := datePtr(r.LastLog)
	if start != nil && (last == nil || *last < *start) {
		last = start
	}
	var out []NextStep
	add := func(kind, text, why string) { out = append(out, NextStep{Kind: kind, Text: text, Why: why}) }
	flags := st.Flags
	if why := r.Unreviewed; why != nil {
		add("unreviewed", "Could not be reviewed", *why)
	}
	if len(st.Care) > 0 {
		add("care", "Get care now", strings.Join(st.Care, "; "))
	}
	if len(st.Refer) > 0 {
		add("flag", "A clinician looks first", strings.Join(st.Refer, "; "))
	} else if len(r.State) == 0 && r.Flags > 0 {
		add("flag", "A clinician looks first", "a flag stands")
	}
	if len(st.Asks) > 0 {
		add("ask", "Ask the safety questions: "+strings.Join(st.Asks, ", "), "a place began to hurt; what they could close is closed until then")
	}
	if len(st.Due) > 0 {
		add("retest", "Test again: "+strings.Join(st.Due, "; "), "a gate stays open 84 days on its tests")
	}
	if len(st.Paused) > 0 {
		add("paused", "Not done now: "+strings.Join(st.Paused, ", "), "the notch is kept; it comes back by rule")
	}
	if len(flags) > 0 {
		add("limit", "Left out of the plan while it stands", strings.Join(flags, ", "))
	}
	if len(st.Flares) > 0 && r.BlockID != nil {
		add("flare", "A flare: nothing that loads it until three quiet mornings", strings.Join(st.Flares, ", "))
	} else if r.Halted > 0 {
		add("stopped", "A ladder is stopped; look at the mornings", plural(r.Halted, "side stands", "sides stand")+" stopped")
	}
	if st.Urgent {
		add("no-running", st.Advice, "")
	}
	if st.OutTo != nil && *st.OutTo >= today {
		add("tender", "A bone is tender: nothing barefoot up to "+st.OutTo.Words(), "ask about it; a second time goes to a clinician")
	}
	for _, o := range st.Opened {
		if int(today-o.On) < openedFor {
			add("gate", "A gate opened: "+o.Name, "on "+o.On.Words())
		}
	}
	if r.Proposed > 0 {
		add("decide", plural(r.Proposed, "step up", "steps up")+" to decide", "")
	}
	over := start != nil && today >= *start+day.Date(7**r.BlockWeeks)
	if r.BlockID != nil && !r.Reviewed && start != nil && *start < today.Monday() && !over {
		add("review", "Review the week of "+reviewMonday(today).Words(), "")
	}
	if st.Relook != nil && *st.Relook <= today {
		add("relook", "Look again: "+strings.ToLower(st.Cue), "since "+st.Relook.Words())
	}
	if st.Warning != "" && r.BlockID != nil {
		add("spike", st.Warning, "")
	}
	if last != nil && r.BlockID != nil && !over && adjust.Silent(*last, today) {
		add("silent", "No session for "+plural(int(today-*last), "day", "days"), "the next one starts lower")
	}
	if c := datePtr(r.Clearance); c != nil && r.ClearanceFor != nil {
		add("clearance", "A clearance ends on "+c.Words(), *r.ClearanceFor)
	}
	if r.OpenScreening != nil {
		out = append(out, NextStep{Kind: "finish-screening", Text: "Screening not finished", Screening: *r.OpenScreening})
	}
	switch {
	case over:
		add("block-over", "The block is over; screen again", "")
	case r.LastScreening == nil && r.OpenScreening == nil:
		add("screen", "Screen first", "")
	case r.LastScreening != nil && r.BlockID == nil:
		add("plan", "Screened; plan the block", "")
	}
	if len(out) == 0 {
		add("none", "On the way", "")
	}
	for i := range out {
		out[i].Loud = slices.Contains(loud, out[i].Kind)
	}
	slices.SortStableFunc(out, func(x, y NextStep) int { return urgency[x.Kind] - urgency[y.Kind] })
	return out
}
