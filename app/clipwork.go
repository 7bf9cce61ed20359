package app

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"maps"
	"math"
	"net/http"
	"os"
	"os/exec"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"notchback/formats"
	"notchback/store"
)

// Limits of the programs that look at clips, turn them and make small pictures.
// Each runs without a shell and without the network, as a process of its own that
// the kernel stops when it takes too much.
const (
	probeTime   = 40 * time.Second
	probeMost   = 4 << 20 // bytes of what the prober says
	probeSays   = 4 << 10 // bytes of what a program may complain
	turnTime    = 10 * time.Minute
	thumbTime   = 20 * time.Second
	thumbMost   = 64 << 10 // bytes
	thumbWidth  = 208      // px
	toolMemory  = 3 << 30  // bytes of address space
	clipFrames  = 200_000
	longestClip = 3600.0 // s
)

// containers are the files the programs may open.
const containers = "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi,mpegts,mpeg,asf,flv,ogg,dv,image2,png_pipe,jpeg_pipe,webp_pipe"

// program is one of Debian's media programs under its limits; ok is false where it
// or the program that sets the limits is not installed.
func program(ctx context.Context, name string, seconds time.Duration, args ...string) (cmd *exec.Cmd, said *bytes.Buffer, ok bool) {
	tool, err := exec.LookPath(name)
	limit, err2 := exec.LookPath("prlimit")
	if err != nil || err2 != nil {
		return nil, nil, false
	}
	cmd = exec.CommandContext(ctx, "nice", append([]string{"-n", "10", limit, "--as=" + strconv.Itoa(toolMemory), "--fsize=" + strconv.Itoa(clipMost), "--cpu=" + strconv.Itoa(int(2*seconds.Seconds())), "--core=0", tool}, args...)...)
	cmd.Env = []string{"PATH=/usr/bin:/bin"}
	said = &bytes.Buffer{}
	cmd.Stderr = &capped{said, probeSays}
	cmd.WaitDelay = 2 * time.Second
	return cmd, said, true
}

// kinds are the types that browsers show, by what the file's beginning says.
var kinds = map[string]string{"video/webm": "video", "video/mp4": "video", "image/jpeg": "photo", "image/png": "photo", "image/webp": "photo"}

// errTurn says that a file has to be turned into one that browsers show.
var errTurn = errors.New("browsers do not show this")

// look says what a file is; errTurn where it is a video that has to be turned first.
func look(ctx context.Context, path string, c *store.Clip) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	head := make([]byte, 512)
	n, err := io.ReadFull(f, head)
	if cerr := f.Close(); cerr != nil || err != nil && !errors.Is(err, io.ErrUnexpectedEOF) {
		return errors.Join(err, cerr)
	}
	head = head[:n]
	c.Times, c.Markers = []float64{}, []string{}
	if bytes.HasPrefix(head, []byte("PathFileType")) {
		return lookMarkers(path, c)
	}
	c.Type = strings.TrimSuffix(http.DetectContentType(head), "; charset=utf-8")
	if n > 12 && string(head[4:8]) == "ftyp" { // mp4 and its relatives
		c.Type = "video/mp4"
	}
	c.Kind = kinds[c.Type]
	if c.Kind == "photo" {
		return nil
	}
	times, codec, err := probe(ctx, path)
	switch {
	case c.Kind == "" && (err != nil || codec == ""):
		return Refused(fmt.Sprintf("this is %s, not a clip, photo or marker file. Save it as MP4 (H.264), WebM, JPEG or PNG and bring it in again.", c.Type))
	case err != nil:
		return err
	case c.Kind == "" || codec != "" && !shown[codec]:
		c.Kind, c.Times = "video", times
		if _, _, ok := program(ctx, "ffmpeg", turnTime); !ok {
			return Refused(fmt.Sprintf("the video is coded as %s, which browsers do not show, and this server can't turn it: Debian's package ffmpeg is not installed. Save it as MP4 (H.264) or WebM and bring it in again.", codec))
		}
		return errTurn
	}
	c.Times = times
	return nil
}

// lookMarkers reads a marker file as a whole: all of it or nothing.
func lookMarkers(path string, c *store.Clip) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	t, err := formats.ReadTRC(f)
	if cerr := f.Close(); cerr != nil {
		return cerr
	}
	if err != nil {
		return Refused("the marker file can't be read: " + err.Error())
	}
	c.Kind, c.Type, c.Markers, c.Rate, c.Frames = "markers", "text/plain; charset=utf-8", t.Markers, t.Rate, len(t.Frames)
	return nil
}

// shown are the codings that browsers show.
var shown = map[string]bool{"h264": true, "vp8": true, "vp9": true, "av1": true}

// probe asks Debian's ffprobe for the coding and the frames' presentation times.
// Where it is not installed the times are not known; that is no error.
func probe(ctx context.Context, path string) ([]float64, string, error) {
	ctx, cancel := context.WithTimeout(ctx, probeTime)
	defer cancel()
	cmd, said, ok := program(ctx, "ffprobe", probeTime, "-v", "error", "-protocol_whitelist", "file", "-format_whitelist", containers, "-max_alloc", strconv.Itoa(256<<20), "-threads", "1",
		"-select_streams", "v:0", "-show_entries", "stream=codec_name:packet=pts_time", "-of", "csv=p=0", "file:"+path)
	if !ok {
		return []float64{}, "", nil
	}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, "", err
	}
	if err := cmd.Start(); err != nil {
		return nil, "", err
	}
	raw, rerr := io.ReadAll(io.LimitReader(out, probeMost+1))
	if len(raw) > probeMost {
		cancel()
	}
	err = errors.Join(rerr, cmd.Wait())
	switch {
	case ctx.Err() != nil:
		return nil, "", Refused("the clip took too long to look at; cut it to a few strides and bring it in again")
	case err != nil, strings.Contains(said.String(), "ended prematurely"), strings.Contains(said.String(), "partial file"):
		return nil, "", Refused("the clip is damaged or cut off; film or copy it again")
	}
	return readProbe(string(raw))
}

// capped keeps the first bytes of what a program says.
type capped struct {
	to   *bytes.Buffer
	most int
}

func (c *capped) Write(p []byte) (int, error) {
	if room := c.most - c.to.Len(); room > 0 {
		c.to.Write(p[:min(room, len(p))])
	}
	return len(p), nil
}

// readProbe reads what the prober says: times in the order of showing.
func readProbe(text string) ([]float64, string, error) {
	var times []float64
	codec := ""
	for line := range strings.Lines(text) {
		line = strings.Trim(line, ",\r\n ")
		if line == "" {
			continue
		}
		v, err := strconv.ParseFloat(line, 64)
		if err != nil {
			codec = line
			continue
		}
		if !math.IsNaN(v) && !math.IsInf(v, 0) {
			times = append(times, v)
		}
	}
	if len(times) == 0 {
		return nil, codec, Refused("there is no picture in this clip")
	}
	slices.Sort(times) // packets come in the order of decoding
	if len(times) > clipFrames || times[len(times)-1]-times[0] > longestClip {
		return nil, codec, Refused("a clip of hours can't be stepped through; cut it to a few strides and bring it in again")
	}
	return times, codec, nil
}

// thumb is a small JPEG of a clip's middle or of a photo; empty where none can be
// made, which is no error.
func thumb(ctx context.Context, path string, c store.Clip) []byte {
	if c.Kind == "markers" {
		return []byte{}
	}
	ctx, cancel := context.WithTimeout(ctx, thumbTime)
	defer cancel()
	at := 0.0
	if n := len(c.Times); n > 0 {
		at = (c.Times[n-1] - c.Times[0]) / 2
	}
	cmd, _, ok := program(ctx, "ffmpeg", thumbTime, "-nostdin", "-v", "error", "-protocol_whitelist", "file,pipe", "-format_whitelist", containers, "-max_alloc", strconv.Itoa(256<<20), "-threads", "1",
		"-ss", strconv.FormatFloat(at, 'f', 3, 64), "-i", "file:"+path, "-frames:v", "1", "-vf", "scale="+strconv.Itoa(thumbWidth)+":-2", "-q:v", "6", "-f", "mjpeg", "pipe:1")
	if !ok {
		return []byte{}
	}
	var out bytes.Buffer
	cmd.Stdout = &capped{&out, thumbMost + 1}
	if err := cmd.Run(); err != nil || out.Len() > thumbMost {
		return []byte{}
	}
	return out.Bytes()
}

// Turning is a clip that is being turned into one that browsers show.
type Turning struct {
	Share float64 `json:"share" doc:"0 to 1"`
	Error string  `json:"error,omitempty" doc:"Why it could not be turned"`
}

// turnings are the clips being turned, by id; one at a time is worked on.
type turnings struct {
	mu   sync.Mutex
	all  map[string]*turning
	work chan struct{}
}

type turning struct {
	Turning
	cancel context.CancelFunc
	done   chan struct{}
}

func (t *turnings) of(id string) *Turning {
	t.mu.Lock()
	defer t.mu.Unlock()
	if x := t.all[id]; x != nil {
		v := x.Turning
		return &v
	}
	return nil
}

func (t *turnings) say(id string, fn func(*Turning)) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if x := t.all[id]; x != nil {
		fn(&x.Turning)
	}
}

// stop ends the turning of a clip and waits until it has ended.
func (t *turnings) stop(id string) {
	t.mu.Lock()
	x := t.all[id]
	delete(t.all, id)
	t.mu.Unlock()
	if x != nil {
		x.cancel()
		<-x.done
	}
}

// Close ends what works in the background; uploads that were being turned can be gone
// on with later.
func (a *App) Close() {
	t := &a.turnings
	t.mu.Lock()
	ids := slices.Collect(maps.Keys(t.all))
	t.mu.Unlock()
	for _, id := range ids {
		t.stop(id)
	}
}

// turn begins to turn an upload; how far it is stands in the clip's view. One that
// is being turned already is left alone.
func (a *App) turn(act Actor, c store.Clip, path string) {
	t := &a.turnings
	t.mu.Lock()
	defer t.mu.Unlock()
	if x := t.all[c.ID]; x != nil && x.Error == "" {
		return
	}
	ctx, cancel := context.WithTimeout(context.Background(), turnTime)
	x := &turning{cancel: cancel, done: make(chan struct{})}
	t.all[c.ID] = x
	go func() {
		defer close(x.done)
		defer cancel()
		select {
		case t.work <- struct{}{}:
			defer func() { <-t.work }()
		case <-ctx.Done():
		}
		err := a.turnNow(ctx, act, c, path)
		switch {
		case err == nil:
			t.mu.Lock()
			delete(t.all, c.ID)
			t.mu.Unlock()
		case ctx.Err() != nil:
			t.say(c.ID, func(v *Turning) { v.Error = "it took longer than 10 minutes; cut the clip to a few strides" })
		default:
			t.say(c.ID, func(v *Turning) { v.Error = err.Error() })
		}
	}()
}

// turnNow turns an upload into H.264 with the frames and times it has, at most
// 1920 px wide, and finishes it.
func (a *App) turnNow(ctx context.Context, act Actor, c store.Clip, path string) error {
	to := path + ".mp4"
	defer func() { _ = os.Remove(to) }()
	cmd, said, ok := program(ctx, "ffmpeg", turnTime, "-nostdin", "-v", "error", "-protocol_whitelist", "file,pipe", "-format_whitelist", containers, "-max_alloc", strconv.Itoa(256<<20), "-threads", "2",
		"-i", "file:"+path, "-map", "0:v:0", "-an", "-sn", "-dn", "-map_metadata", "-1", "-vf", "scale='min(1920,iw)':-2", "-c:v", "libx264", "-preset", "veryfast", "-crf", "20", "-g", "12", "-pix_fmt", "yuv420p",
		"-fps_mode", "passthrough", "-movflags", "+faststart", "-progress", "pipe:1", "-f", "mp4", "-y", "file:"+to)
	if !ok {
		return Refused("Debian's package ffmpeg is not installed on this server")
	}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return err
	}
	if err := cmd.Start(); err != nil {
		return err
	}
	long := 0.0
	if n := len(c.Times); n > 0 {
		long = c.Times[n-1] - c.Times[0]
	}
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if v, ok := strings.CutPrefix(lines.Text(), "out_time_us="); ok {
			if us, err := strconv.ParseFloat(v, 64); err == nil && long > 0 {
				a.turnings.say(c.ID, func(t *Turning) { t.Share = min(1, max(t.Share, us/1e6/long)) })
			}
		}
	}
	if err := errors.Join(lines.Err(), cmd.Wait()); err != nil {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		return Refused("the clip could not be turned: " + firstLine(said.String()))
	}
	times, _, err := probe(ctx, to)
	if err != nil {
		return err
	}
	st, err := os.Stat(to)
	if err != nil {
		return err
	}
	if err := os.Rename(to, path); err != nil {
		return err
	}
	c.Kind, c.Type, c.Times, c.Markers, c.Size, c.Converted = "video", "video/mp4", times, []string{}, st.Size(), true
	_, err = a.keepClip(ctx, act, c)
	return err
}

func firstLine(s string) string {
	s, _, _ = strings.Cut(strings.TrimSpace(s), "\n")
	if s == "" {
		return "it is damaged, or needs more memory or room than is allowed"
	}
	return s
}

// abandonedAfter is how long an upload may wait to be gone on with.
const abandonedAfter = 7 * 24 * time.Hour

// SweepClips deletes uploads that nobody has gone on with for a week, and reports
// how many.
func (a *App) SweepClips(ctx context.Context) (int, error) {
	if a.blobs == nil {
		return 0, nil
	}
	practices, err := a.store.Practices(ctx)
	if err != nil {
		return 0, err
	}
	n := 0
	for _, p := range practices {
		err := a.store.In(ctx, p, func(tx *store.Tx) error {
			list, err := tx.Abandoned(ctx, a.now().Add(-abandonedAfter))
			if err != nil {
				return err
			}
			for _, c := range list {
				if a.turnings.of(c.ID) != nil {
					continue
				}
				if _, err := tx.DeleteClip(ctx, c); err != nil {
					return err
				}
				if err := a.blobs.Drop(p, c.ID); err != nil {
					return err
				}
				n++
			}
			return nil
		})
		if err != nil {
			return n, err
		}
	}
	return n, nil
}
