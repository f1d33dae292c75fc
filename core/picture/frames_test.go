package picture_test

import (
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"image"
	stdcolor "image/color"
	"image/gif"
	"os"
	"path/filepath"
	"testing"

	"github.com/HugoSmits86/nativewebp"
	"github.com/hhrutter/tiff"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/bmp"

	"huekeep/core/color"
	"huekeep/core/hostile"
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
	require.NoError(t, picture.Later(data, 10, func(f picture.Frame) error {
		for x := 5; x < 40; x += 10 {
			c := f.NRGBAAt(x, 10)
			rows[f.N] = append(rows[f.N], c.R&c.A)
		}
		return nil
	}))
	assert.Equal(t, map[int][]uint8{2: {0x22, 0x11, 0x11, 0x11}, 3: {0x11, 0x33, 0x11, 0x11}, 4: {0x11, 0, 0x44, 0x11}}, rows)
	var some []int
	require.NoError(t, picture.Later(data, 2, func(f picture.Frame) error { some = append(some, f.N); return nil }))
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
	err := picture.Later(data, 10, func(picture.Frame) error { t.Fatal("it was unpacked"); return nil })
	assert.EqualError(t, err, "its 200 frames of 5000 x 5000 pixels are more than can be read")
	assert.Equal(t, image.Pt(5000, 5000), decode(t, data).Rect.Max, "its first frame is read all the same")
}

// later are the frames of a file behind its first, by their numbers.
func later(t *testing.T, data []byte) map[int]*image.NRGBA {
	t.Helper()
	out := map[int]*image.NRGBA{}
	require.NoError(t, picture.Later(data, 100, func(f picture.Frame) error {
		out[f.N] = &image.NRGBA{Pix: bytes.Clone(f.Pix), Stride: f.Stride, Rect: f.Rect}
		return nil
	}))
	return out
}

// An animated PNG that another program wrote, which keeps only what changes from frame to frame, shows what was drawn.
func TestFramesOfAnAnimatedPNGAreSeenAsTheyShow(t *testing.T) {
	dir := t.TempDir()
	drawn := []*image.NRGBA{sign("#F7F5F0", "#E2572B"), sign("#F7F5F0", "#E2572B", "#0E3A53"), sign("#F7F5F0", "#E2572B", "#0E3A53", "#F2B632"), sign("#F7F5F0")}
	for i, img := range drawn {
		written(t, dir, string(rune('1'+i))+".png", pngOf(t, img))
	}
	file := filepath.Join(dir, "x.png")
	run(t, "ffmpeg", "ffmpeg", "-loglevel", "error", "-i", filepath.Join(dir, "%d.png"), "-pix_fmt", "rgba", "-f", "apng", file)
	data := readFile(t, file)
	require.Equal(t, 4, picture.Frames(data))
	assert.Empty(t, decode(t, data).Kept())
	got := later(t, data)
	require.Len(t, got, 3)
	for i, img := range drawn[1:] {
		assert.Equal(t, img.Pix, got[i+2].Pix, "frame %d", i+2)
	}
}

// part is one chunk of a PNG, and parts are all of one.
type part struct {
	kind string
	body []byte
}

func parts(data []byte) (out []part) {
	for at := 8; at < len(data); {
		size := int(binary.BigEndian.Uint32(data[at:]))
		out = append(out, part{string(data[at+4 : at+8]), data[at+8 : at+8+size]})
		at += 12 + size
	}
	return out
}

func ofParts(list ...part) []byte {
	out := []byte("\x89PNG\r\n\x1a\n")
	for _, p := range list {
		out = binary.BigEndian.AppendUint32(out, uint32(len(p.body)))
		from := len(out)
		out = append(append(out, p.kind...), p.body...)
		out = binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(out[from:]))
	}
	return out
}

// leaving is an animated PNG with each way that a frame can leave what is shown, and a picture before the animation that is not part of it.
func leaving(t testing.TB) []part {
	const w, h = 40, 20
	still := parts(pngOf(t, canvas(w, h, "#999999")))
	count := part{"acTL", make([]byte, 8)}
	list := []part{still[0], count, still[1]} // IHDR, acTL, IDAT
	number := uint32(0)
	frame := func(x, width int, color string, leaves, over byte) {
		c := binary.BigEndian.AppendUint32(nil, number)
		for _, v := range []int{width, h, x, 0} {
			c = binary.BigEndian.AppendUint32(c, uint32(v))
		}
		list = append(list, part{"fcTL", append(c, 0, 1, 0, 10, leaves, over)})
		for _, p := range parts(pngOf(t, canvas(width, h, color))) {
			if p.kind == "IDAT" {
				number++
				list = append(list, part{"fdAT", append(binary.BigEndian.AppendUint32(nil, number), p.body...)})
			}
		}
		number++
	}
	frame(0, 40, "#111111", 0, 0)
	frame(0, 10, "#222222", 2, 0)
	frame(10, 10, "#333333", 1, 1)
	frame(20, 10, "#444444", 0, 0)
	return append(list, part{"IEND", nil})
}

func TestWhatFramesOfAnAnimatedPNGLeave(t *testing.T) {
	list := leaving(t)
	data := ofParts(list...)
	assert.Equal(t, 5, picture.Frames(data), "the one that is shown where nothing moves, and four")
	rows := map[int][]uint8{}
	for n, img := range later(t, data) {
		for x := 5; x < 40; x += 10 {
			c := img.NRGBAAt(x, 10)
			rows[n] = append(rows[n], c.R&c.A)
		}
	}
	assert.Equal(t, map[int][]uint8{2: {0x11, 0x11, 0x11, 0x11}, 3: {0x22, 0x11, 0x11, 0x11}, 4: {0x11, 0x33, 0x11, 0x11}, 5: {0x11, 0, 0x44, 0x11}}, rows)

	last := &list[len(list)-2]
	last.body = last.body[:9] // it is cut off
	seen := 0
	err := picture.Later(ofParts(list...), 10, func(picture.Frame) error { seen++; return nil })
	assert.ErrorContains(t, err, "frame 5: the PNG picture is damaged")
	assert.Equal(t, 3, seen, "those before it were looked at")
}

// Frames of an animated WebP show what was drawn, also where only a part of the picture changes, and through the profile of the whole.
func TestFramesOfAnAnimatedWebPAreSeenAsTheyShow(t *testing.T) {
	dir := t.TempDir()
	drawn := []*image.NRGBA{sign("#F7F5F0", "#E2572B"), sign("#F7F5F0", "#E2572B", "#0E3A53"), sign("#F7F5F0", "#7A4E7E", "#0E3A53")}
	var files []string
	for i, img := range drawn {
		files = append(files, written(t, dir, string(rune('1'+i))+".png", pngOf(t, img)))
	}
	for _, kind := range []string{"-lossless", "-lossy"} {
		file := filepath.Join(dir, kind+".webp")
		run(t, "webp", "img2webp", append(append([]string{kind}, files...), "-o", file)...)
		data := readFile(t, file)
		assert.Equal(t, 3, picture.Frames(data), kind)
		assert.Equal(t, kind == "-lossy", picture.Lossy(data))
		assert.Equal(t, kind == "-lossy", decode(t, data).Kept() != "")
		all := later(t, data)
		all[1] = decode(t, data).NRGBA
		require.Len(t, all, 3)
		for i, img := range drawn {
			worst := 0
			for _, x := range []int{10, 60, 160, 300} {
				a, b := img.NRGBAAt(x, 60), all[i+1].NRGBAAt(x, 60)
				worst = max(worst, levels(a.R, b.R), levels(a.G, b.G), levels(a.B, b.B))
			}
			if kind == "-lossless" {
				assert.Zero(t, worst, "frame %d", i+1)
			}
			assert.LessOrEqual(t, worst, 4, "frame %d, %s", i+1, kind)
		}
	}
	wide := filepath.Join(dir, "wide.webp")
	profile := written(t, dir, "wide.icc", system(t, "compatibleWithAdobeRGB1998.icc"))
	run(t, "webp", "webpmux", "-set", "icc", profile, filepath.Join(dir, "-lossless.webp"), "-o", wide)
	data := readFile(t, wide)
	first, err := picture.DecodeOwn(data)
	require.NoError(t, err)
	own, codes := first.Exact()
	require.NotNil(t, codes)
	assert.Equal(t, drawn[0].NRGBAAt(60, 60), own.NRGBAAt(60, 60), "as the file has it")
	assert.NotEqual(t, drawn[0].NRGBAAt(60, 60), first.NRGBAAt(60, 60), "not as in sRGB")
	n := 0
	require.NoError(t, picture.Later(data, 100, func(f picture.Frame) error {
		n++
		assert.Equal(t, codes, f.Codes, "frame %d", f.N)
		return nil
	}))
	assert.Equal(t, 2, n)
}

func levels(a, b uint8) int { return max(int(a)-int(b), int(b)-int(a)) }

// Pages of a TIFF are read, but for smaller copies and masks; one that is damaged is named, and the others are read all the same.
func TestPagesOfATIFFAreRead(t *testing.T) {
	dir := t.TempDir()
	var files []string
	for i, img := range []*image.NRGBA{sign("#F7F5F0", "#E2572B"), sign("#F7F5F0", "#0E3A53"), canvas(90, 70, "#7A4E7E"), canvas(9, 7, "#222222")} {
		var b bytes.Buffer
		require.NoError(t, tiff.Encode(&b, img, nil))
		files = append(files, written(t, dir, string(rune('1'+i))+".tif", b.Bytes()))
	}
	run(t, "libtiff-tools", "tiffset", "-s", "254", "1", files[3]) // a smaller copy
	assert.Equal(t, 1, picture.Frames(readFile(t, files[0])))
	assert.Empty(t, later(t, readFile(t, files[0])))
	for _, packed := range []string{"none", "lzw", "zip"} {
		file := filepath.Join(dir, packed+".tif")
		run(t, "libtiff-tools", "tiffcp", append(append([]string{"-c", packed}, files...), file)...)
		data := readFile(t, file)
		assert.Equal(t, 4, picture.Frames(data))
		assert.Empty(t, decode(t, data).Kept())
		got := later(t, data)
		require.Len(t, got, 2, packed)
		assert.Equal(t, decode(t, readFile(t, files[1])).Pix, got[2].Pix)
		assert.Equal(t, image.Rect(0, 0, 90, 70), got[3].Rect)
		assert.Equal(t, decode(t, readFile(t, files[2])).Pix, got[3].Pix)
	}
	pages := filepath.Join(dir, "odd.tif")
	run(t, "libtiff-tools", "tiffcp", "-c", "zip", files[0], files[1], files[2], pages)
	data := readFile(t, pages)
	packing := []byte{0x03, 0x01, 0x03, 0, 1, 0, 0, 0} // tag 259, one SHORT
	first := bytes.Index(data, packing)
	second := first + 1 + bytes.Index(data[first+1:], packing)
	data[second+8], data[second+9] = 0x98, 0x87 // a compression that is not read
	var seen []int
	err := picture.Later(data, 10, func(f picture.Frame) error { seen = append(seen, f.N); return nil })
	assert.EqualError(t, err, "page 2: the TIFF picture is written in a way that is not read (compression value 34712)")
	assert.Equal(t, []int{3}, seen)
}

// White is white in a scan of two colors, whichever of its bits the file says are black and however it is packed.
func TestScansOfTwoColors(t *testing.T) {
	dir := t.TempDir()
	img := canvas(64, 32, "#FFFFFF")
	fill(img, "#000000", 0, 0, 10, 32)
	file := written(t, dir, "x.png", pngOf(t, img))
	for _, bits := range []string{"monob", "monow"} {
		plain := filepath.Join(dir, bits+".tif")
		run(t, "ffmpeg", "ffmpeg", "-loglevel", "error", "-i", file, "-pix_fmt", bits, "-compression_algo", "raw", plain)
		for _, packing := range []string{"none", "g3:1d", "g4"} {
			scan := filepath.Join(dir, "scan.tif")
			run(t, "libtiff-tools", "tiffcp", "-c", packing, plain, scan)
			assert.Equal(t, img.Pix, decode(t, readFile(t, scan)).Pix, "%s, %s", bits, packing)
		}
	}
}

// Whatever a file is, counting its frames ends, and looking at them gives frames of its size.
func FuzzFrames(f *testing.F) {
	f.Add([]byte("GIF89a\x02\x00\x02\x00\x80\x00\x00\xe2\x57\x2c\xff\xff\xff,\x00\x00\x00\x00\x02\x00\x02\x00\x00\x02\x03\x44\x02\x05\x00,\x00\x00\x00\x00\x02\x00\x02\x00\x00\x02\x03\x44\x02\x05\x00;"))
	f.Add([]byte("RIFF\x20\x00\x00\x00WEBPVP8X\x0a\x00\x00\x00\x02\x00\x00\x00\x00\x00\x00\x00\x00\x00ANMF\x04\x00\x00\x00aaaa"))
	f.Add(ofParts(leaving(f)...))
	f.Add([]byte("II*\x00\x08\x00\x00\x00\x00\x00\x08\x00\x00\x00"))
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		n := picture.Frames(data)
		require.Positive(t, n)
		p, err := picture.Decode(data)
		picture.Lossy(data)
		if err != nil || p.Rect.Dx()*p.Rect.Dy() > 1<<16 || n > 50 {
			return
		}
		_ = picture.Later(data, 3, func(frame picture.Frame) error {
			require.LessOrEqual(t, frame.N, n)
			require.False(t, frame.Rect.Empty())
			return nil
		})
	})
}

// Whatever a picture is, written anew without a change it shows the same, in every frame and on every page.
func FuzzRewrite(f *testing.F) {
	img := corners()
	var b bytes.Buffer
	f.Add(pngOf(f, img))
	f.Add(chunked(pngOf(f, img), points(12, 13)))
	f.Add(ofParts(leaving(f)...))
	require.NoError(f, tiff.Encode(&b, img, nil))
	f.Add(bytes.Clone(b.Bytes()))
	f.Add(append(bytes.Clone(b.Bytes()[:4]), b.Bytes()...))
	b.Reset()
	require.NoError(f, bmp.Encode(&b, img))
	f.Add(bytes.Clone(b.Bytes()))
	b.Reset()
	require.NoError(f, nativewebp.Encode(&b, img, nil))
	f.Add(bytes.Clone(b.Bytes()))
	f.Add([]byte("GIF89a\x02\x00\x02\x00\x80\x00\x00\xe2\x57\x2c\xff\xff\xff,\x00\x00\x00\x00\x02\x00\x02\x00\x00\x02\x03\x44\x02\x05\x00;"))
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		was, err := picture.DecodeOwn(data)
		if err != nil || was.Rect.Dx()*was.Rect.Dy() > 1<<16 || picture.Frames(data) > 20 {
			return
		}
		out, err := picture.Rewrite(data, picture.Brush{Pixels: func(*image.NRGBA, *picture.Codes) bool { return true },
			Entry: func(c color.RGB8, _ *picture.Codes) color.RGB8 { return c }})
		if err != nil || was.Kept() != "" {
			return
		}
		is, err := picture.DecodeOwn(out)
		require.NoError(t, err)
		alike(t, was.NRGBA, is.NRGBA)
		require.Equal(t, picture.Frames(data), picture.Frames(out))
		later := map[int]*image.NRGBA{}
		keep := func(frame picture.Frame) error {
			later[frame.N] = &image.NRGBA{Pix: bytes.Clone(frame.Pix), Stride: frame.Stride, Rect: frame.Rect}
			return nil
		}
		if picture.Later(data, 5, keep) != nil {
			return
		}
		require.NoError(t, picture.Later(out, 5, func(frame picture.Frame) error {
			alike(t, later[frame.N], frame.NRGBA)
			return nil
		}))
	})
}

// alike holds that two pictures show the same; what is wholly transparent has no color.
func alike(t *testing.T, was, is *image.NRGBA) {
	t.Helper()
	require.Equal(t, was.Rect, is.Rect)
	for i := 0; i+3 < len(was.Pix); i += 4 {
		if [4]byte(was.Pix[i:]) != [4]byte(is.Pix[i:]) && was.Pix[i+3]|is.Pix[i+3] != 0 {
			t.Fatalf("pixel %d is %v instead of %v", i/4, is.Pix[i:i+4], was.Pix[i:i+4])
		}
	}
}
