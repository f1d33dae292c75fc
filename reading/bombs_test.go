package reading_test

import (
	"archive/zip"
	"bytes"
	"compress/gzip"
	"compress/zlib"
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/reading"
)

// zeros writes so many bytes of one value.
func zeros(w io.Writer, n int, value byte) {
	block := bytes.Repeat([]byte{value}, 1<<20)
	for ; n > 0; n -= len(block) {
		_, _ = w.Write(block[:min(n, len(block))])
	}
}

func packedIn(parts map[string]int) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, size := range parts {
		w, _ := z.Create(name)
		zeros(w, size, ' ')
	}
	_ = z.Close()
	return b.Bytes()
}

func chunk(kind string, data []byte) []byte {
	out := binary.BigEndian.AppendUint32(nil, uint32(len(data)))
	out = append(append(out, kind...), data...)
	return binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(out[4:]))
}

// bombs are small files that come to very much.
func bombs() map[string][]byte {
	const large = 160 << 20
	out := map[string][]byte{}
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	_, _ = io.WriteString(z, "<svg>")
	zeros(z, large, ' ')
	_ = z.Close()
	out["bomb.svgz"] = b.Bytes()
	office := func(name, main, kind string) {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for part, text := range map[string]string{"[Content_Types].xml": "<x/>", "_rels/.rels": `<r><Relationship Id="a" Type="x/relationships/officeDocument" Target="` + main + `"/></r>`} {
			w, _ := z.Create(part)
			_, _ = io.WriteString(w, text)
		}
		w, _ := z.Create(main)
		_, _ = io.WriteString(w, kind)
		zeros(w, large, ' ')
		_ = z.Close()
		out[name] = b.Bytes()
	}
	office("bomb.xlsx", "xl/workbook.xml", "<workbook>")
	office("bomb.pptx", "ppt/presentation.xml", "<p:presentation>")
	office("bomb.docx", "word/document.xml", "<w:document>")
	out["bomb.odt"] = packedIn(map[string]int{"mimetype": 0, "content.xml": large})
	many := map[string]int{}
	for i := range 30_000 {
		many[fmt.Sprintf("f%d.css", i)] = 1
	}
	out["many.zip"] = packedIn(many)
	var deflated bytes.Buffer
	d := zlib.NewWriter(&deflated)
	zeros(d, large, ' ')
	_ = d.Close()
	out["bomb.pdf"] = fmt.Appendf(nil, "%%PDF-1.7\n1 0 obj\n<</Type/Catalog/Pages 2 0 R>>\nendobj\n2 0 obj\n<</Type/Pages/Kids[3 0 R]/Count 1>>\nendobj\n3 0 obj\n<</Type/Page/Parent 2 0 R/MediaBox[0 0 9 9]/Contents 4 0 R>>\nendobj\n4 0 obj\n<</Filter/FlateDecode/Length %d>>\nstream\n%s\nendstream\nendobj\ntrailer<</Root 1 0 R/Size 5>>\nstartxref\n9\n%%%%EOF", deflated.Len(), deflated.String())
	header := append(binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, 49_000), 49_000), 8, 6, 0, 0, 0)
	out["bomb.png"] = append(append(append([]byte("\x89PNG\r\n\x1a\n"), chunk("IHDR", header)...), chunk("IDAT", deflated.Bytes())...), chunk("IEND", nil)...)
	out["bomb.gif"] = append([]byte("GIF89a\xff\xff\xff\xff\x80\x00\x00\x00\x00\x00\xff\xff\xff"), bytes.Repeat([]byte(",\x00\x00\x00\x00\xff\xff\xff\xff\x00\x02\x02D\x01\x00"), 3000)...)
	out["bomb.tif"] = []byte("II*\x00\x08\x00\x00\x00\x03\x00\x00\x01\x04\x00\x01\x00\x00\x00\xff\xff\xff\x7f\x01\x01\x04\x00\x01\x00\x00\x00\xff\xff\xff\x7f\x11\x01\x04\x00\xff\xff\xff\x0f\x08\x00\x00\x00\x00\x00\x00\x00")
	out["bomb.gpl"] = append([]byte("GIMP Palette\n"), bytes.Repeat([]byte("1 2 3 a\n"), 12_000_000)...)
	out["bomb.cxf"] = []byte(`<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa">` + func() string {
		var b strings.Builder
		for c := 'b'; c <= 'z'; c++ {
			fmt.Fprintf(&b, `<!ENTITY %c "%s">`, c, strings.Repeat(fmt.Sprintf("&%c;", c-1), 10))
		}
		return b.String()
	}() + `]><cc:CxF xmlns:cc="http://colorexchangeformat.com/CxF3-core">&z;</cc:CxF>`)
	out["bomb.yaml"] = []byte("a: &a [x,x,x,x,x,x,x,x,x]\n" + func() string {
		var b strings.Builder
		for c := 'b'; c <= 'n'; c++ {
			fmt.Fprintf(&b, "%c: &%c [%s]\n", c, c, strings.TrimSuffix(strings.Repeat(fmt.Sprintf("*%c,", c-1), 9), ","))
		}
		return b.String()
	}())
	out["bomb.mp4"] = append([]byte("\x00\x00\x00\x14ftypisom\x00\x00\x02\x00isom"), bytes.Repeat([]byte("\x00\x00\x00\x01moov\xff\xff\xff\xff\xff\xff\xff\xff"), 100_000)...)
	out["deep.js"] = []byte("const a=" + strings.Repeat("`${", 40))
	out["deep.json"] = bytes.Repeat([]byte("["), 5_000_000)
	out["deep.svg"] = bytes.Repeat([]byte("<g>"), 3_000_000)
	return out
}

// What is small and comes to very much is told of with a sentence, or is read; the process goes on, or ends, and the next file is read.
func TestBombs(t *testing.T) {
	if testing.Short() {
		t.Skip("it takes a while")
	}
	p := pool(t, 20*time.Second, reading.MemoryPerProcess)
	for name, data := range bombs() {
		t.Run(name, func(t *testing.T) {
			s := p.Begin(1, rules())
			defer s.End()
			begun := time.Now()
			said := func(err error) {
				var sentence reading.Sentence
				if err != nil {
					require.ErrorAs(t, err, &sentence)
					assert.Contains(t, err.Error(), name)
					assert.NotContains(t, err.Error(), "broke off", "nothing panics")
				}
			}
			said(second(s.Read(t.Context(), name, of(data), quiet)))
			_, gathered := p.Gather(t.Context(), 1, name, data)
			said(gathered)
			r, err := s.Read(t.Context(), "a.css", of([]byte("a{color:#E2572B}")), quiet)
			require.NoError(t, err)
			require.NotNil(t, r)
			assert.Equal(t, 1, r.Uses)
			t.Logf("%d bytes: %v, %v", len(data), time.Since(begun).Round(time.Millisecond), gathered)
		})
	}
	t.Logf("%+v", p.Counted())
}
