package demo

import (
	"bytes"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
)

// Picture is a picture of the demo house that colors can be gathered from, with the colors that it shows.
type Picture struct {
	Name   string
	Data   []byte
	Colors []string // in reading order of a palette, by area of a logo
}

// Pictures are a logo and a screenshot of an agency's palette, the latter also as it comes through a mail.
func Pictures() []Picture {
	at := func(name string) color.NRGBA {
		c := hexOf(name)
		return color.NRGBA{c.R, c.G, c.B, 255}
	}
	ground, hull, water, funnel, lamp := at("Hull White"), at("Deep Sound"), at("Ice Ramp"), at("Buoy"), at("Lamp")
	logo := paint(900, 600, func(x, y int) color.NRGBA {
		round := func(cx, cy, r int) bool { return (x-cx)*(x-cx)+(y-cy)*(y-cy) < r*r }
		switch {
		case round(330, 360, 120) && y > 330:
			return water
		case round(330, 300, 210):
			return hull
		case x > 600 && x < 760 && y >= 420 && y < 450:
			return lamp
		case x > 600 && x < 760 && y > 180 && y < 420:
			return funnel
		}
		return ground
	})
	palette := []color.NRGBA{{0x12, 0x40, 0x5A, 255}, {0x1D, 0x6F, 0x6A, 255}, {0xD6, 0xDC, 0xDE, 255}, {0xB3, 0x26, 0x1E, 255},
		{0xE8, 0xA3, 0x3D, 255}, {0x6B, 0x4A, 0x72, 255}}
	names := []string{"#12405A", "#1D6F6A", "#D6DCDE", "#B3261E", "#E8A33D", "#6B4A72"}
	chart := paint(1000, 520, func(x, y int) color.NRGBA {
		column, row := (x-40)/310, (y-40)/240
		if x < 40 || y < 40 || column > 2 || row > 1 || (x-40)%310 >= 300 || (y-40)%240 >= 200 {
			return color.NRGBA{255, 255, 255, 255}
		}
		return palette[3*row+column]
	})
	var lossless, small, mark bytes.Buffer
	_ = png.Encode(&mark, logo) // a buffer does not fail
	_ = png.Encode(&lossless, chart)
	_ = jpeg.Encode(&small, chart, &jpeg.Options{Quality: 85})
	return []Picture{
		{"ferry-mark.png", mark.Bytes(), []string{"#F7F5F0", "#0E3A53", "#E2572B", "#8FC1D4", "#F2B632"}},
		{"agency-palette.png", lossless.Bytes(), names},
		{"agency-palette.jpg", small.Bytes(), names},
	}
}

func paint(w, h int, at func(x, y int) color.NRGBA) *image.NRGBA {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			img.SetNRGBA(x, y, at(x, y))
		}
	}
	return img
}
