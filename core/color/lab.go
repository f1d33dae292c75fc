package color

import "math"

// Lab is CIELAB (ISO/CIE 11664-4) relative to the D50 white of the print world, 2 degree observer:
// L from 0 to 100, a and b roughly -128 to 127.
type Lab struct{ L, A, B float64 }

// LCh is Lab in polar form: chroma C from 0, hue H in degrees from 0 to under 360.
type LCh struct{ L, C, H float64 }

// Bradford adaptation between D65 and D50 as printed in CSS Color 4.
var (
	d65ToD50 = matrix{
		{1.0479297925449969, 0.022946870601609652, -0.05019226628920524},
		{0.02962780877005599, 0.9904344267538799, -0.017073799063418826},
		{-0.009243040646204504, 0.015055191490298152, 0.7518742814281371},
	}
	d50ToD65 = matrix{
		{0.955473421488075, -0.02309845494876471, 0.06325924320057072},
		{-0.0283697093338637, 1.0099953980813041, 0.021041441191917323},
		{0.012314014864481998, -0.020507649298898964, 1.330365926242124},
	}
	whiteD50 = [3]float64{0.3457 / 0.3585, 1, (1 - 0.3457 - 0.3585) / 0.3585}
)

const (
	labEpsilon = 216. / 24389 // (6/29)^3
	labKappa   = 24389. / 27  // (29/3)^3
)

// Lab converts by Bradford adaptation from D65 to D50.
func (c XYZ) Lab() Lab {
	return LabD50(d65ToD50.mul(c.X, c.Y, c.Z))
}

// LabD50 is the CIELAB of XYZ that is relative to D50 already, Y of white being 1, as instruments give it.
func LabD50(x, y, z float64) Lab {
	fx, fy, fz := labF(x/whiteD50[0]), labF(y), labF(z/whiteD50[2])
	return Lab{116*fy - 16, 500 * (fx - fy), 200 * (fy - fz)}
}

func labF(t float64) float64 {
	if t > labEpsilon {
		return math.Cbrt(t)
	}
	return (labKappa*t + 16) / 116
}

func labInverse(f float64) float64 {
	if t := f * f * f; t > labEpsilon {
		return t
	}
	return (116*f - 16) / labKappa
}

// XYZ converts by Bradford adaptation from D50 to D65.
func (c Lab) XYZ() XYZ {
	fy := (c.L + 16) / 116
	x := whiteD50[0] * labInverse(fy+c.A/500)
	y := labInverse(fy)
	z := whiteD50[2] * labInverse(fy-c.B/200)
	x, y, z = d50ToD65.mul(x, y, z)
	return XYZ{x, y, z}
}

// Lab returns CIELAB, D50.
func (c RGB) Lab() Lab { return c.Linear().XYZ().Lab() }

// RGB returns sRGB, possibly outside 0 to 1.
func (c Lab) RGB() RGB { return c.XYZ().Linear().RGB() }

// LCh returns the polar form; a color without chroma has hue 0.
func (c Lab) LCh() LCh {
	chroma, hue := polar(c.A, c.B)
	return LCh{c.L, chroma, hue}
}

// Lab returns the rectangular form.
func (c LCh) Lab() Lab {
	a, b := rectangular(c.C, c.H)
	return Lab{c.L, a, b}
}

func polar(a, b float64) (chroma, hue float64) {
	chroma = math.Hypot(a, b)
	if chroma < 1e-9 {
		return 0, 0
	}
	hue = math.Atan2(b, a) * 180 / math.Pi
	if hue < 0 {
		hue += 360
	}
	return chroma, hue
}

func rectangular(chroma, hue float64) (a, b float64) {
	sin, cos := math.Sincos(hue * math.Pi / 180)
	return chroma * cos, chroma * sin
}
