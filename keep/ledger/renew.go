package ledger

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/store"
)

// Renewal gives a color of the library the values that arrived under its name: what decides it, and what came along with that.
type Renewal struct {
	Color   int64
	Version int           // the version that the caller saw
	To      library.Color // its master, hex, builds and inks; the rest is not looked at
	Source  string        // where they come from, in words; may be empty
}

// Renewed is a color that was given new values.
type Renewed struct {
	library.Color
	Was   color.RGB8
	Event int64 // of its history, that holds what it was before
}

// Renew amends colors in one change, all or none; those that have these values already are not among what it returns. Approved builds and
// inks that nothing came for stay, and are flagged. Errors name the colors.
func (r *Rules) Renew(tx *store.DB, a keep.Actor, list []Renewal) (out []Renewed, err error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return nil, err
	}
	var ids []int64
	for _, n := range list {
		ids = append(ids, n.Color)
	}
	before, err := tx.NewestEvents(ids)
	if err != nil {
		return nil, err
	}
	var changed []library.Color
	var order []int64
	history := map[int64][]library.Event{}
	for _, n := range list {
		c, err := r.toChange(tx, a, n.Color, n.Version)
		if err != nil {
			return nil, err
		}
		if c.Retired() {
			return nil, keep.Clash("amend", "%s is retired; a new value is for what replaces it", c.Name)
		}
		was := c.RGB
		events := renewed(&c, n, a.Person(), r.Now())
		if len(events) == 0 {
			continue
		}
		if history[c.ID], err = r.sign(a, &c, events); err != nil {
			return nil, err
		}
		changed, order = append(changed, c), append(order, c.ID)
		out = append(out, Renewed{c, was, before[c.ID]})
	}
	if len(changed) == 0 {
		return nil, nil
	}
	groups, err := ensureGroups(tx, a, changed)
	if err != nil {
		return nil, err
	}
	return out, errors.Join(tx.SaveColors(a.House.ID, groups, changed), tx.SavePrint(changed), tx.AddEvents(history, order))
}

// renewed gives a color new values and says in sentences what that changed; none if nothing did.
func renewed(c *library.Color, n Renewal, by library.Person, at time.Time) (events []library.Event) {
	was := *c
	to := n.To
	from := ""
	if n.Source != "" && n.Source != to.Shows() {
		from = fmt.Sprintf(", from \u201c%s\u201d", n.Source)
	}
	// A hex that plain screens show of another master is no new value, and an approved hex stays.
	same := to.Master == c.Master && (to.RGB == c.RGB || to.Master.Kind != library.OfHex && to.Plain.Origin == "") ||
		to.Master.Kind == library.OfHex && to.RGB == c.RGB && c.Master.Kind != library.OfScreen
	if !same {
		c.Decide(to.Master, to.RGB, by, at)
		c.Plain = to.Plain
		de := color.DeltaE00(was.Lab(), c.Lab())
		events = append(events, library.Event{Before: was.RGB.Hex(), After: c.RGB.Hex(),
			What: fmt.Sprintf("amended from %s to %s, %.1f %s%s", was.Shows(), c.Shows(), de, color.Word(de), from)})
	}
	for _, b := range to.Builds {
		old, ok := c.Build(b.Press)
		if b.Origin == library.Deciding || ok && (old.Origin == library.Deciding || old.Value == b.Value && old.Meant == c.Master &&
			old.For == c.RGB && old.Origin == b.Origin) {
			continue
		}
		b.For, b.Meant = c.RGB, c.Master
		c.Builds = append(slices.DeleteFunc(slices.Clone(c.Builds), func(o library.Build) bool { return o.Press == b.Press }), b)
		events = append(events, library.Event{What: fmt.Sprintf("CMYK %s for %s %s", b.Value, b.Press, Came(b.Origin))})
	}
	for _, s := range to.Spots {
		old, ok := c.Spot(s.Stock)
		if s.Origin == library.Deciding || ok && (old.Origin == library.Deciding || old.Code == s.Code && old.Meant == c.Master &&
			old.For == c.RGB && old.Origin == s.Origin) {
			continue
		}
		s.For, s.Meant = c.RGB, c.Master
		c.Spots = append(slices.DeleteFunc(slices.Clone(c.Spots), func(o library.Spot) bool { return o.Stock == s.Stock }), s)
		events = append(events, library.Event{What: fmt.Sprintf("spot ink %s on %s stock %s", s.Code, s.Stock, Came(s.Origin))})
	}
	return events
}

// Came says what became of a build, an ink or a hex that came along with a value, behind its name; empty for what did not.
func Came(o library.Origin) string {
	switch o {
	case library.Signed:
		return "came with it and counts as approved"
	case library.Given:
		return "came with it and waits for a signature"
	}
	return ""
}

// Back says to which entry of its history a color goes back.
type Back struct {
	Color   int64
	Version int // the version that the caller saw
	Event   int64
}

// BringAllBack makes colors what they were after events of their histories, in one change, all or none.
func (r *Rules) BringAllBack(ctx context.Context, a keep.Actor, list []Back) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	if len(list) == 0 {
		return keep.Wrong("colors", "no color is chosen")
	}
	var ids []int64
	for _, b := range list {
		ids = append(ids, b.Color)
	}
	if err := keep.IDs("colors", ids, limits.LibraryColors); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		for _, b := range list {
			if err := r.change(tx, a, b.Color, b.Version, r.back(a, b.Event)); err != nil {
				return err
			}
		}
		return nil
	})
}
