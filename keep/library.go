package keep

import (
	"context"
	"fmt"
	"slices"
	"sort"
	"strings"
	"unicode/utf8"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/limits"
	"huekeep/core/press"
	"huekeep/core/swatchfile"
	"huekeep/store"
)

// Row is a color as the ledger shows it.
type Row struct {
	store.Color
	Group     string
	Successor *store.Color
	Faces     Faces
}

// Sheet is all there is to know of one color.
type Sheet struct {
	Row     Row
	Derived press.Build
	Less    *press.Variant // the derived build with less black, if there is one that looks the same
	More    *press.Variant
	Inks    []InkFace // the nearest, best first
	History []store.ColorEvent
	Sets    []string
	Holders []Holder
}

// Holder is an edition that holds the color, with the recipients that took it.
type Holder struct {
	Set        string
	SetID      int64
	Edition    int
	Hex        string
	Recipients []string
}

// sees says whether the actor may see a color: drafts are not for readers.
func (a Actor) sees(c store.Color) bool { return c.Status != "draft" || a.Role != RoleReader }

// Ledger lists the house's groups and colors, in order: by group, then by position.
func (k *Keeper) Ledger(ctx context.Context, a Actor) (groups []string, rows []Row, err error) {
	db := k.DB.With(ctx)
	list, err := db.Groups(a.House.ID)
	if err != nil {
		return nil, nil, err
	}
	colors, err := db.Colors(a.House.ID)
	if err != nil {
		return nil, nil, err
	}
	place, names := map[int64]int{}, map[int64]string{}
	for i, g := range list {
		groups = append(groups, g.Name)
		place[g.ID], names[g.ID] = i, g.Name
	}
	k.faces.warm(colors)
	byID := map[int64]store.Color{}
	for _, c := range colors {
		byID[c.ID] = c
	}
	for _, c := range colors {
		if !a.sees(c) {
			continue
		}
		r := Row{Color: c, Faces: k.facesOf(c)}
		if c.GroupID != nil {
			r.Group = names[*c.GroupID]
		}
		if c.SuccessorID != nil {
			if s, ok := byID[*c.SuccessorID]; ok {
				r.Successor = &s
			}
		}
		rows = append(rows, r)
	}
	at := func(r Row) int {
		if r.GroupID == nil {
			return len(list)
		}
		return place[*r.GroupID]
	}
	sort.SliceStable(rows, func(i, j int) bool { return at(rows[i]) < at(rows[j]) })
	return groups, rows, nil
}

// Sheet reads one color with everything around it.
func (k *Keeper) Sheet(ctx context.Context, a Actor, id int64) (Sheet, error) {
	db := k.DB.With(ctx)
	c, err := db.Color(a.House.ID, id)
	if err == nil && !a.sees(c) {
		err = store.ErrNotFound
	}
	if err != nil {
		return Sheet{}, missing(err, "color")
	}
	s := Sheet{Row: Row{Color: c, Faces: k.facesOf(c)}}
	if c.GroupID != nil {
		groups, err := db.Groups(a.House.ID)
		if err != nil {
			return s, err
		}
		for _, g := range groups {
			if g.ID == *c.GroupID {
				s.Row.Group = g.Name
			}
		}
	}
	if c.SuccessorID != nil {
		if next, err := db.Color(a.House.ID, *c.SuccessorID); err == nil {
			s.Row.Successor = &next
		}
	}
	v := k.faces.get(rgbOf(c.Hex))
	s.Derived = v.build
	s.Less, s.More = press.Coated().Black(v.build)
	lab := rgbOf(c.Hex).Lab()
	for _, m := range v.inks {
		s.Inks = append(s.Inks, inkFace(lab, m.Ink, m.Stock))
	}
	if s.History, err = db.Events(id); err != nil {
		return s, err
	}
	s.Sets, s.Holders, err = k.holders(db, a, id)
	return s, err
}

// holders finds the sets that contain a color, and the editions in force that hold a value of it: the newest of each
// set, and those that recipients still have.
func (k *Keeper) holders(db *store.DB, a Actor, id int64) (names []string, out []Holder, err error) {
	sets, err := db.Sets(a.House.ID)
	if err != nil {
		return nil, nil, err
	}
	editions, err := db.Editions(a.House.ID)
	if err != nil {
		return nil, nil, err
	}
	held, err := k.held(db, a.House.ID)
	if err != nil {
		return nil, nil, err
	}
	setName := map[int64]string{}
	for _, s := range sets {
		setName[s.ID] = s.Name
		if slices.ContainsFunc(s.Colors, func(c store.SetColor) bool { return c.ColorID == id }) {
			names = append(names, s.Name)
		}
	}
	newest := map[int64]bool{}
	for _, e := range editions { // newest first within a set
		who := []string{}
		for _, h := range held[e.SetID] {
			if h.edition == e.Number {
				who = append(who, h.name)
			}
		}
		first := !newest[e.SetID]
		newest[e.SetID] = true
		if !first && len(who) == 0 {
			continue
		}
		content, err := readContent(e)
		if err != nil {
			return nil, nil, err
		}
		if i := slices.Index(content.IDs, id); i >= 0 {
			out = append(out, Holder{setName[e.SetID], e.SetID, e.Number, content.Edition.Colors[i].RGB.Hex(), who})
		}
	}
	return names, out, nil
}

// Change is what a keeper wants changed of a color; nil leaves it as it is.
type Change struct {
	Version   int // the version that the caller saw
	Name      *string
	Value     *string // the master value in any notation
	Role      *string
	Group     *string
	Rule      *string
	Status    *string
	Successor *int64 // 0 for none
}

// ChangeColor amends a color. Derived values follow by themselves; approved ones stay and are flagged.
func (k *Keeper) ChangeColor(ctx context.Context, a Actor, id int64, in Change) error {
	return k.amend(ctx, a, id, in.Version, func(tx *store.DB, c *store.Color) ([]store.ColorEvent, error) {
		var events []store.ColorEvent
		say := func(format string, args ...any) {
			events = append(events, store.ColorEvent{What: fmt.Sprintf(format, args...)})
		}
		if in.Name != nil {
			n, err := name("name", *in.Name)
			if err != nil {
				return nil, err
			}
			if n != c.Name {
				say("renamed from %s to %s", c.Name, n)
				c.Name, c.NameKey = n, store.NameKey(n)
			}
		}
		if in.Value != nil {
			rgb, _, err := masterValue("value", *in.Value)
			if err != nil {
				return nil, err
			}
			if hex := rgb.Hex(); hex != c.Hex {
				de := moved(c.Hex, hex)
				events = append(events, store.ColorEvent{BeforeHex: c.Hex, AfterHex: hex,
					What: fmt.Sprintf("amended from %s to %s, %.1f %s", c.Hex, hex, de, color.Word(de))})
				c.Hex = hex
			}
		}
		if in.Role != nil && *in.Role != c.Role {
			if *in.Role != "" && !slices.Contains(Roles, *in.Role) {
				return nil, invalid("role", "the role %q is none of %s", *in.Role, strings.Join(Roles, ", "))
			}
			say("role set to %s", orNone(*in.Role))
			c.Role = *in.Role
		}
		if in.Rule != nil && strings.TrimSpace(*in.Rule) != c.Rule {
			rule := strings.TrimSpace(*in.Rule)
			if n := utf8.RuneCountInString(rule); n > limits.RuleRunes {
				return nil, invalid("rule", "the rule has %d characters; at most %d fit", n, limits.RuleRunes)
			}
			say("rule for use set to \u201c%s\u201d", rule)
			c.Rule = rule
		}
		if in.Group != nil {
			g := strings.TrimSpace(*in.Group)
			if g == "" {
				if c.GroupID != nil {
					say("taken out of its group")
				}
				c.GroupID = nil
			} else {
				g, err := name("group", g)
				if err != nil {
					return nil, err
				}
				id, err := tx.EnsureGroup(a.House.ID, g)
				if err != nil {
					return nil, err
				}
				if c.GroupID == nil || *c.GroupID != id {
					say("moved to the group %s", g)
				}
				c.GroupID = &id
			}
		}
		if in.Successor != nil && *in.Successor != 0 {
			next, err := tx.Color(a.House.ID, *in.Successor)
			switch {
			case err != nil:
				return nil, missing(err, "color to succeed it")
			case next.ID == c.ID:
				return nil, invalid("successor", "a color cannot succeed itself")
			case next.Status == "retired":
				return nil, invalid("successor", "%s is retired itself", next.Name)
			}
			c.SuccessorID = &next.ID
		} else if in.Successor != nil {
			c.SuccessorID = nil
		}
		if in.Status != nil && *in.Status != c.Status {
			switch *in.Status {
			case "retired":
				if c.SuccessorID != nil {
					next, err := tx.Color(a.House.ID, *c.SuccessorID)
					if err != nil {
						return nil, err
					}
					say("retired, replaced by %s", next.Name)
				} else {
					say("retired")
				}
			case "approved":
				say("approved")
				c.SuccessorID = nil
			case "draft":
				say("made a draft again")
			default:
				return nil, invalid("status", "the status %q is none of draft, approved, retired", *in.Status)
			}
			c.Status = *in.Status
		}
		return events, nil
	})
}

func orNone(s string) string {
	if s == "" {
		return "none"
	}
	return s
}

// amend runs one change of a color with its history in a transaction. A caller who saw an older version is told what
// happened since.
func (k *Keeper) amend(ctx context.Context, a Actor, id int64, version int, change func(*store.DB, *store.Color) ([]store.ColorEvent, error)) error {
	if err := a.may(RoleKeeper); err != nil {
		return err
	}
	return k.DB.In(ctx, func(tx *store.DB) error {
		c, err := tx.ColorToChange(a.House.ID, id)
		if err != nil {
			return missing(err, "color")
		}
		if c.Version != version {
			since := ""
			if events, err := tx.Events(id); err == nil && len(events) > 0 {
				since = fmt.Sprintf(" Last: %s %s.", events[0].ByName, events[0].What)
			}
			return conflict("version", "%s was changed while you had it open.%s Look at it again; nothing that you typed is lost", c.Name, since)
		}
		events, err := change(tx, &c)
		if err != nil || len(events) == 0 {
			return err
		}
		now := k.Now()
		c.Version++
		c.UpdatedAt = now
		if err := tx.Save(&c); err != nil {
			return taken(err, "name", "the name %s is taken by another color", c.Name)
		}
		for i := range events {
			events[i].ColorID, events[i].At, events[i].ByName = c.ID, now, a.Name
		}
		return tx.Add(&events)
	})
}

// ApproveBuild signs a CMYK build for a press condition.
func (k *Keeper) ApproveBuild(ctx context.Context, a Actor, id int64, version int, pressName, value string) error {
	condition, err := press.Get(pressName)
	if err != nil {
		return &Error{Kind: NotFound, Message: sentence(err.Error())}
	}
	b, err := color.ParseCMYK(value)
	if err != nil {
		return invalid("value", "%v", err)
	}
	if b.Total() > condition.InkLimit {
		return invalid("value", "%s is %g %% of ink in all; %s takes at most %g %%", b, b.Total(), condition.Label, condition.InkLimit)
	}
	return k.amend(ctx, a, id, version, func(tx *store.DB, c *store.Color) ([]store.ColorEvent, error) {
		row := store.Build{ColorID: id, Press: pressName, C: b.C, M: b.M, Y: b.Y, K: b.K, ByName: a.Name, ApprovedAt: k.Now(), ForHex: c.Hex}
		if err := tx.Save(&row); err != nil {
			return nil, err
		}
		de := color.DeltaE00(rgbOf(c.Hex).Lab(), condition.Lab(b))
		return []store.ColorEvent{{What: fmt.Sprintf("CMYK %s approved for %s, %.1f %s from the screen value", b, pressName, de, color.Word(de))}}, nil
	})
}

// DropBuild takes an approval back; the build is derived again.
func (k *Keeper) DropBuild(ctx context.Context, a Actor, id int64, pressName string) error {
	c, err := k.DB.With(ctx).Color(a.House.ID, id)
	if err != nil {
		return missing(err, "color")
	}
	return k.amend(ctx, a, id, c.Version, func(tx *store.DB, c *store.Color) ([]store.ColorEvent, error) {
		if err := tx.DropBuild(id, pressName); err != nil {
			return nil, missing(err, "approved build")
		}
		return []store.ColorEvent{{What: fmt.Sprintf("approval of the CMYK build for %s taken back", pressName)}}, nil
	})
}

// ApproveSpot signs a spot ink for a stock.
func (k *Keeper) ApproveSpot(ctx context.Context, a Actor, id int64, version int, stock, code string) error {
	if stock != string(ink.Coated) && stock != string(ink.Uncoated) {
		return &Error{Kind: NotFound, Message: fmt.Sprintf("There is no stock %q; there are coated and uncoated.", stock)}
	}
	found, ok := ink.Quern().Find(strings.TrimSpace(code))
	if !ok {
		return invalid("code", "%q is not in the %s ink book", code, ink.Quern().Name)
	}
	return k.amend(ctx, a, id, version, func(tx *store.DB, c *store.Color) ([]store.ColorEvent, error) {
		row := store.Spot{ColorID: id, Stock: stock, Code: found.Code, ByName: a.Name, ApprovedAt: k.Now(), ForHex: c.Hex}
		if err := tx.Save(&row); err != nil {
			return nil, err
		}
		de := color.DeltaE00(rgbOf(c.Hex).Lab(), found.Lab(ink.Stock(stock)))
		return []store.ColorEvent{{What: fmt.Sprintf("spot ink %s approved on %s stock, %.1f %s from the screen value", found.Code, stock, de, color.Word(de))}}, nil
	})
}

// DropSpot takes an approval back; the nearest ink is shown again.
func (k *Keeper) DropSpot(ctx context.Context, a Actor, id int64, stock string) error {
	c, err := k.DB.With(ctx).Color(a.House.ID, id)
	if err != nil {
		return missing(err, "color")
	}
	return k.amend(ctx, a, id, c.Version, func(tx *store.DB, c *store.Color) ([]store.ColorEvent, error) {
		if err := tx.DropSpot(id, stock); err != nil {
			return nil, missing(err, "approved ink")
		}
		return []store.ColorEvent{{What: fmt.Sprintf("approval of the spot ink on %s stock taken back", stock)}}, nil
	})
}

// Amendment is what a new master value would mean.
type Amendment struct {
	Before, After color.RGB8
	DeltaE        float64
	Sets          []string
	Holders       []Holder
	Approved      []string     // approved values that stay and will be flagged
	Same          *store.Color // another color with this value
}

// Preview works out an amendment without making it.
func (k *Keeper) Preview(ctx context.Context, a Actor, id int64, value string) (Amendment, error) {
	var out Amendment
	db := k.DB.With(ctx)
	c, err := db.Color(a.House.ID, id)
	if err == nil && !a.sees(c) {
		err = store.ErrNotFound
	}
	if err != nil {
		return out, missing(err, "color")
	}
	out.Before = rgbOf(c.Hex)
	if out.After, _, err = masterValue("value", value); err != nil {
		return out, err
	}
	out.DeltaE = color.DeltaE00(out.Before.Lab(), out.After.Lab())
	if out.Sets, out.Holders, err = k.holders(db, a, id); err != nil {
		return out, err
	}
	for _, b := range c.Builds {
		out.Approved = append(out.Approved, fmt.Sprintf("CMYK %s for %s", color.CMYK{C: b.C, M: b.M, Y: b.Y, K: b.K}, b.Press))
	}
	for _, s := range c.Spots {
		out.Approved = append(out.Approved, fmt.Sprintf("spot ink %s on %s stock", s.Code, s.Stock))
	}
	all, err := db.Colors(a.House.ID)
	for _, o := range all {
		if o.ID != id && o.Hex == out.After.Hex() && a.sees(o) {
			out.Same = &o
			break
		}
	}
	return out, err
}

// Export is the house as a library: everything but accounts, trays and audits.
func (k *Keeper) Export(ctx context.Context, a Actor) (swatchfile.Library, error) {
	db := k.DB.With(ctx)
	out := swatchfile.Library{House: a.House.Name, Tolerance: a.House.Tolerance, Neutrals: a.House.Neutrals}
	_, rows, err := k.Ledger(ctx, a)
	if err != nil {
		return out, err
	}
	events, err := db.AllEvents(a.House.ID)
	if err != nil {
		return out, err
	}
	history := map[int64][]swatchfile.Event{}
	for _, e := range events {
		history[e.ColorID] = append(history[e.ColorID], swatchfile.Event{At: e.At, By: e.ByName, What: e.What})
	}
	names := map[int64]string{}
	for _, r := range rows {
		names[r.ID] = r.Name
		c := fileColor(r)
		c.History = history[r.ID]
		out.Colors = append(out.Colors, c)
	}
	sets, err := db.Sets(a.House.ID)
	if err != nil {
		return out, err
	}
	editions, err := db.Editions(a.House.ID)
	if err != nil {
		return out, err
	}
	for _, s := range sets {
		set := swatchfile.Set{Name: s.Name}
		for _, e := range editions {
			if e.SetID == s.ID {
				set.Edition = max(set.Edition, e.Number)
			}
		}
		for _, c := range s.Colors {
			if n, ok := names[c.ColorID]; ok { // a reader's export leaves drafts out
				set.Colors = append(set.Colors, n)
			}
		}
		out.Sets = append(out.Sets, set)
	}
	return out, nil
}

// fileColor is a ledger row as files hold it, without its history.
func fileColor(r Row) swatchfile.Color {
	c := swatchfile.Color{Name: r.Name, Group: r.Group, Role: r.Role, Rule: r.Rule, Status: r.Status, RGB: rgbOf(r.Hex)}
	if r.Successor != nil {
		c.Successor = r.Successor.Name
	}
	for _, b := range r.Builds {
		c.CMYK = append(c.CMYK, swatchfile.CMYK{Press: b.Press, Value: color.CMYK{C: b.C, M: b.M, Y: b.Y, K: b.K}, By: b.ByName, At: b.ApprovedAt, For: rgbOf(b.ForHex)})
	}
	for _, s := range r.Spots {
		c.Spots = append(c.Spots, swatchfile.Spot{Stock: s.Stock, Code: s.Code, By: s.ByName, At: s.ApprovedAt, For: rgbOf(s.ForHex)})
	}
	return c
}
