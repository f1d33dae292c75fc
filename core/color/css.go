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
	open  bool // a relative color is not held to the ranges of the values
}

var infinite = math.Inf(1)

func hue(channel string) component { return component{"hue", channel, 1, 0, -infinite, infinite} }

func share(name, channel string) component { return component{name, channel, 100, 1, 0, 1} }

// made is a color as a function writes it: what color-mix() and relative colors carry over of it.
type made struct {
	name      string // of the function, or the space of color()
	v         [3]float64
	none      [3]bool // values that are missing, which count as 0
	alpha     float64
	alphaNone bool
}

// functions are those of CSS Color 4, and hsv() and hsb(), which no browser knows but people type, as their pickers show it.
var functions = map[string]function{
	"rgb": {
		[3]component{{"red", "r", 255, 1, 0, 1}, {"green", "g", 255, 1, 0, 1}, {"blue", "b", 255, 1, 0, 1}},
		func(v [3]float64) RGB { return RGB{v[0], v[1], v[2]} },
		func(c RGB) [3]float64 { return [3]float64{c.R * 255, c.G * 255, c.B * 255} },
		true,
	},
	"hsl": {
		[3]component{hue("h"), {"saturation", "s", 100, 1, 0, infinite}, {"lightness", "l", 100, 1, 0, infinite}},
		func(v [3]float64) RGB { return HSL{v[0], v[1], v[2]}.RGB() },
		func(c RGB) [3]float64 { v := c.HSL(); return [3]float64{v.H, v.S * 100, v.L * 100} },
		true,
	},
	"hwb": {
		[3]component{hue("h"), {"whiteness", "w", 100, 1, 0, infinite}, {"blackness", "b", 100, 1, 0, infinite}},
		func(v [3]float64) RGB { return HWB{v[0], v[1], v[2]}.RGB() },
		func(c RGB) [3]float64 { v := c.HWB(); return [3]float64{v.H, v.W * 100, v.B * 100} },
		true,
	},
	"hsv": {
		[3]component{hue("h"), share("saturation", "s"), share("brightness", "v")},
		func(v [3]float64) RGB { return HSV{v[0], v[1], v[2]}.RGB() },
		func(c RGB) [3]float64 { v := c.HSV(); return [3]float64{v.H, v.S * 100, v.V * 100} },
		false,
	},
	"lab": {
		[3]component{{"lightness", "l", 1, 100, 0, 100}, {"a", "a", 1, 125, -infinite, infinite}, {"b", "b", 1, 125, -infinite, infinite}},
		func(v [3]float64) RGB { return Lab{v[0], v[1], v[2]}.RGB() },
		func(c RGB) [3]float64 { v := c.Lab(); return [3]float64{v.L, v.A, v.B} },
		false,
	},
	"lch": {
		[3]component{{"lightness", "l", 1, 100, 0, 100}, {"chroma", "c", 1, 150, 0, infinite}, hue("h")},
		func(v [3]float64) RGB { return LCh{v[0], v[1], v[2]}.Lab().RGB() },
		func(c RGB) [3]float64 { v := c.Lab().LCh(); return [3]float64{v.L, v.C, v.H} },
		false,
	},
	"oklab": {
		[3]component{{"lightness", "l", 1, 1, 0, 1}, {"a", "a", 1, 0.4, -infinite, infinite}, {"b", "b", 1, 0.4, -infinite, infinite}},
		func(v [3]float64) RGB { return OKLab{v[0], v[1], v[2]}.RGB() },
		func(c RGB) [3]float64 { v := c.OKLab(); return [3]float64{v.L, v.A, v.B} },
		false,
	},
	"oklch": {
		[3]component{{"lightness", "l", 1, 1, 0, 1}, {"chroma", "c", 1, 0.4, 0, infinite}, hue("h")},
		func(v [3]float64) RGB { return OKLCH{v[0], v[1], v[2]}.OKLab().RGB() },
		func(c RGB) [3]float64 { v := c.OKLab().OKLCH(); return [3]float64{v.L, v.C, v.H} },
		false,
	},
}

// functionOf finds a function by its name; color() has one for each of its spaces.
func (p parser) functionOf(name, space string) (function, error) {
	if name == "color" {
		s, ok := spaces[space]
		if !ok {
			return function{}, fmt.Errorf("the color space %q is not known", space)
		}
		f := s.function()
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

// call reads the functional notations of CSS Color 4 and 5.
func (p parser) call(name, body, whole string) (Typed, made, error) {
	t, m, err := p.read(name, body)
	if err != nil {
		return Typed{}, made{}, fmt.Errorf("%q: %w", whole, err)
	}
	return t, m, nil
}

// inner is the parser of a color within this one.
func (p parser) inner() (parser, error) {
	if p.depth++; p.depth > 8 {
		return p, errors.New("it has too many colors inside of each other")
	}
	p.strict = false
	return p, nil
}

// part reads a color within this one, which may be transparent.
func (p parser) part(s string) (Typed, made, error) {
	in, err := p.inner()
	if err != nil {
		return Typed{}, made{}, err
	}
	if strings.EqualFold(strings.TrimSpace(s), "transparent") {
		return Typed{}, made{name: "rgb"}, nil
	}
	t, m, err := in.full(s)
	if err == nil && t.CMYK != nil {
		err = errors.New("it has a build of inks inside")
	}
	return t, m, err
}

// read reads a function of CSS by what stands between its parentheses.
func (p parser) read(name, body string) (Typed, made, error) {
	fail := func(err error) (Typed, made, error) { return Typed{}, made{}, err }
	switch name {
	case "color-mix":
		return p.mix(body)
	case "light-dark":
		return p.lightDark(body)
	}
	args, alpha, commas, err := split(body)
	if err != nil {
		return fail(err)
	}
	var from *origin
	if len(args) > 1 && strings.EqualFold(args[0], "from") {
		t, m, err := p.part(args[1])
		if err != nil {
			return fail(err)
		}
		if commas {
			return fail(errors.New("a relative color has no commas"))
		}
		from, args = &origin{t, m}, args[2:]
	}
	space := ""
	if name == "color" {
		if len(args) == 0 {
			return fail(errors.New("a color space is missing"))
		}
		space, args = strings.ToLower(args[0]), args[1:]
	}
	if name == "cmyk" || name == "device-cmyk" {
		t, err := p.build(name, args, alpha)
		return t, made{}, err
	}
	f, err := p.functionOf(name, space)
	if err != nil {
		return fail(err)
	}
	legacy := commas && len(name) <= 4 && (name[:3] == "rgb" || name[:3] == "hsl")
	if len(args) == 4 && alpha == "" && legacy {
		args, alpha = args[:3], args[3]
	} else if commas && alpha != "" && !p.strict {
		return fail(errors.New("after commas the alpha has one too"))
	}
	if len(args) != 3 {
		return fail(fmt.Errorf("%s where three are wanted", values(len(args))))
	}
	if commas && !p.strict {
		if err := old(name, append(append([]string{}, args...), alpha), legacy); err != nil {
			return fail(err)
		}
	}
	m := made{name: strings.TrimSuffix(name, "a")}
	if space != "" {
		m.name = space
	} else if m.name == "hsb" {
		m.name = "hsv"
	}
	return p.values(Typed{Notation: strings.TrimSuffix(name, "a")}, m, f, from, args, alpha, legacy)
}

// lightDark reads the two colors of light-dark(), of which the first counts where pages are light.
func (p parser) lightDark(body string) (Typed, made, error) {
	parts := Commas(body)
	if !p.light {
		return Typed{}, made{}, errors.New("it is one color on light pages and another on dark ones")
	}
	if len(parts) != 2 {
		return Typed{}, made{}, errors.New("light-dark() takes two colors")
	}
	t, m, err := p.part(parts[0])
	if err == nil {
		_, _, err = p.part(parts[1])
	}
	return t, m, err
}

// origin is the color that a relative one is made from.
type origin struct {
	Typed
	made
}

// channels are the numbers that a relative color of a function may name, and which of them are missing.
func (o *origin) channels(name string, f function) (channels map[string]float64, missing map[string]bool) {
	if o == nil {
		return nil, nil
	}
	v := made{v: o.v, none: o.none}
	if o.name != name { // what is missing is missing in the same function only
		v = made{v: f.of(o.RGB)}
		for i := range v.v {
			v.v[i] /= f.parts[i].one
		}
	}
	channels, missing = map[string]float64{"alpha": o.alpha}, map[string]bool{"alpha": o.alphaNone}
	for i := range f.parts {
		channels[f.parts[i].channel], missing[f.parts[i].channel] = v.v[i]*f.parts[i].one, v.none[i]
	}
	return channels, missing
}

// values works out the three values of a function, and the alpha.
func (p parser) values(t Typed, m made, f function, from *origin, args []string, alpha string, legacy bool) (Typed, made, error) {
	fail := func(err error) (Typed, made, error) { return Typed{}, made{}, err }
	t.Alpha, m.alpha = 1, 1
	if from != nil {
		m.alpha, t.Alpha = from.alpha, from.Alpha
	}
	channels, missing := from.channels(m.name, f)
	none := func(text string) bool { return strings.EqualFold(text, "none") || missing[strings.ToLower(text)] }
	var err error
	if alpha != "" {
		if m.alpha, err = (component{"alpha", "alpha", 1, 1, 0, 1}).value(alpha, channels, &t.Clamped); err != nil {
			return fail(err)
		}
		t.Alpha, m.alphaNone = m.alpha, none(alpha)
	}
	for i, part := range f.parts {
		if (legacy || p.strict && from == nil) && i > 0 && (m.name == "hsl" || m.name == "hwb") { // who types more mistook it
			part.lo, part.hi = 0, 1
		}
		if from != nil && f.open { // what a relative one comes to is not held to the screen
			part.lo, part.hi = -infinite, infinite
		}
		if m.v[i], err = part.value(args[i], channels, &t.Clamped); err != nil {
			return fail(err)
		}
		m.none[i] = none(args[i])
	}
	t.RGB = f.rgb(m.v)
	for _, f := range []float64{t.RGB.R, t.RGB.G, t.RGB.B} {
		if math.IsNaN(f) || math.Abs(f) > 1e6 {
			return fail(errors.New("the values are far outside any color"))
		}
	}
	return t, m, nil
}

// old checks values with commas between them, as they were before CSS Color 4: percentages or numbers, and none is missing.
func old(name string, args []string, legacy bool) error {
	if !legacy {
		return fmt.Errorf("%s() has no commas", name)
	}
	percent := 0
	for i, a := range args {
		if a == "" {
			continue
		}
		q, err := quantityOf(a, nil)
		if err != nil || q.unit == missing {
			return fmt.Errorf("%q is not a number", a)
		}
		if i < 3 && q.unit == percentage {
			percent++
		}
	}
	switch {
	case name[:3] == "rgb" && percent != 0 && percent != 3:
		return errors.New("it mixes percentages and plain numbers")
	case name[:3] == "hsl" && percent != 2:
		return errors.New("with commas, saturation and lightness are percentages")
	}
	return nil
}

// What a value means, so that what is missing in one space is missing in another (CSS Color 4, 12.2).
var meanings = map[string]string{"r": "red", "x": "red", "g": "green", "y": "green", "b": "blue", "z": "blue", "l": "lightness",
	"c": "color", "s": "color", "h": "hue"}

func meaning(f string, c component) string {
	if f == "lab" || f == "oklab" {
		return map[string]string{"l": "lightness", "a": "a", "b": "opposite b"}[c.channel]
	}
	if f == "hwb" && c.channel != "h" {
		return c.channel // whiteness and blackness are no other's
	}
	return meanings[c.channel]
}

// carried is a color in another function, with what is missing in both. A hue that says nothing is missing.
func carried(from made, rgb RGB, name string, f function) made {
	out := made{name: name, alpha: from.alpha, alphaNone: from.alphaNone}
	if from.name == name {
		out.v, out.none = from.v, from.none
		return out
	}
	for i, v := range f.of(rgb) {
		out.v[i] = v / f.parts[i].one
	}
	of := partsOf(from.name)
	for i, part := range f.parts {
		for k, other := range of {
			if m := meaning(name, part); from.none[k] && m != "" && m == meaning(from.name, other) {
				out.none[i], out.v[i] = true, 0
			}
		}
		if part.hundred == 0 && powerless(name, out.v, rgb) {
			out.none[i], out.v[i] = true, 0
		}
	}
	// Where both values that say how colored it is and in which direction are missing, their counterparts are.
	pair := func(name string, none [3]bool) (both bool, at [2]int) {
		switch name {
		case "lab", "oklab", "lch", "oklch":
			at = [2]int{1, 2}
		case "hsl":
			at = [2]int{0, 1}
		default:
			return false, at
		}
		return none[at[0]] && none[at[1]], at
	}
	if both, _ := pair(from.name, from.none); both {
		if _, at := pair(name, out.none); at[1] > 0 {
			for _, i := range at {
				out.none[i], out.v[i] = true, 0
			}
		}
	}
	return out
}

func partsOf(name string) [3]component {
	if f, ok := functions[name]; ok {
		return f.parts
	}
	if s, ok := spaces[name]; ok {
		return [3]component{{channel: s.channels[0]}, {channel: s.channels[1]}, {channel: s.channels[2]}}
	}
	return [3]component{}
}

// powerless says that a color has no hue; of how little chroma that is said is measured at Chromium.
func powerless(name string, v [3]float64, rgb RGB) bool {
	switch name {
	case "lch":
		return v[1] < 0.04
	case "oklch":
		return v[1] < 0.02
	}
	return math.Max(rgb.R, math.Max(rgb.G, rgb.B))-math.Min(rgb.R, math.Min(rgb.G, rgb.B)) < 1e-5
}

// build reads four inks, as printers and as device-cmyk() of CSS Color 5 write them; the latter counts plain numbers to 1.
func (p parser) build(name string, args []string, alpha string) (Typed, error) {
	if len(args) != 4 {
		return Typed{}, fmt.Errorf("%s where four inks are wanted", values(len(args)))
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
		if math.IsNaN(h) { // of infinity
			h = 0
		}
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

// values says how many there are.
func values(n int) string {
	if n == 1 {
		return "it has one value"
	}
	return fmt.Sprintf("it has %d values", n)
}
