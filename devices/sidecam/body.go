package sidecam

import "math"

// material is what a surface is made of.
type material int

const (
	mSkin material = iota
	mShirt
	mShorts
	mShoe
	mSole
	mHair
	mEye
	mLip
	mSock
)

// prim is a rounded cone or an ellipsoid.
type prim struct {
	bc vec3 // bounding sphere
	br float64
	// What the distance is worked out with, made by ready.
	ell        bool
	a          vec3    // a round cone's one end, or an ellipsoid's centre
	ba         vec3    // from a to b
	along      vec3    // from a to b, over its length squared
	r1, r21    float64 // radii: at a, and how much more at b
	ux, uy, uz vec3    // axes over radii
	inv        vec3    // one over the radii
	least      float64 // of the radii
	// What it is made of.
	b          vec3 // a round cone's other end
	r2         float64
	rad        vec3 // ellipsoid radii
	ax, ay, az vec3 // ellipsoid axes
}

func cone(a, b vec3, r1, r2 float64) prim {
	c := a.Add(b).Mul(0.5)
	return prim{a: a, b: b, r1: r1, r2: r2, bc: c, br: a.Sub(b).Len()/2 + math.Max(r1, r2)}
}
func ellip(c, r, ax, ay vec3) prim {
	az := vec3{ax.Y*ay.Z - ax.Z*ay.Y, ax.Z*ay.X - ax.X*ay.Z, ax.X*ay.Y - ax.Y*ay.X}
	return prim{ell: true, a: c, rad: r, ax: ax, ay: ay, az: az, bc: c, br: math.Max(r.X, math.Max(r.Y, r.Z))}
}

// ellipsoid is about how far a point is from an ellipsoid's surface, in m, given from its
// centre.
func (q *prim) ellipsoid(x, y, z float64) float64 {
	u, v, w := x*q.ux.X+y*q.ux.Y+z*q.ux.Z, x*q.uy.X+y*q.uy.Y+z*q.uy.Z, x*q.uz.X+y*q.uz.Y+z*q.uz.Z
	k0 := math.Sqrt(u*u + v*v + w*w)
	u, v, w = u*q.inv.X, v*q.inv.Y, w*q.inv.Z
	k1 := u*u + v*v + w*w
	if k1 < 1e-18 {
		return -q.least
	}
	return k0 * (k0 - 1) / math.Sqrt(k1)
}

// ready works out what distances need again and again.
func (q *prim) ready() {
	if q.ell {
		q.inv = vec3{1 / q.rad.X, 1 / q.rad.Y, 1 / q.rad.Z}
		q.ux, q.uy, q.uz = q.ax.Mul(q.inv.X), q.ay.Mul(q.inv.Y), q.az.Mul(q.inv.Z)
		q.least = min(q.rad.X, q.rad.Y, q.rad.Z)
		return
	}
	q.ba, q.r21 = q.b.Sub(q.a), q.r2-q.r1
	q.along = q.ba.Mul(1 / q.ba.Dot(q.ba))
}

// group is primitives of one material that blend into each other.
type group struct {
	mat   material
	k     float64 // blend radius
	prims []prim
	bc    vec3 // bounding sphere of all of them
	br    float64
	near  []*prim // those that matter where one looks
}

// bound gives every group the sphere that holds it.
func bound(gs []group) []group {
	for i := range gs {
		g := &gs[i]
		for j := range g.prims {
			g.prims[j].ready()
			g.near = append(g.near, &g.prims[j])
		}
		for _, q := range g.prims {
			g.bc = g.bc.Add(q.bc.Mul(1 / float64(len(g.prims))))
		}
		for _, q := range g.prims {
			g.br = max(g.br, q.bc.Sub(g.bc).Len()+q.br)
		}
	}
	return gs
}

// smin is a minimum with a soft edge of width k.
func smin(a, b, k float64) float64 {
	if a > b {
		a, b = b, a
	}
	if b-a >= k {
		return a
	}
	h := (k - (b - a)) / k
	return a - h*h*k*0.25
}

// Look is what a figure wears: linear light colours.
type Look struct {
	Skin, Shirt, Shorts, Shoe, Sole, Hair vec3
}

// buildBody dresses a pose: h is the body height in m.
func buildBody(o Pose, h float64) []group {
	k := h / 1.75
	lean := o.Lean
	up := vec3{math.Sin(lean), math.Cos(lean), 0}
	fw := vec3{math.Cos(lean), -math.Sin(lean), 0}
	at := func(f, u, z float64) vec3 {
		return o.Pelvis.Add(fw.Mul(f * k)).Add(up.Mul(u * k)).Add(vec3{0, 0, z * k})
	}
	E := func(f, u, z, rx, ry, rz float64) prim { return ellip(at(f, u, z), vec3{rx, ry, rz}.Mul(k), fw, up) }
	var gs []group
	// shirt: chest, belly, shoulders, sleeves
	shirt := group{mat: mShirt, k: 0.05 * k}
	shirt.prims = append(shirt.prims,
		E(0.012, 0.34, 0, 0.118, 0.175, 0.158),
		E(-0.012, 0.40, 0, 0.100, 0.130, 0.155),
		E(0.008, 0.15, 0, 0.103, 0.165, 0.138),
		E(-0.004, 0.06, 0, 0.108, 0.10, 0.148),
	)
	shirt.prims = append(shirt.prims, cone(o.RA.Shoulder.Add(up.Mul(-0.012*k)), o.LA.Shoulder.Add(up.Mul(-0.012*k)), 0.060*k, 0.060*k))
	shirt.prims = append(shirt.prims, cone(at(-0.005, 0.47, 0.07), at(0.0, 0.53, 0.03), 0.05*k, 0.05*k), cone(at(-0.005, 0.47, -0.07), at(0.0, 0.53, -0.03), 0.05*k, 0.05*k))
	gs = append(gs, shirt)
	for _, a := range []Arm{o.RA, o.LA} {
		sl := group{mat: mShirt, k: 0.03 * k}
		sl.prims = append(sl.prims, cone(a.Shoulder, a.Shoulder.Lerp(a.Elbow, 0.50), 0.064*k, 0.058*k))
		sl.prims = append(sl.prims, shirt.prims[4], shirt.prims[0])
		gs = append(gs, sl)
		ar := group{mat: mSkin, k: 0.025 * k}
		ar.prims = append(ar.prims,
			cone(a.Shoulder, a.Elbow, 0.050*k, 0.038*k),
			cone(a.Elbow, a.Elbow.Lerp(a.Wrist, 0.35), 0.038*k, 0.040*k),
			cone(a.Elbow.Lerp(a.Wrist, 0.35), a.Wrist, 0.040*k, 0.026*k))
		// loosely closed hand
		hd := a.Hand.Sub(a.Wrist).Norm()
		c1 := a.Wrist.Add(hd.Mul(0.045 * k))
		ar.prims = append(ar.prims,
			cone(a.Wrist, c1, 0.026*k, 0.034*k),
			cone(c1.Add(vec3{0.008, 0.018, 0}.Mul(k)), a.Wrist.Add(hd.Mul(0.085*k)).Add(vec3{0.004, -0.006, 0}.Mul(k)), 0.024*k, 0.022*k),
			cone(c1.Add(vec3{0.008, -0.014, 0}.Mul(k)), a.Wrist.Add(hd.Mul(0.070*k)).Add(vec3{-0.01, -0.026, 0}.Mul(k)), 0.022*k, 0.018*k),
			cone(c1, a.Wrist.Add(hd.Mul(0.075*k)).Add(vec3{0, 0.035, 0}.Mul(k)), 0.014*k, 0.011*k))
		gs = append(gs, ar)
	}
	// legs
	for i, g := range []Leg{o.R, o.L} {
		z := 0.088
		if i == 1 {
			z = -z
		}
		td := vec3{math.Sin(g.Thigh), -math.Cos(g.Thigh), 0}
		tf := vec3{math.Cos(g.Thigh), math.Sin(g.Thigh), 0}
		sd := vec3{math.Sin(g.Shank), -math.Cos(g.Shank), 0}
		sf := vec3{math.Cos(g.Shank), math.Sin(g.Shank), 0}
		l := shank * h
		ls := group{mat: mSkin, k: 0.035 * k}
		hip, knee, ank := g.Hip, g.Knee, g.Ankle
		ls.prims = append(ls.prims,
			cone(hip, knee, 0.085*k, 0.052*k),
			cone(hip.Add(td.Mul(l*0.25)).Add(tf.Mul(0.014*k)), hip.Add(td.Mul(l*0.72)).Add(tf.Mul(0.010*k)), 0.078*k, 0.058*k),  // quads
			cone(hip.Add(td.Mul(l*0.35)).Add(tf.Mul(-0.018*k)), hip.Add(td.Mul(l*0.8)).Add(tf.Mul(-0.010*k)), 0.068*k, 0.046*k), // hamstrings
			ellip(knee.Add(tf.Lerp(sf, 0.5).Norm().Mul(0.012*k)), vec3{0.046, 0.052, 0.046}.Mul(k), sf, sd.Mul(-1)),
			cone(knee, ank, 0.046*k, 0.032*k),
			cone(knee.Add(sd.Mul(l*0.16)).Add(sf.Mul(-0.018*k)), knee.Add(sd.Mul(l*0.42)).Add(sf.Mul(-0.020*k)), 0.046*k, 0.044*k), // calf
			cone(knee.Add(sd.Mul(l*0.42)).Add(sf.Mul(-0.016*k)), knee.Add(sd.Mul(l*0.80)).Add(sf.Mul(-0.010*k)), 0.040*k, 0.026*k),
			cone(ank.Add(sd.Mul(-0.10*k)).Add(sf.Mul(-0.022*k)), ank.Add(rotZ(vec3{-0.035, -0.03, 0}.Mul(k), g.Foot)), 0.018*k, 0.020*k)) // achilles
		gs = append(gs, ls)
		// sock cuff
		sk := group{mat: mSock, k: 0.02 * k, prims: []prim{cone(ank.Add(sd.Mul(-0.055*k)).Add(sf.Mul(-0.004*k)), ank.Add(sd.Mul(0.02*k)), 0.041*k, 0.040*k)}}
		gs = append(gs, sk)
		// shorts
		st := group{mat: mShorts, k: 0.05 * k}
		st.prims = append(st.prims,
			E(-0.022, 0.0, z*0.75, 0.118, 0.115, 0.098),
			E(0, 0.06, 0, 0.112, 0.075, 0.15),
			cone(hip.Add(tf.Mul(0.0)), hip.Add(td.Mul(l*0.48)).Add(tf.Mul(-0.002*k)), 0.101*k, 0.094*k))
		gs = append(gs, st)
		// shoe in the frame of the foot
		F := vec3{math.Cos(g.Foot), math.Sin(g.Foot), 0}
		U := vec3{-math.Sin(g.Foot), math.Cos(g.Foot), 0}
		tb := g.Foot + g.ToeBend
		FT := vec3{math.Cos(tb), math.Sin(tb), 0}
		UT := vec3{-math.Sin(tb), math.Cos(tb), 0}
		P := func(f, u, zz float64) vec3 {
			return ank.Add(F.Mul(f * k)).Add(U.Mul(u * k)).Add(vec3{0, 0, zz * k})
		}
		Q := func(f, u, zz float64) vec3 { // beyond the ball
			return g.Mtp.Add(FT.Mul((f - 0.12) * k)).Add(UT.Mul((u + 0.066) * k)).Add(vec3{0, 0, zz * k})
		}
		sh := group{mat: mShoe, k: 0.03 * k}
		sh.prims = append(sh.prims,
			cone(P(-0.030, -0.040, 0), P(-0.026, 0.004, 0), 0.036*k, 0.034*k),
			cone(P(-0.022, -0.045, 0), P(0.07, -0.050, 0), 0.040*k, 0.040*k),
			cone(P(0.02, -0.010, 0), P(0.09, -0.042, 0), 0.036*k, 0.030*k),
			cone(P(0.07, -0.052, 0.0), P(0.12, -0.060, 0.0), 0.042*k, 0.036*k),
			cone(Q(0.12, -0.060, 0.004), Q(0.170, -0.066, -0.006*sgn(z)), 0.036*k, 0.024*k))
		gs = append(gs, sh)
		so := group{mat: mSole, k: 0.02 * k}
		for _, zz := range []float64{-0.018, 0.018} {
			so.prims = append(so.prims,
				cone(P(-0.046, -0.078, zz*0.8), P(0.05, -0.079, zz), 0.015*k, 0.013*k),
				cone(P(0.05, -0.079, zz), P(0.12, -0.079, zz*1.3), 0.013*k, 0.012*k),
				cone(Q(0.12, -0.079, zz*1.3), Q(0.176, -0.077, zz*0.6), 0.012*k, 0.011*k))
		}
		so.prims = append(so.prims, cone(P(-0.05, -0.078, 0), P(0.12, -0.079, 0), 0.015*k, 0.013*k), cone(Q(0.12, -0.079, 0), Q(0.180, -0.075, 0), 0.013*k, 0.011*k))
		gs = append(gs, so)
	}
	// head
	hp := o.HeadPitch
	hu := vec3{math.Sin(-hp), math.Cos(hp), 0}
	hf := vec3{math.Cos(hp), math.Sin(hp), 0}
	H := func(f, u, z float64) vec3 { return o.Head.Add(hf.Mul(f * k)).Add(hu.Mul(u * k)).Add(vec3{0, 0, z * k}) }
	HE := func(f, u, z, rx, ry, rz float64) prim { return ellip(H(f, u, z), vec3{rx, ry, rz}.Mul(k), hf, hu) }
	hd := group{mat: mSkin, k: 0.022 * k}
	hd.prims = append(hd.prims,
		HE(-0.010, 0.030, 0, 0.094, 0.096, 0.074),
		HE(0.030, -0.015, 0, 0.056, 0.085, 0.062),
		cone(H(0.000, -0.070, 0.032), H(0.062, -0.098, 0.010), 0.026*k, 0.020*k),
		cone(H(0.000, -0.070, -0.032), H(0.062, -0.098, -0.010), 0.026*k, 0.020*k),
		cone(H(0.060, -0.098, -0.008), H(0.060, -0.098, 0.008), 0.022*k, 0.022*k),
		cone(H(0.066, -0.066, -0.010), H(0.066, -0.066, 0.010), 0.022*k, 0.022*k), // mouth
		cone(H(0.074, 0.030, -0.018), H(0.074, 0.030, 0.018), 0.012*k, 0.012*k),   // brow ridge
		cone(H(0.080, 0.016, 0), H(0.104, -0.022, 0), 0.007*k, 0.011*k),
		cone(H(0.092, -0.026, -0.010), H(0.092, -0.026, 0.010), 0.009*k, 0.009*k),
		cone(o.NeckB.Add(up.Mul(-0.03*k)), H(-0.022, -0.055, 0), 0.060*k, 0.054*k))
	gs = append(gs, hd)
	for _, s := range []float64{-1, 1} {
		gs = append(gs,
			group{mat: mSkin, k: 0.008 * k, prims: []prim{HE(-0.008, -0.010, s*0.073, 0.019, 0.031, 0.012), HE(-0.004, -0.030, s*0.072, 0.010, 0.012, 0.010)}},
			group{mat: mEye, k: 0.005 * k, prims: []prim{HE(0.066, 0.006, s*0.034, 0.014, 0.009, 0.014)}},
			group{mat: mHair, k: 0.005 * k, prims: []prim{cone(H(0.084, 0.030, s*0.018), H(0.064, 0.032, s*0.052), 0.0055*k, 0.004*k)}})
	}
	gs = append(gs, group{mat: mLip, k: 0.004 * k, prims: []prim{cone(H(0.083, -0.062, -0.016), H(0.083, -0.062, 0.016), 0.0075*k, 0.0075*k)}})
	hr := group{mat: mHair, k: 0.03 * k}
	hr.prims = append(hr.prims,
		HE(-0.020, 0.056, 0, 0.098, 0.084, 0.082),
		HE(-0.056, 0.000, 0, 0.062, 0.085, 0.072),
		HE(0.030, 0.098, 0, 0.050, 0.030, 0.055))
	gs = append(gs, hr)
	return gs
}
