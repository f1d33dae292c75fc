package pdfpage

import (
	"cmp"
	"fmt"
	"image"
	"math"
	"slices"
	"strings"
	"unicode"

	"github.com/klippa-app/go-pdfium/enums"
	"github.com/klippa-app/go-pdfium/references"
	"github.com/klippa-app/go-pdfium/requests"

	"huekeep/core/color"
)

// Words are a piece of a line that stands by itself: what follows it on the line is further away than a word.
type Words struct {
	Box
	Text string
	Size float64 // of the type, in points
	Bold bool
}

const (
	apart     = 0.95   // times the size of the type, over which a gap parts two pieces of a line though a space stands in it
	unspaced  = 0.55   // the same where no space is written: of the cells of a table
	space     = 0.18   // over which a gap stands for a space that is not written
	bold      = 600    // weight from which type is bold (CSS Fonts 4, 2.2)
	mostChars = 60_000 // characters of a page that are read
)

// Words are what is written on the page, from top to bottom.
func (p *Page) Words() (out []Words, err error) {
	defer guard(&err)
	e := p.file.engine
	loaded, err := e.FPDFText_LoadPage(&requests.FPDFText_LoadPage{Page: p.page})
	if err != nil {
		return nil, errDamaged
	}
	text := loaded.TextPage
	defer e.FPDFText_ClosePage(&requests.FPDFText_ClosePage{TextPage: text})
	count, err := e.FPDFText_CountChars(&requests.FPDFText_CountChars{TextPage: text})
	if err != nil {
		return nil, errDamaged
	}
	var w Words
	spaced := false
	end := func() {
		if w.Text = strings.TrimSpace(w.Text); w.Text != "" {
			out = append(out, w)
		}
		w, spaced = Words{}, false
	}
	for i := range min(count.Count, mostChars) {
		c, err := e.FPDFText_GetUnicode(&requests.FPDFText_GetUnicode{TextPage: text, Index: i})
		if err != nil || c.Unicode == 0 || c.Unicode == 0xfffe || c.Unicode == 0xffff {
			continue
		}
		if r := rune(c.Unicode); unicode.IsSpace(r) {
			// The engine adds spaces and lines of its own, by rules that are none for single letters.
			if made, err := e.FPDFText_IsGenerated(&requests.FPDFText_IsGenerated{TextPage: text, Index: i}); err != nil ||
				!made.IsGenerated {
				spaced = true
			}
			continue
		}
		at, err := e.FPDFText_GetLooseCharBox(&requests.FPDFText_GetLooseCharBox{TextPage: text, Index: i})
		if err != nil {
			continue
		}
		box := p.toSeen.box(Box{float64(at.Rect.Left), float64(at.Rect.Bottom), float64(at.Rect.Right), float64(at.Rect.Top)})
		if w.Text != "" && !w.goesOn(box, spaced) {
			end()
		}
		if w.Text == "" {
			w.Box = box
			w.Size, w.Bold = p.font(text, i, box)
		} else if spaced || box.X0-w.X1 > space*w.Size {
			w.Text += " "
		}
		w.Box, spaced = w.Box.With(box), false
		w.Text += string(rune(c.Unicode))
	}
	end()
	return joined(out), nil
}

// font is the size of a character's type as one sees it, and whether it is bold.
func (p *Page) font(text references.FPDF_TEXTPAGE, i int, box Box) (size float64, isBold bool) {
	e := p.file.engine
	size = box.Height() / 1.2
	if s, err := e.FPDFText_GetFontSize(&requests.FPDFText_GetFontSize{TextPage: text, Index: i}); err == nil {
		if m, err := e.FPDFText_GetMatrix(&requests.FPDFText_GetMatrix{TextPage: text, Index: i}); err == nil {
			size = s.FontSize * math.Hypot(float64(m.Matrix.C), float64(m.Matrix.D))
		}
	}
	if size <= 0 || size > 2*box.Height() {
		size = max(box.Height()/1.2, 1)
	}
	if weight, err := e.FPDFText_GetFontWeight(&requests.FPDFText_GetFontWeight{TextPage: text, Index: i}); err == nil &&
		weight.FontWeight >= bold {
		return size, true
	}
	info, err := e.FPDFText_GetFontInfo(&requests.FPDFText_GetFontInfo{TextPage: text, Index: i})
	return size, err == nil && strings.Contains(strings.ToLower(info.FontName), "bold")
}

// goesOn says whether a character belongs to what was written before it.
func (w Words) goesOn(box Box, spaced bool) bool {
	_, h := w.Overlap(box)
	limit := unspaced * w.Size
	if spaced {
		limit = apart * w.Size
	}
	return h > 0.6*min(w.Height(), box.Height()) && box.X0-w.X1 < limit && box.X1 > w.X1-0.3*w.Size &&
		math.Abs(w.Height()-box.Height()) < 0.35*max(w.Height(), box.Height())
}

// joined puts pieces of one line together that the file wrote one after the other in another order, and orders all from top to bottom.
func joined(list []Words) (out []Words) {
	slices.SortStableFunc(list, func(a, b Words) int {
		if math.Abs(a.Y1-b.Y1) > 0.35*min(a.Size, b.Size) {
			return cmp.Compare(a.Y1, b.Y1)
		}
		return cmp.Compare(a.X0, b.X0)
	})
	for _, w := range list {
		if n := len(out); n > 0 {
			last := &out[n-1]
			gap := w.X0 - last.X1
			if math.Abs(w.Y1-last.Y1) < 0.35*w.Size && gap > -0.3*w.Size && gap < unspaced*w.Size &&
				math.Abs(w.Size-last.Size) < 0.1*w.Size && w.Bold == last.Bold {
				if gap > space*w.Size {
					last.Text += " "
				}
				last.Text += w.Text
				last.Box = last.With(w.Box)
				continue
			}
		}
		out = append(out, w)
	}
	return out
}

// Area is a part of a page that is painted in one color, as the page shows it: what stands on it does not count.
type Area struct {
	Box
	RGB color.RGB8
}

const (
	mostObjects = 4000 // of a page that are looked at
	mostForms   = 12   // inside of each other
	leastSide   = 5    // of an area, in points
	leastShare  = 0.45 // of an area that has its color
)

// Areas are the flat ones among what is painted on the page, found in its picture; scale is how many pixels of it a point has.
func (p *Page) Areas(img *image.NRGBA, scale float64) (out []Area, err error) {
	defer guard(&err)
	count, err := p.file.engine.FPDFPage_CountObjects(&requests.FPDFPage_CountObjects{Page: p.page})
	if err != nil {
		return nil, errDamaged
	}
	left := mostObjects
	var boxes []Box
	for i := 0; i < count.Count && left > 0; i++ {
		o, err := p.file.engine.FPDFPage_GetObject(&requests.FPDFPage_GetObject{Page: p.page, Index: i})
		if err == nil {
			boxes = p.painted(boxes, o.PageObject, p.toSeen, 0, &left)
		}
	}
	for _, b := range boxes {
		b = Box{max(b.X0, 0), max(b.Y0, 0), min(b.X1, p.Width), min(b.Y1, p.Height)}
		if b.Width() < leastSide || b.Height() < leastSide || slices.ContainsFunc(out, func(a Area) bool { return a.near(b) }) {
			continue
		}
		if c, ok := flat(img, b, scale); ok {
			out = append(out, Area{b, c})
		}
	}
	return out, nil
}

// near says whether two boxes are one, drawn twice.
func (b Box) near(o Box) bool {
	return math.Abs(b.X0-o.X0)+math.Abs(b.Y0-o.Y0)+math.Abs(b.X1-o.X1)+math.Abs(b.Y1-o.Y1) < 4
}

// painted adds what an object of the page fills, or those inside of it.
func (p *Page) painted(boxes []Box, o references.FPDF_PAGEOBJECT, m affine, depth int, left *int) []Box {
	*left--
	e := p.file.engine
	kind, err := e.FPDFPageObj_GetType(&requests.FPDFPageObj_GetType{PageObject: o})
	if err != nil {
		return boxes
	}
	switch kind.Type {
	case enums.FPDF_PAGEOBJ_FORM:
		count, err := e.FPDFFormObj_CountObjects(&requests.FPDFFormObj_CountObjects{PageObject: o})
		to, wrong := e.FPDFPageObj_GetMatrix(&requests.FPDFPageObj_GetMatrix{PageObject: o})
		if err != nil || wrong != nil || depth >= mostForms {
			return boxes
		}
		f := to.Matrix
		within := m.after(affine{float64(f.A), float64(f.B), float64(f.C), float64(f.D), float64(f.E), float64(f.F)})
		for i := 0; i < count.Count && *left > 0; i++ {
			inner, err := e.FPDFFormObj_GetObject(&requests.FPDFFormObj_GetObject{PageObject: o, Index: uint64(i)})
			if err == nil {
				boxes = p.painted(boxes, inner.PageObject, within, depth+1, left)
			}
		}
		return boxes
	case enums.FPDF_PAGEOBJ_PATH:
		mode, err := e.FPDFPath_GetDrawMode(&requests.FPDFPath_GetDrawMode{PageObject: o})
		if err != nil || mode.FillMode == enums.FPDF_FILLMODE_NONE {
			return boxes
		}
	case enums.FPDF_PAGEOBJ_IMAGE:
	default:
		return boxes
	}
	at, err := e.FPDFPageObj_GetBounds(&requests.FPDFPageObj_GetBounds{PageObject: o})
	if err != nil {
		return boxes
	}
	return append(boxes, m.box(Box{float64(at.Left), float64(at.Bottom), float64(at.Right), float64(at.Top)}))
}

// flat is the color of most of an area, without its rim.
func flat(img *image.NRGBA, b Box, scale float64) (color.RGB8, bool) {
	r := image.Rect(int(math.Ceil(b.X0*scale))+1, int(math.Ceil(b.Y0*scale))+1, int(b.X1*scale)-1, int(b.Y1*scale)-1).Intersect(img.Rect)
	if r.Empty() {
		return color.RGB8{}, false
	}
	step := max(1, min(r.Dx(), r.Dy())/48)
	counts, all := map[color.RGB8]int{}, 0
	for y := r.Min.Y; y < r.Max.Y; y += step {
		for x := r.Min.X; x < r.Max.X; x += step {
			at := img.PixOffset(x, y)
			counts[color.RGB8{R: img.Pix[at], G: img.Pix[at+1], B: img.Pix[at+2]}]++
			all++
		}
	}
	var most color.RGB8
	for c, n := range counts {
		if n > counts[most] || n == counts[most] && c.Hex() < most.Hex() {
			most = c
		}
	}
	return most, float64(counts[most]) >= leastShare*float64(all)
}

// mostBuilds is how many builds of a page are shown; more are those of pictures and shadings.
const mostBuilds = 400

// Shown says as which colors the engine shows builds: it knows no press.
func Shown(builds []color.CMYK) (map[color.RGB8]color.CMYK, error) {
	builds = builds[:min(len(builds), mostBuilds)]
	const side = 8
	var content strings.Builder
	for i, b := range builds {
		fmt.Fprintf(&content, "%.5f %.5f %.5f %.5f k %d 0 %d %d re f\n", b.C/100, b.M/100, b.Y/100, b.K/100, i*side, side, side)
	}
	var b strings.Builder
	b.WriteString("%PDF-1.4\n")
	fmt.Fprintf(&b, "1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj\n")
	fmt.Fprintf(&b, "3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 %d %d]/Contents 4 0 R>>endobj\n", len(builds)*side, side)
	fmt.Fprintf(&b, "4 0 obj<</Length %d>>stream\n%sendstream endobj\ntrailer<</Root 1 0 R/Size 5>>\n%%%%EOF\n", content.Len(),
		content.String())
	f, err := Open([]byte(b.String()))
	if err != nil {
		return nil, err
	}
	defer f.Close()
	p, err := f.Page(1)
	if err != nil {
		return nil, err
	}
	defer p.Close()
	img, _, err := p.Picture(len(builds)*side, side)
	if err != nil {
		return nil, err
	}
	out := map[color.RGB8]color.CMYK{}
	for i, b := range builds {
		at := img.PixOffset(i*side+side/2, side/2)
		out[color.RGB8{R: img.Pix[at], G: img.Pix[at+1], B: img.Pix[at+2]}] = b
	}
	return out, nil
}
