package swatchfile

import (
	"archive/zip"
	"bytes"
	"embed"
	"encoding/xml"
	"fmt"
	"io/fs"
	"strings"
	"text/template"
	"time"

	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/library"
)

// office holds the parts of the presentation and of the workbook behind its chart as templates, in the folders that
// they have in the ECMA-376 package.
//
//go:embed all:office
var office embed.FS

type tile struct {
	ID                int
	Name, Hex         string
	Digits, Slot, Ink string
	X, Y, W, H, Size  int
	Edge              bool // it could not be told from the ground without one
}

type themeColor struct{ Name, Digits string }

type series struct {
	Index, Number int
	Column, Name  string
	Values        []int
}

type row struct {
	Bold       int
	Text, Fill string
	Cells      []string
}

type cell struct {
	Text   string
	Number bool
}

type deck struct {
	Title, Scheme, House, Set, Date string
	Number                          int
	Slots, Colors                   []themeColor
	Tiles                           []tile
	Series                          []series
	Rows                            []row
	TableHeight                     int
	Sheet                           [][]cell
}

// WriteOfficeTheme writes an edition as a presentation whose theme carries it: the twelve slots of ThemeSlots, every
// color of the set as a named custom color, and four slides that use the slots (cover, swatches, chart, table).
func WriteOfficeTheme(e library.Edition) ([]byte, error) {
	if len(e.Colors) == 0 {
		return nil, fmt.Errorf("the set %s holds no colors", e.Set)
	}
	at := e.FixedAt
	if at.IsZero() {
		at = time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC) // a file of the same colors is the same file
	}
	d := deck{
		Title: e.Title(), House: e.House, Set: e.Set, Number: e.Number, Date: stamp(at),
		Scheme: strings.TrimPrefix(e.Title(), e.House+", "),
	}
	slots := ThemeSlots(e.Colors)
	slotOf := map[string]string{}
	for _, s := range slots {
		d.Slots = append(d.Slots, themeColor{s.Name, digits(s.Color)})
		if _, ok := slotOf[s.Color.Name]; !ok {
			slotOf[s.Color.Name] = mapped(s.Name)
		}
	}
	for _, c := range e.Colors {
		d.Colors = append(d.Colors, themeColor{c.Name, digits(c)})
	}
	d.tiles(e.Colors, slots, slotOf)
	d.figures(slots)
	d.table(slots)

	book, err := pack("office/book", d, nil, at)
	if err != nil {
		return nil, err
	}
	return pack("office/deck", d, map[string][]byte{"ppt/embeddings/figures.xlsx": book}, at)
}

func officeThemeLoses(e library.Edition) []lost {
	var out []lost
	slots := ThemeSlots(e.Colors)
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
		out = append(out, lost{"slots for all colors", fmt.Sprintf("A theme has twelve slots; %s of this set stand beside them as named custom colors", count(left, "color"))})
	}
	return append(out, printValuesLost(e, "Office themes")...)
}

func digits(c library.Color) string { return c.RGB.Hex()[1:] }

// mapped is the name that slides use for a slot; the master maps text and ground to it.
func mapped(slot string) string {
	switch slot {
	case "dk1":
		return "tx1"
	case "lt1":
		return "bg1"
	case "dk2":
		return "tx2"
	case "lt2":
		return "bg2"
	}
	return slot
}

// tiles lays the set out in a grid that fills the slide below its title.
func (d *deck) tiles(colors []library.Color, slots [12]Slot, slotOf map[string]string) {
	const left, top, width, height = 609600, 1524000, 10972800, 4724400
	columns := 4
	for columns*((columns+1)/2) < len(colors) {
		columns++
	}
	rows := (len(colors) + columns - 1) / columns
	w, h := width/columns, height/max(rows, 2)
	for i, c := range colors {
		ink := "tx1"
		if contrast.Ratio(c.RGB, slots[1].Color.RGB) > contrast.Ratio(c.RGB, slots[0].Color.RGB) {
			ink = "bg1"
		}
		d.Tiles = append(d.Tiles, tile{
			ID: i + 3, Name: c.Name, Hex: c.RGB.Hex(), Digits: digits(c), Slot: slotOf[c.Name], Ink: ink,
			X: left + i%columns*w, Y: top + i/columns*h, W: w, H: h, Size: max(400, min(1600, 6400/columns)),
			Edge: color.DeltaE00(c.RGB.Lab(), slots[1].Color.RGB.Lab()) < apart,
		})
	}
}

func (d *deck) figures(slots [12]Slot) {
	head := []cell{{Text: "Season"}}
	body := [][]cell{{{Text: "Spring"}}, {{Text: "Summer"}}, {{Text: "Autumn"}}, {{Text: "Winter"}}}
	for i := range 6 {
		s := series{Index: i, Number: i + 1, Column: string(rune('B' + i)), Name: "Accent " + itoa(i+1) + ", " + slots[4+i].Color.Name}
		head = append(head, cell{Text: s.Name})
		for k := range 4 {
			v := 20 + (i*7+k*11)%23 + 3*k*(3-k)
			s.Values = append(s.Values, v)
			body[k] = append(body[k], cell{itoa(v), true})
		}
		d.Series = append(d.Series, s)
	}
	d.Sheet = append([][]cell{head}, body...)
}

func (d *deck) table(slots [12]Slot) {
	d.Rows = append(d.Rows, row{1, "bg1", "tx2", []string{"Slot", "Color", "Value"}})
	for i, s := range slots {
		fill := "bg1"
		if i%2 == 1 && contrast.Ratio(slots[3].Color.RGB, slots[0].Color.RGB) >= 4.5 {
			fill = "bg2"
		}
		d.Rows = append(d.Rows, row{0, "tx1", fill, []string{s.Name, s.Color.Name, s.Color.RGB.Hex()}})
	}
	d.TableHeight = len(d.Rows) * 342900
}

// pack fills the templates below a folder with data and zips them, with more parts beside.
func pack(folder string, data deck, more map[string][]byte, at time.Time) ([]byte, error) {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	add := func(name string, content []byte) error {
		w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: at.UTC()})
		if err == nil {
			_, err = w.Write(content)
		}
		return err
	}
	parts := []string{}
	err := fs.WalkDir(office, folder, func(path string, e fs.DirEntry, err error) error {
		if err == nil && !e.IsDir() {
			name := strings.TrimPrefix(path, folder+"/")
			if name == "[Content_Types].xml" { // readers of a stream want it first
				parts = append([]string{name}, parts...)
			} else {
				parts = append(parts, name)
			}
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	for _, name := range parts {
		text, err := office.ReadFile(folder + "/" + name)
		if err != nil {
			return nil, err
		}
		t, err := template.New(name).Funcs(template.FuncMap{"x": escape}).Parse(string(text))
		if err != nil {
			return nil, err
		}
		var b bytes.Buffer
		if err := t.Execute(&b, data); err != nil {
			return nil, err
		}
		if err := add(name, b.Bytes()); err != nil {
			return nil, err
		}
	}
	for name, content := range more {
		if err := add(name, content); err != nil {
			return nil, err
		}
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// escape makes a text that came from a person safe for XML.
func escape(s string) string {
	var b strings.Builder
	_ = xml.EscapeText(&b, []byte(s)) // a strings.Builder takes every write
	return b.String()
}
