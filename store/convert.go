package store

import (
	"strings"
	"time"

	"huekeep/core/color"
	"huekeep/core/library"
)

// Between the rows and what they stand for, in this file and nowhere else.

// rgb reads a stored value; the database holds valid ones only.
func rgb(hex string) color.RGB8 {
	c, _ := color.FromHex(hex)
	return c
}

func parted(text string) []string {
	if text == "" {
		return nil
	}
	return strings.Split(text, "\n")
}

func joined(words []string) string { return strings.Join(words, "\n") }

// master reads what is stored; the database holds valid ones only, and builds and inks as they are kept.
func master(text string) library.Master {
	if text == "" {
		return library.Master{}
	}
	if kind, value, _ := strings.Cut(text, " "); kind == string(library.OfBuild) || kind == string(library.OfInk) {
		return library.Master{Kind: library.MasterKind(kind), Text: value}
	}
	m, _ := library.ReadMaster(text)
	return m
}

func pointer(id int64) *int64 {
	if id == 0 {
		return nil
	}
	return &id
}

func number(id *int64) int64 {
	if id == nil {
		return 0
	}
	return *id
}

func person(id *int64, name string) library.Person {
	return library.Person{Account: number(id), Name: name}
}

// rowOf is a color as a row, without its group.
func rowOf(house int64, c library.Color) Color {
	return Color{ID: c.ID, HouseID: house, Name: c.Name, NameKey: NameKey(c.Name), Hex: c.RGB.Hex(), Master: c.Master.String(),
		Role: string(c.Role), Rule: c.Rule, Status: string(c.Status),
		PlainOrigin: string(c.Plain.Origin), PlainBy: pointer(c.Plain.By.Account), PlainName: c.Plain.By.Name, PlainAt: moment(c.Plain.At),
		SuccessorID: pointer(c.Successor.ID), Position: c.Position, Version: c.Version, Aliases: joined(c.Aliases), Tags: joined(c.Tags),
		GroundID: pointer(c.Ground.ID), GroundRatio: c.Ratio, CreatedAt: c.Added, UpdatedAt: c.Changed}
}

// color is a row as a color, without the names of what it points to.
func (r Color) color(group string) library.Color {
	c := library.Color{ID: r.ID, Name: r.Name, RGB: rgb(r.Hex), Master: master(r.Master), Group: group, Role: library.Role(r.Role),
		Rule:   r.Rule,
		Status: library.Status(r.Status), Successor: library.Ref{ID: number(r.SuccessorID)},
		Ground: library.Ref{ID: number(r.GroundID)}, Ratio: r.GroundRatio, Aliases: parted(r.Aliases), Tags: parted(r.Tags),
		Position: r.Position, Version: r.Version, Added: r.CreatedAt, Changed: r.UpdatedAt}
	if r.PlainOrigin != "" && r.PlainAt != nil {
		c.Plain = library.Plain{Origin: library.Origin(r.PlainOrigin), By: person(r.PlainBy, r.PlainName), At: *r.PlainAt}
	}
	return c
}

func (r Build) build() library.Build {
	return library.Build{Press: r.Press, Value: color.CMYK{C: r.C, M: r.M, Y: r.Y, K: r.K}, Origin: library.Origin(r.Origin),
		By: person(r.ByUser, r.ByName),
		At: r.ApprovedAt, For: rgb(r.ForHex), Meant: master(r.Meant)}
}

func (r Spot) spot() library.Spot {
	return library.Spot{Stock: r.Stock, Code: r.Code, Origin: library.Origin(r.Origin), By: person(r.ByUser, r.ByName), At: r.ApprovedAt,
		For: rgb(r.ForHex), Meant: master(r.Meant)}
}

func moment(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}

func origin(o library.Origin) string {
	if o == "" {
		o = library.Signed
	}
	return string(o)
}

// childrenOf are the rows of what was approved of a color and is kept with it.
func childrenOf(c library.Color) (builds []Build, spots []Spot, companions []Companion) {
	for _, b := range c.Builds {
		builds = append(builds, Build{c.ID, b.Press, b.Value.C, b.Value.M, b.Value.Y, b.Value.K, pointer(b.By.Account), b.By.Name, b.At,
			b.For.Hex(), b.Meant.String(), origin(b.Origin)})
	}
	for _, s := range c.Spots {
		spots = append(spots, Spot{c.ID, s.Stock, s.Code, pointer(s.By.Account), s.By.Name, s.At, s.For.Hex(), s.Meant.String(),
			origin(s.Origin)})
	}
	for _, m := range c.Companions {
		if !m.Ground.None() && m.Ground.ID == 0 {
			continue // it follows when its ground has a number
		}
		companions = append(companions, Companion{c.ID, m.Kind, m.Amount, m.Permitted, m.Ground.ID})
	}
	return builds, spots, companions
}

func eventRow(of int64, e library.Event) ColorEvent {
	return ColorEvent{e.ID, of, e.At, pointer(e.By.Account), e.By.Name, e.What, e.Before, e.After, e.State, e.From}
}

func (r ColorEvent) event() library.Event {
	return library.Event{ID: r.ID, At: r.At, By: person(r.ByUser, r.ByName), What: r.What, Before: r.BeforeHex, After: r.AfterHex,
		State: r.State, From: r.Source}
}

func gradientRow(house int64, g library.Gradient) (Gradient, []GradientStop) {
	var stops []GradientStop
	for i, s := range g.Stops {
		stops = append(stops, GradientStop{g.ID, i, s.Color.ID, s.Place})
	}
	return Gradient{g.ID, house, g.Name, NameKey(g.Name), g.Angle, g.Space, g.Version}, stops
}

func (r Gradient) gradient() library.Gradient {
	return library.Gradient{ID: r.ID, Version: r.Version, Name: r.Name, Angle: r.Angle, Space: r.Space}
}

func editionRows(house, set int64, e library.Edition) (Edition, []EditionColor, error) {
	text, err := e.Write()
	var colors []EditionColor
	for i, c := range e.Colors {
		colors = append(colors, EditionColor{set, e.Number, i, c.ID, c.RGB.Hex()})
	}
	return Edition{set, e.Number, house, e.FixedAt, pointer(e.By.Account), e.By.Name, text, e.Note, nil, "", ""}, colors, err
}

// edition reads the content; what is known of who fixed it when stands in the row.
func (r Edition) edition() (library.Edition, error) {
	e, err := library.ReadEdition(r.Content)
	e.Number, e.FixedAt, e.By = r.Number, r.FixedAt, person(r.ByUser, r.ByName)
	return e, err
}

// EditionLine is an edition without its content.
type EditionLine struct {
	SetID   int64
	Number  int
	FixedAt time.Time
	By      library.Person
	Count   int // of colors

	Note         string
	WithdrawnAt  *time.Time // nil for an edition in force
	WithdrawnBy  string
	WithdrawnWhy string
}
