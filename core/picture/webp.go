package picture

import (
	"bytes"
	"image"
	"io"

	"golang.org/x/image/webp"
)

// webpConfig and webpDecode read a still WebP, or the first frame of an animated one.
func webpConfig(r io.Reader) (image.Config, error) {
	data, err := io.ReadAll(r)
	if err != nil {
		return image.Config{}, err
	}
	return webp.DecodeConfig(bytes.NewReader(still(data)))
}

func webpDecode(r io.Reader) (image.Image, error) {
	data, err := io.ReadAll(r)
	if err != nil {
		return nil, err
	}
	img, err := webp.Decode(bytes.NewReader(still(data)))
	if err != nil {
		return nil, err
	}
	switch y := img.(type) {
	case *image.YCbCr:
		return narrow(y, nil), nil
	case *image.NYCbCrA:
		return narrow(&y.YCbCr, y), nil
	}
	return img, nil
}

// narrow gives the pixels of a picture whose Y'CbCr is in the narrow range of digital video (ITU-R BT.601), as VP8 has it (RFC 6386, 9.2);
// the standard library takes all for the full range of JPEG, which makes black gray and everything duller. The numbers are those of BT.601
// times 2^14.
func narrow(in *image.YCbCr, alpha *image.NYCbCrA) *image.NRGBA {
	b := in.Bounds()
	out := image.NewNRGBA(image.Rect(0, 0, b.Dx(), b.Dy()))
	channel := func(v int) uint8 { return uint8(min(255, max(0, v>>6))) }
	parallelRows(out, func(y int, row []uint8) {
		for x := range b.Dx() {
			at, c := in.YOffset(b.Min.X+x, b.Min.Y+y), in.COffset(b.Min.X+x, b.Min.Y+y)
			luma, cb, cr := int(in.Y[at])*19077>>8, int(in.Cb[c]), int(in.Cr[c])
			px := row[4*x : 4*x+4]
			px[0] = channel(luma + cr*26149>>8 - 14234)
			px[1] = channel(luma - cb*6419>>8 - cr*13320>>8 + 8708)
			px[2] = channel(luma + cb*33050>>8 - 17685)
			px[3] = 255
			if alpha != nil {
				px[3] = alpha.A[alpha.AOffset(b.Min.X+x, b.Min.Y+y)]
			}
		}
	})
	return out
}
