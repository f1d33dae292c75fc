// Package source holds a file as a tree of parts, each its raw bytes, and writes it again with some of those bytes changed and every
// other one as it was: an entry of an archive, a document inside a document, a stream of a PDF, a text in another encoding.
package source

import (
	"archive/zip"
	"bytes"
	"fmt"
	"hash/crc32"
	"io"
	"slices"
	"strings"
	"sync"

	"github.com/klauspost/compress/flate"

	"huekeep/core/archive"
	"huekeep/core/limits"
)

// File is a file with what is in it. It is for one goroutine at a time.
type File struct {
	Root *Part
	left int64 // bytes that may still be unpacked
}

// Part is a run of raw bytes that is read on its own: the file itself, or something in it. Parts are compared by pointer.
type Part struct {
	Name    string // of the file, or of the entry as the archive writes it
	Parent  *Part  // nil for the file
	file    *File
	entry   *zip.File // of an entry of an archive
	data    []byte
	read    bool
	counted bool // against what may be unpacked
	opened  bool
	parts   []*Part // of an archive or another container
	depth   int

	within []*Part                           // parts that stand in spans of this one
	span   Span                              // of the parent, for a part that stands in one
	encode func(data []byte) ([]byte, error) // back to what stands in that span

	rewrite func(changed map[*Part][]byte) ([]byte, error) // of a container that is no archive
}

// Span is the raw bytes of a part from Start up to, and without, End.
type Span struct {
	Part       *Part
	Start, End int
}

// Edit puts other bytes where a span is.
type Edit struct {
	Span
	New []byte
}

// Open takes a file. Nothing is unpacked yet.
func Open(name string, data []byte) *File {
	f := &File{left: limits.UnpackedBytes}
	f.Root = &Part{Name: name, file: f, data: data, read: true, counted: true}
	return f
}

// Within adds a part that stands in a span of this one in an encoding of its own, such as a data URI. One that lies too deep is an error.
func (p *Part) Within(name string, start, end int, data []byte, encode func(data []byte) ([]byte, error)) (*Part, error) {
	in, err := p.add(name, data)
	if err != nil {
		return nil, err
	}
	in.span, in.encode = Span{p, start, end}, encode
	p.within = append(p.within, in)
	return in, nil
}

// Recoded gives a span of the part's text in another coding, with how it is written back: all of a text in UTF-8, an attribute without
// its references.
func (p *Part) Recoded(start, end int, data []byte, encode func(data []byte) ([]byte, error)) *Part {
	in := &Part{Name: p.Name, Parent: p, file: p.file, data: data, read: true, counted: true, depth: p.depth, encode: encode}
	in.span = Span{p, start, end}
	p.within = append(p.within, in)
	return in
}

// Hold makes the part a container that is no archive: rewrite gives its bytes when the content of some of its parts has changed.
func (p *Part) Hold(rewrite func(changed map[*Part][]byte) ([]byte, error)) {
	p.opened, p.rewrite = true, rewrite
}

// Held adds a part to a container.
func (p *Part) Held(name string, data []byte) *Part {
	in := &Part{Name: name, Parent: p, file: p.file, data: data, read: true, counted: true, depth: p.depth}
	p.parts = append(p.parts, in)
	return in
}

func (p *Part) add(name string, data []byte) (*Part, error) {
	if p.depth >= limits.Nested {
		return nil, fmt.Errorf("%q lies over %d documents deep; it is not looked into", name, limits.Nested)
	}
	if p.file.left -= int64(len(data)); p.file.left < 0 {
		return nil, fmt.Errorf("%q is not looked into: the file unpacks to over %s", name, limits.Size(limits.UnpackedBytes))
	}
	return &Part{Name: name, Parent: p, file: p.file, data: data, read: true, counted: true, depth: p.depth + 1}, nil
}

// Release lets go of what was unpacked of an entry that nothing else was found in. It is unpacked again when it is asked for.
func (p *Part) Release() {
	if p.entry != nil && len(p.parts) == 0 && len(p.within) == 0 {
		p.data, p.read = nil, false
	}
}

// Path names the part and what it is in, from the outside in.
func (p *Part) Path() []string {
	if p == nil {
		return nil
	}
	return append(p.Parent.Path(), p.Name)
}

// Bytes is the part's content, unpacked. An entry that is too large, damaged, encrypted or packed in a way that is not known is an error
// that names it.
func (p *Part) Bytes() ([]byte, error) {
	if p.read {
		return p.data, nil
	}
	if p.entry.Flags&1 != 0 { // APPNOTE 4.4.4
		return nil, fmt.Errorf("its part %q is encrypted", p.Name)
	}
	if p.entry.UncompressedSize64 > limits.PartBytes {
		return nil, fmt.Errorf("its part %q unpacks to %s; at most %s are read", p.Name,
			limits.Size(int64(min(p.entry.UncompressedSize64, 1<<62))), limits.Size(limits.PartBytes))
	}
	r, err := p.entry.Open()
	if err != nil {
		return nil, fmt.Errorf("its part %q cannot be unpacked (%w)", p.Name, err)
	}
	defer r.Close()
	most := min(p.file.left, limits.PartBytes)
	if p.counted {
		most = limits.PartBytes
	}
	var unpacked bytes.Buffer
	unpacked.Grow(int(min(p.entry.UncompressedSize64, uint64(len(p.file.Root.data))*32+1<<16)) + bytes.MinRead)
	_, err = unpacked.ReadFrom(io.LimitReader(r, most+1))
	data := unpacked.Bytes()
	if !p.counted {
		p.file.left -= int64(len(data))
		p.counted = true
	}
	switch {
	case int64(len(data)) > most:
		return nil, fmt.Errorf("its part %q unpacks to more than the limit of %s for one part or %s for all", p.Name,
			limits.Size(limits.PartBytes), limits.Size(limits.UnpackedBytes))
	case err != nil:
		return nil, fmt.Errorf("its part %q is damaged (%w)", p.Name, err)
	}
	p.data, p.read = data, true
	return data, nil
}

// Parts lists the entries of a part that is an archive, in their order; none for any other. Folders are left out.
func (p *Part) Parts() ([]*Part, error) {
	if p.opened {
		return p.parts, nil
	}
	data, err := p.Bytes()
	if err != nil {
		return nil, err
	}
	if !archive.Is(data) {
		p.opened = true
		return nil, nil
	}
	if p.depth >= limits.Nested {
		return nil, fmt.Errorf("its part %q lies %d documents deep; it is not looked into", p.Name, p.depth)
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, fmt.Errorf("%q is not a whole ZIP archive: its directory is missing or damaged, as in a file that was cut off", p.Name)
	}
	z.RegisterDecompressor(zip.Deflate, unpacker)
	if len(z.File) > limits.Entries {
		return nil, fmt.Errorf("%q has %d entries; at most %d are read", p.Name, len(z.File), limits.Entries)
	}
	for _, e := range z.File {
		if !e.FileInfo().IsDir() {
			p.parts = append(p.parts, &Part{Name: e.Name, Parent: p, file: p.file, entry: e, depth: p.depth + 1})
		}
	}
	p.opened = true
	return p.parts, nil
}

// Find returns the first entry of that name; nil if there is none.
func (p *Part) Find(name string) *Part {
	parts, err := p.Parts()
	if err != nil {
		return nil
	}
	for _, e := range parts {
		if e.Name == name {
			return e
		}
	}
	return nil
}

// Text is what stands in a span.
func (s Span) Text() (string, error) {
	data, err := s.Part.Bytes()
	if err != nil {
		return "", err
	}
	if s.Start < 0 || s.End < s.Start || s.End > len(data) {
		return "", fmt.Errorf("a span from %d to %d does not lie in %q, which has %d bytes", s.Start, s.End, s.Part.Name, len(data))
	}
	return string(data[s.Start:s.End]), nil
}

// Apply writes the file with edits. Without any, the bytes are the file's own. Of an archive, entries in which nothing changed are carried
// over as they are, packed bytes, order, times and extra fields; a changed one is packed anew with its method. Spans that overlap, or lie
// outside of their part, are an error, and nothing is written.
func (f *File) Apply(edits []Edit) ([]byte, error) {
	by := map[*Part][]Edit{}
	touched := map[*Part]bool{}
	for _, e := range edits {
		if e.Part == nil || e.Part.file != f {
			return nil, fmt.Errorf("an edit is of another file")
		}
		if _, err := e.Text(); err != nil {
			return nil, err
		}
		by[e.Part] = append(by[e.Part], e)
		for p := e.Part; p != nil; p = p.Parent {
			touched[p] = true
		}
	}
	return f.Root.write(by, touched)
}

func (p *Part) write(by map[*Part][]Edit, touched map[*Part]bool) ([]byte, error) {
	if !touched[p] {
		return p.Bytes()
	}
	own := by[p]
	for _, in := range p.within {
		if touched[in] {
			data, err := in.write(by, touched)
			if err != nil {
				return nil, err
			}
			if data, err = in.encode(data); err != nil {
				return nil, fmt.Errorf("%q: %w", in.Name, err)
			}
			own = append(slices.Clip(own), Edit{in.span, data})
		}
	}
	inside := slices.ContainsFunc(p.parts, func(e *Part) bool { return touched[e] })
	switch {
	case len(own) > 0 && inside:
		return nil, fmt.Errorf("%q is changed as a whole and in its parts", p.Name)
	case len(own) > 0:
		return spliced(p, own)
	case p.rewrite != nil:
		changed := map[*Part][]byte{}
		for _, in := range p.parts {
			if touched[in] {
				data, err := in.write(by, touched)
				if err != nil {
					return nil, err
				}
				changed[in] = data
			}
		}
		return p.rewrite(changed)
	}
	return p.archive(by, touched)
}

// spliced puts edits into the bytes of a part.
func spliced(p *Part, edits []Edit) ([]byte, error) {
	data, err := p.Bytes()
	if err != nil {
		return nil, err
	}
	edits = slices.Clone(edits)
	slices.SortStableFunc(edits, func(a, b Edit) int { return a.Start - b.Start })
	var out bytes.Buffer
	at := 0
	for i, e := range edits {
		if i > 0 && (e.Start < edits[i-1].End || e.Start == edits[i-1].Start) {
			return nil, fmt.Errorf("two edits of %q overlap at %d", p.Name, e.Start)
		}
		out.Write(data[at:e.Start])
		out.Write(e.New)
		at = e.End
	}
	out.Write(data[at:])
	return out.Bytes(), nil
}

// archive writes an archive again.
func (p *Part) archive(by map[*Part][]Edit, touched map[*Part]bool) ([]byte, error) {
	z, err := zip.NewReader(bytes.NewReader(p.data), int64(len(p.data)))
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	if err := w.SetComment(z.Comment); err != nil {
		return nil, err
	}
	next := 0 // the parts are the entries without the folders
	for _, e := range z.File {
		var part *Part
		if !e.FileInfo().IsDir() {
			part = p.parts[next]
			next++
		}
		if part == nil || !touched[part] {
			if err := carry(w, e); err != nil {
				return nil, fmt.Errorf("%q cannot be carried over: %w", e.Name, err)
			}
			continue
		}
		content, err := part.write(by, touched)
		if err != nil {
			return nil, err
		}
		if err := repack(w, e, content); err != nil {
			return nil, fmt.Errorf("%q cannot be packed: %w", e.Name, err)
		}
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// carry copies an entry without unpacking it.
func carry(w *zip.Writer, e *zip.File) error {
	raw, err := e.OpenRaw()
	if err != nil {
		return err
	}
	head := e.FileHeader
	if strings.HasSuffix(e.Name, "/") { // some writers pack a folder's nothing
		head.Method, head.Flags, head.CRC32, head.CompressedSize64, head.UncompressedSize64 = zip.Store, head.Flags&^8, 0, 0, 0
		if e.UncompressedSize64 > 0 {
			return fmt.Errorf("it is a folder and holds %d bytes", e.UncompressedSize64)
		}
		_, err := w.CreateRaw(&head)
		return err
	}
	to, err := w.CreateRaw(&head)
	if err != nil {
		return err
	}
	_, err = io.Copy(to, raw)
	return err
}

// unpackers are used again, as packers are.
var unpackers = sync.Pool{New: func() any { return flate.NewReader(nil) }}

// pooled gives an unpacker back when it is closed.
type pooled struct{ io.ReadCloser }

func unpacker(r io.Reader) io.ReadCloser {
	f := unpackers.Get().(io.ReadCloser)
	if err := f.(flate.Resetter).Reset(r, nil); err != nil {
		panic(err) // which only a dictionary can give
	}
	return &pooled{f}
}

func (p *pooled) Close() error {
	if p.ReadCloser == nil {
		return nil
	}
	err := p.ReadCloser.Close()
	unpackers.Put(p.ReadCloser)
	p.ReadCloser = nil
	return err
}

// packers are used again: making one costs more than packing a small entry.
var packers = sync.Pool{New: func() any {
	f, err := flate.NewWriter(nil, flate.DefaultCompression)
	if err != nil {
		panic(err) // the level is one that there is
	}
	return f
}}

// repack writes an entry with other content, under its own header.
func repack(w *zip.Writer, e *zip.File, content []byte) error {
	packed := content
	switch e.Method {
	case zip.Store:
	case zip.Deflate:
		var b bytes.Buffer
		f := packers.Get().(*flate.Writer)
		defer packers.Put(f)
		f.Reset(&b)
		if _, err := f.Write(content); err != nil {
			return err
		}
		if err := f.Close(); err != nil {
			return err
		}
		packed = b.Bytes()
	default:
		return fmt.Errorf("its method %d is not known", e.Method)
	}
	head := e.FileHeader
	head.Flags &^= 8 // sizes and checksum are known beforehand, and stand in front
	head.CRC32 = crc32.ChecksumIEEE(content)
	head.CompressedSize64, head.UncompressedSize64 = uint64(len(packed)), uint64(len(content))
	to, err := w.CreateRaw(&head)
	if err != nil {
		return err
	}
	_, err = to.Write(packed)
	return err
}

// Count is how many parts were found in the file so far, without the file itself.
func (f *File) Count() int { return f.Root.count() }

func (p *Part) count() (n int) {
	for _, list := range [][]*Part{p.parts, p.within} {
		for _, in := range list {
			n += 1 + in.count()
		}
	}
	return n
}
