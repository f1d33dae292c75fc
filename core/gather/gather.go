// Package gather turns any file that somebody was sent into candidate colors: swatch files, logos, pictures of palettes.
package gather

import (
	"errors"
	"fmt"
	"image"
	"path"
	"regexp"
	"slices"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/manual"
	"huekeep/core/picture"
	"huekeep/core/recognize"
	"huekeep/core/swatchfile"
)

// Candidate is a color that a file holds.
type Candidate struct {
	library.Color
	Generic bool     // the name came from a program or a list and says nothing, or is there twice
	Share   float64  // of a picture's area, 0 to 1; 0 elsewhere
	Uses    int      // how often a finished file uses it; 0 elsewhere
	Picture bool     // it is only in pictures of that file
	Where   []string // the first of these places
	Also    []string // what else it is called in the file
	Places  int      // how many there are
	Alpha   float64  // how opaque it is in the file at the most, 0 to 1; it is gathered as if it were opaque
	Written *Written // of a document that says it in words
}

// Found is what a file holds.
type Found struct {
	Label  string // for a sentence: "a picture of a palette"
	Name   string // what the file calls itself, or empty
	Colors []Candidate
	Notes  []string          // what a person should know of how it was read
	Left   []swatchfile.Left // lines of a text that no color was made of
	Text   string            // that text, where it is a list that somebody wrote
	Of     int               // pages of a document in which colors are written down
	Pages  []manual.Picture  // those that have them
}

// mostOfPicture is how many colors of a picture are proposed.
const mostOfPicture = 6

// Extensions lists the file name extensions that are read.
func Extensions() []string {
	return slices.Compact(slices.Sorted(slices.Values(append(swatchfile.Extensions(), kinds.Extensions()...))))
}

// Read finds the colors of a file of any kind that is read. Errors are sentences that name the file.
func Read(name string, data []byte) (Found, error) {
	base := path.Base(strings.ReplaceAll(name, "\\", "/"))
	found, err := read(base, data)
	if err == nil && len(found.Colors) == 0 && !(swatchfile.Library{Left: found.Left}).Asks() {
		err = fmt.Errorf("it holds no colors")
	}
	if err != nil {
		return Found{}, fmt.Errorf("%s: %w", base, err)
	}
	markGeneric(found.Colors)
	return found, nil
}

func read(name string, data []byte) (Found, error) {
	if _, ok := picture.Is(data); ok {
		return fromPicture(data)
	}
	look := recognize.Look(data)
	finished := kinds.Recognize(name, data) == nil
	if look.Pack != "thmx" && kinds.IsFolder(name, data) {
		return fromArchive(name, data)
	}
	if !finished {
		if why := recognize.Familiar(data); why != "" {
			return Found{}, fmt.Errorf("it is %s", why)
		}
		if look.Pack == "" && recognize.Closed(data) {
			return Found{}, errors.New("it is a binary file of a closed kind, which is not read; where it was made, export the colors as .gpl, .soc, CSS or a table, or drop a picture of them")
		}
	}
	l, reader, err := swatchfile.Read(name, data)
	listed := err == nil && (l.Listed || !using[reader.Name] || look.Pack == "thmx")
	broken := err != nil && reader.Name == "tokens" && !errors.Is(err, swatchfile.ErrNone)
	if finished && !listed && !broken {
		if reader.Name == "table" || err != nil {
			l = swatchfile.Library{}
		}
		s, failed := scan(name, data)
		if failed == nil {
			f := fromUses(s, l)
			if manual.Reads(s.Kind) {
				f.written(data, s)
			}
			if len(l.Colors) > 0 && !slices.ContainsFunc(f.Colors, func(c Candidate) bool { return c.Uses > 0 }) {
				f.Label = reader.Label // definitions, and nothing else
			}
			return f, nil
		}
		if len(l.Colors) == 0 {
			return Found{}, failed
		}
		l.Notes = append(l.Notes, fmt.Sprintf("Only what it defines by name is here; what it uses was not read: %v.", failed))
	}
	if err != nil {
		return Found{}, err
	}
	if l.Text != "" {
		reader.Label = "a text"
	}
	found := Found{Label: reader.Label, Name: l.House, Notes: l.Notes, Left: l.Left, Text: l.Text}
	found.take(l)
	return found, nil
}

// using are the readers of what a finished file defines by name; it uses other colors beside these. What others read is whole by itself.
var using = map[string]bool{"office-theme": true, "xlsx": true, "odf": true, "css": true, "table": true}

// fromPicture takes the patches of a palette chart, or the colors of any other picture.
func fromPicture(data []byte) (Found, error) {
	p, err := picture.DecodeOwn(data)
	if err != nil {
		return Found{}, err
	}
	shown := func(c color.RGB8, at image.Point, window int) library.Color {
		if t, ok := p.Beyond(at.X, at.Y, window); ok {
			return seen(audit.Seen(t))
		}
		return library.Color{RGB: c}
	}
	found := Found{Label: "a picture of a palette"}
	if p.Note != "" {
		found.Notes = append(found.Notes, p.Note)
	}
	if p.Profile != "" {
		found.Notes = append(found.Notes, fmt.Sprintf("Converted to sRGB from its own profile, %s.", p.Profile))
	}
	for _, patch := range picture.Chart(p.NRGBA) {
		middle := patch.Box.Min.Add(patch.Box.Max).Div(2)
		found.Colors = append(found.Colors, Candidate{Color: shown(patch.Color, middle, picture.PatchWindow), Alpha: 1})
	}
	if len(found.Colors) > 0 {
		return found, nil
	}
	found.Label = "a picture"
	areas, err := picture.Colors(p.NRGBA, mostOfPicture)
	if err != nil {
		return found, err
	}
	if flat := picture.Flat(p.NRGBA); len(flat) > len(areas) { // a page on a screen: its small colors count as its large ones
		found.Label, areas = "a drawn picture", flat
	}
	for _, a := range areas {
		found.Colors = append(found.Colors, Candidate{Color: shown(a.Color, a.At, 1), Share: a.Share, Alpha: 1})
	}
	return found, nil
}

// scan reads a file as audits do. Errors come without the file's name.
func scan(name string, data []byte) (*audit.Scan, error) {
	s, err := kinds.Read(name, data)
	if own := errors.Unwrap(err); own != nil {
		err = own
	}
	return s, err
}

var (
	genericName = regexp.MustCompile(`(?i)^(?:unnamed|untitled|no ?name|none|new|custom|colou?r|swatch|sample|patch|default|index|fill|stroke|accent|tint|shade|(?:dk|lt|dark|light)\s*\d|hlink|folhlink)?[\s_#-]*\d*$`)
	valueAsName = regexp.MustCompile(`(?i)^(?:#?[0-9a-f]{6}|rgb\b.*|r\s*=?\s*\d+\s.*|c\s*=?\s*\d+\s*m\s*=?\s*\d+.*|[a-z]{1,2}\d{1,3}(?: (?:text|ground|fill|line|start|end))?)$`)
)

// Generic says whether a name is one that a program gives: a number, a value, "Swatch 3", "accent1".
func Generic(name string) bool {
	name = strings.TrimSpace(name)
	return name == "" || genericName.MatchString(name) || valueAsName.MatchString(name)
}

func markGeneric(list []Candidate) {
	times := map[string]int{}
	for _, c := range list {
		times[strings.ToLower(c.Name)]++
	}
	for i := range list {
		list[i].Generic = Generic(list[i].Name) || times[strings.ToLower(list[i].Name)] > 1
	}
}

// seen is a color that a file uses as one of a library.
func seen(u audit.Color) library.Color {
	c := library.Color{RGB: u.RGB}
	if text := u.Wide(); text != "" {
		c.Master = library.Master{Kind: library.OfScreen, Text: text}
	}
	return c
}
