package measure

import (
	"math"
	"slices"

	"notchback/core/stats"
)

// FootEvent is a contact or a toe-off found in a track.
type FootEvent struct {
	Foot   string  `json:"foot" enum:"left,right"`
	Kind   string  `json:"kind" enum:"contact,toe-off"`
	At     float64 `json:"at" doc:"s"`
	Frame  int     `json:"frame" doc:"The first frame that shows it"`
	Margin float64 `json:"margin" doc:"± of 95 %, s"`
	Placed bool    `json:"-"` // by a coach
}

// Settings of the search for events. Coarse: the foot is farthest ahead of the hips
// shortly before it lands and farthest behind them shortly after it leaves (Zeni
// 2008, from memory). Fine: where the foot joins the ground, and where it leaves it.
const (
	coarseCutoff  = 8.0   // Hz
	stepLeastTime = 0.20  // s between two extremes of one foot's path; house: nobody takes 150 steps of one foot a minute
	wayLeast      = 0.3   // of the leg's length; house: a runner's foot goes at least so far
	clean         = 0.001 // s; house: points that scatter by less than the ground's way in this time are exact
)

// stance is one time of a foot on the ground, in frames.
type stance struct {
	foot       string
	heel, toe  []Seen
	front, end int // where the foot is farthest ahead and farthest behind; -1 where that is not in the track
	from, to   int // the stretch both belong to
}

// stances are where a foot goes from its farthest ahead of the hips to its farthest
// behind them.
func (t Track) stances(rate float64) []stance {
	var out []stance
	hl, hr := t.Lanes[Lane{"left", Hip}], t.Lanes[Lane{"right", Hip}]
	for _, foot := range []string{"left", "right"} {
		heel, toe := t.Lanes[Lane{foot, Heel}], t.Lanes[Lane{foot, Toe}]
		if heel == nil || toe == nil || hl == nil || hr == nil {
			continue
		}
		for _, r := range stretches(len(t.Times), heel, toe, hl, hr) {
			a, b := r[0], r[1]
			v := make([]float64, b-a)
			for i := range v {
				k := a + i
				v[i] = (heel[k].X+toe[k].X)/2 - (hl[k].X+hr[k].X)/2
			}
			v = lowPass(v, rate, coarseCutoff)
			tall := make([]float64, b-a)
			for i := range tall {
				tall[i] = math.Abs((hl[a+i].Y+hr[a+i].Y)/2 - heel[a+i].Y)
			}
			least := wayLeast * slices.Max(tall)
			front := extremes(v, rate, least)
			for i := range v {
				v[i] = -v[i]
			}
			back := extremes(v, rate, least)
			used := map[int]bool{}
			for _, f := range front {
				s := stance{foot, heel, toe, a + f, -1, a, b}
				for _, k := range back {
					if k > f && float64(k-f) < (contactMost+0.1)*rate {
						s.end = a + k
						used[k] = true
						break
					}
				}
				out = append(out, s)
			}
			for _, k := range back {
				if !used[k] {
					out = append(out, stance{foot, heel, toe, -1, a + k, a, b})
				}
			}
		}
	}
	// Where one end of it is not in the track, it is as long as the others.
	var long []float64
	for _, s := range out {
		if s.front >= 0 && s.end >= 0 {
			long = append(long, float64(s.end-s.front))
		}
	}
	if m, ok := stats.Median(long); ok {
		for i, s := range out {
			if s.front < 0 && s.end-int(m) >= s.from-int(0.25*m) {
				out[i].front = s.end - int(m)
			}
			if s.end < 0 && s.front+int(m) < s.to+int(0.4*m) {
				out[i].end = s.front + int(m)
			}
		}
	}
	return out
}

// flat is the part of a stance in which the sole lies on the ground, by shares of
// the time between the foot's extremes.
func (s stance) flat() (int, int, bool) {
	if s.front < 0 || s.end < 0 {
		return 0, 0, false
	}
	n := float64(s.end - s.front)
	a, b := s.front+int(math.Round(0.28*n)), s.front+int(math.Round(0.46*n))
	b = max(b, a+1)
	return a, b, a >= s.from && b < s.to
}

// ground is what is known of the ground from all flat soles: its speed in the
// picture, and how much points scatter on it, 1 SD.
type ground struct{ v, vHip, noise float64 }

func (t Track) ground(all []stance) (ground, bool) {
	frame := t.step
	var v, rel, rest []float64
	hl, hr := t.Lanes[Lane{"left", Hip}], t.Lanes[Lane{"right", Hip}]
	for _, s := range all {
		a, b, ok := s.flat()
		if !ok {
			continue
		}
		d := float64(b-a) * frame
		x := (s.heel[b].X + s.toe[b].X - s.heel[a].X - s.toe[a].X) / 2 / d
		v = append(v, x)
		rel = append(rel, math.Abs(x-(hl[b].X+hr[b].X-hl[a].X-hr[a].X)/2/d))
	}
	if len(v) == 0 {
		return ground{}, false
	}
	var g ground
	g.v, _ = stats.Median(v)
	g.vHip, _ = stats.Median(rel)
	for _, s := range all {
		a, b, ok := s.flat()
		if !ok {
			continue
		}
		for _, lane := range [][]Seen{s.heel, s.toe} {
			x, y := g.rest(t, lane, a, b)
			for i := a; i <= b; i++ {
				rest = append(rest, math.Abs(lane[i].X-g.v*t.Times[i]-x), math.Abs(lane[i].Y-y))
			}
		}
	}
	m, _ := stats.Median(rest)
	g.noise = 1.4826 * m
	return g, true
}

// rest is where a landmark lies on the ground in a flat sole.
func (g ground) rest(t Track, lane []Seen, a, b int) (float64, float64) {
	var x, y []float64
	for i := a; i <= b; i++ {
		x, y = append(x, lane[i].X-g.v*t.Times[i]), append(y, lane[i].Y)
	}
	mx, _ := stats.Median(x)
	my, _ := stats.Median(y)
	return mx, my
}

func (t Track) find() []FootEvent {
	var out []FootEvent
	frame := t.step
	all := t.stances(1 / frame)
	g, ok := t.ground(all)
	if !ok {
		return nil
	}
	for _, s := range all {
		if at, sd, ok := t.contact(s, g); ok {
			out = append(out, FootEvent{Foot: s.foot, Kind: "contact", At: at, Frame: t.frameAt(at), Margin: stats.Z95 * math.Hypot(sd, frame/math.Sqrt(12))})
		}
		if at, sd, ok := t.toeOff(s, g); ok {
			out = append(out, FootEvent{Foot: s.foot, Kind: "toe-off", At: at, Frame: t.frameAt(at), Margin: stats.Z95 * math.Hypot(sd, frame/math.Sqrt(12))})
		}
	}
	slices.SortFunc(out, func(x, y FootEvent) int {
		if x.At < y.At {
			return -1
		}
		return 1
	})
	return out
}

// contact goes back from a flat sole to the frame in which neither end of the foot
// lies where it will lie, and from how fast it came to the moment it arrived.
func (t Track) contact(s stance, g ground) (float64, float64, bool) {
	a, b, ok := s.flat()
	if !ok {
		return 0, 0, false
	}
	frame := t.step
	tidy := g.noise < clean*g.vHip
	tol := max(3*g.noise, 0.0035*g.vHip) // house: the ground's way in 3.5 ms
	hx, hy := g.rest(t, s.heel, a, b)
	tx, ty := g.rest(t, s.toe, a, b)
	off := func(i int) float64 {
		d := func(p Seen, x, y float64) float64 { return math.Hypot(p.X-g.v*t.Times[i]-x, p.Y-y) }
		return min(d(s.heel[i], hx, hy), d(s.toe[i], tx, ty))
	}
	// One frame out of place is no flight, and a foot in flight is fast.
	i := a
	for i > s.from && (off(i) <= tol || off(i-1) <= tol || !tidy && off(i-1)-off(i) < 0.3*g.vHip*frame) {
		i--
	}
	if i <= s.from {
		return 0, 0, false
	}
	if tidy {
		at := t.Times[i] + frame*min(1, (off(i)-tol/3)/max(off(i)-off(i+1), off(i-1)-off(i)))
		if k := sharpest(t, s, at-0.015, at+0.015, s.heel, s.toe); k > 0 && frame < 0.011 {
			at = t.Times[k] - frame/2
		}
		return at, frame / math.Sqrt(12), true
	}
	speed := (off(i-1) - off(i)) / frame
	return min(t.Times[i]+off(i)/speed, t.Times[i]+2.5*frame), g.noise / speed, true
}

// toeOff finds where the toe stops going with the ground.
func (t Track) toeOff(s stance, g ground) (float64, float64, bool) {
	if s.end < 0 {
		return 0, 0, false
	}
	frame := t.step
	at := t.Times[0] + float64(s.end)*frame
	from, to := at-0.1, at+0.02
	left, right := at-0.15, at+0.03
	lo, hi := s.from, s.to
	for lo < s.to && t.Times[lo] < left-1e-9 {
		lo++
	}
	for hi > lo && t.Times[hi-1] > right+1e-9 {
		hi--
	}
	if hi-lo < 5 {
		return 0, 0, false
	}
	times := t.Times[lo:hi]
	at, sd, ok := hinge(times, column(s.toe[lo:hi], atX), max(times[0]+frame/2, from), min(times[len(times)-1]-frame/2, to), min(frame/4, 0.004))
	if !ok || g.noise >= clean*g.vHip {
		return at, sd, ok
	}
	// In clean tracks the toe's path breaks in one frame.
	if i := sharpest(t, s, at-0.035, at+0.01, s.toe); i > 0 && frame < 0.021 {
		return t.Times[i] - frame/2, frame / math.Sqrt(12), true
	}
	return at, sd, true
}

// sharpest is the frame in which the way of some landmarks bends most, 0 where
// there is none.
func sharpest(t Track, s stance, from, to float64, lanes ...[]Seen) int {
	best, most := 0, 0.0
	for i := s.from + 1; i+1 < s.to; i++ {
		if t.Times[i] < from || t.Times[i] > to {
			continue
		}
		d := 0.0
		for _, l := range lanes {
			d += math.Abs(l[i-1].X - 2*l[i].X + l[i+1].X)
		}
		if d > most {
			best, most = i, d
		}
	}
	return best
}

func (t Track) frameAt(at float64) int {
	f := t.step
	return max(0, min(len(t.Times)-1, int(math.Floor((at-t.Times[0])/f+1e-6))))
}

// extremes are the frames at which v is at its highest, stepLeastTime apart and
// higher by least than its lowest nearby.
func extremes(v []float64, rate, least float64) []int {
	var out []int
	apart := int(stepLeastTime * rate)
	for i := 1; i+1 < len(v); i++ {
		if !(v[i] >= v[i-1] && v[i] > v[i+1]) {
			continue
		}
		lo, hi := max(0, i-apart), min(len(v), i+apart+1)
		if v[i] < slices.Max(v[lo:hi]) {
			continue
		}
		if v[i]-slices.Min(v[max(0, i-2*apart):min(len(v), i+2*apart+1)]) < least {
			continue
		}
		out = append(out, i)
	}
	return out
}

// hinge finds the moment in [from, to] (s) at which a foot begins to move: a path that
// is straight before it and bent after it, and meets there, fitted by least squares;
// the moment with the smallest rest, and how well it is known, 1 SD.
func hinge(t, path []float64, from, to, step float64) (float64, float64, bool) {
	const terms = 4
	if len(t) < terms+1 {
		return 0, 0, false
	}
	half := (t[len(t)-1] - t[0]) / 2
	mid := t[0] + half
	var at, rest []float64
	basis := make([][4]float64, len(t))
	for try := from; try <= to+1e-12; try += step {
		k := (try - mid) / half
		for i := range t {
			x := (t[i] - mid) / half
			r := max(0, x-k)
			basis[i] = [4]float64{1, x, r, r * r}
		}
		if v, ok := leastSquares(basis, path); ok {
			at, rest = append(at, try), append(rest, v)
		}
	}
	if len(at) < 3 {
		return 0, 0, false
	}
	best := 0
	for i := range rest {
		if rest[i] < rest[best] {
			best = i
		}
	}
	found, sd := at[best], step/math.Sqrt(12)
	if best > 0 && best < len(at)-1 {
		// How sharp the valley is says how well the moment is known.
		if bend := rest[best-1] - 2*rest[best] + rest[best+1]; bend > 0 {
			found += step / 2 * (rest[best-1] - rest[best+1]) / bend
			free := float64(max(1, len(t)-terms-1))
			sd = math.Hypot(sd, math.Sqrt(2*rest[best]/free*step*step/bend))
		}
	}
	return found, sd, true
}

// leastSquares returns the sum of squares that no mix of the basis explains.
func leastSquares(basis [][4]float64, p []float64) (float64, bool) {
	const n = 4
	var a [n][n]float64
	for _, b := range basis {
		for i := range n {
			for j := range i + 1 {
				a[i][j] += b[i] * b[j]
			}
		}
	}
	for i := range n { // Cholesky, a little stiffened
		a[i][i] += 1e-9
		for j := range i + 1 {
			s := a[i][j]
			for k := range j {
				s -= a[i][k] * a[j][k]
			}
			if i == j {
				if s <= 1e-15 {
					return 0, false
				}
				a[i][i] = math.Sqrt(s)
			} else {
				a[i][j] = s / a[j][j]
			}
		}
	}
	rest := 0.0
	var y [n]float64
	for k, b := range basis {
		for i := range n {
			y[i] += b[i] * p[k]
		}
	}
	for i := range n {
		for k := range i {
			y[i] -= a[i][k] * y[k]
		}
		y[i] /= a[i][i]
	}
	for i := n - 1; i >= 0; i-- {
		for k := i + 1; k < n; k++ {
			y[i] -= a[k][i] * y[k]
		}
		y[i] /= a[i][i]
	}
	for k, b := range basis {
		e := p[k]
		for i := range n {
			e -= y[i] * b[i]
		}
		rest += e * e
	}
	return rest, true
}
