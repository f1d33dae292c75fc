package swatchfile

import (
	"archive/zip"
	"bytes"
	"fmt"
	"hash/crc32"

	"huekeep/core/library"
)

// WriteODFDeck writes an edition as a presentation template (ODF 1.3): a master, a style of each color, and four slides.
func WriteODFDeck(e library.Edition) ([]byte, error) {
	return writeODF(e, "odf-deck", openKind+"presentation-template")
}

// WriteODFSheet writes an edition as a spreadsheet template: cell styles, one of each color, and figures with a chart.
func WriteODFSheet(e library.Edition) ([]byte, error) {
	return writeODF(e, "odf-sheet", openKind+"spreadsheet-template")
}

// WriteODFText writes an edition as a text template: paragraph styles, a character style of each color, and a page that shows them.
func WriteODFText(e library.Edition) ([]byte, error) {
	return writeODF(e, "odf-text", openKind+"text-template")
}

func writeODF(e library.Edition, folder, kind string) ([]byte, error) {
	p, err := fill(e)
	if err != nil {
		return nil, err
	}
	p.Main = kind
	p.styles()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	// The type comes first, plain, so that it is found without unpacking (ODF 1.3 part 2, 3.3).
	w, err := z.CreateRaw(&zip.FileHeader{Name: "mimetype", Method: zip.Store, CRC32: crc32.ChecksumIEEE([]byte(kind)),
		CompressedSize64: uint64(len(kind)), UncompressedSize64: uint64(len(kind))})
	if err != nil {
		return nil, err
	}
	if _, err := w.Write([]byte(kind)); err != nil {
		return nil, err
	}
	for _, part := range []struct{ name, file string }{
		{"content.xml", folder + "/content.xml"}, {"styles.xml", folder + "/styles.xml"}, {"meta.xml", "odf/meta.xml"},
		{"Chart/content.xml", "odf/Chart/content.xml"}, {"META-INF/manifest.xml", "odf/META-INF/manifest.xml"},
	} {
		text, err := render("office/"+part.file, p)
		if err != nil {
			return nil, err
		}
		if err := entry(z, part.name, text, timeOf(e)); err != nil {
			return nil, err
		}
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// styles gives each color a style of its own, with a name that no other style has, and its place on a slide.
func (p *pages) styles() {
	taken := []string{"Title", "Subtitle", "Standard", "Default", "Heading", "Result", "Second row"}
	names := append([]string{}, taken...)
	for _, c := range p.Cells {
		names = append(names, oneLine(c.Name))
	}
	names = distinct(names)[len(taken):]
	const cm = 360000 // EMU
	length := func(v int) string { return fmt.Sprintf("%.3f", float64(v)/cm) }
	for i := range p.Cells {
		c, t := &p.Cells[i], p.Tiles[i]
		c.ID, c.Label = "color"+itoa(i+1), names[i]
		c.Ink = "#" + digits(p.slots[text1].Color)
		if t.Ink == "bg1" {
			c.Ink = "#" + digits(p.slots[ground1].Color)
		}
		c.X, c.Y, c.W, c.H, c.Size = length(t.X), length(t.Y), length(t.W), length(t.H), fmt.Sprint(t.Size/100)
	}
	for i := range p.Series {
		p.Series[i].Digits = digits(p.slots[firstAccent+i].Color)
	}
}

// openLoses is what templates of open documents leave out.
func openLoses(e library.Edition) []lost {
	var out []lost
	if p, err := fill(e); err == nil {
		p.styles()
		for i, c := range p.Cells {
			if c.Label != oneLine(e.Colors[i].Name) {
				out = append(out, lost{"some names", fmt.Sprintf("A style's name stands once; that of %s is %s", e.Colors[i].Name,
					c.Label)})
			}
		}
	}
	out = append(out, lost{"links to a theme",
		"Open documents have styles and no theme; a color changed in one style does not change in others"})
	return append(out, printValuesLost(e, "Open documents")...)
}
