package gathering

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
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
	"huekeep/keep/send"
	"huekeep/store"
)

// Admission says which candidates become library colors, and how.
type Admission struct {
	Items   []int64
	Group   string
	Role    string
	Each    map[int64]Placing // candidates that get another group or role than the rest
	Set     string            // name of a swatch set to put them on, made if there is none; empty for none
	Replace bool              // take off the set what was on it before
	Use     map[int64]int64   // candidates that are dropped for a library color that exists, which joins the set instead
	// candidates whose values a library color takes on, which joins the set; of contributors they become suggestions
	Amend map[int64]Amend
}

// Placing is where a candidate comes to stand: a nil part is as for all, an empty one is none.
type Placing struct{ Group, Role *string }

// of is the group and the role of a candidate.
func (in Admission) of(item int64) (group, role string) {
	group, role = in.Group, in.Role
	p := in.Each[item]
	if p.Group != nil {
		group = *p.Group
	}
	if p.Role != nil {
		role = *p.Role
	}
	return group, role
}

// Amend names a library color as the caller saw it.
type Amend struct {
	Color   int64
	Version int
}

// Admitted is what came of an admission.
type Admitted struct {
	Colors    []library.Color  // that are new
	Renewed   []ledger.Renewed // that took on values
	Suggested int              // values that were suggested
	At        time.Time
}

// Admit makes candidates library colors, all of them or none. A contributor's become drafts, which a keeper approves.
// What came with the value that decides is approved by the keeper who admits it, and waits for a signature otherwise.
func (g *Rules) Admit(ctx context.Context, a keep.Actor, in Admission) (admitted Admitted, err error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return admitted, err
	}
	if in, err = in.checked(a); err != nil {
		return admitted, err
	}
	err = g.Change(ctx, a, func(tx *store.DB) error {
		admitted, err = g.admit(tx, a, in)
		return err
	})
	return admitted, err
}

// checked is an admission whose words are in order and that the actor may ask for.
func (in Admission) checked(a keep.Actor) (_ Admission, err error) {
	if len(in.Items)+len(in.Use)+len(in.Amend) == 0 {
		return in, keep.Wrong("items", "no candidate is chosen")
	}
	for item := range in.Amend {
		if _, used := in.Use[item]; used || slices.Contains(in.Items, item) {
			return in, keep.Wrong("amend", "a candidate is to change a color and to be admitted or dropped as well")
		}
	}
	if err := keep.IDs("items", in.Items, limits.TrayItems); err != nil {
		return in, err
	}
	in.Set = strings.TrimSpace(in.Set)
	if in.Set != "" {
		if err := a.May(keep.RoleKeeper); err != nil {
			return in, err
		}
	}
	if in.Group, in.Role, err = placed(in.Group, in.Role); err != nil {
		return in, err
	}
	each := map[int64]Placing{}
	for item := range in.Each {
		group, role := in.of(item)
		if group, role, err = placed(group, role); err != nil {
			return in, err
		}
		each[item] = Placing{&group, &role}
	}
	in.Each = each
	return in, nil
}

// placed gives a group and a role as they are kept.
func placed(group, role string) (asGroup, asRole string, err error) {
	role = string(library.AsRole(role))
	if err := library.CheckRole(library.Role(role)); err != nil {
		return "", "", keep.Wrong("role", "%v", err)
	}
	if group = strings.TrimSpace(group); group == "" {
		return "", role, nil
	}
	asGroup, err = keep.Name("group", group)
	return asGroup, role, err
}

func (g *Rules) admit(tx *store.DB, a keep.Actor, in Admission) (out Admitted, err error) {
	out.At = g.Now()
	tray, err := tx.TrayToAdmit(a.Account, a.House.ID)
	if err != nil {
		return out, err
	}
	byID := map[int64]store.Candidate{}
	for _, c := range tray {
		byID[c.ID] = c
	}
	all, err := tx.Colors(a.House.ID)
	if err != nil {
		return out, err
	}
	became, err := in.standing(byID, all)
	if err != nil {
		return out, err
	}
	if err := g.amend(tx, a, in.Amend, byID, all, &out); err != nil {
		return out, err
	}
	if out.Colors, err = g.add(tx, a, in, byID, all); err != nil {
		return out, err
	}
	for i, c := range out.Colors {
		became[in.Items[i]] = c.ID
	}
	var members, drop []int64 // in the order of the tray
	for _, c := range tray {
		if id, ok := became[c.ID]; ok {
			members, drop = append(members, id), append(drop, c.ID)
		}
	}
	if in.Set != "" {
		if err := send.Join(tx, a, in.Set, in.Replace, members); err != nil {
			return out, err
		}
	}
	return out, tx.RemoveCandidates(a.Account, a.House.ID, drop...)
}

// standing are the library colors that stand for candidates, by the candidate.
func (in Admission) standing(tray map[int64]store.Candidate, all []library.Color) (map[int64]int64, error) {
	existing := map[int64]bool{}
	for _, c := range all {
		existing[c.ID] = true
	}
	out := maps.Clone(in.Use)
	if out == nil {
		out = map[int64]int64{}
	}
	for item, n := range in.Amend {
		out[item] = n.Color
	}
	for item, id := range out {
		if _, ok := tray[item]; !ok || !existing[id] {
			return nil, &keep.Error{Kind: keep.Conflict, Field: "use",
				Message: "A candidate or the color that stands for it is no longer there; look again."}
		}
	}
	return out, nil
}

// amend gives library colors the values of candidates, or suggests these where the actor may not.
func (g *Rules) amend(tx *store.DB, a keep.Actor, in map[int64]Amend, tray map[int64]store.Candidate, all []library.Color,
	out *Admitted) (err error) {
	by := map[int64]string{}
	colors := map[int64]library.Color{}
	for _, c := range all {
		colors[c.ID] = c
	}
	var list []ledger.Renewal
	for _, item := range slices.Sorted(maps.Keys(in)) {
		r, n := tray[item], in[item]
		if other, twice := by[n.Color]; twice {
			return keep.Wrong("amend", "%s and %s both say what %s is; leave one of them out", other, r.Name, colors[n.Color].Name)
		}
		by[n.Color] = r.Name
		to := admitted(a, r, library.Color{Status: colors[n.Color].Status, Added: out.At})
		if a.Role != keep.RoleKeeper {
			if err := g.suggest(tx, a, n.Color, to, r.Source); err != nil {
				return err
			}
			out.Suggested++
			continue
		}
		list = append(list, ledger.Renewal{Color: n.Color, Version: n.Version, To: to, Source: r.Source})
	}
	if len(list) > 0 {
		out.Renewed, err = ledger.New(g.Base, g.Media).Renew(tx, a, list)
	}
	return err
}

// suggest puts a value of a candidate to the keepers, with what came along with it as a note.
func (g *Rules) suggest(tx *store.DB, a keep.Actor, id int64, to library.Color, source string) error {
	var along []string
	for _, b := range to.Builds {
		if b.Origin != library.Deciding {
			along = append(along, fmt.Sprintf("CMYK %s for %s", b.Value, b.Press))
		}
	}
	for _, s := range to.Spots {
		if s.Origin != library.Deciding {
			along = append(along, fmt.Sprintf("spot ink %s on %s stock", s.Code, s.Stock))
		}
	}
	note := ""
	if source != "" {
		note = "from \u201c" + source + "\u201d"
	}
	if len(along) > 0 {
		note = strings.TrimPrefix(note+"; with "+strings.Join(along, ", "), "; ")
	}
	return ledger.New(g.Base, g.Media).SuggestIn(tx, a, id, ledger.NewSuggestion{Value: to.Typed(), Note: note})
}

// add makes the chosen candidates colors of the library.
func (g *Rules) add(tx *store.DB, a keep.Actor, in Admission, tray map[int64]store.Candidate, all []library.Color) ([]library.Color,
	error) {
	colors, err := g.wanted(tx, a, in, tray, all)
	if err != nil {
		return nil, err
	}
	if n := len(all) + len(colors); n > limits.LibraryColors {
		return nil, keep.Clash("items", "the library would hold %d colors; at most %d fit", n, limits.LibraryColors)
	}
	groups := map[string]int64{}
	for _, c := range colors {
		if _, known := groups[c.Group]; c.Group == "" || known {
			continue
		}
		if groups[c.Group], err = tx.EnsureGroup(a.House.ID, c.Group); err != nil {
			return nil, err
		}
	}
	if err := tx.AddColors(a.House.ID, groups, colors); err != nil {
		return nil, keep.Taken(err, "items", "somebody else just admitted a color with one of these names; look again")
	}
	history := map[int64][]library.Event{}
	var order []int64
	for i, c := range colors {
		order = append(order, c.ID)
		if history[c.ID], err = admissionOf(a, c, tray[in.Items[i]].Source); err != nil {
			return nil, err
		}
	}
	return colors, tx.AddEvents(history, order)
}

// wanted makes colors of the chosen candidates, or says what is wrong with which of them.
func (g *Rules) wanted(tx *store.DB, a keep.Actor, in Admission, tray map[int64]store.Candidate, all []library.Color) ([]library.Color,
	error) {
	names := map[string]string{}
	values := map[library.Value]string{}
	for _, c := range all {
		names[store.NameKey(c.Name)] = c.Name
		if !c.Retired() {
			values[c.Value()] = c.Name
		}
	}
	problems := &keep.Error{Kind: keep.Conflict, Field: "items"}
	blame := func(id int64, format string, args ...any) {
		problems.Items = append(problems.Items, keep.ItemError{ID: id, Reason: keep.Sentence(fmt.Sprintf(format, args...))})
	}
	last, err := tx.LastPosition(a.House.ID)
	if err != nil {
		return nil, err
	}
	status := library.Draft
	if a.Role == keep.RoleKeeper {
		status = library.Approved
	}
	now := g.Now()
	var out []library.Color
	for _, id := range in.Items {
		r, ok := tray[id]
		switch {
		case !ok:
			blame(id, "it is no longer on your tray")
			continue
		case r.Name == "":
			blame(id, "%s has no name yet", r.Hex)
			continue
		}
		key := store.NameKey(r.Name)
		if other, taken := names[key]; taken {
			blame(id, "the name %s is taken by %s", r.Name, other)
			continue
		}
		if other, same := values[colorOf(r).Value()]; same && r.Remark == described {
			blame(id, "%s has the value of %s; use that color, or give this one a name of its own", r.Name, other)
			continue
		}
		names[key] = r.Name
		last++
		group, role := in.of(id)
		out = append(out, admitted(a, r, library.Color{Name: r.Name, Group: group, Role: library.Role(role), Status: status, Position: last,
			Version: 1, Added: now, Changed: now}))
	}
	if len(problems.Items) > 0 {
		problems.Message = problems.Items[0].Reason
		if n := len(problems.Items); n > 1 {
			problems.Message = fmt.Sprintf("%d of the %d candidates cannot be admitted like this. %s", n, len(in.Items), problems.Message)
		}
		return nil, problems
	}
	return out, nil
}

// admitted gives a color what a candidate was given: what decides, and the rest as approved by a keeper who admits it, else as given.
func admitted(a keep.Actor, r store.Candidate, c library.Color) library.Color {
	of := colorOf(r)
	c.Decide(of.Master, of.RGB, a.Person(), c.Added)
	if r.Screen != "" && (of.Master.Kind == library.OfBuild || of.Master.Kind == library.OfInk) {
		c.Plain = library.Plain{Origin: library.Given, By: a.Person(), At: c.Added}
	}
	coated := press.Coated().Name
	if _, decides := c.Spot(string(ink.Coated)); r.Spot != "" && !decides {
		c.Spots = append(c.Spots, library.Spot{Stock: string(ink.Coated), Code: r.Spot, Origin: library.Given, By: a.Person(), At: c.Added,
			For: c.RGB, Meant: c.Master})
	}
	_, decides := c.Build(coated)
	if b, err := color.ParseCMYK(r.CMYK); r.CMYK != "" && err == nil && !decides {
		c.Builds = append(c.Builds, library.Build{Press: coated, Value: b, Origin: library.Given, By: a.Person(), At: c.Added, For: c.RGB,
			Meant: c.Master})
	}
	if c.Status == library.Approved {
		c.Sign(a.Person(), c.Added)
	}
	return c
}

// admissionOf is the beginning of a color's history.
func admissionOf(a keep.Actor, c library.Color, source string) ([]library.Event, error) {
	what := "admitted as " + c.Shows()
	if c.Status == library.Draft {
		what = "proposed as " + c.Shows()
	}
	if source != "" && source != c.Shows() {
		what += fmt.Sprintf(", from \u201c%s\u201d", source)
	}
	events := []library.Event{{What: what, After: c.RGB.Hex()}}
	came := func(o library.Origin, what string) {
		if said := ledger.Came(o); said != "" {
			events = append(events, library.Event{What: what + " " + said})
		}
	}
	came(c.Plain.Origin, c.RGB.Hex()+" for screens")
	for _, s := range c.Spots {
		came(s.Origin, "spot ink "+s.Code)
	}
	for _, b := range c.Builds {
		came(b.Origin, fmt.Sprintf("CMYK %s for %s", b.Value, b.Press))
	}
	for i := range events {
		events[i].At, events[i].By = c.Added, a.Person()
	}
	var err error
	events[len(events)-1].State, err = c.WriteState()
	return slices.Clip(events), err
}

// AddColor makes a color of the library in one step, as a program does that has no tray: a candidate that is admitted at once.
func (g *Rules) AddColor(ctx context.Context, a keep.Actor, n NewCandidate, in Admission) (c library.Color, err error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return c, err
	}
	n.Origin = "paste"
	rows, err := g.rows(ctx, a, []NewCandidate{n})
	if err != nil {
		return c, spoken(err)
	}
	rows[0].Source = cmp.Or(rows[0].Source, n.Value)
	in.Items = []int64{0}
	if in, err = in.checked(a); err != nil {
		return c, spoken(err)
	}
	err = g.Change(ctx, a, func(tx *store.DB) error {
		row := rows[0]
		if err := tx.Add(&row); err != nil {
			return err
		}
		in.Items[0] = row.ID
		done, err := g.admit(tx, a, in)
		if err == nil {
			c = done.Colors[0]
		}
		return err
	})
	return c, spoken(err)
}

// spoken says of one color what is said of candidates.
func spoken(err error) error {
	var ours *keep.Error
	if !errors.As(err, &ours) {
		return err
	}
	said := *ours
	switch said.Items = nil; said.Field {
	case "colors":
		said.Field = "value"
	case "items":
		said.Field = "name"
	}
	return &said
}
