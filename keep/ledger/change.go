package ledger

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/keep/media"
	"huekeep/keep/send"
	"huekeep/store"
)

// Change is what a keeper wants changed of a color; nil leaves it as it is.
type Change struct {
	Version   int // the version that the caller saw
	Name      *string
	Value     *string // what decides it: a screen value in any notation, a build, an ink
	Build     bool    // the value is a build, or it is refused
	Decides   bool    // the value decides from now on, also where it is only what plain screens show of what does
	KeepHex   bool    // plain screens keep the hex that they have, which is approved for the new master
	Role      *string
	Group     *string // empty for none
	Rule      *string
	Status    *string
	Successor *int64  // of a retired color, 0 for none
	Lab       *string // a measured value "L a b" that becomes the master; instead of Value
	Aliases   *[]string
	Tags      *[]string
	Tag       *string  // one more tag
	Ground    *int64   // the color it must stay legible on, 0 for none
	Ratio     *float64 // the least contrast ratio with it
}

// around is what a change looks up in the house.
type around struct {
	color    func(id int64) (library.Color, error)
	pointing func(id int64) ([]string, error) // names of the colors whose successor or ground a color is
	values   media.Values
	by       keep.Actor
	now      time.Time
}

func (r *Rules) aroundIn(tx *store.DB, a keep.Actor) around {
	known := map[int64]library.Color{}
	return around{
		func(id int64) (library.Color, error) {
			c, ok := known[id]
			if ok {
				return c, nil
			}
			c, err := tx.Color(a.House.ID, id)
			known[id] = c
			return c, err
		},
		func(id int64) ([]string, error) { return tx.PointingAt(a.House.ID, id) },
		r.Media.Values(tx, a.House.ID), a, r.Now(),
	}
}

// ChangeColor amends a color. Derived values follow by themselves; approved ones stay and are flagged.
func (r *Rules) ChangeColor(ctx context.Context, a keep.Actor, id int64, in Change) error {
	return r.amendOwn(ctx, a, id, in.Version, func(tx *store.DB, c *library.Color) ([]library.Event, error) {
		if a.Role != keep.RoleKeeper && (in.Status != nil || in.Successor != nil) {
			return nil, a.May(keep.RoleKeeper)
		}
		events, err := in.apply(c, r.aroundIn(tx, a))
		if err == nil && c.Group != "" {
			_, err = tx.EnsureGroup(a.House.ID, c.Group)
		}
		return events, err
	})
}

// amend runs one change of a color with its history in a transaction. A caller who saw an older version is told what happened
// since.
func (r *Rules) amend(ctx context.Context, a keep.Actor, id int64, version int, change func(*store.DB, *library.Color) ([]library.Event,
	error)) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return r.amendOwn(ctx, a, id, version, change)
}

// amendOwn is amend for what contributors may do with their own drafts as well.
func (r *Rules) amendOwn(ctx context.Context, a keep.Actor, id int64, version int, change func(*store.DB, *library.Color) ([]library.Event,
	error)) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		if err := r.mayChange(tx, a, id); err != nil {
			return err
		}
		return r.change(tx, a, id, version, change)
	})
}

// change is one change of a color with its history.
func (r *Rules) change(tx *store.DB, a keep.Actor, id int64, version int, change func(*store.DB, *library.Color) ([]library.Event,
	error)) error {
	c, err := r.toChange(tx, a, id, version)
	if err != nil {
		return err
	}
	events, err := change(tx, &c)
	if err != nil || len(events) == 0 {
		return err
	}
	if events, err = r.sign(a, &c, events); err != nil {
		return err
	}
	if err := tx.SaveColor(a.House.ID, c); err != nil {
		return keep.Taken(err, "name", "the name %s is taken by another color", c.Name)
	}
	return tx.AddEvents(map[int64][]library.Event{id: events}, []int64{id})
}

// mayChange lets keepers change a color, and contributors what they proposed themselves, as long as it is a draft.
func (r *Rules) mayChange(tx *store.DB, a keep.Actor, id int64) error {
	if a.Role == keep.RoleKeeper {
		return nil
	}
	if own, err := r.Own(tx, a, id); err != nil || own {
		return err
	}
	return &keep.Error{Kind: keep.Forbidden,
		Message: "Only a keeper changes what is in the library; you can suggest a change to this color."}
}

// Own says whether a color is a draft that the actor proposed.
func (r *Rules) Own(tx *store.DB, a keep.Actor, id int64) (bool, error) {
	c, err := tx.Color(a.House.ID, id)
	if err != nil {
		return false, keep.Missing(err, "color")
	}
	if c.Status != library.Draft || a.Account == 0 {
		return false, nil
	}
	events, err := allEvents(tx, id)
	return len(events) > 0 && events[0].By.Account == a.Account, err
}

// toChange reads a color that nobody may have changed since the caller saw it.
func (r *Rules) toChange(tx *store.DB, a keep.Actor, id int64, version int) (library.Color, error) {
	c, err := tx.ColorToChange(a.House.ID, id)
	if err != nil {
		return c, keep.Missing(err, "color")
	}
	if c.Version == version {
		return c, nil
	}
	since := ""
	if events, err := tx.Events(id, 0, 1); err == nil && len(events) > 0 {
		since = fmt.Sprintf(" Last: %s %s.", events[0].By.Name, events[0].What)
	}
	return c, keep.Stale("%s was changed while you had it open.%s Look at it again; nothing that you typed is lost", c.Name, since)
}

// sign counts a change of a color and makes its history: who, when, and what the color is now.
func (r *Rules) sign(a keep.Actor, c *library.Color, events []library.Event) ([]library.Event, error) {
	now := r.Now()
	c.Version++
	c.Changed = now
	for i := range events {
		events[i].At, events[i].By = now, a.Person()
	}
	var err error
	events[len(events)-1].State, err = c.WriteState()
	return events, err
}

// apply changes a color and says in sentences what it changed.
func (in Change) apply(c *library.Color, around around) (events []library.Event, err error) {
	say := func(format string, args ...any) {
		events = append(events, library.Event{What: fmt.Sprintf(format, args...)})
	}
	if in.Name != nil {
		n, err := keep.Name("name", *in.Name)
		if err != nil {
			return nil, err
		}
		if n != c.Name {
			say("renamed from %s to %s", c.Name, n)
			c.Name = n
		}
	}
	if err := in.value(c, around, say, &events); err != nil {
		return nil, err
	}
	if in.Role != nil && library.AsRole(*in.Role) != c.Role {
		role := library.AsRole(*in.Role)
		if err := library.CheckRole(role); err != nil {
			return nil, keep.Wrong("role", "%v", err)
		}
		say("role set to %s", orNone(string(role)))
		c.Role = role
	}
	if in.Rule != nil && strings.TrimSpace(*in.Rule) != c.Rule {
		rule := strings.TrimSpace(*in.Rule)
		if err := library.CheckRule(rule); err != nil {
			return nil, keep.Wrong("rule", "%v", err)
		}
		say("rule for use set to \u201c%s\u201d", rule)
		c.Rule = rule
	}
	if in.Tag != nil && strings.TrimSpace(*in.Tag) != "" {
		tags := append(slices.Clone(c.Tags), *in.Tag)
		in.Tags = &tags
	}
	for _, words := range []struct {
		field, what string
		in          *[]string
		to          *[]string
	}{{"aliases", "also called", in.Aliases, &c.Aliases}, {"tags", "tagged", in.Tags, &c.Tags}} {
		if words.in == nil {
			continue
		}
		list, err := wordList(words.field, *words.in)
		if err != nil {
			return nil, err
		}
		if !slices.Equal(list, *words.to) {
			say("%s %s", words.what, orNone(strings.Join(list, ", ")))
			*words.to = list
		}
	}
	if err := in.ground(c, around, say); err != nil {
		return nil, err
	}
	if in.Group != nil {
		g := strings.TrimSpace(*in.Group)
		if g != "" {
			if g, err = keep.Name("group", g); err != nil {
				return nil, err
			}
		}
		switch {
		case g == c.Group || g != "" && store.NameKey(g) == store.NameKey(c.Group):
		case g == "":
			say("taken out of its group")
			c.Group = g
		default:
			say("moved to the group %s", g)
			c.Group = g
		}
	}
	return events, in.status(c, around, say)
}

func (in Change) value(c *library.Color, around around, say func(string, ...any), events *[]library.Event) error {
	var to keep.Given
	switch {
	case in.Lab != nil:
		lab, err := library.ReadLab(*in.Lab)
		if err != nil {
			return keep.Wrong("lab", "%v", err)
		}
		to.Master, to.RGB = library.Read(lab)
		if to.Master != c.Master {
			say("measured as Lab %s", library.WriteLab(lab))
		}
	case in.Value == nil:
		if in.Build || in.Decides || in.KeepHex {
			return keep.Wrong("value", "there is no value that decides")
		}
		return nil
	default:
		var err error
		if to, err = around.values.Read("value", *in.Value); err != nil {
			return err
		}
		if in.Build && to.Kind != library.OfBuild {
			return keep.Wrong("value", "%s is no CMYK build", *in.Value)
		}
	}
	shown := to.Kind == library.OfHex && to.RGB == c.RGB && c.Master.Kind != library.OfScreen // it is what plain screens have of it
	if to.Master == c.Master && (to.RGB == c.RGB || to.Kind != library.OfHex) || shown && !in.Decides {
		return nil
	}
	was := *c
	c.Decide(to.Master, to.RGB, around.by.Person(), around.now)
	stays := ""
	if in.KeepHex && to.Kind != library.OfHex {
		c.RGB, c.Plain = was.RGB, library.Plain{Origin: library.Signed, By: around.by.Person(), At: around.now}
		if around.by.Role != keep.RoleKeeper {
			c.Plain.Origin = library.Given
		}
		stays = "; screens keep " + c.RGB.Hex()
	}
	if n := len(*events); to.Kind == library.OfReading && stays != "" && n > 0 {
		(*events)[n-1].What += stays
	}
	if to.Kind != library.OfReading || c.RGB != was.RGB {
		de := color.DeltaE00(was.Lab(), c.Lab())
		*events = append(*events, library.Event{Before: was.RGB.Hex(), After: c.RGB.Hex(),
			What: fmt.Sprintf("amended from %s to %s, %.1f %s%s", was.Shows(), c.Shows(), de, color.Word(de), stays)})
	}
	return nil
}

func (in Change) ground(c *library.Color, around around, say func(string, ...any)) error {
	if in.Ground == nil {
		if in.Ratio != nil {
			return keep.Wrong("ground", "a contrast ratio is that with a ground, which is not named")
		}
		return nil
	}
	if *in.Ground == 0 {
		if !c.Ground.None() {
			say("no ground to stay legible on")
		}
		c.Ground, c.Ratio = library.Ref{}, 0
		return nil
	}
	ground, err := around.color(*in.Ground)
	switch {
	case err != nil:
		return keep.Missing(err, "color to stand on")
	case ground.ID == c.ID:
		return keep.Wrong("ground", "a color cannot stand on itself")
	case ground.Status == library.Draft:
		return keep.Wrong("ground", "%s is a draft, which not everybody sees; approve it first", ground.Name)
	}
	ratio := contrast.TextAA
	if in.Ratio != nil {
		ratio = *in.Ratio
	}
	if !(ratio >= 1 && ratio <= 21) {
		return keep.Wrong("ratio", "a contrast ratio lies between 1 and 21")
	}
	if c.Ground.ID != ground.ID || c.Ratio != ratio {
		say("to reach %g:1 on %s", ratio, ground.Name)
	}
	c.Ground, c.Ratio = ground.Ref(), ratio
	return nil
}

func (in Change) status(c *library.Color, around around, say func(string, ...any)) error {
	was := c.Successor
	if in.Successor != nil {
		c.Successor = library.Ref{}
		if *in.Successor != 0 {
			next, err := around.color(*in.Successor)
			switch {
			case err != nil:
				return keep.Missing(err, "color to succeed it")
			case next.ID == c.ID:
				return keep.Wrong("successor", "a color cannot succeed itself")
			case next.Status == library.Retired:
				return keep.Wrong("successor", "%s is retired itself", next.Name)
			case next.Status == library.Draft:
				return keep.Wrong("successor", "%s is a draft, which not everybody sees; approve it first", next.Name)
			}
			c.Successor = next.Ref()
		}
	}
	status := c.Status
	if in.Status != nil {
		status = library.Status(*in.Status)
	}
	if err := library.CheckStatus(status); err != nil {
		return keep.Wrong("status", "%v", err)
	}
	if status != library.Retired && in.Successor != nil && *in.Successor != 0 {
		return keep.Wrong("successor", "%s is not retired; only a retired color has a successor", c.Name)
	}
	if status == c.Status {
		if c.Successor.ID != was.ID {
			if c.Successor.None() {
				say("no longer replaced by %s", was.Name)
			} else {
				say("replaced by %s", c.Successor.Name)
			}
		}
		return nil
	}
	switch status {
	case library.Retired:
		if c.Successor.None() {
			say("retired")
		} else {
			say("retired, replaced by %s", c.Successor.Name)
		}
	case library.Approved:
		say("approved")
		if signed := c.Sign(around.by.Person(), around.now); len(signed) > 0 {
			say("%s came with it and counts as approved", strings.Join(signed, ", "))
		}
		c.Successor = library.Ref{}
	case library.Draft:
		others, err := around.pointing(c.ID)
		if err != nil {
			return err
		}
		if len(others) > 0 {
			return keep.Clash("status", "%s is the successor or the ground of %s, which everybody sees; it cannot be a draft", c.Name,
				some(others))
		}
		say("made a draft again")
		c.Successor = library.Ref{}
	}
	c.Status = status
	return nil
}

func orNone(s string) string {
	if s == "" {
		return "none"
	}
	return s
}

// some lists the first of many names in a sentence.
func some(list []string) string {
	const most = 5
	if len(list) > most {
		return fmt.Sprintf("%s and %d more", strings.Join(list[:most], ", "), len(list)-most)
	}
	return strings.Join(list, ", ")
}

func wordList(field string, list []string) ([]string, error) {
	var out []string
	for _, w := range list {
		if strings.TrimSpace(w) == "" {
			continue
		}
		n, err := keep.Name(field, w)
		if err != nil {
			return nil, err
		}
		if !slices.Contains(out, n) {
			out = append(out, n)
		}
	}
	if utf8.RuneCountInString(strings.Join(out, "\n")) > limits.RuleRunes {
		return nil, keep.Wrong(field, "that is more than %d characters", limits.RuleRunes)
	}
	return out, nil
}

// Bulk is a change of many colors; nil leaves a part as it is.
type Bulk struct {
	Colors    []int64
	Group     *string // empty for none
	Role      *string
	Tag       *string // added
	Status    *string
	Successor *int64
	Set       *string // a swatch set that they join, made if there is none
}

// ChangeMany changes many colors, all or none, with as many queries as for a few.
func (r *Rules) ChangeMany(ctx context.Context, a keep.Actor, in Bulk) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	if len(in.Colors) == 0 {
		return keep.Wrong("colors", "no color is chosen")
	}
	if err := keep.IDs("colors", in.Colors, limits.LibraryColors); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		colors, err := tx.ColorsToChange(a.House.ID, in.Colors)
		if err != nil {
			return keep.Missing(err, "color")
		}
		around := r.aroundIn(tx, a)
		change := Change{Group: in.Group, Role: in.Role, Status: in.Status, Successor: in.Successor, Tag: in.Tag}
		var changed, signed []library.Color
		var order []int64
		history := map[int64][]library.Event{}
		for _, c := range colors {
			was := c
			events, err := change.apply(&c, around)
			if err != nil {
				return err
			}
			if len(events) == 0 {
				continue
			}
			if history[c.ID], err = r.sign(a, &c, events); err != nil {
				return err
			}
			changed, order = append(changed, c), append(order, c.ID)
			if was.Status == library.Draft && c.Status == library.Approved {
				signed = append(signed, c)
			}
		}
		if len(changed) > 0 {
			groups, err := ensureGroups(tx, a, changed)
			if err != nil {
				return err
			}
			if err := tx.SaveColors(a.House.ID, groups, changed); err != nil {
				return err
			}
			if err := tx.SavePrint(signed); err != nil {
				return err
			}
			if err := tx.AddEvents(history, order); err != nil {
				return err
			}
		}
		if in.Set == nil || strings.TrimSpace(*in.Set) == "" {
			return nil
		}
		return send.Join(tx, a, *in.Set, false, in.Colors)
	})
}

// ensureGroups returns the ids of the house's groups by name, and of those that colors name and that are made now.
func ensureGroups(tx *store.DB, a keep.Actor, colors []library.Color) (map[string]int64, error) {
	list, err := tx.Groups(a.House.ID)
	if err != nil {
		return nil, err
	}
	out := map[string]int64{}
	for _, g := range list {
		out[g.Name] = g.ID
	}
	for _, c := range colors {
		if c.Group == "" || out[c.Group] != 0 {
			continue
		}
		if out[c.Group], err = tx.EnsureGroup(a.House.ID, c.Group); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// PutFamily keeps exactly these companions with a color. The grounds of sheers are given by number.
func (r *Rules) PutFamily(ctx context.Context, a keep.Actor, id int64, version int, list []library.Companion) error {
	if err := library.CheckCompanions(list); err != nil {
		return keep.Wrong("family", "%v", err)
	}
	return r.amend(ctx, a, id, version, func(tx *store.DB, c *library.Color) ([]library.Event, error) {
		for i, m := range list {
			if m.Ground.None() {
				continue
			}
			ground, err := tx.Color(a.House.ID, m.Ground.ID)
			switch {
			case err != nil:
				return nil, keep.Wrong("family", "there is no color number %d in this house for a sheer to lie over", m.Ground.ID)
			case ground.ID == id:
				return nil, keep.Wrong("family", "%s over itself is %s: a sheer needs another ground", c.Name, c.Name)
			case ground.Status == library.Draft:
				return nil, keep.Wrong("family", "%s is a draft, which not everybody sees; approve it before something lies over it",
					ground.Name)
			}
			list[i].Ground, list[i].Over = ground.Ref(), ground.RGB
		}
		c.Companions = list
		permitted := 0
		for _, m := range list {
			if m.Permitted {
				permitted++
			}
		}
		return []library.Event{{What: fmt.Sprintf("%d tints, shades, tones, sheers and steps kept, %d of them permitted", len(list),
			permitted)}}, nil
	})
}

// BringBack makes a color what it was after an event of its history. That is a change of its own, with a history entry.
func (r *Rules) BringBack(ctx context.Context, a keep.Actor, id int64, version int, event int64) error {
	return r.amend(ctx, a, id, version, r.back(a, event))
}

// back is the change to what a color was after an event.
func (r *Rules) back(a keep.Actor, event int64) func(*store.DB, *library.Color) ([]library.Event, error) {
	return func(tx *store.DB, c *library.Color) ([]library.Event, error) {
		e, err := tx.Event(c.ID, event)
		if err != nil {
			return nil, keep.Missing(err, "entry in the history of this color")
		}
		if e.State == "" {
			return nil, keep.Clash("", "what the color was then is not kept; it can be amended by hand")
		}
		was, err := library.ReadState(e.State)
		if err != nil {
			return nil, keep.Clash("", "what the color was then cannot be read: %v", err)
		}
		out := []library.Event{{What: fmt.Sprintf("brought back to what it was on %s", e.At.UTC().Format("January 2, 2006, 15:04"))}}
		if was.Value() != c.Value() {
			out[0].Before, out[0].After = c.RGB.Hex(), was.RGB.Hex()
		}
		was.ID, was.Position, was.Version, was.Added = c.ID, c.Position, c.Version, c.Added
		// What it pointed to may have another name meanwhile, or be gone, or not be for everybody.
		gone := was.Point(func(ref library.Ref) library.Ref {
			if ref = r.stillThere(tx, a, ref, e.From == ""); ref.ID == c.ID {
				return library.Ref{}
			}
			return ref
		})
		out[0].What += withoutSheers(gone)
		if was.Group != "" {
			if _, err := tx.EnsureGroup(a.House.ID, was.Group); err != nil {
				return nil, err
			}
		}
		*c = was
		return out, nil
	}
}

// stillThere finds what a kept state points to: by name, or by the number if it was given here.
func (r *Rules) stillThere(tx *store.DB, a keep.Actor, ref library.Ref, here bool) library.Ref {
	if ref.None() {
		return ref
	}
	other, err := tx.ColorByName(a.House.ID, ref.Name)
	if err != nil && here && ref.ID != 0 {
		other, err = tx.Color(a.House.ID, ref.ID)
	}
	if err != nil || other.Status == library.Draft {
		return library.Ref{}
	}
	return other.Ref()
}
