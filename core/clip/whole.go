package clip

import (
	"fmt"
	"math"
	"slices"

	"notchback/core/measure"
	"notchback/core/source"
	"notchback/core/stats"
)

// Body is what of a person a proposal saw.
type Body string

// The bodies. Only of a whole one angles and steps are read.
const (
	WholeBody Body = "whole"
	PartBody  Body = "part"       // the library drew a whole body over a part of one
	OnlyLegs  Body = "only legs"  // hips or shoulders lie outside the picture, or are squeezed into it
	TwoBodies Body = "two people" // the body jumps from place to place
	NoBody    Body = "nobody"
)

// Doing is what the person does.
type Doing string

// What a person can do in a clip.
const (
	Running  Doing = "running"
	Standing Doing = "standing"
	Seated   Doing = "seated"
)

// Settings of what is taken for one whole person: measured on drawn people whole and in
// parts (core/clip/testdata/parts; docs/rules.md, clips).
const (
	thighLeast, thighMost = 0.70, 1.45 // thigh over shank
	trunkLeast, trunkMost = 0.42, 0.88 // shoulder to hip over hip to ankle along the leg
	sidesMost             = 0.25       // how much a thigh or shank may differ from the other side's
	shakesMost            = 0.16       // half of the middle eight tenths of a length, share of it: bones keep theirs
	outsideMost           = 0.10       // share of points outside the picture
	trustMean             = 0.55       // of a clip's points
	jumpsMost             = 0.12       // share of frames in which the body is elsewhere
	travelLeast           = 0.35       // of the leg's length: how far a running foot goes under the hip
	seatedTilt            = 50.0       // ° from the vertical; thighs that lie so far all the time sit
	othersLeast           = 2          // of three frames in which somebody else was found as well
	otherSure             = 0.7        // mean trust of somebody else who counts
	otherTall             = 0.4        // how tall such a body is at least, share of the first
)

// BodySource tags them.
var BodySource = source.House("measured on drawn people, whole and in parts; says nothing certain about people")

// lengths of a body in one frame, px.
type lengths struct{ trunk, thighL, thighR, shankL, shankR float64 }

func between2(a, b measure.Seen) float64 { return math.Hypot(a.X-b.X, a.Y-b.Y) }

// look says what a proposal saw of whom. px are its points as they were proposed.
func (p Proposal) look(px map[measure.Lane][]measure.Seen, jumped int) (Body, Doing, string) {
	at := func(foot string, place measure.Place, i int) measure.Seen {
		return px[measure.Lane{Foot: foot, Place: place}][i]
	}
	var thigh, trunk, thighSides, shankSides, trust []float64
	var lens [5][]float64
	var tilt, reach []float64
	outside, points, found := 0, 0, 0
	for i := range p.Frames {
		if !at("left", measure.Hip, i).Known {
			continue
		}
		found++
		for _, l := range Lanes {
			s := px[l][i]
			points++
			if p.Wide > 0 && (s.X < -0.02*p.Wide || s.X > 1.02*p.Wide || s.Y < -0.02*p.High || s.Y > 1.02*p.High) {
				outside++
			}
			trust = append(trust, s.Trust)
		}
		hip, shoulder := half(at("left", measure.Hip, i), at("right", measure.Hip, i)), half(at("left", measure.Shoulder, i), at("right", measure.Shoulder, i))
		n := lengths{between2(hip, shoulder), between2(at("left", measure.Hip, i), at("left", measure.Knee, i)), between2(at("right", measure.Hip, i), at("right", measure.Knee, i)),
			between2(at("left", measure.Knee, i), at("left", measure.Ankle, i)), between2(at("right", measure.Knee, i), at("right", measure.Ankle, i))}
		for k, v := range []float64{n.trunk, n.thighL, n.thighR, n.shankL, n.shankR} {
			lens[k] = append(lens[k], v)
		}
		leg := (n.thighL + n.thighR + n.shankL + n.shankR) / 2
		if leg <= 0 || n.shankL <= 0 || n.shankR <= 0 || n.thighR <= 0 {
			continue
		}
		thigh = append(thigh, (n.thighL+n.thighR)/(n.shankL+n.shankR))
		trunk = append(trunk, n.trunk/leg)
		thighSides, shankSides = append(thighSides, n.thighL/n.thighR-1), append(shankSides, n.shankL/n.shankR-1)
		reach = append(reach, (at("left", measure.Ankle, i).X-hip.X)/leg, (at("right", measure.Ankle, i).X-hip.X)/leg)
		for _, foot := range []string{"left", "right"} {
			a, b := at(foot, measure.Hip, i), at(foot, measure.Knee, i)
			tilt = append(tilt, math.Abs(deg(math.Atan2(b.X-a.X, b.Y-a.Y))))
		}
	}
	if found == 0 || len(thigh) == 0 {
		return NoBody, "", "Nobody was found that the library is sure of: draw a box round the runner and propose again, or mark by hand."
	}
	mid := func(v []float64) float64 { m, _ := stats.Median(v); return m }
	doing := Running
	switch {
	case found >= stillMost && spread(reach) >= travelLeast:
	case mid(tilt) >= seatedTilt:
		doing = Seated
	default:
		doing = Standing
	}
	shakes := 0.0
	for _, v := range lens {
		if m := mid(v); m > 0 && len(v) >= stillMost {
			shakes = max(shakes, spread(v)/m/2)
		}
	}
	switch {
	case float64(outside) > outsideMost*float64(points), mid(trunk) < trunkLeast, mid(trunk) > trunkMost:
		return OnlyLegs, doing, "Only a part of a body is in the picture: the trunk does not fit the legs. Points can be taken one by one; no angle and no step is read from them."
	case p.others() >= othersLeast:
		return TwoBodies, doing, "Two people are in the picture, and nothing says which is meant. Draw a box round the runner and propose again."
	case float64(jumped) > jumpsMost*float64(jumped+found):
		return TwoBodies, doing, fmt.Sprintf("The body jumps from place to place in %d of %d frames: two people, most likely. Draw a box round the runner and propose again.", jumped, jumped+found)
	case mid(thigh) < thighLeast, mid(thigh) > thighMost, math.Abs(mid(thighSides)) > sidesMost, math.Abs(mid(shankSides)) > sidesMost, shakes > shakesMost, mid(trust) < trustMean:
		return PartBody, doing, "These points don't make one whole body: bones change their length or don't fit each other. Look whether something covers the runner; no angle and no step is read from them."
	}
	if doing != Running {
		return WholeBody, doing, "Nobody runs here. Take the points into a moment."
	}
	return WholeBody, doing, ""
}

// others is in how many frames somebody else was found who counts.
func (p Proposal) others() int {
	var tall []float64
	for _, f := range p.Frames {
		if len(f) > 0 {
			_, h := middleOf(f)
			tall = append(tall, h)
		}
	}
	first, _ := stats.Median(tall)
	n := 0
	for _, f := range p.Elsewhere {
		if len(f) == 0 {
			continue
		}
		if _, h := middleOf(f); trustOf(f) >= otherSure && h >= otherTall*first {
			n++
		}
	}
	return n
}

// half is the place half-way between two.
func half(a, b measure.Seen) measure.Seen {
	return measure.Seen{X: (a.X + b.X) / 2, Y: (a.Y + b.Y) / 2}
}

// spread is how far the middle eight tenths of some values lie apart.
func spread(v []float64) float64 {
	if len(v) == 0 {
		return 0
	}
	w := slices.Sorted(slices.Values(v))
	return w[(len(w)-1)*9/10] - w[(len(w)-1)/10]
}

func deg(rad float64) float64 { return rad * 180 / math.Pi }
