package audit

import (
	"strconv"
	"strings"

	"huekeep/core/source"
)

// A scan makes a place in words, a span and a form for each of up to 200,000 uses, and they live as long as it does. They are cut from
// blocks, so that most of them cost no allocation.

// texts are the strings of a scan.
type texts struct {
	block strings.Builder
	line  []byte // that is put together
}

// cut is a string of its own with the bytes of another. A block is twice as long as the one before, up to a bound.
func (t *texts) cut(text []byte) string {
	const least, most = 1 << 10, 1 << 16
	if t.block.Cap()-t.block.Len() < len(text) {
		next := max(len(text), least, min(most, 2*t.block.Cap()))
		t.block.Reset()
		t.block.Grow(next)
	}
	from := t.block.Len()
	t.block.Write(text)
	return t.block.String()[from:]
}

// join is strings put together.
func (t *texts) join(parts ...string) string {
	t.line = t.line[:0]
	for _, p := range parts {
		t.line = append(t.line, p...)
	}
	return t.cut(t.line)
}

// both is two parts with a comma between them, where there are two.
func (t *texts) both(a, b string) string {
	if a == "" {
		return b
	}
	return t.join(a, ", ", b)
}

// place is a place in a text: "base.css 12:7, context", with more behind it after a comma.
func (t *texts) place(name string, line, column int, context, more string) string {
	b := append(append(t.line[:0], name...), ' ')
	b = strconv.AppendInt(b, int64(line), 10)
	b = strconv.AppendInt(append(b, ':'), int64(column), 10)
	if context != "" {
		b = append(append(b, ", "...), context...)
	}
	if more != "" {
		b = append(append(b, ", "...), more...)
	}
	t.line = b
	return t.cut(b)
}

// phrase is a place that is put together from parts with commas between them. Nothing else is made of the texts meanwhile.
type phrase struct{ *texts }

func (t *texts) phrase() phrase {
	t.line = t.line[:0]
	return phrase{t}
}

// add is another part.
func (p phrase) add(part string) phrase {
	if len(p.line) > 0 {
		p.line = append(p.line, ", "...)
	}
	p.line = append(p.line, part...)
	return p
}

// more goes on with the part.
func (p phrase) more(text string) phrase {
	p.line = append(p.line, text...)
	return p
}

// number goes on with a number.
func (p phrase) number(n int) phrase {
	p.line = strconv.AppendInt(p.line, int64(n), 10)
	return p
}

// done is the place.
func (p phrase) done() string { return p.cut(p.line) }

// block is a run of values that are handed out one by one.
type block[T any] struct {
	free []T
	size int
}

// one is a place for a value.
func (b *block[T]) one(v T) *T { return &b.run(v)[0] }

// run is a slice of one value, which grows into another place.
func (b *block[T]) run(v T) []T {
	if len(b.free) == 0 {
		b.size = min(512, max(8, 2*b.size))
		b.free = make([]T, b.size)
	}
	out := b.free[:1:1]
	b.free = b.free[1:]
	out[0] = v
	return out
}

// blocks are those of a scan.
type blocks struct {
	texts texts
	spans block[source.Span]
	css   block[cssForm]
	drawn block[drawingForm]
	word  block[wordForm]
}
