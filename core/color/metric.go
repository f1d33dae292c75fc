package color

import "math"

// Metric is CIEDE2000 around one place of CIELAB: the weights are computed once, so that many small differences there
// cost a few multiplications each. The rows give the parts of a difference whose root of squares is the ΔE00.
type Metric [3][3]float64

// MetricAt computes the metric for pairs of colors whose mean is near the given one. Where they differ by a few units it
// agrees with DeltaE00 within some percent.
func MetricAt(mean Lab) Metric {
	const deg = math.Pi / 180
	c := math.Hypot(mean.A, mean.B)
	c7 := c * c * c
	c7 *= c7 * c
	stretch := 1 + 0.5*(1-math.Sqrt(c7/(c7+pow25to7)))
	a := stretch * mean.A
	cp := math.Hypot(a, mean.B)
	cos, sin := 1.0, 0.0
	if cp > 0 {
		cos, sin = a/cp, mean.B/cp
	}
	h := hueRadians(a, mean.B)
	t := 1 - 0.17*math.Cos(h-30*deg) + 0.24*math.Cos(2*h) + 0.32*math.Cos(3*h+6*deg) - 0.20*math.Cos(4*h-63*deg)
	q := (h/deg - 275) / 25
	cp7 := cp * cp * cp
	cp7 *= cp7 * cp
	half := -math.Sin(60*deg*math.Exp(-q*q)) * math.Sqrt(cp7/(cp7+pow25to7)) // of the rotation term
	l50 := (mean.L - 50) * (mean.L - 50)
	sl := 1 + 0.015*l50/math.Sqrt(20+l50)
	sc := 1 + 0.045*cp
	sh := 1 + 0.015*cp*t
	rest := math.Sqrt(1 - half*half)
	return Metric{
		{1 / sl, 0, 0},
		{0, stretch * (cos/sc - half*sin/sh), sin/sc + half*cos/sh},
		{0, -stretch * rest * sin / sh, rest * cos / sh},
	}
}

// Parts are the parts of the difference of two colors.
func (m *Metric) Parts(from, to Lab) [3]float64 {
	dl, da, db := to.L-from.L, to.A-from.A, to.B-from.B
	return [3]float64{m[0][0] * dl, m[1][1]*da + m[1][2]*db, m[2][1]*da + m[2][2]*db}
}

// DeltaE is the difference of two colors by this metric.
func (m *Metric) DeltaE(from, to Lab) float64 {
	p := m.Parts(from, to)
	return math.Sqrt(p[0]*p[0] + p[1]*p[1] + p[2]*p[2])
}
