package swatchfile

import (
	"fmt"
	"slices"
	"strings"

	"huekeep/core/color"
	"huekeep/core/lettering"
	"huekeep/core/library"
	"huekeep/core/pdf"
	"huekeep/core/press"
)

// A4, with room for marks around it, in millimeters.
const (
	pageWidth, pageHeight = 210., 297.
	pageMargin, markRoom  = 15., 9.
)

// tintsPrinted are the tints of an ink that are printed beside the solid, in percent.
var tintsPrinted = []float64{80, 60, 40, 20}

// printTolerance is the ΔE00 up to which a difference is slight.
const printTolerance = 2

// WritePrintPDF writes pages for a printer: what to print on which stock and how near it has to come, then each color as a DeviceCMYK
// patch for each press, then each ink as a Separation of its code with its tints. Values stand beside; where they come from too, since
// this packing alone carries derived builds. The output intent is that of the first press that ships with its profile.
func WritePrintPDF(e library.Edition) ([]byte, error) {
	if len(e.Colors) == 0 {
		return nil, fmt.Errorf("the set %s holds no colors", e.Set)
	}
	d := &pdf.Document{Title: e.Title(), Author: e.House, At: e.FixedAt}
	w := &printing{Document: d, e: e, black: func(p *pdf.Page) { p.CMYK(color.CMYK{K: 100}) }}
	presses := pressesOf(e)
	for _, p := range presses {
		if p.condition != nil {
			d.Intent(p.Label, p.condition.Profile())
			w.intent = p.Label
			break
		}
	}
	w.cover(presses)
	for _, p := range presses {
		w.press(p)
	}
	for _, stock := range stocksOf(e) {
		w.inks(stock)
	}
	return d.Bytes()
}

// pressUsed is a press that an edition has builds for; the condition is nil where its profile does not ship.
type pressUsed struct {
	library.Profile
	condition *press.Condition
}

// pressesOf lists the presses of an edition, or those that ship if it names none.
func pressesOf(e library.Edition) (out []pressUsed) {
	if len(e.Profiles) == 0 {
		for _, s := range press.Shipped {
			c, err := press.Get(s.Name)
			if err != nil {
				continue
			}
			id := c.Identity()
			out = append(out, pressUsed{library.Profile{Press: s.Name, Label: s.Label, InkLimit: s.InkLimit, Name: id.Name,
				SHA256: id.SHA256}, c})
		}
		return out
	}
	for _, p := range e.Profiles {
		used := pressUsed{Profile: p}
		if c, err := press.Get(p.Press); err == nil && c.Identity().SHA256 == p.SHA256 {
			used.condition = c
		}
		out = append(out, used)
	}
	return out
}

// build is a color's build for a press; one that an edition lacks follows from the master where the press ships.
func (p pressUsed) build(c library.Color) (library.Build, bool) {
	if b, ok := c.Build(p.Press); ok {
		return b, true
	}
	if p.condition == nil {
		return library.Build{}, false
	}
	return library.Build{Press: p.Press, Value: p.condition.Build(c.Lab()).Whole, Origin: library.Derived}, true
}

func stocksOf(e library.Edition) (out []string) {
	for _, c := range e.Colors {
		for _, s := range c.Spots {
			if !slices.Contains(out, s.Stock) {
				out = append(out, s.Stock)
			}
		}
	}
	slices.Sort(out)
	return out
}

// printing is a document for a printer in the making.
type printing struct {
	*pdf.Document
	e      library.Edition
	intent string
	page   *pdf.Page
	y      float64
	black  func(*pdf.Page)
}

// begin opens a page under a heading.
func (w *printing) begin(heading, below string) {
	w.page = w.Document.Page(pageWidth, pageHeight, markRoom)
	w.page.Marks()
	w.black(w.page)
	w.page.Text(lettering.Bold(), 18, pageMargin, 24, heading, pageWidth-2*pageMargin)
	w.page.Text(lettering.Regular(), 10, pageMargin, 31, below, pageWidth-2*pageMargin)
	w.page.Text(lettering.Regular(), 8, pageMargin, pageHeight-8, w.e.Title(), pageWidth-2*pageMargin-30)
	w.y = 40
}

// room opens another page where a height does not fit.
func (w *printing) room(h float64, heading, below string) {
	if w.y+h > pageHeight-14 {
		w.begin(heading, below)
	}
}

func (w *printing) cover(presses []pressUsed) {
	w.begin(w.e.House, w.e.Set+editionWords(w.e))
	lines := []string{"This is what to print, on which stock, and how near it has to come.", ""}
	lines = append(lines, "Print the pages as they are, without color conversion and without scaling.")
	for _, p := range presses {
		how := fmt.Sprintf("%s: process colors on the page of that name; total ink at most %s %%.", sentenceCase(p.Label),
			short(p.InkLimit, 0))
		if p.Name != "" {
			how += " Profile: " + p.Name + "."
		}
		lines = append(lines, how)
	}
	for _, s := range stocksOf(w.e) {
		lines = append(lines, fmt.Sprintf("Spot inks on %s stock: one plate an ink, under its code; tints as the plate has them.", s))
	}
	if w.intent != "" {
		lines = append(lines, "The output intent of this file is "+w.intent+".")
	}
	lines = append(lines, "", fmt.Sprintf("Hold each patch to ΔE00 %d of the Lab value beside it (CIELAB, D50, 2 degrees); beyond that a difference is noticed.", printTolerance),
		"“Approved” means that a person signed the value; “derived” that it was computed and nobody has yet.",
		"Registration marks print in every ink. Trim at the crop marks.")
	if w.e.Note != "" {
		lines = append(lines, "", w.e.Note)
	}
	for _, l := range lines {
		for _, part := range wrapped(lettering.Regular(), l, 11, pageWidth-2*pageMargin) {
			w.page.Text(lettering.Regular(), 11, pageMargin, w.y, part, 0)
			w.y += 6
		}
		w.y += 1.5
	}
}

func editionWords(e library.Edition) string {
	if e.Number == 0 {
		return ""
	}
	return ", edition " + itoa(e.Number)
}

func sentenceCase(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

// wrapped breaks a text into lines of a width in millimeters.
func wrapped(face lettering.Face, text string, size, width float64) (out []string) {
	const point = 72 / 25.4
	current := ""
	for _, word := range strings.Fields(text) {
		next := strings.TrimSpace(current + " " + word)
		if current != "" && face.Width(next, size) > width*point {
			out = append(out, current)
			next = word
		}
		current = next
	}
	return append(out, current)
}

const patchHeight = 16.

func (w *printing) press(p pressUsed) {
	heading, below := sentenceCase(p.Label), "Process colors, DeviceCMYK, in percent of cyan, magenta, yellow and black"
	if p.Label == "" {
		heading = sentenceCase(p.Press)
	}
	w.begin(heading, below)
	for _, c := range w.e.Colors {
		b, ok := p.build(c)
		if !ok {
			continue
		}
		w.room(patchHeight+2, heading, below)
		w.page.CMYK(b.Value)
		w.page.Rect(pageMargin, w.y, 60, patchHeight)
		w.black(w.page)
		if b.Value.C+b.Value.M+b.Value.Y+b.Value.K < 12 {
			w.page.Frame(pageMargin, w.y, 60, patchHeight, 0.1)
		}
		x := pageMargin + 64
		w.page.Text(lettering.Bold(), 10.5, x, w.y+4, c.Name, 70)
		w.page.Text(lettering.Mono(), 9, x, w.y+9, fmt.Sprintf("C %s  M %s  Y %s  K %s", short(b.Value.C, 1), short(b.Value.M, 1),
			short(b.Value.Y, 1), short(b.Value.K, 1)), 0)
		by := "derived"
		if b.Origin != library.Derived {
			by = "approved"
			if b.By.Name != "" {
				by += " by " + b.By.Name
			}
		}
		w.page.Text(lettering.Regular(), 8.5, x, w.y+13.5, by, 70)
		if p.condition != nil {
			w.page.Text(lettering.Mono(), 9, x+72, w.y+9, labWords(p.condition.Lab(b.Value)), 0)
		}
		w.y += patchHeight + 2
	}
}

func labWords(v color.Lab) string {
	return fmt.Sprintf("Lab %s %s %s", short(v.L, 1), short(v.A, 1), short(v.B, 1))
}

func (w *printing) inks(stock string) {
	heading, below := "Spot inks, "+stock, "Separations under the codes of the inks; tints in percent"
	w.begin(heading, below)
	for _, c := range w.e.Colors {
		s, ok := c.Spot(stock)
		if !ok {
			continue
		}
		w.room(patchHeight+2, heading, below)
		// What stands for the ink on a screen or a press without it: the build on the same stock.
		alternate, ok := c.Build(stock)
		if !ok {
			if p, err := press.Get("coated"); err == nil {
				alternate.Value = p.Build(c.Lab()).Whole
			}
		}
		w.Document.Spot(s.Code, alternate.Value)
		w.page.Ink(s.Code, 100)
		w.page.Rect(pageMargin, w.y, 36, patchHeight)
		for i, t := range tintsPrinted {
			x := pageMargin + 36 + float64(i)*12
			w.page.Ink(s.Code, t)
			w.page.Rect(x, w.y, 12, patchHeight-4)
			w.black(w.page)
			w.page.Text(lettering.Mono(), 7, x+1, w.y+patchHeight-0.8, short(t, 0), 0)
		}
		w.black(w.page)
		x := pageMargin + 88
		w.page.Text(lettering.Bold(), 10.5, x, w.y+4, s.Code, 70)
		w.page.Text(lettering.Regular(), 9, x, w.y+8.5, c.Name, 60)
		by := "derived, the nearest ink"
		if s.Origin != library.Derived {
			by = "approved"
		}
		if s.Book != "" {
			by = s.Book + "; " + by
		}
		w.page.Text(lettering.Regular(), 8.5, x, w.y+13, by, 60)
		if s.Lab != nil {
			w.page.Text(lettering.Mono(), 9, x+56, w.y+4, labWords(*s.Lab), 0)
		}
		w.y += patchHeight + 2
	}
}

// printLoses says what the printer's pages lack.
func printLoses(e library.Edition) []lost {
	var out []lost
	if len(stocksOf(e)) == 0 {
		out = append(out, lost{"spot inks", "No color of the set has a spot ink, so there is no page of separations"})
	}
	return append(append(out, lettersLost(e)...), namesCut(e, lettering.Bold(), 10.5, 70*inPoints)...)
}

// lettersLost says which names hold characters that no shipped typeface has.
func lettersLost(e library.Edition) []lost {
	n := 0
	for _, c := range e.Colors {
		if lettering.Bold().Missing(c.Name) {
			n++
		}
	}
	if n == 0 {
		return nil
	}
	return []lost{{"some letters", fmt.Sprintf("The names of %s hold characters that the typefaces lack; a small box stands for each",
		count(n, "color"))}}
}

// Cells of the pages for a client, in millimeters.
const (
	sheetAcross, sheetGap = 3, 6.
	sheetCell             = (pageWidth - 2*pageMargin - (sheetAcross-1)*sheetGap) / sheetAcross
)

// WriteSheetPDF writes pages for a client: large patches with names, values on the screen and in print, and rules for use.
func WriteSheetPDF(e library.Edition) ([]byte, error) {
	if len(e.Colors) == 0 {
		return nil, fmt.Errorf("the set %s holds no colors", e.Set)
	}
	d := &pdf.Document{Title: e.Title(), Author: e.House, At: e.FixedAt}
	const across, gap, cellHeight, patch = sheetAcross, sheetGap, 64., 38.
	width := sheetCell
	var p *pdf.Page
	perPage := across * 4
	for i, c := range e.Colors {
		if i%perPage == 0 {
			p = d.Page(pageWidth, pageHeight, 0)
			p.RGB(ink)
			p.Text(lettering.Bold(), 18, pageMargin, 20, e.House, 120)
			p.Text(lettering.Regular(), 11, pageMargin, 26, e.Set+editionWords(e), 120)
			if pages := (len(e.Colors) + perPage - 1) / perPage; pages > 1 {
				p.Right(lettering.Regular(), 9, pageWidth-pageMargin, 20, fmt.Sprintf("page %d of %d", i/perPage+1, pages))
			}
			if i == 0 && e.Note != "" {
				p.Text(lettering.Regular(), 9, pageMargin, pageHeight-8, e.Note, pageWidth-2*pageMargin)
			}
		}
		k := i % perPage
		x, y := pageMargin+float64(k%across)*(width+gap), 34+float64(k/across)*cellHeight
		p.RGB(c.RGB)
		p.Rect(x, y, width, patch)
		p.RGB(ink)
		if c.RGB.Luminance() > 0.9 {
			p.Frame(x, y, width, patch, 0.15)
		}
		p.Text(lettering.Bold(), 10.5, x, y+patch+5, c.Name, width)
		p.Text(lettering.Mono(), 8.5, x, y+patch+9.5, fmt.Sprintf("%s  R %d G %d B %d", c.RGB.Hex(), c.RGB.R, c.RGB.G, c.RGB.B), width)
		var printed []string
		for _, b := range c.Builds {
			printed = append(printed, fmt.Sprintf("%s %s", b.Press, b.Value))
		}
		for _, s := range c.Spots {
			printed = append(printed, s.Code+" "+s.Stock)
		}
		if len(printed) > 0 {
			p.Text(lettering.Mono(), 7.5, x, y+patch+13.5, strings.Join(printed, ", "), width)
		}
		if c.Rule != "" {
			for n, l := range wrapped(lettering.Regular(), c.Rule, 8, width) {
				if n < 2 {
					p.Text(lettering.Regular(), 8, x, y+patch+17.5+3.5*float64(n), l, width)
				}
			}
		}
	}
	return d.Bytes()
}

// WriteKeyInPDF writes a key-in card: the colors in the order of the application's boxes, each with a large patch, the values in the
// order in which one types them, and a box to tick.
func WriteKeyInPDF(e library.Edition) ([]byte, error) {
	boxes, err := InBoxes(e)
	if err != nil {
		return nil, err
	}
	d := &pdf.Document{Title: e.Title(), Author: e.House, At: e.FixedAt}
	const row, perPage = 15.2, 16
	var p *pdf.Page
	for i, b := range boxes {
		if i%perPage == 0 {
			p = d.Page(pageWidth, pageHeight, 0)
			p.RGB(ink)
			p.Text(lettering.Bold(), 16, pageMargin, 18, e.House, 110)
			p.Text(lettering.Regular(), 10.5, pageMargin, 24,
				e.Set+editionWords(e)+": type these into the boxes of the application, in this order", 150)
			for k, head := range []string{"R", "G", "B"} {
				p.Right(lettering.Bold(), 10, 112+float64(k)*20, 33, head)
			}
			p.Text(lettering.Bold(), 10, 160, 33, "hex", 0)
		}
		y := 36 + float64(i%perPage)*row
		c := b.Color.RGB
		p.RGB(ink)
		p.Frame(pageMargin, y+4, 6, 6, 0.35)
		p.Right(lettering.Mono(), 12, pageMargin+16, y+9, itoa(b.Number))
		p.RGB(c)
		p.Rect(36, y, 60, row-1.2)
		p.RGB(ink)
		if c.Luminance() > 0.9 {
			p.Frame(36, y, 60, row-1.2, 0.15)
		}
		for k, v := range []uint8{c.R, c.G, c.B} {
			p.Right(lettering.Mono(), 16, 112+float64(k)*20, y+7, itoa(int(v)))
		}
		p.Text(lettering.Mono(), 13, 160, y+7, c.Hex(), 0)
		p.Text(lettering.Regular(), 9, 100, y+12, b.Color.Name, 95)
	}
	if !e.Before(9) { // how it is done: in the house's words, then in those for everybody
		card := Packing{Name: "key-in-pdf"}
		of := card.Loading()
		var lines []string
		for _, text := range slices.Concat(card.Own(e), []string{"When it worked: " + of.Worked}, of.Else) {
			lines = append(lines, wrapped(lettering.Regular(), text, 9, pageWidth-2*pageMargin)...)
		}
		const line = 4.2
		y := 36 + float64((len(boxes)-1)%perPage+1)*row + 5
		for _, text := range lines {
			if y > pageHeight-10 {
				p, y = d.Page(pageWidth, pageHeight, 0), 18
			}
			p.RGB(ink)
			p.Text(lettering.Regular(), 9, pageMargin, y, text, pageWidth-2*pageMargin)
			y += line
		}
	}
	return d.Bytes()
}

// sheetLoses is what a sheet for looking at lacks.
func sheetLoses(e library.Edition) []lost {
	return append(lettersLost(e), namesCut(e, lettering.Bold(), 10.5, sheetCell*inPoints)...)
}

// inPoints turns millimeters into points.
const inPoints = 72 / 25.4

func keyInLoses(e library.Edition) []lost {
	return append(append(boxesLose(e), printValuesLost(e, "Key-in cards")...),
		append(lettersLost(e), namesCut(e, lettering.Regular(), 9, 95*inPoints)...)...)
}
