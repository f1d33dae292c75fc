package keep

import (
	"context"
	"fmt"
	"slices"
	"sort"
	"strings"
	"unicode/utf8"

	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/ink"
	"huekeep/core/limits"
	"huekeep/core/press"
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
	Inks    []InkFace   // the nearest, best first
	Presses []PressFace // on every press condition
	Spots   []InkFace   // on every stock
	Family  []Relative  // tints, shades, tones and steps kept with it
	Partner *store.Color
	Ratio   float64 // contrast with Partner
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
	book, err := k.book(db, a.House.ID)
	if err != nil {
		return nil, nil, err
	}
	k.faces.warm(colors, book)
	byID := map[int64]store.Color{}
	for _, c := range colors {
		byID[c.ID] = c
	}
	for _, c := range colors {
		if !a.sees(c) {
			continue
		}
		r := Row{Color: c, Faces: k.facesOf(c, book)}
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
	book, err := k.book(db, a.House.ID)
	if err != nil {
		return Sheet{}, err
	}
	s := Sheet{Row: Row{Color: c, Faces: k.facesOf(c, book)}}
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
	v := k.faces.get(rgbOf(c.Hex), book)
	s.Derived = v.build
	s.Less, s.More = press.Coated().Black(v.build)
	lab := rgbOf(c.Hex).Lab()
	for _, m := range v.inks {
		s.Inks = append(s.Inks, inkFace(lab, m.Ink, m.Stock))
	}
	presses, err := k.Presses(ctx, a)
	if err != nil {
		return s, err
	}
	for _, p := range presses {
		s.Presses = append(s.Presses, pressFaceOf(c, s.Row.Faces.Press, p.Condition))
	}
	for _, stock := range []ink.Stock{ink.Coated, ink.Uncoated} {
		s.Spots = append(s.Spots, inkFaceOf(c, stock, book, book.Nearest(lab, stock, 1)))
	}
	s.Family = family(c)
	if c.PartnerID != nil {
		if p, err := db.Color(a.House.ID, *c.PartnerID); err == nil {
			s.Partner, s.Ratio = &p, contrast.Ratio(rgbOf(c.Hex), rgbOf(p.Hex))
		}
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
	Successor *int64  // 0 for none
	Lab       *string // a measured value "L a b" that becomes the master; instead of Value
	Aliases   *[]string
	Tags      *[]string
	Partner   *int64   // the ground it must stay legible on, 0 for none
	Ratio     *float64 // the least contrast ratio with it
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
		if in.Lab != nil {
			lab, err := ReadLab(*in.Lab)
			if err != nil {
				return nil, err
			}
			value := "lab(" + WriteLab(lab) + ")"
			in.Value = &value
			if c.Lab != WriteLab(lab) {
				say("measured as Lab %s", WriteLab(lab))
			}
			defer func(lab string) { c.Lab = lab }(WriteLab(lab))
		}
		if in.Value != nil {
			rgb, _, err := masterValue("value", *in.Value)
			if err != nil {
				return nil, err
			}
			if hex := rgb.Hex(); hex != c.Hex {
				c.Lab = "" // it is no longer what was read
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
		for _, words := range []struct {
			field, what string
			in          *[]string
			to          *string
		}{{"aliases", "also called", in.Aliases, &c.Aliases}, {"tags", "tagged", in.Tags, &c.Tags}} {
			if words.in == nil {
				continue
			}
			text, err := wordList(words.field, *words.in)
			if err != nil {
				return nil, err
			}
			if text != *words.to {
				say("%s %s", words.what, orNone(strings.ReplaceAll(text, "\n", ", ")))
				*words.to = text
			}
		}
		if in.Partner != nil {
			if *in.Partner == 0 {
				if c.PartnerID != nil {
					say("no ground to stay legible on")
				}
				c.PartnerID, c.PartnerRatio = nil, 0
			} else {
				ground, err := tx.Color(a.House.ID, *in.Partner)
				if err != nil {
					return nil, missing(err, "color to stand on")
				}
				if ground.ID == c.ID {
					return nil, invalid("partner", "a color cannot stand on itself")
				}
				ratio := contrast.TextAA
				if in.Ratio != nil {
					ratio = *in.Ratio
				}
				if !(ratio >= 1 && ratio <= 21) {
					return nil, invalid("ratio", "a contrast ratio lies between 1 and 21")
				}
				if c.PartnerID == nil || *c.PartnerID != ground.ID || c.PartnerRatio != ratio {
					say("to reach %g:1 on %s", ratio, ground.Name)
				}
				c.PartnerID, c.PartnerRatio = &ground.ID, ratio
			}
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
		if events[len(events)-1].State, err = stateOf(tx, a.House.ID, id); err != nil {
			return err
		}
		return tx.Add(&events)
	})
}

// ApproveBuild signs a CMYK build for a press condition.
func (k *Keeper) ApproveBuild(ctx context.Context, a Actor, id int64, version int, pressName, value string) error {
	condition, err := k.condition(k.DB.With(ctx), a.House.ID, pressName)
	if err != nil {
		return err
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
	book, err := k.book(k.DB.With(ctx), a.House.ID)
	if err != nil {
		return err
	}
	found, ok := book.Find(strings.TrimSpace(code))
	if !ok {
		return invalid("code", "%q is not in the %s ink book", code, book.Name)
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
	Audits        []string     // audited files that have the old value
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
	if out.Audits, err = db.AuditsWith(a.House.ID, c.Hex); err != nil {
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
