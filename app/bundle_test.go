package app_test

import (
	"bytes"
	"compress/gzip"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/bench"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/safety"
	"notchback/store"
)

// lived is a bundle with something in most of its tables.
func lived(t *testing.T) (*rig, []byte) {
	r := newRig(t, 21)
	r.at(start+1, 12)
	r.morning(start+1, 1)
	r.log(start+1, 2, 2)
	r.at(start+3, 12)
	r.run(start+2, 8)
	r.putDay(start+2, input.DayInput{Illness: "cold", Answers: &safety.Answers{Yes: map[string]body.Side{}, None: []string{}}})
	require.NoError(t, r.a.PlanWeek(ctx, r.act, r.runner.ID, (start+7).Monday(), 30))
	b, err := r.a.ExportRunner(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	raw, err := json.Marshal(b)
	require.NoError(t, err)
	return r, raw
}

// set puts a value at a place like "pegs[0].notch" of a bundle's tables; nil takes
// the row out where no field is named.
func set(t *testing.T, raw []byte, at string, v any) []byte {
	t.Helper()
	var b map[string]any
	require.NoError(t, json.Unmarshal(raw, &b))
	table, rest, _ := strings.Cut(at, "[")
	tables := b["tables"].(map[string]any)
	rows, _ := tables[table].([]any)
	if rest == "" {
		tables[table] = v
	} else {
		n, path, _ := strings.Cut(rest, "]")
		var i int
		_, err := fmt.Sscan(n, &i)
		require.NoError(t, err)
		require.Less(t, i, len(rows), "%s has no such row", table)
		at := rows[i].(map[string]any)
		steps := strings.Split(strings.TrimPrefix(path, "."), ".")
		for _, s := range steps[:len(steps)-1] {
			at = at[s].(map[string]any)
		}
		at[steps[len(steps)-1]] = v
	}
	out, err := json.Marshal(b)
	require.NoError(t, err)
	return out
}

func packed(t *testing.T, s string) string {
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	_, err := io.WriteString(z, s)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return `\x` + hex.EncodeToString(b.Bytes())
}

// Each of these was taken in before, and ended a view, the bench or the program.
func TestABundleWithWhatCantBeIsRefused(t *testing.T) {
	r, good := lived(t)
	deep := strings.Repeat("[", 100) + strings.Repeat("]", 100)
	bomb := packed(t, "["+strings.Repeat(`{"t":1,"la":1,"lo":1},`, 3_000_000)+`{"t":1,"la":1,"lo":1}]`)
	for _, k := range []struct {
		at string
		v  any
	}{
		{"pegs[0].notch", 99}, {"pegs[0].notch", 0}, {"pegs[0].notch", -1}, {"pegs", []any{}}, {"pegs[0].halt_row", 4}, {"pegs[0].side", "middle"}, {"pegs[0].last_up", "infinity"},
		{"blocks[0].start_on", "infinity"}, {"blocks[0].start_on", "0001-01-01"}, {"blocks[0].start_on", "2199-01-01"}, {"blocks[0].weeks", 0}, {"blocks[0].weeks", 4.5}, {"blocks[0].plan", []any{}},
		{"blocks[0].plan.days", []any{}}, {"blocks[0].plan.weeks", 7}, {"blocks[0].created_at", "infinity"},
		{"runners[0].mass_kg", "NaN"}, {"runners[0].mass_kg", -70}, {"runners[0].mass_kg", 1e300}, {"runners[0].birth", "3000-01-01"}, {"runners[0].weekly_km", "Infinity"}, {"runners[0].name", ""},
		{"runners[0].name", "a\x00b"}, {"runners[0].intake_first_step", 99}, {"runners[0].sex", "x"}, {"runners[0].note", strings.Repeat("x", 5000)},
		{"prescriptions[0].ladder_data", map[string]any{}}, {"prescriptions[0].ladder_data.notches", []any{}}, {"prescriptions[0].ladder_data.id", "another"}, {"prescriptions[0].start_notch", 99},
		{"prescriptions[0].ladder", "no-such"}, {"prescriptions[0].position", -3}, {"prescriptions[0].start_reasons", "why"},
		{"session_logs[0].on_date", "2150-01-01"}, {"session_logs[0].replaces", "ref:log-1"}, {"session_logs[0].replaces", "ref:log-9"}, {"session_items[0].notch", 99}, {"session_items[0].done", 7},
		{"session_items[0].pain", 11}, {"session_items[0].given", "much"}, {"session_items[0].cut", "none"},
		{"decisions[0].to_notch", 99}, {"decisions[0].decision", map[string]any{}}, {"decisions[0].verdict", "fly"}, {"decisions[0].row", 99}, {"decisions[0].answer_notch", -1},
		{"mornings[0].first_step", 77}, {"mornings[0].on_date", "-infinity"}, {"mornings[0].zone", "moon"}, {"runs[0].metres", -5}, {"runs[0].started_at", "infinity"}, {"runs[0].cadence", "NaN"},
		{"day_notes[0].body", map[string]any{"illness": "plague"}}, {"day_notes[0].body", map[string]any{"shoe": 1}}, {"day_notes[0].body", nil}, {"planned_weeks[0].monday", "2026-05-05"},
		{"trials[0].test", "no-such"}, {"trials[0].value", 9e9}, {"trials[0].slot", 99}, {"screenings[0].on_date", "0001-01-01"}, {"screening_parts", []any{map[string]any{"screening_id": "ref:screening-1", "part": "secrets", "rev": 1, "body": 1}}},
		{"screening_parts", []any{map[string]any{"screening_id": "ref:screening-1", "part": "talk", "rev": 1, "body": map[string]any{"complaints": []any{map[string]any{"zone": "moon", "side": "left"}}}}}},
		{"screening_parts", []any{map[string]any{"screening_id": "ref:screening-1", "part": "conditions", "rev": 1, "body": map[string]any{"speedKmh": 300}}}},
		{"journal[0].sentence", strings.Repeat("x", 5000)}, {"journal[0].detail", json.RawMessage(deep)}, {"journal[0].at", "10000-01-01T00:00:00Z"},
		{"run_tracks", []any{map[string]any{"run_id": "ref:run-1", "runner_id": "ref:runner-1", "points": bomb}}},
		{"run_tracks", []any{map[string]any{"run_id": "ref:run-1", "runner_id": "ref:runner-1", "points": packed(t, `[{"t":1,"la":900,"lo":1}]`)}}},
		{"run_tracks", []any{map[string]any{"run_id": "ref:run-1", "runner_id": "ref:runner-1", "points": `\x00`}}},
		{"ramps", []any{map[string]any{"runner_id": "ref:runner-1", "kind": "barefoot", "rev": 1, "body": map[string]any{"terms": map[string]any{"from": "2026-05-04"}}}}},
		{"ramp_events", []any{map[string]any{"runner_id": "ref:runner-1", "kind": "cue", "on_date": "2026-05-04", "body": map[string]any{"cue": "fly", "on": "2026-05-04"}}}},
	} {
		_, err := r.a.ImportRunner(ctx, r.act, bytes.NewReader(set(t, good, k.at, k.v)), true)
		var bad app.Invalid
		require.ErrorAs(t, err, &bad, "%s = %.40v", k.at, k.v)
		assert.Contains(t, bad[0].Field, "tables", "%s names its place", k.at)
		assert.NotEmpty(t, bad[0].Message)
	}
	for _, text := range []string{"", "[]", "{", `{"format":1}`, `{"tables":{"runners":[{]}}`, string(good[:len(good)/2]), string(good) + "x", `{"format":"notchback-runner","shoe":1}`} {
		_, err := r.a.ImportRunner(ctx, r.act, strings.NewReader(text), true)
		var bad app.Invalid
		require.ErrorAs(t, err, &bad, "%.40s", text)
	}
	_, err := r.a.ImportRunner(ctx, r.act, bytes.NewReader(good), true)
	require.NoError(t, err, "and what can be is taken in")
	b, err := r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err)
	assert.Equal(t, 2, b.Total, "nothing half-written")
}

// What a clinician, a coach or the engine of another practice said comes along as
// history: it is shown as brought in, opens nothing and lets nothing rise.
func TestABundlesWordsDecideNothing(t *testing.T) {
	r, good := lived(t)
	good = set(t, good, "runners[0].auto_progress", true)
	good = set(t, good, "clearances", []any{map[string]any{"runner_id": "ref:runner-1", "flag": "F-BONE-HIGH", "on_date": start.String(), "role": "physician", "allowed": "all", "until_date": (start + 300).String(), "at": start.Time()}})
	good = set(t, good, "flags", []any{map[string]any{"runner_id": "ref:runner-1", "flag": "F-SEVERE", "level": "refer", "since": (start + 1).String(), "tissues": []any{"achilles-calf"}, "at": start.Time()}})
	var b map[string]any
	require.NoError(t, json.Unmarshal(good, &b))
	b["from"] = "Reef Runners"
	parts := b["tables"].(map[string]any)["screening_parts"].([]any)
	b["tables"].(map[string]any)["screening_parts"] = append(parts, map[string]any{"screening_id": "ref:screening-1", "part": "waivers", "rev": 1, "body": []any{map[string]any{"gate": "hop", "reason": "looked fine"}}, "at": start.Time()})
	raw, err := json.Marshal(b)
	require.NoError(t, err)
	made, err := r.a.ImportRunner(ctx, r.act, bytes.NewReader(raw), true)
	require.NoError(t, err)
	assert.Equal(t, "Reef Runners", made.ImportedFrom)
	require.NotNil(t, made.ImportedAt)
	visits, err := r.a.Screenings(ctx, r.act, made.ID)
	require.NoError(t, err)
	require.NotEmpty(t, visits)
	assert.True(t, visits[0].Imported)
	assert.Empty(t, visits[0].Waivers)
	assert.Empty(t, visits[0].Clearances)
	block, err := r.a.CurrentBlock(ctx, r.act, made.ID)
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(block.Flags, func(f record.FlagView) bool { return f.Flag == "F-SEVERE" }), "a caution comes along")
	for _, d := range block.Decisions {
		assert.NotEqual(t, "proposed", d.State, "nothing waits that was proposed elsewhere")
	}
	assert.False(t, block.AutoProgress)
	lines, err := r.a.Journal(ctx, r.act, made.ID)
	require.NoError(t, err)
	own, theirs := 0, 0
	said := ""
	for _, l := range lines {
		said += l.Sentence + "\n"
		if l.Imported {
			theirs++
			assert.Empty(t, l.By, "nobody here wrote it")
		} else {
			own++
		}
	}
	assert.Positive(t, theirs)
	assert.Positive(t, own)
	assert.Contains(t, said, "Imported from Reef Runners")
	assert.Contains(t, said, "clearance for F-BONE-HIGH by a physician")
	assert.Contains(t, said, "gate hop, waived elsewhere")
}

// Drawn damage: whatever is taken in can be worked with afterwards.
func TestWhateverIsTakenInCanBeWorkedWith(t *testing.T) {
	r, good := lived(t)
	rng := rand.New(rand.NewPCG(7, 7))
	taken := 0
	draws := 60
	if os.Getenv("NOTCHBACK_WHOLE") != "" {
		draws = 600
	}
	for range draws {
		raw := spoil(t, rng, good)
		made, err := r.a.ImportRunner(ctx, r.act, bytes.NewReader(raw), true)
		var bad app.Invalid
		if err != nil {
			require.ErrorAs(t, err, &bad)
			continue
		}
		taken++
		_, err = r.a.CurrentBlock(ctx, r.act, made.ID)
		require.NoError(t, err)
		_, err = r.a.ReviewOf(ctx, r.act, made.ID, 0)
		require.NoError(t, err)
		_, err = r.a.Load(ctx, r.act, made.ID, 52)
		require.NoError(t, err)
		_, err = r.a.Ramp(ctx, r.act, made.ID)
		require.NoError(t, err)
		_, err = r.a.ExportRunner(ctx, r.act, made.ID)
		require.NoError(t, err)
	}
	assert.Positive(t, taken, "some damage is harmless")
	r.at(start+4, 12)
	n, err := r.a.ReviewAll(ctx)
	require.NoError(t, err)
	assert.Positive(t, n.Runners)
	_, err = r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err)
}

// spoil changes a few leaves of a bundle's tables.
func spoil(t *testing.T, rng *rand.Rand, good []byte) []byte {
	var b map[string]any
	require.NoError(t, json.Unmarshal(good, &b))
	evil := []any{nil, -1, 0, 1, 99, 1e9, "", "x", "NaN", "infinity", "2026-05-04", "0001-01-01", true, []any{}, map[string]any{}, "left", 0.5, "ref:log-1"}
	for range 1 + rng.IntN(3) {
		var at any = b["tables"]
		for range 9 {
			switch x := at.(type) {
			case map[string]any:
				keys := make([]string, 0, len(x))
				for k := range x {
					keys = append(keys, k)
				}
				if len(keys) == 0 {
					at = nil
					continue
				}
				slices.Sort(keys)
				k := keys[rng.IntN(len(keys))]
				switch x[k].(type) {
				case map[string]any, []any:
					if rng.IntN(12) > 0 {
						at = x[k]
						continue
					}
				}
				x[k] = evil[rng.IntN(len(evil))]
				at = nil
			case []any:
				if len(x) == 0 {
					at = nil
					continue
				}
				at = x[rng.IntN(len(x))]
			}
		}
	}
	out, err := json.Marshal(b)
	require.NoError(t, err)
	return out
}

// A record that can't be read keeps nobody else from their review, and says so on
// the bench until it can.
func TestARunnerThatCantBeReviewedIsShown(t *testing.T) {
	r := newRig(t, 21)
	r.at(start+2, 13)
	owner, err := pgx.Connect(ctx, r.owner)
	require.NoError(t, err)
	defer func() { _ = owner.Close(ctx) }()
	breakIt := func(sql string) {
		_, err := owner.Exec(ctx, sql, r.block.ID)
		require.NoError(t, err)
	}
	breakIt(`UPDATE prescriptions SET ladder_data = jsonb_build_object('notches', '[]'::jsonb, 'kept', ladder_data) WHERE block_id = $1`)
	_, err = r.a.ReviewAll(ctx)
	require.Error(t, err)
	b, err := r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err)
	at := slices.IndexFunc(b.Items, func(i bench.BenchItem) bool { return i.ID == r.runner.ID })
	require.Equal(t, "unreviewed", b.Items[at].Next.Kind)
	assert.NotEmpty(t, b.Items[at].Next.Why)
	breakIt(`UPDATE prescriptions SET ladder_data = ladder_data->'kept' WHERE block_id = $1`)
	_, err = r.a.ReviewAll(ctx)
	require.NoError(t, err)
	b, err = r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err)
	assert.NotEqual(t, "unreviewed", b.Items[at].Next.Kind)
	require.NoError(t, r.store.In(ctx, r.act.Practice, func(tx *store.Tx) error { return tx.PutState(ctx, r.runner.ID, []byte(`[]`)) }))
	b, err = r.a.Bench(ctx, r.act, "", 0)
	require.NoError(t, err, "a state that can't be read does not take the bench with it")
	assert.Equal(t, "unreviewed", b.Items[at].Next.Kind)
}
