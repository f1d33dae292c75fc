package gather

import (
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/library"
	"huekeep/core/swatchfile"
)

// mostFound is how many colors of a finished file are proposed, the most used first.
const mostFound = 2000

// mostPlaces is how many places of a color are told.
const mostPlaces = 3

// fromUses takes the exact colors of a finished file, as audits find them: how often each is used and where, and under which name where the
// file has one for it. Those that somebody defined by name come first, in their order; a slot of a theme that nothing uses is among them
// with 0 uses.
func fromUses(s *audit.Scan, defined swatchfile.Library) Found {
	f := Found{Label: labelOf(s.Kind), Name: defined.House, Notes: slices.Clone(defined.Notes), Left: defined.Left}
	f.take(defined)
	if s.Kind == "zip" {
		f.Label = "an archive"
		f.once()
	}
	named := len(f.Colors)
	for _, n := range s.Notes {
		if !slices.Contains(f.Notes, n) {
			f.Notes = append(f.Notes, n)
		}
	}
	at := map[string]int{}
	for i, c := range f.Colors {
		key := shown(c)
		if _, twice := at[key]; !twice {
			at[key] = i
		}
	}
	var pictures inPictures
	for _, u := range s.Uses {
		switch {
		case u.Pixels:
			pictures.add(u)
			continue
		case u.Hidden || u.Why != "":
			continue
		}
		c := Candidate{Color: seen(u.Color), Generic: true}
		key := u.Name()
		i, inks := u.Ink()
		switch solid := u.Rare().Solid; {
		case i.Spot != "" && solid != nil:
			c.Name, c.RGB = i.Spot, *solid
		case i.Spot != "":
			if _, said := at[key]; !said {
				at[key] = -1
				f.Notes = append(f.Notes, fmt.Sprintf("The spot ink %s has no screen value that can be read from the file.", i.Spot))
			}
			continue
		case inks:
			c.Builds = []library.Build{{Press: "coated", Value: i.CMYK, For: u.RGB}}
		}
		n, ok := at[key]
		if !ok {
			n = len(f.Colors)
			at[key] = n
			f.Colors = append(f.Colors, c)
		}
		f.Colors[n].used(u, s.Kind)
	}
	f.order(named)
	f.Notes = append(f.Notes, pictures.onto(&f, at)...)
	for _, u := range s.Unread {
		f.Notes = append(f.Notes, fmt.Sprintf("%s was not read: %s.", u.Path, u.Why))
	}
	return f
}

// inPictures are the areas of the pictures in a finished file, the largest of each first.
type inPictures struct {
	names []string
	flat  map[string][]*audit.Use
}

func (p *inPictures) add(u *audit.Use) {
	area := u.Rare().Area
	if area == nil { // which says why it is not read
		return
	}
	if p.flat == nil {
		p.flat = map[string][]*audit.Use{}
	}
	if _, known := p.flat[area.Picture]; !known {
		p.names = append(p.names, area.Picture)
		p.flat[area.Picture] = nil
	}
	if area.Flat {
		p.flat[area.Picture] = append(p.flat[area.Picture], u)
	}
}

// onto puts what the pictures show flat behind the colors of the file, at being the places of its values there, and says what it leaves.
func (p *inPictures) onto(f *Found, at map[string]int) (notes []string) {
	for k := range at { // what was put in order since
		delete(at, k)
	}
	for i, c := range f.Colors {
		if _, twice := at[shown(c)]; !twice {
			at[shown(c)] = i
		}
	}
	before, smaller, photos, lossy := len(f.Colors), 0, 0, 0
	for _, name := range p.names {
		areas := p.flat[name]
		if len(areas) == 0 {
			photos++
		}
		if n := len(areas) - mostOfPicture; n > 0 {
			smaller += n
			areas = areas[:mostOfPicture]
		}
		for _, u := range areas {
			i, ok := at[u.RGB.Hex()]
			if !ok {
				if len(f.Colors)-before >= mostFound {
					smaller++
					continue
				}
				i = len(f.Colors)
				at[u.RGB.Hex()] = i
				f.Colors = append(f.Colors, Candidate{Color: seen(u.Color), Generic: true, Picture: true})
				if u.Rare().Slack != [3]float64{} {
					lossy++
				}
			}
			f.Colors[i].used(u, "picture")
		}
	}
	if n := len(f.Colors) - before; n > 0 {
		notes = append(notes, fmt.Sprintf("%s only in pictures, behind the others.", plural(n, "color is", "colors are")))
	}
	if lossy > 0 {
		notes = append(notes, fmt.Sprintf("%s as a compression that loses some left it: nearly what somebody chose.",
			plural(lossy, "of them is", "of them are")))
	}
	if smaller > 0 {
		notes = append(notes, fmt.Sprintf("%s of pictures not shown; drop a picture by itself to see all of it.",
			plural(smaller, "smaller area is", "smaller areas are")))
	}
	if photos > 0 {
		notes = append(notes, fmt.Sprintf("%s without a flat color; drop it by itself as a picture.",
			plural(photos, "picture inside is", "pictures inside are")))
	}
	return notes
}

func plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// take adds the colors of a swatch file.
func (f *Found) take(l swatchfile.Library) {
	for i, c := range l.Colors {
		alpha, ok := l.Alpha[i]
		if !ok {
			alpha = 1
		}
		f.Colors = append(f.Colors, Candidate{Color: c, Alpha: alpha})
	}
}

// once leaves each value of several files once, under the first name that says something.
func (f *Found) once() {
	at := map[library.Value]int{}
	var out []Candidate
	for _, c := range f.Colors {
		i, twice := at[c.Value()]
		if !twice {
			at[c.Value()] = len(out)
			out = append(out, c)
			continue
		}
		had := &out[i]
		if len(had.Builds) == 0 {
			had.Builds = c.Builds
		}
		if len(had.Spots) == 0 {
			had.Spots = c.Spots
		}
		name := c.Name
		if Generic(had.Name) && !Generic(name) {
			had.Name, name = name, had.Name
		}
		if name != "" && !strings.EqualFold(name, had.Name) && !slices.Contains(had.Also, name) && !Generic(name) {
			had.Also = append(had.Also, name)
		}
	}
	f.Colors = out
}

// shown tells colors of a file apart as its uses do.
func shown(c Candidate) string {
	if c.Master.Kind == library.OfScreen {
		return c.Master.Text
	}
	return c.RGB.Hex()
}

// used counts a use. What defines a color is none.
func (c *Candidate) used(u *audit.Use, kind string) {
	c.Alpha = max(c.Alpha, u.Alpha)
	if name := calledBy(u, kind); c.Name == "" && name != "" {
		c.Name = name
	}
	if u.Define != "" {
		return
	}
	c.Uses += max(1, u.Count)
	if c.Places++; len(c.Where) < mostPlaces {
		c.Where = append(c.Where, u.Where)
	}
}

// order puts those that have no name of the file behind the others, the most used first, and leaves out what is too much.
func (f *Found) order(named int) {
	slices.SortStableFunc(f.Colors[named:], func(a, b Candidate) int { return b.Uses - a.Uses })
	if n := len(f.Colors); n > mostFound {
		f.Colors = f.Colors[:max(named, mostFound)]
		f.Notes = append(f.Notes, fmt.Sprintf("It has %d colors; the %d that it uses most are shown.", n, len(f.Colors)))
	}
}

// plainWord is a name that is nothing but a property of what has the color.
var plainWord = regexp.MustCompile(`(?i)^(?:.*[- ])?(?:colou?rs?|background|bg|fill|stroke|border|outline|shadow|text|foreground|fg|class(?:name)?|style|value|hex|start|end|stop|from|to|tint|caret|decoration|accent|bgcolor|content|default|true|false)$`)

var identifier = regexp.MustCompile(`^[\p{L}_$][\p{L}\d_$-]*$`)

// calledBy is what a file calls a color where it defines it: the variable of a style sheet, the key of a script. Empty where it has no
// name.
func calledBy(u *audit.Use, kind string) string {
	name := ""
	switch {
	case u.Define != "" && !u.Linked():
		name = strings.TrimLeft(u.Define, "-$@")
		if strings.ContainsAny(name, "#/ ") { // a slot of a theme, a style: whoever reads these has named it
			return ""
		}
		name = name[strings.LastIndexByte(name, '.')+1:]
	case (kind == "script" || kind == "json" || kind == "yaml") && !u.Linked():
		if i := strings.LastIndex(u.Where, ", "); i >= 0 {
			name = u.Where[i+2:]
			name = name[strings.LastIndexByte(name, '.')+1:]
		}
	}
	if name = strings.Trim(name, "$_-"); !identifier.MatchString(name) || plainWord.MatchString(name) {
		return ""
	}
	return spaced(name)
}

var hump = regexp.MustCompile(`([\p{Ll}\d])(\p{Lu})`)

// spaced writes an identifier as words: "deepSound" and "deep-sound" as "deep sound".
func spaced(name string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(hump.ReplaceAllString(name, "$1 $2")),
		func(r rune) bool { return r == '-' || r == '_' || r == ' ' }), " ")
}

func labelOf(kind string) string {
	for _, k := range kinds.Kinds() {
		if k.Name == kind {
			return k.Label
		}
	}
	return "a file"
}

// fromArchive takes what every file of an archive holds: what the finished ones use together, and what swatch files and pictures of
// palettes in it list.
func fromArchive(name string, data []byte) (Found, error) {
	s, err := scan(name, data)
	if err != nil {
		return Found{}, err
	}
	s.Notes = slices.DeleteFunc(s.Notes, func(n string) bool { return strings.Contains(n, "of kinds that are not read") })
	parts, err := s.File.Root.Parts()
	if err != nil {
		return Found{}, err
	}
	listed := swatchfile.Library{Alpha: map[int]float64{}}
	var others []string
	for _, p := range parts {
		inside := strings.TrimPrefix(strings.ReplaceAll(p.Name, "\\", "/"), "/")
		if kinds.Skipped(inside) || strings.HasSuffix(inside, "/") {
			continue
		}
		content, err := p.Bytes()
		if err != nil || len(content) == 0 {
			continue // the scan says of it what there is to say
		}
		l, reader, err := swatchfile.Read(path.Base(inside), content)
		finished := kinds.Recognize(inside, content) == nil
		switch {
		case err == nil && !(finished && reader.Name == "table"):
			for i, c := range l.Colors {
				if alpha, ok := l.Alpha[i]; ok {
					listed.Alpha[len(listed.Colors)] = alpha
				}
				listed.Colors = append(listed.Colors, c)
			}
			for _, n := range l.Notes {
				listed.Notes = append(listed.Notes, inside+": "+n)
			}
		case !finished:
			others = append(others, inside)
		}
		p.Release()
	}
	f := fromUses(s, listed)
	if n := len(others); n > 0 {
		const told = 5
		more := ""
		if n > told {
			more = fmt.Sprintf(" and %d more", n-told)
		}
		f.Notes = append(f.Notes, fmt.Sprintf("Not read, since no kind that is read looks like it: %s%s.",
			strings.Join(others[:min(n, told)], ", "), more))
	}
	return f, nil
}
