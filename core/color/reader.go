//go:build !js

package color

import (
	"cmp"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"sort"
	"strconv"
	"strings"
	"sync"
	"unicode"
)

// The reader of lines: values are found where they stand, each by one form, the unmistakable ones first; what is left is the name. A wrong
// color is worse than a question, and a question is worse than an answer: a word that names a model is never part of a name, and numbers
// that may be two things are asked.

// Reading is one of several things that a line may mean.
type Reading struct {
	As    string // "as HSB"
	Value string // what one would type for it
	RGB   RGB8
}

// Unsure is the error of a line that has more than one reading.
type Unsure struct {
	Text     string // the question
	Readings []Reading
}

func (u *Unsure) Error() string { return u.Text }

// ErrWords says that a line has no number and no code that could be a value: a greeting, a heading.
var ErrWords = fmt.Errorf("it holds no color value")

// found is a value in a line.
type found struct {
	at, end int
	text    string
	t       Typed
	err     error
	code    bool // it can be nothing else: a code, a function, a labelled value
}

// from is how far a screen value is from another one, ΔE00; 0 for the same 8 bits.
func (v found) from(other found) float64 {
	if v.t.RGB8() == other.t.RGB8() {
		return 0
	}
	return DeltaE00(v.t.RGB8().Lab(), other.t.RGB8().Lab())
}

// codes says whether all are hexadecimal codes.
func codes(values []found) bool {
	return !slices.ContainsFunc(values, func(v found) bool {
		return v.t.Notation != values[0].t.Notation || v.text[0] != '#' && v.t.Notation != "hex"
	})
}

// unsureOf asks which of two screen values is meant.
func unsureOf(a, b found) *Unsure {
	u := &Unsure{Text: fmt.Sprintf("%s and %s are different colors; which one is meant?", a.text, b.text)}
	for _, v := range []found{a, b} {
		u.Readings = append(u.Readings, Reading{"as " + v.text, v.t.RGB8().Hex(), v.t.RGB8()})
	}
	return u
}

// form is one way of writing a value inside of a line.
type form struct {
	*regexp.Regexp
	needs string // one of these characters, or it is not there
	read  func(text string) (Typed, error)
	code  bool
}

// A number of a labelled value, with its unit, and what stands between two.
const (
	number = `[-+−]?(?:\d+(?:\.\d+)?|\.\d+)(?:\s?[%°])?`
	gap    = `\s*[,;/ \t|]\s*`
	is     = `\s*[:=]?\s*`
)

// lettersOf is a pattern of numbers behind the letters or words of what they are, as "C 2 M 75 Y 87 K 8".
func lettersOf(labels ...string) string {
	out := `(?i)\b`
	for i, l := range labels {
		if i > 0 {
			out += `[\s,;/|]*`
		}
		out += `(?:` + l + `)` + is + `(` + number + `)`
	}
	return out
}

// lettersBehind is lettersOf with the letters behind their numbers, as "2C 75M 87Y 8K".
func lettersBehind(labels ...string) string {
	out := `(?i)\b`
	for i, l := range labels {
		if i > 0 {
			out += `[\s,;/|]*`
		}
		out += `(` + number + `)\s?(?:` + l + `)\b`
	}
	return out
}

// forms lists what is recognized inside of a line, in the order in which it is looked for.
var forms = sync.OnceValue(func() (out []form) {
	add := func(needs, pattern string, code bool, read func(string) (Typed, error)) {
		re := regexp.MustCompile(pattern)
		if read == nil {
			read = Parse
		}
		out = append(out, form{re, needs, read, code})
	}
	// numbered reads the numbers that a pattern has caught, as a function of CSS or as a build.
	numbered := func(needs, pattern, function string) {
		re := regexp.MustCompile(pattern)
		add(needs, pattern, true, func(text string) (Typed, error) {
			parts := re.FindStringSubmatch(text)[1:]
			for i := range parts {
				parts[i] = plainNumber(parts[i])
			}
			if function == "cmyk" {
				return inks(parts)
			}
			if function == "rgb" {
				return parser{strict: true}.bare(parts)
			}
			return unclamped(text, function+"("+strings.Join(parts, " ")+")")
		})
	}
	add("(", `(?i)\b(?:rgba?|hsla?|hs[vb]|hwb|lab|lch|oklab|oklch|color|cmyk|device-cmyk)\((?:[^()]|\((?:[^()]|\([^()]*\))*\))*\)`, true,
		func(text string) (Typed, error) {
			if at := strings.Index(text, "(0x"); at > 0 { // a constructor of a programming language
				return hash(strings.TrimRight(text[at+1:], ") "))
			}
			return Parse(strings.ReplaceAll(text, ";", ",")) // where a comma is for decimals
		})
	add("#", `#[0-9a-zA-Z]+`, true, hash)
	add("xX", `(?i)\b0x[0-9a-f]{3,8}\b`, true, func(text string) (Typed, error) { return hash("0x" + text[2:]) })
	numbered("yY", lettersOf(`cyan|c`, `magenta|m`, `yellow|y`, `black|key|k`), "cmyk")
	numbered("yY", lettersBehind(`cyan|c`, `magenta|m`, `yellow|y`, `black|key|k`), "cmyk")
	numbered("gG", lettersBehind(`red|r`, `green|g`, `blue|b`), "rgb")
	numbered("gG", lettersOf(`red|r`, `green|g`, `blue|b`), "rgb")
	numbered("sS", lettersOf(`hue|h`, `saturation|sat|s`, `lightness|luminosity|l`), "hsl")
	numbered("sS", lettersOf(`hue|h`, `saturation|sat|s`, `brightness|value|b|v`), "hsb")
	numbered("lL", `(?i)\bL\*?`+is+`(`+number+`)[\s,;/|]*a\*?`+is+`(`+number+`)[\s,;/|]*b\*?`+is+`(`+number+`)`, "lab")
	three := is + `\(?\s*` + number + `(?:` + gap + number + `){2}\s*\)?`
	add("lhxyvLHXYV", `(?i)\b(?:cie[ -]?l?ab|l\*a\*b\*|lab|lch|oklab|oklch|hsla?|hs[bvi]|hwb|xyz|xyy|yuv|y[’']?cbcr|luv|hcl|video)`+three,
		true, func(text string) (Typed, error) {
			t, _, err := labelled(text)
			return t, err
		})
	add("gG", `(?i)\b(?:s?rgb)`+is+`\d{1,3}(?:\.\d{1,3}){2}\b`, true, func(text string) (Typed, error) {
		return parser{strict: true}.bare(strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsDigit(r) }))
	})
	add("gG", `(?i)\b(?:s?rgb)`+is+`\(?\s*`+number+`(?:`+gap+number+`){2}\s*\)?`, true, func(text string) (Typed, error) {
		return parser{strict: true}.bare(numbersOf(text))
	})
	add("cC", `(?i)\b(?:cmyk|4c|process)`+is+`\(?\s*`+number+`(?:`+gap+number+`){3}\s*\)?`, true, func(text string) (Typed, error) {
		if _, rest, ok := strings.Cut(strings.ToLower(text), "4c"); ok {
			text = rest
		}
		return inks(numbersOf(text))
	})
	add("/", `\b[\d.]+%?\s*/\s*[\d.]+%?\s*/\s*[\d.]+%?\s*/\s*[\d.]+%?`, false,
		func(text string) (Typed, error) { return four(numbersOf(text), text) })
	add("/", `\b\d{1,3}(?:\s*/\s*\d{1,3}){2}\b`, false, func(text string) (Typed, error) { return dated(numbersOf(text), text) })
	add(".", `\b\d{1,3}(?:\.\d{1,3}){2}\b`, false, func(text string) (Typed, error) { return dated(strings.Split(text, "."), text) })
	add(" \t,;|", `(?:\b\d|\B\.\d)[\d.]*(?:\s?[%°])?(?:\s*[,;\t |]\s*[\d.]+(?:\s?[%°])?){2,}`, false, run)
	add("0123456789", `\b[0-9a-fA-F]{6}\b`, true, nil)
	return out
})

// hash reads hexadecimal digits. Where eight of them begin with FF, the opacity may be meant to stand in front, as some programs write it;
// behind 0x all that are known write it so.
func hash(text string) (Typed, error) {
	digits := strings.TrimPrefix(strings.TrimPrefix(text, "#"), "0x")
	t, err := Parse("#" + digits)
	if err != nil || len(digits) != 8 {
		return t, err
	}
	first, behind := "#"+digits[2:], "#"+digits[:6]
	opaque := strings.EqualFold(digits[:2], "ff")
	if !opaque || text[0] == '#' && strings.EqualFold(digits[6:], "ff") {
		return t, nil
	}
	front, err := Parse(first)
	if err != nil || text[0] == '0' && !strings.EqualFold(digits[6:], "ff") {
		return front, err
	}
	return t, &Unsure{fmt.Sprintf("%s has its opacity in front or behind; which one is meant?", short(text)),
		[]Reading{{"opacity in front", first, front.RGB8()}, {"opacity behind", behind, t.RGB8()}}}
}

// plainNumber is a number as the grammar of CSS has it.
func plainNumber(s string) string { return plainly().Replace(s) }

var plainly = sync.OnceValue(func() *strings.Replacer { return strings.NewReplacer("−", "-", " ", "", "°", "") })

// numbersOf are the numbers of a text, in order.
func numbersOf(text string) (out []string) {
	for _, s := range eachNumber().FindAllString(text, -1) {
		out = append(out, plainNumber(s))
	}
	return out
}

var eachNumber = sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(number) })

// unclamped reads a value whose numbers lie where they may, or says which does not.
func unclamped(text, css string) (Typed, error) {
	t, err := Parse(css)
	if err == nil && t.Clamped != "" {
		err = fmt.Errorf("%s: %s", short(text), t.Clamped)
	}
	return t, err
}

// four is a build, or a question where one of the numbers is over 100.
func four(parts []string, text string) (Typed, error) {
	t, err := inks(parts)
	if err == nil {
		return t, nil
	}
	c, e := parser{strict: true}.bare(parts[:3])
	if e != nil {
		return t, err
	}
	return t, &Unsure{fmt.Sprintf("%s has four numbers, and is no build: is it RGB with an opacity?", short(text)),
		[]Reading{{"as RGB, opaque", "rgb(" + strings.Join(parts[:3], " ") + ")", c.RGB8()}}}
}

// dated reads three numbers with dots or slashes between them, which may be a date or a version.
func dated(parts []string, text string) (Typed, error) {
	t, err := parser{strict: true}.bare(parts)
	if err != nil {
		return t, err
	}
	day, _ := strconv.Atoi(strings.TrimSpace(parts[0]))
	month, _ := strconv.Atoi(strings.TrimSpace(parts[1]))
	if day <= 31 && month <= 12 || day <= 12 && month <= 31 {
		return t, isColor(t, text, "a date or a version")
	}
	return t, nil
}

// isColor asks whether numbers are a color.
func isColor(t Typed, text, other string) error {
	if t.CMYK != nil { // how it looks depends on the press, which this package does not know
		return fmt.Errorf("%s may be %s; if it is a build, write CMYK in front of it", short(text), other)
	}
	c := t.RGB8()
	return &Unsure{fmt.Sprintf("%s may be %s; is it a color?", short(text), other),
		[]Reading{{"as RGB", fmt.Sprintf("rgb(%d %d %d)", c.R, c.G, c.B), c}}}
}

// mayBeOther says whether a line that is one value as a whole may be something else.
func mayBeOther(text string) bool {
	if !strings.ContainsAny(text, "./#") {
		return false
	}
	values, rest := find(text)
	var unsure *Unsure
	return len(values) == 1 && strings.TrimSpace(rest) == "" && errors.As(values[0].err, &unsure)
}

// resource is a color with its name in an XML file of resources, whose opacity stands in front.
var resource = sync.OnceValue(func() *regexp.Regexp {
	return regexp.MustCompile(`^<(?:color|item)\s[^>]*?\bname="([^"]+)"[^>]*>\s*#([0-9a-fA-F]{2})?([0-9a-fA-F]{6})\s*</`)
})

// elsewhere are words behind which numbers are mostly something else.
var elsewhere = sync.OnceValue(func() *regexp.Regexp {
	return regexp.MustCompile(`(?i)\b(tel|phone|telephone|fax|mobile|call|order|invoice|account|room|page|pages|slide|slides|version|date|zip|ext|extension|chapter|section|figure|table|row|line|lines|column|item|items|step|article|size|edition)\.?:?$`)
})

// run reads plain numbers in a row.
func run(text string) (Typed, error) {
	parts := numbersOf(text)
	if strings.Contains(text, "°") {
		return Typed{}, hueOf(parts, text)
	}
	switch len(parts) {
	case 3:
		t, err := Parse(strings.Join(parts, " "))
		if whole := parts[0]; err != nil && !strings.ContainsAny(strings.Join(parts, ""), ".") {
			if unsure := hueOf(parts, text); whole > "255" && len(whole) == 3 && unsure != nil {
				return t, unsure
			}
		}
		return t, err
	case 4:
		return four(parts, text)
	}
	return Typed{}, fmt.Errorf("%s has %d numbers; which of them are a color?", short(text), len(parts))
}

// seven reads the row of a table that has RGB and a build behind each other; what the RGB is must stand beside them too.
func seven(v found) (RGB8, Typed, bool) {
	if v.code || v.err == nil {
		return RGB8{}, Typed{}, false
	}
	parts := numbersOf(v.text)
	if len(parts) != 7 {
		return RGB8{}, Typed{}, false
	}
	c, err := parser{strict: true}.bare(parts[:3])
	build, wrong := inks(parts[3:])
	return c.RGB8(), build, err == nil && wrong == nil
}

// hueOf asks whether a hue with two percentages is HSB or HSL.
func hueOf(parts []string, text string) error {
	u := &Unsure{Text: fmt.Sprintf("%s may be HSB or HSL; which one is meant?", short(text))}
	if len(parts) != 3 {
		return fmt.Errorf("%s has %d numbers where three are wanted", short(text), len(parts))
	}
	for _, model := range []string{"hsb", "hsl"} {
		css := fmt.Sprintf("%s(%s %s%% %s%%)", model, strings.TrimSuffix(parts[0], "%"), strings.TrimSuffix(parts[1], "%"),
			strings.TrimSuffix(parts[2], "%"))
		t, err := Parse(css)
		hue, _ := strconv.ParseFloat(parts[0], 64)
		if err != nil || t.Clamped != "" || hue > 360 {
			return fmt.Errorf("%s is no hue, saturation and lightness", short(text))
		}
		u.Readings = append(u.Readings, Reading{"as " + strings.ToUpper(model), css, t.RGB8()})
	}
	return u
}

// tints find one percentage of black.
var tints = sync.OnceValue(func() (out []*regexp.Regexp) {
	for _, form := range []string{`(?i)\b(\d{1,3}(?:\.\d+)?)\s?%\s?(?:gr[ae]y|black|k)\b`, `(?i)\b(?:gr[ae]y|black|k)` + is +
		`(\d{1,3}(?:\.\d+)?)\s?%`, `(?i)^k\s?(\d{1,3})$`} {
		out = append(out, regexp.MustCompile(form))
	}
	return out
})

// commas finds numbers with decimal commas, which blanks part: "12,5 40,2 3,1 10".
var commas = sync.OnceValue(func() *regexp.Regexp {
	return regexp.MustCompile(`\d+,\d+[%°]?[ \t;/]+(?:\d+(?:,\d+)?[%°]?[ \t;/]+)*\d+,\d+`)
})

// decimal is a line with decimal points.
func decimal(text string) string {
	if !strings.Contains(text, ",") || !commas().MatchString(text) || strings.Contains(text, ", ") {
		return text
	}
	b := []byte(text)
	for i := 1; i < len(b)-1; i++ {
		if b[i] == ',' && isDigit(b[i-1]) && isDigit(b[i+1]) {
			b[i] = '.'
		}
	}
	return string(b)
}

func isDigit(b byte) bool { return '0' <= b && b <= '9' }

// find finds the values of a line, in their order, and what is left of it: as long as the line, with tabs for what was taken.
func find(text string) (values []found, rest string) {
	b := []byte(text)
	take := func(at, end int) {
		for i := at; i < end; i++ {
			b[i] = '\t'
		}
	}
	for _, f := range forms() {
		if !strings.ContainsAny(text, f.needs) {
			continue
		}
		for from := 0; from < len(b); {
			at := f.FindIndex(b[from:])
			if at == nil {
				break
			}
			at[0], at[1] = from+at[0], from+at[1]
			raw := strings.TrimRightFunc(string(b[at[0]:at[1]]), unicode.IsSpace)
			at[1] = at[0] + len(raw)
			if from = at[1]; plausibleWord(raw) {
				continue
			}
			t, err := f.read(raw)
			take(at[0], at[1])
			values = append(values, found{at[0], at[1], strings.TrimSpace(raw), t, err, f.code})
		}
	}
	for _, re := range tints() {
		if at := re.FindSubmatchIndex(b); at != nil && len(values) == 0 {
			t, err := inks([]string{"0", "0", "0", string(b[at[2]:at[3]])})
			raw := strings.TrimSpace(string(b[at[0]:at[1]]))
			take(at[0], at[1])
			values = append(values, found{at[0], at[1], raw, t, err, true})
		}
	}
	sort.SliceStable(values, func(i, j int) bool { return values[i].at < values[j].at })
	return values, string(b)
}

// apart makes lines of one that holds several codes: as many colors, with names if there are as many.
func (l Line) apart(values []found, rest string) []Line {
	out := make([]Line, len(values))
	var between []string // what stands before each value, and behind the last
	from := 0
	for i, v := range values {
		out[i] = Line{Number: l.Number, Text: l.Text, many: true}
		out[i].take(v.t, v.text)
		between = append(between, joint(rest[from:v.at]))
		from = v.end
	}
	between = append(between, joint(rest[from:]))
	named := func(list []string) bool {
		return !slices.ContainsFunc(list, func(s string) bool { return s == "" || len(strings.Fields(s)) > 4 })
	}
	n := len(values)
	first := strings.FieldsFunc(rest[:values[0].at], func(r rune) bool { return r == ',' || r == ';' || r == '|' })
	switch {
	case between[n] == "" && named(between[:n]):
		for i := range out {
			out[i].Name = between[i]
		}
	case between[0] == "" && named(between[1:]):
		for i := range out {
			out[i].Name = between[i+1]
		}
	case len(first) == n && !slices.ContainsFunc(between[1:], func(s string) bool { return s != "" }):
		for i := range out {
			out[i].Name = cleanName(first[i])
		}
	}
	return out
}

// joint is the name in what stands between several codes, without what joins it to the ones beside it; empty where it only joins them.
func joint(rest string) string {
	joins := func(word string) bool {
		return slices.Contains([]string{"", "and", "or", "&", "+", "then", "plus"}, strings.ToLower(strings.Trim(word, ",;()")))
	}
	rest = strings.TrimSpace(rest)
	for word, more, ok := strings.Cut(rest, " "); ok && joins(word); word, more, ok = strings.Cut(rest, " ") {
		rest = more
	}
	for at := strings.LastIndexByte(rest, ' '); at >= 0 && joins(rest[at+1:]); at = strings.LastIndexByte(rest, ' ') {
		rest = rest[:at]
	}
	name := cmp.Or(cleanName(rest), inkName(rest))
	for _, word := range strings.Fields(strings.ToLower(name)) {
		if !strings.Contains(" and or but not was is are to from between use with than the a of like then instead now ", " "+word+" ") {
			return name
		}
	}
	return ""
}

// Piece is a value that stands in a line.
type Piece struct {
	Typed
	Text string
	Err  error // that it is no value after all, or an *Unsure
	Sure bool  // a code or a labelled value, and not numbers alone
}

// Pieces finds the values that stand in a line, in their order, and the name that is left.
func Pieces(line string) (list []Piece, name string) {
	values, rest := find(decimal(line))
	for _, v := range values {
		list = append(list, Piece{v.t, v.text, v.err, v.code})
	}
	return list, cleanName(rest)
}
