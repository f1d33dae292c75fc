// Package web reads what pages are made of: style sheets and those of preprocessors, drawings, pages and components, scripts, mail,
// Markdown, XML of applications.
package web

import (
	"bytes"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/limits"
	"huekeep/core/recognize"
	"huekeep/core/source"
)

// ScanCSS reads a style sheet (CSS Syntax 3), of preprocessors too.
func ScanCSS(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	data, err := p.Bytes()
	if err != nil {
		return "", err
	}
	if recognize.UTF16(data) {
		return "", fmt.Errorf("it is written in UTF-16; save it as UTF-8 and try again")
	}
	sheet := NewSheet(s, p, name)
	sheet.sass = scanning.Extension(name) == ".scss" || scanning.Extension(name) == ".less"
	from := len(data) - len(recognize.Unmarked(data))
	if err := sheet.readText(string(data[from:]), from, 1, 1); err != nil {
		return "", err
	}
	return audit.Plural(bytes.Count(data, []byte("\n"))+1, "line"), nil
}

// sheet reads style rules in a part.
type sheet struct {
	*scanning.Scanner
	part      *source.Part
	where     func(line, column int, rule, property string) string
	vars      *Variables
	forms     *scanning.Block[cssForm]
	sass      bool // SCSS or LESS: line comments, $ and @ variables
	attribute bool // not in a rule: no links are made there

	text  string       // that is read
	from  int          // where it begins in the part
	start position     // where it begins for a person
	last  position     // that was asked for last
	input *parse.Input // of the lexer; nil until it is needed
	lex   *css.Lexer
	words []token // of the statement that is read
}

// position is a place in the text that is read, for a person to find.
type position struct{ at, line, column int }

// variablesOf are those of a scan.
func variablesOf(s *scanning.Scanner) *Variables {
	return s.Shared[scanning.SheetVariables].(*Variables)
}

// NewSheet reads rules in a part; it has no text yet.
func NewSheet(s *scanning.Scanner, p *source.Part, name string) *sheet {
	return sheetAt(s, p, func(line, column int, rule, property string) string {
		if rule == "" {
			return s.Texts.Place(name, line, column, property, "")
		}
		return s.Texts.Place(name, line, column, rule, property)
	})
}

// sheetAt reads rules that stand where it is told.
func sheetAt(s *scanning.Scanner, p *source.Part, where func(line, column int, rule, property string) string) *sheet {
	return &sheet{Scanner: s, part: p, vars: variablesOf(s), forms: scanning.BlockOf[cssForm](s.Blocks), where: where}
}

// AttributeAt reads values that stand in no rule.
func AttributeAt(s *scanning.Scanner, p *source.Part, where func(line, column int, rule, property string) string) *sheet {
	out := sheetAt(s, p, where)
	out.attribute = true
	return out
}

// token is a CSS token with the place where it starts.
type token struct {
	kind css.TokenType
	text string
	at   int // offset in the text that is read
}

// begin takes a text that begins at an offset of the part, at a line and a column.
func (s *sheet) begin(text string, from, line, column int) {
	s.text, s.from, s.input = text, from, nil
	s.start = position{0, line, column}
	s.last = s.start
}

// position is the line and the column of an offset of the text; most are asked for in order.
func (s *sheet) position(at int) (line, column int) {
	p := s.last
	if at < p.at {
		p = s.start
	}
	piece := s.text[p.at:at]
	if i := strings.LastIndexByte(piece, '\n'); i >= 0 {
		p.line += strings.Count(piece, "\n")
		p.column = 1
		piece = piece[i+1:]
	}
	p.at, p.column = at, p.column+utf8.RuneCountInString(piece)
	s.last = p
	return p.line, p.column
}

// span is a piece of the text in the part.
func (s *sheet) span(from, to int) source.Span {
	return source.Span{Part: s.part, Start: s.from + from, End: s.from + to}
}

// lexed are the tokens of a piece of the text, until the next are asked for.
func (s *sheet) lexed(from, to int) ([]token, error) {
	if s.input == nil {
		s.input = parse.NewInputBytes(append(make([]byte, 0, len(s.text)+1), s.text...)) // the lexer writes a terminator behind its input
		s.lex = css.NewLexer(s.input)
	}
	s.input.Move(from - s.input.Offset())
	s.input.Skip()
	s.words = s.words[:0]
	depth := 0
	for at := from; at < to; {
		kind, text := s.lex.Next()
		if len(text) == 0 {
			break
		}
		end := min(at+len(text), to)
		if kind != css.ErrorToken && kind != css.CommentToken && kind != css.CDOToken && kind != css.CDCToken {
			s.words = append(s.words, token{kind, s.text[at:end], at})
		}
		switch kind {
		case css.FunctionToken, css.LeftParenthesisToken, css.LeftBraceToken, css.LeftBracketToken:
			depth++
		case css.RightParenthesisToken, css.RightBraceToken, css.RightBracketToken:
			depth--
		}
		at = end
		if depth > limits.Depth { // what reads a function reads those in it again
			line, _ := s.position(from)
			return nil, fmt.Errorf("line %d nests functions and brackets over %d deep", line, limits.Depth)
		}
		if len(s.words) > limits.Statement {
			line, _ := s.position(from)
			return nil, fmt.Errorf("line %d goes on for over %d words without a semicolon or a brace", line, limits.Statement)
		}
	}
	return s.words, nil
}

// Read goes through rules and declarations of a span of the part.
func (s *sheet) Read(from, to, line, column int) error {
	whole, err := s.part.Bytes()
	if err != nil {
		return err
	}
	return s.readText(string(whole[from:to]), from, line, column)
}

// splits marks the bytes that may end a statement, hide such an end, or belong to a color.
var splits = func() (t [256]bool) {
	for _, c := range []byte("{}()[];\"'/\\#$@") {
		t[c] = true
	}
	return t
}()

// readText goes through rules and declarations. A statement is known for one or the other only by what ends it: the next "{", ";" or "}"
// outside of strings, comments and brackets (CSS Syntax 3, 5.4). Its words are read only where there may be a color in them, which is
// the smaller part of a style sheet.
func (s *sheet) readText(text string, from, line, column int) error {
	if len(text) > limits.TextBytes {
		return fmt.Errorf("it has %s; of a style sheet, at most %s are read", limits.Size(int64(len(text))), limits.Size(limits.TextBytes))
	}
	if s.sass {
		text = blankLineComments(text)
	}
	s.begin(text, from, line, column)
	var selectors []selector
	depth, begin, watched := 0, 0, 0
	holds := false // something that is no plain word
	for i := 0; i < len(text); {
		c := text[i]
		if !splits[c] {
			i++
			continue
		}
		i++
		switch c {
		case '"', '\'':
			i = quoteEnd(text, i, c)
		case '/':
			if i < len(text) && text[i] == '*' {
				i = commentEnd(text, i-1)
			}
		case '\\':
			i++
		case '#', '$', '@':
			holds = true
		case '(':
			holds = true
			if end := addressEnd(text, i); end > 0 {
				i = end
			} else {
				depth++
			}
		case '[':
			depth++
		case ')', ']':
			depth = max(0, depth-1)
		case '{':
			// of a value, or #{...} of a preprocessor
			if depth > 0 || i > 1 && (text[i-2] == '#' || text[i-2] == '@') || s.isVariable(begin, i-1) {
				depth++
				continue
			}
			head := s.substance(begin, i-1)
			if s.sass && head < i-1 && text[head] == '@' {
				t, err := s.lexed(head, i-1)
				if err != nil {
					return err
				}
				s.atRule(t, selectors)
				s.heads(text[head:i-1], selectors)
			} else if s.sass && holds && s.givesMixin(head, i-1) {
				if err := s.mixin(head, i-1, selectors); err != nil {
					return err
				}
			}
			if len(selectors) < limits.Depth {
				selectors = append(selectors, selector{head: text[head : i-1], class: s.classNames(head, i-1)})
			}
			begin, holds = i, false
		case ';', '}':
			if depth > 0 {
				if c == '}' {
					depth--
				}
				continue
			}
			if err := s.declaration(begin, i-1, holds, selectors); err != nil {
				return err
			}
			begin, holds = i, false
			if c == '}' && len(selectors) > 0 {
				selectors = selectors[:len(selectors)-1]
			}
			if i-watched > 16*scanning.NowAndThen {
				watched = i
				if s.Tally.Full {
					return s.Tally.Check()
				}
				if err := s.Watch.Read(i, len(text)); err != nil {
					return err
				}
			}
		}
	}
	return s.declaration(begin, len(text), holds, selectors)
}

// quoteEnd is the offset behind a string that begins in front of i. One that the line ends is none.
func quoteEnd(text string, i int, quote byte) int {
	for ; i < len(text); i++ {
		switch text[i] {
		case quote:
			return i + 1
		case '\\':
			i++
		case '\n', '\f', '\r':
			return i
		}
	}
	return len(text)
}

// commentEnd is the offset behind a comment.
func commentEnd(text string, i int) int {
	if n := strings.Index(text[i+2:], "*/"); n >= 0 {
		return i + 2 + n + 2
	}
	return len(text)
}

// addressEnd is the offset behind an address that stands without quotes in the parenthesis in front of i, as in url(a.png); 0 if there is
// none.
func addressEnd(text string, i int) int {
	if i < 4 || !strings.EqualFold(text[i-4:i-1], "url") || i > 4 && (scanning.WordByte(text[i-5]) || text[i-5] == '-' ||
		text[i-5] >= 0x80) {
		return 0
	}
	for i < len(text) && space(text[i]) {
		i++
	}
	if i < len(text) && (text[i] == '"' || text[i] == '\'') {
		return 0
	}
	for ; i < len(text); i++ {
		switch text[i] {
		case ')':
			return i + 1
		case '\\':
			i++
		}
	}
	return len(text)
}

// space says whether a byte is white space (CSS Syntax 3, 4.2).
func space(c byte) bool { return c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f' }

// substance is the offset of the first byte of a piece of the text that is neither white space nor comment.
func (s *sheet) substance(from, to int) int {
	for from < to {
		rest := s.text[from:to]
		switch {
		case space(rest[0]):
			from++
		case strings.HasPrefix(rest, "/*"):
			from = min(to, commentEnd(s.text, from))
		case strings.HasPrefix(rest, "<!--"):
			from += 4
		case strings.HasPrefix(rest, "-->"):
			from += 3
		default:
			return from
		}
	}
	return to
}

// startsName says whether a name may begin with a byte.
func startsName(c byte) bool {
	return c|0x20 >= 'a' && c|0x20 <= 'z' || c == '_' || c == '-' || c == '\\' || c >= 0x80
}

// isVariable keeps a brace inside the value of a custom property from opening a rule.
func (s *sheet) isVariable(from, to int) bool {
	from = s.substance(from, to)
	first := from
	for first < to && s.text[first] == '-' {
		first++
	}
	if first < from+2 || first == to || !startsName(s.text[first]) {
		return false
	}
	for from < to && (scanning.WordByte(s.text[from]) || s.text[from] == '-' || s.text[from] >= 0x80 || s.text[from] == '\\') {
		if s.text[from] == '\\' {
			from++
		}
		from++
	}
	from = s.substance(min(from, to), to)
	return from < to && s.text[from] == ':'
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

// selector is what stands in front of a brace, as written until somebody wants to read it.
type selector struct {
	head  string
	label string
	class string   // the first utility class with a color in its name
	names []string // that it gives to what stands in it, once they were asked for
	which string
	asked bool
}

// read is a selector or the head of an at-rule, for a person to find.
func (s *selector) read() string {
	if s.label == "" && s.head != "" {
		s.label = scanning.Shorten(strings.TrimSpace(oneLine(s.head)), 60)
	}
	return s.label
}

// oneLine is a piece of a style sheet without comments and with single blanks.
func oneLine(text string) string {
	plain := true
	for i := 0; i < len(text) && plain; i++ {
		plain = !space(text[i]) || text[i] == ' ' && i+1 < len(text) && text[i+1] != ' '
		plain = plain && (text[i] != '/' || i+1 == len(text) || text[i+1] != '*')
	}
	if plain {
		return text
	}
	var b strings.Builder
	for i := 0; i < len(text); {
		switch c := text[i]; {
		case space(c):
			for i < len(text) && space(text[i]) {
				i++
			}
			b.WriteByte(' ')
		case c == '"' || c == '\'':
			end := quoteEnd(text, i+1, c)
			b.WriteString(text[i:end])
			i = end
		case strings.HasPrefix(text[i:], "/*"):
			i = commentEnd(text, i)
		default:
			b.WriteByte(c)
			i++
		}
	}
	return b.String()
}

// nearest is the selector around a declaration: it says more than a media query around it.
func nearest(selectors []selector) string {
	for i := len(selectors) - 1; i >= 0; i-- {
		if head := selectors[i].head; len(head) > 0 && head[0] != '@' {
			return selectors[i].read()
		}
	}
	return ""
}

// declaration reads a statement that is no rule. Of one that holds plain words only, they are read if they may name a color.
func (s *sheet) declaration(from, to int, holds bool, selectors []selector) error {
	from = s.substance(from, to)
	if from == to {
		return nil
	}
	switch c := s.text[from]; {
	case s.sass && (c == '.' || c == '#') && s.givesMixin(from, to):
		return s.mixin(from, to, selectors)
	case (c == '@' || c == '$' || c == '-' && from+1 < to && s.text[from+1] == '-') && !s.interpolated(from):
	case startsName(c) || s.interpolated(from):
		n := s.colon(from, to)
		if n < 0 {
			return nil
		}
		name := s.text[from : from+n]
		for name != "" && space(name[len(name)-1]) {
			name = name[:len(name)-1]
		}
		if strings.ContainsAny(name, `/\`) { // a comment or an escape, so that the words have to be read
			break
		}
		if s.sass && strings.Contains(name, "{") {
			if !isIdent(interpolation.ReplaceAllString(name, "x")) {
				return nil
			}
		} else if !isIdent(name) {
			return nil
		}
		if isMask(name) {
			return nil
		}
		if holds && s.digits(name, from+n+1, to, selectors) {
			return nil
		}
		takes := s.takes(name)
		if !holds && !takes {
			return nil
		}
		if t, err := s.lexed(from+n+1, to); err != nil {
			return err
		} else if value := trimSpace(t); len(value) > 0 {
			v := valueReader{sheet: s, selectors: selectors, property: name, names: takes, whole: value}
			v.read(value)
		}
		return nil
	default:
		return nil
	}
	t, err := s.lexed(from, to)
	if err != nil {
		return err
	}
	s.declared(t, selectors)
	return nil
}

// isMask says whether a property takes a mask, whose colors say how opaque something is.
func isMask(property string) bool {
	const vendor = "-webkit-"
	if len(property) > len(vendor) && strings.EqualFold(property[:len(vendor)], vendor) {
		property = property[len(vendor):]
	}
	return len(property) >= 4 && strings.EqualFold(property[:4], "mask") && (len(property) == 4 || property[4] == '-')
}

// isIdent says whether a text without escapes is an identifier (CSS Syntax 3, 4.3.9).
func isIdent(s string) bool {
	rest := strings.TrimPrefix(s, "-")
	if rest == "" || !startsName(rest[0]) {
		return false
	}
	for i := range len(s) {
		if !scanning.WordByte(s[i]) && s[i] != '-' && s[i] < 0x80 {
			return false
		}
	}
	return true
}

// takes says whether words are color names in a property.
func (s *sheet) takes(property string) bool {
	takes, known := s.vars.takes[property]
	if !known {
		takes = takesColor(property)
		s.vars.takes[property] = takes
	}
	return takes
}

// digits reads a value that is nothing but six digits, as most colors are.
func (s *sheet) digits(property string, from, to int, selectors []selector) bool {
	for from < to && space(s.text[from]) {
		from++
	}
	for from < to && space(s.text[to-1]) {
		to--
	}
	rgb, ok := SixDigits(s.text[from:to])
	if !ok {
		return false
	}
	s.words = append(s.words[:0], token{css.HashToken, s.text[from:to], from})
	v := valueReader{sheet: s, selectors: selectors, property: property, whole: s.words}
	v.report(audit.Screen(rgb), 1, s.words)
	return true
}

// declared reads the words of a declaration.
func (s *sheet) declared(t []token, selectors []selector) {
	t = trimSpace(t)
	name, rest := variableName(t, s.sass)
	if name == "" {
		if len(t) > 0 && t[0].kind == css.AtKeywordToken {
			s.atRule(t, selectors)
			return
		}
		if len(t) < 3 || t[0].kind != css.IdentToken {
			return
		}
		name, rest = t[0].text, trimSpace(t[1:])
	}
	if len(rest) == 1 && rest[0].kind == css.ColonToken && strings.HasPrefix(name, "--") { // what refers to it shows nothing of its own
		s.define(name, &definition{part: s.part, at: s.from + t[0].at, single: true})
	}
	if len(rest) < 2 || rest[0].kind != css.ColonToken || isMask(name) {
		return
	}
	value := trimSpace(rest[1:])
	v := valueReader{sheet: s, selectors: selectors, property: name, names: s.takes(name)}
	if strings.HasPrefix(name, "--") || strings.HasPrefix(name, "$") || strings.HasPrefix(name, "@") {
		if n := len(value); s.sass && n > 2 && value[n-1].kind == css.IdentToken && value[n-1].text == "default" {
			value = trimSpace(value[:n-2]) // "!default"
		}
		// Whether a word is a color shows only in the whole value: "--x: tan" is one, "--font: Tan Grotesk" is not.
		v.names = len(value) == 1
		v.variable = &definition{text: withinText(selectors, s.written(value)), part: s.part, at: s.from + t[0].at}
		v.defines = name
	}
	v.whole = value
	if n := len(value); s.sass && v.variable != nil && n > 0 && value[0].kind == css.LeftParenthesisToken && closing(value, 0) == n-1 {
		v.entries = map[int]mapEntry{}
		mapEntries(value[1:n-1], name, v.entries)
	}
	v.read(value)
	if d := v.variable; d != nil {
		top := len(selectors) == 0
		if len(selectors) == 1 {
			head := selectors[0].read()
			top = head == ":root" || head == "html" || strings.HasPrefix(head, "@theme")
		}
		d.usable = top && len(d.colors) == 1 && v.lone
		d.single = v.single
		s.define(name, d)
	}
}

// define keeps what a variable is given.
func (s *sheet) define(name string, d *definition) {
	if s.vars.count++; s.vars.count > limits.FoundPlaces {
		s.Tally.Full = true
		return
	}
	s.vars.defined[name] = append(s.vars.defined[name], d)
}

// variableName is the name of the variable that a statement defines, with what follows it; empty for others.
func variableName(t []token, sass bool) (string, []token) {
	if len(t) == 0 {
		return "", nil
	}
	if name, n := customName(t); n > 0 {
		return name, trimSpace(t[n:])
	}
	switch {
	case sass && t[0].kind == css.DelimToken && t[0].text == "$" && len(t) > 1 && t[1].kind == css.IdentToken:
		return "$" + t[1].text, trimSpace(t[2:])
	case sass && t[0].kind == css.AtKeywordToken:
		rest := trimSpace(t[1:])
		if len(rest) > 1 && rest[0].kind == css.ColonToken && t[0].text != "@media" && t[0].text != "@page" && t[0].text != "@supports" {
			return t[0].text, rest
		}
	}
	return "", nil
}

// customName is the name of a custom property with which words begin, and how many of them it is: the lexer takes further dashes in front
// for words of their own.
func customName(t []token) (name string, n int) {
	for n < len(t) && t[n].kind == css.DelimToken && t[n].text == "-" {
		n++
	}
	if n == len(t) || t[n].kind != css.CustomPropertyNameToken {
		return "", 0
	}
	return strings.Repeat("-", n) + t[n].text, n + 1
}

// atRule reads the colors that stand in the head of an at-rule: what is given to a mixin, returned, applied.
func (s *sheet) atRule(held []token, selectors []selector) {
	t := trimSpace(held)
	if len(t) < 2 || t[0].kind != css.AtKeywordToken {
		return
	}
	switch t[0].text {
	case "@use", "@forward", "@mixin", "@function":
		if !s.sass {
			return
		}
		for i, k := range t { // the variables of a module, or what is taken where nothing is given
			if k.kind == css.FunctionToken || k.kind == css.LeftParenthesisToken {
				for _, given := range commas(t[i+1 : closing(t, i)]) {
					s.declared(given, selectors)
				}
				return
			}
		}
	case "@include", "@return", "@apply", "@each", "@if", "@else":
		if rest := trimSpace(t[1:]); s.sass && t[0].text == "@return" {
			s.returned(s.written(rest), selectors)
		} else if s.sass && t[0].text == "@include" {
			s.includes(s.written(rest), selectors)
		}
		v := valueReader{sheet: s, selectors: selectors, property: t[0].text}
		v.read(trimSpace(t[1:]))
	}
}

// commas splits tokens at the commas outside of parentheses.
func commas(t []token) (out [][]token) {
	from := 0
	for i := 0; i < len(t); i++ {
		switch t[i].kind {
		case css.FunctionToken, css.LeftParenthesisToken:
			i = closing(t, i)
		case css.CommaToken:
			out = append(out, t[from:i])
			from = i + 1
		}
	}
	return append(out, t[min(from, len(t)):])
}

// colorProperties are the properties other than *-color whose value may name a color, without a vendor's prefix.
var colorProperties = func() map[string]bool {
	out := map[string]bool{}
	for _, p := range strings.Fields(`background background-image border border-image border-image-source outline column-rule box-shadow text-shadow
		text-decoration text-emphasis text-stroke filter backdrop-filter fill stroke caret list-style list-style-image content`) {
		out[p] = true
	}
	for _, side := range strings.Fields("top right bottom left block block-start block-end inline inline-start inline-end") {
		out["border-"+side] = true
	}
	return out
}()

func takesColor(property string) bool {
	property = strings.ToLower(property)
	if strings.HasSuffix(property, "color") {
		return true
	}
	if rest, ok := strings.CutPrefix(property, "-"); ok {
		for _, vendor := range []string{"webkit-", "moz-", "ms-", "o-"} {
			if name, ok := strings.CutPrefix(rest, vendor); ok {
				property = name
				break
			}
		}
	}
	return colorProperties[property]
}

// onlyColor says whether nothing but a color can be the value of a property.
func onlyColor(property string) bool {
	property = strings.ToLower(property)
	return strings.HasSuffix(property, "color") && property != "scrollbar-color" || property == "fill" || property == "stroke"
}

// valueReader finds the colors in one value.
type valueReader struct {
	sheet     *sheet
	selectors []selector // around it
	property  string
	names     bool        // words may be color names here
	variable  *definition // set for a definition
	defines   string
	whole     []token
	entries   map[int]mapEntry // of a map of Sass, by where their values begin
	lone      bool             // the whole value is one color
	single    bool             // it is one color, one variable or one function that makes a color
	fade      float64          // how opaque something else makes it; 0 counts as 1
}

func (v *valueReader) read(t []token) {
	if v.sheet.sass && (v.variable != nil || v.names || onlyColor(v.property)) && arithmetic(t) {
		v.compute(t, v.sheet.written(t), "", "it is worked out by the preprocessor, and not here")
		return
	}
	for i := 0; i < len(t); i++ {
		k := &t[i]
		switch k.kind {
		case css.HashToken:
			if c, err := color.ParseCSS(k.text); err == nil {
				v.found(c, t[i:i+1])
			}
		case css.IdentToken:
			if i > 0 && t[i-1].kind == css.DelimToken && t[i-1].text == "$" && v.sheet.sass {
				v.variableUse("$"+k.text, t[i-1:i+1])
			} else if v.names {
				if c, ok := color.Named(k.text); ok {
					v.found(color.Typed{RGB: c.RGB(), Alpha: 1}, t[i:i+1])
				} else if systemColors[strings.ToLower(k.text)] {
					u := audit.Use{Why: "it is a color of the system that it is shown on"}
					v.place(&u, t[i:i+1], k.text)
					v.sheet.Add(&u)
				}
			}
		case css.StringToken:
			if v.sheet.sass && i > 0 && t[i-1].kind == css.DelimToken && t[i-1].text == "~" && !v.quoted(*k) && onlyColor(v.property) {
				v.compute(t[i-1:i+1], v.sheet.written(t[i-1:i+1]), "", "it is put together by the preprocessor")
			}
		case css.AtKeywordToken:
			switch {
			case !v.sheet.sass:
			case i > 0 && t[i-1].kind == css.DelimToken && t[i-1].text == "@":
				if onlyColor(v.property) {
					u := audit.Use{Why: "it is the variable that another one names"}
					v.place(&u, t[i-1:i+1], v.sheet.written(t[i-1:i+1]))
					v.sheet.Add(&u)
				}
			default:
				v.variableUse(k.text, t[i:i+1])
			}
		case css.URLToken:
			v.url(*k)
		case css.FunctionToken:
			end := closing(t, i)
			from := i
			// of a module
			if v.sheet.sass && i > 1 && t[i-1].text == "." && t[i-2].kind == css.IdentToken && t[i-2].at+len(t[i-2].text)+1 == k.at {
				from = i - 2
			}
			v.function(t[from:min(end+1, len(t))], t[i+1:end], from < i)
			i = end
		}
	}
}

// systemColors are the colors of whatever system a page is shown on (CSS Color 4, 6.2 and appendix A), but for one that is a property's
// name.
var systemColors = func() map[string]bool {
	out := map[string]bool{}
	for _, name := range strings.Fields(`accentcolor accentcolortext activetext buttonborder buttonface buttontext canvas canvastext field fieldtext graytext
		highlight highlighttext linktext mark marktext selecteditem selecteditemtext visitedtext activeborder activecaption appworkspace buttonhighlight
		buttonshadow captiontext inactiveborder inactivecaption inactivecaptiontext infobackground infotext menu menutext scrollbar threeddarkshadow
		threedface threedhighlight threedlightshadow threedshadow window windowframe windowtext`) {
		out[name] = true
	}
	return out
}()

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

func isColorFunction(name string) bool {
	switch name {
	case "rgb", "rgba", "hsl", "hsla", "hwb", "lab", "lch", "oklab", "oklch", "color", "device-cmyk", "color-mix":
		return true
	}
	return false
}

// holdsColors says whether a function in the place of a color is none itself, but has one in it or beside it.
func holdsColors(name string) bool {
	switch name {
	case "light-dark", "if", "media", "supports", "style", "url", "icc-color":
		return true
	}
	return false
}

// listsColors says whether a function in the value of a variable comes to the colors in it: those of style sheets that paint, and those of
// preprocessors that put lists together.
func listsColors(name string) bool {
	switch name {
	case "map-merge", "merge", "join", "append", "zip", "nth", "set-nth", "map-deep-merge", "deep-merge", "list", "image-set",
		"-webkit-image-set", "cross-fade", "drop-shadow",
		"calc", "min", "max", "clamp", "env", "repeat", "minmax", "format", "local", "cubic-bezier", "translate", "rotate", "image", "e",
		"unquote", "quote", "unit", "%":
		return true
	}
	return strings.HasSuffix(name, "gradient") || holdsColors(name)
}

// function reads a function with its arguments; in a preprocessor it may be one of a module, whose name and a period stand before its own.
func (v *valueReader) function(whole, body []token, module bool) {
	name := strings.ToLower(strings.TrimSuffix(whole[0].text, "("))
	if module {
		name = strings.ToLower(strings.TrimSuffix(whole[2].text, "("))
	}
	written := v.sheet.written(whole)
	elsewhere := strings.TrimSuffix(whole[0].text, "(") + "() is worked out elsewhere"
	if module {
		elsewhere = strings.TrimSuffix(whole[2].text, "(") + "() is worked out elsewhere"
	}
	if given := trimSpace(body); v.sheet.sass && len(given) == 1 && given[0].kind == css.StringToken && (name == "e" || name == "color") &&
		v.quoted(given[0]) {
		return
	}
	switch {
	case name == "counter" || name == "counters": // their words are names
	case name == "var":
		args := trimSpace(body)
		name, n := customName(args)
		if n == 0 {
			return
		}
		v.variableUse(name, whole)
		v.read(args[n:]) // the fallback
	case module && name == "get" && whole[0].text == "map", v.sheet.sass && name == "map-get":
		v.fromMap(whole)
	case module && builtIn[whole[0].text] && !isSassFunction(name) && !isColorFunction(name):
		v.read(body)
	case isColorFunction(name):
		if _, _, _, _, open := reference(written); !open {
			if c, err := color.ParseCSS(written); err == nil {
				v.found(c, whole)
				return
			}
		}
		v.compute(whole, written, "", "")
	case v.sheet.sass && isSassFunction(name) && (module || v.changesColor(name, body)):
		v.compute(whole, written, "", name+"() is worked out by the preprocessor, and not here")
	case v.sheet.sass && v.variable != nil &&
		slices.ContainsFunc(body, func(t token) bool { return t.kind == css.ColonToken }): // it is given a map
		v.read(body)
	case onlyColor(v.property) && v.variable == nil && !holdsColors(name), v.sheet.sass && v.variable != nil &&
		!listsColors(name): // somebody's own, or of a later standard
		v.compute(whole, written, "", elsewhere)
		if module { // which may be there to put names together
			v.doubt()
		}
	case v.sheet.sass && v.variable == nil && takesColor(v.property) && !listsColors(name) && !ofGradients[name]:
		v.compute(whole, written, "", elsewhere)
		v.doubt() // it may come to something else that the property takes
	default:
		// Gradients, light-dark() and the like hold colors of their own; words inside them follow the property.
		v.read(body)
	}
}

// builtIn are the modules that Sass has itself and that make no colors.
var builtIn = map[string]bool{"math": true, "list": true, "map": true, "string": true, "meta": true, "selector": true}

// ofGradients are the functions that only stand in gradients of older browsers, and those of CSS that come to no color.
var ofGradients = map[string]bool{"from": true, "to": true, "color-stop": true, "attr": true, "element": true, "paint": true,
	"linear": true, "steps": true}

func (v *valueReader) at(t token) string {
	line, column := v.sheet.position(t.at)
	return v.sheet.where(line, column, nearest(v.selectors), v.property)
}

// written is a run of tokens as it stands in the text, on one line.
func (s *sheet) written(t []token) string {
	if len(t) == 0 {
		return ""
	}
	last := t[len(t)-1]
	return oneLine(s.text[t[0].at : last.at+len(last.text)])
}

// place makes a use of a run of tokens.
func (v *valueReader) place(u *audit.Use, t []token, written string) {
	s, last := v.sheet, t[len(t)-1]
	u.Line, u.Column = s.position(t[0].at)
	u.Value, u.Where = scanning.Shorten(written, 120), v.at(t[0])
	u.At = s.Spans.Run(s.span(t[0].at, last.at+len(last.text)))
	u.Form = s.forms.One(cssForm{s, u.At[0].Start, v.defines != ""})
	for i := len(v.selectors) - 1; i >= 0; i-- {
		if class := v.selectors[i].class; class != "" {
			u.More = &audit.More{Class: class}
			break
		}
	}
}

func (v *valueReader) found(c color.Typed, t []token) {
	if c.Alpha > 0 { // what is fully transparent shows no color
		v.report(audit.ColorOf(c), c.Alpha, t)
	}
}

// report reports a color that stands in a run of tokens.
func (v *valueReader) report(c audit.Color, alpha float64, t []token) {
	u := audit.Use{Color: c, Alpha: alpha}
	v.place(&u, t, v.sheet.written(t))
	if v.fade > 0 {
		u.Alpha *= v.fade
	}
	if _, inks := u.Build(); inks {
		u.Form = form.Func(WriteDeviceCMYK)
	}
	if d := v.variable; d != nil {
		d.colors = append(d.colors, u.Color)
		v.lone = v.lone || len(t) == len(v.whole)
		u.Define = v.key(t)
	}
	v.sheet.Add(&u)
}

// key is what others refer to a run of tokens by: the variable whose whole value it is, or the entry of a map; empty for others.
func (v *valueReader) key(t []token) string {
	if v.variable == nil {
		return ""
	}
	if len(t) == len(v.whole) {
		v.single = true
		return v.defines
	}
	last := t[len(t)-1]
	if e, ok := v.entries[t[0].at]; ok && e.end == last.at+len(last.text) {
		return e.key
	}
	return ""
}

// WriteDeviceCMYK keeps the percent signs of device-cmyk(), or the numbers from 0 to 1.
func WriteDeviceCMYK(old string, to form.Paint) (string, error) {
	if strings.Contains(old, "%") || !strings.HasPrefix(strings.ToLower(old), "device") {
		return form.Inks(100).Write(old, to)
	}
	return form.Inks(1).Write(old, to)
}

func (v *valueReader) variableUse(name string, t []token) {
	if v.variable != nil {
		v.variable.variables = append(v.variable.variables, within(v.selectors, name))
	}
	u := audit.Use{Link: name, Define: v.key(t)}
	v.place(&u, t, v.sheet.written(t))
	u.Where = v.sheet.Prefix + u.Where
	v.sheet.vars.wait(variableUse{use: u, name: name, must: onlyColor(v.property) && !v.given(name), tally: v.sheet.Tally})
}

// given says whether a variable is what a mixin, a function or a loop around is given: its colors are where that is done.
func (v *valueReader) given(name string) bool {
	for i := range v.selectors {
		head := strings.TrimSpace(v.selectors[i].head)
		if !strings.HasPrefix(head, "@") {
			continue
		}
		for _, rule := range [...]string{"@mixin", "@function", "@each", "@for"} {
			if strings.HasPrefix(head, rule) && holdsWord(head, name) {
				return true
			}
		}
	}
	return false
}

// holdsWord says whether a text has a name in it that goes on on neither side.
func holdsWord(text, name string) bool {
	for {
		i := strings.Index(text, name)
		if i < 0 {
			return false
		}
		if end := i + len(name); end == len(text) || !scanning.WordByte(text[end]) && text[end] != '-' {
			return true
		}
		text = text[i+len(name):]
	}
}

// compute keeps a value that is made from variables or from another color until they are known; link is the key of what it is taken from
// as it is, or empty.
func (v *valueReader) compute(t []token, written, link, why string) {
	text := withinText(v.selectors, written)
	if v.variable != nil {
		v.variable.computed = append(v.variable.computed, text)
	}
	if v.lone = false; inFunction(v.selectors) {
		return
	}
	u := audit.Use{Link: link, Define: v.key(t)}
	if link == "" {
		_, _, _, _, u.Worked = reference(written)
	}
	v.place(&u, t, written)
	u.Where = v.sheet.Prefix + u.Where
	v.sheet.vars.wait(variableUse{use: u, form: u.Form, text: text, why: why, tally: v.sheet.Tally, doubtful: !v.names &&
		!takesColor(v.property)})
}

// doubt has the value that was kept last come to nothing where it has nothing to do with colors.
func (v *valueReader) doubt() {
	if w := v.sheet.vars.waiting; len(w) > 0 {
		w[len(w)-1].doubtful = true
	}
}

// cssForm writes a color of a style sheet, as a reference to a variable where one has it.
type cssForm struct {
	sheet   *sheet
	at      int
	defines bool
}

func (f *cssForm) Write(old string, to form.Paint) (string, error) {
	if to.Link != nil && !f.defines && !f.sheet.attribute {
		for _, name := range scanning.Sorted(f.sheet.vars.defined) {
			list := f.sheet.vars.defined[name]
			if len(list) != 1 || !list[0].usable || !to.Link(name) {
				continue
			}
			if strings.HasPrefix(name, "--") {
				return "var(" + name + ")", nil
			}
			if list[0].part == f.sheet.part && list[0].at < f.at {
				return name, nil
			}
		}
	}
	return form.CSS.Write(old, to)
}
