package color

import "math"

// OKLab is the space of Ottosson (2020) with the matrices of CSS Color 4: L from 0 to 1, a and b about -0.4 to 0.4.
type OKLab struct{ L, A, B float64 }

// OKLCH is OKLab in polar form: chroma C from 0 to about 0.4, hue H in degrees from 0 to under 360.
type OKLCH struct{ L, C, H float64 }

var (
	xyzToLMS = matrix{
		{0.8190224379967030, 0.3619062600528904, -0.1288737815209879},
		{0.0329836539323885, 0.9292868615863434, 0.0361446663506424},
		{0.0481771893596242, 0.2642395317527308, 0.6335478284694309},
	}
	lmsToOK = matrix{
		{0.2104542683093140, 0.7936177747023054, -0.0040720430116193},
		{1.9779985324311684, -2.4285922420485799, 0.4505937096174110},
		{0.0259040424655478, 0.7827717124575296, -0.8086757549230774},
	}
	lmsToXYZ = matrix{
		{1.2268798758459243, -0.5578149944602171, 0.2813910456659647},
		{-0.0405757452148008, 1.1122868032803170, -0.0717110580655164},
		{-0.0763729366746601, -0.4214933324022432, 1.5869240198367816},
	}
	okToLMS = matrix{
		{1, 0.3963377773761749, 0.2158037573099136},
		{1, -0.1055613458156586, -0.0638541728258133},
		{1, -0.0894841775298119, -1.2914855480194092},
	}
)

// OKLab converts from XYZ (D65).
func (c XYZ) OKLab() OKLab {
	l, m, s := xyzToLMS.mul(c.X, c.Y, c.Z)
	L, a, b := lmsToOK.mul(math.Cbrt(l), math.Cbrt(m), math.Cbrt(s))
	return OKLab{L, a, b}
}

// XYZ converts to XYZ (D65).
func (c OKLab) XYZ() XYZ {
	l, m, s := okToLMS.mul(c.L, c.A, c.B)
	x, y, z := lmsToXYZ.mul(l*l*l, m*m*m, s*s*s)
	return XYZ{x, y, z}
}

// OKLab returns the color in OKLab.
func (c RGB) OKLab() OKLab { return c.Linear().XYZ().OKLab() }

// RGB returns sRGB, possibly outside 0 to 1.
func (c OKLab) RGB() RGB { return c.XYZ().Linear().RGB() }

// OKLCH returns the polar form; a color without chroma has hue 0.
func (c OKLab) OKLCH() OKLCH {
	chroma, hue := polar(c.A, c.B)
	return OKLCH{c.L, chroma, hue}
}

// OKLab returns the rectangular form.
func (c OKLCH) OKLab() OKLab {
	a, b := rectangular(c.C, c.H)
	return OKLab{c.L, a, b}
}

// deltaEOK is the Euclidean distance in OKLab that CSS Color 4 uses for gamut mapping.
func deltaEOK(a, b OKLab) float64 {
	dl, da, db := a.L-b.L, a.A-b.A, a.B-b.B
	return math.Sqrt(dl*dl + da*da + db*db)
}

// Map brings a color into the sRGB gamut as CSS Color 4 section 13.2 does: lightness and hue held, OKLCH chroma
// reduced by bisection until clipping what is left costs less than a just noticeable 0.02.
func (c RGB) Map() RGB {
	const jnd, eps = 0.02, 0.0001
	const rounding = 1e-6 // a lightness of 1 comes back from RGB a little below it
	origin := c.OKLab().OKLCH()
	if origin.L >= 1-rounding {
		return RGB{1, 1, 1}
	}
	if origin.L <= rounding {
		return RGB{0, 0, 0}
	}
	if c.InGamut() {
		return c
	}
	clipped := c.Clip()
	if deltaEOK(clipped.OKLab(), origin.OKLab()) < jnd {
		return clipped
	}
	lo, hi, loInGamut := 0.0, origin.C, true
	for hi-lo > eps {
		chroma := (lo + hi) / 2
		current := OKLCH{origin.L, chroma, origin.H}.OKLab()
		rgb := current.RGB()
		if loInGamut && rgb.InGamut() {
			lo = chroma
			continue
		}
		clipped = rgb.Clip()
		e := deltaEOK(clipped.OKLab(), current)
		if e < jnd {
			if jnd-e < eps {
				return clipped
			}
			loInGamut = false
			lo = chroma
		} else {
			hi = chroma
		}
	}
	return clipped
}
