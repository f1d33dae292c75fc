package ink

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode"

	"huekeep/core/color"
	"huekeep/core/limits"
)

// columns are what a table of inks has, by the heads that they go by, in small letters without anything else.
var columns = []struct {
	what  string
	heads []string
}{
	{"code", []string{"code", "number", "no", "nr", "id", "ink", "inkcode", "inknumber", "spot", "reference", "ref"}},
	{"name", []string{"name", "inkname", "description", "title", "color", "colour", "colorname", "colourname"}},
	{"class", []string{"class", "type", "kind", "group", "series", "family"}},
	{"coated L", []string{"coatedl", "lcoated", "coatedlabl", "labcoatedl"}},
	{"coated a", []string{"coateda", "acoated", "coatedlaba", "labcoateda"}},
	{"coated b", []string{"coatedb", "bcoated", "coatedlabb", "labcoatedb"}},
	{"uncoated L", []string{"uncoatedl", "luncoated", "uncoatedlabl", "labuncoatedl"}},
	{"uncoated a", []string{"uncoateda", "auncoated", "uncoatedlaba", "labuncoateda"}},
	{"uncoated b", []string{"uncoatedb", "buncoated", "uncoatedlabb", "labuncoatedb"}},
}

// plain are the heads of a table that has one value an ink.
var plain = [3][]string{{"l", "labl", "ciel", "lightness", "cielabl"}, {"a", "laba", "ciea", "cielaba"}, {"b", "labb", "cieb", "cielabb"}}

const coatedAt, uncoatedAt = 3, 6 // in columns

func headOf(text string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) {
			return unicode.ToLower(r)
		}
		return -1
	}, text)
}

// ReadCSV reads a book: a table whose first row names the columns, as quern.csv does or by other usual heads, parted by commas, semicolons
// or tabs; numbers may have decimal commas where these do not part. Without classes all inks are solid. A table with one value an ink has
// it for both stocks, which the book says. Every problem is reported with its line.
func ReadCSV(name string, r io.Reader) (*Book, error) {
	data, err := io.ReadAll(r)
	if err != nil {
		return nil, fmt.Errorf("the ink book: %w", err)
	}
	text := strings.TrimLeft(string(data), "\ufeff\r\n")
	first, _, _ := strings.Cut(text, "\n")
	in := csv.NewReader(strings.NewReader(text))
	in.TrimLeadingSpace = true
	for _, comma := range ";\t" {
		if strings.Count(first, string(comma)) > strings.Count(first, string(in.Comma)) {
			in.Comma = comma
		}
	}
	in.TrimLeadingSpace = in.Comma != '\t'
	head, err := in.Read()
	if err != nil {
		return nil, errors.New("the ink book has no header row")
	}
	b := &Book{}
	at, err := b.columns(head)
	if err != nil {
		return nil, err
	}
	var inks []Ink
	lines := map[string]int{}
	for {
		row, err := in.Read()
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, fmt.Errorf("the ink book: %w", err)
		}
		line, _ := in.FieldPos(0)
		k, err := inkOf(row, at, in.Comma != ',')
		if err != nil {
			return nil, fmt.Errorf("line %d of the ink book%w", line, err)
		}
		if first := lines[key(k.Code)]; first > 0 {
			return nil, fmt.Errorf("line %d of the ink book: the code %s stands on line %d already", line, k.Code, first)
		}
		lines[key(k.Code)] = line
		inks = append(inks, k)
	}
	if len(inks) == 0 {
		return nil, errors.New("the ink book has no inks")
	}
	if len(inks) > limits.Inks {
		return nil, fmt.Errorf("the ink book has %d inks; at most %d are read", len(inks), limits.Inks)
	}
	made, err := newBook(name, inks)
	if err != nil {
		return nil, err
	}
	made.OneStock = b.OneStock
	return made.Taking([]string{Solid})
}

// columns finds the places of the columns; -1 for a class that there is not.
func (b *Book) columns(head []string) ([]int, error) {
	at := make([]int, len(columns))
	find := func(heads []string) int {
		for i, h := range head {
			for _, want := range heads {
				if headOf(h) == want {
					return i
				}
			}
		}
		return -1
	}
	for i, c := range columns {
		at[i] = find(c.heads)
	}
	if at[coatedAt] < 0 && at[uncoatedAt] < 0 {
		for i, heads := range plain {
			at[coatedAt+i] = find(heads)
		}
	}
	if at[uncoatedAt] < 0 && at[uncoatedAt+1] < 0 && at[uncoatedAt+2] < 0 {
		b.OneStock = true
		copy(at[uncoatedAt:], at[coatedAt:uncoatedAt])
	}
	if at[1] < 0 {
		at[1] = at[0] // the code is its name
	}
	for i, c := range columns {
		if at[i] < 0 && c.what != "class" {
			return nil, fmt.Errorf("the ink book has no column %q; the first line names the columns, as: code, name, class, coated L, coated a, coated b, uncoated L, uncoated a, uncoated b", c.what)
		}
	}
	return at, nil
}

// inkOf reads a row. The error goes on a sentence that begins with the line.
func inkOf(row []string, at []int, commas bool) (Ink, error) {
	k := Ink{Code: strings.TrimSpace(row[at[0]]), Name: strings.TrimSpace(row[at[1]]), Class: Solid}
	if at[2] >= 0 && strings.TrimSpace(row[at[2]]) != "" {
		k.Class = strings.TrimSpace(row[at[2]])
	}
	if k.Code == "" {
		return k, errors.New(" has no code")
	}
	var v [6]float64
	for i := range v {
		text := strings.TrimSpace(row[at[coatedAt+i]])
		number := strings.Replace(text, "−", "-", 1)
		if commas {
			number = strings.Replace(number, ",", ".", 1)
		}
		n, err := strconv.ParseFloat(number, 64)
		least, most := -200.0, 200.0
		if i%3 == 0 {
			least, most = 0, 110
		}
		if err != nil || !(n >= least && n <= most) {
			return k, fmt.Errorf(": %q is not a %s value", text, columns[coatedAt+i].what)
		}
		v[i] = n
	}
	k.Coated, k.Uncoated = color.Lab{L: v[0], A: v[1], B: v[2]}, color.Lab{L: v[3], A: v[4], B: v[5]}
	return k, nil
}
