package audit

import (
	"encoding/xml"
	"fmt"
	"math"
	"strconv"
	"strings"

	"huekeep/core/color"
)

// A color element of DrawingML (ECMA-376 part 1, 20.1.2.3) with the transforms inside it.
type drawingColor struct {
	kind  string // srgbClr, scrgbClr, hslClr, prstClr, sysClr or schemeClr
	value string
	attr  [3]string // r g b or hue sat lum
	mods  []transform
}

type transform struct {
	name  string
	value float64 // share for percentages, degrees for hues
}

// colorElements are the elements that are a color.
var colorElements = map[string]bool{"srgbClr": true, "scrgbClr": true, "hslClr": true, "prstClr": true, "sysClr": true, "schemeClr": true}

func startColor(e xml.StartElement) drawingColor {
	c := drawingColor{kind: e.Name.Local}
	for _, a := range e.Attr {
		switch a.Name.Local {
		case "val":
			if c.value == "" {
				c.value = a.Value
			}
		case "lastClr":
			c.value = a.Value // what the system color was when the file was saved
		case "r", "hue":
			c.attr[0] = a.Value
		case "g", "sat":
			c.attr[1] = a.Value
		case "b", "lum":
			c.attr[2] = a.Value
		}
	}
	if c.kind == "sysClr" && c.value == "" {
		c.value = "windowText" // the standard wants a name; what is drawn without one is text
	}
	return c
}

func (c *drawingColor) transform(e xml.StartElement) {
	t := transform{name: e.Name.Local}
	for _, a := range e.Attr {
		if a.Name.Local == "val" {
			if t.name == "hue" || t.name == "hueOff" {
				v, _ := strconv.ParseFloat(a.Value, 64)
				t.value = v / 60000
			} else {
				t.value = share(a.Value)
			}
		}
	}
	c.mods = append(c.mods, t)
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

// written is the value as a person would look for it: "E1572C", "accent1 lumMod 75%".
func (c drawingColor) written() string {
	var b strings.Builder
	switch c.kind {
	case "scrgbClr", "hslClr":
		b.WriteString(strings.TrimSuffix(c.kind, "Clr") + " " + strings.Join(c.attr[:], " "))
	default:
		b.WriteString(c.value)
	}
	for _, m := range c.mods {
		switch m.name {
		case "hue", "hueOff":
			fmt.Fprintf(&b, " %s %g°", m.name, round2(m.value))
		case "comp", "inv", "gray", "gamma", "invGamma":
			b.WriteString(" " + m.name)
		default:
			fmt.Fprintf(&b, " %s %g%%", m.name, round2(m.value*100))
		}
	}
	return b.String()
}

func round2(v float64) float64 { return math.Round(v*100) / 100 }

// rgb resolves the color; scheme gives the slots by name. ok is false for a color that cannot be known here: phClr,
// which stands for the color of whatever uses a style, or a malformed one.
func (c drawingColor) rgb(scheme func(string) (color.RGB8, bool)) (rgb color.RGB8, ok bool) {
	var v color.RGB
	switch c.kind {
	case "srgbClr":
		rgb, err := color.FromHex(c.value)
		if err != nil {
			return rgb, false
		}
		v = rgb.RGB()
	case "sysClr":
		rgb, err := color.FromHex(c.value)
		if err != nil { // no lastClr: take what the names stand for nearly everywhere
			switch c.value {
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
		rgb, ok := preset(c.value)
		if !ok {
			return rgb, false
		}
		v = rgb.RGB()
	default:
		rgb, ok := scheme(c.value)
		if !ok {
			return rgb, false
		}
		v = rgb.RGB()
	}
	for _, m := range c.mods {
		v = m.apply(v)
	}
	v = v.Clip()
	if math.IsNaN(v.R + v.G + v.B) {
		return rgb, false
	}
	return v.RGB8(), true
}

// invisible says that an alpha transform left nothing of the color.
func (c drawingColor) invisible() bool {
	for _, m := range c.mods {
		if (m.name == "alpha" || m.name == "alphaMod") && m.value == 0 {
			return true
		}
	}
	return false
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
func (m transform) apply(c color.RGB) color.RGB {
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
	v := m.value
	switch m.name {
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
