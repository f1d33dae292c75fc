package color

import (
	"fmt"
	"math"
)

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

// RGB matrixes digital code values back into an R'G'B' signal, which leaves 0 to 1 for codes that no such color has.
func (m VideoMatrix) RGB(code [3]int, bits int, full bool) RGB {
	scale := math.Exp2(float64(bits - 8))
	y, cb, cr := (float64(code[0])/scale-16)/219, (float64(code[1])/scale-128)/224, (float64(code[2])/scale-128)/224
	if full {
		top, middle := math.Exp2(float64(bits))-1, math.Exp2(float64(bits-1))
		y, cb, cr = float64(code[0])/top, (float64(code[1])-middle)/top, (float64(code[2])-middle)/top
	}
	r, b := y+2*(1-m.Kr)*cr, y+2*(1-m.Kb)*cb
	return RGB{r, (y - m.Kr*r - m.Kb*b) / (1 - m.Kr - m.Kb), b}
}

// R103 checks narrow-range code values against EBU R 103: red, green and blue may lie between -5 and 105 percent of the
// signal, luma between -1 and 103 percent. It lists what leaves that range, in words and percent ("red 107.2 %"); an empty
// list passes.
func (m VideoMatrix) R103(code [3]int, bits int) []string {
	rgb := m.RGB(code, bits, false)
	y := (float64(code[0])/math.Exp2(float64(bits-8)) - 16) / 219
	// The recommendation's table gives the levels as codes, 5 and 246 at 8 bits.
	const low, high = (5. - 16) / 219 * 100, (246. - 16) / 219 * 100
	var out []string
	for _, part := range []struct {
		name         string
		v, low, high float64
	}{{"red", rgb.R, low, high}, {"green", rgb.G, low, high}, {"blue", rgb.B, low, high}, {"luma", y, -1, 103}} {
		if p := part.v * 100; p < part.low-1e-9 || p > part.high+1e-9 {
			out = append(out, fmt.Sprintf("%s %.1f %%", part.name, p))
		}
	}
	return out
}

// VideoForm is one way in which video writes a color.
type VideoForm struct {
	Name   string // as on the command line: "ycbcr709-10-full"
	System string // "BT.709"
	Matrix VideoMatrix
	Bits   int
	Full   bool // all codes, and not the narrow range
	wide   bool // the primaries are those of BT.2020
}

// VideoForms lists the systems, each with 8 and 10 bits, in narrow and full range.
var VideoForms = func() (out []VideoForm) {
	for _, s := range []struct {
		name, system string
		matrix       VideoMatrix
		wide         bool
	}{{"ycbcr601", "BT.601", BT601, false}, {"ycbcr709", "BT.709", BT709, false}, {"ycbcr2020", "BT.2020", BT2020, true}} {
		for _, bits := range []int{8, 10} {
			for _, full := range []bool{false, true} {
				name := s.name
				if bits == 10 {
					name += "-10"
				}
				if full {
					name += "-full"
				}
				out = append(out, VideoForm{name, s.system, s.matrix, bits, full, s.wide})
			}
		}
	}
	return out
}()

// Codes are the digital values of a screen color. The signal of BT.601 and BT.709 is taken to be that of sRGB, whose primaries
// BT.709 has; for BT.2020 the primaries are converted in linear light and the curve stays, so that grays keep their codes.
func (f VideoForm) Codes(c RGB8) [3]int { return f.CodesOf(c, c.RGB()) }

// CodesOf is Codes of a color that sRGB may not hold: BT.2020, which reaches further, has the color itself as far as it goes.
func (f VideoForm) CodesOf(c RGB8, exact RGB) [3]int {
	rgb := c.RGB()
	if f.wide {
		v := spaces["rec2020"].linear(exact)
		rgb = Linear{v[0], v[1], v[2]}.RGB().Clip()
	}
	return f.Matrix.YCbCr(rgb, f.Bits, f.Full)
}

// Problems lists what of the codes leaves the tolerance of EBU R 103 (see VideoMatrix.R103); the check is for the narrow range.
func (f VideoForm) Problems(codes [3]int) []string {
	if f.Full {
		return nil
	}
	return f.Matrix.R103(codes, f.Bits)
}
