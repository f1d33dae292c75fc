package proof

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"image"
	"math"
)

// Tags of TIFF 6.0 and its supplements that a separated picture takes, in the order that the file must have them.
const (
	tagWidth           = 256
	tagHeight          = 257
	tagBitsPerSample   = 258
	tagCompression     = 259
	tagPhotometric     = 262
	tagStripOffsets    = 273
	tagSamplesPerPixel = 277
	tagRowsPerStrip    = 278
	tagStripByteCounts = 279
	tagXResolution     = 282
	tagYResolution     = 283
	tagPlanar          = 284
	tagResolutionUnit  = 296
	tagInkSet          = 332
	tagICCProfile      = 34675

	short, long, rational, undefined = 3, 4, 5, 7

	deflate   = 8
	separated = 5
)

// WriteTIFF writes a separated picture as a baseline CMYK TIFF of 8 bits, its strips deflated, with the press's profile in it and
// 300 pixels an inch.
func WriteTIFF(inks *image.CMYK, profile []byte) ([]byte, error) {
	w, h := inks.Rect.Dx(), inks.Rect.Dy()
	rows := max(1, min(h, 1<<18/(4*w)))
	out := bytes.NewBuffer([]byte{'I', 'I', 42, 0, 0, 0, 0, 0}) // the place of the directory follows
	var offsets, counts []uint32
	for y := 0; y < h; y += rows {
		at := out.Len()
		z := zlib.NewWriter(out)
		for line := y; line < min(h, y+rows); line++ {
			if _, err := z.Write(inks.Pix[line*inks.Stride:][:4*w]); err != nil {
				return nil, err
			}
		}
		if err := z.Close(); err != nil {
			return nil, err
		}
		offsets, counts = append(offsets, uint32(at)), append(counts, uint32(out.Len()-at))
		align(out)
	}
	var directory []byte
	entries := 0
	add := func(tag, kind uint16, count int, value []byte) {
		entries++
		directory = binary.LittleEndian.AppendUint16(directory, tag)
		directory = binary.LittleEndian.AppendUint16(directory, kind)
		directory = binary.LittleEndian.AppendUint32(directory, uint32(count))
		if len(value) <= 4 {
			directory = append(directory, append(bytes.Clone(value), 0, 0, 0, 0)[:4]...)
			return
		}
		directory = binary.LittleEndian.AppendUint32(directory, uint32(out.Len()))
		out.Write(value)
		align(out)
	}
	shorts := func(v ...uint16) (b []byte) {
		for _, x := range v {
			b = binary.LittleEndian.AppendUint16(b, x)
		}
		return b
	}
	longs := func(v ...uint32) (b []byte) {
		for _, x := range v {
			b = binary.LittleEndian.AppendUint32(b, x)
		}
		return b
	}
	add(tagWidth, long, 1, longs(uint32(w)))
	add(tagHeight, long, 1, longs(uint32(h)))
	add(tagBitsPerSample, short, 4, shorts(8, 8, 8, 8))
	add(tagCompression, short, 1, shorts(deflate))
	add(tagPhotometric, short, 1, shorts(separated))
	add(tagStripOffsets, long, len(offsets), longs(offsets...))
	add(tagSamplesPerPixel, short, 1, shorts(4))
	add(tagRowsPerStrip, long, 1, longs(uint32(rows)))
	add(tagStripByteCounts, long, len(counts), longs(counts...))
	add(tagXResolution, rational, 1, longs(300, 1))
	add(tagYResolution, rational, 1, longs(300, 1))
	add(tagPlanar, short, 1, shorts(1))
	add(tagResolutionUnit, short, 1, shorts(2))
	add(tagInkSet, short, 1, shorts(1))
	add(tagICCProfile, undefined, len(profile), profile)
	at := out.Len()
	out.Write(shorts(uint16(entries)))
	out.Write(directory)
	out.Write(longs(0))
	data := out.Bytes()
	if len(data) > math.MaxUint32 {
		return nil, errTooLarge
	}
	binary.LittleEndian.PutUint32(data[4:], uint32(at))
	return data, nil
}

// align puts what follows on an even offset, as TIFF wants it.
func align(b *bytes.Buffer) {
	if b.Len()%2 == 1 {
		b.WriteByte(0)
	}
}
