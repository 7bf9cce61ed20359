// Package transition plans how a runner gets out of cushioned shoes and to a
// quicker cadence: small dated steps, each let through by a gate, repeated or
// taken back by what the runner reports. Ramp weeks are ISO weeks.
package transition

import (
	"fmt"
	"slices"

	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/source"
)

// Stage is a part of the barefoot ramp.
type Stage string

// The stages in their order. Bare comes after minimal shoes; Keep is the
// runner's own target, held.
const (
	Home     Stage = "home"
	Walk     Stage = "walk"
	Strength Stage = "strength"
	Drills   Stage = "drills"
	Run      Stage = "run"
	Bare     Stage = "bare"
	Keep     Stage = "keep"
)

// Stages lists the stages a runner can wish for, in order.
var Stages = []Stage{Home, Walk, Strength, Drills, Run, Bare}

// Name returns the stage in plain words.
func (s Stage) Name() string {
	switch s {
	case Home:
		return "barefoot at home"
	case Walk:
		return "barefoot walks"
	case Strength:
		return "barefoot strength"
	case Drills:
		return "strides in minimal shoes"
	case Run:
		return "running in minimal shoes"
	case Bare:
		return "bare-foot running"
	}
	return "kept at the target"
}

// Gate returns the gate a stage waits for.
func (s Stage) Gate() catalogue.Gate {
	switch s {
	case Home:
		return safety.BarefootHome
	case Walk:
		return safety.BarefootWalk
	case Strength:
		return safety.BarefootStrength
	case Bare:
		return safety.BarefootRun
	}
	return safety.MinShoeRun
}

// Runs reports whether a stage is one of running.
func (s Stage) Runs() bool { return s.rank() >= Run.rank() }

func (s Stage) rank() int {
	if s == Keep {
		return len(Stages)
	}
	return slices.Index(Stages, s)
}

// Ladder returns the catalogue's ladder that describes a stage's exercise.
func (s Stage) Ladder() string {
	switch s {
	case Drills:
		return "exposure-drill"
	case Run, Bare, Keep:
		return "exposure-run"
	}
	return "exposure-" + string(s)
}

// Source tags the steps: put together from common practice.
var Source = source.House("common practice in small steps: swap, do not add, and read the next morning")

// The steps. Minutes at home are a day's; walks a week's.
var (
	homeSteps = [4]int{30, 60, 90, 120}
	walkSteps = [5]struct{ times, minutes int }{{1, 10}, {2, 10}, {2, 15}, {2, 20}, {2, 20}} // of each walking day; the last held two weeks
	drillStep = [2]struct{ times, metres int }{{4, 60}, {6, 80}}
)

// Numbers of the ramp.
const (
	loadFrom, loadStep, loadFull = 50, 10, 100 // per cent of the usual load in barefoot strength
	strengthWeeks                = 3
	walkDays, walkDaysMost       = 3, 5 // a week; the fourth and fifth come beside barefoot strength, one a week
	drillsAWeek                  = 2
	warmUpMinutes                = 5  // run in minimal shoes before the strides
	firstMinutes                 = 10 // of a week, at most
	firstBare                    = 5
	minuteStep                   = 5 // a week, at most
	pointStep                    = 5 // percentage points a week, at most
	lessWeeks, lessPercent       = 2, 10
	twoRunsFrom, threeRunsFrom   = 10, 30
	bareAfterPercent             = 30
	bareAfterWeeks               = 4
	dropStepMM, dropWeeks        = 4, 6
	horizonWeeks                 = 156
	keptShown                    = 4
)

// Terms are what a ramp is planned with, from a Monday on.
type Terms struct {
	From          day.Date  `json:"from" format:"date" doc:"These hold from the Monday of this date's week; a first partial week does not count"`
	Goal          Stage     `json:"goal" enum:"home,walk,strength,drills,run,bare" doc:"How far the runner wants to go"`
	Begin         Stage     `json:"begin,omitempty" enum:"home,walk,strength,drills,run," doc:"Where the ramp begins; its gate must be open. Home when empty"`
	TargetPercent float64   `json:"targetPercent" minimum:"0" maximum:"100" doc:"Share of the weekly km in minimal shoes"`
	BarePercent   float64   `json:"barePercent,omitempty" minimum:"0" maximum:"100" doc:"Share of the weekly km with bare feet, out of the share above"`
	WeeklyMetres  int       `json:"weeklyMetres" minimum:"0" maximum:"400000"`
	PaceSeconds   int       `json:"paceSeconds" minimum:"0" maximum:"1200" doc:"A kilometre of easy running, in seconds"`
	RunDays       []int     `json:"runDays" maxItems:"7" nullable:"false" doc:"Weekdays with an easy run, Monday 0"`
	StrengthDays  []int     `json:"strengthDays" maxItems:"7" nullable:"false" doc:"Weekdays with a main session, Monday 0"`
	Shoe          string    `json:"shoe,omitempty" maxLength:"60" doc:"The minimal shoe; strides and runs wait without one"`
	DropMM        *int      `json:"dropMm,omitempty" minimum:"0" maximum:"40" doc:"Heel drop of the usual shoe, mm"`
	DropToMM      *int      `json:"dropToMm,omitempty" minimum:"0" maximum:"40" doc:"The drop wished for, mm"`
	By            *day.Date `json:"by,omitempty" format:"date" doc:"The date the runner hopes for; the ramp never gets steeper for it"`
}

// Check says what is wrong with terms, by field.
func (t Terms) Check() map[string]error {
	bad := map[string]error{}
	put := func(field, format string, a ...any) { bad[field] = fmt.Errorf(format, a...) }
	if t.Goal.rank() < 0 || t.Goal == Keep {
		put("goal", "%q is not a stage; expected home, walk, strength, drills, run or bare", t.Goal)
	}
	if t.Begin != "" && (t.Begin.rank() < 0 || t.Begin.rank() > Run.rank()) {
		put("begin", "%q can't be where it begins; expected home, walk, strength, drills or run", t.Begin)
	} else if t.Begin != "" && t.Begin.rank() > t.Goal.rank() {
		put("begin", "it can't begin past its goal")
	}
	percent := func(field string, v float64) {
		if !(v >= 0 && v <= 100) {
			put(field, "expected 0 to 100 (you entered %g %%)", v)
		}
	}
	percent("targetPercent", t.TargetPercent)
	percent("barePercent", t.BarePercent)
	if t.BarePercent > t.TargetPercent {
		put("barePercent", "%g %% is more than the %g %% out of usual shoes", t.BarePercent, t.TargetPercent)
	}
	if t.WeeklyMetres < 0 || t.WeeklyMetres > 400_000 {
		put("weeklyMetres", "expected 0 to 400000 (you entered %d m a week)", t.WeeklyMetres)
	}
	if t.PaceSeconds != 0 && (t.PaceSeconds < 150 || t.PaceSeconds > 1200) {
		put("paceSeconds", "expected 150 to 1200 (you entered %d s a kilometre)", t.PaceSeconds)
	}
	for field, days := range map[string][]int{"runDays": t.RunDays, "strengthDays": t.StrengthDays} {
		for _, d := range days {
			if d < 0 || d > 6 {
				put(field, "%d is not a weekday; expected 0 for Monday to 6 for Sunday", d)
			}
		}
	}
	if t.DropMM != nil && t.DropToMM != nil && *t.DropToMM > *t.DropMM {
		put("dropToMm", "%d mm is more than the shoe has now", *t.DropToMM)
	}
	return bad
}

// volume is a week's running: metres, and metres times seconds a kilometre, so
// that shares can be compared in whole numbers.
type volume struct{ metres, product int }

// minutes of a share of the volume, rounded down.
func (v volume) minutes(percent float64) int {
	return int(float64(v.product)*percent/100/60_000 + 1e-9)
}

// volume of the week in which a runner has been in the run stage for so many weeks.
func (t Terms) volume(s State) volume {
	m := t.WeeklyMetres
	if s.Stage == Run && s.Weeks <= lessWeeks {
		m = m * (100 - lessPercent) / 100
	}
	return volume{m, m * t.PaceSeconds}
}

// State is where a runner stands on the ramp in one week.
type State struct {
	Stage Stage `json:"stage"`
	Step  int   `json:"step" doc:"Within the stage, from 1"`
	Weeks int   `json:"weeks" doc:"Calendar weeks in this stage, from 1"`
	Load  int   `json:"load,omitempty" doc:"Per cent of the usual load in barefoot strength"`
	Run   int   `json:"run,omitempty" doc:"Minutes a week in minimal shoes and bare"`
	Bare  int   `json:"bare,omitempty" doc:"Minutes of them with bare feet"`
	Held  int   `json:"held,omitempty" doc:"Weeks in a row at 30 % or more in minimal shoes"`
	last  volume
}

// first is the state a stage begins with.
func (t Terms) first(from State, stage Stage) State {
	s := State{Stage: stage, Step: 1, Weeks: 1, Load: from.Load, Run: from.Run, Bare: from.Bare, Held: from.Held, last: from.last}
	switch stage {
	case Strength:
		s.Load = loadFrom
	case Run:
		s.Run = min(drillsAWeek*warmUpMinutes, firstMinutes, t.volume(s).minutes(pointStep), t.target(s))
	case Bare:
		s.Bare = min(firstBare, t.volume(s).minutes(pointStep), t.volume(s).minutes(t.BarePercent))
	}
	return s
}

// target is the minutes a week the runner wants out of usual shoes.
func (t Terms) target(s State) int { return t.volume(s).minutes(t.TargetPercent) }

// rise returns the minutes after a passed week: 5 more, or 5 percentage points
// of the week's running more, whichever is less.
func rise(minutes int, last, now volume) int {
	if last.product == 0 {
		return min(minutes, now.minutes(100))
	}
	points := int((int64(minutes)*int64(now.product)*1_200_000 + int64(now.product)*int64(last.product)) / (int64(last.product) * 1_200_000))
	return min(minutes+minuteStep, points)
}

// keepShare returns the minutes of the same share in another volume; never more
// minutes than before.
func keepShare(minutes int, last, now volume) int {
	if last.product == 0 || now.product >= last.product {
		return minutes
	}
	return int(int64(minutes) * int64(now.product) / int64(last.product))
}

// lastStep is the last step of a stage of fixed steps.
func (s Stage) lastStep() int {
	switch s {
	case Home:
		return len(homeSteps)
	case Walk:
		return len(walkSteps)
	case Strength:
		return strengthWeeks
	}
	return len(drillStep)
}

// reached reports whether a state is the goal.
func (t Terms) reached(s State) bool {
	switch {
	case s.Stage == "":
		return false
	case s.Stage != t.Goal:
		return s.Stage.rank() > t.Goal.rank()
	case s.Stage == Walk:
		return s.Step >= len(walkSteps)-1 // the first week at 2 × 20
	case s.Stage == Strength:
		return s.Load >= loadFull
	}
	return t.complete(s)
}

// Wait is why a ramp does not go into its next stage.
type Wait struct {
	Stage Stage          `json:"stage,omitempty"`
	Gate  catalogue.Gate `json:"gate,omitempty"`
	Words string         `json:"words"`
	From  *day.Date      `json:"from,omitempty" format:"date" doc:"The earliest date it may be over; missing when nobody knows"`
	Ever  bool           `json:"ever" doc:"A date is known, or it is over as soon as something is typed"`
}

// opener says whether a gate is open in a week, and what it waits for if not.
type opener func(Stage, day.Date) *Wait

// enter tries the next stage: nil where the ramp goes on, otherwise why not.
func (t Terms) enter(stage Stage, s State, monday day.Date, open opener) *Wait {
	if w := open(stage, monday); w != nil {
		return w
	}
	if stage.rank() < Drills.rank() {
		return nil
	}
	switch {
	case t.Shoe == "":
		return &Wait{Stage: stage, Words: "a minimal shoe: none is named"}
	case stage == Drills:
		return nil
	case t.WeeklyMetres == 0 || t.PaceSeconds == 0:
		return &Wait{Stage: stage, Words: "weekly kilometres and an easy pace: without runs there is nothing to swap"}
	case t.TargetPercent == 0:
		return &Wait{Stage: stage, Words: "a target over 0 %"}
	case t.volume(State{Stage: Run, Weeks: 1}).minutes(pointStep) < 1:
		return &Wait{Stage: stage, Words: "more running: 5 % of these weekly kilometres are less than a minute"}
	case stage == Bare && s.Held < bareAfterWeeks:
		return &Wait{Stage: stage, Words: "30 % in minimal shoes held for four weeks", Ever: true}
	case stage == Bare && t.BarePercent == 0:
		return &Wait{Stage: stage, Words: "a bare-foot target over 0 %"}
	}
	return nil
}

// complete reports whether a stage's last step was reached.
func (t Terms) complete(s State) bool {
	switch s.Stage {
	case Run:
		return s.Weeks > lessWeeks && t.target(s) > 0 && s.Run >= t.target(s)
	case Bare:
		return t.BarePercent > 0 && t.volume(s).product > 0 && s.Bare >= t.volume(s).minutes(t.BarePercent)
	case Keep:
		return false
	}
	return s.Step >= s.Stage.lastStep()
}

// advance returns the state of the week after a passed one, and what keeps it
// from the next stage, if something does.
func (t Terms) advance(s State, monday day.Date, open opener) (State, *Wait) {
	next := t.begin()
	switch {
	case s.Stage == "":
	case !t.complete(s):
		return t.step(s), nil
	case s.Stage == t.Goal && s.Stage.rank() < Run.rank():
		return t.step(s), nil
	case s.Stage == t.Goal:
		next = Keep
	default:
		next = Stages[s.Stage.rank()+1]
	}
	if next != Keep {
		if w := t.enter(next, s, monday, open); w != nil {
			if s.Stage == "" {
				return s, w
			}
			return t.step(s), w
		}
	}
	n := t.first(s, next)
	if n.Load > 0 && next != Strength {
		n.Load = min(loadFull, n.Load+loadStep)
	}
	n.last = t.volume(n)
	n.count(t)
	return n, nil
}

// step goes one step up within a stage; at its end only what is still below its
// full amount rises.
func (t Terms) step(s State) State {
	last := s.last
	s.Weeks++
	now := t.volume(s)
	switch s.Stage {
	case Run, Keep:
		s.Step++
		s.Run = min(rise(s.Run, last, now), t.target(s))
	case Bare:
		s.Step++
		s.Run = min(rise(s.Run, last, now), t.target(s))
		s.Bare = min(rise(s.Bare, last, now), now.minutes(t.BarePercent), s.Run)
	default:
		s.Step = min(s.Step+1, s.Stage.lastStep())
	}
	if s.Load > 0 && (s.Stage != Strength || s.Weeks > strengthWeeks-1) {
		s.Load = min(loadFull, s.Load+loadStep)
	}
	s.last = now
	s.count(t)
	return s
}

// hold repeats a week: what was done, never more.
func (t Terms) hold(s State) State {
	last := s.last
	s.Weeks++
	s.last = t.volume(s)
	s.Run = min(keepShare(s.Run, last, s.last), max(t.target(s), 0))
	s.Bare = min(keepShare(s.Bare, last, s.last), s.Run)
	s.count(t)
	return s
}

// count counts the weeks at 30 % or more in minimal shoes.
func (s *State) count(t Terms) {
	if s.Run > 0 && s.Run >= s.last.minutes(bareAfterPercent) {
		s.Held++
	} else {
		s.Held = 0
	}
}

// back takes n steps back, into an earlier stage where it must.
func (t Terms) back(s State, n int) State {
	for range n {
		switch s.Stage {
		case Run, Bare, Keep:
			less := max(0, s.Run-minuteStep)
			s.Bare = max(0, min(s.Bare-minuteStep, less))
			floor := min(firstMinutes, t.volume(s).minutes(pointStep))
			switch {
			case s.Stage == Run && s.Run <= floor:
				s.Stage, s.Step, s.Weeks, s.Run, s.Bare = Drills, len(drillStep), 1, 0, 0
			case s.Stage == Bare && s.Bare == 0:
				s.Stage, s.Step = Run, max(1, s.Step-1)
				s.Run = less
			default:
				s.Run, s.Step = max(floor, less), max(1, s.Step-1)
				if s.Stage == Keep {
					s.Stage = Run
					if s.Bare > 0 {
						s.Stage = Bare
					}
				}
			}
		case "":
		default:
			s.Load = max(0, s.Load-loadStep)
			switch {
			case s.Step > 1:
				s.Step--
			case s.Stage != Home && s.Stage != t.begin():
				s.Stage = Stages[s.Stage.rank()-1]
				s.Step, s.Weeks = s.Stage.lastStep(), 1
			}
			if s.Stage.rank() < Strength.rank() {
				s.Load = 0
			}
		}
	}
	s.Held = 0
	return s
}

func (t Terms) begin() Stage {
	if t.Begin == "" {
		return Home
	}
	return t.Begin
}
