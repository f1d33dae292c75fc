package library

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"huekeep/core/color"
)

// What is kept for years is written as JSON with a version, and every version that ever was is read. testdata holds a file
// of each; a new version adds one and an upgrade here, and changes no older one.

// keptVersion is the version that is written: 1 had neither version number nor tags, and its editions held approved print values only; the
// editions of 2 held no rules about pairs, those of 3 neither note nor slots and boxes given by hand. Editions of 5 are as those of 4, and
// packed otherwise. Until states of 4 and editions of 5 a reading was the only master beside the RGB, and values were computed from the
// latter. Until states of 5 and editions of 6 neither a build nor an ink decided a color, and nobody approved the RGB of one that something
// else decides. Until states of 6 and editions of 7 no companion was a sheer. Editions of 8 had no words of the house about loading, and
// are listed and named with their number; until those of 9 tokens had no readings beyond sRGB, and until those of 10 pictures of swatches
// had none at all.
const keptVersion, editionVersion = 7, 11

type keptColor struct {
	ID         int64           `json:"id,omitempty"`
	Name       string          `json:"name"`
	Hex        string          `json:"hex"`
	Master     string          `json:"master,omitempty"`   // see Master.String
	Measured   string          `json:"measured,omitempty"` // "L a b"; of before masters
	Plain      *keptPlain      `json:"plain,omitempty"`
	Group      string          `json:"group,omitempty"`
	Role       Role            `json:"role,omitempty"`
	Rule       string          `json:"rule,omitempty"`
	Status     Status          `json:"status"`
	Successor  *keptRef        `json:"successor,omitempty"`
	Ground     *keptRef        `json:"ground,omitempty"`
	Ratio      float64         `json:"ratio,omitempty"`
	Aliases    []string        `json:"aliases,omitempty"`
	Tags       []string        `json:"tags,omitempty"`
	Builds     []keptBuild     `json:"builds,omitempty"`
	Spots      []keptSpot      `json:"spots,omitempty"`
	Companions []KeptCompanion `json:"companions,omitempty"`
}

// KeptCompanion is a companion as states, editions and files of a library keep it.
type KeptCompanion struct {
	Kind      string `json:"kind"`
	Amount    int    `json:"amount"`
	Permitted bool   `json:"permitted"`
	GroundID  int64  `json:"groundId,omitempty"`
	Ground    string `json:"ground,omitempty"` // the name of the color below a sheer; white without
	Over      string `json:"over,omitempty"`   // its hex
}

// KeepCompanions makes the form that is kept.
func KeepCompanions(list []Companion) (out []KeptCompanion) {
	for _, m := range list {
		k := KeptCompanion{Kind: m.Kind, Amount: m.Amount, Permitted: m.Permitted}
		if !m.Ground.None() {
			k.GroundID, k.Ground, k.Over = m.Ground.ID, m.Ground.Name, m.Over.Hex()
		}
		out = append(out, k)
	}
	return out
}

// ReadCompanions reads what KeepCompanions made.
func ReadCompanions(list []KeptCompanion) (out []Companion, err error) {
	for _, k := range list {
		m := Companion{Kind: k.Kind, Amount: k.Amount, Permitted: k.Permitted, Ground: Ref{k.GroundID, k.Ground}}
		if !m.Ground.None() {
			if m.Over, err = color.FromHex(k.Over); err != nil {
				return nil, fmt.Errorf("the ground %s: %w", k.Ground, err)
			}
		}
		out = append(out, m)
	}
	return out, nil
}

// keptPlain is who approved the hex of a color that something else decides.
type keptPlain struct {
	Origin  Origin    `json:"origin"`
	By      string    `json:"by,omitempty"`
	Account int64     `json:"account,omitempty"`
	At      time.Time `json:"at"`
}

type keptRef struct {
	ID   int64  `json:"id,omitempty"`
	Name string `json:"name"`
}

type keptBuild struct {
	Press  string     `json:"press"`
	Value  [4]float64 `json:"value"` // C M Y K in percent
	Origin Origin     `json:"origin"`
	keptSignature
}

type keptSpot struct {
	Stock  string `json:"stock"`
	Code   string `json:"code"`
	Book   string `json:"book,omitempty"`
	Lab    string `json:"lab,omitempty"` // "L a b"
	Origin Origin `json:"origin"`
	keptSignature
}

// keptSignature is who approved a value and what the master was then; empty for a derived one.
type keptSignature struct {
	By      string     `json:"by,omitempty"`
	Account int64      `json:"account,omitempty"`
	At      *time.Time `json:"at,omitempty"`
	For     string     `json:"for,omitempty"`
	Meant   string     `json:"meant,omitempty"` // see Master.String
}

type keptState struct {
	Version int       `json:"version"`
	Color   keptColor `json:"color"`
}

type keptEdition struct {
	Version   int            `json:"version"`
	House     string         `json:"house"`
	Set       string         `json:"set"`
	Number    int            `json:"number"`
	FixedAt   time.Time      `json:"fixedAt"`
	By        string         `json:"by"`
	Account   int64          `json:"account,omitempty"`
	Colors    []keptColor    `json:"colors"`
	Gradients []keptGradient `json:"gradients,omitempty"`
	Pairs     []keptPair     `json:"pairs,omitempty"`
	Profiles  []Profile      `json:"profiles,omitempty"`
	Note      string         `json:"note,omitempty"`
	Slots     []keptSlot     `json:"slots,omitempty"`
	Boxes     *keptBoxes     `json:"boxes,omitempty"`
	Early     int            `json:"early,omitempty"`
	Loading   []HouseNote    `json:"loading,omitempty"`
}

type keptSlot struct {
	Slot  string  `json:"slot"`
	Color keptRef `json:"color"`
}

type keptBoxes struct {
	Count int       `json:"count,omitempty"`
	Order []keptRef `json:"order,omitempty"`
}

type keptGradient struct {
	ID    int64      `json:"id,omitempty"`
	Name  string     `json:"name"`
	Angle float64    `json:"angle"`
	Space string     `json:"space"`
	Stops []keptStop `json:"stops"`
}

type keptStop struct {
	Color keptRef `json:"color"`
	Place float64 `json:"place"`
}

type keptPair struct {
	Color  keptRef   `json:"color"`
	Ground keptRef   `json:"ground"`
	May    bool      `json:"may"`
	Ratio  float64   `json:"ratio,omitempty"`
	By     string    `json:"by"`
	At     time.Time `json:"at"`
}

// WriteState writes what a color is, without its place, its version and its history, so that it can be brought back.
func (c Color) WriteState() (string, error) {
	text, err := json.Marshal(keptState{keptVersion, keep(c)})
	return string(text), err
}

// ReadState reads what WriteState wrote, in any version.
func ReadState(text string) (Color, error) {
	version, err := versionOf(text)
	if err != nil {
		return Color{}, err
	}
	if version == 1 {
		return readStateV1(text)
	}
	var k keptState
	if err := json.Unmarshal([]byte(text), &k); err != nil {
		return Color{}, err
	}
	return k.Color.color()
}

// Write writes an edition for keeping.
func (e Edition) Write() (string, error) {
	k := keptEdition{Version: editionVersion, House: e.House, Set: e.Set, Number: e.Number, FixedAt: e.FixedAt, By: e.By.Name,
		Account: e.By.Account,
		Colors:  []keptColor{}, Profiles: e.Profiles, Note: e.Note, Loading: e.Loading, Early: e.Early}
	for _, s := range e.Slots {
		k.Slots = append(k.Slots, keptSlot{s.Slot, keptRef(s.Color)})
	}
	if e.Boxes.Count > 0 || len(e.Boxes.Order) > 0 {
		k.Boxes = &keptBoxes{Count: e.Boxes.Count}
		for _, r := range e.Boxes.Order {
			k.Boxes.Order = append(k.Boxes.Order, keptRef(r))
		}
	}
	for _, c := range e.Colors {
		k.Colors = append(k.Colors, keep(c))
	}
	for _, g := range e.Gradients {
		to := keptGradient{ID: g.ID, Name: g.Name, Angle: g.Angle, Space: g.Space}
		for _, s := range g.Stops {
			to.Stops = append(to.Stops, keptStop{keptRef(s.Color), s.Place})
		}
		k.Gradients = append(k.Gradients, to)
	}
	for _, p := range e.Pairs {
		k.Pairs = append(k.Pairs, keptPair{keptRef(p.Color), keptRef(p.Ground), p.May, p.Ratio, p.By.Name, p.At})
	}
	text, err := json.Marshal(k)
	return string(text), err
}

// ReadEdition reads what Write wrote, in any version.
func ReadEdition(text string) (Edition, error) {
	version, err := versionOf(text)
	if err != nil {
		return Edition{}, err
	}
	if version == 1 {
		return readEditionV1(text)
	}
	var k keptEdition
	if err := json.Unmarshal([]byte(text), &k); err != nil {
		return Edition{}, err
	}
	e := Edition{House: k.House, Set: k.Set, Number: k.Number, FixedAt: k.FixedAt, By: Person{k.Account, k.By}, Profiles: k.Profiles,
		Note: k.Note, Loading: k.Loading, Early: k.Early}
	if version < editionVersion {
		e.Early = version
	}
	for _, s := range k.Slots {
		e.Slots = append(e.Slots, Assigned{s.Slot, Ref(s.Color)})
	}
	if k.Boxes != nil {
		e.Boxes.Count = k.Boxes.Count
		for _, r := range k.Boxes.Order {
			e.Boxes.Order = append(e.Boxes.Order, Ref(r))
		}
	}
	for _, c := range k.Colors {
		of, err := c.color()
		if err != nil {
			return Edition{}, err
		}
		of.Rounded = of.Master.Kind != OfHex && e.Before(6)
		e.Colors = append(e.Colors, of)
	}
	for _, g := range k.Gradients {
		to := Gradient{ID: g.ID, Name: g.Name, Angle: g.Angle, Space: g.Space}
		for _, s := range g.Stops {
			to.Stops = append(to.Stops, Stop{Ref(s.Color), s.Place})
		}
		e.Gradients = append(e.Gradients, to)
	}
	for _, p := range k.Pairs {
		e.Pairs = append(e.Pairs, Pair{Ref(p.Color), Ref(p.Ground), p.May, p.Ratio, Person{Name: p.By}, p.At})
	}
	return e, nil
}

// versionOf reads the version of a kept document; those of the first version do not name it.
func versionOf(text string) (int, error) {
	var k struct {
		Version int `json:"version"`
	}
	if err := json.Unmarshal([]byte(text), &k); err != nil {
		return 0, err
	}
	switch {
	case k.Version == 0:
		return 1, nil
	case k.Version < 0 || k.Version > editionVersion:
		return 0, fmt.Errorf("it was written by a newer Hue Keep (version %d; this one reads up to %d)", k.Version, editionVersion)
	}
	return k.Version, nil
}

func keep(c Color) keptColor {
	k := keptColor{ID: c.ID, Name: c.Name, Hex: c.RGB.Hex(), Master: c.Master.String(), Group: c.Group, Role: c.Role, Rule: c.Rule,
		Status: c.Status, Ratio: c.Ratio,
		Aliases: c.Aliases, Tags: c.Tags, Companions: KeepCompanions(c.Companions)}
	if k.Status == "" {
		k.Status = Approved
	}
	if p := c.Plain; p.Origin != "" {
		k.Plain = &keptPlain{p.Origin, p.By.Name, p.By.Account, p.At}
	}
	if !c.Successor.None() {
		k.Successor = &keptRef{c.Successor.ID, c.Successor.Name}
	}
	if !c.Ground.None() {
		k.Ground = &keptRef{c.Ground.ID, c.Ground.Name}
	}
	for _, b := range c.Builds {
		k.Builds = append(k.Builds, keptBuild{b.Press, b.Value.Array(), orSigned(b.Origin), sign(b.Origin, b.By, b.At, b.For, b.Meant)})
	}
	for _, s := range c.Spots {
		to := keptSpot{Stock: s.Stock, Code: s.Code, Book: s.Book, Origin: orSigned(s.Origin),
			keptSignature: sign(s.Origin, s.By, s.At, s.For, s.Meant)}
		if s.Lab != nil {
			to.Lab = WriteLab(*s.Lab)
		}
		k.Spots = append(k.Spots, to)
	}
	return k
}

func orSigned(o Origin) Origin {
	if o == "" {
		return Signed
	}
	return o
}

func sign(o Origin, by Person, at time.Time, rgb color.RGB8, meant Master) keptSignature {
	if o == Derived {
		return keptSignature{}
	}
	return keptSignature{by.Name, by.Account, &at, rgb.Hex(), meant.String()}
}

func (s keptSignature) read() (by Person, at time.Time, rgb color.RGB8, meant Master, err error) {
	if s.At != nil {
		at = *s.At
	}
	if s.For != "" {
		rgb, err = color.FromHex(s.For)
	}
	if s.Meant != "" && err == nil {
		meant, err = ReadMaster(s.Meant)
	}
	return Person{s.Account, s.By}, at, rgb, meant, err
}

func (k keptColor) color() (c Color, err error) {
	c = Color{ID: k.ID, Name: k.Name, Group: k.Group, Role: k.Role, Rule: k.Rule, Status: k.Status, Ratio: k.Ratio, Aliases: k.Aliases,
		Tags: k.Tags}
	if c.Companions, err = ReadCompanions(k.Companions); err != nil {
		return c, fmt.Errorf("%s: %w", k.Name, err)
	}
	if c.RGB, err = color.FromHex(k.Hex); err != nil {
		return c, fmt.Errorf("%s: %w", k.Name, err)
	}
	lab, err := keptLab(k.Measured)
	if err != nil {
		return c, fmt.Errorf("%s: %w", k.Name, err)
	}
	if lab != nil {
		c.Master, _ = Read(*lab)
	} else if k.Master != "" {
		if c.Master, err = ReadMaster(k.Master); err != nil {
			return c, fmt.Errorf("%s: %w", k.Name, err)
		}
	}
	if p := k.Plain; p != nil {
		c.Plain = Plain{p.Origin, Person{p.Account, p.By}, p.At}
	}
	if k.Successor != nil {
		c.Successor = Ref(*k.Successor)
	}
	if k.Ground != nil {
		c.Ground = Ref(*k.Ground)
	}
	for _, b := range k.Builds {
		v := b.Value
		to := Build{Press: b.Press, Value: color.CMYK{C: v[0], M: v[1], Y: v[2], K: v[3]}, Origin: b.Origin}
		if to.By, to.At, to.For, to.Meant, err = b.read(); err != nil {
			return c, fmt.Errorf("%s, build for %s: %w", k.Name, b.Press, err)
		}
		c.Builds = append(c.Builds, to)
	}
	for _, s := range k.Spots {
		to := Spot{Stock: s.Stock, Code: s.Code, Book: s.Book, Origin: s.Origin}
		if to.By, to.At, to.For, to.Meant, err = s.read(); err != nil {
			return c, fmt.Errorf("%s, ink on %s stock: %w", k.Name, s.Stock, err)
		}
		if to.Lab, err = keptLab(s.Lab); err != nil {
			return c, fmt.Errorf("%s, ink on %s stock: %w", k.Name, s.Stock, err)
		}
		c.Spots = append(c.Spots, to)
	}
	return c, nil
}

func keptLab(s string) (*color.Lab, error) {
	if s == "" {
		return nil, nil
	}
	lab, err := ReadLab(s)
	return &lab, err
}

// The first version: Go structs without tags.

type stateV1 struct {
	Name, Hex, Lab, Role, Rule, Status, Group string
	Aliases, Tags                             string // one a line
	Successor, Partner                        string
	Ratio                                     float64
	Builds                                    []struct {
		Press      string
		C, M, Y, K float64
		ByName     string
		ApprovedAt time.Time
		ForHex     string
	}
	Spots []struct {
		Stock, Code, ByName string
		ApprovedAt          time.Time
		ForHex              string
	}
	Companions []struct {
		Kind      string
		Amount    int
		Permitted bool
	}
}

func readStateV1(text string) (Color, error) {
	var v stateV1
	if err := json.Unmarshal([]byte(text), &v); err != nil {
		return Color{}, err
	}
	k := keptColor{Name: v.Name, Hex: v.Hex, Measured: v.Lab, Group: v.Group, Role: Role(v.Role), Rule: v.Rule, Status: Status(v.Status),
		Ratio:   v.Ratio,
		Aliases: lines(v.Aliases), Tags: lines(v.Tags)}
	k.Successor, k.Ground = refV1(v.Successor), refV1(v.Partner)
	for _, b := range v.Builds {
		k.Builds = append(k.Builds, keptBuild{b.Press, [4]float64{b.C, b.M, b.Y, b.K}, Signed,
			keptSignature{By: b.ByName, At: &b.ApprovedAt, For: b.ForHex}})
	}
	for _, s := range v.Spots {
		k.Spots = append(k.Spots, keptSpot{Stock: s.Stock, Code: s.Code, Origin: Signed,
			keptSignature: keptSignature{By: s.ByName, At: &s.ApprovedAt, For: s.ForHex}})
	}
	for _, m := range v.Companions {
		k.Companions = append(k.Companions, KeptCompanion{Kind: m.Kind, Amount: m.Amount, Permitted: m.Permitted})
	}
	return k.color()
}

func lines(text string) []string {
	if text == "" {
		return nil
	}
	return strings.Split(text, "\n")
}

func refV1(name string) *keptRef {
	if name == "" {
		return nil
	}
	return &keptRef{Name: name}
}

type editionV1 struct {
	Edition FixedV1
	IDs     []int64
}

// FixedV1 is an edition of the first version without the numbers of its colors, as the first backups hold it too.
type FixedV1 struct {
	House, Set string
	Number     int
	FixedAt    time.Time
	Colors     []struct {
		Name, Group, Role, Rule, Status, Successor string
		Aliases, Tags                              []string
		RGB                                        color.RGB8
		Measured                                   *color.Lab
		CMYK                                       []struct {
			Press string
			Value color.CMYK
			By    string
			At    time.Time
			For   color.RGB8
		}
		Spots []struct {
			Stock, Code, By string
			At              time.Time
			For             color.RGB8
		}
		Partner string
		Ratio   float64
		Family  []Companion
	}
}

func readEditionV1(text string) (Edition, error) {
	var v editionV1
	if err := json.Unmarshal([]byte(text), &v); err != nil {
		return Edition{}, err
	}
	e := v.Edition.Upgrade()
	for i := range e.Colors {
		if i < len(v.IDs) {
			e.Colors[i].ID = v.IDs[i]
		}
	}
	return e, nil
}

// Upgrade makes an edition of it.
func (v FixedV1) Upgrade() Edition {
	e := Edition{House: v.House, Set: v.Set, Number: v.Number, FixedAt: v.FixedAt, Early: 1}
	for _, o := range v.Colors {
		c := Color{Name: o.Name, Group: o.Group, Role: Role(o.Role), Rule: o.Rule, Status: Status(o.Status),
			Successor: Ref{Name: o.Successor},
			Aliases:   o.Aliases, Tags: o.Tags, RGB: o.RGB, Rounded: o.Measured != nil, Ground: Ref{Name: o.Partner}, Ratio: o.Ratio,
			Companions: o.Family}
		if o.Measured != nil {
			c.Master, _ = Read(*o.Measured)
		}
		for _, b := range o.CMYK {
			c.Builds = append(c.Builds, Build{Press: b.Press, Value: b.Value, Origin: Signed, By: Person{Name: b.By}, At: b.At, For: b.For})
		}
		for _, s := range o.Spots {
			c.Spots = append(c.Spots, Spot{Stock: s.Stock, Code: s.Code, Origin: Signed, By: Person{Name: s.By}, At: s.At, For: s.For})
		}
		e.Colors = append(e.Colors, c)
	}
	return e
}
