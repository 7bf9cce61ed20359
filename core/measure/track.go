package measure

import (
	"fmt"
	"math"
	"slices"

	"notchback/core/stats"
)

// Seen is where a landmark was in one frame: X forward, Y up, Z to the runner's
// right, in the track's unit. Trust, 0 to 1, is how sure its maker was of it.
type Seen struct {
	X, Y, Z float64
	Known   bool
	Trust   float64
	Hand    bool // put there by a coach
}

// Track is landmarks over time, from marker files or from proposals on a clip.
type Track struct {
	Times   []float64       // real time, s, strictly rising
	Lanes   map[Lane][]Seen // as long as Times
	UnitCm  float64         // cm of one unit; 0 where it is not known
	Spatial bool            // Z carries something
	Near    string          // the foot nearest the camera, "" where that means nothing
	step    float64         // between two frames, once they are even
}

// Lane is a landmark of one side.
type Lane struct {
	Foot  string // left or right
	Place Place
}

// TrackPlaces are the places of a side that a track can carry. Heel and toe can't
// be missing: events are found from them.
var TrackPlaces = []Place{Shoulder, Hip, Knee, Ankle, Heel, Toe}

// Limits and settings of tracks.
const (
	trackLeast  = 8       // frames
	trackMost   = 500_000 // frames
	gapMost     = 0.10    // s; house: longer than that a foot does what it likes
	BodyCutoff  = 10.0    // Hz; common practice for joints in running
	EventCutoff = 50.0    // Hz; house: kinks of a foot must stay
	trustLeast  = 0.3     // house: below it a point is not used
)

// Mended says what was done to a track before it was read.
type Mended struct {
	Filled  int       `json:"filled" doc:"Points put into gaps of up to 100 ms"`
	Swapped int       `json:"swapped" doc:"Frames in which left and right were put back"`
	Quality []float64 `json:"quality" nullable:"false" doc:"By frame, 0 to 1: how far the points can be believed"`
}

// Check looks for what can't be read.
func (t Track) Check() error {
	if len(t.Times) < trackLeast {
		return ErrMark{"times", fmt.Sprintf("%d frames are too few; expected at least %d", len(t.Times), trackLeast)}
	}
	if len(t.Times) > trackMost {
		return ErrMark{"times", fmt.Sprintf("%d frames are too many; expected at most %d", len(t.Times), trackMost)}
	}
	for i, at := range t.Times {
		if math.IsNaN(at) || math.IsInf(at, 0) || i > 0 && at <= t.Times[i-1] {
			return ErrMark{fmt.Sprintf("times[%d]", i), "the times must rise"}
		}
	}
	for l, s := range t.Lanes {
		if len(s) != len(t.Times) {
			return ErrMark{l.String(), fmt.Sprintf("%d places for %d frames", len(s), len(t.Times))}
		}
		if l.Foot != "left" && l.Foot != "right" || !slices.Contains(TrackPlaces, l.Place) {
			return ErrMark{l.String(), "not a landmark"}
		}
		for i, p := range s {
			if d := p.X + p.Y + p.Z; p.Known && (math.IsNaN(d) || math.IsInf(d, 0)) {
				return ErrMark{l.String(), fmt.Sprintf("frame %d is not a place", i)}
			}
		}
	}
	return nil
}

func (l Lane) String() string { return l.Foot + "-" + string(l.Place) }

// even returns the track on evenly spaced times, gaps filled, left and right put
// back where they were swapped, and what was done. The frames keep their numbers:
// a track whose frames are uneven gets as many even ones.
func (t Track) even() (Track, Mended) {
	n := len(t.Times)
	step := (t.Times[n-1] - t.Times[0]) / float64(n-1)
	out := Track{Times: make([]float64, n), Lanes: map[Lane][]Seen{}, UnitCm: t.UnitCm, Spatial: t.Spatial, Near: t.Near, step: step}
	for i := range out.Times {
		out.Times[i] = t.Times[0] + float64(i)*step
	}
	m := Mended{Quality: make([]float64, n)}
	src := t.unswapped(&m)
	count := make([]float64, n)
	for l, lane := range src {
		for i, p := range lane {
			count[i]++
			if p.Known {
				m.Quality[i] += p.Trust
			}
		}
		lane := slices.Clone(lane)
		m.Filled += fill(t.Times, lane)
		out.Lanes[l] = onto(out.Times, t.Times, lane)
	}
	for i := range m.Quality {
		if count[i] > 0 {
			m.Quality[i] /= count[i]
		}
	}
	return out, m
}

// legs are the places that a swap exchanges together.
var legs = []Place{Hip, Knee, Ankle, Heel, Toe}

// unswapped puts left and right back where a frame exchanged them: both feet go
// on where they were going in the track that comes out, or the other way round.
func (t Track) unswapped(m *Mended) map[Lane][]Seen {
	out := map[Lane][]Seen{}
	for l, s := range t.Lanes {
		out[l] = slices.Clone(s)
		for i := range out[l] {
			if out[l][i].Trust < trustLeast {
				out[l][i].Known = false
			}
		}
	}
	var pairs [][2][]Seen
	for _, p := range legs {
		l, r := out[Lane{"left", p}], out[Lane{"right", p}]
		if l != nil && r != nil {
			pairs = append(pairs, [2][]Seen{l, r})
		}
	}
	for i, swapped := range exchanges(pairs, len(t.Times)) {
		if swapped {
			for _, p := range pairs {
				p[0][i], p[1][i] = p[1][i], p[0][i]
			}
			m.Swapped++
		}
	}
	return out
}

// swapCost is what a frame taken for exchanged costs, share of how far both legs usually go
// in a frame: a track is believed that tells the shorter way (house).
const swapCost = 0.35

// exchanges says of each frame whether left and right are the other way round in it: of all
// ways to read the track, the one in which the legs go least.
func exchanges(pairs [][2][]Seen, n int) []bool {
	straight, crossed := make([]float64, n), make([]float64, n)
	var usual []float64
	for i := 1; i < n; i++ {
		for _, p := range pairs {
			l, r := p[0], p[1]
			if l[i].Known && r[i].Known && l[i-1].Known && r[i-1].Known {
				straight[i] += apart(l[i-1], l[i]) + apart(r[i-1], r[i])
				crossed[i] += apart(l[i-1], r[i]) + apart(r[i-1], l[i])
			}
		}
		if straight[i] > 0 {
			usual = append(usual, straight[i])
		}
	}
	each, _ := stats.Median(usual)
	each *= swapCost
	// The cheapest way to each frame, as it is and exchanged, and where it came from.
	cost, from := [2]float64{0, each}, make([][2]bool, n)
	for i := 1; i < n; i++ {
		var next [2]float64
		for now := range 2 {
			stay, turn := cost[now]+straight[i], cost[1-now]+crossed[i]
			from[i][now] = (now == 1) == (stay <= turn)
			next[now] = min(stay, turn) + float64(now)*each
		}
		cost = next
	}
	out := make([]bool, n)
	now := cost[1] < cost[0]
	for i := n - 1; i >= 0; i-- {
		out[i] = now
		if i > 0 {
			k := 0
			if now {
				k = 1
			}
			now = from[i][k]
		}
	}
	return out
}

func apart(a, b Seen) float64 {
	return math.Sqrt((a.X-b.X)*(a.X-b.X) + (a.Y-b.Y)*(a.Y-b.Y) + (a.Z-b.Z)*(a.Z-b.Z))
}

// fill puts points into gaps of up to gapMost by a cubic through the two known
// points on either side, and returns how many.
func fill(times []float64, s []Seen) int {
	filled := 0
	for i := 0; i < len(s); i++ {
		if s[i].Known {
			continue
		}
		j := i
		for j < len(s) && !s[j].Known {
			j++
		}
		if i > 0 && j < len(s) && times[j]-times[i-1] <= gapMost {
			a, b := i-1, j
			slope := func(k, other int) Seen {
				if other < 0 || other >= len(s) || !s[other].Known {
					a, b := s[i-1], s[j]
					d := times[j] - times[i-1]
					return Seen{X: (b.X - a.X) / d, Y: (b.Y - a.Y) / d, Z: (b.Z - a.Z) / d}
				}
				d := times[k] - times[other]
				return Seen{X: (s[k].X - s[other].X) / d, Y: (s[k].Y - s[other].Y) / d, Z: (s[k].Z - s[other].Z) / d}
			}
			va, vb := slope(a, a-1), slope(b, b+1)
			h := times[b] - times[a]
			for k := i; k < j; k++ {
				u := (times[k] - times[a]) / h
				f := func(p0, p1, m0, m1 float64) float64 {
					return (2*u*u*u-3*u*u+1)*p0 + (u*u*u-2*u*u+u)*h*m0 + (-2*u*u*u+3*u*u)*p1 + (u*u*u-u*u)*h*m1
				}
				s[k] = Seen{X: f(s[a].X, s[b].X, va.X, vb.X), Y: f(s[a].Y, s[b].Y, va.Y, vb.Y), Z: f(s[a].Z, s[b].Z, va.Z, vb.Z), Known: true, Trust: min(s[a].Trust, s[b].Trust) / 2}
				filled++
			}
		}
		i = j
	}
	return filled
}

// onto brings a lane onto other times by straight lines between its frames.
func onto(to, from []float64, s []Seen) []Seen {
	out := make([]Seen, len(to))
	k := 0
	for i, at := range to {
		for k+2 < len(from) && from[k+1] <= at {
			k++
		}
		u := (at - from[k]) / (from[k+1] - from[k])
		a, b := s[k], s[k+1]
		switch {
		case math.Abs(u) < 1e-6:
			out[i] = a
		case math.Abs(u-1) < 1e-6:
			out[i] = b
		case a.Known && b.Known:
			out[i] = Seen{X: a.X + u*(b.X-a.X), Y: a.Y + u*(b.Y-a.Y), Z: a.Z + u*(b.Z-a.Z), Known: true, Trust: min(a.Trust, b.Trust), Hand: (u < 0.5 && a.Hand) || (u >= 0.5 && b.Hand)}
		}
	}
	return out
}

// lowPass is a zero-lag low-pass: a second-order Butterworth run forward and
// backward, its cut-off corrected for the two runs (Winter; from memory). Values are
// evenly spaced at a rate in Hz; a cut-off at 0.4 of the rate or more changes
// nothing.
func lowPass(v []float64, rate, cutoff float64) []float64 {
	if cutoff >= 0.4*rate || len(v) < 4 {
		return slices.Clone(v)
	}
	wc := math.Tan(math.Pi*cutoff/rate) / math.Pow(math.Sqrt2-1, 0.25)
	k1, k2 := math.Sqrt2*wc, wc*wc
	a0 := k2 / (1 + k1 + k2)
	a1, a2 := 2*a0, a0
	k3 := 2 * a0 / k2
	b1 := -2*a0 + k3
	b2 := 1 - 2*a0 - k3
	pad := min(len(v)-1, int(2*rate/cutoff)+3)
	x := make([]float64, 0, len(v)+2*pad)
	for i := pad; i > 0; i-- {
		x = append(x, 2*v[0]-v[i])
	}
	x = append(x, v...)
	last := len(v) - 1
	for i := 1; i <= pad; i++ {
		x = append(x, 2*v[last]-v[last-i])
	}
	run := func() {
		x1, x2, y1, y2 := x[0], x[0], x[0], x[0]
		for i, now := range x {
			y := a0*now + a1*x1 + a2*x2 + b1*y1 + b2*y2
			x2, x1, y2, y1 = x1, now, y1, y
			x[i] = y
		}
	}
	run()
	slices.Reverse(x)
	run()
	slices.Reverse(x)
	return slices.Clone(x[pad : pad+len(v)])
}

// stretches are the runs of frames in which all of some lanes are known.
func stretches(n int, lanes ...[]Seen) [][2]int {
	var out [][2]int
	from := -1
	for i := 0; i <= n; i++ {
		ok := i < n
		for _, l := range lanes {
			ok = ok && l[i].Known
		}
		if ok && from < 0 {
			from = i
		}
		if !ok && from >= 0 {
			if i-from >= trackLeast {
				out = append(out, [2]int{from, i})
			}
			from = -1
		}
	}
	return out
}

func column(s []Seen, f func(Seen) float64) []float64 {
	out := make([]float64, len(s))
	for i, p := range s {
		out[i] = f(p)
	}
	return out
}

func atX(p Seen) float64 { return p.X }
func atY(p Seen) float64 { return p.Y }

// smooth low-passes the known stretches of a lane.
func smooth(s []Seen, rate, cutoff float64) []Seen {
	out := slices.Clone(s)
	for _, r := range stretches(len(s), s) {
		part := out[r[0]:r[1]]
		x, y := lowPass(column(part, atX), rate, cutoff), lowPass(column(part, atY), rate, cutoff)
		z := lowPass(column(part, func(p Seen) float64 { return p.Z }), rate, cutoff)
		for i := range part {
			part[i].X, part[i].Y, part[i].Z = x[i], y[i], z[i]
		}
	}
	return out
}
