// Package typeface holds the typefaces that boards are set in: those that ship, and what is asked of a font that somebody
// brings. The files that ship come from Fontsource packages; scripts/typefaces.sh copies them.
package typeface

import (
	"bytes"
	"embed"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"sync"
	"unicode"

	"github.com/tdewolff/canvas"
	"github.com/tdewolff/canvas/renderers/pdf"
	"github.com/tdewolff/font"

	"huekeep/core/limits"
)

// Typeface is a family in one or two weights. A weight may be parted into several files by what they can write; the first that
// has a character writes it.
type Typeface struct {
	Key, Name, Kind string
	Regular, Bold   [][]byte // WOFF2, TTF or OTF; Bold is empty for one weight
}

//go:embed files/*.woff2
var files embed.FS

var families = []struct{ key, name, kind string }{
	{"hanken-grotesk", "Hanken Grotesk", "grotesque"},
	{"source-sans-3", "Source Sans 3", "humanist sans"},
	{"spectral", "Spectral", "serif for reading"},
	{"libre-baskerville", "Libre Baskerville", "serif, classical"},
	{"zilla-slab", "Zilla Slab", "slab serif"},
	{"jetbrains-mono", "JetBrains Mono", "monospaced"},
	{"big-shoulders-display", "Big Shoulders Display", "for display"},
}

// Parts are what the files of a weight that ships can write, in the order in which they are asked.
var Parts = []string{"latin", "latin-ext"}

// Shipped lists the typefaces that ship.
var Shipped = sync.OnceValue(func() (out []Typeface) {
	for _, f := range families {
		t := Typeface{Key: f.key, Name: f.name, Kind: f.kind}
		for _, part := range Parts {
			t.Regular = append(t.Regular, File(f.key, part, 400))
			t.Bold = append(t.Bold, File(f.key, part, 700))
		}
		out = append(out, t)
	}
	return out
})

// File is one file that ships, as WOFF2; nil if there is none. The weight is 400 or 700.
func File(key, part string, weight int) []byte {
	data, err := files.ReadFile(fmt.Sprintf("files/%s-%s-%d-normal.woff2", key, part, weight))
	if err != nil {
		return nil
	}
	return data
}

// Find finds a typeface that ships.
func Find(key string) (Typeface, bool) {
	for _, t := range Shipped() {
		if t.Key == key {
			return t, true
		}
	}
	return Typeface{}, false
}

// Missing lists the characters of a text that a typeface cannot write, each once; spaces are always there.
func (t Typeface) Missing(text string) (out []rune, err error) {
	writes, err := Reach(t.Regular)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", t.Name, err)
	}
	seen := map[rune]bool{}
	for _, r := range text {
		if !unicode.IsSpace(r) && !seen[r] && writes(r) < 0 {
			out = append(out, r)
		}
		seen[r] = true
	}
	return out, nil
}

// Reach reads the files of a weight and says which of them writes a character: the first that has it, -1 if none does.
func Reach(weight [][]byte) (writes func(rune) int, err error) {
	fonts := make([]*font.SFNT, len(weight))
	for i, data := range weight {
		if fonts[i], err = parse(data); err != nil {
			return nil, err
		}
	}
	return func(r rune) int {
		return slices.IndexFunc(fonts, func(f *font.SFNT) bool { return f.GlyphIndex(r) != 0 })
	}, nil
}

// parse reads a font; whatever a damaged one does to the reader is an error.
func parse(data []byte) (f *font.SFNT, err error) {
	defer func() {
		if r := recover(); r != nil {
			f, err = nil, fmt.Errorf("the font is damaged: %v", r)
		}
	}()
	if f, err = font.ParseFont(data, 0); err != nil {
		err = fmt.Errorf("the font is damaged: %w", err)
	}
	return f, err
}

// Check looks at a font that somebody brings, WOFF2, TTF or OTF: that it is one, may be embedded, can write plain text, and can
// be set and embedded without fault. It returns the name that the font gives itself.
func Check(data []byte) (name string, err error) {
	kind := Kind(data)
	switch {
	case kind == "":
		return "", errors.New("this is no font; WOFF2, TTF and OTF files are taken")
	case len(data) > limits.FontBytes:
		return "", fmt.Errorf("the font has %s; at most %s are taken", limits.Size(int64(len(data))), limits.Size(limits.FontBytes))
	}
	f, err := parse(data)
	if err != nil {
		return "", err
	}
	if f.OS2 != nil && f.OS2.FsType&0x000F == 2 { // OpenType, OS/2, fsType: restricted license embedding
		return "", errors.New("the font says that it may not be embedded, and a sheet that is sent has it inside")
	}
	for r := 'A'; r <= 'z'; r++ {
		if unicode.IsLetter(r) && f.GlyphIndex(r) == 0 {
			return "", fmt.Errorf("the font has no letter %q; it needs A to Z and a to z", r)
		}
	}
	if err := try(data, trial(f)); err != nil {
		return "", err
	}
	return nameOf(f), nil
}

// Kind says what a file is by its first bytes: woff2, ttf or otf; empty for no font.
func Kind(data []byte) string {
	for head, kind := range map[string]string{"wOF2": "woff2", "OTTO": "otf", "\x00\x01\x00\x00": "ttf", "true": "ttf"} {
		if bytes.HasPrefix(data, []byte(head)) {
			return kind
		}
	}
	return ""
}

// trial is what a font is tried with: as much of the first letters of Unicode as it has.
func trial(f *font.SFNT) string {
	var b strings.Builder
	for r := rune('!'); r < 0x250; r++ {
		if unicode.IsPrint(r) && f.GlyphIndex(r) != 0 {
			b.WriteRune(r)
		}
	}
	return b.String()
}

// mostEmbedded is how many characters are tried: PostScript outlines of more than 229 cannot be embedded at once, and no sheet has
// as many.
const mostEmbedded = 180

// try sets a text as outlines and embeds it in a PDF that nobody sees.
func try(data []byte, text string) (err error) {
	defer func() {
		if r := recover(); r != nil {
			err = fmt.Errorf("the font is damaged: %v", r)
		}
	}()
	face, err := face(data)
	if err != nil {
		return err
	}
	for _, r := range text {
		if _, _, err := face.ToPath(string(r)); err != nil {
			return fmt.Errorf("its %q cannot be drawn here (%w); try the font in another format", r, err)
		}
	}
	if r := []rune(text); len(r) > mostEmbedded {
		text = string(r[:mostEmbedded])
	}
	page := canvas.New(100, 100)
	canvas.NewContext(page).DrawText(0, 50, canvas.NewTextLine(face, text, canvas.Left))
	out := pdf.New(io.Discard, 100, 100, &pdf.Options{SubsetFonts: true})
	page.RenderTo(out)
	return out.Close()
}

func face(data []byte) (*canvas.FontFace, error) {
	family := canvas.NewFontFamily("trial")
	if err := family.LoadFont(data, 0, canvas.FontRegular); err != nil {
		return nil, fmt.Errorf("the font is damaged: %w", err)
	}
	return family.Face(12, canvas.Black), nil
}

// nameOf is the name that a font gives itself, as people know it.
func nameOf(f *font.SFNT) string {
	if f.Name == nil {
		return ""
	}
	for _, id := range []font.NameID{font.NamePreferredFamily, font.NameFontFamily, font.NameFull} {
		for _, r := range f.Name.Get(id) {
			if s := strings.TrimSpace(strings.Map(printable, r.String())); s != "" {
				return s
			}
		}
	}
	return ""
}

func printable(r rune) rune {
	if !unicode.IsPrint(r) {
		return -1
	}
	return r
}
