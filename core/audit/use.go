// Package audit finds every color in a project file and judges it against a library.
//
// A scanner, one file of code a kind of file, reports uses: a color with its value as written, its place in words, the bytes that say it,
// the form in which another color could be written there, and what it is linked to (a theme slot, a variable). Judge then gives each color
// its verdict.
package audit

import (
	"fmt"
	"strconv"
	"unique"

	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/library"
	"huekeep/core/picture"
	"huekeep/core/press"
	"huekeep/core/source"
)

// Color is what a place says: a screen color, a build of inks, or a tint of a spot ink by name. Colors are compared, and are the keys of
// maps.
type Color struct {
	RGB  color.RGB8 // how it looks on a plain screen; of a build, as the coated press makes it
	ink  unique.Handle[Ink]
	wide unique.Handle[string] // see Beyond
}

// Ink is how a press is told a color.
type Ink struct {
	CMYK color.CMYK // the build, in percent, where no spot ink is named
	Spot string     // name of a spot ink
	Tint float64    // of the spot ink, 0 to 1
}

// Screen is a screen color.
func Screen(c color.RGB8) Color { return Color{RGB: c} }

// Seen is a screen color as somebody wrote it, beyond sRGB too.
func Seen(t color.Typed) Color {
	if !t.Outside() {
		return Screen(t.RGB8())
	}
	return Beyond(t.RGB8(), t.Exactly())
}

// Beyond is a screen color that sRGB does not hold, as color.Typed.Exactly writes it, with what plain screens show; without such a text it
// is what they show.
func Beyond(plain color.RGB8, text string) Color {
	if text == "" {
		return Screen(plain)
	}
	return Color{RGB: plain, wide: unique.Make(text)}
}

// Wide is the color as CSS writes it, where sRGB does not hold it; empty for others.
func (c Color) Wide() string {
	if c.wide == (unique.Handle[string]{}) {
		return ""
	}
	return c.wide.Value()
}

// InColor is a color of an ink, with its look.
func InColor(look color.RGB8, i Ink) Color { return Color{RGB: look, ink: unique.Make(i)} }

// Ink is the ink of a color that is none of a screen.
func (c Color) Ink() (i Ink, ok bool) {
	if c.ink == (unique.Handle[Ink]{}) {
		return i, false
	}
	return c.ink.Value(), true
}

// Spot is the name of the spot ink; empty for other colors.
func (c Color) Spot() string {
	i, _ := c.Ink()
	return i.Spot
}

// Build is the build of a color that is one.
func (c Color) Build() (color.CMYK, bool) {
	i, ok := c.Ink()
	return i.CMYK, ok && i.Spot == ""
}

// Key orders colors.
func (c Color) Key() string {
	i, inks := c.Ink()
	return fmt.Sprintf("%s %t %v %s %g %s", c.RGB.Hex(), inks, i.CMYK, i.Spot, i.Tint, c.Wide())
}

// Use is one or several occurrences of a color in one place. A file may have 200,000 of them, so that what few have is apart, in More.
type Use struct {
	Value string // as written: "E1572C", "accent1 lumMod 75%", "rgb(1 2 3)"
	Color
	Alpha  float64 // how opaque the value itself is, 0 to 1
	Where  string  // "slide 4, shape Group 2 > Arrow, fill"
	Link   string  // the definition that it points to, by its key; empty for a hard-coded value
	Define string  // the key of the definition that it is itself, for others to point to
	Count  int
	Line   int // of a text, from 1; 0 elsewhere
	Column int
	At     []source.Span // the bytes that say it, each in Form
	Form   form.Form     // nil where nothing can be written: then Fixed says why
	Fixed  string
	Why    string // why the color could not be determined; empty if it could
	Worked bool   // it is worked out of definitions, and becomes another color with them
	Chains bool   // as a definition it may point to one before it
	Pixels bool   // it is an area of a picture
	Hidden bool   // a copy for programs that cannot show the first: it is repainted with it and not counted
	More   *More  // nil for most
}

// More is what few uses have.
type More struct {
	// of a spot ink, its full tone on a screen as the file says it; nil if the file does not
	Solid *color.RGB8
	Codes *picture.Codes                            // of the picture that it was found in, if that is not sRGB
	Slack [3]float64                                // of what was compressed: how far it can be off, in Y'CbCr
	Paint Painting                                  // the picture that it is an area of, where that can be repainted
	Area  *Area                                     // of a picture
	Class string                                    // the utility class, or the rule made of one, that it stands in
	Names bool                                      // it stands in the name of that class itself
	Point func(has func(key string) bool) []Pointed // makes it point to a definition that has its color; nil if it cannot
}

// Rare is what few uses have; empty for the others.
func (u *Use) Rare() More {
	if u.More == nil {
		return More{}
	}
	return *u.More
}

// Linked says whether the use takes its color from a definition.
func (u *Use) Linked() bool { return u.Link != "" }

// fixed says whether no plan can change the use: it is no link, and where it stands cannot be written.
func (u *Use) fixed() bool {
	return !u.Linked() && (u.Fixed != "" || u.Form == nil && u.Rare().Paint == nil)
}

// Pointed is one of the places that are written when a use is to point to a definition.
type Pointed struct {
	At   source.Span
	New  string
	Says string // the definition, for a person
}

// Unread is a part that could not be read.
type Unread struct {
	Path string `json:"path"`
	Why  string `json:"why"`
}

// Scan is what was found in one file.
type Scan struct {
	Kind   string // of the table of kinds: "pptx"
	About  string // size in the user's terms: "38 slides, 1 chart"
	Uses   []*Use
	Notes  []string // what a person should know, as sentences
	Unread []Unread // parts that were there and could not be read
	Parts  int      // how many parts the file has, itself among them
	Alone  bool     // what was found does not hang on other files of the project, nor what is found in them on this one
	File   *source.File
	// of a file of a project, once that is finished: why it cannot be judged after all, which is that it uses too much of what is defined
	Over error
}

// Plural writes "1 slide", "38 slides", "50,001 lines".
func Plural(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	digits := strconv.Itoa(n)
	for i := len(digits) - 3; i > 0; i -= 3 {
		digits = digits[:i] + "," + digits[i:]
	}
	return digits + " " + what + "s"
}

// PluralAre writes "1 slide is", "38 slides are".
func PluralAre(n int, what string) string {
	if n == 1 {
		return Plural(n, what) + " is"
	}
	return Plural(n, what) + " are"
}

// ColorOf is a color as somebody wrote it; a build is seen on the coated press.
func ColorOf(c color.Typed) Color {
	if c.CMYK != nil {
		return InksColor(*c.CMYK)
	}
	return Seen(c)
}

// InksColor is a build, looked at on the coated press.
func InksColor(b color.CMYK) Color {
	return InColor(press.Coated().Lab(b).RGB().RGB8(), Ink{CMYK: b})
}

// Painting is a flat picture that can be repainted area by area.
type Painting interface {
	// Repaint writes the picture with colors of the library in place of areas, by what those show.
	Repaint(to map[Color]library.Color) ([]byte, error)
	// Shows is what an area shows, which showed something else, when it was painted with a color of the library: as near to it as the
	// picture's own values come.
	Shows(was Color, c library.Color) Color
	// Source is where the picture stands in its file.
	Source() *source.Part
}

// Area is an area of a picture as a use of its color.
type Area struct {
	Picture string // which one, by its place in the file; empty where the file is the picture
	Flat    bool   // it is one color; otherwise its color stands for many of a photo or a gradient, or is an end of one
}
