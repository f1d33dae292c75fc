package send

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/hooks"
	"huekeep/outside"
	"huekeep/store"
)

// Send gets an edition to recipients, each in its own ways: stand-in applications take the files and give receipts, mail is queued, a
// pickup has it already, and what a keeper hands over waits to be told. What was not taken is recorded as such; the others are not
// held up by it.
func (r *Rules) Send(ctx context.Context, a keep.Actor, set int64, number int, recipients []int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	if len(recipients) == 0 {
		return keep.Wrong("recipients", "no recipient is chosen")
	}
	if err := keep.IDs("recipients", recipients, limits.Recipients); err != nil {
		return err
	}
	db := r.DB.With(ctx)
	s, err := r.set(db, a, set)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(s.Editions, func(e EditionLine) bool { return e.Number == number })
	switch {
	case at < 0:
		return keep.None("edition")
	case s.Editions[at].Withdrawn != nil:
		return keep.Clash("", "edition %d of %s is withdrawn; send another", number, s.Name)
	}
	e, err := r.Edition(ctx, a, set, number)
	if err != nil {
		return err
	}
	var to []store.Recipient
	for _, id := range recipients {
		row, err := db.Recipient(a.House.ID, id)
		if err != nil {
			return keep.Missing(err, "recipient")
		}
		if row.PausedAt != nil {
			return keep.Clash("recipients", "%s is paused; end that first", row.Name)
		}
		if recipient(row).Goes(Mailed) && r.Mailer == nil {
			return keep.Clash("recipients", "%s gets mail, and no mail server is set up (HUEKEEP_SMTP)", row.Name)
		}
		to = append(to, row)
	}
	var names []string
	for _, row := range to {
		if err := r.one(ctx, a, e, set, row); err != nil {
			return err
		}
		names = append(names, row.Name)
	}
	return r.DB.In(ctx, func(tx *store.DB) error {
		said := map[string]any{"set": map[string]any{"id": set, "name": s.Name}, "edition": number, "note": e.Note, "recipients": names,
			"colors": len(e.Colors)}
		return r.Hooks.Say(tx, a, hooks.EditionSent, said)
	})
}

// one gets an edition to one recipient.
func (r *Rules) one(ctx context.Context, a keep.Actor, e library.Edition, set int64, row store.Recipient) error {
	db := r.DB.With(ctx)
	if err := db.JoinSet(set, row.ID); err != nil { // whoever is sent a set belongs to it
		return err
	}
	to := recipient(row)
	sent := r.Now()
	put := func(way Way, packing, message string) (store.Delivery, error) {
		d := store.Delivery{RecipientID: row.ID, SetID: set, Number: e.Number, Packing: packing, ByName: a.Name, SentAt: sent,
			Message: message, Way: string(way), Times: 1}
		return d, db.Add(&d)
	}
	if to.Goes(Application) {
		for _, packing := range to.Packings {
			packed, err := r.Pack(ctx, a, set, e.Number, packing)
			if err != nil {
				return err
			}
			d, err := put(Application, packing, noReturn) // first on record as sent, so that a cut-off sending shows
			if err != nil {
				return err
			}
			r.receive(&d, row, e, packed)
			at := r.Now()
			d.ReceivedAt = &at
			if err := db.Save(&d); err != nil {
				return err
			}
		}
	}
	if to.Goes(Mailed) {
		d, err := put(Mailed, "", fmt.Sprintf("A notice goes to %s.", row.Email))
		if err != nil {
			return err
		}
		if err := r.queue(ctx, a, e, row, d); err != nil {
			return err
		}
	}
	if !to.Goes(Application) && !to.Goes(Mailed) {
		message := "It lies ready at the pickup."
		if !to.Goes(Pickup) {
			message = "To be handed over."
		}
		if _, err := put(to.Ways[0], "", message); err != nil {
			return err
		}
	}
	return nil
}

// SendBehind sends the newest edition in force of sets to those who are behind with them, or to some of those; nil for all. remind
// means those too who were sent it and have not said that it is loaded. It says to how many.
func (r *Rules) SendBehind(ctx context.Context, a keep.Actor, ids, only []int64, remind bool) (recipients int, err error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return 0, err
	}
	if err := keep.IDs("sets", ids, limits.Recipients); err != nil {
		return 0, err
	}
	if only != nil {
		if err := keep.IDs("recipients", only, limits.Recipients); err != nil {
			return 0, err
		}
	}
	sets, err := r.Sets(ctx, a)
	if err != nil {
		return 0, err
	}
	who := map[int64]bool{}
	for _, s := range sets {
		if !slices.Contains(ids, s.ID) || s.Current() == 0 {
			continue
		}
		var to []int64
		for _, h := range s.Holdings {
			if (h.State.Late() || remind && h.State == Waiting) && (only == nil || slices.Contains(only, h.ID)) {
				to = append(to, h.ID)
				who[h.ID] = true
			}
		}
		if len(to) == 0 {
			continue
		}
		if err := r.Send(ctx, a, s.ID, s.Current(), to); err != nil {
			return len(who), err
		}
	}
	return len(who), nil
}

// Told puts on record what a recipient told: that it has an edition.
func (r *Rules) Told(ctx context.Context, a keep.Actor, id, set int64, number int, note string) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	note, err := noted("note", note)
	if err != nil {
		return err
	}
	db := r.DB.With(ctx)
	if _, err := db.Recipient(a.House.ID, id); err != nil {
		return keep.Missing(err, "recipient")
	}
	if _, err := r.Edition(ctx, a, set, number); err != nil {
		return err
	}
	if note == "" {
		note = "Told by hand."
	}
	now := r.Now()
	return r.Change(ctx, a, func(tx *store.DB) error {
		if err := tx.JoinSet(set, id); err != nil {
			return err
		}
		return tx.Add(&store.Delivery{RecipientID: id, SetID: set, Number: number, ByName: a.Name, SentAt: now, ReceivedAt: &now, OK: true,
			Message: note, Way: string(ByHand), Times: 1})
	})
}

// receive lets the recipient's application take a packing and compares what it took with the edition.
func (r *Rules) receive(d *store.Delivery, to store.Recipient, e library.Edition, p Packed) {
	app, ok := r.Receivers[to.Kind]
	if !ok {
		d.Message = "There is no application that could take it."
		return
	}
	took, err := app.Receive(p.File, p.Data)
	if err != nil {
		d.Message = keep.Sentence(err.Error())
		return
	}
	want := expected(p.Packing, e)
	d.Slots = len(want)
	for _, w := range want {
		if slices.ContainsFunc(took.Colors, func(t outside.Taken) bool {
			return (w.Hex == "" || t.Hex == w.Hex) && (w.Slot == "" || t.Slot == w.Slot)
		}) {
			d.Taken++
		}
	}
	switch {
	case took.Title != "" && took.Title != e.Title() && took.Title != e.Entry():
		d.Message = fmt.Sprintf("It took %q, not %q.", took.Title, e.Title())
	case d.Taken < d.Slots && took.Note != "":
		d.Message = took.Note
	case d.Taken < d.Slots:
		d.Message = fmt.Sprintf("%d of %d places show another color.", d.Slots-d.Taken, d.Slots)
	default:
		d.OK = true
		d.Message = strings.TrimSpace(fmt.Sprintf("All %d colors arrived. %s", d.Slots, took.Note))
	}
}

// expected is what an application should hold after taking a packing of an edition.
func expected(p swatchfile.Packing, e library.Edition) (out []outside.Taken) {
	for _, t := range p.Taken(e) {
		out = append(out, outside.Taken(t))
	}
	return out
}
