// Package send holds the rules of swatch sets, their editions, and who gets them.
package send

import (
	"context"
	"slices"
	"time"

	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/keep/media"
	"huekeep/standin"
	"huekeep/store"
)

// Rules are the rules of sets, editions and recipients.
type Rules struct {
	*keep.Base
	Media     *media.Rules
	Receivers map[string]standin.Application // by kind of recipient
}

// New makes the rules, with the receiving applications that ship with the program.
func New(b *keep.Base, m *media.Rules) *Rules {
	return &Rules{b, m, map[string]standin.Application{"office": standin.Office{}, "web": standin.Web{}}}
}

// Set is a swatch set with its editions and with who holds what.
type Set struct {
	ID       int64
	Name     string
	Version  int
	Members  []library.Color
	Editions []EditionLine // newest first
	Changes  []string      // what is different from the newest edition
	Holdings []Holding
}

// EditionLine is an edition without its colors.
type EditionLine struct {
	Number int
	At     time.Time
	By     string
	Count  int // of colors
}

// Sets lists the house's swatch sets.
func (r *Rules) Sets(ctx context.Context, a keep.Actor) ([]Set, error) {
	return r.sets(r.DB.With(ctx), a)
}

func (r *Rules) sets(db *store.DB, a keep.Actor) ([]Set, error) {
	rows, err := db.Sets(a.House.ID)
	if err != nil {
		return nil, err
	}
	colors, err := db.Colors(a.House.ID)
	if err != nil {
		return nil, err
	}
	byID := map[int64]library.Color{}
	for _, c := range colors {
		if a.Sees(c) {
			byID[c.ID] = c
		}
	}
	lines, err := db.EditionLines(a.House.ID)
	if err != nil {
		return nil, err
	}
	newest, err := db.NewestEditions(a.House.ID)
	if err != nil {
		return nil, err
	}
	recipients, err := db.Recipients(a.House.ID)
	if err != nil {
		return nil, err
	}
	members, err := db.SetRecipients(a.House.ID)
	if err != nil {
		return nil, err
	}
	deliveries, err := db.Deliveries(a.House.ID)
	if err != nil {
		return nil, err
	}
	editions := map[int64][]EditionLine{}
	for _, l := range lines {
		editions[l.SetID] = append(editions[l.SetID], EditionLine{l.Number, l.FixedAt, l.By.Name, l.Count})
	}
	out := []Set{}
	for _, row := range rows {
		s := Set{ID: row.ID, Name: row.Name, Version: row.Version, Editions: editions[row.ID]}
		for _, id := range row.Colors {
			if c, ok := byID[id]; ok {
				s.Members = append(s.Members, c)
			}
		}
		if len(s.Editions) > 0 {
			s.Changes = library.Changes(newest[row.ID].Colors, s.Members)
		}
		for _, to := range recipients {
			if slices.Contains(members[row.ID], to.ID) {
				s.Holdings = append(s.Holdings, holding(s, to, deliveries))
			}
		}
		out = append(out, s)
	}
	return out, nil
}

// Set reads one set.
func (r *Rules) Set(ctx context.Context, a keep.Actor, id int64) (Set, error) {
	return r.set(r.DB.With(ctx), a, id)
}

func (r *Rules) set(db *store.DB, a keep.Actor, id int64) (Set, error) {
	all, err := r.sets(db, a)
	if err != nil {
		return Set{}, err
	}
	for _, s := range all {
		if s.ID == id {
			return s, nil
		}
	}
	return Set{}, keep.None("swatch set")
}

// CreateSet makes a swatch set.
func (r *Rules) CreateSet(ctx context.Context, a keep.Actor, name string, colors []int64) (id int64, err error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return 0, err
	}
	n, err := keep.Name("name", name)
	if err != nil {
		return 0, err
	}
	err = r.Change(ctx, a, func(tx *store.DB) error {
		s := newSet(a, n)
		s.Colors = colors
		if err := usable(tx, a, colors); err != nil {
			return err
		}
		sets, err := tx.Sets(a.House.ID)
		if err != nil {
			return err
		}
		s.Position = len(sets)
		err = tx.AddSet(&s)
		id = s.ID
		return keep.Taken(err, "name", "there is a swatch set named %s already", n)
	})
	return id, err
}

func newSet(a keep.Actor, name string) store.SetWith {
	return store.SetWith{SwatchSet: store.SwatchSet{HouseID: a.House.ID, Name: name, NameKey: store.NameKey(name), Version: 1}}
}

// usable checks that colors can be in a set: they exist, once each.
func usable(tx *store.DB, a keep.Actor, colors []int64) error {
	if len(colors) > limits.SetColors {
		return keep.Wrong("colors", "a swatch set holds at most %d colors", limits.SetColors)
	}
	if len(colors) == 0 {
		return nil
	}
	seen := map[int64]bool{}
	for _, id := range colors {
		if seen[id] {
			return keep.Wrong("colors", "a color is in the set twice")
		}
		seen[id] = true
	}
	_, err := tx.ColorsToChange(a.House.ID, colors)
	return keep.Missing(err, "color")
}

// ChangeSet renames a set and gives it other colors or another order.
func (r *Rules) ChangeSet(ctx context.Context, a keep.Actor, id int64, version int, name string, colors []int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	n, err := keep.Name("name", name)
	if err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		s, err := tx.SetToChange(a.House.ID, id)
		if err != nil {
			return keep.Missing(err, "swatch set")
		}
		if s.Version != version {
			return keep.Stale("the swatch set %s was changed by somebody else meanwhile; look at it again", s.Name)
		}
		if err := usable(tx, a, colors); err != nil {
			return err
		}
		s.Name, s.NameKey, s.Colors = n, store.NameKey(n), colors
		s.Version++
		return keep.Taken(tx.SaveSet(s), "name", "there is a swatch set named %s already", n)
	})
}

// Join puts colors on the set of a name, which is made if there is none, behind those that it has or instead of them. A color
// that is on the set already is not there twice. The house is locked.
func Join(tx *store.DB, a keep.Actor, name string, replace bool, colors []int64) error {
	n, err := keep.Name("set", name)
	if err != nil {
		return err
	}
	sets, err := tx.Sets(a.House.ID)
	if err != nil {
		return err
	}
	s := newSet(a, n)
	s.Position = len(sets) + 1
	if at := slices.IndexFunc(sets, func(o store.SetWith) bool { return o.NameKey == s.NameKey }); at >= 0 {
		s = sets[at]
		s.Version++
		if replace {
			s.Colors = nil
		}
	}
	on := map[int64]bool{}
	for _, c := range s.Colors {
		on[c] = true
	}
	for _, c := range colors {
		if !on[c] {
			s.Colors, on[c] = append(s.Colors, c), true
		}
	}
	if len(s.Colors) > limits.SetColors {
		return keep.Wrong("set", "the set %s would hold %d colors; at most %d fit", n, len(s.Colors), limits.SetColors)
	}
	if s.ID == 0 {
		return keep.Taken(tx.AddSet(&s), "set", "somebody else just made a swatch set named %s; look again", n)
	}
	return tx.SaveSet(s)
}

// DeleteSet deletes a set that has no edition: an edition that somebody may hold is never taken away.
func (r *Rules) DeleteSet(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		s, err := r.set(tx, a, id)
		if err != nil {
			return err
		}
		if n := len(s.Editions); n > 0 {
			return keep.Clash("", "%s has %d editions, which recipients may hold; it stays", s.Name, n)
		}
		return keep.Missing(tx.DeleteSet(a.House.ID, id), "swatch set")
	})
}
