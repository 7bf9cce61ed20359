package formats

import (
	"bytes"
	"io/fs"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	theirgpx "github.com/tkrajina/gpxgo/gpx"
	"github.com/tormoder/fit"

	"notchback/core/activity"
)

// samples are the files of an ending that a module of the registries carries.
func samples(t testing.TB, module, ending string) []string {
	out, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", module).Output()
	require.NoError(t, err)
	var list []string
	require.NoError(t, filepath.WalkDir(strings.TrimSpace(string(out)), func(p string, d fs.DirEntry, err error) error {
		if err == nil && strings.HasSuffix(p, ending) {
			list = append(list, p)
		}
		return err
	}))
	return list
}

// Every sample that the decoders' modules carry, and what a converter makes of it, is
// read as independent readers read it: as many outings, the same start, the distance
// within half a per cent, the moving time within a second, the cadence within half a
// step. What we refuse is said; what they refuse, or don't say, is not compared.
func TestAgainstIndependentReaders(t *testing.T) {
	compared, refused := 0, 0
	fits := append(samples(t, "github.com/muktihari/fit", ".fit"), samples(t, "github.com/tormoder/fit", ".fit")...)
	require.Greater(t, len(fits), 50)
	for _, p := range fits {
		name := filepath.Base(filepath.Dir(p)) + "/" + filepath.Base(p)
		b, err := os.ReadFile(p)
		require.NoError(t, err)
		runs, err := ReadRuns(b, atNow)
		if err != nil {
			refused++
			t.Logf("refused %s: %v", name, err)
			if strings.Contains(err.Error(), "not a run") && agreed(t, name, b) {
				compared++
			}
			continue
		}
		if theirSessions(t, name, b, runs) {
			compared++
		}
		compared += converted(t, name, p, "garmin_fit", runs)
	}
	for _, p := range samples(t, "github.com/tkrajina/gpxgo", ".gpx") {
		name := filepath.Base(p)
		b, err := os.ReadFile(p)
		require.NoError(t, err)
		runs, err := ReadRuns(b, atNow)
		if err != nil {
			refused++
			t.Logf("refused %s: %v", name, err)
			continue
		}
		if theirTracks(t, name, b, runs) {
			compared++
		}
		compared += converted(t, name, p, "gpx", runs)
	}
	t.Logf("%d compared, %d refused", compared, refused)
	assert.GreaterOrEqual(t, compared, 60)
}

// agreed reports that another decoder says the same of a file that we call none.
func agreed(t *testing.T, name string, b []byte) bool {
	f, err := fit.Decode(bytes.NewReader(b))
	if err != nil {
		return false
	}
	assert.NotEqual(t, fit.FileTypeActivity, f.Type(), name)
	return true
}

// theirSessions compares a FIT file with what another decoder reads.
func theirSessions(t *testing.T, name string, b []byte, runs []RunFile) bool {
	files, err := fit.DecodeChained(bytes.NewReader(b))
	if err != nil && len(files) == 0 {
		return false
	}
	var theirs []*fit.SessionMsg
	for _, f := range files {
		a, err := f.Activity()
		if err != nil {
			continue
		}
		for _, s := range a.Sessions {
			if s.Sport != fit.SportTransition {
				theirs = append(theirs, s)
			}
		}
	}
	if len(theirs) == 0 {
		return false
	}
	some := false
	for _, s := range theirs {
		var r *RunFile
		for i := range runs {
			if runs[i].Start.Equal(s.StartTime) && (r == nil || strings.EqualFold(strings.ReplaceAll(s.Sport.String(), " ", ""), strings.ReplaceAll(runs[i].What.Name, " ", ""))) {
				r = &runs[i]
			}
		}
		if r == nil {
			if d := s.GetTotalTimerTimeScaled(); d > 0 && !math.IsNaN(d) {
				t.Errorf("%s: nothing starts at %s", name, s.StartTime)
			}
			continue
		}
		some = true
		if d := s.GetTotalDistanceScaled(); d > 0 && !math.IsNaN(d) {
			assert.InDelta(t, d, r.Metres, math.Max(1, d*0.005), "%s: distance", name)
		}
		if d := s.GetTotalTimerTimeScaled(); d > 0 && !math.IsNaN(d) {
			assert.InDelta(t, d, r.Seconds, 1, "%s: time", name)
		}
		if c, ok := s.GetAvgCadence().(uint8); ok && c != 255 && c > 0 && r.CadenceSpm != nil && r.What.Kind == activity.Run {
			f := s.GetAvgFractionalCadenceScaled()
			if math.IsNaN(f) {
				f = 0
			}
			assert.InDelta(t, 2*(float64(c)+f), *r.CadenceSpm, 0.5, "%s: cadence", name)
		}
	}
	return some
}

// theirTracks compares a GPX file with what another reader reads. Its moving time is on
// inclined stretches, so up to three per cent of a mountain may lie between.
func theirTracks(t *testing.T, name string, b []byte, runs []RunFile) bool {
	g, err := theirgpx.ParseBytes(b)
	if err != nil {
		return false
	}
	i := 0
	some := false
	for _, trk := range g.Tracks {
		if !trk.TimeBounds().StartTime.After(time.Time{}) || !trk.HasTimes() && len(runs) <= i {
			continue
		}
		if i >= len(runs) {
			t.Errorf("%s: we read %d tracks", name, len(runs))
			return false
		}
		r := runs[i]
		i++
		if trk.GetTrackPointsNo() < 3 {
			continue
		}
		some = true
		assert.InDelta(t, trk.Length2D(), r.Metres, math.Max(2, trk.Length2D()*0.005), "%s: distance", name)
		assert.True(t, trk.TimeBounds().StartTime.Equal(r.Start), "%s: %s is not %s", name, r.Start, trk.TimeBounds().StartTime)
		m := trk.MovingData()
		if m.MovingTime == 0 { // a place that stays the same: a treadmill, or a made-up file
			continue
		}
		assert.InDelta(t, m.MovingTime, r.Seconds, math.Max(1, 0.03*m.MovingTime), "%s: moving time", name)
	}
	return some
}

// converted turns a file with a track into GPX and TCX by another program, reads both, and
// returns how many were compared.
func converted(t *testing.T, name, p, from string, runs []RunFile) int {
	if len(runs) != 1 || len(runs[0].Track) < 20 || len(runs[0].Track) > 20_000 {
		return 0
	}
	n := 0
	for _, to := range []struct{ ext, format string }{{"gpx", "gpx"}, {"tcx", "gtrnctr,course=0,sport=Running"}} {
		out := filepath.Join(t.TempDir(), "x."+to.ext)
		if err := exec.Command("gpsbabel", "-t", "-i", from, "-f", p, "-o", to.format, "-F", out).Run(); err != nil {
			continue
		}
		b, err := os.ReadFile(out)
		require.NoError(t, err)
		if len(b) > RunFileMost || to.ext == "tcx" && !bytes.Contains(b, []byte("<LatitudeDegrees>")) {
			continue // too large, or the converter left the places out
		}
		again, err := ReadRuns(b, atNow)
		if err != nil {
			t.Errorf("%s as %s: %v", name, to.ext, err)
			continue
		}
		if len(again) == 0 {
			continue
		}
		moved := 0.0
		for i := 1; i < len(runs[0].Track); i++ {
			a, b := runs[0].Track[i-1], runs[0].Track[i]
			moved += haversine(a.Lat, a.Lon, b.Lat, b.Lon)
		}
		if to.ext == "gpx" {
			if theirTracks(t, name+" as gpx", b, again) {
				n++
			}
			continue
		}
		sum := 0
		for _, r := range again {
			sum += r.Metres
		}
		assert.InDelta(t, moved, sum, math.Max(20, moved*0.02), "%s as tcx: distance", name)
		n++
	}
	return n
}
