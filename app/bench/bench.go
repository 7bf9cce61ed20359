package bench

import (
	"cmp"
	"context"
	"encoding/json"
	"slices"
	"strings"

	"notchback/app"
	"notchback/app/record"
	"notchback/core/adjust"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/store"
)

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
	Heard         int        `json:"heard" doc:"What came from the runner's phone since a coach last looked"`
	Phases        []string   `json:"phases" nullable:"false" doc:"Where each region stands, since when"`
	Next          NextStep   `json:"next"`
	More          []NextStep `json:"more" nullable:"false" doc:"What else there is"`
}

// NextStep is what a runner needs from the coach, with the reason.
type NextStep struct {
	Kind string `json:"kind" enum:"care,flag,ask,unreviewed,limit,flare,stopped,tender,gate,decide,no-running,review,spike,silent,retest,change,phase,quiet,again,paused,relook,clearance,finish-screening,block-ends,block-over,plan,screen,none"`
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
	"care": -3, "flag": -2, "ask": -1, "unreviewed": 0, "flare": 1, "no-running": 2, "stopped": 3, "tender": 4, "gate": 5, "decide": 6, "change": 7, "review": 8, "spike": 9, "silent": 10, "retest": 11, "phase": 12, "paused": 13, "relook": 14, "quiet": 15, "again": 16, "block-ends": 17,
	"clearance": 18, "finish-screening": 19, "block-over": 20, "plan": 21, "screen": 22, "limit": 23, "none": 24,
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
func (a *Overview) Bench(ctx context.Context, act app.Actor, search string, page int) (BenchPage, error) {
	var rows []store.BenchRow
	out := BenchPage{Items: []BenchItem{}}
	today := a.Today(act)
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		rows, err = tx.Bench(ctx, strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(search), today.Time(), record.ReviewMonday(today).Time())
		return err
	})
	if err != nil {
		return out, err
	}
	list := make([]BenchItem, len(rows))
	for i, r := range rows {
		steps := nextSteps(r, today)
		it := BenchItem{
			ID: r.ID, Name: r.Name, Goal: r.Goal, LastScreening: app.DatePtr(r.LastScreening), LastLog: app.DatePtr(r.LastLog),
			BlockWeeks: r.BlockWeeks, Next: steps[0], More: steps[1:], Phases: phaseWords(r), Heard: r.Heard,
		}
		if b := app.DatePtr(r.Birth); b != nil {
			age := day.Age(*b, today)
			it.Age = &age
		}
		if s := app.DatePtr(r.BlockStart); s != nil {
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
	var st record.BenchState
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
	var st record.BenchState
	if len(r.State) > 0 {
		if err := json.Unmarshal(r.State, &st); err != nil {
			why := "the last look at this runner can't be read"
			r.Unreviewed = &why
		}
	}
	start := app.DatePtr(r.BlockStart)
	last := app.DatePtr(r.LastLog)
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
	if st.Retest != "" && r.BlockID != nil {
		add("retest", "Test again: "+st.Retest, "as the plan says")
	}
	if len(st.Nexts) > 0 && r.BlockID != nil {
		add("change", "Next on the path: "+strings.Join(st.Nexts, "; "), "it waits for you")
	}
	if len(st.Moved) > 0 && r.BlockID != nil {
		add("phase", "The phase changed: "+strings.Join(st.Moved, ", "), "look whether the plan still fits")
	}
	if st.Quiet != "" && r.BlockID != nil {
		add("quiet", "Quiet for a week", st.Quiet)
	}
	if len(st.Again) > 0 && r.BlockID != nil {
		add("again", "Try again? "+strings.Join(st.Again, ", "), "left out four weeks ago or longer")
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
		add("stopped", "A ladder is stopped; look at the mornings", app.Plural(r.Halted, "side stands", "sides stand")+" stopped")
	}
	if st.Urgent {
		add("no-running", st.Advice, "")
	}
	if st.OutTo != nil && *st.OutTo >= today {
		add("tender", "A bone is tender: nothing barefoot up to "+st.OutTo.Words(), "ask about it; a second time goes to a clinician")
	}
	for _, o := range st.Opened {
		if int(today-o.On) < record.OpenedFor {
			add("gate", "A gate opened: "+o.Name, "on "+o.On.Words())
		}
	}
	if r.Proposed > 0 {
		add("decide", app.Plural(r.Proposed, "step up", "steps up")+" to decide", "")
	}
	over := start != nil && today >= *start+day.Date(7**r.BlockWeeks)
	if r.BlockID != nil && !r.Reviewed && start != nil && *start < today.Monday() && !over {
		add("review", "Review the week of "+record.ReviewMonday(today).Words(), "")
	}
	if st.Relook != nil && *st.Relook <= today {
		add("relook", "Look again: "+strings.ToLower(st.Cue), "since "+st.Relook.Words())
	}
	if st.Warning != "" && r.BlockID != nil {
		add("spike", st.Warning, "")
	}
	if last != nil && r.BlockID != nil && !over && adjust.Silent(*last, today) {
		add("silent", "No session for "+app.Plural(int(today-*last), "day", "days"), "the next one starts lower")
	}
	if c := app.DatePtr(r.Clearance); c != nil && r.ClearanceFor != nil {
		add("clearance", "A clearance ends on "+c.Words(), *r.ClearanceFor)
	}
	if r.OpenScreening != nil {
		out = append(out, NextStep{Kind: "finish-screening", Text: "Screening not finished", Screening: *r.OpenScreening})
	}
	switch {
	case over:
		add("block-over", "The block is over; screen again", st.Ends)
	case st.Ends != "" && r.BlockID != nil:
		add("block-ends", "The last week of the block", st.Ends)
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

func sortByUrgency(items []BenchItem) {
	slices.SortStableFunc(items, func(a, b BenchItem) int {
		return cmp.Compare(urgency[a.Next.Kind], urgency[b.Next.Kind])
	})
}

// Overview is the room of everybody's runners.
type Overview struct{ *record.Book }
