package pixels

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
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

// Leaf is a frame or a page of a picture, as its file has it.
type Leaf struct {
	*image.NRGBA
	codes *picture.Codes
	noise int // by which pixels of one color may differ
}

// LeafOf reads a frame or a page of a picture, the first of which is 1.
func LeafOf(data []byte, n int) (l Leaf, err error) {
	if n <= 1 {
		img, err := picture.DecodeOwn(data)
		if err != nil {
			return l, err
		}
		l.NRGBA, l.codes = img.Exact()
		if format, _ := picture.Is(data); format == "JPEG" || format == "WebP" && picture.Lossy(data) {
			l.noise = jpegNoise
		}
		return l, nil
	}
	err = picture.Later(data, mostFrames, func(frame picture.Frame) error {
		if frame.N != n {
			return nil
		}
		l = leafOf(frame)
		return errSeen
	})
	if err == nil {
		err = fmt.Errorf("there is no frame or page %d that can be shown", n)
	}
	if errors.Is(err, errSeen) {
		err = nil
	}
	return l, err
}

// leafOf keeps a frame, whose pixels are another one's afterwards.
func leafOf(frame picture.Frame) Leaf {
	l := Leaf{&image.NRGBA{Pix: slices.Clone(frame.Pix), Stride: frame.Stride, Rect: frame.Rect}, frame.Codes, exactPixels}
	if frame.Lossy {
		l.noise = jpegNoise
	}
	return l
}

// Looks is what one of its pixels shows.
func (l Leaf) Looks(c color.RGB8) audit.Color { return Looks(c, l.codes) }

// area is where a color of a report is in the areas of a leaf, -1 if it is not.
func (l Leaf) area(found color.RGB8) ([]pixelArea, int) {
	list := areas(l.NRGBA, l.noise)
	return list, slices.IndexFunc(list, func(a pixelArea) bool { return l.Looks(a.color).RGB == found })
}

// Marked is a picture, as PNG, with one of the colors that were found in it as it is and everything else in gray, so that one sees where it
// stands. A color of a flat picture is marked exactly; one of a photo with what is nearer to it than to the others. n is the frame or the
// page, 0 the first that has the color.
func Marked(data []byte, found color.RGB8, n int) ([]byte, error) {
	l, err := LeafOf(data, n)
	if err != nil {
		return nil, err
	}
	if list, at := l.area(found); at >= 0 {
		return l.marked(list, at)
	}
	var out []byte
	if n == 0 {
		err = picture.Later(data, mostFrames, func(frame picture.Frame) (err error) {
			later := leafOf(frame)
			if list, at := later.area(found); at >= 0 {
				if out, err = later.marked(list, at); err == nil {
					err = errSeen
				}
			}
			return err
		})
	}
	if out == nil {
		return nil, cmp.Or(err, errors.New("the picture has no such color"))
	}
	return out, nil
}

// MarkedFrame is Marked for a frame of a video.
func MarkedFrame(frame *image.NRGBA, found color.RGB8) ([]byte, error) {
	l := Leaf{frame, nil, videoNoise}
	if list, at := l.area(found); at >= 0 {
		return l.marked(list, at)
	}
	return nil, errors.New("the frame has no such color")
}

// Nearest gives, for a frame of a video, which of some colors a pixel has, but for what compression does to it; -1 for none.
func Nearest(c color.RGB8, of []color.RGB8) int {
	best, least := -1, 3*videoNoise+1
	for i, o := range of {
		if d := audit.Farthest(o, c); d < least {
			best, least = i, d
		}
	}
	return best
}

// marked shows one of the areas alone.
func (l Leaf) marked(list []pixelArea, at int) ([]byte, error) {
	flat, found, stored, noise := list[at].flat, list[at].color, l.NRGBA, l.noise
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
			if c = l.Looks(c).RGB; own {
				to[0], to[1], to[2], to[3] = c.R, c.G, c.B, 255
				continue
			}
			v := Pale(c)
			to[0], to[1], to[2], to[3] = v.R, v.G, v.B, px[3]
		}
	}
	var b bytes.Buffer
	err := png.Encode(&b, out)
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
