package running

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"notchback/app"
	"notchback/core/activity"
	"notchback/core/words"
	"notchback/formats"
)

// DynamicsView is what one device measured over the runs.
type DynamicsView struct {
	Name     string             `json:"name"`
	Unit     string             `json:"unit"`
	Digits   int                `json:"digits"`
	Device   string             `json:"device" doc:"Readings of different devices are never compared"`
	Readings []activity.Reading `json:"readings" nullable:"false" doc:"The oldest first"`
	Trend    *activity.Trend    `json:"trend,omitempty"`
	Words    string             `json:"words"`
	Source   string             `json:"source"`
}

// what of dynamics is shown, in this order.
var shown = []struct {
	name, unit string
	digits     int
	of         func(*formats.Dynamics) *float64
}{
	{"Time on the ground", "ms", 0, func(d *formats.Dynamics) *float64 { return d.ContactMs }},
	{"Up and down", "mm", 0, func(d *formats.Dynamics) *float64 { return d.OscillationMm }},
	{"Left foot's share of the ground", "%", 1, func(d *formats.Dynamics) *float64 { return d.BalancePercent }},
	{"Length of a step", "mm", 0, func(d *formats.Dynamics) *float64 { return d.StepMm }},
}

// readingsShown is the least that makes a line.
const readingsShown = 3

// Dynamics shows what devices measured, each device by itself.
func (a *Running) Dynamics(ctx context.Context, act app.Actor, runner string) ([]DynamicsView, error) {
	list, err := a.Runs(ctx, act, runner)
	if err != nil {
		return nil, err
	}
	slices.Reverse(list) // oldest first
	out := []DynamicsView{}
	put := func(name, unit string, digits int, device string, r activity.Reading) {
		i := slices.IndexFunc(out, func(v DynamicsView) bool { return v.Name == name && v.Device == device })
		if i < 0 {
			i = len(out)
			out = append(out, DynamicsView{Name: name, Unit: unit, Digits: digits, Device: device})
		}
		out[i].Readings = append(out[i].Readings, r)
	}
	for _, r := range list {
		if r.What != "run" || r.Details == nil {
			continue
		}
		device := ""
		for _, s := range r.Details.Sources {
			if device == "" {
				device = s.Device
			}
		}
		if device == "" {
			device = "a device without a name"
		}
		if r.Cadence != nil && r.Source != "typed" && r.Source != "csv" {
			put("Cadence", "spm", 0, device, activity.Reading{On: r.On, Value: *r.Cadence})
		}
		if d := r.Details.Dynamics; d != nil {
			for _, k := range shown {
				if v := k.of(d); v != nil {
					put(k.name, k.unit, k.digits, device, activity.Reading{On: r.On, Value: *v})
				}
			}
		}
	}
	out = slices.DeleteFunc(out, func(v DynamicsView) bool { return len(v.Readings) < readingsShown })
	for i := range out {
		v := &out[i]
		v.Source = activity.TrendSource.String()
		if t, ok := activity.TrendOf(v.Readings); ok {
			v.Trend = &t
		}
		v.Words = trendWords(*v)
	}
	return out, nil
}

func trendWords(v DynamicsView) string {
	if v.Trend == nil {
		return fmt.Sprintf("%s; from twelve on they are compared", app.Plural(len(v.Readings), "run", "runs"))
	}
	t := *v.Trend
	n := func(x float64) string { return words.Number(x, v.Digits) + " " + v.Unit }
	if !t.Real {
		return fmt.Sprintf("No change: %s in the newest %d runs, %s before; under %s is noise", n(t.Now), t.NowN, n(t.Before), n(t.Smallest))
	}
	way := "more"
	if t.Change < 0 {
		way = "less"
	}
	return strings.TrimSpace(fmt.Sprintf("%s %s: %s in the newest %d runs, %s before; more than the %s that noise explains", n(max(t.Change, -t.Change)), way, n(t.Now), t.NowN, n(t.Before), n(t.Smallest)))
}
