package keep

import (
	"context"
	"fmt"
	"slices"
	"sync"

	"huekeep/core/press"
	"huekeep/core/swatchfile"
	"huekeep/store"
)

// Press is a press condition that builds are made for.
type Press struct {
	*press.Condition
	Shipped bool
	By      string
}

// pressCache keeps the conditions of houses; a profile never changes under its id.
type pressCache struct {
	sync.Mutex
	of map[int64]*press.Condition
}

const cachedPresses = 64 // a parsed profile takes up to some megabytes

// condition finds a press condition by name, one that ships or one of the house's own.
func (k *Keeper) condition(db *store.DB, house int64, name string) (*press.Condition, error) {
	shipped, err := press.Get(name)
	if err == nil {
		return shipped, nil
	}
	own, failed := db.Presses(house) // without the profiles, which are large
	if failed != nil {
		return nil, failed
	}
	at := slices.IndexFunc(own, func(p store.Press) bool { return p.Name == name })
	if at < 0 {
		return nil, &Error{Kind: NotFound, Message: sentence(err.Error() + ", and those that keepers of the house added")}
	}
	k.presses.Lock()
	defer k.presses.Unlock()
	if c, ok := k.presses.of[own[at].ID]; ok {
		return c, nil
	}
	row, err := db.Press(house, name)
	if err != nil {
		return nil, err
	}
	c, err := press.New(row.Name, row.Label, row.InkLimit, row.Profile)
	if err != nil {
		return nil, fmt.Errorf("press %s: %w", row.Name, err)
	}
	if len(k.presses.of) >= cachedPresses {
		clear(k.presses.of)
	}
	k.presses.of[row.ID] = c
	return c, nil
}

// Presses lists the conditions of a house, those that ship first.
func (k *Keeper) Presses(ctx context.Context, a Actor) ([]Press, error) {
	var out []Press
	for _, s := range press.Shipped {
		c, err := press.Get(s.Name)
		if err != nil {
			return nil, err
		}
		out = append(out, Press{Condition: c, Shipped: true})
	}
	db := k.DB.With(ctx)
	own, err := db.Presses(a.House.ID)
	for _, row := range own {
		c, err := k.condition(db, a.House.ID, row.Name)
		if err != nil {
			return nil, err
		}
		out = append(out, Press{c, false, row.ByName})
	}
	return out, err
}

// AddPress makes a press condition of a printer's ICC profile. Without an ink limit the most ink that the profile itself asks
// for is one.
func (k *Keeper) AddPress(ctx context.Context, a Actor, label string, inkLimit float64, profile []byte) error {
	if err := a.may(RoleKeeper); err != nil {
		return err
	}
	l, err := name("label", label)
	if err != nil {
		return err
	}
	key := short(swatchfile.Slug(l), 60)
	if _, err := press.Get(key); err == nil {
		return conflict("label", "%s is a press that ships; give yours another name", l)
	}
	if inkLimit != 0 && !(inkLimit >= 100 && inkLimit <= 400) {
		return invalid("inkLimit", "a total ink limit lies between 100 and 400 percent")
	}
	c, err := press.New(key, l, inkLimit, profile)
	if err != nil {
		return invalid("file", "the profile cannot be used: %v", err)
	}
	row := store.Press{HouseID: a.House.ID, Name: key, Label: l, InkLimit: c.InkLimit, Profile: profile, ByName: a.Name, AddedAt: k.Now()}
	return taken(k.DB.With(ctx).Add(&row), "label", "there is a press named %s already", l)
}

// DeletePress takes a press of the house's own away, unless builds are approved for it.
func (k *Keeper) DeletePress(ctx context.Context, a Actor, key string) error {
	if err := a.may(RoleKeeper); err != nil {
		return err
	}
	if _, err := press.Get(key); err == nil {
		return conflict("", "the presses that ship stay")
	}
	return k.DB.In(ctx, func(tx *store.DB) error {
		n, err := tx.BuildsFor(a.House.ID, key)
		if err != nil {
			return err
		}
		if n > 0 {
			return conflict("", "%d colors have an approved build for this press; take the approvals back first", n)
		}
		return missing(tx.DeletePress(a.House.ID, key), "press")
	})
}
