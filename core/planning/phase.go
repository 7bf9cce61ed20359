package planning

import (
	"slices"
	"strings"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/source"
)

// Phase is what a region of the foot or leg is ready for.
type Phase string

// The phases, the most cautious first.
const (
	Calm       Phase = "calm"
	Restore    Phase = "restore"
	Load       Phase = "load"
	Spring     Phase = "spring"
	Transition Phase = "transition"
	Maintain   Phase = "maintain"
)

var phases = []Phase{Calm, Restore, Load, Spring, Transition, Maintain}

func (p Phase) rank() int { return slices.Index(phases, p) }

// Region is a part of foot and leg that is planned for as one.
type Region string

// The regions: the four counted tissues, and the rest of the leg.
const (
	RegionSole     Region = Region(body.Sole)
	RegionCalf     Region = Region(body.Achilles)
	RegionForefoot Region = Region(body.Forefoot)
	RegionShin     Region = Region(body.Shin)
	RegionLeg      Region = "leg"
)

// Regions lists the regions in the order shown.
var Regions = []Region{RegionSole, RegionCalf, RegionForefoot, RegionShin, RegionLeg}

// Name returns the region in plain words.
func (r Region) Name() string {
	if r == RegionLeg {
		return "rest of the leg"
	}
	return body.Tissue(r).Name()
}

// Reading is one first-step reading.
type Reading struct {
	On   day.Date  `json:"on" format:"date"`
	Pain body.Pain `json:"pain" minimum:"0" maximum:"10"`
}

// Setback is a decision that sends a region back: row 2 or row 3 of the table.
type Setback struct {
	On      day.Date      `json:"on" format:"date"`
	Row     int           `json:"row" enum:"2,3"`
	Tissues []body.Tissue `json:"tissues" nullable:"false"`
}

// Numbers of the phases.
const (
	calmFirst               = 3                // first-step pain at or under it ends calm
	calmMornings            = body.FewMornings // on so many mornings running
	calmWalk                = 2.0
	quietDays               = 14
	quietPain     body.Pain = 5
	restoreWeeks            = 6
	setbackDays             = 14
	setbackTwice            = 2
	calmWorst     body.Pain = 6 // a complaint that reached it starts in calm
	controlEnough           = 2.0
	spreadEnough            = 2.0
	springBrace             = 2.0
)

var phaseSource = source.House("calm first, then range and control, then load; each way on needs readings, each way back happens at once")

// RegionPhase is the phase a region is in, and what leads on and back.
type RegionPhase struct {
	Region Region     `json:"region"`
	Name   string     `json:"name"`
	Phase  Phase      `json:"phase" enum:"calm,restore,load,spring,transition,maintain"`
	Why    string     `json:"why"`
	On     string     `json:"on" doc:"What leads on to the next phase"`
	Back   string     `json:"back" doc:"What leads back"`
	Source source.Tag `json:"source"`
}

// regionsOf returns the regions a ladder belongs to: those of the tissues it
// loads, or of the part it works on.
func regionsOf(l catalogue.Ladder) []Region {
	var out []Region
	for _, t := range l.Tissues {
		out = append(out, Region(t))
	}
	if len(out) > 0 || len(l.Notches) == 0 {
		return out
	}
	k := l.At(1).Kinds()
	on := func(parts ...string) bool {
		return slices.ContainsFunc(parts, func(p string) bool { return k[catalogue.On(p)] })
	}
	switch {
	case l.Purpose == catalogue.ForExposure || on("sole", "toes"):
		return []Region{RegionSole}
	case on("calf") || on("ankle") && l.Purpose == catalogue.ForRange:
		return []Region{RegionCalf}
	case on("shin", "front-ankle"):
		return []Region{RegionShin}
	}
	return []Region{RegionLeg}
}

// restOfLeg is how many tissues a place of ankle, knee, thigh or hip stands for: all.
const restOfLeg = 4

func (e Evidence) complaintsOf(r Region) []screening.Complaint {
	var out []screening.Complaint
	for _, c := range e.Complaints {
		own := c.Zone.Tissues()
		isLeg := len(own) == restOfLeg || c.Pattern() == screening.Kneecap || c.Pattern() == screening.AnkleUnsteady
		if r == RegionLeg && isLeg || r != RegionLeg && !isLeg && slices.Contains(own, body.Tissue(r)) {
			out = append(out, c)
		}
	}
	return out
}

// Phases returns the phase of every region on the evidence. What is missing
// never leads on.
func Phases(e Evidence) []RegionPhase {
	out := make([]RegionPhase, 0, len(Regions))
	for _, r := range Regions {
		out = append(out, e.phaseOf(r))
	}
	return out
}

func (e Evidence) phaseOf(r Region) RegionPhase {
	p := RegionPhase{Region: r, Name: r.Name(), Source: phaseSource}
	complaints := e.complaintsOf(r)
	back, twice, since := e.setbacks(r)
	set := func(ph Phase, why, on, backTo string) RegionPhase {
		p.Phase, p.Why, p.On, p.Back = ph, why, on, backTo
		return p
	}
	const onCalm = "first steps 3 or less on three mornings running and heel and toe walk at 2 or less; or 14 days without a reading over the usual, and pain at 5 or less"
	const backCalm = "a flare, or going back twice in 14 days: calm"
	calm, calmWhy := e.stillCalm(r, complaints, since)
	if calm {
		return set(Calm, calmWhy, onCalm, "")
	}
	if why, restoring := e.stillRestoring(r); restoring {
		return set(Restore, why, "each range worked on is ok, really changed, or given six weeks", backCalm)
	}
	if !safety.IsOpen(e.Gates, safety.Hop) {
		return set(Load, "range and pain allow loading", "the gate hop", backCalm)
	}
	if twice {
		return set(Load, "went back twice in 14 days", "14 days without going back", backCalm)
	}
	if back {
		return set(Restore, "a flare in the last 14 days", "14 days without a flare", backCalm)
	}
	if safety.IsOpen(e.Gates, safety.MinShoeRun) && e.Wish.runs() {
		return set(Transition, "the gate minimal-shoe running is open and the runner wants it", "the ramp", "a flare: restore; going back twice in 14 days: load")
	}
	if len(complaints) == 0 && len(e.worked()) == 0 {
		return set(Maintain, "nothing hurts and nothing limits", "", "a flare: restore; going back twice in 14 days: load")
	}
	return set(Spring, "the gate hop is open", "the gate minimal-shoe running, if the runner wants it", "a flare: restore; going back twice in 14 days: load")
}

// setbacks reports a flare and going back twice in the last 14 days, and the
// date of the newest that sends an unsteady region to calm.
func (e Evidence) setbacks(r Region) (flare, twice bool, since *day.Date) {
	var dates []day.Date // going back on both sides on one day is going back once
	for _, s := range e.Setbacks {
		if s.On > e.On || int(e.On-s.On) > setbackDays || r == RegionLeg || !slices.Contains(s.Tissues, body.Tissue(r)) {
			continue
		}
		if s.Row == 2 {
			flare = true
		} else if !slices.Contains(dates, s.On) {
			dates = append(dates, s.On)
		}
		if since == nil || s.On > *since {
			on := s.On
			since = &on
		}
	}
	twice = len(dates) >= setbackTwice
	if !flare && !twice {
		since = nil
	}
	return flare, twice, since
}

// stillCalm reports whether a region is in the calm phase: with a complaint
// whose height or mornings do not lead on, or after a setback before spring.
func (e Evidence) stillCalm(r Region, complaints []screening.Complaint, since *day.Date) (bool, string) {
	if len(complaints) == 0 && since == nil {
		return false, ""
	}
	if since != nil && safety.IsOpen(e.Gates, safety.Hop) {
		since = nil // from spring the way back is restore or load, not calm
		if len(complaints) == 0 {
			return false, ""
		}
	}
	if since == nil {
		high, known := body.Pain(0), true
		for _, c := range complaints {
			if c.FirstSteps == nil && c.Worst == nil && c.Now == nil {
				known = false
			}
			if c.FirstSteps != nil && *c.FirstSteps > calmFirst {
				high = max(high, *c.FirstSteps)
			}
			if w, ok := c.Height(); ok && w >= calmWorst {
				high = max(high, w)
			}
		}
		if known && high == 0 && e.walksQuiet() {
			return false, ""
		}
	}
	if e.calmMornings(r, since) && e.walksQuiet() || e.quietFortnight(r, since) {
		return false, ""
	}
	if since != nil {
		return true, "taken back on " + since.Words()
	}
	return true, "what hurts is not calm yet, or not known"
}

// walksQuiet reports heel and toe walk at 2 or less; unknown is not quiet.
func (e Evidence) walksQuiet() bool {
	for _, id := range []screening.TestID{screening.HeelWalk, screening.ToeWalk} {
		r := e.result(id)
		if r == nil {
			return false
		}
		for _, side := range body.Sides {
			if s := r.Side(side); !s.Measured() || *s.Value > calmWalk {
				return false
			}
		}
	}
	return true
}

// morningsOf are the first steps that count for a region: its own where they are
// told apart.
func (e Evidence) morningsOf(r Region) []Reading {
	if list, ok := e.ByRegion[r]; ok {
		return list
	}
	return e.Mornings
}

func (e Evidence) calmMornings(r Region, since *day.Date) bool {
	// Three running are reached until a morning is over it again.
	run, reached := 0, false
	last := day.Date(0)
	for _, m := range e.morningsOf(r) {
		if m.On > e.On || since != nil && m.On <= *since {
			continue
		}
		if m.Pain > calmFirst {
			run, reached = 0, false
			continue
		}
		if run > 0 && m.On != last+1 {
			run = 0
		}
		run++
		last = m.On
		reached = reached || run >= calmMornings
	}
	return reached && int(e.On-last) <= calmMornings
}

// quietFortnight reports 14 days, from the first reading on, without one over
// the usual + 1 and none over 5. Half of the mornings must be known (house).
func (e Evidence) quietFortnight(r Region, since *day.Date) bool {
	known := 0
	for _, m := range e.morningsOf(r) {
		if m.On > e.On || m.On <= e.On-quietDays || since != nil && m.On <= *since {
			continue
		}
		if float64(m.Pain) > e.Baseline+body.QuietOver || m.Pain > quietPain {
			return false
		}
		known++
	}
	return known >= quietDays/2 && (since == nil || int(e.On-*since) >= quietDays)
}

var rangeFindings = map[screening.Factor]Region{"ankle-stiff": RegionCalf, "sole-tight": RegionSole}

// stillRestoring reports whether a worked-on range still holds the region back:
// not ok, not changed beyond noise, not joint-limited, and worked on for less
// than six weeks.
func (e Evidence) stillRestoring(r Region) (string, bool) {
	if e.Since > 0 && int(e.On-e.Since) >= 7*restoreWeeks {
		return "", false
	}
	for _, f := range e.worked() {
		if rangeFindings[f.Factor] == r && f.Severity >= 2 && !slices.Contains(e.Improved, f.Factor) {
			return strings.ToLower(f.Name[:1]) + f.Name[1:] + ": still worked on", true
		}
	}
	return "", false
}

// worked returns the findings that are worked on.
func (e Evidence) worked() []screening.Finding {
	var out []screening.Finding
	for _, f := range e.Findings {
		if f.WorkedOn {
			out = append(out, f)
		}
	}
	return out
}

// phaseFor returns the most cautious phase of the regions a ladder belongs to.
func phaseFor(l catalogue.Ladder, all []RegionPhase) Phase {
	out := Maintain
	for _, r := range regionsOf(l) {
		for _, p := range all {
			if p.Region == r && p.Phase.rank() < out.rank() {
				out = p.Phase
			}
		}
	}
	return out
}
