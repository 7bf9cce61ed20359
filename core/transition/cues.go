package transition

import (
	"slices"

	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/screening"
	"notchback/core/source"
)

// CueWeeks is how long one cue is kept before a re-look.
const CueWeeks = 2

// CueSource tags the order of the cues.
var CueSource = source.Common()

// Cue is one thing to change in how somebody runs.
type Cue struct {
	ID     string             `json:"id"`
	Name   string             `json:"name"`
	Say    string             `json:"say" doc:"The words for the runner"`
	Ladder string             `json:"ladder" doc:"The drill, 4 to 8 short repeats a run"`
	Relook []screening.TestID `json:"relook" nullable:"false" doc:"Looked at again with the same set-up"`
	For    []screening.Factor `json:"for" nullable:"false" doc:"The findings it answers"`
	State  string             `json:"state" enum:"now,later,done,not-needed"`
	From   *day.Date          `json:"from,omitempty" format:"date"`
	Due    *day.Date          `json:"due,omitempty" format:"date" doc:"The re-look"`
}

var cues = []Cue{
	{ID: "posture", Name: "Posture", Say: "Tall, lean from the ankles, hips under you.", Ladder: "form-tall", Relook: []screening.TestID{screening.TestID("posture")}, For: []screening.Factor{"posture"}},
	{ID: "arms", Name: "Arms", Say: "Elbows back, hands quiet.", Ladder: "form-arms", Relook: []screening.TestID{screening.TestID("arms")}, For: []screening.Factor{"arms"}},
	{ID: "cadence", Name: "Cadence", Say: "Shorter, quicker steps at the same speed.", Ladder: "form-cadence", Relook: []screening.TestID{screening.CadenceTest}, For: []screening.Factor{"low-cadence", "overstride", "bounce"}},
	{ID: "quiet", Name: "Quiet feet", Say: "Land so that nobody hears it.", Ladder: "form-quiet", Relook: []screening.TestID{screening.TestID("loudness")}, For: []screening.Factor{"loud"}},
	{ID: "line", Name: "Line", Say: "Feet either side of a line.", Ladder: "form-line", Relook: []screening.TestID{screening.TestID("crossing")}, For: []screening.Factor{"crossing"}},
	{ID: "level", Name: "Level head", Say: "Keep the brim of the cap on the horizon.", Ladder: "form-brim", Relook: []screening.TestID{screening.TestID("sway")}, For: []screening.Factor{"sway"}},
	{ID: "pickup", Name: "Quick pick-up", Say: "Pick the foot up from the hip as soon as it lands.", Ladder: "form-pickup", Relook: []screening.TestID{screening.StrikeEasy}, For: []screening.Factor{"strike-extreme"}},
}

// CueLook is what a re-look found.
type CueLook struct {
	On    day.Date `json:"on" format:"date"`
	Cue   string   `json:"cue"`
	Begin bool     `json:"begin,omitempty" doc:"The cue was begun on this day"`
	Took  bool     `json:"took,omitempty" doc:"The re-look showed the change"`
}

// Cues orders the cues that findings ask for: one at a time, two weeks each, then
// a re-look; one that did not take stays for two more weeks. cadenceFirst is the
// school that begins with cadence.
func Cues(findings []screening.Factor, looks []CueLook, cadenceFirst bool, today day.Date) []Cue {
	out := slices.Clone(cues)
	if cadenceFirst {
		slices.SortStableFunc(out, func(a, b Cue) int {
			switch {
			case a.ID == "cadence" && b.ID != "cadence":
				return -1
			case b.ID == "cadence" && a.ID != "cadence":
				return 1
			}
			return 0
		})
	}
	now := false
	for i := range out {
		c := &out[i]
		begun, took := (*day.Date)(nil), false
		for _, l := range looks {
			if l.Cue != c.ID || l.On > today {
				continue
			}
			on := l.On
			if l.Begin || !l.Took {
				begun = &on // begun, or two more weeks from the re-look on
			}
			took = l.Took
		}
		wanted := slices.ContainsFunc(c.For, func(f screening.Factor) bool { return slices.Contains(findings, f) })
		switch {
		case took:
			c.State = "done"
		case !wanted && begun == nil:
			c.State = "not-needed"
		case now:
			c.State = "later"
		default:
			c.State, now = "now", true
			if begun != nil {
				due := *begun + 7*CueWeeks
				c.From, c.Due = begun, &due
			}
		}
	}
	return out
}

// StrikeShift is what a wished shift of the foot strike asks and costs.
type StrikeShift struct {
	Allowed  bool     `json:"allowed"`
	Missing  []string `json:"missing" nullable:"false"`
	WeeksMin int      `json:"weeksMin"`
	To       string   `json:"to,omitempty" doc:"No more than one class away"`
	Achilles float64  `json:"achillesPercent" doc:"More dose on the Achilles at the same running, per cent"`
	Words    string   `json:"words"`
}

// shiftWeeks is how long a shift of one class takes at least: docs/rules.md, ramps.
const shiftWeeks = 8

// Shift weighs a wished shift of the strike by one class. clean is whether the
// calf ladder stands at one leg 3 × 15 or past it on both sides.
func Shift(from string, clean bool, calfStopped bool) StrikeShift {
	s := StrikeShift{WeeksMin: shiftWeeks, Missing: []string{}}
	rear := load.ContactWeight(body.Achilles, load.RearStrike, load.UsualShoe)
	fore := load.ContactWeight(body.Achilles, load.MidForeStrike, load.UsualShoe)
	switch from {
	case "rear":
		s.To, s.Achilles = "mid", 100*(fore/rear-1)
	case "mid":
		s.To = "fore"
	}
	if !clean {
		s.Missing = append(s.Missing, "the calf ladder at one leg 3 × 15 first")
	}
	if calfStopped {
		s.Missing = append(s.Missing, "a calf that is not resting")
	}
	if s.To == "" {
		s.Missing = append(s.Missing, "a foot strike that was looked at, heel or middle")
	}
	s.Allowed = len(s.Missing) == 0
	s.Words = "How the foot lands is a result, not a cue. Leave it unless it is extreme or hurts."
	return s
}
