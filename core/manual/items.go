package manual

import (
	"regexp"
	"slices"
	"strings"
	"unicode"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/pdfpage"
)

// item is a piece of a line of a page, and what it says.
type item struct {
	pdfpage.Words
	label  string  // of a piece that is the label of a value and nothing else: its kind, or "name"
	values []Value // in their order
	name   string  // what else it says
	used   bool
}

// words says whether it is words and nothing else.
func (i *item) words() bool {
	return !i.used && i.label == "" && len(i.values) == 0 && strings.ContainsFunc(i.name, unicode.IsLetter)
}

// valued says whether it is values, to be joined with others.
func (i *item) valued() bool { return !i.used && len(i.values) > 0 && !i.mention() }

// mostOfName is of how many words the name of a color is, at the most.
const mostOfName = 6

// prose says whether words are no name: a sentence, a line of a paragraph.
func prose(text string) bool {
	return len(strings.Fields(text)) > mostOfName || len(text) > 60 || strings.HasSuffix(text, ".") || strings.HasSuffix(text, ",") ||
		strings.HasSuffix(text, ";")
}

// mention says whether it is a sentence in which values stand.
func (i *item) mention() bool {
	if len(i.values) == 0 || i.used {
		return false
	}
	rest := i.Text
	for _, v := range i.values {
		rest = strings.Replace(rest, v.Text, " ", 1)
	}
	words := slices.DeleteFunc(strings.Fields(rest), func(w string) bool {
		w = strings.ToLower(strings.Trim(w, ":=,;()/.–-"))
		_, beside := beside[w]
		return kindOf[w] != "" || beside || !strings.ContainsFunc(w, unicode.IsLetter)
	})
	return len(words) > mostOfName
}

// kindOf is the kind of value that a word of a label means.
var kindOf = map[string]string{
	"hex": "hex", "html": "hex", "hexadecimal": "hex", "rgb": "rgb", "srgb": "rgb", "cmyk": "cmyk", "4c": "cmyk", "process": "cmyk",
	"spot": "spot", "ink": "spot",
	"lab": "lab", "cielab": "lab", "l*a*b*": "lab", "hsl": "hsl", "hsb": "hsb", "hsv": "hsb", "lch": "lch", "oklch": "oklch",
	"oklab": "oklab",
	"r":     "r", "red": "r", "g": "g", "green": "g", "b": "b", "blue": "b", "c": "c", "cyan": "c", "m": "m", "magenta": "m", "y": "y",
	"yellow": "y", "k": "k", "black": "k", "key": "k",
}

// beside are words that stand in labels and mean no kind by themselves, or a kind only where no other does.
var beside = map[string]string{
	"web": "hex", "code": "", "codes": "", "value": "", "values": "", "screen": "", "print": "", "digital": "", "paper": "", "coated": "",
	"uncoated": "", "newsprint": "", "number": "", "no": "",
	"on": "", "for": "", "colors": "", "colours": "", "color": "name", "colour": "name", "name": "name", "names": "name", "swatch": "other",
	"sample": "other",
}

var labelWord = regexp.MustCompile(`^[\s:=(\[/|–-]*([\p{L}*]+|4[cC])[\s:=)\]/|.–-]*`)

// cutLabel takes the label off the beginning of a text: the kind of value that it names, the paper that it is for, and what follows.
// Without one the kind is empty and the rest is the text.
func cutLabel(text string) (kind, paper, rest string) {
	rest = text
	weak := ""
	for {
		m := labelWord.FindStringSubmatch(rest)
		if m == nil {
			break
		}
		word := strings.ToLower(m[1])
		k, strong := kindOf[word]
		w, there := beside[word]
		if !strong && !there || len(word) == 1 && rest != text { // "R 14 G 58" is values, and no label
			break
		}
		switch {
		case kind == "spot" || strong && kind != "" && kind != "cmyk": // "spot ink", "hex RGB"
		case strong:
			kind = k
		case w != "" && weak == "":
			weak = w
		}
		if word == "coated" || word == "uncoated" || word == "newsprint" {
			paper = word
		}
		rest = rest[len(m[0]):]
	}
	if kind == "" {
		kind = weak
	}
	return kind, paper, strings.TrimSpace(rest)
}

var (
	dashed   = regexp.MustCompile(`^\d{1,3}(?:\s?[-–]\s?\d{1,3}){2,3}$`)
	hexCode  = regexp.MustCompile(`^#?\s?(?:[0-9a-fA-F]{6}|[0-9a-fA-F]{3}|[0-9a-fA-F]{8})$`)
	number   = regexp.MustCompile(`^\d{1,3}(?:[.,]\d+)?\s?%?$`)
	inkCode  = regexp.MustCompile(`\b[A-Za-z]{1,4}[- ]?\d{2,5}\b`)
	inkWords = regexp.MustCompile(`^[\p{L}\d][\p{L}\d -]{0,28}\d[\p{L}\d -]{0,8}$`)
)

// partial says whether a kind is one number of a value.
func partial(kind string) bool { return len(kind) == 1 }

// itemOf reads a piece of a line.
func itemOf(w pdfpage.Words, book *ink.Book) *item {
	it := &item{Words: w}
	text := strings.Trim(w.Text, " \t•·▪■●◦–-|")
	kind, paper, rest := cutLabel(text)
	if rest == "" && kind != "" {
		it.label = kind
		it.name = text
		return it
	}
	if kind != "" && kind != "name" && kind != "other" {
		if v, ok := valueOf(kind, rest); ok {
			v.Paper = paper
			it.values = []Value{v}
			return it
		}
	}
	it.name = text
	pieces, name := color.Pieces(text)
	if t, err := color.Parse(text); err == nil && len(pieces) == 0 && strings.ContainsFunc(text, unicode.IsDigit) {
		pieces, name = []color.Piece{{Typed: t, Text: text, Sure: t.Notation != "rgb"}}, ""
	}
	for _, p := range pieces {
		v := Value{Kind: p.Notation, Text: p.Text, Typed: p.Typed, Sure: p.Sure && (p.Notation != "hex" || strings.HasPrefix(p.Text, "#"))}
		if p.Err != nil {
			if !p.Sure {
				continue
			}
			v.Kind, v.Problem = kindOf[strings.ToLower(labelOf(p.Text))], p.Err.Error()
		}
		it.values = append(it.values, v)
	}
	for _, code := range inkCode.FindAllString(text, -1) {
		if k, ok := book.Find(code); ok &&
			!slices.ContainsFunc(it.values, func(v Value) bool { return v.Kind == "hex" && strings.Contains(v.Text, code) }) {
			it.values = append(it.values, Value{Kind: "spot", Text: k.Code})
			name = strings.TrimSpace(strings.Replace(name, code, "", 1))
		}
	}
	if len(it.values) > 0 {
		it.name = cleaned(name)
	}
	return it
}

// labelOf is the word at the beginning of a value.
func labelOf(text string) string {
	if m := labelWord.FindStringSubmatch(text); m != nil {
		return m[1]
	}
	return ""
}

// cleaned is a name without labels that were left of its values, and without what parts it from them.
func cleaned(name string) string {
	name = strings.Trim(name, " \t:;,|–-/()[]•·")
	if kind, _, rest := cutLabel(name); rest == "" && kind != "name" {
		return ""
	}
	return name
}

// valueOf reads what stands behind a label.
func valueOf(kind, text string) (Value, bool) {
	text = strings.TrimSpace(text)
	v := Value{Kind: kind, Text: text, Sure: true}
	switch {
	case kind == "hex":
		if !hexCode.MatchString(text) {
			return v, false
		}
		t, err := color.Parse("#" + strings.TrimLeft(text, "# "))
		v.Typed = t
		return v, err == nil
	case kind == "spot":
		return v, inkWords.MatchString(text)
	case partial(kind):
		return v, number.MatchString(text)
	}
	if dashed.MatchString(text) { // 14-58-83
		text = strings.NewReplacer("-", " ", "–", " ").Replace(text)
	}
	// What has letters of its own says itself what it is.
	for _, with := range []string{kind + " " + text, text} {
		pieces, name := color.Pieces(with)
		if len(pieces) != 1 || cleaned(name) != "" {
			continue
		}
		p := pieces[0]
		if p.Err != nil {
			v.Problem = p.Err.Error()
			return v, true
		}
		if kind == "cmyk" != (p.CMYK != nil) {
			continue
		}
		v.Typed = p.Typed
		return v, true
	}
	return v, false
}
