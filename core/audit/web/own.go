package web

import (
	"fmt"
	"hash/fnv"
	"regexp"
	"strconv"
	"strings"

	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/limits"
)

// own is what the sheets of a project have of their own beside variables, as Sass writes it: functions, what mixins are given, what loops
// go through. A name that is given in a head ("@function tone($c)") is another one in each, so that here it has the head behind it.
type own struct {
	functions map[string][]*function
	mixins    map[string][][]parameter
	included  []called
	loops     []loop
}

// function is one of the project's own.
type function struct {
	parameters []parameter
	returns    []string
	decides    bool // which of them, or how often, is decided where it is called
}

// parameter is what a function or a mixin is given.
type parameter struct {
	plain, name string // as written, and here
	otherwise   string // empty if there has to be one
}

// called is where a mixin is taken.
type called struct {
	name string
	args []string
}

// loop goes through a list or a map.
type loop struct {
	names []string
	list  string
}

// behind stands between a name that a head gives and what tells the heads apart.
const behind = "--of-"

// countedLoop is a loop through whole numbers that are written there.
var countedLoop = regexp.MustCompile(`^(\$[\w-]+) from (\d{1,4}) (through|to) (\d{1,4})$`)

// mostTurns is how many values of one variable are gone through.
const mostTurns = 100

func newOwn() own {
	return own{functions: map[string][]*function{}, mixins: map[string][][]parameter{}}
}

func (o *own) join(other own) {
	for name, list := range other.functions {
		o.functions[name] = append(o.functions[name], list...)
	}
	for name, list := range other.mixins {
		o.mixins[name] = append(o.mixins[name], list...)
	}
	o.included, o.loops = append(o.included, other.included...), append(o.loops, other.loops...)
}

func (o *own) size() int { return len(o.functions) + len(o.mixins) + len(o.included) + len(o.loops) }

// rule cuts the head of an at-rule of a preprocessor: "@function tone($c, $n: 10%)".
func rule(head string) (at, name, rest string) {
	head = strings.TrimSpace(oneLine(head))
	at, rest, _ = strings.Cut(head, " ")
	rest = strings.TrimSpace(rest)
	if at == "@function" || at == "@mixin" || at == "@include" {
		name, rest, _ = strings.Cut(rest, "(")
		name = strings.TrimSpace(name[strings.LastIndexByte(name, '.')+1:]) // of a module too
		if i := strings.LastIndexByte(rest, ')'); i >= 0 {
			rest = rest[:i]
		} else {
			rest = ""
		}
	}
	return at, name, rest
}

// The longest head that is looked into, and the most that is given by one.
const (
	longestHead = 2000
	mostGiven   = 50
)

// gives lists the names that a head gives to what stands in its block, and what tells them from those of other heads. It is asked for each
// variable in it.
func (s *selector) gives() (names []string, which string) {
	if !s.asked {
		s.asked = true
		s.names, s.which = givenBy(s.head)
		s.names = s.names[:min(len(s.names), mostGiven)]
	}
	return s.names, s.which
}

func givenBy(head string) (names []string, which string) {
	if len(head) > longestHead || !strings.HasPrefix(strings.TrimSpace(head), "@") {
		return nil, ""
	}
	switch at, name, rest := rule(head); at {
	case "@function", "@mixin":
		for _, p := range color.Commas(rest) {
			plain, _, _ := strings.Cut(p, ":")
			names = append(names, strings.TrimSpace(plain))
		}
		return names, behind + at[1:] + "-" + name
	case "@each", "@for":
		list, _, _ := strings.Cut(rest, " in ")
		if at == "@for" {
			list, _, _ = strings.Cut(rest, " from ")
		}
		for _, n := range strings.Split(list, ",") {
			names = append(names, strings.TrimSpace(n))
		}
		h := fnv.New64a()
		_, _ = h.Write([]byte(rest))
		return names, behind + strconv.FormatUint(h.Sum64(), 36)
	}
	return nil, ""
}

// within is the name that a variable has where it stands: that of the innermost head which gives it, else its own.
func within(selectors []selector, name string) string {
	for i := len(selectors) - 1; i >= 0; i-- {
		names, which := selectors[i].gives()
		for _, n := range names {
			if n == name {
				return name + which
			}
		}
	}
	return name
}

// withinText is a text whose variables have the names that they have where it stands.
func withinText(selectors []selector, text string) string {
	if len(selectors) == 0 || !strings.Contains(text, "$") {
		return text
	}
	var b strings.Builder
	for i := 0; i < len(text); {
		if text[i] != '$' {
			b.WriteByte(text[i])
			i++
			continue
		}
		end := i + 1
		for end < len(text) && (scanning.WordByte(text[end]) || text[end] == '-') {
			end++
		}
		at := end
		for at < len(text) && space(text[at]) {
			at++
		}
		if at < len(text) && text[at] == ':' { // the name of an argument
			b.WriteString(text[i:end])
		} else {
			b.WriteString(within(selectors, text[i:end]))
		}
		i = end
	}
	return b.String()
}

var told = regexp.MustCompile(behind + `[\w-]+`)

// plainNames is a sentence with variables as somebody wrote them.
func plainNames(text string) string { return told.ReplaceAllString(text, "") }

// inFunction says whether a place is in one of the project's functions: what comes of it is seen where it is called.
func inFunction(selectors []selector) bool {
	for i := range selectors {
		if strings.HasPrefix(strings.TrimSpace(selectors[i].head), "@function ") {
			return true
		}
	}
	return false
}

// heads keeps what the head of a block gives.
func (s *sheet) heads(head string, selectors []selector) {
	if len(head) > longestHead {
		return
	}
	at, name, rest := rule(head)
	o := &s.vars.own
	// in the room behind, which the block itself takes next: a copy is as long as it is deep
	inside := append(selectors, selector{head: head})
	switch at {
	case "@function", "@mixin":
		var list []parameter
		for _, p := range color.Commas(rest) {
			plain, otherwise, _ := strings.Cut(p, ":")
			if plain = strings.TrimSpace(plain); plain != "" {
				list = append(list, parameter{plain, within(inside, plain), withinText(inside, strings.TrimSpace(otherwise))})
			}
		}
		if at == "@function" {
			o.functions[name] = append(o.functions[name], &function{parameters: list})
		} else {
			o.mixins[name] = append(o.mixins[name], list)
		}
	case "@each":
		names, list, ok := strings.Cut(rest, " in ")
		if !ok {
			return
		}
		l := loop{list: withinText(selectors, list)}
		for _, n := range strings.Split(names, ",") {
			l.names = append(l.names, within(inside, strings.TrimSpace(n)))
		}
		o.loops = append(o.loops, l)
	case "@for":
		if m := countedLoop.FindStringSubmatch(rest); m != nil {
			from, _ := strconv.Atoi(m[2])
			to, _ := strconv.Atoi(m[4])
			if m[3] == "to" {
				to--
			}
			for i := from; i <= to && i < from+mostTurns; i++ {
				s.define(within(inside, m[1]), &definition{text: strconv.Itoa(i), part: s.part})
			}
		}
	}
}

// returned keeps what a function gives back.
func (s *sheet) returned(text string, selectors []selector) {
	for i := len(selectors) - 1; i >= 0; i-- {
		at, name, _ := rule(selectors[i].head)
		if at != "@function" {
			continue
		}
		list := s.vars.own.functions[name]
		if len(list) == 0 {
			return
		}
		f := list[len(list)-1]
		f.returns = append(f.returns, withinText(selectors, text))
		f.decides = f.decides || i < len(selectors)-1 || len(f.returns) > 1
		return
	}
}

// includes keeps where a mixin is taken.
func (s *sheet) includes(text string, selectors []selector) {
	if _, name, rest := rule("@include " + text); name != "" {
		c := called{name: name}
		if strings.TrimSpace(rest) != "" {
			for _, a := range color.Commas(rest) {
				c.args = append(c.args, withinText(selectors, strings.TrimSpace(a)))
			}
		}
		s.vars.own.included = append(s.vars.own.included, c)
	}
}

// bind gives arguments to parameters, by their order or their names; false where they do not fit.
func bind(list []parameter, args []string) (map[string]string, bool) {
	out := map[string]string{}
	for i, a := range args {
		plain, value, named := strings.Cut(a, ":")
		plain = strings.TrimSpace(plain)
		if named = named && strings.HasPrefix(plain, "$"); !named {
			if i >= len(list) {
				return nil, false
			}
			plain, value = list[i].plain, a
		}
		found := false
		for _, p := range list {
			if p.plain == plain && !strings.HasSuffix(plain, "...") {
				out[p.name], found = strings.TrimSpace(value), true
			}
		}
		if !found {
			return nil, false
		}
	}
	for _, p := range list {
		if _, ok := out[p.name]; !ok {
			if p.otherwise == "" {
				return nil, false
			}
			out[p.name] = p.otherwise
		}
	}
	return out, true
}

// expand gives the names of loops and mixins the values that they go through and are given.
func (v *Variables) expand() {
	put := func(name, text string) {
		if v.count++; v.count <= limits.FoundPlaces {
			v.defined[name] = append(v.defined[name], &definition{text: text})
		}
	}
	for _, l := range v.own.loops {
		list := v.entries(l.list, 0)
		for _, e := range list[:min(len(list), mostTurns)] {
			switch {
			case len(l.names) == 1 && e.key == "":
				put(l.names[0], e.value)
			case len(l.names) == 2 && e.key != "":
				put(l.names[0], e.key)
				put(l.names[1], e.value)
			}
		}
	}
	tried := 0
	for _, c := range v.own.included {
		for _, list := range v.own.mixins[c.name] {
			if tried++; tried > limits.FoundPlaces {
				break
			}
			given, ok := bind(list, c.args)
			if !ok {
				continue
			}
			for _, p := range list {
				if text := given[p.name]; len(v.defined[p.name]) < mostTurns {
					put(p.name, text)
				}
			}
		}
	}
	v.own.loops, v.own.included = nil, nil
}

// mostListed is how many bytes of lists are gone through for all loops of a project.
const mostListed = 64 << 20

// entry is one of a list, which has no key, or of a map.
type entry struct{ key, value string }

// entries are those of a list or a map, or of all that a variable can be.
func (v *Variables) entries(text string, depth int) (out []entry) {
	text = strings.TrimSpace(text)
	if v.listed += len(text); depth > 8 || v.listed > mostListed {
		return nil
	}
	if from, to, name, _, ok := reference(text); ok && from == 0 && to == len(text) {
		for _, d := range v.defined[name] {
			out = append(out, v.entries(d.text, depth+1)...)
		}
		return out
	}
	for _, call := range [...]string{"map-merge(", "map.merge(", "join("} {
		if strings.HasPrefix(text, call) && strings.HasSuffix(text, ")") {
			for _, a := range color.Commas(text[len(call) : len(text)-1]) {
				out = append(out, v.entries(a, depth+1)...)
			}
			return out
		}
	}
	if strings.HasPrefix(text, "(") && strings.HasSuffix(text, ")") {
		text = text[1 : len(text)-1]
	}
	for _, item := range color.Commas(text) {
		if item = strings.TrimSpace(item); item == "" {
			continue
		}
		if key, value, ok := strings.Cut(item, ":"); ok {
			out = append(out, entry{plainKey(key), strings.TrimSpace(value)})
		} else {
			out = append(out, entry{"", item})
		}
	}
	return out
}

// call finds the last call of a function of the project in a text, which has no other in what it is given.
func (v *Variables) call(text string) (from, to int, name string, ok bool) {
	for i := len(text) - 1; i > 0; i-- {
		if text[i] != '(' {
			continue
		}
		from = i
		for from > 0 && (scanning.WordByte(text[from-1]) || text[from-1] == '-') {
			from--
		}
		name = text[from:i]
		if len(v.own.functions[name]) == 0 {
			continue
		}
		if from > 0 && text[from-1] == '.' { // of a module
			for from--; from > 0 && (scanning.WordByte(text[from-1]) || text[from-1] == '-'); {
				from--
			}
		}
		depth := 0
		for to = i; to < len(text); to++ {
			switch text[to] {
			case '(':
				depth++
			case ')':
				if depth--; depth == 0 {
					return from, to + 1, name, true
				}
			}
		}
	}
	return 0, 0, "", false
}

// The most that is put in place of something else, for one value and for all of a project: functions that call each other could go on for
// ever.
const (
	mostSteps    = 1000
	mostAllSteps = 4_000_000
)

// substituted is a text with what its variables have in one turn, and what the project's functions make of what they are given. turns is
// raised to how many there are, steps to how often something was put in place of something else.
func (v *Variables) substituted(text string, turn int, bound map[string]string, depth int, turns, steps *int) (string, bool) {
	for {
		*steps++
		v.steps++
		if len(text) > 2000 || *steps > mostSteps || v.steps > mostAllSteps {
			return "", false
		}
		if from, to, name, fallback, ok := reference(text); ok {
			value := strings.TrimSpace(fallback)
			if list := v.defined[name]; len(list) > 0 {
				*turns = max(*turns, len(list))
				value = list[min(turn, len(list)-1)].text
			}
			if own, ok := bound[name]; ok {
				value = own
			}
			if value == "" {
				return "", false
			}
			text = text[:from] + value + text[to:]
			continue
		}
		from, to, name, ok := v.call(text)
		if !ok {
			return text, true
		}
		f := v.own.functions[name]
		if len(f) != 1 || f[0].decides || len(f[0].returns) != 1 || depth > 8 {
			return "", false
		}
		var args []string
		if inner := text[strings.IndexByte(text[from:], '(')+from+1 : to-1]; strings.TrimSpace(inner) != "" {
			args = color.Commas(inner)
		}
		given, ok := bind(f[0].parameters, args)
		if !ok {
			return "", false
		}
		value, ok := v.substituted(f[0].returns[0], turn, given, depth+1, turns, steps)
		if !ok {
			return "", false
		}
		text = text[:from] + value + text[to:]
	}
}

// undecided is why a call in a text is not worked out; empty if that is not known.
func (v *Variables) undecided(text string) string {
	_, _, name, ok := v.call(text)
	if !ok {
		return ""
	}
	switch f := v.own.functions[name]; {
	case len(f) > 1:
		return fmt.Sprintf("%s() is defined %d times", name, len(f))
	case f[0].decides:
		return fmt.Sprintf("%s() decides by what it is given", name)
	}
	return ""
}
