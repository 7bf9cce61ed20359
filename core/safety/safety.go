// Package safety holds the flags that hand a runner over to a clinician or
// close part of a plan, and the gates that open only on evidence. It never
// diagnoses.
package safety

import (
	"slices"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/screening"
	"notchback/core/source"
)

// Level is how far a flag reaches.
type Level string

// The levels, most urgent first.
const (
	Emergency Level = "emergency"
	Refer     Level = "refer"
	Limit     Level = "limit"
	Note      Level = "note"
)

// FlagID names a flag of the table.
type FlagID string

// Severe is raised by any pain of 8 or more.
const Severe FlagID = "F-SEVERE"

// SevereAt is the pain that raises Severe.
const SevereAt body.Pain = 8

// SevereSource tags SevereAt.
var SevereSource = source.House("common red-flag teaching; such pain is looked at before any load")

// Standing is a flag that holds for a runner.
type Standing struct {
	Flag  FlagID    `json:"flag"`
	Level Level     `json:"level"`
	Since day.Date  `json:"since" format:"date"`
	Side  body.Side `json:"side,omitempty" doc:"The side it closes; both when empty"`
	// Tissues are the loaded tissues of the region the flag closes; with
	// Everything set, all ladders are closed.
	Tissues      []body.Tissue `json:"tissues,omitempty"`
	Everything   bool          `json:"everything,omitempty"`
	ProgressOnly bool          `json:"progressOnly,omitempty"`
}

// RaiseSevere returns the flag that a pain of 8 or more raises for the tissues
// of the exercise that hurt.
func RaiseSevere(on day.Date, side body.Side, tissues []body.Tissue) Standing {
	return Standing{Flag: Severe, Level: Refer, Since: on, Side: side, Tissues: tissues, Everything: len(tissues) == 0}
}

// Closes reports whether the flag closes work on the given side that loads any
// of the tissues.
func (s Standing) Closes(side body.Side, tissues []body.Tissue) bool {
	if s.ProgressOnly {
		return false
	}
	if s.Everything {
		return true
	}
	if s.Side != "" && s.Side != body.Both && side != body.Both && s.Side != side {
		return false
	}
	return slices.ContainsFunc(s.Tissues, func(t body.Tissue) bool { return slices.Contains(tissues, t) })
}

// The gates evaluated so far.
const (
	SingleLegCalf catalogue.Gate = "single-leg-calf"
	LoadedCalf    catalogue.Gate = "loaded-calf"
)

// GateState is a gate with the evidence it stands on.
type GateState struct {
	Gate    catalogue.Gate `json:"gate"`
	Name    string         `json:"name"`
	Open    bool           `json:"open"`
	Missing string         `json:"missing,omitempty" doc:"What is still missing, in plain words"`
	Ladder  string         `json:"ladder,omitempty" doc:"The ladder that works on it"`
	Source  source.Tag     `json:"source"`
}

// Evidence is what gates are decided on. A nil or missing reading opens nothing.
type Evidence struct {
	On          day.Date
	Raise       *screening.Result
	RaiseOn     day.Date
	TwoLegClean *day.Date // a clean two-leg 3 × 15 with a quiet next morning
}

// How long evidence can open a gate, and how long the gate then stays open, in days.
const (
	EvidenceDays = 42
	OpenDays     = 84
)

// GatePain is the highest pain a gate test may have had.
const GatePain body.Pain = 3

var gateSource = source.Common()

var calfGates = []struct {
	gate    catalogue.Gate
	name    string
	raises  float64
	missing string
}{
	{SingleLegCalf, "one-leg calf", 10, "10 clean one-leg raises a side at pain 3 or less, or two legs 3 × 15 with a quiet next morning"},
	{LoadedCalf, "loaded calf", 15, "15 clean one-leg raises a side at pain 3 or less"},
}

// Gates decides every gate on the evidence. A higher open calf gate proves the
// lower ones.
func Gates(e Evidence) []GateState {
	out := make([]GateState, len(calfGates))
	for i := len(calfGates) - 1; i >= 0; i-- {
		g := calfGates[i]
		st := GateState{Gate: g.gate, Name: g.name, Source: gateSource, Ladder: "calf-straight"}
		st.Open = raisesReach(e, g.raises) || (i+1 < len(out) && out[i+1].Open)
		if g.gate == SingleLegCalf && e.TwoLegClean != nil && int(e.On-*e.TwoLegClean) <= OpenDays {
			st.Open = true
		}
		if !st.Open {
			st.Missing = g.missing
		}
		out[i] = st
	}
	return out
}

func raisesReach(e Evidence, n float64) bool {
	if e.Raise == nil || e.On < e.RaiseOn || int(e.On-e.RaiseOn) > OpenDays {
		return false
	}
	for _, side := range body.Sides {
		s := e.Raise.Side(side)
		if !s.Measured() || *s.Value < n || s.WorstPain == nil || *s.WorstPain > GatePain {
			return false
		}
	}
	return true
}

// Open reports whether a gate stands open in the list; the empty gate is open,
// an unknown one closed.
func Open(gates []GateState, g catalogue.Gate) bool {
	if g == "" {
		return true
	}
	return slices.ContainsFunc(gates, func(s GateState) bool { return s.Gate == g && s.Open })
}

// Find returns the state of a gate.
func Find(gates []GateState, g catalogue.Gate) (GateState, bool) {
	i := slices.IndexFunc(gates, func(s GateState) bool { return s.Gate == g })
	if i < 0 {
		return GateState{}, false
	}
	return gates[i], true
}

// Cautions are shown on every plan.
var Cautions = []string{
	"Notchback helps a coach plan. It does not diagnose and does not treat; local rules and licensed practice come first.",
	"Pain up to 3 is fine, 4–5 means go slower, 6 ends the exercise. Pain of 8, a pop, numbness or a limp ends the session: see a clinician.",
	"Worse first steps the next morning mean less load, not more.",
}

// CleanTwoLeg reports whether a logged two-leg 3 × 15 proves the one-leg calf
// gate: done in full at pain 3 or less, with the next morning known and at most
// one over the usual first-step pain.
func CleanTwoLeg(pain *body.Pain, done *float64, nextMorning *body.Pain, baseline float64) bool {
	return pain != nil && *pain <= GatePain && done != nil && *done >= 1 && nextMorning != nil && float64(*nextMorning) <= baseline+1
}
