// Package simulate tries plans on made-up futures: seeded, pure and fast. What it
// returns is a range under stated assumptions, never a promise about a person.
package simulate

import (
	"cmp"
	"maps"
	"math/bits"
	"slices"

	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/source"
	"notchback/core/transition"
)

// Random is a small seeded generator: the same seed gives the same numbers on
// every machine (splitmix64, Steele 2014).
type Random struct{ state uint64 }

// NewRandom returns a generator for a seed.
func NewRandom(seed uint64) *Random { return &Random{seed} }

func (r *Random) next() uint64 {
	r.state += 0x9e3779b97f4a7c15
	z := r.state
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	return z ^ z>>31
}

// Float returns a number from 0 up to, not with, 1.
func (r *Random) Float() float64 { return float64(r.next()>>11) / (1 << 53) }

// Below returns a whole number from 0 up to, not with, n.
func (r *Random) Below(n int) int {
	hi, _ := bits.Mul64(r.next(), uint64(n))
	return int(hi)
}

// Assumptions are how often a ramp week goes wrong. All are house: nobody has
// counted them.
type Assumptions struct {
	TooLittle float64 `json:"tooLittle" doc:"Weeks of which less than 60 % is done"`
	Morning   float64 `json:"morning" doc:"Weeks with a worse morning"`
	Sore      float64 `json:"sore" doc:"Weeks with calves sore for more than 48 hours"`
	Missed    float64 `json:"missed" doc:"Weeks away: illness, holidays"`
	Flare     float64 `json:"flare" doc:"Weeks in which a flare begins: two weeks off, two steps back"`
	GateLate  float64 `json:"gateLate" doc:"Chance, each two weeks, that a closed gate does not open yet"`
}

// Usual are the assumptions dates with a range are made with.
var Usual = Assumptions{TooLittle: 0.10, Morning: 0.06, Sore: 0.04, Missed: 0.04, Flare: 0.01, GateLate: 0.4}

// UsualSource tags them.
var UsualSource = source.House("a model for planning, not a forecast: shares of weeks nobody has counted, the same for everyone")

const (
	flareWeeks = 2
	flareBack  = 2
	gateWeeks  = 2
	gateMost   = 12 // tries
)

// Range is when a goal may be reached: the Mondays of those weeks.
type Range struct {
	Earliest *day.Date `json:"earliest,omitempty" format:"date" doc:"Nothing goes wrong"`
	Likely   *day.Date `json:"likely,omitempty" format:"date" doc:"Half of the futures are there"`
	Late     *day.Date `json:"late,omitempty" format:"date" doc:"Nine in ten are there"`
	Futures  int       `json:"futures"`
	Reached  int       `json:"reached" doc:"Futures that get there within three years"`
}

// Ramp draws n futures of a ramp with a seed. Likely and Late are missing where
// too few futures get there.
func Ramp(in transition.Input, r transition.Ramp, a Assumptions, n int, seed uint64) Range {
	out := Range{Earliest: r.Reached, Futures: n}
	if r.Reached == nil || n <= 0 {
		return out
	}
	rnd := NewRandom(seed)
	dates := make([]day.Date, 0, n)
	closed := slices.SortedFunc(maps.Keys(in.Gates), cmp.Compare[catalogue.Gate])
	for range n {
		gates, own := in.Gates, false
		for _, g := range closed {
			o := in.Gates[g]
			if o.Open || o.From == nil {
				continue
			}
			late := 0
			for late < gateMost && rnd.Float() < a.GateLate {
				late++
			}
			if late > 0 {
				if !own {
					gates, own = maps.Clone(in.Gates), true
				}
				from := *o.From + day.Date(7*gateWeeks*late)
				o.From = &from
				gates[g] = o
			}
		}
		off := 0
		on, ok := in.Ahead(r, gates, func(day.Date) transition.Event { return a.draw(rnd, &off) })
		if ok {
			dates = append(dates, max(on, *r.Reached))
		}
	}
	out.Reached = len(dates)
	slices.Sort(dates)
	out.Likely, out.Late = at(dates, n, 50), at(dates, n, 90)
	return out
}

// at is the date by which so many per cent of n futures are there; nil where
// fewer get there at all.
func at(sorted []day.Date, n, percent int) *day.Date {
	i := (n*percent+99)/100 - 1
	if i < 0 || i >= len(sorted) {
		return nil
	}
	return &sorted[i]
}

// draw is one week's event.
func (a Assumptions) draw(r *Random, off *int) transition.Event {
	if *off > 0 {
		*off--
		if *off == 0 {
			return transition.Event{Outcome: transition.Repeated, Back: flareBack}
		}
		return transition.Event{Outcome: transition.Stopped}
	}
	u := r.Float()
	if u < a.Flare {
		*off = flareWeeks
		return transition.Event{Outcome: transition.Stopped}
	}
	if u < a.Flare+a.TooLittle+a.Morning+a.Sore+a.Missed {
		return transition.Event{Outcome: transition.Repeated}
	}
	return transition.Event{Outcome: transition.Passed}
}
