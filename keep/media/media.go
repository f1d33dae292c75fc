// Package media holds what a house prints with, its presses and its ink book, and how colors look in each medium.
package media

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"sync"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/press"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/reading"
	"huekeep/store"
)

// Rules are the rules of presses, ink books and faces.
type Rules struct {
	*keep.Base
	presses  cache[int64, *press.Condition] // by the row's id, under which a profile never changes
	books    cache[bookKey, *ink.Book]
	faces    cache[faceKey, Faces]
	outlines cache[reachKey, color.Outline]
	reach    cache[reachKey, bool]
}

// New makes the rules.
func New(b *keep.Base) *Rules {
	return &Rules{Base: b, presses: cache[int64, *press.Condition]{most: 64}, books: cache[bookKey, *ink.Book]{most: 64},
		faces:    cache[faceKey, Faces]{most: 60_000},
		outlines: cache[reachKey, color.Outline]{most: 64}, reach: cache[reachKey, bool]{most: 100_000}}
}

// cache remembers up to a number of answers; to make room it forgets one at a time, whichever comes.
type cache[K comparable, V any] struct {
	sync.RWMutex
	most int
	of   map[K]V
}

func (c *cache[K, V]) get(k K) (V, bool) {
	c.RLock()
	defer c.RUnlock()
	v, ok := c.of[k]
	return v, ok
}

func (c *cache[K, V]) put(k K, v V) {
	c.Lock()
	defer c.Unlock()
	if c.of == nil {
		c.of = map[K]V{}
	}
	for old := range c.of { // Go begins anywhere in a map
		if len(c.of) < c.most {
			break
		}
		delete(c.of, old)
	}
	c.of[k] = v
}

// Press is a press condition that builds are made for.
type Press struct {
	*press.Condition
	Shipped bool
	By      string
}

// Digest tells profiles apart: of the same bytes it is the same.
func (p Press) Digest() string {
	sum := sha256.Sum256(p.Profile())
	return hex.EncodeToString(sum[:8])
}

// Condition finds a press condition by name, one that ships or one of the house's own.
func (r *Rules) Condition(db *store.DB, house int64, name string) (*press.Condition, error) {
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
		return nil, &keep.Error{Kind: keep.NotFound, Message: keep.Sentence(err.Error() + ", and those that keepers of the house added")}
	}
	return r.own(db, house, own[at])
}

func (r *Rules) own(db *store.DB, house int64, line store.Press) (*press.Condition, error) {
	if c, ok := r.presses.get(line.ID); ok {
		return c, nil
	}
	row, err := db.Press(house, line.Name)
	if err != nil {
		return nil, err
	}
	c, err := press.New(row.Name, row.Label, row.InkLimit, row.Profile)
	if err != nil {
		return nil, err
	}
	r.presses.put(line.ID, c)
	return c, nil
}

// Profile is the ICC profile of a press of the house's own.
func (r *Rules) Profile(ctx context.Context, a keep.Actor, name string) ([]byte, error) {
	row, err := r.DB.With(ctx).Press(a.House.ID, name)
	return row.Profile, keep.Missing(err, "press of the house's own")
}

// Presses lists the conditions of a house, those that ship first.
func (r *Rules) Presses(ctx context.Context, a keep.Actor) ([]Press, error) {
	return r.PressesOf(r.DB.With(ctx), a.House.ID)
}

// Approved counts the colors of a house that have an approved build, by press.
func (r *Rules) Approved(ctx context.Context, a keep.Actor) (map[string]int, error) {
	return r.DB.With(ctx).BuiltCounts(a.House.ID)
}

// PressesOf lists the conditions of a house in a transaction.
func (r *Rules) PressesOf(db *store.DB, house int64) ([]Press, error) {
	var out []Press
	for _, s := range press.Shipped {
		c, err := press.Get(s.Name)
		if err != nil {
			return nil, err
		}
		out = append(out, Press{Condition: c, Shipped: true})
	}
	own, err := db.Presses(house)
	for _, row := range own {
		c, err := r.own(db, house, row)
		if err != nil {
			return nil, err
		}
		out = append(out, Press{c, false, row.ByName})
	}
	return out, err
}

// pressOf is what a press condition has beside its profile.
type pressOf struct {
	Name, Label string
	InkLimit    float64
}

// pressTask makes a press condition of a profile and a build on it, to see that it can be used.
var pressTask = reading.NewTask("press", func(of pressOf, profile []byte) ([]byte, error) {
	c, err := press.New(of.Name, of.Label, of.InkLimit, profile)
	if err != nil {
		return nil, fmt.Errorf("the profile cannot be used: %w", err)
	}
	c.Build(color.Lab{L: 50}) // what is worked out at the first one
	return nil, nil
})

// AddPress makes a press condition of a printer's ICC profile. Without an ink limit the most ink that the profile itself asks
// for is one.
func (r *Rules) AddPress(ctx context.Context, a keep.Actor, label string, inkLimit float64, profile []byte) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	l, err := keep.Name("label", label)
	if err != nil {
		return err
	}
	key := keep.Short(swatchfile.Slug(l), 60)
	if _, err := press.Get(key); err == nil {
		return keep.Clash("label", "%s is a press that ships; give yours another name", l)
	}
	if inkLimit != 0 && !(inkLimit >= 100 && inkLimit <= 400) {
		return keep.Wrong("inkLimit", "a total ink limit lies between 100 and 400 percent")
	}
	if _, err := keep.Apart(ctx, r.Base, a, pressTask, "the profile", pressOf{key, l, inkLimit}, profile); err != nil {
		return err
	}
	c, err := press.New(key, l, inkLimit, profile)
	if err != nil {
		return keep.Wrong("file", "the profile cannot be used: %v", err)
	}
	row := store.Press{HouseID: a.House.ID, Name: key, Label: l, InkLimit: c.InkLimit, Profile: profile, ByName: a.Name, AddedAt: r.Now()}
	return keep.Taken(r.DB.With(ctx).Add(&row), "label", "there is a press named %s already", l)
}

// DeletePress takes a press of the house's own away, unless builds are approved for it.
func (r *Rules) DeletePress(ctx context.Context, a keep.Actor, key string) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	if _, err := press.Get(key); err == nil {
		return keep.Clash("", "the presses that ship stay")
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		names, err := tx.BuiltFor(a.House.ID, key)
		if err != nil {
			return err
		}
		if len(names) > 0 {
			return keep.Clash("", "builds for this press are approved of %s; take the approvals back first", keep.Names(names))
		}
		return keep.Missing(tx.DeletePress(a.House.ID, key), "press")
	})
}
