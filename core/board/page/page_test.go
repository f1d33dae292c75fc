package page_test

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/goregular"

	"huekeep/core/board"
	"huekeep/core/board/page"
	"huekeep/core/typeface"
)

func paint(name, hex string) board.Paint { return board.Paint{Name: name, Hex: hex} }

// stamp is a logo of one color.
func stamp(w, h int) []byte {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	for i := 0; i < len(img.Pix); i += 4 {
		copy(img.Pix[i:], []byte{0x12, 0xAB, 0x34, 0xFF})
	}
	var out bytes.Buffer
	if err := png.Encode(&out, img); err != nil {
		panic(err)
	}
	return out.Bytes()
}

func sheet() page.Sheet {
	out := paint("Buoy", "#E2572B")
	sound, white, lamp, ice := paint("Deep Sound", "#0E3A53"), paint("Hull White", "#F7F5F0"), paint("Lamp", "#F2B632"), paint("Ice Ramp", "#8FC1D4")
	b := board.Board{Title: "Winter campaign", Intro: "Please choose one.",
		Texts: board.Texts{Headline: "Winter crossings start Monday", Lines: "Eight sailings a day until March; Převoz, Łódź.", Small: "Sailings depend on the weather.", Button: "Buy tickets"},
		Options: []board.Option{{Ground: sound, Type: white, Outline: &out, Accents: []board.Paint{lamp, ice}, Typeface: "hanken-grotesk", Size: board.Medium, Logo: true},
			{Ground: ice, Type: sound, Typeface: "own-1", Size: board.Large}, {Ground: white, Type: sound, Typeface: "zilla-slab", Size: board.Small}}}
	return page.Sheet{House: "Odelwick Ferries", Number: 2, FixedAt: time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC), Board: b,
		Faces: map[string]typeface.Typeface{"own-1": {Key: "own-1", Name: "Go", Regular: [][]byte{goregular.TTF}}}, Logo: stamp(100, 50)}
}

// at is the color of a picture at shares of its width and height.
func at(img image.Image, x, y float64) string {
	b := img.Bounds()
	c := color.NRGBAModel.Convert(img.At(int(x*float64(b.Dx())), int(y*float64(b.Dy())))).(color.NRGBA)
	return fmt.Sprintf("#%02X%02X%02X", c.R, c.G, c.B)
}

// near says that two values are within a level of each other.
func near(t *testing.T, want, got, what string) {
	t.Helper()
	var a, b [3]int
	_, err := fmt.Sscanf(want+got, "#%02X%02X%02X#%02X%02X%02X", &a[0], &a[1], &a[2], &b[0], &b[1], &b[2])
	require.NoError(t, err)
	for i := range a {
		assert.InDelta(t, a[i], b[i], 1, "%s: %s, not %s", what, got, want)
	}
}

// Places on the page, as shares of it: grounds of the three options, and the last row of colors of the first.
var places = []struct {
	what, hex string
	x, y      float64
}{{"ground A", "#0E3A53", 0.2, 0.6}, {"ground B", "#8FC1D4", 0.62, 0.7}, {"ground C", "#F7F5F0", 0.9, 0.65}, {"accent row", "#8FC1D4", 0.2, 0.872}, {"outside", "#FFFFFF", 0.02, 0.5}}

func TestAPicture(t *testing.T) {
	data, err := page.PNG(sheet())
	require.NoError(t, err)
	img, err := png.Decode(bytes.NewReader(data))
	require.NoError(t, err)
	assert.Equal(t, page.Pixels, img.Bounds().Dx())
	for _, p := range places {
		assert.Equal(t, p.hex, at(img, p.x, p.y), p.what)
	}
	found := map[string]bool{}
	for y := 0; y < img.Bounds().Dy(); y += 3 {
		for x := 0; x < img.Bounds().Dx(); x += 3 {
			c := color.NRGBAModel.Convert(img.At(x, y)).(color.NRGBA)
			found[fmt.Sprintf("#%02X%02X%02X", c.R, c.G, c.B)] = true
		}
	}
	for what, hex := range map[string]string{"the logo": "#12AB34", "the outline": "#E2572B", "the button": "#F2B632"} {
		assert.True(t, found[hex], what)
	}
	assert.Contains(t, string(data[:200]), "iCCP", "its profile is in it")
}

func run(t *testing.T, name string, args ...string) string {
	t.Helper()
	if _, err := exec.LookPath(name); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatalf("%s is missing", name)
		}
		t.Skipf("%s is not installed", name)
	}
	out, err := exec.Command(name, args...).CombinedOutput()
	require.NoError(t, err, string(out))
	return string(out)
}

// An independent reader finds the texts, embedded fonts, one page, and the colors.
func TestAPDFAsPopplerReadsIt(t *testing.T) {
	data, err := page.PDF(sheet())
	require.NoError(t, err)
	dir := t.TempDir()
	file := filepath.Join(dir, "sheet.pdf")
	require.NoError(t, os.WriteFile(file, data, 0o600))
	text := run(t, "pdftotext", "-layout", file, "-")
	for _, want := range []string{"Winter campaign", "from Odelwick Ferries, sheet 2, November 26, 2026", "Please choose one.", "Převoz", "Buy tickets", "Deep Sound", "#F2B632", "This one", "Sailings depend on the weather."} {
		assert.Contains(t, text, want)
	}
	fonts := strings.Split(strings.TrimSpace(run(t, "pdffonts", file)), "\n")[2:]
	assert.GreaterOrEqual(t, len(fonts), 4)
	for _, f := range fonts {
		assert.Regexp(t, `CID TrueType\s+Identity-H\s+yes yes yes`, f, "embedded, as a subset, with its characters")
	}
	assert.Regexp(t, `Pages:\s+1\n`, run(t, "pdfinfo", file))
	run(t, "pdftoppm", "-r", "100", "-png", file, filepath.Join(dir, "sheet"))
	f, err := os.Open(filepath.Join(dir, "sheet-1.png"))
	require.NoError(t, err)
	defer f.Close()
	img, err := png.Decode(f)
	require.NoError(t, err)
	for _, p := range places {
		near(t, p.hex, at(img, p.x, p.y), p.what)
	}
}

func TestEveryNumberOfOptionsAndLongTexts(t *testing.T) {
	for n := range 9 {
		s := sheet()
		s.Options = nil
		for range n {
			s.Options = append(s.Options, sheet().Options[0])
		}
		s.Texts.Lines, s.Texts.Headline, s.Texts.Word = strings.Repeat("long words ", 45), strings.Repeat("Head ", 24), "Wide word"
		s.Title, s.Intro = strings.Repeat("Title ", 20), strings.Repeat("An introduction. ", 110)
		s.Options = s.Options[:n:n]
		_, err := page.PDF(s)
		require.NoError(t, err, n)
	}
	s := sheet()
	s.Texts = board.Texts{}
	_, err := page.PDF(s)
	require.NoError(t, err, "without any text")
	s.Options[0].Typeface = "gone"
	_, err = page.PDF(s)
	assert.ErrorContains(t, err, "option A: there is no typeface")
}

func TestLogos(t *testing.T) {
	_, err := page.ReadLogo(stamp(20, 10))
	require.NoError(t, err)
	for says, data := range map[string][]byte{"a logo is a PNG file": []byte("<svg/>"), "damaged": []byte("\x89PNG\r\n\x1a\nhello"), "at most 4000 a side": stamp(5000, 2),
		"is damaged": stamp(20, 10)[:60], "at most 2.1 MB": make([]byte, 3<<20)} {
		_, err := page.ReadLogo(data)
		assert.ErrorContains(t, err, says)
	}
}

func FuzzLogo(f *testing.F) {
	f.Add(stamp(3, 2))
	f.Fuzz(func(_ *testing.T, data []byte) { _, _ = page.ReadLogo(data) })
}

func BenchmarkPDF(b *testing.B) {
	for b.Loop() {
		if _, err := page.PDF(sheet()); err != nil {
			b.Fatal(err)
		}
	}
}
