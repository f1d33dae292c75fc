package audit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"huekeep/core/audit"
	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/library"
)

// A file that was made with an older edition says so: what was meant is the color as it is today, however far that is, and many findings have one cause.
func TestFindingsOfAnOlderEditionHaveOneCause(t *testing.T) {
	rgb := func(hex string) color.RGB8 {
		c, err := color.FromHex(hex)
		assert.NoError(t, err)
		return c
	}
	one := func(id int64, name, hex string) library.Color {
		return library.Color{ID: id, Name: name, RGB: rgb(hex), Status: library.Approved}
	}
	now := []library.Color{one(1, "Deep Sound", "#0E3A53"), one(2, "Buoy", "#E2572B"), one(3, "Fog", "#C9D1D3"), one(4, "Rust", "#B4441E"), {ID: 5, Name: "Draft", RGB: rgb("#123456"), Status: library.Draft}}
	editions := []library.Edition{
		{Set: "Core", Number: 1, Colors: []library.Color{one(1, "Deep Sound", "#10405C"), one(2, "Buoy", "#B5451F"), one(3, "Fog", "#C9D1D3"), one(9, "Gone", "#654321"), one(5, "Draft", "#111111")}},
		{Set: "Core", Number: 2, Colors: []library.Color{one(1, "Deep Sound", "#10405C"), one(2, "Buoy", "#D84F24")}},
	}
	formers := audit.Formers(editions, now)
	assert.Equal(t, []audit.Former{
		{RGB: rgb("#10405C"), Color: library.Ref{ID: 1, Name: "Deep Sound"}, When: "edition 2 of Core"},
		{RGB: rgb("#B5451F"), Color: library.Ref{ID: 2, Name: "Buoy"}, When: "edition 1 of Core"},
		{RGB: rgb("#D84F24"), Color: library.Ref{ID: 2, Name: "Buoy"}, When: "edition 2 of Core"},
	}, formers, "of two editions with a value the newer one; nothing of what is as it was, is gone or is a draft")
	formers = append(formers, audit.Former{RGB: rgb("#777777"), Color: library.Ref{ID: 3, Name: "Fog"}, When: "June 3, 2026", Until: true}, audit.Former{RGB: rgb("#888888"), Color: library.Ref{ID: 99, Name: "Unknown"}, When: "x"})
	scan, err := kinds.Read("a.css", []byte("a{color:#10405C;background:#10405C}b{color:#D84F24}c{color:#B5451F}d{color:#C9D1D3}e{color:#777777}f{color:#888888}g{color:#00FF00}"))
	assert.NoError(t, err)
	r := audit.NewJudge(audit.Rules{Colors: now, Formers: formers}).Judge("a.css", scan)
	got := map[string][4]string{}
	for _, k := range r.Colors {
		got[k.Hex] = [4]string{string(k.Verdict), k.Nearest.Name, k.Reason, k.Cause}
	}
	assert.Equal(t, [4]string{"drifted", "Deep Sound", "Deep Sound, as edition 2 of Core had it", "made with edition 2 of Core"}, got["#10405C"])
	assert.Equal(t, "made with edition 2 of Core", got["#D84F24"][3])
	assert.Equal(t, "Buoy", got["#B5451F"][1], "Rust is nearer, and was not meant")
	assert.Equal(t, "Buoy, as edition 1 of Core had it", got["#B5451F"][2])
	assert.Equal(t, [4]string{"off-brand", "Fog", "Fog, as it was until June 3, 2026", "made before June 3, 2026"}, got["#777777"])
	assert.Equal(t, "on-brand", got["#C9D1D3"][0])
	assert.Empty(t, got["#00FF00"][3])
	assert.Equal(t, audit.Cause{Text: "made with edition 2 of Core", Colors: 2, Uses: 3}, r.Causes[0])
	both := append(formers, audit.Former{RGB: rgb("#B5451F"), Color: library.Ref{ID: 4, Name: "Rust"}, When: "edition 1 of Signs"})
	for _, k := range audit.NewJudge(audit.Rules{Colors: now, Formers: both}).Judge("a.css", scan).Colors {
		if k.Hex == "#B5451F" {
			assert.Equal(t, "Rust", k.Nearest.Name, "two colors had it: what is nearest stays so")
			assert.NotContains(t, k.Cause, "made with")
		}
	}
	again := audit.NewJudge(audit.Rules{Colors: now, Formers: formers}).Judge("a.css", scan)
	assert.Equal(t, r, again)
}

// Variants that a theme's menu makes, and opacities far from their color, are told; gray and white are nobody's.
func TestVariantsOfAThemeAreTold(t *testing.T) {
	rules := audittest.Rules("Buoy #E2572B", "Sound #0E3A53")
	scan, err := kinds.Read("a.css", []byte("a{color:#4EACE1}b{color:#B13D18}c{color:#FCEEEA}d{color:#00FF00}e{color:#FFFFFF}"))
	assert.NoError(t, err)
	got := map[string][2]string{}
	for _, k := range audit.NewJudge(rules).Judge("a.css", scan).Colors {
		got[k.Hex] = [2]string{k.Reason, k.Cause}
	}
	assert.Equal(t, [2]string{"Sound, 50 % lighter as a theme's menu makes it", "lighter or darker as a theme's menu makes it"}, got["#4EACE1"])
	assert.Equal(t, "Buoy, 25 % darker as a theme's menu makes it", got["#B13D18"][0])
	assert.Equal(t, [2]string{"Buoy under 90 % white", "an opacity over white"}, got["#FCEEEA"])
	assert.Empty(t, got["#00FF00"][0])
	assert.Empty(t, got["#FFFFFF"][0])
}
