// Package safety holds the flags that hand a runner over to a clinician or
// close part of a plan, and the gates that open only on evidence. It never
// diagnoses.
package safety

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/screening"
	"notchback/core/source"
)

// Level is how far a flag reaches.
type Level string

// The levels, most urgent first.
const (
	Emergency Level = "emergency"
	Refer     Level = "refer"
	Limit     Level = "limit"
	Note      Level = "note"
)

// FlagID names a flag of the table.
type FlagID string

// Severe is raised by any pain of 8 or more.
const Severe FlagID = "F-SEVERE"

// SevereAt is the pain that raises Severe.
const SevereAt body.Pain = 8

// SevereRest is the pain at rest that raises Severe.
const SevereRest body.Pain = 5

// SevereSource tags SevereAt.
var SevereSource = source.House("common red-flag teaching; such pain is looked at before any load")

// Standing is a flag that holds for a runner. What it closes stands in the table
// under its id; the fields beside it are those of a reading or of an older row.
type Standing struct {
	Flag  FlagID         `json:"flag"`
	Level Level          `json:"level"`
	Since day.Date       `json:"since" format:"date"`
	Side  body.Side      `json:"side,omitempty" doc:"The side it closes; both when empty"`
	Zone  screening.Zone `json:"zone,omitempty" doc:"Where it hurts; the region it loads is closed"`
	// Tissues are the loaded tissues of what hurt; with Everything set, all work is
	// closed.
	Tissues      []body.Tissue    `json:"tissues,omitempty"`
	Everything   bool             `json:"everything,omitempty"`
	ProgressOnly bool             `json:"progressOnly,omitempty" doc:"Closes progress"`
	Running      bool             `json:"running,omitempty"`
	Gates        []catalogue.Gate `json:"gates,omitempty"`
	Tests        []string         `json:"tests,omitempty"`
	Own          *Own             `json:"own,omitempty" doc:"The practice's own question that raised it"`
}

// RaiseSevere returns the flag that a pain of 8 or more raises for the tissues
// of the exercise that hurt.
func RaiseSevere(on day.Date, side body.Side, tissues []body.Tissue) Standing {
	return Standing{Flag: Severe, Level: Refer, Since: on, Side: side, Tissues: tissues, Everything: len(tissues) == 0}
}

// RaiseSevereAt returns the flag that a pain of 8 or more in a place raises.
func RaiseSevereAt(on day.Date, side body.Side, z screening.Zone) Standing {
	return Standing{Flag: Severe, Level: Refer, Since: on, Side: side, Zone: z, Tissues: z.Tissues(), Running: true}
}

// Open is a place that began to hurt whose safety questions were not answered.
const Open FlagID = "F-OPEN"

// RaiseOpen returns what an unanswered new place closes.
func RaiseOpen(on day.Date, side body.Side, z screening.Zone) Standing {
	return Standing{Flag: Open, Level: Limit, Since: on, Side: side, Zone: z}
}

// The gates of the table.
const (
	BarefootHome     catalogue.Gate = "barefoot-home"
	BarefootWalk     catalogue.Gate = "barefoot-walk"
	BarefootStrength catalogue.Gate = "barefoot-strength"
	EndRange         catalogue.Gate = "end-range-isometrics"
	SingleLegCalf    catalogue.Gate = "single-leg-calf"
	LoadedCalf       catalogue.Gate = "loaded-calf"
	Hop              catalogue.Gate = "hop"
	MinShoeRun       catalogue.Gate = "min-shoe-run"
	BarefootRun      catalogue.Gate = "barefoot-run"
	CadenceChange    catalogue.Gate = "cadence-change"
)

// GateState is a gate with the evidence it stands on.
type GateState struct {
	Gate    catalogue.Gate `json:"gate"`
	Name    string         `json:"name"`
	Open    bool           `json:"open"`
	State   string         `json:"state" enum:"open,closed,waived"`
	Missing []string       `json:"missing" nullable:"false" doc:"What is still missing, in plain words"`
	Needs   []Missing      `json:"needs" nullable:"false" doc:"The same, with what was read and what is asked for"`
	Until   *day.Date      `json:"until,omitempty" format:"date" doc:"The evidence carries it until then"`
	Ladder  string         `json:"ladder,omitempty" doc:"What works on it"`
	Reason  string         `json:"reason,omitempty" doc:"Why it was waived"`
	Limit   string         `json:"limit,omitempty" doc:"How what it opens is done"`
	Source  source.Tag     `json:"source"`
}

// NeedKind says what has to happen for something missing to be there.
type NeedKind string

// The kinds: a test to take or to get better in, days of exposure to log, a
// flag to be cleared, an answer to give, an age to reach, a lower gate to open,
// first steps to calm down, and what this school does not do.
const (
	NeedTest      NeedKind = "test"
	NeedRamp      NeedKind = "ramp"
	NeedClearance NeedKind = "clearance"
	NeedAnswer    NeedKind = "answer"
	NeedAge       NeedKind = "age"
	NeedGate      NeedKind = "gate"
	NeedCalm      NeedKind = "calm"
	NeedSchool    NeedKind = "school"
)

// Missing is one thing a closed gate waits for.
type Missing struct {
	Kind  NeedKind         `json:"kind" enum:"test,ramp,clearance,answer,age,gate,calm,school"`
	Words string           `json:"words"`
	Test  screening.TestID `json:"test,omitempty"`
	Have  *float64         `json:"have,omitempty" doc:"The weaker side's newest reading; missing when there is none"`
	Least float64          `json:"least,omitempty" doc:"What is asked for, in the test's unit"`
}

func (s *GateState) lack(m Missing) {
	s.Missing = append(s.Missing, m.Words)
	s.Needs = append(s.Needs, m)
}

// Waiver opens a gate on the coach's word, with a reason.
type Waiver struct {
	Gate   catalogue.Gate `json:"gate"`
	Reason string         `json:"reason"`
}

// Dated is a screening's results on their date.
type Dated struct {
	On      day.Date
	Results []screening.Result
}

// Evidence is what gates are decided on. A missing reading opens nothing.
type Evidence struct {
	On          day.Date
	Age         screening.Age
	Visits      []Dated   // newest first
	TwoLegClean *day.Date // a clean two-leg 3 × 15 with a quiet next morning
	Complaints  []screening.Complaint
	Findings    []screening.Factor // factors that close a gate by themselves
	Flags       []Standing
	Waivers     []Waiver
	Unasked     bool      // some flag question was not answered yet
	Flare       *day.Date // the newest stop by rule 2
	HomeDays    *day.Date // the last of 14 days at 30 min or more, quiet mornings: HomeFortnight
	WalkPassed  *day.Date // two weeks at 2 × 20 min of barefoot walking were passed
	PogoClean   *day.Date // 60 s of two-leg pogo with a quiet next morning
	ShareHeld   *day.Date // 30 % in minimal shoes held for four weeks
	OldAnkle    bool      // an earlier ankle injury, and the ankle is stiff
	grace       int       // days by which evidence may be older
	Barefoot    BarefootSchool
}

// How long evidence can open a gate, and how long the gate then stays open, in days.
const (
	EvidenceDays = 42
	OpenDays     = 84
	keepShare    = 0.9 // a newer reading under 90 % of the threshold closes it
)

// BarefootSchool is how a practice opens the way to bare feet; empty counts as gated.
type BarefootSchool string

// The schools of bare feet.
const (
	Gated         BarefootSchool = "gated"
	GradualForAll BarefootSchool = "gradual-for-all"
	ShoesStay     BarefootSchool = "shoes-stay"
)

// Adult is the age from which no guardian is asked and gates may be waived.
const Adult = 18

// Days barefoot at home that open the walk: docs/rules.md, gates.
const (
	homeWindow     = 14
	homeDays       = 11
	homeMinutes    = 30
	homeKnown      = 7 // next mornings that have to be known
	homeStood      = 7 // days after which a gate counts as having been open
	quietTolerance = 1e-9
)

// GatePain is the highest pain a gate test may have had.
const GatePain body.Pain = 3

var gateSource = source.House("gates open on tests common in practice; the numbers that are ours err on the side of closed")

// flareCloses are the gates a flare closes until their tests are taken again.
// House: the calf gates stay, since the flare itself sets the notch two lower.
var flareCloses = []catalogue.Gate{BarefootWalk, BarefootStrength, Hop, MinShoeRun, BarefootRun}

// need is one reading a gate asks for on both sides.
type need struct {
	test  screening.TestID
	least func(screening.Age) float64
	most  bool // the value must be at most, not at least
	pain  bool // pain at most 3
	words string
}

func atLeast(v float64) func(screening.Age) float64 {
	return func(screening.Age) float64 { return v }
}

const (
	hopAge                  = body.OneLegAge
	hopRaises, hopRaisesOld = 20, 15
	stanceGate, stanceFloor = 30, 15
	oldFrom                 = 60
	shinGate                = 32 // °, not the 30 of the test: read along the front edge of the shin, from one picture (house; rules.md, settled 45)
)

func hopRaise(a screening.Age) float64 {
	if a.Known && a.Years >= oldFrom {
		return hopRaisesOld
	}
	return hopRaises
}

// stanceNeeded is 30 s, or the age mean if lower, never under 15 s.
func stanceNeeded(a screening.Age) float64 {
	if m, ok := screening.StanceMean(a, true); ok {
		return max(stanceFloor, min(stanceGate, m))
	}
	return stanceGate
}

type gateRule struct {
	gate   catalogue.Gate
	name   string
	ladder string
	needs  []need
	any    [][][]need // of each group one set, where there are any
	later  later      // evidence that comes from the plan as it is lived
}

// later is evidence that comes from the plan: its words, and the date it was there.
type later struct {
	words string
	on    func(Evidence) *day.Date
}

var raises = func(n float64) need {
	return need{test: screening.SingleRaise, least: atLeast(n), pain: true, words: words1(n)}
}

func words1(n float64) string {
	return fmt.Sprintf("%g one-leg raises a side at pain 3 or less", n)
}

var gateRules = []gateRule{
	{gate: BarefootHome, name: "barefoot at home"},
	{gate: BarefootWalk, name: "barefoot walk", ladder: "exposure at home, short foot", later: later{"14 days at 30 minutes with quiet mornings", func(e Evidence) *day.Date { return e.HomeDays }},
		any: [][][]need{{
			{{test: screening.Arch, least: atLeast(1), words: "an arch that holds at least partly"}},
			{{test: screening.ShortFoot, least: atLeast(2), words: "short foot alone"}, {test: screening.Tripod, least: atLeast(1), words: "the tripod kept"}},
		}}},
	{gate: BarefootStrength, name: "barefoot strength", ladder: "balance, squat on a braced foot", later: later{"two weeks at 2 × 20 minutes of barefoot walking", func(e Evidence) *day.Date { return e.WalkPassed }},
		needs: []need{{test: screening.StanceOpen, least: stanceNeeded, words: "stance of 30 s, or the age mean if lower"}, {test: screening.Squat, least: atLeast(1), most: true, words: "arch and knee keep to parallel in the barefoot squat"}}},
	{gate: EndRange, name: "end-range holds", ladder: "range-toe", needs: []need{{test: screening.TuckedKneel, least: atLeast(60), words: "toes-tucked kneel 60 s at pain 5 or less"}}},
	{gate: SingleLegCalf, name: "one-leg calf", ladder: "calf-straight", needs: []need{raises(10)}},
	{gate: LoadedCalf, name: "loaded calf", ladder: "calf-straight", needs: []need{raises(15)}},
	{gate: Hop, name: "hop", ladder: "calf-straight, ball-of-foot holds, balance", needs: []need{
		{test: screening.SingleRaise, least: hopRaise, pain: true, words: "20 one-leg raises a side (15 from age 60) at pain 3 or less"},
		{test: screening.StanceOpen, least: stanceNeeded, words: "stance of 30 s, or the age mean if lower"},
		{test: screening.BallHold, least: atLeast(30), words: "one-leg ball hold 30 s"},
		{test: screening.BriskWalk, least: atLeast(0), most: true, words: "ten brisk minutes without pain"},
	}},
	{gate: MinShoeRun, name: "minimal-shoe running", ladder: "range, spring", later: later{"two-leg pogo 60 s with a quiet next morning", func(e Evidence) *day.Date { return e.PogoClean }},
		needs: []need{{test: screening.BigToePassive, least: atLeast(30), words: "big toe 30° with the ankle bent"}},
		any: [][][]need{
			{
				{{test: screening.KneeToWall, least: atLeast(10), words: "knee to wall 10 cm"}},
				{{test: screening.SeatedShin, least: atLeast(shinGate), words: "seated shin angle 32°"}},
			},
			{
				{{test: screening.Arch, least: atLeast(2), words: "an arch that keeps"}},
				{{test: screening.Arch, least: atLeast(1), words: "an arch that holds at least partly"}, {test: screening.ShortFoot, least: atLeast(2), words: "short foot alone"}, {test: screening.Squat, least: atLeast(1), most: true, words: "squat to parallel without collapse"}},
			},
		}},
	{gate: BarefootRun, name: "bare-foot running", ladder: "minimal-shoe running", later: later{"a minimal-shoe share of 30 % held for four weeks", func(e Evidence) *day.Date { return e.ShareHeld }},
		needs: []need{{test: screening.ToeBig, least: atLeast(2), words: "toe control 2 a side"}, {test: screening.ToeSmall, least: atLeast(2), words: "toe control 2 a side"}}},
	{gate: CadenceChange, name: "cadence change", ladder: "count again"},
}

// chain is the order in which a higher open gate proves the lower ones.
var chain = []catalogue.Gate{SingleLegCalf, LoadedCalf, Hop, MinShoeRun, BarefootRun}

// provesBelow is the highest link that proves those under it: hop. House: shoes
// and bare feet ask for hop, so they can't be what proves it.
const provesBelow = 2

// met looks for the newest reading that meets a need, with no newer one under
// 90 % of it. It returns the date of that reading.
func (e Evidence) met(n need) (day.Date, bool) {
	t, _ := screening.Find(n.test)
	least := n.least(e.Age)
	for _, v := range e.Visits {
		i := slices.IndexFunc(v.Results, func(r screening.Result) bool { return r.Test == n.test })
		if i < 0 || v.On > e.On {
			continue
		}
		sides := []screening.SideSummary{v.Results[i].Left, v.Results[i].Right}
		if !t.Sided {
			sides = sides[:1]
		}
		if !slices.ContainsFunc(sides, screening.SideSummary.Measured) {
			continue
		}
		good, bad := true, false
		for _, s := range sides {
			switch {
			case !s.Measured() || s.StoppedByPain || (n.pain && (s.WorstPain == nil || *s.WorstPain > GatePain)):
				good = false
			case n.most:
				good = good && *s.Value <= least
				bad = bad || *s.Value > least
			default:
				good = good && *s.Value >= least && !s.TakeMore
				bad = bad || *s.Value < keepShare*least
			}
		}
		switch {
		case good:
			return v.On, true
		case bad:
			return 0, false
		}
	}
	return 0, false
}

// Gates decides every gate on the evidence, in the order of the table. A higher
// open gate proves a lower one that only lacks its own tests, never one that a
// flag, a flare, a reading or its age closed; then flags and waivers; the chain is
// applied last, so that whatever closes a gate closes those above it.
func Gates(e Evidence) []GateState {
	out := make([]GateState, len(gateRules))
	at := map[catalogue.Gate]*GateState{}
	for i, g := range gateRules {
		out[i] = e.decide(g)
		at[g.gate] = &out[i]
	}
	for i := provesBelow; i > 0; i-- {
		hi, lo := at[chain[i]], at[chain[i-1]]
		if hi.Open && !lo.Open && !e.shutDown(*lo) && !e.closed(*hi) {
			lo.Open, lo.Missing, lo.Needs, lo.Until = true, []string{}, []Missing{}, hi.Until
		}
	}
	for i := range out {
		e.flagsAndWaivers(&out[i])
	}
	for i := 1; i < len(chain); i++ {
		if hi, lo := at[chain[i]], at[chain[i-1]]; hi.Open && (!lo.Open || lo.State == "waived") {
			switch {
			case lo.State == "waived" && hi.State == "open" && i <= provesBelow:
				continue // its own tests carry it; the waiver below proves nothing either way
			case hi.State == "waived" && !e.shutDown(*lo):
				continue // the coach's word is for this very gate
			}
			hi.Open, hi.State, hi.Reason, hi.Until = false, "closed", "", nil
			hi.lack(Missing{Kind: NeedGate, Words: "the gate " + lo.Name})
		}
	}
	return out
}

// graceDays: so long after its evidence got too old, what stands on a gate is held
// and not lowered.
const graceDays = 14

// AskFrom is the age of a gate's evidence from which its tests are asked for, in
// days (house).
const AskFrom = 70

// Aged reports a closed gate that would be open if its evidence were two weeks
// younger and every safety question answered: its age alone closed it, less than 14
// days ago, or a question that is open.
func Aged(e Evidence, g catalogue.Gate) bool {
	e.grace = graceDays
	e.Flags = slices.DeleteFunc(slices.Clone(e.Flags), func(f Standing) bool { return f.Flag == Open })
	return IsOpen(Gates(e), g)
}

// closed reports whether a flag closes a gate.
func (e Evidence) closed(st GateState) bool {
	return slices.ContainsFunc(e.Flags, func(f Standing) bool { return f.ClosesGate(st.Gate) })
}

// shutDown reports whether a gate was closed by more than missing tests: a flag, a
// flare, an age, an answer, or a reading under nine tenths of what it asks.
func (e Evidence) shutDown(st GateState) bool {
	if e.closed(st) {
		return true
	}
	for _, n := range st.Needs {
		switch {
		case n.Kind != NeedTest:
			return true
		case n.Have != nil && n.Least > 0 && *n.Have < keepShare*n.Least:
			return true
		}
	}
	return false
}

func (e Evidence) decide(g gateRule) GateState {
	st := GateState{Gate: g.gate, Name: g.name, Ladder: g.ladder, Source: gateSource, State: "closed", Missing: []string{}, Needs: []Missing{}}
	oldest, newest := e.On, day.Date(-1<<30)
	use := func(d day.Date) { oldest, newest = min(oldest, d), max(newest, d) }
	take := func(n need) bool {
		d, ok := e.met(n)
		if !ok || int(e.On-d) > OpenDays+e.grace {
			return false
		}
		use(d)
		return true
	}
	for _, n := range g.needs {
		if !take(n) && !slices.Contains(st.Missing, n.words) {
			st.lack(e.short(n, n.words))
		}
	}
	for _, group := range e.groups(g) {
		ok := false
		var choices []string
		var lacking need
		for i, set := range group {
			all := true
			var parts []string
			for _, n := range set {
				met := take(n)
				if !met && (i == 0 || lacking.test == "") {
					lacking = n
				}
				all = met && all
				parts = append(parts, n.words)
			}
			ok = ok || all
			choices = append(choices, strings.Join(parts, " with "))
		}
		if !ok {
			st.lack(e.short(lacking, strings.Join(choices, ", or ")))
		}
	}
	if g.later.on != nil {
		if on := g.later.on(e); on != nil && *on <= e.On && int(e.On-*on) <= OpenDays+e.grace {
			use(*on)
		} else {
			st.lack(Missing{Kind: NeedRamp, Words: g.later.words})
		}
	}
	for _, m := range e.extra(g.gate) {
		st.lack(m)
	}
	if r, ok := e.newest(screening.Squat); ok && g.gate == BarefootStrength && collapses(r) {
		st.Limit = "bends no deeper than where the arch or the knee gives way"
	}
	if g.gate == SingleLegCalf && len(st.Missing) > 0 && e.TwoLegClean != nil && int(e.On-*e.TwoLegClean) <= OpenDays+e.grace {
		st.Missing, st.Needs, oldest = []string{}, []Missing{}, *e.TwoLegClean
	}
	if len(st.Missing) == 0 && newest > oldest+EvidenceDays {
		st.lack(Missing{Kind: NeedTest, Words: "all its tests within six weeks of each other"})
	}
	if e.Flare != nil && oldest <= *e.Flare && slices.Contains(flareCloses, g.gate) && len(st.Missing) == 0 {
		st.lack(Missing{Kind: NeedTest, Words: "its tests again, after the flare of " + e.Flare.Words()})
	}
	st.Open = len(st.Missing) == 0
	if st.Open && oldest < e.On {
		until := oldest + OpenDays
		st.Until = &until
	}
	return st
}

// groups are the sets of readings a gate asks one of; the school may ask less.
func (e Evidence) groups(g gateRule) [][][]need {
	if e.Barefoot != GradualForAll {
		return g.any
	}
	switch g.gate {
	case BarefootWalk: // the arch is not asked for
		return nil
	case MinShoeRun: // an arch that holds at least partly is enough
		return [][][]need{g.any[0], {{g.any[1][1][0]}}}
	}
	return g.any
}

// collapses reports an arch or a knee that gives way at parallel.
func collapses(r screening.Result) bool {
	return *r.Left.Value > 0 || r.Right.Measured() && *r.Right.Value > 0
}

// reachEnough is the reach against the other side from which an ankle that was hurt
// before counts as steady, in per cent.
const reachEnough = 90.0

// short is a reading that is not there yet, with the newest there is.
func (e Evidence) short(n need, words string) Missing {
	m := Missing{Kind: NeedTest, Words: words, Test: n.test, Least: n.least(e.Age)}
	if r, ok := e.newest(n.test); ok {
		v := *r.Left.Value
		if r.Right.Measured() && (*r.Right.Value < v) != n.most {
			v = *r.Right.Value
		}
		m.Have = &v
		if n.pain && v >= m.Least && !r.Left.TakeMore && !r.Right.TakeMore && (r.Left.WorstPain == nil || r.Right.Measured() && r.Right.WorstPain == nil) {
			m.Words = fmt.Sprintf("how much the %g raises hurt: the pain was not noted", m.Least)
		}
	}
	return m
}

// HomeFortnight returns the last day of the newest 14 days in a row with at least
// 11 days of 30 minutes or more without shoes logged, at least seven of their next
// mornings known, and each known one at most 1 over the usual one and at most 3;
// nil where there is none up to the day given. A window is never slid past a bad
// newest morning: while that is the newest one known after an exposure, only a
// window that was over a week before counts, since the gate was open by then; and
// the second morning of 2 or more over the usual within 14 days closes it. Minutes,
// mornings and usual readings are by day; a missing morning is not bad.
func HomeFortnight(minutes map[day.Date]int, morning func(day.Date) (body.Pain, bool), usual func(day.Date) float64, on day.Date) *day.Date {
	quiet := func(d day.Date) (known, ok bool) {
		p, known := morning(d + 1)
		return known, known && float64(p) <= usual(d)+body.QuietOver+quietTolerance && p <= GatePain
	}
	var bad []day.Date // mornings of 2 or more over the usual, newest first
	newestBad := false
	seen := false
	for d := on - 1; d > on-OpenDays; d-- {
		if minutes[d] <= 0 {
			continue
		}
		p, known := morning(d + 1)
		if !known {
			continue
		}
		if _, ok := quiet(d); !seen {
			seen, newestBad = true, !ok
		}
		if float64(p) >= usual(d)+body.JumpOver-quietTolerance {
			bad = append(bad, d+1)
		}
	}
	for end := on; end > on-OpenDays; end-- {
		if closedSince(bad, end) {
			return nil
		}
		if newestBad && end > on-homeStood {
			continue
		}
		days, known, calm := 0, 0, true
		for d := end - homeWindow + 1; d <= end && calm; d++ {
			if minutes[d] < homeMinutes {
				continue
			}
			days++
			k, ok := quiet(d)
			if k {
				known++
			}
			calm = !k || ok
		}
		if calm && days >= homeDays && known >= homeKnown {
			return &end
		}
	}
	return nil
}

// closedSince reports two bad mornings within 14 days of each other after a day.
func closedSince(bad []day.Date, end day.Date) bool {
	for i := 1; i < len(bad); i++ {
		if bad[i] > end+1 && int(bad[i-1]-bad[i]) <= homeWindow {
			return true
		}
	}
	return false
}

// extra returns what a gate asks for beyond single readings.
func (e Evidence) extra(g catalogue.Gate) []Missing {
	var out []Missing
	if e.OldAnkle && (g == BarefootStrength || g == MinShoeRun || g == BarefootRun) {
		if r, ok := e.newest(screening.ReachForward); !ok || r.Asymmetry.LSI == nil || *r.Asymmetry.LSI < reachEnough {
			out = append(out, Missing{Kind: NeedTest, Words: "reach of 90 % of the other side, after the old ankle injury", Test: screening.ReachForward, Least: reachEnough})
		}
	}
	switch g {
	case BarefootHome:
		for _, c := range e.Complaints {
			p := c.Pattern()
			if (p == screening.HeelFirstSteps || p == screening.AchillesLoad) && (c.FirstSteps == nil || *c.FirstSteps >= 4) {
				out = append(out, Missing{Kind: NeedCalm, Words: "first steps under 4 with a heel or Achilles complaint"})
				break
			}
		}
	case EndRange:
		if !e.Age.Known || e.Age.Years < body.OneLegAge {
			out = append(out, Missing{Kind: NeedAge, Words: fmt.Sprintf("%d or older", body.OneLegAge)})
		}
		if slices.Contains(e.Findings, "toe-joint-stiff") {
			out = append(out, Missing{Kind: NeedTest, Words: "a big-toe joint that is not stiff both ways"})
		}
	case Hop:
		if e.Age.Known && e.Age.Years < hopAge {
			out = append(out, Missing{Kind: NeedAge, Words: fmt.Sprintf("%d or older for one-legged hops", hopAge)})
		}
		if r, ok := e.newest(screening.SingleRaise); ok && r.Asymmetry.Known {
			even := r.Asymmetry.LSI != nil && *r.Asymmetry.LSI >= screening.SymmetryLimit
			if !even && math.Abs(r.Asymmetry.Difference) > 2 {
				out = append(out, Missing{Kind: NeedTest, Words: "raises within 10 % or 2 of each other", Test: screening.SingleRaise})
			}
		}
		if e.Unasked {
			out = append(out, Missing{Kind: NeedAnswer, Words: "every safety question answered"})
		}
	case CadenceChange:
		r, ok := e.newest(screening.CadenceTest)
		if !ok || r.Left.N < 3 || r.Left.Margin == nil || *r.Left.Margin > 3 {
			out = append(out, Missing{Kind: NeedTest, Words: "three counts with a margin of at most 3 spm", Test: screening.CadenceTest})
		}
	case BarefootWalk, MinShoeRun:
		if g == MinShoeRun && e.Barefoot == ShoesStay {
			out = append(out, Missing{Kind: NeedSchool, Words: "another school: this one keeps the running shoes"})
		}
		if e.Unasked {
			out = append(out, Missing{Kind: NeedAnswer, Words: "every safety question answered"})
		}
	}
	return out
}

func (e Evidence) newest(id screening.TestID) (screening.Result, bool) {
	for _, v := range e.Visits {
		for _, r := range v.Results {
			if r.Test == id && r.Left.Measured() && v.On <= e.On {
				return r, true
			}
		}
	}
	return screening.Result{}, false
}

// flagsAndWaivers lets a flag close a gate and a waiver open one: never against
// a flag, never for a minor or an unknown age, and not hop while walking hurts.
func (e Evidence) flagsAndWaivers(st *GateState) {
	for _, f := range e.Flags {
		if f.ClosesGate(st.Gate) {
			st.Open, st.State = false, "closed"
			if f.Flag == Open {
				st.lack(Missing{Kind: NeedAnswer, Words: "the safety questions about " + f.Zone.Name() + " answered"})
				continue
			}
			st.lack(Missing{Kind: NeedClearance, Words: "a clearance for " + f.Name()})
		}
	}
	if st.Open {
		st.State = "open"
		return
	}
	for _, w := range e.Waivers {
		if w.Gate == st.Gate && e.mayWaive(st.Gate) == "" {
			st.Open, st.State, st.Reason = true, "waived", w.Reason
		}
	}
}

// MayWaive returns why a gate can't be waived, empty when it can.
func MayWaive(e Evidence, g catalogue.Gate) string { return e.mayWaive(g) }

func (e Evidence) mayWaive(g catalogue.Gate) string {
	for _, f := range e.Flags {
		if f.ClosesGate(g) {
			return f.Name() + " closes it; only a clinician's clearance opens it"
		}
	}
	if !e.Age.Known || e.Age.Years < Adult {
		return "no waivers under 18, or while the age is not known"
	}
	if g == Hop {
		for _, id := range []screening.TestID{screening.BriskWalk, screening.HeelWalk, screening.ToeWalk} {
			if r, ok := e.newest(id); ok && (*r.Left.Value > 0 || (r.Right.Measured() && *r.Right.Value > 0)) {
				return "walking hurts; hop stays closed"
			}
		}
	}
	return ""
}

// IsOpen reports whether a gate stands open in the list; the empty gate is open,
// an unknown one closed.
func IsOpen(gates []GateState, g catalogue.Gate) bool {
	if g == "" {
		return true
	}
	return slices.ContainsFunc(gates, func(s GateState) bool { return s.Gate == g && s.Open })
}

// Find returns the state of a gate.
func Find(gates []GateState, g catalogue.Gate) (GateState, bool) {
	i := slices.IndexFunc(gates, func(s GateState) bool { return s.Gate == g })
	if i < 0 {
		return GateState{}, false
	}
	return gates[i], true
}

// worksOn are the ladders of the catalogue that bring a gate nearer.
var worksOn = map[catalogue.Gate][]string{
	BarefootHome: {"range-sole-pull", "calf-straight"}, BarefootWalk: {"exposure-home", "steer-arch"}, BarefootStrength: {"exposure-walk", "balance-stand"},
	SingleLegCalf: {"calf-straight"}, LoadedCalf: {"calf-straight"}, Hop: {"calf-straight", "calf-ball-hold", "balance-stand"},
	MinShoeRun: {"spring-pogo", "range-soleus", "range-toe"}, BarefootRun: {"exposure-run", "steer-split"},
}

// WorksOn returns the ladders that bring a gate nearer.
func WorksOn(g catalogue.Gate) []string { return worksOn[g] }

// Cautions are shown on every plan.
var Cautions = []string{
	"Notchback helps a coach plan. It does not diagnose and does not treat; local rules and licensed practice come first.",
	"Pain up to 3 is fine, 4–5 means go slower, 6 ends the exercise. Pain of 8, numbness or a limp ends the session: a clinician looks first. A pop, or any sign of “get care now”: get care now.",
	"Worse first steps the next morning mean less load, not more.",
}

// CleanTwoLeg reports whether a logged two-leg 3 × 15 proves the one-leg calf
// gate: done in full at pain 3 or less, with the next morning known and at most
// one over the usual first-step pain.
func CleanTwoLeg(pain *body.Pain, done *float64, nextMorning *body.Pain, baseline float64) bool {
	return pain != nil && *pain <= GatePain && done != nil && *done >= 1 && nextMorning != nil && float64(*nextMorning) <= baseline+body.QuietOver
}
