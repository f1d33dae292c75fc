package scanning

import (
	"reflect"
	"strconv"
	"strings"

	"huekeep/core/source"
)

// A scan makes a place in words, a span and a form for each of up to 200,000 uses, and they live as long as it does. They are cut from
// blocks, so that most of them cost no allocation.

// Texts are the strings of a scan.
type Texts struct {
	block strings.Builder
	line  []byte // that is put together
}

// Cut is a string of its own with the bytes of another. A block is twice as long as the one before, up to a bound.
func (t *Texts) Cut(text []byte) string {
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

// Join is strings put together.
func (t *Texts) Join(parts ...string) string {
	t.line = t.line[:0]
	for _, p := range parts {
		t.line = append(t.line, p...)
	}
	return t.Cut(t.line)
}

// Both is two parts with a comma between them, where there are two.
func (t *Texts) Both(a, b string) string {
	if a == "" {
		return b
	}
	return t.Join(a, ", ", b)
}

// Place is a place in a text: "base.css 12:7, context", with more behind it after a comma.
func (t *Texts) Place(name string, line, column int, context, more string) string {
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
	return t.Cut(b)
}

// Phrase is a place that is put together from parts with commas between them. Nothing else is made of the texts meanwhile.
type Phrase struct{ *Texts }

// Phrase begins a place.
func (t *Texts) Phrase() Phrase {
	t.line = t.line[:0]
	return Phrase{t}
}

// Add is another part.
func (p Phrase) Add(part string) Phrase {
	if len(p.line) > 0 {
		p.line = append(p.line, ", "...)
	}
	p.line = append(p.line, part...)
	return p
}

// More goes on with the part.
func (p Phrase) More(text string) Phrase {
	p.line = append(p.line, text...)
	return p
}

// Number goes on with a number.
func (p Phrase) Number(n int) Phrase {
	p.line = strconv.AppendInt(p.line, int64(n), 10)
	return p
}

// Done is the place.
func (p Phrase) Done() string { return p.Cut(p.line) }

// Block is a run of values that are handed out one by one.
type Block[T any] struct {
	free []T
	size int
}

// One is a place for a value.
func (b *Block[T]) One(v T) *T { return &b.Run(v)[0] }

// Run is a slice of one value, which grows into another place.
func (b *Block[T]) Run(v T) []T {
	if len(b.free) == 0 {
		b.size = min(512, max(8, 2*b.size))
		b.free = make([]T, b.size)
	}
	out := b.free[:1:1]
	b.free = b.free[1:]
	out[0] = v
	return out
}

// Blocks are those of a scan.
type Blocks struct {
	Texts Texts
	Spans Block[source.Span]
	kinds map[reflect.Type]any // those of one family, by what they are of
}

// BlockOf is the block of a scan for what only one family makes by the thousand.
func BlockOf[T any](b *Blocks) *Block[T] {
	key := reflect.TypeFor[T]()
	if own, ok := b.kinds[key]; ok {
		return own.(*Block[T])
	}
	if b.kinds == nil {
		b.kinds = map[reflect.Type]any{}
	}
	own := &Block[T]{}
	b.kinds[key] = own
	return own
}
