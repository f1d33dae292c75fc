package library_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/library"
)

// What a color points to is led elsewhere; what hung on a reference that is none now goes with it.
func TestWhatAColorPointsToIsLedElsewhere(t *testing.T) {
	fog, mist, gone := library.Ref{ID: 1, Name: "Fog"}, library.Ref{ID: 2, Name: "Mist"}, library.Ref{ID: 3, Name: "Gone"}
	to := func(r library.Ref) library.Ref {
		switch r {
		case mist:
			return fog
		case gone:
			return library.Ref{}
		}
		return r
	}
	over := func(r library.Ref) library.Companion { return library.Companion{Kind: "sheer", Amount: 40, Ground: r} }
	tint := library.Companion{Kind: "tint", Amount: 40}
	for name, c := range map[string]struct {
		of, want library.Color
		gone     int
	}{
		"all stays": {library.Color{Successor: fog, Ground: fog, Ratio: 4.5, Companions: []library.Companion{over(fog), tint}},
			library.Color{Successor: fog, Ground: fog, Ratio: 4.5, Companions: []library.Companion{over(fog), tint}}, 0},
		"led elsewhere, with its ratio":              {library.Color{Successor: mist, Ground: mist, Ratio: 3}, library.Color{Successor: fog, Ground: fog, Ratio: 3}, 0},
		"the ratio goes with its ground":             {library.Color{Ground: gone, Ratio: 3, Successor: gone}, library.Color{}, 0},
		"nothing is asked of no ground":              {library.Color{Ratio: 3}, library.Color{Ratio: 3}, 0},
		"two grounds are one":                        {library.Color{Companions: []library.Companion{over(fog), over(mist), tint}}, library.Color{Companions: []library.Companion{over(fog), tint}}, 0},
		"a sheer goes with its ground":               {library.Color{Companions: []library.Companion{over(gone), over(fog), over(gone)}}, library.Color{Companions: []library.Companion{over(fog)}}, 2},
		"what is there twice is not for this to say": {library.Color{Companions: []library.Companion{tint, tint}}, library.Color{Companions: []library.Companion{tint, tint}}, 0},
	} {
		assert.Equal(t, c.gone, c.of.Point(to), name)
		assert.Equal(t, c.want, c.of, name)
	}
}

// Two companions are one by what they are over: by its number where both have one, by its name elsewhere.
func TestCompanionsAreOneByWhatTheyAreOver(t *testing.T) {
	over := func(id int64, name string) library.Companion {
		return library.Companion{Kind: "sheer", Amount: 40, Ground: library.Ref{ID: id, Name: name}}
	}
	for _, c := range []struct {
		a, b library.Companion
		one  bool
	}{
		{over(7, "Fog"), over(7, "Fog of before"), true},
		{over(7, "Fog"), over(8, "Fog"), false},
		{over(7, "Fog"), over(0, "Fog"), true},
		{over(0, "Fog"), over(7, "Mist"), false},
		{over(0, "Fog"), over(0, "Fog"), true},
		{over(7, "Fog"), library.Companion{Kind: "sheer", Amount: 40}, false},
		{library.Companion{Kind: "sheer", Amount: 40}, library.Companion{Kind: "sheer", Amount: 41}, false},
		{library.Companion{Kind: "tint", Amount: 40}, library.Companion{Kind: "shade", Amount: 40}, false},
	} {
		err := library.CheckCompanions([]library.Companion{c.a, c.b})
		if c.one {
			assert.ErrorContains(t, err, "twice", "%v %v", c.a, c.b)
		} else {
			assert.NoError(t, err, "%v %v", c.a, c.b)
		}
	}
}

func TestTitlesOfEditions(t *testing.T) {
	e := library.Edition{House: "Odelwick Ferries", Set: "Core"}
	assert.Equal(t, "Odelwick Ferries, Core", e.Title(), "of what is not fixed yet")
	e.Number = 1
	assert.Equal(t, "Odelwick Ferries, Core, edition 1", e.Title())
}

// What differs of an approval in any of its parts is told, and the account of whoever gave it is none of them.
func TestWhatDiffersOfAnApproval(t *testing.T) {
	told := func(change func(*library.Color)) []string {
		was, is := whole(), whole()
		change(&is)
		return library.Changes([]library.Color{was}, []library.Color{is})
	}
	assert.Empty(t, told(func(*library.Color) {}))
	assert.Empty(t, told(func(c *library.Color) { c.Builds[0].By.Account, c.Spots[0].By.Account = 77, 78 }))
	other := inked().Master
	for name, change := range map[string]func(*library.Color){
		"press":         func(c *library.Color) { c.Builds[0].Press = "matt" },
		"inks":          func(c *library.Color) { c.Builds[0].Value.K++ },
		"who":           func(c *library.Color) { c.Builds[0].By.Name = "Ane" },
		"when":          func(c *library.Color) { c.Builds[0].At = day.Add(time.Hour) },
		"for what":      func(c *library.Color) { c.Builds[0].For.R++ },
		"meant":         func(c *library.Color) { c.Builds[0].Meant = other },
		"stock":         func(c *library.Color) { c.Spots[0].Stock = "uncoated" },
		"code":          func(c *library.Color) { c.Spots[0].Code = "QN-0613" },
		"who, ink":      func(c *library.Color) { c.Spots[0].By.Name = "Ane" },
		"when, ink":     func(c *library.Color) { c.Spots[0].At = day.Add(time.Hour) },
		"for what, ink": func(c *library.Color) { c.Spots[0].For.R++ },
		"meant, ink":    func(c *library.Color) { c.Spots[0].Meant = other },
		"no build":      func(c *library.Color) { c.Builds = nil },
	} {
		assert.NotEmpty(t, told(change), name)
	}
}

// What decides a color is told by its hex where that, or a reading that it follows from, decides; and by itself elsewhere.
func TestWhatASentenceShowsOfAColor(t *testing.T) {
	reading := library.Color{Name: "Moor", Master: read(color.Lab{L: 35.12, A: 14.2, B: -13.01}), RGB: color.RGB8{R: 0x62, G: 0x4B, B: 0x68}}
	for want, c := range map[string]library.Color{
		"#E2572B":                         {RGB: color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}},
		"#624B68":                         reading,
		"ink QN-0132 on coated (#E2702B)": inked(),
	} {
		assert.Equal(t, want, c.Shows())
	}
	assert.True(t, strings.HasSuffix(wide().Shows(), "(#00EC40)"), wide().Shows())
}

// A screen that shows more than sRGB shows the master; a hex that was approved counts where sRGB has the color.
func TestWhatAWideScreenShows(t *testing.T) {
	c := wide()
	assert.Equal(t, c.Exact(), c.Screen())
	c.Plain = library.Plain{Origin: library.Signed}
	assert.Equal(t, c.Exact(), c.Screen(), "the hex is for plain screens alone")
	assert.NotEmpty(t, c.CSS())

	in := inked() // sRGB has it, and its hex was approved
	assert.Equal(t, in.RGB.RGB(), in.Screen())
	assert.Empty(t, in.CSS())
	in.Plain = library.Plain{}
	assert.Equal(t, in.Exact(), in.Screen())
	assert.NotEqual(t, in.RGB.RGB(), in.Screen())

	near := wide() // beyond sRGB by less than anybody sees
	near.Master.Text = "color(display-p3 0.835 0.384 0.225)"
	near.RGB = near.Exact().RGB8()
	assert.Less(t, near.Dulled(), 1.0)
	assert.Empty(t, near.CSS())
}

// Steps of a scale stand from the first to the last, all else with the fullest first.
func TestRelativesAreInOrder(t *testing.T) {
	c := library.Color{Name: "Buoy", RGB: color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}, Companions: []library.Companion{
		{Kind: "step", Amount: 700}, {Kind: "tint", Amount: 20}, {Kind: "step", Amount: 100}, {Kind: "tint", Amount: 60}, {Kind: "step", Amount: 300}}}
	var got []string
	for _, r := range c.Relatives() {
		got = append(got, r.Name(c.Name))
	}
	require.Len(t, got, 5)
	at := func(part string) int {
		for i, n := range got {
			if strings.Contains(n, part) {
				return i
			}
		}
		return -1
	}
	assert.Less(t, at("100"), at("300"))
	assert.Less(t, at("300"), at("700"))
	assert.Less(t, at("60"), at("20"))
}

// A reading with its spectrum is read as it is kept and in no other way, so that one color has one text.
func TestAReadingIsReadAsItIsKept(t *testing.T) {
	values := make([]float64, 36)
	for i := range values {
		values[i] = 0.1 + float64(i)/100
	}
	s := color.Spectrum{Start: 380, Step: 10, Values: values}
	m, _ := library.ReadSpectrum(color.Lab{L: 50.5, A: 10, B: -20.25}, s)
	again, err := library.ReadMaster(m.String())
	require.NoError(t, err)
	assert.Equal(t, m, again)
	for name, text := range map[string]string{
		"Lab with a zero":      strings.Replace(m.String(), "50.5 ", "50.50 ", 1),
		"spectrum with a zero": m.String() + "0",
	} {
		if text == m.String() {
			t.Fatal(name)
		}
		_, err := library.ReadMaster(text)
		assert.Error(t, err, name)
	}
	_, ok := inked().Master.Printed()
	assert.True(t, ok)
	for _, m := range []library.Master{{}, read(color.Lab{L: 50}), wide().Master} {
		_, ok := m.Printed()
		assert.False(t, ok, m)
	}
	for _, text := range []string{`ink coated "QN-1" of "Quern"`, `ink coated "" of "Quern" as 50 0 0`, `build 0 0 0 10 on coated #0123456789abcdef as 50 0`,
		`ink gloss "QN-1" of "Quern" as 50 0 0`} {
		_, err := library.ReadMaster(text)
		assert.Error(t, err, text)
	}
}

// Ratios are asked for between 1 and 21, where there is a ground.
func TestRatiosLieBetweenOneAndTwentyOne(t *testing.T) {
	for ratio, fits := range map[float64]bool{0: false, 0.99: false, 1: true, 4.5: true, 21: true, 21.01: false} {
		c := library.Color{Name: "Buoy", Status: library.Approved, Ground: library.Ref{ID: 1}, Ratio: ratio}
		if err := c.Check(); fits {
			assert.NoError(t, err, ratio)
		} else {
			assert.ErrorContains(t, err, "a contrast ratio lies between 1 and 21", ratio)
		}
		assert.NoError(t, library.Color{Name: "Buoy", Status: library.Approved, Ratio: ratio}.Check(), "without a ground")
	}
}
