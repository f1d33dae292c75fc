package picture

import (
	"bytes"
	"encoding/binary"
	"iter"
)

// mostFrames is how many frames or pages are counted.
const mostFrames = 10_000

// Frames counts the pictures of a file: the frames of an animation in GIF, PNG (PNG 3, 11.3.7; with what is shown where nothing moves) or
// WebP, the pages of a TIFF; 1 for others.
func Frames(data []byte) int {
	n := 1
	switch format, _ := Is(data); format {
	case "GIF":
		n = gifFrames(data)
	case "PNG":
		n = 0
		chunks(data, func(kind string, _ []byte) bool {
			switch kind {
			case "fcTL":
				n++
			case "IDAT": // what is shown where nothing moves is the first of the frames, or a picture before them
				n = max(1, n)
			}
			return n < mostFrames
		})
	case "WebP":
		n = 0
		riff(data, func(kind string, _ []byte) bool {
			if kind == "ANMF" {
				n++
			}
			return n < mostFrames
		})
	case "TIFF":
		n = 0
		for range tiffPages(data) {
			n++
		}
	}
	return max(1, n)
}

// gifFrames counts the image blocks of a GIF.
func gifFrames(data []byte) (n int) {
	for _, block := range gifBlocks(data) {
		if block.frame {
			n++
		}
	}
	return n
}

// gifBlock is a frame of a GIF, or its head, with where its palette stands; an empty span if it has none.
type gifBlock struct {
	frame  bool
	colors [2]int
}

// gifBlocks goes over the head and the image blocks of a GIF (GIF89a, 18 to 20).
func gifBlocks(data []byte) (list []gifBlock) {
	const head = 13
	if len(data) < head {
		return nil
	}
	at := head
	table := func(flags byte) (span [2]int) {
		from := at
		if flags&0x80 != 0 {
			at += 3 << (flags&7 + 1)
		}
		return [2]int{min(from, len(data)), min(at, len(data))}
	}
	list = append(list, gifBlock{colors: table(data[10])})
	blocks := func() {
		for at < len(data) && data[at] != 0 {
			at += 1 + int(data[at])
		}
		at++
	}
	for at < len(data) && len(list) <= mostFrames {
		switch data[at] {
		case 0x21: // an extension
			at += 2
			blocks()
		case 0x2c:
			if at += 10; at > len(data) {
				return append(list, gifBlock{frame: true})
			}
			list = append(list, gifBlock{true, table(data[at-1])})
			at++
			blocks()
		default:
			return list
		}
	}
	return list
}

// tiffPages gives where the directories of a TIFF stand, each of which points to the next (TIFF 6.0, 2).
func tiffPages(data []byte) iter.Seq[uint32] {
	return func(yield func(uint32) bool) {
		if len(data) < 8 {
			return
		}
		order, seen := byteOrder(data), map[uint32]bool{}
		for at := order.Uint32(data[4:]); at != 0 && len(seen) < mostFrames && !seen[at]; {
			seen[at] = true
			if !yield(at) || int64(at)+2 > int64(len(data)) { // it points into nothing, where somebody else may find something
				return
			}
			next := int64(at) + 2 + 12*int64(order.Uint16(data[at:]))
			if next+4 > int64(len(data)) {
				return
			}
			at = order.Uint32(data[next:])
		}
	}
}

type tiffOrder interface {
	binary.ByteOrder
	binary.AppendByteOrder
}

// byteOrder is that of a TIFF structure.
func byteOrder(data []byte) tiffOrder {
	if data[0] == 'I' {
		return binary.LittleEndian
	}
	return binary.BigEndian
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
	out := data
	riff(data, func(kind string, body []byte) bool {
		if kind != "ANMF" {
			return true
		}
		if first := alone(data, body); first != nil {
			out = first
		}
		return false
	})
	return out
}

// alone is a frame of an animated WebP as a file of its own, with the profile of the whole; nil for one that is cut off.
func alone(data, frame []byte) []byte {
	const head = 16 // where the frame stands, how large it is and how long it shows
	if len(frame) < head {
		return nil
	}
	var profile []byte
	riff(data, func(kind string, body []byte) bool {
		if kind == "ICCP" {
			profile = body
		}
		return kind != "ICCP" && kind != "ANMF"
	})
	flags := byte(0)
	if bytes.HasPrefix(frame[head:], []byte("ALPH")) {
		flags = 0x10
	}
	out := append([]byte("RIFF\x00\x00\x00\x00WEBPVP8X\x0a\x00\x00\x00"), flags, 0, 0, 0)
	out = append(out, frame[6:12]...)
	if profile != nil {
		out[20] |= 0x20
		out = binary.LittleEndian.AppendUint32(append(out, "ICCP"...), uint32(len(profile)))
		out = append(append(out, profile...), make([]byte, len(profile)&1)...)
	}
	out = append(out, frame[head:]...)
	binary.LittleEndian.PutUint32(out[4:], uint32(len(out)-8))
	return out
}
