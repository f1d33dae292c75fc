package vision

import (
	"math"

	"huekeep/core/color"
)

// Change is how one color of a confusable pair is moved so that the two stay apart.
type Change struct {
	First  bool // the pair's first color moves, and not its second
	Color  color.RGB8
	DeltaE float64 // ΔE00 from the color as it was, for normal vision
	OK     bool    // false if no lightness keeps them apart
}

// KeepApart is the smallest change of one of two colors after which they are at least apart, in ΔE00, with the deficiency
// and for normal vision. Only OKLCH lightness moves, since that is what every deficiency leaves; chroma gives way as far
// as the sRGB gamut forces it. The change is smallest on a grid of 1/400 of lightness.
func KeepApart(a, b color.RGB8, k Kind, severity, apart float64) Change {
	best := Change{DeltaE: math.Inf(1)}
	try := func(first bool, moved, other color.RGB8) {
		seen, plain := Simulate(other, k, severity).Lab(), other.Lab()
		was, from := moved.Lab(), moved.RGB().OKLab().OKLCH()
		for _, dir := range []float64{1, -1} {
			for step := 1.0; ; step++ {
				l := from.L + dir*step/400
				if l < 0 || l > 1 {
					break
				}
				c := color.OKLCH{L: l, C: from.C, H: from.H}.OKLab().RGB().RGB8()
				lab := c.Lab()
				de := color.DeltaE00(was, lab)
				if de >= best.DeltaE {
					break
				}
				if color.DeltaE00(Simulate(c, k, severity).Lab(), seen) >= apart && color.DeltaE00(lab, plain) >= apart {
					best = Change{first, c, de, true}
					break
				}
			}
		}
	}
	try(true, a, b)
	try(false, b, a)
	if !best.OK {
		return Change{}
	}
	return best
}
