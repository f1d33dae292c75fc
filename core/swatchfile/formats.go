package swatchfile

import (
	"fmt"
	"huekeep/core/library"
	"slices"
	"strconv"
	"strings"
)

// Packing is a format that an edition is packed in for one kind of application.
type Packing struct {
	Name      string // as in the API and on the command line
	Label     string // for the interface
	Extension string
	MediaType string
	Write     func(library.Edition) ([]byte, error)
	lost      func(library.Edition) []lost
}

// lost is something of an edition that a format cannot carry as it is.
type lost struct {
	what     string // in two or three words: "CMYK builds"
	sentence string // without its full stop
}

// Loses says, in sentences, what of this edition the format cannot carry.
func (p Packing) Loses(e library.Edition) (out []string) {
	for _, l := range p.lost(e) {
		out = append(out, l.sentence)
	}
	return out
}

// LeavesOut is what Loses says, in a few words; empty if nothing is lost.
func (p Packing) LeavesOut(e library.Edition) string {
	var words []string
	for _, l := range p.lost(e) {
		if !slices.Contains(words, l.what) {
			words = append(words, l.what)
		}
	}
	return strings.Join(words, ", ")
}

// Packings lists every packing format.
var Packings = []Packing{
	{"office-theme", "Office theme", ".pptx", "application/vnd.openxmlformats-officedocument.presentationml.presentation", WriteOfficeTheme, officeThemeLoses},
	{"css", "CSS custom properties", ".css", "text/css; charset=utf-8", WriteCSS, cssLoses},
	{"scss", "SCSS variables", ".scss", "text/x-scss; charset=utf-8", WriteSCSS, scssLoses},
	{"tokens", "Design tokens", ".tokens.json", "application/json", WriteTokens, tokensLose},
	{"gpl", "Plain text palette", ".gpl", "text/plain; charset=utf-8", WriteGPL, screenOnly("Plain text palettes")},
	{"soc", "Open document palette", ".soc", "application/xml", WriteSOC, screenOnly("Open document palettes")},
	{"cxf", "Color exchange (CxF)", ".cxf", "application/xml", WriteCxF, firstOnly(false)},
	{"csv", "Table, comma separated", ".csv", "text/csv; charset=utf-8", WriteCSV, valuesLose},
	{"tsv", "Table, tab separated", ".tsv", "text/tab-separated-values; charset=utf-8", WriteTSV, valuesLose},
	{"xlsx", "Workbook", ".xlsx", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", WriteWorkbook, firstOnly(true)},
	{"png", "Palette picture", ".png", "image/png", WritePicture, screenOnly("Pictures")},
}

func screenOnly(format string) func(library.Edition) []lost {
	return func(e library.Edition) []lost { return printValuesLost(e, format) }
}

// firstOnly is what a format loses that has room for one build of a color, and for one ink too if it says so.
func firstOnly(oneInk bool) func(library.Edition) []lost {
	return func(e library.Edition) []lost {
		builds, inks := 0, 0
		for _, c := range e.Colors {
			builds += max(0, len(c.Builds)-1)
			inks += max(0, len(c.Spots)-1)
		}
		var out []lost
		if builds > 0 {
			out = append(out, lost{"builds for other presses", fmt.Sprintf("It has room for one CMYK build a color; %s for other presses are left out", count(builds, "build"))})
		}
		if oneInk && inks > 0 {
			out = append(out, lost{"inks for other stocks", fmt.Sprintf("It has room for one spot ink a color; %s for other stocks are left out", count(inks, "ink"))})
		}
		return out
	}
}

// FindPacking returns a packing format by name.
func FindPacking(name string) (Packing, error) {
	var names []string
	for _, p := range Packings {
		if p.Name == name {
			return p, nil
		}
		names = append(names, p.Name)
	}
	return Packing{}, fmt.Errorf("there is no packing %q; there are %s", name, strings.Join(names, ", "))
}

// FileName proposes a name for a packed edition: "odelwick-ferries-core-2.pptx".
func (p Packing) FileName(e library.Edition) string {
	name := Slug(e.House + " " + e.Set)
	if e.Number > 0 {
		name += "-" + itoa(e.Number)
	}
	return name + p.Extension
}

// printValuesLost is what every screen format leaves out.
func printValuesLost(e library.Edition, format string) []lost {
	cmyk, spots := 0, 0
	for _, c := range e.Colors {
		if len(c.Builds) > 0 {
			cmyk++
		}
		if len(c.Spots) > 0 {
			spots++
		}
	}
	var out []lost
	if cmyk > 0 {
		out = append(out, lost{"CMYK builds", fmt.Sprintf("%s carry no CMYK builds; those of %s are left out", format, count(cmyk, "color"))})
	}
	if spots > 0 {
		out = append(out, lost{"spot inks", fmt.Sprintf("%s carry no spot inks; those of %s are left out", format, count(spots, "color"))})
	}
	return out
}

func count(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return itoa(n) + " " + what + "s"
}

func itoa(n int) string { return strconv.Itoa(n) }
