package web_test

import (
	"bytes"
	"regexp"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"

	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/hostile"
	"huekeep/core/recognize"
)

var ofMask = regexp.MustCompile(`(?i)^(-webkit-)?mask(-.*)?$`)

// lexedColors are the hexadecimal colors of the declarations of a style sheet, in order, found by reading all of its words with a lexer.
func lexedColors(text []byte) (out []string) {
	type word struct {
		kind css.TokenType
		text string
	}
	lex := css.NewLexer(parse.NewInputBytes(append(make([]byte, 0, len(text)+1), text...)))
	var held []word
	depth := 0
	var dashes func(t []word) []word
	declaration := func() {
		for len(held) > 0 && held[0].kind == css.WhitespaceToken {
			held = held[1:]
		}
		held = dashes(held)
		if len(held) < 3 || held[0].kind != css.IdentToken && held[0].kind != css.CustomPropertyNameToken || ofMask.MatchString(held[0].text) {
			return
		}
		rest := held[1:]
		for len(rest) > 0 && rest[0].kind == css.WhitespaceToken {
			rest = rest[1:]
		}
		if len(rest) == 0 || rest[0].kind != css.ColonToken {
			return
		}
		for _, w := range rest {
			if w.kind == css.HashToken {
				if c, err := color.ParseCSS(w.text); err == nil && c.Alpha > 0 {
					out = append(out, w.text)
				}
			}
		}
	}
	dashes = func(t []word) []word { // which the lexer takes for words of their own in front of a custom property
		from := t
		for len(t) > 1 && t[0].kind == css.DelimToken && t[0].text == "-" {
			t = t[1:]
		}
		if len(t) > 0 && t[0].kind == css.CustomPropertyNameToken {
			return t
		}
		return from
	}
	variable := func() bool {
		t := held
		for len(t) > 0 && t[0].kind == css.WhitespaceToken {
			t = t[1:]
		}
		t = dashes(t)
		if len(t) < 2 || t[0].kind != css.CustomPropertyNameToken {
			return false
		}
		for t = t[1:]; len(t) > 0 && t[0].kind == css.WhitespaceToken; {
			t = t[1:]
		}
		return len(t) > 0 && t[0].kind == css.ColonToken
	}
	for {
		kind, text := lex.Next()
		switch {
		case kind == css.ErrorToken:
			declaration()
			return out
		case kind == css.CommentToken || kind == css.CDOToken || kind == css.CDCToken:
		case kind == css.LeftBraceToken && depth == 0 && !variable() && !(len(held) > 0 && held[len(held)-1].kind == css.DelimToken && strings.Contains("#@", held[len(held)-1].text)):
			held = held[:0]
		case depth == 0 && (kind == css.SemicolonToken || kind == css.RightBraceToken):
			declaration()
			held = held[:0]
		default:
			switch kind {
			case css.FunctionToken, css.LeftParenthesisToken, css.LeftBracketToken, css.LeftBraceToken:
				depth++
			case css.RightParenthesisToken, css.RightBracketToken, css.RightBraceToken:
				depth = max(0, depth-1)
			}
			held = append(held, word{kind, string(text)})
		}
	}
}

func foundColors(t testing.TB, text []byte) (out []string) {
	s, err := kinds.Read("x.css", text)
	require.NoError(t, err)
	for _, u := range s.Uses {
		if u.Value[0] == '#' {
			out = append(out, u.Value)
		}
	}
	return out
}

// Only the words of statements that may have a color are read; that must find what reading all of them does.
func TestSplittingAStyleSheetFindsWhatLexingDoes(t *testing.T) {
	for _, text := range []string{
		`a{color:#e2572b;b:c}`, `a{b:"}#fff;";c:#0e3a53}`, `a/*{*/{/*;#fff}*/c:#0e3a53/*x*/;d:#abc}`, `@media x{a:hover{c:#fff}b{d:#000}}`, `a{b:url(x;}#fff);c:#010203}`,
		`a{b:url( "x)" );c:#010203}`, `a{b:URL(x\);y);c:#010203}`, `a{--x:{b:#fff};c:#abc}`, `a[x="{"]{c:#fff}`, `a{c:'\'#fff';d:#abc}`, "a{c:'#fff\n;d:#abc}", `<!--a{c:#fff}-->b{c:#abc}`,
		`#abc{c:#def}`, `a{c:d(#fff, e(#abc;)) ;f:#0f0}`, `a{b\:c:#fff;d:e}`, `a{*b:#fff;c:#abc}`, `a{b:#ggg;c:#ab;d:#12345678}`, `}a{c:#fff}}b{c:#abc`, `a{background/**/:#fff}`, `a{b : #fff ; }`,
		`a{b:c;;d:#fff}`, `myurl(a{c:#fff)}b{c:#abc}`, `a{filter:x(startColorstr='#80000000');c:#fff}`, `a{b:#fff!important}`, `a{b:]#fff;c:)#abc}`,
	} {
		assert.Equal(t, lexedColors([]byte(text)), foundColors(t, []byte(text)), text)
	}
}

// Whatever a text is, splitting it first finds the colors that a lexer finds in it. Functions that are colors are one use as a whole, and
// are left out.
func FuzzSplitting(f *testing.F) {
	for _, seed := range []string{`a{--x:{b:#fff};c:d(url(x) #abc;)}/*;*/`, `@media x{a{b:"\"}#fff";c:#abc!important}}`, `a{b\;c:#fff;d:#000}`, `a{u:url( "\)" ) #123}`} {
		f.Add([]byte(seed))
	}
	whole := regexp.MustCompile(`(?i)rgb|hsl|hwb|lab|lch|color|cmyk|var|data:|\x00`)
	f.Fuzz(func(t *testing.T, text []byte) {
		defer hostile.Timely(t, len(text))()
		if len(text) > 1<<12 || bytes.HasPrefix(text, []byte("\xef\xbb\xbf")) || whole.Match(text) || recognize.UTF16(text) || !utf8.Valid(text) {
			t.Skip()
		}
		if _, err := kinds.Read("x.css", text); err != nil {
			t.Skip() // it looks like another kind
		}
		require.Equal(t, lexedColors(text), foundColors(t, text))
	})
}

// References are taken from the inside out, with what they fall back on.
func TestWhatIsMadeOfVariables(t *testing.T) {
	for value, want := range map[string]string{
		"color-mix(in srgb, var(--a), var( --a ))":                           "#E2572B",
		"color-mix(in srgb, var(--no,#0E3A53), #0E3A53)":                     "#0E3A53",
		"color-mix(in srgb, var(--no, rgb(14 58 83)), #0E3A53)":              "#0E3A53",
		"color-mix(in srgb, var(--no, rgb(var(--b))), rgb(var(--b)))":        "#0E3A53",
		"color-mix(in srgb, var(--no, var(--no2, var(--a))), #E2572B)":       "#E2572B",
		"rgb(var(--b) / var(--half))":                                        "#0E3A53",
		"color-mix(in srgb, var(--no), #0E3A53)":                             "",
		"color-mix(in srgb, var(--a, #0E3A53)":                               "", // it is not closed
		"color-mix(in srgb, var(a), #0E3A53)":                                "",
		"color-mix(in srgb, var(--no, calc((1 + (2)) * 1)), var(--missing))": "",
	} {
		s, err := kinds.Read("x.css", []byte(":root { --a: #E2572B; --b: 14 58 83; --half: 50% }\nb { background: "+value+" }"))
		require.NoError(t, err)
		require.Len(t, s.Uses, 2, value)
		u := s.Uses[1]
		if want == "" {
			assert.NotEmpty(t, u.Why, value)
		} else {
			assert.Empty(t, u.Why, value)
			assert.Equal(t, want, u.RGB.Hex(), value)
		}
	}
}
