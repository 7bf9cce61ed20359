package adjust

import (
	"slices"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/load"
	"notchback/core/safety"
	"notchback/core/source"
)

// holds returns the reasons of rows 5 and 7 to 9 that hold, in their order.
func (e engine) holds() []Reason {
	var out []Reason
	add := func(rule RuleID, row Row, tag source.Tag, readings ...Reading) {
		out = append(out, Reason{Rule: rule, Row: row, Readings: append([]Reading{}, readings...), Source: tag})
	}
	if c := e.last.CrampAt; c != nil {
		add(RuleCramp, 5, source.Common(), Reading{"reps", e.last.On, float64(*c)})
	}
	if rule, tag, ok := e.row7(); ok {
		add(rule, 7, tag)
	}
	if e.release() {
		if p := e.soreSpot(e.last); p != nil && *p > soreGoOn && *p < soreOff {
			add(RuleSoreSpot, 8, source.Common(), Reading{"pain", e.last.On, float64(*p)})
		}
	} else if p := e.last.Pain; p != nil && *p >= painModerate {
		add(RulePainModerate, 8, painSource, Reading{"pain", e.last.On, float64(*p)})
	}
	if len(e.tissues) == 0 {
		for _, r := range e.morningJumps() {
			r.Row = 8
			out = append(out, r)
		}
	}
	if n := len(e.h.Sessions); n > 1 {
		prev := e.h.Sessions[n-2].On + 1
		a, aKnown := e.h.morning(prev)
		b, bKnown := e.h.morning(e.last.On + 1)
		if aKnown && bKnown && float64(a) >= e.b+quietOver-meanTolerance && float64(b) >= e.b+quietOver-meanTolerance {
			add(RuleMorningOneUp, 8, HouseSource, Reading{"morning", prev, float64(a)}, Reading{"morning", e.last.On + 1, float64(b)}, e.baselineReading())
		}
	}
	if m, ok := e.h.latest(e.c.Today); ok && m.FirstStep >= firstStepHold && !e.earlyLoading(m.FirstStep) {
		add(RuleFirstStepFour, 8, HouseSource, Reading{"morning", m.On, float64(m.FirstStep)})
	}
	if e.last.Litmus == LitmusWorse {
		add(RuleLitmusOnce, 8, HouseSource, Reading{"days", e.last.On, 0})
	}
	if r := e.c.RunPain; r != nil && r.Value >= float64(runPainHold) {
		add(RuleRunPain, 8, HouseSource, Reading{"run", r.On, r.Value})
	}
	if e.c.WeekHold != nil && len(e.tissues) > 0 {
		out = append(out, *e.c.WeekHold)
	} else if r, rising := e.h.Rising(e.c.Today); rising {
		out = append(out, r)
	}
	if e.c.Deload {
		add(RuleDeload, 9, source.Common())
	}
	if e.c.PoorSleep {
		add(RulePoorSleep, 9, source.Common())
	}
	if e.c.MildIllness {
		add(RuleMildIllness, 9, source.Common())
	}
	for _, f := range e.c.Flags {
		if f.ClosesProgress() {
			out = append(out, Reason{Rule: RuleProgressShut, Row: 9, Flag: f.Flag, Other: f.OwnName(), Readings: []Reading{}, Source: safety.SevereSource})
		}
	}
	return out
}

// HoldsNow returns what stops or holds a ladder and side on the context's day,
// beside what is merely not there yet (row 11): nothing rises while it is not
// empty.
func HoldsNow(h History, c Context) []Reason {
	if len(h.Sessions) == 0 {
		return nil
	}
	e := engine{h: h, c: c, last: h.Sessions[len(h.Sessions)-1], tissues: c.Ladder.At(c.Notch).Tissues}
	e.b, e.rest = h.Baseline(e.last.On), h.RestBaseline(e.last.On)
	var out []Reason
	if ill := c.illness(); ill != nil {
		out = append(out, *ill)
	}
	for _, x := range e.cuts() {
		out = append(out, x.reason)
	}
	return append(out, e.holds()...)
}

// row7 couples ladders to running: a jump holds everything that loads a counted
// tissue; a rise, or not knowing, holds spring and bare feet.
func (e engine) row7() (RuleID, source.Tag, bool) {
	loading := len(e.tissues) > 0
	gentle := e.c.Ladder.Purpose == catalogue.ForSpring || e.c.Ladder.Purpose == catalogue.ForExposure
	switch {
	case e.running() == load.Spike && (loading || gentle):
		return RuleRunSpike, load.RatioSource, true
	case (loading || gentle) && e.c.ExposureOver:
		return RuleExposureOver, HouseSource, true
	case e.running() == load.Rise && gentle:
		return RuleRunRise, load.RatioSource, true
	case e.running() == load.Unknown && gentle:
		return RuleRunUnknown, HouseSource, true
	case e.running() == load.Return && gentle:
		return RuleRunReturn, HouseSource, true
	}
	return "", source.Tag{}, false
}

// earlyLadders may rise under the school load early while first steps stand at 4
// or 5, if the weekly median falls.
var earlyLadders = []string{"calf-toeup", quietHolds}

func (e engine) earlyLoading(first body.Pain) bool {
	if !e.c.LoadEarly || first > quietWorst || !slices.Contains(earlyLadders, e.c.Ladder.ID) {
		return false
	}
	this, last := e.h.weekMedians(e.c.Today)
	return this != nil && last != nil && *this < *last
}

// quietWorst is the highest first-step pain early loading goes on with.
const quietWorst body.Pain = 5
