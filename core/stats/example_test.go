package stats_test

import (
	"fmt"

	"notchback/core/stats"
)

// With a noise of 0.9 cm two measurements of a knee at the wall have to differ by
// 2.5 cm before the change is one.
func ExampleMDC95() {
	fmt.Printf("%.1f cm\n", stats.MDC95(0.9))
	// Output: 2.5 cm
}
