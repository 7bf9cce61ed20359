package screening

import (
	"cmp"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"notchback/core/body"
	"notchback/internal/book"
)

func (s SideSummary) line() string {
	num := func(v *float64) string {
		if v == nil {
			return "–"
		}
		return fmt.Sprintf("%.4g", *v)
	}
	out := fmt.Sprintf("%s ± %s (%s) of %d, kept %d, sd %s: %s, class %s, severity %d, %s", num(s.Value), num(s.Margin), s.Basis, s.N, s.Kept, num(s.SD), s.Verdict, s.Class, s.Severity, s.Confidence)
	if s.TakeMore {
		out += ", take one more"
	}
	if s.Disagree {
		out += ", disagree"
	}
	if s.Borderline {
		out += ", borderline"
	}
	if s.StoppedByPain {
		out += ", stopped"
	}
	if s.Label != "" {
		out += ", " + s.Label
	}
	if len(s.Seen) > 0 {
		out += ", seen " + strings.Join(s.Seen, " ")
	}
	if n := s.Norm; n != nil {
		out += fmt.Sprintf(", norm %v %g over %.4g of %d", n.Known, n.NormSeconds, n.MeanSeconds, n.Trials)
	}
	return out
}

// near are values of a test that stand beside everything it decides on.
func (t Test) near() []float64 {
	var out []float64
	add := func(v ...float64) {
		for _, x := range v {
			if t.Whole {
				x = float64(int(x))
			}
			if x >= t.Min && x <= t.Max && !slices.Contains(out, x) {
				out = append(out, x)
			}
		}
	}
	add(t.Min, t.Max, (t.Min+t.Max)/2)
	for _, o := range t.Options {
		add(o.Value)
	}
	if c := t.CutFor(age35); c != nil && len(t.Options) == 0 {
		for _, x := range []float64{c.OK, c.Watch} {
			step := 0.1
			if t.Whole {
				step = 1
			}
			add(x-step, x, x+step)
			if t.Noise != nil {
				m := 1.96 * t.Noise.SEM
				add(x-m-0.01, x-m+0.01, x+m-0.01, x+m+0.01)
			}
		}
	}
	slices.Sort(out)
	return out
}

// Every test at, under and over everything it decides on.
func TestEveryTestAtItsEdges(t *testing.T) {
	var p book.Page
	for _, x := range Tests() {
		p.Line("%s", x.ID)
		for _, v := range []float64{x.Min - 1, x.Min, x.Min + 0.5, x.Max, x.Max + 1} {
			p.Line("  %g: %v", v, x.Check(Trial{Value: &v}))
		}
		for _, v := range x.near() {
			for _, n := range []int{1, 3, 5} {
				if n > 1 && len(x.Options) > 0 || n == 3 && x.Noise == nil {
					continue
				}
				list := make([]Trial, n)
				for i := range list {
					w := v
					list[i] = Trial{Value: &w}
				}
				p.Line("  %.5g × %d: %s", v, n, Summarise(x, body.Left, list, age35).line())
			}
			if x.SideCut == nil && x.Noise == nil && !x.Symmetry && len(x.Options) == 0 || !x.Sided {
				continue
			}
			for _, w := range x.beside(v) {
				r := Reduce(x, trials(v), trials(w), age35)
				a := r.Asymmetry
				mdc, lsi, deg := "", "", ""
				if a.MDC95 != nil {
					mdc = fmt.Sprintf(", mdc %.4g", *a.MDC95)
				}
				if a.LSI != nil {
					lsi = fmt.Sprintf(", index %.4g", *a.LSI)
				}
				if a.Degrees != nil {
					deg = fmt.Sprintf(", %.4g°", *a.Degrees)
				}
				later := CompareDates(x, r.Left, r.Right)
				p.Line("  %.5g and %.5g: by %.4g%s%s%s clear %v weaker %q class %q; in time %s by %.4g", v, w, a.Difference, mdc, lsi, deg, a.Clear, a.Weaker, a.Class, later.Change, later.By)
			}
		}
		// Struck out, hurt, stopped.
		v := (x.Min + x.Max) / 2
		if x.Whole || len(x.Options) > 0 {
			v = x.near()[0]
		}
		for _, c := range x.Compensations {
			p.Line("  with %s: %s", c.ID, Summarise(x, body.Left, []Trial{{Value: &v, Compensations: []string{c.ID}}, {Value: &v}}, age35).line())
		}
		var all []string
		for _, c := range x.Compensations {
			if !c.Invalid {
				all = append(all, c.ID)
			}
			if len(all) > 0 && len(x.Checks) > 0 {
				p.Line("  with %d faults: %s", len(all), Summarise(x, body.Left, []Trial{{Value: &v, Compensations: all}}, age35).line())
			}
		}
		for _, pain := range []body.Pain{3, 4, 5, 6} {
			for _, bone := range []bool{false, true} {
				tr := Trial{Value: &v, Pain: &pain, BoneZone: bone}
				p.Line("  pain %d, bone %v: %s", pain, bone, Summarise(x, body.Left, []Trial{tr, {Value: ptr(x.Max)}}, age35).line())
				if pain > 5 {
					p.Line("  alone: %s", Summarise(x, body.Left, []Trial{tr}, age35).line())
				}
			}
		}
		// A spread of trials.
		if !x.Whole && len(x.Options) == 0 {
			for _, by := range []float64{0.5, 2, 8} {
				low, high := max(x.Min, v-by), min(x.Max, v+by)
				p.Line("  spread %g: %s", by, Summarise(x, body.Left, trials(low, v, high), age35).line())
			}
		}
	}
	raise, _ := Find(SingleRaise)
	stance, _ := Find(StanceOpen)
	for _, years := range []int{0, 17, 18, 39, 40, 49, 50, 59, 60, 69, 70, 79, 80, 99, 100} {
		age := Age{Years: years, Known: years > 0}
		c := raise.CutFor(age)
		open, knownOpen := StanceMean(age, true)
		closed, _ := StanceMean(age, false)
		p.Line("age %d: raises ok from %g, watch from %g; stance %g and %g, known %v; %s", years, c.OK, c.Watch, open, closed, knownOpen, Summarise(stance, body.Left, trials(50, 40, 45, 60), age).line())
	}
	p.Stands(t, "tests")
}

// beside are values of the other side, a hair from every difference that counts.
func (t Test) beside(v float64) []float64 {
	var out []float64
	add := func(w float64) {
		if t.Whole {
			w = float64(int(w))
		}
		if w >= t.Min && w <= t.Max && !slices.Contains(out, w) {
			out = append(out, w)
		}
	}
	if len(t.Options) > 0 {
		for _, o := range t.Options {
			add(o.Value)
		}
		return out
	}
	add(v)
	if t.Noise != nil {
		m := 1.96 * 1.4142135623730951 * t.Noise.SEM
		add(v + m - 0.01)
		add(v + m + 0.01)
		add(v - m - 0.01)
	}
	if t.Symmetry {
		for _, s := range []float64{0.9, 0.899, 0.8, 0.799, 0} {
			add(v * s)
		}
	}
	if c := t.SideCut; c != nil && !c.Percent {
		add(v + c.Watch)
		add(v + c.Watch - 0.01)
		if c.Limited > 0 {
			add(v - c.Limited)
			add(v - c.Limited + 0.01)
		}
	} else if c != nil {
		add(v * (1 - c.Watch/100))
		add(v * (1 - (c.Watch-0.1)/100))
	}
	add(v * 1.1)
	add(v*1.1 + 0.01)
	return out
}

// What is found in screenings drawn at random.
func TestFindingsOfDrawnScreenings(t *testing.T) {
	var p book.Page
	for seed := range 35 {
		r := rand.New(rand.NewPCG(uint64(seed), 20))
		var in Input
		for _, x := range Tests() {
			if r.IntN(5) < 2 {
				continue
			}
			draw := func() []Trial {
				near := x.near()
				v := near[r.IntN(len(near))]
				tr := Trial{Value: &v}
				if len(x.Compensations) > 0 && r.IntN(3) == 0 {
					if c := x.Compensations[r.IntN(len(x.Compensations))]; !c.Invalid {
						tr.Compensations = []string{c.ID}
					}
				}
				return []Trial{tr, tr, tr}
			}
			in.Results = append(in.Results, Reduce(x, draw(), draw(), age35))
		}
		for range r.IntN(3) {
			z := Zones[r.IntN(len(Zones))]
			worst := r.IntN(9)
			c := Complaint{Zone: z.ID, Side: body.Sides[r.IntN(2)]}
			if r.IntN(3) > 0 {
				c.Worst = &worst
			}
			if r.IntN(2) == 0 {
				c.FirstSteps = ptr(r.IntN(6))
			}
			in.Complaints = append(in.Complaints, c)
		}
		in.LoadSpike = r.IntN(4) == 0
		if r.IntN(4) == 0 {
			in.OuterAnkleHistory = []body.Side{body.Left}
		}
		found := Findings(in)
		if seed%3 == 0 && len(found) > 4 {
			in.Choices = []Choice{{Key: found[4].Key(), Move: "promote", Reason: "seen on the hill"}, {Key: found[0].Key(), Move: "demote", Reason: "old news"}}
			found = Findings(in)
		}
		p.Line("%d: spike %v, %d complaints, old ankle %d", seed, in.LoadSpike, len(in.Complaints), len(in.OuterAnkleHistory))
		for _, f := range found {
			var ev []string
			for _, e := range f.Evidence {
				ev = append(ev, fmt.Sprintf("%s %s %s", cmp.Or(string(e.Test), e.Name), e.Side, e.Verdict))
			}
			p.Line("  %s %s %d %s = %d × %d × %d, worked %v %s%s: %s", f.Factor, f.Side, f.Severity, f.Confidence, f.Priority.Severity, f.Priority.Relevance, f.Priority.Lever, f.WorkedOn, f.Waits, f.Moved, strings.Join(ev, ", "))
		}
	}
	p.Stands(t, "findings")
}

// Complaints, classes and norms beside their limits.
func TestComplaintsAndClasses(t *testing.T) {
	var p book.Page
	for _, z := range Zones {
		for _, first := range []*body.Pain{nil, ptr(0), ptr(2), ptr(3), ptr(4)} {
			for _, when := range [][]string{nil, {"running"}, {"first steps"}, {"at rest"}, {"night"}} {
				c := Complaint{Zone: z.ID, Side: body.Left, FirstSteps: first, When: when}
				said := "not said"
				if first != nil {
					said = fmt.Sprint(*first)
				}
				if first == nil || when == nil || z.ID == "heel" {
					p.Line("%s, first steps %s, %v: %s, asks bone %v, %s, tissues %v", z.ID, said, when, c.Pattern(), c.AsksBone(), z.ID.Name(), z.ID.Tissues())
				}
			}
		}
		list := []Complaint{{Zone: z.ID, Side: body.Left}}
		p.Line("%s in bone: left %v, right %v, both %v", z.ID, HurtsInBone(list, body.Left), HurtsInBone(list, body.Right), HurtsInBone(list, body.Both))
	}
	for _, v := range []int{-12, -5, -4, -1, 0, 5, 6, 9, 10, 12} {
		p.Line("posture %d: %s", v, PostureClass(v))
	}
	for _, v := range []float64{-1.7, -1.6, 0, 8, 8.1} {
		p.Line("strike %g: %s", v, StrikeClass(v))
	}
	for _, v := range []float64{159.9, 160, 169.9, 170, 190, 190.1} {
		verdict, words := CadenceInRange(v)
		p.Line("cadence %g: %s %s", v, verdict, words)
	}
	for _, leg := range []float64{39.9, 40, 90, 130, 130.1} {
		r, ok := ReachComposite(body.Left, [4]float64{60, 70, 80, 90}, leg)
		p.Line("reach over %g cm: %v %.4g %.4g", leg, ok, r.CompositePercent, r.PercentOfLeg)
	}
	for _, ab := range [][2]float64{{0, 0}, {0, 5}, {5, 0}, {9, 10}, {10, 10}, {-1, -2}} {
		v, ok := LSI(ab[0], ab[1])
		p.Line("index of %g and %g: %g %v", ab[0], ab[1], v, ok)
	}
	for _, n := range []int{9, 10, 11} {
		for _, runners := range []int{2, 3} {
			var pairs []Pair
			for i := range n {
				pairs = append(pairs, Pair{fmt.Sprint(i % runners), float64(i), float64(i) + float64(i%3)})
			}
			sem, ok := CoachNoise(pairs)
			p.Line("%d pairs of %d runners: %.4g %v", n, runners, sem, ok)
		}
	}
	one, two := 1, 2
	zero := 0
	crossing, _ := Find(Crossing)
	for _, x := range []struct{ count, of *int }{{&one, &two}, {&two, &two}, {&two, &one}, {&one, nil}, {nil, &one}, {&zero, &zero}} {
		p.Line("crossing %v of %v: %v", deref(x.count), deref(x.of), crossing.Check(Trial{Value: ptr(50.0), Count: x.count, Of: x.of}))
	}
	for _, ticks := range [][2]int{{0, 60}, {1, 60}, {6, 60}, {20, 60}, {30, 60}, {1, 4}} {
		v := 100 * float64(ticks[0]) / float64(ticks[1])
		p.Line("crossing %v: %s", ticks, Summarise(crossing, body.Both, []Trial{{Value: &v, Count: &ticks[0], Of: &ticks[1]}}, age35).line())
	}
	cadence, _ := Find(CadenceTest)
	for _, res := range []*float64{nil, ptr(2.0), ptr(6.0)} {
		for _, list := range [][]float64{{168}, {168, 168, 168}, {164, 168, 176}} {
			var tr []Trial
			for _, v := range list {
				tr = append(tr, Trial{Value: ptr(v), Resolution: res})
			}
			p.Line("cadence %v: %s", list, Summarise(cadence, body.Both, tr, age35).line())
		}
	}
	for _, pain := range []int{-1, 0, 10, 11} {
		p.Line("pain %d: %v", pain, cadence.Check(Trial{Value: ptr(168.0), Pain: &pain}))
	}
	p.Stands(t, "classes")
}

func deref(v *int) any {
	if v == nil {
		return "none"
	}
	return *v
}
