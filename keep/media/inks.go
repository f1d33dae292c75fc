package media

import (
	"cmp"
	"context"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/keep"
)

// FoundInk is an ink of the book with its look, and its distance from a color if one was asked for.
type FoundInk struct {
	ink.Ink
	Look   color.RGB8
	DeltaE float64 // -1 if there is no color to compare with
}

// mostInks is how many inks a search lists.
const mostInks = 12

// WantedInks are inks that are looked for.
type WantedInks struct {
	Query string    // part of a number or a name, or a value whose nearest inks are meant; empty for those nearest to Near
	Stock ink.Stock // empty for the one that the house shows
	Class string    // inks of this class only; empty for all, and among the nearest for those that the house takes inks from
	Near  string    // a value, or the name of a color of the library, that distances are from; empty for the value of the query
}

// FindInks lists the inks that are looked for.
func (r *Rules) FindInks(ctx context.Context, a keep.Actor, w WantedInks) ([]FoundInk, error) {
	db := r.DB.With(ctx)
	shown, err := r.Shown(db, a.House)
	if err != nil {
		return nil, err
	}
	book, err := shown.Book.OfClass(w.Class)
	if err != nil {
		return nil, keep.Wrong("class", "%v", err)
	}
	stock := cmp.Or(w.Stock, shown.Stock)
	var from *color.Lab
	if w.Near != "" {
		g, err := r.named(db, a, w.Near)
		if err != nil {
			return nil, err
		}
		lab := g.Color().Lab()
		from = &lab
	}
	var list []ink.Ink
	near := func(found []ink.Match) {
		for _, m := range found {
			list = append(list, m.Ink)
		}
	}
	// What is written like a color is one; digits alone are part of a number.
	t, notColor := color.Parse(w.Query)
	switch {
	case w.Query == "" && from == nil:
		return nil, keep.Wrong("query", "say part of a number or a name, or a color to be near to")
	case w.Query == "":
		near(book.Meant().Nearest(*from, stock, mostInks))
	case notColor == nil && t.CMYK == nil:
		lab := t.RGB8().Lab()
		if from == nil {
			from = &lab
		}
		near(book.Nearest(lab, stock, mostInks))
	default:
		list = book.Search(w.Query, mostInks)
	}
	out := []FoundInk{}
	for _, i := range list {
		f := FoundInk{i, Look(i.Lab(stock)), -1}
		if from != nil {
			f.DeltaE = color.DeltaE00(*from, i.Lab(stock))
		}
		out = append(out, f)
	}
	return out, nil
}
