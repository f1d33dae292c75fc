package ledger

import (
	"context"
	"fmt"

	"huekeep/core/contrast"
	"huekeep/core/library"
	"huekeep/keep"
	"huekeep/store"
)

// Pair is a rule about a pair with its colors as they are now.
type Pair struct {
	library.Pair
	Of, On library.Color
	Now    float64 // the contrast ratio
	Holds  bool    // the values keep the rule
}

// Pairs lists the rules about pairs of which the actor may see both colors, in the order of the colors.
func (r *Rules) Pairs(ctx context.Context, a keep.Actor) ([]Pair, error) {
	db := r.DB.With(ctx)
	rows, err := db.Pairs(a.House.ID)
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	_, byID, err := visible(db, a)
	if err != nil {
		return nil, err
	}
	var out []Pair
	for _, row := range rows {
		of, on := byID[row.Color.ID], byID[row.Ground.ID]
		if of == nil || on == nil {
			continue
		}
		p := Pair{Pair: row, Of: *of, On: *on}
		p.Now, p.Holds = row.Keeps(of.RGB, on.RGB)
		out = append(out, p)
	}
	return out, nil
}

// PutPair writes as a rule that a color may, or may not, stand on another, in place of a rule that there was. That it may is
// refused where the values do not reach the ratio, which is 4.5 if none is given.
func (r *Rules) PutPair(ctx context.Context, a keep.Actor, of, ground int64, may bool, ratio *float64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error { return r.PutPairIn(tx, a, of, ground, may, ratio) })
}

// PutPairIn is PutPair in a transaction that has the house for itself.
func (r *Rules) PutPairIn(tx *store.DB, a keep.Actor, of, ground int64, may bool, ratio *float64) error {
	if of == ground {
		return keep.Wrong("ground", "a color cannot stand on itself")
	}
	two := make([]library.Color, 2)
	for i, id := range []int64{of, ground} {
		c, err := r.find(tx, a, id)
		if err != nil {
			return err
		}
		if c.Status == library.Draft {
			return keep.Wrong("ground", "%s is a draft, which not everybody sees; approve it first", c.Name)
		}
		two[i] = c
	}
	p := library.Pair{Color: two[0].Ref(), Ground: two[1].Ref(), May: may, By: a.Person(), At: r.Now()}
	if may {
		p.Ratio = contrast.TextAA
		if ratio != nil {
			p.Ratio = *ratio
		}
	}
	if err := library.CheckPair(p); err != nil {
		return keep.Wrong("ratio", "%v", err)
	}
	if now, keeps := p.Keeps(two[0].RGB, two[1].RGB); !keeps {
		return keep.Wrong("ratio", "%s on %s has a contrast of %.2f; as %s it needs %.1f", p.Color.Name, p.Ground.Name, now,
			library.Asked(p.Ratio), p.Ratio)
	}
	if err := tx.PutPair(a.House.ID, p); err != nil {
		return err
	}
	says := "may not stand on it"
	if may {
		says = "may stand on it as " + library.Asked(p.Ratio)
	}
	return r.note(tx, a, two, p.String(), p.Color.Name+" "+says)
}

// DeletePair takes a rule about a pair back.
func (r *Rules) DeletePair(ctx context.Context, a keep.Actor, of, ground int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		if err := tx.DeletePair(a.House.ID, of, ground); err != nil {
			return keep.Missing(err, "rule about this pair")
		}
		two := make([]library.Color, 2)
		for i, id := range []int64{of, ground} {
			var err error
			if two[i], err = r.find(tx, a, id); err != nil {
				return err
			}
		}
		return r.note(tx, a, two, "no rule any more about standing on "+two[1].Name, "no rule any more about "+two[0].Name+" on it")
	})
}

// note puts a sentence into the history of each of two colors. It counts as no change of theirs.
func (r *Rules) note(tx *store.DB, a keep.Actor, two []library.Color, says ...string) error {
	for i, c := range two {
		state, err := c.WriteState()
		if err != nil {
			return err
		}
		e := library.Event{At: r.Now(), By: a.Person(), What: says[i], State: state}
		if err := tx.AddEvents(map[int64][]library.Event{c.ID: {e}}, []int64{c.ID}); err != nil {
			return err
		}
	}
	return nil
}

// repointPairs lets rules be about one color where they were about another; where there is one about the pair already, that stays.
func repointPairs(tx *store.DB, a keep.Actor, from, to library.Color) error {
	pairs, err := tx.Pairs(a.House.ID)
	if err != nil {
		return err
	}
	there := map[[2]int64]bool{}
	for _, p := range pairs {
		there[[2]int64{p.Color.ID, p.Ground.ID}] = true
	}
	for _, p := range pairs {
		was := p
		if p.Color.ID == from.ID {
			p.Color = to.Ref()
		}
		if p.Ground.ID == from.ID {
			p.Ground = to.Ref()
		}
		if p == was || p.Color.ID == p.Ground.ID || there[[2]int64{p.Color.ID, p.Ground.ID}] {
			continue // what is left of the old one goes with its color
		}
		if err := tx.PutPair(a.House.ID, p); err != nil {
			return fmt.Errorf("rule about %s: %w", p.Color.Name, err)
		}
	}
	return nil
}
