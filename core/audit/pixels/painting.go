package pixels

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"image"
	stdcolor "image/color"
	"image/gif"
	"image/png"
	"slices"

	"github.com/HugoSmits86/nativewebp"
	"github.com/hhrutter/tiff"
	"golang.org/x/image/bmp"

	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/picture"
	"huekeep/core/source"
)

// painting is a picture in a format that is written.
type painting struct {
	part   *source.Part
	format string // "PNG", "GIF", "WebP", "BMP" or "TIFF"
	areas  []color.RGB8
}

// Source is where the picture stands in its file.
func (p *painting) Source() *source.Part { return p.part }

// Repaint writes the picture with other colors in place of areas. Pixels that blend two areas at an edge blend what they became in the
// same shares; all others stay.
func (p *painting) Repaint(to map[color.RGB8]color.RGB8) ([]byte, error) {
	data, err := p.part.Bytes()
	if err != nil {
		return nil, err
	}
	if p.format == "GIF" {
		return p.gif(data, to)
	}
	img, err := picture.Decode(data)
	if err != nil {
		return nil, err
	}
	out := image.NewNRGBA(img.Rect)
	copy(out.Pix, img.Pix)
	p.paint(img.NRGBA, out, to)
	var b bytes.Buffer
	switch p.format {
	case "PNG":
		enc := png.Encoder{CompressionLevel: png.BestCompression}
		if err := enc.Encode(&b, small(out)); err != nil {
			return nil, err
		}
		return keepChunks(data, b.Bytes()), nil
	case "WebP":
		err = nativewebp.Encode(&b, out, nil)
	case "BMP":
		err = bmp.Encode(&b, out)
	case "TIFF":
		err = tiff.Encode(&b, out, &tiff.Options{Compression: tiff.Deflate, Predictor: true})
	default:
		err = fmt.Errorf("a picture in %s is not written", p.format)
	}
	return b.Bytes(), err
}

// small gives a picture of up to 256 colors a palette, so that it does not grow.
func small(img *image.NRGBA) image.Image {
	index := map[stdcolor.NRGBA]uint8{}
	out := &image.Paletted{Pix: make([]uint8, img.Rect.Dx()*img.Rect.Dy()), Stride: img.Rect.Dx(), Rect: img.Rect}
	for y := range img.Rect.Dy() {
		for x := range img.Rect.Dx() {
			c := img.NRGBAAt(x, y)
			i, ok := index[c]
			if !ok {
				if len(out.Palette) == 256 {
					return img
				}
				i = uint8(len(out.Palette))
				index[c] = i
				out.Palette = append(out.Palette, c)
			}
			out.Pix[y*out.Stride+x] = i
		}
	}
	return out
}

// paint replaces areas, and what blends them.
func (p *painting) paint(from, out *image.NRGBA, to map[color.RGB8]color.RGB8) {
	area := map[color.RGB8]bool{}
	for _, c := range p.areas {
		area[c] = true
	}
	w, h := from.Rect.Dx(), from.Rect.Dy()
	at := func(x, y int) (color.RGB8, uint8) {
		i := y*from.Stride + 4*x
		return color.RGB8{R: from.Pix[i], G: from.Pix[i+1], B: from.Pix[i+2]}, from.Pix[i+3]
	}
	put := func(x, y int, c color.RGB8) {
		i := y*out.Stride + 4*x
		out.Pix[i], out.Pix[i+1], out.Pix[i+2] = c.R, c.G, c.B
	}
	for y := range h {
		for x := range w {
			c, alpha := at(x, y)
			if new, ok := to[c]; ok {
				put(x, y, new)
				continue
			}
			if area[c] || alpha == 0 {
				continue
			}
			// An edge: the areas around it are what it blends.
			var around []color.RGB8
			changes := false
			for dy := -2; dy <= 2; dy++ {
				for dx := -2; dx <= 2; dx++ {
					if x+dx < 0 || y+dy < 0 || x+dx >= w || y+dy >= h {
						continue
					}
					n, a := at(x+dx, y+dy)
					if a < 128 || !area[n] || slices.Contains(around, n) {
						continue
					}
					around = append(around, n)
					if _, ok := to[n]; ok {
						changes = true
					}
				}
			}
			if changes {
				if new, ok := blended(c, around, to); ok {
					put(x, y, new)
				}
			}
		}
	}
}

// blended writes a color as a blend of two others and blends what they become; alone, it is taken for the one that is near.
func blended(c color.RGB8, around []color.RGB8, to map[color.RGB8]color.RGB8) (color.RGB8, bool) {
	became := func(a color.RGB8) color.RGB8 {
		if n, ok := to[a]; ok {
			return n
		}
		return a
	}
	v := func(a color.RGB8) [3]float64 { return [3]float64{float64(a.R), float64(a.G), float64(a.B)} }
	best, found := 12.0, false
	var out color.RGB8
	p := v(c)
	for i, a := range around {
		for _, b := range around[i+1:] {
			x, y := v(a), v(b)
			var dot, length float64
			for k := range 3 {
				dot += (p[k] - x[k]) * (y[k] - x[k])
				length += (y[k] - x[k]) * (y[k] - x[k])
			}
			if length == 0 {
				continue
			}
			t := min(1, max(0, dot/length))
			off := 0.0
			for k := range 3 {
				off = max(off, abs(p[k]-x[k]-t*(y[k]-x[k])))
			}
			if off < best {
				m, n := v(became(a)), v(became(b))
				best, found = off, true
				mix := func(k int) uint8 { return uint8(min(255, max(0, m[k]+t*(n[k]-m[k])+0.5))) }
				out = color.RGB8{R: mix(0), G: mix(1), B: mix(2)}
			}
		}
	}
	if !found && len(around) == 1 && audit.Farthest(around[0], c) <= 24 {
		return became(around[0]), true
	}
	return out, found
}

func abs(v float64) float64 {
	if v < 0 {
		return -v
	}
	return v
}

// gif replaces colors in the palettes of all frames; their pixels stay as they are.
func (p *painting) gif(data []byte, to map[color.RGB8]color.RGB8) ([]byte, error) {
	if err := picture.Unpacks(data); err != nil {
		return nil, err
	}
	g, err := gif.DecodeAll(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	change := func(list stdcolor.Palette) {
		for i, c := range list {
			n := stdcolor.NRGBAModel.Convert(c).(stdcolor.NRGBA)
			if n.A == 0 {
				continue
			}
			was := color.RGB8{R: n.R, G: n.G, B: n.B}
			new, ok := to[was]
			if !ok && !slices.Contains(p.areas, was) {
				new, ok = blended(was, p.areas, to)
			}
			if ok {
				list[i] = stdcolor.NRGBA{R: new.R, G: new.G, B: new.B, A: n.A}
			}
		}
	}
	if m, ok := g.Config.ColorModel.(stdcolor.Palette); ok {
		change(m)
	}
	for _, f := range g.Image {
		if m, ok := g.Config.ColorModel.(stdcolor.Palette); !ok || len(m) == 0 || len(f.Palette) == 0 || &m[0] != &f.Palette[0] {
			change(f.Palette)
		}
	}
	var b bytes.Buffer
	if err := gif.EncodeAll(&b, g); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// keepChunks puts what a PNG says beside its pixels (PNG 3, 11.3) into another one: sizes, times, texts, its color space.
func keepChunks(from, to []byte) []byte {
	const head = 8
	kept := map[string]bool{"pHYs": true, "tEXt": true, "iTXt": true, "zTXt": true, "tIME": true, "sRGB": true, "gAMA": true, "cHRM": true,
		"eXIf": true, "iCCP": true}
	var extra bytes.Buffer
	each(from[min(head, len(from)):], func(kind string, chunk []byte) {
		if kept[kind] {
			extra.Write(chunk)
		}
	})
	if extra.Len() == 0 || len(to) < head {
		return to
	}
	out := bytes.NewBuffer(slices.Clone(to[:head]))
	each(to[head:], func(kind string, chunk []byte) {
		out.Write(chunk)
		if kind == "IHDR" {
			out.Write(extra.Bytes())
		}
	})
	return out.Bytes()
}

// each calls f for every chunk of a PNG.
func each(data []byte, f func(kind string, chunk []byte)) {
	for len(data) >= 12 {
		n := int(binary.BigEndian.Uint32(data))
		if n < 0 || n > len(data)-12 {
			return
		}
		f(string(data[4:8]), data[:12+n])
		data = data[12+n:]
	}
}
