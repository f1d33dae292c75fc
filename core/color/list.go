//go:build !js

// The browser reads no lists, and regular expressions would be a large part of what it loads.

package color

import (
	"errors"
	"fmt"
	"math"
	"regexp"
	"strings"
	"sync"
	"unicode"
)

// Line is one line of a pasted list: what was understood of it, or why nothing was.
type Line struct {
	Number int    // counted from 1 in the pasted text
	Text   string // as pasted
	Name   string // may be empty
	RGB    RGB8
	Value  string // the value as written
	Exact  string // the value where sRGB does not hold it, as Exactly writes it; empty otherwise
	Note   string // something a person should know of a line that was understood, or empty
	CMYK   *CMYK  // a build given on the same line
	Build  string // the build as written
	Err    error  // set when the line was not understood
}

// found lists the value notations that are recognized inside a line, the unmistakable ones first.
var found = sync.OnceValue(func() (out []*regexp.Regexp) {
	for _, form := range []string{
		`(?i)\b(?:rgba?|hsla?|hs[vb]|hwb|lab|lch|oklab|oklch|color|cmyk|device-cmyk)\((?:[^()]|\((?:[^()]|\([^()]*\))*\))*\)`,
		`#[0-9a-zA-Z]+`,
		`(?i)\bC\s*[:=]?\s*[\d.]+%?[\s,;/]*M\s*[:=]?\s*[\d.]+%?[\s,;/]*Y\s*[:=]?\s*[\d.]+%?[\s,;/]*K\s*[:=]?\s*[\d.]+%?`,
		`(?i)\bRGB\s*[:=]?\s*\d+\s*[/,; ]\s*\d+\s*[/,; ]\s*\d+\b`,
		`(?i)\bR\s*[:=]?\s*\d+[\s,;/]*G\s*[:=]?\s*\d+[\s,;/]*B\s*[:=]?\s*\d+\b`,
		`(?i)\b(?:cie[ -]?l?ab|lab|lch|oklab|oklch|hsla?|hs[bvi]|hwb|xyz|xyy|yuv|ycbcr|luv|hcl)\s*[:=]?\s*` + number + `(?:` + gap + number + `){2}`,
		`(?i)\bCMYK\s*[:=]?\s*` + number + `(?:` + gap + number + `){3}`,
		`\b[\d.]+%?\s*/\s*[\d.]+%?\s*/\s*[\d.]+%?\s*/\s*[\d.]+%?`,
		`[\d.]+%?(?:\s*[,;\t ]\s*[\d.]+%?){2,}`,
		`\b[0-9a-fA-F]{6}\b`,
	} {
		out = append(out, regexp.MustCompile(form))
	}
	return out
})

// A number of a labelled value, with its unit, and what stands between two.
const (
	number = `[-+−]?(?:\d+(?:\.\d+)?|\.\d+)\s?[%°]?`
	gap    = `\s*[,;/ \t]\s*`
)

// labelled reads a value whose numbers stand behind the name of what they are, without parentheses: "HSL 49 86 46", "Lab: 74, 4, 74".
func labelled(text string) (t Typed, ok bool, err error) {
	at := strings.IndexFunc(text, func(r rune) bool { return unicode.IsDigit(r) || strings.ContainsRune("-+−.:= \t", r) })
	if at < 2 {
		return t, false, nil
	}
	name := strings.ToLower(strings.NewReplacer(" ", "", "-", "").Replace(text[:at]))
	if strings.HasPrefix(name, "cie") { // a blank may stand within
		name, at = "lab", strings.IndexAny(strings.ToLower(text), "b")+1
	}
	parts := strings.FieldsFunc(strings.NewReplacer("−", "-", " %", "%", " °", "", "°", "").Replace(strings.TrimLeft(text[at:], " \t:=")), between)
	switch name {
	case "lab", "lch", "oklab", "oklch", "hsl", "hsla", "hsb", "hsv", "hwb":
	case "cmyk":
		t, err = inks(parts)
		return t, true, err
	case "hsi", "xyz", "xyy", "yuv", "ycbcr", "luv", "hcl":
		return t, true, fmt.Errorf("%s: values of %s are not read here; give the color as hex, RGB or Lab", short(text), strings.ToUpper(name))
	default:
		return t, false, nil
	}
	if len(parts) != 3 {
		return t, true, fmt.Errorf("%s has %d numbers where three are wanted", short(text), len(parts))
	}
	small := true // shares where percent are meant?
	for _, p := range parts {
		small = small && strings.Contains(p, ".") && !strings.Contains(p, "%") && !strings.ContainsAny(p[:1], "123456789")
	}
	if small && name[:2] != "ok" {
		return t, true, fmt.Errorf("%s: are these shares of 1, or the numbers themselves? Write %s(...) as it is meant", short(text), name)
	}
	t, err = Parse(name + "(" + strings.Join(parts, " ") + ")")
	if err == nil && t.Clamped != "" {
		err = fmt.Errorf("%s: %s", short(text), t.Clamped)
	}
	return t, true, err
}

// ReadList reads pasted text, one color a line, the name before or after its value. Empty lines are passed over; every
// other line is returned, in order, understood or not.
func ReadList(text string) []Line { return readList(text, math.MaxInt) }

// ReadColors is ReadList that ends behind so many lines that are colors.
func ReadColors(text string, most int) []Line { return readList(text, most) }

func readList(text string, most int) []Line {
	text = strings.NewReplacer("\r\n", "\n", "\r", "\n", "\u2028", "\n").Replace(text)
	var out []Line
	for i, raw := range strings.Split(text, "\n") {
		trimmed := strings.TrimSpace(strings.TrimPrefix(raw, "\ufeff"))
		if trimmed == "" {
			continue
		}
		line := Line{Number: i + 1, Text: trimmed}
		line.read()
		out = append(out, line)
		if line.Err == nil {
			if most--; most < 0 {
				break
			}
		}
	}
	return out
}

func (l *Line) read() {
	if len(l.Text) > 1000 {
		l.Text, l.Err = l.Text[:1000], fmt.Errorf("the line has over 1,000 characters")
		return
	}
	if t, known, err := labelled(l.Text); known && whole().MatchString(l.Text) {
		if l.Err = err; err == nil {
			l.take(t, l.Text)
		}
		return
	}
	// The whole line as one value comes first: it covers "red" and every bare notation.
	if t, err := Parse(strings.Trim(l.Text, `"'`)); err == nil {
		l.take(t, l.Text)
		return
	}
	rest := l.Text
	var values []Typed
	var texts []string
	for _, re := range found() {
		for {
			at := re.FindStringIndex(rest)
			if at == nil {
				break
			}
			text := strings.TrimSpace(rest[at[0]:at[1]])
			if plausibleWord(text) {
				break
			}
			rest = rest[:at[0]] + "\t" + rest[at[1]:]
			t, known, err := labelled(text)
			if !known {
				t, err = Parse(text)
			}
			if parts := strings.FieldsFunc(text, between); len(parts) == 3 && measures(parts) && cleanName(rest) != "" {
				t, err = Parse("rgb(" + strings.Join(parts, " ") + ")") // the name says that it is a color
			}
			if err != nil {
				l.Err = err
				return
			}
			values, texts = append(values, t), append(texts, text)
		}
	}
	if len(values) == 0 {
		if name, t, text, ok := trailingName(l.Text); ok {
			l.Name = cleanName(name)
			l.take(t, text)
			return
		}
		l.Err = fmt.Errorf("no color value was found in %q", short(l.Text))
		return
	}
	first := -1
	for i, t := range values {
		if t.CMYK != nil {
			if l.CMYK != nil && *l.CMYK != *t.CMYK {
				l.Err = fmt.Errorf("two different CMYK builds stand on the line")
				return
			}
			l.CMYK, l.Build = t.CMYK, texts[i]
			continue
		}
		if first < 0 {
			first = i
		} else if values[first].RGB8() != t.RGB8() && DeltaE00(values[first].RGB8().Lab(), t.RGB8().Lab()) > 0.5 {
			l.Err = fmt.Errorf("%s and %s are different colors; which one is meant?", texts[first], texts[i])
			return
		}
	}
	l.Name = cleanName(rest)
	if first < 0 {
		l.inkOnly(texts[0])
		return
	}
	l.take(values[first], texts[first])
}

func (l *Line) take(t Typed, text string) {
	if t.CMYK != nil {
		l.CMYK, l.Build = t.CMYK, text
		l.inkOnly(text)
		return
	}
	if t.Alpha == 0 {
		l.Err = fmt.Errorf("%s is fully transparent", short(text))
		return
	}
	if !t.Real() {
		l.Err = fmt.Errorf("the numbers of %s are those of no color", short(text))
		return
	}
	l.RGB, l.Value, l.Exact = t.RGB8(), text, t.Exactly()
	switch {
	case t.Clamped != "":
		l.Note = t.Note()
	case t.Alpha < 1:
		l.Note = "its transparency was left out; a brand color is opaque"
	case t.Outside():
		l.Note = fmt.Sprintf("it lies outside sRGB; plain screens show %s", l.RGB.Hex())
	}
}

// ErrInkOnly says that a line has a CMYK build and no screen value; Line.CMYK holds the build. Which screen value goes with
// it depends on the press, which this package does not know.
var ErrInkOnly = errors.New("it is a CMYK build only; add the screen value that goes with it")

func (l *Line) inkOnly(text string) { l.Err = fmt.Errorf("%s: %w", short(text), ErrInkOnly) }

// plausibleWord keeps words such as "facade" from being read as six hexadecimal digits inside a line.
func plausibleWord(s string) bool {
	return len(s) == 6 && s[0] != '#' && !strings.ContainsFunc(s, unicode.IsDigit)
}

// trailingName understands a CSS color name at the end of a line, as in "Hull: navy".
func trailingName(s string) (name string, t Typed, text string, ok bool) {
	i := strings.LastIndexAny(s, ":=\t,;")
	if i < 0 || i == len(s)-1 {
		if i < 1 {
			return "", Typed{}, "", false
		}
		s = strings.TrimRight(s, ";,")
		if i = strings.LastIndexAny(s, ":=\t,;"); i < 0 {
			return "", Typed{}, "", false
		}
	}
	text = strings.TrimSpace(s[i+1:])
	c, ok := Named(text)
	return s[:i], Typed{Notation: "name", RGB: c.RGB(), Alpha: 1}, text, ok
}

// labels are words that introduce a value, not part of a name.
var labels = sync.OnceValue(func() *regexp.Regexp {
	return regexp.MustCompile(`(?i)(^|[\s\t,;:|(])(?:hex|rgb|cmyk|screen|web)\s*[:=]?\s*($|[\s\t,;|)])`)
})

// cleanName makes a name of what is left of a line when its values are taken out: the first cell that has a letter,
// without bullets, numbering, quotes and the punctuation of lists and style sheets.
func cleanName(rest string) string {
	for {
		next := labels().ReplaceAllString(rest, "$1\t$2")
		if next == rest {
			break
		}
		rest = next
	}
	for _, cell := range strings.FieldsFunc(rest, func(r rune) bool { return r == '\t' || r == '|' }) {
		cell = numbering().ReplaceAllString(strings.TrimSpace(cell), "")
		cell = bare(cell)
		cell = strings.Join(strings.Fields(cell), " ")
		if strings.ContainsFunc(cell, unicode.IsLetter) {
			return cell
		}
	}
	return ""
}

// whole is a line that is one labelled value.
var whole = sync.OnceValue(func() *regexp.Regexp {
	return regexp.MustCompile(`^(?i)(?:cie[ -]?l?ab|[a-z]+)\s*[:=]?\s*` + number + `(?:` + gap + number + `){2,3}$`)
})

// What stands around names in lists and style sheets; and what opens and closes, which belongs to the name where both are in it.
const around = "…`*•·–—-−:;,./\\$@#!"

var closers = map[rune]rune{'(': ')', '[': ']', '{': '}', '<': '>', '«': '»', '“': '”', '‘': '’', '„': '“', '"': '"', '\'': '\''}

// bare is a name without what stands around it.
func bare(cell string) string {
	for {
		cell = strings.TrimSpace(cell)
		r := []rune(cell)
		if len(r) == 0 {
			return ""
		}
		first, last, inner := r[0], r[len(r)-1], string(r[1:])
		opened := ""
		for open, end := range closers {
			if end == last {
				opened += string(open)
			}
		}
		before := string(r[:len(r)-1])
		switch {
		case strings.ContainsRune(around, first), first == '=' && (len(r) == 1 || !unicode.IsLetter(r[1])):
			cell = inner
		case closers[first] != 0 && len(r) > 1 && closers[first] == last && strings.Count(inner, string(last)) == 1 && (first == last || strings.Count(cell, string(first)) == 1):
			cell = string(r[1 : len(r)-1])
		case closers[first] != 0 && !strings.ContainsRune(inner, closers[first]): // opened, and not closed
			cell = inner
		case strings.ContainsRune("\"'", last) && strings.Count(before, string(last))%2 == 0: // left of a table's next cell
			cell = before
		case strings.ContainsRune(")]}>»”’", first):
			cell = inner
		case strings.ContainsRune(around, last), last == '=':
			cell = before
		case opened != "" && !strings.ContainsAny(before, opened): // closed, and not opened
			cell = before
		case strings.ContainsRune("([{<«„", last):
			cell = before
		default:
			return cell
		}
	}
}

var numbering = sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(`^\d+[.)]\s+`) })
