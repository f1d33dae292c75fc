package color

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
)

// component says how a color function reads one of its values.
type component struct {
	name    string  // for a sentence
	channel string  // what a relative color calls it
	one     float64 // what a plain number is divided by
	hundred float64 // what 100 % stands for; 0 for angles
	lo, hi  float64 // beyond which it is clamped
}

// function is a color function of CSS: its three values, how they make a color, and how a color has them, in the numbers
// that a relative color writes.
type function struct {
	parts [3]component
	rgb   func(v [3]float64) RGB
	of    func(c RGB) [3]float64
}

var infinite = math.Inf(1)

func hue(channel string) component { return component{"hue", channel, 1, 0, -infinite, infinite} }

func share(name, channel string) component { return component{name, channel, 100, 1, 0, 1} }

// functions are those of CSS Color 4, and hsv() and hsb(), which no browser knows but people type, as their pickers show it.
var functions = map[string]function{
	"rgb": {
		[3]component{{"red", "r", 255, 1, 0, 1}, {"green", "g", 255, 1, 0, 1}, {"blue", "b", 255, 1, 0, 1}},
		func(v [3]float64) RGB { return RGB{v[0], v[1], v[2]} },
		func(c RGB) [3]float64 { return [3]float64{c.R * 255, c.G * 255, c.B * 255} },
	},
	"hsl": {
		[3]component{hue("h"), share("saturation", "s"), share("lightness", "l")},
		func(v [3]float64) RGB { return HSL{v[0], v[1], v[2]}.RGB() },
		func(c RGB) [3]float64 { v := c.HSL(); return [3]float64{v.H, v.S * 100, v.L * 100} },
	},
	"hwb": {
		[3]component{hue("h"), share("whiteness", "w"), share("blackness", "b")},
		func(v [3]float64) RGB { return HWB{v[0], v[1], v[2]}.RGB() },
		func(c RGB) [3]float64 { v := c.HWB(); return [3]float64{v.H, v.W * 100, v.B * 100} },
	},
	"hsv": {
		[3]component{hue("h"), share("saturation", "s"), share("brightness", "v")},
		func(v [3]float64) RGB { return HSV{v[0], v[1], v[2]}.RGB() },
		func(c RGB) [3]float64 { v := c.HSV(); return [3]float64{v.H, v.S * 100, v.V * 100} },
	},
	"lab": {
		[3]component{{"lightness", "l", 1, 100, 0, 100}, {"a", "a", 1, 125, -infinite, infinite}, {"b", "b", 1, 125, -infinite, infinite}},
		func(v [3]float64) RGB { return Lab{v[0], v[1], v[2]}.RGB() },
		func(c RGB) [3]float64 { v := c.Lab(); return [3]float64{v.L, v.A, v.B} },
	},
	"lch": {
		[3]component{{"lightness", "l", 1, 100, 0, 100}, {"chroma", "c", 1, 150, 0, infinite}, hue("h")},
		func(v [3]float64) RGB { return LCh{v[0], v[1], v[2]}.Lab().RGB() },
		func(c RGB) [3]float64 { v := c.Lab().LCh(); return [3]float64{v.L, v.C, v.H} },
	},
	"oklab": {
		[3]component{{"lightness", "l", 1, 1, 0, 1}, {"a", "a", 1, 0.4, -infinite, infinite}, {"b", "b", 1, 0.4, -infinite, infinite}},
		func(v [3]float64) RGB { return OKLab{v[0], v[1], v[2]}.RGB() },
		func(c RGB) [3]float64 { v := c.OKLab(); return [3]float64{v.L, v.A, v.B} },
	},
	"oklch": {
		[3]component{{"lightness", "l", 1, 1, 0, 1}, {"chroma", "c", 1, 0.4, 0, infinite}, hue("h")},
		func(v [3]float64) RGB { return OKLCH{v[0], v[1], v[2]}.OKLab().RGB() },
		func(c RGB) [3]float64 { v := c.OKLab().OKLCH(); return [3]float64{v.L, v.C, v.H} },
	},
}

// functionOf finds a function by its name; color() has one for each of its spaces.
func (p parser) functionOf(name, space string) (function, error) {
	if name == "color" {
		s, ok := spaces[space]
		if !ok {
			return function{}, fmt.Errorf("the color space %q is not known", space)
		}
		f := function{rgb: s.rgb, of: s.of}
		for i, channel := range s.channels {
			f.parts[i] = component{channel, channel, 1, 1, -infinite, infinite}
		}
		return f, nil
	}
	switch name {
	case "rgba", "hsla":
		name = name[:3]
	case "hsb":
		name = "hsv"
	}
	f, ok := functions[name]
	if !ok || name == "hsv" && !p.strict {
		return f, fmt.Errorf("there is no color function %q", name)
	}
	return f, nil
}

// call reads the functional notations of CSS Color 4 and the relative colors of CSS Color 5.
func (p parser) call(name, body, whole string) (Typed, error) {
	t, err := p.read(name, body)
	if err != nil {
		return Typed{}, fmt.Errorf("%q: %w", whole, err)
	}
	return t, nil
}

func (p parser) read(name, body string) (Typed, error) {
	if name == "color-mix" {
		return p.mix(body)
	}
	args, alpha, commas, err := split(body)
	if err != nil {
		return Typed{}, err
	}
	var from *Typed
	if len(args) > 1 && strings.EqualFold(args[0], "from") {
		if p.depth++; p.depth > 4 {
			return Typed{}, errors.New("it starts from too many other colors")
		}
		origin, err := parser{depth: p.depth}.parse(args[1])
		if err != nil {
			return Typed{}, err
		}
		if origin.CMYK != nil {
			return Typed{}, errors.New("it starts from a build of inks")
		}
		from, args = &origin, args[2:]
	}
	space := ""
	if name == "color" {
		if len(args) == 0 {
			return Typed{}, errors.New("a color space is missing")
		}
		space, args = strings.ToLower(args[0]), args[1:]
	}
	if name == "cmyk" || name == "device-cmyk" {
		return p.build(name, args, alpha)
	}
	f, err := p.functionOf(name, space)
	if err != nil {
		return Typed{}, err
	}
	if len(args) == 4 && alpha == "" && commas && len(name) <= 4 && (name[:3] == "rgb" || name[:3] == "hsl") {
		args, alpha = args[:3], args[3]
	}
	if len(args) != 3 {
		return Typed{}, fmt.Errorf("%d values where three are wanted", len(args))
	}
	t := Typed{Notation: strings.TrimSuffix(name, "a"), Alpha: 1}
	var channels map[string]float64
	if from != nil {
		t.Alpha = from.Alpha
		channels = map[string]float64{"alpha": from.Alpha}
		for i, v := range f.of(from.RGB) {
			channels[f.parts[i].channel] = v
		}
	}
	if alpha != "" {
		if t.Alpha, err = (component{"alpha", "alpha", 1, 1, 0, 1}).value(alpha, channels, &t.Clamped); err != nil {
			return Typed{}, err
		}
	}
	var v [3]float64
	for i, part := range f.parts {
		if v[i], err = part.value(args[i], channels, &t.Clamped); err != nil {
			return Typed{}, err
		}
	}
	t.RGB = f.rgb(v)
	for _, f := range []float64{t.RGB.R, t.RGB.G, t.RGB.B} {
		if math.IsNaN(f) || math.Abs(f) > 1e6 {
			return Typed{}, errors.New("the values are far outside any color")
		}
	}
	return t, nil
}

// build reads four inks, as printers and as device-cmyk() of CSS Color 5 write them; the latter counts plain numbers to 1.
func (p parser) build(name string, args []string, alpha string) (Typed, error) {
	if len(args) != 4 {
		return Typed{}, fmt.Errorf("%d values where four inks are wanted", len(args))
	}
	for i, a := range args {
		q, err := quantityOf(a, nil)
		if err != nil || q.unit == angle {
			return Typed{}, fmt.Errorf("%q is not a number for an ink", a)
		}
		if name == "device-cmyk" && q.unit == plain {
			q.v *= 100
		}
		args[i] = strconv.FormatFloat(q.v, 'g', -1, 64)
	}
	t, err := inks(args)
	if err == nil && alpha != "" {
		t.Alpha, err = (component{"alpha", "alpha", 1, 1, 0, 1}).value(alpha, nil, &t.Clamped)
	}
	return t, err
}

// value reads one value and holds it to its range, and says if it was out of it.
func (c component) value(text string, channels map[string]float64, clamped *string) (float64, error) {
	q, err := quantityOf(text, channels)
	if c.hundred == 0 {
		if err != nil || q.unit == percentage {
			return 0, fmt.Errorf("%q is not an angle", text)
		}
		h := math.Mod(q.v, 360)
		if h < 0 {
			h += 360
		}
		return h, nil
	}
	if err != nil || q.unit == angle {
		if strings.ContainsAny(text, "(") && err != nil {
			return 0, err
		}
		return 0, fmt.Errorf("%q is not a number for %s", text, c.name)
	}
	v := q.v / c.one
	if q.unit == percentage {
		v = q.v / 100 * c.hundred
	}
	bound, side := c.lo, "under"
	switch {
	case v >= c.lo && v <= c.hi:
		return v, nil
	case math.IsNaN(v):
		return 0, fmt.Errorf("%q is not a number for %s", text, c.name)
	case v > c.hi:
		bound, side = c.hi, "over"
	}
	if *clamped == "" {
		shown := strconv.FormatFloat(bound*c.one, 'g', 4, 64)
		if q.unit == percentage {
			shown = strconv.FormatFloat(bound/c.hundred*100, 'g', 4, 64) + "%"
		}
		*clamped = fmt.Sprintf("%s is %s, %s %s", c.name, short(text), side, shown)
	}
	return bound, nil
}

// split separates the arguments of a function, and the alpha after a slash; what stands in parentheses belongs together.
func split(body string) (args []string, alpha string, commas bool, err error) {
	depth, start, slash := 0, -1, false
	comma := true // one argument may begin
	end := func(i int) {
		if start >= 0 {
			args = append(args, body[start:i])
			start = -1
		}
	}
	separate := errors.New("commas must separate every value")
	for i := range len(body) {
		b := body[i]
		switch {
		case depth > 0 && b != '(' && b != ')':
		case b == '(':
			if depth++; start < 0 {
				start = i
			}
		case b == ')':
			if depth--; depth < 0 {
				return nil, "", false, errors.New("a parenthesis closes nothing")
			}
		case b == ',':
			end(i)
			if commas && comma || len(args) == 0 {
				return nil, "", false, separate
			}
			commas, comma = true, true
		case b == '/':
			end(i)
			if slash {
				return nil, "", false, errors.New("one alpha value is wanted after the slash")
			}
			slash = true
			args = append(args, "/")
		case b == ' ' || b == '\t' || b == '\n' || b == '\r' || b == '\f':
			end(i)
		case start < 0:
			start, comma = i, false
		}
	}
	if depth != 0 {
		return nil, "", false, errors.New("a parenthesis is not closed")
	}
	end(len(body))
	if slash {
		if n := len(args); n < 2 || args[n-2] != "/" {
			return nil, "", false, errors.New("one alpha value is wanted after the slash")
		}
		alpha, args = args[len(args)-1], args[:len(args)-2]
	}
	if commas && (comma || strings.Count(body, ",") != len(args)-1 && !strings.Contains(body, "(")) {
		return nil, "", false, separate
	}
	return args, alpha, commas, nil
}

// Opacity reads an opacity of CSS, a number or a percentage, held between 0 and 1.
func Opacity(s string) (float64, bool) {
	var clamped string
	v, err := (component{"opacity", "", 1, 1, 0, 1}).value(strings.TrimSpace(s), nil, &clamped)
	return v, err == nil
}
