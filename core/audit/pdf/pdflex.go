package pdf

import "bytes"

// pdfLexer takes a content stream apart (7.8.2): numbers, names and operators; strings, arrays and dictionaries are one word each, which
// begins with their bracket.
type pdfLexer struct {
	data []byte
	at   int
}

var pdfSpecial = [256]bool{' ': true, '\t': true, '\r': true, '\n': true, '\f': true, 0: true, '[': true, ']': true, '{': true, '}': true,
	'(': true, ')': true, '<': true, '>': true, '/': true, '%': true}

func (l *pdfLexer) next() (word []byte, start, end int) {
	d := l.data
	for l.at < len(d) {
		i := l.at
		switch c := d[i]; c {
		case ' ', '\t', '\r', '\n', '\f', 0, ']', '}', ')', '>':
			l.at++
		case '%':
			for l.at < len(d) && d[l.at] != '\n' && d[l.at] != '\r' {
				l.at++
			}
		case '(':
			depth := 0
			k := i
			for ; k < len(d); k++ {
				if d[k] == '\\' {
					k++
				} else if d[k] == '(' {
					depth++
				} else if d[k] == ')' {
					if depth--; depth == 0 {
						k++
						break
					}
				}
			}
			l.at = min(k, len(d))
			return d[i:l.at], i, l.at
		case '[', '{':
			l.at++
			depth := 1
			for l.at < len(d) && depth > 0 {
				switch d[l.at] {
				case '[':
					depth++
				case ']', '}':
					depth--
				case '(':
					inner := pdfLexer{d, l.at}
					inner.next()
					l.at = inner.at - 1
				}
				l.at++
			}
			return d[i:min(l.at, len(d))], i, min(l.at, len(d))
		case '<':
			if i+1 < len(d) && d[i+1] == '<' {
				l.at = i + 2
				depth := 1
				for l.at < len(d) && depth > 0 {
					switch {
					case d[l.at] == '(':
						inner := pdfLexer{d, l.at}
						inner.next()
						l.at = inner.at
						continue
					case bytes.HasPrefix(d[l.at:], []byte("<<")):
						depth++
						l.at++
					case bytes.HasPrefix(d[l.at:], []byte(">>")):
						depth--
						l.at++
					}
					l.at++
				}
				l.at = min(l.at, len(d))
				return d[i:l.at], i, l.at
			}
			n := bytes.IndexByte(d[i:], '>')
			if n < 0 {
				l.at = len(d)
				return nil, 0, 0
			}
			l.at = i + n + 1
			return d[i:l.at], i, l.at
		default:
			l.at++
			for l.at < len(d) && !pdfSpecial[d[l.at]] {
				l.at++
			}
			return d[i:l.at], i, l.at
		}
	}
	return nil, 0, 0
}

// skipInline passes over the picture that follows BI, up to EI between blanks (8.9.7), and says whether it is a stencil.
func (l *pdfLexer) skipInline() (stencil bool) {
	key := ""
	for {
		word, _, _ := l.next()
		if word == nil {
			return stencil
		}
		if string(word) == "ID" {
			break
		}
		stencil = stencil || (key == "/IM" || key == "/ImageMask") && string(word) == "true"
		key = string(word)
	}
	for {
		n := bytes.Index(l.data[l.at:], []byte("EI"))
		if n < 0 {
			l.at = len(l.data)
			return stencil
		}
		l.at += n + 2
		before, after := l.at-3, l.at
		if before >= 0 && pdfSpecial[l.data[before]] && (after >= len(l.data) || pdfSpecial[l.data[after]]) {
			return stencil
		}
	}
}
