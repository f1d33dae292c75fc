package swatchfile

import (
	"bytes"
	"errors"
	"fmt"
	"path"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"

	"huekeep/core/archive"
	"huekeep/core/limits"
	"huekeep/core/recognize"
	"slices"
)

// Reader is a format that swatch sets and libraries are read from.
type Reader struct {
	Name       string
	Label      string // for a sentence: "a plain text palette"
	Extensions []string
	// Is looks at the content; the extension only decides between formats that look alike.
	Is   func(extension string, c recognize.Content) bool
	Read func(data []byte) (Library, error)
}

// Readers lists every format that is read; the first that recognizes a file reads it.
var Readers = []Reader{
	{"office-theme", "an office theme", []string{".pptx", ".potx", ".docx", ".dotx", ".thmx"}, packed("pptx", "docx", "thmx"),
		ReadOfficeTheme},
	{"xlsx", "a workbook", []string{".xlsx", ".xltx"}, packed("xlsx"), ReadWorkbook},
	{"odf", "an open document", []string{".otp", ".ots", ".ott", ".odp", ".ods", ".odt", ".odg"}, packed("odp", "odt", "ods", "odg"),
		ReadODF},
	{"tokens", "a library or design tokens", []string{".json", ".tokens"}, isJSON, ReadTokens},
	{"soc", "an open document palette", []string{".soc"}, rooted("color-table"), ReadSOC},
	{"cxf", "a color exchange file", []string{".cxf", ".cxf3"}, rooted("CxF"), ReadCxF},
	{"theme-part", "a theme part", []string{".xml"}, rooted("theme"), readThemePart},
	{"gpl", "a plain text palette", []string{".gpl"},
		func(_ string, c recognize.Content) bool { return bytes.HasPrefix(c.Data, []byte(gplMark)) }, ReadGPL},
	{"cgats", "a characterization file", []string{".txt", ".cgats", ".it8", ".ti3"}, isCGATS, ReadCGATS},
	{"css", "custom properties", []string{".css", ".scss"}, isStyles, ReadStyles},
	{"table", "a table", []string{".csv", ".tsv", ".txt"}, func(_ string, c recognize.Content) bool { return c.Pack == "" }, ReadTable},
}

// packed recognizes archives by what they hold, rooted XML texts by the element at their top.
func packed(kinds ...string) func(string, recognize.Content) bool {
	return func(_ string, c recognize.Content) bool { return slices.Contains(kinds, c.Pack) }
}

func rooted(local string) func(string, recognize.Content) bool {
	return func(_ string, c recognize.Content) bool { return c.Root == local }
}

// Extensions lists the file name extensions that are read.
func Extensions() []string {
	var out []string
	for _, r := range Readers {
		out = append(out, r.Extensions...)
	}
	return out
}

// ErrNone is what a file without a color in it gives.
var ErrNone = errors.New("it holds no colors")

// noneOf is ErrNone in other words.
type noneOf string

func (e noneOf) Error() string { return string(e) }

func (noneOf) Is(other error) bool { return other == ErrNone }

// Read reads a swatch set or library in any format. Errors are sentences without the file's name.
func Read(name string, data []byte) (Library, Reader, error) {
	if len(data) == 0 {
		return Library{}, Reader{}, fmt.Errorf("the file is empty")
	}
	if len(data) > limits.LibraryBytes {
		return Library{}, Reader{}, fmt.Errorf("the file has %s; at most %s are read", limits.Size(int64(len(data))),
			limits.Size(limits.LibraryBytes))
	}
	extension := strings.ToLower(path.Ext(name))
	var err error
	if archive.Is(data) {
		_, err = archive.Open(data) // one that is cut off looks like nothing that is read
	} else {
		data, err = utf8Text(data)
	}
	if err != nil {
		return Library{}, Reader{}, err
	}
	c := recognize.Look(data)
	for _, r := range Readers {
		if !r.Is(extension, c) {
			continue
		}
		if r.Name != "tokens" && c.Pack == "" && len(data) > limits.TextBytes {
			return Library{}, r, fmt.Errorf("it looks like %s, but it has %s; at most %s are read", r.Label, limits.Size(int64(len(data))),
				limits.Size(limits.TextBytes))
		}
		l, err := r.Read(data)
		l.finish()
		if err == nil && len(l.Colors) == 0 && !l.Asks() {
			err = ErrNone
		}
		if err == nil && len(l.Colors) > limits.LibraryColors {
			err = fmt.Errorf("it holds %d colors; at most %d are read", len(l.Colors), limits.LibraryColors)
		}
		if err != nil {
			return Library{}, r, fmt.Errorf("it looks like %s, but %w", r.Label, err)
		}
		return l, r, nil
	}
	return Library{}, Reader{}, fmt.Errorf("no format that is read looks like this file")
}

// beginning is as much of a text as tells what it is.
func beginning(data []byte) []byte { return data[:min(len(data), 1<<20)] }

// utf8Text takes off a byte order mark and turns UTF-16 into UTF-8; anything that is no text is refused.
func utf8Text(data []byte) ([]byte, error) {
	if rest, ok := bytes.CutPrefix(data, []byte(byteOrderMark)); ok {
		data = rest
	} else if bytes.HasPrefix(data, []byte("\xff\xfe")) || bytes.HasPrefix(data, []byte("\xfe\xff")) {
		if out, _, err := transform.Bytes(unicode.BOMOverride(transform.Nop), data); err == nil {
			data = out
		}
	}
	switch at := bytes.IndexByte(data, 0); {
	case at >= 0:
		return nil, fmt.Errorf("the file is neither text nor an archive: byte %d is zero", at+1)
	case !utf8.Valid(data):
		// Old programs write in a code page; the names of CGATS and palettes survive as Latin letters.
		var b bytes.Buffer
		for _, c := range data {
			b.WriteRune(rune(c))
		}
		return b.Bytes(), nil
	}
	return data, nil
}
