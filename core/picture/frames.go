package picture

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"image"
	"image/draw"
	"image/gif"

	"huekeep/core/limits"
)

// mostFrames is how many frames or pages are counted.
const mostFrames = 10_000

// Frames counts the pictures of a file: the frames of an animation in GIF, PNG (PNG 3, 11.3.7) or WebP, the pages of a TIFF; 1 for others.
func Frames(data []byte) int {
	n := 1
	switch format, _ := Is(data); format {
	case "GIF":
		n = gifFrames(data)
	case "PNG":
		if i := bytes.Index(data[:min(len(data), 4096)], []byte("acTL")); i >= 0 && i+8 <= len(data) {
			n = int(min(binary.BigEndian.Uint32(data[i+4:]), mostFrames))
		}
	case "WebP":
		n = 0
		riff(data, func(kind string, _ []byte) bool {
			if kind == "ANMF" {
				n++
			}
			return n < mostFrames
		})
	case "TIFF":
		n = tiffPages(data)
	}
	return max(1, n)
}

// gifFrames counts the image blocks of a GIF (GIF89a, 20).
func gifFrames(data []byte) (n int) {
	const head = 13
	if len(data) < head {
		return 0
	}
	table := func(flags byte) int {
		if flags&0x80 == 0 {
			return 0
		}
		return 3 << (flags&7 + 1)
	}
	at := head + table(data[10])
	blocks := func() {
		for at < len(data) && data[at] != 0 {
			at += 1 + int(data[at])
		}
		at++
	}
	for at < len(data) && n < mostFrames {
		switch data[at] {
		case 0x21: // an extension
			at += 2
			blocks()
		case 0x2c:
			n++
			if at+10 > len(data) {
				return n
			}
			at += 10 + table(data[at+9]) + 1
			blocks()
		default:
			return n
		}
	}
	return n
}

// tiffPages counts the directories of a TIFF, each of which points to the next (TIFF 6.0, 2).
func tiffPages(data []byte) (n int) {
	if len(data) < 8 {
		return 0
	}
	var order binary.ByteOrder = binary.BigEndian
	if data[0] == 'I' {
		order = binary.LittleEndian
	}
	seen := map[int64]bool{}
	at := int64(order.Uint32(data[4:]))
	for n < mostFrames && at != 0 {
		n++
		if seen[at] || at+2 > int64(len(data)) { // it points into nothing, where somebody else may find something
			return n
		}
		seen[at] = true
		next := at + 2 + 12*int64(order.Uint16(data[at:]))
		if next+4 > int64(len(data)) {
			return n
		}
		at = int64(order.Uint32(data[next:]))
	}
	return n
}

// riff goes over the chunks of a WebP until f says no.
func riff(data []byte, f func(kind string, body []byte) bool) {
	for at := int64(12); at+8 <= int64(len(data)); {
		size := int64(binary.LittleEndian.Uint32(data[at+4:]))
		if size > int64(len(data))-at-8 || !f(string(data[at:at+4]), data[at+8:at+8+size]) {
			return
		}
		at += 8 + size + size&1
	}
}

// Lossy says whether a WebP is compressed with loss.
func Lossy(data []byte) (lossy bool) {
	riff(still(data), func(kind string, _ []byte) bool {
		lossy = lossy || kind == "VP8 "
		return !lossy
	})
	return lossy
}

// still is an animated WebP as a picture of its first frame, which readers of pictures do not look for; any other as it is.
func still(data []byte) []byte {
	var out []byte
	riff(data, func(kind string, body []byte) bool {
		const head = 16 // where the frame stands, how large it is and how long it shows
		if kind != "ANMF" {
			return true
		}
		if len(body) < head {
			return false
		}
		flags := byte(0)
		if bytes.HasPrefix(body[head:], []byte("ALPH")) {
			flags = 0x10
		}
		out = append(out, "RIFF\x00\x00\x00\x00WEBPVP8X\x0a\x00\x00\x00"...)
		out = append(append(out, flags, 0, 0, 0), body[6:12]...)
		out = append(out, body[head:]...)
		binary.LittleEndian.PutUint32(out[4:], uint32(len(out)-8))
		return false
	})
	if out == nil {
		return data
	}
	return out
}

// Later calls f with frames of a GIF behind its first, as they show, at most so many and evenly spread. One that would need more memory than a
// picture may is an error, and so is one that is damaged.
func Later(data []byte, most int, f func(n int, frame *image.NRGBA) error) error {
	if err := Unpacks(data); err != nil {
		return err
	}
	g, err := gif.DecodeAll(bytes.NewReader(data))
	if err != nil {
		return fmt.Errorf("the GIF picture is damaged: %w", err)
	}
	canvas := image.NewNRGBA(image.Rect(0, 0, g.Config.Width, g.Config.Height))
	every := max(1, (len(g.Image)-2+most)/max(1, most))
	for i, frame := range g.Image {
		var before *image.NRGBA
		if g.Disposal[i] == gif.DisposalPrevious {
			before = image.NewNRGBA(canvas.Rect)
			copy(before.Pix, canvas.Pix)
		}
		draw.Draw(canvas, frame.Bounds(), frame, frame.Bounds().Min, draw.Over)
		if i > 0 && (i-1)%every == 0 {
			if err := f(i+1, canvas); err != nil {
				return err
			}
		}
		switch {
		case before != nil:
			canvas = before
		case g.Disposal[i] == gif.DisposalBackground:
			draw.Draw(canvas, frame.Bounds(), image.Transparent, image.Point{}, draw.Src)
		}
	}
	return nil
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
