package sidecam

import (
	"cmp"
	"image"
	"math"
	"math/rand/v2"
	"runtime"
	"slices"
	"sync"
	"sync/atomic"
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
	air    []vec3 // the picture without the body
	blocks []*block
}

// mapAt is the distance to the nearest of the chosen groups, and its material.
func mapAt(gs []group, p vec3) (float64, material) {
	best, m := 1e9, mSkin
	for gi := range gs {
		g := &gs[gi]
		x, y, z := p.X-g.bc.X, p.Y-g.bc.Y, p.Z-g.bc.Z
		if r := best + g.k + g.br; r > 0 && x*x+y*y+z*z > r*r {
			continue
		}
		d := 1e9
		for _, q := range g.near {
			x, y, z := p.X-q.a.X, p.Y-q.a.Y, p.Z-q.a.Z
			var e float64
			if q.ell {
				if r := d + g.k + q.br; r > 0 && x*x+y*y+z*z > r*r {
					continue
				}
				e = q.ellipsoid(x, y, z)
			} else {
				h := x*q.along.X + y*q.along.Y + z*q.along.Z
				h = min(max(h, 0), 1)
				x, y, z = x-q.ba.X*h, y-q.ba.Y*h, z-q.ba.Z*h
				thick, w := q.r1+q.r21*h, x*x+y*y+z*z
				if r := d + g.k + thick; r > 0 && w > r*r {
					continue // too far to blend in
				}
				e = math.Sqrt(w) - thick
			}
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

// cull keeps what a part of the picture can show.
func cull(gs []group, c camera, x0, y0, x1, y1 float64) []group {
	beside := func(bc vec3, br float64) bool {
		u, v := c.proj(bc)
		r := br*c.F/(c.D-bc.Z-br) + 1
		return u+r < x0 || u-r > x1 || v+r < y0 || v-r > y1
	}
	mid, half := vec3{(x0 + x1) / 2, (y0 + y1) / 2, 0}, math.Hypot(x1-x0, y1-y0)/2
	return kept(gs, func(g *group) bool { return !beside(g.bc, g.br+g.k) }, func(g *group, q *prim) bool {
		if beside(q.bc, q.br+g.k) {
			return false
		}
		if q.ell {
			return true
		}
		// A cone is long and thin: how far is the line between the middles of its ends?
		ax, ay := c.proj(q.a)
		bx, by := c.proj(q.b)
		thick := max(q.r1, q.r2) + g.k
		r := thick*c.F/(c.D-max(q.a.Z, q.b.Z)-thick) + 1 + half
		w := fromSegment(mid, vec3{ax, ay, 0}, vec3{bx, by, 0})
		return w.Dot(w) < r*r
	})
}

// fromSegment is the shortest way from a segment to a point.
func fromSegment(p, a, b vec3) vec3 {
	w, ab := p.Sub(a), b.Sub(a)
	long := ab.Dot(ab)
	if long == 0 {
		return w
	}
	return w.Sub(ab.Mul(clamp(w.Dot(ab)/long, 0, 1)))
}

// kept are the chosen primitives of the chosen groups.
func kept(gs []group, some func(*group) bool, one func(*group, *prim) bool) []group {
	var out []group
	var ps []*prim // all groups share it
	for gi := range gs {
		g := &gs[gi]
		if !some(g) {
			continue
		}
		from := len(ps)
		for _, q := range g.near {
			if one(g, q) {
				if ps == nil {
					ps = make([]*prim, 0, 32)
				}
				ps = append(ps, q)
			}
		}
		if len(ps) > from {
			if out == nil {
				out = make([]group, 0, 12)
			}
			out = append(out, group{mat: g.mat, k: g.k, near: ps[from:len(ps):len(ps)], bc: g.bc, br: g.br})
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
	beside := func(bc vec3, br float64) bool {
		w := bc.Sub(o)
		q := w.Sub(d.Mul(clamp(w.Dot(d), 0, l)))
		return q.Dot(q) < (br+r)*(br+r)
	}
	across := func(p vec3) vec3 { // seen along the segment
		w := p.Sub(o)
		if l == 0 {
			return w
		}
		return w.Sub(d.Mul(w.Dot(d)))
	}
	return kept(gs, func(g *group) bool { return beside(g.bc, g.br) }, func(_ *group, q *prim) bool {
		if !beside(q.bc, q.br) {
			return false
		}
		if q.ell {
			return true
		}
		w, far := fromSegment(vec3{}, across(q.a), across(q.b)), max(q.r1, q.r2)+r
		return w.Dot(w) < far*far
	})
}

// behind is how far along d the last of them ends, from the origin, in m.
func behind(gs []group, d vec3) float64 {
	out := math.Inf(-1)
	for i := range gs {
		for _, q := range gs[i].near {
			out = max(out, q.bc.Dot(d)+q.br+gs[i].k)
		}
	}
	return out
}

// shadow is the share of the sun that comes to a place past the chosen groups, of which
// the last ends at last.
func shadow(gs []group, last float64, o, d vec3) float64 {
	res, most := 1.0, min(3, last-o.Dot(d))
	t := 0.02
	for i := 0; i < 40 && t < most; i++ {
		h, _ := mapAt(gs, o.Add(d.Mul(t)))
		if h < 0.0008 {
			return 0
		}
		res = math.Min(res, 10*h/t)
		t += max(h, 0.02)
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
	if p, ok := s.ground(u, v); ok {
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

// light is what a place gets of the sky and of the sun; for the looks through one pixel
// that meet the same material it is worked out once.
type light struct {
	is     bool
	on     material
	ao, sh float64
	deep   float64 // how far before the camera the body was met; 0 where it was not
}

// dims are how much a body so near takes of the sky, by step.
var dims = func() (out [5]float64) {
	for i := 1; i <= 4; i++ {
		out[i] = 0.9 / math.Pow(1.6, float64(i)) / (0.04 * float64(i))
	}
	return out
}()

func (s *scene) shade(b *block, p vec3, m material, rd vec3, known *light) vec3 {
	n := normal(b.gs, p)
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
	ndl := math.Max(0, n.Dot(s.sun))
	if !known.is || known.on != m {
		*known = light{is: true, on: m, ao: 1, deep: known.deep}
		for i := 1; i <= 4; i++ {
			h := 0.015 * float64(i*i)
			d, _ := mapAt(b.round, p.Add(n.Mul(h)))
			known.ao -= (h - d) * dims[i] * 0.35
		}
		known.ao = clamp(known.ao, 0.25, 1)
		if ndl > 0 {
			known.sh = shadow(b.sunward, b.sunwardTo, p.Add(n.Mul(0.004)), s.sun)
		}
	}
	ao, sh := known.ao, known.sh
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

// tones is tone by a table: light from 0 to 4.
var tones = func() (out [1 << 16]uint8) {
	for i := range out {
		x := 4 * float64(i) / float64(len(out)-1)
		x *= (1 + x*0.12) / (1 + x*0.35)
		out[i] = uint8(clamp(math.Pow(x, 1/2.2), 0, 1)*255 + 0.5)
	}
	return out
}()

func tone(x float64) uint8 { return tones[int(clamp(x, 0, 4)/4*float64(len(tones)-1)+0.5)] }

// tile is how many pixels a side are rendered at once.
const tile = 8

// edge is the difference between two neighbours, of linear light, from which on a pixel
// is looked at several times.
const edge = 0.12

// render looks once through every pixel, and several times where what it shows is another
// thing, or of another brightness, than its neighbours.
func (s *scene) render(ss int, noise float64, seed uint64) *image.RGBA {
	c := s.cam
	img := image.NewRGBA(image.Rect(0, 0, c.W, c.H))
	once, acc, kinds, lights := make([]vec3, c.W*c.H), make([]vec3, c.W*c.H), make([]kind, c.W*c.H), make([]light, c.W*c.H)
	// First every fourth pixel, then those between four that are there, along the diagonals
	// and then beside them: what lies between like things is like them.
	look := func(mine func(x, y int) bool, between [4]int) func(b *block, x, y int) {
		return func(b *block, x, y int) {
			i := y*c.W + x
			if !mine(x, y) {
				return
			}
			if between[0] != 0 && ss > 1 && x > 0 && y > 0 && x+1 < c.W && y+1 < c.H && !uneven4(once, kinds, i, between) {
				if kinds[i+between[0]] == far {
					once[i], kinds[i] = s.air[i], far
					return
				}
				for _, k := range between {
					once[i] = once[i].Add(once[i+k])
					lights[i].deep += lights[i+k].deep / 4
				}
				once[i], kinds[i] = once[i].Mul(0.25), kinds[i+between[0]]
				return
			}
			from := 0.0
			if between[0] != 0 && x > 0 && y > 0 && x+1 < c.W && y+1 < c.H {
				from = least(lights, i, between)
				lights[i] = agreed(lights, i, between)
			}
			once[i], kinds[i] = s.ray(b, float64(x)+0.5, float64(y)+0.5, from, &lights[i])
		}
	}
	bare := func(x0, y0, x1, y1 int) {
		for y := y0; y < y1; y++ {
			for i := y*c.W + x0; i < y*c.W+x1; i++ {
				once[i], acc[i], kinds[i] = s.air[i], s.air[i], far
			}
		}
	}
	s.tiles(bare, look(func(x, y int) bool { return x%2 == 0 && y%2 == 0 }, [4]int{}))
	s.tiles(nil, look(func(x, y int) bool { return x%2 == 1 && y%2 == 1 }, [4]int{-c.W - 1, -c.W + 1, c.W - 1, c.W + 1}))
	s.tiles(nil, look(func(x, y int) bool { return (x+y)%2 == 1 }, [4]int{-1, 1, -c.W, c.W}))
	s.tiles(nil, func(b *block, x, y int) {
		i := y*c.W + x
		if ss < 2 || !uneven(once, kinds, c, x, y) {
			acc[i] = once[i]
			return
		}
		sum := once[i]
		from := 0.0
		if x > 0 && y > 0 && x+1 < c.W && y+1 < c.H {
			from = least(lights, i, [4]int{-1, 1, -c.W, c.W})
		}
		for a := range ss { // along a diagonal, with what was looked at already
			u, v := (float64(a)+0.5)/float64(ss), (float64(ss-1-a)+0.5)/float64(ss)
			own := lights[i]
			got, _ := s.ray(b, float64(x)+u, float64(y)+v, from, &own)
			sum = sum.Add(got)
		}
		acc[i] = sum.Mul(1 / float64(ss+1))
	})
	c.rows(func(y int) {
		rng := rand.NewPCG(seed, uint64(y))
		for x := range c.W {
			a, r := acc[y*c.W+x], rng.Uint64()
			n := grains[r&0xffff]
			f := func(x float64, r uint64) uint8 {
				return uint8(clamp(float64(tone(x))+(n+0.4*grains[r&0xffff])*noise, 0, 255))
			}
			px := img.Pix[y*img.Stride+4*x:][:4]
			px[0], px[1], px[2], px[3] = f(a.X, r>>16), f(a.Y, r>>32), f(a.Z, r>>48), 255
		}
	})
	return img
}

// grains are draws of a normal distribution, by their share.
var grains = func() (out [1 << 16]float64) {
	for i := range out {
		out[i] = math.Sqrt2 * math.Erfinv(2*(float64(i)+0.5)/float64(len(out))-1)
	}
	return out
}()

// rows goes through the rows of a picture on all cores.
func (c camera) rows(row func(y int)) {
	var next atomic.Int64
	var wg sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		wg.Go(func() {
			for y := int(next.Add(1)) - 1; y < c.H; y = int(next.Add(1)) - 1 {
				row(y)
			}
		})
	}
	wg.Wait()
}

// tiles goes through the pixels on all cores, each with the body's parts that its tile
// can show. Those of a tile that can show none go to empty, if there is one.
func (s *scene) tiles(empty func(x0, y0, x1, y1 int), pixel func(b *block, x, y int)) {
	c := s.cam
	type job struct{ i, x, y int }
	jobs := make(chan job, 4096)
	known := len(s.blocks) > 0
	if !known {
		s.blocks = make([]*block, ((c.W+tile-1)/tile)*((c.H+tile-1)/tile))
	}
	var wg sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		wg.Go(func() {
			for j := range jobs {
				x1, y1 := min(j.x+tile, c.W), min(j.y+tile, c.H)
				if !known {
					s.blocks[j.i] = s.block(float64(j.x), float64(j.y), float64(x1), float64(y1))
				}
				b := s.blocks[j.i]
				if b == nothing { // shows what is round about, in all looks
					if empty != nil {
						empty(j.x, j.y, x1, y1)
					}
					continue
				}
				for y := j.y; y < y1; y++ {
					for x := j.x; x < x1; x++ {
						pixel(b, x, y)
					}
				}
			}
		})
	}
	n := 0
	for y := 0; y < c.H; y += tile {
		for x := 0; x < c.W; x += tile {
			jobs <- job{n, x, y}
			n++
		}
	}
	close(jobs)
	wg.Wait()
}

// uneven4 is whether the four neighbours of a pixel differ from each other; where they
// don't, it is what they are.
func uneven4(of []vec3, kinds []kind, i int, between [4]int) bool {
	first := i + between[0]
	for _, b := range between[1:] {
		k := i + b
		d := of[first].Sub(of[k])
		if kinds[first] != kinds[k] || kinds[k] != far && max(math.Abs(d.X), math.Abs(d.Y), math.Abs(d.Z)) > edge {
			return true
		}
	}
	return false
}

// uneven is whether a pixel differs from one of its four neighbours.
func uneven(of []vec3, kinds []kind, c camera, x, y int) bool {
	i := y*c.W + x
	differs := func(k int) bool {
		d := of[i].Sub(of[k])
		return kinds[i] != kinds[k] || max(math.Abs(d.X), math.Abs(d.Y), math.Abs(d.Z)) > edge && kinds[i] != far
	}
	return x > 0 && differs(i-1) || x+1 < c.W && differs(i+1) || y > 0 && differs(i-c.W) || y+1 < c.H && differs(i+c.W)
}

// kind is what a ray met: a material of the body, or one of these.
type kind int

const (
	far    kind = -1 // the surroundings
	shaded kind = -2 // the ground in the body's shadow
)

// lit is the ground in full light and what of it comes from the sky.
func (s *scene) lit() (sun, sky vec3) {
	return vec3{1.0, 0.94, 0.84}.Mul(s.sun.Y), vec3{0.42, 0.48, 0.58}.Mul(0.75)
}

// surroundings are the picture without the body, the same in every frame of a film.
type surroundings struct {
	cam    camera
	behind bool
}

var (
	seen   = map[surroundings][]vec3{}
	seenBy sync.Mutex
)

// around is the picture without the body, four looks a pixel.
func (s *scene) around() []vec3 {
	seenBy.Lock()
	defer seenBy.Unlock()
	key := surroundings{s.cam, s.behind}
	if got := seen[key]; got != nil {
		return got
	}
	c := s.cam
	out := make([]vec3, c.W*c.H)
	sun, sky := s.lit()
	c.rows(func(y int) {
		for x := range c.W {
			var sum vec3
			for a := range 4 {
				col, ground, _ := s.bg(float64(x)+(float64(a%2)+0.5)/2, float64(y)+(float64(a/2)+0.5)/2)
				if ground {
					col = col.MulV(sun.Add(sky))
				}
				sum = sum.Add(col)
			}
			out[y*c.W+x] = sum.Mul(0.25)
		}
	})
	clear(seen) // one film at a time
	seen[key] = out
	return out
}

// hit is how near a surface a ray has met it, m; a pixel is some millimetres wide.
const hit = 0.002

// block is what a tile of the picture can show, and what can cast a shadow on it.
type block struct {
	gs                    []group
	from, to              float64 // how far from the camera they lie
	round, sunward        []group // what is near them, and between them and the sun
	onGround, overGround  []group // the same for the ground that the tile shows
	sunwardTo, onGroundTo float64 // where the last ends that can cast a shadow
}

func (s *scene) block(x0, y0, x1, y1 float64) *block {
	c := s.cam
	b := &block{gs: cull(s.gs, c, x0, y0, x1, y1), from: math.Inf(1)}
	if len(b.gs) > 0 {
		// What is in front is met first, and the rest is often too far then to matter.
		slices.SortStableFunc(b.gs, func(a, b group) int { return cmp.Compare(b.bc.Z, a.bc.Z) })
		for i := range b.gs {
			for _, q := range b.gs[i].near {
				b.from, b.to = min(b.from, c.D-q.bc.Z-q.br-b.gs[i].k), max(b.to, c.D-q.bc.Z+q.br+b.gs[i].k)
			}
		}
		// The body's points that the tile can show lie in a ball.
		at := func(u, v, deep float64) vec3 {
			return vec3{c.X + (u-float64(c.W)/2)/c.F*deep, c.Y - (v-float64(c.H)/2)/c.F*deep, c.D - deep}
		}
		o := at((x0+x1)/2, (y0+y1)/2, (b.from+b.to)/2)
		r := max(at(x0, y0, b.from).Sub(o).Len(), at(x1, y1, b.to).Sub(o).Len(), at(x0, y1, b.to).Sub(o).Len(), at(x1, y0, b.to).Sub(o).Len())
		b.round, b.sunward = near(s.gs, o, s.sun, 0, r+0.44), near(s.gs, o, s.sun, 3, r+0.12)
		b.sunwardTo = behind(b.sunward, s.sun)
	}
	if o, ok := s.ground((x0+x1)/2, (y0+y1)/2); ok || y1 > float64(c.H)/2 {
		r := 0.0
		for _, p := range [][2]float64{{x0, y0}, {x1, y0}, {x0, y1}, {x1, y1}} {
			if q, ok := s.ground(p[0], p[1]); ok {
				r = max(r, q.Sub(o).Len())
			}
		}
		if r < 2 {
			b.onGround, b.overGround = near(s.gs, o, s.sun, 3, r+0.12), near(s.gs, o, vec3{0, 1, 0}, 0.04, r+0.16)
			b.onGroundTo = behind(b.onGround, s.sun)
		}
	}
	if len(b.gs) == 0 && len(b.onGround) == 0 && len(b.overGround) == 0 {
		return nothing
	}
	return b
}

// nothing is what a tile shows that has neither the body nor its shadow in it.
var nothing = &block{}

// before is how far before what is met round about a ray begins, in m.
const before = 0.05

// least is a place just before what four neighbours met; 0 where one of them met nothing.
func least(of []light, i int, between [4]int) float64 {
	out := math.Inf(1)
	for _, k := range between {
		out = min(out, of[i+k].deep)
	}
	return max(0, out-before)
}

// alike is how far neighbours' light may differ for what lies between to share it.
const alike = 0.06

// agreed is the light of four neighbours where they are of one material and hardly
// differ, else none.
func agreed(of []light, i int, between [4]int) light {
	first := of[i+between[0]]
	out := light{is: first.is, on: first.on}
	for _, k := range between {
		l := &of[i+k]
		if !l.is || l.on != out.on || math.Abs(l.ao-first.ao) > alike || math.Abs(l.sh-first.sh) > alike {
			return light{}
		}
		out.ao, out.sh = out.ao+l.ao/4, out.sh+l.sh/4
	}
	return out
}

func (s *scene) ray(b *block, u, v, from float64, known *light) (vec3, kind) {
	c := s.cam
	o := vec3{c.X, c.Y, c.D}
	if len(b.gs) > 0 {
		rd := vec3{(u - float64(c.W)/2) / c.F, -(v - float64(c.H)/2) / c.F, -1}.Norm()
		t := max(b.from, from) / -rd.Z
		for i := 0; i < 90 && t*-rd.Z < b.to; i++ {
			p := o.Add(rd.Mul(t))
			d, m := mapAt(b.gs, p)
			if d < hit {
				known.deep = t * -rd.Z
				return s.shade(b, p, m, rd, known), kind(m)
			}
			t += d * 0.92
		}
	}
	p, ground := s.ground(u, v)
	if !ground || math.Abs(p.X-s.gs[0].prims[0].a.X) >= 3 || math.Abs(p.Z) >= 3 {
		return s.air[int(v)*c.W+int(u)], far
	}
	sh := shadow(b.onGround, b.onGroundTo, p.Add(vec3{0, 0.002, 0}), s.sun)
	d := 1.0
	if len(b.overGround) > 0 {
		d, _ = mapAt(b.overGround, p.Add(vec3{0, 0.04, 0}))
	}
	if sh == 1 && d >= 0.15 {
		return s.air[int(v)*c.W+int(u)], far
	}
	col, _, _ := s.bg(u, v)
	sun, sky := s.lit()
	return col.MulV(sun.Mul(sh).Add(sky.Mul(0.35 + 0.65*clamp(d/0.15, 0, 1)))), shaded
}

// ground is where a ray meets the track or the grass before it, if it does.
func (s *scene) ground(u, v float64) (vec3, bool) {
	c := s.cam
	dir := vec3{(u - float64(c.W)/2) / c.F, -(v - float64(c.H)/2) / c.F, -1}
	if dir.Y >= -1e-4 {
		return vec3{}, false
	}
	p := vec3{c.X, c.Y, c.D}.Add(dir.Mul(-c.Y / dir.Y))
	return p, p.Z > -4.5 || s.behind && p.Z > -40
}
