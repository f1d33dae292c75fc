package icc

import (
	"encoding/binary"
	"fmt"
	"math"
)

// curve is a tone curve over 0 to 1 (ICC.1:2022, 10.6 and 10.18).
type curve struct {
	table []float32  // sampled, if it has entries
	kind  int        // else the function type of a parametric curve
	p     [7]float64 // g a b c d e f
}

// parseCurve reads a curveType or a parametricCurveType and says how many bytes it took.
func parseCurve(d []byte) (c curve, used int, err error) {
	if len(d) < 12 {
		return c, 0, fmt.Errorf("a curve is cut off")
	}
	switch string(d[:4]) {
	case "curv":
		n := int(binary.BigEndian.Uint32(d[8:]))
		used = 12 + 2*n
		switch {
		case n > 1<<16 || used > len(d):
			return c, 0, fmt.Errorf("a curve claims %d entries, more than fit into it", n)
		case n == 0:
			return curve{p: [7]float64{1}}, used, nil
		case n == 1:
			c.p[0] = float64(binary.BigEndian.Uint16(d[12:])) / 256
			if c.p[0] == 0 {
				return c, 0, fmt.Errorf("a curve has the exponent 0")
			}
			return c, used, nil
		}
		return curve{table: samples(d[12:], n, 2)}, used, nil
	case "para":
		kind := int(binary.BigEndian.Uint16(d[8:]))
		counts := []int{1, 3, 4, 5, 7}
		if kind >= len(counts) || 12+4*counts[kind] > len(d) {
			return c, 0, fmt.Errorf("a curve is of an unknown kind %d or cut off", kind)
		}
		c.kind = kind
		for i := range counts[kind] {
			c.p[i] = fixed(d[12+4*i:])
		}
		if c.p[0] <= 0 || kind > 0 && c.p[1] == 0 {
			return c, 0, fmt.Errorf("a curve has senseless parameters")
		}
		return c, 12 + 4*counts[kind], nil
	}
	return c, 0, fmt.Errorf("a curve is of the type %q, which is not read", d[:4])
}

func (p *Profile) curve(tag string) (curve, error) {
	d, ok := p.tags[tag]
	if !ok {
		return curve{}, fmt.Errorf("the profile has no %s tag", tag)
	}
	c, _, err := parseCurve(d)
	if err != nil {
		return c, fmt.Errorf("%s of the profile: %w", tag, err)
	}
	return c, nil
}

// at evaluates the curve; x and the result are held to 0 to 1, as the encodings of a profile do.
func (c *curve) at(x float64) float64 {
	x = clamp(x)
	if c.table != nil {
		return sample(c.table, x)
	}
	g, a, b, cc, d, e, f := c.p[0], c.p[1], c.p[2], c.p[3], c.p[4], c.p[5], c.p[6]
	power := func(offset float64) float64 { return math.Pow(math.Max(0, a*x+b), g) + offset }
	var y float64
	switch c.kind {
	case 0:
		if g == 1 {
			return x
		}
		y = math.Pow(x, g)
	case 1:
		if x >= -b/a {
			y = power(0)
		}
	case 2:
		y = cc
		if x >= -b/a {
			y = power(cc)
		}
	case 3:
		y = cc * x
		if x >= d {
			y = power(0)
		}
	default:
		y = cc*x + f
		if x >= d {
			y = power(e)
		}
	}
	return clamp(y)
}

// back finds where a rising curve reaches y, by bisection.
func (c *curve) back(y float64) float64 {
	lo, hi := 0.0, 1.0
	for range 48 {
		if mid := (lo + hi) / 2; c.at(mid) < y {
			lo = mid
		} else {
			hi = mid
		}
	}
	return hi
}

// curveStage sends each value through its own curve.
type curveStage []curve

func (s curveStage) apply(v *values) {
	for i := range s {
		v[i] = s[i].at(v[i])
	}
}

// backStage is curveStage backwards.
type backStage []curve

func (s backStage) apply(v *values) {
	for i := range s {
		v[i] = s[i].back(clamp(v[i]))
	}
}

// sample reads a sampled curve at x from 0 to 1.
func sample(curve []float32, x float64) float64 {
	n := len(curve) - 1
	if x >= 1 {
		return float64(curve[n])
	}
	x *= float64(n)
	i := int(x)
	f := x - float64(i)
	return float64(curve[i]) + f*float64(curve[i+1]-curve[i])
}

// clamp holds v to 0 to 1; what is not a number becomes 0.
func clamp(v float64) float64 {
	switch {
	case v >= 1:
		return 1
	case v > 0:
		return v
	}
	return 0
}
