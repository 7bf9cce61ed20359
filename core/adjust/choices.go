package adjust

// Choice is a share as a coach says it.
type Choice struct {
	Value float64 `json:"value"`
	Words string  `json:"words"`
}

// Choices are how much of a dose was done, and how many of its repetitions were
// dodged, in the words a coach has for it (house). “most” is done: it is not under the
// share that says it could not be; a third dodged is where row 6 begins.
type Choices struct {
	Done        []Choice `json:"done" nullable:"false"`
	Compensated []Choice `json:"compensated" nullable:"false"`
}

// SaidAs are the choices of every log.
func SaidAs() Choices {
	return Choices{
		Done:        []Choice{{doneFull, "all"}, {couldNotUnder, "most"}, {0.5, "half"}, {0, "none"}},
		Compensated: []Choice{{0, "clean"}, {compensatedMost, "1 in 10"}, {compensatedCut, "1 in 3"}, {0.5, "half"}},
	}
}
