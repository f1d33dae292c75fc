package form_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/form"
)

var buoy = form.Paint{Name: "Buoy", RGB: color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}, CMYK: &color.CMYK{C: 0, M: 77, Y: 92.5, K: 6}}

func TestAnotherColorIsWrittenAsTheOneThatStands(t *testing.T) {
	for name, c := range map[string]struct {
		form      form.Form
		old, want string
	}{
		"capitals":          {form.Hex("RGB"), "E1572C", "E2572B"},
		"small letters":     {form.Hex("RGB"), "e1572c", "e2572b"},
		"digits only":       {form.Hex("RGB"), "112233", "E2572B"},
		"alpha in front":    {form.Hex("ARGB"), "80e1572c", "80e2572b"},
		"alpha left out":    {form.Hex("ARGB"), "E1572C", "E2572B"},
		"alpha behind":      {form.Hex("RGBA"), "0xE1572C80", "0xE2572B80"},
		"blue in front":     {form.Hex("ABGR"), "&H002C57E1", "&H002B57E2"},
		"alpha in small":    {form.Hex("ARGB"), "#ffE1572C", "#ffE2572B"},
		"a mark in front":   {form.Hex("ARGB"), "#ffe1572c", "#ffe2572b"},
		"numbers to 1":      {form.Numbers(1), "[ 0.88, 0.34, 0.17, 0.5 ]", "[ 0.8863, 0.341, 0.1686, 0.5 ]"},
		"numbers to 255":    {form.Numbers(255), `{"r":225,"g":87,"b":44}`, `{"r":226,"g":87,"b":43}`},
		"inks to 1":         {form.Inks(1), "0 0.7 0.9 0.1 k", "0 0.77 0.925 0.06 k"},
		"inks in percent":   {form.Inks(100), "cmyk(0% 70% 90% 10%)", "cmyk(0% 77% 92.5% 6%)"},
		"a style sheet":     {form.CSS, "rgb(225 87 44 / 50%)", "rgb(226 87 43 / 50%)"},
		"inside of quotes":  {form.Quoted(form.CSS), `'#E1572C'`, `'#E2572B'`},
		"no link was asked": {form.Linked(form.CSS, []string{"--buoy"}, func(_, key string) string { return "var(" + key + ")" }), "#e1572c", "#e2572b"},
	} {
		got, err := c.form.Write(c.old, buoy)
		require.NoError(t, err, name)
		assert.Equal(t, c.want, got, name)
	}
	linked := buoy
	linked.Link = func(key string) bool { return key == "--buoy" }
	got, err := form.Linked(form.CSS, []string{"--sea", "--buoy"}, func(_, key string) string { return "var(" + key + ")" }).Write("#e1572c", linked)
	require.NoError(t, err)
	assert.Equal(t, "var(--buoy)", got)

	for name, f := range map[string]func() (string, error){
		"too few digits":  func() (string, error) { return form.Hex("RGB").Write("E157", buoy) },
		"no digits":       func() (string, error) { return form.Hex("ARGB").Write("auto", buoy) },
		"two numbers":     func() (string, error) { return form.Numbers(1).Write("1 2", buoy) },
		"a build is none": func() (string, error) { return form.Inks(1).Write("0 0 0 1 k", form.Paint{Name: "Lamp"}) },
	} {
		_, err := f()
		assert.Error(t, err, name)
	}
	_, err = form.Inks(1).Write("0 0 0 1 k", form.Paint{Name: "Lamp"})
	assert.EqualError(t, err, "Lamp has no CMYK build that could be written here")
}

func TestDigitsAreReadInTheirOrder(t *testing.T) {
	for text, order := range map[string]string{"80E2572B": "ARGB", "E2572B80": "RGBA", "802B57E2": "ABGR"} {
		c, alpha, err := form.ReadHex(text, order)
		require.NoError(t, err)
		assert.Equal(t, "#E2572B", c.Hex(), order)
		assert.InDelta(t, 128.0/255, alpha, 1e-9)
	}
	c, alpha, err := form.ReadHex("#E2572B", "ARGB")
	require.NoError(t, err)
	assert.Equal(t, "#E2572B", c.Hex())
	assert.Equal(t, 1.0, alpha)
}
