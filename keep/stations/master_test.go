package stations_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/library"
	"huekeep/core/swatchfile"
	"huekeep/keep/ledger"
	"huekeep/keep/send"
)

// A color that sRGB does not hold stays what it is on every way through a house: pasted, admitted, amended, approved, suggested, brought back,
// fixed, packed, backed up, brought into another house, and judged.
func TestAColorBeyondSRGBGoesThroughAHouse(t *testing.T) {
	r := newRoom(t)
	master := func(id int64) string {
		s, err := r.Ledger.Sheet(ctx, r.Actor, id)
		require.NoError(t, err)
		return s.Row.Decides()
	}
	const flare, brighter = "color(display-p3 0.1 0.9 0.3)", "color(display-p3 0.12 0.95 0.3)"
	ids := r.admit(r.Actor, "Flare "+flare, "Deep Sound #0E3A53")
	assert.Equal(t, flare, master(ids[0]))
	assert.Equal(t, "#0E3A53", master(ids[1]))
	sheet, err := r.Ledger.Sheet(ctx, r.Actor, ids[0])
	require.NoError(t, err)
	assert.Equal(t, "#00E350", sheet.Row.RGB.Hex())
	plain := r.admit(r.Actor, "Plain #00E350")
	other, err := r.Ledger.Sheet(ctx, r.Actor, plain[0])
	require.NoError(t, err)
	assert.Greater(t, sheet.Derived.DeltaE, other.Derived.DeltaE+1, "print is farther from the color itself than from what plain screens show")

	// What was approved for it is told when it moves, and also when only what is beyond sRGB does.
	require.NoError(t, r.Ledger.ApproveBuild(ctx, r.Actor, ids[0], sheet.Row.Version, "coated", "70 0 95 0"))
	r.change(ids[0], ledger.Change{Value: ptr("#00E350")})
	sheet, err = r.Ledger.Sheet(ctx, r.Actor, ids[0])
	require.NoError(t, err)
	assert.Contains(t, sheet.History[0].What, "amended from "+flare+" (#00E350) to #00E350")
	assert.Greater(t, sheet.Row.Faces.Press.Moved, 3.0)
	require.NoError(t, r.Ledger.BringBack(ctx, r.Actor, ids[0], sheet.Row.Version, sheet.History[1].ID))
	assert.Equal(t, flare, master(ids[0]))
	sheet, err = r.Ledger.Sheet(ctx, r.Actor, ids[0])
	require.NoError(t, err)
	assert.Zero(t, sheet.Row.Faces.Press.Moved)

	s, err := r.Ledger.Suggest(ctx, r.contributor, ids[0], ledger.NewSuggestion{Value: brighter})
	require.NoError(t, err)
	assert.Equal(t, brighter, s.Value)
	require.NoError(t, r.Ledger.Answer(ctx, r.Actor, s.ID, true, ""))
	assert.Equal(t, brighter, master(ids[0]))

	set := r.makeSet(send.Content{Name: "Core", Colors: ids})
	require.NoError(t, r.Send.Fix(ctx, r.Actor, set, ""))
	packed, err := r.Send.Pack(ctx, r.Actor, set, 1, "css")
	require.NoError(t, err)
	assert.Contains(t, string(packed.Data), brighter)
	packed, err = r.Send.Pack(ctx, r.Actor, set, 1, "tokens")
	require.NoError(t, err)
	assert.Contains(t, string(packed.Data), `"display-p3"`)

	lib, err := r.House.Export(ctx, r.Actor)
	require.NoError(t, err)
	backup, err := swatchfile.WriteLibrary(lib)
	require.NoError(t, err)
	r.change(ids[0], ledger.Change{Value: ptr("#123456")})
	_, err = r.House.Restore(ctx, r.Actor, backup, true)
	require.NoError(t, err)
	all, err := r.Base.DB.Colors(r.Actor.House.ID)
	require.NoError(t, err)
	decides := map[string]string{}
	for _, c := range all {
		decides[c.Name] = c.Decides()
		if c.Name == "Flare" {
			assert.Equal(t, library.Master{Kind: library.OfScreen, Text: flare}, c.Builds[0].Meant, "and what was approved for it")
		}
	}
	assert.Equal(t, map[string]string{"Flare": brighter, "Deep Sound": "#0E3A53", "Plain": "#00E350"}, decides)

	a, err := r.judge(r.Actor, "x.css", []byte(".a{color:"+brighter+"} .b{color:color(display-p3 0.14 0.95 0.3)}"))
	require.NoError(t, err)
	verdicts := map[string]string{}
	for _, c := range a.Colors {
		verdicts[c.Wide] = string(c.Verdict)
	}
	assert.Equal(t, map[string]string{brighter: "on-brand", "color(display-p3 0.14 0.95 0.3)": "drifted"}, verdicts)
}
