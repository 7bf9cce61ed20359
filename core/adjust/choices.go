package adjust

import "fmt"

// Choice is a share as a coach says it.
type Choice struct {
	Value float64 `json:"value"`
	Words string  `json:"words"`
}

// Left is how many repetitions were left in reserve, as a coach says it.
type Left struct {
	Value  int    `json:"value"`
	Words  string `json:"words"`
	Enough bool   `json:"enough" doc:"As much as a step up asks for; said of everything it makes holds sure of 20 % more"`
}

// Choices are how much of a dose was done, and how many of its repetitions were
// dodged, in the words a coach has for it (house). “most” is done: it is not under the
// share that says it could not be; a third dodged is where row 6 begins.
type Choices struct {
	Done        []Choice `json:"done" nullable:"false"`
	Compensated []Choice `json:"compensated" nullable:"false"`
	Reserve     []Left   `json:"reserve" nullable:"false"`
}

// ReserveMost is where the scale of repetitions in reserve ends: so many or more.
const ReserveMost = 5

// SaidAs are the choices of every log.
func SaidAs() Choices {
	out := Choices{
		Done:        []Choice{{doneFull, "all"}, {couldNotUnder, "most"}, {0.5, "half"}, {0, "none"}},
		Compensated: []Choice{{0, "clean"}, {compensatedMost, "1 in 10"}, {compensatedCut, "1 in 3"}, {0.5, "half"}},
	}
	for n := range ReserveMost + 1 {
		l := Left{n, fmt.Sprint(n), n >= reserveLeast}
		if n == ReserveMost {
			l.Words += "+"
		}
		out.Reserve = append(out.Reserve, l)
	}
	return out
}
