// Package repaint puts found colors right in the file itself: a plan says which found color becomes which library color, and only the
// bytes that say those colors change.
package repaint

import (
	"fmt"
	"slices"
	"sort"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/library"
	"huekeep/core/source"
)

// Plan says what becomes of found colors. Its JSON form is the one of the command line and of saved plans.
type Plan struct {
	Colors []Step            `json:"colors"`
	Link   bool              `json:"link,omitempty"`  // write references instead of values where a definition of the file has the color
	Theme  map[string]string `json:"theme,omitempty"` // put these colors into the slots of the file's themes, by the slot's name ("accent1")
}

// Step is what becomes of one found color.
type Step struct {
	From  string `json:"from"`            // the hex, the build or the ink, as a report gives its key
	To    string `json:"to,omitempty"`    // the name of a library color, or of one of its companions
	Leave bool   `json:"leave,omitempty"` // it stays
}

// Usual is the plan that needs no decision: what drifted becomes the nearest color, what is retired its successor.
func Usual(r audit.Report) (p Plan) {
	for _, c := range r.Colors {
		if to := Proposed(c); to != "" {
			p.Colors = append(p.Colors, Step{From: Name(c), To: to})
		}
	}
	return p
}

// Proposed is the color that a found one becomes without a decision; empty if it needs one.
func Proposed(c audit.Judged) string {
	switch {
	case c.Nearest == nil:
	case c.Verdict == audit.Drifted:
		return c.Nearest.Name
	case c.Verdict == audit.Retired:
		return c.Nearest.Successor
	}
	return ""
}

// Name is what a plan calls a found color.
func Name(c audit.Judged) string {
	switch {
	case c.Spot != "":
		return c.Spot
	case c.CMYK != "":
		return c.CMYK
	}
	return c.Hex
}

// Change is a place that was written anew.
type Change struct {
	From   string `json:"from"` // the found color
	To     string `json:"to"`   // the name of the color
	Hex    string `json:"hex"`  // how it looks
	Where  string `json:"where"`
	Count  int    `json:"count"`
	Before string `json:"before"` // what stood there, and what stands there now
	After  string `json:"after"`
}

// Left is a place of a planned color that could not be written, and why.
type Left struct {
	Value string `json:"value"`
	Where string `json:"where"`
	Why   string `json:"why"`
	Count int    `json:"count"`
}

// Parts counts the parts of a file that changed and those that are byte for byte the same.
type Parts struct {
	Changed int `json:"changed"`
	Same    int `json:"same"`
}

// Result is a repainted file.
type Result struct {
	Data    []byte
	Uses    int // that were repainted
	Changes []Change
	Left    []Left
	Parts   Parts
	Before  audit.Report
	After   audit.Report
}

// job is one repainting.
type job struct {
	judge   *audit.Judge
	options audit.Options
	plan    Plan
	rules   audit.Rules
	colors  map[string]*library.Color // by name
	to      map[string]*library.Color // planned, by what is found
	fixed   map[string]bool           // what stays
	known   map[audit.Color]*library.Color
	result  *Result
	excused map[*audit.Use]int // uses of the scan at hand that an excuse covers
	worked  []worked           // what is worked out of definitions, in its order
	links   map[string]outcome // of the definitions of the file, by key
}

// worked is a use that is worked out of definitions: what it was before anything was written, and what it is to become; nil if it stays.
type worked struct {
	was string
	to  *library.Color
}

// outcome is what the values of one definition become: of most there is one, of a variable that has other values in places there are several.
// The values are hex.
type outcome map[string]string

// one is what a definition becomes wherever it is used; empty if that depends on where.
func (o outcome) one() (hex string) {
	for _, to := range o {
		if hex != "" && hex != to {
			return ""
		}
		hex = to
	}
	return hex
}

// File repaints one file. excuses of the rules hold: an excused place stays as it is. The result has been scanned and judged again.
func File(name string, data []byte, rules audit.Rules, plan Plan, o audit.Options) (*Result, error) {
	return FileBy(name, data, rules, func(audit.Report) Plan { return plan }, o)
}

// FileBy is File with a plan that is made of what the file holds, as Usual makes one.
func FileBy(name string, data []byte, rules audit.Rules, decide func(audit.Report) Plan, o audit.Options) (*Result, error) {
	scan, err := audit.ReadWith(name, data, o)
	if err != nil {
		return nil, err
	}
	judge := audit.NewJudge(rules)
	before := judge.Judge(name, scan)
	plan := decide(before)
	j := &job{judge: judge, options: o, plan: plan, rules: rules, colors: map[string]*library.Color{}, to: map[string]*library.Color{}, fixed: map[string]bool{}, known: map[audit.Color]*library.Color{}, result: &Result{}}
	for i := range rules.Colors {
		c := &rules.Colors[i]
		if was, ok := j.colors[c.Name]; !ok || was.Retired() {
			j.colors[c.Name] = c
		}
	}
	for _, s := range plan.Colors {
		from := key(s.From)
		if s.Leave || s.To == "" {
			j.fixed[from] = true
			continue
		}
		c, ok := j.colors[s.To]
		if !ok {
			return nil, fmt.Errorf("the plan names the color %s, which the library does not have", s.To)
		}
		if c.Retired() {
			return nil, fmt.Errorf("the plan turns %s into %s, which is retired", s.From, s.To)
		}
		j.to[from] = c
	}
	for slot, name := range plan.Theme {
		if _, ok := j.colors[name]; !ok {
			return nil, fmt.Errorf("the plan puts the color %s into the slot %s, which the library does not have", name, slot)
		}
	}
	r := j.result
	r.Before = before
	r.Data = data
	changed := map[string]bool{}
	// What definitions say is written first, and what points to them follows; the second turn writes what did not.
	for turn := range 2 {
		edits, n, err := j.edits(scan, turn)
		if err != nil {
			return nil, err
		}
		if len(edits) == 0 && turn > 0 {
			break
		}
		var last *source.Part
		for _, e := range edits {
			if e.Part != last {
				last = e.Part
				changed[strings.Join(top(e.Part), "\x00")] = true
			}
		}
		out, err := scan.File.Apply(edits)
		if err != nil {
			return nil, fmt.Errorf("%s cannot be written: %w", name, err)
		}
		r.Uses += n
		r.Data = out
		if scan, err = audit.ReadWith(name, out, o); err != nil {
			return nil, fmt.Errorf("%s would not be readable any more, and was left as it is: %w", name, err)
		}
	}
	r.After = j.judge.Judge(name, scan)
	j.leftovers(scan)
	r.Parts.Changed = len(changed)
	r.Parts.Same = max(0, scan.Parts-len(changed))
	return r, nil
}

// top is the path of the part that counts: an entry of the archive, or the file.
func top(p *source.Part) []string { return p.Path() }

// key is how colors of a plan are compared.
func key(s string) string {
	s = strings.TrimSpace(s)
	if c, err := color.Parse(s); err == nil && (c.Notation == "hex" || c.Notation == "cmyk") {
		if c.CMYK != nil {
			return strings.ToLower(c.CMYK.String())
		}
		return strings.ToLower(c.RGB8().Hex())
	}
	return strings.ToLower(s)
}

// edit is one span with what a place makes of it.
type edit struct {
	source.Edit
	use *audit.Use
	old string // what is told of what was there
	now string // the same of what is
	to  *library.Color
}

// planned says what a use becomes.
func (j *job) planned(u *audit.Use) (*library.Color, bool) {
	if u.Why != "" {
		return nil, false
	}
	if _, slot, ok := strings.Cut(u.Define, "#"); ok {
		if name, ok := j.plan.Theme[slot]; ok {
			c := j.colors[name]
			return c, c.RGB != u.RGB
		}
	}
	c, ok := j.becomes(u.Color)
	if !ok || u.Color == audit.Screen(c.RGB) {
		return c, false
	}
	_, excused := j.excused[u]
	return c, !excused
}

// becomes is what the plan turns a color into.
func (j *job) becomes(c audit.Color) (*library.Color, bool) {
	to, known := j.known[c]
	if !known {
		if name := strings.ToLower(c.Name()); !j.fixed[name] {
			to = j.to[name]
		}
		j.known[c] = to
	}
	return to, to != nil
}

// targets says what each use is to become; nil for what stays. What is worked out of definitions may come right with them, so that in the
// second turn it is held to what was planned for it in the first, whatever it has become meanwhile.
func (j *job) targets(scan *audit.Scan, turn int) []*library.Color {
	out := make([]*library.Color, len(scan.Uses))
	j.excused = j.judge.Excused(scan, j.result.Before.Path)
	var them []int
	for i, u := range scan.Uses {
		if c, ok := j.planned(u); ok {
			out[i] = c
		}
		if u.Worked {
			them = append(them, i)
			if turn == 0 {
				j.worked = append(j.worked, worked{u.Name(), out[i]})
			}
		}
	}
	if turn > 0 && len(them) == len(j.worked) { // else they are not the same any more, and what is planned counts
		for k, i := range them {
			out[i] = j.worked[k].to
		}
	}
	return out
}

// follows tells of a use that becomes what it is to be with what it refers to.
func (j *job) follows(u *audit.Use, was string, c *library.Color, how string) (uses int) {
	if u.Hidden {
		return 0
	}
	j.result.Changes = append(j.result.Changes, Change{was, c.Name, c.RGB.Hex(), u.Where, u.Count, u.Value, u.Value + how})
	return u.Count
}

// edits works out what is written: in the first turn everything but what points to a definition that is written itself, and what is worked
// out of one.
func (j *job) edits(scan *audit.Scan, turn int) ([]source.Edit, int, error) {
	targets := j.targets(scan, turn)
	j.links = map[string]outcome{}
	for i, u := range scan.Uses {
		if u.Define == "" || u.Why != "" {
			continue
		}
		hex := u.RGB.Hex()
		if j.links[u.Define] == nil {
			j.links[u.Define] = outcome{}
		}
		if c := targets[i]; c != nil && u.Form != nil {
			j.links[u.Define][hex] = c.RGB.Hex()
		} else if _, twice := j.links[u.Define][hex]; !twice {
			j.links[u.Define][hex] = hex
		}
	}
	torn := torn(scan, targets)
	var list []edit
	pictures := map[*audit.Painting]map[color.RGB8]color.RGB8{}
	var painted []*audit.Painting
	uses, them := 0, 0
	for i, u := range scan.Uses {
		was := u.Name()
		if u.Worked {
			if them < len(j.worked) {
				was = j.worked[them].was
			}
			them++
		}
		c := targets[i]
		if c == nil || u.Worked && turn == 0 {
			continue
		}
		if u.Worked && u.RGB == c.RGB {
			uses += j.follows(u, was, c, ", which comes to it")
			continue
		}
		if u.Linked() && turn == 0 && j.links[u.Link][u.RGB.Hex()] == c.RGB.Hex() {
			uses += j.follows(u, was, c, ", which follows its definition")
			continue
		}
		if p := u.Rare().Paint; p != nil {
			if pictures[p] == nil {
				pictures[p] = map[color.RGB8]color.RGB8{}
				painted = append(painted, p)
			}
			pictures[p][u.RGB] = c.RGB
			uses += u.Count
			j.result.Changes = append(j.result.Changes, Change{u.Name(), c.Name, c.RGB.Hex(), u.Where, u.Count, u.RGB.Hex(), c.RGB.Hex()})
			continue
		}
		if u.Form == nil || len(u.At) == 0 || torn[u.At[0]] {
			continue
		}
		own, written, err := j.write(u, c)
		if err != nil {
			return nil, 0, err
		}
		if written {
			list = append(list, own...)
		}
	}
	kept := disjoint(list)
	var out []source.Edit
	counted := map[string]bool{}
	for _, e := range kept {
		out = append(out, e.Edit)
		id := e.use.Where + "\x00" + e.use.Value
		if e.use.Hidden || counted[id] {
			continue
		}
		counted[id] = true
		uses += e.use.Count
		j.result.Changes = append(j.result.Changes, Change{e.use.Name(), e.to.Name, e.to.RGB.Hex(), e.use.Where, e.use.Count, short(e.old), short(e.now)})
	}
	for _, p := range painted {
		data, err := p.Repaint(pictures[p])
		if err != nil {
			return nil, 0, fmt.Errorf("the picture %s cannot be written: %w", p.Part.Name, err)
		}
		was, err := p.Part.Bytes()
		if err != nil {
			return nil, 0, err
		}
		out = append(out, source.Edit{Span: source.Span{Part: p.Part, Start: 0, End: len(was)}, New: data})
	}
	return out, uses, nil
}

// torn are bytes that several uses share of which not all become the same, such as a reference to a variable with a value for light and one
// for dark grounds, or the font of cells of which one is excused: what is written there would change the others too.
func torn(scan *audit.Scan, targets []*library.Color) map[source.Span]bool {
	to := map[source.Span]*library.Color{}
	out := map[source.Span]bool{}
	for i, u := range scan.Uses {
		if c := targets[i]; c != nil && len(u.At) > 0 {
			if other, shared := to[u.At[0]]; shared && other.RGB != c.RGB {
				out[u.At[0]] = true
			}
			to[u.At[0]] = c
		}
	}
	if len(to) == 0 {
		return nil
	}
	for i, u := range scan.Uses {
		if targets[i] != nil || len(u.At) == 0 || u.Why != "" || u.Hidden {
			continue
		}
		if c, shared := to[u.At[0]]; shared && u.RGB != c.RGB {
			out[u.At[0]] = true
		}
	}
	return out
}

// short is a text for a list.
func short(s string) string {
	if r := []rune(s); len(r) > 240 {
		return string(r[:237]) + "..."
	}
	return s
}

// write works out the edits of one use; not ok if one of its places cannot be written, which the last judgment tells.
func (j *job) write(u *audit.Use, c *library.Color) (out []edit, ok bool, err error) {
	paint := form.Paint{Name: c.Name, RGB: c.RGB, Base: j.base}
	if _, inks := u.Build(); inks {
		if b, ok := j.judge.Build(c.Name); ok {
			paint.CMYK = &b
		}
	}
	if j.plan.Link && (u.Define == "" || u.Chains) {
		paint.Link = func(key string) bool { return key != u.Define && j.links[key].one() == c.RGB.Hex() }
	}
	if point := u.Rare().Point; paint.Link != nil && point != nil {
		for _, p := range point(paint.Link) {
			out = append(out, edit{source.Edit{Span: p.At, New: []byte(p.New)}, u, u.Value, p.Says, c})
		}
		if len(out) > 0 {
			return out, true, nil
		}
	}
	for _, at := range u.At {
		old, err := at.Text()
		if err != nil {
			return nil, false, err
		}
		text, err := u.Form.Write(old, paint)
		if err != nil {
			return nil, false, nil
		}
		if text != old {
			out = append(out, edit{source.Edit{Span: at, New: []byte(text)}, u, old, text, c})
		}
	}
	return out, true, nil
}

// base is what a color becomes that another one is made from.
func (j *job) base(c color.RGB8) (color.RGB8, bool) {
	if to, ok := j.to[strings.ToLower(c.Hex())]; ok {
		return to.RGB, true
	}
	return j.judge.Base(c)
}

// disjoint keeps, of edits that are of the same bytes, the first; those that are told by several places are one.
func disjoint(list []edit) []edit {
	order := map[*source.Part]int{}
	for i, e := range list {
		if _, ok := order[e.Part]; !ok {
			order[e.Part] = i
		}
	}
	sort.SliceStable(list, func(a, b int) bool {
		x, y := &list[a], &list[b]
		if x.Part != y.Part {
			return order[x.Part] < order[y.Part]
		}
		return x.Start < y.Start
	})
	out := make([]edit, 0, len(list))
	for _, e := range list {
		if n := len(out); n > 0 && out[n-1].Part == e.Part && e.Start < out[n-1].End {
			if e.Start == out[n-1].Start && e.End == out[n-1].End && !e.use.Hidden && string(e.New) == string(out[n-1].New) && out[n-1].use.Hidden {
				out[n-1] = e // the one that is shown tells of it
			}
			continue
		}
		out = append(out, e)
	}
	return out
}

// leftovers tells what of the planned colors is still there.
func (j *job) leftovers(scan *audit.Scan) {
	targets := j.targets(scan, 1)
	torn := torn(scan, targets)
	for i, u := range scan.Uses {
		c := targets[i]
		if c == nil || u.Hidden || u.Worked && u.RGB == c.RGB {
			continue
		}
		why := u.Fixed
		if len(u.At) > 0 && torn[u.At[0]] {
			why = "what stands there is also used where it stays"
		}
		if why == "" && u.Form != nil && len(u.At) > 0 {
			if old, err := u.At[0].Text(); err == nil {
				paint := form.Paint{Name: c.Name, RGB: c.RGB}
				_, inks := u.Build()
				if b, ok := j.judge.Build(c.Name); ok && inks {
					paint.CMYK = &b
				}
				if _, err := u.Form.Write(old, paint); err != nil {
					why = err.Error()
				}
			}
		}
		if why == "" {
			why = "it takes its color from elsewhere"
		}
		j.result.Left = append(j.result.Left, Left{u.Value, u.Where, why, u.Count})
	}
	slices.SortStableFunc(j.result.Left, func(a, b Left) int { return strings.Compare(a.Where, b.Where) })
}
