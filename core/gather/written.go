package gather

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"

	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/manual"
	"huekeep/core/press"
)

// Written is what a document says of a color in words, and where.
type Written struct {
	Place    string // "page 4", "slide 2"; empty where nobody knows
	Page     int    // from 1
	At       [4]float64
	Given    []Given
	Others   []manual.Screen       // colors of the screen that it gives for the name, where these differ: the one taken first
	Disagree []manual.Disagreement // what is said of it that is another color
	Also     []int                 // further pages
}

// Given is a value as it is written.
type Given struct {
	Kind string // hex, rgb, cmyk, spot, lab or another model of CSS
	Text string
}

var onPage = regexp.MustCompile(`^page (\d+)\b`)

// written puts the colors that are written down in a document first, those of it that are painted too among them.
func (f *Found) written(data []byte, s *audit.Scan) {
	read := func() (manual.Manual, error) { return manual.FromPDF(data, builds(s), ink.Quern()) }
	if s.Kind != "pdf" {
		read = func() (manual.Manual, error) { return manual.FromParts(s.Kind, s.File.Root, ink.Quern()) }
	}
	m, err := read()
	if err != nil || len(m.Colors) == 0 {
		if err != nil {
			f.Notes = append(f.Notes, fmt.Sprintf("What is written in it was not read: %v.", err))
		}
		return
	}
	var said []Candidate
	for _, c := range m.Colors {
		if w, ok := candidateOf(c, m); ok {
			said = append(said, w)
		}
	}
	rest := slices.DeleteFunc(f.Colors, func(o Candidate) bool {
		i := slices.IndexFunc(said, func(w Candidate) bool { return w.paints(&o) })
		if i >= 0 {
			w := &said[i]
			w.Uses, w.Places, w.Where = w.Uses+o.Uses, w.Places+o.Places, append(w.Where, o.Where...)
			w.Where = w.Where[:min(len(w.Where), mostPlaces)]
		}
		return i >= 0
	})
	f.Colors = append(said, rest...)
	f.Notes = append(f.Notes, m.Notes...)
	f.Pages, f.Of = m.Pictures, m.Pages
}

// builds are those that the pages of a PDF paint with.
func builds(s *audit.Scan) map[int][]color.CMYK {
	out := map[int][]color.CMYK{}
	for _, u := range s.Uses {
		k, inks := u.Ink()
		m := onPage.FindStringSubmatch(u.Where)
		if !inks || k.Spot != "" || u.Pixels || m == nil {
			continue
		}
		n, _ := strconv.Atoi(m[1])
		if !slices.Contains(out[n], k.CMYK) {
			out[n] = append(out[n], k.CMYK)
		}
	}
	return out
}

// paints says whether what a page paints with is a color that is written on it.
func (c *Candidate) paints(o *Candidate) bool {
	if a, ok := c.Build("coated"); ok {
		if b, ok := o.Build("coated"); ok {
			return a.Value == b.Value
		}
	}
	return len(o.Builds) == 0 && c.RGB == o.RGB
}

// candidateOf is a written color as one to be gathered; false where it is a code of an ink that nobody here knows.
func candidateOf(c manual.Color, m manual.Manual) (out Candidate, ok bool) {
	w := &Written{Page: c.Page, Also: c.Also, Others: c.Screens, Disagree: c.Disagree}
	for _, p := range m.Pictures {
		if p.Page == c.Page {
			w.At = [4]float64{c.At.X0 / p.Width, c.At.Y0 / p.Height, c.At.X1 / p.Width, c.At.Y1 / p.Height}
		}
	}
	for _, v := range c.Values {
		w.Given = append(w.Given, Given{v.Key(), v.Text})
	}
	out = Candidate{Color: library.Color{Name: c.Name}, Alpha: 1, Written: w, Generic: Generic(c.Name)}
	if place := c.Place(c.Page); place != "" {
		out.Where, w.Place = []string{place}, place
	}
	out.Places = 1 + len(c.Also)
	coated := press.Coated()
	build, printed := c.Value("cmyk")
	spot, inked := c.Value("spot")
	known, isKnown := ink.Quern().Find(spot.Text)
	screen, shown := c.Screen()
	switch {
	case shown:
		out.Master, out.RGB = library.MasterOf(screen.Typed)
	case printed:
		out.Master, out.RGB = library.ByBuild(*build.CMYK, coated.Name, coated.Identity().SHA256, coated.Lab(*build.CMYK))
	case inked && isKnown:
		out.Master, out.RGB = library.ByInk(known.Code, string(ink.Coated), ink.Quern().Name, known.Coated)
	default:
		return out, false
	}
	if printed && (build.Paper == "" || build.Paper == coated.Name) {
		out.Builds = []library.Build{{Press: coated.Name, Value: *build.CMYK, For: out.RGB}}
	}
	for _, v := range c.Values {
		if v.Kind == "cmyk" && v.Problem == "" && v.Paper != "" && v.Paper != coated.Name {
			out.Builds = append(out.Builds, library.Build{Press: v.Paper, Value: *v.CMYK, For: out.RGB})
		}
	}
	if inked {
		out.Spots = []library.Spot{{Stock: string(ink.Coated), Code: spot.Text, For: out.RGB}}
	}
	return out, true
}

// better is by how much, in ΔE00, another build or ink must be nearer before one that is written down is called wrong: no press and no ink
// reaches every color.
const better = 3

// Printed says which of the inks that are written down for a color of the screen are another color: a build on coated paper, an ink of a
// book.
func (c *Candidate) Printed(on *press.Condition, book *ink.Book) (out []manual.Disagreement) {
	target := c.Lab()
	if b, ok := c.Build(on.Name); ok && b.Origin != library.Deciding && c.Master.Kind != library.OfBuild {
		if de, best := color.DeltaE00(target, on.Lab(b.Value)), on.Build(target); de > best.DeltaE+better {
			text := fmt.Sprintf("CMYK %s is %.1f %s from it on %s paper, where %s is %.1f", b.Value, de, color.Word(de), on.Name,
				best.Whole, best.DeltaE)
			out = append(out, manual.Disagreement{Kind: "cmyk", Text: text})
		}
	}
	if s, ok := c.Spot(string(ink.Coated)); ok && c.Master.Kind != library.OfInk {
		k, known := book.Find(s.Code)
		if !known {
			return append(out, manual.Disagreement{Kind: "ink", Text: fmt.Sprintf("ink %s is not in the %s book, and stays out", s.Code,
				book.Name)})
		}
		near := book.Nearest(target, ink.Coated, 1)[0]
		if de := color.DeltaE00(target, k.Coated); de > near.DeltaE+better {
			text := fmt.Sprintf("ink %s is %.1f %s from it; %s is %.1f", k.Code, de, color.Word(de), near.Ink.Code, near.DeltaE)
			out = append(out, manual.Disagreement{Kind: "ink", Text: text})
		}
	}
	return out
}
