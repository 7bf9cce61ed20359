package figure

import (
	"fmt"
	"math"
	"slices"
)

// scene is a picture being made, in units before it is fitted into its box.
type scene struct {
	parts   []Part
	joints  map[string]Point
	ground  float64
	anchor  string            // the joint that keeps its place in a movement
	stands  map[string]Point  // the lowest point of each foot that stands
	fixed   map[string][]Part // things that keep the place they had at the start
	seated  bool
	pressed []Point // toes seen from above that push down
}

func (s *scene) add(k Kind, part string, at Point, turn float64) { s.put(k, part, at, turn, 1, 1) }

func (s *scene) put(k Kind, part string, at Point, turn, wide, high float64) {
	s.parts = append(s.parts, Part{Kind: k, Part: part, X: at[0], Y: at[1], Turn: turn, Wide: wide, High: high})
}

// line draws a line of a kind between two points.
func (s *scene) line(k Kind, part string, from, to Point) {
	dx, dy := to[0]-from[0], to[1]-from[1]
	s.put(k, part, from, math.Atan2(dy, dx)/degree, math.Hypot(dx, dy), 1)
}

// way returns a step of the given length at an angle from straight down, forward
// positive.
func way(from Point, angle, length float64) Point {
	return Point{from[0] + length*math.Sin(angle*degree), from[1] + length*math.Cos(angle*degree)}
}

// along returns the place of x, y in a frame that lies at a point, turned clockwise.
func along(at Point, turn, x, y float64) Point {
	sin, cos := math.Sincos(turn * degree)
	return Point{at[0] + x*cos - y*sin, at[1] + x*sin + y*cos}
}

func distance(a, b Point) float64 { return math.Hypot(b[0]-a[0], b[1]-a[1]) }

// two bends a limb of two parts so that it ends at a point: the angles of both from
// straight down. bend is +1 where the joint between points forward, −1 for backward.
func two(from, to Point, first, second, bend float64) (a, b float64, ok bool) {
	d := distance(from, to)
	if d > first+second {
		return 0, 0, false
	}
	d = max(d, math.Abs(first-second)+reach, reach)
	toward := math.Atan2(to[0]-from[0], to[1]-from[1]) / degree
	inner := math.Acos(min(1, max(-1, (first*first+d*d-second*second)/(2*first*d)))) / degree
	a = toward + bend*inner
	mid := way(from, a, first)
	b = math.Atan2(to[0]-mid[0], to[1]-mid[1]) / degree
	return a, b, true
}

// angle is one of the near limb, or of the far one where it has its own.
func (p Pose) angle(far bool, name, farName string) (float64, bool) {
	if far {
		if v, ok := p.Angles[farName]; ok {
			return v, true
		}
	}
	v, ok := p.Angles[name]
	return v, ok
}

func (p Pose) own(names ...string) bool {
	return slices.ContainsFunc(names, func(n string) bool { _, ok := p.Angles[n]; return ok })
}

// leg is where a leg lies: the angles of its parts and its joints.
type leg struct {
	thigh, shin, up, toes float64
	thighs, shins         float64 // how long they look
	hip, knee, ankle      Point
	heel, ball, tip       Point
}

// low is how deep the foot reaches.
func (l leg) low() float64 { return max(l.heel[1], l.ball[1], l.tip[1]) }

func (p Pose) leg(hip Point, far bool) leg {
	h, _ := p.angle(far, "hip", "farHip")
	k, _ := p.angle(far, "knee", "farKnee")
	l := leg{hip: hip, thigh: h - p.Angles["trunk"]}
	l.shin = l.thigh - k
	return p.foot(l, far)
}

// foot finishes a leg from the angles of thigh and shin.
func (p Pose) foot(l leg, far bool) leg {
	l.thighs, l.shins = 1, 1
	if !far { // a leg that is open looks shorter from the side
		l.thighs, l.shins = 1-0.6*p.Angles["open"], 1-0.35*p.Angles["open"]
	}
	l.knee = way(l.hip, l.thigh, thighLong*l.thighs)
	l.ankle = way(l.knee, l.shin, shinLong*l.shins)
	// A foot without an ankle angle lies flat: as if the ankle gave what the shin takes.
	// No ankle gives more than it has: then the heel comes up.
	give := min(mostLift, max(-mostPoint, -l.shin))
	if a, ok := p.angle(far, "ankle", "farAnkle"); ok {
		give = a
	}
	l.up = l.shin + give
	l.heel = along(l.ankle, -l.up, -heelBack, ankleHigh)
	l.ball = along(l.ankle, -l.up, ballAhead, ankleHigh)
	l.toes = min(max(0, l.up), l.up+mostToes) // toes lie on the floor as far as they bend, or follow a foot that points up
	if t, ok := p.angle(far, "toes", "farToes"); ok {
		l.toes = l.up + t
	}
	l.tip = along(l.ball, -l.toes, toesLong, 0)
	return l
}

// standing moves a foot onto the floor, its hip where it is: the knee gives what is
// needed, and the foot comes nearer where the leg is too short for its step.
func (p Pose) standing(l leg, far bool, ground float64) (leg, bool) {
	for range 12 {
		off := ground - l.low()
		if math.Abs(off) < 0.01 {
			return l, true
		}
		to := Point{l.ankle[0], l.ankle[1] + off}
		high := to[1] - l.hip[1]
		if high > thighLong+shinLong-reach {
			return l, false
		}
		if most := math.Sqrt(math.Pow(thighLong+shinLong-reach, 2) - high*high); math.Abs(to[0]-l.hip[0]) > most {
			to[0] = l.hip[0] + math.Copysign(most, to[0]-l.hip[0])
		}
		a, b, ok := two(l.hip, to, thighLong, shinLong, 1)
		if !ok {
			return l, false
		}
		l.thigh, l.shin = a, b
		l = p.foot(l, far)
	}
	return l, math.Abs(ground-l.low()) < 0.5
}

// How far an ankle lifts its foot and points it, and toes lift, in degrees; as in [Angles].
const mostLift, mostPoint, mostToes = 45.0, 80.0, 95.0

// A foot that would hang so little over the floor, or stand in it, stands on it.
const (
	standsWithin = 3.0
	handsWithin  = 9.0
	flesh        = 0.3 // that gives a little under weight
)

// body draws a person from the side.
func body(p Pose) (*scene, error) {
	s := &scene{joints: map[string]Point{}, stands: map[string]Point{}}
	pelvis, trunk := Point{0, 0}, p.Angles["trunk"]
	neckAt := along(pelvis, trunk, 0, -trunkLong)
	nod := trunk + p.Angles["neck"]
	head := along(neckAt, nod, 0, -10)
	near, far := p.leg(pelvis, false), p.leg(Point{-farShift, 0}, true)
	seat := p.Rest == "seat"
	onFeet := p.Rest == "" || p.Rest == "feet"
	switch {
	case seat:
		s.ground = seatHigh
	case onFeet:
		s.ground = near.low() + p.Angles["lift"]
	}
	if seat { // feet that would go through the floor stand on it
		for _, f := range []struct {
			l    *leg
			far  bool
			name string
		}{{&near, false, "near"}, {&far, true, "far"}} {
			if f.l.low() > s.ground-standsWithin/2 {
				l, ok := p.standing(*f.l, f.far, s.ground)
				if !ok {
					return nil, fmt.Errorf("%w: the %s one", ErrFloor, f.name)
				}
				*f.l = l
				s.stands[f.name] = lowest(l)
			}
		}
	}
	if onFeet {
		if p.Angles["lift"] == 0 {
			s.stands["near"] = lowest(near)
			if !p.own("farHip", "farKnee") || far.low() > s.ground-standsWithin {
				l, ok := p.standing(far, true, s.ground)
				switch {
				case ok:
					far = l
					s.stands["far"] = lowest(l)
				case !p.own("farHip", "farKnee") || far.low() > s.ground: // one that hangs may hang
					return nil, fmt.Errorf("%w: the far one", ErrFloor)
				}
			}
		} else if far.low() > s.ground {
			l, ok := p.standing(far, true, s.ground)
			if !ok {
				return nil, fmt.Errorf("%w: the far one", ErrFloor)
			}
			far = l
		}
	}
	s.joints = map[string]Point{
		"pelvis": pelvis, "shoulder": neckAt, "head": head,
		"knee": near.knee, "ankle": near.ankle, "heel": near.heel, "ball": near.ball, "toe": near.tip,
		"farKnee": far.knee, "farAnkle": far.ankle, "farHeel": far.heel, "farBall": far.ball, "farToe": far.tip,
		"calf": along(near.knee, -near.shin, -3.4, 6.5), "thigh": along(pelvis, -near.thigh, 0, thighLong/2), "underThigh": along(pelvis, -near.thigh, -3.8, thighLong*0.45),
		"shin": along(near.knee, -near.shin, 1.6, 9), "sole": along(near.ankle, -near.up, 1.5, ankleHigh), "topThigh": along(pelvis, -near.thigh, 2.8, thighLong*0.82),
		"seat": along(pelvis, trunk, -4.6, 0),
	}
	// A hand that would hang a little over the floor somebody is down on, or in it, is on it.
	onFloor := func(a, f float64, hand Point) (float64, float64) {
		if p.Rest != "floor" || hand[1] < s.ground-handsWithin {
			return a, f
		}
		to := Point{hand[0], s.ground - 0.8}
		high, most := to[1]-neckAt[1], upperArm+foreArm+handLong-reach
		if high > most {
			return a, f
		}
		if wide := math.Sqrt(most*most - high*high); math.Abs(to[0]-neckAt[0]) > wide {
			to[0] = neckAt[0] + math.Copysign(wide, to[0]-neckAt[0])
		}
		bend := -1.0
		if f < a {
			bend = 1
		}
		x, y, ok := two(neckAt, to, upperArm, foreArm+handLong, bend)
		if !ok {
			return a, f
		}
		return x, y
	}
	arm := func(isFar bool, hold, name string) (elbow, hand Point, a, f float64, err error) {
		sh, _ := p.angle(isFar, "shoulder", "farShoulder")
		el, _ := p.angle(isFar, "elbow", "farElbow")
		a = sh - trunk
		f = a + el
		if hold != "" {
			to, ok := s.joints[hold]
			if !ok {
				return elbow, hand, a, f, fmt.Errorf("%w: the %s hand holds %q", ErrJoint, name, hold)
			}
			x, y, ok := two(neckAt, to, upperArm, foreArm+handLong, -1)
			if !ok {
				return elbow, hand, a, f, fmt.Errorf("%w: the %s one, %q is %.0f units too far", ErrHold, name, hold, distance(neckAt, to)-upperArm-foreArm-handLong)
			}
			a, f = x, y
		}
		elbow = way(neckAt, a, upperArm)
		if hold == "" {
			a, f = onFloor(a, f, way(elbow, f, foreArm+handLong))
			elbow = way(neckAt, a, upperArm)
		}
		return elbow, way(elbow, f, foreArm+handLong), a, f, nil
	}
	if p.Rest == "floor" {
		s.ground = p.downOn(near, far, neckAt, nod, trunk)
	}
	elbow, hand, a, f, err := arm(false, p.Hold, "near")
	if err != nil {
		return nil, err
	}
	farElbow, farHand, fa, ff, err := arm(true, p.FarHold, "far")
	if err != nil {
		return nil, err
	}
	s.joints["elbow"], s.joints["hand"], s.joints["farHand"], s.joints["farElbow"] = elbow, hand, farHand, farElbow

	s.limb(Far, "arm", neckAt, fa)
	s.limb(Far, "fore", farElbow, ff)
	s.drawLeg(Far, far)
	s.add(Near, "neck", neckAt, nod)
	s.add(Near, "head", neckAt, nod)
	s.put(Near, "thigh", near.hip, -near.thigh, 1, near.thighs)
	s.add(Near, "trunk", pelvis, trunk)
	s.put(Near, "shin", near.knee, -near.shin, 1, near.shins)
	s.add(Near, "toe", near.ball, -near.toes)
	s.add(Near, "foot", near.ankle, -near.up)
	s.works(p, near, trunk)
	s.limb(Near, "arm", neckAt, a)
	s.limb(Near, "fore", elbow, f)
	if slices.Contains(p.Works, "arm") {
		s.limb(Work, "work-arm", neckAt, a)
	}
	s.anchor = "ball"
	switch {
	case seat:
		s.anchor, s.seated = "pelvis", true
	case p.Rest == "floor":
		s.anchor = s.lowestJoint("knee", "pelvis", "ankle", "hand")
	case p.Angles["lift"] > 0:
		s.anchor = "pelvis"
	}
	return s, nil
}

// downOn is the floor somebody is down on: the lowest of all but the arms.
func (p Pose) downOn(near, far leg, neck Point, nod, trunk float64) float64 {
	t := &scene{}
	t.drawLeg(Near, near)
	t.drawLeg(Near, far)
	t.add(Near, "trunk", Point{0, 0}, trunk)
	t.add(Near, "head", neck, nod)
	low := math.Inf(-1)
	for _, x := range t.parts {
		for _, q := range x.places() {
			low = max(low, q[1])
		}
	}
	return low - flesh
}

func lowest(l leg) Point {
	out := l.heel
	for _, q := range []Point{l.ball, l.tip} {
		if q[1] > out[1] {
			out = q
		}
	}
	return out
}

func (s *scene) lowestJoint(names ...string) string {
	return slices.MaxFunc(names, func(a, b string) int {
		switch x, y := s.joints[a][1], s.joints[b][1]; {
		case x > y+0.5:
			return 1
		case x < y-0.5:
			return -1
		}
		return 0
	})
}

func (s *scene) limb(k Kind, part string, at Point, angle float64) { s.add(k, part, at, -angle) }

func (s *scene) drawLeg(k Kind, l leg) {
	s.limb(k, "thigh", l.hip, l.thigh)
	s.limb(k, "shin", l.knee, l.shin)
	s.add(k, "toe", l.ball, -l.toes)
	s.add(k, "foot", l.ankle, -l.up)
}

// works lays what works over the near limbs.
func (s *scene) works(p Pose, l leg, trunk float64) {
	for _, w := range p.Works {
		switch w {
		case "calf", "shin":
			s.limb(Work, "work-"+w, l.knee, l.shin)
		case "thigh", "hamstring":
			s.limb(Work, "work-"+w, l.hip, l.thigh)
		case "seat":
			s.add(Work, "work-seat", l.hip, trunk)
		case "sole":
			s.add(Work, "work-sole", l.ankle, -l.up)
		case "toes", "big-toe", "small-toes":
			s.add(Work, "toe", l.ball, -l.toes)
		case "ankle":
			s.add(Work, "work-ankle", l.ankle, -l.up)
		case "front-ankle":
			s.add(Work, "work-front", l.ankle, -l.up)
		}
	}
}

// foot draws one foot from its inner side, the ball at 0, 0.
func foot(p Pose) (*scene, error) {
	s := &scene{joints: map[string]Point{}, stands: map[string]Point{}, anchor: "ball"}
	h := p.Angles["heel"] - p.Angles["pitch"]
	ball := Point{0, 0}
	at := func(back, up float64) Point { return along(ball, h, -back, -up) }
	ankle := at(footLong-8, footAnkle)
	arch := p.Angles["arch"]
	lean := p.Angles["shin"]
	knee := along(ankle, lean, 0, -34)
	s.ground = p.Angles["lift"] + max(0, at(footLong, 0)[1]) // a foot that comes down heel first stands on it
	small, big := p.Angles["small"], p.Angles["big"]
	s.add(Far, "side-small", Point{ball[0] + 0.5, ball[1] - 1}, -small)
	s.add(Near, "side-shin", ankle, lean)
	s.add(Near, "side-foot", ball, h)
	works := func(w string) bool { return slices.Contains(p.Works, w) }
	if works("sole") {
		s.put(Work, "side-work", ball, h, 1, 2.4+4.2*arch)
	}
	s.put(Light, "side-arch", ball, h, 1, 1.2+6.6*arch)
	if works("calf") {
		s.add(Work, "side-calf", ankle, lean)
	}
	if works("shin") {
		s.add(Work, "side-front", ankle, lean)
	}
	if works("ankle") || works("front-ankle") {
		s.add(Work, "side-ankle", ball, h)
	}
	if works("small-toes") {
		s.add(Work, "side-small", Point{ball[0] + 0.5, ball[1] - 1}, -small)
	}
	s.add(Near, "side-toe", ball, -big)
	if works("toes") || works("big-toe") {
		s.add(Work, "side-toe", ball, -big)
	}
	s.add(Light, "side-nail", ball, -big)
	if p.Angles["lift"] == 0 {
		s.stands["near"] = ball
		if h > 0.5 || h < -0.5 {
			s.stands["near"] = Point{ball[0], max(ball[1], at(footLong, 0)[1])}
		}
	}
	s.joints = map[string]Point{
		"ball": ball, "heel": at(footLong, 0), "ankle": ankle, "knee": knee, "toe": along(ball, -big, footToes-2, -2), "small": along(ball, -small, 10, -2),
		"arch": at(footLong*0.48, 1+6*arch), "instep": at(11, 13), "calf": along(ankle, lean, -10, -30), "sole": at(footLong/2, 0), "shin": along(ankle, lean, 8, -26),
		"underToe": along(ball, -big, 9, 0.6), "overToe": along(ball, -big, 9, -5.4), "back": at(footLong+4, 8),
	}
	return s, nil
}

// toes draws one foot from above, the right one, its toes up the page.
func toes(p Pose) (*scene, error) {
	s := &scene{joints: map[string]Point{}, stands: map[string]Point{}, anchor: "heel"}
	turn := p.Angles["turn"]
	heel := Point{0, 50}
	spot := func(x, y float64) Point { return along(heel, turn, x, y-50) }
	works := func(w string) bool { return slices.Contains(p.Works, w) }
	s.add(Near, "top-foot", spot(0, 0), turn)
	if works("sole") {
		s.add(Work, "top-work", spot(0, 0), turn)
	}
	if works("ankle") || works("front-ankle") || works("shin") || works("calf") {
		s.add(Work, "top-ankle", spot(0, 0), turn)
	}
	spread, curl := p.Angles["spread"], p.Angles["curl"]
	for i := range 5 {
		x := []float64{-9.4, -2.6, 2.6, 7.4, 11.6}[i]
		y := []float64{-1.4, -1.2, 0.4, 3, 6.6}[i]
		size := []float64{1, 1, 0.93, 0.84, 0.72}[i]
		fan := []float64{-3, -1, 4, 10, 18}[i] + spread*[]float64{-13, -5, 2, 9, 16}[i]
		state := p.Angles["small"]
		part, nail := "top-toe", "top-nail"
		if i == 0 {
			state, part, nail = p.Angles["big"], "top-big", "top-bignail"
			fan += 26 * p.Angles["drift"]
		}
		high := size * (1 - 0.42*curl)
		kind := Near
		if state > 0.05 || works("toes") || (i == 0 && works("big-toe")) || (i > 0 && works("small-toes")) {
			kind = Work
		}
		if state > 0.05 { // lifted toes come nearer to the eye
			size, high = size*(1+0.12*state), high*(1+0.1*state)
		}
		at := spot(x, y)
		s.put(kind, part, at, turn+fan, size, high)
		if curl < 0.5 {
			s.put(Light, nail, at, turn+fan, size, high)
		}
		tip := along(at, turn+fan, 0, -16*high)
		s.joints[[]string{"toe", "second", "third", "fourth", "little"}[i]] = tip
		if state < -0.05 {
			s.pressed = append(s.pressed, along(at, turn+fan, 0, -7*high))
		}
	}
	s.joints["ball"], s.joints["heel"], s.joints["arch"], s.joints["outer"], s.joints["ankle"], s.joints["inner"] = spot(-8, 7), heel, spot(-8, 26), spot(13, 20), spot(0, 42), spot(-14, 12)
	s.joints["front"] = spot(0, -22)
	s.ground = 60
	return s, nil
}

// usualApart is between the middles of two feet, in units.
const usualApart = 26.0

// legs draws both lower legs from behind, left at the left.
func legs(p Pose) (*scene, error) {
	s := &scene{joints: map[string]Point{}, stands: map[string]Point{}, anchor: ""}
	apart := p.Angles["apart"]
	if apart == 0 {
		apart = usualApart
	}
	works := func(w string) bool { return slices.Contains(p.Works, w) }
	s.ground = 12.8
	for i, far := range []bool{true, false} { // the far one is the left
		out := float64(2*i - 1) // the little toe's side
		roll, _ := p.angle(far, "roll", "farRoll")
		rise, _ := p.angle(far, "rise", "farRise")
		lift := 0.0
		if far {
			lift = p.Angles["farLift"]
		}
		high := 13 * math.Sin(rise*degree)
		edge := Point{out * apart / 2, -lift}
		// A foot tips over the edge it rolls to; the leg goes along half as far.
		tip := -out * -roll
		at := Point{edge[0], edge[1] - high}
		if rise > 1 {
			s.put(Near, "back-fore", edge, 0, -out, 1)
		} else {
			s.put(Near, "back-fore", along(Point{edge[0], edge[1] + 12.6}, tip, 0, -12.6), tip, -out, 1)
		}
		pivot := along(Point{at[0], at[1] + 12.6}, tip, 0, -12.6)
		s.put(Near, "back-shin", pivot, -out*-p.Angles["out"]+tip*0.35, 1, 1)
		if works("calf") {
			s.put(Work, "back-calf", pivot, -out*-p.Angles["out"]+tip*0.35, 1, 1)
		}
		s.put(Near, "back-foot", pivot, tip, 1, 1)
		if works("sole") || works("ankle") {
			s.put(Work, "work-ankle", pivot, tip, 2, 2)
		}
		name := []string{"far", ""}[i]
		key := func(n string) string {
			if name == "" {
				return n
			}
			return name + string(n[0]-32) + n[1:]
		}
		s.joints[key("heel")] = along(pivot, tip, 0, 12.4)
		s.joints[key("ankle")] = pivot
		s.joints[key("calf")] = along(pivot, 0, 0, -26)
		s.joints[key("knee")] = along(pivot, -out*-p.Angles["out"]+tip*0.35, 0, -48)
		s.joints[key("outer")] = Point{edge[0] + out*8, s.ground}
		s.joints[key("inner")] = Point{edge[0] - out*8, s.ground}
		if lift == 0 {
			s.stands[[]string{"far", "near"}[i]] = Point{edge[0], s.ground}
		}
	}
	return s, nil
}
