package icc

import (
	"encoding/binary"
	"fmt"
	"math"

	"huekeep/core/color"
)

// pcsWhite is the D50 white of the profile connection space (ICC.1:2022, 7.2.16).
var pcsWhite = [3]float64{0.9642, 1, 0.8249}

// shaper is a profile of curves and a matrix: three curves for RGB (ICC.1:2022, 8.3.3), one for gray (8.3.4).
type shaper struct {
	curves  []curve
	matrix  [3][3]float64 // linear RGB to XYZ; unused for gray
	inverse [3][3]float64
}

// shaper reads the curves and the matrix of an RGB or gray profile.
func (p *Profile) shaper() (*shaper, error) {
	s := &shaper{}
	if p.Space == "GRAY" {
		c, err := p.curve("kTRC")
		s.curves = []curve{c}
		return s, err
	}
	if p.Space != "RGB " || p.PCS != "XYZ " {
		return nil, fmt.Errorf("the profile has neither a table nor a matrix for %q", p.Space)
	}
	for i, channel := range "rgb" {
		c, err := p.curve(string(channel) + "TRC")
		if err != nil {
			return nil, err
		}
		s.curves = append(s.curves, c)
		xyz := p.tags[string(channel)+"XYZ"]
		if len(xyz) < 20 || string(xyz[:4]) != "XYZ " {
			return nil, fmt.Errorf("the profile has no whole %cXYZ tag", channel)
		}
		for k := range 3 {
			s.matrix[k][i] = fixed(xyz[8+4*k:])
		}
	}
	var ok bool
	if s.inverse, ok = invert(s.matrix); !ok {
		return nil, fmt.Errorf("the primaries of the profile lie on a line")
	}
	return s, nil
}

// fixed reads an s15Fixed16Number.
func fixed(b []byte) float64 { return float64(int32(binary.BigEndian.Uint32(b))) / 65536 }

func invert(m [3][3]float64) (out [3][3]float64, ok bool) {
	minor := func(r, c int) float64 {
		a, b := (r+1)%3, (r+2)%3
		x, y := (c+1)%3, (c+2)%3
		return m[a][x]*m[b][y] - m[a][y]*m[b][x]
	}
	det := m[0][0]*minor(0, 0) + m[0][1]*minor(0, 1) + m[0][2]*minor(0, 2)
	if math.Abs(det) < 1e-9 {
		return out, false
	}
	for r := range 3 {
		for c := range 3 {
			out[c][r] = minor(r, c) / det
		}
	}
	return out, true
}

func (s *shaper) lab(dev []float64) color.Lab {
	if len(s.curves) == 1 {
		y := s.curves[0].at(clamp(dev[0]))
		return xyzToLab([3]float64{pcsWhite[0] * y, pcsWhite[1] * y, pcsWhite[2] * y})
	}
	var xyz [3]float64
	for i, c := range s.curves {
		v := c.at(clamp(dev[i]))
		for k := range xyz {
			xyz[k] += s.matrix[k][i] * v
		}
	}
	return xyzToLab(xyz)
}

func (s *shaper) device(lab color.Lab, dst []float64) {
	xyz := labToXYZ(lab)
	if len(s.curves) == 1 {
		dst[0] = s.curves[0].back(clamp(xyz[1]))
		return
	}
	for i, c := range s.curves {
		v := 0.0
		for k := range xyz {
			v += s.inverse[i][k] * xyz[k]
		}
		dst[i] = c.back(clamp(v))
	}
}

func clamp(v float64) float64 {
	if !(v > 0) {
		return 0
	}
	return math.Min(1, v)
}

func xyzToLab(xyz [3]float64) color.Lab {
	var f [3]float64
	for i := range xyz {
		if t := xyz[i] / pcsWhite[i]; t > 216./24389 {
			f[i] = math.Cbrt(t)
		} else {
			f[i] = (24389./27*t + 16) / 116
		}
	}
	return color.Lab{L: 116*f[1] - 16, A: 500 * (f[0] - f[1]), B: 200 * (f[1] - f[2])}
}

func labToXYZ(c color.Lab) [3]float64 {
	fy := (c.L + 16) / 116
	var out [3]float64
	for i, f := range [3]float64{fy + c.A/500, fy, fy - c.B/200} {
		t := f * f * f
		if t <= 216./24389 {
			t = (116*f - 16) * 27 / 24389
		}
		out[i] = t * pcsWhite[i]
	}
	return out
}

// curve is a tone curve over 0 to 1 (ICC.1:2022, 10.6 and 10.18).
type curve struct {
	table []float32  // sampled, if it has entries
	kind  int        // else the function type of a parametric curve
	p     [7]float64 // g a b c d e f
}

func (p *Profile) curve(tag string) (curve, error) {
	d, ok := p.tags[tag]
	if !ok || len(d) < 12 {
		return curve{}, fmt.Errorf("the profile has no whole %s tag", tag)
	}
	switch string(d[:4]) {
	case "curv":
		n := int(binary.BigEndian.Uint32(d[8:]))
		switch {
		case n == 0:
			return curve{p: [7]float64{1}}, nil
		case n > 1<<16 || 12+2*n > len(d):
			return curve{}, fmt.Errorf("the curve %s of the profile claims %d entries, more than fit into it", tag, n)
		case n == 1:
			return curve{p: [7]float64{float64(binary.BigEndian.Uint16(d[12:])) / 256}}, nil
		}
		c := curve{table: make([]float32, n)}
		for i := range c.table {
			c.table[i] = float32(binary.BigEndian.Uint16(d[12+2*i:])) / 65535
		}
		return c, nil
	case "para":
		kind := int(binary.BigEndian.Uint16(d[8:]))
		counts := []int{1, 3, 4, 5, 7}
		if kind >= len(counts) || 12+4*counts[kind] > len(d) {
			return curve{}, fmt.Errorf("the curve %s of the profile is of an unknown kind %d or cut off", tag, kind)
		}
		c := curve{kind: kind}
		for i := range counts[kind] {
			c.p[i] = fixed(d[12+4*i:])
		}
		if c.p[0] <= 0 || kind > 0 && c.p[1] == 0 {
			return curve{}, fmt.Errorf("the curve %s of the profile has senseless parameters", tag)
		}
		return c, nil
	}
	return curve{}, fmt.Errorf("the curve %s of the profile is of the type %q, which is not read", tag, d[:4])
}

// at evaluates the curve; x and the result are 0 to 1.
func (c curve) at(x float64) float64 {
	if c.table != nil {
		return sample(c.table, x)
	}
	g, a, b, cc, d, e, f := c.p[0], c.p[1], c.p[2], c.p[3], c.p[4], c.p[5], c.p[6]
	power := func(offset float64) float64 { return math.Pow(math.Max(0, a*x+b), g) + offset }
	var y float64
	switch c.kind {
	case 0:
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
func (c curve) back(y float64) float64 {
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
