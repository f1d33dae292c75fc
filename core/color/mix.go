package color

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
)

// color-mix() of CSS Color 5, 3: two colors in a space, OKLab if none is named, each with a share, with their alpha multiplied in. What is
// missing in one takes the other's value; hues go the shorter way around unless another is asked for.
func (p parser) mix(body string) (Typed, made, error) {
	fail := func(err error) (Typed, made, error) { return Typed{}, made{}, err }
	parts := Commas(body)
	space, way, said := "oklab", "shorter", false
	if words := strings.Fields(strings.ToLower(parts[0])); len(words) > 1 && words[0] == "in" {
		space = words[1]
		if len(words) == 4 && words[3] == "hue" {
			way, said = words[2], true
		} else if len(words) != 2 {
			return fail(fmt.Errorf("%q is not a space to mix in", parts[0]))
		}
		parts = parts[1:]
	}
	if len(parts) != 2 {
		return fail(errors.New("color-mix() takes two colors, and before them the space to mix in"))
	}
	f, polar, err := mixSpace(space)
	if err != nil {
		return fail(err)
	}
	if said && (polar < 0 || !slices.Contains([]string{"shorter", "longer", "increasing", "decreasing"}, way)) {
		return fail(fmt.Errorf("there is no %s hue in %s", way, space))
	}
	var mixed [2]made
	var shares [2]float64
	for i, text := range parts {
		var rest string
		if shares[i], rest, err = shareOf(text); err != nil {
			return fail(err)
		}
		t, m, err := p.part(rest)
		if err != nil {
			return fail(err)
		}
		mixed[i] = carried(m, t.RGB, space, f)
	}
	out := made{name: space}
	shares = completed(shares)
	sum := shares[0] + shares[1]
	w := 0.5 // of nothing of both, which is as good as not there
	if sum > 0 {
		w = shares[1] / sum
	}
	a, b := fillIn(mixed[0], mixed[1], &out)
	alpha := a.alpha*(1-w) + b.alpha*w
	for i := range out.v {
		switch {
		case i == polar:
			out.v[i] = turn(a.v[i], b.v[i], w, way)
		case alpha != 0:
			out.v[i] = (a.v[i]*a.alpha*(1-w) + b.v[i]*b.alpha*w) / alpha
		}
	}
	if out.alpha = alpha * math.Min(1, sum); out.alphaNone {
		out.alpha = 0
	}
	for i, c := range f.parts {
		if !f.open && c.hundred != 0 {
			out.v[i] = min(c.hi, max(c.lo, out.v[i]))
		}
	}
	t := Typed{Notation: "color-mix", Alpha: out.alpha, RGB: f.rgb(out.v)}
	if alpha == 0 {
		t.RGB = RGB{}
	}
	return t, out, nil
}

// completed gives a share that is not said what the other one leaves, or half to each.
func completed(shares [2]float64) [2]float64 {
	switch a, b := shares[0], shares[1]; {
	case math.IsNaN(a) && math.IsNaN(b):
		shares = [2]float64{0.5, 0.5}
	case math.IsNaN(b):
		shares[1] = 1 - a
	case math.IsNaN(a):
		shares[0] = 1 - b
	}
	return shares
}

// fillIn gives what is missing in one of two colors the value of the other; what is missing in both is so in what they make.
func fillIn(a, b made, out *made) (made, made) {
	for i := range a.v {
		switch {
		case a.none[i] && b.none[i]:
			out.none[i] = true
		case a.none[i]:
			a.v[i] = b.v[i]
		case b.none[i]:
			b.v[i] = a.v[i]
		}
	}
	switch {
	case a.alphaNone && b.alphaNone:
		out.alphaNone, a.alpha, b.alpha = true, 1, 1
	case a.alphaNone:
		a.alpha = b.alpha
	case b.alphaNone:
		b.alpha = a.alpha
	}
	return a, b
}

// shareOf takes a color and its share apart; NaN for none.
func shareOf(text string) (share float64, rest string, err error) {
	args, alpha, commas, err := split(text)
	if err != nil || commas || alpha != "" {
		return 0, "", fmt.Errorf("%q is not a color with a share", text)
	}
	share, rest = math.NaN(), text
	for i, a := range args {
		q, err := quantityOf(a, nil)
		if err != nil || q.unit != percentage {
			continue
		}
		if len(args) != 2 {
			return 0, "", fmt.Errorf("%q is not a color with a share", text)
		}
		share, rest = q.v/100, args[1-i]
		if !strings.Contains(a, "(") && (share < 0 || share > 1) {
			return 0, "", errors.New("the shares of color-mix() are not between 0 and 100 %")
		}
		return math.Min(1, math.Max(0, share)), rest, nil
	}
	return share, rest, nil
}

// mixSpace finds the space and which of its values is a hue, -1 for none.
func mixSpace(name string) (f function, polar int, err error) {
	polar = map[string]int{"hsl": 0, "hwb": 0, "lch": 2, "oklch": 2, "lab": -1, "oklab": -1}[name]
	if f, ok := functions[name]; ok && name != "rgb" && name != "hsv" {
		return f, polar, nil
	}
	if s, ok := spaces[name]; ok {
		f := s.function()
		for i, channel := range s.channels {
			f.parts[i] = component{channel, channel, 1, 1, -infinite, infinite}
		}
		return f, -1, nil
	}
	return f, -1, fmt.Errorf("the color space %q is not known", name)
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
