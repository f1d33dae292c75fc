package manual_test

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/gather"
	"huekeep/core/ink"
	"huekeep/core/manual"
	"huekeep/core/pdfpage"
	"huekeep/core/press"
)

// written is what a manual is known to say of a color; testdata/make.py made the manuals by other programs.
type written struct {
	Name, Hex, RGB, CMYK, Spot string
	Page                       int
	Disagree                   []string // what of it is another color than the rest
}

func manuals(t *testing.T) (all map[string][]written) {
	t.Helper()
	data, err := os.ReadFile("testdata/expected.json")
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(data, &all))
	return all
}

// numbers are those of a value, however they are parted.
func numbers(text string) string {
	return strings.Join(strings.FieldsFunc(text, func(r rune) bool { return r < '0' || r > '9' }), " ")
}

// Manuals in twelve layouts, by five programs: every name has its values, page and swatch, and what contradicts is said and nothing else.
func TestManuals(t *testing.T) {
	for file, colors := range manuals(t) {
		t.Run(file, func(t *testing.T) {
			data, err := os.ReadFile(filepath.Join("testdata", file))
			require.NoError(t, err)
			found, err := gather.Read(file, data)
			require.NoError(t, err)
			var got []gather.Candidate
			for _, c := range found.Colors {
				if c.Written != nil {
					got = append(got, c)
				}
			}
			require.Len(t, got, len(colors))
			for i, want := range colors {
				c := got[i]
				require.Equal(t, want.Name, c.Name)
				said := map[string]string{}
				for _, g := range c.Written.Given {
					said[g.Kind] = g.Text
				}
				assert.Equal(t, want.Hex, "#"+strings.ToUpper(strings.TrimPrefix(said["hex"], "#")), want.Name)
				assert.Equal(t, want.RGB, numbers(said["rgb"]), want.Name)
				assert.Equal(t, want.CMYK, numbers(said["cmyk"]), want.Name)
				assert.Equal(t, want.Spot, said["spot"], want.Name)
				assert.Equal(t, want.Page, c.Written.Page, want.Name)
				var kinds []string
				for _, d := range append(c.Written.Disagree, c.Printed(press.Coated(), ink.Quern())...) {
					kinds = append(kinds, map[string]string{"screen": "rgb"}[d.Kind]+map[string]string{"painted": "painted", "page": "page", "cmyk": "cmyk", "ink": "ink"}[d.Kind])
				}
				assert.Equal(t, want.Disagree, append([]string{}, kinds...), "%s: %v", want.Name, c.Written.Disagree)
				if at := c.Written.At; found.Of > 0 {
					assert.True(t, 0 <= at[0] && at[0] < at[2] && at[2] <= 1 && 0 <= at[1] && at[1] < at[3] && at[3] <= 1, "%s lies at %v", want.Name, at)
				}
			}
		})
	}
}

// A list of 20,000 values is no manual, and does not take long: it is read as far as it can be compared.
func TestALongListIsReadInParts(t *testing.T) {
	var b strings.Builder
	b.WriteString("<body><h1>Colors</h1>")
	for i := range 20_000 {
		fmt.Fprintf(&b, "<p><b>Color %c%c%c</b></p><p>HEX #%06X</p>", 'a'+i%26, 'a'+i/26%26, 'a'+i/676, i*97)
	}
	begun := time.Now()
	found, err := gather.Read("long.html", []byte(b.String()))
	require.NoError(t, err)
	t.Log(len(found.Colors), time.Since(begun))
}

func TestWhatIsNoManual(t *testing.T) {
	for name, text := range map[string]string{
		"numbers": "<p>Order 14 58 83 until 12/05/2026, room 4, 555 014 220.</p><table><tr><th>Item</th><th>Price</th></tr><tr><td>Ticket</td><td>14</td></tr></table><p style='color:#0E3A53'>x</p>",
		"words":   "<p>Red is for danger, blue for water.</p><p style='color:#0E3A53'>x</p>",
	} {
		found, err := gather.Read(name+".html", []byte(text))
		require.NoError(t, err)
		for _, c := range found.Colors {
			assert.Nil(t, c.Written, "%s: %s", name, c.Name)
		}
	}
}

// Half a file, one of another program's, and one with a loop in it are told of or read; nothing panics, and no folder of the machine is seen.
func TestHostilePDF(t *testing.T) {
	data, err := os.ReadFile("testdata/cards.pdf")
	require.NoError(t, err)
	for _, n := range []int{0, 9, 500, len(data) / 2, len(data) - 20} {
		m, err := manual.FromPDF(data[:n], nil, ink.Quern())
		t.Log(n, len(m.Colors), err)
	}
	loop := "%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n2 0 obj<</Type/Pages/Kids[2 0 R 3 0 R]/Count 2>>endobj\n3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 1e9 1e9]/Resources<</XObject<</a 4 0 R>>>>/Contents 5 0 R>>endobj\n" +
		"4 0 obj<</Type/XObject/Subtype/Form/BBox[0 0 9 9]/Resources<</XObject<</a 4 0 R>>>>/Length 5>>stream\n/a Do\nendstream endobj\n5 0 obj<</Length 5>>stream\n/a Do\nendstream endobj\ntrailer<</Root 1 0 R/Size 6>>\n%%EOF"
	m, err := manual.FromPDF([]byte(loop), nil, ink.Quern())
	assert.Empty(t, m.Colors, "%v", err)
}

// Whatever stands on a page, every color that is read has a value that is labelled or of its own form, and its place on the page.
func FuzzPage(f *testing.F) {
	f.Add("Deep Sound|HEX 0E3A53|RGB 14/58/83", uint8(0))
	f.Add("Hex|RGB|CMYK|#0E3A53|14 58 83|99 55 22 63", uint8(3))
	f.Add("R|14|G|58|B|83|C 1|M 2|Y 3|K 4", uint8(2))
	f.Fuzz(func(t *testing.T, text string, columns uint8) {
		p := manual.Page{Number: 1, Width: 600, Height: 800}
		if strings.Count(text, "|") > 300 {
			return
		}
		n := int(columns%8) + 1
		for i, words := range strings.Split(text, "|") {
			if !utf8.ValidString(words) || len(words) > 200 {
				return
			}
			x, y := 50+float64(i%n)*70, 50+float64(i/n)*14
			p.Words = append(p.Words, pdfpage.Words{Box: pdfpage.Box{X0: x, Y0: y, X1: x + float64(len(words))*4, Y1: y + 11}, Text: words, Size: 9})
			p.Areas = append(p.Areas, pdfpage.Area{Box: pdfpage.Box{X0: x, Y0: y + 12, X1: x + 50, Y1: y + 40}, RGB: color.RGB8{R: uint8(i), G: columns, B: 9}})
		}
		for _, c := range manual.Read([]manual.Page{p}, ink.Quern()) {
			if len(c.Values) == 0 || c.Page != 1 || c.At.X1 <= c.At.X0 {
				t.Fatalf("%+v", c)
			}
			for _, v := range c.Values {
				if v.Problem == "" && v.CMYK != nil && !v.CMYK.Valid() {
					t.Fatalf("%+v", v)
				}
			}
		}
	})
}

func FuzzDocument(f *testing.F) {
	for _, name := range []string{"web.html"} {
		data, err := os.ReadFile("testdata/" + name)
		require.NoError(f, err)
		f.Add(data)
	}
	f.Add([]byte("<table><tr><td bgcolor=#fff><td>a<tr><table><tr>"))
	f.Fuzz(func(t *testing.T, data []byte) {
		if _, err := gather.Read("a.html", append([]byte("<!doctype html>"), data...)); err != nil {
			assert.Contains(t, err.Error(), "a.html")
		}
	})
}

// A page with its picture, beside the words alone.
func BenchmarkManual(b *testing.B) {
	data, err := os.ReadFile("testdata/cards.pdf")
	require.NoError(b, err)
	b.Run("pages", func(b *testing.B) {
		for b.Loop() {
			_, err := manual.FromPDF(data, nil, ink.Quern())
			require.NoError(b, err)
		}
		b.ReportMetric(float64(b.Elapsed().Milliseconds())/float64(b.N)/10, "ms/page")
	})
}
