package opc_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/hostile"
	"huekeep/core/markup"
	"huekeep/core/opc"
	"huekeep/core/source"
)

// colorOf reads one color element with its transforms.
func colorOf(t testing.TB, text string) opc.Color {
	t.Helper()
	r := markup.NewReader([]byte(text))
	var c opc.Color
	for {
		e, err := r.Next()
		require.NoError(t, err, text)
		switch {
		case e == markup.End:
			return c
		case e == markup.Open && r.Depth() == 1:
			require.True(t, opc.IsColor(markup.Local(r.Name)), text)
			c = opc.StartColor(r)
		case e == markup.Open:
			c.Add(r)
		}
	}
}

// Values worked out by hand from ECMA-376 part 1, 20.1.2.3.
func TestColorsOfDrawings(t *testing.T) {
	slots := func(name string) (color.RGB8, bool) { return color.RGB8{R: 0x40, G: 0x80, B: 0xC0}, name == "accent1" }
	for text, want := range map[string]string{
		`<a:srgbClr val="4080c0"/>`:                                   "#4080C0 4080c0 1",
		`<a:srgbClr val="408"/>`:                                      "none 408 1",
		`<a:srgbClr/>`:                                                "none srgbClr without a value 1",
		`<a:prstClr val="ltGray"/>`:                                   "#D3D3D3 ltGray 1",
		`<a:prstClr val="medSeaGreen"/>`:                              "#3CB371 medSeaGreen 1",
		`<a:prstClr val="medley"/>`:                                   "none medley 1",
		`<a:sysClr val="window"/>`:                                    "#FFFFFF window 1",
		`<a:sysClr val="windowText" lastClr="0A0B0C"/>`:               "#0A0B0C 0A0B0C 1",
		`<a:sysClr/>`:                                                 "#000000 windowText 1",
		`<a:schemeClr val="accent1"/>`:                                "#4080C0 accent1 1",
		`<a:schemeClr val="phClr"/>`:                                  "none phClr 1",
		`<a:scrgbClr r="100%" g="0" b="50%"/>`:                        "#FF00BC scrgb 100% 0 50% 1",
		`<a:hslClr hue="21600000" sat="100000" lum="50000"/>`:         "#FF0000 hsl 21600000 100000 50000 1",
		`<a:srgbClr val="4080C0"><a:lumMod val="75000"/></a:srgbClr>`: "#306090 4080C0 lumMod 75% 1",
		`<a:srgbClr val="4080C0"><a:lumMod val="40000"/><a:lumOff val="60000"/></a:srgbClr>`:  "#B3CCE6 4080C0 lumMod 40% lumOff 60% 1",
		`<a:srgbClr val="4080C0"><a:lum val="150%"/></a:srgbClr>`:                             "#FFFFFF 4080C0 lum 150% 1",
		`<a:srgbClr val="4080C0"><a:sat val="0"/></a:srgbClr>`:                                "#808080 4080C0 sat 0% 1",
		`<a:srgbClr val="4080C0"><a:hue val="0"/></a:srgbClr>`:                                "#C04040 4080C0 hue 0° 1",
		`<a:srgbClr val="4080C0"><a:comp/></a:srgbClr>`:                                       "#C08040 4080C0 comp 1",
		`<a:srgbClr val="FF0000"><a:tint val="50000"/></a:srgbClr>`:                           "#FFBCBC FF0000 tint 50% 1",
		`<a:srgbClr val="FF0000"><a:inv/></a:srgbClr>`:                                        "#00FFFF FF0000 inv 1",
		`<a:srgbClr val="FFFFFF"><a:green val="0"/><a:blueMod val="0"/></a:srgbClr>`:          "#FF0000 FFFFFF green 0% blueMod 0% 1",
		`<a:srgbClr val="00FF00"><a:gray/></a:srgbClr>`:                                       "#DCDCDC 00FF00 gray 1",
		`<a:srgbClr val="4080C0"><a:alpha val="80000"/><a:alphaMod val="50000"/></a:srgbClr>`: "#4080C0 4080C0 alpha 80% alphaMod 50% 0.4",
		`<a:srgbClr val="4080C0"><a:alphaOff val="50000"/></a:srgbClr>`:                       "#4080C0 4080C0 alphaOff 50% 1",
	} {
		c := colorOf(t, text)
		got := "none"
		if rgb, ok := c.RGB(slots); ok {
			got = rgb.Hex()
		}
		assert.Equal(t, want, fmt.Sprintf("%s %s %g", got, c.Written(), math.Round(c.Opacity()*1000)/1000), text)
	}
	c := colorOf(t, `<a:schemeClr val="accent1"><a:lumMod val="50000"/><a:alpha val="50000"/></a:schemeClr>`)
	assert.True(t, c.Changed())
	plain, ok := c.Plain(slots)
	assert.True(t, ok)
	assert.Equal(t, "#4080C0", plain.Hex())
	other, ok := c.With(color.RGB8{R: 255, G: 255, B: 255})
	assert.True(t, ok)
	assert.Equal(t, "#808080", other.Hex())
	assert.False(t, colorOf(t, `<a:srgbClr val="4080C0"><a:alpha val="50000"/></a:srgbClr>`).Changed())
}

func pack(t testing.TB, parts map[string]string) *source.Part {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range parts {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, _ = w.Write([]byte(text))
	}
	require.NoError(t, z.Close())
	return source.Open("x.pptx", b.Bytes()).Root
}

func TestPartsAndTheirRelationships(t *testing.T) {
	rel := func(id, kind, target string) string {
		return fmt.Sprintf(`<Relationship Id="%s" Type="http://x/relationships/%s" Target="%s"/>`, id, kind, target)
	}
	k, err := opc.Open(pack(t, map[string]string{
		"[Content_Types].xml":   "<Types/>",
		"_rels/.rels":           `<Relationships>` + rel("rId1", "officeDocument", "ppt/presentation.xml") + `</Relationships>`,
		"ppt\\presentation.xml": `<p/>`, // as some programs part folders
		"ppt/_rels/presentation.xml.rels": `<Relationships>` + rel("rId10", "slide", "slides/slide2.xml") + rel("rId2", "slide", "/ppt/slides/./slide1.xml") + rel("rId3", "theme", "../theme.xml") +
			`<Relationship Id="rId4" Type="http://x/relationships/hyperlink" Target="https://example.org" TargetMode="External"/></Relationships>`,
		"ppt/master.xml": `<p:sldMaster><p:clrMap bg1="dk1" tx1="lt1"/></p:sldMaster>`,
		"ppt/broken.xml": `<a><b></a>`,
	}))
	require.NoError(t, err)
	main, err := k.Main()
	require.NoError(t, err)
	assert.Equal(t, "ppt/presentation.xml", main)
	rels, err := k.Relations(main)
	require.NoError(t, err)
	assert.Equal(t, []opc.Relation{{ID: "rId2", Kind: "slide", Target: "ppt/slides/slide1.xml"}, {ID: "rId3", Kind: "theme", Target: "theme.xml"}, {ID: "rId10", Kind: "slide", Target: "ppt/slides/slide2.xml"}}, rels)
	theme, ok := k.First(main, "theme")
	assert.True(t, ok)
	assert.Equal(t, "theme.xml", theme)
	one, ok := k.ByID(main, "rId10")
	assert.True(t, ok)
	assert.Equal(t, "ppt/slides/slide2.xml", one.Target)
	_, ok = k.ByID(main, "rId99")
	assert.False(t, ok)
	_, err = k.Part("ppt/nothing.xml")
	assert.EqualError(t, err, `its part "ppt/nothing.xml" is missing`)
	remap, err := k.ColorMap("ppt/master.xml", "clrMap")
	require.NoError(t, err)
	s := opc.NewScope(opc.Theme{Part: "theme.xml", Slots: map[string]color.RGB8{"dk1": {R: 1}, "lt2": {R: 2}}}, remap)
	c, ok := s.Color("bg1")
	assert.True(t, ok)
	assert.EqualValues(t, 1, c.R, "the master's map")
	c, ok = s.Color("bg2")
	assert.True(t, ok)
	assert.EqualValues(t, 2, c.R, "the usual map")
	assert.Equal(t, "theme.xml#dk1", s.Key(s.Slot("bg1")))
	_, err = k.ColorMap("ppt/broken.xml", "clrMap")
	assert.ErrorContains(t, err, `its part "ppt/broken.xml": line 1`)
	assert.Contains(t, k.Names(), "ppt/presentation.xml")

	_, err = opc.Open(pack(t, map[string]string{"a.txt": "x"}))
	assert.ErrorContains(t, err, "not an office document")
	k, err = opc.Open(pack(t, map[string]string{"[Content_Types].xml": "<Types/>"}))
	require.NoError(t, err)
	_, err = k.Main()
	assert.ErrorContains(t, err, "without a main part")
}

const theme = `<a:theme xmlns:a="x" name="T"><a:themeElements><a:clrScheme name="Ferries"><a:dk1><a:sysClr val="windowText" lastClr="111111"/></a:dk1>` +
	`<a:accent1><a:srgbClr val="E2572B"><a:lumMod val="50000"/><a:alpha val="50000"/></a:srgbClr></a:accent1><a:accent2><a:srgbClr val="orange"/></a:accent2></a:clrScheme>` +
	`<a:fmtScheme><a:fillStyleLst><a:solidFill><a:srgbClr val="123456"/></a:solidFill></a:fillStyleLst></a:fmtScheme></a:themeElements>` +
	`<a:extraClrSchemeLst><a:extraClrScheme><a:clrScheme name="Other"><a:dk1><a:srgbClr val="654321"/></a:dk1></a:clrScheme></a:extraClrScheme></a:extraClrSchemeLst>` +
	`<a:custClrLst><a:custClr name="Buoy"><a:srgbClr val="E2572B"/></a:custClr><a:custClr><a:prstClr val="navy"/></a:custClr></a:custClrLst></a:theme>`

func TestThemes(t *testing.T) {
	got, err := opc.ReadTheme(source.Open("theme1.xml", []byte(theme)).Root)
	require.NoError(t, err)
	assert.Equal(t, "Ferries", got.Name)
	assert.Len(t, got.Slots, 2)
	var list []string
	for _, c := range got.Colors {
		list = append(list, fmt.Sprintf("%s %t %s %g", c.Name, c.Custom, c.RGB.Hex(), c.Opacity))
	}
	assert.Equal(t, []string{"dk1 false #111111 1", "accent1 false #762910 0.5", "Buoy true #E2572B 1", " true #000080 1"}, list)
	assert.EqualError(t, got.Wrong, "line 1: accent2 is orange, which is not a color")
	_, err = opc.ReadTheme(source.Open("theme1.xml", []byte(theme[:200])).Root)
	assert.ErrorContains(t, err, `its part "theme1.xml"`)
}

// FuzzTheme holds whatever a theme says to what every theme has.
func FuzzTheme(f *testing.F) {
	f.Add(theme)
	f.Add(strings.ReplaceAll(theme, "a:", ""))
	f.Fuzz(func(t *testing.T, text string) {
		defer hostile.Timely(t, len(text))()
		if len(text) > 1<<13 {
			t.Skip()
		}
		got, err := opc.ReadTheme(source.Open("theme1.xml", []byte(text)).Root)
		if err != nil {
			assert.Contains(t, err.Error(), "theme1.xml")
			return
		}
		slots := 0
		for _, c := range got.Colors {
			assert.True(t, c.Opacity >= 0 && c.Opacity <= 1, "%v", c)
			if !c.Custom {
				slots++
			}
		}
		assert.LessOrEqual(t, len(got.Slots), slots)
	})
}
