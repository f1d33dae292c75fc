package keep

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"huekeep/core/limits"
	"huekeep/core/swatchfile"
	"huekeep/standin"
	"huekeep/store"
)

// RecipientKinds lists the kinds of applications that editions go to, with the packing that each takes.
var RecipientKinds = []struct{ Name, Packing string }{{"office", "office-theme"}, {"web", "css"}}

func packingOf(kind string) (string, bool) {
	for _, k := range RecipientKinds {
		if k.Name == kind {
			return k.Packing, true
		}
	}
	return "", false
}

// content is what an edition holds: the colors as they were, and which library colors they are.
type content struct {
	Edition swatchfile.Edition
	IDs     []int64
}

func readContent(e store.Edition) (content, error) {
	var c content
	if err := json.Unmarshal([]byte(e.Content), &c); err != nil {
		return c, fmt.Errorf("edition %d of set %d cannot be read: %w", e.Number, e.SetID, err)
	}
	return c, nil
}

// Set is a swatch set with its editions and with who holds what.
type Set struct {
	store.SwatchSet
	Members  []store.Color
	Editions []EditionLine // newest first
	Changes  []string      // what is different from the newest edition
	Holdings []Holding
}

// EditionLine is an edition without its colors.
type EditionLine struct {
	Number int
	At     time.Time
	By     string
	Count  int
}

// Holding is what a recipient has of a set.
type Holding struct {
	Recipient store.Recipient
	Packing   string
	State     string          // never, current, behind or failed (the last sending was not taken)
	Edition   int             // the newest edition that was taken, 0 for none
	Last      *store.Delivery // the last sending
}

type heldEdition struct {
	recipient int64
	name      string
	edition   int
}

// held finds the newest edition that each recipient took of each set.
func (k *Keeper) held(db *store.DB, house int64) (map[int64][]heldEdition, error) {
	recipients, err := db.Recipients(house)
	if err != nil {
		return nil, err
	}
	deliveries, err := db.Deliveries(house)
	if err != nil {
		return nil, err
	}
	out := map[int64][]heldEdition{}
	for _, r := range recipients {
		newest := map[int64]int{}
		for _, d := range deliveries {
			if d.RecipientID == r.ID && d.OK {
				newest[d.SetID] = max(newest[d.SetID], d.Number)
			}
		}
		for set, number := range newest {
			out[set] = append(out[set], heldEdition{r.ID, r.Name, number})
		}
	}
	return out, nil
}

// Sets lists the house's swatch sets.
func (k *Keeper) Sets(ctx context.Context, a Actor) ([]Set, error) {
	db := k.DB.With(ctx)
	sets, err := db.Sets(a.House.ID)
	if err != nil {
		return nil, err
	}
	_, rows, err := k.Ledger(ctx, a)
	if err != nil {
		return nil, err
	}
	byID := map[int64]Row{}
	for _, r := range rows {
		byID[r.ID] = r
	}
	editions, err := db.Editions(a.House.ID)
	if err != nil {
		return nil, err
	}
	recipients, err := db.Recipients(a.House.ID)
	if err != nil {
		return nil, err
	}
	deliveries, err := db.Deliveries(a.House.ID)
	if err != nil {
		return nil, err
	}
	out := []Set{}
	for _, s := range sets {
		set := Set{SwatchSet: s}
		var now []Row
		for _, c := range s.Colors {
			if r, ok := byID[c.ColorID]; ok {
				set.Members = append(set.Members, r.Color)
				now = append(now, r)
			}
		}
		for _, e := range editions {
			if e.SetID != s.ID {
				continue
			}
			c, err := readContent(e)
			if err != nil {
				return nil, err
			}
			if len(set.Editions) == 0 {
				set.Changes = changes(c, now)
			}
			set.Editions = append(set.Editions, EditionLine{e.Number, e.FixedAt, e.ByName, len(c.IDs)})
		}
		for _, r := range recipients {
			set.Holdings = append(set.Holdings, holding(set, r, deliveries))
		}
		out = append(out, set)
	}
	return out, nil
}

func holding(s Set, r store.Recipient, deliveries []store.Delivery) Holding {
	h := Holding{Recipient: r, State: "never"}
	h.Packing, _ = packingOf(r.Kind)
	for _, d := range deliveries {
		if d.RecipientID != r.ID || d.SetID != s.ID {
			continue
		}
		h.Last = &d
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

// changes says in words what of a set is different from an edition.
func changes(old content, now []Row) []string {
	var out []string
	was := map[int64]swatchfile.Color{}
	for i, id := range old.IDs {
		was[id] = old.Edition.Colors[i]
	}
	var order []int64
	for _, r := range now {
		order = append(order, r.ID)
		before, ok := was[r.ID]
		if !ok {
			out = append(out, r.Name+" added")
			continue
		}
		after := fileColor(r)
		if before.RGB != after.RGB {
			out = append(out, fmt.Sprintf("%s amended from %s to %s", r.Name, before.RGB.Hex(), after.RGB.Hex()))
		}
		if before.Name != after.Name {
			out = append(out, fmt.Sprintf("%s renamed to %s", before.Name, after.Name))
		}
		if before.Status != after.Status {
			out = append(out, fmt.Sprintf("%s is %s", r.Name, after.Status))
		}
		same := func(x, y any) bool { a, _ := json.Marshal(x); b, _ := json.Marshal(y); return string(a) == string(b) }
		if !same(before.CMYK, after.CMYK) || !same(before.Spots, after.Spots) {
			out = append(out, r.Name+": print values changed")
		}
	}
	var kept []int64 // what stayed, in the old order
	for i, id := range old.IDs {
		if !slices.Contains(order, id) {
			out = append(out, old.Edition.Colors[i].Name+" removed")
		} else {
			kept = append(kept, id)
		}
	}
	i := 0
	for _, id := range order {
		if i < len(kept) && slices.Contains(kept, id) {
			if id != kept[i] {
				out = append(out, "the order changed")
				break
			}
			i++
		}
	}
	return out
}

// FindSet reads one set.
func (k *Keeper) FindSet(ctx context.Context, a Actor, id int64) (Set, error) {
	all, err := k.Sets(ctx, a)
	if err != nil {
		return Set{}, err
	}
	for _, s := range all {
		if s.ID == id {
			return s, nil
		}
	}
	return Set{}, missing(store.ErrNotFound, "swatch set")
}

// CreateSet makes a swatch set.
func (k *Keeper) CreateSet(ctx context.Context, a Actor, setName string, colors []int64) (int64, error) {
	if err := a.may(RoleKeeper); err != nil {
		return 0, err
	}
	n, err := name("name", setName)
	if err != nil {
		return 0, err
	}
	s := store.SwatchSet{HouseID: a.House.ID, Name: n, NameKey: store.NameKey(n), Version: 1}
	err = k.DB.In(ctx, func(tx *store.DB) error {
		s.ID = 0
		sets, err := tx.Sets(a.House.ID)
		if err != nil {
			return err
		}
		s.Position = len(sets)
		if err := k.usable(tx, a, colors); err != nil {
			return err
		}
		if err := tx.Add(&s); err != nil {
			return taken(err, "name", "there is a swatch set named %s already", n)
		}
		return tx.PutSetColors(s.ID, colors)
	})
	return s.ID, err
}

// usable checks that colors can be in a set: they exist, once each.
func (k *Keeper) usable(tx *store.DB, a Actor, colors []int64) error {
	if len(colors) > limits.SetColors {
		return invalid("colors", "a swatch set holds at most %d colors", limits.SetColors)
	}
	all, err := tx.Colors(a.House.ID)
	if err != nil {
		return err
	}
	known := map[int64]bool{}
	for _, c := range all {
		known[c.ID] = true
	}
	seen := map[int64]bool{}
	for _, id := range colors {
		if !known[id] {
			return missing(store.ErrNotFound, "color")
		}
		if seen[id] {
			return invalid("colors", "a color is in the set twice")
		}
		seen[id] = true
	}
	return nil
}

// ChangeSet renames a set and gives it other colors or another order.
func (k *Keeper) ChangeSet(ctx context.Context, a Actor, id int64, version int, setName string, colors []int64) error {
	if err := a.may(RoleKeeper); err != nil {
		return err
	}
	n, err := name("name", setName)
	if err != nil {
		return err
	}
	return k.DB.In(ctx, func(tx *store.DB) error {
		s, err := tx.SetToChange(a.House.ID, id)
		if err != nil {
			return missing(err, "swatch set")
		}
		if s.Version != version {
			return conflict("version", "the swatch set %s was changed by somebody else meanwhile; look at it again", s.Name)
		}
		if err := k.usable(tx, a, colors); err != nil {
			return err
		}
		s.Name, s.NameKey = n, store.NameKey(n)
		s.Version++
		if err := tx.Save(&s); err != nil {
			return taken(err, "name", "there is a swatch set named %s already", n)
		}
		return tx.PutSetColors(id, colors)
	})
}

// DeleteSet deletes a set that has no edition: an edition that somebody may hold is never taken away.
func (k *Keeper) DeleteSet(ctx context.Context, a Actor, id int64) error {
	if err := a.may(RoleKeeper); err != nil {
		return err
	}
	s, err := k.FindSet(ctx, a, id)
	if err != nil {
		return err
	}
	if len(s.Editions) > 0 {
		return conflict("", "%s has %d editions, which recipients may hold; it stays", s.Name, len(s.Editions))
	}
	return missing(k.DB.With(ctx).DeleteSet(a.House.ID, id), "swatch set")
}

// FixEdition fixes a set as its next edition. Drafts and retired colors are not sent out.
func (k *Keeper) FixEdition(ctx context.Context, a Actor, id int64) error {
	if err := a.may(RoleKeeper); err != nil {
		return err
	}
	s, err := k.FindSet(ctx, a, id)
	if err != nil {
		return err
	}
	if len(s.Members) == 0 {
		return conflict("", "%s holds no colors; put some in first", s.Name)
	}
	if len(s.Editions) > 0 && len(s.Changes) == 0 {
		return conflict("", "%s is the same as its edition %d", s.Name, s.Editions[0].Number)
	}
	_, rows, err := k.Ledger(ctx, a)
	if err != nil {
		return err
	}
	byID := map[int64]Row{}
	for _, r := range rows {
		byID[r.ID] = r
	}
	return k.DB.In(ctx, func(tx *store.DB) error {
		locked, err := tx.SetToChange(a.House.ID, id) // two people fixing at once make one edition
		if err != nil {
			return missing(err, "swatch set")
		}
		if locked.Version != s.Version {
			return conflict("version", "the swatch set %s was changed by somebody else meanwhile; look at it again", s.Name)
		}
		number := 1
		if len(s.Editions) > 0 {
			number = s.Editions[0].Number + 1
		}
		now := k.Now()
		c := content{Edition: swatchfile.Edition{House: a.House.Name, Set: s.Name, Number: number, FixedAt: now}}
		for _, m := range locked.Colors {
			r := byID[m.ColorID]
			if r.Status != "approved" {
				return conflict("", "%s is %s; approve it or take it out of the set first", r.Name, map[string]string{"draft": "a draft", "retired": "retired"}[r.Status])
			}
			c.Edition.Colors = append(c.Edition.Colors, fileColor(r))
			c.IDs = append(c.IDs, m.ColorID)
		}
		text, err := json.Marshal(c)
		if err != nil {
			return err
		}
		err = tx.Add(&store.Edition{SetID: id, Number: number, HouseID: a.House.ID, FixedAt: now, ByName: a.Name, Content: string(text)})
		return taken(err, "", "somebody else fixed edition %d of %s just now", number, s.Name)
	})
}

// Edition reads a fixed edition.
func (k *Keeper) Edition(ctx context.Context, a Actor, set int64, number int) (swatchfile.Edition, store.Edition, error) {
	e, err := k.DB.With(ctx).Edition(a.House.ID, set, number)
	if err != nil {
		return swatchfile.Edition{}, e, missing(err, "edition")
	}
	c, err := readContent(e)
	return c.Edition, e, err
}

// Pack writes an edition in a packing format.
func (k *Keeper) Pack(ctx context.Context, a Actor, set int64, number int, packing string) (file string, p swatchfile.Packing, data []byte, err error) {
	if p, err = swatchfile.FindPacking(packing); err != nil {
		return "", p, nil, &Error{Kind: NotFound, Message: sentence(err.Error())}
	}
	e, _, err := k.Edition(ctx, a, set, number)
	if err != nil {
		return "", p, nil, err
	}
	data, err = p.Write(e)
	return p.FileName(e), p, data, err
}

// Send packs an edition for recipients, hands it to their applications and keeps their receipts. A packing that was not
// taken is recorded as such; the others are not held up by it.
func (k *Keeper) Send(ctx context.Context, a Actor, set int64, number int, recipients []int64) error {
	if err := a.may(RoleKeeper); err != nil {
		return err
	}
	if len(recipients) == 0 {
		return invalid("recipients", "no recipient is chosen")
	}
	db := k.DB.With(ctx)
	e, _, err := k.Edition(ctx, a, set, number)
	if err != nil {
		return err
	}
	var to []store.Recipient
	for _, id := range recipients {
		r, err := db.Recipient(a.House.ID, id)
		if err != nil {
			return missing(err, "recipient")
		}
		to = append(to, r)
	}
	for _, r := range to {
		packing, _ := packingOf(r.Kind)
		file, p, data, err := k.Pack(ctx, a, set, number, packing)
		if err != nil {
			return err
		}
		d := store.Delivery{RecipientID: r.ID, SetID: set, Number: number, Packing: p.Name, ByName: a.Name, SentAt: k.Now(), Message: "No receipt came back."}
		if err := db.Add(&d); err != nil { // first on record as sent, so that a cut-off sending shows
			return err
		}
		k.receive(&d, r, e, file, data)
		at := k.Now()
		d.ReceivedAt = &at
		if err := db.Save(&d); err != nil {
			return err
		}
	}
	return nil
}

// receive lets the recipient's application take a packing and compares what it took with the edition.
func (k *Keeper) receive(d *store.Delivery, r store.Recipient, e swatchfile.Edition, file string, data []byte) {
	receipt, err := k.Receivers[r.Kind].Receive(file, data)
	if err != nil {
		d.Message = sentence(err.Error())
		return
	}
	want := expected(r.Kind, e)
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
		d.Message = fmt.Sprintf("%d of %d slots show another color.", d.Slots-d.Taken, d.Slots)
	default:
		d.OK = true
		d.Message = fmt.Sprintf("All %d slots taken.", d.Slots)
	}
}

// expected is what an application should hold after taking an edition.
func expected(kind string, e swatchfile.Edition) []standin.Taken {
	var out []standin.Taken
	if kind == "office" {
		for _, s := range swatchfile.ThemeSlots(e.Colors) {
			out = append(out, standin.Taken{Slot: s.Name, Hex: s.Color.RGB.Hex()})
		}
		return out
	}
	for _, c := range e.Colors {
		out = append(out, standin.Taken{Hex: c.RGB.Hex()})
	}
	return out
}

// Recipients lists who gets editions.
func (k *Keeper) Recipients(ctx context.Context, a Actor) ([]store.Recipient, error) {
	return k.DB.With(ctx).Recipients(a.House.ID)
}

// AddRecipient adds a team or person that gets editions.
func (k *Keeper) AddRecipient(ctx context.Context, a Actor, recipientName, kind, note string) (store.Recipient, error) {
	if err := a.may(RoleKeeper); err != nil {
		return store.Recipient{}, err
	}
	n, err := name("name", recipientName)
	if err != nil {
		return store.Recipient{}, err
	}
	if _, ok := packingOf(kind); !ok {
		return store.Recipient{}, invalid("kind", "the kind %q is none of office, web", kind)
	}
	if len(note) > 4*limits.RuleRunes {
		return store.Recipient{}, invalid("note", "the note is too long")
	}
	r := store.Recipient{HouseID: a.House.ID, Name: n, NameKey: store.NameKey(n), Kind: kind, Note: note}
	return r, taken(k.DB.With(ctx).Add(&r), "name", "there is a recipient named %s already", n)
}
