// Package office reads presentations, documents and workbooks, those of ECMA-376 and of OpenDocument.
package office

import (
	"bytes"
	"fmt"
	"path"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/markup"
	"huekeep/core/opc"
	"huekeep/core/source"
)

// office is a document of ECMA-376 while it is read.
type office struct {
	*scanning.Scanner
	pack    *opc.Package
	seen    map[string]bool // parts read, so that a shared chart is counted once
	themes  int
	charts  int
	spare   opc.Scope // what parts without a master resolve through
	pending []embedded
	twin    map[audit.Color]bool // colors that the drawing of a diagram shows, while what it was drawn from is read
}

// embedded is a part in another format that a part shows.
type embedded struct{ part, place, kind string }

func openOffice(s *scanning.Scanner, p *source.Part) (*office, string, error) {
	pack, err := opc.Open(p)
	if err != nil {
		return nil, "", err
	}
	main, err := pack.Main()
	if err != nil {
		return nil, "", err
	}
	if _, err := pack.Part(main); err != nil {
		return nil, "", err
	}
	o := &office{Scanner: s, pack: pack, seen: map[string]bool{}}
	if _, signed := pack.First("", "origin"); signed {
		s.Note("The document is signed; repainting it would end the signature.")
	}
	return o, main, nil
}

// ScanPresentation reads a presentation: its themes, masters and layouts, then every slide in order with its charts, diagrams, notes and
// comments, then what is embedded.
func ScanPresentation(s *scanning.Scanner, p *source.Part, _ string) (string, error) {
	o, main, err := openOffice(s, p)
	if err != nil {
		return "", err
	}
	if !strings.HasPrefix(main, "ppt/") && !strings.Contains(path.Base(main), "presentation") {
		return "", fmt.Errorf("it is an office document but not a presentation")
	}
	var slides, masters, others []string
	part, _ := o.pack.Part(main)
	err = opc.Each(part, func(r *markup.Reader) error {
		local := string(markup.Local(r.Name))
		switch local {
		case "sldId", "sldMasterId", "notesMasterId", "handoutMasterId":
		default:
			return nil
		}
		id := ""
		for _, a := range r.Attrs { // the number of the slide is an id as well
			if strings.HasSuffix(string(a.Name), ":id") {
				id = r.Value(a)
			}
		}
		rel, known := o.pack.ByID(main, id)
		switch {
		case local == "sldId" && !known:
			return fmt.Errorf("its slide list names a slide that is not there")
		case !known:
		case local == "sldId":
			slides = append(slides, rel.Target)
		case local == "sldMasterId":
			masters = append(masters, rel.Target)
		default:
			others = append(others, rel.Target)
		}
		return nil
	})
	if err != nil {
		return "", err
	}
	for i, m := range masters {
		if err := o.master(m, fmt.Sprintf("master %d", i+1)); err != nil {
			return "", err
		}
	}
	for _, m := range others {
		name := "notes master"
		if strings.Contains(m, "handout") {
			name = "handout master"
		}
		if err := o.master(m, name); err != nil {
			return "", err
		}
	}
	for i, slide := range slides {
		if err := s.Watch.At(fmt.Sprintf("slide %d of %d", i+1, len(slides)), float64(i)/float64(len(slides))); err != nil {
			return "", err
		}
		if err := o.drawn(slide, fmt.Sprintf("slide %d", i+1), o.context(slide)); err != nil {
			return "", err
		}
	}
	scope := o.context(main)
	for _, kind := range []string{"tableStyles", "presProps"} {
		if target, ok := o.pack.First(main, kind); ok {
			place := "table styles"
			if kind == "presProps" {
				place = "settings"
			}
			if err := o.drawn(target, place, scope); err != nil {
				return "", err
			}
		}
	}
	if err := o.finish(); err != nil {
		return "", err
	}
	about := audit.Plural(len(slides), "slide")
	if o.charts > 0 {
		about += ", " + audit.Plural(o.charts, "chart")
	}
	return about, nil
}

// master reads a master with its theme and its layouts.
func (o *office) master(part, place string) error {
	rels, err := o.pack.Relations(part)
	if err != nil {
		return err
	}
	for _, r := range rels {
		if r.Kind == "theme" {
			if err := o.theme(r.Target); err != nil {
				return err
			}
		}
	}
	if err := o.drawn(part, place, o.context(part)); err != nil {
		return err
	}
	layout := 0
	for _, r := range rels {
		if r.Kind == "slideLayout" && !o.seen[r.Target] {
			layout++
			if err := o.drawn(r.Target, fmt.Sprintf("%s, layout %d", place, layout), o.context(r.Target)); err != nil {
				return err
			}
		}
	}
	return nil
}

// context finds the theme and the color map of a part by going up: slide, layout, master, theme.
func (o *office) context(part string) opc.Scope {
	for range 4 {
		rels, err := o.pack.Relations(part)
		if err != nil {
			break
		}
		up := ""
		for _, r := range rels {
			switch {
			case r.Kind == "theme":
				t, err := o.pack.Theme(r.Target)
				if err != nil {
					o.Unread(r.Target, err)
					return opc.NewScope(t, nil)
				}
				remap, _ := o.pack.ColorMap(part, "clrMap")
				return opc.NewScope(t, remap)
			case r.Kind == "slideLayout" && !strings.Contains(part, "slideMaster"), r.Kind == "slideMaster", r.Kind == "notesMaster":
				up = r.Target
			}
		}
		if up == "" {
			break
		}
		part = up
	}
	return opc.NewScope(opc.Theme{}, nil)
}

// theme counts the colors that a theme offers.
func (o *office) theme(part string) error {
	if o.seen[part] {
		return nil
	}
	t, err := o.pack.Theme(part)
	if err != nil {
		return err
	}
	o.themes++
	o.seen[part] = true
	p, _ := o.pack.Part(part)
	d := newDrawing(o.Scanner, p, opc.NewScope(t, nil), fmt.Sprintf("theme %d", o.themes))
	d.theme = part
	return o.finishPart(scanning.Walk(o.Scanner, p, d.event), p, d.place)
}

func (o *office) finishPart(err error, p *source.Part, place string) error {
	p.Release()
	if err != nil {
		return fmt.Errorf("%s: %w", place, err)
	}
	return nil
}

// drawn reads one part with DrawingML, then the parts that belong to it.
func (o *office) drawn(part, place string, scope opc.Scope) error {
	if o.seen[part] {
		return nil
	}
	p, err := o.pack.Part(part)
	if err != nil {
		return err
	}
	o.seen[part] = true
	if data, err := p.Bytes(); err == nil && bytes.Contains(data, []byte("overrideClrMapping")) { // it stands behind what it holds for
		if own, err := o.pack.ColorMap(part, "overrideClrMapping"); err == nil && len(own) > 0 {
			scope = opc.NewScope(scope.Theme, scope.Remap)
			for from, to := range own {
				scope.Remap[from] = to
			}
		}
	}
	d := newDrawing(o.Scanner, p, scope, place)
	d.twin = o.twin
	if err := o.finishPart(scanning.Walk(o.Scanner, p, d.event), p, place); err != nil {
		return err
	}
	return o.around(part, place, scope, d.frames, d.pictures)
}

// around reads the parts that belong to a part.
func (o *office) around(part, place string, scope opc.Scope, frames, pictures map[string]string) error {
	rels, err := o.pack.Relations(part)
	if err != nil {
		return err
	}
	shown := map[audit.Color]bool{} // by the drawings of diagrams
	var made []string               // what those were drawn from
	for _, r := range rels {
		inner := place
		if frame, ok := frames[r.ID]; ok {
			inner = place + ", " + frame
		}
		switch r.Kind {
		case "chart", "chartEx":
			o.charts++
			if _, named := frames[r.ID]; !named {
				inner = place + ", chart"
			}
			err = o.drawn(r.Target, inner, o.chartScope(r.Target, scope))
		case "diagramDrawing":
			before := o.Tally.Count
			err = o.drawn(r.Target, place+", diagram", scope)
			for i := before; i < o.Tally.Count; i++ {
				shown[o.Tally.Use(i).Color] = true
			}
		case "diagramData", "diagramColors":
			made = append(made, r.Target)
		case "notesSlide":
			err = o.drawn(r.Target, place+" notes", o.context(r.Target))
		case "comments":
			err = o.drawn(r.Target, place+" comments", scope)
		case "drawing", "chartUserShapes":
			err = o.drawn(r.Target, place, scope)
		case "image":
			name := path.Base(r.Target)
			if shown := pictures[r.ID]; shown != "" {
				inner = place + ", shape " + shown
			}
			o.pending = append(o.pending, embedded{r.Target, inner + ", picture " + name, "picture"})
		case "package":
			o.pending = append(o.pending, embedded{r.Target, inner + ", " + path.Base(r.Target), "document"})
		case "oleObject":
			o.pending = append(o.pending, embedded{r.Target, inner + ", " + path.Base(r.Target), "object"})
		case "vmlDrawing":
			err = o.vml(r.Target, place)
		}
		if err != nil {
			return err
		}
	}
	if len(shown) == 0 {
		shown = nil
	}
	// an application draws the diagram anew from them: what is shown already is repainted with it, the rest counts
	for _, target := range made {
		o.twin = shown
		err := o.drawn(target, place+", diagram", scope)
		o.twin = nil
		if err != nil {
			return err
		}
	}
	return nil
}

// chartScope is that of a chart: its own color map and theme, if it has them.
func (o *office) chartScope(part string, scope opc.Scope) opc.Scope {
	if target, ok := o.pack.First(part, "themeOverride"); ok {
		if t, err := o.pack.Theme(target); err == nil {
			scope = opc.NewScope(t, scope.Remap)
		}
	}
	if remap, err := o.pack.ColorMap(part, "clrMapOvr"); err == nil && len(remap) > 0 {
		scope = opc.NewScope(scope.Theme, remap)
	}
	return scope
}

// finish reads what is embedded: pictures, documents, objects. Each part is read once, where it is met first.
func (o *office) finish() error {
	for i := 0; i < len(o.pending); i++ {
		e := o.pending[i]
		if o.seen[e.part] {
			continue
		}
		o.seen[e.part] = true
		if err := o.Watch.At(e.place, -1); err != nil {
			return err
		}
		p, err := o.pack.Part(e.part)
		if err != nil {
			o.Unread(e.place, err)
			continue
		}
		in := *o.Scanner
		in.Prefix = o.Prefix
		if err := in.Embedded(p, e.place); err != nil {
			return err
		}
	}
	return nil
}

// vml reads a drawing in the language that DrawingML followed (ECMA-376 part 4, 14): colors are attributes in the notations of HTML.
func (o *office) vml(part, place string) error {
	if o.seen[part] {
		return nil
	}
	p, err := o.pack.Part(part)
	if err != nil {
		o.Unread(part, err)
		return nil
	}
	o.seen[part] = true
	v := vml{scan: o.Scanner, part: p, place: place}
	if err := scanning.Walk(o.Scanner, p, func(r *markup.Reader, e markup.Event) error { v.event(r, e); return nil }); err != nil {
		o.Unread(part, err) // it is often not well-formed, and its drawing is in DrawingML too
	}
	p.Release()
	return o.around(part, place, o.spare, nil, nil)
}
