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
	block  strings.Builder
	digits [20]byte
}

// room begins another block where this one has not so many bytes left; one is twice as long as the one before, up to a bound.
func (t *texts) room(n int) int {
	const least, most = 1 << 10, 1 << 16
	if t.block.Cap()-t.block.Len() < n {
		next := max(n, least, min(most, 2*t.block.Cap()))
		t.block.Reset()
		t.block.Grow(next)
	}
	return t.block.Len()
}

// join is strings put together.
func (t *texts) join(parts ...string) string {
	n := 0
	for _, p := range parts {
		n += len(p)
	}
	from := t.room(n)
	for _, p := range parts {
		t.block.WriteString(p)
	}
	return t.block.String()[from:]
}

func (t *texts) count(n int) { t.block.Write(strconv.AppendInt(t.digits[:0], int64(n), 10)) }

// place is a place in a text: "base.css 12:7, context", with more behind it after a comma.
func (t *texts) place(name string, line, column int, context, more string) string {
	from := t.room(len(name) + len(context) + len(more) + 48)
	t.block.WriteString(name)
	t.block.WriteByte(' ')
	t.count(line)
	t.block.WriteByte(':')
	t.count(column)
	for _, s := range [2]string{context, more} {
		if s != "" {
			t.block.WriteString(", ")
			t.block.WriteString(s)
		}
	}
	return t.block.String()[from:]
}

// phrase is a place that is put together from parts with commas between them. Nothing else is made of the texts meanwhile.
type phrase struct {
	*texts
	from int
}

func (t *texts) phrase() phrase { return phrase{t, t.room(160)} }

// add is another part.
func (p phrase) add(part string) phrase {
	if p.block.Len() > p.from {
		p.block.WriteString(", ")
	}
	p.block.WriteString(part)
	return p
}

// more goes on with the part.
func (p phrase) more(text string) phrase {
	p.block.WriteString(text)
	return p
}

// number goes on with a number.
func (p phrase) number(n int) phrase {
	p.count(n)
	return p
}

// done is the place.
func (p phrase) done() string { return p.block.String()[p.from:] }

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
