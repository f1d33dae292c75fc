// Package backup writes a house as one file and brings it back, with a way back for a day.
package backup

import (
	"context"
	"errors"
	"slices"
	"strings"

	"huekeep/core/library"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/gathering"
	"huekeep/keep/ledger"
	"huekeep/keep/send"
	"huekeep/store"
)

// Rules are the rules of backups.
type Rules struct {
	*keep.Base
	Ledger    *ledger.Rules
	Gathering *gathering.Rules
}

// Export is the house as a library file, which is also its backup: everything but accounts, trays, audits and what members keep
// for themselves. A reader's leaves out drafts, editions and who got them.
func (r *Rules) Export(ctx context.Context, a keep.Actor) (out swatchfile.Library, err error) {
	err = r.DB.In(ctx, func(tx *store.DB) error { // of one moment
		out, err = r.export(tx, a)
		return err
	})
	return out, err
}

func (r *Rules) export(db *store.DB, a keep.Actor) (swatchfile.Library, error) {
	out := swatchfile.Library{House: a.House.Name, Tolerance: a.House.Tolerance, Neutrals: a.House.Neutrals}
	colors, err := ledger.Visible(db, a)
	if err != nil {
		return out, err
	}
	history, err := db.AllEvents(a.House.ID)
	if err != nil {
		return out, err
	}
	names := map[int64]string{}
	var histories [][]library.Event
	for i, c := range colors {
		names[c.ID] = c.Name
		colors[i].History = history[c.ID]
		histories = append(histories, history[c.ID])
	}
	if err := ledger.HideDrafts(db, a, histories...); err != nil {
		return out, err
	}
	out.Colors = colors
	sets, err := db.Sets(a.House.ID)
	if err != nil {
		return out, err
	}
	lines, err := db.EditionLines(a.House.ID)
	if err != nil {
		return out, err
	}
	newest := map[int64]int{}
	for _, l := range lines {
		newest[l.SetID] = max(newest[l.SetID], l.Number)
	}
	for _, s := range sets {
		set := swatchfile.Set{ID: s.ID, Version: s.Version, Name: s.Name, Edition: newest[s.ID]}
		for _, c := range s.Colors {
			if n, ok := names[c]; ok {
				set.Colors = append(set.Colors, n)
			}
		}
		of := map[int64]string{}
		for id, n := range names {
			of[id] = n
		}
		follows := store.FollowsOf(s.Follows)
		set.FollowsRole, set.FollowsTag = follows.Role, follows.Tag
		set.Slots, set.Boxes = send.GivenByHand(s, of)
		out.Sets = append(out.Sets, set)
	}
	if !a.Role.Reaches(keep.RoleContributor) {
		return out, nil
	}
	out.Backup = &swatchfile.Backup{}
	return out, r.exportRest(db, a, sets, out.Backup)
}

// exportRest exports what a backup has beside the library: each part by itself, in an order that restoring does not hang on.
func (r *Rules) exportRest(db *store.DB, a keep.Actor, sets []store.SetWith, b *swatchfile.Backup) error {
	for _, part := range []func(db *store.DB, a keep.Actor, sets []store.SetWith, b *swatchfile.Backup) error{exportColors, exportBoards,
		exportSent, exportPrint, exportTexts} {
		if err := part(db, a, sets, b); err != nil {
			return err
		}
	}
	return nil
}

// exportColors exports what belongs to the colors of the library.
func exportColors(db *store.DB, a keep.Actor, _ []store.SetWith, b *swatchfile.Backup) error {
	house := a.House.ID
	groups, err := db.Groups(house)
	if err != nil {
		return err
	}
	for _, g := range groups {
		b.Groups = append(b.Groups, g.Name)
	}
	gradients, err := db.Gradients(house)
	if err != nil {
		return err
	}
	for _, g := range gradients {
		f := swatchfile.Gradient{ID: g.ID, Version: g.Version, Name: g.Name, Angle: g.Angle, Space: g.Space}
		for _, s := range g.Stops {
			f.Stops = append(f.Stops, swatchfile.Stop{Color: s.Color.Name, Place: s.Place})
		}
		b.Gradients = append(b.Gradients, f)
	}
	pairs, err := db.Pairs(house)
	if err != nil {
		return err
	}
	for _, p := range pairs {
		b.Pairs = append(b.Pairs, swatchfile.Pair{Color: p.Color.Name, Ground: p.Ground.Name, May: p.May, Ratio: p.Ratio, By: p.By.Name,
			At: p.At})
	}
	return nil
}

// exportSent exports recipients, editions, and what was sent and withdrawn.
func exportSent(db *store.DB, a keep.Actor, sets []store.SetWith, b *swatchfile.Backup) error {
	house := a.House.ID
	recipients, err := db.Recipients(house)
	if err != nil {
		return err
	}
	members, err := db.SetRecipients(house)
	if err != nil {
		return err
	}
	who := map[int64]string{}
	for _, to := range recipients {
		who[to.ID] = to.Name
		line := swatchfile.Recipient{ID: to.ID, Name: to.Name, Kind: to.Kind, Note: to.Note, Sets: []string{},
			Packings: strings.Fields(to.Packings),
			Ways:     strings.Fields(to.Ways), Email: to.Email, PausedAt: to.PausedAt}
		for _, s := range sets {
			if slices.Contains(members[s.ID], to.ID) {
				line.Sets = append(line.Sets, s.Name)
			}
		}
		b.Recipients = append(b.Recipients, line)
	}
	setNames := map[int64]string{}
	for _, s := range sets {
		setNames[s.ID] = s.Name
		editions, err := db.EditionsOf(house, s.ID)
		if err != nil {
			return err
		}
		for _, e := range editions {
			b.Editions = append(b.Editions, swatchfile.Fixed{Set: s.Name, Edition: e})
		}
	}
	deliveries, err := db.Deliveries(house)
	if err != nil {
		return err
	}
	lines, err := db.EditionLines(house)
	if err != nil {
		return err
	}
	for _, l := range lines {
		if l.WithdrawnAt != nil && setNames[l.SetID] != "" {
			b.Withdrawn = append(b.Withdrawn, swatchfile.Withdrawal{Set: setNames[l.SetID], Number: l.Number, At: *l.WithdrawnAt,
				By: l.WithdrawnBy, Why: l.WithdrawnWhy})
		}
	}
	for _, d := range deliveries {
		if who[d.RecipientID] == "" || setNames[d.SetID] == "" {
			continue // of a recipient or a set that was removed
		}
		b.Deliveries = append(b.Deliveries, swatchfile.Delivery{Recipient: who[d.RecipientID], Set: setNames[d.SetID], Number: d.Number,
			Packing: d.Packing,
			By:      d.ByName, SentAt: d.SentAt, ReceivedAt: d.ReceivedAt, OK: d.OK, Taken: d.Taken, Slots: d.Slots, Message: d.Message,
			Way: d.Way, Client: d.Client, Times: d.Times, LastAt: d.LastAt})
	}
	return nil
}

// exportPrint exports presses and the book of inks.
func exportPrint(db *store.DB, a keep.Actor, _ []store.SetWith, b *swatchfile.Backup) error {
	house := a.House.ID
	presses, err := db.Presses(house)
	if err != nil {
		return err
	}
	for _, p := range presses {
		row, err := db.Press(house, p.Name)
		if err != nil {
			return err
		}
		b.Presses = append(b.Presses, swatchfile.Press{Name: row.Name, Label: row.Label, InkLimit: row.InkLimit, Profile: row.Profile,
			By: row.ByName, AddedAt: &row.AddedAt})
	}
	if row, err := db.InkBook(house); err == nil {
		b.InkBook = &swatchfile.InkBook{Name: row.Name, CSV: row.Data, By: row.ByName, AddedAt: &row.AddedAt}
	} else if !errors.Is(err, store.ErrNotFound) {
		return err
	}
	return nil
}

// exportTexts exports what the house says itself of how files are loaded, and its starters.
func exportTexts(db *store.DB, a keep.Actor, _ []store.SetWith, b *swatchfile.Backup) error {
	house := a.House.ID
	notes, err := db.LoadingNotes(house, true)
	if err != nil {
		return err
	}
	for _, n := range notes {
		b.Loading = append(b.Loading, swatchfile.HouseNote{Key: n.Note, Text: n.Text, Picture: n.Picture, By: n.ByName, At: n.ChangedAt})
	}
	starters, err := db.Starters(0, house) // nobody's: without private ones
	for _, s := range starters {
		b.Starters = append(b.Starters, swatchfile.Starter{Name: s.Name, Keywords: s.Keywords, Colors: strings.Fields(s.Colors)})
	}
	return err
}
