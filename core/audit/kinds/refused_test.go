package kinds_test

import (
	"archive/zip"
	"bytes"
	"compress/flate"
	"encoding/binary"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
	"huekeep/core/hostile"
	"huekeep/demo"
)

func FuzzArchive(f *testing.F) {
	f.Add(audittest.Deck(f, `<a:srgbClr val="E2572B"/>`))
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		audittest.Fuzzed(t, "x.pptx", data)
	})
}

func TestHostileFilesAreRefusedWithASentence(t *testing.T) {
	deck := demo.TimetableDeck().Data
	many := map[string]string{}
	for i := range 100_000 {
		many[fmt.Sprintf("x%d", i)] = ""
	}
	rels := func(target string) map[string]string {
		return map[string]string{"[Content_Types].xml": "<x/>", "_rels/.rels": `<r><Relationship Id="a" Type="x/relationships/officeDocument" Target="` + target + `"/></r>`}
	}
	deep := rels("ppt/presentation.xml")
	deep["ppt/presentation.xml"] = strings.Repeat("<a>", 500)
	malformed := rels("ppt/presentation.xml")
	malformed["ppt/presentation.xml"] = "<a>\n<b></a>\n<"
	utf16 := []byte{0xff, 0xfe}
	for _, r := range "a{color:#111}" {
		utf16 = binary.LittleEndian.AppendUint16(utf16, uint16(r))
	}
	for what, c := range map[string]struct {
		name string
		data []byte
		part string
	}{
		"empty":             {"a.pptx", nil, "a.pptx is empty"},
		"not a zip":         {"a.pptx", []byte("hello"), "not a ZIP archive"},
		"truncated":         {"a.pptx", deck[:len(deck)*2/3], "cut off"},
		"a plain zip":       {"a.pptx", audittest.Zip(t, map[string]string{"x": "y"}), "not an office document"},
		"a workbook":        {"a.pptx", audittest.Zip(t, rels("xl/workbook.xml")), `"xl/workbook.xml" is missing`},
		"a missing part":    {"a.pptx", audittest.Zip(t, rels("ppt/presentation.xml")), `"ppt/presentation.xml" is missing`},
		"five gigabytes":    {"a.pptx", bomb(t, false), "unpacks to 5.4 GB"},
		"a lying size":      {"a.pptx", bomb(t, true), "not an office document"},
		"too many entries":  {"a.pptx", audittest.Zip(t, many), "100000 entries"},
		"nested deep":       {"a.pptx", audittest.Zip(t, deep), "nested over"},
		"malformed":         {"a.pptx", audittest.Zip(t, malformed), "line 2 is not well-formed"},
		"markup entity":     {"a.svg", []byte("<!DOCTYPE svg [<!ENTITY x \"<g/>\">]>\n<svg>&x;</svg>"), "line 1 declares the entity x with markup"},
		"nested entities":   {"a.svg", []byte("<!DOCTYPE svg [<!ENTITY a \"ha\"><!ENTITY b \"&a;&a;\">]>\n<svg>&b;</svg>"), "the entity b with markup or other entities"},
		"parameter entity":  {"a.svg", []byte("<!DOCTYPE svg [<!ENTITY % x \"y\">%x;]>\n<svg/>"), "the parameter entity x"},
		"another file":      {"a.svg", []byte("<!DOCTYPE svg [<!ENTITY x SYSTEM \"file:///etc/passwd\">]>\n<svg>&x;</svg>"), "content of another file, which is not fetched"},
		"large entities":    {"a.svg", []byte("<!DOCTYPE svg [<!ENTITY x '" + strings.Repeat("y", 400) + "'>]>\n<svg>" + strings.Repeat("&x;", 60_000) + "</svg>"), "over 20 MB"},
		"unknown entity":    {"a.svg", []byte("<svg a='&x;'/>"), "invalid character entity &x;"},
		"unknown encoding":  {"a.svg", []byte("<?xml version='1.0' encoding='klingon'?><svg/>"), `the encoding "klingon", which is not known`},
		"wrong encoding":    {"a.svg", []byte("<svg>\xff</svg>"), "byte 6 is not UTF-8, and it declares no other"},
		"svg cut off":       {"a.svg", []byte("<svg>\n<path fill='#111'"), "line 2"},
		"not a drawing":     {"a.svg", []byte("<html/>"), "no svg element"},
		"drawing in UTF-16": {"a.svg", utf16, "no svg element"},
		"UTF-16":            {"a.css", utf16, "a.css: it is written in UTF-16"},
		"not UTF-8":         {"a.css", []byte("a{}\xff"), "byte 4 is not UTF-8"},
		"an unknown kind":   {"a.xyz", []byte("hello"), ".pptx"},
		"elements too deep": {"a.svg", []byte("<svg>" + strings.Repeat("<g>", 400)), "nested over"},
	} {
		_, err := kinds.Read(c.name, c.data)
		if assert.Error(t, err, what) {
			assert.Contains(t, err.Error(), c.part, what)
			assert.Contains(t, err.Error(), c.name, what)
		}
	}
}

func TestTooManyDifferentColorsAreSaid(t *testing.T) {
	var b strings.Builder
	for i := range 50_100 {
		fmt.Fprintf(&b, "a{color:#%06x}\n", i*3)
	}
	_, err := kinds.Read("x.css", []byte(b.String()))
	assert.ErrorContains(t, err, "x.css: it holds 50100 different colors; at most 50000 are judged")
}

// bomb is an archive with a part that says it unpacks to 5 GB.
func bomb(t testing.TB, lie bool) []byte {
	var raw bytes.Buffer
	f, err := flate.NewWriter(&raw, flate.BestCompression)
	require.NoError(t, err)
	zeros := make([]byte, 1<<20)
	for range 20 {
		_, _ = f.Write(zeros)
	}
	require.NoError(t, f.Close())
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	size := uint64(5 << 30)
	if lie {
		size = 1000
	}
	w, err := z.CreateRaw(&zip.FileHeader{Name: "[Content_Types].xml", Method: zip.Deflate, CompressedSize64: uint64(raw.Len()), UncompressedSize64: size})
	require.NoError(t, err)
	_, _ = w.Write(raw.Bytes())
	w, err = z.CreateRaw(&zip.FileHeader{Name: "_rels/.rels", Method: zip.Deflate, CompressedSize64: uint64(raw.Len()), UncompressedSize64: size})
	require.NoError(t, err)
	_, _ = w.Write(raw.Bytes())
	require.NoError(t, z.Close())
	return b.Bytes()
}
