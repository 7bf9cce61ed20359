package words

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"notchback/core/catalogue"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/routine"
	"notchback/core/screening"
	"notchback/core/units"
)

var weekdays = [7]string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"}

// Weekday returns the name of a weekday, Monday 0.
func Weekday(d int) string { return weekdays[((d%7)+7)%7] }

// Days writes weekdays in a row: "Monday, Wednesday and Friday".
func Days(days []int) string {
	names := make([]string, len(days))
	for i, d := range days {
		names[i] = Weekday(d)
	}
	return list(names)
}

func list(names []string) string {
	switch len(names) {
	case 0:
		return ""
	case 1:
		return names[0]
	}
	return strings.Join(names[:len(names)-1], ", ") + " and " + names[len(names)-1]
}

// Broken writes a hard rule that an arrangement breaks. name turns a ladder's id
// into its name.
func Broken(b planning.Broken, name func(string) string) string {
	day := ""
	if b.Day >= 0 {
		day = Weekday(b.Day)
	}
	switch b.Rule {
	case planning.WeekGap48:
		if b.Item == b.Other {
			return fmt.Sprintf("%s needs a whole day between two sessions; %s follows too soon", name(b.Item), day)
		}
		return fmt.Sprintf("%s and %s load the same tissue and need a whole day between them; on %s they meet", name(b.Item), name(b.Other), day)
	case planning.WeekHeavy:
		run := string(b.Run)
		if b.Run != planning.Long && b.Run != planning.Fast {
			run = "barefoot-ramp"
		}
		return fmt.Sprintf("%s is heavy for the calf and can't stand on %s, in the 24 hours before a %s run", name(b.Item), day, run)
	case planning.WeekEvening:
		return fmt.Sprintf("%s is evening work and can't stand on %s: a run is within 12 hours, or the evening is not free", name(b.Item), day)
	case planning.WeekSpring:
		return fmt.Sprintf("%s can't stand on %s, the day after heavy calf work (%s)", name(b.Item), day, name(b.Other))
	case planning.WeekSprings:
		return fmt.Sprintf("%s stands %d times; bouncing is for at most %d days a week", name(b.Item), b.Have, b.Need)
	case planning.WeekRest:
		return fmt.Sprintf("two days a week stay free of runs and main sessions; here %d", b.Have)
	case planning.WeekMinutes:
		return fmt.Sprintf("%s needs %d minutes and has %d", day, b.Need, b.Have)
	case planning.WeekTimes:
		return fmt.Sprintf("%s stands %d times a week; it needs at least %d", name(b.Item), b.Have, b.Need)
	}
	return string(b.Rule)
}

// WeekWhy writes why a session or a ladder stands where it does.
func WeekWhy(w planning.WeekWhy) string {
	switch w {
	case planning.WhyEasyRun:
		return "an easy-run day: the day after stays easy"
	case planning.WhyHardRun:
		return "after the hard run: the day after stays easy"
	case planning.WhyNoRun:
		return "no run that day or the next"
	case planning.WhyBeforeRun:
		return "the day before a run; nothing better fits"
	case planning.WhyPreferred:
		return "a day the runner likes"
	case planning.WhyAvoided:
		return "a day the runner would rather keep free; nothing else fits"
	case planning.WhySpread:
		return "spread over the week"
	case planning.WhyGap:
		return "a whole day between two doses of the same tissue"
	case planning.WhyEvening:
		return "evenings with no run within 12 hours"
	case planning.WhyFewer:
		return "fewer times than wanted; the week holds no more"
	case planning.WhyEveryDay:
		return "a little every day"
	case planning.WhyTogether:
		return "in every main session"
	}
	return string(w)
}

// Runs writes a day's runs: "easy run", "easy run 18:00", "easy and fast run"; "" without
// one. hour is that of the first, where it is fixed.
func Runs(first, second planning.RunKind, hour *int) string {
	at := ""
	if hour != nil && first != planning.NoRun {
		at = fmt.Sprintf(" %d:00", *hour)
	}
	switch {
	case first == planning.NoRun && second == planning.NoRun:
		return ""
	case first == planning.NoRun || second == planning.NoRun:
		return string(first) + string(second) + " run" + at
	case first == second:
		return "two " + string(first) + " runs" + at
	}
	return string(first) + " run" + at + ", then " + string(second)
}

// Relax writes a way out when nothing fits the week.
func Relax(r planning.Relaxation) string {
	switch r.Kind {
	case planning.RelaxMinutes:
		return fmt.Sprintf("%d minutes more on the days that have time", r.Minutes)
	case planning.RelaxSessions:
		return fmt.Sprintf("%s a week instead", count(r.To, "main session"))
	case planning.RelaxEvenings:
		return "use the evenings"
	case planning.RelaxEasyRun:
		return "make " + Weekday(r.Day) + "'s run an easy one"
	case planning.RelaxOneRun:
		return "one run on " + Weekday(r.Day) + " instead of two"
	case planning.RelaxRunDay:
		return "no run on " + Weekday(r.Day)
	case planning.RelaxLeaveOut:
		return "leave out " + r.Name
	case planning.RelaxMinimum:
		return "the five-minute plan"
	}
	return string(r.Kind)
}

// Remark writes a remark on the whole plan. name turns a ladder's id into its
// name.
func Remark(r planning.Remark, name func(string) string) string {
	switch r.ID {
	case planning.RemarkAssumed:
		return "The runner's week was not asked yet: four runs and half an hour a day are assumed."
	case planning.RemarkInjured:
		return "Something hurts: at most three main sessions a week."
	case planning.RemarkNoMicro:
		return "No time for the short daily work on " + Days(r.Days) + "."
	case planning.RemarkContradict:
		return Days(r.Days) + " is both liked and avoided; it is kept free where it can be."
	case planning.RemarkRaceSoon:
		return "The race is within a week: nothing new, no bouncing and nothing heavy before it."
	case planning.RemarkRacePast:
		return "The race lies before the block and is not looked at."
	case planning.RemarkSevenRuns:
		return "No day without running: at most three main sessions stand beside it, and two days a week stay free of them."
	case planning.RemarkMinorRest:
		return "Under 18: one day a week without sport. Leave one day free."
	case planning.RemarkSpringCap:
		return "Bounces are cut to the contacts allowed a session."
	case planning.RemarkMaintain:
		return "Nothing hurts and nothing limits: a small plan to keep it that way, tested again every six weeks."
	case planning.RemarkOfferAgain:
		return name(r.Text) + " was left out four weeks ago or more; it can be tried again."
	case planning.RemarkSpike:
		return fmt.Sprintf("%s a week would be a jump: up to %s is steady now. %s hold every ladder that loads, and bouncing and heavy calf sets are cut.",
			units.Km(1000*r.Km, 1), units.Km(1000*r.Limit, 1), capital(count(r.Weeks, "week")))
	case planning.RemarkHeld:
		return fmt.Sprintf("A flag closes progress: %s a week would be more than the mean; the plan reckons with %s.", units.Km(1000*r.Km, 0), units.Km(1000*r.Limit, 0))
	case planning.RemarkRise:
		return fmt.Sprintf("%s a week is a rise: up to %s is steady now. Spring and bare feet hold for %s.", units.Km(1000*r.Km, 1), units.Km(1000*r.Limit, 1), count(r.Weeks, "week"))
	case planning.RemarkMicroBudget:
		return "The short daily work is kept to five minutes; the rest stands in the main sessions."
	}
	return string(r.ID)
}

// WeekKind names a kind of week.
func WeekKind(k planning.WeekKind) string {
	switch k {
	case planning.DeloadWeek:
		return "lighter"
	case planning.RaceWeek:
		return "race"
	case planning.HalfWeek:
		return "half"
	}
	return ""
}

// SessionName names a kind of session.
func SessionName(k planning.SessionKind) string {
	switch k {
	case planning.Micro:
		return "Short daily work"
	case planning.Main:
		return "Main session"
	case planning.EveKind:
		return "Evening"
	case planning.Drill:
		return "In the run"
	case planning.Exposure:
		return "Bare feet"
	case planning.RoutineKind:
		return "Routine"
	}
	return string(k)
}

// Change writes one difference between two plans.
func Change(c planning.Change) string {
	why := ""
	if c.Why != "" {
		why = " (" + c.Why + ")"
	}
	arrow := c.From + " → " + c.To
	switch c.Kind {
	case planning.ChangeAdded:
		if c.To == "" {
			return c.Name + " comes in" + why
		}
		return c.Name + " comes in, " + c.To + why
	case planning.ChangeGone:
		return c.Name + " goes" + why
	case planning.ChangeMain:
		return "main sessions: " + arrow
	case planning.ChangeFits:
		return "the plan " + c.To
	case planning.ChangeMinutes:
		return "planned: " + arrow
	case planning.ChangeCue:
		return c.Name + ": “" + c.To + "” in place of “" + c.From + "”" + why
	case planning.ChangeNext:
		return "after " + c.Name + " comes " + c.To + ", not " + c.From + why
	case planning.ChangeWhen:
		return c.Name + ": " + c.To + " in place of " + c.From + why
	case planning.ChangeOrder:
		return "order: " + c.To
	case planning.ChangeWeeks:
		if c.Name == "" {
			return arrow
		}
		return c.Name + ": " + arrow
	case planning.ChangeSays:
		return c.Name + " " + c.To + why
	}
	return c.Name + ": " + arrow + why
}

// Extra writes what else rises in a dose, or nothing.
func Extra(n catalogue.Notch) string { return n.Dose.More }

// Load writes what a repetition of a notch puts on each tissue: "3 body weights
// on the Achilles and calf".
func Load(n catalogue.Notch) string {
	var parts []string
	for i, t := range n.Tissues {
		if i < len(n.Weights) {
			parts = append(parts, fmt.Sprintf("%s on the %s", Number(n.Weights[i], 2), t.Name()))
		}
	}
	if len(parts) == 0 {
		return ""
	}
	return strings.Join(parts, ", ") + " (body weights)"
}

// StartTable writes at which notch a ladder begins.
func StartTable(l catalogue.Ladder) []string {
	out := []string{}
	r := l.Start
	if r.Test == "" {
		return append(out, "begins at the first notch")
	}
	name := r.Test
	if t, ok := screening.Find(screening.TestID(r.Test)); ok {
		name = t.Name
	}
	for _, v := range slices.Sorted(maps.Keys(r.From)) {
		out = append(out, fmt.Sprintf("%s from %d: %s", name, v, Notch(l.At(r.From[v]))))
	}
	for _, class := range []string{"limited", "watch", "ok"} {
		if n, ok := r.Class[class]; ok {
			out = append(out, fmt.Sprintf("%s %s: %s", name, class, Notch(l.At(n))))
		}
	}
	if r.Cautions {
		out = append(out, "one notch lower for pain 4 or 5 in the test, age from 60, first strength work, or rising volume; at most two")
	}
	return out
}

// WhyNot says why something may not be done now, each reason once; "" where it may.
func WhyNot(p planning.Permission) string {
	var list []string
	for _, k := range p.Why {
		if !slices.Contains(list, k.Words) {
			list = append(list, k.Words)
		}
	}
	return strings.Join(list, "; ")
}

// LessRun says why a day's run is less than planned; empty where it is not.
func LessRun(l planning.Less, a load.Advice) string {
	switch l {
	case planning.LessForCare:
		return "get care now"
	case planning.LessForAdvice:
		return Advice(a)
	case planning.LessReturn:
		return "the way back to running stands instead"
	case planning.LessAfter:
		return "nothing fast or hilly for four weeks after the way back"
	case planning.LessFast:
		return "nothing fast: " + Advice(a)
	}
	return ""
}

// RoutineWhen says where in the day a routine stands.
func RoutineWhen(w routine.When) string {
	switch w {
	case routine.BeforeRun:
		return "before an easy run"
	case routine.InRun:
		return "in an easy run, warm"
	case routine.Morning:
		return "in the morning"
	case routine.Evening:
		return "evening"
	case routine.Barefoot:
		return "through the day"
	}
	return ""
}

// PerWeek says how often a week: "3 times a week", "2 to 4 times a week".
func PerWeek(least, most int) string {
	switch {
	case least == most && least == 7:
		return "every day"
	case least == most && least == 1:
		return "once a week"
	case least == most:
		return fmt.Sprintf("%d times a week", least)
	}
	return fmt.Sprintf("%d to %d times a week", least, most)
}
