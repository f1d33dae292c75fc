//go:build !js

package picture

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"image"
	stdcolor "image/color"
	"image/png"
	"slices"

	"github.com/HugoSmits86/nativewebp"
	"golang.org/x/image/bmp"

	"huekeep/core/color"
	"huekeep/core/limits"
)

// Brush changes the colors of a picture.
type Brush struct {
	// Pixels changes those of a frame or a page, as its file has them, and says whether it did. What they mean is in the codes, or they are
	// sRGB.
	Pixels func(img *image.NRGBA, codes *Codes) bool
	// Entry is what becomes of a color of a palette that all frames share, in the same values.
	Entry func(c color.RGB8, codes *Codes) color.RGB8

	left *int64 // pixels that may still be looked at
}

// read reads a frame that was made a file of its own, as its file has it, if all frames together are not too much.
func (b Brush) read(format string, data []byte) (*Picture, error) {
	p, err := readAs(format, data, reader{own: true, stored: true})
	if err != nil {
		return nil, err
	}
	if *b.left -= int64(p.Rect.Dx()) * int64(p.Rect.Dy()); *b.left < 0 {
		return nil, fmt.Errorf("its frames or pages are more than can be written")
	}
	return p, nil
}

// Rewrite writes a PNG, GIF, WebP without loss, BMP or TIFF with other pixels in all of its frames and pages. What the file says beside
// them stays: its profile, sizes, texts, times, and how frames follow each other. A PNG of a palette that moves, and a GIF, get another
// palette and keep their pixels.
func Rewrite(data []byte, b Brush) (out []byte, err error) {
	defer func() {
		if r := recover(); r != nil { // as in Decode
			out, err = nil, fmt.Errorf("the picture is damaged")
		}
	}()
	left := int64(limits.FramePixels)
	b.left = &left
	switch format, _ := Is(data); format {
	case "PNG":
		return rewritePNG(data, b)
	case "GIF":
		return rewriteGIF(data, b)
	case "WebP":
		return rewriteWebP(data, b)
	case "BMP":
		return rewriteBMP(data, b)
	case "TIFF":
		return rewriteTIFF(data, b)
	}
	return nil, fmt.Errorf("a picture of this kind is not written")
}

// brushed is a picture of one frame, as its file has it, with other pixels; nil if none changed.
func (b Brush) brushed(format string, data []byte) (*image.NRGBA, error) {
	p, err := b.read(format, data)
	if err != nil || p.Kept() != "" {
		return nil, err
	}
	img, codes := p.Exact()
	if !b.Pixels(img, codes) {
		return nil, nil
	}
	return img, nil
}

// Chunks of a PNG that say how its samples are to be read, or are for those alone (PNG 3, 11.3): other samples have others.
var ofSamples = []string{"PLTE", "tRNS", "bKGD", "sBIT", "hIST"}

// rewritePNG goes over the chunks of a PNG. The pixels of each frame become a chunk where they began.
func rewritePNG(data []byte, b Brush) ([]byte, error) {
	const colorType, palette = 9, 3
	moves, head := false, []byte(nil) // the chunks that all frames share
	chunks(data, func(kind string, body []byte) bool {
		moves = moves || kind == "acTL"
		if kind == "IHDR" && head == nil {
			head = body
		}
		return kind != "IDAT"
	})
	if len(head) != 13 {
		return nil, fmt.Errorf("the PNG picture is damaged: it has no head")
	}
	if moves && head[colorType] == palette {
		return withPalette(data, b)
	}
	var samples image.Image
	if !moves { // as few bits as it needs
		img, err := b.brushed("PNG", data)
		if err != nil || img == nil {
			return data, err
		}
		samples = small(img)
	}
	return framesOfPNG(data, func(shared, control, pixels []byte, out *bytes.Buffer) error {
		if samples != nil {
			return samplesOf(samples, out)
		}
		whole := append(bytes.Clone(data[:8]), shared...)
		if control != nil {
			copy(whole[16:24], control[4:12])
			binary.BigEndian.PutUint32(whole[29:], crc32.ChecksumIEEE(whole[12:29]))
		}
		alone := chunk(chunk(whole, "IDAT", pixels), "IEND", nil)
		p, err := b.read("PNG", alone)
		if err != nil {
			return err
		}
		img, codes := p.Exact()
		b.Pixels(img, codes)
		return samplesOf(sheer{img}, out)
	})
}

// sheer is a picture that is written with how opaque each pixel is, as all frames of an animation are written alike.
type sheer struct{ *image.NRGBA }

// Opaque says that it may not be.
func (sheer) Opaque() bool { return false }

// samplesOf writes a picture as a PNG without loss.
func samplesOf(img image.Image, out *bytes.Buffer) error {
	enc := png.Encoder{CompressionLevel: png.BestCompression}
	return enc.Encode(out, img)
}

// framesOfPNG writes a PNG whose frames have the samples that write makes: it is given the chunks that all frames share, what controls the
// frame, which is nil for one that is not of an animation, and its pixels as the file has them, and writes a PNG of its own.
func framesOfPNG(data []byte, write func(shared, control, pixels []byte, out *bytes.Buffer) error) ([]byte, error) {
	var shared, control, pixels []byte
	var failed error
	var kindOf string
	out := bytes.Clone(data[:8])
	headAt := len(out)
	sequence := uint32(0)
	begun := false // the first pixels, before which samples are described
	full := func() bool {
		if pixels == nil {
			return true
		}
		var one bytes.Buffer
		if failed = write(shared, control, pixels, &one); failed != nil {
			return false
		}
		var samples, described, size []byte
		chunks(one.Bytes(), func(kind string, body []byte) bool {
			switch {
			case kind == "IHDR":
				size = body
			case kind == "IDAT":
				samples = append(samples, body...)
			case slices.Contains(ofSamples, kind):
				described = chunk(described, kind, body)
			}
			return true
		})
		if !begun { // the samples are those of the head
			copy(out[headAt+8+8:], size[8:])
			binary.BigEndian.PutUint32(out[headAt+8+13:], crc32.ChecksumIEEE(out[headAt+4:headAt+8+13]))
			out, begun = append(out, described...), true
		}
		if kindOf == "fdAT" {
			samples = append(binary.BigEndian.AppendUint32(nil, sequence), samples...)
			sequence++
		}
		out = chunk(out, kindOf, samples)
		pixels = nil
		return true
	}
	chunks(data, func(kind string, body []byte) bool {
		switch kind {
		case "IDAT":
			kindOf, pixels = kind, append(pixels, body...)
			return true
		case "fdAT":
			if len(body) < 4 {
				failed = fmt.Errorf("a frame is damaged")
				return false
			}
			kindOf, pixels = kind, append(pixels, body[4:]...)
			return true
		}
		if !full() {
			return false
		}
		switch {
		case kind == "fcTL" && len(body) == 26:
			control = bytes.Clone(body)
			binary.BigEndian.PutUint32(control, sequence)
			sequence++
			body = control
		case kind == "IHDR" || !begun && !slices.Contains([]string{"acTL", "eXIf"}, kind):
			shared = chunk(shared, kind, body)
		}
		if !slices.Contains(ofSamples, kind) && kind != "IEND" {
			out = chunk(out, kind, body)
		}
		return kind != "IEND"
	})
	if failed == nil {
		full()
	}
	return chunk(out, "IEND", nil), failed
}

// withPalette is a PNG with another palette.
func withPalette(data []byte, b Brush) ([]byte, error) {
	_, codes, err := exactAs("PNG", data)
	if err != nil {
		return nil, err
	}
	out := bytes.Clone(data[:8])
	end := 8
	chunks(data, func(kind string, body []byte) bool {
		end += 12 + len(body)
		if kind == "PLTE" {
			body = b.entries(body, codes)
		}
		out = chunk(out, kind, body)
		return true
	})
	return append(out, data[end:]...), nil
}

// entries is a palette of red, green and blue with other colors.
func (b Brush) entries(list []byte, codes *Codes) []byte {
	out := bytes.Clone(list)
	for i := 0; i+3 <= len(out); i += 3 {
		c := b.Entry(color.RGB8{R: out[i], G: out[i+1], B: out[i+2]}, codes)
		out[i], out[i+1], out[i+2] = c.R, c.G, c.B
	}
	return out
}

// small gives a picture of up to 256 colors a palette, so that it does not grow.
func small(img *image.NRGBA) image.Image {
	index := map[stdcolor.NRGBA]uint8{}
	out := &image.Paletted{Pix: make([]uint8, img.Rect.Dx()*img.Rect.Dy()), Stride: img.Rect.Dx(), Rect: img.Rect}
	for y := range img.Rect.Dy() {
		for x := range img.Rect.Dx() {
			c := img.NRGBAAt(x, y)
			i, ok := index[c]
			if !ok {
				if len(out.Palette) == 256 {
					return img
				}
				i = uint8(len(out.Palette))
				index[c] = i
				out.Palette = append(out.Palette, c)
			}
			out.Pix[y*out.Stride+x] = i
		}
	}
	return out
}

// rewriteGIF changes the palettes of a GIF where they stand (GIF89a, 19 and 21).
func rewriteGIF(data []byte, b Brush) ([]byte, error) {
	out := bytes.Clone(data)
	for _, block := range gifBlocks(data) {
		from, to := block.colors[0], block.colors[1]
		copy(out[from:to], b.entries(data[from:to], nil))
	}
	return out, nil
}

// rewriteWebP writes the frames of a WebP anew (RFC 9649), and keeps its other chunks.
func rewriteWebP(data []byte, b Brush) ([]byte, error) {
	pixels := func(one []byte) ([]byte, error) {
		img, err := b.brushed("WebP", one)
		if err != nil || img == nil {
			return nil, err
		}
		var packed bytes.Buffer
		if err := nativewebp.Encode(&packed, img, nil); err != nil {
			return nil, err
		}
		var out []byte
		riff(packed.Bytes(), func(kind string, body []byte) bool {
			if kind == "VP8L" {
				out = body
			}
			return true
		})
		return out, nil
	}
	var failed error
	out := bytes.Clone(data[:12])
	riff(data, func(kind string, body []byte) bool {
		var lossless []byte
		switch kind {
		case "VP8L":
			if lossless, failed = pixels(data); lossless != nil {
				body = lossless
			}
		case "ANMF":
			one := alone(data, body)
			if one == nil {
				failed = fmt.Errorf("the WebP picture is damaged: it is cut off")
				return false
			}
			if lossless, failed = pixels(one); lossless != nil {
				body = riffChunk(bytes.Clone(body[:16]), "VP8L", lossless)
			}
		}
		out = riffChunk(out, kind, body)
		return failed == nil
	})
	binary.LittleEndian.PutUint32(out[4:], uint32(len(out)-8))
	return out, failed
}

// riffChunk adds a chunk of a WebP.
func riffChunk(to []byte, kind string, body []byte) []byte {
	to = append(binary.LittleEndian.AppendUint32(append(to, kind...), uint32(len(body))), body...)
	return append(to, make([]byte, len(body)&1)...)
}

func rewriteBMP(data []byte, b Brush) ([]byte, error) {
	img, err := b.brushed("BMP", data)
	if err != nil || img == nil {
		return data, err
	}
	var out bytes.Buffer
	if err := bmp.Encode(&out, img); err != nil {
		return nil, err
	}
	const resolution = 38 // pixels a meter, across and down, in all heads but the oldest
	if len(data) >= resolution+8 && binary.LittleEndian.Uint32(data[14:]) >= 40 {
		copy(out.Bytes()[resolution:], data[resolution:resolution+8])
	}
	return out.Bytes(), nil
}

// Tags of a TIFF that say how its samples are kept (TIFF 6.0; the supplements): other samples have others.
var ofStrips = []uint16{258, 259, 262, 263, 264, 265, 266, 273, 277, 278, 279, 280, 281, 284, 290, 291, 292, 293, 317, 320, 321, 322, 323,
	324, 325, 338, 339, 340, 341, 342, 347, 512, 513, 514, 515, 517, 518, 519, 520, 521, 529, 530, 531, 532}

// rewriteTIFF adds the new samples of each page and a directory of its own with them, and lets the chain of pages lead there. All that
// other tags point to stays where it is; so do the samples from before, which nothing points to any more.
func rewriteTIFF(data []byte, b Brush) ([]byte, error) {
	const mask = 4 // of NewSubfileType: its pixels are no colors
	order := byteOrder(data)
	out := append(bytes.Clone(data), make([]byte, len(data)&1)...)
	page, link := bytes.Clone(data), int64(4) // where it stands which directory is next
	for at := range tiffPages(data) {
		order.PutUint32(page[4:], at)
		count := int64(order.Uint16(data[at:]))
		next := int64(at) + 2 + 12*count
		if next+4 > int64(len(data)) {
			return nil, fmt.Errorf("the TIFF picture is damaged: it is cut off")
		}
		var img *image.NRGBA
		if kind, ok := tiffTag(page, 254); !ok || kind[len(kind)-1]&mask == 0 {
			var err error // a page that cannot be read stays, as was said of it when it was found
			if img, err = b.brushed("TIFF", page); *b.left < 0 {
				return nil, err
			}
		}
		if img == nil {
			order.PutUint32(out[link:], at)
			link = next
			continue
		}
		var entries [][]byte
		for i := range count {
			if e := data[int64(at)+2+12*i:][:12]; !slices.Contains(ofStrips, order.Uint16(e)) {
				entries = append(entries, e)
			}
		}
		body, entries, err := strip(img, entries, order, len(out))
		if err != nil {
			return nil, err
		}
		out = append(out, body...)
		order.PutUint32(out[link:], uint32(len(out)))
		out = order.AppendUint16(out, uint16(len(entries)))
		for _, e := range entries {
			out = append(out, e...)
		}
		link = int64(len(out))
		out = order.AppendUint32(out, 0) // the last, until another one follows
	}
	return out, nil
}

// strip packs a page as one strip of red, green, blue and, where it is not opaque, how opaque each pixel is, to stand at a place, and adds
// to a directory what tells of it.
func strip(img *image.NRGBA, entries [][]byte, order tiffOrder, at int) (body []byte, all [][]byte, err error) {
	const shortType, longType = 3, 4
	samples := 4
	if img.Opaque() {
		samples = 3
	}
	w, h := img.Rect.Dx(), img.Rect.Dy()
	var packed bytes.Buffer
	z := zlib.NewWriter(&packed)
	row := make([]byte, samples*w)
	for y := range h {
		for x := range w {
			copy(row[samples*x:], img.Pix[y*img.Stride+4*x:][:samples])
		}
		for i := len(row) - 1; i >= samples; i-- { // each less the one before it (TIFF 6.0, 14)
			row[i] -= row[i-samples]
		}
		if _, err := z.Write(row); err != nil {
			return nil, nil, err
		}
	}
	if err := z.Close(); err != nil {
		return nil, nil, err
	}
	body = packed.Bytes()
	size := len(body)
	if len(body)&1 == 1 {
		body = append(body, 0)
	}
	bits := at + len(body)
	for range samples {
		body = order.AppendUint16(body, 8)
	}
	entry := func(tag, kind uint16, n int, v int) {
		e := order.AppendUint32(order.AppendUint16(order.AppendUint16(nil, tag), kind), uint32(n))
		if kind == shortType && n == 1 {
			e = order.AppendUint16(order.AppendUint16(e, uint16(v)), 0)
		} else {
			e = order.AppendUint32(e, uint32(v))
		}
		entries = append(entries, e)
	}
	entry(258, shortType, samples, bits)
	entry(259, shortType, 1, 8) // deflate
	entry(photometric, shortType, 1, asRGB)
	entry(273, longType, 1, at)
	entry(277, shortType, 1, samples)
	entry(278, longType, 1, h)
	entry(279, longType, 1, size)
	entry(284, shortType, 1, 1) // the samples of a pixel stand together
	entry(317, shortType, 1, 2) // see above
	if samples == 4 {
		entry(338, shortType, 1, 2) // how opaque a pixel is, by which its color is not multiplied
	}
	slices.SortStableFunc(entries, func(a, b []byte) int { return int(order.Uint16(a)) - int(order.Uint16(b)) })
	return body, entries, nil
}
