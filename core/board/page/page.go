// Package page draws a sheet of a board on one page: as PDF, with outlines and embedded fonts, and as a picture.
package page

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	imagecolor "image/color"
	"image/draw"
	"image/png"
	"strings"
	"time"

	"github.com/tdewolff/canvas"
	"github.com/tdewolff/canvas/renderers/pdf"
	"github.com/tdewolff/canvas/renderers/rasterizer"

	"huekeep/core/board"
	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/limits"
	"huekeep/core/proof"
	"huekeep/core/typeface"
)

// Sheet is all that a page is made from.
type Sheet struct {
	House   string
	Number  int // 0 for a board that is not fixed yet
	FixedAt time.Time
	board.Board
	Faces map[string]typeface.Typeface // of every option, by its key
	Logo  []byte                       // PNG; empty for none
}

// Pixels is how wide the picture is.
const Pixels = 2400

// A4 across, in millimeters.
const width, height, margin = 297, 210, 13

// PDF writes the sheet as a page of A4.
func PDF(s Sheet) (out []byte, err error) {
	page, err := compose(s)
	if err != nil {
		return nil, err
	}
	defer broken(&err)
	var file bytes.Buffer
	p := pdf.New(&file, width, height, &pdf.Options{Compress: true, SubsetFonts: true})
	p.SetInfo(s.Title, s.House, "", "", "Hue Keep")
	page.RenderTo(p)
	if err := p.Close(); err != nil {
		return nil, err
	}
	return file.Bytes(), nil
}

// PNG writes the sheet as a picture, Pixels wide, with a profile of sRGB in it.
func PNG(s Sheet) (out []byte, err error) {
	page, err := compose(s)
	if err != nil {
		return nil, err
	}
	defer broken(&err)
	// Colors are mixed as they are written, so that a plain area is its value to the level.
	drawn := rasterizer.Draw(page, canvas.DPMM(float64(Pixels)/width), canvas.LinearColorSpace{})
	img := image.NewNRGBA(image.Rect(0, 0, Pixels, drawn.Bounds().Dy()))
	draw.Draw(img, img.Bounds(), image.White, image.Point{}, draw.Src)
	draw.Draw(img, img.Bounds(), drawn, drawn.Bounds().Min, draw.Over)
	return proof.WritePNG(img)
}

// broken makes an error of what a font or a logo did to the drawing.
func broken(err *error) {
	if r := recover(); r != nil {
		*err = fmt.Errorf("a font or the logo of the sheet cannot be drawn: %v", r)
	}
}

// compose draws the page. Fonts are loaded anew each time: embedding changes what was loaded.
func compose(s Sheet) (page *canvas.Canvas, err error) {
	defer broken(&err)
	d := &drawing{sheet: s, page: canvas.New(width, height), faces: map[string]loaded{}}
	d.Context = canvas.NewContext(d.page)
	d.SetCoordSystem(canvas.CartesianIV) // y runs down
	d.fill(0, 0, width, height, white)
	if len(s.Logo) > 0 {
		if d.logo, err = ReadLogo(s.Logo); err != nil {
			return nil, err
		}
	}
	top, err := d.head()
	if err != nil {
		return nil, err
	}
	columns, rows := grid(len(s.Options))
	const choice = 9 // the strip to tick
	w, h := (width-2*margin)/float64(columns), (height-margin-top)/float64(rows)
	for i, o := range s.Options {
		x, y := margin+float64(i%columns)*w, top+float64(i/columns)*h
		if err := d.option(o, i, x, y, w, h-choice); err != nil {
			return nil, fmt.Errorf("option %s: %w", board.Letter(i), err)
		}
		if err := d.choice(i, x, y+h-choice, w, choice-2); err != nil {
			return nil, err
		}
	}
	d.marks(top, height-margin-2)
	return d.page, nil
}

func grid(n int) (columns, rows int) {
	switch {
	case n <= 4:
		return max(1, n), 1
	case n <= 6:
		return 3, 2
	}
	return 4, 2
}

type drawing struct {
	*canvas.Context
	sheet Sheet
	page  *canvas.Canvas
	faces map[string]loaded
	logo  image.Image
}

var (
	white = color.RGB8{R: 255, G: 255, B: 255}
	black = color.RGB8{R: 0x11, G: 0x11, B: 0x11}
)

func rgba(c color.RGB8) imagecolor.RGBA { return imagecolor.RGBA{R: c.R, G: c.G, B: c.B, A: 255} }

// plain is black or white, whichever is more legible on a ground.
func plain(ground color.RGB8) color.RGB8 {
	if contrast.Ratio(black, ground) >= contrast.Ratio(white, ground) {
		return black
	}
	return white
}

func (d *drawing) fill(x, y, w, h float64, c color.RGB8) {
	d.SetFillColor(rgba(c))
	d.SetStrokeColor(canvas.Transparent)
	d.DrawPath(x, y, canvas.Rectangle(w, h))
}

// plainFace is what everything is set in that is not an option's.
const plainFace = "hanken-grotesk"

// loaded is a typeface ready to be set.
type loaded struct {
	parts  []*canvas.FontFamily
	writes func(rune) int // which part writes a character, -1 for none
}

func (d *drawing) load(key string) (loaded, error) {
	if l, ok := d.faces[key]; ok {
		return l, nil
	}
	t, ok := d.sheet.Faces[key]
	if !ok {
		if t, ok = typeface.Find(key); !ok {
			return loaded{}, fmt.Errorf("there is no typeface %q", key)
		}
	}
	writes, err := typeface.Reach(t.Regular)
	if err != nil {
		return loaded{}, fmt.Errorf("%s: %w", t.Name, err)
	}
	l := loaded{writes: writes}
	for i, regular := range t.Regular {
		f := canvas.NewFontFamily(fmt.Sprintf("%s %d", t.Name, i))
		if err := f.LoadFont(regular, 0, canvas.FontRegular); err != nil {
			return loaded{}, fmt.Errorf("%s: %w", t.Name, err)
		}
		if i < len(t.Bold) {
			if err := f.LoadFont(t.Bold[i], 0, canvas.FontBold); err != nil {
				return loaded{}, fmt.Errorf("%s: %w", t.Name, err)
			}
		}
		l.parts = append(l.parts, f)
	}
	d.faces[key] = l
	return l, nil
}

// setting is a text in a typeface.
type setting struct {
	key  string
	size float64 // points
	bold bool
	c    color.RGB8
}

// run is a part of a text that one file of a typeface writes.
type run struct {
	face *canvas.FontFace
	text string
}

// runs parts a text by the files that write it. A character that none has is left to the first, which shows a gap for it.
func (d *drawing) runs(s string, of setting) ([]run, error) {
	l, err := d.load(of.key)
	if err != nil {
		return nil, err
	}
	style := canvas.FontRegular
	if of.bold {
		style = canvas.FontBold
	}
	var out []run
	last := -1
	for _, r := range s {
		at := max(last, 0)
		if r != ' ' && r != '\n' {
			at = max(l.writes(r), 0)
		}
		if at != last {
			out, last = append(out, run{face: l.parts[at].Face(of.size, rgba(of.c), style)}), at
		}
		out[len(out)-1].text += string(r)
	}
	return out, nil
}

// text breaks a text into lines of a width; 0 for one line.
func (d *drawing) text(s string, of setting, w float64) (*canvas.Text, float64, error) {
	runs, err := d.runs(s, of)
	if err != nil || len(runs) == 0 {
		return nil, 0, err
	}
	rich := canvas.NewRichText(runs[0].face)
	for _, r := range runs {
		rich.WriteFace(r.face, r.text)
	}
	t := rich.ToText(w, 0, canvas.Left, canvas.Top, nil)
	b := t.Bounds()
	return t, b.H(), nil
}

// line draws one line with its top at y; right of x, or left of it for align canvas.Right.
func (d *drawing) line(x, y float64, s string, of setting, align canvas.TextAlign) error {
	t, _, err := d.text(s, of, 0)
	if err != nil || t == nil {
		return err
	}
	if align == canvas.Right {
		x -= t.Bounds().W()
	}
	d.DrawText(x, y, t)
	return nil
}

// head writes what the sheet is, and says where the options begin.
func (d *drawing) head() (bottom float64, err error) {
	y := float64(margin - 3)
	t, h, err := d.text(d.sheet.Title, setting{plainFace, 20, true, black}, width-2*margin)
	if err != nil {
		return 0, err
	}
	if t != nil {
		d.DrawText(margin, y, t)
	}
	y += h + 1
	what := "from " + d.sheet.House
	if d.sheet.Number > 0 {
		what += fmt.Sprintf(", sheet %d, %s", d.sheet.Number, d.sheet.FixedAt.Format("January 2, 2006"))
	}
	if err := d.line(margin, y, what, setting{plainFace, 9, false, black}, canvas.Left); err != nil {
		return 0, err
	}
	y += 5.5
	if intro := strings.TrimSpace(d.sheet.Intro); intro != "" {
		t, h, err := d.text(intro, setting{plainFace, 9, false, black}, width-2*margin)
		if err != nil {
			return 0, err
		}
		d.DrawText(margin, y, t)
		y += min(h, 26) + 1
	}
	return y + 3.5, nil
}

// marks are crop marks around the options.
func (d *drawing) marks(top, bottom float64) {
	for _, x := range []float64{margin, width - margin} {
		for _, y := range []float64{top, bottom} {
			sx, sy := 1.0, 1.0
			if x < width/2 {
				sx = -1
			}
			if y < height/2 {
				sy = -1
			}
			d.fill(min(x+sx*1.2, x+sx*5), y-0.1, 3.8, 0.2, black)
			d.fill(x-0.1, min(y+sy*1.2, y+sy*3.4), 0.2, 2.2, black)
		}
	}
}

// choice is the strip below an option, to be ticked on paper.
func (d *drawing) choice(at int, x, y, w, h float64) error {
	d.fill(x, y, w, h, black)
	d.fill(x+0.25, y+0.25, w-0.5, h-0.5, white)
	d.fill(x+4, y+h/2-1.6, 3.2, 3.2, black)
	d.fill(x+4.3, y+h/2-1.3, 2.6, 2.6, white)
	of := setting{plainFace, 10, true, black}
	if err := d.line(x+10, y+h/2-2.2, "This one", of, canvas.Left); err != nil {
		return err
	}
	return d.line(x+w-4, y+h/2-2.2, board.Letter(at), of, canvas.Right)
}

// The colors of an option stand below it, one a row; side by side where it is lower than low.
const colorRow, colorStrip, low = 7.0, 9.5, 100.0

func (d *drawing) strip(colors []board.Paint, x, y, w float64) error {
	one := w / float64(len(colors))
	for i, p := range colors {
		left, ink := x+float64(i)*one, plain(p.RGB())
		d.fill(left, y, one, colorStrip, p.RGB())
		if err := d.line(left+3, y+1.5, clipped(p.Name, int(one/1.7)), setting{plainFace, 7, false, ink}, canvas.Left); err != nil {
			return err
		}
		if err := d.line(left+3, y+5, p.Hex, setting{"jetbrains-mono", 7, false, ink}, canvas.Left); err != nil {
			return err
		}
	}
	return nil
}

// option draws a card; texts that do not fit are set smaller until they do.
func (d *drawing) option(o board.Option, at int, x, y, w, h float64) error {
	d.fill(x, y, w, h, o.Ground.RGB())
	colors := o.Colors()
	below := colorRow * float64(len(colors))
	if h < low {
		below = colorStrip
	}
	room := h - below - 2
	base := min(1.7, max(0.55, min(w/62, room/96))) * o.Size.Scale()
	for scale := base; ; scale *= 0.93 {
		bottom, err := d.card(o, at, x, y, w, scale, false)
		if err != nil {
			return err
		}
		if bottom <= y+room || scale < 0.25 {
			if _, err := d.card(o, at, x, y, w, scale, true); err != nil {
				return err
			}
			break
		}
	}
	if h < low {
		return d.strip(colors, x, y+h-below, w)
	}
	for i, p := range colors {
		cy := y + h - colorRow*float64(len(colors)-i)
		ink := plain(p.RGB())
		d.fill(x, cy, w, colorRow, p.RGB())
		if err := d.line(x+5, cy+2.1, clipped(p.Name, int(w/2.2)), setting{plainFace, 8, false, ink}, canvas.Left); err != nil {
			return err
		}
		if err := d.line(x+w-5, cy+2.1, p.Hex, setting{"jetbrains-mono", 7.5, false, ink}, canvas.Right); err != nil {
			return err
		}
	}
	return nil
}

func clipped(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return string(r[:max(1, most-1)]) + "…"
	}
	return s
}

// card sets the texts of an option and says where they end; drawn for real or only measured.
func (d *drawing) card(o board.Option, at int, x, y, w, scale float64, real bool) (bottom float64, err error) {
	texts := d.sheet.TextsOf(at)
	pad := max(4, w*0.08)
	inner := w - 2*pad
	left, top := x+pad, y+pad
	of := func(points float64, bold bool, c color.RGB8) setting {
		return setting{o.Typeface, points * scale, bold, c}
	}
	type_ := o.Type.RGB()
	if o.Logo && d.logo != nil {
		h := min(14*scale, inner*0.3)
		if real {
			d.stamp(left, top, inner*0.6, h)
		}
		top += h + 3*scale
	}
	if texts.Word != "" {
		h, err := d.word(texts.Word, o, left, top, inner, 62*scale, real)
		if err != nil {
			return 0, err
		}
		top += h + 2*scale
	}
	write := func(s string, of setting, gap float64) error {
		if strings.TrimSpace(s) == "" {
			return nil
		}
		t, h, err := d.text(s, of, inner)
		if err != nil {
			return err
		}
		if real && t != nil {
			d.DrawText(left, top, t)
		}
		top += h + gap*scale
		return nil
	}
	if err := write(texts.Headline, of(19, true, type_), 3.5); err != nil {
		return 0, err
	}
	if err := write(texts.Lines, of(10, false, type_), 4.5); err != nil {
		return 0, err
	}
	if strings.TrimSpace(texts.Button) != "" {
		ground, label := o.Button()
		t, h, err := d.text(texts.Button, of(10.5, true, label.RGB()), inner-10*scale)
		if err != nil {
			return 0, err
		}
		if real && t != nil {
			d.fill(left, top, t.Bounds().W()+10*scale, h+5*scale, ground.RGB())
			d.DrawText(left+5*scale, top+2.5*scale, t)
		}
		top += h + 5*scale + 4*scale
	}
	if len(o.Accents) > 1 {
		if real {
			for i, a := range o.Accents {
				d.fill(left+float64(i)*inner/float64(len(o.Accents)), top, inner/float64(len(o.Accents)), 2*scale, a.RGB())
			}
		}
		top += 5 * scale
	}
	return top, write(texts.Small, of(7.5, false, type_), 2)
}

// word draws the word as large as fits the width, with its outline around it.
func (d *drawing) word(s string, o board.Option, x, y, w, points float64, real bool) (height float64, err error) {
	runs, err := d.runs(s, setting{o.Typeface, points, true, o.Type.RGB()})
	if err != nil {
		return 0, err
	}
	wide := 0.0
	for _, r := range runs {
		wide += r.face.TextWidth(r.text)
	}
	if wide > w {
		if runs, err = d.runs(s, setting{o.Typeface, points * w / wide, true, o.Type.RGB()}); err != nil {
			return 0, err
		}
	}
	capital, down := 0.0, 0.0
	for _, r := range runs {
		m := r.face.Metrics()
		capital = max(capital, m.CapHeight, m.XHeight)
		down = max(down, m.Descent*0.35)
	}
	if !strings.ContainsAny(s, "gjpqyçQ,;") {
		down = 0
	}
	if !real {
		return capital + down + 3, nil
	}
	at := x
	for _, r := range runs {
		if o.Outline != nil {
			path, _, err := r.face.ToPath(r.text)
			if err != nil {
				return 0, err
			}
			d.SetFillColor(canvas.Transparent)
			d.SetStrokeColor(rgba(o.Outline.RGB()))
			d.SetStrokeWidth(max(0.5, capital*0.07))
			d.SetStrokeJoiner(canvas.RoundJoin)
			d.DrawPath(at, y+capital, path.Scale(1, -1)) // outlines of glyphs run upward
		}
		d.DrawText(at, y+capital, canvas.NewTextLine(r.face, r.text, canvas.Left))
		at += r.face.TextWidth(r.text)
	}
	return capital + down + 3, nil
}

// ReadLogo reads a PNG file. Drawings are no logos here: what an SVG file may ask of its reader has no bounds, so the
// interface makes a picture of one.
func ReadLogo(data []byte) (image.Image, error) {
	switch {
	case len(data) > limits.LogoBytes:
		return nil, fmt.Errorf("the logo has %s; at most %s are taken", limits.Size(int64(len(data))), limits.Size(limits.LogoBytes))
	case !bytes.HasPrefix(data, []byte("\x89PNG\r\n\x1a\n")):
		return nil, errors.New("a logo is a PNG file")
	}
	config, err := png.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return nil, fmt.Errorf("the logo is damaged: %w", err)
	}
	if config.Width > limits.LogoSide || config.Height > limits.LogoSide {
		return nil, fmt.Errorf("the logo is %d by %d pixels; at most %d a side are taken", config.Width, config.Height, limits.LogoSide)
	}
	img, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		return nil, fmt.Errorf("the logo is damaged: %w", err)
	}
	return img, nil
}

// stamp puts the logo with its upper left corner at x, y, into a box.
func (d *drawing) stamp(x, y, w, h float64) {
	b := d.logo.Bounds()
	d.DrawImage(x, y, d.logo, canvas.DPMM(1/min(w/float64(b.Dx()), h/float64(b.Dy()))))
}
