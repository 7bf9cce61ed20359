package words

import (
	"strings"

	"notchback/core/safety"
)

// Alarm is what to do about signs, in one wording everywhere: made from the table
// of flags, so that no line of it is forgotten.
type Alarm struct {
	Head  string   `json:"head"`
	Lines []string `json:"lines" nullable:"false"`
}

// Alarms are get care now, stop and a clinician first, and what the coach is for.
// number is whom to call in an emergency, contact how the coach is reached; what is
// not known is said in general words.
func (l Language) Alarms(number, contact string, own ...safety.Own) (now, stop, coach Alarm) {
	call := l.Text("call the emergency number of where you are")
	if number != "" {
		call = l.Say("call %s", number)
	}
	now = Alarm{Head: l.Say("Get care now: %s", call), Lines: l.Texts(safety.Signs(safety.Emergency, own...))}
	stop = Alarm{Head: l.Text("Stop this; a clinician looks first, and tell your coach"), Lines: l.Texts(append([]string{
		"Pain of 8 or more in anything, or of 5 or more at rest", "Numbness, or a limp, during or after a session",
	}, safety.Signs(safety.Refer, own...)...))}
	who := l.Text("Tell your coach")
	if contact != "" {
		who += ": " + contact
	}
	coach = Alarm{Head: l.Text("Anything else"), Lines: []string{who + "."}}
	return now, stop, coach
}

// Care is the one page under an emergency: what stands, and what to do now.
type Care struct {
	Title string   `json:"title"`
	Do    string   `json:"do"`
	Text  string   `json:"text,omitempty" doc:"What the practice says beside it"`
	Signs []string `json:"signs" nullable:"false"`
	After string   `json:"after"`
}

// Care returns the page of the emergencies among flags; nil where there is none.
func (l Language) Care(flags []safety.Standing, number, text string) *Care {
	var c *Care
	for _, f := range flags {
		if f.Level != safety.Emergency {
			continue
		}
		if c == nil {
			do := l.Text("Call the emergency number of where you are, or go to the nearest emergency department. Don't drive yourself.")
			if number != "" {
				do = l.Say("Call %s, or go to the nearest emergency department. Don't drive yourself.", number)
			}
			c = &Care{Title: l.Text("Get care now"), Do: do, Text: strings.TrimSpace(text), Signs: []string{},
				After: l.Text("No training, no run and no test until a clinician has looked and a clearance is noted.")}
		}
		c.Signs = append(c.Signs, l.Text(f.Text())+".")
	}
	return c
}

// Questions are the safety questions in l.
func (l Language) Questions(groups []safety.Group) []safety.Group {
	out := make([]safety.Group, len(groups))
	for i, g := range groups {
		out[i] = safety.Group{Name: l.Text(g.Name), Questions: append([]safety.Question{}, g.Questions...)}
		for j := range out[i].Questions {
			out[i].Questions[j].Text = l.Text(g.Questions[j].Text)
		}
	}
	return out
}
