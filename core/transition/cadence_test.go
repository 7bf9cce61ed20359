package transition

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/day"
	"notchback/core/screening"
)

func change(b float64, school string) CadenceTerms {
	return CadenceTerms{Start: monday, Baseline: b, School: school}
}

// The worked cases of cadence steps.
func TestWorkedCadenceSteps(t *testing.T) {
	for _, c := range []struct {
		name  string
		terms CadenceTerms
		beats []int
	}{
		{"160, fixed range", change(160, "fixed-range"), []int{165, 170}},
		{"160, own baseline", change(160, "own-baseline"), []int{165, 168}},
		{"150, fixed range, stops at a tenth more", change(150, "fixed-range"), []int{155, 160, 165}},
		{"160, own baseline and further", CadenceTerms{Baseline: 160, School: "own-baseline", Further: true}, []int{165, 170, 176}},
		{"steps of 4", CadenceTerms{Baseline: 160, School: "own-baseline", Step: 4}, []int{164, 168}},
		{"a remainder of 1 joins the step before", CadenceTerms{Baseline: 164, School: "fixed-range"}, []int{170}},
		{"but never over 6", CadenceTerms{Baseline: 163, School: "fixed-range", Step: 6}, []int{168, 170}},
		{"in the range", change(175, "fixed-range"), []int{}},
		{"over it", change(195, "fixed-range"), []int{}},
	} {
		assert.Equal(t, c.beats, c.terms.Beats(), c.name)
	}
	p := PlanCadence(CadenceInput{Today: monday, Terms: change(160, "fixed-range")})
	require.Len(t, p.Weeks, 4)
	assert.Equal(t, []int{165, 165, 170, 170}, []int{p.Weeks[0].Beat, p.Weeks[1].Beat, p.Weeks[2].Beat, p.Weeks[3].Beat})
	assert.Equal(t, "6 × 1 min at 165 within easy runs", p.Drill)
	assert.Contains(t, p.Weeks[1].Content, "3 × 5 min at 165")
	assert.True(t, p.Weeks[1].Recount)
	assert.Contains(t, PlanCadence(CadenceInput{Terms: change(150, "fixed-range")}).Says[0], "165 is 10 %")
}

func TestWorkedStepLengthAndContacts(t *testing.T) {
	assert.InDelta(t, 1.042, StepLength(10, 160), 0.0005)
	assert.InDelta(t, 0.980, StepLength(10, 170), 0.0005)
	assert.InDelta(t, 960, ContactsPerKm(10, 160), 1e-9)
	assert.InDelta(t, 1020, ContactsPerKm(10, 170), 1e-9)
	assert.InDelta(t, 1200, ExtraContacts(40_000, 10, 160, 170), 1e-9, "of one foot")
	assert.Zero(t, StepLength(0, 160))
	assert.Zero(t, ContactsPerKm(0, 160))
}

// Beats never rise by more than 6, never pass a tenth over the baseline, and end
// at the target.
func TestBeatsKeepTheirLimits(t *testing.T) {
	for b := 100.0; b <= 230; b += 0.5 {
		for step := 4; step <= 6; step++ {
			for _, x := range []CadenceTerms{{Baseline: b, School: "own-baseline", Step: step}, {Baseline: b, School: "own-baseline", Further: true, Step: step}, {Baseline: b, School: "fixed-range", Step: step}} {
				at := int(b + 0.5)
				for _, beat := range x.Beats() {
					require.Greater(t, beat, at)
					require.LessOrEqual(t, beat-at, 6, "%+v", x)
					at = beat
				}
				if n := len(x.Beats()); n > 0 {
					require.Equal(t, x.Target(), x.Beats()[n-1])
					require.LessOrEqual(t, float64(at), b*1.1+1e-9)
				}
			}
		}
	}
}

func TestAStepPassesOnlyOnACountWithoutTheBeat(t *testing.T) {
	in := CadenceInput{Today: monday + 21, Terms: change(160, "fixed-range")}
	at := func() CadenceWeek { p := PlanCadence(in); return p.Weeks[p.Now] }
	assert.Equal(t, 165, at().Beat, "no count: the same step again")
	assert.Equal(t, 2, at().Week)
	in.Recounts = []Recount{{On: monday + 12, Mean: 165, Margin: ptr(3.0)}}
	assert.Equal(t, 165, at().Beat, "too wide")
	in.Recounts = []Recount{{On: monday + 12, Mean: 165}}
	assert.Equal(t, 165, at().Beat, "one count alone")
	in.Recounts = []Recount{{On: monday + 12, Mean: 162.5, Margin: ptr(1.0)}}
	assert.Equal(t, 165, at().Beat, "2.5 off")
	assert.Contains(t, PlanCadence(in).Weeks[1].Reasons[0], "162 without the beat")
	in.Recounts = []Recount{{On: monday + 12, Mean: 163, Margin: ptr(2.0)}}
	assert.Equal(t, 170, at().Beat, "within 2 and good to 2")
	assert.Equal(t, Passed, PlanCadence(in).Weeks[1].Outcome)
	in.Recounts = append(in.Recounts, Recount{On: monday + 26, Mean: 169, Margin: ptr(1.0)})
	in.Today = monday + 30
	p := PlanCadence(in)
	assert.True(t, p.Done)
	assert.Equal(t, -1, p.Now)
}

func TestSoreCalvesAndDeloadsHoldAStep(t *testing.T) {
	in := CadenceInput{Today: monday + 7, Terms: change(160, "fixed-range")}
	for d := monday + 2; d <= monday+5; d++ {
		in.Readings = append(in.Readings, Reading{On: d, Soreness: ptr(6)})
	}
	p := PlanCadence(in)
	assert.Equal(t, Repeated, p.Weeks[0].Outcome)
	assert.Equal(t, 1, p.Weeks[1].Week, "the first week again")
	in = CadenceInput{Today: monday, Terms: change(160, "fixed-range"), Held: func(m day.Date) string {
		if m == monday+7 {
			return "deload"
		}
		return ""
	}}
	p = PlanCadence(in)
	require.Len(t, p.Weeks, 5, "a deload adds a week")
	assert.False(t, p.Weeks[1].Recount)
	in.Closed = "flag F-BONE"
	p = PlanCadence(in)
	assert.Equal(t, Stopped, p.Weeks[p.Now].Outcome)
	assert.Empty(t, p.Drill)
}

func TestCadenceIsChangedOnlyForAReason(t *testing.T) {
	open := Outlook{Open: true}
	x := change(160, "own-baseline")
	a := AdviseCadence(x, ptr(1.0), nil, nil, open, false)
	assert.False(t, a.Change)
	assert.Contains(t, a.Against[0], "nothing that a quicker step would help")
	a = AdviseCadence(x, ptr(1.0), []screening.Factor{"overstride", "loud"}, nil, open, false)
	assert.True(t, a.Change)
	assert.Len(t, a.For, 2)
	assert.Contains(t, a.Words, "160 to 168")
	assert.False(t, AdviseCadence(x, ptr(1.0), []screening.Factor{"overstride"}, nil, Outlook{Words: "three counts"}, false).Change)
	assert.False(t, AdviseCadence(x, ptr(1.0), []screening.Factor{"overstride"}, nil, open, true).Change, "the calf rests")
	a = AdviseCadence(x, nil, nil, []screening.Complaint{{Zone: "kneecap", Side: "left"}, {Zone: "inner-shin", Side: "left"}}, open, false)
	assert.True(t, a.Change)
	assert.Len(t, a.For, 2)
	a = AdviseCadence(change(168, "fixed-range"), ptr(2.5), []screening.Factor{"loud"}, nil, open, false)
	assert.Contains(t, a.Against, "the change would be within the margin of the counts")
	a = AdviseCadence(change(196, "fixed-range"), ptr(1.0), []screening.Factor{"loud"}, nil, open, false)
	assert.False(t, a.Change)
	a = AdviseCadence(x, ptr(1.0), []screening.Factor{"loud"}, []screening.Complaint{{Zone: "achilles-mid", Side: "right"}}, open, false)
	assert.Contains(t, a.Against, "the Achilles complains: more steps a kilometre load it more often")
}

func TestCadenceTermsSayWhatIsWrong(t *testing.T) {
	assert.Empty(t, change(160, "fixed-range").Check())
	bad := CadenceTerms{Baseline: 40, School: "none", Step: 9, SpeedKmh: -1}.Check()
	assert.Len(t, bad, 4)
}

func TestOneCueAtATime(t *testing.T) {
	found := []screening.Factor{"posture", "overstride", "loud"}
	state := func(list []Cue) map[string]string {
		out := map[string]string{}
		for _, c := range list {
			out[c.ID] = c.State
		}
		return out
	}
	assert.Equal(t, map[string]string{"posture": "now", "arms": "not-needed", "cadence": "later", "quiet": "later", "line": "not-needed", "level": "not-needed", "pickup": "not-needed"}, state(Cues(found, nil, false, monday)))
	list := Cues(found, []CueLook{{On: monday, Cue: "posture", Begin: true}}, false, monday+3)
	assert.Equal(t, monday+14, *list[0].Due, "two weeks a cue")
	list = Cues(found, []CueLook{{On: monday, Cue: "posture", Begin: true}, {On: monday + 14, Cue: "posture"}}, false, monday+15)
	assert.Equal(t, "now", list[0].State, "it did not take: two weeks more")
	assert.Equal(t, monday+28, *list[0].Due)
	list = Cues(found, []CueLook{{On: monday, Cue: "posture", Begin: true}, {On: monday + 14, Cue: "posture", Took: true}}, false, monday+15)
	assert.Equal(t, "done", list[0].State)
	assert.Equal(t, "now", state(list)["cadence"])
	assert.Equal(t, "now", state(Cues(found, nil, true, monday))["cadence"], "the school that begins with cadence")
	assert.Equal(t, "not-needed", state(Cues(nil, nil, false, monday))["posture"])
}

func TestAStrikeShiftHasItsConditionsAndItsCost(t *testing.T) {
	s := Shift("rear", false, false)
	assert.False(t, s.Allowed)
	assert.Contains(t, s.Missing[0], "one leg 3 × 15")
	s = Shift("rear", true, false)
	assert.True(t, s.Allowed)
	assert.Equal(t, "mid", s.To, "no more than one class")
	assert.GreaterOrEqual(t, s.WeeksMin, 8)
	assert.InDelta(t, 100*(5.8/5.2-1), s.Achilles, 1e-9)
	assert.Equal(t, "fore", Shift("mid", true, false).To)
	assert.False(t, Shift("fore", true, false).Allowed)
	assert.False(t, Shift("rear", true, true).Allowed)
}
