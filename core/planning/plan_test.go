package planning

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/safety"
	"notchback/core/screening"
)

func builtIn(t require.TestingT) catalogue.Catalogue {
	c, err := catalogue.BuiltIn()
	require.NoError(t, err)
	return c
}

func openAll() []safety.GateState {
	out := safety.Gates(safety.Evidence{On: today})
	for i := range out {
		out[i].Open, out[i].State = true, "open"
	}
	return out
}

func worked(factors ...screening.Factor) []screening.Finding {
	var out []screening.Finding
	for _, f := range factors {
		out = append(out, screening.Finding{Factor: f, Name: string(f), Severity: 2, WorkedOn: true, Evidence: []screening.Evidence{{Test: screening.KneeToWall}}})
	}
	return out
}

// grown is an adult with quiet walks, good raises and open gates.
func grown(t require.TestingT, findings ...screening.Factor) (catalogue.Catalogue, Evidence, Wishes) {
	c := builtIn(t)
	birth := day.Make(1990, time.January, 1)
	e := Evidence{
		On: today, Person: body.Person{Birth: &birth, FirstStructuredWork: ptr(false), RecentVolumeRise: ptr(false)}, Gates: openAll(), Findings: worked(findings...),
		Results: []screening.Result{result(screening.SingleRaise, 22, 21, 0), result(screening.HeelWalk, 0, 0, 0), result(screening.ToeWalk, 0, 0, 0), result(screening.ToeBig, 3, 3, 0), result(screening.ToeSmall, 3, 3, 0)},
	}
	w := Assume(c)
	w.Assumed = false
	w.Owned = nil
	for _, k := range c.Kit {
		w.Owned = append(w.Owned, k.ID)
	}
	return c, e, w
}

func ids(p Proposal) []string {
	out := []string{}
	for _, c := range p.Choices {
		out = append(out, c.Ladder)
	}
	return out
}

func complaint(zone screening.Zone, first, worst int) screening.Complaint {
	return screening.Complaint{Zone: zone, Side: body.Right, FirstSteps: &first, Worst: &worst, Now: &first}
}

func TestPlanForThreeFindings(t *testing.T) {
	c, e, w := grown(t, "soleus-weak", "toe-control-gap", "balance-poor")
	p := Plan(c, e, w)
	require.True(t, p.Fits)
	for _, id := range []string{"release-calf", "range-soleus", "calf-bent", "release-sole", "steer-split", "balance-stand"} {
		assert.Contains(t, ids(p), id)
	}
	// Each finding has at most one release, one range or control, one strength ladder.
	for _, f := range e.Findings {
		roles := map[Role]int{}
		for _, ch := range p.Choices {
			if slices.Contains(ch.For, f.Name) {
				roles[ch.Role]++
			}
		}
		for r, n := range roles {
			assert.LessOrEqual(t, n, 2, "%s for %s", r, f.Name) // a shared ladder keeps the role it came in with
		}
	}
	// Order: release, range, steer, strength.
	rank := func(id string) int { return slices.Index(catalogue.Purposes, p.ByLadder[id].ladder.Purpose) }
	for i := 1; i < len(p.Choices); i++ {
		assert.LessOrEqual(t, rank(p.Choices[i-1].Ladder), rank(p.Choices[i].Ladder))
	}
	assert.Less(t, slices.Index(ids(p), "release-sole"), slices.Index(ids(p), "release-calf"), "sole before calf")
	// One newly added loading ladder a week.
	seen := map[int]bool{}
	for _, ch := range p.Choices {
		if len(ch.ladder.Tissues) > 0 {
			assert.False(t, seen[ch.FromWeek], "two loading ladders start in week %d", ch.FromWeek)
			seen[ch.FromWeek] = true
		}
	}
	assert.Len(t, p.Weeks, 4)
	assert.Equal(t, []string{"knee-to-wall"}, p.Weeks[1].Retest)
	assert.NotEmpty(t, p.Minimum)
	assert.LessOrEqual(t, p.Minutes.Planned, p.Minutes.Available)
}

func TestPhases(t *testing.T) {
	phase := func(e Evidence, r Region) Phase {
		for _, p := range Phases(e) {
			if p.Region == r {
				return p.Phase
			}
		}
		return ""
	}
	_, e, _ := grown(t)
	assert.Equal(t, Maintain, phase(e, RegionSole))
	closed := e
	closed.Gates = safety.Gates(safety.Evidence{On: today})
	assert.Equal(t, Load, phase(closed, RegionCalf))
	wish := e
	wish.Wish = WishMinimal
	assert.Equal(t, Transition, phase(wish, RegionSole))

	_, stiff, _ := grown(t, "ankle-stiff")
	assert.Equal(t, Restore, phase(stiff, RegionCalf))
	assert.Equal(t, Spring, phase(stiff, RegionShin), "other regions do not wait")
	stiff.Improved = []screening.Factor{"ankle-stiff"}
	assert.Equal(t, Spring, phase(stiff, RegionCalf), "changed beyond noise")
	stiff.Improved, stiff.Since = nil, today-42
	assert.Equal(t, Spring, phase(stiff, RegionCalf), "six weeks passed")

	sore := e
	sore.Complaints = []screening.Complaint{complaint("heel", 5, 6)}
	assert.Equal(t, Calm, phase(sore, RegionSole))
	assert.Equal(t, Maintain, phase(sore, RegionShin))
	sore.Mornings = []Reading{{today - 2, 3}, {today - 1, 2}, {today, 3}}
	assert.NotEqual(t, Calm, phase(sore, RegionSole), "three mornings at 3 or less, quiet walks")
	sore.Mornings = []Reading{{today - 3, 3}, {today - 1, 2}, {today, 3}}
	assert.Equal(t, Calm, phase(sore, RegionSole), "a missing morning breaks the row")
	noWalk := sore
	noWalk.Mornings = []Reading{{today - 2, 3}, {today - 1, 2}, {today, 3}}
	noWalk.Results = e.Results[:1]
	assert.Equal(t, Calm, phase(noWalk, RegionSole), "walks not known")
	fortnight := noWalk
	fortnight.Baseline = 4
	fortnight.Mornings = nil
	for i := range 14 {
		fortnight.Mornings = append(fortnight.Mornings, Reading{today - 13 + day.Date(i), 5})
	}
	assert.NotEqual(t, Calm, phase(fortnight, RegionSole), "14 days at the usual + 1, pain 5")
	unknown := e
	unknown.Complaints = []screening.Complaint{{Zone: "heel", Side: body.Left}}
	assert.Equal(t, Calm, phase(unknown, RegionSole), "a complaint without any number")

	// The ways back.
	calf := []body.Tissue{body.Achilles}
	flare := e
	flare.Setbacks = []Setback{{today - 3, 2, calf}}
	assert.Equal(t, Restore, phase(flare, RegionCalf), "from spring a flare leads to restore")
	flare.Gates = closed.Gates
	assert.Equal(t, Calm, phase(flare, RegionCalf), "from load it leads to calm")
	flare.Setbacks[0].On = today - 20
	assert.Equal(t, Load, phase(flare, RegionCalf), "after 14 days it no longer counts")
	twice := e
	twice.Setbacks = []Setback{{today - 9, 3, calf}, {today - 2, 3, calf}}
	assert.Equal(t, Load, phase(twice, RegionCalf))
	twice.Setbacks = twice.Setbacks[:1]
	assert.Equal(t, Maintain, phase(twice, RegionCalf), "once is not twice")
}

func TestLeftOutByComplaint(t *testing.T) {
	top := func(e Evidence, w Wishes, id string) int {
		e.School, e.Owned, e.Evenings = w.School, w.Owned, true
		c := builtIn(t)
		l, _ := c.Ladder(id)
		n, _ := Ceiling(c, l, e, Phases(e))
		return n
	}
	_, e, w := grown(t)
	assert.Equal(t, 25, top(e, w, "calf-straight"))
	with := func(cs ...screening.Complaint) Evidence { x := e; x.Complaints = cs; return x }

	low := with(complaint("achilles-low", 1, 3))
	assert.Equal(t, 9, top(low, w, "calf-straight"), "nothing below level")
	for _, id := range []string{"calf-toeup", "range-calf", "range-soleus", "calf-lowering"} {
		assert.Zero(t, top(low, w, id), id)
	}
	toe := with(complaint("big-toe", 1, 3))
	for _, id := range []string{"range-toe", "range-toe-end", "calf-toeup", "foot-hover"} {
		assert.Zero(t, top(toe, w, id), id)
	}
	knee := with(complaint("kneecap", 1, 3))
	assert.Equal(t, 4, top(knee, w, "steer-split"), "no full squat")
	assert.Contains(t, (&chooser{c: builtIn(t), e: knee}).notes(ladder(t, "hip-split"), 1), "Knee bend stays at 60° or less.")
	assert.Zero(t, top(with(complaint("outer-shin", 3, 4)), w, "foot-side"))
	assert.Equal(t, 3, top(with(complaint("outer-shin", 3, 4)), w, "calf-straight"))
	assert.Equal(t, 1, top(with(complaint("outer-shin", 1, 2)), w, "foot-side"))
	assert.Equal(t, 6, top(with(complaint("outer-shin", 0, 1)), w, "foot-side"))
	twist := complaint("outer-ankle", 1, 3)
	twist.SinceWeeks = ptr(3)
	assert.Equal(t, 1, top(with(twist), w, "foot-side"))
	assert.Zero(t, top(with(twist), w, "foot-walk-edge"))
	twist.SinceWeeks = ptr(8)
	assert.Positive(t, top(with(twist), w, "foot-walk-edge"))

	// Calf work runs at the notch that pain allows.
	sore := with(complaint("heel", 5, 5))
	assert.Equal(t, 3, top(sore, w, "calf-straight"), "a sore heel keeps calf work on two legs")
	assert.Equal(t, 1, top(sore, w, "calf-toeup"), "calm phase: the first notch only")
	mid := with(complaint("achilles-mid", 5, 5))
	assert.Equal(t, 3, top(mid, w, "calf-straight"), "two legs")
	mid.Complaints[0].FirstSteps, mid.Complaints[0].Now = ptr(6), ptr(6)
	assert.Zero(t, top(mid, w, "calf-straight"), "over 5 it waits")
	assert.Positive(t, top(mid, w, "calm-iso"))
}

func TestMinorsAndFlags(t *testing.T) {
	c, e, w := grown(t)
	e.School, e.Owned, e.Evenings = w.School, w.Owned, true
	top := func(id string) int {
		l, _ := c.Ladder(id)
		n, _ := Ceiling(c, l, e, Phases(e))
		return n
	}
	young := today - 15*365
	e.Person.Birth = &young
	assert.Equal(t, 15, top("calf-straight"), "under 16: up to + 10 % of body weight")
	assert.Equal(t, 1, top("calf-toeup"))
	assert.Zero(t, top("range-toe-end"))
	assert.Equal(t, []string{"calf-bent-floor"}, slices.DeleteFunc(ids(Plan(c, func() Evidence { e := e; e.Findings = worked("soleus-weak"); return e }(), w)), func(id string) bool { return !strings.HasPrefix(id, "calf-bent") }), "the floor ladder instead of the seated one")
	child := today - 10*365
	e.Person.Birth = &child
	assert.Zero(t, top("calf-straight"))
	assert.Positive(t, top("balance-stand"))

	_, e, _ = grown(t)
	e.School, e.Owned, e.Evenings = w.School, w.Owned, true
	for flag, closed := range map[safety.FlagID]string{"F-COLD": "calm-cool", "F-NERVE": "release-sole-frozen"} {
		e.Flags = []safety.Standing{{Flag: flag, Level: safety.Limit}}
		assert.Zero(t, top(closed), flag)
	}
	e.Flags = []safety.Standing{{Flag: "F-DIZZY", Level: safety.Limit}}
	assert.Equal(t, 3, top("balance-stand"), "no closed eyes")
	e.Flags = []safety.Standing{{Flag: "F-PREG", Level: safety.Limit}}
	assert.Equal(t, 23, top("calf-straight"), "no loads to the limit")
	e.Flags = []safety.Standing{{Flag: "F-POP", Level: safety.Emergency, Everything: true}}
	p := Plan(c, e, w)
	assert.Empty(t, p.Choices)
	assert.Empty(t, p.Minimum)
}

func TestSubstitutionByKit(t *testing.T) {
	c, e, w := grown(t, "soleus-weak")
	w.Owned = []string{"wall", "towel", "bottle", "chair"}
	p := Plan(c, e, w)
	assert.NotContains(t, ids(p), "calf-bent")
	require.Contains(t, ids(p), "calf-bent-floor")
	assert.Contains(t, p.ByLadder["calf-bent-floor"].Instead, "needs weights")
	w.Owned = append(w.Owned, "roller", "weight", "pipe", "step")
	p = Plan(c, e, w)
	assert.Contains(t, ids(p), "calf-bent")
	// Nothing at all: still a plan.
	w.Owned = nil
	p = Plan(c, e, w)
	assert.NotEmpty(t, p.Choices)
	for _, ch := range p.Choices {
		n := ch.ladder.At(ch.Start.Notch)
		assert.Empty(t, (Evidence{Owned: w.Owned}).lacks(c, n), ch.Ladder)
	}
	assert.NotEmpty(t, p.Minimum)
	w.Owned = []string{"bottle", "chair", "wall"}
	_, e, _ = grown(t, "balance-poor")
	swaps := Plan(c, e, w).ByLadder["release-sole"].Swaps
	assert.Equal(t, []Swap{{"soft ball", "bottle"}}, swaps)
}

func TestSchoolsChangeThePlan(t *testing.T) {
	c, e, w := grown(t, "symptom-heel-first-steps", "claw-tendency", "posture")
	e.Complaints = []screening.Complaint{complaint("heel", 5, 5)}
	plan := func(s School) Proposal { x := w; x.School = s; return Plan(c, e, x) }
	def := plan(nil)
	assert.Contains(t, ids(def), "release-outer-rest", "no pressure on the sole while first steps are 4 or more")
	assert.Contains(t, ids(def), "calf-toeup", "load early")
	press := plan(School{"sole-release": "press-hard"})
	assert.Contains(t, ids(press), "release-sole")
	assert.Contains(t, ids(plan(School{"sole-release": "thumb"})), "release-thumb")
	calm := plan(School{"sole-treatment": "calm-first"})
	assert.NotContains(t, ids(calm), "calf-toeup")
	assert.Contains(t, ids(calm), "calm-iso")
	assert.Contains(t, ids(plan(School{"sole-treatment": "stretch-first"})), "range-sole-pull")
	assert.Contains(t, ids(def), "form-tall")

	changes := Compare(def, press)
	kinds := map[ChangeKind]bool{}
	for _, ch := range changes {
		kinds[ch.Kind] = true
	}
	assert.True(t, kinds[ChangeAdded] && kinds[ChangeGone] && kinds[ChangeSays])
	assert.Empty(t, Compare(def, def))
	assert.Error(t, School{"sole-release": "nowhere"}.Check())
	assert.Error(t, School{"coffee": "black"}.Check())
	assert.NoError(t, School{"order": "lengthen"}.Check(), "an answer of an older edition")
	assert.Equal(t, OrderByFinding, School{"order": "lengthen"}.Is(AskOrder))
	assert.NoError(t, School{"sole-release": "thumb", "order": ""}.Check())
	assert.Equal(t, SoleReleaseThumb, School{"sole-release": "no-grind"}.Over(School{"sole-release": "thumb"}).Is("sole-release"))
}

// Every question of practice is a setting with a default, a reason and an effect.
func TestSchoolQuestions(t *testing.T) {
	_, err := readTables(schoolData, remedyData)
	require.NoError(t, err)
	assert.GreaterOrEqual(t, len(Questions()), 26)
	seen := map[QuestionID]bool{}
	for _, q := range Questions() {
		assert.False(t, seen[q.ID], q.ID)
		seen[q.ID] = true
		assert.Len(t, School{}.Says(q.ID), 1)
	}
	c := builtIn(t)
	for _, r := range data().remedies {
		for _, id := range r.ladders() {
			_, ok := c.Ladder(id)
			assert.True(t, ok || id == "$sole" || id == "$tendon", "%s names %s", r.Finding, id)
		}
	}
	_, err = readTables([]byte("- {id: a, ask: A, default: x, why: w, effect: e, positions: [{id: y, name: Y, says: S}, {id: z, name: Z, says: S}]}"), remedyData)
	assert.Error(t, err)
}

func TestBadInput(t *testing.T) {
	c, e, w := grown(t, "soleus-weak", "balance-poor")
	has := func(p Proposal, id RemarkID) bool {
		return slices.ContainsFunc(p.Remarks, func(r Remark) bool { return r.ID == id })
	}
	none := w
	none.Minutes = [7]int{}
	p := Plan(c, e, none)
	assert.False(t, p.Fits)
	assert.NotEmpty(t, p.Minimum, "the five-minute plan always exists")

	seven := w
	for d := range 7 {
		seven.Runs[d] = Easy
	}
	seven.Sessions = 5
	p = Plan(c, e, seven)
	assert.True(t, p.Fits, "runs do not use up the rest days")
	assert.True(t, has(p, RemarkSevenRuns))
	main := 0
	for _, d := range p.Days {
		for _, s := range d {
			if s.Kind == Main {
				main++
			}
		}
	}
	assert.LessOrEqual(t, main, 3, "beside six or seven days of running at most three")

	both := w
	both.Prefer[2], both.Avoid[2] = true, true
	assert.True(t, has(Plan(c, e, both), RemarkContradict))

	soon := w
	soon.Race = &Race{On: today + 1, Km: 10}
	p = Plan(c, e, soon)
	assert.True(t, has(p, RemarkRaceSoon))
	assert.Equal(t, RaceWeek, p.Weeks[0].Kind)
	past := w
	past.Race = &Race{On: today - 1, Km: 10}
	assert.True(t, has(Plan(c, e, past), RemarkRacePast))

	shut := e
	shut.Flags = []safety.Standing{{Flag: "F-SEVERE", Level: safety.Refer, Tissues: []body.Tissue{body.Achilles, body.Sole, body.Forefoot, body.Shin}}}
	for _, ch := range Plan(c, shut, w).Choices {
		assert.Empty(t, ch.ladder.At(ch.Start.Notch).Tissues, "%s loads what a flag closes", ch.Ladder)
	}
	odd := w
	odd.Weeks, odd.Sessions = 99, 0
	p = Plan(c, e, odd)
	assert.Len(t, p.Weeks, MaxWeeks)
	assert.Equal(t, 1, p.Wishes.Sessions)
	few := w
	few.Minutes = [7]int{8, 8, 8, 8, 8, 8, 8}
	p = Plan(c, e, few)
	assert.False(t, p.Fits)
	require.NotEmpty(t, p.Relax)
	for _, r := range p.Relax {
		if r.Kind == RelaxMinimum {
			continue // it needs no layout
		}
		assert.NotEmpty(t, r.Layout.Main)
	}
	ex := w
	ex.Excluded = []Excluded{{Ladder: "calf-bent", Reason: "it hurt", On: today - 30}}
	p = Plan(c, e, ex)
	assert.NotContains(t, ids(p), "calf-bent")
	assert.True(t, has(p, RemarkOfferAgain))
	sore := e
	sore.Complaints = []screening.Complaint{complaint("heel", 1, 2)}
	five := w
	five.Sessions = 5
	assert.Equal(t, 3, Plan(c, sore, five).Wishes.Sessions, "injured: at most three")
}

// The week after a long race is half, the race week holds, and both set the
// deload count back.
func TestRaceRhythm(t *testing.T) {
	monday := today.Monday()
	kinds := func(r *Race) (out []WeekKind) {
		for i := range 10 {
			out = append(out, KindOf(monday, r, monday+day.Date(7*i)))
		}
		return out
	}
	n := Normal
	assert.Equal(t, []WeekKind{n, n, n, DeloadWeek, n, n, n, DeloadWeek, n, n}, kinds(nil))
	assert.Equal(t, []WeekKind{n, n, RaceWeek, HalfWeek, n, n, n, DeloadWeek, n, n}, kinds(&Race{On: monday + 20, Km: 21.1}))
	assert.Equal(t, []WeekKind{n, n, RaceWeek, n, n, n, DeloadWeek, n, n, n}, kinds(&Race{On: monday + 20, Km: 10}))
	step := ladder(t, "calf-straight").At(10)
	pogo := ladder(t, "spring-pogo").At(5)
	race := &Race{On: monday + 20, Km: 10}
	assert.True(t, OffFor(race, step, race.On-5))
	assert.False(t, OffFor(race, step, race.On-6))
	assert.True(t, OffFor(race, pogo, race.On-4))
	assert.False(t, OffFor(race, pogo, race.On-5))
	assert.False(t, OffFor(race, step, race.On+1))
	assert.False(t, OffFor(nil, step, race.On))
	assert.Equal(t, 1, Half(catalogue.Dose{Sets: 3, Reps: 8}).Sets, "rounded down")
	assert.Equal(t, 30, Half(catalogue.Dose{Sets: 1, HoldSeconds: 60}).HoldSeconds)
}

func TestSpringCap(t *testing.T) {
	l := ladder(t, "spring-pogo")
	d, cut := CapSpring(l.At(7), 0) // 60 s at 2.2 a second are 132 contacts
	assert.True(t, cut)
	assert.Equal(t, 45, d.HoldSeconds)
	_, cut = CapSpring(l.At(7), 4)
	assert.False(t, cut, "132 is under 150 later")
	for i := range l.Notches {
		for _, weeks := range []int{0, 4} {
			n := l.At(i + 1)
			n.Dose, _ = CapSpring(n, weeks)
			share := 1.0
			if n.Has(catalogue.Supported) {
				share = 0.5 // with the hands half
			}
			assert.LessOrEqual(t, n.Count()*share, map[int]float64{0: 100, 4: 150}[weeks]+1e-9, "notch %d", i+1)
		}
	}
}

// Table 90 s is 198 contacts, 99 with the hands: within the first weeks. Free two
// legs 2 × 20 s are 88, 2 × 30 s 132: from the fifth week on. The first weeks begin
// anew after a gap of over 28 days.
func TestSpringContactsAndWeeks(t *testing.T) {
	l := ladder(t, "spring-pogo")
	for notch, cut := range map[int]bool{4: false, 5: false, 6: true} {
		_, got := CapSpring(l.At(notch), 0)
		assert.Equal(t, cut, got, "notch %d", notch)
	}
	on := day.Make(2026, 5, 4)
	done := []day.Date{on - 60, on - 53, on - 20, on - 13, on - 6}
	assert.Equal(t, 3, SpringWeeks(done, on), "the pause of 33 days begins anew")
	assert.Equal(t, 0, SpringWeeks(done, on+40))
	assert.Equal(t, 5, SpringWeeks(append(done, on-40), on)-1)
}

// The expected path: never past what is closed, none up in a week that holds,
// likely at most two ladders a week, earliest never under likely never under
// late, and no notch on a ladder that loads while running jumps.
func TestPaths(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c, e, w := grown(t, "soleus-weak", "toe-control-gap", "balance-poor")
		w.Weeks = rapid.IntRange(4, 12).Draw(t, "weeks")
		e.FourWeeks = []int{30000, 30000, 30000, 30000}
		km := rapid.Float64Range(0, 90).Draw(t, "km")
		w.WeeklyKm = &km
		if rapid.Bool().Draw(t, "shut") {
			e.Gates = safety.Gates(safety.Evidence{On: today})
		}
		p := Plan(c, e, w)
		for k := range p.Weeks {
			ups := 0
			for i, path := range p.Paths {
				x := path.Weeks[k]
				assert.True(t, x.Earliest >= x.Likely && x.Likely >= x.Late)
				assert.LessOrEqual(t, x.Earliest, p.Choices[i].Ceiling)
				n := p.Choices[i].Start.Notch
				before := Expected{n, n, n}
				if k > 0 {
					before = path.Weeks[k-1]
				}
				if x.Likely > before.Likely {
					ups++
				}
				if x.Earliest > before.Earliest {
					assert.Equal(t, Normal, p.Weeks[k].Kind)
					if len(p.Choices[i].ladder.Tissues) > 0 {
						assert.NotEqual(t, load.Spike, p.Weeks[k].Running.Class)
					}
				}
				assert.LessOrEqual(t, x.Earliest-before.Earliest, 1)
			}
			assert.LessOrEqual(t, ups, 2)
		}
	})
}

// Whatever the runner's week and findings: nothing closed goes in, what is
// placed keeps the rules, and the small plan is five minutes at most.
func TestPlanProperties(t *testing.T) {
	factors := []screening.Factor{}
	for _, r := range data().remedies {
		factors = append(factors, screening.Factor(r.Finding))
	}
	rapid.Check(t, func(t *rapid.T) {
		c, e, w := grown(t, rapid.SliceOfNDistinct(rapid.SampledFrom(factors), 0, 3, rapid.ID).Draw(t, "findings")...)
		w.Week = drawWeek(t)
		w.Weeks = rapid.IntRange(4, 12).Draw(t, "weeks")
		for _, k := range c.Kit {
			if rapid.IntRange(0, 2).Draw(t, k.ID) == 0 {
				w.Owned = slices.DeleteFunc(w.Owned, func(s string) bool { return s == k.ID })
			}
		}
		e.FourWeeks = []int{30000, 30000, 30000, 30000}
		km := rapid.Float64Range(0, 90).Draw(t, "km")
		w.WeeklyKm = &km
		if rapid.Bool().Draw(t, "shut") {
			e.Gates = safety.Gates(safety.Evidence{On: today})
		}
		if rapid.Bool().Draw(t, "hurts") {
			e.Complaints = []screening.Complaint{complaint(rapid.SampledFrom([]screening.Zone{"heel", "achilles-low", "calf", "outer-shin", "kneecap", "ball"}).Draw(t, "zone"), rapid.IntRange(0, 8).Draw(t, "first"), rapid.IntRange(0, 8).Draw(t, "worst"))}
		}
		w.School = School{}
		for _, q := range Questions() {
			w.School[q.ID] = rapid.SampledFrom(q.Positions).Draw(t, string(q.ID)).ID
		}
		p := Plan(c, e, w)
		for _, ch := range p.Choices {
			require.Positive(t, ch.Ceiling)
			require.LessOrEqual(t, ch.Start.Notch, ch.Ceiling)
			for n := 1; n <= ch.Start.Notch; n++ {
				g := ch.ladder.At(n).Gate
				require.True(t, g == "" || safety.IsOpen(e.Gates, g))
			}
		}
		if p.Fits {
			var items []Item
			for _, pl := range p.Layout.Places {
				items = append(items, pl.Item)
			}
			require.Empty(t, Check(p.Wishes.Week, items, p.Layout.where(), p.Layout.MicroSeconds))
		}
		sum := 0.0
		for _, m := range p.Minimum {
			sum += m.Seconds
		}
		require.LessOrEqual(t, sum, 300.0)
		require.NotEmpty(t, p.Minimum)
		require.Empty(t, Compare(p, p))
	})
}

func BenchmarkPlan12Weeks(b *testing.B) {
	c, e, w := grown(b, "soleus-weak", "toe-control-gap", "balance-poor")
	w.Weeks = 12
	for b.Loop() {
		if p := Plan(c, e, w); !p.Fits {
			b.Fatal("does not fit")
		}
	}
}

// 1,000 different runners, as in a club that changes its school.
func BenchmarkPlanThousand(b *testing.B) {
	r := rand.New(rand.NewPCG(1, 2))
	c, e, w := grown(b)
	w.Weeks = 12
	for b.Loop() {
		for range 1000 {
			fs := []screening.Factor{}
			for _, i := range r.Perm(len(data().remedies))[:3] {
				fs = append(fs, screening.Factor(data().remedies[i].Finding))
			}
			e.Findings = worked(fs...)
			w.Sessions = 2 + r.IntN(4)
			Plan(c, e, w)
		}
	}
}
