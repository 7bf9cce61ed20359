package practice

import (
	"context"
	"slices"

	"notchback/app"
	"notchback/devices"
	"notchback/devices/sidecam"
	"notchback/store"
)

// StandIn is a file that stands in for a device: a rendered clip, or made-up runs.
type StandIn struct {
	ID   string `json:"id"`
	Kind string `json:"kind" enum:"clip,runs"`
	Name string `json:"name"`
	File string `json:"file"`
}

// What made-up runs are like: so many weeks up to yesterday, of so many km.
const (
	standInRuns    = "runs"
	standInWeeks   = 4
	standInKm      = 32.0
	standInRunSeed = 4
)

// StandIns lists what is offered in place of a camera and a watch; nothing where the
// practice does without.
func (a *Practices) StandIns(ctx context.Context, act app.Actor) ([]StandIn, error) {
	out := []StandIn{}
	var p store.Practice
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		p, err = tx.PracticeSelf(ctx)
		return err
	})
	if err != nil || !p.StandIns {
		return out, err
	}
	for _, d := range sidecam.Demos() {
		out = append(out, StandIn{d.ID, "clip", d.Name, "rendered " + d.ID + ".webm"})
	}
	return append(out, StandIn{standInRuns, "runs", "Four weeks of made-up runs", "made-up runs.zip"}), nil
}

// StandIn returns the file; it goes the way of any file of a camera or a watch.
func (a *Practices) StandIn(ctx context.Context, act app.Actor, id string) (app.File, error) {
	list, err := a.StandIns(ctx, act)
	if err != nil {
		return app.File{}, err
	}
	i := slices.IndexFunc(list, func(s StandIn) bool { return s.ID == id })
	if i < 0 {
		return app.File{}, app.ErrNotFound
	}
	f := app.File{Name: list[i].File, Type: "video/webm"}
	if list[i].Kind == "runs" {
		f.Type = "application/zip"
		f.Body, err = devices.Pack(devices.Outings(a.Now().In(act.Zone), standInWeeks, standInKm, standInRunSeed))
		return f, err
	}
	f.Body, err = sidecam.Shipped(id)
	return f, err
}
