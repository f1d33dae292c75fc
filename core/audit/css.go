package audit

import (
	"bytes"
	"fmt"
	"regexp"
	"sort"
	"strings"
	"unicode/utf8"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"

	"huekeep/core/color"
	"huekeep/core/limits"
)

// isCSS goes by the name: a style sheet has no mark of its own. It must be text all the same.
func isCSS(name string, data []byte) bool {
	return strings.HasSuffix(strings.ToLower(name), ".css") && !hasUTF16Mark(data) && utf8.Valid(data) && !bytes.Contains(data, []byte{0})
}

func scanCSS(name string, data []byte, watch Watch) (*Scan, error) {
	s := newSheet(func(line, column int, context string) string {
		return fmt.Sprintf("%s %d:%d, %s", name, line, column, context)
	})
	s.watch = watch
	if err := s.read(data, 1, 1); err != nil {
		return nil, err
	}
	s.resolve()
	if err := s.tally.check(); err != nil {
		return nil, err
	}
	return &Scan{About: plural(bytes.Count(data, []byte("\n"))+1, "line"), Uses: s.tally.uses, Notes: s.notes()}, nil
}

// sheet collects the colors of style rules. Custom properties are known only when all rules have been read, so their
// uses wait until resolve.
type sheet struct {
	watch     Watch // of the whole file, for a style sheet that is one
	tally     tally
	where     func(line, column int, context string) string
	variables map[string][]definition
	waiting   []variableUse
	skipped   []string // values that depend on something unknown
	veiled    int      // uses of colors that are not opaque
	defined   int      // variables with colors
}

type definition struct {
	colors    []color.RGB8
	variables []string
}

type variableUse struct{ name, where string }

func newSheet(where func(line, column int, context string) string) *sheet {
	return &sheet{where: where, variables: map[string][]definition{}}
}

// token is a CSS token with the place where it starts.
type token struct {
	kind         css.TokenType
	text         string
	line, column int
}

// read goes through rules and declarations. A statement is known for one or the other only by what ends it, so the
// tokens up to the next "{", ";" or "}" are held back.
func (s *sheet) read(data []byte, line, column int) error {
	if len(data) > limits.TextBytes {
		return fmt.Errorf("it has %s; of a style sheet, at most %s are read", limits.Size(int64(len(data))), limits.Size(limits.TextBytes))
	}
	lex := css.NewLexer(parse.NewInputBytes(bytes.Clone(data))) // the lexer writes a terminator behind its input
	var held []token
	var selectors []string
	depth := 0
	done := 0
	for n := 1; ; n++ {
		kind, text := lex.Next()
		done += len(text)
		if n%nowAndThen == 0 {
			if err := s.watch.read(done, len(data)); err != nil {
				return err
			}
		}
		if kind == css.ErrorToken {
			break
		}
		t := token{kind, string(text), line, column}
		if n := strings.Count(t.text, "\n"); n > 0 {
			line += n
			column = 1 + utf8.RuneCountInString(t.text[strings.LastIndexByte(t.text, '\n')+1:])
		} else {
			column += utf8.RuneCountInString(t.text)
		}
		switch {
		case kind == css.CommentToken || kind == css.CDOToken || kind == css.CDCToken:
		case kind == css.LeftBraceToken && depth == 0 && !startsVariable(held):
			if len(selectors) < limits.Depth {
				selectors = append(selectors, label(held))
			}
			held = held[:0]
		case depth == 0 && (kind == css.SemicolonToken || kind == css.RightBraceToken):
			s.declaration(held, selectors)
			held = held[:0]
			if s.tally.full {
				return s.tally.check()
			}
			if kind == css.RightBraceToken && len(selectors) > 0 {
				selectors = selectors[:len(selectors)-1]
			}
		default:
			switch kind {
			case css.FunctionToken, css.LeftParenthesisToken, css.LeftBracketToken, css.LeftBraceToken:
				depth++
			case css.RightParenthesisToken, css.RightBracketToken, css.RightBraceToken:
				depth = max(0, depth-1)
			}
			if held = append(held, t); len(held) > limits.Statement {
				return fmt.Errorf("line %d goes on for over %d words without a semicolon or a brace", t.line, limits.Statement)
			}
		}
	}
	s.declaration(held, selectors)
	return nil
}

// startsVariable keeps a brace inside the value of a custom property from opening a rule.
func startsVariable(held []token) bool {
	t := trimSpace(held)
	if len(t) < 2 || t[0].kind != css.CustomPropertyNameToken {
		return false
	}
	rest := trimSpace(t[1:])
	return len(rest) > 0 && rest[0].kind == css.ColonToken
}

func trimSpace(t []token) []token {
	for len(t) > 0 && t[0].kind == css.WhitespaceToken {
		t = t[1:]
	}
	for len(t) > 0 && t[len(t)-1].kind == css.WhitespaceToken {
		t = t[:len(t)-1]
	}
	return t
}

// label is a selector or the head of an at-rule, for a person to find.
func label(held []token) string {
	var b strings.Builder
	for _, t := range trimSpace(held) {
		if t.kind == css.WhitespaceToken {
			b.WriteByte(' ')
		} else {
			b.WriteString(t.text)
		}
	}
	return shorten(b.String(), 60)
}

func shorten(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n-3]) + "..."
	}
	return s
}

func (s *sheet) declaration(held []token, selectors []string) {
	t := trimSpace(held)
	if len(t) < 3 || t[0].kind != css.IdentToken && t[0].kind != css.CustomPropertyNameToken {
		return
	}
	property := t[0].text
	rest := trimSpace(t[1:])
	if len(rest) < 2 || rest[0].kind != css.ColonToken {
		return
	}
	context := property
	for i := len(selectors) - 1; i >= 0; i-- {
		if !strings.HasPrefix(selectors[i], "@") { // the nearest selector says more than the media query around it
			context = selectors[i] + ", " + property
			break
		}
	}
	v := valueReader{sheet: s, context: context, names: takesColor(property)}
	if t[0].kind == css.CustomPropertyNameToken {
		// Whether a word is a color shows only in the whole value: "--x: tan" is one, "--font: Tan Grotesk" is not.
		v.names = len(trimSpace(rest[1:])) == 1
		v.variable = &definition{}
	}
	v.read(trimSpace(rest[1:]))
	if v.variable != nil && (len(v.variable.colors) > 0 || len(v.variable.variables) > 0) {
		if s.defined++; s.defined > limits.FoundPlaces {
			s.tally.full = true
			return
		}
		s.variables[property] = append(s.variables[property], *v.variable)
	}
}

// colorProperties are the properties other than *-color whose value may name a color.
var colorProperties = regexp.MustCompile(`^(-(webkit|moz|ms|o)-)?(color|background|background-image|border|border-(top|right|bottom|left|block|inline)(-(start|end))?|border-image(-source)?|outline|column-rule|box-shadow|text-shadow|text-decoration|text-emphasis|text-stroke|filter|backdrop-filter|fill|stroke|caret|mask|mask-image|list-style|list-style-image|scrollbar-color|accent-color|tap-highlight-color|content)$`)

func takesColor(property string) bool {
	property = strings.ToLower(property)
	return strings.HasSuffix(property, "color") || colorProperties.MatchString(property)
}

// valueReader finds the colors in one value.
type valueReader struct {
	sheet    *sheet
	context  string
	names    bool        // words may be color names here
	variable *definition // set for a custom property
}

func (v *valueReader) read(t []token) {
	for i := 0; i < len(t); i++ {
		switch t[i].kind {
		case css.HashToken:
			if c, err := color.ParseCSS(t[i].text); err == nil {
				v.found(c, t[i].text, t[i])
			}
		case css.IdentToken:
			if v.names {
				if c, ok := color.Named(t[i].text); ok {
					v.found(color.Typed{RGB: c.RGB(), Alpha: 1}, t[i].text, t[i])
				}
			}
		case css.FunctionToken:
			end := closing(t, i)
			v.function(t[i], t[i+1:end], text(t[i:min(end+1, len(t))]))
			i = end
		}
	}
}

// closing returns the index of the parenthesis that ends the function at i, or the end of the tokens.
func closing(t []token, i int) int {
	depth := 0
	for ; i < len(t); i++ {
		switch t[i].kind {
		case css.FunctionToken, css.LeftParenthesisToken:
			depth++
		case css.RightParenthesisToken:
			if depth--; depth == 0 {
				return i
			}
		}
	}
	return len(t)
}

func text(t []token) string {
	var b strings.Builder
	for _, k := range t {
		if k.kind == css.WhitespaceToken {
			b.WriteByte(' ')
		} else {
			b.WriteString(k.text)
		}
	}
	return b.String()
}

var colorFunctions = map[string]bool{"rgb": true, "rgba": true, "hsl": true, "hsla": true, "hwb": true, "lab": true, "lch": true,
	"oklab": true, "oklch": true, "color": true, "device-cmyk": true}

func (v *valueReader) function(at token, body []token, whole string) {
	name := strings.ToLower(strings.TrimSuffix(at.text, "("))
	switch {
	case name == "var":
		args := trimSpace(body)
		if len(args) == 0 || args[0].kind != css.CustomPropertyNameToken {
			return
		}
		if v.variable != nil {
			v.variable.variables = append(v.variable.variables, args[0].text)
		}
		v.sheet.waiting = append(v.sheet.waiting, variableUse{args[0].text, v.sheet.where(at.line, at.column, v.context)})
		v.read(args[1:]) // the fallback
	case colorFunctions[name]:
		c, err := color.ParseCSS(whole)
		if err == nil && c.CMYK == nil {
			v.found(c, whole, at)
			return
		}
		if strings.Contains(whole, "var(") || strings.Contains(whole, "from ") || strings.Contains(whole, "calc(") {
			v.sheet.skipped = append(v.sheet.skipped, v.sheet.where(at.line, at.column, v.context)+": "+shorten(whole, 80))
			v.read(body)
		}
	default:
		// Gradients, color-mix() and the like hold colors of their own; words inside them follow the property.
		v.read(body)
	}
}

func (v *valueReader) found(c color.Typed, value string, at token) {
	if c.Alpha == 0 {
		return // fully transparent shows no color
	}
	if c.Alpha < 1 {
		v.sheet.veiled++
	}
	rgb := c.RGB8()
	if v.variable != nil {
		v.variable.colors = append(v.variable.colors, rgb)
	}
	v.sheet.tally.add(Use{Value: value, RGB: rgb, Alpha: c.Alpha, Where: v.sheet.where(at.line, at.column, v.context)})
}

// resolve counts each var() as a linked use of every color that its custom property can have.
func (s *sheet) resolve() {
	for _, u := range s.waiting {
		colors := map[color.RGB8]bool{}
		s.follow(u.name, map[string]bool{}, colors)
		list := make([]color.RGB8, 0, len(colors))
		for c := range colors {
			list = append(list, c)
		}
		sort.Slice(list, func(i, j int) bool { return list[i].Hex() < list[j].Hex() })
		for _, c := range list {
			s.tally.add(Use{Value: "var(" + u.name + ")", RGB: c, Where: u.where, Linked: true})
		}
	}
	s.waiting = nil
}

func (s *sheet) follow(name string, seen map[string]bool, into map[color.RGB8]bool) {
	if seen[name] || len(seen) > limits.Depth {
		return
	}
	seen[name] = true
	for _, d := range s.variables[name] {
		for _, c := range d.colors {
			into[c] = true
		}
		for _, n := range d.variables {
			s.follow(n, seen, into)
		}
	}
}

// notes says what could not be judged, the first few with their places.
func (s *sheet) notes() []string {
	const some = 5
	var out []string
	if s.veiled > 0 {
		out = append(out, fmt.Sprintf("%s not opaque; the colors are listed and judged as if they were.", pluralAre(s.veiled, "use")))
	}
	if len(s.skipped) == 0 {
		return out
	}
	out = append(out, fmt.Sprintf("%s put together from variables or from another color could not be judged.", plural(len(s.skipped), "value")))
	return append(out, s.skipped[:min(some, len(s.skipped))]...)
}

func pluralAre(n int, what string) string {
	if n == 1 {
		return plural(n, what) + " is"
	}
	return plural(n, what) + " are"
}
