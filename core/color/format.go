package color

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Notation is one way to write a screen color. Each keeps so many digits that Parse gives back the same 8-bit color,
// except for the words of "name", which not every color has, and "gray", which keeps the luminance only.
type Notation struct {
	Name  string
	About string
	Write func(RGB8) string // empty if the color cannot be written so
}

// Notations lists the ways to write a screen color; CMYK builds write themselves (CMYK.String).
var Notations = []Notation{
	{"hex", "six hexadecimal digits", RGB8.Hex},
	{"rgb", "CSS rgb(), 0 to 255", func(c RGB8) string { return fmt.Sprintf("rgb(%d %d %d)", c.R, c.G, c.B) }},
	{"triple", "three numbers, 0 to 255", func(c RGB8) string { return fmt.Sprintf("%d %d %d", c.R, c.G, c.B) }},
	{"percent", "CSS rgb() in percent", func(c RGB8) string {
		return call("rgb", percent(c.RGB().R, 2), percent(c.RGB().G, 2), percent(c.RGB().B, 2))
	}},
	{"float", "three numbers, 0.0 to 1.0", func(c RGB8) string {
		// A point says that the scale is 0 to 1, so that 1.0 is not 1 of 255.
		v := []string{digits(c.RGB().R, 4), digits(c.RGB().G, 4), digits(c.RGB().B, 4)}
		for i := range v {
			if !strings.Contains(v[i], ".") {
				v[i] += ".0"
			}
		}
		return strings.Join(v, " ")
	}},
	{"srgb", "CSS color(srgb ...)", func(c RGB8) string {
		return call("color", "srgb", digits(c.RGB().R, 4), digits(c.RGB().G, 4), digits(c.RGB().B, 4))
	}},
	{"linear", "CSS color(srgb-linear ...)", func(c RGB8) string {
		l := c.RGB().Linear()
		return call("color", "srgb-linear", digits(l.R, 5), digits(l.G, 5), digits(l.B, 5))
	}},
	{"hsl", "CSS hsl(): hue in degrees, saturation, lightness", func(c RGB8) string {
		v := c.RGB().HSL()
		return call("hsl", digits(v.H, 2), percent(v.S, 2), percent(v.L, 2))
	}},
	{"hsv", "hue in degrees, saturation, value", func(c RGB8) string {
		v := c.RGB().HSV()
		return call("hsv", digits(v.H, 2), percent(v.S, 2), percent(v.V, 2))
	}},
	{"hwb", "CSS hwb(): hue in degrees, whiteness, blackness", func(c RGB8) string {
		v := c.RGB().HWB()
		return call("hwb", digits(v.H, 2), percent(v.W, 2), percent(v.B, 2))
	}},
	{"lab", "CSS lab(): CIELAB, D50",
		func(c RGB8) string { v := c.Lab(); return call("lab", digits(v.L, 3), digits(v.A, 3), digits(v.B, 3)) }},
	{"lch", "CSS lch(): CIELAB, D50, with chroma and hue", func(c RGB8) string {
		v := c.Lab().LCh()
		return call("lch", digits(v.L, 3), digits(v.C, 3), digits(v.H, 3))
	}},
	{"oklab", "CSS oklab()", func(c RGB8) string {
		v := c.RGB().OKLab()
		return call("oklab", digits(v.L, 5), digits(v.A, 5), digits(v.B, 5))
	}},
	{"oklch", "CSS oklch()", func(c RGB8) string {
		v := c.RGB().OKLab().OKLCH()
		return call("oklch", digits(v.L, 5), digits(v.C, 5), digits(v.H, 3))
	}},
	{"p3", "CSS color(display-p3 ...)", func(c RGB8) string { return inSpace("display-p3", c.RGB()) }},
	{"xyz", "CSS color(xyz-d65 ...)", func(c RGB8) string {
		v := c.RGB().Linear().XYZ()
		return call("color", "xyz-d65", digits(v.X, 6), digits(v.Y, 6), digits(v.Z, 6))
	}},
	{"gray", "the gray of the same luminance", func(c RGB8) string { return c.RGB().Gray().RGB8().Hex() }},
	{"name", "CSS color name, if there is one", func(c RGB8) string { name, _ := c.Name(); return name }},
}

// Beyond lists the notations of CSS that hold a color which sRGB does not, with the digits that Exactly keeps.
var Beyond = []struct {
	Name, About string
	Write       func(RGB) string
}{
	{"p3", "CSS color(display-p3 ...)", func(c RGB) string { return inSpace("display-p3", c) }},
	{"rec2020", "CSS color(rec2020 ...)", func(c RGB) string { return inSpace("rec2020", c) }},
	{"lab", "CSS lab(): CIELAB, D50",
		func(c RGB) string { v := c.Lab(); return call("lab", digits(v.L, 4), digits(v.A, 4), digits(v.B, 4)) }},
	{"lch", "CSS lch(): CIELAB, D50, with chroma and hue", func(c RGB) string {
		v := c.Lab().LCh()
		return call("lch", digits(v.L, 4), digits(v.C, 4), digits(v.H, 4))
	}},
	{"oklab", "CSS oklab()", func(c RGB) string {
		v := c.OKLab()
		return call("oklab", digits(v.L, 6), digits(v.A, 6), digits(v.B, 6))
	}},
	{"oklch", "CSS oklch()", func(c RGB) string {
		v := c.OKLab().OKLCH()
		return call("oklch", digits(v.L, 6), digits(v.C, 6), digits(v.H, 4))
	}},
	{"xyz", "CSS color(xyz-d65 ...)", func(c RGB) string { return inSpace("xyz-d65", c) }},
}

func inSpace(name string, c RGB) string {
	v := spaces[name].of(c)
	return call("color", name, digits(v[0], 6), digits(v[1], 6), digits(v[2], 6))
}

// Write writes a color in a notation by name.
func Write(c RGB8, notation string) (string, error) {
	names := []string{}
	for _, n := range Notations {
		if strings.EqualFold(n.Name, notation) {
			if s := n.Write(c); s != "" {
				return s, nil
			}
			return "", fmt.Errorf("%s cannot be written as %s", c.Hex(), n.Name)
		}
		names = append(names, n.Name)
	}
	return "", fmt.Errorf("there is no notation %q; there are %s", notation, strings.Join(names, ", "))
}

func call(name string, args ...string) string { return name + "(" + strings.Join(args, " ") + ")" }

// digits writes a number with at most n decimals.
func digits(v float64, n int) string {
	p := math.Pow10(n)
	return strconv.FormatFloat(math.Round(v*p)/p+0, 'f', -1, 64)
}

func percent(v float64, n int) string { return digits(v*100, n) + "%" }
