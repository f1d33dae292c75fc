// Package scanning is what the kinds of files have in common that audits read: the scanner that they report to, where a text is, XML with
// its places.
package scanning

import (
	"bytes"
	"errors"
	"fmt"
	"hash/maphash"
	"image"
	"math/bits"
	"path"
	"sort"
	"strings"
	"unicode/utf8"

	"huekeep/core/audit"
	"huekeep/core/limits"
	"huekeep/core/picture"
	"huekeep/core/recognize"
	"huekeep/core/source"
)

// Watch is told how far a scan has come: what has been read, in the user's terms, and the share of the whole, 0 to 1. An error
// from it ends the scan.
type Watch func(what string, share float64) error

// At tells it, if there is one.
func (w Watch) At(what string, share float64) error {
	if w == nil {
		return nil
	}
	return w(what, share)
}

// Steady gives a watch that is told the last share again where none is known, which is under 0.
func (w Watch) Steady() Watch {
	if w == nil {
		return nil
	}
	last := 0.0
	return func(what string, share float64) error {
		if share < 0 {
			share = last
		}
		last = max(last, min(share, 1))
		return w(what, last)
	}
}

// NowAndThen is every so many tokens, a few milliseconds.
const NowAndThen = 4096

// Read tells how much of a text has been read.
func (w Watch) Read(at, of int) error {
	if w == nil {
		return nil
	}
	return w(limits.Size(int64(at))+" of "+limits.Size(int64(of)), float64(at)/float64(max(1, of)))
}

// Frames takes frames out of a video: at most so many, evenly spread and where the scene changes. f is given each with its time and with
// how long it stands for what is seen, in seconds.
type Frames func(data []byte, most int, f func(at, lasts float64, frame *image.NRGBA) error) (Looked, error)

// Looked says how a video was looked at.
type Looked struct {
	Note    string  // what a person should know of how its colors were read, or empty
	Apart   float64 // seconds between the frames that are evenly spread
	Changes int     // of scene that were looked at
	Passed  int     // changes of scene beyond what is looked at
}

// Kind is how files of one kind are read. A new kind is one file of code in the package of its family, and one row of core/audit/kinds.
type Kind struct {
	Name       string
	Label      string // for a sentence and for the README: "a presentation"
	Extensions []string
	// Is looks at the content; the extension only decides between texts that look alike.
	Is   func(extension string, c recognize.Content) bool
	Scan func(s *Scanner, p *source.Part, name string) (about string, err error)
	Text bool   // its places begin with the file's name and a line
	Pack string // of a kind that is a ZIP archive, as of recognize.Content
}

// Table is how a file in a file finds its kind.
type Table interface {
	// Of is the kind of a file by its name and content; the error is a sentence with its name.
	Of(name string, data []byte) (k Kind, base string, err error)
	// Named is the first kind that has an extension.
	Named(extension string) Kind
}

// Shared is what the files of a project say of each other: what one defines, another refers to. Uses that wait for a definition are
// reported by Resolve, when all files have been read.
type Shared interface {
	Size() int // how much they define and ask
	Join(other Shared)
	Resolve()
}

// The places of what is shared.
const (
	SheetVariables = iota
	DesignTokens
)

// Scanner is what one scan shares between the kinds of documents inside each other.
type Scanner struct {
	Watch  Watch
	Frames Frames // nil if video cannot be looked into
	Result *audit.Scan
	Ramped bool // it was said how ramps of pictures are judged
	Tally  *Tally
	Table  Table
	Shared []Shared // by SheetVariables and DesignTokens
	Prefix string   // of the places of a document inside another: "deck.pptx > "
	Inside bool     // of another document
	Slack  [3]float64
	Codes  *picture.Codes // of the picture that is read
	Exact  bool           // its pixels are those codes, and not sRGB
	*Blocks
}

// New begins the scan of a file of a kind.
func New(kind string, f *source.File, watch Watch, frames Frames, kinds Table, project []Shared) *Scanner {
	return &Scanner{Watch: watch, Frames: frames, Result: &audit.Scan{Kind: kind, File: f}, Tally: &Tally{}, Table: kinds, Shared: project,
		Blocks: &Blocks{}}
}

// Note keeps a sentence once.
func (s *Scanner) Note(format string, args ...any) {
	text := fmt.Sprintf(format, args...)
	for _, n := range s.Result.Notes {
		if n == text {
			return
		}
	}
	s.Result.Notes = append(s.Result.Notes, text)
}

// Unread notes a part that cannot be read.
func (s *Scanner) Unread(name string, err error) {
	const most = 200
	if len(s.Result.Unread) == most {
		s.Note("More than %d parts could not be read; only the first are named.", most)
		return
	}
	s.Result.Unread = append(s.Result.Unread, audit.Unread{Path: s.Prefix + name, Why: err.Error()})
}

// Add reports a use; its place follows the prefix of the document that it is in.
func (s *Scanner) Add(u *audit.Use) {
	if s.Prefix != "" {
		in := *u
		in.Where = s.Prefix + u.Where
		u = &in
	}
	s.Tally.Add(u)
}

// Embedded scans a part that a document shows, at a place of it.
func (s *Scanner) Embedded(p *source.Part, place string) error {
	data, err := p.Bytes()
	if err != nil {
		s.Unread(place, err)
		return nil
	}
	k, _, err := s.Table.Of(p.Name, data)
	if err != nil {
		why := "it is in a format that is not read"
		if bytes.HasPrefix(data, []byte{0xd0, 0xcf, 0x11, 0xe0}) {
			why = "it is an object of an older format, which is not read"
		}
		s.Unread(place, errors.New(why))
		p.Release()
		return nil
	}
	if k.Text {
		return s.ScanAs(k, p, place)
	}
	in := *s
	in.Prefix += place + " > "
	in.Inside = true
	if k.Name == "picture" {
		in.Prefix = s.Prefix
	}
	if _, err := k.Scan(&in, p, place); err != nil {
		if err := s.Watch.At(place, -1); err != nil {
			return err
		}
		s.Unread(place, err)
	}
	p.Release()
	return s.Tally.Check()
}

// ScanAs scans a file of an archive as one of a kind, under a name. What cannot be read is noted, and does not end the scan; an end that
// was asked for does.
func (s *Scanner) ScanAs(k Kind, p *source.Part, name string) error {
	in := *s
	in.Inside = true
	in.Watch = nil
	if s.Watch != nil {
		watch := s.Watch
		in.Watch = func(what string, share float64) error { // the share is that of the file, and told by whoever goes over its parts
			return watch(path.Base(name)+": "+what, -1)
		}
	}
	if !k.Text {
		in.Prefix += name + " > "
	}
	if _, err := k.Scan(&in, p, name); err != nil {
		if err := s.Watch.At(name, -1); err != nil {
			return err // given up
		}
		s.Unread(name, err)
	}
	p.Release()
	return s.Tally.Check()
}

// Tally gathers uses and adds up those that are the same color in the same place. It holds them in chunks, each twice as long as the one
// before, since they are large.
type Tally struct {
	at       map[uint64]int // of a use by the hash of what makes it the same, or a number after it where that is another's
	chunks   [][]audit.Use
	Count    int
	Full     bool
	last     audit.Color
	screen   map[uint32]bool      // the different colors of screens
	distinct map[audit.Color]bool // and the others
}

// firstChunk is how many uses the first chunk has.
const firstChunk = 64

// Use is the i-th use.
func (t *Tally) Use(i int) *audit.Use {
	chunk := bits.Len(uint(i/firstChunk+1)) - 1
	return &t.chunks[chunk][i-firstChunk*(1<<chunk-1)]
}

// List is all uses.
func (t *Tally) List() []*audit.Use {
	out := make([]*audit.Use, 0, t.Count)
	for _, c := range t.chunks {
		for i := range c {
			out = append(out, &c[i])
		}
	}
	return out
}

// same says whether two uses are to be added up.
func same(a, b *audit.Use) bool {
	return a.Where == b.Where && a.Value == b.Value && a.Color == b.Color && a.Alpha == b.Alpha && a.Link == b.Link && a.Why == b.Why &&
		a.Hidden == b.Hidden
}

var hashed = maphash.MakeSeed()

// hash is a number of what differs most among uses.
func hash(u *audit.Use) uint64 {
	rgb := uint64(u.RGB.R)<<16 | uint64(u.RGB.G)<<8 | uint64(u.RGB.B)
	return maphash.String(hashed, u.Where) ^ bits.RotateLeft64(maphash.String(hashed, u.Value), 17) ^ rgb*0x9e3779b97f4a7c15
}

// Add takes a copy of a use.
func (t *Tally) Add(u *audit.Use) {
	if u.Count == 0 {
		u.Count = 1
	}
	if u.Alpha == 0 {
		u.Alpha = 1 // a color that is fully transparent is no use
	}
	var at uint64
	if u.Line == 0 { // else it is a place of its own
		for at = hash(u); ; at++ {
			i, ok := t.at[at]
			if !ok {
				break
			}
			if other := t.Use(i); same(other, u) {
				other.Count += u.Count
				other.At = append(other.At, u.At...)
				return
			}
		}
	}
	if t.Count >= limits.FoundPlaces {
		t.Full = true
		return
	}
	if t.at == nil {
		t.at, t.screen, t.distinct = map[uint64]int{}, map[uint32]bool{}, map[audit.Color]bool{}
	}
	if u.Line == 0 {
		t.at[at] = t.Count
	}
	if u.Color != t.last || t.Count == 0 {
		t.last = u.Color
		if c := u.Color; c == audit.Screen(c.RGB) {
			t.screen[uint32(c.RGB.R)<<16|uint32(c.RGB.G)<<8|uint32(c.RGB.B)] = true
		} else {
			t.distinct[c] = true
		}
	}
	last := len(t.chunks) - 1
	if last < 0 || len(t.chunks[last]) == cap(t.chunks[last]) {
		last++
		t.chunks = append(t.chunks, make([]audit.Use, 0, firstChunk<<last))
	}
	t.chunks[last] = append(t.chunks[last], *u)
	t.Count++
}

// ErrTooMany is that of a tally that ran over.
var ErrTooMany = fmt.Errorf("it holds colors in over %d places", limits.FoundPlaces)

// Check turns a tally that ran over into an error: a report that silently lacks uses would be worse than none.
func (t *Tally) Check() error {
	if t.Full {
		return ErrTooMany
	}
	if n := len(t.screen) + len(t.distinct); n > limits.FoundColors {
		return fmt.Errorf("it holds %d different colors; at most %d are judged", n, limits.FoundColors)
	}
	return nil
}

// Sorted returns the keys of a map in order, so that the same input gives the same report.
func Sorted[V any](m map[string]V) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	return keys
}

// Shorten cuts a text that has over n characters.
func Shorten(s string, n int) string {
	if len(s) <= n {
		return s
	}
	if !utf8.ValidString(s) {
		s = strings.ToValidUTF8(s, "\uFFFD")
	}
	count, cut := 0, 0
	for i := range s {
		if count == n-3 {
			cut = i
		}
		if count++; count > n {
			return s[:cut] + "..."
		}
	}
	return s
}

// Extension is the extension of a file's name in small letters.
func Extension(name string) string { return strings.ToLower(path.Ext(name)) }
