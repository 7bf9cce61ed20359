package input

import (
	"slices"

	"notchback/app"
	"notchback/core/transition"
)

// CadenceRampInput is what is saved of a change of cadence.
type CadenceRampInput struct {
	Terms transition.CadenceTerms `json:"terms"`
	Ended bool                    `json:"ended,omitempty"`
}

func KnownCue(id string) bool {
	return slices.ContainsFunc(transition.Cues(nil, nil, false, 0), func(c transition.Cue) bool { return c.ID == id })
}

// RampInput is what is saved of a ramp.
type RampInput struct {
	Terms transition.Terms `json:"terms"`
	Ended bool             `json:"ended,omitempty" doc:"The ramp ends; its days stay in the record"`
}

func CheckTerms(at string, bad map[string]error) error {
	var out app.Invalid
	keys := make([]string, 0, len(bad))
	for k := range bad {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	for _, k := range keys {
		out.Add(at+k, "%s", bad[k])
	}
	return out.Or()
}
