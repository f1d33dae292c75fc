package ledger

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/store"
)

// The order by hand, groups, and colors that come and go.

// PlaceColor puts a color before another one, or last, in the order by hand.
func (r *Rules) PlaceColor(ctx context.Context, a keep.Actor, id, before int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		c, err := tx.ColorToChange(a.House.ID, id)
		if err != nil {
			return keep.Missing(err, "color")
		}
		if before == id {
			return nil
		}
		if err := tx.PlaceColor(a.House.ID, id, before); err != nil {
			return keep.Missing(err, "color to stand before")
		}
		if before == 0 {
			return nil
		}
		next, err := tx.Color(a.House.ID, before)
		if err != nil || next.Group == c.Group {
			return keep.Missing(err, "color to stand before")
		}
		return tx.MoveToGroup(a.House.ID, id, next.Group)
	})
}

// RenameGroup gives a group another name.
func (r *Rules) RenameGroup(ctx context.Context, a keep.Actor, old, name string) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	n, err := keep.Name("name", name)
	if err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		g, err := tx.GroupNamed(a.House.ID, old)
		if err != nil {
			return keep.Missing(err, "group")
		}
		g.Name, g.NameKey = n, store.NameKey(n)
		return keep.Taken(tx.Save(&g), "name", "there is a group named %s already", n)
	})
}

// DeleteGroup takes a group away; its colors stay, without one.
func (r *Rules) DeleteGroup(ctx context.Context, a keep.Actor, name string) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		g, err := tx.GroupNamed(a.House.ID, name)
		if err == nil {
			err = tx.DeleteGroup(a.House.ID, g.ID)
		}
		return keep.Missing(err, "group")
	})
}

// Remove takes a color away that was admitted by mistake: one that no edition, no audited file, no other color and no gradient
// holds. Anything else can only be retired, and the error says who holds it. Unremove is the way back.
//
// A contributor withdraws an own proposal so.
func (r *Rules) Remove(ctx context.Context, a keep.Actor, id int64, version int) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		if err := r.mayChange(tx, a, id); err != nil {
			return err
		}
		c, err := r.toChange(tx, a, id, version)
		if err != nil {
			return err
		}
		if err := held(tx, a, c); err != nil {
			return err
		}
		if c.History, err = allEvents(tx, id); err != nil {
			return err
		}
		sets, err := tx.SetsOf(a.House.ID, id)
		if err != nil {
			return err
		}
		text, err := writeRemoved(c, sets)
		if err != nil {
			return err
		}
		if err := tx.KeepRemoved(store.RemovedColor{HouseID: a.House.ID, ColorID: id, Content: text, ByUser: a.ByUser(), ByName: a.Name,
			RemovedAt: r.Now()}); err != nil {
			return err
		}
		return tx.DeleteColors(a.House.ID, []int64{id})
	})
}

// held says who holds a color, as an error, if anybody does.
func held(tx *store.DB, a keep.Actor, c library.Color) error {
	refuse := func(format string, args ...any) error {
		return &keep.Error{Kind: keep.Conflict, Code: keep.CodeHeld,
			Message: fmt.Sprintf("%s cannot be removed: %s. It can be retired.", c.Name, fmt.Sprintf(format, args...))}
	}
	holdings, err := tx.HoldingsOf(a.House.ID, c.ID)
	if err != nil {
		return err
	}
	if n := len(holdings); n > 0 {
		more := ""
		if n > 1 {
			more = fmt.Sprintf(", as do %d more", n-1)
		}
		return refuse("edition %d of %s holds it%s", holdings[0].Number, holdings[0].Name, more)
	}
	others, err := tx.PointingAt(a.House.ID, c.ID)
	if err != nil {
		return err
	}
	if len(others) > 0 {
		return refuse("it is the successor or the ground of %s", some(others))
	}
	gradients, err := tx.GradientsOf(a.House.ID, c.ID)
	if err != nil {
		return err
	}
	if len(gradients) > 0 {
		return refuse("the gradient %s runs through it", some(gradients))
	}
	pairs, err := tx.Pairs(a.House.ID)
	if err != nil {
		return err
	}
	for _, p := range pairs {
		if p.Color.ID == c.ID || p.Ground.ID == c.ID {
			return refuse("a rule says that %s %s; take that back first", p.Color.Name, p)
		}
	}
	files, err := tx.AuditsWith(a.House.ID, c.RGB.Hex(), 3)
	if err != nil {
		return err
	}
	if len(files) > 0 {
		return refuse("the audited file %s has it", some(files))
	}
	return nil
}

func allEvents(tx *store.DB, color int64) ([]library.Event, error) {
	var out []library.Event
	for before := int64(0); ; {
		page, err := tx.Events(color, before, limits.Page)
		if err != nil || len(page) == 0 {
			slices.Reverse(out)
			return out, err
		}
		out, before = append(out, page...), page[len(page)-1].ID
	}
}

// removed is a removed color as it is kept for a while.
type removed struct {
	Version  int             `json:"version"` // of this form
	State    json.RawMessage `json:"state"`
	Position int             `json:"position"`
	Changes  int             `json:"changes"`
	Added    time.Time       `json:"added"`
	Changed  time.Time       `json:"changed"`
	Events   []removedEvent  `json:"events"`
	Sets     []removedPlace  `json:"sets"`
}

type removedEvent struct {
	At      time.Time `json:"at"`
	By      string    `json:"by"`
	Account int64     `json:"account,omitempty"`
	What    string    `json:"what"`
	Before  string    `json:"before,omitempty"`
	After   string    `json:"after,omitempty"`
	State   string    `json:"state,omitempty"`
	From    string    `json:"from,omitempty"`
}

type removedPlace struct {
	Set      int64 `json:"set"`
	Position int   `json:"position"`
}

func writeRemoved(c library.Color, sets []store.SetPlace) (string, error) {
	state, err := c.WriteState()
	if err != nil {
		return "", err
	}
	k := removed{Version: 1, State: json.RawMessage(state), Position: c.Position, Changes: c.Version, Added: c.Added, Changed: c.Changed}
	for _, e := range c.History {
		k.Events = append(k.Events, removedEvent{e.At, e.By.Name, e.By.Account, e.What, e.Before, e.After, e.State, e.From})
	}
	for _, s := range sets {
		k.Sets = append(k.Sets, removedPlace{s.Set, s.Position})
	}
	text, err := json.Marshal(k)
	return string(text), err
}

func readRemoved(text string) (c library.Color, sets []removedPlace, err error) {
	var k removed
	if err := json.Unmarshal([]byte(text), &k); err != nil {
		return c, nil, err
	}
	if c, err = library.ReadState(string(k.State)); err != nil {
		return c, nil, err
	}
	c.Position, c.Version, c.Added, c.Changed = k.Position, k.Changes, k.Added, k.Changed
	for _, e := range k.Events {
		c.History = append(c.History, library.Event{At: e.At, By: library.Person{Account: e.Account, Name: e.By}, What: e.What,
			Before: e.Before, After: e.After, State: e.State, From: e.From})
	}
	return c, k.Sets, nil
}

// Unremove brings a removed color back as it was, into the sets that it was in.
func (r *Rules) Unremove(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		row, err := tx.Removed(a.House.ID, id)
		if err != nil {
			return keep.Missing(err, "removed color")
		}
		c, sets, err := readRemoved(row.Content)
		if err != nil {
			return fmt.Errorf("removed color %d: %w", id, err)
		}
		c.ID = id
		c.Version++ // whoever saw it before must look again
		gone := c.Point(func(ref library.Ref) library.Ref { return r.stillThere(tx, a, ref, true) })
		groups, err := ensureGroups(tx, a, []library.Color{c})
		if err != nil {
			return err
		}
		if err := tx.AddColors(a.House.ID, groups, []library.Color{c}); err != nil {
			return keep.Taken(err, "name", "the name %s is taken by another color meanwhile", c.Name)
		}
		events := append(c.History, library.Event{At: r.Now(), By: a.Person(),
			What: fmt.Sprintf("removed by %s and brought back", row.ByName) + withoutSheers(gone)})
		if events[len(events)-1].State, err = c.WriteState(); err != nil {
			return err
		}
		if err := tx.AddEvents(map[int64][]library.Event{id: events}, []int64{id}); err != nil {
			return err
		}
		for _, p := range sets {
			s, err := tx.SetToChange(a.House.ID, p.Set)
			if errors.Is(err, store.ErrNotFound) {
				continue
			} else if err != nil {
				return err
			}
			s.Colors = slices.Insert(s.Colors, min(p.Position, len(s.Colors)), id)
			s.Version++
			if err := tx.SaveSet(s); err != nil {
				return err
			}
		}
		return nil
	})
}

// CopyColors copies or moves colors into another house of the actor's, given as the actor there, where they must be a keeper
// too. A name that is taken there gets a number.
func (r *Rules) CopyColors(ctx context.Context, a, to keep.Actor, ids []int64, move bool) (int, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return 0, err
	}
	if err := to.May(keep.RoleKeeper); err != nil {
		return 0, err
	}
	if to.House.ID == a.House.ID {
		return 0, keep.Wrong("house", "the colors are in %s already", a.House.Name)
	}
	if len(ids) == 0 {
		return 0, keep.Wrong("colors", "no color is chosen")
	}
	if err := keep.IDs("colors", ids, limits.LibraryColors); err != nil {
		return 0, err
	}
	err := r.DB.In(ctx, func(tx *store.DB) error {
		// Always in one order, or two who copy to and fro would wait for each other.
		for _, h := range []int64{min(a.House.ID, to.House.ID), max(a.House.ID, to.House.ID)} {
			if err := tx.LockHouse(h); err != nil {
				return err
			}
		}
		there, err := tx.Colors(to.House.ID)
		if err != nil {
			return err
		}
		if n := len(there) + len(ids); n > limits.LibraryColors {
			return keep.Clash("colors", "%s would hold %d colors; at most %d fit", to.House.Name, n, limits.LibraryColors)
		}
		names := map[string]bool{}
		for _, c := range there {
			names[store.NameKey(c.Name)] = true
		}
		last, err := tx.LastPosition(to.House.ID)
		if err != nil {
			return err
		}
		colors, err := tx.ColorsToChange(a.House.ID, ids)
		if err != nil {
			return keep.Missing(err, "color")
		}
		now := r.Now()
		was, gone := make([]string, len(colors)), make([]int, len(colors))
		for i := range colors {
			c := &colors[i]
			last++
			was[i] = c.Name
			c.ID = 0
			gone[i] = c.Point(func(library.Ref) library.Ref { return library.Ref{} })
			c.Position, c.Version, c.Added, c.Changed = last, 1, now, now
			for n := 2; names[store.NameKey(c.Name)]; n++ {
				c.Name = fmt.Sprintf("%s %d", was[i], n)
			}
			names[store.NameKey(c.Name)] = true
		}
		groups, err := ensureGroups(tx, to, colors)
		if err != nil {
			return err
		}
		if err := tx.AddColors(to.House.ID, groups, colors); err != nil {
			return keep.Taken(err, "colors", "a name is taken in %s", to.House.Name)
		}
		history := map[int64][]library.Event{}
		var order []int64
		for i, c := range colors {
			e := library.Event{At: now, By: a.Person(), What: fmt.Sprintf("came from %s as %s", a.House.Name, c.RGB.Hex()) +
				withoutSheers(gone[i]), After: c.RGB.Hex()}
			if e.State, err = c.WriteState(); err != nil {
				return err
			}
			history[c.ID], order = []library.Event{e}, append(order, c.ID)
		}
		if err := tx.AddEvents(history, order); err != nil {
			return err
		}
		if move {
			return tx.DeleteColors(a.House.ID, ids)
		}
		return nil
	})
	return len(ids), err
}
