package press

import (
	"encoding/binary"
	"math"
	"math/rand/v2"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
)

// inEightBits is a profile with its tables of 16 bits written as such of 8 (ICC.1:2010, 10.8 and 10.9), whose curves have 256 entries.
func inEightBits(t testing.TB, data []byte) []byte {
	t.Helper()
	u32 := func(at uint32) uint32 { return binary.BigEndian.Uint32(data[at:]) }
	out := append([]byte{}, data[:132+12*u32(128)]...)
	at := map[uint32]uint32{} // where a table that several tags share is now
	for i := range u32(128) {
		entry := 132 + 12*i
		offset, size := u32(entry+4), u32(entry+8)
		tag := data[offset : offset+size]
		if string(tag[:4]) == "mft2" {
			tag = narrow(tag)
		}
		if at[offset] == 0 {
			for len(out)%4 != 0 {
				out = append(out, 0)
			}
			at[offset] = uint32(len(out))
			out = append(out, tag...)
		}
		binary.BigEndian.PutUint32(out[entry+4:], at[offset])
		binary.BigEndian.PutUint32(out[entry+8:], uint32(len(tag)))
	}
	binary.BigEndian.PutUint32(out, uint32(len(out)))
	return out
}

func narrow(tag []byte) []byte {
	in, made, points := int(tag[8]), int(tag[9]), int(tag[10])
	entries, leaving := int(binary.BigEndian.Uint16(tag[48:])), int(binary.BigEndian.Uint16(tag[50:]))
	word := func(i int) float64 { return float64(binary.BigEndian.Uint16(tag[52+2*i:])) }
	// What is Lab has 0xFF00 for 100 in 16 bits, and 255 in 8.
	scale := func(v float64, lab bool) byte {
		if lab {
			return byte(min(255, math.Round(v/257*65535/65280)))
		}
		return byte(math.Round(v / 257))
	}
	out := append([]byte("mft1\x00\x00\x00\x00"), tag[8:48]...)
	curve := func(from, n int, labIn, labOut bool) {
		for i := range 256 {
			x := float64(i) / 255
			if labIn { // the old table's curve takes the 16-bit encoding
				x = x * 65280 / 65535
			}
			at := x * float64(n-1)
			low := min(int(at), n-2)
			v := word(from+low) + (at-float64(low))*(word(from+low+1)-word(from+low))
			out = append(out, scale(v, labOut))
		}
	}
	for c := range in {
		curve(c*entries, entries, in == 3, false)
	}
	cells := made
	for range in {
		cells *= points
	}
	for i := range cells {
		out = append(out, scale(word(in*entries+i), false))
	}
	for c := range made {
		curve(in*entries+cells+c*leaving, leaving, false, in == 4)
	}
	return out
}

// presses are those that ship, one with tables of 8 bits, and one of another making.
func presses(t testing.TB) []*Condition {
	t.Helper()
	var out []*Condition
	for _, s := range Shipped {
		c, err := Get(s.Name)
		require.NoError(t, err)
		out = append(out, c)
	}
	c, err := New("8 bits", "8 bits", 280, inEightBits(t, Coated().Profile()))
	require.NoError(t, err)
	out = append(out, c)
	data, err := os.ReadFile("/usr/share/color/icc/ghostscript/default_cmyk.icc") // of Debian's libgs-common
	if err != nil {
		require.Empty(t, os.Getenv("CI"), "the profile of Ghostscript is not there")
		return out
	}
	c, err = New("ghostscript", "ghostscript", 0, data)
	require.NoError(t, err)
	return append(out, c)
}

// eachDark calls f for the dark colors of a grid.
func eachDark(f func(aim color.Lab)) {
	for r := 0; r <= 120; r += 12 {
		for g := 0; g <= 120; g += 12 {
			for b := 0; b <= 120; b += 12 {
				if aim := (color.RGB8{R: uint8(r), G: uint8(g), B: uint8(b)}).Lab(); aim.L <= 36 {
					f(aim)
				}
			}
		}
	}
}

func TestDarkBuildsAreNeverWorseThanWhatIsPlain(t *testing.T) {
	for _, c := range presses(t) {
		n := 0
		eachDark(func(aim color.Lab) {
			n++
			got := c.Build(aim)
			e := got.Exact
			plain := color.CMYK{C: math.Round(e.C), M: math.Round(e.M), Y: math.Round(e.Y), K: math.Round(e.K)}
			if plain.Total() <= c.InkLimit {
				assert.LessOrEqual(t, got.DeltaE, color.DeltaE00(aim, c.Lab(plain))+0.5, "%s %v: %v, the profile's is %v", c.Name, aim, got.Whole, plain)
			}
			if k := c.BlackOnly(aim); k != nil {
				assert.LessOrEqual(t, got.DeltaE, k.DeltaE+0.1, "%s %v: %v, black alone is better", c.Name, aim, got.Whole)
			}
			assert.Equal(t, got.DeltaE <= GamutDE, got.InGamut, "a verdict is the distance of the build that is shown")
		})
		require.Equal(t, 955, n)
	}
}

// The worst of what was found once, on newsprint, where the way to the ink limit was a wrong one.
func TestGraysAtTheInkLimitStayGray(t *testing.T) {
	for _, k := range []struct {
		press, hex string
		within     float64
	}{{"newsprint", "#545454", 7}, {"uncoated", "#303030", 6.3}, {"coated", "#0D0A08", 4.5}, {"coated", "#161616", 2}} {
		c, err := Get(k.press)
		require.NoError(t, err)
		rgb, err := color.FromHex(k.hex)
		require.NoError(t, err)
		b := c.Build(rgb.Lab())
		assert.LessOrEqual(t, b.DeltaE, k.within, "%s on %s: %v", k.hex, k.press, b.Whole)
		assert.Less(t, b.Lab.LCh().C, 5.0, "%s on %s: %v", k.hex, k.press, b.Whole)
	}
}

// Ramp gives 256 colors from one to another in the values of the screen.
func ramp(from, to color.RGB) (out [256]color.Lab) {
	for i := range out {
		f := float64(i) / 255
		out[i] = color.RGB{R: from.R + f*(to.R-from.R), G: from.G + f*(to.G-from.G), B: from.B + f*(to.B-from.B)}.RGB8().Lab()
	}
	return out
}

func TestInksMoveLittleBetweenNeighbors(t *testing.T) {
	black, white := color.RGB{}, color.RGB{R: 1, G: 1, B: 1}
	for _, c := range presses(t) {
		moves := func(from, to color.RGB) (most float64) {
			var last [4]float64
			for i, aim := range ramp(from, to) {
				b := c.Build(aim).Whole.Array()
				for k := range b {
					if i > 0 {
						most = max(most, math.Abs(b[k]-last[k]))
					}
				}
				last = b
			}
			return most
		}
		grays, toBlack, toWhite := moves(black, white), 0.0, 0.0
		for h := range 24 {
			full := color.HSL{H: float64(h) * 15, S: 1, L: 0.5}.RGB()
			toBlack, toWhite = max(toBlack, moves(full, black)), max(toWhite, moves(full, white))
		}
		t.Logf("%s: an ink moves by %g %% at the most along the grays, %g from a hue to black, %g to white", c.Name, grays, toBlack, toWhite)
		assert.LessOrEqual(t, max(grays, toBlack, toWhite), 12.0, c.Name)
	}
}

// That neighbors in a ramp stay neighbors and that no build has a better one beside it are two wishes that meet where a color is far from
// what can be printed: long ways from each other, builds look alike there. Everything that can be printed has the best build of all around it;
// of what cannot, a few have one that is nearer by at most a fiftieth of what is missed at any rate.
func TestHardlyAnyNeighborIsBetter(t *testing.T) {
	all, good, far, outside := 0, 0, 0, 0
	for _, c := range presses(t) {
		r := rand.New(rand.NewPCG(1, 60))
		for range 60 {
			aim := color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}.Lab()
			b := c.Build(aim)
			best, at := b.DeltaE, b.Whole.Array()
			for i := range 7 * 7 * 7 * 7 {
				n, ok, v := i, true, at
				for k := range v {
					v[k] += float64(n%7) - 3
					n /= 7
					ok = ok && v[k] >= 0 && v[k] <= 100 && (at[k] != 0 || v[k] == 0) // a trace of one more ink is not better
				}
				if ok && v[0]+v[1]+v[2]+v[3] <= c.InkLimit {
					best = min(best, color.DeltaE00(aim, c.Lab(color.CMYK{C: v[0], M: v[1], Y: v[2], K: v[3]})))
				}
			}
			all++
			if b.DeltaE-best <= 0.1 {
				good++
			} else {
				assert.False(t, b.InGamut, "%s %v: %v has a neighbor that is better by %.2f", c.Name, aim, b.Whole, b.DeltaE-best)
				assert.Less(t, b.DeltaE-best, b.DeltaE/50, "%s %v: %v", c.Name, aim, b.Whole)
			}
			if dense := printable(c, aim); dense > GamutDE {
				outside++
				if b.DeltaE-dense > 0.5 {
					far++
				}
			}
		}
	}
	t.Logf("%d of %d builds have no neighbor better by over 0.1; %d of %d out of gamut are over 0.5 from what a dense search finds", good, all, far, outside)
	assert.GreaterOrEqual(t, good, all*97/100)
	assert.LessOrEqual(t, far, 2)
}
