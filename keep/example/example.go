// Package example fills a house with what ships to be looked at: the demo houses with their accounts, and one among real ones.
package example

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"

	"huekeep/core/board"
	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/press"
	"huekeep/demo"
	"huekeep/keep"
	"huekeep/keep/boards"
	"huekeep/keep/ledger"
	"huekeep/keep/media"
	"huekeep/keep/send"
	"huekeep/store"
)

// Rules are the rules of what ships to be looked at.
type Rules struct {
	*keep.Base
	Media  *media.Rules
	Ledger *ledger.Rules
	Send   *send.Rules
	Boards *boards.Rules
}

// costOfKnown is that of a password that stands in the README: making it costly to try would guard nothing, and take most of the time in
// which the demo starts.
var costOfKnown = &argon2id.Params{Memory: 64, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// Load fills an empty database with the demo houses and accounts. A database that has accounts is left alone, so a
// second start keeps what the user did.
func (r *Rules) Load(ctx context.Context) error {
	n, err := r.DB.With(ctx).Users()
	if err != nil || n > 0 {
		return err
	}
	// Sending goes through the applications, so it cannot be part of one transaction with the rest. The accounts come last
	// and mark the load as whole; houses that an interrupted one left have no members and are dropped first.
	if err := r.DB.In(ctx, func(tx *store.DB) error { return tx.DropHousesWithoutMembers(r.Now().Add(time.Minute)) }); err != nil {
		return err
	}
	// What the demo tells of happened over half a year; nothing else runs yet.
	now := r.Now
	var ago time.Duration
	r.Base.Now = func() time.Time { return now().Add(-ago) }
	defer func() { r.Base.Now = now }()
	houses := map[string]int64{}
	for _, h := range []demo.House{demo.Ferries, demo.Bakery} {
		if houses[h.Name], err = r.loadHouse(ctx, h, func(d int) { ago = time.Duration(d) * 24 * time.Hour }); err != nil {
			return fmt.Errorf("demo house %s: %w", h.Name, err)
		}
		if err := r.loadPublic(ctx, houses[h.Name], h); err != nil {
			return fmt.Errorf("demo house %s: %w", h.Name, err)
		}
	}
	hash, err := keep.HashSecret(ctx, demo.Password, costOfKnown)
	if err != nil {
		return err
	}
	return r.DB.In(ctx, func(tx *store.DB) error {
		for _, p := range demo.Accounts {
			u := store.User{Email: p.Email, Name: p.Name, PasswordHash: hash, CreatedAt: r.Now(), Runs: p.Role == string(keep.RoleKeeper)}
			if err := tx.Add(&u); err != nil {
				return err
			}
			for name, id := range houses {
				if name != demo.Ferries.Name && p.Role != string(keep.RoleKeeper) {
					continue // only the keeper keeps both houses
				}
				if err := tx.Add(&store.Member{UserID: u.ID, HouseID: id, Role: p.Role}); err != nil {
					return err
				}
			}
		}
		return nil
	})
}

func (r *Rules) loadHouse(ctx context.Context, h demo.House, daysAgo func(int)) (int64, error) {
	a := keep.Actor{Name: "Keeper", Role: keep.RoleKeeper}
	ids := map[string]int64{}
	daysAgo(170)
	defer daysAgo(0)
	err := r.DB.In(ctx, func(tx *store.DB) error {
		row := keep.NewHouse(h.Name, r.Now())
		if err := tx.Add(&row); err != nil {
			return err
		}
		a.House = keep.HouseOf(row)
		return r.loadColors(tx, a, h, ids, daysAgo)
	})
	if err != nil {
		return 0, err
	}
	for _, g := range h.Gradients {
		stops := []library.Stop{{Color: library.Ref{ID: ids[g.From]}}, {Color: library.Ref{ID: ids[g.To]}, Place: 100}}
		if err := r.Ledger.PutGradient(ctx, a, library.Gradient{Name: g.Name, Angle: 90, Space: g.Space, Stops: stops}); err != nil {
			return 0, err
		}
	}
	for _, p := range h.Pairs {
		ratio := p.Ratio
		if err := r.Ledger.PutPair(ctx, a, ids[p.Color], ids[p.Ground], ratio > 0, &ratio); err != nil {
			return 0, err
		}
	}
	daysAgo(9)
	for _, b := range h.Boards {
		if err := r.loadBoard(ctx, a, b, h, ids); err != nil {
			return 0, err
		}
	}
	return a.House.ID, r.loadSets(ctx, a, h, ids, daysAgo)
}

// loadSets makes the sets, fixes their editions, and sends them as far as each recipient has them.
func (r *Rules) loadSets(ctx context.Context, a keep.Actor, h demo.House, ids map[string]int64, daysAgo func(int)) error {
	recipients := map[string]int64{}
	for _, to := range h.Recipients {
		in := send.NewRecipient{Name: to.Name, Kind: to.Kind, Note: to.Note, Packings: to.Packings, Email: to.Email, Sets: []int64{}}
		for _, w := range to.Ways {
			if w == string(send.Mailed) && r.Send.Mailer == nil {
				w = string(send.ByHand) // there is nobody to mail through
			}
			in.Ways = append(in.Ways, send.Way(w))
		}
		row, token, err := r.Send.AddRecipient(ctx, a, in)
		if err != nil {
			return err
		}
		recipients[to.Name] = row.ID
		if to.Fetches {
			defer func() { r.fetch(ctx, token) }()
		}
	}
	for of, s := range h.Sets {
		id, err := r.Send.CreateSet(ctx, a, send.Content{Name: s.Name})
		if err != nil {
			return err
		}
		for _, to := range h.Recipients {
			if _, on := to.Holds[s.Name]; on {
				if err := r.Send.Join(ctx, a, id, recipients[to.Name], true); err != nil {
					return err
				}
			}
		}
		for i, names := range s.Editions {
			fixed := 150 - 45*i - 5*of
			daysAgo(fixed)
			var colors []int64
			for _, n := range names {
				colors = append(colors, ids[n])
			}
			if err := r.Send.ChangeSet(ctx, a, id, i+1, send.Content{Name: s.Name, Colors: colors}); err != nil {
				return err
			}
			note := ""
			if i < len(s.Notes) {
				note = s.Notes[i]
			}
			if err := r.Send.Fix(ctx, a, id, note); err != nil {
				return err
			}
			for k, to := range h.Recipients {
				daysAgo(fixed - 3 - 6*k)
				// every edition, so that the outbox has some
				mailed := r.Send.Mailer != nil && slices.Contains(to.Ways, string(send.Mailed))
				if n := to.Holds[s.Name]; n == i+1 || mailed && n > i {
					if err := r.Send.Send(ctx, a, id, i+1, []int64{recipients[to.Name]}); err != nil {
						return err
					}
					if slices.Contains(to.Ways, string(send.ByHand)) {
						if err := r.Send.Told(ctx, a, recipients[to.Name], id, i+1, "They said so on the phone."); err != nil {
							return err
						}
					}
				}
			}
		}
	}
	for _, to := range h.Recipients {
		if to.Paused {
			if err := r.Send.Pause(ctx, a, recipients[to.Name], true); err != nil {
				return err
			}
		}
	}
	return nil
}

// loadPublic says how files are loaded in the house and what did not work for somebody, and makes a set and the library public.
func (r *Rules) loadPublic(ctx context.Context, id int64, h demo.House) error {
	if h.Sentence == "" {
		return nil
	}
	row, err := r.DB.With(ctx).House(id)
	if err != nil {
		return err
	}
	row.Sentence = h.Sentence
	if err := r.DB.With(ctx).Save(&row); err != nil {
		return err
	}
	a := keep.Actor{Name: "Keeper", Role: keep.RoleKeeper, House: keep.HouseOf(row)}
	for key, text := range h.Loading {
		if _, err := r.Send.PutNote(ctx, a, key, 0, text); err != nil {
			return err
		}
	}
	sets, err := r.Send.Sets(ctx, a)
	if err != nil {
		return err
	}
	for _, s := range sets {
		if s.Name == h.Public {
			if _, err := r.Send.OpenPublic(ctx, a, s.ID, nil); err != nil {
				return err
			}
		}
		for _, to := range s.Holdings {
			for _, t := range h.Troubles {
				if t.Set != s.Name || t.Recipient != to.Name {
					continue
				}
				token, err := r.Send.OpenPickup(ctx, a, to.ID)
				if err != nil {
					return err
				}
				o, err := r.Send.Offer(ctx, token)
				if err != nil {
					return err
				}
				if _, _, err := r.Send.DidNot(ctx, o, s.ID, t.Packing, t.Tried); err != nil {
					return err
				}
			}
		}
	}
	_, err = r.Send.OpenPublic(ctx, a, 0, nil)
	return err
}

// fetch is a build that fetches what lies at a pickup.
func (r *Rules) fetch(ctx context.Context, token string) {
	o, err := r.Send.Offer(ctx, token)
	if err != nil {
		return
	}
	for _, s := range o.Sets {
		if f, err := r.Send.Find(ctx, o, s.Slug+".tokens.json", 0); err == nil {
			_ = r.Send.Fetched(ctx, o, f, "a program (site-build)", true) // the demo does without
		}
	}
}

// loadBoard makes a board with a sheet that people answered.
func (r *Rules) loadBoard(ctx context.Context, a keep.Actor, from demo.Board, h demo.House, ids map[string]int64) error {
	paint := func(name string) board.Paint {
		at := slices.IndexFunc(h.Colors, func(c demo.Color) bool { return c.Name == name })
		return board.Paint{ID: ids[name], Name: name, Hex: h.Colors[at].Hex}
	}
	b := board.Board{Title: from.Title, Intro: from.Intro, Texts: board.Texts{Headline: from.Headline, Lines: from.Lines, Small: from.Small,
		Button: from.Button}}
	for _, o := range from.Options {
		to := board.Option{Ground: paint(o.Ground), Type: paint(o.Type), Typeface: o.Typeface, Size: board.Medium}
		if o.Outline != "" {
			p := paint(o.Outline)
			to.Outline = &p
		}
		for _, name := range o.Accents {
			to.Accents = append(to.Accents, paint(name))
		}
		b.Options = append(b.Options, to)
	}
	id, err := r.Boards.Create(ctx, a, b)
	if err != nil {
		return err
	}
	number, err := r.Boards.Fix(ctx, a, id, 1)
	if err != nil {
		return err
	}
	token, err := r.Boards.OpenLink(ctx, a, id, number, nil, "")
	if err != nil {
		return err
	}
	holder, err := r.Boards.Links.Follow(ctx, token, keep.BoardLink)
	if err != nil {
		return err
	}
	for _, x := range from.Answers {
		if err := r.Boards.Answer(ctx, holder, "", boards.NewAnswer{Page: x.Name, Name: x.Name, Comment: x.Comment,
			Choice: x.Choice}); err != nil {
			return err
		}
	}
	return nil
}

// demoDecides has something else than its hex decide a color of the demo, if it says so.
func (r *Rules) demoDecides(tx *store.DB, a keep.Actor, from demo.Color, c *library.Color) error {
	if from.Decides == "" {
		return nil
	}
	var g keep.Given
	if reading, ok := strings.CutPrefix(from.Decides, "Lab "); ok {
		m, err := library.ReadMaster(string(library.OfReading) + " " + reading)
		if err != nil {
			return err
		}
		read := library.Color{Master: m}
		g.Master, g.RGB = m, read.Exact().RGB8()
	} else {
		var err error
		if g, err = r.Media.Values(tx, a.House.ID).Read("value", from.Decides); err != nil {
			return err
		}
	}
	rgb := c.RGB
	c.Decide(g.Master, g.RGB, a.Person(), c.Added)
	c.RGB, c.Plain = rgb, library.Plain{Origin: library.Signed, By: a.Person(), At: c.Added}
	return nil
}

func (r *Rules) loadColors(tx *store.DB, a keep.Actor, h demo.House, ids map[string]int64, daysAgo func(int)) error {
	now := r.Now()
	groups := map[string]int64{}
	for i, from := range h.Colors {
		rgb, err := color.FromHex(from.Hex)
		if err != nil {
			return err
		}
		c := library.Color{Name: from.Name, RGB: rgb, Group: from.Group, Role: library.Role(from.Role), Rule: from.Rule,
			Status: library.Approved, Position: i + 1,
			Version: 1, Added: now, Changed: now}
		if err := r.demoDecides(tx, a, from, &c); err != nil {
			return err
		}
		events := []library.Event{{What: "admitted as " + c.Shows(), After: from.Hex}}
		if from.Decides != "" {
			events[0].What = fmt.Sprintf("admitted as %s, which decides: %s; %s is approved for screens", c.Decides(), from.Why, from.Hex)
		}
		if from.CMYK != "" {
			b, err := color.ParseCMYK(from.CMYK)
			if err != nil {
				return err
			}
			c.Builds = append(c.Builds, library.Build{Press: press.Coated().Name, Value: b, Origin: library.Signed, By: a.Person(), At: now,
				For: rgb})
			events = append(events, library.Event{What: fmt.Sprintf("CMYK %s approved for %s", b, press.Coated().Name)})
		}
		if from.Spot == "nearest" {
			code := ink.Quern().Nearest(rgb.Lab(), ink.Coated, 1)[0].Ink.Code
			c.Spots = append(c.Spots, library.Spot{Stock: string(ink.Coated), Code: code, Origin: library.Signed, By: a.Person(), At: now,
				For: rgb})
			events = append(events, library.Event{What: fmt.Sprintf("spot ink %s approved on %s stock", code, ink.Coated)})
		}
		if from.Aliases != "" {
			c.Aliases = []string{from.Aliases}
		}
		for _, t := range from.Tints {
			c.Companions = append(c.Companions, library.Companion{Kind: "tint", Amount: t, Permitted: true})
		}
		over := c.RGB
		for _, on := range h.Colors {
			if on.Name == from.Over {
				if over, err = color.FromHex(on.Hex); err != nil {
					return err
				}
			}
		}
		for _, s := range from.Sheers {
			c.Companions = append(c.Companions, library.Companion{Kind: "sheer", Amount: s, Permitted: true,
				Ground: library.Ref{ID: ids[from.Over], Name: from.Over}, Over: over})
		}
		if from.Successor != "" {
			c.Status, c.Successor = library.Retired, library.Ref{ID: ids[from.Successor], Name: from.Successor}
			events = append(events, library.Event{What: "retired, replaced by " + from.Successor})
		}
		if groups[c.Group], err = tx.EnsureGroup(a.House.ID, c.Group); err != nil {
			return err
		}
		one := []library.Color{c}
		if err := tx.AddColors(a.House.ID, groups, one); err != nil {
			return err
		}
		ids[c.Name] = one[0].ID
		for i := range events {
			events[i].At, events[i].By = now, a.Person()
		}
		if one[0].Status == library.Retired { // which was long after it came
			before := one[0]
			before.Status, before.Successor = library.Approved, library.Ref{}
			if events[0].State, err = before.WriteState(); err != nil {
				return err
			}
			daysAgo(20)
			events[len(events)-1].At = r.Now()
			daysAgo(170)
		}
		if events[len(events)-1].State, err = one[0].WriteState(); err != nil {
			return err
		}
		if err := tx.AddEvents(map[int64][]library.Event{one[0].ID: events}, []int64{one[0].ID}); err != nil {
			return err
		}
	}
	return nil
}

// House makes a house of that name to look at. Its editions are sent by the rules, so that it is not one transaction; what is left of half
// a one has no members.
func (r *Rules) House(ctx context.Context, name string) (int64, error) {
	return r.loadHouse(ctx, exampleHouse(name), func(int) {})
}

// exampleHouse is the demo house under another name, whose recipients get no mail.
func exampleHouse(name string) demo.House {
	h := demo.Ferries
	h.Name = name
	h.Recipients = slices.Clone(h.Recipients)
	for i, to := range h.Recipients {
		to.Email = ""
		to.Ways = slices.DeleteFunc(slices.Clone(to.Ways), func(w string) bool { return w == string(send.Mailed) })
		if len(to.Ways) == 0 {
			to.Ways = []string{string(send.ByHand)}
		}
		h.Recipients[i] = to
	}
	return h
}
