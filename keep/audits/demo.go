package audits

import (
	"bytes"
	"context"
	"errors"
	"time"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/repaint"
	"huekeep/demo"
	"huekeep/keep"
	"huekeep/store"
)

// LoadDemo gives the demo house a project with three runs and a rising score, two excuses, one of which ends soon, and a saved plan. A
// house that has projects is left alone.
func (r *Rules) LoadDemo(ctx context.Context) error {
	h, err := r.DB.With(ctx).HouseByName(demo.Ferries.Name)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	} else if err != nil {
		return err
	}
	if there, err := r.DB.With(ctx).Projects(h.ID, 0, 1); err != nil || len(there) > 0 {
		return err
	}
	a := keep.Actor{Name: "Keeper", Role: keep.RoleKeeper, House: keep.HouseOf(h)}
	p, err := r.AddProject(ctx, a, "Winter timetable 2027")
	if err != nil {
		return err
	}
	deck, poster, styles := demo.TimetableDeck(), demo.HarborPoster(), demo.BookingStyles()
	rules, err := r.rules(ctx, a, p.ID)
	if err != nil {
		return err
	}
	// What came in first had more in it that was typed by hand; by the third run the deck is half put right.
	first := bytes.ReplaceAll(bytes.ReplaceAll(styles.Data, []byte("#e2572b"), []byte("#e3592d")), []byte("#F7F5F0"), []byte("#F6F4EE"))
	third, err := repaint.File(deck.Name, deck.Data, rules,
		repaint.Plan{Colors: []repaint.Step{{From: "#D9482B", To: "Buoy"}, {From: "#F2B530", To: "Lamp"}}}, kinds.Options{})
	if err != nil {
		return err
	}
	now := r.Now()
	for i, files := range []map[string][]byte{
		{"slides/" + deck.Name: deck.Data, "print/" + poster.Name: poster.Data, "site/" + styles.Name: first},
		{"site/" + styles.Name: styles.Data},
		{"slides/" + deck.Name: third.Data},
	} {
		for path, data := range files {
			if _, err := r.AddFile(ctx, a, p.ID, path, data); err != nil {
				return err
			}
		}
		if i == 1 {
			for _, e := range []audit.Excuse{
				{Color: "#00A34F", Reason: "The partner line's own mark, as agreed for this winter", Until: now.AddDate(0, 0, 9)},
				{Color: "#2F80ED", File: "site/" + styles.Name, Reason: "Links of the booking provider, which cannot be changed"},
			} {
				if _, err := r.AddExcuse(ctx, a, Excuse{Excuse: e, Project: p.ID}); err != nil {
					return err
				}
			}
		}
		if _, err := r.RunAt(ctx, a, p.ID, now.Add(time.Duration(i-2)*8*24*time.Hour-time.Hour)); err != nil {
			return err
		}
	}
	_, err = r.SavePlan(ctx, a, SavedPlan{Name: "Old Funnel to Buoy", Steps: []repaint.Step{{From: "#D9482B", To: "Buoy"}}})
	return err
}
