package send

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"huekeep/core/library"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/links"
	"huekeep/store"
)

// Offer is what lies at a pickup: what the holder of a recipient's address sees.
type Offer struct {
	Actor     keep.Actor // the holder
	Recipient Recipient
	Sets      []OfferedSet
	Changed   time.Time // when the newest of the editions was fixed
	Public    bool      // it is a link for anybody: there is no recipient
	Sentence  string    // what the house says first there
	key       string    // under which it is remembered
}

// OfferedSet is a set at a pickup.
type OfferedSet struct {
	ID       int64
	Name     string
	Slug     string        // what its files begin with
	Current  int           // the newest edition in force; 0 for none
	Editions []EditionLine // newest first
	Held     int           // the newest edition that was taken
	Live     bool          // it is the library, as it is now and without editions
}

// offered remembers what lies where for a moment: a build that asks a thousand times a second is one question to the database.
type offered struct {
	Offer
	until  time.Time
	closed uint64
}

// offerTime is how long an answer may be old.
const offerTime = time.Second

// Offer follows a recipient's address.
func (r *Rules) Offer(ctx context.Context, token string) (Offer, error) {
	key := keep.Digest(token)
	closed := r.Links.Closed.Load()
	r.fetches.mutex.Lock()
	known, ok := r.fetches.offers[key]
	r.fetches.mutex.Unlock()
	if ok && known.closed == closed && time.Now().Before(known.until) {
		return known.Offer, nil
	}
	a, err := r.Links.Follow(ctx, token, keep.PickupLink, keep.SetLink, keep.LibraryLink)
	if err != nil {
		return Offer{}, err
	}
	lies := r.offer
	if a.Link.Kind.Public() {
		lies = r.publicOffer
	}
	o, err := lies(ctx, a)
	if err != nil {
		return Offer{}, err
	}
	o.key = key
	r.fetches.mutex.Lock()
	defer r.fetches.mutex.Unlock()
	if r.fetches.offers == nil || len(r.fetches.offers) > mostRemembered {
		r.fetches.offers = map[string]offered{}
	}
	r.fetches.offers[key] = offered{o, time.Now().Add(offerTime), closed}
	return o, nil
}

func (r *Rules) offer(ctx context.Context, a keep.Actor) (Offer, error) {
	db := r.DB.With(ctx)
	row, err := db.Recipient(a.House.ID, a.Link.Thing)
	if err != nil { // removed, so its address is closed
		return Offer{}, &keep.Error{Kind: keep.NotFound, Code: links.CodeClosed,
			Message: fmt.Sprintf("This address was closed. Ask %s for a new one if you need it.", a.House.Name)}
	}
	rows, err := db.Sets(a.House.ID)
	if err != nil {
		return Offer{}, err
	}
	lines, err := db.EditionLines(a.House.ID)
	if err != nil {
		return Offer{}, err
	}
	h, err := r.held(db, a)
	if err != nil {
		return Offer{}, err
	}
	a.Name = row.Name
	o := Offer{Actor: a, Recipient: recipient(row)}
	editions := linesBySet(lines)
	if err := r.slugs(ctx, a, rows); err != nil {
		return Offer{}, err
	}
	for _, s := range rows {
		if !slices.Contains(h.members[s.ID], row.ID) {
			continue
		}
		of := Set{ID: s.ID, Name: s.Name, Editions: editions[s.ID]}
		o.Sets = append(o.Sets, OfferedSet{ID: s.ID, Name: s.Name, Slug: s.Slug, Current: of.Current(), Editions: of.Editions,
			Held: holding(of, row, h.deliveries[[2]int64{s.ID, row.ID}]).Edition})
		if len(of.Editions) > 0 && of.Editions[0].At.After(o.Changed) {
			o.Changed = of.Editions[0].At
		}
	}
	return o, nil
}

// slugs gives sets that have none yet what their files are called. It stays when the set is renamed: builds know it by then.
func (r *Rules) slugs(ctx context.Context, a keep.Actor, rows []store.SetWith) error {
	if !slices.ContainsFunc(rows, func(s store.SetWith) bool { return s.Slug == "" }) {
		return nil
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		now, err := tx.Sets(a.House.ID)
		if err != nil {
			return err
		}
		taken := map[string]bool{}
		for _, s := range now {
			taken[s.Slug] = true
		}
		for i, s := range now {
			if s.Slug == "" {
				slug := swatchfile.Slug(s.Name)
				for n := 2; taken[slug]; n++ {
					slug = swatchfile.Slug(s.Name) + "-" + strconv.Itoa(n)
				}
				taken[slug] = true
				if err := tx.SetSlug(s.ID, slug); err != nil {
					return err
				}
				now[i].Slug = slug
			}
		}
		for i := range rows {
			if at := slices.IndexFunc(now, func(s store.SetWith) bool { return s.ID == rows[i].ID }); at >= 0 {
				rows[i].Slug = now[at].Slug
			}
		}
		return nil
	})
}

// File is a file at a pickup.
type File struct {
	Packed
	Set      OfferedSet
	Number   int
	At       time.Time // when the edition was fixed
	Numbered bool      // it was asked for by number, and so never changes
}

// Find finds a file by its name, "core.css": that of the current edition, or of the edition with a number.
func (r *Rules) Find(ctx context.Context, o Offer, name string, number int) (File, error) {
	for _, s := range o.Sets {
		rest, ok := strings.CutPrefix(name, s.Slug+".")
		if !ok {
			continue
		}
		at := slices.IndexFunc(swatchfile.Packings(), func(p swatchfile.Packing) bool { return p.Extension == "."+rest })
		if at < 0 {
			break
		}
		if s.Live && number == 0 {
			return r.liveFile(ctx, o, s, swatchfile.Packings()[at].Name)
		}
		if number == 0 {
			return r.file(ctx, o, s, s.Current, false, swatchfile.Packings()[at].Name)
		}
		return r.file(ctx, o, s, number, true, swatchfile.Packings()[at].Name)
	}
	return File{}, &keep.Error{Kind: keep.NotFound,
		Message: fmt.Sprintf("There is no file %q here. The page of this address lists what there is.", keep.Short(name, 80))}
}

func (r *Rules) file(ctx context.Context, o Offer, s OfferedSet, number int, numbered bool, packing string) (File, error) {
	at := slices.IndexFunc(s.Editions, func(e EditionLine) bool { return e.Number == number })
	if at < 0 {
		if !numbered {
			return File{}, &keep.Error{Kind: keep.NotFound, Message: fmt.Sprintf("There is no edition of %s to fetch yet.", s.Name)}
		}
		return File{}, &keep.Error{Kind: keep.NotFound, Message: fmt.Sprintf("There is no edition %d of %s.", number, s.Name)}
	}
	e := s.Editions[at]
	if w := e.Withdrawn; w != nil {
		return File{}, &keep.Error{Kind: keep.NotFound, Code: CodeWithdrawn,
			Message: fmt.Sprintf("Edition %d of %s was withdrawn on %s: %s", number, s.Name, w.At.Format("January 2, 2006"),
				keep.Sentence(w.Why))}
	}
	if packing == "kit" && !o.Public { // what this recipient takes, and not all that there is
		packed, err := r.kit(ctx, o.Actor, s.ID, number, o.Recipient.Packings)
		return File{packed, s, number, e.At, numbered}, err
	}
	packed, err := r.Pack(ctx, o.Actor, s.ID, number, packing)
	return File{packed, s, number, e.At, numbered}, err
}

// CodeWithdrawn marks the answer to somebody who asks for an edition that was withdrawn.
const CodeWithdrawn = "edition-withdrawn"

// Content is the edition of a set at a pickup that is in force.
func (r *Rules) Content(ctx context.Context, o Offer, s OfferedSet) (library.Edition, error) {
	if s.Live {
		e, _, _, err := r.Library(ctx, o)
		return e, err
	}
	return r.Edition(ctx, o.Actor, s.ID, s.Current)
}

// fetches remembers what was fetched, so that a build which comes every second writes a receipt once a minute at most.
type fetches struct {
	mutex   sync.Mutex
	offers  map[string]offered
	seen    map[string]*fetched
	clients map[string]map[string]bool // kinds of clients by file
	live    map[int64]*live
	used    map[int64][2]int // openings and fetches of links for anybody that are not written yet
}

// known is what a kind of client is called on the record: of a file that very many kinds fetch, the first ones by name. Whoever calls
// themselves something else each time does not make the record long.
func (s *fetches) known(recipient int64, f File, client string) string {
	s.mutex.Lock()
	defer s.mutex.Unlock()
	key := fmt.Sprint(recipient, " ", f.Set.ID, " ", f.Number, " ", f.Packing.Name)
	if s.clients == nil || len(s.clients) > mostRemembered {
		s.clients = map[string]map[string]bool{}
	}
	of := s.clients[key]
	if of == nil {
		of = map[string]bool{}
		s.clients[key] = of
	}
	if !of[client] && len(of) >= mostClients {
		return "other programs"
	}
	of[client] = true
	return client
}

type fetched struct {
	times int
	until time.Time
}

// Of what is remembered, as many at most; and how long a receipt is good for.
const (
	mostRemembered = 20_000
	mostClients    = 20
	receiptTime    = time.Minute
)

// Fetched puts on record that a file was fetched, by what kind of client. The same again is counted, and does not make the record longer.
// Only of a build that says who it is, with the address's secret as its token, does that say that the edition is in use.
func (r *Rules) Fetched(ctx context.Context, o Offer, f File, client string, build bool) error {
	if o.Public {
		r.used(o, 0, 1)
		return nil
	}
	client = r.fetches.known(o.Recipient.ID, f, client)
	key := once("fetch", o.Recipient.ID, f.Set.ID, f.Number, f.Packing.Name, client)
	message := "Fetched at the pickup."
	if build = build && client != ABrowser; build {
		key, message = once("build", o.Recipient.ID, f.Set.ID, f.Number, f.Packing.Name, client), "Taken by a build."
	}
	now := time.Now()
	r.fetches.mutex.Lock()
	if r.fetches.seen == nil || len(r.fetches.seen) > mostRemembered {
		r.fetches.seen = map[string]*fetched{}
	}
	known := r.fetches.seen[key]
	if known != nil && now.Before(known.until) {
		known.times++
		r.fetches.mutex.Unlock()
		return nil
	}
	times := 1
	if known != nil {
		times += known.times
	}
	r.fetches.seen[key] = &fetched{0, now.Add(receiptTime)}
	r.fetches.mutex.Unlock()
	at := r.Now()
	err := r.DB.With(ctx).Receive(store.Delivery{RecipientID: o.Recipient.ID, SetID: f.Set.ID, Number: f.Number, Packing: f.Packing.Name,
		ByName: o.Recipient.Name, SentAt: at,
		ReceivedAt: &at, OK: build, Message: message, Way: string(Pickup), Client: client, Times: times, LastAt: &at, Once: &key})
	r.forget(o)
	return err
}

// forget drops what was remembered of an offer, since its recipient holds something else now.
func (r *Rules) forget(o Offer) {
	r.fetches.mutex.Lock()
	defer r.fetches.mutex.Unlock()
	delete(r.fetches.offers, o.key)
}

// Loaded puts on record that somebody at a pickup said that the current edition is loaded.
func (r *Rules) Loaded(ctx context.Context, o Offer, set int64) (OfferedSet, error) {
	if o.Public {
		return OfferedSet{}, nobodys
	}
	s, err := o.current(set)
	if err != nil {
		return s, err
	}
	once := once("loaded", o.Recipient.ID, s.ID, s.Current, "", "")
	now := r.Now()
	err = r.DB.In(ctx, func(tx *store.DB) error {
		if err := tx.SettleTroublesOf(o.Recipient.ID, s.ID, s.Current, now, o.Recipient.Name); err != nil {
			return err
		}
		return tx.Receive(store.Delivery{RecipientID: o.Recipient.ID, SetID: s.ID, Number: s.Current, ByName: o.Recipient.Name, SentAt: now,
			ReceivedAt: &now, OK: true,
			Message: "“It worked, thanks.”", Way: string(Pickup), Client: "a person", Times: 1, LastAt: &now, Once: &once})
	})
	r.forget(o)
	return s, err
}

// nobodys says that nobody is known at a link for anybody, who could have loaded something.
var nobodys = &keep.Error{Kind: keep.Invalid, Message: "This page is for anybody, so nobody is waited for here."}

// once names a receipt that may come again.
func once(parts ...any) string {
	sum := sha256.Sum256(fmt.Appendln(nil, parts...))
	return hex.EncodeToString(sum[:])
}
