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
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/screening"
	"notchback/store"
)

// BenchItem is one runner on the bench with what is next.
type BenchItem struct {
	ID            string        `json:"id"`
	Name          string        `json:"name"`
	Goal          string        `json:"goal"`
	Age           *int          `json:"age,omitempty"`
	LastScreening *day.Date     `json:"lastScreening,omitempty" format:"date"`
	LastLog       *day.Date     `json:"lastLog,omitempty" format:"date"`
	BlockWeek     *int          `json:"blockWeek,omitempty" doc:"Week of the present block, from 1"`
	BlockWeeks    *int          `json:"blockWeeks,omitempty"`
	Heard         int           `json:"heard" doc:"What came from the runner's phone since a coach last looked"`
	Phases        []string      `json:"phases" nullable:"false" doc:"Where each region stands, since when"`
	Group         Group         `json:"group" enum:"now,review,waiting,silent,well" doc:"What there is to do"`
	Hurts         []record.Hurt `json:"hurts" nullable:"false" doc:"Places that hurt"`
	Days          []Day         `json:"days" nullable:"false" doc:"The last fourteen days, oldest first"`
	Usual         *float64      `json:"usual,omitempty" doc:"First steps as usual, 0 to 10"`
	Coach         string        `json:"coach,omitempty" doc:"Who looks after them"`
	Archived      *day.Date     `json:"archived,omitempty" format:"date" doc:"Off the bench since"`
	Next          NextStep      `json:"next"`
	More          []NextStep    `json:"more" nullable:"false" doc:"What else there is"`
}

// Day is a morning and a day's running, as the bench draws them.
type Day struct {
	On        day.Date `json:"on" format:"date"`
	FirstStep *int     `json:"firstStep,omitempty" doc:"The worst of the morning's places; nothing where it is not known"`
	Metres    int      `json:"metres"`
	Above     bool     `json:"above,omitempty" doc:"Well above the usual"`
}

// BenchDays is how many days the bench draws.
const BenchDays = 14

// Group is what there is to do for a runner.
type Group string

// The groups, in the order of the bench.
const (
	Now     Group = "now"     // can't wait
	Reviews Group = "review"  // decisions wait for the coach
	Silent  Group = "silent"  // nothing came for days
	Waiting Group = "waiting" // tests or a plan are missing
	Well    Group = "well"    // nothing to do
)

var groupOrder = []Group{Now, Reviews, Silent, Waiting, Well}

// groupOf sorts a runner's most urgent step into a group.
func groupOf(n NextStep) Group {
	switch {
	case n.Loud:
		return Now
	case n.Kind == "silent":
		return Silent
	case slices.Contains([]string{"retest", "finish-screening", "plan", "screen", "block-over", "clearance"}, n.Kind):
		return Waiting
	case slices.Contains([]string{"none", "quiet", "limit", "paused"}, n.Kind):
		return Well
	}
	return Reviews
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
	"care": -3, "flag": -2, "ask": -1, "unreviewed": 0, "flare": 1, "no-running": 2, "stopped": 3, "tender": 4, "gate": 5, "decide": 6, "change": 7, "silent": 8, "review": 9, "spike": 10, "retest": 11, "phase": 12, "paused": 13, "relook": 14, "quiet": 15, "again": 16, "block-ends": 17,
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
	out := BenchPage{Items: []BenchItem{}}
	today := a.Today(act)
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		rows, err := tx.Bench(ctx, strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(search), nil, today.Time(), record.ReviewMonday(today).Time())
		if err != nil {
			return err
		}
		list := items(rows, today)
		sortByUrgency(list)
		out.Total = len(list)
		from := min(len(list), BenchSize*max(0, page))
		out.Items = append(out.Items, list[from:min(len(list), from+BenchSize)]...)
		return draw(ctx, tx, out.Items, today)
	})
	return out, err
}

// Bar is what stands at the head of every page of a runner.
type Bar struct {
	BenchItem
	Screenings    int      `json:"screenings"`
	Clips         int      `json:"clips"`
	OpenScreening string   `json:"openScreening,omitempty" doc:"One that is not finished"`
	MassKg        *float64 `json:"massKg,omitempty"`
	WeeklyKm      *float64 `json:"weeklyKm,omitempty"`
}

// Bar returns the head of a runner's pages.
func (a *Overview) Bar(ctx context.Context, act app.Actor, runner string) (Bar, error) {
	var out Bar
	today := a.Today(act)
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		rows, err := tx.Bench(ctx, "", &runner, today.Time(), record.ReviewMonday(today).Time())
		if err != nil {
			return err
		}
		if len(rows) == 0 {
			return app.ErrNotFound
		}
		r := rows[0]
		list := items(rows, today)
		if err := draw(ctx, tx, list, today); err != nil {
			return err
		}
		out = Bar{BenchItem: list[0], Screenings: r.Screenings, Clips: r.Clips, MassKg: r.KgNow, WeeklyKm: r.WeeklyKm}
		if r.OpenScreening != nil {
			out.OpenScreening = *r.OpenScreening
		}
		return nil
	})
	return out, err
}

// draw fills in the last fourteen days of runners.
func draw(ctx context.Context, tx *store.Tx, list []BenchItem, today day.Date) error {
	ids := make([]string, len(list))
	at := map[string]int{}
	first := today - BenchDays + 1
	for i := range list {
		ids[i], at[list[i].ID] = list[i].ID, i
		list[i].Days = make([]Day, BenchDays)
		for k := range list[i].Days {
			list[i].Days[k].On = first + day.Date(k)
		}
	}
	days, err := tx.BenchDays(ctx, ids, first.Time(), today.Time())
	for _, d := range days {
		x := &list[at[d.Runner]].Days[app.DateOf(d.On)-first]
		x.FirstStep, x.Metres = d.FirstStep, d.Metres
		if usual := list[at[d.Runner]].Usual; d.FirstStep != nil && usual != nil {
			x.Above = adjust.Jumped(body.Pain(*d.FirstStep), *usual)
		}
	}
	return err
}

// hurtsOf are the places that hurt: as the running block knows them, else as the last
// screening was told.
func hurtsOf(r store.BenchRow, st record.BenchState) []record.Hurt {
	if r.BlockID != nil && st.Hurts != nil {
		return st.Hurts
	}
	out := []record.Hurt{}
	var told []screening.Complaint
	if len(r.Complaints) == 0 || json.Unmarshal(r.Complaints, &told) != nil {
		return out
	}
	for _, c := range told {
		h := record.Hurt{Zone: c.Zone, Side: c.Side, Name: c.Zone.Name()}
		for _, p := range []*body.Pain{c.Now, c.FirstSteps} {
			if p != nil {
				h.Pain = max(h.Pain, int(*p))
			}
		}
		out = append(out, h)
	}
	return out
}

func items(rows []store.BenchRow, today day.Date) []BenchItem {
	list := make([]BenchItem, len(rows))
	for i, r := range rows {
		steps := nextSteps(r, today)
		var st record.BenchState
		_ = json.Unmarshal(r.State, &st) // one that can't be read is among the steps
		it := BenchItem{
			ID: r.ID, Name: r.Name, Goal: r.Goal, LastScreening: app.DatePtr(r.LastScreening), LastLog: app.DatePtr(r.LastLog),
			BlockWeeks: r.BlockWeeks, Next: steps[0], More: steps[1:], Phases: phaseWords(r), Heard: r.Heard,
			Group: groupOf(steps[0]), Hurts: hurtsOf(r, st), Days: []Day{},
		}
		switch {
		case r.BlockID != nil && len(r.State) > 0:
			it.Usual = &st.Usual
		case r.UsualStep != nil:
			usual := float64(*r.UsualStep)
			it.Usual = &usual
		}
		if r.Coach != nil {
			it.Coach = *r.Coach
		}
		if r.Archived != nil {
			since := app.DateOf(*r.Archived)
			it.Archived = &since
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
	return list
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
		add("flare", "Flare: no loading of this area until three quiet mornings", strings.Join(st.Flares, ", "))
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
		return cmp.Or(cmp.Compare(slices.Index(groupOrder, a.Group), slices.Index(groupOrder, b.Group)), cmp.Compare(urgency[a.Next.Kind], urgency[b.Next.Kind]))
	})
}

// Overview is the room of everybody's runners.
type Overview struct{ *record.Book }
