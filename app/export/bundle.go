package export

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"notchback/app/strict"
	"notchback/core/day"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/view"
	"notchback/store"
)

// bundleVersion names the shape of a bundle; a newer one is refused.
const (
	bundleFormat  = "notchback-runner"
	bundleVersion = 5
)

// Bundle is everything about one runner, to take along: profile, screenings,
// plans, sessions, mornings, decisions, journal. References between rows are
// names like "ref:block-1", so that the same runner gives the same bundle
// wherever it was imported. Who of the practice's users wrote a row stays
// behind.
type Bundle struct {
	Format  string                      `json:"format" doc:"notchback-runner"`
	Version int                         `json:"version"`
	From    string                      `json:"from,omitempty" doc:"The practice it comes from"`
	Tables  map[string][]map[string]any `json:"tables"`
}

// ExportRunner returns everything about a runner, but clips and pictures.
func (a *Exports) ExportRunner(ctx context.Context, act app.Actor, runner string) (Bundle, error) {
	b, _, err := a.ExportNamed(ctx, act, runner)
	return b, err
}

// ExportNamed is ExportRunner with what records are called in it, by their ids.
func (a *Exports) ExportNamed(ctx context.Context, act app.Actor, runner string) (Bundle, map[string]string, error) {
	names := map[string]string{}
	out := Bundle{Format: bundleFormat, Version: bundleVersion, From: act.User.Practice, Tables: map[string][]map[string]any{}}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		for _, t := range store.BundleTables {
			rows, err := tx.BundleRows(ctx, t, runner)
			if err != nil {
				return err
			}
			n := 0
			for _, r := range rows {
				if id, ok := r["id"].(string); ok && t.Kind != "" {
					if names[id] == "" { // revisions of a run share its id
						n++
						names[id] = fmt.Sprintf("ref:%s-%d", t.Kind, n)
					}
				} else {
					delete(r, "id") // nobody refers to it
				}
			}
			out.Tables[t.Name] = rows
		}
		for _, rows := range out.Tables {
			for _, r := range rows {
				for k, v := range r {
					r[k] = rename(v, names)
				}
			}
		}
		return nil
	})
	return out, names, err
}

// digest is by what a bundle is known again: its tables, whatever stands between them.
func (in sent) digest() (string, error) {
	h := sha256.New()
	for _, t := range slices.Sorted(maps.Keys(in.tables)) {
		_, _ = fmt.Fprintf(h, "%s %d\n", t, len(in.tables[t]))
		for _, row := range in.tables[t] {
			var b bytes.Buffer
			if err := json.Compact(&b, row); err != nil {
				return "", err
			}
			_, _ = h.Write(b.Bytes())
		}
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}

// rename replaces every text that is a key of names, however deep.
func rename(v any, names map[string]string) any {
	switch x := v.(type) {
	case string:
		if n, ok := names[x]; ok {
			return n
		}
	case []any:
		for i := range x {
			x[i] = rename(x[i], names)
		}
	case map[string]any:
		for k := range x {
			x[k] = rename(x[k], names)
		}
	}
	return v
}

// mustRefer are the columns that name another row.
var mustRefer = map[string]string{"runner_id": "runner", "screening_id": "screening", "block_id": "block", "prescription_id": "prescription", "log_id": "log", "run_id": "run", "replaces": "log"}

// sent is a bundle as it was sent: its rows are not looked at yet.
type sent struct {
	format, from string
	version      int
	tables       map[string][]json.RawMessage
}

// readBundle takes a bundle apart row by row, within its limits.
func readBundle(r io.Reader) (sent, error) {
	out := sent{tables: map[string][]json.RawMessage{}}
	d := json.NewDecoder(r)
	damaged := func(err error) error {
		var big *app.TooLarge
		if errors.As(err, &big) {
			return app.Wrong("", fmt.Sprintf("a bundle has at most %d MB", input.BundleMost>>20))
		}
		return app.Wrong("", fmt.Sprintf("this is no bundle that can be read, at byte %d", d.InputOffset()))
	}
	delim := func(want json.Delim) error {
		t, err := d.Token()
		if err == nil && t != want {
			err = errors.New("another shape")
		}
		return err
	}
	if err := delim('{'); err != nil {
		return out, damaged(err)
	}
	total := 0
	for d.More() {
		key, err := d.Token()
		if err != nil {
			return out, damaged(err)
		}
		switch key {
		case "format":
			err = d.Decode(&out.format)
		case "from":
			err = d.Decode(&out.from)
		case "version":
			err = d.Decode(&out.version)
		case "tables":
			err = readTables(d, delim, out.tables, &total)
		case "$schema":
			var skip string
			err = d.Decode(&skip)
		default:
			return out, app.Wrong(fmt.Sprint(key), "not a part of a bundle this program knows")
		}
		var said app.Invalid
		switch {
		case errors.As(err, &said):
			return out, err
		case err != nil:
			return out, damaged(err)
		}
	}
	if err := delim('}'); err != nil {
		return out, damaged(err)
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return out, damaged(err)
	}
	return out, nil
}

func readTables(d *json.Decoder, delim func(json.Delim) error, into map[string][]json.RawMessage, total *int) error {
	if err := delim('{'); err != nil {
		return err
	}
	for d.More() {
		t, err := d.Token()
		if err != nil {
			return err
		}
		name, _ := t.(string)
		if !slices.ContainsFunc(store.BundleTables, func(b store.BundleTable) bool { return b.Name == name }) {
			return app.Wrong("tables."+name, "not a part of a bundle this program knows")
		}
		if err := delim('['); err != nil {
			return err
		}
		for d.More() {
			at := fmt.Sprintf("tables.%s[%d]", name, len(into[name]))
			if *total++; *total > input.BundleRows {
				return app.Wrong(at, fmt.Sprintf("a bundle has at most %d rows", input.BundleRows))
			}
			var row json.RawMessage
			if err := d.Decode(&row); err != nil {
				return err
			}
			most := input.BundleRow
			if name == "run_tracks" {
				most = input.BundleTrack
			}
			if len(row) > most {
				return app.Wrong(at, fmt.Sprintf("this row is larger than %d kB", most>>10))
			}
			into[name] = append(into[name], row)
		}
		if err := delim(']'); err != nil {
			return err
		}
	}
	return delim('}')
}

// ImportRunner makes a runner from a bundle: all of it or nothing. Its values pass
// the checks that typed ones pass; what another practice's engine or clinician said
// comes as history and decides nothing here. A bundle of a newer version, with
// something unknown, out of range or with a broken reference is refused, naming the
// place; so is one that can't be worked with.
func (a *Exports) ImportRunner(ctx context.Context, act app.Actor, r io.Reader, again bool) (view.Runner, error) {
	out, _, err := a.ImportNamed(ctx, act, r, again)
	return out, err
}

// ImportNamed is ImportRunner with the ids that records got, by what they are called in
// the bundle. One that was brought in before is refused, unless it is meant to come again
// as another runner.
func (a *Exports) ImportNamed(ctx context.Context, act app.Actor, r io.Reader, again bool) (view.Runner, map[string]string, error) {
	in, err := readBundle(r)
	if err != nil {
		return view.Runner{}, nil, err
	}
	return a.bring(ctx, act, in, again)
}

func (a *Exports) bring(ctx context.Context, act app.Actor, in sent, again bool) (view.Runner, map[string]string, error) {
	if in.format != bundleFormat {
		return view.Runner{}, nil, app.Wrong("format", fmt.Sprintf("expected %q: this is not a runner's bundle", bundleFormat))
	}
	if in.version > bundleVersion || in.version < 1 {
		return view.Runner{}, nil, app.Wrong("version", fmt.Sprintf("this bundle is of version %d and this program reads up to %d; bring the program up to date and try again, nothing was changed", in.version, bundleVersion))
	}
	if len(in.tables["runners"]) != 1 {
		return view.Runner{}, nil, app.Wrong("tables.runners", "expected just one runner")
	}
	if in.from = strings.TrimSpace(in.from); in.from == "" {
		in.from = "another practice"
	}
	if len([]rune(in.from)) > 120 || strings.ContainsRune(in.from, 0) {
		return view.Runner{}, nil, app.Wrong("from", "expected the name of a practice")
	}
	digest, err := in.digest()
	if err != nil {
		return view.Runner{}, nil, app.Wrong("tables", "this is no bundle that can be read")
	}
	var out view.Runner
	var ids map[string]string
	err = a.Write(ctx, act, func(tx *store.Tx) error {
		if name, at, err := tx.ImportedAs(ctx, digest); err == nil && !again {
			return app.Refused(fmt.Sprintf("this very bundle came in on %s, as %s; bring it in again only if you want the same runner twice", day.Of(at, act.Zone).Words(), name))
		} else if err != nil && !errors.Is(err, app.ErrNotFound) {
			return err
		}
		layers, err := a.CatalogueFor(ctx, tx)
		if err != nil {
			return err
		}
		m := &importer{act: act, today: a.Today(act), layers: layers, ids: map[string]string{}, ladders: map[string]laddered{}, logs: map[string]string{}, pegs: map[string]bool{}}
		for _, t := range store.BundleTables {
			if err := m.table(ctx, tx, t, in.tables[t.Name]); err != nil {
				return err
			}
		}
		if err := m.whole(); err != nil {
			return err
		}
		runner := m.ids["ref:runner-1"]
		if err := tx.Imported(ctx, runner, in.from, digest, a.Now()); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.Now(), &act.User.ID, "import", "Imported from "+in.from+", as the file says. Nothing in it counts as a clinician's word or a coach's waiver here, and nothing rises by itself.", nil); err != nil {
			return err
		}
		for _, s := range m.setAside {
			if err := tx.Note(ctx, runner, a.Now(), &act.User.ID, "import", s, nil); err != nil {
				return err
			}
		}
		if err := a.workable(ctx, tx, act, runner); err != nil {
			return err
		}
		r, err := tx.Runner(ctx, runner)
		if err != nil {
			return err
		}
		out, ids = view.RunnerView(r, a.Today(act)), m.ids
		return tx.LogAccess(ctx, a.Now(), store.Access{Runner: &runner, User: &act.User.ID, Action: "importRunner"}, false)
	})
	return out, ids, err
}

// table brings in the rows of a table.
func (m *importer) table(ctx context.Context, tx *store.Tx, t store.BundleTable, rows []json.RawMessage) error {
	cols, err := tx.BundleColumns(ctx, t)
	if err != nil {
		return err
	}
	for i, raw := range rows {
		at := fmt.Sprintf("tables.%s[%d]", t.Name, i)
		if err := ctx.Err(); err != nil {
			return err
		}
		row, keep, err := m.row(t, raw, cols, at)
		if err != nil {
			return err
		}
		if !keep {
			continue
		}
		if err := tx.InsertBundleRow(ctx, t, row, m.act.User.ID); err != nil {
			var pg *pgconn.PgError
			if errors.As(err, &pg) || errors.Is(err, app.ErrNotFound) || errors.Is(err, app.ErrConflict) || errors.Is(err, app.ErrValue) {
				return app.Wrong(at, "this row can't be stored: "+plainCause(err))
			}
			return err
		}
	}
	return nil
}

// row checks one row's values, columns and references and gives it its own id; keep
// is false for one that only its practice could trust.
func (m *importer) row(t store.BundleTable, raw json.RawMessage, cols []string, at string) (row map[string]any, keep bool, err error) {
	wrong := func(err error) error {
		var e *strict.Error
		if errors.As(err, &e) {
			where := at
			if e.Where != "" {
				where += "." + e.Where
			}
			return app.Wrong(where, e.Why)
		}
		var inv app.Invalid
		if errors.As(err, &inv) {
			for i := range inv {
				inv[i].Field = at + "." + inv[i].Field
			}
			return inv
		}
		return err
	}
	var v any
	if t.Name == "run_tracks" { // its text is longer than any other
		err = json.Unmarshal(raw, &v)
	} else {
		v, err = strict.Any(raw)
	}
	if err != nil {
		return nil, false, wrong(err)
	}
	row, ok := v.(map[string]any)
	if !ok {
		return nil, false, app.Wrong(at, "expected a row")
	}
	for k, v := range row {
		if !slices.Contains(cols, k) {
			return nil, false, app.Wrong(at+"."+k, "not a field this program knows")
		}
		if v == nil {
			delete(row, k)
		}
	}
	check, ok := intakes[t.Name]
	if !ok {
		return nil, false, fmt.Errorf("table %s has no checks", t.Name)
	}
	if keep, err = check(m, row, copied(row)); err != nil {
		return nil, false, wrong(err)
	}
	return row, keep, m.refer(t, row, at)
}

// refer checks a row's references, and puts ids in their place.
func (m *importer) refer(t store.BundleTable, row map[string]any, at string) error {
	own := ""
	if t.Kind != "" {
		ref, ok := row["id"].(string)
		again := m.ids[ref] != "" && t.Name == "runs" // a further revision
		if !ok || !strings.HasPrefix(ref, "ref:"+t.Kind+"-") || m.ids[ref] != "" && !again {
			return app.Wrong(at+".id", fmt.Sprintf("expected a name of its own like ref:%s-1", t.Kind))
		}
		own = ref
		if again {
			own = ""
		}
	} else if row["id"] != nil {
		return app.Wrong(at+".id", "nobody refers to this row")
	}
	var bad app.Invalid
	for _, k := range slices.Sorted(maps.Keys(row)) {
		v := row[k]
		kind, refers := mustRefer[k]
		ref, isText := v.(string)
		if refers && (!isText || m.ids[ref] == "" || !strings.HasPrefix(ref, "ref:"+kind+"-")) {
			bad.Add(at+"."+k, "refers to %v, which is not in the bundle before it", v)
		}
	}
	if err := bad.Or(); err != nil {
		return err
	}
	if own != "" { // known from the next row on: no row refers to itself
		m.ids[own] = app.NewID()
	}
	for k, v := range row {
		row[k] = rename(v, m.ids)
	}
	return nil
}

// copied is a value of its own, to be taken apart.
func copied(v any) any {
	switch x := v.(type) {
	case []any:
		out := make([]any, len(x))
		for i := range x {
			out[i] = copied(x[i])
		}
		return out
	case map[string]any:
		out := make(map[string]any, len(x))
		for k := range x {
			out[k] = copied(x[k])
		}
		return out
	}
	return v
}

func plainCause(err error) string {
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		return pg.Message
	}
	if errors.Is(err, app.ErrValue) {
		return "a value is out of range"
	}
	return "it refers to something that is not there, or stands twice"
}

// workable opens everything that is shown of a runner, as of now; an error or a
// panic on the way means that the record can't be worked with.
func (a *Exports) workable(ctx context.Context, tx *store.Tx, act app.Actor, runner string) (err error) {
	where := "the record"
	defer func() {
		if p := recover(); p != nil {
			a.Log.WarnContext(ctx, "bundle refused", "where", where, "panic", fmt.Sprint(p))
			err = app.Wrong("tables", "the parts of this bundle don't fit together: "+where+" can't be worked out from them")
		} else if err != nil && ctx.Err() == nil {
			err = app.Wrong("tables", "the parts of this bundle don't fit together: "+where+" can't be worked out from them, "+err.Error())
		}
	}()
	k, err := a.Open(ctx, tx, act, runner, nil)
	if err != nil {
		return err
	}
	where = "the load"
	view.LoadOf(k, 52)
	where = "the review"
	if err := k.Decide(ctx, tx); err != nil {
		return err
	}
	blocks, err := tx.Blocks(ctx, runner)
	if err != nil {
		return err
	}
	for _, b := range blocks {
		where = "the block of " + app.DateOf(b.StartOn).String()
		o, err := a.OpenBlock(ctx, tx, act, b)
		if err != nil {
			return err
		}
		if _, err := view.BlockOf(o.F); err != nil {
			return err
		}
		rows(o.F)
		eventsOf(o.F, act.Zone, true)
		sheet(o.F, a.Now().In(act.Zone))
	}
	where = "the ramp"
	view.RampOf(k.Path)
	return nil
}
