package clips

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"errors"
	"io"
	"slices"
	"strings"
	"sync"
	"time"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/media"
	"notchback/core/body"
	"notchback/core/clip"
	"notchback/core/measure"
	"notchback/core/screening"
	"notchback/formats"
	"notchback/store"
	"notchback/store/blobs"
)

// trackCache keeps the marker file and the proposal that were read last, so that a
// nudge of a point does not read them again.
type trackCache struct {
	mu    sync.Mutex
	hash  string
	file  formats.Track
	id    string
	last  proposed
	until time.Time
}

// proposed is a proposal with the clip it belongs to.
type proposed struct {
	view     ClipView
	proposal clip.Proposal
}

// proposedFor is how long a proposal is believed without asking the database: mass,
// leg length and who may see it change seldom, and then soon show.
const proposedFor = 10 * time.Second

func (c *trackCache) proposed(id, practice string, load func() (proposed, error)) (proposed, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.id == practice+id && time.Now().Before(c.until) {
		return c.last, nil
	}
	x, err := load()
	if err != nil {
		return x, err
	}
	c.id, c.last, c.until = practice+id, x, time.Now().Add(proposedFor)
	return x, nil
}

func (c *trackCache) forget(id string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if strings.HasSuffix(c.id, id) {
		c.id = ""
	}
}

func (c *trackCache) read(d blobs.Store, k blobs.Key) (formats.Track, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.hash == k.Practice+k.Name {
		return c.file, nil
	}
	f, err := d.Open(k)
	if err != nil {
		return formats.Track{}, err
	}
	t, err := formats.ReadTRC(f)
	if err := errors.Join(err, f.Close()); err != nil {
		return formats.Track{}, err
	}
	c.hash, c.file = k.Practice+k.Name, t
	return t, nil
}

// ClipTrack reads a marker file by the mapping in the marks: readings over all its
// strides.
func (a *Footage) ClipTrack(ctx context.Context, act app.Actor, id string, m clip.Marks) (clip.TrackResult, error) {
	v, err := a.Clip(ctx, act, id)
	if err != nil {
		return clip.TrackResult{}, err
	}
	if v.Kind != "markers" {
		return clip.TrackResult{}, app.Refused("this is no marker file")
	}
	c, err := a.clip(ctx, act, id)
	if err != nil {
		return clip.TrackResult{}, err
	}
	d, err := a.folder()
	if err != nil {
		return clip.TrackResult{}, err
	}
	f, err := a.tracks.read(d, blobs.Key{Practice: act.Practice, Kind: blobs.Whole, Name: c.Hash})
	if err != nil {
		return clip.TrackResult{}, err
	}
	t, err := clip.MarkersAsTrack(f.Rate, f.Markers, len(f.Frames), func(i, k int) measure.Raw {
		p := f.Frames[i][k]
		return measure.Raw{P: [3]float64{p.X, p.Y, p.Z}, Known: p.Known}
	}, m.Mapping)
	var bad measure.ErrMark
	if errors.As(err, &bad) { // a mapping in work is no fault
		return clip.Silent(bad.Words), nil
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
func (a *Footage) readings(ctx context.Context, act app.Actor, v ClipView) (clip.Measures, error) {
	if v.Kind == "markers" {
		r, err := a.ClipTrack(ctx, act, v.ID, v.Marks)
		return append(clip.Measures(r.Readings), r.Times...), err
	}
	r, err := clip.Read(v.Marks, v.Times, v.Runner)
	if err != nil {
		return nil, markError(err)
	}
	all := r.All()
	// What was placed by hand is not replaced by what was proposed.
	p, err := a.ReadProposal(ctx, act, v.ID, v.Marks, clip.Span{})
	if err != nil && !errors.Is(err, app.ErrNotFound) {
		return nil, err
	}
	for _, j := range append(p.Readings, p.Times...) {
		if !slices.ContainsFunc(all, func(x clip.Judged) bool { return x.Measure == j.Measure && x.Side == j.Side }) {
			all = append(all, j)
		}
	}
	return all, nil
}

// ClipsBeside lays two clips of a runner side by side, the one of the older screening
// first, each measure they share judged against what is noise.
func (a *Footage) ClipsBeside(ctx context.Context, act app.Actor, id, other string) (Beside, error) {
	older, err := a.Clip(ctx, act, id)
	if err != nil {
		return Beside{}, err
	}
	newer, err := a.Clip(ctx, act, other)
	if err != nil {
		return Beside{}, err
	}
	if older.RunnerID != newer.RunnerID {
		return Beside{}, app.Refused("these are clips of two runners")
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
func (a *Footage) RunnerClips(ctx context.Context, act app.Actor, runner string) ([]ClipView, error) {
	out := []ClipView{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		list, err := tx.ClipsOf(ctx, runner)
		if err != nil {
			return err
		}
		out, err = a.clipViews(ctx, tx, act, list)
		for i := range out {
			out[i].Times = []float64{} // the list does not step through them
		}
		return err
	})
	return out, err
}

// TrialOrigin is where a trial's value comes from.
type TrialOrigin struct {
	Test    screening.TestID `json:"test"`
	Side    body.Side        `json:"side" enum:"left,right,both"`
	Slot    int              `json:"slot"`
	Made    measure.Maker    `json:"made" enum:"by hand,proposed,corrected,markers"`
	Margin  float64          `json:"margin" doc:"± of 95 %, in the test's unit"`
	Mark    string           `json:"mark,omitempty" maxLength:"120" doc:"Which mark of which clip it was read from: a correction of it replaces it"`
	Picture bool             `json:"picture" doc:"There is a picture it was read from"`
}

// TrialOrigins lists where the trials of a screening come from, as far as it is
// known.
func (a *Footage) TrialOrigins(ctx context.Context, act app.Actor, id string) ([]TrialOrigin, error) {
	out := []TrialOrigin{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if _, err := tx.Screening(ctx, id); err != nil {
			return err
		}
		list, err := tx.Origins(ctx, id)
		for _, o := range list {
			out = append(out, TrialOrigin{screening.TestID(o.Test), body.Side(o.Side), o.Slot, measure.Maker(o.Made), o.Margin, o.Mark, o.Picture})
		}
		return err
	})
	return out, err
}

// PutTrialOrigin keeps where a trial's value comes from, with the picture it was read
// from, a PNG, where there is one. A new value of the trial forgets it.
func (a *Footage) PutTrialOrigin(ctx context.Context, act app.Actor, id string, o TrialOrigin, png []byte) ([]TrialOrigin, error) {
	return a.putOrigin(ctx, act, id, o, png, false)
}

// BringTrialOrigin keeps one that came with a bundle, also of a finished screening.
func (a *Footage) BringTrialOrigin(ctx context.Context, act app.Actor, id string, o TrialOrigin, png []byte) error {
	_, err := a.putOrigin(ctx, act, id, o, png, true)
	return err
}

func (a *Footage) putOrigin(ctx context.Context, act app.Actor, id string, o TrialOrigin, png []byte, brought bool) ([]TrialOrigin, error) {
	if len(png) > media.PictureMost {
		return nil, app.Wrong("picture", "expected a PNG of at most 6 MiB, or nothing")
	}
	if len(png) > 0 {
		clean, kind, err := media.Cleaned(bytes.NewReader(png))
		if err != nil || kind != "image/png" {
			return nil, app.Wrong("picture", "expected a PNG of at most 6 MiB, or nothing")
		}
		png = clean
	}
	if !(o.Margin >= 0) || o.Margin > 1000 {
		return nil, app.Wrong("margin", "expected 0 to 1000")
	}
	_, rec, err := input.TrialRecord(id, o.Test, o.Side, o.Slot, nil)
	if err != nil {
		return nil, err
	}
	if png == nil {
		png = []byte{}
	}
	err = a.Write(ctx, act, func(tx *store.Tx) error {
		s, err := tx.Screening(ctx, id)
		if err != nil {
			return err
		}
		if s.FinishedAt != nil && !brought {
			return app.Refused("the screening is finished")
		}
		list, err := tx.Trials(ctx, id)
		if err != nil {
			return err
		}
		for _, t := range list {
			if t.Test == rec.Test && t.Side == rec.Side && t.Slot == o.Slot {
				return tx.PutOrigin(ctx, id, store.Origin{Test: rec.Test, Side: rec.Side, Slot: o.Slot, Made: string(o.Made), Margin: o.Margin, Mark: o.Mark}, png, act.User.ID)
			}
		}
		return app.Refused("there is no such trial")
	})
	if err != nil {
		return nil, err
	}
	return a.TrialOrigins(ctx, act, id)
}

// TrialPicture returns the picture of a trial.
func (a *Footage) TrialPicture(ctx context.Context, act app.Actor, id string, test screening.TestID, side body.Side, slot int) (png []byte, err error) {
	_, rec, err := input.TrialRecord(id, test, side, slot, nil)
	if err != nil {
		return nil, err
	}
	err = a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if png, err = tx.TrialPicture(ctx, rec); err == nil && len(png) == 0 {
			err = app.ErrNotFound
		}
		return err
	})
	return png, err
}

// ProposeMost is how many bytes a proposal may have.
const ProposeMost = 6 << 20

// packed is a proposal as it is kept.
func packed(p clip.Proposal) ([]byte, error) {
	raw, err := json.Marshal(p)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	z := gzip.NewWriter(&out)
	if _, err := z.Write(raw); err != nil {
		return nil, err
	}
	err = z.Close()
	return out.Bytes(), err
}

func unpacked(b []byte, to *clip.Proposal) error {
	z, err := gzip.NewReader(bytes.NewReader(b))
	if err != nil {
		return err
	}
	raw, err := io.ReadAll(io.LimitReader(z, 4*ProposeMost))
	if err != nil {
		return err
	}
	return json.Unmarshal(raw, to)
}

// PutProposal keeps what a landmark library proposed for a stretch of a clip, over what was
// proposed before.
func (a *Footage) PutProposal(ctx context.Context, act app.Actor, id string, p clip.Proposal) (clip.ProposalRead, error) {
	if err := p.Check(); err != nil {
		return clip.ProposalRead{}, markError(err)
	}
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		c, err := tx.Clip(ctx, id)
		if err != nil {
			return err
		}
		if c.Kind == "markers" || c.Hash == "" {
			return app.Refused("points are proposed for clips and photos")
		}
		was, err := tx.Landmarks(ctx, id)
		if err != nil && !errors.Is(err, app.ErrNotFound) {
			return err
		}
		if err == nil { // a part proposed anew leaves the rest as it was
			var old clip.Proposal
			if err := unpacked(was, &old); err != nil {
				return err
			}
			p = p.Over(old)
		}
		packed, err := packed(p)
		if err != nil {
			return err
		}
		return tx.PutLandmarks(ctx, id, packed, act.User.ID)
	})
	if err != nil {
		return clip.ProposalRead{}, err
	}
	a.tracks.forget(id)
	v, err := a.Clip(ctx, act, id)
	if err != nil {
		return clip.ProposalRead{}, err
	}
	return a.ReadProposal(ctx, act, id, v.Marks, clip.Span{})
}

// ReadProposal reads what was proposed for a clip with the marks of a coach, saved or
// not; ErrNotFound where nothing was proposed. show are the frames whose points are
// wanted.
func (a *Footage) ReadProposal(ctx context.Context, act app.Actor, id string, m clip.Marks, show clip.Span) (clip.ProposalRead, error) {
	x, err := a.tracks.proposed(id, act.Practice, func() (proposed, error) {
		var x proposed
		var packed []byte
		err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
			c, err := tx.Clip(ctx, id)
			if err != nil {
				return err
			}
			if x.view, err = a.clipView(ctx, tx, act, c); err != nil {
				return err
			}
			packed, err = tx.Landmarks(ctx, id)
			return err
		})
		if err != nil {
			return x, err
		}
		return x, unpacked(packed, &x.proposal)
	})
	if err != nil {
		return clip.ProposalRead{}, err
	}
	if show.To-show.From > 60 {
		show.To = show.From + 60
	}
	out, err := m.ReadProposal(x.proposal, x.view.Times, x.view.Runner, show)
	return out, markError(err)
}
