// Package library says what a color of a brand library is. It is the one definition for every layer: files, the database,
// the contract and audits each convert to and from it in one place of their own.
package library

import (
	"slices"
	"time"

	"huekeep/core/color"
)

// Extension is the key under $extensions of design tokens where Hue Keep keeps what they have no member for: builds, inks, rules, former
// values.
const Extension = "app.huekeep"

// Status is how far a color has come.
type Status string

const (
	Draft    Status = "draft" // proposed; not for readers
	Approved Status = "approved"
	Retired  Status = "retired" // no longer to be used
)

// Statuses lists every status.
var Statuses = []Status{Draft, Approved, Retired}

// Role is what a color is for; empty for nothing in particular.
type Role string

const (
	Primary   Role = "primary"
	Secondary Role = "secondary"
	Accent    Role = "accent"
	Neutral   Role = "neutral"
)

// Roles lists every role.
var Roles = []Role{Primary, Secondary, Accent, Neutral}

// Origin says where a value comes from.
type Origin string

const (
	Deciding Origin = "master"   // it decides the color
	Signed   Origin = "approved" // a person signed it
	Given    Origin = "given"    // it came with the color, and nobody signed it yet
	Derived  Origin = "derived"  // computed from the master
	Measured Origin = "measured" // read by an instrument
)

// Person is who did something: an account, with the name it had then. Account is 0 for somebody who is known by name only,
// as in a file.
type Person struct {
	Account int64
	Name    string
}

// Ref points to another color of the same library: by number inside a house, by name in a file. The zero Ref points to none.
type Ref struct {
	ID   int64
	Name string
}

// None says whether the Ref points to no color.
func (r Ref) None() bool { return r == Ref{} }

// Is says whether the Ref points to a color: by number where both have one, by name otherwise.
func (r Ref) Is(c Color) bool {
	if r.ID != 0 && c.ID != 0 {
		return r.ID == c.ID
	}
	return r.Name == c.Name && r.Name != ""
}

// Color is one color of a library.
type Color struct {
	ID       int64 // in the house; 0 in a file of others
	Position int   // in the order by hand
	Version  int   // counts changes, so that two people who edit at once notice each other
	Added    time.Time
	Changed  time.Time

	Name    string
	Master  Master     // what decides it
	RGB     color.RGB8 // its value for plain screens: the master itself, what a person approved, or what is nearest to the master
	Plain   Plain      // who approved the RGB, where it is not the master
	Group   string     // may be empty
	Role    Role
	Rule    string   // where to use it and where not
	Aliases []string // what others call it
	Tags    []string

	Status    Status // empty counts as Approved
	Successor Ref    // the color that replaces a retired one

	Ground Ref     // the color that it must stay legible on
	Ratio  float64 // the least contrast ratio with Ground, 1 to 21

	Builds     []Build // in a library those that are no derived ones, which follow from the master
	Spots      []Spot  // likewise
	Companions []Companion
	History    []Event // oldest first

	Rounded bool // it is of an edition whose values were computed from the RGB
}

// Retired says whether the color is no longer to be used.
func (c Color) Retired() bool { return c.Status == Retired }

// Ref returns a Ref to the color.
func (c Color) Ref() Ref { return Ref{c.ID, c.Name} }

// Point leads whatever the color points to elsewhere: to is asked about each reference and answers with another, or with none. What
// depended on a reference that is none now goes with it: the ratio on a ground, a sheer over one. It says how many sheers went.
func (c *Color) Point(to func(Ref) Ref) (gone int) {
	if !c.Successor.None() {
		c.Successor = to(c.Successor)
	}
	if !c.Ground.None() {
		if c.Ground = to(c.Ground); c.Ground.None() {
			c.Ratio = 0
		}
	}
	var left []Companion
	for _, m := range c.Companions {
		if !m.Ground.None() {
			if m.Ground = to(m.Ground); m.Ground.None() {
				gone++
				continue
			}
		}
		// Two grounds may have become one. What is there twice otherwise is for CheckCompanions to say.
		if m.Ground.None() || !slices.ContainsFunc(left, m.same) {
			left = append(left, m)
		}
	}
	c.Companions = left
	return gone
}

// PointsTo says whether the color points to another one of the same house.
func (c Color) PointsTo(id int64) bool {
	return c.Successor.ID == id || c.Ground.ID == id ||
		slices.ContainsFunc(c.Companions, func(m Companion) bool { return m.Ground.ID == id })
}

// same says whether two companions are the same one, permitted or not.
func (m Companion) same(o Companion) bool {
	switch {
	case m.Kind != o.Kind || m.Amount != o.Amount || m.Ground.None() != o.Ground.None():
		return false
	case m.Ground.ID != 0 && o.Ground.ID != 0:
		return m.Ground.ID == o.Ground.ID
	}
	return m.Ground.Name == o.Ground.Name
}

// Build returns the color's build for a press.
func (c Color) Build(press string) (Build, bool) {
	for _, b := range c.Builds {
		if b.Press == press {
			return b, true
		}
	}
	return Build{}, false
}

// Spot returns the color's ink on a stock.
func (c Color) Spot(stock string) (Spot, bool) {
	for _, s := range c.Spots {
		if s.Stock == stock {
			return s, true
		}
	}
	return Spot{}, false
}

// Approved returns the color with only those of its builds and inks that a person signed or that decide it.
func (c Color) Approved() Color {
	var builds []Build
	for _, b := range c.Builds {
		if b.Origin != Derived && b.Origin != Given {
			builds = append(builds, b)
		}
	}
	var spots []Spot
	for _, s := range c.Spots {
		if s.Origin != Derived && s.Origin != Given {
			spots = append(spots, s)
		}
	}
	c.Builds, c.Spots = builds, spots
	return c
}

// Plain says who approved the RGB of a color that something else decides; zero where it follows from that.
type Plain struct {
	Origin Origin // Signed or Given
	By     Person
	At     time.Time
}

// Build is a CMYK build for a press condition, in percent.
type Build struct {
	Press  string
	Value  color.CMYK
	Origin Origin // empty counts as Signed
	By     Person
	At     time.Time
	For    color.RGB8 // what the color was when it was approved
	Meant  Master     // what decided it then
}

// Spot is a spot ink for a stock.
type Spot struct {
	Stock, Code string
	Origin      Origin // empty counts as Signed
	By          Person
	At          time.Time
	For         color.RGB8
	Meant       Master
	Book        string     // the name of its ink book; in an edition
	Lab         *color.Lab // of the ink on the stock, CIELAB, D50; in an edition
}

// Companion is a tint, shade, tone (percent), step (50 to 950) or sheer (opacity in percent, over a ground) that is kept with a color; its
// value follows the master.
type Companion struct {
	Kind      string
	Amount    int
	Permitted bool       // audits count it as on-brand
	Ground    Ref        // of a sheer: the color below it; none for white
	Over      color.RGB8 // of a sheer: what the color below it is on plain screens
}

// White is what a sheer lies over that names no ground.
var White = color.RGB8{R: 255, G: 255, B: 255}

// Event is one entry of a color's history.
type Event struct {
	ID            int64
	At            time.Time
	By            Person
	What          string // a sentence without its subject: "amended from #112233 to #112234"
	Before, After string // hex, where the master was amended
	State         string // the color after it, see State.Write; empty where it was not kept
	From          string // "a backup of Our House" if the entry came with a file; empty if it happened here
}

// Gradient runs between colors of the library.
type Gradient struct {
	ID      int64
	Version int
	Name    string
	Angle   float64 // degrees, 0 upward, clockwise, as in CSS
	Space   string  // of the interpolation
	Stops   []Stop
}

// Stop is a color at a place in percent of the way.
type Stop struct {
	Color Ref
	Place float64
}

// Pair is a rule about a color as type, line or sign on another: it may stand there, or it may not.
type Pair struct {
	Color, Ground Ref
	May           bool
	Ratio         float64 // the least contrast ratio that it has to have there, 1 to 21; 0 where it may not stand
	By            Person
	At            time.Time
}

// Profile is the identity of a press condition's ICC profile: two conditions with the same one make the same builds.
type Profile struct {
	Press    string  `json:"press"` // as builds name it
	Label    string  `json:"label"`
	InkLimit float64 `json:"inkLimit"` // total ink in percent
	Name     string  `json:"profile"`  // what the profile calls itself
	SHA256   string  `json:"sha256"`   // of its bytes, in hexadecimal digits
}

// Edition is a fixed state of a swatch set, all that a packing is made from, now or in ten years.
type Edition struct {
	House, Set string
	Number     int // 0 for a set that is not fixed yet
	FixedAt    time.Time
	By         Person
	Colors     []Color     // with a build for every press and an ink for every stock, approved or derived
	Gradients  []Gradient  // that run between these colors only
	Pairs      []Pair      // rules about these colors only
	Profiles   []Profile   // of every press that the builds name
	Note       string      // for those who get it
	Slots      []Assigned  // slots of an office theme that were given by hand
	Boxes      Boxes       // of a video application
	Loading    []HouseNote // what the house says of loading, by the keys of core/swatchfile/loading.txt
	// version of what is kept, 1 to 4, that it was fixed with: what was packed otherwise then still is; 0 for later ones
	Early int
}

// Before says whether the edition was fixed before a version of what is kept.
func (e Edition) Before(version int) bool { return e.Early > 0 && e.Early < version }

// Assigned is a slot of an office theme that somebody gave to a color.
type Assigned struct {
	Slot  string // one of SlotNames
	Color Ref
}

// SlotNames are the twelve named colors of a color scheme (ECMA-376 part 1, 20.1.6.2).
var SlotNames = [12]string{"dk1", "lt1", "dk2", "lt2", "accent1", "accent2", "accent3", "accent4", "accent5", "accent6", "hlink",
	"folHlink"}

// Boxes are the fields of a video application that colors are typed into.
type Boxes struct {
	Count int   // how many the application has, 1 to 64; 0 for as many as the set has colors
	Order []Ref // what goes into the first ones; the rest of the set follows in its order
}

// Title names the edition in files: "Odelwick Ferries, Core, edition 2".
func (e Edition) Title() string {
	if e.Number == 0 {
		return e.House + ", " + e.Set
	}
	return e.House + ", " + e.Set + ", edition " + itoa(e.Number)
}

// HouseNote is what a house says in its own words of how files are loaded: of the applications that it has.
type HouseNote struct {
	Key  string `json:"key"`
	Text string `json:"text"`
}

// Entry names the edition where an application lists it, "Odelwick Ferries, Core": a newer one takes the place of the older, and does not
// stand beside it. The number stands elsewhere in the file. Editions of until 8 had it in the name.
func (e Edition) Entry() string {
	if e.Before(9) {
		return e.Title()
	}
	return e.House + ", " + e.Set
}

// Approved is the edition with only those builds and inks that a person signed: what packings carry.
func (e Edition) Approved() Edition {
	colors := make([]Color, len(e.Colors))
	for i, c := range e.Colors {
		colors[i] = c.Approved()
	}
	e.Colors = colors
	return e
}
