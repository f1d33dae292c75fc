package keep

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"time"

	"huekeep/core/ink"
	"huekeep/store"
)

// bookCache keeps the books of houses that have one of their own, by house and the time it came.
type bookCache struct {
	sync.Mutex
	of map[bookKey]*ink.Book
}

type bookKey struct {
	house int64
	at    time.Time
}

const cachedBooks = 64 // a book of 20,000 inks takes about 5 MB

// book is the ink book of a house: its supplier's, or the one that ships.
func (k *Keeper) book(db *store.DB, house int64) (*ink.Book, error) {
	line, err := db.InkBookLine(house)
	if errors.Is(err, store.ErrNotFound) {
		return ink.Quern(), nil
	} else if err != nil {
		return nil, err
	}
	key := bookKey{house, line.AddedAt}
	k.books.Lock()
	defer k.books.Unlock()
	if b, ok := k.books.of[key]; ok {
		return b, nil
	}
	row, err := db.InkBook(house)
	if err != nil {
		return nil, err
	}
	b, err := ink.ReadCSV(row.Name, strings.NewReader(row.Data))
	if err != nil {
		return nil, fmt.Errorf("ink book of house %d: %w", house, err)
	}
	if len(k.books.of) >= cachedBooks {
		clear(k.books.of)
	}
	k.books.of[key] = b
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
func (k *Keeper) InkBook(ctx context.Context, a Actor) (InkBook, error) {
	db := k.DB.With(ctx)
	b, err := k.book(db, a.House.ID)
	if err != nil || b == ink.Quern() {
		return InkBook{Book: b, CSV: ink.QuernCSV()}, err
	}
	row, err := db.InkBook(a.House.ID)
	return InkBook{b, true, row.ByName, row.Data}, err
}

// PutInkBook imports the book of the house's supplier (see ink.ReadCSV), in place of the one it has.
func (k *Keeper) PutInkBook(ctx context.Context, a Actor, bookName, csv string) error {
	if err := a.may(RoleKeeper); err != nil {
		return err
	}
	n, err := name("name", bookName)
	if err != nil {
		return err
	}
	csv = strings.TrimPrefix(csv, "\ufeff")
	b, err := ink.ReadCSV(n, strings.NewReader(csv))
	if err != nil {
		return invalid("file", "%v", err)
	}
	return k.DB.In(ctx, func(tx *store.DB) error {
		if err := allIn(tx, a, b); err != nil {
			return err
		}
		return tx.Save(&store.InkBook{HouseID: a.House.ID, Name: n, Data: csv, ByName: a.Name, AddedAt: k.Now()})
	})
}

// DropInkBook goes back to the book that ships.
func (k *Keeper) DropInkBook(ctx context.Context, a Actor) error {
	if err := a.may(RoleKeeper); err != nil {
		return err
	}
	return k.DB.In(ctx, func(tx *store.DB) error {
		if err := allIn(tx, a, ink.Quern()); err != nil {
			return err
		}
		return missing(tx.DeleteInkBook(a.House.ID), "ink book")
	})
}

// allIn checks that no approved ink would be lost with a change of books.
func allIn(tx *store.DB, a Actor, b *ink.Book) error {
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
		return conflict("", "the %s book does not have the approved inks %s; take these approvals back first", b.Name, strings.Join(lost[:min(5, len(lost))], ", "))
	}
	return nil
}
