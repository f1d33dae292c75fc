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

// LeastApart is KeepApart by a change of any kind, of lightness, chroma and hue together: the smallest that is found along some hundred
// ways out of each color in OKLab, and then level by level.
func LeastApart(a, b color.RGB8, k Kind, severity, apart float64) Change {
	best := KeepApart(a, b, k, severity, apart)
	if !best.OK {
		best.DeltaE = math.Inf(1)
	}
	try := func(first bool, moved, other color.RGB8) {
		seen, plain := Simulate(other, k, severity).Lab(), other.Lab()
		was, from := moved.Lab(), moved.RGB().OKLab()
		// does says how far a color is from the one that moves, if it keeps them apart and is nearer than the best.
		does := func(c color.RGB8) bool {
			lab := c.Lab()
			de := color.DeltaE00(was, lab)
			if de >= best.DeltaE-1e-9 || color.DeltaE00(lab, plain) < apart ||
				color.DeltaE00(Simulate(c, k, severity).Lab(), seen) < apart {
				return false
			}
			best = Change{first, c, de, true}
			return true
		}
		for i := range ways {
			z := 1 - 2*(float64(i)+0.5)/ways // evenly over a ball, along a spiral
			sin, cos := math.Sincos(float64(i) * math.Pi * (3 - math.Sqrt(5)))
			flat := math.Sqrt(1 - z*z)
			for step := 1.0; step <= 200; step++ {
				rgb := color.OKLab{L: from.L + z*step/200, A: from.A + flat*cos*step/200, B: from.B + flat*sin*step/200}.RGB()
				if !rgb.InGamut() {
					break
				}
				c := rgb.RGB8()
				if does(c) || color.DeltaE00(was, c.Lab()) >= best.DeltaE {
					break
				}
			}
		}
		if !best.OK || best.First != first {
			return
		}
		for better := true; better; {
			better = false
			at := best.Color
			for _, d := range [][3]int{{-1, 0, 0}, {1, 0, 0}, {0, -1, 0}, {0, 1, 0}, {0, 0, -1}, {0, 0, 1}, {-1, 1, 0}, {1, -1, 0},
				{0, -1, 1}, {0, 1, -1}, {-1, 0, 1}, {1, 0, -1}, {-1, -1, -1}, {1, 1, 1}, {-1, -1, 2}, {1, 1, -2}, {2, -1, -1}, {-2, 1, 1},
				{-1, 2, -1}, {1, -2, 1}} {
				r, g, b := int(at.R)+d[0], int(at.G)+d[1], int(at.B)+d[2]
				if min(r, g, b) >= 0 && max(r, g, b) <= 255 && does(color.RGB8{R: uint8(r), G: uint8(g), B: uint8(b)}) {
					better = true
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

// ways are the directions that are gone.
const ways = 400
