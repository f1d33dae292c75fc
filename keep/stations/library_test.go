package stations_test

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/keep"
	"huekeep/keep/gathering"
	"huekeep/keep/ledger"
)

// What is done to many is done to all of them or to none, and says each in its own history.
func TestManyChangeTogetherOrNotAtAll(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Buoy #E2572B", "Lamp #F2B632", "Fog #C9D1D3")
	require.NoError(t, r.Ledger.ChangeMany(ctx, r.Actor, ledger.Bulk{Colors: ids[:2], Group: ptr("Signals"), Role: ptr("accent"), Tag: ptr("print"), Set: ptr("Lights")}))
	for _, id := range ids[:2] {
		s := mustSheet(t, r, id)
		assert.Equal(t, []any{library.Accent, []string{"print"}, 2}, []any{s.Row.Role, s.Row.Tags, s.Row.Version}, s.Row.Name)
		assert.Len(t, s.History, 4, "admitted, role, group, tag")
	}
	sets, err := r.Base.DB.Sets(r.Actor.House.ID)
	require.NoError(t, err)
	require.Len(t, sets, 1)
	assert.Len(t, sets[0].Colors, 2)

	for name, bad := range map[string]ledger.Bulk{
		"a color that is gone":       {Colors: []int64{ids[0], 9999}, Role: ptr("neutral")},
		"a role that is none":        {Colors: ids, Role: ptr("hero;")},
		"a successor in the list":    {Colors: ids, Status: ptr("retired"), Successor: &ids[2]},
		"a status that is none":      {Colors: ids, Status: ptr("asleep")},
		"no color":                   {Role: ptr("neutral")},
		"a set without a proper one": {Colors: ids, Role: ptr("neutral"), Set: ptr(string(make([]byte, 300)))},
	} {
		assert.Error(t, r.Ledger.ChangeMany(ctx, r.Actor, bad), name)
		for i, id := range ids {
			s := mustSheet(t, r, id)
			assert.Equal(t, []any{[]library.Role{"accent", "accent", ""}[i], library.Approved}, []any{s.Row.Role, s.Row.Status}, "%s: %s is as it was", name, s.Row.Name)
		}
	}
}

// What lies over another color follows both, and goes where either goes.
func TestASheerFollowsItsGround(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Buoy #E2572B", "Fog #C9D1D3", "Haze #8A9094", "Night #101010")
	over := func(id int64, amount int) library.Companion {
		return library.Companion{Kind: "sheer", Amount: amount, Permitted: true, Ground: library.Ref{ID: id}}
	}
	put := func(list ...library.Companion) error {
		return r.Ledger.PutFamily(ctx, r.Actor, ids[0], mustSheet(t, r, ids[0]).Row.Version, list)
	}
	names := func(of int64) (out []string) {
		for _, f := range mustSheet(t, r, of).Family {
			out = append(out, f.Name("Buoy")+" "+f.Value.Hex())
		}
		return out
	}
	require.NoError(t, put(over(0, 40), over(ids[1], 40), over(ids[2], 40), over(ids[3], 70)))
	// 0.7·0xE2 + 0.3·0x10 = 163.0, 0.4·0xE2 + 0.6·0xFF = 243.4, and so on.
	assert.ElementsMatch(t, []string{"Buoy, 70 % over Night #A34223", "Buoy, 40 % over white #F3BCAA", "Buoy, 40 % over Fog #D3A090", "Buoy, 40 % over Haze #AD796A"}, names(ids[0]))

	r.change(ids[1], ledger.Change{Value: ptr("#FFFFFF")})
	assert.Contains(t, names(ids[0]), "Buoy, 40 % over Fog #F3BCAA", "the ground was amended")
	assert.ErrorContains(t, r.Ledger.Remove(ctx, r.Actor, ids[3], mustSheet(t, r, ids[3]).Row.Version), "ground of Buoy")
	r.change(ids[1], ledger.Change{Name: ptr("Mist")})
	assert.Contains(t, names(ids[0]), "Buoy, 40 % over Mist #F3BCAA")

	_, err := r.Ledger.Merge(ctx, r.Actor, ids[2], mustSheet(t, r, ids[2]).Row.Version, ids[1])
	require.NoError(t, err)
	assert.Len(t, names(ids[0]), 3, "two grounds became one, and so did what lay over them")
	_, err = r.Ledger.Merge(ctx, r.Actor, ids[1], mustSheet(t, r, ids[1]).Row.Version, ids[0])
	require.NoError(t, err)
	assert.Len(t, names(ids[0]), 2, "nothing lies over itself")
	assert.Contains(t, mustSheet(t, r, ids[0]).History[0].What, "merged into it; a sheer went with its ground")

	drafts := r.admit(r.Actor, "Idea #123456")
	r.change(drafts[0], ledger.Change{Status: ptr("draft")})
	for want, bad := range map[string]library.Companion{
		"Idea is a draft": over(drafts[0], 40), "no color number 99999": over(99999, 40), "Buoy over itself": over(ids[0], 40), "lies between 1 and 99": over(0, 100),
		"A tint has no ground": {Kind: "tint", Amount: 40, Ground: library.Ref{ID: ids[3]}},
	} {
		assert.ErrorContains(t, put(bad), want)
	}
	assert.ErrorContains(t, put(over(ids[3], 40), over(ids[3], 40)), "listed twice")
	assert.Len(t, names(ids[0]), 2, "as it was")
	night := mustSheet(t, r, ids[3])
	assert.ErrorContains(t, r.Ledger.ChangeColor(ctx, r.Actor, ids[3], ledger.Change{Version: night.Row.Version, Status: ptr("draft")}), "ground of Buoy")
}

// Companions, the builds of the house's own press and gradients follow the master; what was approved stays and says how far.
func TestWhatFollowsTheMaster(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Buoy #E2572B", "Fog #C9D1D3")
	profile, err := os.ReadFile("../../core/press/profiles/uncoated.icc")
	require.NoError(t, err)
	require.NoError(t, r.Media.AddPress(ctx, r.Actor, "Harbor print shop", 0, profile))
	require.NoError(t, r.Ledger.PutFamily(ctx, r.Actor, ids[0], 1, []library.Companion{{Kind: "step", Amount: 300}, {Kind: "tint", Amount: 30}, {Kind: "tint", Amount: 60, Permitted: true}, {Kind: "shade", Amount: 20}, {Kind: "tone", Amount: 50}}))
	require.NoError(t, r.Ledger.PutGradient(ctx, r.Actor, library.Gradient{Name: "Call", Space: "oklab", Stops: []library.Stop{{Color: library.Ref{ID: ids[0]}}, {Color: library.Ref{ID: ids[1]}, Place: 100}}}))
	before := mustSheet(t, r, ids[0])
	var order []string
	for _, f := range before.Family {
		order = append(order, f.Kind)
		assert.NotEqual(t, "#E2572B", f.Value.Hex(), f.Kind)
		assert.Equal(t, f.Kind == "tint", f.Build != nil, "a tint alone is printed with less of the same inks")
	}
	assert.Equal(t, []string{"tint", "tint", "shade", "tone", "step"}, order)
	assert.Equal(t, 60, before.Family[0].Amount, "the strongest first")
	require.Len(t, before.Presses, 4)
	assert.Equal(t, before.Presses[1].Value, before.Presses[3].Value, "the same profile gives the same build")

	require.NoError(t, r.Ledger.ApproveBuild(ctx, r.Actor, ids[0], before.Row.Version, before.Presses[3].Press, "0/70/85/5"))
	r.change(ids[0], ledger.Change{Value: ptr("#1D6F6A")})
	after := mustSheet(t, r, ids[0])
	for i := range after.Family {
		assert.Greater(t, color.DeltaE00(before.Family[i].Value.Lab(), after.Family[i].Value.Lab()), 5.0, "%s follows", after.Family[i].Kind)
	}
	own := after.Presses[3]
	assert.Equal(t, "0 70 85 5", own.Value.String(), "approved, so it stays")
	assert.True(t, own.Origin == library.Signed)
	assert.Equal(t, "Kim", own.By)
	assert.Greater(t, own.Moved, 20.0, "and says how far the master moved")
	assert.NotEqual(t, before.Presses[1].Value, after.Presses[1].Value, "the derived one follows")
	gradients, err := r.Ledger.Gradients(ctx, r.reader)
	require.NoError(t, err)
	assert.Contains(t, gradients[0].CSS, "#1D6F6A")
	assert.Equal(t, keep.Conflict, kindOf(r.Media.DeletePress(ctx, r.Actor, own.Press)), "an approval stands on it")
	require.NoError(t, r.Ledger.DropBuild(ctx, r.Actor, ids[0], mustSheet(t, r, ids[0]).Row.Version, own.Press))
	require.NoError(t, r.Media.DeletePress(ctx, r.Actor, own.Press))
	assert.Len(t, mustSheet(t, r, ids[0]).Presses, 3)
}

// The rules ask for the role themselves, whoever calls them.
func TestRolesInTheLibrary(t *testing.T) {
	r := newRoom(t)
	id := r.admit(r.Actor, "Buoy #E2572B")[0]
	keepers := map[string]func(keep.Actor) error{
		"keep a family": func(a keep.Actor) error { return r.Ledger.PutFamily(ctx, a, id, 1, nil) },
		"bring back":    func(a keep.Actor) error { return r.Ledger.BringBack(ctx, a, id, 1, 1) },
		"change many": func(a keep.Actor) error {
			return r.Ledger.ChangeMany(ctx, a, ledger.Bulk{Colors: []int64{id}, Role: ptr("accent")})
		},
		"place":          func(a keep.Actor) error { return r.Ledger.PlaceColor(ctx, a, id, 0) },
		"rename a group": func(a keep.Actor) error { return r.Ledger.RenameGroup(ctx, a, "x", "y") },
		"delete a group": func(a keep.Actor) error { return r.Ledger.DeleteGroup(ctx, a, "x") },
		"copy to a house": func(a keep.Actor) error {
			_, err := r.Ledger.CopyColors(ctx, a, r.Actor, []int64{id}, false)
			return err
		},
		"put a gradient":    func(a keep.Actor) error { return r.Ledger.PutGradient(ctx, a, library.Gradient{Name: "x"}) },
		"delete a gradient": func(a keep.Actor) error { return r.Ledger.DeleteGradient(ctx, a, 1) },
		"rule on a pair":    func(a keep.Actor) error { return r.Ledger.PutPair(ctx, a, id, id, false, nil) },
		"free a pair":       func(a keep.Actor) error { return r.Ledger.DeletePair(ctx, a, id, id) },
		"restore":           func(a keep.Actor) error { _, err := r.Backup.Restore(ctx, a, nil, true); return err },
		"add a press":       func(a keep.Actor) error { return r.Media.AddPress(ctx, a, "x", 0, nil) },
		"delete a press":    func(a keep.Actor) error { return r.Media.DeletePress(ctx, a, "x") },
		"import a book":     func(a keep.Actor) error { _, err := r.Ledger.PutInkBook(ctx, a, "x", "", false); return err },
		"drop the book":     func(a keep.Actor) error { _, err := r.Ledger.DropInkBook(ctx, a, false); return err },
	}
	for what, try := range keepers {
		assert.Equal(t, keep.Forbidden, kindOf(try(r.contributor)), "%s by a contributor", what)
		assert.Equal(t, keep.Forbidden, kindOf(try(r.reader)), "%s by a reader", what)
	}
	for what, try := range map[string]func(keep.Actor) error{
		"add a starter": func(a keep.Actor) error {
			_, err := r.Gathering.AddStarter(ctx, a, "x", "", []string{"#123456", "#654321"}, true)
			return err
		},
		"put on the tray": func(a keep.Actor) error {
			return r.Gathering.PutOnTray(ctx, a, []gathering.NewCandidate{{Value: "#123456", Origin: "picture"}})
		},
		"take a reading": func(a keep.Actor) error {
			_, err := r.Gathering.Take(ctx, a, gathering.Patch{Color: id, Medium: "screen"})
			return err
		},
	} {
		assert.Equal(t, keep.Forbidden, kindOf(try(r.reader)), "%s by a reader", what)
		assert.NoError(t, try(r.contributor), "%s by a contributor", what)
	}
}

// Anybody may look what a file holds; a reader is not told of proposals beside it.
func TestAFileReadByAReaderTellsNothingOfDrafts(t *testing.T) {
	r := newRoom(t)
	r.admit(r.Actor, "Buoy #E2572B")
	r.admit(r.contributor, "Kelp #1D6F6A")
	file := []byte(":root{--a:#E2572B;--kelp:#1D6F6A}")
	notes := func(a keep.Actor) (out []string) {
		f, err := r.Gathering.ReadFile(ctx, a, "x.css", file)
		require.NoError(t, err)
		for _, c := range f.Colors {
			out = append(out, c.Notes...)
		}
		return out
	}
	assert.Contains(t, strings.Join(notes(r.contributor), "; "), "Kelp is in the library already")
	assert.Contains(t, strings.Join(notes(r.reader), "; "), "Buoy")
	assert.NotContains(t, strings.Join(notes(r.reader), "; "), "Kelp")
}
