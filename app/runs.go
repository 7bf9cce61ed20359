package app

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

	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/transition"
	"notchback/core/words"
	"notchback/formats"
	"notchback/store"
)

// RunInput is a run as typed or corrected.
type RunInput struct {
	On        day.Date      `json:"on" format:"date"`
	StartedAt string        `json:"startedAt,omitempty" maxLength:"5" doc:"Local time of day, like 06:40"`
	Km        float64       `json:"km"`
	Minutes   float64       `json:"minutes"`
	Cadence   *float64      `json:"cadence,omitempty" doc:"Steps of both feet a minute"`
	Effort    *int          `json:"effort,omitempty" doc:"CR10, 0–10"`
	Footwear  load.Footwear `json:"footwear,omitempty" enum:"usual,minimal,bare,"`
	Surface   string        `json:"surface,omitempty" maxLength:"60"`
	Shoe      string        `json:"shoe,omitempty" maxLength:"60"`
	Fast      bool          `json:"fast,omitempty"`
	Pain      *int          `json:"pain,omitempty" doc:"Worst pain, 0–10"`
	Zone      string        `json:"zone,omitempty" maxLength:"30"`
	Side      body.Side     `json:"side,omitempty" enum:"left,right,both,"`
	Limping   bool          `json:"limping,omitempty"`
	Note      string        `json:"note,omitempty" maxLength:"500"`
	Reason    string        `json:"reason,omitempty" maxLength:"300" doc:"Needed where a pain, a limp or the distance told before is changed"`
}

// RunView is a run with what is known of it.
type RunView struct {
	RunInput
	ID       string `json:"id"`
	Rev      int    `json:"rev"`
	Source   string `json:"source" enum:"typed,fit,gpx,tcx,csv"`
	HasTrack bool   `json:"hasTrack,omitempty"`
}

func (in RunInput) check(today day.Date) error {
	var bad Invalid
	if in.On > today+1 {
		bad.add("on", "%s is in the future", in.On)
	}
	if in.On < today-20*365 {
		bad.add("on", "%s can't be; expected a day of the last twenty years", in.On)
	}
	if in.StartedAt != "" {
		if _, err := time.Parse("15:04", in.StartedAt); err != nil {
			bad.add("startedAt", "%q is not a time of day like 06:40", in.StartedAt)
		}
	}
	if !(in.Km >= 0 && in.Km <= 300) {
		bad.add("km", "%g km can't be; expected 0 to 300", in.Km)
	}
	if !(in.Minutes > 0 && in.Minutes <= 2880) {
		bad.add("minutes", "%g minutes can't be; expected up to 48 hours", in.Minutes)
	} else if in.Km/in.Minutes > 0.51 {
		bad.add("minutes", "%g km in %g min is not a run", in.Km, in.Minutes)
	}
	if c := in.Cadence; c != nil && (*c < 60 || *c > 260) {
		bad.add("cadence", "%g steps a minute can't be; expected 60 to 260 of both feet", *c)
	}
	if e := in.Effort; e != nil && (*e < 0 || *e > 10) {
		bad.add("effort", "%d can't be; effort goes from 0 to 10", *e)
	}
	if p := in.Pain; p != nil && (*p < 0 || *p > body.PainMax) {
		bad.add("pain", "%d can't be; pain goes from 0 to 10", *p)
	}
	if in.Zone != "" && !slices.ContainsFunc(screening.Zones, func(z struct {
		ID   screening.Zone
		Name string
	}) bool {
		return string(z.ID) == in.Zone
	}) {
		bad.add("zone", "%q is not a place on the map", in.Zone)
	}
	return bad.or()
}

func (in RunInput) row(r store.Run, zone *time.Location) store.Run {
	r.On, r.Metres, r.Seconds = in.On.Time(), int(math.Round(in.Km*1000)), int(math.Round(in.Minutes*60))
	r.Cadence, r.Effort, r.Footwear, r.Surface, r.Shoe, r.Fast = in.Cadence, in.Effort, string(in.Footwear), in.Surface, in.Shoe, in.Fast
	r.Pain, r.Zone, r.Side, r.Limping, r.Note = in.Pain, in.Zone, string(in.Side), in.Limping, in.Note
	if r.Source == "typed" || r.Source == "" {
		r.StartedAt = nil
		if t, err := time.Parse("15:04", in.StartedAt); err == nil {
			at := in.On.At(t.Hour(), t.Minute(), 0, zone)
			r.StartedAt = &at
		}
	}
	return r
}

func runView(r store.Run, zone *time.Location) RunView {
	v := RunView{ID: r.ID, Rev: r.Rev, Source: r.Source, RunInput: RunInput{
		On: dateOf(r.On), Km: float64(r.Metres) / 1000, Minutes: math.Round(float64(r.Seconds)/0.6) / 100, Cadence: r.Cadence, Effort: r.Effort, Footwear: load.Footwear(r.Footwear), Surface: r.Surface,
		Shoe: r.Shoe, Fast: r.Fast, Pain: r.Pain, Zone: r.Zone, Side: body.Side(r.Side), Limping: r.Limping, Note: r.Note}}
	if r.StartedAt != nil {
		v.StartedAt = r.StartedAt.In(zone).Format("15:04")
	}
	return v
}

// runsBack is how far back runs are looked at, in days.
const runsBack = record.Back

// Runs lists a runner's runs, newest first.
func (a *App) Runs(ctx context.Context, act Actor, runner string) ([]RunView, error) {
	out := []RunView{}
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		rows, err := tx.Runs(ctx, runner, (a.Today(act) - runsBack).Time())
		if err != nil {
			return err
		}
		for i := len(rows) - 1; i >= 0; i-- {
			out = append(out, runView(rows[i], act.zone))
		}
		return nil
	})
	return out, err
}

// AddRun stores a typed run.
func (a *App) AddRun(ctx context.Context, act Actor, key, runner string, in RunInput) (RunView, error) {
	var out RunView
	if err := in.check(a.Today(act)); err != nil {
		return out, err
	}
	err := a.write(ctx, act, func(tx *store.Tx) (err error) {
		out, err = once(ctx, a, tx, act, asked{"addRun", runner, key}, in, func() (RunView, error) {
			if _, err := tx.Runner(ctx, runner); err != nil {
				return RunView{}, err
			}
			r := in.row(store.Run{RunnerID: runner, Source: "typed"}, act.zone)
			if r.ID, err = tx.PutRun(ctx, r, act.User.ID); err != nil {
				return RunView{}, err
			}
			r.Rev = 1
			if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "run", fmt.Sprintf("Run of %s: %s km", in.On.Words(), words.Number(in.Km, 1)), nil); err != nil {
				return RunView{}, err
			}
			return runView(r, act.zone), a.afterReading(ctx, tx, act, runner)
		})
		return err
	})
	return out, err
}

// ChangeRun stores a correction of a run at the revision that was read.
func (a *App) ChangeRun(ctx context.Context, act Actor, id string, rev int, in RunInput) (RunView, error) {
	var out RunView
	if err := in.check(a.Today(act)); err != nil {
		return out, err
	}
	err := a.write(ctx, act, func(tx *store.Tx) error {
		r, err := tx.Run(ctx, id)
		if err != nil {
			return err
		}
		if r.Rev != rev || r.Removed {
			return ErrConflict
		}
		what := in.putsRight(r)
		if what != "" && strings.TrimSpace(in.Reason) == "" {
			return Invalid{{"reason", what + "; say why, for the journal"}}
		}
		r = in.row(r, act.zone)
		if _, err := tx.PutRun(ctx, r, act.User.ID); err != nil {
			return err
		}
		r.Rev++
		out = runView(r, act.zone)
		if what != "" {
			if err := tx.Note(ctx, r.RunnerID, a.now(), &act.User.ID, "run", "Run of "+dateOf(r.On).Words()+" put right: "+in.Reason, in); err != nil {
				return err
			}
		}
		return a.afterReading(ctx, tx, act, r.RunnerID)
	})
	return out, err
}

// putsRight says what of a run that was told before is changed.
func (in RunInput) putsRight(was store.Run) string {
	switch {
	case was.Pain != nil && (in.Pain == nil || *in.Pain != *was.Pain):
		return "this changes the pain of a run"
	case was.Limping && !in.Limping:
		return "this takes back a limp"
	case was.Metres > 0 && int(math.Round(in.Km*1000)) != was.Metres:
		return "this changes the distance of a run"
	}
	return ""
}

// RemoveRun takes a run out of every count; its revisions stay in the record.
func (a *App) RemoveRun(ctx context.Context, act Actor, id string, rev int, reason string) error {
	return a.write(ctx, act, func(tx *store.Tx) error {
		r, err := tx.Run(ctx, id)
		if err != nil {
			return err
		}
		if r.Rev != rev || r.Removed {
			return ErrConflict
		}
		if reason = strings.TrimSpace(reason); reason == "" {
			return Invalid{{"reason", "this takes a run out; say why, for the journal"}}
		}
		r.Removed = true
		if _, err := tx.PutRun(ctx, r, act.User.ID); err != nil {
			return err
		}
		if err := tx.Note(ctx, r.RunnerID, a.now(), &act.User.ID, "run", "Run of "+dateOf(r.On).Words()+" taken out: "+reason, nil); err != nil {
			return err
		}
		return a.afterReading(ctx, tx, act, r.RunnerID)
	})
}

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
func (a *App) ImportRuns(ctx context.Context, act Actor, runner, name string, content []byte, mapping *formats.Mapping) (ImportResult, error) {
	out := ImportResult{File: name, Notes: []string{}}
	kind, err := formats.Sniff(content[:min(len(content), 4096)])
	if err != nil {
		return out, fileFault(name, err)
	}
	var runs []formats.RunFile
	if kind != "csv" {
		if runs, err = formats.ReadRuns(content, a.now()); err != nil {
			return out, fileFault(name, err)
		}
	}
	err = a.write(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		if kind == "csv" {
			var err error
			if runs, err = a.tableRuns(ctx, tx, act, content, mapping, &out); err != nil || out.Table != nil {
				if err != nil {
					return fileFault(name, err)
				}
				return nil
			}
		}
		if err := a.keepRuns(ctx, tx, act, runner, content, runs, &out); err != nil {
			return err
		}
		if out.Added == 0 {
			return nil
		}
		if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "run", plural(out.Added, "run", "runs")+" brought in from "+name, nil); err != nil {
			return err
		}
		return a.afterReading(ctx, tx, act, runner)
	})
	return out, err
}

func fileFault(name string, err error) error {
	var re *formats.ReadError
	if errors.As(err, &re) {
		return Invalid{{"file", name + ": " + re.Error() + "; nothing of it was taken in"}}
	}
	return err
}

func (a *App) tableRuns(ctx context.Context, tx *store.Tx, act Actor, content []byte, mapping *formats.Mapping, out *ImportResult) ([]formats.RunFile, error) {
	t, err := formats.LookAtTable(content)
	if err != nil {
		return nil, err
	}
	key := formats.HeaderKey(t.Header)
	if mapping == nil {
		raw, err := tx.CSVMapping(ctx, key)
		if errors.Is(err, ErrNotFound) {
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
	return formats.ReadRunTable(content, *mapping, a.now())
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
		return dateOf(old.On) == on && math.Abs(float64(old.Metres-metres)) <= sameShare*float64(max(old.Metres, metres))
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

func (a *App) keepRuns(ctx context.Context, tx *store.Tx, act Actor, runner string, content []byte, runs []formats.RunFile, out *ImportResult) error {
	have, err := tx.Runs(ctx, runner, time.Date(1990, 1, 1, 0, 0, 0, 0, time.UTC))
	if err != nil {
		return err
	}
	sum := sha256.Sum256(content)
	for i, f := range runs {
		hash := fmt.Sprintf("%s-%d", hex.EncodeToString(sum[:]), i)
		r := store.Run{RunnerID: runner, Metres: f.Metres, Seconds: f.Seconds, Cadence: f.CadenceSpm, Effort: f.Effort, Footwear: f.Footwear, Surface: f.Surface, Note: f.Note, Source: f.Kind, Hash: hash}
		switch {
		case !f.Start.IsZero():
			r.StartedAt = &f.Start
			r.On = day.Of(f.Start, act.zone).Time()
		default:
			t, err := time.Parse("2006-01-02T15:04:05", f.Local) // a date and a time of day, no moment yet
			if err != nil {
				return err
			}
			on := dateOf(t)
			r.On = on.Time()
			if !strings.HasSuffix(f.Local, "T00:00:00") {
				at := on.At(t.Hour(), t.Minute(), t.Second(), act.zone)
				r.StartedAt = &at
			}
		}
		old, err := tx.RunByContent(ctx, runner, hash)
		switch {
		case err == nil && !old.Removed:
			out.Known++
			continue
		case err == nil: // taken out before: it comes back as it was
			old.Removed = false
			if _, err := tx.PutRun(ctx, old, act.User.ID); err != nil {
				return err
			}
			out.Added++
			out.Notes = append(out.Notes, "the run of "+dateOf(r.On).Words()+" had been taken out and is back")
			continue
		case !errors.Is(err, ErrNotFound):
			return err
		}
		if k := slices.IndexFunc(have, func(o store.Run) bool { return sameRun(o, r.StartedAt, dateOf(r.On), r.Metres, r.Seconds) }); k >= 0 {
			out.Known++
			out.Notes = append(out.Notes, fmt.Sprintf("%s, %s km: there already (%s)", dateOf(r.On).Words(), words.Number(float64(r.Metres)/1000, 1), have[k].Source))
			continue
		}
		if r.ID, err = tx.PutRun(ctx, r, act.User.ID); err != nil {
			return err
		}
		have = append(have, r)
		if len(f.Track) > 0 {
			b, err := packTrack(f.Track)
			if err != nil {
				return err
			}
			if err := tx.PutTrack(ctx, r.ID, runner, b); err != nil {
				return err
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
	return nil
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
	_, err = readTrack(b, func(p formats.Point) error { t = append(t, p); return nil })
	return t, err
}

// RunsFile returns a runner's runs as CSV, or those with a track as GPX.
func (a *App) RunsFile(ctx context.Context, act Actor, runner, kind string) (File, error) {
	var out File
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
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
			row := formats.RunRow{On: dateOf(x.On), Pain: x.Pain, Zone: x.Zone, Side: x.Side, Limping: x.Limping, Fast: x.Fast, Source: x.Source,
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
		out.Name = fileName(r.Name, "runs", kind)
		if kind == "gpx" {
			out.Type = "application/gpx+xml"
			_, err = formats.RunsGPX(&buf, list)
		} else {
			out.Type = "text/csv; charset=utf-8"
			err = formats.RunsCSV(&buf, list, act.zone)
		}
		out.Body = buf.Bytes()
		if err != nil {
			return err
		}
		return nil
	})
	return out, err
}

// PlanWeek stores the planned running of a coming week.
func (a *App) PlanWeek(ctx context.Context, act Actor, runner string, monday day.Date, km float64) error {
	var bad Invalid
	if monday.Monday() != monday {
		bad.add("monday", "%s is not a Monday", monday)
	}
	if today := a.Today(act); monday < today-runsBack || monday > today+runsBack {
		bad.add("monday", "%s is too far away", monday)
	}
	if !(km >= 0 && km <= 400) {
		bad.add("km", "%g km can't be; expected 0 to 400", km)
	}
	if err := bad.or(); err != nil {
		return err
	}
	return a.write(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		if err := tx.PutPlannedWeek(ctx, runner, store.Planned{Monday: monday.Time(), Metres: int(math.Round(km * 1000))}, act.User.ID); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.now(), &act.User.ID, "plan", fmt.Sprintf("%s km planned for the week of %s", words.Number(km, 1), monday.Words()), nil); err != nil {
			return err
		}
		return a.afterReading(ctx, tx, act, runner)
	})
}

// LoadDay is one day on the time axis.
type LoadDay struct {
	On        day.Date                                   `json:"on" format:"date"`
	Metres    int                                        `json:"metres"`
	Short     float64                                    `json:"short" doc:"EWMA over 7 days, metres a day"`
	Long      float64                                    `json:"long" doc:"EWMA over 28 days"`
	FirstStep *int                                       `json:"firstStep,omitempty"`
	Rest      *int                                       `json:"rest,omitempty"`
	RunPain   *int                                       `json:"runPain,omitempty"`
	Pain      *int                                       `json:"pain,omitempty" doc:"Worst pain of the day's session"`
	Dose      map[body.Tissue]map[load.Component]float64 `json:"dose" doc:"The worse side, body weights times repetitions"`
	Peak      map[body.Tissue]map[load.Component]float64 `json:"peak" doc:"The same with the weight cubed"`
}

// LoadWeek is a week's running against its limits.
type LoadWeek struct {
	load.Total
	Week    load.WeekRatio `json:"week"`
	Long    load.Long      `json:"long"`
	Words   string         `json:"words"`
	Planned *int           `json:"plannedMetres,omitempty"`
}

// LoadEvent is something to mark on the time axis.
type LoadEvent struct {
	On   day.Date `json:"on" format:"date"`
	Kind string   `json:"kind" enum:"screening,block,flare,deload,race,shoe,flag"`
	Text string   `json:"text"`
}

// NotchDay is where a ladder stood from a date on.
type NotchDay struct {
	On    day.Date `json:"on" format:"date"`
	Left  int      `json:"left"`
	Right int      `json:"right"`
}

// NotchLine is a ladder's way on the time axis.
type NotchLine struct {
	Ladder  string     `json:"ladder"`
	Name    string     `json:"name"`
	Notches int        `json:"notches"`
	Days    []NotchDay `json:"days" nullable:"false"`
}

// ComponentRule says what a component of the dose is held to now.
type ComponentRule struct {
	Component load.Component `json:"component" enum:"running,exposure,strength,spring"`
	Rule      string         `json:"rule"`
	State     string         `json:"state"`
	Holds     bool           `json:"holds"`
}

// LoadView is a runner's load on one time axis.
type LoadView struct {
	Today      day.Date        `json:"today" format:"date"`
	Days       []LoadDay       `json:"days" nullable:"false"`
	Weeks      []LoadWeek      `json:"weeks" nullable:"false"`
	Next       LoadWeek        `json:"next" doc:"The coming week as planned"`
	Running    load.Running    `json:"running"`
	Words      string          `json:"words"`
	Warning    string          `json:"warning,omitempty" doc:"A planned jump, with what would be steady"`
	Advice     load.Advice     `json:"advice"`
	AdviceText string          `json:"adviceText"`
	AdviceWhy  string          `json:"adviceWhy"`
	Components []ComponentRule `json:"components" nullable:"false"`
	Events     []LoadEvent     `json:"events" nullable:"false"`
	Notches    []NotchLine     `json:"notches" nullable:"false"`
	Missing    []string        `json:"missing" nullable:"false" doc:"What is not known, said and not invented"`
	Sources    []string        `json:"sources" nullable:"false"`
	Usual      float64         `json:"usual"`
}

// Load returns a runner's load, pain and notches on one time axis.
func (a *App) Load(ctx context.Context, act Actor, runner string, weeks int) (LoadView, error) {
	weeks = max(4, min(52, weeks))
	var out LoadView
	if err := a.catchUp(ctx, act, runner); err != nil {
		return out, err
	}
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		k, err := a.open(ctx, tx, act, runner, nil)
		if err != nil {
			return err
		}
		out = k.loadView(weeks)
		return nil
	})
	return out, err
}

// gathered is what is known of a runner's running and days, for their pages.
type gathered struct {
	today    day.Date
	runs     []load.Run
	shoes    []string // shoe of each run
	planned  map[day.Date]int
	notes    map[day.Date]DayInput
	mornings []store.Morning
	intake   *int
}

func newGathered(rows *record.Rows, today day.Date) (*gathered, error) {
	g := &gathered{today: today, planned: map[day.Date]int{}, notes: map[day.Date]DayInput{}, mornings: rows.Mornings}
	for _, r := range rows.Runs {
		g.runs, g.shoes = append(g.runs, record.CoreRun(r)), append(g.shoes, r.Shoe)
	}
	for _, p := range rows.Planned {
		g.planned[dateOf(p.Monday)] = p.Metres
	}
	for _, n := range rows.Notes {
		var in DayInput
		if err := json.Unmarshal(n.Body, &in); err != nil {
			return nil, fmt.Errorf("note of %s: %w", dateOf(n.On), err)
		}
		g.notes[dateOf(n.On)] = in
	}
	if km := rows.Runner.WeeklyKm; km != nil {
		m := int(math.Round(*km * 1000))
		g.intake = &m
	}
	return g, nil
}

func worstOf(list []store.Morning, on day.Date, pick func(store.Morning) *int) *int {
	var out *int
	for _, m := range list {
		if v := pick(m); dateOf(m.On) == on && v != nil && (out == nil || *v > *out) {
			out = v
		}
	}
	return out
}

func firstStepOf(m store.Morning) *int { return m.FirstStep }
func restOf(m store.Morning) *int      { return m.Rest }

func (k *desk) loadView(weeks int) LoadView {
	g, f, d := k.g, k.f, k.d
	from := g.today.Monday() - day.Date(7*(weeks-1))
	out := LoadView{Today: g.today, Days: []LoadDay{}, Weeks: []LoadWeek{}, Components: []ComponentRule{}, Events: []LoadEvent{}, Notches: []NotchLine{}, Missing: []string{},
		Sources: []string{load.RatioSource.String(), load.LongestSource.String(), WeightSource}}
	warm := from - 60
	daily := load.Daily(g.runs, warm, g.today)
	short, long := load.EWMA(daily, load.EWMAShort, 0), load.EWMA(daily, load.EWMALong, 0)
	doses := g.doses(f, from)
	for on := from; on <= g.today; on++ {
		i := int(on - warm)
		x := LoadDay{On: on, Metres: int(daily[i]), Short: math.Round(short[i]), Long: math.Round(long[i]), FirstStep: worstOf(g.mornings, on, firstStepOf), Rest: worstOf(g.mornings, on, restOf),
			Dose: map[body.Tissue]map[load.Component]float64{}, Peak: map[body.Tissue]map[load.Component]float64{}}
		for _, r := range g.runs {
			if r.On == on && r.Pain != nil && (x.RunPain == nil || *r.Pain > *x.RunPain) {
				x.RunPain = r.Pain
			}
		}
		if f != nil {
			for _, it := range f.items {
				if dateOf(it.On) == on && it.Pain != nil && (x.Pain == nil || *it.Pain > *x.Pain) {
					x.Pain = it.Pain
				}
			}
		}
		for t, sides := range doses[on] {
			l, r := sides[body.Left], sides[body.Right]
			w := l
			if r.Total().Sum > l.Total().Sum {
				w = r
			}
			x.Dose[t], x.Peak[t] = map[load.Component]float64{}, map[load.Component]float64{}
			for c, a := range w {
				x.Dose[t][c], x.Peak[t][c] = math.Round(a.Sum), math.Round(a.Peak)
			}
		}
		out.Days = append(out.Days, x)
	}
	for _, t := range load.Weeks(g.runs, from, g.today) {
		end := min(t.Monday+6, g.today)
		rest := 0
		if t.Monday == g.today.Monday() {
			rest = k.book.PlannedRest(g.today)
		}
		w := LoadWeek{Total: t, Week: load.CompareWeek(t.Metres+rest, load.Before(g.runs, t.Monday, g.intake, k.book.OutOfMeans)), Long: load.LongestOf(g.runs, end)}
		w.Words = weekWords(w.Week)
		if m, ok := g.planned[t.Monday]; ok {
			w.Planned = &m
		}
		out.Weeks = append(out.Weeks, w)
	}
	next := g.today.Monday() + 7
	mean := 0
	list := load.Before(g.runs, g.today.Monday(), g.intake, k.book.OutOfMeans)
	for _, m := range list {
		mean += m / len(list)
	}
	var before []int
	if len(list) > 0 {
		this := out.Weeks[len(out.Weeks)-1].Metres + k.book.PlannedRest(g.today)
		if _, planned := g.planned[g.today.Monday()]; !planned {
			this = max(this, mean) // house: a week nobody planned goes on as usual
		}
		before = append(slices.Clone(list), this)
	}
	planned, ok := g.planned[next]
	if !ok && f != nil && f.plan.Wishes.WeeklyKm != nil {
		planned, ok = int(math.Round(*f.plan.Wishes.WeeklyKm*1000)), true
	}
	if !ok {
		planned = mean // shown, and not warned about: nobody planned it
	}
	out.Next = LoadWeek{Total: load.Total{Monday: next, Metres: planned}, Week: load.CompareWeek(planned, before), Planned: &planned}
	out.Next.Words = weekWords(out.Next.Week)
	out.Running = k.book.Running(g.today)
	out.Words = words.Running(out.Running.Class)
	if c := out.Next.Week.Class; ok && (c == load.Spike || c == load.Rise) {
		out.Warning = fmt.Sprintf("%s km next week would be %s; up to %s km is steady.", words.Number(float64(planned)/1000, 1), words.Running(c), words.Number(float64(out.Next.Week.SteadyTo)/1000, 1))
	}
	out.Advice = k.advice()
	out.AdviceText, out.AdviceWhy = words.Advice(out.Advice), words.AdviceWhy(out.Advice)
	out.components(k)
	out.events(g, f, d, k.book.Flags(), from)
	if f != nil {
		out.Usual = f.b0
		out.Notches = f.notchLines(from)
	}
	out.missing(g)
	return out
}

// WeightSource is said beside tissue doses.
const WeightSource = "body weights of force: published: Baxter et al. 2021 for its seven anchors (from memory); the rest house"

func weekWords(w load.WeekRatio) string {
	s := words.Running(w.Class)
	if w.MeanMetres > 0 {
		s += fmt.Sprintf(", %s of the mean of four weeks (%s km)", words.Number(w.Ratio(), 2), words.Number(w.MeanMetres/1000, 1))
	}
	return s
}

// doses sums the tissue dose by day, tissue and side, from runs and logged work.
func (g *gathered) doses(f *frame, from day.Date) map[day.Date]map[body.Tissue]map[body.Side]load.Dose {
	out := map[day.Date]map[body.Tissue]map[body.Side]load.Dose{}
	at := func(on day.Date, t body.Tissue, s body.Side) load.Dose {
		if out[on] == nil {
			out[on] = map[body.Tissue]map[body.Side]load.Dose{}
		}
		if out[on][t] == nil {
			out[on][t] = map[body.Side]load.Dose{}
		}
		if out[on][t][s] == nil {
			out[on][t][s] = load.Dose{}
		}
		return out[on][t][s]
	}
	tissues := []body.Tissue{body.Achilles, body.Sole, body.Forefoot, body.Shin}
	last := load.LastCadence(g.runs, g.today)
	for _, r := range g.runs {
		if r.On < from {
			continue
		}
		for _, t := range tissues {
			for _, s := range body.Sides {
				at(r.On, t, s).Put(load.ByRunning, load.RunDose(r, t, load.UnknownStrike, last))
			}
		}
	}
	g.exposureDose(from, last, tissues, at)
	if f == nil {
		return out
	}
	for _, it := range f.items {
		on := dateOf(it.On)
		if on < from {
			continue
		}
		n := f.ladders[it.PrescriptionID].At(it.Notch)
		done := 1.0
		if it.Done != nil {
			done = *it.Done
		}
		for _, t := range n.Tissues {
			a, c := load.NotchDose(n, t, done)
			at(on, t, body.Side(it.Side)).Put(c, a)
		}
	}
	return out
}

// exposureDose adds what was logged of a ramp's running; a run whose footwear is
// known to be minimal or bare says it all by itself.
func (g *gathered) exposureDose(from day.Date, cadence float64, tissues []body.Tissue, at func(day.Date, body.Tissue, body.Side) load.Dose) {
	for on, n := range g.notes {
		if on < from || len(n.Exposure) == 0 {
			continue
		}
		ran, told := false, false
		for _, r := range g.runs {
			if r.On == on {
				ran = true
				told = told || r.Footwear == load.MinimalShoe || r.Footwear == load.BareFeet
			}
		}
		if told {
			continue
		}
		for _, x := range n.Exposure {
			shoe := load.MinimalShoe
			switch x.Stage {
			case transition.Bare:
				shoe = load.BareFeet
			case transition.Run, transition.Drills:
			default:
				continue
			}
			for _, t := range tissues {
				for _, s := range body.Sides {
					at(on, t, s).Put(load.ByExposure, load.ExposureDose(x.Minutes, shoe, t, load.UnknownStrike, cadence, ran))
				}
			}
		}
	}
}

func (g *gathered) morning(on day.Date) *body.Pain { return worstOf(g.mornings, on, firstStepOf) }

// advice is the running advice of today, by the usual reading that row 3 goes by.
func (k *desk) advice() load.Advice {
	in := load.AdviceInput{On: k.today, Runs: k.g.runs, Morning: k.g.morning, Flare: len(k.book.Flares()) > 0}
	on := k.today
	for _, r := range k.g.runs {
		if r.On <= k.today {
			on = r.On
		}
	}
	in.Usual = k.book.Readings(course.FootTissues, body.Both).Baseline(on)
	for _, s := range k.book.Flags() {
		if s.ClosesRunning() {
			in.Flags = append(in.Flags, string(s.Flag))
		}
	}
	return load.Advise(in)
}

func (v *LoadView) components(k *desk) {
	f := k.f
	w := v.Running
	running := ComponentRule{Component: load.ByRunning, Rule: "steady to 1.10 of the mean of four weeks, and no run over 1.10 of the longest in 30 days by more than 1 km", State: v.Words, Holds: w.Class == load.Spike}
	if w.Week.SteadyTo > 0 {
		running.State += fmt.Sprintf("; this week steady to %s km", words.Number(float64(w.Week.SteadyTo)/1000, 1))
	}
	exposure := ComponentRule{Component: load.ByExposure, Rule: "no more than the ramp plans for the week: at home by a third, out of doors by 5 min", State: "no ramp: nothing is planned", Holds: w.Class != load.Steady && w.Class != load.Down}
	if minutes, planned, home, ok := k.book.Exposure(v.Today); ok {
		exposure.State = fmt.Sprintf("%d min this week, %d planned; up to %d", minutes, planned, load.ExposureTo(planned, home))
		exposure.Holds = exposure.Holds || load.ExposureOver(minutes, planned, home)
	}
	ups, added := 0, 0
	if f != nil {
		ups = f.upsThisWeek("")
		for _, p := range f.prescriptions {
			if len(f.ladders[p.ID].Tissues) > 0 && f.start.Monday()+day.Date(7*(p.FromWeek-1)) == v.Today.Monday() {
				added++
			}
		}
	}
	strength := ComponentRule{Component: load.ByStrength, Rule: "one notch a ladder a week, two ladders up a week, one new loading ladder a week", State: fmt.Sprintf("%s up and %d new this week", plural(ups, "ladder", "ladders"), added), Holds: w.Class == load.Spike}
	spring := ComponentRule{Component: load.BySpring, Rule: "as strength; at most three days a week, contacts capped", State: "held to the notches", Holds: w.Class != load.Steady && w.Class != load.Down}
	v.Components = append(v.Components, running, exposure, strength, spring)
}

func (v *LoadView) events(g *gathered, f *frame, d *dossier, flags []safety.Standing, from day.Date) {
	add := func(on day.Date, kind, text string) {
		if on >= from {
			v.Events = append(v.Events, LoadEvent{on, kind, text})
		}
	}
	for _, s := range d.visits {
		if s.Finished {
			add(s.On, "screening", "Screening")
		}
	}
	for _, s := range flags {
		add(s.Since, "flag", string(s.Flag))
	}
	shoe := ""
	for i, r := range g.runs {
		now := g.shoes[i]
		if now == "" {
			now = string(r.Footwear)
		}
		if now != "" && shoe != "" && now != shoe {
			add(r.On, "shoe", "Shoe: "+now)
		}
		if now != "" {
			shoe = now
		}
	}
	if f != nil {
		add(f.start, "block", "Block begins")
		for _, w := range f.weeks() {
			if w.Label == "lighter" && w.Days[0].On <= g.today {
				add(w.Days[0].On, "deload", "Lighter week")
			}
		}
		if r := f.plan.Wishes.Race; r != nil && r.On <= g.today {
			add(r.On, "race", "Race")
		}
		seen := map[day.Date]bool{}
		for _, x := range f.decisions {
			if on := dateOf(x.On); x.Row == 2 && x.Verdict == "stop" && !seen[on] {
				seen[on] = true
				add(on, "flare", "Flare: "+f.ladders[x.PrescriptionID].Name)
			}
		}
	}
	slices.SortStableFunc(v.Events, func(a, b LoadEvent) int { return int(a.On - b.On) })
}

// notchLines are where the ladders stood by what was logged and decided.
func (f *frame) notchLines(from day.Date) []NotchLine {
	out := []NotchLine{}
	for _, p := range f.prescriptions {
		l := f.ladders[p.ID]
		line := NotchLine{Ladder: l.ID, Name: l.Name, Notches: l.Len(), Days: []NotchDay{{max(from, f.start), p.StartNotch, p.StartNotch}}}
		for _, it := range f.items {
			if it.PrescriptionID != p.ID {
				continue
			}
			on := dateOf(it.On)
			last := &line.Days[len(line.Days)-1]
			if last.On != on {
				line.Days = append(line.Days, NotchDay{on, last.Left, last.Right})
				last = &line.Days[len(line.Days)-1]
			}
			if it.Side == string(body.Left) {
				last.Left = it.Notch
			} else {
				last.Right = it.Notch
			}
		}
		line.Days = append(line.Days, NotchDay{f.today, f.pegs[p.ID][body.Left].Notch, f.pegs[p.ID][body.Right].Notch})
		out = append(out, line)
	}
	return out
}

func (v *LoadView) missing(g *gathered) {
	if len(g.runs) == 0 {
		v.Missing = append(v.Missing, "No run is known; bring some in or type them.")
	}
	if g.intake == nil && v.Running.Week.Class == load.Unknown {
		v.Missing = append(v.Missing, "Fewer than four weeks of runs and no weekly mean in the profile: the week ratio is not known.")
	}
	noEffort, assumed, noPain := 0, 0, 0
	for _, w := range v.Weeks {
		noEffort += w.NoEffort
		assumed += w.AssumedCadence
	}
	for _, r := range g.runs {
		if r.Pain == nil && r.On > g.today-14 {
			noPain++
		}
	}
	if noEffort > 0 {
		v.Missing = append(v.Missing, plural(noEffort, "run", "runs")+" without an effort: their session load is not counted.")
	}
	if assumed > 0 {
		v.Missing = append(v.Missing, plural(assumed, "run", "runs")+" without a cadence, and none was ever measured: contacts assume "+words.Number(load.AssumedCadence, 0)+" a minute (house).")
	}
	if noPain > 0 {
		v.Missing = append(v.Missing, plural(noPain, "run", "runs")+" of the last two weeks without a word on pain.")
	}
}
