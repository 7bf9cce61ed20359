// Package planning chooses where a ladder starts and on which days it stands.
package planning

import (
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/source"
)

// RuleID names a reason of a starting notch.
type RuleID string

// The reasons.
const (
	RuleRaiseCount   RuleID = "raise-count"
	RuleRaiseMissing RuleID = "raise-missing"
	RuleRaisePain    RuleID = "raise-pain"
	RuleRange        RuleID = "range-result"
	RuleRangeMissing RuleID = "range-missing"
	RuleLowerPain    RuleID = "lower-pain"
	RuleLowerAge     RuleID = "lower-age"
	RuleLowerFirst   RuleID = "lower-first"
	RuleLowerRise    RuleID = "lower-rise"
	RuleLowerCapped  RuleID = "lower-capped"
	RuleGateClosed   RuleID = "gate-closed"
	RuleExtraSet     RuleID = "extra-set"
)

// Reason is why a ladder starts where it does. Value is the reading behind it.
type Reason struct {
	Rule   RuleID         `json:"rule"`
	Value  *float64       `json:"value,omitempty"`
	Side   body.Side      `json:"side,omitempty"`
	Gate   catalogue.Gate `json:"gate,omitempty"`
	Class  string         `json:"class,omitempty"`
	Source source.Tag     `json:"source"`
}

// Start is where a ladder begins, on both sides, with the reasons.
type Start struct {
	Ladder       string    `json:"ladder"`
	Notch        int       `json:"notch" doc:"Counted from 1; the same on both sides, from the weaker one"`
	ExtraSetSide body.Side `json:"extraSetSide,omitempty" enum:"left,right," doc:"The weaker side gets one set more"`
	Reasons      []Reason  `json:"reasons" nullable:"false"`
}

// StartEvidence is what starting notches are chosen from.
type StartEvidence struct {
	On      day.Date
	Person  body.Person
	Results []screening.Result
	Gates   []safety.GateState
}

func (e StartEvidence) result(id screening.TestID) *screening.Result {
	for i := range e.Results {
		if e.Results[i].Test == id {
			return &e.Results[i]
		}
	}
	return nil
}

// Thresholds of the starting notch.
const (
	lowerPainFrom body.Pain = 4 // 4–5 in the test: one notch lower
	firstPain     body.Pain = 6 // from here notch 1
	extraSetPain  body.Pain = 3 // the weaker side must be at or under it
	lowerAge                = 60
	lowerMost               = 2 // at most two notches lower
)

// raiseStarts maps the weaker side's raise count to a notch of calf-straight.
var raiseStarts = []struct {
	from  float64
	notch int
}{{25, 10}, {20, 8}, {13, 7}, {10, 4}, {5, 3}, {0, 2}}

var raiseStartSource = source.House("so that the first dose is about half of what the test showed")

// rangeStarts maps the class of the weaker side to a notch. A stiff joint
// starts with the shortest hold.
var rangeStarts = map[string]struct {
	test                 screening.TestID
	limited, watch, good int
	why                  string
}{
	"range-soleus": {screening.KneeToWall, 1, 2, 3, "the stiffer the ankle, the shorter the first hold"},
	"range-toe":    {screening.BigToePassive, 1, 1, 2, "kneeling work waits until the strap is easy"},
}

// StartingNotch returns where a ladder begins. It never lies beyond a closed
// gate; a missing or one-sided reading starts at notch 1.
func StartingNotch(l catalogue.Ladder, e StartEvidence) Start {
	s := Start{Ladder: l.ID, Notch: 1, Reasons: []Reason{}}
	if r, ok := rangeStarts[l.ID]; ok {
		s.fromRange(e.result(r.test), r.limited, r.watch, r.good, source.House(r.why))
	} else {
		s.fromRaises(e)
	}
	s.Notch = min(s.Notch, l.Len())
	for s.Notch > 1 && !safety.Open(e.Gates, l.At(s.Notch).Gate) {
		gate := l.At(s.Notch).Gate
		for s.Notch > 1 && l.At(s.Notch).Gate == gate {
			s.Notch--
		}
		s.Reasons = append(s.Reasons, Reason{Rule: RuleGateClosed, Gate: gate, Source: source.House("no start beyond a closed gate")})
	}
	return s
}

func (s *Start) fromRange(r *screening.Result, limited, watch, good int, tag source.Tag) {
	if r == nil {
		s.Reasons = append(s.Reasons, Reason{Rule: RuleRangeMissing, Source: tag})
		return
	}
	weaker, ok := r.Weaker()
	if !ok {
		s.Reasons = append(s.Reasons, Reason{Rule: RuleRangeMissing, Source: tag})
		return
	}
	class := weaker.Class
	if weaker.Borderline && class == screening.OK {
		class = screening.Watch
	}
	switch class {
	case screening.OK:
		s.Notch = good
	case screening.Watch:
		s.Notch = watch
	default:
		s.Notch = limited
	}
	s.Reasons = append(s.Reasons, Reason{Rule: RuleRange, Value: weaker.Value, Side: weaker.Side, Class: string(weaker.Verdict), Source: tag})
}

func (s *Start) fromRaises(e StartEvidence) {
	tag := raiseStartSource
	r := e.result(screening.SingleRaise)
	if r == nil {
		s.Reasons = append(s.Reasons, Reason{Rule: RuleRaiseMissing, Source: tag})
		return
	}
	worst, painKnown := worstPain(*r)
	if painKnown && worst >= firstPain {
		v := float64(worst)
		s.Reasons = append(s.Reasons, Reason{Rule: RuleRaisePain, Value: &v, Source: tag})
		return
	}
	weaker, ok := r.Weaker()
	if !ok {
		s.Reasons = append(s.Reasons, Reason{Rule: RuleRaiseMissing, Source: tag})
		return
	}
	for _, step := range raiseStarts {
		if *weaker.Value >= step.from {
			s.Notch = step.notch
			break
		}
	}
	s.Reasons = append(s.Reasons, Reason{Rule: RuleRaiseCount, Value: weaker.Value, Side: weaker.Side, Source: tag})
	s.lower(e, worst, painKnown)
	lsi := r.Asymmetry.LSI
	if lsi != nil && *lsi < screening.SymmetryLimit && weaker.WorstPain != nil && *weaker.WorstPain <= extraSetPain {
		s.ExtraSetSide = weaker.Side
		s.Reasons = append(s.Reasons, Reason{Rule: RuleExtraSet, Value: lsi, Side: weaker.Side, Source: source.Common()})
	}
}

func worstPain(r screening.Result) (body.Pain, bool) {
	worst, known := 0, false
	for _, side := range body.Sides {
		if p := r.Side(side).WorstPain; p != nil {
			worst, known = max(worst, *p), true
		}
	}
	return worst, known
}

// lower takes one notch off for each caution, at most two, never below 1.
// What is not known counts as the caution being there.
func (s *Start) lower(e StartEvidence, worst body.Pain, painKnown bool) {
	tag := raiseStartSource
	var cautions []Reason
	if !painKnown || worst >= lowerPainFrom {
		r := Reason{Rule: RuleLowerPain, Source: tag}
		if painKnown {
			v := float64(worst)
			r.Value = &v
		}
		cautions = append(cautions, r)
	}
	if age, known := e.Person.AgeOn(e.On); !known || age >= lowerAge {
		r := Reason{Rule: RuleLowerAge, Source: tag}
		if known {
			v := float64(age)
			r.Value = &v
		}
		cautions = append(cautions, r)
	}
	if e.Person.FirstStructuredWork == nil || *e.Person.FirstStructuredWork {
		cautions = append(cautions, Reason{Rule: RuleLowerFirst, Source: tag})
	}
	if e.Person.RecentVolumeRise == nil || *e.Person.RecentVolumeRise {
		cautions = append(cautions, Reason{Rule: RuleLowerRise, Source: tag})
	}
	s.Notch = max(1, s.Notch-min(lowerMost, len(cautions)))
	s.Reasons = append(s.Reasons, cautions...)
	if len(cautions) > lowerMost {
		s.Reasons = append(s.Reasons, Reason{Rule: RuleLowerCapped, Source: tag})
	}
}

// DeloadSets returns the sets of a deload week: sets − ⌈sets/3⌉, at least 1.
// A single set keeps its set; DeloadCount cuts its time or repetitions.
func DeloadSets(sets int) int { return max(1, sets-(sets+2)/3) }

// Deload returns the dose of a deload week: fewer sets, or two thirds of the
// time or repetitions of a single set.
func Deload(d catalogue.Dose) catalogue.Dose {
	if d.Sets > 1 {
		d.Sets = DeloadSets(d.Sets)
		return d
	}
	d.Reps = d.Reps * 2 / 3
	d.HoldSeconds = d.HoldSeconds * 2 / 3
	return d
}

// DeloadEvery is the length of the rhythm in weeks: every fourth week is lighter.
const DeloadEvery = 4

// IsDeload reports whether a date falls in a deload week of a block that starts
// on the given date: every fourth ISO week from the block's first Monday.
func IsDeload(blockStart, d day.Date) bool {
	first := blockStart
	if first.Monday() != first {
		first = first.Monday() + 7
	}
	if d < first {
		return false
	}
	return int(d-first)/7%DeloadEvery == DeloadEvery-1
}

// Weekdays returns the days of the week a ladder's notch stands on, Monday = 0.
// Daily work stands every day, strength on alternate days, range that is not
// daily between them.
func Weekdays(l catalogue.Ladder, n catalogue.Notch) []int {
	switch {
	case l.Purpose == "strength":
		return []int{0, 2, 4}
	case n.Gap48 || l.PerWeek.Min < 7:
		return []int{1, 3, 5}
	default:
		return []int{0, 1, 2, 3, 4, 5, 6}
	}
}
