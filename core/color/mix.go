package color

import (
	"errors"
	"fmt"
	"math"
	"strings"
)

// color-mix() of CSS Color 5, 3: two colors in a space, each with a share, with their alpha multiplied in; hues go the shorter way
// around unless another is asked for.
func (p parser) mix(body string) (Typed, error) {
	parts := Commas(body)
	if len(parts) != 3 {
		return Typed{}, errors.New("color-mix() takes a space and two colors")
	}
	words := strings.Fields(strings.ToLower(parts[0]))
	if len(words) < 2 || words[0] != "in" {
		return Typed{}, errors.New("color-mix() begins with the space to mix in")
	}
	way := "shorter"
	if len(words) == 4 && words[3] == "hue" {
		way = words[2]
	} else if len(words) != 2 {
		return Typed{}, fmt.Errorf("%q is not a space to mix in", parts[0])
	}
	f, polar, err := mixSpace(words[1])
	if err != nil {
		return Typed{}, err
	}
	if p.depth++; p.depth > 8 {
		return Typed{}, errors.New("it mixes too many colors into each other")
	}
	var colors [2]Typed
	var shares [2]float64
	for i, text := range parts[1:] {
		shares[i] = math.NaN()
		text = strings.TrimSpace(text)
		rest := text
		if fields := strings.Fields(text); len(fields) > 1 {
			for _, at := range []int{0, len(fields) - 1} {
				if q, err := quantityOf(fields[at], nil); err == nil && q.unit == percentage {
					shares[i] = q.v / 100
					if at == 0 {
						rest = strings.TrimSpace(text[len(fields[0]):])
					} else {
						rest = strings.TrimSpace(strings.TrimSuffix(text, fields[at]))
					}
					break
				}
			}
		}
		if strings.EqualFold(rest, "transparent") {
			colors[i] = Typed{Alpha: 0}
		} else if colors[i], err = (parser{depth: p.depth}).parse(rest); err != nil {
			return Typed{}, err
		}
		if colors[i].CMYK != nil {
			return Typed{}, errors.New("color-mix() mixes a build of inks")
		}
	}
	fade := 1.0
	switch a, b := shares[0], shares[1]; {
	case math.IsNaN(a) && math.IsNaN(b):
		shares = [2]float64{0.5, 0.5}
	case math.IsNaN(b):
		shares[1] = 1 - a
	case math.IsNaN(a):
		shares[0] = 1 - b
	}
	sum := shares[0] + shares[1]
	if !(sum > 0) || shares[0] < 0 || shares[1] < 0 || shares[0] > 1 || shares[1] > 1 {
		return Typed{}, errors.New("the shares of color-mix() are not between 0 and 100 %")
	}
	fade = math.Min(1, sum)
	w := shares[1] / sum
	alpha := colors[0].Alpha*(1-w) + colors[1].Alpha*w
	out := Typed{Notation: "color-mix", Alpha: alpha * fade}
	if alpha == 0 {
		return out, nil
	}
	a, b := f.of(colors[0].RGB), f.of(colors[1].RGB)
	if colors[0].Alpha == 0 && strings.EqualFold(strings.TrimSpace(strings.Fields(parts[1])[0]), "transparent") {
		a = b // what is missing takes the other's
	}
	if colors[1].Alpha == 0 && strings.EqualFold(strings.TrimSpace(strings.Fields(parts[2])[0]), "transparent") {
		b = a
	}
	if polar >= 0 {
		a, b = powerless(f, a, b, polar, colors)
	}
	var v [3]float64
	for i := range v {
		if i == polar {
			v[i] = turn(a[i], b[i], w, way)
			continue
		}
		v[i] = (a[i]*colors[0].Alpha*(1-w) + b[i]*colors[1].Alpha*w) / alpha
	}
	for i, c := range f.parts {
		if i != polar {
			v[i] = v[i] / c.one
		}
	}
	out.RGB = f.rgb(v)
	return out, nil
}

// mixSpace finds the space and which of its values is a hue, -1 for none.
func mixSpace(name string) (f function, polar int, err error) {
	polar = map[string]int{"hsl": 0, "hwb": 0, "lch": 2, "oklch": 2, "lab": -1, "oklab": -1}[name]
	if f, ok := functions[name]; ok && name != "rgb" && name != "hsv" {
		return f, polar, nil
	}
	if name == "srgb" { // not through XYZ, where half a level is lost
		f := function{rgb: func(v [3]float64) RGB { return RGB{v[0], v[1], v[2]} }, of: func(c RGB) [3]float64 { return [3]float64{c.R, c.G, c.B} }}
		for i := range f.parts {
			f.parts[i].one = 1
		}
		return f, -1, nil
	}
	if s, ok := spaces[name]; ok {
		f := function{rgb: s.rgb, of: s.of}
		for i, channel := range s.channels {
			f.parts[i] = component{channel, channel, 1, 1, -infinite, infinite}
		}
		return f, -1, nil
	}
	return f, -1, fmt.Errorf("the color space %q is not known", name)
}

// powerless gives a gray, whose hue says nothing, the hue of the other color.
func powerless(f function, a, b [3]float64, polar int, colors [2]Typed) (x, y [3]float64) {
	gray := func(c Typed) bool { v := c.RGB.OKLab(); return math.Hypot(v.A, v.B) < 4e-6 }
	switch ga, gb := gray(colors[0]), gray(colors[1]); {
	case ga && !gb:
		a[polar] = b[polar]
	case gb && !ga:
		b[polar] = a[polar]
	}
	return a, b
}

func turn(a, b, w float64, way string) float64 {
	switch d := b - a; way {
	case "longer":
		if d > 0 && d < 180 {
			a += 360
		} else if d > -180 && d <= 0 {
			b += 360
		}
	case "increasing":
		if d < 0 {
			b += 360
		}
	case "decreasing":
		if d > 0 {
			a += 360
		}
	default:
		if d > 180 {
			a += 360
		} else if d < -180 {
			b += 360
		}
	}
	return math.Mod(a*(1-w)+b*w+360, 360)
}

// Commas splits a text at the commas outside of parentheses.
func Commas(s string) (out []string) {
	depth, from := 0, 0
	for i := range len(s) {
		switch s[i] {
		case '(':
			depth++
		case ')':
			depth--
		case ',':
			if depth == 0 {
				out = append(out, strings.TrimSpace(s[from:i]))
				from = i + 1
			}
		}
	}
	return append(out, strings.TrimSpace(s[from:]))
}
