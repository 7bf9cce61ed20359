package planning

import (
	"fmt"
	"slices"

	"notchback/core/catalogue"
	"notchback/core/safety"
	"notchback/core/screening"
)

// work puts in what works on a finding: one release, one range ladder with the
// control that follows it or one control ladder, and one ladder of strength – quiet
// work while its region is calm.
func (h *chooser) work(f screening.Finding, r remedy) {
	first := string(f.Factor) == "symptom-"+string(screening.HeelFirstSteps)
	treatment := h.e.School.Is(AskSoleTreatment)
	calm := h.calm(r)
	h.along(r.Release, RoleRelease, f.Name)
	if first && treatment == SoleTreatmentCalmFirst {
		h.take([]string{"calm-cool"}, RoleEase, f.Name)
	}
	switch {
	case len(r.Lengthen) > 0 && h.along(r.Lengthen, RoleWork, f.Name):
		h.follow(r, f.Name)
	default:
		h.along(r.Steer, RoleWork, f.Name)
	}
	strength := slices.Concat(r.Strengthen, r.Integrate)
	if calm && len(r.Calm) > 0 {
		strength = r.Calm
	}
	if first {
		switch treatment {
		case SoleTreatmentCalmFirst:
			strength = path{{"calm-iso"}}
		case SoleTreatmentStretchFirst:
			strength = without(strength, "calf-toeup")
		}
	}
	if string(f.Factor) == "toe-control-gap" && h.e.School.Is(AskToeWork) != ToeWorkCurl {
		strength = without(strength, "foot-curl") // long toes first; curling is a stage of its own then
		if h.e.School.Is(AskToeWork) == ToeWorkBoth {
			strength = slices.Insert(strength, min(1, len(strength)), []string{"foot-curl"})
		}
	}
	h.along(strength, RoleStrength, f.Name)
	if calm {
		h.spare(r.Ease, RoleEase, f.Name)
	}
}

// calm reports whether the region a finding is worked on in is in the calm phase.
func (h *chooser) calm(r remedy) bool {
	for _, ways := range slices.Concat(r.Strengthen, r.Steer) {
		for _, id := range ways {
			if l, ok := h.c.Ladder(id); ok {
				p := phaseFor(l, h.ps)
				if len(l.Tissues) > 0 && h.e.heelOrArch("") && l.Purpose == catalogue.ForStrength {
					if s := phaseOf(RegionSole, h.ps); s.rank() < p.rank() {
						p = s // what hurts under the foot is loaded by the calf
					}
				}
				return p == Calm
			}
		}
	}
	return false
}

func without(p path, ladder string) path {
	var out path
	for _, ways := range p {
		if w := slices.DeleteFunc(slices.Clone(ways), func(s string) bool { return s == ladder }); len(w) > 0 {
			out = append(out, w)
		}
	}
	return out
}

// ways fills in what a school decides and leaves the rest.
func (h *chooser) ways(ids []string) []string {
	out := []string{}
	for _, id := range ids {
		switch id {
		case "$tendon":
			if h.e.School.Is(AskHowOften) == HowOftenDailySmall {
				out = append(out, "calf-lowering", "calf-lowering-bent")
			} else {
				out = append(out, "calf-heavy-slow", "calf-lowering")
			}
			continue
		case "$sole":
		default:
			out = append(out, id)
			continue
		}
		first, known := h.soleFirst()
		switch school := h.e.School.Is(AskSoleRelease); {
		case school == SoleReleasePressHard:
			out = append(out, "release-sole", "release-outer-rest")
		case school == SoleReleaseThumb:
			out = append(out, "release-thumb")
		case school == SoleReleaseNoGrind, known && first > calmFirst:
			out = append(out, "release-outer-rest", "release-calf")
		default:
			out = append(out, "release-sole", "release-outer-rest")
		}
	}
	return out
}

// doneWith reports a ladder that stands at its top: the next stage of its path may
// follow.
func (h *chooser) doneWith(id string) bool {
	l, ok := h.c.Ladder(id)
	if !ok {
		return false
	}
	n, standing := h.e.Standing[id]
	if !standing {
		n = h.e.Proven[id]
	}
	return n >= l.Len() || slices.Contains(h.e.Followed, id)
}

// along takes the stage of a path that stands: the first that isn't done with and is
// open. Where nothing further is open, the last that was done goes on, so that a path
// never ends in nothing.
func (h *chooser) along(p path, role Role, for_ string) bool {
	var kept []string
	for i, raw := range p {
		ways := h.ways(raw)
		if slices.ContainsFunc(ways, h.doneWith) {
			kept = ways
			continue
		}
		if h.take(ways, role, for_) {
			h.then(ways, p[i+1:])
			return true
		}
	}
	return len(kept) > 0 && h.take(kept, role, for_)
}

// then names what follows a stage.
func (h *chooser) then(ways []string, rest path) {
	i := slices.IndexFunc(h.chosen, func(c Choice) bool { return slices.Contains(ways, c.Ladder) })
	if i < 0 {
		return
	}
	for _, raw := range rest {
		for _, id := range h.ways(raw) {
			if l, ok := h.c.Ladder(id); ok {
				if !slices.Contains(h.chosen[i].Then, l.Name) {
					h.chosen[i].Then = append(h.chosen[i].Then, l.Name)
				}
				break
			}
		}
	}
}

// follow puts the control ladder after a range ladder, in the same session: what is
// won is used at once.
func (h *chooser) follow(r remedy, for_ string) {
	if len(r.Steer) == 0 {
		return
	}
	n := len(h.chosen)
	if h.along(r.Steer, RoleControl, for_) && len(h.chosen) > n {
		h.chosen[n].After = h.chosen[n-1].Ladder
		h.chosen[n].Spare = true
	}
}

// ChooseSmall picks the five-minute plan: a release, the calf or ankle, one control
// drill, each at a notch that fits the five minutes.
func ChooseSmall(c catalogue.Catalogue, e Evidence) ([]Choice, []Left, []RegionPhase) {
	h := chooser{c: c, e: e, ps: Phases(e), leftFor: map[string]bool{}}
	for _, m := range Minimum(c, e, h.ps) {
		l, _ := c.Ladder(m.Ladder)
		top, locks := Ceiling(c, l, e, h.ps)
		h.put(l, RoleBase, "five minutes a day", top, locks, "")
		ch := &h.chosen[len(h.chosen)-1]
		ch.Start.Notch, ch.Place = m.Notch, catalogue.PlaceMicro
	}
	return h.chosen, h.left, h.ps
}

// spare takes what helps and goes first when the week has no room.
func (h *chooser) spare(p path, role Role, for_ string) {
	n := len(h.chosen)
	if h.along(p, role, for_) && len(h.chosen) > n {
		h.chosen[n].Spare = true
	}
}

// gateWork is what works towards a gate that is closed. house: the tests of each gate,
// and what raises them.
var gateWork = map[catalogue.Gate]path{
	safety.SingleLegCalf:    {{"calf-straight", "calm-iso"}},
	safety.LoadedCalf:       {{"calf-straight", "calm-iso"}},
	safety.Hop:              {{"calf-straight"}, {"calf-ball-hold"}, {"spring-pogo"}},
	safety.EndRange:         {{"range-toe"}},
	safety.BarefootWalk:     {{"steer-arch"}, {"exposure-home"}},
	safety.BarefootStrength: {{"steer-arch"}, {"leg-squat"}, {"exposure-strength"}},
	safety.MinShoeRun:       {{"range-ankle"}, {"calf-straight"}, {"exposure-drill"}},
	safety.BarefootRun:      {{"spring-pogo"}, {"foot-hover"}, {"exposure-run"}},
}

// goalGates are the gates a wish waits for, the first first.
func goalGates(w Wish) []catalogue.Gate {
	switch w {
	case WishHome:
		return []catalogue.Gate{safety.BarefootHome}
	case WishWalk:
		return []catalogue.Gate{safety.BarefootWalk, safety.BarefootStrength}
	case WishMinimal:
		return []catalogue.Gate{safety.BarefootWalk, safety.SingleLegCalf, safety.LoadedCalf, safety.Hop, safety.MinShoeRun}
	case WishBare:
		return []catalogue.Gate{safety.BarefootWalk, safety.SingleLegCalf, safety.LoadedCalf, safety.Hop, safety.MinShoeRun, safety.BarefootRun}
	}
	return nil
}

// gates puts in what works towards the first closed gate that the wish waits for.
func (h *chooser) gates() {
	for _, g := range goalGates(h.e.Wish) {
		if safety.IsOpen(h.e.Gates, g) {
			continue
		}
		name := "the gate " + gateName(h.e.Gates, g)
		for _, ways := range gateWork[g] {
			if h.take(h.ways(ways), RoleGoal, name) {
				return
			}
		}
	}
}

func gateName(list []safety.GateState, g catalogue.Gate) string {
	if s, ok := safety.Find(list, g); ok && s.Name != "" {
		return s.Name
	}
	return string(g)
}

// riseFrom is by how much the planned kilometres lie over the mean of four weeks when
// they count as rising (house: under a rounding nobody plans).
const riseFrom = 1.03

// season puts in what the time of the year asks: tendon holds while kilometres rise,
// and the other calf muscle where the calf may be worked on one leg.
func (h *chooser) season() {
	if h.rising() {
		h.spare(path{{"calf-split-hold"}}, RoleBase, "kilometres rise")
	}
	straight, bent := h.has("calf-straight"), max(h.has("calf-bent"), h.has("calf-bent-floor"))
	if !safety.IsOpen(h.e.Gates, safety.SingleLegCalf) {
		return
	}
	switch {
	case straight >= 0 && bent < 0:
		h.spare(path{{"calf-bent", "calf-bent-floor"}}, RoleBase, "the deep calf, which a straight knee leaves out")
	case bent >= 0 && straight < 0:
		h.spare(path{{"calf-straight"}}, RoleBase, "the upper calf, which a bent knee leaves out")
	}
}

func (h *chooser) rising() bool {
	if len(h.e.FourWeeks) == 0 || h.e.PlannedMetres == 0 {
		return false
	}
	mean := 0
	for _, m := range h.e.FourWeeks {
		mean += m
	}
	mean /= len(h.e.FourWeeks)
	return mean > 0 && float64(h.e.PlannedMetres) > riseFrom*float64(mean)
}

// shorten keeps releases at the length they start with where the week has no room for
// the longer ones; it reports whether one could get longer.
func (p *Proposal) shorten() bool {
	any := false
	for i := range p.Choices {
		c := &p.Choices[i]
		if c.ladder.Purpose != catalogue.ForRelease || c.Place == catalogue.PlaceEvening || c.Ceiling <= c.Start.Notch {
			continue
		}
		any = true
		c.Ceiling = c.Start.Notch
		c.Locks = []Lock{{Kind: LockRoom, Notch: c.Start.Notch + 1, Words: "the week has no room for a longer one", Source: phaseSource}}
		p.ByLadder[c.Ladder] = *c
	}
	return any
}

// dropOrder is what goes first when the week has no room.
var dropOrder = []Role{RoleEase, RoleBase, RoleControl}

// drop takes the spare choice that helps least out, for want of room, and says so.
func (p *Proposal) drop() bool {
	at, best := -1, len(dropOrder)
	for i, c := range p.Choices {
		if r := slices.Index(dropOrder, c.Role); c.Spare && r >= 0 && r <= best {
			at, best = i, r
		}
	}
	if i := at; i >= 0 {
		c := p.Choices[i]
		p.Choices = slices.Delete(p.Choices, i, i+1)
		delete(p.ByLadder, c.Ladder)
		p.Left = append(p.Left, Left{c.Ladder, c.Name, c.For[0], noRoom(c), true})
		return true
	}
	return false
}

// noRoom says of what was dropped how much more time brings it.
func noRoom(ch Choice) string {
	return fmt.Sprintf("no room in the week; %d minutes more on its days bring it", int(item(ch, 3).Seconds/60)+1)
}
