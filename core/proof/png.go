package proof

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"errors"
	"hash/crc32"
	"image"
	"image/png"
	"math"
	"unicode/utf16"

	"huekeep/core/color"
)

var errTooLarge = errors.New("the picture is too large for a TIFF file")

// WritePNG writes a picture as PNG with a profile of sRGB in it.
func WritePNG(img image.Image) ([]byte, error) {
	return withProfile(img, "sRGB", screenProfile("sRGB", [3][3]float64{
		{0.4360747, 0.2225045, 0.0139322}, {0.3850649, 0.7168786, 0.0971045}, {0.1430804, 0.0606169, 0.7141733}}))
}

// WriteP3 writes a picture whose values are those of Display P3 as PNG with a profile of that.
func WriteP3(img image.Image) ([]byte, error) { return withProfile(img, "Display P3", ProfileP3()) }

// ProfileP3 is an ICC profile of Display P3, whose curve is that of sRGB.
func ProfileP3() []byte {
	var columns [3][3]float64
	for i := range columns {
		var primary [3]float64
		primary[i] = 1
		c, _ := color.Coded("display-p3", primary)
		columns[i], _ = color.Numbers("xyz-d50", c.RGB)
	}
	return screenProfile("Display P3", columns)
}

func withProfile(img image.Image, name string, profile []byte) ([]byte, error) {
	var file bytes.Buffer
	if err := (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&file, img); err != nil {
		return nil, err
	}
	chunk := bytes.NewBufferString("iCCP" + name + "\x00\x00")
	z := zlib.NewWriter(chunk)
	if _, err := z.Write(profile); err != nil {
		return nil, err
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	const header = 8 + 25 // the signature, and IHDR, after which a profile stands
	data := file.Bytes()
	out := bytes.Clone(data[:header])
	out = binary.BigEndian.AppendUint32(out, uint32(chunk.Len()-4))
	out = append(out, chunk.Bytes()...)
	out = binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(chunk.Bytes()))
	return append(out, data[header:]...), nil
}

// screenProfile is a screen as a profile of ICC.1:2010 (version 4.3): the XYZ of its primaries, adapted from D65 to D50 by Bradford, and
// the curve of sRGB (IEC 61966-2-1) as a parametric one.
func screenProfile(name string, primaries [3][3]float64) []byte {
	fixed := func(v ...float64) (b []byte) {
		for _, x := range v {
			b = binary.BigEndian.AppendUint32(b, uint32(int32(math.Round(x*65536))))
		}
		return b
	}
	xyz := func(v [3]float64) []byte { return append([]byte("XYZ \x00\x00\x00\x00"), fixed(v[:]...)...) }
	text := func(s string) []byte {
		b := []byte("mluc\x00\x00\x00\x00\x00\x00\x00\x01\x00\x00\x00\x0cenUS")
		units := utf16.Encode([]rune(s))
		b = binary.BigEndian.AppendUint32(b, uint32(2*len(units)))
		b = binary.BigEndian.AppendUint32(b, 28)
		for _, u := range units {
			b = binary.BigEndian.AppendUint16(b, u)
		}
		return b
	}
	curve := append([]byte("para\x00\x00\x00\x00\x00\x03\x00\x00"), fixed(2.4, 1/1.055, 0.055/1.055, 1/12.92, 0.04045)...)
	adaptation := append([]byte("sf32\x00\x00\x00\x00"), fixed(1.0478112, 0.0228866, -0.0501270, 0.0295424, 0.9904844, -0.0170491,
		-0.0092345, 0.0150436, 0.7521316)...)
	tags := []struct {
		name string
		data []byte
	}{
		{"desc", text(name)}, {"cprt", text("No copyright, use freely")}, {"wtpt", xyz([3]float64{0.9642, 1, 0.8249})},
		{"chad", adaptation},
		{"rXYZ", xyz(primaries[0])}, {"gXYZ", xyz(primaries[1])}, {"bXYZ", xyz(primaries[2])},
		{"rTRC", curve}, {"gTRC", curve}, {"bTRC", curve},
	}
	out := make([]byte, 128)
	copy(out[8:], "\x04\x30\x00\x00mntrRGB XYZ \x07\xea\x00\x01\x00\x01\x00\x00\x00\x00\x00\x00acsp")
	copy(out[68:], fixed(0.9642, 1, 0.8249))
	out = binary.BigEndian.AppendUint32(out, uint32(len(tags)))
	at := len(out) + 12*len(tags)
	var body []byte
	for _, t := range tags {
		out = append(out, t.name...)
		out = binary.BigEndian.AppendUint32(out, uint32(at+len(body)))
		out = binary.BigEndian.AppendUint32(out, uint32(len(t.data)))
		body = append(body, t.data...)
		for len(body)%4 != 0 {
			body = append(body, 0)
		}
	}
	out = append(out, body...)
	binary.BigEndian.PutUint32(out, uint32(len(out)))
	return out
}
