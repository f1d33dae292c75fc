// Package audit finds every color in a project file and judges it against a library.
//
// A scanner, one file of code a kind of file, reports uses: a color with its value as written, its place in words, and
// whether it is linked (a theme slot, a variable) or hard-coded. Judge then gives each color its verdict.
package audit

import (
	"bytes"
	"fmt"
	"path"
	"sort"
	"strings"
	"unicode/utf8"

	"huekeep/core/archive"
	"huekeep/core/color"
	"huekeep/core/limits"
	"huekeep/core/swatchfile"
)

// Use is one or several occurrences of a color in one place.
type Use struct {
	Value  string // as written: "E1572C", "accent1 lumMod 75%", "rgb(1 2 3)"
	RGB    color.RGB8
	Where  string // "slide 4, Group 2 > Arrow, fill"
	Linked bool   // through a theme slot or a variable
	Count  int
	Alpha  float64 // how opaque the value itself is, 0 to 1
}

// Scan is what a scanner found in one file.
type Scan struct {
	Kind  string // "pptx", "svg" or "css"
	About string // size in the user's terms: "38 slides, 1 chart"
	Uses  []Use
	Notes []string // what was there and was not read, as sentences
}

// kind is one row of the table of readable files.
type kind struct {
	name       string
	extensions []string
	// is looks at the content; a scanner is chosen by it, never by the extension alone.
	is   func(name string, data []byte) bool
	scan func(name string, data []byte, watch Watch) (*Scan, error)
}

var kinds = []kind{
	{"pptx", []string{".pptx", ".potx", ".ppsx", ".pptm"}, func(_ string, data []byte) bool { return archive.Is(data) }, scanPresentation},
	{"svg", []string{".svg"}, isSVG, scanSVG},
	{"css", []string{".css"}, isCSS, scanCSS},
}

// IsDrawing recognizes an SVG drawing by its root element, in whatever encoding.
func IsDrawing(data []byte) bool { return isSVG("", data) }

func isSVG(name string, data []byte) bool {
	text, err := xmlText(data)
	return err == nil && swatchfile.IsRoot("svg")(name, text)
}

// Extensions lists the file name extensions that are read.
func Extensions() []string {
	var out []string
	for _, k := range kinds {
		out = append(out, k.extensions...)
	}
	return out
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

// now and then is every so many tokens, a few milliseconds.
const nowAndThen = 4096

// read tells how much of a text has been read.
func (w Watch) read(at, of int) error {
	if w == nil {
		return nil
	}
	return w(limits.Size(int64(at))+" of "+limits.Size(int64(of)), float64(at)/float64(max(1, of)))
}

// Read finds every color in a file. Errors are sentences that name the file.
func Read(name string, data []byte) (*Scan, error) { return ReadWatched(name, data, nil) }

// Recognize says, with a sentence if not, whether a file is of a kind that is read.
func Recognize(name string, data []byte) error {
	_, _, err := recognize(name, data)
	return err
}

// ReadWatched is Read for a file that may take long.
func ReadWatched(name string, data []byte, watch Watch) (*Scan, error) {
	k, base, err := recognize(name, data)
	if err != nil {
		return nil, err
	}
	s, err := k.scan(base, data, watch)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", base, err)
	}
	s.Kind = k.name
	return s, nil
}

func recognize(name string, data []byte) (k kind, base string, err error) {
	base = path.Base(strings.ReplaceAll(name, "\\", "/"))
	if len(data) == 0 {
		return k, base, fmt.Errorf("%s is empty", base)
	}
	if len(data) > limits.UploadBytes {
		return k, base, fmt.Errorf("%s has %s; at most %s are read", base, limits.Size(int64(len(data))), limits.Size(limits.UploadBytes))
	}
	extension := strings.ToLower(path.Ext(base))
	for _, k := range kinds {
		if !k.is(base, data) {
			continue
		}
		return k, base, nil
	}
	for _, k := range kinds {
		for _, e := range k.extensions {
			if e == extension {
				return k, base, fmt.Errorf("%s: %w", base, mismatch(k.name, data))
			}
		}
	}
	return k, base, fmt.Errorf("%s is not a kind of file that is read here; these are: %s", base, strings.Join(Extensions(), ", "))
}

// mismatch explains why a file that is named as a kind is not of that kind.
func mismatch(kind string, data []byte) error {
	switch {
	case kind == "pptx":
		return fmt.Errorf("it is named as a presentation but is not a ZIP archive")
	case kind == "svg":
		if _, err := xmlText(data); err != nil {
			return err
		}
		return fmt.Errorf("it is named as an SVG drawing but has no svg element at its top")
	case hasUTF16Mark(data):
		return fmt.Errorf("it is written in UTF-16; save it as UTF-8 and try again")
	case !utf8.Valid(data):
		return fmt.Errorf("byte %d is not UTF-8; save it as UTF-8 and try again", invalidByte(data))
	}
	return fmt.Errorf("its content is not what its name says")
}

func hasUTF16Mark(data []byte) bool {
	return bytes.HasPrefix(data, []byte{0xff, 0xfe}) || bytes.HasPrefix(data, []byte{0xfe, 0xff})
}

func invalidByte(data []byte) int {
	for i := 0; i < len(data); {
		r, n := utf8.DecodeRune(data[i:])
		if r == utf8.RuneError && n == 1 {
			return i + 1
		}
		i += n
	}
	return 0
}

// tally gathers uses and adds up those that are the same color in the same place.
type tally struct {
	at   map[useKey]int
	uses []Use
	full bool
}

type useKey struct {
	value, where string
	linked       bool
	rgb          color.RGB8
}

func (t *tally) add(u Use) {
	if u.Count == 0 {
		u.Count = 1
	}
	if u.Alpha == 0 {
		u.Alpha = 1 // a color that is fully transparent is no use
	}
	k := useKey{u.Value, u.Where, u.Linked, u.RGB}
	if i, ok := t.at[k]; ok {
		t.uses[i].Count += u.Count
		return
	}
	if len(t.uses) >= limits.FoundPlaces {
		t.full = true
		return
	}
	if t.at == nil {
		t.at = map[useKey]int{}
	}
	t.at[k] = len(t.uses)
	t.uses = append(t.uses, u)
}

// check turns a tally that ran over into an error: a report that silently lacks uses would be worse than none.
func (t *tally) check() error {
	if t.full {
		return fmt.Errorf("it holds colors in over %d places", limits.FoundPlaces)
	}
	distinct := map[color.RGB8]bool{}
	for _, u := range t.uses {
		distinct[u.RGB] = true
	}
	if len(distinct) > limits.FoundColors {
		return fmt.Errorf("it holds %d different colors; at most %d are judged", len(distinct), limits.FoundColors)
	}
	return nil
}

// plural writes "1 slide", "38 slides".
func plural(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
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
