package standin

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"fmt"
	"io"
	"path"
	"strings"
)

// Office stands in for an office suite: it opens the presentation, follows its relationships to the theme of the slide
// master and takes the twelve slots.
type Office struct{}

type relationships struct {
	List []struct {
		Type   string `xml:",attr"`
		Target string `xml:",attr"`
	} `xml:"Relationship"`
}

type themePart struct {
	Name   string `xml:"name,attr"`
	Scheme struct {
		Slots []struct {
			XMLName xml.Name
			RGB     struct {
				Val string `xml:"val,attr"`
			} `xml:"srgbClr"`
		} `xml:",any"`
	} `xml:"themeElements>clrScheme"`
}

// Receive takes the theme of a presentation.
func (Office) Receive(file string, data []byte) (Receipt, error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return Receipt{}, fmt.Errorf("%s cannot be opened: %w", file, err)
	}
	read := func(name string, into any) error {
		f, err := z.Open(name)
		if err != nil {
			return fmt.Errorf("%s has no part %s", file, name)
		}
		defer f.Close()
		text, err := io.ReadAll(io.LimitReader(f, 16<<20))
		if err != nil {
			return err
		}
		return xml.Unmarshal(text, into)
	}
	follow := func(part, kind string) (string, error) {
		var r relationships
		if err := read(path.Join(path.Dir(part), "_rels", path.Base(part)+".rels"), &r); err != nil {
			return "", err
		}
		for _, x := range r.List {
			if strings.HasSuffix(x.Type, "/"+kind) {
				return path.Join(path.Dir(part), x.Target), nil
			}
		}
		return "", fmt.Errorf("%s: %s has no %s", file, part, kind)
	}
	part := "."
	for _, kind := range []string{"officeDocument", "slideMaster", "theme"} {
		if part == "." {
			var r relationships
			if err := read("_rels/.rels", &r); err != nil {
				return Receipt{}, err
			}
			for _, x := range r.List {
				if strings.HasSuffix(x.Type, "/"+kind) {
					part = x.Target
				}
			}
			continue
		}
		if part, err = follow(part, kind); err != nil {
			return Receipt{}, err
		}
	}
	var t themePart
	if err := read(part, &t); err != nil {
		return Receipt{}, err
	}
	r := Receipt{Title: t.Name}
	for _, s := range t.Scheme.Slots {
		if s.RGB.Val != "" {
			r.Colors = append(r.Colors, Taken{s.XMLName.Local, "#" + strings.ToUpper(s.RGB.Val)})
		}
	}
	if len(r.Colors) == 0 {
		return r, fmt.Errorf("%s has a theme without colors", file)
	}
	return r, nil
}
