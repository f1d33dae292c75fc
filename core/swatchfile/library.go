// Package swatchfile reads and writes swatch sets and libraries, one file of code a format; formats.go lists them all.
package swatchfile

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"huekeep/core/color"
	"huekeep/core/library"
)

// Library is everything that a file can say about a house's colors. Formats carry what they can of it.
type Library struct {
	Version   int // of the format: 1 held no numbers, 0 stands for a file that is no Hue Keep library
	House     string
	Tolerance float64 // ΔE00 within which a found color counts as drifted; 0 if the file does not say
	Neutrals  bool    // pure grays, black and white are allowed beside the colors
	Colors    []library.Color
	Sets      []Set
	Backup    *Backup // the rest of a house, in a backup

	Notes  []string        // what a person should know of how a file was read; not part of the library
	Text   string          // of a list of lines that somebody wrote, the text itself
	Left   []Left          // lines of a text that hold no color, or one that is not sure
	Listed bool            // somebody wrote the colors into a table: they are not what a document happens to use
	Alpha  map[int]float64 // how opaque the file has the colors that it does not have opaque, by their place

	clamped []string           // names of the colors that were out of range
	clear   []string           // names of those that are not opaque
	named   map[string]float64 // opacity by the name of a color that is read already
}

// Left is a line of a text that no color was made of.
type Left struct {
	Line     int // counted from 1
	Text     string
	Why      string
	Words    bool            // it holds no value, and nothing is wrong with it
	Readings []color.Reading // what it may mean, if it may mean several things
}

// Asks says whether lines of it may be colors, in one of several ways.
func (l Library) Asks() bool {
	return slices.ContainsFunc(l.Left, func(l Left) bool { return len(l.Readings) > 0 })
}

// LeftOf is a line that was not understood.
func LeftOf(l color.Line) Left {
	out := Left{Line: l.Number, Text: l.Text, Why: l.Err.Error(), Words: errors.Is(l.Err, color.ErrWords)}
	var unsure *color.Unsure
	if errors.As(l.Err, &unsure) {
		out.Readings = unsure.Readings
	}
	return out
}

// ended is a sentence with its mark at the end.
func ended(s string) string {
	if strings.HasSuffix(s, "?") {
		return s
	}
	return s + "."
}

// LeftOut says in sentences which lines were left out, the first of many.
func LeftOut(list []Left) (notes []string) {
	const most = 20
	n := 0
	for _, left := range list {
		if left.Words {
			continue
		}
		if n++; n <= most {
			said := "was left out"
			if len(left.Readings) > 0 {
				said = "is not sure"
			}
			notes = append(notes, fmt.Sprintf("Line %d %s: %s", left.Line, said, ended(left.Why)))
		}
	}
	if n > most {
		notes = append(notes, fmt.Sprintf("And %d more lines were left out.", n-most))
	}
	return notes
}

// remark remembers what the color that is read next was in its file that a brand color cannot be.
func (l *Library) remark(name string, t color.Typed) {
	if t.Alpha < 1 {
		l.clear = append(l.clear, name)
		if l.Alpha == nil {
			l.Alpha = map[int]float64{}
		}
		l.Alpha[len(l.Colors)] = t.Alpha
	}
	if t.Clamped != "" {
		l.clamped = append(l.clamped, name)
	}
}

// veil remembers how opaque a color is that will have a name.
func (l *Library) veil(name string, alpha float64) {
	if l.named == nil {
		l.named = map[string]float64{}
	}
	l.clear = append(l.clear, name)
	l.named[name] = alpha
}

// finish makes notes of what was remembered.
func (l *Library) finish() {
	if len(l.clear) > 0 {
		l.Notes = append(l.Notes, fmt.Sprintf("Transparent in the file, read as opaque: %s.", few(l.clear)))
	}
	if len(l.clamped) > 0 {
		l.Notes = append(l.Notes, fmt.Sprintf("Out of range in the file, read as the nearest value in it: %s.", few(l.clamped)))
	}
	for i, c := range l.Colors {
		if alpha, ok := l.named[c.Name]; ok {
			if l.Alpha == nil {
				l.Alpha = map[int]float64{}
			}
			l.Alpha[i] = alpha
		}
	}
	l.clear, l.clamped, l.named = nil, nil, nil
}

// few lists up to five names and counts the rest.
func few(names []string) string {
	if len(names) > 6 {
		return fmt.Sprintf("%s and %d others", strings.Join(names[:5], ", "), len(names)-5)
	}
	return strings.Join(names, ", ")
}

// Backup is what a house has beside its colors and sets. Other colors and sets are named.
type Backup struct {
	Groups     []string     `json:"groups"` // in order
	Gradients  []Gradient   `json:"gradients"`
	Pairs      []Pair       `json:"pairs,omitempty"`
	Boards     []Board      `json:"boards,omitempty"` // the one that was changed last, last
	Typefaces  []Typeface   `json:"typefaces,omitempty"`
	Logos      []Logo       `json:"logos,omitempty"`
	Recipients []Recipient  `json:"recipients"`
	Editions   []Fixed      `json:"editions"` // oldest first
	Deliveries []Delivery   `json:"deliveries"`
	Withdrawn  []Withdrawal `json:"withdrawn,omitempty"`
	Starters   []Starter    `json:"starters"`
	Presses    []Press      `json:"presses"`
	InkBook    *InkBook     `json:"inkBook,omitempty"`
	Loading    []HouseNote  `json:"loading,omitempty"`
}

// HouseNote is what the house says of how files are loaded, by the keys of loading.txt.
type HouseNote struct {
	Key     string    `json:"key"`
	Text    string    `json:"text,omitempty"`
	Picture []byte    `json:"picture,omitempty"` // PNG, in base64
	By      string    `json:"by"`
	At      time.Time `json:"at"`
}

// InkBook is the ink book of the house's own supplier.
type InkBook struct {
	Name    string     `json:"name"`
	CSV     string     `json:"csv"`
	By      string     `json:"by,omitempty"`
	AddedAt *time.Time `json:"addedAt,omitempty"`
}

// Press is a press condition of the house's own.
type Press struct {
	Name     string  `json:"name"`
	Label    string  `json:"label"`
	InkLimit float64 `json:"inkLimit"`
	Profile  []byte  `json:"profile"` // ICC, in base64

	By      string     `json:"by,omitempty"`
	AddedAt *time.Time `json:"addedAt,omitempty"`
}

// Starter is a palette that a member added for the house.
type Starter struct {
	Name     string   `json:"name"`
	Keywords string   `json:"keywords"`
	Colors   []string `json:"colors"` // #RRGGBB
}

// Gradient runs between colors of the library.
type Gradient struct {
	ID      int64   `json:"id,omitempty"`
	Version int     `json:"version,omitempty"`
	Name    string  `json:"name"`
	Angle   float64 `json:"angle"`
	Space   string  `json:"space"`
	Stops   []Stop  `json:"stops"`
}

// Pair is a rule that one color may, or may not, stand on another.
type Pair struct {
	Color  string    `json:"color"`
	Ground string    `json:"ground"`
	May    bool      `json:"may"`
	Ratio  float64   `json:"ratio,omitempty"`
	By     string    `json:"by"`
	At     time.Time `json:"at"`
}

// Board is a board with its sheets; Document is what board.Board.Write gives.
type Board struct {
	Document json.RawMessage `json:"document"`
	By       string          `json:"by"`
	Changed  time.Time       `json:"changed"`
	Sheets   []BoardSheet    `json:"sheets,omitempty"`
}

// BoardSheet is a board as it was fixed, with what people answered.
type BoardSheet struct {
	Number   int             `json:"number"`
	Document json.RawMessage `json:"document"`
	By       string          `json:"by"`
	Fixed    time.Time       `json:"fixed"`
	Answers  []BoardAnswer   `json:"answers,omitempty"`
}

// BoardAnswer is what one person chose.
type BoardAnswer struct {
	Name    string    `json:"name"`
	Choice  int       `json:"choice"` // place of the option
	Comment string    `json:"comment"`
	First   time.Time `json:"first"`
	At      time.Time `json:"at"`
}

// Typeface is a font of the house's own.
type Typeface struct {
	ID      int64      `json:"id"` // boards name it own-ID
	Name    string     `json:"name"`
	Data    []byte     `json:"data"` // in base64
	By      string     `json:"by"`
	Added   time.Time  `json:"added"`
	Removed *time.Time `json:"removed,omitempty"` // it is kept for sheets only
}

// Logo is a picture that boards carry, by its checksum.
type Logo struct {
	Key  string `json:"key"`
	Data []byte `json:"data"` // PNG, in base64
}

// Stop is a color at a place in percent.
type Stop struct {
	Color string  `json:"color"`
	Place float64 `json:"place"`
}

// Recipient is who gets editions.
type Recipient struct {
	ID   int64  `json:"id,omitempty"`
	Name string `json:"name"`
	Kind string `json:"kind"`
	Note string `json:"note"`

	Sets []string `json:"sets"` // that it gets, by name; nil in a file of before, where it was on every set

	Packings []string   `json:"packings,omitempty"` // empty in a file of before
	Ways     []string   `json:"ways,omitempty"`
	Email    string     `json:"email,omitempty"`
	PausedAt *time.Time `json:"pausedAt,omitempty"`
}

// Fixed is an edition of a set, by the name that the set has today. The IDs of its colors are those of the file's.
type Fixed struct {
	Set     string
	Edition library.Edition

	now []string // of the first version: the file's color that each of the edition's is today, "" for none
}

// fixedForm is how an edition stands in the file; Document is what library.Edition.Write gives. The other members are those
// of the first version, where Now named the color of the file that each color of the edition was.
type fixedForm struct {
	Set      string           `json:"set,omitempty"`
	Document json.RawMessage  `json:"document,omitempty"`
	Edition  *library.FixedV1 `json:"edition,omitempty"`
	By       string           `json:"by,omitempty"`
	Now      []string         `json:"now,omitempty"`
}

// MarshalJSON writes the present form.
func (f Fixed) MarshalJSON() ([]byte, error) {
	text, err := f.Edition.Write()
	if err != nil {
		return nil, err
	}
	return json.Marshal(fixedForm{Set: f.Set, Document: json.RawMessage(text)})
}

// UnmarshalJSON reads both forms; number completes the first one.
func (f *Fixed) UnmarshalJSON(data []byte) error {
	var form fixedForm
	if err := json.Unmarshal(data, &form); err != nil {
		return err
	}
	if form.Edition == nil {
		var err error
		f.Set = form.Set
		f.Edition, err = library.ReadEdition(string(form.Document))
		return err
	}
	f.Set, f.Edition = form.Edition.Set, form.Edition.Upgrade()
	f.Edition.By.Name = form.By
	f.now = form.Now
	return nil
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

	Way    string     `json:"way,omitempty"` // empty in a file of before
	Client string     `json:"client,omitempty"`
	Times  int        `json:"times,omitempty"`
	LastAt *time.Time `json:"lastAt,omitempty"`
}

// Withdrawal says of an edition that it is not to be used any more.
type Withdrawal struct {
	Set    string    `json:"set"`
	Number int       `json:"number"`
	At     time.Time `json:"at"`
	By     string    `json:"by"`
	Why    string    `json:"why"`
}

// Set is a swatch set: colors in an order, by name.
type Set struct {
	ID      int64 // 0 in a file of others
	Version int
	Name    string
	Edition int // the newest fixed edition, 0 for none
	Colors  []string

	FollowsRole, FollowsTag string // what keeps it current; empty for a set by hand
	Slots                   []library.Assigned
	Boxes                   library.Boxes
}

// SetEdition takes a set of the library as an edition; ok is false if there is no such set.
func (l Library) SetEdition(name string) (e library.Edition, ok bool) {
	byName := map[string]library.Color{}
	for _, c := range l.Colors {
		byName[c.Name] = c
	}
	for _, s := range l.Sets {
		if s.Name != name {
			continue
		}
		e = library.Edition{House: l.House, Set: s.Name, Number: s.Edition, Slots: s.Slots, Boxes: s.Boxes}
		for _, n := range s.Colors {
			if c, found := byName[n]; found {
				e.Colors = append(e.Colors, c)
			}
		}
		return e, true
	}
	return library.Edition{}, false
}

// number gives the colors of a library of the first version numbers in their order, and those of its editions the same.
func (l *Library) number() {
	at := map[string]int64{}
	for i := range l.Colors {
		l.Colors[i].ID = int64(i + 1)
		at[l.Colors[i].Name] = l.Colors[i].ID
	}
	if l.Backup == nil {
		return
	}
	for _, f := range l.Backup.Editions {
		for i := range f.Edition.Colors {
			if i < len(f.now) {
				f.Edition.Colors[i].ID = at[f.now[i]]
			}
		}
	}
}
