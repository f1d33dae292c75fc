package pdf_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/lettering"
	"huekeep/core/pdf"
	"huekeep/core/press"
)

func document() *pdf.Document {
	d := &pdf.Document{Title: "Tide (ebb) \\ flow", Author: "Größe", At: time.Date(2026, 3, 4, 5, 6, 7, 0, time.UTC)}
	d.Intent("coated", press.Coated().Profile())
	d.Spot("QN #1/2 (new)", color.CMYK{C: 10, M: 80, Y: 90})
	p := d.Page(100, 60, 9)
	p.Marks()
	p.Ink("QN #1/2 (new)", 60)
	p.Rect(10, 10, 20, 20)
	p.CMYK(color.CMYK{C: 100})
	p.Rect(40, 10, 20, 20)
	p.RGB(color.RGB8{R: 226, G: 87, B: 43})
	p.Rect(70, 10, 20, 20)
	p.Text(lettering.Bold(), 12, 10, 45, "Deep Sound Синий", 0)
	p.Right(lettering.Mono(), 9, 90, 52, "#0E3A53")
	d.Page(50, 50, 0)
	return d
}

func TestADocumentIsWhatOthersReadInIt(t *testing.T) {
	for _, program := range []string{"qpdf", "pdftotext", "pdffonts", "pdfinfo"} {
		if _, err := exec.LookPath(program); err != nil {
			if os.Getenv("CI") != "" {
				t.Fatal(program + " must be installed in CI")
			}
			t.Skip(program + " is not installed")
		}
	}
	data, err := document().Bytes()
	require.NoError(t, err)
	again, err := document().Bytes()
	require.NoError(t, err)
	assert.Equal(t, data, again, "the same calls write the same bytes")
	file := filepath.Join(t.TempDir(), "a.pdf")
	require.NoError(t, os.WriteFile(file, data, 0o600))
	run := func(name string, args ...string) string {
		out, err := exec.Command(name, args...).CombinedOutput()
		require.NoError(t, err, string(out))
		return string(out)
	}
	assert.Contains(t, run("qpdf", "--check", file), "No syntax or stream encoding errors")
	text := run("pdftotext", file, "-")
	assert.Contains(t, text, "Deep Sound Синий")
	assert.Contains(t, text, "#0E3A53")
	info := run("pdfinfo", "-box", file)
	for _, part := range []string{`Tide (ebb) \ flow`, "Größe", "Pages:           2", "TrimBox:"} {
		assert.Contains(t, info, part)
	}
	fonts := run("pdffonts", file)
	assert.Contains(t, fonts, "CID TrueType")
	assert.NotContains(t, fonts, " no  ", "every font is embedded, in part, with a way back to its letters")
	assert.Contains(t, run("qpdf", "--json", "--json-key=qpdf", file), "/QN #1/2 (new)")
}
