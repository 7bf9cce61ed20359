package app

import (
	"bytes"
	"context"
	"errors"
	"os"
	"sync"

	"notchback/core/body"
	"notchback/core/clip"
	"notchback/core/measure"
	"notchback/core/screening"
	"notchback/formats"
	"notchback/store"
)

// trackCache keeps the marker file that was read last, so that mapping it again
// does not read it again.
type trackCache struct {
	mu   sync.Mutex
	hash string
	file formats.Track
}

func (c *trackCache) read(practice, hash, path string) (formats.Track, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.hash == practice+hash {
		return c.file, nil
	}
	f, err := os.Open(path)
	if err != nil {
		return formats.Track{}, err
	}
	t, err := formats.ReadTRC(f)
	if err := errors.Join(err, f.Close()); err != nil {
		return formats.Track{}, err
	}
	c.hash, c.file = practice+hash, t
	return t, nil
}

// ClipTrack reads a marker file by the mapping in the marks: readings over all its
// strides.
func (a *App) ClipTrack(ctx context.Context, act Actor, id string, m clip.Marks) (clip.TrackResult, error) {
	v, err := a.Clip(ctx, act, id)
	if err != nil {
		return clip.TrackResult{}, err
	}
	if v.Kind != "markers" {
		return clip.TrackResult{}, Refused("this is no marker file")
	}
	c, err := a.clip(ctx, act, id)
	if err != nil {
		return clip.TrackResult{}, err
	}
	path, err := a.blobs.Path(act.Practice, c.Hash)
	if err != nil {
		return clip.TrackResult{}, err
	}
	f, err := a.tracks.read(act.Practice, c.Hash, path)
	if err != nil {
		return clip.TrackResult{}, err
	}
	t, err := clip.MarkersAsTrack(f.Rate, f.Markers, len(f.Frames), func(i, k int) measure.Raw {
		p := f.Frames[i][k]
		return measure.Raw{P: [3]float64{p.X, p.Y, p.Z}, Known: p.Known}
	}, m.Mapping)
	var bad measure.ErrMark
	if errors.As(err, &bad) { // a mapping in work is no fault
		return clip.TrackResult{Mended: measure.Mended{Quality: []float64{}}, Events: []measure.FootEvent{}, Readings: []clip.Judged{}, PerStep: [][]measure.StepValue{}, Times: []clip.Judged{}, Says: []string{bad.Words}}, nil
	}
	if err != nil {
		return clip.TrackResult{}, err
	}
	out, err := m.ReadTrack(t, measure.ByMarkers, v.Runner)
	return out, markError(err)
}

// Beside is two clips of a runner laid side by side.
type Beside struct {
	Older       ClipView          `json:"older"`
	Newer       ClipView          `json:"newer"`
	Differences []clip.Difference `json:"differences" nullable:"false"`
}

// readings are the measures of a clip as it is marked.
func (a *App) readings(ctx context.Context, act Actor, v ClipView) (clip.Measures, error) {
	if v.Kind == "markers" {
		r, err := a.ClipTrack(ctx, act, v.ID, v.Marks)
		return append(clip.Measures(r.Readings), r.Times...), err
	}
	r, err := clip.Read(v.Marks, v.Times, v.Runner)
	return r.All(), markError(err)
}

// ClipsBeside lays two clips of a runner side by side, the one of the older screening
// first, each measure they share judged against what is noise.
func (a *App) ClipsBeside(ctx context.Context, act Actor, id, other string) (Beside, error) {
	older, err := a.Clip(ctx, act, id)
	if err != nil {
		return Beside{}, err
	}
	newer, err := a.Clip(ctx, act, other)
	if err != nil {
		return Beside{}, err
	}
	if older.RunnerID != newer.RunnerID {
		return Beside{}, Refused("these are clips of two runners")
	}
	if newer.On < older.On {
		older, newer = newer, older
	}
	out := Beside{Older: older, Newer: newer, Differences: []clip.Difference{}}
	was, err := a.readings(ctx, act, older)
	if err != nil {
		return out, err
	}
	is, err := a.readings(ctx, act, newer)
	if err != nil {
		return out, err
	}
	out.Differences = clip.Compare(was, is)
	return out, nil
}

// RunnerClips lists all finished clips of a runner, newest first.
func (a *App) RunnerClips(ctx context.Context, act Actor, runner string) ([]ClipView, error) {
	out := []ClipView{}
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		list, err := tx.ClipsOf(ctx, runner)
		if err != nil {
			return err
		}
		for _, c := range list {
			v, err := a.clipView(ctx, tx, act, c)
			if err != nil {
				return err
			}
			v.Times = []float64{} // the list does not step through them
			out = append(out, v)
		}
		return nil
	})
	return out, err
}

// Pictured is a trial with a picture.
type Pictured struct {
	Test screening.TestID `json:"test"`
	Side body.Side        `json:"side" enum:"left,right,both"`
	Slot int              `json:"slot"`
}

// TrialPictures lists which trials of a screening have a picture.
func (a *App) TrialPictures(ctx context.Context, act Actor, id string) ([]Pictured, error) {
	out := []Pictured{}
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if _, err := tx.Screening(ctx, id); err != nil {
			return err
		}
		list, err := tx.Pictured(ctx, id)
		for _, t := range list {
			out = append(out, Pictured{screening.TestID(t.Test), body.Side(t.Side), t.Slot})
		}
		return err
	})
	return out, err
}

// PutTrialPicture keeps the picture a trial was read from, a PNG. A new value of the
// trial drops it.
func (a *App) PutTrialPicture(ctx context.Context, act Actor, id string, test screening.TestID, side body.Side, slot int, png []byte) ([]Pictured, error) {
	if len(png) > pictureMost || !bytes.HasPrefix(png, []byte("\x89PNG\r\n\x1a\n")) {
		return nil, Invalid{{"picture", "expected a PNG of at most 6 MiB"}}
	}
	_, rec, err := trialRecord(id, test, side, slot, nil)
	if err != nil {
		return nil, err
	}
	err = a.write(ctx, act, func(tx *store.Tx) error {
		s, err := tx.Screening(ctx, id)
		if err != nil {
			return err
		}
		list, err := tx.Trials(ctx, id)
		if err != nil {
			return err
		}
		if s.FinishedAt != nil {
			return Refused("the screening is finished")
		}
		for _, t := range list {
			if t.Test == rec.Test && t.Side == rec.Side && t.Slot == slot && !t.Removed {
				return tx.PutTrialPicture(ctx, rec, png, act.User.ID)
			}
		}
		return Refused("there is no such trial to put a picture to")
	})
	if err != nil {
		return nil, err
	}
	return a.TrialPictures(ctx, act, id)
}

// TrialPicture returns the picture of a trial.
func (a *App) TrialPicture(ctx context.Context, act Actor, id string, test screening.TestID, side body.Side, slot int) (png []byte, err error) {
	_, rec, err := trialRecord(id, test, side, slot, nil)
	if err != nil {
		return nil, err
	}
	err = a.store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		png, err = tx.TrialPicture(ctx, rec)
		return err
	})
	return png, err
}
