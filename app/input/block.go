package input

import (
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
)

// BlockChange is a move or an edit of a running block. Which fields count
// depends on its kind:
// move: session, from, to, always; days: ladder and days;
// dose: ladder, notch and dose; extra-set: ladder and side;
// leave-out and add: ladder; change: ladder and next;
// routine: routine, long and days; routine-off: routine.
type BlockChange struct {
	Kind    string               `json:"kind" enum:"move,days,dose,extra-set,leave-out,add,change,routine,routine-off"`
	Session planning.SessionKind `json:"session,omitempty" enum:"micro,main,evening,drill,exposure,routine,"`
	From    *day.Date            `json:"from,omitempty" format:"date"`
	To      *day.Date            `json:"to,omitempty" format:"date"`
	Always  bool                 `json:"always,omitempty" doc:"From now on every week, not just once"`
	Ladder  string               `json:"ladder,omitempty"`
	Next    string               `json:"next,omitempty" doc:"What a ladder gives way to"`
	Days    []int                `json:"days,omitempty" doc:"Monday 0"`
	Notch   int                  `json:"notch,omitempty" doc:"The notch the dose stands for"`
	Dose    *catalogue.Dose      `json:"dose,omitempty" doc:"Empty takes the own dose back"`
	Side    body.Side            `json:"side,omitempty" enum:"left,right,"`
	Routine string               `json:"routine,omitempty" doc:"The routine given, taken off or moved"`
	Long    bool                 `json:"long,omitempty" doc:"Its long version"`
	Given   *Given               `json:"given,omitempty" doc:"As it was given; filled by the server"`
	Reason  string               `json:"reason,omitempty" maxLength:"300" doc:"Needed to insist against a rule, to leave out, to give more"`
}

// Given is a routine as it was given: later changes of the shelf don't reach it.
type Given struct {
	Name     string   `json:"name"`
	When     string   `json:"when,omitempty"`
	Late     string   `json:"late,omitempty"`
	Compare  string   `json:"compare,omitempty" enum:"walk,steps,cm,"`
	Compared string   `json:"compared,omitempty"`
	Felt     bool     `json:"felt,omitempty" doc:"Where it was felt is asked"`
	Ladders  []string `json:"ladders" nullable:"false" doc:"Its parts in order"`
	Evening  bool     `json:"evening,omitempty"`
}
