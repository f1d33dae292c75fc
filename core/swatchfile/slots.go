package swatchfile

import (
	"fmt"
	"slices"

	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/library"
	"huekeep/core/scale"
)

// Slot is one of the twelve named colors of an ECMA-376 color scheme.
type Slot struct {
	Name  string // one of library.SlotNames
	Color library.Color
	Why   string // why this color took the slot, as a sentence fragment
	Given bool   // by hand
}

// Places of slots in library.SlotNames.
const (
	text1, ground1, text2, ground2 = 0, 1, 2, 3
	firstAccent, link, linkSeen    = 4, 10, 11
)

// slotting is a set whose colors take slots.
type slotting struct {
	set   []library.Color
	slots [12]Slot
	used  []bool // colors of the set that have a slot to themselves
}

// ThemeSlots gives the colors of a set, in its order, to the twelve slots; those that were given by hand stay.
//
// Text and ground come first, since a theme without legible text is none: the lightest color that is next to gray, or that
// the library calls a neutral, is the ground (white if the set has none lighter than L* 85: a pale tint must not become
// the page of a whole deck), the darkest neutral that reads on it at 7:1 the text (black or white if there is none). The next such
// pair fills dk2 and lt2, which may be tinted. What is left takes the accents in order; where a set is short of six, tints of
// its accents follow. Links are the first accents that read on the ground at 4.5:1.
func ThemeSlots(set []library.Color, given ...library.Assigned) [12]Slot {
	s := slotting{set: set, used: make([]bool, len(set))}
	for i, name := range library.SlotNames {
		s.slots[i].Name = name
		for _, g := range given {
			if at := slices.IndexFunc(set, g.Color.Is); at >= 0 && g.Slot == name {
				s.slots[i] = Slot{name, set[at], "given by hand", true}
				if i < link { // a link may be a color that stands elsewhere
					s.used[at] = true
				}
			}
		}
	}
	s.pages()
	accents := s.accents()
	s.links(accents)
	return s.slots
}

// put fills a slot that was not given by hand.
func (s *slotting) put(i int, find func() (library.Color, string)) {
	if !s.slots[i].Given {
		s.slots[i].Color, s.slots[i].Why = find()
	}
}

// take takes the best of the colors that have no slot yet and fit.
func (s *slotting) take(better func(a, b library.Color) bool, fits func(library.Color) bool) (library.Color, bool) {
	best := -1
	for i, c := range s.set {
		if !s.used[i] && fits(c) && (best < 0 || better(c, s.set[best])) {
			best = i
		}
	}
	if best < 0 {
		return library.Color{}, false
	}
	s.used[best] = true
	return s.set[best], true
}

// reads says of colors whether they reach a ratio on the ground.
func (s *slotting) reads(ratio float64) func(library.Color) bool {
	return func(c library.Color) bool { return contrast.Ratio(c.RGB, s.slots[ground1].Color.RGB) >= ratio }
}

func lighter(a, b library.Color) bool { return a.RGB.Luminance() > b.RGB.Luminance() }

func darker(a, b library.Color) bool { return lighter(b, a) }

// light says of a color whether it may be the ground of a page.
func light(c library.Color) bool { return c.RGB.Lab().L >= 85 }

// pages fills the slots of text and ground.
func (s *slotting) pages() {
	textBetter := func(a, b library.Color) bool {
		if n, m := a.Role == library.Neutral, b.Role == library.Neutral; n != m {
			return n
		}
		return darker(a, b)
	}
	page := func(c library.Color) bool {
		chroma := c.RGB.Lab().LCh().C
		// A text that was given by hand has the last word.
		return light(c) && (chroma <= nearGray || c.Role == library.Neutral && chroma <= tinged) &&
			(!s.slots[text1].Given || contrast.Ratio(c.RGB, s.slots[text1].Color.RGB) >= readable)
	}
	s.put(ground1, func() (library.Color, string) {
		if c, ok := s.take(lighter, page); ok {
			return c, "the lightest neutral"
		}
		if s.slots[text1].Given && contrast.Ratio(white.RGB, s.slots[text1].Color.RGB) < readable {
			return black, "added: the text given by hand is light"
		}
		return white, "added: the set has no light neutral"
	})
	s.put(text1, func() (library.Color, string) {
		if c, ok := s.take(textBetter, s.reads(readable)); ok {
			return c, "the darkest neutral"
		}
		if c := black; s.reads(readable)(c) {
			return c, "added: no color of the set reads on the ground at 7:1"
		}
		return white, "added: no color of the set reads on the ground at 7:1"
	})
	s.put(ground2, func() (library.Color, string) {
		if c, ok := s.take(lighter, func(c library.Color) bool { return c.RGB.Lab().L >= 78 && c.Role == library.Neutral }); ok {
			return c, "the next lightest color"
		}
		if c, ok := s.take(lighter, light); ok {
			return c, "the next lightest color"
		}
		return s.slots[ground1].Color, "repeats lt1"
	})
	s.put(text2, func() (library.Color, string) {
		if c, ok := s.take(darker, s.reads(readable)); ok {
			return c, "the darkest color left"
		}
		return s.slots[text1].Color, "repeats dk1"
	})
}

// accents fills the slots of accents with what is left, and gives those: first what was given by hand.
func (s *slotting) accents() []library.Color {
	var accents []library.Color
	for i, c := range s.set {
		if !s.used[i] {
			accents = append(accents, c)
		}
	}
	dark := s.slots[text2].Color
	if len(accents) == 0 || dark.Name != s.slots[text1].Color.Name {
		accents = append(accents, dark) // a short set shows its dark ground color again before it is tinted
	}
	var free []int
	var kept []library.Color // accents given by hand
	for i := firstAccent; i < link; i++ {
		if s.slots[i].Given {
			kept = append(kept, s.slots[i].Color)
		} else {
			free = append(free, i)
		}
	}
	for n, c := range withTints(accents, kept, s.slots[ground1].Color, len(free)) {
		why := "accent " + itoa(free[n]-firstAccent+1) + " in the order of the set"
		switch {
		case n >= len(accents):
			why = "added: the set is short of six accents"
		case c.Name == dark.Name:
			why = "repeats dk2"
		}
		s.slots[free[n]].Color, s.slots[free[n]].Why = c, why
	}
	return append(kept, accents...)
}

// links fills the slots of links with the first accents that read.
func (s *slotting) links(accents []library.Color) {
	links := []library.Color{}
	for _, c := range accents {
		if s.reads(contrast.TextAA)(c) && len(links) < 2 {
			links = append(links, c)
		}
	}
	for len(links) < 2 {
		if dark := s.slots[text2].Color; s.reads(contrast.TextAA)(dark) {
			links = append(links, dark)
		} else {
			links = append(links, s.slots[text1].Color)
		}
	}
	for n, i := range []int{link, linkSeen} {
		s.put(i, func() (library.Color, string) { return links[n], "reads on the ground at 4.5:1" })
	}
}

// CheckSlots refuses slots given by hand that would make a theme illegible or that there are not, with a sentence.
func CheckSlots(set []library.Color, given []library.Assigned) error {
	seen := map[string]bool{}
	for _, g := range given {
		switch {
		case !slices.Contains(library.SlotNames[:], g.Slot):
			return fmt.Errorf("a theme has no slot %q; it has %v", g.Slot, library.SlotNames)
		case seen[g.Slot]:
			return fmt.Errorf("the slot %s is given twice", g.Slot)
		case !slices.ContainsFunc(set, g.Color.Is):
			return fmt.Errorf("%s is not in the set", g.Color.Name)
		}
		seen[g.Slot] = true
	}
	slots := ThemeSlots(set, given...)
	for _, pair := range []struct {
		of, on int
		ratio  float64
	}{{text1, ground1, readable}, {text2, ground1, readable}, {link, ground1, contrast.TextAA}, {linkSeen, ground1, contrast.TextAA}} {
		of, on := slots[pair.of], slots[pair.on]
		if r := contrast.Ratio(of.Color.RGB, on.Color.RGB); r < pair.ratio {
			return fmt.Errorf("%s as %s reads on %s as %s at %.1f:1 only; it needs %g:1", of.Color.Name, of.Name, on.Color.Name, on.Name, r,
				pair.ratio)
		}
	}
	return nil
}

var (
	white = library.Color{Name: "White", RGB: color.RGB8{R: 255, G: 255, B: 255}}
	black = library.Color{Name: "Black"}
)

const (
	readable = 7  // contrast ratio of text on its ground
	nearGray = 5  // CIELAB chroma up to which a ground is next to gray
	tinged   = 12 // up to which a neutral of the library may be one
	apart    = 3  // ΔE00 that an accent needs from the ground and from the others
)

// withTints is the first n accents, and tints of them where there are fewer: 60 percent of each in turn, then 40, 80 and 25.
func withTints(accents, kept []library.Color, ground library.Color, n int) []library.Color {
	out := slices.Clone(accents[:min(n, len(accents))])
	differs := func(c color.RGB8) bool {
		for _, o := range append(append(slices.Clone(out), kept...), ground) {
			if color.DeltaE00(c.Lab(), o.RGB.Lab()) < apart {
				return false
			}
		}
		return true
	}
	for _, percent := range []float64{60, 40, 80, 25, 50, 70, 90} {
		for _, c := range accents {
			if tint := scale.Tint(c.RGB, percent); len(out) < n && differs(tint) {
				out = append(out, library.Color{Name: c.Name + " " + itoa(int(percent)) + " %", RGB: tint, Role: c.Role})
			}
		}
	}
	for i := 0; len(out) < n; i++ { // a set of white alone
		out = append(out, accents[i%len(accents)])
	}
	return out
}
