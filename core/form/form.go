// Package form holds the ways in which files write colors, so that another color can be written where one stands: in the same notation,
// with the same case, spacing and alpha.
package form

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"

	"huekeep/core/color"
)

// Paint is a color that is to be written.
type Paint struct {
	Name string
	RGB  color.RGB8
	Wide string      // the color as CSS writes it, where sRGB does not hold it; empty otherwise
	CMYK *color.CMYK // its build, in percent; nil if it has none
	Spot string      // its ink; empty if it has none
	// Base gives what a color becomes that others are made from, such as one that is lightened on top; nil if nothing is known.
	Base func(color.RGB8) (color.RGB8, bool)
	// Link says whether a definition of the file, by its key, has the color once everything is written; nil if no links are wanted.
	Link func(key string) bool
}

// Form is how a place writes colors.
type Form interface {
	// Write is what stands there instead of old when the place has another color; an error is a sentence on why it cannot.
	Write(old string, to Paint) (string, error)
}

// Func is a form that is one function.
type Func func(old string, to Paint) (string, error)

// Write implements Form.
func (f Func) Write(old string, to Paint) (string, error) { return f(old, to) }

// CSS is any notation of a style sheet.
var CSS Form = Func(func(old string, to Paint) (string, error) {
	if to.Wide != "" {
		if text, ok := color.RewriteExactly(old, to.Wide); ok {
			return text, nil
		}
	}
	return color.Rewrite(old, to.RGB), nil
})

// Hex is a row of hexadecimal digits, two a channel, after whatever stands in front of them. Order says which channel is where, such as
// "RGB", "ARGB", "RGBA", "ABGR"; of a text with fewer digits the last channels of "ABGR" and "BGR" are meant.
func Hex(order string) Form { return hexForm(order) }

type hexForm string

// Write implements Form.
func (f hexForm) Write(old string, to Paint) (string, error) {
	from, digits := HexDigits(old)
	order, err := channels(string(f), digits)
	if err != nil {
		return "", fmt.Errorf("%q is not written as %s", old, string(f))
	}
	const small, capital = "0123456789abcdef", "0123456789ABCDEF"
	set := capital
	if strings.ContainsAny(old[from:from+digits], "abcdef") {
		set = small
	}
	for i := range len(order) { // the color's own digits say more than those of its alpha
		if two := old[from+2*i : from+2*i+2]; order[i] != 'A' && strings.ContainsAny(two, "abcdefABCDEF") {
			if set = capital; strings.ContainsAny(two, "abcdef") {
				set = small
			}
			break
		}
	}
	out := []byte(old)
	for i := range len(order) {
		v := to.RGB.R
		switch order[i] {
		case 'A':
			continue
		case 'G':
			v = to.RGB.G
		case 'B':
			v = to.RGB.B
		}
		out[from+2*i], out[from+2*i+1] = set[v>>4], set[v&15]
	}
	return string(out), nil
}

// ReadHex reads digits in an order; alpha is 1 where there is none.
func ReadHex(text, order string) (c color.RGB8, alpha float64, err error) {
	from, digits := HexDigits(text)
	if order, err = channels(order, digits); err != nil {
		return c, 0, err
	}
	alpha = 1
	for i := range len(order) {
		v, _ := strconv.ParseUint(text[from+2*i:from+2*i+2], 16, 8)
		switch order[i] {
		case 'A':
			alpha = float64(v) / 255
		case 'R':
			c.R = uint8(v)
		case 'G':
			c.G = uint8(v)
		case 'B':
			c.B = uint8(v)
		}
	}
	return c, alpha, nil
}

// HexDigits finds the last run of hexadecimal digits of a text, behind marks such as "#", "0x" and "&H".
func HexDigits(text string) (from, n int) {
	end := len(text)
	for end > 0 && !hexadecimal(text[end-1]) {
		end--
	}
	from = end
	for from > 0 && hexadecimal(text[from-1]) {
		from--
	}
	return from, end - from
}

func hexadecimal(b byte) bool {
	return b >= '0' && b <= '9' || b >= 'a' && b <= 'f' || b >= 'A' && b <= 'F'
}

// channels is the order of so many digits: alpha may be missing.
func channels(order string, digits int) (string, error) {
	missing := len(order)*2 - digits
	switch {
	case missing == 0:
		return order, nil
	case missing == 2 && len(order) == 4 && order[3] == 'A':
		return order[:3], nil
	case missing == 2 && len(order) == 4 && order[0] == 'A':
		return order[1:], nil
	}
	return "", errors.New("it has another number of digits")
}

// Numbers is three numbers from 0 to scale, with anything around, between and behind them.
func Numbers(scale float64) Form {
	return Func(func(old string, to Paint) (string, error) {
		text, ok := color.RewriteNumbers(old, scale, to.RGB)
		if !ok {
			return "", fmt.Errorf("%q does not hold three numbers", old)
		}
		return text, nil
	})
}

// Inks is four numbers from 0 to scale for cyan, magenta, yellow and black.
func Inks(scale float64) Form {
	return Func(func(old string, to Paint) (string, error) {
		if to.CMYK == nil {
			return "", fmt.Errorf("%s has no CMYK build that could be written here", to.Name)
		}
		v := to.CMYK.Array()
		return Values(old, v[:], scale/100)
	})
}

// Values puts other numbers, each times a factor, where the numbers of a text stand.
func Values(old string, values []float64, factor float64) (string, error) {
	var b strings.Builder
	n := 0
	for i := 0; i < len(old); {
		length := color.NumberLength(old[i:])
		if length == 0 || n == len(values) {
			b.WriteByte(old[i])
			i++
			continue
		}
		b.WriteString(strconv.FormatFloat(math.Round(values[n]*factor*1e5)/1e5, 'f', -1, 64))
		n++
		i += length
	}
	if n != len(values) {
		return "", fmt.Errorf("%q does not hold %d numbers", old, len(values))
	}
	return b.String(), nil
}

// Quoted is a form inside of a quoted text of JSON or a script: the quotes stay.
func Quoted(in Form) Form {
	return Func(func(old string, to Paint) (string, error) {
		if len(old) < 2 {
			return in.Write(old, to)
		}
		text, err := in.Write(old[1:len(old)-1], to)
		return old[:1] + text + old[len(old)-1:], err
	})
}

// Linked writes a reference to a definition where one has the color and links are wanted, and as in otherwise. Keys are those of the
// definitions that the place can see, the first that fits is taken; write turns one into text.
func Linked(in Form, keys []string, write func(old, key string) string) Form {
	return Func(func(old string, to Paint) (string, error) {
		if to.Link != nil {
			for _, k := range keys {
				if to.Link(k) {
					return write(old, k), nil
				}
			}
		}
		return in.Write(old, to)
	})
}
