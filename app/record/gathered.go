package record

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"notchback/app"
	"notchback/app/input"
	"notchback/core/body"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/units"
	"notchback/core/words"
	"notchback/store"
)

// Gathered is what is known of a runner's running and days, for their pages.
type Gathered struct {
	Today    day.Date
	Runs     []load.Run
	Shoes    []string // shoe of each run
	Planned  map[day.Date]int
	Notes    map[day.Date]input.DayInput
	Mornings []store.Morning
	Intake   *int
}

func newGathered(rows *Rows, today day.Date) (*Gathered, error) {
	g := &Gathered{Today: today, Planned: map[day.Date]int{}, Notes: map[day.Date]input.DayInput{}, Mornings: rows.Mornings}
	for _, r := range rows.Runs {
		g.Runs, g.Shoes = append(g.Runs, CoreRun(r)), append(g.Shoes, r.Shoe)
	}
	for _, p := range rows.Planned {
		g.Planned[app.DateOf(p.Monday)] = p.Metres
	}
	for _, n := range rows.Notes {
		var in input.DayInput
		if err := json.Unmarshal(n.Body, &in); err != nil {
			return nil, fmt.Errorf("note of %s: %w", app.DateOf(n.On), err)
		}
		g.Notes[app.DateOf(n.On)] = in
	}
	if km := rows.Runner.WeeklyKm; km != nil {
		m := int(math.Round(*km * 1000))
		g.Intake = &m
	}
	return g, nil
}

func WorstOf(list []store.Morning, on day.Date, pick func(store.Morning) *int) *int {
	var out *int
	for _, m := range list {
		if v := pick(m); app.DateOf(m.On) == on && v != nil && (out == nil || *v > *out) {
			out = v
		}
	}
	return out
}

func FirstStepOf(m store.Morning) *int { return m.FirstStep }

func RestOf(m store.Morning) *int { return m.Rest }

// Advice is the running advice of today, by the usual reading that row 3 goes by.
func (k *Desk) Advice() load.Advice {
	in := load.AdviceInput{On: k.Today, Runs: k.G.Runs, Morning: k.G.morning, Flare: len(k.Book.Flares()) > 0}
	on := k.Today
	for _, r := range k.G.Runs {
		if r.On <= k.Today {
			on = r.On
		}
	}
	in.Usual = k.Book.Readings(course.FootTissues, body.Both).Baseline(on)
	for _, s := range k.Book.Flags() {
		if s.ClosesRunning() {
			in.Flags = append(in.Flags, string(s.Flag))
			if name := s.OwnName(); name != "" {
				if in.Own == nil {
					in.Own = map[string]string{}
				}
				in.Own[string(s.Flag)] = name
			}
		}
	}
	return load.Advise(in)
}

// coming is a week to come beside what the weeks before it carry.
type coming struct {
	load.Total
	Week load.WeekRatio
}

// NextWeek is what is planned to be run next week, or the mean where nothing is, and
// what is to be said of it before it begins.
func (k *Desk) NextWeek() (coming, string) {
	g := k.G
	this, next := g.Today.Monday(), g.Today.Monday()+7
	list := load.Before(g.Runs, this, g.Intake, k.Book.OutOfMeans)
	mean := 0
	for _, m := range list {
		mean += m / len(list)
	}
	var before []int
	if len(list) > 0 {
		run := k.Book.PlannedRest(g.Today)
		for _, t := range load.Weeks(g.Runs, this, g.Today) {
			run += t.Metres
		}
		if _, planned := g.Planned[this]; !planned {
			run = max(run, mean) // house: a week nobody planned goes on as usual
		}
		before = append(slices.Clone(list), run)
	}
	planned, ok := g.Planned[next]
	if !ok && k.F != nil && k.F.Plan.Wishes.WeeklyKm != nil {
		planned, ok = int(math.Round(*k.F.Plan.Wishes.WeeklyKm*1000)), true
	}
	if !ok {
		planned = mean // shown, and not warned about: nobody planned it
	}
	out := coming{load.Total{Monday: next, Metres: planned}, load.CompareWeek(planned, before)}
	if c := out.Week.Class; ok && (c == load.Spike || c == load.Rise) {
		return out, fmt.Sprintf("%s next week would be %s; up to %s is as usual.", units.Km(float64(planned), 1), words.Running(c), units.Km(float64(out.Week.SteadyTo), 1))
	}
	return out, ""
}
