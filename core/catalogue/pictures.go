package catalogue

import (
	"fmt"
	"maps"

	"notchback/core/figure"
)

// Turned are angles that differ from a pose's, by name.
type Turned map[string]float64

// Drawn reports whether an exercise has a drawing.
func (e Exercise) Drawn() bool { return e.Figure[0] != "" && e.Figure[1] != "" }

// shows are the regions drawn at work for where an exercise acts.
var shows = map[string][]string{
	"sole": {"sole"}, "toes": {"toes"}, "ankle": {"ankle"}, "front-ankle": {"front-ankle"}, "calf": {"calf"}, "shin": {"shin"},
	"thigh-hip": {"thigh"}, "whole-leg": {"calf", "thigh"},
}

// Pose is a position by name, whole.
func (c Catalogue) Pose(name string) (figure.Pose, error) { return figure.Resolve(name, c.poses) }

// PoseOf is the start (0) or the end (1) of an exercise's movement, with what an own
// exercise changes of it, and what works where the pose says nothing of it.
func (c Catalogue) PoseOf(e Exercise, end int) (figure.Pose, error) {
	p, err := c.Pose(e.Figure[end])
	if err != nil {
		return p, err
	}
	if t := e.Turned[end]; len(t) > 0 {
		angles := maps.Clone(p.Angles)
		if angles == nil {
			angles = map[string]float64{}
		}
		maps.Copy(angles, t)
		p.Angles = angles
		if err := p.Check(e.Figure[end]); err != nil {
			return p, err
		}
	}
	_, states := p.Angles["big"]
	if p.Works == nil && (p.View != "toes" || !states) { // which toes go up says what works
		p.Works = shows[e.Part]
	}
	return p, nil
}

// Picture draws an exercise: its start, its end, and the way between. The error names
// the pose and what is wrong with it.
func (c Catalogue) Picture(e Exercise) (figure.Picture, error) {
	key := ""
	if len(e.Turned[0])+len(e.Turned[1]) == 0 {
		key = fmt.Sprintf("%s/%s/%s", e.Figure[0], e.Figure[1], e.Part)
		if p, ok := c.pictures.Load(key); ok {
			return p.(figure.Picture), nil
		}
	}
	var ends [2]figure.Pose
	for i := range ends {
		p, err := c.PoseOf(e, i)
		if err != nil {
			return figure.Picture{}, err
		}
		ends[i] = p
	}
	out, err := figure.Move(ends[0], ends[1])
	if err != nil {
		return out, fmt.Errorf("from %s to %s: %w", e.Figure[0], e.Figure[1], err)
	}
	if key != "" {
		c.pictures.Store(key, out)
	}
	return out, nil
}
