package load

import (
	"math"

	"notchback/core/day"
	"notchback/core/source"
)

// usualWeeks is how many weeks a usual week is the mean of.
const usualWeeks = 4

// UsualSource tags what a usual week is.
var UsualSource = source.House("a usual week is the mean of the four whole weeks before this one in which there was any dose")

// Dosed is a day's dose on one tissue, in body weights times repetitions.
type Dosed struct {
	On   day.Date
	Sum  float64
	Peak float64 // the same with the weight cubed
}

// UsualWeek is the mean dose of the whole weeks before that of today, four at most, in
// which there was any, and how many weeks that were; 0 weeks where none is known.
func UsualWeek(days []Dosed, today day.Date) (sum, peak float64, weeks int) {
	by := map[day.Date]*Dosed{}
	for _, d := range days {
		m := d.On.Monday()
		if m >= today.Monday() || m < today.Monday()-7*usualWeeks {
			continue
		}
		if by[m] == nil {
			by[m] = &Dosed{}
		}
		by[m].Sum += d.Sum
		by[m].Peak += d.Peak
	}
	for _, w := range by {
		if w.Sum > 0 {
			sum, peak, weeks = sum+w.Sum, peak+w.Peak, weeks+1
		}
	}
	if weeks == 0 {
		return 0, 0, 0
	}
	return math.Round(sum / float64(weeks)), math.Round(peak / float64(weeks)), weeks
}
