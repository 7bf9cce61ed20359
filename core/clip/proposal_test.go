package clip

import (
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/core/body"
	"notchback/core/measure"
	"notchback/devices/sidecam"
)

// proposed is what the landmark library proposed for a demo clip, as a browser got it
// on one machine (testdata), with the clip's times and truth.
func proposed(t testing.TB, id string) (Proposal, []float64, sidecam.Truth) {
	t.Helper()
	raw, err := os.ReadFile("testdata/" + id + ".json")
	require.NoError(t, err)
	var p Proposal
	require.NoError(t, json.Unmarshal(raw, &p))
	d, err := sidecam.Find(id)
	require.NoError(t, err)
	times := make([]float64, d.Film.Frames)
	for i := range times {
		times[i] = float64(i) / d.Film.FPS
	}
	return p, times, d.Runner.Truth(d.Film)
}

var sideClips = []string{"rear", "mid", "fore", "reach", "uneven"}

// What the library proposes for the clips from the side: cadence, contacts, shin
// and trunk against the truth, before anybody corrects.
func TestProposalsOfTheDemoClips(t *testing.T) {
	right, all := 0, 0
	for _, id := range sideClips {
		p, times, truth := proposed(t, id)
		got, err := Marks{View: Side}.ReadProposal(p, times, Runner{}, Span{})
		require.NoError(t, err)
		assert.GreaterOrEqual(t, float64(got.Found), 0.9*float64(len(p.Frames)), id)
		require.NotNil(t, got.Gait, id)
		raw, err := json.Marshal(got)
		require.NoError(t, err)
		assert.NotContains(t, string(raw), "null", "lists are lists also when they are empty")
		assert.InDelta(t, truth.Runner.Cadence, got.Gait.CadenceSpm, got.Gait.CadenceOff+0.5, id)
		for _, e := range truth.Events {
			if e.Contact < 0.04 || e.Contact > times[len(times)-1]-0.25 {
				continue // no flat sole after it is in the clip
			}
			all++
			for _, f := range got.Events {
				if d := f.Frame - truth.Frame(e.Contact); f.Foot == e.Foot && f.Kind == "contact" && d >= -1 && d <= 1 {
					right++
					break
				}
			}
		}
		for i, j := range got.Readings {
			assert.Equal(t, measure.ByProposal, j.By)
			switch j.Measure {
			case measure.OverstrideDeg:
				// Contacts are found up to a frame off, in which a shin turns by 10°; the margin says so.
				want := shinAt(truth, string(j.Side))
				assert.InDelta(t, want, j.Value, j.Margin, "%s %s", id, j.Side)
				assert.GreaterOrEqual(t, j.Margin, map[body.Side]float64{body.Right: 8, body.Left: 10}[j.Side], "the leg behind the other has more")
				assert.NotEmpty(t, got.PerStep[i])
			case measure.TrunkLean:
				// From the middle of both hips to the middle of both shoulders, which don't turn.
				assert.InDelta(t, truth.Runner.Lean, j.Value, 2, id)
			case measure.StrikeAngle:
				assert.Equal(t, "uncertain", j.Class, "%s %s: %.1f ± %.1f", id, j.Side, j.Value, j.Margin)
			}
		}
		assert.NotEmpty(t, got.Look)
		assert.Len(t, got.Asks, 8, "three contacts and one flat sole a side")
	}
	assert.GreaterOrEqual(t, float64(right), 0.85*float64(all), "%d of %d contacts within a frame", right, all)
}

// shinAt is the shin's angle at the first contact of a foot, between the two frames.
func shinAt(truth sidecam.Truth, foot string) float64 {
	at := contactOf(truth, foot)
	k := truth.Frame(at)
	a, b := truth.Frames[k], truth.Frames[min(k+1, len(truth.Frames)-1)]
	u := (at - a.Time) * truth.Film.FPS
	return -((1-u)*a.Angles[foot+"-shin"] + u*b.Angles[foot+"-shin"])
}

func contactOf(truth sidecam.Truth, foot string) float64 {
	for _, e := range truth.Events {
		if e.Foot == foot {
			return e.Contact
		}
	}
	return 0
}

// correct places heel and toe where the truth has them in every frame that is asked
// for.
func correct(m Marks, asks []Ask, truth sidecam.Truth) Marks {
	for _, a := range asks {
		for place, name := range map[measure.Place]string{measure.Heel: "-sole-heel", measure.Toe: "-sole-toe"} {
			s := truth.Frames[a.Frame].Places[string(a.Foot)+name]
			m.Fixes = append(m.Fixes, Fix{a.Frame, a.Foot, place, measure.Point{X: s.X, Y: s.Y}})
		}
	}
	return m
}

// With six contacts and two soles corrected, the strike class is right.
func TestSixCorrectedContactsGiveTheStrikeClass(t *testing.T) {
	want := map[string]map[body.Side]string{"rear": {body.Left: "rear", body.Right: "rear"}, "mid": {body.Left: "mid", body.Right: "mid"}, "fore": {body.Left: "fore", body.Right: "fore"},
		"reach": {body.Left: "rear", body.Right: "rear"}, "uneven": {body.Left: "mid", body.Right: "rear"}}
	for _, id := range sideClips {
		p, times, truth := proposed(t, id)
		m := Marks{View: Side}
		// The coach has put the contacts right, as a look at the frames shows them.
		for _, e := range truth.Events {
			m.Events = append(m.Events, Event{truth.First(e.Contact), body.Side(e.Foot), "contact"})
		}
		first, err := m.ReadProposal(p, times, Runner{}, Span{})
		require.NoError(t, err)
		m = correct(m, first.Asks, truth)
		got, err := m.ReadProposal(p, times, Runner{}, Span{})
		require.NoError(t, err)
		n := 0
		for _, j := range got.Readings {
			if j.Measure != measure.StrikeAngle {
				continue
			}
			n++
			assert.Equal(t, measure.ByCoach, j.By, "%s %s", id, j.Side)
			assert.Equal(t, want[id][j.Side], j.Class, "%s %s: %.1f ± %.1f", id, j.Side, j.Value, j.Margin)
			assert.Less(t, j.Margin, 11.0, "not the library's own error any more")
		}
		assert.Equal(t, 2, n, id)
		for _, a := range got.Asks {
			assert.True(t, a.Done, "%s frame %d", id, a.Frame)
		}
	}
}

// A correction moves its neighbours by less and less, and nothing far away.
func TestACorrectionIsCarriedWithFallingWeight(t *testing.T) {
	p, times, _ := proposed(t, "rear")
	show := Span{From: 40, To: 60}
	before, err := Marks{View: Side}.ReadProposal(p, times, Runner{}, show)
	require.NoError(t, err)
	at := before.Points[50]
	m := Marks{View: Side, Fixes: []Fix{{50, body.Left, measure.Knee, measure.Point{X: at[6] + 20, Y: at[7]}}}}
	after, err := m.ReadProposal(p, times, Runner{}, show)
	require.NoError(t, err)
	moved := func(f int) float64 { return after.Points[f][6] - before.Points[f][6] }
	assert.InDelta(t, 20, moved(50), 0.01)
	last := 20.0
	for f := 51; f <= 53; f++ {
		assert.Less(t, moved(f), last)
		assert.Positive(t, moved(f))
		assert.InDelta(t, moved(f), moved(100-f), 0.2, "the same on both sides")
		last = moved(f)
	}
	assert.Zero(t, moved(54))
	assert.Zero(t, moved(46))
	assert.Equal(t, before.Points[50][9], after.Points[50][9], "other places stay")
	assert.InDelta(t, 1, after.Points[50][8], 0, "a placed point is trusted")
}

// Events that a coach placed stand in the place of found ones; the rest stays.
func TestPlacedEventsWin(t *testing.T) {
	p, times, _ := proposed(t, "rear")
	found, err := Marks{View: Side}.ReadProposal(p, times, Runner{}, Span{})
	require.NoError(t, err)
	var first measure.FootEvent
	for _, e := range found.Events {
		if e.Kind == "contact" && e.Frame > 20 {
			first = e
			break
		}
	}
	m := Marks{View: Side, Events: []Event{{first.Frame + 3, body.Side(first.Foot), "contact"}}}
	got, err := m.ReadProposal(p, times, Runner{}, Span{})
	require.NoError(t, err)
	assert.Len(t, got.Events, len(found.Events))
	n := 0
	for _, e := range got.Events {
		if e.Foot == first.Foot && e.Kind == "contact" && e.Frame-first.Frame <= 3 && e.Frame >= first.Frame {
			n++
			assert.Equal(t, first.Frame+3, e.Frame)
		}
	}
	assert.Equal(t, 1, n)
}

// What was looked at leaves the queue and is said beside the reading.
func TestLookedAtStepsLeaveTheQueue(t *testing.T) {
	p, times, _ := proposed(t, "rear")
	got, err := Marks{View: Side}.ReadProposal(p, times, Runner{}, Span{})
	require.NoError(t, err)
	require.NotEmpty(t, got.Look)
	for _, j := range got.Readings {
		assert.False(t, j.Accepted)
	}
	worst := got.Look[0]
	next, err := Marks{View: Side, Accepted: []Span{{worst, worst}}}.ReadProposal(p, times, Runner{}, Span{})
	require.NoError(t, err)
	assert.NotContains(t, next.Look, worst)
	all, err := Marks{View: Side, Accepted: []Span{{0, 149}}}.ReadProposal(p, times, Runner{}, Span{})
	require.NoError(t, err)
	assert.Empty(t, all.Look)
	for _, j := range all.Readings {
		assert.True(t, j.Accepted, j.Name)
		assert.Equal(t, measure.ByProposal, j.By, "looked at is not placed")
	}
}

// Bad clips: mirrored, running left, 15 Hz, a second person, somebody who leaves,
// an empty track. Each is read as far as it goes and says what is wrong.
func TestBadClipsAreReadAsFarAsTheyGo(t *testing.T) {
	fresh := func() (Proposal, []float64) {
		p, times, _ := proposed(t, "rear")
		return p, times
	}
	read := func(m Marks, p Proposal, times []float64) ProposalRead {
		t.Helper()
		m.View = Side
		got, err := m.ReadProposal(p, times, Runner{}, Span{})
		require.NoError(t, err)
		return got
	}
	p, times := fresh()
	usual := read(Marks{}, p, times)
	// Running to the left: the same steps and angles, and the picture's word is not believed.
	for _, f := range p.Frames {
		for k := 0; k < len(f); k += 3 {
			f[k] = 640 - f[k]
		}
	}
	left := read(Marks{}, p, times)
	assert.InDelta(t, usual.Gait.CadenceSpm, left.Gait.CadenceSpm, 1e-6)
	assert.InDelta(t, usual.Readings[0].Value, left.Readings[0].Value, 1e-6)
	assert.Contains(t, left.Says, "The toes point the other way than the picture says; the points were believed.")
	assert.NotContains(t, read(Marks{Picture: measure.Picture{RunsLeft: true}}, p, times).Says, "The toes point the other way than the picture says; the points were believed.")
	// Every fourth frame only.
	p, times = fresh()
	var slow Proposal
	var few []float64
	for i := 0; i < len(p.Frames); i += 4 {
		slow.Frames, few = append(slow.Frames, p.Frames[i]), append(few, times[i])
	}
	got := read(Marks{}, slow, few)
	require.NotNil(t, got.Gait)
	assert.InDelta(t, usual.Gait.CadenceSpm, got.Gait.CadenceSpm, 8)
	assert.Contains(t, got.Says[len(got.Says)-1], "15 frames a second are few")
	// The library jumps to somebody else for a while.
	p, times = fresh()
	for i := 60; i < 66; i++ {
		for k := 0; k < len(p.Frames[i]); k += 3 {
			p.Frames[i][k] += 250
		}
	}
	got = read(Marks{}, p, times)
	assert.Equal(t, 144, got.Found)
	assert.InDelta(t, usual.Gait.CadenceSpm, got.Gait.CadenceSpm, 2)
	// The runner leaves the picture.
	p, times = fresh()
	for i := 70; i < 150; i++ {
		p.Frames[i] = nil
	}
	got = read(Marks{}, p, times)
	assert.Equal(t, 70, got.Found)
	assert.Contains(t, got.Says[len(got.Says)-1], "70 of 150")
	require.NotNil(t, got.Gait, "what was there is read")
	// Nobody at all.
	for i := range p.Frames {
		p.Frames[i] = nil
	}
	got = read(Marks{}, p, times)
	assert.Nil(t, got.Gait)
	assert.Equal(t, NoBody, got.Body)
	assert.Contains(t, got.Sees, "Nobody was found")
	// Against the light the library is not sure of anything.
	p, times = fresh()
	for _, f := range p.Frames {
		for k := 2; k < len(f); k += 3 {
			f[k] = 0.2
		}
	}
	got = read(Marks{}, p, times)
	assert.Zero(t, got.Found)
	assert.Equal(t, NoBody, got.Body)
	// A mirrored picture: the coach says which side is near, and the feet change names.
	p, times = fresh()
	for _, f := range p.Frames {
		for k := 0; k < len(f); k += 3 {
			f[k] = 640 - f[k]
		}
		for k := range 18 { // the library takes the mirrored right leg for a left one
			f[k], f[k+18] = f[k+18], f[k]
		}
	}
	got = read(Marks{Near: body.Right, Picture: measure.Picture{RunsLeft: true}}, p, times)
	assert.Contains(t, got.Says, "The picture is mirrored: left and right were exchanged.")
	require.Len(t, got.Readings, len(usual.Readings))
	for i, j := range got.Readings {
		assert.Equal(t, usual.Readings[i].Side, j.Side)
		assert.InDelta(t, usual.Readings[i].Value, j.Value, 1e-6, "%s %s", j.Name, j.Side)
	}
	// From behind nothing is claimed.
	p, times, _ = proposed(t, "crossing")
	behind, err := Marks{View: Behind}.ReadProposal(p, times, Runner{}, Span{From: 3, To: 3})
	require.NoError(t, err)
	assert.Empty(t, behind.Readings)
	assert.Contains(t, behind.Says[0], "Mark the events by key")
	assert.Len(t, behind.Points[3], 36)
}

func TestProposalsThatCantBeSayWhy(t *testing.T) {
	for words, p := range map[string]Proposal{
		"0 frames":           {},
		"5 numbers":          {Frames: [][]float64{make([]float64, 5)}},
		"not a place":        {Frames: [][]float64{append(make([]float64, 35), 2)}},
		"after the clip has": {From: 149, Frames: make([][]float64, 8)},
	} {
		_, times, _ := proposed(t, "rear")
		_, err := Marks{View: Side}.ReadProposal(p, times, Runner{}, Span{})
		require.ErrorContains(t, err, words)
	}
}

// Ten seconds at 60 Hz, corrected.
func BenchmarkReadProposal(b *testing.B) {
	p, _, _ := proposed(b, "rear")
	long := Proposal{}
	var times []float64
	for len(long.Frames) < 600 {
		long.Frames = append(long.Frames, p.Frames...)
	}
	for i := range long.Frames {
		times = append(times, float64(i)/60)
	}
	m := Marks{View: Side, Fixes: []Fix{{50, body.Left, measure.Knee, measure.Point{X: 300, Y: 250}}}}
	for b.Loop() {
		if _, err := m.ReadProposal(long, times, Runner{}, Span{}); err != nil {
			b.Fatal(err)
		}
	}
}

// pieces are stretches of a proposal, a third of a second long.
func pieces(p Proposal) []Proposal {
	var out []Proposal
	for at := 0; at+20 <= len(p.Frames); at += 10 {
		q := p
		q.From, q.Frames = at, p.Frames[at:at+20]
		out = append(out, q)
	}
	return out
}

// Of what the library drew over parts of people – a picture that ends at the hips, feet
// alone, legs behind a board, somebody frozen – nothing is taken for a runner; of whole
// runners everything is (recorded in a browser; docs/rules.md has the rates). Of pictures
// with legs alone it finds nobody, which the desk says itself.
func TestPartsOfPeopleAreNoRunner(t *testing.T) {
	files, err := filepath.Glob("testdata/parts/*.json")
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(files), 10)
	wrong, all := 0, 0
	for _, f := range files {
		raw, err := os.ReadFile(f)
		require.NoError(t, err)
		var p Proposal
		require.NoError(t, json.Unmarshal(raw, &p))
		for _, q := range append(pieces(p), p) {
			got, err := Marks{View: Side, Rate: 60}.ReadProposal(q, nil, Runner{}, Span{})
			require.NoError(t, err)
			all++
			if got.Body == WholeBody && got.Doing == Running {
				wrong++
			}
			assert.NotEmpty(t, got.Sees, f)
			assert.Empty(t, got.Readings, f)
			assert.Empty(t, got.Times, "no cadence, no contact")
			assert.Empty(t, got.Events, f)
		}
		got, err := Marks{View: Side, Rate: 60}.ReadProposal(p, nil, Runner{}, Span{To: 3})
		require.NoError(t, err)
		want := map[string]Body{"two": TwoBodies, "upp": OnlyLegs, "fee": OnlyLegs, "hid": PartBody, "sti": WholeBody}[filepath.Base(f)[:3]]
		assert.Equal(t, want, got.Body, f)
	}
	assert.Zero(t, wrong, "of %d", all)
	good, seen := 0, 0
	for _, id := range sideClips {
		p, times, _ := proposed(t, id)
		for _, q := range append(pieces(p), p) {
			got, err := Marks{View: Side}.ReadProposal(q, times, Runner{}, Span{})
			require.NoError(t, err)
			seen++
			if got.Body == WholeBody && got.Doing == Running && got.Sees == "" {
				good++
			}
		}
	}
	assert.Equal(t, seen, good, "whole runners are taken for what they are")
	t.Logf("%d of %d parts taken for a runner, %d of %d runners for one", wrong, all, good, seen)
}

// A few frames proposed anew leave the others as they were; a photo's points need no time.
func TestAPartProposedAnewLeavesTheRest(t *testing.T) {
	p, _, _ := proposed(t, "rear")
	one := Proposal{From: 40, Model: p.Model, Frames: [][]float64{slices.Clone(p.Frames[40])}}
	one.Frames[0][0] = 5
	got := one.Over(p)
	assert.Equal(t, 0, got.From)
	require.Len(t, got.Frames, len(p.Frames))
	assert.InDelta(t, 5, got.Frames[40][0], 0)
	assert.Equal(t, p.Frames[39], got.Frames[39])
	assert.NotEqual(t, 5.0, p.Frames[40][0], "the old one is as it was")
	later := Proposal{From: 200, Model: p.Model, Frames: p.Frames[:10]}
	both := later.Over(p)
	assert.Len(t, both.Frames, 210)
	assert.Empty(t, both.Frames[180])
	assert.Equal(t, later, later.Over(Proposal{Model: "another", Frames: p.Frames}), "another library's points are not mixed in")
	far := Proposal{From: 5000, Model: p.Model, Frames: p.Frames[:10]}
	assert.Len(t, far.Over(p).Frames, 10, "too far apart for one")
	_, err := Marks{View: Side}.ReadProposal(Proposal{Frames: p.Frames[:1]}, nil, Runner{}, Span{})
	require.NoError(t, err, "a photo")
	_, err = Marks{View: Side}.ReadProposal(Proposal{Frames: p.Frames[:20]}, nil, Runner{}, Span{})
	require.ErrorContains(t, err, "rate", "a clip needs its times")
}
