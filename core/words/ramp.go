package words

import (
	"fmt"
	"strings"

	"notchback/core/transition"
)

// Exposure says in words what stands on a ramp day.
func Exposure(x transition.Exposure) string {
	switch x.Stage {
	case transition.Home:
		return fmt.Sprintf("%d min without shoes at home, in pieces", x.Minutes)
	case transition.Walk:
		return fmt.Sprintf("barefoot walk %d min on smooth ground", x.Minutes)
	case transition.Strength:
		part := "half of the session"
		if x.Dose.Part == "all" {
			part = "the whole session"
		}
		return fmt.Sprintf("%s barefoot at %d %% of the usual load", part, x.Dose.LoadPercent)
	case transition.Drills:
		return fmt.Sprintf("minimal shoes: %d min easy, then %d × %d m on grass", x.Minutes, x.Dose.Strides, x.Dose.StrideMetres)
	case transition.Bare:
		return fmt.Sprintf("first %d min of the run with bare feet", x.Minutes)
	}
	return fmt.Sprintf("first %d min of the run in minimal shoes, the rest in the usual ones", x.Minutes)
}

// RampWeek says in words what a ramp week holds.
func RampWeek(w transition.Week) string {
	d := w.Dose
	var parts []string
	if d.HomeMinutes > 0 {
		parts = append(parts, fmt.Sprintf("home %d min a day", d.HomeMinutes))
	}
	if d.Walks > 0 {
		parts = append(parts, fmt.Sprintf("walks %d × %d min on %d days", max(1, d.WalkTimes), d.WalkMinutes, d.Walks))
	}
	if d.Part != "" {
		parts = append(parts, fmt.Sprintf("strength: %s at %d %%", d.Part, d.LoadPercent))
	}
	if d.Strides > 0 {
		parts = append(parts, fmt.Sprintf("twice %d min and %d × %d m", d.WarmUp, d.Strides, d.StrideMetres))
	}
	parts = appendRuns(parts, d.Runs, "minimal")
	parts = appendRuns(parts, d.BareRuns, "bare")
	if len(parts) == 0 {
		return "nothing"
	}
	return strings.Join(parts, ", ")
}

func appendRuns(parts []string, runs []int, name string) []string {
	if len(runs) == 0 {
		return parts
	}
	list := ""
	for i, n := range runs {
		if i > 0 {
			list += " + "
		}
		list += fmt.Sprint(n)
	}
	return append(parts, name+" "+list+" min")
}
