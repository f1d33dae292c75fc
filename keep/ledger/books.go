package ledger

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/keep"
	"huekeep/store"
)

// PutInkBook imports the book of the house's supplier, in place of the one it has. Where it lacks inks that are approved, that is said with
// their colors; or these approvals are taken back with it, if the actor says so: then there is a way back for a day, of the book and the
// approvals.
func (r *Rules) PutInkBook(ctx context.Context, a keep.Actor, name, csv string, without bool) (back int64, err error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return 0, err
	}
	b, row, err := r.Media.ReadBook(ctx, a, name, csv)
	if err != nil {
		return 0, err
	}
	return r.exchange(ctx, a, b, without, func(tx *store.DB) error { return tx.Save(&row) })
}

// DropInkBook goes back to the book that ships; what PutInkBook says of approved inks holds here too.
func (r *Rules) DropInkBook(ctx context.Context, a keep.Actor, without bool) (back int64, err error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return 0, err
	}
	return r.exchange(ctx, a, ink.Quern(), without,
		func(tx *store.DB) error { return keep.Missing(tx.DeleteInkBook(a.House.ID), "ink book") })
}

func (r *Rules) exchange(ctx context.Context, a keep.Actor, b *ink.Book, without bool, put func(tx *store.DB) error) (back int64,
	err error) {
	err = r.Change(ctx, a, func(tx *store.DB) error {
		var aside keep.Aside
		if without {
			var err error
			if aside, err = r.SetAside(ctx, tx, a, false); err != nil {
				return err
			}
		}
		if err := r.toBook(tx, a, b, without); err != nil {
			return err
		}
		err := put(tx)
		if err == nil && without {
			back, err = r.WayBack(ctx, tx, a, aside, keep.Added{})
		}
		return err
	})
	return back, err
}

// mostTold is of how many colors a sentence tells the inks.
const mostTold = 8

// toBook sees to it that no approved ink is lost with a change of books: it is an error, or the approvals are taken back.
func (r *Rules) toBook(tx *store.DB, a keep.Actor, b *ink.Book, without bool) error {
	approved, err := tx.ApprovedInks(a.House.ID)
	if err != nil {
		return err
	}
	lost := slices.DeleteFunc(approved, func(i store.ApprovedInk) bool { _, ok := b.Find(i.Code); return ok })
	if len(lost) == 0 {
		return nil
	}
	if !without {
		var told []string
		for _, i := range lost[:min(len(lost), mostTold)] {
			told = append(told, fmt.Sprintf("%s (%s on %s stock)", i.Name, i.Code, i.Stock))
		}
		more := ""
		if n := len(lost) - len(told); n > 0 {
			more = fmt.Sprintf(" and %d more", n)
		}
		return keep.Clash("without", "the %s book does not have the approved inks of %s%s; their approvals can be taken back with it",
			b.Name, strings.Join(told, ", "), more)
	}
	for _, i := range lost {
		c, err := tx.Color(a.House.ID, i.ColorID)
		if err != nil {
			return err
		}
		what := fmt.Sprintf("approval of the spot ink %s on %s stock taken back, which the %s book does not have", i.Code, i.Stock, b.Name)
		err = r.change(tx, a, i.ColorID, c.Version, func(_ *store.DB, c *library.Color) ([]library.Event, error) {
			c.Spots = slices.DeleteFunc(c.Spots, func(s library.Spot) bool { return s.Stock == i.Stock })
			return []library.Event{{What: what}}, nil
		})
		if err != nil {
			return err
		}
	}
	return nil
}
