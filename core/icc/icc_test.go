package icc_test

import (
	"encoding/binary"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/icc"
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
		if len(row) > 2 {
			rows = append(rows, row)
		}
	}
	require.Len(t, rows, len(in))
	return rows
}

func TestTransformsEqualLcms(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	const n = 1000
	for _, name := range []string{"coated", "uncoated", "newsprint"} {
		p, err := icc.Parse(profile(t, name))
		require.NoError(t, err)
		for _, intent := range []icc.Intent{icc.Perceptual, icc.RelativeColorimetric, icc.Saturation} {
			t.Run(fmt.Sprintf("%s intent %d", name, intent), func(t *testing.T) {
				back, err := p.FromLab(intent)
				require.NoError(t, err)
				forth, err := p.ToLab(intent)
				require.NoError(t, err)
				file := "../press/profiles/" + name + ".icc"
				var labs, inks [][]float64
				for range n {
					lab := color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}.Lab()
					labs = append(labs, []float64{lab.L, lab.A, lab.B})
					inks = append(inks, []float64{100 * r.Float64(), 100 * r.Float64(), 100 * r.Float64(), 100 * r.Float64()})
				}
				close := 0
				for i, want := range transicc(t, labs, "-i*Lab2", "-o"+file, fmt.Sprintf("-t%d", intent)) {
					var dev [4]float64
					back.Device(color.Lab{L: labs[i][0], A: labs[i][1], B: labs[i][2]}, dev[:])
					worst := 0.0
					for k := range dev {
						worst = math.Max(worst, math.Abs(dev[k]*100-want[k]))
					}
					require.Less(t, worst, 1.0, "%v", labs[i])
					if worst < 0.5 {
						close++
					}
				}
				assert.GreaterOrEqual(t, close, n*99/100)
				for i, want := range transicc(t, inks, "-i"+file, "-o*Lab2", fmt.Sprintf("-t%d", intent)) {
					v := inks[i]
					lab := forth.Lab([]float64{v[0] / 100, v[1] / 100, v[2] / 100, v[3] / 100})
					require.InDelta(t, want[0], lab.L, 0.05)
					require.InDelta(t, want[1], lab.A, 0.05)
					require.InDelta(t, want[2], lab.B, 0.05)
				}
			})
		}
	}
}

// RGB and gray profiles of curves and a matrix, as cameras and screens have them.
func TestMatrixProfilesEqualLcms(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 9))
	for _, name := range []string{"sRGB", "compatibleWithAdobeRGB1998", "Gray"} {
		t.Run(name, func(t *testing.T) {
			file := "/usr/share/color/icc/" + name + ".icc"
			data, err := os.ReadFile(file)
			if err != nil && os.Getenv("CI") == "" {
				t.Skip("icc-profiles-free is not installed")
			}
			require.NoError(t, err)
			p, err := icc.Parse(data)
			require.NoError(t, err)
			forth, err := p.ToLab(icc.RelativeColorimetric)
			require.NoError(t, err)
			back, err := p.FromLab(icc.RelativeColorimetric)
			require.NoError(t, err)
			n := map[string]int{"RGB ": 3, "GRAY": 1}[p.Space]
			var in [][]float64
			for range 300 {
				v := make([]float64, n)
				for k := range v {
					v[k] = math.Round(255 * r.Float64())
				}
				in = append(in, v)
			}
			for i, want := range transicc(t, in, "-i"+file, "-o*Lab2", "-t1") {
				dev := make([]float64, n)
				for k := range dev {
					dev[k] = in[i][k] / 255
				}
				if n == 1 {
					dev[0] = in[i][0] / 255
				}
				lab := forth.Lab(dev)
				require.InDelta(t, want[0], lab.L, 0.05, "%v", in[i])
				require.InDelta(t, want[1], lab.A, 0.05, "%v", in[i])
				require.InDelta(t, want[2], lab.B, 0.05, "%v", in[i])
				again := make([]float64, n)
				back.Device(lab, again)
				for k := range dev {
					require.InDelta(t, dev[k], again[k], 0.002, "there and back")
				}
			}
		})
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
			_, err = p.FromLab(icc.RelativeColorimetric)
		}
		if assert.Error(t, err, what) {
			assert.Contains(t, err.Error(), c.part, what)
		}
	}
}

func FuzzProfile(f *testing.F) {
	f.Add(profile(f, "newsprint")[:4000])
	f.Add([]byte("acsp"))
	f.Fuzz(func(t *testing.T, data []byte) {
		p, err := icc.Parse(data)
		if err != nil {
			return
		}
		if x, err := p.ToLab(icc.Perceptual); err == nil {
			x.Lab(make([]float64, 4))
		}
		if x, err := p.FromLab(icc.RelativeColorimetric); err == nil {
			x.Device(color.Lab{L: 50}, make([]float64, 4))
		}
	})
}
