package color

import "math"

// HSL is hue in degrees (0 to under 360), saturation and lightness from 0 to 1 (CSS Color 4).
type HSL struct{ H, S, L float64 }

// HSV is hue in degrees, saturation and value (which others call brightness) from 0 to 1 (Smith 1978).
type HSV struct{ H, S, V float64 }

// HWB is hue in degrees, whiteness and blackness from 0 to 1 (CSS Color 4).
type HWB struct{ H, W, B float64 }

// HSL converts from sRGB. Outside of the gamut a saturation that would be negative turns the hue instead (CSS Color 4, 7).
func (c RGB) HSL() HSL {
	hi := math.Max(c.R, math.Max(c.G, c.B))
	lo := math.Min(c.R, math.Min(c.G, c.B))
	l, d := (hi+lo)/2, hi-lo
	if d == 0 {
		return HSL{0, 0, l}
	}
	out := HSL{hexHue(c, hi, d), 0, l}
	if l != 0 && l != 1 {
		out.S = (hi - l) / math.Min(l, 1-l)
	}
	if out.S < 0 {
		out.H, out.S = math.Mod(out.H+180, 360), -out.S
	}
	return out
}

// hexHue is the hue in degrees of a color with the given largest channel and spread.
func hexHue(c RGB, hi, d float64) float64 {
	var h float64
	switch hi {
	case c.R:
		h = (c.G - c.B) / d
		if h < 0 {
			h += 6
		}
	case c.G:
		h = (c.B-c.R)/d + 2
	default:
		h = (c.R-c.G)/d + 4
	}
	return h * 60
}

// RGB converts to sRGB.
func (c HSL) RGB() RGB {
	h := math.Mod(c.H, 360)
	if h < 0 {
		h += 360
	}
	f := func(n float64) float64 {
		k := math.Mod(n+h/30, 12)
		a := c.S * math.Min(c.L, 1-c.L)
		return c.L - a*math.Max(-1, math.Min(math.Min(k-3, 9-k), 1))
	}
	return RGB{f(0), f(8), f(4)}
}

// RGB converts to sRGB; whiteness and blackness that add up to more than 1 give a gray.
func (c HWB) RGB() RGB {
	if c.W+c.B >= 1-1e-12 {
		g := c.W / (c.W + c.B)
		return RGB{g, g, g}
	}
	rgb := HSL{c.H, 1, 0.5}.RGB()
	f := func(v float64) float64 { return v*(1-c.W-c.B) + c.W }
	return RGB{f(rgb.R), f(rgb.G), f(rgb.B)}
}

// HWB converts from sRGB.
func (c RGB) HWB() HWB {
	hi, lo := max(c.R, c.G, c.B), min(c.R, c.G, c.B)
	out := HWB{0, lo, 1 - hi}
	if hi > lo {
		out.H = hexHue(c, hi, hi-lo)
	}
	return out
}

// HSV converts from sRGB; the color must be inside the gamut.
func (c RGB) HSV() HSV {
	w := c.HWB()
	if w.B >= 1 {
		return HSV{w.H, 0, 0}
	}
	return HSV{w.H, 1 - w.W/(1-w.B), 1 - w.B}
}

// RGB converts to sRGB.
func (c HSV) RGB() RGB { return HWB{c.H, (1 - c.S) * c.V, 1 - c.V}.RGB() }
