package transition

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
)

func TestOutlooksDateTheEarliest(t *testing.T) {
	today := monday
	birth := day.Make(2011, time.March, 1)
	need := func(g catalogue.Gate, needs ...safety.Missing) safety.GateState {
		s := safety.GateState{Gate: g, Name: string(g), Needs: needs}
		for _, n := range needs {
			s.Missing = append(s.Missing, n.Words)
		}
		return s
	}
	have := func(test screening.TestID, v, least float64) safety.Missing {
		return safety.Missing{Kind: safety.NeedTest, Words: string(test), Test: test, Have: &v, Least: least}
	}
	one := func(g safety.GateState, pogo int) Outlook {
		return Outlooks([]safety.GateState{g}, today, &birth, pogo, nil)[g.Gate]
	}
	weeks := func(o Outlook) int {
		require.NotNil(t, o.From)
		return int(*o.From-today) / 7
	}
	assert.True(t, one(safety.GateState{Gate: safety.BarefootHome, Open: true}, 0).Open)
	assert.Equal(t, 4, weeks(one(need(safety.Hop, have(screening.SingleRaise, 13, 20)), 0)), "7 raises at 2 a week, in whole re-tests")
	assert.Equal(t, 0, weeks(one(need(safety.Hop, safety.Missing{Kind: safety.NeedTest, Words: "never taken", Test: screening.BallHold, Least: 30}), 0)), "it may be enough today")
	assert.Equal(t, 2, weeks(one(need(safety.Hop, have(screening.SingleRaise, 24, 20)), 0)), "enough, but too old or too painful: taken again")
	assert.Equal(t, 4, weeks(one(need(safety.BarefootStrength, have(screening.Squat, 2, 1)), 0)), "a class in four weeks")
	assert.Equal(t, 4, weeks(one(need(safety.MinShoeRun, have(screening.KneeToWall, 8.2, 10)), 0)), "0.5 cm a week")
	assert.Equal(t, 6, weeks(one(need(safety.MinShoeRun, safety.Missing{Kind: safety.NeedRamp, Words: "pogo"}), 6)))
	assert.Nil(t, one(need(safety.BarefootWalk, safety.Missing{Kind: safety.NeedClearance, Words: "a clearance"}), 0).From, "nobody knows")
	assert.Nil(t, one(need(safety.MinShoeRun, safety.Missing{Kind: safety.NeedSchool, Words: "another school"}), 0).From)
	age := one(need(safety.Hop, safety.Missing{Kind: safety.NeedAge, Words: "16 or older"}), 0)
	assert.Equal(t, day.Make(2027, time.March, 1), *age.From)
	assert.Nil(t, Outlooks([]safety.GateState{need(safety.Hop, safety.Missing{Kind: safety.NeedAge, Words: "16"})}, today, nil, 0, nil)[safety.Hop].From, "age not known")
	// What the ramp's own stage brings is left to the ramp.
	assert.True(t, one(need(safety.BarefootStrength, safety.Missing{Kind: safety.NeedRamp, Words: "two weeks at 2 × 20"}), 0).Open)
	walk := one(need(safety.BarefootWalk, safety.Missing{Kind: safety.NeedRamp, Words: "14 days"}), 0)
	assert.False(t, walk.Open, "the days are logged, not assumed")
	assert.Equal(t, today, *walk.From)
	// A lower gate of the chain carries its date up.
	chain := Outlooks([]safety.GateState{
		need(safety.Hop, have(screening.SingleRaise, 10, 20)),
		need(safety.MinShoeRun, safety.Missing{Kind: safety.NeedGate, Words: "the gate hop"}),
	}, today, &birth, 0, nil)
	assert.Equal(t, *chain[safety.Hop].From, *chain[safety.MinShoeRun].From)
	// The words name what somebody else must do first.
	both := one(need(safety.BarefootWalk, have(screening.Arch, 0, 1), safety.Missing{Kind: safety.NeedClearance, Words: "a clearance for F-BONE"}), 0)
	assert.Equal(t, "a clearance for F-BONE", both.Words)
}

// What a week holds on each day: runs and walks never side by side, walks where
// they can on days without a run, nothing on days out.
func TestDaysOfAWeek(t *testing.T) {
	x := terms()
	x.Begin = ""
	r := Plan(ahead(x, nil))
	on := func(week int) map[int][]Stage {
		out := map[int][]Stage{}
		for d := range 7 {
			for _, e := range r.Weeks[week].On(d, x) {
				out[d] = append(out[d], e.Stage)
			}
		}
		return out
	}
	assert.Len(t, on(0), 7, "at home every day")
	walks := on(6)
	found := []int{}
	for d := range 7 {
		for _, s := range walks[d] {
			if s == Walk {
				found = append(found, d)
			}
		}
	}
	assert.Equal(t, []int{0, 2, 4}, found, "no run on them, never side by side")
	strength := on(10)
	assert.Contains(t, strength[0], Strength)
	assert.Contains(t, strength[3], Strength)
	assert.NotContains(t, strength[1], Strength)
	drills := on(12)
	n := 0
	for d := range 7 {
		for _, s := range drills[d] {
			if s == Drills {
				n++
			}
		}
	}
	assert.Equal(t, 2, n)
	late := on(20)
	n = 0
	for d := range 7 {
		for _, s := range late[d] {
			if s == Run {
				n++
				assert.Contains(t, x.RunDays, d)
			}
		}
	}
	assert.Equal(t, len(r.Weeks[20].Dose.Runs), n)
	w := r.Weeks[0]
	w.Out = []day.Date{w.Monday + 2}
	assert.Empty(t, w.On(2, x))
	assert.Equal(t, monday+7*4, *r.Enters(Walk))
	assert.Nil(t, r.Enters(Bare))
}

// A flag that stops loading of the region stops the ramp, though it names no gate.
func TestAFlagOnTheFootClosesEveryStage(t *testing.T) {
	open := []safety.GateState{}
	for _, s := range Stages {
		open = append(open, safety.GateState{Gate: s.Gate(), Name: string(s), Open: true})
	}
	with := func(f safety.Standing) map[catalogue.Gate]Outlook {
		return Outlooks(open, monday, nil, 0, []safety.Standing{f})
	}
	severe := with(safety.Standing{Flag: "F-SEVERE", Tissues: []body.Tissue{body.Sole}})
	for _, s := range Stages {
		assert.False(t, severe[s.Gate()].Open, "%s", s)
		assert.Nil(t, severe[s.Gate()].From, "nobody knows when")
		assert.Equal(t, "a clearance for the strong pain", severe[s.Gate()].Words)
	}
	running := with(safety.Standing{Flag: "F-COMP", Running: true})
	assert.True(t, running[safety.BarefootWalk].Open)
	assert.False(t, running[safety.MinShoeRun].Open)
	other := with(safety.Standing{Flag: "F-COLD"})
	assert.True(t, other[safety.MinShoeRun].Open)
	all := with(safety.Standing{Flag: "F-CLOT", Everything: true})
	assert.False(t, all[safety.BarefootHome].Open)
}
