package color

import "math"

// MostChroma is the largest OKLCH chroma that sRGB has at a lightness (0 to 1) and hue (degrees).
func MostChroma(l, h float64) float64 {
	low, high := 0.0, 0.5
	for high-low > 1e-4 {
		if c := (low + high) / 2; (OKLCH{l, c, h}).OKLab().RGB().InGamut() {
			low = c
		} else {
			high = c
		}
	}
	return low
}

// Vivid is the most vivid screen color of a hue (degrees): its lightness is where the hue looks like itself, high for yellow and
// low for blue.
func Vivid(h float64) OKLCH {
	low, high := 0.05, 0.995
	for high-low > 1e-3 {
		a, b := low+(high-low)*0.382, low+(high-low)*0.618
		if MostChroma(a, h) < MostChroma(b, h) {
			low = a
		} else {
			high = b
		}
	}
	l := (low + high) / 2
	return OKLCH{l, MostChroma(l, h), h}
}

// Held8 is the screen color with the lightness and the hue of c, whose chroma is reduced as far as sRGB makes it: hues stay
// where Map, which clips what is left within a just noticeable difference, turns them by many degrees in pale and dark colors.
// Of the ways to round it, the one that turns the hue least is taken.
func (c OKLCH) Held8() RGB8 {
	if c.L >= 1-1e-6 {
		return RGB8{255, 255, 255}
	}
	if c.L <= 1e-6 {
		return RGB8{}
	}
	c.C = math.Min(c.C, MostChroma(c.L, c.H))
	rgb := c.OKLab().RGB().Clip()
	want := c.OKLab()
	best, least := RGB8{}, math.Inf(1)
	for i := range 8 {
		at := func(v float64, bit int) uint8 {
			if v *= 255; i>>bit&1 == 1 {
				return uint8(math.Min(255, math.Ceil(v)))
			}
			return uint8(math.Floor(v))
		}
		r := RGB8{at(rgb.R, 0), at(rgb.G, 1), at(rgb.B, 2)}
		got := r.RGB().OKLab()
		// What goes across the hue counts more than what goes along it.
		sin, cos := math.Sincos(c.H * math.Pi / 180)
		across, along := (got.B-want.B)*cos-(got.A-want.A)*sin, (got.A-want.A)*cos+(got.B-want.B)*sin
		if d := 16*across*across + along*along + (got.L-want.L)*(got.L-want.L); d < least {
			best, least = r, d
		}
	}
	return best
}
