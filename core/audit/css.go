package audit

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"

	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/limits"
	"huekeep/core/press"
	"huekeep/core/recognize"
	"huekeep/core/source"
)

func scanCSS(s *scanner, p *source.Part, name string) (string, error) {
	data, err := p.Bytes()
	if err != nil {
		return "", err
	}
	if recognize.UTF16(data) {
		return "", fmt.Errorf("it is written in UTF-16; save it as UTF-8 and try again")
	}
	sheet := s.sheet(p, name)
	sheet.sass = extensionOf(name) == ".scss" || extensionOf(name) == ".less"
	from := len(data) - len(recognize.Unmarked(data))
	if err := sheet.readText(string(data[from:]), from, 1, 1); err != nil {
		return "", err
	}
	return plural(bytes.Count(data, []byte("\n"))+1, "line"), nil
}

// variables are what the style sheets of a scan define, in all of its files: a page and its sheets belong together. A use of one is known
// only when all have been read, so it waits until then.
type variables struct {
	defined map[string][]*definition
	waiting []*variableUse
	uses    block[variableUse]
	count   int
	takes   map[string]bool // whether a property takes a color
	worked  map[string][]color.Typed
}

func newVariables() *variables {
	return &variables{defined: map[string][]*definition{}, takes: map[string]bool{}, worked: map[string][]color.Typed{}}
}

// wait keeps a use until all variables are known.
func (v *variables) wait(u variableUse) { v.waiting = append(v.waiting, v.uses.one(u)) }

// definition is one value that a variable is given.
type definition struct {
	text      string // the whole value
	colors    []Color
	variables []string
	computed  []string
	part      *source.Part
	at        int
	usable    bool // a link may be made to it: one color, for the whole document
}

// variableUse is a place whose color depends on variables.
type variableUse struct {
	use   Use
	name  string // of the one that it is; empty for what is computed
	text  string // of that, as it is written on one line
	why   string // that cannot be worked out; empty for what the grammar says
	must  bool   // nothing but a color can stand there
	tally *tally
}

// sheet reads style rules in a part.
type sheet struct {
	*scanner
	part      *source.Part
	where     func(line, column int, rule, property string) string
	vars      *variables
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

func (s *scanner) sheet(p *source.Part, name string) *sheet {
	return &sheet{scanner: s, part: p, vars: s.vars, where: func(line, column int, rule, property string) string {
		if rule == "" {
			return s.texts.place(name, line, column, property, "")
		}
		return s.texts.place(name, line, column, rule, property)
	}}
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
	for at := from; at < to; {
		kind, text := s.lex.Next()
		if len(text) == 0 {
			break
		}
		end := min(at+len(text), to)
		if kind != css.ErrorToken && kind != css.CommentToken && kind != css.CDOToken && kind != css.CDCToken {
			s.words = append(s.words, token{kind, s.text[at:end], at})
		}
		at = end
		if len(s.words) > limits.Statement {
			line, _ := s.position(from)
			return nil, fmt.Errorf("line %d goes on for over %d words without a semicolon or a brace", line, limits.Statement)
		}
	}
	return s.words, nil
}

// read goes through rules and declarations of a span of the part.
func (s *sheet) read(from, to, line, column int) error {
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
			if depth > 0 || i > 1 && (text[i-2] == '#' || text[i-2] == '@') || s.isVariable(begin, i-1) { // of a value, or #{...} of a preprocessor
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
			} else if s.sass && holds && s.givesMixin(head, i-1) {
				if err := s.mixin(head, i-1, selectors); err != nil {
					return err
				}
			}
			if len(selectors) < limits.Depth {
				selectors = append(selectors, selector{head: text[head : i-1]})
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
			if i-watched > 16*nowAndThen {
				watched = i
				if s.tally.full {
					return s.tally.check()
				}
				if err := s.Watch.read(i, len(text)); err != nil {
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

// addressEnd is the offset behind an address that stands without quotes in the parenthesis in front of i, as in url(a.png); 0 if there is none.
func addressEnd(text string, i int) int {
	if i < 4 || !strings.EqualFold(text[i-4:i-1], "url") || i > 4 && (wordByte(text[i-5]) || text[i-5] == '-' || text[i-5] >= 0x80) {
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
	for from < to && (wordByte(s.text[from]) || s.text[from] == '-' || s.text[from] >= 0x80 || s.text[from] == '\\') {
		if s.text[from] == '\\' {
			from++
		}
		from++
	}
	from = s.substance(min(from, to), to)
	return from < to && s.text[from] == ':'
}

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
}

// read is a selector or the head of an at-rule, for a person to find.
func (s *selector) read() string {
	if s.label == "" && s.head != "" {
		s.label = shorten(strings.TrimSpace(oneLine(s.head)), 60)
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
		if !wordByte(s[i]) && s[i] != '-' && s[i] < 0x80 {
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
	rgb, ok := sixDigits(s.text[from:to])
	if !ok {
		return false
	}
	s.words = append(s.words[:0], token{css.HashToken, s.text[from:to], from})
	v := valueReader{sheet: s, selectors: selectors, property: property, whole: s.words}
	v.report(Screen(rgb), 1, s.words)
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
		v.variable = &definition{text: s.written(value), part: s.part, at: s.from + t[0].at}
		v.defines = name
	}
	v.whole = value
	v.read(value)
	if d := v.variable; d != nil {
		if s.vars.count++; s.vars.count > limits.FoundPlaces {
			s.tally.full = true
			return
		}
		top := len(selectors) == 0
		if len(selectors) == 1 {
			head := selectors[0].read()
			top = head == ":root" || head == "html" || strings.HasPrefix(head, "@theme")
		}
		d.usable = top && len(d.colors) == 1 && v.lone
		s.vars.defined[name] = append(s.vars.defined[name], d)
	}
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

// customName is the name of a custom property with which words begin, and how many of them it is: the lexer takes further dashes in front for
// words of their own.
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
	case "@include", "@return", "@apply", "@each", "@mixin", "@function", "@if", "@else":
		v := valueReader{sheet: s, selectors: selectors, property: t[0].text}
		v.read(trimSpace(t[1:]))
	}
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
	lone      bool    // the whole value is one color
	fade      float64 // how opaque something else makes it; 0 counts as 1
}

func (v *valueReader) read(t []token) {
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
					u := Use{Why: "it is a color of the system that it is shown on"}
					v.place(&u, t[i:i+1], k.text)
					v.sheet.add(&u)
				}
			}
		case css.StringToken:
			if v.sheet.sass && i > 0 && t[i-1].kind == css.DelimToken && t[i-1].text == "~" {
				v.quoted(*k)
			}
		case css.AtKeywordToken:
			if v.sheet.sass {
				v.variableUse(k.text, t[i:i+1])
			}
		case css.URLToken:
			v.url(*k)
		case css.FunctionToken:
			end := closing(t, i)
			if v.sheet.sass && i > 1 && k.text == "get(" && t[i-1].text == "." && t[i-2].text == "map" {
				v.fromMap(t[i-2 : min(end+1, len(t))])
				i = end
				continue
			}
			v.function(t[i:min(end+1, len(t))], t[i+1:end])
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

// sassFunctions change a color in a preprocessor.
func isSassFunction(name string) bool {
	name = strings.TrimPrefix(name, "color.")
	switch name {
	case "lighten", "darken", "saturate", "desaturate", "mix", "adjust", "scale", "change", "adjust-color", "scale-color", "change-color", "fade", "fadein", "fadeout",
		"fade-in", "fade-out", "transparentize", "opacify", "tint", "shade", "spin", "adjust-hue", "complement", "grayscale", "greyscale", "invert", "contrast":
		return true
	}
	return false
}

func (v *valueReader) function(whole, body []token) {
	name := strings.ToLower(strings.TrimSuffix(whole[0].text, "("))
	written := v.sheet.written(whole)
	if given := trimSpace(body); v.sheet.sass && len(given) == 1 && given[0].kind == css.StringToken && (name == "e" || name == "color") && v.quoted(given[0]) {
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
	case isColorFunction(name):
		if _, _, _, _, open := reference(written); !open {
			if c, err := color.ParseCSS(written); err == nil {
				v.found(c, whole)
				return
			}
		}
		v.compute(whole, written, "")
	case v.sheet.sass && name == "map-get":
		v.fromMap(whole)
	case v.sheet.sass && isSassFunction(name):
		v.compute(whole, written, name+"() is worked out by the preprocessor, and not here")
	default:
		// Gradients, light-dark() and the like hold colors of their own; words inside them follow the property.
		v.read(body)
	}
}

// fromMap reads a value that is taken from a map of Sass.
func (v *valueReader) fromMap(t []token) {
	v.compute(t, v.sheet.written(t), "the map that it is taken from is not known, or has nothing of that name")
}

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
func (v *valueReader) place(u *Use, t []token, written string) {
	s, last := v.sheet, t[len(t)-1]
	u.Line, u.Column = s.position(t[0].at)
	u.Value, u.Where = shorten(written, 120), v.at(t[0])
	u.At = s.spans.run(s.span(t[0].at, last.at+len(last.text)))
	u.Form = s.css.one(cssForm{s, u.At[0].Start, v.defines != ""})
}

func (v *valueReader) found(c color.Typed, t []token) {
	if c.Alpha > 0 { // what is fully transparent shows no color
		v.report(colorOf(c), c.Alpha, t)
	}
}

// report reports a color that stands in a run of tokens.
func (v *valueReader) report(c Color, alpha float64, t []token) {
	u := Use{Color: c, Alpha: alpha}
	v.place(&u, t, v.sheet.written(t))
	if v.fade > 0 {
		u.Alpha *= v.fade
	}
	if _, inks := u.Build(); inks {
		u.Form = form.Func(writeDeviceCMYK)
	}
	if d := v.variable; d != nil {
		d.colors = append(d.colors, u.Color)
		if len(t) == len(v.whole) {
			u.Define, v.lone = v.defines, true
		}
	}
	v.sheet.add(&u)
}

// writeDeviceCMYK keeps the percent signs of device-cmyk(), or the numbers from 0 to 1.
func writeDeviceCMYK(old string, to form.Paint) (string, error) {
	if strings.Contains(old, "%") || !strings.HasPrefix(strings.ToLower(old), "device") {
		return form.Inks(100).Write(old, to)
	}
	return form.Inks(1).Write(old, to)
}

// colorOf is a color as somebody wrote it; a build is seen on the coated press.
func colorOf(c color.Typed) Color {
	if c.CMYK != nil {
		return InksColor(*c.CMYK)
	}
	return Screen(c.RGB8())
}

// InksColor is a build, looked at on the coated press.
func InksColor(b color.CMYK) Color {
	return InColor(press.Coated().Lab(b).RGB().RGB8(), Ink{CMYK: b})
}

func (v *valueReader) variableUse(name string, t []token) {
	if v.variable != nil {
		v.variable.variables = append(v.variable.variables, name)
	}
	u := Use{Link: name}
	v.place(&u, t, v.sheet.written(t))
	u.Where = v.sheet.prefix + u.Where
	v.sheet.vars.wait(variableUse{use: u, name: name, must: onlyColor(v.property), tally: v.sheet.tally})
}

// compute keeps a value that is made from variables or from another color until they are known.
func (v *valueReader) compute(t []token, written, why string) {
	if v.variable != nil {
		v.variable.computed = append(v.variable.computed, written)
	}
	u := Use{}
	v.place(&u, t, written)
	if len(t) == len(v.whole) && v.variable != nil {
		u.Define = v.defines
	}
	u.Where = v.sheet.prefix + u.Where
	v.sheet.vars.wait(variableUse{use: u, text: written, why: why, tally: v.sheet.tally})
	v.lone = false
}

// url reads a drawing in a data URI.
func (v *valueReader) url(t token) {
	raw := strings.TrimSuffix(strings.TrimPrefix(t.text, t.text[:4]), ")")
	from := 4 + len(raw) - len(strings.TrimLeft(raw, " \t\r\n\"'"))
	body := strings.Trim(raw, " \t\r\n\"'")
	if !strings.HasPrefix(body, "data:") {
		return
	}
	at := v.sheet.from + t.at + from
	v.sheet.dataURI(v.sheet.part, at, at+len(body), body, v.at(t))
}

// dataURI scans what stands in a data URI of a part.
func (s *scanner) dataURI(p *source.Part, from, to int, uri, place string) {
	head, body, _ := strings.Cut(uri, ",")
	packed := strings.HasSuffix(head, ";base64")
	var data []byte
	var err error
	if packed {
		data, err = base64.StdEncoding.DecodeString(strings.Join(strings.Fields(body), ""))
	} else {
		var text string
		text, err = url.PathUnescape(body)
		data = []byte(text)
	}
	if err != nil {
		s.unread(place, fmt.Errorf("what is embedded there is not a valid data URI"))
		return
	}
	name := "embedded"
	if mime := strings.TrimPrefix(head, "data:"); strings.HasPrefix(mime, "image/svg") {
		name = "drawing"
	} else if strings.HasPrefix(mime, "image/") {
		name = "picture"
	} else if strings.HasPrefix(mime, "font/") || strings.Contains(mime, "font") {
		return // it has no colors of its own
	}
	start := to - len(body)
	in, err := p.Within(name, start, to, data, func(data []byte) ([]byte, error) {
		if packed {
			return []byte(base64.StdEncoding.EncodeToString(data)), nil
		}
		return []byte(escapeURI(string(data), body)), nil
	})
	if err != nil {
		s.unread(place, err)
		return
	}
	inner := *s
	inner.prefix += place + " > "
	if err := inner.embeddedIn(in, name); err != nil {
		s.unread(place, err)
	}
}

// embeddedIn scans a part under a name whose kind its content says.
func (s *scanner) embeddedIn(p *source.Part, name string) error {
	data, _ := p.Bytes()
	k, _, err := kindOf(name, data)
	if err != nil {
		return fmt.Errorf("what is embedded there is in a format that is not read")
	}
	s.inside = true
	_, err = k.scan(s, p, name)
	return err
}

// escapeURI escapes what was escaped in the text that stood there, and what must be.
func escapeURI(data, was string) string {
	var b strings.Builder
	for i := range len(data) {
		c := data[i]
		switch {
		case c == '%' || c == '#' || c < ' ' || c >= 0x7f:
			fmt.Fprintf(&b, "%%%02X", c)
		case !(c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9') && strings.IndexByte(was, c) < 0:
			fmt.Fprintf(&b, "%%%02X", c)
		default:
			b.WriteByte(c)
		}
	}
	return b.String()
}

// cssForm writes a color of a style sheet, as a reference to a variable where one has it.
type cssForm struct {
	sheet   *sheet
	at      int
	defines bool
}

func (f *cssForm) Write(old string, to form.Paint) (string, error) {
	if to.Link != nil && !f.defines && !f.sheet.attribute {
		for _, name := range sorted(f.sheet.vars.defined) {
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
	return color.Rewrite(old, to.RGB), nil
}

// resolve reports every place that waited: a reference as a linked use of every color that its variable can have, and what is computed by
// what comes out.
func (v *variables) resolve() {
	type can struct {
		colors []Color
		known  bool
	}
	each := map[string]can{} // of each variable; they are referred to again and again
	for _, w := range v.waiting {
		if w.name == "" {
			v.computed(w)
			continue
		}
		its, ok := each[w.name]
		if !ok {
			colors := map[Color]bool{}
			its.known = v.follow(w.name, map[string]bool{}, colors)
			for c := range colors {
				its.colors = append(its.colors, c)
			}
			slices.SortFunc(its.colors, func(a, b Color) int { return strings.Compare(a.key(), b.key()) })
			each[w.name] = its
		}
		for _, c := range its.colors {
			w.use.Color = c
			w.tally.add(&w.use)
		}
		if len(its.colors) == 0 && !its.known && w.must {
			w.use.Why = fmt.Sprintf("%s is not defined in what was read", w.name)
			w.tally.add(&w.use)
		}
	}
	v.waiting, v.uses = nil, block[variableUse]{}
}

// follow gathers the colors that a variable can have; known says that it is defined at all.
func (v *variables) follow(name string, seen map[string]bool, into map[Color]bool) (known bool) {
	if seen[name] || len(seen) > limits.Depth {
		return true
	}
	seen[name] = true
	for _, d := range v.defined[name] {
		for _, c := range d.colors {
			into[c] = true
		}
		for _, n := range d.variables {
			v.follow(n, seen, into)
		}
		for _, text := range d.computed {
			for _, c := range v.values(text) {
				into[colorOf(c)] = true
			}
		}
	}
	return len(v.defined[name]) > 0
}

func (v *variables) computed(w *variableUse) {
	list := v.values(w.text)
	for _, c := range list {
		if c.Alpha > 0 {
			w.use.Color, w.use.Alpha = colorOf(c), c.Alpha
			w.tally.add(&w.use)
		}
	}
	if len(list) > 0 {
		return
	}
	if w.use.Why = w.why; w.why == "" {
		w.use.Why = "it cannot be worked out"
		if _, err := color.ParseCSS(w.text); err != nil {
			w.use.Why = err.Error()
		}
	}
	w.tally.add(&w.use)
}

// reference finds the first reference to a variable in a computed text: var() with at most one pair of parentheses in its fallback, or a
// variable of a preprocessor. Of what is nested deeper, the innermost comes first.
func reference(s string) (from, to int, name, fallback string, ok bool) {
	word := func(i int) int {
		for i < len(s) && (wordByte(s[i]) || s[i] == '-') {
			i++
		}
		return i
	}
	blank := func(i int) int {
		for i < len(s) && space(s[i]) {
			i++
		}
		return i
	}
	for i := 0; i < len(s); i++ {
		switch {
		case s[i] == '$' || s[i] == '@':
			if end := word(i + 1); end > i+1 {
				return i, end, s[i:end], "", true
			}
		case s[i] == 'v' && strings.HasPrefix(s[i:], "var("):
			at := blank(i + 4)
			end := word(at)
			if end < at+3 || s[at:at+2] != "--" {
				continue
			}
			name := s[at:end]
			if at = blank(end); at < len(s) && s[at] == ')' {
				return i, at + 1, name, "", true
			}
			if at == len(s) || s[at] != ',' {
				continue
			}
			for k := at + 1; k < len(s); k++ {
				if s[k] == ')' {
					return i, k + 1, name, s[at+1 : k], true
				}
				if s[k] == '(' {
					n := strings.IndexAny(s[k+1:], "()")
					if n < 0 || s[k+1+n] == '(' {
						break
					}
					k += n + 1
				}
			}
		}
	}
	return 0, 0, "", "", false
}

// values are the colors that a computed text comes to: where a variable has several values, those of the same turn belong together. All
// variables are known by then, so that it is worked out once.
func (v *variables) values(text string) []color.Typed {
	out, ok := v.worked[text]
	if !ok {
		out = v.work(text)
		v.worked[text] = out
	}
	return out
}

func (v *variables) work(text string) (out []color.Typed) {
	turns := 1
	for turn := 0; turn < min(turns, 16); turn++ {
		resolved := text
		ok := true
		for range 12 {
			from, to, name, fallback, more := reference(resolved)
			if !more {
				break
			}
			value := strings.TrimSpace(fallback)
			if list := v.defined[name]; len(list) > 0 {
				turns = max(turns, len(list))
				value = list[min(turn, len(list)-1)].text
			}
			if value == "" || len(resolved) > 2000 {
				ok = false
				break
			}
			resolved = resolved[:from] + value + resolved[to:]
		}
		if !ok {
			continue
		}
		c, err := preprocessed(resolved)
		if err != nil {
			continue
		}
		if !slices.ContainsFunc(out, func(o color.Typed) bool { return colorOf(o) == colorOf(c) && o.Alpha == c.Alpha }) {
			out = append(out, c)
		}
	}
	return out
}

var sassCall = regexp.MustCompile(`^(?:color\.)?([a-z-]+)\((.*)\)$`)

var mapCall = regexp.MustCompile(`^map[.-]get\((.*)\)$`)

// inMap follows keys into a map of Sass, which comes first: "(a: #fff, b: (c: red))", "b", "c".
func inMap(args []string) (value string, ok bool) {
	if len(args) < 2 {
		return "", false
	}
	value = args[0]
	plain := func(s string) string { return strings.Trim(strings.TrimSpace(s), "\"'") }
	for _, key := range args[1:] {
		value = strings.TrimSpace(value)
		if !strings.HasPrefix(value, "(") || !strings.HasSuffix(value, ")") {
			return "", false
		}
		found := false
		for _, entry := range color.Commas(value[1 : len(value)-1]) {
			if k, v, _ := strings.Cut(entry, ":"); plain(k) == plain(key) {
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
		return c, err
	}
	args := color.Commas(m[2])
	if len(args) < 2 {
		return c, err
	}
	base, e := preprocessed(args[0])
	if e != nil || base.CMYK != nil {
		return c, err
	}
	amount, e := fraction(args[1])
	hsl := base.RGB.HSL()
	switch name := m[1]; {
	case name == "mix" && len(args) >= 2:
		other, e := preprocessed(args[1])
		w := 0.5
		if len(args) == 3 {
			if w, err = fraction(args[2]); err != nil {
				return c, err
			}
		}
		if e != nil || base.Alpha != 1 || other.Alpha != 1 || w < 0 || w > 1 {
			return c, fmt.Errorf("%s cannot be worked out", text)
		}
		mixed := func(a, b float64) float64 { return a*w + b*(1-w) }
		base.RGB = color.RGB{R: mixed(base.RGB.R, other.RGB.R), G: mixed(base.RGB.G, other.RGB.G), B: mixed(base.RGB.B, other.RGB.B)}
		return base, nil
	case e != nil:
		return c, err
	case (name == "rgba" || name == "fade") && len(args) == 2:
		base.Alpha = amount
	case name == "transparentize" || name == "fade-out" || name == "fadeout":
		base.Alpha = max(0, base.Alpha-amount)
	case name == "opacify" || name == "fade-in" || name == "fadein":
		base.Alpha = min(1, base.Alpha+amount)
	case name == "lighten":
		hsl.L = min(1, hsl.L+amount)
		base.RGB = hsl.RGB()
	case name == "darken":
		hsl.L = max(0, hsl.L-amount)
		base.RGB = hsl.RGB()
	case name == "saturate":
		hsl.S = min(1, hsl.S+amount)
		base.RGB = hsl.RGB()
	case name == "desaturate":
		hsl.S = max(0, hsl.S-amount)
		base.RGB = hsl.RGB()
	default:
		return c, err
	}
	return base, nil
}

func fraction(s string) (float64, error) {
	s = strings.TrimSpace(s)
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
