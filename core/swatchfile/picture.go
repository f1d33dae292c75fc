package swatchfile

import (
	"fmt"
	"math"

	"huekeep/core/color"
	"huekeep/core/library"
)

// WritePicture writes an edition as a picture 1,200 pixels wide: a flat patch a color, exact in sRGB, with its name and hex value
// below. A patch that could not be told from the white ground has an edge.
func WritePicture(e library.Edition) ([]byte, error) {
	if e.Early > 0 {
		return writeEarlyPicture(e)
	}
	s, err := swatches(e)
	if err != nil {
		return nil, err
	}
	return s.png()
}

// WriteSVG writes the picture as a drawing.
func WriteSVG(e library.Edition) ([]byte, error) {
	s, err := swatches(e)
	if err != nil {
		return nil, err
	}
	return s.svg(), nil
}

var ink = color.RGB8{R: 0x11, G: 0x11, B: 0x11}

func swatches(e library.Edition) (*scene, error) {
	if len(e.Colors) == 0 {
		return nil, fmt.Errorf("the set %s holds no colors", e.Set)
	}
	const width, label, most = 1200, 64, 6
	across := min(most, len(e.Colors))
	side := width / across
	high := min(side, 300)
	down := (len(e.Colors) + across - 1) / across
	s := &scene{title: e.Title(), width: width, height: down * (high + label), ground: white.RGB}
	edge := color.RGB8{R: 0xbb, G: 0xbb, B: 0xbb}
	for i, c := range e.Colors {
		x, y := i%across*side, i/across*(high+label)
		if c.RGB.Luminance() > 0.93 {
			s.area(x, y, side, high, edge)
			s.area(x+1, y+1, side-2, high-2, c.RGB)
		} else {
			s.area(x, y, side, high, c.RGB)
		}
		s.text("bold", 18, x+8, y+high+24, c.Name, ink, white.RGB, side-16)
		s.text("mono", 16, x+8, y+high+48, c.RGB.Hex(), ink, white.RGB, side-16)
	}
	return s, nil
}

// WriteCard1080 writes a swatch card for video, 1920 by 1080: everything stands inside the title safe area, with names, hex, RGB and
// narrow-range Y'CbCr of BT.709, in the order of the application's boxes.
func WriteCard1080(e library.Edition) ([]byte, error) { return writeCard(e, 1) }

// WriteCard2160 writes the swatch card at 3840 by 2160.
func WriteCard2160(e library.Edition) ([]byte, error) { return writeCard(e, 2) }

// WriteCardSVG writes the swatch card as a drawing.
func WriteCardSVG(e library.Edition) ([]byte, error) {
	s, err := card(e, 1)
	if err != nil {
		return nil, err
	}
	return s.svg(), nil
}

func writeCard(e library.Edition, factor int) ([]byte, error) {
	s, err := card(e, factor)
	if err != nil {
		return nil, err
	}
	return s.png()
}

// Sizes of a card in pixels at 1920 by 1080.
const (
	safeX, safeY = 96, 54 // the title safe area leaves 5 percent free on each side (SMPTE ST 2046-1)
	cardHead     = 64
	cardLines    = 4
	mostOnCard   = 150 // colors whose values still can be read
)

func card(e library.Edition, factor int) (*scene, error) {
	boxes, err := InBoxes(e)
	if err != nil {
		return nil, err
	}
	s := &scene{title: e.Title(), width: 1920 * factor, height: 1080 * factor, ground: color.RGB8{R: 0x2b, G: 0x2b, B: 0x2b}}
	light := color.RGB8{R: 0xf2, G: 0xf2, B: 0xf2}
	put := func(face string, size float64, x, y float64, text string, width float64) {
		f := float64(factor)
		s.text(face, size*f, int(x*f), int(y*f), text, light, s.ground, int(width*f))
	}
	fill := func(x, y, w, h float64, rgb color.RGB8) {
		f := float64(factor)
		s.area(int(x*f), int(y*f), int((x+w)*f)-int(x*f), int((y+h)*f)-int(y*f), rgb)
	}
	const width, height = 1920. - 2*safeX, 1080. - 2*safeY - cardHead
	put("bold", 34, safeX, safeY+34, e.Title(), width)
	// The grid whose cells are nearest to one and a half times as wide as high.
	n := len(boxes)
	columns := max(1, int(math.Round(math.Sqrt(float64(n)*width/height/1.5))))
	rows := (n + columns - 1) / columns
	w, h := width/float64(columns), height/float64(rows)
	size := math.Max(7, math.Min(26, math.Min(w/13, h/9)))
	lines := cardLines
	if n > mostOnCard {
		lines = 0
	}
	for i, b := range boxes {
		x, y := safeX+float64(i%columns)*w, safeY+cardHead+float64(i/columns)*h
		patch := math.Max(h*0.3, h-(float64(lines)+0.8)*size*1.25)
		gap := math.Min(8, w*0.05)
		if color.DeltaE00(b.Color.RGB.Lab(), s.ground.Lab()) < apart {
			fill(x-1, y-1, w-gap+2, patch+2, color.RGB8{R: 0x8a, G: 0x8a, B: 0x8a})
		}
		fill(x, y, w-gap, patch, b.Color.RGB)
		v := narrow709.Codes(b.Color.RGB)
		for k, text := range []string{itoa(b.Number) + "  " + b.Color.Name, b.Color.RGB.Hex(),
			fmt.Sprintf("R %d G %d B %d", b.Color.RGB.R, b.Color.RGB.G, b.Color.RGB.B), fmt.Sprintf("Y %d Cb %d Cr %d", v[0], v[1], v[2])}[:lines] {
			face := "mono"
			if k == 0 {
				face = "bold"
			}
			put(face, size, x, y+patch+size*1.25*float64(k+1), text, w-gap)
		}
	}
	return s, nil
}

// narrow709 is how most video is coded: BT.709, 8 bits, narrow range.
var narrow709 = func() color.VideoForm {
	for _, f := range color.VideoForms {
		if f.Name == "ycbcr709" {
			return f
		}
	}
	panic("BT.709 is missing")
}()

// cardLoses is what a card leaves out.
func cardLoses(e library.Edition) []lost {
	var out []lost
	if n := len(e.Colors); n > mostOnCard {
		out = append(out, lost{"names and values", fmt.Sprintf("A card has room to read for %d colors; with %d it shows the patches alone", mostOnCard, n)})
	}
	out = append(out, boxesLose(e)...)
	return append(out, printValuesLost(e, "Cards")...)
}
