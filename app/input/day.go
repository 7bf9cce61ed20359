package input

import (
	"fmt"
	"slices"

	"notchback/app"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/transition"
)

// PlaceReading is a morning's reading of a place that hurts, or a general one
// where zone is empty.
type PlaceReading struct {
	Zone      string    `json:"zone,omitempty" maxLength:"30"`
	Side      body.Side `json:"side,omitempty" enum:"left,right,"`
	FirstStep *int      `json:"firstStep,omitempty" doc:"Pain on the first steps, 0–10"`
	Rest      *int      `json:"rest,omitempty" doc:"Pain at rest, 0–10"`
	When      []string  `json:"when,omitempty" maxItems:"7" doc:"Of a new place: first steps, push-off, after sitting, whole run, only after, at rest, night"`
}

// DayInput is what a day was like. Readings go to the mornings; the rest is kept
// as the day's note.
type DayInput struct {
	Readings        []PlaceReading    `json:"readings,omitempty" maxItems:"20"`
	Illness         string            `json:"illness,omitempty" enum:"cold,fever," doc:"Ill without fever, or with fever, chest or whole-body illness"`
	PoorSleep       bool              `json:"poorSleep,omitempty" doc:"Slept badly; two nights running hold progress"`
	ShortSleep      bool              `json:"shortSleep,omitempty" doc:"Slept under six hours"`
	BarefootMinutes *int              `json:"barefootMinutes,omitempty" doc:"Minutes without shoes"`
	Exposure        []transition.Done `json:"exposure,omitempty" maxItems:"10" doc:"What was done of the barefoot ramp"`
	CalfSoreness    *int              `json:"calfSoreness,omitempty" doc:"Calves, 0–10"`
	BoneTender      bool              `json:"boneTender,omitempty" doc:"A bone of the ball or top of the foot is tender"`
	New             []PlaceReading    `json:"new,omitempty" maxItems:"10" doc:"Places that began to hurt"`
	Answers         *safety.Answers   `json:"answers,omitempty" doc:"Safety questions asked because something is new"`
	Note            string            `json:"note,omitempty" maxLength:"1000"`
	Rev             int               `json:"rev,omitempty" minimum:"0" doc:"The revision that was read; only what differs from it is changed"`
	Reason          string            `json:"reason,omitempty" maxLength:"300" doc:"Needed where it changes or takes back what was told before"`
}

func (in DayInput) Check(on, today day.Date) error {
	var bad app.Invalid
	if on > today+1 {
		bad.Add("on", "%s is in the future", on)
	}
	if on < today-RunsBack {
		bad.Add("on", "%s is too long ago", on)
	}
	pain := func(p *int, at string) {
		if p != nil && (*p < 0 || *p > body.PainMax) {
			bad.Add(at, "pain must be 0 to 10 (you entered %d)", *p)
		}
	}
	for i, r := range slices.Concat(in.Readings, in.New) {
		at := fmt.Sprintf("readings[%d]", i)
		pain(r.FirstStep, at+".firstStep")
		pain(r.Rest, at+".rest")
		if r.Zone != "" && ZoneName(r.Zone) == "" {
			bad.Add(at+".zone", "%q is not a place on the map", r.Zone)
		}
	}
	pain(in.CalfSoreness, "calfSoreness")
	for i, x := range in.Exposure {
		if x.Minutes < 0 || x.Minutes > 600 || !slices.Contains(transition.Stages, x.Stage) || x.Stage == transition.Home {
			bad.Add(fmt.Sprintf("exposure[%d]", i), "%d min of %q can't be", x.Minutes, x.Stage)
		}
	}
	if m := in.BarefootMinutes; m != nil && (*m < 0 || *m > 1440) {
		bad.Add("barefootMinutes", "expected 0 to 1440 (you entered %d)", *m)
	}
	return bad.Or()
}

func ZoneName(id string) string { return screening.Zone(id).Name() }

// CheckAnswers says what is wrong with answers to the table's questions and to a
// practice's own.
func CheckAnswers(a safety.Answers, age screening.Age, own []safety.Own) error {
	var bad app.Invalid
	known := map[string]bool{}
	for _, g := range safety.Questions(age, own...) {
		for _, q := range g.Questions {
			known[q.ID] = true
		}
	}
	for id := range a.Yes {
		if !known[id] {
			bad.Add("answers.yes", "%q is not a question", id)
		}
	}
	return bad.Or()
}
