package app

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"notchback/core/clip"
	"notchback/core/day"
	"notchback/core/measure"
	"notchback/core/screening"
	"notchback/formats"
	"notchback/store"
	"notchback/store/blobs"
)

// Limits of clips.
const (
	clipMost    = 300 << 20
	ClipPart    = 4 << 20 // bytes of one part of an upload
	clipsMost   = 60      // of one screening
	probeTime   = 40 * time.Second
	probeMost   = 4 << 20 // bytes of what the prober says
	probeSays   = 4 << 10 // bytes of what the prober may complain
	clipFrames  = 200_000
	longestClip = 3600.0 // s
)

// WithBlobs gives clips a folder; without one they are refused.
func WithBlobs(d *blobs.Dir) Option { return func(a *App) { a.blobs = d } }

// ClipInput announces a clip.
type ClipInput struct {
	Name string `json:"name" minLength:"1" maxLength:"200"`
	Size int64  `json:"size" minimum:"1" doc:"Bytes, at most 300 MiB"`
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
	Kind        string      `json:"kind,omitempty" enum:"video,photo,"`
	Times       []float64   `json:"times" nullable:"false" doc:"Presentation times of the frames, s; empty where they are not known"`
	Rev         int         `json:"rev" doc:"Of the marks; sent back when saving"`
	Marks       clip.Marks  `json:"marks"`
	Runner      clip.Runner `json:"runner"`
}

func (a *App) folder() (*blobs.Dir, error) {
	if a.blobs == nil {
		return nil, Refused("no folder for clips is set on this server")
	}
	return a.blobs, nil
}

func (a *App) clipView(ctx context.Context, tx *store.Tx, act Actor, c store.Clip) (ClipView, error) {
	d, err := a.loadDossier(ctx, tx, act, c.RunnerID)
	if err != nil {
		return ClipView{}, err
	}
	v := ClipView{ID: c.ID, RunnerID: c.RunnerID, RunnerName: d.runner.Name, ScreeningID: c.ScreeningID, Name: c.Name, Size: c.Size, Part: ClipPart, Ready: c.Hash != "", Kind: c.Kind, Times: c.Times,
		Marks: clip.Marks{View: clip.Side, Moments: []clip.Moment{}, Events: []clip.Event{}}}
	if v.Times == nil {
		v.Times = []float64{}
	}
	if m := d.runner.MassKg; m != nil {
		v.Runner.MassKg = *m
	}
	for _, s := range d.visits {
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
	if !v.Ready && a.blobs != nil {
		if v.Received, err = a.blobs.Received(act.Practice, c.ID); err != nil {
			return v, err
		}
	}
	rev, body, err := tx.ClipMarks(ctx, c.ID)
	if errors.Is(err, ErrNotFound) {
		return v, nil
	}
	if err != nil {
		return v, err
	}
	v.Rev = rev
	return v, json.Unmarshal(body, &v.Marks)
}

// AddClip announces a clip of a screening; its bytes follow in parts.
func (a *App) AddClip(ctx context.Context, act Actor, screeningID string, in ClipInput) (ClipView, error) {
	if _, err := a.folder(); err != nil {
		return ClipView{}, err
	}
	if in.Size > clipMost {
		return ClipView{}, Invalid{{"size", fmt.Sprintf("%d MiB is too much; expected at most %d MiB. Cut the clip to a few strides.", in.Size>>20, clipMost>>20)}}
	}
	if in.Size < 1 {
		return ClipView{}, Invalid{{"size", "the file is empty"}}
	}
	var out ClipView
	err := a.write(ctx, act, func(tx *store.Tx) error {
		s, err := tx.Screening(ctx, screeningID)
		if err != nil {
			return err
		}
		list, err := tx.Clips(ctx, screeningID)
		if err != nil {
			return err
		}
		if len(list) >= clipsMost {
			return Refused(fmt.Sprintf("a screening holds %d clips; delete one first", clipsMost))
		}
		c, err := tx.AddClip(ctx, store.Clip{RunnerID: s.RunnerID, ScreeningID: screeningID, Name: in.Name, Size: in.Size}, act.User.ID)
		if err != nil {
			return err
		}
		out, err = a.clipView(ctx, tx, act, c)
		return err
	})
	return out, err
}

// clip returns a clip of the practice, for coaches who may write.
func (a *App) clip(ctx context.Context, act Actor, id string) (c store.Clip, err error) {
	err = a.store.In(ctx, act.Practice, func(tx *store.Tx) (err error) {
		c, err = tx.Clip(ctx, id)
		return err
	})
	return c, err
}

// AppendClip takes a part of an upload that begins at an offset, and returns how
// many bytes are here then. A part that does not go on from there changes nothing.
func (a *App) AppendClip(ctx context.Context, act Actor, id string, offset int64, r io.Reader) (int64, error) {
	d, err := a.folder()
	if err != nil {
		return 0, err
	}
	if act.User.Role == "viewer" {
		return 0, ErrForbidden
	}
	c, err := a.clip(ctx, act, id)
	if err != nil {
		return 0, err
	}
	if c.Hash != "" {
		return c.Size, Refused("this clip is whole already")
	}
	n, err := d.Append(act.Practice, id, offset, c.Size, io.LimitReader(r, ClipPart+1))
	switch {
	case errors.Is(err, blobs.ErrOffset):
		return n, Invalid{{"offset", fmt.Sprintf("%d bytes are here; go on from there", n)}}
	case errors.Is(err, blobs.ErrTooLong):
		return n, Invalid{{"size", "more came than was announced"}}
	}
	return n, err
}

// kinds are the types that browsers show, by what the file's beginning says.
var kinds = map[string]string{"video/webm": "video", "video/mp4": "video", "image/jpeg": "photo", "image/png": "photo", "image/webp": "photo"}

// FinishClip looks at a whole upload: what it is, its frames' true times. What
// can't be shown is refused with what to do, and dropped.
func (a *App) FinishClip(ctx context.Context, act Actor, id string) (ClipView, error) {
	d, err := a.folder()
	if err != nil {
		return ClipView{}, err
	}
	if act.User.Role == "viewer" {
		return ClipView{}, ErrForbidden
	}
	c, err := a.clip(ctx, act, id)
	if err != nil {
		return ClipView{}, err
	}
	if c.Hash == "" {
		n, err := d.Received(act.Practice, id)
		if err != nil {
			return ClipView{}, err
		}
		if n != c.Size {
			return ClipView{}, Invalid{{"size", fmt.Sprintf("%d of %d bytes are here; send the rest", n, c.Size)}}
		}
		path, err := d.Part(act.Practice, id)
		if err != nil {
			return ClipView{}, err
		}
		if err := look(ctx, path, &c); err != nil {
			var bad Refused
			if !errors.As(err, &bad) {
				return ClipView{}, err
			}
			return ClipView{}, errors.Join(err, a.DeleteClip(ctx, act, id))
		}
		if c.Hash, err = d.Finish(act.Practice, id); err != nil {
			if errors.Is(err, os.ErrNotExist) {
				return ClipView{}, ErrConflict // finished by somebody else just now
			}
			return ClipView{}, err
		}
	}
	var out ClipView
	err = a.write(ctx, act, func(tx *store.Tx) error {
		if err := tx.FinishClip(ctx, c); err != nil {
			return err
		}
		if err := tx.Note(ctx, c.RunnerID, a.now(), &act.User.ID, "clip", "Clip brought in: "+c.Name, nil); err != nil {
			return err
		}
		var err error
		out, err = a.clipView(ctx, tx, act, c)
		return err
	})
	return out, err
}

// look says what a file is.
func look(ctx context.Context, path string, c *store.Clip) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	head := make([]byte, 512)
	n, err := io.ReadFull(f, head)
	if cerr := f.Close(); cerr != nil || err != nil && !errors.Is(err, io.ErrUnexpectedEOF) {
		return errors.Join(err, cerr)
	}
	c.Type = strings.TrimSuffix(http.DetectContentType(head[:n]), "; charset=utf-8")
	if n > 12 && string(head[4:8]) == "ftyp" { // mp4 and its relatives
		c.Type = "video/mp4"
	}
	kind, ok := kinds[c.Type]
	if !ok {
		return Refused(fmt.Sprintf("this is %s, not a clip or photo a browser shows. Save it as MP4 (H.264), WebM, JPEG or PNG and bring it in again.", c.Type))
	}
	c.Kind, c.Times = kind, []float64{}
	if kind == "photo" {
		return nil
	}
	times, codec, err := probe(ctx, path)
	if err != nil {
		return err
	}
	if codec != "" && !shown[codec] {
		return Refused(fmt.Sprintf("the video is coded as %s, which browsers do not show. Save it as MP4 (H.264) or WebM and bring it in again.", codec))
	}
	c.Times = times
	return nil
}

// shown are the codings that browsers show.
var shown = map[string]bool{"h264": true, "vp8": true, "vp9": true, "av1": true}

// probe asks Debian's ffprobe for the coding and the frames' presentation times,
// without a shell, without the network, under limits of time and of what it may
// say. Where it is not installed the times are not known; that is no error.
func probe(ctx context.Context, path string) ([]float64, string, error) {
	tool, err := exec.LookPath("ffprobe")
	if err != nil {
		return []float64{}, "", nil
	}
	ctx, cancel := context.WithTimeout(ctx, probeTime)
	defer cancel()
	cmd := exec.CommandContext(ctx, "nice", "-n", "10", tool, "-v", "error", "-protocol_whitelist", "file", "-max_alloc", strconv.Itoa(256<<20), "-threads", "1",
		"-select_streams", "v:0", "-show_entries", "stream=codec_name:packet=pts_time", "-of", "csv=p=0", "file:"+path)
	cmd.Env = []string{"PATH=/usr/bin:/bin"}
	var said bytes.Buffer
	cmd.Stderr = &capped{&said, probeSays}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, "", err
	}
	if err := cmd.Start(); err != nil {
		return nil, "", err
	}
	raw, rerr := io.ReadAll(io.LimitReader(out, probeMost+1))
	if len(raw) > probeMost {
		cancel()
	}
	err = errors.Join(rerr, cmd.Wait())
	switch {
	case ctx.Err() != nil:
		return nil, "", Refused("the clip took too long to look at; cut it to a few strides and bring it in again")
	case err != nil, strings.Contains(said.String(), "ended prematurely"), strings.Contains(said.String(), "partial file"):
		return nil, "", Refused("the clip is damaged or cut off; film or copy it again")
	}
	return readProbe(string(raw))
}

// capped keeps the first bytes of what a program says.
type capped struct {
	to   *bytes.Buffer
	most int
}

func (c *capped) Write(p []byte) (int, error) {
	if room := c.most - c.to.Len(); room > 0 {
		c.to.Write(p[:min(room, len(p))])
	}
	return len(p), nil
}

// readProbe reads what the prober says: times in the order of showing.
func readProbe(text string) ([]float64, string, error) {
	var times []float64
	codec := ""
	for line := range strings.Lines(text) {
		line = strings.Trim(line, ",\r\n ")
		if line == "" {
			continue
		}
		v, err := strconv.ParseFloat(line, 64)
		if err != nil {
			codec = line
			continue
		}
		if !math.IsNaN(v) && !math.IsInf(v, 0) {
			times = append(times, v)
		}
	}
	if len(times) == 0 {
		return nil, codec, Refused("there is no picture in this clip")
	}
	slices.Sort(times) // packets come in the order of decoding
	if len(times) > clipFrames || times[len(times)-1]-times[0] > longestClip {
		return nil, codec, Refused("a clip of hours can't be stepped through; cut it to a few strides and bring it in again")
	}
	return times, codec, nil
}

// Clips lists what a screening has, uploads that are not finished included.
func (a *App) Clips(ctx context.Context, act Actor, screeningID string) ([]ClipView, error) {
	out := []ClipView{}
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if _, err := tx.Screening(ctx, screeningID); err != nil {
			return err
		}
		list, err := tx.Clips(ctx, screeningID)
		if err != nil {
			return err
		}
		for _, c := range list {
			v, err := a.clipView(ctx, tx, act, c)
			if err != nil {
				return err
			}
			out = append(out, v)
		}
		return nil
	})
	return out, err
}

// Clip returns one clip.
func (a *App) Clip(ctx context.Context, act Actor, id string) (ClipView, error) {
	var out ClipView
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
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
func (a *App) ClipFile(ctx context.Context, act Actor, id string) (*os.File, string, error) {
	d, err := a.folder()
	if err != nil {
		return nil, "", err
	}
	c, err := a.clip(ctx, act, id)
	if err != nil {
		return nil, "", err
	}
	if c.Hash == "" {
		return nil, "", ErrNotFound
	}
	path, err := d.Path(act.Practice, c.Hash)
	if err != nil {
		return nil, "", err
	}
	f, err := os.Open(path)
	if errors.Is(err, os.ErrNotExist) {
		return nil, "", ErrNotFound
	}
	return f, c.Type, err
}

// PutClipMarks stores what was marked, at the revision that was read.
func (a *App) PutClipMarks(ctx context.Context, act Actor, id string, rev int, m clip.Marks) (ClipView, error) {
	var out ClipView
	err := a.write(ctx, act, func(tx *store.Tx) error {
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
		return Invalid{{bad.Field, bad.Words}}
	}
	return err
}

// DeleteClip deletes a clip, its marks and, where no other clip has the same
// content, its file.
func (a *App) DeleteClip(ctx context.Context, act Actor, id string) error {
	d, err := a.folder()
	if err != nil {
		return err
	}
	var c store.Clip
	left := 0
	err = a.write(ctx, act, func(tx *store.Tx) error {
		if c, err = tx.Clip(ctx, id); err != nil {
			return err
		}
		if left, err = tx.DeleteClip(ctx, c); err != nil {
			return err
		}
		return tx.Note(ctx, c.RunnerID, a.now(), &act.User.ID, "clip", "Clip deleted: "+c.Name, nil)
	})
	if err != nil {
		return err
	}
	if c.Hash != "" && left == 0 {
		err = d.Remove(act.Practice, c.Hash)
	}
	return errors.Join(err, d.Drop(act.Practice, id))
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
func (a *App) ClipOut(ctx context.Context, act Actor, id, kind string) (File, error) {
	v, err := a.Clip(ctx, act, id)
	if err != nil {
		return File{}, err
	}
	name := strings.TrimSuffix(v.Name, filepath.Ext(v.Name))
	var buf bytes.Buffer
	if kind == "trc" {
		t, err := markedTrack(v)
		if err != nil {
			return File{}, err
		}
		return File{Name: name + ".trc", Type: "text/plain; charset=utf-8", Body: nil}.with(&buf, formats.WriteTRC(&buf, name, t))
	}
	r, err := clip.Read(v.Marks, v.Times, v.Runner)
	if err != nil {
		return File{}, markError(err)
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
	return File{Name: name + ".csv", Type: "text/csv; charset=utf-8"}.with(&buf, formats.ClipCSV(&buf, rows))
}

func (f File) with(b *bytes.Buffer, err error) (File, error) {
	f.Body = b.Bytes()
	return f, err
}

// markedTrack puts what was marked into space: mm, x forward, y up from the
// picture's lower edge of the lowest mark, in the one plane there is.
func markedTrack(v ClipView) (formats.Track, error) {
	s := v.Marks.Picture.Scale
	if s == nil || v.Marks.Picture.ScaleCm <= 0 {
		return formats.Track{}, Refused("mark the scale first: a marker file is in millimetres")
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
		return t, Refused("no point is marked yet")
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
