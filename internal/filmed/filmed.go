// Package filmed makes small clips, as phones and editors write them, in which every frame
// shows its own number as bars, and reads the number back: what is on show can be held
// against what is said of it.
package filmed

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
)

// Size of the picture, px, and how it is divided into bars.
const (
	Width, Height = 320, 180
	Bars          = 10
	bar           = Width / Bars
)

// Kind is a way of writing a clip.
type Kind struct {
	Name   string
	Hard   bool     // what went wrong in browsers before
	File   string   // its ending says which container
	encode []string // of ffmpeg
	filter string   // of the times
	cut    bool     // cut afterwards, without coding it anew
}

const uneven = "settb=1/90000,setpts='(N/30+0.011*mod(N,3)+0.05*gte(N,15))/TB'"

// Kinds are H.264 with and without B-frames, HEVC, VP9 and AV1, at constant and variable
// rate, cut with and without coding them anew.
var Kinds = []Kind{
	{Name: "h264", File: "a.mp4", encode: []string{"-c:v", "libx264", "-bf", "0", "-g", "12"}},
	{Name: "h264 with B-frames", File: "b.mp4", encode: []string{"-c:v", "libx264", "-bf", "3", "-g", "24"}},
	{Name: "h264 with B-frames, uneven", Hard: true, File: "c.mp4", encode: []string{"-c:v", "libx264", "-bf", "3", "-g", "24"}, filter: uneven},
	{Name: "h264, uneven", File: "d.mp4", encode: []string{"-c:v", "libx264", "-bf", "0", "-g", "24"}, filter: uneven},
	{Name: "h264 with B-frames, cut", File: "e.mp4", encode: []string{"-c:v", "libx264", "-bf", "3", "-g", "24"}, cut: true},
	{Name: "h264 with open groups, cut", File: "f.mp4", encode: []string{"-c:v", "libx264", "-bf", "3", "-g", "24", "-x264-params", "open-gop=1"}, cut: true},
	{Name: "hevc", File: "g.mp4", encode: []string{"-c:v", "libx265", "-x265-params", "log-level=none:bframes=3:keyint=24", "-tag:v", "hvc1"}},
	{Name: "hevc, uneven", File: "h.mp4", encode: []string{"-c:v", "libx265", "-x265-params", "log-level=none:bframes=3:keyint=24", "-tag:v", "hvc1"}, filter: uneven},
	{Name: "hevc, cut", Hard: true, File: "i.mp4", encode: []string{"-c:v", "libx265", "-x265-params", "log-level=none:bframes=3:keyint=24", "-tag:v", "hvc1"}, cut: true},
	{Name: "vp9", File: "j.webm", encode: []string{"-c:v", "libvpx-vp9", "-deadline", "realtime", "-cpu-used", "8", "-g", "24"}},
	{Name: "vp9, uneven", Hard: true, File: "k.webm", encode: []string{"-c:v", "libvpx-vp9", "-deadline", "realtime", "-cpu-used", "8", "-g", "24"}, filter: uneven},
	{Name: "vp9, cut", File: "l.webm", encode: []string{"-c:v", "libvpx-vp9", "-deadline", "realtime", "-cpu-used", "8", "-g", "24"}, cut: true},
	{Name: "av1", File: "m.mp4", encode: []string{"-c:v", "libsvtav1", "-preset", "12", "-g", "24"}},
	{Name: "mpeg4 in avi", File: "n.avi", encode: []string{"-c:v", "mpeg4", "-q:v", "2"}},
}

// Frames is how many frames are drawn.
const Frames = 44

func picture(n int) []byte {
	out := make([]byte, Width*Height)
	for x := range Width {
		if n>>(x/bar)&1 == 1 {
			for y := range Height {
				out[y*Width+x] = 255
			}
		}
	}
	return out
}

// Write writes a clip of a kind into a folder and returns its path.
func Write(ctx context.Context, dir string, k Kind) (string, error) {
	var raw bytes.Buffer
	for n := range Frames {
		raw.Write(picture(n))
	}
	path := filepath.Join(dir, k.File)
	whole := path
	if k.cut {
		whole = filepath.Join(dir, "whole-"+k.File)
	}
	args := []string{"-y", "-loglevel", "error", "-f", "rawvideo", "-pix_fmt", "gray", "-s", fmt.Sprintf("%dx%d", Width, Height), "-r", "30", "-i", "-", "-an"}
	if k.filter != "" {
		args = append(args, "-vf", k.filter)
	}
	args = append(append(args, k.encode...), "-pix_fmt", "yuv420p", "-fps_mode", "passthrough")
	if k.filter != "" {
		args = append(args, "-enc_time_base", "1/90000")
	}
	if strings.HasSuffix(k.File, ".mp4") {
		args = append(args, "-video_track_timescale", "90000")
	}
	if err := ffmpeg(ctx, &raw, nil, append(args, whole)...); err != nil {
		return "", err
	}
	if k.cut {
		if err := ffmpeg(ctx, nil, nil, "-y", "-loglevel", "error", "-ss", "0.4", "-i", whole, "-c", "copy", path); err != nil {
			return "", err
		}
		return path, os.Remove(whole)
	}
	return path, nil
}

// Numbers decodes a clip and reads the number of every frame, in the order they are shown.
func Numbers(ctx context.Context, path string) ([]int, error) {
	var raw bytes.Buffer
	if err := ffmpeg(ctx, nil, &raw, "-loglevel", "error", "-i", path, "-map", "0:v:0", "-f", "rawvideo", "-pix_fmt", "gray", "-fps_mode", "passthrough", "-"); err != nil {
		return nil, err
	}
	var out []int
	for b := raw.Bytes(); len(b) >= Width*Height; b = b[Width*Height:] {
		n := 0
		for i := range Bars {
			if b[Height/2*Width+i*bar+bar/2] > 127 {
				n |= 1 << i
			}
		}
		out = append(out, n)
	}
	return out, nil
}

func ffmpeg(ctx context.Context, in, out *bytes.Buffer, args ...string) error {
	cmd := exec.CommandContext(ctx, "ffmpeg", args...)
	var said bytes.Buffer
	cmd.Stderr = &said
	if in != nil {
		cmd.Stdin = in
	}
	if out != nil {
		cmd.Stdout = out
	}
	if err := cmd.Run(); err != nil {
		return fmt.Errorf("%w: %s", err, said.String())
	}
	return nil
}
