package swatchfile

import (
	"fmt"
	"regexp"
	"strings"
	"unicode"
	"unicode/utf8"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/recognize"
)

var (
	styleComment = regexp.MustCompile(`(?s)/\*.*?\*/|//[^\n]*`)
	styleValue   = regexp.MustCompile(`(--[\p{L}\p{N}_-]+|\$[\p{L}\p{N}_-]+)\s*:\s*([^;{}]+)`)
	styleLink    = regexp.MustCompile(`^(?:var\(\s*(--[\p{L}\p{N}_-]+)\s*(?:,[^)]*)?\)|(\$[\p{L}\p{N}_-]+))$`)
	styleScheme  = regexp.MustCompile(`https?://`) // its slashes would start a comment
	styleRemark  = regexp.MustCompile(`(--[\p{L}\p{N}_-]+|\$[\p{L}\p{N}_-]+)\s*:[^;{}\n]*;[ \t]*(?:/\*\s*(.*?)\s*\*/|//[ \t]*([^\n]*))`)
	styleTitle   = regexp.MustCompile(`(?s)^\s*(?:/\*\s*(.*?)\s*\*/|//[ \t]*([^\n]*))`)
)

// mostVariables are looked at; a library has fewer colors, and many of them are lengths.
const mostVariables = 4 * limits.LibraryColors

func isStyles(extension string, c recognize.Content) bool {
	if extension == ".css" || extension == ".scss" {
		return true
	}
	text := beginning(c.Data)
	return extension != ".csv" && extension != ".tsv" && styleValue.Match(text) &&
		(extension != ".txt" && extension != "" || !prose(string(text)))
}

// prose says whether lines of a text are none of a style sheet: a mail that has some of one in it is read as a list, line by line.
func prose(text string) bool {
	for line := range strings.Lines(styleComment.ReplaceAllString(text, "")) {
		line, _, _ = strings.Cut(line, "//")
		if line = strings.TrimSpace(line); line != "" && line[0] != '@' && !strings.ContainsAny(line[len(line)-1:], ";{},") {
			return true
		}
	}
	return false
}

// ReadStyles reads custom properties (CSS) and variables (SCSS) whose values are colors, in order, each once; var(--x)
// and $x are followed. A comment behind a property, as WriteCSS puts it, is its name.
func ReadStyles(data []byte) (Library, error) {
	var l Library
	text := styleScheme.ReplaceAllString(string(data), "")
	names := map[string]string{}
	for _, m := range styleRemark.FindAllStringSubmatch(text, mostVariables) {
		if remark := strings.Trim(m[2]+m[3], "* \t"); isName(remark, m[1]) {
			names[m[1]] = remark
		}
	}
	if m := styleTitle.FindStringSubmatch(text); m != nil {
		l.House = oneLine(m[1] + m[2])
	}
	values := map[string]string{}
	var order []string
	for _, m := range styleValue.FindAllStringSubmatch(styleComment.ReplaceAllString(text, " "), mostVariables) {
		value := strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(m[2]), "!default"))
		if _, twice := values[m[1]]; twice {
			continue // a later value is for another theme or medium
		}
		values[m[1]] = value
		order = append(order, m[1])
	}
	for _, name := range order {
		value := values[name]
		for range 32 {
			link := styleLink.FindStringSubmatch(value)
			if link == nil {
				break
			}
			value = values[link[1]+link[2]]
		}
		t, err := color.ParseCSS(value)
		if err != nil || t.CMYK != nil || t.Alpha == 0 {
			continue // a length, a font, a shadow
		}
		c := library.Color{Name: names[name]}
		c.Master, c.RGB = library.MasterOf(t)
		if c.Name == "" {
			c.Name = strings.ReplaceAll(strings.TrimLeft(name, "-$"), "-", " ")
		}
		l.remark(c.Name, t)
		l.Colors = append(l.Colors, c)
	}
	if len(l.Colors) == 0 {
		return l, fmt.Errorf("it defines no custom property or variable with a color")
	}
	return l, nil
}

// isName tells a comment that names its variable, as WriteCSS puts it, from one that describes it: it says what the variable
// is called, or it is a few words that begin with a capital, without a sentence's marks and the words of a description.
func isName(comment, variable string) bool {
	if comment == "" || len(comment) > 200 {
		return false
	}
	variable = strings.ToLower(strings.TrimLeft(variable, "-$"))
	if slug := Slug(comment); strings.Contains(variable, slug) {
		return true
	}
	first, _ := utf8.DecodeRuneInString(comment)
	return (unicode.IsUpper(first) || unicode.IsDigit(first)) && len(comment) <= 40 && len(strings.Fields(comment)) <= 4 &&
		!strings.ContainsAny(comment, ".:;!?(){}=") && !describing.MatchString(comment)
}

var describing = regexp.MustCompile(`(?i)\b(?:used?|uses|for|when|on|in|with|as|is|are|from|see|same|todo|default|don't|do not|only)\b`)

// WriteSCSS writes an edition as SCSS variables, in the order of the set, with scales, permitted tints and gradients, and maps of the
// colors and of what stands on them.
func WriteSCSS(e library.Edition) ([]byte, error) {
	s, err := sheet(e, variableName, "-")
	if err != nil {
		return nil, err
	}
	var b strings.Builder
	fmt.Fprintf(&b, "// %s\n", oneLine(e.Title()))
	names := []string{}
	for _, v := range s.values {
		fmt.Fprintf(&b, "$%s: %s; // %s\n", v.name, v.css(), oneLine(v.title))
		names = append(names, v.name)
	}
	maps := distinct(append(names, variableName(e.Set)+"-colors", variableName(e.Set)+"-on", variableName(e.Set)+"-gradients"))[len(names):]
	fmt.Fprintf(&b, "\n$%s: (\n", maps[0])
	for _, n := range names {
		fmt.Fprintf(&b, "  %q: $%s,\n", n, n)
	}
	b.WriteString(");\n")
	if len(s.on) > 0 {
		fmt.Fprintf(&b, "\n// what stands on a ground, by the rules of the house\n$%s: (\n", maps[1])
		for _, p := range s.on {
			fmt.Fprintf(&b, "  %q: $%s,\n", p.ground, p.color)
		}
		b.WriteString(");\n")
	}
	if len(s.gradients) > 0 {
		fmt.Fprintf(&b, "\n$%s: (\n", maps[2])
		for _, g := range s.gradients {
			fmt.Fprintf(&b, "  %q: %s,\n", g.name, g.css(func(name string) string { return "$" + name }))
		}
		b.WriteString(");\n")
	}
	if list := s.beyond(e); len(list) > 0 {
		fmt.Fprintf(&b, "\n// beyond sRGB, for @media (color-gamut: p3)\n$%s: (\n",
			distinct(append(append(names, maps...), variableName(e.Set)+"-wide"))[len(names)+len(maps)])
		for _, v := range list {
			fmt.Fprintf(&b, "  %q: %s,\n", v.name, v.wide)
		}
		b.WriteString(");\n")
	}
	return []byte(b.String()), nil
}

// variableName makes a name that SCSS takes: a variable does not begin with a digit.
func variableName(name string) string {
	slug := Slug(name)
	if slug[0] >= '0' && slug[0] <= '9' {
		return "color-" + slug
	}
	return slug
}

// scssLoses is what SCSS variables leave out, and which of them could not be named like their colors.
func scssLoses(e library.Edition) []lost {
	out := printValuesLost(e, "Variables")
	for i, name := range colorNames(e, variableName) {
		if name != Slug(e.Colors[i].Name) {
			out = append(out, lost{"some names", fmt.Sprintf("A variable begins with no digit and stands once; that of %s is $%s",
				e.Colors[i].Name, name)})
		}
	}
	return out
}
