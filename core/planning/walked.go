package planning

import "notchback/core/catalogue"

// Walked reports work that a walk on heels and toes is set against, before and after:
// whether the walk hurts more, the same or less then tells what the work did. [01]
func Walked(l catalogue.Ladder) bool { return l.Purpose == catalogue.ForStrength }

// WalkStands reports a sitting that begins and ends with the walk: the strength work of a
// main session while a place hurts.
func WalkStands(kind SessionKind, l catalogue.Ladder, hurts bool) bool {
	return hurts && kind == Main && Walked(l)
}
