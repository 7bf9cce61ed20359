package measure_test

import (
	"fmt"

	"notchback/core/measure"
)

// Steps of both feet are counted in windows of 15 s: the mean, and how far off it may
// be.
func ExampleCadenceFromCounts() {
	c, err := measure.CadenceFromCounts([]int{41, 42, 41, 43}, 15)
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Printf("%.0f ± %.1f steps a minute, one count is worth %.0f\n", c.MeanSpm, c.MarginSpm, c.ResolutionSpm)
	// Output: 167 ± 6.1 steps a minute, one count is worth 4
}

// A block of 2.5 cm under a toe pad of 5 cm lifts the big toe by 30°.
func ExampleToeFromBlock() {
	degrees, err := measure.ToeFromBlock(2.5, 5, false)
	fmt.Printf("%.0f° %v\n", degrees, err)
	// Output: 30° <nil>
}

// Force and stiffness of a runner of 70 kg at 4 m/s.
func ExampleSpring() {
	m, err := measure.Spring(70, 0.92, 4, 0.23, 0.12)
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Printf("%.1f times body weight, vertical stiffness %.0f kN/m, %.0f steps a minute\n", m.BodyWeights, m.VerticalKNm, m.CadenceSpm)
	// Output: 2.4 times body weight, vertical stiffness 27 kN/m, 171 steps a minute
}
