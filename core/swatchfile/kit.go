package swatchfile

import (
	"archive/zip"
	"bytes"
	_ "embed"
	"fmt"
	"html/template"
	"slices"

	"huekeep/core/contrast"
	"huekeep/core/library"
)

var (
	//go:embed kit.html
	kitPage string
	//go:embed kit8.html
	kitPage8 string // of editions of until 8

	kitTemplate  = template.Must(template.New("kit").Parse(kitPage))
	kitTemplate8 = template.Must(template.New("kit").Parse(kitPage8))
)

// WriteKit writes a ZIP of every packing with a page that shows them.
func WriteKit(e library.Edition) ([]byte, error) { return Kit(e, nil) }

// Kit writes a ZIP of the packings named, or of every one if none is, with a page (HTML that needs nothing from elsewhere) that shows the
// colors and says how to load each file. A packing that this edition cannot be written as is left out, and the page says so.
func Kit(e library.Edition, names []string) ([]byte, error) {
	type file struct {
		Name, Label, Load, Problem string
		Own                        []string // what the house says
		Loading
	}
	type patch struct {
		Name, Hex, Ink, RGB string
		Style               template.CSS
	}
	page := struct {
		Title, House, Set, Note string
		Number                  int
		Colors                  []patch
		Files                   []file
	}{Title: e.Title(), House: e.House, Set: e.Set, Note: e.Note, Number: e.Number}
	for _, c := range e.Colors {
		ink := "#111111"
		if contrast.Ratio(c.RGB, white.RGB) > contrast.Ratio(c.RGB, black.RGB) {
			ink = "#FFFFFF"
		}
		page.Colors = append(page.Colors, patch{c.Name, c.RGB.Hex(), ink, fmt.Sprintf("%d %d %d", c.RGB.R, c.RGB.G, c.RGB.B),
			template.CSS("background:" + c.RGB.Hex() + ";color:" + ink)}) // both are values of our own making
	}
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	at := timeOf(e)
	for _, p := range table {
		if len(names) > 0 && !slices.Contains(names, p.Name) && !slices.Contains(names, "kit") { // who takes the kit takes all
			continue
		}
		if e.Before(p.since) && !slices.Contains(names, p.Name) {
			continue
		}
		f := file{Name: p.FileName(e), Label: p.Label, Load: p.Load, Own: p.Own(e), Loading: p.Loading()}
		data, err := p.Pack(e)
		if err == nil {
			err = entry(z, f.Name, data, at)
		}
		if err != nil {
			f.Problem = sentenceCase(err.Error()) + "."
		}
		page.Files = append(page.Files, f)
	}
	var html bytes.Buffer
	of := kitTemplate
	if e.Before(9) {
		of = kitTemplate8
	}
	if err := of.Execute(&html, page); err != nil {
		return nil, err
	}
	if err := entry(z, "index.html", html.Bytes(), at); err != nil {
		return nil, err
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}
