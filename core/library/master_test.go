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
	for _, bad := range []string{"screen #123456", "screen color(display-p3 0.10 0.9 0.3)", "screen color(display-p3 0.1 0.9 0.3 / 0.5)", "screen", "reading 1 2", "reading 1 2 900", "enamel 3", "build 70 20 0 10 on coated #0123456789abcdef", "build 70 20 0 on coated #0123456789abcdef as 1 2 3",
		"build 70 20 0 110 on coated #0123456789abcdef as 1 2 3", "build 70.0 20 0 10 on coated #0123456789abcdef as 1 2 3", "build 70 20 0 10 on coated #0123456789abcdef as 1 2 900", `ink enamel "Q" of "B" as 1 2 3`,
		`ink coated "" of "B" as 1 2 3`, `ink coated Q of B as 1 2 3`, "build 70 20 0 10 on coated #ab as 1 2 3", "ink", "build",
		"screen color(display-p3 1e9 0 0)"} {
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
		build, by := color.CMYK{C: n(0, 100, 4), M: n(0, 100, 2), Y: n(0, 100, 0), K: n(0, 100, 1)}, library.Person{Account: 2, Name: "Kim"}
		var b, k library.Color
		m, rgb := library.ByBuild(build, "own-press", "0123456789abcdef0123", lab)
		b.Decide(m, rgb, by, day)
		m, rgb = library.ByInk("QN "+strconv.Itoa(r.IntN(1e4))+[]string{"", " of ", " as ", `"`, "#", "é"}[r.IntN(6)], "uncoated", "A \"book\" as of #1", lab)
		k.Decide(m, rgb, by, day)
		require.Equal(t, build, b.Builds[0].Value)
		var s library.Color // a reading of a spectrum, with as many bands as an instrument has
		of := color.Spectrum{Start: 380, Step: []float64{5, 10, 20}[r.IntN(3)]}
		for len(of.Values) < 36 {
			of.Values = append(of.Values, n(0, 1.2, 4))
		}
		s.Master, s.RGB = library.ReadSpectrum(lab, of)
		got, ok := s.Master.Spectrum()
		require.True(t, ok)
		require.Equal(t, of, got)
		for _, of := range append(screens(n), c, b, k, s) {
			of.Name, of.Status = "X", library.Approved
			text, err := of.WriteState()
			require.NoError(t, err)
			back, err := library.ReadState(text)
			require.NoError(t, err, text)
			require.Equal(t, of, back)
			require.Equal(t, of.Lab(), back.Lab())
			again, err := library.ReadMaster(of.Master.String())
			require.NoError(t, err)
			require.Equal(t, of.Master, again)
			settled := of
			settled.Settle()
			require.Equal(t, of, settled, "what holds together stays as it is")
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
	for _, seed := range []string{"screen color(display-p3 0.1 0.9 0.3)", "screen oklch(0.7 0.3 144)", "reading 35.12 14.2 -13.01", "reading 35.12 14.2 -13.01 of 400 10 0.05 0.0612", "reading 1 2 3 of 4", "screen lab(60 80 -40)", "ink QN-0131", "reading", " 0", "screen color(xyz-d50 0 0 0)"} {
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

// What decides moves from an ink to a build and back to a hex: what decided before stays as approved, and says how far it is from what decides now.
func TestWhatDecidesChanges(t *testing.T) {
	kim := library.Person{Name: "Kim"}
	c := library.Color{Name: "Lantern", RGB: color.RGB8{R: 0xE2, G: 0x70, B: 0x2B}, Status: library.Approved}
	c.Builds = []library.Build{{Press: "coated", Value: color.CMYK{M: 60, Y: 85}, Origin: library.Signed, By: kim, At: day, For: c.RGB}}
	assert.Equal(t, library.Deciding, c.HexOrigin())
	ink, rgb := library.ByInk("QN-0132", "coated", "Quern", color.Lab{L: 62, A: 48, B: 55})
	c.Decide(ink, rgb, kim, day)
	assert.Equal(t, library.Derived, c.HexOrigin())
	assert.Equal(t, "ink QN-0132 on coated", c.Decides())
	s, ok := c.Spot("coated")
	assert.True(t, ok && s.Origin == library.Deciding)
	assert.InDelta(t, c.Moved(c.Builds[0].For, c.Builds[0].Meant), color.DeltaE00(color.RGB8{R: 0xE2, G: 0x70, B: 0x2B}.Lab(), color.Lab{L: 62, A: 48, B: 55}), 1e-9)

	build, rgb := library.ByBuild(color.CMYK{M: 62, Y: 80, K: 2}, "coated", "0123456789abcdef", color.Lab{L: 61, A: 46, B: 50})
	c.Decide(build, rgb, kim, day)
	require.Len(t, c.Builds, 1, "the approved one gave way to the one that decides")
	assert.Equal(t, library.Deciding, c.Builds[0].Origin)
	assert.Equal(t, library.Signed, c.Spots[0].Origin)
	assert.Equal(t, "CMYK 0 62 80 2 on coated", c.Decides())
	assert.InDelta(t, color.DeltaE00(color.Lab{L: 62, A: 48, B: 55}, color.Lab{L: 61, A: 46, B: 50}), c.Moved(c.Spots[0].For, c.Spots[0].Meant), 1e-9)

	c.Decide(library.Master{}, color.RGB8{R: 1}, kim, day)
	assert.Equal(t, []library.Origin{library.Signed, library.Signed}, []library.Origin{c.Builds[0].Origin, c.Spots[0].Origin})

	// A file that does not hold together is set right.
	c = library.Color{Name: "X", Master: build, RGB: rgb, Builds: []library.Build{{Press: "coated", Value: color.CMYK{K: 9}, Origin: library.Deciding}},
		Spots: []library.Spot{{Stock: "coated", Code: "QN-1", Origin: library.Deciding}}}
	c.Settle()
	assert.Equal(t, color.CMYK{M: 62, Y: 80, K: 2}, c.Builds[0].Value)
	assert.Equal(t, library.Signed, c.Spots[0].Origin)

	// A hex that was approved for a color that sRGB has is the value for every screen.
	c.RGB, c.Plain = color.RGB8{R: 0xFF}, library.Plain{Origin: library.Signed}
	assert.Empty(t, c.CSS())
	c.Master, _ = library.ByInk("QN-0132", "coated", "Quern", color.Lab{L: 60, A: 90, B: 80})
	assert.Contains(t, c.CSS(), "oklch(")
}

func TestWhatWasGivenIsSigned(t *testing.T) {
	c := built()
	c.Plain.Origin = library.Given
	was := c.Spots
	assert.Len(t, c.Approved().Spots, 0)
	assert.Len(t, c.Approved().Builds, 1)
	assert.Equal(t, []string{"spot ink QN-0411 on coated stock", c.RGB.Hex() + " for screens"}, c.Sign(library.Person{Name: "Ada"}, day))
	assert.Equal(t, library.Given, was[0].Origin, "a copy is signed")
	assert.Equal(t, "Ada", c.Spots[0].By.Name)
	assert.Equal(t, library.Signed, c.Plain.Origin)
	assert.Empty(t, c.Sign(library.Person{}, day))
}
