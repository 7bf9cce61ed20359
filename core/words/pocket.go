package words

import "notchback/core/source"

// PocketConsent is what a runner agrees to before the plan comes to their phone: what
// is kept, who reads it, and how to leave.
func (l Language) PocketConsent(practice string) []string {
	return []string{
		l.Say("What you report is kept with %s: mornings, sessions, runs, pain and answers to safety questions, each with its day.", practice),
		l.Say("The coaches of %s read it. Nobody else does, and nothing goes to anybody outside.", practice),
		l.Text("This phone keeps your plan and what was not sent yet. Anyone who can unlock the phone can read them."),
		l.Text("You can leave at any time: “Sign this phone out” takes the plan off it. What you reported stays with your coach, who can be asked to delete it."),
		l.Text("This is no emergency line. Nobody watches it while you train."),
	}
}

// PocketNoWay is said of a link that opens nothing: guessed, old, revoked or used up.
const PocketNoWay = "This link opens nothing, or not any more. Ask your coach for a new one."

// PocketSource tags the numbers of links and devices.
var PocketSource = source.House("a link is short-lived and for few phones; a phone that is silent for half a year signs itself out")

// PocketMinor is said where a minor's link may not be made yet.
const PocketMinor = "under 18: note the guardian's consent in the screening's talk first"
