package office

import (
	"fmt"
	"maps"
	"math"
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/markup"
	"huekeep/core/opc"
	"huekeep/core/source"
)

// ScanWorkbook reads a SpreadsheetML workbook (ECMA-376 part 1, 18): the colors of its formats by the cells that have them, sheet by sheet,
// with conditional formats, tabs, tables, charts and drawings.
func ScanWorkbook(s *scanning.Scanner, p *source.Part, _ string) (string, error) {
	o, main, err := openOffice(s, p)
	if err != nil {
		return "", err
	}
	if !strings.HasPrefix(main, "xl/") && !strings.Contains(path.Base(main), "workbook") {
		return "", fmt.Errorf("it is an office document but not a workbook")
	}
	if strings.HasSuffix(main, ".bin") {
		return "", fmt.Errorf("it is a workbook in the binary form, which is not read; save it as .xlsx")
	}
	b := &book{office: o}
	scope := opc.NewScope(opc.Theme{}, nil)
	if target, ok := o.pack.First(main, "theme"); ok {
		if err := o.theme(target); err != nil {
			return "", err
		}
		t, _ := o.pack.Theme(target)
		scope = opc.NewScope(t, nil)
	}
	o.spare, b.scope = scope, scope
	if target, ok := o.pack.First(main, "styles"); ok {
		if err := b.styles(target); err != nil {
			return "", err
		}
	}
	type sheetRef struct{ name, part string }
	var sheets []sheetRef
	part, _ := o.pack.Part(main)
	err = opc.Each(part, func(r *markup.Reader) error {
		if string(markup.Local(r.Name)) != "sheet" {
			return nil
		}
		id := ""
		for _, a := range r.Attrs {
			if strings.HasSuffix(string(a.Name), ":id") {
				id = r.Value(a)
			}
		}
		if rel, ok := o.pack.ByID(main, id); ok {
			sheets = append(sheets, sheetRef{r.Get("name"), rel.Target})
		}
		return nil
	})
	if err != nil {
		return "", err
	}
	for i, sh := range sheets {
		if err := s.Watch.At(fmt.Sprintf("sheet %d of %d", i+1, len(sheets)), float64(i)/float64(len(sheets))); err != nil {
			return "", err
		}
		if err := b.sheet(sh.part, "sheet "+sh.name); err != nil {
			return "", err
		}
	}
	if target, ok := o.pack.First(main, "sharedStrings"); ok {
		if err := b.plain(target, "text with several formats"); err != nil {
			return "", err
		}
	}
	b.named()
	if err := o.finish(); err != nil {
		return "", err
	}
	return audit.Plural(len(sheets), "sheet") + ", " + audit.Plural(b.cells, "cell"), nil
}

// book is a workbook while it is read.
type book struct {
	*office
	scope   opc.Scope
	part    *source.Part // of the styles
	fonts   [][]tint
	fills   [][]tint
	borders [][]tint
	dxfs    [][]tint
	xfs     []xf
	styleXf []xf
	styleOf []namedStyle
	tables  []tableStyle
	palette map[int]tint
	cells   int
	usedXf  map[int]bool
	usedDxf map[int]bool
}

// tint is a color of a format with the bytes that say it.
type tint struct {
	use  audit.Use
	role string
}

type xf struct{ font, fill, border int }

type namedStyle struct {
	name string
	xf   int
}

type tableStyle struct {
	name, element string
	dxf           int
}

// themeOrder is which slot a theme color of a workbook means (18.8.3 and 20.1.6.2: the first two pairs are swapped).
var themeOrder = []string{"lt1", "dk1", "lt2", "dk2", "accent1", "accent2", "accent3", "accent4", "accent5", "accent6", "hlink", "folHlink"}

// color reads an element that is a color (18.3.1.15); ok is false for one that shows none.
func (b *book) color(r *markup.Reader, part *source.Part) (u audit.Use, ok bool) {
	u = audit.Use{At: []source.Span{{Part: part, Start: r.Start, End: r.End}}, Form: sheetForm{b.scope}}
	value, theme, indexed := r.Get("rgb"), r.Get("theme"), r.Get("indexed")
	var rgb color.RGB8
	switch {
	case theme != "":
		if rgb = b.themed(&u, theme); u.Why != "" {
			return u, true
		}
	case value != "":
		c, _, err := form.ReadHex(value, "ARGB") // what stands for alpha is not used
		if err != nil {
			u.Value, u.Why = value, "it is not a color of the standard"
			return u, true
		}
		u.Value, rgb = value, c
	case indexed != "":
		n, err := strconv.Atoi(indexed)
		if own, given := b.palette[n]; err == nil && given {
			u.Value, u.Link, u.Color = "palette "+indexed, own.use.Define, own.use.Color
			return u, true
		}
		if n == 64 || n == 65 || n == 80 || n == 81 {
			return u, false // the system's own, for text and its ground, in cells and in notes
		}
		if err != nil || n < 0 || n >= len(indexedColors)/6 {
			u.Value, u.Why = "palette "+indexed, "the palette has no such color"
			return u, true
		}
		u.Value = "palette " + indexed
		rgb, _ = color.FromHex(indexedColors[6*n : 6*n+6])
	default:
		return u, false // automatic
	}
	t, err := strconv.ParseFloat(r.Get("tint"), 64)
	if err != nil {
		t = 0
	}
	tinted(&u, rgb, t)
	return u, true
}

// themed links a use to a color of the theme by its number, or says why it cannot.
func (b *book) themed(u *audit.Use, index string) (c color.RGB8) {
	n, err := strconv.Atoi(index)
	if err != nil || n < 0 || n >= len(themeOrder) {
		u.Value, u.Why = "theme "+index, "the theme has no such color"
		return c
	}
	u.Value, u.Link = themeOrder[n], b.scope.Key(themeOrder[n])
	c, known := b.scope.Slots[themeOrder[n]]
	if !known {
		u.Why = "the workbook has no theme"
	}
	return c
}

// tinted gives a use a color that is made lighter, or darker under 0 (18.3.1.15).
func tinted(u *audit.Use, rgb color.RGB8, t float64) {
	if t != 0 && math.Abs(t) <= 1 {
		hsl := rgb.RGB().HSL()
		if t < 0 {
			hsl.L *= 1 + t
		} else {
			hsl.L = hsl.L*(1-t) + t
		}
		rgb = hsl.RGB().RGB8()
		u.Value += fmt.Sprintf(" tint %g%%", math.Round(t*1000)/10)
	}
	u.Color = audit.Screen(rgb)
}

// inHeader finds the codes of a header or footer (18.3.1.46): K is followed by six digits, or by a color of the theme and its tint in
// percent; two marks are the character itself.
var inHeader = regexp.MustCompile(`&(?:amp;|#38;|#x26;)?(?:&(?:amp;|#38;|#x26;)?|K(?:([0-9A-Fa-f]{6})|([0-9]{2})([+-][0-9]{3})))`)

// header reads the colors of a text of a header or footer.
func (b *book) header(text []byte, at source.Span, where string) {
	for _, m := range inHeader.FindAllSubmatchIndex(text, -1) {
		u := audit.Use{Where: where}
		switch {
		case m[2] >= 0:
			u.Value = string(text[m[2]:m[3]])
			rgb, err := color.FromHex(u.Value)
			if err != nil {
				continue
			}
			u.Color, u.Form = audit.Screen(rgb), form.Hex("RGB")
			u.At = []source.Span{{Part: at.Part, Start: at.Start + m[2], End: at.Start + m[3]}}
		case m[4] >= 0:
			u.At = []source.Span{{Part: at.Part, Start: at.Start + m[4], End: at.Start + m[7]}}
			rgb := b.themed(&u, string(text[m[4]:m[5]]))
			if u.Why != "" {
				break
			}
			percent, err := strconv.Atoi(string(text[m[6]:m[7]]))
			if err != nil {
				continue
			}
			tinted(&u, rgb, float64(percent)/100)
			u.Form = form.Func(func(_ string, to form.Paint) (string, error) { return strings.TrimPrefix(to.RGB.Hex(), "#"), nil })
		default:
			continue
		}
		b.Add(&u)
	}
}

// indexedColors is the palette that workbooks have without one of their own (18.8.27).
const indexedColors = "000000FFFFFFFF000000FF000000FFFFFF00FF00FF00FFFF" + "000000FFFFFFFF000000FF000000FFFFFF00FF00FF00FFFF" +
	"800000008000000080808000800080008080C0C0C0808080" + "9999FF993366FFFFCCCCFFFF660066FF80800066CCCCCCFF" +
	"000080FF00FFFFFF0000FFFF8000808000000080800000FF" + "00CCFFCCFFFFCCFFCCFFFF9999CCFFFF99CCCC99FFFFCC99" +
	"3366FF33CCCC99CC00FFCC00FF9900FF6600666699969696" + "003366339966003300333300993300993366333399333333"

func isColorElement(local string) bool {
	switch local {
	case "color", "fgColor", "bgColor", "tabColor", "rgbColor":
		return true
	case "fillColor", "borderColor", "negativeFillColor", "negativeBorderColor", "axisColor", "colorSeries", "colorNegative", "colorAxis",
		"colorMarkers", "colorFirst", "colorLast", "colorHigh", "colorLow":
		return true
	}
	return false
}

// styles reads the formats.
func (b *book) styles(part string) error {
	p, err := b.pack.Part(part)
	if err != nil {
		return err
	}
	b.part, b.palette, b.usedXf, b.usedDxf = p, map[int]tint{}, map[int]bool{}, map[int]bool{}
	if err := b.colorsOfPalette(p); err != nil {
		return err
	}
	err = scanning.Walk(b.Scanner, p, (&styleReader{book: b}).event)
	p.Release()
	return b.finishPart(err, p, "styles")
}

// colorsOfPalette reads the palette, which stands behind the formats that use it.
func (b *book) colorsOfPalette(p *source.Part) error {
	index := 0
	return opc.Each(p, func(r *markup.Reader) error {
		if string(markup.Local(r.Name)) == "rgbColor" {
			if u, ok := b.color(r, p); ok && u.Why == "" {
				u.Define = "palette#" + strconv.Itoa(index)
				u.Form = sheetForm{}
				u.Where = "palette, color " + strconv.Itoa(index+1)
				u.Hidden = true
				b.palette[index] = tint{use: u}
				b.Add(&u)
			}
			index++
		}
		return nil
	})
}

// styleReader reads the formats of a workbook from its events.
type styleReader struct {
	*book
	stack         []string // the elements that one is in
	pattern, side string   // of the fill and of the edge that is read
	list          *[][]tint
}

func (s *styleReader) event(r *markup.Reader, e markup.Event) error {
	switch e {
	case markup.Close:
		s.stack = s.stack[:max(0, len(s.stack)-1)]
		return nil
	case markup.Text, markup.Doctype:
		return nil
	}
	local := string(markup.Local(r.Name))
	parent := ""
	if n := len(s.stack); n > 0 {
		parent = s.stack[n-1]
	}
	s.stack = append(s.stack, local)
	switch local {
	case "font", "fill", "border":
		switch {
		case parent == "fonts":
			s.list = &s.fonts
		case parent == "fills":
			s.list = &s.fills
		case parent == "borders":
			s.list = &s.borders
		}
		if parent == local+"s" {
			*s.list = append(*s.list, nil)
		}
		s.side = ""
	case "dxf":
		s.list = &s.dxfs
		*s.list = append(*s.list, nil)
	case "patternFill":
		s.pattern = r.Get("patternType")
	case "left", "right", "top", "bottom", "start", "end", "diagonal", "vertical", "horizontal":
		s.side = r.Get("style")
	case "xf":
		x := xf{number(r.Get("fontId")), number(r.Get("fillId")), number(r.Get("borderId"))}
		switch parent {
		case "cellXfs":
			s.xfs = append(s.xfs, x)
		case "cellStyleXfs":
			s.styleXf = append(s.styleXf, x)
		}
	case "cellStyle":
		s.styleOf = append(s.styleOf, namedStyle{scanning.Shorten(r.Get("name"), 60), number(r.Get("xfId"))})
	case "tableStyleElement":
		if n := len(s.tables); n > 0 {
			s.tables = append(s.tables, tableStyle{s.tables[n-1].name, r.Get("type"), number(r.Get("dxfId"))})
		}
	case "tableStyle":
		s.tables = append(s.tables, tableStyle{name: scanning.Shorten(r.Get("name"), 60), dxf: -1})
	case "numFmt":
		s.numberFormat(r)
	case "color", "fgColor", "bgColor":
		if s.list == nil || len(*s.list) == 0 {
			return nil
		}
		u, ok := s.color(r, s.part)
		if !ok {
			return nil
		}
		role, ok := s.role(local, &u)
		if !ok {
			return nil
		}
		last := len(*s.list) - 1
		(*s.list)[last] = append((*s.list)[last], tint{u, role})
	}
	return nil
}

// role is what a color of a format is for; false of one that does not show.
func (s *styleReader) role(local string, u *audit.Use) (role string, ok bool) {
	inDxf := slices.Contains(s.stack, "dxf")
	switch {
	case slices.Contains(s.stack, "font"):
		role = "font"
	case slices.Contains(s.stack, "border"):
		if s.side == "" || s.side == "none" {
			return "", false
		}
		role = "border"
	case slices.Contains(s.stack, "gradientFill"):
		role = "fill, gradient"
	case local == "fgColor" && s.pattern == "none", local == "bgColor" && s.pattern == "none":
		return "", false
	case local == "fgColor":
		role = "fill"
		if inDxf && (s.pattern == "" || s.pattern == "solid") { // a solid one of these is its background
			role = "fill pattern"
		}
	case local == "bgColor":
		role = "fill pattern"
		if s.pattern == "solid" && !inDxf {
			u.Hidden = true // it does not show
		}
		if inDxf && (s.pattern == "" || s.pattern == "solid") {
			role = "fill"
		}
	}
	return role, true
}

func number(s string) int {
	n, err := strconv.Atoi(s)
	if err != nil {
		return 0
	}
	return n
}

var formatColor = regexp.MustCompile(`(?i)\[(Black|Blue|Cyan|Green|Magenta|Red|White|Yellow|Color ?(\d+))\]`)

// numberFormat reports the colors that a number format gives (18.8.31): eight by name, and those of the palette.
func (b *book) numberFormat(r *markup.Reader) {
	code := r.Get("formatCode")
	for _, m := range formatColor.FindAllStringSubmatch(code, -1) {
		u := audit.Use{Value: m[0], Where: "number format " + scanning.Shorten(code, 60),
			Fixed: "a number format has colors of its own, which are no others"}
		if m[2] != "" {
			n := number(m[2]) + 7
			if n < 8 || 6*n+6 > len(indexedColors) {
				continue
			}
			rgb, _ := color.FromHex(indexedColors[6*n : 6*n+6])
			u.Color = audit.Screen(rgb)
		} else if name := strings.ToLower(m[1]); name == "green" {
			u.Color = audit.Screen(color.RGB8{G: 255})
		} else if c, ok := color.Named(name); ok {
			u.Color = audit.Screen(c)
		}
		b.Add(&u)
	}
}

// cellRange is a rectangle of cells.
type cellRange struct{ row, col, lastRow, lastCol int }

func (c cellRange) String() string {
	from := columnName(c.col) + strconv.Itoa(c.row)
	if c.row == c.lastRow && c.col == c.lastCol {
		return from
	}
	return from + ":" + columnName(c.lastCol) + strconv.Itoa(c.lastRow)
}

func columnName(n int) string {
	var b []byte
	for ; n > 0; n = (n - 1) / 26 {
		b = append(b, byte('A'+(n-1)%26))
	}
	slices.Reverse(b)
	return string(b)
}

// cellAt reads "B3"; the row is 0 where there is none.
func cellAt(s []byte) (row, col int) {
	for i, c := range s {
		switch {
		case c >= 'A' && c <= 'Z' && i < 4:
			col = col*26 + int(c-'A') + 1
		case c >= '0' && c <= '9' && i < 12:
			row = row*10 + int(c-'0')
		default:
			return 0, 0
		}
	}
	return row, col
}

// cellsOf are the cells of a sheet that have a format.
type cellsOf struct {
	ranges []cellRange
	open   map[[2]int]int // the range that a run of columns of the row before belongs to
	count  int
	more   bool
}

// mostRanges is how many ranges of one format are named at the most in a sheet.
const mostRanges = 5000

func (c *cellsOf) run(row, from, to int) {
	c.count += to - from + 1
	if c.open == nil {
		c.open = map[[2]int]int{}
	}
	if i, ok := c.open[[2]int{from, to}]; ok && c.ranges[i].lastRow == row-1 {
		c.ranges[i].lastRow = row
		return
	}
	if len(c.ranges) >= mostRanges {
		c.more = true
		return
	}
	c.open[[2]int{from, to}] = len(c.ranges)
	c.ranges = append(c.ranges, cellRange{row, from, row, to})
}

// words names the ranges, the first few.
func (c *cellsOf) words() string {
	const some = 6
	var parts []string
	for _, r := range c.ranges[:min(some, len(c.ranges))] {
		parts = append(parts, r.String())
	}
	text := strings.Join(parts, ", ")
	if n := len(c.ranges) - some; n > 0 || c.more {
		text += " and more"
	}
	if c.count == 1 {
		return "cell " + text
	}
	return "cells " + text
}

// lane is rows or columns that are formatted as a whole, whether or not there is anything in them.
type lane struct {
	format   int
	what     string // "row", "column"
	first    string // its name
	from, to int
}

func (l lane) words() string {
	if l.from == l.to {
		return l.what + " " + l.first
	}
	last := strconv.Itoa(l.to)
	if l.what == "column" {
		last = columnName(l.to)
	}
	return l.what + "s " + l.first + " to " + last
}

type lanes []lane

// add takes one more; what follows the last one and looks alike is one with it.
func (l *lanes) add(format int, what, name string, from, to int) {
	if from < 1 || to < from || to > 1<<20 {
		return
	}
	if n := len(*l); n > 0 {
		if last := &(*l)[n-1]; last.format == format && last.what == what && last.to == from-1 {
			last.to = to
			return
		}
	}
	if len(*l) < mostRanges {
		*l = append(*l, lane{format, what, name, from, to})
	}
}

// sheet reads one worksheet.
func (b *book) sheet(part, place string) error {
	if b.seen[part] {
		return nil
	}
	p, err := b.pack.Part(part)
	if err != nil {
		return err
	}
	b.seen[part] = true
	if _, err := p.Bytes(); err != nil { // one that is too large does not hide the others
		b.Unread(place, err)
		return nil
	}
	if b.usedXf == nil {
		b.usedXf, b.usedDxf = map[int]bool{}, map[int]bool{}
	}
	s := &grid{book: b, sheet: p, place: place, filled: map[int]*cellsOf{}, written: map[int]*cellsOf{}, rule: "conditional format"}
	if err := b.finishPart(scanning.Walk(b.Scanner, p, s.event), p, place); err != nil {
		return err
	}
	s.formats()
	rels, err := b.pack.Relations(part)
	if err != nil {
		return err
	}
	for _, r := range rels {
		if r.Kind == "comments" && !b.seen[r.Target] {
			if err := b.plain(r.Target, place); err != nil {
				return err
			}
		}
	}
	return b.around(part, place, b.scope, nil, nil)
}

// grid is one sheet while it is read.
type grid struct {
	*book
	sheet           *source.Part
	place           string
	filled, written map[int]*cellsOf // cells by format; those with something in them
	row, col        int
	all, full       cellRun
	whole           lanes
	stack           []string // names of the elements around
	rule            string   // the conditional format that is read, for a person to find
}

// cellRun is cells beside each other of one format; the columns of none are 0.
type cellRun struct{ format, from, to int }

// flush puts a run down that goes no further.
func (s *grid) flush(m map[int]*cellsOf, r *cellRun) {
	if r.from == 0 {
		return
	}
	if m[r.format] == nil {
		m[r.format] = &cellsOf{}
	}
	m[r.format].run(s.row, r.from, r.to)
	*r = cellRun{}
}

// extend takes the cell at hand into a run, or begins another.
func (s *grid) extend(m map[int]*cellsOf, r *cellRun, format int) {
	if r.from > 0 && r.format == format && r.to == s.col-1 {
		r.to = s.col
		return
	}
	s.flush(m, r)
	*r = cellRun{format, s.col, s.col}
}

func (s *grid) event(r *markup.Reader, e markup.Event) error {
	switch e {
	case markup.Close:
		s.stack = s.stack[:max(0, len(s.stack)-1)]
		if string(markup.Local(r.Name)) == "row" {
			s.flush(s.filled, &s.all)
			s.flush(s.written, &s.full)
		}
	case markup.Text:
		if n := len(s.stack); n > 0 && (strings.HasSuffix(s.stack[n-1], "Header") || strings.HasSuffix(s.stack[n-1], "Footer")) {
			s.header(r.Data[r.Start:r.End], source.Span{Part: s.sheet, Start: r.Start, End: r.End}, s.place+", header or footer")
		}
	case markup.Open:
		s.open(r)
	}
	return nil
}

func (s *grid) open(r *markup.Reader) {
	local := markup.Local(r.Name)
	switch string(local) {
	case "c":
		s.cell(r)
		s.stack = append(s.stack, "c")
		return
	case "row":
		s.row++
		if n := number(r.Get("r")); n > 0 {
			s.row = n
		}
		s.col = 0
		if on := r.Get("customFormat"); on == "1" || on == "true" {
			s.whole.add(number(r.Get("s")), "row", strconv.Itoa(s.row), s.row, s.row)
		}
	case "col":
		if style := r.Get("style"); style != "" {
			from, to := number(r.Get("min")), number(r.Get("max"))
			s.whole.add(number(style), "column", columnName(from), from, to)
		}
	case "conditionalFormatting":
		s.rule = "conditional format"
		if area := r.Get("sqref"); area != "" { // an extension tells it behind the rules
			s.rule += " " + scanning.Shorten(strings.ReplaceAll(area, " ", ", "), 60)
		}
	case "cfRule":
		if id := r.Get("dxfId"); id != "" {
			s.book.format(number(id), s.place+", "+s.rule)
		}
	}
	name := string(local)
	s.stack = append(s.stack, name)
	if !isColorElement(name) {
		return
	}
	if u, ok := s.color(r, s.sheet); ok {
		u.Where = s.place + ", " + s.what(name)
		s.Add(&u)
	}
}

// cell reads the head of a cell: where it is, and its format.
func (s *grid) cell(r *markup.Reader) {
	s.cells++
	format, at := 0, s.col+1
	for _, a := range r.Attrs {
		switch string(a.Name) {
		case "r":
			if n, c := cellAt(r.Data[a.Start:a.End]); n > 0 && c > 0 {
				if n != s.row {
					s.flush(s.filled, &s.all)
					s.flush(s.written, &s.full)
					s.row = n
				}
				at = c
			}
		case "s":
			format = number(string(r.Data[a.Start:a.End]))
		}
	}
	s.col = at
	s.extend(s.filled, &s.all, format)
	if !r.Empty {
		s.extend(s.written, &s.full, format)
	}
}

// what says what a color is that stands in the sheet itself.
func (s *grid) what(name string) string {
	switch {
	case name == "tabColor":
		return "tab"
	case strings.HasPrefix(name, "color") && name != "color":
		return "sparkline"
	case slices.Contains(s.stack, "rPr"):
		return fmt.Sprintf("cell %s%d, text", columnName(max(1, s.col)), s.row)
	case slices.Contains(s.stack, "dataBar"):
		return s.rule + ", bar"
	case slices.Contains(s.stack, "colorScale"):
		return s.rule + ", scale"
	case slices.Contains(s.stack, "font"):
		return s.rule + ", font"
	case slices.Contains(s.stack, "fill"):
		return s.rule + ", fill"
	case slices.Contains(s.stack, "border"):
		return s.rule + ", border"
	}
	return s.rule
}

// formats reports the colors of the formats that cells, rows and columns have.
func (s *grid) formats() {
	for _, f := range slices.Sorted(maps.Keys(s.filled)) {
		if f < 0 || f >= len(s.xfs) {
			continue
		}
		s.usedXf[f] = true
		x := s.xfs[f]
		if w := s.written[f]; w != nil {
			s.report(of(s.fonts, x.font), s.place+", "+w.words(), w.count)
		}
		w := s.filled[f]
		s.report(of(s.fills, x.fill), s.place+", "+w.words(), w.count)
		s.report(of(s.borders, x.border), s.place+", "+w.words(), w.count)
	}
	for _, l := range s.whole {
		if l.format < 0 || l.format >= len(s.xfs) {
			continue
		}
		s.usedXf[l.format] = true
		x := s.xfs[l.format]
		s.report(of(s.fills, x.fill), s.place+", "+l.words(), 1)
		s.report(of(s.borders, x.border), s.place+", "+l.words(), 1)
	}
}

func of(list [][]tint, i int) []tint {
	if i < 0 || i >= len(list) {
		return nil
	}
	return list[i]
}

// report counts the colors of a format once for each of its cells.
func (b *book) report(list []tint, place string, count int) {
	seen := map[string]bool{}
	for _, t := range list {
		key := t.role + t.use.Value
		if seen[key] && !t.use.Hidden { // four sides of a border are one use
			t.use.Hidden = true
		}
		seen[key] = true
		t.use.Where, t.use.Count = place+", "+t.role, count
		b.Add(&t.use)
	}
}

// format reports a format of conditions and tables.
func (b *book) format(dxf int, place string) {
	if dxf >= 0 && dxf < len(b.dxfs) {
		if b.usedDxf != nil {
			b.usedDxf[dxf] = true
		}
		b.report(b.dxfs[dxf], place, 1)
	}
}

// named reports the formats that have a name of their own, and hides those that nothing uses.
func (b *book) named() {
	for _, s := range b.styleOf {
		if s.xf >= 0 && s.xf < len(b.styleXf) {
			x := b.styleXf[s.xf]
			for _, list := range [][]tint{of(b.fonts, x.font), of(b.fills, x.fill), of(b.borders, x.border)} {
				b.report(list, "cell style "+s.name, 1)
			}
		}
	}
	for _, t := range b.tables {
		if t.dxf >= 0 && t.element != "" {
			b.format(t.dxf, fmt.Sprintf("table style %s, %s", t.name, t.element))
		}
	}
	hide := func(list []tint, place string) {
		for _, t := range list {
			t.use.Hidden, t.use.Where = true, place+", "+t.role
			b.Add(&t.use)
		}
	}
	for _, list := range [][][]tint{b.fonts, b.fills, b.borders, b.dxfs} {
		for _, format := range list {
			hide(format, "a format")
		}
	}
}

// plain reads a part whose colors have no cells: texts with several formats in them, and notes.
func (b *book) plain(part, place string) error {
	p, err := b.pack.Part(part)
	if err != nil {
		return err
	}
	b.seen[part] = true
	text, what := 0, ""
	err = scanning.Walk(b.Scanner, p, func(r *markup.Reader, e markup.Event) error {
		if e != markup.Open {
			return nil
		}
		switch string(markup.Local(r.Name)) {
		case "si":
			text++
			what = fmt.Sprintf("number %d", text)
		case "comment":
			what = "note at " + scanning.Shorten(r.Get("ref"), 20)
		case "color":
			if u, ok := b.color(r, p); ok {
				u.Where = place + ", " + what
				b.Add(&u)
			}
		}
		return nil
	})
	return b.finishPart(err, p, place)
}

// sheetForm writes a color element of a workbook.
type sheetForm struct{ scope opc.Scope }

func (f sheetForm) Write(old string, to form.Paint) (string, error) {
	r := markup.NewReader([]byte(old))
	e, err := r.Next()
	if old == "" || e != markup.Open && err != nil {
		return "", fmt.Errorf("%q is not a color", old)
	}
	value := `rgb="FF` + to.RGB.Hex()[1:] + `"`
	if a := r.Find("rgb"); a != nil {
		if text, err := form.Hex("ARGB").Write(r.Value(*a), to); err == nil {
			value = `rgb="` + text + `"`
		}
	}
	if to.Link != nil && f.scope.Slots != nil {
		for _, slot := range slotOrder {
			if to.Link(f.scope.Key(slot)) {
				value = fmt.Sprintf(`theme="%d"`, slices.Index(themeOrder, slot))
				break
			}
		}
	}
	var b strings.Builder
	at, written := 0, false
	for _, a := range r.Attrs {
		switch string(markup.Local(a.Name)) {
		case "rgb", "theme", "indexed", "auto", "tint":
			b.WriteString(old[at:a.At])
			if !written {
				b.WriteString(value)
				written = true
			} else {
				kept := strings.TrimRight(b.String(), " \t\r\n")
				b.Reset()
				b.WriteString(kept)
			}
			at = a.End + 1
		}
	}
	b.WriteString(old[at:])
	if !written {
		return "", fmt.Errorf("%q says no color", old)
	}
	return b.String(), nil
}
