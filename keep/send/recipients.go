package send

import (
	"context"
	"fmt"
	"time"

	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/standin"
	"huekeep/store"
)

// Kinds lists the kinds of applications that editions go to, with the packing that each takes.
var Kinds = []struct{ Name, Packing string }{{"office", "deck"}, {"web", "css"}}

// PackingOf is the packing that a kind of application takes.
func PackingOf(kind string) (string, bool) {
	for _, k := range Kinds {
		if k.Name == kind {
			return k.Packing, true
		}
	}
	return "", false
}

// Recipient is a team or person that gets editions.
type Recipient struct {
	ID      int64
	Name    string
	Kind    string
	Note    string
	Packing string // that it takes
}

func recipient(r store.Recipient) Recipient {
	packing, _ := PackingOf(r.Kind)
	return Recipient{r.ID, r.Name, r.Kind, r.Note, packing}
}

// Holding is what a recipient has of a set.
type Holding struct {
	Recipient
	State   string   // never, current, behind or failed (the last sending was not taken)
	Edition int      // the newest edition that was taken, 0 for none
	Last    *Receipt // of the last sending
}

// Receipt is what came back of a sending.
type Receipt struct {
	Edition      int
	At           time.Time // when it came back, or when the edition was sent if none did
	OK           bool
	Taken, Slots int
	Message      string
}

func holding(s Set, to store.Recipient, deliveries []store.Delivery) Holding {
	h := Holding{Recipient: recipient(to), State: "never"}
	for _, d := range deliveries {
		if d.RecipientID != to.ID || d.SetID != s.ID {
			continue
		}
		h.Last = &Receipt{d.Number, d.SentAt, d.OK, d.Taken, d.Slots, d.Message}
		if d.ReceivedAt != nil {
			h.Last.At = *d.ReceivedAt
		}
		if d.OK {
			h.Edition = max(h.Edition, d.Number)
		}
	}
	switch {
	case h.Last == nil:
	case !h.Last.OK:
		h.State = "failed"
	case len(s.Editions) > 0 && h.Edition < s.Editions[0].Number:
		h.State = "behind"
	default:
		h.State = "current"
	}
	return h
}

// Recipients lists who gets editions.
func (r *Rules) Recipients(ctx context.Context, a keep.Actor) ([]Recipient, error) {
	rows, err := r.DB.With(ctx).Recipients(a.House.ID)
	var out []Recipient
	for _, row := range rows {
		out = append(out, recipient(row))
	}
	return out, err
}

// AddRecipient adds a team or person that gets editions of the sets given, or of every set there is if sets is nil.
func (r *Rules) AddRecipient(ctx context.Context, a keep.Actor, name, kind, note string, sets []int64) (Recipient, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return Recipient{}, err
	}
	row, err := NewRecipient(a, name, kind, note)
	if err != nil {
		return Recipient{}, err
	}
	err = r.Change(ctx, a, func(tx *store.DB) error {
		if sets == nil {
			all, err := tx.Sets(a.House.ID)
			if err != nil {
				return err
			}
			for _, s := range all {
				sets = append(sets, s.ID)
			}
		}
		if err := tx.Add(&row); err != nil {
			return keep.Taken(err, "name", "there is a recipient named %s already", row.Name)
		}
		for _, id := range sets {
			if _, err := tx.Set(a.House.ID, id); err != nil {
				return keep.Missing(err, "swatch set")
			}
			if err := tx.JoinSet(id, row.ID); err != nil {
				return err
			}
		}
		return nil
	})
	return recipient(row), err
}

// Join puts a recipient on a set, or takes it off; what it was sent stays on record.
func (r *Rules) Join(ctx context.Context, a keep.Actor, set, id int64, on bool) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	db := r.DB.With(ctx)
	if _, err := db.Set(a.House.ID, set); err != nil {
		return keep.Missing(err, "swatch set")
	}
	if _, err := db.Recipient(a.House.ID, id); err != nil {
		return keep.Missing(err, "recipient")
	}
	if on {
		return db.JoinSet(set, id)
	}
	return db.LeaveSet(set, id)
}

// NewRecipient checks what somebody gave of a recipient.
func NewRecipient(a keep.Actor, name, kind, note string) (store.Recipient, error) {
	n, err := keep.Name("name", name)
	if err != nil {
		return store.Recipient{}, err
	}
	if _, ok := PackingOf(kind); !ok {
		return store.Recipient{}, keep.Wrong("kind", "the kind %q is none of office, web", kind)
	}
	if len(note) > 4*limits.RuleRunes {
		return store.Recipient{}, keep.Wrong("note", "the note is too long")
	}
	return store.Recipient{HouseID: a.House.ID, Name: n, NameKey: store.NameKey(n), Kind: kind, Note: note}, nil
}

// Send packs an edition for recipients, hands it to their applications and keeps their receipts. A packing that was not taken
// is recorded as such; the others are not held up by it.
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
		to = append(to, row)
	}
	for _, row := range to {
		packing, _ := PackingOf(row.Kind)
		file, p, data, err := r.Pack(ctx, a, set, number, packing)
		if err != nil {
			return err
		}
		d := store.Delivery{RecipientID: row.ID, SetID: set, Number: number, Packing: p.Name, ByName: a.Name, SentAt: r.Now(), Message: "No receipt came back."}
		if err := db.JoinSet(set, row.ID); err != nil { // whoever is sent a set belongs to it
			return err
		}
		if err := db.Add(&d); err != nil { // first on record as sent, so that a cut-off sending shows
			return err
		}
		r.receive(&d, row, e, file, data)
		at := r.Now()
		d.ReceivedAt = &at
		if err := db.Save(&d); err != nil {
			return err
		}
	}
	return nil
}

// receive lets the recipient's application take a packing and compares what it took with the edition.
func (r *Rules) receive(d *store.Delivery, to store.Recipient, e library.Edition, file string, data []byte) {
	receipt, err := r.Receivers[to.Kind].Receive(file, data)
	if err != nil {
		d.Message = keep.Sentence(err.Error())
		return
	}
	want := expected(to.Kind, e)
	d.Slots = len(want)
	for i, w := range want {
		if i < len(receipt.Colors) && (w.Slot == "" || receipt.Colors[i].Slot == w.Slot) && receipt.Colors[i].Hex == w.Hex {
			d.Taken++
		}
	}
	switch {
	case receipt.Title != e.Title():
		d.Message = fmt.Sprintf("It took %q, not %q.", receipt.Title, e.Title())
	case d.Taken < d.Slots:
		d.Message = fmt.Sprintf("%d of %d places show another color.", d.Slots-d.Taken, d.Slots)
	default:
		d.OK = true
		d.Message = fmt.Sprintf("All %d colors arrived.", d.Slots)
	}
}

// expected is what an application should hold after taking an edition.
func expected(kind string, e library.Edition) []standin.Taken {
	var out []standin.Taken
	if kind == "office" {
		for _, s := range swatchfile.ThemeSlots(e.Colors, e.Slots...) {
			out = append(out, standin.Taken{Slot: s.Name, Hex: s.Color.RGB.Hex()})
		}
		return out
	}
	for _, c := range e.Colors {
		out = append(out, standin.Taken{Hex: c.RGB.Hex()})
	}
	return out
}
