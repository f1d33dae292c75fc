package scanning

import (
	"bytes"
	"sort"
	"unicode/utf8"
)

// Lines finds the line and the column of offsets in a text; the text is gone through once.
type Lines struct {
	data   []byte
	Starts []int
	last   int // the line that was asked for last: most come in order
	lastAt int // with an offset in it and its column, since a text may be one line of megabytes
	column int
	Line   int // of a text in another one: how many lines and, in its first line, characters stand before it
	Shift  int
}

// NewLines finds the lines of a text.
func NewLines(data []byte) *Lines {
	l := &Lines{data: data, Starts: []int{0}, last: -1}
	for at := 0; ; {
		i := bytes.IndexByte(data[at:], '\n')
		if i < 0 {
			return l
		}
		at += i + 1
		l.Starts = append(l.Starts, at)
	}
}

// NewCueLines is NewLines for WebVTT, where a CR by itself ends a line too (WebVTT, 4.1).
func NewCueLines(data []byte) *Lines {
	l := &Lines{data: data, Starts: []int{0}, last: -1}
	for i, c := range data {
		if c == '\n' || c == '\r' && (i+1 == len(data) || data[i+1] != '\n') {
			l.Starts = append(l.Starts, i+1)
		}
	}
	return l
}

// At gives the line and the column, in characters, of an offset, both from 1.
func (l *Lines) At(offset int) (line, column int) {
	n, near := max(0, l.last), 8
	if offset >= l.Starts[n] {
		for near > 0 && n+1 < len(l.Starts) && l.Starts[n+1] <= offset {
			n++
			near--
		}
	} else {
		near = 0
	}
	if near == 0 {
		n = sort.SearchInts(l.Starts, offset+1) - 1
	}
	from, column := l.Starts[n], 1
	if n == l.last && offset >= l.lastAt {
		from, column = l.lastAt, l.column
	}
	column += utf8.RuneCount(l.data[from:offset])
	l.last, l.lastAt, l.column = n, offset, column
	if n == 0 {
		column += l.Shift
	}
	return l.Line + n + 1, column
}

// IsHex says whether a text has nothing but hexadecimal digits.
func IsHex(s string) bool {
	for i := range len(s) {
		if !IsHexDigit(s[i]) {
			return false
		}
	}
	return true
}

// WordByte says whether a byte is of a word, as regular expressions have it.
func WordByte(b byte) bool {
	return b >= 'a' && b <= 'z' || b >= 'A' && b <= 'Z' || b >= '0' && b <= '9' || b == '_'
}

// IsHexDigit says whether a byte is a hexadecimal digit.
func IsHexDigit(b byte) bool {
	return b >= '0' && b <= '9' || b >= 'a' && b <= 'f' || b >= 'A' && b <= 'F'
}
