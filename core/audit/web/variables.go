package web

import (
	"fmt"
	"slices"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/limits"
	"huekeep/core/source"
)

// Variables are what the style sheets of a scan define, in all of its files: a page and its sheets belong together. A use of one is known
// only when all have been read, so it waits until then.
type Variables struct {
	defined map[string][]*definition
	waiting []*variableUse
	uses    scanning.Block[variableUse]
	own     own
	joined  []*Variables // files that were read apart
	steps   int          // that working values out took
	listed  int          // bytes of lists that were gone through
	count   int
	takes   map[string]bool // whether a property takes a color
	worked  map[string][]color.Typed
	each    map[string]*can // what each variable can be, once all are known; they are referred to again and again
}

// NewVariables begins a project.
func NewVariables() *Variables {
	return &Variables{defined: map[string][]*definition{}, takes: map[string]bool{}, worked: map[string][]color.Typed{}, own: newOwn()}
}

// Size is how much files say and ask of each other.
func (v *Variables) Size() int { return v.count + len(v.waiting) + v.own.size() }

// Defined is how many variables they define.
func (v *Variables) Defined() int { return v.count }

// Join adds what other files say and ask, behind what there is. Those who write references in them look here from then on.
func (v *Variables) Join(other scanning.Shared) {
	o := other.(*Variables)
	for name, list := range o.defined {
		v.defined[name] = append(v.defined[name], list...)
	}
	v.waiting = append(v.waiting, o.waiting...)
	v.count += o.count
	v.own.join(o.own)
	v.joined = append(v.joined, o)
}

// wait keeps a use until all variables are known.
func (v *Variables) wait(u variableUse) { v.waiting = append(v.waiting, v.uses.One(u)) }

// definition is one value that a variable is given.
type definition struct {
	text      string // the whole value
	colors    []audit.Color
	variables []string
	computed  []string
	part      *source.Part
	at        int
	usable    bool // a link may be made to it: one color, for the whole document
	single    bool // the value is one color, one variable or one function, and nothing beside it
}

// variableUse is a place whose color depends on variables.
type variableUse struct {
	use      audit.Use
	form     form.Form // of the use, where a color stands for what is worked out
	name     string    // of the one that it is; empty for what is computed
	text     string    // of that, as it is written on one line
	why      string    // that cannot be worked out; empty for what the grammar says
	must     bool      // nothing but a color can stand there
	doubtful bool      // what is computed need not be a color, and is none if it cannot be worked out and has nothing to do with one
	tally    *scanning.Tally
}

// Resolve reports every place that waited: a reference as a linked use of every color that its variable can have, and what is computed by
// what comes out.
func (v *Variables) Resolve() {
	for _, o := range v.joined {
		o.defined = v.defined
	}
	v.each = map[string]*can{}
	v.expand()
	for _, w := range v.waiting {
		if w.name == "" {
			v.computed(w)
			continue
		}
		its := v.can(w.name)
		if !its.single { // a color in its place would take the rest away
			w.use.Form, w.use.Fixed = nil, fmt.Sprintf("it is a part of the value of %s", w.name)
		}
		for _, c := range its.list {
			w.use.Color = c
			w.tally.Add(&w.use)
		}
		if len(its.list) == 0 && w.must && (!its.known || its.vague) {
			w.use.Why = fmt.Sprintf("%s is not defined in what was read", w.name)
			if its.known {
				w.use.Why = fmt.Sprintf("%s cannot be worked out", w.name)
			}
			w.tally.Add(&w.use)
		}
	}
	v.waiting, v.uses = nil, scanning.Block[variableUse]{}
}

// can is what a variable can be.
type can struct {
	colors map[audit.Color]bool
	list   []audit.Color // the same in an order
	known  bool          // it is defined at all
	single bool          // all of its values are nothing but a color
	vague  bool          // one of its values cannot be worked out
}

func (v *Variables) can(name string) *can {
	if its, known := v.each[name]; known {
		return its
	}
	its := &can{colors: map[audit.Color]bool{}, known: len(v.defined[name]) > 0, single: true}
	v.follow(name, map[string]bool{}, its)
	its.list = Ordered(its.colors)
	v.each[name] = its
	return its
}

// Ordered are colors in an order that is always the same.
func Ordered(colors map[audit.Color]bool) (out []audit.Color) {
	for c := range colors {
		out = append(out, c)
	}
	slices.SortFunc(out, func(a, b audit.Color) int { return strings.Compare(a.Key(), b.Key()) })
	return out
}

// follow gathers what a variable can be.
func (v *Variables) follow(name string, seen map[string]bool, into *can) {
	if seen[name] || len(seen) > limits.Depth {
		return
	}
	seen[name] = true
	for _, d := range v.defined[name] {
		into.single = into.single && d.single
		for _, c := range d.colors {
			into.colors[c] = true
		}
		for _, n := range d.variables {
			v.follow(n, seen, into)
		}
		for _, text := range d.computed {
			list := v.values(text)
			into.vague = into.vague || len(list) == 0
			for _, c := range list {
				into.colors[audit.ColorOf(c)] = true
			}
		}
	}
}

// colored says whether a text that cannot be worked out has to do with colors: it has one, or refers to a variable that has.
func (v *Variables) colored(text string) bool {
	if HoldsColor(text) {
		return true
	}
	for range mostReferences {
		_, to, name, _, ok := reference(text)
		if !ok {
			return false
		}
		if len(v.can(name).list) > 0 {
			return true
		}
		text = text[to:]
	}
	return false
}

// mostReferences is how many variables of one value are looked up to say why it cannot be worked out.
const mostReferences = 64

// faded writes a color where one is worked out, as opaque as that one is.
type faded struct {
	form.Form
	alpha float64
}

func (f faded) Write(old string, to form.Paint) (string, error) {
	if to.Link != nil {
		if text, err := f.Form.Write(old, to); err != nil || f.alpha >= 1 && text != color.Rewrite(old, to.RGB) {
			return text, err
		}
	}
	return color.Plainly(to.RGB, f.alpha), nil
}

func (v *Variables) computed(w *variableUse) {
	list := v.values(w.text)
	if _, _, _, own := v.call(w.text); own { // it becomes another color with what the function is made of
		w.use.Worked = true
	}
	for _, c := range list {
		if c.Alpha > 0 {
			w.use.Color, w.use.Alpha = audit.ColorOf(c), c.Alpha
			if w.use.Form != nil && c.CMYK == nil {
				w.use.Form = faded{w.form, c.Alpha}
			}
			w.tally.Add(&w.use)
		}
	}
	if len(list) > 0 || w.doubtful && !v.colored(w.text) {
		return
	}
	if name := v.missing(w.text); name != "" {
		if plain, head, given := strings.Cut(name, behind); given && strings.HasPrefix(head, "mixin-") {
			return // nobody takes the mixin in what was read, so that there is no color
		} else if w.use.Why = fmt.Sprintf("%s is not defined in what was read", name); given {
			w.use.Why = fmt.Sprintf("what %s goes through is not known", plain)
		}
	} else if w.use.Why = v.undecided(w.text); w.use.Why != "" {
	} else if w.use.Why = w.why; w.why == "" {
		w.use.Why = "it cannot be worked out"
		if _, err := color.ParseCSS(w.text); err != nil {
			w.use.Why = plainNames(err.Error())
		}
	}
	w.tally.Add(&w.use)
}

// missing is the first variable that a computed text refers to and nothing defines; empty if there is none.
func (v *Variables) missing(text string) string {
	for range mostReferences {
		_, to, name, fallback, ok := reference(text)
		if !ok || fallback == "" && len(v.defined[name]) == 0 {
			return name
		}
		text = text[to:]
	}
	return ""
}

// reference finds the first reference to a variable in a computed text: var() with at most one pair of parentheses in its fallback, or a
// variable of a preprocessor. Of what is nested deeper, the innermost comes first.
func reference(s string) (from, to int, name, fallback string, ok bool) {
	word := func(i int) int {
		for i < len(s) && (scanning.WordByte(s[i]) || s[i] == '-') {
			i++
		}
		return i
	}
	blank := func(i int) int {
		for i < len(s) && space(s[i]) {
			i++
		}
		return i
	}
	for i := 0; i < len(s); i++ {
		switch {
		case s[i] == '$' || s[i] == '@':
			end := word(i + 1)
			if at := blank(end); at < len(s) && s[at] == ':' { // the name of an argument
				continue
			}
			if end > i+1 {
				return i, end, s[i:end], "", true
			}
		case s[i] == 'v' && strings.HasPrefix(s[i:], "var("):
			at := blank(i + 4)
			end := word(at)
			if end < at+3 || s[at:at+2] != "--" {
				continue
			}
			name := s[at:end]
			if at = blank(end); at < len(s) && s[at] == ')' {
				return i, at + 1, name, "", true
			}
			if at == len(s) || s[at] != ',' {
				continue
			}
			for k := at + 1; k < len(s); k++ {
				if s[k] == ')' {
					return i, k + 1, name, s[at+1 : k], true
				}
				if s[k] == '(' {
					n := strings.IndexAny(s[k+1:], "()")
					if n < 0 || s[k+1+n] == '(' {
						break
					}
					k += n + 1
				}
			}
		}
	}
	return 0, 0, "", "", false
}

// values are the colors that a computed text comes to: where a variable has several values, those of the same turn belong together. All
// variables are known by then, so that it is worked out once.
func (v *Variables) values(text string) []color.Typed {
	out, ok := v.worked[text]
	if !ok {
		out = v.work(text)
		v.worked[text] = out
	}
	return out
}

func (v *Variables) work(text string) (out []color.Typed) {
	turns, steps := 1, 0
	for turn := 0; turn < min(turns, mostTurns); turn++ {
		resolved, ok := v.substituted(text, turn, nil, 0, &turns, &steps)
		if !ok {
			continue
		}
		c, err := preprocessed(resolved)
		if err != nil {
			continue
		}
		if !slices.ContainsFunc(out, func(o color.Typed) bool { return audit.ColorOf(o) == audit.ColorOf(c) && o.Alpha == c.Alpha }) {
			out = append(out, c)
		}
	}
	return out
}
