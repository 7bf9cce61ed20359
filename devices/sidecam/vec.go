package sidecam

import "math"

// vec3 is a point or direction in metres: x forward (the running direction), y up,
// z to the runner's right, which is towards the side camera.
type vec3 struct{ X, Y, Z float64 }

func (a vec3) Add(b vec3) vec3             { return vec3{a.X + b.X, a.Y + b.Y, a.Z + b.Z} }
func (a vec3) Sub(b vec3) vec3             { return vec3{a.X - b.X, a.Y - b.Y, a.Z - b.Z} }
func (a vec3) Mul(s float64) vec3          { return vec3{a.X * s, a.Y * s, a.Z * s} }
func (a vec3) MulV(b vec3) vec3            { return vec3{a.X * b.X, a.Y * b.Y, a.Z * b.Z} }
func (a vec3) Dot(b vec3) float64          { return a.X*b.X + a.Y*b.Y + a.Z*b.Z }
func (a vec3) Len() float64                { return math.Sqrt(a.Dot(a)) }
func (a vec3) Norm() vec3                  { return a.Mul(1 / a.Len()) }
func (a vec3) Lerp(b vec3, t float64) vec3 { return a.Add(b.Sub(a).Mul(t)) }
func clamp(x, a, b float64) float64 {
	if x < a {
		return a
	}
	if x > b {
		return b
	}
	return x
}
func smooth(a, b, x float64) float64 { t := clamp((x-a)/(b-a), 0, 1); return t * t * (3 - 2*t) }

// rotZ turns v in the sagittal plane by p (radians, toe-up / counter-clockwise positive).
func rotZ(v vec3, p float64) vec3 {
	c, s := math.Cos(p), math.Sin(p)
	return vec3{v.X*c - v.Y*s, v.X*s + v.Y*c, v.Z}
}
