package adjust

import (
	"slices"

	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
)

func (e engine) recentPains() []Reading {
	var out []Reading
	for _, s := range e.h.Sessions[max(0, len(e.h.Sessions)-2):] {
		if s.Pain != nil {
			out = append(out, Reading{"pain", s.On, float64(*s.Pain)})
		}
		if m, ok := e.h.morning(s.On + 1); ok {
			out = append(out, Reading{"morning", s.On + 1, float64(m)})
		}
	}
	return append(out, e.baselineReading())
}

// conditions lists everything an up needs and whether it holds. A missing
// reading never helps.
func (e engine) conditions(repCap int) []Condition {
	c := e.c
	notch := c.Ladder.At(c.Notch)
	n := len(e.h.Sessions)
	two := n >= 2 && e.h.Sessions[n-1].Notch == c.Notch && e.h.Sessions[n-2].Notch == c.Notch && (c.Peg == 0 || c.Peg == c.Notch)
	out := []Condition{{ID: NeedTwoSessions, Met: two}}
	recent := e.h.Sessions[max(0, n-2):]
	if two {
		out = append(out, Condition{ID: NeedTenDays, Met: int(recent[1].On-recent[0].On) <= sessionsApart})
	}
	if c.FreshFrom != nil && n > 0 {
		out = append(out, Condition{ID: NeedNewSession, Met: e.last.On >= *c.FreshFrom})
	}
	walking := e.returning() && c.Notch == 1
	if walking {
		// The first stage of the way back to running asks for three days.
		recent = e.h.Sessions[max(0, n-returnDays):]
		days := map[day.Date]bool{}
		for _, s := range recent {
			days[s.On] = s.Notch == c.Notch
		}
		out = append(out, Condition{ID: NeedThreeDays, Met: len(days) >= returnDays && !slices.ContainsFunc(recent, func(s Session) bool { return s.Notch != c.Notch })})
	}
	all := func(ok func(Session) bool) bool {
		return !slices.ContainsFunc(recent, func(s Session) bool { return !ok(s) })
	}
	painless := func(s Session) bool { return s.Pain != nil && *s.Pain <= painUpMost }
	switch {
	case e.release():
		painless = func(s Session) bool { p := e.soreSpot(s); return p != nil && *p <= soreGoOn }
	case walking:
		painless = func(s Session) bool { return s.Pain != nil && *s.Pain == 0 }
	case e.returning():
		painless = func(s Session) bool { return s.Pain != nil && *s.Pain <= returnPainMost }
	}
	dosed := len(notch.Tissues) > 0
	out = append(out,
		Condition{ID: NeedPain, Met: all(painless)},
		Condition{ID: NeedFullDose, Met: all(func(s Session) bool { return s.Done != nil && *s.Done >= doneFull })},
		Condition{ID: NeedWholeDose, Met: all(func(s Session) bool { return s.Cut == "" })},
		Condition{ID: NeedClean, Met: all(func(s Session) bool {
			return s.Compensated == nil && !dosed || s.Compensated != nil && *s.Compensated <= compensatedMost
		})},
	)
	out = append(out, e.morningConditions(recent, dosed)...)
	if dosed && c.RestAsked {
		known := slices.ContainsFunc(e.h.Rests, func(r Rest) bool { return r.On == e.last.On || r.On == e.last.On+1 })
		on := e.last.On + 1
		out = append(out, Condition{ID: NeedRest, Met: known, On: &on})
	}
	if dosed && c.RunUnsaid != nil {
		out = append(out, Condition{ID: NeedRunSaid, On: c.RunUnsaid})
	}
	switch {
	case c.Ladder.Effort == catalogue.AskReserve:
		out = append(out, Condition{ID: NeedReserve, Met: all(func(s Session) bool { return s.Reserve != nil && *s.Reserve >= reserveLeast })})
	case c.Ladder.Effort == catalogue.AskTwenty:
		out = append(out, Condition{ID: NeedReserve, Met: all(func(s Session) bool { return s.SureTwenty != nil && *s.SureTwenty })})
	}
	first := c.BlockStart + UpEvery
	since := func(d *day.Date) bool { return d == nil || int(c.Today-*d) >= UpEvery }
	out = append(out,
		Condition{ID: NeedWeekSinceUp, Met: since(c.LastUp) || e.returning() && !c.BoneCleared},
		Condition{ID: NeedWeekAfter, Met: since(c.LastBack)},
		Condition{ID: NeedFirstWeek, Met: c.Today >= first, On: &first},
		Condition{ID: NeedReadings, Met: e.readingsSince(c.BlockStart) >= readingsLeast},
		Condition{ID: NeedBudget, Met: c.UpsThisWeek < UpsAWeek},
		Condition{ID: NeedSides, Met: c.OtherNotch == nil || c.Notch-*c.OtherNotch < sideAheadMost},
	)
	if repCap > 0 {
		out = append(out, Condition{ID: NeedNoCap})
	}
	if c.Notch >= c.Ladder.Len() {
		return append(out, Condition{ID: NeedNextNotch})
	}
	gate := c.Ladder.At(c.Notch + 1).Gate
	met := safety.IsOpen(c.Gates, gate)
	if met && c.Ceiling > 0 && c.Notch >= c.Ceiling {
		return append(out, Condition{ID: NeedOpen})
	}
	return append(out, Condition{ID: NeedGate, Met: met, Gate: gate})
}

// morningConditions are those of the mornings after the sessions an up rests on.
// A ladder without a counted tissue does not ask for them, but a known bad one
// counts.
func (e engine) morningConditions(recent []Session, dosed bool) []Condition {
	known := Condition{ID: NeedMorning, Met: true, Idle: !dosed}
	quiet := Condition{ID: NeedQuiet, Met: true}
	for _, s := range recent {
		on := s.On + 1
		m, ok := e.h.morning(on)
		switch {
		case !ok && dosed:
			known.Met, known.On = false, &on
		case ok && !Quiet(m, e.b):
			quiet.Met, quiet.On = false, &on
		}
	}
	return []Condition{known, quiet}
}

func (e engine) readingsSince(start day.Date) int {
	n := 0
	for _, m := range e.h.Mornings {
		if m.On >= start && m.On <= e.c.Today {
			n++
		}
	}
	return n
}
