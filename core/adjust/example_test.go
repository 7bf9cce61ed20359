package adjust_test

import (
	"fmt"
	"time"

	"notchback/core/adjust"
	"notchback/core/catalogue"
	"notchback/core/day"
)

// A pain of 7 in a session takes the side one notch back, whatever else is known.
func ExampleDecide() {
	shelf, err := catalogue.BuiltIn()
	if err != nil {
		fmt.Println(err)
		return
	}
	calf, _ := shelf.Ladder("calf-straight")
	on := day.Make(2026, time.May, 4)
	pain, done, clean := 7, 1.0, 0.0
	d := adjust.Decide(
		adjust.History{
			B0:       1,
			Sessions: []adjust.Session{{On: on, Notch: 7, Pain: &pain, Done: &done, Compensated: &clean, DecidedBy: adjust.RowNone}},
			Mornings: []adjust.Morning{{On: on, FirstStep: 1}, {On: on + 1, FirstStep: 1}},
		},
		adjust.Context{Ladder: calf, Side: "left", Today: on + 1, Notch: 7, StartingNotch: 7, BlockStart: on},
	)
	fmt.Println(d.Verdict, d.From, "→", d.To)
	for _, r := range d.Reasons {
		fmt.Println(r.Rule)
	}
	// Output:
	// back 7 → 6
	// pain-high
}
