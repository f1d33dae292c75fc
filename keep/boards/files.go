package boards

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"

	"huekeep/core/board/page"
	"huekeep/core/limits"
	"huekeep/core/typeface"
	"huekeep/keep"
	"huekeep/reading"
	"huekeep/store"
)

// Forms are the files that a sheet can be had as, with their media types.
var Forms = map[string]string{"pdf": "application/pdf", "png": "image/png"}

// File writes a sheet as PDF or PNG.
func (r *Rules) File(ctx context.Context, a keep.Actor, id int64, number int, form string) (name string, data []byte, err error) {
	s, err := r.Sheet(ctx, a, id, number)
	if err != nil {
		return "", nil, err
	}
	if _, ok := Forms[form]; !ok {
		return "", nil, &keep.Error{Kind: keep.NotFound, Message: fmt.Sprintf("A sheet can be had as pdf or png, not as %q.", form)}
	}
	db := r.DB.With(ctx)
	drawn := page.Sheet{House: a.House.Name, Number: s.Number, FixedAt: s.Fixed, Board: s.Board}
	if drawn.Faces, err = faces(db, a, s.Board); err != nil {
		return "", nil, err
	}
	if drawn.Logo, err = r.logo(ctx, a, s.Logo); err != nil {
		return "", nil, err
	}
	done, err := keep.Reading(ctx, a.House.ID)
	if err != nil {
		return "", nil, err
	}
	defer done()
	if form == "pdf" {
		data, err = page.PDF(drawn)
	} else {
		data, err = page.PNG(drawn)
	}
	if err != nil {
		return "", nil, keep.Clash("", "the sheet cannot be drawn: %v", err)
	}
	return fmt.Sprintf("%s, sheet %d.%s", s.Title, s.Number, form), data, nil
}

// ofTheHouse is the kind of typefaces that a house brought.
const ofTheHouse = "of the house"

// Typefaces lists what options can be set in: those that ship, then those of the house, without their data.
func (r *Rules) Typefaces(ctx context.Context, a keep.Actor) ([]typeface.Typeface, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return nil, err
	}
	rows, err := r.DB.With(ctx).Typefaces(a.House.ID)
	var out []typeface.Typeface
	for _, t := range typeface.Shipped() {
		out = append(out, typeface.Typeface{Key: t.Key, Name: t.Name, Kind: t.Kind})
	}
	for _, row := range rows {
		out = append(out, typeface.Typeface{Key: OwnKey(row.ID), Name: row.Name, Kind: ofTheHouse})
	}
	return out, err
}

// typefaceTask finds the name of a font that can be used.
var typefaceTask = reading.NewTask("typeface", func(file string, data []byte) ([]byte, error) {
	name, err := typeface.Check(data)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", file, err)
	}
	return []byte(name), nil
})

// logoTask reads a logo, to see that it can be read.
var logoTask = reading.NewTask("logo", func(_ struct{}, data []byte) ([]byte, error) {
	_, err := page.ReadLogo(data)
	return nil, err
})

// AddTypeface takes in a font of the house: it is checked, and embedded in what is sent.
func (r *Rules) AddTypeface(ctx context.Context, a keep.Actor, file string, data []byte) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	file = keep.Short(file, limits.FileNameRunes)
	found, err := keep.Apart(ctx, r.Base, a, typefaceTask, file, file, data)
	if err != nil {
		return err
	}
	name := string(found)
	if name, err = keep.Name("file", keep.Short(cmp.Or(name, file), limits.NameRunes)); err != nil {
		return err
	}
	return r.Base.Change(ctx, a, func(tx *store.DB) error {
		there, err := tx.Typefaces(a.House.ID)
		if err != nil {
			return err
		}
		if n := len(there); n >= limits.Typefaces {
			return keep.Clash("file", "the house has %d typefaces; that is as many as it can keep", n)
		}
		for _, t := range there {
			if t.Name == name {
				return keep.Clash("file", "the house has a typeface named %s already", name)
			}
		}
		return tx.Add(&store.Typeface{HouseID: a.House.ID, Name: name, Kind: typeface.Kind(data), Data: data, ByName: a.Name,
			AddedAt: r.Now()})
	})
}

// RemoveTypeface takes a typeface of the house away. What is set in it stays so.
func (r *Rules) RemoveTypeface(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return keep.Missing(r.DB.With(ctx).RemoveTypeface(a.House.ID, id, r.Now()), "typeface")
}

// TypefaceFile is a font of the house, for its members, and for the holder of a link to a sheet that is set in it.
func (r *Rules) TypefaceFile(ctx context.Context, a keep.Actor, id int64) (data []byte, err error) {
	db := r.DB.With(ctx)
	if a.Link != nil {
		if own, err := r.OwnTypefaces(ctx, a); err != nil {
			return nil, err
		} else if !slices.Contains(own, id) {
			return nil, keep.None("typeface")
		}
	} else if err := a.May(keep.RoleContributor); err != nil {
		return nil, err
	}
	row, err := db.Typeface(a.House.ID, id)
	return row.Data, keep.Missing(err, "typeface")
}

// OwnTypefaces lists the numbers of the house's own typefaces on the sheet that a link leads to.
func (r *Rules) OwnTypefaces(ctx context.Context, a keep.Actor) (out []int64, err error) {
	row, err := r.DB.With(ctx).BoardSheet(a.House.ID, a.Link.Thing)
	if err != nil {
		return nil, keep.Missing(err, "sheet")
	}
	s, err := sheetOf(row)
	for _, o := range s.Options {
		if id, ok := Own(o.Typeface); ok && !slices.Contains(out, id) {
			out = append(out, id)
		}
	}
	return out, err
}

// KeepLogo takes in a logo for boards and says under which name they carry it.
func (r *Rules) KeepLogo(ctx context.Context, a keep.Actor, data []byte) (key string, err error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return "", err
	}
	if _, err := keep.Apart(ctx, r.Base, a, logoTask, "the logo", struct{}{}, data); err != nil {
		return "", err
	}
	sum := sha256.Sum256(data)
	key = hex.EncodeToString(sum[:])
	return key, r.DB.With(ctx).KeepLogo(store.Logo{HouseID: a.House.ID, SHA256: key, Data: data})
}

// Logo is a logo of the house's boards.
func (r *Rules) Logo(ctx context.Context, a keep.Actor, key string) ([]byte, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return nil, err
	}
	return r.logo(ctx, a, key)
}

func (r *Rules) logo(ctx context.Context, a keep.Actor, key string) ([]byte, error) {
	if key == "" {
		return nil, nil
	}
	l, err := r.DB.With(ctx).Logo(a.House.ID, key)
	return l.Data, keep.Missing(err, "logo")
}
