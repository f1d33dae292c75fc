package keep

import (
	"context"
	"slices"
	"strconv"
	"strings"
	"sync"

	"huekeep/core/color"
	"huekeep/core/gather"
	"huekeep/core/ink"
	"huekeep/core/limits"
	"huekeep/core/starter"
	"huekeep/standin"
	"huekeep/store"
)

// FoundColor is a color of a file with what is to be known of it.
type FoundColor struct {
	gather.Candidate
	Notes []string
}

// FoundFile is what a file holds, before anything is taken of it.
type FoundFile struct {
	gather.Found
	Colors []FoundColor
}

// ReadFile says what colors a file holds; nothing is kept. Any role may try it.
func (k *Keeper) ReadFile(ctx context.Context, a Actor, fileName string, data []byte) (FoundFile, error) {
	found, err := gather.Read(fileName, data)
	if err != nil {
		return FoundFile{}, &Error{Kind: Invalid, Field: "file", Message: err.Error() + "."} // begins with the file's name as it is
	}
	c, err := k.comparison(ctx, a)
	if err != nil {
		return FoundFile{}, err
	}
	out := FoundFile{Found: found}
	for _, f := range found.Colors {
		row := FoundColor{Candidate: f}
		for _, n := range c.notes(store.Candidate{Name: f.Name, Hex: f.RGB.Hex()}) {
			if n.Kind != "unnamed" {
				row.Notes = append(row.Notes, n.Text)
			}
		}
		out.Colors = append(out.Colors, row)
	}
	return out, nil
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
}

// StarterQuery narrows starters down and orders them.
type StarterQuery struct {
	Words string
	Near  string // a color in any notation
	Order string // newest, used or liked; by closeness if Near is set and none is given
}

// mostStarters is how many starters an answer lists.
const mostStarters = 60

// starterKey tells a starter of a house from those that ship.
func starterKey(s store.Starter) string { return "h" + strconv.FormatInt(s.ID, 10) }

// Starters lists starters, those that ship and those of the house.
func (k *Keeper) Starters(ctx context.Context, a Actor, q StarterQuery) ([]Starter, error) {
	list := slices.Clone(starter.Shipped())
	own, err := k.DB.With(ctx).Starters(a.User, a.House.ID)
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
	marks, err := k.DB.With(ctx).StarterMarks(a.House.ID)
	if err != nil {
		return nil, err
	}
	liked, uses := map[string]bool{}, map[string]int{}
	for _, m := range marks {
		uses[m.Starter] += m.Uses
		if m.UserID == a.User && m.Liked {
			liked[m.Starter] = true
		}
	}
	list = starter.Find(list, q.Words)
	if q.Order == "liked" {
		list = slices.DeleteFunc(list, func(s starter.Starter) bool { return !liked[s.Key] })
	}
	var out []Starter
	take := func(s starter.Starter, closest int, de float64) {
		row, mine := rows[s.Key]
		out = append(out, Starter{s, liked[s.Key], uses[s.Key], mine && row.UserID == a.User, row.Private, closest, de})
	}
	if strings.TrimSpace(q.Near) != "" {
		rgb, _, err := masterValue("near", q.Near)
		if err != nil {
			return nil, err
		}
		for _, n := range starter.NewIndex(list).Close(rgb, mostStarters) {
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
	return out[:min(len(out), mostStarters)], nil
}

// AddStarter keeps a palette of a member's own.
func (k *Keeper) AddStarter(ctx context.Context, a Actor, starterName, keywords string, values []string, private bool) error {
	if err := a.may(RoleContributor); err != nil {
		return err
	}
	n, err := name("name", starterName)
	if err != nil {
		return err
	}
	if len(values) < 2 || len(values) > 12 {
		return invalid("colors", "a starter has 2 to 12 colors; this one has %d", len(values))
	}
	var hexes []string
	for _, v := range values {
		rgb, _, err := masterValue("colors", v)
		if err != nil {
			return err
		}
		hexes = append(hexes, rgb.Hex())
	}
	words := strings.Join(strings.FieldsFunc(strings.ToLower(keywords), func(r rune) bool { return r == ',' || r == ' ' || r == ';' }), " ")
	if len(words) > 500 {
		return invalid("keywords", "the keywords have over 500 characters")
	}
	return k.DB.With(ctx).Add(&store.Starter{HouseID: a.House.ID, UserID: a.User, Name: n, Keywords: words, Colors: strings.Join(hexes, " "), Private: private, CreatedAt: k.Now()})
}

// DeleteStarter takes a starter of the actor's own away.
func (k *Keeper) DeleteStarter(ctx context.Context, a Actor, key string) error {
	if err := a.may(RoleContributor); err != nil {
		return err
	}
	id, err := strconv.ParseInt(strings.TrimPrefix(key, "h"), 10, 64)
	if err != nil || !strings.HasPrefix(key, "h") {
		return conflict("", "starters that come with the program stay")
	}
	return missing(k.DB.With(ctx).DeleteStarter(a.User, a.House.ID, id), "starter of yours")
}

// MarkStarter likes a starter, ends that, or counts that it was taken.
func (k *Keeper) MarkStarter(ctx context.Context, a Actor, key string, liked *bool, used bool) error {
	known := slices.ContainsFunc(starter.Shipped(), func(s starter.Starter) bool { return s.Key == key })
	if !known {
		own, err := k.DB.With(ctx).Starters(a.User, a.House.ID)
		if err != nil {
			return err
		}
		known = slices.ContainsFunc(own, func(s store.Starter) bool { return starterKey(s) == key })
	}
	if !known {
		return missing(store.ErrNotFound, "starter")
	}
	uses := 0
	if used {
		uses = 1
	}
	return k.DB.With(ctx).MarkStarter(a.User, a.House.ID, key, liked, uses)
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
	Target    store.Color
	DeltaE    float64 // from the target's master value
	Tolerance float64
}

// bench guards the one simulated instrument.
type bench struct {
	sync.Mutex
	reader *standin.Reader
}

// Take places the instrument on a patch and reads once.
func (k *Keeper) Take(ctx context.Context, a Actor, p Patch) (Reading, error) {
	if err := a.may(RoleContributor); err != nil {
		return Reading{}, err
	}
	c, err := k.DB.With(ctx).Color(a.House.ID, p.Color)
	if err == nil && !a.sees(c) {
		err = store.ErrNotFound
	}
	if err != nil {
		return Reading{}, missing(err, "color")
	}
	target := rgbOf(c.Hex).Lab()
	under := target
	if p.Medium != "screen" {
		condition, err := k.condition(k.DB.With(ctx), a.House.ID, p.Medium)
		if err != nil {
			return Reading{}, err
		}
		drift, ok := map[string]standin.Drift{"true": {C: 1, M: 1, Y: 1, K: 1}, "light": {C: 0.93, M: 0.95, Y: 0.94, K: 0.96, Gain: -2}, "heavy": {C: 1.05, M: 1.06, Y: 1.04, K: 1.05, Gain: 4}}[p.Run]
		if !ok {
			return Reading{}, invalid("run", "the run %q is none of true, light, heavy", p.Run)
		}
		build := condition.Build(target).Whole
		for _, b := range c.Builds {
			if b.Press == p.Medium {
				build = color.CMYK{C: b.C, M: b.M, Y: b.Y, K: b.K}
			}
		}
		under = drift.Printed(condition, build)
	}
	k.bench.Lock()
	defer k.bench.Unlock()
	k.bench.reader.Place(under)
	lab, err := k.bench.reader.Read()
	if err != nil {
		return Reading{}, conflict("", "%v", err)
	}
	return Reading{k.bench.reader.Name(), lab, look(lab), c, color.DeltaE00(target, lab), a.House.Tolerance}, nil
}

// Mean averages readings; the spread is the largest ΔE00 of one from the mean.
func (k *Keeper) Mean(ctx context.Context, a Actor, id int64, readings []color.Lab) (mean Reading, spread float64, err error) {
	if len(readings) == 0 || len(readings) > limits.Readings {
		return mean, 0, invalid("readings", "between 1 and %d readings are averaged", limits.Readings)
	}
	c, err := k.DB.With(ctx).Color(a.House.ID, id)
	if err == nil && !a.sees(c) {
		err = store.ErrNotFound
	}
	if err != nil {
		return mean, 0, missing(err, "color")
	}
	for _, r := range readings {
		if _, err := ReadLab(WriteLab(r)); err != nil {
			return mean, 0, err
		}
	}
	lab, spread := color.MeanLab(readings)
	return Reading{k.bench.reader.Name(), lab, look(lab), c, color.DeltaE00(rgbOf(c.Hex).Lab(), lab), a.House.Tolerance}, spread, nil
}

// FoundInk is an ink of the book with its look, and its distance from a color if one was asked for.
type FoundInk struct {
	ink.Ink
	Look   color.RGB8
	DeltaE float64 // -1 if there is no color to compare with
}

// mostInks is how many inks a search lists.
const mostInks = 12

// FindInks lists inks by part of a number or a name, or the nearest to a typed color. Distances are from near, if it is
// given, or else from the typed color.
func (k *Keeper) FindInks(ctx context.Context, a Actor, query string, stock ink.Stock, near string) ([]FoundInk, error) {
	book, err := k.book(k.DB.With(ctx), a.House.ID)
	if err != nil {
		return nil, err
	}
	if stock == "" {
		stock = shownStock
	}
	var from *color.Lab
	if near != "" {
		rgb, _, err := masterValue("near", near)
		if err != nil {
			return nil, err
		}
		lab := rgb.Lab()
		from = &lab
	}
	var list []ink.Ink
	// What is written like a color is one; digits alone are part of a number.
	if t, err := color.Parse(query); err == nil && t.CMYK == nil {
		lab := t.RGB8().Lab()
		if from == nil {
			from = &lab
		}
		for _, m := range book.Nearest(lab, stock, mostInks) {
			list = append(list, m.Ink)
		}
	} else {
		list = book.Search(query, mostInks)
	}
	out := []FoundInk{}
	for _, i := range list {
		f := FoundInk{i, look(i.Lab(stock)), -1}
		if from != nil {
			f.DeltaE = color.DeltaE00(*from, i.Lab(stock))
		}
		out = append(out, f)
	}
	return out, nil
}
