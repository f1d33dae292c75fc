package swatchfile

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"sync"

	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"

	"huekeep/core/library"
)

// Measures of a palette picture in pixels.
const (
	patchSide   = 200
	labelHeight = 64
	mostAcross  = 6
)

var pictureFaces = sync.OnceValues(func() (faces [2]font.Face, err error) {
	for i, f := range []struct {
		data []byte
		size float64
	}{{gobold.TTF, 18}, {gomono.TTF, 16}} {
		parsed, err := opentype.Parse(f.data)
		if err != nil {
			return faces, err
		}
		if faces[i], err = opentype.NewFace(parsed, &opentype.FaceOptions{Size: f.size, DPI: 72, Hinting: font.HintingFull}); err != nil {
			return faces, err
		}
	}
	return faces, nil
})

var drawing sync.Mutex // a face is for one at a time

// WritePicture writes an edition as a picture: a flat patch a color, exact in sRGB, with its name and hex value below. A patch that
// could not be told from the white ground has an edge.
func WritePicture(e library.Edition) ([]byte, error) {
	if len(e.Colors) == 0 {
		return nil, fmt.Errorf("the set %s holds no colors", e.Set)
	}
	faces, err := pictureFaces()
	if err != nil {
		return nil, err
	}
	drawing.Lock()
	defer drawing.Unlock()
	across := min(mostAcross, len(e.Colors))
	down := (len(e.Colors) + across - 1) / across
	img := image.NewRGBA(image.Rect(0, 0, across*patchSide, down*(patchSide+labelHeight)))
	draw.Draw(img, img.Rect, image.White, image.Point{}, draw.Src)
	ink := image.NewUniform(color.RGBA{0x11, 0x11, 0x11, 0xff})
	for i, c := range e.Colors {
		at := image.Pt(i%across*patchSide, i/across*(patchSide+labelHeight))
		patch := image.Rectangle{at, at.Add(image.Pt(patchSide, patchSide))}
		if c.RGB.Luminance() > 0.93 {
			draw.Draw(img, patch, image.NewUniform(color.RGBA{0xbb, 0xbb, 0xbb, 0xff}), image.Point{}, draw.Src)
			patch = patch.Inset(1)
		}
		draw.Draw(img, patch, image.NewUniform(color.RGBA{c.RGB.R, c.RGB.G, c.RGB.B, 0xff}), image.Point{}, draw.Src)
		for line, text := range []string{oneLine(c.Name), c.RGB.Hex()} {
			d := font.Drawer{Dst: img, Src: ink, Face: faces[line], Dot: fixed.P(at.X+8, at.Y+patchSide+24+24*line)}
			for d.MeasureString(text) > fixed.I(patchSide-16) {
				r := []rune(text)
				text = string(r[:len(r)-2]) + "…"
			}
			d.DrawString(text)
		}
	}
	var out bytes.Buffer
	err = png.Encode(&out, img)
	return out.Bytes(), err
}
