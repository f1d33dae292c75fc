// Package datafile reads files of values: design tokens and other JSON, YAML, animations, notebooks.
package datafile

import (
	"encoding/json"
	"fmt"
	"iter"
	"math"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/audit/web"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/source"
)

// node is a value of a JSON text with its bytes. It holds no pointers, since a text may have a million.
type node struct {
	kind       byte // '{', '[', '"', '0' for a number, 't' for true, false and null
	start, end int32
	key, keyTo int32 // its name with the quotes; equal for none
	from, to   int32 // what is in it, of the tree's nodes
}

// tree is a JSON text as values with their bytes.
type tree struct {
	*scanning.Scanner
	part          *source.Part
	name          string
	data          string
	lines         *scanning.Lines
	nodes         []node // what is in one value lies together
	root          *node
	set           *tokenSet
	doubtful      []scaledColor   // what could be on either scale
	bytes, shares bool            // there are colors in numbers to 255, and to 1
	styles        map[string]bool // what noStyle says of names
}

// items is what is in an object or a list.
func (t *tree) items(n *node) []node { return t.nodes[n.from:n.to] }

// each goes over what is in an object or a list.
func (t *tree) each(n *node) iter.Seq2[int, *node] {
	return func(yield func(int, *node) bool) {
		items := t.items(n)
		for i := range items {
			if !yield(i, &items[i]) {
				return
			}
		}
	}
}

// get is a value of an object, by its name; nil if there is none.
func (t *tree) get(n *node, key string) *node {
	if n == nil || n.kind != '{' {
		return nil
	}
	items := t.items(n)
	for i := range items {
		if t.key(&items[i]) == key {
			return &items[i]
		}
	}
	return nil
}

// key is the name that a value is given; empty in a list.
func (t *tree) key(n *node) string {
	if n.key == n.keyTo {
		return ""
	}
	return unquote(t.data[n.key:n.keyTo])
}

// level is an object or a list that is not closed yet.
type level struct {
	at      int  // of the stack of values
	painted bool // it, or what it is in, is given to the name of a color or is the value of a token
	kept    bool // something in it may be a color
}

// parse reads a whole text. The values of what is open lie on a stack; those of what is closed move to the tree's if there may be a color
// among them, which is so for few, and are forgotten otherwise. An animation is kept whole.
func (t *tree) parse() error {
	in := jsonText{data: t.data}
	values := make([]node, 0, min(len(t.data)/16, 1<<12))
	var open []level
	count, animated := 0, false
	var key, keyTo int32
	var escaped bool // the key has references in it
	put := func(kind byte, end int) {
		values = append(values, node{kind: kind, start: int32(in.start), end: int32(end), key: key, keyTo: keyTo})
		key, keyTo = 0, 0
	}
	for {
		g := in.next()
		if count++; count > limits.JSONValues {
			return fmt.Errorf("it holds over %d values", limits.JSONValues)
		}
		if count%scanning.NowAndThen == 0 {
			if err := t.Watch.Read(in.end, len(t.data)); err != nil {
				return err
			}
		}
		switch g {
		case jsonEnd, jsonWrong:
			if g == jsonWrong || len(open) > 0 {
				line, _ := t.lines.At(in.at)
				return fmt.Errorf("line %d is not JSON", line)
			}
			if len(values) == 0 {
				return fmt.Errorf("it holds nothing")
			}
			t.root = &values[len(values)-1]
			return nil
		case '{', '[':
			if len(open) >= limits.Depth {
				return fmt.Errorf("it is nested over %d deep", limits.Depth)
			}
			l := level{at: len(values)}
			if n := len(open); n > 0 {
				l.painted = open[n-1].painted
			}
			l.painted = l.painted || t.paintsRaw(key, keyTo, escaped)
			l.kept = l.painted
			open = append(open, l)
			put(g, 0)
		case '}', ']':
			n := len(open)
			l := open[n-1]
			open = open[:n-1]
			values[l.at].end = int32(in.end)
			if l.kept || animated {
				values[l.at].from, values[l.at].to = int32(len(t.nodes)), int32(len(t.nodes)+len(values)-l.at-1)
				t.nodes = append(t.nodes, values[l.at+1:]...)
				if n > 1 {
					open[n-2].kept = true
				}
			}
			values = values[:l.at+1]
		case jsonKey:
			key, keyTo = int32(in.start), int32(in.end)
			top, name := &open[len(open)-1], t.data[key+1:keyTo-1]
			escaped = in.marked && strings.IndexByte(name, '\\') >= 0
			switch {
			case escaped || name == "value" || name == "r" || name != "" && name[0] == '$':
				top.kept = true // it may be a token, or three channels
			case len(open) == 1 && (name == "fr" || name == "layers" || name == "assets" || name == "slots"):
				animated = true
			}
		case '"':
			if n := len(open); n > 0 && !open[n-1].kept {
				open[n-1].kept = in.marked || t.paintsRaw(key, keyTo, escaped)
			}
			put(g, in.end)
		default:
			put(g, in.end)
		}
	}
}

// paintsRaw says whether a name, as it is written, may be that of a color or of the value of a token.
func (t *tree) paintsRaw(key, to int32, escaped bool) bool {
	if to-key < 3 {
		return false
	}
	name := t.data[key+1 : to-1]
	return escaped || name == "value" || name[0] == '$' || web.Paints(name)
}

func unquote(text string) string {
	if n := len(text); n >= 2 && strings.IndexByte(text, '\\') < 0 {
		return text[1 : n-1]
	}
	var s string
	if json.Unmarshal([]byte(text), &s) != nil {
		return text
	}
	return s
}

// raw is a value as it is written.
func (t *tree) raw(n *node) string { return t.data[n.start:n.end] }

func (t *tree) text(n *node) string { return unquote(t.raw(n)) }

// span is where a value stands.
func (t *tree) span(n *node) source.Span {
	return source.Span{Part: t.part, Start: int(n.start), End: int(n.end)}
}

func (t *tree) number(n *node) (float64, bool) {
	if n == nil || n.kind != '0' {
		return 0, false
	}
	v, err := strconv.ParseFloat(t.raw(n), 64)
	return v, err == nil
}

// numbers are the values of an array of numbers.
func (t *tree) numbers(n *node) ([]float64, bool) {
	if n == nil || n.kind != '[' || n.from == n.to {
		return nil, false
	}
	var out []float64
	items := t.items(n)
	for i := range items {
		v, ok := t.number(&items[i])
		if !ok {
			return nil, false
		}
		out = append(out, v)
	}
	return out, true
}

// ScanJSON reads design tokens, animations, and of any other JSON the values that are surely colors: by their notation, or by the name they
// are given to.
func ScanJSON(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	data, err := p.Bytes()
	if err != nil {
		return "", err
	}
	if len(data) > limits.LibraryBytes {
		return "", fmt.Errorf("it has %s; of JSON, at most %s are read", limits.Size(int64(len(data))), limits.Size(limits.LibraryBytes))
	}
	t := &tree{Scanner: s, part: p, name: name, data: string(data), lines: scanning.NewLines(data)}
	if rest, marked := strings.CutPrefix(t.data, "\xef\xbb\xbf"); marked {
		t.data = "   " + rest
	}
	if err := t.parse(); err != nil {
		return "", err
	}
	if t.get(t.root, "layers") != nil && t.get(t.root, "fr") != nil {
		return scanAnimation(t)
	}
	t.set = &tokenSet{values: map[string]tokenValue{}}
	t.walk(t.root, make([]step, 0, 32), "")
	for _, d := range t.doubtful {
		t.scaled(d)
	}
	return audit.Plural(len(t.lines.Starts), "line"), nil
}

// quotedCSS is any notation of a style sheet, in quotes.
var quotedCSS = form.Quoted(form.CSS)

// tokenSet are the design tokens of a file (Design Tokens Format 2025.10).
type tokenSet struct {
	values map[string]tokenValue
	order  []string // the names of opaque colors as they come
}

// tokenUse is a use that refers to a token, which is known when all files have been read that belong together.
type tokenUse struct {
	use    audit.Use
	target string
	set    *tokenSet // of the file that it is in
	must   bool      // nothing but a color can stand there
	tally  *scanning.Tally
}

type tokenValue struct {
	color audit.Color
	alias string
	other bool // it is no color
}

func (t *tree) useAt(n *node, path []step) audit.Use {
	line, column := t.lines.At(int(n.start))
	return audit.Use{Where: t.Texts.Place(t.name, line, column, scanning.Shorten(written(&t.Texts, path), 80), ""), Line: line,
		Column: column, At: t.Spans.Run(t.span(n))}
}

// walk reads a value; kind is the type of token that its group gives.
func (t *tree) walk(n *node, path []step, kind string) {
	if t.Tally.Full {
		return
	}
	switch n.kind {
	case '{':
		marked, typed := false, false
		for _, in := range t.each(n) {
			key := t.key(in)
			marked = marked || key != "" && key[0] == '$'
			typed = typed || key == "value"
		}
		if marked || typed { // it may be a token, or a group of them
			if own := t.get(n, "$type"); own != nil && own.kind == '"' {
				kind = t.text(own)
			} else if own := t.get(n, "type"); own != nil && own.kind == '"' && typed {
				kind = t.text(own)
			}
			t.extensions(n, path)
			if v := t.get(n, "$value"); v != nil {
				if t.token(v, path, kind, true); kind != "" && kind != "color" {
					t.define(written(&t.Texts, path), tokenValue{other: true})
				}
				return
			}
			if v := t.get(n, "value"); v != nil && (kind == "color" || kind == "" && v.kind == '"' && tokenText(t.text(v))) {
				t.token(v, path, kind, true)
				return
			}
			if typed && t.get(n, "value").kind != '{' {
				t.define(written(&t.Texts, path), tokenValue{other: true})
			}
		}
		if t.object(n, path) || t.catalog(n, path) {
			return
		}
		for _, i := range t.each(n) {
			if marked && strings.HasPrefix(t.key(i), "$") && t.key(i) != "$root" {
				continue // $description and the like say nothing with their words
			}
			t.walk(i, append(path, step{key: t.key(i)}), kind) // nobody keeps a path beyond its call
		}
	case '[':
		if t.array(n, path) {
			return
		}
		for k, in := range t.each(n) {
			t.walk(in, append(path, step{at: k + 1}), kind)
		}
	case '"':
		t.string(n, path)
	}
}

// extensions reads what tools keep with a token or a group, such as its values in other modes; but not what a library keeps of itself
// there, former values among it.
func (t *tree) extensions(n *node, path []step) {
	list := t.get(n, "$extensions")
	if list == nil || list.kind != '{' {
		return
	}
	for _, in := range t.each(list) {
		if key := t.key(in); key != library.Extension {
			t.walk(in, append(path, step{key: "$extensions"}, step{key: key}), "")
		}
	}
}

// pointed is the token that a JSON Pointer leads to (Design Tokens Format 2025.10, references; RFC 6901): "#/brand/buoy/$value" is
// brand.buoy.
func pointed(ref string) (name string, ok bool) {
	rest, ok := strings.CutPrefix(ref, "#/")
	if !ok {
		return "", false
	}
	if text, err := url.PathUnescape(rest); err == nil {
		rest = text
	}
	rest = strings.TrimSuffix(strings.TrimSuffix(rest, "/$value"), "/value")
	parts := strings.Split(rest, "/")
	for i, p := range parts {
		parts[i] = strings.NewReplacer("~1", "/", "~0", "~").Replace(p)
	}
	return strings.Join(parts, "."), true
}

// pointerForm writes a color where an object refers to another token.
var pointerForm = form.Func(func(_ string, to form.Paint) (string, error) { return strconv.Quote(to.RGB.Hex()), nil })

// alias refers to another token, and translucent to one that shows through, as older tools write it.
var (
	alias       = regexp.MustCompile(`^\{([^{}]+)\}$`)
	translucent = regexp.MustCompile(`^(?:rgb|hsl)a?\(\s*\{([^{}]+)\}\s*[,/]\s*([\d.]+%?)\s*\)$`)
)

// tokenText says whether a text is surely the value of a token: a reference, or a color by its notation.
func tokenText(s string) bool {
	if alias.MatchString(s) {
		return true
	}
	if !strings.HasPrefix(s, "#") && !strings.HasSuffix(s, ")") {
		return false
	}
	_, err := color.ParseCSS(s)
	return err == nil
}

// token reads the value of a design token, or a color inside of one, which others cannot point to.
func (t *tree) token(v *node, path []step, kind string, named bool) {
	name := written(&t.Texts, path)
	switch {
	case v.kind == '"':
		text := t.text(v)
		if m := alias.FindStringSubmatch(text); m != nil {
			if kind == "color" || kind == "" {
				t.refers(v, path, text, m[1], quotedCSS, named, kind)
			}
			return
		}
		if m := translucent.FindStringSubmatch(text); m != nil && (kind == "color" || kind == "") {
			alpha, err := strconv.ParseFloat(strings.TrimSuffix(m[2], "%"), 64)
			if strings.HasSuffix(m[2], "%") {
				alpha /= 100
			}
			if err == nil && alpha > 0 {
				u := t.useAt(v, path)
				u.Value, u.Link, u.Alpha, u.Fixed = text, m[1], min(1, alpha), "it is made of another token"
				t.wait(u, m[1], kind)
			}
			return
		}
		c, err := color.ParseCSS(text)
		if err != nil || kind != "" && kind != "color" {
			if kind == "color" {
				u := t.useAt(v, path)
				u.Value, u.Why = text, "it is not a color that is known"
				t.Add(&u)
			}
			return
		}
		u := t.useAt(v, path)
		u.Value, u.Color, u.Alpha, u.Chains = text, audit.ColorOf(c), c.Alpha, true
		u.Form = tokenForm{t.set, len(t.set.order), c.Alpha == 1}
		if named {
			u.Define = name
			t.define(name, tokenValue{color: u.Color})
			if c.Alpha == 1 {
				t.set.order = append(t.set.order, name)
			}
		}
		if c.Alpha > 0 {
			t.Add(&u)
		}
	case v.kind == '{':
		if ref := t.get(v, "$ref"); ref != nil && ref.kind == '"' && (kind == "color" || kind == "") {
			if target, ok := pointed(t.text(ref)); ok {
				t.refers(v, path, t.text(ref), target, pointerForm, named, kind)
				return
			}
		}
		if t.get(v, "colorSpace") == nil {
			t.parts(v, path)
			return
		}
		t.components(v, path, name, named)
	case v.kind == '[':
		t.parts(v, path)
	}
}

// refers keeps a reference to another token until all are known.
func (t *tree) refers(v *node, path []step, text, target string, f form.Form, named bool, kind string) {
	u := t.useAt(v, path)
	u.Value, u.Link, u.Form = text, target, f
	if named {
		u.Define, u.Chains = written(&t.Texts, path), true
		t.define(u.Define, tokenValue{alias: target})
	}
	t.wait(u, target, kind)
}

// define keeps what a token is.
func (t *tree) define(name string, v tokenValue) {
	t.tokens().count++
	if _, twice := t.set.values[name]; !twice {
		t.tokens().named[name] = append(t.tokens().named[name], tokenName{t.set, name})
		if base, _, modes := strings.Cut(name, ".sets."); modes { // its values in several modes, which others refer to as one
			t.tokens().named[base] = append(t.tokens().named[base], tokenName{t.set, name})
		}
	}
	t.set.values[name] = v
}

// wait keeps a use until all tokens are known.
func (t *tree) wait(u audit.Use, target, kind string) {
	must := kind == "color" || t.paintsPath(u.Where)
	u.Where = t.Prefix + u.Where
	t.tokens().aliases = append(t.tokens().aliases, tokenUse{u, target, t.set, must, t.Tally})
}

// parts reads a composite token, such as a shadow or a gradient.
func (t *tree) parts(v *node, path []step) {
	for k, i := range t.each(v) {
		at := append(path, step{t.key(i), k + 1})
		switch {
		case t.key(i) == "color":
			t.token(i, at, "color", false)
		case i.kind == '{' || i.kind == '[':
			t.parts(i, at)
		}
	}
}

// components reads a color as the format has it: a space, three numbers, maybe the digits beside them.
func (t *tree) components(v *node, path []step, name string, named bool) {
	u := t.useAt(v, path)
	space := t.text(t.get(v, "colorSpace"))
	list := t.get(v, "components")
	values := t.channelsOf(list)
	alpha := 1.0
	if a, given := t.number(t.get(v, "alpha")); given {
		alpha = a
	}
	text := ""
	if len(values) == 3 {
		switch space {
		case "hsl", "hwb":
			for i := 1; i < 3; i++ {
				if values[i] != "none" {
					values[i] += "%"
				}
			}
			text = space + "(" + strings.Join(values, " ") + ")"
		case "lab", "lch", "oklab", "oklch":
			text = space + "(" + strings.Join(values, " ") + ")"
		default:
			text = "color(" + space + " " + strings.Join(values, " ") + ")"
		}
	}
	c, err := color.ParseCSS(text)
	u.Value = space + " " + strings.Trim(strings.Join(strings.Fields(t.raw(v)), " "), "{}")
	if text != "" {
		u.Value = text
	}
	if text == "" || err != nil {
		u.Value = scanning.Shorten(u.Value, 120)
		u.Why = "its space or its components are not known"
		if hex := t.get(v, "hex"); hex != nil && hex.kind == '"' {
			if c, err := color.ParseCSS(t.text(hex)); err == nil {
				u.Why, u.Color, u.Alpha = "", audit.Seen(c), alpha
				u.Fixed = "its components are not numbers"
				t.Add(&u)
				return
			}
		}
		t.Add(&u)
		return
	}
	u.Color, u.Alpha = audit.Seen(c), alpha
	if named {
		u.Define = name
		t.define(name, tokenValue{color: u.Color})
		if alpha == 1 {
			t.set.order = append(t.set.order, name)
		}
	}
	u.At = []source.Span{t.span(list)}
	if hex := t.get(v, "hex"); hex != nil && hex.kind == '"' {
		u.At = append(u.At, t.span(hex))
	}
	u.Form = componentsForm(text)
	if alpha > 0 {
		t.Add(&u)
	}
}

// channelsOf are the components of a color as CSS writes them: numbers, or "none" for one that is missing; nil for anything else.
func (t *tree) channelsOf(list *node) (out []string) {
	if list == nil || list.kind != '[' {
		return nil
	}
	for _, in := range t.each(list) {
		if v, ok := t.number(in); ok {
			out = append(out, strconv.FormatFloat(v, 'g', -1, 64))
		} else if in.kind == '"' && t.text(in) == "none" {
			out = append(out, "none")
		} else {
			return nil
		}
	}
	return out
}

// componentsForm writes the digits, or three numbers in the space of a color that was written as a function.
func componentsForm(was string) form.Form {
	return form.Func(func(old string, to form.Paint) (string, error) {
		if strings.HasPrefix(old, `"`) {
			return quotedCSS.Write(old, to)
		}
		if v, ok := color.NumbersLike(was, to.Wide); ok && to.Wide != "" {
			return form.Values(old, v[:], 1)
		}
		text := color.Rewrite(was, to.RGB)
		open := strings.IndexByte(text, '(')
		if open < 0 {
			return "", fmt.Errorf("%q cannot be written in its space", old)
		}
		body := strings.ReplaceAll(strings.TrimSuffix(text[open+1:], ")"), "%", "")
		fields := strings.Fields(body)
		if strings.HasPrefix(text, "color(") {
			fields = fields[1:]
		}
		if len(fields) < 3 {
			return "", fmt.Errorf("%q cannot be written in its space", old)
		}
		var values []float64
		for _, f := range fields[:3] {
			v, err := strconv.ParseFloat(f, 64)
			if err != nil {
				return "", fmt.Errorf("%q cannot be written in its space", old)
			}
			values = append(values, v)
		}
		return form.Values(old, values, 1)
	})
}

// tokenForm writes a token, as an alias of one before it where that has the color; so no two point to each other.
type tokenForm struct {
	set    *tokenSet
	before int // how many of the set's order stand before it
	opaque bool
}

func (f tokenForm) Write(old string, to form.Paint) (string, error) {
	if to.Link != nil && f.opaque {
		for _, name := range f.set.order[:f.before] {
			if to.Link(name) && !strings.ContainsAny(name, `"\{}`) {
				return `"{` + name + `}"`, nil
			}
		}
	}
	return quotedCSS.Write(old, to)
}

// tokens are the design tokens that the files of a project define and refer to.
type tokens struct {
	named   map[string][]tokenName // by name, with the file that they are in
	aliases []tokenUse
	count   int // that were defined
}

// NewTokens begins a project.
func NewTokens() *tokens { return &tokens{named: map[string][]tokenName{}} }

// Size is how much files say and ask of each other.
func (v *tokens) Size() int { return v.count + len(v.aliases) }

// Join adds what other files say and ask, behind what there is.
func (v *tokens) Join(other scanning.Shared) {
	o := other.(*tokens)
	for name, list := range o.named {
		v.named[name] = append(v.named[name], list...)
	}
	v.aliases, v.count = append(v.aliases, o.aliases...), v.count+o.count
}

// tokens are those of the scan.
func (t *tree) tokens() *tokens { return t.Shared[scanning.DesignTokens].(*tokens) }

// Resolve reports the tokens that point to others: a file's own come first, and where it has none of the name those of the files that
// belong to it, of which there may be one for light and one for dark grounds.
func (v *tokens) Resolve() {
	type result struct {
		colors []audit.Color
		known  bool
	}
	each := map[tokenName]result{} // of each token; they are referred to again and again
	for _, w := range v.aliases {
		its, ok := each[tokenName{w.set, w.target}]
		if !ok {
			found := map[audit.Color]bool{}
			its.known = v.tokenColors(tokenName{w.set, w.target}, 0, map[tokenName]bool{}, found)
			its.colors = web.Ordered(found)
			each[tokenName{w.set, w.target}] = its
		}
		for _, c := range its.colors {
			w.use.Color = c
			w.tally.Add(&w.use)
		}
		if !its.known && w.must {
			w.use.Why = fmt.Sprintf("the token %s is not defined in what was read", w.target)
			w.tally.Add(&w.use)
		}
	}
	v.aliases = nil
}

// tokenName is a token as a file refers to it.
type tokenName struct {
	from *tokenSet
	name string
}

// mostModes is how many tokens of one name are looked at.
const mostModes = 64

// longestChain is how many tokens may refer to each other in a row.
const longestChain = 32

// tokenColors gathers the colors that a token can have.
func (v *tokens) tokenColors(of tokenName, depth int, seen map[tokenName]bool, into map[audit.Color]bool) (known bool) {
	if seen[of] || depth > longestChain || len(seen) > limits.Depth {
		return false
	}
	seen[of] = true
	for _, n := range []string{of.name, strings.TrimSuffix(of.name, ".value")} { // as older tools refer to them
		all := v.named[n]
		own := slices.ContainsFunc(all, func(t tokenName) bool { return t.from == of.from })
		for _, in := range all[:min(mostModes, len(all))] {
			if own && in.from != of.from {
				continue
			}
			switch t := in.from.values[in.name]; {
			case t.other:
				known = true
			case t.alias == "":
				into[t.color] = true
				known = true
			case v.tokenColors(tokenName{in.from, t.alias}, depth+1, seen, into):
				known = true
			}
		}
		if known {
			break
		}
	}
	return known
}

func (t *tree) paintsPath(where string) bool {
	return strings.Contains(strings.ToLower(where), "color") || strings.Contains(strings.ToLower(where), "colour")
}

// step is one step of the way to a value: a name, or where there is none its place in a list, from 1.
type step struct {
	key string
	at  int
}

// written is a path with its places from 0: "palette.brand.0".
func written(t *scanning.Texts, path []step) string {
	p := t.Phrase()
	for i, s := range path {
		if i > 0 {
			p.More(".")
		}
		if s.key == "" && s.at > 0 {
			p.Number(s.at - 1)
		} else {
			p.More(s.key)
		}
	}
	return p.Done()
}

// keyOfPath is the name that a value is given to: the last one of its path that is no number.
func keyOfPath(path []step) string {
	for i := len(path) - 1; i >= 0; i-- {
		p := path[i]
		if p.key == "" && p.at > 0 {
			continue
		}
		if p.key == "" || p.key[0] < '0' || p.key[0] > '9' {
			return p.key
		}
		if _, err := strconv.Atoi(p.key); err != nil {
			return p.key
		}
	}
	return ""
}

// string reads a plain text value.
func (t *tree) string(n *node, path []step) {
	const longestName = 24 // of a color, with quotes and more
	raw := t.raw(n)
	plain := strings.IndexByte(raw, '#') < 0 && strings.IndexByte(raw, '(') < 0 && strings.IndexByte(raw, '\\') < 0
	if plain && (len(raw) < 5 || len(raw) > longestName && raw[1] != ' ') {
		return
	}
	key := keyOfPath(path)
	named := t.paints(key) || len(path) > 1 && t.paints(path[len(path)-2].key)
	if plain && !named {
		return
	}
	text := unquote(raw)
	if rgb, ok := web.SixDigits(text); ok && !t.isStyle(key) { // as most are
		u := t.useAt(n, path)
		u.Value, u.Color, u.Form = text, audit.Screen(rgb), quotedCSS
		if len(text) != len(raw)-2 {
			u.Form, u.Fixed = nil, escapedText
		}
		t.Add(&u)
		return
	}
	trimmed := strings.TrimSpace(text)
	if len(trimmed) < 3 || len(trimmed) > 2000 || !named && !web.HoldsColor(trimmed) {
		return
	}
	escaped := len(text) != len(raw)-2
	c, err := color.ParseCSS(trimmed)
	if err != nil && !named && !web.ValueLike(trimmed) {
		return
	}
	u := t.useAt(n, path)
	switch {
	case err == nil && (named || c.Notation != "name") && !t.isStyle(key):
		if c.Alpha == 0 {
			return
		}
		u.Value, u.Color, u.Alpha, u.Form = trimmed, audit.ColorOf(c), c.Alpha, quotedCSS
		if _, inks := u.Build(); inks {
			u.Form = form.Quoted(form.Func(web.WriteDeviceCMYK))
		}
		if escaped {
			u.Form, u.Fixed = nil, escapedText
		}
		t.Add(&u)
	case err != nil && named && len(trimmed) == 6 && scanning.IsHex(trimmed):
		rgb, _ := color.FromHex(trimmed)
		u.Value, u.Color, u.Form = trimmed, audit.Screen(rgb), form.Quoted(form.Hex("RGB"))
		t.Add(&u)
	case err != nil && !escaped && web.HoldsColor(trimmed) && web.ValueLike(trimmed):
		place := u.Where
		sheet := web.AttributeAt(t.Scanner, t.part, func(int, int, string, string) string { return place })
		sheet.ValueOf(text, int(n.start)+1, u.Line, u.Column, key, 1, named)
	}
}

const escapedText = "it is written with escapes"

// paints says whether something that is given to a name is a color.
func (t *tree) paints(key string) bool {
	return key != "" && (key[0] < '0' || key[0] > '9') && web.Paints(key)
}

// isStyle is noStyle, remembered: names come again and again.
func (t *tree) isStyle(key string) bool {
	known, ok := t.styles[key]
	if !ok {
		known = web.NoStyle(key)
		if t.styles == nil {
			t.styles = map[string]bool{}
		}
		if len(t.styles) < 10_000 {
			t.styles[key] = known
		}
	}
	return known
}

// array reads three or four numbers that are given to the name of a color.
func (t *tree) array(n *node, path []step) bool {
	if !t.paints(keyOfPath(path)) {
		return false
	}
	values, ok := t.numbers(n)
	if !ok || len(values) != 3 && len(values) != 4 {
		return false
	}
	t.channels(n, path, values)
	return true
}

// object reads a color as an object of three channels.
func (t *tree) object(n *node, path []step) bool {
	items := t.items(n)
	if len(items) < 3 || len(items) > 4 {
		return false
	}
	var values []float64
	for i := range items {
		key := t.key(&items[i])
		if i < 3 && key != "rgb"[i:i+1] || i == 3 && key != "a" && key != "alpha" {
			return false
		}
		v, ok := t.number(&items[i])
		if !ok {
			return false
		}
		values = append(values, v)
	}
	t.channels(n, path, values)
	return true
}

// catalog reads a color of an asset catalog: a space, and components that are texts of numbers, to 1, to 255 or of two digits.
func (t *tree) catalog(n *node, path []step) bool {
	in, named := t.get(n, "components"), t.get(n, "color-space")
	if in == nil || in.kind != '{' || named == nil || named.kind != '"' {
		return false
	}
	u := t.useAt(n, path)
	u.Value = scanning.Shorten(strings.Join(strings.Fields(t.raw(n)), " "), 120)
	u.At = []source.Span{t.span(in)}
	member := func(name string) (c web.Channel, ok bool) {
		m := t.get(in, name)
		if m == nil || m.kind != '"' && m.kind != '0' {
			return c, false
		}
		at, text := int(m.start), t.raw(m)
		if m.kind == '"' {
			at, text = at+1, text[1:len(text)-1]
		}
		c, whole, ok := web.ReadChannel(text, at-int(in.start))
		if ok && c.Full == 0 {
			if c.Full = 1; whole && c.Value > 1 {
				c.Full = 255
			}
		}
		return c, ok
	}
	var of [3]web.Channel
	names := [3]string{"red", "green", "blue"}
	if t.get(in, "white") != nil {
		names = [3]string{"white", "white", "white"}
	}
	for i, name := range names {
		c, ok := member(name)
		if !ok {
			u.Why, u.At = "its components are not numbers", nil
			t.Add(&u)
			return true
		}
		of[i] = c
	}
	if c, ok := member("alpha"); ok {
		if u.Alpha = min(1, c.Share()); u.Alpha <= 0 {
			return true
		}
	}
	space := strings.TrimPrefix(t.text(named), "extended-")
	switch space {
	case "srgb", "display-p3":
	case "linear-srgb", "srgb-linear":
		space = "srgb-linear"
	case "gray":
		space = "srgb"
	default:
		u.Why, u.At = fmt.Sprintf("its space, %s, is not read", t.text(named)), nil
		t.Add(&u)
		return true
	}
	var err error
	if u.Color, err = web.ChannelColor(space, of); err != nil {
		u.Why, u.At = "its components are no color", nil
	} else {
		u.Form = web.ChannelForm(space, of)
	}
	t.Add(&u)
	return true
}

// channels reports three numbers on the scale that they show: to 255 where one is over 1, to 1 where one has a point.
func (t *tree) channels(n *node, path []step, values []float64) {
	u := t.useAt(n, path)
	u.Value = strings.Join(strings.Fields(t.raw(n)), " ")
	scale, whole := 1.0, true
	for _, v := range values[:3] {
		if v < 0 || v > 255 {
			return
		}
		if v > 1 {
			scale = 255
		}
		whole = whole && v == math.Trunc(v)
	}
	black := values[0] == 0 && values[1] == 0 && values[2] == 0
	switch {
	case scale == 1 && whole && !strings.Contains(u.Value, ".") && !black: // the others of the file may tell
		t.doubtful = append(t.doubtful, scaledColor{u, values, 0})
		return
	case scale > 1:
		t.bytes = true
	case !black:
		t.shares = true
	}
	t.scaled(scaledColor{u, values, scale})
}

// scaledColor is a color in numbers up to 1 or to 255; 0 where that is not known.
type scaledColor struct {
	use    audit.Use
	values []float64
	scale  float64
}

// scaled reports a color in numbers, on the scale of the others of the file where it could be on either.
func (t *tree) scaled(d scaledColor) {
	u, values, scale := d.use, d.values, d.scale
	switch {
	case scale == 0 && t.bytes == t.shares:
		u.Why = "it could be on a scale to 1 or to 255"
		t.Add(&u)
		return
	case scale == 0 && t.bytes:
		scale = 255
	case scale == 0:
		scale = 1
	}
	if len(values) == 4 {
		u.Alpha = values[3]
		if u.Alpha > 1 {
			u.Alpha /= 255
		}
		if u.Alpha == 0 {
			return
		}
	}
	u.Color = audit.Screen(color.RGB{R: values[0] / scale, G: values[1] / scale, B: values[2] / scale}.RGB8())
	u.Form = form.Numbers(scale)
	t.Add(&u)
}
