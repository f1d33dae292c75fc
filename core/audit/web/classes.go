package web

import (
	"bytes"
	"regexp"
	"strconv"
	"strings"
	"unicode/utf8"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/source"
)

// Utility classes have values in brackets, with underscores for blanks: border-[#1E3B48], hover:shadow-[0_0_3px_#4B2442]/50, [--c:#EAAB48].
// A style sheet that was made of them has them as the names of its rules, escaped: .border-\[\#1E3B48\]. They change together or not at
// all, so that uses say which class they stand in (More.Class).

// classBracket is a value in brackets: behind a dash, or a declaration at the beginning of a class or behind one of its conditions.
var classBracket = regexp.MustCompile(`(?:-|^|[\s:!"'])\[([^\[\]\s"'` + "`" + `]*)\]`)

// classColor is a color in such a value. An address is matched too, so that what stands in it is not.
var classColor = regexp.MustCompile(`(?i)url\([^()]*\)|#[0-9a-f]{3,8}|(?:rgba?|hsla?|hwb|lab|lch|oklab|oklch|color)\([^()\[\]\s]*\)|[a-z][a-z-]*`)

// bracketed says whether a text has a class with a color in brackets.
func bracketed(text string) bool {
	found := false
	colorsOfClasses(text, func(string, int, int, color.Typed) { found = true })
	return found
}

// colorsOfClasses finds the classes of a text that have colors in brackets; start and end are those of the color as it is written.
func colorsOfClasses(text string, each func(class string, start, end int, c color.Typed)) {
	if !strings.Contains(text, "[") {
		return
	}
	for _, m := range classBracket.FindAllStringSubmatchIndex(text, -1) {
		dashed := text[m[0]] == '-'
		from, to := m[2], m[3]
		property, _, declares := strings.Cut(text[from:to], ":")
		if !dashed && (!declares || !isIdent(strings.TrimPrefix(property, "-"))) {
			continue // an attribute, a list
		}
		begin, end := m[0], m[1]
		for begin > 0 && !edge(text[begin]) && !edge(text[begin-1]) {
			begin--
		}
		for begin < len(text) && edge(text[begin]) {
			begin++
		}
		for end < len(text) && !edge(text[end]) {
			end++
		}
		words := dashed && takesColorWords(text[begin:m[0]])
		if !dashed {
			words = takesColor(property) || strings.HasPrefix(property, "--")
			from += len(property) + 1
		} else if declares && isIdent(property) { // a hint: text-[color:#111]
			from += len(property) + 1
		}
		value := text[from:to]
		for _, f := range classColor.FindAllStringIndex(value, -1) {
			word := value[f[0]:f[1]]
			if before := strings.LastIndexAny(value[:f[0]], "_,(:/ ") + 1; before != f[0] || f[1] < len(value) &&
				!strings.ContainsRune("_,)/ ", rune(value[f[1]])) {
				continue // a part of a longer word
			}
			if word[0] != '#' && !strings.HasSuffix(word, ")") && !words {
				continue
			}
			if c, err := color.ParseCSS(strings.ReplaceAll(word, "_", " ")); err == nil && c.Alpha > 0 {
				each(text[begin:end], from+f[0], from+f[1], c)
			}
		}
	}
}

// edge says whether a byte stands between classes.
func edge(c byte) bool { return space(c) || c == '"' || c == '\'' || c == '`' }

// takesColorWords says whether names of colors are colors in the value of a utility; elsewhere they may name an area of a grid or a font.
func takesColorWords(utility string) bool {
	utility = utility[strings.LastIndexByte(utility, ':')+1:]
	for _, u := range []string{"bg", "text", "border", "fill", "stroke", "shadow", "outline", "ring", "decoration", "accent", "caret",
		"divide", "from", "via", "to", "placeholder"} {
		if rest, ok := strings.CutPrefix(strings.TrimLeft(utility, "!-"), u); ok && (rest == "" || rest[0] == '-') {
			return true
		}
	}
	return false
}

// classForm writes a color with underscores for blanks.
var classForm = form.Func(func(old string, to form.Paint) (string, error) {
	text, err := form.CSS.Write(strings.ReplaceAll(old, "_", " "), to)
	return strings.ReplaceAll(text, " ", "_"), err
})

// classes finds the colors of utility classes.
func (w *Page) classes(text string, from int, place string, line, column int) {
	colorsOfClasses(text, func(class string, start, end int, c color.Typed) {
		w.Add(&audit.Use{Value: text[start:end], Color: audit.ColorOf(c), Alpha: c.Alpha, Where: place, Line: line, Column: column,
			At: []source.Span{{Part: w.Part, Start: from + start, End: from + end}}, Form: classForm, More: &audit.More{Class: class,
				Names: true}})
	})
}

// classNames finds the colors in the names of rules, which were utility classes, and gives the first such class. They are repainted with
// what they name, and are no uses of their own.
func (s *sheet) classNames(from, to int) (first string) {
	head := s.text[from:to]
	if !strings.Contains(head, `\[`) {
		return ""
	}
	for i := 0; i < len(head); i++ {
		if head[i] == '\\' {
			i++
			continue
		}
		if head[i] != '.' {
			continue
		}
		class, at := unescapedName(head[i+1:])
		colorsOfClasses(class, func(name string, start, end int, c color.Typed) {
			if name != class {
				return
			}
			if first == "" {
				first = class
			}
			line, column := s.position(from + i)
			where := s.where(line, column, scanning.Shorten(oneLine(strings.TrimSpace(head)), 60), "the name")
			s.Add(&audit.Use{Value: class[start:end], Color: audit.ColorOf(c), Alpha: c.Alpha, Where: where, Line: line, Column: column,
				Hidden: true,
				At:     []source.Span{s.span(from+i+1+at[start], from+i+1+at[end])}, Form: escapedClass, More: &audit.More{Class: class,
					Names: true}})
		})
		i += at[len(class)]
	}
	return first
}

// escapedClass writes the color of a class that is the name of a rule.
var escapedClass = form.Func(func(old string, to form.Paint) (string, error) {
	name, _ := unescapedName(old)
	text, err := classForm.Write(name, to)
	var b strings.Builder
	for _, c := range text {
		switch {
		case c == ',':
			b.WriteString(`\2c `) // as most compilers write it
		case c < 0x80 && !scanning.WordByte(byte(c)) && c != '-':
			b.WriteByte('\\')
			fallthrough
		default:
			b.WriteRune(c)
		}
	}
	return b.String(), err
})

// unescapedName is the identifier that a text begins with (CSS Syntax 3, 4.3.7 and 4.3.11), and the offset of each of its bytes, and of its
// end.
func unescapedName(text string) (name string, at []int) {
	var b []byte
	i := 0
	for i < len(text) {
		c := text[i]
		switch {
		case c == '\\' && i+1 < len(text) && text[i+1] != '\n':
			start, n := i, 0
			for i++; i < len(text) && n < 6 && scanning.IsHexDigit(text[i]); i++ {
				n++
			}
			code, _ := strconv.ParseInt(text[i-n:i], 16, 32) // 0 for none
			if n == 0 {
				_, size := utf8.DecodeRuneInString(text[i:])
				for k := range size {
					at = append(at, start)
					b = append(b, text[i+k])
				}
				i += size
				continue
			}
			if i < len(text) && space(text[i]) {
				i++
			}
			for _, x := range []byte(string(rune(code))) {
				at = append(at, start)
				b = append(b, x)
			}
		case scanning.WordByte(c) || c == '-' || c >= 0x80:
			at = append(at, i)
			b = append(b, c)
			i++
		default:
			return string(b), append(at, i)
		}
	}
	return string(b), append(at, i)
}

// MayNameColors says whether a file that is no archive may have classes with colors in their names, without reading it.
func MayNameColors(data []byte) bool {
	return bytes.Contains(data, []byte("-[")) || bytes.Contains(data, []byte(`\[`)) || classDeclares.Match(data)
}

// classDeclares is how a class begins that is a declaration.
var classDeclares = regexp.MustCompile(`\[[A-Za-z-]+:`)
