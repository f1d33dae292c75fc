package library

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"huekeep/core/color"
)

// MasterKind says what decides a color.
type MasterKind string

const (
	OfHex     MasterKind = ""        // its RGB, 8 bits of sRGB
	OfScreen  MasterKind = "screen"  // a color of CSS that 8 bits of sRGB do not hold
	OfReading MasterKind = "reading" // what an instrument read
)

// Master is what decides a color; everything else follows from it, its RGB too. The zero Master says that the RGB itself decides. Masters are
// the same if they are equal.
type Master struct {
	Kind MasterKind
	Text string // of a screen value, as color.Exactly writes it; of a reading, CIELAB (D50, 2°) as "L a b" with four decimals
}

// MasterOf is the master that somebody typed, with the 8 bits of sRGB that are nearest to it. Numbers of no color (color.Typed.Real) are those alone.
func MasterOf(t color.Typed) (Master, color.RGB8) {
	if text := t.Exactly(); text != "" {
		return Master{OfScreen, text}, t.RGB8()
	}
	return Master{}, t.RGB8()
}

// Read is the master that a reading is, with the 8 bits of sRGB that are nearest to it.
func Read(lab color.Lab) (Master, color.RGB8) {
	n := func(v float64) string { return strconv.FormatFloat(math.Round(v*1e4)/1e4+0, 'f', -1, 64) }
	return Master{OfReading, n(lab.L) + " " + n(lab.A) + " " + n(lab.B)}, lab.RGB().RGB8()
}

// ReadMaster reads what String wrote.
func ReadMaster(text string) (Master, error) {
	kind, value, _ := strings.Cut(text, " ")
	m := Master{MasterKind(kind), value}
	if _, err := m.exact(); err != nil {
		return Master{}, fmt.Errorf("%q is no master: %w", text, err)
	}
	if m.Kind == OfReading {
		lab, err := ReadLab(m.Text)
		m, _ = Read(lab)
		return m, err
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
		lab, err := ReadLab(m.Text)
		return lab.RGB(), err
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
	if c.Master.Kind != OfHex && !c.Rounded {
		if rgb, err := c.Master.exact(); err == nil {
			return rgb
		}
	}
	return c.RGB.RGB()
}

// Lab is the color that the master is, CIELAB (D50), relative to the medium.
func (c Color) Lab() color.Lab {
	if lab := c.Reading(); lab != nil && !c.Rounded {
		return *lab
	}
	return c.Exact().Lab()
}

// Reading is the reading that decides the color; nil if none does.
func (c Color) Reading() *color.Lab {
	if c.Master.Kind != OfReading {
		return nil
	}
	lab, err := ReadLab(c.Master.Text)
	if err != nil {
		return nil
	}
	return &lab
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

// CSS is the color as a style sheet writes it for a screen that can show more than sRGB; empty where the RGB shows the same.
func (c Color) CSS() string {
	if c.Dulled() < 1 {
		return ""
	}
	if lab := c.Reading(); lab != nil {
		return lab.XYZ().OKLab().OKLCH().CSS()
	}
	return c.Master.Text
}

// Decides is what decides the color, in words: "#0E3A53", "color(display-p3 0.1 0.9 0.3)", "Lab 35.12 14.20 -13.01".
func (c Color) Decides() string {
	switch lab := c.Reading(); {
	case lab != nil:
		return "Lab " + WriteLab(*lab)
	case c.Master.Kind == OfScreen:
		return c.Master.Text
	}
	return c.RGB.Hex()
}

// Shows is what decides the color for a sentence about values: its hex, and what is beyond it.
func (c Color) Shows() string {
	if c.Master.Kind == OfScreen {
		return c.Master.Text + " (" + c.RGB.Hex() + ")"
	}
	return c.RGB.Hex()
}
