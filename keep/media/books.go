package media

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/keep"
	"huekeep/reading"
	"huekeep/store"
)

type bookKey struct {
	house   int64
	at      time.Time
	classes string // that are meant
}

// Book is the ink book of a house: its supplier's, or the one that ships.
func (r *Rules) Book(db *store.DB, house int64) (*ink.Book, error) {
	classes, err := db.InkClasses(house)
	if err != nil {
		return nil, err
	}
	line, err := db.InkBookLine(house)
	if errors.Is(err, store.ErrNotFound) {
		line.AddedAt = time.Time{}
	} else if err != nil {
		return nil, err
	}
	if line.AddedAt.IsZero() && classes == ink.Solid {
		return ink.Quern(), nil
	}
	key := bookKey{house, line.AddedAt, classes}
	if b, ok := r.books.get(key); ok {
		return b, nil
	}
	b := ink.Quern()
	if !line.AddedAt.IsZero() {
		row, err := db.InkBook(house)
		if err != nil {
			return nil, err
		}
		if b, err = ink.ReadCSV(row.Name, strings.NewReader(row.Data)); err != nil {
			return nil, fmt.Errorf("ink book of house %d: %w", house, err)
		}
	}
	if b, err = b.Taking(strings.Split(classes, "\n")); err != nil {
		return nil, err
	}
	r.books.put(key, b)
	return b, nil
}

// InkBook is the book of a house.
type InkBook struct {
	*ink.Book
	Own bool
	By  string
	CSV string
}

// InkBook reads the house's book.
func (r *Rules) InkBook(ctx context.Context, a keep.Actor) (InkBook, error) {
	db := r.DB.With(ctx)
	b, err := r.Book(db, a.House.ID)
	if err != nil || b == ink.Quern() {
		return InkBook{Book: b, CSV: ink.QuernCSV()}, err
	}
	row, err := db.InkBook(a.House.ID)
	return InkBook{b, true, row.ByName, row.Data}, err
}

// bookTask reads an ink book, to see that it can be read.
var bookTask = reading.NewTask("ink book", func(name string, csv []byte) ([]byte, error) {
	_, err := ink.ReadCSV(name, bytes.NewReader(csv))
	return nil, err
})

// ReadBook reads the table of a supplier's book (see ink.ReadCSV), as it is to be kept.
func (r *Rules) ReadBook(ctx context.Context, a keep.Actor, bookName, csv string) (*ink.Book, store.InkBook, error) {
	n, err := keep.Name("name", bookName)
	if err != nil {
		return nil, store.InkBook{}, err
	}
	csv = strings.TrimPrefix(csv, "\ufeff")
	if _, err := keep.Apart(ctx, r.Base, a, bookTask, "the ink book", n, []byte(csv)); err != nil {
		return nil, store.InkBook{}, err
	}
	b, err := ink.ReadCSV(n, strings.NewReader(csv))
	if err != nil {
		return nil, store.InkBook{}, keep.Wrong("file", "%v", err)
	}
	return b, store.InkBook{HouseID: a.House.ID, Name: n, Data: csv, ByName: a.Name, AddedAt: r.Now()}, nil
}

// BookInk is an ink in the house's book, with how it looks on both stocks and how far from a color it is.
type BookInk struct {
	ink.Ink
	Coated, Uncoated color.RGB8
	DeltaE           float64 // from the color that was asked for, on the house's stock; -1 for none
}

// BookSection is a part of a class of the book, from light to dark.
type BookSection struct {
	Name string
	Inks []BookInk
}

// BookClass is a class of the book in the order in which one looks through it.
type BookClass struct {
	Name     string
	Meant    bool // the nearest ink of a color is taken from it
	Sections []BookSection
}

// Ramp is the house's book to be looked through. With a color (any value, or the name of one of the library's) every ink says how far it is
// from it.
func (r *Rules) Ramp(ctx context.Context, a keep.Actor, near string) (out []BookClass, to *keep.Given, err error) {
	db := r.DB.With(ctx)
	shown, err := r.Shown(db, a.House)
	if err != nil {
		return nil, nil, err
	}
	if near = strings.TrimSpace(near); near != "" {
		g, err := r.named(db, a, near)
		if err != nil {
			return nil, nil, err
		}
		to = &g
	}
	meant := shown.Book.Meant().Classes()
	for _, class := range shown.Book.Classes() {
		c := BookClass{Name: class, Meant: slices.Contains(meant, class)}
		for _, s := range shown.Book.Ramp(class) {
			section := BookSection{Name: s.Name}
			for _, k := range s.Inks {
				row := BookInk{k, Look(k.Coated), Look(k.Uncoated), -1}
				if to != nil {
					row.DeltaE = color.DeltaE00(to.Color().Lab(), k.Lab(shown.Stock))
				}
				section.Inks = append(section.Inks, row)
			}
			c.Sections = append(c.Sections, section)
		}
		out = append(out, c)
	}
	slices.SortStableFunc(out, func(x, y BookClass) int { // what one takes inks from comes first
		switch {
		case x.Meant == y.Meant:
			return 0
		case x.Meant:
			return -1
		}
		return 1
	})
	return out, to, nil
}

// named is a color of the library by its name, or a value.
func (r *Rules) named(db *store.DB, a keep.Actor, text string) (keep.Given, error) {
	all, err := db.Colors(a.House.ID)
	if err != nil {
		return keep.Given{}, err
	}
	for _, c := range all {
		if a.Sees(c) && store.NameKey(c.Name) == store.NameKey(text) {
			return keep.Given{Master: c.Master, RGB: c.RGB}, nil
		}
	}
	return r.Values(db, a.House.ID).Read("near", text)
}
