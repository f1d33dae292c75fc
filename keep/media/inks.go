package media

import (
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

// FindInks lists inks by part of a number or a name, or the nearest to a typed color. Distances are from near, if it is
// given, or else from the typed color.
func (r *Rules) FindInks(ctx context.Context, a keep.Actor, query string, stock ink.Stock, near string) ([]FoundInk, error) {
	shown, err := r.Shown(r.DB.With(ctx), a.House)
	if err != nil {
		return nil, err
	}
	book := shown.Book
	if stock == "" {
		stock = shown.Stock
	}
	var from *color.Lab
	if near != "" {
		g, err := r.Values(r.DB.With(ctx), a.House.ID).Read("near", near)
		if err != nil {
			return nil, err
		}
		lab := g.Color().Lab()
		from = &lab
	}
	var list []ink.Ink
	// What is written like a color is one; digits alone are part of a number.
	if t, err := color.Parse(query); err == nil && t.CMYK == nil {
		lab := t.RGB8().Lab()
		if from == nil {
			from = &lab
		}
		for _, m := range book.Nearest(lab, stock, mostInks) {
			list = append(list, m.Ink)
		}
	} else {
		list = book.Search(query, mostInks)
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
