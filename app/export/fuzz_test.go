package export

import (
	"bytes"
	"encoding/json"
	"errors"
	"maps"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/app/strict"
	"notchback/core/adjust"
	"notchback/core/catalogue"
	"notchback/core/clip"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/transition"
	"notchback/store"
)

func drawnImporter(t testing.TB) *importer {
	c, err := catalogue.BuiltIn()
	require.NoError(t, err)
	return &importer{today: day.Make(2026, 11, 28), layers: record.Layered{Catalogue: c}, ids: map[string]string{}, ladders: map[string]laddered{}, logs: map[string]string{}, pegs: map[string]bool{}}
}

// FuzzBundle takes bundles apart and checks their rows, all but the storing: nothing
// panics, and what is wrong is said as such.
func FuzzBundle(f *testing.F) {
	f.Add([]byte(`{"format":"notchback-runner","version":4,"from":"x","tables":{"runners":[{"id":"ref:runner-1","name":"A","mass_kg":70}],"mornings":[{"runner_id":"ref:runner-1","on_date":"2026-11-02","rev":1,"first_step":2}]}}`))
	f.Add([]byte(`{"format":"notchback-runner","version":4,"tables":{"runners":[{"id":"ref:runner-1","name":"A"}],"screenings":[{"id":"ref:screening-1","runner_id":"ref:runner-1","on_date":"2026-11-02"}],` +
		`"blocks":[{"id":"ref:block-1","runner_id":"ref:runner-1","screening_id":"ref:screening-1","start_on":"2026-11-02","weeks":4,"plan":{}}],"prescriptions":[{"id":"ref:prescription-1","block_id":"ref:block-1","runner_id":"ref:runner-1","ladder":"calf-straight","start_notch":1,"position":1}],` +
		`"pegs":[{"prescription_id":"ref:prescription-1","side":"left","notch":1}],"run_tracks":[{"points":"\\x1f8b"}],"ramps":[{"kind":"cadence","body":{}}],"decisions":[{"id":"ref:decision-1","decision":{"from":1,"to":1}}]}}`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		in, err := readBundle(bytes.NewReader(raw))
		if err != nil {
			var bad app.Invalid
			assert.ErrorAs(t, err, &bad)
			return
		}
		m := drawnImporter(t)
		for _, table := range store.BundleTables {
			for _, r := range in.tables[table.Name] {
				var row map[string]any
				_ = json.Unmarshal(r, &row)
				if _, _, err := m.row(table, r, slices.Collect(maps.Keys(row)), "here"); err != nil {
					var bad app.Invalid
					assert.ErrorAs(t, err, &bad, "%s: %s", table.Name, r)
				}
			}
		}
		_ = m.whole()
	})
}

// reread reads a stored value, writes it and reads it again: the same.
func reread[T any](t *testing.T, raw []byte) {
	v, err := strict.Read[T](raw)
	if err != nil {
		var bad *strict.Error
		assert.ErrorAs(t, err, &bad)
		return
	}
	once, err := json.Marshal(v)
	require.NoError(t, err)
	var again T
	require.NoError(t, json.Unmarshal(once, &again))
	twice, err := json.Marshal(again)
	require.NoError(t, err)
	assert.Equal(t, string(once), string(twice))
}

// stored are the kinds of JSON that the database keeps.
var stored = []func(*testing.T, []byte){
	reread[input.Talk], reread[input.Conditions], reread[[]screening.Choice], reread[[]safety.Waiver], reread[input.DayInput], reread[planning.Wishes], reread[planning.School], reread[planning.Proposal],
	reread[[]planning.Reason], reread[input.BlockChange], reread[input.RampInput], reread[input.CadenceRampInput], reread[transition.Recount], reread[transition.CueLook], reread[catalogue.Dose],
	reread[catalogue.Exercise], reread[adjust.Decision], reread[course.State], reread[clip.Marks], reread[clip.Proposal], reread[record.BenchState],
	func(t *testing.T, raw []byte) {
		l, err := strict.Read[catalogue.Ladder](raw)
		if err != nil || ladderFits(l, l.ID, true) != nil {
			return
		}
		for n := 1; n <= l.Len(); n++ { // what passed can be climbed
			x := l.At(n)
			x.NeedsGate()
			x.Together()
			x.Dose.Volume()
			for _, tissue := range x.Tissues {
				x.Weight(tissue)
			}
		}
	},
}

// FuzzStored reads each kind of stored JSON from drawn text.
func FuzzStored(f *testing.F) {
	ladder, err := json.Marshal(drawnImporter(f).layers.Ladders[0])
	require.NoError(f, err)
	for i := range stored {
		for _, seed := range []string{`{}`, `[]`, `null`, `{"complaints":[{"zone":"heel","side":"left","now":3}],"flags":{"yes":{},"none":[]}}`, `{"illness":"cold","new":[{"zone":"heel"}]}`, `{"terms":{"from":"2026-05-04","goal":"walk"}}`,
			`{"kind":"move","from":"2026-05-04","to":"2026-05-05"}`, `{"verdict":"up","from":1,"to":2,"reasons":[],"forUp":[]}`, `{"noon":"2026-05-04","seats":[]}`, string(ladder)} {
			f.Add(byte(i), []byte(seed))
		}
	}
	f.Fuzz(func(t *testing.T, kind byte, raw []byte) { stored[int(kind)%len(stored)](t, raw) })
}

// TooLarge bodies are said to be, not read to the end.
func TestALargeBundleIsSaidToBe(t *testing.T) {
	_, err := readBundle(&cutOff{})
	var bad app.Invalid
	require.ErrorAs(t, err, &bad)
	assert.Contains(t, bad.Error(), "at most 25 MB")
}

type cutOff struct{ n int }

func (c *cutOff) Read(p []byte) (int, error) {
	if c.n++; c.n > 1 {
		return 0, errors.Join(errors.New("read"), &app.TooLarge{Most: input.BundleMost})
	}
	return copy(p, `{"format":"notchback-runner","tables":{"runners":[`), nil
}
