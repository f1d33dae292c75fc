//go:build !js

// The browser reads no lists, and regular expressions would be a large part of what it loads.

package color

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"regexp"
	"slices"
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
	Paper  string // that the build is for, where it says so: coated, uncoated or newsprint
	Err    error  // set when the line was not understood

	many bool // one of several on its line
}

// labelled reads a value whose numbers stand behind the name of what they are, without parentheses: "HSL 49 86 46", "Lab: 74, 4, 74".
func labelled(text string) (t Typed, ok bool, err error) {
	text = strings.NewReplacer("L*a*b*", "lab", "l*a*b*", "lab", "’", "", "'", "", "|", " ").Replace(strings.TrimRight(text, ") "))
	at := strings.IndexFunc(text, func(r rune) bool { return unicode.IsDigit(r) || strings.ContainsRune("-+−.:= \t(", r) })
	if at < 2 {
		return t, false, nil
	}
	name := strings.ToLower(strings.NewReplacer(" ", "", "-", "").Replace(text[:at]))
	if strings.HasPrefix(name, "cie") { // a blank may stand within
		name, at = "lab", strings.IndexAny(strings.ToLower(text), "b")+1
	}
	parts := strings.FieldsFunc(strings.NewReplacer("−", "-", " %", "%", " °", "", "°", "").Replace(strings.TrimLeft(text[at:], " \t:=(")),
		between)
	switch name {
	case "lab", "lch", "oklab", "oklch", "hsl", "hsla", "hsb", "hsv", "hwb":
	case "cmyk":
		t, err = inks(parts)
		return t, true, err
	case "hsi", "xyz", "xyy", "yuv", "ycbcr", "luv", "hcl", "video":
		return t, true, fmt.Errorf("%s: values of %s are not read here; give the color as hex, RGB or Lab", short(text),
			strings.ToUpper(name))
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
		read := Line{Number: i + 1, Text: trimmed}.read()
		out = append(out, read...)
		for _, line := range read {
			if line.Err == nil {
				most--
			}
		}
		if most < 0 {
			break
		}
	}
	out = blocks(out)
	follow(out)
	return out
}

// ReadValue reads what somebody writes where a single value is wanted: every notation of Parse, and what lines of a list may have: labels,
// letters before and behind numbers, four plain inks, a percentage of gray. The paper is the one that a build is for, where the text says
// so. What may be several things is an *Unsure; a name or another value beside it is an error.
func ReadValue(text string) (t Typed, paper string, err error) {
	t, failed := Parse(text)
	if failed == nil {
		if strings.HasPrefix(strings.TrimSpace(text), "#") {
			t, failed = hash(strings.TrimSpace(text))
		}
		return t, "", failed
	}
	lines := ReadList(text)
	if len(lines) != 1 {
		if len(lines) > 1 && lines[0].Err == nil {
			failed = fmt.Errorf("%q holds several values; write one", short(text))
		}
		return t, "", failed
	}
	l := lines[0]
	var unsure *Unsure
	switch {
	case errors.As(l.Err, &unsure):
		return t, "", l.Err
	case l.Name != "" && l.Value+l.Build != "":
		return t, "", fmt.Errorf("%q is a value with a name beside it; write the value alone", short(text))
	case l.CMYK != nil && l.Value != "" && !gray(l):
		return t, "", fmt.Errorf("%s and %s are two values; which one is meant?", l.Value, l.Build)
	case l.CMYK != nil && (l.Err == nil || errors.Is(l.Err, ErrInkOnly)):
		return Typed{Notation: "cmyk", CMYK: l.CMYK, Alpha: 1}, l.Paper, nil
	case l.Err != nil:
		return t, "", failed
	case strings.Contains(l.Note, "left out") || strings.Contains(l.Note, "not quite the same"):
		return t, "", fmt.Errorf("in %q, %s", short(text), l.Note)
	case l.Exact != "":
		t, err = ParseCSS(l.Exact)
	default:
		t, err = ParseCSS(l.RGB.Hex())
	}
	return t, "", err
}

// gray says whether the screen value and the build of a line are one percentage of gray.
func gray(l Line) bool { return l.Value == l.Build }

// read reads one line: mostly one color, as many as it has codes otherwise.
func (l Line) read() []Line {
	if len(l.Text) > 1000 {
		l.Text, l.Err = l.Text[:1000], fmt.Errorf("the line has over 1,000 characters")
		return []Line{l}
	}
	if m := resource().FindStringSubmatch(l.Text); m != nil {
		if t, err := Parse("#" + m[3] + m[2]); err == nil {
			l.Name = m[1]
			l.take(t, "#"+m[3])
			return []Line{l}
		}
	}
	text := decimal(l.Text)
	// The whole line as one value comes first: it covers "red" and every bare notation.
	if t, err := Parse(strings.Trim(text, `"'`)); err == nil && !mayBeOther(text) {
		l.take(t, l.Text)
		return []Line{l}
	}
	values, rest := find(text)
	l.Name = cleanName(rest)
	if len(values) == 0 {
		l.valueless()
		return []Line{l}
	}
	if l.Err = settle(values, rest, l.Name != ""); l.Err != nil {
		return []Line{l}
	}
	var screens []found
	for _, v := range values {
		if v.t.CMYK == nil {
			screens = append(screens, v)
		}
	}
	if len(screens) == len(values) && codes(screens) &&
		slices.ContainsFunc(screens, func(v found) bool { return v.t.RGB8() != screens[0].t.RGB8() }) {
		return l.apart(values, rest)
	}
	if other := slices.IndexFunc(screens, func(v found) bool { return v.from(screens[0]) > 0.5 }); other > 0 {
		l.Err = unsureOf(screens[0], screens[other])
		return []Line{l}
	}
	if l.Err = l.build(values, rest); l.Err != nil {
		return []Line{l}
	}
	if len(screens) == 0 {
		l.inkOnly(values[0].text)
		return []Line{l}
	}
	l.take(screens[0].t, screens[0].text)
	if len(screens) == len(values) {
		l.Name = cmp.Or(l.Name, inkName(rest))
	}
	l.beside(screens, rest)
	return []Line{l}
}

// inkName is "Ink" where that is all that stands beside a screen value: nothing of an ink follows, so that it is a name and no label.
func inkName(rest string) string {
	if name := bare(strings.TrimSpace(rest)); strings.EqualFold(name, "ink") {
		return name
	}
	return ""
}

// valueless reads a line in which no value was found: a name of CSS may stand at its end.
func (l *Line) valueless() {
	l.Name = ""
	if name, t, text, ok := trailingName(l.Text); ok {
		l.Name = cleanName(name)
		l.take(t, text)
		return
	}
	if l.Err = fmt.Errorf("no color value was found in %q", short(l.Text)); !strings.ContainsFunc(l.Text, unicode.IsDigit) {
		l.Err = ErrWords
	}
}

// settle makes colors of values that are none by themselves and are by what stands beside them; or says what is wrong with one.
func settle(values []found, rest string, named bool) error {
	for i := range values {
		v := &values[i]
		if parts := strings.FieldsFunc(v.text, between); v.err != nil && !v.code && len(parts) == 3 && measures(parts) && named {
			v.t, v.err = Parse("rgb(" + strings.Join(parts, " ") + ")") // the name says that it is a color
		}
		if rgb, build, ok := seven(*v); ok &&
			slices.ContainsFunc(values, func(o found) bool { return o.err == nil && o.t.CMYK == nil && o.t.RGB8() == rgb }) {
			v.t, v.err = build, nil
		}
		if v.err != nil {
			return v.err
		}
		if len(values) == 1 && !v.code {
			if word := elsewhere().FindString(strings.TrimSpace(rest[:v.at])); word != "" {
				return isColor(v.t, v.text, "something else behind “"+word+"”")
			}
		}
	}
	return nil
}

// build takes the build of a line, with the paper behind it. Two that differ are an error.
func (l *Line) build(values []found, rest string) error {
	for _, v := range values {
		if v.t.CMYK == nil {
			continue
		}
		if l.CMYK != nil && *l.CMYK != *v.t.CMYK {
			return fmt.Errorf("two different CMYK builds stand on the line")
		}
		l.CMYK, l.Build = v.t.CMYK, v.text
		if at := paper().FindStringSubmatchIndex(rest[v.end:]); at != nil {
			l.Paper = strings.ToLower(rest[v.end+at[2] : v.end+at[3]])
			l.Name = cleanName(rest[:v.end+at[0]] + "\t" + rest[v.end+at[1]:])
		}
	}
	return nil
}

// beside says what else stands on a line, and is left out.
func (l *Line) beside(screens []found, rest string) {
	if of := leftover(rest, l.Name); of != "" && l.Note == "" {
		l.Note = of + " beside it was left out"
	}
	if l.Err != nil || l.Note != "" {
		return
	}
	for _, v := range screens[1:] {
		if v.t.RGB8() != screens[0].t.RGB8() {
			l.Note = fmt.Sprintf("%s beside it is not quite the same, %.1f away", v.text, v.from(screens[0]))
		}
	}
}

// leftover is a number of a line that is neither a value nor of its name, nor what it is numbered with; empty for none.
func leftover(rest, name string) string {
	rest = numbering().ReplaceAllString(strings.TrimSpace(rest), "")
	for _, word := range strings.Fields(name) {
		rest = strings.Replace(rest, word, "", 1)
	}
	return shares().FindString(rest)
}

var shares = sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(`\d[\d.,-]*(?:\s?[%°])?`) })

// paper is the name of a paper behind a build.
var paper = sync.OnceValue(func() *regexp.Regexp {
	return regexp.MustCompile(`(?i)^[\s,;]*\(?\s*(?:on\s+|for\s+)?(coated|uncoated|newsprint)\b(?:\s+paper)?\s*\)?`)
})

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
	return regexp.MustCompile(`(?i)(^|[\s\t,;:|(])(?:hex(?:\s+code)?|html|s?rgb|cmyk|4c|process|screen|web|spot|ink|(?:cie)?lab|l\*a\*b\*|hs[lbv]|(?:ok)?lch)\s*[:=]?\s*\(?\s*($|[\t,;|)])`)
})

// cleanName makes a name of what is left of a line when its values are taken out: the first cell that has a letter,
// without bullets, numbering, quotes and the punctuation of lists and style sheets.
func cleanName(rest string) string {
	if !strings.ContainsFunc(rest, unicode.IsLetter) {
		return ""
	}
	for {
		next := labels().ReplaceAllString(rest, "$1\t$2")
		if next == rest {
			break
		}
		rest = next
	}
	for _, cell := range strings.FieldsFunc(rest, func(r rune) bool { return r == '\t' || r == '|' }) {
		cell = numbering().ReplaceAllString(strings.TrimSpace(cell), "")
		if selector, property, ok := strings.Cut(cell, "{"); ok && strings.TrimSpace(selector) != "" && !strings.Contains(property, "}") {
			cell = selector // of a style sheet, and not the property
		}
		cell = said().ReplaceAllString(bare(cell), "")
		cell = strings.Join(strings.Fields(cell), " ")
		if strings.ContainsFunc(cell, unicode.IsLetter) {
			return cell
		}
	}
	return ""
}

// What stands around names in lists and style sheets; and what opens and closes, which belongs to the name where both are in it.
const around = "…`*•·–—-−:;,./\\$@#!→←⇒►▪●■"

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
		case closers[first] != 0 && len(r) > 1 && closers[first] == last && strings.Count(inner, string(last)) == 1 &&
			(first == last || strings.Count(cell, string(first)) == 1):
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

// said is what stands between a name and its value in a sentence: "Our blue is #0E3A53".
var said = sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(`(?i)\s+(?:is|are|was|=|:=)$`) })

var numbering = sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(`^\d+[.)]\s+`) })
