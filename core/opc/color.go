package opc

import (
	"math"
	"strconv"
	"strings"

	"huekeep/core/color"
	"huekeep/core/markup"
)

// Color is a color element of DrawingML (ECMA-376 part 1, 20.1.2.3) with the transforms inside it.
type Color struct {
	Kind  string // srgbClr, scrgbClr, hslClr, prstClr, sysClr or schemeClr
	Value string
	attr  [3]string // r g b or hue sat lum
	Mods  []Transform
}

// Transform is one change on top of a color.
type Transform struct {
	Name  string
	Value float64 // share for percentages, degrees for hues
}

// IsColor says whether an element of DrawingML, by its local name, is a color.
func IsColor(local []byte) bool {
	return kindOf(local) != ""
}

func kindOf(local []byte) string {
	switch string(local) {
	case "srgbClr":
		return "srgbClr"
	case "schemeClr":
		return "schemeClr"
	case "scrgbClr":
		return "scrgbClr"
	case "hslClr":
		return "hslClr"
	case "prstClr":
		return "prstClr"
	case "sysClr":
		return "sysClr"
	}
	return ""
}

// StartColor takes the color of a start tag.
func StartColor(r *markup.Reader) Color {
	c := Color{Kind: kindOf(markup.Local(r.Name))}
	for _, a := range r.Attrs {
		switch string(markup.Local(a.Name)) {
		case "val":
			if c.Value == "" {
				c.Value = r.Value(a)
			}
		case "lastClr":
			c.Value = r.Value(a) // what the system color was when the file was saved
		case "r", "hue":
			c.attr[0] = r.Value(a)
		case "g", "sat":
			c.attr[1] = r.Value(a)
		case "b", "lum":
			c.attr[2] = r.Value(a)
		}
	}
	if c.Kind == "sysClr" && c.Value == "" {
		c.Value = "windowText" // the standard wants a name; what is drawn without one is text
	}
	return c
}

// Add takes the transform of a start tag inside the color.
func (c *Color) Add(r *markup.Reader) {
	t := Transform{Name: string(markup.Local(r.Name))}
	if v := r.Get("val"); v != "" {
		if t.Name == "hue" || t.Name == "hueOff" {
			n, _ := strconv.ParseFloat(v, 64)
			t.Value = n / 60000
		} else {
			t.Value = share(v)
		}
	}
	c.Mods = append(c.Mods, t)
}

// Opacity is how opaque the transforms leave the color, 0 to 1.
func (c Color) Opacity() float64 {
	alpha := 1.0
	for _, m := range c.Mods {
		switch m.Name {
		case "alpha":
			alpha = m.Value
		case "alphaMod":
			alpha *= m.Value
		case "alphaOff":
			alpha += m.Value
		}
	}
	return math.Min(1, math.Max(0, alpha))
}

// Changed says whether a transform changes more than how opaque the color is.
func (c Color) Changed() bool {
	for _, m := range c.Mods {
		if !strings.HasPrefix(m.Name, "alpha") {
			return true
		}
	}
	return false
}

// With is a color with the same transforms on another base.
func (c Color) With(base color.RGB8) (color.RGB8, bool) {
	c.Kind, c.Value = "srgbClr", base.Hex()[1:]
	return c.RGB(nil)
}

// Plain is the base without the transforms.
func (c Color) Plain(scheme func(string) (color.RGB8, bool)) (color.RGB8, bool) {
	c.Mods = nil
	return c.RGB(scheme)
}

// share reads a percentage in thousandths ("75000") or, in strict files, with its sign ("75%"); 1 is all of it.
func share(s string) float64 {
	if p, ok := strings.CutSuffix(s, "%"); ok {
		v, _ := strconv.ParseFloat(p, 64)
		return v / 100
	}
	v, _ := strconv.ParseFloat(s, 64)
	return v / 100000
}

// Written is the value as a person would look for it: "E1572C", "accent1 lumMod 75%".
func (c Color) Written() string {
	if len(c.Mods) == 0 && c.Value != "" && c.Kind != "scrgbClr" && c.Kind != "hslClr" {
		return c.Value
	}
	var b strings.Builder
	switch c.Kind {
	case "scrgbClr", "hslClr":
		b.WriteString(strings.TrimSuffix(c.Kind, "Clr") + " " + strings.Join(c.attr[:], " "))
	default:
		if c.Value == "" {
			b.WriteString(c.Kind + " without a value")
		}
		b.WriteString(c.Value)
	}
	for _, m := range c.Mods {
		switch m.Name {
		case "hue", "hueOff":
			writeNumber(&b, m.Name, m.Value, "°")
		case "comp", "inv", "gray", "gamma", "invGamma":
			b.WriteString(" " + m.Name)
		default:
			writeNumber(&b, m.Name, m.Value*100, "%")
		}
	}
	return b.String()
}

// writeNumber writes " lumMod 75%".
func writeNumber(b *strings.Builder, name string, v float64, unit string) {
	b.WriteByte(' ')
	b.WriteString(name)
	b.WriteByte(' ')
	b.WriteString(strconv.FormatFloat(round2(v), 'g', -1, 64))
	b.WriteString(unit)
}

func round2(v float64) float64 { return math.Round(v*100) / 100 }

// RGB resolves the color; scheme gives the slots by name. ok is false for a color that cannot be known here: phClr,
// which stands for the color of whatever uses a style, or a malformed one.
func (c Color) RGB(scheme func(string) (color.RGB8, bool)) (rgb color.RGB8, ok bool) {
	var v color.RGB
	switch c.Kind {
	case "srgbClr":
		rgb, err := color.FromHex(c.Value)
		if err != nil {
			return rgb, false
		}
		v = rgb.RGB()
	case "sysClr":
		rgb, err := color.FromHex(c.Value)
		if err != nil { // no lastClr: take what the names stand for nearly everywhere
			switch c.Value {
			case "window", "btnHighlight", "highlightText":
				rgb = color.RGB8{R: 255, G: 255, B: 255}
			default:
				rgb = color.RGB8{}
			}
		}
		v = rgb.RGB()
	case "scrgbClr":
		v = color.Linear{R: share(c.attr[0]), G: share(c.attr[1]), B: share(c.attr[2])}.RGB()
	case "hslClr":
		h, _ := strconv.ParseFloat(c.attr[0], 64)
		v = color.HSL{H: h / 60000, S: share(c.attr[1]), L: share(c.attr[2])}.RGB()
	case "prstClr":
		rgb, ok := preset(c.Value)
		if !ok {
			return rgb, false
		}
		v = rgb.RGB()
	default:
		if scheme == nil {
			return rgb, false
		}
		rgb, ok := scheme(c.Value)
		if !ok {
			return rgb, false
		}
		v = rgb.RGB()
	}
	for _, m := range c.Mods {
		v = m.apply(v)
	}
	v = v.Clip()
	if math.IsNaN(v.R + v.G + v.B) {
		return rgb, false
	}
	return v.RGB8(), true
}

// preset resolves the names of ECMA-376, which shorten those of SVG: dkBlue, ltGray, medAquamarine.
func preset(name string) (color.RGB8, bool) {
	for _, p := range [][2]string{{"dk", "dark"}, {"lt", "light"}, {"med", "medium"}} {
		if rest, ok := strings.CutPrefix(name, p[0]); ok && rest != "" && rest[0] >= 'A' && rest[0] <= 'Z' {
			name = p[1] + rest
			break
		}
	}
	return color.Named(name)
}

// apply does one transform as ECMA-376 part 1, 20.1.2.3 describes it: hue, saturation and luminance in HSL, tint,
// shade and the channels in linear light.
func (m Transform) apply(c color.RGB) color.RGB {
	hsl := func(f func(*color.HSL)) color.RGB {
		h := c.Clip().HSL()
		f(&h)
		h.S, h.L = math.Min(1, math.Max(0, h.S)), math.Min(1, math.Max(0, h.L))
		return h.RGB()
	}
	linear := func(f func(*color.Linear)) color.RGB {
		l := c.Linear()
		f(&l)
		return l.RGB()
	}
	v := m.Value
	switch m.Name {
	case "lumMod":
		return hsl(func(h *color.HSL) { h.L *= v })
	case "lumOff":
		return hsl(func(h *color.HSL) { h.L += v })
	case "lum":
		return hsl(func(h *color.HSL) { h.L = v })
	case "satMod":
		return hsl(func(h *color.HSL) { h.S *= v })
	case "satOff":
		return hsl(func(h *color.HSL) { h.S += v })
	case "sat":
		return hsl(func(h *color.HSL) { h.S = v })
	case "hueMod":
		return hsl(func(h *color.HSL) { h.H *= v })
	case "hueOff":
		return hsl(func(h *color.HSL) { h.H += v })
	case "hue":
		return hsl(func(h *color.HSL) { h.H = v })
	case "comp":
		return hsl(func(h *color.HSL) { h.H += 180 })
	case "tint":
		return linear(func(l *color.Linear) { l.R, l.G, l.B = l.R*v+1-v, l.G*v+1-v, l.B*v+1-v })
	case "shade":
		return linear(func(l *color.Linear) { l.R, l.G, l.B = l.R*v, l.G*v, l.B*v })
	case "inv":
		return linear(func(l *color.Linear) { l.R, l.G, l.B = 1-l.R, 1-l.G, 1-l.B })
	case "gray":
		return linear(func(l *color.Linear) {
			y := 0.2126*l.R + 0.7152*l.G + 0.0722*l.B
			l.R, l.G, l.B = y, y, y
		})
	case "red":
		return linear(func(l *color.Linear) { l.R = v })
	case "redMod":
		return linear(func(l *color.Linear) { l.R *= v })
	case "redOff":
		return linear(func(l *color.Linear) { l.R += v })
	case "green":
		return linear(func(l *color.Linear) { l.G = v })
	case "greenMod":
		return linear(func(l *color.Linear) { l.G *= v })
	case "greenOff":
		return linear(func(l *color.Linear) { l.G += v })
	case "blue":
		return linear(func(l *color.Linear) { l.B = v })
	case "blueMod":
		return linear(func(l *color.Linear) { l.B *= v })
	case "blueOff":
		return linear(func(l *color.Linear) { l.B += v })
	case "gamma": // the value is taken as linear light and gets the curve; invGamma takes it off
		return color.Linear(c).RGB()
	case "invGamma":
		return color.RGB(c.Linear())
	}
	return c
}
