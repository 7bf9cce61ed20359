package view

import (
	"slices"

	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/transition"
	"notchback/core/words"
	"notchback/store"
)

// RampOn is what the ramp holds on a date and nothing closes today.
func RampOn(f *record.Frame, on day.Date) []RampDay {
	out := []RampDay{}
	for _, x := range All(f.Path, on) {
		if on >= f.Today && !x.Done && rampShut(f.Desk, x) {
			continue
		}
		out = append(out, x)
	}
	return out
}

// stageLadders are the ladders whose work a stage of the ramp is.
var stageLadders = map[transition.Stage]string{transition.Home: "exposure-home", transition.Walk: "exposure-walk", transition.Strength: "exposure-strength",
	transition.Drills: "exposure-drill", transition.Run: "exposure-run", transition.Bare: "exposure-run"}

func rampShut(k *record.Desk, x RampDay) bool {
	if k.Care() != nil || k.Book.Illness().Now {
		return true
	}
	runs := x.Stage == transition.Drills || x.Stage == transition.Run || x.Stage == transition.Bare || x.Stage == record.CueStage || x.Stage == record.CadenceStage
	if a := k.AdviceNow(); runs && a.ID == load.NoRunning {
		return true
	}
	id, ok := stageLadders[x.Stage]
	if !ok {
		return false
	}
	l, known := k.Layers.Catalogue.Ladder(id)
	if !known {
		return false
	}
	// The ramp itself holds a stage whose gate is closed; a waived one stands.
	return slices.ContainsFunc(k.Book.May(l, 1, body.Both).Why, func(k planning.Lock) bool { return k.Kind != planning.LockGate && k.Kind != planning.LockControl })
}

// minimum is the five-minute day as it may be done today.
func minimum(f *record.Frame) []MinimumView {
	out := []MinimumView{}
	if f.Care() != nil || f.Illness.Now {
		return out
	}
	for _, m := range planning.Minimum(f.Cat, f.Book.PlanEvidence(), f.Book.Phases()) {
		if l, ok := f.Cat.Ladder(m.Ladder); ok && m.Notch <= l.Len() {
			out = append(out, MinimumView{m.Ladder, l.Name, words.Notch(l.At(m.Notch)), m.Seconds / 60})
		}
	}
	return out
}

// NotchState is whether a notch may be done today, for the rail.
type NotchState struct {
	Side   body.Side                `json:"side" enum:"left,right"`
	State  planning.PermissionState `json:"state" enum:"open,limited,closed"`
	Notch  int                      `json:"notch" doc:"The notch asked today; 0 for none"`
	Why    []string                 `json:"why" nullable:"false"`
	Limits []string                 `json:"limits" nullable:"false"`
}

func todayViews(f *record.Frame, p store.Prescription) []NotchState {
	out := []NotchState{}
	for _, side := range body.Sides {
		d := f.Doing(p, side)
		v := NotchState{Side: side, State: d.May.State, Notch: d.Notch, Why: []string{}, Limits: append([]string{}, f.LimitWords(p, side)...)}
		for _, k := range d.May.Why {
			v.Why = append(v.Why, k.Words)
		}
		out = append(out, v)
	}
	return out
}
