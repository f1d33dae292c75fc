package board

import (
	"math"

	"huekeep/core/color"
	"huekeep/core/contrast"
)

// Apart is how far two proposed options are at least from each other in their ground or in their type, ΔE00.
const Apart = 10

// Most is how many options are proposed.
const Most = 6

// Propose makes up to Most options of a subject's colors: in each everything can be read, no two are less than Apart from each other
// both in ground and in type, and the first few differ most. The first is the one with most contrast.
func Propose(colors []Paint, typeface string) []Option {
	var parts []Paint // each value once
	seen := map[string]bool{}
	for _, p := range colors {
		if !seen[p.Hex] {
			seen[p.Hex] = true
			parts = append(parts, p)
		}
	}
	labs := make([]color.Lab, len(parts))
	for i, p := range parts {
		labs[i] = p.RGB().Lab()
	}
	apart := make([][]float64, len(parts))
	for i := range parts {
		apart[i] = make([]float64, len(parts))
		for j := range i {
			apart[i][j] = color.DeltaE00(labs[i], labs[j])
			apart[j][i] = apart[i][j]
		}
	}
	var can []pair
	best := 0
	for g := range parts {
		for t := range parts {
			ratio := contrast.Ratio(parts[g].RGB(), parts[t].RGB())
			if g == t || ratio < contrast.TextAA {
				continue
			}
			can = append(can, pair{g, t, ratio})
			if ratio > can[best].ratio {
				best = len(can) - 1
			}
		}
	}
	if len(can) == 0 {
		return nil
	}
	var out []Option
	least := make([]float64, len(can)) // how far each is from those that are taken; the ground is what one sees first
	for i := range least {
		least[i] = math.Inf(1)
	}
	for at := best; at >= 0 && len(out) < Most; {
		p := can[at]
		out = append(out, option(p, parts, apart, typeface))
		at = -1
		for i, q := range can {
			ground, type_ := apart[p.ground][q.ground], apart[p.type_][q.type_]
			if max(ground, type_) < Apart {
				least[i] = -1
				continue
			}
			least[i] = min(least[i], 2*ground+type_)
			if least[i] > 0 && (at < 0 || least[i] > least[at]) {
				at = i
			}
		}
	}
	return out
}

type pair struct {
	ground, type_ int
	ratio         float64
}

// option sets a pair to work, with up to two accents: colors that stand on the ground as signs, take a label, and are
// farthest from both.
func option(p pair, parts []Paint, apart [][]float64, typeface string) Option {
	o := Option{Ground: parts[p.ground], Type: parts[p.type_], Typeface: typeface, Size: Medium}
	taken := []int{p.ground, p.type_}
	for range 2 {
		best, far := -1, 0.0
		for i, a := range parts {
			if contrast.Ratio(a.RGB(), o.Ground.RGB()) < contrast.Graphics {
				continue
			}
			label := max(contrast.Ratio(a.RGB(), o.Ground.RGB()), contrast.Ratio(a.RGB(), o.Type.RGB()))
			if label < contrast.TextAA {
				continue
			}
			d := math.Inf(1)
			for _, t := range taken {
				d = min(d, apart[i][t])
			}
			if d >= Apart && d > far {
				best, far = i, d
			}
		}
		if best < 0 {
			break
		}
		o.Accents, taken = append(o.Accents, parts[best]), append(taken, best)
	}
	return o
}
