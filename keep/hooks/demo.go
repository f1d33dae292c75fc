package hooks

import (
	"context"
	"errors"

	"huekeep/keep"
	"huekeep/store"
)

// LoadDemo has the stand-in program of the demo told of everything in the house of a name, at the address that it has this time. Nobody is
// told anew whom somebody dropped.
func (r *Rules) LoadDemo(ctx context.Context, house, address string, trust func(secret string)) error {
	db := r.DB.With(ctx)
	h, err := db.HouseByName(house)
	if errors.Is(err, store.ErrNotFound) {
		return nil // renamed or gone
	} else if err != nil {
		return err
	}
	a := keep.Actor{Name: "Keeper", House: keep.HouseOf(h), Role: keep.RoleKeeper}
	rows, err := db.Hooks(h.ID)
	if err != nil {
		return err
	}
	for _, row := range rows {
		if row.ByName != demoName {
			continue
		}
		secret, err := r.Keys.Decrypt(row.Secret, place(row.ID))
		if err != nil { // of a server with other keys, whose database this one has
			if err := db.In(ctx, func(tx *store.DB) error { return tx.DropHook(h.ID, row.ID) }); err != nil {
				return err
			}
			break
		}
		trust(secret)
		row.Address = address
		return db.Save(&row)
	}
	if changed, err := db.OnTrail(h.ID, "dropHook"); err != nil || changed {
		return err
	}
	a.Name = demoName
	made, err := r.Add(ctx, a, Content{Address: address})
	if err != nil {
		return err
	}
	trust(made.Secret)
	_, err = r.Test(ctx, a, made.ID)
	return err
}

// demoName is who made the hook of the demo.
const demoName = "The demo"
