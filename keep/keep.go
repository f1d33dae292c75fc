// Package keep holds what the rules of every station share: who acts, in which house, what may go wrong, and the transaction
// that all rules work on. The packages below it hold the rules of the job on stored things, one a station:
//
//	house      accounts, sessions, links, backup
//	gathering  the tray and what leads to it
//	ledger     the library's colors
//	send       swatch sets, editions, recipients
//	audits     judged files
//	media      presses, ink books and how colors look in them
//	jobs       long work
//
// Each calls only those that stand below it.
package keep

import (
	"context"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/press"
	"huekeep/filestore"
	"huekeep/reading"
	"huekeep/store"
)

// Base is what every station's rules stand on.
type Base struct {
	DB    *store.DB
	Files filestore.Store // stored files; see Store and Load
	Now   Clock
	Room  int64                             // bytes that the files of a house may have; 0 for no limit
	Apart *reading.Pool                     // reads the files of others, within this process until it has a Program
	After func(tx *store.DB, a Actor) error // what stands at the end of every change of a house; nil for nothing
	Keys  *Keys                             // of this process until those of the settings are there
}

// Clock tells the time, to the millisecond as everything is kept.
type Clock func() time.Time

// NewBase makes a base with the clock of the system, to the millisecond as everything is kept.
func NewBase(db *store.DB, files filestore.Store) *Base {
	return &Base{DB: db, Files: files, Keys: NewKeys(),
		Apart: &reading.Pool{Limit: reading.TimePerFile, Memory: reading.MemoryPerProcess, Turns: NewTurns(limits.ReadAtOnce)},
		Now:   func() time.Time { return time.Now().UTC().Truncate(time.Millisecond) }}
}

// Change runs f in a transaction that has the actor's house for itself, so that two changes never wait for each other. In a
// running transaction f becomes part of it. f may run several times; see store.DB.In.
func (b *Base) Change(ctx context.Context, a Actor, f func(tx *store.DB) error) error {
	return b.DB.In(ctx, func(tx *store.DB) error {
		if err := tx.LockHouse(a.House.ID); err != nil {
			return Missing(err, "house")
		}
		if err := f(tx); err != nil {
			return err
		}
		// sets that follow a role or a tag are never behind the library
		if err := tx.FollowColors(a.House.ID); err != nil || b.After == nil {
			return err
		}
		return b.After(tx, a)
	})
}

// Role is what somebody may do in a house.
type Role string

const (
	RoleKeeper      Role = "keeper"      // may change and approve
	RoleContributor Role = "contributor" // may gather, propose and audit
	RoleReader      Role = "reader"      // may look, copy and download
)

// Roles lists every role, the least first.
var Roles = []Role{RoleReader, RoleContributor, RoleKeeper}

func (r Role) rank() int {
	for i, o := range Roles {
		if o == r {
			return i + 1
		}
	}
	return 0
}

// Reaches says whether a role may all that another one may.
func (r Role) Reaches(least Role) bool { return r.rank() >= least.rank() && r.rank() > 0 }

// House is a house as its members see it.
type House struct {
	ID        int64
	Name      string
	Tolerance float64 // ΔE00 within which a found color counts as drifted
	Pictures  float64 // the same for the colors of pictures and frames
	Neutrals  bool    // pure grays, black and white are on-brand
	Press     string  // which the ledger shows
	Stock     string  // the same of papers
	Decides   string  // which kind of value does where a candidate has several: screen, build or ink; empty for the one written first
	Inks      string  // classes that the nearest ink is taken from, one a line; empty for all
}

// HouseOf is a house as its members see it.
func HouseOf(h store.House) House {
	return House{ID: h.ID, Name: h.Name, Tolerance: h.Tolerance, Pictures: h.Pictures, Neutrals: h.Neutrals, Press: h.ShownPress,
		Stock: h.ShownStock, Decides: h.Decides, Inks: h.InkClasses}
}

// Actor is who does something: a member of a house, or the holder of a link to one thing of it.
type Actor struct {
	Account int64 // 0 for the command line and for holders of links
	Name    string
	House   House
	Role    Role  // empty for the holder of a link
	Link    *Link // nil for a member
}

// Link lets its holder see one thing of a house, without an account.
type Link struct {
	ID    int64
	Kind  LinkKind
	Thing int64      // which sheet of a board, which recipient
	Until *time.Time // nil for no end
	Asks  bool       // for a pass phrase
}

// LinkKind is what a link leads to.
type LinkKind string

const (
	BoardLink  LinkKind = "board"
	PickupLink LinkKind = "pickup"

	SetLink     LinkKind = "set"     // a swatch set, for anybody
	LibraryLink LinkKind = "library" // the library, for anybody
)

// LinkKinds lists what links lead to.
var LinkKinds = []LinkKind{BoardLink, PickupLink, SetLink, LibraryLink}

// Public says whether links of the kind are for anybody: their addresses are no secrets.
func (k LinkKind) Public() bool { return k == SetLink || k == LibraryLink }

// May says, with a sentence if not, whether the actor's role reaches at least to the given one.
func (a Actor) May(least Role) error {
	if a.Link != nil {
		return &Error{Kind: Forbidden, Message: fmt.Sprintf("This needs the role of a %s; a link only shows what it leads to.", least)}
	}
	if a.Role.Reaches(least) {
		return nil
	}
	return &Error{Kind: Forbidden, Message: fmt.Sprintf("This needs the role of a %s; yours in %s is %s.", least, a.House.Name, a.Role)}
}

// Sees says whether the actor may see a color: drafts are for those who may propose.
func (a Actor) Sees(c library.Color) bool {
	return c.Status != library.Draft || a.Role.Reaches(RoleContributor)
}

// Person is the actor as what they do is signed.
func (a Actor) Person() library.Person { return library.Person{Account: a.Account, Name: a.Name} }

// ByUser is the account that rows are signed with; nil for none.
func (a Actor) ByUser() *int64 {
	if a.Account == 0 {
		return nil
	}
	id := a.Account
	return &id
}

// Name checks a name that somebody gave and returns it with single spaces.
func Name(field, s string) (string, error) {
	s = strings.Join(strings.Fields(s), " ")
	switch n := utf8.RuneCountInString(s); {
	case s == "":
		return "", Wrong(field, "a name is missing")
	case n > limits.NameRunes:
		return "", Wrong(field, "the name has %d characters; at most %d fit", n, limits.NameRunes)
	}
	for _, r := range s {
		if r < ' ' || r == utf8.RuneError || r == 0xFFFE || r == 0xFFFF {
			return "", Wrong(field, "the name holds a character that cannot be written everywhere")
		}
	}
	return s, nil
}

// IDs checks a list of ids that somebody gave: not too many, each once.
func IDs(field string, ids []int64, most int) error {
	if len(ids) > most {
		return Wrong(field, "%d are named; at most %d are taken at once", len(ids), most)
	}
	seen := make(map[int64]bool, len(ids))
	for _, id := range ids {
		if seen[id] {
			return Wrong(field, "the number %d is named twice", id)
		}
		seen[id] = true
	}
	return nil
}

// Short cuts a text to a number of characters.
func Short(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n])
	}
	return s
}

// Given is a value that decides a color, as somebody gave it.
type Given struct {
	library.Master
	RGB  color.RGB8 // for plain screens
	Note string     // what was done to it, if anything was
}

// Color is a color that it decides.
func (g Given) Color() library.Color { return library.Color{Master: g.Master, RGB: g.RGB} }

// Spectrum is the master that a reading of a spectrum is; one that looks otherwise than the reading is an error.
func Spectrum(field string, lab color.Lab, s color.Spectrum) (m library.Master, err error) {
	looks, err := s.Lab()
	if err != nil {
		return m, Wrong(field, "%v", err)
	}
	if de := color.DeltaE00(looks, lab); de > color.SameSpectrum {
		return m, Wrong(field, "the spectrum looks like Lab %s, which is %.1f %s from the reading %s", library.WriteLab(looks), de, color.Word(de),
			library.WriteLab(lab))
	}
	kept, _ := s.Kept()
	m, _ = library.ReadSpectrum(lab, kept)
	return m, nil
}

// Master reads a screen value that can decide a color. What sRGB does not hold stays what it is; the note says what plain screens show of
// it.
func Master(field, text string) (g Given, err error) {
	t, _, err := color.ReadValue(text)
	switch {
	case err != nil:
		return g, Wrong(field, "%v", err)
	case t.CMYK != nil:
		return g, Wrong(field, "%s is a CMYK build; a screen color is wanted here", text)
	case t.Alpha < 1:
		return g, Wrong(field, "%s is transparent; a brand color is opaque", text)
	case t.Clamped != "":
		return g, Wrong(field, "in %s, %s; a master value is written as it is meant", text, t.Clamped)
	}
	if !t.Real() {
		return g, Wrong(field, "the numbers of %s are those of no color", text)
	}
	g.Master, g.RGB = library.MasterOf(t)
	if t.Outside() {
		c := g.Color()
		g.Note = fmt.Sprintf("it lies outside sRGB: plain screens show %s, %.1f %s", g.RGB.Hex(), c.Dulled(), color.Word(c.Dulled()))
	}
	return g, nil
}

// NewHouse is a house as it is when it is made.
func NewHouse(name string, at time.Time) store.House {
	return store.House{Name: name, NameKey: store.NameKey(name), Tolerance: audit.DefaultTolerance, Pictures: audit.PictureTolerance,
		Neutrals: true, Again: true, CreatedAt: at,
		Inviters: string(RoleKeeper), ShownPress: press.Coated().Name, ShownStock: string(ink.Coated), InkClasses: ink.Solid}
}

// Notations are those that a house offers first, the first of each kind where nothing was chosen.
func Notations(h store.House) (first [3]int) {
	_, _ = fmt.Sscan(h.Notations, &first[0], &first[1], &first[2])
	return first
}
