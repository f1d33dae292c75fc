package swatchfile

import (
	"fmt"
	"huekeep/core/library"
	"strings"
	"unicode"
)

// WriteCSS writes an edition as CSS custom properties on :root, in the order of the set.
func WriteCSS(e library.Edition) ([]byte, error) {
	if len(e.Colors) == 0 {
		return nil, fmt.Errorf("the set %s holds no colors", e.Set)
	}
	var b strings.Builder
	fmt.Fprintf(&b, "/* %s */\n:root {\n", comment(e.Title()))
	for i, name := range propertyNames(e.Colors) {
		c := e.Colors[i]
		fmt.Fprintf(&b, "  --%s: %s; /* %s */\n", name, c.RGB.Hex(), comment(c.Name))
	}
	b.WriteString("}\n")
	return []byte(b.String()), nil
}

// propertyNames gives each color a property name of its own.
func propertyNames(colors []library.Color) []string {
	names := make([]string, len(colors))
	for i, c := range colors {
		names[i] = Slug(c.Name)
	}
	return distinct(names)
}

// cssLoses is what custom properties leave out, and which of them had to be told from another of the same name.
func cssLoses(e library.Edition) []lost {
	out := printValuesLost(e, "Custom properties")
	for i, name := range propertyNames(e.Colors) {
		if Slug(e.Colors[i].Name) != name {
			out = append(out, lost{"some names", fmt.Sprintf("A custom property's name has letters, digits and hyphens only; that of %s is --%s, since another color has the one before", e.Colors[i].Name, name)})
		}
	}
	return out
}

// distinct puts a number behind a name that stands before it already.
func distinct(names []string) []string {
	taken := map[string]bool{}
	out := make([]string, len(names))
	for i, wanted := range names {
		name := wanted
		for n := 2; taken[name]; n++ {
			name = wanted + "-" + itoa(n)
		}
		taken[name] = true
		out[i] = name
	}
	return out
}

// Slug makes a name usable in file names, custom properties and selectors: lower-case letters and digits joined by "-".
func Slug(name string) string {
	var b strings.Builder
	gap := false
	for _, r := range strings.ToLower(name) {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			if gap && b.Len() > 0 {
				b.WriteByte('-')
			}
			b.WriteRune(r)
			gap = false
		} else {
			gap = true
		}
	}
	if b.Len() == 0 {
		return "color"
	}
	return b.String()
}

// comment keeps a name from ending the comment that it stands in.
func comment(s string) string {
	return strings.Join(strings.Fields(strings.ReplaceAll(s, "*/", "* /")), " ")
}
