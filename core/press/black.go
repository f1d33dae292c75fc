package press

import (
	"math"

	"huekeep/core/color"
)

// Variant is another whole-percent build than the profile's own, with less or more black or with nothing else.
type Variant struct {
	Whole  color.CMYK
	DeltaE float64 // ΔE00 from the look of the profile's own build, at most sameLook; of BlackOnly from the target
}

const (
	sameLook = 0.5 // ΔE00 under which two builds look the same
	farthest = 30  // percent of black that a variant differs by at most
	least    = 5   // percent of black that makes another build worth offering
)

// What is dark and gray enough to be printed as text in black alone: CIELAB lightness and chroma of the target.
const (
	textLightness = 45
	textChroma    = 12
)

// BlackOnly is the build of black ink alone that looks most like a dark neutral: type and fine lines in one ink stay sharp
// where four inks would show every error of register. DeltaE is from the target. It is nil for a color that is not a dark
// neutral.
func (c *Condition) BlackOnly(target color.Lab) *Variant {
	if lch := target.LCh(); lch.L > textLightness || lch.C > textChroma {
		return nil
	}
	best := Variant{DeltaE: math.Inf(1)}
	for k := 0.0; k <= 100; k++ {
		b := color.CMYK{K: k}
		if de := color.DeltaE00(target, c.Lab(b)); de < best.DeltaE {
			best = Variant{b, de}
		}
	}
	return &best
}

// Black looks for builds that look like b with as much less and more black as possible, up to 30 percent: the colored
// inks are solved for through the forward table, then rounded the way Build rounds. A result is nil where none exists, as
// for a bright color without black.
func (c *Condition) Black(b Build) (less, more *Variant) {
	return c.black(b, -1), c.black(b, 1)
}

func (c *Condition) black(b Build, direction float64) *Variant {
	s := search{c: c, aim: b.Lab, metric: color.MetricAt(b.Lab)}
	solved := []found{}
	inks := b.Whole.Array()
	for d := 1.0; d <= farthest; d++ {
		inks[3] = b.Whole.K + direction*d
		if inks[3] < 0 || inks[3] > 100 || inks[0]+inks[1]+inks[2]+inks[3] > c.InkLimit {
			break
		}
		f := s.descend(inks, 3)
		if f.de > sameLook {
			break
		}
		inks = f.inks // the next step starts from here
		solved = append(solved, f)
	}
	for i := len(solved) - 1; i >= least-1; i-- { // the farthest that is still good when rounded
		s.frozen[3] = true
		whole := s.settle(s.rounded(solved[i].inks))
		build := color.CMYK{C: whole.inks[0], M: whole.inks[1], Y: whole.inks[2], K: whole.inks[3]}
		if de := color.DeltaE00(b.Lab, whole.lab); de <= sameLook && math.Abs(build.K-b.Whole.K) >= least {
			return &Variant{build, de}
		}
	}
	return nil
}
