package media

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

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

// PutInkBook imports the book of the house's supplier (see ink.ReadCSV), in place of the one it has.
func (r *Rules) PutInkBook(ctx context.Context, a keep.Actor, bookName, csv string) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	n, err := keep.Name("name", bookName)
	if err != nil {
		return err
	}
	csv = strings.TrimPrefix(csv, "\ufeff")
	if _, err := keep.Apart(ctx, r.Base, a, bookTask, "the ink book", n, []byte(csv)); err != nil {
		return err
	}
	b, err := ink.ReadCSV(n, strings.NewReader(csv))
	if err != nil {
		return keep.Wrong("file", "%v", err)
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		if err := allIn(tx, a, b); err != nil {
			return err
		}
		return tx.Save(&store.InkBook{HouseID: a.House.ID, Name: n, Data: csv, ByName: a.Name, AddedAt: r.Now()})
	})
}

// DropInkBook goes back to the book that ships.
func (r *Rules) DropInkBook(ctx context.Context, a keep.Actor) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		if err := allIn(tx, a, ink.Quern()); err != nil {
			return err
		}
		return keep.Missing(tx.DeleteInkBook(a.House.ID), "ink book")
	})
}

// allIn checks that no approved ink would be lost with a change of books.
func allIn(tx *store.DB, a keep.Actor, b *ink.Book) error {
	codes, err := tx.SpotCodes(a.House.ID)
	if err != nil {
		return err
	}
	var lost []string
	for _, c := range codes {
		if _, ok := b.Find(c); !ok {
			lost = append(lost, c)
		}
	}
	if len(lost) > 0 {
		return keep.Clash("", "the %s book does not have the approved inks %s; take these approvals back first", b.Name, strings.Join(lost[:min(5, len(lost))], ", "))
	}
	return nil
}
