package planning

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/internal/book"
)

// How each ladder of the shelf comes into a plan without a coach's hand: by a finding's
// path, a goal's gate, the base, the season, the form, or a ramp. None is left over.
func TestEveryLadderIsReached(t *testing.T) {
	c := builtIn(t)
	how := map[string][]string{}
	by := func(id, why string) { how[id] = append(how[id], why) }
	for _, r := range data().remedies {
		for _, id := range r.ladders() {
			by(id, r.Finding)
		}
	}
	for _, s := range []School{{}, {AskHowOften: HowOftenDailySmall}, {AskSoleRelease: SoleReleasePressHard}, {AskSoleRelease: SoleReleaseThumb}, {AskSoleRelease: SoleReleaseNoGrind}} {
		h := chooser{c: c, e: Evidence{School: s}}
		for _, id := range h.ways([]string{"$sole", "$tendon"}) {
			by(id, "by school")
		}
	}
	for g, p := range gateWork {
		for _, ways := range p {
			for _, id := range ways {
				by(id, "the gate "+string(g))
			}
		}
	}
	for _, x := range []struct{ id, why string }{
		{"calf-straight", "base"}, {"steer-arch", "base"}, {"balance-stand", "base"}, {"calf-split-hold", "kilometres rise"}, {"calf-bent", "both calf muscles"}, {"calf-bent-floor", "both calf muscles"},
		{"exposure-home", "wish"}, {"exposure-walk", "wish"}, {"wake-up", "wish"}, {"spring-pogo", "goal"}, {"run-return", "no running"}, {"form-cadence", "the ramp of cadence"}, {"calf-lowering-bent", "by school"},
	} {
		by(x.id, x.why)
	}
	var p book.Page
	for _, l := range c.Ladders {
		assert.NotEmpty(t, how[l.ID], "%s never comes into a plan", l.ID)
		slices.Sort(how[l.ID])
		p.Line("%s: %s", l.ID, strings.Join(slices.Compact(how[l.ID]), ", "))
	}
	p.Stands(t, "reached")
}

// And it really does: over every finding, with everything open and each stage done with
// in turn, the ladders named above stand in a plan.
func TestPathsAreWalkedToTheirEnd(t *testing.T) {
	seen := map[string]bool{}
	for _, school := range []School{nil, {AskHowOften: HowOftenDailySmall}, {AskSoleRelease: SoleReleaseThumb}, {AskToeWork: ToeWorkCurl}, {AskReleaseLength: ReleaseLengthLong, AskStretchHold: StretchHoldTwoMinutes}} {
		for _, r := range data().remedies {
			c, e, w := grown(t, screening.Factor(r.Finding))
			w.School, w.Wish = school, WishBare
			w.Minutes = [7]int{90, 90, 90, 90, 90, 90, 90}
			e.Standing = map[string]int{}
			for range 8 {
				p := Plan(c, e, w)
				for _, ch := range p.Choices {
					seen[ch.Ladder] = true
					if slices.Contains(ch.For, r.Finding) {
						e.Standing[ch.Ladder] = ch.ladder.Len()
					}
				}
			}
		}
	}
	for _, id := range strings.Fields(`calf-heavy-slow calf-lowering calf-split-hold leg-hinge leg-swing leg-squat leg-sprinter hip-split foot-walk-ball foot-walk-heel foot-walk-rise foot-walk-edge
		foot-walk-inner range-toe-block range-toe-rock range-toe-end range-calf-wall range-calf-kneel steer-object steer-series steer-pinch foot-hover balance-reach form-brim form-line form-pickup form-quiet spring-pogo calf-bent calf-straight`) {
		assert.True(t, seen[id], "%s is named and never stands", id)
	}
}

// Achilles: quiet holds while it is calm; two legs after; heavy work by school behind
// its gate, the split hold after that, then springs.
func TestTheAchillesPath(t *testing.T) {
	c, e, w := grown(t, "symptom-achilles-load")
	e.Complaints = []screening.Complaint{complaint("achilles-mid", 5, 5)}
	assert.Contains(t, ids(Plan(c, e, w)), "calm-iso")
	assert.NotContains(t, ids(Plan(c, e, w)), "calf-straight")
	e.Complaints = []screening.Complaint{complaint("achilles-mid", 1, 3)}
	p := Plan(c, e, w)
	require.Contains(t, ids(p), "calf-straight")
	assert.Equal(t, names(c, "calf-heavy-slow", "calf-split-hold", "spring-pogo"), p.ByLadder["calf-straight"].Then)
	e.Standing = map[string]int{"calf-straight": 25}
	assert.Contains(t, ids(Plan(c, e, w)), "calf-heavy-slow")
	w.School = School{AskHowOften: HowOftenDailySmall}
	assert.Contains(t, ids(Plan(c, e, w)), "calf-lowering")
	e.Gates = safety.Gates(safety.Evidence{On: today})
	p = Plan(c, e, w)
	assert.NotContains(t, ids(p), "calf-lowering", "behind a gate")
	assert.Contains(t, ids(p), "calf-straight", "the path goes on where it stands")
	low := []screening.Complaint{complaint("achilles-low", 1, 3)}
	e.Complaints, e.Gates = low, openAll()
	for _, ch := range Plan(c, e, w).Choices {
		for n := 1; n <= ch.Ceiling; n++ {
			assert.False(t, ch.ladder.At(n).Kinds()["below-level"], "never below level at the heel bone: %s", ch.Ladder)
		}
	}
}

func names(c catalogue.Catalogue, ids ...string) []string {
	var out []string
	for _, id := range ids {
		l, _ := c.Ladder(id)
		out = append(out, l.Name)
	}
	return out
}

// What follows a ladder, and why.
func TestFollows(t *testing.T) {
	c, e, w := grown(t, "hip-share", "symptom-achilles-load", "sole-tight")
	e.School, e.Owned, e.Evenings = w.School, w.Owned, true
	ps := Phases(e)
	next := func(f screening.Factor, l string, why Exit, here ...string) string {
		to, start, ok := Follows(c, e, ps, f, l, why, here)
		if !ok {
			return ""
		}
		assert.GreaterOrEqual(t, start.Notch, 1)
		return to.ID
	}
	assert.Equal(t, "hip-split", next("hip-share", "hip-bridge", ExitTop, "hip-bridge"))
	assert.Equal(t, "leg-squat", next("hip-share", "hip-split", ExitTop, "hip-split"))
	assert.Equal(t, "leg-hinge", next("hip-share", "leg-squat", ExitTop, "leg-squat"))
	assert.Equal(t, "leg-sprinter", next("hip-share", "leg-hinge", ExitTop, "leg-hinge"))
	assert.Empty(t, next("hip-share", "leg-sprinter", ExitTop))
	assert.Equal(t, "leg-squat", next("hip-share", "hip-bridge", ExitTop, "hip-bridge", "hip-split"), "what stands already is passed")
	assert.Equal(t, "calf-straight", next("symptom-achilles-load", "calm-iso", ExitCalm, "calm-iso"))
	assert.Equal(t, "calf-heavy-slow", next("symptom-achilles-load", "calf-straight", ExitTop))
	assert.Equal(t, "calf-ball-hold", next("sole-tight", "range-toe", ExitAim))
	assert.Empty(t, next("hip-share", "calf-straight", ExitTop), "not on its path")
	assert.Empty(t, next("nothing", "calf-straight", ExitTop))
	e.Gates = safety.Gates(safety.Evidence{On: today})
	assert.NotEqual(t, "calf-heavy-slow", next("symptom-achilles-load", "calf-straight", ExitTop), "never above its gates")
	assert.True(t, OnCalm("symptom-achilles-load", "calm-iso"))
	assert.False(t, OnCalm("hip-share", "hip-bridge"), "what calms and strengthens alike stays")
}

// After every ladder that lengthens a control ladder follows in the same plan; every
// finding has a step in every phase; both calf muscles are worked once one leg may be;
// nothing that the one answer closes stands in a plan.
func TestWhatEveryPlanHolds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var factors []screening.Factor
		for _, r := range data().remedies {
			if len(r.Form) == 0 {
				factors = append(factors, screening.Factor(r.Finding))
			}
		}
		c, e, w := grown(t, rapid.SliceOfNDistinct(rapid.SampledFrom(factors), 1, 3, rapid.ID).Draw(t, "findings")...)
		if rapid.Bool().Draw(t, "shut") {
			e.Gates = safety.Gates(safety.Evidence{On: today})
		}
		switch rapid.IntRange(0, 3).Draw(t, "phase") {
		case 1:
			e.Complaints = []screening.Complaint{complaint(rapid.SampledFrom([]screening.Zone{"heel", "achilles-mid", "calf", "outer-shin", "kneecap", "ball"}).Draw(t, "zone"), 5, 5)}
		case 2:
			e.Complaints = []screening.Complaint{complaint("achilles-low", 1, 3)}
		case 3:
			e.Wish = WishMinimal
		}
		w.Minutes = [7]int{75, 75, 75, 75, 75, 75, 75}
		for d := range 7 {
			w.Runs[d] = rapid.SampledFrom([]RunKind{NoRun, Easy}).Draw(t, "run")
		}
		p := Plan(c, e, w)
		require.True(t, p.Fits)
		x := e
		x.School, x.Owned, x.Evenings, x.Wish = w.School, w.Owned, w.Evenings, w.Wish
		for _, ch := range p.Choices {
			for n := 1; n <= ch.Start.Notch; n++ {
				require.NotEqual(t, Closed, x.May(ch.ladder, n, body.Both, p.Phases).State, "%s notch %d", ch.Ladder, n)
			}
		}
		for _, f := range e.Findings {
			require.True(t, slices.ContainsFunc(p.Choices, func(ch Choice) bool { return slices.Contains(ch.For, f.Name) }), "%s has no step", f.Factor)
			r, _ := remedyFor(f.Factor)
			lengthens := slices.ContainsFunc(p.Choices, func(ch Choice) bool {
				return ch.Role == RoleWork && ch.ladder.Purpose == catalogue.ForRange && slices.Contains(ch.For, f.Name)
			})
			if lengthens && len(r.Steer) > 0 {
				require.True(t, slices.ContainsFunc(p.Choices, func(ch Choice) bool {
					return (ch.ladder.Purpose == catalogue.ForSteer || ch.ladder.Purpose == catalogue.ForBalance) && slices.Contains(ch.For, f.Name)
				}), "control follows lengthening for %s: %v", f.Factor, ids(p))
			}
		}
		for _, ch := range p.Choices {
			if ch.After == "" {
				continue
			}
			for d := range 7 {
				for _, sit := range p.Days[d] {
					if slices.Contains(sit.Ladders, ch.Ladder) && !slices.Contains(sit.Ladders, ch.After) {
						require.True(t, slices.ContainsFunc(ch.Notes, func(n string) bool { return strings.HasPrefix(n, "Right after ") }), "%s stands without %s on day %d, and says nothing of it", ch.Ladder, ch.After, d)
					}
				}
			}
		}
		if has := ids(p); slices.Contains(has, "calf-straight") && safety.IsOpen(e.Gates, safety.SingleLegCalf) {
			bent := slices.Contains(has, "calf-bent") || slices.Contains(has, "calf-bent-floor")
			left := slices.ContainsFunc(p.Left, func(l Left) bool { return strings.HasPrefix(l.Ladder, "calf-bent") })
			require.True(t, bent || left, "both calf muscles: %v", has)
		}
	})
}

// More minutes never take a ladder out.
func TestMoreMinutesTakeNothingOut(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var factors []screening.Factor
		for _, r := range data().remedies {
			factors = append(factors, screening.Factor(r.Finding))
		}
		c, e, w := grown(t, rapid.SliceOfNDistinct(rapid.SampledFrom(factors), 1, 3, rapid.ID).Draw(t, "findings")...)
		for d := range 7 {
			w.Minutes[d] = rapid.IntRange(10, 45).Draw(t, "minutes")
		}
		less := Plan(c, e, w)
		for d := range 7 {
			w.Minutes[d] += rapid.SampledFrom([]int{5, 15, 30}).Draw(t, "more")
		}
		more := Plan(c, e, w)
		if !less.Fits {
			return
		}
		require.True(t, more.Fits)
		for _, id := range ids(less) {
			require.Contains(t, ids(more), id)
		}
	})
}

// Findings of the other side give the same plan on the other side.
func TestMirroredFindingsGiveMirroredPlans(t *testing.T) {
	for _, r := range data().remedies {
		c, e, w := grown(t, screening.Factor(r.Finding))
		e.Complaints = []screening.Complaint{complaint("calf", 2, 3)}
		right := Plan(c, e, w)
		for i := range e.Findings {
			e.Findings[i].Side = body.Left
		}
		e.Complaints[0].Side = body.Left
		left := Plan(c, e, w)
		assert.Equal(t, ids(right), ids(left), r.Finding)
	}
}

type invented struct {
	name     string
	findings []screening.Factor
	hurts    []screening.Complaint
	wish     Wish
	school   School
	shut     bool
	runs     int
	km       float64
	minutes  int
	kit      []string
	standing map[string]int
	young    int
}

// inventedRunners are 24 people: every finding, goal, phase and several schools.
func inventedRunners() []invented {
	return []invented{
		{name: "sore heel, calm", findings: []screening.Factor{"symptom-heel-first-steps", "ankle-stiff", "sole-tight"}, hurts: []screening.Complaint{complaint("heel", 5, 5)}, shut: true, runs: 3},
		{name: "sore heel, no grinding, calm first", findings: []screening.Factor{"symptom-heel-first-steps", "arch-weak"}, hurts: []screening.Complaint{complaint("heel", 4, 5)}, school: School{AskSoleRelease: SoleReleaseNoGrind, AskSoleTreatment: SoleTreatmentCalmFirst}, runs: 3},
		{name: "sore heel, pressing, stretch first", findings: []screening.Factor{"symptom-heel-first-steps", "toe-control-gap"}, hurts: []screening.Complaint{complaint("heel", 2, 3)}, school: School{AskSoleRelease: SoleReleasePressHard, AskSoleTreatment: SoleTreatmentStretchFirst}, runs: 4},
		{name: "arch, after the first steps", findings: []screening.Factor{"symptom-heel-other", "walk-sore"}, hurts: []screening.Complaint{complaint("arch", 1, 3)}, shut: true, runs: 3},
		{name: "Achilles, calm", findings: []screening.Factor{"symptom-achilles-load", "calf-weak"}, hurts: []screening.Complaint{complaint("achilles-mid", 5, 6)}, shut: true, runs: 2},
		{name: "Achilles at the heel bone", findings: []screening.Factor{"symptom-achilles-load", "soleus-weak"}, hurts: []screening.Complaint{complaint("achilles-low", 1, 3)}, runs: 3},
		{name: "Achilles, far on the path", findings: []screening.Factor{"symptom-achilles-load"}, hurts: []screening.Complaint{complaint("achilles-mid", 0, 2)}, standing: map[string]int{"calf-straight": 25}, school: School{AskHowOften: HowOftenDailySmall}, runs: 3},
		{name: "tight calf, kilometres rise", findings: []screening.Factor{"symptom-calf-tight", "soleus-weak"}, hurts: []screening.Complaint{complaint("calf", 1, 3)}, km: 40, runs: 4},
		{name: "tender shins", findings: []screening.Factor{"symptom-shin-load", "shin-weak", "overstride"}, hurts: []screening.Complaint{complaint("outer-shin", 3, 4)}, shut: true, runs: 3},
		{name: "big-toe joint", findings: []screening.Factor{"symptom-big-toe-joint", "toe-joint-stiff", "toe-drift"}, hurts: []screening.Complaint{complaint("big-toe", 1, 3)}, runs: 3},
		{name: "ball of the foot, clawing", findings: []screening.Factor{"symptom-forefoot", "claw-tendency"}, hurts: []screening.Complaint{complaint("ball", 1, 3)}, school: School{AskToeWork: ToeWorkLongToe}, runs: 3},
		{name: "unsteady ankle", findings: []screening.Factor{"symptom-outer-ankle-unsteady", "ankle-side-weak", "balance-poor"}, hurts: []screening.Complaint{complaint("outer-ankle", 0, 2)}, runs: 3},
		{name: "kneecap, hips", findings: []screening.Factor{"symptom-kneecap", "hip-share", "low-cadence"}, hurts: []screening.Complaint{complaint("kneecap", 0, 3)}, runs: 4},
		{name: "strong hips already", findings: []screening.Factor{"hip-share", "squat-collapse"}, standing: map[string]int{"hip-bridge": 4, "hip-split": 3}, runs: 3},
		{name: "outer edge, thin shoes wished", findings: []screening.Factor{"outer-edge-drift", "raise-short"}, wish: WishMinimal, shut: true, runs: 3},
		{name: "springs short, bare feet wished", findings: []screening.Factor{"spring-short", "crossing"}, wish: WishBare, runs: 4, minutes: 60},
		{name: "bare walks wished", findings: []screening.Factor{"arch-weak", "toe-control-gap"}, wish: WishWalk, runs: 2},
		{name: "form: bounce and noise", findings: []screening.Factor{"bounce", "loud", "arms"}, runs: 4},
		{name: "form: sway, springy landing", findings: []screening.Factor{"sway", "posture", "strike-extreme"}, school: School{AskLanding: LandingSpringy, AskFormOrder: FormOrderCadenceFirst}, runs: 5},
		{name: "nothing limits", runs: 3, minutes: 15},
		{name: "six run days", findings: []screening.Factor{"calf-weak", "balance-poor"}, runs: 6},
		{name: "seven run days", findings: []screening.Factor{"soleus-weak", "toe-drift"}, runs: 7},
		{name: "no kit at all, ten minutes", findings: []screening.Factor{"ankle-stiff", "ankle-side-weak", "hip-share"}, kit: []string{}, minutes: 10, runs: 3},
		{name: "fourteen years old", findings: []screening.Factor{"calf-weak", "balance-poor"}, young: 14, runs: 3, school: School{AskStartFrom: StartFromHipDown, AskOrder: OrderStrengthen, AskSetEnd: SetEndNearFatigue}},
	}
}

// planned is what an invented runner's plan is made from.
type planned struct {
	c catalogue.Catalogue
	e Evidence
	w Wishes
}

func (x invented) planned(t require.TestingT) planned {
	c, e, w := grown(t, x.findings...)
	e.Complaints, e.Standing = x.hurts, x.standing
	e.FourWeeks = []int{30000, 30000, 30000, 30000}
	if x.shut {
		e.Gates = safety.Gates(safety.Evidence{On: today})
	}
	if x.km > 0 {
		w.WeeklyKm = &x.km
	}
	if x.minutes > 0 {
		for d := range 7 {
			w.Minutes[d] = x.minutes
		}
	}
	if x.kit != nil {
		w.Owned = x.kit
	}
	if x.young > 0 {
		b := today - 365*14 - 100
		e.Person.Birth = &b
	}
	w.Runs = [7]RunKind{}
	for k := range x.runs {
		w.Runs[[]int{1, 3, 5, 6, 0, 2, 4}[k]] = Easy
	}
	w.Wish, w.School = x.wish, x.school
	return planned{c, e, w}
}

// The plan of 24 invented runners, as a coach would read it: every finding, goal, phase
// and school at least once.
func TestTwentyFourRunners(t *testing.T) {
	list := inventedRunners()
	require.Len(t, list, 24)
	var p book.Page
	met, named := map[Phase]bool{}, map[screening.Factor]bool{}
	for i, x := range list {
		for _, f := range x.findings {
			named[f] = true
		}
		in := x.planned(t)
		plan := Plan(in.c, in.e, in.w)
		p.Line("%d %s (%d run days) fits %v", i+1, x.name, x.runs, plan.Fits)
		assert.True(t, plan.Fits || len(plan.Relax) > 0, x.name)
		for _, ph := range plan.Phases {
			met[ph.Phase] = true
			p.Line("  %s: %s", ph.Name, ph.Phase)
		}
		for _, ch := range plan.Choices {
			then := ""
			if len(ch.Then) > 0 {
				then = " then " + strings.Join(ch.Then, ", ")
			}
			p.Line("  %-10s %s notch %d of %d for %s, week %d, %s%s", ch.Role, ch.Name, ch.Start.Notch, ch.Ceiling, strings.Join(ch.For, " + "), ch.FromWeek, ch.Place, then)
		}
		for d, ss := range plan.Days {
			for _, s := range ss {
				p.Line("  %s %s %s %.0f min", weekdays[d], s.Kind, strings.Join(s.Ladders, " "), s.Seconds/60)
			}
		}
		for _, l := range plan.Left {
			p.Line("  left %s for %s: %s", l.Name, l.For, l.Why)
		}
		for _, r := range plan.Relax {
			p.Line("  way out: %s %d %s", r.Kind, r.Minutes, r.Name)
		}
	}
	for _, ph := range phases {
		assert.True(t, met[ph], "%s never occurs", ph)
	}
	for _, r := range data().remedies {
		assert.True(t, named[screening.Factor(r.Finding)], "%s is nobody's", r.Finding)
	}
	p.Stands(t, "runners")
}

// The five-minute plan is always a block: whatever the run days, minutes and kit; the
// layout always offers it as the last way out.
func TestTheFiveMinutePlanIsAlwaysABlock(t *testing.T) {
	for runs := range 8 {
		c, e, w := grown(t, "ankle-stiff", "hip-share", "ankle-side-weak")
		w.Runs = [7]RunKind{}
		for k := range runs {
			w.Runs[k] = []RunKind{Easy, Fast, Long}[k%3]
		}
		w.Minutes, w.Owned, w.Small = [7]int{}, nil, true
		p := Plan(c, e, w)
		require.True(t, p.Fits, runs)
		require.NotEmpty(t, p.Choices)
		require.Len(t, p.Layout.Micro, 7)
		require.LessOrEqual(t, p.Layout.MicroSeconds, 300.0)
		w.Small = false
		p = Plan(c, e, w)
		require.False(t, p.Fits)
		require.Equal(t, RelaxMinimum, p.Relax[len(p.Relax)-1].Kind)
	}
}

// One to seven run days: with half an hour on each there is a block; evening work that
// has no evening says so and asks for the hour of the runs.
func TestOneToSevenRunDays(t *testing.T) {
	for runs := 1; runs <= 7; runs++ {
		c, e, w := grown(t, "calf-weak", "sole-tight")
		w.Runs = [7]RunKind{}
		for k := range runs {
			w.Runs[[]int{1, 3, 5, 6, 0, 2, 4}[k]] = Easy
		}
		e.Standing = map[string]int{"range-toe": 4}
		p := Plan(c, e, w)
		require.True(t, p.Fits, "%d run days: %v", runs, p.Relax)
		if runs < 7 {
			continue
		}
		require.LessOrEqual(t, len(p.Layout.Main), 3)
		i := slices.IndexFunc(p.Left, func(l Left) bool { return l.Ladder == "range-toe" })
		require.GreaterOrEqual(t, i, 0)
		assert.Contains(t, p.Left[i].Why, "at what hour the runs start")
		w.RunHour = ptr(17) // runs end long before, and the next is 21 hours off
		assert.Contains(t, ids(Plan(c, e, w)), "range-toe")
	}
}

// Every position of every school changes something a runner can name: a ladder, a dose,
// a day, an order, a cue, what comes next – or, for the few that are advice, the line
// that is printed. The page says which.
func TestEverySchoolDoesSomething(t *testing.T) {
	// Advice that no ladder carries: the line is printed, and read where it is named.
	printed := map[QuestionID]string{AskInsoles: "the plan", AskHeelStrike: "the plan", AskPassMark: "the plan", AskCadence: "the ramp of cadence", AskCramp: "the plan", AskBarefoot: "the gates"}
	var all []planned
	for _, x := range inventedRunners() {
		x.school = nil
		all = append(all, x.planned(t))
	}
	for _, x := range []invented{
		{name: "shins", findings: []screening.Factor{"shin-weak"}, standing: map[string]int{"foot-shin": 4}},
		{name: "curling", findings: []screening.Factor{"toe-control-gap", "claw-tendency"}, standing: map[string]int{"calf-ball-hold": 5}},
		{name: "cadence and posture", findings: []screening.Factor{"low-cadence", "posture"}},
		{name: "curls on", findings: []screening.Factor{"toe-control-gap"}, standing: map[string]int{"foot-curl": 5, "calf-ball-hold": 5, "calf-straight": 5}},
		{name: "toes", findings: []screening.Factor{"toe-joint-stiff"}},
	} {
		x.runs = 3
		all = append(all, x.planned(t))
	}
	var p book.Page
	for _, q := range Questions() {
		for _, pos := range q.Positions {
			if pos.ID == q.Default {
				continue
			}
			kinds := map[ChangeKind]int{}
			says := 0
			for _, x := range all {
				w := x.w
				w.School = School{}
				a := Plan(x.c, x.e, w)
				w.School = School{q.ID: pos.ID}
				b := Plan(x.c, x.e, w)
				for _, d := range Compare(a, b) {
					if d.Kind == ChangeSays {
						says++
						continue
					}
					kinds[d.Kind]++
				}
				if where, ok := printed[q.ID]; ok && where == "the plan" {
					require.Contains(t, b.Says, pos.Says)
					require.NotContains(t, a.Says, pos.Says)
				}
			}
			assert.Equal(t, len(all), says)
			if printed[q.ID] == "" {
				assert.NotEmpty(t, kinds, "%s: %s changes nothing", q.ID, pos.ID)
			}
			p.Line("%s, %s: %v %s", q.ID, pos.ID, kinds, printed[q.ID])
		}
	}
	p.Stands(t, "schools")
}

// Nothing heavy for the calf stands before a long or fast run of the day, in the school
// that trains before runs too.
func TestNothingHeavyBeforeAHardRunInAnySchool(t *testing.T) {
	c, e, w := grown(t, "calf-weak")
	e.Standing = map[string]int{"calf-straight": 12}
	w.Runs = [7]RunKind{NoRun, Fast, NoRun, Long, NoRun, Fast, NoRun}
	w.School = School{AskWhen: WhenBefore}
	p := Plan(c, e, w)
	require.True(t, p.Fits)
	seen := false
	for d, ss := range p.Days {
		for _, s := range ss {
			if s.Kind == Main && slices.Contains(s.Ladders, "calf-straight") && w.Runs[d].hard() {
				seen = true
				assert.NotEqual(t, "before the run", s.When)
			}
		}
	}
	assert.True(t, seen)
}

// The exact search with seven run days; what a plan of it costs beside it.
func BenchmarkLayOutSevenRunDays(b *testing.B) {
	c, e, w := grown(b, "soleus-weak", "toe-control-gap", "balance-poor")
	w.Runs = [7]RunKind{Easy, Easy, Easy, Easy, Easy, Easy, Easy}
	p := Plan(c, e, w)
	var items []Item
	for _, pl := range p.Layout.Places {
		items = append(items, pl.Item)
	}
	for b.Loop() {
		if _, ok := LayOut(p.Wishes.Week, items, p.Layout.MicroSeconds, Options{}); !ok {
			b.Fatal("does not fit")
		}
	}
}

// The days on which the barefoot ramp runs are seen: nothing heavy for the calf the day
// before.
func TestTheLayoutSeesTheRamp(t *testing.T) {
	c, e, w := grown(t, "calf-weak")
	e.Standing = map[string]int{"calf-straight": 12}
	w.Runs = [7]RunKind{NoRun, Easy, NoRun, Easy, NoRun, Easy, NoRun}
	e.RampRuns = [7]bool{1: true, 3: true, 5: true}
	p := Plan(c, e, w)
	require.True(t, p.Fits)
	for _, pl := range p.Layout.Places {
		if pl.Heavy {
			for _, d := range pl.Days {
				assert.False(t, e.RampRuns[(d+1)%7], "%s on %s", pl.Ladder, weekdays[d])
			}
		}
	}
	bad := Check(p.Wishes.Week, []Item{{Ladder: "x", Heavy: true}}, []Days{DaysOf(0)}, 0)
	require.NotEmpty(t, bad)
	assert.Equal(t, WeekHeavy, bad[0].Rule)
}
