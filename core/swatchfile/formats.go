package swatchfile

import (
	"fmt"
	"strconv"
	"strings"
)

// Packing is a format that an edition is packed in for one kind of application.
type Packing struct {
	Name      string // as in the API and on the command line
	Label     string // for the interface
	Extension string
	MediaType string
	Write     func(Edition) ([]byte, error)
	// Loses says, in sentences, what of this edition the format cannot carry.
	Loses func(Edition) []string
}

// Packings lists every packing format.
var Packings = []Packing{
	{"office-theme", "Office theme", ".pptx", "application/vnd.openxmlformats-officedocument.presentationml.presentation", WriteOfficeTheme, officeThemeLoses},
	{"css", "CSS custom properties", ".css", "text/css; charset=utf-8", WriteCSS, cssLoses},
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
	return Packing{}, fmt.Errorf("there is no packing %q; there are %s", name, strings.Join(names, " and "))
}

// FileName proposes a name for a packed edition: "odelwick-ferries-core-2.pptx".
func (p Packing) FileName(e Edition) string {
	name := Slug(e.House + " " + e.Set)
	if e.Number > 0 {
		name += "-" + itoa(e.Number)
	}
	return name + p.Extension
}

// printValuesLost is what every screen format leaves out.
func printValuesLost(e Edition, format string) []string {
	cmyk, spots := 0, 0
	for _, c := range e.Colors {
		if len(c.CMYK) > 0 {
			cmyk++
		}
		if len(c.Spots) > 0 {
			spots++
		}
	}
	var out []string
	if cmyk > 0 {
		out = append(out, fmt.Sprintf("%s carry no CMYK builds; those of %s are left out", format, count(cmyk, "color")))
	}
	if spots > 0 {
		out = append(out, fmt.Sprintf("%s carry no spot inks; those of %s are left out", format, count(spots, "color")))
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
