// Package repaint puts found colors right in the file itself: a plan says which found color becomes which library color, and only the
// bytes that say those colors change.
package repaint

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"sort"
	"strings"

	"huekeep/core/archive"
	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/audit/web"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/library"
	"huekeep/core/source"
)

// Plan says what becomes of found colors. Its JSON form is the one of the command line and of saved plans.
type Plan struct {
	Colors []Step `json:"colors"`
	Link   bool   `json:"link,omitempty"` // write references instead of values where a definition of the file has the color
	// put these colors into the slots of the file's themes, by the slot's name ("accent1")
	Theme map[string]string `json:"theme,omitempty"`
	Stay  map[string]string `json:"-"` // utility classes that keep their names because of other files, and why
}

// Step is what becomes of one found color.
type Step struct {
	From  string   `json:"from"`            // the hex, the build or the ink, as a report gives its key
	To    string   `json:"to,omitempty"`    // the name of a library color, or of one of its companions
	Leave bool     `json:"leave,omitempty"` // it stays
	Where []string `json:"where,omitempty"` // only at these places, as a report names them; a place comes before what is said of all
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
	case c.Wide != "":
		return c.Wide
	}
	return c.Hex
}

// Turns says whether a plan makes something else of a found color, somewhere at least.
func (p Plan) Turns(c audit.Judged) bool {
	return slices.ContainsFunc(p.Colors, func(s Step) bool { return !s.Leave && s.To != "" && key(s.From) == key(Name(c)) })
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

// job is one repainting. What becomes of a use is decided once, by what it was in the file as it came: a plan is never applied to its own
// output.
type job struct {
	judge   *audit.Judge
	options kinds.Options
	plan    Plan
	rules   audit.Rules
	colors  map[string]*library.Color // by name
	to      map[string]*library.Color // planned, by what is found
	fixed   map[string]bool           // what stays
	known   map[audit.Color]*library.Color
	at      map[at]*library.Color // planned of one place; nil for what stays
	result  *Result
	excused map[*audit.Use]int // uses of the file as it came that an excuse covers
	links   map[string]outcome // of the definitions of the file, by key
	places  map[string]*place  // by their name
}

// decided is a use of the file as it came with what it is to become; nil if it stays.
type decided struct {
	use *audit.Use
	to  *library.Color
	why string // it could not be written
	off bool   // it was not to be written at all
}

// place is what was decided for the uses of one place. It is how uses are found again in the file as it was written.
type place struct {
	uses   map[audit.Color][]*decided
	worked []*decided           // those that are worked out of definitions, in their order
	after  map[audit.Color]bool // screen colors that are there when all is done
	builds map[color.CMYK]bool  // and builds
}

// outcome is what the values of one definition become: of most there is one, of a variable that has other values in places there are
// several. The values are hex.
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
func File(name string, data []byte, rules audit.Rules, plan Plan, o kinds.Options) (*Result, error) {
	return FileBy(name, data, rules, func(audit.Report) Plan { return plan }, o)
}

// FileBy is File with a plan that is made of what the file holds, as Usual makes one.
func FileBy(name string, data []byte, rules audit.Rules, decide func(audit.Report) Plan, o kinds.Options) (*Result, error) {
	scan, err := kinds.ReadWith(name, data, o)
	if err != nil {
		return nil, err
	}
	j, err := newJob(name, scan, rules, decide, o)
	if err != nil {
		return nil, err
	}
	return j.file(name, data, scan)
}

// newJob reads a plan.
func newJob(name string, scan *audit.Scan, rules audit.Rules, decide func(audit.Report) Plan, o kinds.Options) (*job, error) {
	judge := audit.NewJudge(rules)
	before := judge.Judge(name, scan)
	plan := decide(before)
	j := &job{judge: judge, options: o, plan: plan, rules: rules, colors: map[string]*library.Color{}, to: map[string]*library.Color{},
		fixed: map[string]bool{}, known: map[audit.Color]*library.Color{}, at: map[at]*library.Color{}, places: map[string]*place{},
		result: &Result{}}
	for i := range rules.Colors {
		c := &rules.Colors[i]
		if was, ok := j.colors[c.Name]; !ok || was.Retired() {
			j.colors[c.Name] = c
		}
	}
	for _, s := range plan.Colors {
		from := key(s.From)
		if s.Leave || s.To == "" {
			for _, where := range s.Where {
				j.at[at{from, where}] = nil
			}
			if len(s.Where) == 0 {
				j.fixed[from] = true
			}
			continue
		}
		c, ok := j.colors[s.To]
		if !ok {
			return nil, fmt.Errorf("the plan names the color %s, which the library does not have", s.To)
		}
		if c.Retired() {
			return nil, fmt.Errorf("the plan turns %s into %s, which is retired", s.From, s.To)
		}
		for _, where := range s.Where {
			j.at[at{from, where}] = c
		}
		if len(s.Where) == 0 {
			j.to[from] = c
		}
	}
	for slot, name := range plan.Theme {
		if _, ok := j.colors[name]; !ok {
			return nil, fmt.Errorf("the plan puts the color %s into the slot %s, which the library does not have", name, slot)
		}
	}
	j.result.Before = before
	return j, nil
}

// file repaints the file.
func (j *job) file(name string, data []byte, scan *audit.Scan) (r *Result, err error) {
	r = j.result
	r.Data = data
	changed := map[string]bool{}
	// What definitions say is written first, and what is made of them follows; the second turn writes what did not.
	targets := j.decide(scan)
	for turn := range 2 {
		var edits []source.Edit
		n := 0
		if turn == 0 {
			edits, n, err = j.edits(scan, targets)
		} else {
			edits, n, err = j.rest(scan)
		}
		if err != nil {
			return nil, err
		}
		r.Uses += n
		if len(edits) == 0 {
			continue
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
		r.Data = out
		if scan, err = kinds.ReadWith(name, out, j.options); err != nil {
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
	was string // the color
	old string // what is told of what was there
	now string // the same of what is
	to  *library.Color
}

// sought is what a use is to be when it becomes a color: where it says one that sRGB does not hold, so is the color, if it is one. In a
// picture it is what that can show of it.
func sought(u *audit.Use, c *library.Color) audit.Color {
	if p := u.Rare().Paint; p != nil {
		return p.Shows(u.Color, *c)
	}
	if u.Wide() != "" {
		return audit.Beyond(c.RGB, c.CSS())
	}
	return audit.Screen(c.RGB)
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
	if here, said := j.here(u); said && u.Rare().Class == "" {
		c, ok = here, here != nil
	}
	if !ok || u.Color == sought(u, c) {
		return c, false
	}
	_, excused := j.excused[u]
	return c, !excused
}

// at is a color at a place.
type at struct{ color, where string }

// here is what the plan says of the place of a use alone; nil for what stays.
func (j *job) here(u *audit.Use) (c *library.Color, said bool) {
	if len(j.at) == 0 {
		return nil, false
	}
	c, said = j.at[at{strings.ToLower(u.Color.Name()), u.Where}]
	return c, said
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

// target is what a use is to become; nil if it stays.
func (j *job) target(u *audit.Use) *library.Color {
	if c, ok := j.planned(u); ok {
		return c
	}
	return nil
}

// decide says what each use of the file as it came is to become; nil for what stays.
func (j *job) decide(scan *audit.Scan) []*library.Color {
	out := make([]*library.Color, len(scan.Uses))
	j.excused = j.judge.Excused(scan, j.result.Before.Path)
	for i, u := range scan.Uses {
		out[i] = j.target(u)
		if c, _ := j.here(u); c != nil && u.Rare().Class != "" && out[i] == nil && !u.Hidden {
			j.result.Left = append(j.result.Left,
				Left{u.Value, u.Where, "it is of a utility class, which changes wherever it is used or not at all", u.Count})
		}
	}
	stay := j.staying(scan, out)
	for i, u := range scan.Uses {
		p := j.places[u.Where]
		if p == nil {
			p = &place{uses: map[audit.Color][]*decided{}, after: map[audit.Color]bool{}, builds: map[color.CMYK]bool{}}
			j.places[u.Where] = p
		}
		d := &decided{use: u, to: out[i]}
		if why := stay[u.Rare().Class]; why != "" && d.to != nil {
			d.why, d.off, out[i] = why, true, nil
		}
		if d.to == nil {
			p.after[u.Color] = true
			if b, ok := u.Build(); ok {
				p.builds[b] = true
			}
		} else {
			p.after[sought(u, d.to)] = true
			if b, ok := j.judge.Build(d.to.Name); ok {
				p.builds[b] = true
			}
		}
		if u.Worked {
			p.worked = append(p.worked, d)
		} else {
			p.uses[u.Color] = append(p.uses[u.Color], d)
		}
	}
	return out
}

// staying are the utility classes of a file that keep their names, with why: a class and the rules of that name change together or not at
// all.
func (j *job) staying(scan *audit.Scan, targets []*library.Color) map[string]string {
	stay := maps.Clone(j.plan.Stay)
	if stay == nil {
		stay = map[string]string{}
	}
	for i, u := range scan.Uses {
		if r := u.Rare(); r.Names && targets[i] == nil && stay[r.Class] == "" {
			if _, planned := j.becomes(u.Color); planned && u.Color != sought(u, j.known[u.Color]) {
				stay[r.Class] = fmt.Sprintf("the class %s is to stay elsewhere, and its rules have its name", r.Class)
			}
		}
	}
	return stay
}

// MayHaveClasses says, without reading it, whether a file can have utility classes with colors.
func MayHaveClasses(data []byte) bool { return archive.Is(data) || web.MayNameColors(data) }

// Classes are the utility classes with colors that a file names, and those of them that a plan changes elsewhere and not at every place of
// this file, since one is excused. A plan for several files is told of them (Plan.Stay), so that pages and style sheets stay of one mind.
func Classes(name string, data []byte, rules audit.Rules, decide func(audit.Report) Plan, o kinds.Options) (all, held []string, err error) {
	if !MayHaveClasses(data) {
		return nil, nil, nil
	}
	scan, err := kinds.ReadWith(name, data, o)
	if err != nil {
		return nil, nil, err
	}
	if !slices.ContainsFunc(scan.Uses, func(u *audit.Use) bool { return u.Rare().Names }) {
		return nil, nil, nil
	}
	j, err := newJob(name, scan, rules, decide, o)
	if err != nil {
		return nil, nil, err
	}
	targets := make([]*library.Color, len(scan.Uses))
	j.excused = j.judge.Excused(scan, name)
	names := map[string]bool{}
	for i, u := range scan.Uses {
		targets[i] = j.target(u)
		if r := u.Rare(); r.Names {
			names[r.Class] = true
		}
	}
	return slices.Sorted(maps.Keys(names)), slices.Sorted(maps.Keys(j.staying(scan, targets))), nil
}

// Stay adds to a plan that utility classes keep their names because of another file. Of a file that is not repainted at the same time,
// alone is true.
func Stay(to map[string]string, classes []string, file string, alone bool) {
	why := "the class %s is to stay in %s; it changes in all files or in none"
	if alone {
		why = "the class %s stands in %s too; repaint the files together"
	}
	for _, class := range classes {
		if to[class] == "" {
			to[class] = fmt.Sprintf(why, class, file)
		}
	}
}

// expected says whether a color stands at a place because it was decided so.
func (p *place) expected(c audit.Color) bool {
	if b, ok := c.Build(); ok && p.builds[b] {
		return true
	}
	return p.after[c]
}

// open is what a use of the written file should have become and did not, with why as far as that is known; nil if it is as it should be.
// worked is its number among those of its place that are worked out.
func (j *job) open(u *audit.Use, worked int) (d decided) {
	p := j.places[u.Where]
	switch {
	case p == nil:
		return d
	case u.Worked:
		if worked < len(p.worked) {
			d = *p.worked[worked]
		}
		if d.to != nil && d.to.RGB == u.RGB {
			d.to = nil
		}
		return d
	}
	expected := p.expected(u.Color)
	for _, was := range p.uses[u.Color] {
		if was.to != nil && (!expected || was.why != "") && u.Hidden == was.use.Hidden {
			return *was
		}
	}
	return d
}

// notDone goes over the uses of the written file that should have become something else.
func (j *job) notDone(scan *audit.Scan, each func(u *audit.Use, d decided)) {
	at := map[string]int{}
	for _, u := range scan.Uses {
		worked := 0
		if u.Worked {
			worked = at[u.Where]
			at[u.Where]++
		}
		if d := j.open(u, worked); d.to != nil && u.Why == "" {
			each(u, d)
		}
	}
}

// follows tells of a use that becomes what it is to be with what it refers to.
func (j *job) follows(u *audit.Use, was string, c *library.Color, how string) (uses int) {
	if u.Hidden {
		return 0
	}
	j.result.Changes = append(j.result.Changes, Change{was, c.Name, c.RGB.Hex(), u.Where, u.Count, u.Value, u.Value + how})
	return u.Count
}

// edits works out what is written first: everything but what points to a definition that is written itself, and what is worked out of one.
func (j *job) edits(scan *audit.Scan, targets []*library.Color) ([]source.Edit, int, error) {
	torn := torn(scan, targets)
	written := func(i int) (own []edit, why string) {
		u, c := scan.Uses[i], targets[i]
		switch {
		case u.Form == nil || len(u.At) == 0:
			return nil, cmp.Or(u.Fixed, elsewhere)
		case torn[u.At[0]]:
			return nil, "what stands there is also used where it stays"
		}
		own, err := j.write(u, c)
		if err != nil {
			return nil, err.Error()
		}
		return own, ""
	}
	j.define(scan, targets, func(i int) bool { _, why := written(i); return why == "" })
	var list []edit
	pictures := map[audit.Painting]map[audit.Color]library.Color{}
	var painted []audit.Painting
	uses := 0
	for i, u := range scan.Uses {
		c := targets[i]
		if c == nil || u.Worked {
			continue
		}
		if j.follow(u, c) {
			uses += j.follows(u, u.Name(), c, ", which follows its definition")
			continue
		}
		if p := u.Rare().Paint; p != nil {
			if pictures[p] == nil {
				pictures[p] = map[audit.Color]library.Color{}
				painted = append(painted, p)
			}
			pictures[p][u.Color] = *c
			uses += u.Count
			j.result.Changes = append(j.result.Changes,
				Change{u.Name(), c.Name, c.RGB.Hex(), u.Where, u.Count, u.Name(), sought(u, c).Name()})
			continue
		}
		own, why := written(i)
		if why != "" {
			j.failed(u, why)
		}
		list = append(list, own...)
	}
	out, n := j.told(list)
	for _, p := range painted {
		data, err := p.Repaint(pictures[p])
		if err != nil {
			return nil, 0, fmt.Errorf("the picture %s cannot be written: %w", p.Source().Name, err)
		}
		was, err := p.Source().Bytes()
		if err != nil {
			return nil, 0, err
		}
		out = append(out, source.Edit{Span: source.Span{Part: p.Source(), Start: 0, End: len(was)}, New: data})
	}
	return out, uses + n, nil
}

// elsewhere is why a use stays of which nothing else is known.
const elsewhere = "it takes its color from elsewhere"

// rest works out what is written in the second turn: what is made of definitions, or points to them, and did not become with them what was
// decided for it.
func (j *job) rest(scan *audit.Scan) ([]source.Edit, int, error) {
	var list []edit
	came := map[string]int{} // of those that are worked out, by their place
	uses := 0
	targets := make([]*library.Color, len(scan.Uses))
	was := map[*audit.Use]decided{}
	j.notDone(scan, func(u *audit.Use, d decided) { was[u] = d })
	for i, u := range scan.Uses {
		if !was[u].off {
			targets[i] = was[u].to
		}
	}
	torn := torn(scan, targets)
	for i, u := range scan.Uses {
		if c := targets[i]; c != nil && u.Form != nil && len(u.At) > 0 && !torn[u.At[0]] {
			if own, err := j.write(u, c); err == nil {
				for k := range own {
					own[k].was = was[u].use.Name()
				}
				list = append(list, own...)
			}
		}
		if p := j.places[u.Where]; p != nil && u.Worked {
			n := came[u.Where]
			came[u.Where]++
			if n < len(p.worked) && p.worked[n].to != nil && p.worked[n].to.RGB == u.RGB {
				uses += j.follows(u, p.worked[n].use.Name(), p.worked[n].to, ", which comes to it")
			}
		}
	}
	out, n := j.told(list)
	return out, uses + n, nil
}

// define works out what definitions become. One that cannot be written stays as it is, and so does what would follow it.
func (j *job) define(scan *audit.Scan, targets []*library.Color, can func(i int) bool) {
	stay := map[int]bool{}
	for again := true; again; {
		again = false
		j.links = map[string]outcome{}
		for i, u := range scan.Uses {
			if u.Define == "" || u.Why != "" {
				continue
			}
			hex := u.RGB.Hex()
			if j.links[u.Define] == nil {
				j.links[u.Define] = outcome{}
			}
			if c := targets[i]; c != nil && u.Form != nil && !stay[i] {
				j.links[u.Define][hex] = c.RGB.Hex()
			} else if _, twice := j.links[u.Define][hex]; !twice {
				j.links[u.Define][hex] = hex
			}
		}
		for i, u := range scan.Uses {
			if c := targets[i]; c != nil && u.Define != "" && u.Form != nil && !u.Worked && !stay[i] && !j.follow(u, c) && !can(i) {
				stay[i], again = true, true
			}
		}
	}
}

// follow says whether a use becomes what it is to be with the definition that it points to.
func (j *job) follow(u *audit.Use, c *library.Color) bool {
	return u.Linked() && j.links[u.Link][u.RGB.Hex()] == c.RGB.Hex()
}

// failed keeps why a use could not be written.
func (j *job) failed(u *audit.Use, why string) {
	for _, d := range j.places[u.Where].uses[u.Color] {
		if d.use == u {
			d.why = why
		}
	}
}

// told lists edits as changes, and counts their uses.
func (j *job) told(list []edit) (out []source.Edit, uses int) {
	counted := map[string]bool{}
	written := map[source.Span]string{}
	for _, e := range disjoint(list) {
		out = append(out, e.Edit)
		written[e.Span] = string(e.New)
	}
	for _, e := range list {
		if now, ok := written[e.Span]; !ok || now != string(e.New) {
			continue // a longer one has it
		}
		id := e.use.Where + "\x00" + e.use.Value
		if e.use.Hidden || counted[id] {
			continue
		}
		counted[id] = true
		uses += e.use.Count
		j.result.Changes = append(j.result.Changes, Change{e.was, e.to.Name, e.to.RGB.Hex(), e.use.Where, e.use.Count, short(e.old),
			short(e.now)})
	}
	return out, uses
}

// torn are bytes that several uses share of which not all become the same, such as a reference to a variable with a value for light and one
// for dark grounds, or the font of cells of which one is excused: what is written there would change the others too.
func torn(scan *audit.Scan, targets []*library.Color) map[source.Span]bool {
	to := map[source.Span]*library.Color{}
	out := map[source.Span]bool{}
	for i, u := range scan.Uses {
		if c := targets[i]; c != nil && len(u.At) > 0 {
			if other, shared := to[u.At[0]]; shared && other.Value() != c.Value() {
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
		if c, shared := to[u.At[0]]; shared && u.Color != sought(u, c) {
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

// write works out the edits of one use; an error says why one of its places cannot be written.
func (j *job) write(u *audit.Use, c *library.Color) (out []edit, err error) {
	paint := form.Paint{Name: c.Name, RGB: c.RGB, Base: j.base}
	if u.Wide() != "" { // see sought
		paint.Wide = c.CSS()
	}
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
			out = append(out, edit{source.Edit{Span: p.At, New: []byte(p.New)}, u, u.Name(), u.Value, p.Says, c})
		}
		if len(out) > 0 {
			return out, nil
		}
	}
	for _, at := range u.At {
		old, err := at.Text()
		if err != nil {
			return nil, err
		}
		text, err := u.Form.Write(old, paint)
		if err != nil {
			return nil, err
		}
		if text != old {
			out = append(out, edit{source.Edit{Span: at, New: []byte(text)}, u, u.Name(), old, text, c})
		}
	}
	return out, nil
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
			if e.Start == out[n-1].Start && e.End == out[n-1].End && !e.use.Hidden && string(e.New) == string(out[n-1].New) &&
				out[n-1].use.Hidden {
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
	j.notDone(scan, func(u *audit.Use, d decided) {
		if !u.Hidden {
			j.result.Left = append(j.result.Left, Left{u.Value, u.Where, cmp.Or(d.why, u.Fixed, elsewhere), u.Count})
		}
	})
	slices.SortStableFunc(j.result.Left, func(a, b Left) int { return strings.Compare(a.Where, b.Where) })
}
