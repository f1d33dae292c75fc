// Package markup reads XML as bytes: every element, attribute and text knows where it stands, so that it can be changed there. It checks
// that elements are closed as they were opened (XML 1.0, 2.1) and leaves namespaces to whoever reads, as prefixes.
package markup

import (
	"bytes"
	"fmt"
	"strconv"
	"strings"
	"unicode/utf8"

	"huekeep/core/limits"
)

// Event is what a Reader came upon.
type Event byte

const (
	End   Event = iota // of the document
	Open               // a start tag; an empty element is opened and closed
	Close              // an end tag
	Text               // character data or a CDATA section
	Doctype
)

// Attr is an attribute with the span of its value, without the quotes.
type Attr struct {
	Name       []byte // as written, with its prefix
	At         int    // where the name begins
	Start, End int
}

// Reader goes through a document. What it returns are pieces of the document, which it does not change.
type Reader struct {
	Data       []byte
	Start, End int    // the span of the event
	Name       []byte // of the element, as written
	Attrs      []Attr // of a start tag; overwritten by the next one
	Empty      bool   // the element that was opened has nothing in it
	CDATA      bool   // the text is a CDATA section: its span is without the marks
	Entities   map[string]string

	open    [][]byte
	closing bool
	at      int
	rooted  bool
}

// NewReader reads a document in UTF-8.
func NewReader(data []byte) *Reader {
	return &Reader{Data: data, at: len(data) - len(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")))}
}

// Depth is how many elements are open.
func (r *Reader) Depth() int { return len(r.open) }

// Local is a name without its prefix.
func Local(name []byte) []byte {
	for i, c := range name {
		if c == ':' {
			return name[i+1:]
		}
	}
	return name
}

// isLocal says whether a name without its prefix is local.
func isLocal(name []byte, local string) bool {
	n := len(name) - len(local)
	return n >= 0 && string(name[n:]) == local && (n == 0 || name[n-1] == ':')
}

// Line is the line that an offset lies in, counted from 1, and the column in it in characters.
func Line(data []byte, offset int) (line, column int) {
	start := bytes.LastIndexByte(data[:offset], '\n') + 1
	return 1 + bytes.Count(data[:start], []byte("\n")), 1 + utf8.RuneCount(data[start:offset])
}

func (r *Reader) wrong(at int, format string, args ...any) error {
	line, _ := Line(r.Data, min(at, len(r.Data)))
	return fmt.Errorf("line %d is not well-formed XML (%s)", line, fmt.Sprintf(format, args...))
}

// Next goes on to the next event; comments and processing instructions are passed over.
func (r *Reader) Next() (Event, error) {
	if r.closing {
		r.closing = false
		r.open = r.open[:len(r.open)-1]
		r.Start = r.End
		return Close, nil
	}
	d := r.Data
	for r.at < len(d) {
		i := r.at
		if d[i] != '<' {
			n := bytes.IndexByte(d[i:], '<')
			if n < 0 {
				n = len(d) - i
			}
			r.Start, r.End, r.at, r.CDATA = i, i+n, i+n, false
			if len(r.open) == 0 {
				if len(bytes.TrimSpace(d[i:r.End])) > 0 {
					return End, r.wrong(i, "text outside of the document's element")
				}
				continue
			}
			return Text, nil
		}
		if i+1 >= len(d) {
			break
		}
		switch d[i+1] {
		case '/':
			return r.close(i)
		case '?':
			n := bytes.Index(d[i:], []byte("?>"))
			if n < 0 {
				return End, r.wrong(i, "an instruction has no end")
			}
			r.at = i + n + 2
		case '!':
			switch {
			case bytes.HasPrefix(d[i:], []byte("<!--")):
				n := bytes.Index(d[i+4:], []byte("-->"))
				if n < 0 {
					return End, r.wrong(i, "a comment has no end")
				}
				r.at = i + 4 + n + 3
			case bytes.HasPrefix(d[i:], []byte("<![CDATA[")):
				n := bytes.Index(d[i+9:], []byte("]]>"))
				if n < 0 {
					return End, r.wrong(i, "a CDATA section has no end")
				}
				r.Start, r.End, r.at, r.CDATA = i+9, i+9+n, i+9+n+3, true
				if len(r.open) == 0 {
					return End, r.wrong(i, "text outside of the document's element")
				}
				return Text, nil
			case len(r.open) > 0 || r.rooted || !bytes.HasPrefix(d[i:], []byte("<!DOCTYPE")):
				return End, r.wrong(i, "a declaration stands where none may")
			default:
				end := doctypeEnd(d[i:])
				if end < 0 {
					return End, r.wrong(i, "a declaration has no end")
				}
				r.Start, r.End, r.at = i, i+end, i+end
				return Doctype, nil
			}
		default:
			return r.start(i)
		}
	}
	if r.at < len(d) {
		return End, r.wrong(r.at, "it ends in the middle of a tag")
	}
	if len(r.open) > 0 {
		return End, r.wrong(len(d), "it ends inside of %s", shown(r.open[len(r.open)-1]))
	}
	if !r.rooted {
		return End, r.wrong(len(d), "it has no element")
	}
	return End, nil
}

func shown(name []byte) string { return strconv.QuoteToGraphic(string(name[:min(len(name), 60)])) }

// blank says whether a byte is white space (XML 1.0, 2.3).
func blank(b byte) bool { return b == ' ' || b == '\t' || b == '\n' || b == '\r' }

// nameEnd marks the bytes that end a name.
var nameEnd = [256]bool{' ': true, '\t': true, '\n': true, '\r': true, '=': true, '>': true, '/': true, '<': true, '"': true, '\'': true}

func (r *Reader) start(i int) (Event, error) {
	d := r.Data
	at := i + 1
	for at < len(d) && !nameEnd[d[at]] {
		at++
	}
	if at == i+1 {
		return End, r.wrong(i, "a tag without a name")
	}
	if len(r.open) == 0 && r.rooted {
		return End, r.wrong(i, "a second element at the top")
	}
	if len(r.open) >= limits.Depth {
		line, _ := Line(d, i)
		return End, fmt.Errorf("line %d is nested over %d elements deep", line, limits.Depth)
	}
	r.Name, r.Attrs, r.rooted = d[i+1:at], r.Attrs[:0], true
	for {
		from := at
		for at < len(d) && blank(d[at]) {
			at++
		}
		if at >= len(d) {
			return End, r.wrong(i, "the tag %s has no end", shown(r.Name))
		}
		if d[at] == '>' {
			at++
			r.Empty = false
			break
		}
		if d[at] == '/' {
			if at+1 >= len(d) || d[at+1] != '>' {
				return End, r.wrong(at, "a slash inside of the tag %s", shown(r.Name))
			}
			at += 2
			r.Empty, r.closing = true, true
			break
		}
		if at == from {
			return End, r.wrong(at, "no space between the attributes of %s", shown(r.Name))
		}
		name := at
		for at < len(d) && !nameEnd[d[at]] {
			at++
		}
		nameTo := at
		for at < len(d) && blank(d[at]) {
			at++
		}
		if nameTo == name || at >= len(d) || d[at] != '=' {
			return End, r.wrong(name, "an attribute of %s without a value", shown(r.Name))
		}
		at++
		for at < len(d) && blank(d[at]) {
			at++
		}
		if at >= len(d) || d[at] != '"' && d[at] != '\'' {
			return End, r.wrong(name, "a value without quotes in %s", shown(r.Name))
		}
		n := bytes.IndexByte(d[at+1:], d[at])
		if n < 0 {
			return End, r.wrong(name, "a value of %s has no end", shown(r.Name))
		}
		if bytes.IndexByte(d[at+1:at+1+n], '<') >= 0 {
			return End, r.wrong(name, "a < inside of a value of %s", shown(r.Name))
		}
		r.Attrs = append(r.Attrs, Attr{d[name:nameTo], name, at + 1, at + 1 + n})
		at += n + 2
	}
	r.open = append(r.open, r.Name)
	r.Start, r.End, r.at = i, at, at
	return Open, nil
}

func (r *Reader) close(i int) (Event, error) {
	d := r.Data
	n := bytes.IndexByte(d[i:], '>')
	if n < 0 {
		return End, r.wrong(i, "an end tag has no end")
	}
	name := bytes.TrimRight(d[i+2:i+n], " \t\r\n")
	if len(r.open) == 0 || !bytes.Equal(r.open[len(r.open)-1], name) {
		if len(r.open) == 0 {
			return End, r.wrong(i, "%s is closed and was not opened", shown(name))
		}
		return End, r.wrong(i, "element %s is closed by %s", shown(r.open[len(r.open)-1]), shown(name))
	}
	r.open = r.open[:len(r.open)-1]
	r.Name, r.Start, r.End, r.at = name, i, i+n+1, i+n+1
	return Close, nil
}

// doctypeEnd is the length of a document type declaration, which may hold others in brackets (XML 1.0, 2.8); -1 if it has no end, or
// something else in them.
func doctypeEnd(d []byte) int {
	behind := func(i int, end string) int { // -1 if there is none
		if n := bytes.Index(d[i:], []byte(end)); n >= 0 {
			return i + n + len(end)
		}
		return -1
	}
	inside := false
	for i := 2; i >= 0 && i < len(d); {
		switch c := d[i]; {
		case !inside && (c == '"' || c == '\''):
			i = behind(i+1, string(c))
		case c == '[' && !inside:
			inside = true
			i++
		case c == ']' && inside:
			inside = false
			i++
		case c == '>' && !inside:
			return i + 1
		case inside && bytes.HasPrefix(d[i:], []byte("<!--")):
			i = behind(i+4, "-->")
		case inside && bytes.HasPrefix(d[i:], []byte("<?")):
			i = behind(i+2, "?>")
		case inside && bytes.HasPrefix(d[i:], []byte("<!")):
			var quote byte
			for i += 2; i < len(d) && (quote != 0 || d[i] != '>'); i++ {
				switch {
				case quote != 0 && d[i] == quote:
					quote = 0
				case quote == 0 && (d[i] == '"' || d[i] == '\''):
					quote = d[i]
				case quote == 0 && d[i] == '<':
					return -1
				}
			}
			i++
		case inside && c == '%':
			i = behind(i, ";")
		case c == '<' || inside && c != ' ' && c != '\t' && c != '\n' && c != '\r':
			return -1
		default:
			i++
		}
	}
	return -1
}

// Get is the value of an attribute by its local name, decoded; empty if the element has none.
func (r *Reader) Get(local string) string {
	if a := r.Find(local); a != nil {
		return r.Value(*a)
	}
	return ""
}

// Find returns the first attribute with a local name, nil if there is none.
func (r *Reader) Find(local string) *Attr {
	for i := range r.Attrs {
		if isLocal(r.Attrs[i].Name, local) {
			return &r.Attrs[i]
		}
	}
	return nil
}

// Value is the decoded value of an attribute.
func (r *Reader) Value(a Attr) string { return r.Decode(r.Data[a.Start:a.End]) }

// Decode writes out the references of a piece of the document (XML 1.0, 4.1); one that is not known stays as it is.
func (r *Reader) Decode(raw []byte) string {
	if bytes.IndexByte(raw, '&') < 0 {
		return string(raw)
	}
	var b strings.Builder
	for {
		i := bytes.IndexByte(raw, '&')
		if i < 0 {
			b.Write(raw)
			return b.String()
		}
		b.Write(raw[:i])
		raw = raw[i:]
		end := bytes.IndexByte(raw[:min(len(raw), 80)], ';')
		if end < 0 {
			b.Write(raw)
			return b.String()
		}
		name := string(raw[1:end])
		switch name {
		case "lt":
			b.WriteByte('<')
		case "gt":
			b.WriteByte('>')
		case "amp":
			b.WriteByte('&')
		case "quot":
			b.WriteByte('"')
		case "apos":
			b.WriteByte('\'')
		default:
			if text, ok := r.Entities[name]; ok {
				b.WriteString(text)
			} else if c, ok := character(name); ok {
				b.WriteRune(c)
			} else {
				b.Write(raw[:end+1])
			}
		}
		raw = raw[end+1:]
	}
}

func character(name string) (rune, bool) {
	digits, ok := strings.CutPrefix(name, "#")
	if !ok {
		return 0, false
	}
	base := 10
	if rest, ok := strings.CutPrefix(digits, "x"); ok {
		digits, base = rest, 16
	}
	n, err := strconv.ParseUint(digits, base, 32)
	return rune(n), err == nil && n <= utf8.MaxRune
}

// Known says whether every reference in a piece of the document is known, and names the first that is not.
func (r *Reader) Known(raw []byte) (unknown string, ok bool) {
	for {
		i := bytes.IndexByte(raw, '&')
		if i < 0 {
			return "", true
		}
		raw = raw[i:]
		end := bytes.IndexByte(raw[:min(len(raw), 80)], ';')
		if end < 0 {
			return "&", false
		}
		name := string(raw[1:end])
		switch name {
		case "lt", "gt", "amp", "quot", "apos":
		default:
			_, entity := r.Entities[name]
			if _, char := character(name); !entity && !char {
				return "&" + name + ";", false
			}
		}
		raw = raw[end+1:]
	}
}
