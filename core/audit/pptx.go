package audit

import (
	"encoding/xml"
	"fmt"
	"io"
	"maps"
	"path"
	"strings"

	"huekeep/core/archive"
	"huekeep/core/color"
	"huekeep/core/limits"
)

// scanPresentation reads an ECMA-376 presentation: its themes, masters and layouts, then every slide in order with its
// charts, diagrams and notes.
func scanPresentation(_ string, data []byte, watch Watch) (*Scan, error) {
	a, err := archive.Open(data)
	if err != nil {
		return nil, err
	}
	p := presentation{archive: a, watch: watch, themes: map[string]theme{}, seen: map[string]bool{},
		rels: map[string]map[string]relation{}, maps: map[string]map[string]string{}}
	main, err := p.main()
	if err != nil {
		return nil, err
	}
	if err := p.scan(main); err != nil {
		return nil, err
	}
	if err := p.tally.check(); err != nil {
		return nil, err
	}
	return &Scan{About: p.about(), Uses: p.tally.uses, Notes: p.notes()}, nil
}

type presentation struct {
	archive *archive.Archive
	watch   Watch
	tally   tally
	themes  map[string]theme
	rels    map[string]map[string]relation // of each part, by id
	maps    map[string]map[string]string   // color map of each master
	seen    map[string]bool                // parts read, so that a shared chart is counted once
	slides  int
	charts  int
	unread  map[string]int // kinds of parts that were there and not read
}

// theme is the color scheme of one theme part: slot name to color.
type theme map[string]color.RGB8

const relType = "/relationships/"

// main finds the presentation part through the package's relationships.
func (p *presentation) main() (string, error) {
	if _, ok := p.archive.Files["[Content_Types].xml"]; !ok {
		return "", fmt.Errorf("it is a ZIP archive but not an office document")
	}
	rels, err := p.relations("")
	if err != nil {
		return "", err
	}
	for _, id := range sorted(rels) {
		if r := rels[id]; strings.HasSuffix(r.kind, relType+"officeDocument") {
			if !strings.HasPrefix(r.target, "ppt/") && !strings.Contains(path.Base(r.target), "presentation") {
				return "", fmt.Errorf("it is an office document but not a presentation")
			}
			return r.target, nil
		}
	}
	return "", fmt.Errorf("it is an office document without a main part")
}

// relations reads the relationships of a part; a part without any has none.
func (p *presentation) relations(part string) (map[string]relation, error) {
	if known, ok := p.rels[part]; ok {
		return known, nil
	}
	name := relationsOf(part)
	out := map[string]relation{}
	p.rels[part] = out
	if part == "" {
		name = "_rels/.rels"
	}
	if _, ok := p.archive.Files[name]; !ok {
		return out, nil
	}
	err := p.elements(name, func(e xml.StartElement) error {
		if e.Name.Local != "Relationship" {
			return nil
		}
		var id string
		var r relation
		external := false
		for _, a := range e.Attr {
			switch a.Name.Local {
			case "Id":
				id = a.Value
			case "Type":
				r.kind = a.Value
			case "Target":
				r.target = resolve(part, a.Value)
			case "TargetMode":
				external = a.Value == "External"
			}
		}
		if !external {
			out[id] = r
		}
		return nil
	})
	return out, err
}

// elements calls f for each start tag of a part.
func (p *presentation) elements(part string, f func(xml.StartElement) error) error {
	return p.tokens(part, func(t xml.Token) error {
		if e, ok := t.(xml.StartElement); ok {
			return f(e)
		}
		return nil
	})
}

func (p *presentation) tokens(part string, f func(xml.Token) error) error {
	r, err := p.archive.Part(part)
	if err != nil {
		return err
	}
	defer r.Close()
	dec := xml.NewDecoder(r)
	depth := 0
	for {
		// RawToken leaves the prefixes alone; local names are unique enough here and it is twice as fast.
		t, err := dec.RawToken()
		if err == io.EOF {
			if depth != 0 {
				return fmt.Errorf("its part %q ends in the middle", part)
			}
			return nil
		}
		if err != nil {
			if _, malformed := err.(*xml.SyntaxError); malformed {
				line, _ := dec.InputPos()
				return fmt.Errorf("its part %q is not well-formed XML in line %d", part, line)
			}
			return err
		}
		switch t.(type) {
		case xml.StartElement:
			if depth++; depth > limits.Depth {
				return fmt.Errorf("its part %q is nested over %d deep", part, limits.Depth)
			}
		case xml.EndElement:
			depth--
		}
		if err := f(t); err != nil {
			return err
		}
	}
}

func (p *presentation) scan(main string) error {
	rels, err := p.relations(main)
	if err != nil {
		return err
	}
	var slides, masters, others []string
	err = p.elements(main, func(e xml.StartElement) error {
		r, known := rels[attr(e, "r:id")]
		if !known && e.Name.Local != "sldId" {
			return nil
		}
		switch e.Name.Local {
		case "sldId":
			if !known {
				return fmt.Errorf("its slide list names a slide that is not there")
			}
			slides = append(slides, r.target)
		case "sldMasterId":
			masters = append(masters, r.target)
		case "notesMasterId", "handoutMasterId":
			others = append(others, r.target)
		}
		return nil
	})
	if err != nil {
		return err
	}
	for i, m := range masters {
		if err := p.master(m, fmt.Sprintf("master %d", i+1)); err != nil {
			return err
		}
	}
	for _, m := range others {
		if err := p.master(m, masterName(m)); err != nil {
			return err
		}
	}
	p.slides = len(slides)
	for i, s := range slides {
		if err := p.watch.at(fmt.Sprintf("slide %d of %d", i+1, len(slides)), float64(i)/float64(len(slides))); err != nil {
			return err
		}
		if err := p.slide(s, fmt.Sprintf("slide %d", i+1)); err != nil {
			return err
		}
	}
	return nil
}

func masterName(part string) string {
	if strings.Contains(part, "handout") {
		return "handout master"
	}
	return "notes master"
}

func attr(e xml.StartElement, name string) string {
	prefix, local, ok := strings.Cut(name, ":")
	if !ok {
		prefix, local = "", name
	}
	for _, a := range e.Attr {
		if a.Name.Local == local && (prefix == "" && a.Name.Space == "" || prefix != "" && a.Name.Space != "") {
			return a.Value
		}
	}
	return ""
}

// master reads a master with its theme and its layouts.
func (p *presentation) master(part, place string) error {
	rels, err := p.relations(part)
	if err != nil {
		return err
	}
	for _, id := range sorted(rels) {
		if r := rels[id]; strings.HasSuffix(r.kind, relType+"theme") {
			if err := p.theme(r.target); err != nil {
				return err
			}
		}
	}
	ctx, err := p.context(part)
	if err != nil {
		return err
	}
	if err := p.part(part, place, ctx); err != nil {
		return err
	}
	layout := 0
	for _, id := range sorted(rels) {
		if r := rels[id]; strings.HasSuffix(r.kind, relType+"slideLayout") && !p.seen[r.target] {
			layout++
			ctx, err := p.context(r.target)
			if err != nil {
				return err
			}
			if err := p.part(r.target, fmt.Sprintf("%s, layout %d", place, layout), ctx); err != nil {
				return err
			}
		}
	}
	return nil
}

// scope is what scheme colors of a part resolve through.
type scope struct {
	slots theme
	remap map[string]string // bg1 to lt1 and so on
}

func (s scope) color(name string) (color.RGB8, bool) {
	if to, ok := s.remap[name]; ok {
		name = to
	}
	c, ok := s.slots[name]
	return c, ok
}

// context finds the theme and the color map of a part by going up: slide, layout, master, theme.
func (p *presentation) context(part string) (scope, error) {
	s := scope{remap: map[string]string{"bg1": "lt1", "tx1": "dk1", "bg2": "lt2", "tx2": "dk2"}}
	for range 4 {
		rels, err := p.relations(part)
		if err != nil {
			return s, err
		}
		up := ""
		for _, id := range sorted(rels) {
			r := rels[id]
			switch {
			case strings.HasSuffix(r.kind, relType+"theme"):
				s.slots, err = p.readTheme(r.target)
				if err != nil {
					return s, err
				}
				remap, err := p.colorMap(part)
				if err != nil {
					return s, err
				}
				maps.Copy(s.remap, remap)
				return s, nil
			case strings.HasSuffix(r.kind, relType+"slideLayout") && !strings.Contains(part, "slideMaster"),
				strings.HasSuffix(r.kind, relType+"slideMaster"), strings.HasSuffix(r.kind, relType+"notesMaster"):
				up = r.target
			}
		}
		if up == "" {
			break
		}
		part = up
	}
	return s, nil
}

// colorMap reads the clrMap element of a master.
func (p *presentation) colorMap(part string) (map[string]string, error) {
	if known, ok := p.maps[part]; ok {
		return known, nil
	}
	out := map[string]string{}
	p.maps[part] = out
	err := p.elements(part, func(e xml.StartElement) error {
		if e.Name.Local == "clrMap" {
			for _, a := range e.Attr {
				out[a.Name.Local] = a.Value
			}
		}
		return nil
	})
	return out, err
}

// readTheme reads the slots of a theme, once.
func (p *presentation) readTheme(part string) (theme, error) {
	if t, ok := p.themes[part]; ok {
		return t, nil
	}
	t := theme{}
	slot, inside := "", false
	err := p.tokens(part, func(tok xml.Token) error {
		switch e := tok.(type) {
		case xml.StartElement:
			switch {
			case e.Name.Local == "clrScheme":
				inside = true
			case inside && colorElements[e.Name.Local]:
				if c, ok := startColor(e).rgb(func(string) (color.RGB8, bool) { return color.RGB8{}, false }); ok && slot != "" {
					t[slot] = c
				}
			case inside:
				slot = e.Name.Local
			}
		case xml.EndElement:
			if e.Name.Local == "clrScheme" {
				inside = false
				slot = "done" // extra schemes behind it are not this theme's
			}
		}
		return nil
	})
	p.themes[part] = t
	return t, err
}

// theme counts the colors that a theme offers.
func (p *presentation) theme(part string) error {
	if p.seen[part] {
		return nil
	}
	slots, err := p.readTheme(part)
	if err != nil {
		return err
	}
	n := 1
	for k := range p.seen {
		if strings.Contains(k, "theme/theme") {
			n++
		}
	}
	return p.part(part, fmt.Sprintf("theme %d", n), scope{slots: slots})
}

func (p *presentation) slide(part, place string) error {
	ctx, err := p.context(part)
	if err != nil {
		return err
	}
	return p.part(part, place, ctx)
}

func (p *presentation) about() string {
	s := plural(p.slides, "slide")
	if p.charts > 0 {
		s += ", " + plural(p.charts, "chart")
	}
	return s
}

func (p *presentation) notes() []string {
	var out []string
	for _, kind := range sorted(p.unread) {
		out = append(out, plural(p.unread[kind], kind)+" inside: not read yet.")
	}
	return out
}

// part reads one DrawingML part, then the parts that belong to it.
func (p *presentation) part(part, place string, ctx scope) error {
	if p.seen[part] {
		return nil
	}
	p.seen[part] = true
	d := drawingPart{place: place, frames: map[string]string{}}
	if err := p.tokens(part, d.token); err != nil {
		return fmt.Errorf("%s: %w", place, err)
	}
	if d.remap != nil {
		own := maps.Clone(ctx.remap)
		if own == nil {
			own = map[string]string{}
		}
		maps.Copy(own, d.remap)
		ctx.remap = own
	}
	for _, f := range d.found {
		rgb, ok := f.color.rgb(ctx.color)
		if !ok || f.color.invisible() {
			continue
		}
		p.tally.add(Use{Value: f.color.written(), RGB: rgb, Where: f.where, Linked: f.color.kind == "schemeClr"})
	}
	rels, err := p.relations(part)
	if err != nil {
		return err
	}
	for _, id := range sorted(rels) {
		r := rels[id]
		kind := r.kind[strings.LastIndexByte(r.kind, '/')+1:]
		inner := place
		if frame, ok := d.frames[id]; ok {
			inner = place + ", " + frame
		}
		switch kind {
		case "chart", "chartEx":
			p.charts++
			if _, named := d.frames[id]; !named {
				inner = place + ", chart"
			}
			err = p.part(r.target, inner, ctx)
		case "diagramDrawing":
			err = p.part(r.target, place+", diagram", ctx)
		case "notesSlide":
			var own scope
			if own, err = p.context(r.target); err == nil {
				err = p.part(r.target, place+" notes", own)
			}
		case "image":
			p.miss("picture", r.target)
		case "package", "oleObject":
			p.miss("embedded document", r.target)
		case "vmlDrawing":
			p.miss("legacy drawing", r.target)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// miss notes a part that is not read, once.
func (p *presentation) miss(kind, part string) {
	if p.seen[part] {
		return
	}
	p.seen[part] = true
	if p.unread == nil {
		p.unread = map[string]int{}
	}
	p.unread[kind]++
}

// drawingPart follows the elements of a part and keeps track of where they are in a person's terms.
type drawingPart struct {
	place  string
	found  []foundColor
	remap  map[string]string // the slide's own color map
	frames map[string]string // relationship id to the name of the frame that shows it

	stack   []string // local names of the open elements
	shapes  []shape  // open shapes and groups, with the depth they opened at
	color   *drawingColor
	colorAt int
	rows    int
	cells   int
	series  string
	point   string
	slot    string // of a theme, or the name of a custom color
	seriesN int
	noStyle bool // inside a style reference with index 0, which paints nothing
}

type shape struct {
	name   string
	depth  int
	filled bool // has a fill of its own, so that the one of its style is not seen
	lined  bool
}

type foundColor struct {
	color drawingColor
	where string
}

// shapeElements open a thing that has a name.
var shapeElements = map[string]bool{"sp": true, "pic": true, "cxnSp": true, "graphicFrame": true, "grpSp": true}

func (d *drawingPart) token(t xml.Token) error {
	switch e := t.(type) {
	case xml.StartElement:
		d.start(e)
		d.stack = append(d.stack, e.Name.Local)
	case xml.EndElement:
		d.stack = d.stack[:max(0, len(d.stack)-1)]
		d.end(e.Name.Local)
	case xml.CharData:
		// The cached name of a chart series.
		if d.series != "" && len(d.stack) > 2 && d.stack[len(d.stack)-1] == "v" && d.within("tx") && d.within("ser") && !strings.Contains(d.series, "(") {
			d.series += " (" + shorten(strings.TrimSpace(string(e)), 40) + ")"
		}
	}
	return nil
}

func (d *drawingPart) within(name string) bool {
	for _, s := range d.stack {
		if s == name {
			return true
		}
	}
	return false
}

func (d *drawingPart) start(e xml.StartElement) {
	name := e.Name.Local
	switch {
	case d.color != nil:
		if len(d.stack) == d.colorAt+1 {
			d.color.transform(e)
		}
	case colorElements[name]:
		c := startColor(e)
		d.color, d.colorAt = &c, len(d.stack)
	case shapeElements[name]:
		d.shapes = append(d.shapes, shape{depth: len(d.stack)})
	case name == "cNvPr":
		if n := len(d.shapes); n > 0 && d.shapes[n-1].name == "" {
			d.shapes[n-1].name = shorten(attr(e, "name"), 60)
		}
	case name == "chart" || name == "relIds":
		id := attr(e, "r:id")
		if id == "" {
			id = attr(e, "r:dm")
		}
		if id != "" && len(d.shapes) > 0 {
			d.frames[id] = "chart " + d.shapePath()
		}
	case name == "fillRef" || name == "lnRef":
		d.noStyle = attr(e, "idx") == "0"
	case name == "tbl":
		d.rows = 0
	case name == "tr":
		d.rows++
		d.cells = 0
	case name == "tc":
		d.cells++
	case name == "ser":
		d.seriesN++
		d.series, d.point = fmt.Sprintf("series %d", d.seriesN), ""
	case name == "idx" && len(d.stack) > 0 && d.stack[len(d.stack)-1] == "dPt":
		d.point = attr(e, "val")
	case name == "overrideClrMapping":
		d.remap = map[string]string{}
		for _, a := range e.Attr {
			d.remap[a.Name.Local] = a.Value
		}
	case len(d.stack) > 0 && d.stack[len(d.stack)-1] == "clrScheme":
		d.slot = name
	case name == "custClr":
		d.slot = "custom color " + shorten(attr(e, "name"), 40)
	case len(d.stack) > 0 && (d.stack[len(d.stack)-1] == "spPr" || d.stack[len(d.stack)-1] == "grpSpPr"):
		if n := len(d.shapes); n > 0 {
			switch name {
			case "solidFill", "gradFill", "pattFill", "blipFill", "noFill":
				d.shapes[n-1].filled = true
			}
		}
	case len(d.stack) > 1 && d.stack[len(d.stack)-1] == "ln" && d.stack[len(d.stack)-2] == "spPr":
		if n := len(d.shapes); n > 0 && (name == "solidFill" || name == "gradFill" || name == "noFill") {
			d.shapes[n-1].lined = true
		}
	}
}

func (d *drawingPart) end(name string) {
	switch {
	case d.color != nil:
		if len(d.stack) == d.colorAt {
			d.report()
			d.color = nil
		}
	case shapeElements[name]:
		if n := len(d.shapes); n > 0 && d.shapes[n-1].depth == len(d.stack) {
			d.shapes = d.shapes[:n-1]
		}
	case name == "ser":
		d.series = ""
	case name == "dPt":
		d.point = ""
	case name == "clrScheme" || name == "custClr":
		d.slot = ""
	}
}

func (d *drawingPart) shapePath() string {
	names := make([]string, 0, len(d.shapes))
	for _, s := range d.shapes {
		n := s.name
		if n == "" {
			n = "unnamed"
		}
		names = append(names, n)
	}
	return strings.Join(names, " > ")
}

// report keeps the color that just ended, unless nothing shows it.
func (d *drawingPart) report() {
	c := *d.color
	if c.kind == "schemeClr" && c.value == "phClr" {
		return
	}
	what := d.role()
	if what == "" {
		return
	}
	parts := []string{d.place}
	if d.slot != "" {
		parts = append(parts, slotLabel(d.slot))
	} else {
		if len(d.shapes) > 0 {
			if d.within("tbl") {
				parts = append(parts, "table "+d.shapePath(), fmt.Sprintf("row %d", d.rows), fmt.Sprintf("cell %d", d.cells))
			} else {
				parts = append(parts, "shape "+d.shapePath())
			}
		}
		if d.series != "" {
			parts = append(parts, d.series)
			if d.point != "" {
				parts = append(parts, "point "+d.point)
			}
		}
		parts = append(parts, what)
	}
	d.found = append(d.found, foundColor{c, strings.Join(parts, ", ")})
}

func slotLabel(slot string) string {
	switch {
	case strings.HasPrefix(slot, "accent"):
		return "accent " + slot[6:]
	case slot == "dk1" || slot == "dk2":
		return "dark " + slot[2:]
	case slot == "lt1" || slot == "lt2":
		return "light " + slot[2:]
	case slot == "hlink":
		return "hyperlink"
	case slot == "folHlink":
		return "followed hyperlink"
	}
	return slot
}

// role names what the color paints, from the elements around it, the innermost that says something first. It is empty
// for the color of a style that the shape overrides.
func (d *drawingPart) role() string {
	gradient := ""
	line := false
	for i := len(d.stack) - 1; i >= 0; i-- {
		switch s := d.stack[i]; s {
		case "gs":
			gradient = ", gradient"
		case "fgClr", "bgClr":
			gradient = ", pattern"
		case "ln", "uLn":
			line = true
		case "lnL", "lnR", "lnT", "lnB", "lnTlToBr", "lnBlToTr":
			return "border"
		case "highlight":
			return "highlight"
		case "buClr":
			return "bullet"
		case "outerShdw", "innerShdw", "prstShdw":
			return "shadow"
		case "glow":
			return "glow"
		case "duotone", "clrChange", "clrRepl", "alphaInv", "biLevel":
			return "picture effect"
		case "extrusionClr", "contourClr":
			return "depth"
		case "rPr", "defRPr", "endParaRPr":
			if line {
				return "text outline"
			}
			return "text" + gradient
		case "fontRef":
			return "" // a font reference is overridden by the placeholder's and the run's own colors
		case "fillRef", "effectRef", "lnRef":
			n := len(d.shapes)
			switch {
			case d.noStyle, n > 0 && s == "fillRef" && d.shapes[n-1].filled, n > 0 && s == "lnRef" && d.shapes[n-1].lined, s == "effectRef":
				return ""
			case s == "fillRef":
				return "style fill"
			}
			return "style line"
		case "tcPr":
			return "fill" + gradient
		case "bg", "bgPr", "bgRef":
			return "background" + gradient
		case "majorGridlines", "minorGridlines":
			return "grid line"
		case "catAx", "valAx", "dateAx", "serAx":
			if line {
				return "axis line"
			}
			return "axis" + gradient
		case "marker":
			if line {
				return "marker line"
			}
			return "marker" + gradient
		case "spPr", "grpSpPr":
			if i > 0 && (d.stack[i-1] == "marker" || strings.HasSuffix(d.stack[i-1], "Ax") || strings.HasSuffix(d.stack[i-1], "Gridlines")) {
				continue
			}
			if line {
				return "line" + gradient
			}
			return "fill" + gradient
		}
	}
	if line {
		return "line" + gradient
	}
	return "color"
}

// relation is one row of a part's relationships (ECMA-376 part 2, open packaging conventions).
type relation struct{ kind, target string }

// resolve makes a relationship target absolute within the package.
func resolve(part, target string) string {
	if strings.HasPrefix(target, "/") {
		return strings.TrimPrefix(path.Clean(target), "/")
	}
	return path.Clean(path.Join(path.Dir(part), target))
}

func relationsOf(part string) string {
	return path.Join(path.Dir(part), "_rels", path.Base(part)+".rels")
}
