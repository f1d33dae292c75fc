// Package board says what a board is: options for somebody to choose from, each of them colors at work. What is drawn of it on
// a page, in a picture or in a PDF follows from Parts, which has a color and a ground for everything there is to read.
package board

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/limits"
)

// Paint is a color of an option: as it was named and what it was when it was taken. ID is its number in the library, 0 for one
// that comes from elsewhere.
type Paint struct {
	ID   int64  `json:"id,omitempty"`
	Name string `json:"name"`
	Hex  string `json:"hex"` // #RRGGBB
}

// RGB is the value; black if Hex is none, which Check refuses.
func (p Paint) RGB() color.RGB8 {
	c, _ := color.FromHex(p.Hex)
	return c
}

// Texts are what stands on an option. An empty Word stands for the option's letter.
type Texts struct {
	Word     string `json:"word,omitempty"` // or a letter, set huge
	Headline string `json:"headline"`
	Lines    string `json:"lines"`
	Small    string `json:"small"`
	Button   string `json:"button"`
}

// Size is how large the type of an option is.
type Size string

const (
	Small  Size = "small"
	Medium Size = "medium"
	Large  Size = "large"
)

// Sizes lists every size.
var Sizes = []Size{Small, Medium, Large}

// Scale is the factor of a size; 1 for none.
func (s Size) Scale() float64 {
	switch s {
	case Small:
		return 0.8
	case Large:
		return 1.25
	}
	return 1
}

// Option is one of several to choose from.
type Option struct {
	Ground   Paint   `json:"ground"`
	Type     Paint   `json:"type"`
	Outline  *Paint  `json:"outline,omitempty"` // around the word; nil for none
	Accents  []Paint `json:"accents,omitempty"` // the first is the button's
	Typeface string  `json:"typeface"`
	Size     Size    `json:"size"`
	Logo     bool    `json:"logo,omitempty"`  // the board's logo stands on it
	Texts    *Texts  `json:"texts,omitempty"` // its own; nil for those of the board
}

// Board is a sheet of options as it is worked on, and, written once more, as it was fixed.
type Board struct {
	Title   string   `json:"title"`
	Intro   string   `json:"intro,omitempty"` // what is said to whoever chooses
	Texts   Texts    `json:"texts"`
	Logo    string   `json:"logo,omitempty"` // which file; empty for none
	Options []Option `json:"options"`
}

// Letter names an option by its place: A, B, C.
func Letter(at int) string { return string(rune('A' + at)) }

// TextsOf are the texts that stand on an option.
func (b Board) TextsOf(at int) Texts {
	t := b.Texts
	if own := b.Options[at].Texts; own != nil {
		t = *own
	}
	if t.Word == "" {
		t.Word = Letter(at)
	}
	return t
}

// Part is something to read on an option, with its color and what it stands on.
type Part struct {
	Key      string // word, headline, lines, small or button
	Type, On Paint
	Ratio    float64 // WCAG 2.2
	Need     float64 // what it has to reach, by its size
}

// Passes says whether the part can be read.
func (p Part) Passes() bool { return p.Ratio >= p.Need }

// Parts lists what is to be read on an option. The button is the first accent, or the type turned around; its label is whichever
// color of the option is most legible on it.
func (o Option) Parts() []Part {
	ground, label := o.Button()
	part := func(key string, t, on Paint, need float64) Part {
		return Part{key, t, on, contrast.Ratio(t.RGB(), on.RGB()), need}
	}
	return []Part{
		part("word", o.Type, o.Ground, contrast.LargeAA), part("headline", o.Type, o.Ground, contrast.LargeAA),
		part("lines", o.Type, o.Ground, contrast.TextAA), part("small", o.Type, o.Ground, contrast.TextAA),
		part("button", label, ground, contrast.TextAA),
	}
}

// Button is the ground of an option's button and the color of its label.
func (o Option) Button() (ground, label Paint) {
	ground = o.Type
	if len(o.Accents) > 0 {
		ground = o.Accents[0]
	}
	for _, p := range append([]Paint{o.Ground, o.Type}, o.Accents...) {
		if label.Hex == "" || contrast.Ratio(p.RGB(), ground.RGB()) > contrast.Ratio(label.RGB(), ground.RGB()) {
			label = p
		}
	}
	return ground, label
}

// Passes says whether everything on an option can be read.
func (o Option) Passes() bool {
	return !slices.ContainsFunc(o.Parts(), func(p Part) bool { return !p.Passes() })
}

// Colors lists the colors of an option, each once: ground, type, outline, accents.
func (o Option) Colors() []Paint {
	var out []Paint
	add := func(p Paint) {
		if !slices.ContainsFunc(out, func(q Paint) bool { return q.Hex == p.Hex }) {
			out = append(out, p)
		}
	}
	add(o.Ground)
	add(o.Type)
	if o.Outline != nil {
		add(*o.Outline)
	}
	for _, a := range o.Accents {
		add(a)
	}
	return out
}

// Rule is what the choice of an option says about a pair: the color may stand on the ground with at least the ratio.
type Rule struct {
	Type, Ground Paint
	Ratio        float64
}

// Rules are the pairs of an option that can be read: its type on its ground, the label on the button, and the accents on the
// ground as signs. A pair that cannot be read makes no rule.
func (o Option) Rules() []Rule {
	var out []Rule
	add := func(t, ground Paint, most float64) {
		if t.Hex == ground.Hex || slices.ContainsFunc(out, func(r Rule) bool { return r.Type.Hex == t.Hex && r.Ground.Hex == ground.Hex }) {
			return
		}
		for _, ratio := range []float64{contrast.TextAA, contrast.LargeAA} {
			if ratio <= most && contrast.Ratio(t.RGB(), ground.RGB()) >= ratio {
				out = append(out, Rule{t, ground, ratio})
				return
			}
		}
	}
	add(o.Type, o.Ground, contrast.TextAA)
	ground, label := o.Button()
	add(label, ground, contrast.TextAA)
	for _, a := range o.Accents {
		add(a, o.Ground, contrast.LargeAA)
	}
	return out
}

// Seen is the option with every color changed, as it looks on a paper or to other eyes. What is legible on what stays decided by the
// colors themselves, so the button keeps its label.
func (o Option) Seen(look func(color.RGB8) color.RGB8) Option {
	change := func(p Paint) Paint { p.Hex = look(p.RGB()).Hex(); return p }
	out := o
	out.Ground, out.Type, out.Accents = change(o.Ground), change(o.Type), nil
	if o.Outline != nil {
		p := change(*o.Outline)
		out.Outline = &p
	}
	for _, a := range o.Accents {
		out.Accents = append(out.Accents, change(a))
	}
	return out
}

// Check refuses a board that nobody could have made, with a sentence that names the option.
func (b Board) Check() error {
	if err := text("title", b.Title, limits.NameRunes); err != nil {
		return err
	}
	if strings.TrimSpace(b.Title) == "" {
		return fmt.Errorf("the board has no title")
	}
	if err := text("introduction", b.Intro, limits.RuleRunes); err != nil {
		return err
	}
	if len(b.Options) > limits.BoardOptions {
		return fmt.Errorf("the board has %d options; at most %d fit on a sheet", len(b.Options), limits.BoardOptions)
	}
	if err := b.Texts.check(); err != nil {
		return err
	}
	for i, o := range b.Options {
		if err := o.check(); err != nil {
			return fmt.Errorf("option %s: %w", Letter(i), err)
		}
	}
	return nil
}

func (o Option) check() error {
	if len(o.Accents) > limits.BoardAccents {
		return fmt.Errorf("it has %d accents; at most %d fit", len(o.Accents), limits.BoardAccents)
	}
	for _, p := range o.Colors() {
		if _, err := color.FromHex(p.Hex); err != nil {
			return err
		}
		if err := text("name of a color", p.Name, limits.NameRunes); err != nil {
			return err
		}
	}
	if !slices.Contains(Sizes, o.Size) {
		return fmt.Errorf("there is no size %q; there are small, medium and large", o.Size)
	}
	if o.Texts != nil {
		return o.Texts.check()
	}
	return nil
}

func (t Texts) check() error {
	for _, f := range []struct {
		what, text string
		most       int
	}{{"word", t.Word, limits.BoardWord}, {"headline", t.Headline, limits.BoardHeadline}, {"lines", t.Lines, limits.BoardLines},
		{"small print", t.Small, limits.BoardSmall},
		{"button", t.Button, limits.BoardButton}} {
		if err := text(f.what, f.text, f.most); err != nil {
			return err
		}
	}
	return nil
}

// text refuses a text that is too long or holds what cannot be written.
func text(what, s string, most int) error {
	if n := utf8.RuneCountInString(s); n > most {
		return fmt.Errorf("the %s has %d characters; at most %d fit", what, n, most)
	}
	for _, r := range s {
		if r == utf8.RuneError || unicode.IsControl(r) && r != '\n' {
			return fmt.Errorf("the %s holds a character that cannot be written", what)
		}
	}
	return nil
}

// Boards are kept as JSON with a version; testdata holds a file of each.
const version = 1

type kept struct {
	Version int `json:"version"`
	Board
}

// Write writes a board for keeping.
func (b Board) Write() (string, error) {
	data, err := json.Marshal(kept{version, b})
	return string(data), err
}

// Read reads what Write wrote, in any version.
func Read(text string) (Board, error) {
	var k kept
	if err := json.Unmarshal([]byte(text), &k); err != nil {
		return Board{}, err
	}
	if k.Version < 1 || k.Version > version {
		return Board{}, fmt.Errorf("it was written by a newer Hue Keep (version %d; this one reads up to %d)", k.Version, version)
	}
	return k.Board, nil
}
