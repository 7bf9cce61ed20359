package figure

import (
	"fmt"
	"slices"
)

// Things that stay where they are while somebody moves.
var still = []string{"wall", "step", "chair", "table", "mat", "line", "towel", "block", "card", "beat", "tape", "bucket", "pencil"}

// prop puts a thing into the picture.
func (s *scene) prop(t Prop) error {
	at, ok := s.joints[t.At]
	if t.At == "" {
		at, ok = Point{0, 0}, true
	}
	if !ok {
		return fmt.Errorf("%w: a %s hangs on %q", ErrJoint, t.Kind, t.At)
	}
	at = Point{at[0] + t.DX, at[1] + t.DY}
	or := func(v float64) float64 {
		if t.Size > 0 {
			return t.Size
		}
		return v
	}
	if t.To == "floor" { // it lies on the floor under its joint, as big as the room there
		r := or(max(1, (s.ground-at[1])/2))
		at, t.Size = Point{at[0], s.ground - r}, r
	}
	box := func(x0, y0, x1, y1 float64) { s.put(Thing, "square", Point{x0, y0}, 0, x1-x0, y1-y0) }
	switch t.Kind {
	case "wall":
		s.line(Thing, "thick", Point{at[0] + 1.4, at[1] - or(26)}, Point{at[0] + 1.4, s.ground})
	case "step":
		box(at[0]-3, at[1]+0.4, at[0]-3+or(22), s.ground)
	case "chair":
		y := at[1] + 4.4
		s.line(Thing, "line", Point{at[0] - 7, y - 18}, Point{at[0] - 7, s.ground})
		s.line(Thing, "thick", Point{at[0] - 7, y}, Point{at[0] + 7, y})
		s.line(Thing, "line", Point{at[0] + 6.4, y}, Point{at[0] + 6.4, s.ground})
	case "table":
		y := at[1] + 1.6
		s.line(Thing, "thick", Point{at[0] - 3, y}, Point{at[0] + 14, y})
		s.line(Thing, "line", Point{at[0] + 11, y}, Point{at[0] + 11, s.ground})
	case "ball":
		s.put(Thing, "disc", at, 0, or(3.4), or(3.4))
	case "roller":
		s.put(Thing, "disc", at, 0, or(4.6), or(4.6))
		s.put(Thing, "disc", at, 0, or(4.6)*0.45, or(4.6)*0.45)
	case "towel":
		if s.ground-at[1] < 6 {
			at[1] = s.ground - 1
		}
		s.put(Thing, "towel", at, 0, or(6), 2.6)
	case "strap", "band":
		to, ok := s.joints[t.To]
		if !ok {
			return fmt.Errorf("%w: a %s goes to %q", ErrJoint, t.Kind, t.To)
		}
		s.line(Thing, "line", at, to)
		if t.Kind == "band" {
			s.put(Thing, "disc", at, 0, 1.5, 1.5)
		}
	case "weight":
		w := or(4)
		s.line(Thing, "line", Point{at[0] - w, at[1]}, Point{at[0] + w, at[1]})
		box(at[0]-w-0.6, at[1]-w*0.62, at[0]-w+1.8, at[1]+w*0.62)
		box(at[0]+w-1.8, at[1]-w*0.62, at[0]+w+0.6, at[1]+w*0.62)
	case "block":
		w := or(7)
		box(at[0]-w, at[1]+0.6, at[0]+w, max(s.ground, at[1]+3))
	case "mat":
		s.line(Thing, "thick", Point{at[0] - or(36), s.ground + 1.4}, Point{at[0] + or(36), s.ground + 1.4})
	case "card":
		s.line(Thing, "line", Point{at[0] - 5, at[1] + 1}, Point{at[0] + or(11), at[1] + 1})
	case "pencil":
		s.line(Thing, "thick", Point{at[0], at[1] - or(6)}, Point{at[0], at[1] + or(6)})
	case "line":
		s.line(Thing, "line", Point{at[0] - or(34), s.ground + 2.2}, Point{at[0] + or(34), s.ground + 2.2})
	case "tape":
		s.line(Thing, "thin", at, Point{at[0] + or(12), at[1]})
		for i := range 5 {
			x := at[0] + or(12)*float64(i)/4
			s.line(Thing, "thin", Point{x, at[1] - 1.4}, Point{x, at[1] + 1.4})
		}
	case "beat":
		s.put(Thing, "triangle", at, 0, 1, 1)
		s.line(Mark, "thin", Point{at[0], at[1] + 4.6}, Point{at[0] + 3.6, at[1] - 5})
	case "cap":
		s.add(Thing, "cap", at, t.Size)
	case "bucket":
		w := or(9)
		s.line(Thing, "line", Point{at[0] - w - 1.4, s.ground - 13}, Point{at[0] - w, s.ground})
		s.line(Thing, "line", Point{at[0] + w + 1.4, s.ground - 13}, Point{at[0] + w, s.ground})
		s.line(Thing, "line", Point{at[0] - w - 1, s.ground - 9}, Point{at[0] + w + 1, s.ground - 9})
	case "hand":
		s.put(Thing, "fingers", at, t.Size, 1.2, 1.2)
	case "arrow":
		s.add(Mark, "arrow", at, -t.Size) // its direction over the horizontal, in degrees
	}
	return nil
}

// raised is the ankle from which a standing foot is seen to press its ball down.
const raised = -8.0

// presses marks where weight or a push goes into what is under it.
func (s *scene) presses(p Pose) error {
	if a, ok := p.Angles["ankle"]; p.Press == nil && ok && a <= raised && p.View == "body" && s.stands["near"] != (Point{}) {
		p.Press = []string{"ball"}
	}
	for _, at := range s.pressed {
		s.put(Press, "disc", at, 0, 1.8, 1.8)
	}
	for _, j := range p.Press {
		at, ok := s.joints[j]
		if !ok {
			return fmt.Errorf("%w: it presses at %q", ErrJoint, j)
		}
		size := 1.0
		if p.View == "foot" || p.View == "legs" {
			size = 1.5
		}
		if p.View == "toes" { // seen from above, weight is where it is
			s.put(Press, "disc", at, 0, 4, 4)
			continue
		}
		s.put(Press, "press", Point{at[0], at[1] + 0.2}, 0, size, size)
	}
	return nil
}

// furnish puts in what belongs to a pose; marks are left out of what moves. Where the movement started elsewhere, what
// stands still is taken from there.
func (s *scene) furnish(p Pose, from *scene, marks bool) error {
	s.fixed = map[string][]Part{}
	things := p.Props
	if s.seated && !slices.ContainsFunc(things, func(t Prop) bool { return t.Kind == "chair" || t.Kind == "table" && t.At == "pelvis" }) {
		things = append([]Prop{{Kind: "chair", At: "pelvis"}}, things...)
	}
	var behind []Part
	body := s.parts
	s.parts = nil
	for _, t := range things {
		if t.Kind == "arrow" && !marks {
			continue
		}
		n := len(s.parts)
		key := t.Kind + t.At
		if from != nil && slices.Contains(still, t.Kind) && from.fixed[key] != nil {
			s.parts = append(s.parts, from.fixed[key]...)
		} else if err := s.prop(t); err != nil {
			return err
		}
		if slices.Contains(still, t.Kind) {
			s.fixed[key] = slices.Clone(s.parts[n:])
		}
		if slices.Contains([]string{"wall", "step", "chair", "table", "mat", "line", "block"}, t.Kind) {
			behind = append(behind, s.parts[n:]...)
			s.parts = s.parts[:n]
		}
	}
	front := s.parts
	s.parts = append(append(behind, body...), front...)
	if !marks {
		return nil
	}
	return s.presses(p)
}
