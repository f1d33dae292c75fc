package stations_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/press"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/gathering"
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

	lib, err := r.Backup.Export(ctx, r.Actor)
	require.NoError(t, err)
	backup, err := swatchfile.WriteLibrary(lib)
	require.NoError(t, err)
	r.change(ids[0], ledger.Change{Value: ptr("#123456")})
	_, err = r.Backup.Restore(ctx, r.Actor, backup, true)
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

// What is printed decides a color as a screen value does: an ink and a build on every way through a house, with the hex and the other values as what
// they are: approved, given or derived.
func TestAnInkAndABuildGoThroughAHouse(t *testing.T) {
	r := newRoom(t)
	row := func(id int64) library.Color { return mustSheet(t, r, id).Row.Color }
	ids := r.admit(r.Actor, "Lantern QN-0132", "Tarpaulin 70/20/0/10", "Rope QN-0081 #B04A38", "Sail #D8D2C4 CMYK 10 10 20 5")
	lantern, tarpaulin, rope, sail := row(ids[0]), row(ids[1]), row(ids[2]), row(ids[3])
	assert.Equal(t, []string{"ink QN-0132 on coated", "CMYK 70 20 0 10 on coated", "ink QN-0081 on coated", "#D8D2C4"},
		[]string{lantern.Decides(), tarpaulin.Decides(), rope.Decides(), sail.Decides()}, "what is written first decides")
	origins := func(c library.Color) (out [3]library.Origin) {
		out[0] = c.HexOrigin()
		if b, ok := c.Build("coated"); ok {
			out[1] = b.Origin
		}
		if s, ok := c.Spot("coated"); ok {
			out[2] = s.Origin
		}
		return out
	}
	assert.Equal(t, [3]library.Origin{library.Derived, "", library.Deciding}, origins(lantern))
	assert.Equal(t, [3]library.Origin{library.Derived, library.Deciding, ""}, origins(tarpaulin))
	assert.Equal(t, [3]library.Origin{library.Signed, "", library.Deciding}, origins(rope))
	assert.Equal(t, [3]library.Origin{library.Deciding, library.Signed, ""}, origins(sail))
	book := ink.Quern()
	found, _ := book.Find("QN-0132")
	assert.Equal(t, found.Coated, lantern.Lab(), "the color is the ink, not the hex that is nearest to it")
	s := mustSheet(t, r, ids[0])
	assert.Zero(t, s.Row.Faces.Ink.DeltaE)
	assert.Equal(t, press.Coated().Build(found.Coated).Whole, s.Row.Faces.Press.Value)

	// What decides is amended, not approved beside; the hex is approved beside it.
	version := func(id int64) int { return mustSheet(t, r, id).Row.Version }
	for _, err := range []error{r.Ledger.ApproveSpot(ctx, r.Actor, ids[0], version(ids[0]), "coated", "QN-0133"), r.Ledger.DropSpot(ctx, r.Actor, ids[0], version(ids[0]), "coated"),
		r.Ledger.ApproveBuild(ctx, r.Actor, ids[1], version(ids[1]), "coated", "1 2 3 4"), r.Ledger.DropBuild(ctx, r.Actor, ids[1], version(ids[1]), "coated"),
		r.Ledger.ApproveHex(ctx, r.Actor, ids[3], version(ids[3]), "#123456")} {
		assert.Equal(t, keep.Conflict, kindOf(err))
		assert.ErrorContains(t, err, "decides")
	}
	assert.Equal(t, keep.Invalid, kindOf(r.Ledger.ApproveHex(ctx, r.Actor, ids[0], version(ids[0]), "color(display-p3 0 1 0)")))
	assert.Equal(t, keep.Forbidden, kindOf(r.Ledger.ApproveHex(ctx, r.contributor, ids[0], version(ids[0]), "")))
	require.NoError(t, r.Ledger.ApproveHex(ctx, r.Actor, ids[0], version(ids[0]), "#C8B53F"))
	approved := row(ids[0])
	assert.Equal(t, []any{"#C8B53F", library.Signed, "Kim", lantern.Lab()}, []any{approved.RGB.Hex(), approved.HexOrigin(), approved.Plain.By.Name, approved.Lab()})
	require.NoError(t, r.Ledger.DropHex(ctx, r.Actor, ids[0], version(ids[0])))
	assert.Equal(t, lantern.RGB, row(ids[0]).RGB)
	assert.Equal(t, keep.NotFound, kindOf(r.Ledger.DropHex(ctx, r.Actor, ids[0], version(ids[0]))))

	// The hex that is sent back as it is shown changes nothing; it decides where one says so.
	r.change(ids[1], ledger.Change{Value: ptr(tarpaulin.RGB.Hex())})
	assert.Equal(t, tarpaulin.Master, row(ids[1]).Master)
	r.change(ids[1], ledger.Change{Value: ptr(tarpaulin.RGB.Hex()), Decides: true})
	assert.Equal(t, [3]library.Origin{library.Deciding, library.Signed, ""}, origins(row(ids[1])))
	h := mustSheet(t, r, ids[1]).History[0]
	assert.Contains(t, h.What, "amended from CMYK 70 20 0 10 on coated ("+tarpaulin.RGB.Hex()+") to "+tarpaulin.RGB.Hex())
	events := mustSheet(t, r, ids[1]).History
	require.NoError(t, r.Ledger.BringBack(ctx, r.Actor, ids[1], version(ids[1]), events[1].ID))
	assert.Equal(t, tarpaulin.Master, row(ids[1]).Master, "and is undone")

	// The ink decides from now on, and screens keep what they have.
	r.change(ids[3], ledger.Change{Value: ptr("qn 0132 on uncoated"), KeepHex: true})
	kept := row(ids[3])
	assert.Equal(t, []any{"ink QN-0132 on uncoated", "#D8D2C4", library.Signed, found.Uncoated}, []any{kept.Decides(), kept.RGB.Hex(), kept.HexOrigin(), kept.Lab()})
	assert.Greater(t, mustSheet(t, r, ids[3]).Row.Faces.Press.Moved, 5.0, "the build was approved for another color")
	preview, err := r.Ledger.Preview(ctx, r.Actor, ids[3], "cmyk(10 10 20 5) on newsprint")
	require.NoError(t, err)
	assert.Equal(t, "CMYK 10 10 20 5 on newsprint", preview.After.Decides())
	assert.Len(t, preview.Approved, 2)
	preview, err = r.Ledger.Preview(ctx, r.Actor, ids[3], "10/20/30/5")
	require.NoError(t, err)
	assert.Len(t, preview.Approved, 1, "the build that decides takes the place of the approved one")

	r.change(ids[3], ledger.Change{Lab: ptr("80 2 8"), KeepHex: true})
	assert.Equal(t, "measured as Lab 80.00 2.00 8.00; screens keep #D8D2C4", mustSheet(t, r, ids[3]).History[0].What)

	// A contributor's draft holds what was given, and a keeper's approval signs it.
	draft, err := r.Gathering.AddColor(ctx, r.contributor, gathering.NewCandidate{Name: "Cleat", Value: "QN-0453", CMYK: "60 20 0 40", Screen: "#4F6B7D"}, gathering.Admission{})
	require.NoError(t, err)
	assert.Equal(t, [3]library.Origin{library.Given, library.Given, library.Deciding}, origins(row(draft.ID)))
	require.NoError(t, r.Ledger.ChangeMany(ctx, r.Actor, ledger.Bulk{Colors: []int64{draft.ID}, Status: ptr("approved")}))
	assert.Equal(t, [3]library.Origin{library.Signed, library.Signed, library.Deciding}, origins(row(draft.ID)))
	assert.Equal(t, "Kim", row(draft.ID).Plain.By.Name)

	// A suggestion carries it.
	g, err := r.Ledger.Suggest(ctx, r.contributor, ids[0], ledger.NewSuggestion{Value: "QN-0133 on uncoated"})
	require.NoError(t, err)
	require.NoError(t, r.Ledger.Answer(ctx, r.Actor, g.ID, true, ""))
	assert.Equal(t, "ink QN-0133 on uncoated", row(ids[0]).Decides())

	// Fixed, packed, judged, backed up and brought back.
	set := r.makeSet(send.Content{Name: "Core", Colors: append(ids, draft.ID)})
	require.NoError(t, r.Send.Fix(ctx, r.Actor, set, ""))
	for packing, says := range map[string]string{"css": row(ids[1]).RGB.Hex(), "csv": "70 20 0 10", "json": "QN-0133", "cxf": "QN-0133"} {
		packed, err := r.Send.Pack(ctx, r.Actor, set, 1, packing)
		require.NoError(t, err)
		assert.Contains(t, strings.ToUpper(string(packed.Data)), says, packing)
	}
	a, err := r.judge(r.Actor, "x.css", []byte(".a{color:"+rope.RGB.Hex()+"} .b{color:device-cmyk(70% 20% 0% 10%)}"))
	require.NoError(t, err)
	for _, c := range a.Colors {
		assert.Equal(t, "on-brand", string(c.Verdict), c.Hex)
	}
	before, err := r.Base.DB.Colors(r.Actor.House.ID)
	require.NoError(t, err)
	lib, err := r.Backup.Export(ctx, r.Actor)
	require.NoError(t, err)
	backup, err := swatchfile.WriteLibrary(lib)
	require.NoError(t, err)
	r.change(ids[1], ledger.Change{Value: ptr("#123456")})
	_, err = r.Backup.Restore(ctx, r.Actor, backup, true)
	require.NoError(t, err)
	after, err := r.Base.DB.Colors(r.Actor.House.ID)
	require.NoError(t, err)
	for i, c := range before {
		assert.Equal(t, []any{c.Name, c.Master, c.RGB, c.Plain.Origin, origins(c)}, []any{after[i].Name, after[i].Master, after[i].RGB, after[i].Plain.Origin, origins(after[i])})
	}
}

// What decides where several are given is a setting of the house and a choice of whoever has it on the tray; what does not agree is said.
func TestWhatDecidesOnTheTray(t *testing.T) {
	r := newRoom(t)
	const line = "Rope #B04A38 CMYK 0 70 60 20 QN-0132"
	decides := func(i int) string {
		tray, err := r.Gathering.Tray(ctx, r.Actor)
		require.NoError(t, err)
		return library.Color{Master: tray[i].Master, RGB: tray[i].RGB}.Decides()
	}
	_, err := r.Gathering.AddToTray(ctx, r.Actor, line)
	require.NoError(t, err)
	assert.Equal(t, "#B04A38", decides(0))
	tray, err := r.Gathering.Tray(ctx, r.Actor)
	require.NoError(t, err)
	said := ""
	for _, n := range tray[0].Notes {
		if n.Kind == "disagrees" {
			said += n.Text + " "
			assert.NotEmpty(t, n.Look)
		}
	}
	assert.Regexp(t, `ink QN-0132 on coated is [\d.]+ different from what decides`, said)
	for kind, want := range map[string]string{"ink": "ink QN-0132 on coated", "build": "CMYK 0 70 60 20 on coated", "screen": "#B04A38"} {
		require.NoError(t, r.Gathering.ChangeCandidate(ctx, r.Actor, tray[0].ID, gathering.CandidateChange{Decides: &kind}))
		assert.Equal(t, want, decides(0))
		now, err := r.Gathering.Tray(ctx, r.Actor)
		require.NoError(t, err)
		assert.Equal(t, "#B04A38", now[0].RGB.Hex(), "the hex is the one that was given, whatever decides")
	}
	assert.Equal(t, keep.Invalid, kindOf(r.Gathering.ChangeCandidate(ctx, r.Actor, tray[0].ID, gathering.CandidateChange{Decides: ptr("reading")})))

	settings, err := r.House.Settings(ctx, r.Actor)
	require.NoError(t, err)
	settings.Decides = ptr("build")
	require.NoError(t, r.House.SetSettings(ctx, r.Actor, true, settings))
	r.Actor.House.Decides = "build"
	_, err = r.Gathering.AddToTray(ctx, r.Actor, line)
	require.NoError(t, err)
	require.NoError(t, r.Gathering.PutOnTray(ctx, r.Actor, []gathering.NewCandidate{{Value: "#B04A38", CMYK: "0 70 60 20", Origin: "file"}, {Value: "#B04A38", Spot: "QN-0132", Origin: "file"},
		{Value: "#B04A38", CMYK: "0 70 60 20", Origin: "file", Decides: "screen"}}))
	assert.Equal(t, []string{"CMYK 0 70 60 20 on coated", "CMYK 0 70 60 20 on coated", "#B04A38", "#B04A38"}, []string{decides(1), decides(2), decides(3), decides(4)})
	settings.Decides = ptr("enamel")
	assert.Equal(t, keep.Invalid, kindOf(r.House.SetSettings(ctx, r.Actor, true, settings)))
}

// Masters of every kind, at random, are the same behind a backup, the database, an edition and the packings that can carry them.
func TestMastersOfEveryKindGoThroughAHouse(t *testing.T) {
	r := newRoom(t)
	random := rand.New(rand.NewPCG(11, 13))
	n := func(from, to float64) float64 { return math.Round((from+random.Float64()*(to-from))*1e4) / 1e4 }
	coated := press.Coated()
	kinds := []func() (library.Master, color.RGB8){
		func() (library.Master, color.RGB8) {
			return library.Master{}, color.RGB8{R: uint8(random.Uint32()), G: uint8(random.Uint32())}
		},
		func() (library.Master, color.RGB8) {
			typed, err := color.Parse(fmt.Sprintf("color(display-p3 %g %g %g)", n(0, 1), n(0, 1), n(0, 1)))
			require.NoError(t, err)
			return library.MasterOf(typed)
		},
		func() (library.Master, color.RGB8) {
			return library.Read(color.Lab{L: n(10, 95), A: n(-60, 60), B: n(-60, 60)})
		},
		func() (library.Master, color.RGB8) { // a spectrum of 5 nm from 380 to 780, as long as one is kept
			s := color.Spectrum{Start: 380, Step: 5}
			for len(s.Values) < 81 {
				s.Values = append(s.Values, n(0.02, 0.95))
			}
			lab, err := s.Lab()
			require.NoError(t, err)
			return library.ReadSpectrum(color.Lab{L: math.Round(lab.L*1e4) / 1e4, A: math.Round(lab.A*1e4) / 1e4, B: math.Round(lab.B*1e4) / 1e4}, s)
		},
		func() (library.Master, color.RGB8) {
			b := color.CMYK{C: n(0, 100), M: n(0, 80), Y: n(0, 80), K: n(0, 30)}
			return library.ByBuild(b, coated.Name, coated.Identity().SHA256, coated.Lab(b))
		},
		func() (library.Master, color.RGB8) {
			k := ink.Quern().Inks[random.IntN(len(ink.Quern().Inks))]
			return library.ByInk(k.Code, "uncoated", "Quern", k.Uncoated)
		},
	}
	data := largeLibrary(t, 500, func(color.RGB8) (library.Master, color.RGB8) { return kinds[random.IntN(len(kinds))]() })
	in, err := swatchfile.ReadTokens(data)
	require.NoError(t, err)
	_, err = r.Backup.Restore(ctx, r.Actor, data, true)
	require.NoError(t, err)
	same := func(what string, list []library.Color) {
		byName := map[string]library.Color{}
		for _, c := range list {
			byName[c.Name] = c
		}
		for _, c := range in.Colors {
			is := byName[c.Name]
			require.Equal(t, []any{c.Master, c.RGB, c.Lab()}, []any{is.Master, is.RGB, is.Lab()}, "%s: %s", what, c.Name)
		}
	}
	all, err := r.Base.DB.Colors(r.Actor.House.ID)
	require.NoError(t, err)
	same("database", all)
	var ids []int64
	for _, c := range all {
		ids = append(ids, c.ID)
	}
	set := r.makeSet(send.Content{Name: "All", Colors: ids})
	require.NoError(t, r.Send.Fix(ctx, r.Actor, set, ""))
	e, err := r.Base.DB.Edition(r.Actor.House.ID, set, 1)
	require.NoError(t, err)
	same("edition", e.Colors)
	packed, err := r.Send.Pack(ctx, r.Actor, set, 1, "cxf")
	require.NoError(t, err)
	back, _, err := swatchfile.Read("all.cxf", packed.Data)
	require.NoError(t, err)
	byName := map[string]library.Color{}
	for _, c := range back.Colors {
		byName[c.Name] = c
	}
	for _, c := range in.Colors {
		require.InDelta(t, 0, color.DeltaE00(c.Lab(), byName[c.Name].Lab()), 0.01, "CxF carries %s", c.Decides())
		if s, ok := c.Master.Spectrum(); ok {
			is, _ := byName[c.Name].Master.Spectrum()
			require.Equal(t, s, is, "and the spectrum of %s", c.Decides())
		}
	}
	lib, err := r.Backup.Export(ctx, r.Actor)
	require.NoError(t, err)
	again, err := swatchfile.WriteLibrary(lib)
	require.NoError(t, err)
	out, err := swatchfile.ReadTokens(again)
	require.NoError(t, err)
	same("backup", out.Colors)
}
