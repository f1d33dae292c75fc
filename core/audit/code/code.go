// Package code reads sources of applications by the names that their literals are given to, LaTeX and graphs.
package code

import (
	"bytes"
	"regexp"
	"slices"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/audit/web"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/source"
)

// language is how sources of a programming language write what holds colors.
type language struct {
	order  string  // of eight digits: "ARGB", "RGBA"; empty where both are written
	scale  float64 // what numbers without a fraction are divided by: 1 or 255
	hash   bool    // # begins a comment to the end of the line
	apart  bool    // 'a' is a character and no string
	inside string  // what begins an expression inside of a string
}

// languages are told by the extension of a file.
var languages = map[string]language{
	".swift": {scale: 1, apart: true, inside: `\(`},
	".kt":    {order: "ARGB", scale: 255, apart: true, inside: "${"},
	".kts":   {order: "ARGB", scale: 255, apart: true, inside: "${"},
	".java":  {order: "ARGB", scale: 255, apart: true},
	".dart":  {order: "ARGB", scale: 255, inside: "${"},
	".qml":   {order: "ARGB", scale: 1},
	".cs":    {order: "ARGB", scale: 255, apart: true},
	".py":    {order: "RGBA", scale: 1, hash: true},
}

// ScanCode reads the source of an application: colors that are made by a call, strings that are colors by their notation or by the name
// that they are given to, and numbers that are given to the name of a color.
func ScanCode(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	data, err := scanning.PlainText(p)
	if err != nil {
		return "", err
	}
	lang, known := languages[scanning.Extension(name)]
	if !known { // of a notebook
		lang = languages[".py"]
	}
	w := &web.Page{Scanner: s, Part: p, Name: name, Data: data, Lines: scanning.NewLines(data)}
	c := &code{Script: &web.Script{Page: w}, language: lang}
	if err := c.read(); err != nil {
		return "", err
	}
	if c.named > 0 {
		s.Note("Colors that a framework names itself, as %s, are not judged: what they look like is its matter.", c.first)
	}
	return audit.Plural(len(w.Lines.Starts), "line"), nil
}

type code struct {
	*web.Script
	language
	named   int    // colors of a framework
	first   string // of them
	knotted int    // up to where no string with expressions in it is looked for
	endless [4]int // up to where no string of a quote ends: ", ', """ and '''
}

// startsWord says whether a byte may begin a name of a source.
func startsWord(b byte) bool {
	return b >= 'a' && b <= 'z' || b >= 'A' && b <= 'Z' || b == '_' || b == '#' || b >= 0x80
}

func (c *code) read() error {
	d := c.Data
	for i, watched := 0, 0; i < len(d); {
		if i-watched > 16*scanning.NowAndThen {
			watched = i
			if err := c.Watch.Read(i, len(d)); err != nil {
				return err
			}
			if c.Tally.Full {
				return c.Tally.Check()
			}
		}
		b := d[i]
		switch {
		case c.hash && b == '#', !c.hash && b == '/' && i+1 < len(d) && d[i+1] == '/':
			i = web.LineEnd(d, i)
		case !c.hash && b == '/' && i+1 < len(d) && d[i+1] == '*':
			end := bytes.Index(d[i+2:], []byte("*/"))
			if end < 0 {
				return nil
			}
			i += end + 4
		case b == '"' || b == '\'':
			begin, end := c.stringAt(i)
			if end < 0 {
				i++
				continue
			}
			if b == '"' || !c.apart {
				if err := c.quoted(i, begin, end); err != nil {
					return err
				}
			}
			i = end
		case b == '0' && i+7 < len(d) && d[i+1]|0x20 == 'x' && (i == 0 || !web.Word(d[i-1])):
			i += max(1, c.literal(i, c.KeyOf(i), false))
		case c.hash && (b == '(' || b == '['):
			i = c.tuple(i)
		case startsWord(b) && (b != '#' || !c.hash) && (i == 0 || !web.Word(d[i-1])):
			end := i + 1
			for end < len(d) && (web.Word(d[end]) || d[end] == '.' || d[end] >= 0x80) {
				end++
			}
			i = c.name(i, end)
		default:
			i++
		}
	}
	return nil
}

// stringAt is where the text of a string begins and where the string ends, -1 for one that does not end. Each kind of quote is looked for
// once where none ends.
func (c *code) stringAt(i int) (begin, end int) {
	d, q := c.Data, c.Data[i]
	which := strings.IndexByte(`"'`, q)
	if i+2 < len(d) && d[i+1] == q && d[i+2] == q {
		if i < c.endless[2+which] {
			return 0, -1
		}
		if n := bytes.Index(d[i+3:], []byte{q, q, q}); n >= 0 {
			return i + 3, i + 3 + n + 3
		}
		c.endless[2+which] = len(d)
		return 0, -1
	}
	if i < c.endless[which] {
		return 0, -1
	}
	end = web.PlainEnd(d, i)
	if c.inside != "" && end > 0 && i >= c.knotted && bytes.Contains(d[i:end], []byte(c.inside)) {
		if n := c.around(i); n > 0 {
			end = n
		} else {
			c.knotted = i + longestKnot/4
		}
	}
	if end < 0 {
		c.endless[which] = web.LineEnd(d, i)
	}
	return i + 1, end
}

// longestKnot is how long a string may be that has expressions with strings in it, in bytes.
const longestKnot = 2000

// around is the end of a string with expressions in it, in which other strings may stand, on its line; -1 if it has none.
func (c *code) around(i int) int {
	d := c.Data[i:min(len(c.Data), i+longestKnot)]
	d = c.Data[:i+web.LineEnd(d, 0)]
	closes := byte('}')
	if c.inside == `\(` {
		closes = ')'
	}
	open := []byte{d[i]} // quotes and expressions
	for k := i + 1; k < len(d); k++ {
		top := open[len(open)-1]
		switch {
		case top != closes && bytes.HasPrefix(d[k:], []byte(c.inside)):
			open = append(open, closes)
			k++
		case top != closes && d[k] == '\\':
			k++
		case d[k] == top:
			if open = open[:len(open)-1]; len(open) == 0 {
				return k + 1
			}
		case top == closes && d[k] == '"':
			open = append(open, '"')
		case top == closes && (d[k] == '(' || d[k] == '{') && (d[k] == '(') == (closes == ')'):
			open = append(open, closes)
		}
	}
	return -1
}

var (
	wholeHash = regexp.MustCompile(`^#(?:[0-9A-Fa-f]{3,4}|[0-9A-Fa-f]{6}|[0-9A-Fa-f]{8})$`)
	bareHex   = regexp.MustCompile(`^(?:0[xX])?([0-9A-Fa-f]{6}|[0-9A-Fa-f]{8})$`)
)

// quoted reads a string, which begins with its quotes at from and whose text begins at begin.
func (c *code) quoted(from, begin, end int) error {
	raw := c.Data[begin : end-(begin-from)]
	key := c.KeyOf(from)
	text := string(bytes.TrimSpace(raw))
	at := begin + bytes.Index(raw, []byte(text))
	switch {
	case len(raw) < 3:
		return nil
	case wholeHash.MatchString(text) && !web.NoStyle(key):
		return c.digits(at, text, key, c.order)
	case bareHex.MatchString(text) && strings.Contains(strings.ToLower(key), "hex"):
		return c.digits(at, text, key, c.order)
	case begin-from == 3: // of several lines: markup or a style sheet, maybe
		if trimmed := strings.TrimSpace(text); web.HoldsColor(trimmed) && (web.HoldsMarkup(trimmed) || web.InStyle.MatchString(trimmed)) &&
			!strings.Contains(trimmed, `\`) {
			return c.Colored(begin-1, end-2, key, false)
		}
		return nil
	}
	return c.Text(from, end)
}

// digits reads a color of hexadecimal digits, with its opacity in front or behind if it has one.
func (c *code) digits(at int, text, key, order string) error {
	from, n := form.HexDigits(text)
	u := c.use(at, at+len(text), text, key)
	if n == 3 || n == 4 {
		if n == 4 && order != "RGBA" {
			u.Why = "four digits are written with the opacity in front and behind"
			c.Add(u)
			return nil
		}
		t, err := color.ParseCSS(text)
		if err != nil || t.Alpha == 0 {
			return nil
		}
		u.Color, u.Alpha, u.Form = audit.ColorOf(t), t.Alpha, form.CSS
		c.Add(u)
		return nil
	}
	if n == 8 && order == "" {
		digits := strings.ToUpper(text[from:])
		switch front, behind := digits[:2] == "FF", digits[6:] == "FF"; {
		case front && !behind:
			order = "ARGB"
		case behind && !front:
			order = "RGBA"
		default:
			u.Why = "whether its opacity stands in front or behind is not known"
			c.Add(u)
			return nil
		}
	}
	if n == 6 {
		order = "RGB"
	}
	rgb, alpha, err := form.ReadHex(text, order)
	if err != nil || alpha == 0 {
		return nil
	}
	u.Color, u.Alpha, u.Form = audit.Screen(rgb), alpha, form.Hex(order)
	c.Add(u)
	return nil
}

func (c *code) use(from, to int, value, key string) *audit.Use {
	line, column := c.Lines.At(from)
	return &audit.Use{Value: scanning.Shorten(strings.Join(strings.Fields(value), " "), 120), Alpha: 1,
		Where: c.Texts.Place(c.Page.Name, line, column, key, ""), Line: line, Column: column,
		At: []source.Span{{Part: c.Part, Start: from, End: to}}}
}

// literal reads a hexadecimal number that is given to the name of a color, or, made, that a color is made of. It says how long the number
// is.
func (c *code) literal(i int, key string, made bool) int {
	end := i + 2
	for end < len(c.Data) && (scanning.IsHexDigit(c.Data[end]) || c.Data[end] == '_') {
		end++
	}
	text := string(c.Data[i:end])
	small := strings.ToLower(key)
	if !made && !strings.Contains(small, "color") && !strings.Contains(small, "colour") && !web.Paints(key) {
		return end - i
	}
	switch plain := strings.ReplaceAll(text, "_", ""); {
	case len(plain) != 8 && len(plain) != 10:
	case plain != text:
		if rgb, alpha, err := form.ReadHex(plain, "ARGB"); err == nil && c.order == "ARGB" {
			u := c.use(i, end, text, key)
			u.Color, u.Alpha, u.At, u.Fixed = audit.Screen(rgb), alpha, nil, "it is written with marks between its digits"
			c.Add(u)
		}
	default:
		_ = c.digits(i, text, key, c.order)
	}
	return end - i
}

var (
	makesColor = regexp.MustCompile(`(?:^|[.#])[A-Za-z]*[Cc]olou?r(?:Literal)?$`)
	fromColor  = regexp.MustCompile(`(?:^|[.#])([A-Za-z]*[Cc]olou?r|Qt)\.([A-Za-z]+)$`)
	ownColor   = regexp.MustCompile(`^(?:[A-Za-z.]*\.)?(?:[A-Z]{2})?Colors?\.([A-Za-z]\w*)$`)
	argLabel   = regexp.MustCompile(`^\s*([A-Za-z]\w*)\s*(?::|=)\s*`)
)

// shared are the constants that mean one color in every library of the language: pure ones, on which all agree.
var shared = map[string]string{"red": "#FF0000", "blue": "#0000FF", "white": "#FFFFFF", "black": "#000000", "yellow": "#FFFF00",
	"cyan": "#00FFFF", "magenta": "#FF00FF"}

// name reads what a name begins, which is a call that makes a color or one of a framework's own colors, and says where to go on.
func (c *code) name(from, to int) int {
	name := string(c.Data[from:to])
	if !strings.Contains(name, "olor") && !strings.HasPrefix(name, "Qt.") && !strings.Contains(name, "olour") {
		return to
	}
	open := to
	for open < len(c.Data) && (c.Data[open] == ' ' || c.Data[open] == '\t') {
		open++
	}
	if open == len(c.Data) || c.Data[open] != '(' {
		if m := ownColor.FindStringSubmatch(name); m != nil && !strings.HasPrefix(name, "Qt") {
			c.constant(from, to, m[1])
		}
		return to
	}
	method := ""
	if m := fromColor.FindStringSubmatch(name); m != nil {
		method = strings.ToLower(m[2])
	} else if !makesColor.MatchString(name) {
		return to
	}
	return c.call(from, open, method)
}

// constant reads a color that a library names.
func (c *code) constant(from, to int, name string) {
	if hex, ok := shared[strings.ToLower(name)]; ok && c.scale == 255 && bytes.HasPrefix(c.Data[from:to], []byte("Color.")) {
		u := c.use(from, to, string(c.Data[from:to]), c.KeyOf(from))
		rgb, _ := color.FromHex(hex)
		u.Color, u.At, u.Fixed = audit.Screen(rgb), nil, "a constant of the library stands for one color"
		c.Add(u)
		return
	}
	if name[0] >= 'a' && c.scale == 255 && !bytes.HasPrefix(c.Data[from:to], []byte("Colors.")) {
		return // a member of something that is named so
	}
	if c.named++; c.named == 1 {
		c.first = string(c.Data[from:to])
	}
}

// argument is one of a call.
type argument struct {
	label, text string
	at          int // of the text
}

// arguments are those of the call that opens at an offset, and where it ends. Over 600 bytes of them make no color.
func (c *code) arguments(open int) (out []argument, end int) {
	const longest = 600
	d := c.Data[:min(len(c.Data), open+longest)]
	depth, from := 0, open+1
	take := func(to int) {
		text := string(d[from:to])
		a := argument{at: from}
		if m := argLabel.FindStringSubmatchIndex(text); m != nil {
			a.label, a.at, text = text[m[2]:m[3]], from+m[1], text[m[1]:]
		}
		a.at += len(text) - len(strings.TrimLeft(text, " \t\r\n"))
		if a.text = strings.TrimSpace(text); a.text != "" {
			out = append(out, a)
		}
		from = to + 1
	}
	for k := open; k < len(d); k++ {
		switch d[k] {
		case '"', '\'':
			if n := web.PlainEnd(d, k); n > 0 {
				k = n - 1
			}
		case '(', '[', '{':
			depth++
		case ')', ']', '}':
			if depth--; depth == 0 {
				take(k)
				return out, k + 1
			}
		case ',':
			if depth == 1 {
				take(k)
			}
		}
	}
	return nil, -1
}

var (
	wideSpace   = regexp.MustCompile(`(?i)display_?p3`)
	linearSpace = regexp.MustCompile(`(?i)linear`)
	channelName = regexp.MustCompile(`(?i)^(?:\w*?)(red|green|blue|alpha|opacity|white|r|g|b|a|o)$`)
)

// call reads a call that makes a color, whose arguments open at an offset. It says where to go on: in the arguments, where it makes none of
// numbers.
func (c *code) call(from, open int, method string) int {
	switch method {
	case "", "rgb", "argb", "rgba", "fromargb", "fromrgb", "fromrgbo", "from", "color", "valueof", "srgb", "init":
	case "hsb", "hsl", "hsla", "hsv", "hsva", "gethsbcolor", "hct":
		if args, end := c.arguments(open); end > 0 && len(args) >= 3 && web.PlainNumber.MatchString(args[0].text) {
			u := c.use(from, end, string(c.Data[from:end]), c.KeyOf(from))
			u.Why, u.At = "it is made of hue and saturation by a function of the library", nil
			c.Add(u)
			return end
		}
		return open + 1
	default:
		return open + 1
	}
	args, end := c.arguments(open)
	if end < 0 || len(args) == 0 {
		return open + 1
	}
	key := c.KeyOf(from)
	if key == "" || makesColor.MatchString(key) { // new Color(…), const Color(…)
		key = c.KeyOf(from - len(lastWord(c.Data[:from])))
	}
	if first := args[0]; strings.HasPrefix(first.text, "0x") || strings.HasPrefix(first.text, "0X") {
		if len(first.text) > 4 {
			if method == "" || method == "init" || strings.HasPrefix(method, "from") {
				c.literal(first.at, key, true)
				return end
			}
			return open + 1
		}
	}
	return c.numbers(from, end, key, method, args)
}

// numbers reads a color of numbers that stand from an offset to another, and says where to go on: behind its beginning, where they are
// none.
func (c *code) numbers(from, end int, key, method string, args []argument) int {
	channels, space, alpha, why := c.channels(args, method)
	if channels == nil && why == "" {
		return args[0].at
	}
	start, stop := args[0].at, end-1
	if channels != nil {
		start, stop = channels[0].At, channels[0].At+len(channels[0].Text)
		for _, ch := range channels {
			start, stop = min(start, ch.At), max(stop, ch.At+len(ch.Text))
		}
	}
	u := c.use(from, end, string(c.Data[from:end]), key)
	u.At[0].Start, u.At[0].End, u.Alpha = start, stop, alpha
	if why == "" {
		of := [3]web.Channel(channels)
		for i := range of {
			of[i].At -= start
		}
		var err error
		if u.Color, err = web.ChannelColor(space, of); err != nil {
			why = "its numbers are no color"
		}
		u.Form = web.ChannelForm(space, of)
	}
	if u.Why = why; why != "" {
		u.At, u.Form = nil, nil
	} else if alpha == 0 {
		return end
	}
	c.Add(u)
	return end
}

// lastWord is the word that a text ends with, such as new, with the blanks behind it.
func lastWord(text []byte) []byte {
	end := len(text)
	for end > 0 && (text[end-1] == ' ' || text[end-1] == '\t') {
		end--
	}
	from := end
	for from > 0 && web.Word(text[from-1]) {
		from--
	}
	if w := string(text[from:end]); w == "new" || w == "const" {
		return text[from:]
	}
	return nil
}

// channels are the three numbers of a color among arguments, the space that they are in and its opacity; nothing if the call makes none of
// numbers, and a reason where some are numbers and some are not.
func (c *code) channels(args []argument, method string) (out []web.Channel, space string, alpha float64, why string) {
	space, alpha = "srgb", 1
	names := []string{"r", "g", "b", "a"}
	if method == "argb" || method == "fromargb" && len(args) > 3 {
		names = []string{"a", "r", "g", "b"}
	}
	found := map[string]web.Channel{}
	numbers, others, fraction := 0, 0, false
	for _, a := range args {
		if wideSpace.MatchString(a.label) {
			space = "display-p3"
		}
		if m := channelName.FindStringSubmatch(a.label); a.label != "" && m != nil {
			name := strings.ToLower(m[1])
			if name != "opacity" {
				name = name[:1]
			} else {
				name = "a"
			}
			if ch, whole, ok := web.ReadChannel(a.text, a.at); ok {
				found[name], numbers = ch, numbers+1
				fraction = fraction || !whole && name != "a" && name != "o"
			} else {
				others++
			}
			continue
		}
		ch, whole, ok := web.ReadChannel(a.text, a.at)
		switch {
		case wideSpace.MatchString(a.text) && !ok:
			space = "display-p3"
		case linearSpace.MatchString(a.text) && !ok:
			space = "srgb-linear"
		case a.label != "" || strings.HasPrefix(a.text, ".") && !ok: // a space, or something else of its own
		case len(names) == 0:
			return nil, "", 0, ""
		case ok:
			found[names[0]], numbers = ch, numbers+1
			fraction = fraction || !whole && names[0] != "a"
			names = names[1:]
		default:
			others++
			names = names[1:]
		}
	}
	if w, ok := found["w"]; ok { // one number for a gray
		found["r"], found["g"], found["b"] = w, w, w
	}
	for _, name := range []string{"r", "g", "b"} {
		ch, ok := found[name]
		if !ok {
			if numbers >= 2 && others > 0 {
				return nil, space, 1, "a part of it is worked out while the program runs"
			}
			return nil, "", 0, ""
		}
		out = append(out, ch)
	}
	scale := c.scale
	if method == "rgb" || method == "argb" || method == "fromargb" || method == "fromrgb" || method == "fromrgbo" {
		scale = 255
	} else if method == "from" || method == "color" {
		scale = 1
	}
	if fraction {
		scale = 1
	}
	if c.scale == 1 && slices.ContainsFunc(out, func(ch web.Channel) bool { return ch.Full == 0 && ch.Value > 1 }) {
		scale = 255
	}
	for i := range out {
		if out[i].Full == 0 {
			out[i].Full = scale
		}
	}
	for _, name := range []string{"a", "o"} {
		if ch, ok := found[name]; ok {
			if ch.Full == 0 {
				ch.Full = 1
				if scale == 255 && ch.Value > 1 {
					ch.Full = 255
				}
			}
			alpha = max(0, min(1, ch.Share()))
		}
	}
	return out, space, alpha, ""
}

// tuple reads three or four numbers in brackets that are given to the name of a color, and says where to go on.
func (c *code) tuple(i int) int {
	key := web.GivenTo(c.Data[max(0, i-160):i])
	if !web.Paints(key) {
		return i + 1
	}
	args, end := c.arguments(i)
	if end < 0 || len(args) < 3 || len(args) > 4 || strings.HasPrefix(args[0].text, "0x") && len(args[0].text) > 4 {
		return i + 1
	}
	return c.numbers(i, end, key, "color", args)
}
