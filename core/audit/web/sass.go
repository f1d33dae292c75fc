package web

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"github.com/tdewolff/parse/v2/css"

	"huekeep/core/color"
)

// blankLineComments gives blanks for the comments that a preprocessor has beside those of CSS, so that offsets stay.
func blankLineComments(text string) string {
	if !strings.Contains(text, "//") {
		return text
	}
	data := []byte(text)
	for i := 0; i < len(data); i++ {
		switch c := data[i]; {
		case c == '"' || c == '\'':
			i = quoteEnd(text, i+1, c) - 1
		case c == '/' && i+1 < len(data) && data[i+1] == '*':
			i = commentEnd(text, i) - 1
		case c == '(':
			if end := addressEnd(text, i+1); end > 0 {
				i = end - 1
			}
		case c == '/' && i+1 < len(data) && data[i+1] == '/':
			for ; i < len(data) && data[i] != '\n'; i++ {
				data[i] = ' '
			}
		}
	}
	return string(data)
}

// interpolation is what a preprocessor puts into a name.
var interpolation = regexp.MustCompile(`[#@]\{[^{}]*\}`)

// interpolated says whether something that a preprocessor puts in begins at an offset.
func (s *sheet) interpolated(at int) bool {
	return s.sass && at+1 < len(s.text) && (s.text[at] == '#' || s.text[at] == '@') && s.text[at+1] == '{'
}

// colon is how far the colon behind a property's name is from an offset; under 0 if there is none.
func (s *sheet) colon(from, to int) int {
	n := strings.IndexByte(s.text[from:to], ':')
	if !s.sass || n < 0 || strings.IndexByte(s.text[from:from+n], '{') < 0 {
		return n
	}
	for at, depth := from, 0; at < to; at++ {
		switch c := s.text[at]; {
		case c == '{':
			depth++
		case c == '}':
			depth--
		case c == ':' && depth == 0:
			return at - from
		}
	}
	return -1
}

// mixinCall is a mixin of LESS that is given something, or the head of one.
var mixinCall = regexp.MustCompile(`^[.#][\w-]+\(`)

func (s *sheet) givesMixin(from, to int) bool { return mixinCall.MatchString(s.text[from:to]) }

// mixin reads what a mixin of LESS is given, or takes where it is given nothing.
func (s *sheet) mixin(from, to int, selectors []selector) error {
	t, err := s.lexed(from, to)
	if err != nil || len(t) < 2 {
		return err
	}
	v := valueReader{sheet: s, selectors: selectors, property: s.text[from : from+strings.IndexByte(s.text[from:to], '(')]}
	v.read(t[1:])
	return nil
}

// sassFunctions change a color in a preprocessor.
func isSassFunction(name string) bool {
	switch name {
	case "lighten", "darken", "saturate", "desaturate", "mix", "adjust", "scale", "change", "adjust-color", "scale-color", "change-color",
		"fade", "fadein", "fadeout",
		"fade-in", "fade-out", "transparentize", "opacify", "tint", "shade", "spin", "adjust-hue", "complement", "grayscale", "greyscale",
		"invert", "contrast":
		return true
	}
	return false
}

// changesColor says whether a function of that name changes a color, and is not the one that style sheets have for effects and shapes.
func (v *valueReader) changesColor(name string, body []token) bool {
	switch strings.TrimPrefix(strings.ToLower(v.property), "-webkit-") {
	case "filter", "backdrop-filter", "transform":
		return false
	}
	args := trimSpace(body)
	if len(args) == 0 {
		return false
	}
	switch args[0].kind {
	case css.NumberToken, css.PercentageToken, css.DimensionToken:
		return false
	}
	return true
}

// arithmetic says whether a value is nothing but numbers, colors and variables with signs of arithmetic between them, as LESS works out and
// Sass did: "@a + #111", "(@b * 2)". Signs of lists, as in fonts and grids, stand beside other things.
func arithmetic(t []token) bool {
	t = trimSpace(t)
	for n := len(t); n > 1 && t[0].kind == css.LeftParenthesisToken && closing(t, 0) == n-1; n = len(t) {
		t = trimSpace(t[1 : n-1])
	}
	operand, signs, colored := false, 0, false
	for i := 0; i < len(t); i++ {
		switch k := t[i]; {
		case k.kind == css.WhitespaceToken:
			continue
		case operand && k.kind == css.DelimToken && (k.text == "+" || k.text == "-" || k.text == "*" || k.text == "/"):
			operand = false
			signs++
			continue
		case operand:
			return false
		case k.kind == css.DelimToken && k.text == "$" && i+1 < len(t) && t[i+1].kind == css.IdentToken:
			i++
			colored = true
		case k.kind == css.AtKeywordToken, k.kind == css.HashToken:
			colored = true
		case k.kind == css.FunctionToken, k.kind == css.LeftParenthesisToken:
			i = closing(t, i)
		case k.kind != css.NumberToken && k.kind != css.PercentageToken && k.kind != css.DimensionToken:
			return false
		}
		operand = true
	}
	return operand && signs > 0 && colored
}

// quoted reads a color that LESS takes out of a string.
func (v *valueReader) quoted(t token) bool {
	if len(t.text) < 3 {
		return false
	}
	inner := t.text[1 : len(t.text)-1]
	c, err := color.ParseCSS(inner)
	if err != nil {
		return false
	}
	v.found(c, []token{{css.HashToken, inner, t.at + 1}})
	return true
}

// fromMap reads a value that is taken from a map of Sass.
func (v *valueReader) fromMap(t []token) {
	written := v.sheet.written(t)
	link := ""
	if m := mapCall.FindStringSubmatch(written); m != nil {
		if args := color.Commas(m[1]); strings.HasPrefix(strings.TrimSpace(args[0]), "$") {
			for i, a := range args {
				args[i] = plainKey(a)
			}
			link = strings.Join(args, " ")
		}
	}
	v.compute(t, written, link, "the map that it is taken from is not known, or has nothing of that name")
}

// mapEntry is a value in a map of Sass: what it is referred to by, which is the map and the keys that lead to it, and where it ends.
type mapEntry struct {
	key string
	end int
}

// mapEntries finds the values of a map of Sass between its parentheses, and of the maps in it.
func mapEntries(t []token, key string, into map[int]mapEntry) {
	for len(t) > 0 {
		colon, end := -1, 0
		for ; end < len(t) && t[end].kind != css.CommaToken; end++ {
			switch t[end].kind {
			case css.FunctionToken, css.LeftParenthesisToken:
				end = min(closing(t, end), len(t)-1)
			case css.ColonToken:
				if colon < 0 {
					colon = end
				}
			}
		}
		if colon >= 0 {
			name, value := trimSpace(t[:colon]), trimSpace(t[colon+1:end])
			if n := len(value); len(name) == 1 && n > 0 {
				in := key + " " + plainKey(name[0].text)
				if value[0].kind == css.LeftParenthesisToken && closing(value, 0) == n-1 {
					mapEntries(value[1:n-1], in, into)
				} else {
					into[value[0].at] = mapEntry{in, value[n-1].at + len(value[n-1].text)}
				}
			}
		}
		t = t[min(end+1, len(t)):]
	}
}

// plainKey is a key of a map without quotes.
func plainKey(s string) string { return strings.Trim(strings.TrimSpace(s), "\"'") }

var sassCall = regexp.MustCompile(`^(?:[\w-]+\.)?([a-z-]+)\((.*)\)$`)

var mapCall = regexp.MustCompile(`^map[.-]get\((.*)\)$`)

// inMap follows keys into a map of Sass, which comes first: "(a: #fff, b: (c: red))", "b", "c".
func inMap(args []string) (value string, ok bool) {
	if len(args) < 2 {
		return "", false
	}
	value = args[0]
	for _, key := range args[1:] {
		value = strings.TrimSpace(value)
		if !strings.HasPrefix(value, "(") || !strings.HasSuffix(value, ")") {
			return "", false
		}
		found := false
		for _, entry := range color.Commas(value[1 : len(value)-1]) {
			if k, v, _ := strings.Cut(entry, ":"); plainKey(k) == plainKey(key) {
				value, found = v, true
				break
			}
		}
		if !found {
			return "", false
		}
	}
	return strings.TrimSpace(value), true
}

// preprocessed reads a color of CSS, or one that a preprocessor makes from another: with another alpha, lighter, darker, mixed.
func preprocessed(text string) (color.Typed, error) {
	text = strings.TrimSpace(text)
	c, err := color.ParseCSS(text)
	if err == nil {
		return c, nil
	}
	if m := mapCall.FindStringSubmatch(text); m != nil {
		value, ok := inMap(color.Commas(m[1]))
		if !ok {
			return c, err
		}
		return preprocessed(value)
	}
	m := sassCall.FindStringSubmatch(strings.ToLower(text))
	if m == nil {
		if sum, ok := calculated(text); ok {
			return sum, nil
		}
		return c, err
	}
	args := color.Commas(m[2])
	base, e := preprocessed(args[0])
	if e != nil || base.CMYK != nil || !changed(&base, m[1], args[1:]) {
		return c, err
	}
	return base, nil
}

// changed does to a color what a function of a preprocessor does, which is given more than the color; false for what is not known.
func changed(c *color.Typed, name string, args []string) bool {
	hsl := c.RGB.HSL()
	number := func(i int, otherwise float64) (v float64, ok bool) {
		if i >= len(args) {
			return otherwise, otherwise >= 0
		}
		v, err := fraction(strings.TrimSuffix(strings.TrimSpace(args[i]), "deg"))
		return v, err == nil
	}
	mix := func(a, b color.RGB, w float64) {
		c.RGB = color.RGB{R: a.R*w + b.R*(1-w), G: a.G*w + b.G*(1-w), B: a.B*w + b.B*(1-w)}
	}
	const needed = -1 // there is no amount otherwise
	var amount float64
	ok := true
	switch name {
	case "complement", "grayscale", "greyscale":
	case "adjust", "adjust-color", "change", "change-color", "scale", "scale-color":
		return adjusted(c, strings.TrimSuffix(name, "-color"), args)
	case "mix":
		amount, ok = number(1, 0.5)
	case "invert":
		amount, ok = number(0, 1)
	default:
		amount, ok = number(0, needed)
	}
	if !ok {
		return false
	}
	switch name {
	case "mix":
		if len(args) == 0 {
			return false
		}
		other, err := preprocessed(args[0])
		if err != nil || c.Alpha != 1 || other.Alpha != 1 || amount < 0 || amount > 1 {
			return false
		}
		mix(c.RGB, other.RGB, amount)
		return true
	case "invert":
		mix(color.RGB{R: 1 - c.RGB.R, G: 1 - c.RGB.G, B: 1 - c.RGB.B}, c.RGB, amount)
		return true
	case "tint":
		mix(color.RGB{R: 1, G: 1, B: 1}, c.RGB, amount)
		return c.Alpha == 1
	case "shade":
		mix(color.RGB{}, c.RGB, amount)
		return c.Alpha == 1
	case "rgba", "fade":
		c.Alpha = amount
		return len(args) == 1
	case "transparentize", "fade-out", "fadeout":
		c.Alpha = max(0, c.Alpha-amount)
		return true
	case "opacify", "fade-in", "fadein":
		c.Alpha = min(1, c.Alpha+amount)
		return true
	case "lighten":
		hsl.L = min(1, hsl.L+amount)
	case "darken":
		hsl.L = max(0, hsl.L-amount)
	case "saturate":
		hsl.S = min(1, hsl.S+amount)
	case "desaturate":
		hsl.S = max(0, hsl.S-amount)
	case "spin", "adjust-hue":
		hsl.H += amount
	case "complement":
		hsl.H += 180
	case "grayscale", "greyscale":
		hsl.S = 0
	default:
		return false
	}
	c.RGB = hsl.RGB()
	return true
}

var sum = regexp.MustCompile(`^(#[0-9a-fA-F]{3,6}|[\d.]+)\s*([-+*/])\s*(#[0-9a-fA-F]{3,6}|[\d.]+)$`)

// calculated works out what LESS makes of two colors, or of one and a number: each channel to 255 on its own.
func calculated(text string) (c color.Typed, ok bool) {
	for strings.HasPrefix(text, "(") && strings.HasSuffix(text, ")") {
		text = strings.TrimSpace(text[1 : len(text)-1])
	}
	m := sum.FindStringSubmatch(text)
	if m == nil || !strings.HasPrefix(m[1], "#") && !strings.HasPrefix(m[3], "#") {
		return c, false
	}
	value := func(s string) ([3]float64, bool) {
		if !strings.HasPrefix(s, "#") {
			n, err := strconv.ParseFloat(s, 64)
			return [3]float64{n, n, n}, err == nil
		}
		v, err := color.ParseCSS(s)
		rgb := v.RGB8()
		return [3]float64{float64(rgb.R), float64(rgb.G), float64(rgb.B)}, err == nil && v.Alpha == 1
	}
	if !strings.HasPrefix(m[1], "#") && (m[2] == "-" || m[2] == "/") { // a color cannot be taken from a number
		return c, false
	}
	a, okA := value(m[1])
	b, okB := value(m[3])
	if !okA || !okB {
		return c, false
	}
	var out [3]float64
	for i := range out {
		switch m[2] {
		case "+":
			out[i] = a[i] + b[i]
		case "-":
			out[i] = a[i] - b[i]
		case "*":
			out[i] = a[i] * b[i]
		case "/":
			if b[i] == 0 {
				return c, false
			}
			out[i] = a[i] / b[i]
		}
		out[i] = min(255, max(0, out[i])) / 255
	}
	return color.Typed{RGB: color.RGB{R: out[0], G: out[1], B: out[2]}, Alpha: 1}, true
}

// adjusted changes channels of a color as Sass does: adds to them, scales them towards their ends, or sets them. It is false for what is
// not known.
func adjusted(c *color.Typed, how string, args []string) bool {
	hsl := c.RGB.HSL()
	inHSL, inRGB := false, false
	channel := func(v *float64, amount, most float64) {
		switch how {
		case "adjust":
			*v += amount
		case "change":
			*v = amount
		case "scale":
			if amount > 0 {
				*v += (most - *v) * amount
			} else {
				*v += *v * amount
			}
		}
		if most > 0 {
			*v = min(most, max(0, *v))
		}
	}
	for _, a := range args {
		name, value, named := strings.Cut(strings.TrimSpace(a), ":")
		value = strings.TrimSpace(value)
		percent := strings.HasSuffix(value, "%")
		amount, err := fraction(strings.TrimSuffix(value, "deg"))
		if !named || err != nil || how == "scale" && !percent {
			return false
		}
		switch strings.TrimSpace(name) {
		case "$red", "$green", "$blue":
			at := map[byte]*float64{'r': &c.RGB.R, 'g': &c.RGB.G, 'b': &c.RGB.B}[strings.TrimSpace(name)[1]]
			if !percent {
				amount /= 255
			}
			channel(at, amount, 1)
			inRGB = true
		case "$hue":
			if how == "scale" {
				return false
			}
			channel(&hsl.H, amount, 0)
			inHSL = true
		case "$saturation", "$lightness":
			at := &hsl.S
			if strings.HasPrefix(strings.TrimSpace(name), "$l") {
				at = &hsl.L
			}
			if !percent {
				amount /= 100
			}
			channel(at, amount, 1)
			inHSL = true
		case "$alpha":
			channel(&c.Alpha, amount, 1)
		default: // the whiteness of a space that is named
			return false
		}
	}
	if inHSL && inRGB {
		return false
	}
	if inHSL {
		c.RGB = hsl.RGB()
	}
	return true
}

func fraction(s string) (float64, error) {
	s = strings.TrimSpace(s)
	if a, b, ok := strings.Cut(s, "*"); ok { // as loops have it: "2 * 10%"
		x, err := fraction(a)
		if err != nil {
			return 0, err
		}
		y, err := fraction(b)
		return x * y, err
	}
	number, percent := strings.CutSuffix(s, "%")
	n := color.NumberLength(number)
	if n == 0 || n != len(number) {
		return 0, fmt.Errorf("%q is not a share", s)
	}
	v, err := strconv.ParseFloat(number, 64)
	if err != nil {
		return 0, err
	}
	if percent {
		v /= 100
	}
	return v, nil
}
