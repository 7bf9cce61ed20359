package app_test

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/core/body"
	"notchback/core/clip"
	"notchback/core/measure"
	"notchback/core/screening"
	"notchback/devices/sidecam"
	"notchback/formats"
	"notchback/store/blobs"
)

// desk is a rig with a folder for clips, and the id of its screening.
func desk(t *testing.T) (*rig, string, string) {
	r := newRig(t, 21)
	root := t.TempDir()
	d, err := blobs.Open(root)
	require.NoError(t, err)
	r.a, err = app.New(r.store, app.WithClock(func() time.Time { return r.clock }), app.WithBlobs(d), app.WithHashCost(app.HashCost{MemoryKiB: 1024, Iterations: 1}))
	require.NoError(t, err)
	list, err := r.a.Screenings(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	return r, list[0].ID, root
}

// bring uploads a file in parts of a size.
func (r *rig) bring(screening, name string, content []byte, part int) (app.ClipView, error) {
	v, err := r.a.AddClip(ctx, r.act, screening, app.ClipInput{Name: name, Size: int64(len(content))})
	if err != nil {
		return v, err
	}
	for at := 0; at < len(content); at += part {
		if _, err := r.a.AppendClip(ctx, r.act, v.ID, int64(at), bytes.NewReader(content[at:min(at+part, len(content))])); err != nil {
			return v, err
		}
	}
	return r.a.FinishClip(ctx, r.act, v.ID)
}

func photo(t *testing.T) []byte {
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewRGBA(image.Rect(0, 0, 40, 30))))
	return b.Bytes()
}

func files(t *testing.T, root string) int {
	n := 0
	require.NoError(t, filepath.WalkDir(root, func(_ string, d os.DirEntry, err error) error {
		if err == nil && !d.IsDir() {
			n++
		}
		return err
	}))
	return n
}

func TestAPhotoComesInIsMarkedAndReallyDeleted(t *testing.T) {
	r, sc, root := desk(t)
	content := photo(t)
	v, err := r.bring(sc, "knee.png", content, 20)
	require.NoError(t, err)
	assert.True(t, v.Ready)
	assert.Equal(t, "photo", v.Kind)
	f, kind, err := r.a.ClipFile(ctx, r.act, v.ID)
	require.NoError(t, err)
	require.NoError(t, f.Close())
	assert.Equal(t, "image/png", kind)
	m := clip.Marks{View: clip.Side, Moments: []clip.Moment{{Template: "seated", Side: body.Left, Points: map[measure.Place]measure.Point{measure.Ankle: {X: 412, Y: 618}, measure.Knee: {X: 498, Y: 469}}}}, Events: []clip.Event{}}
	v, err = r.a.PutClipMarks(ctx, r.act, v.ID, 0, m)
	require.NoError(t, err)
	assert.Equal(t, 1, v.Rev)
	_, err = r.a.PutClipMarks(ctx, r.act, v.ID, 0, m)
	require.ErrorIs(t, err, app.ErrConflict, "somebody else was first")
	table, err := r.a.ClipOut(ctx, r.act, v.ID, "csv")
	require.NoError(t, err)
	assert.Contains(t, string(table.Body), ",seated,left,Shin from vertical,29.99,1.85")
	_, err = r.a.ClipOut(ctx, r.act, v.ID, "trc")
	require.ErrorContains(t, err, "mark the scale first")
	m.Picture = measure.Picture{Scale: &measure.Line{{X: 0, Y: 0}, {X: 0, Y: 100}}, ScaleCm: 50}
	v, err = r.a.PutClipMarks(ctx, r.act, v.ID, 1, m)
	require.NoError(t, err)
	marks, err := r.a.ClipOut(ctx, r.act, v.ID, "trc")
	require.NoError(t, err)
	track, err := formats.ReadTRC(bytes.NewReader(marks.Body))
	require.NoError(t, err)
	assert.Equal(t, []string{"left-ankle", "left-knee"}, track.Markers)
	assert.InDelta(t, 5*(498-412), track.Frames[0][1].X-track.Frames[0][0].X, 0.01, "5 mm a pixel")
	assert.InDelta(t, 5*(618-469), track.Frames[0][1].Y-track.Frames[0][0].Y, 0.01)
	m.Moments[0].Template = "jump"
	_, err = r.a.PutClipMarks(ctx, r.act, v.ID, 2, m)
	require.ErrorContains(t, err, "moments[0].template")
	again, err := r.bring(sc, "the same.png", content, 1000)
	require.NoError(t, err)
	assert.Equal(t, 1, files(t, root), "the same content is kept once")
	require.NoError(t, r.a.DeleteClip(ctx, r.act, v.ID))
	assert.Equal(t, 1, files(t, root), "the other clip still has it")
	require.NoError(t, r.a.DeleteClip(ctx, r.act, again.ID))
	assert.Zero(t, files(t, root), "gone for good")
	_, err = r.a.Clip(ctx, r.act, v.ID)
	require.ErrorIs(t, err, app.ErrNotFound)
	list, err := r.a.Clips(ctx, r.act, sc)
	require.NoError(t, err)
	assert.Empty(t, list)
}

func TestAnUploadIsTakenUpAgain(t *testing.T) {
	r, sc, _ := desk(t)
	content := photo(t)
	v, err := r.a.AddClip(ctx, r.act, sc, app.ClipInput{Name: "x.png", Size: int64(len(content))})
	require.NoError(t, err)
	_, err = r.a.AppendClip(ctx, r.act, v.ID, 0, bytes.NewReader(content[:30]))
	require.NoError(t, err)
	_, err = r.a.FinishClip(ctx, r.act, v.ID)
	require.ErrorContains(t, err, "send the rest")
	_, err = r.a.AppendClip(ctx, r.act, v.ID, 10, bytes.NewReader(content[10:]))
	require.ErrorContains(t, err, "30 bytes are here")
	v, err = r.a.Clip(ctx, r.act, v.ID)
	require.NoError(t, err)
	assert.EqualValues(t, 30, v.Received)
	_, err = r.a.AppendClip(ctx, r.act, v.ID, 30, bytes.NewReader(append(content[30:], 'x')))
	require.ErrorContains(t, err, "more came than was announced")
	v, err = r.a.FinishClip(ctx, r.act, v.ID)
	require.NoError(t, err)
	assert.True(t, v.Ready)
	_, err = r.a.AppendClip(ctx, r.act, v.ID, 0, strings.NewReader("more"))
	require.ErrorContains(t, err, "whole already")
}

func TestWhatIsNoClipIsRefusedAndLeavesNothing(t *testing.T) {
	r, sc, root := desk(t)
	whole, err := sidecam.Shipped("rear")
	require.NoError(t, err)
	for name, c := range map[string]struct {
		content string
		words   string
	}{
		"a clip cut in the middle":  {string(whole[:len(whole)/2]), "damaged"},
		"a text with a clip's name": {"hello, this is no clip at all", "Save it as MP4"},
		"a web page":                {"<html><script>alert(1)</script></html>", "Save it as MP4"},
		"a program":                 {"MZ\x90\x00\x03\x00\x00\x00", "Save it as MP4"},
		"a clip cut off":            {"\x1aE\xdf\xa3\x01\x00\x00\x00\x00\x00\x00\x1fB\x86\x81\x01webm", "damaged"},
	} {
		if _, err := exec.LookPath("ffprobe"); err != nil && c.words == "damaged" {
			continue // nobody here can tell
		}
		_, err := r.bring(sc, "x.mp4", []byte(c.content), 100_000)
		require.ErrorContains(t, err, c.words, name)
	}
	assert.Zero(t, files(t, root))
	list, err := r.a.Clips(ctx, r.act, sc)
	require.NoError(t, err)
	assert.Empty(t, list)
	_, err = r.a.AddClip(ctx, r.act, sc, app.ClipInput{Name: "x", Size: 400 << 20})
	require.ErrorContains(t, err, "at most 300 MiB")
	_, err = r.a.AddClip(ctx, r.act, sc, app.ClipInput{Name: "x"})
	require.ErrorContains(t, err, "empty")
	bare := newRig(t, 21)
	list2, err := bare.a.Screenings(ctx, bare.act, bare.runner.ID)
	require.NoError(t, err)
	_, err = bare.a.AddClip(ctx, bare.act, list2[0].ID, app.ClipInput{Name: "x", Size: 5})
	require.ErrorContains(t, err, "no folder for clips")
}

// A rendered clip: its frames' true times, and the marks of its truth give back
// cadence, contact and strike.
func TestARenderedClipIsReadBack(t *testing.T) {
	if _, err := exec.LookPath("ffmpeg"); err != nil {
		require.NoError(t, err, "the tests install Debian's ffmpeg")
	}
	r, sc, _ := desk(t)
	d, err := sidecam.Find("rear")
	require.NoError(t, err)
	d.Film.Width, d.Film.Height, d.Film.Samples = 160, 90, 1
	path := filepath.Join(t.TempDir(), "rear.webm")
	require.NoError(t, sidecam.WriteClip(context.Background(), path, d))
	content, err := os.ReadFile(path)
	require.NoError(t, err)
	v, err := r.bring(sc, "rear.webm", content, app.ClipPart)
	require.NoError(t, err)
	require.Len(t, v.Times, d.Film.Frames, "every frame has its time")
	assert.InDelta(t, 1/d.Film.FPS, v.Times[1]-v.Times[0], 0.002)
	truth := d.Runner.Truth(d.Film)
	m := clip.Marks{View: clip.Side, SpeedKmh: d.Runner.Speed * 3.6}
	for _, e := range truth.Events {
		m.Events = append(m.Events, clip.Event{Frame: truth.Frame(e.Contact), Foot: body.Side(e.Foot), Kind: "contact"})
		if f := truth.Frame(e.ToeOff); e.ToeOff < truth.Frames[len(truth.Frames)-1].Time {
			m.Events = append(m.Events, clip.Event{Frame: f, Foot: body.Side(e.Foot), Kind: "toe-off"})
		}
	}
	got, err := app.ReadClip(app.ClipReadInput{Marks: m, Times: v.Times, Runner: clip.Runner{MassKg: 70, LegCm: 90}})
	require.NoError(t, err)
	assert.InDelta(t, d.Runner.Cadence, got.Gait.CadenceSpm, 1)
	assert.InDelta(t, d.Runner.Right.Contact, got.Gait.Contact.Seconds, 1/d.Film.FPS)
	require.NotNil(t, got.Spring)
	tests := map[screening.TestID]bool{}
	for _, x := range got.Times {
		tests[x.Test] = true
	}
	assert.True(t, tests[screening.CadenceTest])
	_, err = app.ReadClip(app.ClipReadInput{Marks: clip.Marks{Events: m.Events}})
	require.ErrorContains(t, err, "rate", fmt.Sprint(err))
}

// What ships with the program comes in as any clip does.
func TestTheShippedClipsAreWhole(t *testing.T) {
	r, sc, root := desk(t)
	for _, d := range sidecam.Demos() {
		content, err := sidecam.Shipped(d.ID)
		require.NoError(t, err)
		assert.Less(t, len(content), 1<<20, "small files")
		v, err := r.bring(sc, d.ID+".webm", content, app.ClipPart)
		require.NoError(t, err, d.ID)
		assert.Len(t, v.Times, d.Film.Frames, d.ID)
	}
	assert.Equal(t, len(sidecam.Demos()), files(t, root))
}
