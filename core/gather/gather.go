// Package gather turns any file that somebody was sent into candidate colors: swatch files, logos, pictures of palettes.
package gather

import (
	"bytes"
	"errors"
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/library"
	"huekeep/core/picture"
	"huekeep/core/recognize"
	"huekeep/core/swatchfile"
)

// Candidate is a color that a file holds.
type Candidate struct {
	library.Color
	Generic bool    // the name came from a program or a list and says nothing, or is there twice
	Share   float64 // of a picture's area, 0 to 1; 0 elsewhere
	Uses    int     // how often artwork uses it; 0 elsewhere
	Alpha   float64 // how opaque it is in the file at the most, 0 to 1; it is gathered as if it were opaque
}

// Found is what a file holds.
type Found struct {
	Label  string // for a sentence: "a picture of a palette"
	Name   string // what the file calls itself, or empty
	Colors []Candidate
	Notes  []string          // what a person should know of how it was read
	Left   []swatchfile.Left // lines of a text that no color was made of
}

// mostOfPicture is how many colors of a picture are proposed.
const mostOfPicture = 6

// Extensions lists the file name extensions that are read.
func Extensions() []string {
	return slices.Compact(slices.Sorted(slices.Values(append(swatchfile.Extensions(),
		".png", ".jpg", ".jpeg", ".webp", ".gif", ".tif", ".tiff", ".bmp", ".svg", ".pdf"))))
}

// Read finds the colors of a file of any kind that is read. Errors are sentences that name the file.
func Read(name string, data []byte) (Found, error) {
	base := path.Base(strings.ReplaceAll(name, "\\", "/"))
	found, err := read(base, data)
	if err == nil && len(found.Colors) == 0 {
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
	if bytes.HasPrefix(data, []byte("%PDF-")) {
		return fromPDF(name, data)
	}
	if recognize.Look(data).Root == "svg" {
		return fromArtwork(name, data)
	}
	l, reader, err := swatchfile.Read(name, data)
	if err != nil {
		if strings.EqualFold(path.Ext(name), ".css") { // a style sheet without properties still uses colors
			if found, e := fromArtwork(name, data); e == nil {
				return found, nil
			}
		}
		return Found{}, err
	}
	found := Found{Label: reader.Label, Name: l.House, Notes: l.Notes, Left: l.Left}
	for i, c := range l.Colors {
		alpha, ok := l.Alpha[i]
		if !ok {
			alpha = 1
		}
		found.Colors = append(found.Colors, Candidate{Color: c, Alpha: alpha})
	}
	return found, nil
}

// fromPicture takes the patches of a palette chart, or the colors of any other picture.
func fromPicture(data []byte) (Found, error) {
	p, err := picture.Decode(data)
	if err != nil {
		return Found{}, err
	}
	found := Found{Label: "a picture of a palette"}
	if p.Note != "" {
		found.Notes = append(found.Notes, p.Note)
	}
	if p.Profile != "" {
		found.Notes = append(found.Notes, fmt.Sprintf("Converted to sRGB from its own profile, %s.", p.Profile))
	}
	for _, patch := range picture.Chart(p.NRGBA) {
		found.Colors = append(found.Colors, Candidate{Color: library.Color{RGB: patch.Color}, Alpha: 1})
	}
	if len(found.Colors) > 0 {
		return found, nil
	}
	found.Label = "a picture"
	areas, err := picture.Colors(p.NRGBA, mostOfPicture)
	if err != nil {
		return found, err
	}
	for _, a := range areas {
		found.Colors = append(found.Colors, Candidate{Color: library.Color{RGB: a.Color}, Share: a.Share, Alpha: 1})
	}
	return found, nil
}

// scan reads a file as audits do. Errors come without the file's name.
func scan(name string, data []byte) (*audit.Scan, error) {
	s, err := audit.Read(name, data)
	if own := errors.Unwrap(err); own != nil {
		err = own
	}
	return s, err
}

// fromArtwork takes the exact colors of a drawing or a style sheet, the most used first.
func fromArtwork(name string, data []byte) (Found, error) {
	s, err := scan(name, data)
	if err != nil {
		return Found{}, err
	}
	found := Found{Label: map[string]string{"svg": "a drawing", "css": "a style sheet"}[s.Kind], Notes: s.Notes}
	at := map[library.Value]int{}
	for _, u := range s.Uses {
		c := seen(u.Color)
		i, ok := at[c.Value()]
		if !ok {
			i = len(found.Colors)
			at[c.Value()] = i
			found.Colors = append(found.Colors, Candidate{Color: c})
		}
		found.Colors[i].Uses += max(1, u.Count)
		found.Colors[i].Alpha = max(found.Colors[i].Alpha, u.Alpha)
	}
	slices.SortStableFunc(found.Colors, func(a, b Candidate) int { return b.Uses - a.Uses })
	return found, nil
}

var (
	genericName = regexp.MustCompile(`(?i)^(?:unnamed|untitled|no ?name|none|new|custom|colou?r|swatch|sample|patch|default|index|fill|stroke|accent|tint|shade|(?:dk|lt|dark|light)\s*\d|hlink|folhlink)?[\s_#-]*\d*$`)
	valueAsName = regexp.MustCompile(`(?i)^(?:#?[0-9a-f]{6}|rgb\b.*|r\s*=?\s*\d+\s.*|c\s*=?\s*\d+\s*m\s*=?\s*\d+.*|[a-z]{1,2}\d{1,3})$`)
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
