package transition_test

import (
	"fmt"

	"notchback/core/transition"
)

// From 160 steps a minute the own-baseline school goes up 5 %, a step a week.
func ExampleCadenceTerms_Beats() {
	t := transition.CadenceTerms{Baseline: 160, School: "own-baseline"}
	fmt.Println(t.Beats(), "to", t.Target())
	// Output: [165 168] to 168
}
