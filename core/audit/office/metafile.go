package office

import (
	"bytes"
	"encoding/binary"
	"fmt"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/source"
)

// IsMetafile recognizes enhanced metafiles by their header (MS-EMF, 2.3.4.2), and those of before by the header that makes them placeable,
// or their own (MS-WMF, 2.3.2).
func IsMetafile(data []byte) bool {
	return isEMF(data) || bytes.HasPrefix(data, placeable) || isWMF(data)
}

var placeable = []byte{0xd7, 0xcd, 0xc6, 0x9a}

func isEMF(data []byte) bool {
	return len(data) >= 88 && binary.LittleEndian.Uint32(data) == 1 && string(data[40:44]) == " EMF"
}

func isWMF(data []byte) bool {
	return len(data) >= 18 && (data[0] == 1 || data[0] == 2) && data[1] == 0 && data[2] == 9 && data[3] == 0 && data[4] == 0 &&
		(data[5] == 1 || data[5] == 3)
}

// Records that say colors, with where in them: the color, and the style whose value paints nothing.
type colorRecord struct {
	what     string
	at       int // of a color of three bytes, red first, and one that says whether it is one
	style    int // of a number whose lowest bits are the style; 0 if there is none
	nothing  uint32
	styleLen int
}

// Pens have no color where their style is 5, brushes where it is 1, and those of pictures and patterns have others.
var (
	emfColors = map[uint32]colorRecord{
		24: {what: "text", at: 8},
		38: {what: "line", at: 24, style: 12, nothing: 5, styleLen: 4},
		39: {what: "area", at: 16, style: 12, nothing: 1, styleLen: 4},
		95: {what: "line", at: 40, style: 28, nothing: 5, styleLen: 4},
	}
	wmfColors = map[uint32]colorRecord{
		0x0209: {what: "text", at: 6},
		0x02fa: {what: "line", at: 12, style: 6, nothing: 5, styleLen: 2},
		0x02fc: {what: "area", at: 8, style: 6, nothing: 1, styleLen: 2},
	}
)

// mostRecords bounds what one metafile holds.
const mostRecords = 1_000_000

// ScanMetafile reads the pens, brushes and text colors of a metafile. Of one that holds its drawing twice, the second form (EMF+) is what
// newer programs show: the first is repainted with it and not counted. Pictures in it are not looked at.
func ScanMetafile(s *scanning.Scanner, p *source.Part, _ string) (string, error) {
	data, err := p.Bytes()
	if err != nil {
		return "", err
	}
	m := metafile{s: s, part: p, data: data}
	enhanced := isEMF(data)
	at, table := 0, emfColors
	if !enhanced {
		table = wmfColors
		if bytes.HasPrefix(data, placeable) {
			at = 22
		}
		at += 18
	}
	m.twice = enhanced && bytes.Contains(data, []byte("EMF+\x01\x40"))  // the header of the second form (MS-EMFPLUS, 2.3.3.3)
	m.fixed = !enhanced && bytes.Contains(data, []byte("WMFC\x01\x00")) // an enhanced metafile in comments (MS-WMF, 2.3.6.25)
	n := 0
	for ; at < len(data); n++ {
		if n == mostRecords {
			return "", fmt.Errorf("it holds over %d records", mostRecords)
		}
		kind, size, err := record(data, at, enhanced)
		if err != nil {
			return "", err
		}
		if r, ok := table[kind]; ok {
			m.color(r, at, size)
		}
		if enhanced && kind == 70 && size >= 20 && string(data[at+12:at+16]) == "EMF+" {
			if err := m.second(at+16, min(at+size, at+12+int(binary.LittleEndian.Uint32(data[at+8:])))); err != nil {
				return "", err
			}
		}
		if enhanced && (kind == 81 || kind == 76 || kind == 80) || !enhanced && (kind == 0x0f43 || kind == 0x0b41 || kind == 0x0940) {
			s.Note("Pictures inside of metafiles are not looked at.")
		}
		if kind == 14 && enhanced || kind == 0 && !enhanced { // the last one
			break
		}
		at += size
		if n%scanning.NowAndThen == 0 {
			if err := s.Watch.Read(at, len(data)); err != nil {
				return "", err
			}
		}
	}
	return audit.Plural(n, "record"), s.Tally.Check()
}

// record is what kind of record stands at an offset and how many bytes it has.
func record(data []byte, at int, enhanced bool) (kind uint32, size int, err error) {
	if enhanced && at+8 <= len(data) {
		kind, size = binary.LittleEndian.Uint32(data[at:]), int(binary.LittleEndian.Uint32(data[at+4:]))
	} else if !enhanced && at+6 <= len(data) {
		kind, size = uint32(binary.LittleEndian.Uint16(data[at+4:])), 2*int(binary.LittleEndian.Uint32(data[at:]))
	}
	if size < 6 || enhanced && size < 8 || size > len(data)-at {
		return 0, 0, fmt.Errorf("it ends inside of a record, at byte %d", at)
	}
	return kind, size, nil
}

// metafile is one while it is read.
type metafile struct {
	s     *scanning.Scanner
	part  *source.Part
	data  []byte
	twice bool // it is an enhanced one with a second form
	fixed bool // it is none and holds one
}

// color reports the color of a record.
func (m *metafile) color(r colorRecord, at, size int) {
	if r.at+4 > size {
		return
	}
	if r.style > 0 {
		style := uint32(binary.LittleEndian.Uint16(m.data[at+r.style:]))
		if r.styleLen == 4 {
			style = binary.LittleEndian.Uint32(m.data[at+r.style:])
		}
		pattern := r.what == "area" && style > 2 // a picture or a pattern of one
		if style&0xf == r.nothing || pattern {
			return
		}
	}
	from := at + r.at
	c := m.data[from : from+4]
	if c[3] != 0 && c[3] != 2 { // an entry of a palette
		return
	}
	m.add(r.what, from, color.RGB8{R: c[0], G: c[1], B: c[2]}, 1, threeBytes, m.twice)
}

// add reports a color of three bytes.
func (m *metafile) add(what string, from int, rgb color.RGB8, alpha float64, f form.Form, hidden bool) {
	u := audit.Use{
		Value: rgb.Hex(), Color: audit.Screen(rgb), Alpha: alpha, Where: what, Hidden: hidden,
		At: m.s.Spans.Run(source.Span{Part: m.part, Start: from, End: from + 3}), Form: f,
	}
	if m.fixed {
		u.Form, u.Fixed = nil, "the metafile holds the drawing a second time, in pieces, which are not written"
	}
	m.s.Add(&u)
}

// second reads records of the second form (MS-EMFPLUS, 2.3): a kind, flags, two sizes.
func (m *metafile) second(at, end int) error {
	for at+12 <= end {
		kind, flags := binary.LittleEndian.Uint16(m.data[at:]), binary.LittleEndian.Uint16(m.data[at+2:])
		size := int(binary.LittleEndian.Uint32(m.data[at+4:]))
		if size < 12 || size > end-at {
			return fmt.Errorf("it ends inside of a record, at byte %d", at)
		}
		body, last := at+12, at+size
		switch kind {
		case 0x400a, 0x400c, 0x400e, 0x4010, 0x4013, 0x4014: // areas, whose brush may be a color
			if flags&0x8000 != 0 {
				m.argb("area", body, last)
			}
		case 0x401c, 0x4036: // texts
			if flags&0x8000 != 0 {
				m.argb("text", body, last)
			}
		case 0x4009: // the ground
			m.argb("area", body, last)
		case 0x4008: // an object; one that goes on in the next record is none of a few colors
			switch of := flags >> 8; of {
			case 1:
				m.brush("area", body, last)
			case 2:
				m.brush("line", m.pen(body, last), last)
			}
		}
		at = last
	}
	return nil
}

// pen is where the brush of a pen stands (2.2.1.7), behind what its flags say.
func (m *metafile) pen(at, end int) int {
	if at+20 > end {
		return end
	}
	flags := binary.LittleEndian.Uint32(m.data[at+8:])
	at += 20
	// how long each is; -4 and -1 for as many as it says, of four bytes and of one
	for bit, size := range [...]int{24, 4, 4, 4, 4, 4, 4, 4, -4, 4, -4, -1, -1} {
		if flags&(1<<bit) == 0 {
			continue
		}
		if size < 0 {
			if at+4 > end {
				return end
			}
			n := int(binary.LittleEndian.Uint32(m.data[at:]))
			if n > (end-at)/-size {
				return end
			}
			size = 4 - size*n
		}
		at += size
	}
	return at
}

// brush reads the colors of a brush (2.2.1.1): of one color, or of two ends.
func (m *metafile) brush(what string, at, end int) {
	if at+12 > end {
		return
	}
	switch binary.LittleEndian.Uint32(m.data[at+4:]) {
	case 0:
		m.argb(what, at+8, end)
	case 4:
		m.argb(what+", an end of a gradient", at+32, end)
		m.argb(what+", an end of a gradient", at+36, end)
	}
}

// argb reports a color that is written as blue, green, red and alpha.
func (m *metafile) argb(what string, at, end int) {
	if at+4 > end || m.data[at+3] == 0 {
		return
	}
	c := m.data[at : at+4]
	m.add(what, at, color.RGB8{R: c[2], G: c[1], B: c[0]}, float64(c[3])/255, blueFirst, false)
}

// threeBytes is a color of a metafile: red, green and blue, a byte each.
var threeBytes = form.Func(func(_ string, to form.Paint) (string, error) {
	return string([]byte{to.RGB.R, to.RGB.G, to.RGB.B}), nil
})

// blueFirst is one of its second form.
var blueFirst = form.Func(func(_ string, to form.Paint) (string, error) {
	return string([]byte{to.RGB.B, to.RGB.G, to.RGB.R}), nil
})
