package stations_test

import (
	"fmt"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/gathering"
	"huekeep/keep/ledger"
	"huekeep/keep/send"
	"huekeep/store"
)

func lastEvent(t *testing.T, r *room, id int64) string { return mustSheet(t, r, id).History[0].What }

func TestTheSuccessorOfARetiredColorChangesAlone(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Old #112233", "New #223344", "Newer #334455")
	r.change(ids[0], ledger.Change{Status: ptr("retired"), Successor: &ids[1]})
	r.change(ids[0], ledger.Change{Successor: &ids[2]})
	assert.Equal(t, "Newer", mustSheet(t, r, ids[0]).Row.Successor.Name)
	assert.Equal(t, "replaced by Newer", lastEvent(t, r, ids[0]))
	r.change(ids[0], ledger.Change{Successor: ptr(int64(0))})
	assert.Nil(t, mustSheet(t, r, ids[0]).Row.Next)
	assert.Equal(t, "no longer replaced by Newer", lastEvent(t, r, ids[0]))
	err := r.Ledger.ChangeColor(ctx, r.Actor, ids[1], ledger.Change{Version: 1, Successor: &ids[2]})
	assert.ErrorContains(t, err, "only a retired color has a successor")
}

func TestAColorAdmittedByMistakeIsRemovedAndComesBack(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Keep #112233", "Mistake #E2572B 0/77/92/6", "Other #334455")
	r.change(ids[1], ledger.Change{Group: ptr("Signals"), Tags: &[]string{"x"}, Ground: &ids[0], Ratio: ptr(1.5)})
	set, err := r.Send.CreateSet(ctx, r.Actor, send.Content{Name: "Core", Colors: []int64{ids[0], ids[1], ids[2]}})
	require.NoError(t, err)
	before := mustSheet(t, r, ids[1])
	assert.Equal(t, keep.Forbidden, kindOf(r.Ledger.Remove(ctx, r.contributor, ids[1], before.Row.Version)))
	assert.Equal(t, keep.Conflict, kindOf(r.Ledger.Remove(ctx, r.Actor, ids[1], 1)), "somebody else changed it meanwhile")
	require.NoError(t, r.Ledger.Remove(ctx, r.Actor, ids[1], before.Row.Version))
	_, err = r.Ledger.Sheet(ctx, r.Actor, ids[1])
	assert.Equal(t, keep.NotFound, kindOf(err))
	require.NoError(t, r.Ledger.Unremove(ctx, r.Actor, ids[1]))
	after := mustSheet(t, r, ids[1])
	assert.Equal(t, before.Row.Builds, after.Row.Builds)
	assert.Equal(t, []any{before.Row.Name, before.Row.Group, before.Row.Tags, before.Row.Ground, before.Row.Added, before.Row.Position},
		[]any{after.Row.Name, after.Row.Group, after.Row.Tags, after.Row.Ground, after.Row.Added, after.Row.Position})
	assert.Len(t, after.History, len(before.History)+1)
	s, err := r.Send.Set(ctx, r.Actor, set)
	require.NoError(t, err)
	assert.Equal(t, "Mistake", s.Members[1].Name, "in its old place")
	assert.Equal(t, keep.NotFound, kindOf(r.Ledger.Unremove(ctx, r.Actor, ids[1])), "once only")
}

func TestAColorThatSomebodyHoldsCanOnlyBeRetired(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Fixed #112233", "Next #223344", "Gradient #334455", "Seen #E2572B", "Ground #FFFFFF", "Old #445566", "Text #000000")
	set, err := r.Send.CreateSet(ctx, r.Actor, send.Content{Name: "Core", Colors: ids[:1]})
	require.NoError(t, err)
	require.NoError(t, r.Send.Fix(ctx, r.Actor, set, ""))
	r.change(ids[5], ledger.Change{Status: ptr("retired"), Successor: &ids[1]})
	r.change(ids[6], ledger.Change{Ground: &ids[4]})
	require.NoError(t, r.Ledger.PutGradient(ctx, r.Actor, library.Gradient{Name: "Dusk", Space: "oklab", Stops: []library.Stop{{Color: library.Ref{ID: ids[2]}}, {Color: library.Ref{ID: ids[2]}, Place: 100}}}))
	_, err = r.judge(r.Actor, "poster.css", []byte("a{color:#E2572B}"))
	require.NoError(t, err)
	for id, who := range map[int64]string{ids[0]: "edition 1 of Core", ids[1]: "of Old", ids[2]: "gradient Dusk", ids[3]: "poster.css", ids[4]: "of Text"} {
		err := r.Ledger.Remove(ctx, r.Actor, id, mustSheet(t, r, id).Row.Version)
		var said *keep.Error
		require.ErrorAs(t, err, &said, who)
		assert.Equal(t, keep.CodeHeld, said.Code)
		assert.Contains(t, said.Message, who)
		assert.Contains(t, said.Message, "can be retired")
	}
}

// Whatever points to a draft, or names one, tells a reader nothing of it.
func TestDraftsDoNotReachReaders(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Old #112233", "Text #000000", "Plain #E2572B")
	draft := r.admit(r.contributor, "Secret Plum #7A4E7E")[0]
	for what, c := range map[string]ledger.Change{"successor": {Version: 1, Status: ptr("retired"), Successor: &draft}, "ground": {Version: 1, Ground: &draft}} {
		assert.Equal(t, keep.Invalid, kindOf(r.Ledger.ChangeColor(ctx, r.Actor, ids[0], c)), what)
	}
	// Approved, pointed to, and only then to be made a draft again: that is refused.
	r.change(draft, ledger.Change{Status: ptr("approved")})
	r.change(ids[0], ledger.Change{Status: ptr("retired"), Successor: &draft})
	r.change(ids[1], ledger.Change{Ground: &draft, Ratio: ptr(2.0)})
	err := r.Ledger.ChangeColor(ctx, r.Actor, draft, ledger.Change{Version: mustSheet(t, r, draft).Row.Version, Status: ptr("draft")})
	assert.ErrorContains(t, err, "Old, Text")
	// A database of before may hold it all the same.
	_, err = r.judge(r.Actor, "a.css", []byte("a{color:#112233}"))
	require.NoError(t, err)
	require.NoError(t, r.Base.DB.In(ctx, func(tx *store.DB) error {
		c, err := tx.ColorToChange(1, draft)
		require.NoError(t, err)
		c.Status = library.Draft
		return tx.SaveColor(1, c)
	}))
	var told strings.Builder
	_, rows, err := r.Ledger.Ledger(ctx, r.reader)
	require.NoError(t, err)
	fmt.Fprintf(&told, "%+v", rows)
	for _, id := range ids {
		s, err := r.Ledger.Sheet(ctx, r.reader, id)
		require.NoError(t, err)
		assert.Nil(t, s.Row.Next)
		assert.Nil(t, s.On)
		fmt.Fprintf(&told, "%+v", s)
	}
	lib, err := r.Backup.Export(ctx, r.reader)
	require.NoError(t, err)
	text, err := swatchfile.WriteLibrary(lib)
	require.NoError(t, err)
	told.Write(text)
	audits, _, err := r.Audits.List(ctx, r.reader, 0)
	require.NoError(t, err)
	a, err := r.Audits.Audit(ctx, r.reader, audits[0].ID, 0)
	require.NoError(t, err)
	assert.Empty(t, a.Colors[0].Nearest.Successor)
	sets, err := r.Send.Sets(ctx, r.reader)
	require.NoError(t, err)
	fmt.Fprintf(&told, "%+v", sets)
	assert.NotContains(t, told.String(), "Secret Plum")
	assert.Contains(t, told.String(), "a proposed color", "the history says that there was something")
}

func TestHouseNamesAreUnique(t *testing.T) {
	r := newRoom(t)
	require.NoError(t, r.People.AddMember(ctx, "n@x.example", "Nia", "a long password", "  HOUSE ", keep.RoleReader))
	houses, err := r.Base.DB.Memberships(4)
	require.NoError(t, err)
	require.Len(t, houses, 1)
	assert.Equal(t, int64(1), houses[0].ID, "the same house, not a second one of that name")
	assert.ErrorIs(t, r.Base.DB.Add(&store.House{Name: "House", NameKey: store.NameKey("House"), CreatedAt: time.Now()}), store.ErrDuplicate)
}

// Fixing and deleting at the same moment: an edition that was fixed is there when the set comes back.
func TestASetDeletedWhileItIsFixedTakesNoEditionAlong(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "A #112233")
	for i := range 8 {
		set, err := r.Send.CreateSet(ctx, r.Actor, send.Content{Name: fmt.Sprintf("Set %d", i), Colors: ids})
		require.NoError(t, err)
		var fixed, deleted error
		var both sync.WaitGroup
		both.Go(func() { fixed = r.Send.Fix(ctx, r.Actor, set, "") })
		both.Go(func() { deleted = r.Send.DeleteSet(ctx, r.Actor, set) })
		both.Wait()
		require.NoError(t, deleted)
		_, missing := r.Send.Set(ctx, r.Actor, set)
		assert.Equal(t, keep.NotFound, kindOf(missing))
		require.NoError(t, r.Send.RestoreSet(ctx, r.Actor, set))
		s, err := r.Send.Set(ctx, r.Actor, set)
		require.NoError(t, err)
		if fixed == nil {
			assert.Len(t, s.Editions, 1)
		} else {
			assert.Equal(t, keep.NotFound, kindOf(fixed))
			assert.Empty(t, s.Editions)
		}
	}
}

// A name and a value that two people give a candidate at once are both kept.
func TestACandidateIsChangedByParts(t *testing.T) {
	r := newRoom(t)
	_, err := r.Gathering.AddToTray(ctx, r.Actor, "A #112233")
	require.NoError(t, err)
	tray, err := r.Gathering.Tray(ctx, r.Actor)
	require.NoError(t, err)
	id := tray[0].ID
	var both sync.WaitGroup
	for range 10 {
		both.Go(func() {
			assert.NoError(t, r.Gathering.ChangeCandidate(ctx, r.Actor, id, gathering.CandidateChange{Name: ptr("Named")}))
		})
		both.Go(func() {
			assert.NoError(t, r.Gathering.ChangeCandidate(ctx, r.Actor, id, gathering.CandidateChange{Value: ptr("#445566")}))
		})
	}
	both.Go(func() { assert.NoError(t, r.Gathering.OrderTray(ctx, r.Actor, []int64{id})) })
	both.Wait()
	tray, err = r.Gathering.Tray(ctx, r.Actor)
	require.NoError(t, err)
	assert.Equal(t, "Named #445566", tray[0].Name+" "+tray[0].RGB.Hex())
}

func TestHistoryBeyondAPageIsThere(t *testing.T) {
	r := newRoom(t)
	id := r.admit(r.Actor, "A #112233")[0]
	var many []library.Event
	for i := range 650 {
		many = append(many, library.Event{At: r.Base.Now(), By: r.Actor.Person(), What: fmt.Sprintf("event %d", i)})
	}
	require.NoError(t, r.Base.DB.AddEvents(map[int64][]library.Event{id: many}, []int64{id}))
	s := mustSheet(t, r, id)
	require.True(t, s.Older)
	got := s.History
	for more := s.Older; more; {
		var page []library.Event
		var err error
		page, more, err = r.Ledger.History(ctx, r.reader, id, got[len(got)-1].ID)
		require.NoError(t, err)
		got = append(got, page...)
	}
	assert.Len(t, got, 651)
	assert.Contains(t, got[650].What, "admitted")
	assert.Equal(t, int64(1), got[0].By.Account, "who did it is an account")
}

// seen is everything that a reader of a house can see.
func seen(t *testing.T, r *room) map[string]any {
	out := map[string]any{}
	groups, rows, err := r.Ledger.Ledger(ctx, r.reader)
	require.NoError(t, err)
	out["groups"] = groups
	for i := range rows {
		rows[i].Version = 0
		for k := range rows[i].Builds {
			rows[i].Builds[k].By.Account = 0
		}
		for k := range rows[i].Spots {
			rows[i].Spots[k].By.Account = 0
		}
		if rows[i].Next != nil {
			rows[i].Next = nil // it is among the rows
		}
		s, err := r.Ledger.Sheet(ctx, r.reader, rows[i].ID)
		require.NoError(t, err)
		var history []string
		for _, e := range s.History {
			if !strings.HasPrefix(e.What, "restored as") {
				history = append(history, fmt.Sprint(e.At, e.By.Name, e.What, e.Before, e.After))
			}
		}
		out["history of "+rows[i].Name] = history
		out["around "+rows[i].Name] = []any{s.Family, s.Ratio, s.Passes, s.Sets, s.Holders, s.Presses, s.Spots}
	}
	out["rows"] = rows
	sets, err := r.Send.Sets(ctx, r.reader)
	require.NoError(t, err)
	for i := range sets {
		sets[i].Version = 0
		for k := range sets[i].Members {
			sets[i].Members[k].Version = 0
			for n := range sets[i].Members[k].Builds {
				sets[i].Members[k].Builds[n].By.Account = 0
			}
			for n := range sets[i].Members[k].Spots {
				sets[i].Members[k].Spots[n].By.Account = 0
			}
		}
		for _, l := range sets[i].Editions {
			e, err := r.Send.Edition(ctx, r.reader, sets[i].ID, l.Number)
			require.NoError(t, err)
			e.By.Account = 0
			out[fmt.Sprint("edition ", sets[i].Name, l.Number)] = e
		}
	}
	out["sets"] = sets
	gradients, err := r.Ledger.Gradients(ctx, r.reader)
	require.NoError(t, err)
	for i := range gradients {
		for k := range gradients[i].Colors {
			gradients[i].Colors[k] = library.Color{ID: gradients[i].Colors[k].ID, RGB: gradients[i].Colors[k].RGB}
		}
	}
	out["gradients"] = gradients
	recipients, err := r.Send.Recipients(ctx, r.reader)
	require.NoError(t, err)
	out["recipients"] = recipients
	pairs, err := r.Ledger.Pairs(ctx, r.reader)
	require.NoError(t, err)
	var says []string
	for _, p := range pairs {
		says = append(says, fmt.Sprint(p.Of.ID, p.Of.Name, p, p.On.ID, p.Pair.Ratio, p.Holds, p.By.Name, p.At))
	}
	out["pairs"] = says
	starters, err := r.Gathering.Starters(ctx, r.reader, gathering.StarterQuery{Words: "pier"})
	require.NoError(t, err)
	out["starters"] = starters
	return out
}

// A house that is exported, destroyed and restored is to the reader what it was: numbers, so that links live, times to the
// millisecond, dates, editions and who holds them.
func TestARestoreGivesBackExactlyWhatWasSaved(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Deep Sound #0E3A53 96/50/20/64", "Buoy #E2572B QN-0076", "Old Funnel #D9482B", "Fog #C9D1D3")
	r.change(ids[2], ledger.Change{Status: ptr("retired"), Successor: &ids[1], Group: ptr("Signals")})
	r.change(ids[1], ledger.Change{Group: ptr("Signals"), Ground: &ids[0], Ratio: ptr(3.0), Aliases: &[]string{"Call red"}, Tags: &[]string{"print"}})
	r.change(ids[3], ledger.Change{Lab: ptr("83.1 -1.2 -2.4"), Role: ptr("neutral")})
	require.NoError(t, r.Ledger.PutFamily(ctx, r.Actor, ids[0], 1, []library.Companion{{Kind: "tint", Amount: 40, Permitted: true},
		{Kind: "sheer", Amount: 40, Permitted: true, Ground: library.Ref{ID: ids[3]}}, {Kind: "sheer", Amount: 40}, {Kind: "sheer", Amount: 40, Ground: library.Ref{ID: ids[1]}}}))
	require.NoError(t, r.Ledger.PlaceColor(ctx, r.Actor, ids[3], ids[0]))
	require.NoError(t, r.Ledger.PutGradient(ctx, r.Actor, library.Gradient{Name: "Dusk", Space: "oklab", Stops: []library.Stop{{Color: library.Ref{ID: ids[0]}}, {Color: library.Ref{ID: ids[3]}, Place: 100}}}))
	require.NoError(t, r.Ledger.PutPair(ctx, r.Actor, ids[3], ids[0], true, ptr(3.0)))
	require.NoError(t, r.Ledger.PutPair(ctx, r.Actor, ids[1], ids[0], false, nil))
	to, _, err := r.Send.AddRecipient(ctx, r.Actor, send.NewRecipient{Name: "Site", Kind: "web", Note: "a note", Packings: []string{"css"}, Ways: []send.Way{send.Application}})
	require.NoError(t, err)
	set, err := r.Send.CreateSet(ctx, r.Actor, send.Content{Name: "Core", Colors: []int64{ids[1], ids[0], ids[3]}})
	require.NoError(t, err)
	require.NoError(t, r.Send.Fix(ctx, r.Actor, set, ""))
	require.NoError(t, r.Send.Send(ctx, r.Actor, set, 1, []int64{to.ID}))
	r.change(ids[1], ledger.Change{Value: ptr("#E1572C")})
	_, err = r.Gathering.AddStarter(ctx, r.Actor, "Pier", "wood", []string{"#112233", "#445566"}, false)
	require.NoError(t, err)
	before := seen(t, r)
	lib, err := r.Backup.Export(ctx, r.Actor)
	require.NoError(t, err)
	data, err := swatchfile.WriteLibrary(lib)
	require.NoError(t, err)

	// Somebody destroys it: most is removed, the rest is another.
	require.NoError(t, r.Base.DB.In(ctx, func(tx *store.DB) error { return tx.EmptyHouse(1) }))
	r.admit(r.Actor, "Rubble #000001", "Buoy #000002")
	done, err := r.Backup.Restore(ctx, r.Actor, data, true)
	require.NoError(t, err)
	assert.Equal(t, 4, done.Added)
	after := seen(t, r)
	for what, want := range before {
		assert.Equal(t, want, after[what], what)
	}
	assert.Len(t, after, len(before))

	// What came with the file says so, and the restore is an event.
	s := mustSheet(t, r, ids[1])
	assert.Contains(t, s.History[0].What, "restored as #E1572C from a backup of House")
	assert.Equal(t, int64(1), s.History[0].By.Account)
	assert.Equal(t, "a backup of House", s.History[1].From)
	assert.Zero(t, s.History[1].By.Account, "a name in a file is no account")
	// A color that is brought back after it has its successor again, by name.
	require.NoError(t, r.Ledger.BringBack(ctx, r.Actor, ids[1], s.Row.Version, s.History[len(s.History)-2].ID))
}

// A name that is forged in a backup does not pass as something that happened here.
func TestForgedHistoryIsMarked(t *testing.T) {
	r := newRoom(t)
	r.admit(r.Actor, "A #112233")
	lib, err := r.Backup.Export(ctx, r.Actor)
	require.NoError(t, err)
	lib.Colors[0].History[0].By = library.Person{Account: 2, Name: "Cleo"}
	lib.Colors[0].History[0].What = "approved by Cleo herself"
	data, err := swatchfile.WriteLibrary(lib)
	require.NoError(t, err)
	_, err = r.Backup.Restore(ctx, r.Actor, data, true)
	require.NoError(t, err)
	_, rows, err := r.Ledger.Ledger(ctx, r.reader)
	require.NoError(t, err)
	h := mustSheet(t, r, rows[0].ID).History
	assert.Equal(t, library.Person{Name: "Cleo"}, h[1].By)
	assert.Equal(t, "a backup of House", h[1].From)
	assert.Equal(t, "Kim", h[0].By.Name)
	// Exported and restored again, it is still marked with where it came from first.
	lib, err = r.Backup.Export(ctx, r.Actor)
	require.NoError(t, err)
	assert.Equal(t, "a backup of House", lib.Colors[0].History[0].From)
}

func TestABackupOfTheVersionBeforeIsRestored(t *testing.T) {
	r := newRoom(t)
	data, err := os.ReadFile("../../core/swatchfile/testdata/backup.v1.json")
	require.NoError(t, err)
	done, err := r.Backup.Restore(ctx, r.Actor, data, true)
	require.NoError(t, err)
	assert.Equal(t, 10, done.Added)
	_, rows, err := r.Ledger.Ledger(ctx, r.reader)
	require.NoError(t, err)
	byName := map[string]ledger.Row{}
	for _, row := range rows {
		byName[row.Name] = row
	}
	assert.Equal(t, "Buoy", byName["Old Funnel"].Next.Name)
	assert.Equal(t, "Hull White", byName["Heather Cliff"].Ground.Name)
	sets, err := r.Send.Sets(ctx, r.reader)
	require.NoError(t, err)
	assert.Equal(t, "Core", sets[0].Name)
	require.Len(t, sets[0].Editions, 2)
	s := mustSheet(t, r, byName["Deep Sound"].ID)
	require.NotEmpty(t, s.Holders)
	assert.Equal(t, color.RGB8{R: 0x0E, G: 0x3A, B: 0x53}, s.Holders[0].Hex, "an edition knows which color of today each of its own is")
}

// An edition holds what any later packing needs, whatever becomes of presses, inks and colors.
func TestAnEditionHoldsAllThatItWasMadeFrom(t *testing.T) {
	r := newRoom(t)
	profile, err := os.ReadFile("../../core/press/profiles/uncoated.icc")
	require.NoError(t, err)
	require.NoError(t, r.Media.AddPress(ctx, r.Actor, "Harbor print shop", 270, profile))
	ids := r.admit(r.Actor, "Deep Sound #0E3A53 96/50/20/64", "Fog #C9D1D3", "Other #112233")
	for i, to := range [][2]int64{{ids[0], ids[1]}, {ids[0], ids[2]}} {
		require.NoError(t, r.Ledger.PutGradient(ctx, r.Actor, library.Gradient{Name: fmt.Sprint("G", i), Space: "oklab", Stops: []library.Stop{{Color: library.Ref{ID: to[0]}}, {Color: library.Ref{ID: to[1]}, Place: 100}}}))
	}
	set, err := r.Send.CreateSet(ctx, r.Actor, send.Content{Name: "Core", Colors: ids[:2]})
	require.NoError(t, err)
	require.NoError(t, r.Send.Fix(ctx, r.Actor, set, ""))
	e, err := r.Send.Edition(ctx, r.reader, set, 1)
	require.NoError(t, err)
	var presses []string
	for _, b := range e.Colors[0].Builds {
		presses = append(presses, b.Press+" "+string(b.Origin))
	}
	assert.Equal(t, []string{"coated approved", "harbor-print-shop derived", "newsprint derived", "uncoated derived"}, presses)
	require.Len(t, e.Profiles, 4)
	for _, p := range e.Profiles {
		assert.Len(t, p.SHA256, 64)
		assert.NotEmpty(t, p.Name)
	}
	require.Len(t, e.Colors[1].Spots, 2)
	assert.Equal(t, []any{"Quern", library.Derived}, []any{e.Colors[1].Spots[0].Book, e.Colors[1].Spots[0].Origin})
	assert.NotNil(t, e.Colors[1].Spots[0].Lab)
	require.Len(t, e.Gradients, 1, "those between its own colors")
	assert.Equal(t, "G0", e.Gradients[0].Name)
	s, err := r.Send.Set(ctx, r.reader, set)
	require.NoError(t, err)
	assert.Empty(t, s.Changes, "what is derived is no change")
	assert.Equal(t, int64(1), e.By.Account)
}

func TestLinksShowOneThingToWhoHasThem(t *testing.T) {
	r := newRoom(t)
	now := r.Base.Now()
	r.Base.Now = func() time.Time { return now }
	in := func(d time.Duration) *time.Time { at := now.Add(d); return &at }
	token, l, err := r.Links.Open(ctx, r.Actor, keep.BoardLink, 7, in(time.Hour), "")
	require.NoError(t, err)
	a, err := r.Links.Follow(ctx, token, keep.BoardLink)
	require.NoError(t, err)
	assert.Equal(t, int64(7), a.Link.Thing)
	assert.Equal(t, "House", a.House.Name)
	assert.Equal(t, keep.Forbidden, kindOf(a.May(keep.RoleReader)), "a link is no membership")
	assert.False(t, a.Sees(library.Color{Status: library.Draft}))
	rows, err := r.Base.DB.Links(1, "board", 7)
	require.NoError(t, err)
	assert.NotContains(t, rows[0].TokenHash, token, "the token itself is not stored")

	follow := func(kind keep.LinkKind, token string) keep.Kind {
		_, err := r.Links.Follow(ctx, token, kind)
		return kindOf(err)
	}
	assert.Equal(t, keep.NotFound, follow(keep.BoardLink, token+"x"), "a wrong token")
	assert.Equal(t, keep.NotFound, follow(keep.PickupLink, token), "another kind")
	now = now.Add(2 * time.Hour)
	assert.Equal(t, keep.NotFound, follow(keep.BoardLink, token), "it is over")
	now = now.Add(-2 * time.Hour)
	assert.Equal(t, keep.NotFound, kindOf(r.Links.Close(ctx, keep.Actor{House: keep.House{ID: 2}, Role: keep.RoleKeeper}, l.ID)), "of another house")
	require.NoError(t, r.Links.Close(ctx, r.Actor, l.ID))
	assert.Equal(t, keep.NotFound, follow(keep.BoardLink, token), "it is closed")
	_, _, err = r.Links.Open(ctx, r.reader, keep.BoardLink, 7, nil, "")
	assert.Equal(t, keep.Forbidden, kindOf(err))
	_, _, err = r.Links.Open(ctx, r.Actor, "door", 7, nil, "")
	assert.Equal(t, keep.Invalid, kindOf(err))
	_, _, err = r.Links.Open(ctx, r.Actor, keep.BoardLink, 7, in(-time.Hour), "")
	assert.Equal(t, keep.Invalid, kindOf(err))
	list, err := r.Links.Of(ctx, r.Actor, keep.BoardLink, 7)
	require.NoError(t, err)
	assert.NotNil(t, list[0].Closed)
}

// A house at the limit says so in a sentence, and lists of numbers have theirs.
func TestWhereTheLimitsEnd(t *testing.T) {
	r := newRoom(t)
	_, err := r.Backup.Restore(ctx, r.Actor, largeLibrary(t, 20_000), true)
	require.NoError(t, err)
	_, err = r.Gathering.AddToTray(ctx, r.Actor, "One more #ABCDEF")
	require.NoError(t, err)
	tray, err := r.Gathering.Tray(ctx, r.Actor)
	require.NoError(t, err)
	_, err = r.Gathering.Admit(ctx, r.Actor, gathering.Admission{Items: []int64{tray[0].ID}})
	assert.ErrorContains(t, err, "The library would hold 20001 colors; at most 20000 fit.")
	_, err = r.Ledger.CopyColors(ctx, r.Actor, keep.Actor{Role: keep.RoleKeeper, House: keep.House{ID: 2}}, []int64{5, 5, 5}, false)
	assert.ErrorContains(t, err, "named twice")
	_, rows, err := r.Ledger.Ledger(ctx, r.Actor)
	require.NoError(t, err)
	var ids []int64
	for _, row := range rows {
		ids = append(ids, row.ID)
	}
	require.NoError(t, r.Ledger.ChangeMany(ctx, r.Actor, ledger.Bulk{Colors: ids, Role: ptr("accent"), Group: ptr("All")}), "all at once")
	_, err = r.Gathering.AddToTray(ctx, r.Actor, "Pasted #123456")
	assert.NoError(t, err)
	assert.ErrorContains(t, r.Gathering.PutOnTray(ctx, r.Actor, []gathering.NewCandidate{{Value: "#123456", Origin: "paste", Position: 2147483648}}), "place 2147483648")
}
