package course

import (
	"fmt"
	"slices"

	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
)

// slipDays is how long a reading can be put right as a slip (house).
const slipDays = 7

// Slip is a severe morning reading that whoever typed it changed to a lower one
// within seven days, while the flag it raised stands and nothing else asks for it.
// It asks the flag's question anew; answered no, the flag ends that day. Nothing
// rises by it: what was stopped is offered its way back. Readings of sessions and
// runs are not put right this way; their flag ends with a clearance. [house]
type Slip struct {
	Key       string         `json:"key"`
	On        day.Date       `json:"on"`
	Zone      screening.Zone `json:"zone,omitempty"`
	Side      body.Side      `json:"side,omitempty"`
	FirstStep *body.Pain     `json:"firstStep,omitempty"` // as first typed
	Rest      *body.Pain     `json:"rest,omitempty"`
	flag      safety.Standing
}

func (m Morning) severe() bool {
	return m.FirstStep != nil && *m.FirstStep >= safety.SevereAt || m.Rest != nil && *m.Rest >= safety.SevereRest
}

func (m Morning) tissues() []body.Tissue {
	if m.Zone == "" {
		return FootTissues
	}
	return m.Zone.Tissues()
}

func (m Morning) where() body.Side {
	if m.Side == "" {
		return body.Both
	}
	return m.Side
}

// Is reports whether it is that flag.
func (r Raised) Is(f safety.Standing) bool {
	return r.Flag == f.Flag && r.Since == f.Since && r.Side == f.Side && slices.Equal(r.Tissues, f.Tissues)
}

// Slips are the readings a person may put right today.
func (b *Book) Slips(by string) []Slip {
	var out []Slip
	for _, m := range b.Mornings {
		w := m.was
		if w == nil || m.severe() || w.By != by || m.By != by || int(m.At.On-w.At.On) > slipDays || b.severeSince(m.On) {
			continue
		}
		for _, r := range b.Raised {
			if r.Flag == safety.Severe && r.Ended == nil && r.Side == w.where() && slices.Equal(r.Tissues, w.tissues()) && r.Since >= w.On && r.Since <= w.At.On+1 {
				out = append(out, Slip{fmt.Sprintf("slip|%s|%s|%s", m.On, m.Zone, m.Side), m.On, m.Zone, m.Side, w.FirstStep, w.Rest, r.Standing})
				break
			}
		}
	}
	return out
}

// severeSince reports a severe reading of a date or later that stands.
func (b *Book) severeSince(on day.Date) bool {
	if slices.ContainsFunc(b.Mornings, func(m Morning) bool { return m.On >= on && m.severe() }) {
		return true
	}
	for _, r := range b.Runs {
		if r.On >= on && r.Pain != nil && *r.Pain >= safety.SevereAt {
			return true
		}
	}
	for _, list := range b.items {
		for _, it := range list {
			if it.On >= on-1 && it.Pain != nil && *it.Pain >= safety.SevereAt {
				return true
			}
		}
	}
	return false
}

// slip ends the flag of a reading that was typed wrong.
func (c *course) slip(a Answer) {
	for _, s := range c.Slips(a.By) {
		if s.Key != a.Decision {
			continue
		}
		for i, r := range c.Raised {
			if r.Ended == nil && r.Is(s.flag) {
				on := c.Today
				c.Raised[i].Ended = &on
				c.allFlags, c.now = nil, surroundings{}
				c.tell(Change{Kind: FlagEnded, Flag: r.Standing, Slip: &s})
			}
		}
	}
}
