package pdf_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/library"
)

// printed is a PDF of one page with a spot ink and a content stream.
func printed(content string) []byte {
	return audittest.Page(content, "/ColorSpace<</A[/Separation/QN-0076/DeviceCMYK 5 0 R]/B[/Separation/QN#2D0999/DeviceCMYK 5 0 R]/C[/Indexed/DeviceRGB 1<E2572B0E3A53>]/D[/DeviceN[/QN-0076/Black]/DeviceCMYK 5 0 R]/L[/Lab<</WhitePoint[0.9642 1 0.8249]>>]>>",
		"<</FunctionType 2/Domain[0 1]/C0[0 0 0 0]/C1[0 0.77 0.92 0.06]/N 1>>")
}

// What is written as inks is judged as inks: a build against the library's, within 1 % of each, a spot ink by its name.
func TestInksAreJudgedInTheirOwnSpace(t *testing.T) {
	rules := audittest.Rules("Buoy #E2572B", "Lamp #F2B632")
	rules.Neutrals = true
	rules.Colors[0].Builds = []library.Build{{Press: "coated", Value: color.CMYK{C: 0, M: 77, Y: 92, K: 6}}}
	rules.Colors[0].Spots = []library.Spot{{Stock: "coated", Code: "QN-0076"}}
	scan, err := kinds.Read("x.pdf", printed(`0 0.77 0.92 0.06 k f 0 0.775 0.915 0.06 k f 0 0.74 0.9 0.06 k f 1 0 0 0 K S 0 0 0 1 k BT (a) Tj ET
/A cs 1 scn f /B cs 0.5 scn f /C cs 1 sc f /D cs 1 0.2 scn f /L cs 50 60 40 scn f 0.5 g f`))
	require.NoError(t, err)
	got := map[string]audit.Verdict{}
	nearest := map[string]string{}
	for _, c := range audit.NewJudge(rules).Judge("x.pdf", scan).Colors {
		got[c.Key] = c.Verdict
		if c.Nearest != nil {
			nearest[c.Key] = c.Nearest.Name
		}
	}
	assert.Equal(t, audit.OnBrand, got["0 77 92 6"])
	assert.Equal(t, audit.OnBrand, got["0 77.5 91.5 6"], "within 1 % of each ink")
	assert.Equal(t, audit.Drifted, got["0 74 90 6"])
	assert.Equal(t, audit.OffBrand, got["100 0 0 0"])
	assert.Equal(t, audit.OnBrand, got["0 0 0 100"], "black is a neutral")
	assert.Equal(t, audit.OnBrand, got["QN-0076"], "an ink by its name")
	assert.Equal(t, audit.OffBrand, got["QN-0999"])
	assert.Equal(t, audit.OffBrand, got["#0E3A53"], "a color of a table")
	assert.Equal(t, audit.OnBrand, got["#808080"])
	assert.Equal(t, "Buoy", nearest["QN-0076"])
	assert.Contains(t, got, "Black", "each ink of several is told")
}
