package server

import (
	_ "embed"
	"fmt"
	"html/template"
	"strings"

	"github.com/gofiber/fiber/v3"

	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/gradient"
	"huekeep/core/library"
	"huekeep/core/swatchfile"
	"huekeep/keep/send"
)

// The page of a library for anybody: its values, rules, pairs, gradients and what changed lately, to copy from and to print.

//go:embed brand.html
var brandHTML string

var brandTemplate = template.Must(template.New("brand").Parse(brandHTML))

type brandPage struct {
	House, Sentence, Token, Until string
	At, Since, Count              string
	Mark                          template.URL
	Groups                        []brandGroup
	May                           []brandPair
	Gradients                     []brandGradient
	Lately                        []brandChange
	Files                         []pickedFile
}

type brandGroup struct {
	ID, Name string
	Colors   []brandColor
}

type brandColor struct {
	pickedColor
	Rule   string
	Values []brandValue
	Family []brandValue
}

type brandValue struct {
	What, Value string
	Style       template.CSS
}

type brandPair struct {
	Color, Ground string
	Style         template.CSS
	Ratio, Least  string
	No, Breaks    bool
	Halves        bool // they are shown side by side, since nobody could read the one on the other
	One, Other    template.CSS
}

type brandGradient struct {
	Name, Stops, CSS string
	Style            template.CSS
}

type brandChange struct {
	What  string
	Style template.CSS
}

func area(rgb color.RGB8) template.CSS { return template.CSS("background:" + rgb.Hex()) } //nolint:gosec // a value of our own making

// brandOf puts together what the page shows of a library.
func brandOf(e library.Edition, changes []library.Difference) brandPage {
	p := brandPage{House: e.House, Count: "No colors"}
	if n := len(e.Colors); n == 1 {
		p.Count = "1 color"
	} else if n > 1 {
		p.Count = fmt.Sprintf("%d colors", n)
	}
	picked := pickedColors(e.Colors)
	at := map[string]int{}
	for i, c := range e.Colors {
		g, known := at[c.Group]
		if !known {
			g = len(p.Groups)
			at[c.Group] = g
			p.Groups = append(p.Groups, brandGroup{ID: fmt.Sprintf("group-%d", g+1), Name: c.Group})
		}
		p.Groups[g].Colors = append(p.Groups[g].Colors, brandOne(c, picked[i]))
	}
	find := func(r library.Ref) (library.Color, bool) {
		for _, c := range e.Colors {
			if r.Is(c) {
				return c, true
			}
		}
		return library.Color{}, false
	}
	for _, rule := range e.Pairs {
		of, ok := find(rule.Color)
		ground, also := find(rule.Ground)
		if !ok || !also {
			continue
		}
		ratio, keeps := rule.Keeps(of.RGB, ground.RGB)
		to := brandPair{Color: of.Name, Ground: ground.Name, Ratio: fmt.Sprintf("%.1f", ratio), No: !rule.May, Breaks: !keeps,
			Least: fmt.Sprintf("%.1f", rule.Ratio),
			Style: template.CSS("background:" + ground.RGB.Hex() + ";color:" + of.RGB.Hex())} //nolint:gosec // values of our own making
		if to.No || ratio < contrast.LargeAA {
			to.Halves, to.One, to.Other = true, area(of.RGB), area(ground.RGB)
		}
		p.May = append(p.May, to)
	}
	for _, g := range e.Gradients {
		var stops []gradient.Stop
		var names []string
		for _, s := range g.Stops {
			if c, ok := find(s.Color); ok {
				stops = append(stops, gradient.Stop{Color: c.RGB, Place: s.Place})
				names = append(names, c.Name)
			}
		}
		css := gradient.CSS(stops, g.Space, g.Angle)
		p.Gradients = append(p.Gradients, brandGradient{g.Name, strings.Join(names, " to "), css,
			template.CSS("background:" + css)}) //nolint:gosec // a value of our own making
	}
	for _, d := range changes {
		for _, what := range d.What {
			c := brandChange{What: what}
			if d.After != nil {
				c.Style = area(*d.After)
			}
			p.Lately = append(p.Lately, c)
		}
	}
	return p
}

func brandOne(c library.Color, picked pickedColor) brandColor {
	out := brandColor{pickedColor: picked, Rule: c.Rule, Values: []brandValue{{What: "RGB", Value: picked.RGB}}}
	if wide := c.CSS(); wide != "" {
		out.Values = append(out.Values, brandValue{What: "beyond sRGB", Value: wide})
	}
	approved := c.Approved()
	for _, b := range approved.Builds {
		out.Values = append(out.Values, brandValue{What: "CMYK, " + b.Press, Value: b.Value.String()})
	}
	for _, s := range approved.Spots {
		out.Values = append(out.Values, brandValue{What: "ink, " + s.Stock, Value: s.Code})
	}
	for _, r := range c.Packed() {
		out.Family = append(out.Family, brandValue{What: r.Name(c.Name), Value: r.Value.Hex(), Style: area(r.Value)})
	}
	return out
}

// brandShow answers with the page of a library for anybody.
func (s *server) brandShow(c fiber.Ctx, o send.Offer) error {
	e, changes, since, err := s.Send.Library(c.Context(), o)
	if err != nil {
		return pickupProblem(c, err)
	}
	p := brandOf(e, changes)
	p.Sentence, p.Token, p.Mark, p.Until, p.Since = o.Sentence, c.Params("token"), s.houseMark(c, o.Actor), untilWords(o),
		since.Format("January 2, 2006")
	if !e.FixedAt.IsZero() {
		p.At = e.FixedAt.Format("January 2, 2006")
	}
	var packings []swatchfile.Packing
	if len(e.Colors) > 0 {
		packings = packingsOf(o)
	}
	p.Files = pickedFiles(o.Sets[0], e, packings, nil)
	return pageOf(c, fiber.StatusOK, brandTemplate, p)
}

// untilWords is until when a link is open, empty for one for good.
func untilWords(o send.Offer) string {
	if until := o.Actor.Link.Until; until != nil {
		return until.Format("January 2, 2006")
	}
	return ""
}

// useNames are the kinds of applications in the order in which a page for anybody lists files.
var useNames = []struct {
	use  swatchfile.Use
	name string
}{{swatchfile.Office, "Office suites"}, {swatchfile.Drawing, "Drawing programs and tables"}, {swatchfile.Web, "Web"}, {swatchfile.Video,
	"Video"}, {swatchfile.Print, "Print"},
	{swatchfile.Client, "To look at"}, {swatchfile.Any, "All in one, and to key in"}}

// pickedKind is the files of a kind of application.
type pickedKind struct {
	Name  string
	Files []pickedFile
}

// byUse puts files under the kinds of applications that they are for.
func byUse(files []pickedFile) (out []pickedKind) {
	for _, u := range useNames {
		k := pickedKind{Name: u.name}
		for _, f := range files {
			if p, err := swatchfile.FindPacking(f.Packing); err == nil && p.For == u.use {
				k.Files = append(k.Files, f)
			}
		}
		if len(k.Files) > 0 {
			out = append(out, k)
		}
	}
	return out
}
