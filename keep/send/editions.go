package send

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/hooks"
	"huekeep/keep/media"
	"huekeep/store"
)

// Fix fixes a set as its next edition, with a note to those who get it. Drafts and retired colors are not sent out.
func (r *Rules) Fix(ctx context.Context, a keep.Actor, id int64, note string) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	note, err := noted("note", note)
	if err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error { return r.fix(tx, a, id, note) }) // two people fixing at once make one edition
}

// FixAll fixes several sets at once, all or none.
func (r *Rules) FixAll(ctx context.Context, a keep.Actor, ids []int64, note string) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	note, err := noted("note", note)
	if err != nil {
		return err
	}
	if err := keep.IDs("sets", ids, limits.Recipients); err != nil {
		return err
	}
	if len(ids) == 0 {
		return keep.Wrong("sets", "no swatch set is chosen")
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		for _, id := range ids {
			if err := r.fix(tx, a, id, note); err != nil {
				return err
			}
		}
		return nil
	})
}

func noted(field, note string) (string, error) {
	note = strings.TrimSpace(note)
	if n := utf8.RuneCountInString(note); n > limits.NoteRunes {
		return "", keep.Wrong(field, "the note has %d characters; at most %d fit", n, limits.NoteRunes)
	}
	return note, nil
}

func (r *Rules) fix(tx *store.DB, a keep.Actor, id int64, note string) error {
	s, err := r.set(tx, a, id)
	if err != nil {
		return err
	}
	if len(s.Members) == 0 {
		return keep.Clash("", "%s holds no colors; put some in first", s.Name)
	}
	e := library.Edition{House: a.House.Name, Set: s.Name, Number: 1, FixedAt: r.Now(), By: a.Person(), Note: note, Slots: s.Slots,
		Boxes: s.Boxes}
	if len(s.Editions) > 0 {
		e.Number = s.Editions[0].Number + 1
		if current := s.Current(); current > 0 && len(s.Changes) == 0 {
			return keep.Clash("", "%s is the same as its edition %d", s.Name, current)
		}
	}
	for _, c := range s.Members {
		if c.Status != library.Approved {
			how := map[library.Status]string{library.Draft: "a draft", library.Retired: "retired"}[c.Status]
			return keep.Clash("", "%s is %s; approve it or take it out of the set first", c.Name, how)
		}
	}
	if err := swatchfile.CheckSlots(s.Members, s.Slots); err != nil {
		return keep.Clash("", "%s: %v. Change the slots that were given by hand first", s.Name, err)
	}
	if err := r.complete(tx, a, &e, s.Members); err != nil {
		return err
	}
	if e.Loading, err = ownNotes(tx, a); err != nil {
		return err
	}
	return keep.Taken(tx.AddEdition(a.House.ID, id, e), "", "somebody else fixed edition %d of %s just now", e.Number, s.Name)
}

// complete puts colors into an edition with all that a packing may need in ten years: a build for every press and an ink for
// every stock, the identity of the profiles, and the gradients and the rules between the colors.
func (r *Rules) complete(db *store.DB, a keep.Actor, e *library.Edition, colors []library.Color) error {
	presses, err := r.Media.PressesOf(db, a.House.ID)
	if err != nil {
		return err
	}
	book, err := r.Media.Book(db, a.House.ID)
	if err != nil {
		return err
	}
	for _, p := range presses {
		id := p.Identity()
		e.Profiles = append(e.Profiles, library.Profile{Press: p.Name, Label: p.Label, InkLimit: id.InkLimit, Name: id.Name,
			SHA256: id.SHA256})
	}
	for _, c := range colors {
		c.Builds, c.Spots = slices.Clone(c.Builds), slices.Clone(c.Spots)
		lab := c.Lab()
		for _, p := range presses {
			if _, ok := c.Build(p.Name); !ok {
				c.Builds = append(c.Builds, library.Build{Press: p.Name, Value: p.Condition.Build(lab).Whole, Origin: library.Derived})
			}
		}
		for _, stock := range ink.Stocks {
			if _, ok := c.Spot(string(stock)); !ok {
				c.Spots = append(c.Spots, library.Spot{Stock: string(stock), Code: media.OnStock(c, stock, book).Ink.Code,
					Origin: library.Derived})
			}
		}
		for i, s := range c.Spots {
			if found, ok := book.Find(s.Code); ok {
				of := found.Lab(ink.Stock(s.Stock))
				c.Spots[i].Book, c.Spots[i].Lab = book.Name, &of
			}
			if p, ok := c.Master.Printed(); ok && s.Origin == library.Deciding { // which the book may not have any more
				c.Spots[i].Book, c.Spots[i].Lab = p.Book, &p.Lab
			}
		}
		slices.SortFunc(c.Builds, func(x, y library.Build) int { return strings.Compare(x.Press, y.Press) })
		slices.SortFunc(c.Spots, func(x, y library.Spot) int { return strings.Compare(x.Stock, y.Stock) })
		e.Colors = append(e.Colors, c)
	}
	return between(db, a, e, colors)
}

// between puts into an edition the gradients between its colors and the rules about them.
func between(db *store.DB, a keep.Actor, e *library.Edition, colors []library.Color) error {
	gradients, err := db.Gradients(a.House.ID)
	for _, g := range gradients {
		outside := func(s library.Stop) bool {
			return !slices.ContainsFunc(colors, func(c library.Color) bool { return c.ID == s.Color.ID })
		}
		if !slices.ContainsFunc(g.Stops, outside) {
			e.Gradients = append(e.Gradients, g)
		}
	}
	if err != nil {
		return err
	}
	pairs, err := db.Pairs(a.House.ID)
	for _, p := range pairs {
		within := func(of library.Ref) bool {
			return slices.ContainsFunc(colors, func(c library.Color) bool { return c.ID == of.ID })
		}
		if within(p.Color) && within(p.Ground) {
			e.Pairs = append(e.Pairs, p)
		}
	}
	return err
}

// Edition reads a fixed edition.
func (r *Rules) Edition(ctx context.Context, a keep.Actor, set int64, number int) (library.Edition, error) {
	e, err := r.DB.With(ctx).Edition(a.House.ID, set, number)
	return e, keep.Missing(err, "edition")
}

// Withdraw says of an edition that it is not to be used any more, and why; an empty reason takes that back. The edition itself stays as it
// is.
func (r *Rules) Withdraw(ctx context.Context, a keep.Actor, set int64, number int, why string, gone bool) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	why, err := noted("why", why)
	if err != nil {
		return err
	}
	if gone && why == "" {
		return keep.Wrong("why", "say why it is withdrawn; those who hold it will ask")
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		if !gone {
			return keep.Missing(tx.Withdraw(a.House.ID, set, number, nil, "", ""), "edition")
		}
		now := r.Now()
		if err := tx.Withdraw(a.House.ID, set, number, &now, a.Name, why); err != nil {
			return keep.Missing(err, "edition")
		}
		names, err := tx.SetNames(a.House.ID)
		if err != nil {
			return err
		}
		return r.Hooks.Say(tx, a, hooks.EditionWithdrawn, map[string]any{"set": map[string]any{"id": set, "name": names[set]},
			"edition": number, "why": why})
	})
}

// Compare says what is different between two editions of a set, color by color; 0 stands for the set as it is now.
func (r *Rules) Compare(ctx context.Context, a keep.Actor, id int64, from, to int) ([]library.Difference, error) {
	side := func(number int) ([]library.Color, error) {
		if number > 0 {
			e, err := r.Edition(ctx, a, id, number)
			return e.Colors, err
		}
		s, err := r.Set(ctx, a, id)
		return s.Members, err
	}
	before, err := side(from)
	if err != nil {
		return nil, err
	}
	after, err := side(to)
	if err != nil {
		return nil, err
	}
	return library.Compare(before, after), nil
}

// Packed is a packing as a file.
type Packed struct {
	File    string
	Packing swatchfile.Packing
	Data    []byte
	ETag    string // of the data, quoted
}

// packed remembers what was packed lately: an edition never changes, and a build asks for the same file every hour.
type packed struct {
	files map[packedKey]Packed
	bytes int
}

type packedKey struct {
	house, set int64
	number     int
	packing    string
}

// mostPacked is how much is remembered.
const mostPacked = 64 << 20

// Pack writes an edition in a packing format. Packings carry what a person approved.
func (r *Rules) Pack(ctx context.Context, a keep.Actor, set int64, number int, packing string) (Packed, error) {
	p, err := swatchfile.FindPacking(packing)
	if err != nil {
		return Packed{}, &keep.Error{Kind: keep.NotFound, Message: keep.Sentence(err.Error())}
	}
	return r.pack(ctx, a, packedKey{a.House.ID, set, number, p.Name}, p)
}

// pack packs what is not remembered.
func (r *Rules) pack(ctx context.Context, a keep.Actor, key packedKey, p swatchfile.Packing) (Packed, error) {
	r.mutex.Lock()
	out, ok := r.packed.files[key]
	r.mutex.Unlock()
	if ok {
		return out, nil
	}
	name, data, err := r.packedOnce(ctx, a, key, p)
	if err != nil {
		return Packed{}, err
	}
	sum := sha256.Sum256(data)
	out = Packed{name, p, data, `"` + hex.EncodeToString(sum[:12]) + `"`}
	r.mutex.Lock()
	defer r.mutex.Unlock()
	if r.packed.files == nil || r.packed.bytes+len(data) > mostPacked {
		r.packed.files, r.packed.bytes = map[packedKey]Packed{}, 0
	}
	r.packed.files[key] = out
	r.packed.bytes += len(data)
	return out, nil
}

// packedOnce gives what was packed when somebody first asked, so that what was sent stays byte for byte whatever later versions of this
// program pack.
func (r *Rules) packedOnce(ctx context.Context, a keep.Actor, key packedKey, p swatchfile.Packing) (name string, data []byte, err error) {
	db := r.DB.With(ctx)
	row, err := db.PackedFile(key.house, key.set, key.number, keep.Digest(key.packing))
	if err == nil {
		data, err := r.Load(ctx, row.BlobKey)
		if errors.Is(err, keep.ErrLost) || errors.Is(err, keep.ErrSpoiled) {
			data, err = r.packedAgain(ctx, a, key, p, row)
		}
		return row.FileName, data, err
	} else if !errors.Is(err, store.ErrNotFound) {
		return "", nil, err
	}
	e, err := r.Edition(ctx, a, key.set, key.number)
	if err != nil {
		return "", nil, err
	}
	if data, err = p.Pack(e); err != nil {
		return "", nil, &keep.Error{Kind: keep.Invalid, Message: keep.Sentence(fmt.Sprintf("%s cannot be written: %v", p.Label, err))}
	}
	row = store.PackedFile{SetID: key.set, Number: key.number, PackingKey: keep.Digest(key.packing), HouseID: key.house, Packing: p.Name,
		FileName: p.FileName(e), MadeAt: r.Now()}
	if row.BlobKey, err = r.StoreAnyway(ctx, key.house, "packed", data); err != nil {
		return "", nil, err
	}
	if err := db.Add(&row); err != nil {
		r.Drop(context.WithoutCancel(ctx), row.BlobKey)
		if errors.Is(err, store.ErrDuplicate) { // somebody else asked at the same moment
			return r.packedOnce(ctx, a, key, p)
		}
		return "", nil, err
	}
	return row.FileName, data, nil
}

// packedAgain packs anew what was kept and is lost. It has to be the same: else nobody gets it for what was sent.
func (r *Rules) packedAgain(ctx context.Context, a keep.Actor, key packedKey, p swatchfile.Packing, row store.PackedFile) ([]byte, error) {
	e, err := r.Edition(ctx, a, key.set, key.number)
	if err != nil {
		return nil, err
	}
	data, err := p.Pack(e)
	if err != nil {
		return nil, err
	}
	if err := r.PutBack(ctx, row.BlobKey, data); errors.Is(err, keep.ErrSpoiled) {
		return nil, keep.Clash("", "the file that was sent of this edition is lost, and this version of the program would write another one; fix the next edition")
	} else if err != nil {
		return nil, err
	}
	return data, nil
}

// Kit writes what a recipient takes of an edition as one ZIP.
func (r *Rules) Kit(ctx context.Context, a keep.Actor, set int64, number int, recipient int64) (Packed, error) {
	to, err := r.DB.With(ctx).Recipient(a.House.ID, recipient)
	if err != nil {
		return Packed{}, keep.Missing(err, "recipient")
	}
	return r.kit(ctx, a, set, number, strings.Fields(to.Packings))
}

// kit packs several packings as one; it is remembered by what is in it.
func (r *Rules) kit(ctx context.Context, a keep.Actor, set int64, number int, packings []string) (Packed, error) {
	kit, err := swatchfile.FindPacking("kit")
	if err != nil {
		return Packed{}, err
	}
	kit.Write = func(e library.Edition) ([]byte, error) { return swatchfile.Kit(e, packings) }
	return r.pack(ctx, a, packedKey{a.House.ID, set, number, "kit of " + strings.Join(packings, " ")}, kit)
}

// Holder is an edition that holds a color, with the recipients that took it.
type Holder struct {
	Set        string
	SetID      int64
	Edition    int
	Hex        color.RGB8
	Recipients []string
}

// Held is where a color is: the sets that contain it, and the editions in force that hold a value of it: the newest of each set, and those
// that recipients still have.
type Held struct {
	Sets    []string
	Holders []Holder
}

// Recipients counts who has another value of the color than one.
func (h Held) Recipients(now color.RGB8) int {
	who := map[string]bool{}
	for _, o := range h.Holders {
		for _, name := range o.Recipients {
			who[name] = who[name] || o.Hex != now
		}
	}
	n := 0
	for _, behind := range who {
		if behind {
			n++
		}
	}
	return n
}

// Holders finds where colors are.
func Holders(db *store.DB, a keep.Actor, ids ...int64) (map[int64]Held, error) {
	out := map[int64]Held{}
	if len(ids) == 0 {
		return out, nil
	}
	in, err := db.SetsOf(a.House.ID, ids...)
	if err != nil {
		return nil, err
	}
	for _, s := range in {
		h := out[s.Color]
		h.Sets = append(h.Sets, s.Name)
		out[s.Color] = h
	}
	holdings, err := db.HoldingsOf(a.House.ID, ids...)
	if err != nil || len(holdings) == 0 {
		return out, err
	}
	taken, err := db.Taken(a.House.ID)
	if err != nil {
		return nil, err
	}
	type key struct {
		set    int64
		number int
	}
	who := map[key][]string{}
	for _, t := range taken {
		k := key{t.Set, t.Number}
		who[k] = append(who[k], t.Name)
	}
	for _, e := range holdings {
		with := who[key{e.Set, e.Number}]
		if !e.Newest && len(with) == 0 {
			continue
		}
		rgb, err := color.FromHex(e.Hex)
		if err != nil {
			return nil, err
		}
		h := out[e.Color]
		h.Holders = append(h.Holders, Holder{e.Name, e.Set, e.Number, rgb, with})
		out[e.Color] = h
	}
	return out, nil
}
