package sidecam

import (
	"math"
	"sync/atomic"
)

// Runner is a figure with known truths.
type Runner struct {
	Height  float64 `json:"heightM"`
	Speed   float64 `json:"speedMs"`
	Cadence float64 `json:"cadenceSpm" doc:"Steps of both feet a minute"`
	Right   Side    `json:"right"`
	Left    Side    `json:"left"`
	Lean    float64 `json:"trunkDegrees" doc:"Forward positive"`
	Bounce  float64 `json:"bounceCm" doc:"Peak to trough of the hip"`
	Turn    float64 `json:"turnDegrees" doc:"How far the shoulders turn to either side"`
	Look    Look    `json:"-"`
}

// Side is what may differ from leg to leg.
type Side struct {
	Contact  float64 `json:"contactSeconds"`
	Strike   float64 `json:"strikeDegrees" doc:"Foot strike angle, toes up positive"`
	Reach    float64 `json:"reachShare" doc:"Ankle ahead of the hip at contact, share of height"`
	Crossing float64 `json:"crossingCm" doc:"How far the foot lands past the middle line; negative is short of it"`
}

// Usual is a runner of middle height at an easy pace who lands on the heel.
func Usual() Runner {
	side := Side{Contact: 0.254, Strike: 12, Reach: 0.166, Crossing: -6.4}
	return Runner{Height: 1.75, Speed: 3.2, Cadence: 170, Right: side, Left: side, Lean: 8, Bounce: 8, Turn: 10, Look: looks[0]}
}

// leg is one leg's part of the figure, as shares of the stride.
type stride struct {
	Runner
	Side
	Duty float64
	base float64 // mean height of the hips, m
	lift float64 // how much higher the knee comes in late swing, degrees
}

func (r Runner) of(s Side, base, lift float64) stride {
	return stride{r, s, s.Contact / r.Stride(), base, lift}
}

// Leg is a leg in one moment.
type Leg struct {
	Hip, Knee, Ankle, Heel, Toe, Mtp vec3
	soleHeel, soleToe                vec3    // where the sole touches
	Foot, ToeBend                    float64 // foot pitch (rad), toe segment extension relative to it
	Thigh, Shank, KneeFlex           float64 // rad; thigh and shank from vertical, forward positive
}

// Arm is an arm in one moment.
type Arm struct{ Shoulder, Elbow, Wrist, Hand vec3 }

// Pose is a body in one moment.
type Pose struct {
	Phase                float64
	Pelvis, Chest, NeckB vec3
	Head                 vec3
	HeadPitch, Lean      float64
	R, L                 Leg
	RA, LA               Arm
}

func rad(d float64) float64 { return d * math.Pi / 180 }
func deg(r float64) float64 { return r * 180 / math.Pi }

// hermite is a Catmull-Rom-like interpolation through knots, with given end slopes.
func hermite(ts, ys []float64, s0, s1, t float64) float64 {
	n := len(ts)
	i := 0
	for i < n-2 && t > ts[i+1] {
		i++
	}
	sl := func(k int) float64 {
		if k == 0 {
			return s0
		}
		if k == n-1 {
			return s1
		}
		// finite-difference slope, limited for monotonicity
		a := (ys[k] - ys[k-1]) / (ts[k] - ts[k-1])
		b := (ys[k+1] - ys[k]) / (ts[k+1] - ts[k])
		if a*b <= 0 {
			return 0
		}
		return 2 * a * b / (a + b)
	}
	h := ts[i+1] - ts[i]
	u := (t - ts[i]) / h
	u2, u3 := u*u, u*u*u
	return (2*u3-3*u2+1)*ys[i] + (u3-2*u2+u)*h*sl(i) + (-2*u3+3*u2)*ys[i+1] + (u3-u2)*h*sl(i+1)
}

// Stride is the time from one contact of a foot to its next, s.
func (r Runner) Stride() float64 { return 120 / r.Cadence }

func (p stride) hipY(ph float64) float64 { return p.base + p.rises(ph) }

// rises is how far the hips are over their mean height at a phase, m: lowest in the
// middle of each stance.
func (r Runner) rises(ph float64) float64 {
	mid := (r.Right.Contact + r.Left.Contact) / 2 / r.Stride() * 0.47
	return -r.Bounce / 200 * math.Cos(4*math.Pi*(ph-mid))
}

// hipAhead is how far a hip is before the middle of the pelvis, m: the pelvis turns with
// the leg that swings forward. ph is the leg's own phase.
func (p stride) hipAhead(ph float64) float64 {
	return halfPelvis * p.Height / 1.75 * math.Sin(rad(pelvisTurn)*math.Cos(2*math.Pi*ph))
}

// How a pelvis is built and turns (house): m of a body of 1.75 m, degrees.
const (
	halfPelvis = 0.088
	pelvisTurn = 4.0
)

// The least a knee is bent on the ground, degrees, as it comes down and as it leaves
// (common in recreational running; from memory).
const (
	bendDown  = 20.0
	bendLeave = 20.0
)

// built is how a runner's body has to go so that it stays a body.
type built struct {
	base        float64 // mean height of the hips, m
	right, left float64 // how much higher each knee comes in late swing, degrees
}

// built finds it: hips as high as the knees allow that stay bent on the ground, so that no
// leg has to be longer than it is, and knees as high as keeps the sole over the ground.
func (r Runner) built() built {
	if s := stood.Load(); s != nil && s.Runner == r {
		return s.built
	}
	const parts = 24
	out := built{base: math.Inf(1)}
	for _, s := range []Side{r.Right, r.Left} {
		p := r.of(s, 0, 0)
		for i := range parts + 1 {
			u := float64(i) / parts
			q := u * p.Duty
			a, _ := p.stanceAnkle(q)
			long := 2 * shank * p.Height * math.Cos(rad(bendDown+(bendLeave-bendDown)*u)/2)
			dx := a.X - p.hipAhead(q)
			out.base = min(out.base, a.Y+math.Sqrt(max(long*long-dx*dx, long*long/4))-r.rises(q))
		}
	}
	out.right, out.left = r.lifts(r.Right, out.base), r.lifts(r.Left, out.base)
	stood.Store(&standing{r, out})
	return out
}

// lifts is how much higher the knee has to come, degrees, for the sole to clear the ground
// before it lands.
func (r Runner) lifts(s Side, base float64) float64 {
	const most, step, grazes = 24, 1.5, -0.002 // m
	for lift := 0.0; lift < most; lift += step {
		p, clear := r.of(s, base, lift), true
		for ph := 0.70; ph < 0.995 && clear; ph += 0.02 {
			l := p.leg(vec3{0, p.hipY(ph), halfPelvis}, ph)
			clear = min(l.soleHeel.Y, l.soleToe.Y) > grazes
		}
		if clear {
			return lift
		}
	}
	return most
}

// standing is a runner with how it is built.
type standing struct {
	Runner
	built
}

// stood is the runner that was asked for last: a film asks in every frame.
var stood atomic.Pointer[standing]

// shank is how long thigh and shank are, share of height.
const shank = 0.2455

// foot geometry relative to the ankle, shares of a 1.75 m body, metres
var (
	heelLow = vec3{-0.062, -0.092, 0}
	mtpLow  = vec3{0.120, -0.092, 0}
	heelLM  = vec3{-0.070, -0.070, 0} // what a marker on the back of the heel would show
	toeLM   = vec3{0.190, -0.070, 0}
)

// toffPitch is the foot's pitch at toe-off, leastBend the straightest knee, degrees.
const (
	toffPitch = -58.0
	leastBend = 2.0
)

func (p stride) stancePitch(ph float64) float64 { // degrees
	d := p.Duty
	ts := []float64{0, 0.16 * d, 0.5 * d, 0.75 * d, d}
	ys := []float64{p.Strike, 0, 0, -18, toffPitch}
	return hermite(ts, ys, -p.Strike/(0.16*d)*1.2, -48/(0.25*d), ph)
}

// stanceAnkle gives the ankle relative to the hip's x and the ground, in stance.
func (p stride) stanceAnkle(ph float64) (vec3, float64) {
	k := p.Height / 1.75
	pit := rad(p.stancePitch(ph))
	pit0 := rad(p.Strike)
	a0x := p.Reach * p.Height
	var px float64
	// pivot at contact: the heel for a heel strike, the ball for a forefoot strike
	if p.Strike >= 0 {
		px = a0x + rotZ(heelLow, pit0).X*k - p.Speed*p.Stride()*ph
		if pit < 0 {
			px += (mtpLow.X - heelLow.X) * k
		}
	} else {
		px = a0x + rotZ(mtpLow, pit0).X*k - p.Speed*p.Stride()*ph
	}
	piv := heelLow
	if pit < 0 || p.Strike < 0 {
		piv = mtpLow
	}
	r := rotZ(piv, pit).Mul(k)
	return vec3{px - r.X, -r.Y, 0}, pit
}

func (p stride) ik(a vec3, hipY float64) (thigh, flex float64) {
	l := shank * p.Height
	dx, dy := a.X, hipY-a.Y
	d := math.Min(math.Hypot(dx, dy), 2*l*0.9995)
	flex = 2 * math.Acos(d/(2*l))
	thigh = math.Atan2(dx, dy) + flex/2
	return
}

func (p stride) legAngles(ph float64) (thigh, flex, foot float64) {
	ph -= math.Floor(ph)
	st := func(q float64) (float64, float64, float64) {
		a, pit := p.stanceAnkle(q)
		a.X -= p.hipAhead(q)
		t, f := p.ik(a, p.hipY(q))
		return t, f, pit
	}
	if ph <= p.Duty {
		return st(ph)
	}
	d := p.Duty
	e := 0.004
	t1, f1, _ := st(d)
	t0, f0, _ := st(d - e)
	c0, g0, _ := st(0)
	c1, g1, _ := st(e)
	s := (1 - d) / 0.64
	at := func(x float64) float64 { return d + (x-0.36)*s }
	thigh = hermite([]float64{d, at(.46), at(.60), at(.72), at(.80), at(.90), 1},
		[]float64{t1, rad(-16), rad(18), rad(41), rad(45 + p.lift), rad(38 + p.lift), c0}, (t1-t0)/e, (c1-c0)/e*0.5, ph)
	flex = hermite([]float64{d, at(.46), at(.60), at(.67), at(.80), at(.92), 1},
		[]float64{f1, rad(58), rad(100), rad(103), rad(70 + 1.8*p.lift), rad(24 + 1.8*p.lift), g0}, (f1-f0)/e*0.5, (g1-g0)/e*0.5, ph)
	flex = math.Max(flex, rad(leastBend)) // a knee does not bend the other way
	foot = hermite([]float64{d, at(.46), at(.60), at(.72), at(.80), at(.92), 1},
		[]float64{rad(toffPitch), rad(-88), rad(-92), rad(-62), rad(-28), rad(6), rad(p.Strike)}, rad(-300), 0, ph)
	return
}

func (p stride) leg(hip vec3, ph float64) Leg {
	k := p.Height / 1.75
	ph -= math.Floor(ph)
	t, f, foot := p.legAngles(ph)
	l := shank * p.Height
	sh := t - f
	var g Leg
	g.Hip, g.Thigh, g.KneeFlex, g.Shank, g.Foot = hip, t, f, sh, foot
	zin := -(math.Abs(hip.Z) + p.Crossing/100) / 2 * sgn(hip.Z) // half of the way in at the knee, half below
	g.Knee = hip.Add(vec3{l * math.Sin(t), -l * math.Cos(t), zin})
	g.Ankle = g.Knee.Add(vec3{l * math.Sin(sh), -l * math.Cos(sh), zin})
	fr := ph - math.Floor(ph)
	if foot < 0 && fr < p.Duty {
		g.ToeBend = math.Min(-foot, rad(38))
	} else if fr >= p.Duty {
		g.ToeBend = rad(38) * (1 - smooth(p.Duty, p.Duty+0.12, fr))
	}
	g.Mtp = g.Ankle.Add(rotZ(vec3{0.120, -0.066, 0}.Mul(k), foot))
	g.soleHeel, g.soleToe = g.Ankle.Add(rotZ(heelLow.Mul(k), foot)), g.Ankle.Add(rotZ(mtpLow.Mul(k), foot))
	g.Heel = g.Ankle.Add(rotZ(heelLM.Mul(k), foot))
	toe := rotZ(vec3{toeLM.X - 0.120, toeLM.Y + 0.066, 0}.Mul(k), foot+g.ToeBend)
	g.Toe = g.Mtp.Add(toe)
	return g
}
func sgn(x float64) float64 {
	if x < 0 {
		return -1
	}
	return 1
}

// At gives the body at phase ph (0 = right foot's contact) with the hips at x.
func (r Runner) At(ph, x float64) Pose {
	k := r.Height / 1.75
	var o Pose
	o.Phase = ph - math.Floor(ph)
	b := r.built()
	o.Pelvis = vec3{x, b.base + r.rises(ph), 0}
	rot := math.Cos(2 * math.Pi * ph) // right leg forward = 1
	right, left := r.of(r.Right, b.base, b.right), r.of(r.Left, b.base, b.left)
	o.R = right.leg(vec3{x + right.hipAhead(ph), o.Pelvis.Y, halfPelvis * k}, ph)
	o.L = left.leg(vec3{x + left.hipAhead(ph+0.5), o.Pelvis.Y, -halfPelvis * k}, ph+0.5)
	lean := rad(r.Lean)
	o.Lean = lean
	up := vec3{math.Sin(lean), math.Cos(lean), 0}
	o.Chest = o.Pelvis.Add(up.Mul(0.36 * k))
	o.NeckB = o.Pelvis.Add(up.Mul(0.52 * k))
	sh := o.Pelvis.Add(up.Mul(0.485 * k))
	srot := rad(r.Turn) * -rot // right shoulder back when the right leg is forward
	arm := func(side float64, c float64) Arm {
		var a Arm
		a.Shoulder = sh.Add(vec3{math.Sin(srot*side) * 0.175 * k, 0, side * 0.175 * k * math.Cos(srot)})
		ua := rad(-16-34*c) + lean*0.5
		a.Elbow = a.Shoulder.Add(vec3{math.Sin(ua), -math.Cos(ua), 0.10 * side}.Norm().Mul(0.29 * k))
		fa := ua + rad(98-10*c)
		in := -0.30 - 0.12*(-c)
		a.Wrist = a.Elbow.Add(vec3{math.Sin(fa), -math.Cos(fa), in * side}.Norm().Mul(0.255 * k))
		a.Hand = a.Wrist.Add(a.Wrist.Sub(a.Elbow).Norm().Mul(0.07 * k))
		return a
	}
	o.RA = arm(1, rot)
	o.LA = arm(-1, -rot)
	o.HeadPitch = rad(-2)
	o.Head = o.NeckB.Add(vec3{math.Sin(lean*0.9) * 0.19 * k, math.Cos(lean*0.9) * 0.19 * k, 0}).Add(vec3{0.028 * k, 0, 0})
	return o
}
