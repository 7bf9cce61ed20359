package api

import (
	"notchback/app/block"
	"notchback/app/export"
	"notchback/app/pocket"
)

// PocketToken is the token of a link; it comes from the fragment of its address and is
// only ever posted.
type PocketToken struct {
	Token string `json:"token" maxLength:"80"`
}

// PocketJoin lets a phone in.
type PocketJoin struct {
	Token  string `json:"token" maxLength:"80"`
	Name   string `json:"name" maxLength:"60" doc:"What this phone is called in lists"`
	Agreed bool   `json:"agreed" doc:"What is kept, who reads it and how to leave was read and agreed to"`
}

// PocketReports is what a phone has to tell, the oldest first.
type PocketReports struct {
	Reports []pocket.Report `json:"reports" maxItems:"100" nullable:"false"`
}

// PocketPlan is everything a phone carries.
type PocketPlan struct {
	pocket.Plan
	pocket.Carried
	Reminders export.RemindersView `json:"reminders"`
	Moves     []block.MoveDay      `json:"moves" nullable:"false" doc:"The days the coming main sessions may move to, and why others are closed"`
}

// PocketReminders are the kinds of events a runner's calendar reminds of.
type PocketReminders struct {
	Kinds []string `json:"kinds" maxItems:"10" nullable:"false"`
}

// PocketNote is a few words to a runner.
type PocketNote struct {
	Text string `json:"text" maxLength:"1000"`
}
