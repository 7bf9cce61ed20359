package sidecam

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image/png"
	"maps"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"

	"notchback/formats"
)

// ErrNoEncoder says that clips can't be written here.
var ErrNoEncoder = errors.New("no ffmpeg on this machine: install Debian's package ffmpeg to write clips; stills, truth and markers need nothing")

// WriteClip renders a clip into a WebM file.
func WriteClip(ctx context.Context, path string, d Demo) error {
	tool, err := exec.LookPath("ffmpeg")
	if err != nil {
		return ErrNoEncoder
	}
	f := d.Film
	cmd := exec.CommandContext(ctx, tool, "-y", "-loglevel", "error", "-f", "rawvideo", "-pix_fmt", "rgba", "-s", fmt.Sprintf("%dx%d", f.Width, f.Height),
		"-r", strconv.FormatFloat(f.FPS, 'f', -1, 64), "-i", "-", "-an", "-c:v", "libvpx", "-pix_fmt", "yuv420p", "-auto-alt-ref", "0", "-b:v", "900k", "-g", "30", "-deadline", "good", "-cpu-used", "2", "-f", "webm", path)
	cmd.Stderr = os.Stderr
	in, err := cmd.StdinPipe()
	if err != nil {
		return err
	}
	if err := cmd.Start(); err != nil {
		return err
	}
	// The next picture is rendered while the last one is taken.
	pictures, took := make(chan []byte, 2), make(chan error, 1)
	go func() {
		var err error
		for p := range pictures {
			if err == nil {
				_, err = in.Write(p)
			}
		}
		took <- errors.Join(err, in.Close())
	}()
	for i := range f.Frames {
		if ctx.Err() != nil {
			break
		}
		pictures <- d.Runner.Picture(f, i).Pix
	}
	close(pictures)
	return errors.Join(<-took, cmd.Wait())
}

// WriteStill renders one frame into a PNG file.
func WriteStill(path string, d Demo, frame int) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	return errors.Join(png.Encode(f, d.Runner.Picture(d.Film, frame)), f.Close())
}

// markerNames are the markers of every figure, in order.
var markerNames = slices.Sorted(maps.Keys(markers(Usual().At(0, 0))))

// Markers is the figure's true marker track: mm, y up, as a laboratory would have
// it, on a belt that moves backward under the runner.
func (d Demo) Markers() formats.Track {
	t := formats.Track{Rate: d.Film.FPS}
	t.Markers = slices.Clone(markerNames)
	for i := range d.Film.Frames {
		at := markers(d.Runner.At(d.Runner.phase(d.Film, float64(i)/d.Film.FPS), 0))
		row := make([]formats.Spot3, len(t.Markers))
		for m, name := range t.Markers {
			v := at[name]
			row[m] = formats.Spot3{X: 1000 * v.X, Y: 1000 * v.Y, Z: 1000 * v.Z, Known: true}
		}
		t.Frames = append(t.Frames, row)
	}
	return t
}

// Write puts a demo clip, its truth and its markers into a folder, with the still
// of the first right contact.
func Write(ctx context.Context, dir string, d Demo) error {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	truth := d.Runner.Truth(d.Film)
	raw, err := json.Marshal(truth)
	if err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(dir, d.ID+".json"), raw, 0o644); err != nil {
		return err
	}
	f, err := os.Create(filepath.Join(dir, d.ID+".trc"))
	if err != nil {
		return err
	}
	if err := errors.Join(formats.WriteTRC(f, d.ID, d.Markers()), f.Close()); err != nil {
		return err
	}
	if err := WriteStill(filepath.Join(dir, d.ID+".png"), d, truth.Frame(truth.Events[0].Contact)); err != nil {
		return err
	}
	return WriteClip(ctx, filepath.Join(dir, d.ID+".webm"), d)
}

// First is the first frame at a time or after it: where a foot that came down is seen to
// carry.
func (t Truth) First(at float64) int {
	return max(0, min(len(t.Frames)-1, int(math.Ceil(at*t.Film.FPS-1e-9))))
}

// Frame returns the frame that shows a moment: the last one not after it.
func (t Truth) Frame(at float64) int {
	return max(0, min(len(t.Frames)-1, int(at*t.Film.FPS+1e-9)))
}
