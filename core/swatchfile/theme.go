package swatchfile

import (
	"archive/zip"
	"bytes"
	"embed"
	"fmt"
	"io/fs"
	"slices"
	"strings"
	"sync"
	"text/template"
	"time"

	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/library"
)

// office holds the parts of the office files as templates, in the folders that they have in their ECMA-376 package: deck, book and
// document, what they share, and the workbook of figures behind a chart.
//
//go:embed all:office
var office embed.FS

// family is a kind of office file.
type family struct {
	folder, root string // of the templates; of the package's parts
	main, model  string // media types of the main part, of a file and of a template of its own
	chart        bool   // its chart has a workbook of its own
}

const ecma = "application/vnd.openxmlformats-officedocument."

var (
	decks     = family{"office/deck", "ppt", ecma + "presentationml.presentation.main+xml", ecma + "presentationml.template.main+xml", true}
	books     = family{"office/book", "xl", ecma + "spreadsheetml.sheet.main+xml", ecma + "spreadsheetml.template.main+xml", false}
	documents = family{"office/document", "word", ecma + "wordprocessingml.document.main+xml", ecma + "wordprocessingml.template.main+xml",
		true}
)

// pages is what the templates are filled with.
type pages struct {
	Main                      string // media type of the main part
	Linked                    bool   // the chart has a workbook of its own
	Title, Scheme, House, Set string
	Entry, Colored            string // what an application lists: the theme, and its color scheme
	Titled                    bool   // the title stands beside what is listed
	Date                      string
	Number                    int
	Slots, Colors             []themeColor
	Tiles                     []tile
	Series                    []series
	Rows                      [][]string
	TableHeight               int
	Sheet                     [][]cell
	ColorHead                 []string
	Cells                     []swatchCell
	Fills                     []string // of cells, as attributes and content
	Accents                   []accentStyle
	Own                       []int // fills of colors without a slot
	BandSlide                 string
	BandTheme                 int
	BandDigits, BandWord      string
	slots                     [12]Slot
	place                     map[string]int // of a color's name among the slots
}

type themeColor struct{ Name, Digits string }

type tile struct {
	ID                int
	Name, Hex         string
	Digits, Slot, Ink string
	X, Y, W, H, Size  int
	Edge              bool // it could not be told from the ground without one
}

type series struct {
	Index, Number int
	Column, Name  string
	Digits        string
	Values        []int
}

type cell struct {
	Text   string
	Number bool
}

type swatchCell struct {
	Name, Hex, Digits string
	RGB               color.RGB8
	Slot, Word        string // the slot's name, and what a document calls it
	Style             int    // of the cell in a workbook
	ID, Label, Ink    string // of its style in an open document: name, what people see of it, the value of text on it
	X, Y, W, H, Size  string // on a slide of an open document, in centimeters and points
}

type accentStyle struct{ Font, Fill, Builtin int }

// WriteDeck writes an edition as a presentation whose theme carries it: the twelve slots of ThemeSlots, every
// color of the set as a named custom color, and four slides that use the slots (cover, swatches, chart, table).
func WriteDeck(e library.Edition) ([]byte, error) {
	if e.Before(4) {
		return writeEarlyDeck(e)
	}
	return decks.write(e, false)
}

// WriteDeckTemplate writes the presentation as a template.
func WriteDeckTemplate(e library.Edition) ([]byte, error) { return decks.write(e, true) }

// WriteBook writes an edition as a workbook with the theme: cell styles and a table style that use the slots, figures with a chart,
// and a sheet of the colors.
func WriteBook(e library.Edition) ([]byte, error) { return books.write(e, false) }

// WriteBookTemplate writes the workbook as a template.
func WriteBookTemplate(e library.Edition) ([]byte, error) { return books.write(e, true) }

// WriteDocument writes an edition as a document with the theme: headings, links, quotations, notices and a table style that use the
// slots, and a page that shows them.
func WriteDocument(e library.Edition) ([]byte, error) { return documents.write(e, false) }

// WriteDocumentTemplate writes the document as a template.
func WriteDocumentTemplate(e library.Edition) ([]byte, error) { return documents.write(e, true) }

// WriteThemePart writes the theme's own part alone, for applications that load colors from one.
func WriteThemePart(e library.Edition) ([]byte, error) {
	p, err := fill(e)
	if err != nil {
		return nil, err
	}
	return render("office/shared/theme1.xml", p)
}

func (f family) write(e library.Edition, model bool) ([]byte, error) {
	p, err := fill(e)
	if err != nil {
		return nil, err
	}
	more := map[string]string{"docProps/core.xml": "core.xml", "docProps/app.xml": "app.xml", "docProps/custom.xml": "custom.xml",
		f.root + "/theme/theme1.xml": "theme1.xml", f.root + "/charts/chart1.xml": "chart1.xml"}
	figures, err := pack("office/figures", p, nil, nil, timeOf(e))
	if err != nil {
		return nil, err
	}
	p.Main = f.main
	if model {
		p.Main = f.model
	}
	if !f.chart && !e.Before(5) { // some programs refuse a workbook in a workbook; what the chart shows is on a sheet of the book
		return pack(f.folder, p, more, map[string][]byte{f.root + "/charts/_rels/chart1.xml.rels": nil}, timeOf(e))
	}
	p.Linked = true
	return pack(f.folder, p, more, map[string][]byte{f.root + "/embeddings/figures.xlsx": figures}, timeOf(e))
}

// timeOf is when files say that they were made: when the edition was fixed, so that the same edition is the same file.
func timeOf(e library.Edition) time.Time {
	if e.FixedAt.IsZero() {
		return time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC)
	}
	return e.FixedAt
}

func fill(e library.Edition) (*pages, error) { return fillWith(e, ThemeSlots(e.Colors, e.Slots...)) }

func fillWith(e library.Edition, slots [12]Slot) (*pages, error) {
	if len(e.Colors) == 0 {
		return nil, fmt.Errorf("the set %s holds no colors", e.Set)
	}
	p := &pages{
		Title: e.Title(), Entry: e.Entry(), Titled: !e.Before(9), House: e.House, Set: e.Set, Number: e.Number, Date: stamp(timeOf(e)),
		Scheme: strings.TrimPrefix(e.Title(), e.House+", "), ColorHead: []string{"", "Color", "Value", "R", "G", "B", "Slot"},
		slots: slots, place: map[string]int{},
	}
	if p.Colored = p.Entry; e.Before(9) {
		p.Colored = p.Scheme
	}
	for i, s := range p.slots {
		p.Slots = append(p.Slots, themeColor{s.Name, digits(s.Color)})
		if _, ok := p.place[s.Color.Name]; !ok {
			p.place[s.Color.Name] = i
		}
	}
	p.BandSlide, p.BandTheme, p.BandWord, p.BandDigits = "bg1", 0, "background1", digits(p.slots[ground1].Color)
	if contrast.Ratio(p.slots[ground2].Color.RGB, p.slots[text1].Color.RGB) >= contrast.TextAA {
		p.BandSlide, p.BandTheme, p.BandWord, p.BandDigits = "bg2", 2, "background2", digits(p.slots[ground2].Color)
	}
	for _, c := range e.Colors {
		p.Colors = append(p.Colors, themeColor{c.Name, digits(c)})
	}
	p.tiles(e.Colors)
	p.figures()
	p.table()
	p.cells(e.Colors)
	return p, nil
}

func themeLoses(e library.Edition) []lost {
	var out []lost
	slots := ThemeSlots(e.Colors, e.Slots...)
	in := map[string]bool{}
	for _, s := range slots {
		in[s.Color.Name] = true
	}
	left := 0
	for _, c := range e.Colors {
		if !in[c.Name] {
			left++
		}
	}
	if left > 0 {
		out = append(out, lost{"slots for all colors",
			fmt.Sprintf("A theme has twelve slots; %s of this set stand beside them as named custom colors", count(left, "color"))})
	}
	return append(out, printValuesLost(e, "Office themes")...)
}

func digits(c library.Color) string { return c.RGB.Hex()[1:] }

// The names of the slots elsewhere than in the theme: on slides, whose master maps text and ground, in documents, and as numbers in
// workbooks.
var (
	slideSlots = [12]string{"tx1", "bg1", "tx2", "bg2", "accent1", "accent2", "accent3", "accent4", "accent5", "accent6", "hlink",
		"folHlink"}
	documentSlots = [12]string{"text1", "background1", "text2", "background2", "accent1", "accent2", "accent3", "accent4", "accent5",
		"accent6", "hyperlink", "followedHyperlink"}
	bookSlots = [12]int{1, 0, 3, 2, 4, 5, 6, 7, 8, 9, 10, 11}
)

// tiles lays the set out in a grid that fills the slide below its title.
func (p *pages) tiles(colors []library.Color) {
	const left, top, width, height = 609600, 1524000, 10972800, 4724400
	columns := 4
	for columns*((columns+1)/2) < len(colors) {
		columns++
	}
	rows := (len(colors) + columns - 1) / columns
	w, h := width/columns, height/max(rows, 2)
	for i, c := range colors {
		ink := "tx1"
		if contrast.Ratio(c.RGB, p.slots[ground1].Color.RGB) > contrast.Ratio(c.RGB, p.slots[text1].Color.RGB) {
			ink = "bg1"
		}
		t := tile{
			ID: i + 3, Name: c.Name, Hex: c.RGB.Hex(), Digits: digits(c), Ink: ink,
			X: left + i%columns*w, Y: top + i/columns*h, W: w, H: h, Size: max(400, min(1600, 6400/columns)),
			Edge: color.DeltaE00(c.RGB.Lab(), p.slots[ground1].Color.RGB.Lab()) < apart,
		}
		if at, ok := p.place[c.Name]; ok {
			t.Slot = slideSlots[at]
		}
		p.Tiles = append(p.Tiles, t)
	}
}

func (p *pages) figures() {
	head := []cell{{Text: "Season"}}
	body := [][]cell{{{Text: "Spring"}}, {{Text: "Summer"}}, {{Text: "Autumn"}}, {{Text: "Winter"}}}
	for i := range 6 {
		s := series{Index: i, Number: i + 1, Column: string(rune('B' + i)), Name: "Accent " + itoa(i+1) + ", " +
			p.slots[firstAccent+i].Color.Name}
		head = append(head, cell{Text: s.Name})
		for k := range 4 {
			v := 20 + (i*7+k*11)%23 + 3*k*(3-k)
			s.Values = append(s.Values, v)
			body[k] = append(body[k], cell{itoa(v), true})
		}
		p.Series = append(p.Series, s)
	}
	p.Sheet = append([][]cell{head}, body...)
}

func (p *pages) table() {
	p.Rows = append(p.Rows, []string{"Slot", "Color", "Value"})
	for _, s := range p.slots {
		p.Rows = append(p.Rows, []string{s.Name, s.Color.Name, s.Color.RGB.Hex()})
	}
	p.TableHeight = len(p.Rows) * 342900
}

// cells lists the colors for a sheet or a page, and the fills and styles of a workbook's cells.
func (p *pages) cells(colors []library.Color) {
	theme := func(n int) string { return fmt.Sprintf(`patternType="solid"><fgColor theme="%d"/>`, n) }
	p.Fills = []string{`patternType="none">`, `patternType="gray125">`, theme(3)} // the first two are the format's own
	for i := range 6 {
		font := 0
		accent := p.slots[firstAccent+i].Color.RGB
		if contrast.Ratio(accent, p.slots[ground1].Color.RGB) > contrast.Ratio(accent, p.slots[text1].Color.RGB) {
			font = 5
		}
		p.Accents = append(p.Accents, accentStyle{font, len(p.Fills), 29 + 4*i})
		p.Fills = append(p.Fills, theme(4+i))
	}
	const ownStyles = 11 // behind those that have a name
	for _, c := range colors {
		s := swatchCell{Name: c.Name, Hex: c.RGB.Hex(), Digits: digits(c), RGB: c.RGB, Style: ownStyles + len(p.Own)}
		p.Own = append(p.Own, len(p.Fills))
		if at, ok := p.place[c.Name]; ok {
			s.Slot, s.Word = library.SlotNames[at], documentSlots[at]
			p.Fills = append(p.Fills, theme(bookSlots[at]))
		} else {
			p.Fills = append(p.Fills, fmt.Sprintf(`patternType="solid"><fgColor rgb="FF%s"/>`, s.Digits))
		}
		p.Cells = append(p.Cells, s)
	}
}

// pack fills the templates below a folder with data and zips them, with templates that are shared and parts that are ready beside.
func pack(folder string, data *pages, shared map[string]string, ready map[string][]byte, at time.Time) ([]byte, error) {
	parts, err := partsBelow(folder)
	if err != nil {
		return nil, err
	}
	for name, file := range shared {
		parts[name] = "office/shared/" + file
	}
	for name, content := range ready {
		if content == nil { // it is left out
			delete(parts, name)
			delete(ready, name)
		}
	}
	names := []string{}
	for name := range parts {
		names = append(names, name)
	}
	for name := range ready {
		names = append(names, name)
	}
	slices.SortFunc(names, func(a, b string) int { // readers of a stream want the types first
		const first = "[Content_Types].xml"
		if (a == first) != (b == first) {
			if a == first {
				return -1
			}
			return 1
		}
		return strings.Compare(a, b)
	})
	return zipped(names, parts, data, ready, at)
}

// partsBelow are the parts of a package, to their templates.
func partsBelow(folder string) (map[string]string, error) {
	parts := map[string]string{}
	err := fs.WalkDir(office, folder, func(path string, e fs.DirEntry, err error) error {
		if err == nil && !e.IsDir() {
			parts[strings.TrimPrefix(path, folder+"/")] = path
		}
		return err
	})
	return parts, err
}

// zipped writes parts in this order, each one that is ready or its template filled with data.
func zipped(names []string, parts map[string]string, data any, ready map[string][]byte, at time.Time) ([]byte, error) {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, name := range names {
		content, ok := ready[name]
		if !ok {
			var err error
			if content, err = render(parts[name], data); err != nil {
				return nil, err
			}
		}
		if err := entry(z, name, content, at); err != nil {
			return nil, err
		}
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// entry adds a file to an archive.
func entry(z *zip.Writer, name string, content []byte, at time.Time) error {
	w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: at.UTC()})
	if err == nil {
		_, err = w.Write(content)
	}
	return err
}

// templates are parsed once.
var templates sync.Map

func render(file string, data any) ([]byte, error) {
	t, ok := templates.Load(file)
	if !ok {
		text, err := office.ReadFile(file)
		if err != nil {
			return nil, err
		}
		t, err = template.New(file).Funcs(template.FuncMap{"x": escaped, "add": func(a, b int) int { return a + b },
			"even": func(n int) bool { return n%2 == 0 }}).Parse(string(text))
		if err != nil {
			return nil, err
		}
		templates.Store(file, t)
	}
	var b bytes.Buffer
	err := t.(*template.Template).Execute(&b, data)
	return b.Bytes(), err
}
