package activity

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestTwoOutingsThatAreOne(t *testing.T) {
	span := func(minutes float64, metres, seconds int) Span {
		at := time.Date(2026, 5, 4, 7, 0, 0, 0, time.UTC).Add(time.Duration(minutes * float64(time.Minute)))
		return Span{On: 100, Start: &at, Metres: metres, Seconds: seconds}
	}
	a := span(0, 8000, 2800)
	dated := Span{On: 100, Metres: 8100}
	for name, c := range map[string]struct {
		b       Span
		same    bool
		shifted time.Duration
	}{
		"another device":            {span(2, 8080, 2790), true, 0},
		"begun in the middle":       {span(10, 6000, 2100), true, 0},
		"before it, mostly over it": {span(-10, 9000, 3400), true, 0},
		"the next one":              {span(50, 3000, 900), false, 0},
		"half a minute of overlap":  {span(46, 8000, 2800), false, 45 * time.Minute},
		"two hours off":             {span(120, 8010, 2801), false, 2 * time.Hour},
		"two hours and seven":       {span(127, 8000, 2800), false, 0},
		"another length":            {span(120, 8200, 2800), false, 0},
		"the day before":            {span(-24*60, 8000, 2800), false, 0},
		"by its day and length":     {dated, true, 0},
		"another day":               {Span{On: 101, Metres: 8000}, false, 0},
		"of its day, longer":        {Span{On: 100, Metres: 8400}, false, 0},
	} {
		for _, p := range [][2]Span{{a, c.b}, {c.b, a}} {
			assert.Equal(t, c.same, Same(p[0], p[1]), name)
			if by, ok := Shifted(p[0], p[1]); !c.same {
				assert.Equal(t, c.shifted, by, name)
				assert.Equal(t, c.shifted > 0, ok, name)
			}
		}
	}
	assert.True(t, SameSource.Valid())
}
