package send

import (
	"context"
	"slices"
	"strings"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/media"
	"huekeep/store"
)

// FixEdition fixes a set as its next edition. Drafts and retired colors are not sent out.
func (r *Rules) FixEdition(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error { // two people fixing at once make one edition
		s, err := r.set(tx, a, id)
		if err != nil {
			return err
		}
		if len(s.Members) == 0 {
			return keep.Clash("", "%s holds no colors; put some in first", s.Name)
		}
		e := library.Edition{House: a.House.Name, Set: s.Name, Number: 1, FixedAt: r.Now(), By: a.Person()}
		if len(s.Editions) > 0 {
			e.Number = s.Editions[0].Number + 1
			if len(s.Changes) == 0 {
				return keep.Clash("", "%s is the same as its edition %d", s.Name, s.Editions[0].Number)
			}
		}
		for _, c := range s.Members {
			if c.Status != library.Approved {
				how := map[library.Status]string{library.Draft: "a draft", library.Retired: "retired"}[c.Status]
				return keep.Clash("", "%s is %s; approve it or take it out of the set first", c.Name, how)
			}
		}
		if err := r.complete(tx, a, &e, s.Members); err != nil {
			return err
		}
		return keep.Taken(tx.AddEdition(a.House.ID, id, e), "", "somebody else fixed edition %d of %s just now", e.Number, s.Name)
	})
}

// complete puts colors into an edition with all that a packing may need in ten years: a build for every press and an ink for
// every stock, the identity of the profiles, and the gradients and the rules between the colors.
func (r *Rules) complete(db *store.DB, a keep.Actor, e *library.Edition, colors []library.Color) error {
	presses, err := r.Media.PressesOf(db, a.House.ID)
	if err != nil {
		return err
	}
	book, err := r.Media.Book(db, a.House.ID)
	if err != nil {
		return err
	}
	for _, p := range presses {
		id := p.Identity()
		e.Profiles = append(e.Profiles, library.Profile{Press: p.Name, Label: p.Label, InkLimit: id.InkLimit, Name: id.Name, SHA256: id.SHA256})
	}
	for _, c := range colors {
		c.Builds, c.Spots = slices.Clone(c.Builds), slices.Clone(c.Spots)
		lab := c.RGB.Lab()
		for _, p := range presses {
			if _, ok := c.Build(p.Name); !ok {
				c.Builds = append(c.Builds, library.Build{Press: p.Name, Value: p.Condition.Build(lab).Whole, Origin: library.Derived})
			}
		}
		for _, stock := range []ink.Stock{ink.Coated, ink.Uncoated} {
			if _, ok := c.Spot(string(stock)); !ok {
				c.Spots = append(c.Spots, library.Spot{Stock: string(stock), Code: media.OnStock(c, stock, book).Ink.Code, Origin: library.Derived})
			}
		}
		for i, s := range c.Spots {
			if found, ok := book.Find(s.Code); ok {
				of := found.Lab(ink.Stock(s.Stock))
				c.Spots[i].Book, c.Spots[i].Lab = book.Name, &of
			}
		}
		slices.SortFunc(c.Builds, func(x, y library.Build) int { return strings.Compare(x.Press, y.Press) })
		slices.SortFunc(c.Spots, func(x, y library.Spot) int { return strings.Compare(x.Stock, y.Stock) })
		e.Colors = append(e.Colors, c)
	}
	gradients, err := db.Gradients(a.House.ID)
	for _, g := range gradients {
		outside := func(s library.Stop) bool {
			return !slices.ContainsFunc(colors, func(c library.Color) bool { return c.ID == s.Color.ID })
		}
		if !slices.ContainsFunc(g.Stops, outside) {
			e.Gradients = append(e.Gradients, g)
		}
	}
	if err != nil {
		return err
	}
	pairs, err := db.Pairs(a.House.ID)
	for _, p := range pairs {
		within := func(of library.Ref) bool {
			return slices.ContainsFunc(colors, func(c library.Color) bool { return c.ID == of.ID })
		}
		if within(p.Color) && within(p.Ground) {
			e.Pairs = append(e.Pairs, p)
		}
	}
	return err
}

// Edition reads a fixed edition.
func (r *Rules) Edition(ctx context.Context, a keep.Actor, set int64, number int) (library.Edition, error) {
	e, err := r.DB.With(ctx).Edition(a.House.ID, set, number)
	return e, keep.Missing(err, "edition")
}

// Pack writes an edition in a packing format. Packings carry what a person approved.
func (r *Rules) Pack(ctx context.Context, a keep.Actor, set int64, number int, packing string) (file string, p swatchfile.Packing, data []byte, err error) {
	if p, err = swatchfile.FindPacking(packing); err != nil {
		return "", p, nil, &keep.Error{Kind: keep.NotFound, Message: keep.Sentence(err.Error())}
	}
	e, err := r.Edition(ctx, a, set, number)
	if err != nil {
		return "", p, nil, err
	}
	data, err = p.Pack(e)
	return p.FileName(e), p, data, err
}

// Holder is an edition that holds a color, with the recipients that took it.
type Holder struct {
	Set        string
	SetID      int64
	Edition    int
	Hex        color.RGB8
	Recipients []string
}

// Holders finds the sets that contain a color, and the editions in force that hold a value of it: the newest of each set, and
// those that recipients still have.
func Holders(db *store.DB, a keep.Actor, id int64) (sets []string, out []Holder, err error) {
	in, err := db.SetsOf(a.House.ID, id)
	if err != nil {
		return nil, nil, err
	}
	for _, s := range in {
		sets = append(sets, s.Name)
	}
	holdings, err := db.HoldingsOf(a.House.ID, id)
	if err != nil || len(holdings) == 0 {
		return sets, nil, err
	}
	taken, err := db.Taken(a.House.ID)
	if err != nil {
		return nil, nil, err
	}
	type key struct {
		set    int64
		number int
	}
	who := map[key][]string{}
	for _, t := range taken {
		k := key{t.Set, t.Number}
		who[k] = append(who[k], t.Name)
	}
	for _, h := range holdings {
		with := who[key{h.Set, h.Number}]
		if !h.Newest && len(with) == 0 {
			continue
		}
		rgb, err := color.FromHex(h.Hex)
		if err != nil {
			return nil, nil, err
		}
		out = append(out, Holder{h.Name, h.Set, h.Number, rgb, with})
	}
	return sets, out, nil
}
