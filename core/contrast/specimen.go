package contrast

import (
	"cmp"
	"slices"
	"sort"

	"huekeep/core/color"
)

// Ground is a color of a set as a ground, with what every other color of the set is on it.
type Ground struct {
	At int    // the color's place in the set
	On []Type // most legible first
}

// Type is a color as type on a ground.
type Type struct {
	At    int // the color's place in the set
	Ratio float64
}

// Legible counts the colors that reach a ratio on the ground.
func (g Ground) Legible(ratio float64) int {
	return sort.Search(len(g.On), func(i int) bool { return g.On[i].Ratio < ratio })
}

// Specimen holds every color of a set as a ground against every other one as type. The ground that lets most colors stand on
// it as text comes first; among equals the one that lets most stand as large text, then the one with the highest ratio.
// Colors of one value stand in a set once or more; each counts.
func Specimen(set []color.RGB8) []Ground {
	luminance := make([]float64, len(set))
	for i, c := range set {
		luminance[i] = c.Luminance()
	}
	out := make([]Ground, len(set))
	for g := range set {
		out[g] = Ground{At: g, On: make([]Type, 0, max(0, len(set)-1))}
		for t := range set {
			if t == g {
				continue
			}
			light, dark := max(luminance[g], luminance[t]), min(luminance[g], luminance[t])
			out[g].On = append(out[g].On, Type{t, (light + 0.05) / (dark + 0.05)})
		}
		slices.SortStableFunc(out[g].On, func(a, b Type) int { return cmp.Compare(b.Ratio, a.Ratio) })
	}
	slices.SortStableFunc(out, func(a, b Ground) int {
		if c := cmp.Or(cmp.Compare(b.Legible(TextAA), a.Legible(TextAA)), cmp.Compare(b.Legible(LargeAA), a.Legible(LargeAA))); c != 0 ||
			len(a.On) == 0 {
			return c
		}
		return cmp.Compare(b.On[0].Ratio, a.On[0].Ratio)
	})
	return out
}

// Mend is how a pair is made to reach a ratio by changing one of its sides.
type Mend struct {
	Color  color.RGB8
	Ratio  float64 // that it then has
	DeltaE float64 // ΔE00 from the side as it was
	OK     bool    // false if no lightness of this side reaches the ratio
}

// ToPass gives the nearest type color that reaches the ratio on the ground, and the nearest ground that the type reaches it on.
func ToPass(text, ground color.RGB8, ratio float64) (changedType, changedGround Mend) {
	one := func(side, other color.RGB8) Mend {
		c, ok := Nearest(side, other, ratio)
		if !ok {
			return Mend{}
		}
		return Mend{c, Ratio(c, other), color.DeltaE00(side.Lab(), c.Lab()), true}
	}
	return one(text, ground), one(ground, text)
}
