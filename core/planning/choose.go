package planning

import (
	"fmt"
	"slices"
	"strings"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/source"
)

// Wish is how far a runner wants to go without shoes.
type Wish string

// The wishes.
const (
	WishNone    Wish = ""
	WishHome    Wish = "home"
	WishWalk    Wish = "walk"
	WishMinimal Wish = "minimal"
	WishBare    Wish = "bare"
)

func (w Wish) runs() bool { return w == WishMinimal || w == WishBare }

// Excluded is a ladder left out by the coach or the runner, with its reason. It
// is offered again after four weeks.
type Excluded struct {
	Ladder string   `json:"ladder"`
	Reason string   `json:"reason" maxLength:"300"`
	On     day.Date `json:"on" format:"date"`
}

// OfferAgain is when an excluded ladder is offered again, in days.
const OfferAgain = 28

// Evidence is all a plan is made from.
type Evidence struct {
	On         day.Date
	Person     body.Person
	Results    []screening.Result
	Findings   []screening.Finding
	Complaints []screening.Complaint
	Gates      []safety.GateState
	Flags      []safety.Standing
	Mornings   []Reading            // oldest first, the worst of each
	ByRegion   map[Region][]Reading // those of a region, where they are told apart
	Flares     []Flare              // that stand
	HardFloor  bool                 // most of the day is walked on hard floor
	NoDayOff   bool                 // young, and not one day a week without sport
	Growing    bool                 // a growth spurt, or pain while young: a third less
	Baseline   float64
	Setbacks   []Setback
	Since      day.Date // when the worked-on ranges began to be worked on; 0 for now
	Improved   []screening.Factor
	// Standing is where ladders of the present block stand; Proven are notches
	// of clean logged sessions of the last 28 days; Stopped are halted ladders.
	Standing map[string]int
	Proven   map[string]int
	Stopped  []string
	Spring   int // weeks of spring work behind
	// FourWeeks are the metres run in the four complete weeks before, oldest
	// first; empty when not known.
	FourWeeks []int
	// RetestWeeks is the practice's rhythm of re-tests of what is worked on, 1 to 3 weeks; 0
	// is the usual one.
	RetestWeeks int
	Wish        Wish
	Ramp        bool // a barefoot ramp stands beside the block and brings the exposures
	School      School
	Owned       []string
	Evenings    bool
	Excluded    []Excluded
	Added       []string // ladders a coach put in
	// Followed are ladders whose path went on to the next stage by a coach's word.
	Followed []string
	// PlannedMetres are the kilometres planned a week; 0 for not known.
	PlannedMetres int
	// RampRuns are the weekdays on which the barefoot ramp runs or strides.
	RampRuns [7]bool
	// Cue is the drill of the cue that the run is on, where one is known.
	Cue string
}

func (e Evidence) result(id screening.TestID) *screening.Result {
	return StartEvidence{Results: e.Results}.result(id)
}

func (e Evidence) value(id screening.TestID) (float64, bool) {
	r := e.result(id)
	if r == nil {
		return 0, false
	}
	w, ok := r.Weaker()
	if !ok || w.Value == nil {
		return 0, false
	}
	return *w.Value, true
}

// LockKind says what closes a notch.
type LockKind string

// What can close a notch.
const (
	LockGate      LockKind = "gate"
	LockFlag      LockKind = "flag"
	LockMinor     LockKind = "minor"
	LockComplaint LockKind = "complaint"
	LockPhase     LockKind = "phase"
	LockKit       LockKind = "kit"
	LockEvening   LockKind = "evening"
	LockSchool    LockKind = "school"
	LockControl   LockKind = "control"
	LockQuestion  LockKind = "question" // safety questions of a new place are open
	LockExcluded  LockKind = "excluded"
	LockRoom      LockKind = "room" // the week has no room for more of it
	LockStopped   LockKind = "stopped"
)

// Lock is why a ladder can't go higher, or can't be used at all.
type Lock struct {
	Kind   LockKind       `json:"kind"`
	Notch  int            `json:"notch" doc:"The first notch it closes"`
	Gate   catalogue.Gate `json:"gate,omitempty"`
	Flag   safety.FlagID  `json:"flag,omitempty"`
	Own    string         `json:"own,omitempty" doc:"What a flag of the practice's own is called"`
	Kit    string         `json:"kit,omitempty"`
	Words  string         `json:"words"`
	Source source.Tag     `json:"source"`
}

// Ages of the minors' rules.
const (
	minorLoadAge  = body.OneLegAge
	minorLoadMost = 10.0 // per cent of body weight
	balanceAge    = 12
)

func (e Evidence) found(f screening.Factor) bool {
	return slices.ContainsFunc(e.Findings, func(x screening.Finding) bool { return x.Factor == f })
}

// Thresholds of what complaints leave out.
const (
	shinHigh, shinSome body.Pain = 4, 2
	freshTwistWeeks              = 6
	reachEnough                  = 90.0
)

// Ceiling returns the highest notch of a ladder that nothing closes, 0 when the
// ladder can't be used at all, with what closes the notch above it.
func Ceiling(c catalogue.Catalogue, l catalogue.Ladder, e Evidence, ps []RegionPhase) (int, []Lock) {
	for i := range l.Notches {
		if locks := e.locks(c, l, i+1, ps); len(locks) > 0 {
			return i, locks
		}
	}
	return l.Len(), []Lock{}
}

// locks are what keeps a notch out of a plan: what nobody may do today, and what
// the week, the kit and the school leave out.
func (e Evidence) locks(c catalogue.Catalogue, l catalogue.Ladder, at int, ps []RegionPhase) []Lock {
	out := e.Bars(c, l, at, body.Both, ps)
	n := l.At(at)
	add := func(k Lock) {
		k.Notch, k.Source = at, phaseSource
		out = append(out, k)
	}
	if (n.Exercise.Timing == "evening" || standsAlone(l, n)) && !e.Evenings {
		add(Lock{Kind: LockEvening, Words: "evening work; evenings are not free"})
	} else if standsAlone(l, n) && e.School.Is(AskReleaseLength) != ReleaseLengthLong && !slices.Contains(e.Added, l.ID) {
		add(Lock{Kind: LockSchool, Words: "release over two minutes stands alone in the evening, in the other school"})
	}
	return out
}

// Bars are what keeps a notch out of any sitting of a side: what was left out or
// stopped, what nobody may do today, what the school leaves out, and kit that is not
// there.
func (e Evidence) Bars(c catalogue.Catalogue, l catalogue.Ladder, at int, side body.Side, ps []RegionPhase) []Lock {
	n := l.At(at)
	out := []Lock{}
	add := func(k Lock) {
		k.Notch = at
		if !k.Source.Valid() {
			k.Source = phaseSource
		}
		out = append(out, k)
	}
	if x := slices.IndexFunc(e.Excluded, func(x Excluded) bool { return x.Ladder == l.ID }); x >= 0 {
		add(Lock{Kind: LockExcluded, Words: "left out on " + e.Excluded[x].On.Words() + ": " + e.Excluded[x].Reason})
	}
	if slices.Contains(e.Stopped, l.ID) {
		add(Lock{Kind: LockStopped, Words: "stopped; it comes back after quiet mornings"})
	}
	for _, k := range e.May(l, at, side, ps).Why {
		add(k)
	}
	if k, words := e.schoolAllows(l, n); words != "" {
		add(Lock{Kind: k, Words: words})
	}
	if missing := e.lacks(c, n); missing != "" {
		name := missing
		if k, ok := c.KitNamed(missing); ok {
			name = k.Name
		}
		add(Lock{Kind: LockKit, Kit: missing, Words: "needs " + name})
	}
	return out
}

// releaseMost is how long release may take in a main session, both sides: two minutes a
// side, three where it is two places (house: thigh 2 min and seat 1 min).
const releaseMost = 2 * 3 * 60

// standsAlone reports whether a notch is too long for a main session.
func standsAlone(l catalogue.Ladder, n catalogue.Notch) bool {
	return n.Alone || l.Purpose == catalogue.ForRelease && n.Seconds()-catalogue.ChangeOver > releaseMost
}

// schoolAllows says why a school leaves a notch out.
func (e Evidence) schoolAllows(l catalogue.Ladder, n catalogue.Notch) (LockKind, string) {
	switch {
	case n.Kinds()[catalogue.Kind(catalogue.Curling)] && l.Purpose == catalogue.ForStrength && e.School.Is(AskToeWork) == ToeWorkLongToe:
		return LockSchool, "the school works with long toes only"
	case l.Purpose == catalogue.ForRange && n.Dose.HoldSeconds > stretchMost(e.School) && n.Dose.Reps == 0:
		return LockSchool, fmt.Sprintf("the school holds stretches up to %d s", stretchMost(e.School))
	case n.Kinds()[catalogue.Kind(catalogue.ShinRaise)] && n.Dose.Reps > 15 && e.School.Is(AskSetSize) == SetSizeSmall:
		return LockSchool, "the school keeps sets small"
	}
	return "", ""
}

func stretchMost(s School) int {
	switch s.Is(AskStretchHold) {
	case StretchHoldTwoMinutes:
		return 120
	case StretchHoldShort:
		return 30 // the shortest built-in stretch holds 30 s
	}
	return 60
}

// lacks names the first thing a notch needs that is neither owned nor swapped
// for something owned.
func (e Evidence) lacks(c catalogue.Catalogue, n catalogue.Notch) string {
	for _, k := range n.Exercise.Equipment {
		if e.owns(c, k) {
			continue
		}
		if _, ok := e.swapFor(c, k); !ok {
			return k
		}
	}
	return ""
}

func (e Evidence) owns(c catalogue.Catalogue, kit string) bool {
	k, _ := c.KitNamed(kit)
	return k.Always || slices.Contains(e.Owned, kit)
}

func (e Evidence) swapFor(c catalogue.Catalogue, kit string) (catalogue.Kit, bool) {
	k, _ := c.KitNamed(kit)
	for _, s := range k.Swap {
		if slices.Contains(e.Owned, s) {
			return c.KitNamed(s)
		}
	}
	return catalogue.Kit{}, false
}

// Swap is a thing taken in place of another.
type Swap struct {
	For  string `json:"for"`
	Take string `json:"take"`
}

// Swaps are the things taken in place of those a notch needs and nobody owns.
func (e Evidence) Swaps(c catalogue.Catalogue, n catalogue.Notch) []Swap {
	out := []Swap{}
	for _, k := range n.Exercise.Equipment {
		if e.owns(c, k) {
			continue
		}
		if s, ok := e.swapFor(c, k); ok {
			kit, _ := c.KitNamed(k)
			out = append(out, Swap{kit.Name, s.Name})
		}
	}
	return out
}

// Role is what a ladder does for a finding.
type Role string

// The roles.
const (
	RoleRelease  Role = "release"
	RoleWork     Role = "range or control"
	RoleStrength Role = "strength"
	RoleForm     Role = "form"
	RoleBase     Role = "base"
	RoleGoal     Role = "goal"
	RoleAdded    Role = "added"
	RoleControl  Role = "control"
	RoleEase     Role = "ease"
)

// Choice is a ladder that goes into the block.
type Choice struct {
	Ladder   string          `json:"ladder"`
	Name     string          `json:"name"`
	Role     Role            `json:"role"`
	For      []string        `json:"for" nullable:"false" doc:"Findings it works on"`
	Place    catalogue.Place `json:"place" enum:"micro,main,evening,run,day"`
	Start    Start           `json:"start"`
	Ceiling  int             `json:"ceiling" doc:"The highest notch that nothing closes"`
	Locks    []Lock          `json:"locks" nullable:"false" doc:"What closes the notch above"`
	Swaps    []Swap          `json:"swaps" nullable:"false"`
	After    string          `json:"after,omitempty" doc:"The lengthening ladder it follows in the same session"`
	FromWeek int             `json:"fromWeek" doc:"One newly added loading ladder a week"`
	Instead  string          `json:"instead,omitempty" doc:"What it stands in for, and why"`
	Notes    []string        `json:"notes" nullable:"false"`
	Then     []string        `json:"then" nullable:"false" doc:"What follows on its path when it tops out"`
	// Spare is what goes first when the week has no room for all of it.
	Spare  bool `json:"spare,omitempty"`
	ladder catalogue.Ladder
}

// Left is a ladder that was looked at and left out.
type Left struct {
	Ladder string `json:"ladder"`
	Name   string `json:"name"`
	For    string `json:"for"`
	Why    string `json:"why"`
	Later  bool   `json:"later" doc:"A later phase or gate brings it"`
}

// maxFindings is how many findings are worked on at once.
const maxFindings = 3

type chooser struct {
	c       catalogue.Catalogue
	e       Evidence
	ps      []RegionPhase
	chosen  []Choice
	left    []Left
	leftFor map[string]bool
}

// Choose picks the ladders for the worked-on findings, each with one release,
// one range or control ladder and one strength ladder, and what the goal and
// the base need, with the reason for everything left out.
func Choose(c catalogue.Catalogue, e Evidence) ([]Choice, []Left, []RegionPhase) {
	h := chooser{c: c, e: e, ps: Phases(e), leftFor: map[string]bool{}}
	for _, id := range e.Added {
		h.take([]string{id}, RoleAdded, "added by the coach")
	}
	findings := e.worked()
	if len(findings) > maxFindings {
		findings = findings[:maxFindings]
	}
	for _, f := range findings {
		if r, ok := remedyFor(f.Factor); ok {
			h.work(f, r)
		}
	}
	h.form(findings)
	h.base()
	h.goal()
	h.season()
	h.order()
	return h.chosen, h.left, h.ps
}

// soleFirst is the first-step pain of a sole complaint; unknown counts as high.
func (h *chooser) soleFirst() (body.Pain, bool) {
	worst, any := body.Pain(0), false
	for _, c := range h.e.complaintsOf(RegionSole) {
		any = true
		if c.FirstSteps == nil {
			worst = body.PainMax
		} else {
			worst = max(worst, *c.FirstSteps)
		}
	}
	return worst, any
}

func (h *chooser) has(id string) int {
	return slices.IndexFunc(h.chosen, func(c Choice) bool { return c.Ladder == id })
}

// take puts in the first ladder of a list that nothing closes. What stands
// before it in the list is named with the reason.
func (h *chooser) take(ids []string, role Role, for_ string) bool {
	instead := ""
	for _, id := range ids {
		if i := h.has(id); i >= 0 {
			if !slices.Contains(h.chosen[i].For, for_) {
				h.chosen[i].For = append(h.chosen[i].For, for_)
			}
			return true
		}
		l, ok := h.c.Ladder(id)
		if !ok {
			continue // retired by the practice
		}
		top, locks := Ceiling(h.c, l, h.e, h.ps)
		if top == 0 {
			h.leave(l, for_, locks)
			if instead == "" {
				instead = fmt.Sprintf("in place of %s: %s", l.Name, locks[0].Words)
			}
			continue
		}
		h.put(l, role, for_, top, locks, instead)
		return true
	}
	return false
}

func (h *chooser) leave(l catalogue.Ladder, for_ string, locks []Lock) {
	if h.leftFor[l.ID] {
		return
	}
	h.leftFor[l.ID] = true
	later := true
	for _, k := range locks {
		later = later && (k.Kind == LockPhase || k.Kind == LockGate || k.Kind == LockControl || k.Kind == LockStopped)
	}
	h.left = append(h.left, Left{l.ID, l.Name, for_, locks[0].Words, later})
}

func (h *chooser) put(l catalogue.Ladder, role Role, for_ string, top int, locks []Lock, instead string) {
	s := h.start(l, top)
	c := Choice{Ladder: l.ID, Name: l.Name, Role: role, For: []string{for_}, Place: h.placeOf(l, s.Notch, top), Start: s, Ceiling: top, Locks: locks,
		Swaps: h.e.Swaps(h.c, l.At(s.Notch)), FromWeek: 1, Instead: instead, Notes: h.notes(l, s.Notch), Then: []string{}, ladder: l}
	h.chosen = append(h.chosen, c)
}

// start is where a ladder goes on or begins.
func (h *chooser) start(l catalogue.Ladder, top int) Start {
	if n, ok := h.e.Standing[l.ID]; ok {
		v := float64(n)
		s := Start{Ladder: l.ID, Notch: min(n, top), Reasons: []Reason{{Rule: RuleCarried, Value: &v, Source: source.House("a new plan does not push anybody up")}}}
		if n > top {
			s.Reasons = append(s.Reasons, Reason{Rule: RuleCeiling, Source: source.House("no start beyond what is closed")})
		}
		return s
	}
	s := StartingNotch(l, StartEvidence{On: h.e.On, Person: h.e.Person, Results: h.e.Results}, top)
	if n, ok := h.e.Proven[l.ID]; ok && slices.ContainsFunc(s.Reasons, func(r Reason) bool { return r.Rule == RuleMissing || r.Rule == RuleFirst }) {
		v := float64(n)
		s.Notch = max(s.Notch, min(n-1, top))
		s.Reasons = append(s.Reasons, Reason{Rule: RuleProven, Value: &v, Source: source.House("a clean logged session of the last 28 days, less one notch")})
	}
	if l.ID == "spring-pogo" && h.e.School.Is(AskHeelBounce) == HeelBounceNever {
		s.Notch = max(s.Notch, min(2, top))
	}
	return s
}

func (h *chooser) placeOf(l catalogue.Ladder, start, top int) catalogue.Place {
	switch {
	case l.Place == catalogue.PlaceEvening && !h.evening(l, start, top):
		return catalogue.PlaceMicro
	case standsAlone(l, l.At(start)):
		return catalogue.PlaceEvening
	case l.Purpose == catalogue.ForSteer && h.e.School.Is(AskHowOften) == HowOftenFewAWeek:
		return catalogue.PlaceMain
	case l.Purpose == catalogue.ForStrength && len(l.Tissues) == 0 && h.e.School.Is(AskHowOften) == HowOftenDailySmall:
		return catalogue.PlaceMicro
	}
	return l.Place
}

// evening reports whether one of the coming notches is evening work.
func (h *chooser) evening(l catalogue.Ladder, start, top int) bool {
	for n := start; n <= min(top, start+comingNotches); n++ {
		if l.At(n).Exercise.Timing == "evening" {
			return true
		}
	}
	return false
}

// comingNotches is how far ahead the layout looks: notches a block may well
// reach before it is laid out anew.
const comingNotches = 2

func (h *chooser) notes(l catalogue.Ladder, notch int) []string {
	out := []string{}
	n := l.At(notch)
	for _, x := range h.e.May(l, notch, body.Both, h.ps).Limits {
		out = append(out, strings.ToUpper(x.Words[:1])+x.Words[1:]+".")
	}
	if l.Purpose == catalogue.ForRelease {
		out = append(out, h.e.School.Says(AskReleasePressure, AskReleaseWhere, AskReleaseKnot)...)
	}
	if strings.HasPrefix(l.ID, "foot-") && n.Exercise.Purpose == catalogue.ForStrength && notch >= 4 && h.e.School.Is(AskSetEnd) == SetEndNearFatigue {
		out = append(out, h.e.School.Says(AskSetEnd)...)
	}
	if l.ID == "foot-curl" {
		out = append(out, h.e.School.Says(AskCramp)...)
	}
	if l.Purpose == catalogue.ForBalance {
		out = append(out, h.e.School.Says(AskPronation)...)
	}
	k := n.Kinds()
	if k[catalogue.Standing] && (l.Purpose == catalogue.ForSteer || l.Purpose == catalogue.ForBalance) {
		out = append(out, h.e.School.Says(AskWeightLine)...)
	}
	if l.ID == "steer-press" || l.ID == "foot-hover" {
		out = append(out, h.e.School.Says(AskToePress)...)
	}
	if k[catalogue.CalfWork] && l.Purpose == catalogue.ForStrength && n.Dose.Reps > 0 {
		out = append(out, h.e.School.Says(AskToeBall, AskRaise)...)
	}
	return out
}

// form takes one cue at a time: the first of the order that a finding asks for.
func (h *chooser) form(findings []screening.Finding) {
	if slices.ContainsFunc(h.e.Flags, safety.Standing.ClosesRunning) {
		return
	}
	order := []string{"form-tall", "form-hips", "form-arms", "form-cadence", "form-quiet", "form-brim", "form-line", "form-pickup"}
	if h.e.School.Is(AskFormOrder) == FormOrderCadenceFirst {
		order = []string{"form-cadence", "form-tall", "form-hips", "form-arms", "form-quiet", "form-brim", "form-line", "form-pickup"}
	}
	if h.e.Cue != "" && h.take([]string{h.e.Cue}, RoleForm, "the cue of these weeks") {
		return
	}
	best, bestAt, name := "", len(order), ""
	for _, f := range findings {
		r, _ := remedyFor(f.Factor)
		for _, id := range r.Form {
			if id == "form-quiet" && h.e.School.Is(AskLanding) == LandingSpringy {
				continue
			}
			if i := slices.Index(order, id); i >= 0 && i < bestAt {
				if id == "form-cadence" && !safety.IsOpen(h.e.Gates, safety.CadenceChange) {
					continue
				}
				best, bestAt, name = id, i, f.Name
			}
		}
	}
	if best != "" {
		h.take([]string{best}, RoleForm, name)
	}
}

// base is what every plan has: the calf, in every phase at the notch that pain
// allows; quiet holds where it can't be loaded yet. A plan with nothing to work
// on keeps control and balance too.
func (h *chooser) base() {
	if !slices.ContainsFunc(h.chosen, func(c Choice) bool { return strings.HasPrefix(c.Ladder, "calf-") || c.Ladder == "calm-iso" }) {
		h.take([]string{"calf-straight", "calm-iso"}, RoleBase, "every step asks the calf for several body weights")
	}
	if len(h.e.worked()) == 0 {
		h.take([]string{"steer-arch", "steer-split"}, RoleBase, "kept up: nothing limits")
		h.take([]string{"balance-stand"}, RoleBase, "kept up: nothing limits")
	}
}

// goal adds what the runner's wish and a free spring phase bring.
func (h *chooser) goal() {
	h.gates()
	if p := phaseFor(must(h.c.Ladder("spring-pogo")), h.ps); p.rank() >= Spring.rank() && (h.e.Wish.runs() || p == Maintain || h.e.School.Is(AskLanding) == LandingSpringy) {
		h.take([]string{"spring-pogo"}, RoleGoal, "springy steps")
	}
	if h.e.Ramp {
		h.take([]string{"wake-up"}, RoleGoal, "before bare feet")
		return
	}
	wish := h.e.Wish
	if wish != WishNone && h.e.School.Is(AskBarefoot) == BarefootShoesStay {
		wish = WishHome // running shoes stay
	}
	if wish != WishNone {
		h.take([]string{"exposure-home"}, RoleGoal, "barefoot by small steps")
	}
	if wish == WishWalk || wish.runs() {
		h.take([]string{"exposure-walk"}, RoleGoal, "barefoot by small steps")
	}
	if slices.ContainsFunc(h.chosen, func(c Choice) bool { return strings.HasPrefix(c.Ladder, "exposure-") && c.Ladder != "exposure-home" }) {
		h.take([]string{"wake-up"}, RoleGoal, "before bare feet")
	}
}

func must(l catalogue.Ladder, _ bool) catalogue.Ladder { return l }

// hipLeads reports that the first finding worked on is one of the hip.
func (h *chooser) hipLeads() bool {
	w := h.e.worked()
	return len(w) > 0 && slices.Contains([]screening.Factor{"hip-share", "squat-collapse", "symptom-kneecap"}, w[0].Factor)
}

// order sorts for a session and spaces newly added loading ladders a week apart.
func (h *chooser) order() {
	week := 0
	for i := range h.chosen { // in the order of priority
		c := &h.chosen[i]
		if len(c.ladder.Tissues) == 0 || c.Place == catalogue.PlaceDay {
			continue
		}
		if _, standing := h.e.Standing[c.Ladder]; standing {
			continue
		}
		week++
		c.FromWeek = week
		if week > 1 {
			c.Notes = append(c.Notes, fmt.Sprintf("Starts in week %d: one newly added loading ladder a week.", week))
		}
	}
	strengthFirst := h.e.School.Is(AskOrder) == OrderStrengthen
	hipDown := h.e.School.Is(AskStartFrom) == StartFromHipDown || h.e.School.Is(AskStartFrom) == StartFromByFinding && h.hipLeads()
	rank := func(c Choice) int {
		p := slices.Index(catalogue.Purposes, c.ladder.Purpose)
		if strengthFirst && c.ladder.Purpose == catalogue.ForRange {
			p = slices.Index(catalogue.Purposes, "whole-leg")*10 + 5
			return p
		}
		if hipDown && c.ladder.Purpose == catalogue.ForWholeLeg {
			return slices.Index(catalogue.Purposes, "steer")*10 + 5
		}
		return p * 10
	}
	slices.SortStableFunc(h.chosen, func(a, b Choice) int {
		if d := rank(a) - rank(b); d != 0 {
			return d
		}
		// Two legs before one, then the order of the catalogue.
		at, bt := a.ladder.At(a.Start.Notch).Together(), b.ladder.At(b.Start.Notch).Together()
		if a.ladder.Purpose == catalogue.ForStrength && at != bt {
			if at {
				return -1
			}
			return 1
		}
		return h.c.Order(a.Ladder) - h.c.Order(b.Ladder)
	})
}
