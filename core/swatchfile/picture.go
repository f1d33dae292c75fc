package swatchfile

import (
	"fmt"
	"math"

	"huekeep/core/color"
	"huekeep/core/lettering"
	"huekeep/core/library"
)

// WritePicture writes an edition as a picture 1,200 pixels wide: a flat patch a color, with its name and hex value below. It is in sRGB, or
// in Display P3 where a color needs that. A patch that could not be told from the white ground has an edge.
func WritePicture(e library.Edition) ([]byte, error) {
	if e.Before(4) {
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

// namesCut says how many names do not fit into the room that they have on a page or a picture, and are cut there.
func namesCut(e library.Edition, face lettering.Face, size, width float64) []lost {
	n := 0
	for _, c := range e.Colors {
		if name := oneLine(c.Name); face.Fit(name, size, width) != name {
			n++
		}
	}
	if n == 0 {
		return nil
	}
	return []lost{{"the ends of long names", fmt.Sprintf("The names of %s are too long for the room that they have, and are cut",
		count(n, "color"))}}
}

// swatchesLose is what a picture of swatches leaves out.
func swatchesLose(format string) func(library.Edition) []lost {
	return func(e library.Edition) []lost {
		across := max(1, min(mostAcross, len(e.Colors)))
		return append(printValuesLost(e, format), namesCut(e, lettering.Bold(), 18, float64(swatchesWidth/across-16))...)
	}
}

// Measures of a picture of swatches.
const swatchesWidth, mostAcross = 1200, 6

var ink = color.RGB8{R: 0x11, G: 0x11, B: 0x11}

func swatches(e library.Edition) (*scene, error) {
	if len(e.Colors) == 0 {
		return nil, fmt.Errorf("the set %s holds no colors", e.Set)
	}
	const width, label = swatchesWidth, 64
	across := min(mostAcross, len(e.Colors))
	side := width / across
	high := min(side, 300)
	down := (len(e.Colors) + across - 1) / across
	s := &scene{title: e.Title(), width: width, height: down * (high + label), ground: white.RGB}
	edge := color.RGB8{R: 0xbb, G: 0xbb, B: 0xbb}
	for i, c := range e.Colors {
		x, y := i%across*side, i/across*(high+label)
		s.p3 = s.p3 || c.CSS() != "" && !e.Before(11)
		if c.RGB.Luminance() > 0.93 {
			s.area(x, y, side, high, edge)
			s.patch(x+1, y+1, side-2, high-2, c)
		} else {
			s.patch(x, y, side, high, c)
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
	put("bold", 34, safeX, safeY+34, e.Title(), cardWidth)
	n := len(boxes)
	columns, w, h := cardGrid(n)
	size := cardSize(w, h)
	lines := cardLines
	if n > mostOnCard {
		lines = 0
	}
	for i, b := range boxes {
		x, y := safeX+float64(i%columns)*w, safeY+cardHead+float64(i/columns)*h
		patch := math.Max(h*0.3, h-(float64(lines)+0.8)*size*1.25)
		gap := cardGap(w)
		if color.DeltaE00(b.Color.RGB.Lab(), s.ground.Lab()) < apart {
			fill(x-1, y-1, w-gap+2, patch+2, color.RGB8{R: 0x8a, G: 0x8a, B: 0x8a})
		}
		fill(x, y, w-gap, patch, b.Color.RGB)
		v := narrow709.Codes(b.Color.RGB)
		for k, text := range []string{itoa(b.Number) + "  " + b.Color.Name, b.Color.RGB.Hex(),
			fmt.Sprintf("R %d G %d B %d", b.Color.RGB.R, b.Color.RGB.G, b.Color.RGB.B), fmt.Sprintf("Y %d Cb %d Cr %d", v[0], v[1],
				v[2])}[:lines] {
			face := "mono"
			if k == 0 {
				face = "bold"
			}
			put(face, size, x, y+patch+size*1.25*float64(k+1), text, w-gap)
		}
	}
	return s, nil
}

const cardWidth, cardHeight = 1920. - 2*safeX, 1080. - 2*safeY - cardHead

// cardGrid is the grid whose cells are nearest to one and a half times as wide as high.
func cardGrid(n int) (columns int, w, h float64) {
	columns = max(1, int(math.Round(math.Sqrt(float64(n)*cardWidth/cardHeight/1.5))))
	rows := (n + columns - 1) / columns
	return columns, cardWidth / float64(columns), cardHeight / float64(rows)
}

func cardSize(w, h float64) float64 { return math.Max(7, math.Min(26, math.Min(w/13, h/9))) }

func cardGap(w float64) float64 { return math.Min(8, w*0.05) }

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
		out = append(out, lost{"names and values", fmt.Sprintf("A card has room to read for %d colors; with %d it shows the patches alone",
			mostOnCard, n)})
	}
	if boxes, err := InBoxes(e); err == nil && len(boxes) <= mostOnCard {
		_, w, h := cardGrid(len(boxes))
		named := library.Edition{}
		for _, b := range boxes {
			named.Colors = append(named.Colors, library.Color{Name: itoa(b.Number) + "  " + b.Color.Name})
		}
		out = append(out, namesCut(named, lettering.Bold(), cardSize(w, h), w-cardGap(w))...)
	}
	out = append(out, boxesLose(e)...)
	return append(out, printValuesLost(e, "Cards")...)
}
