package swatchfile

import (
	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/library"
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
// Text and ground come first, since a theme without legible text is none: the lightest color is the ground (white if
// the set has nothing lighter than L* 85), the darkest neutral that reads on it at 7:1 the text (black if there is
// none). The next such pair fills dk2 and lt2. What is left takes the accents in order; a short set starts over. Links
// are the first accents that read on the ground at 4.5:1.
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
	var slots [12]Slot
	set2 := func(i int, c library.Color, why string) { slots[i] = Slot{slotNames[i], c, why} }

	lt1, why, ok := take("the lightest color", lighter, light)
	if !ok {
		lt1, why = library.Color{Name: "White", RGB: color.RGB8{R: 255, G: 255, B: 255}}, "added: the set has no light color"
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
		accents = []library.Color{dk2, dk1}
	} else if dk2.Name != dk1.Name {
		accents = append(accents, dk2) // a short set shows its dark ground color again before it starts over
	}
	for i := range 6 {
		why := "accent " + itoa(i+1) + " in the order of the set"
		if i >= len(accents) {
			why = "repeats accent " + itoa(i%len(accents)+1)
		} else if accents[i].Name == dk2.Name {
			why = "repeats dk2"
		}
		set2(4+i, accents[i%len(accents)], why)
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
