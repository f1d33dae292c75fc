package lettering

import (
	"image"
	"image/draw"
	"sync"

	"golang.org/x/image/font"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"
)

// Pen writes with a face in one size of pixels. It is for one goroutine at a time.
type Pen struct {
	face  Face
	size  float64
	faces map[*Font]font.Face
}

// Pen makes a pen; size is that of the em square in pixels.
func (f Face) Pen(size float64) *Pen { return &Pen{f, size, map[*Font]font.Face{}} }

var parsed sync.Map // *Font to *opentype.Font

func (p *Pen) of(f *Font) (font.Face, error) {
	if known, ok := p.faces[f]; ok {
		return known, nil
	}
	o, ok := parsed.Load(f)
	if !ok {
		made, err := f.OpenType()
		if err != nil {
			return nil, err
		}
		o, _ = parsed.LoadOrStore(f, made)
	}
	made, err := opentype.NewFace(o.(*opentype.Font), &opentype.FaceOptions{Size: p.size, DPI: 72, Hinting: font.HintingNone})
	if err == nil {
		p.faces[f] = made
	}
	return made, err
}

// Write draws a text with its baseline at y, cut to a width if that is over 0.
func (p *Pen) Write(img draw.Image, ink image.Image, x, y int, text string, width float64) error {
	if width > 0 {
		text = p.face.Fit(text, p.size, width)
	}
	at := fixed.P(x, y)
	for _, run := range p.face.Runs(text) {
		face, err := p.of(run.Font)
		if err != nil {
			return err
		}
		d := font.Drawer{Dst: img, Src: ink, Face: face, Dot: at}
		d.DrawString(run.Text)
		at = d.Dot
	}
	return nil
}
