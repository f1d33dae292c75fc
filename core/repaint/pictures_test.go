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
	"os"
	"path/filepath"
	"slices"
	"strings"
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
	"huekeep/core/proof"
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
	deep := image.NewNRGBA64(image.Rect(0, 0, 60, 60))
	for i := range 3600 {
		deep.Set(i%60, i/60, stdcolor.NRGBA64{R: 0xE4E4, G: 0x5959, B: 0x2F2F, A: 0xffff})
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, deep))
	for name, c := range map[string]struct {
		data []byte
		why  string
	}{
		"deep.png":  {b.Bytes(), "16 bits"},
		"photo.jpg": {encoded(t, "x.jpg", buoyed(hex("#E4592F"))), "a JPEG is not repainted"},
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
	marked, err := pixels.Marked(b.Bytes(), hex("#F3B632"), 0)
	require.NoError(t, err)
	shown, err := png.Decode(bytes.NewReader(marked))
	require.NoError(t, err)
	assert.Equal(t, stdcolor.NRGBA{0xF3, 0xB6, 0x32, 255}, stdcolor.NRGBAModel.Convert(shown.At(5, 5)), "the frame that has it")
	_, err = pixels.Marked(b.Bytes(), hex("#123456"), 0)
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

// A picture in a space of its own is judged by what it shows, also where sRGB does not reach, and repainted in the values of that space.
func TestPicturesInASpaceOfTheirOwnAreRepaintedInIt(t *testing.T) {
	flare := library.Color{Name: "Flare", Status: library.Approved, Master: library.Master{Kind: library.OfScreen, Text: "color(display-p3 0.1098 0.902 0.302)"}}
	flare.RGB = flare.Exact().RGB8()
	rules := audit.Rules{Colors: append([]library.Color{flare}, brand...), Tolerance: 6, Neutrals: true}
	code := func(c color.RGB) stdcolor.NRGBA {
		v, _ := color.Numbers("display-p3", c)
		r := color.RGB{R: v[0], G: v[1], B: v[2]}.Clip().RGB8()
		return stdcolor.NRGBA{R: r.R, G: r.G, B: r.B, A: 255}
	}
	buoy := hex("#E2572B").RGB()
	off := stdcolor.NRGBA{R: 33, G: 226, B: 80, A: 255} // a bit off Flare, as far beyond sRGB
	shifted := code(hex("#E6552B").RGB())
	bands := []stdcolor.NRGBA{code(flare.Exact()), off, code(buoy), shifted, {R: 255, G: 255, B: 255, A: 255}, {R: 0, G: 255, B: 0, A: 255}, {R: 80, G: 80, B: 80, A: 255}}
	img := image.NewNRGBA(image.Rect(0, 0, 20*len(bands), 40))
	for i := range img.Pix {
		x := i / 4 % img.Rect.Dx()
		img.Pix[i] = []uint8{bands[x/20].R, bands[x/20].G, bands[x/20].B, 255}[i%4]
	}
	dir := t.TempDir()
	file := func(name string) string { return filepath.Join(dir, name) }
	require.NoError(t, os.WriteFile(file("p3.icc"), proof.ProfileP3(), 0o600))
	png, err := proof.WriteP3(img)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(file("x.png"), png, 0o600))
	for _, name := range []string{"plain.webp", "plain.tif"} {
		require.NoError(t, os.WriteFile(file(name), encoded(t, "x."+name[strings.IndexByte(name, '.')+1:], img), 0o600))
	}
	run(t, dir, "webpmux", "-set", "icc", "p3.icc", "plain.webp", "-o", "x.webp")
	run(t, dir, "tificc", "-e", "-i", "p3.icc", "-o", "p3.icc", "plain.tif", "x.tif")
	coded := after(encoded(t, "x.png", img), chunk("cICP", []byte{12, 13, 0, 1})) // by code points of video
	require.NoError(t, os.WriteFile(file("coded.png"), coded, 0o600))
	for _, name := range []string{"x.png", "x.webp", "x.tif", "coded.png"} {
		t.Run(name, func(t *testing.T) {
			data := mustRead(t, file(name))
			scan, err := kinds.Read(name, data)
			require.NoError(t, err)
			report := audit.NewJudge(rules).Judge(name, scan)
			found := map[string]string{}
			for _, k := range report.Colors {
				found[k.Key] = string(k.Verdict) + " " + k.Nearest.Name
				marked, err := pixels.Marked(data, hex(k.Hex), 0)
				assert.NoError(t, err, k.Key)
				assert.NotEmpty(t, marked)
			}
			assert.Equal(t, map[string]string{"color(display-p3 0.1098 0.902 0.302)": "on-brand Flare", "color(display-p3 0.1294 0.8863 0.3137)": "drifted Flare",
				"#E2572B": "on-brand Buoy", "#E6552B": "drifted Buoy", "#FFFFFF": "on-brand neutral", "color(display-p3 0 1 0)": "off-brand Flare", "#505050": "on-brand neutral"}, found)
			before := rules // an excuse from when such a color was told by its channels, cut off at their bounds
			before.Excuses = []audit.Excuse{{Color: "#00FF00"}}
			for _, k := range audit.NewJudge(before).Judge(name, scan).Colors {
				assert.Equal(t, k.Key == "color(display-p3 0 1 0) excused", k.Verdict == audit.Excused, k.Key)
			}
			plan := repaint.Usual(report)
			plan.Colors = append(plan.Colors, repaint.Step{From: "color(display-p3 0 1 0)", To: "Lamp"})
			r, err := repaint.File(name, data, rules, plan, kinds.Options{})
			require.NoError(t, err)
			assert.Empty(t, r.Left)
			assert.Equal(t, 1.0, *r.After.Score, "%v", r.After.Colors)
			out, err := picture.DecodeOwn(r.Data)
			require.NoError(t, err)
			own, codes := out.Exact()
			require.NotNil(t, codes, "it has its space still")
			want := slices.Clone(bands)
			want[1], want[3], want[5] = bands[0], bands[2], code(hex("#F2B632").RGB())
			for i, c := range want {
				assert.Equal(t, c, own.NRGBAAt(20*i+10, 20), "band %d", i)
			}
			again, err := repaint.File(name, r.Data, rules, repaint.Usual(r.After), kinds.Options{})
			require.NoError(t, err)
			assert.Equal(t, r.Data, again.Data)
		})
	}
}

// A photo that a camera stored on its side is judged as it is seen, and stays stored as it was.
func TestPicturesThatAreStoredTurnedAreRepainted(t *testing.T) {
	exif := []byte("II*\x00\x08\x00\x00\x00\x01\x00\x12\x01\x03\x00\x01\x00\x00\x00\x06\x00\x00\x00\x00\x00\x00\x00")
	data := after(encoded(t, "x.png", buoyed(hex("#E4592F"))), chunk("eXIf", exif))
	rules := audit.Rules{Colors: brand, Neutrals: true}
	r, err := repaint.File("x.png", data, rules, repaint.Plan{Colors: []repaint.Step{{From: "#E4592F", To: "Buoy"}}}, kinds.Options{})
	require.NoError(t, err)
	assert.Empty(t, r.Left)
	stored, err := png.Decode(bytes.NewReader(r.Data))
	require.NoError(t, err)
	assert.Equal(t, image.Rect(0, 0, 160, 100), stored.Bounds())
	assert.Equal(t, stdcolor.NRGBA{0xE2, 0x57, 0x2B, 255}, stdcolor.NRGBAModel.Convert(stored.At(90, 50)))
	assert.Contains(t, string(r.Data), string(exif))
}
