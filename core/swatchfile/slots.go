package swatchfile

import (
	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/library"
	"huekeep/core/scale"
	"slices"
)

// Slot is one of the twelve named colors of an ECMA-376 color scheme.
type Slot struct {
	Name  string // dk1, lt1, dk2, lt2, accent1 to accent6, hlink, folHlink
	Color library.Color
	Why   string // why this color took the slot, as a sentence fragment
}

var slotNames = [12]string{"dk1", "lt1", "dk2", "lt2", "accent1", "accent2", "accent3", "accent4", "accent5", "accent6", "hlink", "folHlink"}

// ThemeSlots gives the colors of a set, in its order, to the twelve slots.
//
// Text and ground come first, since a theme without legible text is none: the lightest color that is next to gray, or that
// the library calls a neutral, is the ground (white if the set has none lighter than L* 85: a pale tint must not become
// the page of a whole deck), the darkest neutral that reads on it at 7:1 the text (black if there is none). The next such
// pair fills dk2 and lt2, which may be tinted. What is left takes the accents in order; where a set is short of six, tints of
// its accents follow. Links are the first accents that read on the ground at 4.5:1.
func ThemeSlots(set []library.Color) [12]Slot {
	used := make([]bool, len(set))
	take := func(why string, better func(a, b library.Color) bool, fits func(library.Color) bool) (library.Color, string, bool) {
		best := -1
		for i, c := range set {
			if !used[i] && fits(c) && (best < 0 || better(c, set[best])) {
				best = i
			}
		}
		if best < 0 {
			return library.Color{}, "", false
		}
		used[best] = true
		return set[best], why, true
	}
	lighter := func(a, b library.Color) bool { return a.RGB.Luminance() > b.RGB.Luminance() }
	textBetter := func(a, b library.Color) bool {
		if n, m := a.Role == "neutral", b.Role == "neutral"; n != m {
			return n
		}
		return lighter(b, a)
	}
	light := func(c library.Color) bool { return c.RGB.Lab().L >= 85 }
	page := func(c library.Color) bool {
		chroma := c.RGB.Lab().LCh().C
		return light(c) && (chroma <= nearGray || c.Role == library.Neutral && chroma <= tinged)
	}
	var slots [12]Slot
	set2 := func(i int, c library.Color, why string) { slots[i] = Slot{slotNames[i], c, why} }

	lt1, why, ok := take("the lightest neutral", lighter, page)
	if !ok {
		lt1, why = library.Color{Name: "White", RGB: color.RGB8{R: 255, G: 255, B: 255}}, "added: the set has no light neutral"
	}
	set2(1, lt1, why)
	reads := func(ratio float64) func(library.Color) bool {
		return func(c library.Color) bool { return contrast.Ratio(c.RGB, lt1.RGB) >= ratio }
	}
	dk1, why, ok := take("the darkest neutral", textBetter, reads(7))
	if !ok {
		dk1, why = library.Color{Name: "Black"}, "added: no color of the set reads on the ground at 7:1"
	}
	set2(0, dk1, why)
	lt2, why, ok := take("the next lightest color", lighter, func(c library.Color) bool { return c.RGB.Lab().L >= 78 && c.Role == "neutral" })
	if !ok {
		if lt2, why, ok = take("the next lightest color", lighter, light); !ok {
			lt2, why = lt1, "repeats lt1"
		}
	}
	set2(3, lt2, why)
	dk2, why, ok := take("the darkest color left", func(a, b library.Color) bool { return lighter(b, a) }, reads(7))
	if !ok {
		dk2, why = dk1, "repeats dk1"
	}
	set2(2, dk2, why)

	var accents []library.Color
	for i, c := range set {
		if !used[i] {
			accents = append(accents, c)
		}
	}
	if len(accents) == 0 {
		accents = append(accents, dk2)
	} else if dk2.Name != dk1.Name {
		accents = append(accents, dk2) // a short set shows its dark ground color again before it is tinted
	}
	for i, c := range withTints(accents, lt1) {
		why := "accent " + itoa(i+1) + " in the order of the set"
		switch {
		case i >= len(accents):
			why = "added: the set is short of six accents"
		case c.Name == dk2.Name:
			why = "repeats dk2"
		}
		set2(4+i, c, why)
	}
	links := []library.Color{}
	for _, c := range accents {
		if reads(4.5)(c) && len(links) < 2 {
			links = append(links, c)
		}
	}
	for len(links) < 2 {
		links = append(links, dk2)
	}
	set2(10, links[0], "reads on the ground at 4.5:1")
	set2(11, links[1], "reads on the ground at 4.5:1")
	return slots
}

const (
	nearGray = 5  // CIELAB chroma up to which a ground is next to gray
	tinged   = 12 // up to which a neutral of the library may be one
	apart    = 3  // ΔE00 that an accent needs from the ground and from the others
)

// withTints is the first six accents, and tints of them where there are fewer: 60 percent of each in turn, then 40, 80 and 25.
func withTints(accents []library.Color, ground library.Color) []library.Color {
	out := slices.Clone(accents[:min(6, len(accents))])
	differs := func(c color.RGB8) bool {
		for _, o := range append(out, ground) {
			if color.DeltaE00(c.Lab(), o.RGB.Lab()) < apart {
				return false
			}
		}
		return true
	}
	for _, percent := range []float64{60, 40, 80, 25, 50, 70, 90} {
		for _, c := range accents {
			if tint := scale.Tint(c.RGB, percent); len(out) < 6 && differs(tint) {
				out = append(out, library.Color{Name: c.Name + " " + itoa(int(percent)) + " %", RGB: tint, Role: c.Role})
			}
		}
	}
	for i := 0; len(out) < 6; i++ { // a set of white alone
		out = append(out, out[i])
	}
	return out
}
