package measure_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"notchback/core/measure"
	"notchback/devices/sidecam"
	"notchback/internal/book"
)

func spanLine(s *measure.Span) string {
	if s == nil {
		return "–"
	}
	return fmt.Sprintf("%.1f ± %.1f ms of %d", 1000*s.Seconds, 1000*s.Margin, s.N)
}

func gaitLine(g *measure.Gait) string {
	if g == nil {
		return "no gait"
	}
	l, r := g.ContactOf["left"], g.ContactOf["right"]
	diff := "–"
	if g.Difference != nil {
		diff = fmt.Sprintf("%.2f ± %.2f %%", *g.Difference, g.DiffMargin)
	}
	return fmt.Sprintf("%d steps, %.2f ± %.2f spm, contact %s (left %s, right %s), flight %s, duty %.3f, sides %s, frame %.1f, edge %.1f; %s",
		g.Steps, g.CadenceSpm, g.CadenceOff, spanLine(g.Contact), spanLine(&l), spanLine(&r), spanLine(g.Flight), g.Duty, diff, g.FrameMs, g.EdgeMs, strings.Join(g.Says, " "))
}

func writeRead(p *book.Page, got measure.TrackRead) {
	low, sum := 1.0, 0.0
	for _, q := range got.Quality {
		low, sum = min(low, q), sum+q
	}
	p.Line("  filled %d, swapped %d, quality %.3f and up, %.4g in all", got.Filled, got.Swapped, low, sum)
	var ev []string
	for _, e := range got.Events {
		ev = append(ev, fmt.Sprintf("%.1s%s %d %.0f±%.0f", e.Foot, map[string]string{"contact": "↓", "toe-off": "↑"}[e.Kind], e.Frame, 1000*e.At, 1000*e.Margin))
	}
	p.Line("  %s", strings.Join(ev, ", "))
	p.Line("  %s", gaitLine(got.Gait))
	for _, r := range got.Readings {
		p.Line("  %s %s %.2f ± %.2f %s of %d by %s, first %d %.2f", r.Measure, r.Foot, r.Value, r.Margin, r.Unit, r.N, r.By, r.PerStep[0].Frame, r.PerStep[0].Value)
	}
}

// What is read from tracks of drawn runners, exact and worse.
func TestTracksAsTheyAreRead(t *testing.T) {
	var p book.Page
	rng := rand.New(rand.NewPCG(4, 11))
	for _, d := range sidecam.Demos() {
		for _, rate := range []float64{30, 120, 240} {
			track, truth := exact(d.Runner, rate, 2.5)
			got, err := measure.ReadTrack(track, measure.ByMarkers)
			require.NoError(t, err)
			p.Line("%s at %g, exact", d.ID, rate)
			writeRead(&p, got)
			bad := worse(track, rng, 5, 2, 3)
			got, err = measure.ReadTrack(bad, measure.ByProposal)
			require.NoError(t, err)
			p.Line("%s at %g, noisy", d.ID, rate)
			writeRead(&p, got)
			if rate != 120 {
				continue
			}
			// Some contacts put by hand, with their points, and a stretch settled.
			placed := []measure.FootEvent{}
			hand := measure.Track{Times: bad.Times, Lanes: map[measure.Lane][]measure.Seen{}, UnitCm: bad.UnitCm, Near: "left"}
			for l, s := range bad.Lanes {
				hand.Lanes[l] = slices.Clone(s)
			}
			for _, e := range truth.Events[:min(8, len(truth.Events))] {
				k := int(e.Contact * rate)
				placed = append(placed, measure.FootEvent{Foot: e.Foot, Kind: "contact", At: e.Contact, Frame: k})
				for l := range hand.Lanes {
					if l.Foot == e.Foot && k < len(track.Times) {
						s := track.Lanes[l][k]
						s.Hand = true
						hand.Lanes[l][k] = s
					}
				}
			}
			got, err = measure.ReadProposal(bad, hand, placed, func(frame int) bool { return frame < 40 })
			require.NoError(t, err)
			p.Line("%s at %g, put right by hand", d.ID, rate)
			writeRead(&p, got)
		}
	}
	p.Stands(t, "tracks")
}

// What is read from points and from times, turned, scaled and mirrored.
func TestPicturesAndTimesAsTheyAreRead(t *testing.T) {
	var p book.Page
	at := map[measure.Place]measure.Point{}
	rng := rand.New(rand.NewPCG(9, 2))
	for _, m := range measure.Measures() {
		for _, place := range measure.Places(m) {
			if _, ok := at[place]; !ok {
				at[place] = measure.Point{X: 200 + 900*rng.Float64(), Y: 100 + 700*rng.Float64()}
			}
		}
	}
	floor, plumb, scale := measure.Line{{X: 0, Y: 700}, {X: 1000, Y: 740}}, measure.Line{{X: 500, Y: 20}, {X: 470, Y: 700}}, measure.Line{{X: 100, Y: 600}, {X: 700, Y: 610}}
	back := measure.Line{floor[1], floor[0]}
	for n, pic := range []measure.Picture{
		{}, {NoisePx: 3}, {Floor: &floor}, {Floor: &back}, {Plumb: &plumb}, {Plumb: &measure.Line{plumb[1], plumb[0]}},
		{Scale: &scale, ScaleCm: 100}, {Scale: &scale, ScaleCm: 50, Floor: &floor, RunsLeft: true}, {RunsLeft: true, Floor: &floor, Plumb: &plumb},
	} {
		list, err := pic.Read(at, 92)
		require.NoError(t, err)
		x, y := pic.Upright(measure.Point{X: 300, Y: 400})
		p.Line("picture %d: unit %.5g cm, upright %.3f %.3f", n, pic.UnitCm(), x, y)
		for _, r := range list {
			of := ""
			if r.PercentOf != nil {
				of = fmt.Sprintf(", %.3f %% of the leg", *r.PercentOf)
			}
			p.Line("  %s %.3f ± %.3f %s, shortest %.2f px%s", r.Measure, r.Value, r.Margin, r.Unit, r.ShortPx, of)
		}
	}
	same := measure.Line{{X: 5, Y: 5}, {X: 5, Y: 5}}
	for n, pic := range []measure.Picture{{NoisePx: -1}, {NoisePx: 50}, {NoisePx: 51}, {Floor: &same}, {Plumb: &same}, {Scale: &scale}, {Scale: &scale, ScaleCm: -2}} {
		p.Line("picture %d that can't be: %v", n, pic.Check())
	}
	for _, frame := range []float64{0, 1.0 / 240, 1.0 / 30, 1, 1.01} {
		for _, n := range []int{0, 1, 2, 5, 6, 9} {
			for _, contact := range []float64{0.25, 0.38} {
				var steps []measure.Step
				for i := range n {
					c := 0.36 * float64(i)
					o := c + contact + 0.004*float64(i%3)
					foot := []string{"left", "right"}[i%2]
					if n == 9 && i > 6 {
						foot = "left"
					}
					steps = append(steps, measure.Step{Foot: foot, Contact: c, ToeOff: &o})
				}
				g, err := measure.ReadGait(steps, frame)
				p.Line("%d steps of %g s at frames of %.4f: %v %s", n, contact, frame, err, gaitLine(&g))
			}
		}
	}
	step := func(foot string, c, o float64) measure.Step { return measure.Step{Foot: foot, Contact: c, ToeOff: &o} }
	for n, steps := range [][]measure.Step{
		{step("left", 0, 0.079)}, {step("left", 0, 0.08)}, {step("left", 0, 0.6)}, {step("left", 0, 0.601)}, {step("left", 1, 0.9)}, {step("left", 1, 1)}, {step("", 0, 0.2)},
		{step("left", 0, 0.3), step("left", 0.2, 0.5)}, {step("left", 0, 0.3), step("left", 0.7, 0.9)}, {{Foot: "left"}, {Foot: "right", Contact: 0.35}, {Foot: "left", Contact: 0.7}},
	} {
		g, err := measure.ReadGait(steps, 1.0/120)
		p.Line("steps %d: %v %s", n, err, gaitLine(&g))
	}
	for _, counts := range [][]int{{}, {0}, {1}, {42}, {41, 42, 43}, {40, 44, 48}, {29, 30}, {600}, {601}} {
		for _, w := range []float64{4.9, 5, 15, 60, 120, 121} {
			c, err := measure.CadenceFromCounts(counts, w)
			p.Line("%v in %g s: %.3f ± %.3f, sd %.3f, step %.3f of %d, sure %v, one foot %v %v", counts, w, c.MeanSpm, c.MarginSpm, c.SD, c.ResolutionSpm, c.N, c.Sure, c.OneFoot, err)
		}
	}
	for _, gaps := range [][]float64{{0.35}, {0.35, 0.35, 0.35, 0.35, 0.35, 0.35}, {0.9, 0.35, 0.34, 0.36, 0.35, 0.35, 0.35}, {0.3, 0.35, 0.7, 0.36, 0.17, 0.35, 0.35, 0.34}, {0.3, 0.35, 0.472, 0.35, 0.228, 0.35, 0.35, 0.35}, {0.3, 0.35, 0.35, 0, 0.35, 0.35, 0.35}, {0.5, 0.51, 0.5, 0.5, 0.5, 0.5, 0.5}} {
		times := []float64{1}
		for _, g := range gaps {
			times = append(times, times[len(times)-1]+g)
		}
		c, err := measure.CadenceFromTaps(times)
		p.Line("taps %v: %.3f ± %.3f, sd %.3f of %d, left out %d, sure %v, one foot %v %v", gaps, c.MeanSpm, c.MarginSpm, c.SD, c.N, c.LeftOut, c.Sure, c.OneFoot, err)
	}
	for _, x := range [][2]float64{{0, 5}, {2, 0}, {2, 5}, {5, 5}, {6, 5}, {-1, 5}} {
		a, errA := measure.ToeFromBlock(x[0], x[1], false)
		b, errB := measure.ToeFromBlock(x[0], x[1], true)
		p.Line("block %g over %g: %.4f %v; along the floor %.4f %v", x[0], x[1], a, errA, b, errB)
	}
	for _, x := range [][5]float64{{65, 0.9, 3, 0.25, 0.1}, {250, 1.5, 13, 0.1, 2}, {250.1, 0.9, 3, 0.25, 0.1}, {65, 1.51, 3, 0.25, 0.1}, {65, 0.9, 13.1, 0.1, 0.1}, {65, 0.9, 3, 0.0199, 0.1}, {65, 0.9, 3, 0.02, 0.1}, {65, 0.9, 0.5, 2, 0.1}, {65, 0.9, 0.5, 2.1, 0.1}, {65, 0.9, 3, 0.25, 0}, {65, 0.9, 3, 0.6, 0.1}, {65, 0.9, 3, 0.25, 2.1}, {0, 0.9, 3, 0.25, 0.1}, {65, 0, 3, 0.25, 0.1}, {65, 0.9, 0, 0.25, 0.1}} {
		s, err := measure.Spring(x[0], x[1], x[2], x[3], x[4])
		p.Line("spring %v: %.2f N %.4f bw, drop %.4f, leg %.4f cm, %.4f and %.4f kN/m, %.3f spm, duty %.4f %v", x, s.ForceN, s.BodyWeights, s.DropCm, s.LegCm, s.VerticalKNm, s.LegKNm, s.CadenceSpm, s.Duty, err)
	}
	p.Stands(t, "pictures")
}

// Axes of a laboratory, whichever way they point.
func TestAxesAsTheyAreTold(t *testing.T) {
	var p book.Page
	track, _ := exact(sidecam.Usual(), 60, 1)
	for _, axes := range [][3]int{{0, 1, 2}, {0, 2, 1}, {1, 0, 2}, {1, 2, 0}, {2, 0, 1}, {2, 1, 0}} {
		for _, sign := range [][3]float64{{1, 1, 1}, {-1, 1, 1}, {1, -1, 1}, {1, 1, -1}} {
			raw := map[measure.Lane][]measure.Raw{}
			for l, s := range track.Lanes {
				for i, q := range s {
					v := [3]float64{q.X, q.Y, q.Z}
					var r measure.Raw
					for k := range 3 {
						r.P[axes[k]] = sign[k] * v[k]
					}
					r.Known = i%7 != 3
					raw[l] = append(raw[l], r)
				}
			}
			got, err := measure.Orient(raw)
			require.NoError(t, err)
			s := got[measure.Lane{Foot: "right", Place: measure.Heel}][5]
			p.Line("axes %v signs %v: %.2f %.2f %.2f %v", axes, sign, s.X, s.Y, s.Z, s.Known)
		}
	}
	p.Stands(t, "axes")
}
