package picture

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"image"
	"image/draw"
	"image/gif"
	"iter"

	"huekeep/core/limits"
)

// Frame is one of the pictures of a file behind its first: a frame of an animation as it shows, or a page. Its pixels are those of the file
// where they have Codes, and in sRGB where not.
type Frame struct {
	*image.NRGBA
	Codes *Codes
	N     int    // 1 is the first of the file
	Lossy bool   // it is compressed with loss, or shows something of one that is
	Kept  string // of a page: see Picture.Kept
}

// Later calls f with the frames of an animation in GIF, PNG or WebP behind the first, at most so many and evenly spread, and with all
// further pages of a TIFF but those that are smaller copies or masks of others. Of other files there are none. The pixels are f's only
// until it returns; its error ends it and is returned. What is damaged, or would need more time or memory than a file may, is an error at
// the end, behind all that could be read.
func Later(data []byte, most int, f func(Frame) error) (err error) {
	defer func() {
		if r := recover(); r != nil { // as in Decode
			err = fmt.Errorf("a frame is damaged")
		}
	}()
	switch format, _ := Is(data); format {
	case "GIF":
		return laterGIF(data, most, f)
	case "PNG":
		return laterPNG(data, most, f)
	case "WebP":
		return laterWebP(data, most, f)
	case "TIFF":
		return laterTIFF(data, f)
	}
	return nil
}

// layer is a frame of an animation as its file has it.
type layer struct {
	image func() (*image.NRGBA, *Codes, error)
	at    image.Point
	over  bool // it is blended over what is there, or else stands in its place
	after leave
	lossy bool
}

// leave is what of a frame is left when its time is over.
type leave byte

const (
	leaveIt leave = iota
	leaveNothing
	leaveBefore // what was there before it
)

// compose draws the layers of an animation, of which there are so many, onto each other, and calls f with what shows from one of them on:
// the second, or the first, where the file has a picture before them.
func compose(size image.Rectangle, of, first, most int, layers iter.Seq[layer], f func(Frame) error) error {
	canvas := image.NewNRGBA(size)
	every := max(1, (of-1-first+most)/max(1, most))
	left := int64(limits.FramePixels)
	n, lossy := 0, false
	var codes *Codes // all frames have those of the file
	for l := range layers {
		number := n + 2 - first
		img, own, err := l.image()
		if codes = own; err != nil {
			return fmt.Errorf("frame %d: %w", number, err)
		}
		to := img.Rect.Sub(img.Rect.Min).Add(l.at)
		if !to.In(size) {
			return fmt.Errorf("frame %d stands outside of the picture", number)
		}
		var before *image.NRGBA
		if l.after == leaveBefore {
			before = image.NewNRGBA(size)
			copy(before.Pix, canvas.Pix)
		}
		how := draw.Src
		if l.over {
			how = draw.Over
		}
		draw.Draw(canvas, to, img, img.Rect.Min, how)
		lossy = lossy || l.lossy
		left -= int64(to.Dx()) * int64(to.Dy())
		if n >= first && (n-first)%every == 0 {
			if left -= int64(size.Dx()) * int64(size.Dy()); left < 0 {
				return fmt.Errorf("the frames from %d on are more than can be read", number)
			}
			if err := f(Frame{canvas, codes, number, lossy, ""}); err != nil {
				return err
			}
		}
		switch {
		case before != nil:
			canvas = before
		case l.after == leaveNothing:
			draw.Draw(canvas, to, image.Transparent, image.Point{}, draw.Src)
		}
		n++
	}
	return nil
}

func laterGIF(data []byte, most int, f func(Frame) error) error {
	if err := Unpacks(data); err != nil {
		return err
	}
	g, err := gif.DecodeAll(bytes.NewReader(data))
	if err != nil {
		return fmt.Errorf("the GIF picture is damaged: %w", err)
	}
	leaves := map[byte]leave{gif.DisposalBackground: leaveNothing, gif.DisposalPrevious: leaveBefore}
	return compose(image.Rect(0, 0, g.Config.Width, g.Config.Height), len(g.Image), 1, most, func(yield func(layer) bool) {
		for i, frame := range g.Image {
			if !yield(layer{image: func() (*image.NRGBA, *Codes, error) { return toNRGBA(frame), nil, nil }, at: frame.Rect.Min, over: true,
				after: leaves[g.Disposal[i]]}) {
				return
			}
		}
	}, f)
}

// Unpacks says, with a sentence if not, whether all frames of a GIF can be held at once.
func Unpacks(data []byte) error {
	config, err := gif.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return fmt.Errorf("the GIF picture is damaged: %w", err)
	}
	if n := int64(Frames(data)); n*int64(config.Width)*int64(config.Height) > limits.PictureBytes/2 {
		return fmt.Errorf("its %d frames of %d x %d pixels are more than can be read", n, config.Width, config.Height)
	}
	return nil
}

// readAs reads a frame that was made a file of its own, without what a camera noted of how it was held: places are those of the file.
func readAs(format string, data []byte, how reader) (*Picture, error) {
	for _, f := range formats {
		if f.name == format {
			return f.read(data, how)
		}
	}
	panic(format)
}

// exactAs are the pixels of such a frame, with what they mean.
func exactAs(format string, data []byte) (*image.NRGBA, *Codes, error) {
	p, err := readAs(format, data, reader{own: true})
	if err != nil {
		return nil, nil, err
	}
	img, codes := p.Exact()
	return img, codes, nil
}

// laterPNG takes an animated PNG apart (PNG 3, 11.3.7): each frame has a chunk that says where it stands, and its pixels in chunks like
// those of the picture that is shown where nothing moves. That one is the first frame if its control chunk stands before it.
func laterPNG(data []byte, most int, f func(Frame) error) error {
	var head, pixels []byte // the chunks that all frames share, and those of the frame at hand
	var control []byte
	var layers []layer
	var size image.Rectangle
	first := 0
	full := func() {
		if control == nil || pixels == nil {
			return
		}
		number := func(i int) int { return int(binary.BigEndian.Uint32(control[i:])) }
		own, its := pixels, control
		l := layer{image: func() (*image.NRGBA, *Codes, error) {
			alone := append(bytes.Clone(data[:8]), head...)
			copy(alone[16:24], its[4:12])
			binary.BigEndian.PutUint32(alone[29:], crc32.ChecksumIEEE(alone[12:29]))
			return exactAs("PNG", chunk(append(alone, own...), "IEND", nil))
		}, at: image.Pt(number(12), number(16)), over: control[25] == 1, after: leave(min(control[24], byte(leaveBefore)))}
		if len(layers) == 0 && l.after == leaveBefore {
			l.after = leaveNothing
		}
		layers = append(layers, l)
		pixels = nil
	}
	seen := false // the pixels of the picture that stands still
	chunks(data, func(kind string, body []byte) bool {
		switch kind {
		case "IHDR":
			if len(body) != 13 || head != nil {
				return false
			}
			size = image.Rect(0, 0, int(binary.BigEndian.Uint32(body)), int(binary.BigEndian.Uint32(body[4:])))
			head = chunk(head, kind, body)
		case "fcTL":
			full()
			if len(body) != 26 || head == nil {
				return false
			}
			control = body
			if !seen {
				first = 1
			}
		case "IDAT":
			seen = true
			if control != nil {
				pixels = chunk(pixels, kind, body)
			}
		case "fdAT":
			if len(body) < 4 {
				return false
			}
			pixels = chunk(pixels, "IDAT", body[4:])
		case "eXIf", "acTL":
		case "IEND":
			return false
		default:
			if !seen && head != nil {
				head = chunk(head, kind, body)
			}
		}
		return len(layers) < mostFrames
	})
	full()
	if len(layers) <= first {
		return nil
	}
	if err := fits(size); err != nil {
		return err
	}
	return compose(size, len(layers), first, most, func(yield func(layer) bool) {
		for _, l := range layers {
			if !yield(l) {
				return
			}
		}
	}, f)
}

// fits says, with a sentence if not, whether what an animation shows can be held, three times.
func fits(size image.Rectangle) error {
	w, h := int64(size.Dx()), int64(size.Dy())
	if w < 1 || h < 1 || w > limits.PictureSide || h > limits.PictureSide || w*h > limits.PictureBytes/12 {
		return fmt.Errorf("its frames of %d x %d pixels are more than can be read", w, h)
	}
	return nil
}

// chunks goes over the chunks of a PNG until f says no (PNG 3, 5.3).
func chunks(data []byte, f func(kind string, body []byte) bool) {
	for at := int64(8); at+12 <= int64(len(data)); {
		size := int64(binary.BigEndian.Uint32(data[at:]))
		if size > int64(len(data))-at-12 || !f(string(data[at+4:at+8]), data[at+8:at+8+size]) {
			return
		}
		at += 12 + size
	}
}

// chunk adds a chunk of a PNG.
func chunk(to []byte, kind string, body []byte) []byte {
	to = binary.BigEndian.AppendUint32(to, uint32(len(body)))
	from := len(to)
	to = append(append(to, kind...), body...)
	return binary.BigEndian.AppendUint32(to, crc32.ChecksumIEEE(to[from:]))
}

// laterWebP takes an animated WebP apart (RFC 9649, 2.7.1).
func laterWebP(data []byte, most int, f func(Frame) error) error {
	of := Frames(data)
	if of < 2 {
		return nil
	}
	var size image.Rectangle
	riff(data, func(kind string, body []byte) bool {
		if kind == "VP8X" && len(body) >= 10 {
			size = image.Rect(0, 0, 1+int(uint24(body[4:])), 1+int(uint24(body[7:])))
		}
		return kind != "VP8X"
	})
	if err := fits(size); err != nil {
		return err
	}
	return compose(size, of, 1, most, func(yield func(layer) bool) {
		n := 0
		riff(data, func(kind string, body []byte) bool {
			if kind != "ANMF" {
				return true
			}
			n++
			alone := alone(data, body)
			if alone == nil {
				return yield(layer{image: func() (*image.NRGBA, *Codes, error) {
					return nil, nil, fmt.Errorf("the WebP picture is damaged: it is cut off")
				}})
			}
			const inPlace, gone = 2, 1
			l := layer{image: func() (*image.NRGBA, *Codes, error) { return exactAs("WebP", alone) },
				at:   image.Pt(2*int(uint24(body)), 2*int(uint24(body[3:]))),
				over: body[15]&inPlace == 0, lossy: Lossy(alone)}
			if body[15]&gone != 0 {
				l.after = leaveNothing
			}
			return yield(l) && n < mostFrames
		})
	}, f)
}

func uint24(b []byte) uint32 { return uint32(b[0]) | uint32(b[1])<<8 | uint32(b[2])<<16 }

// laterTIFF reads the pages of a TIFF behind the first (TIFF 6.0, 2), each as if it were the first.
func laterTIFF(data []byte, f func(Frame) error) error {
	const reducedOrMask = 1 | 4 // of NewSubfileType
	var failed error
	left := int64(limits.FramePixels)
	page := bytes.Clone(data)
	n := 0
	for at := range tiffPages(data) {
		if n++; n == 1 {
			continue
		}
		byteOrder(data).PutUint32(page[4:], at)
		if kind, ok := tiffTag(page, 254); ok && kind[len(kind)-1]&reducedOrMask != 0 {
			continue
		}
		p, err := readAs("TIFF", page, reader{own: true})
		if err != nil {
			if failed == nil {
				failed = fmt.Errorf("page %d: %w", n, err)
			}
			continue
		}
		img, codes := p.Exact()
		if left -= int64(img.Rect.Dx()) * int64(img.Rect.Dy()); left < 0 {
			return fmt.Errorf("the pages from %d on are more than can be read", n)
		}
		if err := f(Frame{NRGBA: img, Codes: codes, N: n, Kept: p.Kept()}); err != nil {
			return err
		}
	}
	return failed
}
