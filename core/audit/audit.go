// Package audit finds every color in a project file and judges it against a library.
//
// A scanner, one file of code a kind of file, reports uses: a color with its value as written, its place in words, the bytes that say it,
// the form in which another color could be written there, and what it is linked to (a theme slot, a variable). Judge then gives each color
// its verdict.
package audit

import (
	"bytes"
	"errors"
	"fmt"
	"hash/maphash"
	"math/bits"
	"path"
	"slices"
	"sort"
	"strconv"
	"strings"
	"unicode/utf8"
	"unique"

	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/limits"
	"huekeep/core/picture"
	"huekeep/core/source"
)

// Color is what a place says: a screen color, a build of inks, or a tint of a spot ink by name. Colors are compared, and are the keys of maps.
type Color struct {
	RGB  color.RGB8 // how it looks on a plain screen; of a build, as the coated press makes it
	ink  unique.Handle[Ink]
	wide unique.Handle[string] // see Beyond
}

// Ink is how a press is told a color.
type Ink struct {
	CMYK color.CMYK // the build, in percent, where no spot ink is named
	Spot string     // name of a spot ink
	Tint float64    // of the spot ink, 0 to 1
}

// Screen is a screen color.
func Screen(c color.RGB8) Color { return Color{RGB: c} }

// Seen is a screen color as somebody wrote it, beyond sRGB too.
func Seen(t color.Typed) Color {
	if !t.Outside() {
		return Screen(t.RGB8())
	}
	return Beyond(t.RGB8(), t.Exactly())
}

// Beyond is a screen color that sRGB does not hold, as color.Typed.Exactly writes it, with what plain screens show; without such a text it is
// what they show.
func Beyond(plain color.RGB8, text string) Color {
	if text == "" {
		return Screen(plain)
	}
	return Color{RGB: plain, wide: unique.Make(text)}
}

// Wide is the color as CSS writes it, where sRGB does not hold it; empty for others.
func (c Color) Wide() string {
	if c.wide == (unique.Handle[string]{}) {
		return ""
	}
	return c.wide.Value()
}

// InColor is a color of an ink, with its look.
func InColor(look color.RGB8, i Ink) Color { return Color{RGB: look, ink: unique.Make(i)} }

// Ink is the ink of a color that is none of a screen.
func (c Color) Ink() (i Ink, ok bool) {
	if c.ink == (unique.Handle[Ink]{}) {
		return i, false
	}
	return c.ink.Value(), true
}

// Spot is the name of the spot ink; empty for other colors.
func (c Color) Spot() string {
	i, _ := c.Ink()
	return i.Spot
}

// Build is the build of a color that is one.
func (c Color) Build() (color.CMYK, bool) {
	i, ok := c.Ink()
	return i.CMYK, ok && i.Spot == ""
}

// key orders colors.
func (c Color) key() string {
	i, inks := c.Ink()
	return fmt.Sprintf("%s %t %v %s %g %s", c.RGB.Hex(), inks, i.CMYK, i.Spot, i.Tint, c.Wide())
}

// Use is one or several occurrences of a color in one place. A file may have 200,000 of them, so that what few have is apart, in More.
type Use struct {
	Value string // as written: "E1572C", "accent1 lumMod 75%", "rgb(1 2 3)"
	Color
	Alpha  float64 // how opaque the value itself is, 0 to 1
	Where  string  // "slide 4, shape Group 2 > Arrow, fill"
	Link   string  // the definition that it points to, by its key; empty for a hard-coded value
	Define string  // the key of the definition that it is itself, for others to point to
	Count  int
	Line   int // of a text, from 1; 0 elsewhere
	Column int
	At     []source.Span // the bytes that say it, each in Form
	Form   form.Form     // nil where nothing can be written: then Fixed says why
	Fixed  string
	Why    string // why the color could not be determined; empty if it could
	Worked bool   // it is worked out of definitions, and becomes another color with them
	Chains bool   // as a definition it may point to one before it
	Pixels bool   // it is an area of a picture
	Hidden bool   // a copy for programs that cannot show the first: it is repainted with it and not counted
	More   *More  // nil for most
}

// More is what few uses have.
type More struct {
	Solid *color.RGB8                               // of a spot ink, its full tone on a screen as the file says it; nil if the file does not
	Codes *picture.Codes                            // of the picture that it was found in, if that is not sRGB
	Slack [3]float64                                // of what was compressed: how far it can be off, in Y'CbCr
	Paint *Painting                                 // the picture that it is an area of, where that can be repainted
	Area  *Area                                     // of a picture
	Class string                                    // the utility class, or the rule made of one, that it stands in
	Names bool                                      // it stands in the name of that class itself
	Point func(has func(key string) bool) []Pointed // makes it point to a definition that has its color; nil if it cannot
}

// Rare is what few uses have; empty for the others.
func (u *Use) Rare() More {
	if u.More == nil {
		return More{}
	}
	return *u.More
}

// Linked says whether the use takes its color from a definition.
func (u *Use) Linked() bool { return u.Link != "" }

// fixed says whether no plan can change the use: it is no link, and where it stands cannot be written.
func (u *Use) fixed() bool {
	return !u.Linked() && (u.Fixed != "" || u.Form == nil && u.Rare().Paint == nil)
}

// Pointed is one of the places that are written when a use is to point to a definition.
type Pointed struct {
	At   source.Span
	New  string
	Says string // the definition, for a person
}

// Unread is a part that could not be read.
type Unread struct {
	Path string `json:"path"`
	Why  string `json:"why"`
}

// Scan is what was found in one file.
type Scan struct {
	Kind   string // of the table of kinds: "pptx"
	About  string // size in the user's terms: "38 slides, 1 chart"
	Uses   []*Use
	Notes  []string // what a person should know, as sentences
	Unread []Unread // parts that were there and could not be read
	Parts  int      // how many parts the file has, itself among them
	Alone  bool     // what was found does not hang on other files of the project, nor what is found in them on this one
	File   *source.File
}

// Watch is told how far a scan has come: what has been read, in the user's terms, and the share of the whole, 0 to 1. An error
// from it ends the scan.
type Watch func(what string, share float64) error

func (w Watch) at(what string, share float64) error {
	if w == nil {
		return nil
	}
	return w(what, share)
}

// steady gives a watch that is told the last share again where none is known, which is under 0.
func (w Watch) steady() Watch {
	last := 0.0
	return func(what string, share float64) error {
		if share < 0 {
			share = last
		}
		last = max(last, min(share, 1))
		return w(what, last)
	}
}

// now and then is every so many tokens, a few milliseconds.
const nowAndThen = 4096

// read tells how much of a text has been read.
func (w Watch) read(at, of int) error {
	if w == nil {
		return nil
	}
	return w(limits.Size(int64(at))+" of "+limits.Size(int64(of)), float64(at)/float64(max(1, of)))
}

// Options are what a scan may use beside the file.
type Options struct {
	Watch  Watch
	Frames Frames // nil if video cannot be looked into
	With   *Together
}

// Together are files of one project: what one defines, as a style sheet does with variables, another may use. Their scans are whole when
// Finish was called.
type Together struct {
	vars   *variables
	scans  []*Scan
	from   []*tally
	joined []*variables
}

// NewTogether begins a project.
func NewTogether() *Together { return &Together{vars: newVariables()} }

// Join puts files that were read apart, and are not finished, behind these, as if they had been read with them. An error says that they are too many.
func (t *Together) Join(o *Together) error {
	if t.vars.count+o.vars.count > limits.FoundPlaces {
		return (&tally{full: true}).check()
	}
	t.vars.join(o.vars)
	t.scans, t.from, t.joined = append(t.scans, o.scans...), append(t.from, o.from...), append(t.joined, o.vars)
	return nil
}

// Finish works out what files use of each other.
func (t *Together) Finish() {
	t.vars.resolve()
	for _, v := range t.joined { // those who write references look there
		v.defined = t.vars.defined
	}
	for i, s := range t.scans {
		s.Uses = t.from[i].list()
	}
}

// Read finds every color in a file. Errors are sentences that name the file.
func Read(name string, data []byte) (*Scan, error) { return ReadWith(name, data, Options{}) }

// ReadWatched is Read for a file that may take long.
func ReadWatched(name string, data []byte, watch Watch) (*Scan, error) {
	return ReadWith(name, data, Options{Watch: watch})
}

// ReadWith is Read with options.
func ReadWith(name string, data []byte, o Options) (*Scan, error) {
	if len(data) == 0 && emptyText(name) {
		return &Scan{Kind: strings.TrimPrefix(extensionOf(name), "."), About: "empty", Notes: []string{}, Parts: 1, Alone: true, File: source.Open(path.Base(name), data)}, nil
	}
	k, base, err := kindOf(name, data)
	if err != nil {
		return nil, err
	}
	f := source.Open(base, data)
	s := &scanner{Options: o, result: &Scan{Kind: k.Name, File: f}, tally: &tally{}, vars: newVariables(), blocks: &blocks{}}
	if o.With != nil {
		s.vars = o.With.vars
	}
	before := s.vars.size()
	if o.Watch != nil {
		s.Watch = o.Watch.steady()
	}
	about, err := k.scan(s, f.Root, base)
	if err == nil {
		if o.With == nil {
			s.vars.resolve()
		}
		err = s.tally.check()
	}
	if err != nil {
		return nil, fmt.Errorf("%s: %w", base, err)
	}
	s.result.About, s.result.Parts, s.result.Alone = about, 1+f.Count(), s.vars.size() == before
	if t := o.With; t != nil { // which has the uses when it is finished
		t.scans, t.from = append(t.scans, s.result), append(t.from, s.tally)
	} else {
		s.result.Uses = s.tally.list()
	}
	return s.result, nil
}

// emptyText says whether a file without a byte is one in its kind: a style sheet or a script with nothing in it, which builds leave.
func emptyText(name string) bool {
	for _, k := range kinds() {
		if k.text && slices.Contains(k.Extensions, extensionOf(name)) {
			return extensionOf(name) != ".json"
		}
	}
	return false
}

// Recognize says, with a sentence if not, whether a file is of a kind that is read.
func Recognize(name string, data []byte) error {
	if len(data) == 0 && emptyText(name) {
		return nil
	}
	_, _, err := kindOf(name, data)
	return err
}

// scanner is what one scan shares between the kinds of documents inside each other.
type scanner struct {
	Options
	result *Scan
	ramped bool // it was said how ramps of pictures are judged
	tally  *tally
	vars   *variables
	prefix string // of the places of a document inside another: "deck.pptx > "
	inside bool   // of another document
	slack  [3]float64
	codes  *picture.Codes // of the picture that is read
	*blocks
}

// note keeps a sentence once.
func (s *scanner) note(format string, args ...any) {
	text := fmt.Sprintf(format, args...)
	for _, n := range s.result.Notes {
		if n == text {
			return
		}
	}
	s.result.Notes = append(s.result.Notes, text)
}

// unread notes a part that cannot be read.
func (s *scanner) unread(name string, err error) {
	const most = 200
	if len(s.result.Unread) == most {
		s.note("More than %d parts could not be read; only the first are named.", most)
		return
	}
	s.result.Unread = append(s.result.Unread, Unread{s.prefix + name, err.Error()})
}

// add reports a use; its place follows the prefix of the document that it is in.
func (s *scanner) add(u *Use) {
	if s.prefix != "" {
		in := *u
		in.Where = s.prefix + u.Where
		u = &in
	}
	s.tally.add(u)
}

// embedded scans a part that a document shows, at a place of it.
func (s *scanner) embedded(p *source.Part, place string) error {
	data, err := p.Bytes()
	if err != nil {
		s.unread(place, err)
		return nil
	}
	k, _, err := kindOf(p.Name, data)
	if err != nil {
		why := "it is in a format that is not read"
		switch e := extensionOf(p.Name); {
		case e == ".emf" || e == ".wmf":
			why = "it is a metafile, which is not read"
		case bytes.HasPrefix(data, []byte{0xd0, 0xcf, 0x11, 0xe0}):
			why = "it is an object of an older format, which is not read"
		}
		s.unread(place, errors.New(why))
		p.Release()
		return nil
	}
	if k.text {
		return s.scanAs(k, p, place)
	}
	in := *s
	in.prefix += place + " > "
	in.inside = true
	if k.Name == "picture" {
		in.prefix = s.prefix
		k.scan = func(s *scanner, p *source.Part, _ string) (string, error) { return scanPicture(s, p, place) }
	}
	if _, err := k.scan(&in, p, place); err != nil {
		if err := s.Watch.at(place, -1); err != nil {
			return err
		}
		s.unread(place, err)
	}
	p.Release()
	return s.tally.check()
}

// scanAs scans a file of an archive as one of a kind, under a name. What cannot be read is noted, and does not end the scan; an end that was
// asked for does.
func (s *scanner) scanAs(k Kind, p *source.Part, name string) error {
	in := *s
	in.inside = true
	in.Watch = nil
	if s.Watch != nil {
		watch := s.Watch
		in.Watch = func(what string, share float64) error { // the share is that of the file, and told by whoever goes over its parts
			return watch(path.Base(name)+": "+what, -1)
		}
	}
	if !k.text {
		in.prefix += name + " > "
	}
	if _, err := k.scan(&in, p, name); err != nil {
		if err := s.Watch.at(name, -1); err != nil {
			return err // given up
		}
		s.unread(name, err)
	}
	p.Release()
	return s.tally.check()
}

// tally gathers uses and adds up those that are the same color in the same place. It holds them in chunks, each twice as long as the one
// before, since they are large.
type tally struct {
	at       map[uint64]int // of a use by the hash of what makes it the same, or a number after it where that is another's
	chunks   [][]Use
	n        int
	full     bool
	last     Color
	screen   map[uint32]bool // the different colors of screens
	distinct map[Color]bool  // and the others
}

// firstChunk is how many uses the first chunk has.
const firstChunk = 64

// use is the i-th use.
func (t *tally) use(i int) *Use {
	chunk := bits.Len(uint(i/firstChunk+1)) - 1
	return &t.chunks[chunk][i-firstChunk*(1<<chunk-1)]
}

// list is all uses.
func (t *tally) list() []*Use {
	out := make([]*Use, 0, t.n)
	for _, c := range t.chunks {
		for i := range c {
			out = append(out, &c[i])
		}
	}
	return out
}

// same says whether two uses are to be added up.
func same(a, b *Use) bool {
	return a.Where == b.Where && a.Value == b.Value && a.Color == b.Color && a.Alpha == b.Alpha && a.Link == b.Link && a.Why == b.Why && a.Hidden == b.Hidden
}

var hashed = maphash.MakeSeed()

// hash is a number of what differs most among uses.
func hash(u *Use) uint64 {
	rgb := uint64(u.RGB.R)<<16 | uint64(u.RGB.G)<<8 | uint64(u.RGB.B)
	return maphash.String(hashed, u.Where) ^ bits.RotateLeft64(maphash.String(hashed, u.Value), 17) ^ rgb*0x9e3779b97f4a7c15
}

// add takes a copy of a use.
func (t *tally) add(u *Use) {
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
			if other := t.use(i); same(other, u) {
				other.Count += u.Count
				other.At = append(other.At, u.At...)
				return
			}
		}
	}
	if t.n >= limits.FoundPlaces {
		t.full = true
		return
	}
	if t.at == nil {
		t.at, t.screen, t.distinct = map[uint64]int{}, map[uint32]bool{}, map[Color]bool{}
	}
	if u.Line == 0 {
		t.at[at] = t.n
	}
	if u.Color != t.last || t.n == 0 {
		t.last = u.Color
		if c := u.Color; c == Screen(c.RGB) {
			t.screen[uint32(c.RGB.R)<<16|uint32(c.RGB.G)<<8|uint32(c.RGB.B)] = true
		} else {
			t.distinct[c] = true
		}
	}
	last := len(t.chunks) - 1
	if last < 0 || len(t.chunks[last]) == cap(t.chunks[last]) {
		last++
		t.chunks = append(t.chunks, make([]Use, 0, firstChunk<<last))
	}
	t.chunks[last] = append(t.chunks[last], *u)
	t.n++
}

// check turns a tally that ran over into an error: a report that silently lacks uses would be worse than none.
func (t *tally) check() error {
	if t.full {
		return fmt.Errorf("it holds colors in over %d places", limits.FoundPlaces)
	}
	if n := len(t.screen) + len(t.distinct); n > limits.FoundColors {
		return fmt.Errorf("it holds %d different colors; at most %d are judged", n, limits.FoundColors)
	}
	return nil
}

// plural writes "1 slide", "38 slides", "50,001 lines".
func plural(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	digits := strconv.Itoa(n)
	for i := len(digits) - 3; i > 0; i -= 3 {
		digits = digits[:i] + "," + digits[i:]
	}
	return digits + " " + what + "s"
}

func pluralAre(n int, what string) string {
	if n == 1 {
		return plural(n, what) + " is"
	}
	return plural(n, what) + " are"
}

// sorted returns the keys of a map in order, so that the same input gives the same report.
func sorted[V any](m map[string]V) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	return keys
}

// shorten cuts a text that has over n characters.
func shorten(s string, n int) string {
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

// extensionOf is the extension of a file's name in small letters.
func extensionOf(name string) string { return strings.ToLower(path.Ext(name)) }
