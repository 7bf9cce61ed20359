package planning

import (
	"slices"

	"notchback/core/catalogue"
	"notchback/core/screening"
)

// Exit is why a ladder gives way to the next of its path.
type Exit string

// The exits.
const (
	ExitTop  Exit = "top"  // it stands clean on its last notch
	ExitCalm Exit = "calm" // what it waited for is over: its region is no longer calm
	ExitAim  Exit = "aim"  // what it worked on reads ok
)

// Follows returns the next stage of a finding's paths after a ladder, the first that
// is open and not in the block; false where the path has nothing further now. It
// begins at its starting notch, never above what is open.
func Follows(c catalogue.Catalogue, e Evidence, ps []RegionPhase, f screening.Factor, ladder string, why Exit, inBlock []string) (catalogue.Ladder, Start, bool) {
	r, ok := remedyFor(f)
	if !ok {
		return catalogue.Ladder{}, Start{}, false
	}
	h := chooser{c: c, e: e, ps: ps, leftFor: map[string]bool{}}
	strength := slices.Concat(r.Strengthen, r.Integrate)
	var rest path
	at := func(p path) int {
		return slices.IndexFunc(p, func(ways []string) bool { return slices.Contains(h.ways(ways), ladder) })
	}
	switch {
	case why == ExitCalm:
		if at(r.Calm) >= 0 {
			rest = strength
		}
	case why == ExitAim:
		if at(r.Lengthen) >= 0 || at(r.Steer) >= 0 {
			rest = strength
		} else if i := at(strength); i >= 0 {
			rest = strength[i+1:]
		}
	default:
		for _, p := range []path{r.Lengthen, r.Steer, strength} {
			if i := at(p); i >= 0 {
				rest = p[i+1:]
				break
			}
		}
	}
	for _, raw := range rest {
		ways := slices.DeleteFunc(h.ways(raw), func(id string) bool { return id == ladder })
		if slices.ContainsFunc(ways, func(id string) bool { return slices.Contains(inBlock, id) || slices.Contains(e.Followed, id) }) {
			continue // it stands already, or was done with
		}
		for _, id := range ways {
			l, ok := c.Ladder(id)
			if !ok {
				continue
			}
			if top, _ := Ceiling(c, l, e, ps); top > 0 {
				return l, h.start(l, top), true
			}
		}
	}
	return catalogue.Ladder{}, Start{}, false
}

// OnCalm reports whether a ladder stands in a finding's calm path alone: it gives way
// when its region is no longer calm.
func OnCalm(f screening.Factor, ladder string) bool {
	r, ok := remedyFor(f)
	if !ok {
		return false
	}
	in := func(p path) bool {
		return slices.ContainsFunc(p, func(ways []string) bool { return slices.Contains(ways, ladder) })
	}
	first := len(r.Strengthen) > 0 && slices.Contains(r.Strengthen[0], ladder) && r.Strengthen[0][0] == ladder
	return in(r.Calm) && !first
}

// CalmOver reports whether the region in which a finding is worked on is past calm.
func CalmOver(c catalogue.Catalogue, e Evidence, ps []RegionPhase, f screening.Factor) bool {
	r, ok := remedyFor(f)
	return ok && !(&chooser{c: c, e: e, ps: ps}).calm(r)
}
