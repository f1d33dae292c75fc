package swatchfile

import (
	"bytes"
	"cmp"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"

	"github.com/xuri/excelize/v2"

	"huekeep/core/archive"
	"huekeep/core/color"
	inks "huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/press"
)

// columns are what a table has, by the words that its head may use.
var columns = []struct {
	name  string
	words []string
}{
	{"name", []string{"name", "color", "colour", "color name", "colour name", "swatch"}},
	{"hex", []string{"hex", "hex value", "html", "web", "value", "srgb"}},
	{"r", []string{"r", "red"}}, {"g", []string{"g", "green"}}, {"b", []string{"b", "blue"}},
	{"rgb", []string{"rgb"}},
	{"c", []string{"c", "cyan"}}, {"m", []string{"m", "magenta"}}, {"y", []string{"y", "yellow"}}, {"k", []string{"k", "black", "key"}},
	{"cmyk", []string{"cmyk", "cmyk build"}},
	{"spot", []string{"spot", "spot ink", "spot color", "spot colour", "ink"}},
	{"group", []string{"group"}}, {"role", []string{"role"}}, {"rule", []string{"rule", "rule for use", "use", "usage", "note"}},
	{"status", []string{"status"}}, {"aliases", []string{"aliases", "also called"}}, {"tags", []string{"tags"}},
}

// ReadTable reads comma, semicolon or tab separated values: a head that names its columns, or else any lines that
// color.ReadList understands.
func ReadTable(data []byte) (Library, error) {
	data = bytes.TrimPrefix(data, []byte(byteOrderMark))
	first, _, _ := bytes.Cut(data, []byte("\n"))
	comma := ','
	for _, c := range []rune{'\t', ';'} {
		if strings.ContainsRune(string(first), c) {
			comma = c
			break
		}
	}
	in := csv.NewReader(bytes.NewReader(data))
	in.Comma = comma
	in.FieldsPerRecord = -1
	in.TrimLeadingSpace = comma != '\t'
	in.LazyQuotes = true
	if n := bytes.Count(data, []byte("\n")); n > limits.TextLines {
		return Library{}, fmt.Errorf("it has %d lines; at most %d are read", n, limits.TextLines)
	}
	rows, err := tableRows(in, data)
	if err != nil {
		return Library{}, err
	}
	l, ok, err := readRows(rows)
	if ok || err != nil {
		return l, err
	}
	l.Text = string(data)
	for _, line := range color.ReadColors(l.Text, limits.LibraryColors) { // one more is refused by whoever reads
		marked := inks.Marked{Line: line}
		if !errors.Is(line.Err, color.ErrWords) { // whoever has a book of a house's own reads the text again
			marked = inks.Quern().Mark(line)
		}
		c := library.Color{Name: marked.Name, RGB: line.RGB}
		switch stock := string(marked.Stock); {
		case marked.Written == "" || marked.Err != nil:
		case line.Value == "" && (line.CMYK == nil || strings.Index(line.Text, marked.Written) < strings.Index(line.Text, line.Build)):
			// Nothing that was written before it says which color it is.
			m, rgb := library.ByInk(marked.Ink.Code, stock, inks.Quern().Name, marked.Ink.Lab(marked.Stock))
			c.Decide(m, rgb, library.Person{}, time.Time{})
			if marked.CMYK != nil {
				c.Builds = []library.Build{{Press: cmp.Or(marked.Paper, "coated"), Value: *marked.CMYK, Origin: library.Given, For: rgb}}
			}
			l.Colors = append(l.Colors, c)
			continue
		default:
			c.Spots = []library.Spot{{Stock: stock, Code: marked.Ink.Code, Origin: library.Given, For: line.RGB}}
			line.Note = marked.Note
		}
		switch {
		case errors.Is(line.Err, color.ErrInkOnly):
			p, err := press.Get(cmp.Or(line.Paper, "coated"))
			if err != nil {
				return l, err
			}
			m, rgb := library.ByBuild(*line.CMYK, p.Name, p.Identity().SHA256, p.Lab(*line.CMYK))
			c.Decide(m, rgb, library.Person{}, time.Time{})
			l.Colors = append(l.Colors, c)
			continue
		case line.Err != nil:
			l.Left = append(l.Left, LeftOf(line))
			continue
		}
		if line.Exact != "" {
			c.Master = library.Master{Kind: library.OfScreen, Text: line.Exact}
		}
		if line.Note != "" {
			l.Notes = append(l.Notes, fmt.Sprintf("Line %d, %s: %s.", line.Number, line.Value, line.Note))
		}
		if line.CMYK != nil {
			c.Builds = []library.Build{{Press: cmp.Or(line.Paper, "coated"), Value: *line.CMYK, For: line.RGB}}
		}
		l.Colors = append(l.Colors, c)
	}
	l.Notes = append(l.Notes, LeftOut(l.Left)...)
	if len(l.Colors) == 0 && !l.Asks() {
		return l, fmt.Errorf("it has neither a head with the columns name and hex nor lines with colors")
	}
	return l, nil
}

// tableRows reads the rows, of each the first cells; the reader's own lines are refused before it takes one apart that is absurd.
func tableRows(in *csv.Reader, data []byte) (rows [][]string, err error) {
	const longest = 1 << 20
	for n, rest := 1, data; len(rest) > 0; n++ {
		end := bytes.IndexByte(rest, '\n')
		if end < 0 {
			end = len(rest)
		}
		if end > longest {
			return nil, fmt.Errorf("line %d has %s; at most %s are read of one", n, limits.Size(int64(end)), limits.Size(longest))
		}
		rest = rest[min(len(rest), end+1):]
	}
	in.ReuseRecord = true
	for {
		row, err := in.Read()
		if err == io.EOF {
			return rows, nil
		}
		if err != nil {
			return nil, fmt.Errorf("it is not a table: %w", err)
		}
		rows = append(rows, slices.Clone(row[:min(len(row), limits.TableCells)]))
	}
}

// readRows reads rows under a head; ok is false if no row of the first ten is one.
func readRows(rows [][]string) (l Library, ok bool, err error) {
	for at, row := range rows[:min(10, len(rows))] {
		column := map[string]int{}
		for i, cell := range row {
			word := strings.ToLower(strings.TrimSpace(cell))
			for _, c := range columns {
				if _, taken := column[c.name]; !taken && slices.Contains(c.words, word) {
					column[c.name] = i
					break
				}
			}
		}
		_, hex := column["hex"]
		_, rgb := column["rgb"]
		_, r := column["r"]
		if !hex && !rgb && !r || len(column) < 2 {
			continue
		}
		for i, row := range rows[at+1:] {
			c, empty, err := readRow(&l, row, column)
			if err != nil {
				return l, true, fmt.Errorf("row %d: %w", at+i+2, err)
			}
			if !empty {
				l.Colors = append(l.Colors, c)
			}
		}
		l.Listed = true
		return l, true, nil
	}
	return l, false, nil
}

func readRow(l *Library, row []string, column map[string]int) (c library.Color, empty bool, err error) {
	cell := func(name string) string {
		if i, ok := column[name]; ok && i < len(row) {
			return unguarded(strings.TrimSpace(row[i]))
		}
		return ""
	}
	joined := func(names ...string) string {
		var parts []string
		for _, n := range names {
			v := cell(n)
			if v == "" {
				return ""
			}
			parts = append(parts, v)
		}
		return strings.Join(parts, " ")
	}
	value := cell("hex")
	for _, other := range []string{cell("rgb"), joined("r", "g", "b")} {
		if value == "" {
			value = other
		}
	}
	if value == "" {
		if strings.TrimSpace(strings.Join(row, "")) == "" {
			return c, true, nil
		}
		return c, false, fmt.Errorf("%q has no color value", cell("name"))
	}
	t, err := color.Parse(value)
	if err != nil {
		return c, false, err
	}
	if t.CMYK != nil {
		return c, false, fmt.Errorf("%q is a CMYK build where a screen color is wanted", value)
	}
	l.remark(cell("name"), t)
	c = library.Color{Name: cell("name"), Group: cell("group"), Role: library.AsRole(cell("role")), Rule: cell("rule"),
		Aliases: list(cell("aliases")), Tags: list(cell("tags"))}
	c.Master, c.RGB = library.MasterOf(t)
	if s := library.Status(strings.ToLower(cell("status"))); s == library.Retired || s == library.Draft {
		c.Status = s
	}
	build := cell("cmyk")
	if build == "" {
		build = joined("c", "m", "y", "k")
	}
	if build != "" {
		b, err := color.ParseCMYK(build)
		if err != nil {
			return c, false, err
		}
		c.Builds = []library.Build{{Press: "coated", Value: b, For: c.RGB}}
	}
	if s := cell("spot"); s != "" {
		c.Spots = []library.Spot{{Stock: "coated", Code: s, For: c.RGB}}
	}
	return c, false, nil
}

// list parts a cell that holds several words.
func list(s string) []string {
	var out []string
	for part := range strings.SplitSeq(s, ",") {
		if part = strings.TrimSpace(part); part != "" {
			out = append(out, part)
		}
	}
	return out
}

var tableHead = []string{"Name", "Hex", "R", "G", "B", "CMYK", "Spot", "Group", "Role", "Rule", "Status", "Aliases", "Tags"}

// tableRow is a color as tables hold it: the first approved build and ink.
func tableRow(c library.Color) []string {
	build, spot := "", ""
	if len(c.Builds) > 0 {
		build = c.Builds[0].Value.String()
	}
	if len(c.Spots) > 0 {
		spot = c.Spots[0].Code
	}
	return []string{c.Name, c.RGB.Hex(), strconv.Itoa(int(c.RGB.R)), strconv.Itoa(int(c.RGB.G)), strconv.Itoa(int(c.RGB.B)),
		build, spot, c.Group, string(c.Role), c.Rule, string(orApproved(c.Status)), strings.Join(c.Aliases, ", "), strings.Join(c.Tags,
			", ")}
}

// byteOrderMark tells spreadsheets that a file of comma separated values is UTF-8.
const byteOrderMark = "\ufeff"

// WriteCSV writes comma separated values in UTF-8, with a byte order mark where a name needs one to be read.
func WriteCSV(e library.Edition) ([]byte, error) {
	data, err := writeValues(e, ',')
	if bytes.ContainsFunc(data, func(r rune) bool { return r > unicode.MaxASCII }) {
		data = append([]byte(byteOrderMark), data...)
	}
	return data, err
}

// WriteTSV writes tab separated values in UTF-8.
func WriteTSV(e library.Edition) ([]byte, error) { return writeValues(e, '\t') }

func writeValues(e library.Edition, comma rune) ([]byte, error) {
	var b bytes.Buffer
	out := csv.NewWriter(&b)
	out.Comma = comma
	_ = out.Write(tableHead)
	for _, c := range e.Colors {
		row := tableRow(c)
		for i := range row {
			row[i] = guarded(row[i])
		}
		_ = out.Write(row) // a buffer does not fail
	}
	out.Flush()
	return b.Bytes(), out.Error()
}

// formula is what a cell begins with that a spreadsheet would compute.
const formula = "=+-@\t\r"

// guarded keeps a spreadsheet from computing a text that begins like a formula: an apostrophe before it makes it a text.
func guarded(cell string) string {
	if cell != "" && (strings.ContainsRune(formula, rune(cell[0])) || unguarded(cell) != cell) {
		return "'" + cell
	}
	return cell
}

// unguarded takes the apostrophe away that guarded put there.
func unguarded(cell string) string {
	if rest, ok := strings.CutPrefix(cell, "'"); ok && rest != "" && guarded(rest) != rest {
		return rest
	}
	return cell
}

// valuesLose is what a table of values leaves out, and what stands in it with an apostrophe.
func valuesLose(e library.Edition) []lost {
	out := firstOnly(true)(e)
	n := 0
	for _, c := range e.Colors {
		for _, cell := range tableRow(c) {
			if guarded(cell) != cell {
				n++
			}
		}
	}
	if n > 0 {
		out = append(out, lost{"texts that run as formulas",
			fmt.Sprintf("%s would run as formulas in a spreadsheet; an apostrophe before them prevents it", count(n, "text"))})
	}
	return out
}

// ReadWorkbook reads the first sheet of a workbook (ECMA-376) that has rows under a head with the columns name and hex, or
// its theme where no sheet has.
func ReadWorkbook(data []byte) (l Library, err error) {
	a, err := archive.Open(data)
	if err != nil {
		return l, err
	}
	if err := guardBook(a); err != nil {
		return l, err
	}
	// What is longer than a megabyte is streamed from a temporary file and not held.
	f, err := excelize.OpenReader(bytes.NewReader(data), excelize.Options{UnzipSizeLimit: limits.BookBytes + 1<<20,
		UnzipXMLSizeLimit: 1 << 20})
	if err != nil {
		return l, fmt.Errorf("it cannot be opened as a workbook: %w", err)
	}
	defer f.Close()
	for _, sheet := range f.GetSheetList() {
		rows, err := bookRows(f, sheet)
		if err != nil {
			continue // a chart sheet
		}
		l, ok, err := readRows(rows)
		if err != nil {
			return l, fmt.Errorf("sheet %s, %w", sheet, err)
		}
		if ok {
			return l, nil
		}
	}
	if len(themeParts(a)) > 0 {
		return readTheme(a)
	}
	return l, fmt.Errorf("no sheet has a head with the columns name and hex, and it has no theme")
}

// guardBook unpacks a workbook once without keeping anything, so that none that lies about its sizes is opened.
func guardBook(a *archive.Archive) error {
	left := int64(limits.BookBytes)
	for name := range a.Files {
		if strings.HasPrefix(name, "xl/media/") {
			continue
		}
		r, err := a.Part(name)
		if err != nil {
			return err
		}
		n, err := io.Copy(io.Discard, io.LimitReader(r, left+1))
		r.Close()
		if err != nil {
			return err
		}
		if left -= n; left < 0 {
			return fmt.Errorf("it unpacks to over %s, the most that is read of a workbook", limits.Size(limits.BookBytes))
		}
	}
	return nil
}

// bookRows reads the rows of a sheet that a table of colors can have, of each the first cells.
func bookRows(f *excelize.File, sheet string) (out [][]string, err error) {
	rows, err := f.Rows(sheet)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() && len(out) < limits.LibraryColors+20 {
		row, err := rows.Columns()
		if err != nil {
			return nil, err
		}
		out = append(out, slices.Clone(row[:min(len(row), limits.TableCells)]))
	}
	return out, rows.Error()
}

// WriteWorkbook writes a workbook with one sheet; a narrow column shows each color as the fill of its cell.
func WriteWorkbook(e library.Edition) ([]byte, error) {
	f := excelize.NewFile()
	defer f.Close()
	const sheet = "Colors"
	if err := f.SetSheetName("Sheet1", sheet); err != nil {
		return nil, err
	}
	head, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return nil, err
	}
	titles := append([]string{""}, tableHead...)
	if err := f.SetSheetRow(sheet, "A1", &titles); err != nil {
		return nil, err
	}
	if err := f.SetRowStyle(sheet, 1, 1, head); err != nil {
		return nil, err
	}
	for i, c := range e.Colors {
		row := tableRow(c)
		cells := make([]any, len(row))
		for k, v := range row {
			cells[k] = v
			if k >= 2 && k <= 4 {
				cells[k], _ = strconv.Atoi(v)
			}
		}
		if err := f.SetSheetRow(sheet, fmt.Sprintf("B%d", i+2), &cells); err != nil {
			return nil, err
		}
		fill, err := f.NewStyle(&excelize.Style{Fill: excelize.Fill{Type: "pattern", Pattern: 1, Color: []string{c.RGB.Hex()[1:]}}})
		if err != nil {
			return nil, err
		}
		at := fmt.Sprintf("A%d", i+2)
		if err := f.SetCellStyle(sheet, at, at, fill); err != nil {
			return nil, err
		}
	}
	for _, w := range []struct {
		from, to string
		width    float64
	}{{"A", "A", 8}, {"B", "B", 24}, {"C", "C", 10}, {"D", "F", 6}, {"G", "I", 16}, {"K", "K", 40}} {
		if err := f.SetColWidth(sheet, w.from, w.to, w.width); err != nil {
			return nil, err
		}
	}
	if err := f.SetDocProps(&excelize.DocProperties{Title: e.Title(), Creator: "Hue Keep", Created: "2000-01-01T00:00:00Z",
		Modified: "2000-01-01T00:00:00Z"}); err != nil {
		return nil, err
	}
	var b bytes.Buffer
	if err := f.Write(&b); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}
