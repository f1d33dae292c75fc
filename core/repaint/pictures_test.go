package repaint_test

import (
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"image"
	stdcolor "image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"math"
	"slices"
	"testing"

	"github.com/HugoSmits86/nativewebp"
	"github.com/hhrutter/tiff"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/bmp"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/audit/pixels"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/picture"
	"huekeep/core/repaint"
)

// buoyed draws a ring in a color on white, beside a square of dark blue, with edges that blend.
func buoyed(c color.RGB8) *image.NRGBA {
	img := image.NewNRGBA(image.Rect(0, 0, 160, 100))
	for y := range 100 {
		for x := range 160 {
			ground := color.RGB8{R: 255, G: 255, B: 255}
			if x >= 100 {
				ground = hex("#0E3A53")
			}
			share := min(1, max(0, 40-math.Hypot(float64(x)-90, float64(y)-50)+0.5)) // of the disk in the pixel
			mix := func(a, b uint8) uint8 { return uint8(float64(a)*share + float64(b)*(1-share) + 0.5) }
			img.SetNRGBA(x, y, stdcolor.NRGBA{R: mix(c.R, ground.R), G: mix(c.G, ground.G), B: mix(c.B, ground.B), A: 255})
		}
	}
	return img
}

func encoded(t *testing.T, name string, img *image.NRGBA) []byte {
	t.Helper()
	var b bytes.Buffer
	var err error
	switch name {
	case "x.png":
		err = png.Encode(&b, img)
	case "x.bmp":
		err = bmp.Encode(&b, img)
	case "x.webp":
		err = nativewebp.Encode(&b, img, nil)
	case "x.tif":
		err = tiff.Encode(&b, img, nil)
	case "x.gif":
		p := image.NewPaletted(img.Rect, nil)
		for y := range 100 {
			for x := range 160 {
				c := img.NRGBAAt(x, y)
				i := p.Palette.Index(c)
				if len(p.Palette) == 0 || stdcolor.NRGBAModel.Convert(p.Palette[i]) != c {
					i = min(len(p.Palette), 255)
					if i == len(p.Palette) {
						p.Palette = append(p.Palette, c)
					}
				}
				p.Pix[y*p.Stride+x] = uint8(i)
			}
		}
		err = gif.Encode(&b, p, &gif.Options{NumColors: 256, Drawer: nil})
	case "x.jpg":
		err = jpeg.Encode(&b, img, nil)
	}
	require.NoError(t, err)
	return b.Bytes()
}

// A flat picture comes out as if it had been drawn in the brand's color: the areas exactly, the edges as they would blend.
func TestFlatPicturesAreRepaintedAreaByArea(t *testing.T) {
	rules := audit.Rules{Colors: brand, Neutrals: true}
	meant := buoyed(hex("#E2572B"))
	for _, name := range []string{"x.png", "x.gif", "x.bmp", "x.tif", "x.webp"} {
		t.Run(name, func(t *testing.T) {
			data := encoded(t, name, buoyed(hex("#E4592F")))
			scan, err := kinds.Read(name, data)
			require.NoError(t, err)
			r, err := repaint.File(name, data, rules, repaint.Usual(audit.NewJudge(rules).Judge(name, scan)), kinds.Options{})
			require.NoError(t, err)
			assert.Empty(t, r.Left)
			require.NotNil(t, r.After.Score)
			assert.Equal(t, 1.0, *r.After.Score, "%v", r.After.Colors)
			out, err := picture.Decode(r.Data)
			require.NoError(t, err)
			worst, off := 0, 0
			for i, v := range out.Pix {
				d := int(v) - int(meant.Pix[i])
				worst = max(worst, max(d, -d))
				if d != 0 {
					off++
				}
			}
			assert.LessOrEqual(t, worst, 2, "of 255 levels, at the edges")
			assert.Less(t, off, len(out.Pix)/100)
			again, err := repaint.File(name, r.Data, rules, repaint.Usual(r.After), kinds.Options{})
			require.NoError(t, err)
			assert.Equal(t, r.Data, again.Data, "what is right stays as it is, byte for byte")
		})
	}
}

// chunk is a piece of a PNG.
func chunk(kind string, body []byte) []byte {
	out := binary.BigEndian.AppendUint32(nil, uint32(len(body)))
	out = append(append(out, kind...), body...)
	return binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(out[4:]))
}

// after puts chunks behind the head of a PNG.
func after(data []byte, chunks ...[]byte) []byte {
	const head = 8 + 25
	out := bytes.Clone(data[:head])
	for _, c := range chunks {
		out = append(out, c...)
	}
	return append(out, data[head:]...)
}

func TestWhatAPictureSaysBesideItsPixelsStays(t *testing.T) {
	rules := audit.Rules{Colors: brand, Neutrals: true}
	text := chunk("tEXt", []byte("Comment\x00for the ferry"))
	data := after(encoded(t, "x.png", buoyed(hex("#E4592F"))), text, chunk("pHYs", []byte{0, 0, 11, 18, 0, 0, 11, 18, 1}))
	r, err := repaint.File("x.png", data, rules, repaint.Plan{Colors: []repaint.Step{{From: "#E4592F", To: "Buoy"}}}, kinds.Options{})
	require.NoError(t, err)
	assert.Contains(t, string(r.Data), string(text))
	assert.Contains(t, string(r.Data), "pHYs")
	assert.NotEqual(t, data, r.Data)
}

// A picture that would lose something stays as it is, and it says what.
func TestPicturesThatWouldLoseSomethingAreLeft(t *testing.T) {
	rules := audit.Rules{Colors: brand, Neutrals: true}
	flat := encoded(t, "x.png", buoyed(hex("#E4592F")))
	deep := image.NewNRGBA64(image.Rect(0, 0, 60, 60))
	for i := range 3600 {
		deep.Set(i%60, i/60, stdcolor.NRGBA64{R: 0xE4E4, G: 0x5959, B: 0x2F2F, A: 0xffff})
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, deep))
	pages := encoded(t, "x.tif", buoyed(hex("#E4592F")))
	at := binary.LittleEndian.Uint32(pages[4:])
	next := at + 2 + 12*uint32(binary.LittleEndian.Uint16(pages[at:]))
	again := bytes.Clone(pages[at : next+4]) // the page again
	binary.LittleEndian.PutUint32(pages[next:], uint32(len(pages)))
	pages = append(pages, again...)
	exif := []byte("II*\x00\x08\x00\x00\x00\x01\x00\x12\x01\x03\x00\x01\x00\x00\x00\x06\x00\x00\x00\x00\x00\x00\x00")
	for name, c := range map[string]struct {
		data []byte
		why  string
	}{
		"deep.png":   {b.Bytes(), "16 bits"},
		"moving.png": {after(flat, chunk("acTL", make([]byte, 8))), "animated"},
		"turned.png": {after(flat, chunk("eXIf", exif)), "turned"},
		"gamma.png":  {after(flat, chunk("gAMA", binary.BigEndian.AppendUint32(nil, 45456))), "gamma"},
		"pages.tif":  {pages, "several pages"},
		"photo.jpg":  {encoded(t, "x.jpg", buoyed(hex("#E4592F"))), "a JPEG is not repainted"},
	} {
		t.Run(name, func(t *testing.T) {
			scan, err := kinds.Read(name, c.data)
			require.NoError(t, err)
			report := audit.NewJudge(rules).Judge(name, scan)
			for _, k := range report.Colors {
				assert.Equal(t, k.Count, k.Fixed, "%s cannot be written", k.Hex)
			}
			plan := repaint.Usual(report)
			if len(plan.Colors) == 0 { // compression hides so little
				for _, k := range report.Colors {
					plan.Colors = append(plan.Colors, repaint.Step{From: k.Hex, To: "Lamp"})
				}
			}
			r, err := repaint.File(name, c.data, rules, plan, kinds.Options{})
			require.NoError(t, err)
			assert.Equal(t, c.data, r.Data)
			require.NotEmpty(t, r.Left)
			assert.Contains(t, r.Left[0].Why, c.why)
		})
	}
}

// What only a later frame of an animation shows is found there, and repainted with the others.
func TestLaterFramesOfAGIFAreRepaintedToo(t *testing.T) {
	palette := stdcolor.Palette{stdcolor.NRGBA{0xF7, 0xF5, 0xF0, 255}, stdcolor.NRGBA{0xE2, 0x57, 0x2B, 255}, stdcolor.NRGBA{0xF3, 0xB6, 0x32, 255}}
	g := &gif.GIF{Config: image.Config{Width: 60, Height: 60, ColorModel: palette}}
	for i := range 3 { // the third has Lamp, one level off
		p := image.NewPaletted(image.Rect(0, 0, 60, 60), palette)
		for k := range 30 * 60 {
			p.Pix[k] = uint8(1 + i/2)
		}
		g.Image, g.Delay = append(g.Image, p), append(g.Delay, 10)
	}
	var b bytes.Buffer
	require.NoError(t, gif.EncodeAll(&b, g))
	rules := audit.Rules{Colors: append(slices.Clone(brand), library.Color{Name: "Hull White", RGB: hex("#F7F5F0"), Status: library.Approved})}
	scan, err := kinds.Read("x.gif", b.Bytes())
	require.NoError(t, err)
	assert.Equal(t, "60 x 60 pixels, 3 frames", scan.About)
	marked, err := pixels.Marked(b.Bytes(), hex("#F3B632"))
	require.NoError(t, err)
	shown, err := png.Decode(bytes.NewReader(marked))
	require.NoError(t, err)
	assert.Equal(t, stdcolor.NRGBA{0xF3, 0xB6, 0x32, 255}, stdcolor.NRGBAModel.Convert(shown.At(5, 5)), "the frame that has it")
	_, err = pixels.Marked(b.Bytes(), hex("#123456"))
	require.ErrorContains(t, err, "no such color")
	report := audit.NewJudge(rules).Judge("x.gif", scan)
	r, err := repaint.File("x.gif", b.Bytes(), rules, repaint.Usual(report), kinds.Options{})
	require.NoError(t, err)
	require.Len(t, r.Changes, 1)
	assert.Contains(t, r.Changes[0].Where, "frame 3, 50.0 % of the area")
	assert.Equal(t, "Lamp", r.Changes[0].To)
	assert.Equal(t, 1.0, *r.After.Score)
	out, err := gif.DecodeAll(bytes.NewReader(r.Data))
	require.NoError(t, err)
	require.Len(t, out.Image, 3)
	assert.Equal(t, stdcolor.RGBA{0xF2, 0xB6, 0x32, 255}, stdcolor.RGBAModel.Convert(out.Image[2].At(5, 5)))
	assert.Equal(t, stdcolor.RGBA{0xE2, 0x57, 0x2B, 255}, stdcolor.RGBAModel.Convert(out.Image[0].At(5, 5)))
}
