// Package ink holds books of spot inks and finds the ones nearest to a color.
package ink

import (
	_ "embed"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"sync"

	"huekeep/core/color"
)

// Stock is the paper an ink was measured on.
type Stock string

const (
	Coated   Stock = "coated"
	Uncoated Stock = "uncoated"
)

// Stocks lists what inks are measured on.
var Stocks = []Stock{Coated, Uncoated}

// Ink is one entry of a book, measured as Lab (D50, 2 degree, M1) on two stocks.
type Ink struct {
	Code, Name, Class string
	Coated, Uncoated  color.Lab
}

// Lab returns the ink's color on a stock.
func (k Ink) Lab(s Stock) color.Lab {
	if s == Uncoated {
		return k.Uncoated
	}
	return k.Coated
}

// Tint is how a percent tint of the ink looks on a stock, relative to the paper: on a press held to spot color tone values
// (ISO 20654), a tint lies at its percentage of the way from paper to solid in CIELAB. percent is 0 to 100.
func (k Ink) Tint(s Stock, percent float64) color.Lab {
	f := math.Min(100, math.Max(0, percent)) / 100
	solid := k.Lab(s)
	return color.Lab{L: 100 + f*(solid.L-100), A: f * solid.A, B: f * solid.B}
}

// Book is a list of inks with unique codes.
type Book struct {
	Name     string
	Inks     []Ink
	OneStock bool           // its table had one value an ink, which stands for both stocks
	at       map[string]int // by key
	short    map[string]int // by shorter; -1 where several inks have it

	coated, uncoated *color.Index
	meant            *Book // the part that Meant gives; nil for all
}

// Solid is the class of the inks that are meant where nobody says otherwise: a pastel, a metallic or a fluorescent ink is never taken for a
// color just because it is near.
const Solid = "solid"

// Meant is the part of the book that the nearest ink of a color is taken from: its solid inks, or the classes that Taking named; the whole
// book where it has none of them.
func (b *Book) Meant() *Book {
	if b.meant == nil {
		return b
	}
	return b.meant
}

// Taking is the book with other classes meant; none for all.
func (b *Book) Taking(classes []string) (*Book, error) {
	out := *b
	out.meant = nil
	inks := slices.DeleteFunc(slices.Clone(b.Inks), func(k Ink) bool {
		return !slices.ContainsFunc(classes, func(c string) bool { return strings.EqualFold(c, k.Class) })
	})
	if len(inks) == 0 || len(inks) == len(b.Inks) {
		return &out, nil
	}
	var err error
	out.meant, err = newBook(b.Name, inks)
	return &out, err
}

// Match is an ink with its ΔE00 from the color asked for.
type Match struct {
	Ink    Ink
	Stock  Stock
	DeltaE float64
}

//go:embed quern.csv
var quern string

// Quern returns the made-up book that ships with the program.
var Quern = sync.OnceValue(func() *Book {
	b, err := ReadCSV("Quern", strings.NewReader(quern))
	if err != nil {
		panic(err) // compiled in and tested
	}
	return b
})

// QuernCSV is the shipped book as ReadCSV reads it.
func QuernCSV() string { return quern }

// Classes lists the classes of a book in alphabetical order.
func (b *Book) Classes() []string {
	known := map[string]bool{}
	for _, k := range b.Inks {
		known[k.Class] = true
	}
	return slices.Sorted(maps.Keys(known))
}

// Find returns the ink with a code, in any case, with or without the separator and the zeros in front of its number: "QN-0132",
// "qn0132", "QN 132".
func (b *Book) Find(code string) (Ink, bool) {
	i, ok := b.at[key(code)]
	if k := shorter(code); !ok && strings.IndexAny(k, "0123456789") <= len(k)-3 { // fewer digits are the beginning of another code as well
		i, ok = b.short[k]
	}
	if !ok || i < 0 {
		return Ink{}, false
	}
	return b.Inks[i], true
}

// shorter is the key of a code of letters and a number, without the zeros in front of the number: "QN453"; any other code is itself.
func shorter(code string) string {
	k := key(code)
	at := strings.IndexAny(k, "0123456789")
	if at < 1 {
		return k
	}
	return k[:at] + strings.TrimLeft(k[at:], "0")
}

func key(code string) string {
	return strings.Map(func(r rune) rune {
		if r == '-' || r == ' ' || r == '\u00a0' {
			return -1
		}
		return r
	}, strings.ToUpper(code))
}

// Nearest returns up to n inks on a stock by rising ΔE00 from the target; equal distances go by code.
func (b *Book) Nearest(target color.Lab, stock Stock, n int) []Match {
	index := b.coated
	if stock == Uncoated {
		index = b.uncoated
	}
	var out []Match
	for _, m := range index.Nearest(target, n) {
		out = append(out, Match{b.Inks[m.At], stock, m.DeltaE})
	}
	return out
}

// newBook makes a book of inks whose codes must differ.
func newBook(name string, inks []Ink) (*Book, error) {
	b := &Book{Name: name, Inks: inks, at: map[string]int{}, short: map[string]int{}}
	var labs [2][]color.Lab
	for i, k := range inks {
		if _, twice := b.at[key(k.Code)]; twice {
			return nil, fmt.Errorf("the code %s stands in the ink book twice", k.Code)
		}
		b.at[key(k.Code)] = i
		if _, twice := b.short[shorter(k.Code)]; twice {
			b.short[shorter(k.Code)] = -1
		} else {
			b.short[shorter(k.Code)] = i
		}
		labs[0], labs[1] = append(labs[0], k.Coated), append(labs[1], k.Uncoated)
	}
	b.coated, b.uncoated = color.NewIndex(labs[0]), color.NewIndex(labs[1])
	return b, nil
}

// Faced are the n nearest inks of those that are meant, and behind them the nearest of the whole book where that is another and nearer: to
// be looked at, not to be taken by itself.
func (b *Book) Faced(target color.Lab, stock Stock, n int) []Match {
	out := b.Meant().Nearest(target, stock, n)
	if all := b.Nearest(target, stock, 1); len(all) > 0 && len(out) > 0 && all[0].DeltaE < out[0].DeltaE {
		out = append(out, all[0])
	}
	return out
}

// OfClass is the part of a book that is of one class; an empty class is the whole book.
func (b *Book) OfClass(class string) (*Book, error) {
	if class == "" {
		return b, nil
	}
	var inks []Ink
	for _, k := range b.Inks {
		if strings.EqualFold(k.Class, class) {
			inks = append(inks, k)
		}
	}
	if len(inks) == 0 {
		return nil, fmt.Errorf("the %s book has no class %q; it has %s", b.Name, class, strings.Join(b.Classes(), ", "))
	}
	return newBook(b.Name, inks)
}

// Search finds up to n inks by part of their number or name, in the order of the book.
func (b *Book) Search(query string, n int) []Ink {
	number, name := key(query), strings.ToLower(strings.TrimSpace(query))
	var out []Ink
	for _, k := range b.Inks {
		if len(out) == n || name == "" {
			break
		}
		if strings.Contains(key(k.Code), number) || strings.Contains(strings.ToLower(k.Name), name) {
			out = append(out, k)
		}
	}
	return out
}
