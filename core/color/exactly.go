package color

import (
	"math"
	"strings"
)

// What is written in a notation that goes beyond 8 bits of sRGB has more than those: exactly what was written is kept as a text of CSS.

// within is how many steps of 8 bits a value may lie beside one and count as it: what was written of 8 bits with five decimals is 8 bits.
const within = 0.1

// Exactly is the color as CSS writes it without loss, for one that 8 bits of sRGB do not hold: lab(), lch(), oklab(), oklch() or color(),
// as it was written, with its numbers worked out; what was worked out of other colors is written in Display P3. It is empty where RGB8 is
// the color itself, for notations of 8 bits, and for numbers of no color.
func (t Typed) Exactly() string {
	var name string
	var v [3]float64
	switch {
	case t.CMYK != nil || !t.Real():
		return ""
	case t.made != nil && rgbOf(t.made.name, t.made.v) == t.RGB:
		name, v = t.made.name, t.made.v
	case t.RGB.InGamut(): // worked out of others within sRGB, or written in 8 bits
		return ""
	default: // worked out of others
		name, v = "display-p3", spaces["display-p3"].of(t.RGB)
	}
	text := ""
	switch name {
	case "lab", "lch":
		text = call(name, digits(v[0], 4), digits(v[1], 4), digits(v[2], 4))
	case "oklab":
		text = call("oklab", digits(v[0], 6), digits(v[1], 6), digits(v[2], 6))
	case "oklch":
		text = call("oklch", digits(v[0], 6), digits(v[1], 6), digits(v[2], 4))
	default:
		text = call("color", name, digits(v[0], 6), digits(v[1], 6), digits(v[2], 6))
	}
	back := t.RGB8().RGB()
	for _, d := range []float64{back.R - t.RGB.R, back.G - t.RGB.G, back.B - t.RGB.B} {
		if math.Abs(d)*255 > within {
			return text
		}
	}
	return ""
}

// Coded is a color of a space of color(), as CSS names it, by its three numbers; false for a space that it does not name.
func Coded(space string, v [3]float64) (Typed, bool) {
	if _, ok := spaces[space]; !ok {
		return Typed{}, false
	}
	return Typed{RGB: rgbOf(space, v), Alpha: 1, Notation: "color", made: &made{name: space, v: v, alpha: 1}}, true
}

// Numbers are a color's three numbers in a space of the function color(), such as "display-p3"; false for a space that is not known.
func Numbers(space string, c RGB) ([3]float64, bool) {
	s, ok := spaces[space]
	if !ok {
		return [3]float64{}, false
	}
	return s.of(c), true
}

// Real says whether the numbers are those of a color: no darker than black, no lighter than white, and within what a reading may be.
func (t Typed) Real() bool {
	if t.CMYK != nil || t.RGB.InGamut() {
		return true
	}
	lab := t.RGB.Lab()
	return lab.L >= -0.01 && lab.L <= 100.01 && math.Abs(lab.A) <= 200 && math.Abs(lab.B) <= 200
}

// rgbOf is a color of a function, or of a space of color().
func rgbOf(name string, v [3]float64) RGB {
	if s, ok := spaces[name]; ok {
		return s.function().rgb(v)
	}
	return functions[name].rgb(v)
}

// OneStep says whether the color is within a step of 8 bits of another, in each number of the space that it is written in; lab() and the
// like are held against Display P3.
func (t Typed) OneStep(of RGB) bool {
	space := "display-p3"
	if t.made != nil {
		if _, ok := spaces[t.made.name]; ok && spaces[t.made.name].channels == rgbChannels {
			space = t.made.name
		}
	}
	a, b := spaces[space].of(t.RGB), spaces[space].of(of)
	for i := range a {
		if math.Abs(a[i]-b[i]) > 1./255+1e-6 {
			return false
		}
	}
	return true
}

// RewriteExactly writes a color that sRGB does not hold, as Exactly writes it, where another one stands that it does not hold either: with
// the alpha that stands there. False where what stands there has no such notation.
func RewriteExactly(old, to string) (string, bool) {
	t, err := ParseCSS(old)
	if err != nil || t.made == nil {
		return "", false
	}
	if t.Alpha < 1 {
		to = strings.TrimSuffix(to, ")") + " / " + digits(t.Alpha, 4) + ")"
	}
	return to, true
}

// NumbersLike are the three numbers of a color that sRGB does not hold, as Exactly writes it, in the function or the space that another
// such color is written in. False where that has no such notation.
func NumbersLike(old, to string) (v [3]float64, ok bool) {
	at, err := ParseCSS(old)
	if err != nil || at.made == nil {
		return v, false
	}
	t, err := ParseCSS(to)
	if err != nil {
		return v, false
	}
	if s, ok := spaces[at.made.name]; ok {
		v = s.of(t.RGB)
	} else {
		v = functions[at.made.name].of(t.RGB)
	}
	for i := range v {
		v[i] = math.Round(v[i]*1e6) / 1e6
	}
	return v, true
}

// beyond says whether a function, or a space of color(), has more than the hexadecimal notation.
func beyond(name string) bool {
	_, ok := spaces[name]
	return ok || name == "lab" || name == "lch" || name == "oklab" || name == "oklch"
}

// CSS writes a color as oklch(), beyond sRGB too.
func (c OKLCH) CSS() string { return call("oklch", digits(c.L, 4), digits(c.C, 4), digits(c.H, 2)) }
