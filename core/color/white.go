package color

// Whites are the XYZ of standard illuminants for the 2 degree observer, Y being 1 (ASTM E308 and ISO/CIE 11664-2).
var Whites = map[string][3]float64{
	"A": {1.09850, 1, 0.35585}, "C": {0.98074, 1, 1.18232}, "D50": whiteD50, "D55": {0.95682, 1, 0.92149}, "D65": {0.95047, 1, 1.08883},
	"D75": {0.94972, 1, 1.22638}, "E": {1, 1, 1}, "F2": {0.99186, 1, 0.67393}, "F7": {0.95041, 1, 1.08747}, "F11": {1.00962, 1, 0.64350},
}

var bradford = matrix{{0.8951, 0.2664, -0.1614}, {-0.7502, 1.7135, 0.0367}, {0.0389, -0.0685, 1.0296}}

// AdaptedLab is the CIELAB (D50) of an XYZ that is relative to another white, by the Bradford transform (ICC.1:2022, annex E).
func AdaptedLab(x, y, z float64, white [3]float64) Lab {
	from0, from1, from2 := bradford.mul(white[0], white[1], white[2])
	to0, to1, to2 := bradford.mul(whiteD50[0], whiteD50[1], whiteD50[2])
	a, b, c := bradford.mul(x, y, z)
	back := bradford.inverse()
	return LabD50(back.mul(a*to0/from0, b*to1/from1, c*to2/from2))
}

// Adapted is a CIELAB that is relative to another white, as seen under D50.
func (c Lab) Adapted(white [3]float64) Lab {
	if white == whiteD50 {
		return c
	}
	fy := (c.L + 16) / 116
	return AdaptedLab(white[0]*labInverse(fy+c.A/500), white[1]*labInverse(fy), white[2]*labInverse(fy-c.B/200), white)
}

// FromPrimaries makes the conversion from linear light of three primaries to linear sRGB, by the chromaticities x and y of the
// white, the red, the green and the blue; white becomes white. ok is false where they span no triangle.
func FromPrimaries(xy [8]float64) (convert func(r, g, b float64) Linear, ok bool) {
	xyz := func(i int) [3]float64 {
		x, y := xy[i], xy[i+1]
		return [3]float64{x / y, 1, (1 - x - y) / y}
	}
	for i := 1; i < 8; i += 2 {
		if !(xy[i] > 1e-4 && xy[i] < 1 && xy[i-1] >= 0 && xy[i-1] < 1) {
			return nil, false
		}
	}
	white := xyz(0)
	var columns matrix
	for c := range 3 {
		for r, v := range xyz(2 + 2*c) {
			columns[r][c] = v
		}
	}
	if det := columns.determinant(); det < 1e-6 && det > -1e-6 {
		return nil, false
	}
	inverse := columns.inverse()
	sr, sg, sb := inverse.mul(white[0], white[1], white[2])
	from0, from1, from2 := bradford.mul(white[0], white[1], white[2])
	d65 := Linear{1, 1, 1}.XYZ()
	to0, to1, to2 := bradford.mul(d65.X, d65.Y, d65.Z)
	back := bradford.inverse()
	return func(r, g, b float64) Linear {
		a, b, c := bradford.mul(columns.mul(sr*r, sg*g, sb*b))
		x, y, z := back.mul(a*to0/from0, b*to1/from1, c*to2/from2)
		return XYZ{x, y, z}.Linear()
	}, true
}
