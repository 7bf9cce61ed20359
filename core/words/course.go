package words

import (
	"fmt"
	"strings"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/safety"
)

// Course writes a decision as a sentence, whatever it is about.
func Course(l catalogue.Ladder, d course.Decision) string {
	if d.PutBack > 0 {
		return fmt.Sprintf("%s: back to %s? The reading it was lowered for was corrected.", capital(sideWord(d.Side)), Notch(l.At(d.PutBack)))
	}
	return Decision(l, d.Side, d.D)
}

// Turn writes what just happened to a decision, for the journal; empty for what
// nobody needs to read.
func Turn(l catalogue.Ladder, d course.Decision) string {
	if len(d.Life) == 0 {
		return ""
	}
	t := d.Life[len(d.Life)-1]
	head := l.Name
	switch t.State {
	case course.Waiting:
		return "" // the journal takes it when the morning is known
	case course.Proposed:
		if t.Why == course.ByTakeBack {
			return head + ", " + sideWord(d.Side) + ": the answer was taken back the same day; it waits again."
		}
		return head + ". " + Course(l, d) + late(t)
	case course.Applied:
		if t.Why == course.ByTakeBack {
			return head + ", " + sideWord(d.Side) + ": the change was taken back the same day."
		}
		if len(d.Life) > 1 && d.Life[len(d.Life)-2].State == course.Applied {
			return "" // its morning came and changed nothing that was not told
		}
		return head + ". " + Course(l, d) + late(t)
	case course.Accepted:
		if t.By == "" {
			return head + ". " + Course(l, d) + " It went by itself, as set for this runner."
		}
		return head + ", " + sideWord(d.Side) + ": accepted."
	case course.Overridden:
		return fmt.Sprintf("%s, %s: put at %s instead: %s", head, sideWord(d.Side), Notch(l.At(t.Notch)), t.Reason)
	case course.Superseded:
		switch t.Why {
		case course.ByLate, course.ByOwnMorning:
			return fmt.Sprintf("%s, %s: the decision of %s no longer counts%s", head, sideWord(d.Side), d.At.On.Words(), late(t))
		case course.ByWorse:
			return head + ", " + sideWord(d.Side) + ": the way back is off; the mornings are not quiet any more."
		case course.ByStop, course.BySession:
			return ""
		}
	}
	return ""
}

// late says which reading changed something afterwards.
func late(t course.Turn) string {
	if t.Reading == nil {
		return ""
	}
	on := t.Reading.On.Words()
	switch t.Reading.Name {
	case "morning":
		return fmt.Sprintf(" (changed by the first steps of %s: %s)", on, Number(t.Reading.Value, 0))
	case "rest":
		return fmt.Sprintf(" (changed by the pain at rest of %s: %s)", on, Number(t.Reading.Value, 0))
	case "run":
		return fmt.Sprintf(" (changed by the run of %s)", on)
	}
	return fmt.Sprintf(" (changed by what was reported of %s)", on)
}

// LifeTurn writes one turn of a decision's life, for those who ask.
func LifeTurn(l catalogue.Ladder, t course.Turn) string {
	what := map[course.DecisionState]string{
		course.Waiting: "Waits for the next morning", course.Proposed: "Proposed", course.Applied: "Applied", course.Accepted: "Accepted",
		course.Overridden: "Changed by the coach", course.Superseded: "Replaced",
	}[t.State]
	why := map[course.TurnWhy]string{
		course.ByLog: "the session was logged", course.ByMorning: "the next morning is known", course.ByNoon: "noon: the morning counts as missing", course.BySession: "a newer session followed",
		course.ByStop: "the ladder was stopped", course.ByWorse: "the mornings are not quiet any more", course.ByFlare: "a flare on this tissue", course.ByFlag: "a safety flag closes it",
		course.ByGap: "days without this ladder", course.ByWeek: "the weekly look", course.ByQuiet: "three quiet mornings", course.ByClearance: "nothing closes it any more",
		course.ByVisit: "screened again", course.BySetting: "steps up apply by themselves for this runner", course.ByTakeBack: "the answer was taken back", course.ByEngine: "brought over from before",
		course.ByOwnMorning: "its own morning", course.ByLate: "a late or corrected reading",
	}[t.Why]
	out := what
	switch {
	case t.State == course.Overridden && t.Notch > 0:
		out += " to " + Notch(l.At(min(t.Notch, l.Len()))) + ": " + t.Reason
	case t.Reading != nil:
		out += strings.TrimSuffix(strings.Replace(late(t), " (changed by", ": ", 1), ")")
	case why != "":
		out += ": " + why
	}
	return out
}

// Flare writes the beginning or the end of a flare.
func Flare(f course.Flare) string {
	names := make([]string, len(f.Sore))
	for i, t := range f.Sore {
		names[i] = t.Name()
	}
	where := strings.Join(names, ", ")
	if f.Side != body.Both {
		where = string(f.Side) + " " + where
	}
	if f.Ended != nil {
		return fmt.Sprintf("The flare of %s is over (%s): three quiet mornings running. What it stopped is offered two notches lower.", f.Since.Words(), where)
	}
	why := "three mornings running well over the usual"
	if f.Rule == adjust.RuleThriceBack {
		why = "taken back three times in 14 days"
	}
	return fmt.Sprintf("Flare (%s): %s. Nothing loads it until three quiet mornings running, at %s or less.", where, why, Number(f.B+1, 1))
}

// Refused says why an answer can't be given now.
func Refused(b course.Barred) string {
	switch b.Why {
	case course.RefusedGone:
		return "this decision was replaced by a newer one"
	case course.RefusedNothing:
		return "there is nothing to accept here any more"
	case course.RefusedBudget:
		return "two ladders went up this week already; accept this one next week"
	case course.RefusedStopped:
		return "this ladder is stopped; it comes back by its way back"
	case course.RefusedFlag:
		return "a safety flag closes this; only a clinician's clearance opens it"
	case course.RefusedFlare:
		return "a flare stands on the same tissue; three quiet mornings come first"
	case course.RefusedMoved:
		return "the ladder stands elsewhere by now"
	case course.RefusedHeld:
		if b.Reason != nil {
			return "not now: " + Reason(*b.Reason)
		}
		return "not now: seven days lie between two moves of a ladder, and the plan's limits hold"
	case course.RefusedGate:
		return "the gate before that notch is closed"
	case course.RefusedQuiet:
		return "the mornings are not quiet any more"
	case course.RefusedFollowed:
		return "an answer can be taken back on its own day only, and before a session followed"
	case course.RefusedRange:
		return "at most one notch up"
	}
	return string(b.Why)
}

// PutBack writes the move of a notch that is offered back.
func PutBack(l catalogue.Ladder, from, to int) string {
	return Notch(l.At(from)) + " → " + Notch(l.At(to))
}

// Slip says that a severe reading was typed wrong.
func Slip(s course.Slip) string {
	return fmt.Sprintf("%s on %s were typed as %s by mistake.", slipName(s), s.On.Words(), slipWas(s))
}

// SlipQuestion asks whether it was.
func SlipQuestion(s course.Slip) string {
	return fmt.Sprintf("%s on %s were %s at first and were changed. Was the pain that strong?", slipName(s), s.On.Words(), slipWas(s))
}

func slipName(s course.Slip) string {
	what := "First steps"
	if s.FirstStep == nil || s.Rest != nil && *s.FirstStep < safety.SevereAt {
		what = "Pain readings at rest"
	}
	if s.Zone != "" {
		what += " (" + placeName(s) + ")"
	}
	return what
}

func slipWas(s course.Slip) string {
	if s.FirstStep != nil && *s.FirstStep >= safety.SevereAt || s.Rest == nil {
		return fmt.Sprint(*s.FirstStep)
	}
	return fmt.Sprint(*s.Rest)
}

func placeName(s course.Slip) string {
	name := s.Zone.Name()
	if s.Side != "" {
		name += ", " + string(s.Side)
	}
	return name
}
