package color

import "math"

// RGB is an sRGB color with its transfer curve applied; 0 to 1 is inside the gamut, values outside are kept.
type RGB struct{ R, G, B float64 }

// Linear is sRGB without its transfer curve; 0 to 1 inside the gamut.
type Linear struct{ R, G, B float64 }

// XYZ is CIE 1931 XYZ relative to the D65 white, Y of white being 1.
type XYZ struct{ X, Y, Z float64 }

type matrix [3][3]float64

func (m *matrix) mul(a, b, c float64) (x, y, z float64) {
	return m[0][0]*a + m[0][1]*b + m[0][2]*c,
		m[1][0]*a + m[1][1]*b + m[1][2]*c,
		m[2][0]*a + m[2][1]*b + m[2][2]*c
}

// The exact rationals of CSS Color 4, derived from the sRGB primaries.
var (
	linearToXYZ = matrix{
		{506752. / 1228815, 87881. / 245763, 12673. / 70218},
		{87098. / 409605, 175762. / 245763, 12673. / 175545},
		{7918. / 409605, 87881. / 737289, 1001167. / 1053270},
	}
	xyzToLinear = matrix{
		{12831. / 3959, -329. / 214, -1974. / 3959},
		{-851781. / 878810, 1648619. / 878810, 36519. / 878810},
		{705. / 12673, -2585. / 12673, 705. / 667},
	}
)

// decode is the sRGB transfer curve of IEC 61966-2-1, mirrored for negative values as CSS Color 4 does.
func decode(v float64) float64 {
	a := math.Abs(v)
	if a <= 0.04045 {
		return v / 12.92
	}
	return math.Copysign(math.Pow((a+0.055)/1.055, 2.4), v)
}

func encode(v float64) float64 {
	a := math.Abs(v)
	if a <= 0.0031308 {
		return v * 12.92
	}
	return math.Copysign(1.055*math.Pow(a, 1/2.4)-0.055, v)
}

// decode8 spares the power for the 256 values that files hold.
var decode8 = func() (t [256]float64) {
	for i := range t {
		t[i] = decode(float64(i) / 255)
	}
	return t
}()

// Linear removes the transfer curve.
func (c RGB) Linear() Linear { return Linear{decode(c.R), decode(c.G), decode(c.B)} }

// RGB applies the transfer curve.
func (c Linear) RGB() RGB { return RGB{encode(c.R), encode(c.G), encode(c.B)} }

// XYZ returns the color relative to D65.
func (c Linear) XYZ() XYZ {
	x, y, z := linearToXYZ.mul(c.R, c.G, c.B)
	return XYZ{x, y, z}
}

// Linear returns linear sRGB, possibly outside 0 to 1.
func (c XYZ) Linear() Linear {
	r, g, b := xyzToLinear.mul(c.X, c.Y, c.Z)
	return Linear{r, g, b}
}

// InGamut says whether every channel lies in 0 to 1, with the slack that rounding errors of conversions need.
func (c RGB) InGamut() bool {
	const eps = 1e-6
	in := func(v float64) bool { return v >= -eps && v <= 1+eps }
	return in(c.R) && in(c.G) && in(c.B)
}

// Clip moves each channel into 0 to 1 on its own; Map is the better choice where hue matters.
func (c RGB) Clip() RGB { return RGB{clamp01(c.R), clamp01(c.G), clamp01(c.B)} }

// RGB8 rounds to 8 bits a channel; a color outside the gamut is mapped first (CSS Color 4, see Map).
func (c RGB) RGB8() RGB8 {
	if !c.InGamut() {
		c = c.Map()
	}
	// What conversions leave of a difference makes no gray colored, and no half a level less.
	if hi, lo := max(c.R, c.G, c.B), min(c.R, c.G, c.B); hi-lo < noise {
		c.R = (c.R + c.G + c.B) / 3
		c.G, c.B = c.R, c.R
	}
	c = c.Clip()
	return RGB8{round8(c.R), round8(c.G), round8(c.B)}
}

// noise is what a conversion there and back may add to a channel; a level is 1/255.
const noise = 2e-6

// Encode8 is the sRGB level of linear light, held to 0 to 255: what Linear.RGB gives, looked up, so that it costs a pixel
// little. 16,384 steps are fine enough that even the dark levels, which lie closest together, are told apart.
func Encode8(v float32) uint8 {
	return encode8[int(min(max(v, 0), 1)*(encodeSteps-1)+0.5)]
}

const encodeSteps = 1 << 14

var encode8 = func() (t [encodeSteps]uint8) {
	for i := range t {
		t[i] = round8(encode(float64(i) / (encodeSteps - 1)))
	}
	return t
}()

// Luminance is the relative luminance of WCAG 2.2, 0 to 1.
func (c RGB8) Luminance() float64 {
	return 0.2126*decode8[c.R] + 0.7152*decode8[c.G] + 0.0722*decode8[c.B]
}

// Gray is the gray of the same relative luminance.
func (c RGB) Gray() RGB {
	l := c.Linear()
	g := encode(0.2126*l.R + 0.7152*l.G + 0.0722*l.B)
	return RGB{g, g, g}
}

func clamp01(v float64) float64 { return math.Min(1, math.Max(0, v)) }

// round8 is the nearest level; halves go up.
func round8(v float64) uint8 { return uint8(min(255, math.Floor(v*255+0.5+noise))) }
