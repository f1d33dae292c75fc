package web

import (
	"bytes"
	"cmp"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/limits"
	"huekeep/core/recognize"
	"huekeep/core/source"
)

// ScanScript reads JavaScript and TypeScript, with markup in it or without: the strings that are colors by their notation, by the name
// that they are given to, or as part of a value of a style sheet.
func ScanScript(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	data, err := p.Bytes()
	if err != nil {
		return "", err
	}
	if recognize.UTF16(data) {
		return "", fmt.Errorf("it is written in UTF-16; save it as UTF-8 and try again")
	}
	w := &Page{Scanner: s, Part: p, Name: name, Data: data, Lines: scanning.NewLines(data), masked: masks(data)}
	if err := (&Script{Page: w}).read(0, len(data)); err != nil {
		return "", err
	}
	return audit.Plural(len(w.Lines.Starts), "line"), nil
}

// masks are the elements of masks and clipping paths in the markup of a script, in their order; what is in another is part of that.
func masks(data []byte) (out []source.Span) {
	for _, element := range []string{"<mask", "<clipPath"} {
		for at := 0; ; {
			i := bytes.Index(data[at:], []byte(element))
			if i < 0 {
				break
			}
			i += at
			at = i + len(element)
			if at == len(data) || scanning.WordByte(data[at]) || data[at] == '-' {
				continue
			}
			end := bytes.Index(data[at:], []byte("</"+element[1:]))
			if end < 0 {
				break
			}
			at += end
			out = append(out, source.Span{Start: i, End: at})
		}
	}
	slices.SortFunc(out, func(a, b source.Span) int { return cmp.Compare(a.Start, b.Start) })
	apart := out[:0]
	for _, m := range out {
		if n := len(apart); n > 0 && m.Start < apart[n-1].End {
			apart[n-1].End = max(apart[n-1].End, m.End)
			continue
		}
		apart = append(apart, m)
	}
	return apart
}

// unseen says whether what stands at an offset is part of a mask, or given to one.
func (c *Script) unseen(at int, key string) bool {
	property := kebab(key) // "WebkitMask" without its first dash
	if mask := isMask(property) || isMask("-"+property); mask && !strings.HasSuffix(property, "color") {
		return true
	}
	next, _ := slices.BinarySearchFunc(c.masked, at, func(m source.Span, at int) int { return cmp.Compare(m.Start, at) })
	return next > 0 && at < c.masked[next-1].End
}

// Script is a script while it is read.
type Script struct {
	*Page
	key  string // what the whole of it is given to
	deep int    // how many templates it stands in

	open   map[int]bool // templates that do not end
	barren [3]int       // up to where no string of these quotes ends, and no regular expression
}

// stringEnd is the end of a string, looked for once where there is none.
func (c *Script) stringEnd(d []byte, i int) int {
	which := strings.IndexByte("\"'", d[i])
	if which >= 0 && i < c.barren[which] || which < 0 && c.open[i] {
		return -1
	}
	if which < 0 && c.open == nil {
		c.open = map[int]bool{}
	}
	end := pastStrings(d, i, c.open)
	if end < 0 && which >= 0 {
		c.barren[which] = LineEnd(d, i)
	}
	return end
}

// LineEnd is the offset of what ends the line of an offset.
func LineEnd(d []byte, i int) int {
	if n := bytes.IndexByte(d[i:], '\n'); n >= 0 {
		return i + n
	}
	return len(d)
}

// marks are the bytes of a script that may begin something, and blanks.
var marks = func() (t [256]bool) {
	for _, c := range []byte("/\"'`0 \t\r\n") {
		t[c] = true
	}
	return t
}()

func (c *Script) read(from, to int) error {
	d := c.Data[:to]
	before := byte('(') // the last character that was no blank
	for i, watched := from, from; i < to; {
		if !marks[d[i]] {
			for i++; i < to && !marks[d[i]]; i++ {
			}
			if before = d[i-1]; i == to {
				break
			}
		}
		if i-watched > 16*scanning.NowAndThen {
			watched = i
			if err := c.Watch.Read(i, to); err != nil {
				return err
			}
			if c.Tally.Full {
				return c.Tally.Check()
			}
		}
		b := d[i]
		switch {
		case b == '/' && i+1 < to && d[i+1] == '/' && before != ':':
			end := bytes.IndexByte(d[i:], '\n')
			if end < 0 {
				return nil
			}
			i += end
		case b == '/' && i+1 < to && d[i+1] == '*':
			end := bytes.Index(d[i+2:], []byte("*/"))
			if end < 0 {
				return nil
			}
			i += end + 4
		case b == '/' && strings.IndexByte("(,=:[!&|?{};\n+", before) >= 0:
			if i >= c.barren[2] {
				if end := regexpEnd(d, i); end > 0 {
					i = end - 1
				} else {
					c.barren[2] = LineEnd(d, i)
				}
			}
			i++
			before = 'x'
		case b == '"' || b == '\'' || b == '`':
			end := c.stringEnd(d, i)
			if end < 0 {
				i++
				continue
			}
			if err := c.Text(i, end); err != nil {
				return err
			}
			i, before = end, 'x'
		case b == '0' && i+7 < to && d[i+1]|0x20 == 'x' && !Word(before):
			i += max(1, c.number(i))
			before = 'x'
		default:
			if b != ' ' && b != '\t' && b != '\r' && (b != '\n' || before == ';' || before == '}') {
				before = b
			}
			i++
		}
	}
	return nil
}

// Word says whether a byte is of a name in a script.
func Word(b byte) bool {
	return scanning.WordByte(b) || b == '$'
}

// braces is the offset behind the brace that closes the one at i; strings are passed over.
func braces(d []byte, i int) int {
	if end := pastStrings(d, i, nil); end > 0 {
		return end
	}
	return len(d)
}

// pastStrings is the offset behind what begins at i with a quote or a brace, -1 if that does not end. It looks at each byte a fixed number
// of times: what is open is on a stack, and a plain quote that does not end on its line is looked for once a line. Where templates do not
// end, their offsets are put into open.
func pastStrings(d []byte, i int, open map[int]bool) int {
	if d[i] == '"' || d[i] == '\'' {
		return PlainEnd(d, i)
	}
	within := []int{i} // offsets of the templates and braces that are open
	var escaped [][2]int
	barren := [2]int{} // up to where no double or single quote ends
	for k := i + 1; k < len(d); k++ {
		template := d[within[len(within)-1]] == '`'
		switch c := d[k]; {
		case template && c == '\\':
			if k++; open != nil && k < len(d) && d[k] == '`' {
				escaped = append(escaped, [2]int{within[len(within)-1], k})
			}
		case template && c == '`', !template && c == '}':
			if within = within[:len(within)-1]; len(within) == 0 {
				return k + 1
			}
		case template && c == '$' && k+1 < len(d) && d[k+1] == '{':
			k++
			within = append(within, k)
		case template:
		case c == '{' || c == '`':
			within = append(within, k)
		case c == '"' || c == '\'':
			which := 0
			if c == '\'' {
				which = 1
			}
			if k < barren[which] {
				continue
			}
			if end := PlainEnd(d, k); end > 0 {
				k = end - 1
			} else {
				barren[which] = LineEnd(d, k)
			}
		}
	}
	for _, at := range within {
		if open != nil && d[at] == '`' {
			open[at] = true
		}
	}
	for _, e := range escaped { // what begins there sees the same as the template around it
		if open[e[0]] {
			open[e[1]] = true
		}
	}
	return -1
}

// PlainEnd is the offset behind a string in plain quotes that begins at i, -1 if it does not end on its line.
func PlainEnd(d []byte, i int) int {
	for k := i + 1; k < len(d); k++ {
		switch d[k] {
		case '\\':
			k++
		case d[i]:
			return k + 1
		case '\n':
			return -1
		}
	}
	return -1
}

// regexpEnd is the offset behind a regular expression, -1 if it does not end on its line.
func regexpEnd(d []byte, i int) int {
	class := false
	for k := i + 1; k < len(d); k++ {
		switch d[k] {
		case '\\':
			k++
		case '[':
			class = true
		case ']':
			class = false
		case '\n':
			return -1
		case '/':
			if !class {
				return k + 1
			}
		}
	}
	return -1
}

var (
	InStyle  = regexp.MustCompile(`[:;{]`)
	anyColor = regexp.MustCompile(`(?i)#[0-9a-f]{3,8}\b|\b(?:rgba?|hsla?|hwb|lab|lch|oklab|oklch|color|color-mix)\(`)
)

// KeyOf is what a string at an offset is given to: the name of a property, an attribute, a variable or a function.
func (c *Script) KeyOf(at int) string {
	line := c.Data[max(0, at-160):at]
	if key := GivenTo(line); key != "" {
		return key
	}
	if before, ok := beforeChoice(line); ok {
		if key := choiceKey(before); key != "" {
			return key
		}
	}
	return c.key
}

// beforeChoice is what stands before the question mark with which a text ends, maybe with the first of two strings behind it.
func beforeChoice(line []byte) ([]byte, bool) {
	const blanks = " \t\n\f\r"
	line = bytes.TrimRight(line, blanks)
	if first, ok := bytes.CutSuffix(line, []byte(":")); ok {
		first = bytes.TrimRight(first, blanks)
		n := len(first)
		if n < 2 || first[n-1] != '"' && first[n-1] != '\'' {
			return nil, false
		}
		line = bytes.TrimRight(first[:max(0, bytes.LastIndexAny(first[:n-1], "\"'"))], blanks)
	}
	return bytes.CutSuffix(line, []byte("?"))
}

// choiceKey is the name that a choice is given to whose condition a text ends with: name = a > 1, name: {late, name(late.
func choiceKey(text []byte) string {
	const longest = 80 // of a condition
	from := len(text)
	for from > 0 && len(text)-from < longest && bytes.IndexByte([]byte("\"'`;,{}:="), text[from-1]) < 0 {
		from--
	}
	if from == len(text) {
		return ""
	}
	name := func(end int) string {
		for end > 0 && space(text[end-1]) {
			end--
		}
		begin := end
		for begin > 0 && (Word(text[begin-1]) || text[begin-1] == '-') {
			begin--
		}
		for begin < end && (text[begin] == '-' || text[begin] >= '0' && text[begin] <= '9') {
			begin++
		}
		return string(text[begin:end])
	}
	at := from
	if at > 0 && text[at-1] == '{' {
		for at--; at > 0 && space(text[at-1]); {
			at--
		}
	}
	if at > 0 && (text[at-1] == ':' || text[at-1] == '=' || text[at-1] == '(') {
		if key := name(at - 1); key != "" {
			return key
		}
	}
	for i := from; i < len(text)-1; i++ {
		if text[i] == '(' {
			if key := name(i); key != "" {
				return key
			}
		}
	}
	return ""
}

// GivenTo is the name that what follows a text is given to: name = , name: , name( , name?: , "name"] = and these with a brace behind.
func GivenTo(line []byte) string {
	blank := func() { line = bytes.TrimRight(line, " \t\n\f\r") }
	maybe := func(b byte) {
		blank()
		if n := len(line); n > 0 && line[n-1] == b {
			line = line[:n-1]
		}
		blank()
	}
	maybe('{')
	n := len(line)
	if n == 0 || line[n-1] != ':' && line[n-1] != '=' && line[n-1] != '(' {
		return ""
	}
	line = line[:n-1]
	maybe('?')
	maybe(']')
	end := len(line)
	if end == 0 {
		return ""
	}
	from := end
	if q := line[end-1]; q == '"' || q == '\'' {
		for from--; from > 0 && (Word(line[from-1]) || line[from-1] == '.' || line[from-1] == '-'); from-- {
		}
		if from == end-1 || from == 0 || line[from-1] != '"' && line[from-1] != '\'' {
			return ""
		}
		return string(line[from : end-1])
	}
	for from > 0 && (Word(line[from-1]) || line[from-1] == '-') {
		from--
	}
	for from < end && (line[from] == '-' || line[from] >= '0' && line[from] <= '9') {
		from++
	}
	return string(line[from:end])
}

// Paints says whether something that is given to a name is a color.
func Paints(key string) bool {
	n := len(key)
	if n == 0 {
		return false
	}
	if key[n-1]|0x20 == 'r' && (n >= 5 && strings.EqualFold(key[n-5:], "color") || n >= 6 && strings.EqualFold(key[n-6:], "colour")) {
		return true
	}
	key = key[strings.LastIndexByte(key, '.')+1:]
	if n = len(key); n == 0 || n >= 64 || lettersOf[key[0]|0x20]>>n&1 == 0 && key[0] != '-' {
		return false // no property begins so and is as long
	}
	return takesColor(kebab(key))
}

// lettersOf says, by its first letter, how long a property that takes a color can be, as style sheets and as scripts write it: a bit for
// each length.
var lettersOf = func() (t [256]uint64) {
	for p := range colorProperties {
		t[p[0]] |= 1<<len(p) | 1<<len(strings.ReplaceAll(p, "-", ""))
	}
	return t
}()

// NoStyle says whether a name is given what looks like a color and is none: a selector, an address, a number in a list.
func NoStyle(key string) bool {
	k := strings.ToLower(key)
	for _, end := range [...]string{"queryselector", "queryselectorall", "getelementbyid", "closest", "matches", "href", "htmlfor", "$",
		"hash", "anchor", "import", "require", "from", "url"} {
		if strings.HasSuffix(k, end) {
			return true
		}
	}
	for _, end := range [...]string{"id", "to"} {
		if before, ok := strings.CutSuffix(k, end); ok && (before == "" || !scanning.WordByte(before[len(before)-1])) {
			return true
		}
	}
	return false
}

// kebab is a name as style sheets write it: "backgroundColor" is "background-color".
func kebab(name string) string {
	plain := true
	for i := range len(name) {
		plain = plain && (name[i] < 'A' || name[i] > 'Z') && name[i] < utf8.RuneSelf
	}
	if plain {
		return name
	}
	var b strings.Builder
	for i := range len(name) {
		c := name[i]
		if i > 0 && c >= 'A' && c <= 'Z' && (name[i-1] >= 'a' && name[i-1] <= 'z' || name[i-1] >= '0' && name[i-1] <= '9') {
			b.WriteByte('-')
		}
		b.WriteByte(c)
	}
	return strings.ToLower(b.String())
}

// Text reads one string with its quotes, of which most have nothing to do with colors.
func (c *Script) Text(from, to int) error {
	raw := c.Data[from+1 : to-1]
	if len(raw) < 3 {
		return nil
	}
	key := c.KeyOf(from)
	named := Paints(key)
	if named || HoldsColor(raw) && !NoStyle(key) || bytes.Contains(raw, []byte("-[")) {
		return c.Colored(from, to, key, named)
	}
	if head := bytes.TrimSpace(raw); bytes.HasPrefix(head, []byte("data:image/")) || bytes.HasPrefix(head, []byte("<svg")) {
		return c.Colored(from, to, key, named)
	}
	return nil
}

// Colored reads a string that may have a color.
func (c *Script) Colored(from, to int, key string, named bool) error {
	if c.unseen(from, key) {
		return nil
	}
	inner := string(c.Data[from+1 : to-1])
	line, column := c.Lines.At(from)
	context := "string"
	if key != "" {
		context = key
	}
	sheet := sheetAt(c.Scanner, c.Part, func(l, col int, rule, property string) string {
		if property = c.Texts.Both(rule, property); property == context {
			property = ""
		}
		return c.Texts.Place(c.Name, l, col, context, property)
	})
	sheet.attribute = c.Data[from] == '`'
	trimmed := strings.TrimSpace(inner)
	place := func() string { return sheet.where(line, column, "", "") }
	switch {
	case strings.HasPrefix(trimmed, "data:image/") && c.Data[from] == '`' &&
		strings.Contains(trimmed, "${"): // what it shows comes from elsewhere
		return nil
	case strings.HasPrefix(trimmed, "data:image/"):
		at := from + 1 + strings.Index(inner, trimmed)
		DataURI(c.Scanner, c.Part, at, at+len(trimmed), trimmed, place())
		return nil
	case strings.HasPrefix(trimmed, "<svg") && !strings.Contains(inner, `\`) && !strings.Contains(inner, "${"):
		in, err := c.Part.Within("drawing", from+1, to-1, []byte(inner), func(data []byte) ([]byte, error) { return data, nil })
		if err == nil {
			inside := *c.Scanner
			inside.Prefix += place() + " > "
			err = embeddedIn(&inside, in, "drawing")
		}
		if err != nil {
			c.Unread(place(), err)
		}
		return nil
	case HoldsMarkup(trimmed) && !strings.Contains(inner, `\`):
		return c.markup(inner, from, to, place())
	case bracketed(inner): // utility classes
		c.classes(inner, from+1, place(), line, column)
		return nil
	case !named && (!HoldsColor(inner) || NoStyle(key)):
		return nil
	case strings.Contains(inner, `\`):
		if HoldsColor(inner) {
			c.Add(&audit.Use{Value: scanning.Shorten(trimmed, 120), Where: place(), Line: line, Column: column,
				Why: "it is written with escapes"})
		}
		return nil
	case c.Data[from] == '`':
		return c.template(sheet, from+1, to-1, named)
	case strings.Contains(inner, "{") || strings.Contains(inner, ";") && InStyle.MatchString(inner):
		return sheet.readText(inner, from+1, line, column+1)
	}
	if _, err := color.ParseCSS(trimmed); err != nil && !named && !ValueLike(trimmed) {
		return nil
	}
	lineAt, columnAt := c.Lines.At(from + 1)
	sheet.ValueOf(inner, from+1, lineAt, columnAt, context, 1, named)
	return nil
}

// HoldsMarkup says whether a string is markup with something in it that may be a color.
func HoldsMarkup(text string) bool {
	return len(text) > 8 && text[0] == '<' && (text[1]|0x20 >= 'a' && text[1]|0x20 <= 'z') && strings.ContainsRune(text, '=') &&
		HoldsColor(text)
}

// markup reads a string that is markup: its attributes and styles, as those of a page. What a template puts in is read as what it is.
func (c *Script) markup(inner string, from, to int, place string) error {
	in, err := c.Part.Within("markup", from+1, to-1, []byte(inner), func(data []byte) ([]byte, error) { return data, nil })
	if err != nil {
		c.Unread(place, err)
		return nil
	}
	text := []byte(inner)
	for i := 0; i+1 < len(text); i++ {
		if text[i] == '$' && text[i+1] == '{' {
			end := braces(text, i+1)
			if c.deep == limits.Templates {
				line, _ := c.Lines.At(from)
				return fmt.Errorf("line %d nests templates over %d deep", line, limits.Templates)
			}
			if err := (&Script{Page: c.Page, deep: c.deep + 1}).read(from+1+i+2, max(from+1+i+2, from+1+end-1)); err != nil {
				return err
			}
			for k := i; k < end && k < len(text); k++ {
				text[k] = ' '
			}
			i = max(i, end-1)
		}
	}
	line, column := c.Lines.At(from + 1)
	w := &Page{Scanner: c.Scanner, Part: in, Name: c.Name, Data: text, Lines: scanning.NewLines(text)}
	w.Lines.Line, w.Lines.Shift = line-1, column-1
	if err := w.Read(); err != nil {
		c.Unread(place, err)
	}
	return c.Tally.Check()
}

// HoldsColor says whether anyColor has a match that is no part of an address; it is asked of every string.
func HoldsColor[T string | []byte](s T) bool {
	for i := range len(s) {
		switch s[i] {
		case '#':
			end := i + 1
			for end < len(s) && scanning.IsHexDigit(s[end]) {
				end++
			}
			ofAddress := i > 0 && (scanning.WordByte(s[i-1]) || s[i-1] == '/')
			if n := end - i - 1; n >= 3 && n <= 8 && !ofAddress && (end == len(s) || !scanning.WordByte(s[end])) {
				return true
			}
		case '(':
			from := i
			for from > 0 && scanning.WordByte(s[from-1]) {
				from--
			}
			if i-from > len("oklab") {
				continue
			}
			switch strings.ToLower(string(s[from:i])) {
			case "rgb", "rgba", "hsl", "hsla", "hwb", "lab", "lch", "oklab", "oklch", "color":
				return true
			case "mix":
				if n := from - len("color-"); n >= 0 && strings.EqualFold(string(s[n:from]), "color-") &&
					(n == 0 || !scanning.WordByte(s[n-1])) {
					return true
				}
			}
		}
	}
	return false
}

// ValueLike says whether a text looks like a value of a style sheet, rather than prose with a mark in it.
func ValueLike(s string) bool {
	if len(s) >= 400 {
		return false
	}
	if ruleLike.MatchString(s) {
		return true
	}
	for _, word := range valueWord.FindAllStringSubmatch(anyColor.ReplaceAllString(calledNames.ReplaceAllString(s, " "), " "), -1) {
		if _, named := color.Named(word[1]); !named && !valueWords[strings.ToLower(word[1])] {
			return false
		}
	}
	return true
}

var (
	calledNames = regexp.MustCompile(`[A-Za-z][A-Za-z-]*\(|--[\w-]+`) // functions and variables
	valueWord   = regexp.MustCompile(`(?:^|[^\w.%#-])([A-Za-z][A-Za-z-]+)`)
	valueWords  = map[string]bool{}
	ruleLike    = regexp.MustCompile(`\{[^{}]*[\w-]\s*:[^{}]*\}`)
)

func init() {
	for _, w := range strings.Fields(`solid dashed dotted double groove ridge inset outset none hidden thin medium thick important transparent currentcolor inherit initial unset
		revert auto no-repeat repeat repeat-x repeat-y round space center left right top bottom fixed scroll local cover contain to from at in deg turn rad circle ellipse closest-side
		farthest-side closest-corner farthest-corner srgb srgb-linear display-p3 oklab oklch lab lch hsl hwb shorter longer increasing decreasing hue underline overline line-through wavy
		px em rem pt pc cm mm vw vh ch ex`) {
		valueWords[w] = true
	}
}

// template reads a string with expressions in it: their own strings, and the text around them as a style sheet.
func (c *Script) template(sheet *sheet, from, to int, named bool) error {
	text := bytes.Clone(c.Data[from:to])
	for i := 0; i < len(text); i++ {
		if text[i] == '$' && i+1 < len(text) && text[i+1] == '{' {
			end := braces(text, i+1)
			if c.deep == limits.Templates {
				line, _ := c.Lines.At(from)
				return fmt.Errorf("line %d nests templates over %d deep", line, limits.Templates)
			}
			if err := (&Script{Page: c.Page, deep: c.deep + 1}).read(from+i+2, max(from+i+2, from+end-1)); err != nil {
				return err
			}
			for k := i; k < end; k++ {
				if text[k] != '\n' {
					text[k] = ' '
				}
			}
			text[i] = '0' // so that a value made with it is not taken for a whole one
			if end < len(text) && text[end] == '#' && bytes.Contains(text[:i], []byte("://")) {
				text[end] = '0' // nor the fragment of an address for a color
			}
			i = end - 1
		}
	}
	line, column := c.Lines.At(from)
	if InStyle.Match(text) {
		return sheet.readText(string(text), from, line, column)
	}
	if bytes.Contains(c.Data[from:to], []byte("${")) && HoldsColor(text) {
		if !regexp.MustCompile(`(?i)(rgba?|hsla?|hwb|lab|lch|oklab|oklch|color)\([^)]*\$\{`).Match(c.Data[from:to]) {
			sheet.ValueOf(string(text), from, line, column, "", 1, named)
			return nil
		}
		c.Add(&audit.Use{Value: scanning.Shorten(strings.TrimSpace(string(c.Data[from:to])), 120), Where: sheet.where(line, column, "", ""),
			Line: line, Column: column, Why: "it is put together while the program runs"})
		return nil
	}
	sheet.ValueOf(string(text), from, line, column, "", 1, named)
	return nil
}

// number reads a color as a hexadecimal number, where it is given to something that is a color.
func (c *Script) number(i int) int {
	end := i + 2
	for end < len(c.Data) && Word(c.Data[end]) {
		end++
	}
	if end-i != 8 {
		return end - i
	}
	key := c.KeyOf(i)
	if !strings.Contains(strings.ToLower(key), "color") && !strings.Contains(strings.ToLower(key), "colour") && !Paints(key) {
		return end - i
	}
	rgb, _, err := form.ReadHex(string(c.Data[i:end]), "RGB")
	if err != nil || c.unseen(i, key) {
		return end - i
	}
	line, column := c.Lines.At(i)
	c.Add(&audit.Use{Value: string(c.Data[i:end]), Color: audit.Screen(rgb), Where: fmt.Sprintf("%s %d:%d, %s", c.Name, line, column, key),
		Line: line, Column: column,
		At: []source.Span{{Part: c.Part, Start: i, End: end}}, Form: form.Hex("RGB")})
	return end - i
}
