package routine

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/internal/book"
)

var on = day.Make(2026, 10, 5)

func shelf(t testing.TB) (catalogue.Catalogue, []Routine) {
	c, err := catalogue.BuiltIn()
	require.NoError(t, err)
	l, err := BuiltIn()
	require.NoError(t, err)
	return c, l
}

func named(t testing.TB, id string) Routine {
	_, l := shelf(t)
	for _, r := range l {
		if r.ID == id {
			return r
		}
	}
	t.Fatal(id)
	return Routine{}
}

// everything is a runner with every gate open and all kit there.
func everything(c catalogue.Catalogue) For {
	birth := day.Make(1990, 1, 1)
	no := false
	f := For{Evidence: planning.Evidence{On: on, Person: body.Person{Birth: &birth, FirstStructuredWork: &no, RecentVolumeRise: &no}}}
	for _, g := range safety.Gates(safety.Evidence{On: on}) {
		f.Evidence.Gates = append(f.Evidence.Gates, safety.GateState{Gate: g.Gate, Open: true})
	}
	for _, k := range c.Kit {
		f.Evidence.Owned = append(f.Evidence.Owned, k.ID)
	}
	f.Phases = planning.Phases(f.Evidence)
	return f
}

// The minutes practice gives the nine that it gives any (from memory), within a tenth.
func TestMinutesComeWithinATenth(t *testing.T) {
	_, l := shelf(t)
	require.Len(t, l, 25)
	given := 0
	for _, r := range l {
		short, long := r.Minutes()
		assert.LessOrEqual(t, short, long, r.ID)
		if r.Range[1] == 0 {
			continue
		}
		given++
		assert.GreaterOrEqual(t, short, 0.9*float64(r.Range[0]), "%s takes %.1f min", r.ID, short)
		assert.LessOrEqual(t, long, 1.1*float64(r.Range[1]), "%s takes %.1f min", r.ID, long)
	}
	assert.Equal(t, 9, given)
	// By hand: both sides of a stretch are its rest; 10 s to change over.
	n, err := NotchOf(mustShelf(t), "range-soleus", "soleus-stretch", "2 x 30 s")
	require.NoError(t, err)
	assert.InDelta(t, 2*30*2+10, n.InRoutine(), 1e-9)
	// Both legs at once rest between sets: 3 x 10 at 2 s, twice a minute of rest.
	n, err = NotchOf(mustShelf(t), "calf-straight", "raise-two", "3 x 10")
	require.NoError(t, err)
	assert.InDelta(t, 60+120+10, n.InRoutine(), 1e-9)
}

func mustShelf(t testing.TB) catalogue.Catalogue { c, _ := shelf(t); return c }

// A page a coach can read: every routine with order, doses and minutes.
func TestTheTwentyRoutines(t *testing.T) {
	_, l := shelf(t)
	var p book.Page
	for _, r := range l {
		short, long := r.Minutes()
		p.Line("%s (%s, %d–%d a week, %.0f–%.0f min) gates %v kit %v", r.Name, r.When, r.Min, r.Max, short, long, r.Gates(), r.Equipment())
		for _, x := range r.Parts {
			more := ""
			if x.Most != nil {
				more += " … " + x.Most.Typed()
			}
			if x.Later != nil {
				more += " later " + x.Later.Typed()
			}
			for name, set := range map[string]bool{" key": x.Key} {
				if set {
					more += name
				}
			}
			if x.Long {
				more += " long only"
			}
			if x.Settled {
				more += " when calm"
			}
			if x.Sore != nil {
				more += " at " + string(rune('0'+*x.Sore)) + " or less"
			}
			p.Line("  %s %s%s [%s] %s", x.Notch.Exercise.Name, x.Notch.Dose.Typed(), more, x.Notch.Gate, x.Notch.Dose.More)
		}
	}
	p.Stands(t, "routines")
}

// Order: soft tissue before stretch of the same part, sole before calf, two legs
// before one, test first and last.
func TestOrder(t *testing.T) {
	_, l := shelf(t)
	for _, r := range l {
		seenCalf := false
		for _, p := range r.Parts {
			e := p.Notch.Exercise
			if e.Purpose != catalogue.ForRelease {
				continue
			}
			seenCalf = seenCalf || e.Part == "calf"
			if e.Part == "sole" {
				assert.False(t, seenCalf, "%s: sole before calf", r.ID)
			}
		}
		oneAt := map[string]bool{}
		for _, p := range r.Parts {
			n := p.Notch
			if n.Exercise.Purpose != catalogue.ForStrength && n.Exercise.Purpose != catalogue.ForSpring || p.Ladder == "" {
				continue
			}
			if !n.Together() {
				oneAt[p.Ladder] = true
			} else {
				assert.False(t, oneAt[p.Ladder], "%s: two legs before one (%s)", r.ID, p.Ladder)
			}
		}
	}
	for _, id := range []string{"ankle-range", "heel-day"} {
		r := named(t, id)
		assert.Equal(t, r.Parts[0].Notch.Exercise.ID, r.Parts[len(r.Parts)-1].Notch.Exercise.ID, "%s: the same test first and last", id)
	}
}

// With nothing in the way every part is done on both sides, and nothing is asked of
// anybody that the one answer closes.
func TestFittedToAnybody(t *testing.T) {
	c, l := shelf(t)
	all := everything(c)
	for _, long := range []bool{false, true} {
		all.Long = long
		for _, r := range l {
			f := r.Fit(c, all)
			for _, p := range f.Parts {
				if len(p.Dropped) > 0 {
					assert.Contains(t, []planning.LockKind{planning.LockPhase, planning.LockSchool}, p.Dropped[0].Kind, "%s: %s %s", r.ID, p.Notch.Exercise.ID, p.Dropped[0].Words)
				}
			}
			assert.Empty(t, f.Closed, r.ID)
		}
	}
}

// A part is closed by whatever closes its work, says why, and a routine whose key is
// closed isn't offered.
func TestWhatIsClosedDropsOut(t *testing.T) {
	c, _ := shelf(t)
	f := everything(c)
	five := 5
	f.Evidence.Complaints = []screening.Complaint{{Zone: "achilles-low", Side: body.Left, FirstSteps: &five, Worst: &five, Now: &five}}
	f.Phases = planning.Phases(f.Evidence)
	got := named(t, "ankle-all-round").Fit(c, f)
	for _, p := range got.Parts {
		if p.Notch.Exercise.ID == "raise-step" {
			assert.NotContains(t, p.Sides, body.Left)
		}
	}
	// The same words reach the coach.
	got = named(t, "foot-core").Fit(c, f)
	dropped := ""
	for _, p := range got.Parts {
		for _, k := range p.Dropped {
			dropped += p.Notch.Exercise.ID + ": " + k.Words + "\n"
		}
	}
	assert.Contains(t, dropped, "toeup-two")

	// Everything closed: nothing is offered.
	f.Evidence.Flags = []safety.Standing{{Flag: "F-CLOT", Level: safety.Emergency, Everything: true, Side: body.Both}}
	for _, r := range []string{"calm-heel", "quiet-sole", "heel-day", "form-from-the-top"} {
		x := named(t, r).Fit(c, f)
		assert.NotEmpty(t, x.Closed, r)
		for _, p := range x.Parts {
			assert.Empty(t, p.Sides, r)
		}
		assert.Zero(t, x.Minutes)
	}
}

// Doses start from the runner's own notches; a table that knows a test lowers, never
// raises; the ladder stands once.
func TestDosesStartFromTheRunnersNotches(t *testing.T) {
	c, _ := shelf(t)
	f := everything(c)
	calf, _ := c.Ladder("calf-straight")
	f.Own = map[string]Standing{"calf-straight": {Ladder: calf, Left: 2, Right: 3}}
	got := named(t, "tender-shins").Fit(c, f)
	n := 0
	for _, p := range got.Parts {
		if p.Own {
			n++
			assert.Equal(t, "calf-straight", p.Ladder.ID)
			assert.Equal(t, calf.At(2).Dose.Typed(), p.Notch.Dose.Typed(), "the lower of both sides is shown")
		}
	}
	assert.Equal(t, 1, n, "one's own ladder stands once for both of its parts")

	f.Own = nil
	got = named(t, "ankle-all-round").Fit(c, f) // nothing measured: the tables start at notch 1
	for _, p := range got.Parts {
		if p.Notch.Exercise.ID == "shin-pull" {
			assert.Contains(t, p.Lowered, "notch 1")
		}
		assert.NotEqual(t, "raise-step", p.Notch.Exercise.ID)
		if p.Ladder.Part != nil {
			assert.Equal(t, 1, p.Ladder.Len(), "never up")
		}
	}
	raise, _ := screening.Find(screening.SingleRaise)
	v, pain := 30.0, 0
	trials := []screening.Trial{{Value: &v, Pain: &pain}}
	f.Evidence.Results = []screening.Result{screening.Reduce(raise, trials, trials, screening.Age{Years: 35, Known: true})}
	got = named(t, "ankle-all-round").Fit(c, f)
	found := false
	for _, p := range got.Parts {
		if p.Notch.Exercise.ID == "raise-step" {
			found = true
			assert.Equal(t, "3 x 8", p.Notch.Dose.Typed(), "thirty raises start from the step")
			assert.Len(t, p.Sides, 2)
		}
	}
	assert.True(t, found)
}

// Bouncing never follows a long roll; the larger contacts come from the fifth week of
// spring; both parts together stay within the contacts of a session: 66 + 33 = 99,
// then 99 + 44 = 143, hands counting half (by hand).
func TestBraceAndBounce(t *testing.T) {
	r := named(t, "brace-and-bounce")
	contacts := func(parts []Part) float64 {
		s := 0.0
		for _, p := range parts {
			if p.Notch.Exercise.Purpose == catalogue.ForSpring {
				s += p.Notch.Count() / 2
			}
		}
		return s
	}
	assert.InDelta(t, 99, contacts(r.In(false, 0)), 1e-9)
	assert.InDelta(t, 143, contacts(r.In(false, 4)), 1e-9)
	assert.Zero(t, contacts(r.In(true, 8)))
}

// A part waits while a place of the lower leg is sorer than it bears.
func TestASorePartWaits(t *testing.T) {
	c, _ := shelf(t)
	f := everything(c)
	has := func(id string, pain int) bool {
		f.Evidence.Complaints = []screening.Complaint{{Zone: "outer-shin", Side: body.Left, Now: &pain, Worst: &pain, FirstSteps: &pain}}
		f.Phases = planning.Phases(f.Evidence)
		for _, p := range named(t, "tender-shins").Fit(c, f).Parts {
			if p.Notch.Exercise.ID == id {
				return slices.Contains(p.Sides, body.Left)
			}
		}
		return false
	}
	assert.True(t, has("raise-two", 2))
	assert.False(t, has("band-out", 4))
	assert.False(t, has("raise-one", 2))
}

func TestParseSaysWhatIsWrong(t *testing.T) {
	c, _ := shelf(t)
	good := "- {id: a, name: A, for: it, suits: all, when: any, days: {min: 1, max: 2}, parts: [{exercise: raise-two, dose: 3 x 10, ladder: calf-straight, key: true}]}"
	l, err := Parse([]byte(good), c)
	require.NoError(t, err)
	assert.Equal(t, []float64{1.6}, l[0].Parts[0].Notch.Weights)
	for name, x := range map[string][2]string{
		"exercise": {"raise-two", "nothing"}, "ladder": {"calf-straight", "calf-none"}, "when": {"when: any", "when: noon"}, "what it is for": {", key: true", ""},
		"dose": {"3 x 10", "a lot"}, "shorter": {"3 x 10", "3 x 10, most: 1 x 5"}, "least first": {"min: 1, max: 2", "min: 3, max: 2"}, "colour": {"for: it", "for: it, colour: red"},
	} {
		_, err := Parse([]byte(strings.Replace(good, x[0], x[1], 1)), c)
		assert.ErrorContains(t, err, name)
	}
	_, err = Parse([]byte(good+"\n"+good), c)
	assert.ErrorContains(t, err, "twice")
}

// Every exercise of the shelf stands on a ladder or in a routine.
func TestNoExerciseIsLeftAlone(t *testing.T) {
	c, l := shelf(t)
	used := map[string]bool{}
	for _, x := range c.Ladders {
		for _, n := range x.Notches {
			used[n.Exercise.ID] = true
		}
	}
	for _, r := range l {
		for _, p := range r.Parts {
			used[p.Notch.Exercise.ID] = true
		}
	}
	for _, e := range c.Exercises {
		assert.True(t, used[e.ID], "%s is on no ladder and in no routine", e.ID)
	}
}

// The time model against the shapes that practice names (common practice, from memory):
// 5 to 10 minutes, about 17, and 20 to 42.
func TestTheTimeModelAgainstKnownShapes(t *testing.T) {
	within := func(id string, lo, hi float64) {
		short, long := named(t, id).Minutes()
		assert.True(t, long >= lo && short <= hi, "%s: %.1f–%.1f min, known as %g–%g", id, short, long, lo, hi)
	}
	for _, id := range []string{"sole-ten", "band-pair", "heels-up-holds", "quiet-sole"} {
		within(id, 5, 10)
	}
	within("foot-core", 16, 18)
	within("strong-today", 16, 20)
	for _, id := range []string{"heel-day", "ankle-all-round", "calm-heel", "brace-and-bounce"} {
		within(id, 20, 42)
	}
}
