package swatchfile

import (
	"bytes"
	"cmp"
	"encoding/xml"
	"fmt"
	"io"
	"path"
	"slices"
	"strconv"
	"strings"

	"huekeep/core/archive"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/opc"
	"huekeep/core/source"
)

// latin passes text through whatever encoding it declares: it was turned into UTF-8 before, or is refused as malformed.
func latin(_ string, in io.Reader) (io.Reader, error) { return in, nil }

// themeParts lists the themes of a package. The first is that of its own pages; later ones are of notes and handouts.
func themeParts(a *archive.Archive) []string {
	var out []string
	for name := range a.Files {
		if strings.HasPrefix(path.Base(name), "theme") && path.Ext(name) == ".xml" && strings.Contains(name, "theme/") {
			out = append(out, name)
		}
	}
	slices.SortFunc(out, func(a, b string) int {
		if len(a) != len(b) { // theme2 before theme10
			return len(a) - len(b)
		}
		return strings.Compare(a, b)
	})
	return out
}

// ReadOfficeTheme reads the color scheme of a presentation, workbook, document or theme package: its twelve slots and its
// named custom colors (ECMA-376 part 1, 20.1.6.2 and 20.1.4.1.8). Only the first theme is read; the others belong to notes and handouts.
func ReadOfficeTheme(data []byte) (Library, error) {
	a, err := archive.Open(data)
	if err != nil {
		return Library{}, err
	}
	return readTheme(a)
}

func readTheme(a *archive.Archive) (Library, error) {
	parts := themeParts(a)
	if len(parts) == 0 {
		return Library{}, fmt.Errorf("it has no theme")
	}
	part, err := a.Read(parts[0])
	if err != nil {
		return Library{}, err
	}
	l, err := readThemePart(part)
	if err != nil {
		return l, fmt.Errorf("%s: %w", parts[0], err)
	}
	return l, nil
}

// readThemePart reads a:theme alone. A slot whose color has a name among the custom colors says nothing new.
func readThemePart(data []byte) (Library, error) {
	t, err := opc.ReadTheme(source.Open("theme", data).Root)
	if err == nil {
		err = t.Wrong
	}
	l := Library{House: t.Name}
	named := map[color.RGB8]bool{}
	for _, custom := range []bool{true, false} {
		for _, c := range t.Colors {
			if c.Custom != custom || !custom && (named[c.RGB] || !slices.Contains(library.SlotNames[:], c.Name)) {
				continue
			}
			k := library.Color{Name: cmp.Or(c.Name, "Custom"), RGB: c.RGB}
			if !custom {
				k.Group = "Theme slots"
			}
			named[c.RGB] = true
			l.Colors = append(l.Colors, k)
			if c.Opacity < 1 {
				l.veil(k.Name, c.Opacity)
			}
		}
	}
	return l, err
}

// ReadODF reads the colors of an open document: those of a table in its cells, as ReadTable reads them, or else those of its
// named styles and gradients: text, ground, fill, line, start and end, each under the style's name (ODF 1.3, 9.1, 16.2 and
// 20). The same value is listed once, under the first style that has it.
func ReadODF(data []byte) (Library, error) {
	var l Library
	a, err := archive.Open(data)
	if err != nil {
		return l, err
	}
	seen := map[color.RGB8]bool{}
	for _, part := range []string{"content.xml", "styles.xml"} {
		if a.Files[part] == nil {
			continue
		}
		text, err := a.Read(part)
		if err != nil {
			return l, err
		}
		if part == "content.xml" {
			for _, t := range odfTables(text) {
				found, ok, err := readRows(t.rows)
				if err != nil {
					return l, fmt.Errorf("table %s, %w", t.name, err)
				}
				if ok && len(found.Colors) > 0 {
					return found, nil
				}
			}
		}
		if err = odfStyles(text, seen, &l); err != nil {
			return l, fmt.Errorf("%s: %w", part, err)
		}
	}
	return l, nil
}

// odfStyles adds the colors of the styles of a part.
func odfStyles(text []byte, seen map[color.RGB8]bool, l *Library) error {
	style := ""
	return elements(text, func(_ *xml.Decoder, e xml.StartElement) error {
		switch e.Name.Local {
		case "style", "default-style", "gradient", "linearGradient", "radialGradient":
			style = attribute(e, "display-name")
			if style == "" {
				style = strings.ReplaceAll(attribute(e, "name"), "_20_", " ")
			}
		}
		opacity, err := strconv.ParseFloat(strings.TrimSuffix(attribute(e, "opacity"), "%"), 64)
		veiled := err == nil && opacity >= 0 && opacity < 100
		for _, at := range e.Attr {
			what, ok := odfColors[at.Name.Local]
			if !ok || len(at.Value) != 7 {
				continue
			}
			rgb, err := color.FromHex(at.Value)
			if err != nil || seen[rgb] {
				continue // "transparent" and the like
			}
			seen[rgb] = true
			name := strings.TrimSpace(style + " " + what)
			if n := attribute(e, "name"); e.Name.Local == "color" && n != "" {
				name = n
			}
			if veiled {
				l.veil(name, opacity/100)
			}
			l.Colors = append(l.Colors, library.Color{Name: name, RGB: rgb})
		}
		return nil
	})
}

// odfColors are the attributes of styles that hold colors, by what they color.
var odfColors = map[string]string{"color": "text", "background-color": "ground", "fill-color": "fill", "stroke-color": "line",
	"start-color": "start", "end-color": "end", "stop-color": "stop", "color-value": "stop"}

// odfTable is a table of an open document as rows of texts.
type odfTable struct {
	name string
	rows [][]string
}

// odfTables reads the tables of content.xml. Cells and rows that repeat are written out as far as a table of colors can go; text
// that is not well-formed ends the reading, which odfStyles will say.
func odfTables(text []byte) (out []odfTable) {
	const mostCells, mostRows = 64, limits.LibraryColors + 10
	repeat := func(e xml.StartElement, name string, most int) int {
		n, err := strconv.Atoi(attribute(e, name))
		if err != nil || n < 1 {
			return 1
		}
		return min(n, most)
	}
	dec := xml.NewDecoder(bytes.NewReader(text))
	dec.CharsetReader = latin
	var row []string
	var cell strings.Builder
	cells, rows, depth := 1, 1, 0 // depth counts nested cells, of which the outermost holds the text
	inText := 0
	for {
		t, err := dec.Token()
		if err != nil {
			return out
		}
		switch t := t.(type) {
		case xml.StartElement:
			switch t.Name.Local {
			case "table":
				if depth == 0 && strings.HasSuffix(t.Name.Space, ":table:1.0") {
					out = append(out, odfTable{name: attribute(t, "name")})
				}
			case "table-row":
				if depth == 0 {
					row, rows = nil, repeat(t, "number-rows-repeated", mostRows)
				}
			case "table-cell", "covered-table-cell":
				if depth++; depth == 1 {
					cells = repeat(t, "number-columns-repeated", mostCells)
					cell.Reset()
				}
			case "p":
				if inText++; cell.Len() > 0 {
					cell.WriteByte(' ')
				}
			case "annotation", "shapes":
				if err := dec.Skip(); err != nil {
					return out
				}
			}
		case xml.CharData:
			if depth > 0 && inText > 0 {
				cell.Write(t)
			}
		case xml.EndElement:
			switch t.Name.Local {
			case "p":
				inText--
			case "table-cell", "covered-table-cell":
				if depth--; depth == 0 {
					for range cells {
						if len(row) < mostCells {
							row = append(row, cell.String())
						}
					}
				}
			case "table-row":
				if depth > 0 || len(out) == 0 {
					break
				}
				if strings.TrimSpace(strings.Join(row, "")) == "" {
					rows = 1 // the empty rest of a sheet
				}
				last := &out[len(out)-1]
				for range rows {
					if len(last.rows) < mostRows {
						last.rows = append(last.rows, row)
					}
				}
			}
		}
	}
}
