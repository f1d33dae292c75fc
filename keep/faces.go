package keep

import (
	"runtime"
	"sync"
	"sync/atomic"
	"time"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/press"
	"huekeep/store"
)

// Faces are the looks of a color in each medium.
type Faces struct {
	Press PressFace
	Ink   InkFace
}

// PressFace is a color as the coated press shows it.
type PressFace struct {
	Press     string
	Value     color.CMYK
	Look      color.RGB8 // the print, shown on screen
	Approved  bool
	By        string
	At        time.Time
	DeltaE    float64 // from the screen value
	InGamut   bool
	Direction string
	Moved     float64 // how far the master moved since the approval, ΔE00
}

// InkFace is a color as a spot ink shows it.
type InkFace struct {
	Ink      ink.Ink
	Stock    ink.Stock
	Look     color.RGB8
	Approved bool
	By       string
	At       time.Time
	DeltaE   float64
	Moved    float64
}

// shownPress and shownStock are what the ledger shows.
const (
	shownPress = "coated"
	shownStock = ink.Coated
)

// nearestInks is how many inks the sheet offers.
const nearestInks = 5

type computed struct {
	build press.Build
	inks  []ink.Match
}

// faceCache remembers what was computed for a master value; it follows from the value alone.
type faceCache struct {
	sync.RWMutex
	of map[faceKey]computed
}

type faceKey struct {
	color color.RGB8
	book  *ink.Book
}

const cachedFaces = 50_000 // about 50 MB

func newFaceCache() *faceCache { return &faceCache{of: map[faceKey]computed{}} }

func (f *faceCache) get(c color.RGB8, book *ink.Book) computed {
	key := faceKey{c, book}
	f.RLock()
	v, ok := f.of[key]
	f.RUnlock()
	if ok {
		return v
	}
	lab := c.Lab()
	v = computed{press.Coated().Build(lab), book.Nearest(lab, shownStock, nearestInks)}
	f.Lock()
	if len(f.of) >= cachedFaces {
		clear(f.of)
	}
	f.of[key] = v
	f.Unlock()
	return v
}

// warm computes what is not known yet of many colors, on every core; a large ledger is first opened after a start.
func (f *faceCache) warm(colors []store.Color, book *ink.Book) {
	if len(colors) < 64 {
		return
	}
	var next atomic.Int64
	var workers sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		workers.Go(func() {
			for i := next.Add(1) - 1; int(i) < len(colors); i = next.Add(1) - 1 {
				f.get(rgbOf(colors[i].Hex), book)
			}
		})
	}
	workers.Wait()
}

// facesOf computes the faces of a stored color: approved values where there are any, else derived ones.
func (k *Keeper) facesOf(c store.Color, book *ink.Book) Faces {
	v := k.faces.get(rgbOf(c.Hex), book)
	return Faces{Press: pressFace(c, press.Coated(), v.build), Ink: inkFaceOf(c, shownStock, book, v.inks)}
}

// pressFaceOf is a color on any press condition; shown is its face on the one that the ledger shows.
func pressFaceOf(c store.Color, shown PressFace, condition *press.Condition) PressFace {
	if condition.Name == shownPress {
		return shown
	}
	return pressFace(c, condition, condition.Build(rgbOf(c.Hex).Lab()))
}

// pressFace is a color on a press condition: the approved build, else the derived one.
func pressFace(c store.Color, condition *press.Condition, derived press.Build) PressFace {
	f := PressFace{Press: condition.Name, Value: derived.Whole, Look: look(derived.Lab), DeltaE: derived.DeltaE, InGamut: derived.InGamut, Direction: derived.Direction}
	for _, b := range c.Builds {
		if b.Press == condition.Name {
			lab := rgbOf(c.Hex).Lab()
			printed := condition.Lab(color.CMYK{C: b.C, M: b.M, Y: b.Y, K: b.K})
			f.Value, f.Look, f.DeltaE, f.Direction = color.CMYK{C: b.C, M: b.M, Y: b.Y, K: b.K}, look(printed), color.DeltaE00(lab, printed), press.Direction(lab, printed)
			f.Approved, f.By, f.At, f.Moved = true, b.ByName, b.ApprovedAt, moved(c.Hex, b.ForHex)
		}
	}
	return f
}

// inkFaceOf is a color's ink on a stock: the approved one, else the nearest.
func inkFaceOf(c store.Color, stock ink.Stock, book *ink.Book, nearest []ink.Match) InkFace {
	lab := rgbOf(c.Hex).Lab()
	f := inkFace(lab, nearest[0].Ink, stock)
	for _, s := range c.Spots {
		if found, ok := book.Find(s.Code); ok && s.Stock == string(stock) {
			f = inkFace(lab, found, stock)
			f.Approved, f.By, f.At, f.Moved = true, s.ByName, s.ApprovedAt, moved(c.Hex, s.ForHex)
		}
	}
	return f
}

func inkFace(target color.Lab, i ink.Ink, s ink.Stock) InkFace {
	lab := i.Lab(s)
	return InkFace{Ink: i, Stock: s, Look: look(lab), DeltaE: color.DeltaE00(target, lab)}
}

// look shows a print or ink color on screen, mapped into sRGB where it lies outside.
func look(lab color.Lab) color.RGB8 { return lab.RGB().RGB8() }

func moved(now, then string) float64 {
	if now == then {
		return 0
	}
	return color.DeltaE00(rgbOf(then).Lab(), rgbOf(now).Lab())
}

// rgbOf reads a stored value; the database holds valid ones only.
func rgbOf(hex string) color.RGB8 {
	c, _ := color.FromHex(hex)
	return c
}
