// Package see shows judged files with what was found in them: the pages of a PDF and pictures with one found color as it is and all else in gray,
// with boxes around where it stands; texts as the lines in which something was found. Where a color stands on a page is not worked out from what the
// page says but looked at: the file is shown twice, once with the color and once without it, and the color stands where the two differ.
package see

import (
	"bytes"
	"fmt"
	"image"
	"image/png"

	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/pdfpage"
	"huekeep/core/picture"
)

const (
	// Wide is how many pixels a page or a picture has across, at the most; half as many more down.
	Wide = 1200
	// mostBoxes is how many places of a page are told.
	mostBoxes = 300
	// cell is the side of the squares in which differences are gathered, in pixels: what is nearer than that is one place.
	cell = 8
	// seen is by how much a channel has to differ to be seen as different; less is rounding at edges.
	seen = 6
)

// Box is a rectangle of a page in shares of its width and height, 0 to 1 from the upper left corner.
type Box struct {
	X, Y, Width, Height float64
}

// View is one page.
type View struct {
	Page, Pages   int
	Width, Height int // pixels
	PNG           []byte
	Boxes         []Box // where the color stands
	More          int   // places beyond those
	Share         float64
}

// PDF is a page of a PDF as one sees it. With gray, which is the same file without one of its colors (repaint.Apart), that color is as it is and all else
// in gray.
func PDF(data, gray []byte, page int) (v View, err error) {
	img, pages, err := render(data, page)
	if err != nil {
		return v, err
	}
	v.Page, v.Pages = page, pages
	if gray != nil {
		without, _, err := render(gray, page)
		if err != nil {
			return v, err
		}
		if without.Rect != img.Rect {
			return v, fmt.Errorf("page %d cannot be compared", page)
		}
		v.mark(img, without)
	}
	return v, v.pack(img)
}

func render(data []byte, page int) (img *image.NRGBA, pages int, err error) {
	f, err := pdfpage.Open(data)
	if err != nil {
		return nil, 0, err
	}
	defer f.Close()
	if page < 1 || page > f.Pages {
		return nil, f.Pages, fmt.Errorf("it has %d pages", f.Pages)
	}
	p, err := f.Page(page)
	if err != nil {
		return nil, f.Pages, err
	}
	defer p.Close()
	img, _, err = p.Picture(Wide, Wide*3/2)
	return img, f.Pages, err
}

// Picture is a picture as one sees it, no wider than Wide.
func Picture(data []byte) (v View, err error) {
	img, err := picture.Decode(data)
	if err != nil {
		return v, err
	}
	w, h := img.Rect.Dx(), img.Rect.Dy()
	step := max(1, (w+Wide-1)/Wide)
	out := image.NewNRGBA(image.Rect(0, 0, (w+step-1)/step, (h+step-1)/step))
	for y := range out.Rect.Dy() {
		for x := range out.Rect.Dx() {
			copy(out.Pix[y*out.Stride+4*x:][:4], img.Pix[y*step*img.Stride+4*x*step:])
		}
	}
	v.Page, v.Pages = 1, 1
	return v, v.pack(out)
}

// Marked is a picture with one of its colors as it is and all else in gray.
func Marked(data []byte, found color.RGB8) (v View, err error) {
	if v.PNG, err = audit.Marked(data, found); err != nil {
		return v, err
	}
	size, err := png.DecodeConfig(bytes.NewReader(v.PNG))
	v.Page, v.Pages, v.Width, v.Height = 1, 1, size.Width, size.Height
	return v, err
}

func (v *View) pack(img *image.NRGBA) error {
	v.Width, v.Height = img.Rect.Dx(), img.Rect.Dy()
	var b bytes.Buffer
	err := (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&b, img)
	v.PNG = b.Bytes()
	return err
}

// mark puts in gray what is the same in both pictures of a page, and boxes around what is not.
func (v *View) mark(img, without *image.NRGBA) {
	w, h := img.Rect.Dx(), img.Rect.Dy()
	across, down := (w+cell-1)/cell, (h+cell-1)/cell
	cells := make([]image.Rectangle, across*down)
	differ := 0
	for y := range h {
		for x := range w {
			a, b := img.Pix[y*img.Stride+4*x:][:4], without.Pix[y*without.Stride+4*x:][:4]
			if apart(a[0], b[0]) || apart(a[1], b[1]) || apart(a[2], b[2]) {
				differ++
				c := &cells[y/cell*across+x/cell]
				*c = c.Union(image.Rect(x, y, x+1, y+1))
				continue
			}
			if a[0] != a[1] || a[1] != a[2] { // of what could not be written, such as a picture
				g := audit.Pale(color.RGB8{R: a[0], G: a[1], B: a[2]})
				a[0], a[1], a[2] = g.R, g.G, g.B
			}
		}
	}
	v.Share = float64(differ) / float64(w*h)
	done := make([]bool, len(cells))
	for i, c := range cells {
		if c.Empty() || done[i] {
			continue
		}
		box := c
		done[i] = true
		for next := []int{i}; len(next) > 0; {
			at := next[len(next)-1]
			next = next[:len(next)-1]
			box = box.Union(cells[at])
			for dy := -1; dy <= 1; dy++ {
				for dx := -1; dx <= 1; dx++ {
					x, y := at%across+dx, at/across+dy
					if n := y*across + x; x >= 0 && y >= 0 && x < across && y < down && !done[n] && !cells[n].Empty() {
						done[n] = true
						next = append(next, n)
					}
				}
			}
		}
		if len(v.Boxes) == mostBoxes {
			v.More++
			continue
		}
		v.Boxes = append(v.Boxes, Box{float64(box.Min.X) / float64(w), float64(box.Min.Y) / float64(h), float64(box.Dx()) / float64(w), float64(box.Dy()) / float64(h)})
	}
}

func apart(a, b uint8) bool { return max(a, b)-min(a, b) > seen }
