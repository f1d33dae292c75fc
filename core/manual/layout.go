package manual

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"huekeep/core/pdfpage"
)

// layout joins the pieces of a page by where they stand. Distances are told in the size of the type.
type layout struct {
	items []*item
	times map[string]int // how often a piece says the same, in small letters: what stands at several colors is the name of none
}

func (l *layout) often(it *item) bool { return l.times[strings.ToLower(it.name)] > 1 }

// level says whether two pieces stand on one line.
func level(a, b pdfpage.Box) bool {
	_, h := a.Overlap(b)
	return h > 0.5*min(a.Height(), b.Height())
}

// right are the pieces to the right of one on its line, the nearest first.
func (l *layout) right(of *item) (out []*item) {
	for _, o := range l.items {
		if o != of && !o.used && level(of.Box, o.Box) && o.X0 >= of.X1-1 {
			out = append(out, o)
		}
	}
	slices.SortStableFunc(out, func(a, b *item) int { return cmp.Compare(a.X0, b.X0) })
	return out
}

// beneath says whether a piece is the next line under another: aligned with it, and not further away than lines are.
func beneath(a, b *item) bool {
	gap := b.Y0 - a.Y1
	size := max(a.Size, b.Size)
	if gap < -0.5*min(a.Height(), b.Height()) || gap > size {
		return false
	}
	if math.Abs(a.X0-b.X0) < 0.8*size {
		return true
	}
	w, _ := a.Overlap(b.Box)
	middle := math.Abs((a.X0+a.X1)/2 - (b.X0+b.X1)/2)
	return w > 0.6*min(a.Width(), b.Width()) && (middle < 0.8*size || math.Abs(a.X0-b.X0) < 3*size)
}

// merge makes one piece of a label and what it labels.
func (l *layout) merge(label, value *item, v Value) {
	label.values = append(label.values, v)
	label.Box = label.With(value.Box)
	label.label, label.name = "", ""
	value.used = true
}

// unlabelled says whether a piece may be the value of a label that stands beside it, and reads it so.
func (i *item) unlabelled(kind string) (Value, bool) {
	if i.used || i.label != "" || len(i.values) > 0 && strings.ContainsAny(i.Text, ":") {
		return Value{}, false
	}
	for _, v := range i.values {
		if v.Sure && v.Kind != kind && !(kind == "cmyk" && v.CMYK != nil) && v.Kind != "hex" {
			return Value{}, false
		}
	}
	return valueOf(kind, i.Text)
}

// labels says whether a piece is the label of a kind of value.
func (i *item) labels() bool {
	return !i.used && i.label != "" && i.label != "name" && i.label != "other"
}

// farOff is how far from its label a value stands on the line, at the most.
const farOff = 22

// pair gives values the label to their left. Of several on one line each gets it: the label of a row.
func (l *layout) pair() {
	for _, of := range l.items {
		if !of.labels() {
			continue
		}
		var to []*item
		var values []Value
		reach := of.X1 + farOff*of.Size
		for _, o := range l.right(of) {
			v, ok := o.unlabelled(of.label)
			if !ok || len(to) == 0 && o.X0 > reach {
				break
			}
			if partial(of.label) && len(to) == 1 {
				break
			}
			to, values = append(to, o), append(values, v)
		}
		switch {
		case len(to) == 1:
			_, paper, _ := cutLabel(of.Text)
			values[0].Paper = paper
			l.merge(of, to[0], values[0])
		case len(to) > 1:
			for i, o := range to {
				o.values, o.name = []Value{values[i]}, ""
			}
			of.used = true
		}
	}
}

// letters are the numbers of values that are written one by one.
var letters = []struct{ each, kind string }{{"cmyk", "cmyk"}, {"rgb", "rgb"}}

// gather joins numbers that are written one by one under or beside each other: R, G and B; C, M, Y and K.
func (l *layout) gather() {
	for _, first := range l.items {
		for _, m := range letters {
			if first.used || len(first.values) != 1 || first.values[0].Kind != m.each[:1] {
				continue
			}
			run := []*item{first}
			for _, letter := range m.each[1:] {
				next := l.letterAfter(run[len(run)-1], string(letter))
				if next == nil {
					break
				}
				run = append(run, next)
			}
			if len(run) != len(m.each) {
				continue
			}
			var numbers []string
			for _, it := range run {
				numbers = append(numbers, strings.TrimSuffix(strings.ReplaceAll(it.values[0].Text, " ", ""), "%"))
			}
			v, ok := valueOf(m.kind, strings.Join(numbers, " "))
			if !ok {
				continue
			}
			first.values = []Value{v}
			for _, it := range run[1:] {
				first.Box = first.With(it.Box)
				it.used = true
			}
		}
	}
}

// letterAfter is the piece with the number of a letter that comes next: to the right, or below.
func (l *layout) letterAfter(of *item, letter string) (best *item) {
	nearest := 9 * of.Size
	for _, o := range l.items {
		if o.used || len(o.values) != 1 || o.values[0].Kind != letter {
			continue
		}
		var d float64
		switch {
		case level(of.Box, o.Box) && o.X0 > of.X0:
			d = o.X0 - of.X1
		case beneath(of, o):
			d = o.Y0 - of.Y1
		default:
			continue
		}
		if d < nearest {
			best, nearest = o, d
		}
	}
	return best
}

// column is one of a table: its head, and the kind that it says.
type column struct {
	*item
	kind string
}

// tables reads tables with a head: rows that say what the columns under them are.
func (l *layout) tables() (out []*Color) {
	for _, first := range l.items {
		if !first.labels() {
			continue
		}
		columns := l.head(first)
		if columns == nil {
			continue
		}
		found := l.rows(columns)
		if len(found) == 0 {
			continue
		}
		for _, c := range columns {
			c.used = true
		}
		out = append(out, found...)
	}
	return out
}

// head is the row that a label is the first of, as the head of a table; nil if it is none: heads of values differ.
func (l *layout) head(first *item) (out []column) {
	var row []*item
	for _, o := range l.items {
		if !o.used && (o == first || level(first.Box, o.Box)) && len(o.values) == 0 {
			row = append(row, o)
		}
	}
	slices.SortStableFunc(row, func(a, b *item) int { return cmp.Compare(a.X0, b.X0) })
	seen, kinds := map[string]bool{}, 0
	for _, o := range row {
		kind := o.label
		if kind == "" {
			kind = "other"
		}
		if kind != "other" && kind != "name" {
			if seen[kind] {
				return nil
			}
			seen[kind] = true
			kinds++
		}
		out = append(out, column{o, kind})
	}
	if kinds < 2 && !(kinds == 1 && slices.ContainsFunc(out, func(c column) bool { return c.kind == "name" })) {
		return nil
	}
	return out
}

// columnOf is the column that a cell stands in: the one whose head is nearest by an edge or the middle.
func columnOf(columns []column, cell pdfpage.Box) int {
	best, at := math.Inf(1), 0
	for i, c := range columns {
		d := min(math.Abs(c.X0-cell.X0), math.Abs(c.X1-cell.X1), math.Abs((c.X0+c.X1)/2-(cell.X0+cell.X1)/2))
		if w, _ := c.Overlap(cell); w > 0 {
			d = min(d, 1)
		}
		if d < best {
			best, at = d, i
		}
	}
	return at
}

// tableRow is a row of a table as it is read.
type tableRow struct {
	pdfpage.Box
	cells []*item
	in    []int    // their columns
	as    []*Value // what they say there; nil for words
}

// rows reads what stands under a head.
func (l *layout) rows(columns []column) (out []*Color) {
	head := columns[0].Box
	for _, c := range columns {
		head = head.With(c.Box)
	}
	var cells []*item
	for _, o := range l.items {
		if !o.used && o.label == "" && o.Y0 > head.Y1-1 {
			cells = append(cells, o)
		}
	}
	slices.SortStableFunc(cells, func(a, b *item) int { return cmp.Compare(a.Y0, b.Y0) })
	var rows []*tableRow
	pitch := 0.0
	l.wrapped(cells, columns)
	for _, o := range cells { // rows are where values are
		at := columnOf(columns, o.Box)
		v, ok := o.unlabelled(columns[at].kind)
		if columns[at].kind == "other" || columns[at].kind == "name" || !ok {
			continue
		}
		if n := len(rows); n > 0 && level(rows[n-1].Box, o.Box) {
			rows[n-1].add(o, at, &v)
			continue
		} else if n > 0 {
			if step := o.Y0 - rows[n-1].Y0; pitch > 0 && step > max(3*pitch, 40) {
				break // another table
			} else if pitch == 0 {
				pitch = step
			}
		}
		row := &tableRow{Box: o.Box}
		row.add(o, at, &v)
		rows = append(rows, row)
	}
	for _, o := range cells {
		if o.used || slices.ContainsFunc(rows, func(r *tableRow) bool { return slices.Contains(r.cells, o) }) {
			continue
		}
		for i, r := range rows {
			reach := 0.5 * pitch
			if i == 0 && len(rows) == 1 {
				reach = 2 * o.Size
			}
			if level(r.Box, o.Box) || math.Abs((r.Y0+r.Y1)/2-(o.Y0+o.Y1)/2) < reach {
				r.add(o, columnOf(columns, o.Box), nil)
				break
			}
		}
	}
	for _, r := range rows {
		if c := r.color(columns); c != nil {
			out = append(out, c)
		}
	}
	return out
}

// wrapped joins the lines of a cell whose value takes several: none of them is a value by itself.
func (l *layout) wrapped(cells []*item, columns []column) {
	for _, o := range cells {
		kind := columns[columnOf(columns, o.Box)].kind
		if kind == "other" || kind == "name" || partial(kind) {
			continue
		}
		if _, ok := o.unlabelled(kind); ok || o.used {
			continue
		}
		text, lines := o.Text, []*item{o}
		for len(lines) < 4 {
			i := slices.IndexFunc(cells, func(n *item) bool {
				return !n.used && beneath(lines[len(lines)-1], n) &&
					!slices.Contains(lines, n)
			})
			if i < 0 {
				break
			}
			lines = append(lines, cells[i])
			text += " " + cells[i].Text
			v, ok := valueOf(kind, text)
			if !ok {
				continue
			}
			o.Text, o.values, o.name = text, []Value{v}, ""
			for _, n := range lines[1:] {
				o.Box = o.With(n.Box)
				n.used = true
			}
			break
		}
	}
}

func (r *tableRow) add(o *item, at int, v *Value) {
	r.cells, r.in, r.as = append(r.cells, o), append(r.in, at), append(r.as, v)
}

// color is what a row says.
func (r *tableRow) color(columns []column) *Color {
	c := &Color{}
	parts := map[string]string{}
	name := ""
	for i, o := range r.cells {
		v := r.as[i]
		switch {
		case v == nil:
			if columns[r.in[i]].kind == "name" {
				c.Name = strings.TrimSpace(c.Name + " " + o.name)
			}
			if name == "" && len(o.name) > 1 && !prose(o.name) {
				name = o.name
			}
		case partial(v.Kind):
			parts[v.Kind] = v.Text
		default:
			o.values = []Value{*v}
			c.take(o)
			continue
		}
		if c.text == (pdfpage.Box{}) {
			c.text, c.size = o.Box, o.Size
		}
		c.text = c.text.With(o.Box)
	}
	for _, m := range letters {
		var numbers []string
		for _, letter := range m.each {
			if n, ok := parts[string(letter)]; ok {
				numbers = append(numbers, strings.TrimSpace(strings.TrimSuffix(n, "%")))
			}
		}
		if len(numbers) == len(m.each) {
			if v, ok := valueOf(m.kind, strings.Join(numbers, " ")); ok {
				c.Values = append(c.Values, v)
			}
		}
	}
	if c.Name == "" {
		c.Name = name
	}
	if len(c.Values) == 0 {
		return nil
	}
	for _, o := range r.cells {
		o.used = true
	}
	return c
}

// under gives values the label over them.
func (l *layout) under() {
	for _, of := range l.items {
		if !of.labels() {
			continue
		}
		for _, o := range l.items {
			if o == of || !beneath(of, o) {
				continue
			}
			if v, ok := o.unlabelled(of.label); ok {
				l.merge(of, o, v)
				break
			}
		}
	}
	l.gather()
}

// blocks reads what stands under each other: a name and its values, again and again.
func (l *layout) blocks() (out []*Color) {
	next, after := map[*item]*item{}, map[*item]bool{}
	for _, a := range l.items {
		if a.used || a.mention() {
			continue
		}
		var best *item
		for _, b := range l.items {
			if b == a || b.used || b.mention() || after[b] || !beneath(a, b) {
				continue
			}
			if best == nil || b.Y0 < best.Y0 || b.Y0 == best.Y0 && math.Abs(b.X0-a.X0) < math.Abs(best.X0-a.X0) {
				best = b
			}
		}
		if best != nil {
			next[a], after[best] = best, true
		}
	}
	for _, a := range l.items {
		if a.used || after[a] || a.mention() {
			continue
		}
		var chain []*item
		for it, n := a, 0; it != nil && n < len(l.items); it, n = next[it], n+1 {
			chain = append(chain, it)
		}
		out = append(out, l.cut(chain)...)
	}
	return under(l.alongside(out))
}

// under joins values without a name to the block that they stand under, where they are of kinds that it lacks.
func under(blocks []*Color) (out []*Color) {
	slices.SortStableFunc(blocks, func(a, b *Color) int { return cmp.Compare(a.text.Y0, b.text.Y0) })
	for _, c := range blocks {
		i := slices.IndexFunc(out, func(o *Color) bool {
			gap := c.text.Y0 - o.text.Y1
			return c.Name == "" && o.Name != "" && gap > -c.size && gap < 1.8*c.size && math.Abs(c.text.X0-o.text.X0) < c.size &&
				!slices.ContainsFunc(c.Values, func(v Value) bool { return o.has(v.Key()) })
		})
		if i < 0 {
			out = append(out, c)
			continue
		}
		out[i].Values = append(out[i].Values, c.Values...)
		out[i].text = out[i].text.With(c.text)
	}
	return out
}

// cut parts a chain of lines into colors. Names stand over their values, or under them where the first line is a value.
func (l *layout) cut(chain []*item) (out []*Color) {
	var c *Color
	var candidates []*item
	end := func() {
		if rest := slices.DeleteFunc(slices.Clone(candidates), l.often); len(rest) > 0 {
			candidates = rest
		}
		if c != nil && c.Name == "" && len(candidates) > 0 {
			name := best(candidates, c.size)
			c.Name, name.used = name.name, true
			c.text = c.text.With(name.Box)
		}
		if c != nil {
			out = append(out, c)
		}
		c, candidates = nil, nil
	}
	last := chain[len(chain)-1]
	first := slices.IndexFunc(chain, (*item).words)
	below := chain[0].valued() && chain[0].name == "" && last.words() && slices.ContainsFunc(chain[max(first, 0):], (*item).valued)
	for _, it := range chain {
		switch {
		case it.valued():
			if it.name != "" && c != nil && len(c.Values) > 0 || c != nil &&
				slices.ContainsFunc(it.values, func(v Value) bool { return c.has(v.Key()) }) {
				end()
			}
			if c == nil {
				c = &Color{}
			}
			if it.name != "" && c.Name == "" {
				c.Name = it.name
			}
			c.take(it)
		case !it.words() || prose(it.name):
		case c != nil && below && c.Name == "":
			c.Name, it.used = it.name, true
			c.text = c.text.With(it.Box)
		default:
			if c != nil {
				end()
			}
			candidates = append(candidates, it)
		}
	}
	end()
	return out
}

// best is the name among the lines over a block: the one that stands out, but for a heading over several blocks.
func best(candidates []*item, size float64) *item {
	weight := func(it *item) float64 {
		w := it.Size
		if it.Bold {
			w *= 1.05
		}
		return w
	}
	name := candidates[len(candidates)-1]
	for _, it := range slices.Backward(candidates) {
		if weight(it) > weight(name)*1.02 && it.Size < 1.6*size && it.Y1 > name.Y0-3*size {
			name = it
		}
	}
	return name
}

// alongside joins values of one line that have no name of their own: the row of a table without a head.
func (l *layout) alongside(blocks []*Color) (out []*Color) {
	slices.SortStableFunc(blocks, func(a, b *Color) int { return cmp.Compare(a.text.X0, b.text.X0) })
	gone := map[*Color]bool{}
	for i, c := range blocks {
		if gone[c] {
			continue
		}
		for _, o := range blocks[i+1:] {
			if gone[o] || o.Name != "" || !level(c.text, o.text) || o.text.X0-c.text.X1 > farOff*c.size {
				continue
			}
			if slices.ContainsFunc(o.Values, func(v Value) bool { return c.has(v.Key()) }) {
				break // the next color of the line
			}
			c.Values = append(c.Values, o.Values...)
			c.text = c.text.With(o.text)
			gone[o] = true
		}
		out = append(out, c)
	}
	return out
}

// names finds names for those that have none where they stand: on the line, in the swatch, over or under it. Names of one page are on one
// side.
func (l *layout) names(found []*Color) {
	type choice struct {
		it *item
		d  float64
	}
	var over, beneath []choice
	sums := [2]float64{}
	for _, c := range found {
		best := [2]choice{{d: math.Inf(1)}, {d: math.Inf(1)}}
		for _, it := range l.items {
			if c.Name != "" || !it.words() || prose(it.name) || len([]rune(it.name)) < 2 || l.often(it) {
				continue
			}
			d, below := c.away(it)
			side := 0
			if below {
				side = 1
			}
			if d < best[side].d {
				best[side] = choice{it, d}
			}
		}
		over, beneath = append(over, best[0]), append(beneath, best[1])
		for side := range sums {
			sums[side] += min(best[side].d, 200)
		}
	}
	if sums[1] < sums[0] {
		over, beneath = beneath, over
	}
	for _, side := range [][]choice{over, beneath} {
		for i, c := range found {
			if of := side[i]; c.Name == "" && of.it != nil && !of.it.used {
				c.Name, of.it.used = of.it.name, true
				c.text = c.text.With(of.it.Box)
			}
		}
	}
	for _, c := range found {
		c.Name = strings.TrimSpace(strings.Trim(c.Name, ":–- \t"))
	}
}

// away is how far from a color words stand that may be its name, and whether they stand under it; infinite for those that cannot be it.
func (c *Color) away(it *item) (distance float64, below bool) {
	switch {
	case level(c.text, it.Box) && it.X1 <= c.text.X0+1:
		if d := c.text.X0 - it.X1; d < 2*farOff*c.size {
			return d / 4, false
		}
	case level(c.text, it.Box) && it.X0 >= c.text.X1-1:
		if d := it.X0 - c.text.X1; d < farOff*c.size {
			return d, false
		}
	}
	around := c.text
	if c.Swatch != nil {
		around = around.With(c.Swatch.Box)
	}
	w, h := around.Overlap(it.Box)
	if w <= 0 || h < -3*c.size {
		return math.Inf(1), false
	}
	below = it.Y0+it.Y1 > c.text.Y0+c.text.Y1
	return max(-h, 0) + 1, below
}
