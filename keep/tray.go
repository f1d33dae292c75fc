package keep

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/limits"
	"huekeep/core/press"
	"huekeep/store"
)

// Candidate is a color on the tray with what a person should know before admitting it.
type Candidate struct {
	store.Candidate
	Notes []Note
}

// Note is a remark on a candidate.
type Note struct {
	Kind   string // unnamed, name-taken, same-value, near-value, twice-on-tray, near-on-tray or remark
	Text   string
	Blocks bool // it cannot be admitted like this
	Color  *store.Color
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
func (k *Keeper) Read(ctx context.Context, a Actor, text string) ([]Line, error) {
	book, err := k.book(k.DB.With(ctx), a.House.ID)
	if err != nil {
		return nil, err
	}
	lines, err := readText(text, book)
	if err != nil {
		return nil, err
	}
	c, err := k.comparison(ctx, a)
	if err != nil {
		return nil, err
	}
	out := lines
	for i, l := range lines {
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
		return nil, &Error{Kind: TooLarge, Field: "text", Message: fmt.Sprintf("The text has %s; at most %s are read at once.", limits.Size(int64(len(text))), limits.Size(limits.PasteBytes))}
	}
	lines := color.ReadList(text)
	if len(lines) == 0 {
		return nil, invalid("text", "the list is empty; type or paste a color, or one color a line")
	}
	if len(lines) > limits.PasteLines {
		return nil, &Error{Kind: TooLarge, Field: "text", Message: fmt.Sprintf("The list has %d lines; at most %d are read at once.", len(lines), limits.PasteLines)}
	}
	out := make([]Line, len(lines))
	for i, l := range lines {
		out[i].Line = l
		if errors.Is(l.Err, color.ErrInkOnly) { // a printer's list: the screen shows what the coated press makes of it
			out[i].RGB, out[i].Err = look(press.Coated().Lab(*l.CMYK)), nil
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
			rest := color.ReadList(strings.Replace(l.Text, text, look(k.Coated).Hex(), 1))
			if len(rest) != 1 || rest[0].Err != nil {
				return
			}
			l.Name, l.RGB, l.Value, l.CMYK, l.Err = rest[0].Name, look(k.Coated), k.Code, rest[0].CMYK, nil
			l.Note = "the screen value is how the ink looks on coated stock"
			return
		}
		l.Name = strings.Trim(strings.Join(strings.Fields(strings.Replace(l.Name, text, "", 1)), " "), " ,;:()-")
		return
	}
}

// AddToTray puts every understood line on the actor's tray. The lines that were not understood are returned with their
// reasons; a text without a single color is an error.
func (k *Keeper) AddToTray(ctx context.Context, a Actor, text string) (added int, problems []Line, err error) {
	if err := a.may(RoleContributor); err != nil {
		return 0, nil, err
	}
	book, err := k.book(k.DB.With(ctx), a.House.ID)
	if err != nil {
		return 0, nil, err
	}
	lines, err := readText(text, book)
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
		row := store.Candidate{UserID: a.User, HouseID: a.House.ID, Name: l.Name, Hex: l.RGB.Hex(), Source: l.Text, Remark: l.Note, Spot: l.Spot, Origin: "paste", CreatedAt: now}
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
	return len(rows), problems, k.put(ctx, a, rows)
}

// put adds candidates at the end of the tray, or where they say.
func (k *Keeper) put(ctx context.Context, a Actor, rows []store.Candidate) error {
	return k.DB.In(ctx, func(tx *store.DB) error {
		there, err := tx.Tray(a.User, a.House.ID)
		if err != nil {
			return err
		}
		if len(there)+len(rows) > limits.TrayItems {
			return conflict("text", "the tray would hold %d candidates; at most %d fit", len(there)+len(rows), limits.TrayItems)
		}
		last, err := tx.LastOnTray(a.User, a.House.ID)
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
	Position    int // 0 for the end
}

// Origins are where candidates come from.
var Origins = []string{"paste", "picture", "file", "harmony", "starter", "reading"}

// PutOnTray adds candidates that are known already, all or none. A candidate without a name gets a description of its color
// as one, numbered where the tray or the library has it.
func (k *Keeper) PutOnTray(ctx context.Context, a Actor, list []NewCandidate) error {
	if err := a.may(RoleContributor); err != nil {
		return err
	}
	if len(list) == 0 {
		return invalid("colors", "no color is chosen")
	}
	c, err := k.comparison(ctx, a)
	if err != nil {
		return err
	}
	tray, err := k.DB.With(ctx).Tray(a.User, a.House.ID)
	if err != nil {
		return err
	}
	taken := map[string]bool{}
	for key := range c.names {
		taken[key] = true
	}
	for _, t := range tray {
		taken[store.NameKey(t.Name)] = true
	}
	book, err := k.book(k.DB.With(ctx), a.House.ID)
	if err != nil {
		return err
	}
	now := k.Now()
	rows := make([]store.Candidate, len(list))
	for i, n := range list {
		rgb, note, err := masterValue("colors", n.Value)
		if err != nil {
			return err
		}
		row := store.Candidate{UserID: a.User, HouseID: a.House.ID, Hex: rgb.Hex(), Source: short(n.Source, 1000), Remark: note, Origin: n.Origin, Position: n.Position, CreatedAt: now}
		if !slices.Contains(Origins, n.Origin) {
			return invalid("colors", "the origin %q is none of %s", n.Origin, strings.Join(Origins, ", "))
		}
		if strings.TrimSpace(n.Name) != "" {
			if row.Name, err = name("colors", n.Name); err != nil {
				return err
			}
		} else {
			row.Name = free(rgb.Describe(), taken)
			if row.Remark == "" {
				row.Remark = "a description, not yet a name"
			}
		}
		taken[store.NameKey(row.Name)] = true
		if n.CMYK != "" {
			b, err := color.ParseCMYK(n.CMYK)
			if err != nil {
				return invalid("colors", "%v", err)
			}
			row.CMYK = b.String()
		}
		if n.Spot != "" {
			found, ok := book.Find(n.Spot)
			if !ok {
				return invalid("colors", "%q is not in the %s ink book", n.Spot, book.Name)
			}
			row.Spot = found.Code
		}
		if n.Lab != "" {
			lab, err := ReadLab(n.Lab)
			if err != nil {
				return err
			}
			row.Lab = WriteLab(lab)
		}
		rows[i] = row
	}
	return k.put(ctx, a, rows)
}

// free numbers a name until nobody has it: "dark blue", "dark blue 2". It begins with a capital.
func free(s string, taken map[string]bool) string {
	s = strings.TrimSuffix(sentence(s), ".")
	for n, base := 2, s; taken[store.NameKey(s)]; n++ {
		s = fmt.Sprintf("%s %d", base, n)
	}
	return s
}

func short(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n])
	}
	return s
}

// ReadLab reads a stored or sent CIELAB value, "L a b".
func ReadLab(s string) (color.Lab, error) {
	f := strings.Fields(s)
	var v [3]float64
	for i := range v {
		var err error
		if len(f) != 3 {
			return color.Lab{}, invalid("lab", "%q is not a CIELAB value of three numbers", s)
		}
		if v[i], err = strconv.ParseFloat(f[i], 64); err != nil || math.IsNaN(v[i]) {
			return color.Lab{}, invalid("lab", "%q is not a number of a CIELAB value", f[i])
		}
	}
	if v[0] < 0 || v[0] > 100 || math.Abs(v[1]) > 200 || math.Abs(v[2]) > 200 {
		return color.Lab{}, invalid("lab", "CIELAB %s lies outside its range", s)
	}
	return color.Lab{L: v[0], A: v[1], B: v[2]}, nil
}

// WriteLab writes a CIELAB value for keeping and sending, with two decimals.
func WriteLab(l color.Lab) string { return fmt.Sprintf("%.2f %.2f %.2f", l.L, l.A, l.B) }

// OrderTray puts the tray in an order: the candidates named come first, as they are named.
func (k *Keeper) OrderTray(ctx context.Context, a Actor, ids []int64) error {
	if err := a.may(RoleContributor); err != nil {
		return err
	}
	return k.DB.In(ctx, func(tx *store.DB) error {
		rows, err := tx.TrayToAdmit(a.User, a.House.ID)
		if err != nil {
			return err
		}
		for _, r := range rows {
			if !slices.Contains(ids, r.ID) {
				ids = append(ids, r.ID)
			}
		}
		for i, id := range ids {
			if err := tx.PlaceCandidate(a.User, a.House.ID, id, i+1); err != nil {
				return err
			}
		}
		return nil
	})
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
	labs := make([]color.Lab, len(rows))
	for i, r := range rows {
		out[i] = Candidate{r, c.notes(r)}
		labs[i] = rgbOf(r.Hex).Lab()
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
	Items   []int64
	Group   string
	Role    string
	Set     string          // name of a swatch set to put them on, made if there is none; empty for none
	Replace bool            // take off the set what was on it before
	Use     map[int64]int64 // candidates that are dropped for a library color that exists, which joins the set instead
}

// Roles are what a color can be for.
var Roles = []string{"primary", "secondary", "accent", "neutral"}

// Admit makes candidates library colors, all of them or none. A contributor's become drafts, which a keeper approves.
// A build that came with the value is kept as approved, by the one who admits.
func (k *Keeper) Admit(ctx context.Context, a Actor, in Admission) ([]store.Color, error) {
	if err := a.may(RoleContributor); err != nil {
		return nil, err
	}
	if len(in.Items)+len(in.Use) == 0 {
		return nil, invalid("items", "no candidate is chosen")
	}
	if in.Set != "" {
		if err := a.may(RoleKeeper); err != nil {
			return nil, err
		}
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
			c := store.Color{HouseID: a.House.ID, GroupID: groupID, Name: r.Name, NameKey: key, Hex: r.Hex, Role: in.Role, Lab: r.Lab,
				Status: status, Position: last, Version: 1, CreatedAt: now, UpdatedAt: now}
			if r.Spot != "" && status == "approved" {
				c.Spots = []store.Spot{{Stock: string(shownStock), Code: r.Spot, ByName: a.Name, ApprovedAt: now, ForHex: r.Hex}}
			}
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
		existing := map[int64]bool{}
		for _, c := range library {
			existing[c.ID] = true
		}
		drop := slices.Clone(in.Items)
		for item, id := range in.Use {
			if _, ok := byID[item]; !ok || !existing[id] {
				return &Error{Kind: Conflict, Field: "use", Message: "A candidate or the color that stands for it is no longer there; look again."}
			}
			drop = append(drop, item)
		}
		if len(admitted) == 0 {
			if err := k.joinSet(tx, a, in, nil, rows); err != nil {
				return err
			}
			return tx.RemoveCandidates(a.User, a.House.ID, drop...)
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
			if len(c.Spots) > 0 {
				events = append(events, store.ColorEvent{ColorID: c.ID, At: now, ByName: a.Name,
					What: fmt.Sprintf("spot ink %s came with it and counts as approved", c.Spots[0].Code)})
			}
			if len(c.Builds) > 0 {
				b := c.Builds[0]
				events = append(events, store.ColorEvent{ColorID: c.ID, At: now, ByName: a.Name,
					What: fmt.Sprintf("CMYK %s for %s came with it and counts as approved", color.CMYK{C: b.C, M: b.M, Y: b.Y, K: b.K}, b.Press)})
			}
		}
		byColor := map[int64]string{}
		for _, c := range admitted {
			st := stateFrom(c)
			st.Group = group
			if byColor[c.ID], err = st.text(); err != nil {
				return err
			}
		}
		for i, e := range events {
			if i == len(events)-1 || events[i+1].ColorID != e.ColorID {
				events[i].State = byColor[e.ColorID]
			}
		}
		if err := tx.Add(&events); err != nil {
			return err
		}
		if err := k.joinSet(tx, a, in, admitted, rows); err != nil {
			return err
		}
		return tx.RemoveCandidates(a.User, a.House.ID, drop...)
	})
	return admitted, err
}

// joinSet puts what was admitted, and the library colors used instead of candidates, on the set that the admission names,
// in the order of the tray. A color that is on the set already is not there twice.
func (k *Keeper) joinSet(tx *store.DB, a Actor, in Admission, admitted []store.Color, tray []store.Candidate) error {
	if in.Set == "" {
		return nil
	}
	setName, err := name("set", in.Set)
	if err != nil {
		return err
	}
	color := map[int64]int64{}
	for i, item := range in.Items {
		if i < len(admitted) {
			color[item] = admitted[i].ID
		}
	}
	for item, id := range in.Use {
		color[item] = id
	}
	sets, err := tx.Sets(a.House.ID)
	if err != nil {
		return err
	}
	var members []int64
	id := int64(0)
	for _, s := range sets {
		if s.NameKey == store.NameKey(setName) {
			locked, err := tx.SetToChange(a.House.ID, s.ID)
			if err != nil {
				return missing(err, "swatch set")
			}
			id = s.ID
			for _, c := range locked.Colors {
				if !in.Replace {
					members = append(members, c.ColorID)
				}
			}
			locked.Version++
			if err := tx.Save(&locked); err != nil {
				return err
			}
		}
	}
	if id == 0 {
		row := store.SwatchSet{HouseID: a.House.ID, Name: setName, NameKey: store.NameKey(setName), Position: len(sets) + 1, Version: 1}
		if err := tx.Add(&row); err != nil {
			return taken(err, "set", "somebody else just made a swatch set named %s; look again", setName)
		}
		id = row.ID
	}
	for _, c := range tray {
		if m, ok := color[c.ID]; ok && !slices.Contains(members, m) {
			members = append(members, m)
		}
	}
	if len(members) > limits.SetColors {
		return invalid("set", "the set %s would hold %d colors; at most %d fit", setName, len(members), limits.SetColors)
	}
	return tx.PutSetColors(id, members)
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
	list = slices.DeleteFunc(list, func(c store.Color) bool { return !a.sees(c) }) // a note would tell of a draft
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
