package keep

import (
	"context"
	"fmt"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/demo"
	"huekeep/store"
)

// LoadDemo fills an empty database with the demo houses and accounts. A database that has accounts is left alone, so a
// second start keeps what the user did.
func (k *Keeper) LoadDemo(ctx context.Context) error {
	n, err := k.DB.With(ctx).Users()
	if err != nil || n > 0 {
		return err
	}
	// Sending goes through the applications, so it cannot be part of one transaction with the rest. The accounts come last
	// and mark the load as whole; houses that an interrupted one left have no members and are dropped first.
	if err := k.DB.With(ctx).DropHousesWithoutMembers(); err != nil {
		return err
	}
	var users []store.User
	actors := map[string]Actor{}
	for _, h := range []demo.House{demo.Ferries, demo.Bakery} {
		a, err := k.loadHouse(ctx, h)
		if err != nil {
			return fmt.Errorf("demo house %s: %w", h.Name, err)
		}
		actors[h.Name] = a
	}
	return k.DB.In(ctx, func(tx *store.DB) error {
		users = nil
		for _, p := range demo.Accounts {
			u, err := k.AddAccount(ctx, tx, p.Email, p.Name, demo.Password)
			if err != nil {
				return err
			}
			users = append(users, u)
			for _, a := range actors {
				if a.House.Name != demo.Ferries.Name && p.Role != string(RoleKeeper) {
					continue // only the keeper keeps both houses
				}
				if err := tx.Add(&store.Member{UserID: u.ID, HouseID: a.House.ID, Role: p.Role}); err != nil {
					return err
				}
			}
		}
		return nil
	})
}

func (k *Keeper) loadHouse(ctx context.Context, h demo.House) (Actor, error) {
	now := k.Now()
	a := Actor{Name: "Keeper", Role: RoleKeeper}
	ids := map[string]int64{}
	err := k.DB.In(ctx, func(tx *store.DB) error {
		a.House = store.House{Name: h.Name, Tolerance: 3, Neutrals: true, CreatedAt: now}
		if err := tx.Add(&a.House); err != nil {
			return err
		}
		for i, c := range h.Colors {
			group, err := tx.EnsureGroup(a.House.ID, c.Group)
			if err != nil {
				return err
			}
			row := store.Color{HouseID: a.House.ID, GroupID: &group, Name: c.Name, NameKey: store.NameKey(c.Name), Hex: c.Hex, Role: c.Role,
				Rule: c.Rule, Status: "approved", Position: i + 1, Version: 1, CreatedAt: now, UpdatedAt: now}
			events := []store.ColorEvent{{At: now, ByName: a.Name, What: "admitted as " + c.Hex, AfterHex: c.Hex}}
			if c.CMYK != "" {
				b, err := color.ParseCMYK(c.CMYK)
				if err != nil {
					return err
				}
				row.Builds = []store.Build{{Press: shownPress, C: b.C, M: b.M, Y: b.Y, K: b.K, ByName: a.Name, ApprovedAt: now, ForHex: c.Hex}}
				events = append(events, store.ColorEvent{At: now, ByName: a.Name, What: fmt.Sprintf("CMYK %s approved for %s", b, shownPress)})
			}
			if c.Spot == "nearest" {
				code := ink.Quern().Nearest(rgbOf(c.Hex).Lab(), shownStock, 1)[0].Ink.Code
				row.Spots = []store.Spot{{Stock: string(shownStock), Code: code, ByName: a.Name, ApprovedAt: now, ForHex: c.Hex}}
				events = append(events, store.ColorEvent{At: now, ByName: a.Name, What: fmt.Sprintf("spot ink %s approved on %s stock", code, shownStock)})
			}
			row.Aliases = c.Aliases
			for _, t := range c.Tints {
				row.Companions = append(row.Companions, store.Companion{Kind: "tint", Amount: t, Permitted: true})
			}
			if c.Successor != "" {
				next := ids[c.Successor]
				row.Status, row.SuccessorID = "retired", &next
				events = append(events, store.ColorEvent{At: now, ByName: a.Name, What: "retired, replaced by " + c.Successor})
			}
			if err := tx.Add(&row); err != nil {
				return err
			}
			ids[c.Name] = row.ID
			for i := range events {
				events[i].ColorID = row.ID
			}
			if events[len(events)-1].State, err = stateOf(tx, a.House.ID, row.ID); err != nil {
				return err
			}
			if err := tx.Add(&events); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return a, err
	}
	for _, g := range h.Gradients {
		row := store.Gradient{Name: g.Name, Angle: 90, Space: g.Space, Stops: []store.GradientStop{{ColorID: ids[g.From]}, {ColorID: ids[g.To], Place: 100}}}
		if err := k.PutGradient(ctx, a, row); err != nil {
			return a, err
		}
	}
	recipients := map[string]store.Recipient{}
	for _, r := range h.Recipients {
		row, err := k.AddRecipient(ctx, a, r.Name, r.Kind, r.Note)
		if err != nil {
			return a, err
		}
		recipients[r.Name] = row
	}
	for _, s := range h.Sets {
		id, err := k.CreateSet(ctx, a, s.Name, nil)
		if err != nil {
			return a, err
		}
		for i, names := range s.Editions {
			var colors []int64
			for _, n := range names {
				colors = append(colors, ids[n])
			}
			if err := k.ChangeSet(ctx, a, id, i+1, s.Name, colors); err != nil {
				return a, err
			}
			if err := k.FixEdition(ctx, a, id); err != nil {
				return a, err
			}
			for _, r := range h.Recipients {
				if r.Holds[s.Name] == i+1 {
					if err := k.Send(ctx, a, id, i+1, []int64{recipients[r.Name].ID}); err != nil {
						return a, err
					}
				}
			}
		}
	}
	return a, nil
}
