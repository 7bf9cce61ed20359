package app_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/clips"
	"notchback/app/house"
	"notchback/core/body"
	"notchback/core/clip"
	"notchback/core/measure"
	"notchback/core/screening"
)

// A pack takes everything along, clips with their marks and pictures with their origins
// among it, and makes the same runner again; the same one twice is recognised.
func TestAPackGoesOutAndComesIn(t *testing.T) {
	r, sc, _ := desk(t)
	v, err := r.bring(sc, "knee.png", photo(t), 20)
	require.NoError(t, err)
	marks := clip.Marks{View: clip.Side, Moments: []clip.Moment{{Template: "seated", Side: body.Left, Points: map[measure.Place]measure.Point{measure.ShinLow: {X: 412, Y: 618}, measure.ShinUp: {X: 498, Y: 469}}}}, Events: []clip.Event{}}
	_, err = r.a.PutClipMarks(ctx, r.act, v.ID, 0, marks)
	require.NoError(t, err)
	trial := r.trialOf(sc)
	origin := clips.TrialOrigin{Test: trial.Test, Side: trial.Side, Slot: trial.Slot, Made: measure.ByHand, Margin: 1.5}
	require.NoError(t, r.a.BringTrialOrigin(ctx, r.act, sc, origin, photo(t)))

	name, write, err := r.a.Pack(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	assert.True(t, strings.HasSuffix(name, "-everything.zip"), name)
	var out bytes.Buffer
	require.NoError(t, write(&out))
	inside := map[string]string{}
	z, err := zip.NewReader(bytes.NewReader(out.Bytes()), int64(out.Len()))
	require.NoError(t, err)
	for _, f := range z.File {
		b, err := f.Open()
		require.NoError(t, err)
		raw, err := io.ReadAll(b)
		require.NoError(t, err)
		inside[f.Name] = string(raw)
	}
	for _, want := range []string{"manifest.json", "runner.json", "tables/runs.csv", "tables/mornings.csv", "clips/1.png", "clips/1.json", "pictures/1.json", "pictures/1.png"} {
		assert.Contains(t, inside, want)
	}

	in, err := r.a.Unpack(ctx, r.act, bytes.NewReader(out.Bytes()), false)
	require.NoError(t, err)
	assert.Empty(t, in.Left)
	assert.Equal(t, []int{1, 1}, []int{in.Clips, in.Pictures})
	assert.NotEqual(t, r.runner.ID, in.Runner.ID)
	list, err := r.a.RunnerClips(ctx, r.act, in.Runner.ID)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, marks, list[0].Marks)
	origins, err := r.a.TrialOrigins(ctx, r.act, list[0].ScreeningID)
	require.NoError(t, err)
	require.Len(t, origins, 1)
	assert.InDelta(t, 1.5, origins[0].Margin, 1e-9)
	assert.True(t, origins[0].Picture)

	_, err = r.a.Unpack(ctx, r.act, bytes.NewReader(out.Bytes()), false)
	var refused app.Refused
	require.ErrorAs(t, err, &refused)
	assert.Contains(t, err.Error(), "this very bundle came in on")
	_, err = r.a.ImportRunner(ctx, r.act, strings.NewReader(inside["runner.json"]), false)
	require.ErrorAs(t, err, &refused)
	_, err = r.a.Unpack(ctx, r.act, bytes.NewReader(out.Bytes()), true)
	require.NoError(t, err)
	before := r.runners()

	// What is not whole changes nothing.
	with := func(change func(map[string]string)) []byte {
		files := map[string]string{}
		for k, v := range inside {
			files[k] = v
		}
		change(files)
		var b bytes.Buffer
		w := zip.NewWriter(&b)
		for k, v := range files {
			f, err := w.Create(k)
			require.NoError(t, err)
			_, err = f.Write([]byte(v))
			require.NoError(t, err)
		}
		require.NoError(t, w.Close())
		return b.Bytes()
	}
	manifest := func(change func(*house.Manifest)) func(map[string]string) {
		return func(f map[string]string) {
			var m house.Manifest
			require.NoError(t, json.Unmarshal([]byte(f["manifest.json"]), &m))
			change(&m)
			raw, err := json.Marshal(m)
			require.NoError(t, err)
			f["manifest.json"] = string(raw)
		}
	}
	for why, b := range map[string][]byte{
		"no pack":          []byte("hello"),
		"breaks off":       out.Bytes()[:out.Len()/2],
		"no pack of a":     with(func(f map[string]string) { delete(f, "manifest.json") }),
		"digest":           with(func(f map[string]string) { f["clips/1.png"] += "x" }),
		"is missing":       with(func(f map[string]string) { delete(f, "clips/1.png"); f["clips/2.png"] = "" }),
		"and names":        with(func(f map[string]string) { f["more.txt"] = "x" }),
		"of version 9":     with(manifest(func(m *house.Manifest) { m.Version = 9 })),
		"can't be read":    with(manifest(func(m *house.Manifest) { m.Format = "other" })),
		"manifest can't":   with(func(f map[string]string) { f["manifest.json"] = "{" }),
		"damaged: its dig": with(func(f map[string]string) { f["runner.json"] = "{}" }),
	} {
		_, err := r.a.Unpack(ctx, r.act, bytes.NewReader(b), true)
		var bad app.Invalid
		require.ErrorAs(t, err, &bad, why)
		assert.Contains(t, err.Error(), why)
		assert.Contains(t, err.Error(), "Nothing was changed")
	}
	assert.Equal(t, before, r.runners())
}

// runners counts those of the practice.
func (r *rig) runners() int {
	r.t.Helper()
	list, err := r.a.Bench(ctx, r.act, "", 0)
	require.NoError(r.t, err)
	return len(list.Items)
}

// trialOf is some trial of a screening.
func (r *rig) trialOf(screeningID string) (out struct {
	Test screening.TestID
	Side body.Side
	Slot int
}) {
	r.t.Helper()
	v, err := r.a.Screening(ctx, r.act, screeningID)
	require.NoError(r.t, err)
	require.NotEmpty(r.t, v.Trials)
	out.Test, out.Side, out.Slot = v.Trials[0].Test, v.Trials[0].Side, v.Trials[0].Slot
	return out
}
