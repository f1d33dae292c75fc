package picture_test

import (
	"bytes"
	"encoding/binary"
	"image"
	stdcolor "image/color"
	"image/gif"
	"image/png"
	"os"
	"path/filepath"
	"testing"

	"github.com/hhrutter/tiff"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/picture"
)

// written keeps a picture in a file of a folder.
func written(t *testing.T, dir, name string, data []byte) string {
	t.Helper()
	path := filepath.Join(dir, name)
	require.NoError(t, os.WriteFile(path, data, 0o600))
	return path
}

func readFile(t *testing.T, path string) []byte {
	t.Helper()
	data, err := os.ReadFile(path)
	require.NoError(t, err)
	return data
}

// sign is a picture of three flat areas on a ground.
func sign(colors ...string) *image.NRGBA {
	img := canvas(320, 120, colors[0])
	for i, c := range colors[1:] {
		fill(img, c, 20+100*i, 20, 80, 80)
	}
	return img
}

// A WebP with lossy compression has its Y'CbCr in the narrow range of video. What it is decoded to is what the format's own program decodes
// to: the areas to the level, but for one of rounding, with and without transparency.
func TestLossyWebPHasTheColorsThatItShows(t *testing.T) {
	dir := t.TempDir()
	opaque := sign("#F7F5F0", "#E2572B", "#0E3A53", "#F2B632")
	clear := sign("#FFFFFF", "#000000", "#7A4E7E", "#8FC1D4")
	for y := range 120 {
		for x := range 10 {
			clear.SetNRGBA(x, y, stdcolor.NRGBA{})
		}
	}
	for name, img := range map[string]*image.NRGBA{"opaque": opaque, "clear": clear} {
		for _, quality := range []string{"50", "80", "100"} {
			file := written(t, dir, name+".png", pngOf(t, img))
			packed, back := filepath.Join(dir, name+quality+".webp"), filepath.Join(dir, name+quality+".png")
			run(t, "webp", "cwebp", "-quiet", "-q", quality, file, "-o", packed)
			run(t, "webp", "dwebp", "-quiet", "-nofancy", packed, "-o", back)
			data := readFile(t, packed)
			assert.True(t, picture.Lossy(data))
			ours, theirs := decode(t, data), decode(t, readFile(t, back))
			worst := 0
			for i, v := range ours.Pix {
				if ours.Pix[i|3] == 0 {
					continue
				}
				d := int(v) - int(theirs.Pix[i])
				worst = max(worst, d, -d)
			}
			assert.LessOrEqual(t, worst, 1, "%s at %s", name, quality)
			assert.Equal(t, theirs.Pix[3], ours.Pix[3])
			for i := range 3 { // and near what was drawn
				x := 60 + 100*i
				a, b := img.NRGBAAt(x, 60), ours.NRGBAAt(x, 60)
				assert.InDelta(t, a.R, b.R, 4, "%s at %s", name, quality)
				assert.InDelta(t, a.G, b.G, 4, "%s at %s", name, quality)
				assert.InDelta(t, a.B, b.B, 4, "%s at %s", name, quality)
			}
		}
	}
	plain := filepath.Join(dir, "plain.webp")
	run(t, "webp", "cwebp", "-quiet", "-lossless", filepath.Join(dir, "opaque.png"), "-o", plain)
	assert.False(t, picture.Lossy(readFile(t, plain)))
	assert.Equal(t, opaque.Pix, decode(t, readFile(t, plain)).Pix)
}

// moving is a GIF of frames on a ground, each with a way to be taken away again.
func moving(t *testing.T, w, h int, frames []image.Rectangle, colors []string, disposal []byte) []byte {
	t.Helper()
	palette := stdcolor.Palette{stdcolor.NRGBA{}}
	for _, c := range colors {
		v := hex(c)
		palette = append(palette, stdcolor.NRGBA{v.R, v.G, v.B, 255})
	}
	g := &gif.GIF{Config: image.Config{Width: w, Height: h, ColorModel: palette}}
	for i, r := range frames {
		p := image.NewPaletted(r, palette)
		for k := range p.Pix {
			p.Pix[k] = uint8(i + 1)
		}
		g.Image, g.Delay, g.Disposal = append(g.Image, p), append(g.Delay, 10), append(g.Disposal, disposal[i])
	}
	var b bytes.Buffer
	require.NoError(t, gif.EncodeAll(&b, g))
	return b.Bytes()
}

// Frames of a GIF are put together as they show.
func TestFramesOfAGIFAreSeenAsTheyShow(t *testing.T) {
	data := moving(t, 40, 20, []image.Rectangle{image.Rect(0, 0, 40, 20), image.Rect(0, 0, 10, 20), image.Rect(10, 0, 20, 20), image.Rect(20, 0, 30, 20)},
		[]string{"#111111", "#222222", "#333333", "#444444"}, []byte{gif.DisposalNone, gif.DisposalPrevious, gif.DisposalBackground, gif.DisposalNone})
	assert.Equal(t, 4, picture.Frames(data))
	rows := map[int][]uint8{}
	require.NoError(t, picture.Later(data, 10, func(n int, img *image.NRGBA) error {
		for x := 5; x < 40; x += 10 {
			c := img.NRGBAAt(x, 10)
			rows[n] = append(rows[n], c.R&c.A)
		}
		return nil
	}))
	assert.Equal(t, map[int][]uint8{2: {0x22, 0x11, 0x11, 0x11}, 3: {0x11, 0x33, 0x11, 0x11}, 4: {0x11, 0, 0x44, 0x11}}, rows)
	var some []int
	require.NoError(t, picture.Later(data, 2, func(n int, _ *image.NRGBA) error { some = append(some, n); return nil }))
	assert.Equal(t, []int{2, 4}, some, "evenly spread")
	assert.Equal(t, 1, picture.Frames(moving(t, 4, 4, []image.Rectangle{image.Rect(0, 0, 4, 4)}, []string{"#111111"}, []byte{0})))
}

// One that unpacks to more than a picture may is refused before it is unpacked.
func TestALongAnimationIsNotUnpacked(t *testing.T) {
	one := moving(t, 5000, 5000, []image.Rectangle{image.Rect(0, 0, 5000, 5000)}, []string{"#111111"}, []byte{0})
	head := 13 + 3<<(one[10]&7+1)
	frame := bytes.TrimSuffix(one[head:], []byte{0x3b})
	data := append(append(bytes.Clone(one[:head]), bytes.Repeat(frame, 200)...), 0x3b)
	assert.Equal(t, 200, picture.Frames(data))
	err := picture.Later(data, 10, func(int, *image.NRGBA) error { t.Fatal("it was unpacked"); return nil })
	assert.EqualError(t, err, "its 200 frames of 5000 x 5000 pixels are more than can be read")
	assert.Equal(t, image.Pt(5000, 5000), decode(t, data).Rect.Max, "its first frame is read all the same")
}

// Frames and pages that are not looked at are counted, so that it can be said; the first is read.
func TestWhatAPictureHasBesidesItsFirstFrameIsCounted(t *testing.T) {
	dir := t.TempDir()
	a, b := sign("#F7F5F0", "#E2572B"), sign("#F7F5F0", "#0E3A53")
	one, two := written(t, dir, "a.png", pngOf(t, a)), written(t, dir, "b.png", pngOf(t, b))
	for _, kind := range []string{"-lossless", "-lossy"} {
		webp := filepath.Join(dir, "x.webp")
		run(t, "webp", "img2webp", kind, one, two, one, "-o", webp)
		data := readFile(t, webp)
		assert.Equal(t, 3, picture.Frames(data), kind)
		assert.Equal(t, kind == "-lossy", picture.Lossy(data))
		p := decode(t, data)
		assert.Equal(t, "it is animated", p.More)
		c := p.NRGBAAt(60, 60)
		assert.InDelta(t, 0xE2, c.R, 3)
		assert.InDelta(t, 0x2B, c.B, 3)
	}
	var first, second bytes.Buffer
	require.NoError(t, tiff.Encode(&first, a, nil))
	require.NoError(t, tiff.Encode(&second, b, nil))
	pages := filepath.Join(dir, "x.tif")
	run(t, "libtiff-tools", "tiffcp", written(t, dir, "1.tif", first.Bytes()), written(t, dir, "2.tif", second.Bytes()), pages)
	data := readFile(t, pages)
	assert.Equal(t, 2, picture.Frames(data))
	assert.Equal(t, "it has several pages", decode(t, data).More)
	assert.Equal(t, 1, picture.Frames(first.Bytes()))
	still := pngOf(t, a)
	assert.Equal(t, 1, picture.Frames(still))
	at := 8 + 25 // behind the header
	control := append([]byte{0, 0, 0, 8}, "acTL"...)
	control = binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(control, 7), 0)
	animated := append(append(bytes.Clone(still[:at]), append(control, 0, 0, 0, 0)...), still[at:]...)
	assert.Equal(t, 7, picture.Frames(animated))
	_, err := png.Decode(bytes.NewReader(still))
	require.NoError(t, err)
}

// Whatever a file is, counting its frames ends, and looking at them gives frames of its size.
func FuzzFrames(f *testing.F) {
	f.Add([]byte("GIF89a\x02\x00\x02\x00\x80\x00\x00\xe2\x57\x2c\xff\xff\xff,\x00\x00\x00\x00\x02\x00\x02\x00\x00\x02\x03\x44\x02\x05\x00,\x00\x00\x00\x00\x02\x00\x02\x00\x00\x02\x03\x44\x02\x05\x00;"))
	f.Add([]byte("RIFF\x20\x00\x00\x00WEBPVP8X\x0a\x00\x00\x00\x02\x00\x00\x00\x00\x00\x00\x00\x00\x00ANMF\x04\x00\x00\x00aaaa"))
	f.Add([]byte("II*\x00\x08\x00\x00\x00\x00\x00\x08\x00\x00\x00"))
	f.Fuzz(func(t *testing.T, data []byte) {
		n := picture.Frames(data)
		require.Positive(t, n)
		p, err := picture.Decode(data)
		picture.Lossy(data)
		if err != nil || p.Format != "GIF" || p.Rect.Dx()*p.Rect.Dy() > 1<<16 || n > 50 {
			return
		}
		_ = picture.Later(data, 3, func(k int, frame *image.NRGBA) error {
			require.LessOrEqual(t, k, n)
			require.False(t, frame.Rect.Empty())
			return nil
		})
	})
}
