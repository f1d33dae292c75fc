package library_test

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/hostile"
	"huekeep/core/library"
)

func golden(t *testing.T, name string) string {
	data, err := os.ReadFile(filepath.Join("testdata", name))
	require.NoError(t, err)
	return string(data)
}

var day = time.Date(2026, 3, 4, 5, 6, 7, 89e6, time.UTC)

// whole is a color with everything that can be kept of one.
func whole() library.Color {
	lab := color.Lab{L: 35.12, A: 14.2, B: -13.01}
	rgb := color.RGB8{R: 0x62, G: 0x4B, B: 0x68}
	return library.Color{ID: 7, Name: "Heather Cliff", RGB: rgb, Master: read(lab), Group: "Landscape", Role: library.Accent, Rule: "Winter campaign only",
		Status: library.Retired, Successor: library.Ref{ID: 8, Name: "Heather"}, Ground: library.Ref{ID: 9, Name: "Hull White"}, Ratio: 4.5,
		Aliases: []string{"Moor"}, Tags: []string{"campaign", "2027"},
		Builds: []library.Build{{Press: "coated", Value: color.CMYK{C: 62, M: 71.5, Y: 35, K: 20}, Origin: library.Signed, By: library.Person{Account: 3, Name: "Kim"}, At: day, For: rgb},
			{Press: "newsprint", Value: color.CMYK{C: 50, M: 60, Y: 30, K: 20}, Origin: library.Derived}},
		Spots:      []library.Spot{{Stock: "coated", Code: "QN-0612", Book: "Quern", Lab: &lab, Origin: library.Signed, By: library.Person{Name: "Kim"}, At: day, For: rgb}},
		Companions: []library.Companion{{Kind: "tint", Amount: 40, Permitted: true}}}
}

func edition() library.Edition {
	return library.Edition{House: "Odelwick Ferries", Set: "Winter", Number: 3, FixedAt: day, By: library.Person{Account: 3, Name: "Kim"},
		Colors: []library.Color{whole(), {ID: 9, Name: "Hull White", RGB: color.RGB8{R: 0xF7, G: 0xF5, B: 0xF0}, Status: library.Approved}},
		Gradients: []library.Gradient{{ID: 2, Name: "Dusk", Angle: 90, Space: "oklab",
			Stops: []library.Stop{{Color: library.Ref{ID: 7, Name: "Heather Cliff"}}, {Color: library.Ref{ID: 9, Name: "Hull White"}, Place: 100}}}},
		Pairs: []library.Pair{{Color: library.Ref{ID: 7, Name: "Heather Cliff"}, Ground: library.Ref{ID: 9, Name: "Hull White"}, May: true, Ratio: 4.5, By: library.Person{Name: "Kim"}, At: day},
			{Color: library.Ref{ID: 9, Name: "Hull White"}, Ground: library.Ref{ID: 7, Name: "Heather Cliff"}, By: library.Person{Name: "Kim"}, At: day}},
		Profiles: []library.Profile{{Press: "coated", Label: "coated paper, offset", InkLimit: 300, Name: "Coated", SHA256: strings.Repeat("ab", 32)}},
		Note:     "The new heather, a little darker.",
		Slots:    []library.Assigned{{Slot: "accent1", Color: library.Ref{ID: 7, Name: "Heather Cliff"}}},
		Boxes:    library.Boxes{Count: 16, Order: []library.Ref{{ID: 9, Name: "Hull White"}}}}
}

// wide is a color that sRGB does not hold.
func wide() library.Color {
	return library.Color{ID: 12, Name: "Flare", Master: library.Master{Kind: library.OfScreen, Text: "color(display-p3 0.1 0.9 0.3)"}, RGB: color.RGB8{G: 0xEC, B: 0x40}, Status: library.Approved}
}

// inked is a color that an ink decides, with a hex and a build that were approved for it.
func inked() library.Color {
	c := library.Color{ID: 14, Name: "Lantern", Status: library.Approved}
	m, rgb := library.ByInk("QN-0132", "coated", "Quern \"of\" 2026", color.Lab{L: 62.4, A: 48.25, B: 55.1})
	c.Decide(m, rgb, library.Person{Account: 3, Name: "Kim"}, day)
	c.RGB, c.Plain = color.RGB8{R: 0xE2, G: 0x70, B: 0x2B}, library.Plain{Origin: library.Signed, By: library.Person{Account: 3, Name: "Kim"}, At: day}
	c.Builds = []library.Build{{Press: "coated", Value: color.CMYK{M: 60, Y: 85}, Origin: library.Signed, By: library.Person{Name: "Kim"}, At: day, For: rgb, Meant: m}}
	return c
}

// built is a draft that a build decides, with an ink that came with it.
func built() library.Color {
	c := library.Color{ID: 15, Name: "Tarpaulin", Status: library.Draft}
	m, rgb := library.ByBuild(color.CMYK{C: 70, M: 20.5, K: 10}, "uncoated", strings.Repeat("0123456789abcdef", 4), color.Lab{L: 55.5, A: -14, B: -33.25})
	c.Decide(m, rgb, library.Person{Account: 3, Name: "Kim"}, day)
	c.Spots = []library.Spot{{Stock: "coated", Code: "QN-0411", Origin: library.Given, By: library.Person{Name: "Kim"}, At: day, For: rgb, Meant: m}}
	return c
}

// sheer is a color that may lie over another one, over white, and over one of the same name as in another house.
func sheer() library.Color {
	c := library.Color{ID: 16, Name: "Mist", RGB: color.RGB8{R: 0x62, G: 0x4B, B: 0x68}, Status: library.Approved}
	c.Companions = []library.Companion{{Kind: "sheer", Amount: 40, Permitted: true}, {Kind: "tint", Amount: 40, Permitted: true},
		{Kind: "sheer", Amount: 40, Ground: library.Ref{ID: 14, Name: "Tar \"& rope\""}, Over: color.RGB8{R: 1, G: 2, B: 3}}}
	return c
}

// before is that edition as older versions could keep it.
func before() library.Edition {
	e := edition()
	e.Note, e.Slots, e.Boxes = "", nil, library.Boxes{}
	return e
}

// The golden files are what versions of the program wrote. They are never written anew: a test that fails here would lose
// somebody's history.
func TestWhatWasKeptInEveryVersionIsRead(t *testing.T) {
	t.Run("a state of the second version", func(t *testing.T) {
		c, err := library.ReadState(golden(t, "state.v2.json"))
		require.NoError(t, err)
		assert.Equal(t, whole(), c)
	})
	t.Run("an edition of the second version", func(t *testing.T) {
		e, err := library.ReadEdition(golden(t, "edition.v2.json"))
		require.NoError(t, err)
		want := before()
		want.Pairs, want.Early = nil, 2
		want.Colors[0].Rounded = true
		assert.Equal(t, want, e)
	})
	t.Run("a state of the third", func(t *testing.T) {
		c, err := library.ReadState(golden(t, "state.v3.json"))
		require.NoError(t, err)
		assert.Equal(t, whole(), c)
	})
	t.Run("an edition of the third", func(t *testing.T) {
		e, err := library.ReadEdition(golden(t, "edition.v3.json"))
		require.NoError(t, err)
		want := before()
		want.Early = 3
		want.Colors[0].Rounded = true
		assert.Equal(t, want, e)
		text, err := e.Write()
		require.NoError(t, err)
		again, err := library.ReadEdition(text)
		require.NoError(t, err)
		assert.Equal(t, 3, again.Early, "also after it was brought into another house")
	})
	t.Run("a state of the fourth", func(t *testing.T) {
		c, err := library.ReadState(golden(t, "state.v4.json"))
		require.NoError(t, err)
		assert.Equal(t, whole(), c)
	})
	t.Run("states of the fifth", func(t *testing.T) {
		for file, want := range map[string]library.Color{"state.v5.json": whole(), "state-wide.v5.json": wide()} {
			c, err := library.ReadState(golden(t, file))
			require.NoError(t, err)
			assert.Equal(t, want, c)
		}
	})
	t.Run("states of the sixth", func(t *testing.T) {
		for file, want := range map[string]library.Color{"state-ink.v6.json": inked(), "state-build.v6.json": built()} {
			c, err := library.ReadState(golden(t, file))
			require.NoError(t, err)
			assert.Equal(t, want, c)
		}
	})
	t.Run("a state of the seventh", func(t *testing.T) {
		c, err := library.ReadState(golden(t, "state-sheer.v7.json"))
		require.NoError(t, err)
		assert.Equal(t, sheer(), c)
		text, err := c.WriteState()
		require.NoError(t, err)
		assert.JSONEq(t, golden(t, "state-sheer.v7.json"), text)
	})
	t.Run("an edition of the fourth", func(t *testing.T) {
		e, err := library.ReadEdition(golden(t, "edition.v4.json"))
		require.NoError(t, err)
		want := edition()
		want.Early = 4
		want.Colors[0].Rounded = true
		assert.Equal(t, want, e)
	})
	t.Run("an edition of the fifth", func(t *testing.T) {
		e, err := library.ReadEdition(golden(t, "edition.v5.json"))
		require.NoError(t, err)
		want := edition()
		want.Early = 5
		want.Colors[0].Rounded = true
		assert.Equal(t, want, e)
		assert.Equal(t, want.Colors[0].RGB.Lab(), e.Colors[0].Lab(), "what was computed from the RGB then still is")
	})
	t.Run("an edition of the sixth", func(t *testing.T) {
		e, err := library.ReadEdition(golden(t, "edition.v6.json"))
		require.NoError(t, err)
		want := edition()
		want.Colors = append(want.Colors, wide())
		want.Early = 6
		assert.Equal(t, want, e)
	})
	t.Run("an edition of the seventh", func(t *testing.T) {
		e, err := library.ReadEdition(golden(t, "edition.v7.json"))
		require.NoError(t, err)
		want := edition()
		want.Colors = append(want.Colors, wide(), inked(), built())
		want.Early = 7
		assert.Equal(t, want, e)
	})
	t.Run("an edition of the eighth", func(t *testing.T) {
		e, err := library.ReadEdition(golden(t, "edition.v8.json"))
		require.NoError(t, err)
		want := edition()
		want.Colors = append(want.Colors, wide(), inked(), built(), sheer())
		want.Early = 8
		assert.Equal(t, want, e)
	})
	t.Run("an edition of the ninth", func(t *testing.T) {
		e, err := library.ReadEdition(golden(t, "edition.v9.json"))
		require.NoError(t, err)
		want := edition()
		want.Colors = append(want.Colors, wide(), inked(), built(), sheer())
		want.Loading = []library.HouseNote{{Key: "office-file", Text: "Drawer \"K:\\colors\".\nAsk Kim."}}
		want.Early = 9
		assert.Equal(t, want, e)
	})
	t.Run("an edition of the tenth", func(t *testing.T) {
		e, err := library.ReadEdition(golden(t, "edition.v10.json"))
		require.NoError(t, err)
		want := edition()
		want.Colors = append(want.Colors, wide(), inked(), built(), sheer())
		want.Loading = []library.HouseNote{{Key: "office-file", Text: "Drawer \"K:\\colors\".\nAsk Kim."}}
		want.Early = 10
		assert.Equal(t, want, e)
	})
	t.Run("an edition of the eleventh", func(t *testing.T) {
		e, err := library.ReadEdition(golden(t, "edition.v11.json"))
		require.NoError(t, err)
		want := edition()
		enamel := library.Color{ID: 17, Name: "Enamel", Status: library.Approved}
		enamel.Master, enamel.RGB = library.ReadSpectrum(color.Lab{L: 50}, color.Spectrum{Start: 380, Step: 20, Values: slices.Repeat([]float64{0.1842}, 18)})
		want.Colors = append(want.Colors, wide(), inked(), built(), sheer(), enamel)
		want.Loading = []library.HouseNote{{Key: "office-file", Text: "Drawer \"K:\\colors\".\nAsk Kim."}}
		assert.Equal(t, want, e)
		text, err := e.Write()
		require.NoError(t, err)
		assert.JSONEq(t, golden(t, "edition.v11.json"), text)
	})
	t.Run("states of the first", func(t *testing.T) {
		c, err := library.ReadState(golden(t, "state-heather-cliff.v1.json"))
		require.NoError(t, err)
		assert.Equal(t, [6]string{"#624B68", "35.12 14.20 -13.01", "Landscape", "accent", "Hull White", "campaign"},
			[6]string{c.RGB.Hex(), library.WriteLab(*c.Reading()), c.Group, string(c.Role), c.Ground.Name, strings.Join(c.Tags, ",")})
		assert.Equal(t, 4.5, c.Ratio)
		c, err = library.ReadState(golden(t, "state-old-funnel.v1.json"))
		require.NoError(t, err)
		assert.True(t, c.Retired())
		assert.Equal(t, "Buoy", c.Successor.Name)
		c, err = library.ReadState(golden(t, "state-deep-sound.v1.json"))
		require.NoError(t, err)
		b, ok := c.Build("coated")
		require.True(t, ok)
		assert.Equal(t, "96 50 20 64 Keeper #0E3A53", b.Value.String()+" "+b.By.Name+" "+b.For.Hex())
		assert.Equal(t, []string{"Hull blue"}, c.Aliases)
		assert.Len(t, c.Companions, 2)
	})
	t.Run("an edition of the first", func(t *testing.T) {
		e, err := library.ReadEdition(golden(t, "edition.v1.json"))
		require.NoError(t, err)
		assert.Equal(t, "Odelwick Ferries, Core, edition 2", e.Title())
		require.NotEmpty(t, e.Colors)
		first := e.Colors[0]
		assert.Equal(t, "Deep Sound #0E3A53", first.Name+" "+first.RGB.Hex())
		assert.NotZero(t, first.ID)
		b, ok := first.Build("coated")
		require.True(t, ok)
		assert.Equal(t, library.Signed, b.Origin)
		assert.Equal(t, int64(88e6), int64(b.At.Nanosecond()), "to the millisecond")
	})
	t.Run("but not of a version to come", func(t *testing.T) {
		_, err := library.ReadState(`{"version": 99}`)
		assert.ErrorContains(t, err, "newer Hue Keep")
		_, err = library.ReadEdition(`{"version": 99}`)
		assert.ErrorContains(t, err, "newer Hue Keep")
		_, err = library.ReadState(`{`)
		assert.Error(t, err)
		_, err = library.ReadState(`{"version": 2, "color": {"name": "X", "hex": "blue"}}`)
		assert.ErrorContains(t, err, "X")
	})
}

func TestChanges(t *testing.T) {
	a := library.Color{ID: 1, Name: "A", RGB: color.RGB8{R: 1}, Status: library.Approved}
	b := library.Color{ID: 2, Name: "B", RGB: color.RGB8{R: 2}, Status: library.Approved}
	c := library.Color{ID: 3, Name: "C", RGB: color.RGB8{R: 3}, Status: library.Approved}
	with := func(c library.Color, change func(*library.Color)) library.Color { change(&c); return c }
	kept := func(kind string, ground library.Ref, red uint8) library.Color {
		return with(a, func(c *library.Color) {
			c.Companions = []library.Companion{{Kind: kind, Amount: 40, Permitted: true, Ground: ground, Over: color.RGB8{R: red}}}
		})
	}
	signed := library.Build{Press: "coated", Value: color.CMYK{K: 50}, At: day}
	derived := library.Build{Press: "coated", Value: color.CMYK{K: 51}, Origin: library.Derived}
	for name, tt := range map[string]struct {
		old, now []library.Color
		want     []string
	}{
		"nothing":               {[]library.Color{a, b}, []library.Color{a, b}, nil},
		"added":                 {[]library.Color{a}, []library.Color{a, b}, []string{"B added"}},
		"removed":               {[]library.Color{a, b}, []library.Color{b}, []string{"A removed"}},
		"moved":                 {[]library.Color{a, b}, []library.Color{b, a}, []string{"the order changed"}},
		"added in front":        {[]library.Color{a, b}, []library.Color{c, a, b}, []string{"C added"}},
		"amended":               {[]library.Color{a}, []library.Color{with(a, func(c *library.Color) { c.RGB.G = 9 })}, []string{"A amended from #010000 to #010900"}},
		"renamed":               {[]library.Color{a}, []library.Color{with(a, func(c *library.Color) { c.Name = "Z" })}, []string{"A renamed to Z"}},
		"retired":               {[]library.Color{a}, []library.Color{with(a, func(c *library.Color) { c.Status = library.Retired })}, []string{"A is retired"}},
		"a build approved":      {[]library.Color{a}, []library.Color{with(a, func(c *library.Color) { c.Builds = []library.Build{signed} })}, []string{"A: print values changed"}},
		"a derived build moved": {[]library.Color{with(a, func(c *library.Color) { c.Builds = []library.Build{derived} })}, []library.Color{a}, nil},
		"signed by an account":  {[]library.Color{with(a, func(c *library.Color) { c.Builds = []library.Build{signed} })}, []library.Color{with(a, func(c *library.Color) { s := signed; s.By.Account = 4; c.Builds = []library.Build{s} })}, nil},
		"a tint kept":           {[]library.Color{a}, []library.Color{kept("tint", library.Ref{}, 0)}, []string{"A: which tints, shades and sheers may be used changed"}},
		"a tint exchanged":      {[]library.Color{kept("tint", library.Ref{}, 0)}, []library.Color{kept("shade", library.Ref{}, 0)}, []string{"A: which tints, shades and sheers may be used changed"}},
		"a sheer kept":          {[]library.Color{kept("sheer", b.Ref(), 2)}, []library.Color{kept("sheer", b.Ref(), 2)}, nil},
		"a ground renamed":      {[]library.Color{kept("sheer", library.Ref{ID: 2, Name: "Old B"}, 2)}, []library.Color{kept("sheer", b.Ref(), 2)}, nil},
		"a ground amended":      {[]library.Color{kept("sheer", b.Ref(), 2)}, []library.Color{kept("sheer", b.Ref(), 7)}, []string{"A, 40 % over B: its ground was amended from #020000 to #070000"}},
		"another ground":        {[]library.Color{kept("sheer", b.Ref(), 2)}, []library.Color{kept("sheer", c.Ref(), 2)}, []string{"A: which tints, shades and sheers may be used changed"}},
		"of an unknown color":   {[]library.Color{{Name: "Gone"}}, []library.Color{a}, []string{"A added", "Gone removed"}},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, tt.want, library.Changes(tt.old, tt.now)) })
	}
}

func TestRelativesFollowTheMaster(t *testing.T) {
	c := library.Color{Name: "Deep Sound", RGB: color.RGB8{R: 0x0E, G: 0x3A, B: 0x53}, Status: library.Approved, Companions: []library.Companion{
		{Kind: "step", Amount: 300, Permitted: true}, {Kind: "tint", Amount: 30, Permitted: true}, {Kind: "tint", Amount: 60}, {Kind: "shade", Amount: 80}, {Kind: "tone", Amount: 50}}}
	var names []string
	for _, r := range c.Relatives() {
		names = append(names, r.Name(c.Name))
		assert.Equal(t, r.Kind == "tint", r.Build != nil)
	}
	assert.Equal(t, []string{"Deep Sound, 60 % tint", "Deep Sound, 30 % tint", "Deep Sound, 80 % shade", "Deep Sound, 50 % tone", "Deep Sound 300"}, names)
	var permitted []string
	for _, p := range c.Permitted() {
		permitted = append(permitted, p.Name)
	}
	assert.Equal(t, []string{"Deep Sound, 30 % tint", "Deep Sound 300"}, permitted)
	assert.Empty(t, library.Color{}.Relatives())
}

func TestColorsThatCannotBe(t *testing.T) {
	ok := library.Color{Name: "A", Status: library.Approved}
	require.NoError(t, ok.Check())
	for want, change := range map[string]func(*library.Color){
		`A: the status "x" is none of draft, approved, retired`:                           func(c *library.Color) { c.Status = "x" },
		`A: the role "x;" has ';' in it; letters, digits, blanks and hyphens make a role`: func(c *library.Color) { c.Role = "x;" },
		"A: the rule has 2001 characters; at most 2000 fit":                               func(c *library.Color) { c.Rule = strings.Repeat("x", 2001) },
		"A: it has two builds for the press coated":                                       func(c *library.Color) { c.Builds = []library.Build{{Press: "coated"}, {Press: "coated"}} },
		"A: it has two inks for coated stock":                                             func(c *library.Color) { c.Spots = []library.Spot{{Stock: "coated"}, {Stock: "coated"}} },
		`A: there is no stock "linen"; there are coated and uncoated`:                     func(c *library.Color) { c.Spots = []library.Spot{{Stock: "linen"}} },
		"A: tint 5 is listed twice": func(c *library.Color) {
			c.Companions = []library.Companion{{Kind: "tint", Amount: 5}, {Kind: "tint", Amount: 5}}
		},
		"A: there is no step 5; there are 50, 100 to 900, 950":  func(c *library.Color) { c.Companions = []library.Companion{{Kind: "step", Amount: 5}} },
		`A: "cousin" is none of tint, shade, tone, sheer, step`: func(c *library.Color) { c.Companions = []library.Companion{{Kind: "cousin", Amount: 5}} },
		"A: a shade lies between 1 and 99 percent":              func(c *library.Color) { c.Companions = []library.Companion{{Kind: "shade", Amount: 100}} },
		"A: a contrast ratio lies between 1 and 21":             func(c *library.Color) { c.Ground, c.Ratio = library.Ref{Name: "B"}, 22 },
	} {
		c := ok
		change(&c)
		assert.EqualError(t, c.Check(), want)
	}
}

func TestLegible(t *testing.T) {
	c := library.Color{RGB: color.RGB8{R: 0x76, G: 0x76, B: 0x76}, Ratio: 4.5}
	ratio, passes := c.Legible(color.RGB8{R: 255, G: 255, B: 255})
	assert.InDelta(t, 4.54, ratio, 0.01)
	assert.True(t, passes)
	_, passes = c.Legible(color.RGB8{R: 250, G: 250, B: 250})
	assert.False(t, passes)
}

func FuzzReadState(f *testing.F) {
	for _, name := range []string{"state.v2.json", "state-deep-sound.v1.json", "state-heather-cliff.v1.json"} {
		data, err := os.ReadFile(filepath.Join("testdata", name))
		require.NoError(f, err)
		f.Add(string(data))
	}
	f.Fuzz(func(t *testing.T, text string) {
		defer hostile.Timely(t, len(text))()
		c, err := library.ReadState(text)
		if err != nil {
			return
		}
		again, err := c.WriteState()
		require.NoError(t, err)
		back, err := library.ReadState(again)
		require.NoError(t, err, again)
		assert.Equal(t, c.RGB, back.RGB)
	})
}

func read(lab color.Lab) library.Master {
	m, _ := library.Read(lab)
	return m
}
