package input

import (
	"math"

	"notchback/app"
	"notchback/formats"
)

// RunDetails is what devices recorded of an outing beside its numbers.
type RunDetails struct {
	Name      string            `json:"name,omitempty" maxLength:"120"`
	Sport     string            `json:"sport,omitempty" maxLength:"80" doc:"As the file names it"`
	Why       []string          `json:"why,omitempty" maxItems:"10" doc:"Why it is taken for what it is"`
	Elapsed   int               `json:"elapsed,omitempty" minimum:"0" maximum:"10000000" doc:"Seconds with pauses"`
	Ascent    *float64          `json:"ascent,omitempty" doc:"Metres up"`
	HeartRate *float64          `json:"heartRate,omitempty" doc:"Beats a minute, mean"`
	HeartMost *float64          `json:"heartMost,omitempty"`
	Dynamics  *formats.Dynamics `json:"dynamics,omitempty"`
	Laps      []formats.Lap     `json:"laps,omitempty" maxItems:"2000"`
	Treadmill bool              `json:"treadmill,omitempty"`
	Sources   []RunSource       `json:"sources,omitempty" maxItems:"20" doc:"The files and devices it was read from"`
}

// RunSource is a file that an outing was read from.
type RunSource struct {
	Kind   string `json:"kind" enum:"typed,fit,gpx,tcx,csv"`
	Device string `json:"device,omitempty" maxLength:"120"`
	File   string `json:"file,omitempty" maxLength:"300"`
	Hash   string `json:"hash,omitempty" maxLength:"80"`
}

// Check refuses what no device measures.
func (d RunDetails) Check() error {
	var bad app.Invalid
	within := func(field string, v *float64, least, most float64) {
		if v != nil && !(*v >= least && *v <= most && !math.IsInf(*v, 0)) {
			bad.Add("body."+field, "expected %[2]g to %[3]g (you entered %[1]g)", *v, least, most)
		}
	}
	within("ascent", d.Ascent, 0, 50_000)
	within("heartRate", d.HeartRate, 0, 260)
	within("heartMost", d.HeartMost, 0, 260)
	if x := d.Dynamics; x != nil {
		within("dynamics.contactMs", x.ContactMs, 0, 10_000)
		within("dynamics.oscillationMm", x.OscillationMm, 0, 10_000)
		within("dynamics.balancePercent", x.BalancePercent, 0, 100)
		within("dynamics.stepMm", x.StepMm, 0, 100_000)
	}
	for _, l := range d.Laps {
		if l.At < 0 || l.Seconds < 0 || l.Metres < 0 || l.Seconds > 172_800 || l.Metres > 300_000 {
			bad.Add("body.laps", "a lap can't be that long")
			break
		}
		within("laps.cadence", l.Cadence, 0, 520)
	}
	return bad.Or()
}
