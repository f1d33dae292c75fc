package keep

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/limits"
	"huekeep/core/press"
	"huekeep/core/swatchfile"
	"huekeep/store"
)

// Export is the house as a library file, which is also its backup: everything but accounts, trays, audits and
// what members keep for themselves.
// A reader's leaves out drafts, editions and who got them.
func (k *Keeper) Export(ctx context.Context, a Actor) (swatchfile.Library, error) {
	db := k.DB.With(ctx)
	out := swatchfile.Library{House: a.House.Name, Tolerance: a.House.Tolerance, Neutrals: a.House.Neutrals}
	groups, rows, err := k.Ledger(ctx, a)
	if err != nil {
		return out, err
	}
	events, err := db.AllEvents(a.House.ID)
	if err != nil {
		return out, err
	}
	history := map[int64][]swatchfile.Event{}
	for _, e := range events {
		history[e.ColorID] = append(history[e.ColorID], swatchfile.Event{At: e.At, By: e.ByName, What: e.What, Before: e.BeforeHex, After: e.AfterHex, State: e.State})
	}
	names := map[int64]string{}
	for _, r := range rows {
		names[r.ID] = r.Name
	}
	for _, r := range rows {
		c := fileColor(r)
		c.History = history[r.ID]
		if r.PartnerID != nil {
			if c.Partner = names[*r.PartnerID]; c.Partner != "" {
				c.Ratio = r.PartnerRatio
			}
		}
		out.Colors = append(out.Colors, c)
	}
	sets, err := db.Sets(a.House.ID)
	if err != nil {
		return out, err
	}
	editions, err := db.Editions(a.House.ID)
	if err != nil {
		return out, err
	}
	setNames := map[int64]string{}
	for _, s := range sets {
		setNames[s.ID] = s.Name
		set := swatchfile.Set{Name: s.Name}
		for _, e := range editions {
			if e.SetID == s.ID {
				set.Edition = max(set.Edition, e.Number)
			}
		}
		for _, c := range s.Colors {
			if n, ok := names[c.ColorID]; ok {
				set.Colors = append(set.Colors, n)
			}
		}
		out.Sets = append(out.Sets, set)
	}
	if a.Role == RoleReader {
		return out, nil
	}
	b := &swatchfile.Backup{Groups: groups}
	out.Backup = b
	gradients, err := db.Gradients(a.House.ID)
	if err != nil {
		return out, err
	}
	for _, g := range gradients {
		f := swatchfile.Gradient{Name: g.Name, Angle: g.Angle, Space: g.Space}
		for _, s := range g.Stops {
			f.Stops = append(f.Stops, swatchfile.Stop{Color: names[s.ColorID], Place: s.Place})
		}
		b.Gradients = append(b.Gradients, f)
	}
	recipients, err := db.Recipients(a.House.ID)
	if err != nil {
		return out, err
	}
	who := map[int64]string{}
	for _, r := range recipients {
		who[r.ID] = r.Name
		b.Recipients = append(b.Recipients, swatchfile.Recipient{Name: r.Name, Kind: r.Kind, Note: r.Note})
	}
	for _, e := range slices.Backward(editions) {
		c, err := readContent(e)
		if err != nil {
			return out, err
		}
		f := swatchfile.Fixed{Edition: c.Edition, By: e.ByName}
		f.Edition.Set, f.Edition.Number, f.Edition.FixedAt = setNames[e.SetID], e.Number, e.FixedAt
		for _, id := range c.IDs {
			f.Now = append(f.Now, names[id])
		}
		b.Editions = append(b.Editions, f)
	}
	deliveries, err := db.Deliveries(a.House.ID)
	if err != nil {
		return out, err
	}
	for _, d := range deliveries {
		b.Deliveries = append(b.Deliveries, swatchfile.Delivery{Recipient: who[d.RecipientID], Set: setNames[d.SetID], Number: d.Number, Packing: d.Packing,
			By: d.ByName, SentAt: d.SentAt, ReceivedAt: d.ReceivedAt, OK: d.OK, Taken: d.Taken, Slots: d.Slots, Message: d.Message})
	}
	presses, err := db.Presses(a.House.ID)
	if err != nil {
		return out, err
	}
	for _, p := range presses {
		row, err := db.Press(a.House.ID, p.Name)
		if err != nil {
			return out, err
		}
		b.Presses = append(b.Presses, swatchfile.Press{Name: row.Name, Label: row.Label, InkLimit: row.InkLimit, Profile: row.Profile})
	}
	if row, err := db.InkBook(a.House.ID); err == nil {
		b.InkBook = &swatchfile.InkBook{Name: row.Name, CSV: row.Data}
	} else if !errors.Is(err, store.ErrNotFound) {
		return out, err
	}
	starters, err := db.Starters(0, a.House.ID) // nobody's: without private ones
	for _, s := range starters {
		b.Starters = append(b.Starters, swatchfile.Starter{Name: s.Name, Keywords: s.Keywords, Colors: strings.Fields(s.Colors)})
	}
	return out, err
}

// Operator is who runs the program's command line: a keeper of any house that exists.
func (k *Keeper) Operator(ctx context.Context, house string) (Actor, error) {
	h, err := k.DB.With(ctx).HouseByName(house)
	if errors.Is(err, store.ErrNotFound) {
		return Actor{}, &Error{Kind: NotFound, Message: fmt.Sprintf("There is no house named %q.", house)}
	}
	return Actor{Name: "Command line", House: h, Role: RoleKeeper}, err
}

// ExportAs is the current library, or some of its colors, in another format.
func (k *Keeper) ExportAs(ctx context.Context, a Actor, format string, ids []int64) (swatchfile.Packing, swatchfile.Edition, error) {
	p, err := swatchfile.FindPacking(format)
	if err != nil {
		return p, swatchfile.Edition{}, &Error{Kind: NotFound, Message: sentence(err.Error())}
	}
	_, rows, err := k.Ledger(ctx, a)
	e := swatchfile.Edition{House: a.House.Name, Set: "Library"}
	for _, r := range rows {
		if len(ids) == 0 && r.Status == "approved" || slices.Contains(ids, r.ID) {
			e.Colors = append(e.Colors, fileColor(r))
		}
	}
	if err == nil && len(e.Colors) == 0 {
		err = invalid("colors", "there is no color to write")
	}
	return p, e, err
}

// fileColor is a ledger row as files hold it, without its history.
func fileColor(r Row) swatchfile.Color {
	c := swatchfile.Color{Name: r.Name, Group: r.Group, Role: r.Role, Rule: r.Rule, Status: r.Status, RGB: rgbOf(r.Hex), Aliases: words(r.Aliases), Tags: words(r.Tags)}
	if r.Lab != "" {
		if lab, err := ReadLab(r.Lab); err == nil {
			c.Measured = &lab
		}
	}
	if r.Successor != nil {
		c.Successor = r.Successor.Name
	}
	for _, b := range r.Builds {
		c.CMYK = append(c.CMYK, swatchfile.CMYK{Press: b.Press, Value: color.CMYK{C: b.C, M: b.M, Y: b.Y, K: b.K}, By: b.ByName, At: b.ApprovedAt, For: rgbOf(b.ForHex)})
	}
	for _, s := range r.Spots {
		c.Spots = append(c.Spots, swatchfile.Spot{Stock: s.Stock, Code: s.Code, By: s.ByName, At: s.ApprovedAt, For: rgbOf(s.ForHex)})
	}
	for _, m := range r.Companions {
		c.Family = append(c.Family, swatchfile.Companion{Kind: m.Kind, Amount: m.Amount, Permitted: m.Permitted})
	}
	return c
}

// Restored says what a restore did.
type Restored struct {
	Added   int
	Present int      // colors that were there already, left out
	Renamed []string // "Buoy came in as Buoy 2", since the name was taken for another value
}

// Restore takes a library file into a house, wholly or not at all. Replacing takes away what the house had; adding leaves out
// colors that are there with name and value. A file with a checksum that does not fit is refused.
func (k *Keeper) Restore(ctx context.Context, a Actor, data []byte, replace bool) (Restored, error) {
	if err := a.may(RoleKeeper); err != nil {
		return Restored{}, err
	}
	lib, err := swatchfile.ReadTokens(data)
	if err != nil {
		return Restored{}, invalid("file", "the file cannot be restored: %v", err)
	}
	if !swatchfile.Whole(data) {
		return Restored{}, invalid("file", "the file is not a whole Hue Keep library: its checksum is missing or does not fit, as after a change or a cut; nothing was restored. The colors of any other file come in through Gather")
	}
	if len(lib.Colors) > limits.LibraryColors {
		return Restored{}, invalid("file", "the file holds %d colors; at most %d fit", len(lib.Colors), limits.LibraryColors)
	}
	var done Restored
	err = k.DB.In(ctx, func(tx *store.DB) error {
		done = Restored{}
		if err := tx.LockHouse(a.House.ID); err != nil {
			return err
		}
		if replace {
			if err := tx.EmptyHouse(a.House.ID); err != nil {
				return err
			}
			h := a.House
			h.Neutrals = lib.Neutrals
			if lib.Tolerance > 0 {
				h.Tolerance = lib.Tolerance
			}
			if err := tx.Save(&h); err != nil {
				return err
			}
		}
		r := restore{k: k, tx: tx, a: a, lib: lib, done: &done, ids: map[string]int64{}}
		for _, step := range []func() error{r.colors, r.sets, r.rest} {
			if err := step(); err != nil {
				return err
			}
		}
		return nil
	})
	switch {
	case errors.Is(err, store.ErrDuplicate):
		err = invalid("file", "something stands twice in the file; nothing was restored")
	case errors.Is(err, store.ErrUnfit):
		err = invalid("file", "a value of the file is longer or larger than the library holds; nothing was restored")
	}
	return done, err
}

type restore struct {
	k    *Keeper
	tx   *store.DB
	a    Actor
	lib  swatchfile.Library
	done *Restored
	ids  map[string]int64 // of each color of the file, by its name there
}

func (r *restore) colors() error {
	tx, house := r.tx, r.a.House.ID
	there, err := tx.Colors(house)
	if err != nil {
		return err
	}
	taken := map[string]store.Color{}
	for _, c := range there {
		taken[c.NameKey] = c
	}
	if r.lib.Backup != nil {
		for _, g := range r.lib.Backup.Groups {
			if _, err := tx.EnsureGroup(house, g); err != nil {
				return err
			}
		}
	}
	last, err := tx.LastPosition(house)
	if err != nil {
		return err
	}
	now := r.k.Now()
	groups := map[string]int64{}
	var rows []store.Color
	var files []swatchfile.Color
	for _, c := range r.lib.Colors {
		n, err := name("file", c.Name)
		if err != nil {
			return err
		}
		if _, twice := r.ids[c.Name]; twice {
			return invalid("file", "two colors of the file are named %s", c.Name)
		}
		r.ids[c.Name] = 0
		if other, ok := taken[store.NameKey(n)]; ok && other.Hex == c.RGB.Hex() {
			r.ids[c.Name] = other.ID
			r.done.Present++
			continue
		}
		as := n
		for i := 2; taken[store.NameKey(as)].Name != ""; i++ {
			as = fmt.Sprintf("%s %d", n, i)
		}
		if as != n {
			r.done.Renamed = append(r.done.Renamed, fmt.Sprintf("%s came in as %s", n, as))
		}
		last++
		row := store.Color{HouseID: house, Name: as, NameKey: store.NameKey(as), Hex: c.RGB.Hex(), Role: c.Role, Rule: c.Rule, Status: c.Status, Position: last,
			Version: 1, CreatedAt: now, UpdatedAt: now, Aliases: strings.Join(c.Aliases, "\n"), Tags: strings.Join(c.Tags, "\n")}
		if row.Status == "" {
			row.Status = "approved"
		}
		if c.Measured != nil {
			row.Lab = WriteLab(*c.Measured)
		}
		if c.Group != "" {
			if groups[c.Group] == 0 {
				g, err := name("file", c.Group)
				if err != nil {
					return err
				}
				if groups[c.Group], err = tx.EnsureGroup(house, g); err != nil {
					return err
				}
			}
			id := groups[c.Group]
			row.GroupID = &id
		}
		for _, b := range c.CMYK {
			row.Builds = append(row.Builds, store.Build{Press: b.Press, C: b.Value.C, M: b.Value.M, Y: b.Value.Y, K: b.Value.K, ByName: b.By, ApprovedAt: b.At, ForHex: b.For.Hex()})
		}
		for _, s := range c.Spots {
			row.Spots = append(row.Spots, store.Spot{Stock: s.Stock, Code: s.Code, ByName: s.By, ApprovedAt: s.At, ForHex: s.For.Hex()})
		}
		for _, m := range c.Family {
			row.Companions = append(row.Companions, store.Companion{Kind: m.Kind, Amount: m.Amount, Permitted: m.Permitted})
		}
		if err := fit(row); err != nil {
			return err
		}
		taken[row.NameKey] = row
		rows, files = append(rows, row), append(files, c)
	}
	if len(there)+len(rows) > limits.LibraryColors {
		return conflict("file", "the library would hold %d colors; at most %d fit", len(there)+len(rows), limits.LibraryColors)
	}
	if len(rows) == 0 {
		return nil
	}
	if err := tx.Add(&rows); err != nil {
		return err
	}
	r.done.Added = len(rows)
	var events []store.ColorEvent
	for i, c := range files {
		r.ids[c.Name] = rows[i].ID
		for _, e := range c.History {
			events = append(events, store.ColorEvent{ColorID: rows[i].ID, At: e.At, ByName: e.By, What: e.What, BeforeHex: e.Before, AfterHex: e.After, State: e.State})
		}
		if len(c.History) == 0 {
			events = append(events, store.ColorEvent{ColorID: rows[i].ID, At: now, ByName: r.a.Name, What: "restored as " + c.RGB.Hex(), AfterHex: c.RGB.Hex()})
		}
	}
	if err := tx.Add(&events); err != nil {
		return err
	}
	// What points to other colors comes last, when all are there.
	for i, c := range files {
		if c.Successor == "" && c.Partner == "" {
			continue
		}
		row := rows[i]
		if id := r.ids[c.Successor]; id != 0 {
			row.SuccessorID = &id
		}
		if id := r.ids[c.Partner]; id != 0 {
			row.PartnerID, row.PartnerRatio = &id, c.Ratio
		}
		if err := tx.Save(&row); err != nil {
			return err
		}
	}
	return nil
}

// fit refuses a color of a file that nobody could have made here.
func fit(c store.Color) error {
	switch {
	case !slices.Contains([]string{"draft", "approved", "retired"}, c.Status):
		return invalid("file", "%s: the status %q is none of draft, approved, retired", c.Name, c.Status)
	case c.Role != "" && !slices.Contains(Roles, c.Role):
		return invalid("file", "%s: the role %q is none of %s", c.Name, c.Role, strings.Join(Roles, ", "))
	case utf8.RuneCountInString(c.Rule) > limits.RuleRunes:
		return invalid("file", "%s: the rule is longer than %d characters", c.Name, limits.RuleRunes)
	}
	for i, b := range c.Builds {
		if slices.ContainsFunc(c.Builds[:i], func(o store.Build) bool { return o.Press == b.Press }) {
			return invalid("file", "%s: it has two builds for the press %s", c.Name, b.Press)
		}
	}
	for i, s := range c.Spots {
		if slices.ContainsFunc(c.Spots[:i], func(o store.Spot) bool { return o.Stock == s.Stock }) {
			return invalid("file", "%s: it has two inks for %s stock", c.Name, s.Stock)
		}
		if s.Stock != string(ink.Coated) && s.Stock != string(ink.Uncoated) {
			return invalid("file", "%s: there is no stock %q", c.Name, s.Stock)
		}
	}
	if err := fitFamily(c.Companions); err != nil {
		return invalid("file", "%s: %v", c.Name, err)
	}
	return nil
}

func (r *restore) sets() error {
	sets, err := r.tx.Sets(r.a.House.ID)
	if err != nil {
		return err
	}
	for i, s := range r.lib.Sets {
		n, err := name("file", s.Name)
		if err != nil {
			return err
		}
		row := store.SwatchSet{HouseID: r.a.House.ID, Name: n, NameKey: store.NameKey(n), Position: len(sets) + i, Version: 1}
		var members []int64
		if at := slices.IndexFunc(sets, func(o store.SwatchSet) bool { return o.NameKey == row.NameKey }); at >= 0 {
			row = sets[at]
			for _, c := range row.Colors {
				members = append(members, c.ColorID)
			}
			row.Version++
			if err := r.tx.Save(&row); err != nil {
				return err
			}
		} else if err := r.tx.Add(&row); err != nil {
			return err
		}
		for _, c := range s.Colors {
			if id := r.ids[c]; id != 0 && !slices.Contains(members, id) {
				members = append(members, id)
			}
		}
		if len(members) > limits.SetColors {
			return invalid("file", "the set %s would hold %d colors; at most %d fit", n, len(members), limits.SetColors)
		}
		if err := r.tx.PutSetColors(row.ID, members); err != nil {
			return err
		}
	}
	return nil
}

// rest brings back what only a backup has: gradients, recipients, editions and who got them. What is there by name stays.
func (r *restore) rest() error {
	b := r.lib.Backup
	if b == nil {
		return nil
	}
	tx, house := r.tx, r.a.House.ID
	gradients, err := tx.Gradients(house)
	if err != nil {
		return err
	}
	inner := r.k.within(tx)
	if b.InkBook != nil {
		if _, err := tx.InkBookLine(house); errors.Is(err, store.ErrNotFound) {
			if err := inner.PutInkBook(context.Background(), r.a, b.InkBook.Name, b.InkBook.CSV); err != nil {
				return err
			}
		}
	}
	for _, p := range b.Presses {
		if _, err := tx.Press(house, p.Name); err == nil {
			continue
		}
		if _, err := press.New(p.Name, p.Label, p.InkLimit, p.Profile); err != nil {
			return invalid("file", "the press %s: %v", p.Label, err)
		}
		row := store.Press{HouseID: house, Name: p.Name, Label: p.Label, InkLimit: p.InkLimit, Profile: p.Profile, ByName: r.a.Name, AddedAt: r.k.Now()}
		if err := tx.Add(&row); err != nil {
			return err
		}
	}
	for _, g := range b.Gradients {
		if slices.ContainsFunc(gradients, func(o store.Gradient) bool { return o.NameKey == store.NameKey(g.Name) }) {
			continue
		}
		row := store.Gradient{Name: g.Name, Angle: g.Angle, Space: g.Space}
		for _, s := range g.Stops {
			id := r.ids[s.Color]
			if id == 0 {
				return invalid("file", "the gradient %s runs to the color %s, which the file does not hold", g.Name, s.Color)
			}
			row.Stops = append(row.Stops, store.GradientStop{ColorID: id, Place: s.Place})
		}
		if err := inner.PutGradient(context.Background(), r.a, row); err != nil {
			return err
		}
	}
	recipients, err := tx.Recipients(house)
	if err != nil {
		return err
	}
	who := map[string]int64{}
	for _, o := range recipients {
		who[o.NameKey] = o.ID
	}
	for _, f := range b.Recipients {
		if who[store.NameKey(f.Name)] != 0 {
			continue
		}
		row, err := inner.AddRecipient(context.Background(), r.a, f.Name, f.Kind, f.Note)
		if err != nil {
			return err
		}
		who[row.NameKey] = row.ID
	}
	sets, err := tx.Sets(house)
	if err != nil {
		return err
	}
	setID := map[string]int64{}
	for _, s := range sets {
		setID[s.NameKey] = s.ID
	}
	there, err := tx.Editions(house)
	if err != nil {
		return err
	}
	old := map[int64]bool{} // sets that have editions of their own keep them
	for _, e := range there {
		old[e.SetID] = true
	}
	for _, f := range b.Editions {
		id := setID[store.NameKey(f.Edition.Set)]
		if id == 0 || old[id] {
			continue
		}
		c := content{Edition: f.Edition, IDs: make([]int64, len(f.Edition.Colors))}
		for i := range c.IDs {
			if i < len(f.Now) {
				c.IDs[i] = r.ids[f.Now[i]]
			}
		}
		text, err := json.Marshal(c)
		if err != nil {
			return err
		}
		if err := tx.Add(&store.Edition{SetID: id, Number: f.Edition.Number, HouseID: house, FixedAt: f.Edition.FixedAt, ByName: f.By, Content: string(text)}); err != nil {
			return invalid("file", "edition %d of %s stands twice in the file", f.Edition.Number, f.Edition.Set)
		}
	}
	for _, d := range b.Deliveries {
		set, recipient := setID[store.NameKey(d.Set)], who[store.NameKey(d.Recipient)]
		if set == 0 || recipient == 0 || old[set] {
			continue
		}
		row := store.Delivery{RecipientID: recipient, SetID: set, Number: d.Number, Packing: d.Packing, ByName: d.By, SentAt: d.SentAt, ReceivedAt: d.ReceivedAt,
			OK: d.OK, Taken: d.Taken, Slots: d.Slots, Message: d.Message}
		if err := tx.Add(&row); err != nil {
			return invalid("file", "a delivery of the file names the edition %d of %s, which it does not hold", d.Number, d.Set)
		}
	}
	return r.starters(b.Starters)
}

// starters brings back those that the house does not have; they are the restorer's now. Nobody owns one from the command
// line, which leaves them out.
func (r *restore) starters(list []swatchfile.Starter) error {
	there, err := r.tx.Starters(r.a.User, r.a.House.ID)
	if err != nil || r.a.User == 0 {
		return err
	}
	for _, s := range list {
		if slices.ContainsFunc(there, func(o store.Starter) bool { return o.Name == s.Name }) {
			continue
		}
		if err := r.k.within(r.tx).AddStarter(context.Background(), r.a, s.Name, s.Keywords, s.Colors, false); err != nil {
			return err
		}
	}
	return nil
}
