package running

import (
	"bytes"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"notchback/app"
	"notchback/app/input"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/words"
	"notchback/formats"
	"notchback/store"
)

// ImportResult says what became of one file.
type ImportResult struct {
	File    string   `json:"file"`
	Added   int      `json:"added"`
	Known   int      `json:"known" doc:"Runs that were there already, by content or by time"`
	Notes   []string `json:"notes" nullable:"false"`
	Doubled int      `json:"doubled" doc:"Runs whose cadence was counted on one foot"`
	// Table is set where a table needs its columns mapped first; nothing was
	// stored.
	Table *formats.Table `json:"table,omitempty"`
}

// ImportRuns reads one file: all its runs or none. A run that is there already,
// by content or by overlapping time, is not counted twice. A table whose header
// was never mapped comes back for mapping.
func (a *Running) ImportRuns(ctx context.Context, act app.Actor, runner, name string, content []byte, mapping *formats.Mapping) (ImportResult, error) {
	return a.importRuns(ctx, act, runner, name, content, mapping, Felt{})
}

// Felt is what was felt on the one run of a file.
type Felt struct {
	Pain    *int
	Effort  *int
	Limping bool
}

func (f Felt) any() bool { return f.Pain != nil || f.Effort != nil || f.Limping }

// onto adds what was felt to a run; pain that was told stays where it was worse.
func (f Felt) onto(r store.Run) store.Run {
	if f.Pain != nil && (r.Pain == nil || *r.Pain < *f.Pain) {
		r.Pain = f.Pain
	}
	if f.Effort != nil && r.Effort == nil {
		r.Effort = f.Effort
	}
	r.Limping = r.Limping || f.Limping
	return r
}

// ImportFelt reads a file that a runner's phone sent, with what was felt. A file that
// asks something is refused: a phone can't answer it.
func (a *Running) ImportFelt(ctx context.Context, act app.Actor, runner, name string, content []byte, felt Felt) (ImportResult, error) {
	var bad app.Invalid
	for what, n := range map[string]*int{"pain": felt.Pain, "effort": felt.Effort} {
		if n != nil && (*n < 0 || *n > body.PainMax) {
			bad.Add(what, "%d can't be; %s goes from 0 to 10", *n, what)
		}
	}
	if err := bad.Or(); err != nil {
		return ImportResult{}, err
	}
	return a.importRuns(ctx, act, runner, name, content, nil, felt)
}

func (a *Running) importRuns(ctx context.Context, act app.Actor, runner, name string, content []byte, mapping *formats.Mapping, felt Felt) (ImportResult, error) {
	out := ImportResult{File: name, Notes: []string{}}
	kind, err := formats.Sniff(content[:min(len(content), 4096)])
	if err != nil {
		return out, fileFault(name, err)
	}
	var runs []formats.RunFile
	if kind != "csv" {
		if runs, err = formats.ReadRuns(content, a.Now()); err != nil {
			return out, fileFault(name, err)
		}
	}
	err = a.Write(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		if kind == "csv" {
			var err error
			if runs, err = a.tableRuns(ctx, tx, act, content, mapping, &out); err != nil {
				return fileFault(name, err)
			}
			if out.Table != nil && act.Runner != "" {
				return app.Wrong("file", name+" is a table nobody told the columns of yet; send it to your coach")
			}
			if out.Table != nil {
				return nil
			}
		}
		kept, err := a.keepRuns(ctx, tx, act, runner, content, runs, &out)
		if err != nil {
			return err
		}
		if felt.any() && len(kept) == 1 {
			if _, err := tx.PutRun(ctx, felt.onto(kept[0]), act.User.ID); err != nil {
				return err
			}
		} else if felt.any() {
			return app.Wrong("file", fmt.Sprintf("%s has %d runs; tell what was felt by itself", name, len(kept)))
		}
		if out.Added == 0 {
			if felt.any() {
				return a.AfterReading(ctx, tx, act, runner)
			}
			return nil
		}
		if err := tx.Note(ctx, runner, a.Now(), &act.User.ID, "run", app.Plural(out.Added, "run", "runs")+" brought in from "+name, nil); err != nil {
			return err
		}
		return a.AfterReading(ctx, tx, act, runner)
	})
	return out, err
}

func fileFault(name string, err error) error {
	var re *formats.ReadError
	if errors.As(err, &re) {
		return app.Wrong("file", name+": "+re.Error()+"; nothing of it was taken in")
	}
	return err
}

func (a *Running) tableRuns(ctx context.Context, tx *store.Tx, act app.Actor, content []byte, mapping *formats.Mapping, out *ImportResult) ([]formats.RunFile, error) {
	t, err := formats.LookAtTable(content)
	if err != nil {
		return nil, err
	}
	key := formats.HeaderKey(t.Header)
	if mapping == nil {
		raw, err := tx.CSVMapping(ctx, key)
		if errors.Is(err, app.ErrNotFound) {
			out.Table = &t
			return nil, nil
		}
		if err != nil {
			return nil, err
		}
		mapping = &formats.Mapping{}
		if err := json.Unmarshal(raw, mapping); err != nil {
			return nil, err
		}
	} else {
		raw, err := json.Marshal(mapping)
		if err != nil {
			return nil, err
		}
		if err := tx.KeepCSVMapping(ctx, key, raw, act.User.ID); err != nil {
			return nil, err
		}
	}
	return formats.ReadRunTable(content, *mapping, a.Now())
}

// sameStart is how far two starts may lie apart to be one run.
const sameStart = 3 * time.Minute

// sameShare is how close two distances of a day without a start time must be.
const sameShare = 0.03

// sameRun reports whether a run read from a file is one that is there: their
// times overlap for the most part, or, where a start is not known, the day and
// the distance agree.
func sameRun(old store.Run, start *time.Time, on day.Date, metres, seconds int) bool {
	if old.StartedAt == nil || start == nil {
		return app.DateOf(old.On) == on && math.Abs(float64(old.Metres-metres)) <= sameShare*float64(max(old.Metres, metres))
	}
	oldEnd, end := old.StartedAt.Add(time.Duration(old.Seconds)*time.Second), start.Add(time.Duration(seconds)*time.Second)
	if d := old.StartedAt.Sub(*start); d.Abs() <= sameStart {
		return true
	}
	from, to := maxTime(*old.StartedAt, *start), minTime(oldEnd, end)
	return to.Sub(from) > time.Duration(min(old.Seconds, seconds))*time.Second/2
}

func maxTime(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}

func minTime(a, b time.Time) time.Time {
	if a.Before(b) {
		return a
	}
	return b
}

// keepRuns stores runs that are not there, and returns those that stand, in the order
// of the file.
func (a *Running) keepRuns(ctx context.Context, tx *store.Tx, act app.Actor, runner string, content []byte, runs []formats.RunFile, out *ImportResult) (kept []store.Run, err error) {
	have, err := tx.Runs(ctx, runner, time.Date(1990, 1, 1, 0, 0, 0, 0, time.UTC))
	if err != nil {
		return nil, err
	}
	sum := sha256.Sum256(content)
	for i, f := range runs {
		hash := fmt.Sprintf("%s-%d", hex.EncodeToString(sum[:]), i)
		r := store.Run{RunnerID: runner, Metres: f.Metres, Seconds: f.Seconds, Cadence: f.CadenceSpm, Effort: f.Effort, Footwear: f.Footwear, Surface: f.Surface, Note: f.Note, Source: f.Kind, Hash: hash}
		switch {
		case !f.Start.IsZero():
			r.StartedAt = &f.Start
			r.On = day.Of(f.Start, act.Zone).Time()
		default:
			t, err := time.Parse("2006-01-02T15:04:05", f.Local) // a date and a time of day, no moment yet
			if err != nil {
				return nil, err
			}
			on := app.DateOf(t)
			r.On = on.Time()
			if !strings.HasSuffix(f.Local, "T00:00:00") {
				at := on.At(t.Hour(), t.Minute(), t.Second(), act.Zone)
				r.StartedAt = &at
			}
		}
		old, err := tx.RunByContent(ctx, runner, hash)
		switch {
		case err == nil && !old.Removed:
			out.Known++
			kept = append(kept, old)
			continue
		case err == nil: // taken out before: it comes back as it was
			old.Removed = false
			if _, err := tx.PutRun(ctx, old, act.User.ID); err != nil {
				return nil, err
			}
			old.Rev++
			kept = append(kept, old)
			out.Added++
			out.Notes = append(out.Notes, "the run of "+app.DateOf(r.On).Words()+" had been taken out and is back")
			continue
		case !errors.Is(err, app.ErrNotFound):
			return nil, err
		}
		if k := slices.IndexFunc(have, func(o store.Run) bool { return sameRun(o, r.StartedAt, app.DateOf(r.On), r.Metres, r.Seconds) }); k >= 0 {
			out.Known++
			kept = append(kept, have[k])
			out.Notes = append(out.Notes, fmt.Sprintf("%s, %s km: there already (%s)", app.DateOf(r.On).Words(), words.Number(float64(r.Metres)/1000, 1), have[k].Source))
			continue
		}
		if r.ID, err = tx.PutRun(ctx, r, act.User.ID); err != nil {
			return nil, err
		}
		r.Rev = 1
		have, kept = append(have, r), append(kept, r)
		if len(f.Track) > 0 {
			b, err := packTrack(f.Track)
			if err != nil {
				return nil, err
			}
			if err := tx.PutTrack(ctx, r.ID, runner, b); err != nil {
				return nil, err
			}
		}
		out.Added++
		if f.Doubled {
			out.Doubled++
		}
	}
	if out.Doubled > 0 {
		out.Notes = append(out.Notes, "cadence was counted on one foot and doubled")
	}
	return kept, nil
}

func packTrack(t []formats.Point) ([]byte, error) {
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	if err := json.NewEncoder(z).Encode(t); err != nil {
		return nil, err
	}
	err := z.Close()
	return b.Bytes(), err
}

func unpackTrack(b []byte) (t []formats.Point, err error) {
	_, err = input.ReadTrack(b, func(p formats.Point) error { t = append(t, p); return nil })
	return t, err
}

// RunsFile returns a runner's runs as CSV, or those with a track as GPX.
func (a *Running) RunsFile(ctx context.Context, act app.Actor, runner, kind string) (app.File, error) {
	var out app.File
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		r, err := tx.Runner(ctx, runner)
		if err != nil {
			return err
		}
		rows, err := tx.Runs(ctx, runner, time.Date(1990, 1, 1, 0, 0, 0, 0, time.UTC))
		if err != nil {
			return err
		}
		tracks := map[string][]byte{}
		if kind == "gpx" {
			if tracks, err = tx.Tracks(ctx, runner); err != nil {
				return err
			}
		}
		var list []formats.RunRow
		for _, x := range rows {
			row := formats.RunRow{On: app.DateOf(x.On), Pain: x.Pain, Zone: x.Zone, Side: x.Side, Limping: x.Limping, Fast: x.Fast, Source: x.Source,
				RunFile: formats.RunFile{Seconds: x.Seconds, Metres: x.Metres, CadenceSpm: x.Cadence, Effort: x.Effort, Footwear: x.Footwear, Surface: x.Surface, Note: x.Note}}
			if x.StartedAt != nil {
				row.Start = *x.StartedAt
			}
			if b, ok := tracks[x.ID]; ok {
				if row.Track, err = unpackTrack(b); err != nil {
					return err
				}
			}
			list = append(list, row)
		}
		var buf bytes.Buffer
		out.Name = app.FileName(r.Name, "runs", kind)
		if kind == "gpx" {
			out.Type = "application/gpx+xml"
			_, err = formats.RunsGPX(&buf, list)
		} else {
			out.Type = "text/csv; charset=utf-8"
			err = formats.RunsCSV(&buf, list, act.Zone)
		}
		out.Body = buf.Bytes()
		if err != nil {
			return err
		}
		return nil
	})
	return out, err
}
