package standin

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"sync"

	"huekeep/core/color"
	"huekeep/core/press"
	"huekeep/outside"
)

// Reader stands in for a handheld instrument. It is put on a patch and gives readings that scatter as a good device's do:
// 0.1 to 0.3 ΔE00 around what is there. It is not for several goroutines at once.
type Reader struct {
	random *rand.Rand
	under  *color.Lab
}

// NewReader makes a reader whose scatter follows from the seed.
func NewReader(seed uint64) *Reader { return &Reader{random: rand.New(rand.NewPCG(seed, 0x48756565))} }

// Place puts the reader on a patch.
func (r *Reader) Place(patch color.Lab) { r.under = &patch }

// Read measures the patch that the reader was placed on.
func (r *Reader) Read() (color.Lab, error) {
	if r.under == nil {
		return color.Lab{}, errors.New("the reader is not on a patch; place it first")
	}
	at := *r.under
	x, y, z := r.random.NormFloat64(), r.random.NormFloat64(), r.random.NormFloat64()
	n := math.Sqrt(x*x+y*y+z*z) + 1e-9
	x, y, z = x/n, y/n, z/n
	aim := 0.1 + 0.2*r.random.Float64()
	// A step in Lab is as many ΔE00 as the formula says for that place and direction.
	const probe = 0.2
	step := probe * aim / color.DeltaE00(at, color.Lab{L: at.L + probe*x, A: at.A + probe*y, B: at.B + probe*z})
	return color.Lab{L: math.Min(100, math.Max(0, at.L+step*x)), A: at.A + step*y, B: at.B + step*z}, nil
}

// Drift is how far a running press is off: what each ink's value is multiplied by, and the dot gain beyond what the
// condition expects, in percent at a 50 percent tint.
type Drift struct {
	C, M, Y, K float64 // 1 is no drift
	Gain       float64
}

// Printed is how a build looks on a press that drifts. Inks are held to 0 to 100 percent.
func (d Drift) Printed(c *press.Condition, b color.CMYK) color.Lab {
	ink := func(v, factor float64) float64 {
		v *= factor
		v += d.Gain * 4 * v / 100 * (1 - v/100) // gain is largest in the middle and none at the ends
		return math.Min(100, math.Max(0, v))
	}
	return c.Lab(color.CMYK{C: ink(b.C, d.C), M: ink(b.M, d.M), Y: ink(b.Y, d.Y), K: ink(b.K, d.K)})
}

// Bench stands in for a bench with a reader: a screen, or a sheet from a press that runs as it is told.
type Bench struct {
	mutex  sync.Mutex
	reader *Reader
}

var _ outside.Bench = (*Bench)(nil)

// NewBench makes a bench whose reader scatters as follows from the seed.
func NewBench(seed uint64) *Bench { return &Bench{reader: NewReader(seed)} }

// Name names the simulated device.
func (b *Bench) Name() string { return "Simulated reader" }

// runs are how far off a press is.
var runs = map[outside.Run]Drift{
	outside.True:  {C: 1, M: 1, Y: 1, K: 1},
	outside.Light: {C: 0.93, M: 0.95, Y: 0.94, K: 0.96, Gain: -2},
	outside.Heavy: {C: 1.05, M: 1.06, Y: 1.04, K: 1.05, Gain: 4},
}

// Read puts the reader on the sample and reads once.
func (b *Bench) Read(s outside.Sample) (color.Lab, error) {
	patch := s.Screen
	if s.Press != nil {
		drift, ok := runs[s.Run]
		if !ok {
			return color.Lab{}, fmt.Errorf("no press runs %q", s.Run)
		}
		patch = drift.Printed(s.Press, s.Build)
	}
	b.mutex.Lock()
	defer b.mutex.Unlock()
	b.reader.Place(patch)
	return b.reader.Read()
}
