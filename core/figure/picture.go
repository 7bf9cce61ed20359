package figure

import (
	"fmt"
	"maps"
	"math"
	"slices"
)

// Picture is a movement: its start, its end with the start as a ghost, and what is
// needed to play it between them.
type Picture struct {
	Start []Part `json:"start" nullable:"false"`
	End   []Part `json:"end" nullable:"false"`
	Motion
}

// Motion is what is needed to play a movement between its ends.
type Motion struct {
	Parts []Part        `json:"parts" nullable:"false" doc:"What moves, as it lies at the start"`
	Moves [][][]float64 `json:"moves" nullable:"false" doc:"Where each of the parts lies at even shares of the way, the start first: x, y and its turn, then how wide and high it is where that changes"`
}

// Frames is how many pictures a movement has, its ends counted; between two of them
// parts go straight.
const Frames = 7

const (
	edge     = 4.0
	smallest = 0.5 // a picture that would be drawn smaller is refused
	moved    = 1.6 // units a part goes before its start is drawn as a ghost
)

func (p Pose) scene() (*scene, error) {
	switch p.View {
	case "foot":
		return foot(p)
	case "toes":
		return toes(p)
	case "legs":
		return legs(p)
	}
	return body(p)
}

// whole is a pose with its things.
func (p Pose) whole(from *scene, marks bool) (*scene, error) {
	s, err := p.scene()
	if err != nil {
		return nil, err
	}
	if from != nil { // on the same floor, around the same joint
		hold(from, s)
	}
	return s, s.furnish(p, from, marks)
}

// Draw returns the parts of one resolved pose, the floor first.
func Draw(p Pose) ([]Part, error) {
	s, err := p.whole(nil, true)
	if err != nil {
		return nil, err
	}
	f, err := fitted(s)
	if err != nil {
		return nil, err
	}
	return f.lay(s, p.View != "toes"), nil
}

// Move draws the movement from one resolved pose to another. Both must be of one view.
func Move(from, to Pose) (Picture, error) {
	var out Picture
	if from.View != to.View {
		return out, fmt.Errorf("a movement stays in one view (it goes from %s to %s)", from.View, to.View)
	}
	first, err := from.whole(nil, true)
	if err != nil {
		return out, fmt.Errorf("start: %w", err)
	}
	plain, err := from.whole(nil, false)
	if err != nil {
		return out, err
	}
	last, err := to.whole(plain, true)
	if err != nil {
		return out, fmt.Errorf("end: %w", err)
	}
	scenes := []*scene{first, last}
	var between []*scene
	for i := range Frames {
		s, err := Between(from, to, float64(i)/(Frames-1)).whole(plain, false)
		if err != nil {
			return out, fmt.Errorf("%d %% of the way: %w", 100*i/(Frames-1), err)
		}
		between = append(between, s)
		scenes = append(scenes, s)
	}
	f, err := fitted(scenes...)
	if err != nil {
		return out, err
	}
	floor := from.View != "toes"
	out.Start = f.lay(first, floor)
	out.End = f.lay(last, floor)
	out.End = append(ghosts(out.Start, out.End), out.End...)
	out.Parts = f.lay(between[0], floor)
	for _, s := range between {
		parts := f.lay(s, floor)
		if len(parts) != len(out.Parts) {
			return out, fmt.Errorf("the start has %d parts and a moment of the way %d", len(out.Parts), len(parts))
		}
		at := make([][]float64, len(parts))
		for i, p := range parts {
			if p.Kind == Work {
				out.Parts[i].Kind = Work // toes that are lifted on the way work on all of it
			}
			at[i] = []float64{p.X, p.Y, nearest(p.Turn, out.turn(i))}
			if q := out.Parts[i]; p.Wide != q.Wide || p.High != q.High {
				at[i] = append(at[i], p.Wide, p.High)
			}
		}
		out.Moves = append(out.Moves, at)
	}
	return out, nil
}

// turn is how the part was turned in the frame before.
func (p Motion) turn(i int) float64 {
	if n := len(p.Moves); n > 0 {
		return p.Moves[n-1][i][2]
	}
	return p.Parts[i].Turn
}

// nearest says an angle so that it goes the short way from another.
func nearest(a, from float64) float64 {
	return tenth(a + 360*math.Round((from-a)/360))
}

// ghosts are the parts of the start that moved.
func ghosts(start, end []Part) []Part {
	var out []Part
	for _, p := range start {
		if p.Kind != Near {
			continue
		}
		i := slices.IndexFunc(end, func(q Part) bool { return q.Kind == Near && q.Part == p.Part })
		if i < 0 {
			continue
		}
		far := 0.0
		was, is := p.places(), end[i].places()
		for k := range was {
			far = max(far, distance(was[k], is[k]))
		}
		if far >= moved {
			p.Kind = Ghost
			out = append(out, p)
		}
	}
	return out
}

// hold moves a scene so that its anchor and its floor are where the first one's are.
func hold(first, s *scene) {
	if s == first {
		return
	}
	dx := first.joints[first.anchor][0] - s.joints[first.anchor][0]
	if first.anchor == "" {
		dx = 0
	}
	s.move(dx, first.ground-s.ground)
}

func (s *scene) move(dx, dy float64) {
	for i := range s.parts {
		s.parts[i].X += dx
		s.parts[i].Y += dy
	}
	for k, p := range s.joints {
		s.joints[k] = Point{p[0] + dx, p[1] + dy}
	}
	for k, p := range s.stands {
		s.stands[k] = Point{p[0] + dx, p[1] + dy}
	}
	s.ground += dy
}

// Between is a pose on the way from one to another: 0 the first, 1 the second.
func Between(from, to Pose, share float64) Pose {
	p := from
	p.Angles = map[string]float64{}
	has := func(p Pose, k string) (float64, bool) {
		if v, ok := p.Angles[k]; ok {
			return v, true
		}
		if near, ok := follows[k]; ok {
			v, ok := p.Angles[near]
			return v, ok
		}
		if k == "apart" {
			return usualApart, true
		}
		return 0, false
	}
	keys := maps.Clone(from.Angles)
	if keys == nil {
		keys = map[string]float64{}
	}
	maps.Copy(keys, to.Angles)
	for k := range keys {
		a, okA := has(from, k)
		b, okB := has(to, k)
		if flat := slices.Contains([]string{"ankle", "farAnkle", "toes", "farToes"}, k); flat && !(okA && okB) {
			// A foot that lies flat at one end: its angle there is what lies flat.
			if !okA {
				a = from.lies(k)
			}
			if !okB {
				b = to.lies(k)
			}
		}
		p.Angles[k] = a + (b-a)*share
	}
	if from.Hold != to.Hold {
		p.Hold = "" // a hand on its way holds nothing
	}
	if from.FarHold != to.FarHold {
		p.FarHold = ""
	}
	p.Props = slid(from, to, share)
	return p
}

// follows are the angles of the far limb, which follow the near one's.
var follows = map[string]string{"farHip": "hip", "farKnee": "knee", "farAnkle": "ankle", "farToes": "toes", "farShoulder": "shoulder", "farElbow": "elbow", "farRoll": "roll", "farRise": "rise"}

// lies is the angle of a foot or of toes that lie flat.
func (p Pose) lies(k string) float64 {
	far := k == "farAnkle" || k == "farToes"
	l := p.leg(Point{}, far)
	if k == "toes" || k == "farToes" {
		return l.toes - l.up
	}
	return l.up - l.shin
}

// slid are the things of the start, on their way to where they are at the end.
func slid(from, to Pose, share float64) []Prop {
	out := slices.Clone(from.Props)
	for i, t := range out {
		j := slices.IndexFunc(to.Props, func(x Prop) bool { return x.Kind == t.Kind && x.At == t.At })
		if j < 0 || slices.Contains(still, t.Kind) {
			continue
		}
		end := to.Props[j]
		out[i].DX += (end.DX - t.DX) * share
		out[i].DY += (end.DY - t.DY) * share
		out[i].Size += (end.Size - t.Size) * share
	}
	return out
}

// frame is how scenes are laid into the box: one scale and place for all of them.
type frame struct{ scale, mid, base, drop float64 }

func fitted(scenes ...*scene) (frame, error) {
	lo, hi := Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
	ground := scenes[0].ground
	for _, s := range scenes {
		for _, p := range s.parts {
			for _, q := range p.places() {
				for i := range 2 {
					lo[i], hi[i] = min(lo[i], q[i]), max(hi[i], q[i])
				}
			}
		}
	}
	flat := scenes[0].anchor != "heel" // the view from above has no floor
	if flat {
		hi[1] = max(hi[1], ground)
	}
	scale := min(1.08, (Size-2*edge)/(hi[0]-lo[0]), (Ground-edge)/(hi[1]-lo[1]))
	if scale < smallest {
		return frame{}, fmt.Errorf("%w: it is %.0f × %.0f units", ErrTooWide, hi[0]-lo[0], hi[1]-lo[1])
	}
	f := frame{scale: scale, mid: (lo[0] + hi[0]) / 2, base: ground, drop: Ground}
	if !flat {
		f.base, f.drop = (lo[1]+hi[1])/2, Size/2
	} else if over := (hi[1] - ground) * scale; over > Size-Ground-1 {
		f.drop -= over - (Size - Ground - 1)
	}
	return f, nil
}

func tenth(v float64) float64 { return math.Round(v*10)/10 + 0 }

func hundredth(v float64) float64 { return math.Round(v*100)/100 + 0 }

// lay puts a scene into the box.
func (f frame) lay(s *scene, floor bool) []Part {
	out := []Part{}
	if floor {
		out = append(out, Part{Kind: Floor, Part: "floor", X: edge, Y: tenth(f.drop), Wide: Size - 2*edge, High: 1})
	}
	for _, p := range s.parts {
		p.X, p.Y = tenth(Size/2+(p.X-f.mid)*f.scale), tenth(f.drop+(p.Y-f.base)*f.scale)
		p.Turn, p.Wide, p.High = tenth(p.Turn), hundredth(p.Wide*f.scale), hundredth(p.High*f.scale)
		if o := outlines[p.Part]; o.open { // a line keeps its width
			p.High = 1
		}
		out = append(out, p)
	}
	return out
}

// Mirror is a pose seen from the other side: the picture turned over.
func Mirror(parts []Part) []Part {
	out := slices.Clone(parts)
	for i, p := range out {
		out[i].X, out[i].Turn, out[i].Wide = tenth(Size-p.X), -p.Turn, -p.Wide
	}
	return out
}
