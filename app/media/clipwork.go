package media

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"math"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"
	"unicode/utf8"

	"notchback/app"
	"notchback/formats"
	"notchback/store"
)

// Limits of clips.
const (
	ClipMost    = 300 << 20
	ClipPart    = 4 << 20 // bytes of one part of an upload
	ClipsMost   = 60      // of one screening
	PictureMost = 6 << 20 // bytes of the picture of a reading
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
	developTime = 30 * time.Second
	thumbMost   = 64 << 10 // bytes
	thumbWidth  = 208      // px
	toolMemory  = 3 << 30  // bytes of address space
	clipFrames  = 200_000
	longestClip = 3600.0 // s
	framesLost  = 0.1    // of a clip that is turned may be broken in the file
)

// containers are the files the programs may open.
const containers = "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi,mpegts,mpeg,asf,flv,ogg,dv,image2,png_pipe,jpeg_pipe,webp_pipe"

// Sandbox is what keeps the media programs to their file: Debian's bubblewrap with
// a user, a network and a view of files of its own, where the system allows it.
type Sandbox struct {
	bwrap string
	why   string
}

// FindSandbox looks whether this system allows it.
func FindSandbox(ctx context.Context) Sandbox {
	path, err := exec.LookPath("bwrap")
	if err != nil {
		return Sandbox{why: "Debian's package bubblewrap is not installed"}
	}
	ctx, cancel := context.WithTimeout(ctx, 10*time.Second)
	defer cancel()
	s := Sandbox{bwrap: path}
	file, err := os.CreateTemp("", "look-*")
	if err != nil {
		return Sandbox{why: err.Error()}
	}
	defer func() { _ = errors.Join(file.Close(), os.Remove(file.Name())) }()
	cmd, said, ok := s.program(ctx, tool{name: "true", seconds: probeTime, in: file.Name()})
	if !ok {
		return Sandbox{why: "Debian's package util-linux is not installed"}
	}
	if err := started(cmd.Run); err != nil {
		return Sandbox{why: "this system does not allow it: " + firstLine(said.String()) + " " + err.Error()}
	}
	return s
}

// Missing says why the programs see more than their file; empty where they don't.
func (s Sandbox) Missing() string { return s.why }

// view is what a program sees: the system's programs, the file to read, the file
// to write.
func (s Sandbox) view(in, out string) []string {
	v := []string{"--unshare-all", "--die-with-parent", "--new-session", "--clearenv", "--setenv", "PATH", "/usr/bin:/bin", "--uid", "65534", "--gid", "65534",
		"--ro-bind", "/usr", "/usr", "--ro-bind-try", "/etc/alternatives", "/etc/alternatives", "--ro-bind-try", "/etc/ld.so.cache", "/etc/ld.so.cache",
		"--symlink", "usr/bin", "/bin", "--symlink", "usr/lib", "/lib", "--symlink", "usr/lib64", "/lib64", "--dev", "/dev", "--tmpfs", "/tmp"}
	if in != "" {
		v = append(v, "--ro-bind", in, "/in")
	}
	if out != "" {
		v = append(v, "--bind", out, "/out"+filepath.Ext(out))
	}
	return v
}

// whileServed runs a program inside the sandbox for as long as somebody holds the
// other end of its input: a sandbox whose server is killed while it is being set up
// would not hear of it otherwise.
const whileServed = `exec 3<&0; "$0" "$@" </dev/null 3<&- & p=$!; (cat <&3 >/dev/null; kill -9 $p) 2>/dev/null & exec 3<&-; wait $p`

// tool is one of Debian's media programs at work on one file.
type tool struct {
	name    string
	seconds time.Duration
	in      string // the file it reads, IN in its arguments
	out     string // the file it writes, OUT in its arguments; empty for none
	args    []string
}

// program is a tool under its limits; ok is false where it or the program that sets
// the limits is not installed.
func (s Sandbox) program(ctx context.Context, t tool) (cmd *exec.Cmd, said *bytes.Buffer, ok bool) {
	path, err := exec.LookPath(t.name)
	limit, err2 := exec.LookPath("prlimit")
	if err != nil || err2 != nil {
		return nil, nil, false
	}
	in, out := t.in, t.out
	argv := []string{"nice", "-n", "10", limit, "--as=" + strconv.Itoa(toolMemory), "--fsize=" + strconv.Itoa(ClipMost), "--cpu=" + strconv.Itoa(int(2*t.seconds.Seconds())), "--core=0"}
	if s.bwrap != "" {
		argv = append(append(argv, s.bwrap), s.view(in, out)...)
		argv = append(argv, "/bin/sh", "-c", whileServed)
		in, out = "/in", "/out"+filepath.Ext(out)
	}
	argv = append(argv, path)
	for _, a := range t.args {
		argv = append(argv, strings.NewReplacer("IN", in, "OUT", out).Replace(a))
	}
	cmd = exec.CommandContext(ctx, argv[0], argv[1:]...)
	cmd.Env = []string{"PATH=/usr/bin:/bin"}
	// It ends with the server, however the server ends.
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL, Setpgid: true}
	cmd.Cancel = func() error { return syscall.Kill(-cmd.Process.Pid, syscall.SIGKILL) }
	if s.bwrap != "" {
		// A tree of processes of its own, which the kernel ends with its first one, at
		// whatever stage.
		cmd.SysProcAttr.Cloneflags = syscall.CLONE_NEWPID
		if uid := os.Geteuid(); uid != 0 {
			cmd.SysProcAttr.Cloneflags |= syscall.CLONE_NEWUSER
			cmd.SysProcAttr.UidMappings = []syscall.SysProcIDMap{{ContainerID: uid, HostID: uid, Size: 1}}
			cmd.SysProcAttr.GidMappings = []syscall.SysProcIDMap{{ContainerID: os.Getegid(), HostID: os.Getegid(), Size: 1}}
		}
		if _, err := cmd.StdinPipe(); err != nil { // held open for as long as the server lives
			return nil, nil, false
		}
	}
	said = &bytes.Buffer{}
	cmd.Stderr = &capped{said, probeSays}
	cmd.WaitDelay = 2 * time.Second
	return cmd, said, true
}

// started runs a program's whole life on one thread: the kernel ends the program
// with the thread that began it.
func started(fn func() error) error {
	runtime.LockOSThread()
	defer runtime.UnlockOSThread()
	return fn()
}

// kinds are the types that browsers show, by what the file's beginning says.
var kinds = map[string]string{"video/webm": "video", "video/mp4": "video", "image/jpeg": "photo", "image/png": "photo", "image/webp": "photo"}

// stillBrands are the kinds of still pictures that look like an mp4 file.
var stillBrands = map[string]stillKind{"heic": heic, "heix": heic, "heim": heic, "heis": heic, "hevc": heic, "hevx": heic, "mif1": heic, "msf1": heic, "avif": avif, "avis": avif}

type stillKind struct{ name, media string }

var heic, avif = stillKind{"a HEIC", "image/heic"}, stillKind{"an AVIF", "image/avif"}

// developer is Debian's program that reads such a picture, upright as it was taken.
const developer = "heif-convert"

// Undeveloped is whether a photo has to be developed before it can be read.
func Undeveloped(kind string) bool { return kind == heic.media || kind == avif.media }

// Develop writes such a photo into a file as JPEG; the file's name ends so.
func (s Sandbox) Develop(ctx context.Context, path, to string) error {
	ctx, cancel := context.WithTimeout(ctx, developTime)
	defer cancel()
	cmd, said, ok := s.program(ctx, tool{name: developer, seconds: developTime, in: path, out: to, args: []string{"-q", strconv.Itoa(developQuality), "IN", "OUT"}})
	if !ok {
		return app.Refused("Debian's package libheif-examples is not installed on this server")
	}
	err := started(cmd.Run)
	if errors.Is(ctx.Err(), context.DeadlineExceeded) {
		return app.Refused("the photo took too long to read; share it as JPEG and bring it in again")
	}
	if ctx.Err() != nil {
		return ctx.Err()
	}
	st, serr := os.Stat(to)
	if err != nil || serr != nil || st.Size() == 0 {
		return app.Refused("the photo is damaged, cut off, or several in one file; share it as JPEG and bring it in again: " + firstLine(said.String()))
	}
	return nil
}

// ErrTurn says that a file has to be turned into one that browsers show.
var ErrTurn = errors.New("browsers do not show this")

// Look says what a file is; errTurn where it is a video that has to be turned first.
func (s Sandbox) Look(ctx context.Context, path string, c *store.Clip) error {
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
		if kind, still := stillBrands[string(head[8:12])]; still {
			if _, _, ok := s.program(ctx, tool{name: developer, seconds: developTime}); !ok {
				return app.Refused(fmt.Sprintf("this is %s photo, as some phones take them, and browsers do not show it. Share it as JPEG (on the phone: camera, formats, most compatible) and bring it in again; or whoever runs the server installs Debian's package libheif-examples.", kind.name))
			}
			c.Kind, c.Type = "photo", kind.media
			return nil
		}
		c.Type = "video/mp4"
	}
	c.Kind = kinds[c.Type]
	if c.Kind == "photo" {
		return nil
	}
	p, err := s.probe(ctx, path)
	switch {
	case c.Kind == "" && (err != nil || p.codec == ""):
		return app.Refused(fmt.Sprintf("this is %s, not a clip, photo or marker file. Save it as MP4 (H.264), WebM, JPEG or PNG and bring it in again.", c.Type))
	case err != nil:
		return err
	case c.Kind == "" || p.codec != "" && !shown[p.codec] || p.misleads():
		c.Kind, c.Times = "video", p.times
		if _, _, ok := s.program(ctx, tool{name: "ffmpeg", seconds: turnTime}); !ok {
			return app.Refused(fmt.Sprintf("the video is coded as %s, in a way browsers do not show, and this server can't turn it: Debian's package ffmpeg is not installed. Save it as MP4 (H.264) or WebM and bring it in again.", p.codec))
		}
		return ErrTurn
	}
	c.Times = p.times
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
		return app.Refused("the marker file can't be read: " + err.Error())
	}
	for _, m := range t.Markers {
		if strings.ContainsRune(m, 0) || !utf8.ValidString(m) {
			return app.Refused("the marker file can't be read: a marker's name holds a character that can't be kept")
		}
	}
	c.Kind, c.Type, c.Markers, c.Rate, c.Frames = "markers", "text/plain; charset=utf-8", t.Markers, t.Rate, len(t.Frames)
	return nil
}

// shown are the codings that browsers show.
var shown = map[string]bool{"h264": true, "vp8": true, "vp9": true, "av1": true}

// probe asks Debian's ffprobe for the coding and the frames' presentation times.
// Where it is not installed the times are not known; that is no error.
func (s Sandbox) probe(ctx context.Context, path string) (out probed, err error) {
	err = started(func() error {
		out, err = s.probeHere(ctx, path)
		return err
	})
	return out, err
}

func (s Sandbox) probeHere(ctx context.Context, path string) (probed, error) {
	ctx, cancel := context.WithTimeout(ctx, probeTime)
	defer cancel()
	cmd, said, ok := s.program(ctx, tool{name: "ffprobe", seconds: probeTime, in: path, args: []string{"-v", "error", "-protocol_whitelist", "file", "-format_whitelist", containers, "-max_alloc", strconv.Itoa(256 << 20), "-threads", "1",
		"-select_streams", "v:0", "-show_entries", "stream=codec_name:packet=pts_time,dts_time,flags", "-of", "csv=p=0", "file:IN"}})
	if !ok {
		return probed{times: []float64{}}, nil
	}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return probed{}, err
	}
	if err := cmd.Start(); err != nil {
		return probed{}, err
	}
	raw, rerr := io.ReadAll(io.LimitReader(out, probeMost+1))
	if len(raw) > probeMost {
		cancel()
	}
	err = errors.Join(rerr, cmd.Wait())
	switch {
	case ctx.Err() != nil:
		return probed{}, app.Refused("the clip took too long to look at; cut it to a few strides and bring it in again")
	case err != nil, strings.Contains(said.String(), "ended prematurely"), strings.Contains(said.String(), "partial file"):
		return probed{}, app.Refused("the clip is damaged or cut off; film or copy it again")
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

// readProbe reads what the prober says: times in the order of showing. Frames that can't
// be shown are left out: those an edit list hides, and those that come before, or are shown
// before, the first that stands by itself – a clip cut without coding it anew begins with
// some.
func readProbe(text string) (probed, error) {
	var p probed
	first, last := math.Inf(1), math.Inf(-1)
	for line := range strings.Lines(text) {
		line = strings.Trim(line, ",\r\n ")
		if line == "" {
			continue
		}
		part := strings.Split(line, ",")
		if len(part) < 3 {
			p.codec = line
			continue
		}
		at, flags := part[0], part[2]
		if at == "N/A" { // some containers know only the order of decoding
			at = part[1]
		}
		v, err := strconv.ParseFloat(at, 64)
		if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
			continue
		}
		if math.IsInf(first, 1) {
			if !strings.Contains(flags, "K") {
				continue
			}
			first = v
		}
		p.reordered = p.reordered || v < last
		last = v
		if v >= first && !strings.Contains(flags, "D") {
			p.times = append(p.times, v)
		}
	}
	if len(p.times) == 0 {
		return p, app.Refused("there is no picture in this clip")
	}
	slices.Sort(p.times) // packets come in the order of decoding
	p.times = slices.Compact(p.times)
	if n := len(p.times); n > clipFrames || p.times[n-1]-p.times[0] > longestClip {
		return p, app.Refused("a clip of hours can't be stepped through; cut it to a few strides and bring it in again")
	}
	return p, nil
}

// probed is what the prober says of a clip.
type probed struct {
	times     []float64 // of the frames that can be shown, in that order, s
	codec     string
	reordered bool // frames are decoded in another order than they are shown in
}

// misleads is whether browsers show another frame than the one they are sent to: where
// frames lie unevenly and are decoded in another order, they take the length of one for
// that of another.
func (p probed) misleads() bool {
	if !p.reordered || len(p.times) < 3 {
		return false
	}
	least, most := math.Inf(1), 0.0
	for i := 1; i < len(p.times); i++ {
		least, most = min(least, p.times[i]-p.times[i-1]), max(most, p.times[i]-p.times[i-1])
	}
	return most-least > unevenMost
}

// unevenMost is how much the time between two frames may differ, s (house: rounding in a
// container makes a millisecond).
const unevenMost = 0.0025

// Thumb is a small JPEG of a clip's middle or of a photo; empty where none can be
// made, which is no error.
func (s Sandbox) Thumb(ctx context.Context, path string, c store.Clip) (small []byte) {
	if c.Kind == "markers" {
		return []byte{}
	}
	ctx, cancel := context.WithTimeout(ctx, thumbTime)
	defer cancel()
	at := 0.0
	if n := len(c.Times); n > 0 {
		at = (c.Times[n-1] - c.Times[0]) / 2
	}
	cmd, _, ok := s.program(ctx, tool{name: "ffmpeg", seconds: thumbTime, in: path, args: []string{"-nostdin", "-v", "error", "-protocol_whitelist", "file,pipe", "-format_whitelist", containers, "-max_alloc", strconv.Itoa(256 << 20), "-threads", "1",
		"-ss", strconv.FormatFloat(at, 'f', 3, 64), "-i", "file:IN", "-frames:v", "1", "-vf", "scale=" + strconv.Itoa(thumbWidth) + ":-2", "-q:v", "6", "-f", "mjpeg", "pipe:1"}})
	if !ok {
		return []byte{}
	}
	var out bytes.Buffer
	cmd.Stdout = &capped{&out, thumbMost + 1}
	if err := started(cmd.Run); err != nil || out.Len() > thumbMost {
		return []byte{}
	}
	return out.Bytes()
}

// Turn turns an upload into H.264 with the frames and times it has, at most 1920 px
// wide, into a file of its own; tell hears how far it is.
func (s Sandbox) Turn(ctx context.Context, c *store.Clip, path, to string, tell func(share float64)) error {
	return started(func() error { return s.turnHere(ctx, c, path, to, tell) })
}

func (s Sandbox) turnHere(ctx context.Context, c *store.Clip, path, to string, tell func(share float64)) error {
	ctx, cancel := context.WithTimeout(ctx, turnTime)
	defer cancel()
	cmd, said, ok := s.program(ctx, tool{name: "ffmpeg", seconds: turnTime, in: path, out: to, args: []string{"-nostdin", "-v", "error", "-protocol_whitelist", "file,pipe", "-format_whitelist", containers, "-max_alloc", strconv.Itoa(256 << 20), "-threads", "2",
		"-i", "file:IN", "-map", "0:v:0", "-an", "-sn", "-dn", "-map_metadata", "-1", "-vf", "scale='min(1920,iw)':-2", "-c:v", "libx264", "-preset", "veryfast", "-crf", "20", "-g", "12", "-bf", "0", "-pix_fmt", "yuv420p",
		"-fps_mode", "passthrough", "-enc_time_base", "-1", "-video_track_timescale", "90000", "-movflags", "+faststart", "-progress", "pipe:1", "-f", "mp4", "-y", "file:OUT"}})
	if !ok {
		return app.Refused("Debian's package ffmpeg is not installed on this server")
	}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return err
	}
	if err := cmd.Start(); err != nil {
		return err
	}
	long, coded := 0.0, 0
	if n := len(c.Times); n > 0 {
		long = c.Times[n-1] - c.Times[0]
	}
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if v, ok := strings.CutPrefix(lines.Text(), "out_time_us="); ok {
			if us, err := strconv.ParseFloat(v, 64); err == nil && long > 0 {
				tell(min(1, us/1e6/long))
			}
		}
		if v, ok := strings.CutPrefix(lines.Text(), "frame="); ok {
			if n, err := strconv.Atoi(strings.TrimSpace(v)); err == nil {
				coded = n
			}
		}
	}
	if err := errors.Join(lines.Err(), cmd.Wait()); err != nil {
		if errors.Is(ctx.Err(), context.DeadlineExceeded) {
			return app.Refused("it took longer than 10 minutes; cut the clip to a few strides")
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
		return app.Refused("the clip could not be turned: " + firstLine(said.String()))
	}
	return s.verify(ctx, c, to, coded)
}

// verify looks at what came out before the original may go: every frame that could be
// decoded, most of those the file names, and a picture.
func (s Sandbox) verify(ctx context.Context, c *store.Clip, to string, coded int) error {
	p, err := s.probe(ctx, to)
	if err != nil {
		return err
	}
	times := p.times
	if want := len(c.Times); p.codec != "h264" || p.misleads() || coded > 0 && len(times) != coded || want > 0 && float64(len(times)) < (1-framesLost)*float64(want)-1 {
		return app.Refused(fmt.Sprintf("%d frames went in and %d came out; the clip is kept as it was, film or copy it again", want, len(times)))
	}
	st, err := os.Stat(to)
	if err != nil {
		return err
	}
	c.Kind, c.Type, c.Times, c.Markers, c.Size, c.Converted = "video", "video/mp4", times, []string{}, st.Size(), true
	return nil
}

func firstLine(s string) string {
	s, _, _ = strings.Cut(strings.TrimSpace(s), "\n")
	if s == "" {
		return "it is damaged, or needs more memory or room than is allowed"
	}
	return s
}
