package picture

import (
	"math"

	"huekeep/core/color"
)

// Codes are the values of a picture's own color space, where that is light through three curves and a matrix: what its file has in the
// place of an sRGB value, 0 to 255 a channel. Those of two pictures of one space are equal.
type Codes struct {
	base  [3]float64      // linear sRGB of no light
	whole [3][3]float64   // by row, how much of linear red, green and blue the whole light of each channel is
	light [3][3]float64   // linear sRGB, less the base, to how much of each channel's light there is, 0 to 1
	share [3][256]float64 // of each code, the light of the channel, 0 to 1
	space string          // of color() in CSS that it is; empty for none
}

// newCodes makes the codes of what each of 256 values of each channel adds to linear sRGB; nil for what is no such space.
func newCodes(base [3]float32, part *[3][256][3]float32) *Codes {
	out := &Codes{}
	var columns [3][3]float64
	for c := range 3 {
		out.base[c] = float64(base[c])
		most, size := 0, 0.0
		for k := range 3 {
			columns[k][c] = float64(part[c][255][k])
			if v := math.Abs(columns[k][c]); v > size {
				most, size = k, v
			}
		}
		if size == 0 {
			return nil
		}
		for v := range 256 {
			out.share[c][v] = float64(part[c][v][most] / part[c][255][most])
			if v > 0 {
				out.share[c][v] = max(out.share[c][v], out.share[c][v-1])
			}
		}
	}
	var ok bool
	out.whole = columns
	if out.light, ok = inverse(columns); !ok {
		return nil
	}
	out.space = out.named()
	return out
}

// named is the space of CSS whose values the codes are, but for the rounding of a profile's numbers.
func (s *Codes) named() string {
	for _, name := range []string{"display-p3", "a98-rgb", "rec2020", "prophoto-rgb"} {
		same := true
		for i := range 125 {
			v := [3]float64{float64(i%5) / 4, float64(i/5%5) / 4, float64(i/25) / 4}
			c, _ := color.Coded(name, v)
			for k, code := range s.Of(c.RGB) {
				same = same && math.Abs(code-255*v[k]) < 0.75
			}
		}
		if same {
			return name
		}
	}
	return ""
}

// Beyond is what codes show, and whether that lies beyond sRGB; what the rounding of a profile's numbers takes out of it does not. Beyond
// it is written in the space of CSS that the codes are of.
func (s *Codes) Beyond(codes color.RGB8) (t color.Typed, beyond bool) {
	const half = 0.5 / 255
	at := [3]uint8{codes.R, codes.G, codes.B}
	v := s.base
	for k := range v {
		for c := range at {
			v[k] += s.whole[k][c] * s.share[c][at[c]]
		}
	}
	t = color.Typed{RGB: color.Linear{R: v[0], G: v[1], B: v[2]}.RGB(), Alpha: 1}
	in := t.RGB.Clip()
	if max(math.Abs(in.R-t.RGB.R), math.Abs(in.G-t.RGB.G), math.Abs(in.B-t.RGB.B)) < half {
		return t, false
	}
	four := func(v uint8) float64 { return math.Round(float64(v)/255*1e4) / 1e4 } // what tells one code from the next, and no more
	if c, ok := color.Coded(s.space, [3]float64{four(at[0]), four(at[1]), four(at[2])}); ok {
		t = c
	}
	return t, true
}

// Nearest are the codes that show a color as nearly as the space can.
func (s *Codes) Nearest(c color.RGB) color.RGB8 {
	v := s.Of(c)
	return color.RGB8{R: uint8(v[0] + 0.5), G: uint8(v[1] + 0.5), B: uint8(v[2] + 0.5)}
}

// Holds says whether the space has a color, but for what rounding to its codes takes.
func (s *Codes) Holds(c color.RGB) bool {
	for _, light := range s.lights(c) {
		if light < -1./512 || light > 1+1./512 {
			return false
		}
	}
	return true
}

func inverse(m [3][3]float64) (out [3][3]float64, ok bool) {
	minor := func(r, c int) float64 {
		r1, r2, c1, c2 := (r+1)%3, (r+2)%3, (c+1)%3, (c+2)%3
		return m[r1][c1]*m[r2][c2] - m[r1][c2]*m[r2][c1]
	}
	det := m[0][0]*minor(0, 0) + m[0][1]*minor(0, 1) + m[0][2]*minor(0, 2)
	for r := range 3 {
		for c := range 3 {
			out[c][r] = minor(r, c) / det
		}
	}
	return out, math.Abs(det) > 1e-9
}

// lights are how much of each channel's light makes a color, from 0 to 1 for those that the space has.
func (s *Codes) lights(c color.RGB) (out [3]float64) {
	l := c.Linear()
	v := [3]float64{l.R - s.base[0], l.G - s.base[1], l.B - s.base[2]}
	for c := range out {
		out[c] = s.light[c][0]*v[0] + s.light[c][1]*v[1] + s.light[c][2]*v[2]
	}
	return out
}

func (s *Codes) of(r, g, b float64) [3]float64 {
	return s.Of(color.RGB{R: r / 255, G: g / 255, B: b / 255})
}

// Of are the codes of a color, 0 to 255 with decimals; of one that the space does not hold those at its bounds.
func (s *Codes) Of(exact color.RGB) (codes [3]float64) {
	for c, light := range s.lights(exact) {
		low, high := 0, 255 // the last code with no more light
		for low < high {
			if mid := (low + high + 1) / 2; s.share[c][mid] <= light {
				low = mid
			} else {
				high = mid - 1
			}
		}
		codes[c] = float64(low)
		if low < 255 {
			if rise := s.share[c][low+1] - s.share[c][low]; rise > 0 {
				codes[c] += min(1, max(0, (light-s.share[c][low])/rise))
			}
		}
	}
	return codes
}

// Beside says whether two colors are no farther from each other than one step of each of the picture's own values.
func (s *Codes) Beside(meant, found color.RGB) bool {
	a, b := s.Of(meant), s.Of(found)
	for k := range a {
		if math.Abs(a[k]-b[k]) > 1+1e-3 {
			return false
		}
	}
	return s.Holds(meant)
}

// OneStep says whether two colors are no farther from each other than one step of each of the picture's own values, given that the second
// was rounded when it was taken over into sRGB.
func (s *Codes) OneStep(meant, found color.RGB8) bool {
	at := [3]float64{float64(found.R), float64(found.G), float64(found.B)}
	a, b := s.of(float64(meant.R), float64(meant.G), float64(meant.B)), s.of(at[0], at[1], at[2])
	var loose [3]float64 // what half a level of each channel moves
	for i := range at {
		low, high := at, at
		low[i], high[i] = max(0, at[i]-0.5), min(255, at[i]+0.5)
		x, y := s.of(low[0], low[1], low[2]), s.of(high[0], high[1], high[2])
		for k := range loose {
			loose[k] += max(math.Abs(x[k]-b[k]), math.Abs(y[k]-b[k]))
		}
	}
	for k := range a {
		if math.Abs(a[k]-b[k]) > 1+loose[k] {
			return false
		}
	}
	return true
}
