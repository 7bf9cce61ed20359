package clip

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"notchback/core/body"
	"notchback/core/measure"
	"notchback/core/stats"
)

// Proposal is what a body-landmark library proposed for a stretch of a clip.
type Proposal struct {
	From      int         `json:"from" minimum:"0" doc:"The first frame"`
	Model     string      `json:"model" maxLength:"80" doc:"Which library and weights"`
	Wide      float64     `json:"wide,omitempty" minimum:"0" maximum:"20000" doc:"How wide the picture is, px; 0 where it was not said"`
	High      float64     `json:"high,omitempty" minimum:"0" maximum:"20000" doc:"How high it is"`
	Elsewhere [][]float64 `json:"elsewhere,omitempty" maxItems:"3" doc:"Who is found in up to three frames where the body is taken away: points as in frames"`
	Frames    [][]float64 `json:"frames" nullable:"false" maxItems:"3600" doc:"By frame: x and y in px and trust 0 to 1 of each lane, in the order of lanes; empty where nobody was found"`
}

// Lanes is the order of a proposal's points: left shoulder, hip, knee, ankle, heel,
// toe, then the right side's.
var Lanes = func() []measure.Lane {
	var out []measure.Lane
	for _, foot := range []string{"left", "right"} {
		for _, p := range measure.TrackPlaces {
			out = append(out, measure.Lane{Foot: foot, Place: p})
		}
	}
	return out
}()

// Settings of proposals (house).
const (
	proposalMost  = 3600
	numbersEach   = 3
	elsewhereMost = 3
	carryTime     = 0.06 // s on either side of a correction
	jumpMost      = 0.35 // of the body's height from frame to frame: somebody else
	lookMost      = 8    // frames in the queue
	trustLeast    = 0.4  // mean of a frame's points
	stillMost     = 8    // frames; fewer are stills
	lookApart     = 5    // frames
	foundLeast    = 0.5  // of the frames; fewer and the clip is not read
	bandOfLowHz   = 25.0 // frames a second; below it events are too coarse to say much
)

// Check looks for what can't be a proposal.
func (p Proposal) Check() error {
	if p.From < 0 || len(p.Frames) == 0 || len(p.Frames) > proposalMost {
		return measure.ErrMark{Field: "frames", Words: fmt.Sprintf("%d frames; expected 1 to %d", len(p.Frames), proposalMost)}
	}
	if len(p.Elsewhere) > elsewhereMost {
		return measure.ErrMark{Field: "elsewhere", Words: fmt.Sprintf("%d frames; expected %d at most", len(p.Elsewhere), elsewhereMost)}
	}
	return cmp.Or(checkBodies("frames", p.Frames), checkBodies("elsewhere", p.Elsewhere))
}

func checkBodies(field string, bodies [][]float64) error {
	for i, f := range bodies {
		if len(f) != 0 && len(f) != numbersEach*len(Lanes) {
			return measure.ErrMark{Field: fmt.Sprintf("%s[%d]", field, i), Words: fmt.Sprintf("%d numbers; expected %d or none", len(f), numbersEach*len(Lanes))}
		}
		for k, v := range f {
			if math.IsNaN(v) || math.Abs(v) > 1e5 || k%numbersEach == 2 && (v < 0 || v > 1) {
				return measure.ErrMark{Field: fmt.Sprintf("%s[%d]", field, i), Words: "not a place in a picture"}
			}
		}
	}
	return nil
}

// Ask is a frame in which heel and toe are asked for.
type Ask struct {
	Frame int       `json:"frame"`
	Foot  body.Side `json:"foot" enum:"left,right"`
	What  string    `json:"what" enum:"contact,flat"`
	Done  bool      `json:"done"`
}

// ProposalRead is what a proposal gives with what a coach made of it.
type ProposalRead struct {
	TrackResult
	From   int               `json:"from"`
	Body   Body              `json:"body" enum:"whole,part,only legs,two people,nobody" doc:"What of a person was seen"`
	Doing  Doing             `json:"doing,omitempty" enum:"running,standing,seated,"`
	Sees   string            `json:"sees,omitempty" doc:"Why no angle or no step is read"`
	Found  int               `json:"found" doc:"Frames in which somebody was found"`
	Frames int               `json:"frames"`
	Points map[int][]float64 `json:"points" doc:"Of the frames asked for, corrected: as in a proposal"`
	Look   []int             `json:"look" nullable:"false" doc:"Frames to look at first, the least sure first"`
	Asks   []Ask             `json:"asks" nullable:"false" doc:"Heel and toe for the foot strike: three contacts and one flat sole a side"`
}

// ReadProposal reads a proposal with the fixes and events of the marks. times are
// the clip's presentation times; show are the frames whose points are wanted.
func (m Marks) ReadProposal(p Proposal, times []float64, r Runner, show Span) (ProposalRead, error) {
	out := ProposalRead{From: p.From, Frames: len(p.Frames), Points: map[int][]float64{}, Look: []int{}, Asks: []Ask{}}
	if err := p.Check(); err != nil {
		return out, err
	}
	at, frame, err := m.clock(times)
	if err != nil {
		if len(p.Frames) >= stillMost {
			return out, err
		}
		// A photo has no time; its points need none.
		frame = 1 / unknownRate
		at = func(f int) (float64, bool) { return float64(f) * frame, true }
	}
	t := measure.Track{Times: make([]float64, len(p.Frames)), Lanes: map[measure.Lane][]measure.Seen{}}
	for i := range t.Times {
		s, ok := at(p.From + i)
		if !ok {
			return out, measure.ErrMark{Field: "frames", Words: "the proposal goes on after the clip has ended"}
		}
		t.Times[i] = s
	}
	px, jumped := p.lanes(&out)
	out.Body, out.Doing, out.Sees = p.look(px, jumped)
	pic := m.Picture
	pic.RunsLeft = runsLeft(px)
	// Who runs to the right shows the right side, unless the picture is mirrored.
	near := map[bool]string{true: "left", false: "right"}[pic.RunsLeft]
	if m.View == Side && m.Near != "" && string(m.Near) != near {
		near, px = string(m.Near), exchanged(px)
		out.Says = append(out.Says, "The picture is mirrored: left and right were exchanged.")
	}
	was := map[measure.Lane][]measure.Seen{}
	for l, lane := range px {
		was[l] = slices.Clone(lane)
	}
	m.fix(px, p.From, t.Times)
	for i := max(show.From, p.From); i <= min(show.To, p.From+len(p.Frames)-1); i++ {
		out.Points[i] = numbers(px, i-p.From)
	}
	if len(p.Frames) < stillMost {
		out.TrackResult = Silent("A few frames give points, not steps. Take them into a moment.")
		return out, nil
	}
	if m.View == Side && out.Sees != "" {
		out.TrackResult = Silent(out.Sees)
		out.Says = out.Says[:0] // Sees says it
		return out, nil
	}
	t.UnitCm, t.Near = pic.UnitCm(), near
	t.Lanes = upright(pic, px)
	asProposed := t
	asProposed.Lanes = upright(pic, was)
	said, says := m.Picture.RunsLeft, out.Says
	m.Picture = pic
	if out.TrackResult, err = m.readProposed(asProposed, t, p.From, r); err != nil {
		return out, err
	}
	out.Says = append(append([]string{}, says...), out.Says...)
	if m.View == Side && said != pic.RunsLeft {
		out.Says = append(out.Says, "The toes point the other way than the picture says; the points were believed.")
	}
	switch {
	case float64(out.Found) < foundLeast*float64(len(p.Frames)):
		out.Says = append(out.Says, fmt.Sprintf("Somebody was found in %d of %d frames only: draw a box round the runner and propose again, or mark by hand.", out.Found, len(p.Frames)))
	case 1/frame < bandOfLowHz:
		out.Says = append(out.Says, fmt.Sprintf("%.0f frames a second are few: contact and flight are good to ± %.0f ms only.", 1/frame, 500*frame))
	}
	m.queue(&out, p.From)
	if m.View == Side {
		m.ask(&out, px, t.Times, p.From)
	}
	return out, nil
}

// lanes are a proposal's points by lane, in px, y down. A body that jumps is
// somebody else and is not believed.
func (p Proposal) lanes(out *ProposalRead) (px map[measure.Lane][]measure.Seen, jumped int) {
	px = map[measure.Lane][]measure.Seen{}
	for _, l := range Lanes {
		px[l] = make([]measure.Seen, len(p.Frames))
	}
	var last *[2]float64
	since := 0
	for i, f := range p.Frames {
		since++
		if len(f) == 0 {
			continue
		}
		if trustOf(f) < trustLeast {
			continue // a shape against the light
		}
		mid, tall := middleOf(f)
		if last != nil && tall > 0 && math.Hypot(mid[0]-last[0], mid[1]-last[1]) > jumpMost*tall*float64(since) {
			jumped++
			continue
		}
		last, since = &mid, 0
		out.Found++
		for k, l := range Lanes {
			px[l][i] = measure.Seen{X: f[numbersEach*k], Y: f[numbersEach*k+1], Known: true, Trust: f[numbersEach*k+2]}
		}
	}
	return px, jumped
}

// trustOf is the mean trust of a frame's points.
func trustOf(f []float64) float64 {
	sum := 0.0
	for k := range Lanes {
		sum += f[numbersEach*k+2] / float64(len(Lanes))
	}
	return sum
}

// middleOf is the middle of the hips and how far the body reaches from shoulder to
// heel, px.
func middleOf(f []float64) (mid [2]float64, tall float64) {
	lo, hi := math.Inf(1), math.Inf(-1)
	for k, l := range Lanes {
		x, y := f[numbersEach*k], f[numbersEach*k+1]
		if l.Place == measure.Hip {
			mid[0], mid[1] = mid[0]+x/2, mid[1]+y/2
		}
		lo, hi = min(lo, y), max(hi, y)
	}
	return mid, hi - lo
}

// fix puts corrected points where they belong and carries each correction to the
// frames around it, with a weight that falls to nothing within carryTime.
func (m Marks) fix(px map[measure.Lane][]measure.Seen, from int, times []float64) {
	type move struct {
		frame  int
		dx, dy float64
	}
	moves := map[measure.Lane][]move{}
	for _, f := range m.Fixes {
		l := measure.Lane{Foot: string(f.Foot), Place: f.Place}
		lane, i := px[l], f.Frame-from
		if lane == nil || i < 0 || i >= len(lane) {
			continue
		}
		if lane[i].Known && !lane[i].Hand {
			moves[l] = append(moves[l], move{i, f.At.X - lane[i].X, f.At.Y - lane[i].Y})
		}
		lane[i] = measure.Seen{X: f.At.X, Y: f.At.Y, Known: true, Trust: 1, Hand: true}
	}
	for l, list := range moves {
		lane := px[l]
		for i := range lane {
			if !lane[i].Known || lane[i].Hand {
				continue
			}
			w, dx, dy := 0.0, 0.0, 0.0
			for _, x := range list {
				if d := math.Abs(times[i] - times[x.frame]); d < carryTime {
					k := (1 + math.Cos(math.Pi*d/carryTime)) / 2
					w, dx, dy = w+k, dx+k*x.dx, dy+k*x.dy
				}
			}
			if w > 0 {
				lane[i].X, lane[i].Y = lane[i].X+dx/max(1, w), lane[i].Y+dy/max(1, w)
			}
		}
	}
}

// numbers are one frame's points as a proposal has them.
func numbers(px map[measure.Lane][]measure.Seen, i int) []float64 {
	out := make([]float64, 0, numbersEach*len(Lanes))
	for _, l := range Lanes {
		s := px[l][i]
		if !s.Known {
			return []float64{}
		}
		out = append(out, math.Round(s.X*10)/10, math.Round(s.Y*10)/10, s.Trust)
	}
	return out
}

// runsLeft sees from the toes which way somebody runs.
func runsLeft(px map[measure.Lane][]measure.Seen) bool {
	var d []float64
	for _, foot := range []string{"left", "right"} {
		heel, toe := px[measure.Lane{Foot: foot, Place: measure.Heel}], px[measure.Lane{Foot: foot, Place: measure.Toe}]
		for i := range heel {
			if heel[i].Known && toe[i].Known {
				d = append(d, toe[i].X-heel[i].X)
			}
		}
	}
	m, ok := stats.Median(d)
	return ok && m < 0
}

// upright brings points of a picture to forward and up.
func upright(pic measure.Picture, px map[measure.Lane][]measure.Seen) map[measure.Lane][]measure.Seen {
	out := map[measure.Lane][]measure.Seen{}
	for l, lane := range px {
		s := slices.Clone(lane)
		for i := range s {
			s[i].X, s[i].Y = pic.Upright(measure.Point{X: s[i].X, Y: s[i].Y})
		}
		out[l] = s
	}
	return out
}

// exchanged are lanes with left and right exchanged.
func exchanged(lanes map[measure.Lane][]measure.Seen) map[measure.Lane][]measure.Seen {
	out := map[measure.Lane][]measure.Seen{}
	for l, s := range lanes {
		l.Foot = map[string]string{"left": "right", "right": "left"}[l.Foot]
		out[l] = s
	}
	return out
}

// Silent is a result that says only why there is none.
func Silent(words string) TrackResult {
	return TrackResult{Mended: measure.Mended{Quality: []float64{}}, Events: []measure.FootEvent{}, Readings: []Judged{}, PerStep: [][]measure.StepValue{}, Times: []Judged{}, Says: []string{words}}
}

// readProposed reads the track. From behind, heels and toes of proposals are too far
// off for steps; then only what the coach places counts.
func (m Marks) readProposed(asProposed, t measure.Track, from int, r Runner) (TrackResult, error) {
	if m.View != Side {
		return Silent("From behind or in front, proposed points are not good enough to find steps or angles in. Mark the events by key and the moment by hand."), nil
	}
	var placed []measure.FootEvent
	for _, e := range m.Events {
		// An accepted event is a found one at the frame nearest to it: its time is that frame's.
		if i := e.Frame - from; i >= 0 && i < len(t.Times) {
			placed = append(placed, measure.FootEvent{Foot: string(e.Foot), Kind: e.Kind, At: t.Times[i], Frame: i})
		}
	}
	read, err := measure.ReadProposal(asProposed, t, placed, func(f int) bool { return m.accepted(from + f) })
	out, err := m.judgeTrack(read, err, measure.ByProposal, r)
	for i := range out.Events {
		out.Events[i].Frame += from
	}
	for i := range out.PerStep {
		for k := range out.PerStep[i] {
			out.PerStep[i][k].Frame += from
		}
	}
	m.sayOfTimes(&out)
	for i := range out.Readings {
		out.Readings[i].Accepted = m.allAccepted(out.PerStep[i])
	}
	return out, err
}

// sayOfTimes says of times whether all their steps were looked at.
func (m Marks) sayOfTimes(out *TrackResult) {
	if out.Gait == nil {
		return
	}
	seen := true
	for _, e := range out.Events {
		seen = seen && m.accepted(e.Frame)
	}
	for i := range out.Times {
		out.Times[i].Accepted = seen
	}
}

func (m Marks) accepted(frame int) bool {
	return slices.ContainsFunc(m.Accepted, func(s Span) bool { return s.From <= frame && frame <= s.To })
}

func (m Marks) allAccepted(list []measure.StepValue) bool {
	for _, s := range list {
		if !m.accepted(s.Frame) {
			return false
		}
	}
	return len(list) > 0
}

// queue lists the frames that are least sure and not looked at yet.
func (m Marks) queue(out *ProposalRead, from int) {
	order := make([]int, len(out.Quality))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(out.Quality[a], out.Quality[b]) })
	for _, i := range order {
		f := from + i
		near := slices.ContainsFunc(out.Look, func(x int) bool { return x-f < lookApart && f-x < lookApart })
		fixed := slices.ContainsFunc(m.Fixes, func(x Fix) bool { return x.Frame == f })
		if !near && !fixed && !m.accepted(f) {
			out.Look = append(out.Look, f)
		}
		if len(out.Look) == lookMost {
			return
		}
	}
}

// ask lists the clearest contacts of each side and one flat sole, for heel and toe.
func (m Marks) ask(out *ProposalRead, px map[measure.Lane][]measure.Seen, times []float64, from int) {
	if out.Gait == nil {
		return
	}
	frameAt := func(s float64) int {
		i, ok := slices.BinarySearch(times, s+1e-6)
		if !ok {
			i--
		}
		return max(0, min(len(times)-1, i))
	}
	for _, foot := range []body.Side{body.Left, body.Right} {
		heel, toe := px[measure.Lane{Foot: string(foot), Place: measure.Heel}], px[measure.Lane{Foot: string(foot), Place: measure.Toe}]
		type step struct{ contact, flat int }
		var list []step
		for _, s := range out.Gait.PerStep {
			if s.Foot == string(foot) && s.ToeOff != nil {
				list = append(list, step{frameAt(s.Contact), frameAt(s.Contact + 0.32*(*s.ToeOff-s.Contact))})
			}
		}
		trust := func(i int) float64 { return min(heel[i].Trust, toe[i].Trust) }
		slices.SortStableFunc(list, func(a, b step) int { return -cmp.Compare(trust(a.contact), trust(b.contact)) })
		list = list[:min(len(list), strikeSteps/2)]
		slices.SortFunc(list, func(a, b step) int { return cmp.Compare(a.contact, b.contact) })
		for i, s := range list {
			out.Asks = append(out.Asks, Ask{s.contact + from, foot, "contact", heel[s.contact].Hand && toe[s.contact].Hand})
			if i == 0 {
				out.Asks = append(out.Asks, Ask{s.flat + from, foot, "flat", heel[s.flat].Hand && toe[s.flat].Hand})
			}
		}
	}
	slices.SortFunc(out.Asks, func(a, b Ask) int { return cmp.Compare(a.Frame, b.Frame) })
}
