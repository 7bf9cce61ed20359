package sidecam

import (
	"image"
	"image/color"
	"math"
	"math/rand/v2"
	"runtime"
	"sync"
)

// camera looks along −z: from the side, or from behind after the body was turned.
type camera struct {
	W, H    int
	F       float64 // pixels
	X, Y, D float64
}

func (c camera) proj(p vec3) (float64, float64) {
	s := c.F / (c.D - p.Z)
	return float64(c.W)/2 + (p.X-c.X)*s, float64(c.H)/2 - (p.Y-c.Y)*s
}

// scene is a body in front of a camera, in daylight.
type scene struct {
	gs     []group
	cam    camera
	lk     Look
	sun    vec3
	behind bool
}

// mapAt is the distance to the nearest of the chosen groups, and its material.
func mapAt(gs []group, p vec3) (float64, material) {
	best, m := 1e9, mSkin
	for gi := range gs {
		g := &gs[gi]
		d := 1e9
		for i := range g.prims {
			q := &g.prims[i]
			bd := p.Sub(q.bc).Len() - q.br
			if bd > best+g.k && bd > d+g.k {
				continue
			}
			e := q.d(p)
			if d > 1e8 {
				d = e
			} else {
				d = smin(d, e, g.k)
			}
		}
		if d < best {
			best, m = d, g.mat
		}
	}
	return best, m
}

func cull(gs []group, c camera, x0, y0, x1, y1 float64) []group {
	var out []group
	for _, g := range gs {
		var ps []prim
		for _, q := range g.prims {
			u, v := c.proj(q.bc)
			r := (q.br+g.k)*c.F/(c.D-q.bc.Z-q.br) + 1
			if u+r < x0 || u-r > x1 || v+r < y0 || v-r > y1 {
				continue
			}
			ps = append(ps, q)
		}
		if len(ps) > 0 {
			out = append(out, group{g.mat, g.k, ps})
		}
	}
	return out
}

func normal(gs []group, p vec3) vec3 {
	e := 0.0012
	k := []vec3{{1, -1, -1}, {-1, -1, 1}, {-1, 1, -1}, {1, 1, 1}}
	var n vec3
	for _, q := range k {
		d, _ := mapAt(gs, p.Add(q.Mul(e)))
		n = n.Add(q.Mul(d))
	}
	return n.Norm()
}

// near keeps the primitives within r of the segment o + t*d, 0 <= t <= l.
func near(gs []group, o, d vec3, l, r float64) []group {
	var out []group
	for gi := range gs {
		g := &gs[gi]
		var ps []prim
		for i := range g.prims {
			w := g.prims[i].bc.Sub(o)
			t := clamp(w.Dot(d), 0, l)
			if q := w.Sub(d.Mul(t)); q.Len() < g.prims[i].br+r {
				ps = append(ps, g.prims[i])
			}
		}
		if ps != nil {
			out = append(out, group{g.mat, g.k, ps})
		}
	}
	return out
}

func shadow(gs []group, o, d vec3) float64 {
	res := 1.0
	gs = near(gs, o, d, 3, 0.12)
	if gs == nil {
		return 1
	}
	t := 0.02
	for i := 0; i < 40 && t < 3; i++ {
		h, _ := mapAt(gs, o.Add(d.Mul(t)))
		if h < 0.0008 {
			return 0
		}
		res = math.Min(res, 10*h/t)
		t += clamp(h, 0.012, 0.25)
	}
	return res
}

func hash(x, y int) float64 {
	h := uint32(x)*374761393 + uint32(y)*668265263
	h = (h ^ (h >> 13)) * 1274126177
	return float64((h^(h>>16))&0xffff) / 65535
}
func vnoise(x, y float64) float64 {
	xi, yi := math.Floor(x), math.Floor(y)
	fx, fy := x-xi, y-yi
	fx, fy = fx*fx*(3-2*fx), fy*fy*(3-2*fy)
	i, j := int(xi), int(yi)
	a := hash(i, j)*(1-fx) + hash(i+1, j)*fx
	b := hash(i, j+1)*(1-fx) + hash(i+1, j+1)*fx
	return a*(1-fy) + b*fy
}
func fbm(x, y float64) float64 {
	return 0.5*vnoise(x, y) + 0.25*vnoise(2*x+7, 2*y+3) + 0.125*vnoise(4*x+1, 4*y+9) + 0.0625*vnoise(8*x, 8*y)
}

func mix(a, b vec3, t float64) vec3 { return a.Lerp(b, t) }

// background in linear light; returns colour and whether it is the ground (and where)
func (s *scene) bg(u, v float64) (vec3, bool, vec3) {
	c := s.cam
	dir := vec3{(u - float64(c.W)/2) / c.F, -(v - float64(c.H)/2) / c.F, -1}
	o := vec3{c.X, c.Y, c.D}
	if dir.Y < -1e-4 {
		t := -c.Y / dir.Y
		p := o.Add(dir.Mul(t))
		if p.Z > -4.5 || s.behind && p.Z > -40 {
			n := fbm(p.X*9, p.Z*9)
			g := vec3{0.36, 0.13, 0.09}.Mul(0.85 + 0.35*n)
			across := p.Z
			if s.behind {
				across = p.X - 0.06
			}
			for _, lz := range []float64{-0.75, 0.62, -2.1} {
				if math.Abs(across-lz) < 0.03 {
					g = vec3{0.62, 0.60, 0.57}
				}
			}
			if p.Z < -3.4 && !s.behind {
				g = vec3{0.10, 0.19, 0.06}.Mul(0.8 + 0.6*fbm(p.X*14, p.Z*6))
			}
			return g, true, p
		}
	}
	// far: hedge and sky on a plane at z=-9, blurred by construction
	t := c.D + 9
	x, y := o.X+dir.X*t, o.Y+dir.Y*t
	sky := mix(vec3{0.62, 0.74, 0.88}, vec3{0.30, 0.50, 0.80}, clamp((y-1)/6, 0, 1))
	top := 2.0 + 1.1*fbm(x*0.45, 3)
	hedge := mix(vec3{0.07, 0.13, 0.05}, vec3{0.16, 0.24, 0.10}, fbm(x*1.2, y*1.4))
	col := mix(hedge, sky, smooth(top-0.25, top+0.25, y))
	wall := vec3{0.42, 0.42, 0.40}.Mul(0.9 + 0.15*fbm(x*0.8, y))
	col = mix(wall, col, smooth(0.62, 0.78, y))
	return col, false, vec3{}
}

func (s *scene) shade(gs []group, p vec3, m material, rd vec3) vec3 {
	n := normal(gs, p)
	l := s.lk
	var alb vec3
	spec, gl := 0.04, 20.0
	switch m {
	case mSkin:
		alb = l.Skin.Mul(0.94 + 0.12*vnoise(p.X*60, p.Y*60))
		spec, gl = 0.10, 18
	case mShirt:
		w := vnoise(p.X*22+p.Y*9, p.Y*16-p.Z*10)
		alb = l.Shirt.Mul(0.86 + 0.22*w)
	case mShorts:
		w := vnoise(p.X*26, p.Y*18+p.Z*12)
		alb = l.Shorts.Mul(0.80 + 0.35*w)
	case mShoe:
		alb = l.Shoe
		spec = 0.08
	case mSole:
		alb = l.Sole
	case mHair:
		alb = l.Hair.Mul(0.6 + 0.8*vnoise(p.X*180, p.Y*60))
		spec, gl = 0.08, 12
	case mEye:
		alb = vec3{0.02, 0.015, 0.012}
		spec, gl = 0.4, 60
	case mLip:
		alb = vec3{l.Skin.X * 0.8, l.Skin.Y * 0.5, l.Skin.Z * 0.5}
	case mSock:
		alb = vec3{0.75, 0.75, 0.75}
	}
	ao := 1.0
	loc := near(s.gs, p, n, 0.24, 0.20)
	for i := 1; i <= 4; i++ {
		h := 0.015 * float64(i*i)
		d, _ := mapAt(loc, p.Add(n.Mul(h)))
		ao -= (h - d) * 0.9 / math.Pow(1.6, float64(i)) / (0.04 * float64(i)) * 0.35
	}
	ao = clamp(ao, 0.25, 1)
	ndl := math.Max(0, n.Dot(s.sun))
	sh := 0.0
	if ndl > 0 {
		sh = shadow(s.gs, p.Add(n.Mul(0.004)), s.sun)
	}
	sky := 0.5 + 0.5*n.Y
	amb := mix(vec3{0.22, 0.15, 0.12}, vec3{0.42, 0.48, 0.58}, sky).Mul(ao)
	fill := math.Max(0, n.Z) * 0.28 * ao
	lit := vec3{1.15, 1.08, 0.96}.Mul(ndl * sh).Add(amb).Add(vec3{fill, fill, fill})
	c := alb.MulV(lit)
	if m == mSkin { // soft red at the terminator
		c = c.Add(vec3{0.05, 0.012, 0.006}.Mul(math.Exp(-12*n.Dot(s.sun)*n.Dot(s.sun)) * ao))
	}
	hv := s.sun.Sub(rd).Norm()
	c = c.Add(vec3{1, 1, 1}.Mul(spec * sh * math.Pow(math.Max(0, n.Dot(hv)), gl)))
	fr := math.Pow(1-math.Max(0, -n.Dot(rd)), 4)
	c = c.Add(vec3{0.25, 0.3, 0.36}.Mul(0.12 * fr * ao))
	return c
}

func tone(x float64) uint8 {
	x = clamp(x, 0, 4)
	x = x * (1 + x*0.12) / (1 + x*0.35)
	return uint8(clamp(math.Pow(x, 1/2.2), 0, 1)*255 + 0.5)
}

func (s *scene) render(ss int, noise float64, seed uint64) *image.RGBA {
	c := s.cam
	img := image.NewRGBA(image.Rect(0, 0, c.W, c.H))
	acc := make([]vec3, c.W*c.H)
	const T = 16
	type job struct{ x, y int }
	jobs := make(chan job, 4096)
	var wg sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		wg.Go(func() {
			for j := range jobs {
				x1, y1 := min(j.x+T, c.W), min(j.y+T, c.H)
				gs := cull(s.gs, c, float64(j.x), float64(j.y), float64(x1), float64(y1))
				for y := j.y; y < y1; y++ {
					for x := j.x; x < x1; x++ {
						var sum vec3
						for a := 0; a < ss*ss; a++ {
							u := float64(x) + (float64(a%ss)+0.5)/float64(ss)
							v := float64(y) + (float64(a/ss)+0.5)/float64(ss)
							sum = sum.Add(s.ray(gs, u, v))
						}
						acc[y*c.W+x] = sum.Mul(1 / float64(ss*ss))
					}
				}
			}
		})
	}
	for y := 0; y < c.H; y += T {
		for x := 0; x < c.W; x += T {
			jobs <- job{x, y}
		}
	}
	close(jobs)
	wg.Wait()
	rng := rand.New(rand.NewPCG(seed, 1))
	for i, a := range acc {
		n := rng.NormFloat64() * noise
		f := func(x float64) uint8 { return uint8(clamp(float64(tone(x))+n+rng.NormFloat64()*noise*0.4, 0, 255)) }
		img.SetRGBA(i%c.W, i/c.W, color.RGBA{f(a.X), f(a.Y), f(a.Z), 255})
	}
	return img
}

func (s *scene) ray(gs []group, u, v float64) vec3 {
	c := s.cam
	o := vec3{c.X, c.Y, c.D}
	rd := vec3{(u - float64(c.W)/2) / c.F, -(v - float64(c.H)/2) / c.F, -1}.Norm()
	if len(gs) > 0 {
		t := c.D - 0.8
		for i := 0; i < 90 && t < c.D+1.2; i++ {
			p := o.Add(rd.Mul(t))
			d, m := mapAt(gs, p)
			if d < 0.0006 {
				return s.shade(gs, p, m, rd)
			}
			t += d * 0.85
		}
	}
	col, ground, p := s.bg(u, v)
	if ground {
		lit := vec3{1.0, 0.94, 0.84}.Mul(s.sun.Y)
		amb := vec3{0.42, 0.48, 0.58}.Mul(0.75)
		sh := 1.0
		if math.Abs(p.X-s.gs[0].prims[0].a.X) < 3 && math.Abs(p.Z) < 3 {
			sh = shadow(s.gs, p.Add(vec3{0, 0.002, 0}), s.sun)
			d := 1.0
			if loc := near(s.gs, p, vec3{0, 1, 0}, 0.04, 0.16); loc != nil {
				d, _ = mapAt(loc, p.Add(vec3{0, 0.04, 0}))
			}
			amb = amb.Mul(0.35 + 0.65*clamp(d/0.15, 0, 1))
		}
		col = col.MulV(lit.Mul(sh).Add(amb))
	}
	return col
}
