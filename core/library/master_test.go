package library_test

import (
	"math"
	"math/rand/v2"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/library"
)

func TestWhatDecidesAColor(t *testing.T) {
	for typed, want := range map[string]library.Master{
		"#0E3A53":                                               {},
		"rgb(14 58 83)":                                         {},
		"hsl(202 71% 19%)":                                      {},
		"color(display-p3 0.1 0.9 0.3)":                         {Kind: library.OfScreen, Text: "color(display-p3 0.1 0.9 0.3)"},
		"color(display-p3 10% 90% 30%)":                         {Kind: library.OfScreen, Text: "color(display-p3 0.1 0.9 0.3)"},
		"OKLCH(.7 calc(0.1 * 3) 0.4turn)":                       {Kind: library.OfScreen, Text: "oklch(0.7 0.3 144)"},
		"lab(60% 80 -40)":                                       {Kind: library.OfScreen, Text: "lab(60 80 -40)"},
		"color(rec2020 0 1 0)":                                  {Kind: library.OfScreen, Text: "color(rec2020 0 1 0)"},
		"color(srgb 0.5 0.2 0.1)":                               {Kind: library.OfScreen, Text: "color(srgb 0.5 0.2 0.1)"},
		"color(srgb 1 0 0)":                                     {},
		"color(display-p3 9 -4 3)":                              {}, // no color at all
		"rgb(from color(display-p3 0 1 0) r g b)":               {Kind: library.OfScreen, Text: "color(display-p3 0 1 0)"},
		"color-mix(in oklab, color(display-p3 0 1 0), #FFF 0%)": {Kind: library.OfScreen, Text: "oklab(0.848829 -0.304241 0.207967)"},
	} {
		parsed, err := color.Parse(typed)
		require.NoError(t, err, typed)
		m, rgb := library.MasterOf(parsed)
		assert.Equal(t, want, m, typed)
		assert.Equal(t, parsed.RGB8(), rgb, typed)
		again, err := library.ReadMaster(m.String())
		require.NoError(t, err)
		assert.Equal(t, m, again)
	}
	c := library.Color{Master: library.Master{Kind: library.OfScreen, Text: "color(display-p3 0 1 0)"}}
	_, c.RGB = library.MasterOf(must(t, c.Master.Text))
	assert.InDelta(t, 5.2, c.Dulled(), 1.5, "the green of Display P3 is a clear step beyond that of sRGB")
	assert.Equal(t, c.Master.Text, c.CSS())
	assert.Zero(t, library.Color{RGB: c.RGB}.Dulled())
	worked := must(t, "color(display-p3 0 1 0)")
	worked.RGB = color.RGB{R: 1}
	assert.Empty(t, worked.Exactly(), "what it was made of is no longer what it is")
	worked.RGB = color.RGB{R: 1.2}
	assert.Contains(t, worked.Exactly(), "color(display-p3 1.")
	for _, bad := range []string{"screen #123456", "screen color(display-p3 0.10 0.9 0.3)", "screen color(display-p3 0.1 0.9 0.3 / 0.5)", "screen", "reading 1 2", "reading 1 2 900", "enamel 3", "screen color(display-p3 1e9 0 0)"} {
		_, err := library.ReadMaster(bad)
		assert.Error(t, err, bad)
	}
}

// What this program writes of 8 bits of sRGB, in whatever notation, is 8 bits of sRGB when it comes back.
func TestEightBitsStayEightBits(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 3000 {
		c := color.RGB8{R: uint8(r.Uint32()), G: uint8(r.Uint32()), B: uint8(r.Uint32())}
		for _, notation := range []string{"lab", "lch", "oklab", "oklch", "xyz", "p3", "hsl", "hwb"} {
			text, err := color.Write(c, notation)
			if err != nil {
				continue // it has no such notation
			}
			typed, err := color.Parse(text)
			require.NoError(t, err, text)
			m, rgb := library.MasterOf(typed)
			require.Equal(t, c, rgb, text)
			require.Equal(t, library.Master{}, m, "%s of %s", text, c.Hex())
		}
	}
}

func must(t *testing.T, text string) color.Typed {
	c, err := color.Parse(text)
	require.NoError(t, err)
	return c
}

// 2,000 masters of each kind through what keeps them are the same, to the last digit that is kept.
func TestMastersSurviveWhatKeepsThem(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 9))
	n := func(from, to float64, digits int) float64 {
		p := math.Pow10(digits)
		return math.Round((from+r.Float64()*(to-from))*p) / p
	}
	for range 2000 {
		var c library.Color
		c.Name, c.Status = "X", library.Approved
		lab := color.Lab{L: n(0, 100, 4), A: n(-120, 120, 4), B: n(-120, 120, 4)}
		c.Master, c.RGB = library.Read(lab)
		for _, of := range append(screens(n), c) {
			of.Name, of.Status = "X", library.Approved
			text, err := of.WriteState()
			require.NoError(t, err)
			back, err := library.ReadState(text)
			require.NoError(t, err, text)
			require.Equal(t, of, back)
			require.Equal(t, of.Lab(), back.Lab())
		}
		require.InDelta(t, lab.L, c.Lab().L, 1e-9)
	}
}

// screens are colors in every space of CSS.
func screens(n func(from, to float64, digits int) float64) (out []library.Color) {
	for _, text := range []string{
		call("color(display-p3", n(-0.2, 1.2, 6), n(-0.2, 1.2, 6), n(-0.2, 1.2, 6)), call("color(rec2020", n(0, 1, 6), n(0, 1, 6), n(0, 1, 6)),
		call("color(a98-rgb", n(0, 1, 6), n(0, 1, 6), n(0, 1, 6)), call("color(prophoto-rgb", n(0, 1, 6), n(0, 1, 6), n(0, 1, 6)),
		call("lab(", n(0, 100, 4), n(-120, 120, 4), n(-120, 120, 4)), call("lch(", n(0, 100, 4), n(0, 150, 4), n(0, 360, 4)),
		call("oklab(", n(0, 1, 6), n(-0.4, 0.4, 6), n(-0.4, 0.4, 6)), call("oklch(", n(0, 1, 6), n(0, 0.4, 6), n(0, 360, 4)),
	} {
		typed, err := color.Parse(text)
		if err != nil {
			panic(err)
		}
		c := library.Color{}
		c.Master, c.RGB = library.MasterOf(typed)
		if c.Master.Kind != library.OfHex && c.Exact() != typed.RGB {
			panic(text)
		}
		out = append(out, c)
	}
	return out
}

func call(name string, v ...float64) string {
	for _, x := range v {
		name += " " + strconv.FormatFloat(x, 'f', -1, 64)
	}
	return name + ")"
}

// An approval is of what the color was, also where plain screens show no difference.
func TestAnApprovalKnowsWhatItWasFor(t *testing.T) {
	flare := library.Color{Master: library.Master{Kind: library.OfScreen, Text: "color(display-p3 0.1 0.9 0.3)"}}
	flare.RGB = flare.Exact().RGB8()
	assert.Zero(t, flare.Moved(flare.RGB, flare.Master))
	assert.InDelta(t, flare.Dulled(), flare.Moved(flare.RGB, library.Master{}), 1e-9, "approved when it was the hex")
	assert.InDelta(t, flare.Dulled(), library.Color{RGB: flare.RGB}.Moved(flare.RGB, flare.Master), 1e-9, "and the other way")
	read := library.Color{}
	read.Master, read.RGB = library.Read(color.Lab{L: 60, A: 10, B: 10})
	assert.Zero(t, read.Moved(read.RGB, library.Master{}), "of before masters stood with approvals")
	assert.Positive(t, read.Moved(color.RGB8{R: 1}, library.Master{}))
	flare.Builds = []library.Build{{Press: "coated", For: flare.RGB, Meant: flare.Master}}
	text, err := flare.WriteState()
	require.NoError(t, err)
	back, err := library.ReadState(text)
	require.NoError(t, err)
	assert.Equal(t, flare.Master, back.Builds[0].Meant)
}

func FuzzReadMaster(f *testing.F) {
	for _, seed := range []string{"screen color(display-p3 0.1 0.9 0.3)", "screen oklch(0.7 0.3 144)", "reading 35.12 14.2 -13.01", "screen lab(60 80 -40)", "ink QN-0131", "reading", " 0", "screen color(xyz-d50 0 0 0)"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		m, err := library.ReadMaster(text)
		if err != nil {
			return
		}
		again, err := library.ReadMaster(m.String())
		require.NoError(t, err, m.String())
		require.Equal(t, m, again)
		c := library.Color{Master: m}
		lab := c.Lab()
		require.False(t, math.IsNaN(lab.L+lab.A+lab.B))
	})
}
