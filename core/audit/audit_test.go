package audit_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"sort"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/library"
)

func TestWhatIsNotOpaqueIsSaid(t *testing.T) {
	for name, text := range map[string]string{
		"a.css": "a{color:#E2572B80; background: rgb(1 2 3)} b{color: rgb(14 58 83 / 20%)}",
		"a.svg": `<svg><path fill="#E2572B80"/><path fill="#0E3A53" fill-opacity=".2" stroke-opacity="1"/></svg>`,
	} {
		s, err := kinds.Read(name, []byte(text))
		require.NoError(t, err)
		report := audit.NewJudge(audittest.Rules("Buoy #E2572B")).Judge(name, s)
		assert.Equal(t, []string{"2 uses are not opaque; the colors are listed and judged as if they were."}, report.Notes, name)
	}
}

// What lies over a ground is known where it was worked out, and where it is left to the program that shows it.
func TestSheersAreKnown(t *testing.T) {
	rules := audittest.Rules("Buoy #E2572B", "Fog #C9D1D3")
	rules.Colors[0].Companions = []library.Companion{{Kind: "sheer", Amount: 40, Permitted: true, Ground: library.Ref{Name: "Fog"}, Over: rules.Colors[1].RGB},
		{Kind: "sheer", Amount: 20}}
	rules.Colors = audit.Allowed(rules.Colors)
	s, err := kinds.Read("a.css", []byte("a{color:#E2572B66; background: #D3A090; fill: rgb(226 87 43 / 20%); stroke: rgb(226 87 43 / 40%)} b{color:#F9DDD5}"))
	require.NoError(t, err)
	report := audit.NewJudge(rules).Judge("a.css", s)
	assert.Equal(t, []string{"3 uses are not opaque; the colors are listed and judged as if they were.", "2 uses are of Buoy at an opacity that is permitted for it.",
		"1 use is of Buoy at another opacity than it may have: 40 %."}, report.Notes)
	verdicts := map[string]string{}
	for _, c := range report.Colors {
		verdicts[c.Hex] = string(c.Verdict) + " " + c.Nearest.Name
	}
	assert.Equal(t, "on-brand Buoy, 40 % over Fog", verdicts["#D3A090"])
	assert.NotContains(t, verdicts["#F9DDD5"], "on-brand", "what is kept without being permitted")
}

func TestVerdicts(t *testing.T) {
	rules := audittest.Rules("Buoy #E2572B", "Lamp #F2B632", "Funnel #D9482B retired", "Idea #00FF00 draft")
	scan, err := kinds.Read("x.css", []byte(`a{color:#E2572B;fill:#E1572C;stroke:#D9482B;outline-color:#DA472C;border-color:#2F80ED;background:#00FF00;caret-color:#fff;color:#e2572b}`))
	require.NoError(t, err)
	judge := func(r audit.Rules) map[string]audit.Judged {
		out := map[string]audit.Judged{}
		for _, c := range audit.NewJudge(r).Judge("x.css", scan).Colors {
			out[c.Hex] = c
		}
		return out
	}
	got := judge(rules)
	for hex, v := range map[string]audit.Verdict{"#E2572B": audit.OnBrand, "#E1572C": audit.Drifted, "#D9482B": audit.Retired,
		"#DA472C": audit.Retired, "#2F80ED": audit.OffBrand, "#00FF00": audit.OffBrand, "#FFFFFF": audit.OffBrand} {
		assert.Equal(t, v, got[hex].Verdict, hex)
	}
	assert.Equal(t, 2, got["#E2572B"].Count)
	assert.Equal(t, "Buoy", got["#E1572C"].Nearest.Name)
	assert.Equal(t, "red 1 low, blue 1 high: typed or rounded", got["#E1572C"].Reason)
	assert.Len(t, got["#2F80ED"].Others, 2, "the three nearest for an off-brand color")
	rules.Neutrals = true
	assert.Equal(t, audit.OnBrand, judge(rules)["#FFFFFF"].Verdict)
	rules.Tolerance = 0.1
	assert.Equal(t, audit.OffBrand, judge(rules)["#E1572C"].Verdict)

	report := audit.NewJudge(audittest.Rules("Buoy #E2572B")).Judge("x.css", scan)
	assert.InDelta(t, 2.0/8, *report.Score, 1e-9)
	a, _ := json.Marshal(report)
	b, _ := json.Marshal(audit.NewJudge(audittest.Rules("Buoy #E2572B")).Judge("x.css", scan))
	assert.Equal(t, string(a), string(b), "the same input gives the same report")
	none := audit.NewJudge(rules).Judge("x.css", &audit.Scan{})
	assert.Nil(t, none.Score, "where nothing was judged there is no score")
}

// The search by lightness finds what a look at every color finds.
func TestTheNearestColorsAreTheNearest(t *testing.T) {
	r := rand.New(rand.NewPCG(15, 16))
	var rules audit.Rules
	for i := range 800 {
		rules.Colors = append(rules.Colors, library.Color{Name: fmt.Sprint(i), RGB: color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}})
	}
	scan := &audit.Scan{}
	for range 300 {
		scan.Uses = append(scan.Uses, &audit.Use{Color: audit.Screen(color.RGB8{R: uint8(r.IntN(256)), G: uint8(r.IntN(256)), B: uint8(r.IntN(256))}), Count: 1})
	}
	rules.Tolerance = 0.01
	for _, c := range audit.NewJudge(rules).Judge("x", scan).Colors {
		rgb, err := color.FromHex(c.Hex)
		require.NoError(t, err)
		var all []float64
		for _, l := range rules.Colors {
			all = append(all, color.DeltaE00(rgb.Lab(), l.RGB.Lab()))
		}
		sort.Float64s(all)
		require.InDelta(t, all[0], c.Nearest.DeltaE, 1e-4)
		if c.Verdict == audit.OffBrand {
			require.InDelta(t, all[1], c.Others[0].DeltaE, 1e-4)
			require.InDelta(t, all[2], c.Others[1].DeltaE, 1e-4)
		}
	}
}

// Only all is 100 %, in every place that tells a score.
func TestScoresAreRoundedDown(t *testing.T) {
	for _, c := range []struct {
		good, judged int
		want         string
	}{{20000, 20001, "99.9 %"}, {1, 1, "100.0 %"}, {0, 9, "0.0 %"}, {57, 100, "57.0 %"}, {29, 100, "29.0 %"}, {999, 1000, "99.9 %"}, {2, 3, "66.6 %"}, {0x7fffffff, 0x7fffffff, "100.0 %"}} {
		assert.Equal(t, c.want, fmt.Sprintf("%.1f %%", *audit.Score(c.good, c.judged)*100))
	}
	assert.Nil(t, audit.Score(0, 0))
	for n := range 1001 { // what was kept stays what it was told as
		kept := float64(n) / 1000
		assert.Equal(t, kept, *audit.Kept(&kept))
	}
	older := 0.9999
	assert.Equal(t, 0.999, *audit.Kept(&older))
}
