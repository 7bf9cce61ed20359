package units

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestDistancesAndWeightsAreReadInMilesAndPounds(t *testing.T) {
	for text, want := range map[string]string{
		"up to " + Km(42195, 1) + " is as usual": "up to 26.2" + Space + "mi is as usual",
		"at " + Kmh(3.3333333) + " all along":    "at 7.5" + Space + "mph all along",
		Kg(12.5) + " in each hand":               "27.6" + Space + "lb in each hand",
		Km(8046.72, 1) + ", " + Km(0, 1):         "5" + Space + "mi, 0" + Space + "mi",
		"500 km on the pair, typed by somebody":  "500 km on the pair, typed by somebody",
		"12.5 kg":                                "12.5 kg",
		"3 × 12 + 40 % body weight":              "3 × 12 + 40 % body weight",
	} {
		assert.Equal(t, want, Imperial.In(text))
		assert.Equal(t, text, Metric.In(text))
	}
	assert.Equal(t, "42.2"+Space+"km", Km(42195, 1))
	assert.Equal(t, "12"+Space+"km/h", Kmh(10/3.0))
	assert.True(t, Imperial.Known() && Metric.Known() && !System("nautical").Known())
}
