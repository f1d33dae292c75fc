package office

import (
	"bytes"
	"errors"
	"fmt"
	"path"
	"regexp"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/markup"
	"huekeep/core/source"
)

// ScanODF reads an open document (ODF 1.3): the styles that have a name as they are, the automatic ones where they are used, gradients and
// hatches, charts and other documents inside, pictures.
func ScanODF(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	parts, err := p.Parts()
	if err != nil {
		return "", err
	}
	byName := map[string]*source.Part{}
	for _, e := range parts {
		byName[e.Name] = e
	}
	if m := byName["META-INF/manifest.xml"]; m != nil {
		if data, err := m.Bytes(); err == nil && strings.Contains(string(data), "encryption-data") {
			return "", fmt.Errorf("it is encrypted; save it without a password and try again")
		}
	}
	if byName["META-INF/documentsignatures.xml"] != nil {
		s.Note("The document is signed; repainting it would end the signature.")
	}
	d := &odf{Scanner: s, parts: byName, seen: map[string]bool{}}
	if byName["content.xml"] == nil && byName["styles.xml"] == nil {
		return "", fmt.Errorf("its part \"content.xml\" is missing")
	}
	if byName["content.xml"] == nil {
		s.Unread("content.xml", errors.New("it is missing; only the styles are judged"))
	}
	if err := d.document("", ""); err != nil {
		return "", err
	}
	about := d.about() // without what is inside of it
	for i := 0; i < len(d.pending); i++ {
		e := d.pending[i]
		if d.seen[e.part] {
			continue
		}
		d.seen[e.part] = true
		if p := byName[e.part]; p != nil {
			if err := s.Embedded(p, e.place); err != nil {
				return "", err
			}
			continue
		}
		if byName[e.part+"/content.xml"] != nil && len(d.seen) < 2000 {
			if err := d.document(e.part+"/", e.place+", "); err != nil {
				s.Unread(e.place, err)
			}
		}
	}
	return about, nil
}

// ScanFlatODF reads an open document that is one XML file.
func ScanFlatODF(s *scanning.Scanner, p *source.Part, _ string) (string, error) {
	d := &odf{Scanner: s, parts: map[string]*source.Part{"content.xml": p}, seen: map[string]bool{}}
	if err := d.document("", ""); err != nil {
		return "", err
	}
	return d.about(), nil
}

type odf struct {
	*scanning.Scanner
	parts      map[string]*source.Part
	seen       map[string]bool
	pending    []embedded
	pages      int
	sheets     int
	paragraphs int
	drawn      bool
}

func (d *odf) about() string {
	switch {
	case d.pages > 0:
		return audit.Plural(d.pages, "page")
	case d.sheets > 0:
		return audit.Plural(d.sheets, "sheet")
	}
	return audit.Plural(d.paragraphs, "paragraph")
}

// document reads the styles and the content of one document of the package.
func (d *odf) document(folder, place string) error {
	w := &odfWalk{odf: d, folder: folder, place: place, styles: map[string]*odfStyle{}}
	for _, name := range []string{"styles.xml", "content.xml"} {
		p := d.parts[folder+name]
		if p == nil {
			continue
		}
		part, data, err := scanning.Decoded(p)
		if err != nil {
			return err
		}
		w.part, w.file, w.lines = part, name, data
		w.stack, w.auto, w.named, w.found = nil, false, false, map[string]*odfStyle{}
		if err := scanning.Walk(d.Scanner, part, w.event); err != nil {
			return err
		}
		p.Release()
	}
	w.finish()
	return nil
}

type odfStyle struct {
	name   string // as a person reads it; empty for an automatic one
	key    string
	colors []tint
	used   bool

	kind, own, parent string          // family; the name, and that of the style it derives from, as they are written
	above             *odfStyle       // the latter, once it is known
	tag, from         source.Span     // the name of its element, and the value of the parent's name, if it has one
	sets              map[string]bool // the properties that it sets
	more              bool            // it says more than properties
	all               []odfColor      // its colors and those that it inherits; nil until somebody asks
}

// odfColor is a color of a style, with the style that says it.
type odfColor struct {
	of *odfStyle
	tint
}

// inherited are the colors of a style and, where it has none, of those that it derives from.
func (w *odfWalk) inherited(s *odfStyle) []odfColor {
	if s.all != nil {
		return s.all
	}
	s.all = []odfColor{}
	has := map[string]bool{}
	for at, n := s, 0; at != nil && n < 32; at, n = w.parentOf(at), n+1 {
		var roles []string
		for _, k := range at.colors {
			if !has[k.role] {
				s.all = append(s.all, odfColor{at, k})
				roles = append(roles, k.role)
			}
		}
		for _, r := range roles {
			has[r] = true
		}
	}
	return s.all
}

func (w *odfWalk) parentOf(s *odfStyle) *odfStyle {
	if s.above == nil && s.parent != "" {
		s.above = w.styles[s.kind+"/"+s.parent]
	}
	return s.above
}

// point turns the one color of an automatic style into that of a named style: the automatic one derives from it and says no color of its
// own. Nothing else may change by that, so the named one derives from the same style and sets nothing more that the automatic one does not
// set.
func (w *odfWalk) point(s *odfStyle, attribute source.Span, role string) func(has func(key string) bool) []audit.Pointed {
	return func(has func(key string) bool) []audit.Pointed {
		if len(s.colors) != 1 || s.own == "" {
			return nil
		}
		for _, key := range scanning.Sorted(w.styles) {
			to := w.styles[key]
			if to.name == "" || to.own == "" || to.more || to.kind != s.kind || to.parent != s.parent || len(to.colors) != 1 ||
				to.colors[0].role != role || !has(to.key+" "+role) {
				continue
			}
			for property := range to.sets {
				if !s.sets[property] {
					to = nil
					break
				}
			}
			if to == nil {
				continue
			}
			parent := audit.Pointed{At: s.from, New: to.own, Says: to.name}
			if s.parent == "" {
				tag, err := s.tag.Text()
				if err != nil {
					return nil
				}
				prefix, _, _ := strings.Cut(tag, ":")
				parent = audit.Pointed{At: s.tag, New: tag + " " + prefix + `:parent-style-name="` + to.own + `"`, Says: to.name}
			}
			return []audit.Pointed{parent, {At: attribute, Says: to.name}}
		}
		return nil
	}
}

// odfWalk follows the elements of a document.
type odfWalk struct {
	*odf
	folder, place string
	part          *source.Part
	file          string
	lines         []byte
	stack         [][]byte // local names of the open elements
	auto, named   bool     // inside of the automatic styles, or of those with a name
	style         *odfStyle
	styles        map[string]*odfStyle
	found         map[string]*odfStyle // by family and name, as this file writes it
	key           []byte               // of the one that is looked for

	page   string
	shapes []odfShape
	open   paragraphs
	tables []odfTable
	number int
}

type odfShape struct {
	name  string
	depth int
}

type odfTable struct {
	name          string
	sheet         bool
	row, col      int
	repeat        int
	filled        map[*odfStyle]*cellsOf
	order         []*odfStyle
	columnDefault []string
}

func family(local []byte) string {
	switch string(local) {
	case "table-cell", "covered-table-cell":
		return "table-cell"
	case "table-row", "table-column", "table":
		return string(local)
	case "p", "h":
		return "paragraph"
	case "span", "a":
		return "text"
	case "page", "master-page":
		return "drawing-page"
	}
	return "graphic"
}

func (w *odfWalk) event(r *markup.Reader, e markup.Event) error {
	switch e {
	case markup.Open:
		local := markup.Local(r.Name)
		w.start(r, local)
		w.stack = append(w.stack, local)
	case markup.Close:
		w.stack = w.stack[:max(0, len(w.stack)-1)]
		w.end(r)
	case markup.Text:
		w.open.text(r)
	}
	return nil
}

func (w *odfWalk) inside(name string) bool {
	for _, s := range w.stack {
		if string(s) == name {
			return true
		}
	}
	return false
}

func (w *odfWalk) start(r *markup.Reader, local []byte) {
	switch string(local) {
	case "automatic-styles":
		w.auto = true
	case "styles":
		w.named = true
	case "style", "default-style", "data-style":
		w.begin(r, string(local))
	case "page", "master-page":
		if string(local) == "page" {
			w.pages++
			w.page = fmt.Sprintf("slide %d", w.pages)
			if !w.presentation() {
				w.page = fmt.Sprintf("page %d", w.pages)
			}
			w.odf.drawn = true
		} else {
			w.page = "master " + scanning.Shorten(r.Get("name"), 40)
		}
	case "notes":
		if w.page != "" {
			w.page = strings.TrimSuffix(w.page, " notes") + " notes"
		}
	case "table":
		t := odfTable{name: scanning.Shorten(r.Get("name"), 60), sheet: w.inside("spreadsheet") && len(w.tables) == 0,
			filled: map[*odfStyle]*cellsOf{}}
		if t.sheet {
			w.sheets++
		}
		w.tables = append(w.tables, t)
	case "table-column":
		if n := len(w.tables); n > 0 && w.tables[n-1].sheet {
			t := &w.tables[n-1]
			for range min(max(1, number(r.Get("number-columns-repeated"))), 16384-len(t.columnDefault)) {
				t.columnDefault = append(t.columnDefault, r.Get("default-cell-style-name"))
			}
		}
	case "table-row":
		if n := len(w.tables); n > 0 {
			t := &w.tables[n-1]
			t.row++
			t.col = 0
			t.repeat = max(1, number(r.Get("number-rows-repeated")))
		}
	case "table-cell", "covered-table-cell":
		if n := len(w.tables); n > 0 {
			w.cell(r, &w.tables[n-1])
			if w.tables[n-1].sheet {
				return
			}
		}
	case "p", "h":
		w.paragraphs++
		w.number++
		w.open.begin(w.number)
	case "image", "object", "object-ole":
		w.shown(r, string(local))
	}
	if isODFShape(local) {
		name := r.Get("name")
		if name == "" {
			name = string(local)
		}
		w.shapes = append(w.shapes, odfShape{scanning.Shorten(name, 60), len(w.stack)})
	}
	isStyle := string(local) == "style"
	if s := w.style; s != nil && !isStyle && string(local) != "default-style" {
		s.more = s.more || !bytes.HasSuffix(local, []byte("-properties"))
		for i := range r.Attrs {
			a := &r.Attrs[i]
			if name := markup.Local(a.Name); string(name) != "opacity" || string(r.Data[a.Start:a.End]) != "100%" {
				s.sets[string(local)+" "+string(name)] = true
			}
		}
	}
	if len(r.Attrs) == 0 {
		return
	}
	if w.style == nil || !isStyle {
		w.colors(r, local)
	}
	w.references(r, local)
}

func (w *odfWalk) presentation() bool {
	return w.inside("presentation")
}

func isODFShape(local []byte) bool {
	switch string(local) {
	case "frame", "rect", "line", "polyline", "polygon", "path", "circle", "ellipse", "g", "connector", "custom-shape", "caption",
		"measure", "regular-polygon", "scene":
		return true
	}
	return false
}

// begin starts a style.
func (w *odfWalk) begin(r *markup.Reader, local string) {
	s := &odfStyle{}
	name, kind := r.Get("name"), r.Get("family")
	if local == "default-style" {
		s.name = "default " + kind + " style"
	} else if !w.auto {
		s.name = "style " + scanning.Shorten(styleName(r.Get("display-name"), name), 60)
	}
	s.key = "style " + kind + " " + name
	s.kind, s.sets = kind, map[string]bool{}
	if local == "style" {
		if a := r.Find("name"); a != nil {
			s.own = string(r.Data[a.Start:a.End])
		}
		s.tag = source.Span{Part: w.part, Start: r.Start + 1, End: r.Start + 1 + len(r.Name)}
		if a := r.Find("parent-style-name"); a != nil && a.End > a.Start {
			s.parent, s.from = string(r.Data[a.Start:a.End]), source.Span{Part: w.part, Start: a.Start, End: a.End}
		}
		for _, other := range []string{"list-style-name", "default-outline-level", "master-page-name", "data-style-name", "auto-update"} {
			s.more = s.more || r.Find(other) != nil
		}
	}
	w.styles[kind+"/"+name+w.scopeOf()] = s
	if len(w.found) > 0 {
		w.found = map[string]*odfStyle{}
	}
	w.style = s
}

// scopeOf keeps the automatic styles of the two files apart.
func (w *odfWalk) scopeOf() string {
	if w.auto {
		return "@" + w.file
	}
	return ""
}

var escapedStyle = regexp.MustCompile(`_([0-9a-f]{2})_`)

func styleName(display, name string) string {
	if display != "" {
		return display
	}
	return escapedStyle.ReplaceAllStringFunc(name, func(s string) string {
		var c byte
		if _, err := fmt.Sscanf(s[1:3], "%x", &c); err != nil || c < ' ' {
			return s
		}
		return string(rune(c))
	})
}

func (w *odfWalk) end(r *markup.Reader) {
	if n := len(w.shapes); n > 0 && w.shapes[n-1].depth == len(w.stack) {
		w.shapes = w.shapes[:n-1]
	}
	switch string(markup.Local(r.Name)) {
	case "automatic-styles":
		w.auto = false
	case "styles":
		w.named = false
	case "style", "default-style":
		w.style = nil
	case "page", "master-page":
		w.page = ""
	case "notes":
		w.page = strings.TrimSuffix(w.page, " notes")
	case "p", "h":
		w.open.end(w.Scanner, r)
	case "table":
		n := len(w.tables)
		if n == 0 {
			return
		}
		t := w.tables[n-1]
		w.tables = w.tables[:n-1]
		for _, s := range t.order {
			c := t.filled[s]
			for _, k := range w.inherited(s) {
				w.use(k, w.place+"sheet "+t.name+", "+c.words(), c.count)
			}
		}
	case "table-row":
		if n := len(w.tables); n > 0 {
			w.tables[n-1].row += w.tables[n-1].repeat - 1
		}
	}
}

// colorRoles are the attributes that are colors, by what they paint.
var colorRoles = map[string]string{"color": "text", "background-color": "background", "fill-color": "fill", "stroke-color": "line",
	"text-underline-color": "underline",
	"text-overline-color":  "overline", "text-line-through-color": "strike-through", "shadow-color": "shadow",
	"start-color": "gradient, start", "end-color": "gradient, end",
	"stop-color": "gradient, stop", "border-color": "border", "symbol-color": "symbol", "marker-color": "marker", "glow-color": "glow",
	"tab-color":     "tab",
	"diffuse-color": "solid, lit", "ambient-color": "solid, shaded", "specular-color": "solid, shining", "emissive-color": "solid, glowing",
	"color-value": "gradient, stop"}

// colorRole says what an attribute paints; empty if it is no color.
func colorRole(name []byte) string {
	switch {
	case bytes.HasSuffix(name, []byte("color")) || string(name) == "color-value":
		if role := colorRoles[string(name)]; role != "" {
			return role
		}
		return strings.ReplaceAll(string(name), "-", " ")
	case bytes.HasPrefix(name, []byte("border")) && !bytes.HasPrefix(name, []byte("border-line-width")):
		return "border"
	case string(name) == "shadow" || string(name) == "text-shadow":
		return "shadow"
	case bytes.HasPrefix(name, []byte("diagonal-")):
		return "diagonal"
	}
	return ""
}

// hexColor finds the six digits of a color in a value, behind their mark; under 0 if there are none.
func hexColor(raw []byte) int {
	for from := 0; ; {
		i := bytes.IndexByte(raw[from:], '#')
		if i < 0 {
			return -1
		}
		from += i + 1
		end := from
		for end < len(raw) && end-from < 6 && scanning.IsHexDigit(raw[end]) {
			end++
		}
		if end-from == 6 && (end == len(raw) || !scanning.WordByte(raw[end])) {
			return from - 1
		}
	}
}

// colors reports the attributes of an element that are colors.
func (w *odfWalk) colors(r *markup.Reader, local []byte) {
	for i := range r.Attrs {
		a := &r.Attrs[i]
		role := colorRole(markup.Local(a.Name))
		sparkline, isSparkline := "", string(local) == "sparkline-group"
		if isSparkline {
			sparkline, _ = strings.CutPrefix(string(markup.Local(a.Name)), "color-")
			role = "sparkline, " + sparkline
		}
		if role == "" {
			continue
		}
		if string(local) == "hatch" {
			role = "hatch"
		}
		raw := r.Data[a.Start:a.End]
		at := hexColor(raw)
		if at < 0 {
			continue // transparent, none, automatic
		}
		value := string(raw[at : at+7])
		rgb, err := color.FromHex(value)
		if err != nil {
			continue
		}
		u := audit.Use{Value: value, Color: audit.Screen(rgb),
			At: w.Spans.Run(source.Span{Part: w.part, Start: a.Start + at, End: a.Start + at + 7}), Form: form.CSS}
		if w.style != nil {
			if w.auto {
				u.More = &audit.More{Point: w.point(w.style, source.Span{Part: w.part, Start: a.At - 1, End: a.End + 1}, role)}
			}
			w.style.colors = append(w.style.colors, tint{u, role})
			continue
		}
		if shows := map[string]string{"series": "", "axis": "display-x-axis"}; isSparkline {
			flag, other := shows[sparkline]
			if !other {
				flag = sparkline // "markers", "high"
			}
			u.Hidden = flag != "" && r.Get(flag) != "true"
		}
		switch string(local) {
		case "gradient", "hatch", "linearGradient", "radialGradient", "stop", "gradient-stop", "opacity":
			u.Where = w.place + strings.Split(role, ",")[0] + " " + scanning.Shorten(styleName(r.Get("display-name"), r.Get("name")), 60) +
				", " + role
			w.Add(&u)
		case "tab-color":
		default:
			w.direct(&u, role)
		}
	}
}

// direct reports a color that stands with what it paints.
func (w *odfWalk) direct(u *audit.Use, role string) {
	place := w.here()
	if n := w.open.number(); n > 0 {
		u.Where = place.More("paragraph ").Number(n).Done()
		w.open.wait(u, role)
		return
	}
	u.Where = place.More(role).Done()
	w.Add(u)
}

// here begins the place of an element in the words of its document, up to what it is there.
func (w *odfWalk) here() scanning.Phrase {
	p := w.Texts.Phrase().More(w.place)
	if w.page != "" {
		p.More(w.page).More(", ")
	}
	if n := len(w.tables); n > 0 {
		t := &w.tables[n-1]
		if t.sheet {
			p.More("sheet ").More(t.name).More(", ")
		} else {
			p.More("table ").More(t.name).More(", row ").Number(t.row).More(", cell ").Number(t.col).More(", ")
		}
	}
	for i := range w.shapes {
		p.More([]string{"shape ", " > "}[min(i, 1)]).More(w.shapes[i].name)
	}
	if len(w.shapes) > 0 {
		p.More(", ")
	}
	switch {
	case w.inside("annotation"):
		p.More("comment, ")
	case w.inside("chart"):
		p.More("chart, ")
	case w.file == "styles.xml" && w.page == "" && (w.inside("header") || w.inside("footer")):
		p.More("header or footer, ")
	}
	return p
}

// references reports the styles that an element uses.
func (w *odfWalk) references(r *markup.Reader, local []byte) {
	if w.style != nil || w.auto || w.named {
		return
	}
	for i := range r.Attrs {
		a := &r.Attrs[i]
		name := markup.Local(a.Name)
		if !bytes.HasSuffix(name, []byte("style-name")) {
			continue
		}
		switch string(name) {
		case "parent-style-name", "master-page-name", "data-style-name", "default-cell-style-name":
			continue
		}
		kind := family(local)
		switch {
		case string(name) == "text-style-name":
			kind = "paragraph"
		case bytes.HasPrefix(a.Name, []byte("chart:")):
			kind = "chart"
		case bytes.HasPrefix(a.Name, []byte("presentation:")):
			kind = "presentation"
		}
		s := w.find(kind, r, a)
		if s == nil {
			continue
		}
		for _, k := range w.inherited(s) {
			u := w.linked(k)
			role := k.role
			if kind == "chart" {
				role = chartRole(string(local)) + role
			}
			w.direct(&u, role)
		}
	}
}

// chartRole names the element of a chart that a style belongs to.
func chartRole(local string) string {
	switch local {
	case "series", "axis", "legend", "title", "subtitle", "wall", "floor", "plot-area", "grid", "data-point", "footer":
		return strings.ReplaceAll(local, "-", " ") + ", "
	}
	return ""
}

// find is the style that an attribute names; nil if there is none. What was found is remembered by the attribute's bytes until there is
// another style, since documents name a few of them again and again.
func (w *odfWalk) find(kind string, r *markup.Reader, a *markup.Attr) *odfStyle {
	w.key = append(append(append(w.key[:0], kind...), '/'), r.Data[a.Start:a.End]...)
	s, ok := w.found[string(w.key)]
	if !ok {
		s = w.called(kind, r.Value(*a))
		w.found[string(w.key)] = s
	}
	return s
}

// called is the style of a family with a name: the automatic one of this file before others.
func (w *odfWalk) called(kind, name string) *odfStyle {
	if s := w.styles[kind+"/"+name+"@"+w.file]; s != nil {
		return s
	}
	return w.styles[kind+"/"+name]
}

// linked is a use of a color of a style: of an automatic one its own, of a named one a link to it.
func (w *odfWalk) linked(k odfColor) audit.Use {
	k.of.used = true
	u := k.use
	if k.of.name != "" {
		u.Link = k.of.key + " " + k.role
	}
	return u
}

func (w *odfWalk) use(k odfColor, place string, count int) {
	u := w.linked(k)
	u.Where, u.Count = place+", "+k.role, count
	w.Add(&u)
}

// cell counts a cell of a sheet with its style.
func (w *odfWalk) cell(r *markup.Reader, t *odfTable) {
	t.col++
	if !t.sheet {
		return
	}
	times := max(1, number(r.Get("number-columns-repeated")))
	name := r.Get("style-name")
	if name == "" && t.col <= len(t.columnDefault) {
		name = t.columnDefault[t.col-1]
	}
	s := w.called("table-cell", name)
	if s != nil && len(w.inherited(s)) > 0 && (!r.Empty || times*t.repeat <= 10_000) { // many empty ones are the rest of the sheet
		if t.filled[s] == nil {
			t.filled[s] = &cellsOf{}
			t.order = append(t.order, s)
		}
		for i := range min(t.repeat, 10_000) {
			t.filled[s].run(t.row+i, t.col, t.col+times-1)
		}
	}
	t.col += times - 1
}

// shown notes a picture or a document that a frame shows.
func (w *odfWalk) shown(r *markup.Reader, local string) {
	href := r.Get("href")
	if href == "" || strings.Contains(href, "://") {
		return
	}
	target := path.Clean(w.folder + strings.TrimPrefix(href, "./"))
	place := strings.TrimSuffix(w.here().Done(), ", ")
	if n := w.open.number(); n > 0 && len(w.shapes) == 0 {
		place += fmt.Sprintf("paragraph %d", n)
	}
	if local == "image" {
		if strings.HasPrefix(path.Base(path.Dir(target)), "ObjectReplacements") || strings.Contains(target, "ObjectReplacements/") {
			w.seen[target] = true // a picture of an object that is read itself
			return
		}
		place += ", picture " + path.Base(target)
	}
	w.pending = append(w.pending, embedded{target, strings.TrimPrefix(place, ", "), local})
}

// finish reports the styles that have a name, and hides automatic ones that nothing uses.
func (w *odfWalk) finish() {
	for _, key := range scanning.Sorted(w.styles) {
		s := w.styles[key]
		for _, k := range s.colors {
			u := k.use
			switch {
			case s.name != "":
				u.Where, u.Define = w.place+s.name+", "+k.role, s.key+" "+k.role
			case s.used:
				continue
			default:
				u.Where, u.Hidden = w.place+"a style, "+k.role, true
			}
			w.Add(&u)
		}
	}
}
