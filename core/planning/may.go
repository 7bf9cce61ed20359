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

// PermissionState is whether something may be done.
type PermissionState string

// The states.
const (
	Open    PermissionState = "open"
	Limited PermissionState = "limited" // done only so
	Closed  PermissionState = "closed"
)

// Limit is how work that stays open is done.
type Limit struct {
	Words  string        `json:"words"`
	Flag   safety.FlagID `json:"flag,omitempty"`
	Third  bool          `json:"third,omitempty" doc:"A third less of it"`
	Source source.Tag    `json:"source"`
}

// Permission is the answer to "may this person do this today": open, limited to
// something, or closed, with every reason.
type Permission struct {
	State  PermissionState `json:"state" enum:"open,limited,closed"`
	Why    []Lock          `json:"why" nullable:"false"`
	Limits []Limit         `json:"limits" nullable:"false"`
}

// Closed reports whether it may not be done.
func (p Permission) Closed() bool { return p.State == Closed }

// By returns the locks of a kind.
func (p Permission) By(kind LockKind) []Lock {
	var out []Lock
	for _, k := range p.Why {
		if k.Kind == kind {
			out = append(out, k)
		}
	}
	return out
}

// Flare is a flare that stands: what loads its tissues on its side is closed. Quiet
// holds may go on at their first notch where it says so.
type Flare struct {
	Side    body.Side
	Tissues []body.Tissue
	Quiet   bool
	Since   day.Date
}

// flareFlag names a flare among the flags.
const flareFlag safety.FlagID = "F-FLARE"

func (f Flare) closes(l catalogue.Ladder, n catalogue.Notch, at int, side body.Side) bool {
	if side != body.Both && f.Side != body.Both && f.Side != side || !slices.ContainsFunc(f.Tissues, func(t body.Tissue) bool { return slices.Contains(n.Tissues, t) }) {
		return false
	}
	return !(f.Quiet && at == 1 && l.Purpose == catalogue.ForCalm && len(n.Tissues) > 0)
}

// May is the one answer to whether a notch of a ladder may be done on a side on
// the day of the evidence. It reads flags, gates, age, complaints and the phase of
// each region, all as they stand that day. Work on both legs counts for both. ps
// are the phases of that day; Phases gives them.
func (e Evidence) May(l catalogue.Ladder, at int, side body.Side, ps []RegionPhase) Permission {
	return e.MayAs(l, at, l.At(at).Kinds(), side, ps)
}

// MayAs is May of a notch whose kinds are known already.
func (e Evidence) MayAs(l catalogue.Ladder, at int, k catalogue.Kinds, side body.Side, ps []RegionPhase) Permission {
	p := e.Shut(l, at, k, side)
	e.today(&p, l, at, k, side, ps)
	return p.settled()
}

func (p *Permission) lock(at int, x Lock) {
	x.Notch = at
	if !x.Source.Valid() {
		x.Source = phaseSource
	}
	p.Why = append(p.Why, x)
}

func (p *Permission) limit(x Limit) {
	if !x.Source.Valid() {
		x.Source = source.Common()
	}
	if !slices.ContainsFunc(p.Limits, func(y Limit) bool { return y.Words == x.Words }) {
		p.Limits = append(p.Limits, x)
	}
}

func (p Permission) settled() Permission {
	switch {
	case len(p.Why) > 0:
		p.State = Closed
	case len(p.Limits) > 0:
		p.State = Limited
	}
	return p
}

// sideOf is the side that work counts for.
func sideOf(n catalogue.Notch, side body.Side) body.Side {
	if n.Together() {
		return body.Both
	}
	return side
}

// Shut is the part of May that moves a peg: flags, flares, gates and age. The
// evidence needs no more than these.
func (e Evidence) Shut(l catalogue.Ladder, at int, k catalogue.Kinds, side body.Side) Permission {
	n := l.At(at)
	p := Permission{State: Open, Why: []Lock{}, Limits: []Limit{}}
	side = sideOf(n, side)
	lock, limit := func(x Lock) { p.lock(at, x) }, p.limit
	for _, f := range e.Flags {
		if f.Closes(k, side) {
			if f.Flag == safety.Open {
				lock(Lock{Kind: LockQuestion, Flag: f.Flag, Words: flagWords(f), Source: safety.SevereSource})
				continue
			}
			lock(Lock{Kind: LockFlag, Flag: f.Flag, Own: f.OwnName(), Words: flagWords(f), Source: safety.SevereSource})
			continue
		}
		for _, w := range f.Limits(k, side) {
			limit(Limit{Words: w, Flag: f.Flag, Source: safety.SevereSource})
		}
	}
	for _, f := range e.Flares {
		if f.closes(l, n, at, side) {
			lock(Lock{Kind: LockFlag, Flag: flareFlag, Words: "a flare stands since " + f.Since.Words(), Source: safety.SevereSource})
		}
	}
	if n.Gate != "" && !safety.IsOpen(e.Gates, n.Gate) {
		lock(e.gateLock(n.Gate))
	}
	if words := e.minor(l, n, k); words != "" {
		lock(Lock{Kind: LockMinor, Words: words})
	}
	return p.settled()
}

// today adds what growth, complaints, phases and control say today.
func (e Evidence) today(p *Permission, l catalogue.Ladder, at int, k catalogue.Kinds, side body.Side, ps []RegionPhase) {
	n := l.At(at)
	side = sideOf(n, side)
	lock, limit := func(x Lock) { p.lock(at, x) }, p.limit
	if e.Growing && k[catalogue.WeightBearing] {
		limit(Limit{Words: "a third less: growing fast, or sore while young", Third: true, Source: phaseSource})
	}
	for _, r := range leftOut {
		if !r.when(e, side) {
			continue
		}
		if r.closes(n, k) {
			lock(Lock{Kind: LockComplaint, Words: r.words, Source: source.Common()})
		} else if r.limit != "" && r.limits != nil && r.limits(k) {
			limit(Limit{Words: r.limit})
		}
	}
	if words := e.phaseAllows(l, n, at, k, side, ps); words != "" {
		lock(Lock{Kind: LockPhase, Words: words})
	}
	if words := e.partAllows(l, side, ps); words != "" {
		lock(Lock{Kind: LockPhase, Words: words})
	}
	if words := e.controlAllows(l, k); words != "" {
		lock(Lock{Kind: LockControl, Words: words})
	}
	if g, ok := safety.Find(e.Gates, safety.BarefootStrength); ok && n.Gate == safety.BarefootStrength && g.Limit != "" {
		limit(Limit{Words: g.Limit, Source: g.Source})
	}
}

// flagWords say which flag closes it, in the words of its row.
func flagWords(f safety.Standing) string {
	if f.Flag == safety.Open {
		return f.Zone.Name() + " began to hurt and its safety questions are open"
	}
	return f.Name() + " closes it"
}

func (e Evidence) gateLock(gate catalogue.Gate) Lock {
	k := Lock{Kind: LockGate, Gate: gate, Words: "the gate " + strings.ReplaceAll(string(gate), "-", " ") + " is closed"}
	if g, ok := safety.Find(e.Gates, gate); ok {
		k.Words, k.Source = "the gate "+g.Name+" is closed", g.Source
		if len(g.Missing) > 0 {
			k.Words += ": needs " + strings.Join(g.Missing, "; ")
		}
	}
	return k
}

// minor says why a notch is not for a young runner; unknown age counts as grown
// up for load, the other rules of unknown age stand with the gates.
func (e Evidence) minor(l catalogue.Ladder, n catalogue.Notch, k catalogue.Kinds) string {
	age, known := e.Person.AgeOn(e.On)
	if !known || age >= minorLoadAge {
		return ""
	}
	switch {
	case age < balanceAge && l.Purpose != catalogue.ForBalance && l.Purpose != catalogue.ForSteer:
		return "under 12: games and balance only"
	case k[catalogue.Kind(catalogue.RM)]:
		return fmt.Sprintf("under %d: no loads to the limit", minorLoadAge)
	case k[catalogue.Kind(catalogue.FullEffort)]:
		return fmt.Sprintf("under %d: no full effort", minorLoadAge)
	case n.Dose.BodyPercent > minorLoadMost:
		return fmt.Sprintf("under %d: no added load above 10 %% of body weight", minorLoadAge)
	case k[catalogue.HopOneLeg]:
		return fmt.Sprintf("under %d: no hopping on one leg", minorLoadAge)
	}
	return ""
}

// --- what a complaint leaves out ---

type leftOutRule struct {
	when   func(e Evidence, side body.Side) bool
	words  string
	work   []catalogue.Selector
	over   func(n catalogue.Notch, k catalogue.Kinds) bool // closes by the dose
	limit  string
	limits func(k catalogue.Kinds) bool
}

func (r leftOutRule) closes(n catalogue.Notch, k catalogue.Kinds) bool {
	return slices.ContainsFunc(r.work, func(s catalogue.Selector) bool { return s.Matches(k) }) || r.over != nil && r.over(n, k)
}

func kinds(k ...catalogue.Kind) catalogue.Selector { return k }

// on keeps the complaints of a side; all for work on both.
func (e Evidence) on(side body.Side) []screening.Complaint {
	var out []screening.Complaint
	for _, c := range e.Complaints {
		if side == body.Both || side == "" || c.Side == "" || c.Side == body.Both || c.Side == side {
			out = append(out, c)
		}
	}
	return out
}

func (e Evidence) hurts(side body.Side, zones ...screening.Zone) bool {
	return slices.ContainsFunc(e.on(side), func(c screening.Complaint) bool { return slices.Contains(zones, c.Zone) })
}

// shinPain is the worst known pain of a shin complaint; 10 when it hurts and is
// not known.
func (e Evidence) shinPain(side body.Side) (body.Pain, bool) {
	worst, any := body.Pain(0), false
	for _, c := range e.on(side) {
		if c.Pattern() != screening.ShinLoad {
			continue
		}
		any = true
		if h, ok := c.Height(); ok {
			worst = max(worst, h)
		} else {
			worst = body.PainMax
		}
	}
	return worst, any
}

func (e Evidence) freshTwist(side body.Side) bool {
	if !slices.ContainsFunc(e.on(side), func(c screening.Complaint) bool {
		return c.Zone == "outer-ankle" && (c.SinceWeeks == nil || *c.SinceWeeks < freshTwistWeeks)
	}) {
		return false
	}
	r := e.result(screening.ReachForward)
	return r == nil || r.Asymmetry.LSI == nil || *r.Asymmetry.LSI < reachEnough
}

// soreSole is a place under the foot whose first steps hurt at 4 or more today,
// or are not known.
func (e Evidence) soreSole(side body.Side) bool {
	if s := e.School.Is(AskSoleRelease); s == SoleReleasePressHard || s == SoleReleaseThumb {
		return false
	}
	return slices.ContainsFunc(e.on(side), func(c screening.Complaint) bool {
		return (c.Zone == "heel" || c.Zone == "arch") && (c.FirstSteps == nil || *c.FirstSteps > calmFirst)
	})
}

// bandMost is the band dose that a sore shin or a fresh twist leaves.
const bandMost = 10

func bandsOver(n catalogue.Notch, k catalogue.Kinds) bool {
	return k[catalogue.Kind(catalogue.Bands)] && (n.Dose.Sets*n.Dose.Reps > bandMost || n.Dose.Band > 1)
}

var leftOut = []leftOutRule{
	{when: func(e Evidence, s body.Side) bool { return e.hurts(s, "achilles-low") }, words: "the Achilles hurts at the heel bone: nothing below level, no end-range stretch",
		work:  []catalogue.Selector{kinds("below-level"), kinds("from-step"), kinds("toes-up"), kinds("range", "end-range", "on-calf")},
		limit: "on the flat, with the usual heel drop of the shoe", limits: func(k catalogue.Kinds) bool { return k[catalogue.CalfWork] && k[catalogue.Standing] }},
	{when: func(e Evidence, s body.Side) bool {
		return e.hurts(s, "big-toe", "ball") || e.found("toe-joint-stiff")
	}, words: "the big-toe joint or the ball of the foot is sore or stiff: no tucked toes",
		work: []catalogue.Selector{kinds("toes-tucked"), kinds("range", "on-toes"), kinds("toes-up"), kinds("strength", "on-sole", "loads-forefoot-bone")}},
	{when: func(e Evidence, s body.Side) bool { return e.hurts(s, "kneecap") }, words: "the front of the knee hurts: knee bend stays at 60° or less",
		work: []catalogue.Selector{kinds("deep-knee")}, limit: "knee bend stays at 60° or less", limits: func(k catalogue.Kinds) bool { return k["knee-over-60"] || k["whole-leg"] && k[catalogue.Standing] }},
	{when: Evidence.freshTwist, words: "a fresh ankle twist, until reach is 90 % of the other side",
		work: []catalogue.Selector{kinds("edge-walk"), kinds("spring")}, over: func(n catalogue.Notch, k catalogue.Kinds) bool { return k["on-ankle"] && bandsOver(n, k) },
		limit: "half range, the lightest band", limits: func(k catalogue.Kinds) bool { return k["on-ankle"] && k["bands"] }},
	{when: func(e Evidence, s body.Side) bool { p, ok := e.shinPain(s); return ok && p >= shinHigh }, words: "the shin hurts 4 or more: release, ankle rocks and two-leg raises only",
		work: []catalogue.Selector{kinds("loads-front-shin"), kinds("bands"), kinds("spring"), kinds("strength", "not on-calf"), kinds("strength", "one-leg"), kinds("strength", "added-load"), kinds("strength", "seated"), kinds("strength", "walking"), kinds("strength", "knee-over-60")}},
	{when: func(e Evidence, s body.Side) bool { p, ok := e.shinPain(s); return ok && p >= shinSome && p < shinHigh }, words: "the shin hurts a little: bands 1 × 10 only",
		work: []catalogue.Selector{kinds("spring"), kinds("shin-raise"), kinds("loads-front-shin", "walking", "strength")}, over: bandsOver},
	{when: Evidence.soreSole, words: "first steps hurt 4 or more: nothing presses on the sole", work: []catalogue.Selector{kinds("release", "pressing"), kinds("exposure", "pressing")}},
}

// --- phases ---

// painHeight is the worst first-step or in-test pain of the regions a ladder
// belongs to, as it is today: what "the notch that pain allows" looks at.
func (e Evidence) painHeight(l catalogue.Ladder, side body.Side) (body.Pain, bool) {
	worst, any := body.Pain(0), false
	for _, r := range regionsOf(l) {
		for _, c := range e.complaintsOf(r) {
			if side != body.Both && c.Side != "" && c.Side != side {
				continue
			}
			any = true
			if c.FirstSteps != nil {
				worst = max(worst, *c.FirstSteps)
			}
			if c.Now != nil {
				worst = max(worst, *c.Now)
			}
			if c.FirstSteps == nil && c.Now == nil {
				if h, ok := c.Height(); ok {
					worst = max(worst, h)
				} else {
					worst = body.PainMax
				}
			}
		}
	}
	return worst, any
}

// phaseAllows says why a notch waits for a later phase.
func (e Evidence) phaseAllows(l catalogue.Ladder, n catalogue.Notch, at int, k catalogue.Kinds, side body.Side, ps []RegionPhase) string {
	phase := phaseFor(l, ps)
	calf := k[catalogue.CalfWork] && l.Purpose == catalogue.ForStrength && k[catalogue.On("calf")] && !k[catalogue.Walking]
	if slices.Contains(e.Added, l.ID) && phase != Calm && !calf {
		return "" // a coach put it in; only calm still holds it back
	}
	if calf && e.heelOrArch(side) {
		for _, r := range ps { // what hurts under the foot is loaded by the calf
			if r.Region == RegionSole && r.Phase.rank() < phase.rank() {
				phase = r.Phase
			}
		}
	}
	pain, hurts := e.painHeight(l, side)
	earliest := e.School.Is(AskStrengthPain) == StrengthPainToFive && e.School.Is(AskSoleTreatment) == SoleTreatmentLoadEarly
	simple := n.Together() && k[catalogue.Standing] && !k[catalogue.AddedLoad] && !k["below-level"]
	switch {
	case calf && hurts && pain > quietPain:
		return "pain over 5: calf work waits"
	case calf && phase == Calm && !earliest:
		return "the school waits until it is calm"
	case calf && phase == Calm && simple && (!k["toes-up"] || at == 1):
		return ""
	case calf && phase == Calm:
		return "calm phase: two legs only"
	case calf && phase == Restore && (!n.Together() || k[catalogue.AddedLoad] || k["below-level"]):
		return "restore phase: two legs, without added load"
	case calf:
		return ""
	}
	switch l.Purpose {
	case catalogue.ForCalm, catalogue.ForRelease, catalogue.ForForm, catalogue.ForReturn:
		return ""
	case catalogue.ForRange:
		if phase == Calm && (k["end-range"] && at > 1 || n.Exercise.Timing == "evening") {
			return "calm phase: gentle range only"
		}
	case catalogue.ForSteer:
		if phase == Calm && !k[catalogue.Seated] {
			return "calm phase: seated control only"
		}
	case catalogue.ForBalance:
		if phase == Calm {
			return "calm phase: balance waits"
		}
	case catalogue.ForStrength, catalogue.ForWholeLeg:
		if phase.rank() < Load.rank() {
			return string(phase) + " phase: strength waits for the load phase"
		}
	case catalogue.ForSpring:
		for _, r := range ps {
			if slices.Contains(regionsOf(l), r.Region) && r.Phase.rank() < Spring.rank() {
				return "spring waits for the spring phase"
			}
		}
		if b, ok := e.value("foot-brace"); ok && b < springBrace {
			return "the foot brace must come on command before bouncing"
		}
	case catalogue.ForExposure:
		if phase.rank() < Restore.rank() {
			return "calm phase: bare feet wait"
		}
	}
	return ""
}

// partAllows says why a part of a routine waits: what it loads is still calm, or a
// place of foot or lower leg hurts more than the part bears.
func (e Evidence) partAllows(l catalogue.Ladder, side body.Side, ps []RegionPhase) string {
	p := l.Part
	if p == nil {
		return ""
	}
	if p.Settled && (phaseFor(l, ps) == Calm || e.heelOrArch(side) && phaseOf(RegionSole, ps) == Calm) {
		return "waits until it is calm"
	}
	if p.Sore == nil {
		return ""
	}
	for _, c := range e.on(side) {
		if len(c.Zone.Tissues()) == restOfLeg {
			continue
		}
		if h, known := c.Height(); !known || h > *p.Sore {
			return fmt.Sprintf("only at %d or less", *p.Sore)
		}
	}
	return ""
}

func phaseOf(r Region, ps []RegionPhase) Phase {
	for _, p := range ps {
		if p.Region == r {
			return p.Phase
		}
	}
	return Calm // not known: the cautious reading
}

// heelOrArch reports a complaint under the heel or in the arch.
func (e Evidence) heelOrArch(side body.Side) bool { return e.hurts(side, "heel", "arch") }

// controlAllows says why poor control of the toes holds back curling, foot
// strength and bare feet.
func (e Evidence) controlAllows(l catalogue.Ladder, k catalogue.Kinds) string {
	if k["curling"] && l.Purpose == catalogue.ForStrength && e.found("claw-tendency") && e.School.Is(AskBentToes) == BentToesSpreadFirst {
		if v, ok := e.value("toe-spread"); !ok || v < spreadEnough {
			return "clawing toes: curling waits until the spread is 2 or better"
		}
	}
	foot := l.Purpose == catalogue.ForStrength && (k[catalogue.On("sole")] || k[catalogue.On("toes")] || k[catalogue.Walking])
	bare := l.Purpose == catalogue.ForExposure && (len(l.Notches) == 0 || l.At(1).Gate != safety.BarefootHome && !k[catalogue.Kind(catalogue.Pressing)])
	if !foot && !bare {
		return ""
	}
	control, ok := 9.0, true
	for _, id := range []screening.TestID{screening.ToeBig, screening.ToeSmall} {
		v, known := e.value(id)
		ok = ok && known
		control = min(control, v)
	}
	if ok && control < controlEnough && e.School.Is(AskToeWork) != ToeWorkCurl {
		return "toe control comes first"
	}
	return ""
}

// TakesThird returns a dose cut by a third, a single set rounded down.
func TakesThird(d catalogue.Dose) catalogue.Dose { return Deload(d) }
