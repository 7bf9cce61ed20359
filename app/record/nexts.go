package record

import (
	"notchback/app"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/words"
)

// NextView is a ladder that may give way to the next of its path, in words.
type NextView struct {
	Ladder  string        `json:"ladder"`
	Name    string        `json:"name"`
	To      string        `json:"to"`
	ToName  string        `json:"toName"`
	Notch   int           `json:"notch" doc:"Where it begins"`
	Words   string        `json:"words" doc:"The dose it begins with"`
	Finding string        `json:"finding" doc:"What it works on"`
	Why     planning.Exit `json:"why" enum:"top,calm,aim"`
	Because string        `json:"because"`
	Wait    string        `json:"wait,omitempty" doc:"Why it waits; empty where it may be made"`
}

// NextsNow are the changes due in the block today.
func (f *Frame) NextsNow() []course.Next {
	if f.Block.EndedAt != nil || f.Care() != nil || f.Illness.Now {
		return nil
	}
	return f.Book.Nexts(f.Layers.InUse())
}

func (f *Frame) NextViews() []NextView {
	out := []NextView{}
	for _, n := range f.NextsNow() {
		out = append(out, NextView{Ladder: n.From, Name: f.Name(n.From), To: n.To.ID, ToName: n.To.Name, Notch: n.Start.Notch, Words: words.Notch(n.To.At(n.Start.Notch)),
			Finding: n.Finding, Why: n.Why, Because: words.Exit(n.Why, f.Name(n.From), n.Finding), Wait: words.NextWait(n.Wait)})
	}
	return out
}

// TriedView is how a ladder felt when an injured runner tried the whole.
type TriedView struct {
	Ladder string `json:"ladder"`
	Name   string `json:"name"`
	Words  string `json:"words"`
	Keep   bool   `json:"keep" doc:"Among what felt best"`
}

// TriedViews say how the first try of an injured runner's block felt, the best first.
func (f *Frame) TriedViews() []TriedView {
	out := []TriedView{}
	if f.Block.EndedAt != nil {
		return out
	}
	var tried []course.Tried
	for _, it := range f.Items {
		p := f.PrescriptionOf(it.PrescriptionID)
		if p.ID == "" || it.Done == nil || *it.Done == 0 || f.Ladders[p.ID].Part != nil || f.LeftOut(p.Ladder, f.Today) != "" {
			continue
		}
		t := course.Tried{Ladder: p.Ladder, On: app.DateOf(it.On), Walk: it.Litmus}
		if it.Pain != nil {
			t.Pain = *it.Pain
		}
		tried = append(tried, t)
	}
	for _, x := range course.FirstTry(f.Hurts(), f.Start, f.Today, tried) {
		out = append(out, TriedView{x.Ladder, f.Name(x.Ladder), words.Tried(x), x.Keep})
	}
	return out
}

// QuietWord is said when nothing hurt for a week; "" otherwise.
func (f *Frame) QuietWord() string {
	since, ok := f.Book.QuietWeek()
	if !ok {
		return ""
	}
	var causes []string
	for _, c := range f.Plan.Choices {
		for _, w := range c.For {
			if c.Role != planning.RoleBase && c.Role != planning.RoleGoal && !contains(causes, w) {
				causes = append(causes, w)
			}
		}
	}
	return words.Quiet(since, causes)
}

func contains(list []string, s string) bool {
	for _, x := range list {
		if x == s {
			return true
		}
	}
	return false
}

// EndWord says in the last week of a block what follows it.
func (f *Frame) EndWord() string {
	end, then, ok := f.Book.Ends()
	if !ok || f.Block.EndedAt != nil {
		return ""
	}
	return words.BlockEnds(end, f.Today, then)
}

// DueRetest is the re-test that is due, in words.
func (f *Frame) DueRetest() string {
	on, w, ok := f.Book.Retest()
	if !ok || f.Block.EndedAt != nil {
		return ""
	}
	what := "all tests"
	if !w.All {
		what = app.Plural(len(w.Retest), "test", "tests") + " of what is worked on"
	}
	return what + ", " + onDay(on, f.Today)
}

func onDay(on, today day.Date) string {
	switch {
	case on == today:
		return "today"
	case on == today+1:
		return "tomorrow"
	}
	return "since " + on.Words()
}

// OfferAgain are ladders left out four weeks ago or more, that may be tried again.
func (f *Frame) OfferAgain() []string {
	var out []string
	for _, x := range f.Plan.Wishes.Excluded {
		if f.Today-x.On >= planning.OfferAgain {
			out = append(out, f.Name(x.Ladder))
		}
	}
	for _, c := range f.Changes {
		if c.Kind == "leave-out" && f.Today-c.On >= planning.OfferAgain && f.LeftOut(c.Ladder, f.Today) != "" && !contains(out, f.Name(c.Ladder)) {
			out = append(out, f.Name(c.Ladder))
		}
	}
	return out
}
