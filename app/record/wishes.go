package record

import (
	"fmt"
	"slices"
	"strings"

	"notchback/app"
	"notchback/core/planning"
	"notchback/core/words"
)

// CheckWishes says what is wrong with wishes.
func CheckWishes(w planning.Wishes, cat Layered) error {
	var bad app.Invalid
	for i, r := range w.Runs {
		if !slices.Contains([]planning.RunKind{planning.NoRun, planning.Easy, planning.Long, planning.Fast}, r) {
			bad.Add(fmt.Sprintf("wishes.runs[%d]", i), "%q is not a kind of run; expected easy, long, fast or nothing", r)
		}
		switch s := w.Second[i]; {
		case s != planning.NoRun && !slices.Contains([]planning.RunKind{planning.Easy, planning.Long, planning.Fast}, s):
			bad.Add(fmt.Sprintf("wishes.second[%d]", i), "%q is not a kind of run; expected easy, long, fast or nothing", s)
		case s != planning.NoRun && r == planning.NoRun:
			bad.Add(fmt.Sprintf("wishes.second[%d]", i), "a second run on %s needs a first one", words.Weekday(i))
		}
		if h := w.Hours[i]; h != nil && (*h < 0 || *h > 23) {
			bad.Add(fmt.Sprintf("wishes.hours[%d]", i), "expected 0 to 23 (you entered %d)", *h)
		}
		if m := w.Minutes[i]; m < 0 || m > 240 {
			bad.Add(fmt.Sprintf("wishes.minutes[%d]", i), "expected 0 to 240 (you entered %d minutes)", m)
		}
	}
	if w.Weeks < planning.MinWeeks || w.Weeks > planning.MaxWeeks {
		bad.Add("wishes.weeks", "%d can't be; a block has %d to %d weeks", w.Weeks, planning.MinWeeks, planning.MaxWeeks)
	}
	if w.Sessions < 1 || w.Sessions > 5 {
		bad.Add("wishes.sessions", "expected 1 to 5 main sessions a week (you entered %d)", w.Sessions)
	}
	if h := w.Later; h != nil && (*h < 0 || *h > 23) {
		bad.Add("wishes.later", "expected 0 to 23 (you entered %d)", *h)
	}
	if h := w.RunHour; h != nil && (*h < 0 || *h > 23) {
		bad.Add("wishes.runHour", "expected 0 to 23 (you entered %d)", *h)
	}
	for i, k := range w.Owned {
		if _, ok := cat.KitNamed(k); !ok {
			bad.Add(fmt.Sprintf("wishes.owned[%d]", i), "%q is not on the list of kit", k)
		}
	}
	for i, id := range w.Added {
		if _, ok := cat.Ladder(id); !ok {
			bad.Add(fmt.Sprintf("wishes.added[%d]", i), "%q is not a ladder", id)
		}
	}
	for i, x := range w.Excluded {
		if _, ok := cat.Ladder(x.Ladder); !ok {
			bad.Add(fmt.Sprintf("wishes.excluded[%d].ladder", i), "%q is not a ladder", x.Ladder)
		}
		if strings.TrimSpace(x.Reason) == "" {
			bad.Add(fmt.Sprintf("wishes.excluded[%d].reason", i), "say why it is left out")
		}
	}
	if r := w.Race; r != nil && (r.Km < 0 || r.Km > 400) {
		bad.Add("wishes.race.km", "expected 0 to 400 (you entered %g km)", r.Km)
	}
	if err := w.School.Check(); err != nil {
		bad.Add("wishes.school", "%s", err)
	}
	return bad.Or()
}
