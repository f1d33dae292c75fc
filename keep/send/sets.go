// Package send holds the rules of swatch sets, their editions, and who gets them.
package send

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"sync"
	"time"

	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/hooks"
	"huekeep/keep/jobs"
	"huekeep/keep/links"
	"huekeep/keep/media"
	"huekeep/outside"
	"huekeep/store"
)

// Rules are the rules of sets, editions and recipients.
type Rules struct {
	*keep.Base
	Media     *media.Rules
	Links     *links.Rules
	Jobs      *jobs.Rules
	Hooks     *hooks.Rules
	Receivers map[string]outside.Application // by kind of recipient
	Mailer    Mailer                         // nil where no mail server is set up
	Address   string                         // where the program is reached, for links in mails: "https://colors.example"

	packed  packed
	fetches fetches
	retry   time.Duration // until a mail is tried again for the first time
	mutex   sync.Mutex
}

// New makes the rules, with the applications that receive.
func New(b *keep.Base, m *media.Rules, l *links.Rules, j *jobs.Rules, h *hooks.Rules, receivers map[string]outside.Application) *Rules {
	r := &Rules{Base: b, Media: m, Links: l, Jobs: j, Hooks: h, Receivers: receivers, retry: time.Minute}
	j.Kind(mailJob, r.mail)
	return r
}

// Set is a swatch set with its editions and with who holds what.
type Set struct {
	ID       int64
	Name     string
	Version  int
	Members  []library.Color
	Follows  store.Follows // what keeps it current; empty for a set by hand
	Slots    []library.Assigned
	Boxes    library.Boxes
	Editions []EditionLine // newest first
	Changes  []string      // what is different from the newest edition in force
	Holdings []Holding
}

// Current is the newest edition in force; 0 for none.
func (s Set) Current() int {
	for _, e := range s.Editions {
		if e.Withdrawn == nil {
			return e.Number
		}
	}
	return 0
}

// Theme is the set's colors in the slots of an office theme.
func (s Set) Theme() []swatchfile.Slot {
	if len(s.Members) == 0 {
		return nil
	}
	slots := swatchfile.ThemeSlots(s.Members, s.Slots...)
	return slots[:]
}

// EditionLine is an edition without its colors.
type EditionLine struct {
	Number    int
	At        time.Time
	By        string
	Count     int // of colors
	Note      string
	Withdrawn *Withdrawal // nil for an edition in force
}

// Withdrawal says that an edition is not to be used any more.
type Withdrawal struct {
	At      time.Time
	By, Why string
}

// Sets lists the house's swatch sets.
func (r *Rules) Sets(ctx context.Context, a keep.Actor) ([]Set, error) {
	return r.sets(r.DB.With(ctx), a)
}

func (r *Rules) sets(db *store.DB, a keep.Actor) ([]Set, error) {
	rows, err := db.Sets(a.House.ID)
	if err != nil {
		return nil, err
	}
	colors, err := db.Colors(a.House.ID)
	if err != nil {
		return nil, err
	}
	byID := map[int64]library.Color{}
	for _, c := range colors {
		if a.Sees(c) {
			byID[c.ID] = c
		}
	}
	lines, err := db.EditionLines(a.House.ID)
	if err != nil {
		return nil, err
	}
	newest, err := db.NewestEditions(a.House.ID)
	if err != nil {
		return nil, err
	}
	held, err := r.held(db, a)
	if err != nil {
		return nil, err
	}
	editions := linesBySet(lines)
	out := []Set{}
	for _, row := range rows {
		s := Set{ID: row.ID, Name: row.Name, Version: row.Version, Editions: editions[row.ID], Follows: store.FollowsOf(row.Follows)}
		for _, id := range row.Colors {
			if c, ok := byID[id]; ok {
				s.Members = append(s.Members, c)
			}
		}
		s.Slots, s.Boxes = assigned(row, s.Members)
		if e, ok := newest[row.ID]; ok {
			s.Changes = changes(e, s)
		}
		s.Holdings = held.ofSet(s)
		out = append(out, s)
	}
	return out, nil
}

func linesBySet(lines []store.EditionLine) map[int64][]EditionLine {
	out := map[int64][]EditionLine{}
	for _, l := range lines {
		e := EditionLine{Number: l.Number, At: l.FixedAt, By: l.By.Name, Count: l.Count, Note: l.Note}
		if l.WithdrawnAt != nil {
			e.Withdrawn = &Withdrawal{*l.WithdrawnAt, l.WithdrawnBy, l.WithdrawnWhy}
		}
		out[l.SetID] = append(out[l.SetID], e)
	}
	return out
}

// changes says what of a set is different from an edition of it.
func changes(e library.Edition, s Set) []string {
	out := library.Changes(e.Colors, s.Members)
	if !slices.Equal(e.Slots, s.Slots) {
		out = append(out, "slots of the office theme were given by hand")
	}
	if e.Boxes.Count != s.Boxes.Count || !slices.Equal(e.Boxes.Order, s.Boxes.Order) {
		out = append(out, "the boxes of the video application changed")
	}
	return out
}

// assigned reads the slots and boxes of a set; a color that left it has none.
func assigned(row store.SetWith, members []library.Color) (slots []library.Assigned, boxes library.Boxes) {
	var of map[string]int64
	_ = json.Unmarshal([]byte(row.Slots), &of) // written by this program; an empty text is none
	ref := func(id int64) (library.Ref, bool) {
		at := slices.IndexFunc(members, func(c library.Color) bool { return c.ID == id })
		if at < 0 {
			return library.Ref{}, false
		}
		return members[at].Ref(), true
	}
	for _, name := range library.SlotNames {
		if r, ok := ref(of[name]); ok {
			slots = append(slots, library.Assigned{Slot: name, Color: r})
		}
	}
	var order []int64
	_ = json.Unmarshal([]byte(row.Boxes), &order)
	boxes.Count = row.BoxCount
	for _, id := range order {
		if r, ok := ref(id); ok {
			boxes.Order = append(boxes.Order, r)
		}
	}
	return slots, boxes
}

// GivenByHand is what of a set was given by hand, with the names of the colors; for a backup.
func GivenByHand(row store.SetWith, names map[int64]string) ([]library.Assigned, library.Boxes) {
	var members []library.Color
	for _, id := range row.Colors {
		if names[id] != "" {
			members = append(members, library.Color{ID: id, Name: names[id]})
		}
	}
	return assigned(row, members)
}

// TakeByHand takes over what a backup says was given by hand; ids are the house's, by the names of the file.
func TakeByHand(row *store.SetWith, from swatchfile.Set, ids map[string]int64) error {
	if err := library.CheckRole(library.Role(from.FollowsRole)); err != nil {
		return keep.Wrong("file", "%s: %v", from.Name, err)
	}
	row.Follows = store.Follows{Role: from.FollowsRole, Tag: keep.Short(from.FollowsTag, limits.NameRunes)}.String()
	slots := map[string]int64{}
	for _, g := range from.Slots {
		if id := ids[g.Color.Name]; id != 0 && slices.Contains(library.SlotNames[:], g.Slot) {
			slots[g.Slot] = id
		}
	}
	var order []int64
	for _, ref := range from.Boxes.Order {
		if id := ids[ref.Name]; id != 0 && !slices.Contains(order, id) {
			order = append(order, id)
		}
	}
	row.Slots, row.BoxCount, row.Boxes = text(slots, len(slots) == 0), from.Boxes.Count, text(order, len(order) == 0)
	return nil
}

// Set reads one set.
func (r *Rules) Set(ctx context.Context, a keep.Actor, id int64) (Set, error) {
	return r.set(r.DB.With(ctx), a, id)
}

func (r *Rules) set(db *store.DB, a keep.Actor, id int64) (Set, error) {
	all, err := r.sets(db, a)
	if err != nil {
		return Set{}, err
	}
	for _, s := range all {
		if s.ID == id {
			return s, nil
		}
	}
	return Set{}, keep.None("swatch set")
}

// Follows is what keeps a set current: the role, the tag, or both, that approved colors have to have.
type Follows = store.Follows

// Content is what somebody gives of a set. What is nil stays as it is.
type Content struct {
	Name    string
	Colors  []int64 // in order
	Follows *store.Follows
	Slots   *[]library.Assigned // by the numbers of colors
	Boxes   *library.Boxes      // likewise
}

// CreateSet makes a swatch set.
func (r *Rules) CreateSet(ctx context.Context, a keep.Actor, in Content) (id int64, err error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return 0, err
	}
	n, err := keep.Name("name", in.Name)
	if err != nil {
		return 0, err
	}
	err = r.Change(ctx, a, func(tx *store.DB) error {
		s := newSet(a, n)
		if err := r.put(tx, a, &s, in); err != nil {
			return err
		}
		sets, err := tx.Sets(a.House.ID)
		if err != nil {
			return err
		}
		s.Position = len(sets)
		err = tx.AddSet(&s)
		id = s.ID
		return keep.Taken(err, "name", "there is a swatch set named %s already", n)
	})
	return id, err
}

func newSet(a keep.Actor, name string) store.SetWith {
	return store.SetWith{SwatchSet: store.SwatchSet{HouseID: a.House.ID, Name: name, NameKey: store.NameKey(name), Version: 1}}
}

// put checks what somebody gave of a set and takes it over.
func (r *Rules) put(tx *store.DB, a keep.Actor, s *store.SetWith, in Content) error {
	members, err := usable(tx, a, in.Colors)
	if err != nil {
		return err
	}
	s.Colors = in.Colors
	if f := in.Follows; f != nil {
		f.Tag = strings.TrimSpace(f.Tag)
		f.Role = string(library.AsRole(f.Role))
		if err := library.CheckRole(library.Role(f.Role)); err != nil {
			return keep.Wrong("follows", "%v", err)
		}
		if len([]rune(f.Tag)) > limits.NameRunes {
			return keep.Wrong("follows", "the tag has over %d characters", limits.NameRunes)
		}
		s.Follows = f.String()
	}
	if given := in.Slots; given != nil {
		of := map[string]int64{}
		for i, g := range *given {
			if at := slices.IndexFunc(members, func(c library.Color) bool { return c.ID == g.Color.ID }); at >= 0 {
				(*given)[i].Color.Name = members[at].Name
			}
			of[g.Slot] = g.Color.ID
		}
		if err := swatchfile.CheckSlots(members, *given); err != nil {
			return keep.Wrong("slots", "%v", err)
		}
		s.Slots = text(of, len(of) == 0)
	}
	if b := in.Boxes; b != nil {
		if b.Count < 0 || b.Count > limits.Boxes {
			return keep.Wrong("boxes", "an application has 1 to %d boxes", limits.Boxes)
		}
		var ids []int64
		for _, ref := range b.Order {
			if !slices.Contains(in.Colors, ref.ID) {
				return keep.Wrong("boxes", "a color in a box is not in the set")
			}
			ids = append(ids, ref.ID)
		}
		if len(ids) > limits.SetColors { // a color may be in several boxes, where an application wants it so
			return keep.Wrong("boxes", "%d boxes are too many; %d at most", len(ids), limits.SetColors)
		}
		s.BoxCount, s.Boxes = b.Count, text(ids, len(ids) == 0)
	}
	return nil
}

// text is how slots and boxes are kept.
func text(v any, none bool) string {
	if none {
		return ""
	}
	out, err := json.Marshal(v)
	if err != nil {
		panic(err) // numbers and names of slots can be written
	}
	return string(out)
}

// usable reads the colors of a set in their order, and checks that they can be in one: they exist, once each.
func usable(tx *store.DB, a keep.Actor, colors []int64) ([]library.Color, error) {
	if len(colors) > limits.SetColors {
		return nil, keep.Wrong("colors", "a swatch set holds at most %d colors", limits.SetColors)
	}
	if len(colors) == 0 {
		return nil, nil
	}
	seen := map[int64]bool{}
	for _, id := range colors {
		if seen[id] {
			return nil, keep.Wrong("colors", "a color is in the set twice")
		}
		seen[id] = true
	}
	found, err := tx.ColorsToChange(a.House.ID, colors)
	if err != nil {
		return nil, keep.Missing(err, "color")
	}
	place := map[int64]int{}
	for i, id := range colors {
		place[id] = i
	}
	slices.SortFunc(found, func(x, y library.Color) int { return place[x.ID] - place[y.ID] })
	return found, nil
}

// ChangeSet renames a set, gives it other colors or another order, another rule that it follows, slots or boxes.
func (r *Rules) ChangeSet(ctx context.Context, a keep.Actor, id int64, version int, in Content) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	n, err := keep.Name("name", in.Name)
	if err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		s, err := tx.SetToChange(a.House.ID, id)
		if err != nil {
			return keep.Missing(err, "swatch set")
		}
		if s.Version != version {
			return keep.Stale("the swatch set %s was changed by somebody else meanwhile; look at it again", s.Name)
		}
		if err := r.put(tx, a, &s, in); err != nil {
			return err
		}
		s.Name, s.NameKey = n, store.NameKey(n)
		s.Version++
		return keep.Taken(tx.SaveSet(s), "name", "there is a swatch set named %s already", n)
	})
}

// Take puts colors of one set behind those of another; a color that is there already is not there twice. Unless they are copied, they
// leave the set that they come from.
func (r *Rules) Take(ctx context.Context, a keep.Actor, into, from int64, colors []int64, copied bool) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	if err := keep.IDs("colors", colors, limits.SetColors); err != nil {
		return err
	}
	if into == from {
		return keep.Wrong("from", "a set cannot take colors of itself")
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		source, err := tx.SetToChange(a.House.ID, from)
		if err != nil {
			return keep.Missing(err, "swatch set")
		}
		to, err := tx.SetToChange(a.House.ID, into)
		if err != nil {
			return keep.Missing(err, "swatch set")
		}
		for _, id := range colors {
			if !slices.Contains(source.Colors, id) {
				return keep.Clash("", "a color is not in %s any more; look at it again", source.Name)
			}
			if !slices.Contains(to.Colors, id) {
				to.Colors = append(to.Colors, id)
			}
		}
		if len(to.Colors) > limits.SetColors {
			return keep.Wrong("colors", "the set %s would hold %d colors; at most %d fit", to.Name, len(to.Colors), limits.SetColors)
		}
		for _, s := range []*store.SetWith{&to, &source} {
			if s.Follows != "" && (s == &to || !copied) {
				return keep.Clash("", "%s keeps itself current, so colors are not put into it or taken out by hand", s.Name)
			}
		}
		to.Version++
		if err := tx.SaveSet(to); err != nil || copied {
			return err
		}
		source.Colors = slices.DeleteFunc(source.Colors, func(id int64) bool { return slices.Contains(colors, id) })
		source.Version++
		return tx.SaveSet(source)
	})
}

// Join puts colors on the set of a name, which is made if there is none, behind those that it has or instead of them. A color
// that is on the set already is not there twice. The house is locked.
func Join(tx *store.DB, a keep.Actor, name string, replace bool, colors []int64) error {
	n, err := keep.Name("set", name)
	if err != nil {
		return err
	}
	sets, err := tx.Sets(a.House.ID)
	if err != nil {
		return err
	}
	s := newSet(a, n)
	s.Position = len(sets) + 1
	if at := slices.IndexFunc(sets, func(o store.SetWith) bool { return o.NameKey == s.NameKey }); at >= 0 {
		s = sets[at]
		if s.Follows != "" {
			return keep.Clash("set", "%s keeps itself current, so colors are not put into it by hand", s.Name)
		}
		s.Version++
		if replace {
			s.Colors = nil
		}
	}
	on := map[int64]bool{}
	for _, c := range s.Colors {
		on[c] = true
	}
	for _, c := range colors {
		if !on[c] {
			s.Colors, on[c] = append(s.Colors, c), true
		}
	}
	if len(s.Colors) > limits.SetColors {
		return keep.Wrong("set", "the set %s would hold %d colors; at most %d fit", n, len(s.Colors), limits.SetColors)
	}
	if s.ID == 0 {
		return keep.Taken(tx.AddSet(&s), "set", "somebody else just made a swatch set named %s; look again", n)
	}
	return tx.SaveSet(s)
}

// DeleteSet removes a set. Its editions stay: recipients who hold one keep it, and its numbered addresses go on.
func (r *Rules) DeleteSet(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		s, err := tx.SetToChange(a.House.ID, id)
		if err != nil {
			return keep.Missing(err, "swatch set")
		}
		s.Removed = s.ID
		s.Version++
		return tx.Save(&s.SwatchSet)
	})
}

// RestoreSet brings a set back that was removed.
func (r *Rules) RestoreSet(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		s, err := tx.RemovedSet(a.House.ID, id)
		if err != nil {
			return keep.Missing(err, "removed swatch set")
		}
		s.Removed = 0
		s.Version++
		return keep.Taken(tx.Save(&s.SwatchSet), "name", "there is another swatch set named %s by now; rename that one first", s.Name)
	})
}
