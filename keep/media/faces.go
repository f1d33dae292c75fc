package media

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/press"
	"huekeep/keep"
	"huekeep/store"
)

// Faces are the looks of a color in each medium.
type Faces struct {
	Press PressFace
	Ink   InkFace
}

// PressFace is a color as a press shows it.
type PressFace struct {
	Press     string
	Value     color.CMYK
	Look      color.RGB8 // the print, shown on screen
	Origin    library.Origin
	By        string // who approved it, or had it decide
	At        time.Time
	DeltaE    float64 // from the color, relative to the paper
	InGamut   bool
	Direction string
	Moved     float64 // how far the master moved since the approval, ΔE00
}

// InkFace is a color as a spot ink shows it.
type InkFace struct {
	Ink    ink.Ink
	Stock  ink.Stock
	Look   color.RGB8
	Origin library.Origin
	By     string
	At     time.Time
	DeltaE float64
	Moved  float64
}

// Shown is what the ledger of a house shows its colors on.
type Shown struct {
	Press *press.Condition
	Stock ink.Stock
	Book  *ink.Book
}

// Shown finds what the ledger of a house shows; a press that is gone counts as coated.
func (r *Rules) Shown(db *store.DB, h keep.House) (Shown, error) {
	book, err := r.Book(db, h.ID)
	if err != nil {
		return Shown{}, err
	}
	s := Shown{press.Coated(), ink.Stock(h.Stock), book}
	if !slices.Contains(ink.Stocks, s.Stock) {
		s.Stock = ink.Coated
	}
	if h.Press == "" || h.Press == s.Press.Name {
		return s, nil
	}
	condition, err := r.Condition(db, h.ID, h.Press)
	var problem *keep.Error
	if errors.As(err, &problem) && problem.Kind == keep.NotFound {
		return s, nil
	}
	s.Press = condition
	return s, err
}

// computed is what is kept in the database of the faces that follow from a master value, the derived ones; a change of its JSON form
// needs another version below.
type computed struct {
	Whole     [4]float64 `json:"w"`
	Look      string     `json:"l"`
	DeltaE    float64    `json:"d"`
	InGamut   bool       `json:"g"`
	Direction string     `json:"r"`
	Ink       string     `json:"i"` // code
}

// computedVersion changes whenever a build or a match may come out differently.
const computedVersion = 3

type faceKey struct {
	color  color.RGB8
	master library.Master
	shown  Shown
}

func keyOf(c library.Color, s Shown) faceKey { return faceKey{c.RGB, c.Master, s} }

// subject names what answers were computed for: the press, the book, its stock and the way of computing.
func (s Shown) subject() string {
	sum := sha256.New()
	id := s.Press.Identity()
	fmt.Fprintln(sum, computedVersion, id.SHA256, id.InkLimit, s.Book.Name)
	for _, i := range s.Book.Meant().Inks {
		fmt.Fprintln(sum, i.Code, i.Lab(s.Stock))
	}
	return hex.EncodeToString(sum.Sum(nil))
}

// derive computes the derived faces of a master value.
func (s Shown) derive(c library.Color) Faces {
	lab := c.Lab()
	b := s.Press.Build(lab)
	p := PressFace{Press: s.Press.Name, Value: b.Whole, Look: Look(b.Lab), DeltaE: b.DeltaE, InGamut: b.InGamut, Direction: b.Direction,
		Origin: library.Derived}
	return Faces{p, FaceOf(lab, s.Book.Meant().Nearest(lab, s.Stock, 1)[0].Ink, s.Stock)}
}

func (f Faces) keep() computed {
	return computed{f.Press.Value.Array(), f.Press.Look.Hex(), f.Press.DeltaE, f.Press.InGamut, f.Press.Direction, f.Ink.Ink.Code}
}

// read makes faces of what was kept for a master value; false if it is of no use.
func (v computed) read(c library.Color, s Shown) (Faces, bool) {
	look, err := color.FromHex(v.Look)
	found, ok := s.Book.Find(v.Ink)
	if err != nil || !ok {
		return Faces{}, false
	}
	w := v.Whole
	p := PressFace{Press: s.Press.Name, Value: color.CMYK{C: w[0], M: w[1], Y: w[2], K: w[3]}, Look: look, DeltaE: v.DeltaE,
		InGamut: v.InGamut, Direction: v.Direction, Origin: library.Derived}
	return Faces{p, FaceOf(c.Lab(), found, s.Stock)}, true
}

// few is how many colors are computed at once without asking the database for what is known.
const few = 64

// FacesOf computes the faces that a ledger shows of a house's colors, approved values where there are any, else derived ones. What was
// computed before, by whichever instance, is taken from the database; the rest is computed on every core and kept.
func (r *Rules) FacesOf(db *store.DB, house int64, colors []library.Color, shown Shown) ([]Faces, error) {
	out := make([]Faces, len(colors))
	var open []int
	for i, c := range colors {
		var ok bool
		if out[i], ok = r.faces.get(keyOf(c, shown)); !ok {
			open = append(open, i)
		}
	}
	name := ""
	if len(open) > few {
		name = shown.subject()
		known, err := db.Computed(name, house)
		if err != nil {
			return nil, err
		}
		var left []int
		for _, i := range open {
			var kept computed
			text, ok := known[store.ComputedKey(colors[i])]
			if ok = ok && json.Unmarshal(text, &kept) == nil; ok {
				out[i], ok = kept.read(colors[i], shown)
			}
			if !ok {
				left = append(left, i)
				continue
			}
			r.faces.put(keyOf(colors[i], shown), out[i])
		}
		open = left
	}
	var next atomic.Int64
	var workers sync.WaitGroup
	for range min(runtime.GOMAXPROCS(0), 1+len(open)/8) {
		workers.Go(func() {
			for n := next.Add(1) - 1; int(n) < len(open); n = next.Add(1) - 1 {
				i := open[n]
				out[i] = shown.derive(colors[i])
				r.faces.put(keyOf(colors[i], shown), out[i])
			}
		})
	}
	workers.Wait()
	if name != "" && len(open) > 0 {
		rows := make([]store.Computed, 0, len(open))
		for _, i := range open {
			text, err := json.Marshal(out[i].keep())
			if err != nil {
				return nil, err
			}
			rows = append(rows, store.Computed{Subject: name, Hex: store.ComputedKey(colors[i]), Answer: text})
		}
		if err := db.KeepComputed(rows); err != nil {
			return nil, err
		}
	}
	for i, c := range colors {
		if len(c.Builds) > 0 {
			out[i].Press = out[i].Press.signed(c, shown.Press)
		}
		if len(c.Spots) > 0 {
			out[i].Ink = inkFaceOf(c, shown.Stock, shown.Book, out[i].Ink.Ink)
		}
	}
	return out, nil
}

// OnPress is a color on a press condition: the approved build, else the derived one.
func OnPress(c library.Color, condition *press.Condition, derived press.Build) PressFace {
	f := PressFace{Press: condition.Name, Value: derived.Whole, Look: Look(derived.Lab), DeltaE: derived.DeltaE, InGamut: derived.InGamut,
		Direction: derived.Direction, Origin: library.Derived}
	return f.signed(c, condition)
}

// signed is the face with the build that is no derived one, if there is one: it decides, a person approved it, or it was given.
func (f PressFace) signed(c library.Color, condition *press.Condition) PressFace {
	b, ok := c.Build(condition.Name)
	if !ok {
		return f
	}
	lab := c.Lab()
	printed := lab // what decides is what the press prints, unless it has another profile now
	if p, decides := c.Master.Printed(); !decides || p.Press != condition.Name ||
		!strings.HasPrefix(condition.Identity().SHA256, p.Profile) {
		printed = condition.Lab(b.Value)
	}
	f.Value, f.Look, f.DeltaE, f.Direction = b.Value, Look(printed), color.DeltaE00(lab, printed), press.Direction(lab, printed)
	if b.Origin == library.Deciding { // it is what the press prints
		f.InGamut = true
	}
	f.Origin, f.By, f.At, f.Moved = orSigned(b.Origin), b.By.Name, b.At, c.Moved(b.For, b.Meant)
	return f
}

func orSigned(o library.Origin) library.Origin {
	if o == "" {
		return library.Signed
	}
	return o
}

// OnStock is a color's ink on a stock: the approved one, else the nearest.
func OnStock(c library.Color, stock ink.Stock, book *ink.Book) InkFace {
	return inkFaceOf(c, stock, book, book.Meant().Nearest(c.Lab(), stock, 1)[0].Ink)
}

func inkFaceOf(c library.Color, stock ink.Stock, book *ink.Book, nearest ink.Ink) InkFace {
	lab := c.Lab()
	if s, ok := c.Spot(string(stock)); ok {
		if found, ok := book.Find(s.Code); ok {
			f := FaceOf(lab, found, stock)
			f.Origin, f.By, f.At, f.Moved = orSigned(s.Origin), s.By.Name, s.At, c.Moved(s.For, s.Meant)
			return f
		}
	}
	return FaceOf(lab, nearest, stock)
}

// FaceOf is an ink on a stock beside the color that it is to stand for.
func FaceOf(target color.Lab, i ink.Ink, s ink.Stock) InkFace {
	lab := i.Lab(s)
	return InkFace{Ink: i, Stock: s, Look: Look(lab), DeltaE: color.DeltaE00(target, lab), Origin: library.Derived}
}

// Look shows a print, an ink or a reading on screen, mapped into sRGB where it lies outside.
func Look(lab color.Lab) color.RGB8 { return lab.RGB().RGB8() }

// reachKey is a press, and a color where one is asked for.
type reachKey struct {
	profile string
	limit   float64
	lab     color.Lab
}

// OutlineOf is how far a press reaches; it is drawn once.
func (r *Rules) OutlineOf(p Press) color.Outline {
	key := reachKey{p.Identity().SHA256, p.InkLimit, color.Lab{}}
	o, ok := r.outlines.get(key)
	if !ok {
		o = p.Outline()
		r.outlines.put(key, o)
	}
	return o
}

// Reaches says whether a press reaches a color; it is looked up once.
func (r *Rules) Reaches(p Press, lab color.Lab) bool {
	key := reachKey{p.Identity().SHA256, p.InkLimit, lab}
	is, ok := r.reach.get(key)
	if !ok {
		is = p.Condition.Reaches(lab)
		r.reach.put(key, is)
	}
	return is
}
