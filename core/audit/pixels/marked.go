package pixels

import (
	"bytes"
	"errors"
	"image"
	"image/png"
	"slices"

	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/picture"
)

// widest is how wide a marked picture is at the most, in pixels.
const widest = 1200

// errSeen ends the search of an animation.
var errSeen = errors.New("seen")

// Marked is a picture, as PNG, with one of the colors that were found in it as it is and everything else in gray, so that one sees where
// it stands. A color of a flat picture is marked exactly; one of a photo with what is nearer to it than to the others.
func Marked(data []byte, found color.RGB8) ([]byte, error) {
	img, err := picture.DecodeOwn(data)
	if err != nil {
		return nil, err
	}
	stored, codes := img.Exact()
	noise := exactPixels
	if format, _ := picture.Is(data); format == "JPEG" || format == "WebP" && picture.Lossy(data) {
		noise = jpegNoise
	}
	list := areas(stored, noise)
	its := func(a pixelArea) bool { return Looks(a.color, codes).RGB == found }
	at := slices.IndexFunc(list, its)
	if at < 0 { // it may stand in a later frame or on another page
		_ = picture.Later(data, mostFrames, func(frame picture.Frame) error {
			if noise = exactPixels; frame.Lossy {
				noise = jpegNoise
			}
			codes = frame.Codes
			l := areas(frame.NRGBA, noise)
			if at = slices.IndexFunc(l, its); at < 0 {
				return nil
			}
			stored, list = &image.NRGBA{Pix: slices.Clone(frame.Pix), Stride: frame.Stride, Rect: frame.Rect}, l
			return errSeen
		})
	}
	if at < 0 {
		return nil, errors.New("the picture has no such color")
	}
	flat, found := list[at].flat, list[at].color
	known := map[color.RGB8]bool{}
	mine := func(c color.RGB8) bool {
		if flat && noise == exactPixels {
			return c == found
		}
		if v, ok := known[c]; ok {
			return v
		}
		best, least := color.RGB8{}, 1<<20
		for _, a := range list {
			if d := distance(a.color, c); d < least {
				best, least = a.color, d
			}
		}
		if len(known) < 1<<18 {
			known[c] = best == found
		}
		return best == found
	}
	w, h := stored.Rect.Dx(), stored.Rect.Dy()
	step := max(1, (w+widest-1)/widest)
	out := image.NewNRGBA(image.Rect(0, 0, (w+step-1)/step, (h+step-1)/step))
	for y := range out.Rect.Dy() {
		for x := range out.Rect.Dx() {
			px := stored.Pix[y*step*stored.Stride+4*x*step:]
			to := out.Pix[y*out.Stride+4*x:]
			c := color.RGB8{R: px[0], G: px[1], B: px[2]}
			own := px[3] >= 128 && mine(c)
			if c = Looks(c, codes).RGB; own {
				to[0], to[1], to[2], to[3] = c.R, c.G, c.B, 255
				continue
			}
			v := Pale(c)
			to[0], to[1], to[2], to[3] = v.R, v.G, v.B, px[3]
		}
	}
	var b bytes.Buffer
	err = png.Encode(&b, out)
	return b.Bytes(), err
}

// Pale is the light gray that a color is shown as where another one stands out.
func Pale(c color.RGB8) color.RGB8 {
	v := uint8(150 + int(audit.Gray(c).R)*90/255)
	return color.RGB8{R: v, G: v, B: v}
}

// distance is the square of how far two colors are apart in their channels.
func distance(a, b color.RGB8) int {
	r, g, bl := int(a.R)-int(b.R), int(a.G)-int(b.G), int(a.B)-int(b.B)
	return r*r + g*g + bl*bl
}
