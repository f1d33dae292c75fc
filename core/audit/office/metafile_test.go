package office_test

import (
	"bytes"
	"encoding/binary"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/source"
)

// emf is an enhanced metafile of records, each a kind and what stands behind its size.
func emf(records ...any) []byte {
	var b bytes.Buffer
	put := func(kind uint32, data []byte) {
		_ = binary.Write(&b, binary.LittleEndian, []uint32{kind, uint32(8 + len(data))})
		b.Write(data)
	}
	head := make([]byte, 80)
	copy(head[32:], " EMF")
	put(1, head)
	for i := 0; i < len(records); i += 2 {
		put(uint32(records[i].(int)), records[i+1].([]byte))
	}
	put(14, make([]byte, 12))
	return b.Bytes()
}

// words is numbers of four bytes.
func words(list ...uint32) []byte {
	var b bytes.Buffer
	_ = binary.Write(&b, binary.LittleEndian, list)
	return b.Bytes()
}

func TestMetafiles(t *testing.T) {
	buoy, sound := uint32(0x2B57E2), uint32(0x533A0E) // as they stand in it, blue first
	data := emf(38, words(1, 0, 1, 0, buoy), 38, words(1, 5, 0, 0, sound), 39, words(2, 0, sound, 0), 39, words(2, 1, sound, 0), 39, words(2, 3, sound, 0),
		24, words(buoy), 24, words(0x1000003), 95, words(3, 0, 0, 0, 0, 0x10000, 2, 0, sound, 0, 0))
	assert.Equal(t, []string{"#E2572B line", "#0E3A53 area", "#E2572B text", "#0E3A53 line"}, audittest.Told(t, "a.emf", data), "what paints nothing, patterns and palettes are none")

	// The same drawing again in the second form: the first is not counted.
	again := []byte("EMF+\x01\x40\x00\x00\x0c\x00\x00\x00\x00\x00\x00\x00")
	record := func(kind, flags uint16, body []byte) {
		again = binary.LittleEndian.AppendUint16(binary.LittleEndian.AppendUint16(again, kind), flags)
		again = append(append(again, words(uint32(12+len(body)), uint32(len(body)))...), body...)
	}
	record(0x4014, 0x8000, words(0xFFE2572B, 0))                                                         // a filled path
	record(0x4008, 0x0100, words(0xDBC01002, 0, 0x800E3A53))                                             // a brush, half of it
	record(0x4008, 0x0200, words(0xDBC01002, 0, 0x100|0x2, 0, 0, 1, 2, 7, 8, 0xDBC01002, 0, 0xFFF2B632)) // a pen with dashes
	record(0x4008, 0x0100, words(0xDBC01002, 4, 0, 0, 0, 0, 0, 0, 0xFFE2572B, 0xFF0E3A53))
	record(0x401c, 0x8000, words(0xFF0E3A53))
	record(0x4014, 0, words(3)) // a brush by its number
	data2 := emf(24, words(buoy), 70, append(words(uint32(len(again))), again...))
	assert.Equal(t, []string{"#E2572B area", "#0E3A53 area", "#F2B632 line", "#E2572B area, an end of a gradient", "#0E3A53 area, an end of a gradient", "#0E3A53 text"},
		audittest.Told(t, "a.emf", data2))
	for n := range data2 {
		_, _ = kinds.Read("a.emf", data2[:n])
	}

	wmf := append([]byte{0xd7, 0xcd, 0xc6, 0x9a}, make([]byte, 18)...)
	wmf = append(wmf, 1, 0, 9, 0, 0, 3, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0)
	wmf = append(wmf, 5, 0, 0, 0, 0x09, 0x02, 0xE2, 0x57, 0x2B, 0)
	wmf = append(wmf, 8, 0, 0, 0, 0xfa, 0x02, 0, 0, 1, 0, 0, 0, 0x0E, 0x3A, 0x53, 0)
	wmf = append(wmf, 7, 0, 0, 0, 0xfc, 0x02, 0, 0, 0xF2, 0xB6, 0x32, 0, 0, 0)
	wmf = append(wmf, 3, 0, 0, 0, 0, 0)
	assert.Equal(t, []string{"#E2572B text", "#0E3A53 line", "#F2B632 area"}, audittest.Told(t, "a.wmf", wmf))

	_, err := kinds.Read("a.emf", data[:len(data)-24])
	require.ErrorContains(t, err, "it ends inside of a record")
	for n := range data {
		_, _ = kinds.Read("a.emf", data[:n])
	}
}

// What another program writes is read, and what is written in it is what that program shows.
func TestMetafilesOfAnOfficeSuite(t *testing.T) {
	if _, err := exec.LookPath("soffice"); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatal("soffice must be installed in CI (libreoffice-impress)")
		}
		t.Skip("soffice is not installed")
	}
	dir := t.TempDir()
	convert := func(to, file string) []byte {
		out, err := exec.Command("soffice", "--headless", "-env:UserInstallation=file://"+dir+"/profile", "--convert-to", to, "--outdir", dir, filepath.Join(dir, file)).CombinedOutput()
		require.NoError(t, err, string(out))
		data, err := os.ReadFile(filepath.Join(dir, "a."+to))
		require.NoError(t, err)
		return data
	}
	const drawing = `<svg xmlns="http://www.w3.org/2000/svg" width="200" height="200"><rect width="200" height="200" fill="#E2572B"/><path d="M10 10H190" stroke="#0E3A53" stroke-width="8"/></svg>`
	for _, kind := range []string{"emf", "wmf"} {
		require.NoError(t, os.WriteFile(filepath.Join(dir, "a.svg"), []byte(drawing), 0o600))
		data := convert(kind, "a.svg")
		scan, err := kinds.Read("a."+kind, data)
		require.NoError(t, err)
		var edits []source.Edit
		found := map[string]bool{}
		for _, u := range scan.Uses {
			found[u.RGB.Hex()] = true
			if u.RGB.Hex() != "#E2572B" {
				continue
			}
			if kind == "wmf" { // as that program writes them
				assert.Contains(t, u.Fixed, "a second time")
				continue
			}
			require.Empty(t, u.Fixed)
			for _, at := range u.At {
				old, err := at.Text()
				require.NoError(t, err)
				text, err := u.Form.Write(old, form.Paint{RGB: color.RGB8{R: 0x3B, G: 0x7A, B: 0x57}})
				require.NoError(t, err)
				edits = append(edits, source.Edit{Span: at, New: []byte(text)})
			}
		}
		assert.True(t, found["#E2572B"], "%s: %v", kind, found)
		if kind == "wmf" {
			continue
		}
		made, err := scan.File.Apply(edits)
		require.NoError(t, err)
		require.NoError(t, os.Remove(filepath.Join(dir, "a.svg")))
		require.NoError(t, os.WriteFile(filepath.Join(dir, "a."+kind), made, 0o600))
		img, err := png.Decode(bytes.NewReader(convert("png", "a."+kind)))
		require.NoError(t, err)
		r, g, b, _ := img.At(img.Bounds().Dx()/2, img.Bounds().Dy()/2).RGBA()
		assert.InDeltaSlice(t, []float64{0x3B, 0x7A, 0x57}, []float64{float64(r >> 8), float64(g >> 8), float64(b >> 8)}, 2, kind)
	}
}

// A metafile that a document shows is read where it stands.
func TestAMetafileInADocument(t *testing.T) {
	const ns = `xmlns:w="w" xmlns:r="r" xmlns:a="a" xmlns:wp="wp" xmlns:pic="pic"`
	data := audittest.Zip(t, map[string]string{
		"[Content_Types].xml":          "<x/>",
		"_rels/.rels":                  `<r><Relationship Id="a" Type="x/relationships/officeDocument" Target="word/document.xml"/></r>`,
		"word/document.xml":            `<w:document ` + ns + `><w:body><w:p><w:r><w:drawing><wp:inline><wp:docPr id="1" name="Chart of fares"/><a:graphic><a:graphicData><pic:pic><pic:blipFill><a:blip r:embed="i"/></pic:blipFill></pic:pic></a:graphicData></a:graphic></wp:inline></w:drawing></w:r></w:p></w:body></w:document>`,
		"word/_rels/document.xml.rels": `<r><Relationship Id="i" Type="x/relationships/image" Target="media/image1.emf"/></r>`,
		"word/media/image1.emf":        string(emf(24, words(0x2B57E2))),
	})
	got := audittest.Told(t, "a.docx", data)
	require.Len(t, got, 1)
	assert.Regexp(t, `^#E2572B .+ > text$`, got[0])
	t.Log(got)
}
