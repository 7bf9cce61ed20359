package app_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"io"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/clips"
	"notchback/app/house"
	"notchback/app/input"
	"notchback/app/intake"
	"notchback/app/media"
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
	r.a, err = house.New(r.store, app.WithClock(func() time.Time { return r.clock }), app.WithBlobs(d), app.WithHashCost(app.HashCost{MemoryKiB: 1024, Iterations: 1}))
	require.NoError(t, err)
	list, err := r.a.Screenings(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	return r, list[0].ID, root
}

// bring uploads a file in parts of a size.
func (r *rig) bring(screening, name string, content []byte, part int) (clips.ClipView, error) {
	v, err := r.a.AddClip(ctx, r.act, screening, clips.ClipInput{Name: name, Size: int64(len(content))})
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
	m := clip.Marks{View: clip.Side, Moments: []clip.Moment{{Template: "seated", Side: body.Left, Points: map[measure.Place]measure.Point{measure.ShinLow: {X: 412, Y: 618}, measure.ShinUp: {X: 498, Y: 469}}}}, Events: []clip.Event{}}
	v, err = r.a.PutClipMarks(ctx, r.act, v.ID, 0, m)
	require.NoError(t, err)
	assert.Equal(t, 1, v.Rev)
	_, err = r.a.PutClipMarks(ctx, r.act, v.ID, 0, m)
	require.ErrorIs(t, err, app.ErrConflict, "somebody else was first")
	table, err := r.a.ClipOut(ctx, r.act, v.ID, "csv")
	require.NoError(t, err)
	assert.Contains(t, string(table.Body), ",seated,left,Front edge of the shin from vertical,29.99,1.85")
	_, err = r.a.ClipOut(ctx, r.act, v.ID, "trc")
	require.ErrorContains(t, err, "mark the scale first")
	m.Picture = measure.Picture{Scale: &measure.Line{{X: 0, Y: 0}, {X: 0, Y: 100}}, ScaleCm: 50}
	v, err = r.a.PutClipMarks(ctx, r.act, v.ID, 1, m)
	require.NoError(t, err)
	marks, err := r.a.ClipOut(ctx, r.act, v.ID, "trc")
	require.NoError(t, err)
	track, err := formats.ReadTRC(bytes.NewReader(marks.Body))
	require.NoError(t, err)
	assert.Equal(t, []string{"left-shin-low", "left-shin-up"}, track.Markers)
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
	v, err := r.a.AddClip(ctx, r.act, sc, clips.ClipInput{Name: "x.png", Size: int64(len(content))})
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
	_, err = r.a.AddClip(ctx, r.act, sc, clips.ClipInput{Name: "x", Size: 400 << 20})
	require.ErrorContains(t, err, "at most 300 MiB")
	_, err = r.a.AddClip(ctx, r.act, sc, clips.ClipInput{Name: "x"})
	require.ErrorContains(t, err, "empty")
	bare := newRig(t, 21)
	list2, err := bare.a.Screenings(ctx, bare.act, bare.runner.ID)
	require.NoError(t, err)
	_, err = bare.a.AddClip(ctx, bare.act, list2[0].ID, clips.ClipInput{Name: "x", Size: 5})
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
	v, err := r.bring(sc, "rear.webm", content, media.ClipPart)
	require.NoError(t, err)
	require.Len(t, v.Times, d.Film.Frames, "every frame has its time")
	assert.InDelta(t, 1/d.Film.FPS, v.Times[1]-v.Times[0], 0.002)
	truth := d.Runner.Truth(d.Film)
	m := clip.Marks{View: clip.Side, SpeedKmh: d.Runner.Speed * 3.6}
	for _, e := range truth.Events {
		m.Events = append(m.Events, clip.Event{Frame: truth.First(e.Contact), Foot: body.Side(e.Foot), Kind: "contact"})
		if f := truth.Frame(e.ToeOff); e.ToeOff < truth.Frames[len(truth.Frames)-1].Time {
			m.Events = append(m.Events, clip.Event{Frame: f, Foot: body.Side(e.Foot), Kind: "toe-off"})
		}
	}
	got, err := clips.ReadClip(clips.ClipReadInput{Marks: m, Times: v.Times, Runner: clip.Runner{MassKg: 70, LegCm: 90}})
	require.NoError(t, err)
	assert.InDelta(t, d.Runner.Cadence, got.Gait.CadenceSpm, 1)
	assert.InDelta(t, d.Runner.Right.Contact, got.Gait.Contact.Seconds, 1/d.Film.FPS)
	require.NotNil(t, got.Spring)
	tests := map[screening.TestID]bool{}
	for _, x := range got.Times {
		tests[x.Test] = true
	}
	assert.True(t, tests[screening.CadenceTest])
	_, err = clips.ReadClip(clips.ClipReadInput{Marks: clip.Marks{Events: m.Events}})
	require.ErrorContains(t, err, "rate", fmt.Sprint(err))
}

// What ships with the program comes in as any clip does.
func TestTheShippedClipsAreWhole(t *testing.T) {
	r, sc, root := desk(t)
	for _, d := range sidecam.Demos() {
		content, err := sidecam.Shipped(d.ID)
		require.NoError(t, err)
		assert.Less(t, len(content), 1<<20, "small files")
		v, err := r.bring(sc, d.ID+".webm", content, media.ClipPart)
		require.NoError(t, err, d.ID)
		assert.Len(t, v.Times, d.Film.Frames, d.ID)
	}
	assert.Equal(t, len(sidecam.Demos()), files(t, root))
}

// film writes a clip with Debian's ffmpeg from its test pattern.
func film(t *testing.T, name string, args ...string) []byte {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	out, err := exec.Command("ffmpeg", append(append([]string{"-v", "error", "-f", "lavfi", "-i", "testsrc=size=320x240:rate=50:duration=2"}, args...), path)...).CombinedOutput()
	require.NoError(t, err, string(out))
	b, err := os.ReadFile(path)
	require.NoError(t, err)
	return b
}

// turned waits until a clip is turned, and returns it.
func (r *rig) turned(t *testing.T, id string) clips.ClipView {
	t.Helper()
	var v clips.ClipView
	require.Eventually(t, func() bool {
		var err error
		v, err = r.a.Clip(ctx, r.act, id)
		require.NoError(t, err)
		return v.Ready || v.Turning != nil && v.Turning.Error != ""
	}, 2*time.Minute, 20*time.Millisecond)
	return v
}

// What browsers do not show is turned into what they do, with the frames it has.
func TestAClipNoBrowserShowsIsTurned(t *testing.T) {
	r, sc, root := desk(t)
	for name, args := range map[string][]string{"a.avi": {"-c:v", "mpeg4"}, "b.mov": {"-c:v", "prores"}, "c.mp4": {"-c:v", "mpeg4"}} {
		content := film(t, name, args...)
		v, err := r.bring(sc, name, content, media.ClipPart)
		require.NoError(t, err, name)
		assert.False(t, v.Ready, name)
		require.NotNil(t, v.Turning, name)
		v = r.turned(t, v.ID)
		require.True(t, v.Ready, "%s: %v", name, v.Turning)
		assert.True(t, v.Converted)
		assert.Len(t, v.Times, 100, name)
		assert.InDelta(t, 0.02, v.Times[1]-v.Times[0], 0.001, name)
		f, kind, err := r.a.ClipFile(ctx, r.act, v.ID)
		require.NoError(t, err)
		assert.Equal(t, "video/mp4", kind)
		st, err := f.Stat()
		require.NoError(t, err)
		assert.Equal(t, v.Size, st.Size())
		require.NoError(t, f.Close())
		small, err := r.a.ClipThumb(ctx, r.act, v.ID)
		require.NoError(t, err)
		assert.Equal(t, "\xff\xd8", string(small[:2]), "a JPEG")
		assert.Less(t, len(small), 20_000)
		require.NoError(t, r.a.DeleteClip(ctx, r.act, v.ID))
	}
	assert.Zero(t, files(t, root), "nothing is left over")
}

// Frames at uneven times keep them, and what is filmed upright is no error.
func TestUnevenAndUprightFramesKeepTheirTimes(t *testing.T) {
	r, sc, _ := desk(t)
	content := film(t, "v.mp4", "-vf", "select='not(eq(mod(n,5),2))'", "-fps_mode", "vfr", "-c:v", "libx264", "-metadata:s:v", "rotate=90")
	v, err := r.bring(sc, "v.mp4", content, media.ClipPart)
	require.NoError(t, err)
	require.False(t, v.Ready, "uneven frames in another order than they are shown: browsers would show others")
	v = r.turned(t, v.ID)
	require.Len(t, v.Times, 80)
	steps := map[int]int{}
	for i := 1; i < len(v.Times); i++ {
		steps[int(1000*(v.Times[i]-v.Times[i-1])+0.5)]++
	}
	assert.Equal(t, map[int]int{20: 59, 40: 20}, steps, "every fifth frame is missing")
	// The same through the turning.
	content = film(t, "v.avi", "-vf", "select='not(eq(mod(n,5),2))'", "-fps_mode", "vfr", "-c:v", "mpeg4", "-f", "matroska")
	v, err = r.bring(sc, "v.mkv", content, media.ClipPart)
	require.NoError(t, err)
	v = r.turned(t, v.ID)
	require.True(t, v.Ready)
	assert.Len(t, v.Times, 80)
}

// Deleting a clip ends its turning; nothing of it stays.
func TestTurningIsStoppedByDeleting(t *testing.T) {
	r, sc, root := desk(t)
	content := film(t, "long.avi", "-vf", "scale=640:480,loop=loop=20:size=100", "-c:v", "mjpeg", "-q:v", "8")
	v, err := r.bring(sc, "long.avi", content, media.ClipPart)
	require.NoError(t, err)
	require.NotNil(t, v.Turning)
	require.NoError(t, r.a.DeleteClip(ctx, r.act, v.ID))
	assert.Zero(t, files(t, root))
	_, err = r.a.Clip(ctx, r.act, v.ID)
	require.ErrorIs(t, err, app.ErrNotFound)
	r.a.Close() // waits for what is at work
	assert.Zero(t, files(t, root), "and nothing comes after")
}

// When the server ends, so does the turning; the upload is whole and can be gone on
// with.
func TestClosingEndsTurningsAndKeepsTheUpload(t *testing.T) {
	r, sc, root := desk(t)
	content := film(t, "long.avi", "-vf", "scale=640:480,loop=loop=20:size=100", "-c:v", "mjpeg", "-q:v", "8")
	v, err := r.bring(sc, "long.avi", content, media.ClipPart)
	require.NoError(t, err)
	require.NotNil(t, v.Turning)
	r.a.Close()
	v, err = r.a.Clip(ctx, r.act, v.ID)
	require.NoError(t, err)
	assert.Nil(t, v.Turning)
	assert.False(t, v.Ready)
	assert.Equal(t, v.Size, v.Received)
	assert.Equal(t, 1, files(t, root), "the upload, and nothing half made")
	v, err = r.a.FinishClip(ctx, r.act, v.ID)
	require.NoError(t, err)
	require.NotNil(t, v.Turning, "gone on with")
	require.NoError(t, r.a.DeleteClip(ctx, r.act, v.ID))
}

// A sound without a picture, hours of stills, a file that lies.
func TestFilmsWithoutAPictureOrOfHoursAreRefused(t *testing.T) {
	r, sc, root := desk(t)
	path := filepath.Join(t.TempDir(), "s.mp4")
	out, err := exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=duration=2", path).CombinedOutput()
	require.NoError(t, err, string(out))
	sound, err := os.ReadFile(path)
	require.NoError(t, err)
	_, err = r.bring(sc, "sound.mp4", sound, media.ClipPart)
	require.ErrorContains(t, err, "no picture")
	hours := film(t, "h.mp4", "-vf", "scale=32:24,setpts=N*400/TB", "-fps_mode", "vfr", "-c:v", "libx264")
	_, err = r.bring(sc, "hours.mp4", hours, media.ClipPart)
	require.ErrorContains(t, err, "hours")
	assert.Zero(t, files(t, root))
}

func trcFile(t *testing.T, id string, change func(*formats.Track)) []byte {
	t.Helper()
	d, err := sidecam.Find(id)
	require.NoError(t, err)
	d.Film.FPS, d.Film.Frames = 120, 360
	m := d.Markers()
	if change != nil {
		change(&m)
	}
	var b bytes.Buffer
	require.NoError(t, formats.WriteTRC(&b, id, m))
	return b.Bytes()
}

// A marker file comes in, is mapped once for all of its kind, and read over all its
// strides; two of them are compared.
func TestAMarkerFileIsMappedOnceAndRead(t *testing.T) {
	r, sc, _ := desk(t)
	v, err := r.bring(sc, "rear.trc", trcFile(t, "rear", nil), media.ClipPart)
	require.NoError(t, err)
	assert.Equal(t, "markers", v.Kind)
	assert.InDelta(t, 120, v.Rate, 0)
	assert.Equal(t, 360, v.Frames)
	assert.Equal(t, "left-sole-heel", v.Marks.Mapping["left-heel"], "guessed by name")
	got, err := r.a.ClipTrack(ctx, r.act, v.ID, v.Marks)
	require.NoError(t, err)
	d, err := sidecam.Find("rear")
	require.NoError(t, err)
	assert.InDelta(t, d.Runner.Cadence, got.Gait.CadenceSpm, 1)
	// Another mapping, and the next file with these markers has it.
	v.Marks.Mapping["left-heel"], v.Marks.Mapping["right-heel"] = "left-heel", "right-heel"
	_, err = r.a.PutClipMarks(ctx, r.act, v.ID, v.Rev, v.Marks)
	require.NoError(t, err)
	other, err := r.bring(sc, "reach.trc", trcFile(t, "reach", nil), media.ClipPart)
	require.NoError(t, err)
	assert.Equal(t, "left-heel", other.Marks.Mapping["left-heel"])
	both, err := r.a.ClipsBeside(ctx, r.act, v.ID, other.ID)
	require.NoError(t, err)
	real := map[string]bool{}
	for _, x := range both.Differences {
		real[x.Name+" "+string(x.Side)] = x.Real
	}
	assert.True(t, real["Cadence both"], "170 and 156: %v", both.Differences)
	assert.True(t, real["Bounce both"])
	same, err := r.a.ClipsBeside(ctx, r.act, v.ID, v.ID)
	require.NoError(t, err)
	for _, x := range same.Differences {
		assert.False(t, x.Real, x.Name)
	}
	list, err := r.a.RunnerClips(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	assert.Len(t, list, 2)
	table, err := r.a.ClipOut(ctx, r.act, v.ID, "csv")
	require.NoError(t, err)
	assert.Contains(t, string(table.Body), `"step, markers",left,Shin at contact,`)
	assert.Contains(t, string(table.Body), `"all steps, markers",both,Cadence,`)
	// A mapping that can't be says which.
	v.Marks.Mapping["left-heel"] = "nobody"
	got, err = r.a.ClipTrack(ctx, r.act, v.ID, v.Marks)
	require.NoError(t, err)
	assert.Equal(t, []string{`there is no marker "nobody" in this file`}, got.Says)
	// What is no marker file says the line, and leaves nothing.
	bad := trcFile(t, "rear", nil)
	_, err = r.bring(sc, "bad.trc", bad[:len(bad)/2], media.ClipPart)
	require.ErrorContains(t, err, "line ")
	_, err = r.bring(sc, "bad.trc", bytes.Replace(bad, []byte("\tmm\t"), []byte("\tft\t"), 1), media.ClipPart)
	require.ErrorContains(t, err, "expected mm, cm or m")
}

// A picture goes with a trial, and goes when the trial changes.
func TestAPictureGoesWithItsTrial(t *testing.T) {
	r, _, _ := desk(t)
	open, err := r.a.StartScreening(ctx, r.act, "", r.runner.ID, intake.ScreeningInput{})
	require.NoError(t, err)
	put := func(v float64) {
		_, err := r.a.PutTrial(ctx, r.act, open.ID, screening.SeatedShin, body.Left, 1, &input.TrialInput{Trial: screening.Trial{Value: &v}}, "")
		require.NoError(t, err)
	}
	origin := clips.TrialOrigin{Test: screening.SeatedShin, Side: body.Left, Slot: 1, Made: measure.ByCoach, Margin: 1.5, Mark: "c/shin-edge/seated/left/0"}
	_, err = r.a.PutTrialOrigin(ctx, r.act, open.ID, origin, photo(t))
	require.ErrorContains(t, err, "no such trial")
	put(31)
	_, err = r.a.PutTrialOrigin(ctx, r.act, open.ID, origin, []byte("no picture"))
	require.ErrorContains(t, err, "PNG")
	list, err := r.a.PutTrialOrigin(ctx, r.act, open.ID, origin, photo(t))
	require.NoError(t, err)
	origin.Picture = true
	assert.Equal(t, []clips.TrialOrigin{origin}, list)
	got, err := r.a.TrialPicture(ctx, r.act, open.ID, screening.SeatedShin, body.Left, 1)
	require.NoError(t, err)
	assert.Equal(t, photo(t), got)
	put(33)
	_, err = r.a.TrialPicture(ctx, r.act, open.ID, screening.SeatedShin, body.Left, 1)
	require.ErrorIs(t, err, app.ErrNotFound, "it showed another value")
}

// The same file brought in again goes on where it broke off, by what it looks like and not
// by its name; once it is whole it is not brought in twice.
func TestTheSameFileGoesOn(t *testing.T) {
	r, sc, _ := desk(t)
	content := photo(t)
	in := clips.ClipInput{Name: "x.png", Size: int64(len(content)), Print: "97-a-b"}
	v, err := r.a.AddClip(ctx, r.act, sc, in)
	require.NoError(t, err)
	_, err = r.a.AppendClip(ctx, r.act, v.ID, 0, bytes.NewReader(content[:30]))
	require.NoError(t, err)
	in.Name = "renamed.png"
	again, err := r.a.AddClip(ctx, r.act, sc, in)
	require.NoError(t, err)
	assert.Equal(t, v.ID, again.ID)
	assert.EqualValues(t, 30, again.Received)
	_, err = r.a.AppendClip(ctx, r.act, v.ID, 30, bytes.NewReader(content[30:]))
	require.NoError(t, err)
	_, err = r.a.FinishClip(ctx, r.act, v.ID)
	require.NoError(t, err)
	whole, err := r.a.AddClip(ctx, r.act, sc, in)
	require.NoError(t, err)
	assert.Equal(t, v.ID, whole.ID)
	assert.True(t, whole.Ready)
	in.Print = ""
	another, err := r.a.AddClip(ctx, r.act, sc, in)
	require.NoError(t, err)
	assert.NotEqual(t, v.ID, another.ID, "who says nothing begins anew")
}

// A photo gets points; a frame proposed anew leaves the others.
func TestProposalsOfAPhotoAndOfOneFrame(t *testing.T) {
	r, sc, _ := desk(t)
	v, err := r.bring(sc, "knee.png", photo(t), 1000)
	require.NoError(t, err)
	row := make([]float64, 36)
	for i := range row {
		row[i] = []float64{float64(10 + i), float64(5 + 7*i), 0.9}[i%3]
	}
	got, err := r.a.PutProposal(ctx, r.act, v.ID, clip.Proposal{Model: "m", Frames: [][]float64{row}})
	require.NoError(t, err)
	assert.Equal(t, 1, got.Found)
	assert.Nil(t, got.Gait)
	clip3, err := r.bring(sc, "rear.webm", shipped(t, "rear"), 1<<20)
	require.NoError(t, err)
	_, err = r.a.PutProposal(ctx, r.act, clip3.ID, clip.Proposal{From: 3, Model: "m", Frames: [][]float64{row, row, row}})
	require.NoError(t, err)
	other := slices.Clone(row)
	other[0] = 77
	got, err = r.a.PutProposal(ctx, r.act, clip3.ID, clip.Proposal{From: 4, Model: "m", Frames: [][]float64{other}})
	require.NoError(t, err)
	assert.Equal(t, 3, got.Frames)
	shown, err := r.a.ReadProposal(ctx, r.act, clip3.ID, clip3.Marks, clip.Span{From: 3, To: 5})
	require.NoError(t, err)
	assert.InDelta(t, 10, shown.Points[3][0], 0)
	assert.InDelta(t, 77, shown.Points[4][0], 0)
	assert.InDelta(t, 10, shown.Points[5][0], 0)
}

// A photo that browsers don't show is named for what it is, where it can't be developed.
func TestAPhotoOfAPhoneIsNamed(t *testing.T) {
	r, sc, root := desk(t)
	t.Setenv("PATH", t.TempDir())
	_, err := r.bring(sc, "IMG_1.HEIC", append([]byte("\x00\x00\x00\x18ftypheic\x00\x00\x00\x00mif1heic"), make([]byte, 200)...), 1000)
	require.ErrorContains(t, err, "HEIC photo")
	require.ErrorContains(t, err, "JPEG")
	assert.Zero(t, files(t, root))
}

// A photo as a phone takes it is developed: upright, without what the camera noted, and
// shown like any other. One that is cut off is said to be.
func TestAPhotoOfAPhoneIsDeveloped(t *testing.T) {
	enc, err := exec.LookPath("heif-enc")
	require.NoError(t, err, "scripts/packages.sh installs it")
	dir := t.TempDir()
	// The left half is white: upright, it lies on top.
	img := image.NewGray(image.Rect(0, 0, 640, 480))
	for y := range 480 {
		for x := range 320 {
			img.SetGray(x, y, color.Gray{Y: 255})
		}
	}
	var plain bytes.Buffer
	require.NoError(t, jpeg.Encode(&plain, img, &jpeg.Options{Quality: 95}))
	for name, brand := range map[string]string{"IMG_2.HEIC": "image/heic", "photo.avif": "image/avif"} {
		r, sc, root := desk(t)
		source, out := filepath.Join(dir, "in.jpg"), filepath.Join(dir, "out"+strings.ToLower(filepath.Ext(name)))
		require.NoError(t, os.WriteFile(source, held(plain.Bytes(), 6, "Somewhere 12"), 0o600))
		said, err := exec.Command(enc, "-q", "80", "-o", out, source).CombinedOutput()
		require.NoError(t, err, "%s", said)
		raw, err := os.ReadFile(out)
		require.NoError(t, err)
		require.Contains(t, string(raw), "Somewhere 12", "the file of the phone says where it was")
		v, err := r.bring(sc, name, raw, media.ClipPart)
		require.NoError(t, err, brand)
		assert.Equal(t, "photo", v.Kind)
		f, kind, err := r.a.ClipFile(ctx, r.act, v.ID)
		require.NoError(t, err)
		assert.Equal(t, "image/jpeg", kind)
		got, err := io.ReadAll(f)
		require.NoError(t, err)
		require.NoError(t, f.Close())
		assert.NotContains(t, string(got), "Somewhere 12")
		shown, err := jpeg.Decode(bytes.NewReader(got))
		require.NoError(t, err)
		require.Equal(t, image.Pt(480, 640), shown.Bounds().Size(), "as it was held")
		grey := func(x, y int) uint8 { return color.GrayModel.Convert(shown.At(x, y)).(color.Gray).Y }
		assert.Greater(t, grey(240, 100), uint8(200))
		assert.Less(t, grey(240, 540), uint8(60))
		assert.Equal(t, 1, files(t, root), "nothing is left of the work")

		_, err = r.bring(sc, "cut"+name, raw[:len(raw)*2/3], media.ClipPart)
		require.ErrorContains(t, err, "damaged, cut off")
		assert.Equal(t, 1, files(t, root))
	}
}

// held is a JPEG with a word on how the camera was held, 1 to 8, and where.
func held(plain []byte, o byte, where string) []byte {
	part := append([]byte("Exif\x00\x00II*\x00\x08\x00\x00\x00\x01\x00\x12\x01\x03\x00\x01\x00\x00\x00"+string(rune(o))+"\x00\x00\x00\x00\x00\x00\x00"), where...)
	return slices.Concat(plain[:2], []byte{0xff, 0xe1, byte((len(part) + 2) >> 8), byte(len(part) + 2)}, part, plain[2:])
}

func shipped(t *testing.T, id string) []byte {
	t.Helper()
	b, err := sidecam.Shipped(id)
	require.NoError(t, err)
	return b
}

// Uploads that nobody goes on with are gone after a week.
func TestAbandonedUploadsAreSwept(t *testing.T) {
	r, sc, root := desk(t)
	v, err := r.a.AddClip(ctx, r.act, sc, clips.ClipInput{Name: "x.png", Size: 500})
	require.NoError(t, err)
	_, err = r.a.AppendClip(ctx, r.act, v.ID, 0, strings.NewReader("some"))
	require.NoError(t, err)
	r.clock = time.Now().Add(6 * 24 * time.Hour)
	n, err := r.a.SweepClips(ctx)
	require.NoError(t, err)
	assert.Zero(t, n.Abandoned)
	r.clock = time.Now().Add(8 * 24 * time.Hour)
	n, err = r.a.SweepClips(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, n.Abandoned)
	assert.Zero(t, files(t, root))
}

// A proposal is kept packed, read with marks saved or not, and compared like any
// other clip; deleting the clip deletes it.
func TestAProposalIsKeptReadAndCompared(t *testing.T) {
	r, sc, _ := desk(t)
	bring := func(id string) (clips.ClipView, clip.Proposal) {
		content, err := sidecam.Shipped(id)
		require.NoError(t, err)
		v, err := r.bring(sc, id+".webm", content, media.ClipPart)
		require.NoError(t, err)
		require.Nil(t, v.ProposedAt)
		raw, err := os.ReadFile("../core/clip/testdata/" + id + ".json")
		require.NoError(t, err)
		var p clip.Proposal
		require.NoError(t, json.Unmarshal(raw, &p))
		return v, p
	}
	v, p := bring("rear")
	_, err := r.a.ReadProposal(ctx, r.act, v.ID, v.Marks, clip.Span{})
	require.ErrorIs(t, err, app.ErrNotFound, "nothing proposed yet")
	got, err := r.a.PutProposal(ctx, r.act, v.ID, p)
	require.NoError(t, err)
	require.NotNil(t, got.Gait)
	assert.InDelta(t, 170, got.Gait.CadenceSpm, 1)
	v, err = r.a.Clip(ctx, r.act, v.ID)
	require.NoError(t, err)
	require.NotNil(t, v.ProposedAt)
	m := v.Marks
	m.Fixes = []clip.Fix{{Frame: 50, Foot: body.Left, Place: measure.Knee, At: measure.Point{X: 300, Y: 250}}}
	got, err = r.a.ReadProposal(ctx, r.act, v.ID, m, clip.Span{From: 49, To: 500})
	require.NoError(t, err)
	assert.InDelta(t, 300, got.Points[50][6], 1e-9, "not saved, yet read")
	assert.LessOrEqual(t, len(got.Points), 61, "not the whole clip at once")
	v, err = r.a.PutClipMarks(ctx, r.act, v.ID, v.Rev, m)
	require.NoError(t, err)
	assert.Len(t, v.Marks.Fixes, 1)
	// Another clip beside it: what both give is compared.
	other, q := bring("reach")
	_, err = r.a.PutProposal(ctx, r.act, other.ID, q)
	require.NoError(t, err)
	both, err := r.a.ClipsBeside(ctx, r.act, v.ID, other.ID)
	require.NoError(t, err)
	seen := map[string]clip.Difference{}
	for _, d := range both.Differences {
		seen[d.Name+"/"+string(d.Side)] = d
	}
	assert.True(t, seen["Cadence/both"].Real, "170 and 156")
	assert.False(t, seen["Hip extension/left"].Real, "proposals can't tell these apart")
	// Another practice sees nothing of it.
	them := newRig(t, 21)
	_, err = them.a.ReadProposal(ctx, them.act, v.ID, m, clip.Span{})
	require.ErrorIs(t, err, app.ErrNotFound)
	// What can't be is refused; photos and clips only.
	_, err = r.a.PutProposal(ctx, r.act, v.ID, clip.Proposal{Frames: [][]float64{{1, 2}}})
	require.ErrorContains(t, err, "2 numbers")
	lab, err := r.bring(sc, "rear.trc", trcFile(t, "rear", nil), media.ClipPart)
	require.NoError(t, err)
	_, err = r.a.PutProposal(ctx, r.act, lab.ID, p)
	require.ErrorContains(t, err, "clips and photos")
	_, err = r.a.ClipTrack(ctx, r.act, v.ID, m)
	require.ErrorContains(t, err, "no marker file")
	require.NoError(t, r.a.DeleteClip(ctx, r.act, v.ID))
	_, err = r.a.ReadProposal(ctx, r.act, v.ID, m, clip.Span{})
	require.ErrorIs(t, err, app.ErrNotFound, "and it is gone with its clip")
}

// Points proposed on a still are taken into a moment, and its margin says so.
func TestAProposedMomentHasTheMakersMargin(t *testing.T) {
	points := map[measure.Place]measure.Point{measure.Ankle: {X: 412, Y: 618}, measure.Knee: {X: 430, Y: 469}}
	read := func(by measure.Maker) clip.Judged {
		out, err := clips.ReadClip(clips.ClipReadInput{Marks: clip.Marks{View: clip.Side, Moments: []clip.Moment{{Template: "contact", Side: body.Left, Points: points, By: by}}}})
		require.NoError(t, err)
		return out.Moments[0].Readings[0]
	}
	hand, proposed, corrected := read(""), read(measure.ByProposal), read(measure.ByCoach)
	assert.InDelta(t, hand.Value, proposed.Value, 1e-9)
	assert.InDelta(t, math.Hypot(hand.Margin, measure.OffBy(measure.ByProposal, measure.OverstrideDeg, 1.0/30, false)), proposed.Margin, 1e-9)
	assert.InDelta(t, hand.Margin, corrected.Margin, 1e-9)
	assert.Equal(t, measure.ByProposal, proposed.By)
}
