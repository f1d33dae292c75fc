//go:build !js

// The browser repaints no files.

package color

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Rewrite writes another color in the place of a CSS color, in the notation, case, separators and units that stand there, with its alpha.
// The result reads as exactly that color. What is computed, from variables or from another color, is written plainly.
func Rewrite(old string, to RGB8) string {
	was, err := ParseCSS(old)
	if err != nil || old == "" {
		return hexLike(old, to)
	}
	if old[0] == '#' {
		return rewriteHash(old, to)
	}
	name, _, call := callForm(old)
	if !call {
		if word, ok := to.Name(); ok {
			return likeCase(old, word)
		}
		return hexLike("#a", to)
	}
	if text, ok := rewriteCall(old, name, to); ok {
		return text
	}
	return Plainly(to, was.Alpha)
}

// Plainly writes a color with its alpha.
func Plainly(to RGB8, alpha float64) string {
	if alpha >= 1 {
		return hexLike("#a", to)
	}
	return fmt.Sprintf("rgb(%d %d %d / %s)", to.R, to.G, to.B, digits(alpha, 4))
}

// hexLike writes six digits in the case of what stood there: small letters unless it had capitals only.
func hexLike(old string, to RGB8) string {
	if strings.ContainsAny(old, "ABCDEF") && !strings.ContainsAny(old, "abcdef") {
		return to.Hex()
	}
	return strings.ToLower(to.Hex())
}

func likeCase(old, word string) string {
	switch {
	case old == strings.ToUpper(old):
		return strings.ToUpper(word)
	case old[:1] == strings.ToUpper(old[:1]):
		return strings.ToUpper(word[:1]) + word[1:]
	}
	return word
}

// rewriteHash keeps the short form where the color has one, and the digits of alpha.
func rewriteHash(old string, to RGB8) string {
	own := old
	switch len(old) { // the case of the color's own digits, not of its alpha
	case 5:
		own = old[:4]
	case 9:
		own = old[:7]
	}
	text := hexLike(own, to)
	switch len(old) {
	case 4, 5:
		if text[1] == text[2] && text[3] == text[4] && text[5] == text[6] {
			return string([]byte{'#', text[1], text[3], text[5]}) + old[4:]
		}
		if len(old) == 5 {
			return text + old[4:] + old[4:]
		}
	case 9:
		return text + old[7:]
	}
	return text
}

// rewriteCall puts other numbers where the three values of a color function stand.
func rewriteCall(old, name string, to RGB8) (string, bool) {
	open := strings.IndexByte(old, '(')
	spans := valueSpans(old, open+1, len(old)-1)
	space := ""
	if name == "color" && len(spans) > 0 {
		space = strings.ToLower(old[spans[0][0]:spans[0][1]])
		spans = spans[1:]
	}
	f, err := parser{}.functionOf(name, space)
	if err != nil || len(spans) < 3 {
		return "", false
	}
	values := f.of(to.RGB())
	units := [3]string{}
	decimals := 0
	for i, s := range spans[:3] {
		text := old[s[0]:s[1]]
		n := NumberLength(text)
		if n == 0 {
			return "", false // calc(), none, a channel of another color
		}
		units[i] = text[n:]
		if point := strings.IndexByte(text[:n], '.'); point >= 0 && !strings.ContainsAny(text[:n], "eE") {
			decimals = max(decimals, n-point-1)
		}
	}
	// The first try has the decimals that stood there; more are taken until the color is exactly the one wanted.
	for d := min(decimals, 8); d <= 10; d++ {
		var b strings.Builder
		at := 0
		for i, s := range spans[:3] {
			b.WriteString(old[at:s[0]])
			text, ok := inUnit(values[i], f.parts[i], units[i], d)
			if !ok {
				return "", false
			}
			b.WriteString(text)
			at = s[1]
		}
		b.WriteString(old[at:])
		if got, err := ParseCSS(b.String()); err == nil && got.RGB8() == to && !got.Outside() || err == nil && got.RGB8() == to && d >= 5 {
			return b.String(), true
		}
	}
	return "", false
}

// inUnit writes a value of a function, as f.of gives it, with a unit.
func inUnit(v float64, c component, unit string, decimals int) (string, bool) {
	switch strings.ToLower(unit) {
	case "":
	case "%":
		if c.hundred == 0 {
			return "", false
		}
		v = v / c.one / c.hundred * 100
	case "deg":
	case "grad":
		v /= 0.9
	case "rad":
		v = v * math.Pi / 180
		decimals += 2
	case "turn":
		v /= 360
		decimals += 2
	default:
		return "", false
	}
	return digits(v, decimals) + unit, true
}

// valueSpans are the spans of the values in the body of a function, up to the alpha after a slash.
func valueSpans(s string, from, to int) (out [][2]int) {
	depth, start := 0, -1
	for i := from; i <= to; i++ {
		between := i == to
		if !between {
			switch s[i] {
			case '(':
				depth++
			case ')':
				depth--
			case ' ', '\t', '\n', '\r', '\f', ',', '/':
				between = depth == 0
			}
		}
		switch {
		case between && start >= 0:
			out = append(out, [2]int{start, i})
			start = -1
		case !between && start < 0:
			start = i
		}
		if i < to && s[i] == '/' && depth == 0 {
			break
		}
	}
	return out
}

// RewriteNumbers puts other numbers where the first three numbers of a text stand, in the scale of one of them, and keeps all else. The
// numbers have as many decimals as it takes to give exactly the color back, and at least those that stood there up to 6; on a scale of
// 255 they are whole.
func RewriteNumbers(old string, scale float64, to RGB8) (string, bool) {
	c := to.RGB()
	return rewriteNumbers(old, [3]float64{c.R * scale, c.G * scale, c.B * scale}, scale)
}

func rewriteNumbers(old string, values [3]float64, scale float64) (string, bool) {
	var b strings.Builder
	n := 0
	for i := 0; i < len(old); {
		length := 0
		if n < 3 {
			length = NumberLength(old[i:])
		}
		if length == 0 {
			b.WriteByte(old[i])
			i++
			continue
		}
		text := old[i : i+length]
		d := 0
		if scale < 255 {
			if point := strings.IndexByte(text, '.'); point >= 0 && !strings.ContainsAny(text, "eE") {
				d = min(len(text)-point-1, 6)
			}
			for d < 8 && math.Round(parsed(digits(values[n], d))/scale*255*1e6)/1e6 != math.Round(values[n]/scale*255) &&
				math.Abs(parsed(digits(values[n], d))/scale*255-values[n]/scale*255) > 0.05 {
				d++
			}
		}
		b.WriteString(digits(values[n], d))
		n++
		i += length
	}
	return b.String(), n == 3
}

func parsed(s string) float64 { v, _ := strconv.ParseFloat(s, 64); return v }
