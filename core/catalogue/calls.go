package catalogue

// Call is what is called out in a hold, from a second of it on.
type Call struct {
	At     int    `json:"at" doc:"Second of the hold"`
	Word   string `json:"word" enum:"push,pull"`
	Effort int    `json:"effort" doc:"Per cent of all there is"`
}

// efforts are the steps an end-range effort is built in, in per cent (common practice).
var efforts = []int{20, 40, 60, 80, 100}

// Calls are what is called out in a hold of full effort at the end of the range: a push
// through its first half and a pull through its second, each built up in equal steps.
// Other work has none, and a hold too short for a second a step has none either.
func (n Notch) Calls() []Call {
	out := []Call{}
	half := n.Dose.HoldSeconds / 2
	if !n.Has(FullEffort) || !n.Has(EndRange) || half < len(efforts) {
		return out
	}
	for part, word := range []string{"push", "pull"} {
		for i, e := range efforts {
			out = append(out, Call{part*half + i*half/len(efforts), word, e})
		}
	}
	return out
}
