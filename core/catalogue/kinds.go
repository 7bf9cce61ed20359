package catalogue

import (
	"fmt"
	"slices"
	"strings"

	"notchback/core/body"
)

// Kind is a kind of work that safety rules speak of: a purpose, a position, the
// part it acts on, a trait, a tissue it loads, or one that follows from these.
// Rules name kinds, never single ladders or exercises.
type Kind string

// Kinds that follow from position, sides, dose and tissues.
const (
	Any           Kind = "any"            // all work
	Standing      Kind = "standing"       // upright on the floor, walking and running included
	Seated        Kind = "seated"         // seated or lying, nothing carried by the feet
	OnFloor       Kind = "on-floor"       // a foot or a toe carries weight on the floor
	WeightBearing Kind = "weight-bearing" // load goes through foot or leg, seated strength too
	OneLeg        Kind = "one-leg"        // done on one leg at a time
	AddedLoad     Kind = "added-load"     // a weight beside the body's own
	HeavySeat     Kind = "heavy-seat"     // 75 % of body weight or more on the thighs
	RunningWork   Kind = "running"        // runs, strides, drills in the run, run and walk
	Walking       Kind = "walking"
	Hopping       Kind = "hopping"     // bounces of any kind
	HopOneLeg     Kind = "hop-one-leg" // bounces on one leg, in turn too
	CalfWork      Kind = "calf-work"   // calm holds, strength and spring that load calf and Achilles
)

// Parts are where an exercise acts.
var Parts = []string{"sole", "toes", "ankle", "front-ankle", "calf", "shin", "thigh-hip", "whole-leg", "whole-body"}

// On is the kind of work on a part.
func On(part string) Kind { return Kind("on-" + part) }

// Loads is the kind of work that loads a tissue.
func Loads(t body.Tissue) Kind { return Kind("loads-" + string(t)) }

// Kinds are all kinds a notch is of.
type Kinds map[Kind]bool

// Sorted lists them by name.
func (k Kinds) Sorted() []Kind {
	out := make([]Kind, 0, len(k))
	for x := range k {
		out = append(out, x)
	}
	slices.Sort(out)
	return out
}

// Selector is work that is of every one of its kinds; a kind written with "not "
// before it must be missing.
type Selector []Kind

const not = "not "

// Matches reports whether the work is what the selector names.
func (s Selector) Matches(k Kinds) bool {
	for _, x := range s {
		if name, without := strings.CutPrefix(string(x), not); without {
			if k[Kind(name)] {
				return false
			}
		} else if !k[x] {
			return false
		}
	}
	return len(s) > 0
}

// Check says which kinds of a selector nobody knows.
func (s Selector) Check() error {
	known := known()
	for _, x := range s {
		if name := Kind(strings.TrimPrefix(string(x), not)); !known[name] {
			return fmt.Errorf("kind of work %q is not known", name)
		}
	}
	if len(s) == 0 {
		return fmt.Errorf("a selector without a kind")
	}
	return nil
}

func known() map[Kind]bool {
	out := map[Kind]bool{}
	for _, k := range []Kind{Any, Standing, Seated, OnFloor, WeightBearing, OneLeg, AddedLoad, HeavySeat, RunningWork, Walking, Hopping, HopOneLeg, CalfWork} {
		out[k] = true
	}
	for _, p := range Purposes {
		out[Kind(p)] = true
	}
	for _, p := range Parts {
		out[On(p)] = true
	}
	for _, t := range traits {
		out[Kind(t)] = true
	}
	for _, t := range tissueOrder {
		out[Loads(t)] = true
	}
	return out
}

var tissueOrder = []body.Tissue{body.Achilles, body.Sole, body.Forefoot, body.Shin}

// standingFrom are the positions in which a foot stands on the floor.
var standingFrom = []string{"stand", "squat", "split", "wall", "walk", "run", "hop", "bounc", "lunge"}

// seatedFrom are those in which it carries nothing.
var seatedFrom = []string{"seat", "sit", "lying", "lie", "supine", "prone", "hands and knees", "all fours"}

func anyOf(position string, words []string) bool {
	return slices.ContainsFunc(words, func(w string) bool { return strings.Contains(position, w) })
}

// Kinds tells of what kinds a notch is. Of a practice's own exercise that does
// not say how it is done, the more demanding reading counts.
func (n Notch) Kinds() Kinds {
	e := n.Exercise
	k := Kinds{Any: true, Kind(e.Purpose): true}
	for _, t := range e.Traits {
		k[Kind(t)] = true
	}
	for _, t := range n.Tissues {
		k[Loads(t)] = true
	}
	for _, p := range n.parts() {
		k[On(p)] = true
	}
	position := strings.ToLower(e.Position)
	walks, runs := strings.Contains(position, "walk"), strings.Contains(position, "run")
	stands := anyOf(position, standingFrom)
	sits := !stands && anyOf(position, seatedFrom)
	kneels := strings.Contains(position, "kneel")
	if !stands && !sits && !kneels {
		stands = true // not said: on the feet
	}
	loads := len(n.Tissues) > 0
	set := func(x Kind, on bool) {
		if on {
			k[x] = true
		}
	}
	set(Standing, stands)
	set(Seated, sits)
	set(Walking, walks)
	set(RunningWork, runs || e.Purpose == ForForm || e.Purpose == ForReturn)
	set(OnFloor, stands || kneels || k[Kind(ToesTucked)])
	strength := e.Purpose == ForStrength || e.Purpose == ForWholeLeg || e.Purpose == ForSpring
	set(WeightBearing, k[OnFloor] || strength || loads)
	set(AddedLoad, n.Dose.BodyPercent > 0 || n.Dose.RM > 0 || k[Kind(RM)])
	set(Kind(RM), n.Dose.RM > 0)
	set(HeavySeat, sits && n.Dose.BodyPercent >= heavySeat)
	one := e.Sides == "each"
	set(OneLeg, one && !walks && !runs && (stands || strength || loads) && !slices.Contains([]Purpose{ForRelease, ForRange, ForExposure}, e.Purpose))
	calf := slices.Contains(n.Tissues, body.Achilles)
	set(CalfWork, calf && (strength || e.Purpose == ForCalm))
	set(Hopping, e.Purpose == ForSpring)
	set(HopOneLeg, e.Purpose == ForSpring && (one || k[Kind(InTurn)]))
	if e.Own && len(e.Traits) == 0 && e.Part == "" {
		set(Kind(HeelsUp), stands && calf)
		set(Kind(HardRelease), e.Purpose == ForRelease || e.Purpose == ForExposure && slices.Contains(e.Equipment, "ball"))
		set(Kind(Pressing), e.Purpose == ForRelease)
		set(Kind(Cold), e.Purpose == ForCalm && !loads || slices.Contains(e.Equipment, "bottle") || slices.Contains(e.Equipment, "cool-pack"))
		set(Kind(EndRange), e.Purpose == ForRange)
		set(Kind(Unsupported), (e.Purpose == ForBalance || e.Purpose == ForWholeLeg) && one)
		set(HopOneLeg, e.Purpose == ForSpring)
		set(Kind(DeepKnee), e.Purpose == ForWholeLeg && stands)
		tucked := e.Purpose == ForRange && (kneels || strings.Contains(position, "hands and knees") || strings.Contains(position, "all fours"))
		set(Kind(ToesTucked), tucked)
		set(OnFloor, tucked)
		set(WeightBearing, tucked)
		sole := slices.Contains(n.Tissues, body.Sole)
		set(Kind(BareFoot), e.Purpose == ForExposure || e.Purpose == ForSteer && stands || tucked || sole && stands && strength || walks && strength && !calf)
		set(Kind(FromStep), calf && one && stands && slices.Contains(e.Equipment, "step"))
		set(Kind(ShinRaise), slices.Contains(n.Tissues, body.Shin) && stands && strength)
		set(Kind(Curling), e.Purpose == ForStrength && sits && len(n.Tissues) == 0)
		set(Kind(FullEffort), e.Purpose == ForRange && loads)
		set(Kind(BreathHeld), e.Purpose == ForRange && loads || n.Dose.RM > 0)
		set(Kind(KneeOver60), e.Purpose == ForWholeLeg && stands)
		set(Kind(EyesClosed), e.Purpose == ForBalance && one)
	}
	return k
}

// heavySeat: from so much of body weight on the thigh a seated raise counts as
// loaded.
const heavySeat = 75.0

// parts are where the exercise acts; an own one that does not say acts on what
// it loads, or anywhere.
func (n Notch) parts() []string {
	e := n.Exercise
	if e.Part != "" {
		return []string{e.Part}
	}
	if !e.Own {
		return nil
	}
	var out []string
	for _, t := range n.Tissues {
		switch t {
		case body.Achilles:
			out = append(out, "calf", "ankle")
		case body.Shin:
			out = append(out, "shin")
		default:
			out = append(out, "sole", "toes")
		}
	}
	if len(out) == 0 && (e.Purpose == ForRelease || e.Purpose == ForRange || e.Purpose == ForStrength) {
		return Parts
	}
	return out
}

// The gates that work asks for by what it is.
const (
	gateSingle Gate = "single-leg-calf"
	gateLoaded Gate = "loaded-calf"
	gateHop    Gate = "hop"
)

// gateRank orders the gates of the calf: a higher one asks for more.
var gateRank = map[Gate]int{"": 0, gateSingle: 1, gateLoaded: 2, gateHop: 3}

// freeBounce: free bounces on two legs of so long a set or more wait for hop.
const freeBounce = 30

// NeedsGate is the gate that a notch's work asks for, beside the one its ladder
// names: one-leg calf work, loaded calf work, hopping. Quiet holds need none.
func (n Notch) NeedsGate() Gate {
	k := n.Kinds()
	switch {
	case k["spring"]:
		switch {
		case k[HopOneLeg]:
			return gateHop
		case k[Kind(HeelsKiss)]:
			return ""
		case !k[Kind(Supported)] && (n.Dose.HoldSeconds >= freeBounce || n.Dose.Contacts > 0 || n.Dose.Reps > 0):
			return gateHop
		}
		return gateLoaded
	case !k[CalfWork] || k["calm"] || k[Walking]:
		return ""
	case k[Kind(RM)] || k[HeavySeat]:
		return gateLoaded
	case k[Standing] && n.Dose.BodyPercent >= standingLoad:
		return gateLoaded
	case k[OneLeg] && k[Kind(FromStep)] || k[OneLeg] && k[Kind(BelowLevel)]:
		return gateLoaded
	case k[OneLeg] || k[Kind(FromStep)] || k[Kind(BelowLevel)]:
		return gateSingle
	}
	return ""
}

// Gated returns the notch with the gate its work asks for, where that asks for more
// than the one it names.
func (n Notch) Gated() Notch {
	n.Gate = stricter(n.Gate, n.NeedsGate())
	return n
}

// standingLoad: from so much of body weight standing calf work counts as loaded.
const standingLoad = 5.0

// stricter returns the gate that asks for more. A gate outside the calf's chain
// stands.
func stricter(a, b Gate) Gate {
	if _, chain := gateRank[a]; !chain {
		return a
	}
	if gateRank[b] > gateRank[a] {
		return b
	}
	return a
}

// Refresh returns a ladder as it was prescribed with what safety looks for as the
// catalogue says it now, and with the gates its work asks for: older plans are held
// to them too.
func (c Catalogue) Refresh(l Ladder) Ladder {
	l.Notches = slices.Clone(l.Notches)
	for i := range l.Notches {
		n := &l.Notches[i]
		if e, ok := c.exercise(n.Exercise.ID); ok {
			n.Exercise.Part, n.Exercise.Position, n.Exercise.Sides = e.Part, e.Position, e.Sides
			for _, t := range e.Traits {
				if !slices.Contains(n.Exercise.Traits, t) {
					n.Exercise.Traits = append(slices.Clone(n.Exercise.Traits), t)
				}
			}
		}
		n.Gate = stricter(n.Gate, n.NeedsGate())
	}
	return l
}
