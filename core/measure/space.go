package measure

import (
	"math"

	"notchback/core/stats"
)

// Raw is a marker's place in a laboratory's own axes.
type Raw struct {
	P     [3]float64
	Known bool
}

// Orient turns a laboratory's axes into forward, up and to the right: up is the
// axis along which hips are over heels, forward the one along which toes are before
// heels, so that no setting is asked for. An error says what can't be told.
func Orient(lanes map[Lane][]Raw) (map[Lane][]Seen, error) {
	between := func(from, to Place) ([3]float64, bool) {
		var d [3][]float64
		for _, foot := range []string{"left", "right"} {
			a, b := lanes[Lane{foot, from}], lanes[Lane{foot, to}]
			for i := 0; i < min(len(a), len(b)); i++ {
				if a[i].Known && b[i].Known {
					for k := range d {
						d[k] = append(d[k], b[i].P[k]-a[i].P[k])
					}
				}
			}
		}
		var out [3]float64
		for k := range d {
			m, ok := stats.Median(d[k])
			if !ok {
				return out, false
			}
			out[k] = m
		}
		return out, true
	}
	body, ok := between(Heel, Hip)
	if !ok {
		return nil, ErrMark{"mapping", "hip and heel of one side are needed"}
	}
	foot, ok := between(Heel, Toe)
	if !ok {
		return nil, ErrMark{"mapping", "heel and toe of one side are needed"}
	}
	up := largest(body, -1)
	ahead := largest(foot, up)
	across := 3 - up - ahead
	su, sa := math.Copysign(1, body[up]), math.Copysign(1, foot[ahead])
	// Right is forward times up where the axes are right-handed, as they all are.
	sr := su * sa
	if (ahead+1)%3 != up {
		sr = -sr
	}
	out := map[Lane][]Seen{}
	for l, lane := range lanes {
		s := make([]Seen, len(lane))
		for i, p := range lane {
			s[i] = Seen{X: sa * p.P[ahead], Y: su * p.P[up], Z: sr * p.P[across], Known: p.Known, Trust: 1}
		}
		out[l] = s
	}
	return out, nil
}

// largest is the axis of the largest part, but not the one given.
func largest(v [3]float64, but int) int {
	best := -1
	for k := range v {
		if k != but && (best < 0 || math.Abs(v[k]) > math.Abs(v[best])) {
			best = k
		}
	}
	return best
}

// Upright brings a point of a picture to forward and up, the camera's roll taken
// out, in px.
func (pic Picture) Upright(p Point) (x, y float64) {
	roll := 0.0
	switch {
	case pic.Floor != nil:
		roll = pic.roll(*pic.Floor)
	case pic.Plumb != nil:
		roll = pic.roll(*pic.Plumb)
	}
	sin, cos := math.Sincos(-roll)
	x, y = cos*p.X-sin*p.Y, -(sin*p.X + cos*p.Y)
	if pic.RunsLeft {
		x = -x
	}
	return x, y
}

// UnitCm is how many cm a pixel has, 0 without a scale.
func (pic Picture) UnitCm() float64 {
	if pic.Scale == nil || pic.ScaleCm <= 0 {
		return 0
	}
	return pic.ScaleCm / math.Hypot(pic.Scale[1].X-pic.Scale[0].X, pic.Scale[1].Y-pic.Scale[0].Y)
}
