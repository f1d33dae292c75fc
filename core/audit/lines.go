package audit

import (
	"bytes"
	"sort"
	"unicode/utf8"
)

// lines finds the line and the column of offsets in a text; the text is gone through once.
type lines struct {
	data   []byte
	starts []int
	last   int // the line that was asked for last: most come in order
	lastAt int // with an offset in it and its column, since a text may be one line of megabytes
	column int
	line   int // of a text in another one: how many lines and, in its first line, characters stand before it
	shift  int
}

func newLines(data []byte) *lines {
	l := &lines{data: data, starts: []int{0}, last: -1}
	for at := 0; ; {
		i := bytes.IndexByte(data[at:], '\n')
		if i < 0 {
			return l
		}
		at += i + 1
		l.starts = append(l.starts, at)
	}
}

// newCueLines is newLines for WebVTT, where a CR by itself ends a line too (WebVTT, 4.1).
func newCueLines(data []byte) *lines {
	l := &lines{data: data, starts: []int{0}, last: -1}
	for i, c := range data {
		if c == '\n' || c == '\r' && (i+1 == len(data) || data[i+1] != '\n') {
			l.starts = append(l.starts, i+1)
		}
	}
	return l
}

// at gives the line and the column, in characters, of an offset, both from 1.
func (l *lines) at(offset int) (line, column int) {
	n, near := max(0, l.last), 8
	if offset >= l.starts[n] {
		for near > 0 && n+1 < len(l.starts) && l.starts[n+1] <= offset {
			n++
			near--
		}
	} else {
		near = 0
	}
	if near == 0 {
		n = sort.SearchInts(l.starts, offset+1) - 1
	}
	from, column := l.starts[n], 1
	if n == l.last && offset >= l.lastAt {
		from, column = l.lastAt, l.column
	}
	column += utf8.RuneCount(l.data[from:offset])
	l.last, l.lastAt, l.column = n, offset, column
	if n == 0 {
		column += l.shift
	}
	return l.line + n + 1, column
}
