package swatchfile

import (
	"bytes"
	"encoding/xml"
	"fmt"

	"huekeep/core/color"
	"huekeep/core/library"
)

// elements calls f for each start element of an XML text; an error tells the line.
func elements(data []byte, f func(*xml.Decoder, xml.StartElement) error) error {
	dec := xml.NewDecoder(bytes.NewReader(data))
	dec.CharsetReader = latin
	for {
		t, err := dec.Token()
		if t == nil && err != nil {
			if err.Error() == "EOF" {
				return nil
			}
			line, _ := dec.InputPos()
			return fmt.Errorf("line %d is not well-formed XML", line)
		}
		if e, ok := t.(xml.StartElement); ok {
			if err := f(dec, e); err != nil {
				line, _ := dec.InputPos()
				return fmt.Errorf("line %d: %w", line, err)
			}
		}
	}
}

func attribute(e xml.StartElement, local string) string {
	for _, a := range e.Attr {
		if a.Name.Local == local {
			return a.Value
		}
	}
	return ""
}

// ReadSOC reads an open document palette: draw:color elements with a name and a value (ODF 1.3, 19.131 and 19.198).
func ReadSOC(data []byte) (Library, error) {
	var l Library
	err := elements(data, func(_ *xml.Decoder, e xml.StartElement) error {
		if e.Name.Local != "color" {
			return nil
		}
		rgb, err := color.FromHex(attribute(e, "color"))
		if err != nil {
			return err
		}
		l.Colors = append(l.Colors, library.Color{Name: attribute(e, "name"), RGB: rgb})
		return nil
	})
	return l, err
}

// WriteSOC writes an open document palette. ODF has the element draw:color but none around a list of them; the one that office
// programs look for comes from the format's forerunner.
func WriteSOC(e library.Edition) ([]byte, error) {
	var b bytes.Buffer
	b.WriteString(xml.Header + `<ooo:color-table xmlns:ooo="http://openoffice.org/2004/office" xmlns:draw="urn:oasis:names:tc:opendocument:xmlns:drawing:1.0">` + "\n")
	for _, c := range e.Colors {
		fmt.Fprintf(&b, "  <draw:color draw:name=\"%s\" draw:color=\"#%06x\"/>\n", escaped(c.Name),
			int(c.RGB.R)<<16|int(c.RGB.G)<<8|int(c.RGB.B))
	}
	b.WriteString("</ooo:color-table>\n")
	return b.Bytes(), nil
}

func escaped(s string) string {
	var b bytes.Buffer
	_ = xml.EscapeText(&b, []byte(s)) // a buffer does not fail
	return b.String()
}
