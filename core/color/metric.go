package color

import "math"

// Metric is CIEDE2000 around one place of CIELAB: the weights are computed once, so that many small differences there
// cost a few multiplications each. The rows give the parts of a difference whose root of squares is the ΔE00.
type Metric [3][3]float64

// MetricAt computes the metric for pairs of colors whose mean is near the given one. Where they differ by a few units it
// agrees with DeltaE00 within some percent.
func MetricAt(mean Lab) Metric {
	c := math.Sqrt(mean.A*mean.A + mean.B*mean.B)
	c7 := c * c * c
	c7 *= c7 * c
	stretch := 1.5 - 0.5*math.Sqrt(c7/(c7+pow25to7))
	a := stretch * mean.A
	cp := math.Sqrt(a*a + mean.B*mean.B)
	cos, sin := 1.0, 0.0
	if cp > 0 {
		cos, sin = a/cp, mean.B/cp
	}
	w := weigh(mean.L, cp, cos, sin)
	half := w.rt / 2
	rest := math.Sqrt(1 - half*half)
	return Metric{
		{1 / w.sl, 0, 0},
		{0, stretch * (cos/w.sc - half*sin/w.sh), sin/w.sc + half*cos/w.sh},
		{0, -stretch * rest * sin / w.sh, rest * cos / w.sh},
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
