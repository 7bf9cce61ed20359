package app_test

import (
	"bytes"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app"
	"notchback/app/running"
	"notchback/core/activity"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/devices"
	"notchback/formats"
)

func dialects(o devices.Outing) map[string]devices.Dialect {
	out := map[string]devices.Dialect{}
	for _, d := range devices.Dialects(o, 5) {
		out[d.Name] = d
	}
	return out
}

// volume is all that counts as running of the rig's runner.
func (r *rig) volume() int {
	r.t.Helper()
	v, err := r.a.Load(ctx, r.act, r.runner.ID, 52)
	require.NoError(r.t, err)
	sum := 0
	for _, w := range v.Weeks {
		sum += w.Metres
	}
	return sum
}

func (r *rig) takeIn(in running.Bringing) running.ImportResult {
	r.t.Helper()
	res, err := r.a.ImportRuns(ctx, r.act, r.runner.ID, in)
	require.NoError(r.t, err, in.Name)
	return res
}

// However a file is written: only what is plainly a run changes the volume, by its own
// metres, until a coach says more; a preview changes nothing at all.
func TestOnlyRunsChangeTheVolume(t *testing.T) {
	r := newRig(t, 31)
	r.at(start+20, 12)
	tries := 0
	for _, d := range devices.Dialects(devices.Outing{Metres: 9000, PaceSecond: 350, Cadence: 167}, 5) {
		o := devices.Outing{Start: r.clock.Add(-time.Duration(30+26*tries) * time.Hour).Truncate(time.Second), Metres: 9000 + 700*float64(tries%7), PaceSecond: 350, Cadence: 167}
		d = dialects(o)[d.Name]
		tries++
		before := 0                                                                 // each is taken back again
		d.Data = bytes.ReplaceAll(d.Data, []byte("2026-11-2"), []byte("2026-05-1")) // the tables' own days
		in := running.Bringing{Name: d.Name, Content: d.Data}
		if kind, _ := formats.Sniff(d.Data); kind == "csv" {
			tab, err := formats.LookAtTable(d.Data)
			require.NoError(t, err)
			tab.Mapping.Date = 0
			in.Mapping = &tab.Mapping
		}
		look := in
		look.Preview = true
		seen, err := r.a.ImportRuns(ctx, r.act, r.runner.ID, look)
		if d.Refused != "" {
			require.Error(t, err, d.Name)
			_, err = r.a.ImportRuns(ctx, r.act, r.runner.ID, in)
			require.Error(t, err, d.Name)
			assert.Equal(t, before, r.volume(), d.Name)
			continue
		}
		require.NoError(t, err, d.Name)
		if tries%5 == 0 {
			assert.Equal(t, before, r.volume(), "%s: a look is no import", d.Name)
		}
		res := r.takeIn(in)
		want := 0.0
		for k, x := range res.Outings {
			assert.Equal(t, seen.Outings[k].What, x.What, d.Name)
			if x.Takes == "run" {
				assert.Equal(t, activity.Run, x.What, d.Name)
				assert.Equal(t, "run", d.Truth[k].What, d.Name)
				want += float64(x.Metres)
			}
		}
		assert.InDelta(t, float64(before)+want, r.volume(), 1, "%s: %+v", d.Name, res.Notes)
		if res.Import != "" {
			require.NoError(t, r.a.UndoImport(ctx, r.act, r.runner.ID, res.Import))
			require.ErrorIs(t, r.a.UndoImport(ctx, r.act, r.runner.ID, res.Import), app.ErrConflict)
			assert.Equal(t, before, r.volume(), "%s is taken back whole", d.Name)
		}
	}
	assert.Greater(t, tries, 50)
}

// What a file does not say is asked once; the answer holds for the next of its source,
// and what is not like this runner is asked all the same.
func TestAnAnswerHoldsForItsSource(t *testing.T) {
	r := newRig(t, 32)
	r.at(start+20, 12)
	for d := range 5 {
		r.run(start+day.Date(d*3), 8)
	}
	file := func(daysAgo int, metres, pace float64) []byte {
		o := devices.Outing{Start: r.clock.AddDate(0, 0, -daysAgo).Add(-2 * time.Hour).Truncate(time.Second), Metres: metres, PaceSecond: pace, Cadence: 166}
		return dialects(o)["no type.gpx"].Data
	}
	before := r.volume()
	first := running.Bringing{Name: "a.gpx", Content: file(1, 8000, 350)}
	res := r.takeIn(first)
	require.Equal(t, 1, res.Asked)
	assert.Equal(t, []string{"What was it?"}, res.Outings[0].Asks)
	assert.Empty(t, res.Import)
	assert.Equal(t, before, r.volume())
	first.Choices = running.Choices{"0.0": "run"}
	res = r.takeIn(first)
	require.Equal(t, 1, res.Added)
	assert.InDelta(t, before+8000, r.volume(), 50)
	res = r.takeIn(running.Bringing{Name: "b.gpx", Content: file(2, 7000, 350)})
	assert.Equal(t, 1, res.Added, "the source is known by now")
	assert.Contains(t, res.Outings[0].Why, "as you said of this source before")
	for _, odd := range [][2]float64{{40_000, 350}, {8000, 190}} {
		res = r.takeIn(running.Bringing{Name: "c.gpx", Content: file(4, odd[0], odd[1])})
		assert.Equal(t, 1, res.Asked, "%v", odd)
		require.Len(t, res.Outings[0].Asks, 1)
		assert.NotContains(t, res.Outings[0].Asks[0], "What was it")
	}
	// Nobody runs that, whatever is said of it.
	_, err := r.a.ImportRuns(ctx, r.act, r.runner.ID, running.Bringing{Name: "d.gpx", Content: file(6, 30_000, 100), Choices: running.Choices{"0.0": "run"}})
	require.ErrorContains(t, err, "nothing anybody runs")
	// A walk is kept as such and counts in no volume.
	at := r.volume()
	res = r.takeIn(running.Bringing{Name: "e.gpx", Content: file(8, 5000, 720), Choices: running.Choices{"0.0": "walk"}})
	assert.Equal(t, 1, res.Walks)
	assert.Equal(t, at, r.volume())
	runs, err := r.a.Runs(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	walks := 0
	for _, x := range runs {
		if x.What == "walk" {
			walks++
			require.NotNil(t, x.Details)
			assert.Equal(t, "stand-in watch", x.Details.Sources[0].Device)
		}
	}
	assert.Equal(t, 1, walks)
}

// Two devices of one run are one run with both sources, and what one did not measure the
// other fills in; a clock that is hours off is asked.
func TestTwoDevicesOfOneRunAreOne(t *testing.T) {
	r := newRig(t, 33)
	r.at(start+20, 12)
	o := devices.Outing{Start: r.clock.Add(-5 * time.Hour).Truncate(time.Second), Metres: 9000, PaceSecond: 350, Cadence: 167}
	phone := dialects(o)["packed.gpx.gz"] // without a cadence
	watch := o
	watch.Start = o.Start.Add(40 * time.Second)
	watch.Metres = 9080
	require.Equal(t, 1, r.takeIn(running.Bringing{Name: "phone.gpx.gz", Content: phone.Data}).Added)
	at := r.volume()
	res := r.takeIn(running.Bringing{Name: "watch.fit", Content: dialects(watch)["dynamics.fit"].Data})
	assert.Equal(t, 1, res.Known)
	assert.Equal(t, at, r.volume())
	assert.Equal(t, 1, r.takeIn(running.Bringing{Name: "again.fit", Content: dialects(watch)["dynamics.fit"].Data}).Known)
	runs, err := r.a.Runs(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	require.Len(t, runs, 1)
	x := runs[0]
	require.NotNil(t, x.Cadence)
	assert.InDelta(t, 167, *x.Cadence, 1)
	require.NotNil(t, x.Effort)
	require.NotNil(t, x.Details)
	require.NotNil(t, x.Details.Dynamics)
	assert.InDelta(t, 248, *x.Details.Dynamics.ContactMs, 0.1)
	require.Len(t, x.Details.Sources, 2)
	assert.Equal(t, "phone.gpx", x.Details.Sources[0].File)
	assert.Equal(t, "watch.fit", x.Details.Sources[1].File)
	assert.True(t, x.HasTrack)

	shifted := o
	shifted.Start = o.Start.Add(-2 * time.Hour)
	res = r.takeIn(running.Bringing{Name: "other zone.tcx", Content: dialects(shifted)["run.tcx"].Data})
	require.Equal(t, 1, res.Asked)
	assert.Contains(t, res.Outings[0].Asks[0], "a clock that is 2h off")
}

// A zip of everything: each file by itself, the bad ones said by name; all of it is one
// import, and what it would do to the week is known before.
func TestAZipOfEverythingIsOneImport(t *testing.T) {
	r := newRig(t, 34)
	r.at(start+20, 12)
	o := devices.Outing{Start: r.clock.Add(-5 * time.Hour).Truncate(time.Second), Metres: 9000, PaceSecond: 350, Cadence: 167}
	all := dialects(o)
	z, err := devices.Zip([]devices.Dialect{all["run.tcx"], all["ride.fit"], all["course.fit"], all["no type.gpx"], {Name: "notes.txt", Data: []byte("hello")}, {Name: "table.csv", Data: []byte("A,B\n1,2\n")}})
	require.NoError(t, err)
	res := r.takeIn(running.Bringing{Name: "all.zip", Content: z, Preview: true})
	would := []running.WouldRun{}
	for _, x := range res.Outings {
		if x.Takes == "run" {
			would = append(would, running.WouldRun{On: x.On, Metres: x.Metres, Seconds: x.Seconds})
		}
	}
	require.Len(t, would, 1)
	e, err := r.a.EffectOf(ctx, r.act, r.runner.ID, would)
	require.NoError(t, err)
	assert.Equal(t, e.Before.Metres+would[0].Metres, e.After.Metres)
	res = r.takeIn(running.Bringing{Name: "all.zip", Content: z, Import: "6f1c1f0e-0000-4000-8000-000000000001"})
	assert.Equal(t, []int{1, 3, 1}, []int{res.Added, res.Failed, res.Out}, "%+v", res)
	assert.Equal(t, 1, res.Known, "the other file of the same run")
	list, err := r.a.Imports(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "6f1c1f0e-0000-4000-8000-000000000001", list[0].ID)
	more := o
	more.Start = o.Start.AddDate(0, 0, -2)
	r.takeIn(running.Bringing{Name: "more.tcx", Content: dialects(more)["run.tcx"].Data, Import: list[0].ID})
	list, err = r.a.Imports(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, 2, list[0].Runs)
	assert.Equal(t, "all.zip, more.tcx", list[0].Names)
	require.ErrorIs(t, r.a.UndoImport(ctx, r.act, r.act.User.ID, list[0].ID), app.ErrNotFound)
	require.NoError(t, r.a.UndoImport(ctx, r.act, r.runner.ID, list[0].ID))
	assert.Zero(t, r.volume())
	_, err = r.a.ImportRuns(ctx, r.act, r.runner.ID, running.Bringing{Name: "x", Content: all["run.tcx"].Data, Import: list[0].ID})
	require.ErrorIs(t, err, app.ErrConflict, "what was taken back is closed")
}

// A run that was taken out by hand and came in again with another import is that one's:
// the first can be taken back without it, and what is corrected since goes too.
func TestAnImportIsTakenBackWithoutWhatIsAnothers(t *testing.T) {
	r := newRig(t, 36)
	r.at(start+20, 12)
	file := func(daysAgo int) []byte {
		o := devices.Outing{Start: r.clock.AddDate(0, 0, -daysAgo).Add(-2 * time.Hour).Truncate(time.Second), Metres: 8000, PaceSecond: 350, Cadence: 166}
		return dialects(o)["run.tcx"].Data
	}
	id := app.NewID()
	r.takeIn(running.Bringing{Name: "a", Content: file(1), Import: id})
	r.takeIn(running.Bringing{Name: "b", Content: file(3), Import: id})
	runs, err := r.a.Runs(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	require.Len(t, runs, 2)
	require.NoError(t, r.a.RemoveRun(ctx, r.act, runs[0].ID, runs[0].Rev, "by mistake"))
	again := r.takeIn(running.Bringing{Name: "a again", Content: file(1)})
	require.Equal(t, 1, again.Added)
	in := runs[1].RunInput
	in.Effort = ptr(5)
	_, err = r.a.ChangeRun(ctx, r.act, runs[1].ID, runs[1].Rev, in)
	require.NoError(t, err)
	require.NoError(t, r.a.UndoImport(ctx, r.act, r.runner.ID, id))
	runs, err = r.a.Runs(ctx, r.act, r.runner.ID)
	require.NoError(t, err)
	require.Len(t, runs, 1, "what came in again stays")
	require.NoError(t, r.a.UndoImport(ctx, r.act, r.runner.ID, again.Import))
	assert.Zero(t, r.volume())
}

// How the foot met the ground on a run, where somebody looked, counts in its dose.
func TestStrikeOfARunCountsInTheDose(t *testing.T) {
	dose := func(strike load.Strike) float64 {
		r := newRig(t, 37)
		_, err := r.a.AddRun(ctx, r.act, "", r.runner.ID, running.RunInput{On: day.Of(r.clock, r.act.Zone), Km: 8, Minutes: 47, Strike: strike})
		require.NoError(t, err)
		v, err := r.a.Load(ctx, r.act, r.runner.ID, 4)
		require.NoError(t, err)
		return v.Days[len(v.Days)-1].Dose["achilles-calf"]["running"]
	}
	rear, unknown, fore := dose(load.RearStrike), dose(load.UnknownStrike), dose(load.MidForeStrike)
	assert.Positive(t, rear)
	assert.Less(t, rear, unknown)
	assert.Less(t, unknown, fore)
}
