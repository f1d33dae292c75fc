package swatchfile

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"huekeep/core/archive"
	"huekeep/core/color"
	"huekeep/core/library"
)

// latin passes text through whatever encoding it declares: it was turned into UTF-8 before, or is refused as malformed.
func latin(_ string, in io.Reader) (io.Reader, error) { return in, nil }

// isOffice recognizes a package of ECMA-376 with a theme; ReadWorkbook comes to a workbook's theme itself.
func isOffice(extension string, data []byte) bool {
	if !archive.Is(data) {
		return false
	}
	a, err := archive.Open(data)
	return err == nil && a.Files["[Content_Types].xml"] != nil && a.Files["xl/workbook.xml"] == nil && len(themeParts(a)) > 0
}

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

// readThemePart reads a:theme alone.
func readThemePart(data []byte) (Library, error) {
	var l Library
	slot := ""
	custom := ""
	named := map[color.RGB8]bool{}
	var slots []library.Color
	err := elements(data, func(_ *xml.Decoder, e xml.StartElement) error {
		switch local := e.Name.Local; {
		case local == "theme" || local == "clrScheme":
			if n := attribute(e, "name"); n != "" {
				l.House = n
			}
		case slices.Contains(slotNames[:], local):
			slot = local
		case local == "custClr":
			slot, custom = "", attribute(e, "name")
			if custom == "" {
				custom = "Custom"
			}
		case local == "fmtScheme" || local == "fontScheme":
			slot, custom = "", ""
		case (local == "srgbClr" || local == "sysClr") && (slot != "" || custom != ""):
			value := attribute(e, "val")
			if local == "sysClr" {
				value = attribute(e, "lastClr")
			}
			rgb, err := color.FromHex(value)
			if err != nil {
				return err
			}
			if custom != "" {
				l.Colors = append(l.Colors, library.Color{Name: custom, RGB: rgb})
				named[rgb] = true
			} else {
				slots = append(slots, library.Color{Name: slot, Group: "Theme slots", RGB: rgb})
			}
			slot, custom = "", ""
		}
		return nil
	})
	// A slot whose color has a name among the custom colors says nothing new.
	for _, s := range slots {
		if !named[s.RGB] {
			named[s.RGB] = true
			l.Colors = append(l.Colors, s)
		}
	}
	return l, err
}

func isODF(_ string, data []byte) bool {
	if !archive.Is(data) {
		return false
	}
	a, err := archive.Open(data)
	if err != nil || a.Files["mimetype"] == nil {
		return false
	}
	kind, err := a.Read("mimetype")
	return err == nil && bytes.HasPrefix(kind, []byte("application/vnd.oasis.opendocument."))
}

// ReadODF reads the colors of an open document's named styles: text, ground, fill and line, each under the style's name
// (ODF 1.3, 16.2 and 20). The same value is listed once, under the first style that has it.
func ReadODF(data []byte) (Library, error) {
	var l Library
	a, err := archive.Open(data)
	if err != nil {
		return l, err
	}
	seen := map[color.RGB8]bool{}
	for _, part := range []string{"styles.xml", "content.xml"} {
		if a.Files[part] == nil {
			continue
		}
		text, err := a.Read(part)
		if err != nil {
			return l, err
		}
		style := ""
		err = elements(text, func(_ *xml.Decoder, e xml.StartElement) error {
			if e.Name.Local == "style" || e.Name.Local == "default-style" {
				style = attribute(e, "display-name")
				if style == "" {
					style = strings.ReplaceAll(attribute(e, "name"), "_20_", " ")
				}
			}
			for _, at := range e.Attr {
				what, ok := map[string]string{"color": "text", "background-color": "ground", "fill-color": "fill", "stroke-color": "line"}[at.Name.Local]
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
				l.Colors = append(l.Colors, library.Color{Name: name, RGB: rgb})
			}
			return nil
		})
		if err != nil {
			return l, fmt.Errorf("%s: %w", part, err)
		}
	}
	return l, nil
}
