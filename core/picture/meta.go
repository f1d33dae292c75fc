package picture

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"fmt"
	"image/color"
	"io"
	"slices"

	"huekeep/core/limits"
)

// The color models that tell how many bytes a decoded pixel takes.
var (
	modelNRGBA64 = color.NRGBA64Model
	modelRGBA64  = color.RGBA64Model
	modelGray    = color.GrayModel
)

// meta is what a file says beside its pixels. A part that is damaged counts as absent: the pixels can be read without.
type meta struct {
	profile     []byte    // embedded ICC profile
	orientation int       // of EXIF, 1 to 8; 0 if there is none
	progressive bool      // a JPEG that decodes in several scans
	gamma       float64   // of a PNG: samples are light raised to it; 0 if the file does not say
	primaries   []float64 // of a PNG: x and y of white, red, green and blue; nil if the file does not say
	camera      bool      // of a PNG: samples are light by the curve of BT.709 and BT.2020
	lab         int       // of a TIFF: its samples are CIELAB, by the number of its kind; 0 if they are not
	odd         string    // why its colors cannot be told, as a sentence
	turned      bool      // of a TIFF: white and black come out of the reader the wrong way round
	samples     float64   // of a JPEG: values a pixel, 1.5 where the chroma has half the size both ways; 0 for other files
}

// pngMeta reads the chunks before the pixels (ISO/IEC 15948, 11.3.3; EXIF by the eXIf chunk). Gamma and primaries count where
// neither a profile nor the sRGB chunk says what the samples mean.
func pngMeta(data []byte) (m meta) {
	defer func() {
		if m.profile != nil {
			m.gamma, m.primaries = 0, nil
		}
	}()
	screen := false
	var coded []byte
	chunks(data, func(kind string, body []byte) bool {
		switch kind {
		case "iCCP":
			if _, packed, ok := bytes.Cut(body, []byte{0}); ok && len(packed) > 1 {
				if z, err := zlib.NewReader(bytes.NewReader(packed[1:])); err == nil {
					if icc, err := io.ReadAll(io.LimitReader(z, limits.ProfileBytes)); err == nil {
						m.profile = icc
					}
				}
			}
		case "cICP":
			if len(body) == 4 {
				coded = body
			}
		case "sRGB":
			screen = true
		case "gAMA":
			if v := pngNumbers(body, 1); v != nil {
				m.gamma = v[0]
			}
		case "cHRM":
			m.primaries = pngNumbers(body, 8)
		case "eXIf":
			m.orientation = exifOrientation(body)
		}
		return kind != "IDAT"
	})
	if screen {
		m.gamma, m.primaries = 0, nil
	}
	if coded != nil {
		m.codePoints(coded[0], coded[1])
	}
	return m
}

// The primaries of video that pictures of screens are in (ITU-T H.273, 8.1), with those of sRGB as none.
var codedPrimaries = map[byte][]float64{
	1:  nil,
	9:  {0.3127, 0.3290, 0.708, 0.292, 0.170, 0.797, 0.131, 0.046}, // BT.2020
	12: {0.3127, 0.3290, 0.680, 0.320, 0.265, 0.690, 0.150, 0.060}, // P3 with the white of D65
}

// gamma22 is a gamma that is meant as it is: the gAMA chunk, which has hundred thousandths, only comes near it.
const gamma22 = 1 / 2.2

// codePoints takes the color space of a PNG by its code points (PNG 3, 11.3.2.6), which count before everything else that it says.
func (m *meta) codePoints(primaries, transfer byte) {
	own, known := codedPrimaries[primaries]
	gamma, ofVideo := 0.0, false
	switch transfer { // ITU-T H.273, 8.2
	case 13: // sRGB
	case 8:
		gamma = 1
	case 4:
		gamma = gamma22
	case 5:
		gamma = 1 / 2.8
	case 1, 6, 14, 15: // BT.709, BT.601, BT.2020 at 10 and 12 bits: one curve
		ofVideo = true
	default:
		known = false
	}
	if !known {
		what := fmt.Sprintf("code points %d and %d of video", primaries, transfer)
		if name := map[byte]string{16: "PQ", 18: "HLG"}[transfer]; name != "" {
			what += " (" + name + ", for screens of a high range)"
		}
		m.odd = "It says that its values are those of " + what + ", so that its colors on a usual screen cannot be told."
		return
	}
	m.profile, m.gamma, m.primaries, m.camera = nil, gamma, own, ofVideo
}

// pngNumbers reads values that stand in hundred thousandths.
func pngNumbers(body []byte, n int) (out []float64) {
	if len(body) != 4*n {
		return nil
	}
	for i := range n {
		out = append(out, float64(binary.BigEndian.Uint32(body[4*i:]))/100_000)
	}
	return out
}

// jpegMeta reads the segments before the scan (ISO/IEC 10918-1, B; the profile in APP2 by ICC.1:2022, B.4).
func jpegMeta(data []byte) (m meta) {
	parts := map[byte][]byte{}
	last := byte(0)
	for at := 2; at+4 <= len(data) && data[at] == 0xff; {
		marker := data[at+1]
		if marker == 0xff { // fill
			at++
			continue
		}
		if marker == 0xda {
			break
		}
		size := int(binary.BigEndian.Uint16(data[at+2:]))
		if size < 2 || at+2+size > len(data) {
			break
		}
		body := data[at+4 : at+2+size]
		switch {
		case marker >= 0xc0 && marker <= 0xc2 && len(body) >= 6 && len(body) >= 6+3*int(body[5]):
			m.progressive = marker == 0xc2
			most, sum := 1, 0
			for i := range int(body[5]) {
				h, v := int(body[7+3*i]>>4), int(body[7+3*i]&15)
				most, sum = max(most, h*v), sum+h*v
			}
			m.samples = float64(sum) / float64(most)
		case marker == 0xe1 && bytes.HasPrefix(body, []byte("Exif\x00\x00")):
			m.orientation = exifOrientation(body[6:])
		case marker == 0xe2 && bytes.HasPrefix(body, []byte("ICC_PROFILE\x00")) && len(body) > 14:
			parts[body[12]] = body[14:]
			last = body[13]
		}
		at += 2 + size
	}
	for i := byte(1); i <= last && i > 0; i++ {
		if parts[i] == nil {
			m.profile = nil
			break
		}
		m.profile = append(m.profile, parts[i]...)
	}
	return m
}

// webpMeta reads the chunks of the container (RFC 9649).
func webpMeta(data []byte) (m meta) {
	riff(data, func(kind string, body []byte) bool {
		switch kind {
		case "ICCP":
			m.profile = body
		case "EXIF":
			m.orientation = exifOrientation(bytes.TrimPrefix(body, []byte("Exif\x00\x00")))
		}
		return true
	})
	return m
}

// bmpMeta finds the profile that a header of version 5 may point to.
func bmpMeta(data []byte) (m meta) {
	if len(data) < 14+124 || binary.LittleEndian.Uint32(data[14:]) != 124 || string(data[14+56:14+60]) != "DEBM" {
		return m // the type is PROFILE_EMBEDDED, "MBED" with its lowest byte first
	}
	at, size := int64(binary.LittleEndian.Uint32(data[14+112:]))+14, int64(binary.LittleEndian.Uint32(data[14+116:]))
	if at+size <= int64(len(data)) {
		m.profile = data[at : at+size]
	}
	return m
}

func tiffMeta(data []byte) (m meta) {
	m.orientation = exifOrientation(data)
	if profile, ok := tiffTag(data, 34675); ok { // ICC.1:2022, B.3
		m.profile = profile
	}
	// Runs of white are bits of 0 (ITU-T T.6, 2.2), which a file may say are black; the reader takes white to be white.
	if kind := short(data, photometric); kind == cieLab || kind == iccLab {
		m.lab = kind
	}
	m.turned = slices.Contains([]int{2, 3, 4}, short(data, 259)) && short(data, 262) == 1
	return m
}

// How a TIFF says what its samples are (TIFF 6.0, 8 and 23; TIFF Technote 4).
const (
	photometric = 262
	asRGB       = 2
	cieLab      = 8 // a* and b* have a sign
	iccLab      = 9 // a* and b* are more by 128
)

// labAsRGB is a TIFF of CIELAB that says it were RGB, so that its samples are read as they are.
func labAsRGB(data []byte) []byte {
	out := bytes.Clone(data)
	order := byteOrder(data)
	at := int64(order.Uint32(data[4:]))
	for i := range int64(order.Uint16(data[at:])) {
		if entry := at + 2 + 12*i; order.Uint16(out[entry:]) == photometric {
			order.PutUint16(out[entry+8:], asRGB)
			break
		}
	}
	return out
}

func exifOrientation(data []byte) int { return short(data, 274) }

// short is a tag of one SHORT; 0 if there is none.
func short(data []byte, tag uint16) int {
	if v, ok := tiffTag(data, tag); ok && len(v) == 2 {
		return int(binary.BigEndian.Uint16(v))
	}
	return 0
}

// tiffTag finds a tag of the first directory of a TIFF structure, which EXIF uses too (TIFF 6.0, 2). A single SHORT or LONG is
// returned with its high byte first, bytes as they are.
func tiffTag(data []byte, tag uint16) ([]byte, bool) {
	if len(data) < 8 {
		return nil, false
	}
	order := byteOrder(data)
	at := int64(order.Uint32(data[4:]))
	if at+2 > int64(len(data)) {
		return nil, false
	}
	for i := range int64(order.Uint16(data[at:])) {
		entry := at + 2 + 12*i
		if entry+12 > int64(len(data)) {
			break
		}
		e := data[entry : entry+12]
		if order.Uint16(e) != tag {
			continue
		}
		kind, count := order.Uint16(e[2:]), int64(order.Uint32(e[4:]))
		switch {
		case kind == 3 && count == 1:
			return binary.BigEndian.AppendUint16(nil, order.Uint16(e[8:])), true
		case kind == 4 && count == 1:
			return binary.BigEndian.AppendUint32(nil, order.Uint32(e[8:])), true
		case (kind == 1 || kind == 7) && count > 4:
			if from := int64(order.Uint32(e[8:])); from+count <= int64(len(data)) {
				return data[from : from+count], true
			}
		}
		return nil, false
	}
	return nil, false
}
