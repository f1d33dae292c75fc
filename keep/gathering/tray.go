// Package gathering holds the rules of the tray: what may be put on it, what is to be known of it, and how it is admitted.
package gathering

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"
	"time"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/press"
	"huekeep/keep"
	"huekeep/keep/ledger"
	"huekeep/keep/media"
	"huekeep/standin"
	"huekeep/store"
)

// Rules are the rules of the tray and of what leads to it.
type Rules struct {
	*keep.Base
	Media *media.Rules
	bench *bench
}

// New makes the rules, with the simulated instrument that ships.
func New(b *keep.Base, m *media.Rules) *Rules {
	return &Rules{b, m, &bench{reader: standin.NewReader(uint64(time.Now().UnixNano()))}}
}

// Candidate is a color on the tray with what a person should know before admitting it.
type Candidate struct {
	ID       int64
	Name     string
	RGB      color.RGB8
	Source   string // as it was pasted, or where it comes from
	Remark   string
	CMYK     string // a build given along with it
	Spot     string // the code of an ink given along with it
	Master   library.Master
	Origin   string
	Position int
	Notes    []Note
}

func candidate(r store.Candidate, notes []Note) Candidate {
	return Candidate{r.ID, r.Name, rgbOf(r.Hex), r.Source, r.Remark, r.CMYK, r.Spot, colorOf(r).Master, r.Origin, r.Position, notes}
}

// colorOf is what a candidate would be in the library.
func colorOf(r store.Candidate) library.Color {
	c := library.Color{Name: r.Name, RGB: rgbOf(r.Hex)}
	if r.Master != "" {
		c.Master, _ = library.ReadMaster(r.Master) // the database holds valid ones only
	}
	return c
}

// masterOf is the master of a line of text, as it is kept.
func masterOf(l Line) string {
	if l.Exact == "" {
		return ""
	}
	return library.Master{Kind: library.OfScreen, Text: l.Exact}.String()
}

// rgbOf reads a stored value; the database holds valid ones only.
func rgbOf(hex string) color.RGB8 {
	c, _ := color.FromHex(hex)
	return c
}

// Note is a remark on a candidate.
type Note struct {
	Kind   string // unnamed, name-taken, same-value, near-value, twice-on-tray, near-on-tray or remark
	Text   string
	Blocks bool // it cannot be admitted like this
	Color  *library.Color
	Other  int64 // the other candidate, for near-on-tray
}

// Line is a line of pasted text with what is to be known of it.
type Line struct {
	color.Line
	Spot  string // code of an ink that stands on the line
	Notes []string
}

// nearDE is the ΔE00 under which two colors are pointed out as one.
const nearDE = 1

// Read says what would be understood of a text; nothing is kept. Any role may try it.
func (g *Rules) Read(ctx context.Context, a keep.Actor, text string) ([]Line, error) {
	book, err := g.Media.Book(g.DB.With(ctx), a.House.ID)
	if err != nil {
		return nil, err
	}
	lines, err := readText(text, book)
	if err != nil {
		return nil, err
	}
	c, err := g.comparison(ctx, a)
	if err != nil {
		return nil, err
	}
	out := lines
	for i, l := range lines {
		if l.Err != nil {
			continue
		}
		for _, n := range c.notes(store.Candidate{Name: l.Name, Hex: l.RGB.Hex(), Master: masterOf(l), Remark: l.Note}) {
			if n.Kind != "unnamed" {
				out[i].Notes = append(out[i].Notes, n.Text)
			}
		}
		if l.CMYK != nil {
			out[i].Notes = append(out[i].Notes, fmt.Sprintf("CMYK %s comes with it", *l.CMYK))
		}
		if l.Spot != "" {
			out[i].Notes = append(out[i].Notes, fmt.Sprintf("spot ink %s comes with it", l.Spot))
		}
	}
	return out, nil
}

// inkCode is what may be the code of a spot ink.
var inkCode = regexp.MustCompile(`\b[A-Za-z]{1,4}[- ]?\d{3,5}\b`)

func readText(text string, book *ink.Book) ([]Line, error) {
	if len(text) > limits.PasteBytes {
		return nil, &keep.Error{Kind: keep.TooLarge, Field: "text", Message: fmt.Sprintf("The text has %s; at most %s are read at once.", limits.Size(int64(len(text))), limits.Size(limits.PasteBytes))}
	}
	lines := color.ReadList(text)
	if len(lines) == 0 {
		return nil, keep.Wrong("text", "the list is empty; type or paste a color, or one color a line")
	}
	if len(lines) > limits.PasteLines {
		return nil, &keep.Error{Kind: keep.TooLarge, Field: "text", Message: fmt.Sprintf("The list has %d lines; at most %d are read at once.", len(lines), limits.PasteLines)}
	}
	out := make([]Line, len(lines))
	for i, l := range lines {
		out[i].Line = l
		if errors.Is(l.Err, color.ErrInkOnly) { // a printer's list: the screen shows what the coated press makes of it
			out[i].RGB, out[i].Err = media.Look(press.Coated().Lab(*l.CMYK)), nil
			out[i].Note = "the screen value is how the build prints on coated paper"
		}
		out[i].findInk(book)
	}
	return out, nil
}

// findInk looks for the code of an ink on a line. An ink without a screen value brings its own.
func (l *Line) findInk(book *ink.Book) {
	for _, text := range inkCode.FindAllString(l.Text, -1) {
		k, ok := book.Find(text)
		if !ok {
			continue
		}
		l.Spot = k.Code
		if l.Err != nil {
			rest := color.ReadList(strings.Replace(l.Text, text, media.Look(k.Coated).Hex(), 1))
			if len(rest) != 1 || rest[0].Err != nil {
				return
			}
			l.Name, l.RGB, l.Value, l.CMYK, l.Err = rest[0].Name, media.Look(k.Coated), k.Code, rest[0].CMYK, nil
			l.Note = "the screen value is how the ink looks on coated stock"
			return
		}
		l.Name = strings.Trim(strings.Join(strings.Fields(strings.Replace(l.Name, text, "", 1)), " "), " ,;:()-")
		return
	}
}

// AddToTray puts every understood line on the actor's tray. The lines that were not understood are returned with their
// reasons; a text without a single color is an error.
func (g *Rules) AddToTray(ctx context.Context, a keep.Actor, text string) (added int, problems []Line, err error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return 0, nil, err
	}
	book, err := g.Media.Book(g.DB.With(ctx), a.House.ID)
	if err != nil {
		return 0, nil, err
	}
	lines, err := readText(text, book)
	if err != nil {
		return 0, nil, err
	}
	now := g.Now()
	var rows []store.Candidate
	for _, l := range lines {
		if l.Err == nil && len([]rune(l.Name)) > limits.NameRunes {
			l.Err = fmt.Errorf("the name has over %d characters", limits.NameRunes)
		}
		if l.Err != nil {
			problems = append(problems, l)
			continue
		}
		row := store.Candidate{UserID: a.Account, HouseID: a.House.ID, Name: l.Name, Hex: l.RGB.Hex(), Master: masterOf(l), Source: l.Text, Remark: l.Note, Spot: l.Spot, Origin: "paste", CreatedAt: now}
		if l.CMYK != nil {
			row.CMYK = l.CMYK.String()
		}
		rows = append(rows, row)
	}
	if len(rows) == 0 {
		reason := problems[0].Err.Error()
		if len(problems) > 1 {
			return 0, problems, keep.Wrong("text", "none of the %d lines holds a color; line %d: %s", len(problems), problems[0].Number, reason)
		}
		return 0, problems, keep.Wrong("text", "%s", reason)
	}
	return len(rows), problems, g.put(ctx, a, rows)
}

// put adds candidates at the end of the tray, or where they say.
func (g *Rules) put(ctx context.Context, a keep.Actor, rows []store.Candidate) error {
	return g.DB.In(ctx, func(tx *store.DB) error {
		there, err := tx.Tray(a.Account, a.House.ID)
		if err != nil {
			return err
		}
		if len(there)+len(rows) > limits.TrayItems {
			return keep.Clash("text", "the tray would hold %d candidates; at most %d fit", len(there)+len(rows), limits.TrayItems)
		}
		last, err := tx.LastOnTray(a.Account, a.House.ID)
		if err != nil {
			return err
		}
		for i := range rows {
			rows[i].ID = 0
			if rows[i].Position == 0 {
				last++
				rows[i].Position = last
			}
		}
		return tx.Add(&rows)
	})
}

// NewCandidate is a color from a picture, a file, a harmony, a starter or a reading.
type NewCandidate struct {
	Name, Value string // Value in any notation
	CMYK, Spot  string // given along with it, or empty
	Lab         string // the reading that it stands for, as "L a b", or empty
	Source      string // where it comes from, in words
	Origin      string
	Position    int  // 0 for the end
	builds      bool // the value may be a build
}

// mostPosition is far beyond any tray and within what is kept.
const mostPosition = 1 << 30

// Origins are where candidates come from.
var Origins = []string{"paste", "picture", "file", "harmony", "starter", "reading", "proof"}

// PutOnTray adds candidates that are known already, all or none. A candidate without a name gets a description of its color
// as one, numbered where the tray or the library has it.
func (g *Rules) PutOnTray(ctx context.Context, a keep.Actor, list []NewCandidate) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	if len(list) == 0 {
		return keep.Wrong("colors", "no color is chosen")
	}
	rows, err := g.rows(ctx, a, list)
	if err != nil {
		return err
	}
	return g.put(ctx, a, rows)
}

// rows are candidates as they are kept, checked.
func (g *Rules) rows(ctx context.Context, a keep.Actor, list []NewCandidate) ([]store.Candidate, error) {
	c, err := g.comparison(ctx, a)
	if err != nil {
		return nil, err
	}
	tray, err := g.DB.With(ctx).Tray(a.Account, a.House.ID)
	if err != nil {
		return nil, err
	}
	taken := map[string]bool{}
	for key := range c.names {
		taken[key] = true
	}
	for _, t := range tray {
		taken[store.NameKey(t.Name)] = true
	}
	book, err := g.Media.Book(g.DB.With(ctx), a.House.ID)
	if err != nil {
		return nil, err
	}
	now := g.Now()
	rows := make([]store.Candidate, len(list))
	for i, n := range list {
		if rows[i], err = n.row(book, func(name string) bool { return taken[store.NameKey(name)] }); err != nil {
			return nil, err
		}
		rows[i].UserID, rows[i].HouseID, rows[i].CreatedAt = a.Account, a.House.ID, now
		taken[store.NameKey(rows[i].Name)] = true
	}
	return rows, nil
}

// row checks a candidate.
func (n NewCandidate) row(book *ink.Book, taken func(name string) bool) (row store.Candidate, err error) {
	read := keep.Master
	if n.builds {
		read = keep.MasterOrBuild
	}
	g, err := read("colors", n.Value)
	if err != nil {
		return row, err
	}
	row = store.Candidate{Hex: g.RGB.Hex(), Master: g.String(), Source: keep.Short(n.Source, 1000), Remark: g.Note, Origin: n.Origin, Position: n.Position}
	if build := g.Build; build != nil {
		if n.CMYK != "" {
			return row, keep.Wrong("colors", "%s is a build, and %s another one beside it; one of them is the value, or the build", n.Value, n.CMYK)
		}
		row.CMYK = build.String()
	}
	if n.Position < 0 || n.Position > mostPosition {
		return row, keep.Wrong("colors", "the place %d on the tray lies outside 0 to %d", n.Position, mostPosition)
	}
	if !slices.Contains(Origins, n.Origin) {
		return row, keep.Wrong("colors", "the origin %q is none of %s", n.Origin, strings.Join(Origins, ", "))
	}
	if strings.TrimSpace(n.Name) != "" {
		if row.Name, err = keep.Name("colors", n.Name); err != nil {
			return row, err
		}
	} else {
		row.Name = color.Apart(g.RGB.Describe(), taken)
		if row.Remark == "" {
			row.Remark = described
		}
	}
	if n.CMYK != "" {
		b, err := color.ParseCMYK(n.CMYK)
		if err != nil {
			return row, keep.Wrong("colors", "%v", err)
		}
		row.CMYK = b.String()
	}
	if n.Spot != "" {
		found, ok := book.Find(n.Spot)
		if !ok {
			return row, keep.Wrong("colors", "%q is not in the %s ink book", n.Spot, book.Name)
		}
		row.Spot = found.Code
	}
	if n.Lab != "" {
		lab, err := library.ReadLab(n.Lab)
		if err != nil {
			return row, keep.Wrong("lab", "%v", err)
		}
		m, _ := library.Read(lab)
		row.Master = m.String()
	}
	return row, nil
}

// OrderTray puts the tray in an order: the candidates named come first, as they are named.
func (g *Rules) OrderTray(ctx context.Context, a keep.Actor, ids []int64) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	if err := keep.IDs("items", ids, limits.TrayItems); err != nil {
		return err
	}
	return g.DB.In(ctx, func(tx *store.DB) error {
		rows, err := tx.TrayToAdmit(a.Account, a.House.ID)
		if err != nil {
			return err
		}
		for _, r := range rows {
			if !slices.Contains(ids, r.ID) {
				ids = append(ids, r.ID)
			}
		}
		for i, id := range ids {
			if err := tx.PlaceCandidate(a.Account, a.House.ID, id, i+1); err != nil {
				return err
			}
		}
		return nil
	})
}

// Tray lists the actor's candidates with notes.
func (g *Rules) Tray(ctx context.Context, a keep.Actor) ([]Candidate, error) {
	rows, err := g.DB.With(ctx).Tray(a.Account, a.House.ID)
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	c, err := g.comparison(ctx, a)
	if err != nil {
		return nil, err
	}
	c.tray = map[string]int{}
	for _, r := range rows {
		if r.Name != "" {
			c.tray[store.NameKey(r.Name)]++
		}
	}
	out := make([]Candidate, len(rows))
	labs := make([]color.Lab, len(rows))
	for i, r := range rows {
		out[i] = candidate(r, c.notes(r))
		labs[i] = colorOf(r).Lab()
	}
	index := color.NewIndex(labs)
	for i := range rows { // the first of two that look the same is the one to keep
		for _, n := range index.Nearest(labs[i], 3) {
			if n.At < i && n.DeltaE < nearDE {
				out[i].Notes = append(out[i].Notes, Note{Kind: "near-on-tray", Other: rows[n.At].ID,
					Text: fmt.Sprintf("%.1f %s from %s on the tray", n.DeltaE, color.Word(n.DeltaE), cmp.Or(rows[n.At].Name, rows[n.At].Hex))})
				break
			}
		}
	}
	return out, nil
}

// ChangeCandidate renames a candidate or gives it another value; nil leaves it as it is.
func (g *Rules) ChangeCandidate(ctx context.Context, a keep.Actor, id int64, newName, value *string) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	return g.DB.In(ctx, func(tx *store.DB) error {
		c, err := tx.Candidate(a.Account, a.House.ID, id)
		if err != nil {
			return keep.Missing(err, "candidate on your tray")
		}
		if newName != nil {
			if c.Name, err = keep.Name("name", *newName); err != nil && strings.TrimSpace(*newName) != "" {
				return err
			}
			if c.Remark == described {
				c.Remark = ""
			}
		}
		if value != nil {
			g, err := keep.Master("value", *value)
			if err != nil {
				return err
			}
			c.Hex, c.Master, c.Remark = g.RGB.Hex(), g.String(), g.Note
		}
		return tx.ChangeCandidate(c)
	})
}

// RemoveCandidate takes one candidate off the tray.
func (g *Rules) RemoveCandidate(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	return keep.Missing(g.DB.With(ctx).RemoveCandidates(a.Account, a.House.ID, id), "candidate on your tray")
}

// ClearTray takes everything off the tray.
func (g *Rules) ClearTray(ctx context.Context, a keep.Actor) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	return g.DB.With(ctx).ClearTray(a.Account, a.House.ID)
}

// comparison holds the library for comparing candidates with it.
type comparison struct {
	colors []library.Color
	labs   []color.Lab
	names  map[string]int
	values map[library.Value]int
	tray   map[string]int // how often a name is on the tray
}

func (g *Rules) comparison(ctx context.Context, a keep.Actor) (*comparison, error) {
	list, err := ledger.Visible(g.DB.With(ctx), a) // a note would tell of a draft
	if err != nil {
		return nil, err
	}
	c := &comparison{colors: list, names: map[string]int{}, values: map[library.Value]int{}}
	for i, v := range list {
		c.labs = append(c.labs, v.Lab())
		c.names[store.NameKey(v.Name)] = i
		if _, ok := c.values[v.Value()]; !ok {
			c.values[v.Value()] = i
		}
	}
	return c, nil
}

func (c *comparison) notes(r store.Candidate) []Note {
	var out []Note
	key := store.NameKey(r.Name)
	if r.Name == "" {
		out = append(out, Note{Kind: "unnamed", Text: "needs a name", Blocks: true})
	} else if i, ok := c.names[key]; ok {
		other := c.colors[i]
		what := fmt.Sprintf("the name is taken: %s is %s", other.Name, other.RGB.Hex())
		if other.Value() == colorOf(r).Value() {
			what = fmt.Sprintf("%s is in the library already, with this value", other.Name)
		}
		out = append(out, Note{Kind: "name-taken", Text: what, Blocks: true, Color: &other})
	} else if c.tray[key] > 1 {
		out = append(out, Note{Kind: "twice-on-tray", Text: "the name is on the tray twice", Blocks: true})
	}
	if i, ok := c.values[colorOf(r).Value()]; ok {
		if store.NameKey(c.colors[i].Name) != key {
			kind := "same-value"
			if c.colors[i].Retired() { // nobody means that one by itself
				kind = "near-value"
			}
			out = append(out, Note{Kind: kind, Text: "same value as " + called(c.colors[i]), Color: &c.colors[i]})
		}
	} else if i, de := c.nearest(colorOf(r).Lab()); i >= 0 && de < nearDE {
		out = append(out, Note{Kind: "near-value", Text: fmt.Sprintf("%.1f %s from %s", de, color.Word(de), called(c.colors[i])), Color: &c.colors[i]})
	}
	if r.Remark != "" {
		out = append(out, Note{Kind: "remark", Text: r.Remark})
	}
	return out
}

// described is the remark of a candidate that nobody named.
const described = "a description, not yet a name"

func called(c library.Color) string {
	if c.Retired() {
		return c.Name + ", which is retired"
	}
	return c.Name
}

// nearest finds the closest library color that may be within nearDE; others are passed over by lightness alone, since
// ΔE00 is at least |ΔL| / 1.75.
func (c *comparison) nearest(lab color.Lab) (int, float64) {
	best, at := math.Inf(1), -1
	for i, l := range c.labs {
		if math.Abs(l.L-lab.L) > 1.75*nearDE {
			continue
		}
		if de := color.DeltaE00(lab, l); de < best {
			best, at = de, i
		}
	}
	return at, best
}
