package swatchfile

import (
	"bytes"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"
	"time"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/recognize"
)

// extension is the key of what design tokens have no member for.
const extension = library.Extension

// libraryVersion is the version that is written; testdata holds a file of each that is read. The first held no numbers, no states of a
// color and times to the second; the second held no rules about pairs; the third neither what keeps a set current nor slots and boxes given
// by hand, ways and packings of recipients, and withdrawals; the fourth no master but the hex and a reading; the fifth neither builds nor
// inks that decide, and no hex that was approved for what something else decides.
const libraryVersion = 6

// WriteLibrary writes the Hue Keep library format: design tokens (Design Tokens Format 2025.10) with a group a color
// group, and CMYK, spot inks, roles, status, history and swatch sets under $extensions. docs/formats.md describes it.
func WriteLibrary(l Library) ([]byte, error) {
	sets := []any{}
	for _, s := range l.Sets {
		names := []any{}
		for _, n := range s.Colors {
			names = append(names, n)
		}
		set := object{{"name", s.Name}, {"edition", s.Edition}, {"colors", names}}
		if s.ID != 0 {
			set = append(set, member{"id", s.ID}, member{"version", s.Version})
		}
		for _, m := range []struct{ key, text string }{{"followsRole", s.FollowsRole}, {"followsTag", s.FollowsTag}} {
			if m.text != "" {
				set = append(set, member{m.key, m.text})
			}
		}
		if len(s.Slots) > 0 {
			slots := object{}
			for _, g := range s.Slots {
				slots = append(slots, member{g.Slot, g.Color.Name})
			}
			set = append(set, member{"slots", slots})
		}
		if s.Boxes.Count > 0 || len(s.Boxes.Order) > 0 {
			order := []any{}
			for _, r := range s.Boxes.Order {
				order = append(order, r.Name)
			}
			set = append(set, member{"boxCount", s.Boxes.Count}, member{"boxes", order})
		}
		sets = append(sets, set)
	}
	root := object{
		{"$description", "Color library of " + l.House},
		{"$extensions", object{{extension, object{
			{"format", "library"}, {"version", libraryVersion}, {"house", l.House},
			{"tolerance", l.Tolerance}, {"neutrals", l.Neutrals}, {"sets", sets}, {"checksum", noChecksum},
		}}}},
	}
	if l.Backup != nil {
		x := root[1].value.(object)[0].value.(object)
		root[1].value = object{{extension, append(x, member{"backup", l.Backup})}}
	}
	groups := map[string]int{} // place in root
	for _, c := range l.Colors {
		key := tokenKey(c.Name)
		token := member{key, colorToken(c)}
		at, ok := groups[c.Group]
		if !ok {
			at = len(root)
			groups[c.Group] = at
			group := c.Group
			if group == "" {
				group = "Ungrouped"
			}
			body := object{{"$type", "color"}}
			if k := tokenKey(group); k != c.Group {
				body = append(body, member{"$extensions", object{{extension, object{{"group", c.Group}}}}})
			}
			root = append(root, member{tokenKey(group), body})
		}
		body := root[at].value.(object)
		if _, twice := body.get(key); twice {
			return nil, fmt.Errorf("two colors of the group %q would be named %q in the file", c.Group, key)
		}
		root[at].value = append(body, token)
	}
	data, err := indented(root)
	if err != nil {
		return nil, err
	}
	sum := checksum(data)
	return bytes.Replace(data, []byte(noChecksum), []byte(sum), 1), nil
}

// noChecksum stands where the checksum will, while it is computed.
var noChecksum = "sha256:" + strings.Repeat("0", 64)

func checksum(data []byte) string { return fmt.Sprintf("sha256:%x", sha256.Sum256(data)) }

var checksumForm = regexp.MustCompile(`"checksum": "(sha256:[0-9a-f]{64})"`)

// Whole says whether a library file is what WriteLibrary wrote, to the byte: its checksum is that of the file with zeros in
// place of the checksum.
func Whole(data []byte) bool {
	m := checksumForm.FindSubmatchIndex(data)
	if m == nil {
		return false
	}
	blank := slices.Concat(data[:m[2]], []byte(noChecksum), data[m[3]:])
	return checksum(blank) == string(data[m[2]:m[3]])
}

// WriteTokens writes an edition as design tokens (Design Tokens Format 2025.10): one group, in the order of the set. What a
// color may stand on, and on what it may not, follows under $extensions, as aliases of the tokens.
func WriteTokens(e library.Edition) ([]byte, error) {
	group := object{{"$type", "color"}}
	keys := tokenKeys(e)
	for i, key := range keys {
		token := tokenValueOf(e.Colors[i])
		// a reading, an ink or a build beyond sRGB
		if c := e.Colors[i]; c.Master.Kind != library.OfScreen && c.CSS() != "" && !e.Before(10) {
			lab := c.Lab()
			token[0] = valueIn("lab", []any{round(lab.L, 3), round(lab.A, 3), round(lab.B, 3)}, sheerValue{c.RGB, 1})
		}
		if rules := pairTokens(e, keys, e.Colors[i].ID); len(rules) > 0 {
			token = append(token, member{"$extensions", object{{extension, rules}}})
		}
		group = append(group, member{key, token})
	}
	for _, r := range companionTokens(e, keys) {
		group = append(group, member{r.key, object{plainValue(r.sheerValue)}})
	}
	root := object{{"$description", e.Title()}, {tokenKey(e.Set), group}}
	if g := gradientTokens(e, keys); len(g) > 1 {
		root = append(root, member{distinct([]string{tokenKey(e.Set), "Gradients"})[1], g})
	}
	return indented(root)
}

// WriteTokenStrings writes an edition as design tokens of the older form: values as strings.
func WriteTokenStrings(e library.Edition) ([]byte, error) {
	keys := tokenKeys(e)
	group := object{}
	add := func(key, value, rule string) {
		t := object{{"value", strings.ToLower(value)}, {"type", "color"}}
		if rule != "" {
			t = append(t, member{"description", rule})
		}
		group = append(group, member{key, t})
	}
	for i, key := range keys {
		add(key, e.Colors[i].RGB.Hex(), e.Colors[i].Rule)
	}
	for _, r := range companionTokens(e, keys) {
		add(r.key, r.css(), "")
	}
	return indented(object{{tokenKey(e.Set), group}})
}

type companionToken struct {
	key string
	sheerValue
}

// companionTokens are what is packed beside the colors, under names that no color has.
func companionTokens(e library.Edition, keys []string) (out []companionToken) {
	if e.Before(4) { // what was sent then had none
		return nil
	}
	names := slices.Clone(keys)
	for _, c := range e.Colors {
		for _, p := range beside(c) {
			out = append(out, companionToken{sheerValue: p.sheerValue})
			names = append(names, tokenKey(p.title))
		}
	}
	for i, name := range distinct(names)[len(keys):] {
		out[i].key = name
	}
	return out
}

// gradientTokens writes the gradients between the colors; their angle and space have no place in the format and go along as an extension.
func gradientTokens(e library.Edition, keys []string) object {
	out := object{{"$type", "gradient"}}
	names := []string{}
	if e.Before(4) { // what was sent then had none
		e.Gradients = nil
	}
	for _, g := range e.Gradients {
		names = append(names, tokenKey(g.Name))
	}
	names = distinct(names)
	for i, g := range e.Gradients {
		stops := []any{}
		for _, s := range g.Stops {
			if at := slices.IndexFunc(e.Colors, s.Color.Is); at >= 0 {
				stops = append(stops, object{{"color", "{" + tokenKey(e.Set) + "." + keys[at] + "}"}, {"position", round(s.Place/100, 4)}})
			}
		}
		out = append(out, member{names[i],
			object{{"$value", stops}, {"$extensions", object{{extension, object{{"angle", g.Angle}, {"space", g.Space}}}}}}})
	}
	return out
}

// pairTokens are the rules about what a color of an edition stands on.
func pairTokens(e library.Edition, keys []string, id int64) object {
	may, not := []any{}, []any{}
	for _, p := range e.Pairs {
		at := slices.IndexFunc(e.Colors, func(c library.Color) bool { return c.ID == p.Ground.ID })
		if p.Color.ID != id || at < 0 {
			continue
		}
		alias := "{" + tokenKey(e.Set) + "." + keys[at] + "}"
		if p.May {
			may = append(may, object{{"color", alias}, {"contrast", p.Ratio}})
		} else {
			not = append(not, object{{"color", alias}})
		}
	}
	var out object
	if len(may) > 0 {
		out = append(out, member{"mayStandOn", may})
	}
	if len(not) > 0 {
		out = append(out, member{"mayNotStandOn", not})
	}
	return out
}

// tokenKeys gives each color of an edition a token name of its own.
func tokenKeys(e library.Edition) (out []string) {
	taken := map[string]bool{}
	for _, c := range e.Colors {
		key := tokenKey(c.Name)
		for n := 2; taken[key]; n++ {
			key = tokenKey(c.Name) + " " + itoa(n)
		}
		taken[key] = true
		out = append(out, key)
	}
	return out
}

// tokensLose is what design tokens leave out, and which of them could not be named like their colors.
func tokensLose(e library.Edition) []lost {
	out := printValuesLost(e, "Design tokens")
	for i, key := range tokenKeys(e) {
		if name := e.Colors[i].Name; key != name {
			out = append(out, lost{"some names", fmt.Sprintf("A token's name has no dots, braces or leading $; that of %s is %s", name,
				key)})
		}
	}
	return out
}

func indented(root object) ([]byte, error) {
	var b bytes.Buffer
	raw, err := root.MarshalJSON()
	if err != nil {
		return nil, err
	}
	if err := json.Indent(&b, raw, "", "  "); err != nil {
		return nil, err
	}
	b.WriteByte('\n')
	return b.Bytes(), nil
}

// tokenValueOf is what every reader of design tokens understands of a color.
// plainValue is the $value of a color of sRGB. Its hex has no opacity: that stands in alpha (Design Tokens Color Module 2025.10, 4.1).
func plainValue(v sheerValue) member {
	rgb := v.rgb.RGB()
	return valueIn("srgb", []any{round(rgb.R, 6), round(rgb.G, 6), round(rgb.B, 6)}, v)
}

func valueIn(space string, components []any, v sheerValue) member {
	return member{"$value", object{
		{"colorSpace", space}, {"components", components}, {"alpha", round(v.opaque, 2)}, {"hex", strings.ToLower(v.rgb.Hex())},
	}}
}

func tokenValueOf(c library.Color) object {
	t := object{plainValue(sheerValue{c.RGB, 1})}
	if c.Master.Kind == library.OfScreen && c.CSS() != "" {
		if space, numbers, ok := tokenSpace(c.Master.Text); ok {
			t[0] = valueIn(space, numbers, sheerValue{c.RGB, 1})
		}
	}
	if c.Rule != "" {
		t = append(t, member{"$description", c.Rule})
	}
	if c.Retired() {
		if c.Successor.Name != "" {
			t = append(t, member{"$deprecated", "Replaced by " + c.Successor.Name})
		} else {
			t = append(t, member{"$deprecated", true})
		}
	}
	return t
}

// meantFor adds what decided a color when a value was approved for it, where it was not its hex.
func meantFor(o object, meant library.Master) object {
	if meant.Kind != library.OfHex {
		o = append(o, member{"meant", meant.String()})
	}
	return o
}

// familyOf are the companions of a color. A file of a library names their grounds, and numbers none.
func familyOf(c library.Color) []library.KeptCompanion {
	list := library.KeepCompanions(c.Companions)
	for i := range list {
		list[i].GroundID = 0
	}
	return list
}

func colorToken(c library.Color) object {
	t := tokenValueOf(c)
	x := object{{"name", c.Name}, {"status", orApproved(c.Status)}}
	if c.ID != 0 {
		x = append(x, member{"id", c.ID}, member{"position", c.Position}, member{"version", c.Version}, member{"added", stamp(c.Added)},
			member{"changed", stamp(c.Changed)})
	}
	if c.Role != "" {
		x = append(x, member{"role", c.Role})
	}
	for _, m := range []struct {
		key   string
		words []string
	}{{"aliases", c.Aliases}, {"tags", c.Tags}} {
		if len(m.words) > 0 {
			list := []any{}
			for _, w := range m.words {
				list = append(list, w)
			}
			x = append(x, member{m.key, list})
		}
	}
	if c.Ground.Name != "" {
		x = append(x, member{"ground", object{{"color", c.Ground.Name}, {"ratio", c.Ratio}}})
	}
	if len(c.Companions) > 0 {
		x = append(x, member{"family", familyOf(c)})
	}
	if c.Master.Kind != library.OfHex && c.Reading() == nil {
		x = append(x, member{"master", object{{"kind", string(c.Master.Kind)}, {"value", c.Master.Text}}})
	}
	if m := c.Reading(); m != nil {
		x = append(x, member{"measured", object{{"l", round(m.L, 4)}, {"a", round(m.A, 4)}, {"b", round(m.B, 4)}}})
	}
	if p := c.Plain; p.Origin != "" {
		x = append(x, member{"hex", object{{"value", c.RGB.Hex()}, {"origin", string(p.Origin)}, {"by", p.By.Name}, {"at", stamp(p.At)}}})
	}
	if c.Successor.Name != "" {
		x = append(x, member{"successor", c.Successor.Name})
	}
	if len(c.Builds) > 0 {
		list := []any{}
		for _, v := range c.Builds {
			a := v.Value.Array()
			list = append(list, meantFor(object{{"press", v.Press}, {"value", []any{a[0], a[1], a[2], a[3]}},
				{"origin", orSigned(v.Origin)},
				{"by", v.By.Name}, {"at", stamp(v.At)}, {"for", v.For.Hex()}}, v.Meant))
		}
		x = append(x, member{"cmyk", list})
	}
	if len(c.Spots) > 0 {
		list := []any{}
		for _, v := range c.Spots {
			list = append(list, meantFor(object{{"stock", v.Stock}, {"code", v.Code}, {"origin", orSigned(v.Origin)},
				{"by", v.By.Name}, {"at", stamp(v.At)}, {"for", v.For.Hex()}}, v.Meant))
		}
		x = append(x, member{"spot", list})
	}
	if len(c.History) > 0 {
		list := []any{}
		for _, h := range c.History {
			e := object{{"at", stamp(h.At)}, {"by", h.By.Name}, {"what", h.What}}
			for _, m := range []struct{ key, text string }{{"before", h.Before}, {"after", h.After}, {"from", h.From}} {
				if m.text != "" {
					e = append(e, member{m.key, m.text})
				}
			}
			if h.State != "" {
				e = append(e, member{"state", json.RawMessage(h.State)})
			}
			list = append(list, e)
		}
		x = append(x, member{"history", list})
	}
	return append(t, member{"$extensions", object{{extension, x}}})
}

func orApproved(s library.Status) library.Status {
	if s == "" {
		return library.Approved
	}
	return s
}

func orSigned(o library.Origin) string {
	if o == "" {
		o = library.Signed
	}
	return string(o)
}

// unsigned is an origin that a file names, empty for that of a person's signature; what decides a color is told by its master.
func unsigned(o object) library.Origin {
	if o.text("origin") == string(library.Given) {
		return library.Given
	}
	return ""
}

func stamp(t time.Time) string { return t.UTC().Format("2006-01-02T15:04:05.999Z07:00") }

func round(v float64, digits int) float64 {
	p := math.Pow10(digits)
	return math.Round(v*p) / p
}

// tokenKey makes a name legal as a token name: no "$" in front, none of the characters that aliases use.
func tokenKey(name string) string {
	key := strings.TrimLeft(strings.Map(func(r rune) rune {
		if strings.ContainsRune("{}.", r) {
			return '_'
		}
		return r
	}, name), "$")
	if key == "" {
		return "color"
	}
	return key
}

// ReadTokens reads design tokens: the 2025.10 form with groups that extend others, the older forms with color strings and with
// "value" and "type" in place of "$value" and "$type", and the Hue Keep library. Tokens of other types are passed over; an
// alias that leads nowhere is noted. A color is named by its last name in the file, or by its whole path where the
// last name alone would not be unique.
func ReadTokens(data []byte) (Library, error) {
	if len(data) > limits.LibraryBytes {
		return Library{}, fmt.Errorf("the file has %s; at most %s are read", limits.Size(int64(len(data))),
			limits.Size(limits.LibraryBytes))
	}
	root, err := readJSON(data)
	if err != nil {
		return Library{}, err
	}
	r := tokenReader{root: root}
	if err := r.group(root, nil, "", nil); err != nil {
		return Library{}, err
	}
	if len(r.lost) > 0 {
		if len(r.lib.Colors) == 0 {
			return Library{}, r.nowhere
		}
		r.lib.Notes = append(r.lib.Notes, fmt.Sprintf("%s: the alias leads nowhere, so there is no color to read.", few(r.lost)))
	}
	x := root.object("$extensions").object(extension)
	if len(r.lib.Colors) == 0 && x.text("format") != "library" { // a house may be empty
		return Library{}, noneOf("the file holds no color tokens")
	}
	r.name()
	r.lib.House, r.lib.Tolerance = x.text("house"), x.number("tolerance")
	if x.text("format") == "library" {
		if r.lib.Version = int(x.number("version")); r.lib.Version > libraryVersion {
			return Library{}, fmt.Errorf("it was written by a newer Hue Keep (version %d; this one reads up to %d)", r.lib.Version,
				libraryVersion)
		}
	}
	neutrals, _ := x.get("neutrals")
	r.lib.Neutrals, _ = neutrals.(bool)
	if sets, ok := x.get("sets"); ok {
		if err := r.sets(sets); err != nil {
			return Library{}, err
		}
	}
	if _, ok := x.get("backup"); ok {
		r.lib.Backup = &Backup{}
		if err := x.into("backup", r.lib.Backup); err != nil {
			return Library{}, err
		}
	}
	if r.lib.Version == 1 {
		r.lib.number()
	}
	return r.lib, nil
}

type tokenReader struct {
	root  object
	lib   Library
	paths [][]string // of each color in lib
	named []bool     // the file gave the name in full
	lost  []string   // the tokens whose alias leads nowhere

	nowhere error // of the first of them
}

func (r *tokenReader) lose(what, place string, err error) {
	if len(r.lost) == 0 {
		r.nowhere = fmt.Errorf("%s %s: %w", what, place, err)
	}
	r.lost = append(r.lost, place)
}

// valueOf and typeOf read a token's value and type in the present form or in the one before it.
func valueOf(o object) (any, bool) {
	if v, ok := o.get("$value"); ok {
		return v, true
	}
	v, ok := o.get("value")
	_, group := v.(object)
	return v, ok && !group
}

func typeOf(o object) string {
	if t := o.text("$type"); t != "" {
		return t
	}
	return o.text("type")
}

// extended is a group with what it has from the one that it extends, where it has nothing of its own by that name.
func (r *tokenReader) extended(o object, depth int) (object, error) {
	target := o.text("$extends")
	if ref := o.object("$extends").text("$ref"); ref != "" {
		target = ref
	}
	if target == "" {
		return o, nil
	}
	if depth > 16 {
		return nil, fmt.Errorf("a group extends itself")
	}
	at, _, err := r.find(aliasPath(target), depth+1)
	if err != nil {
		return nil, fmt.Errorf("$extends %s: %w", target, err)
	}
	return merged(at, o), nil
}

// merged is one group over another, in the order of the one below.
func merged(below, above object) object {
	out := slices.Clone(below)
	for _, m := range above {
		i := slices.IndexFunc(out, func(b member) bool { return b.key == m.key })
		if i < 0 {
			out = append(out, m)
			continue
		}
		a, both := out[i].value.(object)
		b, also := m.value.(object)
		_, token := valueOf(b)
		if both && also && !token {
			out[i].value = merged(a, b)
		} else {
			out[i].value = m.value
		}
	}
	return out
}

// aliasPath reads both forms of a reference, {group.token} and #/group/token.
func aliasPath(s string) []string {
	if strings.HasPrefix(s, "{") {
		return strings.Split(strings.TrimSuffix(strings.Trim(s, "{}"), ".value"), ".")
	}
	s = strings.TrimSuffix(strings.TrimPrefix(s, "#/"), "/$value")
	return strings.Split(strings.NewReplacer("~1", "/", "~0", "~").Replace(s), "/")
}

var errNowhere = errors.New("leads nowhere")

// find follows a path from the root, and says the type that holds there.
func (r *tokenReader) find(path []string, depth int) (at object, kind string, err error) {
	at = r.root
	for i, key := range path {
		if at, err = r.extended(at, depth); err != nil {
			return nil, "", err
		}
		if t := typeOf(at); t != "" {
			kind = t
		}
		next, _ := at.get(key)
		child, ok := next.(object)
		if !ok {
			return nil, "", fmt.Errorf("its alias {%s} %w", strings.Join(path[:i+1], "."), errNowhere)
		}
		at = child
	}
	if at, err = r.extended(at, depth); err != nil {
		return nil, "", err
	}
	if t := typeOf(at); t != "" {
		kind = t
	}
	return at, kind, nil
}

func (r *tokenReader) group(o object, path []string, kind string, parent object) error {
	if t := typeOf(o); t != "" {
		kind = t
	}
	if _, isToken := valueOf(o); isToken {
		return r.token(o, path, kind, parent)
	}
	if len(path) > 64 {
		return fmt.Errorf("its groups are nested too deeply")
	}
	o, err := r.extended(o, 0)
	if t := typeOf(o); t != "" {
		kind = t
	}
	if errors.Is(err, errNowhere) {
		r.lose("group", strings.Join(path, "."), err)
	} else if err != nil {
		return fmt.Errorf("group %s: %w", strings.Join(path, "."), err)
	}
	for _, m := range o {
		child, ok := m.value.(object)
		if !ok || strings.HasPrefix(m.key, "$") && m.key != "$root" {
			continue
		}
		if err := r.group(child, append(path[:len(path):len(path)], m.key), kind, o); err != nil {
			return err
		}
	}
	return nil
}

func (r *tokenReader) token(o object, path []string, kind string, group object) error {
	place := strings.Join(path, ".")
	value, kind, err := r.follow(o, kind, 0)
	if errors.Is(err, errNowhere) {
		if kind == "color" || kind == "" {
			r.lose("token", place, err)
		}
		return nil
	}
	if err != nil {
		return fmt.Errorf("token %s: %w", place, err)
	}
	_, present := o.get("$value")
	if kind == "" && !present { // the oldest form has no types: what reads as a color is one
		text, _ := value.(string)
		if _, err := color.ParseCSS(text); err == nil {
			kind = "color"
		}
	}
	if kind != "color" {
		return nil
	}
	typed, err := tokenValue(value)
	if err != nil {
		return fmt.Errorf("token %s: %w", place, err)
	}
	if len(r.lib.Colors) >= limits.LibraryColors {
		return fmt.Errorf("the file holds over %d colors", limits.LibraryColors)
	}
	r.lib.remark(place, typed)
	c := library.Color{Rule: o.text("$description"), Status: library.Approved}
	c.Master, c.RGB = library.MasterOf(typed)
	if len(path) > 1 {
		c.Group = strings.Join(path[:len(path)-1], ".")
	}
	if d, ok := o.get("$deprecated"); ok && d != false {
		c.Status = library.Retired
	}
	x := o.object("$extensions").object(extension)
	c.Name = x.text("name")
	r.named = append(r.named, c.Name != "")
	if x != nil {
		if g, ok := group.object("$extensions").object(extension).get("group"); ok {
			c.Group, _ = g.(string)
		}
		if v, ok := value.(object); ok && v.text("hex") != "" { // of a wide one, the value for plain screens
			if rgb, err := color.FromHex(v.text("hex")); err == nil {
				c.RGB = rgb
			}
		}
		c.Master = library.Master{}
		if err := readOurs(&c, x); err != nil {
			return fmt.Errorf("token %s: %w", place, err)
		}
	}
	r.lib.Colors = append(r.lib.Colors, c)
	r.paths = append(r.paths, path)
	return nil
}

// follow resolves aliases in both forms, {group.token} and $ref.
func (r *tokenReader) follow(o object, kind string, depth int) (any, string, error) {
	v, _ := valueOf(o)
	var path []string
	if s, ok := v.(string); ok && strings.HasPrefix(s, "{") && strings.HasSuffix(s, "}") {
		path = aliasPath(s)
	} else if ref, ok := v.(object); ok && ref.text("$ref") != "" {
		path = aliasPath(ref.text("$ref"))
	} else {
		return v, kind, nil
	}
	if depth > 32 {
		return nil, "", fmt.Errorf("its alias leads in a circle")
	}
	at, atKind, err := r.find(path, 0)
	if err != nil {
		return nil, kind, err
	}
	if atKind == "" {
		atKind = kind
	}
	return r.follow(at, atKind, depth+1)
}

// spaces gives the CSS notation for each color space of the format; a "%" stands where a component is a percentage.
var spaces = map[string]string{
	"srgb": "color(srgb %s %s %s)", "srgb-linear": "color(srgb-linear %s %s %s)", "display-p3": "color(display-p3 %s %s %s)",
	"a98-rgb": "color(a98-rgb %s %s %s)", "prophoto-rgb": "color(prophoto-rgb %s %s %s)", "rec2020": "color(rec2020 %s %s %s)",
	"xyz-d65": "color(xyz-d65 %s %s %s)", "xyz-d50": "color(xyz-d50 %s %s %s)",
	"hsl": "hsl(%s %s%% %s%%)", "hwb": "hwb(%s %s%% %s%%)", "lab": "lab(%s %s %s)", "lch": "lch(%s %s %s)",
	"oklab": "oklab(%s %s %s)", "oklch": "oklch(%s %s %s)",
}

// tokenSpace is a color of CSS, as it is kept, as the color space of the format and its three numbers.
func tokenSpace(text string) (space string, components []any, ok bool) {
	name, rest, _ := strings.Cut(strings.TrimSuffix(text, ")"), "(")
	words := strings.Fields(rest)
	if name == "color" && len(words) == 4 {
		name, words = words[0], words[1:]
	}
	if _, known := spaces[name]; !known || len(words) != 3 {
		return "", nil, false
	}
	for _, w := range words {
		components = append(components, json.Number(w))
	}
	return name, components, true
}

func tokenValue(v any) (t color.Typed, err error) {
	if s, ok := v.(string); ok {
		if t, err = color.ParseCSS(s); err == nil && t.CMYK != nil {
			err = fmt.Errorf("%q is a CMYK build where a screen color is wanted", s)
		}
		return t, err
	}
	o, ok := v.(object)
	if !ok {
		return t, fmt.Errorf("its $value is neither a color object nor a color string")
	}
	space := o.text("colorSpace")
	form, known := spaces[space]
	list, _ := o.get("components")
	components, _ := list.([]any)
	if !known || len(components) != 3 {
		if hex := o.text("hex"); hex != "" {
			return color.ParseCSS(hex)
		}
		if known {
			return t, fmt.Errorf("its color has %d components where three are wanted", len(components))
		}
		return t, fmt.Errorf("its color space %q is not read and it gives no hex value", space)
	}
	args := make([]any, 3)
	for i, c := range components {
		switch c := c.(type) {
		case json.Number:
			args[i] = c.String()
		case string:
			args[i] = c
		}
		if args[i] == nil || args[i] != "none" && !isNumber(args[i].(string)) {
			return t, fmt.Errorf("component %d of its color is not a number", i+1)
		}
		if args[i] == "none" {
			args[i] = "0"
		}
	}
	if t, err = color.ParseCSS(fmt.Sprintf(form, args...)); err != nil {
		return t, err
	}
	if _, ok := o.get("alpha"); ok {
		t.Alpha = min(1, max(0, o.number("alpha")))
	}
	return t, nil
}

func isJSON(_ string, c recognize.Content) bool {
	return bytes.HasPrefix(bytes.TrimSpace(c.Data), []byte("{"))
}

func isNumber(s string) bool {
	_, err := json.Number(s).Float64()
	return err == nil
}

// readOurs takes what WriteLibrary put under $extensions.
func readOurs(c *library.Color, x object) error {
	c.Role, c.Successor.Name = library.AsRole(x.text("role")), x.text("successor")
	if s := library.Status(x.text("status")); s != "" {
		if library.CheckStatus(s) != nil {
			return fmt.Errorf("its status %q is not draft, approved or retired", s)
		}
		c.Status = s
	}
	c.ID, c.Position, c.Version = int64(x.number("id")), int(x.number("position")), int(x.number("version"))
	for key, to := range map[string]*time.Time{"added": &c.Added, "changed": &c.Changed} {
		if text := x.text(key); text != "" {
			at, err := time.Parse(time.RFC3339, text)
			if err != nil {
				return fmt.Errorf("%q is not a time", text)
			}
			*to = at
		}
	}
	c.Aliases, c.Tags = x.words("aliases"), x.words("tags")
	for _, key := range []string{"ground", "on"} { // the first version called it "on"
		if g := x.object(key); g != nil {
			c.Ground.Name, c.Ratio = g.text("color"), g.number("ratio")
		}
	}
	var family []library.KeptCompanion
	if err := x.into("family", &family); err != nil {
		return err
	}
	companions, err := library.ReadCompanions(family)
	if err != nil {
		return err
	}
	c.Companions = companions
	if err := readDeciding(c, x); err != nil {
		return err
	}
	err = first(
		x.each("cmyk", func(o object) error {
			b, err := readBuild(o)
			c.Builds = append(c.Builds, b)
			return err
		}),
		x.each("spot", func(o object) error {
			s := library.Spot{Stock: o.text("stock"), Code: o.text("code"), Origin: unsigned(o), By: library.Person{Name: o.text("by")}}
			var err error
			s.At, s.For, s.Meant, err = o.signed()
			c.Spots = append(c.Spots, s)
			return err
		}),
		x.each("history", func(o object) error {
			at, err := time.Parse(time.RFC3339, o.text("at"))
			c.History = append(c.History, library.Event{At: at, By: library.Person{Name: o.text("by")}, What: o.text("what"),
				Before: o.text("before"), After: o.text("after"), From: o.text("from"), State: o.raw("state")})
			return err
		}),
	)
	c.Settle()
	return err
}

// words is a list of texts; what is no text is left out.
func (x object) words(key string) (out []string) {
	v, _ := x.get(key)
	list, _ := v.([]any)
	for _, e := range list {
		if s, ok := e.(string); ok {
			out = append(out, s)
		}
	}
	return out
}

// each takes the objects of a list, if there is one.
func (x object) each(key string, take func(object) error) error {
	v, ok := x.get(key)
	if !ok {
		return nil
	}
	list, isList := v.([]any)
	if !isList {
		return fmt.Errorf("its %s is not a list", key)
	}
	for _, e := range list {
		o, ok := e.(object)
		if !ok {
			return fmt.Errorf("its %s holds something that is not an object", key)
		}
		if err := take(o); err != nil {
			return fmt.Errorf("its %s: %w", key, err)
		}
	}
	return nil
}

// signed is when a value was approved, and for which color.
func (x object) signed() (at time.Time, rgb color.RGB8, meant library.Master, err error) {
	if at, err = time.Parse(time.RFC3339, x.text("at")); err != nil {
		return at, rgb, meant, fmt.Errorf("%q is not a time", x.text("at"))
	}
	if text := x.text("meant"); text != "" {
		if meant, err = library.ReadMaster(text); err != nil {
			return at, rgb, meant, err
		}
	}
	rgb, err = color.FromHex(x.text("for"))
	return at, rgb, meant, err
}

// readDeciding reads what decides a color, and the hex that was approved where that is something else.
func readDeciding(c *library.Color, x object) error {
	if m := x.object("measured"); m != nil {
		lab := color.Lab{L: m.number("l"), A: m.number("a"), B: m.number("b")}
		if !(lab.L >= 0 && lab.L <= 100 && math.Abs(lab.A) <= 200 && math.Abs(lab.B) <= 200) {
			return fmt.Errorf("its measured Lab lies outside its range")
		}
		c.Master, _ = library.Read(lab)
	} else if m := x.object("master"); m != nil {
		master, err := library.ReadMaster(m.text("kind") + " " + m.text("value"))
		if err != nil {
			return err
		}
		c.Master = master
	}
	if p := x.object("hex"); p != nil {
		at, err := time.Parse(time.RFC3339, p.text("at"))
		if err == nil {
			c.RGB, err = color.FromHex(p.text("value"))
		}
		if err != nil {
			return fmt.Errorf("its hex: %w", err)
		}
		c.Plain = library.Plain{Origin: library.Signed, By: library.Person{Name: p.text("by")}, At: at}
		if unsigned(p) != "" {
			c.Plain.Origin = library.Given
		}
	}
	return nil
}

// readBuild reads one build with its press.
func readBuild(o object) (b library.Build, err error) {
	list, _ := o.get("value")
	values, _ := list.([]any)
	if len(values) != 4 {
		return b, fmt.Errorf("a build has four values")
	}
	var v [4]float64
	for i, n := range values {
		number, _ := n.(json.Number)
		if v[i], err = number.Float64(); err != nil {
			return b, fmt.Errorf("%v is not a percentage", n)
		}
	}
	b = library.Build{Press: o.text("press"), Value: color.CMYK{C: v[0], M: v[1], Y: v[2], K: v[3]}, Origin: unsigned(o),
		By: library.Person{Name: o.text("by")}}
	if !b.Value.Valid() {
		return b, fmt.Errorf("an ink lies between 0 and 100 percent")
	}
	b.At, b.For, b.Meant, err = o.signed()
	return b, err
}

func first(errs ...error) error {
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

// name gives every color that has no name of its own the last part of its path, or all of it where that is not unique.
func (r *tokenReader) name() {
	leaf := func(path []string) string {
		if n := len(path); n > 1 && path[n-1] == "$root" {
			return path[n-2]
		}
		if len(path) == 0 {
			return "color"
		}
		return path[len(path)-1]
	}
	times := map[string]int{}
	for i, path := range r.paths {
		if r.named[i] {
			times[r.lib.Colors[i].Name]++
		} else {
			times[leaf(path)]++
		}
	}
	for i, path := range r.paths {
		if r.named[i] {
			continue
		}
		r.lib.Colors[i].Name = leaf(path)
		if times[leaf(path)] > 1 {
			r.lib.Colors[i].Name = strings.TrimSuffix(strings.Join(path, "."), ".$root")
		}
	}
}

func (r *tokenReader) sets(v any) error {
	list, ok := v.([]any)
	if !ok {
		return fmt.Errorf("the swatch sets of the library are not a list")
	}
	known := map[string]bool{}
	for _, c := range r.lib.Colors {
		known[c.Name] = true
	}
	for _, e := range list {
		o, _ := e.(object)
		s := Set{ID: int64(o.number("id")), Version: int(o.number("version")), Name: o.text("name"), Edition: int(o.number("edition"))}
		if s.Name == "" {
			return fmt.Errorf("a swatch set of the library has no name")
		}
		names, _ := o.get("colors")
		members, _ := names.([]any)
		for _, n := range members {
			name, _ := n.(string)
			if !known[name] {
				return fmt.Errorf("the swatch set %s names the color %q, which the library does not hold", s.Name, name)
			}
			s.Colors = append(s.Colors, name)
		}
		s.FollowsRole, s.FollowsTag = o.text("followsRole"), o.text("followsTag")
		for _, m := range o.object("slots") {
			name, _ := m.value.(string)
			s.Slots = append(s.Slots, library.Assigned{Slot: m.key, Color: library.Ref{Name: name}})
		}
		s.Boxes.Count = min(limits.Boxes, max(0, int(o.number("boxCount"))))
		order, _ := o.get("boxes")
		boxes, _ := order.([]any)
		for _, n := range boxes {
			name, _ := n.(string)
			s.Boxes.Order = append(s.Boxes.Order, library.Ref{Name: name})
		}
		r.lib.Sets = append(r.lib.Sets, s)
	}
	return nil
}
