// Package contrast says whether two colors can be told apart as text and ground, by WCAG 2.2.
package contrast

import (
	"math"

	"huekeep/core/color"
)

// Ratio is the contrast ratio of WCAG 2.2, 1 to 21; the order of the two colors does not matter.
func Ratio(a, b color.RGB8) float64 {
	x, y := a.Luminance(), b.Luminance()
	return (max(x, y) + 0.05) / (min(x, y) + 0.05)
}

// Cut gives a ratio with that many decimals as it is shown beside a verdict: cut, not rounded, so that 4.4999997 does not
// read 4.50 where it fails 4.5.
func Cut(ratio float64, decimals int) float64 {
	p := math.Pow10(decimals)
	return math.Floor(ratio*p+1e-9) / p // what multiplying loses must not take a digit away
}

// The least ratios of WCAG 2.2, success criteria 1.4.3, 1.4.6 and 1.4.11.
const (
	TextAA   = 4.5
	TextAAA  = 7
	LargeAA  = 3 // from 18 pt, or 14 pt bold
	LargeAAA = 4.5
	Graphics = 3 // parts of graphics and controls
)

// Grades are what a ratio is enough for: "AAA", "AA" or "fails", and whether graphics pass.
type Grades struct {
	Text, Large string
	Graphics    bool
}

// Grade grades a ratio. The ratio is not rounded first: 4.499 fails.
func Grade(ratio float64) Grades {
	grade := func(aa, aaa float64) string {
		switch {
		case ratio >= aaa:
			return "AAA"
		case ratio >= aa:
			return "AA"
		}
		return "fails"
	}
	return Grades{grade(TextAA, TextAAA), grade(LargeAA, LargeAAA), ratio >= Graphics}
}

// Nearest is the color closest to c that reaches the ratio on ground: OKLCH lightness alone moves, in the direction that
// needs the shorter way; chroma gives way only as far as the sRGB gamut forces it. ok is false if neither black nor
// white reaches the ratio. A color that passes already comes back as it is.
func Nearest(c, ground color.RGB8, ratio float64) (out color.RGB8, ok bool) {
	if Ratio(c, ground) >= ratio {
		return c, true
	}
	from := c.RGB().OKLab().OKLCH()
	at := func(l float64) color.RGB8 {
		return color.OKLCH{L: l, C: from.C, H: from.H}.OKLab().RGB().RGB8()
	}
	best, shortest := color.RGB8{}, 2.0 // longer than any way
	for _, end := range []float64{0, 1} {
		if Ratio(at(end), ground) < ratio {
			continue
		}
		near, far := from.L, end // bisect between what fails and what passes
		for range 40 {
			if mid := (near + far) / 2; Ratio(at(mid), ground) >= ratio {
				far = mid
			} else {
				near = mid
			}
		}
		if d := math.Abs(far - from.L); d < shortest {
			best, shortest = at(far), d
		}
	}
	return best, shortest <= 1
}
