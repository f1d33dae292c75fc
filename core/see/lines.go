package see

import (
	"bytes"
	"path"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"huekeep/core/audit"
	"huekeep/core/recognize"
)

// Mark is a found color in a line.
type Mark struct {
	Key    string // of the found color
	Column int    // from 1, in characters of the line as it is in the file
	Value  string // as written
}

// Line is a line of a text.
type Line struct {
	Number int // from 1
	Text   string
	Before int // characters of the line that stand before Text
	After  int // and behind it
	Marks  []Mark
	More   int // places of the line beyond those that are shown
}

const (
	// around is how many lines before and behind a found color are shown with it.
	around = 2
	// longLine is how many characters of a line are shown as one piece, around what was found in it.
	longLine = 240
	// mostPieces is how many pieces of one line are shown.
	mostPieces = 100
	// PageLines is how many lines come at once.
	PageLines = 400
)

// Lines are the lines of a text in which one of the colors of its report was found, or all of them where none is named, with those around;
// from a line on. next is where the next page begins, 0 for none. Places of what is inside of the text, such as a drawing in a string, are
// told by the words of their place alone. ok is false for what is no text of lines.
func Lines(name string, data []byte, report audit.Report, key string, from int) (out []Line, next int, ok bool) {
	text, err := recognize.XMLText(data)
	if err != nil || !utf8.Valid(text) || bytes.IndexByte(text, 0) >= 0 {
		return nil, 0, false
	}
	marks := map[int][]Mark{}
	its := path.Base(strings.ReplaceAll(name, `\`, "/")) + " "
	for _, c := range report.Colors {
		if key != "" && c.Key != key {
			continue
		}
		for _, p := range c.Places {
			if p.Line == 0 || !strings.HasPrefix(p.Where, its+strconv.Itoa(p.Line)+":") || strings.Contains(p.Where, " > ") {
				continue
			}
			ok = true
			if p.Line >= from-around {
				marks[p.Line] = append(marks[p.Line], Mark{c.Key, p.Column, p.Value})
			}
		}
	}
	if !ok {
		return nil, 0, false
	}
	shown := map[int]bool{}
	for n := range marks {
		for k := max(1, from, n-around); k <= n+around; k++ {
			shown[k] = true
		}
	}
	number := 0
	for len(text) > 0 {
		number++
		line := text
		if i := bytes.IndexByte(text, '\n'); i >= 0 {
			line, text = text[:i], text[i+1:]
		} else {
			text = nil
		}
		if !shown[number] {
			continue
		}
		if len(out) >= PageLines {
			return out, number, true
		}
		m := marks[number]
		slices.SortFunc(m, func(a, b Mark) int { return a.Column - b.Column })
		out = append(out, pieces(number, string(bytes.TrimRight(line, "\r")), m)...)
	}
	return out, 0, true
}

// pieces are a line as it is shown: whole, or of a long one what is around the colors that were found in it.
func pieces(number int, text string, marks []Mark) (out []Line) {
	runes := []rune(text)
	n := len(runes)
	if n <= longLine {
		return []Line{{Number: number, Text: text, Marks: marks}}
	}
	if len(marks) == 0 {
		return []Line{{Number: number, Text: string(runes[:longLine]), After: n - longLine}}
	}
	for len(marks) > 0 {
		if len(out) == mostPieces {
			out[len(out)-1].More = len(marks)
			break
		}
		first := max(0, min(marks[0].Column-1-longLine/3, n-longLine))
		within := 1
		for within < len(marks) && marks[within].Column-1+len(marks[within].Value) <= first+longLine {
			within++
		}
		out = append(out, Line{Number: number, Text: string(runes[first : first+longLine]), Before: first, After: n - first - longLine,
			Marks: marks[:within]})
		marks = marks[within:]
	}
	return out
}
