package color

import "math"

// VideoMatrix gives the luma coefficients of a Y'CbCr system.
type VideoMatrix struct{ Kr, Kb float64 }

// The systems of the ITU-R recommendations: BT.601-7, BT.709-6 and BT.2020-2 (non-constant luminance).
var (
	BT601  = VideoMatrix{0.299, 0.114}
	BT709  = VideoMatrix{0.2126, 0.0722}
	BT2020 = VideoMatrix{0.2627, 0.0593}
)

// YCbCr matrixes an R'G'B' signal (0 to 1 a channel, used as it is: no change of primaries or transfer curve) into
// digital code values. bits is 8 to 16; narrow range puts luma on 16 to 235 and chroma on 16 to 240 at 8 bits, full range
// uses every code.
func (m VideoMatrix) YCbCr(c RGB, bits int, full bool) [3]int {
	y := m.Kr*c.R + (1-m.Kr-m.Kb)*c.G + m.Kb*c.B
	cb, cr := (c.B-y)/(2*(1-m.Kb)), (c.R-y)/(2*(1-m.Kr))
	scale := math.Exp2(float64(bits - 8))
	top := math.Exp2(float64(bits)) - 1
	v := [3]float64{(16 + 219*y) * scale, (128 + 224*cb) * scale, (128 + 224*cr) * scale}
	if full {
		middle := math.Exp2(float64(bits - 1))
		v = [3]float64{top * y, middle + top*cb, middle + top*cr}
	}
	var out [3]int
	for i := range v {
		out[i] = int(math.Min(top, math.Max(0, math.Round(v[i]))))
	}
	return out
}
