package app_test

import (
	"bufio"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/house"
	"notchback/app/media"
	"notchback/store"
	"notchback/store/blobs"
	"notchback/store/storetest"
)

// kills is how often the server is killed: NOTCHBACK_KILLS, or a few.
func kills() int {
	if n, err := strconv.Atoi(os.Getenv("NOTCHBACK_KILLS")); err == nil {
		return n
	}
	return 20
}

// TestMain is also the server that TestKilledServersLoseNothing kills.
func TestMain(m *testing.M) {
	if url := os.Getenv("NOTCHBACK_VICTIM_DATABASE"); url != "" {
		if os.Getenv("NOTCHBACK_VICTIM_PHONE") != "" {
			syncing(url)
		}
		atWork(url)
	}
	code := m.Run()
	storetest.Cleanup()
	os.Exit(code)
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

// atWork brings clips in and deletes some, for ever, and says what it was told is
// done.
func atWork(url string) {
	d := must(blobs.Open(os.Getenv("NOTCHBACK_VICTIM_FOLDER")))
	a := must(house.New(must(store.Open(ctx, url)), app.WithBlobs(d)))
	act := must(a.Actor(ctx, os.Getenv("NOTCHBACK_VICTIM_PRACTICE"), os.Getenv("NOTCHBACK_VICTIM_USER")))
	film := must(os.ReadFile(os.Getenv("NOTCHBACK_VICTIM_FILM")))
	r := &rig{a: a, act: act}
	sc := os.Getenv("NOTCHBACK_VICTIM_SCREENING")
	rng := rand.New(rand.NewPCG(uint64(time.Now().UnixNano()), 1))
	say := func(what, id, name string) { _, _ = fmt.Println("told", what, id, name) }
	say("started", "-", "-")
	for i := 0; ; i++ {
		content, name := drawnPhoto(rng), fmt.Sprintf("%x.jpg", rng.Uint64())
		if i%2 == 1 {
			content, name = append(bytes.Clone(film), byte(i)), fmt.Sprintf("%x.avi", rng.Uint64()) // another file each time; what is after the end is not read
		}
		v, err := r.bring(sc, name, content, 4096)
		if err != nil {
			continue // too many, or one that is left half way
		}
		say("kept", v.ID, name)
		if rng.IntN(3) == 0 && a.DeleteClip(ctx, act, v.ID) == nil {
			say("deleted", v.ID, name)
		}
	}
}

func drawnPhoto(rng *rand.Rand) []byte {
	img := image.NewGray(image.Rect(0, 0, 40, 30))
	for i := range img.Pix {
		img.Pix[i] = byte(rng.IntN(256))
	}
	var b bytes.Buffer
	_ = jpeg.Encode(&b, img, nil)
	return b.Bytes()
}

// A server that is killed at any moment loses no clip it said it has, brings none
// back that it said is gone, leaves no file that nothing names and no program that
// goes on.
func TestKilledServersLoseNothing(t *testing.T) {
	r, sc, root := desk(t)
	folder := t.TempDir()
	film := filepath.Join(folder, "f.avi")
	require.NoError(t, os.WriteFile(film, filmed(t), 0o600))
	kept, gone := map[string]string{}, map[string]bool{} // names by id
	rng := rand.New(rand.NewPCG(3, 9))
	for round := range kills() {
		cmd := exec.Command(os.Args[0])
		cmd.Env = append(os.Environ(), "NOTCHBACK_VICTIM_DATABASE="+r.address, "NOTCHBACK_VICTIM_FOLDER="+root, "NOTCHBACK_VICTIM_PRACTICE="+r.act.Practice,
			"NOTCHBACK_VICTIM_USER="+r.act.User.ID, "NOTCHBACK_VICTIM_SCREENING="+sc, "NOTCHBACK_VICTIM_FILM="+film)
		out, err := cmd.StdoutPipe()
		require.NoError(t, err)
		require.NoError(t, cmd.Start())
		lines := bufio.NewScanner(out)
		for lines.Scan() {
			f := strings.Fields(lines.Text())
			if len(f) != 4 || f[0] != "told" {
				continue
			}
			switch f[1] {
			case "started":
				// At any moment; every third one soon after it said something, however slow the machine.
				if round%3 != 2 {
					time.AfterFunc(time.Duration(20+rng.IntN(400))*time.Millisecond, func() { _ = cmd.Process.Kill() })
				}
			case "kept":
				kept[f[2]] = f[3]
				if round%3 == 2 {
					time.AfterFunc(time.Duration(rng.IntN(60))*time.Millisecond, func() { _ = cmd.Process.Kill() })
				}
			case "deleted":
				gone[f[2]] = true
			}
		}
		_ = cmd.Wait()
		// Room for the next: what is ready is looked at below, the oldest go.
		list, err := r.a.Clips(ctx, r.act, sc)
		require.NoError(t, err)
		for _, v := range list[:max(0, len(list)-40)] {
			if r.a.DeleteClip(ctx, r.act, v.ID) == nil {
				gone[v.ID] = true
			}
		}
	}
	if !assert.Eventually(t, func() bool { return !strings.Contains(processes(t), root) }, 2*time.Minute, 50*time.Millisecond, "a program goes on without its server") {
		for l := range strings.Lines(processes(t)) {
			if strings.Contains(l, root) {
				t.Log(l)
			}
		}
	}
	// Another server, a while later.
	r.clock = time.Now().Add(2 * time.Hour)
	_, err := r.a.SweepClips(ctx)
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		list, err := r.a.Clips(ctx, r.act, sc)
		require.NoError(t, err)
		for _, v := range list {
			working := v.Turning != nil && v.Turning.Error == ""
			if !v.Ready && (working || kept[v.ID] != "" && v.Turning == nil) {
				return false // also what nobody was told of: its files come and go while it is worked on
			}
		}
		return true
	}, 2*time.Minute, 50*time.Millisecond, "what was left is gone on with")
	ready := map[string]bool{}
	list, err := r.a.Clips(ctx, r.act, sc)
	require.NoError(t, err)
	for _, v := range list {
		assert.False(t, gone[v.ID], "a deleted clip is back")
		if v.Turning != nil {
			assert.Empty(t, v.Turning.Error, v.Name)
		}
		if !v.Ready {
			continue
		}
		ready[v.ID] = true
		f, _, err := r.a.ClipFile(ctx, r.act, v.ID)
		require.NoError(t, err)
		h := sha256.New()
		n, err := io.Copy(h, f)
		require.NoError(t, err)
		require.NoError(t, f.Close())
		assert.Equal(t, v.Size, n)
		assert.True(t, r.named(t, v.ID, hex.EncodeToString(h.Sum(nil))), "the file is what the database says")
	}
	for id, name := range kept {
		assert.True(t, ready[id] || gone[id] || r.deleting(t, name), "a clip that was said to be kept is lost")
	}
	_, err = r.a.SweepFiles(ctx)
	require.NoError(t, err)
	again, err := r.a.SweepFiles(ctx)
	require.NoError(t, err)
	assert.Zero(t, again.Orphans)
	t.Logf("%d kills: %d clips said to be kept, %d ready, %d deleted", kills(), len(kept), len(ready), len(gone))
	assert.NotEmpty(t, kept)
	for _, v := range list {
		if r.a.DeleteClip(ctx, r.act, v.ID) != nil {
			continue
		}
	}
	// What was half written when a server was killed is left alone for an hour.
	old := time.Now().Add(-2 * time.Hour)
	require.NoError(t, filepath.WalkDir(root, func(path string, e os.DirEntry, err error) error {
		if err == nil && !e.IsDir() {
			err = os.Chtimes(path, old, old)
		}
		return err
	}))
	_, err = r.a.SweepFiles(ctx)
	require.NoError(t, err)
	assert.Zero(t, files(t, root), "nothing is left over")
}

func processes(t *testing.T) string {
	out, err := exec.Command("ps", "-eo", "pid,ppid,stat,args").Output()
	require.NoError(t, err)
	return string(out)
}

// named reports whether a clip has a content.
func (r *rig) named(t *testing.T, id, hash string) (ok bool) {
	require.NoError(t, r.store.In(ctx, r.act.Practice, func(tx *store.Tx) error {
		c, err := tx.Clip(ctx, id)
		ok = c.Hash == hash
		return err
	}))
	return ok
}

// deleting reports whether a clip was on its way out when its server was killed: its
// deletion began, and nobody was told yet.
func (r *rig) deleting(t *testing.T, name string) (ok bool) {
	require.NoError(t, r.store.In(ctx, r.act.Practice, func(tx *store.Tx) error {
		lines, err := tx.Journal(ctx, r.runner.ID, 10_000)
		for _, l := range lines {
			ok = ok || l.Sentence == "Clip deleted: "+name
		}
		return err
	}))
	return ok
}

func filmed(t *testing.T) []byte {
	return film(t, "small.avi", "-vf", "scale=64:48", "-c:v", "mpeg4", "-frames:v", "12")
}

// Two servers at one upload: one of them turns it, and a lease that ran out goes to
// the other.
func TestALeaseGoesToAnotherServer(t *testing.T) {
	r, sc, root := desk(t)
	d, err := blobs.Open(root)
	require.NoError(t, err)
	other, err := house.New(r.store, app.WithClock(func() time.Time { return r.clock }), app.WithBlobs(d))
	require.NoError(t, err)
	defer other.Close()
	long := film(t, "long.avi", "-vf", "loop=loop=15:size=100", "-c:v", "mjpeg", "-q:v", "8")
	v, err := r.bring(sc, "long.avi", long, media.ClipPart)
	require.NoError(t, err)
	n, err := other.SweepClips(ctx)
	require.NoError(t, err)
	assert.Zero(t, n.Resumed, "somebody works on it")
	v, err = other.FinishClip(ctx, r.act, v.ID)
	require.NoError(t, err, "asked again, elsewhere")
	require.NotNil(t, v.Turning)
	owner := r.asOwner(t)
	_, err = owner.Exec(ctx, `UPDATE clips SET lease_by = 'a server that is dead', lease_until = $1`, r.clock.Add(-time.Second))
	require.NoError(t, err)
	n, err = other.SweepClips(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, n.Resumed)
	v = r.turned(t, v.ID)
	require.True(t, v.Ready, v.Turning)
	r.a.Close()
	other.Close()
	assert.Equal(t, 1, files(t, root), "one file, and nothing of the one that lost its lease")
}

// What a server that ended left half way is finished by the next.
func TestHalfFinishedWorkIsFinished(t *testing.T) {
	r, sc, root := desk(t)
	v, err := r.bring(sc, "a.png", photo(t), 1000)
	require.NoError(t, err)
	owner := r.asOwner(t)
	_, err = owner.Exec(ctx, `UPDATE clips SET state = 'deleting'`)
	require.NoError(t, err)
	_, err = r.a.Clip(ctx, r.act, v.ID)
	require.ErrorIs(t, err, app.ErrNotFound, "shown nowhere from then on")
	n, err := r.a.SweepClips(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, n.Deleted)
	assert.Zero(t, files(t, root))
	// Files that no clip names: an upload, something half made, a content.
	for _, f := range []string{"parts/" + v.ID, "work/" + v.ID + ".abc", "files/" + strings.Repeat("a", 64)} {
		path := filepath.Join(root, r.act.Practice, f)
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o700))
		require.NoError(t, os.WriteFile(path, []byte("left"), 0o600))
	}
	r.clock = time.Now()
	n, err = r.a.SweepFiles(ctx)
	require.NoError(t, err)
	assert.Zero(t, n.Orphans, "somebody may have just begun")
	r.clock = time.Now().Add(2 * time.Hour)
	n, err = r.a.SweepFiles(ctx)
	require.NoError(t, err)
	assert.Equal(t, 3, n.Orphans)
	assert.EqualValues(t, 12, n.Bytes)
	assert.Zero(t, files(t, root))
}

// A marker's name with a character that can't be kept loses nothing and is said.
func TestAMarkersNameThatCantBeKept(t *testing.T) {
	r, sc, root := desk(t)
	content := bytes.Replace(trcFile(t, "rear", nil), []byte("left-sole-heel"), []byte("left\x00sole-heel"), 1)
	_, err := r.bring(sc, "x.trc", content, media.ClipPart)
	require.ErrorContains(t, err, "a marker's name")
	assert.Zero(t, files(t, root))
}

// A camera's notes stay behind: the place, the device. How it was held does not.
func TestAPhotoIsWrittenAnew(t *testing.T) {
	r, sc, _ := desk(t)
	img := image.NewRGBA(image.Rect(0, 0, 60, 40))
	for y := range 40 {
		for x := range 60 {
			img.Set(x, y, color.RGBA{0, 0, 255, 255})
			if x < 20 && y < 20 {
				img.Set(x, y, color.RGBA{255, 0, 0, 255}) // the corner that is on top right when it was held upright
			}
		}
	}
	var plain bytes.Buffer
	require.NoError(t, jpeg.Encode(&plain, img, &jpeg.Options{Quality: 95}))
	noted := held(plain.Bytes(), 6, "GPSLatitude 37 44 N A Camera")
	v, err := r.bring(sc, "knee.jpg", noted, 4096)
	require.NoError(t, err)
	f, kind, err := r.a.ClipFile(ctx, r.act, v.ID)
	require.NoError(t, err)
	kept, err := io.ReadAll(f)
	require.NoError(t, err)
	require.NoError(t, f.Close())
	assert.Equal(t, "image/jpeg", kind)
	assert.EqualValues(t, len(kept), v.Size)
	assert.NotContains(t, string(kept), "GPS")
	assert.NotContains(t, string(kept), "Exif")
	got, err := jpeg.Decode(bytes.NewReader(kept))
	require.NoError(t, err)
	require.Equal(t, image.Pt(40, 60), got.Bounds().Size(), "turned a quarter to the right")
	red, _, blue, _ := got.At(30, 10).RGBA()
	assert.Greater(t, red, blue, "the corner is on the right now")
	red, _, blue, _ = got.At(10, 10).RGBA()
	assert.Less(t, red, blue)
	_, err = r.bring(sc, "cut.jpg", noted[:len(noted)/2], 4096)
	require.ErrorContains(t, err, "damaged or cut off")
}

// Photos from before were kept as they came; the sweep writes them anew.
func TestPhotosFromBeforeAreWrittenAnew(t *testing.T) {
	r, sc, root := desk(t)
	one, err := r.bring(sc, "a.png", photo(t), 1000)
	require.NoError(t, err)
	noted := append(photo(t), "GPSLatitude 37 44 N"...)
	sum := sha256.Sum256(noted)
	hash := hex.EncodeToString(sum[:])
	require.NoError(t, os.WriteFile(filepath.Join(root, r.act.Practice, "files", hash), noted, 0o600))
	owner := r.asOwner(t)
	_, err = owner.Exec(ctx, `UPDATE clips SET hash = $1, size = $2, cleaned = false`, hash, len(noted))
	require.NoError(t, err)
	n, err := r.a.SweepClips(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, n.Cleaned)
	f, _, err := r.a.ClipFile(ctx, r.act, one.ID)
	require.NoError(t, err)
	kept, err := io.ReadAll(f)
	require.NoError(t, err)
	require.NoError(t, f.Close())
	assert.Equal(t, photo(t), kept)
	assert.Equal(t, 1, files(t, root), "what it was is gone")
	n, err = r.a.SweepClips(ctx)
	require.NoError(t, err)
	assert.Zero(t, n.Cleaned, "once")
}
