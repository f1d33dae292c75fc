package stations_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/library"
	"huekeep/keep"
	"huekeep/keep/gathering"
	"huekeep/keep/ledger"
	"huekeep/keep/send"
)

// onTray puts lines on a tray and returns it.
func (r *room) onTray(a keep.Actor, lines ...string) []gathering.Candidate {
	r.t.Helper()
	require.NoError(r.t, r.Gathering.ClearTray(ctx, a))
	_, err := r.Gathering.AddToTray(ctx, a, strings.Join(lines, "\n"))
	require.NoError(r.t, err)
	tray, err := r.Gathering.Tray(ctx, a)
	require.NoError(r.t, err)
	return tray
}

// amending is the admission of all candidates that have new values for colors, and the rest as they are.
func amending(tray []gathering.Candidate) gathering.Admission {
	in := gathering.Admission{Amend: map[int64]gathering.Amend{}}
	for _, c := range tray {
		n := changing(c)
		if n == nil {
			in.Items = append(in.Items, c.ID)
			continue
		}
		in.Amend[c.ID] = gathering.Amend{Color: n.Color.ID, Version: n.Change.Version}
	}
	return in
}

func changing(c gathering.Candidate) *gathering.Note {
	for _, n := range c.Notes {
		if n.Change != nil {
			return &n
		}
	}
	return nil
}

// A brand is renewed: all new values arrive at once under the old names, one of them under what others call it, with two that swap, a build that came
// along, and one color that is new.
func TestNewValuesForOldNames(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Sea #0E3A53", "Buoy #E2572B", "Lamp #F2B632", "Stone #6E6A62")
	r.change(ids[3], ledger.Change{Aliases: &[]string{"Pebble"}})
	require.NoError(t, r.Ledger.ApproveBuild(ctx, r.Actor, ids[1], 1, "coated", "2 75 87 8"))
	require.NoError(t, r.Ledger.ApproveBuild(ctx, r.Actor, ids[1], 2, "newsprint", "5 70 80 10"))
	set, err := r.Send.CreateSet(ctx, r.Actor, send.Content{Name: "Core", Colors: ids})
	require.NoError(t, err)
	require.NoError(t, r.Send.Fix(ctx, r.Actor, set, ""))
	before := map[int64]library.Color{}
	for _, id := range ids {
		before[id] = mustSheet(t, r, id).Row.Color
	}

	tray := r.onTray(r.Actor, "sea #F2B632", "Lamp #0E3A53", "Buoy #D94F21 cmyk 5 80 95 5", "Pebble #77736A", "Foam #F4F7F5")
	n := changing(tray[2])
	require.NotNil(t, n)
	assert.Equal(t, "Buoy is #E2572B in the library, 2.8 noticeable from this", n.Text)
	assert.Equal(t, []string{"Core"}, n.Change.Held.Sets)
	assert.Equal(t, []string{"CMYK 5 70 80 10 for newsprint"}, n.Change.Stays)
	assert.Equal(t, "Stone, which is also called Pebble, is #6E6A62 in the library, 3.5 clear from this", changing(tray[3]).Text)
	in := amending(tray)
	require.Len(t, in.Amend, 4)

	stale := in.Amend[tray[2].ID]
	stale.Version--
	in.Amend[tray[2].ID], stale = stale, in.Amend[tray[2].ID]
	_, err = r.Gathering.Admit(ctx, r.Actor, in)
	assert.Equal(t, keep.Conflict, kindOf(err))
	assert.Equal(t, before[ids[0]].RGB, mustSheet(t, r, ids[0]).Row.RGB, "all or none")
	in.Amend[tray[2].ID] = stale

	done, err := r.Gathering.Admit(ctx, r.Actor, in)
	require.NoError(t, err)
	require.Len(t, done.Renewed, 4)
	require.Len(t, done.Colors, 1)
	for i, want := range []string{"#F2B632", "#D94F21", "#0E3A53", "#77736A"} {
		assert.Equal(t, want, mustSheet(t, r, ids[i]).Row.RGB.Hex())
	}
	buoy := mustSheet(t, r, ids[1])
	build, _ := buoy.Row.Build("coated")
	assert.Equal(t, "5 80 95 5", build.Value.String())
	assert.Equal(t, library.Signed, build.Origin)
	assert.Zero(t, buoy.Row.Faces.Press.Moved, "it is for the new value")
	assert.Equal(t, "amended from #E2572B to #D94F21, 2.8 noticeable, from “Buoy #D94F21 cmyk 5 80 95 5”", buoy.History[1].What)
	assert.Equal(t, "CMYK 5 80 95 5 for coated came with it and counts as approved", buoy.History[0].What)
	now, err := r.Gathering.Tray(ctx, r.Actor)
	require.NoError(t, err)
	assert.Empty(t, now)

	// What became of the values is a plan for the files, also of those that swapped.
	plan, err := r.Audits.PlanSince(ctx, r.Actor, done.At)
	require.NoError(t, err)
	got := map[string]string{}
	for _, s := range plan {
		got[s.From] = s.To
	}
	assert.Equal(t, map[string]string{"#0E3A53": "Sea", "#F2B632": "Lamp", "#E2572B": "Buoy", "#6E6A62": "Stone"}, got)

	// One way back for all of it.
	var back []ledger.Back
	for _, c := range done.Renewed {
		back = append(back, ledger.Back{Color: c.ID, Version: c.Version, Event: c.Event})
	}
	assert.Equal(t, keep.Forbidden, kindOf(r.Ledger.BringAllBack(ctx, r.contributor, back)))
	r.change(ids[3], ledger.Change{Rule: ptr("On paper")})
	assert.Equal(t, keep.Conflict, kindOf(r.Ledger.BringAllBack(ctx, r.Actor, back)), "somebody changed one of them since")
	assert.Equal(t, "#D94F21", mustSheet(t, r, ids[1]).Row.RGB.Hex(), "all or none")
	for i := range back {
		back[i].Version = mustSheet(t, r, back[i].Color).Row.Version
	}
	require.NoError(t, r.Ledger.BringAllBack(ctx, r.Actor, back))
	for _, id := range ids {
		is := mustSheet(t, r, id).Row.Color
		assert.Equal(t, before[id].Value(), is.Value())
		assert.Equal(t, before[id].Builds, is.Builds)
	}
	assert.Equal(t, keep.Invalid, kindOf(r.Ledger.BringAllBack(ctx, r.Actor, nil)))
	assert.Equal(t, keep.Invalid, kindOf(r.Ledger.BringAllBack(ctx, r.Actor, []ledger.Back{back[0], back[0]})))
}

// The value is there, and what is new is a build: that is a change as well, and says what it takes the place of. What decides stays.
func TestOnlyThePrintIsNew(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Sea #0E3A53", "Printed cmyk(10 60 80 5)")
	require.NoError(t, r.Ledger.ApproveBuild(ctx, r.Actor, ids[0], 1, "coated", "90 60 30 40"))
	tray := r.onTray(r.Actor, "Sea #0E3A53 cmyk 96 50 20 64 QN-0131")
	assert.Equal(t, "Sea is in the library already, with this value; new is CMYK 96 50 20 64 for coated instead of 90 60 30 40, spot ink QN-0131 on coated stock", changing(tray[0]).Text)
	done, err := r.Gathering.Admit(ctx, r.Actor, amending(tray))
	require.NoError(t, err)
	require.Len(t, done.Renewed, 1)
	sea := mustSheet(t, r, ids[0])
	assert.Equal(t, "96 50 20 64", sea.Row.Faces.Press.Value.String())
	assert.Zero(t, sea.Row.Faces.Press.Moved)
	assert.Equal(t, "QN-0131", sea.Row.Faces.Ink.Ink.Code)
	assert.Equal(t, "#0E3A53", sea.Row.RGB.Hex())
	assert.Nil(t, changing(r.onTray(r.Actor, "Sea #0E3A53 cmyk 96 50 20 64")[0]), "it has that build now")
	shows := mustSheet(t, r, ids[1]).Row.RGB.Hex()
	assert.Nil(t, changing(r.onTray(r.Actor, "Printed "+shows+" cmyk 1 2 3 4")[0]), "its build decides, and no other stands beside it")
}

func TestWhatIsNoNewValue(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Sea #0E3A53", "Old Buoy #E2572B", "Printed cmyk(10 60 80 5)", "Left #102030", "Right #405060")
	r.change(ids[1], ledger.Change{Status: ptr("retired")})
	for _, id := range ids[3:] {
		r.change(id, ledger.Change{Aliases: &[]string{"Side"}})
	}
	shows := mustSheet(t, r, ids[2]).Row.RGB.Hex()
	for line, want := range map[string]string{
		"Old Buoy #D94F21":   "the name is taken: Old Buoy is #E2572B, and retired",
		"Printed " + shows:   "Printed is in the library already, with this value",
		"Side #D94F21":       "Left and Right are also called Side",
		"sea rgb(14 58 83)":  "Sea is in the library already, with this value",
		"Printed 10 60 80 5": "Printed is in the library already, with this value",
	} {
		c := r.onTray(r.Actor, line)[0]
		assert.Nil(t, changing(c), line)
		assert.Equal(t, want, c.Notes[0].Text, line)
	}
	// An ink beside what decides: the color that a build decides is decided by the ink from then on, and that is said.
	c := r.onTray(r.Actor, "Printed #336699")[0]
	assert.Equal(t, fmt.Sprintf("Printed is CMYK 10 60 80 5 on coated (%s) in the library, 48.3 different from this", shows), changing(c).Text)

	tray := r.onTray(r.Actor, "Sea #D94F21", "SEA #D94F22")
	in := gathering.Admission{Amend: map[int64]gathering.Amend{}}
	for _, c := range tray {
		in.Amend[c.ID] = gathering.Amend{Color: ids[0], Version: 1}
	}
	_, err := r.Gathering.Admit(ctx, r.Actor, in)
	assert.ErrorContains(t, err, "both say what Sea is")
	_, err = r.Gathering.Admit(ctx, r.Actor, gathering.Admission{Items: []int64{tray[0].ID}, Amend: map[int64]gathering.Amend{tray[0].ID: {Color: ids[0], Version: 1}}})
	assert.Equal(t, keep.Invalid, kindOf(err), "a candidate cannot be admitted and change a color as well")
	_, err = r.Gathering.Admit(ctx, r.Actor, gathering.Admission{Amend: map[int64]gathering.Amend{tray[0].ID: {Color: ids[1], Version: 2}}})
	assert.ErrorContains(t, err, "is retired")
	_, err = r.Gathering.Admit(ctx, r.Actor, gathering.Admission{Amend: map[int64]gathering.Amend{tray[0].ID: {Color: 99, Version: 1}}})
	assert.Equal(t, keep.Conflict, kindOf(err))
}

// A contributor may not amend: the values become suggestions, with what came along as a note.
func TestNewValuesOfAContributorAreSuggested(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Sea #0E3A53", "Buoy #E2572B")
	done, err := r.Gathering.Admit(ctx, r.contributor, amending(r.onTray(r.contributor, "Sea #0F3B54", "Buoy #D94F21 QN-0131", "Foam #F4F7F5")))
	require.NoError(t, err)
	assert.Equal(t, 2, done.Suggested)
	assert.Empty(t, done.Renewed)
	require.Len(t, done.Colors, 1)
	assert.Equal(t, "#0E3A53", mustSheet(t, r, ids[0]).Row.RGB.Hex())
	list, err := r.Ledger.Suggestions(ctx, r.Actor)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "#D94F21", list[0].Value)
	assert.Equal(t, "from “Buoy #D94F21 QN-0131”; with spot ink QN-0131 on coated stock", list[0].Note)
	require.NoError(t, r.Ledger.Answer(ctx, r.Actor, list[0].ID, true, ""))
	assert.Equal(t, "#D94F21", mustSheet(t, r, ids[1]).Row.RGB.Hex())
}

// A hundred new values are a few queries each, not a minute.
func TestManyNewValues(t *testing.T) {
	r := newRoom(t)
	var first, then []string
	for i := range 300 {
		first = append(first, fmt.Sprintf("Color %d #%06X", i, 0x100000+i*977))
		then = append(then, fmt.Sprintf("Color %d #%06X", i, 0x200000+i*977))
	}
	r.admit(r.Actor, first...)
	began := time.Now()
	done, err := r.Gathering.Admit(ctx, r.Actor, amending(r.onTray(r.Actor, then...)))
	require.NoError(t, err)
	assert.Len(t, done.Renewed, 300)
	t.Log(time.Since(began))
}
