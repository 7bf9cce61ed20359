package load

import (
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/source"
)

// AdviceID is what a runner is told about running.
type AdviceID string

// The advice, from the most cautious on.
const (
	NoRunning AdviceID = "no-running" // then back by the ladder run-return
	SkipNext  AdviceID = "skip-next"  // and this week at most 70 % of last
	Easier    AdviceID = "easier"     // last week × 0.8, nothing fast
	AsPlanned AdviceID = "as-planned"
	NotKnown  AdviceID = "not-known" // readings are missing: less rather than more
)

// Why is what an advice rests on.
type Why string

// What an advice can rest on.
const (
	WhyFlag      Why = "flag"
	WhyLimping   Why = "limping"
	WhyPainSix   Why = "pain-six"
	WhyFlare     Why = "flare"
	WhyMorning   Why = "morning"
	WhyPainFour  Why = "pain-four"
	WhySettled   Why = "settled"
	WhyNoMorning Why = "no-morning"
	WhyUnsettled Why = "unsettled"
	WhyNoRuns    Why = "no-runs"
)

// Numbers of the advice.
const (
	runPainStop  body.Pain = 6
	runPainEase  body.Pain = 4
	skipShare              = 0.70
	easeShare              = 0.80
	morningJump            = body.JumpOver
	adviceDays             = 7 // a run speaks for the seven days after it
	settledByOne           = body.QuietOver
	tolerance              = 1e-9
)

// AdviceSource tags the numbers of the advice.
var AdviceSource = source.House("first what closes running, then what a run and its next morning say")

// Advice is what a runner is told about running, and what it rests on.
type Advice struct {
	ID      AdviceID   `json:"id" enum:"no-running,skip-next,easier,as-planned,not-known"`
	Why     Why        `json:"why"`
	Run     *day.Date  `json:"run,omitempty" format:"date"`
	Pain    *body.Pain `json:"pain,omitempty"`
	Morning *body.Pain `json:"morning,omitempty"`
	Usual   float64    `json:"usual"`
	// Most is the most metres for this week (skip) or next (easier); 0 where
	// none is set.
	Most    int        `json:"mostMetres"`
	NoFast  bool       `json:"noFast,omitempty"`
	Return  bool       `json:"return,omitempty" doc:"Back by the ladder run-return"`
	Source  source.Tag `json:"source"`
	FlagIDs []string   `json:"flags,omitempty"`
	// Own are what flags of the practice's own are called, by id.
	Own map[string]string `json:"own,omitempty"`
}

// AdviceInput is what running advice is given from.
type AdviceInput struct {
	On      day.Date
	Runs    []Run
	Morning func(day.Date) *body.Pain // first-step reading of a date; nil for unknown
	Usual   float64                   // B
	Flare   bool                      // a flare stands
	Flags   []string                  // flags that close running
	Own     map[string]string         // what those of the practice's own are called
}

// Advise returns the first advice that applies: never more running than the
// readings carry. While a flare stands nobody runs.
func Advise(in AdviceInput) Advice {
	a := Advice{Usual: in.Usual, Source: AdviceSource}
	monday := in.On.Monday()
	last := 0
	for _, r := range in.Runs {
		if r.On >= monday-7 && r.On < monday {
			last += r.Metres
		}
	}
	share := func(s float64) int { return int(float64(last) * s) }
	if len(in.Flags) > 0 {
		a.ID, a.Why, a.FlagIDs, a.Own, a.Return = NoRunning, WhyFlag, in.Flags, in.Own, true
		return a
	}
	var limp, worst, newest *Run
	for i := range in.Runs {
		r := &in.Runs[i]
		if r.On > in.On || int(in.On-r.On) >= adviceDays {
			continue
		}
		if r.Limping && (limp == nil || r.On > limp.On) {
			limp = r
		}
		if r.Pain != nil && (worst == nil || *r.Pain >= *worst.Pain) {
			worst = r
		}
		if newest == nil || r.On >= newest.On {
			newest = r
		}
	}
	at := func(r *Run) {
		on := r.On
		a.Run, a.Pain = &on, r.Pain
	}
	switch {
	case limp != nil:
		at(limp)
		a.ID, a.Why, a.Return, a.NoFast = NoRunning, WhyLimping, true, true
		return a
	case worst != nil && *worst.Pain >= runPainStop:
		at(worst)
		a.ID, a.Why, a.Return, a.NoFast = NoRunning, WhyPainSix, true, true
		return a
	case in.Flare:
		a.ID, a.Why, a.Return, a.NoFast = NoRunning, WhyFlare, true, true
		return a
	}
	if newest == nil {
		a.ID, a.Why = AsPlanned, WhyNoRuns
		return a
	}
	over := func(r *Run, by float64) (*body.Pain, bool) {
		m := in.Morning(r.On + 1)
		return m, m != nil && float64(*m) >= in.Usual+by-tolerance
	}
	above := func(r *Run) (*body.Pain, bool) {
		m := in.Morning(r.On + 1)
		return m, m != nil && float64(*m) > in.Usual+settledByOne+tolerance
	}
	skip := func(r *Run, why Why, m *body.Pain) Advice {
		at(r)
		a.ID, a.Why, a.Morning, a.Most, a.NoFast = SkipNext, why, m, share(skipShare), true
		return a
	}
	if m, jumped := over(newest, morningJump); jumped {
		return skip(newest, WhyMorning, m)
	}
	if worst != nil && *worst.Pain >= runPainEase {
		m, unsettled := above(worst)
		if unsettled {
			return skip(worst, WhyUnsettled, m)
		}
		at(worst)
		a.Morning = m
		a.ID, a.Why, a.Most, a.NoFast = Easier, WhyPainFour, share(easeShare), true
		return a
	}
	at(newest)
	m, unsettled := above(newest)
	a.Morning = m
	switch {
	case unsettled:
		a.ID, a.Why, a.Most, a.NoFast = Easier, WhyUnsettled, share(easeShare), true
	case m == nil || newest.Pain == nil:
		a.ID, a.Why, a.Most, a.NoFast = NotKnown, WhyNoMorning, last, true
	default:
		a.ID, a.Why = AsPlanned, WhySettled
	}
	return a
}
