// Package house holds the rules of a house as a whole: its settings and mark, how it is founded and given up, and what it says of itself to
// its people.
package house

import (
	"bytes"
	"context"
	"fmt"
	"image/png"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"huekeep/core/board/page"
	"huekeep/core/ink"
	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/keep/accounts"
	"huekeep/keep/example"
	"huekeep/keep/media"
	"huekeep/reading"
	"huekeep/store"
)

// Rules are the rules of a house.
type Rules struct {
	*keep.Base
	Media    *media.Rules
	Accounts *accounts.Rules
	Example  *example.Rules
}

// Settings are what a house says of itself and of how it works; what it judges by stands with the audits.
type Settings struct {
	Name         string
	Inviters     keep.Role // the least role that may invite: keeper or contributor
	SecondFactor bool      // nobody enters without one
	Notations    [3]int    // that are offered first, of hex, rgb and cmyk
	TrailDays    int       // how long the trail is kept; 0 for good
	Greeting     string    // what recipients read first in a mail
	Sentence     *string   // what stands on top of public pages; nil leaves it
	Press        string    // that the ledger shows
	Stock        ink.Stock // the same of papers
	// which kind of value does where a color comes with several: screen, build or ink; empty for the one written first, nil leaves it
	Decides *string
	Inks    []string // classes of inks that the nearest one is taken from; none for all, nil leaves them as they are
	Stored  int64    // bytes of the house's files
	Room    int64    // bytes that they may have; 0 for no limit
}

// Unchanged leaves how long the trail is kept as it is.
const Unchanged = -1

// How many days a house may keep its trail for, where not for good.
const leastTrail, mostTrail = 30, 3660

// mostNotation is more than the ways that there are to write each of hex, rgb and cmyk; the interface knows them.
const mostNotation = 20

// Settings reads a house's settings.
func (r *Rules) Settings(ctx context.Context, a keep.Actor) (Settings, error) {
	db := r.DB.With(ctx)
	h, err := db.House(a.House.ID)
	if err != nil {
		return Settings{}, err
	}
	s := settings(h)
	s.Room = r.Room
	s.Stored, err = db.StoredBytes(a.House.ID)
	return s, err
}

func settings(h store.House) Settings {
	s := Settings{Name: h.Name, Inviters: keep.Role(h.Inviters), SecondFactor: h.SecondFactor, TrailDays: h.TrailDays, Greeting: h.Greeting,
		Press: h.ShownPress, Stock: ink.Stock(h.ShownStock), Inks: strings.Split(h.InkClasses, "\n")}
	s.Decides, s.Sentence = &h.Decides, &h.Sentence
	if h.InkClasses == "" {
		s.Inks = []string{}
	}
	s.Notations = keep.Notations(h)
	return s
}

// SetSettings changes a house's settings.
func (r *Rules) SetSettings(ctx context.Context, a keep.Actor, strong bool, s Settings) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	name, err := keep.Name("name", s.Name)
	if err != nil {
		return err
	}
	if s.Inviters != keep.RoleKeeper && s.Inviters != keep.RoleContributor {
		return keep.Wrong("inviters", "keepers invite, or contributors too")
	}
	for _, n := range s.Notations {
		if n < 0 || n > mostNotation {
			return keep.Wrong("notations", "there is no such notation")
		}
	}
	if !slices.Contains(ink.Stocks, s.Stock) {
		return keep.Wrong("stock", "there is no such paper: coated or uncoated")
	}
	if _, err := r.Media.Condition(r.DB.With(ctx), a.House.ID, s.Press); err != nil {
		return keep.Wrong("press", "%v", err)
	}
	if s.Decides != nil && !slices.Contains([]string{"", "screen", "build", "ink"}, *s.Decides) {
		return keep.Wrong("decides", "the kind of value %q is none of screen, build, ink", *s.Decides)
	}
	if len(s.Inks) > 0 {
		book, err := r.Media.Book(r.DB.With(ctx), a.House.ID)
		if err != nil {
			return err
		}
		kept := strings.Split(a.House.Inks, "\n") // which a book that came later may not have
		for _, class := range s.Inks {
			if !slices.Contains(book.Classes(), class) && !slices.Contains(kept, class) {
				return keep.Wrong("inks", "the ink book has no class %q; it has %s", class, strings.Join(book.Classes(), ", "))
			}
		}
	}
	if s.TrailDays != Unchanged && (s.TrailDays < 0 || s.TrailDays > 0 && s.TrailDays < leastTrail || s.TrailDays > mostTrail) {
		return keep.Wrong("trailDays", "the trail is kept for %d to %d days, or for good (0)", leastTrail, mostTrail)
	}
	s.Greeting = strings.TrimSpace(s.Greeting)
	if n := utf8.RuneCountInString(s.Greeting); n > limits.NoteRunes {
		return keep.Wrong("greeting", "the text has %d characters; at most %d fit", n, limits.NoteRunes)
	}
	if s.Sentence != nil {
		text := strings.Join(strings.Fields(*s.Sentence), " ")
		if n := utf8.RuneCountInString(text); n > limits.NoteRunes {
			return keep.Wrong("sentence", "the sentence has %d characters; at most %d fit", n, limits.NoteRunes)
		}
		s.Sentence = &text
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		h, err := tx.House(a.House.ID)
		if err != nil {
			return err
		}
		if s.SecondFactor && !h.SecondFactor && !strong {
			return keep.Clash("secondFactor", "you would lock yourself out: set up your own second factor first")
		}
		h.Name, h.NameKey, h.Inviters, h.SecondFactor, h.Greeting = name, store.NameKey(name), string(s.Inviters), s.SecondFactor,
			s.Greeting
		if s.TrailDays != Unchanged {
			h.TrailDays = s.TrailDays
		}
		if s.Inviters == keep.RoleKeeper { // what others invited to ends with their right to
			if err := tx.DropInvitationsOfRoles(h.ID, []string{string(keep.RoleReader), string(keep.RoleContributor)}); err != nil {
				return err
			}
		}
		h.ShownPress, h.ShownStock = s.Press, string(s.Stock)
		if s.Sentence != nil {
			h.Sentence = *s.Sentence
		}
		if s.Decides != nil {
			h.Decides = *s.Decides
		}
		if s.Inks != nil {
			h.InkClasses = strings.Join(s.Inks, "\n")
		}
		h.Notations = fmt.Sprint(s.Notations[0], s.Notations[1], s.Notations[2])
		return keep.Taken(tx.Save(&h), "name", "there is a house named %s already", name)
	})
}

// markSide is how many pixels a mark has along its longer side.
const markSide = 256

// markTask draws a mark anew.
var markTask = reading.NewTask("mark", func(_ struct{}, data []byte) ([]byte, error) {
	img, err := page.ReadLogo(data)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	err = png.Encode(&b, media.Fitted(img, markSide))
	return b.Bytes(), err
})

// SetMark takes in the mark of a house, a PNG file; nil takes it away. It is drawn anew, so that nothing else of the file stays.
func (r *Rules) SetMark(ctx context.Context, a keep.Actor, data []byte) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	if data == nil {
		return r.Change(ctx, a, func(tx *store.DB) error { return tx.DropHouseMark(a.House.ID) })
	}
	drawn, err := keep.Apart(ctx, r.Base, a, markTask, "the mark", struct{}{}, data)
	if err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		return tx.Save(&store.HouseMark{HouseID: a.House.ID, Kind: "image/png", Data: drawn, ChangedAt: r.Now()})
	})
}

// Mark is the mark of a house, PNG.
func (r *Rules) Mark(ctx context.Context, a keep.Actor) (store.HouseMark, error) {
	m, err := r.DB.With(ctx).HouseMark(a.House.ID)
	return m, keep.Missing(err, "mark")
}

// mostHouses is how many houses somebody may belong to before they make another one.
const mostHouses = 50

// Found makes a house whose keeper is whoever makes it, for keepers of other houses and those who have none. It is empty, or an example to
// look at.
func (r *Rules) Found(ctx context.Context, s accounts.SignedIn, name string, example bool) (int64, error) {
	name, err := keep.Name("name", name)
	if err != nil {
		return 0, err
	}
	db := r.DB.With(ctx)
	have, err := db.Memberships(s.Account.ID)
	if err != nil {
		return 0, err
	}
	keeps, err := db.KeepsAny(s.Account.ID)
	switch {
	case err != nil:
		return 0, err
	case len(have) > 0 && !keeps:
		return 0, &keep.Error{Kind: keep.Forbidden, Message: "A new house is made by somebody who is a keeper already."}
	case len(have) >= mostHouses:
		return 0, keep.Clash("name", "you belong to %d houses already", len(have))
	}
	taken := func(err error) error { return keep.Taken(err, "name", "there is a house named %s already", name) }
	var id int64
	if example { // its editions are sent by the rules, so that it is not one transaction; what is left of half a one has no members
		if id, err = r.Example.House(ctx, name); err != nil {
			return 0, taken(err)
		}
	}
	return id, r.DB.In(ctx, func(tx *store.DB) error {
		if !example {
			h := keep.NewHouse(name, r.Now())
			if err := tx.Add(&h); err != nil {
				return taken(err)
			}
			id = h.ID
		}
		return r.Accounts.Founded(ctx, tx, id, name, s.Account)
	})
}

// grace is how long a house that was given up can be taken back.
const grace = 7 * 24 * time.Hour

// GiveUp closes a house, whose name is typed, and deletes it with all that is in it after a week.
func (r *Rules) GiveUp(ctx context.Context, a keep.Actor, typed string) (time.Time, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return time.Time{}, err
	}
	if store.NameKey(typed) != store.NameKey(a.House.Name) {
		return time.Time{}, keep.Wrong("name", "type the name of the house, %s", a.House.Name)
	}
	end := r.Now().Add(grace)
	return end, r.Change(ctx, a, func(tx *store.DB) error {
		h, err := tx.House(a.House.ID)
		if err != nil {
			return err
		}
		h.EndsAt = &end
		return tx.Save(&h)
	})
}

// TakeBack opens a house again that was given up.
func (r *Rules) TakeBack(ctx context.Context, s accounts.SignedIn, house int64) error {
	a, h, err := r.Accounts.Member(ctx, s, house)
	if err != nil {
		return err
	}
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	if h.EndsAt == nil {
		return keep.Clash("", "%s was not given up", h.Name)
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		h, err := tx.House(house)
		if err != nil {
			return err
		}
		h.EndsAt = nil
		if err := tx.Save(&h); err != nil {
			return err
		}
		_, err = keep.Trail(ctx, tx, keep.Did{House: house, Account: a.Account, Name: a.Name, What: "took the house back", About: h.Name,
			Outcome: 204}, r.Now)
		return err
	})
}
