package gradient

import (
	"cmp"
	"math"
	"slices"

	"huekeep/core/color"
)

// Proposal is a gradient between colors of a library, to begin from.
type Proposal struct {
	Kind  string // quiet, strong, three stops or past gray
	Space string
	At    []int     // which colors, from the first stop on
	Place []float64 // of each, in percent
}

// The bounds are ours, in OKLCH: hues in degrees, lightness 0 to 1.
const (
	grayChroma = 0.03 // under it a color has no hue to speak of
	mostLooked = 40   // colors that are looked at, the most colorful first
	ofAKind    = 2
)

// Propose makes gradients of colors: quiet ones between neighbors in hue, strong ones between colorful colors whose mixture stays colorful,
// some past gray, which would go through it on the straight way, and some over three stops from dark to light. The best of each kind come
// first, and no two colors go together twice in a kind.
func Propose(colors []color.RGB8) []Proposal {
	type one struct {
		at int
		color.OKLCH
	}
	var list []one
	seen := map[color.RGB8]bool{}
	for i, c := range colors {
		if !seen[c] {
			list = append(list, one{i, c.RGB().OKLab().OKLCH()})
		}
		seen[c] = true
	}
	slices.SortStableFunc(list, func(a, b one) int { return cmp.Compare(b.C, a.C) })
	list = list[:min(len(list), mostLooked)]

	turn := func(a, b one) float64 {
		if a.C < grayChroma || b.C < grayChroma {
			return 0
		}
		return math.Abs(math.Mod(b.H-a.H+540, 360) - 180)
	}
	// dullest is the least chroma on the straight way.
	dullest := func(a, b one) float64 {
		x, y := a.OKLab(), b.OKLab()
		da, db := y.A-x.A, y.B-x.B
		f := 0.0
		if d := da*da + db*db; d > 0 {
			f = min(1, max(0, -(x.A*da+x.B*db)/d))
		}
		return math.Hypot(x.A+f*da, x.B+f*db)
	}
	found := map[string][]rated{}
	add := func(kind, space string, worth float64, at ...one) {
		p := Proposal{Kind: kind, Space: space}
		for i, c := range at {
			p.At = append(p.At, c.at)
			p.Place = append(p.Place, 100*float64(i)/float64(len(at)-1))
		}
		found[kind] = append(found[kind], rated{p, worth})
	}
	for i, a := range list {
		for _, b := range list[i+1:] {
			dark, light := a, b
			if dark.L > light.L {
				dark, light = light, dark
			}
			apart, hue, dull := light.L-dark.L, turn(a, b), dullest(a, b)
			switch colorful := min(a.C, b.C) > 2*grayChroma; {
			case hue <= 45 && apart >= 0.08 && apart <= 0.5 && max(a.C, b.C) > grayChroma:
				add("quiet", "oklab", dull/2-math.Abs(apart-0.25)-hue/200-2*math.Abs(a.C-b.C), dark, light)
			case colorful && hue > 35 && dull > 0.55*min(a.C, b.C):
				add("strong", "oklab", dull+apart/4, dark, light)
			case colorful && hue > 75:
				add("past gray", "oklch", min(a.C, b.C)-math.Abs(apart-0.2)/2, dark, light)
			}
		}
	}
	for _, a := range list {
		for _, b := range list {
			for _, c := range list {
				if b.L-a.L < 0.12 || c.L-b.L < 0.12 || b.C < 2*grayChroma || turn(a, b) > 120 || turn(b, c) > 120 {
					continue
				}
				kept := dullest(a, b) + dullest(b, c)
				add("three stops", "oklab", kept-math.Abs((b.L-a.L)-(c.L-b.L))/2-(turn(a, b)+turn(b, c))/1500, a, b, c)
			}
		}
	}
	return best(found)
}

// rated is a proposal with what it is worth beside others of its kind.
type rated struct {
	Proposal
	worth float64
}

// best takes the best of each kind that share no color.
func best(found map[string][]rated) []Proposal {
	var out []Proposal
	for _, kind := range []string{"quiet", "strong", "three stops", "past gray"} {
		all := found[kind]
		slices.SortStableFunc(all, func(x, y rated) int { return cmp.Compare(y.worth, x.worth) })
		used := map[int]bool{}
		for _, p := range all {
			if len(used) > 0 && slices.ContainsFunc(p.At, func(i int) bool { return used[i] }) {
				continue
			}
			out = append(out, p.Proposal)
			for _, i := range p.At {
				used[i] = true
			}
			if len(used) >= ofAKind*len(p.At) {
				break
			}
		}
	}
	return out
}
