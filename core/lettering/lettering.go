// Package lettering sets short texts, such as names that people gave to colors, in the typefaces that ship: which font has which
// character, how wide a text is, and in which order its letters stand.
package lettering

import (
	"bytes"
	"sync"
	"unicode"

	"github.com/go-fonts/dejavu/dejavusans"
	"github.com/go-fonts/dejavu/dejavusansbold"
	"github.com/go-fonts/dejavu/dejavusansmono"
	"github.com/tdewolff/font"
	"golang.org/x/image/font/opentype"
	"golang.org/x/text/unicode/bidi"

	"huekeep/core/typeface"
)

// Font is one font file.
type Font struct {
	Name string // PostScript name, made up from the family and what it can write
	TTF  []byte // TrueType
	sfnt *font.SFNT
}

// Face is a style as a list of fonts; the first that has a character writes it.
type Face []*Font

// Run is a piece of text in one font.
type Run struct {
	Font   *Font
	Text   string
	Glyphs []uint16
}

// Styles that ship: the letters of names, and of values.
var (
	Regular = sync.OnceValue(func() Face { return face("source-sans-3", 400, dejavusans.TTF) })
	Bold    = sync.OnceValue(func() Face { return face("source-sans-3", 700, dejavusansbold.TTF) })
	Mono    = sync.OnceValue(func() Face { return face("jetbrains-mono", 400, dejavusansmono.TTF) })
)

// Box stands for a character that no font has.
const Box = '□'

func face(key string, weight int, rest []byte) (out Face) {
	add := func(name string, data []byte) {
		ttf, err := font.ToSFNT(data)
		if err != nil {
			panic(err) // the file ships, and a test opens each
		}
		sfnt, err := font.ParseSFNT(ttf, 0)
		if err != nil {
			panic(err)
		}
		out = append(out, &Font{name, ttf, sfnt})
	}
	for _, part := range typeface.Parts {
		suffix := "Regular"
		if weight > 400 {
			suffix = "Bold"
		}
		add(key+"-"+part+"-"+suffix, typeface.File(key, part, weight))
	}
	add("dejavu", rest)
	if !bytes.Equal(rest, dejavusans.TTF) {
		add("dejavu-sans", dejavusans.TTF) // it has scripts that the others of its family lack
	}
	return out
}

// Runs parts a text by the fonts that write it, in the order in which it is seen: what is written from the right stands turned.
// Letters are not joined. Characters that are not seen are left out.
func (f Face) Runs(text string) (out []Run) {
	for _, r := range visual(text) {
		if !unicode.IsPrint(r) || unicode.Is(unicode.Mn, r) && !f.writes(r) {
			continue
		}
		if !f.writes(r) {
			r = Box
		}
		for _, font := range f {
			g := font.sfnt.GlyphIndex(r)
			if g == 0 {
				continue
			}
			if n := len(out); n == 0 || out[n-1].Font != font {
				out = append(out, Run{Font: font})
			}
			last := &out[len(out)-1]
			last.Text += string(r)
			last.Glyphs = append(last.Glyphs, g)
			break
		}
	}
	return out
}

func (f Face) writes(r rune) bool {
	for _, font := range f {
		if font.sfnt.GlyphIndex(r) != 0 {
			return true
		}
	}
	return false
}

// visual puts the characters of a line into the order in which they are seen (Unicode bidirectional algorithm).
func visual(text string) []rune {
	var p bidi.Paragraph
	if _, err := p.SetString(text); err != nil {
		return []rune(text)
	}
	order, err := p.Order()
	if err != nil {
		return []rune(text)
	}
	var out []rune
	for i := range order.NumRuns() {
		run := order.Run(i)
		s := run.String()
		if run.Direction() == bidi.RightToLeft {
			s = bidi.ReverseString(s)
		}
		out = append(out, []rune(s)...)
	}
	return out
}

// Missing says whether a text has characters that no font of the face has.
func (f Face) Missing(text string) bool {
	for _, r := range text {
		if unicode.IsPrint(r) && !f.writes(r) {
			return true
		}
	}
	return false
}

// Units is the advance of a run in thousandths of the type size.
func (r Run) Units() (sum float64) {
	for _, g := range r.Glyphs {
		sum += r.Font.Advance(g)
	}
	return sum
}

// Advance is that of a glyph in thousandths of the type size.
func (f *Font) Advance(glyph uint16) float64 {
	return float64(f.sfnt.GlyphAdvance(glyph)) * 1000 / float64(f.sfnt.Head.UnitsPerEm)
}

// Width is how wide a text is in a type size, in the size's unit.
func (f Face) Width(text string, size float64) (sum float64) {
	for _, r := range f.Runs(text) {
		sum += r.Units()
	}
	return sum * size / 1000
}

// Fit shortens a text to a width, with an ellipsis where something is left out.
func (f Face) Fit(text string, size, width float64) string {
	if f.Width(text, size) <= width {
		return text
	}
	r := []rune(text)
	low, high := 0, len(r) // as many characters fit as low, and high do not
	for low+1 < high {
		if middle := (low + high) / 2; f.Width(string(r[:middle])+"…", size) <= width {
			low = middle
		} else {
			high = middle
		}
	}
	return string(r[:low]) + "…"
}

// SFNT is the font as a reader of fonts knows it.
func (f *Font) SFNT() *font.SFNT { return f.sfnt }

// OpenType parses the font for drawing in pixels.
func (f *Font) OpenType() (*opentype.Font, error) { return opentype.Parse(f.TTF) }
