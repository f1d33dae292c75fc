package swatchfile

import (
	"strings"
	"unicode"

	"huekeep/core/library"
)

// distinct puts a number behind a name that stands before it already.
func distinct(names []string) []string { return distinctBy(names, "-") }

// distinctBy is distinct with what stands between the name and the number.
func distinctBy(names []string, between string) []string {
	taken := map[string]bool{}
	next := map[string]int{} // so that many of one name are told apart in one walk
	out := make([]string, len(names))
	for i, wanted := range names {
		name := wanted
		for n := max(2, next[wanted]); taken[name]; n++ {
			name, next[wanted] = wanted+between+itoa(n), n+1
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

// inside is the title as it stands in a remark of a file that is listed without its number; empty in those of before.
func inside(e library.Edition) string {
	if e.Before(9) {
		return ""
	}
	return " " + oneLine(e.Title())
}

// comment keeps a name from ending the comment that it stands in.
func comment(s string) string {
	return strings.Join(strings.Fields(strings.ReplaceAll(s, "*/", "* /")), " ")
}
