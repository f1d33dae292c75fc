package gathering

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"huekeep/core/color"
	"huekeep/core/gather"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/press"
	"huekeep/core/starter"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/media"
	"huekeep/outside"
	"huekeep/reading"
	"huekeep/store"
)

// FoundColor is a color of a file with what is to be known of it.
type FoundColor struct {
	gather.Candidate
	Notes   []string
	Nearest *library.Color // of the library, retired ones left out; nil for an empty one
	DeltaE  float64        // from it
}

// FoundFile is what a file holds, before anything is taken of it.
type FoundFile struct {
	gather.Found
	Colors []FoundColor
}

// ReadFile says what colors a file holds; nothing is kept. Any role may try it.
func (g *Rules) ReadFile(ctx context.Context, a keep.Actor, fileName string, data []byte) (FoundFile, error) {
	found, err := g.Apart.Gather(ctx, a.House.ID, fileName, data)
	var said reading.Sentence
	if errors.As(err, &said) {
		err = &keep.Error{Kind: keep.Invalid, Field: "file", Message: err.Error() + "."} // begins with the file's name as it is
	}
	if err != nil {
		return FoundFile{}, err
	}
	c, err := g.comparison(ctx, a)
	if err != nil {
		return FoundFile{}, err
	}
	if err := g.asPasted(ctx, a, &found); err != nil {
		return FoundFile{}, err
	}
	out := FoundFile{Found: found}
	near := c.index()
	for _, f := range found.Colors {
		row := FoundColor{Candidate: f}
		if err := g.written(ctx, a, &row.Candidate); err != nil {
			return FoundFile{}, err
		}
		row.Nearest, row.DeltaE = near(f.Lab())
		if what := c.brought(&row.Color); what != "" {
			row.Notes = append(row.Notes, what)
		}
		for _, b := range f.Builds { // a candidate has what is for coated paper
			if b.Press != "coated" && b.Origin != library.Deciding {
				row.Notes = append(row.Notes, fmt.Sprintf("CMYK %s for %s is not taken along", b.Value, b.Press))
			}
		}
		for _, s := range f.Spots {
			if s.Stock != string(ink.Coated) && s.Origin != library.Deciding {
				row.Notes = append(row.Notes, fmt.Sprintf("spot ink %s on %s stock is not taken along", s.Code, s.Stock))
			}
		}
		for _, n := range c.notes(store.Candidate{Name: f.Name, Hex: f.RGB.Hex(), Master: row.Master.String()}) {
			if n.Kind != "unnamed" {
				row.Notes = append(row.Notes, n.Text)
			}
		}
		if len(f.Also) > 0 {
			row.Notes = append(row.Notes, "also called "+keep.Names(f.Also))
		}
		out.Colors = append(out.Colors, row)
	}
	return out, nil
}

// asPasted reads a text in a file as it is read when it is pasted: with the inks of the house's book, its presses and what it prefers.
func (g *Rules) asPasted(ctx context.Context, a keep.Actor, found *gather.Found) error {
	if found.Text == "" {
		return nil
	}
	lines, err := g.readText(ctx, a, found.Text)
	var ours *keep.Error
	if errors.As(err, &ours) { // it is too long for that
		found.Text = ""
		return nil
	}
	if err != nil {
		return err
	}
	found.Colors, found.Left, found.Notes = nil, nil, nil
	for _, l := range lines {
		if l.Err != nil {
			found.Left = append(found.Left, swatchfile.LeftOf(l.Line))
			continue
		}
		row := l.row()
		if row.Remark != "" {
			found.Notes = append(found.Notes, fmt.Sprintf("Line %d: %s.", l.Number, row.Remark))
		}
		c := gather.Candidate{Color: admitted(keep.Actor{}, row, library.Color{Name: row.Name}), Alpha: 1,
			Generic: gather.Generic(row.Name)}
		found.Colors = append(found.Colors, c)
	}
	found.Notes = append(found.Notes, swatchfile.LeftOut(found.Left)...)
	return nil
}

// written compares what a document says of a color with the inks of the house. An ink that its book does not have stays out.
func (g *Rules) written(ctx context.Context, a keep.Actor, c *gather.Candidate) error {
	if c.Written == nil {
		return nil
	}
	db := g.DB.With(ctx)
	book, err := g.Media.Book(db, a.House.ID)
	if err != nil {
		return err
	}
	coated, err := g.Media.Condition(db, a.House.ID, press.Coated().Name)
	if err != nil {
		return err
	}
	c.Written.Disagree = append(c.Written.Disagree, c.Printed(coated, book)...)
	c.Spots = slices.DeleteFunc(c.Spots, func(s library.Spot) bool { _, known := book.Find(s.Code); return !known })
	return nil
}

// index finds the color of the library that is nearest to one.
func (c *comparison) index() func(color.Lab) (*library.Color, float64) {
	var current []library.Color
	var labs []color.Lab
	for i, l := range c.colors {
		if !l.Retired() {
			current, labs = append(current, l), append(labs, c.labs[i])
		}
	}
	index := color.NewIndex(labs)
	return func(lab color.Lab) (*library.Color, float64) {
		for _, n := range index.Nearest(lab, 1) {
			return &current[n.At], n.DeltaE
		}
		return nil, 0
	}
}

// brought makes of a color that a build or an ink of another house decides one that can decide here: the same build or ink, or the color
// that it is there, with a sentence.
func (c *comparison) brought(f *library.Color) string {
	p, ok := f.Master.Printed()
	if !ok {
		return ""
	}
	g, err := c.known.Read("file", p.Typed())
	if err == nil && color.DeltaE00(g.Color().Lab(), p.Lab) < nearDE {
		return ""
	}
	why := "which is not here"
	if err == nil {
		why = "which looks otherwise here"
	}
	lab := p.Lab
	t, err := color.ParseCSS(fmt.Sprintf("lab(%.4f %.4f %.4f)", lab.L, lab.A, lab.B))
	if err != nil {
		return ""
	}
	f.Master, _ = library.MasterOf(t)
	return fmt.Sprintf("decided by %s there, %s; it comes as the color that it is there", p, why)
}

// Starter is a palette to begin from, with what was done with it.
type Starter struct {
	starter.Starter
	Liked   bool // by the actor
	Uses    int  // by everybody in the house
	Mine    bool
	Private bool
	Closest int // place of the color nearest to the one asked for; -1 if none was
	DeltaE  float64
	Missed  []string // words of those that were asked for that it does not have; none where another has all of them
}

// StarterQuery narrows starters down and orders them.
type StarterQuery struct {
	Words string
	Near  string // a color in any notation
	Key   string // this one alone
	Order string // newest, used or liked; by closeness if Near is set and none is given
}

// mostNear is how many starters close to a color an answer lists.
const mostNear = 60

// starterKey tells a starter of a house from those that ship.
func starterKey(s store.Starter) string { return "h" + strconv.FormatInt(s.ID, 10) }

// Starters lists starters, those that ship and those of the house.
func (g *Rules) Starters(ctx context.Context, a keep.Actor, q StarterQuery) ([]Starter, error) {
	list := slices.Clone(starter.Shipped())
	own, err := g.DB.With(ctx).Starters(a.Account, a.House.ID)
	if err != nil {
		return nil, err
	}
	rows := map[string]store.Starter{}
	for _, o := range own {
		s := starter.Starter{Key: starterKey(o), Name: o.Name, Keywords: strings.Fields(o.Keywords)}
		for _, hex := range strings.Fields(o.Colors) {
			s.Colors = append(s.Colors, rgbOf(hex))
		}
		rows[s.Key] = o
		list = append(list, s)
	}
	marks, err := g.DB.With(ctx).StarterMarks(a.House.ID)
	if err != nil {
		return nil, err
	}
	liked, uses := map[string]bool{}, map[string]int{}
	for _, m := range marks {
		uses[m.Starter] += m.Uses
		if m.UserID == a.Account && m.Liked {
			liked[m.Starter] = true
		}
	}
	missed := map[string][]string{}
	byWords := strings.TrimSpace(q.Words) != ""
	if byWords {
		found := starter.Find(list, q.Words)
		list = list[:0]
		for _, m := range slices.Backward(found) { // as all lists here, what comes first is last
			list, missed[m.Key] = append(list, m.Starter), m.Missed
		}
	}
	if q.Key != "" {
		list = slices.DeleteFunc(list, func(s starter.Starter) bool { return s.Key != q.Key })
	}
	if q.Order == "liked" {
		list = slices.DeleteFunc(list, func(s starter.Starter) bool { return !liked[s.Key] })
	}
	var out []Starter
	take := func(s starter.Starter, closest int, de float64) {
		row, mine := rows[s.Key]
		out = append(out, Starter{s, liked[s.Key], uses[s.Key], mine && row.UserID == a.Account, row.Private, closest, de, missed[s.Key]})
	}
	if strings.TrimSpace(q.Near) != "" {
		near, err := g.near(ctx, a, q.Near)
		if err != nil {
			return nil, err
		}
		for _, n := range starter.NewIndex(list).Close(near, mostNear) {
			take(n.Starter, n.Closest, n.DeltaE)
		}
		return out, nil
	}
	for _, s := range slices.Backward(list) { // newest first
		take(s, -1, 0)
	}
	if q.Order == "used" {
		slices.SortStableFunc(out, func(x, y Starter) int { return y.Uses - x.Uses })
	}
	return out, nil
}

// near is a color in any notation, or one of the library by its name.
func (g *Rules) near(ctx context.Context, a keep.Actor, text string) (color.RGB8, error) {
	c, err := g.comparison(ctx, a)
	if err != nil {
		return color.RGB8{}, err
	}
	if at := c.called[store.NameKey(text)]; len(at) > 0 {
		return c.colors[at[0]].RGB, nil
	}
	v, err := c.known.Read("near", text)
	return v.RGB, err
}

// PackStarter is a starter as a file.
func (g *Rules) PackStarter(ctx context.Context, a keep.Actor, key, packing string) (name string, p swatchfile.Packing, data []byte,
	err error) {
	p, err = swatchfile.FindPacking(packing)
	if err != nil {
		return "", p, nil, &keep.Error{Kind: keep.NotFound, Message: keep.Sentence(err.Error())}
	}
	list, err := g.Starters(ctx, a, StarterQuery{Key: key})
	if err != nil {
		return "", p, nil, err
	}
	for _, s := range list {
		if s.Key != key {
			continue
		}
		e := library.Edition{House: a.House.Name, Set: s.Name}
		for i, c := range s.Colors {
			e.Colors = append(e.Colors, library.Color{Name: fmt.Sprintf("%s %d", s.Name, i+1), RGB: c})
		}
		data, err := p.Pack(e)
		return p.FileName(e), p, data, err
	}
	return "", p, nil, keep.None("starter")
}

// AddStarter keeps a palette of a member's own.
func (g *Rules) AddStarter(ctx context.Context, a keep.Actor, starterName, keywords string, values []string, private bool) (key string,
	err error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return "", err
	}
	return g.AddStarterIn(g.DB.With(ctx), a, starterName, keywords, values, private)
}

// AddStarterIn is AddStarter in a transaction.
func (g *Rules) AddStarterIn(tx *store.DB, a keep.Actor, starterName, keywords string, values []string, private bool) (key string,
	err error) {
	n, err := keep.Name("name", starterName)
	if err != nil {
		return "", err
	}
	if len(values) < 2 || len(values) > limits.StarterColors {
		return "", keep.Wrong("colors", "a starter has 2 to %d colors; this one has %d", limits.StarterColors, len(values))
	}
	var hexes []string
	for _, v := range values {
		of, err := keep.Master("colors", v)
		if err != nil {
			return "", err
		}
		hexes = append(hexes, of.RGB.Hex())
	}
	words := strings.Join(strings.FieldsFunc(strings.ToLower(keywords), func(r rune) bool { return r == ',' || r == ' ' || r == ';' }), " ")
	if len(words) > limits.KeywordBytes {
		return "", keep.Wrong("keywords", "the keywords have over %d characters", limits.KeywordBytes)
	}
	row := store.Starter{HouseID: a.House.ID, UserID: a.Account, Name: n, Keywords: words, Colors: strings.Join(hexes, " "),
		Private: private, CreatedAt: g.Now()}
	err = tx.Add(&row)
	return starterKey(row), err
}

// DeleteStarter takes a starter of the actor's own away.
func (g *Rules) DeleteStarter(ctx context.Context, a keep.Actor, key string) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	id, err := strconv.ParseInt(strings.TrimPrefix(key, "h"), 10, 64)
	if err != nil || !strings.HasPrefix(key, "h") {
		return keep.Clash("", "starters that come with the program stay")
	}
	return keep.Missing(g.DB.With(ctx).DeleteStarter(a.Account, a.House.ID, id), "starter of yours")
}

// MarkStarter likes a starter, ends that, or counts that it was taken.
func (g *Rules) MarkStarter(ctx context.Context, a keep.Actor, key string, liked *bool, used bool) error {
	known := slices.ContainsFunc(starter.Shipped(), func(s starter.Starter) bool { return s.Key == key })
	if !known {
		own, err := g.DB.With(ctx).Starters(a.Account, a.House.ID)
		if err != nil {
			return err
		}
		known = slices.ContainsFunc(own, func(s store.Starter) bool { return starterKey(s) == key })
	}
	if !known {
		return keep.Missing(store.ErrNotFound, "starter")
	}
	uses := 0
	if used {
		uses = 1
	}
	return g.DB.With(ctx).MarkStarter(a.Account, a.House.ID, key, liked, uses)
}

// Patch is what the reader is placed on: a color of the library, on the screen or as a press prints it, running as it
// should, or with too little or too much ink.
type Patch struct {
	Color  int64
	Medium string // screen, coated, uncoated or newsprint
	Run    string // true, light or heavy; for a print
}

// Reading is what the instrument gave, beside its target.
type Reading struct {
	Device    string
	Lab       color.Lab
	Look      color.RGB8
	Target    library.Color
	DeltaE    float64 // from the target's master value
	Tolerance float64
}

// color reads a library color that the actor may see.
func (g *Rules) color(ctx context.Context, a keep.Actor, id int64) (library.Color, error) {
	c, err := g.DB.With(ctx).Color(a.House.ID, id)
	if err == nil && !a.Sees(c) {
		err = store.ErrNotFound
	}
	return c, keep.Missing(err, "color")
}

// Take places the instrument on a patch and reads once.
func (g *Rules) Take(ctx context.Context, a keep.Actor, p Patch) (Reading, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return Reading{}, err
	}
	c, err := g.color(ctx, a, p.Color)
	if err != nil {
		return Reading{}, err
	}
	target := c.Lab()
	sample := outside.Sample{Screen: target, Run: outside.Run(p.Run)}
	if p.Medium != "screen" {
		if sample.Press, err = g.Media.Condition(g.DB.With(ctx), a.House.ID, p.Medium); err != nil {
			return Reading{}, err
		}
		if !slices.Contains(outside.Runs, sample.Run) {
			return Reading{}, keep.Wrong("run", "the run %q is none of true, light, heavy", p.Run)
		}
		if b, ok := c.Build(p.Medium); ok {
			sample.Build = b.Value
		} else {
			sample.Build = sample.Press.Build(target).Whole
		}
	}
	lab, err := g.bench.Read(sample)
	if err != nil {
		return Reading{}, keep.Clash("", "%v", err)
	}
	return Reading{g.bench.Name(), lab, media.Look(lab), c, color.DeltaE00(target, lab), a.House.Tolerance}, nil
}

// Mean averages readings; the spread is the largest ΔE00 of one from the mean.
func (g *Rules) Mean(ctx context.Context, a keep.Actor, id int64, readings []color.Lab) (mean Reading, spread float64, err error) {
	if len(readings) == 0 || len(readings) > limits.Readings {
		return mean, 0, keep.Wrong("readings", "between 1 and %d readings are averaged", limits.Readings)
	}
	c, err := g.color(ctx, a, id)
	if err != nil {
		return mean, 0, err
	}
	for _, r := range readings {
		if _, err := library.ReadLab(library.WriteLab(r)); err != nil {
			return mean, 0, keep.Wrong("readings", "%v", err)
		}
	}
	lab, spread := color.MeanLab(readings)
	return Reading{g.bench.Name(), lab, media.Look(lab), c, color.DeltaE00(c.Lab(), lab), a.House.Tolerance}, spread, nil
}
