package app

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"

	"notchback/store"
)

// bundleVersion names the shape of a bundle; a newer one is refused.
const (
	bundleFormat  = "notchback-runner"
	bundleVersion = 3
)

// Bundle is everything about one runner, to take along: profile, screenings,
// plans, sessions, mornings, decisions, journal. References between rows are
// names like "ref:block-1", so that the same runner gives the same bundle
// wherever it was imported. Who of the practice's users wrote a row stays
// behind.
type Bundle struct {
	Format  string                      `json:"format" doc:"notchback-runner"`
	Version int                         `json:"version"`
	Tables  map[string][]map[string]any `json:"tables"`
}

// ExportRunner returns everything about a runner.
func (a *App) ExportRunner(ctx context.Context, act Actor, runner string) (Bundle, error) {
	out := Bundle{Format: bundleFormat, Version: bundleVersion, Tables: map[string][]map[string]any{}}
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		names := map[string]string{}
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
	return out, err
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
var mustRefer = map[string]string{"runner_id": "runner", "screening_id": "screening", "block_id": "block", "prescription_id": "prescription", "log_id": "log", "run_id": "run"}

func newID() string {
	var b [16]byte
	_, _ = rand.Read(b[:])
	b[6], b[8] = b[6]&0x0f|0x40, b[8]&0x3f|0x80
	return fmt.Sprintf("%x-%x-%x-%x-%x", b[0:4], b[4:6], b[6:8], b[8:10], b[10:])
}

// ImportRunner makes a runner from a bundle: all of it or nothing. A bundle of a
// newer version, with something unknown or with a broken reference is refused,
// naming the place.
func (a *App) ImportRunner(ctx context.Context, act Actor, in Bundle) (Runner, error) {
	if in.Format != bundleFormat {
		return Runner{}, Invalid{{"format", fmt.Sprintf("expected %q: this is not a runner's bundle", bundleFormat)}}
	}
	if in.Version > bundleVersion || in.Version < 1 {
		return Runner{}, Invalid{{"version", fmt.Sprintf("this bundle is of version %d and this program reads up to %d; bring the program up to date and try again, nothing was changed", in.Version, bundleVersion)}}
	}
	if len(in.Tables["runners"]) != 1 {
		return Runner{}, Invalid{{"tables.runners", "expected just one runner"}}
	}
	known := map[string]bool{}
	for _, t := range store.BundleTables {
		known[t.Name] = true
	}
	for _, name := range slices.Sorted(maps.Keys(in.Tables)) {
		if !known[name] {
			return Runner{}, Invalid{{"tables." + name, "not a part of a bundle this program knows"}}
		}
	}
	var out Runner
	err := a.write(ctx, act, func(tx *store.Tx) error {
		ids := map[string]string{}
		for _, t := range store.BundleTables {
			cols, err := tx.BundleColumns(ctx, t)
			if err != nil {
				return err
			}
			for i, row := range in.Tables[t.Name] {
				at := fmt.Sprintf("tables.%s[%d]", t.Name, i)
				if err := bundleRow(t, row, cols, ids, at); err != nil {
					return err
				}
				if err := tx.InsertBundleRow(ctx, t, row, act.User.ID); err != nil {
					var pg *pgconn.PgError
					if errors.As(err, &pg) || errors.Is(err, ErrNotFound) || errors.Is(err, ErrConflict) {
						return Invalid{{at, "this row can't be stored: " + plainCause(err)}}
					}
					return err
				}
			}
		}
		r, err := tx.Runner(ctx, ids["ref:runner-1"])
		if err != nil {
			return err
		}
		out = runnerView(r, a.Today(act))
		return tx.LogAccess(ctx, a.now(), store.Access{Runner: &r.ID, User: &act.User.ID, Action: "importRunner"}, false)
	})
	return out, err
}

func plainCause(err error) string {
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		return pg.Message
	}
	return "it refers to something that is not there, or stands twice"
}

// bundleRow checks a row's columns and references and gives it its own id.
func bundleRow(t store.BundleTable, row map[string]any, cols []string, ids map[string]string, at string) error {
	var bad Invalid
	if t.Kind != "" {
		ref, ok := row["id"].(string)
		again := ids[ref] != "" && t.Name == "runs" // a further revision
		if !ok || !strings.HasPrefix(ref, "ref:"+t.Kind+"-") || ids[ref] != "" && !again {
			bad.add(at+".id", "expected a name of its own like ref:%s-1", t.Kind)
			return bad
		}
		if !again {
			ids[ref] = newID()
		}
		row["id"] = ids[ref]
	}
	for k, v := range row {
		if !slices.Contains(cols, k) {
			bad.add(at+"."+k, "not a field this program knows")
			continue
		}
		kind, refers := mustRefer[k]
		ref, isText := v.(string)
		if refers && v != nil && (!isText || ids[ref] == "" || !strings.HasPrefix(ref, "ref:"+kind+"-")) {
			bad.add(at+"."+k, "refers to %v, which is not in the bundle", v)
			continue
		}
		row[k] = rename(v, ids)
	}
	return bad.or()
}
