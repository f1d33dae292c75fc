package library

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"huekeep/core/color"
)

// MasterKind says what decides a color.
type MasterKind string

const (
	OfHex     MasterKind = ""        // its RGB, 8 bits of sRGB
	OfScreen  MasterKind = "screen"  // a color of CSS that 8 bits of sRGB do not hold
	OfReading MasterKind = "reading" // what an instrument read
	OfBuild   MasterKind = "build"   // a CMYK build on a press
	OfInk     MasterKind = "ink"     // a spot ink on a stock
)

// Master is what decides a color; everything else follows from it, its RGB too. The zero Master says that the RGB itself decides. Masters
// are the same if they are equal.
type Master struct {
	Kind MasterKind
	// of a screen value, as color.Exactly writes it; of a reading, CIELAB (D50, 2°) as "L a b" with four decimals, and behind it, where it was
	// read as one, " of " its spectrum; else see Printed.master
	Text string
}

// Printed is a build or an ink that decides a color, with how it looks, so that the color stays what it is when a profile or a book is
// gone.
type Printed struct {
	Build          color.CMYK // of a build, percent with up to four decimals
	Press, Profile string     // of a build: the press condition, and the first 16 digits of the SHA-256 of its profile
	Code, Book     string     // of an ink
	Stock          string     // of an ink
	Lab            color.Lab  // CIELAB (D50), relative to the paper, with four decimals
}

// master is the Printed as one: "70 20 0 10 on coated #0123456789abcdef as 62 -14 -33", or "coated \"QN-0132\" of \"Quern\" as 41 60 33".
func (p Printed) master() (Master, color.RGB8) {
	look, rgb := Read(p.Lab)
	if p.Code != "" {
		return Master{OfInk, p.Stock + " " + strconv.Quote(p.Code) + " of " + strconv.Quote(p.Book) + as + look.Text}, rgb
	}
	inks := make([]string, 0, 4)
	for _, v := range p.Build.Array() {
		inks = append(inks, four(v))
	}
	return Master{OfBuild, strings.Join(inks, " ") + " on " + p.Press + " #" + p.Profile + as + look.Text}, rgb
}

// as stands between what is printed and how it looks.
const as = " as "

// ByBuild is the master that a build on a press is, with the 8 bits of sRGB that are nearest to it. lab is how it looks there, relative to
// the paper; profile is the SHA-256 of the press's profile, in hexadecimal digits.
func ByBuild(build color.CMYK, press, profile string, lab color.Lab) (Master, color.RGB8) {
	return Printed{Build: build, Press: press, Profile: profile[:min(len(profile), 16)], Lab: lab}.master()
}

// ByInk is the master that an ink of a book on a stock is, with the 8 bits of sRGB that are nearest to it.
func ByInk(code, stock, book string, lab color.Lab) (Master, color.RGB8) {
	return Printed{Code: code, Stock: stock, Book: book, Lab: lab}.master()
}

// Printed is the build or the ink that decides; false where none does.
func (m Master) Printed() (Printed, bool) {
	p, err := m.printed()
	return p, err == nil && (m.Kind == OfBuild || m.Kind == OfInk)
}

func (m Master) printed() (p Printed, err error) {
	at := strings.LastIndex(m.Text, as)
	if at < 0 {
		return p, fmt.Errorf("%q does not say how it looks", m.Text)
	}
	if p.Lab, err = ReadLab(m.Text[at+len(as):]); err != nil {
		return p, err
	}
	text := m.Text[:at]
	if m.Kind == OfInk {
		var rest string
		p.Stock, rest, _ = strings.Cut(text, " ")
		if code, book, ok := quotedPair(rest, " of "); ok && code != "" {
			p.Code, p.Book = code, book
			return p, CheckStock(p.Stock)
		}
		return p, fmt.Errorf("%q is no ink of a book", m.Text)
	}
	if f := strings.Fields(text); len(f) == 7 && f[4] == "on" && len(f[6]) == 17 && f[6][0] == '#' {
		p.Build, err = color.ParseCMYK(strings.Join(f[:4], " "))
		p.Press, p.Profile = f[5], f[6][1:]
		return p, err
	}
	return p, fmt.Errorf("%q is no build of a press", m.Text)
}

// quotedPair reads two texts as strconv.Quote writes them, with something between.
func quotedPair(text, between string) (a, b string, ok bool) {
	first, err := strconv.QuotedPrefix(text)
	if err != nil {
		return "", "", false
	}
	second, ok := strings.CutPrefix(text[len(first):], between)
	if !ok {
		return "", "", false
	}
	a, err = strconv.Unquote(first)
	if err == nil {
		b, err = strconv.Unquote(second)
	}
	return a, b, err == nil
}

// look is how it looks, where it is kept with the master: of all but screen values.
func (m Master) look() *color.Lab {
	text := m.Text
	switch m.Kind {
	case OfHex, OfScreen:
		return nil
	case OfReading:
		text, _, _ = strings.Cut(text, ofSpectrum)
	case OfBuild, OfInk:
		text = text[strings.LastIndex(text, as)+len(as):] // a text without it is no Lab either
	}
	lab, err := ReadLab(text)
	if err != nil {
		return nil
	}
	return &lab
}

func four(v float64) string { return strconv.FormatFloat(math.Round(v*1e4)/1e4+0, 'f', -1, 64) }

// MasterOf is the master that somebody typed, with the 8 bits of sRGB that are nearest to it. Numbers of no color (color.Typed.Real) are
// those alone.
func MasterOf(t color.Typed) (Master, color.RGB8) {
	if text := t.Exactly(); text != "" {
		return Master{OfScreen, text}, t.RGB8()
	}
	return Master{}, t.RGB8()
}

// Read is the master that a reading is, with the 8 bits of sRGB that are nearest to it.
func Read(lab color.Lab) (Master, color.RGB8) {
	return Master{OfReading, four(lab.L) + " " + four(lab.A) + " " + four(lab.B)}, lab.RGB().RGB8()
}

// ofSpectrum stands between a reading and the spectrum that it is of.
const ofSpectrum = " of "

// ReadSpectrum is the master that a reading of a spectrum is; lab is how that looks. The spectrum is kept as color.Spectrum.Kept makes it.
func ReadSpectrum(lab color.Lab, s color.Spectrum) (Master, color.RGB8) {
	m, rgb := Read(lab)
	return Master{OfReading, m.Text + ofSpectrum + s.String()}, rgb
}

// Spectrum is what a reading was of; false where none was kept.
func (m Master) Spectrum() (color.Spectrum, bool) {
	_, text, ok := strings.Cut(m.Text, ofSpectrum)
	if !ok || m.Kind != OfReading {
		return color.Spectrum{}, false
	}
	s, err := color.ParseSpectrum(text)
	return s, err == nil
}

// ReadMaster reads what String wrote.
func ReadMaster(text string) (Master, error) {
	kind, value, _ := strings.Cut(text, " ")
	m := Master{MasterKind(kind), value}
	if _, err := m.exact(); err != nil {
		return Master{}, fmt.Errorf("%q is no master: %w", text, err)
	}
	if m.Kind == OfReading {
		lab := m.look() // there is one, see exact
		of, spectrum, ok := strings.Cut(m.Text, ofSpectrum)
		if m, _ = Read(*lab); !ok {
			return m, nil
		}
		s, err := color.ParseSpectrum(spectrum)
		if err == nil && (of != m.Text || s.String() != spectrum) {
			err = fmt.Errorf("%q is not written as it is kept", value)
		}
		m, _ = ReadSpectrum(*lab, s)
		return m, err
	}
	if p, ok := m.Printed(); ok {
		if again, _ := p.master(); again != m {
			return Master{}, fmt.Errorf("%q is not written as it is kept", m.Text)
		}
	}
	return m, nil
}

// String is the master as a text that ReadMaster reads: "screen color(display-p3 0.1 0.9 0.3)"; empty for the RGB itself.
func (m Master) String() string {
	if m.Kind == OfHex {
		return ""
	}
	return string(m.Kind) + " " + m.Text
}

// exact is the color in sRGB without its bounds.
func (m Master) exact() (color.RGB, error) {
	switch m.Kind {
	case OfHex:
		if m.Text != "" {
			return color.RGB{}, fmt.Errorf("%q has no kind", m.Text)
		}
		return color.RGB{}, nil
	case OfScreen:
		t, err := color.ParseCSS(m.Text)
		if err == nil && (t.Exactly() != m.Text || t.Alpha != 1) {
			err = fmt.Errorf("%q is not written as it is kept", m.Text)
		}
		return t.RGB, err
	case OfReading:
		text, _, _ := strings.Cut(m.Text, ofSpectrum)
		lab, err := ReadLab(text)
		return lab.RGB(), err
	case OfBuild, OfInk:
		p, err := m.printed()
		return p.Lab.RGB(), err
	}
	return color.RGB{}, fmt.Errorf("this version does not know what decides by %q", m.Kind)
}

// Value is what two colors have in common that count as the same value: the RGB, and what is written beyond it.
type Value struct {
	RGB    color.RGB8
	Beyond string
}

// Value is the color's value, to tell whether another color has the same.
func (c Color) Value() Value {
	if c.Master.Kind == OfScreen {
		return Value{c.RGB, c.Master.Text}
	}
	return Value{RGB: c.RGB}
}

// Exact is the color that the master is, in sRGB without its bounds, from which everything else is computed.
func (c Color) Exact() color.RGB {
	if c.Master.Kind == OfScreen && !c.Rounded {
		if rgb, err := c.Master.exact(); err == nil {
			return rgb
		}
	}
	if lab := c.Master.look(); lab != nil && !c.Rounded {
		return lab.RGB()
	}
	return c.RGB.RGB()
}

// Screen is the color for a screen that shows more than sRGB, in sRGB without its bounds: the master, or an approved hex of a color that
// sRGB has.
func (c Color) Screen() color.RGB {
	exact := c.Exact()
	if c.Plain.Origin != "" && exact.InGamut() {
		return c.RGB.RGB()
	}
	return exact
}

// Lab is the color that the master is, CIELAB (D50), relative to the medium.
func (c Color) Lab() color.Lab {
	if lab := c.Master.look(); lab != nil && !c.Rounded {
		return *lab
	}
	return c.Exact().Lab()
}

// Reading is the reading that decides the color; nil if none does.
func (c Color) Reading() *color.Lab {
	if c.Master.Kind != OfReading {
		return nil
	}
	return c.Master.look()
}

// Dulled is how far its 8 bits of sRGB are from the color, ΔE00; 0 if they decide it.
func (c Color) Dulled() float64 {
	if c.Master.Kind == OfHex {
		return 0
	}
	c.Rounded = false
	return color.DeltaE00(c.Lab(), c.RGB.Lab())
}

// Moved is how far the color is from what it was when something was approved for it, ΔE00.
func (c Color) Moved(then color.RGB8, meant Master) float64 {
	if c.RGB == then && (c.Master == meant || meant.Kind == OfHex && c.Master.Kind == OfReading) { // of before masters stood with approvals
		return 0
	}
	return color.DeltaE00(c.Lab(), Color{RGB: then, Master: meant}.Lab())
}

// CSS is the color as a style sheet writes it for a screen that can show more than sRGB; empty where the RGB shows the same, and for a
// color that sRGB has, whose RGB somebody chose.
func (c Color) CSS() string {
	if c.Dulled() < 1 || c.Exact().InGamut() {
		return ""
	}
	if lab := c.Master.look(); lab != nil {
		return lab.XYZ().OKLab().OKLCH().CSS()
	}
	return c.Master.Text
}

// Decides is what decides the color, in words: "#0E3A53", "color(display-p3 0.1 0.9 0.3)", "Lab 35.12 14.20 -13.01", "CMYK 70 20 0 10 on
// coated", "ink QN-0132 on coated".
func (c Color) Decides() string {
	if lab := c.Reading(); lab != nil {
		return "Lab " + WriteLab(*lab)
	}
	if c.Master.Kind == OfScreen {
		return c.Master.Text
	}
	if p, ok := c.Master.Printed(); ok {
		return p.String()
	}
	return c.RGB.Hex()
}

// Typed is what decides the color, as a field that takes a value reads it.
func (c Color) Typed() string {
	if p, ok := c.Master.Printed(); ok {
		return p.Typed()
	}
	return c.Decides()
}

// String names a build or an ink for a sentence.
func (p Printed) String() string {
	if p.Code != "" {
		return "ink " + p.Code + " on " + p.Stock
	}
	return "CMYK " + p.Build.String() + " on " + p.Press
}

// Typed is what somebody types to have it decide: "cmyk(70 20 0 10) on coated", "QN-0132 on coated".
func (p Printed) Typed() string {
	if p.Code != "" {
		return p.Code + " on " + p.Stock
	}
	return "cmyk(" + p.Build.String() + ") on " + p.Press
}

// Shows is what decides the color for a sentence about values: its hex, and what is beyond it.
func (c Color) Shows() string {
	if c.Master.Kind == OfHex || c.Master.Kind == OfReading {
		return c.RGB.Hex()
	}
	return c.Decides() + " (" + c.RGB.Hex() + ")"
}

// Decide gives the color another master, with the RGB that follows from it. What decided until now stays as an approved build or ink; the
// new one stands where such a one would, as what decides.
func (c *Color) Decide(m Master, rgb color.RGB8, by Person, at time.Time) {
	for i := range c.Builds {
		if c.Builds[i].Origin == Deciding {
			c.Builds[i].Origin = Signed
		}
	}
	for i := range c.Spots {
		if c.Spots[i].Origin == Deciding {
			c.Spots[i].Origin = Signed
		}
	}
	c.Master, c.RGB, c.Plain = m, rgb, Plain{}
	p, ok := m.Printed()
	switch {
	case ok && p.Code != "":
		c.Spots = append(slices.DeleteFunc(slices.Clone(c.Spots), func(s Spot) bool { return s.Stock == p.Stock }),
			Spot{Stock: p.Stock, Code: p.Code, Origin: Deciding, By: by, At: at, For: rgb, Meant: m})
	case ok:
		c.Builds = append(slices.DeleteFunc(slices.Clone(c.Builds), func(b Build) bool { return b.Press == p.Press }),
			Build{Press: p.Press, Value: p.Build, Origin: Deciding, By: by, At: at, For: rgb, Meant: m})
	}
}

// Settle makes a color that was read from a file hold together: of its builds and inks the one that its master is decides, and no other; a
// hex that decides is approved by nobody.
func (c *Color) Settle() {
	p, ok := c.Master.Printed()
	if c.Master.Kind == OfHex {
		c.Plain = Plain{}
	}
	found := false
	for i := range c.Builds {
		b := &c.Builds[i]
		if is := ok && p.Code == "" && b.Press == p.Press && b.Value == p.Build; is {
			b.Origin, found = Deciding, true
		} else if b.Origin == Deciding {
			b.Origin = Signed
		}
	}
	for i := range c.Spots {
		s := &c.Spots[i]
		if is := ok && s.Code == p.Code && s.Stock == p.Stock; is {
			s.Origin, found = Deciding, true
		} else if s.Origin == Deciding {
			s.Origin = Signed
		}
	}
	if ok && !found {
		plain, rgb := c.Plain, c.RGB
		c.Decide(c.Master, c.RGB, Person{}, c.Changed)
		c.Plain, c.RGB = plain, rgb
	}
}

// Sign makes what was given with the color approved, and says in words what that is.
func (c *Color) Sign(by Person, at time.Time) (what []string) {
	c.Builds, c.Spots = slices.Clone(c.Builds), slices.Clone(c.Spots)
	for i := range c.Spots {
		if s := &c.Spots[i]; s.Origin == Given {
			s.Origin, s.By, s.At, s.For, s.Meant = Signed, by, at, c.RGB, c.Master
			what = append(what, fmt.Sprintf("spot ink %s on %s stock", s.Code, s.Stock))
		}
	}
	for i := range c.Builds {
		if b := &c.Builds[i]; b.Origin == Given {
			b.Origin, b.By, b.At, b.For, b.Meant = Signed, by, at, c.RGB, c.Master
			what = append(what, fmt.Sprintf("CMYK %s for %s", b.Value, b.Press))
		}
	}
	if c.Plain.Origin == Given {
		c.Plain = Plain{Signed, by, at}
		what = append(what, c.RGB.Hex()+" for screens")
	}
	return what
}

// HexOrigin says where the RGB of the color comes from.
func (c Color) HexOrigin() Origin {
	switch {
	case c.Master.Kind == OfHex:
		return Deciding
	case c.Plain.Origin == "":
		return Derived
	}
	return c.Plain.Origin
}
