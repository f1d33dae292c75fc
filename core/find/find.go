// Package find decides what fits the words that somebody typed: any order, any part of a word, and words that are a letter or two off.
package find

import (
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// Plain writes a text as it is compared: in small letters, without accents, "grey" as "gray".
func Plain(s string) string {
	s = strings.ToLower(s)
	if strings.IndexFunc(s, func(r rune) bool { return r > unicode.MaxASCII }) >= 0 {
		var b strings.Builder
		for _, r := range norm.NFD.String(s) {
			if !unicode.Is(unicode.Mn, r) {
				b.WriteRune(r)
			}
		}
		s = b.String()
	}
	return strings.ReplaceAll(strings.ReplaceAll(s, "grey", "gray"), "colour", "color")
}

// small are words that say nothing where others stand beside them.
var small = map[string]bool{"a": true, "an": true, "the": true, "of": true, "on": true, "in": true, "for": true, "to": true, "our": true,
	"is":  true,
	"are": true, "who": true, "what": true, "which": true, "where": true, "has": true, "how": true, "my": true, "and": true, "with": true}

// Words are what somebody looks for.
type Words []string

// Of takes the words of a text apart. Small words count only where nothing else was typed.
func Of(text string) Words {
	var all, told Words
	for _, w := range strings.FieldsFunc(Plain(text),
		func(r rune) bool { return unicode.IsSpace(r) || strings.ContainsRune(",;\"“”?", r) }) {
		all = append(all, w)
		if !small[w] {
			told = append(told, w)
		}
	}
	if len(told) > 0 {
		return told
	}
	return all
}

// What a word is worth, by how it was found.
const (
	whole  = 4.0
	begins = 3.0
	within = 2.0
	beside = 1.0 // a letter off
)

// In is how well a text, written by Plain, fits: 0 where a word is not in it, more the better the words were found.
func (w Words) In(text string) float64 {
	if len(w) == 0 {
		return 0
	}
	sum := 0.0
	for _, one := range w {
		best := worth(one, text)
		if best == 0 {
			return 0
		}
		sum += best
	}
	return sum / float64(len(w))
}

func worth(word, text string) (best float64) {
	if at := strings.Index(text, word); at >= 0 {
		best = within
	}
	if best == 0 && !mayErr(word) {
		return 0
	}
	for rest := text; rest != ""; {
		var one string
		one, rest = next(rest)
		switch {
		case one == word:
			return whole
		case strings.HasPrefix(one, word):
			best = max(best, begins)
		case best == 0 && near(word, one):
			best = beside
		}
	}
	return best
}

// next cuts the first word off a text.
func next(text string) (word, rest string) {
	text = strings.TrimLeftFunc(text, between)
	if at := strings.IndexFunc(text, between); at >= 0 {
		return text[:at], text[at:]
	}
	return text, ""
}

func between(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }

// mayErr says whether a word is one that people misspell: four letters and more, and no number, where one digit is another thing.
func mayErr(word string) bool {
	return len(word) >= 4 && strings.IndexFunc(word, func(r rune) bool { return !unicode.IsLetter(r) }) < 0
}

// near says whether a word is another one misspelled, or its beginning: one letter missing, too many, another or two exchanged, and two of
// those from eight letters on. The first letter counts as right unless the two first are exchanged.
func near(word, of string) bool {
	a, b := []rune(word), []rune(of)
	most := 1
	if len(a) >= 8 {
		most = 2
	}
	if len(b) < len(a)-most || len(b) == 0 || a[0] != b[0] && (len(b) < 2 || a[0] != b[1]) {
		return false
	}
	for n := max(1, len(a)-most); n <= min(len(b), len(a)+most); n++ { // what was typed may be a beginning
		if (n == len(b) || n >= 5) && apart(a, b[:n]) <= most {
			return true
		}
	}
	return false
}

// apart is the distance of two words in single edits, exchanged neighbors among them (optimal string alignment).
func apart(a, b []rune) int {
	before, last, now := make([]int, len(b)+1), make([]int, len(b)+1), make([]int, len(b)+1)
	for j := range last {
		last[j] = j
	}
	for i := 1; i <= len(a); i++ {
		now[0] = i
		for j := 1; j <= len(b); j++ {
			cost := 1
			if a[i-1] == b[j-1] {
				cost = 0
			}
			now[j] = min(last[j]+1, now[j-1]+1, last[j-1]+cost)
			if i > 1 && j > 1 && a[i-1] == b[j-2] && a[i-2] == b[j-1] {
				now[j] = min(now[j], before[j-2]+1)
			}
		}
		before, last, now = last, now, before
	}
	return last[len(b)]
}
