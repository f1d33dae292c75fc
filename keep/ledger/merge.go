package ledger

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/store"
)

// Merge makes one color of two that are the same, by mistake or by decision: the one given goes into the other, which gets its names as
// aliases, its places in swatch sets, gradients and rules about pairs, and whatever stood on it or was succeeded by it. Fixed editions stay
// as they are, and count as holding the color that is left. The way back is there for a day.
func (r *Rules) Merge(ctx context.Context, a keep.Actor, id int64, version int, into int64) (back int64, err error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return 0, err
	}
	if id == into {
		return 0, keep.Wrong("into", "a color cannot be merged into itself")
	}
	err = r.Change(ctx, a, func(tx *store.DB) error {
		aside, err := r.SetAside(ctx, tx, a, true)
		if err != nil {
			return err
		}
		from, err := r.toChange(tx, a, id, version)
		if err != nil {
			return err
		}
		to, err := tx.ColorToChange(a.House.ID, into)
		if err != nil {
			return keep.Missing(err, "color to merge it into")
		}
		if to.Status == library.Draft && from.Status != library.Draft {
			return keep.Wrong("into", "%s is a draft, which not everybody sees; approve it first", to.Name)
		}
		names := slices.Clone(to.Aliases)
		for _, n := range append([]string{from.Name}, from.Aliases...) {
			if !strings.EqualFold(n, to.Name) && !slices.ContainsFunc(names, func(o string) bool { return strings.EqualFold(o, n) }) {
				names = append(names, n)
			}
		}
		if to.Aliases, err = wordList("aliases", names); err != nil {
			return err
		}
		gone := to.Point(func(ref library.Ref) library.Ref {
			if ref.ID == id {
				return library.Ref{}
			}
			return ref
		})
		events := []library.Event{{What: fmt.Sprintf("%s (%s) merged into it", from.Name, from.RGB.Hex()) + withoutSheers(gone)}}
		if events, err = r.sign(a, &to, events); err != nil {
			return err
		}
		if err := r.repoint(tx, a, from, to); err != nil {
			return err
		}
		if err := tx.RepointEditions(id, into); err != nil {
			return err
		}
		if err := tx.DeleteColors(a.House.ID, []int64{id}); err != nil {
			return err
		}
		if err := tx.SaveColor(a.House.ID, to); err != nil {
			return err
		}
		if err := tx.AddEvents(map[int64][]library.Event{into: events}, []int64{into}); err != nil {
			return err
		}
		back, err = r.WayBack(ctx, tx, a, aside, keep.Added{})
		return err
	})
	return back, err
}

// withoutSheers says in a history how many sheers went with what they lay over.
func withoutSheers(n int) string {
	switch n {
	case 0:
		return ""
	case 1:
		return "; a sheer went with its ground"
	}
	return fmt.Sprintf("; %d sheers went with their grounds", n)
}

// repoint lets sets, gradients, rules about pairs and other colors have one color where they had another.
func (r *Rules) repoint(tx *store.DB, a keep.Actor, from, to library.Color) error {
	if _, err := replaceInSets(tx, a, from.ID, to.ID); err != nil {
		return err
	}
	gradients, err := tx.Gradients(a.House.ID)
	if err != nil {
		return err
	}
	for _, g := range gradients {
		touched := false
		for i := range g.Stops {
			if g.Stops[i].Color.ID == from.ID {
				g.Stops[i].Color, touched = to.Ref(), true
			}
		}
		if touched {
			g.Version++
			if err := tx.PutGradient(a.House.ID, g, false); err != nil {
				return err
			}
		}
	}
	if err := repointPairs(tx, a, from, to); err != nil {
		return err
	}
	colors, err := tx.Colors(a.House.ID)
	if err != nil {
		return err
	}
	for _, c := range colors {
		if c.ID == from.ID || c.ID == to.ID || !c.PointsTo(from.ID) {
			continue
		}
		what := fmt.Sprintf("lies over %s, which %s was merged into", to.Name, from.Name)
		if c.Ground.ID == from.ID {
			what = fmt.Sprintf("to reach %g:1 on %s, which %s was merged into", c.Ratio, to.Name, from.Name)
		}
		if c.Successor.ID == from.ID {
			what = fmt.Sprintf("replaced by %s, which %s was merged into", to.Name, from.Name)
		}
		c.Point(func(ref library.Ref) library.Ref {
			if ref.ID == from.ID {
				return to.Ref()
			}
			return ref
		})
		events, err := r.sign(a, &c, []library.Event{{What: what}})
		if err != nil {
			return err
		}
		if err := tx.SaveColor(a.House.ID, c); err != nil {
			return err
		}
		if err := tx.AddEvents(map[int64][]library.Event{c.ID: events}, []int64{c.ID}); err != nil {
			return err
		}
	}
	return nil
}

// replaceInSets puts a color in the place of another in every set that has it, and says in which; a set that has both keeps the one.
func replaceInSets(tx *store.DB, a keep.Actor, from, to int64) (names []string, err error) {
	sets, err := tx.Sets(a.House.ID)
	if err != nil {
		return nil, err
	}
	for _, row := range sets {
		if !slices.Contains(row.Colors, from) {
			continue
		}
		s, err := tx.SetToChange(a.House.ID, row.ID)
		if err != nil {
			return nil, err
		}
		if slices.Contains(s.Colors, to) {
			s.Colors = slices.DeleteFunc(s.Colors, func(id int64) bool { return id == from })
		} else {
			s.Colors[slices.Index(s.Colors, from)] = to
		}
		s.Version++
		if err := tx.SaveSet(s); err != nil {
			return nil, err
		}
		names = append(names, row.Name)
	}
	return names, nil
}

// Succeed puts the successor of a retired color in its place in every swatch set, and says in which. Fixed editions stay.
func (r *Rules) Succeed(ctx context.Context, a keep.Actor, id int64, version int) (sets []string, err error) {
	err = r.amend(ctx, a, id, version, func(tx *store.DB, c *library.Color) ([]library.Event, error) {
		if c.Status != library.Retired || c.Successor.None() {
			return nil, keep.Wrong("", "%s has no successor", c.Name)
		}
		var err error
		if sets, err = replaceInSets(tx, a, id, c.Successor.ID); err != nil || len(sets) == 0 {
			return nil, err
		}
		return []library.Event{{What: fmt.Sprintf("%s took its place in %s", c.Successor.Name, strings.Join(sets, ", "))}}, nil
	})
	return sets, err
}

// Suggestion is a change of a color that somebody who may not make it suggests to the keepers.
type Suggestion struct {
	store.Suggestion
	Color library.Ref
	Hex   string // that the color has now
}

// NewSuggestion is what is suggested; empty is left as it is.
type NewSuggestion struct{ Name, Value, Rule, Note string }

// Suggest suggests a change of a color: its name, its value, its rule for use.
func (r *Rules) Suggest(ctx context.Context, a keep.Actor, id int64, in NewSuggestion) (Suggestion, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return Suggestion{}, err
	}
	var out Suggestion
	return out, r.Change(ctx, a, func(tx *store.DB) (err error) {
		out, err = r.suggest(tx, a, id, in)
		return err
	})
}

// SuggestIn is Suggest in a transaction.
func (r *Rules) SuggestIn(tx *store.DB, a keep.Actor, id int64, in NewSuggestion) error {
	_, err := r.suggest(tx, a, id, in)
	return err
}

func (r *Rules) suggest(tx *store.DB, a keep.Actor, id int64, in NewSuggestion) (Suggestion, error) {
	c, err := r.find(tx, a, id)
	if err != nil {
		return Suggestion{}, err
	}
	change := in.change(c.Version)
	tried := c
	events, err := change.apply(&tried, r.aroundIn(tx, a))
	if err != nil {
		return Suggestion{}, err
	}
	if len(events) == 0 {
		return Suggestion{}, keep.Wrong("", "nothing would change: %s is so already", c.Name)
	}
	if len(in.Note) > 4*limits.RuleRunes {
		return Suggestion{}, keep.Wrong("note", "the note is too long")
	}
	value := ""
	if tried.Master != c.Master || tried.Value() != c.Value() {
		value = tried.Typed()
	}
	row := store.Suggestion{HouseID: a.House.ID, ColorID: id, ByUser: a.ByUser(), ByName: a.Name, At: r.Now(),
		Name: strings.TrimSpace(in.Name), Value: value,
		Rule: strings.TrimSpace(in.Rule), Note: strings.TrimSpace(in.Note)}
	if err := tx.Add(&row); err != nil {
		return Suggestion{}, err
	}
	return Suggestion{row, c.Ref(), c.RGB.Hex()}, nil
}

func (in NewSuggestion) change(version int) Change {
	out := Change{Version: version}
	for _, f := range []struct {
		text string
		to   **string
	}{{in.Name, &out.Name}, {in.Value, &out.Value}, {in.Rule, &out.Rule}} {
		if strings.TrimSpace(f.text) != "" {
			*f.to = &f.text
		}
	}
	return out
}

// Suggestions lists those that nobody has answered yet, newest first: all of them for keepers, their own for others.
func (r *Rules) Suggestions(ctx context.Context, a keep.Actor) ([]Suggestion, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return nil, err
	}
	db := r.DB.With(ctx)
	rows, err := db.Suggestions(a.House.ID)
	if err != nil {
		return nil, err
	}
	var out []Suggestion
	for _, row := range rows {
		if a.Role != keep.RoleKeeper && (row.ByUser == nil || *row.ByUser != a.Account) {
			continue
		}
		c, err := r.find(db, a, row.ColorID)
		if err == nil {
			out = append(out, Suggestion{row, c.Ref(), c.RGB.Hex()})
		}
	}
	return out, nil
}

// Answer takes a suggestion, which makes the change, or declines it with a word; whoever suggested it may withdraw it.
func (r *Rules) Answer(ctx context.Context, a keep.Actor, id int64, take bool, word string) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		s, err := tx.Suggestion(a.House.ID, id)
		if err != nil {
			return keep.Missing(err, "open suggestion")
		}
		own := s.ByUser != nil && *s.ByUser == a.Account && a.Account != 0
		if a.Role != keep.RoleKeeper && (take || !own) {
			return a.May(keep.RoleKeeper)
		}
		event := fmt.Sprintf("a suggestion of %s declined%s", s.ByName, after(": ", word))
		if own && !take {
			event = ""
		}
		if take {
			event = fmt.Sprintf("as %s suggested", s.ByName)
			c, err := tx.ColorToChange(a.House.ID, s.ColorID)
			if err != nil {
				return keep.Missing(err, "color")
			}
			change := NewSuggestion{s.Name, s.Value, s.Rule, ""}.change(c.Version)
			events, err := change.apply(&c, r.aroundIn(tx, a))
			if err != nil {
				return err
			}
			for i := range events {
				events[i].What += ", " + event
			}
			if len(events) > 0 {
				if events, err = r.sign(a, &c, events); err != nil {
					return err
				}
				if err := tx.SaveColor(a.House.ID, c); err != nil {
					return keep.Taken(err, "name", "the name %s is taken by another color", c.Name)
				}
				if err := tx.AddEvents(map[int64][]library.Event{c.ID: events}, []int64{c.ID}); err != nil {
					return err
				}
			}
		} else if event != "" {
			c, err := tx.ColorToChange(a.House.ID, s.ColorID)
			if err == nil {
				events, err := r.sign(a, &c, []library.Event{{What: event}})
				if err != nil {
					return err
				}
				if err := errors.Join(tx.SaveColor(a.House.ID, c), tx.AddEvents(map[int64][]library.Event{c.ID: events},
					[]int64{c.ID})); err != nil {
					return err
				}
			}
		}
		return tx.DropSuggestion(id)
	})
}

func after(mark, s string) string {
	if s = strings.TrimSpace(s); s == "" {
		return ""
	}
	return mark + keep.Short(s, limits.NameRunes)
}
