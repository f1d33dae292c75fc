// Package ledger holds the rules of the library's colors: what each is, how it changes, and what follows from that.
package ledger

import (
	"context"
	"errors"
	"slices"
	"sort"
	"strings"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/press"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/media"
	"huekeep/keep/send"
	"huekeep/store"
)

// Rules are the rules of colors.
type Rules struct {
	*keep.Base
	Media *media.Rules
}

// New makes the rules.
func New(b *keep.Base, m *media.Rules) *Rules { return &Rules{b, m} }

// Row is a color as the ledger shows it.
type Row struct {
	library.Color
	Next  *library.Color // its successor
	Faces media.Faces
}

// Sheet is all there is to know of one color.
type Sheet struct {
	Row       Row
	Derived   press.Build
	Less      *press.Variant // the derived build with less black, if there is one that looks the same
	More      *press.Variant
	BlackOnly *press.Variant    // black ink alone, for a dark neutral
	Inks      []media.InkFace   // the nearest, best first
	Presses   []media.PressFace // on every press condition
	Spots     []media.InkFace   // on every stock
	Family    []library.Relative
	On        *library.Color // its ground
	Ratio     float64        // contrast with On
	Passes    bool
	History   []library.Event // newest first, the first page
	Older     bool            // there is more of it
	send.Held
	Own    bool      // a draft that the actor proposed
	Papers []float64 // of each of Presses: ΔE00 with the color of its paper
}

// nearestInks is how many inks the sheet offers.
const nearestInks = 5

// visible lists the house's colors that the actor may see, in the order by hand, by id too. What points to a color that the
// actor may not see points to none.
func visible(db *store.DB, a keep.Actor) ([]library.Color, map[int64]*library.Color, error) {
	all, err := db.Colors(a.House.ID)
	if err != nil {
		return nil, nil, err
	}
	all = slices.DeleteFunc(all, func(c library.Color) bool { return !a.Sees(c) })
	byID := make(map[int64]*library.Color, len(all))
	for i := range all {
		byID[all[i].ID] = &all[i]
	}
	for i := range all {
		all[i].Point(func(ref library.Ref) library.Ref {
			if byID[ref.ID] == nil {
				return library.Ref{}
			}
			return ref
		})
	}
	return all, byID, nil
}

// Visible lists the house's colors that the actor may see, in the order by hand.
func Visible(db *store.DB, a keep.Actor) ([]library.Color, error) {
	list, _, err := visible(db, a)
	return list, err
}

// Ledger lists the house's groups and colors, in order: by group, then by position.
func (r *Rules) Ledger(ctx context.Context, a keep.Actor) (groups []string, rows []Row, err error) {
	db := r.DB.With(ctx)
	list, err := db.Groups(a.House.ID)
	if err != nil {
		return nil, nil, err
	}
	place := map[string]int{"": len(list)}
	for i, g := range list {
		groups = append(groups, g.Name)
		place[g.Name] = i
	}
	colors, byID, err := visible(db, a)
	if err != nil {
		return nil, nil, err
	}
	shown, err := r.Media.Shown(db, a.House)
	if err != nil {
		return nil, nil, err
	}
	faces, err := r.Media.FacesOf(db, a.House.ID, colors, shown)
	if err != nil {
		return nil, nil, err
	}
	rows = make([]Row, len(colors))
	for i, c := range colors {
		rows[i] = Row{c, byID[c.Successor.ID], faces[i]}
	}
	sort.SliceStable(rows, func(i, j int) bool { return place[rows[i].Group] < place[rows[j].Group] })
	return groups, rows, nil
}

// find reads a color that the actor may see.
func (r *Rules) find(db *store.DB, a keep.Actor, id int64) (library.Color, error) {
	c, err := db.Color(a.House.ID, id)
	if err == nil && !a.Sees(c) {
		err = store.ErrNotFound
	}
	return c, keep.Missing(err, "color")
}

// Color reads a color that the actor may see.
func (r *Rules) Color(ctx context.Context, a keep.Actor, id int64) (library.Color, error) {
	return r.find(r.DB.With(ctx), a, id)
}

// Sheet reads one color with everything around it.
func (r *Rules) Sheet(ctx context.Context, a keep.Actor, id int64) (Sheet, error) {
	db := r.DB.With(ctx)
	c, err := r.find(db, a, id)
	if err != nil {
		return Sheet{}, err
	}
	shown, err := r.Media.Shown(db, a.House)
	if err != nil {
		return Sheet{}, err
	}
	var s Sheet
	others := map[int64]*library.Color{}
	c.Point(func(ref library.Ref) library.Ref {
		o, failed := db.Color(a.House.ID, ref.ID)
		if failed != nil || !a.Sees(o) {
			err = errors.Join(err, failed)
			return library.Ref{}
		}
		others[o.ID] = &o
		return ref
	})
	if err != nil {
		return s, err
	}
	s.Row.Next, s.On = others[c.Successor.ID], others[c.Ground.ID]
	if s.On != nil {
		s.Ratio, s.Passes = c.Legible(s.On.RGB)
	}
	s.Row.Color = c
	faces, err := r.Media.FacesOf(db, a.House.ID, []library.Color{c}, shown)
	if err != nil {
		return s, err
	}
	s.Row.Faces = faces[0]
	lab := c.Lab()
	s.Derived = shown.Press.Build(lab)
	s.Less, s.More = shown.Press.Black(s.Derived)
	s.BlackOnly = shown.Press.BlackOnly(lab)
	for _, m := range shown.Book.Faced(lab, shown.Stock, nearestInks) {
		s.Inks = append(s.Inks, media.FaceOf(lab, m.Ink, m.Stock))
	}
	presses, err := r.Media.PressesOf(db, a.House.ID)
	if err != nil {
		return s, err
	}
	for _, p := range presses {
		derived := s.Derived
		if p.Name != shown.Press.Name {
			derived = p.Build(lab)
		}
		face := media.OnPress(c, p.Condition, derived)
		s.Presses = append(s.Presses, face)
		s.Papers = append(s.Papers, p.OnPaper(lab, face.Value))
	}
	for _, stock := range ink.Stocks {
		s.Spots = append(s.Spots, media.OnStock(c, stock, shown.Book))
	}
	s.Family = c.Relatives()
	if s.Own, err = r.Own(db, a, id); err != nil {
		return s, err
	}
	if s.History, s.Older, err = r.history(db, a, id, 0); err != nil {
		return s, err
	}
	held, err := send.Holders(db, a, id)
	s.Held = held[id]
	return s, err
}

// History lists what happened to a color before an event, newest first, and whether there is more before that.
func (r *Rules) History(ctx context.Context, a keep.Actor, id, before int64) (list []library.Event, more bool, err error) {
	db := r.DB.With(ctx)
	if _, err := r.find(db, a, id); err != nil {
		return nil, false, err
	}
	return r.history(db, a, id, before)
}

func (r *Rules) history(db *store.DB, a keep.Actor, id, before int64) ([]library.Event, bool, error) {
	list, err := db.Events(id, before, limits.Page+1)
	if err != nil {
		return nil, false, err
	}
	more := len(list) > limits.Page
	list = list[:min(len(list), limits.Page)]
	return list, more, HideDrafts(db, a, list)
}

// HideDrafts takes the names of drafts out of histories that somebody reads who may not see them.
func HideDrafts(db *store.DB, a keep.Actor, histories ...[]library.Event) error {
	if a.Role.Reaches(keep.RoleContributor) {
		return nil
	}
	drafts, err := db.DraftNames(a.House.ID)
	if err != nil {
		return err
	}
	slices.SortFunc(drafts, func(x, y string) int { return len(y) - len(x) }) // the longest first, as one may be part of another
	for _, list := range histories {
		for i := range list {
			list[i].State = "" // it names other colors too
			for _, d := range drafts {
				list[i].What = strings.ReplaceAll(list[i].What, d, "a proposed color")
			}
		}
	}
	return nil
}

// ExportAs is the current library, or some of its colors, in another format.
func (r *Rules) ExportAs(ctx context.Context, a keep.Actor, format string, ids []int64) (swatchfile.Packing, library.Edition, error) {
	p, err := swatchfile.FindPacking(format)
	if err != nil {
		return p, library.Edition{}, &keep.Error{Kind: keep.NotFound, Message: keep.Sentence(err.Error())}
	}
	e := library.Edition{House: a.House.Name, Set: "Library"}
	_, rows, err := r.Ledger(ctx, a)
	if err != nil {
		return p, e, err
	}
	wanted := map[int64]bool{}
	for _, id := range ids {
		wanted[id] = true
	}
	for _, row := range rows {
		if len(ids) == 0 && row.Status == library.Approved || wanted[row.ID] {
			e.Colors = append(e.Colors, row.Color)
		}
	}
	if len(e.Colors) == 0 {
		return p, e, keep.Wrong("colors", "there is no color to write")
	}
	// as they were asked for
	slices.SortStableFunc(e.Colors, func(x, y library.Color) int { return slices.Index(ids, x.ID) - slices.Index(ids, y.ID) })
	return p, e, nil
}

// Amendment is what a new master value would mean.
type Amendment struct {
	Before, After library.Color // their values
	DeltaE        float64
	send.Held
	Audits   []string       // audited files that have the old value
	Approved []string       // approved values that stay and will be flagged
	Same     *library.Color // another color with this value
}

// mostAudits is how many audited files an amendment names.
const mostAudits = 20

// Preview works out an amendment without making it.
func (r *Rules) Preview(ctx context.Context, a keep.Actor, id int64, value string) (Amendment, error) {
	var out Amendment
	db := r.DB.With(ctx)
	c, err := r.find(db, a, id)
	if err != nil {
		return out, err
	}
	g, err := r.Media.Values(db, a.House.ID).Read("value", value)
	if err != nil {
		return out, err
	}
	out.Before, out.After = c, g.Color()
	printed, _ := g.Printed()
	out.DeltaE = color.DeltaE00(c.Lab(), out.After.Lab())
	held, err := send.Holders(db, a, id)
	if err != nil {
		return out, err
	}
	out.Held = held[id]
	if out.Audits, err = db.AuditsWith(a.House.ID, c.RGB.Hex(), mostAudits); err != nil {
		return out, err
	}
	for _, b := range c.Builds {
		if b.Press == printed.Press || b.Origin == library.Given {
			continue
		}
		out.Approved = append(out.Approved, "CMYK "+b.Value.String()+" for "+b.Press)
	}
	for _, s := range c.Spots {
		if s.Stock == printed.Stock || s.Origin == library.Given {
			continue
		}
		out.Approved = append(out.Approved, "spot ink "+s.Code+" on "+s.Stock+" stock")
	}
	all, err := Visible(db, a)
	for _, o := range all {
		if o.ID != id && o.Value() == out.After.Value() {
			out.Same = &o
			break
		}
	}
	return out, err
}
