package backup

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"huekeep/core/board/page"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/press"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/send"
	"huekeep/reading"
	"huekeep/store"
)

// Restored says what a restore did.
type Restored struct {
	Added   int
	Present int      // colors that were there already, left out
	Renamed []string // "Buoy came in as Buoy 2", since the name was taken for another value
	Mails   int      // that go on in the list of mails of a house that was replaced
	Back    int64    // the way back
}

// libraryTask reads a library file and all that it brings along, to see that it can be restored.
var libraryTask = reading.NewTask("library", func(_ struct{}, data []byte) ([]byte, error) {
	lib, err := swatchfile.ReadTokens(data)
	if err != nil {
		return nil, fmt.Errorf("the file cannot be restored: %w", err)
	}
	if !swatchfile.Whole(data) {
		return nil, errors.New("the file is not a whole Hue Keep library: its checksum is missing or does not fit, as after a change or a cut; nothing was restored. The colors of any other file come in through Gather")
	}
	if lib.Backup == nil {
		return nil, nil
	}
	if b := lib.Backup.InkBook; b != nil {
		if _, err := ink.ReadCSV(b.Name, strings.NewReader(b.CSV)); err != nil {
			return nil, fmt.Errorf("the ink book %s: %w", b.Name, err)
		}
	}
	for _, p := range lib.Backup.Presses {
		if _, err := press.New(p.Name, p.Label, p.InkLimit, p.Profile); err != nil {
			return nil, fmt.Errorf("the press %s: %w", p.Label, err)
		}
	}
	return nil, nil
})

// Restore takes a library file into a house, wholly or not at all. Replacing takes away what the house had and gives back exactly what was
// saved; adding leaves out colors that are there with name and value. What is replaced keeps its number: addresses of before lead to the
// same thing (see numbers). A file with a checksum that does not fit is refused. The history of each color says that it was restored, and
// what of it came with the file. For a day there is a way back.
func (r *Rules) Restore(ctx context.Context, a keep.Actor, data []byte, replace bool) (Restored, error) {
	return r.RestoreWith(ctx, a, data, replace, func(*store.DB) (keep.Added, error) { return keep.Added{}, nil })
}

// ReadBackup reads a library file that can be restored: whole, and with all that it brings along.
func (r *Rules) ReadBackup(ctx context.Context, a keep.Actor, data []byte) (swatchfile.Library, error) {
	if _, err := keep.Apart(ctx, r.Base, a, libraryTask, "the library", struct{}{}, data); err != nil {
		return swatchfile.Library{}, err
	}
	lib, err := swatchfile.ReadTokens(data)
	if err != nil {
		return lib, keep.Wrong("file", "the file cannot be restored: %v", err)
	}
	if len(lib.Colors) > limits.LibraryColors {
		return lib, keep.Wrong("file", "the file holds %d colors; at most %d fit", len(lib.Colors), limits.LibraryColors)
	}
	return lib, nil
}

// RestoreWith is Restore with what else comes in or does not, in the same transaction.
func (r *Rules) RestoreWith(ctx context.Context, a keep.Actor, data []byte, replace bool,
	also func(tx *store.DB) (keep.Added, error)) (Restored, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return Restored{}, err
	}
	lib, err := r.ReadBackup(ctx, a, data)
	if err != nil {
		return Restored{}, err
	}
	var done Restored
	err = r.Change(ctx, a, func(tx *store.DB) error {
		aside, err := r.SetAside(ctx, tx, a, false)
		if err != nil {
			return err
		}
		in := restore{Rules: r, tx: tx, a: a, lib: lib, replace: replace, ids: map[string]int64{}, now: map[int64]int64{}}
		if err := in.all(); err != nil {
			return err
		}
		done = in.done
		added, err := also(tx)
		if err != nil {
			return err
		}
		done.Back, err = r.WayBack(ctx, tx, a, aside, added)
		return err
	})
	switch {
	case errors.Is(err, store.ErrDuplicate):
		err = keep.Wrong("file", "something stands twice in the file; nothing was restored")
	case errors.Is(err, store.ErrUnfit):
		err = keep.Wrong("file", "a value of the file is longer or larger than the library holds; nothing was restored")
	}
	return done, err
}

// restore is one run of a restore, in a transaction that has the house for itself.
type restore struct {
	*Rules
	tx      *store.DB
	a       keep.Actor
	lib     swatchfile.Library
	replace bool
	done    Restored
	ids     map[string]int64 // of each color of the file, by its name there
	now     map[int64]int64  // the number that a color of the file has here, by the one there
	there   []library.Color  // what the house had, if it is added to
	before  before
}

func (in *restore) all() error {
	colors, err := in.tx.Colors(in.a.House.ID)
	if err != nil {
		return err
	}
	if in.replace {
		if err := in.look(colors); err != nil {
			return err
		}
		if err := in.empty(); err != nil {
			return err
		}
	} else {
		in.there = colors
	}
	for _, step := range []func() error{in.media, in.colors, in.gradients, in.pairs, in.sets, in.editions, in.starters, in.boards,
		in.loading, in.carry} {
		if err := step(); err != nil {
			return err
		}
	}
	return nil
}

func (in *restore) empty() error {
	if err := in.tx.EmptyHouse(in.a.House.ID); err != nil {
		return err
	}
	h, err := in.tx.House(in.a.House.ID)
	if err != nil {
		return err
	}
	h.Neutrals = in.lib.Neutrals
	if in.lib.Tolerance > 0 {
		h.Tolerance = in.lib.Tolerance
	}
	return in.tx.Save(&h)
}

// comes says under which name a color comes in, empty for one that is there already, and counts it.
func (done *Restored) comes(taken map[string]library.Color, name string, c library.Color) (there library.Color, as string) {
	if other, ok := taken[store.NameKey(name)]; ok && other.Value() == c.Value() {
		done.Present++
		return other, ""
	}
	as = name
	for i := 2; taken[store.NameKey(as)].Name != ""; i++ {
		as = fmt.Sprintf("%s %d", name, i)
	}
	if as != name {
		done.Renamed = append(done.Renamed, fmt.Sprintf("%s came in as %s", name, as))
	}
	return library.Color{}, as
}

// Adding says what adding colors to others would do.
func Adding(have, colors []library.Color) (done Restored) {
	taken := map[string]library.Color{}
	for _, c := range have {
		taken[store.NameKey(c.Name)] = c
	}
	for _, c := range colors {
		if _, as := done.comes(taken, strings.TrimSpace(c.Name), c); as != "" {
			c.Name = as
			taken[store.NameKey(as)] = c
			done.Added++
		}
	}
	return done
}

func (in *restore) colors() error {
	taken := map[string]library.Color{}
	for _, c := range in.there {
		taken[store.NameKey(c.Name)] = c
	}
	if b := in.lib.Backup; b != nil {
		for _, g := range b.Groups {
			if _, err := in.tx.EnsureGroup(in.a.House.ID, g); err != nil {
				return err
			}
		}
	}
	numbers, err := in.numbers(in.before.colors, len(in.lib.Colors), func(i int) (int64, string) {
		return in.lib.Colors[i].ID,
			in.lib.Colors[i].Name
	}, in.tx.ColorIDs)
	if err != nil {
		return err
	}
	last, err := in.tx.LastPosition(in.a.House.ID)
	if err != nil {
		return err
	}
	at := in.Now()
	var fresh []library.Color
	var files []int // the place in the file of each of them
	groups := map[string]int64{}
	for i, c := range in.lib.Colors {
		n, err := keep.Name("file", c.Name)
		if err != nil {
			return err
		}
		if _, twice := in.ids[c.Name]; twice {
			return keep.Wrong("file", "two colors of the file are named %s", c.Name)
		}
		in.ids[c.Name] = 0
		other, as := in.done.comes(taken, n, c)
		if as == "" {
			in.ids[c.Name], in.now[c.ID] = other.ID, other.ID
			continue
		}
		last++
		c.Name, c.ID = as, numbers[i]
		if c.ID == 0 || c.Version < 1 {
			c.Version = 1
		}
		c.Version = max(c.Version, in.before.colors.versions[c.ID]+1) // whoever has it open must look again
		if c.Status == "" {
			c.Status = library.Approved
		}
		if !in.replace || in.lib.Version < 2 || c.Position <= 0 || c.Position > 1<<30 {
			c.Position = last
		}
		if c.Added.IsZero() {
			c.Added, c.Changed = at, at
		}
		for i := range c.Builds { // one that decides may come without a signature
			c.Builds[i].At = cmp.Or(c.Builds[i].At, at)
		}
		for i := range c.Spots {
			c.Spots[i].At = cmp.Or(c.Spots[i].At, at)
		}
		c.Point(func(ref library.Ref) library.Ref { return library.Ref{Name: ref.Name} }) // their numbers follow when all colors are there
		if c.Group != "" {
			if c.Group, err = keep.Name("file", c.Group); err != nil {
				return err
			}
			if groups[c.Group] == 0 {
				if groups[c.Group], err = in.tx.EnsureGroup(in.a.House.ID, c.Group); err != nil {
					return err
				}
			}
		}
		if err := c.Check(); err != nil {
			return keep.Wrong("file", "%v", err)
		}
		taken[store.NameKey(as)] = c
		fresh, files = append(fresh, c), append(files, i)
	}
	if n := len(in.there) + len(fresh); n > limits.LibraryColors {
		return keep.Clash("file", "the library would hold %d colors; at most %d fit", n, limits.LibraryColors)
	}
	if err := in.tx.AddColors(in.a.House.ID, groups, fresh); err != nil {
		return err
	}
	in.done.Added = len(fresh)
	for i, c := range fresh {
		in.ids[in.lib.Colors[files[i]].Name], in.now[in.lib.Colors[files[i]].ID] = c.ID, c.ID
	}
	if err := in.point(fresh, groups); err != nil {
		return err
	}
	return in.history(fresh)
}

// point writes what colors point to, when all are there.
func (in *restore) point(fresh []library.Color, groups map[string]int64) error {
	status := map[int64]library.Status{}
	for _, c := range slices.Concat(in.there, fresh) {
		status[c.ID] = c.Status
	}
	var pointing []library.Color
	for i := range fresh {
		c := &fresh[i]
		points := false
		c.Point(func(ref library.Ref) library.Ref {
			points = true
			if ref.ID = in.ids[ref.Name]; ref.ID == 0 || ref.ID == c.ID || status[ref.ID] == library.Draft {
				return library.Ref{}
			}
			return ref
		})
		if points {
			pointing = append(pointing, *c)
		}
	}
	if len(pointing) == 0 {
		return nil
	}
	return errors.Join(in.tx.SaveColors(in.a.House.ID, groups, pointing), in.tx.SaveCompanions(pointing))
}

// history writes what the file tells of each color, marked as coming with it, and that it was restored.
func (in *restore) history(fresh []library.Color) error {
	from := "a backup"
	if in.lib.House != "" {
		from = "a backup of " + keep.Short(in.lib.House, 150)
	}
	history := map[int64][]library.Event{}
	var order []int64
	for _, c := range fresh {
		events := slices.Clone(c.History)
		for i := range events {
			events[i].ID, events[i].By.Account = 0, 0
			if events[i].From == "" {
				events[i].From = from
			}
			if events[i].State == "" {
				continue
			}
			if _, err := library.ReadState(events[i].State); err != nil {
				return keep.Wrong("file", "the history of %s cannot be read: %v", c.Name, err)
			}
		}
		e := library.Event{At: in.Now(), By: in.a.Person(), What: "restored as " + c.RGB.Hex() + " from " + from, After: c.RGB.Hex()}
		var err error
		if e.State, err = c.WriteState(); err != nil {
			return err
		}
		history[c.ID], order = append(events, e), append(order, c.ID)
	}
	return in.tx.AddEvents(history, order)
}

func (in *restore) sets() error {
	sets, err := in.tx.Sets(in.a.House.ID)
	if err != nil {
		return err
	}
	numbers, err := in.numbers(in.before.sets, len(in.lib.Sets), func(i int) (int64, string) {
		return in.lib.Sets[i].ID,
			in.lib.Sets[i].Name
	}, in.tx.SetIDs)
	if err != nil {
		return err
	}
	for i, s := range in.lib.Sets {
		n, err := keep.Name("file", s.Name)
		if err != nil {
			return err
		}
		row := store.SetWith{SwatchSet: store.SwatchSet{ID: numbers[i], HouseID: in.a.House.ID, Name: n, NameKey: store.NameKey(n),
			Position: len(sets) + i, Version: max(1, s.Version, in.before.sets.versions[numbers[i]]+1),
			Slug: in.before.slugs[numbers[i]]}}
		if at := slices.IndexFunc(sets, func(o store.SetWith) bool { return o.NameKey == row.NameKey }); at >= 0 {
			row = sets[at]
			row.Version++
		}
		for _, c := range s.Colors {
			if id := in.ids[c]; id != 0 && !slices.Contains(row.Colors, id) {
				row.Colors = append(row.Colors, id)
			}
		}
		if err := send.TakeByHand(&row, s, in.ids); err != nil {
			return err
		}
		if len(row.Colors) > limits.SetColors {
			return keep.Wrong("file", "the set %s would hold %d colors; at most %d fit", n, len(row.Colors), limits.SetColors)
		}
		if slices.ContainsFunc(sets, func(o store.SetWith) bool { return o.ID == row.ID }) {
			err = in.tx.SaveSet(row)
		} else {
			err = in.tx.AddSet(&row)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// media brings back presses and the ink book, before the colors that are approved for them. What is there by name stays.
func (in *restore) media() error {
	b, house := in.lib.Backup, in.a.House.ID
	if b == nil {
		return nil
	}
	if b.InkBook != nil {
		if _, err := in.tx.InkBookLine(house); errors.Is(err, store.ErrNotFound) {
			n, err := keep.Name("file", b.InkBook.Name)
			if err != nil {
				return err
			}
			if _, err := ink.ReadCSV(n, strings.NewReader(b.InkBook.CSV)); err != nil {
				return keep.Wrong("file", "the ink book %s: %v", n, err)
			}
			row := store.InkBook{HouseID: house, Name: n, Data: b.InkBook.CSV, ByName: in.a.Name, AddedAt: in.Now()}
			if b.InkBook.AddedAt != nil {
				row.ByName, row.AddedAt = b.InkBook.By, *b.InkBook.AddedAt
			}
			if err := in.tx.Save(&row); err != nil {
				return err
			}
		} else if err != nil {
			return err
		}
	}
	for _, p := range b.Presses {
		if _, err := in.tx.Press(house, p.Name); err == nil {
			continue
		}
		if _, err := press.New(p.Name, p.Label, p.InkLimit, p.Profile); err != nil {
			return keep.Wrong("file", "the press %s: %v", p.Label, err)
		}
		row := store.Press{HouseID: house, Name: p.Name, Label: p.Label, InkLimit: p.InkLimit, Profile: p.Profile, ByName: in.a.Name,
			AddedAt: in.Now()}
		if p.AddedAt != nil {
			row.ByName, row.AddedAt = p.By, *p.AddedAt
		}
		if err := in.tx.Add(&row); err != nil {
			return err
		}
	}
	return nil
}

func (in *restore) gradients() error {
	b := in.lib.Backup
	if b == nil {
		return nil
	}
	there, err := in.tx.Gradients(in.a.House.ID)
	if err != nil {
		return err
	}
	numbers, err := in.numbers(in.before.gradients, len(b.Gradients), func(i int) (int64, string) {
		return b.Gradients[i].ID,
			b.Gradients[i].Name
	}, in.tx.GradientIDs)
	if err != nil {
		return err
	}
	for i, g := range b.Gradients {
		if slices.ContainsFunc(there, func(o library.Gradient) bool { return store.NameKey(o.Name) == store.NameKey(g.Name) }) {
			continue
		}
		row := library.Gradient{ID: numbers[i], Version: max(1, g.Version, in.before.gradients.versions[numbers[i]]+1), Name: g.Name,
			Angle: g.Angle, Space: g.Space}
		for _, s := range g.Stops {
			id := in.ids[s.Color]
			if id == 0 {
				return keep.Wrong("file", "the gradient %s runs to the color %s, which the file does not hold", g.Name, s.Color)
			}
			row.Stops = append(row.Stops, library.Stop{Color: library.Ref{ID: id, Name: s.Color}, Place: s.Place})
		}
		if err := in.Ledger.RestoreGradient(in.tx, in.a, row); err != nil {
			return err
		}
	}
	return nil
}

// pairs brings back the rules about pairs; those that the house has stay.
func (in *restore) pairs() error {
	if in.lib.Backup == nil {
		return nil
	}
	there, err := in.tx.Pairs(in.a.House.ID)
	if err != nil {
		return err
	}
	for _, p := range in.lib.Backup.Pairs {
		row := library.Pair{Color: library.Ref{ID: in.ids[p.Color], Name: p.Color},
			Ground: library.Ref{ID: in.ids[p.Ground], Name: p.Ground}, May: p.May, Ratio: p.Ratio,
			By: library.Person{Name: p.By}, At: p.At}
		if row.Color.ID == 0 || row.Ground.ID == 0 || row.Color.ID == row.Ground.ID {
			return keep.Wrong("file", "a rule says what %s %s, and the file does not hold both colors", p.Color, row)
		}
		if err := library.CheckPair(row); err != nil {
			return keep.Wrong("file", "the rule that %s %s: %v", p.Color, row, err)
		}
		if slices.ContainsFunc(there, func(o library.Pair) bool { return o.Color.ID == row.Color.ID && o.Ground.ID == row.Ground.ID }) {
			continue
		}
		if err := in.tx.PutPair(in.a.House.ID, row); err != nil {
			return err
		}
	}
	return nil
}

// editions brings back recipients, editions and who got them. Sets that have editions of their own keep them.
func (in *restore) editions() error {
	if in.lib.Backup == nil {
		return nil
	}
	who, err := in.recipients()
	if err != nil {
		return err
	}
	sets, err := in.members(who)
	if err != nil {
		return err
	}
	lines, err := in.tx.EditionLines(in.a.House.ID)
	if err != nil {
		return err
	}
	for _, l := range lines { // a set that has editions keeps them, and what was sent of them
		for name, id := range sets {
			if id == l.SetID {
				delete(sets, name)
			}
		}
	}
	if err := in.bringEditions(sets); err != nil {
		return err
	}
	return in.sent(sets, who)
}

// recipients brings back those that the house does not have, and gives the numbers of all by their names as keys.
func (in *restore) recipients() (who map[string]int64, err error) {
	b := in.lib.Backup
	there, err := in.tx.Recipients(in.a.House.ID)
	if err != nil {
		return nil, err
	}
	who = map[string]int64{}
	for _, o := range there {
		who[o.NameKey] = o.ID
	}
	numbers, err := in.numbers(in.before.recipients, len(b.Recipients), func(i int) (int64, string) {
		return b.Recipients[i].ID, b.Recipients[i].Name
	}, in.tx.RecipientIDs)
	if err != nil {
		return nil, err
	}
	for i, to := range b.Recipients {
		if who[store.NameKey(to.Name)] != 0 {
			continue
		}
		given := send.NewRecipient{Name: to.Name, Kind: to.Kind, Note: to.Note, Packings: to.Packings, Email: to.Email,
			Ways: []send.Way{send.Application}}
		if to.Ways != nil {
			given.Ways = nil
			for _, w := range to.Ways {
				given.Ways = append(given.Ways, send.Way(w))
			}
		}
		row, err := given.Row(in.a)
		if err != nil {
			return nil, err
		}
		row.PausedAt = to.PausedAt
		row.ID = numbers[i]
		if err := in.tx.Add(&row); err != nil {
			return nil, err
		}
		who[row.NameKey] = row.ID
	}
	return who, nil
}

// members puts recipients into their sets, and gives the numbers of the sets by their names as keys.
func (in *restore) members(who map[string]int64) (setID map[string]int64, err error) {
	sets, err := in.tx.Sets(in.a.House.ID)
	if err != nil {
		return nil, err
	}
	setID = map[string]int64{}
	for _, s := range sets {
		setID[s.NameKey] = s.ID
	}
	for _, to := range in.lib.Backup.Recipients {
		for _, s := range sets {
			if to.Sets == nil || slices.ContainsFunc(to.Sets, func(name string) bool { return store.NameKey(name) == s.NameKey }) {
				if err := in.tx.JoinSet(s.ID, who[store.NameKey(to.Name)]); err != nil {
					return nil, err
				}
			}
		}
	}
	return setID, nil
}

// bringEditions brings back the editions of sets, whose colors have the numbers that they have now, and what was withdrawn.
func (in *restore) bringEditions(sets map[string]int64) error {
	b, house := in.lib.Backup, in.a.House.ID
	for _, f := range b.Editions {
		id := sets[store.NameKey(f.Set)]
		if id == 0 {
			continue
		}
		for i := range f.Edition.Colors {
			c := &f.Edition.Colors[i]
			c.ID = in.now[c.ID]
			c.Point(func(ref library.Ref) library.Ref { return library.Ref{ID: in.now[ref.ID], Name: ref.Name} })
		}
		for i := range f.Edition.Pairs {
			p := &f.Edition.Pairs[i]
			p.Color.ID, p.Ground.ID = in.now[p.Color.ID], in.now[p.Ground.ID]
		}
		for i := range f.Edition.Slots {
			f.Edition.Slots[i].Color.ID = in.now[f.Edition.Slots[i].Color.ID]
		}
		for i := range f.Edition.Boxes.Order {
			f.Edition.Boxes.Order[i].ID = in.now[f.Edition.Boxes.Order[i].ID]
		}
		f.Edition.By.Account = 0
		if err := in.tx.AddEdition(house, id, f.Edition); err != nil {
			return keep.Wrong("file", "edition %d of %s stands twice in the file", f.Edition.Number, f.Set)
		}
	}
	for _, w := range b.Withdrawn {
		if id := sets[store.NameKey(w.Set)]; id != 0 {
			at := w.At
			if err := in.tx.Withdraw(house, id, w.Number, &at, keep.Short(w.By, limits.NameRunes),
				keep.Short(w.Why, limits.NoteRunes)); err != nil {
				return keep.Wrong("file", "a withdrawal of the file names the edition %d of %s, which it does not hold", w.Number, w.Set)
			}
		}
	}
	return nil
}

// sent brings back what was sent of sets.
func (in *restore) sent(sets, who map[string]int64) error {
	for _, d := range in.lib.Backup.Deliveries {
		set, to := sets[store.NameKey(d.Set)], who[store.NameKey(d.Recipient)]
		if set == 0 || to == 0 {
			continue
		}
		row := store.Delivery{RecipientID: to, SetID: set, Number: d.Number, Packing: d.Packing, ByName: d.By, SentAt: d.SentAt,
			ReceivedAt: d.ReceivedAt,
			OK:         d.OK, Taken: d.Taken, Slots: d.Slots, Message: d.Message,
			Way: cmp.Or(d.Way, string(send.Application)), Client: keep.Short(d.Client, 120), Times: max(1, d.Times), LastAt: d.LastAt}
		if err := in.tx.Add(&row); err != nil {
			return keep.Wrong("file", "a delivery of the file names the edition %d of %s, which it does not hold", d.Number, d.Set)
		}
	}
	return nil
}

// starters brings back those that the house does not have; they are the restorer's now. Nobody owns one from the command line,
// which leaves them out.
func (in *restore) starters() error {
	if in.lib.Backup == nil || in.a.Account == 0 {
		return nil
	}
	there, err := in.tx.Starters(in.a.Account, in.a.House.ID)
	if err != nil {
		return err
	}
	for _, s := range in.lib.Backup.Starters {
		if slices.ContainsFunc(there, func(o store.Starter) bool { return o.Name == s.Name }) {
			continue
		}
		if _, err := in.Gathering.AddStarterIn(in.tx, in.a, s.Name, s.Keywords, s.Colors, false); err != nil {
			return err
		}
	}
	return nil
}

// loading brings back what the house says of loading. Where it is added to, what the house says itself stays.
func (in *restore) loading() error {
	if in.lib.Backup == nil {
		return nil
	}
	house := in.a.House.ID
	if in.replace {
		if err := in.tx.DropLoadingNotes(house); err != nil {
			return err
		}
	}
	for _, n := range in.lib.Backup.Loading {
		if _, err := in.tx.LoadingNote(house, n.Key); !errors.Is(err, store.ErrNotFound) {
			if err != nil {
				return err
			}
			continue
		}
		if len(n.Key) > 40 || utf8.RuneCountInString(n.Text) > limits.RuleRunes {
			return keep.Wrong("file", "a loading note of the file is longer than one may be")
		}
		if n.Picture == nil {
			n.Picture = []byte{}
		}
		if len(n.Picture) > 0 {
			if _, err := page.ReadLogo(n.Picture); err != nil {
				return keep.Wrong("file", "the picture of a loading note of the file: %v", err)
			}
		}
		if err := in.tx.Add(&store.LoadingNote{HouseID: house, Note: n.Key, Text: n.Text, Picture: n.Picture, Version: 1,
			ByName: keep.Short(n.By, limits.NameRunes), ChangedAt: n.At}); err != nil {
			return err
		}
	}
	return nil
}
