// Package swatchfile reads and writes swatch sets and libraries, one file of code a format; formats.go lists them all.
package swatchfile

import (
	"time"

	"huekeep/core/color"
)

// Library is everything that a file can say about a house's colors. Formats carry what they can of it.
type Library struct {
	House     string
	Tolerance float64 // ΔE00 within which a found color counts as drifted; 0 if the file does not say
	Neutrals  bool    // pure grays, black and white are allowed beside the colors
	Colors    []Color
	Sets      []Set
	Backup    *Backup // the rest of a house, in a backup
}

// Backup is what a house has beside its colors and sets. Other colors and sets are named, not numbered.
type Backup struct {
	Groups     []string    `json:"groups"` // in order
	Gradients  []Gradient  `json:"gradients"`
	Recipients []Recipient `json:"recipients"`
	Editions   []Fixed     `json:"editions"`
	Deliveries []Delivery  `json:"deliveries"`
	Starters   []Starter   `json:"starters"`
	Presses    []Press     `json:"presses"`
	InkBook    *InkBook    `json:"inkBook,omitempty"`
}

// InkBook is the ink book of the house's own supplier.
type InkBook struct {
	Name string `json:"name"`
	CSV  string `json:"csv"`
}

// Press is a press condition of the house's own.
type Press struct {
	Name     string  `json:"name"`
	Label    string  `json:"label"`
	InkLimit float64 `json:"inkLimit"`
	Profile  []byte  `json:"profile"` // ICC, in base64
}

// Starter is a palette that a member added for the house.
type Starter struct {
	Name     string   `json:"name"`
	Keywords string   `json:"keywords"`
	Colors   []string `json:"colors"` // #RRGGBB
}

// Gradient runs between colors of the library.
type Gradient struct {
	Name  string  `json:"name"`
	Angle float64 `json:"angle"`
	Space string  `json:"space"`
	Stops []Stop  `json:"stops"`
}

// Stop is a color at a place in percent.
type Stop struct {
	Color string  `json:"color"`
	Place float64 `json:"place"`
}

// Recipient is who gets editions.
type Recipient struct {
	Name string `json:"name"`
	Kind string `json:"kind"`
	Note string `json:"note"`
}

// Fixed is an edition as it was fixed; Now names the library color that each of its colors is today, "" for none.
type Fixed struct {
	Edition Edition  `json:"edition"`
	By      string   `json:"by"`
	Now     []string `json:"now"`
}

// Delivery is an edition that went to a recipient, with its receipt.
type Delivery struct {
	Recipient  string     `json:"recipient"`
	Set        string     `json:"set"`
	Number     int        `json:"number"`
	Packing    string     `json:"packing"`
	By         string     `json:"by"`
	SentAt     time.Time  `json:"sentAt"`
	ReceivedAt *time.Time `json:"receivedAt,omitempty"`
	OK         bool       `json:"ok"`
	Taken      int        `json:"taken"`
	Slots      int        `json:"slots"`
	Message    string     `json:"message"`
}

// Color is one library color.
type Color struct {
	Name      string
	Group     string   // may be empty
	Role      string   // primary, secondary, accent, neutral or empty
	Rule      string   // where to use it and where not
	Status    string   // draft, approved or retired; empty counts as approved
	Successor string   // name of the color that replaces a retired one
	Aliases   []string // what others call it
	Tags      []string
	RGB       color.RGB8
	Measured  *color.Lab // the reading that RGB stands for, if the master was measured
	CMYK      []CMYK     // approved builds only; derived ones follow from RGB
	Spots     []Spot     // approved inks only
	Partner   string     // name of the ground it must stay legible on
	Ratio     float64    // the least contrast ratio with it
	Family    []Companion
	History   []Event
}

// Companion is a tint, shade, tone (percent) or step (50 to 950) that is kept with a color.
type Companion struct {
	Kind      string `json:"kind"`
	Amount    int    `json:"amount"`
	Permitted bool   `json:"permitted"`
}

// Retired says whether the color is no longer to be used.
func (c Color) Retired() bool { return c.Status == "retired" }

// CMYK is a build that a person approved for a press condition.
type CMYK struct {
	Press string
	Value color.CMYK
	By    string
	At    time.Time
	For   color.RGB8 // the master value when it was approved
}

// Spot is an ink that a person approved for a stock.
type Spot struct {
	Stock, Code string
	By          string
	At          time.Time
	For         color.RGB8
}

// Event is one entry of a color's history, as a sentence.
type Event struct {
	At            time.Time
	By, What      string
	Before, After string // hex, where the master was amended
	State         string // the color after it, for bringing it back
}

// Set is a swatch set: colors in an order, by name.
type Set struct {
	Name    string
	Edition int // the newest fixed edition, 0 for none
	Colors  []string
}

// Edition is a fixed state of a swatch set, all that a packing is made from.
type Edition struct {
	House, Set string
	Number     int // 0 for a set that is not fixed yet
	FixedAt    time.Time
	Colors     []Color
}

// Title names the edition in files: "Odelwick Ferries, Core, edition 2".
func (e Edition) Title() string {
	if e.Number == 0 {
		return e.House + ", " + e.Set
	}
	return e.House + ", " + e.Set + ", edition " + itoa(e.Number)
}

// SetEdition takes a set of the library as an edition; ok is false if there is no such set.
func (l Library) SetEdition(name string) (e Edition, ok bool) {
	byName := map[string]Color{}
	for _, c := range l.Colors {
		byName[c.Name] = c
	}
	for _, s := range l.Sets {
		if s.Name != name {
			continue
		}
		e = Edition{House: l.House, Set: s.Name, Number: s.Edition}
		for _, n := range s.Colors {
			if c, found := byName[n]; found {
				e.Colors = append(e.Colors, c)
			}
		}
		return e, true
	}
	return Edition{}, false
}
