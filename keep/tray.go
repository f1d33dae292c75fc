package keep

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"huekeep/core/color"
	"huekeep/core/limits"
	"huekeep/store"
)

// Candidate is a color on the tray with what a person should know before admitting it.
type Candidate struct {
	store.Candidate
	Notes []Note
}

// Note is a remark on a candidate.
type Note struct {
	Kind   string // unnamed, name-taken, same-value, near-value, twice-on-tray or remark
	Text   string
	Blocks bool // it cannot be admitted like this
	Color  *store.Color
}

// Line is a line of pasted text with what is to be known of it.
type Line struct {
	color.Line
	Notes []string
}

// nearDE is the ΔE00 under which two colors are pointed out as one.
const nearDE = 1

// Read says what would be understood of a text; nothing is kept. Any role may try it.
func (k *Keeper) Read(ctx context.Context, a Actor, text string) ([]Line, error) {
	lines, err := readText(text)
	if err != nil {
		return nil, err
	}
	c, err := k.comparison(ctx, a)
	if err != nil {
		return nil, err
	}
	out := make([]Line, len(lines))
	for i, l := range lines {
		out[i].Line = l
		if l.Err != nil {
			continue
		}
		for _, n := range c.notes(store.Candidate{Name: l.Name, Hex: l.RGB.Hex(), Remark: l.Note}) {
			if n.Kind != "unnamed" {
				out[i].Notes = append(out[i].Notes, n.Text)
			}
		}
		if l.CMYK != nil {
			out[i].Notes = append(out[i].Notes, fmt.Sprintf("CMYK %s comes with it", *l.CMYK))
		}
	}
	return out, nil
}

func readText(text string) ([]color.Line, error) {
	if len(text) > limits.PasteBytes {
		return nil, &Error{Kind: TooLarge, Field: "text", Message: fmt.Sprintf("The text has %s; at most %s are read at once.", limits.Size(int64(len(text))), limits.Size(limits.PasteBytes))}
	}
	lines := color.ReadList(text)
	if len(lines) == 0 {
		return nil, invalid("text", "the list is empty; type or paste a color, or one color a line")
	}
	if len(lines) > limits.PasteLines {
		return nil, &Error{Kind: TooLarge, Field: "text", Message: fmt.Sprintf("The list has %d lines; at most %d are read at once.", len(lines), limits.PasteLines)}
	}
	return lines, nil
}

// AddToTray puts every understood line on the actor's tray. The lines that were not understood are returned with their
// reasons; a text without a single color is an error.
func (k *Keeper) AddToTray(ctx context.Context, a Actor, text string) (added int, problems []color.Line, err error) {
	if err := a.may(RoleContributor); err != nil {
		return 0, nil, err
	}
	lines, err := readText(text)
	if err != nil {
		return 0, nil, err
	}
	now := k.Now()
	var rows []store.Candidate
	for _, l := range lines {
		if l.Err == nil && len([]rune(l.Name)) > limits.NameRunes {
			l.Err = fmt.Errorf("the name has over %d characters", limits.NameRunes)
		}
		if l.Err != nil {
			problems = append(problems, l)
			continue
		}
		row := store.Candidate{UserID: a.User, HouseID: a.House.ID, Name: l.Name, Hex: l.RGB.Hex(), Source: l.Text, Remark: l.Note, CreatedAt: now}
		if l.CMYK != nil {
			row.CMYK = l.CMYK.String()
		}
		rows = append(rows, row)
	}
	if len(rows) == 0 {
		reason := problems[0].Err.Error()
		if len(problems) > 1 {
			return 0, problems, invalid("text", "none of the %d lines holds a color; line %d: %s", len(problems), problems[0].Number, reason)
		}
		return 0, problems, invalid("text", "%s", reason)
	}
	err = k.DB.In(ctx, func(tx *store.DB) error {
		there, err := tx.Tray(a.User, a.House.ID)
		if err != nil {
			return err
		}
		if len(there)+len(rows) > limits.TrayItems {
			return conflict("text", "the tray would hold %d candidates; at most %d fit", len(there)+len(rows), limits.TrayItems)
		}
		return tx.Add(&rows)
	})
	return len(rows), problems, err
}

// Tray lists the actor's candidates with notes.
func (k *Keeper) Tray(ctx context.Context, a Actor) ([]Candidate, error) {
	rows, err := k.DB.With(ctx).Tray(a.User, a.House.ID)
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	c, err := k.comparison(ctx, a)
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
	for i, r := range rows {
		out[i] = Candidate{r, c.notes(r)}
	}
	return out, nil
}

// ChangeCandidate renames a candidate or gives it another value; nil leaves it as it is.
func (k *Keeper) ChangeCandidate(ctx context.Context, a Actor, id int64, newName, value *string) error {
	if err := a.may(RoleContributor); err != nil {
		return err
	}
	return k.DB.In(ctx, func(tx *store.DB) error {
		c, err := tx.Candidate(a.User, a.House.ID, id)
		if err != nil {
			return missing(err, "candidate on your tray")
		}
		if newName != nil {
			if c.Name, err = name("name", *newName); err != nil && strings.TrimSpace(*newName) != "" {
				return err
			}
		}
		if value != nil {
			rgb, note, err := masterValue("value", *value)
			if err != nil {
				return err
			}
			c.Hex, c.Remark = rgb.Hex(), note
		}
		return tx.Save(&c)
	})
}

// masterValue reads a value that can be the master of a color.
func masterValue(field, text string) (color.RGB8, string, error) {
	t, err := color.Parse(text)
	switch {
	case err != nil:
		return color.RGB8{}, "", invalid(field, "%v", err)
	case t.CMYK != nil:
		return color.RGB8{}, "", invalid(field, "%s is a CMYK build; the master value is a screen color, and a build is approved beside it", text)
	case t.Alpha < 1:
		return color.RGB8{}, "", invalid(field, "%s is transparent; a brand color is opaque", text)
	}
	note := ""
	if t.Outside() {
		note = "it lies outside sRGB; this is the nearest screen color"
	}
	return t.RGB8(), note, nil
}

// RemoveCandidate takes one candidate off the tray.
func (k *Keeper) RemoveCandidate(ctx context.Context, a Actor, id int64) error {
	if err := a.may(RoleContributor); err != nil {
		return err
	}
	return missing(k.DB.With(ctx).RemoveCandidates(a.User, a.House.ID, id), "candidate on your tray")
}

// ClearTray takes everything off the tray.
func (k *Keeper) ClearTray(ctx context.Context, a Actor) error {
	if err := a.may(RoleContributor); err != nil {
		return err
	}
	return k.DB.With(ctx).ClearTray(a.User, a.House.ID)
}

// Admission says which candidates become library colors, and how.
type Admission struct {
	Items []int64
	Group string
	Role  string
}

// Roles are what a color can be for.
var Roles = []string{"primary", "secondary", "accent", "neutral"}

// Admit makes candidates library colors, all of them or none. A contributor's become drafts, which a keeper approves.
// A build that came with the value is kept as approved, by the one who admits.
func (k *Keeper) Admit(ctx context.Context, a Actor, in Admission) ([]store.Color, error) {
	if err := a.may(RoleContributor); err != nil {
		return nil, err
	}
	if len(in.Items) == 0 {
		return nil, invalid("items", "no candidate is chosen")
	}
	if in.Role != "" && !slices.Contains(Roles, in.Role) {
		return nil, invalid("role", "the role %q is none of %s", in.Role, strings.Join(Roles, ", "))
	}
	group := strings.TrimSpace(in.Group)
	if group != "" {
		var err error
		if group, err = name("group", group); err != nil {
			return nil, err
		}
	}
	var admitted []store.Color
	err := k.DB.In(ctx, func(tx *store.DB) error {
		admitted = nil
		rows, err := tx.TrayToAdmit(a.User, a.House.ID)
		if err != nil {
			return err
		}
		byID := map[int64]store.Candidate{}
		for _, r := range rows {
			byID[r.ID] = r
		}
		library, err := tx.Colors(a.House.ID)
		if err != nil {
			return err
		}
		names := map[string]string{}
		for _, c := range library {
			names[c.NameKey] = c.Name
		}
		problems := &Error{Kind: Conflict, Field: "items"}
		blame := func(id int64, format string, args ...any) {
			problems.Items = append(problems.Items, ItemError{id, sentence(fmt.Sprintf(format, args...))})
		}
		var groupID *int64
		if group != "" {
			id, err := tx.EnsureGroup(a.House.ID, group)
			if err != nil {
				return err
			}
			groupID = &id
		}
		last, err := tx.LastPosition(a.House.ID)
		if err != nil {
			return err
		}
		status := "approved"
		if a.Role != RoleKeeper {
			status = "draft"
		}
		now := k.Now()
		for _, id := range in.Items {
			r, ok := byID[id]
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
			names[key] = r.Name
			last++
			c := store.Color{HouseID: a.House.ID, GroupID: groupID, Name: r.Name, NameKey: key, Hex: r.Hex, Role: in.Role,
				Status: status, Position: last, Version: 1, CreatedAt: now, UpdatedAt: now}
			if r.CMYK != "" && status == "approved" {
				if b, err := color.ParseCMYK(r.CMYK); err == nil {
					c.Builds = []store.Build{{Press: shownPress, C: b.C, M: b.M, Y: b.Y, K: b.K, ByName: a.Name, ApprovedAt: now, ForHex: r.Hex}}
				}
			}
			admitted = append(admitted, c)
		}
		if len(problems.Items) > 0 {
			problems.Message = problems.Items[0].Reason
			if n := len(problems.Items); n > 1 {
				problems.Message = fmt.Sprintf("%d of the %d candidates cannot be admitted like this. %s", n, len(in.Items), problems.Message)
			}
			return problems
		}
		if len(library)+len(admitted) > limits.LibraryColors {
			return conflict("items", "the library would hold %d colors; at most %d fit", len(library)+len(admitted), limits.LibraryColors)
		}
		if err := tx.Add(&admitted); err != nil {
			return taken(err, "items", "somebody else just admitted a color with one of these names; look again")
		}
		var events []store.ColorEvent
		for i, c := range admitted {
			what := "admitted as " + c.Hex
			if status == "draft" {
				what = "proposed as " + c.Hex
			}
			if source := byID[in.Items[i]].Source; source != "" && source != c.Hex {
				what += fmt.Sprintf(", from \u201c%s\u201d", source)
			}
			events = append(events, store.ColorEvent{ColorID: c.ID, At: now, ByName: a.Name, What: what, AfterHex: c.Hex})
			if len(c.Builds) > 0 {
				b := c.Builds[0]
				events = append(events, store.ColorEvent{ColorID: c.ID, At: now, ByName: a.Name,
					What: fmt.Sprintf("CMYK %s for %s came with it and counts as approved", color.CMYK{C: b.C, M: b.M, Y: b.Y, K: b.K}, b.Press)})
			}
		}
		if err := tx.Add(&events); err != nil {
			return err
		}
		return tx.RemoveCandidates(a.User, a.House.ID, in.Items...)
	})
	return admitted, err
}

// comparison holds the library for comparing candidates with it.
type comparison struct {
	colors []store.Color
	labs   []color.Lab
	names  map[string]int
	values map[string]int
	tray   map[string]int // how often a name is on the tray
}

func (k *Keeper) comparison(ctx context.Context, a Actor) (*comparison, error) {
	list, err := k.DB.With(ctx).Colors(a.House.ID)
	if err != nil {
		return nil, err
	}
	c := &comparison{colors: list, names: map[string]int{}, values: map[string]int{}}
	for i, v := range list {
		c.labs = append(c.labs, rgbOf(v.Hex).Lab())
		c.names[v.NameKey] = i
		if _, ok := c.values[v.Hex]; !ok {
			c.values[v.Hex] = i
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
		what := fmt.Sprintf("the name is taken: %s is %s", other.Name, other.Hex)
		if other.Hex == r.Hex {
			what = fmt.Sprintf("%s is in the library already, with this value", other.Name)
		}
		out = append(out, Note{Kind: "name-taken", Text: what, Blocks: true, Color: &other})
	} else if c.tray[key] > 1 {
		out = append(out, Note{Kind: "twice-on-tray", Text: "the name is on the tray twice", Blocks: true})
	}
	if i, ok := c.values[r.Hex]; ok {
		if c.colors[i].NameKey != key {
			out = append(out, Note{Kind: "same-value", Text: "same value as " + described(c.colors[i]), Color: &c.colors[i]})
		}
	} else if i, de := c.nearest(rgbOf(r.Hex).Lab()); i >= 0 && de < nearDE {
		out = append(out, Note{Kind: "near-value", Text: fmt.Sprintf("%.1f %s from %s", de, color.Word(de), described(c.colors[i])), Color: &c.colors[i]})
	}
	if r.Remark != "" {
		out = append(out, Note{Kind: "remark", Text: r.Remark})
	}
	return out
}

func described(c store.Color) string {
	if c.Status == "retired" {
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
