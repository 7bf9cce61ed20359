package course

import (
	"encoding/csv"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/safety"
)

// The two tables were written by hand from the flag table and from what the
// exercises are; nothing in them is read from the code.
func table(t *testing.T, name string) [][]string {
	f, err := os.Open("testdata/may/" + name)
	require.NoError(t, err)
	defer f.Close()
	r := csv.NewReader(f)
	rows, err := r.ReadAll()
	require.NoError(t, err)
	return rows
}

type workOf map[string][]string // ladder/notch → kinds of work

func kindsByHand(t *testing.T) workOf {
	out := workOf{}
	for _, r := range table(t, "notches.csv")[1:] {
		out[r[0]+"/"+r[1]] = strings.Fields(r[2])
	}
	return out
}

// says is what a flag's row says of work: the worst of its kinds.
func says(row map[string]string, kinds []string) planning.PermissionState {
	out := planning.Open
	for _, k := range kinds {
		switch row[k] {
		case "closed":
			return planning.Closed
		case "limited":
			out = planning.Limited
		}
	}
	return out
}

// chained are the gates of the calf, shoes and bare feet: what closes one closes
// those above.
var chained = []catalogue.Gate{safety.SingleLegCalf, safety.LoadedCalf, safety.Hop, safety.MinShoeRun, safety.BarefootRun}

func gatesUnder(f safety.Standing) []safety.GateState {
	out := []safety.GateState{}
	for _, g := range []catalogue.Gate{safety.BarefootHome, safety.BarefootWalk, safety.BarefootStrength, safety.EndRange, safety.SingleLegCalf, safety.LoadedCalf, safety.Hop, safety.MinShoeRun, safety.BarefootRun, safety.CadenceChange} {
		open := !f.ClosesGate(g)
		if i := slices.Index(chained, g); i > 0 {
			for _, lower := range chained[:i] {
				open = open && !f.ClosesGate(lower)
			}
		}
		out = append(out, safety.GateState{Gate: g, Open: open, State: "closed", Missing: []string{}})
	}
	return out
}

// sided are the flags whose question asks which side.
func sided(id safety.FlagID) bool {
	for _, g := range safety.Questions(adult) {
		for _, q := range g.Questions {
			if q.Flag == id {
				return q.Side
			}
		}
	}
	return false
}

// Every flag against every notch of every ladder on both sides, for a new plan.
func TestEveryFlagAgainstEveryNotch(t *testing.T) {
	work := kindsByHand(t)
	rows := table(t, "flags.csv")
	head := rows[0]
	listed := map[string]bool{}
	cells := 0
	for _, r := range rows[1:] {
		id := safety.FlagID(r[0])
		listed[r[0]] = true
		row := map[string]string{}
		for i, c := range r[1:] {
			row[head[i+1]] = c
		}
		f := entryOf(t, id).Raised(monday, body.Left)
		if !sided(id) {
			f.Side = ""
		}
		e := planning.Evidence{On: monday, Flags: []safety.Standing{f}, Gates: gatesUnder(f)}
		for _, l := range shelf.Ladders {
			for at := 1; at <= l.Len(); at++ {
				kinds, known := work[fmt.Sprintf("%s/%d", l.ID, at)]
				require.True(t, known, "%s notch %d has no row", l.ID, at)
				for _, side := range body.Sides {
					p := e.Shut(l, at, l.At(at).Kinds(), side)
					got := p.State
					want := says(row, kinds)
					runs := slices.ContainsFunc(kinds, func(k string) bool {
						return slices.Contains([]string{"run-drill", "run", "return-walk"}, k) && row[k] == "closed"
					})
					gate := slices.ContainsFunc(kinds, func(k string) bool { return strings.HasPrefix(k, "gate:") && row[k] == "closed" })
					if f.Side == body.Left && side == body.Right && !l.At(at).Together() && !runs && !gate {
						want = planning.Open
					}
					cells++
					assert.Equal(t, want, got, "%s, %s notch %d (%s), %s: %s", id, l.ID, at, strings.Join(kinds, " "), side, fmt.Sprint(p.Why, p.Limits))
				}
			}
		}
	}
	for _, x := range safety.Entries() {
		if x.ID != adjust.FlareFlag && x.ID != safety.Open && x.ID != safety.Severe {
			assert.True(t, listed[string(x.ID)], "%s has no row", x.ID)
		}
	}
	assert.Greater(t, cells, 20000)
}

func entryOf(t *testing.T, id safety.FlagID) safety.Entry {
	for _, x := range safety.Entries() {
		if x.ID == id {
			return x
		}
	}
	t.Fatalf("no flag %s", id)
	return safety.Entry{}
}

// blockOf is a running block with every built-in ladder standing at one notch, or
// at its top.
func blockOf(t *testing.T, at int) *life {
	l := newLife(t)
	l.r.Block.Prescriptions = nil
	for i, x := range shelf.Ladders {
		l.r.Block.Prescriptions = append(l.r.Block.Prescriptions, Prescription{ID: x.ID, Ladder: x, Start: min(at, x.Len()), FromWeek: 1, Rank: i})
	}
	l.r.State, l.r.Decisions = State{}, nil
	return l
}

// The same for a running block: the flag is answered in its middle, and the day
// after nothing that the table closes is what a side is asked.
func TestEveryFlagInARunningBlock(t *testing.T) {
	work := kindsByHand(t)
	rows := table(t, "flags.csv")
	head := rows[0]
	ats := []int{1, 4, 99}
	if os.Getenv("NOTCHBACK_WHOLE") != "" {
		ats = nil
		for i := 1; i <= 25; i++ {
			ats = append(ats, i)
		}
	}
	for _, at := range ats {
		for _, r := range rows[1:] {
			id := safety.FlagID(r[0])
			question := questionOf(id)
			if question == "" {
				continue // raised by readings
			}
			row := map[string]string{}
			for i, c := range r[1:] {
				row[head[i+1]] = c
			}
			l := blockOf(t, at)
			minor := id == "F-GROW" || id == "F-CHILD" // asked under 18 only
			if minor {
				birth := day.Make(2011, 1, 1)
				l.r.Runner.Person.Birth = &birth
			}
			l.at(monday+2, 9)
			d := Day{Arrival: l.arrival(), On: l.now.On, Answers: &safety.Answers{Yes: map[string]body.Side{question: body.Left}, None: []string{}}}
			l.r.Days = append(l.r.Days, d)
			l.decide()
			l.at(monday+3, 13)
			l.decide()
			b := l.book()
			for _, p := range l.r.Block.Prescriptions {
				for _, side := range body.Sides {
					peg := b.State.Peg(Seat{p.ID, side})
					asked, may := b.Highest(p.Ladder, peg.Notch, side)
					if peg.Halt != nil {
						asked = 0
					}
					stood := min(at, p.Ladder.Len())
					kinds := work[fmt.Sprintf("%s/%d", p.Ladder.ID, stood)]
					onSide := !sided(id) || side == body.Left || p.Ladder.At(stood).Together()
					closed := onSide && says(row, kinds) == planning.Closed
					if closed {
						assert.NotEqual(t, stood, asked, "%s leaves %s at notch %d, %s", id, p.ID, stood, side)
					}
					if asked > 0 {
						k := work[fmt.Sprintf("%s/%d", p.Ladder.ID, asked)]
						if onSide {
							assert.NotEqual(t, planning.Closed, says(row, k), "%s asks %s notch %d, %s", id, p.ID, asked, side)
						}
					} else if !closed && peg.Halt != nil && !minor {
						// Only a gate that this runner has no evidence for may have moved it.
						assert.NotEmpty(t, p.Ladder.At(stood).Gate, "%s stops %s at notch %d, %s: %s", id, p.ID, stood, side, fmt.Sprint(may.Why))
					}
				}
			}
		}
	}
}

func questionOf(id safety.FlagID) string {
	for _, g := range safety.Questions(screeningMinor) {
		for _, q := range g.Questions {
			if q.Flag == id {
				return q.ID
			}
		}
	}
	return ""
}
