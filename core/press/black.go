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
	exact := []color.CMYK{}
	cmy := [3]float64{b.Whole.C, b.Whole.M, b.Whole.Y}
	for d := 1.0; d <= farthest; d++ {
		k := b.Whole.K + direction*d
		if k < 0 || k > 100 {
			break
		}
		solved, reached := c.solve(b.Lab, cmy, k)
		if !reached {
			break
		}
		cmy = solved // the next step starts from here
		exact = append(exact, color.CMYK{C: cmy[0], M: cmy[1], Y: cmy[2], K: k})
	}
	for i := len(exact) - 1; i >= least-1; i-- { // the farthest that is still good when rounded
		whole := c.search(exact[i], b.Lab)
		if de := color.DeltaE00(b.Lab, c.Lab(whole)); de <= sameLook && math.Abs(whole.K-b.Whole.K) >= least {
			return &Variant{whole, de}
		}
	}
	return nil
}

// solve finds the colored inks that give target together with k percent of black, by Gauss-Newton from a start nearby.
func (c *Condition) solve(target color.Lab, cmy [3]float64, k float64) (out [3]float64, reached bool) {
	look := func(v [3]float64) [3]float64 {
		l := c.Lab(color.CMYK{C: v[0], M: v[1], Y: v[2], K: k})
		return [3]float64{l.L, l.A, l.B}
	}
	want := [3]float64{target.L, target.A, target.B}
	for range 12 {
		at := look(cmy)
		if color.DeltaE00(target, color.Lab{L: at[0], A: at[1], B: at[2]}) < sameLook/5 {
			return cmy, true
		}
		var slope [3][3]float64 // Lab by ink
		for i := range 3 {
			step := 1.0
			if cmy[i] > 99 {
				step = -1
			}
			moved := cmy
			moved[i] += step
			to := look(moved)
			for r := range 3 {
				slope[r][i] = (to[r] - at[r]) / step
			}
		}
		move, ok := solve3(slope, [3]float64{want[0] - at[0], want[1] - at[1], want[2] - at[2]})
		if !ok {
			return cmy, false
		}
		for i := range 3 {
			cmy[i] = math.Min(100, math.Max(0, cmy[i]+math.Min(10, math.Max(-10, move[i]))))
		}
	}
	at := look(cmy)
	return cmy, color.DeltaE00(target, color.Lab{L: at[0], A: at[1], B: at[2]}) < sameLook
}

// solve3 solves three linear equations by elimination with pivots.
func solve3(m [3][3]float64, v [3]float64) ([3]float64, bool) {
	for i := range 3 {
		pivot := i
		for r := i + 1; r < 3; r++ {
			if math.Abs(m[r][i]) > math.Abs(m[pivot][i]) {
				pivot = r
			}
		}
		if math.Abs(m[pivot][i]) < 1e-9 {
			return v, false
		}
		m[i], m[pivot], v[i], v[pivot] = m[pivot], m[i], v[pivot], v[i]
		for r := range 3 {
			if r == i {
				continue
			}
			f := m[r][i] / m[i][i]
			for k := i; k < 3; k++ {
				m[r][k] -= f * m[i][k]
			}
			v[r] -= f * v[i]
		}
	}
	for i := range 3 {
		v[i] /= m[i][i]
	}
	return v, true
}
