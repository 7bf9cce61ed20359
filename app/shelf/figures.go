package shelf

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"notchback/app"
	"notchback/core/catalogue"
	"notchback/core/figure"
	"notchback/core/screening"
	"notchback/store"
)

// FigureView is an exercise or a test as it is drawn, beside the text it belongs to.
type FigureView struct {
	ID    string        `json:"id"`
	Kind  string        `json:"kind" enum:"exercise,test"`
	Name  string        `json:"name"`
	Text  string        `json:"text"`
	Cues  []string      `json:"cues" nullable:"false"`
	Poses []string      `json:"poses" nullable:"false" doc:"The positions, as data"`
	Start []figure.Part `json:"start" nullable:"false"`
	End   []figure.Part `json:"end" nullable:"false" doc:"Empty for a test, which is one position"`
}

// Figures are all drawings with the texts they belong to, so that a wrong one is found
// by looking through once.
func (a *Shelves) Figures(ctx context.Context, act app.Actor) ([]FigureView, error) {
	if act.User.Role != "owner" {
		return nil, app.Refused("only the owner of the practice looks through the drawings")
	}
	out := []FigureView{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		l, err := a.CatalogueFor(ctx, tx)
		if err != nil {
			return err
		}
		for _, e := range l.Exercises {
			v := FigureView{ID: e.ID, Kind: "exercise", Name: e.Name, Text: e.SetUp, Cues: e.Cues, Poses: []string{}, Start: []figure.Part{}, End: []figure.Part{}}
			if e.Drawn() {
				p, err := l.Picture(e)
				if err != nil {
					return fmt.Errorf("draw %s: %w", e.ID, err)
				}
				v.Start, v.End = p.Start, p.End
				for i := range 2 {
					pose, err := l.PoseOf(e, i)
					if err != nil {
						return fmt.Errorf("draw %s: %w", e.ID, err)
					}
					v.Poses = append(v.Poses, e.Figure[i]+": "+said(pose))
				}
			}
			out = append(out, v)
		}
		for _, t := range screening.Tests() {
			pose, err := l.Pose(t.Figure)
			if err != nil {
				return err
			}
			out = append(out, FigureView{ID: string(t.ID), Kind: "test", Name: t.Name, Text: t.SetUp, Cues: []string{t.Cue}, Poses: []string{t.Figure + ": " + said(pose)}, Start: t.Picture, End: []figure.Part{}})
		}
		return nil
	})
	return out, err
}

// said writes a pose as a coach reads it: "hip 40°, knee 75°; at work: calf; presses: ball; with a wall".
func said(p figure.Pose) string {
	var parts []string
	units := map[string]string{}
	for _, r := range figure.Angles[p.View] {
		units[r.Name] = map[string]string{"degrees": "°"}[r.Unit]
	}
	for _, k := range slices.Sorted(maps.Keys(p.Angles)) {
		parts = append(parts, fmt.Sprintf("%s %g%s", k, p.Angles[k], units[k]))
	}
	out := []string{strings.Join(parts, ", ")}
	if len(p.Works) > 0 {
		out = append(out, "at work: "+strings.Join(p.Works, ", "))
	}
	if len(p.Press) > 0 {
		out = append(out, "presses: "+strings.Join(p.Press, ", "))
	}
	if p.Hold != "" {
		out = append(out, "holds: "+p.Hold)
	}
	var things []string
	for _, t := range p.Props {
		things = append(things, t.Kind)
	}
	if len(things) > 0 {
		out = append(out, "with: "+strings.Join(things, ", "))
	}
	return strings.TrimPrefix(strings.Join(out, "; "), "; ")
}

// TurnedFigure is a movement between two poses with angles of one's own.
type TurnedFigure struct {
	Start  string              `json:"start" maxLength:"60" example:"stand"`
	End    string              `json:"end" maxLength:"60" example:"squat"`
	Turned [2]catalogue.Turned `json:"turned" example:"[{},{\"knee\":60}]"`
	Part   string              `json:"part,omitempty" maxLength:"60" example:"calf"`
}

// DrawnFigure is what comes of it, with the angles its two poses have.
type DrawnFigure struct {
	figure.Picture
	Angles [2]map[string]float64 `json:"angles" nullable:"false" doc:"All angles of the start and of the end"`
	Ranges []figure.Range        `json:"ranges" nullable:"false"`
}

// DrawFigure draws a movement as it is typed; the error names the pose and the angle.
func (a *Shelves) DrawFigure(in TurnedFigure) (DrawnFigure, error) {
	e := catalogue.Exercise{Figure: [2]string{in.Start, in.End}, Turned: in.Turned, Part: in.Part}
	out := DrawnFigure{Ranges: []figure.Range{}}
	var bad app.Invalid
	for i := range 2 {
		p, err := a.Catalogue.PoseOf(e, i)
		if err != nil {
			bad.Add([]string{"start", "end"}[i], "%s", err)
			continue
		}
		out.Angles[i], out.Ranges = p.Angles, figure.Angles[p.View]
	}
	if err := bad.Or(); err != nil {
		return out, err
	}
	var err error
	if out.Picture, err = a.Catalogue.Picture(e); err != nil {
		return out, app.Wrong("end", err.Error())
	}
	return out, nil
}
