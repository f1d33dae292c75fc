package library

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/ink"
	"huekeep/core/limits"
	"huekeep/core/press"
	"huekeep/core/scale"
)

func itoa(n int) string { return strconv.Itoa(n) }

// Legible is the contrast ratio of the color on its ground (WCAG 2.2, 1 to 21), and whether it reaches what is asked of it.
func (c Color) Legible(ground color.RGB8) (ratio float64, passes bool) {
	ratio = contrast.Ratio(c.RGB, ground)
	return ratio, ratio >= c.Ratio
}

// Asked names what a least contrast ratio asks a color to be fit for.
func Asked(ratio float64) string {
	switch {
	case ratio <= contrast.LargeAA:
		return "large text and signs"
	case ratio <= contrast.TextAA:
		return "any text"
	}
	return "any text, strict"
}

// String is the rule as a sentence without its subject: "may stand on Hull White as any text".
func (p Pair) String() string {
	if !p.May {
		return "may not stand on " + p.Ground.Name
	}
	return fmt.Sprintf("may stand on %s as %s", p.Ground.Name, Asked(p.Ratio))
}

// Keeps says whether a pair of values keeps the rule, and with which contrast ratio; a rule that forbids always holds.
func (p Pair) Keeps(of, ground color.RGB8) (ratio float64, keeps bool) {
	ratio = contrast.Ratio(of, ground)
	return ratio, !p.May || ratio >= p.Ratio
}

// CheckPair refuses a rule that nobody could have made, with a sentence.
func CheckPair(p Pair) error {
	if p.May && !(p.Ratio >= 1 && p.Ratio <= 21) {
		return fmt.Errorf("a contrast ratio lies between 1 and 21")
	}
	return nil
}

// Relative is a companion with the value that follows from the master.
type Relative struct {
	Companion
	Value color.RGB8
	Build *color.CMYK // of a tint, on coated paper
}

// Name names the companion of a color: "Deep Sound, 60 % tint", "Deep Sound 300" or "Deep Sound, 40 % over Hull White".
func (r Relative) Name(of string) string {
	switch r.Kind {
	case "step":
		return fmt.Sprintf("%s %d", of, r.Amount)
	case "sheer":
		return fmt.Sprintf("%s, %d %% over %s", of, r.Amount, cmp.Or(r.Ground.Name, "white"))
	}
	return fmt.Sprintf("%s, %d %% %s", of, r.Amount, r.Kind)
}

// Title names what lies over a ground by itself, whatever that is: "Deep Sound at 40 %".
func (r Relative) Title(of string) string { return fmt.Sprintf("%s at %d %%", of, r.Amount) }

// Packed lists the companions that packings for programs carry: all steps, and of the others those that are permitted.
func (c Color) Packed() []Relative {
	return slices.DeleteFunc(c.Relatives(), func(r Relative) bool { return !r.carried() })
}

func (m Companion) carried() bool { return m.Kind == "step" || m.Permitted }

var kinds = []string{"tint", "shade", "tone", "sheer", "step"}

// Relatives computes the companions of a color: tints, shades, tones and sheers from strong to weak, then steps from light to dark.
func (c Color) Relatives() []Relative {
	if len(c.Companions) == 0 { // as most are; an audit asks for every color
		return nil
	}
	steps := map[int]color.RGB8{}
	for _, s := range scale.Steps(c.RGB) {
		steps[s.Name] = s.Color
	}
	var out []Relative
	for _, m := range c.Companions {
		r := Relative{Companion: m}
		percent := float64(m.Amount)
		switch m.Kind {
		case "tint":
			build := press.Coated().Build(c.Lab()).Whole
			if b, ok := c.Build("coated"); ok {
				build = b.Value
			}
			t := press.Coated().Tints(build, c.RGB, percent)[0]
			r.Value, r.Build = t.Screen, &t.Build
		case "shade":
			r.Value = scale.Shade(c.RGB, percent)
		case "tone":
			r.Value = scale.Tone(c.RGB, percent)
		case "sheer":
			over := White
			if !m.Ground.None() {
				over = m.Over
			}
			r.Value = scale.Sheer(c.RGB, over, percent)
		case "step":
			r.Value = steps[m.Amount]
		}
		out = append(out, r)
	}
	slices.SortStableFunc(out, func(x, y Relative) int {
		switch {
		case x.Kind != y.Kind:
			return slices.Index(kinds, x.Kind) - slices.Index(kinds, y.Kind)
		case x.Kind == "step":
			return x.Amount - y.Amount
		}
		return y.Amount - x.Amount
	})
	return out
}

// Permitted lists the colors that may be used of this one beside itself, each under the name of its companion.
func (c Color) Permitted() []Color {
	var out []Color
	for _, r := range c.Relatives() {
		if r.Permitted {
			out = append(out, Color{Name: r.Name(c.Name), RGB: r.Value, Status: c.Status})
		}
	}
	return out
}

// CheckCompanions refuses companions that cannot be, with a sentence.
func CheckCompanions(list []Companion) error {
	for i, m := range list {
		switch {
		case slices.ContainsFunc(list[:i], m.same):
			return fmt.Errorf("%s %d is listed twice", m.Kind, m.Amount)
		case !m.Ground.None() && m.Kind != "sheer":
			return fmt.Errorf("a %s has no ground", m.Kind)
		case m.Kind == "step" && !slices.ContainsFunc(scale.Steps(color.RGB8{}), func(s scale.Step) bool { return s.Name == m.Amount }):
			return fmt.Errorf("there is no step %d; there are 50, 100 to 900, 950", m.Amount)
		case !slices.Contains(kinds, m.Kind):
			return fmt.Errorf("%q is none of tint, shade, tone, sheer, step", m.Kind)
		case m.Kind != "step" && (m.Amount < 1 || m.Amount > 99):
			return fmt.Errorf("a %s lies between 1 and 99 percent", m.Kind)
		}
	}
	return nil
}

// AsRole is a role as it is kept: a word or a few, in small letters, of a house's own or one of Roles; empty for none.
func AsRole(text string) Role { return Role(strings.ToLower(strings.Join(strings.Fields(text), " "))) }

// CheckRole refuses what is no name for a role, with a sentence.
func CheckRole(r Role) error {
	if n := len([]rune(r)); n > limits.RoleRunes {
		return fmt.Errorf("a role is a word or a few; this one has %d letters, %d at most", n, limits.RoleRunes)
	}
	for _, c := range r {
		if !unicode.IsLetter(c) && !unicode.IsMark(c) && !unicode.IsDigit(c) && !strings.ContainsRune(" -_&/'’", c) {
			return fmt.Errorf("the role %q has %q in it; letters, digits, blanks and hyphens make a role", string(r), c)
		}
	}
	return nil
}

// CheckStatus refuses a status that there is not, with a sentence.
func CheckStatus(s Status) error {
	if !slices.Contains(Statuses, s) {
		return fmt.Errorf("the status %q is none of %s", s, list(Statuses))
	}
	return nil
}

// CheckRule refuses a rule for use that is too long, with a sentence.
func CheckRule(rule string) error {
	if n := utf8.RuneCountInString(rule); n > limits.RuleRunes {
		return fmt.Errorf("the rule has %d characters; at most %d fit", n, limits.RuleRunes)
	}
	return nil
}

// CheckStock refuses a stock that inks are not measured on, with a sentence.
func CheckStock(stock string) error {
	if stock != string(ink.Coated) && stock != string(ink.Uncoated) {
		return fmt.Errorf("there is no stock %q; there are coated and uncoated", stock)
	}
	return nil
}

// Check refuses a color that nobody could have made, with a sentence that names it.
func (c Color) Check() error {
	for _, err := range []error{CheckStatus(c.Status), CheckRole(c.Role), CheckRule(c.Rule), CheckCompanions(c.Companions)} {
		if err != nil {
			return fmt.Errorf("%s: %w", c.Name, err)
		}
	}
	if !c.Ground.None() && !(c.Ratio >= 1 && c.Ratio <= 21) {
		return fmt.Errorf("%s: a contrast ratio lies between 1 and 21", c.Name)
	}
	for i, b := range c.Builds {
		if slices.ContainsFunc(c.Builds[:i], func(o Build) bool { return o.Press == b.Press }) {
			return fmt.Errorf("%s: it has two builds for the press %s", c.Name, b.Press)
		}
	}
	for i, s := range c.Spots {
		if slices.ContainsFunc(c.Spots[:i], func(o Spot) bool { return o.Stock == s.Stock }) {
			return fmt.Errorf("%s: it has two inks for %s stock", c.Name, s.Stock)
		}
		if err := CheckStock(s.Stock); err != nil {
			return fmt.Errorf("%s: %w", c.Name, err)
		}
	}
	return nil
}

func list[T ~string](words []T) string {
	var out []string
	for _, w := range words {
		out = append(out, string(w))
	}
	return strings.Join(out, ", ")
}

// Changes says in sentences what of a swatch set is different from an edition: its colors, their values and their order.
// A color is the same one if its ID is.
func Changes(old []Color, now []Color) []string {
	var out []string
	was := map[int64]Color{}
	for _, c := range old {
		was[c.ID] = c
	}
	is := map[int64]bool{}
	for _, after := range now {
		is[after.ID] = true
		before, ok := was[after.ID]
		if !ok {
			out = append(out, after.Name+" added")
			continue
		}
		out = append(out, before.differs(after)...)
	}
	var kept []int64 // what stayed, in the old order
	for _, c := range old {
		if is[c.ID] && c.ID != 0 {
			kept = append(kept, c.ID)
		} else {
			out = append(out, c.Name+" removed")
		}
	}
	i := 0
	for _, c := range now {
		if i >= len(kept) {
			break
		}
		if _, stayed := was[c.ID]; !stayed {
			continue
		}
		if c.ID != kept[i] {
			return append(out, "the order changed")
		}
		i++
	}
	return out
}

// Difference is what became of one color between two states of a set.
type Difference struct {
	Name   string
	What   []string    // in words, each without the name's own change: "amended from ...", "added"
	Before *color.RGB8 // nil for one that was added
	After  *color.RGB8 // nil for one that was removed
	DeltaE float64     // ΔE00 between the two, where there are both
}

// Compare says what is different between two states of a set, color by color: first what is there now, in its order, then what was
// removed. Colors that are the same are left out.
func Compare(old, now []Color) (out []Difference) {
	type key struct { // of a color without a number, its name
		id   int64
		name string
	}
	keyOf := func(c Color) key {
		if c.ID != 0 {
			return key{id: c.ID}
		}
		return key{name: c.Name}
	}
	places := func(list []Color) map[key]int {
		out := make(map[key]int, len(list))
		for i, c := range list {
			if k := keyOf(c); out[k] == 0 {
				out[k] = i + 1 // the first of a name
			}
		}
		return out
	}
	inOld, inNow := places(old), places(now)
	for i, c := range now {
		d := Difference{Name: c.Name, After: &now[i].RGB}
		if k := inOld[keyOf(c)] - 1; k < 0 {
			d.What = []string{c.Name + " added"}
		} else {
			d.Before, d.DeltaE = &old[k].RGB, color.DeltaE00(old[k].Lab(), c.Lab())
			d.What = old[k].differs(c)
		}
		if len(d.What) > 0 {
			out = append(out, d)
		}
	}
	for i, c := range old {
		if inNow[keyOf(c)] == 0 {
			out = append(out, Difference{Name: c.Name, What: []string{c.Name + " removed"}, Before: &old[i].RGB})
		}
	}
	return out
}

// differs says what of a color that a recipient could notice is not the same.
func (c Color) differs(after Color) []string {
	var out []string
	switch {
	case c.RGB != after.RGB:
		out = append(out, fmt.Sprintf("%s amended from %s to %s", after.Name, c.Shows(), after.Shows()))
	case c.Master != after.Master:
		out = append(out, fmt.Sprintf("%s amended from %s to %s; on plain screens it is %s as before", after.Name, c.Decides(),
			after.Decides(), after.RGB.Hex()))
	}
	if c.Name != after.Name {
		out = append(out, fmt.Sprintf("%s renamed to %s", c.Name, after.Name))
	}
	if c.Status != after.Status {
		out = append(out, fmt.Sprintf("%s is %s", after.Name, after.Status))
	}
	x, y := c.Approved(), after.Approved()
	if !slices.EqualFunc(x.Builds, y.Builds, Build.same) || !slices.EqualFunc(x.Spots, y.Spots, Spot.same) {
		out = append(out, after.Name+": print values changed")
	}
	return append(out, c.companionsDiffer(after)...)
}

// companionsDiffer says what is different in the companions that packings carry.
func (c Color) companionsDiffer(after Color) []string {
	carried := func(c Color) []Companion {
		return slices.DeleteFunc(slices.Clone(c.Companions), func(m Companion) bool { return !m.carried() })
	}
	old, now := carried(c), carried(after)
	if len(old) != len(now) {
		return []string{after.Name + ": which tints, shades and sheers may be used changed"}
	}
	var out []string
	for _, m := range now {
		i := slices.IndexFunc(old, m.same)
		if i < 0 {
			return []string{after.Name + ": which tints, shades and sheers may be used changed"}
		}
		if was := old[i]; !m.Ground.None() && was.Over != m.Over {
			out = append(out, fmt.Sprintf("%s: its ground was amended from %s to %s", Relative{Companion: m}.Name(after.Name),
				was.Over.Hex(), m.Over.Hex()))
		}
	}
	return out
}

// same leaves out the account: a file knows people by name only.
func (b Build) same(o Build) bool {
	return b.Press == o.Press && b.Value == o.Value && b.By.Name == o.By.Name && b.At.Equal(o.At) && b.For == o.For && b.Meant == o.Meant
}

func (s Spot) same(o Spot) bool {
	return s.Stock == o.Stock && s.Code == o.Code && s.By.Name == o.By.Name && s.At.Equal(o.At) && s.For == o.For && s.Meant == o.Meant
}

// ReadLab reads a CIELAB value as it is kept and sent, "L a b".
func ReadLab(s string) (color.Lab, error) {
	f := strings.Fields(s)
	if len(f) != 3 {
		return color.Lab{}, fmt.Errorf("%q is not a CIELAB value of three numbers", s)
	}
	var v [3]float64
	for i := range v {
		var err error
		if v[i], err = strconv.ParseFloat(f[i], 64); err != nil || math.IsNaN(v[i]) {
			return color.Lab{}, fmt.Errorf("%q is not a number of a CIELAB value", f[i])
		}
	}
	if v[0] < 0 || v[0] > 100 || math.Abs(v[1]) > 200 || math.Abs(v[2]) > 200 {
		return color.Lab{}, fmt.Errorf("CIELAB %s lies outside its range", s)
	}
	return color.Lab{L: v[0], A: v[1], B: v[2]}, nil
}

// WriteLab writes a CIELAB value for keeping and sending, with two decimals.
func WriteLab(l color.Lab) string {
	two := func(v float64) float64 { return math.Round(v*100)/100 + 0 } // never -0.00
	return fmt.Sprintf("%.2f %.2f %.2f", two(l.L), two(l.A), two(l.B))
}
