// Package words turns the core's reasons into sentences, in one place, so that
// the screen, the print and the journal tell the same story.
package words

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode/utf8"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/units"
)

// Number writes a value with at most the given decimals, without a trailing .0.
func Number(v float64, decimals int) string {
	s := strconv.FormatFloat(v, 'f', decimals, 64)
	if decimals > 0 {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	return s
}

// Dose writes a dose: "3 × 12", "3 × 30 s", "2 × 5 × 3 s", "5 min",
// "4 × 8 at 8RM", "3 × 8 + 5 % body weight".
func Dose(d catalogue.Dose) string {
	var s string
	switch {
	case d.Minutes > 0 && d.WalkMinutes > 0:
		s = fmt.Sprintf("%d × %d min run, %d min walk", d.Sets, d.Minutes, d.WalkMinutes)
	case d.Minutes > 0 && d.Sets == 1:
		s = fmt.Sprintf("%d min", d.Minutes)
	case d.Minutes > 0:
		s = fmt.Sprintf("%d × %d min", d.Sets, d.Minutes)
	case d.Contacts > 0:
		s = fmt.Sprintf("%d × %d contacts", d.Sets, d.Contacts)
	case d.Paces > 0:
		s = fmt.Sprintf("%d × %d paces", d.Sets, d.Paces)
	case d.Metres > 0:
		s = fmt.Sprintf("%d × %d m", d.Sets, d.Metres)
	case d.Reps > 0 && d.HoldSeconds > 0:
		s = fmt.Sprintf("%d × %d × %d s", d.Sets, d.Reps, d.HoldSeconds)
	case d.HoldSeconds > 0:
		s = fmt.Sprintf("%d × %d s", d.Sets, d.HoldSeconds)
	default:
		s = fmt.Sprintf("%d × %d", d.Sets, d.Reps)
	}
	switch {
	case d.Total:
		s += " in total"
	case d.Spread:
		s += " through the day"
	}
	if d.Ways > 1 {
		s += fmt.Sprintf(" each of %d ways", d.Ways)
	}
	if d.RM > 0 {
		s += fmt.Sprintf(" at %dRM", d.RM)
	}
	if d.BodyPercent > 0 {
		s += fmt.Sprintf(" + %s %% body weight", Number(d.BodyPercent, 1))
	}
	if d.Band > 1 {
		s += fmt.Sprintf(", band grade %d", d.Band)
	}
	if d.SharePercent > 0 {
		s += fmt.Sprintf(" at %d %% load", d.SharePercent)
	}
	if d.PlusCm > 0 {
		s += fmt.Sprintf(" + %s cm", Number(d.PlusCm, 1))
	}
	return s
}

// Tempo writes the seconds of a repetition, "up 2, hold 1, down 3, hold 1", and
// nothing for the plain 1-0-1-0.
func Tempo(d catalogue.Dose) string {
	if d.Reps == 0 || d.HoldSeconds > 0 || d.Tempo == [4]float64{1, 0, 1, 0} {
		return ""
	}
	parts := []string{}
	for i, name := range []string{"up", "hold", "down", "hold"} {
		if d.Tempo[i] > 0 {
			parts = append(parts, name+" "+Number(d.Tempo[i], 1))
		}
	}
	return strings.Join(parts, ", ") + " s"
}

// Notch writes an exercise with its dose: "one leg 3 × 8".
func Notch(n catalogue.Notch) string { return n.Exercise.Short + " " + Dose(n.Dose) }

// Move writes what a decision does to the dose: "one leg 3 × 8 → 3 × 12".
func Move(l catalogue.Ladder, d adjust.Decision) string {
	from, to := l.At(d.From), l.At(d.To)
	switch {
	case d.Verdict == adjust.Stop:
		return "no " + l.Name + " for now"
	case d.From == d.To:
		return Notch(from)
	case from.Exercise.ID == to.Exercise.ID:
		return Notch(from) + " → " + Dose(to.Dose)
	default:
		return Notch(from) + " → " + Notch(to)
	}
}

func sideWord(s body.Side) string {
	if s == body.Both || s == "" {
		return "both sides"
	}
	return string(s)
}

// Asymmetry writes what the difference between the sides says, or what to do
// next for the test.
func Asymmetry(t screening.Test, r screening.Result) string {
	var more []string
	for _, side := range body.Sides {
		if r.Side(side).TakeMore {
			more = append(more, string(side))
		}
	}
	if len(more) > 0 && !t.Sided {
		return "take one more"
	}
	if len(more) > 0 {
		return "take one more on the " + strings.Join(more, " and the ")
	}
	a := r.Asymmetry
	if !a.Known {
		return ""
	}
	size := Number(math.Abs(a.Difference), t.Decimals)
	unit := unitOf(t)
	switch {
	case len(t.Options) > 0 && a.Difference != 0:
		return "left " + r.Left.Label + ", right " + r.Right.Label
	case a.LSI != nil:
		lsi := "symmetry " + Number(*a.LSI, 0) + " %"
		if a.Clear {
			return fmt.Sprintf("%s %s%s less, %s", a.Weaker, size, unit, lsi)
		}
		return "no clear difference, " + lsi
	case a.MDC95 != nil && a.Clear:
		s := fmt.Sprintf("%s %s%s less, more than the smallest real change (%s)", a.Weaker, size, unit, Number(*a.MDC95, 1))
		if a.Degrees != nil {
			s += fmt.Sprintf(", about %s° of ankle bend", Number(*a.Degrees, 0))
		}
		return s
	case a.MDC95 != nil:
		return fmt.Sprintf("no clear difference (%s%s; smallest real change %s)", size, unit, Number(*a.MDC95, 1))
	}
	return ""
}

func unitOf(t screening.Test) string {
	switch t.Unit {
	case "°", "%", "/10":
		return t.Unit
	case "class":
		return ""
	}
	return " " + t.Unit
}

func cutWords(t screening.Test, c *screening.Cut) string {
	if c == nil {
		return ""
	}
	ok, watch := Number(c.OK, 1)+unitOf(t), Number(c.Watch, 1)+unitOf(t)
	if c.Lower {
		if c.NoLimited {
			return " Ok to " + ok + ", watch above."
		}
		return " Ok to " + ok + ", limited over " + watch + "."
	}
	if c.OK == c.Watch {
		return " Ok from " + ok + ", limited under it."
	}
	return " Ok from " + ok + ", limited under " + watch + "."
}

// Value writes a side's result: "10.9 cm ± 0.7", "mid-foot", "2 faults".
func Value(t screening.Test, s screening.SideSummary) string {
	switch {
	case !s.Measured():
		return string(s.Verdict)
	case len(t.Checks) > 0:
		return count(len(s.Seen), "thing") + " seen"
	case s.Label != "":
		return s.Label
	}
	v := Number(*s.Value, t.Decimals) + unitOf(t)
	if s.Margin != nil {
		v += " ± " + Number(*s.Margin, 1)
	}
	return v
}

// Verdict writes why a side has its verdict.
func Verdict(t screening.Test, s screening.SideSummary) string {
	cuts := cutWords(t, s.Cut)
	switch {
	case s.Verdict == screening.NotMeasured && s.Kept > 0:
		return "Every trial is struck out; take one that counts." + cuts
	case s.Verdict == screening.NotMeasured:
		return "Not measured yet." + cuts
	case s.Verdict == screening.Stopped:
		return "Stopped by pain; no value counts. Treat as not measured."
	}
	var tail string
	switch {
	case s.TakeMore:
		tail = " A cut-off lies inside the margin: take another trial before concluding."
	case s.Borderline:
		tail = fmt.Sprintf(" Still inside the margin after %d trials: the more cautious class stands.", screening.MaxTrials)
	}
	if s.Disagree {
		tail += " The trials disagree by more than the test's own noise."
	}
	if n := s.Norm; n != nil && n.Known {
		tail += fmt.Sprintf(" People of this age: %s s; here %s s, each trial clipped at 45 s; there the arms were across the chest.", Number(n.NormSeconds, 1), Number(n.MeanSeconds, 1))
	}
	if t.ID == screening.CadenceTest {
		_, fixed := screening.CadenceInRange(*s.Value)
		tail += fmt.Sprintf(" School fixed-range (170–190): %s. School own-baseline: no number is low by itself.", fixed)
	}
	if t.ID == "posture-index" {
		tail += " Named: " + screening.PostureClass(int(*s.Value)) + "."
	}
	if t.ID == "strike-angle" {
		tail += " Named: " + string(screening.StrikeClass(*s.Value)) + "."
	}
	return fmt.Sprintf("%s from %s: %s.%s%s", Value(t, s), count(s.N, "trial"), s.Verdict, cuts, tail)
}

// Retest writes how a newer result compares with an older one.
func Retest(t screening.Test, r screening.Retest) string {
	if r.Change == screening.NotComparable {
		return ""
	}
	if len(t.Options) > 0 {
		if r.Change == screening.Same {
			return "same"
		}
		return string(r.Change)
	}
	s := fmt.Sprintf("%s by %s%s", r.Change, Number(math.Abs(r.By), max(t.Decimals, 0)), unitOf(t))
	if r.Change == screening.Same {
		s = "no real change"
	}
	if r.MDC95 != nil {
		s += fmt.Sprintf(" (smallest real change %s)", Number(*r.MDC95, 1))
	}
	return s
}

func count(n int, word string) string {
	if n == 1 {
		return "1 " + word
	}
	return fmt.Sprintf("%d %ss", n, word)
}

// Start writes one reason of a starting notch.
func Start(l catalogue.Ladder, r planning.Reason) string {
	v := ""
	if r.Value != nil {
		v = Number(*r.Value, 1)
	}
	switch r.Rule {
	case planning.RuleFirst:
		return "begins at the first notch; no test decides it"
	case planning.RuleCount:
		return fmt.Sprintf("%s: %s on the %s, the weaker side", r.Test, v, sideOrBoth(r.Side))
	case planning.RuleMissing:
		return strings.ToLower(r.Test[:1]) + r.Test[1:] + " not measured on both sides: starts at the first notch"
	case planning.RulePain:
		return fmt.Sprintf("pain %s in the test: starts at the first notch", v)
	case planning.RuleRange:
		return fmt.Sprintf("%s: %s on the %s, %s", r.Test, v, sideOrBoth(r.Side), r.Class)
	case planning.RuleProven:
		return fmt.Sprintf("notch %s was done cleanly in the last 28 days; one lower", v)
	case planning.RuleCarried:
		return fmt.Sprintf("goes on at notch %s, where it stands", v)
	case planning.RuleLowerPain:
		if v == "" {
			return "one notch lower: pain in the test not known"
		}
		return fmt.Sprintf("one notch lower: pain %s in the test", v)
	case planning.RuleLowerAge:
		if v == "" {
			return "one notch lower: age not known"
		}
		return fmt.Sprintf("one notch lower: age %s", v)
	case planning.RuleLowerFirst:
		return "one notch lower: first structured strength work, or not known"
	case planning.RuleLowerRise:
		return "one notch lower: running volume rose by more than 10 % in two weeks, or not known"
	case planning.RuleLowerCapped:
		return "two notches lower is the most"
	case planning.RuleCeiling:
		return "what is above is closed: starts below it"
	case planning.RuleExtraSet:
		return fmt.Sprintf("symmetry %s %%: one set more on the %s", Number(*r.Value, 0), r.Side)
	}
	return string(r.Rule)
}

func sideOrBoth(s body.Side) string {
	if s == body.Both || s == "" {
		return "whole body"
	}
	return string(s)
}

func values(rs []adjust.Reading, name string) string {
	var out []string
	for _, r := range rs {
		if r.Name == name {
			out = append(out, Number(r.Value, 1))
		}
	}
	return strings.Join(out, ", ")
}

func on(rs []adjust.Reading, name string) string {
	for _, r := range rs {
		if r.Name == name {
			return r.On.Words()
		}
	}
	return ""
}

func percent(rs []adjust.Reading) string {
	for _, r := range rs {
		if r.Name == "share" {
			return fmt.Sprintf("%.0f %%", 100*r.Value)
		}
	}
	return "a part"
}

// Caps writes what limits the sessions beside the peg; nothing where nothing
// does.
func Caps(d adjust.Decision) []string {
	out := []string{}
	if d.NoSession {
		out = append(out, "no session while ill")
	}
	if d.HalfUntil != nil {
		out = append(out, "half sets up to "+d.HalfUntil.Words())
	}
	if d.RepCap > 0 {
		out = append(out, fmt.Sprintf("at most %d repetitions a set, after the cramp", d.RepCap))
	}
	if d.CutSets {
		out = append(out, "fewer sets while running jumps")
	}
	if d.AskBone {
		out = append(out, "ask the questions about bone before anything else")
	}
	return out
}

// Advice writes what a runner is told about running.
func Advice(a load.Advice) string {
	most := ""
	if a.Most > 0 {
		most = "at most " + units.Km(float64(a.Most), 1)
	}
	switch a.ID {
	case load.NoRunning:
		s := "No running"
		if a.Return {
			s += "; then back by small steps of run and walk"
		}
		return s + "."
	case load.SkipNext:
		s := "Skip the next run"
		if most != "" {
			s += "; this week " + most
		}
		return s + ", no hills, nothing fast."
	case load.Easier:
		s := "Easier"
		if most != "" {
			s += ": next week " + most
		}
		return s + ", nothing fast."
	case load.NotKnown:
		s := "As planned, but no more than last week"
		if most != "" {
			s += " (" + most + ")"
		}
		return s + " and nothing fast, until a reading is known."
	}
	return "As planned."
}

// AdviceWhy writes what running advice rests on.
func AdviceWhy(a load.Advice) string {
	on, pain, morning := "", "", "not known"
	if a.Run != nil {
		on = a.Run.Words()
	}
	if a.Pain != nil {
		pain = fmt.Sprintf("%d", *a.Pain)
	}
	if a.Morning != nil {
		morning = fmt.Sprintf("%d", *a.Morning)
	}
	switch a.Why {
	case load.WhyFlag:
		names := make([]string, len(a.FlagIDs))
		for i, id := range a.FlagIDs {
			if names[i] = a.Own[id]; names[i] == "" {
				names[i] = safety.FlagID(id).Name()
			}
		}
		if len(names) == 1 {
			return names[0] + " closes running"
		}
		return strings.Join(names, " and ") + " close running"
	case load.WhyLimping:
		return "limping on the run of " + on
	case load.WhyPainSix:
		return "pain " + pain + " on the run of " + on
	case load.WhyFlare:
		return "a flare stands: no running until three known quiet mornings"
	case load.WhyUnsettled:
		return fmt.Sprintf("first steps %s the morning after the run of %s, more than one over the usual %s", morning, on, Number(a.Usual, 1))
	case load.WhyMorning:
		return fmt.Sprintf("first steps %s the morning after the run of %s, two or more over the usual %s", morning, on, Number(a.Usual, 1))
	case load.WhyPainFour:
		return "pain " + pain + " on the run of " + on + ", next morning " + morning
	case load.WhySettled:
		return "the run of " + on + " settled: next morning " + morning
	case load.WhyNoMorning:
		return "pain on the run of " + on + " or the morning after is not known"
	case load.WhyNoRuns:
		return "no run in the last seven days"
	}
	return string(a.Why)
}

// Stuck writes why a plan counts as stuck.
func Stuck(w adjust.StuckWhy) string {
	switch w {
	case adjust.StuckNoBetter:
		return "after six weeks the week's median is not one point better than at the start"
	case adjust.StuckRising:
		return "the weekly medians rise although loading is held"
	case adjust.StuckTwoFlares:
		return "a second flare within six weeks"
	case adjust.StuckFlare:
		return "a flare of 14 days without three quiet mornings"
	}
	return string(w)
}

// Running writes a class of running volume.
func Running(c load.Class) string {
	switch c {
	case load.Down:
		return "less than usual"
	case load.Steady:
		return "as usual"
	case load.Rise:
		return "more than usual"
	case load.Spike:
		return "a jump"
	case load.Return:
		return "back from a break"
	}
	return "not enough runs to tell"
}

// flagOf is what the flag of a reason is called.
func flagOf(r adjust.Reason) string {
	if r.Other != "" {
		return r.Other // a practice's own
	}
	return r.Flag.Name()
}

// Reason writes one reason of a decision.
func Reason(r adjust.Reason) string {
	switch r.Rule {
	case adjust.RuleFlag:
		return flagOf(r) + " closes this ladder until a clinician has looked"
	case adjust.RuleShut:
		return r.Other
	case adjust.RuleSevere:
		return fmt.Sprintf("pain %s during on %s: stop, and have a clinician look", values(r.Readings, "pain"), on(r.Readings, "pain"))
	case adjust.RuleThreeMornings:
		return fmt.Sprintf("first steps %s on mornings running, usual %s", values(r.Readings, "morning"), values(r.Readings, "baseline"))
	case adjust.RuleThriceBack:
		return "taken back three times in 14 days"
	case adjust.RuleStillHalted:
		if n := len(r.Readings) - 1; n > 0 {
			return fmt.Sprintf("%s so far; three running are needed", count(n, "quiet morning"))
		}
		return "three quiet mornings running are needed before it starts again"
	case adjust.RuleResume:
		return fmt.Sprintf("first steps %s, three quiet mornings running: starts again two notches lower", values(r.Readings, "morning"))
	case adjust.RuleTooSore:
		return fmt.Sprintf("too sore to load yet: first steps %s, as high as from the start", values(r.Readings, "morning"))
	case adjust.RuleCleared:
		return "nothing closes it any more: it starts again when you say so"
	case adjust.RuleScreened:
		return "screened again after the long break: it starts again when you say so"
	case adjust.RulePainHigh:
		return fmt.Sprintf("pain %s during on %s; 6 or more goes back", values(r.Readings, "pain"), on(r.Readings, "pain"))
	case adjust.RuleMorningJump:
		return fmt.Sprintf("first steps %s on %s, two or more over the usual %s", values(r.Readings, "morning"), on(r.Readings, "morning"), values(r.Readings, "baseline"))
	case adjust.RuleMorningHigh:
		return fmt.Sprintf("first steps %s on %s; 6 or more goes back", values(r.Readings, "morning"), on(r.Readings, "morning"))
	case adjust.RuleTwiceBack:
		return "the session before was taken back too"
	case adjust.RuleGap:
		return fmt.Sprintf("%s days without this ladder since %s", values(r.Readings, "days"), on(r.Readings, "days"))
	case adjust.RulePainModerate:
		return fmt.Sprintf("pain %s during on %s: acceptable, so it stays", values(r.Readings, "pain"), on(r.Readings, "pain"))
	case adjust.RuleMorningOneUp:
		return fmt.Sprintf("first steps %s, one over the usual %s twice running", values(r.Readings, "morning"), values(r.Readings, "baseline"))
	case adjust.RuleFirstStepFour:
		return fmt.Sprintf("first steps %s on %s; from 4 it stays", values(r.Readings, "morning"), on(r.Readings, "morning"))
	case adjust.RuleRising:
		return "first-step pain is creeping up from week to week"
	case adjust.RuleDeload:
		return "a lighter week: no new notch"
	case adjust.RuleProgressShut:
		return flagOf(r) + " closes progress"
	case adjust.RuleIllNow:
		return "ill: no session until 48 hours are free of it"
	case adjust.RuleIllAfter:
		return "after an illness: half sets and no step up, for as many days as it lasted"
	case adjust.RuleSharedFlare:
		return fmt.Sprintf("a flare stands on the same tissue (%s): stopped with it", r.Other)
	case adjust.RuleQuietHolds:
		return fmt.Sprintf("a flare stands on the same tissue (%s): quiet holds at the first notch only, at 3 or less", r.Other)
	case adjust.RuleRestJump:
		return fmt.Sprintf("pain at rest %s on %s, two or more over its usual %s", values(r.Readings, "rest"), on(r.Readings, "rest"), values(r.Readings, "baseline"))
	case adjust.RuleLitmusTwice:
		return "heel and toe walk worse after the session, twice running"
	case adjust.RuleLitmusOnce:
		return "heel and toe walk worse after the session"
	case adjust.RuleWeekHigh:
		return fmt.Sprintf("this week's median of first steps is %s, two or more over the block's start, %s", values(r.Readings, "morning"), values(r.Readings, "baseline"))
	case adjust.RuleSoreSpotHigh:
		return fmt.Sprintf("sore spot %s on %s: take pressure off", values(r.Readings, "pain"), on(r.Readings, "pain"))
	case adjust.RuleSoreSpot:
		return fmt.Sprintf("sore spot %s on %s: ease, and stay", values(r.Readings, "pain"), on(r.Readings, "pain"))
	case adjust.RuleReactedTwice:
		return "tired soles or night sweats after release, twice running"
	case adjust.RuleCramp:
		return fmt.Sprintf("cramp at repetition %s on %s: fewer, then two more each week", values(r.Readings, "reps"), on(r.Readings, "reps"))
	case adjust.RuleCompensated:
		return fmt.Sprintf("%s of the repetitions on %s with a compensation", percent(r.Readings), on(r.Readings, "share"))
	case adjust.RuleCouldNot:
		return fmt.Sprintf("%s done on %s because more could not be done", percent(r.Readings), on(r.Readings, "share"))
	case adjust.RuleSixTwice:
		return "the same the session before"
	case adjust.RuleRunSpike:
		return "running jumps: everything that loads holds, heavy calf work and bouncing get fewer sets"
	case adjust.RuleRunRise:
		return "running rises: spring and bare feet hold"
	case adjust.RuleRunUnknown:
		return "running volume not known: spring and bare feet hold"
	case adjust.RuleRunReturn:
		return "running starts again after four weeks or more: spring and bare feet hold"
	case adjust.RuleExposureOver:
		return "barefoot minutes over their line: they hold"
	case adjust.RuleRunPain:
		return fmt.Sprintf("pain %s on the run of %s", values(r.Readings, "run"), on(r.Readings, "run"))
	case adjust.RulePoorSleep:
		return "poor sleep: nothing rises"
	case adjust.RuleMildIllness:
		return "ill without fever: nothing rises"
	case adjust.RuleClean:
		return "two clean sessions running, quiet mornings, reserve left"
	case adjust.RuleTop:
		return "the top of the ladder: keep it"
	case adjust.RuleNotYet:
		return "not everything an up needs is there yet"
	}
	return string(r.Rule)
}

// Condition writes what an up still needs.
func Condition(c adjust.Condition) string {
	when := ""
	if c.On != nil {
		when = c.On.Words()
	}
	switch c.ID {
	case adjust.NeedTwoSessions:
		return "two sessions running at this notch"
	case adjust.NeedTenDays:
		return "the two at most 10 days apart"
	case adjust.NeedPain:
		return "pain 3 or less in both"
	case adjust.NeedFullDose:
		return "the full dose done in both"
	case adjust.NeedClean:
		return "at most one repetition in ten compensated"
	case adjust.NeedMorning:
		if c.Idle {
			return "next mornings (not needed for this ladder)"
		}
		if c.Met {
			return "both next mornings known"
		}
		if when != "" {
			return "first steps on " + when + " (missing)"
		}
		return "both next mornings (missing)"
	case adjust.NeedQuiet:
		if when != "" {
			return "a quiet morning on " + when
		}
		return "both next mornings quiet"
	case adjust.NeedReserve:
		return "effort left: two repetitions, or sure of 20 % more"
	case adjust.NeedWeekSinceUp:
		return "seven days since the last step up"
	case adjust.NeedFirstWeek:
		return "the block's first seven days over (" + when + ")"
	case adjust.NeedReadings:
		return "three first-step readings in the block"
	case adjust.NeedGate:
		if c.Gate == "" {
			return "nothing closed above"
		}
		return "the gate " + strings.ReplaceAll(string(c.Gate), "-", " ") + " open"
	case adjust.NeedOpen:
		return "what closes the next notch in the plan"
	case adjust.NeedBudget:
		return "fewer than two ladders up this week"
	case adjust.NeedNoCap:
		return "the full dose again after the cramp"
	case adjust.NeedWholeDose:
		return "the notch's whole dose in both, not one cut for the day"
	case adjust.NeedWeekAfter:
		return "seven days since the last step back"
	case adjust.NeedRest:
		return "pain at rest around " + when + " (missing)"
	case adjust.NeedRunSaid:
		return "pain on the run of " + when + " (missing)"
	case adjust.NeedThreeDays:
		return "three walking days without pain"
	case adjust.NeedNewSession:
		return "a new session from where it stands now"
	case adjust.NeedSides:
		return "not two notches ahead of the other side"
	case adjust.NeedNextNotch:
		return "a notch above this one"
	}
	return string(c.ID)
}

// Because writes what a decision rests on, and for a plain hold what an up still
// needs.
func Because(d adjust.Decision) string {
	reasons := make([]string, 0, len(d.Reasons)+1)
	for _, r := range d.Reasons {
		if r.Rule != adjust.RuleNotYet {
			reasons = append(reasons, Reason(r))
		}
	}
	var missing []string
	if d.Row == 11 {
		for _, c := range d.ForUp {
			if !c.Met && c.ID != adjust.NeedNextNotch {
				missing = append(missing, Condition(c))
			}
		}
	}
	if len(missing) > 0 {
		reasons = append(reasons, "still needed: "+strings.Join(missing, "; "))
	}
	return capital(strings.Join(reasons, "; "))
}

// Decision writes the sentence that tells the coach why.
func Decision(l catalogue.Ladder, side body.Side, d adjust.Decision) string {
	head := map[adjust.Verdict]string{adjust.Up: "Up", adjust.Hold: "Hold", adjust.Back: "Back", adjust.Stop: "Stop"}[d.Verdict]
	if d.Resume {
		head = "Start again"
	}
	s := fmt.Sprintf("%s: %s, %s", head, Move(l, d), sideWord(side))
	if d.Rescreen {
		s += "; screen again first"
	}
	if because := Because(d); because != "" {
		return s + ". " + because + "."
	}
	return s + "."
}

// Capital begins a sentence.
func Capital(s string) string { return capital(s) }

func capital(s string) string {
	_, n := utf8.DecodeRuneInString(s)
	return strings.ToUpper(s[:n]) + s[n:]
}

// Flag writes what a flag asks for.
func Flag(f safety.Standing) string {
	text := f.Text()
	if f.Flag == safety.Open {
		place := f.Zone.Name()
		if f.Side == body.Left || f.Side == body.Right {
			place += ", " + string(f.Side)
		}
		return strings.ToUpper(place[:1]) + place[1:] + " began to hurt and its safety questions are open: what they could close is closed until then."
	}
	switch f.Level {
	case safety.Emergency:
		return text + ". Care is needed now; no plan until a clinician has looked."
	case safety.Refer:
		return text + ": a sign that a clinician should look before this is loaded again."
	case safety.Limit:
		return text + ". What it closes is left out."
	default:
		return text + "."
	}
}

// Kilograms writes a load.
func Kilograms(kg float64) string { return units.Kg(kg) }

// RM writes a load that allows just so many repetitions.
func RM(n int) string { return fmt.Sprintf("a weight that allows just %d", n) }

// Rest writes the pause between sets; "" where there is one set.
func Rest(n catalogue.Notch) string {
	if n.Dose.Sets < 2 || n.Dose.Spread {
		return ""
	}
	return fmt.Sprintf("rest %d s between sets", n.Rest())
}

// Litmus is what is walked before and after strength work while a place hurts. [01]
const Litmus = "First and last, ten steps on your heels and ten on your toes: does it hurt more, the same or less afterwards?"
