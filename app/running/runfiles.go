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
	"slices"
	"strings"
	"time"

	"notchback/app"
	"notchback/app/input"
	"notchback/core/activity"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/units"
	"notchback/core/words"
	"notchback/formats"
	"notchback/store"
)

// ImportResult says what became of one file, or of what lay packed in it; of a preview,
// what would become.
type ImportResult struct {
	File    string   `json:"file"`
	Import  string   `json:"import,omitempty" doc:"Under which it can be taken back"`
	Added   int      `json:"added" doc:"Runs that count from now on"`
	Walks   int      `json:"walks" doc:"Walks and hikes, kept and in no volume"`
	Known   int      `json:"known" doc:"Runs that were there already, by content or by time"`
	Asked   int      `json:"asked" doc:"Outings that wait for an answer; they were left out"`
	Out     int      `json:"out" doc:"Outings that are no runs, left out"`
	Failed  int      `json:"failed" doc:"Files of a pack that could not be read"`
	Notes   []string `json:"notes" nullable:"false"`
	Doubled int      `json:"doubled" doc:"Runs whose cadence was counted on one foot"`
	// Table is set where a table needs its columns mapped first; nothing was
	// stored.
	Table   *formats.Table `json:"table,omitempty"`
	Outings []Outing       `json:"outings" nullable:"false"`
}

// Outing is one outing of a file as it was understood.
type Outing struct {
	Place   string        `json:"place" doc:"Under which it is answered"`
	File    string        `json:"file"`
	Error   string        `json:"error,omitempty" doc:"Why the file could not be read; nothing else is set"`
	Kind    string        `json:"kind,omitempty" enum:"fit,gpx,tcx,csv,"`
	Device  string        `json:"device,omitempty"`
	What    activity.Kind `json:"what" enum:"run,walk,other,asked,"`
	Sport   string        `json:"sport,omitempty" doc:"As the file names it"`
	Name    string        `json:"name,omitempty"`
	Why     []string      `json:"why" nullable:"false"`
	Asks    []string      `json:"asks" nullable:"false" doc:"What a coach has to look at before it counts"`
	On      day.Date      `json:"on,omitempty" format:"date"`
	At      string        `json:"at,omitempty" doc:"Local time of day"`
	Metres  int           `json:"metres"`
	Seconds int           `json:"seconds" doc:"Moving"`
	Elapsed int           `json:"elapsed,omitempty" doc:"Seconds with pauses"`
	Cadence *float64      `json:"cadence,omitempty" doc:"Steps of both feet a minute"`
	OneFoot bool          `json:"oneFoot,omitempty" doc:"The file counted one foot"`
	Laps    int           `json:"laps,omitempty"`
	Notes   []string      `json:"notes" nullable:"false"`
	Known   string        `json:"known,omitempty" doc:"What is there already"`
	Old     bool          `json:"old,omitempty" doc:"Older than the weeks that steer: it stays in the history"`
	Takes   string        `json:"takes" enum:"run,walk,out,asked" doc:"What becomes of it as things are"`
}

// Choices are a coach's answers by the place of an outing: run, walk or out.
type Choices map[string]string

// Bringing is a file with what was chosen of it.
type Bringing struct {
	Name    string
	Content []byte
	Mapping *formats.Mapping
	Choices Choices
	Import  string // under which several files are one; its own where it is empty
	Preview bool   // nothing is stored
	Felt    Felt
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
			bad.Add(what, "%s must be 0 to 10 (you entered %d)", what, *n)
		}
	}
	if err := bad.Or(); err != nil {
		return ImportResult{}, err
	}
	return a.ImportRuns(ctx, act, runner, Bringing{Name: name, Content: content, Felt: felt})
}

// read is an outing with the row it becomes.
type read struct {
	Outing
	file   formats.RunFile
	row    store.Run
	source string // of which it is one, where a coach's answer is remembered
	old    *store.Run
}

// ImportRuns reads one file, packed or not. Each file in it is read whole or not at all;
// what is plainly a run comes in, a walk is kept as such, what is neither stays out and
// what is not plain waits for an answer. A run that is there already, by content or by
// overlapping time, is not counted twice. A table whose header was never mapped comes
// back for mapping.
func (a *Running) ImportRuns(ctx context.Context, act app.Actor, runner string, in Bringing) (ImportResult, error) {
	out := ImportResult{File: in.Name, Notes: []string{}, Outings: []Outing{}}
	inside, err := formats.Unpack(in.Name, in.Content)
	if err != nil {
		return out, fileFault(in.Name, err)
	}
	lone := len(inside) == 1
	do := a.Write
	if in.Preview {
		do = func(ctx context.Context, act app.Actor, fn func(*store.Tx) error) error {
			return a.Store.In(ctx, act.Practice, fn)
		}
	}
	err = do(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		b := &bringing{a: a, tx: tx, act: act, runner: runner, in: in, out: &out}
		if err := b.prepare(ctx); err != nil {
			return err
		}
		for i, f := range inside {
			if err := b.file(ctx, i, f, lone); err != nil || out.Table != nil {
				return err
			}
		}
		if in.Preview {
			return nil
		}
		return b.keep(ctx)
	})
	return out, err
}

// bringing is one import under way.
type bringing struct {
	a       *Running
	tx      *store.Tx
	act     app.Actor
	runner  string
	in      Bringing
	out     *ImportResult
	have    []store.Run
	sources map[string]string
	known   activity.Known
	today   day.Date
	list    []read
}

func (b *bringing) prepare(ctx context.Context) (err error) {
	b.today = b.a.Today(b.act)
	if b.have, err = b.tx.Runs(ctx, b.runner, time.Date(1990, 1, 1, 0, 0, 0, 0, time.UTC)); err != nil {
		return err
	}
	if b.sources, err = b.tx.RunSources(ctx); err != nil {
		return err
	}
	var speeds []float64
	for _, r := range b.have {
		if on := app.DateOf(r.On); r.What == "walk" || on < b.today-input.RunsBack || on > b.today {
			continue
		}
		b.known.Runs++
		b.known.LongestMetres = max(b.known.LongestMetres, float64(r.Metres))
		if r.Seconds > 0 && r.Metres > 0 {
			speeds = append(speeds, float64(r.Metres)/float64(r.Seconds))
		}
	}
	if len(speeds) > 0 {
		slices.Sort(speeds)
		b.known.SpeedMs = speeds[len(speeds)/2]
	}
	return nil
}

// file reads one file; one that can't be read in a pack of several is said and left.
func (b *bringing) file(ctx context.Context, i int, f formats.Inside, lone bool) error {
	fault := func(err error) error {
		var re *formats.ReadError
		if lone || !errors.As(err, &re) {
			return fileFault(f.Name, err)
		}
		b.out.Failed++
		b.out.Outings = append(b.out.Outings, Outing{Place: fmt.Sprintf("%d", i), File: f.Name, Error: re.Error(), Takes: "out", Why: []string{}, Asks: []string{}, Notes: []string{}})
		return nil
	}
	if f.Err != nil {
		return fault(f.Err)
	}
	kind, err := formats.Sniff(f.Data)
	if err != nil {
		return fault(err)
	}
	var runs []formats.RunFile
	if kind == "csv" {
		if runs, err = b.a.tableRuns(ctx, b.tx, b.act, f.Data, b.in.Mapping, b.in.Preview, b.out); err == nil && b.out.Table != nil {
			if b.act.Runner != "" {
				return app.Wrong("file", f.Name+" is a table nobody told the columns of yet; send it to your coach")
			}
			if lone {
				return nil
			}
			b.out.Table = nil
			return fault(&formats.ReadError{Why: "this table's columns are not known yet; bring it in by itself"})
		}
	} else {
		runs, err = formats.ReadRuns(f.Data, b.a.Now())
	}
	if err != nil {
		return fault(err)
	}
	sum := sha256.Sum256(f.Data)
	for k, r := range runs {
		x, err := b.outing(ctx, fmt.Sprintf("%d.%d", i, k), f.Name, fmt.Sprintf("%s-%d", hex.EncodeToString(sum[:]), k), r)
		if err != nil {
			return fault(err)
		}
		b.list = append(b.list, x)
		b.out.Outings = append(b.out.Outings, x.Outing)
	}
	return nil
}

// outing says what an outing is and what becomes of it.
func (b *bringing) outing(ctx context.Context, place, name, hash string, f formats.RunFile) (read, error) {
	x := read{file: f, Outing: Outing{Place: place, File: name, Kind: f.Kind, Device: f.Device, What: f.What.Kind, Sport: f.What.Name, Name: f.Name, Why: f.What.Why, Asks: []string{}, Metres: f.Metres, Seconds: f.Seconds,
		Elapsed: f.Elapsed, Cadence: f.CadenceSpm, OneFoot: f.Doubled, Laps: len(f.Laps), Notes: append([]string{}, f.Notes...)}}
	x.row = store.Run{RunnerID: b.runner, Metres: f.Metres, Seconds: f.Seconds, Cadence: f.CadenceSpm, Effort: f.Effort, Footwear: f.Footwear, Surface: f.Surface, Note: f.Note, Source: f.Kind, Hash: hash}
	if f.Treadmill && x.row.Surface == "" {
		x.row.Surface = "treadmill"
	}
	zone := b.act.Zone
	if f.Offset != nil {
		zone = time.FixedZone("", *f.Offset)
	}
	switch {
	case !f.Start.IsZero():
		start := f.Start
		x.row.StartedAt = &start
		x.row.On = day.Of(start, zone).Time()
		x.At = start.In(zone).Format("15:04")
	default:
		t, err := time.Parse("2006-01-02T15:04:05", f.Local) // a date and a time of day, no moment yet
		if err != nil {
			return x, err
		}
		on := app.DateOf(t)
		x.row.On = on.Time()
		if !strings.HasSuffix(f.Local, "T00:00:00") {
			at := on.At(t.Hour(), t.Minute(), t.Second(), b.act.Zone)
			x.row.StartedAt, x.At = &at, t.Format("15:04")
		}
	}
	x.On = app.DateOf(x.row.On)
	x.Old = x.On < b.today-load.SteersDays
	if f.What.Silent {
		x.source = strings.ToLower(strings.Join([]string{f.Kind, f.Device, f.What.Name}, "|"))
		if was, ok := b.sources[x.source]; ok {
			x.What = activity.Kind(was)
			x.Why = append(x.Why, "as you said of this source before")
		}
	}
	if x.What == activity.Asked {
		x.Asks = append(x.Asks, "What was it?")
	}
	if x.What == activity.Run || x.What == activity.Asked {
		x.Asks = append(x.Asks, activity.Odd(float64(f.Metres), float64(f.Seconds), b.known)...)
	}
	if err := b.twice(ctx, &x); err != nil {
		return x, err
	}
	x.Takes = "out"
	switch {
	case x.old != nil && !x.old.Removed:
	case x.What == activity.Walk:
		x.Takes = "walk"
	case len(x.Asks) > 0:
		x.Takes = "asked"
	case x.What == activity.Run:
		x.Takes = "run"
	}
	switch said, ok := b.in.Choices[place]; {
	case !ok || x.old != nil && !x.old.Removed:
	case said == "out":
		x.Takes = "out"
	case said == "run" || said == "walk":
		if !activity.Believable(float64(f.Metres), float64(f.Seconds)) {
			return x, &formats.ReadError{Why: fmt.Sprintf("%s in %d min is nothing anybody runs; leave it out", units.Km(float64(f.Metres), 1), f.Seconds/60)}
		}
		x.Takes = said
	}
	return x, nil
}

// twice finds what is there already: by content, by overlapping time, by day and
// distance; and what looks like a run by a clock that is off.
func (b *bringing) twice(ctx context.Context, x *read) error {
	old, err := b.tx.RunByContent(ctx, b.runner, x.row.Hash)
	switch {
	case err == nil:
		x.old = &old
		if old.Removed {
			x.Notes = append(x.Notes, "the run of "+x.On.Words()+" had been taken out and comes back")
			return nil
		}
		x.Known = "this very file"
		return nil
	case !errors.Is(err, app.ErrNotFound):
		return err
	}
	if x.What == activity.Other { // what is kept out is in nobody's place
		return nil
	}
	all := slices.Clone(b.have)
	for _, y := range b.list {
		if y.Takes == "run" || y.Takes == "walk" {
			all = append(all, y.row)
		}
	}
	for _, o := range all {
		if o.Removed {
			continue
		}
		if activity.Same(span(o), span(x.row)) {
			x.old = &o
			x.Known = fmt.Sprintf("%s, %s: there already (%s)", app.DateOf(o.On).Words(), units.Km(float64(o.Metres), 1), o.Source)
			return nil
		}
		if by, ok := activity.Shifted(span(o), span(x.row)); ok && o.Source != "typed" {
			x.Asks = append(x.Asks, fmt.Sprintf("Looks like the run of %s by a clock that is %s off: is it another?", o.StartedAt.In(b.act.Zone).Format("15:04"), offBy(by)))
		}
	}
	return nil
}

// offBy says how far a clock is off.
func offBy(d time.Duration) string {
	return strings.TrimSuffix(strings.TrimSuffix(d.String(), "0s"), "0m")
}

// keep stores what comes in, as one import.
func (b *bringing) keep(ctx context.Context) error {
	id := b.in.Import
	if id == "" {
		id = app.NewID()
	}
	var kept []store.Run
	begun, changed := false, false
	begin := func() error {
		if begun {
			return nil
		}
		begun = true
		b.out.Import = id
		return b.tx.PutRunImport(ctx, id, b.runner, b.in.Name, b.act.User.ID, b.a.Now())
	}
	for i := range b.list {
		x := &b.list[i]
		if said := b.in.Choices[x.Place]; said != "" && x.source != "" && (x.old == nil || x.old.Removed) {
			what := map[string]string{"run": "run", "walk": "walk", "out": "other"}[said]
			if what != "" && b.sources[x.source] != what {
				b.sources[x.source] = what
				if err := b.tx.PutRunSource(ctx, x.source, what, b.act.User.ID, b.a.Now()); err != nil {
					return err
				}
			}
		}
		switch {
		case x.old != nil && !x.old.Removed:
			b.out.Known++
			b.out.Notes = append(b.out.Notes, x.Known)
			r, more, err := b.merge(ctx, x)
			if err != nil {
				return err
			}
			kept, changed = append(kept, r), changed || more
		case x.Takes == "asked":
			b.out.Asked++
		case x.Takes == "out":
			b.out.Out++
			if x.What == activity.Other {
				b.out.Notes = append(b.out.Notes, fmt.Sprintf("%s, %s: not a run, left out", x.On.Words(), x.Sport))
			}
		default:
			if err := begin(); err != nil {
				return err
			}
			r, err := b.store(ctx, x, id)
			if err != nil {
				return err
			}
			kept, changed = append(kept, r), true
			if x.Takes == "walk" {
				b.out.Walks++
			} else {
				b.out.Added++
			}
			if x.OneFoot {
				b.out.Doubled++
			}
			b.out.Notes = append(b.out.Notes, x.Notes...)
		}
	}
	if b.act.Runner != "" && b.out.Asked > 0 {
		return app.Wrong("file", b.in.Name+" has something in it that nobody knows to be a run; send it to your coach")
	}
	if b.act.Runner != "" && len(kept) == 0 {
		return app.Wrong("file", b.in.Name+" has no run in it")
	}
	if b.out.Doubled > 0 {
		b.out.Notes = append(b.out.Notes, "cadence was counted on one foot and doubled")
	}
	if f := b.in.Felt; f.any() {
		if len(kept) != 1 {
			return app.Wrong("file", fmt.Sprintf("%s has %d runs; tell what was felt by itself", b.in.Name, len(kept)))
		}
		if _, err := b.tx.PutRun(ctx, f.onto(kept[0]), b.act.User.ID); err != nil {
			return err
		}
		changed = true
	}
	if n := b.out.Added + b.out.Walks; n > 0 {
		if err := b.tx.Note(ctx, b.runner, b.a.Now(), &b.act.User.ID, "run", app.Plural(n, "run", "runs")+" brought in from "+b.in.Name, nil); err != nil {
			return err
		}
	}
	if !changed {
		return nil
	}
	return b.a.AfterReading(ctx, b.tx, b.act, b.runner)
}

// store keeps an outing as a run or a walk.
func (b *bringing) store(ctx context.Context, x *read, id string) (store.Run, error) {
	r := x.row
	if x.old != nil { // it was taken out before
		r = *x.old
	}
	r.Removed, r.ImportID, r.What = false, &id, x.Takes
	var err error
	if r.ID, err = b.tx.PutRun(ctx, r, b.act.User.ID); err != nil {
		return r, err
	}
	r.Rev++
	b.have = append(b.have, r)
	return r, b.beside(ctx, r, detailsOf(x, nil), x.file.Track)
}

func (b *bringing) beside(ctx context.Context, r store.Run, d input.RunDetails, track []formats.Point) error {
	if len(track) > 0 {
		packed, err := packTrack(track)
		if err != nil {
			return err
		}
		if err := b.tx.PutTrack(ctx, r.ID, b.runner, packed); err != nil {
			return err
		}
	}
	raw, err := json.Marshal(d)
	if err != nil {
		return err
	}
	return b.tx.PutRunDetail(ctx, r.ID, b.runner, raw)
}

// detailsOf lays what a file recorded over what is known of its run: what is there
// already stays, what is missing is filled in.
func detailsOf(x *read, was *input.RunDetails) input.RunDetails {
	d := input.RunDetails{}
	if was != nil {
		d = *was
	}
	f := x.file
	fill(&d.Name, clipped(f.Name, 120))
	fill(&d.Sport, clipped(f.What.Name, 80))
	if len(d.Why) == 0 {
		d.Why = x.Why[:min(len(x.Why), 10)]
	}
	fill(&d.Elapsed, f.Elapsed)
	fill(&d.Ascent, f.Ascent)
	fill(&d.HeartRate, f.HeartRate)
	fill(&d.HeartMost, f.HeartMost)
	fill(&d.Dynamics, f.Dynamics)
	fill(&d.Treadmill, f.Treadmill)
	if len(d.Laps) == 0 {
		d.Laps = f.Laps
	}
	if d.Check() != nil { // what no device measures is not kept
		d.Ascent, d.HeartRate, d.HeartMost, d.Dynamics, d.Laps = nil, nil, nil, nil, nil
	}
	s := input.RunSource{Kind: f.Kind, Device: clipped(f.Device, 120), File: clipped(x.File, 300), Hash: x.row.Hash}
	if !slices.ContainsFunc(d.Sources, func(o input.RunSource) bool { return o.Hash == s.Hash }) && len(d.Sources) < 20 {
		d.Sources = append(d.Sources, s)
	}
	return d
}

func clipped(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n])
	}
	return s
}

func fill[T comparable](into *T, v T) {
	var none T
	if *into == none {
		*into = v
	}
}

// merge adds to a run that is there what another device or file knows of it.
func (b *bringing) merge(ctx context.Context, x *read) (store.Run, bool, error) {
	r := *x.old
	if r.ID == "" { // of this very import: stored by now
		i := slices.IndexFunc(b.have, func(o store.Run) bool { return o.Hash == r.Hash && o.Hash != "" })
		if i < 0 {
			return r, false, nil
		}
		r = b.have[i]
	}
	if r.Hash == x.row.Hash {
		return r, false, nil
	}
	all, err := b.tx.RunDetails(ctx, b.runner)
	if err != nil {
		return r, false, err
	}
	was := input.RunDetails{}
	if raw, ok := all[r.ID]; ok {
		if err := json.Unmarshal(raw, &was); err != nil {
			return r, false, err
		}
	} else {
		was.Sources = []input.RunSource{{Kind: r.Source, Hash: r.Hash}}
	}
	changed := false
	if r.Cadence == nil && x.row.Cadence != nil || r.Effort == nil && x.row.Effort != nil {
		fill(&r.Cadence, x.row.Cadence)
		fill(&r.Effort, x.row.Effort)
		if _, err := b.tx.PutRun(ctx, r, b.act.User.ID); err != nil {
			return r, false, err
		}
		r.Rev++
		changed = true
	}
	return r, changed, b.beside(ctx, r, detailsOf(x, &was), x.file.Track)
}

// ImportView is what came in at one go.
type ImportView struct {
	ID     string    `json:"id"`
	At     time.Time `json:"at"`
	Names  string    `json:"names"`
	Runs   int       `json:"runs"`
	Undone bool      `json:"undone,omitempty"`
}

// importsShown is how many imports are listed.
const importsShown = 10

// Imports lists what came in lately.
func (a *Running) Imports(ctx context.Context, act app.Actor, runner string) ([]ImportView, error) {
	out := []ImportView{}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		list, err := tx.RunImports(ctx, runner, importsShown)
		for _, i := range list {
			out = append(out, ImportView{i.ID, i.At, i.Names, i.Runs, i.UndoneAt != nil})
		}
		return err
	})
	return out, err
}

// UndoImport takes an import's runs out of every count, as one.
func (a *Running) UndoImport(ctx context.Context, act app.Actor, runner, id string) error {
	return a.Write(ctx, act, func(tx *store.Tx) error {
		i, err := tx.RunImport(ctx, id)
		if err != nil {
			return err
		}
		if i.RunnerID != runner {
			return app.ErrNotFound
		}
		if i.UndoneAt != nil {
			return app.ErrConflict
		}
		list, err := tx.RunsOfImport(ctx, id)
		if err != nil {
			return err
		}
		for _, r := range list {
			r.Removed = true
			if _, err := tx.PutRun(ctx, r, act.User.ID); err != nil {
				return err
			}
		}
		if err := tx.UndoRunImport(ctx, id, a.Now()); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.Now(), &act.User.ID, "run", "Import of "+i.Names+" taken back: "+app.Plural(len(list), "run", "runs"), nil); err != nil {
			return err
		}
		return a.AfterReading(ctx, tx, act, runner)
	})
}

// WouldRun is a run that would come in.
type WouldRun struct {
	On      day.Date `json:"on" format:"date"`
	Metres  int      `json:"metres" minimum:"0" maximum:"300000"`
	Seconds int      `json:"seconds" minimum:"0" maximum:"172800"`
}

// Effect is what runs that would come in do to this week.
type Effect struct {
	Before Allowed `json:"before"`
	After  Allowed `json:"after"`
}

// Allowed is how a week stands and what is still steady.
type Allowed struct {
	Metres   int        `json:"metres" doc:"Of this week"`
	SteadyTo int        `json:"steadyTo" doc:"Metres; 0 where it is not known"`
	Class    load.Class `json:"class"`
	Words    string     `json:"words"`
}

// EffectOf says what runs would do to the week, before they count.
func (a *Running) EffectOf(ctx context.Context, act app.Actor, runner string, list []WouldRun) (Effect, error) {
	var out Effect
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		k, err := a.Open(ctx, tx, act, runner, nil)
		if err != nil {
			return err
		}
		v := k.Book.Volume(k.Today)
		say := func(v load.Volume) Allowed {
			s := load.State(v)
			return Allowed{s.Week.Metres, s.Week.SteadyTo, s.Class, words.Running(s.Class)}
		}
		out.Before = say(v)
		v.Runs = slices.Clone(v.Runs)
		for _, r := range list {
			if r.On <= k.Today {
				v.Runs = append(v.Runs, load.Run{On: r.On, Metres: r.Metres, Seconds: r.Seconds})
			}
		}
		slices.SortStableFunc(v.Runs, func(a, b load.Run) int { return int(a.On - b.On) })
		out.After = say(v)
		return nil
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

func (a *Running) tableRuns(ctx context.Context, tx *store.Tx, act app.Actor, content []byte, mapping *formats.Mapping, look bool, out *ImportResult) ([]formats.RunFile, error) {
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
	} else if !look {
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

// span is a run as the rules of what is one look at it.
func span(r store.Run) activity.Span {
	return activity.Span{On: app.DateOf(r.On), Start: r.StartedAt, Metres: r.Metres, Seconds: r.Seconds}
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

// RunsFile returns a runner's runs as CSV, those with a start as TCX, or those with a
// track as GPX.
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
		details := map[string][]byte{}
		if kind != "csv" {
			if details, err = tx.RunDetails(ctx, runner); err != nil {
				return err
			}
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
			row.What.Kind = activity.Run
			if x.What == "walk" {
				row.What.Kind = activity.Walk
			}
			if raw, ok := details[x.ID]; ok {
				var d input.RunDetails
				if err := json.Unmarshal(raw, &d); err != nil {
					return fmt.Errorf("details of run %s: %w", x.ID, err)
				}
				row.Laps = d.Laps
			}
			list = append(list, row)
		}
		var buf bytes.Buffer
		out.Name = app.FileName(r.Name, "runs", kind)
		switch kind {
		case "gpx":
			out.Type = "application/gpx+xml"
			_, err = formats.RunsGPX(&buf, list)
		case "tcx":
			out.Type = "application/vnd.garmin.tcx+xml"
			_, err = formats.RunsTCX(&buf, list)
		default:
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
