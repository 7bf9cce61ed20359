package transition

import (
	"math"
	"slices"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/source"
)

// weekly is how much a reading can get better in a week when nothing goes wrong:
// one notch of the ladder that works on it. House; it dates only the earliest.
var weekly = map[screening.TestID]float64{
	screening.SingleRaise: 2, screening.BallHold: 5, screening.StanceOpen: 5, screening.TuckedKneel: 10,
	screening.KneeToWall: 0.5, screening.SeatedShin: 2, screening.BigToePassive: 2.5,
}

// OutlookSource tags the earliest dates of gates.
var OutlookSource = source.House("one notch a week with nothing going wrong, tested again every two weeks; a class of a test in four weeks")

const (
	classWeeks  = 4
	retestWeeks = 2
	calmWeeks   = 2
)

// rampBrings are the gates whose evidence of the plan is the ramp's own earlier
// stage; the ramp itself sees to it.
var rampBrings = map[catalogue.Gate]bool{safety.BarefootStrength: true, safety.BarefootRun: true}

// Outlooks says for each gate whether it is open, and when it may be at the
// earliest. pogoWeeks is how many notches of the pogo ladder are still to go. A
// standing flag that closes loading of the foot or calf closes every stage, one
// that closes running those that are run, though it does not name their gates.
func Outlooks(gates []safety.GateState, today day.Date, birth *day.Date, pogoWeeks int, flags []safety.Standing) map[catalogue.Gate]Outlook {
	out := map[catalogue.Gate]Outlook{}
	for _, g := range gates {
		if f, shut := closedBy(g.Gate, flags); shut {
			out[g.Gate] = Outlook{Words: "a clearance for " + f.Name()}
			continue
		}
		o := Outlook{Open: g.Open, Words: g.Name}
		if g.Open {
			out[g.Gate] = o
			continue
		}
		from, known := today, true
		later := func(d day.Date) { from = max(from, d) }
		o.Words = ""
		others := false
		for _, n := range g.Needs {
			if n.Kind == safety.NeedRamp && rampBrings[g.Gate] {
				continue
			}
			others = true
			if o.Words == "" || n.Kind == safety.NeedClearance || n.Kind == safety.NeedSchool {
				o.Words = n.Words
			}
			switch n.Kind {
			case safety.NeedTest:
				later(today + day.Date(7*testWeeks(n)))
			case safety.NeedRamp:
				if g.Gate == safety.MinShoeRun {
					later(today + day.Date(7*pogoWeeks))
				}
			case safety.NeedAnswer:
			case safety.NeedCalm:
				later(today + 7*calmWeeks)
			case safety.NeedAge:
				if birth == nil {
					known = false
				} else {
					b := birth.Time()
					later(day.Make(b.Year()+hopYears, b.Month(), b.Day()))
				}
			case safety.NeedGate:
				// Gates stand in the order of the chain: the lower one is known by now.
				if lower, ok := lowerGate(g.Gate, out); ok {
					if lower.From == nil {
						known = false
					} else {
						later(*lower.From)
					}
				}
			default:
				known = false
			}
		}
		o.Open = !others
		if known {
			o.From = &from
		}
		out[g.Gate] = o
	}
	return out
}

// footTissues are those that bare feet load.
var footTissues = []body.Tissue{body.Achilles, body.Sole, body.Forefoot, body.Shin}

func closedBy(g catalogue.Gate, flags []safety.Standing) (safety.Standing, bool) {
	runs := g == safety.MinShoeRun || g == safety.BarefootRun
	for _, f := range flags {
		if f.Everything || f.ClosesGate(g) || runs && f.ClosesRunning() || slices.ContainsFunc(f.Tissues, func(t body.Tissue) bool { return slices.Contains(footTissues, t) }) {
			return f, true
		}
	}
	return safety.Standing{}, false
}

const hopYears = body.OneLegAge

func lowerGate(g catalogue.Gate, at map[catalogue.Gate]Outlook) (Outlook, bool) {
	lower := map[catalogue.Gate]catalogue.Gate{safety.LoadedCalf: safety.SingleLegCalf, safety.Hop: safety.LoadedCalf, safety.MinShoeRun: safety.Hop, safety.BarefootRun: safety.MinShoeRun}
	o, ok := at[lower[g]]
	return o, ok && !o.Open
}

// testWeeks is how many weeks a reading needs at the earliest, in whole re-tests;
// 0 where it was never taken and may be enough today.
func testWeeks(n safety.Missing) int {
	if n.Have == nil {
		return 0
	}
	short := n.Least - *n.Have
	t, _ := screening.Find(n.Test)
	weeks := 0
	switch per, ok := weekly[n.Test]; {
	case ok && short > 0:
		weeks = int(math.Ceil(short / per))
	case !ok && short != 0 && t.Unit == "class":
		weeks = classWeeks * int(math.Ceil(math.Abs(short)))
	}
	if weeks == 0 {
		return retestWeeks // enough, but too old, too painful or not sure: taken again
	}
	return (weeks + retestWeeks - 1) / retestWeeks * retestWeeks
}
