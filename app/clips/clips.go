package clips

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"notchback/app"
	"notchback/app/media"
	"notchback/app/record"
	"notchback/core/clip"
	"notchback/core/day"
	"notchback/core/measure"
	"notchback/core/screening"
	"notchback/formats"
	"notchback/store"
	"notchback/store/blobs"
)

// ClipInput announces a clip.
type ClipInput struct {
	Name string `json:"name" minLength:"1" maxLength:"200"`
	Size int64  `json:"size" minimum:"1" doc:"Bytes, at most 300 MiB"`
	// Print is any text that the same file always gives and another one hardly does.
	Print string `json:"print,omitempty" maxLength:"64" doc:"What the file looks like: an upload of the same that broke off goes on"`
}

// ClipView is a clip with what was marked on it.
type ClipView struct {
	ID          string      `json:"id"`
	RunnerID    string      `json:"runnerId"`
	RunnerName  string      `json:"runnerName"`
	ScreeningID string      `json:"screeningId"`
	On          day.Date    `json:"on" format:"date" doc:"Of the screening"`
	Name        string      `json:"name"`
	Size        int64       `json:"size"`
	Received    int64       `json:"received" doc:"Bytes that are here; an upload goes on from there"`
	Part        int         `json:"part" doc:"Bytes of one part"`
	Ready       bool        `json:"ready"`
	Kind        string      `json:"kind,omitempty" enum:"video,photo,markers,"`
	Thumb       bool        `json:"thumb" doc:"There is a small picture"`
	Converted   bool        `json:"converted,omitempty" doc:"It was turned into what browsers show"`
	Turning     *Turning    `json:"turning,omitempty" doc:"While it is being turned"`
	ProposedAt  *time.Time  `json:"proposedAt,omitempty" doc:"When points were proposed for it"`
	Markers     []string    `json:"markers" nullable:"false" doc:"Of a marker file"`
	Rate        float64     `json:"rate,omitempty" doc:"Of a marker file, Hz"`
	Frames      int         `json:"frames,omitempty" doc:"Of a marker file"`
	Times       []float64   `json:"times" nullable:"false" doc:"Presentation times of the frames, s; empty where they are not known"`
	Rev         int         `json:"rev" doc:"Of the marks; sent back when saving"`
	Marks       clip.Marks  `json:"marks"`
	Runner      clip.Runner `json:"runner"`
}

func (a *Footage) folder() (blobs.Store, error) {
	if a.Blobs == nil {
		return nil, app.Refused("no folder for clips is set on this server")
	}
	return a.Blobs, nil
}

func (a *Footage) clipView(ctx context.Context, tx *store.Tx, act app.Actor, c store.Clip) (ClipView, error) {
	d, err := a.LoadDossier(ctx, tx, act, c.RunnerID)
	if err != nil {
		return ClipView{}, err
	}
	v := ClipView{ID: c.ID, RunnerID: c.RunnerID, RunnerName: d.Runner.Name, ScreeningID: c.ScreeningID, Name: c.Name, Size: c.Size, Part: media.ClipPart, Ready: c.State == store.ClipReady, Kind: c.Kind, Times: c.Times, Thumb: c.HasThumb, ProposedAt: c.ProposedAt, Converted: c.Converted, Markers: c.Markers, Rate: c.Rate, Frames: c.Frames, Turning: turningOf(c),
		Marks: clip.Marks{View: clip.Side, Moments: []clip.Moment{}, Events: []clip.Event{}}}
	if v.Times == nil {
		v.Times = []float64{}
	}
	if v.Markers == nil {
		v.Markers = []string{}
	}
	if m := d.Runner.MassKg; m != nil {
		v.Runner.MassKg = *m
	}
	for _, s := range d.Visits {
		if s.ID != c.ScreeningID {
			continue
		}
		v.On = s.On
		if l, r := s.Conditions.LegLeftCm, s.Conditions.LegRightCm; l != nil && r != nil {
			v.Runner.LegCm = (*l + *r) / 2
		}
		if k := s.Conditions.SpeedKmh; k != nil {
			v.Marks.SpeedKmh = *k
		}
		v.Marks.Footwear = s.Conditions.Shoes
	}
	if !v.Ready && a.Blobs != nil {
		if v.Received, err = a.Blobs.Size(blobs.Key{Practice: act.Practice, Kind: blobs.Upload, Name: c.ID}); err != nil {
			return v, err
		}
	}
	rev, body, err := tx.ClipMarks(ctx, c.ID)
	if errors.Is(err, app.ErrNotFound) {
		return v, nil
	}
	if err != nil {
		return v, err
	}
	v.Rev = rev
	return v, json.Unmarshal(body, &v.Marks)
}

// AddClip announces a clip of a screening; its bytes follow in parts.
func (a *Footage) AddClip(ctx context.Context, act app.Actor, screeningID string, in ClipInput) (ClipView, error) {
	if _, err := a.folder(); err != nil {
		return ClipView{}, err
	}
	if in.Size > media.ClipMost {
		return ClipView{}, app.Wrong("size", fmt.Sprintf("%d MiB is too much; expected at most %d MiB. Cut the clip to a few strides.", in.Size>>20, media.ClipMost>>20))
	}
	if in.Size < 1 {
		return ClipView{}, app.Wrong("size", "the file is empty")
	}
	var out ClipView
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		s, err := tx.Screening(ctx, screeningID)
		if err != nil {
			return err
		}
		list, err := tx.Clips(ctx, screeningID)
		if err != nil {
			return err
		}
		if i := slices.IndexFunc(list, func(c store.Clip) bool {
			return in.Print != "" && c.Print == in.Print && c.State != store.ClipFailed
		}); i >= 0 {
			out, err = a.clipView(ctx, tx, act, list[i])
			return err
		}
		if len(list) >= media.ClipsMost {
			return app.Refused(fmt.Sprintf("a screening holds %d clips; delete one first", media.ClipsMost))
		}
		c, err := tx.AddClip(ctx, store.Clip{RunnerID: s.RunnerID, ScreeningID: screeningID, Name: in.Name, Size: in.Size, Print: in.Print}, act.User.ID)
		if err != nil {
			return err
		}
		out, err = a.clipView(ctx, tx, act, c)
		return err
	})
	return out, err
}

// clip returns a clip of the practice, for coaches who may write.
func (a *Footage) clip(ctx context.Context, act app.Actor, id string) (c store.Clip, err error) {
	err = a.Store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		c, err = tx.Clip(ctx, id)
		return err
	})
	return c, err
}

// AppendClip takes a part of an upload that begins at an offset, and returns how
// many bytes are here then. A part that does not go on from there changes nothing.
func (a *Footage) AppendClip(ctx context.Context, act app.Actor, id string, offset int64, r io.Reader) (int64, error) {
	d, err := a.folder()
	if err != nil {
		return 0, err
	}
	if act.User.Role == "viewer" {
		return 0, app.ErrForbidden
	}
	c, err := a.clip(ctx, act, id)
	if err != nil {
		return 0, err
	}
	switch c.State {
	case store.ClipAnnounced:
		if err := a.Write(ctx, act, func(tx *store.Tx) error { return tx.Uploading(ctx, id) }); err != nil {
			return 0, err
		}
	case store.ClipUploading, store.ClipFailed:
	default:
		return c.Size, app.Refused("this clip is whole already")
	}
	n, err := d.Append(ctx, blobs.Key{Practice: act.Practice, Kind: blobs.Upload, Name: id}, offset, c.Size, io.LimitReader(r, media.ClipPart+1))
	switch {
	case errors.Is(err, blobs.ErrOffset):
		return n, app.Wrong("offset", fmt.Sprintf("%d bytes are here; go on from there", n))
	case errors.Is(err, blobs.ErrTooLong):
		return n, app.Wrong("size", "more came than was announced")
	}
	return n, err
}

// mapAsBefore gives a marker file the mapping of the newest one of the practice with
// the same markers, or one guessed from the names.
func (a *Footage) mapAsBefore(ctx context.Context, tx *store.Tx, act app.Actor, c store.Clip) error {
	v, err := a.clipView(ctx, tx, act, c)
	if err != nil {
		return err
	}
	v.Marks.Mapping = clip.GuessMarkers(c.Markers)
	body, err := tx.MarkedLike(ctx, c.Markers)
	switch {
	case err == nil:
		var was clip.Marks
		if err := json.Unmarshal(body, &was); err != nil {
			return err
		}
		if len(was.Mapping) > 0 {
			v.Marks.Mapping = was.Mapping
		}
	case !errors.Is(err, app.ErrNotFound):
		return err
	}
	raw, err := json.Marshal(v.Marks)
	if err != nil {
		return err
	}
	return tx.PutClipMarks(ctx, c.ID, 0, raw, act.User.ID)
}

// ClipThumb is the small picture of a clip, a JPEG.
func (a *Footage) ClipThumb(ctx context.Context, act app.Actor, id string) (b []byte, err error) {
	err = a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if b, err = tx.ClipThumb(ctx, id); err == nil && len(b) == 0 {
			err = app.ErrNotFound
		}
		return err
	})
	return b, err
}

func (a *Footage) clipViews(ctx context.Context, tx *store.Tx, act app.Actor, list []store.Clip) ([]ClipView, error) {
	out := make([]ClipView, 0, len(list))
	for _, c := range list {
		v, err := a.clipView(ctx, tx, act, c)
		if err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, nil
}

// Clips lists what a screening has, uploads that are not finished included.
func (a *Footage) Clips(ctx context.Context, act app.Actor, screeningID string) ([]ClipView, error) {
	out := []ClipView{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if _, err := tx.Screening(ctx, screeningID); err != nil {
			return err
		}
		list, err := tx.Clips(ctx, screeningID)
		if err != nil {
			return err
		}
		out, err = a.clipViews(ctx, tx, act, list)
		return err
	})
	return out, err
}

// Clip returns one clip.
func (a *Footage) Clip(ctx context.Context, act app.Actor, id string) (ClipView, error) {
	var out ClipView
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		c, err := tx.Clip(ctx, id)
		if err != nil {
			return err
		}
		out, err = a.clipView(ctx, tx, act, c)
		return err
	})
	return out, err
}

// ClipFile opens a clip's file; the caller closes it.
func (a *Footage) ClipFile(ctx context.Context, act app.Actor, id string) (blobs.File, string, error) {
	d, err := a.folder()
	if err != nil {
		return nil, "", err
	}
	c, err := a.clip(ctx, act, id)
	if err != nil {
		return nil, "", err
	}
	if c.State != store.ClipReady {
		return nil, "", app.ErrNotFound
	}
	f, err := d.Open(blobs.Key{Practice: act.Practice, Kind: blobs.Whole, Name: c.Hash})
	if errors.Is(err, fs.ErrNotExist) {
		return nil, "", app.ErrNotFound
	}
	return f, c.Type, err
}

// PutClipMarks stores what was marked, at the revision that was read.
func (a *Footage) PutClipMarks(ctx context.Context, act app.Actor, id string, rev int, m clip.Marks) (ClipView, error) {
	var out ClipView
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		c, err := tx.Clip(ctx, id)
		if err != nil {
			return err
		}
		if _, err := clip.Read(m, c.Times, clip.Runner{}); err != nil {
			return markError(err)
		}
		raw, err := json.Marshal(m)
		if err != nil {
			return err
		}
		if err := tx.PutClipMarks(ctx, id, rev, raw, act.User.ID); err != nil {
			return err
		}
		out, err = a.clipView(ctx, tx, act, c)
		return err
	})
	return out, err
}

func markError(err error) error {
	var bad measure.ErrMark
	if errors.As(err, &bad) {
		return app.Wrong(bad.Field, bad.Words)
	}
	return err
}

// ClipReadInput is marks to be read without saving them.
type ClipReadInput struct {
	Marks    clip.Marks  `json:"marks"`
	Times    []float64   `json:"times,omitempty" maxItems:"200000" doc:"Presentation times, s"`
	Runner   clip.Runner `json:"runner"`
	AgeYears *int        `json:"ageYears,omitempty" minimum:"0" maximum:"130"`
}

// ReadClip reads marks; it needs no database.
func ReadClip(in ClipReadInput) (clip.Result, error) {
	if in.AgeYears != nil {
		in.Runner.Age = screening.Age{Years: *in.AgeYears, Known: true}
	}
	out, err := clip.Read(in.Marks, in.Times, in.Runner)
	return out, markError(err)
}

// ClipOut writes a clip's readings as a table, or its marked places as a marker
// file in mm (which needs a scale).
func (a *Footage) ClipOut(ctx context.Context, act app.Actor, id, kind string) (app.File, error) {
	v, err := a.Clip(ctx, act, id)
	if err != nil {
		return app.File{}, err
	}
	name := strings.TrimSuffix(v.Name, filepath.Ext(v.Name))
	var buf bytes.Buffer
	if kind == "trc" {
		t, err := markedTrack(v)
		if err != nil {
			return app.File{}, err
		}
		return app.File{Name: name + ".trc", Type: "text/plain; charset=utf-8", Body: nil}.With(&buf, formats.WriteTRC(&buf, name, t))
	}
	r, err := clip.Read(v.Marks, v.Times, v.Runner)
	if err != nil {
		return app.File{}, markError(err)
	}
	var rows []formats.ClipRow
	add := func(frame int, moment string, list []clip.Judged) {
		for _, j := range list {
			rows = append(rows, formats.ClipRow{Frame: frame, Moment: moment, Side: string(j.Side), Measure: j.Name, Value: j.Value, Margin: j.Margin, Unit: j.Unit, Class: j.Class, Verdict: string(j.Verdict), Unsure: j.Unsure, Source: j.Source.String()})
		}
	}
	for _, m := range r.Moments {
		add(m.Frame+1, m.Template, m.Readings)
	}
	add(0, "events", r.Times)
	more, err := a.steps(ctx, act, v)
	if err != nil {
		return app.File{}, err
	}
	rows = append(rows, more...)
	return app.File{Name: name + ".csv", Type: "text/csv; charset=utf-8"}.With(&buf, formats.ClipCSV(&buf, rows))
}

// steps are the readings of a marker file or of proposed points, step by step, and
// their medians.
func (a *Footage) steps(ctx context.Context, act app.Actor, v ClipView) ([]formats.ClipRow, error) {
	var r clip.TrackResult
	var err error
	switch {
	case v.Kind == "markers":
		r, err = a.ClipTrack(ctx, act, v.ID, v.Marks)
	case v.ProposedAt != nil:
		var p clip.ProposalRead
		p, err = a.ReadProposal(ctx, act, v.ID, v.Marks, clip.Span{})
		r = p.TrackResult
	}
	if err != nil {
		return nil, err
	}
	var rows []formats.ClipRow
	row := func(frame int, moment string, j clip.Judged, value float64) formats.ClipRow {
		return formats.ClipRow{Frame: frame, Moment: moment, Side: string(j.Side), Measure: j.Name, Value: value, Margin: j.Margin, Unit: j.Unit, Class: j.Class, Verdict: string(j.Verdict), Unsure: j.Unsure, Source: j.Source.String()}
	}
	for i, j := range r.Readings {
		for _, s := range r.PerStep[i] {
			x := row(s.Frame+1, "step, "+string(j.By), j, s.Value)
			x.Margin, x.Class, x.Verdict, x.Unsure = 0, "", "", false
			rows = append(rows, x)
		}
		rows = append(rows, row(0, "median, "+string(j.By), j, j.Value))
	}
	for _, j := range r.Times {
		rows = append(rows, row(0, "all steps, "+string(j.By), j, j.Value))
	}
	return rows, nil
}

// markedTrack puts what was marked into space: mm, x forward, y up from the
// picture's lower edge of the lowest mark, in the one plane there is.
func markedTrack(v ClipView) (formats.Track, error) {
	s := v.Marks.Picture.Scale
	if s == nil || v.Marks.Picture.ScaleCm <= 0 {
		return formats.Track{}, app.Refused("mark the scale first: a marker file is in millimetres")
	}
	mm := 10 * v.Marks.Picture.ScaleCm / math.Hypot(s[1].X-s[0].X, s[1].Y-s[0].Y)
	t := formats.Track{Rate: v.Marks.Rate}
	if n := len(v.Times); n > 1 && v.Times[n-1] > v.Times[0] {
		t.Rate = float64(n-1) / (v.Times[n-1] - v.Times[0])
	}
	if t.Rate <= 0 {
		t.Rate = 1
	}
	if v.Marks.Slow > 0 {
		t.Rate *= v.Marks.Slow
	}
	low, last := math.Inf(-1), len(v.Times)-1
	at := map[string]int{}
	for _, m := range v.Marks.Moments {
		last = max(last, m.Frame)
		for place, p := range m.Points {
			low = max(low, p.Y)
			if n := string(m.Side) + "-" + string(place); at[n] == 0 {
				t.Markers = append(t.Markers, n)
				at[n] = 1
			}
		}
	}
	if len(t.Markers) == 0 {
		return t, app.Refused("no point is marked yet")
	}
	slices.Sort(t.Markers)
	for i, n := range t.Markers {
		at[n] = i
	}
	t.Frames = make([][]formats.Spot3, last+1)
	for i := range t.Frames {
		t.Frames[i] = make([]formats.Spot3, len(t.Markers))
	}
	forward := 1.0
	if v.Marks.Picture.RunsLeft {
		forward = -1
	}
	for _, m := range v.Marks.Moments {
		for place, p := range m.Points {
			t.Frames[m.Frame][at[string(m.Side)+"-"+string(place)]] = formats.Spot3{X: forward * mm * p.X, Y: mm * (low - p.Y), Known: true}
		}
	}
	return t, nil
}

// Footage is the room of clips and of the work on their files.
type Footage struct {
	*record.Book
	sandbox func() media.Sandbox
	bench   bench
	tracks  trackCache
}

// New returns the room with nothing at work.
func New(b *record.Book) *Footage {
	return &Footage{Book: b, sandbox: sync.OnceValue(func() media.Sandbox { return media.FindSandbox(context.Background()) }), bench: newBench()}
}
