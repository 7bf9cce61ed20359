// Package planning chooses where a ladder starts and on which days it stands.
package planning

import (
	"math"

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
	RuleFirst       RuleID = "first"        // no table: the first notch
	RuleCount       RuleID = "count"        // a value of the weaker side
	RuleMissing     RuleID = "missing"      // not measured on both sides
	RulePain        RuleID = "pain"         // pain in the test
	RuleRange       RuleID = "range-result" // a verdict of the weaker side
	RuleProven      RuleID = "proven"       // a logged clean session, less one
	RuleCarried     RuleID = "carried"      // goes on where it stands
	RuleLowerPain   RuleID = "lower-pain"
	RuleLowerAge    RuleID = "lower-age"
	RuleLowerFirst  RuleID = "lower-first"
	RuleLowerRise   RuleID = "lower-rise"
	RuleLowerCapped RuleID = "lower-capped"
	RuleCeiling     RuleID = "ceiling" // something closes what is above
	RuleExtraSet    RuleID = "extra-set"
)

// Reason is why a ladder starts where it does. Value is the reading behind it.
type Reason struct {
	Rule   RuleID         `json:"rule"`
	Value  *float64       `json:"value,omitempty"`
	Side   body.Side      `json:"side,omitempty"`
	Gate   catalogue.Gate `json:"gate,omitempty"`
	Class  string         `json:"class,omitempty"`
	Test   string         `json:"test,omitempty"`
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
	ExtraSetPain  body.Pain = 3 // the weaker side must be at or under it
	lowerAge                = 60
	lowerMost               = 2 // at most two notches lower
)

// StartingNotch returns where a ladder begins by its own table, no higher than
// ceiling, the highest notch that nothing closes. A missing or one-sided reading
// starts at notch 1.
func StartingNotch(l catalogue.Ladder, e StartEvidence, ceiling int) Start {
	s := Start{Ladder: l.ID, Notch: 1, Reasons: []Reason{}}
	rule := l.Start
	r := e.result(screening.TestID(rule.Test))
	switch {
	case rule.Test == "":
		s.Reasons = append(s.Reasons, Reason{Rule: RuleFirst, Source: rule.Source})
	case len(rule.Class) > 0:
		s.fromClass(r, rule)
	default:
		s.fromValue(r, e, rule, ceiling)
	}
	s.Notch = max(1, min(s.Notch, l.Len()))
	if s.Notch > ceiling {
		s.Notch = max(1, ceiling)
		s.Reasons = append(s.Reasons, Reason{Rule: RuleCeiling, Source: source.House("no start beyond what is closed")})
	}
	return s
}

func (s *Start) missing(rule catalogue.StartRule) {
	s.Reasons = append(s.Reasons, Reason{Rule: RuleMissing, Test: testName(rule.Test), Source: rule.Source})
}

func testName(id string) string {
	t, ok := screening.Find(screening.TestID(id))
	if !ok {
		return id
	}
	return t.Name
}

func (s *Start) fromClass(r *screening.Result, rule catalogue.StartRule) {
	if r == nil {
		s.missing(rule)
		return
	}
	weaker, ok := r.Weaker()
	if !ok {
		s.missing(rule)
		return
	}
	class := weaker.Class
	if weaker.Borderline && class == screening.OK {
		class = screening.Watch
	}
	s.Notch = rule.Class["limited"]
	if n, ok := rule.Class[string(class)]; ok {
		s.Notch = n
	}
	if weaker.Borderline {
		s.Notch = max(1, s.Notch-1) // house: a class that is not sure starts one lower
	}
	s.Reasons = append(s.Reasons, Reason{Rule: RuleRange, Test: testName(rule.Test), Value: weaker.Value, Side: weaker.Side, Class: string(weaker.Verdict), Source: rule.Source})
}

func (s *Start) fromValue(r *screening.Result, e StartEvidence, rule catalogue.StartRule, ceiling int) {
	if r == nil {
		s.missing(rule)
		return
	}
	worst, painKnown := worstPain(*r)
	if painKnown && worst >= firstPain {
		v := float64(worst)
		s.Reasons = append(s.Reasons, Reason{Rule: RulePain, Test: testName(rule.Test), Value: &v, Source: rule.Source})
		return
	}
	weaker, ok := r.Weaker()
	if !ok {
		s.missing(rule)
		return
	}
	value, side := *weaker.Value, weaker.Side
	if rule.With != "" {
		other := e.result(screening.TestID(rule.With))
		if other == nil {
			s.missing(rule)
			return
		}
		w, ok := other.Weaker()
		if !ok {
			s.missing(rule)
			return
		}
		if *w.Value < value {
			value, side = *w.Value, w.Side
		}
	}
	best := math.Inf(-1)
	for from, notch := range rule.From {
		if f := float64(from); value >= f && f > best {
			best, s.Notch = f, notch
		}
	}
	if s.Notch > ceiling {
		// A class whose gate is closed counts as the next one that is open.
		best = math.Inf(-1)
		for from, notch := range rule.From {
			if f := float64(from); value >= f && f > best && notch <= ceiling {
				best, s.Notch = f, notch
			}
		}
	}
	s.Reasons = append(s.Reasons, Reason{Rule: RuleCount, Test: testName(rule.Test), Value: &value, Side: side, Source: rule.Source})
	if rule.Cautions {
		s.lower(e, worst, painKnown || !testAsksPain(rule.Test), rule.Source)
	}
	lsi := r.Asymmetry.LSI
	if lsi != nil && *lsi < screening.SymmetryLimit && weaker.WorstPain != nil && *weaker.WorstPain <= ExtraSetPain {
		s.ExtraSetSide = weaker.Side
		s.Reasons = append(s.Reasons, Reason{Rule: RuleExtraSet, Value: lsi, Side: weaker.Side, Source: source.Common()})
	}
}

// testAsksPain reports whether pain is asked in a test; where it is not, it
// can't be missing.
func testAsksPain(id string) bool {
	t, ok := screening.Find(screening.TestID(id))
	return ok && t.AsksPain
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
func (s *Start) lower(e StartEvidence, worst body.Pain, painKnown bool, tag source.Tag) {
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

// GateCeiling returns the highest notch of a ladder below its first closed gate.
func GateCeiling(l catalogue.Ladder, gates []safety.GateState) int {
	for i, n := range l.Notches {
		if n.Gate != "" && !safety.IsOpen(gates, n.Gate) {
			return i
		}
	}
	return l.Len()
}
