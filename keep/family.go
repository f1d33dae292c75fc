package keep

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"huekeep/core/color"
	"huekeep/core/gradient"
	"huekeep/core/limits"
	"huekeep/core/press"
	"huekeep/core/scale"
	"huekeep/store"
)

// What is kept with a color, and what becomes of many at once.

// Relative is a tint, shade, tone or step of a color, with the value that follows from the master.
type Relative struct {
	Kind      string // tint, shade, tone or step
	Amount    int    // percent, or the name of a step
	Permitted bool
	Value     color.RGB8
	Build     *color.CMYK // of a tint, on the coated press
}

// family computes the companions of a color.
func family(c store.Color) []Relative {
	if len(c.Companions) == 0 { // as most are; the audit asks for every color
		return nil
	}
	rgb := rgbOf(c.Hex)
	steps := map[int]color.RGB8{}
	for _, s := range scale.Steps(rgb) {
		steps[s.Name] = s.Color
	}
	var out []Relative
	for _, kind := range []string{"tint", "shade", "tone", "step"} {
		for _, m := range c.Companions {
			if m.Kind != kind {
				continue
			}
			r := Relative{Kind: kind, Amount: m.Amount, Permitted: m.Permitted}
			p := float64(m.Amount)
			switch kind {
			case "tint":
				build := press.Coated().Build(rgb.Lab()).Whole
				for _, b := range c.Builds {
					if b.Press == shownPress {
						build = color.CMYK{C: b.C, M: b.M, Y: b.Y, K: b.K}
					}
				}
				t := press.Coated().Tints(build, rgb, p)[0]
				r.Value, r.Build = t.Screen, &t.Build
			case "shade":
				r.Value = scale.Shade(rgb, p)
			case "tone":
				r.Value = scale.Tone(rgb, p)
			case "step":
				r.Value = steps[m.Amount]
			}
			out = append(out, r)
		}
	}
	slices.SortStableFunc(out, func(x, y Relative) int {
		if x.Kind != y.Kind {
			return 0
		}
		if x.Kind == "step" {
			return x.Amount - y.Amount
		}
		return y.Amount - x.Amount
	})
	return out
}

// called names a companion: "Deep Sound, 60 % tint" or "Deep Sound 300".
func (r Relative) called(name string) string {
	if r.Kind == "step" {
		return fmt.Sprintf("%s %d", name, r.Amount)
	}
	return fmt.Sprintf("%s, %d %% %s", name, r.Amount, r.Kind)
}

// fitFamily refuses companions that cannot be.
func fitFamily(list []store.Companion) error {
	seen := map[string]bool{}
	for _, m := range list {
		key := fmt.Sprint(m.Kind, m.Amount)
		switch {
		case seen[key]:
			return invalid("family", "%s %d is listed twice", m.Kind, m.Amount)
		case m.Kind == "step" && !slices.ContainsFunc(scale.Steps(color.RGB8{}), func(s scale.Step) bool { return s.Name == m.Amount }):
			return invalid("family", "there is no step %d; there are 50, 100 to 900, 950", m.Amount)
		case m.Kind != "step" && !slices.Contains([]string{"tint", "shade", "tone"}, m.Kind):
			return invalid("family", "%q is none of tint, shade, tone, step", m.Kind)
		case m.Kind != "step" && (m.Amount < 1 || m.Amount > 99):
			return invalid("family", "a %s lies between 1 and 99 percent", m.Kind)
		}
		seen[key] = true
	}
	return nil
}

// PutFamily keeps exactly these companions with a color.
func (k *Keeper) PutFamily(ctx context.Context, a Actor, id int64, version int, list []store.Companion) error {
	if err := fitFamily(list); err != nil {
		return err
	}
	for i := range list {
		list[i].ColorID = id
	}
	return k.amend(ctx, a, id, version, func(tx *store.DB, c *store.Color) ([]store.ColorEvent, error) {
		if err := tx.PutCompanions(id, list); err != nil {
			return nil, err
		}
		permitted := 0
		for _, m := range list {
			if m.Permitted {
				permitted++
			}
		}
		return []store.ColorEvent{{What: fmt.Sprintf("%d tints, shades, tones and steps kept, %d of them permitted", len(list), permitted)}}, nil
	})
}

func wordList(field string, list []string) (string, error) {
	var out []string
	for _, w := range list {
		if strings.TrimSpace(w) == "" {
			continue
		}
		n, err := name(field, w)
		if err != nil {
			return "", err
		}
		if !slices.Contains(out, n) {
			out = append(out, n)
		}
	}
	text := strings.Join(out, "\n")
	if utf8.RuneCountInString(text) > limits.RuleRunes {
		return "", invalid(field, "that is more than %d characters", limits.RuleRunes)
	}
	return text, nil
}

// words parts a kept list.
func words(text string) []string {
	if text == "" {
		return nil
	}
	return strings.Split(text, "\n")
}

// state is a color as an event left it. It names other colors and the group, so that it can be carried to another house.
type state struct {
	Name, Hex, Lab, Role, Rule, Status, Group string
	Aliases, Tags                             string
	Successor, Partner                        string
	Ratio                                     float64
	Builds                                    []store.Build
	Spots                                     []store.Spot
	Companions                                []store.Companion
}

func (s state) text() (string, error) {
	text, err := json.Marshal(s)
	return string(text), err
}

// stateFrom takes down what a color is, but for its group and the colors that it points to.
func stateFrom(c store.Color) state {
	return state{Name: c.Name, Hex: c.Hex, Lab: c.Lab, Role: c.Role, Rule: c.Rule, Status: c.Status, Aliases: c.Aliases, Tags: c.Tags,
		Ratio: c.PartnerRatio, Builds: c.Builds, Spots: c.Spots, Companions: c.Companions}
}

func stateOf(tx *store.DB, house, id int64) (string, error) {
	c, err := tx.Color(house, id)
	if err != nil {
		return "", err
	}
	s := stateFrom(c)
	for _, other := range []struct {
		id *int64
		to *string
	}{{c.SuccessorID, &s.Successor}, {c.PartnerID, &s.Partner}} {
		if other.id != nil {
			o, err := tx.Color(house, *other.id)
			if err != nil {
				return "", err
			}
			*other.to = o.Name
		}
	}
	if c.GroupID != nil {
		groups, err := tx.Groups(house)
		if err != nil {
			return "", err
		}
		for _, g := range groups {
			if g.ID == *c.GroupID {
				s.Group = g.Name
			}
		}
	}
	return s.text()
}

// BringBack makes a color what it was after an event of its history. That is a change of its own, with a history entry.
func (k *Keeper) BringBack(ctx context.Context, a Actor, id int64, version int, event int64) error {
	return k.amend(ctx, a, id, version, func(tx *store.DB, c *store.Color) ([]store.ColorEvent, error) {
		e, err := tx.Event(id, event)
		if err != nil {
			return nil, missing(err, "entry in the history of this color")
		}
		var s state
		if e.State == "" || json.Unmarshal([]byte(e.State), &s) != nil {
			return nil, conflict("", "what the color was then is not kept; it can be amended by hand")
		}
		out := []store.ColorEvent{{What: fmt.Sprintf("brought back to what it was on %s", e.At.UTC().Format("January 2, 2006, 15:04"))}}
		if s.Hex != c.Hex {
			out[0].BeforeHex, out[0].AfterHex = c.Hex, s.Hex
		}
		c.Name, c.NameKey, c.Hex, c.Lab, c.Role, c.Rule, c.Status = s.Name, store.NameKey(s.Name), s.Hex, s.Lab, s.Role, s.Rule, s.Status
		c.Aliases, c.Tags, c.PartnerRatio = s.Aliases, s.Tags, s.Ratio
		c.GroupID, c.SuccessorID, c.PartnerID = nil, nil, nil
		if s.Group != "" {
			g, err := tx.EnsureGroup(a.House.ID, s.Group)
			if err != nil {
				return nil, err
			}
			c.GroupID = &g
		}
		// What it pointed to may be gone meanwhile.
		if other, err := tx.ColorByName(a.House.ID, s.Successor); err == nil {
			c.SuccessorID = &other.ID
		}
		if other, err := tx.ColorByName(a.House.ID, s.Partner); err == nil {
			c.PartnerID = &other.ID
		}
		for i := range s.Builds {
			s.Builds[i].ColorID = id
		}
		for i := range s.Spots {
			s.Spots[i].ColorID = id
		}
		for i := range s.Companions {
			s.Companions[i].ColorID = id
		}
		if err := tx.PutValues(id, s.Builds, s.Spots); err != nil {
			return nil, err
		}
		return out, tx.PutCompanions(id, s.Companions)
	})
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

// ChangeMany changes many colors, all or none.
func (k *Keeper) ChangeMany(ctx context.Context, a Actor, in Bulk) error {
	if err := a.may(RoleKeeper); err != nil {
		return err
	}
	if len(in.Colors) == 0 {
		return invalid("colors", "no color is chosen")
	}
	return k.DB.In(ctx, func(tx *store.DB) error {
		var joined []store.Candidate
		use := map[int64]int64{}
		for i, id := range in.Colors {
			c, err := tx.Color(a.House.ID, id)
			if err != nil {
				return missing(err, "color")
			}
			joined = append(joined, store.Candidate{ID: int64(i + 1)})
			use[int64(i+1)] = id
			change := Change{Version: c.Version, Group: in.Group, Role: in.Role, Status: in.Status, Successor: in.Successor}
			if in.Tag != nil && strings.TrimSpace(*in.Tag) != "" {
				tags := append(words(c.Tags), *in.Tag)
				change.Tags = &tags
			}
			if err := k.within(tx).ChangeColor(ctx, a, id, change); err != nil {
				return err
			}
		}
		if in.Set == nil || strings.TrimSpace(*in.Set) == "" {
			return nil
		}
		return k.joinSet(tx, a, Admission{Set: *in.Set, Use: use}, nil, joined)
	})
}

// PlaceColor puts a color before another one, or last, in the order by hand.
func (k *Keeper) PlaceColor(ctx context.Context, a Actor, id, before int64) error {
	if err := a.may(RoleKeeper); err != nil {
		return err
	}
	return k.DB.In(ctx, func(tx *store.DB) error {
		c, err := tx.Color(a.House.ID, id)
		if err != nil {
			return missing(err, "color")
		}
		if before == id {
			return nil
		}
		if err := tx.PlaceColor(a.House.ID, id, before); err != nil {
			return missing(err, "color to stand before")
		}
		if before == 0 {
			return nil
		}
		next, err := tx.Color(a.House.ID, before)
		if err != nil {
			return missing(err, "color to stand before")
		}
		if (c.GroupID == nil) != (next.GroupID == nil) || c.GroupID != nil && *c.GroupID != *next.GroupID {
			c, err = tx.ColorToChange(a.House.ID, id)
			if err != nil {
				return err
			}
			c.GroupID = next.GroupID
			return tx.Save(&c)
		}
		return nil
	})
}

// RenameGroup gives a group another name.
func (k *Keeper) RenameGroup(ctx context.Context, a Actor, old, newName string) error {
	if err := a.may(RoleKeeper); err != nil {
		return err
	}
	n, err := name("name", newName)
	if err != nil {
		return err
	}
	return k.DB.In(ctx, func(tx *store.DB) error {
		g, err := groupNamed(tx, a.House.ID, old)
		if err != nil {
			return err
		}
		g.Name, g.NameKey = n, store.NameKey(n)
		return taken(tx.Save(&g), "name", "there is a group named %s already", n)
	})
}

// DeleteGroup takes a group away; its colors stay, without one.
func (k *Keeper) DeleteGroup(ctx context.Context, a Actor, groupName string) error {
	if err := a.may(RoleKeeper); err != nil {
		return err
	}
	return k.DB.In(ctx, func(tx *store.DB) error {
		g, err := groupNamed(tx, a.House.ID, groupName)
		if err != nil {
			return err
		}
		return tx.DeleteGroup(a.House.ID, g.ID)
	})
}

func groupNamed(tx *store.DB, house int64, groupName string) (store.ColorGroup, error) {
	g, err := tx.GroupNamed(house, groupName)
	return g, missing(err, "group")
}

// CopyColors copies or moves colors into another house of the actor's, where they must be a keeper too. A name that is
// taken there gets a number.
func (k *Keeper) CopyColors(ctx context.Context, a Actor, ids []int64, house int64, move bool) (int, error) {
	if err := a.may(RoleKeeper); err != nil {
		return 0, err
	}
	to, err := k.Enter(ctx, store.User{ID: a.User, Name: a.Name}, house)
	if err != nil {
		return 0, err
	}
	if err := to.may(RoleKeeper); err != nil {
		return 0, err
	}
	if house == a.House.ID {
		return 0, invalid("house", "the colors are in %s already", a.House.Name)
	}
	if len(ids) == 0 {
		return 0, invalid("colors", "no color is chosen")
	}
	err = k.DB.In(ctx, func(tx *store.DB) error {
		there, err := tx.Colors(house)
		if err != nil {
			return err
		}
		if len(there)+len(ids) > limits.LibraryColors {
			return conflict("colors", "%s would hold %d colors; at most %d fit", to.House.Name, len(there)+len(ids), limits.LibraryColors)
		}
		names := map[string]bool{}
		for _, c := range there {
			names[c.NameKey] = true
		}
		last, err := tx.LastPosition(house)
		if err != nil {
			return err
		}
		groups, err := tx.Groups(a.House.ID)
		if err != nil {
			return err
		}
		for _, id := range ids {
			c, err := tx.ColorToChange(a.House.ID, id)
			if err != nil {
				return missing(err, "color")
			}
			last++
			from := c.Name
			copied := c
			copied.ID, copied.HouseID, copied.GroupID, copied.SuccessorID, copied.PartnerID, copied.PartnerRatio = 0, house, nil, nil, nil, 0
			copied.Position, copied.Version, copied.CreatedAt, copied.UpdatedAt = last, 1, k.Now(), k.Now()
			for n := 2; names[store.NameKey(copied.Name)]; n++ {
				copied.Name = fmt.Sprintf("%s %d", from, n)
			}
			copied.NameKey = store.NameKey(copied.Name)
			names[copied.NameKey] = true
			for i := range copied.Builds {
				copied.Builds[i].ColorID = 0
			}
			for i := range copied.Spots {
				copied.Spots[i].ColorID = 0
			}
			for i := range copied.Companions {
				copied.Companions[i].ColorID = 0
			}
			for _, g := range groups {
				if c.GroupID != nil && g.ID == *c.GroupID {
					id, err := tx.EnsureGroup(house, g.Name)
					if err != nil {
						return err
					}
					copied.GroupID = &id
				}
			}
			if err := tx.Add(&copied); err != nil {
				return taken(err, "colors", "%s is taken in %s", copied.Name, to.House.Name)
			}
			event := store.ColorEvent{ColorID: copied.ID, At: k.Now(), ByName: a.Name, What: fmt.Sprintf("came from %s as %s", a.House.Name, c.Hex), AfterHex: c.Hex}
			if event.State, err = stateOf(tx, house, copied.ID); err != nil {
				return err
			}
			if err := tx.Add(&event); err != nil {
				return err
			}
		}
		if move {
			return tx.DeleteColors(a.House.ID, ids)
		}
		return nil
	})
	return len(ids), err
}

// Gradient is a gradient with its colors.
type Gradient struct {
	store.Gradient
	Colors []store.Color // of each stop
	Steps  []color.RGB8  // the way, in even steps
	CSS    string
}

const gradientSteps = 33

// Gradients lists the gradients of a house.
func (k *Keeper) Gradients(ctx context.Context, a Actor) ([]Gradient, error) {
	rows, err := k.DB.With(ctx).Gradients(a.House.ID)
	if err != nil {
		return nil, err
	}
	colors, err := k.DB.With(ctx).Colors(a.House.ID)
	if err != nil {
		return nil, err
	}
	byID := map[int64]store.Color{}
	for _, c := range colors {
		byID[c.ID] = c
	}
	var out []Gradient
	for _, r := range rows {
		g := Gradient{Gradient: r}
		var stops []gradient.Stop
		hidden := false
		for _, s := range r.Stops {
			c := byID[s.ColorID]
			hidden = hidden || !a.sees(c)
			g.Colors = append(g.Colors, c)
			stops = append(stops, gradient.Stop{Color: rgbOf(c.Hex), Place: s.Place})
		}
		if hidden || len(stops) == 0 {
			continue
		}
		if g.Steps, err = gradient.Steps(stops, r.Space, gradientSteps); err != nil {
			return nil, err
		}
		g.CSS = gradient.CSS(stops, r.Space, r.Angle)
		out = append(out, g)
	}
	return out, nil
}

// PutGradient makes a gradient, or changes one whose id is given.
func (k *Keeper) PutGradient(ctx context.Context, a Actor, in store.Gradient) error {
	if err := a.may(RoleKeeper); err != nil {
		return err
	}
	n, err := name("name", in.Name)
	if err != nil {
		return err
	}
	if len(in.Stops) < 2 || len(in.Stops) > 12 {
		return invalid("stops", "a gradient has 2 to 12 stops; this one has %d", len(in.Stops))
	}
	for i, s := range in.Stops {
		if !(s.Place >= 0 && s.Place <= 100) || i > 0 && s.Place < in.Stops[i-1].Place {
			return invalid("stops", "stop %d stands at %g percent; stops stand between 0 and 100 percent, in order", i+1, s.Place)
		}
	}
	if !slices.Contains(gradient.Spaces, in.Space) {
		return invalid("space", "there is no interpolation space %q; there are %s", in.Space, strings.Join(gradient.Spaces, ", "))
	}
	if !(in.Angle >= 0 && in.Angle < 360) {
		return invalid("angle", "the angle lies between 0 and 359 degrees")
	}
	return k.DB.In(ctx, func(tx *store.DB) error {
		for _, s := range in.Stops {
			if _, err := tx.Color(a.House.ID, s.ColorID); err != nil {
				return missing(err, "color")
			}
		}
		row := store.Gradient{HouseID: a.House.ID, Version: 1}
		if in.ID != 0 {
			if row, err = tx.GradientToChange(a.House.ID, in.ID); err != nil {
				return missing(err, "gradient")
			}
			if row.Version != in.Version {
				return conflict("version", "the gradient %s was changed by somebody else meanwhile; look at it again", row.Name)
			}
			row.Version++
		}
		row.Name, row.NameKey, row.Angle, row.Space, row.Stops = n, store.NameKey(n), in.Angle, in.Space, nil
		if in.ID != 0 {
			err = tx.Save(&row)
		} else {
			err = tx.Add(&row)
		}
		if err != nil {
			return taken(err, "name", "there is a gradient named %s already", n)
		}
		stops := slices.Clone(in.Stops)
		for i := range stops {
			stops[i].GradientID, stops[i].Position = row.ID, i
		}
		return tx.PutStops(row.ID, stops)
	})
}

// DeleteGradient takes a gradient away.
func (k *Keeper) DeleteGradient(ctx context.Context, a Actor, id int64) error {
	if err := a.may(RoleKeeper); err != nil {
		return err
	}
	return missing(k.DB.With(ctx).DeleteGradient(a.House.ID, id), "gradient")
}
