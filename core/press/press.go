// Package press computes CMYK builds for a press condition: a CMYK output profile with its total ink limit.
//
// Colorimetry is media-relative unless With asks for something else, so that the paper counts as white, as an eye adapted
// to the sheet sees it.
package press

import (
	"fmt"
	"math"
	"sync"

	"huekeep/core/color"
	"huekeep/core/icc"
)

// Condition is one way of printing.
type Condition struct {
	Name     string  // "coated"
	Label    string  // for a sentence: "coated paper, offset"
	InkLimit float64 // total ink in percent
	profile  *icc.Profile
	data     []byte // of the profile
	rendered icc.Rendering
	forward  *icc.Transform
	backward *icc.Transform
	blacks   func() *blacks // of Build, smoothed once
	absolute func() *icc.Transform
	summed   sync.Once
	sum      string // see Identity
}

// Colorimetric is how a condition renders colors unless told otherwise.
var Colorimetric = icc.Rendering{Intent: icc.RelativeColorimetric}

// New makes a condition from the bytes of a CMYK output profile. An ink limit of 0 stands for the most ink that the
// profile itself asks for.
func New(name, label string, inkLimit float64, profile []byte) (*Condition, error) {
	p, err := icc.Parse(profile)
	if err != nil {
		return nil, err
	}
	if p.Space != "CMYK" || p.Class != "prtr" {
		return nil, fmt.Errorf("a CMYK output profile is wanted; this one is of class %q for %q", p.Class, p.Space)
	}
	c, err := (&Condition{Name: name, Label: label, InkLimit: inkLimit, profile: p, data: profile}).With(Colorimetric)
	if err == nil && inkLimit == 0 {
		c.InkLimit = c.mostInk()
	}
	return c, err
}

// With is the same condition with another rendering of colors into ink. Builds are looked at media-relative whatever the
// rendering, but for the absolute intent, which takes the paper's own color into account both ways.
func (c *Condition) With(r icc.Rendering) (*Condition, error) {
	look := Colorimetric
	if r.Intent == icc.AbsoluteColorimetric {
		look = r
	}
	out := &Condition{Name: c.Name, Label: c.Label, InkLimit: c.InkLimit, profile: c.profile, data: c.data, rendered: r}
	var err error
	if out.forward, err = c.profile.ToLab(look); err != nil {
		return nil, err
	}
	if out.backward, err = c.profile.FromLab(r); err != nil {
		return nil, err
	}
	out.blacks = sync.OnceValue(out.smoothBlack)
	out.absolute = sync.OnceValue(func() *icc.Transform {
		if t, err := c.profile.ToLab(icc.Rendering{Intent: icc.AbsoluteColorimetric}); err == nil {
			return t
		}
		return out.forward // what reads relative reads absolute
	})
	return out, nil
}

// Description is what the profile calls itself.
func (c *Condition) Description() string { return c.profile.Description }

// Profile is the file of the condition's profile, which must not be changed.
func (c *Condition) Profile() []byte { return c.data }

// mostInk is the largest total that the profile asks for over the whole of Lab.
func (c *Condition) mostInk() float64 {
	most := 0.0
	var dev [4]float64
	for l := 0.0; l <= 100; l += 5 {
		for a := -120.0; a <= 120; a += 20 {
			for b := -120.0; b <= 120; b += 20 {
				c.backward.Device(color.Lab{L: l, A: a, B: b}, dev[:])
				most = math.Max(most, 100*(dev[0]+dev[1]+dev[2]+dev[3]))
			}
		}
	}
	return math.Ceil(most)
}

// Gray says whether a condition prints gray only: its profile never asks for cyan, magenta or yellow, or these look gray.
func (c *Condition) Gray() bool {
	asked, seen := 0.0, 0.0
	var dev [4]float64
	for hue := 0.0; hue < 360; hue += 15 {
		sin, cos := math.Sincos(hue * math.Pi / 180)
		c.backward.Device(color.Lab{L: 55, A: 50 * cos, B: 50 * sin}, dev[:])
		asked = math.Max(asked, dev[0]+dev[1]+dev[2])
	}
	for _, solid := range []color.CMYK{{C: 100}, {M: 100}, {Y: 100}} {
		l := c.Lab(solid)
		seen = math.Max(seen, math.Hypot(l.A, l.B))
	}
	return asked < 0.03 || seen < 10
}

// Shipped lists the press conditions that come with the program, with the ink limit their profiles were built for.
var Shipped = []struct {
	Name, Label string
	InkLimit    float64
}{
	{"coated", "coated paper, offset", 300},
	{"uncoated", "uncoated paper, offset", 280},
	{"newsprint", "newsprint, web offset", 240},
}

var loaded = func() map[string]func() (*Condition, error) {
	m := map[string]func() (*Condition, error){}
	for _, s := range Shipped {
		m[s.Name] = sync.OnceValues(func() (*Condition, error) {
			data, err := shipped(s.Name)
			if err != nil {
				return nil, err
			}
			return New(s.Name, s.Label, s.InkLimit, data)
		})
	}
	return m
}()

// Get returns a shipped condition by name; the profile is read on first use.
func Get(name string) (*Condition, error) {
	load, ok := loaded[name]
	if !ok {
		if c, there := another(name); there {
			return c, nil
		}
		return nil, fmt.Errorf("there is no press condition %q; there are coated, uncoated and newsprint", name)
	}
	return load()
}

// Coated returns the condition that the ledger shows.
func Coated() *Condition {
	c, err := Get("coated")
	if err != nil {
		panic(err) // the profile is compiled in and tested
	}
	return c
}

// Lab is how a build looks on this press: CIELAB, D50, relative to the paper unless the rendering is absolute.
func (c *Condition) Lab(b color.CMYK) color.Lab {
	return c.forward.Lab([]float64{b.C / 100, b.M / 100, b.Y / 100, b.K / 100})
}

// Build is a CMYK build with what it costs.
type Build struct {
	Unlimited  color.CMYK // as the profile gives it, with decimals
	Exact      color.CMYK // Unlimited held to the ink limit
	Whole      color.CMYK // the whole-percent build that looks most like the target, without traces of an ink
	Lab        color.Lab  // how Whole looks
	DeltaE     float64    // ΔE00 from the target to Whole
	RoundingDE float64    // what Whole costs over Exact: DeltaE less the ΔE00 of Exact, which may be negative
	InGamut    bool       // Whole is within 2 ΔE00 of the target
	Direction  string     // how the print differs, in words ("duller", "lighter, redder"), empty if nobody sees it
}

// GamutDE is how far the best build may be off, in ΔE00, for a color to count as printable.
const GamutDE = 2

// Build computes the build for a target color.
func (c *Condition) Build(target color.Lab) Build {
	unlimited := c.Unlimited(target)
	exact := c.limited(unlimited)
	aim := target
	if c.rendered.BlackPoint || c.rendered.Intent != icc.RelativeColorimetric && c.rendered.Intent != icc.AbsoluteColorimetric {
		aim = c.Lab(exact) // the rendering changed the color on purpose; rounding must not undo that
	}
	s := search{c: c, aim: aim}
	best := s.best(exact)
	s.between(best.lab)
	clean := s.clean(s.whole(best, exact))
	whole, lab, de := color.CMYK{C: clean.inks[0], M: clean.inks[1], Y: clean.inks[2], K: clean.inks[3]}, clean.lab, clean.de
	if aim != target {
		de = color.DeltaE00(target, lab)
	}
	exactDE := color.DeltaE00(target, c.Lab(exact))
	return Build{
		Unlimited: unlimited, Exact: exact, Whole: whole, Lab: lab, DeltaE: de, RoundingDE: de - exactDE,
		InGamut:   de <= GamutDE,
		Direction: direction(target, lab, de),
	}
}

// Exact is the build that the profile gives, held to the ink limit.
func (c *Condition) Exact(target color.Lab) color.CMYK { return c.limited(c.Unlimited(target)) }

// OnPaper is how far a build is from a color, in ΔE00, with the color of the paper, where Build's distances are relative to it: as an eye
// sees it that compares the sheet with a screen beside it.
func (c *Condition) OnPaper(target color.Lab, b color.CMYK) float64 {
	return color.DeltaE00(target, c.OnPaperLab(b))
}

// OnPaperLab is how a build looks with the color of the paper in it.
func (c *Condition) OnPaperLab(b color.CMYK) color.Lab {
	return c.absolute().Lab([]float64{b.C / 100, b.M / 100, b.Y / 100, b.K / 100})
}

// Beyond is how far a color is from the nearest that the press can print, in ΔE00; within GamutDE it counts as printable.
func (c *Condition) Beyond(target color.Lab) float64 {
	exact := color.DeltaE00(target, c.Lab(c.Exact(target)))
	if exact <= GamutDE/2 {
		return exact // the search would only confirm it
	}
	return min(exact, color.DeltaE00(target, c.Lab(c.Best(target))))
}

// Unlimited is the build that the profile gives; interpolated between the points of its table it can exceed the ink limit
// by some percent.
func (c *Condition) Unlimited(target color.Lab) color.CMYK {
	var dev [4]float64
	c.backward.Device(target, dev[:])
	return color.CMYK{C: dev[0] * 100, M: dev[1] * 100, Y: dev[2] * 100, K: dev[3] * 100}
}

// limited holds a build to the ink limit.
func (c *Condition) limited(b color.CMYK) color.CMYK {
	if over := b.Total() - c.InkLimit; over > 0 {
		// Black carries the shadow, so the colored inks give way in proportion.
		if cmy := b.C + b.M + b.Y; cmy > over {
			f := (cmy - over) / cmy
			b.C, b.M, b.Y = b.C*f, b.M*f, b.Y*f
		}
	}
	return b
}

// within is limited for inks in a row.
func (c *Condition) within(inks [4]float64) [4]float64 {
	if inks[0]+inks[1]+inks[2]+inks[3] <= c.InkLimit {
		return inks
	}
	return c.limited(color.CMYK{C: inks[0], M: inks[1], Y: inks[2], K: inks[3]}).Array()
}

// clean drops inks under 3 percent, the smallest first, as long as all that was dropped costs less than 0.5 ΔE00: a
// trace of a fourth ink is one more plate to keep in register for nothing that anybody sees. The other inks make up for it.
func (s *search) clean(from found) found {
	const trace, cost = 3, 0.5
	before := from.de
	for level := 1.0; level < trace; level++ {
		for i := range 4 {
			if from.inks[i] != level || i == 3 && s.planned >= trace { // the black of a ramp does not come and go
				continue
			}
			v := from.inks
			v[i] = 0
			s.frozen[i] = true
			if now := s.settle(v); now.de-before < cost {
				from = now
			} else {
				s.frozen[i] = false
			}
		}
	}
	return from
}

// Direction says in words how "to" differs from "from", the largest difference first; empty under 1 ΔE00.
func Direction(from, to color.Lab) string { return direction(from, to, color.DeltaE00(from, to)) }

func direction(from, to color.Lab, de float64) string {
	if de < 1 {
		return ""
	}
	a, b := from.LCh(), to.LCh()
	dh := math.Mod(b.H-a.H+540, 360) - 180
	type part struct {
		size float64
		word string
	}
	parts := []part{
		{math.Abs(b.L - a.L), pick(b.L > a.L, "lighter", "darker")},
		{math.Abs(b.C-a.C) * 0.5, pick(b.C > a.C, "more vivid", "duller")},
	}
	if a.C > 5 && b.C > 5 {
		shift := 2 * math.Sqrt(a.C*b.C) * math.Abs(math.Sin(dh*math.Pi/360))
		parts = append(parts, part{shift * 0.7, hueWord(a.H, dh)})
	}
	words, largest := "", 0.0
	for range 2 {
		at := -1
		for i, p := range parts {
			if p.size > 0.7 && (at < 0 || p.size > parts[at].size) {
				at = i
			}
		}
		if at < 0 || parts[at].size < largest/3 {
			break
		}
		if words != "" {
			words += ", "
		}
		words += parts[at].word
		largest = math.Max(largest, parts[at].size)
		parts[at].size = 0
	}
	return words
}

func pick(first bool, a, b string) string {
	if first {
		return a
	}
	return b
}

// hueWord names the next basic hue that a turn of dh degrees in CIELAB leads toward.
func hueWord(h, dh float64) string {
	marks := []struct {
		at   float64
		word string
	}{{25, "redder"}, {90, "yellower"}, {150, "greener"}, {270, "bluer"}, {330, "pinker"}}
	if dh >= 0 {
		for _, m := range marks {
			if m.at > h {
				return m.word
			}
		}
		return "redder"
	}
	for i := len(marks) - 1; i >= 0; i-- {
		if marks[i].at < h {
			return marks[i].word
		}
	}
	return "pinker"
}
