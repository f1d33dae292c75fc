package swatchfile

import (
	"fmt"
	"image"
	gocolor "image/color"
	"image/draw"
	"slices"
	"strings"

	"huekeep/core/color"
	"huekeep/core/lettering"
	"huekeep/core/library"
	"huekeep/core/proof"
)

// scene is a picture as areas and lines of type in pixels, which becomes PNG or SVG.
type scene struct {
	title         string
	width, height int
	ground        color.RGB8
	areas         []area
	lines         []line
	p3            bool // as PNG it is in Display P3, which has more colors than sRGB
}

type area struct {
	x, y, w, h int
	rgb        color.RGB8
	exact      *color.RGB // the color itself, where sRGB does not hold it
}

type line struct {
	x, y  int // of the baseline's beginning
	size  float64
	face  string // one of faces
	text  string
	ink   color.RGB8
	on    color.RGB8 // what it stands on
	width float64    // that it has to fit in
}

// faces are the styles of a scene, with what an SVG calls them.
var faces = map[string]struct {
	face func() lettering.Face
	css  string
}{
	"regular": {lettering.Regular, `font-family="'Source Sans 3', 'Liberation Sans', sans-serif"`},
	"bold":    {lettering.Bold, `font-family="'Source Sans 3', 'Liberation Sans', sans-serif" font-weight="700"`},
	"mono":    {lettering.Mono, `font-family="'JetBrains Mono', 'Liberation Mono', monospace"`},
}

func (s *scene) area(x, y, w, h int, rgb color.RGB8) {
	s.areas = append(s.areas, area{x, y, w, h, rgb, nil})
}

// patch is an area of a color of the library.
func (s *scene) patch(x, y, w, h int, c library.Color) {
	a := area{x, y, w, h, c.RGB, nil}
	if c.CSS() != "" {
		exact := c.Exact()
		a.exact = &exact
	}
	s.areas = append(s.areas, a)
}

// inP3 is a color in 8 bits of Display P3, as near as that has it.
func inP3(c color.RGB) color.RGB8 {
	v, _ := color.Numbers("display-p3", c)
	return color.RGB{R: v[0], G: v[1], B: v[2]}.Clip().RGB8()
}

// codes is the scene with the values of Display P3 in place of its colors.
func (s *scene) codes() *scene {
	out := *s
	out.p3, out.ground, out.areas, out.lines = false, inP3(s.ground.RGB()), slices.Clone(s.areas), slices.Clone(s.lines)
	for i, a := range s.areas {
		exact := a.rgb.RGB()
		if a.exact != nil {
			exact = *a.exact
		}
		out.areas[i].rgb = inP3(exact)
	}
	for i, l := range s.lines {
		out.lines[i].ink, out.lines[i].on = inP3(l.ink.RGB()), inP3(l.on.RGB())
	}
	return &out
}

func (s *scene) text(face string, size float64, x, y int, text string, ink, on color.RGB8, width int) {
	s.lines = append(s.lines, line{x, y, size, face, oneLine(text), ink, on, float64(width)})
}

// png draws the scene: areas are their value to the level, type is mixed between its ink and its ground.
func (s *scene) png() ([]byte, error) {
	write := proof.WritePNG
	if s.p3 {
		s, write = s.codes(), proof.WriteP3
	}
	const steps = 16 // of the mixture
	rect := image.Rect(0, 0, s.width, s.height)
	var list gocolor.Palette
	place := map[color.RGB8]uint8{}
	full := false
	add := func(c color.RGB8) {
		if _, ok := place[c]; ok {
			return
		}
		if len(list) == 256 {
			full = true
			return
		}
		place[c] = uint8(len(list))
		list = append(list, gocolor.RGBA{R: c.R, G: c.G, B: c.B, A: 255})
	}
	add(s.ground)
	for _, a := range s.areas {
		add(a.rgb)
	}
	for _, l := range s.lines {
		for i := 0; i <= steps; i++ {
			mix := func(a, b uint8) uint8 { return uint8((int(a)*(steps-i) + int(b)*i + steps/2) / steps) }
			add(color.RGB8{R: mix(l.on.R, l.ink.R), G: mix(l.on.G, l.ink.G), B: mix(l.on.B, l.ink.B)})
		}
	}
	var img draw.Image
	if full { // too many colors for a list of them
		img = image.NewNRGBA(rect)
		draw.Draw(img, rect, image.NewUniform(gocolor.RGBA{R: s.ground.R, G: s.ground.G, B: s.ground.B, A: 255}), image.Point{}, draw.Src)
		for _, a := range s.areas {
			draw.Draw(img, image.Rect(a.x, a.y, a.x+a.w, a.y+a.h),
				image.NewUniform(gocolor.RGBA{R: a.rgb.R, G: a.rgb.G, B: a.rgb.B, A: 255}), image.Point{}, draw.Src)
		}
	} else {
		p := image.NewPaletted(rect, list)
		for _, a := range s.areas {
			at := place[a.rgb]
			r := image.Rect(a.x, a.y, a.x+a.w, a.y+a.h).Intersect(rect)
			for y := r.Min.Y; y < r.Max.Y; y++ {
				row := p.Pix[p.PixOffset(r.Min.X, y):p.PixOffset(r.Max.X, y)]
				for i := range row {
					row[i] = at
				}
			}
		}
		img = &remembering{Paletted: p, known: map[gocolor.RGBA]uint8{}}
	}
	pens := map[string]*lettering.Pen{}
	for _, l := range s.lines {
		key := fmt.Sprint(l.face, l.size)
		if pens[key] == nil {
			pens[key] = faces[l.face].face().Pen(l.size)
		}
		ink := image.NewUniform(gocolor.RGBA{R: l.ink.R, G: l.ink.G, B: l.ink.B, A: 255})
		if err := pens[key].Write(img, ink, l.x, l.y, l.text, l.width); err != nil {
			return nil, err
		}
	}
	if p, ok := img.(*remembering); ok {
		return write(p.Paletted)
	}
	return write(img)
}

// remembering is a picture of listed colors that looks up each mixture once.
type remembering struct {
	*image.Paletted
	known map[gocolor.RGBA]uint8
}

func (r *remembering) Set(x, y int, c gocolor.Color) {
	r.SetRGBA64(x, y, gocolor.RGBA64Model.Convert(c).(gocolor.RGBA64))
}

func (r *remembering) SetRGBA64(x, y int, c gocolor.RGBA64) {
	if !(image.Point{X: x, Y: y}.In(r.Rect)) {
		return
	}
	key := gocolor.RGBA{R: uint8(c.R >> 8), G: uint8(c.G >> 8), B: uint8(c.B >> 8), A: 255}
	at, ok := r.known[key]
	if !ok {
		at = uint8(r.Palette.Index(key))
		r.known[key] = at
	}
	r.Pix[r.PixOffset(x, y)] = at
}

// svg writes the scene as a drawing.
func (s *scene) svg() []byte {
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" width="%d" height="%d" viewBox="0 0 %d %d"><title>%s</title>`+"\n", s.width,
		s.height, s.width, s.height, escaped(s.title))
	fmt.Fprintf(&b, `<rect width="%d" height="%d" fill="%s"/>`+"\n", s.width, s.height, s.ground.Hex())
	for _, a := range s.areas {
		fmt.Fprintf(&b, `<rect x="%d" y="%d" width="%d" height="%d" fill="%s"/>`+"\n", a.x, a.y, a.w, a.h, a.rgb.Hex())
	}
	for _, l := range s.lines {
		text := l.text
		if l.width > 0 {
			text = faces[l.face].face().Fit(text, l.size, l.width)
		}
		fmt.Fprintf(&b, `<text x="%d" y="%d" font-size="%s" %s fill="%s">%s</text>`+"\n", l.x, l.y, short(l.size, 1), faces[l.face].css,
			l.ink.Hex(), escaped(text))
	}
	b.WriteString("</svg>\n")
	return []byte(b.String())
}
