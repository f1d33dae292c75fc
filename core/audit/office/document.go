package office

import (
	"bytes"
	"fmt"
	"path"
	"strconv"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/form"
	"huekeep/core/markup"
	"huekeep/core/opc"
	"huekeep/core/source"
)

// ScanDocument reads a WordprocessingML document (ECMA-376 part 1, 17): its text with headers, notes and comments, its styles and lists,
// and the drawings in it.
func ScanDocument(s *scanning.Scanner, p *source.Part, _ string) (string, error) {
	o, main, err := openOffice(s, p)
	if err != nil {
		return "", err
	}
	if !strings.HasPrefix(main, "word/") && !strings.Contains(path.Base(main), "document") {
		return "", fmt.Errorf("it is an office document but not a text")
	}
	scope := opc.NewScope(opc.Theme{}, nil)
	if target, ok := o.pack.First(main, "theme"); ok {
		if err := o.theme(target); err != nil {
			return "", err
		}
		t, _ := o.pack.Theme(target)
		var remap map[string]string
		if settings, ok := o.pack.First(main, "settings"); ok {
			if given, err := o.pack.ColorMap(settings, "clrSchemeMapping"); err == nil {
				remap = wordMap(given)
			}
		}
		scope = opc.NewScope(t, remap)
	}
	o.spare = scope
	paragraphs := 0
	read := func(part, place string) error {
		n, err := o.word(part, place, scope)
		paragraphs = max(paragraphs, n)
		return err
	}
	rels, err := o.pack.Relations(main)
	if err != nil {
		return "", err
	}
	count := map[string]int{}
	for _, r := range rels {
		place := map[string]string{"styles": "styles", "numbering": "lists", "header": "header", "footer": "footer",
			"footnotes": "footnotes", "endnotes": "endnotes",
			"comments": "comments", "glossaryDocument": "building blocks", "stylesWithEffects": ""}[r.Kind]
		if place == "" {
			continue
		}
		count[r.Kind]++
		if r.Kind == "header" || r.Kind == "footer" {
			place = fmt.Sprintf("%s %d", place, count[r.Kind])
		}
		if err := read(r.Target, place); err != nil {
			return "", err
		}
	}
	if err := read(main, ""); err != nil {
		return "", err
	}
	if err := o.finish(); err != nil {
		return "", err
	}
	return audit.Plural(paragraphs, "paragraph"), nil
}

// wordMap turns the color map of a document's settings into the one of DrawingML (17.15.1.20).
func wordMap(m map[string]string) map[string]string {
	out := map[string]string{}
	for from, to := range m {
		switch from {
		case "t1", "t2":
			from = "tx" + from[1:]
		case "hyperlink":
			from = "hlink"
		case "followedHyperlink":
			from = "folHlink"
		}
		out[from] = wordSlot(to)
	}
	return out
}

// wordSlot is the slot that a theme color of a document names (17.18.97).
func wordSlot(name string) string {
	switch name {
	case "dark1", "dark2":
		return "dk" + name[4:]
	case "light1", "light2":
		return "lt" + name[5:]
	case "text1", "text2":
		return "tx" + name[4:]
	case "background1", "background2":
		return "bg" + name[10:]
	case "hyperlink":
		return "hlink"
	case "followedHyperlink":
		return "folHlink"
	}
	return name
}

// wordName is wordSlot the other way.
func wordName(slot string) string {
	switch slot {
	case "dk1", "dk2":
		return "dark" + slot[2:]
	case "lt1", "lt2":
		return "light" + slot[2:]
	case "hlink":
		return "hyperlink"
	case "folHlink":
		return "followedHyperlink"
	}
	return slot
}

// words follows the elements of a part of a document.
type words struct {
	*drawing
	scope      *opc.Scope
	forms      *scanning.Block[wordForm]
	tables     []table
	tableCount int
	count      int // of paragraphs
	open       paragraphs
	style      string
	kind       string // of the style
	level      string
	older      *vml // inside of a drawing in the older language
}

type table struct{ number, row, cell int }

func (o *office) word(part, place string, scope opc.Scope) (paragraphs int, err error) {
	if o.seen[part] {
		return 0, nil
	}
	p, err := o.pack.Part(part)
	if err != nil {
		return 0, err
	}
	o.seen[part] = true
	w := &words{forms: scanning.BlockOf[wordForm](o.Blocks),
		drawing: newDrawing(o.Scanner, p, scope, strings.TrimPrefix(place+", document", ", "))}
	w.scope = w.drawing.scope
	if place != "" {
		w.drawing.place = place
	}
	if err := o.finishPart(scanning.Walk(o.Scanner, p, w.event), p, w.drawing.place); err != nil {
		return 0, err
	}
	return w.count, o.around(part, w.drawing.place, scope, w.frames, w.pictures)
}

func (w *words) event(r *markup.Reader, e markup.Event) error {
	if err := w.drawing.event(r, e); err != nil {
		return err
	}
	if w.older == nil && e == markup.Open && string(markup.Local(r.Name)) == "pict" {
		w.older = &vml{scan: w.scan, part: w.drawing.part, place: w.at(), hidden: w.drawing.fallback > 0}
	}
	if w.older != nil {
		if w.older.event(r, e); len(w.older.names) == 0 {
			w.older = nil
		}
	}
	switch e {
	case markup.Open:
		w.start(r)
	case markup.Close:
		w.end(r)
	case markup.Text:
		if n := len(w.drawing.stack); n > 0 && string(w.drawing.stack[n-1]) == "t" {
			w.open.text(r)
		}
	}
	return nil
}

func (w *words) start(r *markup.Reader) {
	local := markup.Local(r.Name)
	switch string(local) {
	case "p":
		w.count++
		w.open.begin(w.count)
		w.drawing.paragraph = w.open.number()
	case "tbl":
		w.tableCount++
		w.tables = append(w.tables, table{number: w.tableCount})
	case "tr":
		if n := len(w.tables); n > 0 {
			w.tables[n-1].row++
			w.tables[n-1].cell = 0
		}
	case "tc":
		if n := len(w.tables); n > 0 {
			w.tables[n-1].cell++
		}
	case "style":
		w.style, w.kind = r.Get("styleId"), r.Get("type")
	case "name":
		if w.drawing.top(1) == "style" {
			w.style = scanning.Shorten(r.Get("val"), 60)
		}
	case "tblStylePr":
		w.level = r.Get("type")
	case "lvl":
		w.level = "level " + next(r.Get("ilvl"))
	case "color", "u", "shd", "top", "left", "bottom", "right", "start", "end", "insideH", "insideV", "between", "bar", "bdr", "tl2br",
		"tr2bl", "background", "highlight":
		if !bytes.HasPrefix(r.Name, []byte("a:")) {
			w.colors(r, local)
		}
	}
}

// at is where one is: the part, and the paragraph in it.
func (w *words) at() string {
	p := w.scan.Texts.Phrase()
	if w.drawing.place != "document" {
		p.Add(w.drawing.place)
	}
	if n := w.open.number(); n > 0 {
		p.Add("paragraph ").Number(n)
	} else if w.drawing.place == "document" {
		p.Add(w.drawing.place)
	}
	return p.Done()
}

func next(n string) string {
	v, _ := strconv.Atoi(n)
	return strconv.Itoa(v + 1)
}

func (w *words) end(r *markup.Reader) {
	switch string(markup.Local(r.Name)) {
	case "p":
		w.open.end(w.scan, r)
		w.drawing.paragraph = w.open.number()
	case "tbl":
		w.tables = w.tables[:max(0, len(w.tables)-1)]
	case "style":
		w.style = ""
	case "tblStylePr", "lvl":
		w.level = ""
	}
}

// highlights are the sixteen colors that text can be marked with (17.18.40).
var highlights = map[string]string{"yellow": "FFFF00", "green": "00FF00", "cyan": "00FFFF", "magenta": "FF00FF", "blue": "0000FF",
	"red": "FF0000", "darkBlue": "000080",
	"darkCyan": "008080", "darkGreen": "008000", "darkMagenta": "800080", "darkRed": "800000", "darkYellow": "808000", "darkGray": "808080",
	"lightGray": "C0C0C0",
	"black":     "000000", "white": "FFFFFF"}

// colorNames are the attributes of a color: of the value, the slot of the theme, its tint and its shade (17.3.2.6, 17.3.5).
type colorNames [4]string

var (
	ofText = colorNames{"val", "themeColor", "themeTint", "themeShade"}
	ofLine = colorNames{"color", "themeColor", "themeTint", "themeShade"}
	ofFill = colorNames{"fill", "themeFill", "themeFillTint", "themeFillShade"}
)

// colors reports the colors of one element.
func (w *words) colors(r *markup.Reader, local []byte) {
	switch string(local) {
	case "highlight":
		if hex, ok := highlights[r.Get("val")]; ok {
			rgb, _ := color.FromHex(hex)
			w.report(&audit.Use{Value: r.Get("val"), Color: audit.Screen(rgb),
				Fixed: "text can be highlighted in sixteen colors only; it takes shading instead"}, "highlight")
		}
	case "color":
		if w.drawing.top(1) == "sdtPr" { // of the frame that a control has while one writes
			return
		}
		w.color(r, &ofText, w.textRole("text"))
	case "u":
		w.color(r, &ofLine, "underline")
	case "shd":
		w.color(r, &ofFill, "shading")
		if pattern := r.Get("val"); pattern != "clear" && pattern != "nil" {
			w.color(r, &ofLine, "shading pattern")
		}
	case "background":
		w.color(r, &ofLine, "page background")
	default:
		if v := r.Get("val"); v != "nil" && v != "none" {
			w.color(r, &ofLine, "border")
		}
	}
}

func (w *words) textRole(role string) string {
	if w.drawing.inside("numbering") {
		return "number"
	}
	return role
}

// color reports a color of an element with its theme attributes.
func (w *words) color(r *markup.Reader, names *colorNames, role string) {
	var found [4]*markup.Attr
	from, to := -1, -1
	for i, n := range names {
		a := r.Find(n)
		if a == nil {
			continue
		}
		found[i] = a
		if from < 0 || a.At < from {
			from = a.At
		}
		to = max(to, a.End+1)
	}
	if found[0] == nil && found[1] == nil {
		return
	}
	value, slot := "", ""
	if found[0] != nil {
		value = r.Value(*found[0])
	}
	if found[1] != nil {
		slot = r.Value(*found[1])
	}
	if value == "auto" && slot == "" {
		return // black or white, whichever can be read
	}
	u := audit.Use{Value: value, At: w.scan.Spans.Run(source.Span{Part: w.drawing.part, Start: from, End: to}),
		Form: w.forms.One(wordForm{names, w.scope})}
	rgb, err := color.FromHex(value)
	if err == nil && slot != "" && slot != "none" { // what programs show that know no themes
		w.report(&audit.Use{Value: value, Color: audit.Screen(rgb), Hidden: true,
			At: w.scan.Spans.Run(source.Span{Part: w.drawing.part, Start: found[0].Start, End: found[0].End}), Form: form.Hex("RGB")}, role)
	}
	if slot != "" && slot != "none" {
		key := w.scope.Slot(wordSlot(slot))
		base, ok := w.scope.Slots[key]
		u.Value = slot
		if ok {
			hsl := base.RGB().HSL()
			if found[2] != nil {
				t := byteShare(r.Value(*found[2]))
				hsl.L = hsl.L*t + 1 - t
				u.Value += fmt.Sprintf(" tint %g%%", round2(100*t))
			}
			if found[3] != nil {
				t := byteShare(r.Value(*found[3]))
				hsl.L *= t
				u.Value += fmt.Sprintf(" shade %g%%", round2(100*t))
			}
			if found[2] != nil || found[3] != nil {
				base = hsl.RGB().RGB8()
			}
			rgb, err = base, nil
		}
		u.Link = w.drawing.key(key)
	}
	switch {
	case err == nil:
		u.Color = audit.Screen(rgb)
	case value == "auto" || value == "":
		return // black or white, whichever can be read
	default:
		u.Why = "it is not a color of the standard"
	}
	w.report(&u, role)
}

func round2(v float64) float64 { return float64(int(v*100+0.5)) / 100 }

func byteShare(hex string) float64 {
	v, err := strconv.ParseUint(hex, 16, 8)
	if err != nil {
		return 1
	}
	return float64(v) / 255
}

func (w *words) report(u *audit.Use, role string) {
	u.Hidden = u.Hidden || w.drawing.fallback > 0
	p := w.scan.Texts.Phrase()
	if w.drawing.place != "document" {
		p.Add(w.drawing.place)
	}
	switch n := w.open.number(); {
	case w.style != "":
		p.Add(strings.TrimSpace(w.kind + " style " + w.style))
		if w.level != "" {
			p.Add(w.level)
		}
	case n > 0:
		if t := len(w.tables); t > 0 {
			p.Add("table ").Number(w.tables[t-1].number).Add("row ").Number(w.tables[t-1].row).Add("cell ").Number(w.tables[t-1].cell)
		}
		u.Where = p.Add("paragraph ").Number(n).Done()
		w.open.wait(u, role)
		return
	case len(w.tables) > 0:
		t := w.tables[len(w.tables)-1]
		p.Add("table ").Number(t.number)
		if w.drawing.inside("tc") {
			p.Add("row ").Number(t.row).Add("cell ").Number(t.cell)
		}
	case w.level != "":
		p.Add(w.level)
	}
	u.Where = p.Add(role).Done()
	w.scan.Add(u)
}

// wordForm writes a color of a document: an attribute with the value, and those that take it from the theme instead.
type wordForm struct {
	names *colorNames
	scope *opc.Scope
}

func (f *wordForm) Write(old string, to form.Paint) (string, error) {
	head := "<x "
	r := markup.NewReader([]byte(head + old + "/>"))
	if e, err := r.Next(); err != nil || e != markup.Open {
		return "", fmt.Errorf("%q are not attributes of a color", old)
	}
	linked := ""
	if to.Link != nil {
		for _, slot := range slotOrder {
			if f.scope.Slots != nil && to.Link(f.scope.Key(slot)) {
				linked = wordName(slot)
				break
			}
		}
	}
	prefix := ""
	if len(r.Attrs) > 0 {
		if i := strings.IndexByte(string(r.Attrs[0].Name), ':'); i >= 0 {
			prefix = string(r.Attrs[0].Name[:i+1])
		}
	}
	hex := to.RGB.Hex()[1:]
	var b strings.Builder
	at, valued := 0, false
	for _, a := range r.Attrs {
		local := string(markup.Local(a.Name))
		from, end := a.At-len(head), a.End+1-len(head)
		switch local {
		case f.names[0]:
			valued = true
			b.WriteString(old[at : a.Start-len(head)])
			was := old[a.Start-len(head) : a.End-len(head)]
			if text, err := form.Hex("RGB").Write(was, to); err == nil {
				hex = text
			}
			b.WriteString(hex + old[end-1:end])
			if linked != "" {
				fmt.Fprintf(&b, ` %s%s="%s"`, prefix, f.names[1], linked)
			}
			at = end
		case f.names[1], f.names[2], f.names[3]:
			b.WriteString(strings.TrimRight(old[at:from], " \t\r\n"))
			at = end
		}
	}
	b.WriteString(old[at:])
	text := strings.TrimLeft(b.String(), " \t\r\n")
	if !valued {
		value := fmt.Sprintf(`%s%s="%s"`, prefix, f.names[0], hex)
		if linked != "" {
			value += fmt.Sprintf(` %s%s="%s"`, prefix, f.names[1], linked)
		}
		text = strings.TrimRight(value+" "+text, " ")
	}
	return text, nil
}
