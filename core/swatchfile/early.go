package swatchfile

import (
	"bytes"
	"fmt"
	"image"
	imagecolor "image/color"
	"image/draw"
	"image/png"
	"maps"
	"slices"
	"sync"
	"time"

	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"

	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/library"
	"huekeep/core/scale"
)

// How presentations and pictures of the editions of versions 1 to 3 were packed: what was sent stays byte for byte (library.Edition.Early).
// Nothing here is to be bettered, nor made one with what is packed today. A template of today's presentation that changes is kept below
// office/early as it was.

type earlyRow struct {
	Bold       int
	Text, Fill string
	Cells      []string
}

// earlyPages fills the templates of that time: rows of the table carried their fills themselves.
type earlyPages struct {
	*pages
	Rows []earlyRow
}

func writeEarlyDeck(e library.Edition) ([]byte, error) {
	slots := earlySlots(e.Colors, e.Early == 1)
	filled, err := fillWith(e, slots)
	if err != nil {
		return nil, err
	}
	filled.Linked = true
	p := earlyPages{pages: filled, Rows: []earlyRow{{1, "bg1", "tx2", filled.Rows[0]}}}
	for i, cells := range filled.Rows[1:] {
		fill := "bg1"
		if i%2 == 1 && contrast.Ratio(slots[ground2].Color.RGB, slots[text1].Color.RGB) >= contrast.TextAA {
			fill = "bg2"
		}
		p.Rows = append(p.Rows, earlyRow{0, "tx1", fill, cells})
	}
	if e.Early == 1 { // no patch had an edge, no date parts of a second
		p.Date = timeOf(e).UTC().Format(time.RFC3339)
		for i := range p.Tiles {
			p.Tiles[i].Edge = false
		}
	}
	parts, err := partsBelow(decks.folder)
	if err != nil {
		return nil, err
	}
	own, err := partsBelow("office/early")
	if err != nil {
		return nil, err
	}
	delete(parts, "ppt/tableStyles.xml")
	maps.Copy(parts, map[string]string{"docProps/core.xml": "office/shared/core.xml", "docProps/custom.xml": "office/shared/custom.xml",
		"ppt/theme/theme1.xml": "office/shared/theme1.xml", "ppt/charts/chart1.xml": "office/shared/chart1.xml"})
	maps.Copy(parts, own)
	const types = "[Content_Types].xml"
	names := slices.DeleteFunc(slices.Sorted(maps.Keys(parts)), func(name string) bool { return name == types })
	const workbook = "ppt/embeddings/figures.xlsx"
	figures, err := pack("office/figures", p.pages, nil, nil, timeOf(e))
	if err != nil {
		return nil, err
	}
	return zipped(append(append([]string{types}, names...), workbook), parts, p, map[string][]byte{workbook: figures}, timeOf(e))
}

// earlySlots is ThemeSlots as it was; first is how it was at the very first.
func earlySlots(set []library.Color, first bool) (slots [12]Slot) {
	used := make([]bool, len(set))
	take := func(better func(a, b library.Color) bool, fits func(library.Color) bool) (library.Color, bool) {
		best := -1
		for i, c := range set {
			if !used[i] && fits(c) && (best < 0 || better(c, set[best])) {
				best = i
			}
		}
		if best < 0 {
			return library.Color{}, false
		}
		used[best] = true
		return set[best], true
	}
	lighter := func(a, b library.Color) bool { return a.RGB.Luminance() > b.RGB.Luminance() }
	darker := func(a, b library.Color) bool { return lighter(b, a) }
	textBetter := func(a, b library.Color) bool {
		if n, m := a.Role == library.Neutral, b.Role == library.Neutral; n != m {
			return n
		}
		return darker(a, b)
	}
	light := func(c library.Color) bool { return c.RGB.Lab().L >= 85 }
	page := func(c library.Color) bool {
		chroma := c.RGB.Lab().LCh().C
		return light(c) && (first || chroma <= nearGray || c.Role == library.Neutral && chroma <= tinged)
	}
	lt1, ok := take(lighter, page)
	if !ok {
		lt1 = white
	}
	reads := func(ratio float64) func(library.Color) bool {
		return func(c library.Color) bool { return contrast.Ratio(c.RGB, lt1.RGB) >= ratio }
	}
	dk1, ok := take(textBetter, reads(readable))
	if !ok {
		dk1 = black
	}
	lt2, ok := take(lighter, func(c library.Color) bool { return c.RGB.Lab().L >= 78 && c.Role == library.Neutral })
	if !ok {
		if lt2, ok = take(lighter, light); !ok {
			lt2 = lt1
		}
	}
	dk2, ok := take(darker, reads(readable))
	if !ok {
		dk2 = dk1
	}
	var accents []library.Color
	for i, c := range set {
		if !used[i] {
			accents = append(accents, c)
		}
	}
	if len(accents) == 0 {
		accents = append(accents, dk2)
		if first {
			accents = append(accents, dk1)
		}
	} else if dk2.Name != dk1.Name {
		accents = append(accents, dk2)
	}
	six := earlyTints(accents, lt1)
	if first {
		six = nil
		for i := range 6 {
			six = append(six, accents[i%len(accents)])
		}
	}
	var links []library.Color
	for _, c := range accents {
		if reads(contrast.TextAA)(c) && len(links) < 2 {
			links = append(links, c)
		}
	}
	for len(links) < 2 {
		links = append(links, dk2)
	}
	for i, c := range append(append([]library.Color{dk1, lt1, dk2, lt2}, six...), links...) {
		slots[i] = Slot{Name: library.SlotNames[i], Color: c}
	}
	return slots
}

func earlyTints(accents []library.Color, ground library.Color) []library.Color {
	out := slices.Clone(accents[:min(6, len(accents))])
	differs := func(c color.RGB8) bool {
		return !slices.ContainsFunc(append(slices.Clone(out), ground),
			func(o library.Color) bool { return color.DeltaE00(c.Lab(), o.RGB.Lab()) < apart })
	}
	for _, percent := range []float64{60, 40, 80, 25, 50, 70, 90} {
		for _, c := range accents {
			if tint := scale.Tint(c.RGB, percent); len(out) < 6 && differs(tint) {
				out = append(out, library.Color{Name: c.Name + " " + itoa(int(percent)) + " %", RGB: tint, Role: c.Role})
			}
		}
	}
	for i := 0; len(out) < 6; i++ {
		out = append(out, out[i])
	}
	return out
}

var earlyFaces = sync.OnceValues(func() (faces [2]font.Face, err error) {
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

var earlyDrawing sync.Mutex // a face is for one at a time

func writeEarlyPicture(e library.Edition) ([]byte, error) {
	if len(e.Colors) == 0 {
		return nil, fmt.Errorf("the set %s holds no colors", e.Set)
	}
	faces, err := earlyFaces()
	if err != nil {
		return nil, err
	}
	earlyDrawing.Lock()
	defer earlyDrawing.Unlock()
	const side, label, most = 200, 64, 6
	across := min(most, len(e.Colors))
	down := (len(e.Colors) + across - 1) / across
	img := image.NewRGBA(image.Rect(0, 0, across*side, down*(side+label)))
	draw.Draw(img, img.Rect, image.White, image.Point{}, draw.Src)
	opaque := func(c color.RGB8) image.Image { return image.NewUniform(imagecolor.RGBA{c.R, c.G, c.B, 0xff}) }
	for i, c := range e.Colors {
		at := image.Pt(i%across*side, i/across*(side+label))
		patch := image.Rectangle{at, at.Add(image.Pt(side, side))}
		if c.RGB.Luminance() > 0.93 {
			draw.Draw(img, patch, opaque(color.RGB8{R: 0xbb, G: 0xbb, B: 0xbb}), image.Point{}, draw.Src)
			patch = patch.Inset(1)
		}
		draw.Draw(img, patch, opaque(c.RGB), image.Point{}, draw.Src)
		for line, text := range []string{oneLine(c.Name), c.RGB.Hex()} {
			d := font.Drawer{Dst: img, Src: opaque(ink), Face: faces[line], Dot: fixed.P(at.X+8, at.Y+side+24+24*line)}
			for d.MeasureString(text) > fixed.I(side-16) {
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
