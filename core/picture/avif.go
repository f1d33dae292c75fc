//go:build !js

package picture

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"image/color"
	"io"
	"slices"
)

// AV1 is how AV1 video is looked at that a still picture is kept in: a program that does it, or nil. The matrix is a code point of ITU-T
// H.273 (8.3), and full says that the values run from 0 to 255.
var AV1 func(data []byte, matrix uint16, full bool) (image.Image, error)

func init() {
	formatNames = "PNG, JPEG, WebP, GIF, TIFF, BMP or AVIF"
	for _, brand := range []string{"avif", "mif1"} {
		formats = append(formats, format{"AVIF", []string{"????ftyp" + brand}, avifConfig, avifDecode, avifMeta})
	}
}

// avif is what a still AVIF (AV1 Image File Format 1.1, on ISO/IEC 23008-12) says of its picture.
type avif struct {
	kind        string // of the item: "av01"
	width       int
	height      int
	profile     []byte
	coded       bool   // these are told:
	primaries   uint16 // by ITU-T H.273
	transfer    uint16
	matrix      uint16
	full        bool
	angle, flip int  // quarter turns to the left; -1, or the axis that it is mirrored at
	alpha       bool // parts of it can be seen through
}

// boxes goes through the boxes of ISO base media (ISO/IEC 14496-12, 4.2), until f has seen enough.
func boxes(data []byte, f func(kind string, body []byte) bool) {
	for len(data) >= 8 {
		size, head := uint64(binary.BigEndian.Uint32(data)), uint64(8)
		switch {
		case size == 1 && len(data) >= 16:
			size, head = binary.BigEndian.Uint64(data[8:]), 16
		case size == 0:
			size = uint64(len(data))
		}
		if size < head || size > uint64(len(data)) || !f(string(data[4:8]), data[head:size]) {
			return
		}
		data = data[size:]
	}
}

// reading takes numbers from the front of bytes; behind their end they are 0.
type reading []byte

func (r *reading) number(bytes int) (n int) {
	if len(*r) < bytes {
		*r = nil
		return 0
	}
	for _, b := range (*r)[:bytes] {
		n = n<<8 | int(b)
	}
	*r = (*r)[bytes:]
	return n
}

// longer is 4 where a version says that numbers of items are longer, else 2.
func longer(long bool) int {
	if long {
		return 4
	}
	return 2
}

// items are what a file of ISO base media says of its items (ISO/IEC 14496-12, 8.11), in whatever order its boxes stand.
type items struct {
	primary    int
	kinds      map[int]string
	properties []property
	of         map[int][]int // by item, the places of its properties, from 1
	aids       map[int][]int // by item, those that it helps
}

type property struct {
	kind string
	body []byte
}

// box takes a box of those that tell of items.
func (t *items) box(kind string, body []byte) bool {
	r := reading(body)
	switch kind {
	case "pitm":
		version := r.number(4) >> 24
		t.primary = r.number(longer(version > 0))
	case "iinf":
		r.number(longer(r.number(4)>>24 > 0))
		boxes(r, func(_ string, entry []byte) bool {
			e := reading(entry)
			version := e.number(4) >> 24
			item := e.number(longer(version > 2))
			e.number(2)
			if len(e) >= 4 {
				t.kinds[item] = string(e[:4])
			}
			return true
		})
	case "iref":
		version := r.number(4) >> 24
		boxes(r, func(kind string, entry []byte) bool {
			e := reading(entry)
			from := e.number(longer(version > 0))
			for n := e.number(2); n > 0 && len(e) > 0; n-- {
				if to := e.number(longer(version > 0)); kind == "auxl" {
					t.aids[from] = append(t.aids[from], to)
				}
			}
			return true
		})
	case "iprp":
		boxes(body, t.propertyBox)
	}
	return true
}

// propertyBox takes a box of those that tell of properties: which there are, and whose they are.
func (t *items) propertyBox(kind string, body []byte) bool {
	switch r := reading(body); kind {
	case "ipco":
		boxes(body, func(kind string, body []byte) bool {
			t.properties = append(t.properties, property{kind, body})
			return true
		})
	case "ipma":
		flags := r.number(4)
		for n := r.number(4); n > 0 && len(r) > 0; n-- {
			item := r.number(longer(flags>>24 > 0))
			for range r.number(1) {
				at := r.number(1 + flags&1)
				t.of[item] = append(t.of[item], at&(1<<(7+8*(flags&1))-1))
			}
		}
	}
	return true
}

// each goes through the properties of an item.
func (t *items) each(item int, f func(kind string, r reading)) {
	for _, at := range t.of[item] {
		if at > 0 && at <= len(t.properties) {
			f(t.properties[at-1].kind, t.properties[at-1].body)
		}
	}
}

// readAVIF finds the item that is the picture, with its properties.
func readAVIF(data []byte) (out avif, err error) {
	out.flip = -1
	var meta []byte
	boxes(data, func(kind string, body []byte) bool {
		if kind == "meta" && len(body) > 4 {
			meta = body[4:]
		}
		return meta == nil
	})
	t := items{primary: -1, kinds: map[int]string{}, of: map[int][]int{}, aids: map[int][]int{}}
	boxes(meta, t.box)
	out.kind = t.kinds[t.primary]
	t.each(t.primary, out.take)
	for item, helps := range t.aids {
		if !slices.Contains(helps, t.primary) {
			continue
		}
		t.each(item, func(kind string, r reading) {
			out.alpha = out.alpha || kind == "auxC" && bytes.Contains(r, []byte("alpha"))
		})
	}
	if out.width == 0 || out.height == 0 {
		return out, io.ErrUnexpectedEOF
	}
	return out, nil
}

// take takes a property of the picture.
func (a *avif) take(kind string, r reading) {
	switch kind {
	case "ispe":
		r.number(4)
		a.width, a.height = r.number(4), r.number(4)
	case "irot":
		a.angle = r.number(1) & 3
	case "imir":
		a.flip = r.number(1) & 1
	case "colr":
		switch is := string(r[:min(4, len(r))]); {
		case is == "prof" || is == "rICC":
			a.profile = r[4:]
		case is == "nclx" && len(r) >= 11:
			r.number(4)
			a.coded, a.primaries, a.transfer, a.matrix = true, uint16(r.number(2)), uint16(r.number(2)), uint16(r.number(2))
			a.full = r.number(1)&0x80 != 0
		}
	}
}

// orientation is that of EXIF for how it is turned and mirrored (ISO/IEC 23008-12, 6.5.10 and 6.5.12).
func (a avif) orientation() int {
	return [3][4]int{{1, 8, 3, 6}, {4, 5, 2, 7}, {2, 7, 4, 5}}[a.flip+1][a.angle]
}

func avifConfig(r io.Reader) (c image.Config, err error) {
	data, err := io.ReadAll(r)
	if err != nil {
		return c, err
	}
	a, err := readAVIF(data)
	if err != nil {
		return c, err
	}
	switch {
	case a.kind != "av01":
		return c, notRead(fmt.Sprintf("the picture is a HEIF of a kind that is not read (%q); save it as PNG or JPEG", a.kind))
	case a.alpha:
		return c, notRead("the AVIF picture can be seen through in parts, which is not read; save it as PNG")
	case AV1 == nil:
		return c, notRead("AVIF pictures are read where ffmpeg is installed, and it is not")
	}
	return image.Config{ColorModel: color.NRGBAModel, Width: a.width, Height: a.height}, nil
}

func avifDecode(r io.Reader) (image.Image, error) {
	data, err := io.ReadAll(r)
	if err != nil {
		return nil, err
	}
	a, err := readAVIF(data)
	if err != nil {
		return nil, err
	}
	if !a.coded {
		a.matrix = 2 // as the video says
	}
	img, err := AV1(data, a.matrix, a.full)
	if err == nil && (img.Bounds().Dx() != a.width || img.Bounds().Dy() != a.height) {
		err = errors.New("its size is another than it says")
	}
	return img, err
}

// avifMeta reads what its values mean. Where nothing says so they are sRGB's (AV1 Image File Format, 2.2.1).
func avifMeta(data []byte) (m meta) {
	a, err := readAVIF(data)
	if err != nil {
		return m
	}
	m.orientation = a.orientation()
	switch m.profile = a.profile; {
	case m.profile != nil || !a.coded || a.primaries == 2 && a.transfer == 2:
	case a.primaries > 255 || a.transfer > 255:
		m.codePoints(0, 0)
	case a.primaries == 2:
		m.codePoints(1, byte(a.transfer))
	case a.transfer == 2:
		m.codePoints(byte(a.primaries), 13)
	default:
		m.codePoints(byte(a.primaries), byte(a.transfer))
	}
	return m
}
