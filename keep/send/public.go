package send

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"sync"
	"time"

	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/links"
	"huekeep/store"
)

// PublicLink is a link for anybody who has it: to the current edition of a swatch set, or to the library.
type PublicLink struct {
	links.Link
	Set     int64  // 0 for the library
	SetName string // "Library" for that
}

// mostPublic is how many links for anybody a house may have open.
const mostPublic = 500

// Public lists the open links of a house for anybody, newest first.
func (r *Rules) Public(ctx context.Context, a keep.Actor) ([]PublicLink, error) {
	names, err := r.DB.With(ctx).SetNames(a.House.ID)
	if err != nil {
		return nil, err
	}
	out := []PublicLink{}
	for _, kind := range []keep.LinkKind{keep.LibraryLink, keep.SetLink} {
		list, err := r.Links.OpenOf(ctx, a, kind)
		if err != nil {
			return nil, err
		}
		for _, l := range list {
			name := libraryName
			if kind == keep.SetLink {
				name = names[l.Thing]
			}
			out = append(out, PublicLink{l, l.Thing, name})
		}
	}
	return out, nil
}

// libraryName is what the library is called where sets are.
const libraryName = "Library"

// OpenPublic makes a swatch set, or the library for 0, public: whoever has the link sees it, until a time or for good. One that is open
// until then already is given again.
func (r *Rules) OpenPublic(ctx context.Context, a keep.Actor, set int64, until *time.Time) (PublicLink, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return PublicLink{}, err
	}
	kind, name := keep.LibraryLink, libraryName
	if set != 0 {
		s, err := r.DB.With(ctx).Set(a.House.ID, set)
		if err != nil {
			return PublicLink{}, keep.Missing(err, "swatch set")
		}
		kind, name = keep.SetLink, s.Name
	}
	all, err := r.Public(ctx, a)
	if err != nil {
		return PublicLink{}, err
	}
	same := func(x, y *time.Time) bool { return x == nil && y == nil || x != nil && y != nil && x.Equal(*y) }
	for _, l := range all {
		if l.Kind == kind && l.Set == set && same(l.Until, until) {
			return l, nil
		}
	}
	if len(all) >= mostPublic {
		return PublicLink{}, keep.Clash("", "%d links for anybody are open; close some first", len(all))
	}
	_, l, err := r.Links.Open(ctx, a, kind, set, until, "")
	return PublicLink{l, set, name}, err
}

// ClosePublic closes a link for anybody at once.
func (r *Rules) ClosePublic(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	row, err := r.DB.With(ctx).LinkByID(a.House.ID, id)
	if err == nil && !keep.LinkKind(row.Kind).Public() {
		err = store.ErrNotFound
	}
	if err != nil {
		return keep.Missing(err, "link")
	}
	return r.Links.Close(ctx, a, id)
}

// publicOffer is what lies at a link for anybody.
func (r *Rules) publicOffer(ctx context.Context, a keep.Actor) (Offer, error) {
	db := r.DB.With(ctx)
	h, err := db.House(a.House.ID)
	if err != nil {
		return Offer{}, err
	}
	o := Offer{Actor: a, Public: true, Sentence: h.Sentence, Recipient: Recipient{Packings: everyPacking()}}
	if a.Link.Kind == keep.LibraryLink {
		o.Recipient.Packings = libraryPackings
		if o.Changed, err = db.NewestChange(a.House.ID); err != nil {
			return Offer{}, err
		}
		o.Sets = []OfferedSet{{Name: libraryName, Slug: swatchfile.Slug(a.House.Name), Live: true}}
		return o, nil
	}
	rows, err := db.Sets(a.House.ID)
	if err != nil {
		return Offer{}, err
	}
	at := slices.IndexFunc(rows, func(s store.SetWith) bool { return s.ID == a.Link.Thing })
	if at < 0 {
		return Offer{}, &keep.Error{Kind: keep.NotFound, Code: links.CodeClosed,
			Message: fmt.Sprintf("This swatch set was deleted. Ask %s for another one.", a.House.Name)}
	}
	if err := r.slugs(ctx, a, rows); err != nil {
		return Offer{}, err
	}
	lines, err := db.EditionLines(a.House.ID)
	if err != nil {
		return Offer{}, err
	}
	of := Set{ID: rows[at].ID, Name: rows[at].Name, Editions: linesBySet(lines)[rows[at].ID]}
	o.Sets = []OfferedSet{{ID: of.ID, Name: of.Name, Slug: rows[at].Slug, Current: of.Current(), Editions: of.Editions}}
	if len(of.Editions) > 0 {
		o.Changed = of.Editions[0].At
	}
	return o, nil
}

func everyPacking() (names []string) {
	for _, p := range swatchfile.Packings() {
		names = append(names, p.Name)
	}
	return names
}

// libraryPackings are what the library is packed as for anybody: what has room for as many colors as there are.
var libraryPackings = []string{"css", "scss", "ts", "tokens", "json", "gpl", "soc", "csv", "xlsx", "sheet-pdf"}

// live is the library of a house as anybody sees it, with its files as far as somebody asked for them. It is remembered until the house is
// changed: nobody who is not known makes this program read ten thousand colors each time.
type live struct {
	turn    int64
	day     time.Time
	edition library.Edition
	lately  []library.Difference

	mutex sync.Mutex
	files map[string]Packed
}

// mostLive is of how many houses that is remembered.
const mostLive = 20

// LatelyTime is how far back a public page tells of changes.
const LatelyTime = 90 * 24 * time.Hour

func (r *Rules) live(ctx context.Context, a keep.Actor) (*live, error) {
	turn, err := r.DB.With(ctx).Turn(a.House.ID)
	if err != nil && !errors.Is(err, store.ErrNotFound) { // nobody changed it yet
		return nil, err
	}
	day := r.Now().Truncate(24 * time.Hour)
	r.fetches.mutex.Lock()
	known := r.fetches.live[a.House.ID]
	r.fetches.mutex.Unlock()
	if known != nil && known.turn == turn && known.day.Equal(day) && known.edition.House == a.House.Name {
		return known, nil
	}
	made := &live{turn: turn, day: day, files: map[string]Packed{}}
	if made.edition, err = r.publicLibrary(ctx, a); err != nil {
		return nil, err
	}
	if made.lately, err = r.Lately(ctx, a, day.Add(-LatelyTime)); err != nil {
		return nil, err
	}
	r.fetches.mutex.Lock()
	defer r.fetches.mutex.Unlock()
	if r.fetches.live == nil || len(r.fetches.live) >= mostLive {
		r.fetches.live = map[int64]*live{}
	}
	r.fetches.live[a.House.ID] = made
	return made, nil
}

// Library is the library at a link for anybody, with what changed lately, and since when that is told.
func (r *Rules) Library(ctx context.Context, o Offer) (e library.Edition, lately []library.Difference, since time.Time, err error) {
	l, err := r.live(ctx, o.Actor)
	if err != nil {
		return e, nil, since, err
	}
	return l.edition, l.lately, l.day.Add(-LatelyTime), nil
}

// publicLibrary is the library as anybody may see it: its approved colors as they are now, with what a person approved of them, the
// gradients between them and the rules about them.
func (r *Rules) publicLibrary(ctx context.Context, a keep.Actor) (library.Edition, error) {
	db := r.DB.With(ctx)
	all, err := db.Colors(a.House.ID)
	if err != nil {
		return library.Edition{}, err
	}
	e := library.Edition{House: a.House.Name, Set: libraryName}
	for _, c := range all {
		if c.Status == library.Approved {
			e.Colors = append(e.Colors, c)
		}
	}
	if e.FixedAt, err = db.NewestChange(a.House.ID); err != nil {
		return library.Edition{}, err
	}
	return e, between(db, a, &e, e.Colors)
}

// Lately is what changed in the library since a time, as anybody may know: what was added, amended, renamed and retired. What was never
// approved is not told of.
func (r *Rules) Lately(ctx context.Context, a keep.Actor, since time.Time) ([]library.Difference, error) {
	db := r.DB.With(ctx)
	all, err := db.Colors(a.House.ID)
	if err != nil {
		return nil, err
	}
	states, err := db.StatesAt(a.House.ID, since)
	if err != nil {
		return nil, err
	}
	var before, now []library.Color
	for _, c := range all {
		if c.Status == library.Draft {
			continue
		}
		state, known := states[c.ID]
		if known && state != "" {
			then, err := library.ReadState(state)
			if err != nil {
				return nil, err
			}
			if then.Status != library.Draft {
				then.ID = c.ID
				before = append(before, then)
			}
		} else if known { // its states were not kept then
			before = append(before, c)
		}
		now = append(now, c)
	}
	list := library.Compare(before, now)
	if len(list) > limits.Page {
		list = list[:limits.Page]
	}
	return list, nil
}

// liveFile packs the library for anybody as it is now.
func (r *Rules) liveFile(ctx context.Context, o Offer, s OfferedSet, packing string) (File, error) {
	p, err := swatchfile.FindPacking(packing)
	if err != nil || !slices.Contains(o.Recipient.Packings, p.Name) {
		return File{}, &keep.Error{Kind: keep.NotFound,
			Message: "There is no such file here. The page of this address lists what there is."}
	}
	l, err := r.live(ctx, o.Actor)
	if err != nil {
		return File{}, err
	}
	l.mutex.Lock() // the next one who asks for it waits, and packs nothing
	defer l.mutex.Unlock()
	packed, ok := l.files[p.Name]
	if !ok {
		data, err := p.Pack(l.edition)
		if err != nil {
			return File{}, &keep.Error{Kind: keep.Invalid, Message: keep.Sentence(fmt.Sprintf("%s cannot be written: %v", p.Label, err))}
		}
		sum := sha256.Sum256(data)
		packed = Packed{p.FileName(l.edition), p, data, `"` + hex.EncodeToString(sum[:12]) + `"`}
		l.files[p.Name] = packed
	}
	return File{Packed: packed, Set: s, At: l.edition.FixedAt}, nil
}

// used counts that a page for anybody was opened or a file fetched there. It is written a moment later, with what came meanwhile: nobody
// who looks at colors waits for it.
func (r *Rules) used(o Offer, opened, fetched int) {
	id := o.Actor.Link.ID
	r.fetches.mutex.Lock()
	defer r.fetches.mutex.Unlock()
	if r.fetches.used == nil {
		r.fetches.used = map[int64][2]int{}
	}
	n, waits := r.fetches.used[id]
	r.fetches.used[id] = [2]int{n[0] + opened, n[1] + fetched}
	if !waits {
		time.AfterFunc(countTime, func() { r.writeUsed(id) })
	}
}

func (r *Rules) writeUsed(id int64) {
	r.fetches.mutex.Lock()
	n := r.fetches.used[id]
	delete(r.fetches.used, id)
	r.fetches.mutex.Unlock()
	ctx, stop := context.WithTimeout(context.Background(), 10*time.Second)
	defer stop()
	if err := r.DB.With(ctx).LinkUsed(id, n[0], n[1], r.Now()); err != nil {
		slog.Warn("what was opened at a link for anybody is not counted", "link", id, "error", err)
	}
}

// countTime is for how long openings and fetches are gathered before they are written.
const countTime = time.Second

// Opened counts that somebody opened the page of a link for anybody.
func (r *Rules) Opened(o Offer) { r.used(o, 1, 0) }
