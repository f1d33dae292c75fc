// Package manual reads brand manuals: finished documents in which somebody wrote colors down, a name and its values beside a swatch. What
// belongs together is told by where it stands: in a block under a swatch, in the row or the column of a table, on one line.
package manual

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/pdfpage"
)

// Value is one that stands in a manual.
type Value struct {
	color.Typed
	Kind    string // hex, rgb, cmyk, spot, lab or another model of CSS; a letter while it is one number of several
	Text    string // as it is written
	Paper   string // that a build is for, where it says so
	Problem string // why it is no value, though it is labelled as one
	Sure    bool   // labelled, or of a form that nothing else has
}

// screen says whether it is a color of the screen.
func (v Value) screen() bool {
	return v.Problem == "" && v.Kind != "cmyk" && v.Kind != "spot" && !partial(v.Kind)
}

// Page is a page with what stands on it.
type Page struct {
	Number int     // from 1; 0 where nobody knows it before it is laid out
	Sheet  string  // what one calls it where it is no page: slide
	Width  float64 // points
	Height float64
	Words  []pdfpage.Words
	Areas  []pdfpage.Area
	Builds map[color.RGB8]color.CMYK // what areas of these colors are painted with, where that is known
}

// Disagreement is something that says another color than the rest.
type Disagreement struct {
	Kind string // screen, painted, page, cmyk, ink or problem
	Text string // a sentence, without its period
}

// Screen is one of several colors of the screen that a manual gives for one name.
type Screen struct {
	Text string // "#E2572B, as painted"
	RGB  color.RGB8
}

// Color is one that a manual writes down.
type Color struct {
	Name     string
	Page     int
	At       pdfpage.Box // of its values and its swatch, in points
	Values   []Value     // the first of each kind
	Swatch   *pdfpage.Area
	Painted  *color.CMYK // what the swatch is painted with, where that is ink
	Also     []int       // other pages that have it
	Screens  []Screen    // more than one where they disagree; the first is taken
	Disagree []Disagreement

	sheet string      // what one calls the page
	text  pdfpage.Box // of its values alone
	size  float64
}

// Value is the value of a kind; a build is one for coated paper, or "cmyk uncoated".
func (c *Color) Value(kind string) (Value, bool) {
	for _, v := range c.Values {
		if v.Key() == kind && v.Problem == "" {
			return v, true
		}
	}
	return Value{}, false
}

// Key tells the values of a color apart: its kind, with the paper of a build that is not for coated.
func (v Value) Key() string {
	if v.Kind == "cmyk" && v.Paper != "" && v.Paper != "coated" {
		return "cmyk " + v.Paper
	}
	return v.Kind
}

// said is a screen value for a sentence: a hex with its mark.
func (v Value) said() string {
	if v.Kind == "hex" {
		return v.RGB8().Hex()
	}
	return v.Text
}

// Screen is the color of the screen that it gives; false if it gives none.
func (c *Color) Screen() (Value, bool) {
	if v, ok := c.Value("hex"); ok {
		return v, true
	}
	for _, v := range c.Values {
		if v.screen() {
			return v, true
		}
	}
	return Value{}, false
}

// Read finds the colors that are written on the pages, up to some thousands. Codes of inks are known by a book.
func Read(pages []Page, book *ink.Book) []Color {
	var all []Color
	var mentions []mention
	for _, whole := range pages {
		for _, p := range whole.parts() {
			if len(all)+len(mentions) > mostColors {
				break
			}
			colors, said := p.read(book)
			all = append(all, colors...)
			mentions = append(mentions, said...)
		}
	}
	all = together(all)
	all = heed(all, mentions)
	for i := range all {
		all[i].disagreements()
	}
	return all
}

// Promising says whether words hold anything that could be a value, so that the page is worth looking at.
func Promising(words []pdfpage.Words, book *ink.Book) bool {
	sure, numbers := 0, 0
	for _, w := range words {
		it := itemOf(w, book)
		if it.label != "" && it.label != "name" && it.label != "other" {
			sure++
		}
		for _, v := range it.values {
			if v.Sure {
				return true
			}
			numbers++
		}
	}
	return sure >= 2 && numbers > 0 || sure >= 3
}

// most says where there are more colors than were read.
func (m *Manual) most() {
	if len(m.Colors) > mostColors {
		m.Notes = append(m.Notes, fmt.Sprintf("Over %d colors are written in it; what stands behind them was not read.", mostColors))
	}
}

// mention is a sentence with values in it.
type mention struct {
	*item
	page  int
	sheet string
}

// read finds the colors of one page.
func (p *Page) read(book *ink.Book) (out []Color, said []mention) {
	var items []*item
	for _, w := range p.Words {
		it := itemOf(w, book)
		if it.name == "" && len(it.values) == 0 {
			continue
		}
		items = append(items, it)
		if it.mention() {
			said = append(said, mention{it, p.Number, p.Sheet})
		}
	}
	l := &layout{items, map[string]int{}}
	for _, it := range items {
		l.times[strings.ToLower(it.name)]++
	}
	l.pair()
	l.gather()
	found := l.tables()
	l.under()
	found = append(found, l.blocks()...)
	found = slices.DeleteFunc(found, func(c *Color) bool { return !c.sure() })
	p.swatches(found)
	l.names(found)
	for _, c := range found {
		c.Page, c.sheet = p.Number, p.Sheet
		c.At = c.text
		if c.Swatch != nil {
			c.At = c.At.With(c.Swatch.Box)
			if b, ok := p.Builds[c.Swatch.RGB]; ok {
				c.Painted = &b
			}
		}
		out = append(out, *c)
	}
	slices.SortStableFunc(out, func(a, b Color) int {
		if math.Abs(a.At.Y0-b.At.Y0) > 12 {
			return cmp.Compare(a.At.Y0, b.At.Y0)
		}
		return cmp.Compare(a.At.X0, b.At.X0)
	})
	return out, said
}

const (
	mostItems  = 1200 // pieces of a page that are all compared with each other
	mostColors = 3000 // of a manual
)

// parts are a page in pieces, from top to bottom, none of which has more on it than can be compared: a long text is cut where its lines
// stand furthest apart.
func (p Page) parts() (out []Page) {
	if len(p.Words) <= mostItems {
		return []Page{p}
	}
	words := slices.Clone(p.Words)
	slices.SortStableFunc(words, func(a, b pdfpage.Words) int { return cmp.Compare(a.Y0, b.Y0) })
	for len(words) > 0 {
		at, top := min(len(words), mostItems), 0.0
		if len(words) > mostItems {
			widest := -1.0
			for i := mostItems * 3 / 4; i < mostItems; i++ {
				if gap := words[i].Y0 - words[i-1].Y1; gap >= widest {
					at, widest = i, gap
				}
			}
			top = words[at].Y0
		}
		part := p
		part.Words, words = words[:at], words[at:]
		if top > 0 {
			part.Areas = slices.DeleteFunc(slices.Clone(p.Areas), func(a pdfpage.Area) bool {
				return a.Y1 < part.Words[0].Y0-reach ||
					a.Y0 > top+reach
			})
		}
		out = append(out, part)
	}
	return out
}

// sure says whether something about it is a value without doubt.
func (c *Color) sure() bool {
	return slices.ContainsFunc(c.Values, func(v Value) bool { return v.Sure && v.Problem == "" && !partial(v.Kind) })
}

// take adds values of kinds that it does not have.
func (c *Color) take(it *item) {
	for _, v := range it.values {
		if !c.has(v.Key()) {
			c.Values = append(c.Values, v)
		}
	}
	if c.text == (pdfpage.Box{}) {
		c.text, c.size = it.Box, it.Size
	}
	c.text = c.text.With(it.Box)
	it.used = true
}

func (c *Color) has(kind string) bool {
	return slices.ContainsFunc(c.Values, func(v Value) bool { return v.Key() == kind })
}

// same says whether two values of one kind say the same.
func same(a, b Value) bool {
	switch {
	case a.Kind == "spot":
		return strings.EqualFold(plain(a.Text), plain(b.Text))
	case a.CMYK != nil && b.CMYK != nil:
		return *a.CMYK == *b.CMYK
	case a.CMYK == nil && b.CMYK == nil:
		return a.RGB8() == b.RGB8()
	}
	return false
}

func plain(code string) string { return strings.NewReplacer("-", "", " ", "").Replace(code) }

// together joins what several pages say of one name, and what is there twice without one.
func together(all []Color) (out []Color) {
	at := map[string]int{}
	for _, c := range all {
		key := strings.ToLower(c.Name)
		if key == "" {
			if i := slices.IndexFunc(out, func(o Color) bool { return o.alike(&c) }); i >= 0 {
				out[i].also(c.Page)
				continue
			}
			out = append(out, c)
			continue
		}
		i, twice := at[key]
		if !twice {
			at[key] = len(out)
			out = append(out, c)
			continue
		}
		out[i].join(&c)
	}
	return out
}

// join takes in what another place says of the same name.
func (c *Color) join(o *Color) {
	c.also(o.Page)
	var others []Value
	for _, v := range o.Values {
		k := slices.IndexFunc(c.Values, func(w Value) bool { return w.Key() == v.Key() })
		switch {
		case k < 0:
			c.Values = append(c.Values, v)
		case v.Problem == "" && c.Values[k].Problem == "" && !same(c.Values[k], v):
			others = append(others, v)
		}
	}
	if len(others) > 0 { // one color, in several kinds
		c.elsewhere(o.Page, others[0])
	}
}

// Place is a page as one says it: "page 4", "slide 4"; empty where it has no number.
func (c *Color) Place(page int) string {
	switch {
	case page == 0:
		return ""
	case c.sheet != "":
		return fmt.Sprintf("%s %d", c.sheet, page)
	}
	return fmt.Sprintf("page %d", page)
}

// alike says whether another one without a name says nothing else.
func (c *Color) alike(o *Color) bool {
	common := false
	for _, v := range o.Values {
		for _, w := range c.Values {
			if v.Key() == w.Key() {
				if !same(v, w) {
					return false
				}
				common = true
			}
		}
	}
	return common
}

func (c *Color) also(page int) {
	if page != c.Page && !slices.Contains(c.Also, page) {
		c.Also = append(c.Also, page)
	}
}

// elsewhere keeps what another place says instead.
func (c *Color) elsewhere(page int, v Value) {
	where := c.Place(page)
	if page == c.Page {
		where = "another place in it"
	}
	text := fmt.Sprintf("%s says %s", where, v.said())
	if s, ok := c.Screen(); ok && v.screen() {
		de := color.DeltaE00(s.RGB.Lab(), v.RGB.Lab())
		text += fmt.Sprintf(", which is %.1f %s", de, color.Word(de))
		c.Screens = append(c.Screens, Screen{v.said() + ", on " + where, v.RGB8()})
	}
	c.Disagree = append(c.Disagree, Disagreement{"page", text})
}

// heed takes in what sentences say: of a name that is known, or a color of its own.
func heed(all []Color, mentions []mention) []Color {
	for _, m := range mentions {
		for _, v := range m.values {
			if !v.screen() || !v.Sure {
				continue
			}
			known := slices.IndexFunc(all, func(c Color) bool { s, ok := c.Screen(); return ok && s.RGB8() == v.RGB8() })
			called := slices.IndexFunc(all, func(c Color) bool { return c.Name != "" && containsWords(m.Text, c.Name) })
			switch {
			case known >= 0:
				all[known].also(m.page)
			case called >= 0:
				all[called].also(m.page)
				all[called].elsewhere(m.page, v)
			default:
				all = append(all, Color{Page: m.page, sheet: m.sheet, At: m.Box, Values: []Value{v}})
			}
		}
	}
	return all
}

// containsWords says whether a text has some words as whole words.
func containsWords(text, words string) bool {
	i := strings.Index(strings.ToLower(text), strings.ToLower(words))
	if i < 0 {
		return false
	}
	letter := func(s string) bool {
		return s != "" && strings.ContainsAny(s, "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789")
	}
	end := i + len(words)
	return !letter(text[max(0, i-1):i]) && !letter(text[min(end, len(text)):min(end+1, len(text))])
}

// disagreements says what of the values of the screen, of the swatch and of its ink is another color.
func (c *Color) disagreements() {
	var first []Screen
	s, ok := c.Screen()
	if ok {
		first = append(first, Screen{s.said(), s.RGB8()})
	}
	for _, v := range c.Values {
		switch {
		case v.Problem != "":
			c.Disagree = append(c.Disagree, Disagreement{"problem", v.Problem})
		case v.screen() && v.Kind != s.Kind && apart(v, s) > 0:
			de := color.DeltaE00(v.RGB.Lab(), s.RGB.Lab())
			c.Disagree = append(c.Disagree,
				Disagreement{"screen", fmt.Sprintf("%s is %.1f %s from %s", v.said(), de, color.Word(de), s.said())})
			first = append(first, Screen{v.said(), v.RGB8()})
		}
	}
	if c.Swatch != nil {
		first = c.painted(first)
	}
	if c.Screens = append(first, c.Screens...); len(c.Screens) < 2 {
		c.Screens = nil
	}
}

// apart is how much two screen values differ beyond what rounding explains, in steps of a channel.
func apart(a, b Value) int {
	limit := 0
	if a.Kind != "hex" && a.Kind != "rgb" || b.Kind != "hex" && b.Kind != "rgb" {
		limit = 3 // a percent of saturation, a unit of L*
	}
	return max(0, steps(a.RGB8(), b.RGB8())-limit)
}

// steps is the largest difference of a channel.
func steps(a, b color.RGB8) int {
	d := func(x, y uint8) int { return max(int(x)-int(y), int(y)-int(x)) }
	return max(d(a.R, b.R), d(a.G, b.G), d(a.B, b.B))
}

// painted compares the swatch with what is written: in ink with the build, else with the values of the screen.
func (c *Color) painted(screens []Screen) []Screen {
	if c.Painted != nil {
		if v, ok := c.Value("cmyk"); ok && !near(*v.CMYK, *c.Painted) {
			c.Disagree = append(c.Disagree, Disagreement{"painted", fmt.Sprintf("the swatch is painted with %s", c.Painted)})
		}
		return screens
	}
	p := c.Swatch.RGB
	for i, s := range screens {
		if steps(s.RGB, p) <= 1 { // a profile rounds
			if len(screens) > 1 {
				screens[i].Text += ", as painted"
			}
			return screens
		}
	}
	if len(screens) == 0 {
		return screens
	}
	de := color.DeltaE00(p.Lab(), screens[0].RGB.Lab())
	c.Disagree = append(c.Disagree, Disagreement{"painted", fmt.Sprintf("the swatch is painted %s, which is %.1f %s from %s", p.Hex(), de,
		color.Word(de), screens[0].Text)})
	return append(screens, Screen{p.Hex() + ", as painted", p})
}

// near says whether two builds are one, but for rounding.
func near(a, b color.CMYK) bool {
	x, y := a.Array(), b.Array()
	for i := range x {
		if math.Abs(x[i]-y[i]) > 0.6 {
			return false
		}
	}
	return true
}
