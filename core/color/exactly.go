package color

import "math"

// What is written in a notation that goes beyond 8 bits of sRGB has more than those: exactly what was written is kept as a text of CSS.

// within is how many steps of 8 bits a value may lie beside one and count as it: what was written of 8 bits with five decimals is 8 bits.
const within = 0.1

// Exactly is the color as CSS writes it without loss, for one that 8 bits of sRGB do not hold: lab(), lch(), oklab(), oklch() or color(), as it
// was written, with its numbers worked out. It is empty where RGB8 is the color itself, and for notations of 8 bits.
func (t Typed) Exactly() string {
	if t.made == nil {
		return ""
	}
	v := t.made.v
	text := ""
	switch t.made.name {
	case "lab", "lch":
		text = call(t.made.name, digits(v[0], 4), digits(v[1], 4), digits(v[2], 4))
	case "oklab":
		text = call("oklab", digits(v[0], 6), digits(v[1], 6), digits(v[2], 6))
	case "oklch":
		text = call("oklch", digits(v[0], 6), digits(v[1], 6), digits(v[2], 4))
	default:
		text = call("color", t.made.name, digits(v[0], 6), digits(v[1], 6), digits(v[2], 6))
	}
	back := t.RGB8().RGB()
	for _, d := range []float64{back.R - t.RGB.R, back.G - t.RGB.G, back.B - t.RGB.B} {
		if math.Abs(d)*255 > within {
			return text
		}
	}
	return ""
}

// beyond says whether a function, or a space of color(), has more than the hexadecimal notation.
func beyond(name string) bool {
	_, ok := spaces[name]
	return ok || name == "lab" || name == "lch" || name == "oklab" || name == "oklch"
}

// CSS writes a color as oklch(), beyond sRGB too.
func (c OKLCH) CSS() string { return call("oklch", digits(c.L, 4), digits(c.C, 4), digits(c.H, 2)) }
