package planning

import (
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/internal/book"
)

// factorsKnown are the factors a remedy or a rule speaks of.
func factorsKnown() []screening.Factor {
	var out []screening.Factor
	for _, r := range data().remedies {
		out = append(out, screening.Factor(r.Finding))
	}
	return append(out, "asymmetry", "load-spike", "limited-split-hold")
}

func coin(r *rand.Rand, n int) bool { return r.IntN(n) == 0 }

// drawnEvidence is somebody drawn at random: age, readings, complaints, flags, gates,
// what stands and what was left out, and the week they have.
func drawnEvidence(t *testing.T, r *rand.Rand) (catalogue.Catalogue, Evidence, Wishes) {
	c, e, w := grown(t)
	known := factorsKnown()
	var fs []screening.Factor
	for range r.IntN(4) {
		fs = append(fs, known[r.IntN(len(known))])
	}
	e.Findings = worked(fs...)
	for i := range e.Findings {
		e.Findings[i].Severity, e.Findings[i].Side = 1+r.IntN(3), body.Sides[r.IntN(2)]
	}
	years := []int{10, 13, 15, 16, 17, 18, 35, 35, 62, 70}[r.IntN(10)]
	birth := day.Make(2027-years, time.January, 1)
	e.Person = body.Person{Birth: &birth, FirstStructuredWork: ptr(coin(r, 2)), RecentVolumeRise: ptr(coin(r, 3))}
	if coin(r, 10) {
		e.Person = body.Person{}
	}
	n := float64(4 + r.IntN(24))
	walk := float64(r.IntN(5))
	e.Results = []screening.Result{
		result(screening.SingleRaise, n, n+float64(r.IntN(5)), body.Pain(r.IntN(5))), result(screening.HeelWalk, walk, 0, 0), result(screening.ToeWalk, 0, walk, 0),
		result(screening.ToeBig, float64(r.IntN(4)), 3, 0), result(screening.ToeSmall, 3, float64(r.IntN(4)), 0), result(screening.StanceOpen, float64(10+r.IntN(35)), 40, 0),
		result(screening.KneeToWall, float64(4+r.IntN(9)), 9, 0), result(screening.BallHold, float64(10+r.IntN(40)), 35, 0), result(screening.Arch, float64(r.IntN(3)), 1, 0), result(screening.ShortFoot, float64(r.IntN(3)), 2, 0),
	}
	for range r.IntN(3) {
		z := screening.Zones[r.IntN(len(screening.Zones))]
		k := complaint(z.ID, r.IntN(7), r.IntN(8))
		e.Complaints = append(e.Complaints, k)
	}
	if coin(r, 3) {
		e.Gates = safety.Gates(safety.Evidence{On: today, Age: screening.Age{Years: years, Known: true}, Visits: []safety.Dated{{On: today, Results: e.Results}}})
	}
	if coin(r, 4) {
		rows := safety.Entries()
		x := rows[r.IntN(len(rows))]
		e.Flags = append(e.Flags, x.Raised(today-3, body.Sides[r.IntN(2)]))
		e.Gates = safety.Gates(safety.Evidence{On: today, Age: screening.Age{Years: years, Known: true}, Flags: e.Flags, Visits: []safety.Dated{{On: today, Results: e.Results}}})
	}
	for d := range day.Date(21) {
		if coin(r, 4) {
			continue
		}
		e.Mornings = append(e.Mornings, Reading{today - 21 + d, body.Pain(r.IntN(5))})
	}
	if coin(r, 5) {
		e.Setbacks = []Setback{{On: today - day.Date(r.IntN(30)), Row: 2 + r.IntN(2), Tissues: []body.Tissue{body.Achilles}}}
	}
	if coin(r, 5) {
		e.Flares = []Flare{{Side: body.Left, Tissues: []body.Tissue{body.Sole}, Quiet: coin(r, 2), Since: today - 4}}
	}
	e.NoDayOff, e.Growing = years < 18 && coin(r, 2), years < 18 && coin(r, 2)
	e.Baseline = float64(r.IntN(4))
	e.Since = today - day.Date(r.IntN(80))
	e.Standing, e.Proven = map[string]int{}, map[string]int{}
	for range r.IntN(6) {
		l := c.Ladders[r.IntN(len(c.Ladders))]
		e.Standing[l.ID], e.Proven[l.ID] = 1+r.IntN(l.Len()), 1+r.IntN(l.Len())
	}
	if coin(r, 4) {
		e.Stopped = []string{c.Ladders[r.IntN(len(c.Ladders))].ID}
	}
	e.Spring = r.IntN(8)
	if coin(r, 2) {
		e.FourWeeks = []int{30000, 32000, 28000, 30000 + 1000*r.IntN(10)}
	}
	e.Wish = []Wish{"", "home", "walk", "minimal", "bare"}[r.IntN(5)]
	e.Ramp = coin(r, 3)
	for _, q := range Questions() {
		if coin(r, 3) {
			if e.School == nil {
				e.School = School{}
			}
			e.School[q.ID] = q.Positions[r.IntN(len(q.Positions))].ID
		}
	}
	e.Evenings = !coin(r, 3)
	if coin(r, 3) {
		e.Excluded = []Excluded{{Ladder: c.Ladders[r.IntN(len(c.Ladders))].ID, Reason: "disliked", On: today - day.Date(r.IntN(60))}, {Ladder: "calf-straight", Reason: "later", On: today - 28}}
	}
	if coin(r, 3) {
		e.Added = []string{c.Ladders[r.IntN(len(c.Ladders))].ID}
	}
	for d := range 7 {
		w.Runs[d] = []RunKind{NoRun, NoRun, Easy, Easy, Long, Fast}[r.IntN(6)]
		w.Minutes[d] = []int{0, 5, 15, 30, 45, 60}[r.IntN(6)]
		w.Prefer[d], w.Avoid[d] = coin(r, 5), coin(r, 5)
	}
	if coin(r, 2) {
		h := 5 + r.IntN(17)
		w.RunHour = &h
	}
	w.Sessions, w.Micro, w.Evenings, w.Weeks = 1+r.IntN(5), coin(r, 2), e.Evenings, 3+r.IntN(11)
	if coin(r, 3) {
		w.Race = &Race{On: today + day.Date(r.IntN(60)-5), Km: []float64{10, 20.9, 21, 42}[r.IntN(4)]}
	}
	if coin(r, 2) {
		km := float64(15 + r.IntN(40))
		w.WeeklyKm = &km
	}
	if coin(r, 2) {
		w.Owned = w.Owned[:r.IntN(len(w.Owned))]
	}
	w.School, w.Wish, w.Added, w.Excluded, e.Owned = e.School, e.Wish, e.Added, e.Excluded, w.Owned
	return c, e, w
}

func locksOf(list []Lock) string {
	var out []string
	for _, l := range list {
		out = append(out, strings.TrimSpace(fmt.Sprintf("%s from %d %s%s%s", l.Kind, l.Notch, l.Gate, l.Flag, l.Kit)))
	}
	return strings.Join(out, ", ")
}

func reasonsOf(s Start) string {
	var out []string
	for _, r := range s.Reasons {
		v := ""
		if r.Value != nil {
			v = fmt.Sprintf(" %g", *r.Value)
		}
		out = append(out, fmt.Sprintf("%s%s %s%s%s", r.Rule, v, r.Side, r.Gate, r.Class))
	}
	return strings.Join(out, ", ")
}

func writePlan(p *book.Page, x Proposal) {
	for _, r := range x.Phases {
		p.Line("  %s: %s, %s; on: %s", r.Region, r.Phase, r.Why, r.On)
	}
	for _, c := range x.Choices {
		p.Line("  + %s %s %s for %v, notch %d of %d extra %q (%s), from week %d, locks %s, swaps %v %s %v", c.Ladder, c.Role, c.Place, c.For, c.Start.Notch, c.Ceiling, c.Start.ExtraSetSide, reasonsOf(c.Start), c.FromWeek, locksOf(c.Locks), c.Swaps, c.Instead, c.Notes)
	}
	for _, l := range x.Left {
		p.Line("  – %s for %s: %s, later %v", l.Ladder, l.For, l.Why, l.Later)
	}
	p.Line("  fits %v: main %v %v, micro %v of %.0f s, cost %.3f", x.Fits, x.Layout.Main, x.Layout.MainWhy, x.Layout.Micro, x.Layout.MicroSeconds, x.Layout.Cost)
	for _, y := range x.Layout.Places {
		p.Line("  %s on %v %v, blocked %v", y.Ladder, y.Days, y.Why, y.Blocked)
	}
	for _, r := range x.Relax {
		raw, _ := json.Marshal(r)
		p.Line("  way out %s", raw)
	}
	for d, list := range x.Days {
		for _, s := range list {
			p.Line("  %s %s %v %.0f s %s", weekdays[d], s.Kind, s.Ladders, s.Seconds, s.When)
		}
	}
	for _, k := range x.Weeks {
		p.Line("  week %+d %s, tests %v all %v on %+d, running %s %.0f", int(k.Monday-x.Start), k.Kind, k.Retest, k.All, int(k.On-x.Start), k.Running.Class, k.Running.MeanMetres)
	}
	for _, k := range x.Paths {
		last := k.Weeks[len(k.Weeks)-1]
		p.Line("  path %s %v … %v %s", k.Ladder, k.Weeks[0], last, k.Stops)
	}
	p.Line("  five minutes %v; %d of %d min a week; injured %v; offer %v; %s", x.Minimum, x.Minutes.Planned, x.Minutes.Available, x.Injured, x.Offer, strings.Join(x.Says, " "))
	for _, r := range x.Remarks {
		p.Line("  remark %s %v %s %g %g %d", r.ID, r.Days, r.Text, r.Km, r.Limit, r.Weeks)
	}
}

// Plans of people drawn at random, and what changes from one to the next.
func TestPlansOfDrawnPeople(t *testing.T) {
	var p book.Page
	var before Proposal
	for seed := range 36 {
		c, e, w := drawnEvidence(t, rand.New(rand.NewPCG(uint64(seed), 31)))
		x := Plan(c, e, w)
		p.Line("%d", seed)
		writePlan(&p, x)
		if seed%3 == 0 {
			before = x
			continue
		}
		for i, d := range Compare(before, x) {
			if i < 6 {
				p.Line("  against the one before: %s %s %s → %s %s", d.Kind, d.Ladder, d.From, d.To, d.Why)
			}
		}
	}
	p.Stands(t, "plans")
}

// What each ladder is allowed at each notch, for people drawn at random.
func TestPermissionsOfDrawnPeople(t *testing.T) {
	var p book.Page
	for seed := range 20 {
		c, e, _ := drawnEvidence(t, rand.New(rand.NewPCG(uint64(seed), 57)))
		ps := Phases(e)
		said := map[string][]string{}
		for _, l := range c.Ladders {
			for _, side := range []body.Side{body.Left, body.Right} {
				for at := 1; at <= l.Len(); at++ {
					m := e.May(l, at, side, ps)
					if m.State == "open" {
						continue
					}
					var limits []string
					for _, x := range m.Limits {
						limits = append(limits, fmt.Sprintf("%s third %v", x.Words, x.Third))
					}
					k := fmt.Sprintf("%s: %s; %s", m.State, locksOf(m.Why), strings.Join(limits, ", "))
					said[k] = append(said[k], fmt.Sprintf("%s %.1s%d", l.ID, side, at))
				}
			}
		}
		p.Line("%d: %d complaints, %d flags, %d flares", seed, len(e.Complaints), len(e.Flags), len(e.Flares))
		for _, k := range slices.Sorted(maps.Keys(said)) {
			list := said[k]
			more := ""
			if len(list) > 8 {
				more = fmt.Sprintf(" and %d more to %s", len(list)-8, list[len(list)-1])
				list = list[:8]
			}
			p.Line("  %s: %s%s", k, strings.Join(list, ", "), more)
		}
	}
	p.Stands(t, "permissions")
}

// Where every ladder starts by what its test read, and what the rhythm makes of a dose.
func TestStartsAndRhythms(t *testing.T) {
	var p book.Page
	c := builtIn(t)
	for _, l := range c.Ladders {
		last := ""
		for n := range 40 {
			v := float64(n)
			var all []screening.Result
			for _, x := range screening.Tests() {
				if v <= x.Max && v >= x.Min {
					all = append(all, result(x.ID, v, v+float64(n%3), body.Pain(n%5)))
				}
			}
			s := StartingNotch(l, StartEvidence{On: today, Results: all, Person: body.Person{FirstStructuredWork: ptr(n%2 == 0), RecentVolumeRise: ptr(n%7 == 0)}}, 1+n%l.Len())
			line := fmt.Sprintf("notch %d extra %q: %s", s.Notch, s.ExtraSetSide, reasonsOf(s))
			if line != last && n < 30 {
				p.Line("%s at %d, ceiling %d: %s", l.ID, n, 1+n%l.Len(), line)
			}
			last = line
		}
	}
	for sets := range 8 {
		p.Line("%d sets lighter: %d", sets, DeloadSets(sets))
	}
	for _, id := range []string{"calf-straight", "spring-pogo", "range-toe", "exposure-home", "balance-stand"} {
		l := ladder(t, id)
		for n := range l.Len() {
			for _, weeks := range []int{3, 4} {
				d, cut := CapSpring(l.At(n+1), weeks)
				p.Line("%s %d in week %d: %+v cut %v", id, n+1, weeks, short(d), cut)
			}
			d := l.At(n + 1).Dose
			p.Line("%s %d: lighter %v, half %v, in a race week %v, half week %v", id, n+1, short(Deload(d)), short(Half(d)), short(DoseIn(d, RaceWeek)), short(DoseIn(d, HalfWeek)))
		}
	}
	pogo, calf := ladder(t, "spring-pogo"), ladder(t, "calf-straight")
	monday := today.Monday()
	for _, start := range []day.Date{monday, monday + 1, monday + 6} {
		for _, race := range []*Race{nil, {On: monday + 16, Km: 20.9}, {On: monday + 16, Km: 21}, {On: monday + 20, Km: 42}} {
			var kinds, spring, heavy []string
			for i := range day.Date(10) {
				kinds = append(kinds, string(KindOf(start, race, monday+7*i)))
			}
			for d := monday; d < monday+24; d++ {
				if OffFor(race, pogo.At(2), d) {
					spring = append(spring, fmt.Sprintf("%d", int(d-monday)))
				}
				if OffFor(race, calf.At(calf.Len()), d) {
					heavy = append(heavy, fmt.Sprintf("%d", int(d-monday)))
				}
			}
			p.Line("from %d, race %v: %v; no spring on %v, nothing heavy on %v", int(start-monday), race != nil, kinds, spring, heavy)
		}
	}
	for _, gap := range []day.Date{6, 7, 27, 28, 29} {
		for _, n := range []int{0, 1, 3, 6} {
			var done []day.Date
			for i := range n {
				done = append(done, today-1-gap*day.Date(i))
			}
			p.Line("spring %d times every %d days: %d weeks", n, gap, SpringWeeks(done, today))
		}
	}
	for _, id := range []load.AdviceID{load.AsPlanned, load.Easier, load.SkipNext, load.NoRunning, load.NotKnown} {
		for _, emergency := range []bool{false, true} {
			for _, kind := range []RunKind{NoRun, Easy, Long, Fast} {
				for _, noFast := range []bool{false, true} {
					on := today
					w := Week{}
					for d := range 7 {
						w.Runs[d] = kind
					}
					k, less := w.RunOn(on, today, load.Advice{ID: id, NoFast: noFast}, nil, emergency, WayToRun{})
					p.Line("%s, %q planned, no fast %v, emergency %v: %q %v", id, kind, noFast, emergency, k, less)
				}
			}
		}
	}
	p.Stands(t, "starts")
}

// short is a dose without what is nought.
func short(d catalogue.Dose) string {
	raw, _ := json.Marshal(d)
	return string(raw)
}
