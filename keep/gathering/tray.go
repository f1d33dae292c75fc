// Package gathering holds the rules of the tray: what may be put on it, what is to be known of it, and how it is admitted.
package gathering

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/press"
	"huekeep/keep"
	"huekeep/keep/ledger"
	"huekeep/keep/media"
	"huekeep/keep/send"
	"huekeep/outside"
	"huekeep/store"
)

// Rules are the rules of the tray and of what leads to it.
type Rules struct {
	*keep.Base
	Media *media.Rules
	bench outside.Bench
}

// New makes the rules, with the bench where colors are read.
func New(b *keep.Base, m *media.Rules, bench outside.Bench) *Rules {
	return &Rules{b, m, bench}
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
	Screen   string // a screen value given along with it, in any notation
	Master   library.Master
	Origin   string
	Position int
	Notes    []Note
}

func candidate(r store.Candidate, notes []Note) Candidate {
	return Candidate{r.ID, r.Name, rgbOf(r.Hex), r.Source, r.Remark, r.CMYK, r.Spot, r.Screen, colorOf(r).Master, r.Origin, r.Position,
		notes}
}

// colorOf is what a candidate would be in the library.
func colorOf(r store.Candidate) library.Color {
	c := library.Color{Name: r.Name, RGB: rgbOf(r.Hex)}
	if r.Master != "" {
		c.Master, _ = library.ReadMaster(r.Master) // the database holds valid ones only
	}
	return c
}

// rgbOf reads a stored value; the database holds valid ones only.
func rgbOf(hex string) color.RGB8 {
	c, _ := color.FromHex(hex)
	return c
}

// Note is a remark on a candidate.
type Note struct {
	Kind   string // unnamed, name-taken, same-value, near-value, twice-on-tray, near-on-tray, disagrees or remark
	Text   string
	Look   string // hex of a value that was given and does not agree with what decides
	Blocks bool   // it cannot be admitted like this
	Color  *library.Color
	Change *Change // what the candidate's values would mean for Color, which goes by its name
	Other  int64   // the other candidate, for near-on-tray
}

// Change is what new values for a color of the library would mean.
type Change struct {
	Version int     // of the color
	DeltaE  float64 // from what it is
	Held    send.Held
	Behind  int      // recipients who hold another value
	Stays   []string // approved builds and inks that nothing came for, in words; they stay, and are flagged
}

// Line is a line of pasted text with what is to be known of it.
type Line struct {
	color.Line
	Spot    string    // code of an ink that stands on the line
	spot    string    // as it is written there
	stock   ink.Stock // that it is on
	Decides library.Master
	Notes   []string
}

// row is the line as a candidate.
func (l Line) row() store.Candidate {
	r := store.Candidate{Name: l.Name, Hex: l.RGB.Hex(), Master: l.Decides.String(), Source: keep.Short(l.Text, 1000), Remark: l.Note,
		Spot: l.Spot, Screen: l.screen(), Origin: "paste"}
	if l.CMYK != nil && l.coated() {
		r.CMYK = l.CMYK.String()
	}
	return r
}

// coated says whether the build of a line is one for coated paper, which is meant where it does not say otherwise.
func (l Line) coated() bool { return l.Paper == "" || l.Paper == press.Coated().Name }

// screen is the screen value that stands on the line, exactly; empty if none does.
func (l Line) screen() string {
	if l.Value == "" {
		return ""
	}
	return cmp.Or(l.Exact, l.RGB.Hex())
}

// nearDE is the ΔE00 under which two colors are pointed out as one.
const nearDE = 1

// Read says what would be understood of a text; nothing is kept. Any role may try it.
func (g *Rules) Read(ctx context.Context, a keep.Actor, text string) ([]Line, error) {
	lines, err := g.readText(ctx, a, text)
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
		for _, n := range c.notes(l.row()) {
			if n.Kind != "unnamed" {
				out[i].Notes = append(out[i].Notes, n.Text)
			}
		}
		of := library.Color{Master: l.Decides, RGB: l.RGB}
		if l.Decides.Kind == library.OfBuild || l.Decides.Kind == library.OfInk {
			out[i].Notes = append(out[i].Notes, of.Decides()+" decides it")
			if screen := l.screen(); screen != "" {
				out[i].Notes = append(out[i].Notes, screen+" comes with it")
			}
		}
		if l.CMYK != nil && l.coated() && l.Decides.Kind != library.OfBuild {
			out[i].Notes = append(out[i].Notes, fmt.Sprintf("CMYK %s comes with it", *l.CMYK))
		}
		if l.Spot != "" && l.Decides.Kind != library.OfInk {
			out[i].Notes = append(out[i].Notes, fmt.Sprintf("spot ink %s comes with it", l.Spot))
		}
	}
	return out, nil
}

func (g *Rules) readText(ctx context.Context, a keep.Actor, text string) ([]Line, error) {
	if len(text) > limits.PasteBytes {
		return nil, &keep.Error{Kind: keep.TooLarge, Field: "text", Message: fmt.Sprintf("The text has %s; at most %s are read at once.",
			limits.Size(int64(len(text))), limits.Size(limits.PasteBytes))}
	}
	lines := color.ReadList(text)
	if len(lines) == 0 {
		return nil, keep.Wrong("text", "the list is empty; type or paste a color, or one color a line")
	}
	if len(lines) > limits.PasteLines {
		return nil, &keep.Error{Kind: keep.TooLarge, Field: "text",
			Message: fmt.Sprintf("The list has %d lines; at most %d are read at once.", len(lines), limits.PasteLines)}
	}
	db := g.DB.With(ctx)
	book, err := g.Media.Book(db, a.House.ID)
	if err != nil {
		return nil, err
	}
	values := g.Media.Values(db, a.House.ID)
	out := make([]Line, len(lines))
	for i, l := range lines {
		out[i].Line = l
		if errors.Is(l.Err, color.ErrInkOnly) { // a printer's list
			out[i].Err = nil
		}
		if errors.Is(l.Err, color.ErrWords) {
			continue
		}
		m := book.Mark(out[i].Line)
		out[i].Line, out[i].Spot, out[i].spot, out[i].stock = m.Line, m.Ink.Code, m.Written, m.Stock
		out[i].decide(values, a.House.Decides)
	}
	return out, nil
}

// decide says which of the values of a line decides: the kind that the house prefers, else the one that is written first.
func (l *Line) decide(v media.Values, prefers string) {
	if l.Err != nil {
		return
	}
	kind, at := "", len(l.Text)+1
	for _, k := range []struct{ kind, text string }{{"screen", l.Value}, {"build", l.Build}, {"ink", l.spot}} {
		if k.text == "" {
			continue
		}
		place := strings.Index(l.Text, k.text)
		if k.kind == prefers {
			place = -1
		}
		if place < at {
			kind, at = k.kind, place
		}
	}
	if l.Spot != "" && l.stock != ink.Coated { // what is given along is on coated stock
		code := l.Spot
		l.Spot = ""
		if kind == "ink" {
			of, err := v.Ink("text", code, string(l.stock))
			if l.Err = err; err != nil {
				return
			}
			l.Decides = of.Master
			if l.Value == "" {
				l.RGB = of.RGB
			}
			return
		}
		l.Note = fmt.Sprintf("ink %s on %s stock is not taken along; approve it at the color", code, l.stock)
	}
	row := l.row()
	if kind == "build" && !l.coated() {
		of, err := v.Build("text", *l.CMYK, l.Paper)
		if l.Err = err; err != nil {
			return
		}
		l.Decides = of.Master
		if l.Value == "" {
			l.RGB = of.RGB
		}
		return
	}
	if !l.coated() {
		l.Note = fmt.Sprintf("CMYK %s for %s paper is not taken along; approve it at the color", *l.CMYK, l.Paper)
	}
	if err := decide(v, &row, kind); err != nil {
		l.Err = err
		return
	}
	l.Decides, _ = library.ReadMaster(row.Master)
	l.RGB, l.Note = rgbOf(row.Hex), cmp.Or(l.Note, row.Remark)
}

// decide makes one of the values that a candidate was given the one that decides: screen, build or ink, the latter two on coated paper. The
// hex is the screen value if one was given, else what follows.
func decide(v media.Values, r *store.Candidate, kind string) error {
	of, err := given(v, *r, kind)
	if err != nil {
		return err
	}
	r.Master, r.Hex, r.Remark = of.String(), of.RGB.Hex(), of.Note
	if kind != "screen" && r.Screen != "" {
		if of, err = given(v, *r, "screen"); err != nil {
			return err
		}
		r.Hex = of.RGB.Hex()
	}
	return nil
}

// given is a value that a candidate was given, as what could decide it.
func given(v media.Values, r store.Candidate, kind string) (keep.Given, error) {
	switch {
	case kind == "screen" && r.Screen != "":
		return keep.Master("decides", r.Screen)
	case kind == "build" && r.CMYK != "":
		b, err := color.ParseCMYK(r.CMYK)
		if err != nil {
			return keep.Given{}, keep.Wrong("decides", "%v", err)
		}
		return v.Build("decides", b, "")
	case kind == "ink" && r.Spot != "":
		return v.Ink("decides", r.Spot, "")
	}
	return keep.Given{}, keep.Wrong("decides", "%s has no value of the kind %q that could decide", cmp.Or(r.Name, r.Hex), kind)
}

// Pasted is what became of a text.
type Pasted struct {
	Added    int
	Problems []Line // that were not understood, with their reasons
	Left     []Line // words that hold no value: greetings, headings
}

// AddToTray puts every understood line on the actor's tray, and says what became of the others; a text without a single color is an error.
func (g *Rules) AddToTray(ctx context.Context, a keep.Actor, text string) (out Pasted, err error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return out, err
	}
	lines, err := g.readText(ctx, a, text)
	if err != nil {
		return out, err
	}
	now := g.Now()
	var rows []store.Candidate
	for _, l := range lines {
		if l.Err == nil && len([]rune(l.Name)) > limits.NameRunes {
			l.Err = fmt.Errorf("the name has over %d characters", limits.NameRunes)
		}
		if errors.Is(l.Err, color.ErrWords) {
			out.Left = append(out.Left, l)
			continue
		}
		if l.Err != nil {
			out.Problems = append(out.Problems, l)
			continue
		}
		row := l.row()
		row.UserID, row.HouseID, row.CreatedAt = a.Account, a.House.ID, now
		rows = append(rows, row)
	}
	if len(rows) == 0 {
		wrong := append(out.Problems, out.Left...)
		if reason := wrong[0].Err.Error(); len(wrong) > 1 {
			err = keep.Wrong("text", "none of the %d lines holds a color; line %d: %s", len(wrong), wrong[0].Number, reason)
		} else {
			err = keep.Wrong("text", "%s", reason)
		}
		return out, err
	}
	out.Added = len(rows)
	return out, g.put(ctx, a, rows)
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
	Name, Value string          // Value decides: a screen value in any notation, a build, an ink
	CMYK, Spot  string          // given along with it, or empty
	Screen      string          // a screen value given along with a build or an ink, or empty
	Lab         string          // the reading that it stands for, as "L a b", or empty
	Spectrum    *color.Spectrum // what the reading was of, or nil
	Source      string          // where it comes from, in words
	Origin      string
	Position    int    // 0 for the end
	Decides     string // which of them decides: screen, build or ink; empty for what the house prefers, else Value
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
	for _, v := range c.colors {
		taken[store.NameKey(v.Name)] = true
	}
	for _, t := range tray {
		taken[store.NameKey(t.Name)] = true
	}
	values := g.Media.Values(g.DB.With(ctx), a.House.ID)
	now := g.Now()
	rows := make([]store.Candidate, len(list))
	for i, n := range list {
		if rows[i], err = n.row(values, a.House.Decides, func(name string) bool { return taken[store.NameKey(name)] }); err != nil {
			return nil, err
		}
		rows[i].UserID, rows[i].HouseID, rows[i].CreatedAt = a.Account, a.House.ID, now
		taken[store.NameKey(rows[i].Name)] = true
	}
	return rows, nil
}

// row checks a candidate.
func (n NewCandidate) row(values media.Values, prefers string, taken func(name string) bool) (row store.Candidate, err error) {
	g, err := values.Read("colors", n.Value)
	if err != nil {
		return row, err
	}
	row = store.Candidate{Hex: g.RGB.Hex(), Master: g.String(), Source: keep.Short(n.Source, 1000), Remark: g.Note, Origin: n.Origin,
		Position: n.Position}
	p, printed := g.Printed()
	if printed {
		err = n.beside(values, g, p, &row)
	} else if row.Screen = g.Color().Decides(); n.Screen != "" {
		err = keep.Wrong("colors", "%s is a screen value, and %s another one beside it; one of them is the value", n.Value, n.Screen)
	}
	if err != nil {
		return row, err
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
		row.Name = color.Apart(rgbOf(row.Hex).Describe(), taken)
		if row.Remark == "" {
			row.Remark = described
		}
	}
	if err := n.given(values, &row); err != nil {
		return row, err
	}
	if n.Lab != "" || n.Spectrum != nil {
		return row, n.read(&row)
	}
	prefers = cmp.Or(n.Decides, prefers)
	if n.Decides == "" && (printed || prefers == "build" && row.CMYK == "" || prefers == "ink" && row.Spot == "") {
		prefers = ""
	}
	if prefers != "" {
		remark := row.Remark
		if err := decide(values, &row, prefers); err != nil {
			return row, keep.Wrong("colors", "%v", err)
		}
		row.Remark = cmp.Or(remark, row.Remark)
	}
	return row, nil
}

// beside takes the screen value that goes with a build or an ink that decides, and has that stand among the builds or inks that were given
// too; what is given as another one is an error.
func (n *NewCandidate) beside(values media.Values, g keep.Given, p library.Printed, row *store.Candidate) error {
	if n.Screen != "" {
		screen, err := keep.Master("colors", n.Screen)
		if err != nil {
			return err
		}
		row.Screen, row.Hex = screen.Color().Decides(), screen.RGB.Hex()
	}
	if p.Press == press.Coated().Name {
		if other, err := color.ParseCMYK(n.CMYK); n.CMYK != "" && (err != nil || other != p.Build) {
			return keep.Wrong("colors", "%s is a build, and %s another one beside it; one of them is the value, or the build", n.Value, n.CMYK)
		}
		n.CMYK = p.Build.String()
	}
	if p.Stock == string(ink.Coated) {
		if other, err := values.Ink("colors", n.Spot, ""); n.Spot != "" && (err != nil || other.Master != g.Master) {
			return keep.Wrong("colors", "%s is an ink, and %s another one beside it; one of them is the value, or the ink", n.Value, n.Spot)
		}
		n.Spot = p.Code
	}
	return nil
}

// given takes the build and the ink that came along.
func (n *NewCandidate) given(values media.Values, row *store.Candidate) error {
	if n.CMYK != "" {
		b, err := color.ParseCMYK(n.CMYK)
		if err != nil {
			return keep.Wrong("colors", "%v", err)
		}
		row.CMYK = b.String()
	}
	if n.Spot != "" {
		found, err := values.Ink("colors", n.Spot, "")
		if err != nil {
			return keep.Wrong("colors", "%v", err)
		}
		p, _ := found.Printed()
		row.Spot = p.Code
	}
	return nil
}

// read has a reading decide, with the spectrum that it was of.
func (n *NewCandidate) read(row *store.Candidate) error {
	if n.Lab == "" {
		return keep.Wrong("spectrum", "a spectrum goes with the reading that it is of, in lab")
	}
	lab, err := library.ReadLab(n.Lab)
	if err != nil {
		return keep.Wrong("lab", "%v", err)
	}
	m, _ := library.Read(lab)
	if n.Spectrum != nil {
		if m, err = keep.Spectrum("spectrum", lab, *n.Spectrum); err != nil {
			return err
		}
	}
	row.Master, row.Screen = m.String(), ""
	return nil
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
	if err := g.held(ctx, a, out); err != nil {
		return nil, err
	}
	index := color.NewIndex(labs)
	for i := range rows { // the first of two that look the same is the one to keep
		for _, n := range index.Nearest(labs[i], 3) {
			if n.At < i && n.DeltaE < nearDE {
				out[i].Notes = append(out[i].Notes, Note{Kind: "near-on-tray", Other: rows[n.At].ID,
					Text: fmt.Sprintf("%.1f %s from %s on the tray", n.DeltaE, color.Word(n.DeltaE),
						cmp.Or(rows[n.At].Name, rows[n.At].Hex))})
				break
			}
		}
	}
	return out, nil
}

// held says of candidates with new values for colors who holds these.
func (g *Rules) held(ctx context.Context, a keep.Actor, list []Candidate) error {
	var ids []int64
	each := func(f func(c Candidate, n *Note)) {
		for _, c := range list {
			for i := range c.Notes {
				if c.Notes[i].Change != nil {
					f(c, &c.Notes[i])
				}
			}
		}
	}
	each(func(_ Candidate, n *Note) { ids = append(ids, n.Color.ID) })
	held, err := send.Holders(g.DB.With(ctx), a, ids...)
	each(func(c Candidate, n *Note) {
		n.Change.Held = held[n.Color.ID]
		n.Change.Behind = n.Change.Held.Recipients(c.RGB)
	})
	return err
}

// CandidateChange is what is changed of a candidate; nil leaves it as it is.
type CandidateChange struct {
	Name    *string
	Value   *string // what decides from now on
	Decides *string // which of the values that it was given does: screen, build or ink
}

// ChangeCandidate renames a candidate, gives it another value, or lets another one of those that it was given decide.
func (g *Rules) ChangeCandidate(ctx context.Context, a keep.Actor, id int64, in CandidateChange) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	return g.DB.In(ctx, func(tx *store.DB) error {
		c, err := tx.Candidate(a.Account, a.House.ID, id)
		if err != nil {
			return keep.Missing(err, "candidate on your tray")
		}
		if in.Name != nil {
			if err := named(&c, "name", *in.Name); err != nil {
				return err
			}
		}
		values := g.Media.Values(tx, a.House.ID)
		if in.Value != nil {
			g, err := values.Read("value", *in.Value)
			if err != nil {
				return err
			}
			c.Hex, c.Master, c.Remark = g.RGB.Hex(), g.String(), g.Note
			switch p, printed := g.Printed(); {
			case !printed:
				c.Screen = g.Color().Decides()
			case p.Press == press.Coated().Name:
				c.CMYK, c.Screen = p.Build.String(), ""
			case p.Stock == string(ink.Coated):
				c.Spot, c.Screen = p.Code, ""
			}
		}
		if in.Decides != nil {
			if err := decide(values, &c, *in.Decides); err != nil {
				return err
			}
		}
		return tx.ChangeCandidate(c)
	})
}

// named gives a candidate a name, or none.
func named(c *store.Candidate, field, name string) (err error) {
	if c.Name, err = keep.Name(field, name); err != nil && strings.TrimSpace(name) != "" {
		return err
	}
	if c.Remark == described {
		c.Remark = ""
	}
	return nil
}

// NameCandidates gives many candidates their names by their numbers, all or none.
func (g *Rules) NameCandidates(ctx context.Context, a keep.Actor, names map[int64]string) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	return g.DB.In(ctx, func(tx *store.DB) error {
		list, err := tx.TrayToAdmit(a.Account, a.House.ID)
		if err != nil {
			return err
		}
		there := 0
		for i, c := range list {
			name, ok := names[c.ID]
			if !ok {
				continue
			}
			there++
			if err := named(&c, "names", name); err != nil {
				return keep.Wrong("names", "%v It is for candidate %d of the tray, %s.", err, i+1, c.Hex)
			}
			if err := tx.ChangeCandidate(c); err != nil {
				return err
			}
		}
		if there < len(names) {
			return keep.Missing(store.ErrNotFound, "candidate on your tray, one of these")
		}
		return nil
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
	called map[string][]int // those of a name, else those with it as an alias
	values map[library.Value]int
	tray   map[string]int // how often a name is on the tray
	known  media.Values
}

func (g *Rules) comparison(ctx context.Context, a keep.Actor) (*comparison, error) {
	list, err := ledger.Visible(g.DB.With(ctx), a) // a note would tell of a draft
	if err != nil {
		return nil, err
	}
	c := &comparison{colors: list, called: map[string][]int{}, values: map[library.Value]int{},
		known: g.Media.Values(g.DB.With(ctx), a.House.ID)}
	for i, v := range list {
		c.labs = append(c.labs, v.Lab())
		c.called[store.NameKey(v.Name)] = []int{i}
		if _, ok := c.values[v.Value()]; !ok {
			c.values[v.Value()] = i
		}
	}
	for i, v := range list {
		for _, alias := range v.Aliases {
			key := store.NameKey(alias)
			if at := c.called[key]; len(at) == 0 || store.NameKey(list[at[0]].Name) != key {
				c.called[key] = append(at, i)
			}
		}
	}
	return c, nil
}

// named says whether a color has a name.
func (c *comparison) named(key string) bool {
	at := c.called[key]
	return len(at) > 0 && store.NameKey(c.colors[at[0]].Name) == key
}

// taken says what it means that the library calls a color as a candidate is called: it is that color, or that color is to change. Nil if
// nothing is called so.
func (c *comparison) taken(key string, r store.Candidate) *Note {
	at := c.called[key]
	if len(at) == 0 {
		return nil
	}
	other := c.colors[at[0]]
	n := &Note{Kind: "name-taken", Blocks: c.named(key), Color: &other}
	is := other.Name
	if !n.Blocks {
		is = fmt.Sprintf("%s, which is also called %s,", other.Name, r.Name)
	}
	of := colorOf(r)
	to := admitted(keep.Actor{}, r, library.Color{})
	switch fresh := brings(other, to); {
	case len(at) > 1:
		var names []string
		for _, i := range at {
			names = append(names, c.colors[i].Name)
		}
		n.Color, n.Text = nil, fmt.Sprintf("%s are also called %s", keep.Names(names), r.Name)
	case says(other, of) && (len(fresh) == 0 || other.Retired()):
		n.Text = is + " is in the library already, with this value"
	case says(other, of):
		n.Text = fmt.Sprintf("%s is in the library already, with this value; new is %s", is, strings.Join(fresh, ", "))
		n.Change = &Change{Version: other.Version}
	case other.Retired():
		n.Text = fmt.Sprintf("the name is taken: %s is %s, and retired", is, other.Shows())
	default:
		de := color.DeltaE00(other.Lab(), of.Lab())
		n.Text = fmt.Sprintf("%s is %s in the library, %.1f %s from this", is, other.Shows(), de, color.Word(de))
		n.Change = &Change{Version: other.Version, DeltaE: de, Stays: stays(other, to)}
	}
	return n
}

// brings are the builds and inks that come with a value and that a color does not have, with those that it has instead.
func brings(c, to library.Color) (out []string) {
	instead := func(had string, has bool) string {
		if !has {
			return ""
		}
		return " instead of " + had
	}
	for _, b := range to.Builds {
		if old, has := c.Build(b.Press); b.Origin != library.Deciding && (!has || old.Value != b.Value && old.Origin != library.Deciding) {
			out = append(out, fmt.Sprintf("CMYK %s for %s%s", b.Value, b.Press, instead(old.Value.String(), has)))
		}
	}
	for _, s := range to.Spots {
		if old, has := c.Spot(s.Stock); s.Origin != library.Deciding && (!has || old.Code != s.Code && old.Origin != library.Deciding) {
			out = append(out, fmt.Sprintf("spot ink %s on %s stock%s", s.Code, s.Stock, instead(old.Code, has)))
		}
	}
	return out
}

// stays are the approved builds and inks of a color for which another one has none.
func stays(c, to library.Color) (out []string) {
	for _, b := range c.Builds {
		if _, comes := to.Build(b.Press); !comes && b.Origin != library.Given {
			out = append(out, "CMYK "+b.Value.String()+" for "+b.Press)
		}
	}
	for _, s := range c.Spots {
		if _, comes := to.Spot(s.Stock); !comes && s.Origin != library.Given {
			out = append(out, "spot ink "+s.Code+" on "+s.Stock+" stock")
		}
	}
	return out
}

// says whether a value says what a color is: its master, or the hex that screens show of it.
func says(c, of library.Color) bool {
	shows := of.Master.Kind == library.OfHex && c.Master.Kind != library.OfScreen && of.RGB == c.RGB
	return shows || c.Value() == of.Value()
}

func (c *comparison) notes(r store.Candidate) []Note {
	var out []Note
	key := store.NameKey(r.Name)
	if r.Name == "" {
		out = append(out, Note{Kind: "unnamed", Text: "needs a name", Blocks: true})
	} else if n := c.taken(key, r); n != nil {
		out = append(out, *n)
	} else if c.tray[key] > 1 {
		out = append(out, Note{Kind: "twice-on-tray", Text: "the name is on the tray twice", Blocks: true})
	}
	if i, ok := c.values[colorOf(r).Value()]; ok {
		if !slices.Contains(c.called[key], i) {
			kind := "same-value"
			if c.colors[i].Retired() { // nobody means that one by itself
				kind = "near-value"
			}
			out = append(out, Note{Kind: kind, Text: "same value as " + called(c.colors[i]), Color: &c.colors[i]})
		}
	} else if i, de := c.nearest(colorOf(r).Lab()); i >= 0 && de < nearDE {
		out = append(out, Note{Kind: "near-value", Text: fmt.Sprintf("%.1f %s from %s", de, color.Word(de), called(c.colors[i])),
			Color: &c.colors[i]})
	}
	if r.Remark != "" {
		out = append(out, Note{Kind: "remark", Text: r.Remark})
	}
	return append(out, c.disagreements(r)...)
}

// disagree is the ΔE00 over which a value that was given does not say the same as what decides.
const disagree = 2

// disagreements are the values that a candidate was given which are another color than what decides it.
func (c *comparison) disagreements(r store.Candidate) (out []Note) {
	of := colorOf(r)
	for _, kind := range []string{"screen", "build", "ink"} {
		g, err := given(c.known, r, kind)
		if err != nil || g.Master == of.Master {
			continue
		}
		is := g.Color()
		if de := color.DeltaE00(is.Lab(), of.Lab()); de > disagree {
			out = append(out, Note{Kind: "disagrees", Look: g.RGB.Hex(), Text: fmt.Sprintf("%s is %.1f %s from what decides", is.Decides(),
				de, color.Word(de))})
		}
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
