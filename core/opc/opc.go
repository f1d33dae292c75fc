// Package opc reads what documents of ECMA-376 have in common: the package with its relationships (part 2, open packaging conventions),
// the color scheme of a theme, the color map of a master, and the colors of DrawingML.
package opc

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"huekeep/core/color"
	"huekeep/core/markup"
	"huekeep/core/source"
)

// Package is an opened document.
type Package struct {
	Root   *source.Part
	parts  map[string]*source.Part
	rels   map[string][]Relation
	themes map[string]Theme
	maps   map[string]map[string]string
}

// Relation is one row of a part's relationships.
type Relation struct {
	ID     string
	Kind   string // the last word of its type: "slide", "theme"
	Target string // name of the part, without a leading slash
}

// Theme is the color scheme of a theme part, with the custom colors beside it.
type Theme struct {
	Part   string
	Name   string                // of the scheme, or else of the theme
	Slots  map[string]color.RGB8 // by name: dk1, accent3
	Colors []ThemeColor          // the slots and the custom colors, in their order
	Wrong  error                 // about the first color that is none; nil if all are
}

// ThemeColor is a slot of a theme or one of its custom colors.
type ThemeColor struct {
	Name    string
	Custom  bool
	RGB     color.RGB8
	Opacity float64 // 0 to 1
}

// Key is the key of a slot as a definition.
func (t Theme) Key(slot string) string { return t.Part + "#" + slot }

// Open reads the directory of a package.
func Open(p *source.Part) (*Package, error) {
	parts, err := p.Parts()
	if err != nil {
		return nil, err
	}
	k := &Package{Root: p, parts: map[string]*source.Part{}, rels: map[string][]Relation{}, themes: map[string]Theme{},
		maps: map[string]map[string]string{}}
	for _, e := range parts {
		name := strings.TrimPrefix(strings.ReplaceAll(e.Name, "\\", "/"), "/")
		if _, twice := k.parts[name]; !twice {
			k.parts[name] = e
		}
	}
	if k.parts["[Content_Types].xml"] == nil {
		return nil, fmt.Errorf("it is a ZIP archive but not an office document")
	}
	return k, nil
}

// Part returns a part by name; an error if there is none.
func (k *Package) Part(name string) (*source.Part, error) {
	if p := k.parts[name]; p != nil {
		return p, nil
	}
	return nil, fmt.Errorf("its part %q is missing", name)
}

// Names lists the parts in order.
func (k *Package) Names() []string {
	out := make([]string, 0, len(k.parts))
	for n := range k.parts {
		out = append(out, n)
	}
	slices.Sort(out)
	return out
}

// Main finds the part that the document begins with.
func (k *Package) Main() (string, error) {
	rels, err := k.Relations("")
	if err != nil {
		return "", err
	}
	for _, r := range rels {
		if r.Kind == "officeDocument" {
			return r.Target, nil
		}
	}
	return "", fmt.Errorf("it is an office document without a main part")
}

// Relations lists the relationships of a part to others of the package, by their id; "" is the package itself.
func (k *Package) Relations(part string) ([]Relation, error) {
	if known, ok := k.rels[part]; ok {
		return known, nil
	}
	name := path.Join(path.Dir(part), "_rels", path.Base(part)+".rels")
	if part == "" {
		name = "_rels/.rels"
	}
	k.rels[part] = nil
	p := k.parts[name]
	if p == nil {
		return nil, nil
	}
	var out []Relation
	err := Each(p, func(r *markup.Reader) error {
		if string(markup.Local(r.Name)) != "Relationship" || r.Get("TargetMode") == "External" {
			return nil
		}
		kind := r.Get("Type")
		if !strings.Contains(kind, "/relationships/") {
			kind = ""
		}
		out = append(out, Relation{r.Get("Id"), kind[strings.LastIndexByte(kind, '/')+1:], resolve(part, r.Get("Target"))})
		return nil
	})
	if err != nil {
		return nil, err
	}
	slices.SortStableFunc(out, func(a, b Relation) int { return natural(a.ID, b.ID) })
	k.rels[part] = out
	return out, nil
}

// natural orders "rId2" before "rId10".
func natural(a, b string) int {
	if len(a) != len(b) && strings.TrimRight(a, "0123456789") == strings.TrimRight(b, "0123456789") {
		return len(a) - len(b)
	}
	return strings.Compare(a, b)
}

// ByID finds a relationship of a part.
func (k *Package) ByID(part, id string) (Relation, bool) {
	rels, err := k.Relations(part)
	if err != nil || id == "" {
		return Relation{}, false
	}
	for _, r := range rels {
		if r.ID == id {
			return r, true
		}
	}
	return Relation{}, false
}

// First finds the first relationship of a kind.
func (k *Package) First(part, kind string) (string, bool) {
	rels, err := k.Relations(part)
	if err != nil {
		return "", false
	}
	for _, r := range rels {
		if r.Kind == kind {
			return r.Target, true
		}
	}
	return "", false
}

// resolve makes a relationship target absolute within the package.
func resolve(part, target string) string {
	if strings.HasPrefix(target, "/") {
		return strings.TrimPrefix(path.Clean(target), "/")
	}
	return path.Clean(path.Join(path.Dir(part), target))
}

// Each calls f for every start tag of an XML part.
func Each(p *source.Part, f func(*markup.Reader) error) error {
	data, err := p.Bytes()
	if err != nil {
		return err
	}
	r := markup.NewReader(data)
	for {
		e, err := r.Next()
		switch {
		case err != nil:
			return fmt.Errorf("its part %q: %w", p.Name, err)
		case e == markup.End:
			return nil
		case e == markup.Open:
			if err := f(r); err != nil {
				return err
			}
		}
	}
}

// Theme reads the color scheme of a theme part, once.
func (k *Package) Theme(part string) (Theme, error) {
	if t, ok := k.themes[part]; ok {
		return t, nil
	}
	p, err := k.Part(part)
	if err != nil {
		return Theme{}, err
	}
	t, err := ReadTheme(p)
	t.Part = part
	k.themes[part] = t
	return t, err
}

// ReadTheme reads the first color scheme of a theme part and its named custom colors (20.1.6.2 and 20.1.4.1.8). A slot whose color cannot
// be known is left out.
func ReadTheme(p *source.Part) (Theme, error) {
	t := Theme{Part: p.Name, Slots: map[string]color.RGB8{}}
	data, err := p.Bytes()
	if err != nil {
		return t, err
	}
	r := markup.NewReader(data)
	scheme, custom := 0, 0 // depth of what is read
	name := ""
	var open *Color
	depth, start := 0, 0 // of the open color
	for {
		e, err := r.Next()
		if err != nil {
			return t, fmt.Errorf("its part %q: %w", p.Name, err)
		}
		switch e {
		case markup.End:
			return t, nil
		case markup.Open:
			local := string(markup.Local(r.Name))
			switch {
			case local == "theme" && t.Name == "":
				t.Name = r.Get("name")
			case local == "clrScheme" && scheme == 0:
				scheme = r.Depth()
				if n := r.Get("name"); n != "" {
					t.Name = n
				}
			case local == "custClrLst":
				custom = r.Depth()
			case scheme > 0 && r.Depth() == scheme+1:
				name = local
			case custom > 0 && r.Depth() == custom+1:
				name = r.Get("name")
			case (scheme > 0 && r.Depth() == scheme+2 || custom > 0 && r.Depth() == custom+2) && IsColor(markup.Local(r.Name)):
				c := StartColor(r)
				open, depth, start = &c, r.Depth(), r.Start
			case open != nil && r.Depth() == depth+1:
				open.Add(r)
			}
		case markup.Close:
			switch {
			case open != nil && r.Depth() == depth-1:
				if c, ok := open.RGB(nil); ok {
					t.Colors = append(t.Colors, ThemeColor{name, custom > 0, c, open.Opacity()})
					if custom == 0 {
						t.Slots[name] = c
					}
				} else if t.Wrong == nil {
					line, _ := markup.Line(data, start)
					t.Wrong = fmt.Errorf("line %d: %s is %s, which is not a color", line, name, open.Written())
				}
				open = nil
			case scheme > 0 && r.Depth() == scheme-1:
				scheme = -1 // extra schemes behind it are not this theme's
			case custom > 0 && r.Depth() == custom-1:
				custom = 0
			}
		}
	}
}

// Scope is what the scheme colors of a part resolve through.
type Scope struct {
	Theme
	Remap map[string]string // bg1 to lt1 and so on
}

// usual is the color map where a document says nothing.
var usual = map[string]string{"bg1": "lt1", "tx1": "dk1", "bg2": "lt2", "tx2": "dk2"}

// NewScope makes a scope of a theme and a color map, which may be nil.
func NewScope(t Theme, remap map[string]string) Scope {
	s := Scope{t, map[string]string{}}
	for _, m := range []map[string]string{usual, remap} {
		for from, to := range m {
			s.Remap[from] = to
		}
	}
	return s
}

// Slot is the slot of the theme that a scheme color stands for.
func (s Scope) Slot(name string) string {
	if to, ok := s.Remap[name]; ok {
		return to
	}
	return name
}

// Color resolves a scheme color.
func (s Scope) Color(name string) (color.RGB8, bool) {
	c, ok := s.Slots[s.Slot(name)]
	return c, ok
}

// ColorMap reads the color map of a master: the attributes of its first clrMap.
func (k *Package) ColorMap(part, element string) (map[string]string, error) {
	if known, ok := k.maps[part]; ok {
		return known, nil
	}
	p, err := k.Part(part)
	if err != nil {
		return nil, err
	}
	out := map[string]string{}
	k.maps[part] = out
	err = Each(p, func(r *markup.Reader) error {
		if string(markup.Local(r.Name)) == element {
			for _, a := range r.Attrs {
				out[string(markup.Local(a.Name))] = r.Value(a)
			}
		}
		return nil
	})
	return out, err
}
