package adjust

import "math"

// PlateDown rounds a load in kilograms down to whole plates of a size: less load,
// never more; at least one plate where there is any load.
func PlateDown(kg, plate float64) float64 {
	if kg <= 0 || plate <= 0 {
		return 0
	}
	return max(1, math.Floor(kg/plate+1e-9)) * plate
}
