package planning

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// ChangeKind is what differs between two plans.
type ChangeKind string

// The kinds of changes.
const (
	ChangeAdded   ChangeKind = "added"
	ChangeGone    ChangeKind = "gone"
	ChangeStart   ChangeKind = "start"
	ChangeCeiling ChangeKind = "ceiling"
	ChangeDays    ChangeKind = "days"
	ChangeMain    ChangeKind = "main-days"
	ChangeFits    ChangeKind = "fits"
	ChangeMinutes ChangeKind = "minutes"
	ChangePhase   ChangeKind = "phase"
	ChangeWeeks   ChangeKind = "weeks"
	ChangeOrder   ChangeKind = "order"
	ChangeSays    ChangeKind = "says"
	ChangePath    ChangeKind = "path"
	ChangeRunning ChangeKind = "running"
	ChangeCue     ChangeKind = "cue"  // how a ladder is done
	ChangeNext    ChangeKind = "next" // what follows on its path
	ChangeWhen    ChangeKind = "when" // at what time of the day
)

// Change is one difference from a first plan to a second, with why where a
// reason is known.
type Change struct {
	Kind   ChangeKind `json:"kind"`
	Ladder string     `json:"ladder,omitempty"`
	Name   string     `json:"name,omitempty"`
	From   string     `json:"from,omitempty"`
	To     string     `json:"to,omitempty"`
	Why    string     `json:"why,omitempty"`
}

var weekdays = [7]string{"Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"}

func dayNames(days []int) string {
	if len(days) == 0 {
		return "no day"
	}
	names := make([]string, len(days))
	for i, d := range days {
		names[i] = weekdays[d]
	}
	return strings.Join(names, ", ")
}

// Compare lists what changes from plan a to plan b: nothing for the same plan.
func Compare(a, b Proposal) []Change {
	out := []Change{}
	add := func(c Change) { out = append(out, c) }
	if a.Fits != b.Fits {
		words := map[bool]string{true: "fits the week", false: "does not fit the week"}
		add(Change{Kind: ChangeFits, From: words[a.Fits], To: words[b.Fits]})
	}
	for i, p := range b.Phases {
		if i < len(a.Phases) && a.Phases[i].Phase != p.Phase {
			add(Change{Kind: ChangePhase, Name: p.Name, From: string(a.Phases[i].Phase), To: string(p.Phase), Why: p.Why})
		}
	}
	whyGone := func(id string) string {
		for _, l := range b.Left {
			if l.Ladder == id {
				return l.Why
			}
		}
		for _, ch := range b.Choices {
			if strings.Contains(ch.Instead, a.ByLadder[id].Name) {
				return ch.Name + " stands in for it"
			}
		}
		return ""
	}
	for _, ch := range a.Choices {
		if _, ok := b.ByLadder[ch.Ladder]; !ok {
			add(Change{Kind: ChangeGone, Ladder: ch.Ladder, Name: ch.Name, Why: whyGone(ch.Ladder)})
		}
	}
	daysOf := func(p Proposal, id string) []int {
		days := []int{}
		for d, ss := range p.Days {
			for _, s := range ss {
				if slices.Contains(s.Ladders, id) && !slices.Contains(days, d) {
					days = append(days, d)
				}
			}
		}
		return days
	}
	for _, ch := range b.Choices {
		was, ok := a.ByLadder[ch.Ladder]
		if !ok {
			why := "for " + strings.Join(ch.For, ", ")
			if ch.Instead != "" {
				why = ch.Instead
			}
			add(Change{Kind: ChangeAdded, Ladder: ch.Ladder, Name: ch.Name, To: dayNames(daysOf(b, ch.Ladder)), Why: why})
			continue
		}
		if was.Start.Notch != ch.Start.Notch {
			add(Change{Kind: ChangeStart, Ladder: ch.Ladder, Name: ch.Name, From: fmt.Sprintf("notch %d", was.Start.Notch), To: fmt.Sprintf("notch %d", ch.Start.Notch)})
		}
		if was.Ceiling != ch.Ceiling {
			why := ""
			if ch.Ceiling < was.Ceiling && len(ch.Locks) > 0 {
				why = ch.Locks[0].Words
			}
			add(Change{Kind: ChangeCeiling, Ladder: ch.Ladder, Name: ch.Name, From: fmt.Sprintf("up to notch %d", was.Ceiling), To: fmt.Sprintf("up to notch %d", ch.Ceiling), Why: why})
		}
		if x, y := strings.Join(was.Then, ", "), strings.Join(ch.Then, ", "); x != y {
			add(Change{Kind: ChangeNext, Ladder: ch.Ladder, Name: ch.Name, From: orNone(x), To: orNone(y)})
		}
		if x, y := notOf(was.Notes, ch.Notes), notOf(ch.Notes, was.Notes); x != y {
			add(Change{Kind: ChangeCue, Ladder: ch.Ladder, Name: ch.Name, From: orNone(x), To: orNone(y)})
		}
		if x, y := daysOf(a, ch.Ladder), daysOf(b, ch.Ladder); !slices.Equal(x, y) {
			add(Change{Kind: ChangeDays, Ladder: ch.Ladder, Name: ch.Name, From: dayNames(x), To: dayNames(y)})
		}
	}
	if len(a.Weeks) == len(b.Weeks) {
		for i := range b.Weeks {
			if x, y := a.Weeks[i].Running, b.Weeks[i].Running; x.Class != y.Class {
				add(Change{Kind: ChangeRunning, Name: fmt.Sprintf("running in week %d", i+1), From: string(x.Class), To: string(y.Class)})
			}
		}
		for _, q := range b.Paths {
			i := slices.IndexFunc(a.Paths, func(x Path) bool { return x.Ladder == q.Ladder })
			if i < 0 || len(q.Weeks) == 0 || b.ByLadder[q.Ladder].Start.Notch != a.ByLadder[q.Ladder].Start.Notch {
				continue
			}
			if x, y := a.Paths[i].Weeks[len(q.Weeks)-1].Likely, q.Weeks[len(q.Weeks)-1].Likely; x != y {
				add(Change{Kind: ChangePath, Ladder: q.Ladder, Name: b.ByLadder[q.Ladder].Name + " likely at the end", From: fmt.Sprintf("notch %d", x), To: fmt.Sprintf("notch %d", y)})
			}
		}
	}
	for d := range 7 {
		for _, s := range b.Days[d] {
			i := slices.IndexFunc(a.Days[d], func(x Session) bool { return x.Kind == s.Kind })
			if i >= 0 && a.Days[d][i].When != s.When {
				add(Change{Kind: ChangeWhen, Name: weekdays[d], From: orNone(a.Days[d][i].When), To: orNone(s.When)})
			}
		}
	}
	if !slices.Equal(a.Layout.Main, b.Layout.Main) {
		add(Change{Kind: ChangeMain, From: dayNames(a.Layout.Main), To: dayNames(b.Layout.Main)})
	}
	if sameSet(a, b) && !slices.EqualFunc(a.Choices, b.Choices, func(x, y Choice) bool { return x.Ladder == y.Ladder }) {
		add(Change{Kind: ChangeOrder, From: order(a), To: order(b)})
	}
	if math.Abs(float64(a.Minutes.Planned-b.Minutes.Planned)) >= 1 {
		add(Change{Kind: ChangeMinutes, From: fmt.Sprintf("%d min a week", a.Minutes.Planned), To: fmt.Sprintf("%d min a week", b.Minutes.Planned)})
	}
	if len(a.Weeks) != len(b.Weeks) {
		add(Change{Kind: ChangeWeeks, From: fmt.Sprintf("%d weeks", len(a.Weeks)), To: fmt.Sprintf("%d weeks", len(b.Weeks))})
	} else {
		for i := range b.Weeks {
			if a.Weeks[i].Kind != b.Weeks[i].Kind {
				add(Change{Kind: ChangeWeeks, Name: fmt.Sprintf("week %d", i+1), From: string(a.Weeks[i].Kind), To: string(b.Weeks[i].Kind)})
			}
		}
	}
	for _, q := range Questions() {
		if x, y := a.Wishes.School.Is(q.ID), b.Wishes.School.Is(q.ID); x != y {
			from, _ := q.Position(x)
			to, _ := q.Position(y)
			add(Change{Kind: ChangeSays, Name: q.Ask, From: from.Says, To: to.Says, Why: q.Effect})
		}
	}
	return out
}

func orNone(s string) string {
	if s == "" {
		return "nothing"
	}
	return s
}

// notOf joins what stands in a list and not in another.
func notOf(list, other []string) string {
	return strings.Join(slices.DeleteFunc(slices.Clone(list), func(s string) bool { return slices.Contains(other, s) }), " ")
}

func sameSet(a, b Proposal) bool {
	if len(a.Choices) != len(b.Choices) {
		return false
	}
	for id := range a.ByLadder {
		if _, ok := b.ByLadder[id]; !ok {
			return false
		}
	}
	return true
}

func order(p Proposal) string {
	names := make([]string, len(p.Choices))
	for i, c := range p.Choices {
		names[i] = c.Name
	}
	return strings.Join(names, ", ")
}
