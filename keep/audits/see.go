package audits

import (
	"cmp"
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"sync"

	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/limits"
	"huekeep/core/repaint"
	"huekeep/core/see"
	"huekeep/keep"
	"huekeep/reading"
	"huekeep/store"
)

// Form is how a judged file is shown.
type Form string

// The forms. Pages are pictures, a drawing is shown as it is, lines are asked for with Lines, and of what there is no picture the places stand in words.
const (
	Pages   Form = "pages"
	Drawing Form = "drawing"
	InLines Form = "lines"
	InWords Form = "words"
)

// Sight is a page of a judged file, with one of the found colors as it is and all else in gray where one is asked for.
type Sight struct {
	see.View
	Form Form
	Why  string // there is no picture, or the color is not to be seen in it
	On   []int  // pages on which the color stands, as its places tell
	SVG  []byte // of a drawing
}

// longestDrawing is how large a drawing is shown, in bytes.
const longestDrawing = 4 << 20

type seeing struct {
	Kind, Found, Hex string
	Name             string
	Page, Split      int // how much of the data is the file with the color; the rest is the one without
}

var (
	apartTask = reading.NewTask("apart", func(s seeing, data []byte) ([]byte, error) {
		alone, gray, err := repaint.Apart(s.Name, data, s.Found, audit.Options{})
		if err != nil {
			return nil, err
		}
		return append(append(binary.BigEndian.AppendUint64(nil, uint64(len(alone))), alone...), gray...), nil
	})
	seeTask = reading.NewTask("see", func(s seeing, data []byte) ([]byte, error) {
		var v see.View
		var err error
		switch {
		case s.Kind == "pdf" && s.Split > 0:
			v, err = see.PDF(data[:s.Split], data[s.Split:], s.Page)
		case s.Kind == "pdf":
			v, err = see.PDF(data, nil, s.Page)
		case s.Hex != "":
			var rgb color.RGB8
			if rgb, err = color.FromHex(s.Hex); err == nil {
				v, err = see.Marked(data, rgb)
			}
		default:
			v, err = see.Picture(data)
		}
		if err != nil {
			return nil, err
		}
		return json.Marshal(v)
	})
)

// View shows a judged file: a page of it, or the found color of a key on that page. Page 0 is the first on which the color stands.
func (r *Rules) View(ctx context.Context, a keep.Actor, id int64, found string, page int) (s Sight, err error) {
	row, err := r.DB.With(ctx).Audit(a.House.ID, id)
	if err != nil {
		return s, keep.Missing(err, "audit")
	}
	its := seeing{Kind: row.Kind, Name: row.FileName, Page: page}
	if found != "" {
		c, places, err := r.foundIn(ctx, row, found)
		if err != nil {
			return s, err
		}
		its.Found, its.Hex = repaint.Name(c), c.Hex
		s.On = pagesOf(places)
	}
	if its.Page == 0 {
		its.Page = 1
		if len(s.On) > 0 {
			its.Page = s.On[0]
		}
	}
	switch row.Kind {
	case "pdf", "picture":
		s.Form = Pages
	case "svg":
		s.Form = Drawing
	default:
		s.Form = InWords
		if text(row.Kind) {
			s.Form = InLines
		} else {
			s.Why = "There is no picture of " + label(row.Kind) + ": where a color stands is told in words."
		}
		return s, nil
	}
	data, err := r.Load(ctx, row.BlobKey)
	if err != nil {
		return s, keep.Clash("", "the file %s is no longer kept", row.FileName)
	}
	gone := func(err error) (Sight, error) {
		var said reading.Sentence
		if !errors.As(err, &said) {
			return s, err
		}
		s.Form, s.Why = InWords, "There is no picture of it: "+err.Error()+"."
		return s, nil
	}
	if row.Kind == "picture" || row.Kind == "pdf" && its.Found == "" {
		return r.seen(ctx, a, row, its, data, s, gone)
	}
	if row.Kind == "svg" && len(data) > longestDrawing {
		s.Form, s.Why = InLines, fmt.Sprintf("It has %s; of drawings, at most %s are shown as a picture.", limits.Size(int64(len(data))), limits.Size(longestDrawing))
		return s, nil
	}
	if its.Found == "" {
		s.SVG, s.Page, s.Pages = data, 1, 1
		return s, nil
	}
	pair, err := r.apart(ctx, a, row, its, data)
	if err != nil {
		return gone(err)
	}
	if row.Kind == "svg" {
		s.SVG, s.Page, s.Pages = pair.alone, 1, 1
		return s, nil
	}
	its.Split = len(pair.alone)
	return r.seen(ctx, a, row, its, slices.Concat(pair.alone, pair.gray), s, gone)
}

func (r *Rules) seen(ctx context.Context, a keep.Actor, row store.Audit, its seeing, data []byte, s Sight, gone func(error) (Sight, error)) (Sight, error) {
	made, err := seeTask.Do(ctx, r.Apart, a.House.ID, row.FileName, its, data)
	if err != nil {
		return gone(err)
	}
	if err := json.Unmarshal(made, &s.View); err != nil {
		return s, err
	}
	if its.Split > 0 && len(s.Boxes) == 0 {
		s.Why = "On this page it is not to be seen."
		if slices.Contains(s.On, s.Page) {
			s.Why = "It stands on this page and cannot be shown there: what says it cannot be written, or something else covers it."
		}
	}
	return s, nil
}

// Lines are the lines of a judged text in which a color was found, that of a key or any, from a line on.
func (r *Rules) Lines(ctx context.Context, a keep.Actor, id int64, found string, from int) (list []see.Line, next int, err error) {
	row, err := r.DB.With(ctx).Audit(a.House.ID, id)
	if err != nil {
		return nil, 0, keep.Missing(err, "audit")
	}
	if !text(row.Kind) {
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

// foundIn is a color of a report by its key, with its places.
func (r *Rules) foundIn(ctx context.Context, row store.Audit, key string) (audit.Judged, []audit.Place, error) {
	text, err := r.report(ctx, row)
	if err != nil {
		return audit.Judged{}, nil, err
	}
	k, err := readReport(text)
	if err != nil {
		return audit.Judged{}, nil, err
	}
	at := slices.IndexFunc(k.Colors, func(c Found) bool { return c.Key == key })
	if at < 0 {
		return audit.Judged{}, nil, keep.None("color in this audit")
	}
	places, err := readPlaces(text, key)
	return k.Colors[at].Judged, places, err
}

var onPage = regexp.MustCompile(`^pages? (\d+)\b`)

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

func text(kind string) bool {
	i := slices.IndexFunc(audit.Kinds(), func(k audit.Kind) bool { return k.Name == kind })
	return i >= 0 && audit.Kinds()[i].Text()
}

func label(kind string) string {
	for _, k := range audit.Kinds() {
		if k.Name == kind {
			return k.Label
		}
	}
	return cmp.Or(kind, "this file")
}

// pair is a file with one color alone and without it.
type pair struct{ alone, gray []byte }

// pairs are those that were made last: whoever looks at a color turns pages.
type pairs struct {
	sync.Mutex
	keys  []string // the newest last
	made  map[string]pair
	bytes int
}

// mostPairs is how many bytes of them are kept.
const mostPairs = 64 << 20

func (p *pairs) get(key string) (pair, bool) {
	p.Lock()
	defer p.Unlock()
	out, ok := p.made[key]
	return out, ok
}

func (p *pairs) put(key string, made pair) {
	size := len(made.alone) + len(made.gray)
	p.Lock()
	defer p.Unlock()
	if _, there := p.made[key]; there || size > mostPairs/4 {
		return
	}
	if p.made == nil {
		p.made = map[string]pair{}
	}
	p.made[key], p.keys, p.bytes = made, append(p.keys, key), p.bytes+size
	for p.bytes > mostPairs {
		first := p.keys[0]
		p.keys = p.keys[1:]
		p.bytes -= len(p.made[first].alone) + len(p.made[first].gray)
		delete(p.made, first)
	}
}

// apart is a file with one of its colors alone, and without it.
func (r *Rules) apart(ctx context.Context, a keep.Actor, row store.Audit, its seeing, data []byte) (pair, error) {
	key := fmt.Sprintf("%d %s %s", a.House.ID, row.BlobKey, its.Found)
	if p, ok := r.pairs.get(key); ok {
		return p, nil
	}
	made, err := apartTask.Do(ctx, r.Apart, a.House.ID, row.FileName, its, data)
	if err != nil {
		return pair{}, err
	}
	n := 8 + binary.BigEndian.Uint64(made)
	p := pair{made[8:n], made[n:]}
	r.pairs.put(key, p)
	return p, nil
}
