package audits

import (
	"bytes"
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/audit/pixels"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/limits"
	"huekeep/core/repaint"
	"huekeep/core/see"
	"huekeep/frames"
	"huekeep/keep"
	"huekeep/office"
	"huekeep/reading"
	"huekeep/store"
)

// Form is how a judged file is shown.
type Form string

// The forms. Pages are pictures, a drawing or a page of the web is shown as it is, lines are asked for with Lines, and of what there is no
// picture the places stand in words.
const (
	Pages   Form = "pages"
	Drawing Form = "drawing"
	InLines Form = "lines"
	InWords Form = "words"
)

// Sight is a page of a judged file with what was found on it, or with one of the found colors as it is and all else in gray.
type Sight struct {
	see.View
	Form Form
	Why  string // there is no picture, or the color is not to be seen in it
	On   []int  // pages on which the color stands, as its places tell
	// what the pages are called that have other names than their numbers: the frames of an animation, and the times of a video
	Names []string
	// Of a drawing or a page of the web, which whoever looks at it shows: as it is, or repainted; with another color in place of each found
	// one, and those.
	Drawn, Before, Coded []byte
	Markup               string // what these are: "svg" or "html"
	Codes                []see.Code
}

// longestDrawing is how large a drawing or a page of the web is shown, in bytes.
const longestDrawing = 4 << 20

// seeing is what a task needs to know.
type seeing struct {
	Name   string
	Found  string   // one color alone, by its name in a plan
	Names  []string // or all that are to be told apart
	Kind   string
	Key    string
	Hex    string
	Codes  []see.Code
	Page   int
	Leaf   int     // of a picture: the frame or the page, from 1; 0 for the first that has the color
	Second float64 // of a video: from when on its frame shows
	Splits []int   // how long each of the files is that are the data

	places []audit.Place // of the color of the key
}

// files are those that data holds one behind the other.
func (s seeing) files(data []byte) (out [3][]byte) {
	for i, n := range s.Splits {
		out[i], data = data[:n:n], data[n:]
	}
	return out
}

// joined are files one behind the other, each with its length in front.
func joined(files ...[]byte) (out []byte) {
	for _, f := range files {
		out = append(binary.BigEndian.AppendUint64(out, uint64(len(f))), f...)
	}
	return out
}

func parted(data []byte) (out [][]byte) {
	for len(data) >= 8 {
		n := 8 + binary.BigEndian.Uint64(data)
		out, data = append(out, data[8:n]), data[n:]
	}
	return out
}

var (
	apartTask = reading.NewTask("apart", func(s seeing, data []byte) ([]byte, error) {
		alone, gray, err := repaint.Apart(s.Name, data, s.Found, kinds.Options{})
		return joined(alone, gray), err
	})
	codedTask = reading.NewTask("coded", func(s seeing, data []byte) ([]byte, error) {
		coded, by, err := repaint.Coded(s.Name, data, s.Names, kinds.Options{})
		if err != nil {
			return nil, err
		}
		var codes []see.Code
		for _, c := range by {
			codes = append(codes, see.Code{RGB: c.RGB, Build: c.Builds[0].Value})
		}
		text, err := json.Marshal(codes)
		return joined(coded, text), err
	})
	seeTask = reading.NewTask("see", func(s seeing, data []byte) ([]byte, error) {
		f := s.files(data)
		var v see.View
		var err error
		switch {
		case s.Kind == "pdf" && s.Key != "":
			v, err = see.Alone(f[0], f[1], s.Key, s.Page)
		case s.Kind == "pdf":
			v, err = see.PDF(f[0], f[1], f[2], s.Codes, s.Page)
		case s.Kind == "video":
			v, err = s.frame(f[0])
		case s.Key != "":
			var rgb color.RGB8
			if rgb, err = color.FromHex(s.Hex); err == nil {
				v, err = see.Marked(f[0], rgb, s.Leaf)
			}
		default:
			v, err = see.Picture(f[0], s.Codes, s.Leaf)
		}
		if err != nil {
			return nil, err
		}
		return json.Marshal(v)
	})
)

// frame shows a frame of a video that shows from a second on, within it: the first that has the color of the key, alone, or the one that
// has the most of the found colors.
func (s seeing) frame(data []byte) (v see.View, err error) {
	rgb, err := color.FromHex(s.Hex)
	if s.Key != "" && err != nil {
		return v, err
	}
	most := -1
	err = frames.From(context.Background(), data, s.Second, 1, func(frame *image.NRGBA) (bool, error) {
		if s.Key != "" {
			alone, err := see.MarkedFrame(frame, rgb)
			if err != nil { // it is not this one
				return false, nil
			}
			v, most = alone, 1
			return true, nil
		}
		one, err := see.Frame(frame, s.Codes)
		found := map[string]bool{}
		for _, b := range one.Boxes {
			found[b.Key] = true
		}
		if len(found) > most {
			v, most = one, len(found)
		}
		return false, err
	})
	if err == nil && most < 0 {
		err = fmt.Errorf("no frame that shows from %s on has it", pixels.Clock(s.Second))
	}
	return v, err
}

// View shows a page of a judged file with what was found on it. With the key of a found color, that color alone is as it is and all else in
// gray; page 0 is the first on which it stands. With a plan it is the page as it would be repainted; an empty one decides nothing.
func (r *Rules) View(ctx context.Context, a keep.Actor, id int64, key string, page int, after *After) (s Sight, err error) {
	if after != nil {
		if err := r.checkSteps(ctx, a, after.Plan.Colors); err != nil {
			return s, err
		}
	}
	row, err := r.DB.With(ctx).Audit(a.House.ID, id)
	if err != nil {
		return s, keep.Missing(err, "audit")
	}
	if after != nil && after.Repaint != 0 {
		if after, err = r.madeOf(ctx, a, row, after.Repaint); err != nil {
			return s, err
		}
	}
	text, err := r.report(ctx, row)
	if err != nil {
		return s, err
	}
	k, err := readReport(text)
	if err != nil {
		return s, err
	}
	its := seeing{Kind: row.Kind, Name: row.FileName, Key: key, Page: max(1, page)}
	if key != "" {
		if err := its.of(key, text, k); err != nil {
			return s, err
		}
	}
	leaves, err := leavesOf(row.Kind, text, k)
	if err != nil {
		return s, err
	}
	if key != "" {
		s.On = leaves.on(its.places)
	}
	if s.Form, s.Why = formOf(row.Kind); s.Form == InLines || s.Form == InWords {
		return s, nil
	}
	data, err := r.Load(ctx, row.BlobKey)
	if err != nil {
		return s, keep.Clash("", "the file %s is no longer kept", row.FileName)
	}
	if drawn(row.Kind) {
		if s.Markup = row.Kind; len(data) > longestDrawing {
			s.Form, s.Why = InLines, fmt.Sprintf("It has %s; at most %s are shown as a picture.", limits.Size(int64(len(data))),
				limits.Size(longestDrawing))
			return s, nil
		}
	}
	if page == 0 && len(s.On) > 0 {
		its.Page = s.On[0]
	}
	its.Leaf, its.Second = leaves.at(its.Page)
	if its.Key != "" && page == 0 {
		its.Leaf = 0
	}
	s.Names, s.Page, s.Pages = leaves.names, 1, 1
	err = r.shown(ctx, a, row, k.Colors, its, data, after, &s)
	if n := len(leaves.list); n > 0 {
		s.Page, s.Pages = min(its.Page, n), n
	}
	var said reading.Sentence
	if errors.As(err, &said) {
		s.Form, s.Why = InWords, "There is no picture of it: "+err.Error()+"."
		return s, nil
	}
	return s, err
}

// of takes up the found color of a key, and its places.
func (s *seeing) of(key string, text []byte, k keptReport) (err error) {
	at := slices.IndexFunc(k.Colors, func(c Found) bool { return c.Key == key })
	if at < 0 {
		return keep.None("color in this audit")
	}
	s.Found, s.Hex = repaint.Name(k.Colors[at].Judged), k.Colors[at].Hex
	s.places, err = readPlaces(text, key)
	return err
}

// formOf is how files of a kind are shown here, and why there is no picture.
func formOf(kind string) (f Form, why string) {
	switch {
	case kind == "pdf", pixelated(kind), documents[kind] && office.Present():
		return Pages, ""
	case drawn(kind):
		return Drawing, ""
	case documents[kind]:
		return InWords, "Pages of " + label(kind) +
			" are shown where LibreOffice is installed on the server: here, where a color stands is told in words."
	case isText(kind):
		return InLines, ""
	}
	return InWords, "There is no picture of " + label(kind) + ": where a color stands is told in words."
}

// After says what a file is shown as: as a plan would repaint it, or as a repaint did.
type After struct {
	Plan    repaint.Plan
	Repaint int64 // its number; 0 for the plan

	data []byte // of the repaint
	all  bool   // it may have turned every color
}

// turns says whether a found color becomes something else.
func (a *After) turns(c audit.Judged) bool { return a != nil && (a.all || a.Plan.Turns(c)) }

// madeOf is what a repaint made of a judged file, with what it turned.
func (r *Rules) madeOf(ctx context.Context, a keep.Actor, row store.Audit, id int64) (*After, error) {
	made, err := r.Repainted(ctx, a, id)
	if err != nil {
		return nil, err
	}
	at := slices.IndexFunc(made.Files, func(f RepaintedFile) bool { return f.Audit == row.ID })
	if at < 0 {
		return nil, keep.None("file in this repaint")
	}
	f := made.Files[at]
	_, packed, err := r.RepaintedFileOf(ctx, a, id)
	if err != nil {
		return nil, err
	}
	defer packed.Close()
	out := &After{Repaint: id, all: f.Places > len(f.Changes)}
	if out.data, err = madeFile(packed, len(made.Files), f.Path); err != nil {
		return nil, err
	}
	for _, c := range f.Changes {
		out.Plan.Colors = append(out.Plan.Colors, repaint.Step{From: c.From, To: c.To})
	}
	return out, nil
}

// pixelated says whether a kind is shown by the pixels that it has, which are found by their colors.
func pixelated(kind string) bool { return kind == "picture" || kind == "video" }

// drawn says whether a browser shows a kind from its text.
func drawn(kind string) bool { return kind == "svg" || kind == "html" }

// documents are the kinds whose pages LibreOffice makes.
var documents = map[string]bool{"pptx": true, "docx": true, "xlsx": true, "odp": true, "odt": true, "ods": true, "odg": true, "fodt": true}

// pages are documents as PDFs; other files are those that they are.
func (r *Rules) pages(ctx context.Context, a keep.Actor, row store.Audit, what string, files [][]byte) ([][]byte, error) {
	if !documents[row.Kind] {
		return files, nil
	}
	key := fmt.Sprintf("%d %s pages %s", a.House.ID, row.BlobKey, what)
	if made, ok := r.forms.get(key); ok {
		return made, nil
	}
	list := make([]office.Document, len(files))
	for i, f := range files {
		list[i] = office.Document{Extension: strings.ToLower(path.Ext(row.FileName)), Data: f}
	}
	made, err := office.PDFs(ctx, list...)
	if err != nil {
		if ctx.Err() != nil {
			return nil, err
		}
		return nil, reading.Sentence(err.Error())
	}
	r.forms.put(key, made)
	return made, nil
}

// mark takes up what is marked: findings, and what a plan turns into something else. It gives their names, and whether there are more.
func (s *seeing) mark(colors []Found, kind string, after *After) (names []string, more bool, err error) {
	for _, c := range colors {
		if c.Verdict.Fine() && !after.turns(c.Judged) {
			continue
		}
		if !pixelated(kind) && len(s.Codes) == repaint.MostCodes {
			return names, true, nil
		}
		rgb, err := color.FromHex(c.Hex)
		if err != nil {
			return nil, false, err
		}
		names = append(names, repaint.Name(c.Judged))
		code := see.Code{Key: c.Key, Was: rgb, RGB: rgb}
		if t, err := color.Parse("cmyk(" + c.CMYK + ")"); c.CMYK != "" && err == nil {
			code.Inks = t.CMYK
		}
		s.Codes = append(s.Codes, code)
	}
	return names, false, nil
}

// shown makes the picture.
func (r *Rules) shown(ctx context.Context, a keep.Actor, row store.Audit, colors []Found, its seeing, data []byte, after *After,
	s *Sight) error {
	files, err := [][]byte{data}, error(nil)
	switch {
	case pixelated(row.Kind):
		if its.Key == "" {
			if _, _, err := its.mark(colors, row.Kind, after); err != nil {
				return err
			}
			if row.Kind == "picture" && after != nil {
				return r.pictures(ctx, a, row, its, data, after, s)
			}
			if after != nil {
				s.Why = "The pixels of a video are not repainted: it stays as it is."
			}
		}
	case its.Key != "":
		if files, err = r.made(ctx, a, row, apartTask, its, data); err != nil {
			return err
		}
		if drawn(row.Kind) {
			if s.Drawn = files[0]; s.Markup == "html" && links.Match(s.Drawn) {
				s.Why = "It is shown without its style sheets, so that no color of those is to be seen."
			}
			return nil
		}
		files, err = r.pages(ctx, a, row, "alone "+its.Found, files)
	default:
		files, err = r.marked(ctx, a, row, colors, &its, data, after, s)
	}
	if err != nil {
		return err
	}
	if drawn(row.Kind) {
		return r.dressed(ctx, row, s)
	}
	if documents[row.Kind] {
		its.Kind = "pdf"
	}
	for _, f := range files {
		its.Splits = append(its.Splits, len(f))
	}
	made, err := seeTask.Do(ctx, r.Apart, a.House.ID, row.FileName, its, slices.Concat(files...))
	if err != nil {
		return err
	}
	if err := json.Unmarshal(made, &s.View); err != nil {
		return err
	}
	if its.Key != "" && its.Kind == "pdf" && len(s.Boxes) == 0 {
		s.Why = "On this page it is not to be seen."
		if slices.Contains(s.On, s.Page) {
			s.Why = "It stands on this page and cannot be shown there: what says it cannot be written, or something else covers it."
		}
	}
	return nil
}

// marked are the files that show where all findings stand: the file, the same with another color in place of each, and as it becomes. Of a
// drawing they are put where whoever looks at it finds them.
func (r *Rules) marked(ctx context.Context, a keep.Actor, row store.Audit, colors []Found, its *seeing, data []byte, after *After,
	s *Sight) (files [][]byte, err error) {
	names, more, err := its.mark(colors, row.Kind, after)
	if err != nil {
		return nil, err
	}
	if more {
		s.Why = fmt.Sprintf("Only the first %d findings are marked; look at each of the others alone.", repaint.MostCodes)
	}
	if len(names) == 0 && after == nil {
		if drawn(row.Kind) {
			s.Drawn = data
			return nil, nil
		}
		return r.pages(ctx, a, row, "as it is", [][]byte{data})
	}
	its.Names = names
	coded := data
	if len(names) > 0 {
		if coded, err = r.coded(ctx, a, row, its, data); err != nil {
			return nil, err
		}
	}
	files = [][]byte{data, coded}
	if !drawn(row.Kind) {
		if files, err = r.pages(ctx, a, row, fmt.Sprintf("coded %q", names), files); err != nil {
			return nil, err
		}
	}
	if after != nil {
		now, key, err := r.after(ctx, a, row, after)
		if err != nil {
			return nil, err
		}
		made, err := r.pages(ctx, a, row, key, [][]byte{now})
		if err != nil {
			return nil, err
		}
		files = append(slices.Clone(files), made[0])
	}
	if drawn(row.Kind) {
		s.Drawn, s.Coded, s.Codes = data, coded, its.Codes
		if after != nil {
			s.Drawn, s.Before = files[2], data
		}
	}
	return files, nil
}

// links are the style sheets that a page of the web names.
var links = regexp.MustCompile(`(?is)<link\b[^>]*>`)

var (
	isSheet  = regexp.MustCompile(`(?i)\brel\s*=\s*["']?[^"'>]*\bstylesheet\b`)
	itsSheet = regexp.MustCompile(`(?i)\bhref\s*=\s*(?:"([^"]*)"|'([^']*)'|([^\s>"']+))`)
)

// dressed puts the style sheets of the same run into a page of the web that names them by their places, so that it looks as it does in its
// project. What stands elsewhere is not fetched.
func (r *Rules) dressed(ctx context.Context, row store.Audit, s *Sight) error {
	if s.Markup != "html" || row.RunID == nil || !links.Match(s.Drawn) {
		return nil
	}
	rows, err := r.DB.With(ctx).RunAudits(*row.RunID)
	if err != nil {
		return err
	}
	sheets, room := map[string][]byte{}, longestDrawing
	sheet := func(at string) ([]byte, error) {
		if text, ok := sheets[at]; ok {
			return text, nil
		}
		i := slices.IndexFunc(rows, func(o store.Audit) bool { return o.Path == at && o.Kind == "css" })
		if i < 0 || rows[i].Size > int64(room) {
			return nil, nil
		}
		text, err := r.Load(ctx, rows[i].BlobKey)
		if errors.Is(err, keep.ErrLost) || errors.Is(err, keep.ErrSpoiled) {
			return nil, nil // it looks without
		}
		sheets[at], room = text, room-len(text)
		return text, err
	}
	for _, page := range []*[]byte{&s.Drawn, &s.Before, &s.Coded} {
		worn := map[string]bool{} // once is enough, however often it is named
		*page = links.ReplaceAllFunc(*page, func(link []byte) []byte {
			named := itsSheet.FindSubmatch(link)
			if named == nil || !isSheet.Match(link) {
				return link
			}
			address, _, _ := strings.Cut(string(slices.Concat(named[1:]...)), "?")
			at := path.Join(path.Dir(row.Path), address)
			text, failed := sheet(at)
			if err = cmp.Or(err, failed); text == nil || worn[at] || bytes.Contains(bytes.ToLower(text), []byte("</style")) {
				return link
			}
			worn[at] = true
			return slices.Concat([]byte("<style>"), text, []byte("</style>"))
		})
	}
	return err
}

// coded is the file with another color in place of each of the names, which are taken up.
func (r *Rules) coded(ctx context.Context, a keep.Actor, row store.Audit, its *seeing, data []byte) ([]byte, error) {
	pair, err := r.made(ctx, a, row, codedTask, *its, data)
	if err != nil {
		return nil, err
	}
	var codes []see.Code
	if err := json.Unmarshal(pair[1], &codes); err != nil {
		return nil, err
	}
	for i, c := range codes {
		its.Codes[i].RGB, its.Codes[i].Build = c.RGB, c.Build
	}
	return pair[0], nil
}

// pictures shows a picture as it becomes, with the marks of what it was.
func (r *Rules) pictures(ctx context.Context, a keep.Actor, row store.Audit, its seeing, data []byte, after *After, s *Sight) error {
	now, _, err := r.after(ctx, a, row, after)
	if err != nil {
		return err
	}
	look := func(its seeing, data []byte) (v see.View, err error) {
		its.Splits = []int{len(data)}
		made, err := seeTask.Do(ctx, r.Apart, a.House.ID, row.FileName, its, data)
		if err == nil {
			err = json.Unmarshal(made, &v)
		}
		return v, err
	}
	was, err := look(its, data)
	if err != nil {
		return err
	}
	its.Codes = nil
	becomes, err := look(its, now)
	if err != nil {
		return err
	}
	s.View = was
	s.PNG = becomes.PNG
	if bytes.Equal(now, data) {
		s.Why = "Nothing of this picture can be repainted: it stays as it is."
	}
	return nil
}

// after is a file as it becomes, and what it is known by. What a plan makes of it is worked out by the library as it is.
func (r *Rules) after(ctx context.Context, a keep.Actor, row store.Audit, after *After) (data []byte, key string, err error) {
	if after.Repaint != 0 {
		return after.data, fmt.Sprintf("%d %s made by %d", a.House.ID, row.BlobKey, after.Repaint), nil
	}
	plan := after.Plan
	rules, err := r.rules(ctx, a, value(row.ProjectID))
	if err != nil {
		return nil, "", err
	}
	text, err := json.Marshal(struct {
		Rules audit.Rules
		Plan  repaint.Plan
	}{rules, plan})
	if err != nil {
		return nil, "", err
	}
	key = fmt.Sprintf("%d %s after %x", a.House.ID, row.BlobKey, sha256.Sum256(text))
	if f, ok := r.forms.get(key); ok {
		return f[0], key, nil
	}
	session := r.Apart.Begin(a.House.ID, rules)
	defer session.End()
	result, err := session.Repaint(ctx, row.FileName, r.kept(row),
		reading.Plan{Colors: plan.Colors, Link: plan.Link, Theme: plan.Theme}, func(string, float64) {})
	if err != nil {
		return nil, "", err
	}
	r.forms.put(key, [][]byte{result.Data})
	return result.Data, key, nil
}

// Lines are the lines of a judged text in which a color was found, that of a key or any, from a line on.
func (r *Rules) Lines(ctx context.Context, a keep.Actor, id int64, found string, from int) (list []see.Line, next int, err error) {
	row, err := r.DB.With(ctx).Audit(a.House.ID, id)
	if err != nil {
		return nil, 0, keep.Missing(err, "audit")
	}
	if !isText(row.Kind) {
		return nil, 0, keep.None("text in the audit")
	}
	report, err := r.whole(ctx, a, row)
	if err != nil {
		return nil, 0, err
	}
	data, err := r.Load(ctx, row.BlobKey)
	if err != nil {
		return nil, 0, keep.Clash("", "the file %s is no longer kept", row.FileName)
	}
	list, next, _ = see.Lines(row.FileName, data, report, found, from)
	return list, next, nil
}

// leaves are the frames or pages of a judged picture or video on which something was found, as places tell. Of other files there are none:
// they are counted when they are shown.
type leaves struct {
	list  []float64 // the numbers of frames or pages, the seconds of a video
	names []string  // see Sight.Names
	video bool
}

var (
	onLeaf = regexp.MustCompile(`^(page|frame) (\d+), `)
	fromOn = regexp.MustCompile(`^\d[\d,]* frames? from (\d+):(\d\d) on`)
)

// leaf is where a place is: a frame or a page, or a second.
func (l leaves) leaf(where string) float64 {
	if m := fromOn.FindStringSubmatch(where); l.video && m != nil {
		minutes, _ := strconv.Atoi(m[1])
		seconds, _ := strconv.Atoi(m[2])
		return float64(60*minutes + seconds)
	}
	if m := onLeaf.FindStringSubmatch(where); m != nil {
		n, _ := strconv.Atoi(m[2])
		return float64(n)
	}
	return 1
}

func leavesOf(kind string, text []byte, k keptReport) (l leaves, err error) {
	if kind != "picture" && kind != "video" {
		return l, nil
	}
	l.video = kind == "video"
	named := l.video
	_, rest, _ := bytes.Cut(text, []byte("\n"))
	for range k.Colors {
		row, after, _ := bytes.Cut(rest, []byte("\n"))
		if rest = after; len(row) == 0 { // of a report from before places stood apart
			break
		}
		var places []audit.Place
		if err := json.Unmarshal(row, &places); err != nil {
			return l, err
		}
		for _, p := range places {
			n := l.leaf(p.Where)
			if at, there := slices.BinarySearch(l.list, n); !there {
				l.list = slices.Insert(l.list, at, n)
			}
			named = named || strings.HasPrefix(p.Where, "frame ")
		}
	}
	if named = named || len(l.list) > 0 && int(l.list[len(l.list)-1]) != len(l.list); named { // or pages are left out
		for _, n := range l.list {
			name := strconv.Itoa(int(n))
			if l.video {
				name = pixels.Clock(n)
			}
			l.names = append(l.names, name)
		}
	}
	return l, nil
}

// on are the numbers of pages, in the order of the list, on which places are.
func (l leaves) on(places []audit.Place) (out []int) {
	if l.list == nil {
		return pagesOf(places)
	}
	if len(l.list) == 1 {
		return nil
	}
	for _, p := range places {
		at, _ := slices.BinarySearch(l.list, l.leaf(p.Where))
		if i, there := slices.BinarySearch(out, at+1); !there {
			out = slices.Insert(out, i, at+1)
		}
	}
	return out
}

// at is the frame or page, or the second, that is page n of the list.
func (l leaves) at(n int) (leaf int, second float64) {
	if len(l.list) == 0 {
		return 1, 0
	}
	is := l.list[min(n, len(l.list))-1]
	return int(is), is
}

var onPage = regexp.MustCompile(`^(?:page|slide)s? (\d+)\b`)

// pagesOf are the pages that places begin with, in order.
func pagesOf(places []audit.Place) (out []int) {
	for _, p := range places {
		if m := onPage.FindStringSubmatch(p.Where); m != nil {
			n, err := strconv.Atoi(m[1])
			if at, there := slices.BinarySearch(out, n); err == nil && !there {
				out = slices.Insert(out, at, n)
			}
		}
	}
	return out
}

func isText(kind string) bool {
	i := slices.IndexFunc(kinds.Kinds(), func(k scanning.Kind) bool { return k.Name == kind })
	return i >= 0 && kinds.Kinds()[i].Text
}

func label(kind string) string {
	for _, k := range kinds.Kinds() {
		if k.Name == kind {
			return k.Label
		}
	}
	return cmp.Or(kind, "this file")
}

// forms are the forms of judged files that were made last: whoever looks at one turns its pages.
type forms struct {
	sync.Mutex
	keys  []string // the newest last
	made  map[string][][]byte
	bytes int
}

// mostForms is how many bytes of them are kept.
const mostForms = 64 << 20

func (f *forms) get(key string) ([][]byte, bool) {
	f.Lock()
	defer f.Unlock()
	out, ok := f.made[key]
	return out, ok
}

func size(files [][]byte) (n int) {
	for _, f := range files {
		n += len(f)
	}
	return n
}

func (f *forms) put(key string, files [][]byte) {
	n := size(files)
	f.Lock()
	defer f.Unlock()
	if _, there := f.made[key]; there || n > mostForms/2 {
		return
	}
	if f.made == nil {
		f.made = map[string][][]byte{}
	}
	f.made[key], f.keys, f.bytes = files, append(f.keys, key), f.bytes+n
	for f.bytes > mostForms {
		first := f.keys[0]
		f.keys = f.keys[1:]
		f.bytes -= size(f.made[first])
		delete(f.made, first)
	}
}

// made are the files that a task makes of a judged one.
func (r *Rules) made(ctx context.Context, a keep.Actor, row store.Audit, task reading.Task[seeing], its seeing, data []byte) ([][]byte,
	error) {
	key := fmt.Sprintf("%d %s %q %q", a.House.ID, row.BlobKey, its.Found, its.Names)
	if files, ok := r.forms.get(key); ok {
		return files, nil
	}
	made, err := task.Do(ctx, r.Apart, a.House.ID, row.FileName, seeing{Name: its.Name, Found: its.Found, Names: its.Names}, data)
	if err != nil {
		return nil, err
	}
	files := parted(made)
	r.forms.put(key, files)
	return files, nil
}
