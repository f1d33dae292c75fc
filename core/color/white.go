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
