package icc_test

import (
	"encoding/binary"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/hostile"
	"huekeep/core/icc"
	"huekeep/core/proof"
)

func profile(t testing.TB, name string) []byte {
	data, err := os.ReadFile("../press/profiles/" + name + ".icc")
	require.NoError(t, err)
	return data
}

// transicc runs the command-line tool of lcms2 over lines of numbers and returns the lines that it answers.
func transicc(t *testing.T, in [][]float64, args ...string) [][]float64 {
	t.Helper()
	if _, err := exec.LookPath("transicc"); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatal("transicc must be installed in CI (liblcms2-utils)")
		}
		t.Skip("transicc of liblcms2-utils is not installed")
	}
	var text strings.Builder
	for _, row := range in {
		for _, v := range row {
			fmt.Fprintf(&text, "%.6f\n", v)
		}
	}
	cmd := exec.Command("transicc", append([]string{"-n", "-c0"}, args...)...)
	cmd.Stdin = strings.NewReader(text.String())
	out, err := cmd.Output()
	require.NoError(t, err)
	var rows [][]float64
	for _, line := range strings.Split(string(out), "\n") {
		var row []float64
		for _, f := range strings.Fields(line) {
			if v, err := strconv.ParseFloat(f, 64); err == nil {
				row = append(row, v)
			}
		}
		if len(row) > 0 {
			rows = append(rows, row)
		}
	}
	require.Len(t, rows, len(in))
	return rows
}

// flags are what transicc wants to hear of a rendering.
func flags(r icc.Rendering) []string {
	f := []string{fmt.Sprintf("-t%d", r.Intent)}
	if r.BlackPoint {
		f = append(f, "-b")
	}
	return f
}

// renderings are all four intents, without and with black point compensation (which the absolute intent has not).
func renderings() (all []icc.Rendering) {
	for intent := range icc.Intents {
		all = append(all, icc.Rendering{Intent: icc.Intent(intent)})
		if icc.Intent(intent) != icc.AbsoluteColorimetric {
			all = append(all, icc.Rendering{Intent: icc.Intent(intent), BlackPoint: true})
		}
	}
	return all
}

func TestTransformsEqualLcms(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	const n = 1000
	for _, name := range []string{"coated", "uncoated", "newsprint"} {
		p, err := icc.Parse(profile(t, name))
		require.NoError(t, err)
		for _, rendering := range renderings() {
			t.Run(fmt.Sprintf("%s %s bpc %v", name, icc.Intents[rendering.Intent], rendering.BlackPoint), func(t *testing.T) {
				back, err := p.FromLab(rendering)
				require.NoError(t, err)
				forth, err := p.ToLab(rendering)
				require.NoError(t, err)
				file := "../press/profiles/" + name + ".icc"
				var labs, inks [][]float64
				for range n {
					lab := color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}.Lab()
					labs = append(labs, []float64{lab.L, lab.A, lab.B})
					inks = append(inks, []float64{100 * r.Float64(), 100 * r.Float64(), 100 * r.Float64(), 100 * r.Float64()})
				}
				close := 0
				for i, want := range transicc(t, labs, append(flags(rendering), "-i*Lab2", "-o"+file)...) {
					var dev [4]float64
					back.Device(color.Lab{L: labs[i][0], A: labs[i][1], B: labs[i][2]}, dev[:])
					worst := 0.0
					for k := range dev {
						worst = math.Max(worst, math.Abs(dev[k]*100-want[k]))
					}
					require.Less(t, worst, 1.0, "%v: %v, want %v", labs[i], dev, want)
					if worst < 0.5 {
						close++
					}
				}
				assert.GreaterOrEqual(t, close, n*99/100)
				for i, want := range transicc(t, inks, append(flags(rendering), "-i"+file, "-o*Lab2")...) {
					v := inks[i]
					lab := forth.Lab([]float64{v[0] / 100, v[1] / 100, v[2] / 100, v[3] / 100})
					require.InDelta(t, want[0], lab.L, 0.05, "%v", v)
					require.InDelta(t, want[1], lab.A, 0.05, "%v", v)
					require.InDelta(t, want[2], lab.B, 0.05, "%v", v)
				}
			})
		}
	}
}

// sameAsLcms compares both directions of a profile with device values on a scale of full.
func sameAsLcms(t *testing.T, file string, full float64, rendering icc.Rendering, tolerance float64) {
	t.Helper()
	data, err := os.ReadFile(file)
	require.NoError(t, err)
	p, err := icc.Parse(data)
	require.NoError(t, err)
	forth, err := p.ToLab(rendering)
	require.NoError(t, err)
	back, err := p.FromLab(rendering)
	require.NoError(t, err)
	r := rand.New(rand.NewPCG(7, 9))
	var in, labs [][]float64
	for range 300 {
		v := make([]float64, p.Channels())
		for k := range v {
			v[k] = math.Round(full * r.Float64())
		}
		in = append(in, v)
		// Colors that the device has: beyond them, lcms2 lets numbers leave the range that the specification holds them to.
		inside := make([]float64, p.Channels())
		for k := range v {
			inside[k] = 0.15 + 0.7*r.Float64()
		}
		lab := forth.Lab(inside)
		labs = append(labs, []float64{lab.L, lab.A, lab.B})
	}
	for i, want := range transicc(t, in, append(flags(rendering), "-i"+file, "-o*Lab2")...) {
		dev := make([]float64, p.Channels())
		for k := range dev {
			dev[k] = in[i][k] / full
		}
		lab := forth.Lab(dev)
		require.InDelta(t, want[0], lab.L, tolerance, "%v", in[i])
		require.InDelta(t, want[1], lab.A, tolerance, "%v", in[i])
		require.InDelta(t, want[2], lab.B, tolerance, "%v", in[i])
	}
	for i, want := range transicc(t, labs, append(flags(rendering), "-i*Lab2", "-o"+file)...) {
		dev := make([]float64, p.Channels())
		back.Device(color.Lab{L: labs[i][0], A: labs[i][1], B: labs[i][2]}, dev)
		for k := range dev {
			require.InDelta(t, math.Max(0, math.Min(full, want[k])), dev[k]*full, 0.005*full, "%v", labs[i])
		}
	}
}

// RGB and gray profiles of curves and a matrix, as cameras and screens have them.
func TestMatrixProfilesEqualLcms(t *testing.T) {
	for _, name := range []string{"sRGB", "compatibleWithAdobeRGB1998", "Gray", "LStar-RGB"} {
		for _, rendering := range renderings() {
			t.Run(fmt.Sprintf("%s %s bpc %v", name, icc.Intents[rendering.Intent], rendering.BlackPoint), func(t *testing.T) {
				file := "/usr/share/color/icc/" + name + ".icc"
				if _, err := os.Stat(file); err != nil && os.Getenv("CI") == "" {
					t.Skip("icc-profiles-free is not installed")
				}
				sameAsLcms(t, file, 255, rendering, 0.05)
			})
		}
	}
}

// The profile of wide pictures that are written means what CSS means by display-p3, as another program reads it.
func TestTheProfileOfDisplayP3(t *testing.T) {
	file := filepath.Join(t.TempDir(), "p3.icc")
	require.NoError(t, os.WriteFile(file, proof.ProfileP3(), 0o600))
	sameAsLcms(t, file, 255, icc.Rendering{Intent: icc.RelativeColorimetric}, 0.05)
	values := [][]float64{{255, 0, 0}, {0, 255, 0}, {0, 0, 255}, {255, 255, 255}, {25.5, 229.5, 76.5}}
	for i, got := range transicc(t, values, "-t1", "-i"+file, "-o*Lab") {
		c, _ := color.Coded("display-p3", [3]float64{values[i][0] / 255, values[i][1] / 255, values[i][2] / 255})
		want := c.RGB.Lab()
		assert.InDelta(t, want.L, got[0], 0.05, "%v", values[i])
		assert.InDelta(t, want.A, got[1], 0.05, "%v", values[i])
		assert.InDelta(t, want.B, got[2], 0.05, "%v", values[i])
	}
}

// Profiles with every kind of table, curve and connection space, made here: no free ones use all of them.
func TestTableProfilesEqualLcms(t *testing.T) {
	for _, c := range made() {
		file := filepath.Join(t.TempDir(), "made.icc")
		require.NoError(t, os.WriteFile(file, c.profile(), 0o600))
		full := 255.0
		if c.space == "CMYK" {
			full = 100
		}
		tolerance := 0.05
		if c.pcs == "XYZ " {
			tolerance = 0.2 // lcms2 finds the black point in 16 bits of XYZ, which are coarse there
		}
		for _, rendering := range renderings() {
			if c.version == 4 && (rendering.Intent == icc.Perceptual || rendering.Intent == icc.Saturation) && !rendering.BlackPoint {
				continue // compensation always applies there; compared with it
			}
			t.Run(fmt.Sprintf("%s %s bpc %v", c.name, icc.Intents[rendering.Intent], rendering.BlackPoint), func(t *testing.T) {
				sameAsLcms(t, file, full, rendering, tolerance)
			})
		}
	}
}

func TestBrokenProfilesAreRefused(t *testing.T) {
	good := profile(t, "coated")
	change := func(at int, b ...byte) []byte {
		c := append([]byte(nil), good...)
		copy(c[at:], b)
		return c
	}
	tag := func(name string) int {
		i := strings.Index(string(good[132:132+12*20]), name)
		require.GreaterOrEqual(t, i, 0)
		return int(binary.BigEndian.Uint32(good[132+i+4:]))
	}
	for what, c := range map[string]struct {
		data []byte
		part string
	}{
		"empty":        {nil, "not an ICC profile"},
		"a text":       {[]byte(strings.Repeat("hello ", 100)), "not an ICC profile"},
		"cut off":      {good[:len(good)/2], "cut off"},
		"tag count":    {change(128, 0xff, 0xff, 0xff, 0xff), "more than fit"},
		"tag outside":  {change(136, 0xff, 0xff, 0xff, 0xff), "outside the file"},
		"version 9":    {change(8, 9), "version 9"},
		"grid of 255":  {change(tag("B2A1")+10, 255), "absurd"},
		"grid of 40":   {change(tag("B2A1")+10, 40), "cut off"},
		"nine inputs":  {change(tag("B2A1")+8, 9), "9 inputs"},
		"unknown type": {change(tag("B2A1"), 'x'), "is not read"},
		"long curves":  {change(tag("B2A1")+48, 0xff, 0xff), "absurd"},
	} {
		p, err := icc.Parse(c.data)
		if err == nil {
			_, err = p.FromLab(icc.Rendering{Intent: icc.RelativeColorimetric})
		}
		if assert.Error(t, err, what) {
			assert.Contains(t, err.Error(), c.part, what)
		}
	}
}

func FuzzProfile(f *testing.F) {
	f.Add(profile(f, "newsprint")[:4000])
	f.Add([]byte("acsp"))
	for _, c := range made() {
		c.points = 2
		f.Add(c.profile())
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		p, err := icc.Parse(data)
		if err != nil {
			return
		}
		for _, r := range renderings() {
			if x, err := p.ToLab(r); err == nil {
				for _, dev := range [][]float64{{0, 0, 0, 0}, {0.3, 0.9, 0.5, 0.1}, {1, 1, 1, 1}, {math.NaN(), math.Inf(1), -1, 2}} {
					x.Lab(dev[:p.Channels()])
				}
			}
			if x, err := p.FromLab(r); err == nil {
				for _, lab := range []color.Lab{{}, {L: 50, A: -200, B: 200}, {L: math.NaN()}, {L: math.Inf(1)}} {
					dev := make([]float64, p.Channels())
					x.Device(lab, dev)
					for _, v := range dev {
						require.True(t, v >= 0 && v <= 1, "%v of %v", v, lab)
					}
				}
			}
		}
	})
}

func TestSlopesFollowTheTable(t *testing.T) {
	data, err := os.ReadFile("../press/profiles/uncoated.icc")
	require.NoError(t, err)
	p, err := icc.Parse(data)
	require.NoError(t, err)
	for _, r := range []icc.Rendering{{Intent: icc.RelativeColorimetric}, {Intent: icc.AbsoluteColorimetric}} { // the second is measured
		look, err := p.ToLab(r)
		require.NoError(t, err)
		random := rand.New(rand.NewPCG(5, 6))
		off := 0
		for range 2000 {
			var dev [4]float64
			for i := range dev {
				dev[i] = math.Min(1, random.Float64()*1.1)
			}
			lab, slopes := look.LabSlope(dev)
			want := look.Lab(dev[:])
			require.InDeltaSlice(t, []float64{want.L, want.A, want.B}, []float64{lab.L, lab.A, lab.B}, 1e-9)
			for i := range dev {
				moved, step := dev, 0.002
				if dev[i] > 0.5 {
					step = -step
				}
				moved[i] += step
				to := look.Lab(moved[:])
				for k, v := range []float64{to.L - lab.L, to.A - lab.A, to.B - lab.B} {
					if math.Abs(v/step-slopes[i][k]) > 5 {
						off++ // the step crossed into another cell of the table
					}
				}
			}
		}
		assert.Less(t, off, 2000*12/8)
	}
}
